#!/usr/bin/env python3
"""The body's files checked without any of our code: plans drawn by ezdxf read in, DXF written audited by ezdxf, offsets against Shapely's
buffer and set operations, SVG's millimetres (W3C SVG 1.1), templates by poppler (ISO 32000-1, ISO 216, ANSI Y14.1), STL by the divergence theorem."""
import json
import math
import pathlib
import re
import struct
import subprocess
import sys
import tempfile
import unittest

import ezdxf
from shapely.geometry import Polygon

WREN = sys.argv.pop(1)


def call(*args):
    return subprocess.run([WREN, *map(str, args)], capture_output=True, text=True, timeout=300)


def run(*args):
    done = call(*args)
    assert done.returncode == 0, done.stderr
    return done.stdout


def circle_points(cx, cy, r, n):
    return [(cx + r * math.cos(2 * math.pi * k / n), cy + r * math.sin(2 * math.pi * k / n)) for k in range(n)]


def contour_points(entity, fine=0.003):
    """Points of an R12 polyline with bulges."""
    vertices = [(v.dxf.location.x, v.dxf.location.y, v.dxf.get("bulge", 0)) for v in entity.vertices]
    out = []
    for i, (x, y, bulge) in enumerate(vertices):
        nx, ny, _ = vertices[(i + 1) % len(vertices)]
        out.append((x, y))
        if not bulge:
            continue
        sweep = 4 * math.atan(bulge)
        chord = math.hypot(nx - x, ny - y)
        if chord < 1e-9:
            continue
        r = chord / 2 / math.sin(abs(sweep) / 2)
        h = chord / 2 / math.tan(sweep / 2)
        mx, my = (x + nx) / 2, (y + ny) / 2
        cx, cy = mx - (ny - y) / chord * h, my + (nx - x) / chord * h
        a0 = math.atan2(y - cy, x - cx)
        n = max(2, int(abs(sweep) / (2 * math.acos(max(0.0, 1 - fine / r)))) + 1) if r > fine else 2
        out.extend((cx + r * math.cos(a0 + sweep * k / n), cy + r * math.sin(a0 + sweep * k / n)) for k in range(1, n))
    return out


class BodyFiles(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        cls.dir = pathlib.Path(cls.folder.name)
        cls.file = cls.dir / "b.wren"
        run("new", cls.file, "--from", "reedling")

    def read_plan(self, path):
        return json.loads(run("plan", self.file, path, "--json"))

    def test_circles_of_thirty_segments_and_blocks_in_inches(self):
        doc = ezdxf.new("R2000")
        doc.header["$INSUNITS"] = 1  # inch
        block = doc.blocks.new("ring")
        for a, b in zip(circle_points(0, 0, 1, 30), circle_points(0, 0, 1, 30)[1:] + circle_points(0, 0, 1, 30)[:1]):
            block.add_line(a, b)
        outer = doc.blocks.new("pair")
        outer.add_blockref("ring", (2, 0))
        outer.add_blockref("ring", (-2, 0), dxfattribs={"xscale": 0.5, "yscale": 0.5})
        doc.modelspace().add_blockref("pair", (10, 5), dxfattribs={"rotation": 90})
        path = self.dir / "blocks.dxf"
        doc.saveas(path)
        plan = self.read_plan(path)
        self.assertTrue(plan["unit_known"])
        circles = sorted((c["circle"]["radius"], c["circle"]["centre"]) for c in plan["closed"] if "circle" in c)
        self.assertEqual(len(circles), 2)
        for (radius, centre), (r, c) in zip(circles, [(12.7, (254, 127 - 50.8)), (25.4, (254, 127 + 50.8))]):
            self.assertAlmostEqual(radius, r, delta=0.01)
            self.assertAlmostEqual(centre[0], c[0], delta=0.01)
            self.assertAlmostEqual(centre[1], c[1], delta=0.01)

    def test_ellipse_comes_back_within_the_tolerance(self):
        doc = ezdxf.new("R2000")
        doc.header["$INSUNITS"] = 4
        points = [(200 * math.cos(2 * math.pi * k / 720), 150 * math.sin(2 * math.pi * k / 720)) for k in range(720)]
        doc.modelspace().add_lwpolyline(points, close=True)
        path = self.dir / "ellipse.dxf"
        doc.saveas(path)
        plan = self.read_plan(path)
        self.assertLessEqual(plan["worst_mm"], 0.0201)
        self.assertLess(plan["closed"][0]["nodes"], 20)

    def test_bulges_splines_and_missing_units(self):
        doc = ezdxf.new("R2000")
        doc.header["$INSUNITS"] = 0
        doc.modelspace().add_lwpolyline([(0, 0, 0, 0, 0), (80, 0, 0, 0, 0.5), (80, 40, 0, 0, 0), (0, 40, 0, 0, 0.5)], close=True)
        doc.modelspace().add_spline(fit_points=None).control_points = [(0, 0, 0), (10, 20, 0), (30, 20, 0), (40, 0, 0)]
        path = self.dir / "mixed.dxf"
        doc.saveas(path)
        plan = self.read_plan(path)
        self.assertFalse(plan["unit_known"])
        self.assertEqual(len([c for c in plan["closed"] if c["arcs"] == 2 and c["lines"] == 2]), 1)

    def test_fifty_thousand_points_and_broken_files(self):
        n = 50_000
        d = "M" + "L".join("%.5f %.5f" % ((300 + 20 * math.sin(5 * a)) * math.cos(a) / 2, (300 + 20 * math.sin(5 * a)) * math.sin(a) / 2) for a in (2 * math.pi * k / n for k in range(n))) + "Z"
        svg = self.dir / "big.svg"
        svg.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="500mm" height="500mm" viewBox="-250 -250 500 500"><path d="%s"/></svg>' % d)
        plan = self.read_plan(svg)
        self.assertEqual(plan["segments"], n)
        self.assertLess(plan["closed"][0]["nodes"], 200)
        whole = svg.read_bytes()
        for cut in (0, 10, 200, len(whole) // 2, len(whole) - 3):
            bad = self.dir / "cut.svg"
            bad.write_bytes(whole[:cut])
            done = call("plan", self.file, bad)
            self.assertIn(done.returncode, (0, 3), done.stderr)
            self.assertTrue(done.returncode == 0 or "wren:" in done.stderr)
        for name, data in (("no.pdf", b"%PDF-1.7\nnothing"), ("empty.pdf", b""), ("zip.pdf", b"PK\x03\x04" * 50), ("bomb.dxf", b"0\nSECTION\n2\nENTITIES\n" + b"0\nLINE\n" * 2000), ("loop.dxf", self.loop())):
            bad = self.dir / name
            bad.write_bytes(data)
            done = call("plan", self.file, bad)
            self.assertEqual(done.returncode, 3, name + done.stdout)
            self.assertIn("wren:", done.stderr)

    @staticmethod
    def loop():
        return "\n".join(["0", "SECTION", "2", "BLOCKS", "0", "BLOCK", "2", "A", "70", "0", "10", "0", "20", "0", "0", "INSERT", "2", "A", "10", "1", "20", "0", "0", "ENDBLK", "0", "ENDSEC", "0", "SECTION", "2", "ENTITIES", "0", "INSERT", "2", "A", "10", "0", "20", "0", "0", "ENDSEC", "0", "EOF", ""]).encode()

    def test_dxf_out_and_offsets_against_shapely(self):
        plain = self.dir / "plain.dxf"
        grown = self.dir / "grown.dxf"
        run("export", "--part", "body", self.file, "--out", plain)
        run("export", "--part", "body", self.file, "--out", grown, "--router", "12.7", "--follower", "25.4")
        rings = {}
        for name, path in (("plain", plain), ("grown", grown)):
            doc = ezdxf.readfile(path)
            self.assertEqual(len(doc.audit().errors), 0)
            self.assertEqual(doc.header["$INSUNITS"], 4)
            rings[name] = {e.dxf.layer: Polygon(contour_points(e)) for e in doc.modelspace().query("POLYLINE")}
        self.assertIn("OUTLINE", rings["plain"])
        self.assertIn("COVER", rings["plain"])
        # A bush of 25.4 about a cutter of 12.7: outside templates smaller, inside ones larger, by 6.35.
        for layer, way in (("OUTLINE", -6.35), ("POCKET", 6.35), ("CONTROL", 6.35), ("PICKUP_NECK", 6.35), ("COVER", -6.35)):
            want = rings["plain"][layer].buffer(way, resolution=256)
            got = rings["grown"][layer]
            self.assertLess(want.symmetric_difference(got).area, 0.02 * want.length, layer)
            self.assertLess(want.hausdorff_distance(got), 0.08, layer)
        # The cover is its ledge less the clearance (0.25 and 0.1 for finish), by set operations.
        ledge = rings["plain"]["LEDGE"]
        cover = rings["plain"]["COVER"]
        self.assertTrue(ledge.contains(cover))
        self.assertAlmostEqual(ledge.exterior.distance(cover.exterior), 0.35, delta=0.01)
        self.assertLess(cover.symmetric_difference(ledge.buffer(-0.35, resolution=256)).area, 1.0)
        for layer in ("CHAMBER_BASS_1", "CONTROL", "PICKUP_NECK"):
            self.assertLess(rings["plain"][layer].difference(rings["plain"]["OUTLINE"]).area, 1e-6)

    def test_plan_goes_round_trip_as_an_outline(self):
        plain = self.dir / "round.dxf"
        run("export", "--part", "body", self.file, "--out", plain)
        outline = Polygon(next(contour_points(e) for e in ezdxf.readfile(plain).modelspace().query("POLYLINE") if e.dxf.layer == "OUTLINE"))
        # Chopped into short segments at another scale, turned upright, in a drawing of its own.
        doc = ezdxf.new("R2000")
        doc.header["$INSUNITS"] = 4
        points = [outline.exterior.interpolate(k / 900, normalized=True) for k in range(900)]
        doc.modelspace().add_lwpolyline([(-p.y * 0.4, p.x * 0.4) for p in points], close=True)
        source = self.dir / "chopped.dxf"
        doc.saveas(source)
        again = self.dir / "again.wren"
        run("new", again, "--from", "reedling")
        minx, _, maxx, _ = outline.bounds
        run("plan", again, source, "--take", "--known-length", "%.4f mm" % (maxx - minx))
        back = self.dir / "back.dxf"
        run("export", "--part", "body", again, "--out", back)
        got = Polygon(next(contour_points(e) for e in ezdxf.readfile(back).modelspace().query("POLYLINE") if e.dxf.layer == "OUTLINE"))
        self.assertLess(got.symmetric_difference(outline).area, 0.25 * outline.length)
        self.assertAlmostEqual(got.area, outline.area, delta=0.001 * outline.area)

    def test_svg_is_in_millimetres(self):
        path = self.dir / "out.svg"
        run("export", "--part", "body", self.file, "--out", path)
        plan = self.read_plan(path)
        self.assertTrue(plan["unit_known"])
        size = plan["closed"][0]["size_mm"]
        length = float(run("get", self.file, "body.length").split("=")[1].split()[0])
        width = float(run("get", self.file, "body.width").split("=")[1].split()[0])
        self.assertAlmostEqual(size[0], length, delta=0.02)
        self.assertAlmostEqual(size[1], width, delta=0.02)

    def test_templates_are_full_size(self):
        for paper, (w, h) in (("a4", (210, 297)), ("a3", (297, 420)), ("letter", (215.9, 279.4))):
            pdf = self.dir / (paper + ".pdf")
            env = subprocess.run(["xvfb-run", "-a", WREN, "export", "--part", "body", self.file, "--out", pdf, "--paper", paper], capture_output=True, text=True, timeout=300)
            self.assertEqual(env.returncode, 0, env.stderr)
            info = subprocess.run(["pdfinfo", pdf], capture_output=True, text=True, check=True).stdout
            size = re.search(r"Page size:\s+([\d.]+) x ([\d.]+)", info)
            self.assertAlmostEqual(float(size[1]) * 25.4 / 72, w, delta=0.3)
            self.assertAlmostEqual(float(size[2]) * 25.4 / 72, h, delta=0.3)
            svg = subprocess.run(["pdftocairo", "-svg", "-f", "1", "-l", "1", pdf, "-"], capture_output=True, text=True, check=True).stdout
            # The bar: a straight stroke of 100 mm after the page's own transform.
            found = False
            for d, transform in re.findall(r'<path[^>]*d="M ([-\d. ]+ L [-\d. ]+)"[^>]*transform="matrix\(([^)]*)\)"', svg):
                x0, y0, x1, y1 = map(float, d.replace("L", " ").split()[:4])
                a, b, c, e, _, _ = map(float, transform.split(","))
                run_mm = math.hypot(a * (x1 - x0) + c * (y1 - y0), b * (x1 - x0) + e * (y1 - y0)) * 25.4 / 72
                found = found or abs(run_mm - 100) < 0.05
            self.assertTrue(found, paper)
        # The printed outline measures what it is: the PDF read back as a plan.
        pages = json.loads(run("plan", self.file, self.dir / "a3.pdf", "--json"))
        self.assertGreater(pages["pages"], 3)

    def test_scanned_page_is_told(self):
        # A PDF with nothing but a picture.
        image = b"\x80" * (40 * 40)
        objects = [b"<</Type/Catalog/Pages 2 0 R>>", b"<</Type/Pages/Kids[3 0 R]/Count 1>>", b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 400 400]/Contents 5 0 R/Resources<</XObject<</I 4 0 R>>>>>>",
                   b"<</Type/XObject/Subtype/Image/Width 40/Height 40/ColorSpace/DeviceGray/BitsPerComponent 8/Length %d>>\nstream\n" % len(image) + image + b"\nendstream", b"<</Length 30>>\nstream\nq 400 0 0 400 0 0 cm /I Do Q  \nendstream"]
        out = b"%PDF-1.4\n"
        places = []
        for k, o in enumerate(objects):
            places.append(len(out))
            out += b"%d 0 obj\n" % (k + 1) + o + b"\nendobj\n"
        xref = len(out)
        out += b"xref\n0 %d\n0000000000 65535 f \n" % (len(objects) + 1) + b"".join(b"%010d 00000 n \n" % p for p in places) + b"trailer<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n" % (len(objects) + 1, xref)
        path = self.dir / "scan.pdf"
        path.write_bytes(out)
        done = call("plan", self.file, path)
        self.assertEqual(done.returncode, 3)
        self.assertIn("scanned picture", done.stderr)
        self.assertIn("backdrop", done.stderr)

    def test_stl_volume(self):
        # Without chambers and channels, which are inside, mesh and wood are one.
        file = self.dir / "solid.wren"
        run("new", file, "--from", "reedling")
        run("set", file, "chamber.sides=none", "wire.width=0", "body.layers=body cherry 44")
        path = self.dir / "b.stl"
        run("export", "--part", "body", file, "--out", path)
        data = path.read_bytes()
        count = struct.unpack_from("<I", data, 80)[0]
        self.assertEqual(len(data), 84 + 50 * count)
        volume = 0.0
        for k in range(count):
            t = struct.unpack_from("<12f", data, 84 + 50 * k)
            (ax, ay, az), (bx, by, bz), (cx, cy, cz) = t[3:6], t[6:9], t[9:12]
            volume += (ax * (by * cz - bz * cy) - ay * (bx * cz - bz * cx) + az * (bx * cy - by * cx)) / 6
        grams = float(run("get", file, "body.weight").split("=")[1].split()[0])
        self.assertAlmostEqual(volume * 560e-6, grams, delta=0.004 * grams)


if __name__ == "__main__":
    unittest.main(argv=sys.argv[:1])

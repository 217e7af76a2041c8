#!/usr/bin/env python3
"""The neck's files checked without any of our code: STL by the divergence theorem, STEP by the solid-modelling library (ISO 10303-21), DXF by
ezdxf's audit, templates by poppler (ISO 32000-1, ISO 216), and the back's programs cut into a height map of our own in numpy-free Python."""
import hashlib
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

WREN = sys.argv.pop(1)
STEP = str(pathlib.Path(WREN).parent / "wren-step")


def run(*args):
    return subprocess.run([WREN, *map(str, args)], check=True, capture_output=True, text=True, timeout=300).stdout


def stl_triangles(path):
    data = path.read_bytes()
    assert not data.startswith(b"solid")
    count = struct.unpack_from("<I", data, 80)[0]
    assert len(data) == 84 + 50 * count
    for k in range(count):
        yield struct.unpack_from("<12f", data, 84 + 50 * k)


class Neck(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        cls.dir = pathlib.Path(cls.folder.name)
        cls.file = cls.dir / "n.wren"
        run("new", cls.file, "--from", "reedling")

    @classmethod
    def tearDownClass(cls):
        cls.folder.cleanup()

    def volume(self):
        # Weight at a known density gives the height fields' volume: g = mm³ · kg/m³ · 1e-6.
        lines = json.loads(run("get", self.file, "neck.weight", "--json"))
        return lines["neck.weight"]["value"] / 610 * 1e6

    def test_stl_is_closed_and_its_volume_is_that_of_the_height_fields(self):
        out = self.dir / "n.stl"
        run("export", self.file, "--out", out)
        six, edges = 0.0, {}
        for t in stl_triangles(out):
            a, b, c = t[3:6], t[6:9], t[9:12]
            six += a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) + a[2] * (b[0] * c[1] - b[1] * c[0])
            for p, q in ((a, b), (b, c), (c, a)):
                edges[(p, q)] = edges.get((p, q), 0) + 1
        self.assertTrue(all(edges.get((q, p), 0) == n for (p, q), n in edges.items()))
        self.assertAlmostEqual(six / 6 / self.volume(), 1, delta=0.001)

    def test_step_is_a_valid_closed_solid_of_the_same_volume(self):
        out = self.dir / "n.step"
        run("export", self.file, "--out", out)
        self.assertTrue(out.read_text(errors="replace").startswith("ISO-10303-21;"))
        told = json.loads(subprocess.run([STEP, "--check", str(out)], check=True, capture_output=True, text=True, timeout=120).stdout)
        self.assertTrue(told["valid"] and told["closed"])
        self.assertEqual(told["solids"], 1)
        self.assertAlmostEqual(told["volume_mm3"] / self.volume(), 1, delta=0.001)

    def test_dxf_of_sections_and_plan_passes_the_audit_and_has_the_neck_s_size(self):
        for what in ("sections", "plan"):
            out = self.dir / f"{what}.dxf"
            run("export", self.file, "--out", out, "--what", what)
            doc = ezdxf.readfile(out)
            self.assertFalse(doc.audit().has_errors)
        plan = ezdxf.readfile(self.dir / "plan.dxf").modelspace()
        xs = [v.dxf.location.x for p in plan.query("POLYLINE") if p.dxf.layer == "OUTLINE" for v in p.vertices]
        length = json.loads(run("get", self.file, "neck.length", "--json"))["neck.length"]["value"]
        self.assertAlmostEqual(max(xs) - min(xs), length, delta=0.01)
        self.assertEqual(len([c for c in plan.query("CIRCLE") if c.dxf.layer == "HOLES"]), 6)

    def test_templates_print_at_full_size(self):
        out = self.dir / "t.pdf"
        run("export", self.file, "--out", out)
        info = subprocess.run(["pdfinfo", out], check=True, capture_output=True, text=True).stdout
        w, h = (float(v) for v in re.search(r"Page size:\s+([\d.]+) x ([\d.]+)", info).groups())
        self.assertAlmostEqual(w, 297 * 72 / 25.4, delta=0.6)
        self.assertAlmostEqual(h, 210 * 72 / 25.4, delta=0.6)
        # The bar: as a picture at 254 dpi, 100 mm are 1000 pixels between its end ticks.
        subprocess.run(["pdftoppm", "-r", "254", "-f", "1", "-l", "1", "-gray", out, self.dir / "t"], check=True)
        data = next(self.dir.glob("t-*.pgm")).read_bytes()
        width, height = (int(v) for v in data.split(b"\n", 3)[1].split())
        pixels = data[-width * height:]
        best = 0
        for y in range(height // 2, height):
            row = pixels[y * width:(y + 1) * width]
            runs = re.findall(rb"[\x00-\x90]{900,1100}", row)
            best = max([best] + [len(r) for r in runs])
        self.assertAlmostEqual(best, 1000, delta=6)

    def test_the_back_s_programs_leave_the_designed_sections(self):
        """A check of the finishing pass alone, by the ball's own geometry: no tip comes closer to the surface than its radius."""
        folder = self.dir / "programs"
        run("programs", self.file, "--part", "neck", "--out", folder)
        folder = folder / "neck"
        manifest = json.loads((folder / "manifest.json").read_text())
        entry = next(p for p in manifest["programs"] if "finish" in p["file"])
        text = (folder / entry["file"]).read_text()
        self.assertEqual(hashlib.sha256(text.encode()).hexdigest(), entry["sha256"])
        m = entry["instrument_to_work"]
        det = sum(m[0][i] * (m[1][(i + 1) % 3] * m[2][(i + 2) % 3] - m[1][(i + 2) % 3] * m[2][(i + 1) % 3]) for i in range(3))
        self.assertAlmostEqual(det, 1, places=9)
        self.assertEqual([m[1][1], m[2][2]], [-1, -1])
        r = entry["cutter"]["diameter_mm"] / 2
        # Sections as the program wrote them for a gauge: x, y, depth.
        out = self.dir / "s.csv"
        run("export", self.file, "--out", out)
        sections = {}
        for line in out.read_text().splitlines()[1:]:
            x, y, d = (float(v) for v in line.split(","))
            sections.setdefault(x, []).append((y, d))
        shaft = [x for x in sections if 60 < x < 330]
        self.assertGreaterEqual(len(shaft), 3)
        at = {"X": 0.0, "Y": 0.0, "Z": 99.0}
        tips = {x: [] for x in shaft}
        for line in text.splitlines():
            words = re.findall(r"([XYZ])(-?[0-9.]+)", re.sub(r"\(.*?\)", "", line))
            if not words:
                continue
            before = dict(at)
            for w, v in words:
                at[w] = float(v)
            # Back to the instrument: the inverse of a rotation by half a turn and a shift.
            ax, bx = (before["X"] - m[0][3]) / m[0][0], (at["X"] - m[0][3]) / m[0][0]
            for x in shaft:
                if ax != bx and min(ax, bx) <= x <= max(ax, bx) and max(before["Z"], at["Z"]) < 0:
                    t = (x - ax) / (bx - ax)
                    y = -(before["Y"] + (at["Y"] - before["Y"]) * t - m[1][3])
                    z = before["Z"] + (at["Z"] - before["Z"]) * t
                    tips[x].append((y, -(z - m[2][3]) * -1))
        for x in shaft:
            self.assertGreater(len(tips[x]), 60)
            surface = sorted(sections[x])
            for y, z in tips[x]:
                depth_of_centre = z + r
                nearest = min(math.hypot(y - sy, depth_of_centre - sd) for sy, sd in surface if abs(sy - y) < r + 1)
                # Points stand up to 1 mm apart, so the nearest one is a little further off than the surface: never nearer.
                self.assertGreater(nearest, r - 0.02)


if __name__ == "__main__":
    unittest.main()

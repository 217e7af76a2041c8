#!/usr/bin/env python3
"""Drawings that were made to do harm, or by programs with other habits: each gives the right curves or a sentence, within
ten seconds and 1 GiB, and never more than that process is lost.

usage: hostile.py WREN"""
import json, math, os, pathlib, random, resource, shutil, struct, subprocess, sys, tempfile, time, unittest, zlib

WREN = sys.argv[1]


def dxf(*entities, head="", blocks=""):
    out = "0\nSECTION\n2\nHEADER\n" + head + "0\nENDSEC\n"
    if blocks:
        out += "0\nSECTION\n2\nBLOCKS\n" + blocks + "0\nENDSEC\n"
    return out + "0\nSECTION\n2\nENTITIES\n" + "".join(entities) + "0\nENDSEC\n0\nEOF\n"


def line(x0, y0, x1, y1, layer="0"):
    return f"0\nLINE\n8\n{layer}\n10\n{x0}\n20\n{y0}\n30\n0\n11\n{x1}\n21\n{y1}\n31\n0\n"


def lw(points, flag=1, extra="", layer="0"):
    return f"0\nLWPOLYLINE\n8\n{layer}\n{extra}90\n{len(points)}\n70\n{flag}\n" + "".join(f"10\n{x}\n20\n{y}\n" for x, y in points)


def insert(name, x=0, y=0, cols=1, rows=1, dx=0, dy=0):
    return f"0\nINSERT\n8\n0\n2\n{name}\n10\n{x}\n20\n{y}\n30\n0\n70\n{cols}\n71\n{rows}\n44\n{dx}\n45\n{dy}\n"


def block(name, *entities):
    return f"0\nBLOCK\n8\n0\n2\n{name}\n70\n0\n10\n0\n20\n0\n30\n0\n3\n{name}\n1\n\n" + "".join(entities) + "0\nENDBLK\n8\n0\n"


def square(a=100, layer="0"):
    return "".join(line(*p, layer=layer) for p in ((0, 0, a, 0), (a, 0, a, a), (a, a, 0, a), (0, a, 0, 0)))


def pdf(content, box="0 0 595.276 841.89", extra=""):
    """One page by hand (ISO 32000-1)."""
    return many_pages([content], box, extra)


def many_pages(contents, box="0 0 595.276 841.89", extra=""):
    count = len(contents)
    kids = " ".join(f"{4 + 2 * k} 0 R" for k in range(count))
    objects = ["<</Type/Catalog/Pages 2 0 R>>", f"<</Type/Pages/Kids[{kids}]/Count {count}>>", "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"]
    for k, content in enumerate(contents):
        objects.append(f"<</Type/Page/Parent 2 0 R/MediaBox[{box}]{extra}/Contents {5 + 2 * k} 0 R/Resources<</Font<</F 3 0 R>>>>>>")
        objects.append(f"<</Length {len(content)}>>stream\n{content}\nendstream\n")
    out = ["%PDF-1.6\n"]
    places, at = [], len(out[0])
    for number, text in enumerate(objects, 1):
        places.append(at)
        out.append(f"{number} 0 obj{text}endobj\n")
        at += len(out[-1])
    out.append(f"xref\n0 {len(objects) + 1}\n0000000000 65535 f \n" + "".join(f"{p:010d} 00000 n \n" for p in places))
    return "".join(out) + f"trailer<</Size {len(objects) + 1}/Root 1 0 R>>\nstartxref\n{at}\n%%EOF"


def svg(inside, size='width="300mm" height="400mm" viewBox="0 0 300 400"', more=""):
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size}>{more}{inside}</svg>'


class Drawings(unittest.TestCase):
    def setUp(self):
        self.dir = pathlib.Path(tempfile.mkdtemp(prefix="wren-read-"))
        self.project = self.dir / "p.wren"
        subprocess.run([WREN, "new", self.project, "--from", "plain"], check=True, capture_output=True)

    def tearDown(self):
        shutil.rmtree(self.dir)

    def plan(self, name, content, *args, env=None):
        """(exit code, curves, what was said); within its limits of time and memory."""
        path = self.dir / name
        if content is not None:
            path.write_bytes(content if isinstance(content, bytes) else content.encode())
        before = time.monotonic()
        done = subprocess.run([WREN, "plan", self.project, path, "--json", *args], capture_output=True, text=True, errors="replace", timeout=30, env=env)
        self.assertLess(time.monotonic() - before, 13, name)
        self.assertLess(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss, 1_200_000, name)
        self.assertIn(done.returncode, (0, 3), f"{name}: exit {done.returncode} {done.stderr[:300]}")
        if done.returncode:
            self.assertTrue(done.stderr.startswith("wren: "), done.stderr)
            return done.returncode, [], done.stderr
        doc = json.loads(done.stdout)
        return 0, doc["closed"], done.stdout

    def refused(self, name, content, word=None):
        code, _, said = self.plan(name, content)
        self.assertEqual(code, 3, said[:300])
        if word:
            self.assertIn(word, said)

    def sizes(self, name, content, *args, **more):
        code, curves, said = self.plan(name, content, *args, **more)
        self.assertEqual(code, 0, said)
        return [c["size_mm"] for c in curves]

    def near(self, sizes, *wanted, within=0.02):
        self.assertEqual(len(sizes), len(wanted), sizes)
        for got, want in zip(sizes, wanted):
            for a, b in zip(got, want):
                self.assertAlmostEqual(a, b, delta=within)

    # ---- made to do harm

    def test_counts_that_promise_too_much(self):
        for count in ("2000000000", "1073741825", "-5", "99999999999999999999", "nan", "1e30"):
            body = f"0\nLWPOLYLINE\n8\n0\n90\n{count}\n70\n1\n10\n0\n20\n0\n10\n50\n20\n0\n10\n50\n20\n40\n"
            code, curves, said = self.plan("count.dxf", dxf(body))
            if code == 0:
                self.near([c["size_mm"] for c in curves], (50, 40))

    def test_splines_that_promise_too_much(self):
        # However the number is written: the library skips white space and signs, and takes the digits it finds.
        for code in ("72", "73", "74", " 73", "+73", "073"):
            for count in ("91067811865475", "565897865", "+2000000000", "\t2000000000", "2000000000x", "-2000000000"):
                body = f"0\nSPLINE\n8\n0\n70\n8\n71\n2\n{code}\n{count}\n" + "".join(f"40\n{k}\n" for k in (0, 0, 0, 1, 1, 1)) + "10\n0\n20\n0\n10\n50\n20\n0\n10\n50\n20\n40\n"
                self.refused("spline.dxf", dxf(square(), body), "promises")

    def test_blocks_in_themselves_and_without_end(self):
        loop = block("A", insert("A", cols=200, rows=200, dx=1, dy=1))
        self.refused("self.dxf", dxf(insert("A", cols=200, rows=200), blocks=loop), "holds itself")
        ring = block("A", insert("B")) + block("B", insert("A"), line(0, 0, 1, 1))
        self.refused("ring.dxf", dxf(insert("A"), blocks=ring), "holds itself")
        tower = "".join(block(f"B{k}", *[insert(f"B{k + 1}", x=j) for j in range(8)]) for k in range(10)) + block("B10", line(0, 0, 1, 1))
        self.refused("tower.dxf", dxf(insert("B0"), blocks=tower), "more than 200000 points")
        empty = "".join(block(f"B{k}", *[insert(f"B{k + 1}", cols=200, rows=200)] * 4) for k in range(10)) + block("B10")
        self.refused("empty.dxf", dxf(insert("B0"), square(), blocks=empty), "more than 200000 points")

    def test_lines_too_long_and_files_of_other_kinds(self):
        self.refused("long.dxf", dxf(line(0, 0, 1, 1, layer="x" * 1024)), "characters")
        self.refused("longer.dxf", dxf("9\n" + "y" * 5_000_000 + "\n"), "characters")
        self.refused("binary.dxf", b"DXF in binary form SECTION\r\n\x1a\x00" + bytes(range(256)) * 40 + b"EOF")
        self.refused("none.dxf", "hello")
        self.refused("empty.dxf", "")
        self.refused("empty.svg", "")
        self.refused("cut.svg", svg("<path d='M0 0 L5 5'/>")[:-20])
        self.refused("half.dxf", dxf(square())[:200], "cut short")
        os.mkfifo(self.dir / "pipe.dxf")
        self.refused("pipe.dxf", None, "a pipe")
        os.mkfifo(self.dir / "pipe.svg")
        self.refused("pipe.svg", None, "a pipe")

    def test_too_much_of_everything(self):
        self.refused("curves.svg", svg("<path d='M0 0" + " c 5000 0 5000 5000 0 5000" * 199_000 + "'/>"), "more than 200000 points")
        self.refused("points.svg", svg("<polygon points='" + " ".join(f"{k % 300},{k // 300}" for k in range(200_500)) + "'/>"), "more than 200000 points")
        self.refused("huge.svg", svg("<path d='M0 0 L1e999 0 L10 10 Z'/>"))
        self.refused("inf.svg", svg("<rect width='inf' height='nan'/>"))
        self.refused("inf.dxf", dxf(line(0, 0, "1e999", 0), line("nan", 0, 5, 5)))
        deep = "<g>" * 5000 + "<rect width='10' height='10'/>" + "</g>" * 5000
        self.refused("deep.svg", svg(deep), "nested")
        uses = "<defs><g id='a0'><rect width='1' height='1'/></g>" + "".join(f"<g id='a{k}'>" + f"<use href='#a{k - 1}' x='1'/>" * 10 + "</g>" for k in range(1, 12)) + "</defs><use href='#a11'/>"
        self.refused("uses.svg", svg(uses), "more than 200000 points")
        self.refused("self.svg", svg("<g id='a'><rect width='1' height='1'/><use href='#a'/></g>"), "use")
        entities = '<!DOCTYPE svg [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>' + svg("<text>&b;</text><rect width='30' height='20'/>")
        self.near(self.sizes("entities.svg", entities), (30, 20))

    def test_thousands_of_ends_in_one_place(self):
        star = lambda layer: dxf("".join(line(0, 0, 100 * math.cos(k), 100 * math.sin(k), layer=layer(k)) for k in range(30_000)))
        for name, layer in (("one", lambda k: "0"), ("own", lambda k: f"L{k}")):
            before = time.monotonic()
            self.plan(f"{name}.dxf", star(layer))
            self.assertLess(time.monotonic() - before, 6)

    def test_a_project_of_very_many_unknown_names(self):
        doc = json.loads(self.project.read_text())
        doc.update({f"unknown{k}": k for k in range(60_000)})
        self.project.write_text(json.dumps(doc))
        before = time.monotonic()
        done = subprocess.run([WREN, "get", self.project], capture_output=True, text=True, timeout=30)
        self.assertEqual(done.returncode, 3)
        self.assertIn("names", done.stderr)
        self.assertLess(time.monotonic() - before, 5)

    def test_random_damage_never_gets_through(self):
        r = random.Random(3)
        good = {"a.dxf": dxf(square(), line(0, 0, 30, 30), insert("A", 3, 3), blocks=block("A", square(20))), "a.svg": svg("<path d='M10 10 C 20 20 30 0 40 10 L 40 40 Z'/><rect x='3' width='30' height='20' rx='4'/>")}
        for k in range(60):
            name = r.choice(list(good))
            text = bytearray(good[name].encode())
            for _ in range(r.randint(1, 8)):
                at = r.randrange(len(text))
                what = r.randrange(4)
                if what == 0:
                    text[at] = r.randrange(256)
                elif what == 1:
                    del text[at:at + r.randint(1, 30)]
                elif what == 2:
                    text[at:at] = bytes(r.choice(b"0123456789-.eE\r\n\0 <>'\"#") for _ in range(r.randint(1, 12)))
                else:
                    text[at:at] = text[max(0, at - 60):at] * r.randint(1, 5)
                if not text:
                    text = bytearray(b"0")
            self.plan(name, bytes(text))

    # ---- other programs' habits

    def test_line_ends_units_and_ellipses(self):
        for name, end in (("lf", "\n"), ("crlf", "\r\n"), ("cr", "\r")):
            self.near(self.sizes(f"{name}.dxf", dxf(square()).replace("\n", end)), (100, 100))
        for code, mm in ((1, 25.4), (2, 304.8), (4, 1), (5, 10), (6, 1000)):
            a = 300 / mm
            self.near(self.sizes("unit.dxf", dxf(square(a), head=f"9\n$INSUNITS\n70\n{code}\n")), (300, 300))
        ellipse = "0\nELLIPSE\n8\n0\n10\n50\n20\n40\n30\n0\n11\n30\n21\n0\n31\n0\n40\n0.5\n41\n0\n42\n6.283185307179586\n"
        self.near(self.sizes("ellipse.dxf", dxf(ellipse)), (60, 30))
        inch = "0\nCIRCLE\n8\n0\n10\n0\n20\n0\n30\n0\n40\n4\n"
        code, curves, _ = self.plan("inch.dxf", dxf(inch, head="9\n$INSUNITS\n70\n1\n"))
        self.assertAlmostEqual(curves[0]["circle"]["radius"], 101.6, delta=0.006)

    def test_entities_drawn_from_below_lie_where_they_are(self):
        # Object coordinates (DXF reference, "arbitrary axis algorithm"): extrusion 0,0,-1 turns x round.
        below = "210\n0\n220\n0\n230\n-1\n"
        frame = lw([(0, 0), (300, 0), (300, 200), (0, 200)])
        code, curves, _ = self.plan("below.dxf", dxf(frame, f"0\nCIRCLE\n8\n0\n10\n-50\n20\n20\n30\n0\n40\n10\n{below}"))
        self.assertEqual([round(v, 2) for v in curves[1]["circle"]["centre"]], [50, 20])
        # An arc of its own closes the same half disc as one drawn from above.
        half = lambda sign, extra: dxf("0\nARC\n8\n0\n10\n%g\n20\n0\n30\n0\n40\n40\n%s50\n0\n51\n180\n" % (sign * 100, extra), line(60, 0, 140, 0))
        self.near(self.sizes("half-below.dxf", half(-1, below)), (80, 40))
        self.near(self.sizes("half-above.dxf", half(1, "")), (80, 40))
        block_below = dxf("0\nINSERT\n8\n0\n2\nA\n10\n-200\n20\n50\n30\n0\n" + below, frame, blocks=block("A", "0\nCIRCLE\n8\n0\n10\n30\n20\n0\n30\n0\n40\n8\n"))
        code, curves, _ = self.plan("insert-below.dxf", block_below)
        self.assertEqual([round(v, 2) for v in curves[1]["circle"]["centre"]], [170, 50])
        tilted = dxf(frame, "0\nCIRCLE\n8\n0\n10\n0\n20\n0\n30\n0\n40\n10\n210\n0\n220\n1\n230\n0\n")
        code, curves, said = self.plan("tilted.dxf", tilted)
        self.assertEqual(len(curves), 1)
        self.assertIn("1 tilted piece", said)

    def test_what_nobody_sees_is_left_out_and_told(self):
        big = [(0, 0), (900, 0), (900, 500), (0, 500)]
        small = lw([(0, 0), (100, 0), (100, 50), (0, 50)])
        for extra, word in (("67\n1\n", "paper layout"), ("60\n1\n", "invisible")):
            code, curves, said = self.plan("unseen.dxf", dxf(small, lw(big, extra=extra)))
            self.near([c["size_mm"] for c in curves], (100, 50))
            self.assertIn(word, said)
        for flags, colour in ((1, 7), (0, -7)):
            tables = f"0\nSECTION\n2\nTABLES\n0\nTABLE\n2\nLAYER\n70\n1\n0\nLAYER\n2\nOFF\n70\n{flags}\n62\n{colour}\n6\nCONTINUOUS\n0\nENDTAB\n0\nENDSEC\n"
            code, curves, said = self.plan("layer.dxf", tables + dxf(small, lw(big, layer="OFF"), line(0, 0, 7, 7, layer="OFF")))
            self.near([c["size_mm"] for c in curves], (100, 50))
            self.assertIn("2 pieces on a hidden layer", said)
        hidden = "<rect width='100' height='50'/><g display='none'><rect width='200' height='200'/></g><g style='fill:red; display: none'><rect width='210' height='200'/></g><rect visibility='hidden' width='220' height='90'/>"
        code, curves, said = self.plan("hidden.svg", svg(hidden))
        self.near([c["size_mm"] for c in curves], (100, 50))
        self.assertIn("3 hidden pieces", said)

    def test_every_unit_of_the_reference(self):
        for code, mm in ((3, 1609344), (7, 1e6), (8, 25.4e-6), (9, 0.0254), (10, 914.4), (13, 1e-3), (14, 100), (15, 1e4), (21, 304.8006096)):
            pts = [(x / mm, y / mm) for x, y in ((0, 0), (300, 0), (300, 200), (0, 200))]
            self.near(self.sizes("unit.dxf", dxf(lw([(f"{x:.12g}", f"{y:.12g}") for x, y in pts]), head=f"9\n$INSUNITS\n70\n{code}\n")), (300, 200))

    def test_blocks_with_a_base_point_lie_where_they_are_put(self):
        inside = "0\nBLOCK\n8\n0\n2\nA\n70\n0\n10\n1000\n20\n1000\n30\n0\n3\nA\n1\n\n0\nCIRCLE\n8\n0\n10\n1020\n20\n1030\n30\n0\n40\n5\n0\nENDBLK\n8\n0\n"
        code, curves, _ = self.plan("base.dxf", dxf("0\nINSERT\n8\n0\n2\nA\n10\n100\n20\n0\n30\n0\n50\n90\n", lw([(0, -90), (300, -90), (300, 200), (0, 200)]), blocks=inside))
        self.assertEqual([round(v, 2) for v in curves[1]["circle"]["centre"]], [70, 20])

    def test_files_as_other_programs_write_them(self):
        ring = lw([(0, 0), (100, 0), (100, 50), (0, 50)])
        old = "0\nPOLYLINE\n8\n0\n66\n1\n10\n0\n20\n0\n30\n0\n70\n9\n" + "".join(f"0\nVERTEX\n8\n0\n10\n{x}\n20\n{y}\n30\n5\n70\n32\n" for x, y in ((0, 0), (100, 0), (100, 50), (0, 50))) + "0\nSEQEND\n8\n0\n"
        for name, text in {
            "generated": dxf(lw([(0, 0), (100, 0), (100, 50), (0, 50)], flag=129)),
            "spaces": dxf(ring).replace("\n0\nLW", "\n  0\nLW").replace("70\n1\n", " 70\n     1\n"),
            "mark": "\ufeff" + dxf(ring),
            "comment": "999\nmade by somebody\n" + dxf(ring),
            "bare": "0\nSECTION\n2\nENTITIES\n" + ring + "0\nENDSEC\n0\nEOF\n",
            "old": dxf(old),
            "comma": dxf(ring).replace("100\n", "100,0\n"),
        }.items():
            self.near(self.sizes(f"{name}.dxf", text), (100, 50))
        rect = "<rect width='100' height='50'/>"
        for name, text, size in (
            ("prefix", svg(rect).replace("<svg", "<s:svg").replace("</svg", "</s:svg").replace("xmlns=", "xmlns:s=").replace("<rect", "<s:rect"), (100, 50)),
            ("utf16", svg(rect).encode("utf-16"), (100, 50)),
            ("switch", svg(f"<switch>{rect}</switch>"), (100, 50)),
            ("link", svg(f"<a href='x'>{rect}</a>"), (100, 50)),
            ("percent", svg("<rect width='50%' height='25%'/>"), (150, 100)),
            ("whole", svg(rect, 'width="300mm" height="300mm" viewBox="0 0 300 400"'), (75, 37.5)),  # meet (SVG 1.1, 7.8)
            ("slice", svg(rect, 'width="300mm" height="300mm" viewBox="0 0 300 400" preserveAspectRatio="xMidYMid slice"'), (100, 50)),
            ("none", svg(rect, 'width="600mm" height="400mm" viewBox="0 0 300 400" preserveAspectRatio="none"'), (200, 50)),
            ("high", svg(rect, 'height="800mm" viewBox="0 0 300 400"'), (200, 100)),
            ("inner", svg("<svg x='10' y='10' width='100' height='50' viewBox='0 0 10 5'><rect width='10' height='5'/></svg>"), (100, 50)),
            ("symbol", svg("<symbol id='s' viewBox='0 0 10 5'><rect width='10' height='5'/></symbol><use href='#s' width='100' height='50'/>"), (100, 50)),
            ("flags", svg("<path d='M100 100a25 25 0 1150 0a25 25 0 11-50 0z'/>"), (50, 50)),
            ("powers", svg("<path d='M0 0L1e2 0 1e2 5e1 0 5.0E+1z'/>"), (100, 50)),
            ("relative", svg("<path d='m10,10 100,0 0,50 -100,0z'/>"), (100, 50)),
        ):
            self.near(self.sizes(f"{name}.svg", text), size)
        for name, inside in (("transform", "<rect transform='turn(3)' width='5' height='5'/>"), ("length", "<rect width='3q' height='5'/>"), ("data", "<path d='M0 0 L5 x'/>"), ("points", "<polygon points='0,0 5,5 7'/>")):
            self.refused(f"{name}.svg", svg(inside), "not understood")
        self.refused("box.svg", svg(rect, 'width="300mm" viewBox="0 0 300"'), "viewBox")

    def test_pages_come_in_at_their_own_size(self):
        mm = 72 / 25.4
        rect = f"{20 * mm} {30 * mm} {100 * mm} {50 * mm} re S "
        cases = {
            "plain": (pdf(rect), (100, 50)),
            "rotated": (pdf(rect, extra="/Rotate 90"), (50, 100)),
            "cropped": (pdf(rect, extra="/CropBox[0 0 400 400]"), (100, 50)),
            "unit": (pdf(f"{2 * mm} {3 * mm} {10 * mm} {5 * mm} re S", "0 0 59.5276 84.189", "/UserUnit 10"), (100, 50)),
            "scaled": (pdf(f"q {mm} 0 0 {mm} 0 0 cm 20 30 100 50 re S Q"), (100, 50)),
            "letters": (pdf("BT /F 24 Tf 100 400 Td (Hello) Tj ET " + rect), (100, 50)),
            "shifted": (pdf(f"q 1 0 0 1 300 400 cm {-20 * mm} {-30 * mm} {100 * mm} {50 * mm} re S Q", "-100 -100 700 800"), (100, 50)),
            "ground": (pdf("1 1 1 rg 0 0 595.276 841.89 re f 0 0 0 RG " + rect), (100, 50)),
            "lines": (pdf("".join(f"{a * mm} {b * mm} m {c * mm} {d * mm} l S " for a, b, c, d in ((20, 30, 120, 30), (120, 30, 120, 80), (120, 80, 20, 80), (20, 80, 20, 30)))), (100, 50)),
        }
        for name, (text, size) in cases.items():
            code, curves, said = self.plan(f"{name}.pdf", text)
            self.assertEqual(code, 0, said)
            self.near([c["size_mm"] for c in curves], size, within=0.005)
        self.assertIn("5 letters", self.plan("letters.pdf", cases["letters"][0])[2])

    def test_a_book_of_ten_thousand_pages_gives_the_page_that_was_asked_for(self):
        mm = 72 / 25.4
        book = many_pages([f"{20 * mm} {30 * mm} {(50 + k / 100) * mm} {40 * mm} re S" for k in range(10_000)])
        for page in (1, 5000, 10_000):
            code, curves, said = self.plan("book.pdf", book if page == 1 else None, "--page", str(page))
            self.assertEqual(code, 0, said)
            self.near([curves[0]["size_mm"]], (50 + (page - 1) / 100, 40), within=0.05)
        for page in (0, 10_001, -3):
            self.assertEqual(self.plan("book.pdf", None, "--page", str(page))[0], 3)
        # A book that says it has a hundred million pages and has one.
        lies = pdf(f"{20 * mm} {30 * mm} {50 * mm} {40 * mm} re S").replace("/Count 1>>", "/Count 100000000>>")
        for page in ("1", "99999999"):
            self.plan("lies.pdf", lies, "--page", page)

    def test_splines_with_weights_and_through_points(self):
        # A quarter circle as a rational spline (the textbook's: weights 1, 1/√2, 1), four of them a circle of radius 50.
        w = 1 / math.sqrt(2)
        corners = [(50, 0, 1), (50, 50, w), (0, 50, 1), (-50, 50, w), (-50, 0, 1), (-50, -50, w), (0, -50, 1), (50, -50, w), (50, 0, 1)]
        knots = [0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4]
        spline = f"0\nSPLINE\n8\n0\n70\n4\n71\n2\n72\n{len(knots)}\n73\n{len(corners)}\n74\n0\n" + "".join(f"40\n{k}\n" for k in knots) + "".join(f"41\n{c[2]}\n" for c in corners) + "".join(f"10\n{x}\n20\n{y}\n30\n0\n" for x, y, _ in corners)
        code, curves, said = self.plan("weights.dxf", dxf(spline))
        self.assertEqual(code, 0, said)
        self.near([c["size_mm"] for c in curves], (100, 100))
        points = [(50 * math.cos(t / 24 * 2 * math.pi), 50 * math.sin(t / 24 * 2 * math.pi)) for t in range(25)]
        through = f"0\nSPLINE\n8\n0\n70\n8\n71\n3\n72\n0\n73\n0\n74\n{len(points)}\n" + "".join(f"11\n{x:.9f}\n21\n{y:.9f}\n31\n0\n" for x, y in points)
        self.near(self.sizes("through.dxf", dxf(through)), (100, 100), within=0.1)

    def test_what_is_left_out_is_told(self):
        text = "0\nTEXT\n8\n0\n10\n0\n20\n0\n30\n0\n40\n5\n1\nscale 635\n"
        path = self.dir / "text.dxf"
        path.write_text(dxf(square(), text, text))
        said = subprocess.run([WREN, "plan", self.project, path], capture_output=True, text=True).stdout
        self.assertIn("Left out: 2 texts", said)

    def test_svg_numbers_units_uses_and_rounded_corners(self):
        # More than forty characters are one number still, and the reader's own comma is nobody's.
        a = "280.00000000000000000000000000000000000000000000001"
        self.near(self.sizes("digits.svg", svg(f"<rect width='{a}' height='380'/>")), (280, 380))
        german = dict(os.environ, LC_ALL="de_DE.UTF-8", LANG="de_DE.UTF-8")
        self.near(self.sizes("comma.svg", svg("<rect width='330.9' height='420.9'/>", 'width="330.9mm" height="420.9mm" viewBox="0 0 330.9 420.9"'), env=german), (330.9, 420.9))
        for unit, mm in (("mm", 1), ("cm", 10), ("in", 25.4), ("pt", 25.4 / 72), ("pc", 25.4 / 6), ("px", 25.4 / 96)):
            self.near(self.sizes("units.svg", svg("<rect width='30' height='20'/>", f'width="{300 / mm}{unit}" height="{400 / mm}{unit}" viewBox="0 0 300 400"')), (30, 20))
        self.near(self.sizes("mm.svg", svg("<rect width='3cm' height='20mm'/>", 'width="600mm" height="800mm" viewBox="0 0 300 400"')), (30, 20))
        code, curves, _ = self.plan("round.svg", svg("<rect x='10' y='20' width='80' height='50' rx='10'/>"))
        self.near([c["size_mm"] for c in curves], (80, 50))
        self.assertEqual((curves[0]["lines"], curves[0]["arcs"] + curves[0]["curves"]), (4, 4))
        use = "<defs><g id='s'><rect width='20' height='10'/></g></defs><use xlink:href='#s' x='50' y='60'/><use href='#s' transform='rotate(90)'/>"
        self.near(sorted(self.sizes("use.svg", svg(use))), (10, 20), (20, 10))

    def test_generated_plans_come_back_within_a_hundredth(self):
        r = random.Random(17)
        for k in range(12):
            a, b = r.uniform(40, 300), r.uniform(40, 300)
            angle = r.uniform(0, 360)
            s = r.uniform(0.2, 3)
            ring = [(a * 0.5 * (1 + 0.3 * math.cos(3 * t)) * math.cos(t), b * 0.5 * (1 + 0.2 * math.sin(2 * t)) * math.sin(t)) for t in (2 * math.pi * i / 90 for i in range(90))]
            width = max(p[0] for p in ring) - min(p[0] for p in ring)
            # Nested transforms that cancel but for one scale.
            inner = "<polygon points='" + " ".join(f"{x / s:.9f},{y / s:.9f}" for x, y in ring) + "'/>"
            body = f"<g transform='rotate({angle})'><g transform='translate(12 -7) scale({s})'><g transform='translate({-12 / s} {7 / s})'><g transform='rotate({-angle})'>{inner}</g></g></g></g>"
            got = self.sizes("made.svg", svg(body))
            self.assertAlmostEqual(got[0][0], width, delta=0.02)
            turned = 25.4 if k % 2 else 1
            pts = "".join(f"10\n{x / turned:.9f}\n20\n{y / turned:.9f}\n" for x, y in ring)
            inside = block("P", f"0\nLWPOLYLINE\n8\n0\n90\n{len(ring)}\n70\n1\n" + pts)
            outer = block("Q", insert("P", 5, 5))
            got = self.sizes("made.dxf", dxf(insert("Q", -3, 8), blocks=inside + outer, head=f"9\n$INSUNITS\n70\n{1 if k % 2 else 4}\n"))
            self.assertAlmostEqual(got[0][0], width, delta=0.02)


def png(width, height, rows, kind=2, bits=8):
    """A PNG by hand (ISO/IEC 15948): signature, IHDR, one IDAT, IEND."""
    def chunk(name, data):
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, bits, kind, 0, 0, 0)) + chunk(b"IDAT", zlib.compress(rows, 9)) + chunk(b"IEND", b"")


class Pictures(unittest.TestCase):
    """wren-read picture: PNG and JPEG to plain pixels."""

    def read(self, data):
        def limits():
            resource.setrlimit(resource.RLIMIT_AS, (1 << 30, 1 << 30))
            resource.setrlimit(resource.RLIMIT_CPU, (10, 10))
        return subprocess.run([pathlib.Path(WREN).parent / "wren-read", "picture"], input=data, capture_output=True, timeout=20, preexec_fn=limits)

    def refused(self, data, word):
        done = self.read(data)
        if done.returncode == 0:
            self.assertIn(word, json.loads(done.stdout)["problem"]["what"])
        else:
            self.assertEqual(done.stdout, b"")

    def test_every_point_is_where_it_was(self):
        rows = b"".join(b"\0" + bytes((x * 40, y * 60, 7)[c] for x in range(5) for c in range(3)) for y in range(3))
        ppm = self.read(png(5, 3, rows)).stdout
        self.assertEqual(ppm, b"P6\n5 3\n255\n" + b"".join(bytes((x * 40, y * 60, 7)) for y in range(3) for x in range(5)))
        grey = self.read(png(2, 1, b"\0" + bytes((0, 200)), kind=0)).stdout
        self.assertEqual(grey, b"P6\n2 1\n255\n" + bytes((0, 0, 0, 200, 200, 200)))

    def test_more_points_than_a_screen_can_use_are_thinned(self):
        ppm = self.read(png(8000, 4000, (b"\0" + b"\x80" * 8000) * 4000, kind=0)).stdout
        width, height = map(int, ppm.split(b"\n")[1].split())
        self.assertLessEqual(width * height, 12_000_000)
        self.assertEqual(width, 2 * height)
        self.assertEqual(len(ppm), len(b"P6\n%d %d\n255\n" % (width, height)) + 3 * width * height)

    def test_bombs_halves_and_others_are_sentences(self):
        self.refused(png(60_000, 60_000, b"\0" * 450_060_000, kind=0, bits=1), "points")
        whole = png(40, 40, (b"\0" + b"\x40" * 120) * 40)
        for cut in range(9, len(whole) - 12, 7):
            self.refused(whole[:cut], "damaged")
        for other in (b"", b"GIF89a" + bytes(40), b"\xff\xd8\xff" + bytes(200), b"BM" + bytes(100), b"\x89PNG\r\n\x1a\n" + bytes(100)):
            self.refused(other, "")

    def test_photographs(self):
        with tempfile.TemporaryDirectory() as folder:
            pdf = pathlib.Path(folder) / "sheet.pdf"
            project = pathlib.Path(folder) / "p.wren"
            subprocess.run([WREN, "new", project, "--from", "plain"], check=True, capture_output=True)
            subprocess.run([WREN, "export", project, "--part", "body", "--out", pdf], check=True, capture_output=True)
            jpeg = subprocess.run(["pdftoppm", "-jpeg", "-r", "60", "-f", "1", "-l", "1", pdf], check=True, capture_output=True).stdout
            plain = subprocess.run(["pdftoppm", "-r", "60", "-f", "1", "-l", "1", pdf], check=True, capture_output=True).stdout
        ppm = self.read(jpeg).stdout
        self.assertEqual(ppm.split(b"\n")[:3], plain.split(b"\n")[:3])
        away = sum(abs(a - b) for a, b in zip(ppm[-30000:], plain[-30000:])) / 30000
        self.assertLess(away, 4)
        for cut in (3, 20, len(jpeg) // 2, len(jpeg) - 400):
            self.refused(jpeg[:cut], "damaged")
        r = random.Random(9)
        for _ in range(40):
            spoiled = bytearray(jpeg)
            for _ in range(r.randint(1, 20)):
                spoiled[r.randrange(len(spoiled))] = r.randrange(256)
            self.read(bytes(spoiled))


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]])

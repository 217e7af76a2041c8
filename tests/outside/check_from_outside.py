#!/usr/bin/env python3
"""The folder of programs checked without any of our code: from manifest.json and the program text alone.

Sources: ISO 6983-1 words (our own small reader of the few that appear), equal temperament (Fletcher & Rossing ch. 9), SHA-256 (hashlib),
Shapely for the outline's offset, ISO 32000-1 / ISO 216 page sizes by poppler-utils."""
import hashlib
import json
import locale
import math
import os
import pathlib
import re
import subprocess
import sys
import tempfile
import unittest
import zlib

from shapely.geometry import LineString, Point, Polygon

WREN = sys.argv.pop(1)
locale.setlocale(locale.LC_NUMERIC, "")
SIGN = locale.localeconv()["decimal_point"]  # paper is for a reader, with his decimal sign; files are as they are everywhere


def run(*args):
    return subprocess.run([WREN, *map(str, args)], check=True, capture_output=True, text=True, timeout=120).stdout


def moves(text):
    """Straight and arc moves as (mode, x, y, z, i, j) with absolute mm coordinates."""
    at, mode, unit, out = {"X": 0.0, "Y": 0.0, "Z": 99.0}, 0, 1.0, []
    for line in text.splitlines():
        line = re.sub(r"\(.*?\)", "", line)
        words = [(w, float(v)) for w, v in re.findall(r"([A-Z])(-?[0-9.]+)", line)]
        if any(w in "M" for w, _ in words) or ("G", 4.0) in words or ("G", 53.0) in words:
            continue
        centre = {"I": 0.0, "J": 0.0}
        moved = False
        for word, value in words:
            if word == "G" and value in (0, 1, 2, 3):
                mode = int(value)
            elif word == "G" and value in (20, 21):
                unit = 25.4 if value == 20 else 1.0
            elif word in at:
                at[word] = value * unit
                moved = True
            elif word in centre:
                centre[word] = value * unit
        if moved:
            out.append((mode, at["X"], at["Y"], at["Z"], centre["I"], centre["J"]))
    return out


class FromOutside(unittest.TestCase):
    def folder(self, *edits):
        self.temp = tempfile.TemporaryDirectory()
        self.addCleanup(self.temp.cleanup)
        root = pathlib.Path(self.temp.name)
        project = root / "p.wren"
        run("new", project)
        if edits:
            run("set", project, *edits)
        run("programs", project, "--out", root / "out")
        manifest = json.loads((root / "out" / "fretboard" / "manifest.json").read_text())
        values = {k: v["value"] for k, v in json.loads(run("get", project, "--json")).items() if isinstance(v, dict)}
        return root, manifest, values, {p["file"]: (root / "out" / "fretboard" / p["file"]).read_text() for p in manifest["programs"]}

    def fret_points(self, v):
        """Both ends of every fret line on the outer strings, instrument frame: the issue's definitions, worked out anew."""
        lean = (v["strings.bridge_spread"] - v["strings.nut_spread"]) / 2
        run_bass = math.sqrt(v["strings.scale_bass"] ** 2 - lean**2)
        run_treble = math.sqrt(v["strings.scale_treble"] ** 2 - lean**2)
        part = lambda n: 1 - 2 ** (-n / 12)
        bass0 = part(v["strings.square_fret"]) * (run_treble - run_bass) / 2
        side = -1 if v["strings.left_handed"] else 1
        for n in range(0 if v["frets.zero_fret"] else 1, v["frets.count"] + 1):
            f = part(n)
            y = v["strings.nut_spread"] / 2 + f * lean
            yield n, (bass0 + f * run_bass, -y * side), (-bass0 + f * run_treble, y * side)

    def check_slots(self, *edits):
        _, manifest, v, texts = self.folder(*edits)
        program = next(p for p in manifest["programs"] if "slots" in p["cut"])
        m = program["instrument_to_work"]
        work = lambda p: (m[0][0] * p[0] + m[0][1] * p[1] + m[0][3], m[1][0] * p[0] + m[1][1] * p[1] + m[1][3])
        path = moves(texts[program["file"]])
        pieces = [(a, b) for a, b in zip(path, path[1:]) if b[0] == 1 and b[3] < -0.3 and math.hypot(b[1] - a[1], b[2] - a[2]) > 1]
        radius = program["cutter"]["diameter_mm"] / 2
        for n, bass, treble in self.fret_points(v):
            a, b = work(bass), work(treble)
            length = math.hypot(b[0] - a[0], b[1] - a[1])
            u = ((b[0] - a[0]) / length, (b[1] - a[1]) / length)
            offsets = []
            for p, q in pieces:
                d = [(r[1] - a[0]) * -u[1] + (r[2] - a[1]) * u[0] for r in (p, q)]
                if max(map(abs, d)) < 1:
                    offsets += d
            self.assertTrue(offsets, f"fret {n} is not cut")
            middle = (max(offsets) + min(offsets)) / 2
            self.assertLess(abs(middle), 0.005, f"fret {n}")
            self.assertAlmostEqual(max(offsets) - min(offsets) + 2 * radius, v["slot.width"], delta=0.004)

    def test_slots_lie_on_their_fret_lines(self):
        self.check_slots()

    def test_fanned_left_handed_and_inch_programs_too(self):
        self.check_slots("strings.scale_bass=26 in", "strings.scale_treble=25 in", "strings.square_fret=7.5", "strings.left_handed=yes", "frets.zero_fret=yes", "board.overhang=16", "board.blank.length=540",
                         "board.clamps=none", "programs.units=inch", "board.blank.lie=y", "board.blank.zero=centre")

    def test_a_measured_test_slot_moves_the_passes(self):
        self.check_slots("slot.measured_width=0.53")

    def test_manifest_hashes_seals_and_extents(self):
        root, manifest, _, texts = self.folder()
        self.assertEqual(manifest["schema_version"], 2)
        for p in manifest["programs"]:
            data = (root / "out" / "fretboard" / p["file"]).read_bytes()
            self.assertEqual(hashlib.sha256(data).hexdigest(), p["sha256"])
            seal = re.search(rb"\(end: (\d+) lines, crc32 ([0-9a-f]{8})\)\n$", data)
            self.assertEqual(int(seal.group(1)), data.count(b"\n"))
            self.assertEqual(int(seal.group(2), 16), zlib.crc32(data[: seal.start()]))
            path = moves(texts[p["file"]])[1:]  # without the lift, which has no x and y of its own
            for axis, k in (("X", 1), ("Y", 2), ("Z", 3)):
                values = [q[k] for q in path if q[3] < 50]
                low, high = p["extents_mm"]["low"]["XYZ".index(axis)], p["extents_mm"]["high"]["XYZ".index(axis)]
                self.assertGreaterEqual(min(values), low - 0.001)
                self.assertLessEqual(max(values), high + 0.001)
            self.assertEqual(p["blank_mm"]["corner"], [0, 0, 0])
            for key in ("kind", "diameter_mm", "cutting_length_mm"):
                self.assertIn(key, p["cutter"])
            self.assertTrue("corner_radius_mm" in p["cutter"] or "angle_deg" in p["cutter"])

    def test_what_a_hand_is_told_is_what_the_programs_do(self):
        """Header and stops against the manifest's numbers; a retract in machine coordinates (NISTIR 6556, section 3.5.12) before
        anything moves after a beginning, a stop or a change of cutter; a wait of 2 to 5 s for a spindle (common practice)."""
        plain = "machine.knows_g53=no"
        for edits in ([], ["programs.files=one"], ["programs.files=one", "programs.units=inch", "machine.dwell=milliseconds"],
                      ["programs.files=one", "machine.change=magazine"], ["programs.files=one", plain]):
            with self.subTest(edits=edits):
                _, manifest, _, texts = self.folder(*edits)
                by_hand = "machine.change=magazine" not in edits
                changes = 0
                for p in manifest["programs"]:
                    cutters = {c["number"]: c for c in p.get("cutters", [p["cutter"]])}
                    head = dict(re.findall(r"^\(([a-z ]+): (.*)\)$", texts[p["file"]], re.M))
                    blank, probe = p["blank_mm"], p["probe"]
                    size = [float(x) for x in re.match(r"([\d.]+) x ([\d.]+) x ([\d.]+) mm", head["blank"]).groups()]
                    for told, is_ in zip(size, (blank["length"], blank["width"], blank["thickness"])):
                        self.assertAlmostEqual(told, is_, delta=0.0051)
                    self.assertTrue(head["blank"].endswith("length along " + blank["length_along"]))
                    place = re.search(r"at x (-?[\d.]+) y (-?[\d.]+)", head["probe z on"])
                    for told, is_ in zip(place.groups(), probe["at_mm"]):
                        self.assertAlmostEqual(float(told), is_, delta=0.0051)
                    self.assertEqual("waste board at" in head["probe z on"], probe["on"] == "waste board")
                    lost, asked, homed = True, "", False
                    for line in texts[p["file"]].splitlines():
                        code = re.sub(r"\(.*?\)", "", line).strip()
                        words = dict(re.findall(r"([A-Z])(-?[0-9.]+)", code))
                        if code == "M0":
                            lost, homed = True, "home the machine" in line
                            asked += line
                        elif code.endswith("M6"):
                            c = cutters[int(words["T"])]
                            if asked and by_hand and "change to" in asked:
                                self.assertIn(f"change to {c['id']}, stickout {c['stickout_mm']:g} mm, probe z", asked)
                                changes += 1
                            lost, asked = True, ""
                        elif code == "G53 G0 Z0":
                            lost = False
                        elif code.startswith("G4 "):
                            seconds = float(words["P"]) / (1000 if "machine.dwell=milliseconds" in edits else 1)
                            self.assertTrue(2 <= seconds <= 5)
                        elif {"X", "Y", "Z"} & set(words):
                            if plain in edits:
                                self.assertTrue(homed or not lost, line)
                                lost = False
                            self.assertFalse(lost, line)
                self.assertEqual(changes, 3 if by_hand and "programs.files=one" in edits else 0)

    def test_the_outline_is_shapelys_buffer(self):
        _, manifest, v, texts = self.folder()
        program = next(p for p in manifest["programs"] if "outline" in p["cut"])
        m = program["instrument_to_work"]
        frets = list(self.fret_points(v))
        slope = (v["strings.bridge_spread"] - v["strings.nut_spread"]) / 2 / math.sqrt(v["strings.scale_bass"] ** 2 - ((v["strings.bridge_spread"] - v["strings.nut_spread"]) / 2) ** 2)
        end = (frets[-1][1][0] + frets[-1][2][0]) / 2 + v["board.overhang"]
        half = lambda x: v["strings.nut_spread"] / 2 + v["board.edge_margin"] + slope * x
        board = Polygon([(x + m[0][3], y + m[1][3]) for x, y in ((0, -half(0)), (end, -half(end)), (end, half(end)), (0, half(0)))])
        path = moves(texts[program["file"]])
        # The last strand is the finishing round; its arcs as chords.
        last = max(i for i, q in enumerate(path[:-1]) if q[0] == 0)
        start = max(i for i, q in enumerate(path[:last]) if q[0] == 0)
        points = []
        for p, q in zip(path[start:last], path[start + 1 : last]):
            if q[0] in (2, 3):
                cx, cy = p[1] + q[4], p[2] + q[5]
                a0, a1 = math.atan2(p[2] - cy, p[1] - cx), math.atan2(q[2] - cy, q[1] - cx)
                if q[0] == 2 and a1 > a0:
                    a1 -= 2 * math.pi
                if q[0] == 3 and a1 < a0:
                    a1 += 2 * math.pi
                r = math.hypot(p[1] - cx, p[2] - cy)
                points += [(cx + r * math.cos(a0 + (a1 - a0) * k / 40), cy + r * math.sin(a0 + (a1 - a0) * k / 40)) for k in range(1, 41)]
            elif q[0] == 1:
                points.append((q[1], q[2]))
        wanted = board.buffer(program["cutter"]["diameter_mm"] / 2, 200).exterior
        cut = LineString(points)
        for x, y in points[4:-3]:
            self.assertLess(wanted.distance(Point(x, y)), 0.003)
        self.assertLess(max(cut.distance(wanted.interpolate(s, normalized=True)) for s in [k / 300 for k in range(300)]), 0.003)

    def test_every_word_of_every_sheet_is_whole_and_keeps_its_sign(self):
        root, _, _, _ = self.folder()
        if not (pathlib.Path(WREN).parent / "upland-wren").exists():
            self.skipTest("no window program beside wren")
        project = root / "p.wren"
        for part in ("fretboard", "neck", "body", "coupon"):
            pdf = root / f"sheet-{part}.pdf"
            run("sheet", project, "--part", part, "--out", pdf)
            boxes = subprocess.run(["pdftotext", "-bbox", str(pdf), "-"], check=True, capture_output=True, text=True).stdout
            page = None
            words = []
            for line in boxes.splitlines():
                if m := re.search(r'<page width="([\d.]+)" height="([\d.]+)"', line):
                    page = (float(m.group(1)), float(m.group(2)))
                if m := re.search(r'<word xMin="(-?[\d.]+)" yMin="(-?[\d.]+)" xMax="(-?[\d.]+)" yMax="(-?[\d.]+)">(.*)</word>', line):
                    x0, y0, x1, y1 = map(float, m.groups()[:4])
                    words.append(m.group(5))
                    # Inside the margin that a printer keeps (5 mm): nothing is cut off.
                    self.assertTrue(x0 > 14 and y0 > 14 and x1 < page[0] - 14 and y1 < page[1] - 14, f"{part}: '{m.group(5)}' stands over the page's edge at {x0:.0f}, {y0:.0f}")
            text = " ".join(words)
            self.assertEqual(text.count("("), text.count(")"), f"{part}: a bracket is lost")
            self.assertNotIn("\ufffd", text)
        text = subprocess.run(["pdftotext", "-layout", str(root / "sheet-fretboard.pdf"), "-"], check=True, capture_output=True, text=True).stdout
        self.assertIn(f"x -255 mm, y -37{SIGN}5 mm", text)  # back from the middle of the blank
        self.assertIn("no clamp is drawn", text)
        self.assertEqual(text.count(f"37{SIGN}5 mm"), 3)  # in the drawing, and in two sentences: each with all its digits
        self.assertIn("move z zero up by 25 mm", text)
        deep = subprocess.run(["pdftotext", "-layout", str(root / "sheet-body.pdf"), "-"], check=True, capture_output=True, text=True).stdout
        self.assertIn("run it once without the blank", deep)  # where the machine has no room to raise it out of the wood

    def test_paper_for_inch_readers_is_in_inches(self):
        """No length in millimetres is left on it, and its bar is four inches: 1 in is 72 pt (ISO 32000-1), 25.4 mm (1959)."""
        root, _, _, _ = self.folder()
        if not (pathlib.Path(WREN).parent / "upland-wren").exists():
            self.skipTest("no window program beside wren")
        for part in ("fretboard", "neck", "body", "coupon", "cover"):
            pdf = root / f"inch-{part}.pdf"
            run("sheet", root / "p.wren", "--part", part, "--inch", "--out", pdf)
            text = subprocess.run(["pdftotext", "-layout", str(pdf), "-"], check=True, capture_output=True, text=True).stdout
            self.assertEqual(re.findall(r".{0,40}[0-9 ]mm\b.{0,20}", text), [], part)
            self.assertIn("4 in long on paper", text)
            self.assertIn(72 * 4, [round(l, 1) for l in self.level_lines(pdf)], part)
        for part in ("neck", "body"):
            pdf = root / f"inch-{part}-templates.pdf"
            run("export", root / "p.wren", "--part", part, "--inch", "--router", "6.35", "--follower", "12.7", "--out", pdf)
            text = subprocess.run(["pdftotext", "-layout", str(pdf), "-"], check=True, capture_output=True, text=True).stdout
            self.assertNotRegex(text, r"\bmm\b")
            self.assertIn("4 in: if not, print at full size", text)
            self.assertIn(72 * 4, [round(l, 1) for l in self.level_lines(pdf)], part)

    def level_lines(self, pdf):
        """Lengths in pt of the level lines on the last page, longest last, as drawn in SVG."""
        pages = re.search(r"Pages:\s+(\d+)", subprocess.run(["pdfinfo", str(pdf)], check=True, capture_output=True, text=True).stdout).group(1)
        svg = pathlib.Path(pdf).with_suffix(".svg")
        subprocess.run(["pdftocairo", "-svg", "-f", pages, "-l", pages, str(pdf), str(svg)], check=True)
        lengths = []
        for d, matrix in re.findall(r'<path[^>]* d="M ([^"]+)"[^>]*transform="matrix\(([^)]+)\)"', svg.read_text()):
            numbers = [float(x) for x in re.findall(r"-?[0-9.]+", d)]
            k = abs(float(matrix.split(",")[0]))
            if len(numbers) == 4 and abs(numbers[1] - numbers[3]) < 1e-6:
                lengths.append(abs(numbers[2] - numbers[0]) * k)
        return sorted(lengths)

    def test_the_same_day_makes_the_same_paper(self):
        root, _, _, _ = self.folder()
        if not (pathlib.Path(WREN).parent / "upland-wren").exists():
            self.skipTest("no window program beside wren")
        env = dict(os.environ, SOURCE_DATE_EPOCH="1764100000")
        pdf = root / "dated.pdf"
        subprocess.run([WREN, "sheet", str(root / "p.wren"), "--out", str(pdf)], check=True, env=env, capture_output=True)
        text = subprocess.run(["pdftotext", str(pdf), "-"], check=True, capture_output=True, text=True).stdout
        self.assertIn("2025-11-25", text)

    def test_the_sheet_prints_at_full_size(self):
        # ISO 216 A4 is 210 × 297 mm; 1 mm is 72/25.4 pt (ISO 32000-1). The scale bar is told by its words' place on the page.
        root, _, _, _ = self.folder()
        window = pathlib.Path(WREN).parent / "upland-wren"
        if not window.exists():
            self.skipTest("no window program beside wren")
        pdf = root / "sheet.pdf"
        run("sheet", root / "p.wren", "--out", pdf)
        info = subprocess.run(["pdfinfo", str(pdf)], check=True, capture_output=True, text=True).stdout
        size = re.search(r"Page size:\s+([0-9.]+) x ([0-9.]+) pts", info)
        self.assertAlmostEqual(float(size.group(1)), 210 * 72 / 25.4, delta=0.6)
        self.assertAlmostEqual(float(size.group(2)), 297 * 72 / 25.4, delta=0.6)
        text = subprocess.run(["pdftotext", "-layout", str(pdf), "-"], check=True, capture_output=True, text=True).stdout
        for words in (f"255 mm and 37{SIGN}5 mm", "x 350 mm, y 500 mm", "Eye and ear protection", "reedling-fretboard-01-top-slots.ngc", "100 mm long on paper"):
            self.assertIn(words, text)
        # Measured in the drawing itself: the level line of the bar.
        lengths = self.level_lines(pdf)
        self.assertTrue(any(abs(l - 100 * 72 / 25.4) < 0.05 for l in lengths), lengths[-5:])


if __name__ == "__main__":
    unittest.main()

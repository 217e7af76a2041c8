#!/usr/bin/env python3
"""The command line as its users call it: every command, its exit code, its JSON, and bad input."""
import json
import os
import pathlib
import struct
import subprocess
import sys
import tempfile
import unittest
import zlib

WREN = os.path.abspath(sys.argv.pop(1))
SCRIPTS = pathlib.Path(__file__).resolve().parent.parent / "scripts"


def wren(*args, code=0):
    done = subprocess.run([WREN, *map(str, args)], capture_output=True, text=True, timeout=300)
    assert done.returncode == code, f"{args}: exit {done.returncode}, not {code}\n{done.stdout}{done.stderr}"
    return done


def chunk(kind, data):
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def png(width, height, grey):
    """A grey PNG whose pixel at (x, y) is grey(x, y)."""
    rows = b"".join(b"\0" + bytes(grey(x, y) for x in range(width)) for y in range(height))
    header = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


class CommandLine(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.dir = pathlib.Path(self.folder.name)
        self.file = self.dir / "reedling.wren"
        wren("new", self.file)

    def tearDown(self):
        self.folder.cleanup()

    def get(self, key):
        return json.loads(wren("get", self.file, key, "--json").stdout)[key]

    def test_new_starts_from_the_reedling_and_keeps_what_is_there(self):
        self.assertEqual(self.get("strings.scale_bass")["value"], 635)
        self.assertEqual(self.get("frets.count")["value"], 22)
        self.assertIn("exists", wren("new", self.file, code=3).stderr)
        wren("new", self.file, "--from", "sedge", "--force")
        self.assertEqual(self.get("strings.scale_bass")["value"], 710)
        self.assertIn("reedling", wren("new", self.dir / "x.wren", "--from", "nothing", code=2).stderr)

    def test_every_promised_key_is_there_with_value_unit_origin_and_reason(self):
        keys = """strings.count strings.scale_bass strings.scale_treble strings.square_fret strings.nut_spread strings.bridge_spread
            strings.spacing strings.left_handed frets.count frets.zero_fret frets.tang_width frets.tang_depth board.thickness board.edge_margin
            board.overhang crown.kind crown.radius_nut crown.radius_last slot.width slot.depth slot.bottom slot.ends slot.measured_width board.order
            board.blank.length board.blank.width board.blank.thickness board.tabs board.through crown.scallop""".split()
        ledger = json.loads(wren("get", self.file, "--json").stdout)
        for key in keys:
            self.assertEqual(set(ledger[key]), {"value", "unit", "origin", "reason"}, key)
            self.assertIn(ledger[key]["origin"], ("given", "derived", "measured", "listed"))
        self.assertEqual(ledger["board.length"]["origin"], "derived")
        self.assertEqual(ledger["board.blank.length"]["origin"], "measured")

    def test_materials_are_listed_added_like_others_changed_and_taken_out(self):
        table = json.loads(wren("materials", "--json").stdout)
        self.assertEqual(table["schema"], "upland-wren-materials")
        self.assertGreaterEqual(len(table["materials"]), 40)
        self.assertTrue(all(m["source"] for m in table["materials"]))
        self.assertIn("--add", wren("materials", "--help").stdout)
        wren("materials", "--add", "bog-oak", "--like", "oak-white", code=2)
        self.assertIn("one word", wren("materials", self.file, "--add", "bog oak", "--like", "oak-white", code=3).stderr.lower())
        self.assertIn("spruce", wren("materials", self.file, "--add", "bog", "--like", "spruse", code=3).stderr)
        wren("materials", self.file, "--add", "bog-oak", "--like", "oak-white")
        wren("set", self.file, "material.bog-oak.density=910", "board.blank.wood=bog-oak")
        self.assertEqual(self.get("material.bog-oak.density")["value"], 910)
        mine = [m for m in json.loads(wren("materials", self.file, "--json").stdout)["materials"] if m["of"] == "project"]
        self.assertEqual([(m["name"], m["used"], m["density_kg_m3"]) for m in mine], [("bog-oak", True, 910)])
        self.assertIn("made of", wren("materials", self.file, "--take-out", "bog-oak", code=3).stderr)
        self.assertIn("is outside", wren("set", self.file, "material.bog-oak.density=0", code=3).stderr)
        wren("set", self.file, "board.blank.wood=pear")
        wren("materials", self.file, "--take-out", "bog-oak")
        self.assertIn("unobtainium", wren("set", self.file, "board.blank.wood=unobtainium", code=3).stderr)

    def test_a_spoiled_piece_begins_again_and_a_new_one_like_this_has_no_facts(self):
        self.assertIn("nothing was cut", wren("spoiled", self.file, code=3).stderr)
        wren("measure", self.file, "body.layer_1=6.2")
        told = wren("spoiled", self.file, "layer-1", "--part", "body").stdout
        self.assertIn("measure again: body.layer_1", told)
        self.assertIn("new blank", told)
        self.assertIn("layer-1", wren("spoiled", self.file, "no-such", "--part", "body", code=3).stderr)
        wren("measure", self.file, "body.layer_1=6.1")
        wren("set", self.file, "frets.count=20")
        other = self.dir / "second.wren"
        wren("new", other, "--like", self.file)
        twin = json.loads(other.read_text())
        self.assertEqual(twin["measures"], [])
        self.assertEqual(twin["facts"]["happened"], [])
        self.assertEqual(twin["project"]["name"], "second")
        self.assertEqual(json.loads(wren("get", other, "frets.count", "--json").stdout)["frets.count"]["value"], 20)
        self.assertIn("cannot be opened", wren("new", self.dir / "x.wren", "--like", self.dir / "none.wren", code=3).stderr)
        wren("new", self.dir / "x.wren", "--like", self.file, "--from", "sedge", code=2)

    def test_hand_work_is_listed_in_its_order_and_done_step_by_step(self):
        steps = [s["step"] for s in json.loads(wren("steps", self.file, "--json").stdout)["steps"]]
        self.assertLess(steps.index("neck.hand.board"), steps.index("fretboard.hand.frets"))
        wren("set", self.file, "frets.when=board_loose")
        steps = [s["step"] for s in json.loads(wren("steps", self.file, "--json").stdout)["steps"]]
        self.assertLess(steps.index("fretboard.hand.frets"), steps.index("neck.hand.board"))
        # Nothing is cut yet, but without cuts that are planned nothing is known to come before.
        told = wren("steps", self.file).stdout
        self.assertIn("neck.hand.board", told)
        self.assertIn("waits", told)
        self.assertIn("comes after", wren("done", self.file, "body.hand.strings", code=3).stderr)
        wren("done", self.file, "body.hand.strings", "--anyway")
        self.assertIn("done", wren("steps", self.file).stdout)
        wren("done", self.file, "body.hand.strings", "--not")
        self.assertNotIn("done ", wren("steps", self.file).stdout)
        self.assertIn("no step", wren("done", self.file, "body.hand.paint", code=3).stderr)
        self.assertIn("no step", wren("done", self.file, "nothing", code=3).stderr)
        # A cut is a step of its own name, once its part is planned.
        wren("done", self.file, "fretboard.cut.top.slots")
        facts = json.loads(self.file.read_text())["facts"]["happened"]
        self.assertEqual([f["what"] for f in facts], ["fretboard.cut.top.slots"])

    def test_a_shape_of_a_picture_becomes_part_of_the_instrument(self):
        scan = self.dir / "scan.png"
        # A dark box of 240 by 120 pixels at 6 a millimetre: 40 by 20.
        scan.write_bytes(png(400, 260, lambda x, y: 0 if 80 <= x < 320 and 70 <= y < 190 else 255))
        self.assertIn("how large", wren("take", self.file, scan, "--as", "cavity", code=3).stderr)
        self.assertIn("40", wren("take", self.file, scan, "--list", "--mm-per-pixel", 1 / 6).stdout)
        wren("take", self.file, scan, "--as", "pickup-middle", "--mm-per-pixel", 1 / 6)
        self.assertAlmostEqual(self.get("pickup.middle.length")["value"], 40, delta=0.1)
        self.assertAlmostEqual(self.get("pickup.middle.width")["value"], 20, delta=0.1)
        before = self.file.read_bytes()
        for bad in (("--as", "roof"), ("--as", "cavity", "--curve", 9), ()):
            wren("take", self.file, scan, "--mm-per-pixel", 1 / 6, *bad, code=2 if not bad else 3)
        wren("take", self.file, scan, "--mm-per-pixel", -1, "--as", "cavity", code=3)
        wren("take", self.file, self.dir / "none.png", "--mm-per-pixel", 1, "--as", "cavity", code=3)
        self.assertEqual(self.file.read_bytes(), before)

    def test_a_scanned_sheet_of_gauge_traces_becomes_sections(self):
        scan = self.dir / "gauge.png"
        dot = 25.4 / 150
        # Six filled halves of ellipses, three in a row, as a gauge's traces that were inked: known by their equation.
        shapes = [(20 + 60 * (i % 3), 18 + 40 * (i // 3), 21 + 0.8 * i, 18 + 0.3 * i) for i in range(6)]

        def grey(x, y):
            at = (x * dot, y * dot)
            dark = any(at[1] >= top and ((at[0] - mid - 6) / half) ** 2 + ((at[1] - top) / deep) ** 2 <= 1 for mid, top, half, deep in shapes)
            return 20 if dark else 240

        scan.write_bytes(png(1020, 480, grey))
        said = wren("take", self.file, scan, "--mm-per-pixel", dot, "--as", "sections", "--at", "60 by 45").stdout
        self.assertIn("6 sections", said)
        sections = json.loads(self.file.read_text())["parts"]["neck"]["neck"]["sections"]
        self.assertEqual([s["x"] for s in sections], [60 + 45 * i for i in range(6)])
        for (_, _, half, deep), section in zip(shapes, sections):
            points = section["points"]
            self.assertAlmostEqual(max(p[0] for p in points) - min(p[0] for p in points), 2 * half, delta=0.2)
            self.assertAlmostEqual(max(p[1] for p in points), deep, delta=0.15)
        before = self.file.read_bytes()
        for at in ("60, 70", "", "60 by 0", "here"):
            self.assertIn("Write ", wren("take", self.file, scan, "--mm-per-pixel", dot, "--as", "sections", "--at", at, code=3).stderr)
        self.assertEqual(self.file.read_bytes(), before)

    def test_pictures_lie_behind_drawings_and_stand_beside_the_project(self):
        scan = self.dir / "scan.png"
        scan.write_bytes(png(60, 40, lambda x, y: 255))
        wren("picture", self.file, "--lay", scan, "--behind", "neck.section", "--at", 60, "--mm-per-pixel", 0.17)
        scan.unlink()
        self.assertIn("neck.section at 60", wren("picture", self.file).stdout)
        kept = list((self.dir / "reedling.pictures").iterdir())
        self.assertEqual(len(kept), 1)
        kept[0].unlink()
        self.assertIn("is gone", wren("picture", self.file, code=1).stdout)
        wren("picture", self.file, "--off", "scan.png")
        self.assertEqual(wren("picture", self.file).stdout, "")
        self.assertIn("no picture", wren("picture", self.file, "--off", "scan.png", code=3).stderr)
        cut = self.dir / "cut.png"
        cut.write_bytes(png(60, 40, lambda x, y: 255)[:60])
        for bad, behind in ((cut, "body.plan"), (self.dir / "none.png", "body.plan"), (cut, "roof.plan")):
            wren("picture", self.file, "--lay", bad, "--behind", behind, code=3)
        huge = self.dir / "huge.png"  # 400 million points, and nothing of them there
        header = struct.pack(">IIBBBBB", 20000, 20000, 8, 0, 0, 0, 0)
        huge.write_bytes(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(b"")) + chunk(b"IEND", b""))
        self.assertIn("20000", wren("picture", self.file, "--lay", huge, "--behind", "body.plan", code=3).stderr)
        self.assertEqual(list((self.dir / "reedling.pictures").iterdir()), [])

    def test_values_are_parsed_like_a_field_and_print_as_mm(self):
        wren("set", self.file, "strings.scale_bass=25 1/2 in", "strings.scale_treble=647.7", "frets.count=24", "strings.left_handed=yes", "crown.kind=cylinder", "slot.measured_width=0.57")
        self.assertAlmostEqual(self.get("strings.scale_bass")["value"], 647.7)
        self.assertIn("strings.scale_bass = 647.7 mm", wren("get", self.file, "strings.scale_bass").stdout)
        self.assertIs(self.get("strings.left_handed")["value"], True)
        self.assertEqual(self.get("slot.measured_width")["origin"], "measured")
        wren("set", self.file, "slot.measured_width=none")
        self.assertIsNone(self.get("slot.measured_width")["value"])
        before = self.file.read_bytes()
        for bad in ("frets.count=400", "strings.scale_bass=-3", "strings.scale_bass=nan", "strings.count=many", "crown.kind=square", "no.such.key=1", "frets.count"):
            self.assertTrue(wren("set", self.file, "board.overhang=12", bad, code=3).stderr.startswith("wren: "), bad)
        self.assertEqual(self.file.read_bytes(), before, "a refused change changed the file")

    def test_remarks_tell_by_their_exit_code(self):
        wren("remarks", self.file)
        wren("set", self.file, "board.blank.thickness=5")
        said = json.loads(wren("remarks", self.file, "--json", code=1).stdout)
        thin = [r for r in said["remarks"] if r["kind"] == "blank.thin"][0]
        self.assertEqual((thin["weight"], thin["number"], thin["limit"], thin["place"]), ("stop", 5, 6.35, "board.blank.thickness"))
        edits = [f"{k}={v}" for k, v in thin["repair"]["set"].items()]
        wren("set", self.file, *edits)
        self.assertNotIn("blank.thin", wren("remarks", self.file, "--json", code=0).stdout)

    def test_no_program_is_written_where_something_stops_the_work(self):
        wren("set", self.file, "board.through=0")
        self.assertIn("no program was written", wren("programs", self.file, "--out", self.dir / "p", code=1).stderr)
        self.assertFalse((self.dir / "p").exists())

    def test_programs_prove_and_a_stranger_can_prove_them_again(self):
        out = self.dir / "programs" / "fretboard"
        before = self.file.read_bytes()
        wren("programs", self.file, "--out", out.parent)
        manifest = json.loads((out / "manifest.json").read_text())
        names = [p["file"] for p in manifest["programs"]]
        self.assertEqual(sorted(names), sorted(p.name for p in out.glob("*.ngc")))
        self.assertIn("PROVED", wren("prove", self.file).stdout)
        again = json.loads(wren("prove", self.file, *[out / n for n in names], "--json").stdout)
        self.assertTrue(again["passed"])
        self.assertTrue(all(p["sealed"] for p in again["programs"]))
        text = (out / names[0]).read_text()
        broken = self.dir / "broken.ngc"
        broken.write_text(text[: text.index("\n", len(text) // 2) + 1])
        self.assertIn("cut short", wren("prove", self.file, broken, code=3).stderr)
        flipped = text.replace("Y20", "Y21", 1)
        broken.write_text(flipped)
        self.assertIn("checksum", wren("prove", self.file, broken, code=3).stderr)
        # One of ours that tells the hand another zero, sealed again: by its name it is known what it has to say.
        lied = self.dir / "lied"
        lied.mkdir()
        body = text[: text.rindex("(end: ")].replace("(zero: ", "(zero: not at the ", 1)
        sealed = f"{body}(end: {body.count(chr(10)) + 1} lines, crc32 {zlib.crc32(body.encode()):08x})\n"
        (lied / names[0]).write_text(sealed)
        told = wren("prove", self.file, lied / names[0], *[out / n for n in names[1:]], code=1).stdout
        self.assertIn("The header of " + names[0] + " says 'zero: not at the ", told)
        foreign = self.dir / "foreign.ngc"
        foreign.write_text("G21 G90\nM3 S12000\nG0 X100 Y30 Z5\nG1 Z-3 F200\nX120\nG0 Z5\nM30\n")
        self.assertIn("wood is missing", wren("prove", self.file, foreign, "--cutter", "flat-6.35", code=1).stdout)
        # The folder's manifest is the record of what was written: the project is not touched.
        self.assertEqual(self.file.read_bytes(), before)
        self.assertEqual(len(manifest["fingerprint"]), 16)
        wren("check", out.parent)
        wren("check", out)
        # An older one that lies beside them would be the first that a hand loads.
        older = out / "a-older.nc"
        older.write_text(text)
        told = wren("check", out.parent, code=1).stdout
        self.assertIn("fretboard/a-older.nc lies there too", told)
        self.assertNotIn("Every file", told)
        told = wren("prove", self.file, "--folder", out).stdout
        self.assertIn("a-older.nc lies there too", told)
        self.assertIn("PROVED", told)
        older.unlink()
        # Written again from other numbers: the set before stands in `old`, and only there.
        (out / "notes.txt").write_text("mine")
        wren("set", self.file, "board.tabs=2", "project.name=Second")
        said = wren("programs", self.file, "--out", out.parent).stderr
        self.assertIn(str(out / "old"), said)
        self.assertIn("notes.txt", said)
        self.assertFalse([n for n in names if (out / n).exists()])
        self.assertTrue(all((out / "old" / n).exists() for n in names))
        self.assertNotEqual(json.loads((out / "manifest.json").read_text())["fingerprint"], manifest["fingerprint"])

    def test_a_proof_says_what_it_did_not_look_at_and_what_errors_leave(self):
        told = wren("prove", self.file, "--part", "coupon").stdout
        self.assertIn("Thinnest tab: as drawn 2 mm, likely worst", told)
        self.assertIn("for assumed lengths of T", told)
        piece = json.loads(wren("prove", self.file, "--part", "coupon", "--json").stdout)["pieces"][0]
        self.assertEqual({c["level"] for c in piece["under_error"]}, {"drawn", "likely", "worst"})
        self.assertLess(piece["cavity_wide_mm"], 0.05)
        self.assertIn("NOT LOOKED AT", wren("prove", self.file, "--part", "coupon", "--cell", "0.4", code=1).stdout)
        self.assertIn("no such part", wren("prove", self.file, "--part", "cradle", code=3).stderr)
        # Tabs that the probe's error alone would cut through: proved as drawn they are not.
        wren("set", self.file, "board.tab_height=0.5", "machine.probe_error=0.3")
        self.assertIn("it does not hold", wren("prove", self.file, "--part", "coupon", code=1).stdout)
        wren("set", self.file, "machine.probe_error=0.05")
        wren("prove", self.file, "--part", "coupon")

    def test_programs_say_where_z_is_found(self):
        out = self.dir / "programs" / "coupon"
        wren("programs", self.file, "--part", "coupon", "--out", out.parent)
        manifest = json.loads((out / "manifest.json").read_text())
        for entry in manifest["programs"]:
            self.assertEqual(entry["probe"]["on"], "blank top")
            self.assertEqual(entry["probe"]["z_mm"], 0)
            self.assertIn("(probe z on: the blank's top at x", (out / entry["file"]).read_text())
        self.assertIn("PROVED", wren("prove", self.file, "--part", "coupon", "--folder", out).stdout)
        for entry in manifest["programs"]:
            entry["probe"] = {"on": "waste board", "at_mm": [-1e9, 0], "z_mm": -12}
        (out / "manifest.json").write_text(json.dumps(manifest))
        self.assertIn("does not reach", wren("prove", self.file, "--part", "coupon", "--folder", out, code=1).stdout)

    def test_arcs_larger_than_any_machine_are_refused(self):
        big = self.dir / "big.ngc"
        head = ["G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G61", "G53 G0 Z0", "T5 M6", "G53 G0 Z0", "S18000 M3", "G4 P3", "G0 X0 Y0", "Z5", "F1000"]
        for radius, count, says in ((9000, 4000, "million straight moves"), (90000, 2, "single precision")):
            lines = [f"G2 X{(k + 1) % 2} Y0 I{0.5 if k % 2 == 0 else -0.5} J-{radius}" for k in range(count)]
            big.write_text("\n".join(head + lines + ["G53 G0 Z0", "M5", "G53 G0 X350 Y990", "M30", ""]))
            self.assertIn(says, wren("prove", self.file, big, code=3).stderr)

    def test_the_same_input_gives_the_same_bytes(self):
        env = dict(os.environ, SOURCE_DATE_EPOCH="1795000000")
        for name in ("a", "b"):
            subprocess.run([WREN, "programs", str(self.file), "--out", str(self.dir / name)], check=True, env=env, capture_output=True)
        for one in (self.dir / "a" / "fretboard").iterdir():
            self.assertEqual(one.read_bytes(), (self.dir / "b" / "fretboard" / one.name).read_bytes())

    def test_what_cannot_be_said_is_told_and_what_a_shell_is_given_it_takes(self):
        for command in (["get", self.file], ["get", self.file, "--json"], ["frets", self.file], ["remarks", self.file]):
            with open("/dev/full", "w") as full:
                done = subprocess.run([WREN, *map(str, command)], stdout=full, stderr=subprocess.PIPE, text=True)
            self.assertEqual(done.returncode, 3, done.stderr)
            self.assertIn("cannot be written", done.stderr)
        self.assertRegex(wren("--version").stdout, r"^wren \d+\.\d+\.\d+")
        # A repair as it is printed is a call that the shell takes, also of a file with a blank and a quote in its name.
        odd = self.dir / "Ned's board.wren"
        wren("new", odd, "--from", "reedling")
        wren("set", odd, "machine.travel_x=300", "board.order=crown_first")
        lines = [l.split(": ", 1)[1] for l in wren("remarks", odd, code=1).stdout.splitlines() if ": wren set " in l]
        self.assertTrue(lines)
        for line in lines:
            call = line[line.index("wren set"):].replace("wren", WREN, 1)
            done = subprocess.run(["sh", "-c", call], capture_output=True, text=True)
            self.assertEqual(done.returncode, 0, call + done.stderr)

    def test_nothing_is_written_over_that_is_something_else(self):
        other = self.dir / "other.wren"
        wren("new", other, "--from", "bass")
        kept = other.read_bytes()
        for command in (("sheet", self.file, "--out", other), ("export", self.file, "--out", other), ("export", self.file, "--part", "neck", "--out", self.file)):
            wren(*command, code=3)
        self.assertEqual(other.read_bytes(), kept)
        disguised = self.dir / "plan.dxf"
        disguised.write_bytes(kept)
        self.assertIn("a project stands there", wren("export", self.file, "--part", "body", "--out", disguised, code=3).stderr)
        self.assertEqual(disguised.read_bytes(), kept)

    def test_awkward_names_and_numbers_are_sentences(self):
        self.assertIn("wren: ", wren("new", self.dir / ("n" * 300 + ".wren"), code=3).stderr)
        for router in ("nan", "inf", "0", "-3", "400"):
            self.assertIn("not possible", wren("export", self.file, "--part", "body", "--out", self.dir / "b.dxf", "--router", router, code=3).stderr)
            self.assertIn("not possible", wren("export", self.file, "--part", "body", "--out", self.dir / "b.pdf", "--follower", router, code=3).stderr)
        os.mkfifo(self.dir / "pipe.wren")
        self.assertIn("a pipe", wren("get", self.dir / "pipe.wren", code=3).stderr)
        self.assertIn("a folder", wren("get", self.dir, code=3).stderr)

    def test_a_file_in_use_is_told_with_who_and_since_when(self):
        import fcntl
        lock = self.dir / f".{self.file.name}.lock"
        with open(lock, "w") as held:
            held.write("the window since 2026-11-25 14:32 (process 4711 on bench)\n")
            held.flush()
            fcntl.flock(held, fcntl.LOCK_EX)
            said = wren("set", self.file, "frets.count=23", code=3).stderr
            self.assertIn("in use by the window since 2026-11-25 14:32", said)
            wren("get", self.file, "frets.count")  # readers never wait
        wren("set", self.file, "frets.count=23")  # left behind by the dead: taken over
        self.assertFalse(lock.exists())

    def test_every_document_says_what_it_is(self):
        plan = self.dir / "square.dxf"
        plan.write_text("0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n8\n0\n90\n4\n70\n1\n10\n0\n20\n0\n10\n90\n20\n0\n10\n90\n20\n40\n10\n0\n20\n40\n0\nENDSEC\n0\nEOF\n")
        calls = {"ledger": ("get", self.file), "remarks": ("remarks", self.file), "crown": ("crown", self.file), "plan": ("plan", self.file, plan), "proof-report": ("prove", self.file, "--part", "coupon")}
        for schema, call in calls.items():
            doc = json.loads(wren(*call, "--json").stdout)
            self.assertEqual((doc["schema"], doc["version"]), (f"upland-wren-{schema}", 1))

    def test_a_call_in_a_pipe_reads_and_writes_its_streams(self):
        def piped(*args, given, code=0):
            done = subprocess.run([WREN, *map(str, args)], input=given, capture_output=True, timeout=300)
            self.assertEqual(done.returncode, code, done.stderr)
            return done
        made = piped("new", "-", "--from", "sedge", given=b"").stdout
        wren("new", self.dir / "s.wren", "--from", "sedge")
        # A file's instrument has an id of its own; a stream is nobody's yet.
        kept = json.loads((self.dir / "s.wren").read_text())
        self.assertRegex(kept["facts"].pop("instrument"), "^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$")
        self.assertEqual(json.loads(made), kept)
        changed = piped("set", "-", "frets.count=23", given=made)
        self.assertIn(b"frets.count = 23", piped("get", "-", "frets.count", given=changed.stdout).stdout)
        refused = piped("set", "-", "frets.count=900", given=made, code=3)
        self.assertEqual(refused.stdout, b"")  # nothing half done goes down the pipe
        piped("get", "-", given=made[: len(made) // 2], code=3)
        # What is told goes beside a document.
        stl = piped("export", "-", "--out", "-", "--format", "stl", given=made)
        self.assertEqual(stl.stdout, wren("export", self.dir / "s.wren", "--out", self.dir / "s.stl") and (self.dir / "s.stl").read_bytes())
        self.assertTrue(piped("export", "-", "--part", "body", "--out", "-", "--format", "pdf", "--paper", "a3", given=made).stdout.startswith(b"%PDF"))
        self.assertTrue(piped("export", "-", "--out", "-", "--format", "step", given=made).stdout.startswith(b"ISO-10303-21"))
        self.assertIn(b"--format", piped("export", "-", "--out", "-", given=made, code=2).stderr)
        svg = b"<svg xmlns='http://www.w3.org/2000/svg' width='300mm' height='400mm' viewBox='0 0 300 400'><rect width='120' height='50'/></svg>"
        self.assertIn(b"120.00 x 50.00", piped("plan", self.file, "-", given=svg).stdout)
        self.assertIn(b"only one thing", piped("plan", "-", "-", "--take", given=svg, code=3).stderr)
        body = piped("carve", "-", self.sections(), given=made)
        self.assertIn(b'"carve_lines"', body.stdout)

    def sections(self):
        csv = self.dir / "face.csv"
        csv.write_text("x,y,depth\n" + "".join(f"{x},{y},{abs(y) / 80}\n" for x in range(380, 820, 40) for y in range(-160, 161, 20)))
        return csv

    def test_quiet_says_only_what_was_asked_for(self):
        self.assertEqual(wren("new", self.dir / "q.wren", "--quiet").stdout, "")
        self.assertEqual(wren("-q", "set", self.dir / "q.wren", "frets.count=21").stderr, "")
        said = wren("prove", self.file, "--part", "coupon", "--quiet").stdout
        self.assertEqual(len(said.splitlines()), 1, said)
        self.assertIn("PROVED", said)
        self.assertIn("frets.count = 22", wren("get", self.file, "frets.count", "-q").stdout)
        self.assertEqual(wren("programs", self.file, "--part", "coupon", "--out", self.dir / "o", "-q").stdout, "")
        self.assertEqual(wren("check", self.dir / "o", "-q").stdout, "")
        # How far it is stands on a terminal only.
        self.assertNotIn("\r", wren("prove", self.file, "--part", "coupon").stderr)
        import pty
        ours, theirs = pty.openpty()
        subprocess.run([WREN, "prove", str(self.file), "--part", "coupon"], stdout=subprocess.PIPE, stderr=theirs, timeout=300)
        os.close(theirs)
        shown = os.read(ours, 65536).decode()
        os.close(ours)
        self.assertIn("proving", shown)
        self.assertIn("%", shown)

    def test_shells_complete_from_the_same_table(self):
        def completed(*words):
            script = f"""set -u; COMP_WORDS=({' '.join(f"'{w}'" for w in words)}); COMP_CWORD={len(words) - 1}; _wren; printf '%s\n' "${{COMPREPLY[@]}}" """
            done = subprocess.run(["bash", "-c", f'source <("{WREN}" completion bash); {script}'], capture_output=True, text=True, cwd=self.dir)
            self.assertEqual(done.returncode, 0, done.stderr)
            return done.stdout.split()
        self.assertEqual(completed("wren", "pro"), ["programs", "prove"])
        self.assertIn("--paper", completed("wren", "export", "--p"))
        self.assertEqual(completed("wren", "export", "x.wren", "--paper", "a"), ["a4", "a3"])
        self.assertIn("neck", completed("wren", "prove", "--part", "ne"))
        self.assertIn("reedling.wren", completed("wren", "get", "ree"))
        self.assertEqual(completed("wren", "completion", "z"), ["zsh"])
        self.assertIn("--quiet", completed("wren", "set", "--q"))
        commands = [l.split()[0] for l in wren("--help").stdout.split("Subcommands:")[1].splitlines() if l.startswith("  ")]
        for shell in ("bash", "fish", "zsh"):
            script = wren("completion", shell).stdout
            for command in commands:
                self.assertIn(command, script)
        wren("completion", "other", code=2)

    def test_the_manual_has_a_page_for_every_command(self):
        wren("man", "--out", self.dir / "m")
        pages = {p.name for p in (self.dir / "m" / "man1").iterdir()}
        commands = [l.split()[0] for l in wren("--help").stdout.split("Subcommands:")[1].splitlines() if l.startswith("  ")]
        self.assertEqual(pages, {"wren.1"} | {f"wren-{c}.1" for c in commands})
        page = wren("man", "plan").stdout
        self.assertEqual(page, (self.dir / "m" / "man1" / "wren-plan.1").read_text())
        for word in (".TH WREN\\-PLAN 1", ".SH SYNOPSIS", "\\-\\-known\\-length", "FROM"):
            self.assertIn(word, page)
        for line in page.splitlines():  # no text is taken for a request
            if line.startswith((".", "'")):
                self.assertRegex(line, r"^\.(TH|SH|TP|B) ?")
        self.assertIn("no command", wren("man", "nothing", code=2).stderr)

    def test_a_plan_is_taken_over_whole(self):
        plan = self.dir / "plan.svg"
        wren("export", self.file, "--part", "body", "--out", plan)
        whole = wren("plan", self.file, plan, "--take", "--all", "--depth", "9").stdout
        self.assertIn("outline", whole)
        body = json.loads(self.file.read_text())["parts"]["body"]["body"]
        self.assertGreater(len(body["cavities"]) + len(body.get("holes", [])), 3)
        self.assertIn("closed curves", wren("plan", self.file, plan, "--take", "--pick", "900", code=3).stderr)
        before = self.file.read_bytes()
        wren("plan", self.file, plan, "--take", "--pick", "1", "--hole", "x", code=3)
        wren("plan", self.file, plan, "--join", "90", code=3)
        self.assertEqual(self.file.read_bytes(), before)
        wren("plan", self.file, plan, "--take", "--instead", "--cavity", "only", "--pick", "2", "--depth", "4")
        body = json.loads(self.file.read_text())["parts"]["body"]["body"]
        self.assertEqual([c["name"] for c in body["cavities"]], ["only"])

    def test_frets_as_text_and_csv(self):
        self.assertIn("wire in all", wren("frets", self.file).stdout)
        rows = wren("frets", self.file, "--csv").stdout.splitlines()
        self.assertEqual(len(rows), 23)

    def test_crown_table(self):
        table = json.loads(wren("crown", self.file, "--json").stdout)["cutters"]
        self.assertGreater(len(table), 8)
        self.assertEqual([r["minutes"] for r in table], sorted(r["minutes"] for r in table))

    def test_bad_files_and_bad_calls(self):
        whole = self.file.read_text()
        bad = self.dir / "bad.wren"
        for text in ("", "{", whole[: len(whole) // 2], whole.replace('"version": 3', '"version": 7'), whole.replace("635.0", '"635"', 1), whole.replace("635.0", "-1", 1), whole.replace("635.0", "NaN", 1), "\0\0\0"):
            bad.write_text(text)
            said = wren("remarks", bad, code=3).stderr
            self.assertTrue(said.startswith("wren: bad.wren"), said)
        self.assertIn("cannot be opened", wren("get", self.dir / "none.wren", code=3).stderr)
        wren(code=2)
        wren("nothing", code=2)
        wren("set", self.file, code=2)
        self.assertIn("Exit codes", wren("--help").stdout)
        for command in ("new", "get", "set", "remarks", "programs", "prove", "sheet", "frets", "crown"):
            self.assertIn("FILE", wren(command, "--help").stdout)
        self.assertIn("no part", wren("programs", self.file, "--out", self.dir / "x", "--part", "soundboard", code=2).stderr)
        wren("set", self.file, "slot.cutter=slot-9")
        self.assertIn("not in the rack", wren("remarks", self.file, code=1).stdout)


class NeckCommandLine(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.dir = pathlib.Path(self.folder.name)
        self.file = self.dir / "r.wren"
        wren("new", self.file)
        wren("set", self.file, "neck.scallop=0.04")

    def tearDown(self):
        self.folder.cleanup()

    def test_from_numbers_to_proved_programs_of_both_sides(self):
        self.assertEqual(json.loads(wren("remarks", self.file, "--part", "neck", "--json").stdout)["stops_work"], False)
        wren("programs", self.file, "--part", "neck", "--out", self.dir / "p")
        files = sorted((self.dir / "p" / "neck").glob("*.ngc"))
        self.assertGreaterEqual(len(files), 10)
        told = json.loads(wren("prove", self.file, "--part", "neck", "--json").stdout)
        self.assertTrue(told["passed"])
        self.assertEqual((told["holes_open"], told["tabs"], told["cut_free"]), (6, 6, True))
        # The files as they were written prove the same; without the outline the neck stays in its blank.
        self.assertIn("PROVED", wren("prove", "--part", "neck", self.file, *files).stdout)
        less = [f for f in files if "finish" not in f.name]
        self.assertIn("NOT PROVED", wren("prove", "--part", "neck", self.file, *less, code=1).stdout)
        wren("sheet", self.file, "--part", "neck", "--out", self.dir / "s.pdf")
        self.assertTrue((self.dir / "s.pdf").read_bytes().startswith(b"%PDF"))

    def test_what_stops_the_work_keeps_programs_from_being_written(self):
        wren("set", self.file, "neck.thickness_a=15", "neck.shape_a=hard_v")
        told = json.loads(wren("remarks", self.file, "--part", "neck", "--json", code=1).stdout)
        stop = next(r for r in told["remarks"] if r["weight"] == "stop")
        self.assertIn("repair", stop)
        wren("programs", self.file, "--part", "neck", "--out", self.dir / "p", code=1)
        self.assertFalse((self.dir / "p").exists())
        wren("set", self.file, *[f"{k}={v}" for k, v in stop["repair"]["set"].items()])

    def test_measures_are_kept_with_date_instrument_and_note(self):
        wren("measure", self.file, "neck.heel_width=2 3/16 in", "--with", "micrometer", "--note", "after sanding")
        line = json.loads(wren("get", self.file, "measured.neck.heel_width", "--json").stdout)["measured.neck.heel_width"]
        self.assertAlmostEqual(line["value"], 55.5625)
        self.assertEqual(line["origin"], "measured")
        self.assertIn("micrometer", line["reason"])
        self.assertIn("after sanding", line["reason"])
        self.assertIn("Choose one of", wren("measure", self.file, "neck.colour=3", code=3).stderr)
        wren("measure", self.file, "neck.heel_width=-4", code=3)
        kept = json.loads(self.file.read_text())["measures"]
        self.assertEqual(len(kept), 1)

    def test_sections_and_head_outlines_come_in_or_are_refused_whole(self):
        before = self.file.read_bytes()
        bad = self.dir / "bad.csv"
        bad.write_text("x,y,depth\n10,0\n")
        self.assertIn("line 2", wren("sections", self.file, bad, code=3).stderr)
        for name, text in (("a.dxf", "no drawing"), ("a.svg", "<svg><path d='M 0 0'"), ("b.dxf", "0\nSECTION\n2\nENTITIES\n")):
            (self.dir / name).write_text(text)
            wren("head", self.file, self.dir / name, code=3)
        self.assertEqual(self.file.read_bytes(), before)
        wren("export", self.file, "--out", self.dir / "s.csv")
        rows = [r.split(",") for r in (self.dir / "s.csv").read_text().splitlines()[1:]]
        good = self.dir / "good.csv"
        good.write_text("\n".join(",".join(r) for r in rows if 30 < float(r[0]) < 360))
        self.assertIn("sections", wren("sections", self.file, good).stdout)
        wren("sections", self.file, "--forget")
        wren("export", self.file, "--out", self.dir / "n.obj", code=3)

    def test_a_left_handed_fanned_eight_string_with_a_tilted_head(self):
        wren("set", self.file, "strings.count=8", "strings.scale_bass=710", "strings.scale_treble=660", "strings.nut_spread=49", "strings.bridge_spread=72", "strings.left_handed=yes", "strings.gauges=none", "frets.count=24",
             "crown.kind=cylinder", "crown.radius_nut=508", "board.end=slanted", "head.kind=tilted", "head.angle_deg=11", "head.volute=yes", "head.scarf=yes", "head.tuners_bass=5", "tuner.body_in=6", "rod.length=450",
             "neck.blank.length=820", "neck.blank.width=170", "neck.blank.wood=maple", "neck.blank.lie=y", "machine.clear_under_nut=180", "machine.travel_z=150", "neck.rough_cutter=flat-6.35-long",
             "neck.edge_cutter=flat-6.35-long", "neck.outline_cutter=flat-6.35-long", "neck.finish_cutter=ball-6.35-long", "neck.heel_hole_across=50")
        told = json.loads(wren("prove", self.file, "--part", "neck", "--json").stdout)
        self.assertTrue(told["passed"])
        self.assertEqual(told["holes_open"], 8)
        line = json.loads(wren("get", self.file, "scarf.face", "scarf.plank_length", "--json").stdout)
        self.assertGreater(line["scarf.face"]["value"], 100)

    def test_a_one_piece_neck_with_its_rod_from_the_back(self):
        wren("set", self.file, "neck.build=one_piece", "neck.blank.thickness=31.5", "neck.blank.width=122", "rod.cover=4", "neck.channel_cutter=flat-6.35-long", "neck.rough_cutter=flat-6.35-long", "neck.edge_cutter=flat-6.35-long",
             "neck.outline_cutter=flat-6.35-long", "neck.finish_cutter=ball-6.35-long")
        told = json.loads(wren("prove", self.file, "--part", "neck", "--json").stdout)
        self.assertTrue(told["passed"])
        self.assertTrue(any(p["name"].endswith("back-rod.ngc") for p in told["programs"]))

    def test_another_language_is_a_file(self):
        (self.dir / "bin").mkdir()
        messages = self.dir / "share" / "locale" / "xx" / "LC_MESSAGES"
        messages.mkdir(parents=True)
        (self.dir / "bin" / "wren").write_bytes(pathlib.Path(WREN).read_bytes())
        (self.dir / "bin" / "wren").chmod(0o755)
        template = subprocess.run([str(SCRIPTS / "messages"), "--list"], check=True, capture_output=True, text=True).stdout
        asked = {"there is no number called '{}' that can be set": "nenia nombro '{}'",
                 "Heel holes {} deep leave {} before the glue plane.": "Restas {1}, profundo {0}."}
        for english in asked:
            self.assertIn(f'msgid "{english}"', template)
        self.assertIn('msgid_plural "{} tabs let the board tip', template)
        self.assertNotIn("msgid \"neck.cut", template)
        head = 'msgid ""\nmsgstr "Content-Type: text/plain; charset=UTF-8\\n"\n'
        po = head + "".join(f'\nmsgid "{e}"\nmsgstr "{t}"\n' for e, t in asked.items())
        subprocess.run(["msgfmt", "-c", "-o", str(messages / "upland-wren.mo"), "-"], input=po, text=True, check=True)
        wren("set", self.file, "neck.heel_hole_depth=20")

        def there(*args):
            return subprocess.run([str(self.dir / "bin" / "wren"), *map(str, args)], capture_output=True, text=True,
                                  env={**os.environ, "LC_ALL": "C.UTF-8", "LANGUAGE": "xx"}, timeout=300)

        self.assertIn("nenia nombro 'neck.colour'", there("set", self.file, "neck.colour=3").stderr)
        told = there("remarks", self.file, "--part", "neck").stdout
        self.assertRegex(told, r"Restas -?[0-9.]+ mm, profundo 20 mm\.")
        # Scripts read the same everywhere.
        self.assertEqual(there("remarks", self.file, "--part", "neck", "--json").stdout,
                         subprocess.run([WREN, "remarks", str(self.file), "--part", "neck", "--json"], capture_output=True, text=True).stdout)


if __name__ == "__main__":
    unittest.main()

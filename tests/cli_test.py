#!/usr/bin/env python3
"""The command line as its users call it: every command, its exit code, its JSON, and bad input."""
import json
import os
import pathlib
import subprocess
import sys
import tempfile
import unittest

WREN = sys.argv.pop(1)


def wren(*args, code=0):
    done = subprocess.run([WREN, *map(str, args)], capture_output=True, text=True, timeout=120)
    assert done.returncode == code, f"{args}: exit {done.returncode}, not {code}\n{done.stdout}{done.stderr}"
    return done


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
        self.assertIn("Choose", wren("new", self.dir / "x.wren", "--from", "nothing", code=3).stderr)

    def test_every_promised_key_is_there_with_value_unit_origin_and_reason(self):
        keys = """strings.count strings.scale_bass strings.scale_treble strings.square_fret strings.nut_spread strings.bridge_spread
            strings.spacing strings.left_handed frets.count frets.zero_fret frets.tang_width frets.tang_depth board.thickness board.edge_margin
            board.overhang crown.kind crown.radius_nut crown.radius_last slot.width slot.depth slot.bottom slot.ends slot.measured_width board.order
            board.blank.length board.blank.width board.blank.thickness board.tabs board.through crown.scallop""".split()
        ledger = json.loads(wren("get", self.file, "--json").stdout)
        for key in keys:
            self.assertEqual(set(ledger[key]), {"value", "unit", "origin", "reason"}, key)
            self.assertIn(ledger[key]["origin"], ("given", "derived", "measured"))
        self.assertEqual(ledger["board.length"]["origin"], "derived")
        self.assertEqual(ledger["board.blank.length"]["origin"], "measured")

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
        out = self.dir / "programs"
        wren("programs", self.file, "--out", out)
        manifest = json.loads((out / "manifest.json").read_text())
        names = [p["file"] for p in manifest["programs"]]
        self.assertEqual(sorted(names), sorted(p.name for p in out.glob("*.ngc")))
        self.assertIn("PROVED", wren("prove", self.file).stdout)
        again = json.loads(wren("prove", "--against", self.file, *[out / n for n in names], "--json", "--cell", "0.2").stdout)
        self.assertTrue(again["passed"])
        self.assertTrue(all(p["sealed"] for p in again["programs"]))
        text = (out / names[0]).read_text()
        broken = self.dir / "broken.ngc"
        broken.write_text(text[: len(text) // 2])
        self.assertIn("cut short", wren("prove", "--against", self.file, broken, code=3).stderr)
        flipped = text.replace("Y20", "Y21", 1)
        broken.write_text(flipped)
        self.assertIn("checksum", wren("prove", "--against", self.file, broken, code=3).stderr)
        foreign = self.dir / "foreign.ngc"
        foreign.write_text("G21 G90\nM3 S12000\nG0 X100 Y30 Z5\nG1 Z-3 F200\nX120\nG0 Z5\nM30\n")
        self.assertIn("Wood is missing", wren("prove", "--against", self.file, foreign, "--cutter", "flat-6.35", code=1).stdout)
        # What was written is found again in the project.
        self.assertEqual(json.loads(self.file.read_text())["written"][0]["path"], str(out))

    def test_the_same_input_gives_the_same_bytes(self):
        env = dict(os.environ, SOURCE_DATE_EPOCH="1795000000")
        for name in ("a", "b"):
            subprocess.run([WREN, "programs", str(self.file), "--out", str(self.dir / name)], check=True, env=env, capture_output=True)
        for one in (self.dir / "a").iterdir():
            self.assertEqual(one.read_bytes(), (self.dir / "b" / one.name).read_bytes())

    def test_frets_as_text_and_csv(self):
        self.assertIn("wire in all", wren("frets", self.file).stdout)
        rows = wren("frets", self.file, "--csv").stdout.splitlines()
        self.assertEqual(len(rows), 23)

    def test_crown_table(self):
        table = json.loads(wren("crown", self.file, "--json").stdout)
        self.assertGreater(len(table), 8)
        self.assertEqual([r["minutes"] for r in table], sorted(r["minutes"] for r in table))

    def test_bad_files_and_bad_calls(self):
        whole = self.file.read_text()
        bad = self.dir / "bad.wren"
        for text in ("", "{", whole[: len(whole) // 2], whole.replace('"version": 1', '"version": 7'), whole.replace("635.0", '"635"', 1), whole.replace("635.0", "-1", 1), whole.replace("635.0", "NaN", 1), "\0\0\0"):
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
        self.assertIn("no part", wren("programs", self.file, "--out", self.dir / "x", "--part", "neck", code=3).stderr)
        wren("set", self.file, "slot.cutter=slot-9")
        self.assertIn("not in the rack", wren("remarks", self.file, code=1).stdout)


if __name__ == "__main__":
    unittest.main()

"""The command line with an invented part in its table: every command that takes --part takes it. Call: cli_walk.py WREN"""
import json
import pathlib
import subprocess
import sys
import tempfile
import unittest

WREN = pathlib.Path(sys.argv.pop()).resolve()


class Walk(unittest.TestCase):
    def setUp(self):
        self.dir = pathlib.Path(tempfile.mkdtemp(prefix="wren-invented-"))
        self.file = self.dir / "a.wren"
        self.wren("new", self.file, "--from", "plain")

    def wren(self, *args, code=0):
        r = subprocess.run([WREN, *map(str, args)], capture_output=True, text=True, timeout=300)
        self.assertEqual(r.returncode, code, r.stdout + r.stderr)
        return r.stdout + r.stderr

    def test_numbers_are_kept_in_the_file(self):
        self.wren("set", self.file, "spacer.size=52 mm", "spacer.hole=1 in")
        self.assertIn("25.4", self.wren("get", self.file, "spacer.hole"))
        self.assertIn('"spacer"', self.file.read_text())
        self.assertIn("spacer.size", self.wren("set", self.file, "spacer.size=900", code=3))

    def test_remarks_programs_and_proof(self):
        self.wren("set", self.file, "spacer.size=60")
        self.wren("remarks", self.file, "--part", "spacer")
        out = self.dir / "out"
        self.wren("programs", self.file, "--part", "spacer", "--out", out)
        out = out / "spacer"
        manifest = json.loads((out / "manifest.json").read_text())
        self.assertEqual({p["part"] for p in manifest["programs"]}, {"spacer"})
        said = self.wren("prove", self.file, "--part", "spacer", "--folder", out)
        self.assertIn("PROVED", said)
        # and it can say no: a program of another size is not this one's
        self.wren("set", self.file, "spacer.size=61")
        self.assertIn("NOT PROVED", self.wren("prove", self.file, "--part", "spacer", "--folder", out, code=1))

    def test_a_number_from_which_no_spacer_follows(self):
        self.wren("set", self.file, "spacer.hole=39")
        self.assertIn("spacer.hole", self.wren("programs", self.file, "--part", "spacer", "--out", self.dir / "o", code=3))

    def test_parts_that_this_table_does_not_have_are_kept(self):
        other = json.loads(self.file.read_text())
        other["parts"]["neck"] = {"first": 20.5}
        self.file.write_text(json.dumps(other))
        self.wren("set", self.file, "spacer.size=44")
        self.assertEqual(json.loads(self.file.read_text())["parts"]["neck"], {"first": 20.5})

    def test_unknown_parts_are_told(self):
        self.assertIn("fretboard or spacer", self.wren("programs", self.file, "--part", "neck", "--out", self.dir / "o", code=2))


if __name__ == "__main__":
    unittest.main()

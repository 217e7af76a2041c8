#!/usr/bin/env python3
"""Saving and writing programs under faults: the first, second, … call that changes the disk fails, the disk is full from
there on, the program is killed there, or killed at a random moment. Each time the project file and the set of programs are
whole, old or new, what the exit code says is so, and the next call works.

usage: sweep.py WREN SHIM.so [--full]    without --full every third moment is tried, from a seed"""
import hashlib, json, os, pathlib, random, shutil, subprocess, sys, tempfile, time, unittest

WREN, SHIM = sys.argv[1], sys.argv[2]
FULL = "--full" in sys.argv
SEED = int(os.environ.get("WREN_SEED", "11"))


def wren(*args, env=None, **more):
    return subprocess.run([WREN, *map(str, args)], capture_output=True, text=True, env=env, timeout=120, **more)


def whole_set(folder):
    """Name and text of every program the manifest lists; None where one is missing, changed, or stands there unlisted."""
    manifest = json.loads((folder / "manifest.json").read_text())
    listed = {}
    for entry in manifest["programs"]:
        program = folder / entry["file"]
        if not program.exists() or hashlib.sha256(program.read_bytes()).hexdigest() != entry["sha256"]:
            return None
        listed[entry["file"]] = program.read_bytes()
    there = {p.name for p in folder.glob("*.ngc")}
    return (manifest["fingerprint"], listed) if there == set(listed) else None


class Sweep(unittest.TestCase):
    def setUp(self):
        self.dir = pathlib.Path(tempfile.mkdtemp(prefix="wren-faults-"))
        self.file = self.dir / "p.wren"
        self.mark = self.dir.parent / (self.dir.name + ".mark")
        assert wren("new", self.file, "--from", "plain").returncode == 0
        self.random = random.Random(SEED)

    def tearDown(self):
        shutil.rmtree(self.dir)
        self.mark.unlink(missing_ok=True)

    def moments(self, mode, call):
        """Runs `call` with the fault at the first, second, … change of the disk until it comes through untouched."""
        at = 0
        while True:
            at += 1 if FULL or at < 3 else self.random.randint(1, 5)
            self.mark.unlink(missing_ok=True)
            env = dict(os.environ, LD_PRELOAD=SHIM, WREN_FAULT_DIR=str(self.dir), WREN_FAULT_AT=str(at),
                       WREN_FAULT_MODE=mode, WREN_FAULT_MARK=str(self.mark), SOURCE_DATE_EPOCH="1764100000")
            result = call(env)
            if not self.mark.exists():
                self.assertEqual(result.returncode, 0, result.stderr)
                self.assertGreater(at, 4, "the fault never came: nothing was tested")
                return
            yield at, result

    def frets(self):
        got = wren("get", self.file, "frets.count")
        self.assertEqual(got.returncode, 0, got.stderr)
        return int(got.stdout.split("=")[1].split()[0])

    def left(self):
        return sorted(p.name for p in self.dir.iterdir() if p.name.endswith(".part"))

    def test_saving(self):
        for mode in ("fail", "full", "kill"):
            wanted = 20
            wren("set", self.file, "frets.count=20")

            def call(env):
                nonlocal wanted
                wanted = 21 if self.frets() != 21 else 20
                return wren("set", self.file, f"frets.count={wanted}", env=env)

            for at, result in self.moments(mode, call):
                with self.subTest(mode=mode, at=at):
                    after = self.frets()  # opens: it is whole
                    self.assertIn(after, (20, 21))
                    if mode != "kill":
                        self.assertIn(result.returncode, (0, 3), result.stderr)
                        self.assertEqual(after == wanted, result.returncode == 0, result.stderr)
                        if result.returncode != 0:
                            self.assertIn("wren: ", result.stderr)

    def test_programs(self):
        out = self.dir / "out"
        call_for = lambda env: wren("programs", self.file, "--part", "coupon", "--out", out, "--unproved", env=env)
        for depth in ("120", "125"):
            wren("set", self.file, "machine.travel_z=" + depth)
            self.assertEqual(call_for(None).returncode, 0)
            (out / "coupon" / "notes.txt").write_text("the maker's own")
        turn = {"now": 0}
        for mode in ("fail", "full", "kill"):
            def call(env):
                turn["now"] += 1  # numbers that no set had before
                wren("set", self.file, f"machine.travel_z={120 + turn['now'] / 10}")
                turn["before"] = whole_set(out / "coupon")
                return call_for(env)

            for at, result in self.moments(mode, call):
                with self.subTest(mode=mode, at=at):
                    now = whole_set(out / "coupon")
                    self.assertIsNotNone(now, "a mixed set")
                    self.assertEqual((out / "coupon" / "notes.txt").read_text(), "the maker's own")
                    changed = now[0] != turn["before"][0]
                    if mode != "kill":
                        self.assertEqual(changed, result.returncode == 0, result.stderr)
                        if result.returncode != 0 and "Nothing was changed" in result.stderr:
                            self.assertEqual(now, turn["before"])
            self.assertEqual(call_for(None).returncode, 0)
            self.assertIsNotNone(whole_set(out / "coupon"))

    def test_killed_at_random_moments(self):
        out = self.dir / "out"
        args = [WREN, "programs", str(self.file), "--part", "coupon", "--out", str(out), "--unproved"]
        self.assertEqual(subprocess.run(args, capture_output=True).returncode, 0)
        before = time.monotonic()
        subprocess.run(args, capture_output=True)
        takes = time.monotonic() - before
        for k in range(200 if FULL else 25):
            wren("set", self.file, "machine.travel_z=" + ("120" if k % 2 else "125"))
            running = subprocess.Popen(args, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            time.sleep(self.random.uniform(0.5 * takes, 1.05 * takes))  # the writing is at the end
            running.kill()
            running.wait()
            self.assertIsNotNone(whole_set(out / "coupon"), f"a mixed set after kill {k}")
        self.assertEqual(subprocess.run(args, capture_output=True).returncode, 0)

    def test_calls_at_once_lose_nothing(self):
        edits = {"strings.count": "7", "frets.count": "23", "board.overhang": "11", "machine.travel_x": "910",
                 "project.name": "Both", "neck.thickness_a": "21.5", "body.tail": "117", "machine.runout": "0.02"}
        running = [subprocess.Popen([WREN, "set", str(self.file), f"{k}={v}"], stderr=subprocess.PIPE, text=True)
                   for k, v in edits.items()]
        for one in running:
            self.assertEqual(one.wait(), 0, one.stderr.read())
            one.stderr.close()
        got = wren("get", self.file, *edits).stdout
        for value in edits.values():
            self.assertIn(value, got)
        self.assertEqual([p.name for p in self.dir.iterdir()], ["p.wren"])


if __name__ == "__main__":
    unittest.main(argv=[sys.argv[0]])

#!/usr/bin/env python3
"""wren-machine from outside, by the description of its protocol alone: vectors written by hand, a host of its own, what
breaks off, lies or floods; and `wren run` with it, through sockets and a terminal."""
import json
import os
import pathlib
import socket
import struct
import subprocess
import sys
import tempfile
import time
import unittest
import zlib

sys.path.insert(0, str(pathlib.Path(__file__).parent))
from host import Host, Machine, sealed, unsealed

BIN = pathlib.Path(sys.argv.pop(1))
MACHINE, WREN = str(BIN / "wren-machine"), str(BIN / "wren")


def stl(path, kept={}):
    """Triangles of a binary STL."""
    if path not in kept:
        data = path.read_bytes()
        count = struct.unpack_from("<I", data, 80)[0]
        kept[path] = [struct.unpack_from("<9f", data, 84 + 50 * i + 12) for i in range(count)]
    return kept[path]


def thickness(triangles, x, y):
    """Of the solid along z there: from the lowest to the highest place that a vertical line meets."""
    met = []
    for ax, ay, az, bx, by, bz, cx, cy, cz in triangles:
        if x < min(ax, bx, cx) or x > max(ax, bx, cx) or y < min(ay, by, cy) or y > max(ay, by, cy):
            continue
        area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
        if abs(area) < 1e-12:
            continue
        u = ((x - ax) * (cy - ay) - (cx - ax) * (y - ay)) / area
        v = ((bx - ax) * (y - ay) - (x - ax) * (by - ay)) / area
        if u >= -1e-9 and v >= -1e-9 and u + v <= 1 + 1e-9:
            met.append(az + u * (bz - az) + v * (cz - az))
    return max(met) - min(met)


class Vectors(unittest.TestCase):
    """Lines worked out by hand (ISO 3309's check value first)."""

    def test_the_checksum_is_that_of_the_standard(self):
        self.assertEqual(zlib.crc32(b"123456789"), 0xCBF43926)
        self.assertEqual(sealed("123456789"), b"123456789 *cbf43926\n")

    def test_the_machine_takes_and_gives_these_very_bytes(self):
        with Machine(MACHINE, "--speed", 0, "--seed", 5) as m:
            with socket.create_connection(("127.0.0.1", m.port), 5) as s:
                # crc32("hello 1 vectors") and crc32("do 1 hits"), from an independent tool (zlib's crc32 of Python).
                s.sendall(b"hello 1 vectors *%08x\n" % zlib.crc32(b"hello 1 vectors"))
                got = s.recv(4096)
                self.assertRegex(got, rb"^welcome 1 [0-9a-f]{8} 512 stand-in 700 1000 100 110 \*[0-9a-f]{8}\n")
                s.sendall(b"do 1 hits *%08x\n" % zlib.crc32(b"do 1 hits"))
                while b"did 1 0" not in got:
                    got += s.recv(4096)
                self.assertIn(b"did 1 0 *%08x\n" % zlib.crc32(b"did 1 0"), got)


class Protocol(unittest.TestCase):
    def setUp(self):
        self.machine = Machine(MACHINE, "--speed", 0)
        self.addCleanup(self.machine.__exit__)
        self.host = Host(self.machine.port)

    def test_unhomed_it_takes_nothing_and_says_that_it_is_lost(self):
        self.assertEqual(self.host.look()["known"], "lost")
        self.assertIn("not homed", self.host.do("job a 3", good=False))
        self.assertIn("not homed", self.host.do("line G0 X1", good=False))
        self.assertEqual(self.host.home()["state"], "idle")
        self.assertEqual(self.host.look()["known"], "known")

    def test_motion_takes_the_time_of_the_closed_form(self):
        # t = d/v + v/a, with v and a of the axis (textbook kinematics); its clock ticks in milliseconds.
        self.host.home()
        for text, d, v in (("G53 G0 X300", 300, 5000 / 60), ("G21 G90 G94 G1 F1200 X200", None, 1200 / 60)):
            before = self.host.look()
            self.host.do("line " + text)
            after = self.host.until("idle")
            d = d or abs(after["x"] - before["x"])
            self.assertAlmostEqual(after["clock"] - before["clock"], d / v + v / 500, delta=0.01)

    def test_a_half_circle_is_as_long_as_it_is(self):
        self.host.home()
        self.host.do("line G53 G0 X300 Y300 Z-10")
        self.host.until("idle")
        self.host.do("line G10 L2 P1 X300 Y300 Z-10")
        before = self.host.look()
        self.host.do("line G21 G17 G90 G94 G54 G91.1 G2 X100 Y0 I50 J0 F600")
        after = self.host.until("idle")
        self.assertAlmostEqual(after["x"], 400, places=3)
        self.assertAlmostEqual(after["y"], 300, places=3)
        v = 10.0
        self.assertAlmostEqual(after["clock"] - before["clock"], 3.14159265 * 50 / v + v / 500, delta=0.05)

    def test_lines_lost_damaged_or_out_of_order_are_asked_for_again_and_run_once(self):
        self.host.home()
        lines = ["G21 G90 G94 G54 F600"] + [f"G1 X{10 + k}" for k in range(60)] + ["M30"]
        self.host.do("line G10 L2 P1 X0 Y0 Z0")
        self.host.until("idle")
        self.host.do(f"job a {len(lines)}")
        self.host.send(f"L 1 {lines[0]}")
        self.assertEqual(self.host.next(), "ack 1")
        self.host.send(f"L 3 {lines[2]}")
        self.assertEqual(self.host.next(), "again 2 gap")
        self.host.raw(sealed(f"L 2 {lines[1]}").replace(b"X10", b"X19"))  # a byte changed on its way
        self.host.send(f"L 2 {lines[1]}")
        self.assertEqual(self.host.next(), "ack 2")
        self.host.send(f"L 2 {lines[1]}")  # twice: acknowledged, not run again
        self.assertEqual(self.host.next(), "ack 2")
        self.assertEqual(self.host.run("a", lines, begin=False), "")
        s = self.host.until("idle")
        self.assertEqual((s["done"], s["accepted"]), (len(lines), len(lines)))
        self.assertAlmostEqual(s["x"], 69, places=3)

    def test_commands_said_twice_are_done_once(self):
        self.host.home()
        self.host.do("line G53 G0 X100")
        self.host.until("idle")
        self.host.k += 1
        for _ in range(3):
            self.host.send(f"do {self.host.k} jog 5 0 0 600")
            self.assertEqual(self.host.next(), f"did {self.host.k}")
        self.host.until("idle")
        self.assertAlmostEqual(self.host.look()["x"], 105, places=3)

    def test_soft_limits_refuse_a_line_before_it_moves(self):
        self.host.home()
        refused = self.host.run("a", ["G21 G90 G54", "G53 G0 X10", "G53 G0 X701", "M30"])
        self.assertIn("701", refused)
        s = self.host.until("alarm", "idle")
        self.assertEqual(s["state"], "alarm")
        self.assertAlmostEqual(s["x"], 10, places=3)
        self.assertEqual(s["known"], "known")

    def test_homing_and_probing_repeat_within_what_is_said(self):
        self.host.do("lay 200 100 20 100 100")
        self.host.do("cutter 1 flat 6 0 118 20 30")
        met = []
        for _ in range(12):
            self.host.home()
            self.host.do("line G53 G0 X150 Y150")
            self.host.until("idle")
            self.host.do("line G21 G90 G94 G38.2 Z-99 F600")
            self.host.until("idle")
            met.append(float(self.host.do("touched").split()[2]))
        # 110 under the nut, 30 sticking out, 20 of wood: −60, within 0.004 of the switches and 0.003 of the probe.
        self.assertLess(max(abs(z + 60) for z in met), 0.0072)
        self.assertGreater(max(met) - min(met), 0.0005)

    def test_two_hosts_do_not_share_a_machine_but_may_look(self):
        other = Host(self.machine.port, "second")
        self.assertEqual(other.welcome, "busy test")
        look = Host(self.machine.port, "third", look=True)
        self.assertTrue(look.welcome.startswith("welcome"))
        self.assertIn("only looks", look.do("home", good=False))
        self.assertEqual(look.do("hits"), "0")
        self.host.close()
        time.sleep(0.1)
        self.assertTrue(Host(self.machine.port, "fourth").welcome.startswith("welcome"))

    def test_garbage_floods_and_silence_do_not_harm_it(self):
        for data in (b"\0" * 5000, b"G0 X1\n" * 20000, b"x" * 10_000_000, sealed("hello 2 x"), sealed("hello 1"),
                     sealed("do 1 home"), sealed("L 1 G0"), b"\n" * 100000, sealed("hello 1 " + "n" * 500)):
            s = socket.create_connection(("127.0.0.1", self.machine.port), 5)
            s.settimeout(5)
            try:
                s.sendall(data)
                s.shutdown(socket.SHUT_WR)
                while s.recv(65536):
                    pass
            except OSError:
                pass
            s.close()
        self.assertEqual(self.host.home()["state"], "idle")
        for words in ("", "nonsense", "lay", "lay 1 2 3 4", "lay nan 1 1 0 0", "lay 1e999 1 1 0 0", "lay -5 1 1 0 0", "job",
                      "job x 0", "job x -1", "jog 1 2", "cutter 1 flat", "cutter 0 flat 6 0 118 20 30",
                      "cutter 1 round 6 0 118 20 30", "feed 5", "feed 1000", "turn z 0 0", "fault nothing 3",
                      "measure", "measure height", "measure height 1 x", "line G5.2 X1", "line X1", "line G1 X1",
                      "line (open", "line G0 X", "line " + "X1" * 100):
            self.assertTrue(self.host.do(words, good=False).startswith("not"), words)
        self.assertEqual(self.host.look()["state"], "idle")

    def test_it_takes_at_least_twenty_thousand_lines_a_second(self):
        self.host.home()
        self.host.do("line G10 L2 P1 X100 Y100 Z0")
        self.host.until("idle")
        lines = ["G21 G90 G94 G54 F3000"] + [f"G1 X{(k % 2) * 0.01:.3f}" for k in range(60000)] + ["M30"]
        data = [sealed(f"L {k + 1} {text}") for k, text in enumerate(lines)]
        self.host.do(f"job fast {len(lines)}")
        begun = time.time()
        sent = acked = 0
        while acked < len(lines):
            upto = min(len(lines), acked + 512)
            if upto > sent:
                self.host.raw(b"".join(data[sent:upto]))
                sent = upto
            line = self.host.line()
            if line.startswith("ack "):
                acked = int(line[4:])
        rate = len(lines) / (time.time() - begun)
        print(f"\n{rate:.0f} lines a second through a host in Python")


class Faults(unittest.TestCase):
    """Each kind, once, by the words of the description."""

    LINES = ["G21 G90 G94 G54 F600"] + [f"G1 X{10 + k}" for k in range(40)] + ["M30"]

    def with_fault(self, fault):
        self.machine = Machine(MACHINE, "--speed", 0, "--fault", f"{fault}@20")
        self.addCleanup(self.machine.__exit__)
        host = Host(self.machine.port)
        return host

    def test_on_the_wire(self):
        for fault in ("line-lost", "byte-changed", "line-twice", "answer-late"):
            with self.subTest(fault):
                host = self.with_fault(fault)
                host.home()
                self.assertEqual(host.run("a", self.LINES), "")
                self.assertEqual(host.until("idle")["done"], len(self.LINES))
                self.assertAlmostEqual(host.look()["x"], 49, places=3)

    def test_the_connection_goes_and_the_machine_keeps_its_count(self):
        host = self.with_fault("connection-gone")
        host.home()
        with self.assertRaises((ConnectionError, OSError)):
            host.run("a", self.LINES)
        again = Host(self.machine.port)
        s = again.look()
        self.assertEqual((s["program"], s["accepted"]), ("a", 19))

    def test_in_the_machine(self):
        # An emergency stop loses the place of what moves: a host that was slow to send finds it standing, and known.
        for fault, known, state in (("emergency-stop", ("lost", "known"), "alarm"), ("limit-hit", ("lost",), "alarm"),
                                    ("cutter-broken", ("known",), "held")):
            with self.subTest(fault):
                host = self.with_fault(fault)
                host.home()
                host.run("a", self.LINES)
                s = host.until("alarm", "held")
                self.assertEqual(s["state"], state)
                self.assertIn(s["known"], known)
                self.assertGreaterEqual(s["done"], 20 if fault == "cutter-broken" else 0)

    def test_by_seed_every_program_meets_one_the_same_each_time(self):
        def story(seed):
            told = []
            with Machine(MACHINE, "--speed", 0, "--faults-by-seed", seed) as m:
                for k in range(6):
                    host = Host(m.port)
                    if host.look()["state"] == "alarm":
                        host.do("unlock")
                    if host.look()["state"] in ("held", "running"):
                        host.do("stop")
                        host.until("idle")
                    host.home()
                    if host.look()["state"] == "alarm":  # a switch that was to stick
                        host.do("unlock")
                        host.home()
                    try:
                        host.run(f"p{k}", self.LINES)
                        s = host.until("idle", "alarm", "held", "unhomed", seconds=3)
                        told.append((s["state"], s["known"]))
                    except (ConnectionError, OSError, AssertionError):
                        told.append("gone")
                    host.close()
                    time.sleep(0.05)
            return told

        self.assertEqual(story(7), story(7))
        self.assertNotEqual(story(7), story(8))

    def test_the_power_goes(self):
        host = self.with_fault("power-cut")
        boot = host.look()["boot"]
        host.home()
        with self.assertRaises((ConnectionError, OSError, AssertionError)):
            host.run("a", self.LINES)
            host.until("idle", seconds=3)
        s = Host(self.machine.port).look()
        self.assertNotEqual(s["boot"], boot)
        self.assertEqual((s["state"], s["known"], s["program"]), ("unhomed", "lost", "-"))

    def test_a_switch_sticks_and_a_probe_stays_open(self):
        with Machine(MACHINE, "--speed", 0, "--fault", "switch-stuck") as m:
            host = Host(m.port)
            self.assertEqual(host.home()["state"], "alarm")
            host.do("unlock")
            self.assertEqual(host.home()["state"], "idle")
        with Machine(MACHINE, "--speed", 0, "--fault", "probe-open") as m:
            host = Host(m.port)
            host.home()
            host.do("line G21 G90 G94 G38.2 Z-50 F600")
            self.assertEqual(host.until("idle", "alarm")["why"], "the probe met nothing")


class Runs(unittest.TestCase):
    """`wren run` as a shell has it."""

    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        cls.here = pathlib.Path(cls.folder.name)
        cls.env = dict(os.environ)
        cls.wren_(cls, "new", "r.wren", "--from", "reedling")
        cls.wren_(cls, "programs", "r.wren", "--part", "coupon", "--out", "out")
        cls.programs = sorted((cls.here / "out" / "coupon").glob("*.ngc"))

    @classmethod
    def tearDownClass(cls):
        cls.folder.cleanup()

    def setUp(self):
        # Every test has a shop of its own.
        self.env = dict(os.environ, XDG_DATA_HOME=str(self.here / self.id().split(".")[-1]))

    def wren_(self, *args, code=0, stdin=""):
        done = subprocess.run([WREN, *map(str, args)], cwd=self.here, env=self.env, input=stdin, capture_output=True, text=True,
                              timeout=120)
        if done.returncode != code:
            raise AssertionError(f"{args}: {done.returncode}\n{done.stdout}{done.stderr}")
        return done

    def run_(self, program, port, *more, **kw):
        return self.wren_("run", program, "--machine", f"127.0.0.1:{port}", "--signed", "A test", *more, **kw)

    def test_the_coupon_from_stock_to_its_measured_slot(self):
        with Machine(MACHINE, "--speed", 0, "--log", self.here / "ran.txt") as m:
            self.run_(self.programs[0], m.port, "--home", "--lay", "--cutter", "--zero", "--air")
            for k, program in enumerate(self.programs):
                self.run_(program, m.port, "--cutter", "--zero", "--project", "r.wren")
            done = subprocess.run([MACHINE, "measure", "groove", "28", "39", "90", "--machine", f"127.0.0.1:{m.port}"],
                                  capture_output=True, text=True, check=True)
            width, depth = map(float, done.stdout.split())
        self.assertAlmostEqual(width, 0.58, delta=0.021)
        self.assertAlmostEqual(depth, 2.0, delta=0.02)
        # The machine's own story is the programs' own lines.
        ran = [line.split(" ", 2)[2] for line in (self.here / "ran.txt").read_text().splitlines()]
        texts = [line for p in [self.programs[0], *self.programs] for line in p.read_text().splitlines()]
        self.assertEqual(ran, texts)
        log = json.loads(self.wren_("log", "--json").stdout)["runs"]
        self.assertEqual([r["outcome"] for r in log], ["done"] * 7)
        self.assertEqual(sum(r["air"] for r in log), 1)
        self.assertTrue(all(r["signed_by"].startswith("A test, ") for r in log))
        # And it is noted in the project.
        self.assertIn("coupon.cut.top.slot", (self.here / "r.wren").read_text())
        pace = json.loads(self.wren_("log", "--pace", "--json").stdout)["paces"]
        self.assertEqual({p["runs"] for p in pace}, {1})
        for p in pace:
            self.assertGreater(p["real_s"], p["planned_s"])  # the way from home and the spindle's start are real

    def test_the_neck_from_stock_to_its_measured_thickness(self):
        """Both sides, the wood turned over in between; what is left of it against the solid that the design exports."""
        self.wren_("programs", "r.wren", "--part", "neck", "--out", "out")
        self.wren_("export", "r.wren", "--part", "neck", "--out", "neck.stl")
        folder = self.here / "out" / "neck"
        manifest = json.loads((folder / "manifest.json").read_text())["programs"]
        with Machine(MACHINE, "--speed", 0) as m:
            side = ""
            for k, p in enumerate(manifest):
                ready = ["--home", "--lay"] if k == 0 else ["--turn"] if p["side"] != side else []
                side = p["side"]
                self.run_(folder / p["file"], m.port, "--cutter", "--zero", *ready)
            host = Host(m.port, look=True)
            self.assertEqual(host.do("hits"), "0")
            to_work = manifest[-1]["instrument_to_work"]
            off, places = [], 0
            for x in range(40, 320, 20):
                for y in (-14, -10, 10, 14):
                    span = thickness(stl(self.here / "neck.stl"), x, y)
                    wx, wy = (sum(to_work[r][c] * v for c, v in enumerate((x, y, 0, 1))) for r in (0, 1))
                    off.append(abs(float(host.do(f"measure thickness {wx:.4f} {wy:.4f}")) - span))
                    places += 1
            host.close()
        print(f"\nneck: {places} places, thickness off by {max(off):.3f} at most, {sorted(off)[places // 2]:.3f} in the middle")
        self.assertLess(max(off), 0.1)
        self.assertLess(sorted(off)[places // 2], 0.03)

    def test_a_step_of_a_project_is_run_by_its_line(self):
        with Machine(MACHINE, "--speed", 0) as m:
            step = ["r.wren", m.port, "--step", "coupon.cut.top.pocket"]
            self.assertIn("--programs FOLDER", self.run_(*step, code=3).stderr)
            self.run_(*step, "--programs", "out", "--home", "--lay", "--cutter", "--zero")
            self.assertIn("is no step", self.run_("r.wren", m.port, "--step", "coupon.cut.top.nothing", "--programs", "out", code=3).stderr)
        self.assertIn("coupon.cut.top.pocket", (self.here / "r.wren").read_text())
        self.assertEqual(json.loads(self.wren_("log", "--json").stdout)["runs"][0]["cuts"], "pocket")

    def test_several_cutters_in_one_program_each_with_its_own_z(self):
        self.wren_("new", "one.wren", "--from", "reedling")
        self.wren_("set", "one.wren", "programs.files=one")
        self.wren_("programs", "one.wren", "--part", "coupon", "--out", "one", "--note")
        program, = (self.here / "one" / "coupon").glob("*.ngc")
        ready = ["--home", "--lay", "--cutter", "--zero"]
        with Machine(MACHINE, "--speed", 0) as m:
            # Where the programs lie the project knows now.
            self.run_("one.wren", m.port, "--step", "coupon.cut.top.slot", *ready)
            log = json.loads(self.wren_("log", "--json").stdout)["runs"][0]
            self.assertEqual(log["outcome"], "done")
            log = json.loads(self.wren_("log", "--run", log["id"], "--json").stdout)
            hands = [e["words"] for e in log["events"] if e["kind"] == "hand"]
            self.assertEqual(len(hands), 2 * (program.read_text().count(" M6") - 1), hands)
            self.assertTrue(any(words.startswith("z anew with T") for words in hands))
            host = Host(m.port, look=True)
            self.assertEqual(host.do("hits"), "0")
            width, depth = map(float, host.do("measure groove 28 39 90").split())
            host.close()
        self.assertAlmostEqual(width, 0.58, delta=0.021)
        self.assertAlmostEqual(depth, 2.0, delta=0.02)
        # Asked one by one: a no at the change stops it there, and the log says so.
        with Machine(MACHINE, "--speed", 0) as m:
            to = ["run", program, "--machine", f"127.0.0.1:{m.port}", *ready]
            asked = program.read_text().count(" M6") + 4
            told = self.wren_(*to, code=1, stdin="y\n" * asked + "n\n")
            self.assertIn("in the spindle, tight", told.stderr)
            self.assertIn("Stopped", told.stdout)

    def test_the_folder_is_noted_only_where_it_is_asked_for(self):
        self.wren_("new", "note.wren", "--from", "reedling")
        before = (self.here / "note.wren").read_bytes()
        self.wren_("programs", "note.wren", "--part", "coupon", "--out", "noted")
        self.assertEqual((self.here / "note.wren").read_bytes(), before)
        self.wren_("programs", "note.wren", "--part", "coupon", "--out", "noted", "--note")
        self.assertIn(str(self.here / "noted"), (self.here / "note.wren").read_text())
        self.wren_("programs", "-", "--part", "coupon", "--out", "noted", "--note", code=2, stdin=before.decode())

    def test_materials_go_to_the_shop_and_come_from_it(self):
        shop = ["--shop", "stuff.sqlite"]
        self.wren_("new", "m.wren", "--from", "reedling")
        self.wren_("materials", "m.wren", "--add", "old-cherry", "--like", "cherry")
        self.wren_("set", "m.wren", "material.old-cherry.density=611")
        self.assertIn("no shop's book yet", self.wren_("materials", "m.wren", "--keep", "old-cherry", *shop, code=3).stderr)
        self.wren_("rack", *shop, "--new", "empty")
        self.wren_("materials", "m.wren", "--keep", "old-cherry", *shop)
        self.wren_("materials", "m.wren", "--keep", "cherry", *shop, code=3)  # the table's is nobody's own
        self.wren_("materials", "--keep", "old-cherry", *shop, code=2)
        rows = json.loads(self.wren_("materials", "--of-shop", *shop, "--json").stdout)["materials"]
        self.assertEqual([(r["name"], r["of"], r["density_kg_m3"]) for r in rows], [("old-cherry", "shop", 611)])
        self.wren_("new", "n.wren", "--from", "plain")
        self.wren_("materials", "n.wren", "--from-shop", "nobody", *shop, code=3)
        self.wren_("materials", "n.wren", "--from-shop", "old-cherry", *shop)
        self.wren_("materials", "n.wren", "--from-shop", "old-cherry", *shop)  # once more: in its own place
        own = [r for r in json.loads(self.wren_("materials", "n.wren", "--json").stdout)["materials"] if r["of"] == "project"]
        self.assertEqual([(r["name"], r["density_kg_m3"]) for r in own], [("old-cherry", 611)])

    def test_what_is_not_as_it_was_proved_is_not_run(self):
        with Machine(MACHINE, "--speed", 0) as m:
            text = self.programs[1].read_text()
            try:
                self.programs[1].write_text(text.replace("X", "X1", 1))
                self.assertIn("not the program that was written", self.run_(self.programs[1], m.port, code=3).stderr)
            finally:
                self.programs[1].write_text(text)
            self.assertIn("does not know where it stands", self.run_(self.programs[1], m.port, code=3).stderr)
        self.assertIn("does not answer", self.run_(self.programs[1], 1, code=3).stderr)
        self.wren_("run", self.programs[1], code=2)
        self.wren_("run", self.programs[1], "--machine", "nowhere", code=3)

    def test_questions_are_asked_one_by_one_and_no_is_no(self):
        with Machine(MACHINE, "--speed", 0) as m:
            ready = ["--home", "--lay", "--cutter", "--zero"]
            to = ["run", self.programs[0], "--machine", f"127.0.0.1:{m.port}", *ready]
            refused = self.wren_(*to, code=3, stdin="y\ny\nn\n")
            self.assertIn("nothing was run: Do clamps", refused.stderr)
            self.wren_(*to, code=3, stdin="")
            well = self.wren_(*to, stdin="y\n" * 20)
            for words in ("in the spindle", "zero set as the sheet says", "extraction", "eyes and ears"):
                self.assertIn(words, well.stderr)

    def test_a_power_cut_and_the_way_back(self):
        with Machine(MACHINE, "--speed", 0, "--fault", "power-cut@150") as m:
            ready = ["--home", "--lay", "--cutter", "--zero", "--project", "r.wren"]
            out = self.run_(self.programs[2], m.port, *ready, code=1)
            self.assertIn("power was gone", out.stdout)
            back = ["--restart", "--project", "r.wren", "--cutter"]
            self.assertIn("does not know where it stands", self.run_(self.programs[2], m.port, *back, code=3).stderr)
            self.assertIn("proved without the project",
                          self.run_(self.programs[2], m.port, "--restart", "--home", "--cutter", "--zero", code=3).stderr)
            done = self.run_(self.programs[2], m.port, *back, "--home", "--zero")
            self.assertIn("its way in is proved", done.stderr)
            log = json.loads(self.wren_("log", "--json").stdout)["runs"]
            self.assertEqual([r["outcome"] for r in log[:2]], ["done", "fault"])
            self.assertGreater(log[0]["from"], 1)

    def test_killed_on_the_way_the_run_is_found_again(self):
        with Machine(MACHINE, "--speed", 20) as m:
            self.run_(self.programs[0], m.port, "--home", "--lay", "--cutter", "--zero", "--air")
            child = subprocess.Popen([WREN, "run", str(self.programs[1]), "--machine", f"127.0.0.1:{m.port}", "--cutter", "--zero",
                                      "--signed", "A test"], cwd=self.here, env=self.env, stderr=subprocess.PIPE, text=True)
            for line in child.stderr:
                if "own stop" in line:
                    break
            time.sleep(0.8)
            child.kill()
            child.wait()
            child.stderr.close()
        told = self.wren_("run", self.programs[0], "--by-hand", stdin="n\n", code=3).stderr
        self.assertIn("nobody saw its end", told)
        log = json.loads(self.wren_("log", "--json").stdout)["runs"]
        self.assertIn("unknown", [r["outcome"] for r in log])

    def test_a_line_for_a_line_over_a_terminal(self):
        with Machine(MACHINE, "--speed", 0, "--terminal") as m:
            device = m.said[1].split("terminal ")[1].split(" ")[0]
            host = Host(m.port)
            host.home()
            manifest = json.loads((self.here / "out" / "coupon" / "manifest.json").read_text())["programs"][0]
            z = manifest["zero_in_machine_mm"]
            b = manifest["blank_mm"]
            host.do(f"lay {b['length']} {b['width']} {b['thickness']} {z[0]} {z[1]}")
            host.do("cutter 1 flat 0.58 0 118 4 15")
            host.do(f"line G10 L2 P1 X{z[0]} Y{z[1]} Z-83")
            host.until("idle")
            host.close()
            out = self.wren_("run", self.programs[0], "--serial", device, "--signed", "A test")
            self.assertIn("Every line was taken", out.stdout)
            with open(device, "r+b", buffering=0) as terminal:
                terminal.write(b"where\n")
                self.assertRegex(terminal.readline(), rb"^at X350\.0+ Y990\.0+ Z0\.0+ idle")
                terminal.write(b"G5.1 X1\n")
                self.assertTrue(terminal.readline().startswith(b"error "))

    def test_the_rack_on_the_command_line(self):
        shop = ["--shop", "rack.sqlite"]
        self.assertIn("no shop's book yet", self.wren_("rack", *shop, code=3).stderr)
        self.wren_("rack", *shop, "--new", "demo")
        self.wren_("rack", *shop, "--new", "demo", code=3)
        self.wren_("rack", *shop, "--add", "flat-4", "--like", "flat-3.175", "diameter=4", "overall=50", "stickout=22")
        self.wren_("rack", *shop, "--change", "flat-4", "measured=3.97", "--note", "micrometer")
        facts = json.loads(self.wren_("rack", *shop, "--history", "flat-4", "--json").stdout)["facts"]
        self.assertEqual([f["what"] for f in facts], ["added", "measured"])
        self.assertEqual(facts[1]["numbers"]["measured"], "3.97")
        for words in (["--add", "x", "cutting_length=60"], ["--add", "flat-4"], ["--add", "y", "number=1"],
                      ["--retire", "nobody"], ["--change", "nobody"], ["--add", "z", "--like", "nobody"]):
            self.wren_("rack", *shop, *words, code=3)
        self.wren_("rack", *shop, "stickout=5", code=2)
        self.wren_("rack", *shop, "--retire", "flat-4")
        differs = json.loads(self.wren_("rack", *shop, "--compare", "r.wren", "--json").stdout)["differences"]
        self.assertEqual(differs, [])
        self.wren_("rack", *shop, "--bring-back", "flat-4")
        self.wren_("rack", *shop, "--into", "r.wren")
        self.assertIn("flat-4", (self.here / "r.wren").read_text())
        self.wren_("rack", *shop, "--backup", "copy.sqlite")
        self.wren_("rack", *shop, "--retire", "flat-4")
        self.wren_("rack", *shop, "--restore", "copy.sqlite")
        rack = json.loads(self.wren_("rack", *shop, "--json").stdout)["cutters"]
        self.assertFalse(next(c for c in rack if c["id"] == "flat-4")["retired"])
        # Any SQLite tool reads it.
        import sqlite3
        with sqlite3.connect(self.here / "rack.sqlite") as book:
            self.assertEqual(book.execute("SELECT measured_mm FROM cutter WHERE cutter = 'flat-4'").fetchone(), (3.97,))
            self.assertEqual(book.execute("PRAGMA integrity_check").fetchone(), ("ok",))

    def test_machines_on_the_command_line(self):
        shop = ["--shop", "machines.sqlite"]
        self.wren_("rack", *shop, "--new", "empty")
        self.wren_("machine", *shop, "--add", "Old one", "travel_x=24 in", "address=/dev/ttyS9", "talk.done=gut")
        rows = json.loads(self.wren_("machine", *shop, "--json").stdout)["machines"]
        self.assertEqual(rows[0]["numbers"]["travel_x"], "609.6")
        self.assertEqual(rows[0]["numbers"]["talk.done"], "gut")
        for words in (["--add", "None", "travel_x=0"], ["--add", "Old one"], ["--change", "nobody"], ["--retire", "nobody"],
                      ["--change", "Old one", "baud=fast"], ["--change", "Old one", "colour=red"]):
            self.wren_("machine", *shop, *words, code=3)
        self.wren_("machine", *shop, "--into", "r2.wren", code=3)
        self.wren_("new", "r2.wren", "--from", "reedling")
        self.wren_("machine", *shop, "--into", "r2.wren")
        self.assertIn("609.6", self.wren_("get", "r2.wren", "machine.travel_x").stdout)
        self.wren_("machine", *shop, "--retire", "Old one")
        self.wren_("machine", *shop, "--into", "r2.wren", code=3)


if __name__ == "__main__":
    unittest.main(verbosity=1)

#!/usr/bin/env python3
"""Board, neck and body repeated whole without any of our code: manifest and program text are read and cut by a reader and a
cutter of the tests' own, turned by the manifest's matrix, and held against the STL and against the project's numbers themselves.

Sources: equal temperament (Fletcher & Rossing ch. 9) for fret places; a circle's sagitta for the crown; the rest is geometry.
Call: check_whole_parts.py WREN"""
import json
import math
import pathlib
import subprocess
import sys
import tempfile
import unittest

import numpy as np
import scipy.ndimage as nd

sys.path.insert(0, str(pathlib.Path(__file__).parent))
from virtual_wood import Folder, Program, heights, read_stl

WREN = pathlib.Path(sys.argv.pop()).resolve() if len(sys.argv) > 1 else None
FLAT = 0.15  # mm that the design may rise within two cells: elsewhere cells see walls


class WholeParts(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.temp = tempfile.TemporaryDirectory()
        cls.dir = pathlib.Path(cls.temp.name)
        cls.file = cls.dir / "r.wren"
        cls.run_wren("new", cls.file, "--from", "reedling")
        cls.run_wren("set", cls.file, "neck.scallop=0.03")
        cls.value = {k: v["value"] for k, v in json.loads(cls.run_wren("get", cls.file, "--json")).items() if isinstance(v, dict)}

    @classmethod
    def run_wren(cls, *args):
        r = subprocess.run([WREN, *map(str, args)], capture_output=True, text=True, timeout=600)
        assert r.returncode == 0, r.stdout + r.stderr
        return r.stdout

    def folder(self, part, cell):
        out = self.dir / part
        if not out.exists():
            # The proof is another check; here only the text counts.
            self.run_wren("programs", self.file, "--part", part, "--out", out, "--unproved")
            self.run_wren("export", self.file, "--part", part, "--out", self.dir / f"{part}.stl")
        return Folder(out / part, cell)

    def against_solid(self, part, piece, side, cell, gouge, left):
        """Cut wood against the STL where the design is level within a cell or two; returns wood and matrix."""
        folder = self.folder(part, cell)
        wood, m = folder.cut(piece, side), folder.matrix(piece, side)
        self.assertAlmostEqual(np.linalg.det(m[:3, :3]), 1, places=6)
        points = read_stl(self.dir / f"{part}.stl").reshape(-1, 3)
        solid = ((m[:3, :3] @ points.T).T + m[:3, 3]).reshape(-1, 3, 3)
        X, Y = np.meshgrid(wood.x, wood.y, indexing="ij")
        H = heights(solid, X, Y)
        filled = np.where(np.isnan(H), -99, H)
        level = ~np.isnan(H) & (nd.maximum_filter(filled, 5) - nd.minimum_filter(filled, 5) < FLAT)
        # A drill's point goes deeper than its hole is drawn.
        for e in folder.sides[(piece, side)]:
            if e["cutter"]["kind"] == "drill":
                for move in Program(e["file"], e, (folder.folder / e["file"]).read_text()).moves():
                    if move.b[2] < 0:
                        level &= np.hypot(X - move.b[0], Y - move.b[1]) > e["cutter"]["diameter_mm"]
        d = (wood.z - H)[level]
        self.assertGreater(level.sum(), 0.25 * (~np.isnan(H)).sum())
        self.assertGreater(d.min(), -gouge, f"{part} {side}: deeper than the solid")
        self.assertLess(d.max(), left, f"{part} {side}: higher than the solid")
        return wood, m

    @staticmethod
    def seen(m, wood, x, y):
        """Instrument z of the wood at a place of the plan."""
        q = m @ np.array([x, y, 0, 1])
        return (wood.at(q[0], q[1]) - m[2][3]) / m[2][2]

    def test_board(self):
        wood, m = self.against_solid("fretboard", "fretboard", "top", 0.4, 0.02, 0.045)
        v = self.value
        fret = lambda n: v["strings.scale"] * (1 - 2 ** (-n / 12))
        for n in (5, 17):
            x = (fret(n) + fret(n + 1)) / 2 + 1.5  # between two frets, beside marks
            r = v["crown.radius_nut"] + (v["crown.radius_last"] - v["crown.radius_nut"]) * x / fret(v["frets.count"])
            for y in (14.0, -14.0):
                want = v["board.thickness"] - (r - math.sqrt(r * r - y * y))
                self.assertAlmostEqual(float(self.seen(m, wood, x, y)), want, delta=0.05, msg=f"over fret {n}, y {y}")
        # Slot floors follow the crown, slot.depth under it; the narrow slot is seen by its deepest cells.
        for n in (1, 12, 22):
            deepest = min(float(self.seen(m, wood, fret(n) + d, 8.0)) for d in np.arange(-0.5, 0.51, 0.1))
            r = v["crown.radius_nut"] + (v["crown.radius_last"] - v["crown.radius_nut"]) * fret(n) / fret(v["frets.count"])
            self.assertAlmostEqual(deepest, v["board.thickness"] - (r - math.sqrt(r * r - 64)) - v["slot.depth"], delta=0.04, msg=f"slot {n}")

    def test_neck(self):
        front, mf = self.against_solid("neck", "neck", "front", 0.4, 0.03, 0.05)
        back, mb = self.against_solid("neck", "neck", "back", 0.4, 0.03, 0.07)
        v = self.value
        fret = lambda n: v["strings.scale"] * (1 - 2 ** (-n / 12))
        # Thickness at two frets, board included, on the middle line.
        for n, key in ((v["neck.fret_a"], "neck.thickness_a"), (v["neck.fret_b"], "neck.thickness_b")):
            z = float(self.seen(mb, back, fret(n), 0.0))
            self.assertAlmostEqual(v["board.thickness"] - z, v[key], delta=0.06, msg=key)
        # The head's face lies its drop under the glue plane.
        self.assertAlmostEqual(float(self.seen(mf, front, -60.0, 12.0)), -v["head.drop"], delta=0.04)

    def test_body(self):
        front, mf = self.against_solid("body", "body", "front", 0.5, 0.03, 0.07)
        self.against_solid("body", "body", "back", 0.5, 0.03, 0.07)
        v = self.value
        self.folder("neck", 0.4)
        end = read_stl(self.dir / "neck.stl")[:, :, 0].max()
        # The pocket lies where the neck ends. Its depth is given there and its tilt follows from the set-up: a plane, level
        # across, that passes through the given depth.
        self.assertEqual(v["body.follows"], "tilt")
        floor = {d: [float(front.at(*(mf @ np.array([end - d, y, 0, 1]))[:2])) for y in (-15, 0, 15)] for d in (12, 30, 48)}
        for zs in floor.values():
            self.assertLess(max(zs) - min(zs), 0.02)
        slopes = [(floor[30][1] - floor[12][1]) / 18, (floor[48][1] - floor[30][1]) / 18]
        self.assertAlmostEqual(slopes[0], slopes[1], delta=0.001)
        self.assertAlmostEqual(floor[12][1] - 12 * slopes[0], -v["body.pocket_depth"], delta=0.08)
        self.assertLess(abs(math.degrees(math.atan(slopes[0]))), 3)

        # The two post holes: as far apart, as deep and as wide as they are to be.
        deep = nd.label(front.z < -v["bridge.post_depth"] + 0.1)
        centres = [c for k, c in enumerate(nd.center_of_mass(deep[0] > 0, deep[0], range(1, deep[1] + 1)))]
        areas = nd.sum(deep[0] > 0, deep[0], range(1, deep[1] + 1)) * front.cell**2
        holes = [c for c, a in zip(centres, areas) if abs(a - math.pi / 4 * v["bridge.post_diameter"] ** 2) < 8]
        self.assertEqual(len(holes), 2)
        apart = math.dist(*holes) * front.cell
        self.assertAlmostEqual(apart, v["bridge.post_spacing"], delta=0.15)


if __name__ == "__main__":
    unittest.main()

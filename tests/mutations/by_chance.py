#!/usr/bin/env python3
"""Changes by chance and a second opinion: moves of good programs are shifted, lowered, dropped, drawn out and turned the
other way. Each change is cut in virtual wood of the tests' own, in another language, and held against the good part. What
this calls harmful the proof has to refuse; a change of which it finds nothing is not asked about. It aims at nothing, and
so finds what is aimed at loosely: the coupon's stair beside its treads was found by it.

usage: /usr/bin/python3 by_chance.py WREN                       a few on the coupon, for every run of the tests
       /usr/bin/python3 by_chance.py WREN --project sedge --part neck --cell 0.4 --seconds 1500 --seed 3

Only the part itself is judged, from the outline's own inner edge on: what becomes of the waste the catalogue asks.
"""
import argparse
import json
import math
import pathlib
import random
import re
import sys
import tempfile
import time

HERE = pathlib.Path(__file__).parent
sys.path.insert(0, str(HERE))
sys.path.insert(0, str(HERE.parent / "outside"))
import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import unary_union
from shapely.vectorized import contains

import virtual_wood as wood
from catalogue import Case, projects
from harmful_fine import told
from program_set import number

SHIFTS = [0.1, 0.15, 0.25, 0.4, 0.8, 1.5]  # mm aside
LIFTS = [0.06, 0.1, 0.15, 0.3, 0.6, 1.2]  # mm up or down
ROOM = 0.06  # mm beyond the piece's own tolerance that count: cells, chords and the program's last digit


def side_of(program):
    return program.entry["piece"], program.entry["side"]


def neighbours(heights, choose):
    """Of each cell and the eight round it the least or the greatest: an edge may lie a cell further on."""
    return choose(sliding_window_view(np.pad(heights, 1, mode="edge"), (3, 3)), axis=(2, 3))


class Opinion:
    """The good part as the tests' own cutter leaves it, program by program, so that one can be cut anew."""

    def __init__(self, case, cell):
        self.good, self.folder = case.good, wood.Folder(case.folder, cell)
        tolerances = [p["tolerances_mm"] for part in json.loads((case.folder / "proof.json").read_text())["parts"] for p in part["pieces"]]
        self.most_gouge = max(t["gouge"] for t in tolerances) + ROOM
        self.most_left = max(t["left_over"] for t in tolerances) + ROOM
        self.blank = {side: self.folder.blank(*side) for side in self.folder.sides}
        self.own = [self.cut(p) for p in self.good.programs]
        self.floor = {side: self.underside(side) for side in self.blank}
        self.low, self.high, self.inside = {}, {}, {}
        outlines = {p.entry["piece"]: p for p in self.good.programs if "outline" in p.cut}
        parts = {piece: self.within(p).buffer(-cell) for piece, p in outlines.items()}
        for side, w in self.blank.items():
            z = np.maximum(self.left(side), self.floor[side])
            self.low[side], self.high[side] = neighbours(z, np.min), neighbours(z, np.max)
            if side[0] not in outlines:  # a layer: its outline is cut when it is glued
                self.inside[side] = np.zeros(z.shape, bool)
                continue
            self.inside[side] = contains(parts[side[0]], *self.places(side, side_of(outlines[side[0]])))

    def cut(self, program):
        w = self.blank[side_of(program)].copy()
        w.run(program, wood.Shape(program.entry["cutter"]))
        return w.z

    def places(self, side, other):
        """Where the cells of a side lie in another side's frame."""
        to = self.folder.matrix(*other) @ np.linalg.inv(self.folder.matrix(*side))
        x, y = np.meshgrid(self.blank[side].x, self.blank[side].y, indexing="ij")
        return to[0, 0] * x + to[0, 1] * y + to[0, 3], to[1, 0] * x + to[1, 1] * y + to[1, 3]

    def underside(self, side):
        """What the piece's other side leaves: under it nothing can be harmed."""
        thickness = self.folder.sides[side][0]["blank_mm"]["thickness"]
        floor = np.full(self.blank[side].z.shape, -thickness)
        for other in self.blank:
            if other[0] == side[0] and other != side:
                left = self.blank[other].copy()
                left.z = self.left(other)
                floor = np.maximum(floor, -thickness - left.at(*self.places(side, other)))
        return floor

    def left(self, side, at=None, anew=None):
        """Heights that all programs of a side leave together, the program `at` as it is cut anew."""
        z = self.blank[side].z
        for k, p in enumerate(self.good.programs):
            if side_of(p) == side:
                z = np.minimum(z, anew if k == at else self.own[k])
        return z

    @staticmethod
    def within(outline):
        """What the outline's cutter goes round."""
        radius, ways = outline.entry["cutter"]["diameter_mm"] / 2, []
        for m in outline.moves():
            if m.mode and max(m.a[2], m.b[2]) < 100:
                pieces = [(m.a, m.b)] if m.mode == 1 else wood.chords(m, 0.005)
                ways += [LineString([a[:2], b[:2]]) if a[:2] != b[:2] else Point(a[:2]) for a, b in pieces]
        kerf = unary_union([w.buffer(radius, 32) for w in ways])
        return max((Polygon(ring) for k in getattr(kerf, "geoms", [kerf]) for ring in k.interiors), key=lambda p: p.area)

    def harm(self, at, program):
        """(worst gouge, where, worst left over, where) beyond what the good part has, in the part."""
        side = side_of(program)
        z, w, inside = np.maximum(self.left(side, at, self.cut(program)), self.floor[side]), self.blank[side], self.inside[side]
        out = []
        for more in (self.low[side] - z, z - self.high[side]):
            more = np.where(inside, more, 0)
            i, j = np.unravel_index(np.argmax(more), more.shape)
            out += [float(more[i, j]), (round(float(w.x[i]), 1), round(float(w.y[j]), 1))]
        return out

    def top_of(self, side, rnd):
        """A place in the part, and how high it stands; None where a side has none."""
        places = np.argwhere(self.inside[side])
        if not len(places):
            return None
        i, j = rnd.choice(places)
        return float(self.blank[side].x[i]), float(self.blank[side].y[j]), float(self.high[side][i, j])


def strokes(program):
    """Cutting moves between two rapids."""
    out, now = [], []
    for m in program.moves():
        if m.mode == 0 and now:
            out.append(now)
            now = []
        if m.mode and m.b[2] < 0.05:
            now.append(m)
    return out + [now] if now else out


def shifted(program, moves, by):
    for m in moves:
        for axis, d in zip("XYZ", by):
            program.lines[m.line] = re.sub(axis + r"(-?[\d.]+)", lambda w: axis + number(float(w[1]) + d), program.lines[m.line])


def aside(program, moves, rnd):
    by = [rnd.choice([-1, 0, 1]) * rnd.choice(SHIFTS) for _ in "xy"]
    shifted(program, moves, [*by, 0])
    return f"{len(moves)} moves {by[0]:g}, {by[1]:g} aside"


def lower(program, moves, rnd):
    by = rnd.choice([-1, 1]) * rnd.choice(LIFTS)
    shifted(program, moves, [0, 0, by])
    return f"{len(moves)} moves {by:+g} in z"


def dropped(program, moves, rnd):
    program.drop([m.line for m in moves])
    return f"{len(moves)} moves left out"


def scaled(program, moves, rnd):
    by = 1 + rnd.choice([-1, 1]) * rnd.choice([0.01, 0.02, 0.05, 0.1])
    middle = [sum(m.b[k] for m in moves) / len(moves) for k in (0, 1)]
    for m in moves:
        l = program.lines[m.line]
        for axis, c in zip("XYIJ", [*middle, 0, 0]):
            l = re.sub(axis + r"(-?[\d.]+)", lambda w: axis + number(c + (float(w[1]) - c) * by), l)
        program.lines[m.line] = l
    return f"{len(moves)} moves {by:g} times as large"


def there_and_back(program, m, to, feed=None):
    """From the end of a move to another place and back again."""
    there, back = ["".join(a + number(v) for a, v in zip("XYZ", p)) for p in (to, m.b)]
    program.lines[m.line + 1:m.line + 1] = [f"G1{there}F{number(feed or m.feed or 1000)}", f"{back}F{number(m.feed or 1000)}"]


def dip(program, moves, rnd):
    m, by = moves[0], rnd.choice([0.05, 0.1, 0.2, 0.4])
    there_and_back(program, m, (m.b[0], m.b[1], m.b[2] - by), 300)
    return f"a dip of {by:g}"


def scratch(program, moves, rnd):
    m, turn, by = moves[0], rnd.uniform(0, 2 * math.pi), rnd.choice([0.1, 0.2, 0.5, 1, 3])
    there_and_back(program, m, (m.b[0] + by * math.cos(turn), m.b[1] + by * math.sin(turn), m.b[2]))
    return f"a scratch of {by:g}"


def drawn_out(program, moves, rnd):
    m, by = moves[0], rnd.choice([0.2, 0.5, 1, 3])
    if m.flat < 1e-6:
        return None
    there_and_back(program, m, (*[m.b[k] + by * (m.b[k] - m.a[k]) / m.flat for k in (0, 1)], m.b[2]))
    return f"a move drawn out by {by:g}"


def swapped(program, moves, rnd):
    a, b = moves[0].line, moves[-1].line
    program.lines[a], program.lines[b] = program.lines[b], program.lines[a]
    return f"two lines swapped, {len(moves)} apart"


def turned(program, moves, rnd):
    arcs = [m for m in moves if re.search(r"G[23](?!\d)", program.lines[m.line])]
    if not arcs:
        return None
    m = rnd.choice(arcs)
    program.lines[m.line] = re.sub(r"G([23])(?!\d)", lambda w: f"G{5 - int(w[1])}", program.lines[m.line])
    return "an arc turned the other way"


CHANGES = [aside, aside, lower, lower, dropped, dropped, scaled, dip, scratch, drawn_out, swapped, turned]


def added(program, opinion, rnd):
    """A hole or a line where nothing is asked for, just into what stands there."""
    place = opinion.top_of(side_of(program), rnd)
    if place is None:
        return None
    x, y, top = place
    z, length, turn = top - rnd.choice([0.15, 0.3, 0.6]), rnd.choice([0, 1, 5, 20]), rnd.uniform(0, 2 * math.pi)
    lift = max(k for k, l in enumerate(program.lines) if l.startswith("G0Z"))
    program.lines[lift + 1:lift + 1] = [f"G0X{number(x)}Y{number(y)}", "Z2.100", f"G1Z{number(z)}F300",
                                        f"X{number(x + length * math.cos(turn))}Y{number(y + length * math.sin(turn))}F1000", "G0Z10.000"]
    return f"{length} mm more at {x:.1f} {y:.1f}, z {z:.2f}"


def changed(programs, opinion, rnd):
    """One change by chance: (number of the program, what was done, its first line), or None where it does not apply."""
    at = rnd.randrange(len(programs.programs))
    program = programs.programs[at]
    cuts = [m for m in program.moves() if m.mode and m.b[2] < 0.05]
    if not cuts:
        return None
    if rnd.random() < 0.15:
        what = added(program, opinion, rnd)
        return (at, what, len(program.lines)) if what else None
    first = rnd.randrange(len(cuts))
    moves = cuts[first:first + rnd.choice([1, 2, 3, 5, 10, 20, 50])]
    if rnd.random() < 0.3:  # all of a stroke, or what lies at its bottom
        moves = rnd.choice(strokes(program))
        deepest = min(m.b[2] for m in moves)
        if rnd.random() < 0.5:
            moves = [m for m in moves if m.b[2] < deepest + 0.02]
    what = rnd.choice(CHANGES)(program, moves, rnd)
    return (at, what, moves[0].line + 1) if what else None


def main():
    ask = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    ask.add_argument("wren", type=pathlib.Path)
    ask.add_argument("--project", default="reedling")
    ask.add_argument("--part", default="coupon")
    ask.add_argument("--cell", type=float, default=0.25, help="mm, of the second cutter")
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--harmful", type=int, default=12, help="so many that the second opinion calls harmful")
    ask.add_argument("--seconds", type=float, default=0, help="go on for so long instead")
    args = ask.parse_args()
    rnd = random.Random(args.seed)
    faults, asked, harmless = 0, 0, 0
    with tempfile.TemporaryDirectory(prefix="wren-by-chance-") as root:
        root = pathlib.Path(root)
        case = Case(args.wren, projects(args.wren, root, [args.project], 0)[args.project], args.part, root)
        if not case.there or not case.proved:
            raise SystemExit(f"the good programs of {args.project} {args.part} are not proved: {case.said[-500:]}")
        opinion = Opinion(case, args.cell)
        until = time.monotonic() + args.seconds
        while time.monotonic() < until if args.seconds else asked < args.harmful:
            spoiled = case.good.copy()
            change = changed(spoiled, opinion, rnd)
            if change is None:
                continue
            at, what, line = change
            program = spoiled.programs[at]
            told(program)
            gouge, gouge_at, left, left_at = opinion.harm(at, program)
            if gouge <= opinion.most_gouge and left <= opinion.most_left:
                harmless += 1
                continue
            asked += 1
            with tempfile.TemporaryDirectory(dir=root) as to:
                spoiled.write(to)
                code, said = case.prove(to)
                if code in (1, 3):
                    continue
                faults += 1
                kept = pathlib.Path(tempfile.gettempdir()) / f"proved-{args.project}-{args.part}-{args.seed}-{asked}.ngc"
                kept.write_text(program.text())
            print(f"FAULT {program.name} line {line}: {what}; {gouge:.3f} gouged at {gouge_at}, {left:.3f} left at {left_at}; exit {code}; "
                  f"it is {kept}\n{said[-300:] if code else ''}", flush=True)
    print(f"{args.project} {args.part}: {asked} changes that the second cutter calls harmful, {faults} of them not refused; "
          f"{harmless} of which it finds nothing")
    raise SystemExit(1 if faults else 0)


if __name__ == "__main__":
    main()

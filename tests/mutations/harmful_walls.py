"""Harms at a wall that is right at most of its heights, and holes that are too tight for what is set in them.
As in harmful.py, whose table they join."""
import math
import re

from harmful import cutting, deepest, kind, longest
from harmful_fine import all_pins, told
from program_set import number

DENT = 0.12  # mm


def apart(q, m):
    """Of a place from the straight line between a move's ends, in plan."""
    d = (m.b[0] - m.a[0], m.b[1] - m.a[1])
    l2 = d[0] ** 2 + d[1] ** 2
    t = min(1, max(0, ((q[0] - m.a[0]) * d[0] + (q[1] - m.a[1]) * d[1]) / l2)) if l2 else 0
    return math.dist(q, (m.a[0] + t * d[0], m.a[1] + t * d[1]))


def stands(s, p, q, z):
    """Whether no cutter that comes lower than z on this side reaches the place."""
    own = [r for r in s.programs if (r.entry["piece"], r.entry["side"]) == (p.entry["piece"], p.entry["side"]) and "cutters" not in r.entry]
    return all(apart(q, m) > r.entry["cutter"]["diameter_mm"] / 2 - 0.01
               for r in own for m in cutting(r) if m.mode == 1 and min(m.a[2], m.b[2]) < z)


def there_and_back(p, at, to, z):
    """After all else: down at a place that is cut already, over to another and back."""
    lift = max(k for k, l in enumerate(p.lines) if l.startswith("G0Z"))
    p.lines[lift + 1:lift + 1] = [f"G0X{number(at[0])}Y{number(at[1])}", "Z2.100", f"G1Z{number(z)}F300.000",
                                  f"X{number(to[0])}Y{number(to[1])}F800.000", f"X{number(at[0])}Y{number(at[1])}", "G0Z10.000"]
    return told(p)


def dented(s, p, inwards):
    """At the very top of a wall that the cutter passes along y or x the furthest, it goes DENT into the wood."""
    if p is None or p.entry["cutter"]["kind"] != "flat" or "cutters" in p.entry:
        return False
    bottom, r = deepest(p), p.entry["cutter"]["diameter_mm"] / 2
    level = [m for m in cutting(p) if m.mode == 1 and max(m.a[2], m.b[2]) < 0.9 * bottom and m.flat > 0.5]
    middle = [sum(m.b[k] for m in level) / max(1, len(level)) for k in (0, 1)]
    for m in sorted(level, key=lambda m: -max(abs(m.b[k] - middle[k]) for k in (0, 1)))[:60]:
        axis = 0 if abs(m.b[0] - m.a[0]) < abs(m.b[1] - m.a[1]) else 1
        at = [(m.a[k] + m.b[k]) / 2 for k in (0, 1)]
        way = math.copysign(1, at[axis] - middle[axis]) * (-1 if inwards else 1)
        to, edge = list(at), list(at)
        to[axis] += way * DENT
        edge[axis] += way * (r + DENT - 0.02)
        for share in (0.03, 0.06, 0.09):
            z = bottom * share
            if z < -0.15 and stands(s, p, edge, z):
                return there_and_back(p, at, to, z)
    return False


@kind("P3", "a cavity's wall is dented by 0.12 mm in its uppermost tenth")
def cavity_rim_dented(s, rnd):
    return dented(s, longest(s, "pocket", "pickup", "control"), inwards=False)


@kind("P3", "the outline's wall is dented by 0.12 mm in its uppermost tenth")
def outline_rim_dented(s, rnd):
    return dented(s, next((p for p in reversed(s.programs) if p.cut == "outline"), None), inwards=True)


@kind("P2", "holes for the pins are 0.2 mm too tight: no pin goes in")
def pins_tight(s, rnd):
    pins = all_pins(s)
    if not pins:
        return False
    p = rnd.choice(pins)
    arcs = [m for m in p.moves() if m.mode in (2, 3)]
    centres = {tuple(round(m.a[k] + m.centre[k], 1) for k in (0, 1)): [m.a[k] + m.centre[k] for k in (0, 1)] for m in arcs}.values()
    for m in reversed(p.moves()):
        for c in centres:
            r = math.dist(c, m.b[:2])
            if 0.2 < r < 10:
                by = (r - 0.1) / r
                line = p.lines[m.line]
                for letter, k in (("X", 0), ("Y", 1)):
                    line = re.sub(letter + r"(-?[\d.]+)", lambda w: letter + number(c[k] + (float(w[1]) - c[k]) * by), line)
                for letter in "IJ":
                    line = re.sub(letter + r"(-?[\d.]+)", lambda w: letter + number(float(w[1]) * by), line)
                p.lines[m.line] = line
    return bool(arcs) and told(p)


@kind("P3", "the outline's wall is dented by 0.12 mm at the mouth of a slot, over the slot's floor")
def slot_mouth_dented(s, rnd):
    board = next((p for p in s.of("slots") if p.entry["part"] == "fretboard" and "cutters" not in p.entry), None)
    outline = next((p for p in s.programs if p.cut == "outline" and "cutters" not in p.entry), None)
    if board is None or outline is None:
        return False
    bottom, r = deepest(outline), outline.entry["cutter"]["diameter_mm"] / 2
    edges = [m for m in cutting(outline) if m.mode == 1 and m.flat > 20 and max(m.a[2], m.b[2]) < bottom + 0.01]
    middle = [sum(m.b[k] for m in edges) / max(1, len(edges)) for k in (0, 1)]
    deep = [m for m in cutting(board) if m.flat > 1 and max(m.a[2], m.b[2]) < 0.7 * deepest(board)]
    for m in rnd.sample(deep, min(200, len(deep))):
        for e in edges:
            u = [(e.b[k] - e.a[k]) / e.flat for k in (0, 1)]
            to = [-u[1], u[0]]
            if sum((middle[k] - e.a[k]) * to[k] for k in (0, 1)) < 0:
                to = [-v for v in to]
            way = [m.b[k] - m.a[k] for k in (0, 1)]
            towards = sum(way[k] * to[k] for k in (0, 1))
            if abs(towards) < 0.9 * m.flat:
                continue  # not across this edge
            t = (r - sum((m.a[k] - e.a[k]) * to[k] for k in (0, 1))) / towards
            at = [m.a[k] + t * way[k] - r * to[k] for k in (0, 1)]
            along = sum((at[k] - e.a[k]) * u[k] for k in (0, 1))
            wall = [at[k] + r * to[k] for k in (0, 1)]
            last = all(apart(wall, q) > r - 0.01 for q in edges)  # nothing is left for finishing here
            if not -0.2 < t < 1.2 or not 2 < along < e.flat - 2 or not last:
                continue
            return there_and_back(outline, at, [at[k] + DENT * to[k] for k in (0, 1)], 0.8 * m.b[2])
    return False

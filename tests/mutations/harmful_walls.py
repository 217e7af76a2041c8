"""Harms at a wall that is right at most of its heights, and holes that are too tight for what is set in them.
As in harmful.py, whose table they join."""
import math
import re

from harmful import cutting, deepest, kind, longest
from harmful_fine import all_pins, told
from program_set import number, words

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


def straight_sides(p, at_least):
    """At the outline's full depth: long straight ways, and which sign leads outwards to their right."""
    bottom = deepest(p)
    round_it = [m for m in cutting(p) if max(m.a[2], m.b[2]) < bottom + 0.01]
    turn = sum(m.a[0] * m.b[1] - m.a[1] * m.b[0] for m in round_it)
    return [m for m in round_it if m.mode == 1 and m.flat > at_least], math.copysign(1, turn)


def right_of(m, sign):
    return [sign * (m.b[1] - m.a[1]) / m.flat, -sign * (m.b[0] - m.a[0]) / m.flat]


BULGE, FLAT, SLOPE = 1.25, 5, 2  # mm: how far, and along the wall: half of it, and where it begins


@kind("P3", "the piece is 1.25 mm too large over a centimetre of its outline")
def outline_bulges(s, rnd):
    p = next((p for p in reversed(s.programs) if "outline" in p.cut and "cutters" not in p.entry), None)
    if p is None:
        return False
    level, sign = straight_sides(p, 2 * (FLAT + SLOPE) + 1)
    if not level:
        return False
    m = rnd.choice(level)
    u = [(m.b[k] - m.a[k]) / m.flat for k in (0, 1)]
    out = right_of(m, sign)
    centre = [(m.a[k] + m.b[k]) / 2 for k in (0, 1)]

    def along(q):
        return sum((q[k] - centre[k]) * u[k] for k in (0, 1))

    def led(q):
        by = BULGE * min(1, max(0, (FLAT + SLOPE - abs(along(q))) / SLOPE))
        return [q[k] + by * out[k] for k in (0, 1)] + [q[2]]

    new = {}
    for w in cutting(p):
        near = max(abs(sum((e[k] - centre[k]) * out[k] for k in (0, 1))) for e in (w.a, w.b)) < 3
        a, b = along(w.a), along(w.b)
        if not near or max(a, b) <= -FLAT - SLOPE or min(a, b) >= FLAT + SLOPE:
            continue
        if w.mode != 1 or w.flat < 0.5:
            return False
        knots = [(t - a) / (b - a) for t in (-FLAT - SLOPE, -FLAT, FLAT, FLAT + SLOPE)]
        new[w.line] = [led([w.a[k] + (w.b[k] - w.a[k]) * t for k in (0, 1, 2)]) for t in sorted(t for t in knots if 0 < t < 1) + [1]]
    for i in sorted(new, reverse=True):
        feed = "".join(f"F{number(v)}" for a, v in words(p.lines[i]) if a == "F")
        p.lines[i:i + 1] = ["G1" + "".join(a + number(v) for a, v in zip("XYZ", q)) + (feed if n == 0 else "") for n, q in enumerate(new[i])]
    return bool(new) and told(p)


@kind("P3", "the slot for the nut is 0.08 mm too wide")
def nut_slot_wide(s, rnd):
    p = next((p for p in s.of("nut") if "cutters" not in p.entry), None)
    if p is None:
        return False
    moves = [m for m in cutting(p) if m.b[2] < 0.5 * deepest(p)]
    spread = [max(m.b[k] for m in moves) - min(m.b[k] for m in moves) for k in (0, 1)]
    axis = spread.index(min(spread))
    middle = (max(m.b[axis] for m in moves) + min(m.b[axis] for m in moves)) / 2
    if min(spread) > 5:  # it lies aslant
        return False

    def wider(m):
        v = float(m[2])
        return m[1] + number(v + 0.08 if v > middle + 0.1 else v)

    # Its round ends lie beyond the wood: straight ways are as good.
    straight = lambda l: re.sub(r"^G[23](X[-\d.]+)(Y[-\d.]+)?.*", lambda m: "G1" + m[1] + (m[2] or ""), l)
    p.each(lambda l: re.sub(f"({'XY'[axis]})(-?[\\d.]+)", wider, straight(l)), lambda i, l: not l.startswith(("(", "G53")))
    return told(p)


@kind("M12", "out of the outline's kerf the cutter rises through the whole thickness of the wood beside it")
def rises_through_wood(s, rnd):
    p = next((p for p in reversed(s.programs) if "outline" in p.cut and "cutters" not in p.entry), None)
    if p is None or p.entry["cutter"]["kind"] != "flat":
        return False
    bottom = deepest(p)
    level, sign = straight_sides(p, 8)
    if -bottom < 1.25 * p.entry["cutter"]["diameter_mm"] + 4 or not level:  # too deep for long enough to matter
        return False
    m = rnd.choice(level)
    at = [(m.a[k] + m.b[k]) / 2 for k in (0, 1)]
    out = right_of(m, sign)
    z = bottom + 0.3
    lift = max(k for k, l in enumerate(p.lines) if l.startswith("G0Z"))
    p.lines[lift + 1:lift + 1] = [f"G0X{number(at[0])}Y{number(at[1])}", "Z2.100", f"G1Z{number(z)}F300.000",
                                  f"X{number(at[0] - z * out[0])}Y{number(at[1] - z * out[1])}Z0.000F1300.000", "G0Z10.000"]
    return told(p)


@kind("P3", "a cutter falls into the kerf aslant: where it begins it dents the outline's wall by 0.12 mm")
def falls_along_the_wall(s, rnd):
    p = next((p for p in reversed(s.programs) if p.cut == "outline"), None)
    if p is None or p.entry["cutter"]["kind"] != "flat":
        return False
    level, sign = straight_sides(p, 8)
    if not level:
        return False
    m = rnd.choice(level)
    bottom, r = deepest(p), p.entry["cutter"]["diameter_mm"] / 2
    at, out = [(m.a[k] + m.b[k]) / 2 for k in (0, 1)], right_of(m, sign)
    if any(apart([at[k] - (r - 0.02) * out[k] for k in (0, 1)], q) < r - 0.03 for q in level):
        return False  # the last skims come nearer still
    into = "".join(a + number(at[k] - DENT * out[k]) for k, a in enumerate("XY"))
    beside = "".join(a + number(at[k] - (DENT - 0.01) * out[k]) for k, a in enumerate("XY"))
    lift = max(k for k, l in enumerate(p.lines) if l.startswith("G0Z"))
    p.lines[lift + 1:lift + 1] = [f"G0{into}", "Z2.100", f"G1{beside}Z{number(0.6 * bottom)}F300.000", f"{into}Z2.100", "G0Z10.000"]
    return told(p)


@kind("M10", "the first side has a hollow where a clamp presses on the turned blank")
def clamp_over_a_hollow(s, rnd):
    box = getattr(s, "back_clamp", None)
    p = next((p for p in s.of("pocket") if p.entry["side"] == "front" and "cutters" not in p.entry), None)
    if box is None or p is None:
        return False
    # Turned about its length: what lies at the lower edge then lies at the upper one now.
    corner, width = p.entry["blank_mm"]["corner"], p.entry["blank_mm"]["width"]
    low = [corner[0] + box[0], corner[1] + width - box[3]]
    high = [corner[0] + box[2], corner[1] + width - box[1]]
    lines = [f"G0X{number(low[0])}Y{number(low[1])}", "Z2.100", "G1Z0.000F300.000",
             f"Y{number(high[1])}Z-1.000F1200.000", f"Y{number(low[1])}Z-2.000", f"Y{number(high[1])}"]
    x, up = low[0], True
    while x < high[0]:
        x = min(high[0], x + 2)
        lines += [f"X{number(x)}", f"Y{number(low[1] if up else high[1])}"]
        up = not up
    lift = max(k for k, l in enumerate(p.lines) if l.startswith("G0Z"))
    p.lines[lift + 1:lift + 1] = lines + ["G0Z10.000"]
    return told(p)


RIDGE, RISE = 1.5, 8  # mm: how high, and the way on which the cutter leaves its depth


@kind("P3", "the last skims end 1.5 mm over the outline's foot, along one of its sides: a ridge stands there")
def skims_end_early(s, rnd):
    all_of = [p for p in s.programs if "outline" in str(p.cut) and "cutters" not in p.entry]
    if not all_of:
        return False
    p = rnd.choice(all_of)
    level, sign = straight_sides(p, 3 * RISE)
    if not level:
        return False
    m = rnd.choice(level)
    out = right_of(m, sign)
    u = [(m.b[k] - m.a[k]) / m.flat for k in (0, 1)]

    def beside(q):
        return sum((q[k] - m.a[k]) * out[k] for k in (0, 1))

    along = [w for w in level if max(abs(beside(q)) for q in (w.a, w.b)) < 1
             and sum((w.b[k] - w.a[k]) * u[k] for k in (0, 1)) > 0.99 * w.flat]
    first = max(beside(w.a) for w in along)  # what clears the groove goes furthest from the piece
    last = [w for w in along if beside(w.a) < first - 0.1]
    for w in sorted(last, key=lambda w: -w.line):
        up = [[w.a[k] + (w.b[k] - w.a[k]) * t for k in (0, 1)] for t in (RISE / w.flat, 1 - RISE / w.flat)]
        feed = "".join(f"F{number(v)}" for a, v in words(p.lines[w.line]) if a == "F")
        lines = [f"X{number(q[0])}Y{number(q[1])}Z{number(w.b[2] + RIDGE)}" for q in up]
        lines.append(f"X{number(w.b[0])}Y{number(w.b[1])}Z{number(w.b[2])}")
        lines[0] = "G1" + lines[0] + feed
        p.lines[w.line:w.line + 1] = lines
    return bool(last) and told(p)

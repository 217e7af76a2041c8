"""Harms to what wood is found by when it comes back, and to the order in which it comes. As in harmful.py, whose table
they join."""
from harmful import cutting, drills, kind, number


@kind("P5", "the manifest lets a side be found by another register")
def register_other(s, rnd):
    for p in reversed(s.programs):
        if p.entry["register"]["kind"] != "first":
            p.entry["register"]["kind"] = "pins" if p.entry["register"]["kind"] != "pins" else "lines"
            return True
    return False


@kind("P5", "the manifest says that a side's wood lies there for the first time")
def register_forgotten(s, rnd):
    for p in reversed(s.programs):
        if p.entry["register"]["kind"] != "first":
            p.entry["register"]["kind"] = "first"
            return True
    return False


@kind("P2", "a glued or sawn piece is cut before those it is made of")
def pieces_swapped(s, rnd):
    pieces = []
    for p in s.programs:
        if p.entry["piece"] not in pieces:
            pieces.append(p.entry["piece"])
    if len(pieces) < 2:
        return False
    last = [p for p in s.programs if p.entry["piece"] == pieces[-1]]
    if not any(p.entry["earlier"] for p in last):
        return False
    for p in s.programs:
        p.entry["after"] = []
        p.entry["earlier"] = []
    s.programs = last + [p for p in s.programs if p not in last]
    return True


@kind("M10", "pin holes are not bored again after the glue-up")
def pins_not_again(s, rnd):
    again = [p for p in s.programs if p.entry["side"] == "front" and p.entry["cut"] == ["pins"] and p.entry["earlier"]]
    if not again:
        return False
    for q in s.programs:
        q.entry["after"] = [f for f in q.entry["after"] if f != again[0].name]
        q.entry["earlier"] = [f for f in q.entry["earlier"] if f != again[0].name]
    s.programs.remove(again[0])
    return True


@kind("M10", "an ear is cut off before the last skims")
def ear_cut(s, rnd):
    skim = [p for p in s.programs if p.entry["side"] == "skim" and "outline" in p.entry["cut"]]
    if not skim:
        return False
    p = skim[0]
    ring = p.entry["blank_mm"]["stock"]["outline_mm"]
    corner = p.entry["blank_mm"]["corner"]
    m = p.entry["instrument_to_work"]
    # The island is in the side's frame, whose plan the matrix turns and shifts as it does the instrument's.
    turned = m[2][2] < 0
    flip = (lambda q: (q[0], -q[1])) if turned and m[1][1] < 0 or turned and m[0][1] != 0 else (lambda q: (-q[0], q[1]))
    at = []
    for q in ring:
        i = flip(q) if turned else q
        at.append((m[0][0] * i[0] + m[0][1] * i[1] + m[0][3], m[1][0] * i[0] + m[1][1] * i[1] + m[1][3]))
    along_x = p.entry["blank_mm"]["length_along"] == "x"
    end = corner[0] if along_x else corner[1]
    ends = [q for q in at if abs((q[0] if along_x else q[1]) - end) < 0.01]
    if len(ends) < 2:
        return False
    low, high = (min(q[1 if along_x else 0] for q in ends), max(q[1 if along_x else 0] for q in ends))
    first = next(k for k in p.moves() if k.mode != 0)
    deep, thick, radius = -p.entry["blank_mm"]["thickness"] - 0.2, 0.0, p.entry["cutter"]["diameter_mm"] / 2
    aside, line = 2 * radius + 4, end + 40  # between the pin and the body
    place = (lambda v: f"X{number(line)}Y{number(v)}") if along_x else (lambda v: f"X{number(v)}Y{number(line)}")
    lines = ["G0Z10.000", place(low - aside)]
    z, there = thick, False
    while z > deep:
        z = max(deep, z - radius)
        lines += [f"G1Z{number(z)}F300.000", place(low - aside if there else high + aside) + "F900.000"]
        there = not there
    lines += ["G0Z10.000", f"X{number(first.a[0])}Y{number(first.a[1])}", f"Z{number(first.a[2])}", "G1"]
    p.lines[first.line:first.line] = lines
    return True


@kind("P2", "holes are drilled after the cut that takes their wood away")
def hole_late(s, rnd):
    for p in drills(s):
        holes = [m.b[:2] for m in cutting(p)]
        side = [q for q in s.programs if q.entry.get("side") == p.entry.get("side")]
        for q in side[side.index(p) + 1:]:
            cut = cutting(q)
            if not cut or not holes:
                continue
            xs, ys = [m.b[0] for m in cut], [m.b[1] for m in cut]
            if all(min(xs) < x < max(xs) and min(ys) < y < max(ys) for x, y in holes):
                for r in s.programs:
                    r.entry["after"] = []
                s.programs.remove(p)
                s.programs.insert(s.programs.index(q) + 1, p)
                return True
    return False

"""Harms that hide in how motions are divided, in stops that nobody planned, and in words that controllers read differently.
As in harmful.py, whose table they join."""
import math
import re

from harmful import KINDS, chords, cutting, deepest, drills, kind, last_outline, longest, tab_lines
from program_set import number, with_word, words


CLEAR_UNDER_NUT = 110  # mm from the collet nut at the machine's top to the waste board, as the demos have it


def told(p):
    """The manifest says how far the program goes: nothing but the cutting tells."""
    moves = p.moves()
    p.entry["extents_mm"] = {"low": [min(m.b[k] for m in moves) - 0.001 for k in range(3)], "high": [max(m.b[k] for m in moves) + 0.001 for k in range(3)]}
    return True


def parked(p):
    """The line that leads to the parking place, and those that bring the spindle up again; None where there are none."""
    over = next((l for l in p.lines if l.startswith("G53 G0 X")), None)
    turn = next((i for i, l in enumerate(p.lines) if re.match(r"S\d+ M3", l)), None)
    return (over, p.lines[turn:turn + 2]) if over and turn is not None else None


def stop(p, says):
    """Every line of a stop as a machinist would have it."""
    over, spin = parked(p)
    return ["G53 G0 Z0", "M5", over, f"M0 ({says})", "G53 G0 Z0", *spin]


def over_rapid(p):
    """A rapid on a level well over the work, in the middle of a program."""
    found = [m for m in p.moves() if m.mode == 0 and m.a[2] > 1.9 and abs(m.down) < 1e-6 and m.flat > 1 and m.a[2] < 900]
    return found[len(found) // 2] if found else None


@kind("M4", "in the middle of a cut a stop asks for another cutter")
def change_in_a_cut(s, rnd):
    for p in s.programs:
        m = over_rapid(p)
        if m is None or parked(p) is None:
            continue
        again = [f"G0X{number(m.a[0])}Y{number(m.a[1])}", f"Z{number(m.a[2])}", "G0"]
        p.lines[m.line:m.line] = stop(p, "change to flat-12, stickout 9.00 mm, probe z") + again
        return True
    return False


@kind("M4", "a stop before the first cut asks for another cutter than the header")
def change_at_first(s, rnd):
    for p in s.programs:
        i = next((i for i, l in enumerate(p.lines) if re.match(r"T\d+ M6", l)), None)
        if i is not None:
            p.lines.insert(i, "M0 (change to flat-12, stickout 9.00 mm, probe z)")
            return True
    return False


@kind("M7", "the bottom of a cut is reached in the machine's coordinates: what z was probed at counts for nothing there")
def cut_in_machine_coordinates(s, rnd):
    for p in s.programs:
        if not any(l.startswith("G53") for l in p.lines) or "G20" in p.text():
            continue
        c = p.entry["cutter"]
        home = CLEAR_UNDER_NUT - c["stickout_mm"] - p.entry["blank_mm"]["thickness"]
        low = next((m for m in cutting(p) if m.mode == 1 and m.flat < 1e-6 and m.down > 0.05), None)
        if low is None:
            continue
        p.lines[low.line] = f"G53 G1 Z{number(low.b[2] - home)}" + (f" F{number(low.feed)}" if low.feed else "")
        return True
    return False


@kind("M6", "two words of one group in a line, of which one controller takes the first, the next the last, the third none")
def words_that_contradict(s, rnd):
    done = False
    for p in s.programs:
        for i, l in enumerate(p.lines):
            if l == "M5":
                p.lines[i] = "M3 M5"
                done = True
    return done


@kind("M5", "a feed is given in inches and used in millimetres: a controller that keeps its number goes a twenty-fifth as fast")
def feed_in_other_units(s, rnd):
    for p, i, l in ((p, i, l) for p in s.programs if not any(l.startswith("G20") for l in p.lines) for i, l in enumerate(p.lines)):
        f = [v for a, v in words(l) if a == "F"]
        follow = words(p.lines[i + 1]) if i + 1 < len(p.lines) else []
        if f and f[0] > 1000 and any(a in "XY" for a, _ in follow) and all(a not in "FG" for a, _ in follow):
            p.lines[i + 1:i + 1] = ["G20", f"F{f[0] / 25.4:.3f}", "G21"]
            return True
    return False


@kind("M7", "behind many comments the header tells another zero")
def header_behind_comments(s, rnd):
    for p in s.programs:
        i = next((i for i, l in enumerate(p.lines) if l.startswith("(zero: ")), None)
        if i is not None:
            j = next(k for k, l in enumerate(p.lines) if l.startswith("G2"))
            p.lines[j:j] = ["(carefully)"] * 120 + ["(zero: the middle of the blank, z = 0 on the waste board)"]
            return True
    return False


def pieces(a, b, step):
    n = max(1, math.ceil(math.dist(a, b) / step))
    return [tuple(a[k] + (b[k] - a[k]) * j / n for k in range(3)) for j in range(1, n + 1)]


@kind("M12", "the outline in one pass, down to it by a good ramp: as wide as the cutter and as deep as the blank, in short pieces")
def whole_depth_in_pieces(s, rnd):
    p = last_outline(s)
    low = deepest(p) if p is not None else 0
    if low > -5:
        return False
    chords(p)
    tabs = {i for r in tab_lines(p) for i in r}
    bottom = [m for m in cutting(p) if (abs(m.b[2] - low) < 0.002 or m.line in tabs) and m.flat > 1e-6]
    start = next((k for k, m in enumerate(bottom) if m.flat > 15 and abs(m.a[2] - low) < 0.002 and abs(m.b[2] - low) < 0.002), None)
    if start is None or len(bottom) < 4:
        return False
    m = bottom[start]
    u = [(m.b[k] - m.a[k]) / m.flat for k in (0, 1)]
    z, at, out = 0.0, 0, [f"G0X{number(m.a[0])}Y{number(m.a[1])}", "Z3.000", "G1Z0.100F300"]
    while z > low:  # to and fro over 15 mm at ten degrees
        z = max(low, z - 15 * math.tan(math.radians(10)))
        at = 15 - at
        out.append(f"X{number(m.a[0] + u[0] * at)}Y{number(m.a[1] + u[1] * at)}Z{number(z)}F600")
    if at:
        out.append(f"X{number(m.a[0])}Y{number(m.a[1])}F600")
    way = m.a
    for n in bottom[start:] + bottom[:start]:
        if math.dist(n.a, way) > 0.01:
            out += [f"X{number(q[0])}Y{number(q[1])}Z{number(q[2])}F600" for q in pieces(way, n.a, 1.2)]
        out += [f"X{number(q[0])}Y{number(q[1])}Z{number(q[2])}F{1500 + 10 * (j % 2)}" for j, q in enumerate(pieces(n.a, n.b, 1.2))]
        way = n.b
    moves = p.moves()
    last = [x.line for x in moves if x.mode != 0][-1]
    p.lines[moves[0].line:last + 1] = out
    return told(p)


def holes_down(p):
    """Of a drill's program: [(x, y, lowest z)] in order."""
    out = []
    for m in cutting(p):
        if m.flat < 1e-6 and m.down > 0:
            if out and math.dist(out[-1][:2], m.b[:2]) < 1e-6:
                out[-1] = (*m.b[:2], min(out[-1][2], m.b[2]))
            else:
                out.append((*m.b[:2], m.b[2]))
    return out


def drilled_anew(s, bite):
    """The first drill with a hole deeper than six diameters; `bite` writes the way down."""
    for p in drills(s):
        wide = p.entry["cutter"]["diameter_mm"]
        holes = holes_down(p)
        if not holes or min(h[2] for h in holes) > -6 * wide:
            continue
        feed = next((m.feed for m in cutting(p) if m.feed), 300)
        moves = p.moves()
        begin, last = moves[0].line, [m for m in moves if m.mode != 0][-1].line
        end = next((m.line for m in moves if m.line > last), last + 1)
        out = []
        for x, y, z in holes:
            out += [f"G0X{number(x)}Y{number(y)}", "Z2.000", *bite(z, wide, feed), "G0Z10.000"]
        p.lines[begin:end] = out
        return True
    return False


@kind("M1", "a drill goes all the way down without coming out, in pieces of three diameters with feeds a little different")
def pecks_in_pieces(s, rnd):
    def bite(z, wide, feed):
        n = math.ceil(-z / (3 * wide))
        return [f"G1Z{number(z * k / n)}F{number(feed - k % 2)}" for k in range(1, n + 1)]
    return drilled_anew(s, bite)


@kind("M1", "a drill lifts by a tenth between its bites: chips stay in the hole")
def pecks_barely_out(s, rnd):
    def bite(z, wide, feed):
        n = math.ceil(-z / (3 * wide))
        return [l for k in range(1, n + 1) for l in (f"G1Z{number(z * k / n)}F{number(feed)}", f"Z{number(z * k / n + 0.1)}")]
    return drilled_anew(s, bite)


@kind("M7", "z is probed on the waste board, and a cut has scratched it there")
def board_scratched_where_probed(s, rnd):
    for k, p in enumerate(s.programs):
        probe = p.entry.get("probe") or {}
        if probe.get("on") != "waste board" or p.entry["blank_mm"]["thickness"] <= 0:
            continue
        if not any(q.entry["side"] == p.entry["side"] and q.entry["piece"] == p.entry["piece"] for q in s.programs[k + 1:]):
            continue
        m = next((m for m in p.moves() if m.mode != 0), None)
        if m is None or p.entry["cutter"]["kind"] == "drill":
            continue
        x, y = probe["at_mm"]
        z = -p.entry["blank_mm"]["thickness"] - 0.15
        p.lines[m.line:m.line] = ["G0Z10.000", f"G0X{number(x)}Y{number(y)}", f"G1Z{number(z)}F300", "G0Z10.000",
                                  f"G0X{number(m.a[0])}Y{number(m.a[1])}", f"Z{number(m.a[2])}", "G1"]
        return told(p)
    return False


@kind("M5", "a wide cutter turns as fast as the spindle can")
def wide_cutter_fast(s, rnd):
    for p in s.programs:
        if p.entry["cutter"]["diameter_mm"] < 30:
            continue
        for i, l in enumerate(p.lines):
            found = re.match(r"S(\d+) M3", l)
            if found and int(found[1]) < 20000:
                more = 24000 / int(found[1])
                p.lines[i] = "S24000 M3"
                p.each(lambda l: with_word(l, "F", min(3000.0, 1.0 * [v for a, v in words(l) if a == "F"][0] * more)),
                       lambda j, l: any(a == "F" for a, _ in words(l)) and all(a != "Z" for a, _ in words(l)))
                return True
    return False


@kind("M5", "a drill creeps down: it burns its way")
def drill_creeps(s, rnd):
    for p in drills(s):
        low = [m for m in cutting(p) if m.flat < 1e-6 and m.down > 0.2]
        if low and deepest(p) < -5:
            p.each(lambda l: with_word(l, "F", [v for a, v in words(l) if a == "F"][0] / 20),
                   lambda j, l: any(a == "F" for a, _ in words(l)))
            return True
    return False


def where_outline_comes(s):
    """A long straight way of the last outline that bears no tab, and the first move of its program: before it all is whole there."""
    p = last_outline(s)
    if p is None or p.entry["cutter"]["kind"] == "drill":
        return None
    low = deepest(p)
    lines = {i for r in tab_lines(p) for i in r}
    at = [m for m in cutting(p) if abs(m.b[2] - low) < 0.002 and abs(m.a[2] - low) < 0.002 and m.mode == 1 and m.flat > 12 and m.line not in lines]
    if not at or low > -5:
        return None
    return p, at[0], next(x for x in p.moves() if x.mode != 0)


def gone_down_before(p, first, x, y, down):
    out = ["G0Z10.000", f"G0X{number(x)}Y{number(y)}", "Z2.000"] + down
    out += ["G0Z10.000", f"G0X{number(first.a[0])}Y{number(first.a[1])}", f"Z{number(first.a[2])}", "G1"]
    p.lines[first.line:first.line] = out
    return told(p)


@kind("M1", "the cutter wags to and fro by a quarter of a millimetre on its way down: each way is a ramp, all of them a plunge")
def plunge_that_wags(s, rnd):
    found = where_outline_comes(s)
    if found is None:
        return False
    p, m, first = found
    u = [(m.b[k] - m.a[k]) / m.flat for k in (0, 1)]
    x, y = (m.a[0] + m.b[0]) / 2, (m.a[1] + m.b[1]) / 2
    z, side, out = 0.0, 1, ["G1Z0.050F300"]
    while z > deepest(p) + 0.5:
        z -= 0.25 * math.tan(math.radians(14))
        out.append(f"X{number(x + side * 0.125 * u[0])}Y{number(y + side * 0.125 * u[1])}Z{number(z)}F1500")
        side = -side
    return gone_down_before(p, first, x, y, out)


@kind("M1", "the cutter goes down a steep stair, and hops by a tenth on each of its treads")
def stair_with_hops(s, rnd):
    found = where_outline_comes(s)
    if found is None:
        return False
    p, m, first = found
    d = p.entry["cutter"]["diameter_mm"]
    u = [(m.b[k] - m.a[k]) / m.flat for k in (0, 1)]
    z, along, out = 0.0, 1.0, ["G1Z0.050F250"]
    while z > deepest(p) + 0.5 and along < m.flat - 1:
        z = max(deepest(p) + 0.5, z - 0.2 * d)
        out += [f"Z{number(z)}F250", f"Z{number(z + 0.1)}"]
        along += 0.15 * d
        out.append(f"X{number(m.a[0] + along * u[0])}Y{number(m.a[1] + along * u[1])}F800")
    return len(out) > 9 and gone_down_before(p, first, m.a[0] + u[0], m.a[1] + u[1], out)


def cut_outside_a_tab(s, leave):
    """Along the outer half of a tab, down to a share of its height."""
    p = last_outline(s)
    runs = tab_lines(p) if p else []
    moves = {m.line: m for m in p.moves()} if p else {}
    cut = cutting(p) if p else []
    if not runs:
        return False
    cx = sum(m.b[0] for m in cut) / len(cut)
    cy = sum(m.b[1] for m in cut) / len(cut)
    for r in runs:
        ends = moves[r[0]].a, moves[r[-1]].b
        bed = -p.entry["blank_mm"]["thickness"]
        low = deepest(p) if leave == 0 else bed + leave * (max(moves[i].b[2] for i in r) - bed)
        d = [ends[1][k] - ends[0][k] for k in (0, 1)]
        l = math.hypot(*d)
        if not 3 < l < 40:
            continue
        n = (d[1] / l, -d[0] / l)
        middle = [(ends[0][k] + ends[1][k]) / 2 for k in (0, 1)]
        if n[0] * (middle[0] - cx) + n[1] * (middle[1] - cy) < 0:
            n = (-n[0], -n[1])
        by = p.entry["cutter"]["diameter_mm"] / 2
        a = [ends[0][k] - d[k] / l * 4 + n[k] * by for k in (0, 1)]
        b = [ends[1][k] + d[k] / l * 4 + n[k] * by for k in (0, 1)]
        z, there, out = 0.0, False, ["G0Z10.000", f"G0X{number(a[0])}Y{number(a[1])}", "Z2.000", "G1Z0.050F300"]
        while z > low:
            z = max(low, z - 0.24 * math.dist(a, b))
            there = not there
            x, y = b if there else a
            out.append(f"X{number(x)}Y{number(y)}Z{number(z)}F900")
        x, y = a if there else b
        out += [f"X{number(x)}Y{number(y)}F900", "G0Z10.000"]
        last = [m for m in p.moves() if m.mode != 0][-1]
        p.lines[last.line + 1:last.line + 1] = out
        return told(p)
    return False


@kind("M10", "a tab is cut off on its outer side: it stands, and holds nothing")
def tab_cut_off_outside(s, rnd):
    return cut_outside_a_tab(s, 0)


@kind("M10", "the outer half of a tab is cut down to six tenths of its height")
def tab_thinned_outside(s, rnd):
    return cut_outside_a_tab(s, 0.6)


@kind("M10", "a strip of the blank is cut off beside the part but for a skin as thin as paper")
def offcut_on_a_skin(s, rnd):
    p = last_outline(s)
    before = list(p.lines) if p else []
    if not KINDS["offcut"][2](s, rnd):
        return False
    low = deepest(p)
    new = set(p.lines) - set(before)
    skin = f"Z{number(-p.entry['blank_mm']['thickness'] + 0.25)}"
    p.each(lambda l: l.replace(f"Z{number(low)}", skin), lambda i, l: l in new)
    return told(p)


@kind("M5", "the spindle is switched off while the cutter is down in its cut")
def stops_in_the_wood(s, rnd):
    for p in s.programs:
        moves = p.moves()
        lifts = [b for a, b in zip(moves, moves[1:]) if a.b[2] < -1 and a.flat > 2 and b.mode == 0 and b.b[2] > 0 and b.flat < 1e-6]
        if lifts:
            p.lines.insert(lifts[-1].line, "M5")
            return True
    return False


@kind("M2", "a drill goes sideways in its hole by hundredths of a millimetre at a time")
def drill_sideways_by_steps(s, rnd):
    for p in drills(s):
        low = [m for m in cutting(p) if m.flat < 1e-6 and m.down > 0.5]
        if not low:
            continue
        m = low[-1]
        steps = [f"G1X{number(m.b[0] + 0.015 * k)}F{600 + k % 2}" for k in range(1, 41)]
        p.lines[m.line + 1:m.line + 1] = [*steps, f"X{number(m.b[0])}F{number(m.feed)}"]
        return told(p)
    return False


@kind("M5", "a thin cutter runs four times too fast, in pieces of a hundredth of a millimetre")
def feed_absurd_in_pieces(s, rnd):
    for p in s.programs:
        if p.entry["cutter"]["diameter_mm"] > 1.6 or p.entry["cutter"]["kind"] == "drill" or "cutters" in p.entry:
            continue
        long = [m for m in cutting(p) if m.mode == 1 and m.flat > 10 and m.feed]
        if not long or any(l.startswith("G20") for l in p.lines):
            continue
        for m in sorted(long, key=lambda m: -m.line):
            n = math.ceil(m.flat / 0.02)
            at = [tuple(m.a[k] + (m.b[k] - m.a[k]) * j / n for k in range(3)) for j in range(1, n + 1)]
            p.lines[m.line:m.line + 1] = [f"G1X{number(q[0])}Y{number(q[1])}Z{number(q[2])}F{min(2900, 4 * m.feed) + j % 2:.0f}"
                                          for j, q in enumerate(at)] + [f"F{number(m.feed)}"]
            if len(p.lines) > 60000:
                break
        return True
    return False


@kind("M1", "the cutter pecks its way straight down with lifts of a tenth: it never comes out")
def woodpecker(s, rnd):
    p = last_outline(s)
    if p is None or p.entry["cutter"]["kind"] == "drill" or deepest(p) > -5:
        return False
    low = deepest(p)
    tabs = {i for r in tab_lines(p) for i in r}
    m = next((m for m in cutting(p) if abs(m.b[2] - low) < 0.002 and abs(m.a[2] - low) < 0.002 and m.mode == 1 and m.flat > 12
              and m.line not in tabs), None)
    if m is None:
        return False
    first = next(x for x in p.moves() if x.mode != 0)
    bite = 0.2 * p.entry["cutter"]["diameter_mm"]
    z, out = 0.0, ["G0Z10.000", f"G0X{number((m.a[0] + m.b[0]) / 2)}Y{number((m.a[1] + m.b[1]) / 2)}", "Z2.000"]
    while z > low + 0.3:
        z = max(low + 0.3, z - bite)
        out += [f"G1Z{number(z)}F300", f"Z{number(z + 0.1)}"]
    p.lines[first.line:first.line] = out + ["G0Z10.000", f"G0X{number(first.a[0])}Y{number(first.a[1])}", f"Z{number(first.a[2])}", "G1"]
    return told(p)


def cut_free(s, wide_x, wide_y):
    """A rectangle in the corner of the blank that the part leaves free, all the way round and through."""
    p = last_outline(s)
    if p is None or p.entry["cutter"]["kind"] == "drill":
        return False
    blank, low, wide = p.entry["blank_mm"], deepest(p), p.entry["cutter"]["diameter_mm"]
    if -low < blank["thickness"]:
        return False
    corner = blank["corner"]
    along = blank["length_along"] == "x"
    w, h = (blank["length"], blank["width"]) if along else (blank["width"], blank["length"])
    cut = cutting(p)
    dx, dy = wide_x + wide, wide_y + wide
    for x, y in ((corner[0] - wide / 2, corner[1] - wide / 2), (corner[0] + w + wide / 2 - dx, corner[1] - wide / 2),
                 (corner[0] - wide / 2, corner[1] + h + wide / 2 - dy), (corner[0] + w + wide / 2 - dx, corner[1] + h + wide / 2 - dy)):
        if any(x - wide < m.b[0] < x + dx + wide and y - wide < m.b[1] < y + dy + wide for m in cut):
            continue
        ring = [(x, y), (x + dx, y), (x + dx, y + dy), (x, y + dy)]
        z, out = 0.0, ["G0Z10.000", f"G0X{number(x)}Y{number(y)}", "Z2.000", "G1Z0.000F300"]
        while z > low:
            z = max(low, z - 0.3 * wide)
            out += [f"X{number(q[0])}Y{number(q[1])}" + (f"Z{number(z)}" if k == 0 else "") + "F900" for k, q in enumerate(ring[1:] + ring[:1])]
        first = next(m for m in p.moves() if m.mode != 0)
        p.lines[first.line:first.line] = out + ["G0Z10.000", f"G0X{number(first.a[0])}Y{number(first.a[1])}", f"Z{number(first.a[2])}", "G1"]
        return told(p)
    return False


@kind("M10", "a block of the blank as large as a thumb is cut free beside the part")
def block_cut_loose(s, rnd):
    return cut_free(s, 14, 14)


@kind("M10", "a splinter of the blank, 2.2 by 24 mm, is cut free beside the part")
def splinter_cut_loose(s, rnd):
    return cut_free(s, 24, 2.2)


@kind("P3", "a slot is widened by six hundredths, in pieces of a seventh of a millimetre")
def slot_widened_in_pieces(s, rnd):
    for p in s.of("slot", "slots"):
        if p.entry["cutter"]["kind"] != "slot" or "cutters" in p.entry:
            continue
        cut, low = cutting(p), deepest(p)
        for i in range(len(cut) // 2, len(cut)):
            run = cut[i:i + 1] if cut[i].flat > 10 else cut[i:i + 12]
            a, b = run[0].a, run[-1].b
            far = math.dist(a[:2], b[:2])
            if far < 4 or sum(m.flat for m in run) > far + 0.01 or any(m.mode != 1 or m.b[2] > 0.6 * low or not m.feed for m in run):
                continue
            n = (-(b[1] - a[1]) / far * 0.06, (b[0] - a[0]) / far * 0.06, 0.0)
            there = [a] + [m.b for m in run]
            aside = [tuple(q[k] + n[k] for k in range(3)) for q in reversed(there)]
            way = [q for u, v in zip(aside, aside[1:]) for q in pieces(u, v, 0.14)] + [q for u, v in zip(there, there[1:]) for q in pieces(u, v, 0.14)]
            feed = run[-1].feed
            p.lines[run[-1].line + 1:run[-1].line + 1] = [f"G1X{number(aside[0][0])}Y{number(aside[0][1])}"] + [
                f"X{number(q[0])}Y{number(q[1])}Z{number(q[2])}F{feed - k % 2:.0f}" for k, q in enumerate(way)] + [f"F{number(feed)}"]
            return told(p)
    return False


def all_pins(s):
    """The programs that bore for pins into blank and waste board."""
    return [p for p in s.programs if "pins" in p.cut.split() and cutting(p) and -deepest(p) > p.entry["blank_mm"]["thickness"] > 4]


def pins_of(s):
    return next(iter(all_pins(s)), None)


@kind("P2", "pin holes are not bored: their program does nothing")
def pins_forgotten(s, rnd):
    p = pins_of(s)
    if p is None:
        return False
    p.drop([m.line for m in p.moves()])
    return True


@kind("P2", "pin holes do not go through the blank by 2 mm: no pin finds the waste board")
def pins_shallow(s, rnd):
    return shallow(pins_of(s))


@kind("P2", "of a body that is glued of layers the last layer's or the glued body's pin holes do not go through by 2 mm")
def later_pins_shallow(s, rnd):
    return shallow(rnd.choice(all_pins(s)[1:] or [None]))


def shallow(p):
    if p is None:
        return False
    low = 2 - p.entry["blank_mm"]["thickness"]
    for m in p.moves():
        if m.b[2] < low and any(a == "Z" for a, _ in words(p.lines[m.line])):
            p.lines[m.line] = with_word(p.lines[m.line], "Z", low)
    return told(p)


@kind("M5", "the spindle's speed is said in small steps behind the wait: it comes up while it cuts")
def speed_creeps_up(s, rnd):
    done = False
    for p in s.programs:
        for i, l in enumerate(p.lines):
            found = re.match(r"S(\d+) M3$", l)
            if found and p.lines[i + 1].startswith("G4") and int(found[1]) > 12000:
                speeds = [8000]
                while speeds[-1] < int(found[1]):
                    speeds.append(min(int(found[1]), int(speeds[-1] * 1.09)))
                p.lines[i:i + 2] = ["S8000 M3", p.lines[i + 1], *(f"S{v}" for v in speeds[1:])]
                done = True
                break
    return done


@kind("P2", "in a file of all cutters the outline comes first, and the manifest tells them in the right order")
def sections_swapped(s, rnd):
    for p in s.programs:
        changes = [i for i, l in enumerate(p.lines) if re.match(r"M0 \(change to ", l)]
        first = next((i for i, l in enumerate(p.lines) if re.match(r"T\d+ M6", l)), None)
        if not changes or first is None or p.entry["cut"][-1] != "outline":
            continue
        # Each section from its T word to the retract before the next stop; the stop's words go with their cutter.
        starts = [first] + [next(i for i in range(c, len(p.lines)) if re.match(r"T\d+ M6", p.lines[i])) for c in changes]
        ends = [max(i for i in range(c) if p.lines[i] == "G53 G0 Z0" and i > a) for a, c in zip(starts, changes)]
        ends.append(max(i for i, l in enumerate(p.lines) if l == "G53 G0 Z0"))
        says = {p.lines[t]: p.lines[c] for t, c in zip(starts[1:], changes)}
        told_of = [l for l in p.lines if l.startswith("(cutter: ")]
        parts = [p.lines[a:b] for a, b in zip(starts, ends)]
        parked_between = p.lines[ends[0]:changes[0]]
        tail = p.lines[ends[-1]:]
        order = [len(parts) - 1] + list(range(len(parts) - 1))
        name, out = re.match(r"\(cutter: T\d+ ([^,]+),.* stickout ([\d.]+) mm", told_of[0]), p.lines[:first]
        says[parts[0][0]] = f"M0 (change to {name[1]}, stickout {name[2]} mm, probe z)"
        for n, k in enumerate(order):
            if n:
                out += [*parked_between, says[parts[k][0]]]
            out += parts[k]
        p.lines = out + tail
        return True
    return False


@kind("P2", "in a program of several cuts the outline comes first, and the manifest tells them in the right order")
def cuts_swapped(s, rnd):
    for p in s.programs:
        if len(p.entry["cut"]) < 2 or p.entry["cut"][-1] != "outline" or "cutters" in p.entry:
            continue
        moves = p.moves()
        overs = [k for k, m in enumerate(moves) if m.mode == 0 and m.flat > 1] + [len(moves)]
        # The outline begins at the first stretch that goes some way in the wood; holes before it go down and up.
        begin = next((a for a, b in zip(overs, overs[1:]) if sum(m.flat for m in moves[a:b] if m.mode != 0) > 30), None)
        if begin is None or begin == overs[0]:
            continue
        first, over = moves[overs[0]], moves[begin]
        end = moves[-1].line + 1
        outline, rest = p.lines[over.line:end], p.lines[first.line:over.line]
        feed = next(m.feed for m in moves[begin:] if m.mode != 0)
        outline[:1] = [f"F{number(feed)}", f"G0X{number(over.b[0])}Y{number(over.b[1])}"]
        p.lines[first.line:end] = outline + ["G0Z10.000", *rest]
        return told(p)
    return False


def bumps(p):
    """Stretches of cutting moves that leave a level upwards and come back to it within 60 mm, a ramp back beside a tab
    with it: [[move, ...], ...]."""
    out, run, level = [], [], None
    moves = p.moves()
    for m, follow in zip(moves, moves[1:] + [None]):
        if m.mode == 0:
            run, level = [], None
            continue
        if not run and m.a[2] < -1 and m.down < -0.3:
            run, level = [m], m.a[2]
        elif run:
            run.append(m)
            if sum(x.flat for x in run) > 60:
                run = []
            elif m.b[2] < level + 0.002 and not (follow and follow.mode != 0 and follow.down < -0.3):
                out.append(run)
                run = []
    return out


@kind("M10", "tabs stand 9 mm beside their places")
def tabs_aside(s, rnd):
    by = 9.0
    p = last_outline(s)
    if p is None or not tab_lines(p):
        return False
    chords(p)
    done = False
    for run in reversed(bumps(p)):
        level = run[0].a[2]
        after = [m for m in p.moves() if m.line > run[-1].line][:200]
        more, far = [], 0.0
        for m in after:
            if m.mode != 1 or abs(m.b[2] - level) > 0.002 or abs(m.a[2] - level) > 0.002 or far >= by:
                break
            more.append(m)
            far += m.flat
        if far < by:
            continue
        way = [run[0].a] + [m.b for m in run] + [m.b for m in more]
        at = [0.0]
        for a, b in zip(way, way[1:]):
            at.append(at[-1] + math.dist(a[:2], b[:2]))
        whole = sum(m.flat for m in run)

        def place(s):
            k = next((k for k in range(1, len(at)) if at[k] >= s - 1e-9), len(at) - 1)
            u = (s - at[k - 1]) / (at[k] - at[k - 1]) if at[k] > at[k - 1] else 1.0
            return [way[k - 1][j] + (way[k][j] - way[k - 1][j]) * u for j in range(3)]

        lines, n = [], math.ceil(at[-1] / 0.5)
        for k in range(1, n + 1):
            s_k = at[-1] * k / n
            x, y, _ = place(s_k)
            z = place(s_k - by)[2] if by <= s_k <= by + whole else level
            lines.append(f"G1X{number(x)}Y{number(y)}Z{number(z)}F600")
        p.lines[run[0].line:more[-1].line + 1] = lines
        done = True
    return done and told(p)


@kind("M10", "a bridge as high as the blank and less than 2 mm long stands where no tab is designed")
def bridge_too_many(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    low, wide = deepest(p), p.entry["cutter"]["diameter_mm"]
    if low > -3 or "cutters" in p.entry:
        return False
    half = (wide + 0.8) / 2
    tabs = {i for r in tab_lines(p) for i in r}

    def passes(at):
        """Moves that come by, each with where along it; None where one of them has no room to hop over the place."""
        out = []
        for m in cutting(p):
            d = [m.b[k] - m.a[k] for k in (0, 1)]
            t = max(0.0, min(1.0, sum((at[k] - m.a[k]) * d[k] for k in (0, 1)) / m.flat ** 2)) if m.flat > 0 else 0.0
            if math.dist(at, [m.a[k] + d[k] * t for k in (0, 1)]) > wide / 2 + half:
                continue
            if m.mode != 1 or abs(m.down) > 1e-6 or not half < t * m.flat < m.flat - half:
                return None
            out.append((m, t))
        return out

    floors = [m for m in cutting(p) if m.mode == 1 and abs(m.b[2] - low) < 0.002 and abs(m.a[2] - low) < 0.002 and m.flat > 4 * half and m.line not in tabs]
    there = next((found for m in floors for u in (0.5, 0.3, 0.7) if (found := passes([m.a[k] + (m.b[k] - m.a[k]) * u for k in (0, 1)]))), None)
    if there is None:
        return False
    for m, t in sorted(there, key=lambda x: -x[0].line):
        d = [m.b[k] - m.a[k] for k in (0, 1)]
        q = [[m.a[k] + d[k] * (t + s_k * half / m.flat) for k in (0, 1)] for s_k in (-1, 1)]
        n = math.ceil(-m.b[2] / (0.2 * wide))
        pecks = [l for k in range(1, n + 1) for l in (f"Z{number(m.b[2] * k / n)}F300", "Z0.300F900")][:-1]
        p.lines[m.line:m.line + 1] = [f"G1X{number(q[0][0])}Y{number(q[0][1])}", "G0Z10.000", f"X{number(q[1][0])}Y{number(q[1][1])}", "Z2.100", "G1Z0.300F300",
                                      *pecks, f"X{number(m.b[0])}Y{number(m.b[1])}F{number(m.feed)}"]
    return told(p)

"""Harms at places and moments that a look at the end, from above, on a coarse grid, does not show. As in harmful.py, whose
table they join."""
import math

from harmful import KINDS, chords, cutting, deepest, kind, last_outline, shifted, tab_lines
from harmful_fine import told
from program_set import number, with_word, words


def first_cut(p):
    return next(m for m in p.moves() if m.mode != 0)


def put_first(p, out):
    """Cuts of its own before the program's first; the way there and back goes over the work."""
    first = first_cut(p)
    p.lines[first.line:first.line] = ["G0Z10.000", *out, "G0Z10.000", f"G0X{number(first.a[0])}Y{number(first.a[1])}",
                                      f"Z{number(first.a[2])}", f"G{first.mode}" + (f"F{number(first.feed)}" if first.feed else "")]
    return told(p)


def put_last(p, out):
    last = [m for m in p.moves() if m.mode != 0][-1]
    p.lines[last.line + 1:last.line + 1] = ["G0Z10.000", *out, "G0Z10.000"]
    return told(p)


def pecked(x, y, low, wide, feed=300):
    z, out = 0.0, [f"G0X{number(x)}Y{number(y)}", "Z2.000"]
    while z > low:
        z = max(low, z - 0.2 * wide)
        out += [f"G1Z{number(z)}F{feed}", "Z2.000F1000"]
    return out + ["G0Z10.000"]


@kind("P3", "the outline's foot stands 0.4 mm proud: a ledge all round")
def ledge_at_the_foot(s, rnd):
    p = last_outline(s)
    if p is None or deepest(p) > -5:
        return False
    chords(p)
    low = deepest(p)
    cut = cutting(p)
    x0, x1 = min(m.b[0] for m in cut), max(m.b[0] for m in cut)
    y0, y1 = min(m.b[1] for m in cut), max(m.b[1] for m in cut)
    foot = [m for m in cut if m.b[2] < 0.83 * low]
    if not foot or len(foot) == len(cut):
        return False
    # First the same a little higher and right, so that only the foot is left.
    first, last = foot[0].line, foot[-1].line
    lap = [m for m in cut if first <= m.line <= last]
    above = [with_word(l, "Z", m.b[2] + 0.9) if any(a == "Z" for a, _ in words(l)) else l for m in lap for l in [p.lines[m.line]]]
    a = lap[0].a
    above += ["G0Z10.000", f"X{number(a[0])}Y{number(a[1])}", f"Z{number(a[2] + 3)}", f"G1Z{number(a[2])}F600", f"F{number(lap[0].feed)}"]
    p.lines[first:first] = above
    foot = [m for m in cutting(p) if first + len(above) <= m.line <= last + len(above)]
    cx, cy = (x0 + x1) / 2, (y0 + y1) / 2
    for m in foot:
        line, has = p.lines[m.line], {a for a, _ in words(p.lines[m.line])}
        if "X" in has:
            line = with_word(line, "X", cx + (m.b[0] - cx) * (1 + 0.8 / (x1 - x0)))
        if "Y" in has:
            line = with_word(line, "Y", cy + (m.b[1] - cy) * (1 + 0.8 / (y1 - y0)))
        p.lines[m.line] = line
    return told(p)


@kind("P3", "round holes are narrower at their far end by 0.3 mm")
def holes_narrow_at_the_end(s, rnd):
    done = False
    for p in s.programs:
        if p.entry["cutter"]["kind"] != "flat" or "pins" in p.cut:
            continue
        turns = {}
        for m in p.moves():
            if m.mode in (2, 3) and 0.3 < math.hypot(*m.centre) < 6 and math.dist(m.a[:2], m.b[:2]) > 1.9 * math.hypot(*m.centre):
                turns.setdefault((round(m.a[0] + m.centre[0], 1), round(m.a[1] + m.centre[1], 1)), []).append(m)
        for c, ms in turns.items():
            low = min(m.b[2] for m in ms)
            if low > -4 or len(ms) < 8:
                continue
            for m in ms:
                if m.b[2] > 0.8 * low:
                    continue
                r = math.hypot(*m.centre)
                x, y, k = m.a[0] + m.centre[0], m.a[1] + m.centre[1], (r - 0.15) / r
                line = p.lines[m.line]
                has = {a for a, _ in words(line)}
                for a, v in (("X", x + (m.b[0] - x) * k), ("Y", y + (m.b[1] - y) * k), ("I", m.centre[0] * k), ("J", m.centre[1] * k)):
                    if a in has:
                        line = with_word(line, a, v)
                if m.a[2] > 0.8 * low:  # the first of them comes in from the wider turn
                    line = f"G1X{number(x + (m.a[0] - x) * k)}Y{number(y + (m.a[1] - y) * k)}\nG{m.mode}" + line.lstrip("G23")
                p.lines[m.line] = line
                done = True
            if done:
                p.lines = "\n".join(p.lines).split("\n")
                return told(p)
    return False


@kind("P3", "pin holes of the waste board are 0.12 mm too wide")
def board_holes_wide(s, rnd):
    done = False
    for p in s.of("pin-holes"):
        turns = {}
        for m in p.moves():
            r = math.hypot(*m.centre)
            if m.mode in (2, 3) and r > 0.3:
                turns[round(m.a[0] + m.centre[0], 3), round(m.a[1] + m.centre[1], 3)] = r, m.b[2]
        out = []
        for (x, y), (r, z) in turns.items():
            r += 0.06
            out += [f"G0X{number(x)}Y{number(y)}", "Z2.000", f"G1Z{number(z)}F800", f"X{number(x + r)}F400", f"G3X{number(x + r)}Y{number(y)}I{number(-r)}J0.000F600",
                    f"G1X{number(x)}", "G0Z10.000"]
        if out:
            put_last(p, out)
            done = True
    return done


@kind("M6", "an arc that ends a thousandth beside its start: one controller goes nowhere, another all the way round")
def arc_nearly_closed(s, rnd):
    for p in s.programs:
        if "G20" in p.text():
            continue
        ways = [m for m in cutting(p) if m.mode == 1 and m.flat > 20 and abs(m.down) < 1e-6]
        if not ways:
            continue
        m = ways[len(ways) // 2]
        u = ((m.b[0] - m.a[0]) / m.flat, (m.b[1] - m.a[1]) / m.flat)
        # the centre to the left, 12 mm away: read exactly it is a short piece of the way
        to = (m.b[0] + 0.001 * u[0], m.b[1] + 0.001 * u[1])
        if round(to[0], 3) == round(m.b[0], 3) and round(to[1], 3) == round(m.b[1], 3):
            continue
        out = [f"G3X{number(to[0])}Y{number(to[1])}I{number(-12 * u[1])}J{number(12 * u[0])}", f"G1X{number(m.b[0])}Y{number(m.b[1])}"]
        p.lines[m.line + 1:m.line + 1] = out
        return told(p)
    return False


@kind("M2", "a rapid runs back along the kerf, wood on both sides of it")
def rapid_in_the_kerf(s, rnd):
    p = last_outline(s)
    if p is None or deepest(p) > -6:
        return False
    for m in cutting(p):
        if m.mode == 1 and m.flat > 30 and 0.9 * deepest(p) < m.b[2] < min(-3, 0.55 * deepest(p)) and m.a[2] == m.b[2]:
            z, back = m.b[2] + 2.1, [(m.a[k] + m.b[k]) / 2 for k in (0, 1)]
            p.lines[m.line + 1:m.line + 1] = [f"G0Z{number(z)}", f"X{number(back[0])}Y{number(back[1])}", f"G1Z{number(m.b[2])}F600",
                                              f"X{number(m.b[0])}Y{number(m.b[1])}F{number(m.feed)}"]
            return told(p)
    return False


def widen_pins(programs):
    """Every pin's hole wider by half a millimetre, down to just over the waste board."""
    done = False
    for p in programs:
        t = p.entry["blank_mm"]["thickness"]
        out = []
        turns = {(round(m.a[0] + m.centre[0], 3), round(m.a[1] + m.centre[1], 3)): math.hypot(*m.centre) for m in cutting(p) if m.mode in (2, 3)}
        if not turns:  # as wide as the cutter
            turns = {m.b[:2]: 0.0 for m in cutting(p) if m.b[2] < -t}
        for (x, y), r in turns.items():
            r += 0.25
            out += [f"G0X{number(x)}Y{number(y)}", "Z2.000", f"G1Z{number(-t + 0.3)}F800", f"X{number(x + r)}F300",
                    f"G3X{number(x + r)}Y{number(y)}I{number(-r)}J0.000F500", f"G1X{number(x)}", "G0Z10.000"]
        if out:
            put_last(p, out)
            done = True
    return done


@kind("P2", "holes for the pins are half a millimetre too wide in the blank, and right in the waste board")
def pins_loose(s, rnd):
    if not any(q.entry.get("register", {}).get("kind") == "pins" for q in s.programs):
        return False
    return widen_pins([p for p in s.of("pins") if p.cut == "pins" and "-layer-" not in p.name])


@kind("P2", "holes for the pins that layers are glued by are half a millimetre too wide")
def layer_pins_loose(s, rnd):
    return widen_pins([p for p in s.of("pins") if p.cut == "pins" and "-layer-" in p.name][:1])


def waits(p, seconds, apart):
    """A wait every so many mm of way down in the wood."""
    way, out = 0.0, []
    for m in cutting(p):
        if m.mode != 1 or m.b[2] > -1:
            continue
        way += m.flat
        if way > apart:
            out.append(m.line)
            way = 0
    for i in reversed(out):
        p.lines.insert(i + 1, p.dwell(seconds))
    return len(out)


@kind("M5", "waits of under a second strewn along a cut")
def waits_strewn(s, rnd):
    p = last_outline(s)
    if p is None or p.entry["cutter"]["kind"] == "drill" or any("G4 P2000" in l or "G4 P5000" in l for l in p.lines):
        return False
    return waits(p, 0.9, 4) > 10


@kind("M7", "where z is probed for the turned side a hole is bored through from the first")
def probe_place_bored(s, rnd):
    for e in s.programs:
        to = e.entry
        if not to.get("earlier") or to.get("probe", {}).get("on") != "blank top":
            continue
        m = to["instrument_to_work"]
        x, y = to["probe"]["at_mm"]
        # back to the instrument, quarter turns left out
        if abs(m[0][0]) != 1:
            continue
        ix, iy = (x - m[0][3]) / m[0][0], (y - m[1][3]) / m[1][1]
        for p in s.programs:
            if p.name not in to["earlier"] or p.entry["piece"] != to["piece"] or p.entry["side"] == to["side"]:
                continue
            c = p.entry["cutter"]
            if c["kind"] != "flat":
                continue
            n = p.entry["instrument_to_work"]
            wx, wy = n[0][0] * ix + n[0][3], n[1][1] * iy + n[1][3]
            low = deepest(p)
            if c["cutting_length_mm"] < p.entry["blank_mm"]["thickness"] or p.cut == "pins":
                continue
            return put_last(p, pecked(wx, wy, -p.entry["blank_mm"]["thickness"], c["diameter_mm"]))
    return False


@kind("M10", "a block of the blank is cut free beside the part, and then milled away")
def block_loose_then_gone(s, rnd):
    p = last_outline(s)
    before = list(p.lines) if p else []
    if not KINDS["block-cut-loose"][2](s, rnd):
        return False
    ring = [m for m in p.moves() if m.mode != 0 and m.b[2] < 0]
    low, wide = deepest(p), p.entry["cutter"]["diameter_mm"]
    new = [i for i, l in enumerate(p.lines) if i >= len(before) or l != before[i]]
    first = new[0]
    mine = [m for m in ring if first <= m.line < first + len(p.lines) - len(before)]
    x0, x1 = min(m.b[0] for m in mine), max(m.b[0] for m in mine)
    y0, y1 = min(m.b[1] for m in mine), max(m.b[1] for m in mine)
    end = mine[-1].line
    # Level by level what is left of it, from its corner where the ring has ended.
    at = mine[-1].b
    z, out = 0.0, ["G0Z10.000", f"G0X{number(x0)}Y{number(y0)}", "Z2.000", "G1Z0.000F300"]
    while z > low:
        z = max(low, z - 0.4 * wide)
        out.append(f"G1X{number(x0)}Y{number(y0)}F1500")
        out.append(f"Z{number(z)}F300")
        y, there = y0, False
        while y < y1:
            y = min(y1, y + 0.6 * wide)
            there = not there
            out += [f"Y{number(y)}F1500", f"X{number(x1 if there else x0)}"]
    p.lines[end + 1:end + 1] = out
    return told(p)


@kind("M10", "the waste beside the part hangs on bridges of a millimetre and a half")
def thin_bridges(s, rnd):
    """A channel the length of the blank beside the part, all the way through but for two places."""
    p = last_outline(s)
    if p is None or p.entry["cutter"]["kind"] == "drill":
        return False
    blank, low, wide = p.entry["blank_mm"], deepest(p), p.entry["cutter"]["diameter_mm"]
    if -low < blank["thickness"] or blank["length_along"] != "x":
        return False
    x0, y0 = blank["corner"][:2]
    x1, y1 = x0 + blank["length"], y0 + blank["width"]
    cut = cutting(p)
    for y in (min(m.b[1] for m in cut) - wide - 3.5, max(m.b[1] for m in cut) + wide + 3.5):
        if not y0 + wide / 2 + 4 < y < y1 - wide / 2 - 4:
            continue
        out = []
        at = [x0 - wide, x0 + (x1 - x0) / 3, x0 + 2 * (x1 - x0) / 3, x1 + wide]
        for a, b in zip(at, at[1:]):
            a, b = a + wide / 2 + 0.75, b - wide / 2 - 0.75
            z, there = 0.0, False
            out += ["G0Z10.000", f"G0X{number(a)}Y{number(y)}", "Z2.000", "G1Z0.000F300"]
            while z > low:
                z = max(low, z - min(3.0, 0.2 * (b - a)))
                there = not there
                out.append(f"X{number(b if there else a)}Z{number(z)}F1500")
            out.append(f"X{number(a if there else b)}F1500")
        return put_first(p, out)
    return False


@kind("P3", "the end of a slot goes 1.5 mm deeper than the slot, in short ramps")
def slot_end_deep(s, rnd):
    for p in s.of("slot", "slots"):
        if p.entry["cutter"]["kind"] != "slot" or "cutters" in p.entry:
            continue
        moves = p.moves()
        ends = [a for a, b in zip(moves, moves[1:]) if a.mode != 0 and b.mode == 0 and a.b[2] < -1 and a.flat > 0.5]
        if not ends:
            continue
        m = ends[len(ends) // 2]
        u = [(m.a[k] - m.b[k]) / m.flat * 0.24 for k in (0, 1)]
        z, inner, out = m.b[2], False, []
        while z > m.b[2] - 1.5:
            z -= 0.05
            inner = not inner
            out.append(f"G1X{number(m.b[0] + inner * u[0])}Y{number(m.b[1] + inner * u[1])}Z{number(z)}F150")
        follow = next(x for x in moves if x.line > m.line)
        if not p.lines[follow.line].startswith("G"):
            p.lines[follow.line] = "G0" + p.lines[follow.line]
        p.lines[m.line + 1:m.line + 1] = out
        return told(p)
    return False


@kind("P2", "the turned side is cut before the first, and the manifest asks for no order")
def sides_swapped(s, rnd):
    sides = list(dict.fromkeys((p.entry["piece"], p.entry["side"]) for p in s.programs))
    pair = next(((a, b) for a, b in zip(sides, sides[1:]) if a[0] == b[0]), None)
    if pair is None:
        return False
    one, two = ([p for p in s.programs if (p.entry["piece"], p.entry["side"]) == side] for side in pair)
    names = {p.name for p in one + two}
    at = s.programs.index(one[0])
    s.programs = [p for p in s.programs if p not in one + two]
    s.programs[at:at] = two + one
    for p in one + two:
        for asked in ("earlier", "after"):
            p.entry[asked] = [n for n in p.entry[asked] if n not in names]
    return True


def through(m, x, y, low):
    """Where a place of one side's work frame lies in the other's (quarter turns left out)."""
    return (x - m[0][3]) / m[0][0], (y - m[1][3]) / m[1][1]


@kind("P2", "the first side cuts away the edge that the turned blank is laid against the fence with")
def fence_edge_cut(s, rnd):
    turned = next((q.entry for q in reversed(s.programs) if q.entry.get("register", {}).get("kind") in ("fence", "lines")), None)
    if turned is None:
        return False
    for p in s.programs:
        c = p.entry["cutter"]
        if p.entry["piece"] != turned["piece"] or p.entry["side"] == turned["side"] or c["kind"] != "flat" or "layer" in p.name:
            continue
        blank = p.entry["blank_mm"]
        if c["cutting_length_mm"] < 0.85 * blank["thickness"]:
            continue
        x0, y0 = blank["corner"][:2]
        along = blank["length_along"] == "x"
        x1, y1 = x0 + (blank["length"] if along else blank["width"]), y0 + (blank["width"] if along else blank["length"])
        w = c["diameter_mm"]
        edge = y1 + w / 2 - 2
        z, low, out, at = 0.0, -0.8 * blank["thickness"], [f"G0X{number(x0 - w)}Y{number(edge)}", "Z2.000"], False
        while z > low:
            z = max(low, z - 3)
            at = not at
            out += [f"G1Z{number(z)}F300", f"X{number(x1 + w if at else x0 - w)}F1500"]
        return put_last(p, out)
    return False


@kind("M8", "on the turned side a cut runs into the pins that hold it")
def into_the_pins(s, rnd):
    turned = [q for q in s.programs if q.entry.get("register", {}).get("kind") == "pins"]
    pins = next((q for q in s.programs if q.cut == "pins" and "layer" not in q.name), None)
    if not turned or pins is None:
        return False
    n, t = pins.entry["instrument_to_work"], pins.entry["blank_mm"]["thickness"]
    places = sorted({m.b[:2] for m in cutting(pins) if m.b[2] < -t and m.mode != 0})
    for p in turned:
        c = p.entry["cutter"]
        if c["kind"] != "flat" or p.entry["side"] == pins.entry["side"]:
            continue
        m = p.entry["instrument_to_work"]
        x, y = through(n, *places[0], 0)
        x, y = m[0][0] * x + m[0][3], m[1][1] * y + m[1][3]
        z, out, at = 0.0, [f"G0X{number(x - 10)}Y{number(y)}", "Z2.000", "G1Z0.000F300"], False
        while z > -0.6 * t and -z < c["cutting_length_mm"] - 3:
            z -= 3
            at = not at
            out += [f"X{number(x + (10 if at else -10))}Z{number(z)}F1200"]
        out += [f"X{number(x + (-10 if at else 10))}F1200"]
        return put_first(p, out)
    return False


def before_cutter(p):
    """The line of the first cutter's word, where the program knows no other before it."""
    return next((i for i, l in enumerate(p.lines) if l.startswith("T") and "M6" in l), None)


@kind("M2", "before its cutter is named the program dips into the wood with a rapid")
def dip_before_the_cutter(s, rnd):
    for p in s.programs:
        i = before_cutter(p)
        cut = cutting(p)
        if i is None or not cut or not p.lines[i - 1].startswith("G53"):
            continue
        p.lines[i:i] = [f"G0X{number(cut[0].b[0])}Y{number(cut[0].b[1])}", "Z-5.000", "G53 G0 Z0"]
        return True
    return False


@kind("M8", "before its cutter is named the program goes beyond the machine's travel")
def beyond_travel_at_first(s, rnd):
    for p in s.programs:
        i = before_cutter(p)
        if i is None or not p.lines[i - 1].startswith("G53"):
            continue
        p.lines[i:i] = ["G53 G0 X-40 Y-40", "G53 G0 X60 Y60"]
        return True
    return False


@kind("M8", "at the end, before it parks, the program goes beyond the machine's travel")
def beyond_travel_at_last(s, rnd):
    for p in s.programs:
        i = next((i for i in range(len(p.lines) - 1, 0, -1) if p.lines[i].startswith("G53 G0 X")), None)
        if i is None:
            continue
        p.lines[i:i] = ["G53 G0 X-40 Y-40", "G53 G0 X60 Y60"]
        return True
    return False


@kind("P3", "holes that a glue-up is found by lie 0.4 mm aside")
def register_holes_aside(s, rnd):
    found = [p for p in s.programs if "register" in p.cut and cutting(p)]
    for p in found[:1]:
        shifted(p, dx=0.4)
        return told(p)
    return False


@kind("P3", "one dent of 0.12 mm in the outline")
def dent_in_the_outline(s, rnd):
    p = last_outline(s)
    cut = cutting(p) if p else []
    for m in reversed(cut):  # the last time round
        if m.mode != 1 or m.flat < 25 or abs(m.b[2] - deepest(p)) > 0.01 or abs(m.down) > 1e-6:
            continue
        q = [(m.a[k] + m.b[k]) / 2 for k in (0, 1)]
        cx, cy = (sum(n.b[k] for n in cut) / len(cut) for k in (0, 1))
        n = (-(m.b[1] - m.a[1]) / m.flat, (m.b[0] - m.a[0]) / m.flat)
        if (cx - q[0]) * n[0] + (cy - q[1]) * n[1] < 0:
            n = (-n[0], -n[1])
        p.lines[m.line:m.line + 1] = [f"G1X{number(q[0])}Y{number(q[1])}", f"X{number(q[0] + 0.12 * n[0])}Y{number(q[1] + 0.12 * n[1])}",
                                      f"X{number(q[0])}Y{number(q[1])}", f"X{number(m.b[0])}Y{number(m.b[1])}"]
        return told(p)
    return False


@kind("M4", "another cutter is named and does not come in: some controllers change it there and then")
def cutter_named_in_vain(s, rnd):
    for p in s.programs:
        i = before_cutter(p)
        if i is not None:
            p.lines.insert(i + 1, "T97")
            return True
    return False


def told_after_header(line, after=0):
    def spoil(s, rnd):
        for p in s.programs:
            i = before_cutter(p)
            if i is not None:
                p.lines.insert(i + after, line)
                return True
        return False

    return spoil


for name, rule, what, line, after in (
        ("change-beside-stops", "M4", "a comment asks for another cutter, outside of any stop", "(change to flat-12, stickout 20.00 mm, probe z)", 0),
        ("message-shown", "M9", "a message on the controller's screen asks a hand for something", "(MSG, loosen the clamps)", 0),
        ("header-in-capitals", "M7", "another zero is told in capitals", "(ZERO : the middle of the blank, z = 0 on the waste board)", 0),
        ("header-told-later", "M7", "another place for probing is told once it has begun", "(probe z on: the waste board at x 8 y 8, z = 0 there)", 2)):
    KINDS[name] = (rule, what, told_after_header(line, after))


@kind("M12", "at its depth a thin cutter runs on into whole wood and back")
def runs_on_into_wood(s, rnd):
    for p in s.of("slot", "slots"):
        if p.entry["cutter"]["kind"] != "slot" or "cutters" in p.entry:
            continue
        low = deepest(p)
        x0, y0 = p.entry["blank_mm"]["corner"][:2]
        cut = cutting(p)
        for a, b in zip(cut, cut[1:]):
            # where a pass turns back, more than half down
            if a.b[2] > 0.5 * low or a.flat < 0.5 or b.flat < 0.5 or a.mode != 1:
                continue
            u = [(a.b[k] - a.a[k]) / a.flat for k in (0, 1)]
            if u[0] * (b.b[0] - b.a[0]) + u[1] * (b.b[1] - b.a[1]) > 0 or min(a.b[0] - x0 + 30 * u[0], a.b[1] - y0 + 30 * u[1]) < -12:
                continue
            i = b.line
            p.lines[i:i] = [f"X{number(a.b[0] + 9 * u[0])}Y{number(a.b[1] + 9 * u[1])}", f"X{number(a.b[0] - 20 * u[0])}Y{number(a.b[1] - 20 * u[1])}",
                            f"X{number(a.b[0])}Y{number(a.b[1])}"]
            return told(p)
    return False

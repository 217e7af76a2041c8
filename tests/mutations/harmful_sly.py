"""The smaller and slyer harms: hundredths instead of tenths, lies of the manifest, what only a hand would notice. As in
harmful.py, whose table they join."""
import math

from harmful import (cutting, deepest, drills, kind, last_outline, longest, low, number, other_tool, scale_tabs, shifted,
                     spread, tab_lines, with_word, words)


# ---- fits

def cavity(s):
    return longest(s, "pocket", "pickup", "control", "ledge", "marks", "recess", "rod")


@kind("P3", "a cavity lies 0.12 mm aside")
def cavity_aside_a_little(s, rnd):
    p = cavity(s)
    if p is None:
        return False
    shifted(p, dy=0.12)
    return True


def grown(p, by):
    """A program grown by so much at every wall. Only for those with one closed place: others would be spread apart."""
    cut = cutting(p)
    w = max(m.b[0] for m in cut) - min(m.b[0] for m in cut)
    h = max(m.b[1] for m in cut) - min(m.b[1] for m in cut)
    if w < 8 or h < 8:
        return False
    return spread(p, 1 + 2 * by / w, 1 + 2 * by / h)


@kind("P3", "a cavity is 0.15 mm too wide at every wall")
def cavity_wide(s, rnd):
    p = cavity(s)
    return p is not None and grown(p, 0.15)


@kind("P3", "a cavity is 0.15 mm too tight at every wall")
def cavity_tight(s, rnd):
    p = cavity(s)
    return p is not None and grown(p, -0.15)


@kind("P3", "one hole lies 0.15 mm aside")
def hole_aside_a_little(s, rnd):
    for p in drills(s):
        at = cutting(p)
        if at:
            x, y = at[0].b[:2]
            shifted(p, dx=0.15, when=lambda m: abs(m.b[0] - x) < 1e-6 and abs(m.b[1] - y) < 1e-6)
            return True
    return False


@kind("P3", "a program is 0.3 % too long")
def stretched(s, rnd):
    p = last_outline(s) or longest(s)
    return spread(p, 1.003, 1.0)


@kind("P3", "a floor or surface is 0.08 mm too deep")
def a_little_too_deep(s, rnd):
    p = longest(s, "finish", "crown", "pocket", "carve")
    if p is None:
        return False
    shifted(p, dz=-0.08, when=low)
    return True


@kind("P3", "z creeps down by 0.2 mm on the way")
def z_creeps(s, rnd):
    p = longest(s, "finish", "crown", "pocket", "slots", "carve")
    if p is None:
        return False
    moves = [m for m in p.moves() if low(m)]
    for k, m in enumerate(moves):
        if any(a == "Z" for a, _ in words(p.lines[m.line])):
            p.lines[m.line] = with_word(p.lines[m.line], "Z", m.b[2] - 0.2 * k / len(moves))
    return True


@kind("P3", "an added hole in the part, through more than half of it")
def hole_too_many(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    cut = cutting(p)
    x = (min(m.b[0] for m in cut) + max(m.b[0] for m in cut)) / 2
    y = (min(m.b[1] for m in cut) + max(m.b[1] for m in cut)) / 2
    first = next(m for m in p.moves() if m.mode != 0)
    deep = 0.6 * p.entry["blank_mm"]["thickness"]
    p.lines[first.line:first.line] = ["G0Z10.000", f"X{number(x)}Y{number(y)}", "Z3.000"] + [
        line for k in range(1, int(deep / 0.5) + 1) for line in (f"G1Z{number(-0.5 * k)}F200.000", "G0Z3.000")] + [
        "Z10.000", f"X{number(first.a[0])}Y{number(first.a[1])}", f"Z{number(first.a[2])}", "G1"]
    return True


@kind("P3", "on its way round the outline the cutter turns aside into the part")
def scratched(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    cut = cutting(p)
    bottom = deepest(p)
    m = [m for m in cut if abs(m.b[2] - bottom) < 0.002][-20]
    x = (min(m.b[0] for m in cut) + max(m.b[0] for m in cut)) / 2
    y = (min(m.b[1] for m in cut) + max(m.b[1] for m in cut)) / 2
    d = math.hypot(x - m.b[0], y - m.b[1])
    to = (m.b[0] + (x - m.b[0]) * 1.5 / d, m.b[1] + (y - m.b[1]) * 1.5 / d)
    p.lines[m.line + 1:m.line + 1] = [f"G1X{number(to[0])}Y{number(to[1])}", f"X{number(m.b[0])}Y{number(m.b[1])}"]
    return True


# ---- holding

@kind("M10", "one tab has a notch half through it")
def tab_notched(s, rnd):
    p = last_outline(s)
    runs = tab_lines(p) if p else []
    bottom = deepest(p) if p else 0
    moves = {m.line: m for m in p.moves()} if p else {}
    for r in runs:
        top = max(moves[i].b[2] for i in r)
        level = [i for i in r if abs(moves[i].b[2] - top) < 0.002]
        if len(level) < 2:
            continue
        # at the place nearest to the middle of what is level
        ends = moves[level[0]].b, moves[level[-1]].b
        middle = [(ends[0][k] + ends[1][k]) / 2 for k in (0, 1)]
        i = min(level, key=lambda i: math.dist(moves[i].b[:2], middle))
        if math.dist(moves[i].b[:2], middle) > 1.5:  # cut the move that leads over it in two
            i = next((j for j in level if moves[j].mode == 1 and math.dist(moves[j].a[:2], middle) < moves[j].flat
                      and math.dist(moves[j].b[:2], middle) < moves[j].flat), None)
            if i is None:
                continue
            m = moves[i]
            p.lines[i:i + 1] = [f"G1X{number(middle[0])}Y{number(middle[1])}F300.000", f"Z{number((top + bottom) / 2 - 0.2)}",
                                f"Z{number(top)}", f"X{number(m.b[0])}Y{number(m.b[1])}"]
            return True
        p.lines[i + 1:i + 1] = [f"G1Z{number((top + bottom) / 2 - 0.2)}F300.000", f"Z{number(top)}"]
        follow = next((m for m in p.moves() if m.line > i + 2), None)
        if follow is not None and not p.lines[follow.line].startswith("G"):
            p.lines[follow.line] = f"G{moves[min(j for j in moves if j > i)].mode}" + p.lines[follow.line]
        return True
    return False


@kind("M10", "a strip of the blank is cut off beside the part")
def offcut(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    cut = cutting(p)
    bottom = deepest(p)
    blank = p.entry.get("blank_mm", {})
    corner = blank.get("corner", [0, 0, 0])
    along = blank.get("length_along") == "x"
    w, h = (blank["length"], blank["width"]) if along else (blank["width"], blank["length"])
    x = min(m.b[0] for m in cut)
    c = p.entry["cutter"]["diameter_mm"]
    x = (corner[0] + x - c / 2) / 2
    if x - corner[0] < c:
        return False
    if -bottom < blank["thickness"]:
        return False
    step = c / 3
    lines = ["G0Z10.000", f"X{number(x)}Y{number(corner[1] - 2 * c)}"]
    z, there = 0.0, False
    while z > bottom:
        z = max(bottom, z - step)
        y = corner[1] + h + 2 * c if not there else corner[1] - 2 * c
        lines += [f"G1Z{number(z)}F300.000", f"Y{number(y)}F1200.000"]
        there = not there
    first = next(m for m in p.moves() if m.mode != 0)
    lines += ["G0Z10.000", f"X{number(first.a[0])}Y{number(first.a[1])}", f"Z{number(first.a[2])}", "G1"]
    p.lines[first.line:first.line] = lines
    return True


# ---- lies of the manifest

@kind("P2", "the outline is cut first, and the manifest asks for no order")
def order_lied(s, rnd):
    p = last_outline(s)
    side = [q for q in s.programs if p and q.entry.get("side") == p.entry.get("side")]
    if p is None or len(side) < 2 or side[0] is p or (len(side) > 2 and side[1] is p and "pins" in side[0].entry["cut"]):
        return False
    for q in s.programs:
        q.entry["after"] = []
        q.entry["earlier"] = []
    s.programs.remove(p)
    s.programs.insert(s.programs.index(side[0]), p)
    return True


@kind("P2", "two programs have changed names in the manifest")
def files_swapped(s, rnd):
    for p, q in zip(s.programs, s.programs[1:]):
        if p.entry.get("side") == q.entry.get("side") and p.entry["cutter"]["number"] != q.entry["cutter"]["number"]:
            p.lines, q.lines = q.lines, p.lines
            return True
    return False


@kind("P2", "a program is given to the other side")
def side_swapped(s, rnd):
    sides = sorted({p.entry.get("side") for p in s.programs})
    if len(sides) < 2:
        return False
    p = longest(s)
    p.entry["side"] = next(x for x in sides if x != p.entry["side"])
    return True


@kind("P5", "the manifest's zero lies elsewhere on the machine")
def manifest_zero(s, rnd):
    for p in s.programs:
        p.entry["zero_in_machine_mm"][0] += 25
    return True


@kind("P5", "the manifest's frame is mirrored")
def manifest_mirrored(s, rnd):
    for p in s.programs:
        p.entry["instrument_to_work"][1] = [-v for v in p.entry["instrument_to_work"][1]]
    return True


@kind("P5", "the manifest's frame holds no numbers")
def manifest_nan(s, rnd):
    s.programs[0].entry["instrument_to_work"][0][3] = None
    return True


@kind("P5", "the manifest's blank is thinner than the project's")
def manifest_blank(s, rnd):
    for p in s.programs:
        p.entry["blank_mm"]["thickness"] -= 0.4
    return True


@kind("P2", "the manifest names another shank than the rack's")
def manifest_shank(s, rnd):
    for p in s.programs:
        if "cutter" in p.entry:
            p.entry["cutter"]["shank_mm"] = 1.0
    return True


@kind("P2", "the manifest's words tell another set-up than the project's")
def manifest_setup(s, rnd):
    for p in s.programs:
        p.entry["setup"] = "Back: zero at the blank's upper-right corner, clamps at will"
    return True


@kind("P2", "the manifest says that programs stay nearer than they do")
def manifest_extents(s, rnd):
    found = [p for p in s.programs if cutting(p)]
    if not found:
        return False
    p = rnd.choice(found)
    p.entry["extents_mm"]["high"] = [v - 3 for v in p.entry["extents_mm"]["high"][:2]] + p.entry["extents_mm"]["high"][2:]
    return True


@kind("P2", "the manifest gives one number to two cutters")
def manifest_numbers(s, rnd):
    for p, q in zip(s.programs, s.programs[1:]):
        if p.entry["cutter"]["number"] != q.entry["cutter"]["number"]:
            q.entry["cutter"]["number"] = p.entry["cutter"]["number"]
            return True
    return False


@kind("P2", "a program is told to be another part's")
def part_changed(s, rnd):
    if len(s.programs) < 2:
        return False
    longest(s).entry["part"] = "somebody-elses"
    return True


# ---- where z is found

@kind("M7", "z is probed where a cut has gone")
def probe_on_a_cut(s, rnd):
    # cut by an earlier program, and probed again before a later one of the same side
    for p, q in zip(s.programs, s.programs[1:]):
        at = next((m.b for m in cutting(p)), None)
        if at is None or p.entry.get("side") != q.entry.get("side"):
            continue
        for r in s.programs:
            if r.entry.get("side") == p.entry.get("side"):
                r.entry["probe"] = {"on": "blank top", "at_mm": [at[0], at[1]], "z_mm": 0}
        return True
    return False


@kind("M7", "the manifest does not say where z is probed")
def probe_unsaid(s, rnd):
    for p in s.programs:
        p.entry.pop("probe", None)
    return True


@kind("M7", "z is set to another height than that of what is probed")
def probe_height(s, rnd):
    for p in s.programs:
        if "probe" not in p.entry:
            return False
        p.entry["probe"]["z_mm"] += 1
    return True


@kind("M9", "pins are bored and the next cut follows without a stop")
def pins_joined(s, rnd):
    for p, q in zip(s.programs, s.programs[1:]):
        if "pins" in p.cut and p.entry.get("side") == q.entry.get("side"):
            end = max(i for i, l in enumerate(p.lines) if l.startswith("M30"))
            change = ["M0 (next cutter)"] if p.entry["cutter"]["number"] != q.entry["cutter"]["number"] else []
            if change:
                return False
            body = [l for l in q.lines if not l.startswith(("(end: ", "(upland", "M0"))]
            p.lines = p.lines[:end] + body
            p.entry["cut"] = p.entry["cut"] + q.entry["cut"]
            s.programs.remove(q)
            return True
    return False


@kind("M9", "a stop that waits becomes one that may be switched off")
def optional_stop(s, rnd):
    for p in s.programs:
        for i, line in enumerate(p.lines):
            if line.startswith("M0"):
                p.lines[i] = line.replace("M0", "M1", 1)
                return True
    return False


# ---- words

@kind("P2", "the program ends in the middle")
def ends_early(s, rnd):
    p = longest(s)
    m = cutting(p)[len(cutting(p)) // 2]
    p.lines.insert(m.line, "M30")
    return True


@kind("P2", "a stretch of cuts is put into a comment")
def commented_out(s, rnd):
    p = longest(s)
    cut = cutting(p)
    for m in cut[len(cut) // 3:len(cut) // 3 + max(6, len(cut) // 20)]:
        if not any(a in "GF" for a, _ in words(p.lines[m.line])):
            p.lines[m.line] = f"({p.lines[m.line]})"
    return True


@kind("P3", "every other line may be skipped by a switch")
def lines_optional(s, rnd):
    p = longest(s)
    for m in cutting(p)[::2]:
        p.lines[m.line] = "/" + p.lines[m.line]
    return True


@kind("M5", "the feed is said nowhere")
def feed_unsaid(s, rnd):
    p = longest(s)
    for i, line in enumerate(p.lines):
        if not line.startswith(("(", "S", "G4")) and any(a == "F" for a, _ in words(line)):
            p.lines[i] = with_word(line, "F", "0").replace("F0", "")
    return True


@kind("M5", "hardly any time to come up to speed")
def dwell_short(s, rnd):
    done = False
    for p in s.programs:
        for i, line in enumerate(p.lines):
            if line.startswith("G4"):
                p.lines[i] = with_word(line, "P", "0.05")
                done = True
    return done


@kind("M1", "in the middle of a pass the cutter goes straight down by most of its width, and up again")
def plunge_between(s, rnd):
    p = longest(s, "slot", "slots") or longest(s)
    if p is None or p.entry.get("cutter", {}).get("kind") == "drill":
        return False
    wide = p.entry["cutter"]["diameter_mm"]
    low_z = min(m.b[2] for m in cutting(p))
    # Where a later pass goes deeper still: nothing of it is left to be seen.
    over = [m for m in cutting(p) if m.flat > 0.5 and abs(m.down) < 0.1 and m.b[2] - 0.9 * wide > low_z + 0.05]
    if not over:
        return False
    m = over[len(over) // 2]
    p.lines.insert(m.line + 1, f"G1Z{number(m.b[2] - 0.9 * wide)}F200")
    p.lines.insert(m.line + 2, f"Z{number(m.b[2])}F{number(m.feed or 600)}")
    return True


@kind("M5", "one program's cuts run at a tenth of their feed: the cutter rubs and burns")
def feed_a_tenth(s, rnd):
    fast = [p for p in s.programs if p.entry.get("cutter", {}).get("kind") != "drill"
            and sum(m.flat for m in cutting(p) if (m.feed or 0) > 1200) > 100]
    if not fast:
        return False
    p = rnd.choice(fast)
    for i, line in enumerate(p.lines):
        feed = [v for a, v in words(line) if a == "F"]
        if feed:
            p.lines[i] = with_word(line, "F", feed[0] / 10)
    return True


@kind("M5", "the cutter stands turning in the wood for half a minute")
def waits_in_wood(s, rnd):
    p = longest(s)
    if p is None:
        return False
    # Behind a move along: on a way down a drill clears its chips with a rest.
    deep = [m for m in cutting(p) if m.flat > 0.1 and m.a[2] < -0.2 and m.b[2] < -0.2]
    if not deep:
        return False
    p.lines.insert(rnd.choice(deep).line + 1, p.dwell(30))
    return True


@kind("M1", "a helix goes down in half its turns")
def helix_steep(s, rnd):
    for p in s.programs:
        arcs = [m for m in p.moves() if m.mode in (2, 3) and m.down > 0.05]
        for a, b in zip(arcs, arcs[1:]):
            if b.line == a.line + 1 and a.b[2] < -1 and abs(a.a[0] - b.b[0]) < 0.01 and abs(a.a[1] - b.b[1]) < 0.01:
                # the first half goes down all the way that both went, twice as steep
                continue
        turns = [m for m in arcs if m.b[2] < -0.5]
        if len(turns) < 4:
            continue
        for m in turns[::2]:
            if m.line + 1 < len(p.lines):
                following = next((t for t in turns if t.line == m.line + 1), None)
                if following is None:
                    continue
                p.lines[m.line] = with_word(p.lines[m.line], "Z", following.b[2])
        steep = [m for m in p.moves() if m.mode in (2, 3) and m.down > 0.05]
        r = max((math.hypot(*m.centre) for m in steep), default=0)
        if r and max(m.down / (math.pi * r) for m in steep) > math.tan(math.radians(18)):
            return True
    return False


@kind("P2", "a cutter of the same width, but too short, takes the deep cut's place")
def too_short(s, rnd):
    for p in s.programs:
        mine = p.entry.get("cutter", {})
        deep = -deepest(p)
        if other_tool(s, p, lambda m, c: c["kind"] == mine.get("kind") and abs(c["diameter_mm"] - mine["diameter_mm"]) < 0.2
                      and c["cutting_length_mm"] + 3 < deep):
            return True
    return False


@kind("M2", "a rapid comes down to half a millimetre over the wood")
def rapid_near(s, rnd):
    p = longest(s)
    moves = p.moves()
    for a, b in zip(moves, moves[1:]):
        if a.mode == 0 and a.flat < 1e-6 and a.down > 1 and b.mode != 0 and a.b[2] > 1.5:
            p.lines[a.line] = with_word(p.lines[a.line], "Z", 0.5)
            return True
    return False


@kind("M2", "a drill comes down by a rapid to a quarter of a millimetre over whole wood")
def drill_near(s, rnd):
    for p in s.programs:
        moves = p.moves() if p.entry["cutter"]["kind"] == "drill" and "cutters" not in p.entry else []
        for a, b in zip(moves, moves[1:]):
            if a.mode == 0 and a.flat < 1e-6 and a.down > 1 and b.mode == 1 and 1.5 < a.b[2] < 5 and b.b[2] <= 0:
                p.lines[a.line] = with_word(p.lines[a.line], "Z", 0.25)
                return True
    return False


@kind("M6", "an arc whose ends lie at different distances from its centre: each controller goes another way")
def arc_apart(s, rnd):
    arcs = [(p, m) for p in s.programs for m in p.moves() if m.mode in (2, 3) and m.flat > 0.5 and math.hypot(*m.centre) > 1]
    if not arcs:
        return False
    p, m = max(arcs, key=lambda a: math.hypot(*a[1].centre))
    chord = [(m.b[k] - m.a[k]) / m.flat for k in (0, 1)]  # along it the two radii change most unlike each other
    for k, letter in enumerate("IJ"):
        p.lines[m.line] = with_word(p.lines[m.line], letter, m.centre[k] + 0.03 * chord[k] * max(1, math.hypot(*m.centre) / m.flat))
    return True


@kind("M4", "the cutter's length is not called")
def length_uncalled(s, rnd):
    done = False
    for p in s.programs:
        lines = [i for i, l in enumerate(p.lines) if l.startswith("G43")]
        done = done or bool(lines)
        p.drop(lines)
    return done


@kind("M4", "another cutter's length is called")
def length_of_another(s, rnd):
    for p in s.programs:
        for i, line in enumerate(p.lines):
            if line.startswith("G43"):
                p.lines[i] = with_word(line, "H", "91")
                return True
    return False


@kind("M8", "a link goes over a clamp at the height of the wood")
def over_a_clamp(s, rnd):
    box = getattr(s, "clamp", None)
    p = last_outline(s) or longest(s)
    if box is None or p is None:
        return False
    first = next(m for m in p.moves() if m.mode != 0)
    corner = p.entry["blank_mm"]["corner"]
    x, y, z = corner[0] + box[0], corner[1] + box[1], box[2]
    p.lines[first.line:first.line] = [f"G0Z{number(z)}", f"X{number(x)}Y{number(y)}", f"X{number(first.a[0])}Y{number(first.a[1])}",
                                      f"Z{number(first.a[2])}", "G1"]
    return True


@kind("M10", "a tab's lift comes too late by 3 mm")
def tab_short(s, rnd):
    p = last_outline(s)
    runs = tab_lines(p) if p else []
    if not runs:
        return False
    # the way over the tab, but for its last 3 mm, at the bottom
    bottom = deepest(p)
    moves = {m.line: m for m in p.moves()}
    done = False
    for r in runs:
        top = max(moves[i].b[2] for i in r)
        level = [i for i in r if abs(moves[i].b[2] - top) < 0.002 and abs(moves[i].a[2] - top) < 0.002 and moves[i].flat > 4]
        for i in level[:1]:
            m = moves[i]
            t = 1 - 2.0 / m.flat
            at = [m.a[k] + (m.b[k] - m.a[k]) * t for k in (0, 1)]
            p.lines[i:i + 1] = [f"G1Z{number(bottom)}F300.000", f"X{number(at[0])}Y{number(at[1])}", f"Z{number(top)}",
                                f"X{number(m.b[0])}Y{number(m.b[1])}"]
            done = True
        if done:
            return True
    return done


@kind("M10", "tabs are twice as high")
def tabs_doubled(s, rnd):
    return scale_tabs(s, 2)


@kind("M6", "a modal word of the beginning is left out")
def mode_unsaid(s, rnd):
    word = rnd.choice(["G21", "G17", "G90", "G94", "G54", "G40", "G49", "G80"])
    for p in s.programs:
        for i, line in enumerate(p.lines):
            if line.startswith("G21") and word in line.split():
                p.lines[i] = " ".join(w for w in line.split() if w != word)
                return True
    return False

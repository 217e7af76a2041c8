"""Kinds of harm that can be done to good programs. Each takes a set and spoils it in place; it answers False where the
set has nothing of that kind to spoil. Rules are those of docs/proof.md. Every kind that once got past the proof stays."""
import math
import re

from program_set import number, with_word, without_word, words

KINDS = {}


def kind(rule, what):
    def keep(function):
        KINDS[function.__name__.replace("_", "-")] = (rule, what, function)
        return function

    return keep


# ---- finding things in programs

def cutting(p):
    """Moves below the blank's top that are no rapids."""
    return [m for m in p.moves() if m.mode != 0 and m.b[2] < -1e-6]


def deepest(p):
    return min((m.b[2] for m in p.moves()), default=0.0)


def longest(s, *names, fitted=False):
    """The program with most cutting among those named; with `fitted` without hollows that the glue hides, which may stand proud."""
    found = [p for p in s.of(*names) if cutting(p) and not (fitted and "-layer-" in p.name and ("chamber" in p.cut or "wire" in p.cut))]
    return max(found, key=lambda p: len(cutting(p)), default=None)


def hollow(s):
    """The longest program of chambers that the glue hides, None where there is none."""
    return max((p for p in s.programs if "-layer-" in p.name and "chamber" in p.cut and cutting(p)), key=lambda p: len(cutting(p)), default=None)


def finished_later(s, p):
    """All that this program shapes is shaped again by a finer one: what it does a little otherwise does no harm."""
    return p.cut.endswith("-rough") and any(q.cut == p.cut[: -len("rough")] + "finish" for q in s.programs)


def last_outline(s):
    found = [p for p in s.of("outline") if cutting(p)]
    return found[-1] if found else None


def drills(s):
    return [p for p in s.programs if p.entry.get("cutter", {}).get("kind") == "drill"]


def tab_lines(p):
    """Runs of lines at which an outline's last level rides over a tab: [[line, ...], ...]."""
    low = deepest(p)
    runs, run = [], []
    at_bottom = False
    for m in p.moves():
        if m.mode == 0:
            run, at_bottom = [], False
        elif abs(m.b[2] - low) < 0.002:
            if run and at_bottom:
                runs.append(run)
            run, at_bottom = [], True
        elif at_bottom:
            run.append(m.line)
    return [r for r in runs if len(r) >= 2]


def set_z(p, lines, z):
    for i in lines:
        if any(a == "Z" for a, _ in words(p.lines[i])):
            p.lines[i] = with_word(p.lines[i], "Z", z)


def shifted(p, dx=0.0, dy=0.0, dz=0.0, when=lambda m: True):
    """Moves the words of every motion that `when` takes. Arcs keep their I and J."""
    for m in p.moves():
        if not when(m):
            continue
        for letter, k, d in (("X", 0, dx), ("Y", 1, dy), ("Z", 2, dz)):
            if d and any(a == letter for a, _ in words(p.lines[m.line])):
                p.lines[m.line] = with_word(p.lines[m.line], letter, m.b[k] + d)


def chords(p, within=0.002):
    """Every arc of a program as short lines: what is moved unevenly afterwards has no centres to keep."""
    moves = p.moves()
    for m, follow in reversed(list(zip(moves, moves[1:] + [None]))):  # from the end: lines before keep their places
        if m.mode not in (2, 3):
            continue
        cx, cy = m.a[0] + m.centre[0], m.a[1] + m.centre[1]
        r = math.hypot(*m.centre)
        a0, a1 = math.atan2(m.a[1] - cy, m.a[0] - cx), math.atan2(m.b[1] - cy, m.b[0] - cx)
        turn = (a1 - a0) % (2 * math.pi) if m.mode == 3 else -((a0 - a1) % (2 * math.pi))
        if abs(turn) < 1e-9:
            turn = 2 * math.pi if m.mode == 3 else -2 * math.pi
        n = max(1, math.ceil(abs(turn) / (2 * math.acos(max(0.0, 1 - within / max(r, within))))))
        feed = f"F{number(m.feed)}" if any(a == "F" for a, _ in words(p.lines[m.line])) else ""
        out = []
        for k in range(1, n + 1):
            a = a0 + turn * k / n
            x, y = (m.b[0], m.b[1]) if k == n else (cx + r * math.cos(a), cy + r * math.sin(a))
            z = m.a[2] + (m.b[2] - m.a[2]) * k / n
            out.append(f"{'G1' if k == 1 else ''}X{number(x)}Y{number(y)}Z{number(z)}{feed if k == 1 else ''}")
        if follow is not None and not p.lines[follow.line].startswith("G"):
            p.lines[follow.line] = f"G{follow.mode}" + p.lines[follow.line]
        p.lines[m.line:m.line + 1] = out


def low(m):
    return m.b[2] < -1e-6


def spread(p, factor_x=1.0, factor_y=1.0, angle=0.0):
    """Scales and turns a program about the middle of its cuts."""
    cut = cutting(p)
    if not cut:
        return False
    cx = (min(m.b[0] for m in cut) + max(m.b[0] for m in cut)) / 2
    cy = (min(m.b[1] for m in cut) + max(m.b[1] for m in cut)) / 2
    c, s = math.cos(angle), math.sin(angle)
    chords(p)
    cut = cutting(p)

    def place(x, y):
        x, y = (x - cx) * factor_x, (y - cy) * factor_y
        return cx + x * c - y * s, cy + x * s + y * c

    for m in p.moves():
        line = p.lines[m.line]
        has = {a for a, _ in words(line)}
        if not has & {"X", "Y"}:
            continue
        x, y = place(m.b[0], m.b[1])
        line = with_word(with_word(line, "X", x), "Y", y)
        if has & {"I", "J"}:
            i, j = m.centre[0] * factor_x, m.centre[1] * factor_y
            line = with_word(with_word(line, "I", i * c - j * s), "J", i * s + j * c)
        p.lines[m.line] = line
    return True


def replace_code(s, old, new, programs=None):
    done = False
    # None of them is none: a word about arcs does no harm where no program has one.
    for p in s.programs if programs is None else programs:
        for i, line in enumerate(p.lines):
            if not line.startswith("(") and old in line:
                p.lines[i] = line.replace(old, new, 1)
                done = True
                break
    return done


# ---- place

@kind("P3", "the last outline lies 0.3 mm aside")
def outline_aside(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    shifted(p, dx=0.3, when=low)
    return True


@kind("P3", "the last outline lies 0.12 mm aside across")
def outline_aside_a_little(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    shifted(p, dy=0.12, when=low)
    return True


@kind("P3", "one program of a cavity or slots lies 0.3 mm aside")
def cavity_aside(s, rnd):
    p = longest(s, "pocket", "cavity", "slots", "recess")
    if p is None:
        return False
    shifted(p, dx=0.3)
    return True


@kind("P3", "everything lies 0.4 mm aside in one program")
def program_aside(s, rnd):
    # a stair of scallops is looked at, not measured in plan
    may = [p for p in s.programs if cutting(p) and "stair" not in p.cut and not finished_later(s, p)]
    if not may:
        return False
    p = rnd.choice(may)
    shifted(p, dx=0.4, dy=0.4)
    return True


@kind("P3", "the outline is mirrored across its middle")
def mirrored(s, rnd):
    p = last_outline(s) or longest(s)
    cut = cutting(p)
    cy = min(m.b[1] for m in cut) + max(m.b[1] for m in cut)
    for m in p.moves():
        line = p.lines[m.line]
        has = {a for a, _ in words(line)}
        if "Y" in has:
            line = with_word(line, "Y", cy + 7.0 - m.b[1])
        if "J" in has:
            line = with_word(line, "J", -m.centre[1])
        p.lines[m.line] = line
    return True


@kind("P3", "one arc is turned the other way")
def arc_turned(s, rnd):
    for p in s.programs:
        cut = cutting(p)
        xs, ys = [m.b[0] for m in cut], [m.b[1] for m in cut]
        for m in p.moves():
            line = p.lines[m.line]
            r = math.hypot(*m.centre)
            turn = 2 * math.asin(min(1.0, m.flat / 2 / r)) if r > 0 else 0
            # no helix, and far enough from half a turn for the other side to be elsewhere
            if m.mode in (2, 3) and low(m) and m.a[2] == m.b[2] and 0.5 < turn < 2.4 and r > 1.5 and line.startswith(("G2", "G3")):
                # and elsewhere is not what a pocket has cut already: round an outline, or out of the program's box
                x, y = m.a[0] + m.centre[0], m.a[1] + m.centre[1]
                round_it = "outline" in p.cut and len(p.entry["cut"]) <= 3  # and not all cuts of a part in one file
                if not round_it and x - r > min(xs) - 1 and x + r < max(xs) + 1 and y - r > min(ys) - 1 and y + r < max(ys) + 1:
                    continue
                p.lines[m.line] = ("G3" if line.startswith("G2") else "G2") + line[2:]
                return True
    return False


@kind("P3", "the outline is 0.4 mm too large all round")
def oversize(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    cut = cutting(p)
    w = max(m.b[0] for m in cut) - min(m.b[0] for m in cut)
    h = max(m.b[1] for m in cut) - min(m.b[1] for m in cut)
    return spread(p, 1 + 0.8 / w, 1 + 0.8 / h)


@kind("P3", "the outline is 0.3 mm too small all round")
def undersize(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    cut = cutting(p)
    w = max(m.b[0] for m in cut) - min(m.b[0] for m in cut)
    h = max(m.b[1] for m in cut) - min(m.b[1] for m in cut)
    return spread(p, 1 - 0.6 / w, 1 - 0.6 / h)


@kind("P3", "a program is turned by half a degree")
def turned(s, rnd):
    p = last_outline(s) or longest(s)
    return spread(p, angle=math.radians(0.5))


@kind("P3", "one hole lies 0.5 mm aside")
def hole_aside(s, rnd):
    for p in drills(s):
        at = cutting(p)
        if at:
            x, y = at[0].b[:2]
            shifted(p, dx=0.5, when=lambda m: abs(m.b[0] - x) < 1e-6 and abs(m.b[1] - y) < 1e-6)
            return True
    return False


@kind("P3", "one slot lies 0.15 mm aside")
def slot_aside(s, rnd):
    p = longest(s, "slot")
    if p is None:
        return False
    x = cutting(p)[0].b[0]
    shifted(p, dx=0.15, when=lambda m: abs(m.b[0] - x) < 0.6)
    return True


@kind("P3", "tabs are shifted along by 25 mm: they stand where none was asked for")
def tabs_elsewhere(s, rnd):
    p = last_outline(s)
    runs = tab_lines(p) if p else []
    if not runs:
        return False
    bottom = deepest(p)
    moves = {m.line: m for m in p.moves()}
    run = runs[0]
    top = max(moves[i].b[2] for i in run)
    set_z(p, run, bottom)
    # the next straight piece of 30 mm at the bottom gets one instead
    for m in p.moves():
        if m.line > run[-1] and m.mode == 1 and m.flat > 45 and abs(m.b[2] - bottom) < 0.002 and abs(m.a[2] - bottom) < 0.002:
            at = [m.a[k] + (m.b[k] - m.a[k]) * t for t in (0.4, 0.7) for k in (0, 1)]
            p.lines[m.line:m.line + 1] = [
                f"G1X{number(at[0])}Y{number(at[1])}", f"Z{number(top)}", f"X{number(at[2])}Y{number(at[3])}",
                f"Z{number(bottom)}", f"X{number(m.b[0])}Y{number(m.b[1])}"]
            return True
    return False


# ---- frame, units, modes

@kind("P3", "inch for millimetre")
def inch(s, rnd):
    return replace_code(s, "G21", "G20")


@kind("P3", "another offset")
def other_offset(s, rnd):
    return replace_code(s, "G54", "G55")


@kind("P3", "incremental")
def incremental(s, rnd):
    return replace_code(s, "G90 ", "G91 ")


@kind("P3", "another plane of arcs")
def other_plane(s, rnd):
    return replace_code(s, "G17", "G18", [p for p in s.programs if any(m.mode in (2, 3) for m in p.moves())])


@kind("P3", "centres of arcs absolute")
def centres_absolute(s, rnd):
    return replace_code(s, "G91.1", "G90.1", [p for p in s.programs if any(m.mode in (2, 3) for m in p.moves())])


@kind("M6", "no path mode is stated")
def path_mode_left_out(s, rnd):
    return replace_code(s, "G61 ", "") or replace_code(s, " G61", "")


@kind("M6", "blending of corners without a limit")
def blending(s, rnd):
    return replace_code(s, "G61", "G64")


def between_cuts(p):
    """The line of a cut in the middle of a program's cuts, None where it has too few."""
    cut = cutting(p)
    return cut[len(cut) // 2].line if len(cut) > 4 else None


@kind("M6", "corners are blended from the middle on, and the end says otherwise")
def blending_inside(s, rnd):
    p = longest(s)
    p.lines.insert(between_cuts(p), "G64")
    end = next(i for i in range(len(p.lines) - 1, 0, -1) if words(p.lines[i])[:1] in ([("M", 30.0)], [("M", 2.0)]))
    p.lines.insert(end, "G61")
    return True


@kind("P2", "a percent sign in the middle, where controllers end a program")
def percent_inside(s, rnd):
    p = rnd.choice([p for p in s.programs if between_cuts(p) is not None])
    p.lines.insert(between_cuts(p), "%")
    return True


@kind("M6", "a word that nothing uses, at which controllers stop in the middle of a cut")
def word_unused(s, rnd):
    may = [(p, m) for p in s.programs for m in cutting(p) if m.mode == 1]
    if not may:
        return False
    p, m = rnd.choice(may)
    p.lines[m.line] += rnd.choice(["R1.0", "L2", "Q0.5", "P1", "H1", "I1.0"])
    return True


@kind("M4", "in the middle of a cut the cutter's length becomes another")
def length_changed(s, rnd):
    p = longest(s)
    calls = any(l.startswith("G43") for l in p.lines)
    p.lines.insert(between_cuts(p), "G49" if calls and rnd.random() < 0.5 else "G43 H77")
    return True


@kind("M6", "a word that the machine's controller does not know")
def word_unknown(s, rnd):
    p = s.programs[0]
    i = next(i for i, l in enumerate(p.lines) if "M3" in l and not l.startswith("("))
    p.lines.insert(i, "G68 X0 Y0 R90")
    return True


# ---- depth

@kind("P3", "a whole program is 0.3 mm too deep")
def too_deep(s, rnd):
    p = longest(s)
    shifted(p, dz=-0.3, when=low)
    return True


@kind("P3", "a whole program is 0.3 mm too shallow")
def too_shallow(s, rnd):
    p = longest(s, fitted=True)
    if p is None:
        return False
    shifted(p, dz=0.3, when=low)
    return True


@kind("P3", "a hollow that the glue hides is 0.9 mm too shallow")
def hollow_too_shallow(s, rnd):
    p = hollow(s)
    if p is not None:
        shifted(p, dz=0.9, when=low)
    return p is not None


@kind("P3", "the last outline stays 0.4 mm above the bottom: a skin")
def skin(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    bottom = deepest(p)
    thin = abs(bottom) - 0.4 - 0.1
    if thin <= 0:
        return False
    for m in p.moves():
        if m.b[2] < bottom + 0.5 and any(a == "Z" for a, _ in words(p.lines[m.line])):
            p.lines[m.line] = with_word(p.lines[m.line], "Z", bottom + 0.6)
    return True


@kind("P3", "one point of a surface dips 1.2 mm")
def dip(s, rnd):
    p = longest(s, "finish", "crown", "stair", "face") or longest(s)
    moves = [m for m in p.moves() if m.mode == 1 and low(m) and m.flat > 0.05]
    if not any(n in p.cut for n in ("finish", "crown", "stair", "face")):
        # cut in levels: what dips above the last of them is taken away by it
        bottom = deepest(p) + 0.01
        moves = [m for m in moves if m.b[2] < bottom and m.a[2] < bottom]
    if not moves:
        return False
    m = moves[len(moves) // 2]
    p.lines[m.line] = with_word(p.lines[m.line], "Z", m.b[2] - 1.2)
    nxt = next((n for n in p.moves() if n.line > m.line), None)
    if nxt is not None:
        p.lines[nxt.line] = with_word(p.lines[nxt.line], "Z", nxt.b[2] if any(a == "Z" for a, _ in words(p.lines[nxt.line])) else m.b[2])
    return True


@kind("M1", "one level is left out: the next takes twice as much, straight down")
def level_left_out(s, rnd):
    # Of what is cut level by level; rows of finishing lie at one height by chance, and a point less is a chord.
    # Nor is a carve: each of its rows has a height of its own.
    level_by_level = [p for p in s.programs if "rough" in p.cut or not any(w in p.cut for w in ("finish", "carve", "round"))]
    for p in sorted(level_by_level, key=lambda p: -len(cutting(p))):
        levels = sorted({round(m.b[2], 3) for m in cutting(p) if abs(m.a[2] - m.b[2]) < 1e-6 and m.flat > 5}, reverse=True)
        apart = [b for a, b, c in zip(levels, levels[1:], levels[2:]) if a - b > 0.3 and b - c > 0.3]
        if not apart:
            continue
        gone = apart[0]
        lines = [m.line for m in p.moves() if abs(m.b[2] - gone) < 0.0015 and abs(m.a[2] - gone) < 0.0015 and m.mode != 0]
        keep = [i for i in lines if "Z" in p.lines[i] or "F" in p.lines[i] or "G" in p.lines[i]]
        if len(set(lines) - set(keep)) < 3:
            continue
        p.drop(set(lines) - set(keep))
        return True
    return False


@kind("M1", "all levels at once: straight to the bottom")
def all_levels_at_once(s, rnd):
    p = last_outline(s) or longest(s, "pocket", "rough")
    if p is None:
        return False
    bottom = deepest(p)
    runs = {i for r in tab_lines(p) for i in r}
    done = False
    for m in p.moves():
        if m.mode != 0 and low(m) and m.line not in runs and any(a == "Z" for a, _ in words(p.lines[m.line])):
            p.lines[m.line] = with_word(p.lines[m.line], "Z", bottom)
            done = done or m.b[2] > bottom + 1
    return done


@kind("P3", "the deepest level is left out")
def last_level_left_out(s, rnd):
    p = longest(s, "pocket", "rough", "cavity", "recess") or last_outline(s)
    if p is None or finished_later(s, p):
        return False
    bottom = deepest(p)
    lines = [m.line for m in p.moves() if m.mode != 0 and m.b[2] < bottom + 0.05 and m.a[2] < bottom + 0.05]
    first = next((m for m in p.moves() if m.mode != 0 and m.b[2] < bottom + 0.05), None)
    if first is None or len(lines) < 3:
        return False
    p.drop(lines)
    return True


@kind("M2", "a rapid between two cuts stays in the wood")
def link_too_low(s, rnd):
    for p in s.programs:
        moves = p.moves()
        for k in range(1, len(moves) - 1):
            m, n = moves[k], moves[k + 1]
            if m.mode == 0 and n.mode == 0 and m.b[2] > 0.2 and m.flat < 1e-6 and n.flat > 6 and moves[k - 1].b[2] < -0.5:
                if not any(a == "Z" for a, _ in words(p.lines[m.line])) or any(a == "Z" for a, _ in words(p.lines[n.line])):
                    continue
                if any("G53" in line for line in p.lines[m.line + 1 : n.line + 1]):
                    continue  # it goes up by the machine's own frame before it goes over
                p.lines[m.line] = with_word(p.lines[m.line], "Z", moves[k - 1].b[2] + 0.2)
                return True
    return False


@kind("M2", "lifts between cuts are left out: the cutter is drawn through the wood")
def lifts_left_out(s, rnd):
    for p in sorted(s.of("slot", "hole", "pilot", "mark", "pocket", "outline"), key=lambda p: -len(cutting(p))):
        moves = p.moves()
        lines = [m.line for m, n in zip(moves, moves[1:]) if m.mode == 0 and m.flat < 1e-6 and m.a[2] < -0.3 and n.mode == 0 and n.flat > 3]
        if lines:
            p.drop(lines)
            return True
    return False


@kind("M2", "a long rapid only 0.2 mm over the wood")
def rapid_skims(s, rnd):
    done = False
    for p in s.programs:
        moves = p.moves()
        for m, n in zip(moves, moves[1:]):
            if m.mode == 0 and m.flat < 1e-6 and m.b[2] > 0.5 and m.a[2] < 0 and n.mode == 0 and n.flat > 3:
                p.lines[m.line] = with_word(p.lines[m.line], "Z", 0.2)
                done = True
    return done


@kind("M8", "1.5 mm into the waste board")
def into_waste_board(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    bottom = deepest(p)
    for m in p.moves():
        if m.b[2] < bottom + 0.01 and any(a == "Z" for a, _ in words(p.lines[m.line])):
            p.lines[m.line] = with_word(p.lines[m.line], "Z", bottom - 1.5)
    return True


@kind("P3", "a drill goes 2 mm deeper")
def drilled_deeper(s, rnd):
    for p in drills(s):
        bottom = deepest(p)
        if bottom < -0.5:
            for m in p.moves():
                if m.b[2] < bottom + 0.01 and any(a == "Z" for a, _ in words(p.lines[m.line])):
                    p.lines[m.line] = with_word(p.lines[m.line], "Z", bottom - 2)
            return True
    return False


@kind("M1", "pecks are left out: a drill goes down in one")
def pecks_left_out(s, rnd):
    for p in drills(s):
        moves = p.moves()
        bottom = deepest(p)
        kept, gone = 0, []
        for m in moves:
            if m.flat < 1e-6 and bottom + 0.01 < m.b[2] < 0.4 and m.a[2] < 0.6:
                gone.append(m.line)
        # only lifts and bites between top and bottom
        gone = [i for i in gone if not any(a in "XY" for a, _ in words(p.lines[i]))]
        if len(gone) >= 3:
            lines = set(gone)
            for m in moves:
                if m.line in lines:
                    continue
            # rebuild: for every hole keep the approach and the last bite
            p.drop(lines)
            return True
    return False


# ---- feeds and speeds

def feeds(p, factor, when=lambda m, f: True):
    last = {m.line: m for m in p.moves()}
    done = False
    for i, line in enumerate(p.lines):
        for a, v in words(line):
            if a == "F" and i in last and when(last[i], v):
                p.lines[i] = with_word(p.lines[i], "F", v * factor)
                done = True
    return done


@kind("M5", "every feed is three times as high")
def feeds_tripled(s, rnd):
    done = False
    for p in s.programs:
        done = feeds(p, 3) or done
    return done


@kind("M5", "feeds of slots are doubled")
def slot_feeds_doubled(s, rnd):
    p = longest(s, "slot")
    return p is not None and feeds(p, 2)


@kind("M5", "one program runs at 20 m/min")
def one_feed_absurd(s, rnd):
    p = longest(s)
    return feeds(p, 20000 / max(1.0, max(v for l in p.lines for a, v in words(l) if a == "F")))


@kind("M1", "the way down at the full feed")
def plunge_at_full_feed(s, rnd):
    done = False
    for p in s.programs:
        top = max((v for l in p.lines if not l.startswith("(") for a, v in words(l) if a == "F"), default=0)
        for m in p.moves():
            if m.mode == 1 and m.down > 0.3 and m.flat < 1e-6 and m.b[2] < -0.1 and m.feed and m.feed < top * 0.9:
                p.lines[m.line] = with_word(p.lines[m.line], "F", top)
                done = True
    return done


@kind("M1", "drills go down at 3000")
def drill_at_full_feed(s, rnd):
    done = False
    for p in drills(s):
        for i, line in enumerate(p.lines):
            if not line.startswith("(") and any(a == "F" for a, _ in words(line)):
                p.lines[i] = with_word(line, "F", 3000)
                done = True
    return done


@kind("M5", "the spindle at 900")
def spindle_slow(s, rnd):
    return any([replace_number(p, "S", 900) for p in s.programs])


@kind("M5", "the spindle at 60000")
def spindle_fast(s, rnd):
    return any([replace_number(p, "S", 60000) for p in s.programs])


def replace_number(p, letter, value):
    for i, line in enumerate(p.lines):
        if not line.startswith("(") and any(a == letter for a, _ in words(line)):
            p.lines[i] = with_word(line, letter, str(value))
            return True
    return False


@kind("M5", "the spindle is never started")
def spindle_off(s, rnd):
    return replace_code(s, "M3", "M5")


@kind("M5", "the spindle turns backwards")
def spindle_backwards(s, rnd):
    return replace_code(s, "M3", "M4")


@kind("M5", "the spindle stops in the middle of a cut")
def spindle_stops(s, rnd):
    p = longest(s)
    m = cutting(p)[len(cutting(p)) // 2]
    p.lines.insert(m.line, "M5")
    return True


@kind("M5", "no time to come up to speed")
def no_dwell(s, rnd):
    for p in s.programs:
        lines = [i for i, l in enumerate(p.lines) if l.startswith("G4")]
        if lines:
            p.drop(lines)
            return True
    return False


# ---- cutters

def other_tool(s, p, take):
    """Names another cutter of the set in the T word; the manifest goes on naming the right one."""
    for q in s.programs:
        c, mine = q.entry.get("cutter"), p.entry.get("cutter")
        if c and mine and c["number"] != mine["number"] and take(mine, c):
            return replace_number(p, "T", c["number"])
    return False


@kind("P2", "another cutter in the outline's T word")
def other_cutter(s, rnd):
    p = last_outline(s)
    return p is not None and other_tool(s, p, lambda mine, c: abs(c["diameter_mm"] - mine["diameter_mm"]) > 0.2)


@kind("P2", "a drill in place of the outline's cutter")
def drill_for_outline(s, rnd):
    p = last_outline(s)
    return p is not None and (other_tool(s, p, lambda mine, c: c["kind"] == "drill") or replace_number(p, "T", 11))


@kind("P2", "a cutter that no rack has")
def tool_unknown(s, rnd):
    return replace_number(longest(s), "T", 97)


@kind("P2", "the manifest names another diameter than the rack's")
def manifest_diameter(s, rnd):
    p = longest(s)
    if "cutter" not in p.entry:
        return False
    p.entry["cutter"]["diameter_mm"] += 0.5
    return True


@kind("P2", "the manifest names another stickout than the rack's")
def manifest_stickout(s, rnd):
    p = longest(s)
    if "cutter" not in p.entry:
        return False
    p.entry["cutter"]["stickout_mm"] += 12
    return True


# ---- order and what is left out

@kind("P2", "the outline is missing")
def outline_missing(s, rnd):
    p = last_outline(s)
    if p is None or len(s.programs) < 2:
        return False
    s.programs.remove(p)
    return True


@kind("P2", "the outline is cut first")
def outline_first(s, rnd):
    p = last_outline(s)
    side = [q for q in s.programs if p and q.entry.get("side") == p.entry.get("side")]
    if p is None or len(side) < 2 or side[0] is p or (len(side) > 2 and side[1] is p and "pins" in side[0].entry["cut"]):
        return False  # where that is the school, its order is no harm
    s.programs.remove(p)
    s.programs.insert(s.programs.index(side[0]), p)
    return True


@kind("P2", "a program of the set is missing")
def program_missing(s, rnd):
    if len(s.programs) < 2:
        return False
    s.programs.remove(rnd.choice(s.programs[:-1]))
    return True


@kind("P2", "a program cuts nothing any more")
def program_emptied(s, rnd):
    p = rnd.choice([p for p in s.programs if cutting(p)])
    p.drop([m.line for m in p.moves() if low(m)])
    return True


@kind("P2", "finishing runs before roughing")
def finishing_first(s, rnd):
    for i, p in enumerate(s.programs):
        for j in range(i + 1, len(s.programs)):
            q = s.programs[j]
            if "rough" in p.cut and ("finish" in q.cut or "crown" in q.cut or re.search(r"carve(?!-rough)", q.cut)) and p.entry.get("side") == q.entry.get("side"):
                s.programs.insert(i, s.programs.pop(j))
                return True
    return False


@kind("P2", "the second half of a program is missing")
def cut_in_half(s, rnd):
    p = longest(s)
    moves = p.moves()
    half = moves[len(moves) // 2].line
    last = max(i for i, l in enumerate(p.lines) if l.startswith("M5"))
    p.drop(range(half, last))
    return True


@kind("P2", "the program's end is missing")
def end_missing(s, rnd):
    p = longest(s)
    lines = [i for i, l in enumerate(p.lines) if l.startswith(("M30", "M5"))]
    p.drop(lines[-2:])
    return True


@kind("P2", "one hole is left out")
def hole_left_out(s, rnd):
    for p in drills(s) + s.of("hole"):
        at = cutting(p)
        places = sorted({(round(m.b[0], 2), round(m.b[1], 2)) for m in at})
        if len(places) > 1 and p in drills(s):
            x, y = places[0]
            p.drop([m.line for m in p.moves()
                    if abs(m.b[0] - x) < 0.01 and abs(m.b[1] - y) < 0.01 and abs(m.a[0] - x) < 0.01 and abs(m.a[1] - y) < 0.01 and m.mode == 1])
            return True
    return False


@kind("P2", "one slot is left out")
def slot_left_out(s, rnd):
    p = longest(s, "slot")
    if p is None:
        return False
    # A slot of a fan is slanted: what lies on the line of the first long cut is that slot.
    long = next((m for m in cutting(p) if m.mode == 1 and m.flat > 2), None)
    if long is None:
        return False
    (ax, ay, _), (bx, by, _) = long.a, long.b

    def beside(q):
        return abs((bx - ax) * (q[1] - ay) - (by - ay) * (q[0] - ax)) / long.flat

    lines = [m.line for m in p.moves() if beside(m.a) < 0.6 and beside(m.b) < 0.6 and m.mode != 0 and not any(a == "F" for a, _ in words(p.lines[m.line]))]
    if len(lines) < 2:
        return False
    p.drop(lines)
    return True


@kind("P3", "some rows of finishing are left out")
def rows_left_out(s, rnd):
    p = longest(s, "finish", "crown")
    if p is None:
        return False
    moves = [m for m in p.moves() if m.mode == 1 and m.flat > 0.01]
    a, b = len(moves) * 45 // 100, len(moves) * 60 // 100
    if b - a < 10:
        return False
    lines = [m.line for m in moves[a:b] if "F" not in p.lines[m.line] and "G" not in p.lines[m.line]]
    p.drop(lines)
    return True


# ---- tabs

@kind("M10", "tabs are cut through")
def tabs_cut_through(s, rnd):
    p = last_outline(s)
    runs = tab_lines(p) if p else []
    for r in runs:
        set_z(p, r, deepest(p))
    return bool(runs)


def scale_tabs(s, by):
    p = last_outline(s)
    runs = tab_lines(p) if p else []
    if not runs:
        return False
    bottom = deepest(p)
    moves = {m.line: m for m in p.moves()}
    for i in (i for r in runs for i in r):
        set_z(p, [i], bottom + (moves[i].b[2] - bottom) * by)
    return True


@kind("M10", "tabs are half as high")
def tabs_halved(s, rnd):
    return scale_tabs(s, 0.5)


@kind("M10", "one tab is left out")
def tab_left_out(s, rnd):
    p = last_outline(s)
    runs = tab_lines(p) if p else []
    if not runs:
        return False
    # The longest: on a curved edge the deepest lines also take the foot of a tab's way up for one.
    at = {m.line: m.b for m in p.moves()}
    set_z(p, max(runs, key=lambda r: math.dist(at[r[0]][:2], at[r[-1]][:2])), deepest(p))
    return True


# ---- beginning, stops, end

@kind("M3", "the first motion goes over, at a height that nobody knows")
def first_motion_over(s, rnd):
    p = s.programs[0]
    m = p.moves()[0]
    p.lines.insert(m.line, "G0X5.000Y5.000")
    p.drop([i for i, l in enumerate(p.lines) if "G53" in l and i < m.line])
    return True


@kind("M3", "the way up before everything is left out")
def first_lift_left_out(s, rnd):
    for p in s.programs:
        lines = [i for i, l in enumerate(p.lines) if l.startswith("G53")]
        if lines:
            p.drop(lines[:1])
            return True
    return False


@kind("M3", "it ends in the wood, the spindle turning")
def ends_in_wood(s, rnd):
    p = longest(s)
    last = cutting(p)[-1].line
    end = max(i for i, l in enumerate(p.lines) if l.startswith("M30"))
    p.drop(range(last + 1, end))
    return True


@kind("M3", "it ends without stopping the spindle")
def ends_turning(s, rnd):
    p = longest(s)
    lines = [i for i, l in enumerate(p.lines) if l.startswith("M5")]
    p.drop(lines[-1:])
    return True


@kind("M3", "it does not park")
def not_parked(s, rnd):
    for p in s.programs:
        lines = [i for i, l in enumerate(p.lines) if l.startswith("G53")]
        if len(lines) > 1:
            p.drop(lines[1:])
            return True
    return False


@kind("M9", "a stop for the hand is left out")
def stop_left_out(s, rnd):
    for p in s.programs:
        lines = [i for i, l in enumerate(p.lines) if l.startswith("M0")]
        if lines:
            p.drop(lines[:1])
            return True
    return False


@kind("M4", "two programs with cutters of their own in one, no stop between")
def joined_without_stop(s, rnd):
    for p, q in zip(s.programs, s.programs[1:]):
        if p.entry.get("side") != q.entry.get("side") or p.entry["cutter"]["number"] == q.entry["cutter"]["number"]:
            continue
        end = max(i for i, l in enumerate(p.lines) if l.startswith("M30"))
        body = [l for l in q.lines if not l.startswith(("(end: ", "(upland"))]
        p.lines = p.lines[:end] + [l for l in body if not l.startswith("M0")]
        p.entry["cut"] = p.entry["cut"] + q.entry["cut"]
        s.programs.remove(q)
        return True
    return False


@kind("M2", "a cut becomes a rapid")
def cut_as_rapid(s, rnd):
    p = longest(s)
    for m in cutting(p):
        if m.mode == 1 and m.flat > 3:
            p.lines[m.line] = "G0" + p.lines[m.line].replace("G1", "")
            p.lines.insert(m.line + 1, "G1")
            return True
    return False

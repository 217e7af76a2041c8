"""Harms that a manifest leaves room for, and words that one controller reads otherwise than the next. As in harmful.py, whose
table they join."""
import copy
import math

from harmful import cutting, deepest, kind, last_outline
from harmful_fine import told
from harmful_unseen import put_last
from program_set import number


@kind("P2", "the manifest lists the programs in order, and asks for none")
def order_unasked(s, rnd):
    if last_outline(s) is None or len(s.programs) < 2:
        return False
    for q in s.programs:
        q.entry["after"] = q.entry["earlier"] = []
    return True


@kind("P2", "the manifest lets the outline run before everything else")
def outline_unasked(s, rnd):
    p = last_outline(s)
    if p is None or not p.entry["after"]:
        return False
    for q in s.programs:
        if q is not p:
            q.entry["after"] = [f for f in q.entry["after"] if f != p.name]
    p.entry["after"] = p.entry["earlier"] = []
    return True


@kind("P5", "the manifest tells another stock, register or width of a cutter than the project")
def manifest_tells_other(s, rnd):
    e = rnd.choice(s.programs).entry
    change = rnd.randrange(3)
    if change == 0:
        e["blank_mm"]["stock"] = {"kind": "island", "outline_mm": [[0, 0], [10, 0], [10, 10]]}
    elif change == 1:
        e["register"]["shift_mm"] = [e["register"]["shift_mm"][0] + 1.5, 0.0]
    else:
        (e.get("cutters") or [e["cutter"]])[0]["nominal_diameter_mm"] = 11.0
        e["cutter"]["nominal_diameter_mm"] = 11.0
    return True


@kind("M6", "a straight cut is an arc of a hundred kilometres: numbers of single precision leave it by millimetres")
def arc_of_kilometres(s, rnd):
    for p in rnd.sample(s.programs, len(s.programs)):
        long = [m for m in cutting(p) if m.mode == 1 and 20 < m.flat < 400 and abs(m.a[2] - m.b[2]) < 1e-6 and m.feed]
        if not long:
            continue
        m = rnd.choice(long)
        d = [(m.b[k] - m.a[k]) / m.flat for k in (0, 1)]
        r, half = 1e8, m.flat / 2
        j = math.sqrt(r * r - half * half)
        i = [half * d[0] + j * d[1], half * d[1] - j * d[0]]
        p.lines[m.line] = f"G2X{number(m.b[0])}Y{number(m.b[1])}I{i[0]:.4f}J{i[1]:.4f}F{number(m.feed)}"
        p.lines.insert(m.line + 1, f"G1F{number(m.feed)}")
        return told(p)
    return False


@kind("M6", "lines have numbers that no controller knows")
def numbers_beyond(s, rnd):
    p = rnd.choice(s.programs)
    m = rnd.choice(cutting(p))
    p.lines[m.line] = rnd.choice([lambda l: "N123456 " + l, lambda l: "N1.5 " + l, lambda l: l + " N7"])(p.lines[m.line])
    return told(p)


@kind("M6", "a comment in the middle of a cut holds a sign at which some controllers stop at once")
def hold_in_a_comment(s, rnd):
    p = rnd.choice(s.programs)
    m = rnd.choice(cutting(p))
    p.lines[m.line] += rnd.choice([" (mind the grain!)", " (about ~2 mm)"])
    return told(p)


@kind("M6", "a comment holds a letter beyond ASCII, whose bytes some controllers take for an order to stop or to go faster")
def order_in_a_comment(s, rnd):
    p = rnd.choice(s.programs)
    m = rnd.choice(cutting(p))
    p.lines[m.line] += " (" + rnd.choice(["sch\u00e4len", "3\u00b0", "\u2013"]).encode().decode("latin-1") + ")"
    return told(p)


@kind("M9", "a comment has the controller show or keep a message")
def message_kept(s, rnd):
    p = rnd.choice(s.programs)
    m = rnd.choice(cutting(p))
    p.lines.insert(m.line, rnd.choice(["(print, loosen the clamps)", "( DEBUG, take the fence away)", "(LOGOPEN, heights.txt)"]))
    return told(p)


@kind("M4", "before its own cutter another one comes in, and does nothing")
def change_in_vain(s, rnd):
    p = rnd.choice(s.programs)
    at = next((i for i, l in enumerate(p.lines) if l.startswith("T") and "M6" in l), None)
    if at is None:
        return False
    other = next((q.entry["cutter"]["number"] for q in s.programs if q.entry["cutter"]["number"] != p.entry["cutter"]["number"]), 99)
    p.lines.insert(at, f"T{other} M6")
    return True


@kind("M6", "at its end the program leaves inches, or distances from where it stands, to the next move by hand")
def other_modes_left(s, rnd):
    p = rnd.choice(s.programs)
    p.lines.insert(max(i for i, l in enumerate(p.lines) if l.startswith("M30")), rnd.choice(["G20", "G91", "G18", "G90.1"]))
    return True


@kind("M3", "it ends down where it has cut last, the spindle switched off")
def ends_down(s, rnd):
    p = rnd.choice(s.programs)
    last = cutting(p)[-1].line
    p.lines[last + 1:] = [l for l in p.lines[last + 1:] if not l.startswith(("G0", "G53", "X", "Y", "Z"))]
    return told(p)


@kind("M4", "the next cutter is named in the middle of a cut: some controllers change it there and then")
def cutter_named_early(s, rnd):
    for p in rnd.sample(s.programs, len(s.programs)):
        changes = [i for i, l in enumerate(p.lines) if l.startswith("T") and l.endswith(" M6")]
        cut = [m.line for m in cutting(p)]
        if len(changes) < 2 or not cut or cut[len(cut) // 8] > changes[1]:
            continue
        name, p.lines[changes[1]] = p.lines[changes[1]].split()[0], "M6"
        p.lines.insert(cut[len(cut) // 8], name)
        return told(p)
    return False


@kind("M3", "without G53 the machine is homed before a hand probes z, which leaves it low")
def homed_then_probed(s, rnd):
    for p in s.programs:
        home = next((l for l in p.lines if l.startswith("M0 (home the machine")), None)
        at = [i for i, l in enumerate(p.lines) if l == home]
        if len(at) < 2:
            continue
        i = rnd.choice(at[1:])
        change, tool = p.lines[i - 2:i]
        p.lines[i - 2:i + 1] = [tool, home[3:], change]
        return True
    return False


@kind("M2", "beside the blank a rapid runs half a millimetre over the waste board")
def rapid_over_the_board(s, rnd):
    p = last_outline(s)
    if p is None or p.entry["cutter"]["kind"] == "drill":
        return False
    blank, wide = p.entry["blank_mm"], p.entry["cutter"]["diameter_mm"]
    x, y, top = blank["corner"]
    low = top - blank["thickness"] + 0.5
    return put_last(p, [f"G0X{number(x - wide - 3)}Y{number(y + 15)}", f"Z{number(low)}", f"Y{number(y + 35)}", "Z10.000"])


@kind("P2", "a program more that cuts the outline once again, and may run before everything else")
def program_too_many(s, rnd):
    p = last_outline(s)
    if p is None:
        return False
    q = copy.deepcopy(p)
    q.name = q.entry["file"] = "once-more.ngc"
    q.entry["after"] = q.entry["earlier"] = []
    q.entry["cut"] = rnd.choice([p.entry["cut"], [], ["trim"]])
    s.programs.append(q)
    return True


@kind("P2", "the outline is cut by another program first, and once more by its own")
def outline_by_another(s, rnd):
    p = last_outline(s)
    if p is None or "cutters" in p.entry:
        return False
    same = [q for q in s.programs if q is not p and q.entry["side"] == p.entry["side"] and q.entry["cutter"]["number"] == p.entry["cutter"]["number"]]
    moves = [m for m in p.moves() if m.mode != 0]
    for q in same:
        if "pins" in q.cut or s.programs.index(q) > s.programs.index(p):
            continue
        a = moves[0].a
        last = [m for m in q.moves() if m.mode != 0][-1].line
        way = [f"G0X{number(a[0])}Y{number(a[1])}", f"Z{number(a[2])}", *p.lines[moves[0].line:moves[-1].line + 1]]
        q.lines[last + 1:last + 1] = ["G0Z10.000", *way, "G0Z10.000"]
        return told(q)
    return False


@kind("P2", "two programs whose names differ by a capital: on a stick the second takes the place of the first")
def names_alike(s, rnd):
    if len(s.programs) < 2:
        return False
    p, q = rnd.sample(s.programs, 2)
    old, name = q.name, p.name[0].upper() + p.name[1:]
    if name == p.name:
        return False
    q.name = name
    for r in s.programs:
        for key in ("after", "earlier"):
            r.entry[key] = [name if f == old else f for f in r.entry[key]]
    return True


def slot_passes(s, deep):
    """The program of the coupon's slot, which ends within the wood, and its level passes deeper than that share of it."""
    for p in s.of("slot"):
        if p.entry["part"] == "coupon" and p.entry["cutter"]["kind"] == "slot" and "cutters" not in p.entry:
            passes = [m for m in cutting(p) if m.mode == 1 and m.flat > 2 and abs(m.a[2] - m.b[2]) < 1e-6 and m.b[2] < deep * deepest(p)]
            if passes:
                return p, passes
    return None, []


@kind("P3", "a slot that ends within the wood is half a millimetre too long")
def slot_too_long(s, rnd):
    p, passes = slot_passes(s, 0.8)
    if p is None:
        return False
    m = rnd.choice(passes)
    u = [0.5 * (m.b[k] - m.a[k]) / m.flat for k in (0, 1)]
    p.lines[m.line + 1:m.line + 1] = [f"G1X{number(m.b[0] + u[0])}Y{number(m.b[1] + u[1])}F{number(m.feed)}", f"X{number(m.b[0])}Y{number(m.b[1])}"]
    return told(p)


@kind("P3", "at the end of a slot within the wood the cutter dips a tenth under its floor")
def slot_end_dips(s, rnd):
    p, passes = slot_passes(s, 0.99)
    if p is None:
        return False
    m = passes[-1]
    p.lines[m.line + 1:m.line + 1] = [f"G1Z{number(m.b[2] - 0.1)}F150", f"Z{number(m.b[2])}F{number(m.feed)}"]
    return told(p)


@kind("P3", "a row of the coupon's stair runs on for half a millimetre")
def row_too_long(s, rnd):
    for p in s.of("stair"):
        rows = [m for m in cutting(p) if m.mode == 1 and m.flat > 6 and abs(m.a[2] - m.b[2]) < 1e-6 and m.b[2] < 0.9 * deepest(p)]
        if "cutters" in p.entry or not rows:
            continue
        m = max(rows, key=lambda q: q.b[0])
        p.lines[m.line + 1:m.line + 1] = [f"G1X{number(m.b[0] + 0.5)}F{number(m.feed)}", f"X{number(m.b[0])}"]
        return told(p)
    return False

"""Harms to what a program says to the hand that runs it, to its stops, and to the spindle between moves. As in
harmful.py, whose table they join."""
import re

from harmful import cutting, kind, longest
from program_set import number

CHANGE = re.compile(r"M0 \(change to .*\)$")
CUTTER = re.compile(r"\(cutter: ")
STOP = re.compile(r"M0 \((?!change to |home ).*\)$")


def said(s, begins, instead):
    """Every line that begins so says something else (None: nothing)."""
    done = False
    for p in s.programs:
        done = done or any(l.startswith(begins) for l in p.lines)
        p.lines = [x for l in p.lines for x in ([l] if not l.startswith(begins) else [instead] if instead else [])]
    return done


def lines_of(s, pattern):
    """[(program, line number)] of all that match."""
    return [(p, i) for p in s.programs for i, l in enumerate(p.lines) if pattern.match(l)]


def first(s, pattern, change):
    """The first line that matches is changed."""
    for p, i in lines_of(s, pattern)[:1]:
        p.lines[i] = change(p.lines[i])
        return True
    return False


def middle(s):
    """The longest program and the middle one of its cuts."""
    p = longest(s)
    cuts = [m for m in cutting(p) if m.mode == 1] if p is not None else []
    return (p, cuts[len(cuts) // 2]) if cuts else (None, None)


@kind("M7", "the header tells another zero")
def header_zero(s, rnd):
    return said(s, "(zero: ", "(zero: the middle of the blank, z = 0 on the waste board)")


@kind("M7", "the header has z probed elsewhere")
def header_probe(s, rnd):
    return said(s, "(probe z on: ", "(probe z on: the waste board at x 8 y 8, z = 0 there)")


@kind("M7", "the header does not say where z is probed")
def header_probe_unsaid(s, rnd):
    return said(s, "(probe z on: ", None)


@kind("M7", "the header says both where z is probed and another place")
def header_probe_twice(s, rnd):
    for p, i in lines_of(s, re.compile(r"\(probe z on: ")):
        p.lines.insert(i, "(probe z on: the waste board at x 8 y 8, z = 0 there)")
        return True
    return False


@kind("M7", "the header tells another blank")
def header_blank(s, rnd):
    return said(s, "(blank: ", "(blank: 900 x 90 x 60 mm oak, length along y)")


@kind("M7", "the header tells another side")
def header_side(s, rnd):
    return said(s, "(part: ", "(part: fretboard, its other side up)")


@kind("M4", "the header tells a shorter stickout")
def header_cutter(s, rnd):
    return first(s, CUTTER, lambda l: re.sub(r"stickout [\d.]+", "stickout 9", l))


@kind("M4", "a stop asks for another cutter than the one that is meant")
def change_names_another(s, rnd):
    return first(s, CHANGE, lambda l: re.sub(r"change to [^,]+", "change to flat-12", l))


@kind("M4", "a stop does not say which cutter comes")
def change_unsaid(s, rnd):
    return first(s, CHANGE, lambda l: "M0")


@kind("M4", "a stop asks for another stickout")
def change_stickout(s, rnd):
    return first(s, CHANGE, lambda l: re.sub(r"stickout [\d.]+", "stickout 12", l))


@kind("M4", "a stop does not ask for z to be probed again")
def change_without_probing(s, rnd):
    return first(s, CHANGE, lambda l: l.replace(", probe z", ""))


@kind("M9", "a stop asks for something else")
def stop_says_other(s, rnd):
    return first(s, STOP, lambda l: "M0 (blow the dust away)")


@kind("M9", "a stop stands behind the cut that waits for it")
def stop_late(s, rnd):
    for p, i in lines_of(s, STOP):
        stop = p.lines.pop(i)
        p.lines.insert(max(k for k, l in enumerate(p.lines) if l.startswith("M30")), stop)
        return True
    return False


def at_parking(s, change):
    """What goes up and what goes over to the parking place, with the spindle's stop between, become what `change` makes of them."""
    done = False
    for p in s.programs:
        for i, l in enumerate(p.lines):
            if l == "G53 G0 Z0" and p.lines[i + 1] == "M5" and p.lines[i + 2].startswith("G53 G0 X"):
                p.lines[i], p.lines[i + 2] = change(l, p.lines[i + 2])
                done = True
    return done


def once_parked(s, line):
    """One more line between the parking place and the end of the first program."""
    for p, i in lines_of(s, re.compile("M30"))[:1]:
        if not p.lines[i - 1].startswith("G53 G0 X"):
            return False
        p.lines.insert(i, line)
        return True
    return False


@kind("M3", "it goes over to the parking place at the height of its last cut's lift, and up only there")
def parks_low(s, rnd):
    return at_parking(s, lambda up, over: (over, up))


@kind("M3", "up and over to the parking place in one move")
def parks_askew(s, rnd):
    return at_parking(s, lambda up, over: ("(up and over)", over + " Z0"))


@kind("M3", "from the parking place it goes on to where the work is")
def leaves_park(s, rnd):
    return once_parked(s, "G53 G0 X0.000 Y0.000")


@kind("M3", "at the parking place it comes down")
def sinks_at_park(s, rnd):
    return once_parked(s, "G53 G0 Z-40.000")


@kind("M3", "after a change of cutter it goes on from where the hand has left the machine")
def up_again_left_out(s, rnd):
    done = False
    for p in s.programs:
        for i, l in enumerate(p.lines):
            if l == "G53 G0 Z0" and re.match(r"T\d+ M6$|G43 H\d+$", p.lines[i - 1]):
                p.lines[i] = "(go on)"
                done = True
    return done


@kind("M3", "in the middle of a cut a switch decides whether it stops, the spindle turning")
def optional_in_wood(s, rnd):
    p, m = middle(s)
    if p is None:
        return False
    p.lines.insert(m.line + 1, "M1")
    return True


@kind("M5", "the spindle comes up slowly, and is sent to its speed when the wait is over")
def speed_after_the_wait(s, rnd):
    done = False
    for p in s.programs:
        for i, l in enumerate(p.lines):
            found = re.match(r"(S(\d+)) M3$", l)
            if found and p.lines[i + 1].startswith("G4"):
                p.lines[i:i + 2] = [f"S{int(found[2]) // 2} M3", p.lines[i + 1], found[1]]
                done = True
                break
    return done


@kind("M5", "the cutter goes to and fro at one place for half a minute")
def to_and_fro(s, rnd):
    p, m = middle(s)
    if p is None:
        return False
    x, y, z = m.b
    steps = [f"G1X{number(x + 0.02 * (k % 2))}Y{number(y)}Z{number(z)}F20" for k in range(1, 501)]
    p.lines[m.line + 1:m.line + 1] = steps + [f"G1X{number(x)}", f"F{number(m.feed)}"]
    return True


@kind("M5", "short waits with hardly a move between them, half a minute in all")
def waits_in_pieces(s, rnd):
    p, m = middle(s)
    if p is None:
        return False
    x, y, z = m.b
    steps = [t for k in range(1, 35) for t in (p.dwell(0.9), f"G1X{number(x + 0.01 * (k % 2))}Y{number(y)}Z{number(z)}")]
    p.lines[m.line + 1:m.line + 1] = steps + [f"G1X{number(x)}"]
    return True


@kind("M6", "coolant is switched on")
def coolant(s, rnd):
    p, m = middle(s)
    if p is None:
        return False
    p.lines.insert(m.line, "M8")
    return True


def also_said(s, rnd, behind):
    """A stop that asks for what it should has something else beside it."""
    stops = lines_of(s, re.compile(r"M0 \((?!home )"))
    for p, i in stops[:1]:
        p.lines.insert(i + behind, rnd.choice(["(loosen the clamps and turn the blank over)", "(stickout 20 mm)", "(set z by hand 1 mm lower)"]))
        return True
    return False


@kind("M9", "before a stop that is right something more is asked of the hand")
def stop_asks_for_more(s, rnd):
    return also_said(s, rnd, 0)


@kind("M9", "behind a stop that is right, where the hand reads on, something more is asked of it")
def stop_reads_on(s, rnd):
    return also_said(s, rnd, 1)


def drilled_again(p, said):
    """After all else the last hole once more, by a drilling cycle, from as high over it as a rapid may come."""
    m = next((m for m in reversed(p.moves()) if m.mode == 1 and m.down > 0 and m.flat < 1e-6), None)
    lift = max((k for k, l in enumerate(p.lines) if l.startswith("G0Z")), default=None)
    if m is None or lift is None:
        return False
    over = f"X{number(m.b[0])}Y{number(m.b[1])}"
    p.lines[lift + 1:lift + 1] = [f"G0{over}", f"{said}G81{over}Z{number(m.b[2])}R2.100F{number(m.feed)}", "G80", "G0Z10.000"]
    return True


@kind("M6", "behind a semicolon stands a move: a controller that knows no such comments runs it")
def move_behind_semicolon(s, rnd):
    p, m = middle(s)
    if p is None:
        return False
    p.lines.insert(m.line, rnd.choice(["; G0 Z-5.000", ";G1 X1.000", "; z-9"]))
    return True


@kind("M6", "a hole is drilled again by a cycle that does not say how far it comes back")
def cycle_return_unsaid(s, rnd):
    p = next((p for p in s.programs if "cutters" not in p.entry and p.entry["cutter"]["kind"] == "drill"), None)
    return p is not None and drilled_again(p, "")

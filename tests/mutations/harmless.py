"""Changes that leave a good program good: the proof has to say yes to them. Same calls as harmful.py."""
import re

from harmful import chords, cutting, hollow, longest, low, shifted
from harmful_hand import drilled_again
from program_set import COMMENT, number, with_word, words

KINDS = {}


def kind(what):
    def keep(function):
        KINDS[function.__name__.replace("_", "-")] = (what, function)
        return function

    return keep


def body(p):
    """Lines that carry words, header and end left out."""
    return [i for i, l in enumerate(p.lines) if l and not l.startswith("(")]


def asks(p, i):
    """Whether a hand may read it at a stop: what stands there is held word by word."""
    return any(re.match(r"M[01]\b", l) for l in p.lines[max(0, i - 6):i + 6])


@kind("a hollow that the glue hides is 0.3 mm too shallow")
def hollow_shallow(s, rnd):
    p = hollow(s)
    if p is not None:
        shifted(p, dz=0.3, when=low)
    return p is not None


@kind("comments between the lines")
def comments_added(s, rnd):
    for p in s.programs:
        p.lines = [x for i, l in enumerate(p.lines) for x in ([l, "(here)"] if i % 50 == 40 and not asks(p, i) else [l])]
    return True


@kind("a comment behind every word")
def comments_inside(s, rnd):
    for p in s.programs:
        for i in body(p)[::7]:
            if "(" not in p.lines[i] and not asks(p, i):
                p.lines[i] += " (so)"
    return True


@kind("comments behind semicolons, with numbers, that are more than words")
def comment_behind_semicolon(s, rnd):
    for p in s.programs:
        p.lines = [x for i, l in enumerate(p.lines) for x in ([l, f"; level {i} of 900, so far, so good (1, 2, 3)"] if i % 60 == 40 and not asks(p, i) else [l])]
    return True


@kind("blank lines")
def blank_lines(s, rnd):
    for p in s.programs:
        p.lines = [x for i, l in enumerate(p.lines) for x in ([l, ""] if i % 40 == 30 else [l])]
    return True


@kind("numbered lines")
def numbered(s, rnd):
    for p in s.programs:
        for k, i in enumerate(body(p)):
            p.lines[i] = f"N{10 * (k % 9000) + 10} " + p.lines[i]
    return True


@kind("small letters")
def small_letters(s, rnd):
    for p in s.programs:
        for i in body(p):
            code = COMMENT.sub("", p.lines[i])
            p.lines[i] = code.lower() + p.lines[i][len(code):]
    return True


@kind("spaces between words")
def spaced(s, rnd):
    for p in s.programs:
        for i in body(p):
            code = COMMENT.sub("", p.lines[i])
            p.lines[i] = re.sub(r"(?<=\d)(?=[A-Z])", "  ", code) + p.lines[i][len(code):]
    return True


@kind("ends of lines of another system")
def other_line_ends(s, rnd):
    for p in s.programs:
        p.each(lambda l: l + "\r", lambda i, l: not l.startswith("("))
    return True


@kind("more digits")
def more_digits(s, rnd):
    for p in s.programs:
        for i in body(p):
            p.lines[i] = re.sub(r"([XYZIJ]-?\d+\.\d\d\d)(?!\d)", r"\g<1>00", p.lines[i])
    return True


@kind("every word said again in every line")
def words_said_again(s, rnd):
    for p in s.programs:
        for m in p.moves():
            if m.mode == 1 and m.feed:
                line = f"G1X{number(m.b[0])}Y{number(m.b[1])}Z{number(m.b[2])}F{number(m.feed)}"
                p.lines[m.line] = line
    return True


@kind("words in another order")
def words_in_another_order(s, rnd):
    for p in s.programs:
        for m in p.moves():
            if m.mode == 1:
                found = re.findall(r"[A-Z][-+]?[\d.]+", COMMENT.sub("", p.lines[m.line]))
                p.lines[m.line] = "".join(reversed(found))
    return True


@kind("long cuts in two pieces")
def cuts_in_pieces(s, rnd):
    for p in s.programs:
        for m in reversed([m for m in p.moves() if m.mode == 1 and m.flat > 20]):
            mid = [(m.a[k] + m.b[k]) / 2 for k in range(3)]
            feed = f"F{number(m.feed)}" if "F" in COMMENT.sub("", p.lines[m.line]) else ""
            p.lines[m.line:m.line + 1] = [f"G1X{number(mid[0])}Y{number(mid[1])}Z{number(mid[2])}{feed}",
                                          f"X{number(m.b[0])}Y{number(m.b[1])}Z{number(m.b[2])}"]
    return True


@kind("arcs as chords within 0.002 mm")
def arcs_as_chords(s, rnd):
    done = False
    for p in s.programs:
        done = done or any(m.mode in (2, 3) for m in p.moves())
        chords(p)
    return done


@kind("higher over the work")
def higher_lifts(s, rnd):
    done = False
    for p in s.programs:
        top = max((m.b[2] for m in p.moves()), default=0)
        for m in p.moves():
            if m.mode == 0 and m.b[2] == top and top > 3 and any(a == "Z" for a, _ in words(p.lines[m.line])):
                p.lines[m.line] = with_word(p.lines[m.line], "Z", m.b[2] + 2)
                done = True
    return done


@kind("a cut in the air over the work")
def air_added(s, rnd):
    for p in s.programs:
        moves = p.moves()
        last = moves[-1]
        if last.mode == 0 and last.b[2] > 3:
            p.lines[last.line + 1:last.line + 1] = [f"G0X{number(last.b[0] - 3)}", f"X{number(last.b[0])}"]
    return True


@kind("a tenth slower")
def slower(s, rnd):
    for p in s.programs:
        for i in body(p):
            for a, v in words(p.lines[i]):
                if a == "F":
                    p.lines[i] = with_word(p.lines[i], "F", v * 0.9)
    return True


@kind("a longer wait for the spindle")
def longer_dwell(s, rnd):
    done = False
    for p in s.programs:
        for i in body(p):
            if p.lines[i].startswith("G4"):
                p.lines[i] = re.sub(r"G4 P[\d.]+", p.dwell(6), p.lines[i])
                done = True
    return done


@kind("the spindle's speed said twice")
def speed_said_twice(s, rnd):
    for p in s.programs:
        for i in body(p):
            if "M3" in p.lines[i]:
                p.lines.insert(i, p.lines[i])
                break
    return True


@kind("the header's words changed")
def header_changed(s, rnd):
    for p in s.programs:
        for i, l in enumerate(p.lines[:8]):
            if l.startswith("(project: "):
                p.lines[i] = "(project: another name)"
    return True


@kind("the same modal words once more")
def modes_said_again(s, rnd):
    for p in s.programs:
        m = p.moves()[len(p.moves()) // 2]
        p.lines.insert(m.line, "G17 G90")
    return True


@kind("a cut moved by a thousandth")
def a_thousandth(s, rnd):
    p = longest(s)
    for m in cutting(p):
        if m.mode == 1 and any(a == "X" for a, _ in words(p.lines[m.line])):
            p.lines[m.line] = with_word(p.lines[m.line], "X", m.b[0] + 0.001)
            return True
    return False


@kind("an optional percent sign before and after")
def percent_signs(s, rnd):
    for p in s.programs:
        p.lines.insert(0, "%")
        p.lines.append("%")
    return True


@kind("two programs of one side that meet nowhere run in another order")
def another_order(s, rnd):
    for k, (p, q) in enumerate(zip(s.programs, s.programs[1:])):
        if p.entry["side"] == q.entry["side"] and p.entry["piece"] == q.entry["piece"] and p.name not in q.entry.get("after", []):
            s.programs[k], s.programs[k + 1] = q, p
            return True
    return False


@kind("files with other names")
def files_renamed(s, rnd):
    names = {p.name: f"{k + 1:03}-{p.entry['side']}.ngc" for k, p in enumerate(s.programs)}
    for p in s.programs:
        p.name = names[p.name]
        for key in ("after", "earlier"):
            p.entry[key] = [names.get(f, f) for f in p.entry.get(key, [])]
    return True


def code_changed(s, pattern, instead):
    for p in s.programs:
        for i in body(p):
            code = COMMENT.sub("", p.lines[i])
            p.lines[i] = re.sub(pattern, instead, code) + p.lines[i][len(code):]
    return True


@kind("G00 for G0")
def leading_zeros(s, rnd):
    return code_changed(s, r"(?<![\d.])([GM])(\d)(?![\d.])", r"\g<1>0\2")


@kind("signs before positive numbers")
def plus_signs(s, rnd):
    return code_changed(s, r"([XYZIJ])(\d)", r"\1+\2")


@kind("as few digits as a number needs")
def fewer_digits(s, rnd):
    return code_changed(s, r"([XYZIJF]-?\d+)\.000(?!\d)", r"\1")


@kind("up to the machine's top between two cuts, and down again over the next")
def high_between(s, rnd):
    p = longest(s)
    moves = p.moves()
    for m, over in list(zip(moves, moves[1:]))[5:-3]:
        if m.mode == over.mode == 0 and m.b[2] == over.b[2] > 3 and over.flat > 1:
            p.lines[over.line + 1:over.line + 1] = [f"Z{number(over.b[2])}"]
            p.lines[m.line + 1:m.line + 1] = ["G53 G0 Z0"]
            return True
    return False


@kind("the spindle a twentieth slower")
def spindle_a_little_slower(s, rnd):
    for p in s.programs:
        for i in body(p):
            p.lines[i] = re.sub(r"^S(\d+)", lambda f: f"S{int(f[1]) * 19 // 20}", p.lines[i])
    return True


@kind("a comment that asks for nothing before a stop")
def comment_before_a_stop(s, rnd):
    done = False
    for p in s.programs:
        for i in [i for i, l in enumerate(p.lines) if l.startswith("M0")][::-1]:
            p.lines.insert(i, "(dust off first, if you like)")
            done = True
    return done


@kind("a hole drilled again by a cycle that says how far it comes back")
def hole_by_a_cycle(s, rnd):
    p = next((p for p in s.programs if "cutters" not in p.entry and p.entry["cutter"]["kind"] == "drill"), None)
    return p is not None and drilled_again(p, rnd.choice(["G98", "G99"]))

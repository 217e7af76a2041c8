"""Harms to what schools add: holes held back until the neck is on, an outline that is cut first, rounded floors, ticks over
the edge, a caul's grooves, a bevelled plate. As in harmful.py, whose table they join."""
from harmful import cutting, deepest, kind, last_outline, set_z, shifted, tab_lines


def of_cut(s, *ends):
    return [p for p in s.programs if cutting(p) and any(c.endswith(e) for c in p.entry["cut"] for e in ends)]


def held_back(s):
    return [p for p in s.programs if p.entry["side"].startswith("bridge") and cutting(p)]


@kind("P3", "held-back holes lie 0.15 mm aside")
def held_back_aside(s, rnd):
    found = held_back(s)
    if not found:
        return False
    shifted(rnd.choice(found), dy=0.15, when=lambda m: m.mode in (0, 1, 2, 3))
    return True


@kind("P3", "held-back holes are 0.5 mm too deep")
def held_back_deep(s, rnd):
    found = held_back(s)
    if not found:
        return False
    p = rnd.choice(found)
    low = deepest(p)
    shifted(p, dz=-0.5, when=lambda m: m.b[2] < low / 2)
    return True


@kind("M8", "drilling held-back holes the cutter runs into the neck")
def held_back_at_neck(s, rnd):
    found = held_back(s)
    if not found:
        return False
    # From the bridge towards the neck, whichever way the body lies: further than any scale's bridge is from its pocket.
    p = found[0]
    to = [m for m in p.moves() if m.b[2] < 0]
    if not to:
        return False
    shifted(p, dx=-190, when=lambda m: True)
    return True


@kind("P2", "an outline that comes first is cut last")
def outline_late(s, rnd):
    p = last_outline(s)
    side = [q for q in s.programs if p and q.entry.get("side") == p.entry.get("side")]
    if p is None or len(side) < 2 or side[0] is p or side[-1] is p or "outline" not in p.entry["cut"]:
        return False
    s.programs.remove(p)
    s.programs.insert(s.programs.index(side[-1]) + 1, p)
    return True


@kind("P3", "a rounded floor is cut 0.15 mm too deep at its edge")
def round_deep(s, rnd):
    found = of_cut(s, "-round")
    if not found:
        return False
    p = found[0]
    low = deepest(p)
    shifted(p, dz=-0.15, when=lambda m: m.b[2] < low + 0.5)
    return True


@kind("P3", "a rounded floor's ball runs 0.15 mm into the wall")
def round_aside(s, rnd):
    found = of_cut(s, "-round")
    if not found:
        return False
    shifted(found[0], dx=0.15)
    return True


@kind("P3", "ticks over the edge are 0.15 mm too deep")
def ticks_deep(s, rnd):
    found = of_cut(s, "ticks")
    if not found:
        return False
    p = found[0]
    low = deepest(p)
    shifted(p, dz=-0.15, when=lambda m: m.b[2] < low + 1.5)
    return True


@kind("P3", "a caul's grooves are 0.4 mm too shallow")
def grooves_shallow(s, rnd):
    found = of_cut(s, "caul-grooves")
    if not found:
        return False
    shifted(found[0], dz=0.4, when=lambda m: m.b[2] < 0)
    return True


@kind("P3", "a plate's bevel is 0.15 mm too deep")
def bevel_deep(s, rnd):
    found = of_cut(s, "bevel")
    if not found:
        return False
    shifted(found[0], dz=-0.15, when=lambda m: m.b[2] < 0)
    return True


@kind("M10", "the tabs of an outline that comes first are cut through")
def first_tabs_through(s, rnd):
    p = last_outline(s)
    side = [q for q in s.programs if p and q.entry.get("side") == p.entry.get("side")]
    if p is None or not side or side[-1] is p:
        return False
    runs = tab_lines(p)
    if not runs:
        return False
    for run in runs:
        set_z(p, run, deepest(p))
    return True

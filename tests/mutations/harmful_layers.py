"""Harms to layers that are worked while they are thin: the glued body counts on what their programs left. As in harmful.py,
whose table they join."""
from harmful import cutting, kind, set_z, shifted, tab_lines


def of_layers(s, under):
    return [p for p in s.programs if p.entry["side"].startswith("layer-") and p.entry["side"].endswith("-under") == under and cutting(p)]


@kind("M10", "the tabs of a window's plug are cut through")
def plug_free(s, rnd):
    for p in of_layers(s, False):
        tabs = tab_lines(p)
        if len(tabs) >= 2 and not any(c.startswith(("pins", "chamber", "wire")) for c in p.entry["cut"]):  # those go through nothing
            deep = min(m.b[2] for m in p.moves())
            for run in tabs:
                set_z(p, run, deep)
            return True
    return False


@kind("P3", "a layer is cut from below 0.4 mm too shallow")
def layer_shallow(s, rnd):
    found = of_layers(s, True)
    if not found:
        return False
    shifted(rnd.choice(found), dz=0.4)
    return True


@kind("P3", "a layer is cut from below 0.4 mm too deep")
def layer_deep(s, rnd):
    found = of_layers(s, True)
    if not found:
        return False
    shifted(rnd.choice(found), dz=-0.4)
    return True


@kind("P3", "a window round its plug lies 0.3 mm aside")
def window_aside(s, rnd):
    for p in of_layers(s, False):
        if "control" in p.entry["cut"] and len(tab_lines(p)) >= 2:
            shifted(p, dx=0.3)
            return True
    return False

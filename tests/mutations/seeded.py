#!/usr/bin/env python3
"""Faults seeded into the proof's own source: a comparison turned, a solid skipped, a limit doubled. Each has to be caught
by the proof's tests (proof_tests), which know no planner.

usage: seeded.py SOURCE              only whether every fault still fits the source (for every run of the tests)
       seeded.py SOURCE --run [-j N] builds and tests each in a tree of its own, about half a minute each
"""
import argparse
import pathlib
import shutil
import subprocess
import sys
import tempfile
import time

# (what, file in src/core, text, spoiled text)
FAULTS = [
    ("rapids look for wood on the wrong side", "proof/proof.cpp", "    if (into.by > 0.02)\n      tell(\"M2\"", "    if (into.by < 0.02)\n      tell(\"M2\""),
    ("the waste board lies far below every rapid", "proof/proof.cpp", "over < room - 0.002)", "over < -room)"),
    ("what is left beside a tab is forgiven at any height", "proof/piece.cpp", "return z < t.top + over && distance(", "return z < 1e9 + over && distance("),
    ("splinters may come off", "proof/frame.hpp", "offcut_area = 30;", "offcut_area = 80;"),
    ("nobody asks what a program has to wait for", "job/folder.cpp", "if (listed && (first.entry == then.entry || asked.asks(first.entry, then.entry))) continue;", "if (listed || asked.asks(first.entry, then.entry)) continue;"),
    ("sides may be told to run in any order", "job/folder.cpp", "from == nullptr || asked.asks(first, then)) continue;", "from == nullptr || piece == from || asked.asks(first, then)) continue;"),
    ("what a manifest says of stock and register is not read", "job/folder.cpp", "if (same_json(there, here) || told(kind)) continue;", "if (key != nullptr || told(kind)) continue;"),
    ("one program more does no harm", "job/folder.cpp", "!fresh && it->second != e.file) {", "!fresh && it->second == e.file) {"),
    ("a program works where it says", "job/cut_places.cpp", "if (way[k] > counts)", "if (way[k] > 1e9)"),
    ("homed and then probed is homed", "job/hand_words.cpp", "own.find(\"probe z\", home) == std::string::npos", "home < own.size()"),
    ("rapids keep half their room", "proof/proof.cpp", "constexpr double rapid_room = 2; ", "constexpr double rapid_room = 1; "),
    ("clamps need half their room", "proof/proof.cpp", "constexpr double side_room = 2; ", "constexpr double side_room = 1; "),
    ("no room over clamps", "proof/proof.cpp", "constexpr double room_above = 1; ", "constexpr double room_above = 0; "),
    ("ramps may be twice as steep", "proof/proof.cpp", "constexpr double steepest_centre = 15; ", "constexpr double steepest_centre = 30; "),
    ("cutters without a centre go down like others", "proof/proof.cpp", "constexpr double steepest_flat = 3.5; ", "constexpr double steepest_flat = 15; "),
    ("plunges of half a diameter", "proof/proof.cpp", "constexpr double plunge_share = 0.25; ", "constexpr double plunge_share = 0.5; "),
    ("what comes down aslant is asked where it passes a wall", "proof/walls.cpp", "const double foot = std::clamp(beside, t0, t1);", "const double foot = std::clamp(beside, 0.0, 1.0);\n  if (m.a.z + rise * foot > z) return {};"),
    ("a ball falls as a flat cutter does", "proof/walls.cpp", "  if (upright) return out;", "  if (upright || rise != 0) return out;"),
    ("rapids dent no wall", "proof/walls.cpp", "std::min(least, m.gap(w, true))", "std::min(least, m.gap(w, false))"),
    ("rapids cut a wall", "proof/walls.cpp", "gap = std::min(gap, m.gap(wall, false));", "gap = std::min(gap, m.gap(wall, true));"),
    ("one lane makes a slot wide all along", "proof/slots.cpp", "slot.width - narrowest > tol.slot_width)", "slot.width - narrowest > 9)"),
    ("a lane counts at any depth", "proof/slots.cpp", "- tilt > floor_at(k) + tol.slot_depth) continue;", "- tilt > 1e9) continue;"),
    ("a ball beside a wall plunges", "proof/strokes.cpp", "plunge_of(c, deep));", "plunge_of(c, most));"),
    ("thin plates have no walls", "proof/walls.cpp", "std::min(thin_wall, thin_share * request", "std::max(thin_wall, thin_share * request"),
    ("a cycle comes back as far as it likes", "proof/text_rules.cpp", "p_.cycle_line != 0 ? modal_group(10) : 0", "p_.cycle_line != 0 ? 0 : 0"),
    ("a tab may be severed beside the piece", "proof/solid.cpp", "if (!ring(outside, 0.5, 0.5)) break;", "break;"),
    ("semicolons hide what they like", "proof/rehearsal.cpp", "if (k >= one.size() || !is_words(one.substr(k + 1))) continue;", "if (k < 9999 || !is_words(one.substr(k + 1))) continue;"),
    ("a hop ends a stair", "proof/proof.cpp", "(p.b.z > p.a.z && p.b.z > descent_from_ - 0.05)", "p.b.z > p.a.z + 0.05"),
    ("stairs are no slope", "proof/proof.cpp", "if (!descending_ || since_ > c.effective_diameter())", "if (true || !descending_ || since_ > c.effective_diameter())"),
    ("drills may go eight diameters", "proof/proof.cpp", "std::min(wood, drop) > 4 * c.effective_diameter() + 0.01)", "std::min(wood, drop) > 8 * c.effective_diameter() + 0.01)"),
    ("plunges at the full chip", "proof/proof.cpp", "0.5 * chip_load(c.effective_diameter(), request_.material) * 1.05", "1.5 * chip_load(c.effective_diameter(), request_.material) * 1.05"),
    ("the shank is skipped beside clamps", "proof/proof.cpp", "else if (hits(c.shank() / 2, c.cutting_length))", "else if (false && hits(c.shank() / 2, c.cutting_length))"),
    ("the collet nut is skipped beside clamps", "proof/proof.cpp", "else if (hits(c.nut_diameter / 2, c.stickout))", "else if (false && hits(c.nut_diameter / 2, c.stickout))"),
    ("the spindle nose is skipped beside clamps", "proof/proof.cpp", "else if (hits(m.nose_diameter / 2,", "else if (false && hits(m.nose_diameter / 2,"),
    ("the dust shoe is skipped beside clamps", "proof/proof.cpp", "else if (m.shoe_diameter > 0 && hits(", "else if (m.shoe_diameter > 900 && hits("),
    ("the collet nut is skipped in wood", "proof/proof.cpp", "body(c.stickout, c.nut_diameter / 2, 0, \"holder_in_wood\"", "if (false) body(c.stickout, c.nut_diameter / 2, 0, \"holder_in_wood\""),
    ("the shank is as thin as the flutes", "proof/proof.cpp", "if (c.shank() > c.effective_diameter() - 0.1)", "if (c.shank() > c.effective_diameter() + 9)"),
    ("any hole in the waste board lets everything down", "proof/proof.cpp", "            hole.radius + 0.02)", "            hole.radius + 0.5)"),
    ("drills may go sideways", "proof/proof.cpp", "c.kind == CutterKind::drill && run > 0.02", "c.kind == CutterKind::drill && run > 20"),
    ("a still spindle is not looked at", "proof/proof.cpp", "if (!p.spindle)", "if (!p.spindle && p.rapid)"),
    ("teeth bear three times as much", "proof/strokes.cpp", "const double most = 1.5 * chip_load(", "const double most = 4.5 * chip_load("),
    ("pieces take no chips", "proof/strokes.cpp", "  if (taken_ > 0.01) {", "  if (removed.volume_mm3 > 0.01) {"),
    ("a cutter may peck without coming out", "proof/strokes.cpp", "c.centre_cutting && p.b.z > sank_->mouth - 0.05) {", "c.centre_cutting && p.b.z > p.a.z) {"),
    ("travels end 20 mm later", "proof/proof.cpp", "if (v >= low - 1e-6 && v <= high + 1e-6) return;", "if (v >= low - 20 && v <= high + 20) return;"),
    ("passes of a whole diameter", "proof/strokes.cpp", "d < 1 ? 0.5 : 0.75", "d < 1 ? 0.5 : 1.0"),
    ("short pieces are no pass", "proof/strokes.cpp", "  if (pass_.run < (pass_.deepest > far_too_deep * deepest_full ? judged_over / 2 : judged_over)) return;", "  if (l < judged_over) return;"),
    ("long ways are one piece", "proof/strokes.cpp", "if (run * sample >= judged_over / 2) return whole;", "if (run * sample >= 900 * judged_over) return whole;"),
    ("a ball is as wide as a flat cutter", "proof/strokes.cpp", "std::max(0.0, deep - c.profile((k + 0.5) * step));", "deep;"),
    ("what slants is no pass", "proof/strokes.cpp", "(p.b.z > p.a.z ? 0.1 : 0.8)", "(p.b.z > p.a.z ? 0.1 : 0.9999)"),
    ("wagging is a ramp", "proof/strokes.cpp", "constexpr double one_place = 0.1; ", "constexpr double one_place = 0.01; "),
    ("a drill may stay in its hole", "proof/strokes.cpp", "if (hole_ && p.b.z > hole_->z - d) since_out_ = 0;", "since_out_ = 0;"),
    ("pieces of a peck are pecks", "proof/strokes.cpp", "  since_out_ += removed.deepest;", "  since_out_ = removed.deepest;"),
    ("drills may creep", "proof/strokes.cpp", "constexpr double least_creeping = 0.02; ", "constexpr double least_creeping = 0.002; "),
    ("rims may run as fast as they like", "proof/strokes.cpp", "constexpr double fastest_rim = 40; ", "constexpr double fastest_rim = 400; "),
    ("the spindle may stop in the wood", "proof/proof.cpp", "if (p.spindle || p.a.z > -0.05 ||", "if (p.spindle || p.a.z > -50 ||"),
    ("programs may do nothing", "proof/proof.cpp", "if (!worked_.contains(where.program))", "if (worked_.empty())"),
    ("what passes between cells ends a pass", "proof/strokes.cpp", "if (p.rapid || idle_ > 2 * cell_ + 0.1)", "if (p.rapid || idle_ > 0)"),
    ("flutes end nowhere", "proof/proof.cpp", "if (removed.deepest > c.cutting_length + 0.05", "if (removed.deepest > 9 * c.cutting_length + 0.05"),
    ("the waste board is always whole", "proof/proof.cpp", "if (on_board) gone = std::max(gone, board_gone_);", "if (!on_board) gone = std::max(gone, board_gone_);"),
    ("tabs may lead to nothing", "proof/frame.cpp", "constexpr double holds = 500; ", "constexpr double holds = 0; "),
    ("a skin holds a piece of the blank", "proof/frame.cpp", "constexpr double skin_share = 0.35; ", "constexpr double skin_share = 0.01; "),
    ("what is probed may be gone", "proof/proof.cpp", "} else if (gone > probe_flat) {", "} else if (gone > 50) {"),
    ("pins need no hand", "proof/proof.cpp", "if (boring_ && request_.setup.blank.thickness > 0) pins_to_set_ = true;", "if (boring_ && request_.setup.blank.thickness > 0) pins_to_set_ = false;"),
    ("half a probe's foot may hang over", "proof/probe.cpp", "distance(stock.centre(i, j), at) <= probe_radius)", "distance(stock.centre(i, j), at) <= 0.2)"),
    ("a probe goes beyond the machine", "proof/probe.cpp", "if (x < 0 || y < 0 ||", "if (x < -999 || y < -999 ||"),
    ("walls cut into the part are not told", "proof/walls.cpp", "  if (-inside.gap > request.tolerances.plan)", "  if (-inside.gap > 9)"),
    ("walls left proud are not told", "proof/walls.cpp", "  if (outside.gap > request.tolerances.plan && !kink && result.free)", "  if (outside.gap > 9 && !kink && result.free)"),
    ("cavities may be too wide", "proof/walls.cpp", "    if (-worst.in.gap > request.tolerances.plan)", "    if (-worst.in.gap > 9)"),
    ("cavities may be too tight", "proof/walls.cpp", "    if (worst.out.gap > request.tolerances.plan)", "    if (worst.out.gap > 99999)"),
    ("only the far half of walls is looked at", "proof/walls.cpp", "if (std::abs(gap) > std::abs(w.gap)) w =", "if (std::abs(gap) < std::abs(w.gap)) w ="),
    ("gouges are measured upside down", "proof/piece.cpp", "if (-error > band.gouge.error)", "if (error > band.gouge.error)"),
    ("what is left near tabs is forgiven", "proof/piece.cpp", "constexpr double tab_foot = 3.3;", "constexpr double tab_foot = 99.0;"),
    ("floors may be twice as far off", "proof/piece.cpp", "if (band.left.error > request.tolerances.left_over)", "if (band.left.error > 2 * request.tolerances.left_over)"),
    ("missing tabs are forgiven", "proof/solid.cpp", "      tell(\"tab_missing\"", "      if (false) tell(\"tab_missing\""),
    ("tabs may be a millimetre thinner", "proof/solid.cpp", "constexpr double thinner = 0.15;", "constexpr double thinner = 1.15;"),
    ("notches are not seen", "proof/solid.cpp", "|| notch > thinner)", "|| notch > 9)"),
    ("loose offcuts are forgiven", "proof/frame.cpp", "if (all.size() <= wanted) return false;", "if (all.size() <= wanted + 3) return false;"),
    ("thin bridges hold", "proof/frame.cpp", "constexpr double hangs = 400; ", "constexpr double hangs = 40000; "),
    ("what comes off on the way is forgiven", "proof/frame.cpp", "if (all.size() <= apart_) return {};", "if (all.size() <= apart_ + 3) return {};"),
    ("walls begin under their rim", "proof/walls.cpp", "turned_z(turn, z - at_rim)}", "turned_z(turn, z - 2 * dent)}"),
    ("whatever stands beside the wall is a tab", "proof/piece.cpp", "return beside_a_tab(tabs, p, slope) && ", "return (beside_a_tab(tabs, p, slope) || true) && "),
    ("tabs are thin where nobody looks", "proof/solid.cpp", "if (held >= along * tab.length) continue;", "if (held >= 0 * along) continue;"),
    ("inner corners stay as they are left", "proof/walls.cpp", "left_too && corner > 0.004) left(", "left_too && corner > 1e9) left("),
    ("what rises is no pass", "proof/strokes.cpp", "(p.b.z > p.a.z ? 0.1 : 0.8)", "0.8"),
    ("clamps hold over hollows", "proof/turned.cpp", "if (lies * 2 >= lay) continue;", "if (lies * 2 >= -lay) continue;"),
    ("a slope is a hole", "proof/proof.cpp", "return stand > ways / 2 + 1;", "return stand > 0;"),
    ("slots hide the wall beside them", "proof/walls.cpp", "s.width / 2 + rim_edge)", "s.width / 2 + 0.6)"),
    ("every way down of a drill is into its hole", "proof/proof.cpp", "&& in_a_hole(stock, p.b, c.radius());", "&& c.radius() > 0;"),
    ("a stop may say more", "job/hand_words.cpp", "!more.empty() && !told", "more.size() > 999 && !told"),
    ("behind a stop anything may be said", "program/reader.cpp", "program_.pauses.back().says += said_after_;", "program_.pauses.back().says += {};"),
    ("corners may be cut into", "proof/walls.cpp", "      const double to_edge = bounded ?", "      if (!left_too) return;\n      const double to_edge = bounded ?"),
    ("every floor too deep is a wall that is gone", "proof/walls.cpp", "    return here < -dent ? gap(under) : here;", "    return here;"),
    ("thin cutters come between the places", "proof/walls.cpp", "std::ceil(l / step * finer)", "std::ceil(l / step)"),
    ("pins need not fit where they come out", "proof/turned.cpp", "        near.push_back(m);\n    const auto open", "        (void)m;\n    const auto open"),
    ("pins may be too wide", "proof/turned.cpp", "    if (tight.count > 0)", "    if (tight.count > 99)"),
    ("an outline from the back may end over its foot", "proof/walls.cpp", "k < (turns ? heights.size() : heights.size() - 1)", "k < heights.size() - 1"),
    ("two sides may miss each other", "proof/walls.cpp", "    if (!turns) return;", "    return;"),
    ("walls end over their foot", "proof/walls.cpp", "constexpr double at_foot = 0.2; ", "constexpr double at_foot = 3.0; "),
    ("short waits are none", "proof/rehearsal.cpp", "constexpr double together = 3; ", "constexpr double together = 300; "),
    ("pins may rock", "proof/turned.cpp", "if (off > c.radius()) return 1e300;", "if (off > 0) return 1e300;"),
    ("pins need not go in", "proof/turned.cpp", "if (amount <= limit) return;", "if (amount <= limit + 9) return;"),
    ("pins end low", "proof/turned.cpp", "second_.bed_z() + second_.blank.thickness / 2}};", "second_.bed_z() + second_.blank.thickness / 9}};"),
    ("pins are never set", "proof/proof.cpp", "      if (pins_to_set_) set_pins();", "      if (pins_to_set_ && pins_.size() > 9) set_pins();"),
    ("a turned blank may rock", "proof/turned.cpp", "constexpr double hull_share = 0.25; ", "constexpr double hull_share = 0.0; "),
    ("a turned blank may sink", "proof/turned.cpp", "constexpr double settles = 0.25; ", "constexpr double settles = 25.0; "),
    ("a probe stands on nothing", "proof/turned.cpp", "constexpr double probe_wood = 2; ", "constexpr double probe_wood = -99; "),
    ("the first side spares the waste board", "proof/turned.cpp", "if (gone > probe_flat)", "if (gone > 9 * probe_flat)"),
    ("an end of the fence is enough", "proof/turned.cpp", "held = touching * 2 >= parts && near_a && near_b;", "held = near_a || near_b;"),
    ("ticks are not looked for", "proof/turned.cpp", "held = held && whole(at(0.5 + off / l));", "held = held || whole(at(0.5 + off / l));"),
    ("errors are half of what the set-up states", "proof/under_error.cpp", "worst ? m.probe_error + m.thickness_error", "worst ? 0.5 * (m.probe_error + m.thickness_error)"),
    ("the turned side is off one way only", "proof/under_error.cpp", "    for (const double sx : {-1.0, 1.0})", "    for (const double sx : {1.0})"),
    ("the end of a blind slot may be of any depth", "proof/piece.cpp", " && z > s.floor(p) - tolerances_.gouge;", " && z > s.floor(p) - 99;"),
    ("cutters cut as wide as they are called", "proof/under_error.cpp", "constexpr double wider_nominal = 0.05;", "constexpr double wider_nominal = 0.02;"),
    ("a wall stays though the turned side lies aside", "proof/under_error.cpp", "earlier_wall_ - aside", "earlier_wall_"),
    ("a zero that is off hits nothing", "proof/under_error.cpp", "radius, box, xy, z);", "radius, box, 0, z);"),
    ("tabs cut through by errors are forgiven", "proof/under_error.cpp", "constexpr double tab_share = 0.35;", "constexpr double tab_share = 0.0;\nconstexpr double never_used [[maybe_unused]] = 0;"),
]


def fits(source):
    wrong = []
    for what, file, text, _ in FAULTS:
        n = (source / "src" / "core" / file).read_text().count(text)
        if n != 1:
            wrong.append(f"'{what}': its text stands {n} times in {file}")
    return wrong


def main():
    ask = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    ask.add_argument("source", type=pathlib.Path)
    ask.add_argument("--run", action="store_true")
    ask.add_argument("--only", default="", help="faults whose name holds this")
    a = ask.parse_args()
    wrong = fits(a.source)
    for w in wrong:
        print(w)
    if wrong or not a.run:
        print(f"{len(FAULTS)} faults, {len(wrong)} do not fit the source")
        return 1 if wrong else 0
    begun = time.time()
    root = pathlib.Path(tempfile.mkdtemp(prefix="wren-seeded-")) / "main"
    shutil.copytree(a.source, root, ignore=shutil.ignore_patterns("build", ".git"))
    build = root / "build" / "release"
    quiet = dict(stdout=subprocess.DEVNULL, stderr=subprocess.STDOUT)
    subprocess.run(["cmake", "--preset", "release"], cwd=root, check=True, **quiet)

    def tested():
        if subprocess.run(["ninja", "-C", build, "proof_tests"], **quiet).returncode:
            return "does not build"
        try:
            done = subprocess.run([build / "bin" / "proof_tests"], timeout=120, **quiet)
        except subprocess.TimeoutExpired:
            return "caught"
        return "caught" if done.returncode else "NOT CAUGHT"

    if tested() != "NOT CAUGHT":
        print("the proof's tests do not pass as they are")
        return 1
    missed = 0
    for what, file, text, spoiled in FAULTS:
        if a.only not in what:
            continue
        path = root / "src" / "core" / file
        good = path.read_text()
        path.write_text(good.replace(text, spoiled))
        outcome = tested()
        path.write_text(good)
        missed += outcome != "caught"
        print(f"{outcome:12} {file:24} {what}", flush=True)
    shutil.rmtree(root.parent)
    print(f"{len(FAULTS)} faults, {missed} missed, {time.time() - begun:.0f} s")
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main())

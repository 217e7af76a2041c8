// What a program's text alone shows (rules M3 to M6): every breach by a program written by hand, the good one by
// itself.
#include <catch2/catch.hpp>

#include <fmt/format.h>

#include "core/proof/text_rules.hpp"

using namespace wren;
using Catch::Matchers::Contains;

namespace {

/// A good program in its parts, each of which can be spoiled.
struct Text {
  std::string modes = "G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G61\n";
  std::string up = "G53 G0 Z0\n";
  std::string tool = "T5 M6\nG53 G0 Z0\n";
  std::string spin = "S18000 M3\n";
  std::string wait = "G4 P3\n";
  std::string over = "G0 X10 Y20\n";
  std::string down = "Z2\n";
  std::string cut = "G1 Z-1 F500\nX40 F1200\n";
  std::string home = "G53 G0 Z0\n";
  std::string still = "M5\n";
  std::string park = "G53 G0 X350 Y990\n";
  std::string end = "M30\n";
  [[nodiscard]] std::string all() const {
    return modes + up + tool + spin + wait + over + down + cut + home + still + park + end;
  }
};

Vec3 origin(int tool) { return {-200, -300, tool == 5 ? 74.0 : tool == 4 ? 84.0 : 104.0}; }

std::vector<Finding> findings(const std::string& text, const Machine& machine = {}) {
  ReadOptions options;
  options.machine_origin = origin;
  options.start = {150, 690, 104};
  const auto program = read_program(text, "hand.ngc", options);
  INFO((program ? "" : program.error().text()));
  REQUIRE(program);
  return text_findings(*program, "hand.ngc", machine, origin);
}
std::vector<std::string> kinds(const std::string& text, const Machine& machine = {}) {
  std::vector<std::string> out;
  for (const Finding& f : findings(text, machine)) out.push_back(f.kind);
  return out;
}
bool only(const std::string& text, const std::string& kind, const Machine& machine = {}) {
  const auto all = kinds(text, machine);
  for (const auto& k : all) UNSCOPED_INFO(k);
  return all == std::vector<std::string>{kind};
}

}  // namespace

TEST_CASE("every modal group is stated before the first motion") {
  const std::string all = Text{}.modes;
  for (const char* word : {"G21", "G17", "G90", "G94", "G54", "G40", "G49", "G80"}) {
    CAPTURE(word);
    Text text;
    text.modes.erase(all.find(word), std::string(word).size());
    const auto said = findings(text.all());
    REQUIRE(said.size() == 1);
    CHECK(said[0].kind == "modes_unsaid");
    CHECK(said[0].rule == "M6");
    CHECK_THAT(said[0].text, Contains(std::string("G") + (word[1] == '2' ? "20" : word + 1)));
    // Said after the machine has moved it is too late.
    Text late;
    late.modes = text.modes;
    late.tool = std::string(word) + "\n" + late.tool;
    CHECK(kinds(late.all()) == std::vector<std::string>{"modes_unsaid"});
  }
  // Centres of arcs only where there are arcs.
  Text plain;
  plain.modes.erase(all.find("G91.1"), 6);
  CHECK(kinds(plain.all()).empty());
  plain.cut = "G1 Z-1 F500\nG2 X40 Y20 I15 J0 F3000\n";
  CHECK(kinds(plain.all()) == std::vector<std::string>{"modes_unsaid"});
}

TEST_CASE("a good program breaks no rule of the text") {
  CHECK(kinds(Text{}.all()).empty());
  Text arcs;
  arcs.cut = "G1 Z-1 F500\nG2 X40 Y20 I15 J0 F3000\n";
  CHECK(kinds(arcs.all()).empty());
}

TEST_CASE("M3: the first motion is a retract in machine coordinates, and over comes before down") {
  Text t;
  t.up = "";
  CHECK(only(t.all(), "first_motion"));
  t.up = "G0 Z10\n";
  const auto low = kinds(t.all());
  CHECK(std::find(low.begin(), low.end(), "first_motion") != low.end());
  t.up = "G53 G0 Z-20\n";  // not the top
  CHECK(only(t.all(), "first_motion"));
  t.up = "G53 G0 X0 Y0 Z0\n";  // over at a height that nobody knows
  CHECK(only(t.all(), "first_motion"));
  Text slanted;
  slanted.over = "";
  slanted.down = "G0 X10 Y20 Z2\n";
  CHECK(only(slanted.all(), "first_motion"));
  Text nowhere;
  nowhere.over = "G0 X10\n";  // y is never said
  CHECK(only(nowhere.all(), "first_motion"));
}

TEST_CASE("M3: it ends up, still and parked") {
  Text t;
  t.home = "G0 Z10\n";
  CHECK(only(t.all(), "not_parked"));
  Text elsewhere;
  elsewhere.park = "G53 G0 X10 Y10\n";
  CHECK(only(elsewhere.all(), "not_parked"));
  Text turning;
  turning.still = "";
  CHECK(only(turning.all(), "ends_turning"));
  Text cut_off;
  cut_off.end = "";
  CHECK(only(cut_off.all(), "no_end"));
}

TEST_CASE("M3: without G53 it ends and stops up out of the work all the same") {
  Machine plain;
  plain.controller.machine_moves = false;
  const auto ends = [&](const std::string& last) {
    Text t;
    t.up = "M0 (home the machine first: z at its top)\n";
    t.tool = "T5 M6\n";
    t.home = last;
    t.park.clear();
    return kinds(t.all(), plain);
  };
  CHECK(ends("G0 Z10\n").empty());
  CHECK(ends("G0 Z2\n").empty());
  CHECK(ends("G0 Z1.5\n") == std::vector<std::string>{"not_parked"});
  CHECK(ends("") == std::vector<std::string>{"not_parked"});
  // What a hand has homed comes from its top, over a place that has to be said anew.
  const auto homed = [&](const std::string& next) {
    return ends(
        "G0 Z10\nM5\nM0 (change to drill, stickout 20 mm, probe z)\nT4 M6\nM0 (home the machine first: z at its "
        "top)\nS18000 M3\nG4 P3\n" +
        next + "G1 Z-1 F100\nG0 Z10\n");
  };
  CHECK(homed("G0 X10 Y20\nZ2\n").empty());
  CHECK(homed("G0 Z2\nX10 Y20\n") == std::vector<std::string>{"first_motion"});
  CHECK(homed("G0 X12\nZ2\n") == std::vector<std::string>{"first_motion"});
  const auto stops = [&](const std::string& before) {
    return ends(before + "M5\nM0 (take the plug out)\nS18000 M3\nG4 P3\nG0 Z10\n");
  };
  CHECK(stops("G0 Z10\n").empty());
  CHECK(stops("G0 Z0.5\n") == std::vector<std::string>{"not_parked"});
}

TEST_CASE("M3: up first, then over at that height, and there it stays") {
  Text over_first;
  over_first.home = "G53 G0 X350 Y990\n";
  over_first.park = "G53 G0 Z0\n";
  CHECK(only(over_first.all(), "not_parked"));
  Text in_one;
  in_one.home = "";
  in_one.park = "G53 G0 X350 Y990 Z0\n";
  CHECK(only(in_one.all(), "not_parked"));
  Text low;  // up, but not to the machine's top
  low.home = "G53 G0 Z-30\n";
  low.park = "G53 G0 X350 Y990\nG53 G0 Z0\n";
  CHECK(only(low.all(), "not_parked"));
  for (const char* on : {"G53 G0 X0 Y0\n", "G53 G0 Z-40\n", "G53 G0 X350 Y980\n", "G0 X0 Y0\n"}) {
    CAPTURE(on);
    Text goes_on;
    goes_on.park += on;
    CHECK(only(goes_on.all(), "not_parked"));
  }
  // What stays there may be said again, and the way may have a corner.
  Text twice;
  twice.home = "G53 G0 Z0\nG53 G0 Z0\n";
  twice.park = "G53 G0 X10 Y990\nG53 G0 X350 Y990\nG53 G0 Z0\n";
  CHECK(kinds(twice.all()).empty());
}

TEST_CASE("M3: after every stop and change of cutter it goes up first: a hand has moved the machine") {
  Text first;
  first.tool = "T5 M6\n";
  CHECK(only(first.all(), "first_motion"));
  Text before;
  before.up = "";
  CHECK(only(before.all(), "first_motion"));
  const std::string parked = "G53 G0 Z0\nM5\nG53 G0 X350 Y990\n";
  const std::string spin = "S18000 M3\nG4 P3\n";
  const std::string on = "G0 X5 Y5\nZ2\nG1 Z-0.5 F300\n";
  for (const char* stop : {"M0 (fill the marks)\n", "M1 (look)\n", "M0 (change)\nT4 M6\n"}) {
    CAPTURE(stop);
    Text good;
    good.cut += parked + stop + "G53 G0 Z0\n" + spin + on;
    CHECK(kinds(good.all()).empty());
    Text later;  // the spindle may turn before it goes up, but nothing moves
    later.cut += parked + stop + spin + "G53 G0 Z0\n" + on;
    CHECK(kinds(later.all()).empty());
    for (const char* instead :
         {"", "G0 Z50\n", "G53 G0 X0 Y0\n", "G53 G0 Z-50\n", "G53 G1 Z0 F900\n", "G53 G0 X5 Z0\n"}) {
      CAPTURE(instead);
      Text bad;
      bad.cut += parked + stop + instead + spin + on;
      CHECK(only(bad.all(), "first_motion"));
    }
  }
  // Nothing follows the last stop.
  Text last;
  last.end = "M0 (done)\nM30\n";
  CHECK(kinds(last.all()).empty());
}

TEST_CASE("M3: a stop that a switch decides is a stop, and none that may be counted on") {
  Text in_wood;
  in_wood.cut = "G1 Z-1 F500\nM1\nX40 F1200\n";
  const auto all = kinds(in_wood.all());
  CHECK(all == std::vector<std::string>{"first_motion", "not_parked", "stop_turning"});
  const std::string parked = "G53 G0 Z0\nM5\nG53 G0 X350 Y990\n";
  const std::string again = "G53 G0 Z0\nS18000 M3\nG4 P3\nG0 X5 Y5\nZ2\nG1 Z-0.5 F300\n";
  Text look;
  look.cut += parked + "M1 (look at it)\n" + again;
  CHECK(kinds(look.all()).empty());
  // A change of cutter by hand needs one that stops.
  Text change;
  change.cut += parked + "M1 (change)\nT4 M6\nG53 G0 Z0\n" + again;
  CHECK(only(change.all(), "change_without_stop"));
  Machine plain;
  plain.controller.machine_moves = false;
  Text homed;
  homed.up = "M1 (home the machine first)\n";
  homed.tool = "T5 M6\n";
  homed.home = "G0 Z10\n";
  homed.park = "";
  CHECK(only(homed.all(), "first_motion", plain));
}

TEST_CASE("M4: a hand changes cutters at a standing, parked spindle; a magazine calls their lengths") {
  const std::string change =
      "G53 G0 Z0\nM5\nG53 G0 X350 Y990\nM0 (change)\nT4 M6\nG53 G0 Z0\nS18000 M3\nG4 P3\nG0 X5 Y5\nZ2\nG1 Z-0.5 F300\n";
  Text t;
  t.cut += change;
  CHECK(kinds(t.all()).empty());
  Text no_stop;
  no_stop.cut += "G53 G0 Z0\nM5\nG53 G0 X350 Y990\nT4 M6\nG53 G0 Z0\nS18000 M3\nG4 P3\nG0 X5 Y5\nZ2\nG1 Z-0.5 F300\n";
  CHECK(only(no_stop.all(), "change_without_stop"));
  Text not_parked;
  not_parked.cut += "G0 Z10\nM5\nM0\nT4 M6\nG53 G0 Z0\nS18000 M3\nG4 P3\nG0 X5 Y5\nZ2\nG1 Z-0.5 F300\n";
  CHECK(only(not_parked.all(), "not_parked"));
  Text turning;
  turning.cut +=
      "G53 G0 Z0\nG53 G0 X350 Y990\nM0\nM5\nT4 M6\nG53 G0 Z0\nS18000 M3\nG4 P3\nG0 X5 Y5\nZ2\nG1 Z-0.5 F300\n";
  CHECK(only(turning.all(), "stop_turning"));

  // One that comes in and does nothing: at the beginning, between two others; the one in use once more is none.
  Text vain;
  vain.tool = "T6 M6\nG53 G0 Z0\nT5 M6\nG53 G0 Z0\n";
  CHECK(only(vain.all(), "change_in_vain"));
  Text between;
  between.cut += change;
  between.cut.replace(between.cut.find("T4 M6"), 5, "T6 M6\nT4 M6");
  const auto found = kinds(between.all());
  CHECK(std::find(found.begin(), found.end(), "change_in_vain") != found.end());

  Machine magazine;
  magazine.change = CutterChange::magazine;
  Text lengths;
  lengths.tool = "T5 M6\nG53 G0 Z0\nG43 H5\n";
  lengths.cut +=
      "G53 G0 Z0\nM5\nG53 G0 X350 Y990\nT4 M6\nG53 G0 Z0\nG43 H4\nS18000 M3\nG4 P3\nG0 X5 Y5\nZ2\nG1 Z-0.5 F300\n";
  CHECK(kinds(lengths.all(), magazine).empty());
  Text one_length = lengths;
  one_length.cut.replace(one_length.cut.find("G43 H4"), 6, "G43 H5");
  CHECK(only(one_length.all(), "tool_length", magazine));
}

TEST_CASE("M5: no axis faster than it may go, on lines and arcs, and the spindle in its range") {
  const auto cut = [](const std::string& moves) {
    Text t;
    t.cut = moves;
    return t.all();
  };
  CHECK(kinds(cut("G1 Z-1 F1500\nX40 F3000\n")).empty());
  CHECK(only(cut("G1 Z-1 F1600\n"), "axis_fast"));
  CHECK(only(cut("G1 Z-1 F500\nX11 Z-3 F2000\n"), "axis_fast"));                 // a steep ramp
  CHECK(kinds(cut("G1 Z-1 F500\nX40 Z-3 F3000\n")).empty());                     // a gentle one
  CHECK(only(cut("G1 Z-1 F500\nG3 X10 Y20 Z-5 I0.5 J0 F3000\n"), "axis_fast"));  // a tight helix
  CHECK(kinds(cut("G1 Z-1 F500\nG3 X10 Y20 Z-1.2 I0.5 J0 F3000\n")).empty());
  const auto all = kinds(cut("G1 Z-1 F500\nX40 F3200\n"));
  CHECK(std::find(all.begin(), all.end(), "feed_high") != all.end());
  Text slow;
  slow.spin = "S900 M3\n";
  CHECK(only(slow.all(), "spindle_speed"));
  Text fast;
  fast.spin = "S60000 M3\n";
  CHECK(only(fast.all(), "spindle_speed"));
  Text backwards;
  backwards.spin = "S18000 M4\n";
  CHECK(only(backwards.all(), "spindle_backwards"));
  Text at_once;
  at_once.wait = "";
  CHECK(only(at_once.all(), "spindle_not_up"));
  at_once.wait = "G4 P0.1\n";
  CHECK(only(at_once.all(), "spindle_not_up"));
}

TEST_CASE("M5: another speed, or the other way round, takes its time again") {
  Text later;
  later.spin = "S9000 M3\n";
  later.wait = "G4 P3\nS18000\n";
  CHECK(only(later.all(), "spindle_not_up"));
  later.wait += "G4 P3\n";
  CHECK(kinds(later.all()).empty());
  Text slower;
  slower.wait = "G4 P3\nS10000\n";
  CHECK(only(slower.all(), "spindle_not_up"));
  Text a_little;
  a_little.wait = "G4 P3\nS17000\n";
  CHECK(kinds(a_little.all()).empty());
  Text unsaid;  // what speed the wait was for, nobody knows
  unsaid.spin = "M3\n";
  unsaid.wait = "G4 P3\nS18000\n";
  CHECK(only(unsaid.all(), "spindle_not_up"));
  Text turned;
  turned.spin = "S18000 M4\n";
  turned.wait = "G4 P3\nM3\n";
  CHECK(only(turned.all(), "spindle_not_up"));
}

TEST_CASE("M6: arcs, drilling cycles and air only where the controller's profile has them") {
  Text arc;
  arc.cut = "G1 Z-1 F500\nG3 X12 Y20 I1 J0 F1200\n";
  CHECK(kinds(arc.all()).empty());
  Machine no_arcs;
  no_arcs.controller.arcs = false;
  CHECK(only(arc.all(), "unknown_word", no_arcs));
  CHECK(kinds(Text{}.all(), no_arcs).empty());
  Text cycle;
  cycle.cut = "G98 G81 X10 Y20 Z-3 R2 F300\nG80\n";
  CHECK(kinds(cycle.all()).empty());
  Machine no_cycles;
  no_cycles.controller.cycles = false;
  CHECK(only(cycle.all(), "unknown_word", no_cycles));
  // With G99 on from before, it goes over to the next hole at R, through whatever stands between them.
  Text unsaid_return;
  for (const char* cut : {"G81 X10 Y20 Z-3 R2 F300\nG80\n", "G81 X10 Y20 Z-3 R2 F300\nG98 X20\nG80\n"}) {
    unsaid_return.cut = cut;
    CHECK(only(unsaid_return.all(), "modes_unsaid"));
  }
  for (const char* cut : {"G98\nG81 X10 Y20 Z-3 R2 F300\nX20\nG80\n", "G99 G81 X10 Y20 Z-3 R2 F300\nG80\n"}) {
    unsaid_return.cut = cut;
    CHECK(kinds(unsaid_return.all()).empty());
  }
  Machine air;
  air.controller.air = true;
  for (const char* word : {"M7\n", "M8\n"}) {
    Text blown;
    blown.spin += word;
    CHECK(only(blown.all(), "unknown_word"));
    CHECK(kinds(blown.all(), air).empty());
  }
  Text off;
  off.still += "M9\n";
  CHECK(kinds(off.all()).empty());
  // G64 with its limit where that is all that is known.
  Machine blends;
  blends.controller.exact_path = false;
  blends.controller.blend_tolerance = true;
  Text unsaid;
  unsaid.modes = "G21 G17 G90 G91.1 G94 G54 G40 G49 G80\n";
  CHECK(only(unsaid.all(), "path_mode", blends));
  unsaid.modes = "G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G64 P0.01\n";
  CHECK(kinds(unsaid.all(), blends).empty());
}

TEST_CASE("M4: a cutter keeps its length while it cuts, and has one from the table only where a magazine changes it") {
  Machine magazine;
  magazine.change = CutterChange::magazine;
  Text good;
  good.tool = "T5 M6\nG53 G0 Z0\nG43 H5\n";
  CHECK(kinds(good.all(), magazine).empty());
  CHECK(only(good.all(), "tool_length"));  // by hand z is probed with the cutter itself
  Text before;
  before.up = "G43 H4\nG53 G0 Z0\n";  // an offset outlasts a change of cutter
  CHECK(only(before.all(), "tool_length"));
  for (const char* inside : {"G49", "G43 H4"}) {
    CAPTURE(inside);
    Text cancelled = good;
    cancelled.cut = std::string("G1 Z-1 F500\n") + inside + "\nX40 F1200\n";
    const auto found = findings(cancelled.all(), magazine);
    REQUIRE(found.size() == 1);
    CHECK(found[0].kind == "tool_length");
    CHECK(found[0].line == 11);
    // Put right again afterwards it is no better.
    cancelled.cut = std::string("G1 Z-1 F500\n") + inside + "\nX40 F1200\nG43 H5\n";
    CHECK(only(cancelled.all(), "tool_length", magazine));
  }
  // Called again as it is, or taken away when nothing follows over the work, it does no harm.
  Text again = good;
  again.cut = "G1 Z-1 F500\nG43 H5\nX40 F1200\n";
  CHECK(kinds(again.all(), magazine).empty());
  Text mended = good;  // cut with another's, and its own called when all is done
  mended.tool = "T5 M6\nG53 G0 Z0\nG43 H4\n";
  mended.home = "G43 H5\nG53 G0 Z0\n";
  CHECK(only(mended.all(), "tool_length", magazine));
  Text another = good;
  another.cut = "G1 Z-1 F500\nX40 F1200\n";
  another.tool = "T5 M6\nG53 G0 Z0\nG43 H4\n";
  CHECK(only(another.all(), "tool_length", magazine));
}

TEST_CASE("M6: the path mode is stated, and no word is used that the controller does not know") {
  Text t;
  t.modes = "G21 G17 G90 G91.1 G94 G54 G40 G49 G80\n";
  CHECK(only(t.all(), "path_mode"));
  t.modes = "G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G64\n";
  CHECK(only(t.all(), "path_mode"));
  t.modes = "G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G64 P0.01\n";
  CHECK(only(t.all(), "path_mode"));
  Machine blends;
  blends.controller.blend_tolerance = true;
  CHECK(kinds(t.all(), blends).empty());
  // A limit that lets the cutter round a corner by more than is proved is none; nor is a naive one.
  for (const char* wide : {"G64 P0.05", "G64 P0.01 Q0.05", "G20 G64 P0.001\nG21"}) {
    CAPTURE(wide);
    t.modes = std::string("G21 G17 G90 G91.1 G94 G54 G40 G49 G80\n") + wide + "\n";
    CHECK(only(t.all(), "path_mode", blends));
  }
  // What is said afterwards does not mend what was cut before.
  Text late;
  late.cut = "G1 Z-1 F500\nG64\nX40 F1200\nG61\n";
  CHECK(only(late.all(), "path_mode"));
  Text wide;
  wide.modes = "G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G64 P0.01\n";
  wide.cut = "G1 Z-1 F500\nG64 P5\nX40 F1200\nG64 P0.01\n";
  CHECK(only(wide.all(), "path_mode", blends));
  Machine plain;
  plain.controller.machine_moves = false;
  const auto all = kinds(Text{}.all(), plain);
  CHECK(std::find(all.begin(), all.end(), "unknown_word") != all.end());
  // without G53: homed by hand first, which the program waits for
  Text homed;
  homed.up = "M0 (home the machine first: z at its top)\n";
  homed.tool = "T5 M6\n";
  homed.home = "G0 Z10\n";
  homed.park = "";
  CHECK(kinds(homed.all(), plain).empty());
  homed.up = "";
  CHECK(only(homed.all(), "first_motion", plain));
}

TEST_CASE("one fault is told once, at its worst place, with its count") {
  Text t;
  t.cut = "G1 Z-1 F1600\nZ-2 F1700\nZ-3 F1900\nZ-4 F1600\n";
  const auto all = findings(t.all());
  REQUIRE(all.size() == 1);
  CHECK(all.front().count == 4);
  CHECK(all.front().number == Approx(1900));
  CHECK(all.front().limit == 1500);
  CHECK(all.front().line == 11);
  CHECK(all.front().rule == "M5");
  CHECK(all.front().program == "hand.ngc");
}

TEST_CASE("the reader: G53 needs a known machine, drilling cycles a bound, and a damaged first line no mercy") {
  const auto refused = read_program("G21 G90 G53 G0 Z0\n");
  REQUIRE_FALSE(refused);
  CHECK_THAT(refused.error().what, Contains("G53"));
  const auto billion = read_program("G21 G90 G0 X0 Y0 Z5\nG83 Z-100 R2 Q0.02 L1000 F100\nM30\n");
  REQUIRE_FALSE(billion);
  CHECK_THAT(billion.error().what, Contains("drilling cycles"));
  CHECK(read_program("G21 G90 G0 X0 Y0 Z5\nG83 Z-10 R2 Q2 L3 F100\nM30\n"));
  // A seal counts whatever the first line says.
  const auto seal = read_program("(uplanD wren program 2)\nG0 X1\nM30\n(end: 4 lines, crc32 00000000)\n");
  REQUIRE_FALSE(seal);
  CHECK_THAT(seal.error().what, Contains("checksum"));
}

TEST_CASE("the reader keeps what is said at a stop, and the time that is waited at one place") {
  const std::string begin =
      "(zero: here)\nG21 G90 G0 X0 Y0 Z5\n(look)\nM0 (change to that one)\n(after it)\nM1 (or not)\nG0 X1\nM0\n";
  const auto p = read_program(begin + "M30\n");
  REQUIRE(p);
  REQUIRE(p->pauses.size() == 3);
  CHECK(p->pauses[0].says == "look; change to that one");
  CHECK_FALSE(p->pauses[0].optional);
  CHECK(p->pauses[1].says == "look; change to that one; after it; or not");
  CHECK(p->pauses[1].optional);
  CHECK(p->pauses[2].says.empty());
  CHECK(p->pauses[2].before_move == 2);
  // Of a flood of comments the last are kept: a header does not hide what the first stop asks for.
  std::string flood;
  for (int i = 0; i < 3000; ++i) flood += fmt::format("(number {} of many that nobody reads)\n", i);
  const auto many = read_program("G21 G90\n" + flood + "M0 (the one that counts)\nM30\n");
  REQUIRE(many);
  REQUIRE(many->pauses.size() == 1);
  CHECK_THAT(many->pauses[0].says, Catch::Matchers::EndsWith("the one that counts"));
  CHECK(many->pauses[0].says.size() < 5000);

  const std::string turning = "G21 G90 G0 X0 Y0 Z5\nS9000 M3\nG1 Z-1 F300\n";
  const auto near = read_program(turning + "G4 P0.9\nX0.1\nG4 P0.9\nX0\nG4 P0.9\nM30\n");
  REQUIRE(near);
  REQUIRE(near->waits.size() == 1);
  CHECK(near->waits[0].seconds == Approx(2.7));
  const auto apart = read_program(turning + "G4 P0.9\nX9\nG4 P0.9\nX0\nG4 P0.9\nM30\n");
  REQUIRE(apart);
  REQUIRE(apart->waits.size() == 1);
  CHECK(apart->waits[0].seconds == Approx(0.9));
  // A controller that counts in milliseconds.
  ReadOptions ms;
  ms.dwell_unit = 0.001;
  const auto short_wait = read_program(turning + "G4 P3\nM30\n", "p", ms);
  const auto long_wait = read_program(turning + "G4 P3000\nM30\n", "p", ms);
  REQUIRE(short_wait);
  REQUIRE(long_wait);
  CHECK(short_wait->waits.front().seconds == Approx(0.003));
  CHECK(long_wait->waits.front().seconds == Approx(3));
}

TEST_CASE("a change of cutter moves the tip and nothing else") {
  ReadOptions options;
  options.machine_origin = origin;
  options.start = {150, 690, 104};
  const auto p = read_program("G21 G90 G61\nG53 G0 Z0\nT5 M6\nG0 X1 Y2\nM30\n", "p", options);
  REQUIRE(p);
  REQUIRE(p->moves.size() == 3);
  CHECK(p->moves[0].to.z == 104);  // nothing in the spindle yet
  CHECK(p->moves[1].machine == tip_changed);
  CHECK(p->moves[1].to.z == 74);
  CHECK(p->moves[2].to.z == 74);
  CHECK(p->moves[2].known == 7);
}

TEST_CASE("M7: a place in the machine's coordinates is its top, or one at that height") {
  for (const char* line : {"G53 G0 Z0\n", "G53 G0 Z0\nG53 G0 X200 Y300\nG0 X40 Y20\n"}) {
    CAPTURE(line);
    Text good;
    good.cut += line;
    good.cut += "G0 X40 Y20\nZ2\nG1 Z-1 F500\n";
    CHECK(kinds(good.all()).empty());
  }
  // Down to a height that no probe has said; over at whatever height it had; a cut.
  for (const char* line : {"G53 G0 Z-40\n", "G53 G0 X200 Y300\n", "G53 G1 Z-75 F500\n", "G53 G0 Z-0.02\n"}) {
    CAPTURE(line);
    Text low;
    low.cut += line;
    low.cut += "G0 X40 Y20\nZ2\nG1 Z-1 F500\n";
    CHECK(only(low.all(), "machine_low"));
  }
}

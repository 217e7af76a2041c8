// Every rule of the proof on a plate whose programs are written by hand: the good ones pass, one step over a limit is
// found by its own finding, one step under it is not.
#include <catch2/catch.hpp>

#include "proof/bench.hpp"

using namespace wren;
using namespace wren::bench;
using Catch::Matchers::WithinAbs;

namespace {

/// Lines run after the pocket's, on the same program; the cutter stands at `lift` over the wood.
std::vector<std::string> after_pocket(const std::string& lines, const std::function<void(PieceRequest&)>& change = {}) {
  PieceRequest r = request(with([&](Numbers& n) { n.between = lines; }));
  if (change) change(r);
  return kinds(prove(r));
}

}  // namespace

TEST_CASE("the plate's good programs are proved, and measured as they are") {
  const PieceResult r = prove(request());
  for (const auto& k : kinds(r)) UNSCOPED_INFO(k);
  CHECK(kinds(r).empty());
  CHECK(r.passed());
  CHECK(r.free);
  CHECK(r.tabs == 2);
  CHECK(r.holes_open == 1);
  CHECK_THAT(r.least_thickness, WithinAbs(thick - pocket_deep, 1e-4));
  CHECK_THAT(r.volume_mm3, WithinAbs(40.0 * 30 * 10 - (12 * 10 - 0.8584 * 4) * 3 - 7.07 * 10, 25));
  CHECK(r.plan_inside < 0.003);
  CHECK(r.plan_outside < 0.003);
  CHECK(r.cavity_wide < 0.003);
  CHECK(r.cavity_tight < 0.003);
  CHECK_THAT(r.wall_beside, WithinAbs(6, 1e-6));  // from the pocket to the plate's edge
}

TEST_CASE("P3: the outline's wall, both ways, to a few hundredths") {
  CHECK(kinds(with([](Numbers& n) { n.aside_x = 0.04; })).empty());
  const auto aside = kinds(with([](Numbers& n) { n.aside_x = 0.06; }));
  CHECK(has(aside, "wall_cut"));
  CHECK(has(aside, "wall_proud"));
  CHECK(has(kinds(with([](Numbers& n) { n.aside_y = -0.06; })), "wall_cut"));
  const PieceResult large = prove(request(with([](Numbers& n) { n.grown = 0.12; })));
  REQUIRE(find(large, "wall_proud") != nullptr);
  CHECK(find(large, "wall_cut") == nullptr);
  CHECK_THAT(find(large, "wall_proud")->number, WithinAbs(0.12, 0.001));
  CHECK(find(large, "wall_proud")->rule == "P3");
  CHECK(find(large, "wall_proud")->limit == 0.05);
  const PieceResult small = prove(request(with([](Numbers& n) { n.grown = -0.09; })));
  REQUIRE(find(small, "wall_cut") != nullptr);
  CHECK_THAT(find(small, "wall_cut")->number, WithinAbs(0.09, 0.001));
}

namespace {

/// The plate's good outline with more points on its way up the right side, which bears no tab: (millimetres too far
/// out, y) each.
std::vector<std::string> right_side(const std::vector<Vec2>& way, const Numbers& n = {}) {
  PieceRequest r = request(n);
  std::string text = r.sides[0].programs.back().text.str();
  const double x = high.x + 2;
  const std::string end = at(x, high.y + 2) + "\n";
  std::string points;
  for (const Vec2 p : way) points += at(x + p.x, p.y) + "\n";
  std::size_t legs = 0;
  for (std::size_t k = text.find(end); k != std::string::npos; k = text.find(end, k + points.size() + 1), ++legs)
    text.insert(k, points);
  REQUIRE(legs == 11);  // one a level
  r.sides[0].programs.back().text = text;
  return kinds(prove(r));
}

}  // namespace

TEST_CASE("P3: a bulge of the outline is one however far it stands out, and no tab") {
  const auto bulge = [](double by, double half) {
    return right_side({{0, 30 - half - 1}, {by, 30 - half}, {by, 30 + half}, {0, 30 + half + 1}});
  };
  CHECK(bulge(0, 4).empty());
  CHECK(bulge(0.04, 4).empty());
  for (const double by : {0.08, 0.3, 0.6, 0.95, 1.05, 1.2, 1.4})
    for (const double half : {1.0, 4.0, 9.0}) {
      CAPTURE(by, half);
      CHECK(has(bulge(by, half), "wall_proud"));
    }
  // Further out wood stands where a tab would, and none is designed.
  for (const double by : {1.45, 1.5, 1.55, 1.7, 2.5}) {
    CAPTURE(by);
    const auto told = bulge(by, 4);
    CHECK((has(told, "wall_proud") || has(told, "tab_extra")));
  }
}

TEST_CASE("P3: what is left over a tab is left, as everywhere") {
  // On the lower side, over its tab: led out there on every level, and where the lower levels pass over the tab.
  const auto over = [](double by) {
    PieceRequest r = request();
    const std::string text = r.sides[0].programs.back().text.str();
    const double y = low.y - 2;
    const std::string led = at(38, y) + "\n" + at(39, y - by) + "\n" + at(41, y - by) + "\n" + at(42, y) + "\n";
    const std::string over_tab = fmt::format("Z{:.3f}\n", -thick + tab_high) + at(44.5, y) + "\n";
    std::string out;
    std::size_t begin = 0;
    std::size_t legs = 0;
    for (const std::string& end : {at(high.x + 2, y) + "\n", over_tab})
      for (std::size_t k = text.find(end, begin); k != std::string::npos && legs < 11; k = text.find(end, begin)) {
        if (end != over_tab && legs == 8) break;  // lower down it goes over the tab
        const std::size_t at_end = end == over_tab ? k + end.find('X') : k;
        out += text.substr(begin, at_end - begin) + led;
        begin = at_end;
        out += text.substr(begin, end.size() - (at_end - k));
        begin = k + end.size();
        ++legs;
      }
    REQUIRE(legs == 11);
    r.sides[0].programs.back().text = out + text.substr(begin);
    return kinds(prove(r));
  };
  CHECK(over(0).empty());
  CHECK(has(over(0.4), "wall_proud"));
  CHECK(has(over(1.2), "wall_proud"));
}

TEST_CASE("M10: a tab is held all across the kerf") {
  // Before the last retract the cutter goes along the tab's outer part once more.
  const auto thinned = [](double beside, double left) {
    std::string out = "G0Z2.500\nG0" + at(30, low.y - 2 - beside) + "\nG1Z0.000F300\n";
    for (double z = 0; z > -thick + left + 1e-9;) {
      z = std::max(-thick + left, z - 1);
      out += "G1" + at(50, low.y - 2 - beside) + fmt::format("Z{:.3f}F1200\n", z) + at(30, low.y - 2 - beside) + "\n";
    }
    return kinds(with([&](Numbers& n) { n.before_end = out; }));
  };
  for (const double beside : {1.6, 2.4}) {
    CAPTURE(beside);
    CHECK(has(thinned(beside, 0.4 * tab_high), "tab_thin"));
    CHECK(has(thinned(beside, 0.6 * tab_high), "tab_thin"));
    CHECK(has(thinned(beside, 0.8 * tab_high), "tab_thin"));
    CHECK_FALSE(has(thinned(beside, 0.95 * tab_high), "tab_thin"));
    CHECK_FALSE(has(thinned(beside, 1.3 * tab_high), "tab_thin"));
  }
}

TEST_CASE("M10: a thin cut between the piece and its tab severs it") {
  const auto severed = [](double beside, double left) {
    PieceRequest r = request();
    Cutter thin = r.rack[0];
    thin.id = "flat-0.4";
    thin.number = 8;
    thin.diameter = 0.4;
    thin.cutting_length = 20;
    r.rack.push_back(thin);
    std::string cut = "G0" + at(30, low.y - beside) + "\nZ2.500\nG1Z0.000F300\n";
    for (double z = 0; z > -thick + left + 1e-9;) {
      z = std::max(-thick + left, z - 0.5);
      cut += "G1" + at(50, low.y - beside) + fmt::format("Z{:.3f}F400\n", z) + at(30, low.y - beside) + "\n";
    }
    r.sides[0].programs.push_back({"thin.ngc", head("T8", {}) + cut + "G0Z5.000\n" + tail(), {}, false});
    return kinds(prove(r));
  };
  for (const double beside : {0.3, 0.55, 0.7, 0.85, 1.0, 1.15}) {
    CAPTURE(beside);
    CHECK(has(severed(beside, -0.1), "tab_thin"));
    CHECK(has(severed(beside, 0.3 * tab_high), "tab_thin"));
    CHECK_FALSE(has(severed(std::min(beside, 1.1), 0.7 * tab_high), "tab_thin"));
  }
}

TEST_CASE("P3: inner corners of the outline stay as round as a usual cutter, and no rounder") {
  // The plate without its upper right quarter; the way round the inner corner is cut short by a leg.
  const auto cut_short = [](double leg) {
    PieceRequest r = request(with([](Numbers& n) { n.tabs = 1; }));
    r.tabs.pop_back();
    r.holes.clear();
    PieceSide& side = r.sides[0];
    side.design.walls.pop_back();
    side.design.finished = [was = side.design.finished](Vec2 p) { return distance(p, hole_at) < 2 ? thick : was(p); };
    side.design.outline = {low, {high.x, low.y}, {high.x, 30}, {45, 30}, {45, high.y}, {low.x, high.y}};
    side.programs.erase(side.programs.begin());
    std::string cut = side.programs.back().text.str();
    const std::string turning = at(high.x + 2, high.y + 2) + "\n";
    for (std::size_t k = cut.find(turning); k != std::string::npos; k = cut.find(turning, k))
      cut.replace(
          k, turning.size(),
          at(high.x + 2, 32) + "\n" + at(47 + leg, 32) + "\n" + at(47, 32 + leg) + "\n" + at(47, high.y + 2) + "\n");
    side.programs.back().text = cut;
    return kinds(prove(r));
  };
  CHECK(cut_short(0).empty());
  CHECK(cut_short(0.8).empty());  // a cutter of four millimetres; a usual one leaves as much
  CHECK(has(cut_short(1.2), "wall_proud"));
  CHECK(has(cut_short(3), "wall_proud"));
}

TEST_CASE("P3: walls of cavities and holes, both ways") {
  CHECK(kinds(with([](Numbers& n) { n.pocket_aside = 0.04; })).empty());
  const auto aside = kinds(with([](Numbers& n) { n.pocket_aside = 0.06; }));
  CHECK(has(aside, "cavity_wide"));
  CHECK(has(aside, "cavity_tight"));
  const PieceResult wide = prove(request(with([](Numbers& n) { n.pocket_grown = 0.08; })));
  REQUIRE(find(wide, "cavity_wide") != nullptr);
  CHECK(find(wide, "cavity_tight") == nullptr);
  CHECK_THAT(wide.cavity_wide, WithinAbs(0.08, 0.001));
  const PieceResult tight = prove(request(with([](Numbers& n) { n.pocket_grown = -0.08; })));
  REQUIRE(find(tight, "cavity_tight") != nullptr);
  CHECK(find(tight, "cavity_wide") == nullptr);
  CHECK_THAT(tight.cavity_tight, WithinAbs(0.08, 0.001));
  CHECK(find(tight, "cavity_tight")->text.find("Pocket") != std::string::npos);
  const PieceResult hole = prove(request(with([](Numbers& n) { n.hole_aside = 0.07; })));
  REQUIRE(find(hole, "cavity_wide") != nullptr);
  CHECK(find(hole, "cavity_wide")->text.find("Hole") != std::string::npos);
  CHECK(has(kinds(with([](Numbers& n) { n.pocket = false; })), "cavity_tight"));
}

TEST_CASE("P3: a wall that is right but for a dent at its very rim") {
  // From a place of the way round it, at a height, into the wall and back.
  const auto dent = [](Vec2 p, Vec2 by, double z) {
    return "G0" + at(p.x, p.y) + fmt::format("\nZ2.500\nG1Z{:.3f}F300\n", z) + at(p.x + by.x, p.y + by.y) + "F800\n" +
           at(p.x, p.y) + "\nG0Z5.000\n";
  };
  const auto pocket = [&](Vec2 p, Vec2 by) {
    return prove(request(with([&](Numbers& n) { n.between = dent(p, by, -0.2); })));
  };
  const PieceResult wide = pocket({36, 27}, {0.12, 0});
  REQUIRE(find(wide, "cavity_wide") != nullptr);
  CHECK_THAT(find(wide, "cavity_wide")->number, WithinAbs(0.12, 0.003));
  CHECK(kinds(pocket({36, 27}, {0.04, 0})).empty());
  // In its corners, which may stay round, no more may be cut than elsewhere.
  CHECK(has(kinds(pocket({36, 24}, {0.12, 0})), "cavity_wide"));
  CHECK(has(kinds(pocket({28, 30}, {0, 0.12})), "cavity_wide"));

  const auto outline = [&](Vec2 p, Vec2 by, double z) {
    return prove(request(with([&](Numbers& n) { n.before_end = "G0Z5.000\n" + dent(p, by, z); })));
  };
  const PieceResult dented = outline({18, 30}, {0.12, 0}, -0.8);
  REQUIRE(find(dented, "wall_cut") != nullptr);
  CHECK_THAT(find(dented, "wall_cut")->number, WithinAbs(0.12, 0.005));
  CHECK(has(kinds(outline({40, 13}, {0, 0.12}, -0.8)), "wall_cut"));  // over a tab
  CHECK(kinds(outline({40, 13}, {0, 0.04}, -0.8)).empty());
}

TEST_CASE("P3: a wall is dented by what comes down aslant, and by a rapid, as by anything else") {
  // Beside the plate's left side, whose kerf is cut: over the dent, down away from it and up again.
  const auto steep = [](double by, double away) {
    return "G0Z5.000\n" + at(18 + by, 30) + "\nZ2.500\nG1" + at(18 + by - away, 30) + "Z-5.000F300\n" +
           at(18 + by, 30) + "Z2.500F300\nG0Z5.000\n";
  };
  const auto outline = [](const std::string& lines) {
    return prove(request(with([&](Numbers& n) { n.before_end = lines; })));
  };
  const PieceResult dented = outline(steep(0.2, 0.01));
  REQUIRE(find(dented, "wall_cut") != nullptr);
  CHECK_THAT(find(dented, "wall_cut")->number, WithinAbs(0.2, 0.01));
  for (const double away : {0.05, 0.15}) CHECK(has(kinds(outline(steep(0.3, away))), "wall_cut"));
  CHECK_FALSE(has(kinds(outline(steep(0.04, 0.01))), "wall_cut"));
  CHECK_FALSE(has(kinds(outline(steep(0.2, 0.4))), "wall_proud"));

  const auto rapid = [](double by) {
    return "G0Z5.000\n" + at(18, 20) + "\nZ2.500\nG1Z-5.000F300\nG0" + at(18 + by, 21) + "\n" + at(18 + by, 29) + "\n" +
           at(18, 30) + "\nZ5.000\n";
  };
  CHECK(has(kinds(outline(rapid(0.15))), "wall_cut"));
  CHECK_FALSE(has(kinds(outline(rapid(0.03))), "wall_cut"));
  // What a rapid passes stands all the same: it has no business to cut it.
  std::string round = "G0Z5.000\n" + at(17.88, 13) + "\nZ2.500\nG1Z-9.900F300\nG0";
  for (const Vec2 p : {Vec2{18, 13}, Vec2{62, 13}, Vec2{62, 47}, Vec2{18, 47}, Vec2{18, 13}})
    round += at(p.x, p.y) + "\n";
  CHECK(has(kinds(with([&](Numbers& n) {
              n.grown = 0.12;
              n.before_end = round + "Z5.000\n";
            })),
            "wall_proud"));
}

TEST_CASE("P3: a plate thinner than a millimetre has a wall all the same, and so has a shallow pocket") {
  const auto thin = [](double grown) {
    Numbers n;
    n.pocket = n.hole = false;
    n.bottom = -1.1;
    n.level = 0.5;
    n.tab = 0.5;
    n.grown = grown;
    PieceRequest r = request(n);
    PieceSide& side = r.sides[0];
    side.setup.blank.thickness = 0.9;
    side.setup.to_work.shift = {0, 0, -0.9};
    side.setup.board_low.z = -0.9;
    side.setup.zero_in_machine.z = 0.9;
    side.design.walls.clear();
    side.design.finished = [](Vec2) { return 0.9; };
    for (TabDesign& tab : r.tabs) tab.height = 0.5;
    r.holes.clear();
    return prove(r);
  };
  const PieceResult large = thin(0.12);
  REQUIRE(find(large, "wall_proud") != nullptr);
  CHECK_THAT(find(large, "wall_proud")->number, WithinAbs(0.12, 0.001));
  CHECK(find(thin(0.03), "wall_proud") == nullptr);

  const auto shallow = [](double grown) {
    PieceRequest r = request(with([&](Numbers& n) {
      n.pocket_floor = -0.6;
      n.pocket_grown = grown;
    }));
    SideDesign& d = r.sides[0].design;
    d.walls[0].floor = [](Vec2) { return thick - 0.6; };
    d.finished = [was = d.finished](Vec2 p) {
      const double z = was(p);
      return z == thick - pocket_deep ? thick - 0.6 : z;
    };
    return prove(r);
  };
  CHECK(find(shallow(-0.08), "cavity_tight") != nullptr);
  CHECK(find(shallow(-0.03), "cavity_tight") == nullptr);
  CHECK(find(shallow(0.08), "cavity_wide") != nullptr);
}

TEST_CASE("P3: a ball that falls beside a wall dents it where it is low enough") {
  const auto fallen = [](double by, double away) {
    PieceRequest r = request();
    r.rack.push_back(cutter("ball-4", 9, CutterKind::ball, 4));
    const std::string way = "G0" + at(18 + by, 30) + "\nZ2.500\nG1" + at(18 + by - away, 30) + "Z-5.000F300\n" +
                            at(18 + by, 30) + "Z2.500\nG0Z5.000\n";
    r.sides[0].programs.push_back({"dent.ngc", head("T9", {}) + way + tail(), {}, false});
    return prove(r);
  };
  const PieceResult steep = fallen(0.3, 0.01);
  REQUIRE(find(steep, "wall_cut") != nullptr);
  CHECK_THAT(find(steep, "wall_cut")->number, WithinAbs(0.3, 0.015));
  CHECK(find(fallen(0.04, 0.01), "wall_cut") == nullptr);
  // A tenth less far in with every millimetre down: at the rim it is widest when its tip is two millimetres under it.
  const PieceResult slanting = fallen(0.7, 0.75);
  REQUIRE(find(slanting, "wall_cut") != nullptr);
  CHECK_THAT(find(slanting, "wall_cut")->number, WithinAbs(0.7 - 0.1 * 4.6, 0.03));
}

TEST_CASE("P3: a floor too deep is told as that, and not as a wall that is gone") {
  // All of the plate's top lies 0.15 under itself, out over its edges.
  std::string faced = "G0X10.000Y12.000\nZ2.500\nG1Z-0.150F300\n";
  for (double y = 12; y <= 48; y += 1.5) faced += at(10, y) + "F1200\n" + at(70, y) + "\n" + at(10, y) + "\n";
  const PieceResult sunk = prove(request(with([&](Numbers& n) { n.between = faced + "G0Z5.000\n"; })));
  CHECK(has(kinds(sunk), "gouge"));
  CHECK(find(sunk, "wall_cut") == nullptr);
  CHECK(find(sunk, "cavity_wide") == nullptr);
}

TEST_CASE("P3: a slot that runs out through a wall leaves the wall beside it whole") {
  constexpr double y = 18;
  const auto slotted = [&](const std::string& dent) {
    PieceRequest r = request(with([&](Numbers& n) { n.before_end = dent; }));
    r.rack.push_back(cutter("flat-0.8", 8, CutterKind::flat, 0.8));
    PieceSide& side = r.sides[0];
    side.design.crowned = [](Vec2) { return thick; };
    side.design.finished = [was = side.design.finished](Vec2 p) {
      return std::abs(p.y - y) <= 0.4 ? thick - 1 : was(p);
    };
    side.design.slots.push_back({"the test", {18, y}, {62, y}, 0.8, [](Vec2) { return thick - 1.0; }});
    std::string cut = "G0X18.000Y18.000\nZ2.500\nG1Z0.000F300\n";
    for (const double z : {-0.25, -0.5, -0.75, -1.0}) cut += fmt::format("X62.000Z{0:.3f}F800\nX18.000\n", z);
    side.programs.insert(side.programs.begin(), {"slot.ngc", head("T8", {}) + cut + "G0Z5.000\n" + tail(), {}, false});
    return kinds(prove(r));
  };
  const auto dent = [](double at_y, double by) {
    return fmt::format("G0Z5.000\nX18.000Y{:.3f}\nZ2.500\nG1Z-0.800F300\nX{:.3f}F800\nX18.000\n", at_y, 18 + by);
  };
  const auto whole = slotted({});
  CHECK_FALSE(has(whole, "wall_cut"));
  CHECK_FALSE(has(whole, "wall_proud"));
  for (const double aside : {-0.3, 0.0, 0.1, 0.7}) CHECK(has(slotted(dent(y + aside, 0.14)), "wall_cut"));
  CHECK_FALSE(has(slotted(dent(y, 0.04)), "wall_cut"));
}

TEST_CASE("P3: the dent of a thin cutter is found wherever it lies") {
  PieceRequest r = request();
  r.rack.push_back(cutter("flat-0.8", 8, CutterKind::flat, 0.8));
  for (int k = 0; k < 8; ++k) {
    PieceRequest spoiled = r;
    const double x = 26 + k * 0.1;
    spoiled.sides[0].programs.push_back(
        {"dent.ngc",
         head("T8", {}) + fmt::format("G0X{0:.3f}Y14.000\nZ2.500\nG1Z-0.300F300\nY14.800F400\nY14.000\nG0Z5.000\n", x) +
             tail(),
         {},
         false});
    INFO(x);
    CHECK(find(prove(spoiled), "wall_cut") != nullptr);
  }
}

TEST_CASE("P3: a floor too deep, too shallow, a hole that does not go through") {
  CHECK(kinds(with([](Numbers& n) { n.pocket_floor = -pocket_deep - 0.018; })).empty());
  const PieceResult deep = prove(request(with([](Numbers& n) { n.pocket_floor = -pocket_deep - 0.03; })));
  REQUIRE(find(deep, "gouge") != nullptr);
  CHECK_THAT(find(deep, "gouge")->number, WithinAbs(0.03, 1e-4));
  CHECK_THAT(deep.worst_gouge, WithinAbs(0.03, 1e-4));
  CHECK(kinds(with([](Numbers& n) { n.pocket_floor = -pocket_deep + 0.035; })).empty());
  const PieceResult shallow = prove(request(with([](Numbers& n) { n.pocket_floor = -pocket_deep + 0.05; })));
  REQUIRE(find(shallow, "left_over") != nullptr);
  CHECK_THAT(find(shallow, "left_over")->number, WithinAbs(0.05, 1e-4));
  CHECK(has(kinds(with([](Numbers& n) { n.hole_bottom = -thick + 0.5; })), "hole_closed"));
}

TEST_CASE("P3: wood left on the face beside a tab is found as anywhere else") {
  PieceRequest r = request();
  // The design asks for a face 0.45 lower than it is cut: over all of it, tabs or no tabs.
  const Height before = r.sides[0].design.finished;
  r.sides[0].design.finished = [before](Vec2 p) {
    const double z = before(p);
    return std::abs(p.x - 40) < 4 && p.y > low.y + 1.5 && p.y < low.y + 6 ? std::min(z, thick - 0.45) : z;
  };
  const PieceResult out = prove(r);
  REQUIRE(find(out, "left_over") != nullptr);
  CHECK_THAT(find(out, "left_over")->number, WithinAbs(0.45, 1e-4));
}

TEST_CASE("M1: ways down into wood") {
  CHECK(kinds(with([](Numbers& n) { n.ramp = 3.9; })).empty());  // 14.4°
  CHECK(has(kinds(with([](Numbers& n) {
              n.ramp = 3.3;
              n.level = 1.1;
            })),
            "way_down"));  // 18°, deeper than a quarter
  CHECK(kinds(with([](Numbers& n) {
          n.ramp = 0;
          n.level = 0.95;
        })).empty());  // a plunge of less than a quarter
  CHECK(has(kinds(with([](Numbers& n) {
              n.ramp = 0;
              n.level = 1.1;
              n.plunge = 300;
              n.feed = 1200;
            })),
            "way_down"));
  // The same depth in full wood at the cutting feed is too fast before it is too deep.
  CHECK(has(after_pocket("G0" + at(10, 52) + "\nZ2.500\nG1Z-0.900F1500\nG0Z5.000\n"), "plunge_fast"));
  CHECK(after_pocket("G0" + at(10, 52) + "\nZ2.500\nG1Z-0.900F300\nG0Z5.000\n").empty());
  // Without an edge at its centre a cutter may not even go down a quarter.
  Numbers facer;
  facer.outline_tool = "T3";
  CHECK(has(kinds(facer), "way_down"));
  facer.tabs = 0;  // they need ways down of their own
  facer.ramp = 26;
  facer.level = 1.5;  // 3.3°
  CHECK_FALSE(has(kinds(facer), "way_down"));
  // Stairs with short treads are a slope.
  std::string stairs = "G0" + at(8, 52) + "\nZ2.500\nG1Z0.000F300\n";
  for (int k = 1; k <= 6; ++k) stairs += fmt::format("Z{:.3f}F300\nX{:.3f}\n", -0.5 * k, 8 + 1.0 * k);
  CHECK(has(after_pocket(stairs + "G0Z5.000\n"), "way_down"));
  // So are they where the cutter hops on every tread; with treads longer than it is wide they are none.
  const auto hopping = [](double tread, double hop) {
    std::string out = "G0" + at(8, 52) + "\nZ2.500\nG1Z0.000F300\n";
    for (int k = 1; k <= 4; ++k)
      out += fmt::format("Z{:.3f}F300\nZ{:.3f}\nX{:.3f}\n", -0.7 * k, -0.7 * k + hop, 8 + tread * k);
    return after_pocket(out + "G0Z5.000\n");
  };
  for (const double hop : {0.0, 0.04, 0.06, 0.2}) {
    CAPTURE(hop);
    CHECK(has(hopping(0.8, hop), "way_down"));
    CHECK_FALSE(has(hopping(4.5, hop), "way_down"));
  }
  // A drill may go down four of its diameters in one.
  CHECK(kinds(with([](Numbers& n) {
          n.peck = 11.9;
          n.hole_bottom = -11.1;
        })).empty());
  Numbers peck;
  peck.peck = 14;
  PieceRequest thickly = request(peck);
  thickly.rack[1].diameter = 2;
  thickly.rack[1].cutting_length = 20;
  CHECK(has(kinds(prove(thickly)), "peck_long"));
}

TEST_CASE("M2: rapids and drills keep clear") {
  CHECK(kinds(with([](Numbers& n) { n.lift = 2.1; })).empty());
  CHECK(has(kinds(with([](Numbers& n) { n.lift = 1.8; })), "rapid_low"));
  CHECK(has(after_pocket("G0" + at(10, 52) + "\nZ-0.500\nZ5.000\n"), "rapid_in_wood"));
  // A rapid into the pocket that was just cut keeps its distance from the floor.
  CHECK(after_pocket("G0" + at(32, 27) + "\nZ-0.900\nZ5.000\n").empty());
  CHECK(has(after_pocket("G0" + at(32, 27) + "\nZ-1.200\nZ5.000\n"), "rapid_low"));
  // Beside the blank the waste board stands under it.
  const auto beside = [](double over) {
    return after_pocket("G0" + at(-9, 20) + fmt::format("\nZ{:.3f}\nY40.000\nZ5.000\n", -thick + over));
  };
  CHECK(beside(2.1).empty());
  CHECK(has(beside(1.9), "rapid_low"));
  CHECK(has(beside(-0.1), "rapid_low"));
  // A drill comes back into its own hole, and not so near to whole wood.
  const auto drilled_from = [](double z) {
    PieceRequest r = request();
    r.sides[0].programs[0].text = head("T2", {}) + "G0" + at(hole_at.x, hole_at.y) + fmt::format("\nZ{:.3f}\n", z) +
                                  "G1Z-2.000F300\nG0Z2.500\n" + hole({}) + tail();
    return kinds(prove(r));
  };
  CHECK(drilled_from(2.1).empty());
  CHECK(has(drilled_from(1.8), "rapid_low"));
  CHECK(has(drilled_from(0.25), "rapid_low"));
  // On a slope half of what stands about it is higher; that is no hole. A step on one side is none either.
  const auto sloping = [](double z, const Height& top) {
    PieceRequest r = request();
    r.sides[0].setup.wood_top = top;
    r.sides[0].programs[0].text = head("T2", {}) + "G0" + at(hole_at.x, hole_at.y) + fmt::format("\nZ{:.3f}\n", z) +
                                  "G1Z-4.000F300\nG0Z2.500\n" + hole(with([](Numbers& n) { n.peck = 4; })) + tail();
    return kinds(prove(r));
  };
  const Height slope = [](Vec2 p) { return thick - 1 + std::clamp((p.x - hole_at.x) * 0.3, -1.0, 1.0); };
  const Height step = [](Vec2 p) { return p.x > hole_at.x + 1.5 ? thick : thick - 2; };
  CHECK_FALSE(has(sloping(1.9, slope), "rapid_low"));
  CHECK(has(sloping(-0.75, slope), "rapid_low"));
  CHECK(has(sloping(-1.75, step), "rapid_low"));
  // Sideways with a drill.
  PieceRequest r = request();
  r.sides[0].programs[0].text = head("T2", {}) + hole({}) + "G0" + at(10, 52) + "\nZ2.500\nG1Z-1.000F300\n" +
                                at(12, 52) + "F600\nG0Z5.000\n" + tail();
  CHECK(has(kinds(prove(r)), "drill_sideways"));
}

TEST_CASE("M1: half a millimetre is nothing to a wide cutter, and the end of a thin one") {
  const auto down = [](double z) {
    PieceRequest r = request();
    Cutter thin = r.rack.front();
    thin.id = "thin-0.8";
    thin.number = 6;
    thin.diameter = 0.8;
    thin.cutting_length = 3;
    r.rack.push_back(thin);
    auto& programs = r.sides[0].programs;
    programs.insert(programs.begin(), {"thin.ngc",
                                       head("T6", {}) + "G0" + at(10, 52) +
                                           fmt::format("\nZ2.500\nG1Z{:.3f}F200\nG0Z5.000\n", z) + tail(),
                                       {},
                                       false});
    return kinds(prove(r));
  };
  CHECK(down(-0.2).empty());
  CHECK(has(down(-0.4), "way_down"));
}

TEST_CASE("M5: a cutter that hardly moves in the wood rubs and burns") {
  // 4 mm in wood of the middle class: a chip of 0.056; a ninth of that at two flutes and 18 000 1/min is F221.
  CHECK(has(kinds(with([](Numbers& n) { n.feed = 200; })), "tooth_rubs"));
  CHECK(kinds(with([](Numbers& n) { n.feed = 245; })).empty());
  // The same feed with a slower spindle cuts.
  CHECK_FALSE(has(kinds(with([](Numbers& n) {
                    n.feed = 200;
                    n.rpm = 12000;
                  })),
                  "tooth_rubs"));
  // A moment of it, in the waste beside the plate: 4 mm at F100 are 2.4 s. Twice that is too long.
  const std::string beside = "G0" + at(70, 52) + "\nZ2.500\nG1Z-0.500F300\n";
  CHECK(after_pocket(beside + at(66, 52) + "F100\nG0Z5.000\n").empty());
  CHECK(has(after_pocket(beside + at(62, 52) + "F100\nG0Z5.000\n"), "tooth_rubs"));
  // The same in the air does nothing.
  CHECK(after_pocket("G0" + at(70, 52) + "\nZ2.500\nG1" + at(30, 52) + "F100\nG0Z5.000\n").empty());
}

TEST_CASE("M5: nobody waits in the wood while the cutter turns") {
  const auto waits = [](double z, const std::string& wait) {
    return after_pocket("G0" + at(70, 52) + fmt::format("\nZ2.500\nG1Z{:.3f}F300\n", z) + wait + "\nG0Z5.000\n");
  };
  CHECK(has(waits(-0.5, "G4 P2"), "waits_in_wood"));
  CHECK(waits(-0.5, "G4 P0.5").empty());
  // Many short ones are a long one; two places are two.
  CHECK(has(waits(-0.5, "G4 P0.5\nG4 P0.4\nG4 P0.3"), "waits_in_wood"));
  CHECK(waits(-0.5, "G4 P0.8\nG1X70.700F600\nG4 P0.8").empty());
  // With hardly a way between them they are one, and to and fro without any wait is one too.
  CHECK(has(waits(-0.5, "G4 P0.8\nG1X70.400F600\nG4 P0.8"), "waits_in_wood"));
  const auto to_and_fro = [&](double z, int times, const char* way) {
    std::string moves = "G1";
    for (int i = 0; i < times; ++i) moves += fmt::format("X{}F60\nX70.000\n", way);
    return waits(z, moves);
  };
  CHECK(has(to_and_fro(-0.5, 10, "70.200"), "waits_in_wood"));                    // 4 mm at F60 are 4 s
  CHECK_FALSE(has(to_and_fro(-0.5, 6, "70.200"), "waits_in_wood"));               // 2.4 s
  CHECK_FALSE(has(to_and_fro(-0.5, 10, "72.000"), "waits_in_wood"));              // that is a way
  CHECK(to_and_fro(2.4, 50, "70.200").empty());                                   // in the air
  CHECK(has(waits(-0.5, "G1X70.400F5"), "waits_in_wood"));                        // creeping
  CHECK(has(waits(-0.5, "G3X70.000I0.100F12\nX70.000I0.100"), "waits_in_wood"));  // round and round
  CHECK(waits(2.4, "G4 P30").empty());
  // A drill's rest at the bottom of its cycle.
  const auto drilled = [](const char* rest) {
    PieceRequest r = request();
    r.sides[0].programs[0].text = head("T2", {}) + hole({}) + "G0" + at(10, 52) + "\nG98G82Z-1.000R2.500" + rest +
                                  "F300\nG80\nG0Z5.000\n" + tail();
    return kinds(prove(r));
  };
  CHECK(has(drilled("P4"), "waits_in_wood"));
  CHECK_FALSE(has(drilled("P0.4"), "waits_in_wood"));
}

TEST_CASE("M5: the spindle turns and no tooth takes too much") {
  PieceRequest still = request();
  std::string& text = still.sides[0].programs[1].text.edit();
  text.replace(text.find("S18000 M3"), 9, "S18000 M5");
  CHECK(has(kinds(prove(still)), "spindle_still"));
  CHECK(has(kinds(with([](Numbers& n) {
              n.feed = 2900;
              n.rpm = 8000;
            })),
            "tooth_overloaded"));
  CHECK_FALSE(has(kinds(with([](Numbers& n) { n.feed = 1500; })), "tooth_overloaded"));
  CHECK(has(kinds(with([](Numbers& n) { n.rpm = 7000; })), "spindle_speed"));
  CHECK(has(kinds(with([](Numbers& n) {
              n.feed = 3100;
              n.rpm = 24000;
            })),
            "feed_high"));
}

TEST_CASE("M7: what is probed is still there") {
  // The pocket's program cuts the place; it is probed again before the outline.
  const auto at_place = [](Vec2 p, bool board) {
    return [=](PieceRequest& r) { r.sides[0].setup.probe = Setup::Probe{p, board}; };
  };
  CHECK(after_pocket("", at_place({8, 50}, false)).empty());
  CHECK(has(after_pocket("", at_place({32, 27}, false)), "probe_gone"));
  CHECK(has(after_pocket("", at_place({25.5, 27}, false)), "probe_gone"));   // half its foot
  CHECK(has(after_pocket("", at_place({-1, 20}, false)), "probe_blocked"));  // beside the blank
  CHECK(has(after_pocket("", at_place({2, 20}, false)), "probe_blocked"));   // on its edge
  CHECK(has(after_pocket("", at_place({20, 20}, true)), "probe_blocked"));   // the blank lies there
  CHECK(after_pocket("", at_place({-12, 20}, true)).empty());
  CHECK(has(after_pocket("", at_place({-250, 20}, true)), "probe_blocked"));  // beyond the machine
  CHECK(has(after_pocket("", at_place({std::nan(""), 20}, true)), "probe_blocked"));
  // Cut by the outline, which is the last: it is probed before that.
  CHECK(after_pocket("", at_place({17, 30}, false)).empty());
  // A clamp over it.
  CHECK(has(after_pocket("",
                         [&](PieceRequest& r) {
                           r.sides[0].setup.probe = Setup::Probe{{8, 50}, false};
                           r.sides[0].setup.blank.clamps = {{"clamp", {0, 48}, {6, 58}, 14}};
                         }),
            "probe_blocked"));
}

TEST_CASE("M7: only a hand that changes the cutter probes again") {
  // Both cuts in one program with a change between: the place is gone by then.
  const auto joined = [](CutterChange change) {
    PieceRequest r = request();
    r.sides[0].setup.machine.change = change;
    r.sides[0].setup.probe = Setup::Probe{{32, 27}, false};
    Numbers n;
    std::string text = head("T1", n) + pocket(n) +
                       "G53 G0 Z0\nM5\nG53 G0 X350 Y990\nM0\nT2 M6\nG43 H2\nG53 G0 Z0\nS18000 M3\nG4 P3\n" + hole(n) +
                       "G53 G0 Z0\nM5\nG53 G0 X350 Y990\nM0\nT1 M6\nG43 H1\nG53 G0 Z0\nS18000 M3\nG4 P3\n" +
                       outline(n) + tail();
    text.replace(text.find("T1 M6\n"), 6, "T1 M6\nG43 H1\n");
    r.sides[0].programs = {{"all.ngc", text, {}, false}};
    return kinds(prove(r));
  };
  CHECK(has(joined(CutterChange::by_hand), "probe_gone"));
  CHECK_FALSE(has(joined(CutterChange::magazine), "probe_gone"));
}

TEST_CASE("M8: clamps, fence and pins against cutter, shank, nut, nose and shoe, with their room") {
  const auto beside = [](double y, double top, const std::function<void(PieceRequest&)>& more = {}) {
    PieceRequest r = request();
    r.sides[0].setup.standing = {{"post", {30, y, -thick}, {34, y + 4, -thick + top}}};
    if (more) more(r);
    return kinds(prove(r));
  };
  // The outline's cutter reaches to y 11; a post ends at y + 4.
  CHECK(beside(4.9, 14).empty());                   // 2.1 beside it
  CHECK(has(beside(5.2, 14), "into_clamp"));        // 1.8
  CHECK(has(beside(5.2, 9), "into_clamp"));         // under the blank's top it is met as well
  CHECK(has(beside(-2, 26), "holder_into_clamp"));  // the nut, 10 round, 25 up, comes down to 24.8 over the bed
  CHECK(beside(-2, 23).empty());
  // A shank of 8 over flutes of 4 comes down to 11.8 over the bed, and keeps 2 beside the post and 1 over it.
  const auto thick_shank = [](PieceRequest& r) { r.rack[0].shank_diameter = 8; };
  CHECK(has(beside(4.9, 14, thick_shank), "shank_into_clamp"));
  CHECK(has(beside(3.2, 14, thick_shank), "shank_into_clamp"));
  CHECK(beside(2.9, 14, thick_shank).empty());
  CHECK(beside(4.9, 10.5, thick_shank).empty());
  // The nose: 30 round and 30 over the nut.
  CHECK(has(beside(-16, 56), "nose_into_clamp"));
  CHECK(beside(-16, 52).empty());
  const auto shoe = [](PieceRequest& r) {
    r.sides[0].setup.machine.shoe_diameter = 90;
    r.sides[0].setup.machine.shoe_above = 5;
  };
  CHECK(beside(-32, 31).empty());
  CHECK(has(beside(-32, 31, shoe), "shoe_into_clamp"));
  CHECK(beside(-32, 27, shoe).empty());
  // A clamp over which it may pass, and one over which it may not.
  CHECK(after_pocket("G0Z5.000\n" + at(8, 50) + "\n", [](PieceRequest& r) {
          r.sides[0].setup.blank.clamps = {{"clamp", {4, 48}, {12, 58}, 12.5}};
        }).empty());
  CHECK(has(after_pocket("G0Z5.000\n" + at(8, 50) + "\n",
                         [](PieceRequest& r) {
                           r.sides[0].setup.blank.clamps = {{"clamp", {4, 48}, {12, 58}, 13.5}};
                         }),
            "into_clamp"));
}

TEST_CASE("M8: a feed move keeps a millimetre over a clamp, a rapid two") {
  const auto over = [](double z) {
    return after_pocket(
        "G0Z5.000\n" + at(8, 40) + fmt::format("\nG1Z{:.3f}F300\n", z) + at(8, 66) + "F1200\nG0Z5.000\n",
        [](PieceRequest& r) {
          r.sides[0].setup.blank.clamps = {{"clamp", {4, 48}, {12, 58}, thick + 2.5}};
        });
  };
  CHECK(over(3.6).empty());
  CHECK(has(over(3.4), "into_clamp"));
}

TEST_CASE("M8: the waste board and the machine's travels") {
  CHECK(has(kinds(with([](Numbers& n) { n.bottom = -(thick + 1.3); })), "below_allowance"));
  CHECK(kinds(with([](Numbers& n) { n.bottom = -(thick + 1.1); })).empty());
  const auto moved = [](Vec3 zero, double under_nut = 110) {
    PieceRequest r = request();
    r.sides[0].setup.zero_in_machine = zero;
    r.sides[0].setup.machine.clear_under_nut = under_nut;
    return kinds(prove(r));
  };
  CHECK(has(moved({640, 300, thick}), "outside_travel"));
  CHECK(has(moved({200, -14, thick}), "outside_travel"));
  CHECK(moved({630, 300, thick}).empty());
  CHECK(has(moved({200, 300, thick}, 126), "outside_travel"));  // the z axis is too short for the lowest cut
  // A pin's hole in the waste board may be met straight down, and nothing beside it.
  const std::string bore = "G0" + at(70, 52) + "\nZ2.500\n";
  std::string down;
  for (int k = 1; k <= 18; ++k) down += fmt::format("G1Z{:.3f}F300\nG0Z{:.3f}\n", -0.9 * k, -0.9 * k + 0.3);
  const auto with_hole = [](double radius) {
    return [radius](PieceRequest& r) { r.sides[0].setup.bed_holes = {{{70, 52}, radius, 8}}; };
  };
  CHECK(has(after_pocket(bore + down + "G0Z5.000\n"), "below_allowance"));
  CHECK_FALSE(has(after_pocket(bore + down + "G0Z5.000\n", with_hole(2.0)), "below_allowance"));
  CHECK(has(after_pocket(bore + down + "G0Z5.000\n", with_hole(1.9)), "below_allowance"));
}

TEST_CASE("M9: pins are set before anything else is cut") {
  const std::string bore = "G0" + at(70, 52) + "\nZ2.500\n";
  std::string down;
  for (int k = 1; k <= 18; ++k) down += fmt::format("G1Z{:.3f}F300\nG0Z{:.3f}\n", -0.9 * k, -0.9 * k + 0.3);
  const std::string stop = "G0Z5.000\nG53 G0 Z0\nM5\nG53 G0 X350 Y990\nM0 (set the pins)\nS18000 M3\nG4 P3\n";
  const auto run = [&](const std::string& lines) {
    PieceRequest r = request();
    r.sides[0].setup.bed_holes = {{{70, 52}, 2.0, 8}};
    r.sides[0].programs[1].text = head("T1", {}) + bore + down + lines + pocket({}) + tail();
    return kinds(prove(r));
  };
  CHECK(has(run("G0Z5.000\n"), "stop_missing"));
  CHECK_FALSE(has(run(stop), "stop_missing"));
}

TEST_CASE("P3: what is left beside a tab is forgiven no higher than a ball that passes over it leaves") {
  // The design has a dip in the plate's edge at a tab's middle, which nothing cuts: level, or falling off outwards.
  const auto dip = [](double tab, double deep, double steep = 0) {
    Numbers n;
    n.tab = tab;
    PieceRequest r = request(n);
    for (TabDesign& t : r.tabs) t.height = tab;
    r.sides[0].design.finished = [was = r.sides[0].design.finished, deep, steep](Vec2 p) {
      const double in = low.y + 1.5 - p.y;
      return std::abs(p.x - 40) < 2 && in > 0 ? was(p) - deep - steep * in : was(p);
    };
    return kinds(prove(r));
  };
  CHECK(has(dip(tab_high, 0.3), "left_over"));
  CHECK(has(dip(7.5, 0.3), "left_over"));        // a ball over the tab comes down to this level
  CHECK_FALSE(has(dip(9.9, 0.3), "left_over"));  // and not here
  CHECK_FALSE(has(dip(8, 0, 3), "left_over"));   // steep, it is touched by the ball's flank
  CHECK(has(dip(6, 0, 3), "left_over"));
}

TEST_CASE("P3: a blind slot ends where it should") {
  // 8 long and as wide as the cutter, a millimetre deep, from x 44 to 52.
  const auto slot = [](double from, double to, double dip = 0) {
    Numbers n;
    n.between = "G0" + at(from, 20) +
                fmt::format("\nZ2.500\nG1Z0.000F300\nX{0:.3f}Z-0.500F600\nX{1:.3f}Z-1.000\nX{0:.3f}\n", to, from) +
                fmt::format("G1Z{:.3f}F300\nG0Z5.000\n", -1 - dip);
    PieceRequest r = request(n);
    SideDesign& d = r.sides[0].design;
    d.crowned = [](Vec2) { return thick; };
    d.finished = [was = d.finished](Vec2 p) {
      return distance_to(p, Segment2{{46, 20}, {50, 20}}) <= 2 ? thick - 1 : was(p);
    };
    d.slots.push_back({"the test", {44, 20}, {52, 20}, 4, [](Vec2) { return thick - 1.0; }, true});
    return kinds(prove(r));
  };
  CHECK(slot(46, 50).empty());
  CHECK(slot(46.06, 50.06).empty());
  CHECK(has(slot(46, 50.4), "slot_length"));
  CHECK(has(slot(45.6, 50), "slot_length"));
  CHECK(has(slot(46.4, 50), "slot_length"));
  // Its end may be rounded by the cutter, never deeper than its floor.
  CHECK(slot(46, 50, 0.01).empty());
  CHECK(has(slot(46, 50, 0.05), "gouge"));
  CHECK(has(slot(46, 50, 0.2), "gouge"));
}

TEST_CASE("P3: a slot that is cut in lanes is as wide all along as it should be") {
  constexpr double y = 18;
  // A tenth wider than its cutter: there on one lane, and back on the other as far as `from`, at a depth of its own.
  const auto lanes = [](double from, double deep = 1) {
    PieceRequest r = request();
    Cutter thin = r.rack[0];
    thin.id = "slot-0.7";
    thin.number = 8;
    thin.kind = CutterKind::slot;
    thin.diameter = 0.7;
    thin.cutting_length = 3;
    r.rack.push_back(thin);
    r.tolerances.slot_bending = 1;
    PieceSide& side = r.sides[0];
    side.design.crowned = [](Vec2) { return thick; };
    side.design.finished = [was = side.design.finished](Vec2 p) {
      return std::abs(p.y - y) <= 0.4 ? thick - 1 : was(p);
    };
    side.design.slots.push_back({"the test", {18, y}, {62, y}, 0.8, [](Vec2) { return thick - 1.0; }});
    std::string cut = "G0X17.000Y17.950\nZ2.500\nG1Z0.000F300\n";
    for (const double z : {-0.17, -0.34, -0.51, -0.68, -0.85, -1.0})
      cut += fmt::format("Z{:.3f}F300\nX63.000F800\nX17.000\n", z);
    cut += fmt::format("X63.000\nY18.050Z{:.3f}\nX{:.3f}\n", -deep, from);
    side.programs.insert(side.programs.begin(), {"slot.ngc", head("T8", {}) + cut + "G0Z5.000\n" + tail(), {}, false});
    return prove(r);
  };
  CHECK(find(lanes(17), "slot_width") == nullptr);
  for (const double from : {25.0, 40.0, 58.0}) {
    const PieceResult r = lanes(from);
    CAPTURE(from);
    REQUIRE(find(r, "slot_width") != nullptr);
    CHECK_THAT(find(r, "slot_width")->number, WithinAbs(0.7, 0.001));
  }
  // Both lanes lead down to its floor.
  CHECK(find(lanes(17, 0.97), "slot_width") != nullptr);
  CHECK(find(lanes(17, 0.99), "slot_width") == nullptr);
}

TEST_CASE("M10: tabs, skins, offcuts") {
  CHECK(kinds(with([](Numbers& n) { n.tab = tab_high - 0.1; })).empty());
  CHECK(has(kinds(with([](Numbers& n) { n.tab = tab_high - 0.3; })), "tab_thin"));
  CHECK(kinds(with([](Numbers& n) { n.tab = tab_high + 1.1; })).empty());
  CHECK(has(kinds(with([](Numbers& n) { n.tab = tab_high + 1.4; })), "tab_thick"));
  CHECK(has(kinds(with([](Numbers& n) { n.tab_length = 2; })), "tab_thin"));
  CHECK(has(kinds(with([](Numbers& n) { n.tab_length = 3; })), "tab_thin"));
  CHECK(has(kinds(with([](Numbers& n) { n.tabs = 1; })), "tab_missing"));
  const auto none = kinds(with([](Numbers& n) { n.tabs = 0; }));
  CHECK(has(none, "tab_missing"));
  CHECK(has(none, "comes_loose"));
  CHECK(has(kinds(with([](Numbers& n) { n.bottom = -thick + 0.3; })), "outline_not_through"));
  CHECK(has(kinds(with([](Numbers& n) { n.outline = false; })), "outline_not_through"));
  // A notch across a tab, to half its height.
  const std::string notch = at(40, 13) + "Z-8.000\nG1Z-9.000F300\nZ-8.000\n";
  CHECK(has(kinds(with([&](Numbers& n) { n.before_end = "G1" + at(18, 13) + "\n" + notch; })), "tab_thin"));
  // Across a tab that is long enough on either side of it all the same.
  const auto long_tab = [&](double z) {
    return kinds(with([&](Numbers& n) {
      n.tab_length = 14;
      n.before_end = "G0Z5.000\n" + at(42, 13) + fmt::format("\nZ-5.900\nG1Z{:.3f}F300\n", z);
    }));
  };
  CHECK_FALSE(has(long_tab(-8), "tab_thin"));
  CHECK(has(long_tab(-9), "tab_thin"));
  // Wood where no tab was asked for.
  PieceRequest one = request();
  one.tabs.pop_back();
  CHECK(has(kinds(prove(one)), "tab_extra"));
  PieceRequest elsewhere = request();
  elsewhere.tabs[1].at.x += 15;
  const auto moved = kinds(prove(elsewhere));
  CHECK(has(moved, "tab_missing"));
  CHECK(has(moved, "tab_extra"));
  // A strip of the blank cut off at its right.
  std::string strip = "G0" + at(70, -4) + "\nZ2.500\nG1Z0.000F300\n";
  double y = -4;
  for (double z = -1.5; z > -12; z -= 1.5) {
    y = y < 0 ? 64 : -4;
    strip += fmt::format("G1Z{:.3f}F300\nY{:.3f}F1200\n", std::max(z, -10.2), y);
  }
  CHECK(has(after_pocket(strip + "G0Z5.000\n"), "offcut_loose"));
}

TEST_CASE("M11: flutes, shank, nut and nose against the wood that stands") {
  // 4 of flutes under a shank that is thicker: the outline's walls are met.
  Numbers stubby;
  stubby.outline_tool = "T4";
  const PieceResult r = prove(request(stubby));
  REQUIRE(find(r, "beyond_cutting_length") != nullptr);
  CHECK(find(r, "beyond_cutting_length")->rule == "M11");
  // The nut stands 9 over the tip: it meets the blank's top from 9 deep on.
  Numbers low_nut;
  low_nut.outline_tool = "T5";
  const PieceResult nut = prove(request(low_nut));
  REQUIRE(find(nut, "holder_in_wood") != nullptr);
  CHECK_THAT(find(nut, "holder_in_wood")->number, WithinAbs(10.2 - 9, 0.01));
  PieceRequest nose = request();
  nose.sides[0].setup.machine.nose_above = 0;
  for (Cutter& c : nose.rack) c.stickout = c.id == "flat-4" ? 10 : c.stickout;
  nose.rack[0].nut_diameter = 3;
  CHECK(has(kinds(prove(nose)), "nose_in_wood"));
  PieceRequest shoe = nose;
  shoe.sides[0].setup.machine.nose_above = 30;
  CHECK_FALSE(has(kinds(prove(shoe)), "nose_in_wood"));
  shoe.sides[0].setup.machine.shoe_diameter = 80;
  shoe.sides[0].setup.machine.shoe_above = 0;
  CHECK(has(kinds(prove(shoe)), "shoe_in_wood"));
}

TEST_CASE("M12, its beginning: passes as wide as the cutter") {
  CHECK_FALSE(has(kinds(with([](Numbers& n) {
                    n.level = 2.9;
                    n.ramp = 12;
                  })),
                  "pass_deep"));
  CHECK(has(kinds(with([](Numbers& n) {
              n.level = 3.4;
              n.ramp = 14;
            })),
            "pass_deep"));
}

TEST_CASE("M12: a full width is one in cells that are coarse for its cutter too") {
  const auto in_cells = [](double level, double ramp) {
    PieceRequest r = request(with([&](Numbers& n) {
      n.level = level;
      n.ramp = ramp;
    }));
    r.cell = 0.45;
    return kinds(prove(r));
  };
  CHECK_FALSE(has(in_cells(2.9, 12), "pass_deep"));
  CHECK(has(in_cells(3.4, 14), "pass_deep"));
}

TEST_CASE("one fault is told once, with its count and its worst place") {
  const PieceResult r = prove(request(with([](Numbers& n) {
    n.between = "G0" + at(10, 52) + "\nZ1.500\n" + at(12, 52) + "\nZ1.000\n" + at(14, 52) + "\nZ1.800\n" + at(10, 52) +
                "\nZ5.000\n";
  })));
  const Finding* f = find(r, "rapid_low");
  REQUIRE(f != nullptr);
  CHECK(std::count_if(r.sides[0].findings.begin(), r.sides[0].findings.end(),
                      [](const Finding& o) { return o.kind == "rapid_low"; }) == 1);
  CHECK(f->count >= 4);
  CHECK_THAT(f->number, WithinAbs(1.0, 1e-3));
  CHECK(f->program == "pocket.ngc");
  CHECK(f->line > 5);
  CHECK_THAT(f->at.y, WithinAbs(52, 2.5));
}

TEST_CASE("M6: a drilling cycle says how far it comes back") {
  const auto drilled = [](const std::string& said) {
    return kinds(with([&](Numbers& n) {
      n.before_end = "G0Z5.000\n" + said + "G81" + at(10, 52) + "Z-0.500R2.500F300\n" + at(14, 52) + "\nG80\n";
    }));
  };
  CHECK(has(drilled({}), "modes_unsaid"));
  for (const char* said : {"G98", "G99", "G98\n"}) CHECK(drilled(said).empty());
}

TEST_CASE("M6: what stands behind a semicolon is run by a controller that knows no such comments") {
  const auto behind = [](const std::string& line) {
    return kinds(with([&](Numbers& n) { n.before_end = line + "\n"; }));
  };
  for (const char* line : {"; G0 Z-9.000", ";g1x5", "F1200 ; Z-3", "(so) ;x .5", "; T\t4"}) {
    CAPTURE(line);
    CHECK(has(behind(line), "unknown_word"));
  }
  for (const char* line : {"; so far, so good", ";", "; 3 mm, 4 mm", "(G0 Z-9.000)", "(a ; Z-9)", "F1200 ; as before",
                           "; level 2 of 3", "; T1, the flat one", ";-----"}) {
    CAPTURE(line);
    CHECK(behind(line).empty());
  }
}

// Under error (P7): the plate with its zero, its thickness and its second side off, against figures worked out by hand.
#include <catch2/catch.hpp>

#include "proof/bench.hpp"

using namespace wren;
using namespace wren::bench;
using Catch::Matchers::WithinAbs;

namespace {

const ErrorCase* of(const PieceResult& r, ErrorLevel level, const std::string& with) {
  for (const ErrorCase& c : r.under_error)
    if (c.level == level && c.what.find(with) != std::string::npos) return &c;
  return nullptr;
}
PieceRequest off(double probe, double thickness, double zero = 0, Numbers n = {}) {
  PieceRequest r = request(n);
  Machine& m = r.sides[0].setup.machine;
  m.probe_error = probe;
  m.thickness_error = thickness;
  m.zero_error = zero;
  return r;
}

}  // namespace

TEST_CASE("likely is the root of the squares, worst the sum") {
  const PieceResult r = prove(off(0.03, 0.04));
  REQUIRE(r.passed());
  const ErrorCase* drawn = of(r, ErrorLevel::drawn, "as drawn");
  const ErrorCase* likely = of(r, ErrorLevel::likely, "too low");
  const ErrorCase* worst = of(r, ErrorLevel::worst, "too low");
  REQUIRE(drawn != nullptr);
  REQUIRE(likely != nullptr);
  REQUIRE(worst != nullptr);
  CHECK_THAT(drawn->least_tab, WithinAbs(tab_high, 1e-4));
  CHECK_THAT(likely->least_tab, WithinAbs(tab_high - 0.05, 1e-4));
  CHECK_THAT(worst->least_tab, WithinAbs(tab_high - 0.07, 1e-4));
  CHECK_THAT(worst->least_thickness, WithinAbs(thick - pocket_deep - 0.07, 1e-4));
  CHECK_THAT(of(r, ErrorLevel::worst, "too high")->least_tab, WithinAbs(tab_high + 0.07, 1e-4));
  CHECK(of(r, ErrorLevel::worst, "too low")->what.find("0.07") != std::string::npos);
}

TEST_CASE("a tab that errors cut through, a skin that they leave") {
  const auto thin_tabs = [](double probe) {
    Numbers n;
    n.tab = 0.5;
    PieceRequest r = off(probe, 0, 0, n);
    for (TabDesign& t : r.tabs) t.height = 0.5;
    return kinds(prove(r));
  };
  CHECK_FALSE(has(thin_tabs(0.1), "tab_through"));
  CHECK(has(thin_tabs(0.25), "tab_through"));
  // Less than a third of a tall one does not hold either.
  CHECK_FALSE(has(kinds(prove(off(1.25, 0))), "tab_through"));
  CHECK(has(kinds(prove(off(1.35, 0))), "tab_through"));
  // 0.2 through the blank: less than that too high it is still through.
  CHECK(kinds(prove(off(0.15, 0))).empty());
  const PieceResult high = prove(off(0.25, 0));
  CHECK(has(kinds(high), "skin_left"));
  CHECK_FALSE(high.passed());
  CHECK(find(high, "skin_left")->rule == "P7");
}

TEST_CASE("what stands beside the cutter's way is met when the zero is off") {
  const auto beside = [](double room, double zero) {
    PieceRequest r = off(0.01, 0.01, zero);
    // As drawn it stays clear by the room that clamps ask for.
    r.sides[0].setup.standing = {{"post", {30, 11 - room - 4, -thick}, {34, 11 - room, -thick + 14}}};
    return kinds(prove(r));
  };
  CHECK(beside(2.1, 1.0).empty());
  CHECK(has(beside(2.1, 2.2), "hit"));
  CHECK_FALSE(has(beside(3.1, 2.2), "hit"));
}

TEST_CASE("no error, no case but the drawing") {
  const PieceResult r = prove(off(0, 0));
  CHECK(std::count_if(r.under_error.begin(), r.under_error.end(),
                      [](const ErrorCase& c) { return c.what.find("cutters") == std::string::npos; }) == 1);
  CHECK(r.passed());
}

TEST_CASE("cutters that cut wider leave less of a wall") {
  // The pocket lies 6 mm from the plate's edge.
  PieceRequest r = off(0, 0);
  const PieceResult nominal = prove(r);
  CHECK_THAT(of(nominal, ErrorLevel::drawn, "as drawn")->least_wall, WithinAbs(6, 1e-6));
  CHECK_THAT(of(nominal, ErrorLevel::likely, "cutters")->least_wall, WithinAbs(6 - 0.025, 1e-6));
  CHECK_THAT(of(nominal, ErrorLevel::worst, "cutters 0.050 mm wider")->least_wall, WithinAbs(6 - 0.05, 1e-6));
  for (Cutter& c : r.rack) c.measured = c.diameter;
  CHECK_THAT(of(prove(r), ErrorLevel::worst, "cutters 0.020")->least_wall, WithinAbs(6 - 0.02, 1e-6));
  r.rack.back().measured.reset();  // it cuts nothing
  CHECK(of(prove(r), ErrorLevel::worst, "cutters 0.020") != nullptr);
  r.rack.front().measured.reset();
  CHECK(of(prove(r), ErrorLevel::worst, "cutters 0.050") != nullptr);
  // One that is open to the outline has no wall there, nor on the way to its mouth; a thin one is told as thin as it
  // is.
  const auto with = [&](Vec2 from, Vec2 to) {
    PieceRequest w = off(0, 0);
    w.sides[0].design.walls.push_back({"Slot", box(from, to), [](Vec2) { return thick - 1; }, 0});
    return prove(w).wall_beside;
  };
  CHECK_THAT(with({low.x - 3, 34}, {low.x + 10, 36}), WithinAbs(6, 1e-6));
  CHECK_THAT(with({low.x + 0.8, 34}, {low.x + 10, 36}), WithinAbs(0.8, 1e-6));
  CHECK_THAT(with({low.x + 12, 34}, {high.x + 1, 36}), WithinAbs(6, 1e-6));
  // Without a cavity nothing hangs on it.
  r.sides[0].design.walls.clear();
  CHECK(of(prove(r), ErrorLevel::worst, "cutters") == nullptr);
}

TEST_CASE("the turned side is misplaced every way, and the thinnest place is read") {
  // Front: a pocket 6 deep; back: one 3 deep beside it, 1 mm of wood between their walls' ends in plan; where they
  // overlap once the back is off by more than 1, only 1 mm stays.
  PieceRequest r;
  Numbers n;
  for (const bool back : {false, true}) {
    PieceSide side;
    side.name = back ? "back" : "front";
    side.setup = setup();
    if (back) {
      side.setup.turn = Turn::about_length;
      side.setup.to_work.shift = {0, 60, 0};  // side z = −instrument z: the bed's side is up at 0
      side.setup.found_by.shift = {1.5, 0.5};
    }
    side.design.outline = turned(side.setup.turn, box(low, high));
    side.design.finished = [back](Vec2 q) {
      const Vec2 p = back ? Vec2{q.x, -q.y} : q;
      if (!back) return p.x > 24 && p.x < 34 && p.y > 20 && p.y < 40 ? thick - 6 : thick;
      return p.x > 35 && p.x < 45 && p.y > 20 && p.y < 40 ? -3.0 : 0.0;
    };
    side.programs = {{back ? "back.ngc" : "front.ngc", head("T1", n), {}, false}};
    std::string& text = side.programs[0].text.edit();
    const double x0 = back ? 37 : 26;
    const double x1 = back ? 43 : 32;
    text += "G0" + at(x0, 22) + "\nZ5.000\nG1Z0.000F300\n";
    const double floor = back ? -3 : -6;
    for (double z = 0; z > floor + 1e-9;) {
      z = std::max(floor, z - 1.5);
      text += "G1" + at(x1, 22) + fmt::format("Z{:.3f}F900\n", z) + at(x0, 22) + "\n";
      for (double y = 22; y <= 38 + 1e-9; y += 2) text += at(x0, y) + "\n" + at(x1, y) + "\n" + at(x0, y) + "\n";
    }
    text += "G0Z5.000\n" + tail();
    r.sides.push_back(std::move(side));
  }
  r.rack = rack();
  r.cell = 0.1;
  r.held = true;
  const PieceResult out = prove(r);
  const ErrorCase* drawn = of(out, ErrorLevel::drawn, "as drawn");
  const ErrorCase* likely = of(out, ErrorLevel::likely, "turned side");
  const ErrorCase* worst = of(out, ErrorLevel::worst, "turned side");
  REQUIRE(drawn != nullptr);
  REQUIRE(likely != nullptr);
  REQUIRE(worst != nullptr);
  CHECK_THAT(drawn->least_thickness, WithinAbs(4, 1e-4));
  CHECK_THAT(likely->least_thickness, WithinAbs(4, 1e-4));  // 0.75 aside: they do not meet yet
  CHECK_THAT(worst->least_thickness, WithinAbs(1, 1e-4));   // 1.5 aside
  CHECK(worst->least_at.x > 33.4);
  CHECK(worst->least_at.x < 34.1);
  CHECK(drawn->least_wall > 1e8);

  // A wall of the first side's cavity beside the outline that the other side cuts: what that lies aside is missing. A
  // cavity of the last side's own keeps its wall.
  const double aside = std::hypot(1.5, 0.5);
  const auto with_wall = [&](std::size_t side, double wall) {
    PieceRequest w = r;
    const Polygon loop = box({low.x + wall, 25}, {low.x + wall + 5, 35});
    w.sides[side].design.walls.push_back(
        {"Pocket", turned(w.sides[side].setup.turn, loop), [](Vec2) { return 0.0; }, 0});
    const PieceResult p = prove(w);
    const ErrorCase* c = of(p, ErrorLevel::worst, "turned side");
    REQUIRE(c != nullptr);
    const Finding* thin = find(p, "thin");
    const bool told = thin != nullptr && thin->text.find("between a cavity and the outline") != std::string::npos;
    return std::pair{c->least_wall, told};
  };
  CHECK_THAT(with_wall(0, 4).first, WithinAbs(4 - aside, 1e-6));
  CHECK_FALSE(with_wall(0, 1.95).second);
  CHECK(with_wall(0, 1.8).second);  // 0.22 of it stays
  CHECK_THAT(with_wall(1, 1.8).first, WithinAbs(1.8, 1e-6));
  CHECK_FALSE(with_wall(1, 1.8).second);
}

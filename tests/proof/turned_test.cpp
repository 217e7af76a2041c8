// What the turned side finds of what the first has left: the plate of bench.hpp again, its pocket cut from the front,
// its outline from the back, found by two pins, a fence or ticks. Every harm has a neighbour that does none.
#include <catch2/catch.hpp>

#include "proof/bench.hpp"

using namespace wren;
using namespace wren::bench;

namespace {

constexpr double pin_deep = 6;
constexpr std::array<Vec2, 2> pins{{{6, 30}, {74, 30}}};  // on the middle line: turned over they lie where they lay

/// Straight down by pecks that come out each time.
std::string pecked(Vec2 p, double bottom) {
  std::string out = "G0" + at(p.x, p.y) + "\nZ2.500\n";
  for (double z = 0; z > bottom + 1e-9;) {
    z = std::max(bottom, z - 1);
    out += fmt::format("G1Z{:.3f}F300\nZ2.500F1000\n", z);
  }
  return out + "G0Z5.000\n";
}

/// Level by level along a way of straight lines, `bottom` reached by good ramps along the first of them.
std::string milled(const std::vector<Vec2>& way, double bottom) {
  std::string out = "G0" + at(way[0].x, way[0].y) + "\nZ2.500\nG1Z0.000F300\n";
  for (double z = 0; z > bottom + 1e-9;) {
    z = std::max(bottom, z - 1);
    out += "G1" + at(way[1].x, way[1].y) + fmt::format("Z{:.3f}F1200\n", z) + at(way[0].x, way[0].y) + "\n";
    for (const Vec2 p : way) out += at(p.x, p.y) + "\n";
    for (auto p = way.rbegin(); p != way.rend(); ++p) out += at(p->x, p->y) + "\n";
  }
  return out + "G0Z5.000\n";
}

/// "T6": its flutes reach through the blank into the waste board.
Cutter long_cutter() {
  Cutter c = rack()[0];
  c.id = "long-4";
  c.number = 6;
  c.cutting_length = 20;
  return c;
}

ProgramText program(const std::string& name, const std::string& lines, const std::string& tool = "T1") {
  return {name, head(tool, {}) + lines + tail(), {}, false};
}

struct Turned {
  RegisterKind found_by = RegisterKind::pins;
  double borer = 4;  // "T7" bores for the pins
  // Down to what the waste board's own program has bored.
  std::string bored = pecked(pins[0], -(thick + 1)) + pecked(pins[1], -(thick + 1));
  std::string front{};  // more lines on the first side
  std::string back{};   // and on the turned one, before its outline
  std::optional<Setup::Probe> probe = Setup::Probe{{8, 8}, false};
};

PieceRequest two_sides(const Turned& t) {
  PieceRequest r = request();
  r.tolerances.below = 0.3;
  r.rack.push_back(long_cutter());
  r.rack.push_back(long_cutter());
  r.rack.back().id = "borer";
  r.rack.back().number = 7;
  r.rack.back().diameter = t.borer;
  PieceSide front = r.sides[0];
  PieceSide back = front;
  front.name = "front";
  front.programs = {program("pins.ngc", t.bored, "T7"), program("pocket.ngc", pocket({}) + t.front, "T6")};
  front.design.cut_free = false;
  front.design.walls.pop_back();  // no hole here
  front.design.finished = [opened = offset(offset({box(pocket_low, pocket_high)}, -2), 2)](Vec2 p) {
    return contains(opened, p) ? thick - pocket_deep : thick;
  };
  for (const Vec2 p : pins) front.setup.bed_holes.push_back({p, 2, pin_deep});
  back.name = "back";
  back.programs = {program("outline.ngc", t.back + outline({}))};
  back.setup.turn = Turn::about_length;
  back.setup.to_work.shift = {0, 60, 0};
  back.setup.bed_holes = front.setup.bed_holes;
  back.setup.probe = t.probe;
  back.setup.found_by.kind = t.found_by;
  back.design.outline = turned(Turn::about_length, front.design.outline);
  back.design.finished = [](Vec2) { return 0.0; };
  back.design.walls.clear();
  if (t.found_by != RegisterKind::pins) {
    front.setup.bed_holes.clear();
    back.setup.bed_holes.clear();
    front.programs.erase(front.programs.begin());
  }
  if (t.found_by == RegisterKind::fence) {
    back.setup.standing.push_back({"fence", {-20, -20, -thick}, {80, 0, -thick + 6}});
    back.setup.standing.push_back({"fence", {-20, -20, -thick}, {0, 60, -thick + 6}});
  }
  r.sides = {front, back};
  r.holes.clear();
  return r;
}

template <class Change>
std::vector<std::string> said(const Change& change) {
  Turned t;
  change(t);
  return kinds(prove(two_sides(t)));
}

}  // namespace

TEST_CASE("a plate cut from both sides is proved, whatever finds its turned side") {
  for (const RegisterKind kind : {RegisterKind::pins, RegisterKind::fence, RegisterKind::lines}) {
    const auto found = said([&](Turned& t) { t.found_by = kind; });
    for (const std::string& f : found) UNSCOPED_INFO(register_id(kind) << ": " << f);
    CHECK(found.empty());
  }
}

TEST_CASE("P2: pins that find the turned side go into their holes") {
  // Bored by a cutter narrower than the pin, and then widened down to a height.
  const auto bored = [](double borer, double bottom) {
    return said([&](Turned& t) {
      t.borer = borer;
      const double by = 2 - borer / 2;
      for (const Vec2 p : pins)
        t.bored += "G0" + at(p.x, p.y) + fmt::format("\nZ2.500\nG1Z{:.3f}F300\n", bottom) +
                   fmt::format("X{0:.3f}F600\nG3X{0:.3f}I{1:.3f}J0\nG1X{2:.3f}\nG0Z5.000\n", p.x + by, -by, p.x);
    });
  };
  CHECK_FALSE(has(bored(3.6, -(thick + 0.5)), "register_tight"));
  CHECK(has(bored(3.6, -9), "register_tight"));  // the last millimetre before it comes out
  CHECK(has(bored(3.6, -2), "register_tight"));
  CHECK(has(said([](Turned& t) { t.borer = 3.8; }), "register_tight"));
  CHECK_FALSE(has(said([](Turned& t) { t.borer = 3.94; }), "register_tight"));
}

TEST_CASE("P2: pins that find the turned side fit in their holes") {
  // Bored as it should be, and then widened in the blank alone: the waste board shows nothing of it.
  const auto widened = [](double by, double bottom) {
    return said([&](Turned& t) {
      t.bored += "G0" + at(pins[0].x, pins[0].y) + fmt::format("\nZ2.500\nG1Z{:.3f}F300\n", bottom) +
                 fmt::format("X{0:.3f}F600\nG3X{0:.3f}I{1:.3f}J0\n", pins[0].x + by, -by);
    });
  };
  CHECK(has(widened(0.3, -9.5), "register_loose"));
  CHECK(has(widened(0.3, -4), "register_loose"));
  CHECK_FALSE(has(widened(0.3, -2), "register_loose"));  // what is left of its depth holds the pin
  CHECK_FALSE(has(widened(0.03, -9.5), "register_loose"));
  CHECK(has(said([](Turned& t) { t.bored = pecked(pins[0], -(thick + 1)) + pecked(pins[1], -8); }), "hole_closed"));
  // A cut that comes by opens its hole to one side.
  const auto by_the_hole = [](double y) { return said([&](Turned& t) { t.front = milled({{2, y}, {12, y}}, -6); }); };
  CHECK(has(by_the_hole(33.5), "register_loose"));
  CHECK_FALSE(has(by_the_hole(35), "register_loose"));
}

TEST_CASE("P2: a layer bores the two holes that it is glued by, whatever its programs do instead") {
  const auto layer = [](const std::string& bored, bool pinned = true) {
    Turned t;
    t.bored = bored;
    PieceRequest r = two_sides(t);
    r.sides.pop_back();
    r.sides[0].design.pinned = pinned;
    r.sides[0].setup.bed_holes.push_back({{40, 54}, 2, pin_deep});  // of another set-up on the same waste board
    return kinds(prove(r));
  };
  const double through = -(thick + 1);
  CHECK_FALSE(has(layer(pecked(pins[0], through) + pecked(pins[1], through)), "hole_closed"));
  CHECK(has(layer(pecked(pins[0], through) + pecked(pins[1], 2 - thick)), "hole_closed"));
  // Both of them too shallow, so that nothing reaches the waste board; or beside their places.
  CHECK(has(layer(pecked(pins[0], 2 - thick) + pecked(pins[1], 2 - thick)), "hole_closed"));
  CHECK(has(layer(pecked(pins[0], -1) + pecked(pins[1], -1)), "hole_closed"));
  CHECK(has(layer(pecked({6, 40}, -9) + pecked({74, 40}, -9)), "hole_closed"));
  // One that is found in another way has none.
  CHECK_FALSE(has(layer(pecked(pins[0], -1), false), "hole_closed"));
}

TEST_CASE("P2: holes of pins lead into the waste board by their own program, even where the wood is open already") {
  // As where layers' holes, full of glue, are bored again: just through the blank no pin finds the waste board.
  const auto bored = [](double first, double second, bool pinned) {
    Turned t;
    t.bored = pecked(pins[0], first) + pecked(pins[1], second);
    PieceRequest r = two_sides(t);
    r.sides[0].design.pinned = pinned;
    return kinds(prove(r));
  };
  const double through = -(thick + 1);
  CHECK(bored(through, through, true).empty());
  CHECK(has(bored(-thick, -thick, true), "hole_closed"));
  CHECK(has(bored(through, -thick, true), "hole_closed"));
  CHECK_FALSE(has(bored(-thick, -thick, false), "hole_closed"));
}

TEST_CASE("M8: pins that end under the blank's top are met further down") {
  const auto over_pins = [](double deep) {
    return said([&](Turned& t) { t.back = milled({{2, 30}, {12, 30}}, -deep); });
  };
  CHECK(has(over_pins(6), "into_clamp"));
  CHECK_FALSE(has(over_pins(3), "into_clamp"));
  // On the first side they stand once a hand has set them.
  CHECK(has(said([](Turned& t) { t.front = milled({{2, 30}, {12, 30}}, -6); }), "into_clamp"));
}

TEST_CASE("P2: the first side leaves the edge that lies at the fence") {
  // Turned about its length the edge at y 60 comes to lie at the fence, 6 mm high.
  const auto edge = [](double y, double deep, double to) {
    return said([&](Turned& t) {
      t.found_by = RegisterKind::fence;
      t.front = milled({{-4, y}, {to, y}}, -deep);
    });
  };
  CHECK(has(edge(61, 6, 84), "register_gone"));
  CHECK(has(edge(61.7, 6, 84), "register_gone"));      // a skim of three tenths
  CHECK(has(edge(61, 6, 50), "register_gone"));        // more than half of it
  CHECK_FALSE(has(edge(61, 2, 84), "register_gone"));  // what is left under the fence's top still lies there
  CHECK_FALSE(has(edge(61, 6, 6), "register_gone"));   // a corner
  CHECK_FALSE(has(edge(57, 6, 84), "register_gone"));  // a groove inside it
  CHECK_FALSE(has(edge(-1, 6, 84), "register_gone"));  // the other edge
}

TEST_CASE("P2: the first side leaves the ticks that the turned side is laid by") {
  const auto tick = [](double x) {
    return said([&](Turned& t) {
      t.found_by = RegisterKind::lines;
      t.front = milled({{x - 4, 61}, {x + 4, 61}}, -6);
    });
  };
  CHECK(has(tick(40), "register_gone"));
  CHECK_FALSE(has(tick(60), "register_gone"));
}

TEST_CASE("M10: the turned blank lies on what surrounds it") {
  // All round the plate the first side takes a millimetre off: the blank would stand on the plate's own face.
  const auto lowered = [](double from, double to) {
    std::string out = "G0" + at(-4, 1) + "\nZ2.500\nG1Z-1.000F300\n";
    for (double y = 1; y < 60; y += 2) {
      for (double x = -4; x < 84; x += 2) {
        // The plate and a little about it stay.
        const bool stays = x > from && x < to && y > 11 && y < 49;
        out += fmt::format("G1X{:.3f}Y{:.3f}Z{:.3f}F1200\n", x, y, stays ? 1.0 : -1.0);
      }
      out += fmt::format("G0Z3.000\nG0X-4.000Y{:.3f}\nG1Z-1.000F300\n", y + 2);
    }
    return said([&](Turned& t) {
      t.found_by = RegisterKind::lines;
      t.front = out + "G0Z5.000\n";
      t.probe = Setup::Probe{{-10, 8}, true};
    });
  };
  CHECK(has(lowered(30, 50), "lies_loose"));
  CHECK_FALSE(has(lowered(-10, 90), "lies_loose"));
  // All of it taken lower, it lies lower.
  const auto faced = [](double deep) {
    std::string out;
    for (double y = 0; y < 64; y += 3) out += milled({{-4, y}, {84, y}}, -deep);
    return said([&](Turned& t) {
      t.found_by = RegisterKind::lines;
      t.front = out;
    });
  };
  CHECK(has(faced(0.6), "lies_low"));
  CHECK_FALSE(has(faced(0.2), "lies_low"));
}

TEST_CASE("M10: a clamp presses on wood that lies on the bed") {
  // It stands at the blank's lower left corner; what lies there on the turned side was at the upper left of the first.
  const auto clamped = [](double deep, double to_x, bool fixed = false) {
    Turned t;
    t.found_by = RegisterKind::lines;
    t.probe = Setup::Probe{{-10, 8}, true};
    std::string out;
    for (double y = 53; y < 61; y += 2) out += milled({{-2, y}, {to_x, y}}, -deep);
    if (deep > 0) t.front = out;
    PieceRequest r = two_sides(t);
    r.held = fixed;
    r.sides[1].setup.blank.clamps.push_back({"C1", {0, 0}, {8, 8}, thick + 2});
    r.sides[1].setup.blank.clamps.push_back({"beside", {-9, 20}, {-1, 30}, thick + 2});
    return kinds(prove(r));
  };
  CHECK_FALSE(has(clamped(0, 0), "clamp_hollow"));
  CHECK(has(clamped(3, 10), "clamp_hollow"));
  CHECK(has(clamped(0.3, 10), "clamp_hollow"));
  CHECK(has(clamped(3, 4), "clamp_hollow"));          // three quarters of it
  CHECK_FALSE(has(clamped(3, 0.5), "clamp_hollow"));  // a third
  CHECK_FALSE(has(clamped(3, 10, true), "clamp_hollow"));
}

TEST_CASE("M7: what is probed on the turned side has wood under it, and a whole waste board") {
  // Probed at x 8, y 8 of the back: y 52 of the front.
  const auto bored = [](Vec2 p, double bottom) { return said([&](Turned& t) { t.front = pecked(p, bottom); }); };
  CHECK(has(bored({8, 52}, -thick - through), "probe_gone"));
  CHECK(has(bored({11, 52}, -thick - through), "probe_gone"));
  CHECK(has(bored({8, 52}, -thick + 1.5), "probe_gone"));  // it bends
  CHECK_FALSE(has(bored({8, 52}, -thick + 4), "probe_gone"));
  CHECK_FALSE(has(bored({16, 52}, -thick - through), "probe_gone"));
  const auto scratched = [](double x, double deep) {
    return said([&](Turned& t) {
      t.probe = Setup::Probe{{-10, 8}, true};
      t.front = milled({{-10 - x, 2}, {-10 - x, 14}}, -thick - deep);
    });
  };
  CHECK(has(scratched(0, 0.1), "probe_gone"));
  CHECK_FALSE(has(scratched(0, -0.1), "probe_gone"));
  CHECK_FALSE(has(scratched(6, 0.1), "probe_gone"));
}

TEST_CASE("P3: a wall that both sides cut is whole down to its foot, and where they meet") {
  // The turned outline is led a quarter of a millimetre out along the side without a tab, on every level deeper than
  // `deep`; the first side has cut the same stretch as it should be, down to `front`.
  const auto wall = [](double front, int deep) {
    Turned t;
    const double x = high.x + 2;
    if (front > 0) t.front = milled({{x, low.y + 4}, {x, high.y - 4}}, -front);
    PieceRequest r = two_sides(t);
    std::string text = r.sides[1].programs.back().text.str();
    const std::string end = at(x, high.y + 2) + "\n";
    const std::string led = at(x, low.y + 8) + "\n" + at(x + 0.25, low.y + 9) + "\n" + at(x + 0.25, high.y - 9) + "\n" +
                            at(x, high.y - 8) + "\n";
    int level = 0;
    for (std::size_t k = text.find(end); k != std::string::npos; k = text.find(end, k + end.size())) {
      if (++level <= deep) continue;
      text.insert(k, led);
      k += led.size();
    }
    REQUIRE(level == 11);
    r.sides[1].programs.back().text = text;
    return kinds(prove(r));
  };
  CHECK(wall(0, 11).empty());
  for (const int deep : {10, 9, 8, 6, 3}) {
    CAPTURE(deep);
    CHECK(has(wall(0, deep), "wall_proud") == (deep < 10));
    for (const double front : {1.0, 2.5, 4.4, 5.3, 6.7}) {
      CAPTURE(front);
      const auto told = wall(front, deep);
      CHECK(has(told, "wall_proud") == (front + deep < 10));
      CHECK_FALSE(has(told, "wall_cut"));
    }
  }
}

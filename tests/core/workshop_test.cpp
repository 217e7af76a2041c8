#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

#include "core/instrument/fretboard.hpp"
#include "core/motion/link.hpp"
#include "core/motion/path_time.hpp"
#include "core/program/digits.hpp"
#include "core/program/reader.hpp"
#include "core/program/writer.hpp"
#include "core/workshop/setup.hpp"
#include "core/workshop/safe_height.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {
Polygon demo_outline() { return make_fretboard({})->corners; }
}  // namespace

TEST_CASE("jog distances: home to the crossed lines, then back by half the blank") {
  const Machine m;
  Blank b;
  const Setup s = make_setup(m, b, demo_outline());
  REQUIRE(s.jogs.size() == 2);
  CHECK(s.jogs[0].x == 350);
  CHECK(s.jogs[0].y == 500);
  CHECK(s.jogs[1].x == -255);
  CHECK(s.jogs[1].y == -37.5);
  CHECK_THAT(s.zero_in_machine.x, WithinAbs(95, 1e-12));
  b.zero = ZeroPlace::centre;
  const Setup c = make_setup(m, b, demo_outline());
  CHECK(c.jogs.size() == 1);
  CHECK_THAT(c.blank_corner.x, WithinAbs(-255, 1e-12));
}

TEST_CASE("the board is centred in its blank however it lies, and the transform goes back as it came") {
  for (const Lie lie : {Lie::along_x, Lie::along_y})
    for (const ZeroPlace zero : {ZeroPlace::corner, ZeroPlace::centre}) {
      Blank b;
      b.lie = lie;
      b.zero = zero;
      const Setup s = make_setup({}, b, demo_outline());
      const double left = s.board_low.x - s.blank_corner.x;
      const double right = s.blank_corner.x + s.blank_size.x - s.board_high.x;
      CHECK_THAT(left, WithinAbs(right, 1e-9));
      const Vec2 p{123.4, -5.6};
      const Vec2 q = s.to_work.back(s.to_work.apply(p));
      CHECK_THAT(distance(p, q), WithinAbs(0, 1e-9));
      // The matrix says the same as the transform, and is rigid: its plan part has determinant 1.
      const auto m = s.matrix();
      CHECK_THAT(m[0] * p.x + m[1] * p.y + m[3], WithinAbs(s.to_work.apply(p).x, 1e-9));
      CHECK_THAT(m[4] * p.x + m[5] * p.y + m[7], WithinAbs(s.to_work.apply(p).y, 1e-9));
      CHECK_THAT(m[0] * m[5] - m[1] * m[4], WithinAbs(1, 1e-12));
      CHECK_THAT(m[11], WithinAbs(-6.6, 1e-12));
    }
}

TEST_CASE("a cutter's profile: flat, ball, round nose and drill") {
  const Rack rack = default_rack();
  const Cutter flat = *find_cutter(rack, "flat-6.35");
  CHECK(flat.profile(3) == 0);
  const Cutter ball = *find_cutter(rack, "ball-6.35");
  CHECK_THAT(ball.profile(0), WithinAbs(0, 1e-12));
  CHECK_THAT(ball.profile(3.175), WithinAbs(3.175, 1e-12));
  CHECK_THAT(ball.profile(2), WithinAbs(3.175 - std::sqrt(3.175 * 3.175 - 4), 1e-12));
  const Cutter nose = *find_cutter(rack, "round-12.7");
  CHECK(nose.profile(3.1) == 0);
  CHECK_THAT(nose.profile(6.35), WithinAbs(3.175, 1e-12));
  const Cutter drill = *find_cutter(rack, "drill-4");
  CHECK_THAT(drill.profile(2), WithinAbs(2 / std::tan(59 * 3.14159265358979 / 180), 1e-9));
  for (const Cutter& c : rack) CHECK(check_cutter(c).empty());
}

TEST_CASE("a cutter that cannot be is told, each mistake on its own") {
  Cutter c = default_rack()[3];
  c.diameter = -1;
  CHECK(check_cutter(c).size() == 1);
  c = default_rack()[3];
  c.measured = 9;
  CHECK_THAT(check_cutter(c).at(0).text(), Contains("far from the nominal"));
  c = default_rack()[3];
  c.cutting_length = 500;
  CHECK(check_cutter(c).size() == 1);
  c = default_rack()[3];
  c.stickout = 60;
  CHECK(check_cutter(c).size() == 1);
  c = default_rack()[3];
  c.flutes = 0;
  CHECK(check_cutter(c).size() == 1);
  CHECK_THAT(missing_cutter(default_rack(), "x", "slot.cutter").todo, Contains("slot-0.58"));
  CHECK_THAT(missing_cutter({}, "x", "slot.cutter").todo, Contains("Put a cutter"));
}

TEST_CASE("links rise above clamps where the collet nut would pass them, and hop where nothing stands") {
  Blank blank;
  blank.clamps = {{"mid", {98, 30}, {104, 40}, 18}};
  const Setup s = make_setup({}, blank, demo_outline());
  const double safe = safe_height(s, 10);
  CHECK_THAT(safe, WithinAbs(18 - 6.6 + 10, 1e-9));
  const auto strand = [](double x0, double x1, double y) {
    Strand t;
    t.start = {x0, y, 6};
    t.free_z = 6.6;
    t.plunge_feed = 100;
    t.steps = {{{x1, y, 5}, {}, 500, StepKind::line}};
    return t;
  };
  // Two short strands with a gap of 10 mm: once far from the clamp, once across it.
  for (const bool near : {false, true}) {
    const Vec2 shift = s.to_work.back({near ? 96.0 : 300.0, 35});
    Cut cut;
    cut.id = "test";
    cut.cutter = "flat-3.175";
    cut.strands = {strand(shift.x - 5, shift.x, shift.y), strand(shift.x + 10, shift.x + 15, shift.y)};
    const auto paths = link_cuts({cut}, s, default_rack(), {safe, 2, 0.5, 15});
    REQUIRE(paths.size() == 1);
    double over = -1e9;
    for (const Move& m : paths[0].moves)
      if (m.kind == MoveKind::rapid && &m != &paths[0].moves.back() && m.to.x > (near ? 95 : 299) &&
          m.to.x < (near ? 107 : 311))
        over = std::max(over, m.to.z);
    CHECK_THAT(over, WithinAbs(near ? safe : 2, 1e-6));
    CHECK_THAT(paths[0].moves.back().to.z, WithinAbs(safe, 1e-9));
  }
}

TEST_CASE("feeds are held for the places that a program tells, in whatever digits") {
  const Setup s = make_setup({}, {}, demo_outline());
  Cut cut;
  cut.id = "test";
  cut.cutter = "flat-3.175";
  Strand strand;
  strand.start = {10, 10, 5};
  strand.free_z = 6.6;
  strand.plunge_feed = 100;
  // Short and just so steep that rounding decides: 29° to 31°.
  Vec3 at = strand.start;
  for (int k = 0; k < 400; ++k) {
    const double run = 0.02 + 1.37e-4 * k;
    at = {at.x + run, at.y, at.z + (k % 2 == 0 ? 1 : -1) * run * (0.55 + 1e-4 * k)};
    strand.steps.push_back({at, {}, 3000, StepKind::line});
  }
  cut.strands = {strand};
  for (const UnitSystem units : {UnitSystem::millimetre, UnitSystem::inch}) {
    LinkHeights heights;
    heights.digit = last_digit(units);
    const auto paths = link_cuts({cut}, s, default_rack(), heights);
    REQUIRE(paths.size() == 1);
    std::string text = units == UnitSystem::inch ? "G20\n" : "G21\n";
    write_moves(text, paths[0], {units, true, 0.002});
    const auto read = read_program(text);
    REQUIRE(read);
    double fastest = 0;
    Vec3 from;
    for (const ReadMove& m : read->moves) {
      if (m.kind == ReadKind::line && distance(m.to, from) > 1e-4)
        fastest = std::max(fastest, std::abs(m.to.z - from.z) / distance(m.to, from) * static_cast<double>(m.feed));
      from = m.to;
    }
    CHECK(fastest <= s.machine.max_feed.z * 1.0005);
    CHECK(fastest > s.machine.max_feed.z * 0.9);
  }
}

TEST_CASE("arcs wider than a controller's numbers hold are written as lines") {
  for (const double radius : {9000.0, 20000.0}) {
    Toolpath path;
    path.start = {0, 0, 10};
    path.moves = {{{0, 0, 0}, {}, 100, 0, MoveKind::plunge},
                  {{100, 0, 0}, {50, -std::sqrt(radius * radius - 2500)}, 1000, 0, MoveKind::arc_cw}};
    std::string text = "G21\n";
    write_moves(text, path, {UnitSystem::millimetre, true, 0.002});
    const auto read = read_program(text);
    REQUIRE(read);
    const auto arcs = std::count_if(read->moves.begin(), read->moves.end(),
                                    [](const ReadMove& m) { return m.kind == ReadKind::arc; });
    CHECK(arcs == (radius < 10000 ? 1 : 0));
    double highest = 0;  // the arc's middle stands off its chord
    for (const ReadMove& m : read->moves) highest = std::max(highest, m.to.y);
    if (arcs == 0) CHECK_THAT(highest, WithinAbs(radius - std::sqrt(radius * radius - 2500), 0.003));
  }
}

TEST_CASE("cuts with one cutter in a row share a program; a stop or another cutter begins a new one") {
  const Setup s = make_setup({}, {}, demo_outline());
  const auto cut = [](const char* id, const char* cutter, bool stop = false) {
    Cut c;
    c.id = id;
    c.cutter = cutter;
    c.stop_before = stop;
    c.stop_text = "wait";
    c.strands = {{{10, 0, 6}, 6.6, 100, {{{20, 0, 5}, {}, 500, StepKind::line}}}};
    return c;
  };
  const auto paths =
      link_cuts({cut("a", "flat-3.175"), cut("b", "flat-3.175"), cut("c", "flat-6.35"), cut("d", "flat-6.35", true)}, s,
                default_rack(), {});
  REQUIRE(paths.size() == 3);
  CHECK(paths[0].cuts == std::vector<std::string>{"a", "b"});
  CHECK(paths[2].stops.size() == 1);
  CHECK(link_cuts({cut("x", "no such cutter")}, s, default_rack(), {}).empty());
}

TEST_CASE("the extents of an arc include its bulge") {
  Toolpath path;
  path.start = {0, 0, 5};
  path.moves = {{{10, 0, 0}, {}, 0, 0, MoveKind::rapid}, {{-10, 0, 0}, {0, 0}, 500, 0, MoveKind::arc_ccw}};
  const Extents e = extents(path);
  CHECK_THAT(e.high.y, WithinAbs(10, 1e-9));
  CHECK_THAT(e.low.y, WithinAbs(0, 1e-9));
}

TEST_CASE("an arc is taken no faster than its curvature allows, and no axis faster than it can") {
  Toolpath path;
  path.start = {2, 0, 0};
  for (int k = 0; k < 50; ++k) {
    path.moves.push_back({{-2, 0, 0}, {0, 0}, 6000, 0, MoveKind::arc_ccw});
    path.moves.push_back({{2, 0, 0}, {0, 0}, 6000, 0, MoveKind::arc_ccw});
  }
  Machine m;
  m.max_feed = {6000, 6000, 600};
  // 50 circles of radius 2 at v = √(a·r) = 31.6 mm/s.
  CHECK_THAT(estimate_seconds(path, m), WithinAbs(50 * 2 * 3.14159265 * 2 / std::sqrt(500 * 2.0), 0.5));
  Toolpath up;
  up.start = {0, 0, 0};
  up.moves = {{{0, 0, 100}, {}, 6000, 0, MoveKind::feed}};
  CHECK(estimate_seconds(up, m) >= 10.0);
}

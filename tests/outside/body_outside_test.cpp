// The body against what nobody here wrote: statics, trigonometry and closed forms. Each check names its source.
#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>

#include "core/instrument/body_balance.hpp"
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {

constexpr double pi = std::numbers::pi;

/// A body whose skins are flat and whose outline is given, with nothing let into it.
BodyShape plain_body(Contour outline, std::vector<double> layers) {
  BodyShape s;
  s.outline = std::move(outline);
  s.corners = flatten(s.outline, 0.001);
  s.inside = std::make_shared<const RegionMask>(Region{s.corners});
  s.given.comfort.round_face = s.given.comfort.round_back = 0;
  double z = 0;
  for (const double t : layers) {
    s.layers.push_back({{"l", t, "cherry"}, z, z - t});
    z -= t;
  }
  s.thickness = -z;
  return s;
}

void add_hidden(BodyShape& s, const char* id, Region region, double floor) {
  Cavity c;
  c.id = id;
  c.floor = floor;
  c.layer = 1;
  c.mask = std::make_shared<const RegionMask>(region);
  c.region = std::move(region);
  s.cavities.push_back(std::move(c));
}

}  // namespace

/// One density for each layer.
static DensityAt each(std::vector<double> densities) {
  return [all = std::move(densities)](std::size_t k, Vec2) { return all.at(k); };
}

TEST_CASE("centre of mass of an L and of a disk with a hole, by hand (composite bodies, textbook statics)") {
  // L of two rectangles 100 × 20 and 20 × 60: areas 2000 and 1200, centroids (50, 10) and (10, 50).
  BodyShape l =
      plain_body({{{0, 0}, 0}, {{100, 0}, 0}, {{100, 20}, 0}, {{20, 20}, 0}, {{20, 80}, 0}, {{0, 80}, 0}}, {40});
  const BodyBalance a = balance(l, each({560}), {}, 0.5);
  CHECK_THAT(a.volume_mm3, WithinAbs(3200 * 40, 200));
  CHECK_THAT(a.body_centre.x, WithinAbs((2000 * 50 + 1200 * 10) / 3200.0, 0.05));
  CHECK_THAT(a.body_centre.y, WithinAbs((2000 * 10 + 1200 * 50) / 3200.0, 0.05));
  CHECK_THAT(a.body_g, WithinAbs(3200 * 40 * 560e-6, 0.2));
  // Disk of radius 100, 6 + 34 thick, with a chamber of radius 30 at (40, 0), 20 deep under the top.
  BodyShape disk = plain_body({{{100, 0}, 1}, {{-100, 0}, 1}}, {6, 34});
  add_hidden(disk, "chamber-x", {circle_polygon({40, 0}, 30)}, -26);
  const BodyBalance b = balance(disk, each({670, 560}), {}, 0.5);
  const double top = pi * 1e4 * 6;
  const double low = pi * 1e4 * 34;
  const double hole = pi * 900 * 20;
  CHECK_THAT(b.volume_mm3, WithinAbs(top + low - hole, 0.001 * (top + low)));
  const double mass = top * 670e-6 + (low - hole) * 560e-6;
  CHECK_THAT(b.body_g, WithinAbs(mass, 0.001 * mass));
  CHECK_THAT(b.body_centre.x, WithinAbs(-hole * 560e-6 * 40 / mass, 0.05));
  CHECK_THAT(b.chambers_g, WithinAbs(hole * 560e-6, 0.3));
  // With a weight hung on: the lever rule.
  const BodyBalance c = balance(disk, each({670, 560}), {{"neck", 600, {-300, 0}}}, 0.5);
  CHECK_THAT(c.whole_centre.x, WithinAbs((b.body_centre.x * mass - 300.0 * 600) / (mass + 600), 0.1));
}

TEST_CASE(
    "hanging without friction halves the strap's angle; with it the instrument stays level within the rope's limit "
    "(rope over a drum, textbook statics)") {
  const Vec2 a{0, -100};
  const Vec2 b{400, 0};
  for (const double gx : {160.0, 200.0, 240.0}) {
    const HangWay way = hang(a, b, 1200, {gx, -10}, 1, 0);
    const Vec2 pa = unit(a - way.shoulder);
    const Vec2 pb = unit(b - way.shoulder);
    const Vec2 down = unit(Vec2{gx, -10} - way.shoulder);
    const Vec2 half = unit(pa + pb);
    CHECK(std::abs(std::asin(cross(half, down))) < 0.012);  // the search goes in half degrees
    CHECK_THAT(distance(a, way.shoulder) + distance(b, way.shoulder), WithinAbs(1200, 1e-6));
  }
  // Symmetric: level.
  CHECK_THAT(hang({0, 0}, {400, 0}, 1200, {200, 0}, 1, 0).angle, WithinAbs(0, 1e-9));
  // Friction e^(μπ): with μ = 0.25 a ratio of 2.19 is held, so between 31 % and 69 % of the way it stays level.
  CHECK_THAT(hang({0, 0}, {400, 0}, 4000, {0.36 * 400, 0}, 1, 0.25).angle, WithinAbs(0, 1e-9));
  // Beyond that it swings until the offsets, turned with it, are within the limit again: G lies 60 under the line of
  // the buttons.
  CHECK(hang({0, 0}, {400, 0}, 4000, {0.2 * 400, 60}, 1, 0.25).angle < -0.02);
  CHECK(hang({0, 0}, {400, 0}, 4000, {0.8 * 400, 60}, 1, 0.25).angle > 0.02);
}

TEST_CASE("the set-up of a worked example drawn by plane trigonometry") {
  // Flat board 6 thick, frets 1 high, scale 600; heel ends at 450 and is 24 in all: 18 under the glue plane. Zero fret,
  // action 2 at fret 12 on both sides. The string lies 7 over the glue plane at the zero fret, 9 at fret 12 and 11 at
  // 600.
  Instrument in;
  in.strings.scale_bass = in.strings.scale_treble = 600;
  in.frets.count = 20;
  in.frets.zero_fret = true;
  in.frets.crown_height = 1;
  in.board.thickness = 6;
  in.crown.kind = CrownKind::flat;
  in.strings.nut_spread = in.strings.bridge_spread = 40;
  const auto board = make_fretboard(in);
  REQUIRE(board);
  HeelInUse heel;
  heel.end_x = 450;
  heel.in_all = 24;
  heel.board = 6;
  Body body = usual_body();
  body.setup.action_bass = body.setup.action_treble = 2;
  body.bridge.low = 15;
  body.bridge.high = 25;
  body.setup.reserve = 1;
  // Parallel strings of equal length end at x = 600 exactly; S − H = (150, 29).
  body.setup.follows = PocketFollows::depth;
  body.setup.tilt_deg = 0;
  auto s = work_out_setup(*board, heel, body);
  REQUIRE(s);
  CHECK_THAT(s->depth_end, WithinAbs(29 - 16, 1e-9));
  // Tilted by the angle of a 3-4-5-like pair, tan θ = 1/24: n = (1, 24)/√577.
  body.setup.tilt_deg = std::atan(1.0 / 24) * 180 / pi;
  s = work_out_setup(*board, heel, body);
  REQUIRE(s);
  CHECK_THAT(s->depth_end, WithinAbs((150 * 1 + 29 * 24) / std::sqrt(577.0) - 16, 1e-9));
  CHECK_THAT(s->saddles.front().height, WithinAbs(16, 1e-9));
  // And back: that depth given, that tilt follows.
  body.setup.follows = PocketFollows::tilt;
  body.setup.depth = s->depth_end;
  const auto t = work_out_setup(*board, heel, body);
  REQUIRE(t);
  CHECK_THAT(std::tan(t->tilt), WithinAbs(1.0 / 24, 1e-9));
  // The floor at the edge, 58 nearer the nut, is deeper by 58/24.
  CHECK_THAT(t->depth_edge - t->depth_end, WithinAbs(58.0 / 24, 1e-6));
  // Strings flat on the frets: 7 over the glue plane all along.
  body.setup.school = SetupSchool::flat;
  body.setup.follows = PocketFollows::depth;
  body.setup.tilt_deg = 0;
  s = work_out_setup(*board, heel, body);
  REQUIRE(s);
  CHECK_THAT(s->depth_end, WithinAbs(25 - 15, 1e-9));
  CHECK_THAT(s->least_down, WithinAbs(4, 1e-9));  // at the action wanted the saddles stand 4 higher
  CHECK_THAT(s->least_up, WithinAbs(6, 1e-9));
  // String over fret: a straight line from 0 at the zero fret through 2 at fret 12 (equal temperament for the places).
  const auto over = string_over_frets(*board, body.setup, 1);
  CHECK_THAT(over[12], WithinAbs(2, 1e-9));
  CHECK_THAT(over[5], WithinAbs(4 * (1 - std::exp2(-5.0 / 12)), 1e-9));
}

TEST_CASE("facts of the trade about bodies (common practice)") {
  const Body b = usual_body();
  CHECK(b.controls.cover_clearance == 0.25);  // cover 0.25 smaller each side
  CHECK(b.controls.bushing_left == 3);        // thinned to about 3 for the bushing
  CHECK(known_pickups()[1].depth == 19);      // main depth about 19, ears to 25
  CHECK(known_pickups()[1].ear_depth == 25);
  CHECK(b.controls.magnet == 6.35);
  CHECK(b.controls.magnet_depth == 3.2);
  CHECK(b.bridge.ferrule_depth == 12.7);
  CHECK(BodyWork{}.tabs == 4);
  CHECK(BodyWork{}.through > 0);  // a through cut at exactly the measured thickness leaves a skin
}

TEST_CASE("the round-over cutter leaves the circle it is named for (circle geometry)") {
  Cutter c;
  c.kind = CutterKind::round_over;
  c.diameter = 10;
  c.corner_radius = 3;
  // Wood at a distance ρ from the axis stands under the cutter by √(R² − (r0 + R − ρ)²).
  CHECK_THAT(c.profile(2.0), WithinAbs(0, 1e-12));
  CHECK_THAT(c.profile(5.0), WithinAbs(3, 1e-12));
  CHECK_THAT(c.profile(2 + 3 - 3 / std::sqrt(2.0)), WithinAbs(3 / std::sqrt(2.0), 1e-12));
}

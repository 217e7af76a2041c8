// The neck against closed forms and published formulas.
#include <catch2/catch.hpp>

#include <numbers>

#include "core/instrument/headstock.hpp"
#include "support/made.hpp"
#include "core/instrument/neck_remarks.hpp"
#include "core/instrument/neck_strength.hpp"
#include "core/skin/spline_surface.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;
using Catch::Matchers::WithinRel;

namespace {

constexpr double pi = std::numbers::pi;

/// A neck whose shaft has one round section from end to end: the board does not taper and the thickness stays.
Project even_neck(double half_width, double depth) {
  Project p = *project_from("reedling");
  Instrument& in = board_of(p).instrument;
  in.strings.nut_spread = in.strings.bridge_spread = 2 * half_width - 2 * in.board.edge_margin;
  neck_of(p).neck.back.with_board = false;
  neck_of(p).neck.back.thickness_a = neck_of(p).neck.back.thickness_b = depth;
  neck_of(p).neck.back.shape_a = neck_of(p).neck.back.shape_b = BackShape::round;
  neck_of(p).neck.rod.kind = RodKind::none;
  return p;
}

NeckShape neck_from(const Project& p) { return *make_neck(*make_fretboard(board_of(p).instrument), neck_of(p).neck); }

}  // namespace

TEST_CASE(
    "geometry: a round back of constant section is half an elliptic cylinder, and half a round one where depth is half "
    "the width") {
  for (const auto& [w, t] : {std::pair{24.0, 24.0}, {22.0, 15.0}}) {
    const NeckShape n = neck_from(even_neck(w, t));
    const double x0 = 60;
    const double x1 = 260;
    TwoSkin shaft{
        {{{x0, -w}}, {{x1, -w}}, {{x1, w}}, {{x0, w}}}, [](Vec2) { return 0.0; }, [&](Vec2 p) { return -n.depth(p); }};
    CHECK_THAT(mass_properties(shaft, 0.5).volume_mm3, WithinRel(pi / 2 * w * t * (x1 - x0), 2e-4));
    for (double y = -w + 0.5; y < w; y += 1.3)
      CHECK_THAT(n.depth({150, y}), WithinAbs(t * std::sqrt(1 - y * y / (w * w)), 1e-9));
    // Curvature across at the bottom of a circle of radius w.
    if (w == t)
      CHECK_THAT(-(n.depth({150, 0.4}) - 2 * n.depth({150, 0}) + n.depth({150, -0.4})) / 0.16, WithinAbs(1 / w, 1e-4));
  }
}

TEST_CASE("geometry: a tilted head is a prism square to its face") {
  Project p = *project_from("reedling");
  neck_of(p).neck.head.kind = HeadKind::tilted;
  neck_of(p).neck.head.angle_deg = 13;
  neck_of(p).neck.head.thickness = 14;
  const NeckShape n = neck_from(p);
  const double a = 13 * pi / 180;
  const double from = -60;
  const double to = -95;
  TwoSkin piece{{{{to, -6}}, {{from, -6}}, {{from, 6}}, {{to, 6}}},
                [&](Vec2 q) { return n.front(q); },
                [&](Vec2 q) { return -n.depth(q); }};
  // Plan length over the cosine is the length along the face.
  CHECK_THAT(mass_properties(piece, 0.5).volume_mm3, WithinRel(14 * 12 * (from - to) / std::cos(a), 1e-6));
  CHECK_THAT((n.front({-60, 0}) - n.front({-90, 0})) / 30, WithinAbs(std::tan(a), 1e-9));
}

TEST_CASE("geometry: a scarf's sawn face is the plank's thickness over the sine of the angle") {
  Project p = *project_from("reedling");
  neck_of(p).neck.head.kind = HeadKind::tilted;
  neck_of(p).neck.head.angle_deg = 14;
  const Scarf s = scarf_of(neck_from(p), 20);
  CHECK_THAT(s.face, WithinAbs(20 / std::sin(14 * pi / 180), 1e-9));
  CHECK_THAT(s.face, WithinAbs(82.67, 0.01));
}

TEST_CASE("Fletcher & Rossing, ch. 2: tension of a plain steel string (72.59 N for 0.254 mm, 648 mm, 329.63 Hz)") {
  Project p = *project_from("reedling");
  board_of(p).instrument.strings.scale_bass = board_of(p).instrument.strings.scale_treble = 648;
  const StringPull pull = string_pull(*make_fretboard(board_of(p).instrument), "E2 A2 D3 G3 B3 E4");
  CHECK_THAT(pull.tension.back(), WithinAbs(72.59, 0.05));
  double sum = 0;
  for (const double t : pull.tension) sum += t;
  CHECK_THAT(pull.total, WithinAbs(sum, 1e-9));
}

TEST_CASE("Roark's Formulas: section of a half ellipse, and a beam under an end moment") {
  // Half ellipse about its own centroid: I = (π/8 − 8/(9π))·a·b³ with a the half width, b the depth.
  Project p = even_neck(24, 16);
  const NeckShape n = neck_from(p);
  NeckWoods woods;
  woods.neck_gpa = 10;
  woods.board_gpa = 0;  // the board left out
  const SectionStiffness s = section_stiffness(n, 150, woods);
  const double i = (pi / 8 - 8 / (9 * pi)) * 24 * 16 * 16 * 16;
  CHECK_THAT(s.ei / 10000, WithinRel(i, 0.003));
  CHECK_THAT(s.neutral_z, WithinAbs(-4 * 16 / (3 * pi), 0.02));
  CHECK_THAT(s.area, WithinRel(pi / 2 * 24 * 16, 0.002));
  // A constant moment bends an even beam to a circle: nut rise = M·L²/(2·EI); relief = M·L²/(8·EI).
  StringPull pull;
  pull.total = 400;
  woods.board_gpa = 8;
  // The changes to head and heel stiffen the ends: a beam that is even over most of its length lies just under the
  // formula.
  const NeckBend b = neck_bend(n, pull, woods);
  const SectionStiffness even = section_stiffness(n, 150, woods);
  const double moment = 400 * (n.board->given.board.thickness + n.board->given.frets.crown_height + 1 - even.neutral_z);
  const double l = n.heel_x - 1;
  CHECK(b.relief < moment * l * l / (8 * even.ei) * 1.02);
  CHECK(b.relief > moment * l * l / (8 * even.ei) * 0.8);
  CHECK(b.nut_rise > 3 * b.relief);
}

TEST_CASE("geometry: strings run on behind the nut in one straight line to the side of their post") {
  for (const char* from : {"reedling", "sedge", "bass"}) {
    Project p = *project_from(from);
    for (const bool left : {false, true}) {
      board_of(p).instrument.strings.left_handed = left;
      const NeckShape n = neck_from(p);
      for (const Tuner& t : n.tuners) {
        const StringLine& s = n.board->strings[static_cast<std::size_t>(t.string - 1)];
        const Vec2 contact = post_contact(n, t);
        // Saddle, nut and contact in line, and the line as far from the post's middle as post and string are thick.
        CHECK_THAT(cross(unit(s.nut - s.saddle), contact - s.saddle), WithinAbs(0, 1e-9));
        CHECK_THAT(distance(contact, t.at), WithinAbs(neck_of(p).neck.tuner.post / 2 + s.gauge / 2, 1e-9));
        CHECK_THAT(dot(unit(s.nut - s.saddle), t.at - s.nut), WithinAbs(t.behind_nut, 1e-9));
      }
    }
  }
}

TEST_CASE("Eilers & Marx: a quadratic surface costs the penalty nothing, and a spline reproduces it") {
  std::vector<FairSample> samples;
  const auto f = [](double u, double v) { return 3 + 0.2 * u - 0.01 * u * u + v + 0.5 * v * v; };
  for (double u = 0; u <= 10; u += 0.5)
    for (double v = 0; v <= 3; v += 0.25) samples.push_back({u, v, f(u, v), 1});
  FairOptions o;
  o.u1 = 10;
  o.v1 = 3;
  o.within = 1e-3;
  const auto fit = fit_fair(samples, o);
  REQUIRE(fit);
  CHECK(fit->worst < 1e-3);
  for (double u = 0.3; u < 10; u += 1.1)
    for (double v = 0.1; v < 3; v += 0.7) CHECK_THAT(fit->surface.value(u, v), WithinAbs(f(u, v), 2e-3));
}

TEST_CASE("common practice: the numbers a neck starts with") {
  const Neck n;
  CHECK(n.heel.thickness == 25.4);  // a bolted heel in all
  CHECK(n.rod.width == 6.35);
  CHECK((n.rod.depth >= 9 && n.rod.depth <= 11));
  CHECK((n.back.thickness_a >= 20 && n.back.thickness_b <= 25));
  CHECK((n.head.thickness >= 12 && n.head.thickness <= 15));
  CHECK((n.tuner.hole >= 8 && n.tuner.hole <= 10));
  CHECK((n.tuner.pitch >= 24 && n.tuner.pitch <= 25));
  CHECK(n.tuner.pilot == 1.6);
}

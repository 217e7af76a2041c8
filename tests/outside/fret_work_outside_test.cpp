// Frets, fillings and single bridge pieces against closed forms and worked examples.
#include <fmt/format.h>
#include <numbers>

#include "core/instrument/fret_work.hpp"
#include "support/made.hpp"

namespace wren {

// Timoshenko, Analysis of Bi-metal Thermostats, J. Opt. Soc. Am. 11 (1925), equation (4), in full: with m = a₁/a₂ and
// n = E₁/E₂ the curvature of a strip whose layers differ in length by ε is 6·ε·(1 + m)² / (h·(3(1 + m)² +
// (1 + m·n)·(m² + 1/(m·n)))).
TEST_CASE("a loose board's bow is that of a strip of two layers", "[outside]") {
  for (const auto& [thickness, depth] : {std::pair{6.35, 2.0}, {5.0, 1.8}, {7.5, 2.4}}) {
    Project p = *project_from("reedling");
    p = edited(p, {{"board.thickness", fmt::to_string(thickness)}, {"slot.depth", fmt::to_string(depth)}});
    const Fretboard b = *make_fretboard(board_of(p).instrument);
    const double between = b.frets.back().middle().x - b.frets.front().middle().x;
    const double spread = practice::wedge_share * (0.76 - 0.58);
    const double strain = spread * 21 / between;  // 22 frets, 21 distances
    const double m = depth / (thickness - depth);
    const double curvature =
        6 * strain * (1 + m) * (1 + m) / (thickness * (3 * (1 + m) * (1 + m) + (1 + m) * (m * m + 1 / m)));
    CHECK(back_bow(b) == Approx(curvature * between * between / 8).epsilon(1e-9));
    // The same as an arc of that radius over its chord, exactly.
    const double r = 1 / curvature;
    CHECK(back_bow(b) == Approx(r - std::sqrt(r * r - between * between / 4)).epsilon(0.002));
  }
}

// Closed form: a round hole with a level floor under a cylinder of radius R. Of the crown's fall R − √(R² − y²) ≈ y²/2R
// the mean over a disc of radius a about y₀ is (y₀² + a²/4)/2R (second moment of a disc, Roark, Formulas for Stress and
// Strain, table of sections).
TEST_CASE("the room in round marks is a cylinder's, cut by the crown", "[outside]") {
  const Project p = edited(*project_from("reedling"), {{"crown.kind", "cylinder"},
                                                       {"crown.radius_nut", "250"},
                                                       {"marks.places", "5 12"},
                                                       {"marks.size", "6"},
                                                       {"marks.depth", "1.8"}});
  const Fretboard b = *make_fretboard(board_of(p).instrument);
  REQUIRE(b.marks.size() == 3);
  double sum = 0;
  for (const Mark& m : b.marks) {
    const double a = 3;
    const double fall = (m.centre.y * m.centre.y + a * a / 4) / (2 * 250);
    const double fall_middle = 250 - std::sqrt(250 * 250 - m.centre.y * m.centre.y);
    sum += std::numbers::pi * a * a * (1.8 + fall_middle - fall);
  }
  CHECK(filling_volume(b) == Approx(sum).epsilon(0.003));  // a 48-cornered outline holds 0.3 % less than a circle
}

// Worked by hand: a block of 10 by 20 in a flat board, 2 deep: 400 mm³; at 2 mm a pour one pour, at 0.7 three.
TEST_CASE("the room in a block of a flat board is length by width by depth", "[outside]") {
  const Edits flat{{"crown.kind", "flat"}, {"marks.shape", "block"}, {"marks.places", "7"},      {"marks.size", "10"},
                   {"marks.length", "20"}, {"marks.depth", "2"},     {"marks.filling", "resin"}, {"marks.pour", "2"}};
  Project p = edited(*project_from("reedling"), flat);
  CHECK(filling_volume(*make_fretboard(board_of(p).instrument)) == Approx(400).epsilon(1e-6));
  CHECK(pours_of(*make_fretboard(board_of(p).instrument)) == 1);
  p = edited(p, {{"marks.pour", "0.7"}});
  CHECK(pours_of(*make_fretboard(board_of(p).instrument)) == 3);
  // A tick over the edge of a flat board: a rectangle and half a disc.
  p = edited(p, {{"marks.shape", "none"},
                 {"marks.side", "ticks"},
                 {"marks.tick_length", "5"},
                 {"marks.tick_width", "2"},
                 {"marks.tick_depth", "1.5"}});
  CHECK(filling_volume(*make_fretboard(board_of(p).instrument)) ==
        Approx((4 * 2 + std::numbers::pi / 2) * 1.5).epsilon(0.004));
}

// By hand, from the scale alone: six strings 53.5 apart at the bridge and 35 at the nut over a scale of 635 along the
// outer strings. String k runs from y = −17.5 + 7k to y = −26.75 + 10.7k; its scale point lies where the outer ones'
// do.
TEST_CASE("single pieces stand where the scale's formula and a ruler put them", "[outside]") {
  const Project p = edited(*project_from("reedling"), {{"bridge.name", "single-pieces"},
                                                       {"strings.spread_from", "pieces"},
                                                       {"strings.piece_width", "10.5"},
                                                       {"strings.piece_gap", "0.2"}});
  const Followed f = followed_of(p);
  REQUIRE(f.problems.empty());
  const BodyShape& s = f.designs.shape<BodyDesign>().shape;
  const double lean = (53.5 - 35) / 2;
  const double run = std::sqrt(635.0 * 635 - lean * lean);
  REQUIRE(s.bridge_pieces.size() == 6);
  for (std::size_t k = 0; k < 6; ++k) {
    const auto& [nut, saddle] = s.setup.strings[k];
    CHECK(nut.y == Approx(-17.5 + 7.0 * static_cast<double>(k)).margin(1e-6));
    CHECK(saddle.y == Approx(-26.75 + 10.7 * static_cast<double>(k)).margin(1e-6));
    // Along the body: the neck is tilted by so much, and the saddle stands over its place.
    const double tilt = s.setup.tilt;
    const Vec3 at = s.setup.frame.to_instrument(saddle);
    CHECK(at.x == Approx(run).margin(1e-6));
    CHECK(std::abs(tilt) < 0.06);
    // The piece's middle line runs through its string's own points.
    Vec2 middle;
    for (const Vec2 q : s.bridge_pieces[k])
      middle = middle + q * (1.0 / static_cast<double>(s.bridge_pieces[k].size()));
    const Vec2 along = unit(flat(saddle) - flat(nut));
    CHECK(std::abs(cross(along, middle - flat(saddle))) < 0.05);
    CHECK(dot(along, middle - flat(saddle)) == Approx(38.0 / 2 - 12).margin(0.05));
  }
}

}  // namespace wren

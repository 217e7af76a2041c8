// Strip, board, heel and pocket on each other; a veneer and its nut; a slot cut by a ball. Sums by hand beside each
// check; the geometry of the rod's floor by brute force.
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

const NeckShape& neck_in(const Followed& f) { return f.designs.shape<NeckDesign>().shape; }

}  // namespace

TEST_CASE("an accent strip takes its thickness from the neck's own wood, and moves nothing else") {
  for (const char* from : {"reedling", "sedge", "bass"}) {
    INFO(from);
    const Project plain = *project_from(from);
    const double board = board_of(plain).instrument.board.thickness;
    const double heel = neck_of(plain).neck.heel.thickness;
    const Followed before = followed_of(plain);
    const Followed after = followed_of(edited(plain, {{"neck.accent", "1.5"}, {"neck.accent_wood", "maple"}}));
    REQUIRE_FALSE(after.problems.contains("body"));
    const NeckShape& a = neck_in(before);
    const NeckShape& b = neck_in(after);
    // In the middle of the heel: 25.4 in all with a board of 6 and a strip of 1.5 leave 17.9 of neck.
    const double x = (b.heel_x + b.end_x) / 2;
    const Vec2 middle{x, b.taper(x).middle};
    CHECK_THAT(a.depth(middle), WithinAbs(heel - board, 1e-9));
    CHECK_THAT(b.depth(middle), WithinAbs(heel - board - 1.5, 1e-9));
    // What a hand feels between thumb and board stays what was asked for.
    const BackNumbers& back = neck_of(plain).neck.back;
    for (const auto& [fret, thick] : {std::pair{back.fret_a, back.thickness_a}, {back.fret_b, back.thickness_b}}) {
      if (!back.with_board || !back.sections.empty()) continue;
      CHECK_THAT(b.shaft_depth(b.fret_x(fret)) + board + 1.5, WithinAbs(thick, 1e-9));
      CHECK_THAT(b.whole_thickness(b.fret_x(fret)), WithinAbs(a.whole_thickness(a.fret_x(fret)), 1e-4));
    }
    // Heel in all and strings over it are the same, so pocket, tilt and saddles are.
    const BodySetup& s = before.designs.shape<BodyDesign>().shape.setup;
    const BodySetup& t = after.designs.shape<BodyDesign>().shape.setup;
    CHECK_THAT(t.tilt, WithinAbs(s.tilt, 1e-12));
    CHECK_THAT(t.depth_end, WithinAbs(s.depth_end, 1e-9));
    CHECK_THAT(t.board_over_face, WithinAbs(s.board_over_face, 1e-3));  // the strip leans with the neck
    for (std::size_t k = 0; k < s.saddles.size(); ++k)
      CHECK_THAT(t.saddles[k].height, WithinAbs(s.saddles[k].height, 1e-9));
    // The rod keeps its depth under the neck's own face; what is left behind it is that much thinner.
    CHECK_THAT(after.designs.shape<NeckDesign>().skin.least,
               WithinAbs(before.designs.shape<NeckDesign>().skin.least - 1.5, 0.25));
    // Its weight: the board's plan, 1.5 thick, of the density in the table; the neck has lost as much in its own wood.
    const auto& n = after.designs.shape<NeckDesign>();
    const double density = find_material({}, "maple")->density;
    const double strip = std::abs(signed_area(b.board->corners)) * 1.5 * density * 1e-6;
    CHECK_THAT(n.weight.grams - neck_weight(b, n.woods.neck_density).grams, WithinAbs(strip, 1e-6));
  }
}

TEST_CASE("an accent strip thicker than the heel, or under no board, is a sentence") {
  const Project p = *project_from("reedling");
  const Followed thick = followed_of(edited(p, {{"neck.accent", "16"}}));
  REQUIRE(thick.problems.contains("neck"));
  CHECK(thick.problems.at("neck").where == "neck.accent");
  CHECK_THAT(thick.problems.at("neck").what, Contains("accent strip of 16 mm"));
  const Followed single = followed_of(edited(p, {{"neck.build", "one_piece"}, {"neck.accent", "1"}}));
  REQUIRE(single.problems.contains("neck"));
  CHECK(single.problems.at("neck").where == "neck.accent");
  CHECK(design_remark(edited(p, {{"neck.accent", "7"}}), "neck", "neck.accent_thick"));
  CHECK_FALSE(design_remark(edited(p, {{"neck.accent", "1"}}), "neck", "neck.accent_thick"));
  CHECK_FALSE(with_edits(p, {{"neck.accent_wood", "no-such-wood"}}));
}

TEST_CASE("a veneer is part of the head's thickness, stands behind the nut, and the posts stand on it") {
  const Edits tilted{{"head.kind", "tilted"}, {"head.angle_deg", "12"}, {"head.thickness", "14"},
                     {"head.shelf", "5"},     {"nut.thickness", "5"},   {"nut.seat", "shelf"}};
  const Project plain = edited(*project_from("reedling"), tilted);
  const Project with = edited(plain, {{"head.veneer", "1.2"}, {"head.veneer_wood", "walnut"}});
  const Followed fa = followed_of(plain);
  const Followed fb = followed_of(with);
  REQUIRE_FALSE(fb.problems.contains("neck"));
  const NeckShape& a = neck_in(fa);
  const NeckShape& b = neck_in(fb);
  const double slant = std::cos(12 * 3.14159265358979 / 180);
  const Vec2 far = b.nut_middle + b.head_way * 100;
  // The wood's face is where it was; the veneer stands 1.2 square to it; the back comes up by as much.
  CHECK_THAT(b.front(far), WithinAbs(a.front(far), 1e-9));
  CHECK_THAT(b.face(far) - b.front(far), WithinAbs(1.2 / slant, 1e-9));
  CHECK_THAT((b.depth(far) + b.front(far)) * slant, WithinAbs(14 - 1.2, 1e-9));
  // On the shelf, under the nut, there is none.
  const Vec2 nut = b.nut_middle + b.head_way * 2.5;
  CHECK(b.face(nut) == b.front(nut));
  for (std::size_t k = 0; k < a.tuners.size(); ++k)
    CHECK_THAT(b.tuners[k].winding_z - a.tuners[k].winding_z, WithinAbs(1.2 / slant, 1e-9));
  CHECK_FALSE(design_remark(with, "neck", "neck.veneer_nut"));
  for (const auto& [shelf, weight] : {std::pair{"4.2", Weight::stop}, {"6", Weight::think_again}}) {
    const Project off = edited(with, {{"head.shelf", shelf}});
    const auto r = design_remark(off, "neck", "neck.veneer_nut");
    INFO(shelf);
    REQUIRE(r);
    CHECK(r->weight == weight);
    REQUIRE(r->repair);
    CHECK_FALSE(design_remark(edited(off, r->repair->edits), "neck", "neck.veneer_nut"));
  }

  SECTION("a flat head is cut that much lower, and its face ends where it was asked for") {
    const Edits flat{{"head.kind", "flat"}, {"head.drop", "9.5"}, {"head.thickness", "14"}};
    const Followed low = followed_of(edited(edited(*project_from("reedling"), flat), {{"head.veneer", "1"}}));
    const NeckShape& n = neck_in(low);
    const Vec2 at = n.nut_middle + n.head_way * 90;
    CHECK_THAT(n.front(at), WithinAbs(-10.5, 1e-9));
    CHECK_THAT(n.face(at), WithinAbs(-9.5, 1e-9));
    CHECK_THAT(n.depth(at), WithinAbs(23.5, 1e-9));
  }
  SECTION("thicker than the head: a sentence") {
    const Followed none = followed_of(edited(with, {{"head.thickness", "6"}, {"head.veneer", "3"}}));
    REQUIRE(none.problems.contains("neck"));
    CHECK(none.problems.at("neck").where == "head.veneer");
  }
}

TEST_CASE("a rod slot by a ball: half a circle across, by brute force, planned and proved") {
  for (const char* bottom : {"straight", "curved"}) {
    INFO(bottom);
    const Project p =
        edited(*project_from("reedling"), {{"rod.round", "yes"}, {"rod.width", "6.35"}, {"rod.bottom", bottom}});
    const Made m = made(p, "neck");
    const NeckShape& n = m.neck().shape;
    const auto rod = std::find_if(n.channels.begin(), n.channels.end(), [](const Channel& c) { return c.id == "rod"; });
    REQUIRE(rod != n.channels.end());
    // A ball of 6.35 with its tip on the middle line: its surface stands r − √(r² − y²) over the tip.
    const double r = 6.35 / 2;
    for (const double y : {0.0, 0.8, 2.0, 3.0}) {
      const double x = (rod->a.x + rod->b.x) / 2;
      CHECK_THAT(rod->floor({x, y}) - rod->floor({x, 0}), WithinAbs(r - std::sqrt(r * r - y * y), 1e-9));
      CHECK(rod->floor({x, y}) == rod->floor({x, -y}));
    }
    bool by_ball = false;
    for (const CutFacts& f : m.side("front").facts)
      if (f.id == "rod") by_ball = find_cutter(m.planned.rack, f.cutter)->kind == CutterKind::ball;
    CHECK(by_ball);
    const std::string told = stops(proof_of(m, m, {}, 0.25));
    INFO(told);
    CHECK(told.empty());
    // The same neck with a flat floor asked for is not what those programs cut, nor the other way round.
    const Made flat = made(edited(p, {{"rod.round", "no"}}), "neck");
    CHECK_THAT(stops(proof_of(flat, m, {}, 0.25)), Contains("left_over"));
    CHECK_THAT(stops(proof_of(m, flat, {}, 0.25)), Contains("gouge"));
  }
  // A slot that is no ball's width says what would be.
  const Project wide = edited(*project_from("reedling"), {{"rod.round", "yes"}, {"rod.width", "6"}});
  const auto r = design_remark(wide, "neck", "neck.rod_ball");
  REQUIRE(r);
  CHECK(r->weight == Weight::stop);
  for (const Repair& way : ways(*r)) CHECK_FALSE(design_remark(edited(wide, way.edits), "neck", "neck.rod_ball"));
}

TEST_CASE("wood movement of a mixed stack of layers, by hand") {
  // 330 of ash flat-sawn (7.8 % tangential from green to dry) from 6 to 12 %: 330 · 6 · 0.078 / 30 = 5.15.
  const Project p =
      edited(*project_from("reedling"), {{"body.layers", "top ash 6.5; core fibreboard 25; back pine 9.5"}});
  const Followed f = followed_of(p);
  const auto& d = f.designs.shape<BodyDesign>();
  const double width = bounds(d.shape.corners).size().y;
  for (std::size_t k = 0; k < 3; ++k) {
    const Material& m = d.woods[k];
    const double by_hand =
        m.grain == Grain::along ? width * (damp_room - dry_room) * m.shrink_tangential / 100 / 30 : 0;
    CHECK_THAT(layer_moves(p, d, k, dry_room, damp_room), WithinAbs(by_hand, 0.12 * by_hand + 1e-9));
  }
  CHECK(layer_moves(p, d, 1, dry_room, damp_room) == 0);
}

TEST_CASE("a cutter stands in its collet") {
  const Project p = *project_from("reedling");
  const Cutter& c = *find_cutter(p.rack, "flat-3.175");
  CHECK(c.collet_in_use() == 3.175);
  const Project q = edited(p, {{"rack.flat-3.175.collet", "4"}});
  CHECK(find_cutter(q.rack, "flat-3.175")->collet_in_use() == 4);
  Cutter tight = c;
  tight.shank_diameter = 6;
  tight.collet = 3.175;
  const auto bad = check_cutter(tight);
  REQUIRE(!bad.empty());
  CHECK_THAT(bad.front().what, Contains("in a collet of"));
  tight.collet = 6.35;
  CHECK(check_cutter(tight).empty());
  tight.collet = 8;
  CHECK_FALSE(check_cutter(tight).empty());
  // It stands on the step that puts the cutter in.
  const Made m = made(q, "fretboard");
  bool told = false;
  for (const RunSide& side : m.sheet().sides)
    for (const RunStep& step : side.steps) told = told || step.cutter.find("collet") != std::string::npos;
  CHECK(told);
}

// Properties that hold for any body the numbers allow, on seeded random instruments. WREN_HEAVY=1 tries many more.
#include <catch2/catch.hpp>

#include <cstdlib>
#include <random>

#include "support/made.hpp"

using namespace wren;

namespace {

Project random_body(std::mt19937& random) {
  const auto real = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
  const auto whole = [&](int a, int b) { return std::uniform_int_distribution<int>(a, b)(random); };
  Project p;
  board_of(p).instrument.strings.left_handed = whole(0, 1) == 1;
  board_of(p).instrument.strings.scale_bass = real(620, 660);
  board_of(p).instrument.strings.scale_treble =
      board_of(p).instrument.strings.scale_bass - (whole(0, 1) == 0 ? 0 : real(5, 30));
  board_of(p).instrument.board.overhang = real(9, 14);
  Body& b = body_of(p).body;
  b.outline.form = static_cast<BodyForm>(whole(0, 2));
  b.outline.lower_width = real(310, 345);
  b.outline.waist_width = real(205, 240);
  b.outline.upper_width = real(255, 290);
  b.outline.tail = real(104, 125);
  b.outline.horn_bass = real(60, 95);
  b.outline.horn_treble = real(36, 60);
  const double thick = real(40, 46);
  if (whole(0, 2) == 0)
    b.layers = {{"body", thick, "cherry"}};
  else if (whole(0, 1) == 0)
    b.layers = {{"top", 6.5, "ash"}, {"body", thick - 6.5, "cherry"}};
  else
    b.layers = {{"top", 7, "maple"}, {"core", thick - 14, "yellow-poplar"}, {"back", 7, "maple"}};
  b.bridge = known_bridges()[static_cast<std::size_t>(whole(0, 1))];
  b.setup.follows = b.bridge.kind == BridgeKind::posts ? PocketFollows::tilt : PocketFollows::depth;
  b.setup.school = static_cast<SetupSchool>(whole(0, 1));
  b.setup.reserve = real(1, 2.5);
  b.setup.depth = real(14.5, 17);
  b.chambers.sides = b.layers.size() > 1 ? static_cast<ChamberSides>(whole(0, 3)) : ChamberSides::none;
  b.chambers.floor = real(9, 12);
  b.chambers.wall = real(20, 28);
  b.controls.pots = whole(1, 3);
  b.controls.hold = static_cast<CoverHold>(whole(0, 1));
  b.controls.ledge = 8.5;
  b.controls.cover_clearance = real(0.2, 0.5);
  b.controls.cover_thickness = real(2.5, 4);
  b.controls.cover_thinned = whole(0, 1) == 0 ? 0 : 1;
  if (whole(0, 1) == 1) b.comfort.bevel_depth = real(3, 6), b.comfort.bevel_reach = real(36, 48);
  if (whole(0, 1) == 1) b.comfort.belly_depth = real(3, 6), b.comfort.belly_reach = real(36, 46);
  b.comfort.round_face = real(1.5, 5);
  b.comfort.round_back = real(1.5, 5);
  body_of(p).work.outline = static_cast<OutlineSchool>(whole(0, 1));
  body_of(p).work.grain = static_cast<GrainWay>(whole(0, 2));
  body_of(p).work.lie = static_cast<Lie>(whole(0, 1));
  body_of(p).work.alignment.turn = whole(0, 1) == 0 ? Turn::about_length : Turn::about_width;
  body_of(p).work.blank_length = 540;
  body_of(p).work.blank_width = 400;
  return p;
}

int tries(int usual) { return std::getenv("WREN_HEAVY") != nullptr ? usual * 10 : usual; }

}  // namespace

TEST_CASE("random bodies: a cover always drops in with its clearance, a chamber keeps its floor and walls") {
  std::mt19937 random(20261125);
  int tried = 0;
  for (int k = 0; k < tries(12); ++k) {
    const Project p = random_body(random);
    const auto board = design_board(p);
    REQUIRE(board);
    const auto neck = design_neck(p, board->board);
    REQUIRE(neck);
    const auto d = design_body(p, *neck, board->weight_g);
    if (!d) continue;
    ++tried;
    const BodyShape& s = d->shape;
    for (const Cover& c : s.covers)
      for (const Vec2 q : c.outline) {
        CHECK(contains(c.ledge, q));
        CHECK(distance_to(c.ledge, q) > c.clearance - 0.006);
      }
    for (const Cavity& c : s.cavities) {
      CHECK(c.floor_at({s.edge_middle.x, 0}) < 0);  // invariant 2
      CHECK(c.floor_at({s.edge_middle.x, 0}) > -s.thickness);
      if (c.id.rfind("chamber", 0) != 0) continue;
      CHECK(c.floor >= -s.thickness + s.given.chambers.floor - 1e-9);
      for (const Polygon& ring : c.region)
        for (const Vec2 q : ring) CHECK(distance_to(s.corners, q) > s.given.chambers.wall - 0.02);
    }
  }
  CHECK(tried >= tries(12) * 3 / 4);
}

TEST_CASE("random bodies: read-back programs agree with the design and leave no wall or floor thinner than said") {
  std::mt19937 random(77);
  int proved = 0;
  for (int k = 0; k < tries(3); ++k) {
    const Project p = random_body(random);
    const auto board = design_board(p);
    const auto neck = design_neck(p, board->board);
    const auto d = design_body(p, *neck, board->weight_g);
    if (!d) continue;
    const Made m = made(p, "body");
    if (stops_work(m.remarks())) continue;  // then no program is written
    const PartProof result = m.proof(0.3);
    std::string why;
    for (const Remark& f : result.remarks("body")) why += f.sentence + "\n";
    INFO("try " << k << "\n" << why);
    CHECK(result.faultless());
    CHECK(result.worst_gouge <= 0.03);
    for (const PieceProof& piece : result.pieces)
      if (piece.id == "body") CHECK(piece.result.least_thickness > practice::body_stop_skin);
    ++proved;
  }
  CHECK(proved >= 1);
}

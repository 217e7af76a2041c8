// Properties that hold for any neck the numbers allow, on seeded random instruments. WREN_HEAVY=1 tries many more.
#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <cstdlib>
#include <random>

#include "support/made.hpp"

using namespace wren;

namespace {

Project random_neck(std::mt19937& random) {
  const auto real = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
  const auto whole = [&](int a, int b) { return std::uniform_int_distribution<int>(a, b)(random); };
  Project p;
  Instrument& in = board_of(p).instrument;
  in.strings.count = whole(4, 8);
  const double scale = real(600, 700);
  in.strings.scale_bass = scale;
  in.strings.scale_treble = whole(0, 1) == 0 ? scale : scale - real(5, 40);
  in.strings.nut_spread = 7.0 * (in.strings.count - 1) + real(0, 3);
  in.strings.bridge_spread = in.strings.nut_spread * real(1.25, 1.5);
  in.strings.left_handed = whole(0, 1) == 1;
  in.board.overhang = real(10, 18);
  Neck& n = neck_of(p).neck;
  n.back.thickness_a = real(20.5, 23);
  n.back.thickness_b = n.back.thickness_a + real(0, 2.5);
  n.back.shape_a = static_cast<BackShape>(whole(0, 7));
  n.back.shape_b = static_cast<BackShape>(whole(0, 7));
  n.back.lean = whole(0, 3) == 0 ? real(-0.2, 0.2) : 0;
  n.heel.radius = real(20, 70);
  n.heel.thickness = real(24, 28);
  n.joint = static_cast<NeckJoint>(whole(0, 2));
  n.heel.tenon_width = 36;
  n.rod.depth = real(8, 9);
  n.rod.pocket_depth = n.rod.depth;
  n.rod.bottom = static_cast<RodBottom>(whole(0, 1));
  n.rod.sag = real(0.2, 0.8);
  n.rod.adjuster = static_cast<RodEnd>(whole(0, 1));
  n.rod.length = 360;
  n.rod.bars = whole(0, 2) == 0 ? 2 : 0;
  n.rod.bar_depth = 4;
  n.rod.bar_length = 300;
  n.rod.bar_offset = 9;
  n.head.volute = whole(0, 2) == 0;
  n.head.shape = static_cast<HeadShape>(whole(0, 2));
  n.head.drop = real(7, 10);
  n.head.tuners_bass = whole(0, 1) == 0 ? in.strings.count : in.strings.count - in.strings.count / 3;
  n.nut.seat = static_cast<NutSeat>(whole(0, 2));
  NeckWork& w = neck_of(p).work;
  w.blank.lie = Lie::along_y;
  w.blank.thickness = 30;
  w.alignment.school = static_cast<School>(whole(0, 2));
  w.alignment.turn = whole(0, 1) == 0 ? Turn::about_length : Turn::about_width;
  w.scallop = 0.04;
  w.rough_cutter = w.outline_cutter = w.edge_cutter = w.channel_cutter = "flat-6.35-long";
  w.finish_cutter = "ball-6.35-long";
  w.blank.length = 900;
  w.blank.width = 190;
  return p;
}

}  // namespace

TEST_CASE("whatever the numbers, both sides' programs make the neck from one piece of wood") {
  std::mt19937 random(20261125);
  const int necks = std::getenv("WREN_HEAVY") != nullptr ? 60 : 5;
  int tried = 0;
  for (int k = 0; k < necks * 4 && tried < necks; ++k) {
    const Project p = random_neck(random);
    const auto board = make_fretboard(board_of(p).instrument);
    if (!board) continue;
    const auto d = design_neck(p, *board);
    if (!d || stops_work(d->remarks)) continue;
    const Made m = made(p, "neck");
    if (stops_work(m.cuts().remarks)) continue;
    ++tried;
    INFO("neck " << k << ": " << board_of(p).instrument.strings.count << " strings, shapes "
                 << static_cast<int>(neck_of(p).neck.back.shape_a) << " "
                 << static_cast<int>(neck_of(p).neck.back.shape_b) << ", joint "
                 << static_cast<int>(neck_of(p).neck.joint) << ", head " << static_cast<int>(neck_of(p).neck.head.shape)
                 << ", volute " << neck_of(p).neck.head.volute << ", school "
                 << static_cast<int>(neck_of(p).work.alignment.school) << ", left "
                 << board_of(p).instrument.strings.left_handed);
    const auto result = prove_piece(m.request(0.25));
    REQUIRE(result);
    std::string refused;
    const auto tell = [&](const std::vector<Finding>& findings) {
      for (const Finding& f : findings)
        if (f.weight == Weight::stop)
          refused += fmt::format("\n  {}: {} ({}, line {}, at {:.1f} {:.1f} {:.2f})", f.kind, f.text, f.program, f.line,
                                 f.at.x, f.at.y, f.at.z);
    };
    for (const auto& s : result->sides) tell(s.findings);
    tell(result->findings);
    INFO(refused);
    CHECK(refused.empty());
    CHECK(result->worst_gouge <= 0.02);
    CHECK(result->tabs >= 4);
    // The skin that virtual wood shows is never thinner than what was promised with the sides apart.
    CHECK(result->least_skin > d->skin_with_misfit.least - 0.35);
  }
  CHECK(tried >= necks / 2);
}

TEST_CASE("whatever the numbers, the back is smooth and no deeper than its blank") {
  std::mt19937 random(7);
  for (int k = 0; k < 40; ++k) {
    const Project p = random_neck(random);
    const auto board = make_fretboard(board_of(p).instrument);
    if (!board) continue;
    const auto n = make_neck(*board, neck_of(p).neck);
    if (!n) continue;
    for (double x = n->tip_x + 2; x < n->end_x - 2; x += 5.3) {
      const auto edges = crossings(n->corners, {x, 0}, {0, 1});
      if (edges.size() < 2) continue;
      for (const double s : {-0.6, 0.0, 0.4}) {
        const double y = (edges.front() + edges.back()) / 2 + s * (edges.back() - edges.front()) / 2;
        CHECK(n->depth({x, y}) > 0);
        CHECK(n->front({x, y}) > -n->depth({x, y}));
        // No jump between neighbours.
        CHECK(std::abs(n->depth({x + 0.01, y}) - n->depth({x, y})) < 0.05);
      }
    }
  }
}

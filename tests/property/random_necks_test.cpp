// Properties that hold for any neck the numbers allow, on seeded random instruments. WREN_HEAVY=1 tries many more.
#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <cstdlib>
#include <random>

#include "support/made.hpp"

using namespace wren;

using Edits = std::vector<std::pair<std::string, std::string>>;

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

/// The numbers with the repair of tabs that stand over the neck's edge; nothing where they do not.
std::optional<Project> with_lower_tabs(const Project& p, const Made& made) {
  for (const Remark& r : made.planned.made.remarks)
    if (r.kind == "neck.tab_proud") {
      REQUIRE(r.weight == Weight::stop);
      REQUIRE(r.repair.has_value());
      const auto next = with_edits(all_parts().book(), p, r.repair->edits, UnitSystem::millimetre);
      REQUIRE(next);
      return *next;
    }
  return {};
}

/// What stops the work of a neck with these numbers; empty where it is proved.
std::string refused(const Edits& edits) {
  const auto p = with_edits(all_parts().book(), *project_from("reedling"), edits, UnitSystem::millimetre);
  REQUIRE(p);
  const Made m = made(*p, "neck");
  REQUIRE(!stops_work(m.planned.made.remarks));
  const auto result = prove_piece(m.request(0.2));
  REQUIRE(result);
  std::string out;
  const auto tell = [&](const std::vector<Finding>& findings) {
    for (const Finding& f : findings)
      if (f.weight == Weight::stop) out += "\n  " + f.kind + ": " + f.text.str();
  };
  for (const auto& side : result->sides) tell(side.findings);
  tell(result->findings);
  return out;
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
    const Made first = made(p, "neck");
    if (stops_work(first.cuts().remarks)) continue;
    // A neck too shallow for its tabs is told so, with the tabs that do; those are made and proved.
    const auto repaired = with_lower_tabs(p, first);
    const Made m = repaired ? made(*repaired, "neck") : first;
    REQUIRE(!stops_work(m.planned.made.remarks));
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

// Where the board ends upright, the head begins with a steep step, and frets run out over the edges.
TEST_CASE("necks of one piece are made whole, whatever their scale, head, nut and leave for finishing") {
  const Edits one_piece{{"neck.build", "one_piece"},
                        {"neck.blank.thickness", "31.5"},
                        {"neck.blank.width", "122"},
                        {"neck.channel_cutter", "flat-6.35-long"},
                        {"neck.rough_cutter", "flat-6.35-long"},
                        {"neck.edge_cutter", "flat-6.35-long"},
                        {"neck.outline_cutter", "flat-6.35-long"},
                        {"neck.finish_cutter", "ball-6.35-long"}};
  const std::vector<Edits> shops{
      {{"rod.cover", "4"}, {"strings.scale_bass", "628"}, {"strings.scale_treble", "628"}, {"nut.seat", "slot"}},
      {{"head.step_radius", "12"}, {"neck.rough_leave", "0.2"}},
      {{"strings.scale_bass", "608"}, {"strings.scale_treble", "584.4"}, {"neck.rough_leave", "0.15"}},
      {{"nut.seat", "slot"}, {"head.shelf", "10"}, {"neck.rough_leave", "0.15"}, {"strings.left_handed", "yes"}},
  };
  for (const auto& shop : shops) {
    Edits edits = one_piece;
    edits.insert(edits.end(), shop.begin(), shop.end());
    INFO(shop.front().first << " = " << shop.front().second);
    CHECK(refused(edits) == "");
  }
}

TEST_CASE("the last row along a head's edge is as low as the others, whatever the scallop") {
  for (const char* scallop : {"0.015", "0.02", "0.03"}) {
    INFO(scallop);
    CHECK(refused({{"neck.scallop", scallop}}) == "");
  }
}

TEST_CASE("tabs beside a shallow edge go where the neck is thick enough, or are said to be too high") {
  // A lean V over eight strings: 2 mm thick a ball's radius inside its bass edge.
  std::mt19937 random(20261125);
  Project p;
  for (int k = 0; k <= 14; ++k) p = random_neck(random);
  REQUIRE(board_of(p).instrument.strings.count == 8);
  const Made high = made(p, "neck");
  const auto lower = with_lower_tabs(p, high);
  REQUIRE(lower);
  CHECK(neck_of(*lower).work.tab_height < neck_of(p).work.tab_height);
  // It is no empty word: with the tabs as they were the proof refuses, and with the repair it does not.
  const auto stops = [](const Made& m) {
    const auto result = prove_piece(m.request(0.1));
    REQUIRE(result);
    std::size_t out = 0;
    const auto count = [&](const std::vector<Finding>& findings) {
      for (const Finding& f : findings) out += f.weight == Weight::stop ? 1 : 0;
    };
    count(result->findings);
    for (const auto& side : result->sides) count(side.findings);
    return out;
  };
  CHECK(stops(high) > 0);
  const Made mended = made(*lower, "neck");
  CHECK(!stops_work(mended.remarks()));
  CHECK(stops(mended) == 0);
  // A neck that is thick at its edges keeps its tabs where they were: evenly along the shaft.
  const Made plain = made(*project_from("reedling"), "neck");
  std::vector<double> along;
  for (const Side& s : plain.planned.made.pieces.front().sides)
    for (const Operation& op : s.operations)
      if (const auto* outline = std::get_if<Outline>(&op.shape)) {
        for (const double t : outline->plan.tabs)
          along.push_back(turned(plain.neck().back.turn, place_along(outline->contour, t).at).x);
      }
  const NeckShape& n = plain.neck().shape;
  const double x0 = n.nut_middle.x + 30;
  for (const double share : {0.25, 0.75})
    CHECK(std::count_if(along.begin(), along.end(),
                        [&](double x) { return std::abs(x - (x0 + (n.heel_x - x0) * share)) < 0.5; }) == 2);
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

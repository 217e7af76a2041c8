#include <catch2/catch.hpp>

#include <random>

#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

PieceResult proved(const PieceRequest& request) {
  auto r = prove_piece(request);
  INFO((r ? "" : r.error().text()));
  REQUIRE(r);
  return std::move(*r);
}
bool found(const ProofResult& r, const std::string& kind) {
  return std::any_of(r.findings.begin(), r.findings.end(), [&](const Finding& f) { return f.kind == kind; });
}
Project clamped() {
  Project p = *project_from("reedling");
  board_of(p).blank.clamps = {{"left end", {-30, 18}, {6, 57}, 18}, {"right end", {504, 18}, {540, 57}, 18}};
  return p;
}
/// Runs a hand-written program against the Reedling's blank, clamped at both ends, with one cutter.
ProofResult run(const std::string& moves, const char* cutter = "flat-6.35", const Project& p = clamped()) {
  const BoardDesign d = *design_board(p);
  auto r = rehearse_side({{{"hand.ngc",
                            "G21 G17 G90 G91.1 G94 G54 G40 G49 G80 G61\nG53 G0 Z0\nM3 S12000\nG4 P3\n" + moves +
                                "\nG53 G0 Z0\nM5\nG53 G0 X350 Y990\nM30\n",
                            cutter}},
                          d.rack,
                          d.setup,
                          {},
                          0.2});
  INFO((r ? "" : r.error().text()));
  REQUIRE(r);
  return std::move(*r);
}

/// The plain way: a disk stamped at small steps.
void stamp(TileGrid& grid, const Cutter& c, Vec3 a, Vec3 b) {
  const int n = std::max(1, static_cast<int>(distance(a, b) / 0.004));
  for (int s = 0; s <= n; ++s) {
    const Vec3 p = lerp(a, b, static_cast<double>(s) / n);
    for (int j = 0; j < grid.height(); ++j)
      for (int i = 0; i < grid.width(); ++i) {
        const double rho = distance(grid.centre(i, j), flat(p));
        if (rho <= c.radius()) grid.at(i, j) = std::min(grid.at(i, j), static_cast<float>(p.z + c.profile(rho)));
      }
  }
}

}  // namespace

TEST_CASE("swept removal agrees with a disk stamped at small steps, for every shape and slope") {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> in(1, 7);
  std::uniform_real_distribution<double> deep(-3, 0.5);
  for (const char* id : {"flat-3.175", "ball-3.175", "round-12.7", "drill-4", "slot-0.58"}) {
    const Cutter c = *find_cutter(default_rack(), id);
    for (int trial = 0; trial < 6; ++trial) {
      const Vec3 a{in(random), in(random), deep(random)};
      const Vec3 b =
          trial == 0 ? Vec3{a.x, a.y, a.z - 1} : Vec3{in(random), in(random), trial == 1 ? a.z : deep(random)};
      TileGrid swept({0, 0}, 0.2, 40, 40, 0);
      TileGrid stamped = swept;
      Remover(c).sweep(swept, a, b);
      stamp(stamped, c, a, b);
      double worst = 0;
      int off = 0;
      for (int j = 0; j < 40; ++j)
        for (int i = 0; i < 40; ++i) {
          const double d = std::abs(static_cast<double>(swept.at(i, j)) - static_cast<double>(stamped.at(i, j)));
          // On the rim of a flat cutter one stamp more or less decides a cell; everywhere else they agree.
          if (d > 0.01)
            ++off;
          else
            worst = std::max(worst, d);
        }
      INFO(id << " trial " << trial);
      CHECK(off <= 8);
      CHECK(worst < 0.01);
    }
  }
}

TEST_CASE("a line swept in pieces leaves the same wood as in one") {
  const Cutter ball = *find_cutter(default_rack(), "ball-6.35");
  TileGrid once({0, 0}, 0.1, 200, 120, 0);
  TileGrid pieces = once;
  const Vec3 a{2, 3, -0.4};
  const Vec3 b{17, 8, -1.3};
  Remover(ball).sweep(once, a, b);
  for (int k = 0; k < 25; ++k) Remover(ball).sweep(pieces, lerp(a, b, k / 25.0), lerp(a, b, (k + 1) / 25.0));
  for (int j = 0; j < 120; ++j)
    for (int i = 0; i < 200; ++i)
      CHECK_THAT(static_cast<double>(once.at(i, j)), WithinAbs(static_cast<double>(pieces.at(i, j)), 2e-5));
}

TEST_CASE("the demo board is proved, clamped at both ends, in both orders") {
  Project p = clamped();
  for (const CutOrder order : {CutOrder::flat_first, CutOrder::crown_first}) {
    board_of(p).work.order = order;
    const PieceResult r = proved(made(p).request(0.2));
    for (const Finding& f : r.findings) UNSCOPED_INFO(f.text);
    for (const Finding& f : r.sides.front().findings) UNSCOPED_INFO(f.text);
    CHECK(r.passed());
    CHECK(r.free);
    CHECK(r.tabs == 4);
    CHECK(r.sides.front().slots.size() == 22);
    CHECK(r.worst_gouge < 0.02);
    for (const SlotResult& s : r.sides.front().slots) {
      CHECK(s.place_error < 0.005);
      CHECK_THAT(s.width, WithinAbs(0.58, 0.002));
      CHECK(s.covered == 1);
    }
  }
}

TEST_CASE("a measured test slot moves the passes apart and the slot still comes out as wanted") {
  Project p = *project_from("reedling");
  measure_slot(p, 0.52);
  const PieceResult r = proved(made(p).request(0.2));
  for (const SlotResult& s : r.sides.front().slots) CHECK_THAT(s.width, WithinAbs(0.58, 0.002));
  CHECK(r.passed());
}

TEST_CASE("the proof sees what it is there to see") {
  // A slot program moved by 0.05 mm: the board is wrong, although every program is whole.
  const Made j = made(*project_from("reedling"));
  const PieceRequest whole = j.request(0.2);
  PieceRequest moved = whole;
  moved.sides.front().setup.to_work.shift.x += 0.05;
  const PieceResult shifted = proved(moved);
  CHECK_FALSE(shifted.passed());
  CHECK(found(shifted, "slot_place"));
  // The crown left out.
  PieceRequest bare = whole;
  bare.sides.front().programs.erase(bare.sides.front().programs.begin() + 2);
  CHECK(found(proved(bare), "left_over"));
  // The slots left out.
  PieceRequest plain = whole;
  plain.sides.front().programs.erase(plain.sides.front().programs.begin());
  CHECK(found(proved(plain), "slot_missing"));
  // A board designed thicker than it is cut.
  Project thick = j.project;
  board_of(thick).instrument.board.thickness += 0.1;
  PieceRequest gouged = made(thick).request(0.2);
  gouged.sides.front().programs = whole.sides.front().programs;
  CHECK(found(proved(gouged), "gouge"));
}

TEST_CASE("skin, tabs and a loose board are told apart") {
  Project p = *project_from("reedling");
  board_of(p).work.through = 0;
  const auto programs = made(p).texts();
  board_of(p).blank.thickness += 0.05;  // the blank is a little thicker than it was measured
  PieceRequest request = made(p).request(0.2);
  request.sides.front().programs = programs;
  const PieceResult skin = proved(request);
  CHECK((found(skin, "skin_left") || found(skin, "outline_not_through")));
  p = *project_from("reedling");
  board_of(p).work.tabs = 0;
  const PieceResult loose = proved(made(p).request(0.2));
  CHECK(loose.tabs == 0);
  CHECK(found(loose, "comes_loose"));
}

TEST_CASE("a rapid through wood, a still spindle, too deep, out of travel, into a clamp: each is found with its line") {
  CHECK(found(run("G0 X100 Y37 Z5\nG0 Z-2\n"), "rapid_in_wood"));
  const ProofResult through = run("G0 X100 Y37 Z5\nG0 Z-2\n");
  for (const Finding& f : through.findings)
    if (f.kind == "rapid_in_wood") CHECK(f.line == 6);
  CHECK(found(run("M5\nG0 X100 Y37 Z5\nG1 Z-1 F100\n"), "spindle_still"));
  CHECK(found(run("G0 X100 Y37 Z5\nG1 Z-7.5 F100\n"), "below_allowance"));
  CHECK(found(run("G0 X100 Y37 Z5\nG1 Z-5 F100\n", "slot-0.58"), "beyond_cutting_length"));
  CHECK(found(run("G0 Z5\nG0 X900 Y37\n"), "outside_travel"));
  CHECK(found(run("G0 Z5\nG0 X-10 Y37\nG0 Z2\n"), "into_clamp"));
  CHECK(found(run("G0 Z5\nG0 X100 Y37\nG1 Z-1 F100\n", "no such cutter"), "unknown_cutter"));
  CHECK_FALSE(found(run("G0 Z30\nG0 X-10 Y37\n"), "into_clamp"));
  Project deep = clamped();
  board_of(deep).blank.thickness = 40;
  CHECK(found(run("G0 X100 Y37 Z45\nG1 Z-22 F100\n", "flat-3.175", deep), "holder_in_wood"));
  CHECK(run("G0 X100 Y37\nZ5\nG1 Z-1 F100\nG0 Z5\n").passed());
}

TEST_CASE("stopped at any poll, the proof gives nothing and says so") {
  const PieceRequest request = made(*project_from("reedling")).request(0.5);
  int polls = 0;
  {
    Progress count([&](double, std::string_view) { ++polls; });
    REQUIRE(prove_piece(request, &count));
  }
  CHECK(polls > 20);
  for (const int at : {1, 2, 7, polls / 2, polls - 1}) {
    int seen = 0;
    Progress* self = nullptr;
    Progress stopper([&](double, std::string_view) {
      if (++seen == at) self->stop();
    });
    self = &stopper;
    const auto r = prove_piece(request, &stopper);
    REQUIRE_FALSE(r);
    CHECK(r.error().kind == ProblemKind::stopped);
  }
}

TEST_CASE("the clock goes back as well as forward") {
  const Made j = made(*project_from("reedling"));
  const BoardDesign& design = j.board();
  auto score = read_score(j.texts(), design.rack, design.setup);
  REQUIRE(score);
  Rehearsal one(*score, design.setup, 0.5);
  Rehearsal two(*score, design.setup, 0.5);
  const double total = score->seconds;
  one.seek(total);
  one.seek(0.4 * total);
  two.seek(0.1 * total);
  two.seek(0.4 * total);
  for (int y = 0; y < one.stock().height(); ++y)
    for (int x = 0; x < one.stock().width(); ++x)
      REQUIRE_THAT(static_cast<double>(one.stock().at(x, y)),
                   WithinAbs(static_cast<double>(two.stock().at(x, y)), 1e-4));
  CHECK_THAT(one.now(), WithinAbs(0.4 * total, 1e-9));
}

// Properties that hold for any board the numbers allow, on seeded random instruments. WREN_HEAVY=1 tries many more.
#include <catch2/catch.hpp>

#include <cstdlib>
#include <random>

#include <fmt/format.h>

#include "support/made.hpp"

using namespace wren;

namespace {

Project random_project(std::mt19937& random) {
  const auto real = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
  const auto whole = [&](int a, int b) { return std::uniform_int_distribution<int>(a, b)(random); };
  Project p;
  Instrument& in = board_of(p).instrument;
  in.strings.count = whole(3, 9);
  const double scale = real(580, 880);
  in.strings.scale_bass = scale;
  in.strings.scale_treble = whole(0, 1) == 0 ? scale : scale - real(0, 45);
  in.strings.square_fret = real(3, 12);
  in.strings.nut_spread = 7.0 * (in.strings.count - 1) + real(0, 4);
  in.strings.bridge_spread = in.strings.nut_spread * real(1.2, 1.5);
  in.strings.spacing = whole(0, 1) == 0 ? Spacing::centres : Spacing::gaps;
  in.strings.left_handed = whole(0, 1) == 1;
  in.frets.count = whole(19, 27);
  in.frets.zero_fret = whole(0, 2) == 0;
  in.crown.kind = static_cast<CrownKind>(whole(0, 2));
  in.crown.radius_nut = real(240, 400);
  in.crown.radius_last = in.crown.radius_nut + real(0, 250);
  in.board.end = static_cast<EndShape>(whole(0, 2));
  in.board.overhang = real(14, 22);
  in.board.thickness = real(5.5, 7);
  in.slot.bottom = static_cast<SlotBottom>(whole(0, 1));
  in.slot.depth = in.slot.bottom == SlotBottom::flat ? 2.4 : 2.0;
  in.slot.ends = static_cast<SlotEnds>(whole(0, 1));
  in.marks.shape = static_cast<MarkShape>(whole(0, 3));
  in.marks.size = real(4, 5);
  in.marks.length = real(8, 12);
  board_of(p).work.order = static_cast<CutOrder>(whole(0, 1));
  board_of(p).work.slot_entry = static_cast<SlotEntry>(whole(0, 1));
  if (whole(0, 1) == 1) measure_slot(p, real(0.5, 0.6));
  board_of(p).work.crown_cutter = whole(0, 2) == 0 ? "ball-6.35" : whole(0, 1) == 0 ? "flat-6.35" : "facing-25";
  board_of(p).work.crown_direction =
      board_of(p).work.crown_cutter == "ball-6.35" ? Direction::along : Direction::across;
  board_of(p).work.crown_scallop = board_of(p).work.crown_cutter == "ball-6.35" ? 0.03 : 0.012;
  board_of(p).work.outline_climb = whole(0, 1) == 1;
  p.programs.units = whole(0, 1) == 1 ? UnitSystem::inch : UnitSystem::millimetre;
  p.programs.arcs = whole(0, 3) != 0;
  board_of(p).blank.zero = whole(0, 1) == 1 ? ZeroPlace::centre : ZeroPlace::corner;
  board_of(p).blank.lie = Lie::along_y;
  board_of(p).blank.thickness = in.board.thickness + real(0.05, 0.5);
  const auto board = make_fretboard(in);
  if (board) {
    const Vec2 size = bounds(board->corners).size();
    board_of(p).blank.length = size.x + real(9, 30);
    board_of(p).blank.width = size.y + real(9, 20);
  }
  return p;
}

}  // namespace

TEST_CASE("whatever the numbers, the read-back programs make the board") {
  std::mt19937 random(20261124);
  const int boards = std::getenv("WREN_HEAVY") != nullptr ? 150 : 12;
  int tried = 0;
  for (int n = 0; n < boards * 3 && tried < boards; ++n) {
    const Project p = random_project(random);
    const auto d = design_board(p);
    if (!d) continue;
    if (stops_work(d->remarks)) continue;
    ++tried;
    INFO("board " << n << ": " << board_of(p).instrument.strings.count << " strings, "
                  << board_of(p).instrument.strings.scale_bass << "-" << board_of(p).instrument.strings.scale_treble
                  << ", order " << static_cast<int>(board_of(p).work.order) << ", cutter "
                  << board_of(p).work.crown_cutter << ", bottom "
                  << static_cast<int>(board_of(p).instrument.slot.bottom) << ", ends "
                  << static_cast<int>(board_of(p).instrument.slot.ends) << ", marks "
                  << static_cast<int>(board_of(p).instrument.marks.shape) << ", crown "
                  << static_cast<int>(board_of(p).instrument.crown.kind) << ", end "
                  << static_cast<int>(board_of(p).instrument.board.end));
    const auto result = prove_piece(made(p).request(0.25));
    REQUIRE(result);
    std::vector<Finding> all = result->findings;
    all.insert(all.end(), result->sides.front().findings.begin(), result->sides.front().findings.end());
    std::string found;
    for (const Finding& f : all) found += fmt::format("{}: {} ({}, line {})\n", f.kind, f.text, f.program, f.line);
    INFO(found);
    for (const Finding& f : all) {
      CHECK(f.kind != "rapid_in_wood");
      CHECK(f.kind != "below_allowance");
      INFO(f.text << " at " << f.at.x << ", " << f.at.y << ", " << f.at.z);
      CHECK(f.kind != "gouge");
    }
    for (const SlotResult& s : result->sides.front().slots) {
      CHECK(s.place_error <= 0.005);
      CHECK(s.covered == 1);
    }
    CHECK(result->passed());
    // The board is never wider or longer than the blank.
    CHECK(d->setup.board_low.x >= d->setup.blank_corner.x);
    CHECK(d->setup.board_high.x <= d->setup.blank_corner.x + d->setup.blank_size.x);
    CHECK(d->setup.board_low.y >= d->setup.blank_corner.y);
    CHECK(d->setup.board_high.y <= d->setup.blank_corner.y + d->setup.blank_size.y);
  }
  CHECK(tried >= boards / 2);
}

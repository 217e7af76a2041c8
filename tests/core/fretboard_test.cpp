#include "core/units/plain_number.hpp"
#include <catch2/catch.hpp>

#include "core/instrument/fretboard_remarks.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {
Fretboard made(const Instrument& in) {
  auto board = make_fretboard(in);
  INFO((board ? "" : board.error().text()));
  REQUIRE(board);
  return *board;
}
bool has(const std::vector<Remark>& remarks, const std::string& kind) {
  return std::any_of(remarks.begin(), remarks.end(), [&](const Remark& r) { return r.kind == kind; });
}
Instrument fanned() {
  Instrument in;
  in.strings.scale_bass = 710;
  in.strings.scale_treble = 660;
  in.strings.square_fret = 7.5;
  return in;
}
}  // namespace

TEST_CASE("every string's own length is its scale") {
  const Fretboard b = made(fanned());
  CHECK_THAT(b.strings.front().scale, WithinAbs(710, 1e-9));
  CHECK_THAT(b.strings.back().scale, WithinAbs(660, 1e-9));
  for (const StringLine& s : b.strings) CHECK_THAT(distance(s.nut, s.saddle), WithinAbs(s.scale, 1e-9));
}

TEST_CASE("the square fret has the same x on both outer strings, whole or fractional") {
  for (const double square : {0.0, 5.0, 7.5, 12.0, 21.25}) {
    Instrument in = fanned();
    in.strings.square_fret = square;
    const Fretboard b = made(in);
    const double f = fret_fraction(square);
    CHECK_THAT(lerp(b.strings.front().nut, b.strings.front().saddle, f).x,
               WithinAbs(lerp(b.strings.back().nut, b.strings.back().saddle, f).x, 1e-9));
    CHECK_THAT(b.nut_line.middle().x, WithinAbs(0, 1e-9));
  }
}

TEST_CASE("spreads are between the outer strings' centres across the centre line") {
  const Fretboard b = made(fanned());
  CHECK_THAT(b.strings.back().nut.y - b.strings.front().nut.y, WithinAbs(35, 1e-9));
  CHECK_THAT(b.strings.back().saddle.y - b.strings.front().saddle.y, WithinAbs(52, 1e-9));
}

TEST_CASE("equal gaps leave the same air between the sides of neighbouring strings") {
  Instrument in;
  in.strings.spacing = Spacing::gaps;
  in.strings.gauges = {1.168, 0.914, 0.66, 0.432, 0.33, 0.254};
  const Fretboard b = made(in);
  double first = 0;
  for (std::size_t i = 0; i + 1 < b.strings.size(); ++i) {
    const double air = b.strings[i + 1].nut.y - b.strings[i].nut.y - (b.strings[i].gauge + b.strings[i + 1].gauge) / 2;
    if (i == 0) first = air;
    CHECK_THAT(air, WithinAbs(first, 1e-9));
  }
}

TEST_CASE("a left-handed board is the mirror image") {
  Instrument right = fanned();
  right.board.end = EndShape::round;
  Instrument left = right;
  left.strings.left_handed = true;
  const Fretboard a = made(right);
  const Fretboard b = made(left);
  CHECK(signed_area(b.corners) > 0);
  for (std::size_t i = 0; i < a.frets.size(); ++i) {
    CHECK_THAT(a.frets[i].bass_edge.x, WithinAbs(b.frets[i].bass_edge.x, 1e-12));
    CHECK_THAT(a.frets[i].bass_edge.y, WithinAbs(-b.frets[i].bass_edge.y, 1e-12));
  }
  CHECK_THAT(b.volume(), WithinAbs(a.volume(), 1e-6 * a.volume()));
  for (const Vec2 p : a.corners) CHECK(distance_to(b.corners, {p.x, -p.y}) < 0.002);
}

TEST_CASE("a zero fret adds one slot on the nut line and wood behind it") {
  Instrument in;
  in.frets.zero_fret = true;
  const Fretboard b = made(in);
  CHECK(b.frets.size() == 23);
  CHECK(b.frets.front().number == 0);
  CHECK_THAT(b.frets.front().middle().x, WithinAbs(0, 1e-9));
  CHECK_THAT(bounds(b.corners).low.x, WithinAbs(-6, 1e-9));
}

TEST_CASE("a flat slot bottom is shallower at the edges by the crown's drop; a following one is not") {
  Instrument in;
  in.slot.bottom = SlotBottom::flat;
  const Fretboard flat = made(in);
  const FretLine& f = flat.frets.back();
  const double drop = crown_drop(flat.crown_radius(f.bass_edge.x), f.bass_edge.y);
  CHECK_THAT(flat.slot_depth(f.bass_edge), WithinAbs(in.slot.depth - drop, 1e-9));
  CHECK(has(fretboard_remarks(flat), "slot.shallow"));
  in.slot.bottom = SlotBottom::crown;
  const Fretboard follow = made(in);
  CHECK_THAT(follow.slot_depth(f.bass_edge), WithinAbs(in.slot.depth, 1e-9));
  CHECK_FALSE(has(fretboard_remarks(follow), "slot.shallow"));
}

TEST_CASE("the fret job list: lengths, total, bend a little tighter than the crown") {
  const Fretboard b = made({});
  double total = 0;
  for (std::size_t i = 0; i < b.wire.size(); ++i) {
    CHECK_THAT(b.wire[i].cut_length, WithinAbs(b.frets[i].width() + 6, 1e-9));
    CHECK(b.wire[i].bend_radius < b.crown_radius(b.frets[i].middle().x));
    total += b.wire[i].cut_length;
  }
  CHECK_THAT(b.total_wire, WithinAbs(total, 1e-9));
}

TEST_CASE("a fanned board with a square end comes short after the last fret, and the repair mends it") {
  Instrument in = fanned();
  in.frets.count = 24;
  const Fretboard b = made(in);
  const auto remarks = fretboard_remarks(b);
  const auto it =
      std::find_if(remarks.begin(), remarks.end(), [](const Remark& r) { return r.kind == "board.overhang_short"; });
  REQUIRE(it != remarks.end());
  CHECK_THAT(it->number, WithinAbs(least_overhang(b), 1e-9));
  REQUIRE(it->repair);
  in.board.overhang = plain_number(it->repair->edits.front().second).value();
  CHECK(least_overhang(made(in)) >= practice::overhang_least);
}

TEST_CASE("numbers that contradict each other are refused with their place") {
  Instrument in;
  in.crown.radius_nut = 30;
  CHECK(make_fretboard(in).error().where == "crown.radius_nut");
  in = {};
  in.strings.count = 40;
  CHECK(make_fretboard(in).error().where == "strings.count");
  in = {};
  in.strings.scale_bass = 1400;
  CHECK(make_fretboard(in).error().where == "strings.scale_treble");
  in = {};
  in.marks.shape = MarkShape::outline;
  in.marks.outline = {{0, 0}, {5, 5}, {5, 0}, {0, 5}};
  CHECK(make_fretboard(in).error().where == "marks.outline");
}

TEST_CASE("each mistake in the numbers has its remark") {
  struct Mistake {
    const char* kind;
    void (*make)(Instrument&);
  };
  const Mistake mistakes[] = {
      {"board.overhang_short", [](Instrument& i) { i.board.overhang = 3; }},
      {"board.extension_short",
       [](Instrument& i) {
         i.frets.zero_fret = true;
         i.board.nut_extension = 1;
       }},
      {"slot.floor_thin", [](Instrument& i) { i.board.thickness = 4; }},
      {"slot.wide_for_tang", [](Instrument& i) { i.slot.width = 0.79; }},
      {"slot.narrow_for_tang", [](Instrument& i) { i.slot.width = 0.5; }},
      {"crown.reversed", [](Instrument& i) { std::swap(i.crown.radius_nut, i.crown.radius_last); }},
      {"board.edge_thin", [](Instrument& i) { i.board.thickness = 4.2; }},
      {"board.margin_small", [](Instrument& i) { i.board.edge_margin = 2; }},
      {"strings.close", [](Instrument& i) { i.strings.count = 9; }},
      {"frets.close",
       [](Instrument& i) {
         i.frets.count = 36;
         i.marks.places = {};
       }},
      {"frets.slant_large", [](Instrument& i) { i.strings.scale_treble = 560; }},
      {"marks.deep", [](Instrument& i) { i.marks.depth = 5.2; }},
      {"marks.near_slot", [](Instrument& i) { i.marks.size = 13; }},
      {"marks.beyond_edge",
       [](Instrument& i) {
         i.marks.shape = MarkShape::block;
         i.marks.length = 70;
       }},
  };
  const auto none = fretboard_remarks(made({}));
  for (const Mistake& m : mistakes) {
    Instrument in;
    m.make(in);
    INFO(m.kind);
    CHECK_FALSE(has(none, m.kind));
    CHECK(has(fretboard_remarks(made(in)), m.kind));
  }
}

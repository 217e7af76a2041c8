// How frets are held and when they go in; fillings of marks; ticks over the edge; pairs; marks of their own shape.
#include "core/instrument/fret_work.hpp"
#include "core/instrument/fretboard_remarks.hpp"
#include "support/made.hpp"

namespace wren {
namespace {

Fretboard board_of_edits(const Edits& edits) {
  const Project p = edited(*project_from("reedling"), edits);
  auto b = make_fretboard(board_of(p).instrument);
  INFO((b ? "" : b.error().text()));
  REQUIRE(b);
  return *b;
}

bool told(const Fretboard& b, const std::string& kind) {
  for (const Remark& r : fretboard_remarks(b))
    if (r.kind == kind) return true;
  return false;
}

std::vector<Mark> at_fret(const Fretboard& b, int fret) {
  std::vector<Mark> out;
  for (const Mark& m : b.marks)
    if (m.fret == fret) out.push_back(m);
  return out;
}

}  // namespace

TEST_CASE("what a slot may be wider than its tang follows from what holds the fret", "[frets]") {
  // The same slot of 0.58 for a tang of 0.53 is right for pressing and too tight for glue alone.
  CHECK_FALSE(told(board_of_edits({{"frets.held", "pressing"}}), "slot.wide_for_tang"));
  CHECK_FALSE(told(board_of_edits({{"frets.held", "glue"}}), "slot.wide_for_tang"));
  CHECK(told(board_of_edits({{"frets.held", "glue"}, {"slot.width", "0.56"}}), "slot.narrow_for_tang"));
  // 0.62 is loose for barbs alone, and right with a drop of glue.
  CHECK(told(board_of_edits({{"frets.held", "pressing"}, {"slot.width", "0.62"}}), "slot.wide_for_tang"));
  CHECK_FALSE(
      told(board_of_edits({{"frets.held", "pressing_and_glue"}, {"slot.width", "0.62"}}), "slot.wide_for_tang"));
  // Past the loosest, glue has to fill a gap.
  CHECK(told(board_of_edits({{"frets.held", "glue"}, {"slot.width", "0.9"}}), "slot.wide_for_tang"));
  for (const FretsHeld held : {FretsHeld::pressed, FretsHeld::pressed_glue, FretsHeld::glued})
    CHECK(slot_play(held).least < slot_play(held).most);
}

TEST_CASE("a loose board bows more the wider the barbs and the thinner it is, and not at all with glue", "[frets]") {
  const double usual = back_bow(board_of_edits({}));
  CHECK(usual > 0.5);
  CHECK(usual < 8);
  CHECK(back_bow(board_of_edits({{"frets.barb_width", "0.9"}})) > usual);
  CHECK(back_bow(board_of_edits({{"board.thickness", "5.2"}})) > usual);
  CHECK(back_bow(board_of_edits({{"frets.held", "glue"}})) == 0);
  CHECK(back_bow(board_of_edits({{"slot.width", "0.8"}})) == 0);  // wider than the barbs
  // It is told where it matters: before the glue-up.
  CHECK_FALSE(told(board_of_edits({}), "frets.back_bow"));
  CHECK(told(board_of_edits({{"frets.when", "board_loose"}}), "frets.back_bow"));
  CHECK_FALSE(told(board_of_edits({{"frets.when", "board_loose"}, {"frets.held", "glue"}}), "frets.back_bow"));
  CHECK(told(board_of_edits({{"frets.barb_width", "0.4"}}), "frets.barbs"));
}

TEST_CASE("pairs of marks stand so far apart, wide at twelve and narrow at twenty-four", "[marks]") {
  const Edits pairs{
      {"frets.count", "24"}, {"marks.pair_wide", "30"}, {"marks.pair_narrow", "14"}, {"board.blank.length", "560"}};
  const Fretboard b = board_of_edits(pairs);
  const auto twelve = at_fret(b, 12);
  const auto last = at_fret(b, 24);
  REQUIRE(twelve.size() == 2);
  REQUIRE(last.size() == 2);
  CHECK(distance(twelve[0].centre, twelve[1].centre) == Approx(30).margin(1e-9));
  CHECK(distance(last[0].centre, last[1].centre) == Approx(14).margin(1e-9));
  // Nothing said: half the board's width there, as ever.
  const Fretboard usual = board_of_edits({});
  const FretLine& eleven = usual.frets[10];
  const FretLine& twelfth = usual.frets[11];
  CHECK(distance(at_fret(usual, 12)[0].centre, at_fret(usual, 12)[1].centre) ==
        Approx((eleven.width() + twelfth.width()) / 4).margin(1e-9));
  CHECK(told(board_of_edits({{"marks.pair_wide", "4"}}), "marks.pair_touches"));
  CHECK_FALSE(told(b, "marks.pair_touches"));
}

TEST_CASE("each position can have a shape of its own", "[marks]") {
  const Fretboard b = board_of_edits({{"marks.at", "5 block; 7 none; 12 tick"}});
  CHECK(at_fret(b, 3).front().radius == Approx(3));
  CHECK(at_fret(b, 5).front().radius == 0);
  CHECK(at_fret(b, 5).front().outline.size() == 4);
  CHECK(at_fret(b, 7).empty());
  CHECK(at_fret(b, 12).size() == 2);
  CHECK(at_fret(b, 12).front().radius == 0);
  // The other way about: marks only where they are named.
  const Fretboard only = board_of_edits({{"marks.shape", "none"}, {"marks.at", "12 dot"}});
  REQUIRE(only.marks.size() == 2);
  CHECK(only.marks.front().fret == 12);
}

TEST_CASE("shapes of single positions: what cannot be read is a sentence", "[marks]") {
  const Project p = *project_from("reedling");
  for (const char* text : {"12 star", "0 dot", "37 dot", "x dot", "12", "12 dot; 12 block", "12 dot extra", "1e1 dot",
                           "-3 dot", "12.5 dot"}) {
    INFO(text);
    const auto out = with_edits(p, {{"marks.at", text}});
    REQUIRE_FALSE(out);
    CHECK(out.error().text().size() > 20);
    CHECK(out.error().text().find("shape") != std::string::npos);
  }
  for (const char* text : {"", "none", "12 dot", " 12   dot ;24 block;", "36 outline"}) {
    INFO(text);
    CHECK(with_edits(p, {{"marks.at", text}}));
  }
  // An outline for one fret needs an outline.
  const auto none = make_fretboard(board_of(edited(p, {{"marks.at", "12 outline"}})).instrument);
  REQUIRE_FALSE(none);
  CHECK(none.error().where == "marks.outline");
}

TEST_CASE("shapes of single positions come back from the file as they went", "[marks]") {
  const Project p = edited(*project_from("reedling"), {{"marks.at", "5 block; 12 none"}, {"marks.filling", "resin"}});
  const auto back = project_from_json(all_parts().book(), project_to_json(all_parts().book(), p), "x.wren");
  INFO((back ? "" : back.error().text()));
  REQUIRE(back);
  CHECK(board_of(*back) == board_of(p));
}

TEST_CASE("ticks run from the face over the bass edge, so deep, so long, and doubled at twelve", "[marks]") {
  for (const char* left : {"no", "yes"}) {
    const Fretboard b = board_of_edits({{"marks.side", "ticks"}, {"strings.left_handed", left}});
    REQUIRE(b.ticks.size() == b.given.marks.places.size());  // 24 is past the last fret, 12 counts twice
    int twelve = 0;
    for (const EdgeTick& t : b.ticks) {
      if (t.fret == 12) ++twelve;
      INFO(t.fret << " left " << left);
      // Its outer end is past the board, its inner end so far in.
      CHECK_FALSE(contains(b.corners, t.outer));
      CHECK(contains(b.corners, t.inner));
      CHECK(distance(t.inner, t.edge) + t.width / 2 == Approx(b.given.marks.tick_length).margin(1e-6));
      CHECK(b.crown_height(t.edge) - t.floor == Approx(b.given.marks.tick_depth).margin(0.05));
      // On the side where the thickest string is.
      CHECK(t.edge.y * b.strings.front().nut.y > 0);
      // Between its two frets.
      const double x = t.edge.x;
      CHECK(x > fret_fraction(t.fret - 1) * 635);
      CHECK(x < fret_fraction(t.fret) * 635);
      CHECK(b.finished_height(lerp(t.inner, t.edge, 0.5)) == Approx(t.floor));
    }
    CHECK(twelve == 2);
  }
  CHECK(board_of_edits({}).ticks.empty());
  CHECK(board_of_edits({{"marks.side", "staggered"}}).ticks.empty());
  CHECK(told(board_of_edits({{"marks.side", "ticks"}, {"marks.tick_depth", "4"}}), "marks.tick_deep"));
  CHECK(told(board_of_edits({{"marks.side", "ticks"}, {"marks.tick_width", "8"}, {"marks.tick_length", "9"}}),
             "marks.tick_near_slot"));
}

TEST_CASE("marks and ticks take their volume off the board", "[marks]") {
  const double whole = board_of_edits({{"marks.shape", "none"}}).volume();
  const Fretboard dots = board_of_edits({});
  CHECK(whole - dots.volume() == Approx(filling_volume(dots)).epsilon(0.01));
  const Fretboard ticks = board_of_edits({{"marks.shape", "none"}, {"marks.side", "ticks"}});
  CHECK(whole - ticks.volume() == Approx(filling_volume(ticks)).epsilon(0.03));
}

TEST_CASE("resin is poured in so many goes, and the sheet says how much", "[marks]") {
  const Edits deep{{"marks.filling", "resin"}, {"marks.depth", "3.2"}, {"marks.pour", "1.5"}};
  const Fretboard b = board_of_edits(deep);
  CHECK(deepest_filling(b) == Approx(3.2).margin(0.15));
  CHECK(pours_of(b) == 3);
  CHECK(pours_of(board_of_edits({{"marks.filling", "shell"}})) == 0);
  CHECK(pours_of(board_of_edits({{"marks.filling", "resin"}, {"marks.shape", "none"}})) == 0);
  const std::string words = filling_words(b).in(UnitSystem::millimetre);
  CHECK(words.find("3 pours") != std::string::npos);
  CHECK(words.find("1.5") != std::string::npos);
  CHECK(words.find("ml") != std::string::npos);
  CHECK(filling_words(board_of_edits({{"marks.filling", "acrylic"}})).find("acrylic") != std::string::npos);
}

TEST_CASE("the spread follows single pieces, whatever the number says", "[strings]") {
  const Edits pieces{{"strings.spread_from", "pieces"}, {"strings.piece_width", "10.6"}, {"strings.piece_gap", "0.1"}};
  const Fretboard b = board_of_edits(pieces);
  CHECK(b.strings.back().saddle.y - b.strings.front().saddle.y == Approx(5 * 10.7).margin(1e-9));
  // The board's edges follow the strings.
  CHECK(b.frets.back().width() > board_of_edits({}).frets.back().width());
  CHECK(board_of_edits({{"strings.piece_width", "20"}}).frets.back().width() ==
        Approx(board_of_edits({}).frets.back().width()));
}

}  // namespace wren

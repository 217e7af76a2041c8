// Every permitted pair of choices of how a body is made, on random instruments: pieces that are whole, located, held
// and proved. All of them together are thousands; a covering array holds each pair of choices at least once (support/
// covering.hpp). A refusal is not a pass.
// Every row is planned; a third of them is proved at every run, all of them, twice over, with WREN_HEAVY=1.
#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <cstdlib>

#include "support/covering.hpp"

using namespace wren;

namespace {

/// The choices, each way as the edits that take it.
const std::vector<Choice>& choices() {
  static const std::vector<Choice> all{
      {"layers",
       {{{"body.layers", "body cherry 42"}, {"chamber.sides", "none"}, {"wire.width", "0"}},
        {{"body.layers", "top ash 6.5; body pine 36"}, {"control.face_left", "6.5"}},
        {{"body.layers", "top maple 7; core plywood-birch 26; back maple 9"}, {"control.face_left", "7"}}}},
      {"controls", {{{"control.by_layer", "no"}}, {{"control.by_layer", "yes"}}}},
      {"pickups", {{}, {{"pickup.bridge.by_layer", "yes"}, {"pickup.bridge.depth", "19"}}}},
      {"windows", {{{"body.plugs", "yes"}}, {{"body.plugs", "no"}}}},
      {"outline",
       {{{"body.outline_school", "full"}},
        {{"body.outline_school", "halves"}},
        {{"body.outline_school", "guide"}, {"body.ears_off", "by hand"}},
        {{"body.outline_school", "guide"}, {"body.ears_off", "by machine"}}}},
      {"top",
       {{},
        {{"body.top_oversize", "5"}, {"body.top_register", "ears"}},
        {{"body.top_oversize", "5"}, {"body.top_register", "holes"}},
        {{"body.top_oversize", "5"}, {"body.top_register", "lines"}}}},
      {"found by", {{{"body.alignment", "pins"}}, {{"body.alignment", "ticks"}}, {{"body.alignment", "fence"}}}},
      {"turn", {{{"body.turn", "length"}}, {{"body.turn", "width"}}}},
      {"lie", {{{"body.blank.lie", "x"}}, {{"body.blank.lie", "y"}}}},
      {"levelling",
       {{},
        {{"body.face_off", "0.8"}},
        {{"body.back_off", "1.2"}},
        {{"body.face_off", "0.5"}, {"body.back_off", "0.7"}}}},
      {"chambers", {{{"chamber.sides", "none"}}, {{"chamber.sides", "both"}}}},
      {"comfort",
       {{},
        {{"body.belly_depth", "4"}, {"body.belly_reach", "40"}},
        {{"body.carve", "dome"}, {"body.carve_drop", "3"}}}},
      {"strips", {{}, {{"body.strips_1", "ash 200; walnut 200"}}, {{"body.strips_1", "across: pine 250; pine 250"}}}},
  };
  return all;
}

/// What makers do not do, each with the reason.
bool permitted(const Picked& p) {
  const auto way = [&](const char* name) { return way_of(choices(), p, name); };
  const bool one_piece = way("layers") == 0;
  const bool sawn = way("outline") >= 2;
  if (one_piece && (way("controls") == 1 || way("pickups") == 1)) return false;  // there are no layers
  if (one_piece && (way("top") > 0 || way("chambers") == 1)) return false;       // nothing is glued on
  if (sawn && way("found by") == 2) return false;                                // a fence finds nothing on a sawn body
  if (way("top") > 0 && way("found by") == 2) return false;  // nor on a body whose top is smaller than its blank
  return true;
}

/// An instrument of its own for each row: all of them have room for every choice.
Edits random_instrument(Random& random) {
  const auto mm = [&](double a, double b) { return fmt::to_string(std::round(random.between(a, b) * 10) / 10); };
  return {{"strings.left_handed", random.pick({"yes", "no"})},
          {"strings.scale_bass", mm(625, 655)},
          {"body.form", random.pick({"two horns", "one horn", "leaning"})},
          {"body.lower_width", mm(318, 340)},
          {"body.waist_width", mm(215, 235)},
          {"body.tail", mm(106, 120)},
          {"body.blank.length", "500"},
          {"body.blank.width", "400"},
          {"chamber.floor", "10"},
          {"chamber.wall", "22"},
          {"control.pots", random.pick({"1", "2", "3"})},
          {"body.round_face", mm(1.5, 4)},
          {"body.round_back", mm(1.5, 4)},
          {"body.tabs", random.pick({"4", "5"})}};
}

}  // namespace

TEST_CASE("rows of choices hold every pair that is permitted, and nothing else") {
  const auto rows = covering(choices(), permitted, 1);
  CHECK(rows.size() >= 16);  // the two longest lists alone
  CHECK(rows.size() <= 40);
  for (const Picked& row : rows) CHECK(permitted(row));
}

TEST_CASE("every permitted pair of ways to make a body gives pieces that are whole, located, held and proved") {
  const bool heavy = std::getenv("WREN_HEAVY") != nullptr;
  for (unsigned seed = 1; seed <= (heavy ? 2U : 1U); ++seed) {
    Random random(seed * 977);
    const auto rows = covering(choices(), permitted, seed);
    for (std::size_t k = 0; k < rows.size(); ++k) {
      Edits edits = random_instrument(random);
      for (const auto& edit : edits_of(choices(), rows[k])) edits.push_back(edit);
      INFO("row " << k << ":" << words_of(edits));
      auto p = with_edits(*project_from("reedling"), edits);
      INFO((p ? std::string() : p.error().text()));
      REQUIRE(p);
      const Made m = made(*p, "body");
      const std::string told = stopping(m.remarks());
      INFO(told);
      CHECK(told.empty());
      if (heavy || k % 3 == 0) {
        const PartProof proof = proof_of(m, m, {}, 0);  // at the pieces' own cells: what a maker is told
        const std::string refused = stops(proof);
        INFO(refused);
        CHECK(refused.empty());
        CHECK(proof.verdict() == Verdict::proved);
      }
      // Located: whatever was on the machine before is found by something.
      for (const Piece& piece : m.planned.made.pieces)
        for (std::size_t s = 0; s < piece.sides.size(); ++s)
          if (s > 0 || !piece.after.empty()) CHECK(piece.sides[s].setup.found_by.kind != RegisterKind::first);
    }
  }
}

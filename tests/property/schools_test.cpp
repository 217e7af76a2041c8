// Every permitted pair of schools, on random instruments: all parts that follow are whole, held and proved, and what
// comes back onto the machine is found by something. As for the ways of making a body (combinations_test.cpp): every
// row is planned, some are proved at every run, all of them with WREN_HEAVY=1.
#include <fmt/format.h>
#include <cstdlib>

#include "support/covering.hpp"

using namespace wren;

namespace {

/// The schools, as the table that a maker chooses from.
const std::vector<Choice>& schools() {
  static const std::vector<Choice> all{
      {"frets", {{{"frets.when", "board_glued"}}, {{"frets.when", "board_loose"}}}},
      {"held by",
       {{{"frets.held", "pressing"}},
        {{"frets.held", "pressing_and_glue"}},
        {{"frets.held", "glue"}, {"slot.width", "0.66"}}}},
      {"bridge", {{{"bridge.holes", "with_body"}}, {{"bridge.holes", "held_back"}}}},
      {"bridge is",
       {{{"bridge.name", "posts-74"}},
        {{"bridge.name", "plate-52"},
         {"body.follows", "depth"},
         {"body.pocket_tilt", "0"},
         {"bridge.low", "12"},
         {"bridge.high", "18"}},
        {{"bridge.name", "single-pieces"},
         {"strings.spread_from", "pieces"},
         {"body.follows", "depth"},
         {"body.pocket_tilt", "0"},
         {"bridge.low", "12"},
         {"bridge.high", "18"}}}},
      {"jack", {{{"wire.jack_when", "body_bare"}}, {{"wire.jack_when", "body_finished"}}}},
      {"pocket",
       {{{"body.pocket_from", "measured_heel"}}, {{"body.pocket_from", "numbers"}}, {{"body.pocket_from", "sample"}}}},
      {"outline", {{{"body.outline_when", "last"}}, {{"body.outline_when", "first"}, {"body.outline_school", "full"}}}},
      {"board's outline", {{{"board.outline_when", "last"}}, {{"board.outline_when", "first"}}}},
      {"floors", {{{"control.floor_edges", "flat"}}, {{"control.floor_edges", "rounded"}}}},
      {"side marks", {{{"marks.side", "row"}}, {{"marks.side", "staggered"}}, {{"marks.side", "ticks"}}}},
      {"knobs", {{}, {{"control.knob_recess", "22"}, {"control.knob_depth", "3"}, {"control.face_left", "7"}}}},
      {"pickups", {{}, {{"pickup.neck.behind", "yes"}}}},
      {"plate", {{}, {{"plate.thickness", "2.5"}}}},
  };
  return all;
}

/// What makers do not do.
bool permitted(const Picked& p) {
  // A plate that covers the pickups leaves no face for what is let in from behind.
  return !(way_of(schools(), p, "pickups") == 1 && way_of(schools(), p, "plate") == 1);
}

Edits random_instrument(Random& random) {
  const auto mm = [&](double a, double b) { return fmt::to_string(std::round(random.between(a, b) * 10) / 10); };
  return {{"strings.left_handed", random.pick({"yes", "no"})},
          {"strings.scale_bass", mm(628, 660)},
          {"body.form", random.pick({"two horns", "one horn", "leaning"})},
          {"body.layers", random.pick({"body cherry 43", "top ash 6.5; body cherry 37.5"})},
          {"chamber.sides", "none"},
          {"body.belly_depth", "0"},
          {"body.bevel_depth", "0"},
          {"body.blank.length", "500"},
          {"body.blank.width", "400"},
          {"body.round_face", mm(1.5, 4)},
          {"body.round_back", mm(1.5, 4)},
          {"slot.measured_width", "0.57"}};
}

}  // namespace

TEST_CASE("every permitted pair of schools gives parts that are whole, located, held and proved", "[schools]") {
  const bool heavy = std::getenv("WREN_HEAVY") != nullptr;
  Random random(4711);
  const auto rows = covering(schools(), permitted, 1);
  CHECK(rows.size() >= 9);
  CHECK(rows.size() <= 24);
  for (std::size_t k = 0; k < rows.size(); ++k) {
    CHECK(permitted(rows[k]));
    Edits edits = random_instrument(random);
    for (const auto& edit : edits_of(schools(), rows[k])) edits.push_back(edit);
    INFO("row " << k << ":" << words_of(edits));
    auto p = with_edits(*project_from("reedling"), edits);
    INFO((p ? std::string() : p.error().text()));
    REQUIRE(p);
    const Followed followed = followed_of(*p);
    for (const PartKind& kind : all_parts().kinds()) {
      const auto design = followed.designs.find(kind.id());
      INFO(kind.id() << (followed.problems.contains(kind.id()) ? followed.problems.at(kind.id()).text() : ""));
      REQUIRE(design);
      if (!design->present) continue;
      const Made m = made(*p, kind.id());
      const std::string told = stopping(m.remarks());
      INFO(told);
      CHECK(told.empty());
      for (const Piece& piece : m.planned.made.pieces)
        for (std::size_t s = 0; s < piece.sides.size(); ++s)
          if (s > 0 || !piece.after.empty()) CHECK(piece.sides[s].setup.found_by.kind != RegisterKind::first);
      if (!heavy && k % 6 != 0) continue;
      // Neck and waste board do not depend on these.
      if (!heavy && (kind.id() == "neck" || kind.id() == "waste-board" || kind.id() == "coupon")) continue;
      const PartProof proof = proof_of(m, m, {}, 0);
      const std::string refused = stops(proof);
      INFO(refused);
      CHECK(refused.empty());
      CHECK(proof.verdict() == Verdict::proved);
    }
  }
}

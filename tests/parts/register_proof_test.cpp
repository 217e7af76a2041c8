// Sawn bodies, oversize tops: planned, proved, and refused where what keeps their register is cut.
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;

namespace {

Made sawn(std::vector<std::pair<std::string, std::string>> edits) {
  edits.insert(edits.begin(), {"body.outline_school", "guide"});
  auto p = with_edits(*project_from("reedling"), edits);
  INFO((p ? std::string() : p.error().text()));
  REQUIRE(p);
  return made(*p, "body");
}

}  // namespace

TEST_CASE("a sawn body is skimmed up to its ears and held by them; cut off last, tabs hold it") {
  const Made hand = sawn({});
  CHECK(stops(proof_of(hand, hand, {"skim"})).empty());
  const Made machine = sawn({{"body.ears_off", "by machine"}});
  CHECK(machine.side("skim").cuts.size() == 2);
  CHECK(stops(proof_of(machine, machine, {"skim"})).empty());
  // Turned the other way, and laid along the other axis.
  const Made other = sawn({{"body.turn", "width"}, {"body.blank.lie", "y"}, {"body.ears_off", "by machine"}});
  CHECK(stops(proof_of(other, other, {"skim"})).empty());
  const Made ticks = sawn({{"body.alignment", "ticks"}});
  CHECK(stops(proof_of(ticks, ticks, {"skim"})).empty());

  SECTION("z is probed on wood that the back's cuts have left at its height") {
    // A belly over all of the back leaves only what is flat: the place moves, and the proof holds it.
    for (const char* depth : {"0", "8", "15"}) {
      const Made m = sawn({{"body.belly_depth", depth}, {"body.belly_reach", "120"}});
      const Setup& setup = m.side("skim").setup;
      REQUIRE(setup.probe);
      INFO(depth << " at " << setup.probe->at.x << ", " << setup.probe->at.y);
      if (!setup.probe->on_board) CHECK(std::abs(setup.untouched(setup.probe->at)) < 1e-9);
      const Vec2 p = turned(setup.turn, setup.to_work.back(setup.probe->at));
      if (!setup.probe->on_board && contains(m.body().shape.corners, p))
        CHECK(m.body().shape.finished_bottom(p) == -m.body().shape.thickness);
    }
  }
  SECTION("ears forgotten: the proof says no") {
    // Programs that cut them off, where they are to stay; and none that cuts them, where they are to go.
    CHECK_THAT(stops(proof_of(hand, machine, {"skim"})), Contains("tab_thin"));
    CHECK_THAT(stops(proof_of(machine, hand, {"skim"})), Contains("tab_thick"));
    // Narrower ears than the design keeps.
    const Made narrow = sawn({{"body.ear_width", "19"}});
    CHECK_THAT(stops(proof_of(hand, narrow, {"skim"})), Contains("tab_"));
  }
  SECTION("a fence finds nothing on a sawn body") {
    const Made fence = sawn({{"body.alignment", "fence"}});
    CHECK_THAT(stops(proof_of(fence, fence, {"skim"})), Contains("no_register"));
  }
}

TEST_CASE("an oversize top is not cut out through its own pins") {
  // Ends of the blank as long as they were for the body alone: planner and proof both say so.
  const auto p = with_edits(*project_from("reedling"), {{"body.top_oversize", "5"}, {"body.top_register", "holes"}});
  REQUIRE(p);
  const Made m = made(*p, "body");
  CHECK_THAT(stops(proof_of(m, m, {"layer-1"}, 0.2)), Contains("into_clamp"));
  const std::vector<Remark> remarks = m.remarks();
  const auto short_blank =
      std::find_if(remarks.begin(), remarks.end(), [](const Remark& r) { return r.kind == "body.blank_short"; });
  REQUIRE(short_blank != remarks.end());
  CHECK(short_blank->weight == Weight::stop);
}

TEST_CASE("an oversize top is proved with each way of finding it again") {
  for (const char* way : {"ears", "holes", "lines"}) {
    INFO(way);
    auto p = with_edits(*project_from("reedling"),
                        {{"body.top_oversize", "5"}, {"body.top_register", way}, {"body.blank.length", "490"}});
    REQUIRE(p);
    const Made m = made(*p, "body");
    for (const char* side : {"layer-1", "layer-2"}) {
      INFO(side);
      const std::string all = stops(proof_of(m, m, {side}, 0.2));
      INFO(all);
      CHECK(all.empty());
    }
    const RunSheet sheet = m.sheet();
    std::string all;
    for (const RunSide& s : sheet.sides)
      for (const std::string& line : s.after) all += line + "\n";
    INFO(all);
    if (std::string(way) != "ears") CHECK_THAT(all, !Contains("pins through all layers"));
  }
}

TEST_CASE("a thick blank is levelled on both faces, all depths following") {
  auto p = with_edits(
      *project_from("reedling"),
      {{"body.layers", "body cherry 40"}, {"chamber.sides", "none"}, {"body.face_off", "1.5"}, {"body.back_off", "2"}});
  REQUIRE(p);
  const Made m = made(*p, "body");
  // The same body as out of a blank of the right thickness: its depths, its weight.
  auto exact = with_edits(*p, {{"body.face_off", "0"}, {"body.back_off", "0"}});
  REQUIRE(exact);
  const Made other = made(*exact, "body");
  CHECK(m.body().shape.thickness == other.body().shape.thickness);
  CHECK(m.body().balance.body_g == other.body().balance.body_g);
  CHECK(m.body().blank.thickness == 43.5);
  CHECK(m.side("back").cuts.front().id == "facing-back");
  CHECK(m.side("front").cuts[1].id == "facing");
  const PartProof proof = m.proof(0.25);
  const std::string all = stops(proof);
  INFO(all);
  CHECK(all.empty());
  // Facing forgotten: the back is too high.
  Made lazy = made(*p, "body");
  std::erase_if(lazy.programs,
                [](const PlacedProgram& f) { return f.side == "back" && f.file.cuts.front() == "facing-back"; });
  auto r = prove_part(lazy.planned, lazy.programs, 0.25);
  REQUIRE(r);
  CHECK_FALSE(stops(*r).empty());
}

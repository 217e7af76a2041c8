// Holes beyond a drill's reach, and jacks against the wall, the edge and the pots.
#include <catch2/catch.hpp>

#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

std::optional<Remark> remark_of(const std::vector<Remark>& all, const std::string& kind) {
  for (const Remark& r : all)
    if (r.kind == kind) return r;
  return {};
}

std::optional<Remark> body_remark(const Project& p, const std::string& kind) { return design_remark(p, "body", kind); }

Project deep() { return edited(*project_from("reedling"), {{"rack.drill-3.2.cutting_length", "11"}}); }

}  // namespace

TEST_CASE("heel holes deeper than the drill's flutes stop the work, and every way out ends that") {
  const Project p = deep();
  const Made m = made(p, "neck");
  const auto r = remark_of(m.remarks(), "neck.cutter_short");
  REQUIRE(r);
  CHECK_THAT(r->sentence, Contains("Heel holes"));
  CHECK(r->weight == Weight::stop);
  REQUIRE(ways(*r).size() >= 3);
  for (const Repair& way : ways(*r)) {
    INFO(way.label);
    const auto left = remark_of(made(edited(p, way.edits), "neck").remarks(), "neck.cutter_short");
    INFO((left ? left->sentence : std::string()));
    CHECK_FALSE(left);
  }
}

TEST_CASE(
    "begun by machine, drilled on by hand: the programs go as far as the drill, the sheet says how far a hand goes") {
  const Project p = edited(deep(), {{"neck.deep_holes", "finish by hand"}});
  const Made m = made(p, "neck");
  double machine = 0;
  for (const Hole& h : m.neck().shape.holes)
    if (h.id.starts_with("heel")) {
      machine = h.by_machine();
      CHECK(h.depth == 14);
      CHECK(h.by_hand > 0);
      CHECK_THAT(h.by_machine() + h.by_hand, WithinAbs(14, 1e-12));
    }
  const Cutter drill = *find_cutter(p.rack, p.parts.of<NeckNumbers>().work.heel_drill);
  CHECK(machine < drill.cutting_length);
  const RunSheet sheet = m.sheet();
  std::string all;
  for (const std::string& line : sheet.by_hand) all += line + "\n";
  CHECK_THAT(all, Contains("drill on by hand") && Contains("14 mm"));
  // Nothing stops the programs, held against what the machine is to make.
  const PartProof proof = m.proof(0.4);
  std::string stops;
  for (const PieceProof& piece : proof.pieces)
    for (const ProofResult& side : piece.result.sides)
      for (const Finding& f : side.findings)
        if (f.weight == Weight::stop) stops += f.kind + " " + f.text + "\n";
  CHECK(stops.empty());
  // What a drill reaches anyway is left alone.
  Project shallow = edited(*project_from("reedling"), {{"neck.deep_holes", "finish by hand"}});
  for (const Hole& h : made(shallow, "neck").neck().shape.holes) CHECK(h.by_hand == 0);
}

TEST_CASE("a barrel that does not span the wall stops the work; each way out is one") {
  Project p = edited(*project_from("reedling"),
                     {{"wire.jack_kind", "barrel"}, {"wire.jack", "12.7"}, {"wire.jack_spans", "10"}});
  const auto r = body_remark(p, "body.jack_wall");
  REQUIRE(r);
  CHECK(r->weight == Weight::stop);
  CHECK(r->number > r->limit);
  REQUIRE(!ways(*r).empty());
  for (const Repair& way : ways(*r)) {
    INFO(way.label);
    CHECK_FALSE(body_remark(edited(p, way.edits), "body.jack_wall"));
  }
  CHECK_FALSE(body_remark(edited(p, {{"wire.jack_spans", "90"}}), "body.jack_wall"));
}

TEST_CASE("the wall is the wood along the jack's own axis: by brute force") {
  for (const char* angle : {"0", "20", "-25"}) {
    const Project p = edited(*project_from("reedling"), {{"wire.jack_angle", angle}});
    Cache cache;
    const auto followed = follow(all_parts(), p, cache);
    const BodyShape& s = followed.designs.shape<BodyDesign>().shape;
    const Cavity* control = s.cavity("control");
    REQUIRE(control != nullptr);
    for (const EdgeJob& j : s.edge_jobs) {
      if (j.id != "jack" || j.reaches.empty()) continue;
      double wood = 0;
      while (wood < 200 && !contains(control->region, j.at + j.inward * wood)) wood += 0.05;
      INFO(angle);
      CHECK_THAT(j.wall, WithinAbs(wood, 0.3));
      CHECK(j.depth > j.wall);
    }
  }
}

TEST_CASE("a jack in the wrong hole, a dish through the wall, and a socket in a pot") {
  const Project p = *project_from("reedling");
  const auto hole = body_remark(edited(p, {{"wire.jack_kind", "barrel"}, {"wire.jack", "22"}}), "body.jack_hole");
  REQUIRE(hole);
  REQUIRE(hole->repair);
  CHECK(hole->repair->edits == Edits{{"wire.jack", "12.7"}});
  const auto dish = body_remark(edited(p, {{"wire.jack_dish", "40"}}), "body.jack_dish");
  Cache cache;
  const auto followed = follow(all_parts(), p, cache);
  double wall = 0;
  Vec2 at;
  Vec2 inward;
  for (const EdgeJob& j : followed.designs.shape<BodyDesign>().shape.edge_jobs)
    if (j.id == "jack") {
      wall = j.wall;
      at = j.at;
      inward = j.inward;
    }
  CHECK(dish.has_value() == (40 >= wall - 3));
  // A socket so long that it passes through the whole cavity meets the pot on its way, if one lies there.
  const Project long_one = edited(p, {{"wire.jack_inside", "90"}});
  const auto pot = body_remark(long_one, "body.jack_pot");
  bool meets = false;
  for (const Vec2 shaft : followed.designs.shape<BodyDesign>().shape.controls)
    meets = meets || distance_to(shaft, Segment2{at + inward * wall, at + inward * 90}) < 12.5 + 6;
  CHECK(pot.has_value() == meets);
  if (pot && pot->repair) CHECK_FALSE(body_remark(edited(long_one, pot->repair->edits), "body.jack_pot"));
}

TEST_CASE("a narrow hole of an older file was a barrel's") {
  auto doc = project_to_json(*project_from("reedling"));
  const auto cut = [&](const std::string& line) {
    const auto i = doc.find(line);
    REQUIRE(i != std::string::npos);
    doc.erase(doc.rfind('\n', i), doc.find('\n', i) - doc.rfind('\n', i));
  };
  cut("\"jack_kind\"");
  const auto i = doc.find("\"jack\": ");
  REQUIRE(i != std::string::npos);
  doc.replace(i, doc.find(',', i) - i, "\"jack\": 12.7");
  const auto opened = project_from_json(doc, "old.wren");
  INFO((opened ? "" : opened.error().text()));
  REQUIRE(opened);
  CHECK(body_of(*opened).body.wires.jack_kind == JackKind::barrel);
}

TEST_CASE(
    "a neck's bolts deeper than their drill's flutes stop the work, as the proof would, and a longer drill ends it") {
  // A shallow pocket on a low bridge: more wood under it than the drill has flutes for.
  const Project p = edited(*project_from("reedling"), {{"bridge.name", "plate-52"}, {"body.pocket_depth", "12"}});
  const auto r = remark_of(made(p, "body").remarks(), "body.cutter_short");
  REQUIRE(r);
  CHECK_THAT(r->sentence, Contains("Neck bolt") && Contains("drill-4"));
  CHECK(r->number > 35);
  REQUIRE(r->repair);
  CHECK_FALSE(remark_of(made(edited(p, r->repair->edits), "body").remarks(), "body.cutter_short"));
}

TEST_CASE("a floor that falls towards a wall keeps a wedge there, which a remark tells and the proof allows") {
  // A low bridge wants the neck tilted forwards: the pocket's floor falls towards the heel's end.
  const Project p = edited(*project_from("reedling"), {{"bridge.name", "plate-52"}, {"body.pocket_depth", "14"}});
  const Made m = made(p, "body");
  CHECK(m.body().shape.setup.tilt < -0.03);
  const auto r = remark_of(m.remarks(), "body.sloping_floor");
  REQUIRE(r);
  // By hand: a rim of radius 3.175 rests uphill, so the wall at the bottom of the slope keeps tan of it times its
  // width.
  CHECK_THAT(r->number, WithinAbs(2 * 3.175 * std::tan(-m.body().shape.setup.tilt), 1e-6));
  CHECK_THAT(r->sentence, Contains("end wall"));
  const PartProof proof = m.proof(0);
  CHECK(stops(proof).empty());
  // The other way the floor falls out of the pocket's mouth: nothing stays at the end.
  const auto level = remark_of(made(*project_from("reedling"), "body").remarks(), "body.sloping_floor");
  REQUIRE(level);
  CHECK_THAT(level->sentence, !Contains("end wall"));
}

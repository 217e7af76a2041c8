// Holes beyond a drill's reach, and jacks against the wall, the edge and the pots.
#include <catch2/catch.hpp>

#include "core/units/plain_number.hpp"
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
  // A thinner drill reaches, and its hole would be thinner.
  for (const Repair& way : ways(*r)) CHECK(way.edits != Edits{{"neck.heel_drill", "drill-1.6"}});
  for (const Repair& way : ways(*r)) {
    INFO(way.label);
    const auto left = remark_of(made(edited(p, way.edits), "neck").remarks(), "neck.cutter_short");
    INFO((left ? left->sentence.str() : std::string()));
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
      machine = h.from_back();
      CHECK(h.depth == 14);
      CHECK(h.by_hand() > 0);
      CHECK_THAT(h.from_back() + h.by_hand(), WithinAbs(14, 1e-12));
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
  for (const Hole& h : made(shallow, "neck").neck().shape.holes) CHECK(h.by_hand() == 0);
}

TEST_CASE("from both sides: the glue face's holes meet the back's, and the proof wants them to") {
  const Project p = edited(deep(), {{"neck.deep_holes", "from both sides"}});
  const Made m = made(p, "neck");
  const Cutter drill = *find_cutter(p.rack, p.parts.of<NeckNumbers>().work.heel_drill);
  const NeckDesign& d = m.neck();
  int met = 0;
  for (const Hole& h : d.shape.holes) {
    if (!h.id.starts_with("heel")) continue;
    ++met;
    CHECK(h.by_hand() == 0);
    CHECK(h.through());
    CHECK(h.from_back() < drill.cutting_length);
    CHECK_THAT(h.from_face + h.from_back() - d.cut_depth(h.at), WithinAbs(0.5, 1e-9));
    CHECK(may_open_at_face(d, h));
  }
  CHECK(met == 4);
  const auto stops = [](const PieceResult& r) {
    std::string out;
    const auto add = [&](const std::vector<Finding>& all) {
      for (const Finding& f : all)
        if (f.weight == Weight::stop) out += f.kind + ": " + f.text.str() + "\n";
    };
    add(r.findings);
    for (const ProofResult& side : r.sides) add(side.findings);
    return out;
  };
  const PieceRequest request = m.request(0.2);
  const auto whole = prove_piece(request);
  REQUIRE(whole);
  INFO(stops(*whole));
  CHECK(stops(*whole).empty());
  CHECK(whole->holes_open >= 4 + 6);  // tuners' too

  SECTION("without the program that meets them they stay closed") {
    PieceRequest without = request;
    const auto gone = std::erase_if(without.sides[0].programs,
                                    [](const ProgramText& t) { return t.name.find("heel-face") != std::string::npos; });
    REQUIRE(gone == 1);
    const auto r = prove_piece(without);
    REQUIRE(r);
    CHECK_THAT(stops(*r), Contains("hole_closed: The hole heel-1 does not go through."));
  }
  SECTION("holes beside those of the other side are none") {
    PieceRequest aside = request;
    for (ProgramText& t : aside.sides[0].programs)
      if (t.name.find("heel-face") != std::string::npos) {
        // Somebody else's: without our first line and our last.
        std::string& text = t.text.edit();
        text.erase(text.find("(end: "));
        text.erase(0, text.find('\n') + 1);
        for (auto at = text.find("\nG0X"); at != std::string::npos; at = text.find("\nG0X", at + 1)) {
          const auto end = text.find_first_not_of("-.0123456789", at + 4);
          text.replace(at + 4, end - at - 4,
                       fmt::format("{:.3f}", *plain_number(text.substr(at + 4, end - at - 4)) + 2));
        }
        t.sealed = false;
      }
    const auto r = prove_piece(aside);
    REQUIRE(r);
    CHECK_THAT(stops(*r), Contains("gouge") || Contains("cavity"));
  }
  SECTION("the sheet says how far they may miss, and that they are open") {
    std::string all;
    for (const std::string& line : m.sheet().by_hand) all += line + "\n";
    CHECK_THAT(all, Contains("from both sides") && Contains("open at the glue face"));
    CHECK_THAT(all, !Contains("drill on by hand"));
  }
}

TEST_CASE("where no board covers a deep hole it is drilled on by hand, and both sides are no way out") {
  const auto heel = [](const Project& p) {
    const Made m = made(p, "neck");
    for (const Hole& h : m.neck().shape.holes)
      if (h.id.starts_with("heel")) return std::pair{h.from_face, h.by_hand()};
    FAIL("no heel hole");
    return std::pair{0.0, 0.0};
  };
  const auto offered = [](const Project& p) {
    const auto r = remark_of(made(p, "neck").remarks(), "neck.cutter_short");
    REQUIRE(r);
    for (const Repair& way : ways(*r))
      if (way.label.find("both sides") != std::string::npos) return true;
    return false;
  };
  const Edits both{{"neck.deep_holes", "from both sides"}};
  CHECK(offered(deep()));
  // A neck of one piece has its frets there.
  const Project one = edited(deep(), {{"neck.build", "one_piece"}});
  CHECK_FALSE(offered(one));
  CHECK(heel(edited(one, both)).first == 0);
  CHECK(heel(edited(one, both)).second > 0);
  // A rod slot that runs over them would open into them.
  int clear_of_it = 0;
  int in_its_way = 0;
  for (const char* across : {"10", "20", "38"})
    for (const char* rod : {"300", "400", "440"}) {
      const Made m =
          made(edited(edited(deep(), {{"neck.heel_hole_across", across}, {"rod.length", rod}}), both), "neck");
      for (const Hole& h : m.neck().shape.holes) {
        if (!h.id.starts_with("heel")) continue;
        double clear = 1e9;
        for (const Channel& c : m.neck().shape.channels)
          if (!c.from_back) clear = std::min(clear, distance_to(h.at, {c.a, c.b}) - c.width / 2 - h.diameter / 2);
        INFO(h.id << ", " << across << " across, rod " << rod << ": " << clear << " mm beside a channel");
        CHECK((h.from_face > 0) == (clear >= 1.5));
        CHECK((h.by_hand() > 0) == (clear < 1.5));
        ++(clear < 1.5 ? in_its_way : clear_of_it);
      }
    }
  CHECK(clear_of_it > 0);
  CHECK(in_its_way > 0);
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
  INFO(stops(proof));
  CHECK(stops(proof).empty());
  // The other way the floor falls out of the pocket's mouth: nothing stays at the end.
  const auto level = remark_of(made(*project_from("reedling"), "body").remarks(), "body.sloping_floor");
  REQUIRE(level);
  CHECK_THAT(level->sentence, !Contains("end wall"));
}

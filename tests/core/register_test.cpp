// What wood is found by when it comes back onto the machine: ears, pins with their play, hidden holes; and the blank
// that is begun anew.
#include <catch2/catch.hpp>

#include <nlohmann/json.hpp>

#include "core/document/project_file.hpp"
#include "core/parts/body/ears.hpp"
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

Project sawn(const char* from = "reedling") { return edited(*project_from(from), {{"body.outline_school", "guide"}}); }

const Remark* remark(const BodyDesign& d, const std::string& kind) {
  for (const Remark& r : d.remarks)
    if (r.kind == kind) return &r;
  return nullptr;
}

bool in_strip(const Ear& e, Vec2 p, double more) {
  return std::abs(p.y - e.pin.y) <= e.width / 2 + more && std::min(e.end, e.foot) <= p.x &&
         p.x <= std::max(e.end, e.foot);
}

}  // namespace

TEST_CASE("what the saw leaves is the body with a little beside it, and its ears: by brute force") {
  for (const char* from : {"reedling", "sedge", "bass"}) {
    INFO(from);
    const Project p = sawn(from);
    const auto followed = followed_of(p);
    REQUIRE_FALSE(followed.problems.contains("body"));
    const auto& d = followed.designs.shape<BodyDesign>();
    REQUIRE(d.ears.size() == 2);
    const double leave = body_of(p).work.guide_leave;
    const Polygon left = sawn_shape(d.shape.corners, d.ears, d.blank, d.blank_middle, leave);
    const Vec2 half{d.blank.length / 2, d.blank.width / 2};
    int wrong = 0;
    int in = 0;
    for (double x = -half.x - 5; x <= half.x + 5; x += 2.3)
      for (double y = -half.y - 5; y <= half.y + 5; y += 2.3) {
        const Vec2 q = d.blank_middle + Vec2{x, y};
        const double to_edge = distance_to(d.shape.corners, q);
        const bool body = contains(d.shape.corners, q);
        const bool inside_blank = std::abs(x) <= half.x && std::abs(y) <= half.y;
        const bool sure = body || to_edge < leave - 0.05 || in_strip(d.ears[0], q, leave - 0.05) ||
                          in_strip(d.ears[1], q, leave - 0.05);
        const bool surely_not = !body && to_edge > leave + 0.05 && !in_strip(d.ears[0], q, leave + 0.05) &&
                                !in_strip(d.ears[1], q, leave + 0.05);
        const bool there = contains(left, q);
        in += there ? 1 : 0;
        if ((sure && inside_blank && !there) || ((surely_not || !inside_blank) && there)) ++wrong;
      }
    CHECK(in > 1000);
    CHECK(wrong == 0);
    for (const Ear& e : d.ears) {
      CHECK(e.meets);
      // The pin stands in it with wood all round, and it reaches the blank's end.
      CHECK(in_strip(e, e.pin, -body_of(p).work.alignment.pin_diameter / 2 - 5));
      CHECK_THAT(std::abs(e.end - d.blank_middle.x), WithinAbs(half.x, 1e-9));
      // Its foot is in the body over its whole width.
      for (double t = -0.49; t <= 0.49; t += 0.07)
        CHECK(contains(d.shape.corners, Vec2{e.foot, e.pin.y + t * e.width}));
    }
  }
}

TEST_CASE("ears: too narrow, missing the body, at a fence") {
  Project p = sawn();
  const auto said = [](const Project& q, const char* kind) {
    const auto followed = followed_of(q);
    REQUIRE_FALSE(followed.problems.contains("body"));
    const Remark* r = remark(followed.designs.shape<BodyDesign>(), kind);
    return r != nullptr ? std::optional<Remark>(*r) : std::nullopt;
  };
  CHECK_FALSE(said(p, "body.ear_narrow"));
  const auto narrow = said(edited(p, {{"body.ear_width", "12"}}), "body.ear_narrow");
  REQUIRE(narrow);
  CHECK(narrow->weight == Weight::stop);
  REQUIRE(narrow->repair);
  CHECK_FALSE(said(edited(p, narrow->repair->edits), "body.ear_narrow"));
  // Pins as far aside as the body is wide.
  const auto misses = said(edited(p, {{"body.pin_offset", "170"}}), "body.ear_misses");
  REQUIRE(misses);
  CHECK(misses->weight == Weight::stop);
  const auto fence = said(edited(p, {{"body.alignment", "fence"}}), "body.sawn_fence");
  REQUIRE(fence);
  CHECK(fence->weight == Weight::stop);
  REQUIRE(fence->repair);
  CHECK_FALSE(said(edited(p, fence->repair->edits), "body.sawn_fence"));
  CHECK_FALSE(said(edited(p, {{"body.alignment", "ticks"}}), "body.sawn_fence"));
}

TEST_CASE("the play of pins is that of ground ones, of sanded dowels, or as measured") {
  Blank blank;
  blank.length = 470;
  blank.width = 360;
  AlignmentNumbers a;
  a.school = School::pins;
  a.pin_inset = 11;
  const auto worst = [&] { return register_of(blank, a).worst_at({235, 180}); };
  // By hand: both plays added up as a shift along and across, and twice the play over the pins' distance as an angle.
  const auto by_hand = [](double play) {
    return play * std::sqrt(2.0) + 2 * play / (470 - 22) * std::sqrt(235.0 * 235 + 180 * 180);
  };
  CHECK_THAT(worst(), WithinAbs(by_hand(0.015), 1e-12));
  a.pins = PinKind::sanded;
  CHECK_THAT(worst(), WithinAbs(by_hand(0.15), 1e-12));
  a.pins = PinKind::measured;
  a.pin_play = 0.08;
  CHECK_THAT(worst(), WithinAbs(by_hand(0.08), 1e-12));
  CHECK(register_of(blank, a).kind == RegisterKind::pins);
  CHECK(register_of(blank, a, true).kind == RegisterKind::ears);
  a.school = School::ticks;
  CHECK(register_of(blank, a).kind == RegisterKind::lines);
  a.school = School::fence;
  CHECK(register_of(blank, a).kind == RegisterKind::fence);
}

TEST_CASE("older files gave the pins' play: it stays what it was") {
  Project p = *project_from("reedling");
  auto doc = nlohmann::json::parse(project_to_json(p));
  doc["parts"]["body"]["body"].erase("pins");
  doc["parts"]["neck"]["neck"].erase("pins");
  doc["parts"]["body"]["body"]["pin_play"] = 0.2;
  const auto opened = project_from_json(doc.dump(), "old.wren");
  REQUIRE(opened);
  CHECK(body_of(*opened).work.alignment.play() == 0.2);
  CHECK(neck_of(*opened).work.alignment.play() == ground_play);
  // And a groove that was six deep stays six deep.
  doc["parts"]["body"]["body"]["guide_depth"] = 6.0;
  CHECK(body_of(*project_from_json(doc.dump(), "old.wren")).work.guide_depth == 6.0);
  CHECK(body_of(*project_from("reedling")).work.guide_depth == 3.2);
}

TEST_CASE("every side of wood that was on the machine before says what finds it; the first one needs nothing") {
  const Project plain = *project_from("reedling");
  for (const auto& edits : std::vector<std::vector<std::pair<std::string, std::string>>>{
           {},
           {{"body.outline_school", "guide"}},
           {{"body.alignment", "ticks"}, {"neck.alignment", "ticks"}},
           {{"body.alignment", "ticks"}, {"body.outline_school", "guide"}},
           {{"body.top_oversize", "5"}},
           {{"body.top_oversize", "5"}, {"body.top_register", "holes"}},
           {{"body.top_oversize", "5"}, {"body.top_register", "lines"}}})
    for (const char* part : {"neck", "body"}) {
      const Made m = made(edited(plain, edits), part);
      for (const Piece& piece : m.planned.made.pieces)
        for (std::size_t k = 0; k < piece.sides.size(); ++k) {
          INFO(part << " " << piece.id << " " << piece.sides[k].id);
          const bool again = k > 0 || !piece.after.empty();
          CHECK((piece.sides[k].setup.found_by.kind != RegisterKind::first) == again);
          if (again) CHECK(piece.sides[k].setup.found_by.worst_at({100, 100}) > 0);
        }
      // The sheet tells the hand.
      const RunSheet sheet = m.sheet();
      for (const RunSide& side : sheet.sides) {
        std::string all;
        for (const std::string& line : side.alignment) all += line + "\n";
        INFO(side.id << ": " << all);
        if (side.id == "back" || side.id == "front" || side.id == "skim")
          if (std::string(part) == "body" || side.id == "back")
            CHECK_THAT(all, Contains("Its place is found by") && Contains("likely") && Contains("at worst"));
        CHECK_THAT(all, !Contains("where it lay"));
      }
    }
}

TEST_CASE("hidden register holes lie in wood that a cut of the face takes away") {
  for (const char* from : {"reedling", "sedge"}) {
    Project p = edited(*project_from(from), {{"body.top_oversize", "5"}, {"body.top_register", "holes"}});
    const auto followed = followed_of(p);
    REQUIRE_FALSE(followed.problems.contains("body"));
    const BodyShape& s = followed.designs.shape<BodyDesign>().shape;
    if (s.layers.size() < 2) continue;
    const auto places = hidden_places(s, 1, 7);
    REQUIRE(places.size() == 2);
    CHECK(distance(places[0].at, places[1].at) > 60);
    for (const HiddenPlace& place : places)
      for (double a = 0; a < 6.28; a += 0.3) {
        const Vec2 q = place.at + Vec2{std::cos(a), std::sin(a)};
        // Nothing of the finished body is left where the hole was, down to its bottom.
        CHECK(s.finished_top(q) <= s.layers[0].bottom);
        bool taken = false;
        for (const Cavity& c : s.cavities)
          taken =
              taken || (!c.from_back && c.layer < 0 && contains(c.region, q) && c.floor_at(q) < s.layers[0].bottom - 7);
        CHECK(taken);
      }
  }
}

TEST_CASE("the glued body's pin holes are bored again, and the program stops for the pins") {
  const Made m = made(*project_from("reedling"), "body");
  const Placement& front = m.side("front");
  REQUIRE(!front.cuts.empty());
  CHECK(front.cuts.front().id == "pins");
  REQUIRE(front.cuts.size() > 1);
  CHECK(front.cuts[1].stop_before);
  CHECK_THAT(front.cuts[1].stop_text, Contains("pins"));
}

TEST_CASE("a spoiled piece begins again: the record keeps everything, what hangs on it is told") {
  Project p = *project_from("reedling");
  const Made body = made(p, "body");
  const auto cut = [&](const std::string& what) { note_fact(all_parts(), p, what, "2026-03-01"); };
  const auto is_cut = [&](const std::string& what) {
    return happened(p.record, what, fingerprint(all_parts(), *all_parts().find("body"), p)).fact != nullptr;
  };
  const std::string top = "body.cut.layer-1." + body.side("layer-1").cuts.front().id;
  const std::string core = "body.cut.layer-2." + body.side("layer-2").cuts.front().id;
  const std::string front = "body.cut.front." + body.side("front").cuts.front().id;
  // Nothing was cut: nothing to begin anew.
  const auto none = begin_anew(all_parts(), p, body.planned, "layer-1", "2026-03-02");
  REQUIRE_FALSE(none);
  CHECK_THAT(none.error().what, Contains("nothing was cut"));
  const auto who = begin_anew(all_parts(), p, body.planned, "layer-9", "2026-03-02");
  REQUIRE_FALSE(who);
  CHECK_THAT(who.error().todo, Contains("layer-1"));
  cut(top);
  cut(core);
  p.record.measured.push_back({"body.layer_1", 6.4, "2026-03-01", "calipers", "", true});
  p.record.measured.push_back({"body.layer_2", 37.2, "2026-03-01", "calipers", "", true});
  const std::size_t facts = p.record.facts.size();
  SECTION("one of two loose layers: the other one stays") {
    const auto done = begin_anew(all_parts(), p, body.planned, "layer-1", "2026-03-02");
    REQUIRE(done);
    CHECK(done->again.size() == 1);
    CHECK(done->measures == std::vector<std::string>{"body.layer_1"});
    CHECK_FALSE(is_cut(top));
    CHECK(is_cut(core));
    CHECK(p.record.facts.size() == facts + 1);  // nothing was taken out
    CHECK(p.record.measured.size() == 2);
    // Cut again with the same numbers it is cut, and the first blank's cut is still on record.
    cut(top);
    CHECK(is_cut(top));
    CHECK(std::count_if(p.record.facts.begin(), p.record.facts.end(), [&](const Fact& f) { return f.what == top; }) ==
          2);
    take_fact_back(p.record, top, fingerprint(all_parts(), *all_parts().find("body"), p));
    CHECK_FALSE(is_cut(top));
    CHECK(std::count_if(p.record.facts.begin(), p.record.facts.end(), [&](const Fact& f) { return f.what == top; }) ==
          1);
  }
  SECTION("the glued body takes its layers with it") {
    cut(front);
    const auto done = begin_anew(all_parts(), p, body.planned, "body", "2026-03-02");
    REQUIRE(done);
    CHECK(done->again.size() == 3);
    CHECK_FALSE(is_cut(front));
    CHECK_FALSE(is_cut(top));
    CHECK_FALSE(is_cut(core));
  }
  SECTION("a layer of a body that is glued is the whole body") {
    cut(front);
    const auto done = begin_anew(all_parts(), p, body.planned, "layer-2", "2026-03-02");
    REQUIRE(done);
    CHECK_FALSE(is_cut(front));
    CHECK_FALSE(is_cut(top));
  }
  SECTION("it comes back from a file") {
    REQUIRE(begin_anew(all_parts(), p, body.planned, "layer-1", "2026-03-02"));
    const auto back = project_from_json(project_to_json(p), "p.wren");
    REQUIRE(back);
    CHECK(*back == p);
  }
}

TEST_CASE("a spoiled neck whose heel was measured names the body that follows it") {
  Project p = *project_from("reedling");
  const Made neck = made(p, "neck");
  note_fact(all_parts(), p, "neck.cut.front." + neck.side("front").cuts.front().id, "2026-03-01");
  note_fact(all_parts(), p, "body.cut.front.pocket", "2026-03-05");
  const auto& follows = all_parts().find("body")->measures;
  REQUIRE(!follows.empty());
  std::string heel;
  for (const std::string& key : follows)
    if (key.starts_with("neck.") && heel.empty()) heel = key.ends_with('.') ? key + "width" : key;
  INFO(heel);
  REQUIRE(!heel.empty());
  p.record.measured.push_back({heel, 56.1, "2026-03-02", "calipers", "", true});
  const auto done = begin_anew(all_parts(), p, neck.planned, "neck", "2026-03-06");
  REQUIRE(done);
  CHECK(
      std::any_of(done->again.begin(), done->again.end(), [](const std::string& s) { return s.starts_with("Body"); }));
  CHECK(in_use(p, heel, 1) == 1);
  CHECK(p.record.measured.size() == 1);
}

TEST_CASE("new from this: the numbers, and nothing of what was made") {
  Project p = *project_from("reedling");
  note_fact(all_parts(), p, "neck.cut.front.rod", "2026-03-01");
  p.record.measured.push_back({"board.thickness", 6.2, "2026-03-01", "calipers", "", true});
  p.materials.push_back(*material_like({}, "bog", "ash"));
  const Project other = without_facts(p);
  CHECK(other.record == Record{});
  CHECK(other.parts.same(p.parts, "neck"));
  CHECK(other.materials == p.materials);
  CHECK(other.rack == p.rack);
}

TEST_CASE("wood that nothing finds is not proved") {
  Made m = made(*project_from("reedling"), "neck");
  const auto none = [](const PartProof& proof) {
    return std::none_of(proof.findings.begin(), proof.findings.end(),
                        [](const Finding& f) { return f.kind == "no_register"; });
  };
  CHECK(none(m.proof(1.0)));
  m.planned.made.pieces.front().sides.back().setup.found_by = {};
  const PartProof proof = m.proof(1.0);
  CHECK_FALSE(none(proof));
  CHECK(proof.verdict() == Verdict::not_proved);
}

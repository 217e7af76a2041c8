// The body from its numbers: set-up, features, layers, balance, and what is said about numbers that do not work
// together.
#include <catch2/catch.hpp>

#include <numbers>

#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {

struct Parted {
  Project project;
  BoardDesign board;
  NeckDesign neck;
  BodyDesign body;
};

Expected<Parted> made_from(Project p) {
  auto board = design_board(p);
  if (!board) return tl::unexpected(board.error());
  auto neck = design_neck(p, board->board);
  if (!neck) return tl::unexpected(neck.error());
  auto body = design_body(p, *neck, board->weight_g);
  if (!body) return tl::unexpected(body.error());
  return Parted{std::move(p), std::move(*board), std::move(*neck), std::move(*body)};
}

Expected<Parted> with(const std::string& from, const std::vector<std::pair<std::string, std::string>>& edits = {}) {
  auto p = with_edits(*project_from(from), edits);
  if (!p) return tl::unexpected(p.error());
  return made_from(std::move(*p));
}

const Remark* said(const std::vector<Remark>& remarks, const std::string& kind) {
  for (const Remark& r : remarks)
    if (r.kind == kind) return &r;
  return nullptr;
}

Path corners_of(const std::vector<Vec2>& points) {
  Path out;
  for (const Vec2 p : points) out.push_back({p, EdgeKind::line, 0, {}, {}, false});
  return out;
}

/// Takes a repair and gives the body that follows.
Expected<Parted> repaired(const Parted& m, const Repair& repair) {
  auto p = with_edits(m.project, repair.edits);
  if (!p) return tl::unexpected(p.error());
  return made_from(std::move(*p));
}

}  // namespace

TEST_CASE("frames of body and instrument go into each other") {
  const auto m = with("reedling");
  REQUIRE(m);
  const BodyFrame& f = m->body.shape.setup.frame;
  for (const Vec3 p : {Vec3{0, 0, 0}, Vec3{485, 20, -19}, Vec3{635, -26, 10}}) {
    const Vec3 back = f.to_instrument(f.to_body(p));
    CHECK(distance(back, p) < 1e-9);
  }
  // The heel's end corner lies at the pocket's depth.
  const Vec3 heel = f.to_body({f.heel.x, 0, f.heel.y});
  CHECK_THAT(heel.x, WithinAbs(f.heel.x, 1e-9));
  CHECK_THAT(heel.z, WithinAbs(-16, 1e-9));
}

TEST_CASE("either school brings the lowest saddle to where it asks") {
  for (const char* follows : {"tilt", "depth"}) {
    const auto action = with("reedling", {{"body.follows", follows}, {"body.pocket_tilt", "1.5"}});
    REQUIRE(action);
    double least = 1e9;
    for (const SaddlePlace& p : action->body.shape.setup.saddles) least = std::min(least, p.height);
    CHECK_THAT(least, WithinAbs(15.5 + 1, 1e-6));
    const auto flat =
        with("reedling", {{"body.follows", follows}, {"body.pocket_tilt", "1.5"}, {"body.school", "flat"}});
    REQUIRE(flat);
    double lying = 1e9;
    for (const SaddlePlace& p : flat->body.shape.setup.saddles) lying = std::min(lying, p.flat_height);
    CHECK_THAT(lying, WithinAbs(15.5, 1e-6));
    // Saddles only go up from there: the action wanted is reached by raising them.
    CHECK(flat->body.shape.setup.least_down > 1.5);
  }
}

TEST_CASE("the pocket follows the measured heel") {
  const auto designed = with("reedling");
  const auto measured = with("reedling", {{"measured.neck.heel_width", "56.9"},
                                          {"measured.neck.heel_in_all", "25.34"},
                                          {"measured.neck.heel_length_made", "65"}});
  REQUIRE(designed);
  REQUIRE(measured);
  const Cavity& a = *designed->body.shape.cavity("pocket");
  const Cavity& b = *measured->body.shape.cavity("pocket");
  const auto width = [](const Cavity& c, double x) {
    const auto ys = crossings(c.region.front(), {x, 0}, {0, 1});
    return ys.back() - ys.front();
  };
  const double was = designed->body.shape.heel.designed_width;
  CHECK_THAT(width(b, 440) / width(a, 440), WithinAbs(56.9 / was, 0.0004));
  CHECK(measured->body.shape.heel.measured);
  CHECK(said(designed->body.remarks, "body.heel_unmeasured") != nullptr);
  CHECK(said(measured->body.remarks, "body.heel_unmeasured") == nullptr);
  // A thinner heel tilts the neck a little more for the same saddles and depth.
  CHECK(measured->body.shape.setup.tilt > designed->body.shape.setup.tilt);
}

TEST_CASE("pickups sit on the strings and are slanted with a fanned board") {
  const auto m = with("sedge");
  REQUIRE(m);
  REQUIRE(m->body.shape.pickups.size() == 1);
  const auto& p = m->body.shape.pickups.front();
  const BodySetup& st = m->body.shape.setup;
  const int last = static_cast<int>(st.strings.size());
  CHECK(std::abs(p.across.x) > 0.05);
  // Its middle lies half way between the outer strings along its own length.
  const auto on = [&](int i) {
    const auto q = meet(p.middle, p.across, st.string_at(i, 0), st.string_at(i, 1) - st.string_at(i, 0));
    REQUIRE(q);
    return dot(*q - p.middle, p.across);
  };
  CHECK_THAT(on(1) + on(last), WithinAbs(0, 1e-6));
  CHECK_THAT(st.bridge_middle.x - p.middle.x, WithinAbs(62, 1e-6));
}

TEST_CASE("string holes stand in one dead straight row") {
  const auto m = with("sedge");
  REQUIRE(m);
  std::vector<Vec2> row;
  for (const BodyHole& h : m->body.shape.holes)
    if (h.id.rfind("string-", 0) == 0) row.push_back(h.at);
  REQUIRE(row.size() == 5);
  for (const Vec2 q : row) CHECK(std::abs(cross(unit(row.back() - row.front()), q - row.front())) < 1e-9);
}

TEST_CASE("a cover drops into its ledge with the stated clearance everywhere") {  // invariant 1
  for (const char* clearance : {"0.15", "0.25", "0.6"}) {
    const auto m = with("reedling", {{"control.cover_clearance", clearance}});
    REQUIRE(m);
    for (const Cover& c : m->body.shape.covers) {
      double least = 1e9;
      for (const Vec2 q : c.outline) least = std::min(least, contains(c.ledge, q) ? distance_to(c.ledge, q) : -1);
      CHECK_THAT(least, WithinAbs(c.clearance, 0.006));
    }
  }
}

TEST_CASE("chambers keep their walls, their middle and their gaps") {
  const auto m = with("reedling");
  REQUIRE(m);
  const BodyShape& s = m->body.shape;
  int chambers = 0;
  for (const Cavity& c : s.cavities) {
    if (c.id.rfind("chamber", 0) != 0) continue;
    ++chambers;
    for (const Polygon& ring : c.region)
      for (const Vec2 q : ring) {
        CHECK(distance_to(s.corners, q) > s.given.chambers.wall - 0.02);
        CHECK(std::abs(q.y) > s.given.chambers.middle - 0.02);
        for (const Cavity& o : s.cavities)
          if (o.id == "control" || o.id == "pocket")
            CHECK(distance_to(o.region.front(), q) > s.given.chambers.gap - 0.02);
      }
  }
  CHECK(chambers >= 2);
  CHECK(m->body.balance.chambers_g > 200);
  const auto solid = with("reedling", {{"chamber.sides", "none"}});
  REQUIRE(solid);
  CHECK_THAT(solid->body.balance.body_g - m->body.balance.body_g, WithinAbs(m->body.balance.chambers_g, 25));
}

TEST_CASE("a left-handed body is the mirror image of the right-handed one") {
  const auto right = with("reedling");
  const auto left = with("reedling", {{"strings.left_handed", "yes"}});
  REQUIRE(right);
  REQUIRE(left);
  REQUIRE(right->body.shape.holes.size() == left->body.shape.holes.size());
  const auto at = [](const BodyShape& s, const std::string& id) {
    for (const BodyHole& h : s.holes)
      if (h.id == id) return h.at;
    return Vec2{1e9, 1e9};
  };
  for (const char* id : {"shaft-1", "shaft-2", "shaft-switch"}) {
    const Vec2 a = at(right->body.shape, id);
    const Vec2 b = at(left->body.shape, id);
    CHECK_THAT(a.x, WithinAbs(b.x, 1e-9));
    CHECK_THAT(a.y, WithinAbs(-b.y, 1e-9));
  }
  CHECK_THAT(area({right->body.shape.corners}), WithinAbs(area({left->body.shape.corners}), 1e-3));
}

TEST_CASE("a changed layer flows into every depth") {
  const auto thin = with("reedling", {{"measured.body.layer_2", "36.9"}});
  REQUIRE(thin);
  CHECK_THAT(thin->body.shape.thickness, WithinAbs(43.4, 1e-9));
  const Made job = made(thin->project, "body");
  const Placement* back = job.cuts().side("back");
  REQUIRE(back != nullptr);
  CHECK_THAT(back->setup.blank.thickness, WithinAbs(43.4, 1e-9));
  for (const CutFacts& f : back->facts) {
    if (f.id == "control") CHECK_THAT(f.deepest, WithinAbs(-(43.4 - 7), 1e-6));
    if (f.id == "outline") CHECK_THAT(f.deepest, WithinAbs(-43.4 / 2, 1e-6));
  }
  const Placement* layer = job.cuts().side("layer-2");
  REQUIRE(layer != nullptr);
  CHECK_THAT(layer->setup.blank.thickness, WithinAbs(36.9, 1e-9));
  for (const CutFacts& f : layer->facts)
    if (f.id == "chamber-bass-1") CHECK_THAT(f.deepest, WithinAbs(-(36.9 - 9), 1e-6));
}

TEST_CASE("a switch that does not fit is told, and each repair makes it fit") {
  const auto m = with("reedling", {{"control.switch", "blade"}, {"control.switch_needs", "39"}});
  REQUIRE(m);
  const Remark* r = said(m->body.remarks, "body.switch_deep");
  REQUIRE(r != nullptr);
  CHECK(r->weight == Weight::stop);
  REQUIRE(r->repair);
  std::vector<Repair> ways = r->others;
  ways.push_back(*r->repair);
  CHECK(ways.size() >= 3);
  for (const Repair& way : ways) {
    INFO(way.label);
    const auto after = repaired(*m, way);
    REQUIRE(after);
    CHECK(said(after->body.remarks, "body.switch_deep") == nullptr);
  }
}

TEST_CASE("a belly cut that comes too near a cavity is told, and its repairs help") {
  const auto m = with("reedling", {{"body.belly_depth", "14"}, {"body.belly_reach", "90"}});
  REQUIRE(m);
  const Remark* r = said(m->body.remarks, "body.thin");
  REQUIRE(r != nullptr);
  CHECK(r->sentence.find("belly") != std::string::npos);
  REQUIRE(r->repair);
  const auto after = repaired(*m, *r->repair);
  REQUIRE(after);
  const Remark* left = said(after->body.remarks, "body.thin");
  CHECK((left == nullptr || left->number > r->number));
}

TEST_CASE("a face cut deeper leaves the pickup hanging") {
  const auto m = with("reedling", {{"pickup.bridge.high", "8"}, {"pickup.bridge.low", "2"}});
  REQUIRE(m);
  const Remark* r = said(m->body.remarks, "body.pickup_hangs");
  REQUIRE(r != nullptr);
  REQUIRE(r->repair);
  const auto after = repaired(*m, *r->repair);
  REQUIRE(after);
  CHECK(said(after->body.remarks, "body.pickup_hangs") == nullptr);
}

TEST_CASE("a corner tighter than the cutter is told") {
  const auto m = with("reedling", {{"pickup.neck.corner", "1"}});
  REQUIRE(m);
  const Remark* r = said(m->body.remarks, "body.corner_tight");
  REQUIRE(r != nullptr);
  REQUIRE(r->repair);
  const auto after = repaired(*m, *r->repair);
  REQUIRE(after);
  CHECK(said(after->body.remarks, "body.corner_tight") == nullptr);
}

TEST_CASE("numbers that no body follows from are refused with their key") {
  for (const auto& [edit, where] :
       {std::pair{std::pair{std::string("bridge.high"), std::string("3")}, std::string("bridge.high")},
        {{"body.layers", "body teakwood 40"}, "body.layers"},
        {{"body.pocket_depth", "60"}, "body.pocket_depth"}}) {
    const auto m = with("reedling", {edit});
    REQUIRE_FALSE(m);
    CHECK(m.error().where == where);
    CHECK_FALSE(m.error().todo.empty());
  }
  CHECK_FALSE(with_edits(*project_from("reedling"), {{"body.layers", "top ash"}}));
  CHECK_FALSE(with_edits(*project_from("reedling"), {{"body.layers", "top ash -3"}}));
}

TEST_CASE("an outline that crosses itself or is empty is refused, and a drawn cavity too") {
  Project p = *project_from("reedling");
  body_of(p).body.outline.form = BodyForm::drawn;
  body_of(p).body.outline.drawn = corners_of({{400, -100}, {700, 100}, {700, -100}, {400, 100}});
  CHECK_FALSE(made_from(p));
  CHECK_FALSE(check_outline({}).empty());
  CHECK_FALSE(check_outline(corners_of({{0, 0}, {1, 0}, {0, 1}})).empty());
  p = *project_from("reedling");
  body_of(p).body.drawn.push_back({"odd", corners_of({{500, 0}, {520, 20}, {520, 0}, {500, 20}}), false, 5});
  const auto m = made_from(p);
  REQUIRE_FALSE(m);
  CHECK(m.error().what.find("odd") != std::string::npos);
}

TEST_CASE("a cavity that leaves the body and two that meet are told with their places") {
  Project p = *project_from("reedling");
  const auto box = [](double x, double y, double size) {
    return corners_of({{x, y}, {x + size, y}, {x + size, y + size}, {x, y + size}});
  };
  body_of(p).body.drawn.push_back({"outside", box(730, -20, 40), false, 8});
  body_of(p).body.drawn.push_back({"over a pickup", box(600, -20, 30), false, 8});
  const auto m = made_from(p);
  REQUIRE(m);
  const Remark* edge = said(m->body.remarks, "body.cavity_edge");
  REQUIRE(edge != nullptr);
  CHECK(edge->weight == Weight::stop);
  CHECK(edge->at.has_value());
  CHECK(said(m->body.remarks, "body.cavities_meet") != nullptr);
}

TEST_CASE("outline, sections and cavities come back from the file as they were") {
  Project p = *project_from("sedge");
  const auto m = made_from(p);
  REQUIRE(m);
  body_of(p).body.outline.drawn = m->body.shape.path;
  body_of(p).body.outline.form = BodyForm::drawn;
  body_of(p).body.drawn.push_back(
      {"battery",
       {{{600, 60}, EdgeKind::arc, 1, {}, {}, true}, {{640, 60}, EdgeKind::arc, 1, {}, {}, true}},
       true,
       17.5});
  body_of(p).body.comfort.lines = {{500, {{-100, 3}, {0, 0}, {100, 3}}}};
  const auto back = project_from_json(project_to_json(p), "test");
  REQUIRE(back);
  CHECK(body_of(*back).body == body_of(p).body);
  CHECK(body_of(*back).work == body_of(p).work);
  for (const char* broken :
       {R"({"format":"upland-wren-project","version":1,"body":{"nodes":[{"at":[1]}]}})",
        R"({"format":"upland-wren-project","version":1,"body":{"nodes":5}})",
        R"({"format":"upland-wren-project","version":1,"body":{"cavities":[{"name":"x"}]}})",
        R"({"format":"upland-wren-project","version":1,"body":{"nodes":[{"at":[1,2],"edge":"bow"}]}})"}) {
    const auto bad = project_from_json(broken, "broken");
    REQUIRE_FALSE(bad);
    CHECK(bad.error().where.find("/body/body/") != std::string::npos);
  }
}

TEST_CASE("an edit of the body does not make the neck's programs old") {
  Project p = *project_from("reedling");
  note_fact(all_parts(), p, "neck.proof", "2026-11-25");
  note_fact(all_parts(), p, "body.proof", "2026-11-25");
  const auto edited = with_edits(p, {{"body.tail", "120"}});
  REQUIRE(edited);
  CHECK(happened(edited->record, "neck.proof", print_of(*edited, "neck")).current);
  CHECK(happened(edited->record, "body.proof", print_of(*edited, "body")).fact != nullptr);
  CHECK_FALSE(happened(edited->record, "body.proof", print_of(*edited, "body")).current);
}

TEST_CASE("the build sheet goes on with the body, and its sheet names every program once") {
  const auto m = with("reedling");
  REQUIRE(m);
  const Made job = made(m->project, "body");
  const auto lines = job.lines();
  for (const char* id : {"body.outline", "body.bridge", "body.pocket", "body.pickups", "body.controls", "body.layers",
                         "body.shape", "body.balance", "body.cut.layer-2.chamber-bass-1", "body.cut.front.pocket",
                         "body.cut.back.outline", "cover.rehearsal", "body.rehearsal", "body.sheet"}) {
    INFO(id);
    CHECK(std::any_of(lines.begin(), lines.end(), [&](const BuildLine& l) { return l.id == id; }));
  }
  CHECK(line_for_key(lines, "control.switch_needs") == "body.controls");
  const RunSheet sheet = job.sheet();
  for (const PlacedProgram& p : job.programs) {
    int times = 0;
    for (const RunSide& side : sheet.sides)
      for (const RunStep& step : side.steps) times += step.file == p.file.file ? 1 : 0;
    INFO(p.file.file);
    CHECK(times == 1);
  }
  CHECK(std::any_of(sheet.by_hand.begin(), sheet.by_hand.end(),
                    [](const std::string& h) { return h.find("Jack") != std::string::npos; }));
  // Each layer's pins are bored where it lies; the glued body goes onto pins that stand.
  const auto bores = [&](const std::string& id) {
    for (const RunSide& side : sheet.sides)
      if (side.id == id)
        return std::any_of(side.alignment.begin(), side.alignment.end(),
                           [](const std::string& a) { return a.find("bores the two pin holes") != std::string::npos; });
    return false;
  };
  CHECK(bores("layer-1"));
  CHECK(bores("layer-2"));
  CHECK_FALSE(bores("front"));
}

TEST_CASE("rows of a carve leave their scallop, also where runs end and others begin") {
  const auto m = with("sedge", {{"body.scallop", "0.016"}, {"body.round_face", "0"}, {"body.round_back", "0"}});
  REQUIRE(m);
  const Made job = made(m->project, "body");
  const PartProof proof = job.proof(0.3);
  CHECK(proof.faultless());
  CHECK(proof.worst_left < 0.03);
}

TEST_CASE("the floor of a tilted pocket is cleared to its edge without meeting the corners the wide cutter left") {
  const auto m = with("reedling", {{"measured.neck.heel_width", "56.31"},
                                   {"measured.neck.heel_in_all", "25.37"},
                                   {"measured.neck.heel_length_made", "65.9"}});
  REQUIRE(m);
  REQUIRE(m->body.shape.setup.tilt > 0.01);
  const Made job = made(m->project, "body");
  CHECK(job.proof(0.2).passed());
}

TEST_CASE("grain is judged by where the fibres run") {
  // Counter-clockwise along the treble side towards the nut the wood is on the left, which is −y.
  CHECK(grain_at({-1, 0}) == GrainRun::along);
  CHECK(grain_at({0, 1}) == GrainRun::end);
  // Going right and up with the wood on the upper left: fibres that run on to the right leave the wood.
  CHECK(grain_at(unit({1, 1})) == GrainRun::with);
  CHECK(grain_at(unit({1, -1})) == GrainRun::against);
  const auto m = with("reedling");
  REQUIRE(m);
  double sum = 0;
  for (const GrainSpan& g : m->body.grain) sum += g.to - g.from;
  CHECK_THAT(sum, WithinAbs(perimeter(m->body.shape.outline), 0.5));
}

TEST_CASE("the body's mesh is closed and holds its volume") {
  for (const char* name : {"reedling", "sedge"}) {
    const auto m = with(name, {{"chamber.sides", "none"}, {"wire.width", "0"}});
    REQUIRE(m);
    const Mesh mesh = body_mesh(m->body.shape, mesh_for_export);
    CHECK(is_closed(mesh));
    CHECK_THAT(volume(mesh) / m->body.balance.volume_mm3, WithinAbs(1, 0.004));
  }
}

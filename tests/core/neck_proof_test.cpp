// Both sides as one piece of wood: what the proof sees, and what spoils it.
#include <catch2/catch.hpp>

#include "core/job/neck_cuts.hpp"

using namespace wren;

namespace {

struct Job {
  Project project;
  NeckDesign design;
  NeckCuts cuts;
  std::vector<PlacedProgram> programs;
};

const Job& reedling() {
  static const Job job = [] {
    Job j{*project_from("reedling"), {}, {}, {}};
    j.project.neck_work.scallop = 0.03;  // fewer rows, the same questions
    j.design = *design_neck(j.project, *make_fretboard(j.project.instrument));
    j.cuts = plan_neck(j.project, j.design);
    j.programs = neck_programs(j.project, j.design, j.cuts, "2026-11-24");
    return j;
  }();
  return job;
}

PieceResult proved(const Job&, const PieceRequest& request) {
  const auto result = prove_piece(request);
  REQUIRE(result);
  return *result;
}
PieceRequest request(const Job& j) { return neck_proof(j.project, j.design, j.cuts, j.programs, 0.25); }
bool found(const PieceResult& r, const std::string& kind) {
  for (const Finding& f : r.findings)
    if (f.kind == kind) return true;
  for (const auto& s : r.sides)
    for (const Finding& f : s.findings)
      if (f.kind == kind) return true;
  return false;
}
PlacedProgram& program(Job& j, const std::string& part) {
  for (PlacedProgram& p : j.programs)
    if (p.file.file.find(part) != std::string::npos) return p;
  throw std::runtime_error(part);
}

}  // namespace

TEST_CASE("the demo neck's programs make it from one piece of wood") {
  const Job& j = reedling();
  CHECK_FALSE(stops_work(all_remarks(j.design, j.cuts)));
  const PieceResult r = proved(j, request(j));
  for (const Finding& f : r.findings) UNSCOPED_INFO(f.text);
  CHECK(r.passed());
  CHECK(r.free);
  CHECK(r.tabs == 6);
  CHECK(r.holes_open == 6);
  CHECK(r.worst_gouge <= 0.02);
  CHECK(std::abs(r.least_skin - j.design.skin.least) < 0.35);
  CHECK(std::abs(r.volume_mm3 / j.design.weight.volume_mm3 - 1) < 0.01);
}

TEST_CASE("invariant 2: a spoiled program is found out, whatever is wrong with it") {
  SECTION("the finishing pass a tenth too deep") {
    Job j = reedling();
    PieceRequest r = request(j);
    r.sides[1].setup.to_work.shift.z -= 0.1;  // the design lies a tenth higher against the same programs
    CHECK(found(proved(j, r), "left_over"));
    r = request(j);
    r.sides[1].setup.to_work.shift.z += 0.1;
    CHECK(found(proved(j, r), "gouge"));
  }
  SECTION("the back run half a millimetre to one side") {
    Job j = reedling();
    PieceRequest r = request(j);
    r.sides[1].setup.to_work.shift.y += 0.5;
    const PieceResult p = proved(j, r);
    CHECK_FALSE(p.passed());
    CHECK(found(p, "gouge"));
  }
  SECTION("no outline") {
    Job j = reedling();
    std::erase_if(j.programs, [](const PlacedProgram& p) { return p.file.file.find("outline") != std::string::npos; });
    CHECK(found(proved(j, request(j)), "outline_not_through"));
  }
  SECTION("no finishing") {
    Job j = reedling();
    std::erase_if(j.programs, [](const PlacedProgram& p) { return p.file.file.find("finish") != std::string::npos; });
    CHECK(found(proved(j, request(j)), "left_over"));
  }
  SECTION("tuner holes left out") {
    Job j = reedling();
    PieceRequest r = request(j);
    std::erase_if(r.sides[1].programs, [](const ProgramText& t) {
      return t.name.find("tuner-holes") != std::string::npos || t.name.find("rough") != std::string::npos;
    });
    CHECK(found(proved(j, r), "hole_closed"));
  }
  SECTION("a program cut in half is refused before anything is cut") {
    Job j = reedling();
    auto& text = program(j, "finish").file.text;
    text.resize(text.size() / 2);
    text.resize(text.rfind('\n') + 1);
    const auto r = prove_piece(request(j));
    CHECK((!r || !r->passed()));
  }
  SECTION("turned the other way") {
    Job j = reedling();
    PieceRequest r = request(j);
    r.sides[1].setup.turn = Turn::about_width;
    CHECK_FALSE(proved(j, r).passed());
  }
}

TEST_CASE("a rehearsal of both sides stops when asked, at any moment") {
  const Job& j = reedling();
  const PieceRequest r = request(j);
  for (const double at : {0.0, 0.2, 0.5, 0.86}) {
    Progress progress([&](double share, std::string_view) {
      if (share >= at) progress.stop();
    });
    const auto result = prove_piece(r, &progress);
    REQUIRE_FALSE(result);
    CHECK(result.error().kind == ProblemKind::stopped);
  }
}

TEST_CASE("the manifest carries every program of every side with its own transform") {
  const Job& j = reedling();
  const std::string text = neck_manifest(j.project, j.design, j.cuts, j.programs, "2026-11-24");
  for (const PlacedProgram& p : j.programs) CHECK(text.find(p.file.file) != std::string::npos);
  CHECK(text.find("turned about its length") != std::string::npos);
}

TEST_CASE("a cutter that cannot reach is told, with one that can") {
  Project p = *project_from("reedling");
  p.neck_work.blank.thickness = 34;
  const NeckDesign d = *design_neck(p, *make_fretboard(p.instrument));
  const NeckCuts cuts = plan_neck(p, d);
  bool told = false;
  for (const Remark& r : cuts.remarks)
    if (r.kind == "neck.cutter_short" && r.place == "neck.rough_cutter") {
      told = true;
      REQUIRE(r.repair);
      CHECK(r.repair->edits.front().second == "flat-6.35-long");
    }
  CHECK(told);
}

TEST_CASE("a cradle is planned where it holds the neck, and its programs stay above its board's underside") {
  Project p = *project_from("reedling");
  p.neck_work.holding = Holding::cradle;
  const NeckDesign d = *design_neck(p, *make_fretboard(p.instrument));
  const NeckCuts cuts = plan_neck(p, d);
  const Placement* cradle = cuts.side("cradle");
  REQUIRE(cradle != nullptr);
  REQUIRE(cradle->cuts.size() == 2);
  for (const CutFacts& f : cradle->facts)
    CHECK(f.deepest > -cradle->setup.blank.thickness + p.neck_work.cradle_thickness * 0.5);
}

TEST_CASE("a glued neck with a bent rod slot adjusted at the heel, bars and a slotted nut is proved too") {
  Project p = *project_from("reedling");
  p.neck.joint = NeckJoint::glued;
  p.neck.rod.adjuster = RodEnd::heel;
  p.neck.rod.bottom = RodBottom::curved;
  p.neck.rod.bars = 2;
  p.neck.nut.seat = NutSeat::slot;
  p.neck_work.scallop = 0.03;
  const NeckDesign d = *design_neck(p, *make_fretboard(p.instrument));
  const NeckCuts cuts = plan_neck(p, d);
  const auto r = prove_piece(neck_proof(p, d, cuts, neck_programs(p, d, cuts, "2026-11-24"), 0.25));
  REQUIRE(r);
  for (const auto& s : r->sides)
    for (const Finding& f : s.findings) UNSCOPED_INFO(f.text);
  CHECK(r->passed());
}

TEST_CASE("left for sanding stands on the surface it is asked for, and the proof knows") {
  Project p = *project_from("reedling");
  p.neck_work.sand_back = 0.3;
  p.neck_work.sand_sides = 0.2;
  p.neck_work.scallop = 0.03;
  const NeckDesign d = *design_neck(p, *make_fretboard(p.instrument));
  const NeckCuts cuts = plan_neck(p, d);
  const auto programs = neck_programs(p, d, cuts, "2026-11-24");
  const auto r = prove_piece(neck_proof(p, d, cuts, programs, 0.25));
  REQUIRE(r);
  for (const auto& s : r->sides)
    for (const Finding& f : s.findings) UNSCOPED_INFO(f.text);
  CHECK(r->passed());
  CHECK(r->volume_mm3 > d.weight.volume_mm3 + 4000);
}

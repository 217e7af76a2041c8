// Both sides as one piece of wood: what the proof sees, and what spoils it.
#include <catch2/catch.hpp>

#include "support/made.hpp"

using namespace wren;

namespace {

using Job = Made;

const Job& reedling() {
  static const Job job = [] {
    Project p = *project_from("reedling");
    neck_of(p).work.scallop = 0.03;  // fewer rows, the same questions
    return made(p, "neck");
  }();
  return job;
}

PieceResult proved(const Job&, const PieceRequest& request) {
  const auto result = prove_piece(request);
  REQUIRE(result);
  return *result;
}
PieceRequest request(const Job& j) { return j.request(0.25); }
PlacedProgram& program(Job& j, const std::string& part) {
  for (PlacedProgram& p : j.programs)
    if (p.file.file.find(part) != std::string::npos) return p;
  throw std::runtime_error(part);
}

}  // namespace

TEST_CASE("the demo neck's programs make it from one piece of wood") {
  const Job& j = reedling();
  CHECK_FALSE(stops_work(j.remarks()));
  const PieceResult r = proved(j, request(j));
  for (const Finding& f : r.findings) UNSCOPED_INFO(f.text);
  CHECK(r.passed());
  CHECK(r.free);
  CHECK(r.tabs == 6);
  CHECK(r.holes_open == 6);
  CHECK(r.worst_gouge <= 0.02);
  CHECK(std::abs(r.least_skin - j.neck().skin.least) < 0.35);
  CHECK(std::abs(r.volume_mm3 / j.neck().weight.volume_mm3 - 1) < 0.01);
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
    auto& text = program(j, "finish").file.text.edit();
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
  const std::string text = j.manifest();
  for (const PlacedProgram& p : j.programs) CHECK(text.find(p.file.file) != std::string::npos);
  CHECK(text.find("turned about its length") != std::string::npos);
}

TEST_CASE("a cutter that cannot reach is told, with one that can") {
  Project p = *project_from("reedling");
  neck_of(p).work.blank.thickness = 34;
  const Made m = made(p, "neck");
  bool told = false;
  for (const Remark& r : m.cuts().remarks)
    if (r.kind == "neck.cutter_short" && r.place == "neck.rough_cutter") {
      told = true;
      REQUIRE(r.repair);
      CHECK(r.repair->edits.front().second == "flat-6.35-long");
    }
  CHECK(told);
}

TEST_CASE("a cradle is planned where it holds the neck, and its programs stay above its board's underside") {
  Project p = *project_from("reedling");
  neck_of(p).work.holding = Holding::cradle;
  const Made m = made(p, "cradle");
  const Placement* cradle = m.cuts().side("cradle");
  REQUIRE(cradle != nullptr);
  REQUIRE(cradle->cuts.size() == 2);
  for (const CutFacts& f : cradle->facts)
    CHECK(f.deepest > -cradle->setup.blank.thickness + neck_of(p).work.cradle_thickness * 0.5);
}

TEST_CASE(
    "a glued neck with a bent rod slot adjusted at the heel, bars and a slotted nut is proved but for its heel's "
    "corner") {
  Project p = *project_from("reedling");
  neck_of(p).neck.joint = NeckJoint::glued;
  neck_of(p).neck.rod.adjuster = RodEnd::heel;
  neck_of(p).neck.rod.bottom = RodBottom::curved;
  neck_of(p).neck.rod.bars = 2;
  neck_of(p).neck.nut.seat = NutSeat::slot;
  neck_of(p).work.scallop = 0.03;
  const Made m = made(p, "neck");
  const auto r = prove_piece(m.request(0.25));
  REQUIRE(r);
  for (const auto& s : r->sides)
    for (const Finding& f : s.findings) UNSCOPED_INFO(f.text);
  for (const Finding& f : r->findings) UNSCOPED_INFO(f.text);
  // Known gap: by the heel's inner corner the sides' finishing leaves 0.13, which a false tab hid before; the proof
  // says no. Nothing else is found.
  for (const auto& s : r->sides)
    for (const Finding& f : s.findings) CHECK((f.kind == "left_over" && f.number < 0.14));
  CHECK(r->findings.empty());
}

TEST_CASE("left for sanding stands on the surface it is asked for, and the proof knows") {
  Project p = *project_from("reedling");
  neck_of(p).work.sand_back = 0.3;
  neck_of(p).work.sand_sides = 0.2;
  neck_of(p).work.scallop = 0.03;
  const Made m = made(p, "neck");
  const auto r = prove_piece(m.request(0.25));
  REQUIRE(r);
  for (const auto& s : r->sides)
    for (const Finding& f : s.findings) UNSCOPED_INFO(f.text);
  for (const Finding& f : r->findings) UNSCOPED_INFO(f.text);
  CHECK(r->passed());
  CHECK(r->volume_mm3 > m.neck().weight.volume_mm3 + 4000);
}

TEST_CASE("roughing steps over from row to row without going on with a descent into wood") {
  // Scales at which a row that ran down the head's slope was gone on with by a step down: 18 degrees in all.
  for (const char* scale : {"630.1", "631.2"}) {
    const Made m =
        made(edited(*project_from("reedling"),
                    {{"strings.left_handed", "yes"}, {"strings.scale", scale}, {"slot.measured_width", "0.57"}}),
             "neck");
    const PartProof proof = m.proof(0.3);
    INFO(scale);
    for (const Remark& r : proof.remarks("neck")) {
      INFO(r.kind << ": " << r.sentence);
      CHECK(r.kind.find("way_down") == std::string::npos);
    }
  }
}

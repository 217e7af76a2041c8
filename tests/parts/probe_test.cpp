// Where z is found: the planner's place outlasts every cut, or is the waste board; header, manifest and sheet tell it.
#include <catch2/catch.hpp>

#include "core/job/probe_place.hpp"
#include "core/proof/probe.hpp"
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;

namespace {

const Setup& side(const Made& m, std::size_t piece, std::size_t k) {
  return m.planned.made.pieces.at(piece).sides.at(k).setup;
}

}  // namespace

TEST_CASE("every side of every part has a place to probe, clear of everything, and pins wait for a hand") {
  for (const char* part : {"fretboard", "neck", "body", "cover", "coupon", "waste-board"}) {
    CAPTURE(part);
    const Made m = made(*project_from("reedling"), part);
    // No program that bores pins cuts anything else, and what follows them waits.
    bool pins = false;
    for (const PlacedProgram& p : m.programs)
      if (std::find(p.file.cuts.begin(), p.file.cuts.end(), "pins") != p.file.cuts.end()) {
        pins = true;
        CHECK(p.file.cuts.size() == 1);
      }
    CHECK(pins == (std::string(part) == "neck" || std::string(part) == "body"));
    for (const Piece& piece : m.planned.made.pieces)
      for (const Side& s : piece.sides) {
        CAPTURE(s.id);
        for (std::size_t k = 0; k + 1 < s.operations.size(); ++k)
          if (s.operations[k].id == "pins") CHECK(s.operations[k + 1].stop_before == set_the_pins);
        // Nobody pushes pins into a blank that has no holes yet.
        for (const Operation& op : s.operations)
          if (op.id == "pins") CHECK(op.stop_before.empty());
        REQUIRE(s.setup.probe);
        CHECK(probe_blocked(s.setup, *s.setup.probe) == nullptr);
        const Placement* placement = m.planned.cuts.side(s.id);
        REQUIRE(placement != nullptr);
        CHECK(placement->setup.probe == s.setup.probe);
        // No cut comes there below the top.
        const double top = s.setup.probe->on_board ? s.setup.bed_z() : 0;
        for (const Toolpath& path : placement->paths) {
          const double r = find_cutter(m.planned.rack, path.cutter)->radius();
          Vec3 from = path.start;
          for (const Move& move : path.moves) {
            if (std::min(from.z, move.to.z) < top - 1e-6 && move.kind == MoveKind::feed)
              REQUIRE(distance_to(s.setup.probe->at, {flat(from), flat(move.to)}) > r + probe_radius);
            from = move.to;
          }
        }
      }
  }
}

TEST_CASE("a face that is taken off moves the zero to the waste board") {
  Project p = *project_from("plain");
  body_of(p).work.face_off = 2;
  const Made m = made(p, "body");
  const Piece* whole = nullptr;
  for (const Piece& piece : m.planned.made.pieces)
    if (piece.id == "body") whole = &piece;
  REQUIRE(whole != nullptr);
  const Setup& front = whole->sides[0].setup;
  REQUIRE(front.probe);
  CHECK(front.probe->on_board);
  CHECK_THAT(probe_text(front), Contains("the waste board at x") && Contains("z = -"));
  CHECK_THAT(probe_words(front).in(UnitSystem::millimetre), Contains("No place of the blank's top outlasts the cuts"));
  // The back's raw face is still there when it is turned up.
  CHECK_FALSE(whole->sides[1].setup.probe->on_board);
  CHECK(m.proof(0.3).faultless());
  // Probed on the face all the same, the proof says no.
  Planned lied = m.planned;
  for (Piece& piece : lied.made.pieces)
    if (piece.id == "body") piece.sides[0].setup.probe = Setup::Probe{{20, 20}, false};
  const auto refused = prove_part(lied, m.programs, 0.3);
  REQUIRE(refused);
  CHECK(refused->verdict() == Verdict::not_proved);
  const auto remarks = refused->remarks("body");
  CHECK(std::any_of(remarks.begin(), remarks.end(), [](const Remark& r) { return r.kind == "proof.probe_gone"; }));
}

TEST_CASE("header, manifest and sheet name the place and the height") {
  const Made m = made(*project_from("plain"), "coupon");
  const Setup& s = side(m, 0, 0);
  REQUIRE(s.probe);
  const std::string place = "at x " + format_mm(s.probe->at.x) + " y " + format_mm(s.probe->at.y);
  for (const PlacedProgram& p : m.programs) CHECK_THAT(p.file.text.str(), Contains("(probe z on: ") && Contains(place));
  CHECK_THAT(m.programs[0].file.text.str(), Contains("over the waste board"));
  CHECK_THAT(m.manifest(), Contains("\"probe\"") && Contains("\"z_mm\""));
  bool told = false;
  const RunSheet sheet = m.sheet();
  for (const std::string& line : sheet.sides[0].alignment) told = told || line.find("Probe z on") != std::string::npos;
  CHECK(told);
  const auto entries = read_manifest(m.manifest(), "manifest.json");
  REQUIRE(entries);
  for (const ManifestEntry& e : *entries) {
    REQUIRE(e.probe.place);
    CHECK(distance(e.probe.place->at, s.probe->at) < 1e-5);
    CHECK(e.probe.z == 0);
  }
}

TEST_CASE("where nothing is left to probe on, a remark stops the work") {
  // The cuts take the whole top and a fence of the machine's size leaves no board beside it.
  Made m = made(*project_from("plain"), "coupon");
  Piece& piece = m.planned.made.pieces[0];
  Setup& s = piece.sides[0].setup;
  s.standing = {{"wall", {-2000, -2000, s.bed_z()}, {2000, 2000, 5}}};
  choose_probe_places(m.planned.made.pieces, m.planned.cuts, m.planned.rack, "coupon");
  CHECK_FALSE(m.planned.made.pieces[0].sides[0].setup.probe);
  const auto& remarks = m.planned.cuts.remarks;
  REQUIRE(std::any_of(remarks.begin(), remarks.end(), [](const Remark& r) { return r.kind == "coupon.no_probe"; }));
}

TEST_CASE("the sheet says what was proved, under which assumptions, and what errors leave") {
  const Made m = made(*project_from("plain"), "coupon");
  const auto fact = [](const RunSheet& sheet, const std::string& label) {
    for (const auto& [name, value] : sheet.facts)
      if (name == label) return value;
    return std::string();
  };
  CHECK_THAT(fact(m.sheet(), "Proof"), Contains("NOT PROVED"));
  const PartProof proof = m.proof(0);
  REQUIRE(proof.passed());
  const RunSheet sheet = run_sheet(*m.kind, m.followed, *m.cache, m.planned, "2026-11-25", {}, &proof);
  CHECK_THAT(fact(sheet, "Proof"), Contains("PROVED") && Contains("for assumed lengths of T"));
  CHECK_THAT(fact(sheet, "Thinnest tab"),
             Contains("as drawn 2 mm") && Contains("likely worst 1.942") && Contains("worst 1.92 mm"));
  REQUIRE_FALSE(sheet.set_up.empty());
  CHECK_THAT(sheet.set_up.front(), Contains("measure stickout and cutting length of T"));
  // Measured, nothing is asked for.
  Project p = *project_from("plain");
  for (Cutter& c : p.rack) c.lengths_measured = true;
  const Made measured = made(p, "coupon");
  const PartProof sure = measured.proof(0);
  CHECK(sure.assumed.empty());
  CHECK(verdict_text(sure) == "PROVED");
  const RunSheet plain = measured.sheet();
  for (const std::string& line : plain.set_up) CHECK(line.find("measure stickout") == std::string::npos);
}

// A part is data: what holds for every kind in the table, and for one that nobody has heard of.
#include "support/made.hpp"
#include "support/spacer.hpp"

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <random>
#include <set>

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

std::set<std::string> operations_of(const Planned& p) {
  std::set<std::string> out;
  for (const Piece& piece : p.made.pieces)
    for (const Side& side : piece.sides)
      for (const Operation& op : side.operations) out.insert(side.id + "/" + op.id);
  return out;
}

}  // namespace

TEST_CASE("an invented part is planned, proved, put on the sheet and written like any other") {
  std::vector<PartKind> kinds = all_parts().kinds();
  kinds.push_back(spacer_part());
  const Parts parts(std::move(kinds));
  CHECK_THAT(parts.names(), Contains("jack-guide or spacer"));
  Cache cache;
  const Followed f = follow(parts, *project_from("reedling"), cache);
  const auto planned = plan(*parts.find("spacer"), f, cache);
  REQUIRE(planned);
  CHECK(planned->cuts.remarks.empty());
  const auto programs = programs_of(f.project, *planned, "2026-11-25");
  REQUIRE(programs.size() == 1);
  CHECK(programs.front().file.file == "reedling-spacer-01-top-hole.ngc");
  const auto proof = prove_part(*planned, programs);
  REQUIRE(proof);
  for (const ProofResult& side : proof->pieces.front().result.sides)
    for (const Finding& found : side.findings)
      UNSCOPED_INFO(found.text << " at " << found.at.x << ", " << found.at.y << ", " << found.at.z);
  CHECK(proof->passed());
  CHECK(proof->pieces.front().result.tabs == 2);
  CHECK(proof->pieces.front().result.holes_open == 1);
  const RunSheet sheet = run_sheet(*parts.find("spacer"), f, cache, *planned, "2026-11-25", {UnitSystem::inch});
  REQUIRE(sheet.sides.size() == 1);
  CHECK(sheet.sides.front().steps.front().file == programs.front().file.file);
  const auto lines = build_sheet(parts, f, cache, {&*planned});
  CHECK(std::any_of(lines.begin(), lines.end(), [](const BuildLine& l) { return l.id == "spacer.cut.top.outline"; }));
  const auto numbers = ledger(parts, f, cache, {&*planned});
  CHECK(std::any_of(numbers.begin(), numbers.end(),
                    [](const LedgerLine& l) { return l.key == "cuts.spacer.top.outline.feed"; }));
}

TEST_CASE("for every kind of part: nothing forgotten, nothing twice, order kept, every key reachable") {
  const Project p = with_every_part(*project_from("reedling"));
  Cache cache;
  const Followed f = follow(all_parts(), p, cache);
  std::set<std::string> files;
  for (const PartKind& kind : all_parts().kinds()) {
    INFO(kind.id());
    const auto planned = plan(kind, f, cache);
    REQUIRE(planned);
    REQUIRE_FALSE(planned->made.pieces.empty());
    // Every operation has its cut, once, in its order; a cavity may bring corners and edges of its own.
    const auto operations = operations_of(*planned);
    std::set<std::string> cut;
    for (const Piece& piece : planned->made.pieces)
      for (const Side& side : piece.sides) {
        const Placement* placement = planned->cuts.side(side.id);
        REQUIRE(placement != nullptr);
        std::size_t at = 0;
        for (const Cut& c : placement->cuts) {
          INFO(c.id);
          CHECK(cut.insert(side.id + "/" + c.id).second);
          while (at < side.operations.size() && c.id != side.operations[at].id &&
                 !c.id.starts_with(side.operations[at].id + "-"))
            ++at;
          CHECK(at < side.operations.size());
          CHECK_FALSE(c.strands.empty());
          CHECK(c.feed > 0);
        }
      }
    for (const auto& op : operations) CHECK(cut.contains(op));
    // Paths hold every cut once, facts too; files have names of their own.
    for (const Placement& s : planned->cuts.sides) {
      std::vector<std::string> in_paths;
      for (const Toolpath& path : s.paths) in_paths.insert(in_paths.end(), path.cuts.begin(), path.cuts.end());
      REQUIRE(in_paths.size() == s.cuts.size());
      for (std::size_t i = 0; i < s.cuts.size(); ++i) CHECK(in_paths[i] == s.cuts[i].id);
      CHECK(s.facts.size() == s.cuts.size());
    }
    for (const PlacedProgram& program : programs_of(p, *planned, "")) CHECK(files.insert(program.file.file).second);
    // Every field of the part's table stands at some line of the build sheet, with a label and a reason.
    const auto lines = build_sheet(all_parts(), f, cache, {&*planned});
    for (const Field& field : kind.table.fields) {
      INFO(field.key);
      CHECK_FALSE(field.label.empty());
      CHECK_FALSE(field.reason.empty());
      if (field.key.starts_with("measured.body.layer_") || field.key.starts_with("body.strips_"))
        continue;  // a layer that is not there has no line
      CHECK_FALSE(line_for_key(lines, field.key).empty());
    }
  }
}

TEST_CASE("every part of the demo is proved from the texts of its programs alone") {
  Project p = with_every_part(*project_from("reedling"));
  neck_of(p).work.holding = Holding::frame;
  neck_of(p).work.scallop = 0.03;
  for (const PartKind& kind : all_parts().kinds()) {
    INFO(kind.id());
    Project q = p;
    if (kind.id() == "cradle") neck_of(q).work.holding = Holding::cradle;  // the demo's neck lies on its own waste
    const Made m = made(q, kind.id());
    const PartProof proof = m.proof(0.25);
    for (const Remark& r : proof.remarks(kind.id())) UNSCOPED_INFO(r.sentence);
    CHECK(proof.faultless());
  }
}

TEST_CASE("programs in inches are proved like those in millimetres") {
  Project p = *project_from("sedge");
  p.programs.units = UnitSystem::inch;
  for (const char* part : {"coupon", "neck", "body"}) {
    INFO(part);
    const Made m = made(p, part);
    const PartProof proof = m.proof(0.25);
    for (const Remark& r : proof.remarks(part)) UNSCOPED_INFO(r.sentence);
    CHECK(proof.faultless());
  }
}

TEST_CASE("a side without its program is not passed over") {
  Made m = made(*project_from("reedling"), "cover");
  m.programs.clear();
  const auto proof = prove_part(m.planned, m.programs);
  REQUIRE(proof);
  CHECK_FALSE(proof->passed());
  Made body = made(*project_from("reedling"), "body");
  std::erase_if(body.programs, [](const PlacedProgram& p) { return p.side == "layer-2"; });
  const auto missing = prove_part(body.planned, body.programs, 0.5);
  REQUIRE(missing);
  REQUIRE(missing->missing.size() == 1);
  CHECK_FALSE(missing->passed());
}

TEST_CASE("stopped at any poll of planning and proving the coupon, nothing half comes out") {
  Cache cache;
  const Followed f = follow(all_parts(), *project_from("reedling"), cache);
  const PartKind& kind = *all_parts().find("coupon");
  const auto stops_at = [&](int at, const auto& run) {
    int seen = 0;
    Progress* self = nullptr;
    Progress progress([&](double, std::string_view) {
      if (++seen == at) self->stop();
    });
    self = &progress;
    return run(progress) ? -1 : seen;
  };
  int polls = 0;
  Progress count([&](double, std::string_view) { ++polls; });
  const auto planned = plan(kind, f, cache, &count);
  REQUIRE(planned);
  REQUIRE(polls > 8);
  for (int at = 1; at <= polls; ++at)
    CHECK(stops_at(at, [&](Progress& p) {
            const auto r = plan(kind, f, cache, &p);
            if (!r) CHECK(r.error().kind == ProblemKind::stopped);
            return r.has_value();
          }) == at);
  const auto programs = programs_of(f.project, *planned, "");
  polls = 0;
  REQUIRE(prove_part(*planned, programs, 0.5, &count));
  for (int at = 1; at <= polls; at += std::max(1, polls / 12))
    CHECK(stops_at(at, [&](Progress& p) { return prove_part(*planned, programs, 0.5, &p).has_value(); }) > 0);
}

TEST_CASE("planning the demos stops at random polls and says so") {
  std::mt19937 random(9);
  Cache cache;
  const Followed f = follow(all_parts(), *project_from("sedge"), cache);
  for (const char* part : {"fretboard", "body"}) {
    int polls = 0;
    Progress count([&](double, std::string_view) { ++polls; });
    REQUIRE(plan(*all_parts().find(part), f, cache, &count));
    for (int k = 0; k < 6; ++k) {
      const int at = 1 + static_cast<int>(random() % static_cast<unsigned>(polls));
      int seen = 0;
      Progress* self = nullptr;
      Progress progress([&](double, std::string_view) {
        if (++seen == at) self->stop();
      });
      self = &progress;
      const auto r = plan(*all_parts().find(part), f, cache, &progress);
      REQUIRE_FALSE(r);
      CHECK(r.error().kind == ProblemKind::stopped);
    }
  }
}

TEST_CASE("the same bits at one, two and eight threads") {
  const auto texts = [](const char* threads, const char* part) {
    ::setenv("WREN_THREADS", threads, 1);
    std::string all;
    for (const PlacedProgram& p : made(*project_from("reedling"), part).programs) all += p.file.text.str();
    ::unsetenv("WREN_THREADS");
    return sha256_hex(all);
  };
  for (const char* part : {"coupon", "body"}) {
    const std::string one = texts("1", part);
    CHECK(texts("2", part) == one);
    CHECK(texts("8", part) == one);
  }
}

TEST_CASE("an edit makes anew only the parts that depend on it") {
  Cache cache;
  Project p = *project_from("reedling");
  const Followed before = follow(all_parts(), p, cache);
  CHECK(before.changed.size() == all_parts().kinds().size());
  const auto changed = [&](const std::vector<std::pair<std::string, std::string>>& edits) {
    const Followed after = follow(all_parts(), *with_edits(p, edits), cache, &before);
    return std::set<std::string>(after.changed.begin(), after.changed.end());
  };
  CHECK(changed({{"project.notes", "tried"}}).empty());
  CHECK(changed({{"body.tail", "121"}}) ==
        std::set<std::string>{"body", "cover", "heel-sample", "jack-guide", "scratch-plate", "waste-board"});
  CHECK(changed({{"coupon.thickness", "14"}}) == std::set<std::string>{"coupon"});
  CHECK_FALSE(changed({{"neck.scallop", "0.02"}}).contains("fretboard"));
  // Measuring the finished heel moves the pocket, and leaves the neck that is cut alone.
  const auto measured = changed({{"measured.neck.heel_width", "56.4"}});
  CHECK(measured.contains("body"));
  CHECK_FALSE(measured.contains("neck"));
  CHECK(print_of(p, "neck") == print_of(*with_edits(p, {{"measured.neck.heel_width", "56.4"}}), "neck"));
  CHECK(print_of(p, "body") != print_of(*with_edits(p, {{"measured.neck.heel_width", "56.4"}}), "body"));
}

TEST_CASE("what is measured on the coupon goes where it belongs, with its date and how") {
  const Project p = *project_from("reedling");
  const auto q = with_edits(p, {{"measured.coupon.slot", "0.61"},
                                {"measured.coupon.pocket", "19.94"},
                                {"measured.coupon.gauge", "19.80"},
                                {"measured.coupon.pilot", "1.58"},
                                {"measured.coupon.scallop", "0.02"}});
  REQUIRE(q);
  CHECK(find_cutter(q->rack, "slot-0.58")->effective_diameter() == 0.61);
  CHECK_THAT(find_cutter(q->rack, "flat-6.35")->effective_diameter(), WithinAbs(6.29, 1e-9));
  CHECK(find_cutter(q->rack, "drill-1.6")->effective_diameter() == 1.58);
  CHECK_THAT(body_of(*q).body.setup.fit, WithinAbs(0.07, 1e-9));
  CHECK(board_of(*q).work.crown_scallop == 0.02);
  CHECK(neck_of(*q).work.scallop == 0.02);
  CHECK(body_of(*q).work.scallop == 0.02);
  CHECK(q->record.measured.size() == 5);
  for (const Measured& m : q->record.measured) CHECK(m.instrument == "measured on coupon");
  // One rule: the slot's measure belongs to its cutter, and choosing another cutter does not wipe it.
  const auto other = with_edits(*q, {{"slot.cutter", "slot-0.53"}});
  if (other) {
    const auto back = with_edits(*other, {{"slot.cutter", "slot-0.58"}});
    REQUIRE(back);
    CHECK(std::get<double>(all_parts().book().find(*back, "slot.measured_width")->get(*back)) == 0.61);
  }
}

TEST_CASE("a coupon without a cutter that the board names says so, and a measure that cannot be is refused") {
  Project p = *project_from("reedling");
  board_of(p).work.slot_cutter = "gone";
  const Made m = made(p, "coupon");
  const auto remarks = m.remarks();
  CHECK(std::any_of(remarks.begin(), remarks.end(), [](const Remark& r) {
    return r.kind == "coupon.cutter_missing" && r.sentence.find("'gone'") != std::string::npos;
  }));
  const auto refused = with_edits(*project_from("reedling"), {{"measured.coupon.slot", "0.4"}});
  REQUIRE_FALSE(refused);
  CHECK_THAT(refused.error().what, Contains("thinner than its cutter"));
  CHECK_FALSE(with_edits(*project_from("reedling"), {{"measured.coupon.scallop", "3"}}));
}

TEST_CASE("words take lengths in the reader's units") {
  const Words w{"{} wide and {} deep", {25.4, 12.7}};
  CHECK(w.in(UnitSystem::millimetre) == "25.4 mm wide and 12.7 mm deep");
  CHECK_THAT(w.in(UnitSystem::inch), Contains("1 in wide"));
  CHECK(Words{"no lengths {}", {}}.in(UnitSystem::millimetre) == "no lengths {}");
}

TEST_CASE("every mesh agrees with its design: closed, and its skins lie on the proof's target") {
  const Project p = *project_from("reedling");
  Cache cache;
  const Followed f = follow(all_parts(), p, cache);
  for (const char* part : {"fretboard", "cover"}) {
    INFO(part);
    const Mesh mesh = all_parts().find(part)->mesh(f.input(cache), mesh_for_export);
    CHECK(is_closed(mesh));
    CHECK(mesh.triangles.size() > 100);
  }
  const Fretboard& board = f.designs.shape<BoardDesign>().board;
  const Mesh mesh = board_mesh(board);
  CHECK_THAT(volume(mesh) / board.volume(), WithinAbs(1, 0.003));
}

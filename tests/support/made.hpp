// A part from its numbers to its programs, for tests: one way for all parts, as everywhere.
#pragma once

#include <catch2/catch.hpp>

#include "core/job/build_sheet.hpp"
#include "core/job/prove.hpp"
#include "core/job/run_sheet.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/table.hpp"

namespace wren {

struct Made {
  Project project;
  const PartKind* kind = nullptr;
  std::shared_ptr<Cache> cache = std::make_shared<Cache>();
  Followed followed;
  Planned planned;
  std::vector<PlacedProgram> programs;

  [[nodiscard]] const PartCuts& cuts() const { return planned.cuts; }
  [[nodiscard]] const Placement& side(const std::string& id) const {
    const Placement* s = planned.cuts.side(id);
    if (s == nullptr) throw std::runtime_error("no side " + id);
    return *s;
  }
  [[nodiscard]] const BoardDesign& board() const { return followed.designs.shape<BoardDesign>(); }
  [[nodiscard]] const NeckDesign& neck() const { return followed.designs.shape<NeckDesign>(); }
  [[nodiscard]] const BodyDesign& body() const { return followed.designs.shape<BodyDesign>(); }
  [[nodiscard]] std::vector<Remark> remarks() const { return remarks_of(*kind, followed, &planned); }
  [[nodiscard]] std::vector<LedgerLine> ledger() const {
    return wren::ledger(all_parts(), followed, *cache, {&planned});
  }
  [[nodiscard]] std::vector<BuildLine> lines() const { return build_sheet(all_parts(), followed, *cache, {&planned}); }
  [[nodiscard]] RunSheet sheet(UnitSystem system = UnitSystem::millimetre) const {
    return run_sheet(*kind, followed, *cache, planned, "2026-11-24", {system});
  }
  /// The first piece's request, or the one of an id.
  [[nodiscard]] PieceRequest request(double cell, const std::string& piece = {}) const {
    for (const Piece& p : planned.made.pieces)
      if (piece.empty() || p.id == piece) return request_for(p, planned, programs, cell);
    throw std::runtime_error("no piece " + piece);
  }
  [[nodiscard]] PartProof proof(double cell) const {
    auto r = prove_part(planned, programs, cell);
    INFO((r ? "" : r.error().text()));
    REQUIRE(r);
    return std::move(*r);
  }
  [[nodiscard]] std::string manifest() const { return manifest_of(project, planned, programs, "2026-11-24"); }
  [[nodiscard]] std::vector<ProgramText> texts() const {
    return texts_of(programs, planned.made.pieces.front().sides.front().id);
  }
};

inline Made made(const Project& project, const std::string& part = "fretboard") {
  Made m;
  m.project = project;
  m.kind = all_parts().find(part);
  m.followed = follow(all_parts(), project, *m.cache);
  auto planned = plan(*m.kind, m.followed, *m.cache);
  INFO((planned ? "" : planned.error().text()));
  REQUIRE(planned);
  m.planned = std::move(*planned);
  m.programs = programs_of(project, m.planned, "2026-11-24");
  return m;
}

/// The build sheet of a project with nothing planned.
inline std::vector<BuildLine> lines_of_project(const Project& project) {
  Cache cache;
  return build_sheet(all_parts(), follow(all_parts(), project, cache), cache, {});
}

inline std::string print_of(const Project& project, const std::string& part) {
  return fingerprint(all_parts(), *all_parts().find(part), project);
}

/// A test slot was cut with the slot cutter and measured.
inline void measure_slot(Project& project, double width) {
  for (Cutter& c : project.rack)
    if (c.id == board_of(project).work.slot_cutter) c.measured = width;
}

inline Expected<NeckDesign> design_neck(const Project& project, const Fretboard& board) {
  Cache cache;
  return design_neck(project, board, cache);
}

using Edits = std::vector<std::pair<std::string, std::string>>;

inline Project edited(const Project& p, const Edits& edits) {
  auto out = with_edits(p, edits);
  INFO((out ? std::string() : out.error().text()));
  REQUIRE(out);
  return *out;
}

/// The schools that ask for every small part there is: a caul, a sample, a guide, a plate, a cradle.
inline Project with_every_part(const Project& p) {
  return edited(p, {{"frets.when", "board_loose"},
                    {"body.pocket_from", "sample"},
                    {"wire.jack_when", "body_finished"},
                    {"plate.thickness", "2.5"},
                    {"neck.holding", "cradle"}});
}

inline Followed followed_of(const Project& p) {
  Cache cache;
  return follow(all_parts(), p, cache);
}

/// A design's remark of a kind, if there is one. The design must follow.
inline std::optional<Remark> design_remark(const Project& p, const std::string& part, const std::string& kind) {
  const Followed followed = followed_of(p);
  INFO((followed.problems.contains(part) ? followed.problems.at(part).text() : std::string()));
  REQUIRE_FALSE(followed.problems.contains(part));
  for (const Remark& r : followed.designs.find(part)->remarks)
    if (r.kind == kind) return r;
  return {};
}

/// Everything that a remark offers to do about it.
inline std::vector<Repair> ways(const Remark& r) {
  std::vector<Repair> out = r.others;
  if (r.repair) out.insert(out.begin(), *r.repair);
  return out;
}

/// What keeps a proof from its word, a line each.
inline std::string stops(const PartProof& proof) {
  std::string out;
  const auto add = [&](const std::vector<Finding>& all) {
    for (const Finding& f : all)
      if (f.weight == Weight::stop) out += f.kind + ": " + f.text + "\n";
  };
  add(proof.findings);
  for (const PieceProof& p : proof.pieces) {
    add(p.result.findings);
    for (const ProofResult& s : p.result.sides) add(s.findings);
  }
  return out;
}

/// Programs of some sides of one plan, proved for what another asks for; all sides where none is named.
inline PartProof proof_of(const Made& asked, const Made& cut, const std::vector<std::string>& sides,
                          double cell = 0.5) {
  std::vector<PlacedProgram> some;
  for (const PlacedProgram& f : cut.programs)
    if (sides.empty() || std::find(sides.begin(), sides.end(), f.side) != sides.end()) some.push_back(f);
  REQUIRE(!some.empty());
  auto r = prove_part(asked.planned, some, cell);
  INFO((r ? "" : r.error().text()));
  REQUIRE(r);
  return std::move(*r);
}

inline bool found(const PieceResult& r, const std::string& kind) {
  const auto is = [&](const Finding& f) { return f.kind == kind; };
  return std::any_of(r.findings.begin(), r.findings.end(), is) ||
         std::any_of(r.sides.begin(), r.sides.end(),
                     [&](const ProofResult& s) { return std::any_of(s.findings.begin(), s.findings.end(), is); });
}

}  // namespace wren

// All pieces of a part proved one after the other, from the texts of their programs.
#pragma once

#include "core/job/programs.hpp"

namespace wren {

struct PieceProof {
  std::string id;
  Words title;
  bool hidden = false;  // its walls go into the glue: its figures are not among the worst
  std::vector<Setup> setups;
  std::vector<std::string> sides;
  PieceResult result;
};

enum class Verdict { proved, not_proved, not_whole, not_looked_at };
[[nodiscard]] const char* verdict_words(Verdict verdict);  // "PROVED", "NOT PROVED", "NOT WHOLE", "NOT LOOKED AT"

struct PartProof {
  std::vector<PieceProof> pieces;
  std::vector<std::string> missing;  // a sentence for each side that has cuts and no program
  std::vector<Finding> findings;     // of the set: its manifest, its order
  bool coarse = false;               // looked at with wider cells than the pieces' own
  std::vector<std::string> assumed;  // cutters whose lengths nobody measured, "T5 flat-6.35"
  double seconds = 0;
  double worst_gouge = 0;
  double worst_left = 0;
  double worst_loose = 0;  // left where the glue hides it and nothing is fitted, layers too
  /// P2: a fault; something left out; not looked at closely enough; or proved. Only the last lets the programs run.
  [[nodiscard]] Verdict verdict() const;
  [[nodiscard]] bool passed() const { return verdict() == Verdict::proved; }
  /// Nothing was found, at whatever cells were looked at.
  [[nodiscard]] bool faultless() const { return passed() || verdict() == Verdict::not_looked_at; }
  [[nodiscard]] const ProofResult* side(const std::string& id) const;  // of a placement; nullptr where not proved
  [[nodiscard]] std::vector<Remark> remarks(const std::string& part) const;
  /// The worst over all pieces and all that may be off at this level; figures of 1e9 are not to be had.
  [[nodiscard]] ErrorCase off(ErrorLevel level) const;
};

/// What a part's proof says of errors (P7), for sheet and screen: a label and its three figures, "as drawn 2.60, likely
/// 2.54, worst 2.52".
[[nodiscard]] std::vector<std::pair<std::string, Words>> error_lines(const PartProof& proof);

/// "PROVED on 2026-11-25", with the lengths that were assumed.
[[nodiscard]] std::string verdict_text(const PartProof& proof);

/// What the proof is asked of one piece. `cell` 0: the piece's own; else it, but never more cells than memory bears.
[[nodiscard]] PieceRequest request_for(const Piece& piece, const Planned& planned,
                                       const std::vector<PlacedProgram>& programs, double cell = 0);

[[nodiscard]] Expected<PartProof> prove_part(const Planned& planned, const std::vector<PlacedProgram>& programs,
                                             double cell = 0, Progress* progress = nullptr);

}  // namespace wren

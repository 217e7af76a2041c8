// All pieces of a part proved one after the other, from the texts of their programs.
#pragma once

#include "core/job/programs.hpp"

namespace wren {

struct PieceProof {
  std::string id;
  std::string title;
  bool hidden = false;  // its walls go into the glue: its figures are not among the worst
  std::vector<Setup> setups;
  std::vector<std::string> sides;
  PieceResult result;
};

struct PartProof {
  std::vector<PieceProof> pieces;
  std::vector<std::string> missing;  // a sentence for each side that has cuts and no program
  double seconds = 0;
  double worst_gouge = 0;
  double worst_left = 0;
  [[nodiscard]] bool passed() const;
  [[nodiscard]] const ProofResult* side(const std::string& id) const;  // of a placement; nullptr where not proved
  [[nodiscard]] std::vector<Remark> remarks(const std::string& part) const;
};

/// What the proof is asked of one piece. `cell` 0: the piece's own; else it, but never more cells than memory bears.
[[nodiscard]] PieceRequest request_for(const Piece& piece, const Planned& planned,
                                       const std::vector<PlacedProgram>& programs, double cell = 0);

[[nodiscard]] Expected<PartProof> prove_part(const Planned& planned, const std::vector<PlacedProgram>& programs,
                                             double cell = 0, Progress* progress = nullptr);

}  // namespace wren

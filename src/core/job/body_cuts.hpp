// The body's cuts: layer by layer on the same pins, then the glued body from both sides, then its covers; and the proof
// of all of them.
#pragma once

#include "core/job/body_design.hpp"
#include "core/job/placement.hpp"
#include "core/proof/piece.hpp"

namespace wren {

struct BodyCuts {
  std::vector<Placement> sides;  // in the order they are run: waste board, layers, front, back, skim, covers
  std::vector<Remark> remarks;
  double seconds = 0;
  [[nodiscard]] const Placement* side(const std::string& id) const;
};

/// On a stop: what was planned so far, which must not be used.
[[nodiscard]] BodyCuts plan_body(const Project& project, const BodyDesign& design, Progress* progress = nullptr);

[[nodiscard]] std::vector<PlacedProgram> body_programs(const Project& project, const BodyDesign& design,
                                                       const BodyCuts& cuts, const std::string& date);
[[nodiscard]] std::string body_manifest(const Project& project, const BodyDesign& design, const BodyCuts& cuts,
                                        const std::vector<PlacedProgram>& programs, const std::string& date);

/// One piece of wood for the proof: the glued body with both sides, a layer by itself, a cover.
struct BodyPiece {
  std::string id;  // "body", "layer-2", "cover"
  std::string title;
  PieceRequest request;
};
[[nodiscard]] std::vector<BodyPiece> body_proof(const Project& project, const BodyDesign& design, const BodyCuts& cuts,
                                                const std::vector<PlacedProgram>& programs, double cell);

/// All pieces proved one after the other.
struct BodyProof {
  std::vector<std::pair<BodyPiece, PieceResult>> pieces;
  double seconds = 0;
  double worst_gouge = 0;
  double worst_left = 0;
  [[nodiscard]] bool passed() const;
  [[nodiscard]] const ProofResult* side(const std::string& id) const;  // of a placement
};
[[nodiscard]] Expected<BodyProof> prove_body(std::vector<BodyPiece> pieces, Progress* progress = nullptr);

[[nodiscard]] std::vector<Remark> all_remarks(const BodyDesign& design, const BodyCuts& cuts);

}  // namespace wren

// The neck's cuts on both sides in order, linked into programs' paths; the waste board's holes and the cradle as jobs
// of their own.
#pragma once

#include "core/job/neck_design.hpp"
#include "core/job/placement.hpp"
#include "core/proof/piece.hpp"

namespace wren {

struct NeckCuts {
  std::vector<Placement> sides;  // in the order they are run
  std::vector<Remark> remarks;
  std::vector<Vec2> tabs;    // instrument frame, on the outline
  double finish_length = 0;  // mm, rows on the back
  double row_distance = 0;
  double seconds = 0;
  [[nodiscard]] const Placement* side(const std::string& id) const;
};

/// On a stop: what was planned so far, which must not be used.
[[nodiscard]] NeckCuts plan_neck(const Project& project, const NeckDesign& design, Progress* progress = nullptr);

/// Program texts of all sides in running order, with the side each belongs to.
[[nodiscard]] std::vector<PlacedProgram> neck_programs(const Project& project, const NeckDesign& design,
                                                       const NeckCuts& cuts, const std::string& date);
[[nodiscard]] std::string neck_manifest(const Project& project, const NeckDesign& design, const NeckCuts& cuts,
                                        const std::vector<PlacedProgram>& programs, const std::string& date);

/// Both sides as one piece of wood, for the proof.
[[nodiscard]] PieceRequest neck_proof(const Project& project, const NeckDesign& design, const NeckCuts& cuts,
                                      const std::vector<PlacedProgram>& programs, double cell);

[[nodiscard]] std::vector<Remark> all_remarks(const NeckDesign& design, const NeckCuts& cuts);

}  // namespace wren

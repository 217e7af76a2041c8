// The fretboard's cuts in order, linked into programs' paths, with their times and what they make one think of.
#pragma once

#include <string>
#include <vector>

#include "core/job/board_design.hpp"
#include "core/motion/time_estimate.hpp"
#include "core/proof/proof.hpp"

namespace wren {

struct CutFacts {
  std::string id;
  std::string title;
  std::string cutter;
  double seconds = 0;
  double rpm = 0;
  double feed = 0;
  double deepest = 0;  // work frame z of the lowest tip
  std::string feed_reason;
};

struct BoardCuts {
  std::vector<Cut> cuts;        // instrument frame
  std::vector<Toolpath> paths;  // work frame, one for each program in running order
  std::vector<CutFacts> facts;
  std::vector<Remark> remarks;     // of the paths: clamps in the way, a cut that cannot be planned, …
  std::vector<double> tab_places;  // in use
  std::vector<double> path_seconds;
  double crown_stepover = 0;
  double crown_left = 0;  // real height left between the crown's rows
  double seconds = 0;
};

[[nodiscard]] BoardCuts plan_cuts(const Project& project, const BoardDesign& design);

/// The board's shape as the proof wants it: pockets with corners as round as the cutter leaves them, slots as wide as
/// asked.
[[nodiscard]] Design proof_design(const Project& project, const BoardDesign& design);

[[nodiscard]] ProofRequest proof_request(const Project& project, const BoardDesign& design,
                                         std::vector<ProgramText> programs, double cell);

/// One line of the crown's table: what a cutter and direction cost and leave.
struct CrownChoice {
  std::string cutter;
  Direction direction = Direction::along;
  double stepover = 0;
  double minutes = 0;  // roughing and finishing
  double left_over = 0;
  std::string cost;     // what else it asks for, one short sentence
  bool reaches = true;  // without touching a clamp
};

/// All cutters of the rack that can, along and across, at the chosen scallop; quickest first. On `progress` stop: what
/// was done.
[[nodiscard]] std::vector<CrownChoice> crown_table(const Project& project, const BoardDesign& design,
                                                   Progress* progress = nullptr);

}  // namespace wren

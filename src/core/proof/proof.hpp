// Proof: programs read back, cut into virtual wood, and the result held against the design. Frame of findings: work;
// mm.
//
// Invariants (tested by number):
//  1. Nothing that the writer or a strategy knows reaches this file: only text, cutters, machine, blank and the
//  design's shape.
//  2. A finding of weight stop means the programs must not run.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/proof/rehearsal.hpp"
#include "core/skin/two_skin.hpp"

namespace wren {

struct ProofTolerances {
  double gouge = 0.02;      // wood missing that should be there
  double left_over = 0.04;  // wood standing that should be gone
  double slot_place = 0.005;
  double slot_width = 0.03;
  double slot_depth = 0.02;
  double slot_bending = 0.016;  // of a slot's cutter under its mean force
  double plan = 0.05;           // of the outline's wall in plan, both ways
  double below = 0.2;           // allowed depth under the blank, into the waste board
  double skin_height = 0.5;     // a run of wood thinner than this in the outline's kerf is a skin and no tab
  double tab_longest = 30;
};

struct SlotResult {
  std::string name;
  bool found = false;
  double place_error = 0;  // of the slot's middle line from the fret line, the worse end
  double width = 0;        // as cut
  double depth_error = 0;  // deepest reading minus design: positive is too deep
  double covered = 0;      // share of the length cut to depth
};

struct ProofResult {
  std::vector<ProgramFacts> programs;
  std::vector<Finding> findings;
  std::vector<SlotResult> slots;
  double seconds = 0;
  double worst_gouge = 0;   // greatest depth below the design, ≥ 0
  double worst_left = 0;    // greatest height above the design, ≥ 0
  double worst_loose = 0;   // the same at hidden places
  double surface_left = 0;  // 99.9th percentile of the height left on an open crown, away from walls
  double deepest = 0;       // lowest tip in the work frame
  double removed_mm3 = 0;
  TileGrid stock;  // the wood at the end
  [[nodiscard]] bool passed() const;
};

struct ProofRequest {
  std::vector<ProgramText> programs;
  Rack rack;
  Setup setup;
  ProofTolerances tolerances;
  double cell = 0.1;
  Material material{};
  std::size_t apart = 0;  // pieces of wood that need not hang together: the piece and its blank; 0: not looked at
};

/// One side's programs cut into its wood, every move watched; what is made of it is judged by the piece. `score`, where
/// asked for, gets what was read. Refused where a program cannot be read or the stop was asked for.
[[nodiscard]] Expected<ProofResult> rehearse_side(const ProofRequest& request, Score* score = nullptr,
                                                  Progress* progress = nullptr);

}  // namespace wren

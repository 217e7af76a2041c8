// The fretboard as designed and as it lies on the machine: everything that follows from the numbers without planning a
// cut. Fast enough to follow every keystroke.
#pragma once

#include "core/document/project.hpp"
#include "core/instrument/fretboard.hpp"
#include "core/report/remark.hpp"
#include "core/workshop/setup.hpp"

namespace wren {

struct BoardDesign {
  Fretboard board;
  Setup setup;
  Rack rack;  // with the measured width of a test slot taken over
  Wood wood;
  std::vector<Remark> remarks;  // of the design, the blank and the choice of cutters
  double volume_mm3 = 0;
  double weight_g = 0;
};

/// Refused where no board follows from the numbers; the Problem's place is a ledger key.
[[nodiscard]] Expected<BoardDesign> design_board(const Project& project);

/// Rack in use: the slot cutter's measured diameter is the test slot's width, where one was measured.
[[nodiscard]] Rack rack_in_use(const Project& project);

/// Width the slots will come out at: the cutter's, grown by runout unless a test slot or the cutter was measured; never
/// under the wanted width where side-by-side passes make it.
[[nodiscard]] double expected_slot_width(const Project& project, const Cutter& cutter);

/// Cautions for people's safety at a step ("slots", "crown", "outline", …), brief. The operator decides; local rules
/// hold.
[[nodiscard]] std::vector<std::string> cautions(const std::string& step, const Project& project);

}  // namespace wren

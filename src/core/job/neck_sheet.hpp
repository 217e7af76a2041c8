// What the neck's run sheet says, without how it is drawn: one placement on the machine after another, what to mark,
// which way to turn, what to check, what to measure.
#pragma once

#include "core/job/neck_cuts.hpp"
#include "core/job/run_sheet.hpp"

namespace wren {

struct NeckSheetSide {
  std::string id;
  std::string title;
  std::vector<std::string> alignment;
  std::vector<RunStep> steps;
};

struct NeckSheet {
  std::string title;
  std::string date;
  std::vector<std::pair<std::string, std::string>> facts;
  std::vector<std::string> by_hand;  // scarf, access hole, filler strip, side dots
  std::vector<NeckSheetSide> sides;
  std::vector<std::string> cautions;
  std::vector<std::string> boxes;  // labels of boxes to fill in by hand
};

[[nodiscard]] NeckSheet neck_sheet(const Project& project, const NeckDesign& design, const NeckCuts& cuts,
                                   const std::string& date, UnitSystem system);

/// Places of the side dots along the board's edge, from the nut line, by fret.
[[nodiscard]] std::vector<std::pair<int, double>> side_dots(const NeckShape& neck);

}  // namespace wren

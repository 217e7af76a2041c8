// What the body's run sheet says, without how it is drawn: layer by layer on the same pins, the glue-up, both sides,
// the covers, and what is drilled by hand into the edge.
#pragma once

#include "core/job/body_cuts.hpp"
#include "core/job/run_sheet.hpp"

namespace wren {

struct BodySheetSide {
  std::string id;
  std::string title;
  std::vector<std::string> alignment;
  std::vector<RunStep> steps;
  std::vector<std::string> after;  // before the next placement: glue, saw, mask
};

struct BodySheet {
  std::string title;
  std::string date;
  std::vector<std::pair<std::string, std::string>> facts;
  std::vector<std::string> set_up;  // saddles, actions, break angles
  std::vector<BodySheetSide> sides;
  std::vector<std::string> by_hand;  // jack, strap buttons, wire holes of a one-piece body
  std::vector<std::string> cautions;
  std::vector<std::string> boxes;
};

[[nodiscard]] BodySheet body_sheet(const Project& project, const BodyDesign& design, const BodyCuts& cuts,
                                   const std::string& date, UnitSystem system);

}  // namespace wren

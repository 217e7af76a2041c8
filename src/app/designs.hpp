// Shapes of the parts that have pictures of their own, from the workbench: the newest there are.
#pragma once

#include "app/workbench.hpp"
#include "core/parts/body/part.hpp"

namespace wren::app {

[[nodiscard]] inline std::shared_ptr<const BoardDesign> board_design(const Workbench& b) {
  return b.newest<BoardDesign>();
}
[[nodiscard]] inline std::shared_ptr<const NeckDesign> neck_design(const Workbench& b) {
  return b.newest<NeckDesign>();
}
[[nodiscard]] inline std::shared_ptr<const BodyDesign> body_design(const Workbench& b) {
  return b.newest<BodyDesign>();
}

/// Places of an outline's tabs along its contour, from the last plan there is; and as points of the side.
struct Tabs {
  std::vector<double> along;
  std::vector<Vec2> at;
};
[[nodiscard]] inline Tabs tabs_of(const Planned* planned, const std::string& side) {
  Tabs out;
  if (planned == nullptr) return out;
  for (const Piece& piece : planned->made.pieces)
    for (const Side& s : piece.sides)
      for (const Operation& op : s.operations)
        if (const auto* outline = std::get_if<Outline>(&op.shape);
            outline != nullptr && !outline->plug && s.id == side) {
          out.along = outline->plan.tabs;
          for (const double t : out.along) out.at.push_back(place_along(outline->contour, t).at);
        }
  return out;
}

}  // namespace wren::app

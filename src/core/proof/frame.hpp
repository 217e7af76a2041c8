// The blank about a piece (rule M10): what of it comes off while a side is cut and once its outline is, and whether
// each tab still joins the piece to it. mm.
#pragma once

#include <optional>

#include "core/proof/groups.hpp"
#include "core/proof/solid.hpp"

namespace wren {

/// Less is a sliver that goes with the chips, mm²: as large as a fingernail.
constexpr double offcut_area = 30;

/// `standing`: what stands in the kerf, its tabs among it. Places of findings are those of the last side.
/// Kinds: `offcut_loose`, `tab_loose`.
void hold_frame(const PieceRequest& request, const Solid& solid, const std::vector<Standing>& standing,
                std::vector<Finding>& findings);

/// Follows one side while it is cut: wood may come off and be cut away afterwards.
class ComesOff {
 public:
  /// `apart`: so many pieces of wood may lie there that do not hang together; 0: nothing is looked at.
  ComesOff(const Setup& setup, std::size_t apart) : setup_(setup), groups_(setup), apart_(apart) {}
  /// After a motion; what has come off by it, where something has.
  [[nodiscard]] std::optional<Groups::Group> after(Vec3 a, Vec3 b, bool took, const TileGrid& stock);
  [[nodiscard]] Vec2 place(const Groups::Group& g) const { return groups_.work(g.i, g.j); }

 private:
  const Setup& setup_;
  Groups groups_;
  std::size_t apart_;
  double way_ = 0;  // mm cut right through since it was last looked at
};

}  // namespace wren

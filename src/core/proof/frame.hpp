// The blank about a piece once its outline is cut (rule M10): what of it is cut off, and whether each tab still joins
// the piece to it. Instrument frame; mm.
#pragma once

#include "core/proof/solid.hpp"

namespace wren {

/// `standing`: what stands in the kerf, its tabs among it.
/// Kinds: `offcut_loose`, `tab_loose`.
void hold_frame(const PieceRequest& request, const Solid& solid, const std::vector<Standing>& standing,
                std::vector<Finding>& findings);

}  // namespace wren

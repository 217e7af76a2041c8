// What a neck is glued of: strips side by side, an accent strip under the board, a veneer on the head.
#pragma once

#include "core/parts/neck/part.hpp"

namespace wren {

/// From the low y to the high one: a left-handed neck has its bass edge there.
[[nodiscard]] StripStack seen_stack(const Project& project, const StripStack& stack);

/// Its strips in the plan, for pictures.
[[nodiscard]] std::vector<StripBand> neck_bands(const Project& project, const NeckDesign& design);

/// A laminated neck: the hardest strip bears the cut, weight and stiffness are those of all of them over its width.
[[nodiscard]] std::optional<Problem> glued_of_strips(const Project& project, NeckDesign& design);

/// Accent strip and veneer added to the neck's weight. Refused where their wood is not known.
[[nodiscard]] std::optional<Problem> add_laminates(const Project& project, NeckDesign& design);

/// Strips that do not make up the blank, joints beside the rod's walls, a veneer that leaves no room for the nut.
[[nodiscard]] std::vector<Remark> laminate_remarks(const Project& project, const NeckDesign& design);

}  // namespace wren

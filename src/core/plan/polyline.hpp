// Polylines in space. Lengths in mm.
#pragma once

#include <vector>

#include "core/plan/geometry.hpp"

namespace wren {

/// Drops points that lie within `tolerance` mm of the line between the points kept; the first and last always stay.
/// One pass with a fixed anchor: every dropped point is checked, so the tolerance is the whole error.
[[nodiscard]] std::vector<Vec3> thinned(const std::vector<Vec3>& points, double tolerance);

}  // namespace wren

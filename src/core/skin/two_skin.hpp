// TwoSkin: a piece of wood a three-axis machine can make, turned over once: a region of the plan between a top and a
// bottom height function. Instrument frame unless said otherwise; lengths in mm, volumes in mm³.
#pragma once

#include <functional>

#include "core/plan/contour.hpp"

namespace wren {

/// Height over the plan, evaluated anywhere in well under a microsecond; thread safe.
using Height = std::function<double(Vec2)>;

struct TwoSkin {
  Contour outline;  // exact, counter-clockwise
  Height top;
  Height bottom;
};

struct MassProperties {
  double volume_mm3 = 0;
  Vec2 centre;  // of the volume, in plan
};

/// Volume and centre by Gauss-Legendre quadrature over strips cut exactly at the outline; `strip` mm is the widest
/// strip. For a smooth skin the error is far below 0.001 %; a step inside the outline (a slot, a pocket) is resolved to
/// a strip.
[[nodiscard]] MassProperties mass_properties(const TwoSkin& piece, double strip = 1.0);

/// Turned over about the line y = 0: the skins change places and change sign, y is mirrored. Turning twice gives the
/// same piece.
[[nodiscard]] TwoSkin turned_about_length(const TwoSkin& piece);

}  // namespace wren

// Whether a blank has room for its pins beside what is cut out of it.
#pragma once

#include "core/plan/contour.hpp"
#include "core/workshop/alignment.hpp"

namespace wren {

/// True where a pin's hole of `radius` mm meets the part. Frame of both: the instrument.
[[nodiscard]] inline bool pins_meet(const PinPlan& pins, double radius, const Polygon& part) {
  for (const Vec2 pin : {pins.first, pins.second})
    if (contains(part, pin) || distance_to(part, pin) < radius) return true;
  return false;
}

}  // namespace wren

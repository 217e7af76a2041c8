// How finely a program tells its places.
#pragma once

#include "core/words/length_text.hpp"

namespace wren {

/// The last digit of a coordinate, mm: 0.001 mm, or 0.00001 in.
[[nodiscard]] constexpr double last_digit(UnitSystem units) {
  return units == UnitSystem::inch ? mm_per_inch * 1e-5 : 1e-3;
}

}  // namespace wren

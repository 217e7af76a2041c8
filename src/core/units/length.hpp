// Lengths and plain numbers as a maker writes them: "1 5/8 in", "41.3", "1.625\"", "25.4/2", "610 - 3", "2 ft 1 1/2
// in", "1 5/8 in - 2 mil", "=3 * 1/4\"". Inside the program a length is a double in millimetres.
//
// Grammar: sums and products with brackets. "a b/c" is a mixed number. A unit (mm, cm, m, in, inch, ", ft, ', mil,
// thou) holds for the product before it. In a sum a term without a unit takes the unit of a term that has one; where
// none has, the field's own system decides. A decimal comma is read as a point. A length times a length is refused.
#pragma once

#include <string>
#include <string_view>

#include "core/report/problem.hpp"
#include "core/words/length_text.hpp"

namespace wren {

/// Text to millimetres. Errors say the column (from 1). At most 200 characters; |result| below 1e6 mm.
[[nodiscard]] Expected<double> parse_length(std::string_view text, UnitSystem field = UnitSystem::millimetre);

/// A number without unit: the same sums, but a unit is refused. |result| below 1e9.
[[nodiscard]] Expected<double> parse_number(std::string_view text);

/// Whole number (after the sum is worked out).
[[nodiscard]] Expected<long> parse_count(std::string_view text);

}  // namespace wren

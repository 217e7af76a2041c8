// Lengths as text. Inside the program a length is a double in millimetres.
#pragma once

#include <string>

namespace wren {

enum class UnitSystem { millimetre, inch };

constexpr double mm_per_inch = 25.4;  // exact: international inch (1959)

/// Millimetres with up to `decimals` places, zeros trimmed: "635", "41.275". Never "-0".
[[nodiscard]] std::string format_mm(double mm, int decimals = 3);

/// Millimetres as inches: a fraction down to 1/64 where it is exact to 0.00002 in ("1 5/8"), else four decimals.
[[nodiscard]] std::string format_inch(double mm);

/// With its unit, in the given system: "41.275 mm", "1 5/8 in".
[[nodiscard]] std::string format_length(double mm, UnitSystem system);

}  // namespace wren

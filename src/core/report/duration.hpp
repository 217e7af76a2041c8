// Durations as a maker says them.
#pragma once

#include <string>

namespace wren {

/// "40 s", "12 min", "3 h 03 min"; under ten minutes "3 min 05 s". Negative and absurd ones: "0 s".
[[nodiscard]] std::string duration_text(double seconds);

}  // namespace wren

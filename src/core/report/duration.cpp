#include "core/report/duration.hpp"

#include <cmath>

#include <fmt/format.h>

namespace wren {

std::string duration_text(double seconds) {
  if (!(seconds > 0) || seconds > 1e9) return "0 s";
  const auto whole = static_cast<long long>(std::llround(seconds));
  if (whole < 90) return fmt::format("{} s", whole);
  if (whole < 600) return fmt::format("{} min {:02} s", whole / 60, whole % 60);
  const long long minutes = std::llround(seconds / 60);
  if (minutes < 60) return fmt::format("{} min", minutes);
  return fmt::format("{} h {:02} min", minutes / 60, minutes % 60);
}

}  // namespace wren

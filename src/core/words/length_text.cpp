#include "core/words/length_text.hpp"

#include <cmath>

#include <fmt/format.h>

namespace wren {

std::string format_mm(double mm, int decimals) {
  std::string text = fmt::format("{:.{}f}", mm, decimals);
  if (text.find('.') != std::string::npos) {
    while (text.back() == '0') text.pop_back();
    if (text.back() == '.') text.pop_back();
  }
  return text == "-0" ? "0" : text;
}

std::string format_inch(double mm) {
  const double inch = mm / mm_per_inch;
  const double magnitude = std::abs(inch);
  const long parts = std::lround(magnitude * 64);
  if (parts > 0 && std::abs(magnitude - static_cast<double>(parts) / 64) < 0.00002 && magnitude < 1000) {
    long upper = parts % 64;
    long lower = 64;
    while (upper != 0 && upper % 2 == 0) {
      upper /= 2;
      lower /= 2;
    }
    const std::string sign = inch < 0 ? "-" : "";
    const long whole = parts / 64;
    if (upper == 0) return sign + fmt::format("{}", whole);
    // A minus belongs to the whole mixed number, so a negative one is bracketed to read back as it was.
    if (whole == 0) return sign + fmt::format("{}/{}", upper, lower);
    return inch < 0 ? fmt::format("-({} {}/{})", whole, upper, lower) : fmt::format("{} {}/{}", whole, upper, lower);
  }
  return format_mm(inch, 4);
}

std::string format_length(double mm, UnitSystem system) {
  return system == UnitSystem::inch ? format_inch(mm) + " in" : format_mm(mm) + " mm";
}

}  // namespace wren

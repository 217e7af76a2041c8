// Numbers as this program writes them itself, whatever the process' locale: a point for the decimal sign, no unit. What
// a maker types goes through parse_length.
#pragma once

#include <charconv>
#include <cmath>
#include <optional>
#include <string_view>

#include "core/words/words.hpp"

namespace wren {

/// Nothing where the text is not wholly one finite number.
[[nodiscard]] inline std::optional<double> plain_number(std::string_view text) {
  double value = 0;
  const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (bad != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) return {};
  return value;
}

/// A length as a ledger's edit has it ("12.5"), for the sentence beside it.
[[nodiscard]] inline Mm as_mm(std::string_view text) { return mm(plain_number(text).value_or(0), 3); }

}  // namespace wren

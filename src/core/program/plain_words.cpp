#include "core/program/plain_words.hpp"

#include <algorithm>
#include <iterator>

namespace wren {

std::string plain_words(std::string_view comment) {
  std::string out;
  bool space = false;
  for (const char c : comment) {
    if (c == ' ' || c == '\t') {
      space = !out.empty();
      continue;
    }
    if (space && c != ':' && c != ',') out += ' ';
    space = false;
    out += c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
  }
  return out;
}

bool acted_on(std::string_view plain) {
  static constexpr std::string_view shown[] = {"msg,", "debug,", "print,"};
  static constexpr std::string_view kept[] = {"logopen", "logappend", "logclose", "log,", "probeopen", "probeclose"};
  const auto begins = [plain](std::string_view word) { return plain.starts_with(word); };
  return std::any_of(std::begin(shown), std::end(shown), begins) ||
         std::any_of(std::begin(kept), std::end(kept), begins);
}

}  // namespace wren

#include "core/program/plain_words.hpp"

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

}  // namespace wren

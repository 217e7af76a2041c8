#include "core/program/block.hpp"

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <string>

#include <fmt/format.h>

namespace wren {
namespace {

const double negative_power[] = {1,    1e-1, 1e-2,  1e-3,  1e-4,  1e-5,  1e-6,  1e-7,
                                 1e-8, 1e-9, 1e-10, 1e-11, 1e-12, 1e-13, 1e-14, 1e-15};

/// NISTIR 6556, section 3.3.2: it begins its line, and is a whole number of up to five digits.
void check_line_number(double v, const Block& block) {
  if (!block.empty) throw Refusal{"a line number that does not begin its line", "Put it first, or leave it out"};
  if (!(v >= 0 && v <= 99999) || v != std::floor(v))
    throw Refusal{fmt::format("{} is no line number", v), "Number lines from 0 to 99999, or not at all"};
}

std::string printable(char c) {
  return c >= 32 && c < 127 ? fmt::format("'{}' is not understood", c)
                            : fmt::format("byte {} is not understood", static_cast<unsigned char>(c));
}
int whole_tenths(double v, char letter) {
  if (!(v >= 0 && v < 1000) || std::abs(v * 10 - std::round(v * 10)) > 1e-9)
    throw Refusal{worded("{}{} is not known here", letter, v), "Leave it out, or have the program written again"};
  return static_cast<int>(std::lround(v * 10));
}

}  // namespace

Refusal unknown_word(char letter, int tenths) {
  return {tenths % 10 == 0 ? worded("{}{} is not known here", letter, tenths / 10)
                           : worded("{}{}.{} is not known here", letter, tenths / 10, tenths % 10),
          "Leave it out, or have the program written without it"};
}

const char* read_word(const char* p, const char* end, Block& block) {
  char letter = *p++;
  if (letter >= 'a' && letter <= 'z') letter = static_cast<char>(letter - 32);
  if (letter < 'A' || letter > 'Z') throw Refusal{printable(letter), "Only plain RS-274 words are read"};
  while (p < end && (*p == ' ' || *p == '\t')) ++p;
  bool minus = false;
  if (p < end && (*p == '-' || *p == '+')) minus = *p++ == '-';
  std::int64_t mantissa = 0;
  int count = 0;
  int places = 0;
  bool point = false;
  for (; p < end; ++p) {
    const auto d = static_cast<unsigned char>(*p - '0');
    if (d < 10) {
      if (count < 18) {
        mantissa = mantissa * 10 + d;
        places += point ? 1 : 0;
      } else if (!point) {
        throw Refusal{fmt::format("the number after {} is too long", letter), "The line may be damaged"};
      }
      ++count;
    } else if (*p == '.' && !point) {
      point = true;
    } else {
      break;
    }
  }
  if (count == 0) throw Refusal{fmt::format("no number after {}", letter), "The line may be damaged"};
  double v = static_cast<double>(mantissa);
  // Dividing by an exact power of ten keeps the last bit right; the products are only for long fractions.
  static constexpr double power[] = {1,   1e1, 1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                     1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15};
  v = places < 16 ? v / power[places] : v * negative_power[15] * negative_power[places - 15];
  if (minus) v = -v;
  if (letter == 'N') check_line_number(v, block);
  block.empty = false;
  if (letter == 'G') {
    if (block.g_count == 16) throw Refusal{"too many G words in one line", ""};
    block.g[block.g_count++] = whole_tenths(v, 'G');
  } else if (letter == 'M') {
    if (block.m_count == 8) throw Refusal{"too many M words in one line", ""};
    block.m[block.m_count++] = whole_tenths(v, 'M');
  } else {
    const std::uint32_t bit = 1U << (letter - 'A');
    if ((block.given & bit) != 0) throw Refusal{worded("{} stands twice in one line", letter), ""};
    block.given |= bit;
    block.value[letter - 'A'] = v;
  }
  return p;
}

void check_comment(std::string_view body) {
  for (const char c : body) {
    if ((static_cast<unsigned char>(c) < 32 && c != '\t') || c == 127)
      throw Refusal{fmt::format("byte {} in a comment", static_cast<unsigned char>(c)), "The line may be damaged"};
    // Fed line by line, some controllers hold at the one and go on at the other, wherever they stand.
    if (c == '!' || c == '~')
      throw Refusal{fmt::format("'{}' in a comment: some controllers hold or go on at it at once", c), "Leave it out"};
    // Those same ones take bytes beyond ASCII for orders to stop or to go faster. Programs are written in the seven
    // bits of ISO 646 (ISO 6983-1).
    if (static_cast<unsigned char>(c) > 127)
      throw Refusal{fmt::format("byte {} in a comment: beyond ASCII some controllers take it for an order",
                                static_cast<unsigned char>(c)),
                    "Write comments in plain letters"};
  }
}

void check_used(const Block& b, int mode, bool dwell) {
  const auto says = [&](int g) { return std::find(b.g, b.g + b.g_count, g) != b.g + b.g_count; };
  const bool machine = says(530);
  const bool arc = !dwell && !machine && (mode == 2 || mode == 3);
  const bool cycle = !dwell && !machine && (mode == 73 || (mode >= 81 && mode <= 83));
  const auto only = [&](char c, bool used) {
    if (b.has(c) && !used)
      throw Refusal{worded("nothing in this line uses the word {}", std::string(1, c)),
                    "Leave it out, or have the program written without it"};
  };
  for (const char c : {'I', 'J', 'K'}) only(c, arc);
  only('R', arc || cycle);
  only('L', cycle);
  only('P', dwell || arc || (cycle && mode == 82) || says(640));
  only('Q', (cycle && (mode == 73 || mode == 83)) || says(640));
  only('H', says(430));
}

void check_groups(const Block& b) {
  const auto said = [&](std::initializer_list<int> group) {
    return std::count_if(b.m, b.m + b.m_count,
                         [&](int m) { return std::find(group.begin(), group.end(), m / 10) != group.end(); });
  };
  if (said({0, 1, 2, 30}) > 1 || said({3, 4, 5}) > 1 || said({6}) > 1 || said({7, 9}) > 1 || said({8, 9}) > 1)
    throw Refusal{"two words of one modal group in one line", "Put them in separate lines"};
}

}  // namespace wren

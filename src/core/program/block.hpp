// One line of a program: its words, and what a line may hold whatever was said before it. After NISTIR 6556, sections
// 3.3 to 3.5.
#pragma once

#include <cstdint>
#include <string_view>

#include "core/words/words.hpp"

namespace wren {

/// Why a program is not read on; thrown within the reader, which knows the line.
struct Refusal {
  Words what;
  Words todo;  // for who wrote it
};

/// Words of one line. G codes are kept times ten, so that 91.1 is 911.
struct Block {
  double value[26];
  std::uint32_t given = 0;  // bit per letter, G and M apart
  int g[16];
  int g_count = 0;
  int m[8];
  int m_count = 0;
  bool empty = true;
  [[nodiscard]] bool has(char c) const { return (given >> (c - 'A') & 1U) != 0; }
  [[nodiscard]] double of(char c) const { return value[c - 'A']; }
};

/// Reads the word at `p` (a letter and its number, spaces between them allowed) into the block; returns where it ends.
/// Throws Refusal for what is no word, and for a letter that the line has already.
const char* read_word(const char* p, const char* end, Block& block);

/// Throws Refusal where a comment holds signs that a terminal or a controller may act on.
void check_comment(std::string_view body);

[[nodiscard]] Refusal unknown_word(char letter, int tenths);

/// Throws Refusal for a word that nothing in its line uses, which stops a controller in the middle of a cut; section
/// 3.5 and its list of errors. `mode`: the motion's G word in force, tenths left out.
void check_used(const Block& block, int mode, bool dwell);

/// Throws Refusal for M words of one modal group: of these a controller takes the first, the next the last, a third
/// none; section 3.4.
void check_groups(const Block& block);

}  // namespace wren

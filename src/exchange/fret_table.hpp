// The fret job list as text for people and as CSV (RFC 4180) for other programs. mm.
#pragma once

#include <string>

#include "core/instrument/fretboard.hpp"

namespace wren {

[[nodiscard]] std::string fret_table_csv(const Fretboard& board);
[[nodiscard]] std::string fret_table_text(const Fretboard& board);

}  // namespace wren

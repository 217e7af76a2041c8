// Restarting: the lines at which a program may be begun again after a stop, and the text that does it. Such a line is a
// rapid across at the program's own height above everything, so that what stands before it has left the cutter in the
// air. Read from the text, not from how it was written. Frame: work.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "core/report/problem.hpp"

namespace wren {

/// Line numbers from 1, ascending; the first that cuts is always among them. Empty where the text cannot be read or
/// needs a home before it starts (a controller without G53).
[[nodiscard]] std::vector<std::uint32_t> restart_lines(std::string_view text);

/// The program's own beginning (words, retract, cutter, spindle), a way in above everything to where the tip stood
/// before `line`, and the rest from there; closed with a count and checksum of its own. Refused where `line` is none of
/// restart_lines().
[[nodiscard]] Expected<std::string> restart_text(std::string_view text, std::uint32_t line);

/// Lines that the way in puts before line `line` of the program, minus those it leaves out: line n of the restart text
/// is line n + shift of the program, from `line` on.
struct RestartShift {
  std::uint32_t way_in = 0;  // lines of the restart text before the program's own line
  long shift = 0;
};
[[nodiscard]] Expected<RestartShift> restart_shift(std::string_view text, std::uint32_t line);

}  // namespace wren

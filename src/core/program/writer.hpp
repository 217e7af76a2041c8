// RS-274 program text from a toolpath. Frame: work. mm in, mm or inch out.
//
// The text: a header of comments (part, blank, cutter, zero, date), one line that states every modal group, the moves
// with modal words left out where unchanged, M5 and M30, and a last line "(end: N lines, crc32 HHHHHHHH)". N counts
// every line with the last one; the CRC-32 (zlib's polynomial) covers all bytes before the last line. Coordinates are
// whole micrometres up to the text.
#pragma once

#include <string>
#include <vector>

#include "core/motion/toolpath.hpp"
#include "core/units/length.hpp"

namespace wren {

struct ProgramStyle {
  UnitSystem units = UnitSystem::millimetre;
  bool arcs = true;  // false: arcs as chords within 0.002 mm
  double chord = 0.002;
};

/// What the header says; every text is made safe for a comment (brackets and control characters go).
struct ProgramHeader {
  std::string part;
  std::string project;
  std::string blank;
  std::string zero;
  std::string date;  // passed in, e.g. "2026-11-24"
};

/// One or more toolpaths as one text: with more than one, the spindle stops between them for a change of cutter (M6,
/// and M0 where cutters are changed by hand).
[[nodiscard]] std::string write_program(const std::vector<const Toolpath*>& paths, const ProgramHeader& header,
                                        const Rack& rack, const ProgramStyle& style, CutterChange change);

/// The moves alone, appended to `text`: the part whose speed matters.
void write_moves(std::string& text, const Toolpath& path, const ProgramStyle& style);

[[nodiscard]] std::string comment_safe(std::string_view text);

}  // namespace wren

// RS-274 program text from a toolpath. Frame: work. mm in, mm or inch out.
//
// The text: a header of comments (part, blank, zero, where z is probed, date, cutters), one line that states every
// modal group, a retract in machine coordinates before anything else moves (again after every stop and change of
// cutter, since a hand may have moved the machine), the spindle with its time to come up, over the start and down, the
// moves with modal words left out where unchanged, a retract, M5, the parking place, M30, and a last line "(end: N
// lines, crc32 HHHHHHHH)". N counts every line with the last one; the CRC-32 (zlib's polynomial) covers all bytes
// before the last line. Coordinates are whole micrometres up to the text.
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
  std::string probe;     // what is probed, where, and what z is then
  std::string date;      // passed in, e.g. "2026-11-24"
  std::string notice{};  // what stands first of all: "NOT PROVED: …"
};

/// One or more toolpaths as one text. At every stop and change of cutter the machine retracts, the spindle stands
/// still, and it parks where a hand has room; with a magazine the tool's length is called instead (G43). Words that the
/// machine's controller does not know are left out; without G53 a stop asks to home it first.
[[nodiscard]] std::string write_program(const std::vector<const Toolpath*>& paths, const ProgramHeader& header,
                                        const Rack& rack, const ProgramStyle& style, const Machine& machine);

/// What the header tells a hand of the placement (part and side, blank, zero, where z is probed), comment by comment.
[[nodiscard]] std::vector<std::string> header_words(const ProgramHeader& header);
/// What it tells of a cutter; behind it the header says what for.
[[nodiscard]] std::string cutter_words(const Cutter& cutter);
/// What a stop asks for where a hand changes to this cutter.
[[nodiscard]] std::string change_words(const Cutter& cutter);

/// What is asked for at the beginning and at every stop where the controller does not know G53.
constexpr const char* home_words = "home the machine first: z at its top";

/// The moves alone, appended to `text`: the part whose speed matters.
void write_moves(std::string& text, const Toolpath& path, const ProgramStyle& style);

}  // namespace wren

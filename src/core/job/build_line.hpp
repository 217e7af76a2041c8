// A line of the build sheet, and the lines a part brings.
#pragma once

#include <string>
#include <vector>

#include "core/words/words.hpp"

namespace wren {

enum class LineState { heading, question, ready, written, proved, cut, measured };
[[nodiscard]] const char* line_state_name(LineState state);

/// The picture a line turns to.
enum class Look { plan, side, solid, bed, rehearsal, surface, bench, rack, machine, runs };

struct BuildLine {
  std::string id;  // "fretboard.strings", "neck.cut.back.finish", …: its part, a dot, its own name
  Words title;
  LineState state = LineState::ready;
  std::vector<std::string> keys{};  // ledger keys (or prefixes ending in '.') that belong to it, in order
  Look look = Look::plan;
  Words note{};        // why it is a question, or what was written where
  double seconds = 0;  // 0: has no time of its own
  std::string cutter{};
  std::string side{};      // of a cut's line: the placement it belongs to
  bool next = false;       // what to do next
  bool waits = false;      // for a measure of another part
  std::string waits_on{};  // the line where that measure is entered
  Words hint{};            // what to do here, where nothing else is to be said
  bool older = false;      // it was cut, or written, from other numbers than those of now: the note says which
  std::string section{};   // the folding part of the sheet it stands in: a part's id, or one of the sections below
  /// Done by a hand and said to be done, like a cut: gluing, pressing frets, drilling by a guide.
  bool by_hand = false;
  std::vector<std::string> after{};  // lines that come before it; what a part is not made of is left out
  std::string held_up_by{};          // the first of them that is not done yet
  int paced_by = 0;                  // runs that its seconds rest on; 0: they are the plan's
};

/// Sections of the build sheet that are no part of their own.
namespace section {
inline constexpr const char* instrument = "instrument";
inline constexpr const char* small_parts = "small-parts";
inline constexpr const char* assembly = "assembly";
inline constexpr const char* shop = "shop";
}  // namespace section

/// A heading between lines.
[[nodiscard]] inline BuildLine heading(Words title) { return {"", std::move(title), LineState::heading}; }

/// What a part brings to the build sheet: before its cuts, after its programs and papers (to be measured), to the whole
/// instrument's numbers, and to putting it together.
struct PartLines {
  std::vector<BuildLine> before;
  std::vector<BuildLine> after{};
  std::vector<BuildLine> instrument{};
  std::vector<BuildLine> assembly{};
};

}  // namespace wren

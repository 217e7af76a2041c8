// The build sheet: the whole job from numbers to a finished board as one ordered list, each line with its state, its
// time and its cutter, and the one to do next. The order is the checklist.
#pragma once

#include <string>
#include <vector>

#include "core/job/board_programs.hpp"
#include "core/job/body_cuts.hpp"
#include "core/job/ledger.hpp"

namespace wren {

enum class LineState { heading, question, ready, written, proved, cut, measured };
[[nodiscard]] const char* line_state_name(LineState state);

struct BuildLine {
  std::string id;  // "strings", "cut.slots", "rehearsal", …
  std::string title;
  LineState state = LineState::ready;
  double seconds = 0;  // 0: has no time of its own
  std::string cutter;
  std::string note;               // why it is a question, or what was written where
  std::vector<std::string> keys;  // ledger keys (or prefixes ending in '.') that belong to it, in order
  bool next = false;              // what to do next
  bool waits = false;             // for a measure of another part
};

/// `cuts` may be null while they are planned.
[[nodiscard]] std::vector<BuildLine> build_sheet(const Project& project, const BoardDesign* design,
                                                 const BoardCuts* cuts, const NeckDesign* neck = nullptr,
                                                 const NeckCuts* neck_cuts = nullptr, const BodyDesign* body = nullptr,
                                                 const BodyCuts* body_cuts = nullptr);

/// The body's lines, from its outline to its papers, appended to the sheet.
struct PartState {
  bool written = false;
  bool proved = false;
};
/// The set-up's own line, which waits for the measured neck whether a body follows or not.
void add_pocket_line(const Project& project, const NeckDesign& neck, std::vector<BuildLine>& sheet);
[[nodiscard]] PartState add_body_lines(const Project& project, const NeckDesign& neck, const BodyDesign& body,
                                       const BodyCuts* cuts, std::vector<BuildLine>& sheet);

/// The part a line of the build sheet belongs to.
[[nodiscard]] Part part_of_line(const std::string& id);

/// The ledger lines that belong to a line of the build sheet, in its order.
[[nodiscard]] std::vector<LedgerLine> lines_of(const BuildLine& line, const std::vector<LedgerLine>& ledger);

/// The build sheet line that a ledger key belongs to; empty where none.
[[nodiscard]] std::string line_for_key(const std::vector<BuildLine>& sheet, const std::string& key);

}  // namespace wren

// Remark: one sentence of judgement about the work, with its number, its limit and where that limit comes from,
// the place it is about, and where possible the repair the program offers. A repair is a list of ledger edits, so that
// the window, the command line and a test all take it in the same way.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/words/words.hpp"

namespace wren {

enum class Weight { stop, think_again, worth_knowing, caution };

struct Repair {
  Words label;                                             // "Lengthen the board to 496 mm"
  std::vector<std::pair<std::string, std::string>> edits;  // ledger key, field text
};

struct Remark {
  std::string kind;  // stable name, e.g. "board.overhang_short"
  Weight weight = Weight::think_again;
  Words sentence;     // complete, with the number and the limit in it
  double number = 0;  // the offending number, in `unit`
  double limit = 0;
  std::string unit;                             // "mm", "mm/min", "" for a count
  Words source;                                 // "common practice", "the machine's data", a book
  std::string place;                            // ledger key the remark is about
  std::optional<std::pair<double, double>> at;  // instrument frame x, y in mm: where to look in the picture
  std::optional<Repair> repair;
  std::vector<Repair> others{};  // further ways out, each with what it costs in its label
};

[[nodiscard]] const char* weight_name(Weight weight);  // "stop", "think again", ...

/// True where any remark says that the work must not go on.
[[nodiscard]] bool stops_work(const std::vector<Remark>& remarks);

}  // namespace wren

// What a part's run sheet says, without how it is drawn: one placement on the machine after another, enough for
// somebody who has never seen the program to make the part. The same for every part; in words for one audience.
#pragma once

#include "core/job/prove.hpp"

namespace wren {

struct RunStep {
  std::string title;  // "1  Fret slots"
  std::string file;
  std::string cutter;               // "T1  slot-0.58, 0.58 mm, cutting length 2.5 mm, stick out 15 mm"
  std::string time;                 // "54.6 min"
  std::string speeds;               // "20000 1/min, 438 mm/min"
  std::vector<std::string> before;  // to do before it starts
  std::vector<std::string> check;   // what to check after it
  std::vector<std::string> caution;
};

struct RunSide {
  std::string id;
  std::string title;
  std::vector<std::string> alignment;  // numbered sentences with the exact jog distances
  std::vector<RunStep> steps;
  std::vector<std::string> after;  // before the next placement: glue, saw, mask
};

struct RunSheet {
  std::string title;
  std::string date;
  std::vector<std::pair<std::string, std::string>> facts;  // label, value
  std::vector<std::string> set_up;
  std::vector<std::string> by_hand;
  std::vector<RunSide> sides;
  std::vector<std::string> cautions;
  std::vector<std::string> boxes;  // labels of boxes to fill in by hand
};

/// "48 s", "3 min 05 s".
[[nodiscard]] std::string path_seconds_text(double seconds);

/// `proof`: of these programs; nullptr where they have not been proved, which the sheet says.
[[nodiscard]] RunSheet run_sheet(const PartKind& kind, const Followed& followed, Cache& cache, const Planned& planned,
                                 const std::string& date, const Audience& audience, const PartProof* proof = nullptr);

}  // namespace wren

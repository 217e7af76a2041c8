// Hand steps: a part's work as somebody beside the machine does it, one program after another, with what stands on the
// run sheet about each. What the step view shows.
#pragma once

#include "core/job/run_sheet.hpp"

namespace wren {

struct HandStep {
  std::vector<std::string> lines;  // of the build sheet: the cuts that this program makes, in its order
  std::string side;                // id of the placement
  std::string placement;           // its title
  std::string title;               // "Fret slots"
  std::string file;
  int tool = 0;          // T number; 0: the rack has none
  std::string cutter;    // "flat-6.35"
  std::string stickout;  // with unit
  std::string collet;
  std::string speeds;  // "20000 1/min, 438 mm/min"
  double seconds = 0;
  std::vector<std::string> place;  // how the wood is laid and zero is found; on the first step of a placement only
  std::vector<std::string> before, check, caution;
  std::vector<std::string> after;  // of the placement's last step: before the wood is moved
  bool cut = false;                // all of its cuts are said to be made of these numbers
};

/// Every program of the part in running order. `sheet` says what was cut.
[[nodiscard]] std::vector<HandStep> hand_steps(const PartKind& kind, const Followed& followed, Cache& cache,
                                               const Planned& planned, const std::vector<BuildLine>& sheet,
                                               const std::string& date, const Audience& audience,
                                               const PartProof* proof = nullptr);

}  // namespace wren

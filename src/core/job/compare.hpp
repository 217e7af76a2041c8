// Two ways of making a part, side by side: what each costs in set-ups, changes of cutter, minutes and reach.
#pragma once

#include "core/job/follow.hpp"

namespace wren {

struct WayCost {
  double seconds = 0;
  std::size_t set_ups = 0;
  std::size_t programs = 0;
  std::size_t changes = 0;  // of the cutter, the first one of each set-up included
  double deepest = 0;       // mm under its blank's top that a cut goes, at most
  std::string deepest_cut;
  std::size_t stops = 0;  // remarks that stop the work
};
[[nodiscard]] WayCost cost_of(const Planned& planned, const std::vector<Remark>& remarks);

/// A cut that only one of them has, or that takes another time there.
struct CutDifference {
  std::string set_up;
  std::string cut;
  double seconds[2]{};  // 0: not there
  double depth[2]{};    // mm under the blank's top
};
/// In running order, those of the first way first; times that differ by less than a second are the same.
[[nodiscard]] std::vector<CutDifference> differences(const Planned& a, const Planned& b);

}  // namespace wren

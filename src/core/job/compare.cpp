#include "core/job/compare.hpp"

#include <algorithm>
#include <cmath>

namespace wren {

WayCost cost_of(const Planned& planned, const std::vector<Remark>& remarks) {
  WayCost out;
  out.seconds = planned.cuts.seconds;
  for (const Placement& side : planned.cuts.sides) {
    if (side.paths.empty()) continue;
    ++out.set_ups;
    out.programs += side.paths.size();
    std::string last;
    for (const CutFacts& f : side.facts) {
      if (f.cutter != last) ++out.changes;
      last = f.cutter;
      if (-f.deepest <= out.deepest) continue;
      out.deepest = -f.deepest;
      out.deepest_cut = f.title;
    }
  }
  out.stops = static_cast<std::size_t>(
      std::count_if(remarks.begin(), remarks.end(), [](const Remark& r) { return r.weight == Weight::stop; }));
  return out;
}

std::vector<CutDifference> differences(const Planned& a, const Planned& b) {
  std::vector<CutDifference> out;
  const Planned* both[] = {&a, &b};
  for (std::size_t way = 0; way < 2; ++way)
    for (const Placement& side : both[way]->cuts.sides)
      for (const CutFacts& f : side.facts) {
        const auto same = std::find_if(out.begin(), out.end(), [&](const CutDifference& d) {
          return d.set_up == side.title && d.cut == f.title && d.seconds[way] == 0;
        });
        CutDifference& d = same != out.end() ? *same : out.emplace_back(CutDifference{side.title, f.title, {}, {}});
        d.seconds[way] = f.seconds;
        d.depth[way] = -f.deepest;
      }
  std::erase_if(out, [](const CutDifference& d) {
    return d.seconds[0] > 0 && d.seconds[1] > 0 && std::abs(d.seconds[0] - d.seconds[1]) < 1 &&
           std::abs(d.depth[0] - d.depth[1]) < 0.005;
  });
  return out;
}

}  // namespace wren

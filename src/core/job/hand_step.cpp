#include "core/job/hand_step.hpp"

#include <algorithm>
#include <cmath>

namespace wren {

std::vector<HandStep> hand_steps(const PartKind& kind, const Followed& followed, Cache& cache, const Planned& planned,
                                 const std::vector<BuildLine>& sheet, const std::string& date, const Audience& audience,
                                 const PartProof* proof) {
  const RunSheet run = run_sheet(kind, followed, cache, planned, date, audience, proof);
  const auto is_cut = [&](const std::string& line) {
    const auto it = std::find_if(sheet.begin(), sheet.end(), [&](const BuildLine& l) { return l.id == line; });
    return it != sheet.end() && it->state == LineState::cut && !it->older;
  };
  std::vector<HandStep> out;
  for (const RunSide& side : run.sides) {
    const Placement* placement = planned.cuts.side(side.id);
    if (placement == nullptr) continue;
    for (std::size_t i = 0; i < side.steps.size() && i < placement->paths.size(); ++i) {
      const RunStep& step = side.steps[i];
      const Toolpath& path = placement->paths[i];
      HandStep s;
      for (const std::string& cut : path.cuts) s.lines.push_back(kind.id() + ".cut." + side.id + "." + cut);
      s.side = side.id;
      s.placement = side.title;
      // "1  Fret slots": the number is the sheet's own.
      const std::size_t words = step.title.find("  ");
      s.title = words == std::string::npos ? step.title : step.title.substr(words + 2);
      s.file = step.file;
      s.speeds = step.speeds;
      s.seconds = placement->path_seconds[i];
      s.before = step.before;
      s.check = step.check;
      s.caution = step.caution;
      s.cutter = path.cutter;
      if (const Cutter* c = find_cutter(planned.rack, path.cutter)) {
        s.tool = c->number;
        s.stickout = exact_mm(c->stickout).in(audience);
        s.collet = exact_mm(c->collet_in_use()).in(audience);
      }
      if (i == 0)
        s.place = side.alignment;
      else if (!side.alignment.empty())
        s.place = {side.alignment.back()};  // where z is probed holds for every program
      if (i + 1 == side.steps.size()) s.after = side.after;
      s.cut = !s.lines.empty() && std::all_of(s.lines.begin(), s.lines.end(), is_cut);
      out.push_back(std::move(s));
    }
  }
  return out;
}

}  // namespace wren

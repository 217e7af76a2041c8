#include "core/job/pace.hpp"

namespace wren {

std::optional<Pace> pace_of(const std::vector<Pace>& paces, const std::string& cutter, const std::string& cut) {
  Pace all{cutter, cut};
  for (const Pace& p : paces) {
    const std::string listed = ", " + p.cuts + ", ";
    if (p.cutter != cutter || listed.find(", " + cut + ", ") == std::string::npos) continue;
    all.runs += p.runs;
    all.planned_seconds += p.planned_seconds;
    all.real_seconds += p.real_seconds;
  }
  if (all.runs == 0 || !(all.planned_seconds > 0) || !(all.real_seconds > 0)) return {};
  return all;
}

void by_pace(std::vector<BuildLine>& lines, const std::vector<Pace>& paces) {
  for (BuildLine& l : lines) {
    if (l.seconds <= 0 || l.cutter.empty()) continue;
    const auto pace = pace_of(paces, l.cutter, l.id.substr(l.id.rfind('.') + 1));
    if (!pace) continue;
    l.seconds *= pace->ratio();
    l.paced_by = pace->runs;
  }
}

}  // namespace wren

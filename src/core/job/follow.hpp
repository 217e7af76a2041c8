// Follow: from a project to every part's design, doing again only what depends on what was changed; and from a design
// to its pieces and cuts. Everything here is a value with the numbers it was made from.
#pragma once

#include "core/job/part.hpp"

namespace wren {

struct Followed {
  Project project;  // what it was made from
  Designs designs;
  std::map<std::string, Problem> problems;  // by part: why no design follows; the place is a ledger key
  std::vector<std::string> changed;         // parts whose design was made anew, or is gone
  [[nodiscard]] PartInput input(Cache& cache) const { return {project, designs, cache}; }
};

/// All designs in the order of their needs. A part whose own numbers, needs, measures and shop are those of `before`
/// keeps its design.
[[nodiscard]] Followed follow(const Parts& parts, Project project, Cache& cache, const Followed* before = nullptr);

/// True where a part's design, cuts and programs would be the same for both projects.
[[nodiscard]] bool same_numbers(const Parts& parts, const PartKind& kind, const Project& a, const Project& b);

/// A short name for the numbers a part is cut from: changes when any of them changes, and not with those of a part that
/// it does not depend on. Hex.
[[nodiscard]] std::string fingerprint(const Parts& parts, const PartKind& kind, const Project& project);

/// A part's pieces with all their cuts.
struct Planned {
  std::string part;
  Pieces made;
  PartCuts cuts;
  Rack rack;
};
/// Refused where no design follows from the numbers, or with ProblemKind::stopped; never half a plan.
[[nodiscard]] Expected<Planned> plan(const PartKind& kind, const Followed& followed, Cache& cache,
                                     Progress* progress = nullptr);

/// Everything there is to think about a part, the gravest first; `planned` may be null.
[[nodiscard]] std::vector<Remark> remarks_of(const PartKind& kind, const Followed& followed, const Planned* planned);

/// Every number: given and measured, then what each part works out, then the numbers of the cuts that are planned.
[[nodiscard]] std::vector<LedgerLine> ledger(const Parts& parts, const Followed& followed, Cache& cache,
                                             const std::vector<const Planned*>& planned);

/// Adds or renews the record that something was written, proved or cut; its kind begins with its part's id and a dot.
void remember(const Parts& parts, Project& project, const std::string& kind, const std::string& date,
              const std::string& path);
/// The last record of a kind, nullptr where there is none, and whether the numbers are still those.
struct Remembered {
  const WrittenRecord* record = nullptr;
  bool current = false;
};
[[nodiscard]] Remembered remembered(const Project& project, const std::string& kind, const std::string& fingerprint);

/// Cautions for people's safety that every sheet carries, brief. The operator decides; local rules hold.
[[nodiscard]] std::vector<std::string> general_cautions(const std::vector<std::string>& woods);

}  // namespace wren

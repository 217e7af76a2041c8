// Follow: from a project to every part's design, doing again only what depends on what was changed; and from a design
// to its pieces and cuts. Everything here is a value with the numbers it was made from.
#pragma once

#include "core/job/part.hpp"

namespace wren {

struct Followed {
  Project project;  // what it was made from
  Designs designs;
  std::map<std::string, Problem> problems;          // by part: why no design follows; the place is a ledger key
  std::vector<std::string> changed;                 // parts whose design was made anew, or is gone
  std::map<std::string, std::string> fingerprints;  // by part: of the numbers it is cut from
  [[nodiscard]] PartInput input(Cache& cache) const { return {project, designs, cache}; }
};

using DesignMade = std::function<void(const std::string& part, const std::shared_ptr<const Design>& design)>;

/// All designs in the order of their needs. A part whose own numbers, needs, measures and shop are those of `before`
/// keeps its design. `made` is told of each design that was made anew, as soon as it is there.
[[nodiscard]] Followed follow(const Parts& parts, Project project, Cache& cache, const Followed* before = nullptr,
                              const DesignMade& made = {});

/// True where a part's design and cuts would be the same for both projects: names and notes are cut nowhere.
[[nodiscard]] bool same_numbers(const Parts& parts, const PartKind& kind, const Project& a, const Project& b);

/// A short name for the numbers a part is cut from: changes when any of them changes, and not with those of a part that
/// it does not depend on. Hex.
[[nodiscard]] std::string fingerprint(const Parts& parts, const PartKind& kind, const Project& project);

/// A part's pieces with all their cuts.
struct Planned {
  std::string part;
  std::string fingerprint;  // of the numbers it was planned from
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

/// Adds the fact that something happened to a part, which `what` begins with ("neck.cut.back.finish"), with the numbers
/// as they are now.
void note_fact(const Parts& parts, Project& project, const std::string& what, const std::string& date);
/// Takes a fact back that was noted of the same numbers and the blank at hand: a slip of the hand.
void take_fact_back(Record& record, const std::string& what, const std::string& fingerprint);
/// The last fact of a kind that is of the blank at hand, nullptr where there is none, and whether the numbers are still
/// those.
struct Happened {
  const Fact* fact = nullptr;
  bool current = false;
};
[[nodiscard]] Happened happened(const Record& record, const std::string& what, const std::string& fingerprint);

/// What comes of "spoiled: new blank": titles of pieces, and of other parts, that must be made again, and the measures
/// that no longer stand in for the designed numbers.
struct NewBlank {
  std::vector<std::string> again;
  std::vector<std::string> measures;
};
/// A piece begins again from a new blank: what was cut of it, and of what is made from it or it is glued of, counts no
/// more, and its measured values stand in for nothing. Nothing is taken out of the record. Refused where there is no
/// such piece, or nothing was cut or measured of it.
[[nodiscard]] Expected<NewBlank> begin_anew(const Parts& parts, Project& project, const Planned& planned,
                                            const std::string& piece, const std::string& date);

/// What has changed since a fingerprint's numbers: "Scale 635 mm (now 640 mm)", at most `most` of them and how many
/// more; empty where the numbers of then are not known.
[[nodiscard]] Words changed_since(const Parts& parts, const PartKind& kind, const Project& project,
                                  const std::string& fingerprint, std::size_t most = 2);

/// Cautions for people's safety that every sheet carries, brief. The operator decides; local rules hold.
[[nodiscard]] std::vector<std::string> general_cautions(const Materials& materials);

}  // namespace wren

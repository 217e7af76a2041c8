// Where the cuts of a side work, and at which of them a program does, whatever it says: by its moves alone.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/job/make_cuts.hpp"
#include "core/program/reader.hpp"

namespace wren {

/// The ways that the cuts of one side were planned to go, as cells of the plan. At most 64 cuts; of more the first.
class CutPlaces {
 public:
  /// `placement` has to outlive it.
  explicit CutPlaces(const Placement& placement);
  /// Cuts at whose places the motions from `first` to before `end` work down in the wood, more than half as deep as
  /// those, for a centimetre or more of way; places that one of `own` shares are that one's. In the side's order.
  [[nodiscard]] std::vector<std::string> also(const std::vector<std::string>& own, const ReadProgram& read,
                                              std::size_t first, std::size_t end) const;

  /// By cut of `ids`, the first motion at a place of that one's alone.
  [[nodiscard]] std::vector<std::optional<std::size_t>> first(const std::vector<std::string>& ids,
                                                              const ReadProgram& read) const;

 private:
  using Cuts = std::uint64_t;
  [[nodiscard]] Cuts of(const std::vector<std::string>& ids) const;
  [[nodiscard]] Cuts at(Vec2 p) const;
  void mark(Vec3 a, Vec3 b, Cuts cut);
  /// Where the motions of a program work down in the wood: the motion, its place, the way to it, the cuts there.
  template <class At>
  void work(const ReadProgram& read, std::size_t first, std::size_t end, const At& at) const;

  const Placement* placement_;
  Vec2 corner_;
  int columns_ = 0, rows_ = 0;
  std::vector<Cuts> cells_;
  std::vector<double> deepest_;  // by cut, work z
};

}  // namespace wren

// Operations become cuts: feeds, strategies, paths, times and the judgement of reach and clamps, in one way for every
// part. No half result leaves after a stop.
#pragma once

#include <optional>

#include "core/job/piece.hpp"
#include "core/motion/path_time.hpp"
#include "core/report/progress.hpp"

namespace wren {

struct CutFacts {
  std::string id;
  Words title;
  std::string cutter;
  double seconds = 0;
  double rpm = 0;
  double feed = 0;
  double deepest = 0;  // work frame z of the lowest tip
  Words feed_reason;
  double length = 0;  // mm of cutting
};

/// One side's cuts. Strands stand in its side frame, paths in its work frame, one for each program in running order.
struct Placement {
  std::string id;
  Words title;
  Setup setup;
  std::vector<Cut> cuts;
  std::vector<Toolpath> paths;
  std::vector<CutFacts> facts;
  std::vector<double> path_seconds;
  double seconds = 0;
};

struct PartCuts {
  std::vector<Placement> sides;  // in the order they are run
  std::vector<Remark> remarks;   // a cut that cannot be planned, a cutter too short, a clamp in the way
  double seconds = 0;
  [[nodiscard]] const Placement* side(const std::string& id) const;
};

/// What a shop has to cut with.
struct CutWith {
  const Machine& machine;
  const Rack& rack;      // in use: measured diameters taken over
  double safe = 10;      // above the blank and every clamp
  std::string part;      // id: remarks are named after it
  double digit = 0.001;  // mm: the last that programs tell of a place
};

/// Cuts of one operation: a cavity may take up to three. Remarks say what could not be planned. `roughed` is the wood
/// that the last roughing left on this side: an operation that roughs sets it, one that finishes goes down into it.
[[nodiscard]] std::vector<Cut> cuts_of(const Operation& operation, const Side& side, const CutWith& with,
                                       std::optional<TileGrid>& roughed, std::vector<Remark>& remarks);

/// ProblemKind::stopped where the stop was asked for; polled at every operation.
[[nodiscard]] Expected<PartCuts> make_cuts(const std::vector<Piece>& pieces, const CutWith& with,
                                           Progress* progress = nullptr);

}  // namespace wren

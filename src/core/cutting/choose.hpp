// Which cutter of the rack does a job: one rule for the planner and for whoever judges what it can leave.
#pragma once

#include "core/cutting/clearing.hpp"

namespace wren {

/// The widest flat cutter that goes into a region; one that reaches the depth (flutes, and nut above the wood) before a
/// wider one that does not. nullptr where none goes in.
[[nodiscard]] const Cutter* widest_that_goes(const Rack& rack, const Region& region, double depth);

/// The drill that makes a hole: the widest of the rack that is no wider (by 0.05 mm at most); nullptr where there is
/// none.
[[nodiscard]] const Cutter* drill_in_use(const Rack& rack, double diameter);

/// Another cutter of the same kind, no wider and not much thinner, that reaches; nullptr where there is none.
[[nodiscard]] const Cutter* one_that_reaches(const Rack& rack, const Cutter& like, double flutes, double stickout);

constexpr double goes_in = 0.004;  // mm a cutter may be wider than the narrowest place it is sent into
}  // namespace wren

// Where z is probed (rule M7): whether what is met there is still as it was. Work frame; mm.
#pragma once

#include "core/skin/tile_grid.hpp"
#include "core/workshop/setup.hpp"

namespace wren {

constexpr double probe_flat = 0.02;  // mm that may be missing under the probe
constexpr double probe_radius = 3;   // mm: of a probe's foot, or of a cutter with paper under it
constexpr double probe_aside = 4;    // mm from the blank's edge, on either side of it
constexpr double probe_solids = 6;   // mm beside clamps, fence and pins

struct ProbeFault {
  double gone = 0;            // mm of wood missing at the place, at most
  const char* met = nullptr;  // why it cannot be probed there at all; nullptr: it can
};

/// The set-up's probing place against the wood as it is. Precondition: the set-up has one.
[[nodiscard]] ProbeFault probe_fault(const Setup& setup, const TileGrid& stock);

/// Whether a probe can come down there at all: solids, travels, the blank's edges. nullptr: it can.
[[nodiscard]] const char* probe_blocked(const Setup& setup, const Setup::Probe& probe);

}  // namespace wren

// Linking: cuts become programs' paths. Safe heights, links that cross no clamp, few changes of cutter.
#pragma once

#include "core/cutting/strand.hpp"
#include "core/motion/toolpath.hpp"

namespace wren {

/// Heights used between strands.
struct LinkHeights {
  double safe = 10;        // long links: above everything, clamps too
  double hop = 2.1;        // short links over the blank's top, where nothing stands in the way
  double near = 2.1;       // rapid down to this far above the wood, then at plunge feed
  double short_link = 15;  // mm: longest link taken at the hop height
  double digit = 0.001;    // mm: the last that programs tell of a place; feeds are held for what they tell
};

/// Orders the cuts into programs: cuts keep their order where one needs another done before it, and cuts with the same
/// cutter that follow each other share a program. Each cut is moved to the work frame and its strands are linked. A
/// link at hop height is only taken where the collet nut passes no clamp.
[[nodiscard]] std::vector<Toolpath> link_cuts(const std::vector<Cut>& cuts, const Setup& setup, const Rack& rack,
                                              LinkHeights heights);

}  // namespace wren

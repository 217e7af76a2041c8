// Walls of cavities and holes as the proof wants them (WallDesign): from regions and circles. Side frame; mm.
#pragma once

#include "core/plan/region.hpp"
#include "core/proof/piece.hpp"

namespace wren {

/// The wall of a round hole; `floor` is where its full width ends (−1e6: it goes through).
[[nodiscard]] WallDesign round_wall(std::string name, Vec2 at, double diameter, double floor);

/// Every ring of a region; corners that turn into it may stay as round as a usual cutter.
void add_walls(std::vector<WallDesign>& walls, const std::string& name, const Region& region, const Height& floor);

}  // namespace wren

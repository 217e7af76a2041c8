// Clearance: how far the wood stands into something round that moves along a line. Frame: the grid's (work); mm.
#pragma once

#include "core/skin/tile_grid.hpp"
#include "core/workshop/setup.hpp"

namespace wren {

struct Into {
  double by = -1e300;  // greatest height of the wood over the body's underside; negative: that far clear
  Vec2 at;
};

/// A level disc of `radius` whose middle goes from a to b (its underside at their z): the worst cell under it. Cells
/// count by their middles; each is held against the lowest place of the disc over it. Stops early where nothing can
/// reach `enough`.
[[nodiscard]] Into wood_into_disc(const TileGrid& stock, Vec3 a, Vec3 b, double radius, double enough = 0);

/// Whether an upright cylinder whose foot goes from a to b comes nearer than `beside` to a box in plan while it is
/// lower than `above` over its top.
[[nodiscard]] bool meets_box(Vec3 a, Vec3 b, double radius, const Setup::Box& box, double beside, double above);

}  // namespace wren

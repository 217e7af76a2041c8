// Removal: lowers a stock grid under a cutter that moves along a straight line, with the cutter's true shape swept
// exactly (flat and ball in closed form, other shapes by search along the line). Frame: the grid's (work). mm.
#pragma once

#include "core/skin/tile_grid.hpp"
#include "core/workshop/cutter.hpp"

namespace wren {

struct Removed {
  double volume_mm3 = 0;
  double deepest = 0;  // height of the wood that was taken, over the tip: how much of the cutter was in wood
  bool any = false;
};

class Remover {
 public:
  explicit Remover(const Cutter& cutter);
  /// Sweeps the tip from a to b. Same result at any split of the line into pieces, to float rounding.
  Removed sweep(TileGrid& stock, Vec3 a, Vec3 b) const;

 private:
  Cutter cutter_;
  float radius_;
  enum class Shape { flat, ball, other } shape_;
};

}  // namespace wren

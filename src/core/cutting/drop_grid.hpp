// Cutter drop on a height grid: how low a cutter's tip can go at a place without cutting below the grid's surface.
// Blocks of the grid that cannot touch are passed over by their highest value. Frame: the grid's. mm.
#pragma once

#include "core/skin/tile_grid.hpp"
#include "core/workshop/cutter.hpp"

namespace wren {

/// A cutter prepared for many drops on grids of one cell size.
class GridDropper {
 public:
  GridDropper(const Cutter& cutter, const TileGrid& grid);

  /// Tip height at p; TileGrid::outside where no cell lies under the cutter. A maximum over cell centres is always a
  /// little low; a parabola through the winning cell and its neighbours takes that away on slopes up to 60°.
  [[nodiscard]] float drop(Vec2 p) const;

  /// Tip heights at start + k·step, k = 0 … count − 1: a row of a raster, faster than single drops.
  void drop_row(Vec2 start, Vec2 step, int count, float* tips) const;

 private:
  [[nodiscard]] float drop_from(Vec2 p, float at_least, int& bx_hint, int& by_hint) const;
  [[nodiscard]] float block_best(std::size_t b, float dx0, float dy0, float best) const;
  [[nodiscard]] float refine(Vec2 p, float best) const;

  const TileGrid& grid_;
  float radius_;
  float flat_;       // radius of the flat bottom
  float rounding_;   // radius of the rounded corner
  float slope_ = 0;  // drills: height per mm of radius
};

}  // namespace wren

// Height grids made from functions of the place, inside and outside of polygons. Rows are shared out among threads; the
// result does not depend on their number.
#pragma once

#include <cmath>

#include "core/plan/region.hpp"
#include "core/report/parallel.hpp"
#include "core/skin/tile_grid.hpp"

namespace wren {

/// Calls with(i, place, inside) for every cell of a row: inside and outside from the row's crossings with the polygon,
/// not point by point.
template <class With>
void along_row(const TileGrid& grid, int j, const Polygon& polygon, const With& with) {
  const std::vector<double> edges = crossings(polygon, {0, grid.centre(0, j).y}, {1, 0});
  std::size_t passed = 0;
  for (int i = 0; i < grid.width(); ++i) {
    const Vec2 p = grid.centre(i, j);
    while (passed < edges.size() && edges[passed] <= p.x) ++passed;
    with(i, p, passed % 2 == 1);
  }
}

/// A grid over a box, its heights from at(place, whether it lies in the polygon).
template <class At>
[[nodiscard]] TileGrid grid_over(Vec2 low, Vec2 high, double cell, const Polygon& polygon, const At& at) {
  const Vec2 size = high - low;
  TileGrid grid(low, cell, std::max(1, static_cast<int>(std::ceil(size.x / cell))),
                std::max(1, static_cast<int>(std::ceil(size.y / cell))), 0);
  for_rows(grid.height(), [&](int j) {
    along_row(grid, j, polygon, [&](int i, Vec2 p, bool inside) { grid.at(i, j) = static_cast<float>(at(p, inside)); });
  });
  grid.refresh_all();
  return grid;
}

/// New heights at(place, present height) for the cells inside a polygon.
template <class At>
void change_inside(TileGrid& grid, const Polygon& polygon, const At& at) {
  for_rows(grid.height(), [&](int j) {
    along_row(grid, j, polygon, [&](int i, Vec2 p, bool inside) {
      if (inside) grid.at(i, j) = static_cast<float>(at(p, grid.at(i, j)));
    });
  });
  grid.refresh_all();
}

/// Every cell from a function of its indices.
template <class At>
void fill_cells(TileGrid& grid, const At& at) {
  for_rows(grid.height(), [&](int j) {
    for (int i = 0; i < grid.width(); ++i) grid.at(i, j) = static_cast<float>(at(i, j));
  });
  grid.refresh_all();
}

/// Every cell from a function of its place.
template <class At>
void fill(TileGrid& grid, const At& at) {
  fill_cells(grid, [&](int i, int j) { return at(grid.centre(i, j)); });
}

}  // namespace wren

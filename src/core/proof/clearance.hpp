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

/// Height of the wood at a place; `none` beside the grid.
[[nodiscard]] double height_at(const TileGrid& stock, Vec2 p, double none = -1e300);

constexpr double pin_least_deep = 4;  // mm: a shallower hole of the waste board is room for a drill's point, no pin's
constexpr double pin_beside = 0.5;    // mm that a cutter keeps beside pins that stand in their own holes

/// The hole of the waste board that a move stays over, nullptr where it stays over none.
[[nodiscard]] const BedHole* hole_under(const Setup& setup, Vec2 a, Vec2 b);

/// Whether an upright cylinder whose foot goes from a to b comes nearer than `beside` to a box in plan while it is
/// lower than `above` over its top.
[[nodiscard]] bool meets_box(Vec3 a, Vec3 b, double radius, const Setup::Box& box, double beside, double above);

/// Where between `low` and `high` (shares of a way of `length` mm) a function that first falls and then rises is least:
/// to a hundredth of a millimetre of way.
template <class Of>
[[nodiscard]] double least_between(double low, double high, double length, const Of& of) {
  constexpr double closely = 0.01;  // mm
  while ((high - low) * length > closely) {
    const double a = low + (high - low) / 3;
    const double b = high - (high - low) / 3;
    if (of(a) <= of(b))
      high = b;
    else
      low = a;
  }
  return (low + high) / 2;
}

}  // namespace wren

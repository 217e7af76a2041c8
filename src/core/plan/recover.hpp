// Recover: what short segments were before some program chopped them up: straight edges, arcs, whole circles and smooth
// curves. Corners of the polygon lie on the curve that was chopped (as every exporter writes it), so fits go through
// corners, not middles.
//
// Circles by algebraic least squares refined on true distances (Kåsa 1976; Gauss-Newton); curves by least squares on a
// cubic with given end directions (Schneider, "An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems,
// 1990). mm.
#pragma once

#include "core/plan/path.hpp"

namespace wren {

struct RecoverOptions {
  double within = 0.02;  // mm: no corner of the polygon is further from the result
  bool edges_too =
      false;  // the polygon is a close picture of the curve: middles of its edges must lie near the result as well
  double corner_deg = 28;  // a sharper turn is a corner, not a chopped curve (a circle of 13 segments turns by 27.7°)
};

struct Circle {
  Vec2 centre;
  double radius = 0;
};
/// Least squares on true distances; nothing for fewer than three points or points in line.
[[nodiscard]] std::optional<Circle> fit_circle(const std::vector<Vec2>& points);

struct Recovered {
  Path path;
  bool closed = true;
  std::optional<Circle> circle;  // the whole path is one
  double worst = 0;              // mm: farthest corner of the polygon from the result
  int lines = 0, arcs = 0, curves = 0;
};

/// Zero-length segments are dropped. Fewer than two different points give an empty path.
[[nodiscard]] Recovered recover(const Polygon& points, bool closed, const RecoverOptions& options = {});

}  // namespace wren

// Contour: a closed outline of straight edges and circular arcs, and the exact operations on it.
// An edge runs from one vertex to the next; its bulge is tan(a quarter of the arc's angle), positive when the arc turns
// counter-clockwise, 0 for a straight edge. Counter-clockwise contours enclose their inside. Lengths in mm.
#pragma once

#include <vector>

#include "core/plan/geometry.hpp"
#include "core/report/problem.hpp"

namespace wren {

struct Vertex {
  Vec2 at;
  double bulge = 0;  // of the edge that starts here
};
using Contour = std::vector<Vertex>;
using Polygon = std::vector<Vec2>;

struct Box2 {
  Vec2 low{1e300, 1e300};
  Vec2 high{-1e300, -1e300};
  void add(Vec2 p) {
    low = {std::fmin(low.x, p.x), std::fmin(low.y, p.y)};
    high = {std::fmax(high.x, p.x), std::fmax(high.y, p.y)};
  }
  [[nodiscard]] Vec2 size() const { return high - low; }
  [[nodiscard]] Vec2 middle() const { return (low + high) * 0.5; }
};

/// Centre and signed radius (positive: counter-clockwise) of an arc edge from a to b. Precondition: bulge != 0, a != b.
struct Arc {
  Vec2 centre;
  double radius = 0;
  double start = 0;  // angle of a seen from the centre, radians
  double sweep = 0;  // signed angle to b
};
[[nodiscard]] Arc arc_of(Vec2 a, Vec2 b, double bulge);

/// Corners on the contour with chords no further than `tolerance` mm from the arcs.
[[nodiscard]] Polygon flatten(const Contour& contour, double tolerance);

[[nodiscard]] double signed_area(const Polygon& polygon);
[[nodiscard]] double perimeter(const Contour& contour);
[[nodiscard]] Box2 bounds(const Contour& contour);
[[nodiscard]] Box2 bounds(const Polygon& polygon);

/// Even-odd rule; points exactly on an edge may count either way.
[[nodiscard]] bool contains(const Polygon& polygon, Vec2 p);
[[nodiscard]] double distance_to(const Polygon& polygon, Vec2 p);

/// The part of an endless line (through p, along unit u) inside a polygon, as the lowest and highest parameter; nothing
/// when the line misses it. For a polygon that is not convex the two outermost crossings are given.
struct Span {
  double low = 0;
  double high = 0;
};
[[nodiscard]] std::optional<Span> crossing(const Polygon& polygon, Vec2 p, Vec2 u);

/// The exact path of a round cutter's centre, `distance` mm outside a counter-clockwise contour: straight edges stay
/// straight, arcs keep their middles, outward corners become arcs about the corner. Refused for an inward corner, an
/// inward arc tighter than the distance, and where the way would run into another edge.
[[nodiscard]] Expected<Contour> offset_outside(const Contour& convex, double distance);

/// Point and unit direction at a distance along the contour from its first vertex (taken round as often as needed).
struct Place {
  Vec2 at;
  Vec2 along;
};
[[nodiscard]] Place place_along(const Contour& contour, double s);

/// All crossings of an endless line (through p, along unit u) with a polygon, in order: inside between the 1st and 2nd,
/// 3rd and 4th, …
[[nodiscard]] std::vector<double> crossings(const Polygon& polygon, Vec2 p, Vec2 u);

/// Where two edges of the polygon that are not neighbours meet, or an edge has no length; nothing for a simple polygon.
/// About linear in its corners for outlines as they are drawn.
[[nodiscard]] std::optional<Vec2> first_crossing(const Polygon& polygon);
/// At least three corners and no crossing.
[[nodiscard]] bool is_simple(const Polygon& polygon);

}  // namespace wren

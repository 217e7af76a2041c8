// Regions of the plan as polygons with holes (outer rings counter-clockwise, holes clockwise, non-zero winding), and
// what the polygon clipping library does with them. Resolution 0.0001 mm; round joins within 0.002 mm. Lengths in mm.
#pragma once

#include <cstdint>

#include "core/plan/contour.hpp"

namespace wren {

using Region = std::vector<Polygon>;

/// Grown by `distance` (negative: shrunk). Holes and splits follow from the winding of the result.
[[nodiscard]] std::vector<Polygon> offset(const std::vector<Polygon>& polygons, double distance);
/// Union; outer rings counter-clockwise whatever way the polygons run.
[[nodiscard]] std::vector<Polygon> united(const std::vector<Polygon>& polygons);

[[nodiscard]] Region intersected(const Region& a, const Region& b);
[[nodiscard]] Region subtracted(const Region& a, const Region& b);
[[nodiscard]] Region joined(const Region& a, const Region& b);
/// The parts of open lines that lie outside a region, each running as it did.
[[nodiscard]] std::vector<Polygon> lines_outside(const std::vector<Polygon>& lines, const Region& region);
[[nodiscard]] double area(const Region& region);
/// Even-odd over all rings.
[[nodiscard]] bool contains(const Region& region, Vec2 p);
/// Each outer ring with its own holes.
[[nodiscard]] std::vector<Region> parts_of(const Region& region);
/// The ring of the largest area; nullptr for an empty region.
[[nodiscard]] const Polygon* widest(const Region& region);

/// Everything within `radius` of an open line (one point: a circle).
[[nodiscard]] Polygon buffer_of(const std::vector<Vec2>& line, double radius);
/// About a middle, its length along `along`; corners of the radius, or sharp.
[[nodiscard]] Polygon rounded_rectangle(Vec2 middle, Vec2 along, double length, double width, double corner);
/// The convex hull of points, counter-clockwise; fewer than three where they stand on one line (Andrew, Another
/// efficient algorithm for convex hulls in two dimensions, Inf. Proc. Letters 9, 1979).
[[nodiscard]] Polygon hull_of(Polygon points);
[[nodiscard]] Polygon circle_polygon(Vec2 middle, double radius);

/// Distances to the edges of a region's rings, for many places: edges are sorted into cells once.
class Nearness {
 public:
  Nearness() = default;
  /// Distances beyond `reach` mm are not told apart.
  Nearness(const Region& region, double reach);
  Nearness(const Polygon& polygon, double reach) : Nearness(Region{polygon}, reach) {}
  /// Distance to the nearest edge, at most the reach.
  [[nodiscard]] double distance_within(Vec2 p) const;

 private:
  [[nodiscard]] std::size_t cell_at(int i, int j) const {
    return static_cast<std::size_t>(j) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(i);
  }
  std::vector<Segment2> edges_;
  double reach_ = 0;
  Vec2 low_;
  double cell_ = 1;
  int columns_ = 0;
  int rows_ = 0;
  std::vector<std::uint32_t> first_;  // of each cell's edges in `list_`; one more at the end
  std::vector<std::uint32_t> list_;
  std::vector<std::uint16_t> empty_;  // cells around each one that hold no edge, as the half side of a square
};

}  // namespace wren

#include "core/proof/clearance.hpp"

#include <algorithm>
#include <cmath>

namespace wren {
namespace {

/// Distance in plan between a segment and a box; 0 when they overlap.
double reach(Vec2 a, Vec2 b, const Setup::Box& box) {
  const auto inside = [&](Vec2 p) {
    return p.x >= box.low.x && p.x <= box.high.x && p.y >= box.low.y && p.y <= box.high.y;
  };
  if (inside(a) || inside(b)) return 0;
  const Vec2 corner[4]{
      {box.low.x, box.low.y}, {box.high.x, box.low.y}, {box.high.x, box.high.y}, {box.low.x, box.high.y}};
  double best = 1e300;
  for (int i = 0; i < 4; ++i) {
    const Vec2 u = corner[i];
    const Vec2 v = corner[(i + 1) % 4];
    if (const auto x = meet(a, b - a, u, v - u)) {
      const double t = dot(*x - a, b - a) / std::max(1e-300, dot(b - a, b - a));
      const double s = dot(*x - u, v - u) / dot(v - u, v - u);
      if (t >= 0 && t <= 1 && s >= 0 && s <= 1) return 0;
    }
    best = std::min({best, distance_to(a, {u, v}), distance_to(b, {u, v}), distance_to(u, {a, b})});
  }
  return best;
}

}  // namespace

double height_at(const TileGrid& stock, Vec2 p, double none) {
  const int i = static_cast<int>(std::floor((p.x - stock.origin().x) / stock.cell()));
  const int j = static_cast<int>(std::floor((p.y - stock.origin().y) / stock.cell()));
  return stock.holds(i, j) ? static_cast<double>(stock.at(i, j)) : none;
}

const BedHole* hole_under(const Setup& setup, Vec2 a, Vec2 b) {
  for (const BedHole& h : setup.bed_holes)
    if (distance(a, h.at) <= h.radius && distance(b, h.at) <= h.radius) return &h;
  return nullptr;
}

bool meets_box(Vec3 a, Vec3 b, double radius, const Setup::Box& box, double beside, double above) {
  const double top = box.high.z + above;
  if (std::min(a.z, b.z) >= top) return false;
  // Places along the piece where it is low enough, then the distance of that part to the box.
  double t0 = 0;
  double t1 = 1;
  const double za = a.z - top;
  const double zb = b.z - top;
  if (za >= 0) t0 = za / (za - zb);
  if (zb >= 0) t1 = za / (za - zb);
  return reach(flat(lerp(a, b, t0)), flat(lerp(a, b, t1)), box) < radius + beside;
}

Into wood_into_disc(const TileGrid& stock, Vec3 a, Vec3 b, double radius, double enough) {
  Into worst;
  const double low = std::min(a.z, b.z);
  const double cell = stock.cell();
  const Vec2 d = flat(b) - flat(a);
  const double l2 = dot(d, d);
  const auto index = [&](double v, double from, int most) {
    return std::clamp(static_cast<int>(std::floor((v - from) / cell)), 0, most - 1);
  };
  const double left = std::min(a.x, b.x) - radius;
  const double right = std::max(a.x, b.x) + radius;
  const double below = std::min(a.y, b.y) - radius;
  const double above = std::max(a.y, b.y) + radius;
  if (right < stock.origin().x || above < stock.origin().y || left > stock.origin().x + stock.width() * cell ||
      below > stock.origin().y + stock.height() * cell)
    return worst;
  const int bx0 = index(left, stock.origin().x, stock.width()) / TileGrid::side;
  const int bx1 = index(right, stock.origin().x, stock.width()) / TileGrid::side;
  const int by0 = index(below, stock.origin().y, stock.height()) / TileGrid::side;
  const int by1 = index(above, stock.origin().y, stock.height()) / TileGrid::side;
  const double r2 = radius * radius;
  const double block_reach = radius + TileGrid::side * cell * 0.7072;
  for (int by = by0; by <= by1; ++by)
    for (int bx = bx0; bx <= bx1; ++bx) {
      const std::size_t block = stock.block_index(bx, by);
      const auto high = static_cast<double>(stock.high(block));
      if (high - low <= std::max(enough, worst.by)) continue;
      const Vec2 middle{stock.origin().x + (bx + 0.5) * TileGrid::side * cell,
                        stock.origin().y + (by + 0.5) * TileGrid::side * cell};
      const double tm = l2 > 0 ? std::clamp(dot(middle - flat(a), d) / l2, 0.0, 1.0) : 0;
      if (distance(middle, flat(a) + d * tm) > block_reach) continue;
      const float* cells = stock.block(block);
      for (int k = 0; k < TileGrid::per_block; ++k) {
        const auto z = static_cast<double>(cells[k]);
        if (z - low <= std::max(enough, worst.by)) continue;
        const Vec2 q{stock.origin().x + (bx * TileGrid::side + cell_i(k) + 0.5) * cell,
                     stock.origin().y + (by * TileGrid::side + cell_j(k) + 0.5) * cell};
        const double t = l2 > 0 ? dot(q - flat(a), d) / l2 : 0;
        const double nearest = std::clamp(t, 0.0, 1.0);
        const Vec2 off = q - (flat(a) + d * nearest);
        if (dot(off, off) >= r2) continue;
        double under = low;
        if (l2 > 0 && a.z != b.z) {
          // The disc stands over the cell while its middle is within this of the foot of the perpendicular.
          const Vec2 aside = q - (flat(a) + d * t);
          const double half = std::sqrt(std::max(0.0, r2 - dot(aside, aside)) / l2);
          const double first = std::clamp(t - half, 0.0, 1.0);
          const double last = std::clamp(t + half, 0.0, 1.0);
          under = std::min(a.z + (b.z - a.z) * first, a.z + (b.z - a.z) * last);
        }
        if (z - under > worst.by) worst = {z - under, q};
      }
    }
  return worst;
}

}  // namespace wren

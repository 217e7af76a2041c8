#include "core/proof/clearance.hpp"

#include <algorithm>
#include <cmath>

namespace wren {

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

#include "core/cutting/drop_grid.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/skin/lanes.hpp"

namespace wren {

GridDropper::GridDropper(const Cutter& cutter, const TileGrid& grid)
    : grid_(grid),
      radius_(static_cast<float>(cutter.radius())),
      flat_(static_cast<float>(cutter.flat_radius())),
      rounding_(static_cast<float>(cutter.rounding())) {
  if (cutter.kind == CutterKind::drill)
    slope_ = static_cast<float>(1 / std::tan(cutter.point_angle_deg / 2 * std::numbers::pi / 180));
}

// One block against the cutter: the highest of height − profile over its cells, from the offsets of its first cell to
// the axis.
WREN_LANES static float round_block(const float* cells, float dx0, float dy0, float step, float flat, float rounding,
                                    float best) {
  const Lanes none{};
  Lanes most = none + best;
  const Lanes dx = dx0 + lane_ramp * step;
  const float reach = (flat + rounding) * (flat + rounding);
  for (int j = 0; j < TileGrid::side; ++j) {
    const float dy = dy0 + static_cast<float>(j) * step;
    const Lanes d2 = dx * dx + dy * dy;
    Lanes d;
    root(d2, d);
    const Lanes beyond = d > flat ? d - flat : none;
    const Lanes inside = rounding * rounding - beyond * beyond;
    Lanes up;
    root(inside > 0 ? inside : none, up);
    Lanes z;
    load(cells + j * TileGrid::side, z);
    z = z - rounding + up;
    most = ((d2 <= reach) & (z > most)) ? z : most;
  }
  return highest(most);
}

WREN_LANES static float ball_block(const float* cells, float dx0, float dy0, float step, float rounding, float best) {
  const Lanes none{};
  Lanes most = none + best;
  const Lanes dx = dx0 + lane_ramp * step;
  const Lanes dx2 = rounding * rounding - dx * dx;
  for (int j = 0; j < TileGrid::side; ++j) {
    const float dy = dy0 + static_cast<float>(j) * step;
    const Lanes inside = dx2 - dy * dy;
    Lanes up;
    root(inside > 0 ? inside : none, up);
    Lanes z;
    load(cells + j * TileGrid::side, z);
    z = z - rounding + up;
    most = ((inside >= 0) & (z > most)) ? z : most;
  }
  return highest(most);
}

// Of eight blocks side by side, those whose highest value could still raise the tip: their least profile is that of
// their point nearest to the axis. Returns a bit for each.
WREN_LANES static unsigned worth_a_look(const float* highs, float dx0, float block, float step, float ny2, float flat,
                                        float rounding, float best) {
  const Lanes none{};
  Lanes high;
  load(highs, high);
  const Lanes from = dx0 + lane_ramp * block;
  const Lanes to = -(from + 7 * step);
  Lanes nx = from > to ? from : to;
  nx = nx > 0 ? nx : none;
  const Lanes rho2 = nx * nx + ny2;
  Lanes rho;
  root(rho2, rho);
  const Lanes beyond = rho > flat ? rho - flat : none;
  const Lanes inside = rounding * rounding - beyond * beyond;
  Lanes up;
  root(inside > 0 ? inside : none, up);
  const LaneMask look = (high - rounding + up > best) & (rho2 <= (flat + rounding) * (flat + rounding));
  unsigned bits = 0;
  for (int i = 0; i < 8; ++i) bits |= static_cast<unsigned>(look[i] & 1) << i;
  return bits;
}

float GridDropper::block_best(std::size_t b, float dx0, float dy0, float best) const {
  const float* cell = grid_.block(b);
  const auto step = static_cast<float>(grid_.cell());
  if (slope_ == 0 && flat_ == 0) return ball_block(cell, dx0, dy0, step, rounding_, best);
  if (slope_ == 0) return round_block(cell, dx0, dy0, step, flat_, rounding_, best);
  for (int k = 0; k < TileGrid::per_block; ++k) {
    const float rho =
        std::hypot(dx0 + static_cast<float>(cell_i(k)) * step, dy0 + static_cast<float>(cell_j(k)) * step);
    if (rho <= radius_) best = std::max(best, cell[k] - slope_ * rho);
  }
  return best;
}

float GridDropper::drop_from(Vec2 p, float best, int& bx_hint, int& by_hint) const {
  constexpr int side = TileGrid::side;
  const double cell = grid_.cell();
  const double u = (p.x - grid_.origin().x) / cell - 0.5;  // in cells, from the first cell's centre
  const double v = (p.y - grid_.origin().y) / cell - 0.5;
  const double reach = static_cast<double>(radius_) / cell;
  const int bx0 = std::max(0, static_cast<int>(std::floor((u - reach) / side)));
  const int bx1 = std::min(grid_.blocks_x() - 1, static_cast<int>(std::floor((u + reach) / side)));
  const int by0 = std::max(0, static_cast<int>(std::floor((v - reach) / side)));
  const int by1 = std::min(grid_.blocks_y() - 1, static_cast<int>(std::floor((v + reach) / side)));
  const auto step = static_cast<float>(cell);
  const auto look = [&](int bx, int by) {
    const std::size_t b = grid_.block_index(bx, by);
    float cap = grid_.high(b);
    if (cap <= best) return;
    const float dx0 = static_cast<float>((bx * side - u) * cell);
    const float dy0 = static_cast<float>((by * side - v) * cell);
    // Least possible profile over the block: from its nearest point to the axis.
    const float nx = std::max({dx0, -(dx0 + 7 * step), 0.0F});
    const float ny = std::max({dy0, -(dy0 + 7 * step), 0.0F});
    const float rho2 = nx * nx + ny * ny;
    if (rho2 > radius_ * radius_) return;
    if (slope_ > 0) {
      cap -= slope_ * std::sqrt(rho2);
    } else if (rounding_ > 0) {
      const float beyond = std::max(0.0F, std::sqrt(rho2) - flat_);
      cap -= rounding_ - std::sqrt(std::max(0.0F, rounding_ * rounding_ - beyond * beyond));
    }
    if (cap <= best) return;
    const float before = best;
    best = block_best(b, dx0, dy0, best);
    if (best > before) {
      bx_hint = bx;
      by_hint = by;
    }
  };
  // The block that won at the place before is likely to win again and rules most others out.
  if (bx_hint >= bx0 && bx_hint <= bx1 && by_hint >= by0 && by_hint <= by1)
    look(bx_hint, by_hint);
  else
    look(std::clamp(static_cast<int>(u) / side, bx0, std::max(bx0, bx1)),
         std::clamp(static_cast<int>(v) / side, by0, std::max(by0, by1)));
  const int skip_x = bx_hint;
  const int skip_y = by_hint;
  for (int by = by0; by <= by1; ++by) {
    const float dy0 = static_cast<float>((by * side - v) * cell);
    const float ny = std::max({dy0, -(dy0 + 7 * step), 0.0F});
    for (int bx = bx0; bx <= bx1; bx += 8) {
      const float dx0 = static_cast<float>((bx * side - u) * cell);
      unsigned bits =
          slope_ > 0 ? 0xFFU
                     : worth_a_look(grid_.row_highs(by) + bx, dx0, side * step, step, ny * ny, flat_, rounding_, best);
      if (bx + 7 > bx1) bits &= (1U << (bx1 - bx + 1)) - 1;
      for (int k = 0; bits != 0; ++k, bits >>= 1U)
        if ((bits & 1U) != 0 && (bx + k != skip_x || by != skip_y)) look(bx + k, by);
    }
  }
  return best;
}

float GridDropper::refine(Vec2 p, float best) const {
  if (slope_ > 0 || flat_ > 0 || best < -1e29F) return best;  // flat bottoms rest on cells; only a ball is refined
  // Height left between ball and grid near the contact is a parabola; its top lies between cells. The contact is found
  // again from the tip, then refined in x and y.
  const double cell = grid_.cell();
  const double r = rounding_;
  const auto height = [&](int i, int j) -> double {
    if (!grid_.holds(i, j)) return -1e30;
    const Vec2 c = grid_.centre(i, j);
    const double rest = r * r - (c.x - p.x) * (c.x - p.x) - (c.y - p.y) * (c.y - p.y);
    return rest < 0 ? -1e30 : static_cast<double>(grid_.at(i, j)) - r + std::sqrt(rest);
  };
  int i = std::clamp(static_cast<int>((p.x - grid_.origin().x) / cell), 0, grid_.width() - 1);
  int j = std::clamp(static_cast<int>((p.y - grid_.origin().y) / cell), 0, grid_.height() - 1);
  double here = height(i, j);
  // From the axis uphill to the contact, in long steps and then in short ones: one summit on smooth ground.
  for (const int stride : {6, 2, 1})
    for (int climb = 0; climb < 64; ++climb) {
      int bi = i;
      int bj = j;
      for (const auto& [di, dj] : {std::pair{stride, 0}, {-stride, 0}, {0, stride}, {0, -stride}})
        if (const double h = height(i + di, j + dj); h > here) {
          here = h;
          bi = i + di;
          bj = j + dj;
        }
      if (bi == i && bj == j) break;
      i = bi;
      j = bj;
    }
  if (here < static_cast<double>(best) - 1e-5) return best;  // another summit won: keep the plain maximum
  // At a cliff, as at an outline, the ground is no parabola: there it rests on the last cell.
  constexpr double cliff = 0.5;  // mm
  const auto ground = [&](int u, int v) { return grid_.holds(u, v) ? static_cast<double>(grid_.at(u, v)) : -1e30; };
  double gain = 0;
  for (const auto& [di, dj] : {std::pair{1, 0}, {0, 1}}) {
    if (std::abs(ground(i - di, j - dj) - 2 * ground(i, j) + ground(i + di, j + dj)) > cliff) continue;
    const double a = height(i - di, j - dj);
    const double b = height(i + di, j + dj);
    const double bend = a - 2 * here + b;
    if (a > -1e29 && b > -1e29 && bend < -1e-12) gain += (a - b) * (a - b) / (-8 * bend);
  }
  return static_cast<float>(here + std::min(gain, 0.05 * cell * 10));
}

float GridDropper::drop(Vec2 p) const {
  int bx = -1;
  int by = -1;
  return refine(p, drop_from(p, TileGrid::outside, bx, by));
}

void GridDropper::drop_row(Vec2 start, Vec2 step, int count, float* tips) const {
  int bx = -1;
  int by = -1;
  for (int k = 0; k < count; ++k) {
    const Vec2 p = start + step * k;
    tips[k] = refine(p, drop_from(p, TileGrid::outside, bx, by));
  }
}

}  // namespace wren

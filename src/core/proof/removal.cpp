#include "core/proof/removal.hpp"

#include <algorithm>
#include <cmath>

#include "core/skin/lanes.hpp"

namespace wren {
namespace {

constexpr int side = TileGrid::side;

/// What one block needs to know about the move: all in mm, from the block's first cell centre.
struct Sweep {
  float dx0, dy0;  // first cell's centre minus the line's start
  float cell;
  float ux, uy;  // unit direction in plan; (1, 0) for a plunge
  float run;     // length in plan
  float z0;      // tip at the start
  float slope;   // rise per mm of run
  float radius;
};

struct BlockCut {
  float sum = 0;      // heights taken
  float deepest = 0;  // over the tip
};

// The two kernels lower one block of 8 × 8 cells. For a cell at (u along, w across) the cutter's axis is near enough
// while τ ∈ [u − q, u + q], q = √(r² − w²); the lowest swept height is at the lower end of that for a flat bottom, and
// for a ball where d/dτ (slope·τ − √(q² − (τ − u)²)) = 0.
WREN_LANES BlockCut lower_flat(float* cells, const Sweep& s) {
  Lanes sum{};
  Lanes deep{};
  const Lanes none{};
  const Lanes dx = s.dx0 + lane_ramp * s.cell;
  for (int j = 0; j < side; ++j) {
    const float dy = s.dy0 + static_cast<float>(j) * s.cell;
    const Lanes u = dx * s.ux + dy * s.uy;
    const Lanes w = dy * s.ux - dx * s.uy;
    const Lanes q2 = s.radius * s.radius - w * w;
    Lanes q;
    root(q2 > 0 ? q2 : none, q);
    Lanes low = u - q;
    low = low > 0 ? low : none;
    Lanes high = u + q;
    high = high < s.run ? high : none + s.run;
    const Lanes z = s.z0 + s.slope * (s.slope > 0 ? low : high);
    Lanes old;
    load(cells + j * side, old);
    const LaneMask cut = (q2 >= 0) & (low <= high) & (z < old);
    store(cells + j * side, cut ? z : old);
    const Lanes taken = cut ? old - z : none;
    sum += taken;
    deep = taken > deep ? taken : deep;
  }
  BlockCut out;
  for (int i = 0; i < side; ++i) out.sum += sum[i];
  out.deepest = highest(deep);
  return out;
}

WREN_LANES BlockCut lower_ball(float* cells, const Sweep& s) {
  Lanes sum{};
  Lanes deep{};
  const Lanes none{};
  const Lanes dx = s.dx0 + lane_ramp * s.cell;
  const float lean = -s.slope / __builtin_sqrtf(1 + s.slope * s.slope);
  for (int j = 0; j < side; ++j) {
    const float dy = s.dy0 + static_cast<float>(j) * s.cell;
    const Lanes u = dx * s.ux + dy * s.uy;
    const Lanes w = dy * s.ux - dx * s.uy;
    const Lanes q2 = s.radius * s.radius - w * w;
    Lanes q;
    root(q2 > 0 ? q2 : none, q);
    Lanes at = u + lean * q;
    at = at > 0 ? at : none;
    at = at < s.run ? at : none + s.run;
    const Lanes rest = q2 - (at - u) * (at - u);
    Lanes down;
    root(rest > 0 ? rest : none, down);
    const Lanes tip = s.z0 + s.slope * at;
    const Lanes z = tip + s.radius - down;
    Lanes old;
    load(cells + j * side, old);
    const LaneMask cut = (rest >= 0) & (z < old);
    store(cells + j * side, cut ? z : old);
    sum += cut ? old - z : none;
    const Lanes height = cut ? old - tip : none;
    deep = height > deep ? height : deep;
  }
  BlockCut out;
  for (int i = 0; i < side; ++i) out.sum += sum[i];
  out.deepest = highest(deep);
  return out;
}

BlockCut lower_other(float* cells, const Sweep& s, const Cutter& cutter) {
  BlockCut out;
  for (int k = 0; k < TileGrid::per_block; ++k) {
    const float dx = s.dx0 + static_cast<float>(cell_i(k)) * s.cell;
    const float dy = s.dy0 + static_cast<float>(cell_j(k)) * s.cell;
    const float u = dx * s.ux + dy * s.uy;
    const float w = dy * s.ux - dx * s.uy;
    const float q2 = s.radius * s.radius - w * w;
    if (q2 < 0) continue;
    const float q = std::sqrt(q2);
    float low = std::max(0.0F, u - q);
    float high = std::min(s.run, u + q);
    if (low > high) continue;
    const auto height = [&](float at) {
      return s.z0 + s.slope * at +
             static_cast<float>(cutter.profile(std::min<double>(s.radius, std::hypot(w, at - u))));
    };
    // The swept height is convex along the line for every cutter with a convex bottom: halve until it is pinned down.
    for (int n = 0; n < 24 && high - low > 1e-4F; ++n) {
      const float a = low + (high - low) / 3;
      const float b = high - (high - low) / 3;
      if (height(a) <= height(b))
        high = b;
      else
        low = a;
    }
    const float at = (low + high) / 2;
    const float z = height(at);
    if (z < cells[k]) {
      out.sum += cells[k] - z;
      out.deepest = std::max(out.deepest, cells[k] - (s.z0 + s.slope * at));
      cells[k] = z;
    }
  }
  return out;
}

}  // namespace

Remover::Remover(const Cutter& cutter)
    : cutter_(cutter),
      radius_(static_cast<float>(cutter.radius())),
      shape_(cutter.kind == CutterKind::ball ? Shape::ball
             : cutter.kind == CutterKind::drill || cutter.kind == CutterKind::round_nose ||
                     cutter.kind == CutterKind::round_over
                 ? Shape::other
                 : Shape::flat) {}

Removed Remover::sweep(TileGrid& stock, Vec3 a, Vec3 b) const {
  Removed out;
  const double run = distance(flat(a), flat(b));
  const double r = static_cast<double>(radius_);
  const double cell = stock.cell();
  Sweep s{};
  s.cell = static_cast<float>(cell);
  s.radius = radius_;
  if (run < 1e-6) {
    s.ux = 1;
    s.z0 = static_cast<float>(std::min(a.z, b.z));
  } else {
    s.ux = static_cast<float>((b.x - a.x) / run);
    s.uy = static_cast<float>((b.y - a.y) / run);
    s.run = static_cast<float>(run);
    s.z0 = static_cast<float>(a.z);
    s.slope = static_cast<float>((b.z - a.z) / run);
  }
  const auto lowest = static_cast<float>(std::min(a.z, b.z));
  const Vec2 o = stock.origin();
  const double block = cell * side;
  const int bx0 = std::max(0, static_cast<int>(std::floor((std::min(a.x, b.x) - r - o.x) / block)));
  const int bx1 = std::min(stock.blocks_x() - 1, static_cast<int>(std::floor((std::max(a.x, b.x) + r - o.x) / block)));
  const int by0 = std::max(0, static_cast<int>(std::floor((std::min(a.y, b.y) - r - o.y) / block)));
  const int by1 = std::min(stock.blocks_y() - 1, static_cast<int>(std::floor((std::max(a.y, b.y) + r - o.y) / block)));
  const float half = static_cast<float>(block) / 2;
  const float diagonal = half * 1.41422F;
  for (int by = by0; by <= by1; ++by)
    for (int bx = bx0; bx <= bx1; ++bx) {
      const std::size_t k = stock.block_index(bx, by);
      const float top = stock.high(k);
      if (top <= lowest) continue;
      // Distance of the block's middle from the line decides whether the cutter can reach it, and how low at best.
      const float mx = static_cast<float>(o.x + bx * block - a.x) + half;
      const float my = static_cast<float>(o.y + by * block - a.y) + half;
      const float u = mx * s.ux + my * s.uy;
      const float w = my * s.ux - mx * s.uy;
      const float at = std::clamp(u, 0.0F, s.run);
      const float far = std::sqrt(w * w + (u - at) * (u - at));
      const float near = far - diagonal;
      if (near >= radius_) continue;
      if (shape_ == Shape::ball && near > 0) {
        // Tip height above this block is at least that of the line's lower end within reach.
        const float line_low = s.slope > 0 ? s.z0 + s.slope * std::max(0.0F, at - radius_ - diagonal)
                                           : s.z0 + s.slope * std::min(s.run, at + radius_ + diagonal);
        if (top <= line_low + radius_ - std::sqrt(radius_ * radius_ - near * near)) continue;
      } else if (s.slope != 0) {
        const float line_low = s.slope > 0 ? s.z0 + s.slope * std::max(0.0F, at - radius_ - diagonal)
                                           : s.z0 + s.slope * std::min(s.run, at + radius_ + diagonal);
        if (top <= line_low) continue;
      }
      s.dx0 = static_cast<float>(o.x + bx * block + cell / 2 - a.x);
      s.dy0 = static_cast<float>(o.y + by * block + cell / 2 - a.y);
      const BlockCut cut = shape_ == Shape::flat   ? lower_flat(stock.block(k), s)
                           : shape_ == Shape::ball ? lower_ball(stock.block(k), s)
                                                   : lower_other(stock.block(k), s, cutter_);
      if (cut.sum > 0) {
        stock.refresh(k);
        out.any = true;
        out.volume_mm3 += static_cast<double>(cut.sum) * cell * cell;
        out.deepest = std::max(out.deepest, static_cast<double>(cut.deepest));
      }
    }
  return out;
}

}  // namespace wren

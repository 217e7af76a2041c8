// How long a path takes on a machine with limited acceleration that looks ahead: squared speeds forward and backward
// over flat arrays (trapezoid moves: t = d/v + v/a; textbook kinematics). Lengths mm, speeds mm/s, acceleration mm/s².
#pragma once

#include <cstddef>
#include <vector>

#include "core/workshop/machine.hpp"

namespace wren {

/// Limits used by the estimate. At a corner the speed is held to what rounds it off within `corner` mm at the
/// acceleration: v² = a·δ·sin(θ/2)/(1 − sin(θ/2)), θ the angle between the two moves (circle tangent to both, δ from
/// the corner).
struct MotionLimits {
  double acceleration = 500;
  double corner = 0.01;
  double rapid = 100;           // mm/s
  Vec3 max_feed{100, 100, 33};  // mm/s per axis
};
[[nodiscard]] MotionLimits motion_limits(const Machine& machine);

/// The path as flat arrays of straight pieces, in order: what the estimate runs over.
struct Segments {
  std::vector<float> x, y, z;  // end points; the first entry is the start
  std::vector<float> speed;    // wanted mm/s of the piece that ends here; [0] unused
  [[nodiscard]] std::size_t pieces() const { return x.empty() ? 0 : x.size() - 1; }
};

/// Seconds. Scratch memory is kept in `work` between calls.
struct EstimateScratch {
  std::vector<float> length, cap, direction;
};
[[nodiscard]] double estimate_seconds(const Segments& path, const MotionLimits& limits, EstimateScratch& work);

/// Seconds for every piece's end, cumulative: a clock along the path. Size pieces + 1, first 0.
[[nodiscard]] std::vector<double> clock(const Segments& path, const MotionLimits& limits);

}  // namespace wren

// How long a toolpath takes: its moves as flat arrays for the kinematics.
#pragma once

#include "core/motion/toolpath.hpp"
#include "core/timing/time_estimate.hpp"

namespace wren {

/// Arcs count as chords of at most 5°, their speed held to v² = a·r; no axis goes faster than it may.
[[nodiscard]] Segments segments(const Toolpath& path, const MotionLimits& limits);

/// Seconds of a whole toolpath.
[[nodiscard]] double estimate_seconds(const Toolpath& path, const Machine& machine);

}  // namespace wren

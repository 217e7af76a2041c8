// A helix with true arcs: the way down into full wood. Counter-clockwise about the centre, two half circles a turn.
#pragma once

#include "core/cutting/strand.hpp"

namespace wren {

/// From the strand's present end at centre + (radius, 0) down from one height to another in whole turns, then once
/// round on the floor to take the ramp away.
inline void helix_down(Strand& strand, Vec2 centre, double radius, double from, double to, int turns, double feed) {
  const auto turn = [&](double high, double low) {
    strand.steps.push_back({{centre.x - radius, centre.y, (high + low) / 2}, centre, feed, StepKind::arc_ccw});
    strand.steps.push_back({{centre.x + radius, centre.y, low}, centre, feed, StepKind::arc_ccw});
  };
  for (int k = 0; k < turns; ++k) turn(from + (to - from) * k / turns, from + (to - from) * (k + 1) / turns);
  turn(to, to);
}

}  // namespace wren

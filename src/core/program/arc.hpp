// Where the words of an arc put its centre, and what arcs are refused: those that two controllers go different ways at.
// NISTIR 6556, section 3.5.3. Frame: work, mm.
#pragma once

#include <optional>

#include "core/program/block.hpp"
#include "core/program/reader.hpp"

namespace wren {

/// What was said before an arc.
struct ArcFrame {
  Plane plane = Plane::xy;
  bool clockwise = false;
  double unit = 1;                   // mm that one of the program's units means
  std::optional<Vec3> centres_from;  // G90.1: the offset's zero that centres are told from; else from the arc's start
};

/// The centre of the arc from `from` to `to`, at the height of `from` over its plane. Throws Refusal.
[[nodiscard]] Vec3 arc_centre(const Block& block, Vec3 from, Vec3 to, const ArcFrame& frame);

}  // namespace wren

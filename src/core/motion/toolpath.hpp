// Toolpath: every move of one program, cutting and not, in the work frame. Lengths mm, feeds mm/min.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/workshop/setup.hpp"

namespace wren {

enum class MoveKind : std::uint8_t { rapid, plunge, feed, arc_cw, arc_ccw };

struct Move {
  Vec3 to;
  Vec2 centre;            // arcs in plan only
  float feed = 0;         // 0 for rapids
  std::uint16_t cut = 0;  // index into Toolpath::cuts
  MoveKind kind = MoveKind::rapid;
};
static_assert(sizeof(Move) == 48);

/// What the operator does before a cut starts.
struct Stop {
  std::size_t before_move = 0;
  std::string text;
};

struct Toolpath {
  std::string cutter;  // rack identity
  double rpm = 0;
  std::vector<std::string> cuts;  // ids, in order
  std::vector<Stop> stops;
  Vec3 start;  // where the first move begins: above the work zero at the safe height
  double safe_z = 0;
  std::vector<Move> moves;
};

/// Extents of everything the cutter's tip does below the safe height, work frame.
struct Extents {
  Vec3 low{1e300, 1e300, 1e300};
  Vec3 high{-1e300, -1e300, -1e300};
};
[[nodiscard]] Extents extents(const Toolpath& path);

}  // namespace wren

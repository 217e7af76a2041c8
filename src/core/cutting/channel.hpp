// Channels, bores and pecked holes: the flat work of a neck's front and the holes of its back. Side frame, mm. Every
// cut tells how high wood stands where it starts, so that what is air already is crossed at rapid.
#pragma once

#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/plan/geometry.hpp"
#include "core/report/problem.hpp"
#include "core/skin/two_skin.hpp"

namespace wren {

/// A trough with round ends about the segment a → b; the floor may rise and fall along it.
struct ChannelPlan {
  Vec2 a, b;
  double width = 0;
  Height floor;  // z
  double wood_top = 0;
  Cutter cutter;
  Feeds feeds;
  double stepover = 0.45;  // of the diameter, where the channel is wider than the cutter
};

/// Down along the channel in bites, there and back; wider ones in rings with true arcs at their ends, the wall on the
/// cutter's right. Refused where the cutter is wider than the channel.
[[nodiscard]] Expected<Strand> cut_channel(const ChannelPlan& plan);

struct BorePlan {
  Vec2 at;
  double diameter = 0;
  double top = 0;     // of the wood
  double bottom = 0;  // the full diameter reaches down to here: a ball's tip goes its radius deeper
  Cutter cutter;
  Feeds feeds;
};

/// A helix with true arcs, and inner ones where a core would stay; straight down where the cutter is as wide as the
/// hole.
[[nodiscard]] Expected<Strand> bore(const BorePlan& plan);

/// Straight down in pecks, lifted out after each to clear chips. `bottom` is where the full diameter ends; a drill's
/// point goes deeper.
[[nodiscard]] Strand peck(const BorePlan& plan, double bite);

}  // namespace wren

// What an oversize top finds its place by when it is glued on, once it is out of its frame: ears with the pin holes,
// two small holes in wood that goes later, or ticks of the centre line and the scale line. Body frame, mm.
#pragma once

#include "core/parts/body/part.hpp"

namespace wren {

/// Round an oversize top, with its ears where it is found by them.
[[nodiscard]] Polygon oversize_outline(const BodyWork& work, const BodyDesign& design);

/// A small hole (a = b) or a tick that a glue-up is found by, from the layer's top down to `bottom`.
struct RegisterMark {
  Vec2 a, b;
  double radius = 0;
  double bottom = 0;  // −1e6: through
  double point = 0;   // how steep a drill's point is: depth per radius
  double cut_to = 0;  // where its program goes to
  [[nodiscard]] bool holds(Vec2 q) const { return distance_to(q, Segment2{a, b}) <= radius; }
  [[nodiscard]] double floor(Vec2 q) const { return bottom - point * (radius - distance_to(q, Segment2{a, b})); }
};

/// The thinnest cutter that draws a line and does not break at it; nullptr where the rack has none.
[[nodiscard]] const Cutter* tick_cutter(const Rack& rack);

/// Marks in the top of layer `k`: the oversize top's own, or those of the layer under it.
[[nodiscard]] std::vector<RegisterMark> register_marks(const BodyWork& work, const BodyDesign& design, std::size_t k);

}  // namespace wren

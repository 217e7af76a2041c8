// Flat-floored pockets for position marks: round ones with true arcs and a helical entry, others by rings parallel to
// their outline with a ramp along the ring. Climb cutting (the wall on the cutter's right). Instrument frame, mm.
#pragma once

#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/instrument/fretboard.hpp"

namespace wren {

struct PocketPlan {
  Cutter cutter;
  Feeds feeds;
  Height wood_top;
  double stepover = 0.4;  // of the cutter's diameter
};

/// Strands of one mark; refused (ProblemKind::range) where the cutter does not go into it.
[[nodiscard]] Expected<std::vector<Strand>> cut_pocket(const Mark& mark, const PocketPlan& plan);

/// The widest cutter diameter that goes into every mark: twice the largest inward offset, to 0.01 mm.
[[nodiscard]] double widest_cutter(const std::vector<Mark>& marks);

}  // namespace wren

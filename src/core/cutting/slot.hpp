// Fret slots: a thin cutter goes straight along each slot in many shallow passes.
// Instrument frame, mm. The wood's top may be flat (slots first) or already crowned (crown first); depths follow.
#pragma once

#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/instrument/fretboard.hpp"

namespace wren {

enum class SlotEntry { ramp, peck };

struct SlotPlan {
  Cutter cutter;  // with its *measured* diameter where a test slot was measured
  Feeds feeds;
  SlotEntry entry = SlotEntry::ramp;
  Height wood_top;       // z of the wood before this cut
  double run_out = 1.0;  // through slots: beyond the board's edge, on top of the cutter's radius
};

/// Side-by-side lanes that make a slot of `width` with a cutter of `diameter`: offsets of their centre lines in mm. One
/// lane at 0 where the cutter is as wide as the slot or wider (then the slot is as wide as the cutter).
[[nodiscard]] std::vector<double> slot_lanes(double width, double diameter);

[[nodiscard]] std::vector<Strand> cut_slots(const Fretboard& board, const SlotPlan& plan);

/// Deepest bite of one pass in mm.
[[nodiscard]] inline double slot_bite(const Cutter& cutter) { return depth_per_pass(cutter); }

}  // namespace wren

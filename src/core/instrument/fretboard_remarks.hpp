// The judgement of a fretboard's own numbers, before any machine is chosen.
#pragma once

#include <vector>

#include "core/instrument/fretboard.hpp"
#include "core/report/remark.hpp"

namespace wren {

/// Limits that are common practice, each with its reason beside it. mm.
namespace practice {
constexpr double overhang_least = 5;      // less chips when the end is trimmed
constexpr double edge_margin_least = 3;   // less and the outer string slips off the fret's end
constexpr double tang_clearance = 0.1;    // slot deeper than the tang
constexpr double under_slot_least = 2.0;  // wood under a slot that holds the board together
constexpr double under_mark_least = 1.5;
constexpr double edge_thickness_least = 3.5;
constexpr double fret_gap_least = 7.0;  // between fret centres at the treble edge, room for a finger
constexpr double string_gap_least = 6.0;
constexpr double mark_to_slot_least = 1.0;
constexpr double tick_floor_least = 2.5;     // wood left under a tick at the board's edge
constexpr double nut_extension_least = 3.0;  // wood behind a zero fret
}  // namespace practice

/// Least distance from the last fret to the end of the board, anywhere along the fret; negative where the fret runs out
/// of the end.
[[nodiscard]] double least_overhang(const Fretboard& board);

/// Least depth of any slot under the crown within the board, and the fret where it is.
struct LeastDepth {
  double depth = 0;
  int fret = 0;
  Vec2 at;
};
[[nodiscard]] LeastDepth least_slot_depth(const Fretboard& board);

[[nodiscard]] std::vector<Remark> fretboard_remarks(const Fretboard& board);

}  // namespace wren

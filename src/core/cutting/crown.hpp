// The crown: roughing by levels and finishing along or across the board, and what each choice leaves standing.
//
// A ball run along the board leaves s²/8·(1/r + 1/R) between rows, s between the points touched (Machinery's Handbook,
// milling). A flat cutter run across the board touches with the edge of its bottom on the crest's side; between rows
// that edge recedes by s²/(8r), on a slope of y/R: y·s²/(8·r·R) is left. left_over() computes the real figure from the
// swept cutter, no formula. Instrument frame, mm.
#pragma once

#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/instrument/fretboard.hpp"
#include "core/skin/tile_grid.hpp"

namespace wren {

enum class Direction { along, across };

struct CrownPlan {
  Cutter cutter;
  Feeds feeds;
  Direction direction = Direction::across;
  double stepover = 1;
  double allowance = 0;  // left on the crown, for roughing
  double sample = 1;     // mm between points before merging
  double beyond = 2.2;   // beyond the area's edge the surface is finished too: slots run out there, and a ball touches
                         // inside its axis
  bool whole_blank = false;
  double wood_top = 0;  // top of the blank
  Polygon area;         // the region to finish: the board's outline or the blank's, instrument frame
};

/// Height of the cutter's tip when it is let down at p until it touches the crown: exact to 1e-6 mm (fixed-point
/// iteration on the contact condition; the crown falls away from its crest on both sides, so the contact is unique).
[[nodiscard]] double crown_drop_height(const Fretboard& board, const Cutter& cutter, Vec2 p);

/// Finishing rows, joined into as few strands as the turns allow.
[[nodiscard]] std::vector<Strand> finish_crown(const Fretboard& board, const CrownPlan& plan);

/// Roughing: rows at levels no further than `bite` apart from the blank's top down to the crown and its allowance; only
/// where there is wood to take. Uses a height grid, so that it does for any surface.
[[nodiscard]] std::vector<Strand> rough_crown(const Fretboard& board, const CrownPlan& plan, double bite);

/// Greatest height left standing between finishing rows anywhere on the area, by sweeping the cutter's true shape.
[[nodiscard]] double left_over(const Fretboard& board, const CrownPlan& plan);

/// The largest stepover (0.02 mm to 0.8 × diameter) that leaves no more than `scallop`.
[[nodiscard]] double stepover_for(const Fretboard& board, CrownPlan plan, double scallop);

/// Deepest wood above the crown within the area.
[[nodiscard]] double most_above_crown(const Fretboard& board, const Polygon& area, double wood_top);

/// Cutters that can finish a crown: everything with a cutting bottom wider than 1 mm.
[[nodiscard]] bool can_finish_crown(const Cutter& cutter);

}  // namespace wren

// The outline: round the part in several depths, tabs left standing, a thin finishing skim last. Climb cutting goes
// clockwise round the outside of a part (wood on the cutter's right), conventional the other way. Instrument frame, mm.
#pragma once

#include <optional>

#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/skin/two_skin.hpp"

namespace wren {

struct OutlinePlan {
  Cutter cutter;
  Feeds feeds;
  double wood_top = 0;
  double through = 0.2;  // below the part's underside (z = 0), into the waste board
  bool climb = true;
  double skim = 0.2;                // left by the depths and taken by one last round; 0: none
  std::vector<double> tabs;         // middles, as distances along the part's own outline
  double tab_length = 6;            // of wood left at full height
  double tab_height = 2;            // above the part's underside
  std::vector<double> tab_lifts{};  // of each tab's foot over the part's underside; empty: none
  double tab_wood = 0;              // thickness of wood that a tab is to keep; 0: its height
  std::optional<double>
      aside;         // where a trough is there already: down this far beside the path; else in by a quarter circle
  Height underside;  // all heights stand over this (side z); empty: z = 0
  double shift = 0;  // added to every height at the end: where the part's underside does not lie at side z = 0
  /// The last skim in stretches of the part's outline, each in its own direction; empty: once round in one direction.
  struct Stretch {
    double from = 0;  // along the part's outline, from < to
    double to = 0;
    bool climb = true;
  };
  std::vector<Stretch> stretches;
  double thin = 0;  // > 0: the skim leaves this much and one more round takes it
};

/// Tab places (distance along the contour): `count` spread evenly over the straight edges longer than 60 mm, each moved
/// to the middle between its neighbours among `avoid` (points on the edge, such as slot ends).
[[nodiscard]] std::vector<double> place_tabs(const Contour& contour, int count, const std::vector<Vec2>& avoid);

/// Distance along the contour of its point nearest to p.
[[nodiscard]] double nearest_along(const Contour& contour, Vec2 p);

/// A convex contour gets an exact path; any other the polygon clipping library's (0.002 mm). Counter-clockwise. Refused
/// where the cutter does not get round the part in one piece.
[[nodiscard]] Expected<std::vector<Strand>> cut_outline(const Contour& contour, const OutlinePlan& plan);

}  // namespace wren

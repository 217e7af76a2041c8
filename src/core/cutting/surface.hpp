// Surfaces: roughing by levels from the wood that really stands there, and finishing along the piece by constant
// scallop with its steep sides by levels. The surface is a height over the plan in the side frame (up is +z); grids and
// functions alike. mm.
//
// A ball leaves s²/8·(1/r + 1/R) between rows s apart on a back bent to the radius R (Machinery's Handbook, milling). A
// flat cutter going down a side by steps of dz leaves dz·cos θ, θ the side's slope against the level.
#pragma once

#include "core/cutting/drop_grid.hpp"
#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/plan/contour.hpp"
#include "core/report/progress.hpp"
#include "core/skin/two_skin.hpp"

namespace wren {

struct RoughPlan {
  Cutter cutter;
  Feeds feeds;
  double bite = 3;         // between levels
  double stepover = 0.45;  // of the diameter
  double top = 0;          // highest wood
  bool along_x = true;     // direction of the rows
  std::vector<Polygon>
      loops;  // ways of the cutter's middle that are gone round at every level after the rows, along walls
};

/// Cuts `stock` down towards `target` (same frame; where they are equal nothing may be cut). The stock is lowered as it
/// is cut, so that no pass goes through air again.
[[nodiscard]] std::vector<Strand> rough_by_levels(const TileGrid& target, TileGrid& stock, const RoughPlan& plan);

/// One stretch across the piece that rows are spread over.
struct Station {
  double x = 0;
  double low = 0;   // y
  double high = 0;  // nothing to do where high <= low
};

struct FinishPlan {
  Cutter cutter;
  Feeds feeds;
  double scallop = 0.01;
  double sample = 0.5;        // mm between points before merging
  double wood_top = 0;        // for the way in
  double bend = 15;           // tightest radius across the surface, mm
  Height lowest;              // tips stay above this, with tabs; may be empty
  TileGrid* stock = nullptr;  // what roughing left, where it is known: rows go down into it as M1 has it, and lower it
};

/// Distance between rows that leaves no more than the scallop on a surface bent to the radius (0: level).
[[nodiscard]] double row_distance(const Cutter& cutter, double scallop, double bend);

/// Rows along x, evenly spread over each station's arc length, so that they run along the piece and stand apart by no
/// more than the scallop allows anywhere. Tips come from the grid, and on slopes from the surface itself. Threads share
/// the rows; the result does not depend on their number.
[[nodiscard]] std::vector<Strand> finish_along(const Height& surface, const TileGrid& grid,
                                               const std::vector<Station>& stations, const FinishPlan& plan);

/// Sides: for each station's edge (y, outwards +1 or −1) rows by contact on the surface between two heights; a ball
/// touches with its flank. `band` gives the heights (z) between which the side is to be cut at a station.
struct SidePlan {
  Cutter cutter;
  Feeds feeds;
  double scallop = 0.01;
  Height lowest;  // of the tip: waste board, tabs
  double wood_top = 0;
};
struct SideStation {
  double x = 0;
  double edge = 0;   // y of the outline
  double inner = 0;  // y of the surface's crest: the side lies between
  double low = 0;    // z of the band to cut
  double high = 0;   // nothing to do where high <= low
};
/// With a ball: its flank runs along the side, rows by scallop. Contact points are exact.
[[nodiscard]] std::vector<Strand> finish_side_ball(const Height& surface, const std::vector<SideStation>& side,
                                                   const SidePlan& plan);
/// With a flat cutter: level by level, its rim on the surface.
[[nodiscard]] std::vector<Strand> finish_side_levels(const Height& surface, const std::vector<SideStation>& side,
                                                     const SidePlan& plan);

/// y at which the surface stands at z between the edge and the crest (bisection to 1e-7 mm); the edge where it is
/// higher already.
[[nodiscard]] double side_at(const Height& surface, double x, double edge, double inner, double z);

[[nodiscard]] double path_length(const std::vector<Strand>& strands);

}  // namespace wren

// Clearing of cavities with any outline, islands and a level or sloping floor, so that the cutter is never buried: down
// a helix or a ramp, then outwards in fronts that stand one step apart, wall skim and floor last. Side frame, mm.
//
// The fronts are level lines of the distance from what is clear already, measured inside the cavity (Eikonal equation
// |∇T| = 1, fast marching; Sethian, Proc. Natl. Acad. Sci. 93, 1996). A cutter that runs along the line T = c + s when
// everything up to T = c is clear takes at most s of wood beside it; where two fronts meet, what stands between them is
// less than 2s wide. What a wider cutter has cleared is clear already: the same fronts then start there and take only
// what is left.
#pragma once

#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/plan/region.hpp"
#include "core/report/problem.hpp"
#include "core/skin/two_skin.hpp"

namespace wren {

struct ClearPlan {
  Cutter cutter;
  Feeds feeds;
  Feeds entry;                // helix and slots as wide as the cutter
  Region region;              // to be cleared, walls included
  Region cleared;             // by a wider cutter, all the way down; may be empty
  double top = 0;             // of the wood
  Height floor;               // z
  double lowest_floor = 0;    // of `floor` within the region
  double slope = 0;           // steepest rise of the floor, along x
  double step = 0.35;         // of the diameter: wood beside the cutter at most
  double bite = 3;            // of each level
  double leave_wall = 0.2;    // taken by the last round
  double leave_floor = 0.15;  // taken by the last level
  bool finish = true;         // false: hidden cavities, no skims
};

struct Clearing {
  std::vector<Strand> rough;
  std::vector<Strand> floor;  // last level, then
  std::vector<Strand> walls;  // the last round at full depth
  Region reached;             // what the cutter's rim has swept
  double narrowest = 1e9;     // of the parts it went into, as clearance beside the cutter
};

/// Nothing to do gives empty strands; refused where the cutter does not go in at all.
[[nodiscard]] Expected<Clearing> clear_region(const ClearPlan& plan);

/// What a cutter of this radius leaves in a region's corners and narrow places.
[[nodiscard]] Region left_by(const Region& region, double radius);

/// Once round a ring (region on its left), from a little inside it and back, with true arcs where the ring has them.
[[nodiscard]] Strand skim_ring(const Polygon& ring, const Height& tip, double free_z, const Feeds& feeds);

/// Rows of a wide cutter over a rectangle, level by level: facing. `low`, `high` are the area's corners.
[[nodiscard]] std::vector<Strand> face_off(Vec2 low, Vec2 high, double top, double bottom, const Cutter& cutter,
                                           const Feeds& feeds, double bite);

}  // namespace wren

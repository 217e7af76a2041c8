// Rounding of edges: by a ball in passes round the outline, or with a form cutter in one. Side frame, mm; up is +z.
#pragma once

#include "core/cutting/feeds.hpp"
#include "core/cutting/strand.hpp"
#include "core/plan/region.hpp"
#include "core/report/problem.hpp"
#include "core/skin/two_skin.hpp"

namespace wren {

struct EdgePlan {
  Cutter cutter;
  Feeds feeds;
  Contour outline;    // counter-clockwise
  double radius = 3;  // of the rounding
  Height surface;     // with the rounding, going on level outside the outline
  double top = 0;     // of the wood at the edge, at its highest
  double scallop = 0.02;
  double lowest = -1e9;  // no tip goes below
};

/// Passes of a ball from the top of the rounding down and outwards; chords' scallop is s²/8·(1/r + 1/R) between passes
/// s apart on the rounding (Machinery's Handbook, milling). Each tip rests on the surface itself, wherever the ball
/// touches it; between two places the straight line leaves that by 0.002 mm at most.
[[nodiscard]] std::vector<Strand> round_edge_by_ball(const EdgePlan& plan);

/// Once round with a round-over cutter whose corner radius is the rounding's, its pilot's rim along the wall, for a
/// level edge.
[[nodiscard]] Expected<std::vector<Strand>> round_edge_by_form(const EdgePlan& plan);

}  // namespace wren

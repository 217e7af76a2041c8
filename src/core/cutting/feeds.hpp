// Feeds and loads: spindle speed, feed and depth of a pass from the cutter, the wood and the machine.
// feed = speed × flutes × chip load; cutting speed = π·D·n (Machinery's Handbook; terms after ISO 3002-3).
#pragma once

#include <string>

#include "core/workshop/load.hpp"

namespace wren {

/// How a cutter is used: chip cross-section in mm.
struct Engagement {
  double depth = 1;            // axial
  double width = 1;            // radial
  double bending_most = 0.05;  // mm of bending at the tip that this cut may have
};

struct Feeds {
  double rpm = 0;
  double feed = 0;  // mm/min
  double plunge = 0;
  double chip_load = 0;    // mm per tooth, as it comes out
  double force = 0;        // N, mean tangential
  double bending = 0;      // mm at the tip
  std::string limited_by;  // "chip load", "bending", "the machine's feed", "spindle power"
};

/// Deepest pass in mm for a flat cutter in a full-width slot: half the diameter (common practice); 0.35 × for cutters
/// under 1 mm.
[[nodiscard]] double depth_per_pass(const Cutter& cutter);

[[nodiscard]] Feeds work_out_feeds(const Cutter& cutter, const Material& material, const Machine& machine,
                                   const Engagement& engagement);

}  // namespace wren

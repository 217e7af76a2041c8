// Feeds and loads: spindle speed, feed and depth of a pass from the cutter, the wood and the machine.
// feed = speed × flutes × chip load; cutting speed = π·D·n (Machinery's Handbook; terms after ISO 3002-3).
#pragma once

#include <string>

#include "core/workshop/cutter.hpp"
#include "core/workshop/machine.hpp"

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

/// Chip load in mm per tooth that common practice gives a carbide cutter of this diameter in wood of this class.
[[nodiscard]] double chip_load(double diameter, WoodClass wood);

/// Deepest pass in mm for a flat cutter in a full-width slot: half the diameter (common practice); 0.35 × for cutters
/// under 1 mm.
[[nodiscard]] double depth_per_pass(const Cutter& cutter);

/// Mean tangential force in N: k·a_e·a_p·f_z·z/(π·D): the power spent on chips divided by the cutting speed.
[[nodiscard]] double cutting_force(const Cutter& cutter, double specific_n_mm2, double depth, double width,
                                   double chip);

/// Bending of the cutter's tip in mm under a force at the tip: F·l³/(3·E·I), I = π·d⁴/64 (Roark's Formulas,
/// cantilever).
[[nodiscard]] double cantilever_bending(double force_n, double length_mm, double diameter_mm, double modulus_gpa);

/// The same for a cutter: its fluted part counts with 0.8 of its diameter (common practice), thin cutters bend over
/// their cutting length, others over their stickout.
[[nodiscard]] double cutter_bending(const Cutter& cutter, double force_n);

[[nodiscard]] Feeds work_out_feeds(const Cutter& cutter, const Wood& wood, const Machine& machine,
                                   const Engagement& engagement);

}  // namespace wren

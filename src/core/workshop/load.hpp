// What a cutter bears: chip, force and bending, for planning and for the proof alike. Lengths mm, forces N.
#pragma once

#include "core/workshop/cutter.hpp"
#include "core/workshop/machine.hpp"

namespace wren {

/// Chip load in mm per tooth that common practice gives a carbide cutter of this diameter in material of this class.
[[nodiscard]] double chip_load(double diameter, Hardness hardness);
/// The same in this material: what melts wants a thicker chip, which carries the heat away.
[[nodiscard]] double chip_load(double diameter, const Material& material);

/// Mean tangential force in N: k·a_e·a_p·f_z·z/(π·D): the power spent on chips divided by the cutting speed.
[[nodiscard]] double cutting_force(const Cutter& cutter, double specific_n_mm2, double depth, double width,
                                   double chip);

/// Bending of the cutter's tip in mm under a force at the tip: F·l³/(3·E·I), I = π·d⁴/64 (Roark's Formulas,
/// cantilever).
[[nodiscard]] double cantilever_bending(double force_n, double length_mm, double diameter_mm, double modulus_gpa);

/// The same for a cutter: its fluted part counts with 0.8 of its diameter (common practice), thin cutters bend over
/// their cutting length, others over their stickout.
[[nodiscard]] double cutter_bending(const Cutter& cutter, double force_n);

}  // namespace wren

#include "core/workshop/load.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace wren {

double chip_load(double diameter, Hardness hardness) {
  // Common practice for carbide in wood; straight lines between.
  struct Row {
    double diameter, chip;
  };
  static constexpr std::array<Row, 8> table{{{0.2, 0.004},
                                             {0.5, 0.010},
                                             {1.0, 0.016},
                                             {1.5, 0.022},
                                             {3.175, 0.045},
                                             {6.35, 0.09},
                                             {12.7, 0.13},
                                             {25.4, 0.18}}};
  const double factor = hardness == Hardness::soft ? 1.2 : hardness == Hardness::hard ? 0.8 : 1.0;
  if (diameter <= table.front().diameter) return factor * table.front().chip;
  for (std::size_t i = 1; i < table.size(); ++i)
    if (diameter <= table[i].diameter) {
      const double t = (diameter - table[i - 1].diameter) / (table[i].diameter - table[i - 1].diameter);
      return factor * (table[i - 1].chip + t * (table[i].chip - table[i - 1].chip));
    }
  return factor * table.back().chip;
}

double chip_load(double diameter, const Material& material) {
  constexpr double thicker_where_it_melts = 1.4;  // common practice
  return chip_load(diameter, material.hardness) * (material.melts ? thicker_where_it_melts : 1);
}

double cutting_force(const Cutter& cutter, double specific, double depth, double width, double chip) {
  const double d = cutter.effective_diameter();
  return specific * std::min(width, d) * depth * chip * cutter.flutes / (std::numbers::pi * d);
}

double cantilever_bending(double force_n, double length_mm, double diameter_mm, double modulus_gpa) {
  const double inertia = std::numbers::pi * std::pow(diameter_mm, 4) / 64;
  return force_n * std::pow(length_mm, 3) / (3 * modulus_gpa * 1000 * inertia);
}

double cutter_bending(const Cutter& cutter, double force_n) {
  const double d = cutter.effective_diameter();
  const double length = d < 3 ? cutter.cutting_length : cutter.stickout;
  return cantilever_bending(force_n, length, 0.8 * d, cutter.modulus_gpa);
}

}  // namespace wren

#include "core/cutting/feeds.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace wren {

double chip_load(double diameter, WoodClass wood) {
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
  const double factor = wood == WoodClass::soft ? 1.2 : wood == WoodClass::hard ? 0.8 : 1.0;
  if (diameter <= table.front().diameter) return factor * table.front().chip;
  for (std::size_t i = 1; i < table.size(); ++i)
    if (diameter <= table[i].diameter) {
      const double t = (diameter - table[i - 1].diameter) / (table[i].diameter - table[i - 1].diameter);
      return factor * (table[i - 1].chip + t * (table[i].chip - table[i - 1].chip));
    }
  return factor * table.back().chip;
}

double depth_per_pass(const Cutter& cutter) {
  const double d = cutter.effective_diameter();
  if (cutter.kind == CutterKind::facing) return 0.12 * d;
  return d < 1 ? 0.35 * d : 0.5 * d;
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

Feeds work_out_feeds(const Cutter& cutter, const Wood& wood, const Machine& machine, const Engagement& engagement) {
  Feeds out;
  const double d = cutter.effective_diameter();
  // Small cutters want all the speed there is; wide ones are held to 1000 m/min at the rim (common practice).
  const double wanted = d < 2 ? 20000 : 18000;
  const double rim = 1e6 / (std::numbers::pi * d);
  out.rpm = std::clamp(std::min(wanted, rim), machine.spindle_low, machine.spindle_high);
  out.rpm = std::floor(out.rpm / 100 + 1e-9) * 100;
  double chip = chip_load(d, wood.kind);
  out.limited_by = "chip load";
  const auto bending = [&](double c) {
    return cutter_bending(cutter, cutting_force(cutter, wood.cutting_force, engagement.depth, engagement.width, c));
  };
  if (const double b = bending(chip); b > engagement.bending_most) {
    chip *= engagement.bending_most / b;
    out.limited_by = "bending";
  }
  out.feed = out.rpm * cutter.flutes * chip;
  const double most = std::min(machine.max_feed.x, machine.max_feed.y);
  if (out.feed > most) {
    out.feed = most;
    out.limited_by = "the machine's feed";
  }
  // Power in watts: N/mm² × mm³/min / 60 / 1000.
  const double power = wood.cutting_force * engagement.depth * std::min(engagement.width, d) * out.feed / 60e3;
  if (power > 0.7 * machine.spindle_power) {
    out.feed *= 0.7 * machine.spindle_power / power;
    out.limited_by = "spindle power";
  }
  out.feed = std::max(1.0, std::floor(out.feed));
  out.chip_load = out.feed / (out.rpm * cutter.flutes);
  out.force = cutting_force(cutter, wood.cutting_force, engagement.depth, engagement.width, out.chip_load);
  out.bending = cutter_bending(cutter, out.force);
  out.plunge = std::max(1.0, std::floor(std::min(out.feed / 3, machine.max_feed.z)));
  return out;
}

}  // namespace wren

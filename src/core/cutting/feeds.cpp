#include "core/cutting/feeds.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wren {

double depth_per_pass(const Cutter& cutter) {
  const double d = cutter.effective_diameter();
  if (cutter.kind == CutterKind::facing) return 0.12 * d;
  return d < 1 ? 0.35 * d : 0.5 * d;
}

Feeds work_out_feeds(const Cutter& cutter, const Material& material, const Machine& machine,
                     const Engagement& engagement) {
  Feeds out;
  const double d = cutter.effective_diameter();
  // Small cutters want all the speed there is; wide ones are held to 1000 m/min at the rim (common practice).
  // What melts is cut slower, so that its chip is cold and thick (common practice).
  const double wanted = material.melts ? (d < 2 ? 16000 : 12000) : d < 2 ? 20000 : 18000;
  const double rim = 1e6 / (std::numbers::pi * d);
  out.rpm = std::clamp(std::min(wanted, rim), machine.spindle_low, machine.spindle_high);
  out.rpm = std::floor(out.rpm / 100 + 1e-9) * 100;
  double chip = chip_load(d, material);
  out.limited_by = "chip load";
  const auto bending = [&](double c) {
    return cutter_bending(cutter, cutting_force(cutter, material.cutting_force, engagement.depth, engagement.width, c));
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
  const double power = material.cutting_force * engagement.depth * std::min(engagement.width, d) * out.feed / 60e3;
  if (power > 0.7 * machine.spindle_power) {
    out.feed *= 0.7 * machine.spindle_power / power;
    out.limited_by = "spindle power";
  }
  out.feed = std::max(1.0, std::floor(out.feed));
  out.chip_load = out.feed / (out.rpm * cutter.flutes);
  out.force = cutting_force(cutter, material.cutting_force, engagement.depth, engagement.width, out.chip_load);
  out.bending = cutter_bending(cutter, out.force);
  out.plunge = std::max(1.0, std::floor(std::min(out.feed / 3, machine.max_feed.z)));
  return out;
}

}  // namespace wren

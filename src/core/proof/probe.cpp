#include "core/proof/probe.hpp"

#include <algorithm>
#include <cmath>

namespace wren {

const char* probe_blocked(const Setup& setup, const Setup::Probe& probe) {
  const Vec2 at = probe.at;
  const double x = setup.zero_in_machine.x + at.x;
  const double y = setup.zero_in_machine.y + at.y;
  if (!std::isfinite(at.x) || !std::isfinite(at.y)) return "that is no place";
  if (x < 0 || y < 0 || x > setup.machine.travel.x || y > setup.machine.travel.y)
    return "the machine does not reach there";
  for (const Setup::Box& box : setup.solids())
    if (at.x > box.low.x - probe_solids && at.x < box.high.x + probe_solids && at.y > box.low.y - probe_solids &&
        at.y < box.high.y + probe_solids)
      return "a clamp, fence or pin stands there";
  // How far inside the blank: negative outside it.
  const Vec2 low{setup.blank_corner.x, setup.blank_corner.y};
  const Vec2 high = low + setup.blank_size;
  const double inside = std::min({at.x - low.x, at.y - low.y, high.x - at.x, high.y - at.y});
  const bool bare = setup.blank.thickness <= 0;
  if (!probe.on_board || bare) {
    if (inside < probe_aside)
      return bare ? "that is beside the waste board" : "that is beside the blank or on its edge";
    return nullptr;
  }
  if (inside > -probe_aside) return "the blank lies on the waste board there";
  for (const BedHole& h : setup.bed_holes)
    if (distance(h.at, at) < h.radius + probe_radius) return "the waste board has a hole there";
  return nullptr;
}

ProbeFault probe_fault(const Setup& setup, const TileGrid& stock) {
  ProbeFault out{0, probe_blocked(setup, *setup.probe)};
  if (out.met != nullptr || (setup.probe->on_board && setup.blank.thickness > 0)) return out;
  const Vec2 at = setup.probe->at;
  const auto cell = [&](double v, double from) { return static_cast<int>(std::floor((v - from) / stock.cell())); };
  for (int j = cell(at.y - probe_radius, stock.origin().y); j <= cell(at.y + probe_radius, stock.origin().y); ++j)
    for (int i = cell(at.x - probe_radius, stock.origin().x); i <= cell(at.x + probe_radius, stock.origin().x); ++i)
      if (stock.holds(i, j) && distance(stock.centre(i, j), at) <= probe_radius)
        out.gone = std::max(out.gone, -static_cast<double>(stock.at(i, j)));
  return out;
}

}  // namespace wren

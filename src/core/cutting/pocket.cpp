#include "core/cutting/pocket.hpp"
#include "core/plan/region.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr double ramp_slope = 0.06;  // about 3.5°, gentle enough for any centre-cutting cutter (common practice)

double wood_over(const Mark& mark, const Height& top) {
  double z = top(mark.centre);
  for (const Vec2 p : mark.outline) z = std::max(z, top(p));
  return z;
}

std::vector<double> levels(double top, double floor, double bite) {
  const int n = std::max(1, static_cast<int>(std::ceil((top - floor) / bite - 1e-9)));
  std::vector<double> z;
  for (int i = 1; i <= n; ++i) z.push_back(top + (floor - top) * i / n);
  return z;
}

/// Two half circles counter-clockwise about the centre from the strand's present end at angle 0, sinking by `drop` in
/// all.
void circle(Strand& strand, Vec2 centre, double radius, double z, double drop, double feed) {
  strand.steps.push_back({{centre.x - radius, centre.y, z - drop / 2}, centre, feed, StepKind::arc_ccw});
  strand.steps.push_back({{centre.x + radius, centre.y, z - drop}, centre, feed, StepKind::arc_ccw});
}

std::vector<Strand> round_pocket(const Mark& mark, const PocketPlan& plan, double reach) {
  const double top = wood_over(mark, plan.wood_top);
  const double bite = depth_per_pass(plan.cutter);
  const double feed = plan.feeds.feed;
  const Vec2 c = mark.centre;
  Strand strand;
  strand.plunge_feed = plan.feeds.plunge;
  strand.free_z = top;
  if (reach < 0.05) {  // the cutter is as wide as the mark: pecked straight down
    strand.start = {c.x, c.y, top};
    for (const double z : levels(top, mark.floor, bite))
      strand.steps.push_back({{c.x, c.y, z}, {}, plan.feeds.plunge, StepKind::line});
    return {strand};
  }
  const double helix = std::min(reach, 0.45 * plan.cutter.effective_diameter());
  strand.start = {c.x + helix, c.y, top};
  double z = top;
  for (const double floor : levels(top, mark.floor, bite)) {
    if (strand.end().x != c.x + helix) strand.steps.push_back({{c.x + helix, c.y, z}, {}, feed, StepKind::line});
    const int turns =
        std::max(1, static_cast<int>(std::ceil((z - floor) / (2 * std::numbers::pi * helix * ramp_slope))));
    const double drop = (z - floor) / turns;
    for (int k = 0; k < turns; ++k) circle(strand, c, helix, z - k * drop, drop, feed);
    z = floor;
    circle(strand, c, helix, z, 0, feed);
    const int rings =
        static_cast<int>(std::ceil((reach - helix) / (plan.stepover * plan.cutter.effective_diameter()) - 1e-9));
    for (int k = 1; k <= rings; ++k) {
      const double r = helix + (reach - helix) * k / rings;
      strand.steps.push_back({{c.x + r, c.y, z}, {}, feed, StepKind::line});
      circle(strand, c, r, z, 0, feed);
    }
  }
  return {strand};
}

Strand ring(const Polygon& ring, double from_z, double to_z, const PocketPlan& plan) {
  Strand strand;
  strand.plunge_feed = plan.feeds.plunge;
  strand.start = {ring.front().x, ring.front().y, from_z};
  strand.free_z = from_z;
  // Round and round, sinking at the ramp's slope; then once more on the floor to take the ramp away.
  double z = from_z;
  std::size_t i = 0;
  Vec2 at = ring.front();
  const auto next = [&] { return ring[(i + 1) % ring.size()]; };
  while (z > to_z + 1e-9) {
    const Vec2 to = next();
    const double l = distance(at, to);
    const double sink = l * ramp_slope;
    const double t = sink > z - to_z ? (z - to_z) / sink : 1;
    at = lerp(at, to, t);
    z = t < 1 ? to_z : z - sink;
    strand.steps.push_back({{at.x, at.y, z}, {}, plan.feeds.feed, StepKind::line});
    if (t >= 1) i = (i + 1) % ring.size();
  }
  const Vec2 bottom = at;
  for (std::size_t k = 0; k < ring.size(); ++k) {
    const Vec2 to = next();
    strand.steps.push_back({{to.x, to.y, to_z}, {}, plan.feeds.feed, StepKind::line});
    i = (i + 1) % ring.size();
  }
  strand.steps.push_back({{bottom.x, bottom.y, to_z}, {}, plan.feeds.feed, StepKind::line});
  return strand;
}

}  // namespace

Expected<std::vector<Strand>> cut_pocket(const Mark& mark, const PocketPlan& plan) {
  const double r = plan.cutter.radius();
  const auto too_wide = [&] {
    return fail(ProblemKind::range,
                fmt::format("the cutter '{}' ({:.3f} mm) does not go into the mark at fret {}", plan.cutter.id, 2 * r,
                            mark.fret),
                "marks.cutter", "Choose a thinner cutter or larger marks");
  };
  if (mark.radius > 0) {
    const double reach = mark.radius - r;
    if (reach < -1e-9) return too_wide();
    return round_pocket(mark, plan, std::max(0.0, reach));
  }
  std::vector<std::vector<Polygon>> rings{offset({mark.outline}, -r)};
  if (rings.front().empty()) return too_wide();
  for (;;) {
    // Always from the outline itself: an offset of an offset gathers error and costs ten times as much.
    auto inner = offset({mark.outline}, -r - static_cast<double>(rings.size()) * plan.stepover * 2 * r);
    if (inner.empty() || rings.size() > 2000) break;
    rings.push_back(std::move(inner));
  }
  std::vector<Strand> out;
  double z = wood_over(mark, plan.wood_top);
  for (const double floor : levels(z, mark.floor, depth_per_pass(plan.cutter))) {
    for (std::size_t k = rings.size(); k-- > 0;)
      for (const Polygon& polygon : rings[k]) out.push_back(ring(polygon, z, floor, plan));
    z = floor;
  }
  return out;
}

double widest_cutter(const std::vector<Mark>& marks) {
  double widest = 1e300;
  for (const Mark& mark : marks) {
    if (mark.radius > 0) {
      widest = std::min(widest, 2 * mark.radius);
      continue;
    }
    double low = 0;
    double high = 50;
    while (high - low > 0.005) {
      const double middle = (low + high) / 2;
      (offset({mark.outline}, -middle).empty() ? high : low) = middle;
    }
    widest = std::min(widest, 2 * low);
  }
  return widest;
}

}  // namespace wren

#include "core/cutting/channel.hpp"
#include "core/cutting/helix.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr double ramp = 0.06;     // about 3.5° (common practice for centre-cutting cutters)
constexpr double merge = 0.0005;  // mm that dropping points along a floor may cost
constexpr double tight = 0.055;   // of the diameter: a helix of no more hardly leaves its place, and is a plunge
constexpr double plunge = 0.24;   // of the diameter, straight down at a time

class ChannelCutter {
 public:
  explicit ChannelCutter(const ChannelPlan& plan)
      : plan_(plan),
        u_(unit(plan.b - plan.a)),
        n_(left_of(u_)),
        run_(distance(plan.a, plan.b)),
        reach_(std::max(0.0, plan.width / 2 - plan.cutter.radius())) {
    if (run_ < 1e-9) {
      u_ = {1, 0};
      n_ = {0, 1};
    }
  }

  Strand cut() {
    strand_.plunge_feed = plan_.feeds.plunge;
    strand_.free_z = plan_.wood_top;
    double lowest = 1e300;
    for (int k = 0; k <= 32; ++k) lowest = std::min(lowest, plan_.floor(lerp(plan_.a, plan_.b, k / 32.0)));
    const double bite = depth_per_pass(plan_.cutter);
    const int levels = std::max(1, static_cast<int>(std::ceil((plan_.wood_top - lowest) / bite - 1e-9)));
    strand_.start = {plan_.a.x, plan_.a.y, plan_.wood_top};
    double above = plan_.wood_top;
    bool at_a = true;
    for (int i = 1; i <= levels; ++i) {
      const double level = plan_.wood_top + (lowest - plan_.wood_top) * i / levels;
      descend(at_a, above, level);
      if (reach_ > 0.02) {
        rings(at_a, level);
      } else if (run_ > 1e-9) {
        at_a = !at_a;
      }
      above = level;
    }
    return std::move(strand_);
  }

 private:
  [[nodiscard]] Vec2 place(double t, double off) const { return plan_.a + u_ * t + n_ * off; }
  [[nodiscard]] double z(Vec2 p, double level) const {
    // The cutter's bottom is level: it rests on the highest floor under it. On the way it still reaches the floor
    // everywhere, since its lowest rim passes over every place.
    const double t = dot(p - plan_.a, u_);
    double floor = level;
    // A ball touches it at its tip: what a slope lifts it is less than a micrometre on a rod's bow.
    if (plan_.cutter.kind == CutterKind::ball) return std::max(floor, plan_.floor(place(std::clamp(t, 0.0, run_), 0)));
    for (const double along : {-1.0, -0.5, 0.0, 0.5, 1.0})
      floor = std::max(floor, plan_.floor(place(t + along * plan_.cutter.radius(), 0)));
    return floor;
  }

  /// From one end to the other along the middle, sinking at the ramp's slope from `above` to the level, back over the
  /// wedge that this leaves, then level: a wedge left for the next pass would be twice as deep as a pass may be. A
  /// short channel is gone through there and back until it is deep enough.
  void descend(bool from_a, double above, double level) {
    if (run_ < 1e-9) {
      if (reach_ > tight * plan_.cutter.effective_diameter()) {
        const double r = std::min(reach_, 0.45 * plan_.cutter.effective_diameter());
        const int turns = std::max(1, static_cast<int>(std::ceil((above - level) / (2 * std::numbers::pi * r * ramp))));
        strand_.steps.push_back({{plan_.a.x + r, plan_.a.y, above}, {}, plan_.feeds.feed, StepKind::line});
        for (int k = 0; k < turns; ++k)
          turn(plan_.a, r, above - (above - level) * k / turns, above - (above - level) * (k + 1) / turns);
        turn(plan_.a, r, level, level);
      } else {
        const double bite = plunge * plan_.cutter.effective_diameter();
        const int n = std::max(1, static_cast<int>(std::ceil((above - level) / bite - 1e-9)));
        for (int k = 1; k <= n; ++k) {
          const double to = above - (above - level) * k / n;
          strand_.steps.push_back({{plan_.a.x, plan_.a.y, to}, {}, plan_.feeds.plunge, StepKind::line});
          if (k < n)
            strand_.steps.push_back(
                {{plan_.a.x, plan_.a.y, plan_.wood_top + 0.5}, {}, plan_.feeds.feed, StepKind::line});
        }
      }
      return;
    }
    double here = above;
    bool forward = from_a;
    do {
      const double sink = std::min(here - level, run_ * ramp);
      const double need = sink / ramp;
      const double to = here - sink;
      const double start = forward ? 0 : run_;
      const double sunk_at = forward ? std::min(need, run_) : std::max(0.0, run_ - need);
      std::vector<Vec3> points;
      const int n = std::max(2, static_cast<int>(need / 2));
      for (int k = 0; k <= n; ++k) {
        const Vec2 p = place(start + (sunk_at - start) * k / n, 0);
        points.push_back({p.x, p.y, z(p, std::max(level, here - sink * k / n))});
      }
      append_lines(strand_, thinned(points, merge), 1, plan_.feeds.feed);
      here = to;
      if (here <= level + 1e-9) {
        along(sunk_at, start, level);
        along(start, run_ - start, level);
      }
      forward = !forward;
    } while (here > level + 1e-9);
    // Ends where the level pass expects to be: at the far end of the way it began.
    if (forward == from_a) along(from_a ? 0 : run_, from_a ? run_ : 0, level);
  }

  void along(double from, double to, double level) {
    std::vector<Vec3> points;
    const int n = std::max(1, static_cast<int>(std::abs(to - from) / 2));
    for (int k = 0; k <= n; ++k) {
      const Vec2 p = place(from + (to - from) * k / n, 0);
      points.push_back({p.x, p.y, z(p, level)});
    }
    const Vec3 here = strand_.end();
    if (distance(here, points.front()) > 1e-6)
      strand_.steps.push_back({points.front(), {}, plan_.feeds.feed, StepKind::line});
    append_lines(strand_, thinned(points, merge), 1, plan_.feeds.feed);
  }

  void turn(Vec2 c, double r, double from, double to) {
    strand_.steps.push_back({{c.x - r, c.y, (from + to) / 2}, c, plan_.feeds.feed, StepKind::arc_ccw});
    strand_.steps.push_back({{c.x + r, c.y, to}, c, plan_.feeds.feed, StepKind::arc_ccw});
  }

  /// Racetracks counter-clockwise about the middle line, inner first.
  void rings(bool, double level) {
    const int n =
        std::max(1, static_cast<int>(std::ceil(reach_ / (plan_.stepover * plan_.cutter.effective_diameter()) - 1e-9)));
    for (int k = 1; k <= n; ++k) {
      const double r = reach_ * k / n;
      const auto corner = [&](double t, double off) {
        const Vec2 p = place(t, off);
        return Vec3{p.x, p.y, z(p, level)};
      };
      const auto straight = [&](double t0, double t1, double off) {
        std::vector<Vec3> points;
        const int m = std::max(1, static_cast<int>(std::abs(t1 - t0) / 2));
        for (int i = 0; i <= m; ++i) points.push_back(corner(t0 + (t1 - t0) * i / m, off));
        append_lines(strand_, thinned(points, merge), 1, plan_.feeds.feed);
      };
      strand_.steps.push_back({corner(0, -r), {}, plan_.feeds.feed, StepKind::line});
      if (run_ > 1e-9) straight(0, run_, -r);
      strand_.steps.push_back({corner(run_, r), place(run_, 0), plan_.feeds.feed, StepKind::arc_ccw});
      if (run_ > 1e-9) straight(run_, 0, r);
      strand_.steps.push_back({corner(0, -r), place(0, 0), plan_.feeds.feed, StepKind::arc_ccw});
    }
    strand_.steps.push_back({{plan_.a.x, plan_.a.y, z(plan_.a, level)}, {}, plan_.feeds.feed, StepKind::line});
  }

  const ChannelPlan& plan_;
  Vec2 u_, n_;
  double run_;
  double reach_;
  Strand strand_;
};

}  // namespace

Expected<Strand> cut_channel(const ChannelPlan& plan) {
  if (plan.cutter.effective_diameter() > plan.width + 0.005)
    return fail(ProblemKind::range,
                worded("the cutter '{}' ({}) is wider than the channel ({})", plan.cutter.id,
                       mm(plan.cutter.effective_diameter(), 3), mm(plan.width, 3)),
                "channel", "Choose a thinner cutter");
  return ChannelCutter(plan).cut();
}

Expected<Strand> bore(const BorePlan& plan) {
  const double r = plan.cutter.radius();
  const double reach = plan.diameter / 2 - r;
  if (reach < -0.005)
    return fail(ProblemKind::range,
                worded("the cutter '{}' ({}) does not go into a hole of {}", plan.cutter.id, mm(2 * r, 3),
                       mm(plan.diameter, 3)),
                "bore", "Choose a thinner cutter");
  if (reach < 0.02) return peck(plan, depth_per_pass(plan.cutter));
  Strand strand;
  strand.plunge_feed = plan.feeds.plunge;
  strand.free_z = plan.top;
  const double bottom = plan.bottom - plan.cutter.rounding();
  const bool pecked = reach < tight * plan.cutter.effective_diameter();
  if (pecked) strand = peck(plan, depth_per_pass(plan.cutter));
  // A core stays inside a ring wider than the cutter: smaller rings are bored first.
  std::vector<double> radii{reach};
  while (radii.front() > r * 0.98 + 0.02)
    radii.insert(radii.begin(), std::max(0.3 * r, radii.front() - 0.9 * 2 * r * 0.5));
  bool first = !pecked;
  for (const double radius : radii) {
    const double sink = std::min(depth_per_pass(plan.cutter) * 0.6, 2 * std::numbers::pi * radius * ramp);
    const int turns = std::max(1, static_cast<int>(std::ceil((plan.top - bottom) / sink)));
    const Vec3 start{plan.at.x + radius, plan.at.y, plan.top};
    if (first)
      strand.start = start;
    else {
      const Vec3 here = strand.end();
      strand.steps.push_back({{here.x, here.y, plan.top}, {}, plan.feeds.feed, StepKind::line});
      strand.steps.push_back({start, {}, plan.feeds.feed, StepKind::line});
    }
    first = false;
    // The feed holds at the cutter's outer edge: its middle goes slower round a tight ring.
    const double feed = plan.feeds.feed * radius / (radius + r);
    helix_down(strand, plan.at, radius, plan.top, bottom, turns, feed);
  }
  // Off the wall before it is lifted.
  strand.steps.push_back({{plan.at.x, plan.at.y, bottom}, {}, plan.feeds.feed, StepKind::line});
  return strand;
}

Strand peck(const BorePlan& plan, double bite) {
  Strand strand;
  strand.plunge_feed = plan.feeds.plunge;
  strand.free_z = plan.top;
  strand.start = {plan.at.x, plan.at.y, plan.top};
  const double bottom = plan.bottom - (plan.cutter.kind == CutterKind::drill ? plan.cutter.profile(plan.cutter.radius())
                                                                             : plan.cutter.rounding());
  // What is no drill goes straight down by a quarter of its width at a time.
  if (plan.cutter.kind != CutterKind::drill) bite = std::min(bite, plunge * plan.cutter.effective_diameter());
  const int n = std::max(1, static_cast<int>(std::ceil((plan.top - bottom) / bite - 1e-9)));
  for (int k = 1; k <= n; ++k) {
    strand.steps.push_back(
        {{plan.at.x, plan.at.y, plan.top + (bottom - plan.top) * k / n}, {}, plan.feeds.plunge, StepKind::line});
    if (k < n) strand.steps.push_back({{plan.at.x, plan.at.y, plan.top + 0.5}, {}, plan.feeds.feed, StepKind::line});
  }
  return strand;
}

}  // namespace wren

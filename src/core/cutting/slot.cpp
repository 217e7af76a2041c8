#include "core/cutting/slot.hpp"

#include <algorithm>

namespace wren {
namespace {

constexpr double lane_tolerance = 0.002;  // mm: narrower differences than this are below any machine's repeatability
constexpr double sample = 1.0;            // mm between points along a curved floor
constexpr double chord = 0.0005;          // mm that merging points may cost

/// One slot being cut: where the cutter's centre runs, and how deep at each level.
struct Groove {
  Vec2 from;
  Vec2 to;
  const Fretboard* board;
  const SlotPlan* plan;
  int levels;

  [[nodiscard]] double run() const { return distance(from, to); }
  /// Height of the tip at distance s from `from` at a level; 0 is the wood's top, `levels` the slot's floor. The
  /// cutter's flat tip rests where the floor is highest under it: on a crowned floor that is its edge on the crest's
  /// side.
  [[nodiscard]] double z(double s, int level) const {
    const Vec2 u = unit(to - from);
    const Vec2 p = from + u * s;
    const double r = plan->cutter.radius();
    const double top = plan->wood_top(p);
    const double floor = std::max({board->slot_floor(p), board->slot_floor(p - u * r), board->slot_floor(p + u * r)});
    return top + (std::min(top, floor) - top) * level / levels;
  }
  /// Points at a level from s0 to s1 (either way), moved sideways by `lane`.
  [[nodiscard]] std::vector<Vec3> line(double s0, double s1, int level, double lane) const {
    const Vec2 u = unit(to - from);
    const Vec2 side = left_of(u) * lane;
    const int n = std::max(1, static_cast<int>(std::ceil(std::abs(s1 - s0) / sample)));
    std::vector<Vec3> points;
    for (int i = 0; i <= n; ++i) {
      const double s = s0 + (s1 - s0) * i / n;
      const Vec2 p = from + u * s + side;
      points.push_back({p.x, p.y, z(s, level)});
    }
    return thinned(points, chord);
  }
};

void ramp_in(Strand& strand, const Groove& groove, double at, double ramp_to, int level, double lane,
             const Feeds& feeds) {
  // Down along the slot and back: the bite never exceeds one level.
  const std::vector<Vec3> there = groove.line(at, ramp_to, level, lane);
  std::vector<Vec3> slope;
  const Vec3 start = groove.line(at, ramp_to, level - 1, lane).front();
  for (const Vec3& p : there) {
    const double t =
        distance(flat(p), flat(there.front())) / std::max(1e-9, distance(flat(there.back()), flat(there.front())));
    slope.push_back({p.x, p.y, start.z + (there.front().z - start.z) * t + (p.z - there.front().z)});
  }
  append_lines(strand, slope, 1, feeds.feed);
  append_lines(strand, groove.line(ramp_to, at, level, lane), 1, feeds.feed);
}

Strand cut_one(const Groove& groove, const std::vector<double>& lanes, const SlotPlan& plan) {
  Strand strand;
  strand.plunge_feed = plan.feeds.plunge;
  bool forward = true;
  const double run = groove.run();
  const double ramp = std::min(6.0, run / 3);
  strand.start = groove.line(0, run, 0, lanes.front()).front();
  strand.free_z = strand.start.z;
  for (int level = 1; level <= groove.levels; ++level)
    for (std::size_t k = 0; k < lanes.size(); ++k) {
      const double at = forward ? 0 : run;
      const double end = forward ? run : 0;
      // Lanes are taken there and back, so that each level starts on the lane where the one before ended.
      const double lane = lanes[level % 2 == 1 ? k : lanes.size() - 1 - k];
      const std::vector<Vec3> pass = groove.line(at, end, level, lane);
      if (k == 0 && plan.entry == SlotEntry::ramp) {
        ramp_in(strand, groove, at, at + (end - at) * ramp / run, level, lane, plan.feeds);
      } else {
        strand.steps.push_back({pass.front(), {}, k == 0 ? plan.feeds.plunge : plan.feeds.feed, StepKind::line});
      }
      append_lines(strand, pass, 1, plan.feeds.feed);
      forward = !forward;
    }
  return strand;
}

}  // namespace

std::vector<double> slot_lanes(double width, double diameter) {
  const double spare = width - diameter;
  if (spare <= lane_tolerance) return {0};
  const int lanes = 1 + std::max(1, static_cast<int>(std::ceil(spare / (0.8 * diameter) - 1e-9)));
  std::vector<double> offsets;
  for (int i = 0; i < lanes; ++i) offsets.push_back(-spare / 2 + spare * i / (lanes - 1));
  return offsets;
}

std::vector<Strand> cut_slots(const Fretboard& board, const SlotPlan& plan) {
  std::vector<Strand> out;
  const double r = plan.cutter.radius();
  const std::vector<double> lanes = slot_lanes(board.given.slot.width, plan.cutter.effective_diameter());
  // Straight down the cutter takes at most a quarter of its width at once (M1), by a ramp what a pass takes.
  const double bite = plan.entry == SlotEntry::peck
                          ? std::min(slot_bite(plan.cutter), 0.25 * plan.cutter.effective_diameter())
                          : slot_bite(plan.cutter);
  bool swap = false;
  for (const FretLine& fret : board.frets) {
    const double beyond = board.given.slot.ends == SlotEnds::through ? r + plan.run_out : -r;
    const Vec2 u = fret.along();
    Groove groove{fret.slot_bass - u * beyond, fret.slot_treble + u * beyond, &board, &plan, 1};
    if (swap) std::swap(groove.from, groove.to);  // the next slot starts where this one is likely to have ended
    double deepest = 0;
    for (int i = 0; i <= 32; ++i)
      deepest = std::max(deepest, groove.z(groove.run() * i / 32, 0) - groove.z(groove.run() * i / 32, 1));
    if (deepest <= 0) continue;
    groove.levels = std::max(1, static_cast<int>(std::ceil(deepest / bite - 1e-9)));
    out.push_back(cut_one(groove, lanes, plan));
    const int passes = groove.levels * static_cast<int>(lanes.size());
    if (passes % 2 == 1) swap = !swap;
  }
  return out;
}

}  // namespace wren

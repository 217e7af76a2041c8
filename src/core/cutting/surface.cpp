#include "core/cutting/surface.hpp"

#include "core/cutting/way_down.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <thread>

namespace wren {
namespace {

constexpr double merge_error = 0.001;  // mm that dropping points along a row may cost

/// Lowers the stock under a straight move: a plain sweep of the cutter's shape over the cells near it. The strategies
/// keep their own (the proof's removal is another piece of code on purpose).
class Eraser {
 public:
  Eraser(const Cutter& cutter, TileGrid& stock) : stock_(stock), r_(cutter.radius()) {
    const double cell = stock.cell();
    const int n = static_cast<int>(std::ceil(r_ / cell));
    for (int j = -n; j <= n; ++j)
      for (int i = -n; i <= n; ++i)
        if (const double rho = std::hypot(i, j) * cell; rho <= r_)
          disk_.push_back({i, j, static_cast<float>(cutter.profile(rho))});
  }
  void stamp(Vec3 tip) {
    const int ci = static_cast<int>(std::floor((tip.x - stock_.origin().x) / stock_.cell()));
    const int cj = static_cast<int>(std::floor((tip.y - stock_.origin().y) / stock_.cell()));
    for (const auto& d : disk_)
      if (stock_.holds(ci + d.i, cj + d.j)) {
        float& z = stock_.at(ci + d.i, cj + d.j);
        z = std::min(z, static_cast<float>(tip.z) + d.up);
      }
  }

 private:
  struct Part {
    int i, j;
    float up;
  };
  TileGrid& stock_;
  double r_;
  std::vector<Part> disk_;
};

float highest_near(const TileGrid& grid, Vec2 p, double reach) {
  const int i0 = static_cast<int>(std::floor((p.x - reach - grid.origin().x) / grid.cell()));
  const int i1 = static_cast<int>(std::floor((p.x + reach - grid.origin().x) / grid.cell()));
  const int j0 = static_cast<int>(std::floor((p.y - reach - grid.origin().y) / grid.cell()));
  const int j1 = static_cast<int>(std::floor((p.y + reach - grid.origin().y) / grid.cell()));
  float best = TileGrid::outside;
  for (int j = std::max(0, j0); j <= std::min(grid.height() - 1, j1); ++j)
    for (int i = std::max(0, i0); i <= std::min(grid.width() - 1, i1); ++i) best = std::max(best, grid.at(i, j));
  return best;
}

Vec2 gradient(const Height& surface, Vec2 p) {
  constexpr double h = 0.01;
  return {(surface({p.x + h, p.y}) - surface({p.x - h, p.y})) / (2 * h),
          (surface({p.x, p.y + h}) - surface({p.x, p.y - h})) / (2 * h)};
}

/// Between places where the tip rises or falls steeply the cutter goes up before it goes on, and on before it goes
/// down: a slanted move would cut into the wall between them.
std::vector<Vec3> with_steps(const std::vector<Vec3>& points, double most) {
  std::vector<Vec3> out;
  for (const Vec3& p : points) {
    if (!out.empty()) {
      const Vec3 before = out.back();
      if (p.z > before.z + most)
        out.push_back({before.x, before.y, p.z});
      else if (p.z < before.z - most)
        out.push_back({p.x, p.y, before.z});
    }
    out.push_back(p);
  }
  return out;
}

struct Row {
  std::vector<Vec3> points;
};

/// The steps of a strand from `first` on, which begins at `at`, where they go down into what roughing left.
void go_down_gently(Strand& strand, std::size_t first, Vec3 at, const FinishPlan& plan, Eraser& eraser) {
  const auto begin = strand.steps.begin() + static_cast<std::ptrdiff_t>(first);
  Strand row{at, at.z, plan.feeds.plunge, {begin, strand.steps.end()}};
  row =
      with_ways_down(row, plan.cutter, [&](Vec2 q) { return static_cast<double>(highest_near(*plan.stock, q, 0.6)); });
  strand.steps.erase(begin, strand.steps.end());
  for (const Step& step : row.steps) {
    const int n = std::max(1, static_cast<int>(std::ceil(distance(flat(at), flat(step.to)) / plan.stock->cell())));
    for (int k = 1; k <= n; ++k) eraser.stamp(lerp(at, step.to, static_cast<double>(k) / n));
    at = step.to;
    strand.steps.push_back(step);
  }
}

}  // namespace

double row_distance(const Cutter& cutter, double scallop, double bend) {
  const double r = std::max(cutter.rounding(), 0.05);
  const double bent = bend > 0 ? 1 / bend : 0;
  return std::min(std::sqrt(8 * scallop / (1 / r + bent)), 1.6 * r) + 2 * cutter.flat_radius() * 0.6;
}

namespace {

/// A way of the cutter that is looked at again on every level: a row of the raster or a loop along a wall.
struct Lane {
  std::vector<Vec2> at;
  std::vector<Vec2> side;  // unit, square to the way
  std::vector<float> tip;  // lowest the target lets the cutter
  std::vector<float> cut;  // where it was already, at that very place
  double reach = 0;        // half width that is this lane's own to clear
};

class Rougher {
 public:
  Rougher(const TileGrid& target, TileGrid& stock, const RoughPlan& plan)
      : stock_(stock),
        plan_(plan),
        dropper_(plan.cutter, target),
        eraser_(plan.cutter, stock),
        r_(plan.cutter.radius()),
        step_(plan.stepover * plan.cutter.effective_diameter()) {
    rows(target);
    for (const Polygon& loop : plan.loops) add_loop(loop);
    lowest_ = plan.top;
    for (const auto* lanes : {&rows_, &loops_})
      for (const Lane& lane : *lanes)
        for (const float z : lane.tip) lowest_ = std::min(lowest_, std::max(-1e6, static_cast<double>(z)));
  }

  std::vector<Strand> run() {
    const int levels = std::max(1, static_cast<int>(std::ceil((plan_.top - lowest_) / plan_.bite - 1e-9)));
    for (int l = 1; l <= levels; ++l) {
      const double level = plan_.top + (lowest_ - plan_.top) * l / levels;
      bool forward = true;
      for (Lane& lane : rows_) {
        cut(lane, level, forward);
        forward = !forward;
      }
      for (Lane& lane : loops_) cut(lane, level, true);
    }
    return std::move(out_);
  }

 private:
  static constexpr double pace_ = 1.0;  // mm along a lane
  static constexpr float never_ = 1e9F;

  void rows(const TileGrid& target) {
    const Vec2 origin = target.origin();
    const double size_x = target.width() * target.cell();
    const double size_y = target.height() * target.cell();
    const double run = plan_.along_x ? size_x : size_y;
    const double across = plan_.along_x ? size_y : size_x;
    const int n = std::max(1, static_cast<int>(std::ceil((across - 2 * r_) / step_)));
    const int count = std::max(2, static_cast<int>(run / pace_));
    for (int row = 0; row < n; ++row) {
      const double a = r_ + (across - 2 * r_) * (row + 0.5) / n;
      Lane lane;
      lane.reach = std::min(r_ * 0.92, step_ / 2 + 0.6);  // its own part; neighbours clear theirs
      for (int k = 0; k < count; ++k) {
        const double t = (k + 0.5) * pace_;
        lane.at.push_back(plan_.along_x ? Vec2{origin.x + t, origin.y + a} : Vec2{origin.x + a, origin.y + t});
      }
      lane.side.assign(lane.at.size(), plan_.along_x ? Vec2{0, 1} : Vec2{1, 0});
      lane.tip.resize(lane.at.size());
      dropper_.drop_row(lane.at.front(), plan_.along_x ? Vec2{pace_, 0} : Vec2{0, pace_}, count, lane.tip.data());
      lane.cut.assign(lane.at.size(), never_);
      rows_.push_back(std::move(lane));
    }
  }

  void add_loop(const Polygon& loop) {
    Lane lane;
    lane.reach = r_ * 0.98;
    for (std::size_t i = 0; i < loop.size(); ++i) {
      const Vec2 b = loop[(i + 1) % loop.size()];
      const double l = distance(loop[i], b);
      const int n = std::max(1, static_cast<int>(std::ceil(l / pace_)));
      for (int k = 0; k < n; ++k) {
        lane.at.push_back(lerp(loop[i], b, static_cast<double>(k) / n));
        lane.side.push_back(left_of(unit(b - loop[i])));
      }
    }
    if (lane.at.empty()) return;
    lane.at.push_back(lane.at.front());
    lane.side.push_back(lane.side.front());
    for (const Vec2 p : lane.at) lane.tip.push_back(dropper_.drop(p));
    lane.cut.assign(lane.at.size(), never_);
    loops_.push_back(std::move(lane));
  }

  [[nodiscard]] double tip(const Lane& lane, std::size_t k, double level) const {
    return std::max(level, static_cast<double>(lane.tip[k]));
  }
  [[nodiscard]] bool allowed(const Lane& lane, std::size_t k, double level) const {
    return tip(lane, k, level) < plan_.top - 0.01;
  }

  /// Wood under the lane's own width that stands over the tip.
  [[nodiscard]] bool wood(const Lane& lane, std::size_t k, double z) const {
    for (double o = -lane.reach; o <= lane.reach; o += stock_.cell()) {
      const Vec2 q = lane.at[k] + lane.side[k] * o;
      const int i = static_cast<int>(std::floor((q.x - stock_.origin().x) / stock_.cell()));
      const int j = static_cast<int>(std::floor((q.y - stock_.origin().y) / stock_.cell()));
      if (stock_.holds(i, j) && static_cast<double>(stock_.at(i, j)) - plan_.cutter.profile(std::abs(o)) > z + 0.08)
        return true;
    }
    return false;
  }

  /// Runs of wood along a lane, a little longer on both sides, short gaps bridged.
  [[nodiscard]] std::vector<std::pair<std::size_t, std::size_t>> runs(const Lane& lane, double level) const {
    std::vector<std::pair<std::size_t, std::size_t>> out;
    const std::size_t count = lane.at.size();
    for (std::size_t k = 0; k < count; ++k) {
      if (!allowed(lane, k, level) || !wood(lane, k, tip(lane, k, level))) continue;
      std::size_t end = k;
      for (std::size_t m = k + 1; m < count && m < end + 8 && allowed(lane, m, level); ++m)
        if (wood(lane, m, tip(lane, m, level))) end = m;
      std::size_t a = k;
      std::size_t b = end;
      while (a > 0 && k - a < 2 && allowed(lane, a - 1, level)) --a;
      while (b + 1 < count && b - end < 2 && allowed(lane, b + 1, level)) ++b;
      if (b > a) out.emplace_back(a, b);
      k = b;
    }
    return out;
  }

  void cut(Lane& lane, double level, bool forward) {
    auto all = runs(lane, level);
    if (!forward) std::reverse(all.begin(), all.end());
    for (const auto& [a, b] : all) {
      std::vector<Vec3> points;
      for (std::size_t k = a; k <= b; ++k) points.push_back({lane.at[k].x, lane.at[k].y, tip(lane, k, level)});
      if (!forward) std::reverse(points.begin(), points.end());
      points = with_steps(points, 0.4);
      // A pit of one place has no way in that is no plunge: it is left to lanes that come along it.
      const auto above = [](Vec3 p, Vec3 q) { return distance(flat(p), flat(q)) < 1e-6; };
      while (points.size() > 1 && above(points[0], points[1]) && points[1].z > points[0].z)
        points.erase(points.begin());
      while (points.size() > 1 && above(points.back(), points[points.size() - 2]) &&
             points.back().z < points[points.size() - 2].z)
        points.pop_back();
      for (std::size_t k = 1; k + 1 < points.size();)
        if (above(points[k - 1], points[k]) && above(points[k], points[k + 1]) && points[k].z < points[k - 1].z &&
            points[k].z < points[k + 1].z)
          points.erase(points.begin() + static_cast<std::ptrdiff_t>(k));
        else
          ++k;
      if (points.size() < 2) continue;
      // Where it does not stay down from the last run it comes from above, down along the run where wood stands.
      const bool stays = joined(points.front());
      Strand run{points.front(),
                 stays ? points.front().z : free_over(lane, forward ? a : b, points.front()),
                 plan_.feeds.plunge,
                 {}};
      const auto way = thinned(points, 0.005);
      append_lines(run, way, 1, plan_.feeds.feed);
      run = with_ways_down(run, plan_.cutter,
                           [this](Vec2 q) { return static_cast<double>(highest_near(stock_, q, 0.6)); });
      if (stays)
        out_.back().steps.insert(out_.back().steps.end(), run.steps.begin(), run.steps.end());
      else
        out_.push_back(std::move(run));
      for (std::size_t i = 0; i + 1 < points.size(); ++i) {
        eraser_.stamp(points[i]);
        eraser_.stamp(lerp(points[i], points[i + 1], 0.5));
      }
      eraser_.stamp(points.back());
      note(lane, a, b, way, forward);
    }
  }

  /// What a run reached at the lane's own places, exactly: pits and places that were left out of it it did not.
  static void note(Lane& lane, std::size_t a, std::size_t b, const std::vector<Vec3>& points, bool forward) {
    std::size_t m = 0;
    for (std::size_t n = 0; n <= b - a; ++n) {
      const std::size_t k = forward ? a + n : b - n;
      for (; m < points.size() && distance(flat(points[m]), lane.at[k]) < 1e-9; ++m)
        lane.cut[k] = std::min(lane.cut[k], static_cast<float>(points[m].z));
    }
  }

  /// The height down to which nothing stands over a place of a lane: where the lane was itself, that is certain; else
  /// the stock tells, with the cells that the cutter only touches, since what stands in a part of one is not seen.
  [[nodiscard]] double free_over(const Lane& lane, std::size_t k, Vec3 at) const {
    const double seen = highest_near(stock_, flat(at), r_ + stock_.cell());
    const bool there = distance(lane.at[k], flat(at)) < 1e-9;
    return std::max(at.z, there ? std::min(seen, static_cast<double>(lane.cut[k])) : seen);
  }

  /// A short step over at about the same level stays down where the cutter fits on the way.
  bool joined(Vec3 to) {
    if (out_.empty()) return false;
    Strand& strand = out_.back();
    const Vec3 from = strand.end();
    if (distance(flat(from), flat(to)) > 2.2 * step_ + 2 || std::abs(from.z - to.z) > plan_.bite * 0.6) return false;
    double over = std::max(from.z, to.z);
    for (const double t : {0.25, 0.5, 0.75})
      over = std::max(over, static_cast<double>(dropper_.drop(lerp(flat(from), flat(to), t))));
    if (over > std::max(from.z, to.z) + 0.5 || over - to.z > 0.2 * plan_.cutter.effective_diameter()) return false;
    // A step down at the seam goes on with the descent before it: into wood it comes from above, by a way of its own.
    constexpr double little = 0.3;  // mm of wood
    if (over > to.z + 0.05 && static_cast<double>(highest_near(stock_, flat(to), 0.6)) > to.z + little) return false;
    if (over > from.z + 1e-6) strand.steps.push_back({{from.x, from.y, over}, {}, plan_.feeds.feed, StepKind::line});
    strand.steps.push_back({{to.x, to.y, over}, {}, plan_.feeds.feed, StepKind::line});
    if (over > to.z + 1e-6) strand.steps.push_back({to, {}, plan_.feeds.feed, StepKind::line});
    for (const double t : {0.0, 0.34, 0.67, 1.0})
      eraser_.stamp({from.x + (to.x - from.x) * t, from.y + (to.y - from.y) * t, over});
    return true;
  }

  TileGrid& stock_;
  const RoughPlan& plan_;
  GridDropper dropper_;
  Eraser eraser_;
  double r_;
  double step_;
  double lowest_ = 0;
  std::vector<Lane> rows_, loops_;
  std::vector<Strand> out_;
};

}  // namespace

std::vector<Strand> rough_by_levels(const TileGrid& target, TileGrid& stock, const RoughPlan& plan) {
  return Rougher(target, stock, plan).run();
}

namespace {

/// Tip of a ball of radius r whose axis stands at q and that rests on the surface somewhere between two places, at most
/// one edge apart: there its height has one summit.
double ball_over(const Height& surface, Vec2 a, Vec2 b, Vec2 q, double r) {
  if (!(r > 0)) return -1e300;
  const auto tip = [&](double t) {
    const Vec2 c = lerp(a, b, t);
    const double off = distance(c, q);
    return off < r ? surface(c) + std::sqrt(r * r - off * off) - r : -1e300 - off;
  };
  double low = 0;
  double high = 1;
  for (int k = 0; k < 40; ++k) {
    const double t1 = low + (high - low) / 3;
    const double t2 = high - (high - low) / 3;
    (tip(t1) < tip(t2) ? low : high) = tip(t1) < tip(t2) ? t1 : t2;
  }
  return tip((low + high) / 2);
}

}  // namespace

std::vector<Strand> finish_along(const Height& surface, const TileGrid& grid, const std::vector<Station>& stations,
                                 const FinishPlan& plan) {
  // Arc length across each station, as a table from share of the way to y.
  constexpr int parts = 120;
  struct Across {
    double x;
    std::vector<float> y;  // parts + 1 entries: share k / parts of the arc
  };
  std::vector<Across> across;
  double longest = 0;
  for (const Station& s : stations) {
    if (!(s.high > s.low)) continue;
    Across a{s.x, {}};
    std::vector<double> length(parts + 1, 0);
    double before = surface({s.x, s.low});
    for (int k = 1; k <= parts; ++k) {
      const double z = surface({s.x, s.low + (s.high - s.low) * k / parts});
      length[static_cast<std::size_t>(k)] =
          length[static_cast<std::size_t>(k - 1)] + std::hypot((s.high - s.low) / parts, z - before);
      before = z;
    }
    longest = std::max(longest, length.back());
    int at = 0;
    for (int k = 0; k <= parts; ++k) {
      const double want = length.back() * k / parts;
      while (at + 1 < parts && length[static_cast<std::size_t>(at) + 1] < want) ++at;
      const double l0 = length[static_cast<std::size_t>(at)];
      const double l1 = length[static_cast<std::size_t>(at) + 1];
      const double t = l1 > l0 ? std::clamp((want - l0) / (l1 - l0), 0.0, 1.0) : 0;
      a.y.push_back(static_cast<float>(s.low + (s.high - s.low) * (at + t) / parts));
    }
    across.push_back(std::move(a));
  }
  if (across.size() < 2) return {};
  const double apart = row_distance(plan.cutter, plan.scallop, plan.bend);
  const int rows = std::max(2, static_cast<int>(std::ceil(longest / apart)) + 1);
  const GridDropper dropper(plan.cutter, grid);
  const double r = plan.cutter.rounding();
  std::vector<Row> made(static_cast<std::size_t>(rows));
  const auto make = [&](int row) {
    const double share = static_cast<double>(row) / (rows - 1) * parts;
    const int k = std::min(static_cast<int>(share), parts - 1);
    const float t = static_cast<float>(share - k);
    const auto y = [&](const Across& a) {
      return static_cast<double>(a.y[static_cast<std::size_t>(k)] +
                                 (a.y[static_cast<std::size_t>(k) + 1] - a.y[static_cast<std::size_t>(k)]) * t);
    };
    std::vector<Vec3> points;
    for (std::size_t i = 0; i + 1 < across.size(); ++i) {
      const Vec2 a{across[i].x, y(across[i])};
      const Vec2 b{across[i + 1].x, y(across[i + 1])};
      const int n = std::max(1, static_cast<int>(std::ceil(distance(a, b) / plan.sample)));
      const bool last = i + 2 == across.size();
      for (int m = 0; m < n + (last ? 1 : 0); ++m) {
        const Vec2 p = lerp(a, b, static_cast<double>(m) / n);
        points.push_back({p.x, p.y, 0});
      }
    }
    // The points so far are where the cutter touches: its axis stands beside them, down the slope. The grid's drop is a
    // maximum over cells and so a little low on slopes: there the contact itself decides.
    std::vector<double> touch(points.size(), -1e300);
    std::vector<Vec2> contacts;
    std::vector<double> steep(points.size(), 0);
    for (const Vec3& p : points) contacts.push_back(flat(p));
    if (r > 0)
      for (std::size_t i = 0; i < points.size(); ++i) {
        const Vec2 contact = contacts[i];
        const Vec2 g = gradient(surface, contact);
        steep[i] = length(g);
        const double up = 1 / std::sqrt(1 + dot(g, g));
        const Vec2 axis = contact - g * (up * r);
        touch[i] = surface(contact) + up * r - r;
        points[i] = {axis.x, axis.y, 0};
      }
    for (std::size_t i = 0; i < points.size(); ++i) {
      const Vec2 p = flat(points[i]);
      double z = std::max(static_cast<double>(dropper.drop(p)), touch[i]);
      if (plan.lowest) z = std::max(z, plan.lowest(p));
      points[i].z = z;
    }
    // Over an edge the axis jumps while the contact hardly moves: in between the cutter rolls round it, on whatever it
    // touches between the two.
    std::vector<Vec3> whole;
    for (std::size_t i = 0; i < points.size(); ++i) {
      const Vec3& p = points[i];
      if (!whole.empty())
        if (const Vec3 before = whole.back(); distance(flat(before), flat(p)) > 1.6 * plan.sample) {
          constexpr double turn = 0.15;  // mm over, and little more down a steep side
          const double finer = std::max(1.0, std::max(steep[i - 1], steep[i]) / 2);
          const int n = static_cast<int>(std::ceil(distance(flat(before), flat(p)) / turn * finer));
          for (int m = 1; m < n; ++m) {
            const Vec2 q = lerp(flat(before), flat(p), static_cast<double>(m) / n);
            const double z = std::max(static_cast<double>(dropper.drop(q)), plan.lowest ? plan.lowest(q) : -1e300);
            whole.push_back({q.x, q.y, std::max(z, ball_over(surface, contacts[i - 1], contacts[i], q, r))});
          }
        }
      whole.push_back(p);
    }
    points = with_steps(whole, 0.6);
    made[static_cast<std::size_t>(row)].points = thinned(points, merge_error);
  };
  std::thread other([&] {
    for (int row = 1; row < rows; row += 2) make(row);
  });
  for (int row = 0; row < rows; row += 2) make(row);
  other.join();
  Strand strand;
  strand.plunge_feed = plan.feeds.plunge;
  std::optional<Eraser> eraser;
  if (plan.stock != nullptr) eraser.emplace(plan.cutter, *plan.stock);
  bool forward = true;
  for (Row& row : made) {
    const std::size_t before = strand.steps.size();
    const Vec3 from_here = strand.end();
    std::vector<Vec3>& points = row.points;
    if (!forward) std::reverse(points.begin(), points.end());
    if (strand.steps.empty() && strand.free_z == 0 && &row == &made.front()) {
      strand.start = points.front();
      strand.free_z = std::max(plan.wood_top, points.front().z);
    } else {
      // Over to the next row on the surface itself.
      const Vec3 from = strand.end();
      const double half = static_cast<double>(dropper.drop(lerp(flat(from), flat(points.front()), 0.5)));
      const Vec2 m = lerp(flat(from), flat(points.front()), 0.5);
      strand.steps.push_back(
          {{m.x, m.y, std::max({half, std::min(from.z, points.front().z)})}, {}, plan.feeds.feed, StepKind::line});
      strand.steps.push_back({points.front(), {}, plan.feeds.feed, StepKind::line});
    }
    append_lines(strand, points, 1, plan.feeds.feed);
    if (eraser) go_down_gently(strand, before, &row == &made.front() ? strand.start : from_here, plan, *eraser);
    forward = !forward;
  }
  return {std::move(strand)};
}

double side_at(const Height& surface, double x, double edge, double inner, double z) {
  if (surface({x, edge}) >= z) return edge;
  double out = edge;
  double in = inner;
  if (surface({x, in}) < z) return inner;
  while (std::abs(out - in) > 1e-7) {
    const double middle = (out + in) / 2;
    (surface({x, middle}) < z ? out : in) = middle;
  }
  return (out + in) / 2;
}

namespace {

/// Runs of stations that have something to do, as index ranges.
std::vector<std::pair<std::size_t, std::size_t>> runs_of(const std::vector<char>& busy) {
  std::vector<std::pair<std::size_t, std::size_t>> out;
  for (std::size_t i = 0; i < busy.size(); ++i) {
    if (busy[i] == 0) continue;
    std::size_t end = i;
    while (end + 1 < busy.size() && busy[end + 1] != 0) ++end;
    if (end > i + 1) out.emplace_back(i, end);
    i = end;
  }
  return out;
}

/// The side's y at every station for heights a step apart: what a cutter beside it must keep clear of.
class SideRims {
 public:
  SideRims(const Height& surface, const std::vector<SideStation>& side, double low, double high, double step)
      : side_(side), low_(low), step_(step) {
    const int n = std::max(1, static_cast<int>(std::ceil((high - low) / step)) + 1);
    for (int k = 0; k < n; ++k) {
      std::vector<double> rim(side.size());
      for (std::size_t i = 0; i < side.size(); ++i)
        rim[i] = side_at(surface, side[i].x, side[i].edge, side[i].inner, low + k * step);
      rims_.push_back(std::move(rim));
    }
  }

  /// Moves a centre beside station i outwards until the cutter touches the side at no height: `radius_at(z)` is its
  /// radius there, negative where it does not reach. Between stations the side is taken as straight; between heights as
  /// at the lower one, which stands further out.
  template <class RadiusAt>
  [[nodiscard]] Vec2 clear(std::size_t i, Vec2 centre, const RadiusAt& radius_at) const {
    const double out = side_[i].inner > side_[i].edge ? -1 : 1;
    double far = out * centre.y;
    for (std::size_t k = 0; k < rims_.size(); ++k) {
      const double radius = radius_at(low_ + static_cast<double>(k) * step_);
      if (radius > 0) push(rims_[k], i, centre.x, radius, out, far);
    }
    return {centre.x, out * far};
  }

 private:
  void push(const std::vector<double>& rim, std::size_t i, double x, double radius, double out, double& far) const {
    constexpr int parts = 4;
    const auto look = [&](std::size_t a, std::size_t b) {  // the stretch between two neighbouring stations
      bool within = false;
      for (int m = 0; m <= parts; ++m) {
        const double t = static_cast<double>(m) / parts;
        const double dx = side_[a].x + (side_[b].x - side_[a].x) * t - x;
        if (std::abs(dx) >= radius) continue;
        within = true;
        far = std::max(far, out * (rim[a] + (rim[b] - rim[a]) * t) + std::sqrt(radius * radius - dx * dx));
      }
      return within;
    };
    for (std::size_t k = i; k > 0 && look(k, k - 1); --k) {
    }
    for (std::size_t k = i; k + 1 < side_.size() && look(k, k + 1); ++k) {
    }
  }
  const std::vector<SideStation>& side_;
  double low_;
  double step_;
  std::vector<std::vector<double>> rims_;
};

void add_side_pass(std::vector<Strand>& out, std::vector<Vec3> points, const SidePlan& plan, bool& forward) {
  if (points.size() < 3) return;
  points = thinned(points, merge_error);
  if (!forward) std::reverse(points.begin(), points.end());
  forward = !forward;
  const bool near = !out.empty() && distance(out.back().end(), points.front()) < 1.5;
  if (near) {
    out.back().steps.push_back({points.front(), {}, plan.feeds.feed, StepKind::line});
  } else {
    Strand strand;
    strand.plunge_feed = plan.feeds.plunge;
    strand.start = points.front();
    strand.free_z = std::max(plan.wood_top, points.front().z);
    out.push_back(std::move(strand));
  }
  append_lines(out.back(), points, 1, plan.feeds.feed);
}

}  // namespace

std::vector<Strand> finish_side_ball(const Height& surface, const std::vector<SideStation>& side,
                                     const SidePlan& plan) {
  std::vector<Strand> out;
  const double r = plan.cutter.radius();
  // The longest arc between the band's two heights decides the number of rows.
  double longest = 0;
  std::vector<std::pair<double, double>> ends(side.size());
  for (std::size_t i = 0; i < side.size(); ++i) {
    const SideStation& s = side[i];
    if (!(s.high > s.low)) continue;
    const double y0 = side_at(surface, s.x, s.edge, s.inner, s.low);
    const double y1 = side_at(surface, s.x, s.edge, s.inner, s.high);
    ends[i] = {s.low, s.high};
    longest = std::max(longest, std::hypot(y1 - y0, s.high - s.low));
  }
  if (longest <= 0) return out;
  const int rows = std::max(2, static_cast<int>(std::ceil(longest / row_distance(plan.cutter, plan.scallop, 20))) + 1);
  double low = 1e300;
  double high = -1e300;
  for (const SideStation& s : side)
    if (s.high > s.low) {
      low = std::min(low, s.low);
      high = std::max(high, s.high);
    }
  const SideRims rims(surface, side, low - r, high + r, 0.2);
  bool forward = true;
  for (int row = 0; row < rows; ++row) {
    const double share = 1 - static_cast<double>(row) / (rows - 1);  // from the top down
    std::vector<char> busy(side.size(), 0);
    std::vector<Vec3> tip(side.size());
    std::vector<double> rim(side.size());
    for (std::size_t i = 0; i < side.size(); ++i) {
      const SideStation& s = side[i];
      rim[i] = s.high > s.low
                   ? side_at(surface, s.x, s.edge, s.inner, ends[i].first + (ends[i].second - ends[i].first) * share)
                   : s.edge;
    }
    for (std::size_t i = 0; i < side.size(); ++i) {
      const SideStation& s = side[i];
      if (!(s.high > s.low)) continue;
      const double z = ends[i].first + (ends[i].second - ends[i].first) * share;
      const double y = rim[i];
      const double in = s.inner > s.edge ? 1 : -1;
      const Vec2 at{s.x, y + in * 0.011};
      const Vec2 g = gradient(surface, at);
      const double up = 1 / std::sqrt(1 + dot(g, g));
      // Centre of the ball: the contact moved out along the surface's normal, and clear of the side wherever it bends.
      Vec2 centre = Vec2{s.x, y} - g * (up * r);
      const double lowest_tip = surface(at) + up * r - r + (z - surface(at));
      centre = rims.clear(i, centre, [&](double height) {
        const double above = height - lowest_tip;
        return above <= 0 ? -1.0 : above >= r ? r : std::sqrt(r * r - (r - above) * (r - above));
      });
      const double z_tip = plan.lowest ? std::max(lowest_tip, plan.lowest(centre)) : lowest_tip;
      tip[i] = {centre.x, centre.y, z_tip};
      busy[i] = 1;
    }
    for (const auto& [a, b] : runs_of(busy))
      add_side_pass(out,
                    {tip.begin() + static_cast<std::ptrdiff_t>(a), tip.begin() + static_cast<std::ptrdiff_t>(b + 1)},
                    plan, forward);
  }
  return out;
}

std::vector<Strand> finish_side_levels(const Height& surface, const std::vector<SideStation>& side,
                                       const SidePlan& plan) {
  std::vector<Strand> out;
  const double r = plan.cutter.radius();
  double top = -1e300;
  double bottom = 1e300;
  for (const SideStation& s : side)
    if (s.high > s.low) {
      top = std::max(top, s.high);
      bottom = std::min(bottom, s.low);
    }
  if (top <= bottom) return out;
  bool forward = true;
  double z = top;
  // A flat cutter touches with its rim only: one height at a time.
  for (int guard = 0; guard < 4000; ++guard) {
    std::vector<char> busy(side.size(), 0);
    std::vector<Vec2> rim(side.size());
    double flattest = 0;  // cos of the slope where the side is least steep at this height
    for (std::size_t i = 0; i < side.size(); ++i) {
      const SideStation& s = side[i];
      const double y = side_at(surface, s.x, s.edge, s.inner, z);
      if (!(s.high > s.low) || z > s.high + 1e-9 || z < s.low - 1e-9) continue;
      if (std::abs(y - s.edge) < 0.004) continue;  // the outline's own wall
      rim[i] = {s.x, y};
      busy[i] = 1;
      const double in = s.inner > s.edge ? 1 : -1;
      const Vec2 g = gradient(surface, {s.x, y + in * 0.011});
      flattest = std::max(flattest, 1 / std::sqrt(1 + dot(g, g)));
    }
    const SideRims here(surface, side, z, z, 1.0);
    for (const auto& [a, b] : runs_of(busy)) {
      std::vector<Vec3> points;
      for (std::size_t i = a; i <= b; ++i) {
        const Vec2 way = unit(rim[std::min(i + 1, b)] - rim[i > a ? i - 1 : a]);
        const double in = side[i].inner > side[i].edge ? 1 : -1;
        Vec2 out_way = left_of(way);
        if (out_way.y * in > 0) out_way = out_way * -1.0;
        const Vec2 c = here.clear(i, rim[i] + out_way * r, [r](double) { return r; });
        points.push_back({c.x, c.y, plan.lowest ? std::max(z, plan.lowest(c)) : z});
      }
      add_side_pass(out, std::move(points), plan, forward);
    }
    if (z <= bottom + 1e-9) break;
    z = std::max(bottom, z - std::clamp(plan.scallop / std::max(flattest, 0.02), 0.02, 0.5));
  }
  return out;
}

double path_length(const std::vector<Strand>& strands) {
  double sum = 0;
  for (const Strand& s : strands) {
    Vec3 at = s.start;
    for (const Step& step : s.steps) {
      sum += distance(at, step.to);
      at = step.to;
    }
  }
  return sum;
}

}  // namespace wren

#include "core/cutting/clearing.hpp"
#include "core/cutting/helix.hpp"

#include <algorithm>
#include <numbers>
#include <queue>

#include <fmt/format.h>

#include "core/plan/recover.hpp"

namespace wren {
namespace {

constexpr double ramp_slope = 0.06;  // about 3.5° (common practice for centre-cutting cutters)
constexpr float never = 1e9F;

/// Travel times from what is clear, on a grid over the places that the cutter's middle may go to.
class Fronts {
 public:
  Fronts(const Region& middles, double cell) : cell_(cell) {
    Box2 box;
    for (const Polygon& p : middles)
      for (const Vec2 q : p) box.add(q);
    low_ = box.low - Vec2{2 * cell, 2 * cell};
    columns_ = static_cast<int>(box.size().x / cell) + 5;
    rows_ = static_cast<int>(box.size().y / cell) + 5;
    const auto n = static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_);
    open_.assign(n, 0);
    time_.assign(n, never);
    for (int j = 0; j < rows_; ++j) {
      std::vector<double> edges;
      for (const Polygon& p : middles) {
        const auto some = crossings(p, {0, at(0, j).y}, {1, 0});
        edges.insert(edges.end(), some.begin(), some.end());
      }
      std::sort(edges.begin(), edges.end());
      for (std::size_t k = 0; k + 1 < edges.size(); k += 2)
        for (int i = std::max(0, static_cast<int>(std::ceil((edges[k] - low_.x) / cell - 0.5)));
             i < columns_ && at(i, j).x <= edges[k + 1]; ++i)
          open_[index(i, j)] = 1;
    }
  }

  [[nodiscard]] Vec2 at(int i, int j) const { return {low_.x + (i + 0.5) * cell_, low_.y + (j + 0.5) * cell_}; }
  [[nodiscard]] std::size_t index(int i, int j) const {
    return static_cast<std::size_t>(j) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(i);
  }
  [[nodiscard]] int columns() const { return columns_; }
  [[nodiscard]] int rows() const { return rows_; }
  [[nodiscard]] bool open(int i, int j) const { return open_[index(i, j)] != 0; }
  [[nodiscard]] float time(int i, int j) const { return time_[index(i, j)]; }

  template <class Clear>
  void start(const Clear& clear) {
    for (int j = 0; j < rows_; ++j)
      for (int i = 0; i < columns_; ++i)
        if (open(i, j))
          if (const double t = clear(at(i, j)); t < 1e8 && t < time_[index(i, j)])
            push(i, j, static_cast<float>(std::max(0.0, t)));
    march();
  }

  /// The open cell not reached yet that lies furthest from every wall, and how far.
  [[nodiscard]] std::optional<std::pair<Vec2, double>> deepest_unreached() {
    if (depth_.empty()) wall_distances();
    std::size_t best = 0;
    float most = 0;
    for (std::size_t k = 0; k < depth_.size(); ++k)
      if (open_[k] != 0 && time_[k] >= never && depth_[k] > most) {
        most = depth_[k];
        best = k;
      }
    if (most <= 0) return {};
    const int i = static_cast<int>(best % static_cast<std::size_t>(columns_));
    const int j = static_cast<int>(best / static_cast<std::size_t>(columns_));
    return std::pair{at(i, j), static_cast<double>(most)};
  }
  /// Cells that cannot be reached are given up.
  void give_up(Vec2 p, double radius) {
    for (int j = 0; j < rows_; ++j)
      for (int i = 0; i < columns_; ++i)
        if (distance(at(i, j), p) <= radius) open_[index(i, j)] = 0;
  }

  [[nodiscard]] float furthest() const {
    float most = 0;
    for (std::size_t k = 0; k < time_.size(); ++k)
      if (open_[k] != 0 && time_[k] < never) most = std::max(most, time_[k]);
    return most;
  }

  /// Level line T = c as polylines, later times on the right of travel.
  [[nodiscard]] std::vector<Polygon> line(double level) const {
    const auto c = static_cast<float>(level);
    // Crossing points on the grid's edges, joined cell by cell (marching squares).
    std::vector<std::pair<std::size_t, std::size_t>> links;                 // from edge to edge
    const auto edge_x = [&](int i, int j) { return index(i, j) * 2; };      // between (i, j) and (i + 1, j)
    const auto edge_y = [&](int i, int j) { return index(i, j) * 2 + 1; };  // between (i, j) and (i, j + 1)
    for (int j = 0; j + 1 < rows_; ++j)
      for (int i = 0; i + 1 < columns_; ++i) {
        const float t00 = time_[index(i, j)], t10 = time_[index(i + 1, j)], t01 = time_[index(i, j + 1)],
                    t11 = time_[index(i + 1, j + 1)];
        if (t00 >= never || t10 >= never || t01 >= never || t11 >= never) continue;  // at walls the line ends
        const int mask = (t00 <= c ? 1 : 0) | (t10 <= c ? 2 : 0) | (t11 <= c ? 4 : 0) | (t01 <= c ? 8 : 0);
        if (mask == 0 || mask == 15) continue;
        const std::size_t bottom = edge_x(i, j), top = edge_x(i, j + 1), left = edge_y(i, j), right = edge_y(i + 1, j);
        const auto link = [&](std::size_t from, std::size_t to) { links.emplace_back(from, to); };
        // Earlier times on the left of travel.
        switch (mask) {
          case 1: link(bottom, left); break;
          case 2: link(right, bottom); break;
          case 3: link(right, left); break;
          case 4: link(top, right); break;
          case 5:
            link(bottom, left);
            link(top, right);
            break;
          case 6: link(top, bottom); break;
          case 7: link(top, left); break;
          case 8: link(left, top); break;
          case 9: link(bottom, top); break;
          case 10:
            link(right, bottom);
            link(left, top);
            break;
          case 11: link(right, top); break;
          case 12: link(left, right); break;
          case 13: link(bottom, right); break;
          case 14: link(left, bottom); break;
          default: break;
        }
      }
    return chained(links, c);
  }

  /// Down the steepest way towards what was cleared earlier, `far` mm or until there is nothing earlier.
  [[nodiscard]] Vec2 back_from(Vec2 p, double far) const {
    const double pace = cell_ * 0.5;
    for (double gone = 0; gone < far; gone += pace) {
      const int i = static_cast<int>(std::floor((p.x - low_.x) / cell_));
      const int j = static_cast<int>(std::floor((p.y - low_.y) / cell_));
      if (i < 1 || j < 1 || i + 1 >= columns_ || j + 1 >= rows_) break;
      const float here = time_[index(i, j)];
      const auto slope = [&](float low, float high) {
        return low < never && high < never ? (high - low) / 2
               : low < never               ? here - low
               : high < never              ? high - here
                                           : 0.0F;
      };
      const Vec2 g{static_cast<double>(slope(time_[index(i - 1, j)], time_[index(i + 1, j)])),
                   static_cast<double>(slope(time_[index(i, j - 1)], time_[index(i, j + 1)]))};
      if (here >= never || length(g) < 1e-6) break;
      p = p - unit(g) * std::min(pace, far - gone);
    }
    return p;
  }

  /// Whether a straight way stays in what is clear up to a time.
  [[nodiscard]] bool clear_way(Vec2 a, Vec2 b, double until) const {
    const int n = static_cast<int>(distance(a, b) / (cell_ * 0.7)) + 1;
    for (int k = 0; k <= n; ++k) {
      const Vec2 p = lerp(a, b, static_cast<double>(k) / n);
      const int i = static_cast<int>(std::floor((p.x - low_.x) / cell_));
      const int j = static_cast<int>(std::floor((p.y - low_.y) / cell_));
      if (i < 0 || j < 0 || i >= columns_ || j >= rows_ || !(time_[index(i, j)] <= until + cell_)) return false;
    }
    return true;
  }

 private:
  using Entry = std::pair<float, std::size_t>;
  void push(int i, int j, float t) {
    time_[index(i, j)] = t;
    heap_.emplace(t, index(i, j));
  }
  void march() {
    while (!heap_.empty()) {
      const auto [t, k] = heap_.top();
      heap_.pop();
      if (t > time_[k]) continue;
      const int i = static_cast<int>(k % static_cast<std::size_t>(columns_));
      const int j = static_cast<int>(k / static_cast<std::size_t>(columns_));
      for (const auto& [di, dj] : {std::pair{1, 0}, std::pair{-1, 0}, std::pair{0, 1}, std::pair{0, -1}}) {
        const int a = i + di;
        const int b = j + dj;
        if (a < 1 || b < 1 || a + 1 >= columns_ || b + 1 >= rows_ || !open(a, b)) continue;
        // First-order upwind: the smaller neighbour in each direction.
        const float x = std::min(time_[index(a - 1, b)], time_[index(a + 1, b)]);
        const float y = std::min(time_[index(a, b - 1)], time_[index(a, b + 1)]);
        const auto h = static_cast<float>(cell_);
        const float low = std::min(x, y);
        const float high = std::max(x, y);
        const float fresh = high - low >= h ? low + h : (x + y + std::sqrt(2 * h * h - (x - y) * (x - y))) / 2;
        if (fresh < time_[index(a, b)] - 1e-6F) push(a, b, fresh);
      }
    }
  }
  void wall_distances() {
    // Two sweeps of a chamfer distance: good to a few percent, enough to find the middle of a part.
    depth_.assign(open_.size(), 0);
    const auto h = static_cast<float>(cell_);
    for (std::size_t k = 0; k < open_.size(); ++k) depth_[k] = open_[k] != 0 ? never : 0;
    const auto relax = [&](int i, int j, int di, int dj, float step) {
      depth_[index(i, j)] = std::min(depth_[index(i, j)], depth_[index(i + di, j + dj)] + step);
    };
    for (int j = 1; j + 1 < rows_; ++j)
      for (int i = 1; i + 1 < columns_; ++i) {
        relax(i, j, -1, 0, h);
        relax(i, j, 0, -1, h);
        relax(i, j, -1, -1, h * 1.4142F);
        relax(i, j, 1, -1, h * 1.4142F);
      }
    for (int j = rows_ - 2; j > 0; --j)
      for (int i = columns_ - 2; i > 0; --i) {
        relax(i, j, 1, 0, h);
        relax(i, j, 0, 1, h);
        relax(i, j, 1, 1, h * 1.4142F);
        relax(i, j, -1, 1, h * 1.4142F);
      }
  }
  [[nodiscard]] Vec2 crossing_point(std::size_t edge, float c) const {
    const std::size_t k = edge / 2;
    const int i = static_cast<int>(k % static_cast<std::size_t>(columns_));
    const int j = static_cast<int>(k / static_cast<std::size_t>(columns_));
    const std::size_t other = edge % 2 == 0 ? index(i + 1, j) : index(i, j + 1);
    const float t = std::clamp((c - time_[k]) / (time_[other] - time_[k]), 0.0F, 1.0F);
    return edge % 2 == 0 ? lerp(at(i, j), at(i + 1, j), static_cast<double>(t))
                         : lerp(at(i, j), at(i, j + 1), static_cast<double>(t));
  }
  [[nodiscard]] std::vector<Polygon> chained(const std::vector<std::pair<std::size_t, std::size_t>>& links,
                                             float c) const {
    std::vector<std::size_t> next(open_.size() * 2, SIZE_MAX);
    std::vector<char> has_before(open_.size() * 2, 0);
    for (const auto& [from, to] : links) {
      next[from] = to;
      has_before[to] = 1;
    }
    std::vector<Polygon> out;
    const auto follow = [&](std::size_t from) {
      Polygon line{crossing_point(from, c)};
      std::size_t k = from;
      while (next[k] != SIZE_MAX) {
        const std::size_t to = next[k];
        next[k] = SIZE_MAX;
        k = to;
        line.push_back(crossing_point(k, c));
        if (k == from) break;
      }
      if (line.size() > 2) out.push_back(std::move(line));
    };
    for (const auto& link : links)
      if (has_before[link.first] == 0 && next[link.first] != SIZE_MAX) follow(link.first);
    for (const auto& link : links)
      if (next[link.first] != SIZE_MAX) follow(link.first);
    return out;
  }

  double cell_;
  Vec2 low_;
  int columns_ = 0;
  int rows_ = 0;
  std::vector<std::uint8_t> open_;
  std::vector<float> time_;
  std::vector<float> depth_;
  std::priority_queue<Entry, std::vector<Entry>, std::greater<>> heap_;
};

Polygon thin_line(const Polygon& line, double tolerance) {
  std::vector<Vec3> points;
  for (const Vec2 p : line) points.push_back({p.x, p.y, 0});
  Polygon out;
  for (const Vec3 p : thinned(points, tolerance)) out.push_back(flat(p));
  return out;
}

/// A way into wood and what may be run through afterwards.
struct Entry {
  Vec2 at;
  double radius = 0;  // of the helix; 0: a ramp along `loop`
  Polygon loop;
};

class Clearer {
 public:
  explicit Clearer(const ClearPlan& plan) : p_(plan), r_(plan.cutter.radius()) {}

  Expected<Clearing> run() {
    Clearing out;
    const double leave = p_.finish ? p_.leave_wall : 0;
    Region middles = offset(p_.region, -(r_ + leave));
    const Region last = offset(p_.region, -r_);
    if (last.empty()) {
      if (!p_.cleared.empty()) return out;
      return fail(ProblemKind::range, worded("the cutter '{}' ({}) does not go into it", p_.cutter.id, mm(2 * r_, 3)),
                  "clearing", "Choose a thinner cutter or a wider cavity");
    }
    if (middles.empty()) middles = last;  // hardly wider than the cutter
    inner_ = offset(middles, 0.05);
    if (!p_.finish || leave < 0.06) inner_ = middles;
    out.reached = offset(last, r_);
    const double step = p_.step * 2 * r_;
    // Cells fine enough for the fronts to be smooth at the cutter's scale, and not more than a million.
    Box2 box;
    for (const Polygon& q : middles)
      for (const Vec2 v : q) box.add(v);
    const double cell = std::max({std::min(0.5, r_ / 6), std::sqrt(box.size().x * box.size().y / 1e6), 0.05});
    Fronts fronts(middles, cell);
    std::vector<Entry> entries;
    if (!p_.cleared.empty()) {
      const Region free = offset(p_.cleared, -r_);
      fronts.start([&](Vec2 q) { return contains(free, q) ? 0.0 : 1e9; });
    }
    for (int guard = 0; guard < 200; ++guard) {
      const auto deepest = fronts.deepest_unreached();
      if (!deepest) break;
      // The grid finds the place; how far its walls are is measured, since a cell too much is a cell of the wall.
      double room = deepest->second;
      for (const Polygon& ring : middles) room = std::min(room, distance_to(ring, deepest->first));
      out.narrowest = std::min(out.narrowest, room);
      Entry e{deepest->first, std::min(room * 0.9, 0.9 * r_), {}};
      if (e.radius < std::min(0.3 * r_, 1.0)) {
        e.radius = 0;
        // Down a ramp round the narrow part's own loop.
        for (const Polygon& ring : middles)
          if (e.loop.empty() || distance_to(ring, e.at) < distance_to(e.loop, e.at)) e.loop = ring;
        fronts.start([&](Vec2 q) { return std::max(0.0, distance_to(e.loop, q) - cell) < step ? 0.0 : 1e9; });
        if (auto again = fronts.deepest_unreached(); again && distance(again->first, e.at) < cell / 2)
          fronts.give_up(e.at, cell * 2);
      } else {
        fronts.start([&](Vec2 q) {
          const double d = distance(q, e.at) - e.radius;
          return d < 2 * cell ? std::max(0.0, d) : 1e9;
        });
      }
      entries.push_back(std::move(e));
    }
    const auto lines_at = [&](double apart) {
      std::vector<std::pair<double, Polygon>> lines;
      const double far = fronts.furthest();
      const int n = static_cast<int>(std::ceil((far - 1e-3) / apart));
      for (int k = 1; k <= n; ++k) {
        const double t = std::min(k * apart, far - 0.25 * cell);
        for (Polygon& line : fronts.line(t)) lines.emplace_back(t, thin_line(line, 0.02));
      }
      return lines;
    };
    const auto rough_lines = lines_at(step);
    const double deepest = p_.lowest_floor + (p_.finish ? p_.leave_floor : 0);
    const int levels = std::max(1, static_cast<int>(std::ceil((p_.top - deepest) / p_.bite - 1e-9)));
    double above = p_.top;
    for (int i = 1; i <= levels; ++i) {
      const double level = p_.top + (deepest - p_.top) * i / levels;
      const Height tip = [this, level](Vec2 q) {
        return std::max(level, floor_tip(q) + (p_.finish ? p_.leave_floor : 0));
      };
      level_strands(fronts, entries, rough_lines, step, middles, above, tip, out.rough, true);
      above = level;
    }
    if (!p_.finish) return out;
    // The floor: fronts further apart, since only its last tenths are taken; a slope is run up and down.
    const Height tip = [this](Vec2 q) { return floor_tip(q); };
    const double over_floor = above;
    if (std::abs(p_.slope) > 1e-9)
      slope_rows(middles, tip, out.floor);
    else
      level_strands(fronts, entries, lines_at(1.1 * r_), 1.1 * r_, {}, over_floor, tip, out.floor, false);
    for (const Entry& e : entries) {  // where it came in no front passes
      if (std::abs(p_.slope) > 1e-9) break;
      Polygon ring = e.radius > 0 ? circle_polygon(e.at, e.radius) : e.loop;
      out.floor.push_back(skim_ring(ring, tip, p_.top, p_.feeds));
    }
    for (const Polygon& ring : middles) out.floor.push_back(skim_ring(ring, tip, p_.top, p_.feeds));
    for (const Polygon& ring : last) out.walls.push_back(skim_ring(ring, tip, p_.top, p_.feeds));
    return out;
  }

 private:
  /// Lowest tip over the floor: a flat bottom rests on the highest floor under it.
  [[nodiscard]] double floor_tip(Vec2 q) const { return p_.floor(q) + std::abs(p_.slope) * r_; }

  void level_strands(const Fronts& fronts, const std::vector<Entry>& entries,
                     const std::vector<std::pair<double, Polygon>>& lines, double step, const Region& loops,
                     double above, const Height& tip, std::vector<Strand>& out, bool with_entries) {
    const std::size_t first = out.size();
    if (with_entries)
      for (const Entry& e : entries) out.push_back(e.radius > 0 ? helix(e, above, tip) : ramp(e, above, tip));
    for (const auto& [time, line] : lines) {
      // In from what is clear already, slowly: over one step the cutter has up to twice its step beside it, but is
      // never pushed straight down into wood.
      const Vec2 aside = fronts.back_from(line.front(), step);
      const bool free = distance(aside, line.front()) > 0.7 * step && within(inner_, aside, line.front());
      const Vec2 start = free ? aside : line.front();
      const double z = tip(start);
      if (out.size() > first && !out.back().steps.empty()) {
        const Vec3 here = out.back().end();
        if (distance(flat(here), start) < 16 * r_ && fronts.clear_way(flat(here), start, time - 0.4 * step) &&
            within(inner_, flat(here), start)) {
          // Over the floor just cut, lifted a hair, without going up.
          Strand& s = out.back();
          const double lift = std::max(here.z, z) + 0.3;
          s.steps.push_back({{here.x, here.y, lift}, {}, p_.feeds.feed, StepKind::line});
          s.steps.push_back({{start.x, start.y, lift}, {}, p_.feeds.feed * 1.5, StepKind::line});
          s.steps.push_back({{start.x, start.y, z}, {}, p_.feeds.plunge, StepKind::line});
          run(s, line, tip, free);
          continue;
        }
      }
      Strand s;
      s.plunge_feed = p_.feeds.plunge;
      // A ball leaves wood between its fronts and beside its walls, as high as it is round.
      s.free_z = std::min(p_.top, (with_entries ? above : z + p_.leave_floor + 0.2) + p_.cutter.rounding());
      s.start = {start.x, start.y, z};
      run(s, line, tip, free);
      out.push_back(std::move(s));
    }
    for (const Polygon& ring : loops)
      out.push_back(skim_ring(ring, tip, std::min(p_.top, above + p_.cutter.rounding()), p_.feeds));
  }

  void run(Strand& s, const Polygon& line, const Height& tip, bool from_aside) const {
    if (from_aside)
      s.steps.push_back({{line.front().x, line.front().y, tip(line.front())}, {}, p_.feeds.feed * 0.5, StepKind::line});
    for (std::size_t k = 1; k < line.size(); ++k)
      s.steps.push_back({{line[k].x, line[k].y, tip(line[k])}, {}, p_.feeds.feed, StepKind::line});
  }

  [[nodiscard]] Strand helix(const Entry& e, double above, const Height& tip) const {
    Strand s;
    s.plunge_feed = p_.entry.plunge;
    s.free_z = std::min(p_.top, above + p_.cutter.rounding());
    const double floor = std::max(tip(e.at), tip(e.at + Vec2{e.radius, 0}));
    s.start = {e.at.x + e.radius, e.at.y, above};
    const double sink = 2 * std::numbers::pi * e.radius * ramp_slope;
    const int turns = std::max(1, static_cast<int>(std::ceil((above - floor) / sink)));
    const double feed = p_.entry.feed * e.radius / (e.radius + r_);
    helix_down(s, e.at, e.radius, above, floor, turns, feed);
    return s;
  }

  [[nodiscard]] Strand ramp(const Entry& e, double above, const Height& tip) const {
    Strand s;
    s.plunge_feed = p_.entry.plunge;
    s.free_z = std::min(p_.top, above + p_.cutter.rounding());
    const Polygon& ring = e.loop;
    s.start = {ring.front().x, ring.front().y, above};
    double z = above;
    std::size_t i = 0;
    Vec2 at = ring.front();
    int guard = 0;
    while (z > tip(at) + 1e-6 && ++guard < 20000) {
      const Vec2 to = ring[(i + 1) % ring.size()];
      z = std::max(tip(to), z - distance(at, to) * ramp_slope);
      s.steps.push_back({{to.x, to.y, z}, {}, p_.entry.feed, StepKind::line});
      at = to;
      i = (i + 1) % ring.size();
    }
    for (std::size_t k = 0; k < ring.size(); ++k) {
      at = ring[(i + 1) % ring.size()];
      s.steps.push_back({{at.x, at.y, tip(at)}, {}, p_.entry.feed, StepKind::line});
      i = (i + 1) % ring.size();
    }
    return s;
  }

  /// Up and down the slope in rows, so that the bottom's rim runs along it: u²/(2r)·slope is left between rows 2u
  /// apart.
  void slope_rows(const Region& middles, const Height& tip, std::vector<Strand>& out) const {
    Box2 box;
    for (const Polygon& p : middles)
      for (const Vec2 q : p) box.add(q);
    const double apart = 0.9 * r_;
    const int n = std::max(1, static_cast<int>(std::ceil(box.size().y / apart)));
    for (int k = 0; k <= n; ++k) {
      const double y = std::clamp(box.low.y + box.size().y * k / n, box.low.y + 1e-3, box.high.y - 1e-3);
      std::vector<double> edges;
      for (const Polygon& p : middles) {
        const auto some = crossings(p, {0, y}, {1, 0});
        edges.insert(edges.end(), some.begin(), some.end());
      }
      std::sort(edges.begin(), edges.end());
      for (std::size_t e = 0; e + 1 < edges.size(); e += 2) {
        const bool forward = (k % 2 == 0) == (p_.slope > 0);
        const Vec2 a{forward ? edges[e] : edges[e + 1], y};
        const Vec2 b{forward ? edges[e + 1] : edges[e], y};
        Strand s;
        s.plunge_feed = p_.feeds.plunge;
        // Down a little beside the last of the wall's skim, and back to it.
        const Vec2 in = a + unit(b - a) * std::min(0.3, distance(a, b) / 2);
        s.start = {in.x, in.y, tip(in)};
        s.free_z = tip(in) + p_.leave_floor + 0.2;
        s.steps.push_back({{a.x, a.y, tip(a)}, {}, p_.feeds.feed, StepKind::line});
        s.steps.push_back({{b.x, b.y, tip(b)}, {}, p_.feeds.feed, StepKind::line});
        out.push_back(std::move(s));
      }
    }
  }

  /// A straight way stays within the places that the cutter's middle may go to.
  [[nodiscard]] static bool within(const Region& middles, Vec2 a, Vec2 b) {
    const int n = static_cast<int>(distance(a, b) / 0.4) + 1;
    for (int k = 0; k <= n; ++k)
      if (!contains(middles, lerp(a, b, static_cast<double>(k) / n))) return false;
    return true;
  }

  const ClearPlan& p_;
  double r_;
  Region inner_;  // places of the cutter's middle that keep off the walls
};

}  // namespace

Region left_by(const Region& region, double radius) {
  const Region reached = offset(offset(region, -radius), radius + 0.003);
  return subtracted(region, reached);
}

Strand skim_ring(const Polygon& ring, const Height& tip, double free_z, const Feeds& feeds) {
  Strand s;
  s.plunge_feed = feeds.plunge;
  s.free_z = free_z;
  if (ring.size() < 3) return s;
  RecoverOptions options;
  options.within = 0.002;
  options.edges_too = true;
  options.corner_deg = 20;
  const Recovered shape = recover(ring, true, options);
  Contour contour = to_contour(shape.path, 0.002);
  if (contour.size() < 2) return s;
  // Begins in the middle of its longest straight edge, where there is one: not in a corner.
  std::size_t longest = contour.size();
  for (std::size_t i = 0; i < contour.size(); ++i)
    if (contour[i].bulge == 0 &&
        (longest == contour.size() || distance(contour[i].at, contour[(i + 1) % contour.size()].at) >
                                          distance(contour[longest].at, contour[(longest + 1) % contour.size()].at)))
      longest = i;
  if (longest < contour.size()) {
    const Vec2 middle = lerp(contour[longest].at, contour[(longest + 1) % contour.size()].at, 0.5);
    contour.insert(contour.begin() + static_cast<std::ptrdiff_t>(longest) + 1, {middle, 0});
    std::rotate(contour.begin(), contour.begin() + static_cast<std::ptrdiff_t>(longest) + 1, contour.end());
  }
  const Vec2 at = contour.front().at;
  const Vec2 in = left_of(unit(place_along(contour, 0.05).at - place_along(contour, -0.05).at));
  // In a cavity hardly wider than the cutter there is no room beside the wall to come in from.
  const bool room = contains(ring, at + in * 0.6) == (signed_area(ring) > 0);
  const Vec2 begin = room ? at + in * 0.6 : at;
  s.start = {begin.x, begin.y, tip(begin)};
  s.steps.push_back({{at.x, at.y, tip(at)}, {}, feeds.feed, StepKind::line});
  const bool sloping =
      std::abs(tip(at) - tip(at + Vec2{1, 0})) > 1e-9 || std::abs(tip(at) - tip(at + Vec2{0, 1})) > 1e-9;
  const std::size_t n = contour.size();
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 to = contour[(i + 1) % n].at;
    if (contour[i].bulge == 0) {
      s.steps.push_back({{to.x, to.y, tip(to)}, {}, feeds.feed, StepKind::line});
      continue;
    }
    const Arc arc = arc_of(contour[i].at, to, contour[i].bulge);
    if (!sloping) {
      s.steps.push_back(
          {{to.x, to.y, tip(to)}, arc.centre, feeds.feed, contour[i].bulge > 0 ? StepKind::arc_ccw : StepKind::arc_cw});
      continue;
    }
    const int parts = std::max(1, static_cast<int>(std::ceil(std::abs(arc.sweep) / 0.12)));
    for (int k = 1; k <= parts; ++k) {
      const double angle = arc.start + arc.sweep * k / parts;
      const Vec2 q = arc.centre + Vec2{std::cos(angle), std::sin(angle)} * std::abs(arc.radius);
      s.steps.push_back({{q.x, q.y, tip(q)}, {}, feeds.feed, StepKind::line});
    }
  }
  s.steps.push_back({{begin.x, begin.y, tip(begin)}, {}, feeds.feed, StepKind::line});
  return s;
}

Expected<Clearing> clear_region(const ClearPlan& plan) { return Clearer(plan).run(); }

std::vector<Strand> face_off(Vec2 low, Vec2 high, double top, double bottom, const Cutter& cutter, const Feeds& feeds,
                             double bite) {
  std::vector<Strand> out;
  const double apart = 0.7 * cutter.effective_diameter();
  const bool along_x = high.x - low.x >= high.y - low.y;
  const double wide = along_x ? high.y - low.y : high.x - low.x;
  const int rows = std::max(1, static_cast<int>(std::ceil(wide / apart)));
  const int levels = std::max(1, static_cast<int>(std::ceil((top - bottom) / bite - 1e-9)));
  const double beyond = cutter.radius() + 1;
  for (int l = 1; l <= levels; ++l) {
    const double z = top + (bottom - top) * l / levels;
    Strand s;
    s.plunge_feed = feeds.plunge;
    for (int k = 0; k <= rows; ++k) {
      const double across = (along_x ? low.y : low.x) + wide * k / rows;
      const double from = (along_x ? low.x : low.y) - beyond;
      const double to = (along_x ? high.x : high.y) + beyond;
      const bool back = k % 2 == 1;
      const auto at = [&](double t) { return along_x ? Vec3{t, across, z} : Vec3{across, t, z}; };
      if (k == 0)
        s.start = at(from);
      else
        s.steps.push_back({at(back ? to : from), {}, feeds.feed, StepKind::line});
      s.steps.push_back({at(back ? from : to), {}, feeds.feed, StepKind::line});
    }
    s.free_z = z;  // it comes down beside the blank
    out.push_back(std::move(s));
  }
  return out;
}

}  // namespace wren

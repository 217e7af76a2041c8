#include "core/cutting/way_down.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wren {
namespace {

constexpr double longest_ramp = 25;    // mm of further way that a ramp uses
constexpr double shortest_ramp = 0.4;  // mm below which there is no way to ramp along

struct Limits {
  double slope;  // tangent of the steepest ramp
  double free;   // mm that may be taken straight down
};

Limits limits_of(const Cutter& c) {
  const auto tangent = [](double degrees) { return std::tan(degrees * std::numbers::pi / 180); };
  if (c.centre_cutting) return {tangent(14.5), std::max(0.4, 0.25 * c.effective_diameter() - 0.05)};
  return {tangent(3.3), 0.4};
}

/// Points of an arc step, its end included; about a millimetre apart.
void points_of(Vec3 from, const Step& step, std::vector<Vec3>& out) {
  if (step.kind == StepKind::line) {
    out.push_back(step.to);
    return;
  }
  const double r = distance(step.centre, flat(from));
  const double a0 = std::atan2(from.y - step.centre.y, from.x - step.centre.x);
  double sweep = std::atan2(step.to.y - step.centre.y, step.to.x - step.centre.x) - a0;
  if (step.kind == StepKind::arc_ccw && sweep <= 1e-12) sweep += 2 * std::numbers::pi;
  if (step.kind == StepKind::arc_cw && sweep >= -1e-12) sweep -= 2 * std::numbers::pi;
  const double most = 2 * std::acos(std::max(0.5, 1 - 0.003 / std::max(r, 0.01)));
  const int n = std::max(1, static_cast<int>(std::ceil(std::abs(sweep) / most)));
  for (int k = 1; k < n; ++k) {
    const double t = static_cast<double>(k) / n;
    out.push_back({step.centre.x + r * std::cos(a0 + sweep * t), step.centre.y + r * std::sin(a0 + sweep * t),
                   from.z + (step.to.z - from.z) * t});
  }
  out.push_back(step.to);
}

class WaysDown {
 public:
  WaysDown(const Strand& strand, const Cutter& cutter, const Height& wood)
      : in_(strand), limits_(limits_of(cutter)), close_(cutter.effective_diameter()), wood_(wood) {
    // Arcs that are steep down become chords, so that every steep step is a line.
    Vec3 at = strand.start;
    std::vector<Step> steps;
    for (const Step& step : strand.steps) {
      std::vector<Vec3> points;
      if (step.kind != StepKind::line && at.z > step.to.z + 0.01) points_of(at, step, points);
      double run = 0;
      for (std::size_t k = 0; k < points.size(); ++k)
        run += distance(flat(k == 0 ? at : points[k - 1]), flat(points[k]));
      if (!points.empty() && at.z - step.to.z > run * limits_.slope * 1.03)
        for (const Vec3& p : points) steps.push_back({p, {}, step.feed, StepKind::line});
      else
        steps.push_back(step);
      at = step.to;
    }
    in_.steps = std::move(steps);
  }

  Strand run() {
    out_ = in_;
    out_.steps.clear();
    // The first descent is a step like the others: what follows it steeply is one descent with it.
    Vec3 at{in_.start.x, in_.start.y, std::max(in_.free_z, in_.start.z)};
    out_.start = at;
    in_.steps.insert(in_.steps.begin(), {in_.start, {}, in_.plunge_feed, StepKind::line});
    for (std::size_t k = 0; k < in_.steps.size();) {
      if (const std::size_t end = down_gently(k, at); end > k) {
        at = in_.steps[end - 1].to;
        k = end;
        continue;
      }
      Step step = in_.steps[k];
      const double drop = at.z - step.to.z;
      if (step.kind == StepKind::line && drop > 0.03 && drop > 0.98 * distance(flat(at), flat(step.to)))
        step.feed = std::min(step.feed, in_.plunge_feed);
      out_.steps.push_back(step);
      at = step.to;
      ++k;
    }
    // Straight down to where the strand begins needs no step: that is how a strand begins.
    if (const Vec3 to = out_.steps.front().to; distance(to, in_.start) < 1e-9) {
      out_.start = in_.start;
      out_.steps.erase(out_.steps.begin());
    }
    return std::move(out_);
  }

 private:
  [[nodiscard]] bool steep(Vec3 from, const Step& step) const {
    if (step.kind != StepKind::line) return false;
    return from.z - step.to.z > distance(flat(from), flat(step.to)) * limits_.slope * 1.03 + 1e-9;
  }

  /// Takes a descent that begins with step k at `at`, where it is steep, deep and in wood, by a ramp along what
  /// follows: over at the upper height, down, and then the descent itself, first upwards. The step after it, or k.
  std::size_t down_gently(std::size_t k, Vec3 at) {
    const std::size_t whole = descent(k, at);
    if (whole == k || at.z - in_.steps[whole - 1].to.z <= limits_.free || (k > 0 && !in_wood(k, whole))) return k;
    // Where nothing follows the descent, along the lower part of it.
    for (std::size_t end = whole; end > k; --end) {
      const Vec3 low = in_.steps[end - 1].to;
      const auto way = further(end, low);
      if (way.empty()) continue;
      const double feed = in_.steps[std::min(end, in_.steps.size() - 1)].feed;
      for (std::size_t m = k; m < end; ++m)
        if (const Vec3 to = in_.steps[m].to; distance(flat(to), flat(out_.end())) > 1e-6)
          out_.steps.push_back({{to.x, to.y, at.z}, {}, feed, StepKind::line});
      ramp(way, low, at.z - low.z, feed);
      if (distance(flat(at), flat(low)) > 0.05) {
        for (std::size_t m = end - 1; m-- > k;) again(in_.steps[m].to, feed);
        again(at, feed);
        for (std::size_t m = k; m < end; ++m) again(in_.steps[m].to, feed);
      }
      return end;
    }
    if (k > 0 || whole > 1 || !wood_ || wood_(flat(in_.start)) - in_.start.z <= limits_.free) return k;
    return in_layers(at.z - in_.start.z) ? 1 : 0;
  }

  /// The end of a descent that begins with step k: steep steps, and level ones between them that are shorter than the
  /// cutter is wide (stairs are a slope to it). k where it begins with none.
  [[nodiscard]] std::size_t descent(std::size_t k, Vec3 at) const {
    std::size_t end = k;
    double since = 0;
    for (std::size_t m = k; m < in_.steps.size() && since < close_; ++m) {
      const Step& step = in_.steps[m];
      if (step.kind != StepKind::line || step.to.z > at.z + 0.05) break;
      if (steep(at, step)) {
        end = m + 1;
        since = 0;
      } else {
        if (m == k) break;
        since += distance(flat(at), flat(step.to));
      }
      at = step.to;
    }
    return end;
  }
  [[nodiscard]] bool in_wood(std::size_t k, std::size_t end) const {
    if (!wood_) return true;
    for (; k < end; ++k)
      if (const Vec3 p = in_.steps[k].to; wood_(flat(p)) - p.z > 0.4 * limits_.free) return true;
    return false;
  }
  void again(Vec3 to, double feed) {
    if (distance(to, out_.end()) > 1e-7) out_.steps.push_back({to, {}, feed, StepKind::line});
  }

  /// The way after step `next`, beginning at `from`, as far as a ramp may use it: to where it is steep up, which would
  /// be steep down on the way back. Steep down is no hindrance: the ramp runs over it.
  [[nodiscard]] std::vector<Vec3> further(std::size_t next, Vec3 from) const {
    std::vector<Vec3> way{from};
    double run = 0;
    for (std::size_t k = next; k < in_.steps.size() && run < longest_ramp; ++k) {
      const Step back{way.back(), {}, 0, StepKind::line};
      if (in_.steps[k].kind == StepKind::line && steep(in_.steps[k].to, back)) break;
      const std::size_t before = way.size();
      points_of(way.back(), in_.steps[k], way);
      for (std::size_t m = before; m < way.size(); ++m) run += distance(flat(way[m - 1]), flat(way[m]));
    }
    if (run < shortest_ramp) return {};
    return way;
  }

  /// Where the way begins in a hollow too steep to ramp along: straight down as deep as may be, a little way on and
  /// back, until the beginning is reached. On and back is longer than the cutter is wide, so that no stair is one
  /// slope.
  bool in_layers(double drop) {
    std::vector<Vec3> ahead{in_.start};
    double run = 0;
    for (std::size_t k = 1; k < in_.steps.size() && run < 0.6 * close_; ++k) {
      if (steep(ahead.back(), in_.steps[k])) break;
      const std::size_t before = ahead.size();
      points_of(ahead.back(), in_.steps[k], ahead);
      for (std::size_t m = before; m < ahead.size(); ++m) run += distance(flat(ahead[m - 1]), flat(ahead[m]));
    }
    if (run < 0.55 * close_) return false;
    const double feed = in_.steps[1].feed;
    const int layers = static_cast<int>(std::ceil(drop / limits_.free - 1e-9));
    for (int layer = layers - 1; layer >= 0; --layer) {
      const double up = drop * layer / layers;
      again({in_.start.x, in_.start.y, in_.start.z + up}, in_.plunge_feed);
      if (layer == 0) break;
      for (std::size_t k = 1; k < ahead.size(); ++k) again({ahead[k].x, ahead[k].y, ahead[k].z + up}, feed);
      for (std::size_t k = ahead.size() - 1; k-- > 0;) again({ahead[k].x, ahead[k].y, ahead[k].z + up}, feed);
    }
    return true;
  }

  /// Down from `drop` above the way's beginning to the way itself, there and back.
  void ramp(const std::vector<Vec3>& way, Vec3 low, double drop, double feed) {
    double whole = 0;
    for (std::size_t k = 1; k < way.size(); ++k) whole += distance(flat(way[k - 1]), flat(way[k]));
    const double wanted = drop / limits_.slope / 2;
    const double length = std::min(whole, std::max(wanted, shortest_ramp));
    const int turns = std::max(1, static_cast<int>(std::ceil(wanted / length - 1e-9)));
    const double slope = drop / (2 * length * turns);
    double height = low.z + drop;
    for (int turn = 0; turn < turns; ++turn) {
      std::vector<std::pair<Vec3, double>> there;  // place on the way, distance along it
      double run = 0;
      there.push_back({way.front(), 0});
      for (std::size_t k = 1; k < way.size() && run < length - 1e-9; ++k) {
        const double l = distance(flat(way[k - 1]), flat(way[k]));
        const double part = l > 0 ? std::min(1.0, (length - run) / l) : 1;
        run += l * part;
        there.push_back({lerp(way[k - 1], way[k], part), run});
      }
      const double top = height;
      for (std::size_t k = 1; k < there.size(); ++k) go(there[k].first, top - slope * there[k].second, feed);
      for (std::size_t k = there.size() - 1; k-- > 0;)
        go(there[k].first, top - slope * (2 * length - there[k].second), feed);
      height = top - 2 * slope * length;
    }
    go(low, low.z, feed);
  }
  void go(Vec3 way, double height, double feed) {
    const Vec3 to{way.x, way.y, std::max(way.z, height)};
    if (distance(to, out_.end()) > 1e-7) out_.steps.push_back({to, {}, feed, StepKind::line});
  }

  Strand in_;
  Limits limits_;
  double close_;
  const Height& wood_;
  Strand out_;
};

}  // namespace

Strand with_ways_down(const Strand& strand, const Cutter& cutter, const Height& wood) {
  if (cutter.kind == CutterKind::drill) return strand;
  return WaysDown(strand, cutter, wood).run();
}

Strand gentle(const Strand& strand, const Cutter& cutter) {
  const double slope = limits_of(cutter).slope;
  Strand out = strand;
  Vec3 at = strand.start;
  for (Step& step : out.steps) {
    step.to.z = std::max(step.to.z, at.z - slope * distance(flat(at), flat(step.to)));
    at = step.to;
  }
  return out;
}

}  // namespace wren

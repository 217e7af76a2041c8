#include "core/cutting/edge.hpp"

#include <algorithm>
#include <array>
#include <numbers>

#include <fmt/format.h>

#include "core/report/parallel.hpp"
#include "core/units/length.hpp"

namespace wren {
namespace {

/// Ring of the outline moved outwards (negative: inwards), clockwise so that the wood is on the cutter's right, with
/// points at most `apart` from each other.
std::vector<Polygon> ways(const Contour& outline, double out, double apart) {
  std::vector<Polygon> rings;
  if (std::abs(out) < 1e-6)
    rings.push_back(flatten(outline, 0.003));
  else if (out > 0)
    if (auto exact = offset_outside(outline, out)) rings.push_back(flatten(*exact, 0.003));
  if (rings.empty()) rings = offset({flatten(outline, 0.003)}, out);
  std::vector<Polygon> all;
  for (const Polygon& ring : rings) {
    if (signed_area(ring) <= 0) continue;
    Polygon fine;
    for (std::size_t i = 0; i < ring.size(); ++i) {
      const Vec2 b = ring[(i + 1) % ring.size()];
      const int n = std::max(1, static_cast<int>(std::ceil(distance(ring[i], b) / apart)));
      for (int k = 0; k < n; ++k) fine.push_back(lerp(ring[i], b, static_cast<double>(k) / n));
    }
    std::reverse(fine.begin(), fine.end());
    all.push_back(std::move(fine));
  }
  return all;
}

/// Where the ball stands beside the wall and touches nothing (z of −1e8 and less) it keeps the height that it has on
/// either side: falling to the lowest place between neighbours would be a plunge.
void rest_on_neighbours(std::vector<Vec3>& ring) {
  const auto touches = [](const Vec3& p) { return p.z > -1e8; };
  const std::size_t n = ring.size();
  const auto first = static_cast<std::size_t>(std::find_if(ring.begin(), ring.end(), touches) - ring.begin());
  if (first == n) return;
  std::size_t last = first;
  for (std::size_t k = 1; k <= n; ++k) {
    const std::size_t i = (first + k) % n;
    if (!touches(ring[i])) continue;
    const std::size_t gap = (i + n - last) % n;
    for (std::size_t m = 1; m < gap; ++m)
      ring[(last + m) % n].z =
          ring[last].z + (ring[i].z - ring[last].z) * static_cast<double>(m) / static_cast<double>(gap);
    last = i;
  }
}

/// A ball that rests on the surface: its tip, and from there to where it touches. z of −1e9: it touches nothing.
struct Resting {
  Vec3 tip;
  Vec2 touch;
};

/// A ball over p, wherever it touches. Looked for on the right of the way `along`, as far out as a wall that it only
/// just touches, and all round, since at a corner it is another edge that holds it up. From the best places it is
/// closed in on: first square to the surface from the ball's middle, then by pattern search (Hooke & Jeeves, J. ACM 8,
/// 1961).
Resting resting(const EdgePlan& plan, Vec2 p, Vec2 along) {
  const double r = plan.cutter.radius();
  struct Touch {
    Vec2 at;
    double tip = -1e9;
  };
  const auto tip_on = [&](Vec2 o) {
    const double t2 = dot(o, o);
    return t2 >= r * r ? -1e9 : plan.surface(p + o) - (r - std::sqrt(r * r - t2));
  };
  std::array<Touch, 4> best;
  const auto look = [&](Vec2 o) {
    const double z = tip_on(o);
    if (!(z > best.back().tip)) return;
    // Of one lobe the best alone.
    const auto near = std::find_if(best.begin(), best.end(),
                                   [&](const Touch& b) { return b.tip > -1e8 && distance(b.at, o) < 0.45 * r; });
    if (near != best.end() && near->tip >= z) return;
    *(near != best.end() ? near : best.end() - 1) = {o, z};
    std::sort(best.begin(), best.end(), [](const Touch& a, const Touch& b) { return a.tip > b.tip; });
  };
  look({});
  const Vec2 in = left_of(along) * -1.0;  // clockwise: the inside is on the right
  for (const double aslant : {0.0, 0.25, -0.25, 0.7, -0.7, 1.6, -1.6}) {
    const Vec2 u = unit(in + along * aslant);
    for (const double t : {0.2, 0.4, 0.6, 0.75, 0.87, 0.95, 0.99, 0.9999}) look(u * (r * t));
  }
  constexpr int round = 16;
  for (int k = 0; k < round; ++k) {
    const double a = 2 * std::numbers::pi * k / round;
    for (const double t : {0.25, 0.5, 0.75, 0.93}) look(Vec2{std::cos(a), std::sin(a)} * (r * t));
  }
  for (Touch& b : best) {
    for (int turn = 0; turn < 4 && b.tip > -1e8; ++turn) {
      constexpr double h = 0.02;
      const Vec2 contact = p + b.at;
      const double here = plan.surface(contact);
      const auto slope = [&](Vec2 d) {
        const double ahead = plan.surface(contact + d * h);
        const double behind = plan.surface(contact - d * h);
        return ahead > -1e8 && behind > -1e8 ? (ahead - behind) / (2 * h)
               : ahead > -1e8                ? (ahead - here) / h
               : behind > -1e8               ? (here - behind) / h
                                             : 0.0;
      };
      const Vec2 g{slope({1, 0}), slope({0, 1})};
      const Vec2 o = g * (r / std::sqrt(1 + dot(g, g)));
      const double z = tip_on(o);
      if (z <= b.tip) break;
      b = {o, z};
    }
  }
  const auto highest = [&]() -> const Touch& {
    return *std::max_element(best.begin(), best.end(), [](const Touch& a, const Touch& b) { return a.tip < b.tip; });
  };
  // On the ridge of an outer corner the slope leads nowhere: whatever is not far below the highest is closed in on.
  constexpr double not_far = 0.35;
  for (Touch& b : best) {
    if (b.tip < -1e8 || b.tip < highest().tip - not_far) continue;
    for (double step = r / 24; step > 0.003; step /= 2)
      for (bool better = true; better;) {
        better = false;
        for (const Vec2 way : {Vec2{1, 0}, Vec2{0, 1}, Vec2{-1, 0}, Vec2{0, -1}, Vec2{0.7, 0.7}, Vec2{-0.7, 0.7},
                               Vec2{-0.7, -0.7}, Vec2{0.7, -0.7}}) {
          const Vec2 o = b.at + way * step;
          if (const double z = tip_on(o); z > b.tip + 1e-6) {
            b = {o, z};
            better = true;
          }
        }
      }
  }
  const Touch top = highest();
  return {{p.x, p.y, top.tip}, top.at};
}

/// Between the last point, which is a's, and b such points that the straight line leaves the ball's way by no more than
/// 0.002 mm at their middles. b itself is not put in.
void fill_in(const EdgePlan& plan, std::vector<Vec3>& points, const Resting& a, const Resting& b, Vec2 along,
             int deep = 0) {
  constexpr double within = 0.002;
  constexpr int deepest = 6;
  const Vec2 middle = lerp(Vec2{a.tip.x, a.tip.y}, Vec2{b.tip.x, b.tip.y}, 0.5);
  if (deep == deepest || distance(middle, {b.tip.x, b.tip.y}) < 0.015 || a.tip.z < -1e8 || b.tip.z < -1e8) return;
  // Along a straight edge nothing happens in between.
  if (std::abs(a.tip.z - b.tip.z) < within && distance(a.touch, b.touch) < 0.05 * plan.cutter.radius()) return;
  const Resting m = resting(plan, middle, along);
  if (m.tip.z < -1e8 || std::abs(m.tip.z - (a.tip.z + b.tip.z) / 2) < within) return;
  fill_in(plan, points, a, m, along, deep + 1);
  points.push_back(m.tip);
  fill_in(plan, points, m, b, along, deep + 1);
}

/// The ball's way round a ring.
std::vector<Vec3> way_round(const EdgePlan& plan, const Polygon& ring) {
  const std::size_t n = ring.size();
  std::vector<Resting> on_ring;
  for (std::size_t i = 0; i < n; ++i)
    on_ring.push_back(resting(plan, ring[i], unit(ring[(i + 1) % n] - ring[(i + n - 1) % n])));
  std::vector<Vec3> points;
  for (std::size_t i = 0; i < n; ++i) {
    points.push_back(on_ring[i].tip);
    // Where the edge turns or falls within a chord, as at a pocket's corner, its middle is looked at too.
    fill_in(plan, points, on_ring[i], on_ring[(i + 1) % n], unit(ring[(i + 1) % n] - ring[i]));
  }
  rest_on_neighbours(points);
  for (Vec3& p : points) p.z = std::max(p.z, plan.lowest);
  points.push_back(points.front());
  return thinned(points, 0.002);
}

}  // namespace

std::vector<Strand> round_edge_by_ball(const EdgePlan& plan) {
  const double r = plan.cutter.radius();
  const double big = plan.radius;
  const double apart = std::sqrt(8 * plan.scallop * r * big / (r + big));
  const int passes = std::max(2, static_cast<int>(std::ceil(std::numbers::pi / 2 * big / apart)));
  std::vector<Polygon> rings;
  for (int k = 0; k <= passes; ++k) {
    // From where the rounding meets the face down to where it meets the wall.
    const double phi = std::numbers::pi / 2 * (1 - static_cast<double>(k) / passes);
    for (Polygon& ring : ways(plan.outline, -big + (big + r) * std::cos(phi), 1.0)) rings.push_back(std::move(ring));
  }
  std::vector<std::vector<Vec3>> ways_of(rings.size());
  in_parallel(static_cast<int>(rings.size()), [&](int k) {
    ways_of[static_cast<std::size_t>(k)] = way_round(plan, rings[static_cast<std::size_t>(k)]);
  });
  std::vector<Strand> out;
  for (const std::vector<Vec3>& way : ways_of) {
    Strand s;
    s.plunge_feed = plan.feeds.plunge;
    s.free_z = plan.top;
    s.start = way.front();
    append_lines(s, way, 1, plan.feeds.feed);
    out.push_back(std::move(s));
  }
  return out;
}

Expected<std::vector<Strand>> round_edge_by_form(const EdgePlan& plan) {
  if (plan.cutter.kind != CutterKind::round_over || std::abs(plan.cutter.corner_radius - plan.radius) > 0.01)
    return fail(ProblemKind::range, worded("'{}' does not leave a radius of {}", plan.cutter.id, mm(plan.radius, 3)),
                "edge", "Choose a round-over cutter of that radius, or a ball");
  std::vector<Strand> out;
  const double pilot = plan.cutter.flat_radius();
  const double tip = std::max(plan.top - plan.radius, plan.lowest);
  // Half of it first: a form cutter takes its whole profile at once.
  for (const double above : {plan.radius * 0.5, 0.0})
    for (const Polygon& ring : ways(plan.outline, pilot, 4.0)) {
      Strand s;
      s.plunge_feed = plan.feeds.plunge;
      s.free_z = plan.top;
      const Vec2 begin = ring.front() + left_of(unit(ring[1] - ring[0])) * (plan.radius + 1);
      s.start = {begin.x, begin.y, tip + above};
      for (std::size_t i = 0; i <= ring.size(); ++i)
        s.steps.push_back(
            {{ring[i % ring.size()].x, ring[i % ring.size()].y, tip + above}, {}, plan.feeds.feed, StepKind::line});
      s.steps.push_back({s.start, {}, plan.feeds.feed, StepKind::line});
      out.push_back(std::move(s));
    }
  return out;
}

}  // namespace wren

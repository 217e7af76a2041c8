#include "core/cutting/edge.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

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

}  // namespace

std::vector<Strand> round_edge_by_ball(const EdgePlan& plan) {
  std::vector<Strand> out;
  const double r = plan.cutter.radius();
  const double big = plan.radius;
  const double apart = std::sqrt(8 * plan.scallop * r * big / (r + big));
  const int passes = std::max(2, static_cast<int>(std::ceil(std::numbers::pi / 2 * big / apart)));
  for (int k = 0; k <= passes; ++k) {
    // From where the rounding meets the face down to where it meets the wall.
    const double phi = std::numbers::pi / 2 * (1 - static_cast<double>(k) / passes);
    const double aside = -big + (big + r) * std::cos(phi);
    for (const Polygon& ring : ways(plan.outline, aside, 1.0)) {
      std::vector<Vec3> points;
      for (std::size_t i = 0; i < ring.size(); ++i) {
        const Vec2 p = ring[i];
        const Vec2 along = unit(ring[(i + 1) % ring.size()] - ring[(i + ring.size() - 1) % ring.size()]);
        const Vec2 in = left_of(along) * -1.0;  // clockwise: the inside is on the right
        double tip = -1e9;
        Vec2 contact = p;
        const auto rest = [&](Vec2 q) {
          const double t = distance(p, q);
          if (t > r) return;
          const double z = plan.surface(q) - (r - std::sqrt(std::max(0.0, r * r - t * t)));
          if (z > tip) {
            tip = z;
            contact = q;
          }
        };
        for (const double aslant : {0.0, 0.25, -0.25, 0.7, -0.7, 1.6, -1.6}) {
          const Vec2 u = unit(in + along * aslant);
          // The contact lies inside, towards the piece; a little way outside is looked at too.
          for (double t = -0.2 * r; t < r; t += r / 32) rest(p + u * t);
          rest(p + u * (r * 0.9999));
        }
        // From the best place looked at to where the ball really touches: square to the surface from its middle.
        for (int round = 0; round < 4 && tip > -1e8; ++round) {
          constexpr double h = 0.02;
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
          rest(p + g * (r / std::sqrt(1 + dot(g, g))));
        }
        points.push_back({p.x, p.y, tip});
      }
      rest_on_neighbours(points);
      for (Vec3& p : points) p.z = std::max(p.z, plan.lowest);
      points.push_back(points.front());
      Strand s;
      s.plunge_feed = plan.feeds.plunge;
      s.free_z = plan.top;
      const auto thin = thinned(points, 0.002);
      s.start = thin.front();
      append_lines(s, thin, 1, plan.feeds.feed);
      out.push_back(std::move(s));
    }
  }
  return out;
}

Expected<std::vector<Strand>> round_edge_by_form(const EdgePlan& plan) {
  if (plan.cutter.kind != CutterKind::round_over || std::abs(plan.cutter.corner_radius - plan.radius) > 0.01)
    return fail(ProblemKind::range,
                fmt::format("'{}' does not leave a radius of {} mm", plan.cutter.id, format_mm(plan.radius)), "edge",
                "Choose a round-over cutter of that radius, or a ball");
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

#include "core/program/arc.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr double largest_arc = 10'000;    // mm: 24 bits of a number tell a micrometre up to there (IEEE 754)
constexpr double arc_agreement = 0.0051;  // mm that the two ends' radii may differ: 0.0002 in (NIST's; from memory)

/// A place in an arc's plane, and its height over it.
struct InPlane {
  double u, v, height = 0;
};
InPlane in_plane(Vec3 p, Plane plane) {
  if (plane == Plane::xy) return {p.x, p.y, p.z};
  if (plane == Plane::zx) return {p.z, p.x, p.y};
  return {p.y, p.z, p.x};
}
Vec3 out_of_plane(InPlane p, Plane plane) {
  if (plane == Plane::xy) return {p.u, p.v, p.height};
  if (plane == Plane::zx) return {p.v, p.height, p.u};
  return {p.height, p.u, p.v};
}

}  // namespace

Vec3 arc_centre(const Block& b, Vec3 from, Vec3 to, const ArcFrame& frame) {
  const Plane plane = frame.plane;
  const InPlane a = in_plane(from, plane);
  const InPlane e = in_plane(to, plane);
  InPlane c{};
  const bool any_centre = b.has('I') || b.has('J') || b.has('K');
  const char first = plane == Plane::xy ? 'I' : plane == Plane::zx ? 'K' : 'J';
  const char second = plane == Plane::xy ? 'J' : plane == Plane::zx ? 'I' : 'K';
  const char third = plane == Plane::xy ? 'K' : plane == Plane::zx ? 'J' : 'I';
  if (b.has(third))
    throw Refusal{worded("{} does not belong to an arc in this plane", third), "Check the plane (G17, G18, G19)"};
  if (b.has('P') && b.of('P') != 1) throw Refusal{"an arc of several turns", "Write each turn"};
  if (b.has('R')) {
    if (any_centre) throw Refusal{"an arc with both a radius and a centre", "Give one of them"};
    const double r = b.of('R') * frame.unit;
    const double du = e.u - a.u;
    const double dv = e.v - a.v;
    const double chord = std::hypot(du, dv);
    if (chord < 1e-9) throw Refusal{"an arc by radius that ends where it starts", "Give its centre"};
    if (chord / 2 > std::abs(r) + arc_agreement)
      throw Refusal{"the arc's radius is too small to reach its end", "The line may be damaged"};
    const double h = std::sqrt(std::max(0.0, r * r - chord * chord / 4));
    // Radius format, NISTIR 6556 3.5.3.1: a positive radius is the shorter arc.
    const double side = (frame.clockwise ? -1 : 1) * (r > 0 ? 1 : -1);
    c = {(a.u + e.u) / 2 - side * h * dv / chord, (a.v + e.v) / 2 + side * h * du / chord};
  } else {
    if (!any_centre) throw Refusal{"an arc without a centre or radius", "The line may be damaged"};
    const double i = b.has(first) ? b.of(first) * frame.unit : 0;
    const double j = b.has(second) ? b.of(second) * frame.unit : 0;
    const InPlane zero = frame.centres_from ? in_plane(*frame.centres_from, plane) : a;
    c = {zero.u + i, zero.v + j};
    const double r0 = std::hypot(a.u - c.u, a.v - c.v);
    const double r1 = std::hypot(e.u - c.u, e.v - c.v);
    if (r0 < 1e-9) throw Refusal{"an arc of no radius", "The line may be damaged"};
    if (std::abs(r0 - r1) > arc_agreement)
      throw Refusal{
          fmt::format("the arc's start and end lie at different distances from its centre ({:.3f} and {:.3f} mm)", r0,
                      r1),
          "The line may be damaged"};
  }
  if (const double r = std::hypot(a.u - c.u, a.v - c.v); r > largest_arc)
    throw Refusal{
        fmt::format("an arc with a radius of {:.0f} m: a controller that counts in single precision leaves it",
                    r / 1000),
        "Write it as lines"};
  // Ends that lie nearer than a controller tells apart are a full turn to one and no way to another.
  const double chord = std::hypot(e.u - a.u, e.v - a.v);
  if (chord > 0 && chord < arc_agreement && std::hypot(a.u - c.u, a.v - c.v) > 10 * arc_agreement)
    throw Refusal{fmt::format("an arc that ends {:.4f} mm beside its start: one controller goes nowhere, another all "
                              "the way round",
                              chord),
                  "Write a full turn with its end where it starts, a short piece as a line"};
  return out_of_plane({c.u, c.v, a.height}, plane);
}

void flatten_arc(Vec3 from, const ReadMove& arc, double tolerance, std::vector<Vec3>& out) {
  const auto a = in_plane(from, arc.plane);
  const auto b = in_plane(arc.to, arc.plane);
  const auto c = in_plane(arc.centre, arc.plane);
  const double r = std::hypot(a.u - c.u, a.v - c.v);
  const double a0 = std::atan2(a.v - c.v, a.u - c.u);
  double sweep = std::atan2(b.v - c.v, b.u - c.u) - a0;
  if (!arc.clockwise && sweep <= 1e-12) sweep += 2 * std::numbers::pi;
  if (arc.clockwise && sweep >= -1e-12) sweep -= 2 * std::numbers::pi;
  const double step = 2 * std::acos(std::clamp(1 - tolerance / std::max(r, tolerance), 0.0, 1.0));
  const int n = std::clamp(static_cast<int>(std::ceil(std::abs(sweep) / std::max(step, 1e-3))), 1, 10000);
  for (int i = 1; i < n; ++i) {
    const double t = static_cast<double>(i) / n;
    const double angle = a0 + sweep * t;
    out.push_back(out_of_plane(
        {c.u + r * std::cos(angle), c.v + r * std::sin(angle), a.height + (b.height - a.height) * t}, arc.plane));
  }
  out.push_back(arc.to);
}

}  // namespace wren

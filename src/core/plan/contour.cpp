#include "core/plan/contour.hpp"

#include <algorithm>
#include <cstdint>
#include <numbers>
#include <unordered_map>

namespace wren {
namespace {

constexpr double pi = std::numbers::pi;

const Vertex& next(const Contour& c, std::size_t i) { return c[i + 1 < c.size() ? i + 1 : 0]; }

double edge_length(Vec2 a, Vec2 b, double bulge) {
  if (bulge == 0) return distance(a, b);
  const Arc arc = arc_of(a, b, bulge);
  return std::abs(arc.radius * arc.sweep);
}

/// Direction of travel at the start (t = 0) or end (t = 1) of an edge.
Vec2 tangent(Vec2 a, Vec2 b, double bulge, double t) {
  if (bulge == 0) return unit(b - a);
  const Arc arc = arc_of(a, b, bulge);
  const double angle = arc.start + arc.sweep * t;
  const double turn = arc.sweep > 0 ? 1 : -1;
  return Vec2{-std::sin(angle), std::cos(angle)} * turn;
}

}  // namespace

Arc arc_of(Vec2 a, Vec2 b, double bulge) {
  const double sweep = 4 * std::atan(bulge);
  const Vec2 chord = b - a;
  const double half = length(chord) / 2;
  const double radius = half / std::sin(std::abs(sweep) / 2);
  // The centre lies on the left of the chord for a counter-clockwise arc of less than half a turn.
  const double height = half / std::tan(sweep / 2);
  const Vec2 centre = lerp(a, b, 0.5) + left_of(unit(chord)) * height;
  const Vec2 from = a - centre;
  return {centre, sweep > 0 ? radius : -radius, std::atan2(from.y, from.x), sweep};
}

Polygon flatten(const Contour& contour, double tolerance) {
  Polygon out;
  for (std::size_t i = 0; i < contour.size(); ++i) {
    const Vertex& v = contour[i];
    const Vec2 end = next(contour, i).at;
    out.push_back(v.at);
    if (v.bulge == 0 || v.at == end) continue;
    const Arc arc = arc_of(v.at, end, v.bulge);
    const double r = std::abs(arc.radius);
    const double step = 2 * std::acos(std::max(0.0, 1 - tolerance / r));
    const int pieces = std::clamp(static_cast<int>(std::ceil(std::abs(arc.sweep) / std::max(step, 1e-4))), 1, 20000);
    for (int k = 1; k < pieces; ++k) {
      const double angle = arc.start + arc.sweep * k / pieces;
      out.push_back(arc.centre + Vec2{std::cos(angle), std::sin(angle)} * r);
    }
  }
  return out;
}

double signed_area(const Polygon& polygon) {
  double twice = 0;
  for (std::size_t i = 0; i < polygon.size(); ++i) twice += cross(polygon[i], polygon[(i + 1) % polygon.size()]);
  return twice / 2;
}

double perimeter(const Contour& contour) {
  double sum = 0;
  for (std::size_t i = 0; i < contour.size(); ++i)
    sum += edge_length(contour[i].at, next(contour, i).at, contour[i].bulge);
  return sum;
}

Box2 bounds(const Polygon& polygon) {
  Box2 box;
  for (const Vec2 p : polygon) box.add(p);
  return box;
}

Box2 bounds(const Contour& contour) { return bounds(flatten(contour, 1e-4)); }

bool contains(const Polygon& polygon, Vec2 p) {
  bool inside = false;
  for (std::size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++) {
    const Vec2 a = polygon[i];
    const Vec2 b = polygon[j];
    if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x) inside = !inside;
  }
  return inside;
}

double distance_to(const Polygon& polygon, Vec2 p) {
  double best = 1e300;
  for (std::size_t i = 0; i < polygon.size(); ++i)
    best = std::min(best, distance_to(p, Segment2{polygon[i], polygon[(i + 1) % polygon.size()]}));
  return best;
}

std::optional<Span> crossing(const Polygon& polygon, Vec2 p, Vec2 u) {
  const Vec2 n = left_of(u);
  Span span{1e300, -1e300};
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vec2 a = polygon[i];
    const Vec2 b = polygon[(i + 1) % polygon.size()];
    const double da = dot(a - p, n);
    const double db = dot(b - p, n);
    if ((da > 0) == (db > 0)) continue;
    const double t = dot(lerp(a, b, da / (da - db)) - p, u);
    span.low = std::min(span.low, t);
    span.high = std::max(span.high, t);
  }
  if (span.high < span.low) return {};
  return span;
}

Expected<Contour> offset_outside(const Contour& convex, double distance) {
  Contour out;
  bool all_out = true;
  for (std::size_t i = 0; i < convex.size(); ++i) {
    const Vertex& v = convex[i];
    const Vec2 end = next(convex, i).at;
    if (v.at == end) continue;
    // An inward arc keeps its middle and gets tighter: possible as long as the cutter fits into it.
    if (v.bulge < 0 && std::abs(arc_of(v.at, end, v.bulge).radius) <= distance + 1e-9)
      return fail(ProblemKind::unsupported, "the outline has an inward arc tighter than the cutter", "outline offset");
    if (v.bulge < 0) all_out = false;
    const Vec2 out_start = left_of(tangent(v.at, end, v.bulge, 0)) * -distance;
    const Vec2 out_end = left_of(tangent(v.at, end, v.bulge, 1)) * -distance;
    // Concentric arcs keep their angle, and with it their bulge.
    out.push_back({v.at + out_start, v.bulge});
    const std::size_t k = (i + 1) % convex.size();
    std::size_t m = (k + 1) % convex.size();
    while (convex[m].at == convex[k].at && m != i) m = (m + 1) % convex.size();
    const Vec2 follow = tangent(convex[k].at, convex[m].at, convex[k].bulge, 0);
    const Vec2 leave = tangent(v.at, end, v.bulge, 1);
    const double turn = std::atan2(cross(leave, follow), dot(leave, follow));
    // A hair of an inward corner, as between two arcs of one curve, moves its end by less than a hundredth of that.
    if (turn < -1e-6) all_out = false;
    if (turn < -2e-4) return fail(ProblemKind::unsupported, "the outline has an inward corner", "outline offset");
    if (turn > 1e-6) out.push_back({end + out_end, std::tan(turn / 4)});
  }
  if (!all_out) {
    // Where the part is not convex the way may still run into another of its edges: then it is no way.
    const Polygon way = flatten(out, 0.01);
    const Polygon part = flatten(convex, 0.01);
    if (first_crossing(way)) return fail(ProblemKind::unsupported, "the cutter's way crosses itself", "outline offset");
    for (const Vec2 p : way)
      if (wren::distance_to(part, p) < distance - 0.03)
        return fail(ProblemKind::unsupported, "the cutter does not fit between two edges", "outline offset");
  }
  return out;
}

Place place_along(const Contour& contour, double s) {
  const double total = perimeter(contour);
  s = std::fmod(s, total);
  if (s < 0) s += total;
  for (std::size_t i = 0; i < contour.size(); ++i) {
    const Vertex& v = contour[i];
    const Vec2 end = next(contour, i).at;
    const double l = edge_length(v.at, end, v.bulge);
    if ((s <= l && l > 0) || i + 1 == contour.size()) {
      const double t = l > 0 ? std::min(1.0, s / l) : 0;
      if (v.bulge == 0) return {lerp(v.at, end, t), unit(end - v.at)};
      const Arc arc = arc_of(v.at, end, v.bulge);
      const double angle = arc.start + arc.sweep * t;
      return {arc.centre + Vec2{std::cos(angle), std::sin(angle)} * std::abs(arc.radius),
              tangent(v.at, end, v.bulge, t)};
    }
    s -= l;
  }
  return {};
}

std::vector<double> crossings(const Polygon& polygon, Vec2 p, Vec2 u) {
  const Vec2 n = left_of(u);
  std::vector<double> out;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vec2 a = polygon[i];
    const Vec2 b = polygon[(i + 1) % polygon.size()];
    const double da = dot(a - p, n);
    const double db = dot(b - p, n);
    if ((da > 0) != (db > 0)) out.push_back(dot(lerp(a, b, da / (da - db)) - p, u));
  }
  std::sort(out.begin(), out.end());
  return out;
}

bool is_simple(const Polygon& polygon) { return polygon.size() >= 3 && !first_crossing(polygon); }

std::optional<Vec2> first_crossing(const Polygon& polygon) {
  const std::size_t n = polygon.size();
  if (n < 3) return {};
  // Edges are sorted into square cells about as long as a usual edge; only edges that share a cell are compared.
  const Box2 box = bounds(polygon);
  double whole = 0;
  for (std::size_t i = 0; i < n; ++i) whole += distance(polygon[i], polygon[(i + 1) % n]);
  const Vec2 size = box.size();
  const double cell = std::max({2 * whole / static_cast<double>(n), std::max(size.x, size.y) / 2000, 1e-9});
  const auto column = [&](double v, double low) { return static_cast<std::int64_t>(std::floor((v - low) / cell)); };
  std::unordered_map<std::int64_t, std::vector<std::uint32_t>> cells;
  const auto side = [](Vec2 a, Vec2 b, Vec2 p) {
    const double s = cross(b - a, p - a);
    return s > 0 ? 1 : s < 0 ? -1 : 0;
  };
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 a = polygon[i];
    const Vec2 b = polygon[(i + 1) % n];
    if (a == b) return a;
    const auto x0 = column(std::min(a.x, b.x), box.low.x);
    const auto x1 = column(std::max(a.x, b.x), box.low.x);
    for (std::int64_t x = x0; x <= x1; ++x) {
      // The part of the edge over this column of cells.
      double y0 = std::min(a.y, b.y);
      double y1 = std::max(a.y, b.y);
      if (x1 > x0) {
        const auto at = [&](double px) { return a.y + (b.y - a.y) * std::clamp((px - a.x) / (b.x - a.x), 0.0, 1.0); };
        const double u = at(box.low.x + static_cast<double>(x) * cell);
        const double v = at(box.low.x + static_cast<double>(x + 1) * cell);
        y0 = std::min(u, v);
        y1 = std::max(u, v);
      }
      for (std::int64_t y = column(y0, box.low.y); y <= column(y1, box.low.y); ++y) {
        auto& here = cells[x * 4'000'003 + y];
        for (const std::uint32_t j : here) {
          if (j == i || j + 1 == i || (j == 0 && i == n - 1)) continue;
          const Vec2 c = polygon[j];
          const Vec2 d = polygon[(j + 1) % n];
          if (std::max(a.x, b.x) < std::min(c.x, d.x) || std::max(c.x, d.x) < std::min(a.x, b.x) ||
              std::max(a.y, b.y) < std::min(c.y, d.y) || std::max(c.y, d.y) < std::min(a.y, b.y))
            continue;
          if (side(a, b, c) != side(a, b, d) && side(c, d, a) != side(c, d, b)) {
            const auto m = meet(a, b - a, c, d - c);
            return m ? *m : c;
          }
        }
        here.push_back(static_cast<std::uint32_t>(i));
      }
    }
  }
  return {};
}

}  // namespace wren

#include "core/plan/contour.hpp"

#include <algorithm>
#include <numbers>

#include <polyclipping/clipper.hpp>

namespace wren {
namespace {

constexpr double pi = std::numbers::pi;
constexpr double clip_scale = 1e4;  // whole numbers of 0.0001 mm for the clipping library

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
  for (std::size_t i = 0; i < contour.size(); ++i) sum += edge_length(contour[i].at, next(contour, i).at, contour[i].bulge);
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
  for (std::size_t i = 0; i < convex.size(); ++i) {
    const Vertex& v = convex[i];
    const Vec2 end = next(convex, i).at;
    if (v.at == end) continue;
    if (v.bulge < 0) return fail(ProblemKind::unsupported, "the outline has an inward arc", "outline offset");
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
    if (turn < -1e-6) return fail(ProblemKind::unsupported, "the outline has an inward corner", "outline offset");
    if (turn > 1e-6) out.push_back({end + out_end, std::tan(turn / 4)});
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
      return {arc.centre + Vec2{std::cos(angle), std::sin(angle)} * std::abs(arc.radius), tangent(v.at, end, v.bulge, t)};
    }
    s -= l;
  }
  return {};
}

namespace {

ClipperLib::Path to_clip(const Polygon& polygon) {
  ClipperLib::Path path;
  path.reserve(polygon.size());
  for (const Vec2 p : polygon) path.emplace_back(std::llround(p.x * clip_scale), std::llround(p.y * clip_scale));
  return path;
}

std::vector<Polygon> from_clip(const ClipperLib::Paths& paths) {
  std::vector<Polygon> out;
  for (const auto& path : paths) {
    Polygon polygon;
    polygon.reserve(path.size());
    for (const auto& p : path) polygon.push_back({static_cast<double>(p.X) / clip_scale, static_cast<double>(p.Y) / clip_scale});
    out.push_back(std::move(polygon));
  }
  return out;
}

}  // namespace

std::vector<Polygon> offset(const std::vector<Polygon>& polygons, double distance) {
  ClipperLib::ClipperOffset offsetter;
  offsetter.ArcTolerance = 0.002 * clip_scale;
  for (const Polygon& polygon : polygons) offsetter.AddPath(to_clip(polygon), ClipperLib::jtRound, ClipperLib::etClosedPolygon);
  ClipperLib::Paths grown;
  offsetter.Execute(grown, distance * clip_scale);
  return from_clip(grown);
}

std::vector<Polygon> united(const std::vector<Polygon>& polygons) {
  ClipperLib::Clipper clipper;
  for (const Polygon& polygon : polygons) {
    ClipperLib::Path path = to_clip(polygon);
    if (!ClipperLib::Orientation(path)) ClipperLib::ReversePath(path);
    clipper.AddPath(path, ClipperLib::ptSubject, true);
  }
  ClipperLib::Paths all;
  clipper.Execute(ClipperLib::ctUnion, all, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  return from_clip(all);
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

bool is_simple(const Polygon& polygon) {
  const std::size_t n = polygon.size();
  if (n < 3 || n > 5000) return false;
  const auto side = [](Vec2 a, Vec2 b, Vec2 p) {
    const double s = cross(b - a, p - a);
    return s > 0 ? 1 : s < 0 ? -1 : 0;
  };
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 a = polygon[i];
    const Vec2 b = polygon[(i + 1) % n];
    if (a == b) return false;
    for (std::size_t j = i + 2; j < n; ++j) {
      if (i == 0 && j == n - 1) continue;
      const Vec2 c = polygon[j];
      const Vec2 d = polygon[(j + 1) % n];
      if (side(a, b, c) != side(a, b, d) && side(c, d, a) != side(c, d, b)) return false;
    }
  }
  return true;
}

}  // namespace wren

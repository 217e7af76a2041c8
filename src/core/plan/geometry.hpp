// Points and straight lines in plan. Lengths in mm; the frame is the caller's and is named where it matters.
#pragma once

#include <cmath>
#include <optional>

namespace wren {

struct Vec2 {
  double x = 0;
  double y = 0;
  friend constexpr bool operator==(const Vec2&, const Vec2&) = default;
};

constexpr Vec2 operator+(Vec2 a, Vec2 b) { return {a.x + b.x, a.y + b.y}; }
constexpr Vec2 operator-(Vec2 a, Vec2 b) { return {a.x - b.x, a.y - b.y}; }
constexpr Vec2 operator*(Vec2 a, double k) { return {a.x * k, a.y * k}; }
constexpr double dot(Vec2 a, Vec2 b) { return a.x * b.x + a.y * b.y; }
constexpr double cross(Vec2 a, Vec2 b) { return a.x * b.y - a.y * b.x; }
/// Plain root of the squares: lengths here are far from where that could overflow, and hypot costs several times as
/// much.
inline double length(Vec2 a) { return std::sqrt(a.x * a.x + a.y * a.y); }
inline double distance(Vec2 a, Vec2 b) { return length(b - a); }
constexpr Vec2 lerp(Vec2 a, Vec2 b, double t) { return {a.x + (b.x - a.x) * t, a.y + (b.y - a.y) * t}; }
/// A quarter turn counter-clockwise.
constexpr Vec2 left_of(Vec2 a) { return {-a.y, a.x}; }
/// Unit vector; {0, 0} for a vector shorter than 1e-12 mm.
inline Vec2 unit(Vec2 a) {
  const double l = length(a);
  return l < 1e-12 ? Vec2{} : a * (1 / l);
}

struct Vec3 {
  double x = 0;
  double y = 0;
  double z = 0;
  friend constexpr bool operator==(const Vec3&, const Vec3&) = default;
};
inline double distance(Vec3 a, Vec3 b) {
  return std::sqrt((b.x - a.x) * (b.x - a.x) + (b.y - a.y) * (b.y - a.y) + (b.z - a.z) * (b.z - a.z));
}
constexpr Vec2 flat(Vec3 a) { return {a.x, a.y}; }
constexpr Vec3 lerp(Vec3 a, Vec3 b, double t) {
  return {a.x + (b.x - a.x) * t, a.y + (b.y - a.y) * t, a.z + (b.z - a.z) * t};
}

struct Segment2 {
  Vec2 a;
  Vec2 b;
};

/// Where the endless lines through p along u and through q along v meet; nothing when they are parallel to 1e-12.
[[nodiscard]] inline std::optional<Vec2> meet(Vec2 p, Vec2 u, Vec2 q, Vec2 v) {
  const double d = cross(u, v);
  if (std::abs(d) < 1e-12 * length(u) * length(v) || d == 0) return {};
  return p + u * (cross(q - p, v) / d);
}

/// Distance from p to the segment; for a segment of no length, to its point.
[[nodiscard]] inline double distance_to(Vec2 p, Segment2 s) {
  const Vec2 d = s.b - s.a;
  const double l2 = dot(d, d);
  const double share = l2 > 0 ? dot(p - s.a, d) / l2 : 0.0;
  const double t = share < 0 ? 0.0 : share > 1 ? 1.0 : share;
  return distance(p, s.a + d * t);
}

}  // namespace wren

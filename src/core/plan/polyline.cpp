#include "core/plan/polyline.hpp"

namespace wren {
namespace {

double off_line(Vec3 p, Vec3 a, Vec3 b) {
  const Vec3 d{b.x - a.x, b.y - a.y, b.z - a.z};
  const Vec3 q{p.x - a.x, p.y - a.y, p.z - a.z};
  const double l2 = d.x * d.x + d.y * d.y + d.z * d.z;
  const double t = l2 > 0 ? std::fmin(1.0, std::fmax(0.0, (q.x * d.x + q.y * d.y + q.z * d.z) / l2)) : 0;
  return std::hypot(q.x - d.x * t, q.y - d.y * t, q.z - d.z * t);
}

}  // namespace

std::vector<Vec3> thinned(const std::vector<Vec3>& points, double tolerance) {
  if (points.size() < 3) return points;
  std::vector<Vec3> out{points.front()};
  std::size_t anchor = 0;
  constexpr std::size_t longest = 64;  // bounds the work: each point is looked at no more than this often
  for (std::size_t i = 2; i < points.size(); ++i) {
    bool fits = i - anchor < longest;
    for (std::size_t k = anchor + 1; fits && k < i; ++k)
      fits = off_line(points[k], points[anchor], points[i]) <= tolerance;
    if (!fits) {
      anchor = i - 1;
      out.push_back(points[anchor]);
    }
  }
  out.push_back(points.back());
  return out;
}

}  // namespace wren

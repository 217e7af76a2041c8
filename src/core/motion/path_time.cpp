#include "core/motion/path_time.hpp"

#include <cmath>
#include <numbers>

namespace wren {

Segments segments(const Toolpath& path, const MotionLimits& limits) {
  Segments s;
  const std::size_t guess = path.moves.size() + 1;
  for (auto* v : {&s.x, &s.y, &s.z, &s.speed}) v->reserve(guess);
  const auto put = [&](Vec3 p, double v) {
    s.x.push_back(static_cast<float>(p.x));
    s.y.push_back(static_cast<float>(p.y));
    s.z.push_back(static_cast<float>(p.z));
    s.speed.push_back(static_cast<float>(v));
  };
  const auto held = [&](Vec3 from, Vec3 to, double v) {  // no axis faster than it may go
    const double l = distance(from, to);
    if (l < 1e-9) return v;
    const auto axis = [&](double d, double most) {
      if (std::abs(d) * v > most * l) v = most * l / std::abs(d);
    };
    axis(to.x - from.x, limits.max_feed.x);
    axis(to.y - from.y, limits.max_feed.y);
    axis(to.z - from.z, limits.max_feed.z);
    return v;
  };
  put(path.start, 0);
  Vec3 from = path.start;
  for (const Move& m : path.moves) {
    if (m.kind == MoveKind::arc_cw || m.kind == MoveKind::arc_ccw) {
      const double r = distance(m.centre, flat(m.to));
      const double a0 = std::atan2(from.y - m.centre.y, from.x - m.centre.x);
      double sweep = std::atan2(m.to.y - m.centre.y, m.to.x - m.centre.x) - a0;
      if (m.kind == MoveKind::arc_ccw && sweep <= 1e-12) sweep += 2 * std::numbers::pi;
      if (m.kind == MoveKind::arc_cw && sweep >= -1e-12) sweep -= 2 * std::numbers::pi;
      const double v = std::min(static_cast<double>(m.feed) / 60, std::sqrt(limits.acceleration * std::max(r, 1e-6)));
      const int n = std::max(1, static_cast<int>(std::ceil(std::abs(sweep) / 0.0873)));
      Vec3 at = from;
      for (int i = 1; i <= n; ++i) {
        const double t = static_cast<double>(i) / n;
        const double a = a0 + sweep * t;
        const Vec3 p =
            i == n ? m.to
                   : Vec3{m.centre.x + r * std::cos(a), m.centre.y + r * std::sin(a), from.z + (m.to.z - from.z) * t};
        put(p, held(at, p, v));
        at = p;
      }
    } else {
      put(m.to, m.kind == MoveKind::rapid ? limits.rapid : held(from, m.to, static_cast<double>(m.feed) / 60));
    }
    from = m.to;
  }
  return s;
}

double estimate_seconds(const Toolpath& path, const Machine& machine) {
  const MotionLimits limits = motion_limits(machine);
  EstimateScratch work;
  return estimate_seconds(segments(path, limits), limits, work);
}

}  // namespace wren

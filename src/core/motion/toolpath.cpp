#include "core/motion/toolpath.hpp"

#include <algorithm>
#include <numbers>

namespace wren {
Extents extents(const Toolpath& path) {
  Extents e;
  const auto add = [&](Vec3 p) {
    e.low = {std::min(e.low.x, p.x), std::min(e.low.y, p.y), std::min(e.low.z, p.z)};
    e.high = {std::max(e.high.x, p.x), std::max(e.high.y, p.y), std::max(e.high.z, p.z)};
  };
  Vec3 from = path.start;
  for (const Move& m : path.moves) {
    add(m.to);
    if (m.kind == MoveKind::arc_cw || m.kind == MoveKind::arc_ccw) {
      const double r = distance(m.centre, flat(from));
      const double a0 = std::atan2(from.y - m.centre.y, from.x - m.centre.x);
      double sweep = std::atan2(m.to.y - m.centre.y, m.to.x - m.centre.x) - a0;
      const bool ccw = m.kind == MoveKind::arc_ccw;
      if (ccw && sweep <= 1e-12) sweep += 2 * std::numbers::pi;
      if (!ccw && sweep >= -1e-12) sweep -= 2 * std::numbers::pi;
      for (int q = -8; q <= 8; ++q) {  // the arc's extreme points at whole quarter turns
        const double angle = q * std::numbers::pi / 2;
        const double t = (angle - a0) / sweep;
        if (t > 0 && t < 1) add({m.centre.x + r * std::cos(angle), m.centre.y + r * std::sin(angle), m.to.z});
      }
    }
    from = m.to;
  }
  return e;
}

}  // namespace wren

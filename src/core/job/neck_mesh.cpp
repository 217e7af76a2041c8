#include "core/job/neck_mesh.hpp"

#include <algorithm>
#include <numbers>

namespace wren {
namespace {

Polygon circle(Vec2 at, double r) {
  Polygon out;
  for (int k = 0; k < 28; ++k) {
    const double a = 2 * std::numbers::pi * k / 28;
    out.push_back(at + Vec2{std::cos(a), std::sin(a)} * r);
  }
  return out;
}

Polygon stadium(const Channel& c) {
  if (distance(c.a, c.b) < 1e-9) return circle(c.a, c.width / 2);
  const Vec2 u = unit(c.b - c.a);
  const double start = std::atan2(u.y, u.x);
  Polygon out;
  for (int k = 0; k <= 10; ++k) {
    const double a = start - std::numbers::pi / 2 + std::numbers::pi * k / 10;
    out.push_back(c.b + Vec2{std::cos(a), std::sin(a)} * (c.width / 2));
  }
  for (int k = 0; k <= 10; ++k) {
    const double a = start + std::numbers::pi / 2 + std::numbers::pi * k / 10;
    out.push_back(c.a + Vec2{std::cos(a), std::sin(a)} * (c.width / 2));
  }
  return out;
}

/// Long straight edges divided, so that no triangle spans a bent skin from one end of the neck to the other.
Polygon divided(const Polygon& polygon, double longest) {
  Polygon out;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vec2 b = polygon[(i + 1) % polygon.size()];
    const int parts = std::max(1, static_cast<int>(distance(polygon[i], b) / longest));
    for (int k = 0; k < parts; ++k) out.push_back(lerp(polygon[i], b, static_cast<double>(k) / parts));
  }
  return out;
}

}  // namespace

Mesh neck_mesh(const NeckShape& n, double pace) {
  MeshPlan plan;
  plan.outline = divided(flatten(n.outline, 0.01), pace);
  struct Step {
    Polygon polygon;
    const Channel* channel;
    const Hole* hole;
  };
  std::vector<Step> steps;
  for (const Channel& c : n.channels) {
    Polygon p = stadium(c);
    if (c.id == "nut") {
      // Runs out through the edges: kept inside the outline by a hair, the walls there are the outline's own.
      Polygon kept;
      for (Vec2 q : p) {
        const NeckShape::Taper t = n.taper(q.x);
        q.y = std::clamp(q.y, t.middle - t.half + 0.01, t.middle + t.half - 0.01);
        kept.push_back(q);
      }
      p = kept;
    }
    steps.push_back({p, &c, nullptr});
    plan.pockets.push_back(divided(p, pace));
  }
  for (const Hole& h : n.holes) {
    const Polygon p = circle(h.at, h.diameter / 2);
    if (h.depth == 0) plan.holes.push_back(p);
    else {
      steps.push_back({p, nullptr, &h});
      plan.pockets.push_back(p);
    }
  }
  const Box2 box = bounds(plan.outline);
  const int across = pace > 2.5 ? 22 : 44;
  for (double x = box.low.x + pace / 2; x < box.high.x; x += pace) {
    const auto edges = crossings(plan.outline, {x, 0}, {0, 1});
    if (edges.size() < 2) continue;
    const double low = edges.front();
    const double high = edges.back();
    // Closer together towards the edges, where the back turns up.
    for (int k = 1; k < across; ++k) {
      const Vec2 p{x, (low + high) / 2 - (high - low) / 2 * std::cos(std::numbers::pi * k / across)};
      if (contains(plan.outline, p)) plan.inside.push_back(p);
    }
  }
  const auto in = [](const Step& s, Vec2 from) { return contains(s.polygon, from); };
  plan.top = [&](Vec2 at, Vec2 from) {
    double z = n.front(at);
    // A one-piece neck steps down at the nut: the step is drawn where the triangles part.
    for (const Step& s : steps)
      if (s.channel != nullptr && !s.channel->from_back && in(s, from)) z = std::min(z, s.channel->floor(at));
    return z;
  };
  plan.bottom = [&](Vec2 at, Vec2 from) {
    double d = n.depth(at);
    for (const Step& s : steps) {
      if (s.channel != nullptr && s.channel->from_back && in(s, from)) d = std::min(d, -s.channel->floor(at));
      if (s.hole != nullptr && in(s, from)) d = std::min(d, n.depth(s.hole->at) - s.hole->depth);
    }
    return -d;
  };
  return mesh_piece(plan);
}

}  // namespace wren

#include "core/parts/neck/part.hpp"

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

}  // namespace

Mesh neck_mesh(const NeckShape& n, double within) {
  // Chords between stations leave a shaft of 1/25 mm bend (the head's step) by pace²/200.
  const double pace = std::clamp(std::sqrt(200 * within), 0.8, 3.0);
  MeshPlan plan;
  plan.outline = divided(flatten(n.outline, 0.01), pace);
  struct Stage {
    Polygon polygon;
    Box2 box;
    const Channel* channel;
    const Hole* hole;
  };
  std::vector<Stage> steps;
  const auto step = [&](Polygon p, const Channel* channel, const Hole* hole) {
    plan.steps.push_back(divided(p, pace));
    const Box2 around = bounds(p);
    steps.push_back({std::move(p), around, channel, hole});
  };
  for (const Channel& c : n.channels) {
    Polygon p = stadium(c);
    if (c.id == "nut")
      // Runs out through the edges: kept inside the outline by a hair, the walls there are the outline's own.
      for (Vec2& q : p) {
        const NeckShape::Taper t = n.taper(q.x);
        q.y = std::clamp(q.y, t.middle - t.half + 0.01, t.middle + t.half - 0.01);
      }
    step(std::move(p), &c, nullptr);
  }
  for (const Hole& h : n.holes) step(circle(h.at, h.diameter / 2), nullptr, &h);
  if (steps.size() > 30)
    steps.resize(30);  // as many as a region's bits; a neck has under thirty channels and blind holes
  const Box2 box = bounds(plan.outline);
  const int across = within > 0.05 ? 24 : 56;
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
  plan.region = [&](Vec2 middle) {
    if (!contains(plan.outline, middle)) return -1;
    int mask = 0;
    for (std::size_t k = 0; k < steps.size(); ++k) {
      const Stage& s = steps[k];
      if (middle.x < s.box.low.x || middle.x > s.box.high.x || middle.y < s.box.low.y || middle.y > s.box.high.y ||
          !contains(s.polygon, middle))
        continue;
      if (s.hole != nullptr && s.hole->through()) return -1;
      mask |= 1 << k;
    }
    return mask;
  };
  plan.top = [&](Vec2 at, int region) {
    double z = n.front(at);
    for (std::size_t k = 0; region != 0 && k < steps.size(); ++k)
      if ((region >> k & 1) != 0 && steps[k].channel != nullptr && !steps[k].channel->from_back)
        z = std::min(z, steps[k].channel->floor(at));
    return z;
  };
  plan.bottom = [&](Vec2 at, int region) {
    double d = n.depth(at);
    for (std::size_t k = 0; region != 0 && k < steps.size(); ++k) {
      if ((region >> k & 1) == 0) continue;
      const Stage& s = steps[k];
      if (s.channel != nullptr && s.channel->from_back) d = std::min(d, -s.channel->floor(at));
      if (s.hole != nullptr) d = std::min(d, n.depth(s.hole->at) - s.hole->depth);
    }
    return -d;
  };
  return mesh_piece(plan);
}

}  // namespace wren

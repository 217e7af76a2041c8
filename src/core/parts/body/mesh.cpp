#include "core/parts/body/part.hpp"

#include <algorithm>
#include <bitset>
#include <map>

namespace wren {
namespace {

Polygon thinner(const Polygon& ring, double within) {
  // Corners that lie on the line between their neighbours add nothing to a picture.
  Polygon out;
  for (const Vec2 p : ring)
    if (out.empty() || distance(out.back(), p) > within) out.push_back(p);
  if (out.size() > 3 && distance(out.front(), out.back()) <= within) out.pop_back();
  return out.size() >= 3 ? out : ring;
}

}  // namespace

Mesh body_mesh(const BodyShape& s, double within) {
  constexpr std::size_t most = 192;
  constexpr double pace = 3;  // a carved face bends by less than 1/60 mm: 0.02 over this
  using Set = std::bitset<most>;
  MeshPlan plan;
  const double fine = within < 0.05 ? 0.08 : 0.3;
  const bool bent = s.carved_face() || s.carved_back();
  // Walls follow the bent faces that they meet.
  const auto along = [&](const Polygon& ring) { return bent ? divided(ring, pace) : ring; };
  plan.outline = along(thinner(flatten(s.outline, within / 2), fine));
  struct Stage {
    Region region;
    Box2 box;
    const Cavity* cavity = nullptr;
    const BodyHole* hole = nullptr;
  };
  std::vector<Stage> steps;
  const auto add = [&](Region region, const Cavity* cavity, const BodyHole* hole) {
    if (steps.size() >= most) return;
    Stage step{std::move(region), {}, cavity, hole};
    for (Polygon& ring : step.region) {
      ring = along(thinner(ring, fine));
      for (const Vec2 q : ring) step.box.add(q);
      plan.steps.push_back(ring);
    }
    steps.push_back(std::move(step));
  };
  // A cavity that runs out of the edge is kept a hair inside: the wall there is the outline's own.
  const Region inside = offset({s.corners}, -0.01);
  for (const Cavity& c : s.cavities)
    if (c.layer < 0) add(intersected(c.region, inside), &c, nullptr);
  for (const BodyHole& h : s.holes) {
    add({circle_polygon(h.at, h.diameter / 2)}, nullptr, &h);
  }
  const Box2 box = bounds(plan.outline);
  if (bent)
    for (double x = box.low.x + pace / 2; x < box.high.x; x += pace)
      for (double y = box.low.y + pace / 2; y < box.high.y; y += pace)
        if (s.inside->holds({x, y}) &&
            (std::abs(s.carved_top({x, y})) > 0.01 || s.carved_bottom({x, y}) > -s.thickness + 0.01))
          plan.inside.push_back({x, y});
  // Rings along the rounded edges.
  const double round = std::max(s.given.comfort.round_face, s.given.comfort.round_back);
  if (round > 0) {
    const int rings =
        std::max(4, static_cast<int>(std::ceil(std::acos(0.0) / (2 * std::acos(1 - std::min(0.5, within / round))))));
    for (int k = 1; k <= rings; ++k) {
      const double share = k == rings ? 1.02 : 1 - std::cos(std::acos(0.0) * k / rings);
      for (const Polygon& ring : offset({s.corners}, -round * share))
        for (const Vec2 q : thinner(ring, 0.8)) plan.inside.push_back(q);
    }
  }
  for (const Cavity& c : s.cavities)
    if (c.layer < 0 && c.round > 0)
      for (const double share : {0.02, 0.1, 0.25, 0.45, 0.7, 1.01})
        for (const Polygon& ring : offset(c.region, -c.round * share))
          for (const Vec2 q : thinner(ring, 0.8)) plan.inside.push_back(q);
  std::map<std::string, int> numbers;
  std::vector<Set> sets;
  plan.region = [&](Vec2 middle) {
    if (!s.inside->holds(middle)) return -1;
    Set set;
    for (std::size_t k = 0; k < steps.size(); ++k) {
      const Stage& step = steps[k];
      if (middle.x < step.box.low.x || middle.x > step.box.high.x || middle.y < step.box.low.y ||
          middle.y > step.box.high.y || !contains(step.region, middle))
        continue;
      set.set(k);
      if (step.hole != nullptr && step.hole->depth == 0) return -1;
    }
    double top = 0;
    double bottom = -s.thickness;
    for (std::size_t k = 0; k < steps.size(); ++k) {
      if (!set.test(k)) continue;
      const Stage& step = steps[k];
      if (step.cavity != nullptr)
        (step.cavity->from_back ? bottom : top) = step.cavity->from_back
                                                      ? std::max(bottom, step.cavity->floor_at(middle))
                                                      : std::min(top, step.cavity->floor_at(middle));
      else if (step.hole->from_back)
        bottom = std::max(bottom, step.hole->from + step.hole->depth);
      else
        top = std::min(top, step.hole->from - step.hole->depth);
    }
    if (top <= bottom + 1e-9) return -1;  // cut from both sides: open
    const auto [it, fresh] = numbers.emplace(set.to_string(), static_cast<int>(sets.size()));
    if (fresh) sets.push_back(set);
    return it->second;
  };
  plan.top = [&](Vec2 at, int region) {
    double z = s.top(at);
    for (std::size_t k = 0; k < steps.size(); ++k)
      if (sets[static_cast<std::size_t>(region)].test(k)) {
        const Stage& step = steps[k];
        if (step.cavity != nullptr && !step.cavity->from_back) z = std::min(z, step.cavity->bed_at(at));
        if (step.hole != nullptr && !step.hole->from_back) z = std::min(z, step.hole->from - step.hole->depth);
      }
    return z;
  };
  plan.bottom = [&](Vec2 at, int region) {
    double z = s.bottom(at);
    for (std::size_t k = 0; k < steps.size(); ++k)
      if (sets[static_cast<std::size_t>(region)].test(k)) {
        const Stage& step = steps[k];
        if (step.cavity != nullptr && step.cavity->from_back) z = std::max(z, step.cavity->bed_at(at));
        if (step.hole != nullptr && step.hole->from_back) z = std::max(z, step.hole->from + step.hole->depth);
      }
    return z;
  };
  return mesh_piece(plan);
}

}  // namespace wren

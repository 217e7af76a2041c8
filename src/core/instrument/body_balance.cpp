#include "core/instrument/body_balance.hpp"

#include <algorithm>
#include <numbers>

namespace wren {

HangWay hang(Vec2 a, Vec2 b, double strap, Vec2 g, double treble, double friction) {
  const double most = std::exp(friction * std::numbers::pi) * (1 + 1e-9);
  HangWay nearest;
  double least = 1e300;
  constexpr double step = 0.5 * std::numbers::pi / 180;
  for (int k = 0; k <= 178; ++k)
    for (const int sign : {1, -1}) {
      const double angle = sign * k * step;
      // The neck points to −x; at this slope the vertical runs so in the body's plan.
      const Vec2 up{-std::sin(angle), -treble * std::cos(angle)};
      double low = 0;
      double high = strap * 2;
      const auto slack = [&](double t) { return strap - distance(g + up * t, a) - distance(g + up * t, b); };
      if (slack(0) <= 0) continue;  // the strap is too short to go round
      for (int i = 0; i < 50; ++i) {
        const double m = (low + high) / 2;
        (slack(m) > 0 ? low : high) = m;
      }
      const Vec2 p = g + up * low;
      const Vec2 across = left_of(up);
      const double to_a = dot(a - p, across) / distance(a, p);
      const double to_b = dot(b - p, across) / distance(b, p);
      if (to_a * to_b >= 0) continue;  // both buttons on one side of the vertical: it swings on
      const double ratio = std::abs(to_b / to_a);
      const double off = ratio > most ? ratio / most : ratio < 1 / most ? 1 / (ratio * most) : 1;
      if (off <= 1) return {angle, p};
      if (off < least) {
        least = off;
        nearest = {angle, p};
      }
    }
  return nearest;
}

BodyBalance balance(const BodyShape& body, const DensityAt& density, const std::vector<Mass>& others, double pace) {
  BodyBalance out;
  const std::size_t n = body.layers.size();
  std::vector<double> volume(n, 0);
  std::vector<double> weight(n, 0);
  std::vector<Vec2> moment(n);
  const Box2 box = bounds(body.corners);
  double hollow = 0;
  const int rows = std::max(1, static_cast<int>(std::ceil(box.size().y / pace)));
  const double dy = box.size().y / rows;
  std::vector<const Cavity*> hidden;
  for (const Cavity& c : body.cavities)
    if (c.layer >= 0) hidden.push_back(&c);
  for (int j = 0; j < rows; ++j) {
    const double y = box.low.y + (j + 0.5) * dy;
    const auto edges = crossings(body.corners, {0, y}, {1, 0});
    for (std::size_t e = 0; e + 1 < edges.size(); e += 2) {
      const int columns = std::max(1, static_cast<int>(std::ceil((edges[e + 1] - edges[e]) / pace)));
      const double dx = (edges[e + 1] - edges[e]) / columns;
      for (int i = 0; i < columns; ++i) {
        const Vec2 p{edges[e] + (i + 0.5) * dx, y};
        const double top = std::max(body.finished_top(p), -body.thickness);
        const double bottom = std::min(body.finished_bottom(p), 0.0);
        for (std::size_t k = 0; k < n; ++k) {
          double high = std::min(top, body.layers[k].top);
          const double low = std::max(bottom, body.layers[k].bottom);
          double wood = std::max(0.0, high - low);
          // A hidden cavity takes out what lies between its floor and its layer's top.
          double taken = 0;
          for (const Cavity* c : hidden)
            if (wood > 0 && c->holds(p) && c->floor < body.layers[k].top && static_cast<int>(k) >= c->layer) {
              const double roof = body.layers[static_cast<std::size_t>(c->layer)].top;
              const double here = std::max(0.0, std::min(high, roof) - std::max(low, c->floor));
              taken = std::max(taken, here);
              if (c->id.rfind("chamber", 0) == 0) hollow += here * dx * dy * density(k, p) * 1e-6;
            }
          wood -= std::min(wood, taken);
          volume[k] += wood * dx * dy;
          const double grams = wood > 0 ? wood * dx * dy * density(k, p) * 1e-6 : 0;
          weight[k] += grams;
          moment[k] = moment[k] + p * grams;
        }
      }
    }
  }
  Vec2 sum;
  for (std::size_t k = 0; k < n; ++k) {
    const double grams = weight[k];
    const Vec2 at = grams > 0 ? moment[k] * (1 / grams) : Vec2{};
    out.layers.push_back({body.layers[k].layer.name, grams, at});
    out.body_g += grams;
    out.volume_mm3 += volume[k];
    sum = sum + at * grams;
  }
  out.chambers_g = hollow;
  out.body_centre = out.body_g > 0 ? sum * (1 / out.body_g) : Vec2{};
  out.whole_g = out.body_g;
  for (const Mass& m : others) {
    out.whole_g += m.grams;
    sum = sum + m.at * m.grams;
  }
  out.whole_centre = out.whole_g > 0 ? sum * (1 / out.whole_g) : Vec2{};
  const EdgeJob* horn = nullptr;
  const EdgeJob* tail = nullptr;
  for (const EdgeJob& j : body.edge_jobs) {
    if (j.id == "strap-horn") horn = &j;
    if (j.id == "strap-tail") tail = &j;
  }
  if (horn != nullptr && tail != nullptr) {
    const HangWay way = hang(horn->at, tail->at, body.given.strap, out.whole_centre, body.treble);
    out.hang = way.angle;
    out.shoulder = way.shoulder;
  }
  return out;
}

}  // namespace wren

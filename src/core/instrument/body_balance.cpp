#include "core/instrument/body_balance.hpp"

#include <algorithm>
#include <numbers>

namespace wren {

HangWay hang(Vec2 a, Vec2 b, double strap, Vec2 g, double treble) {
  const Vec2 middle = (a + b) * 0.5;
  const double c = distance(a, b) / 2;
  const double major = std::max(strap / 2, c * 1.001);
  const double minor = std::sqrt(major * major - c * c);
  const Vec2 u = unit(b - a);
  Vec2 v = left_of(u);
  if (v.y * treble > 0) v = v * -1.0;   // over the bass side
  const auto at = [&](double t) { return middle + u * (major * std::cos(t)) + v * (minor * std::sin(t)); };
  double low = 0.05;
  double high = std::numbers::pi - 0.05;
  double best = low;
  for (int k = 0; k <= 400; ++k) {
    const double t = low + (high - low) * k / 400;
    if (distance(at(t), g) > distance(at(best), g)) best = t;
  }
  low = std::max(0.0, best - 0.01);
  high = best + 0.01;
  for (int k = 0; k < 60; ++k) {
    const double m1 = low + (high - low) / 3;
    const double m2 = high - (high - low) / 3;
    if (distance(at(m1), g) > distance(at(m2), g)) high = m2;
    else low = m1;
  }
  const Vec2 p = at((low + high) / 2);
  const Vec2 down = unit(g - p);
  return {std::asin(std::clamp(down.x, -1.0, 1.0)), p};
}

BodyBalance balance(const BodyShape& body, const std::vector<double>& density, const std::vector<Mass>& others, double pace) {
  BodyBalance out;
  const std::size_t n = body.layers.size();
  std::vector<double> volume(n, 0);
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
              if (c->id.rfind("chamber", 0) == 0) hollow += here * dx * dy * (k < density.size() ? density[k] : 0) * 1e-6;
            }
          wood -= std::min(wood, taken);
          volume[k] += wood * dx * dy;
          moment[k] = moment[k] + p * (wood * dx * dy);
        }
      }
    }
  }
  Vec2 sum;
  for (std::size_t k = 0; k < n; ++k) {
    const double grams = volume[k] * (k < density.size() ? density[k] : 600) * 1e-6;
    const Vec2 at = volume[k] > 0 ? moment[k] * (1 / volume[k]) : Vec2{};
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

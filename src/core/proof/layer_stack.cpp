#include "core/proof/layer_stack.hpp"

#include <algorithm>
#include <cmath>

#include "core/proof/clearance.hpp"

namespace wren {
namespace {

constexpr double least = 1e-4;  // mm: thinner is no wood

/// Side z of what stands at a place of the plan; the waste board outside the grid.
double read(const Setup& setup, const TileGrid& grid, Vec2 p) {
  const Vec2 q = setup.to_work.apply(turned(setup.turn, p));
  return height_at(grid, q, setup.bed_z()) - setup.to_work.shift.z;
}

}  // namespace

LayerStack::LayerStack(std::vector<Layer> layers) : layers_(std::move(layers)) {
  for (Layer& l : layers_) {
    const auto air = static_cast<float>(l.top.bed_z());
    if (!l.kept.empty()) change(l, l.kept, false, air);
    for (const Polygon& plug : l.gone) change(l, plug, true, air);
  }
}

void LayerStack::change(Layer& layer, const Polygon& shape, bool inside, float to) {
  Polygon work;
  for (const Vec2 p : shape) work.push_back(layer.top.to_work.apply(turned(layer.top.turn, p)));
  TileGrid& grid = layer.from_top;
  for (int j = 0; j < grid.height(); ++j) {
    const std::vector<double> edges = crossings(work, {0, grid.centre(0, j).y}, {1, 0});
    std::size_t passed = 0;
    for (int i = 0; i < grid.width(); ++i) {
      while (passed < edges.size() && edges[passed] <= grid.centre(i, j).x) ++passed;
      if ((passed % 2 == 1) == inside) grid.at(i, j) = to;
    }
  }
}

std::pair<double, double> LayerStack::wood(const Layer& layer, Vec2 p) {
  const std::pair none{layer.low, layer.low};
  const double high = read(layer.top, layer.from_top, p);
  const double low =
      layer.from_under.width() > 0 ? std::max(layer.low, -read(layer.under, layer.from_under, p)) : layer.low;
  return high > low + least ? std::pair{low, high} : none;
}

double LayerStack::top(Vec2 p, double none) const {
  for (const Layer& l : layers_)
    if (const auto [low, high] = wood(l, p); high > low) return high;
  return none;
}

double LayerStack::bottom(Vec2 p, double none) const {
  for (std::size_t k = layers_.size(); k-- > 0;)
    if (const auto [low, high] = wood(layers_[k], p); high > low) return low;
  return none;
}

double LayerStack::wood_between(Vec2 p, double low, double high) const {
  double sum = 0;
  for (const Layer& l : layers_) {
    const auto [a, b] = wood(l, p);
    sum += std::max(0.0, std::min(b, high) - std::max(a, low));
  }
  return sum;
}

std::pair<double, double> LayerStack::void_at(Vec2 p) const {
  constexpr double hollow = 0.5;  // mm: a gap of less is glue
  double over = 1e300;            // underside of the wood above
  for (const Layer& l : layers_) {
    const auto [low, high] = wood(l, p);
    if (high <= low) continue;
    if (over < 1e300 && over - high > hollow) return {over, high};
    over = low;
  }
  return {0, 0};
}

}  // namespace wren

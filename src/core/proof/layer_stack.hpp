// LayerStack: layers as their programs left them, glued onto each other, voids and all: the wood that the glued piece's
// programs begin with. Two skins a layer. Instrument frame; mm.
#pragma once

#include <vector>

#include "core/plan/region.hpp"
#include "core/skin/tile_grid.hpp"
#include "core/workshop/setup.hpp"

namespace wren {

class LayerStack {
 public:
  struct Layer {
    double low = 0;  // z of its underside where nothing cut it
    Setup top;
    TileGrid from_top;  // what its upper side's programs left
    Setup under;        // turned; its grid empty: nothing is cut from below
    TileGrid from_under;
    Polygon kept;               // it was cut free: only what lies within this is glued on; empty: the whole blank
    std::vector<Polygon> gone;  // plugs that a hand has taken out
  };
  /// From the face down. Waste beside what is kept, and plugs, are taken out.
  explicit LayerStack(std::vector<Layer> layers);

  /// z of the uppermost and of the lowest wood at a place; `none` where there is none at all.
  [[nodiscard]] double top(Vec2 p, double none) const;
  [[nodiscard]] double bottom(Vec2 p, double none) const;
  /// Wood of all layers between two heights, mm.
  [[nodiscard]] double wood_between(Vec2 p, double low, double high) const;
  /// The highest hollow with wood both over and under it: z of its roof and of its floor; equal where there is none.
  [[nodiscard]] std::pair<double, double> void_at(Vec2 p) const;

 private:
  /// Sets the upper wood within a shape, or outside it.
  static void change(Layer& layer, const Polygon& shape, bool inside, float to);
  /// Low and high of a layer's wood; high ≤ low: none.
  [[nodiscard]] static std::pair<double, double> wood(const Layer& layer, Vec2 p);
  std::vector<Layer> layers_;
};

}  // namespace wren

// Layers worked while they are thin: what of each cavity is cut in which layer before the glue-up, from which face, and
// what the stack looks like once they are on each other. Body frame, mm.
#pragma once

#include "core/parts/body/part.hpp"

namespace wren {

/// What is cut of layer `k` before it is glued: chambers and channels in its top, and the layer's share of every cavity
/// that is worked layer by layer. Those that lie within others are left out.
[[nodiscard]] std::vector<LayerCut> layer_cuts(const BodyWork& work, const BodyDesign& design, std::size_t k);

/// The layers as they are to be when they are glued: plugs out, an oversize top out of its frame. Quick to ask.
class DesignedStack {
 public:
  DesignedStack(const BodyWork& work, const BodyDesign& design);
  /// Uppermost and lowest wood at a place; `none` where there is none.
  [[nodiscard]] double top(Vec2 p, double none) const;
  [[nodiscard]] double bottom(Vec2 p, double none) const;

 private:
  struct Cut {
    std::shared_ptr<const RegionMask> mask;
    double floor;
    bool from_below, through;
  };
  struct Layer {
    double top, bottom;
    std::vector<Cut> cuts;
    std::shared_ptr<const RegionMask> kept;  // nullptr: the whole blank
  };
  [[nodiscard]] static std::pair<double, double> wood(const Layer& layer, Vec2 p);
  std::vector<Layer> layers_;
};

/// Skins too thin to stand between a cavity and a joint; a body that is one piece and is to be worked by layers.
[[nodiscard]] std::vector<Remark> layer_remarks(const BodyDesign& design);

}  // namespace wren

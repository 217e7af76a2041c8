// What the proof holds a body against: the finished body as the cutters at hand can make it. Body frame, mm.
#pragma once

#include <memory>

#include "core/cutting/choose.hpp"
#include "core/parts/body/part.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {

/// Radius of the finest cutter that reaches the bottom of a cavity whose floor slopes: its rim leaves a wedge of wood
/// along the walls.
[[nodiscard]] double sloping_rim(const BodyWork& work, const BodyDesign& design, const Cavity& cavity);

/// The finished body as the cutters at hand can make it: corners no tighter than the finest cutter, holes as wide as
/// their drills.
class Makeable {
 public:
  Makeable(const Makeable&) = delete;  // what it keeps points into its own shape
  Makeable(const BodyWork& w, const BodyDesign& d) : shape_(d.shape), cuts_(d.cuts) {
    const Cutter* fine = find_cutter(d.rack, w.fine_cutter);
    const Cutter* clear = find_cutter(d.rack, w.clear_cutter);
    radius_ = std::min(fine != nullptr ? fine->radius() : 1.6, clear != nullptr ? clear->radius() : 1.6);
    for (const Cavity& c : shape_.cavities) {
      const double rim = c.slope != 0 ? sloping_rim(w, d, c) : 0;
      // A rounded floor is as the round nose leaves it already.
      cavities_.push_back(
          {&c, c.round > 0 ? c.mask : std::make_shared<const RegionMask>(opened(d.rack, c.region)),
           rim > 0 ? std::make_shared<const RegionMask>(Region(offset(c.region, -rim + 0.002)), 0.25) : nullptr, rim});
    }
    for (std::size_t k = 0; k < cuts_.size(); ++k) {
      LayerMadeOf l{shape_.layers[k].top + (k == 0 ? w.face_off : 0),
                    shape_.layers[k].bottom - (k + 1 == cuts_.size() ? w.back_off : 0),
                    {}};
      for (const LayerCut& c : cuts_[k]) {
        // What stands hidden was cleared with the wide cutter, and its corners with none.
        const Region open = c.plug.empty() ? opened(d.rack, c.region) : c.region;
        l.cuts.push_back({&c, std::make_shared<const RegionMask>(open),
                          c.plug.empty() ? nullptr : std::make_shared<const RegionMask>(Region{c.plug}),
                          c.hidden ? std::make_shared<const RegionMask>(offset(c.region, 0.3)) : nullptr});
      }
      layers_.push_back(std::move(l));
    }
    for (const BodyHole& h : shape_.holes) {
      double wide = h.diameter;
      double point = 0;
      if (h.drilled)
        if (const Cutter* drill = drill_in_use(d.rack, h.diameter)) {
          wide = std::min(wide, drill->effective_diameter());
          point = drill->profile(1.0);
        }
      holes_.push_back({&h, wide / 2, point, held_back(w, h)});
    }
  }

  /// Walls of cavities and holes that are cut from one side, in its side frame; hidden ones are left out.
  [[nodiscard]] std::vector<WallDesign> walls(bool from_back, Turn turn) const {
    std::vector<WallDesign> out;
    for (const Made& m : cavities_)
      if (m.cavity->from_back == from_back && m.cavity->layer < 0 && !m.cavity->by_layer)
        add_walls(out, m.cavity->title, turned(turn, m.mask->region()), [c = *m.cavity, turn](Vec2 q) {
          // Beside a rounded floor the wall begins where the rounding ends.
          return turned_z(turn, c.floor_at(turned(turn, q))) + c.round;
        });
    for (const WallDesign& w : hole_walls(from_back, turn, false)) out.push_back(w);
    return out;
  }
  /// Of the holes that are drilled with the body, or of those that are held back.
  [[nodiscard]] std::vector<WallDesign> hole_walls(bool from_back, Turn turn, bool held) const {
    std::vector<WallDesign> out;
    for (const Bore& b : holes_) {
      const BodyHole& h = *b.hole;
      const bool string = h.id.starts_with("string");  // drilled from both sides to the middle
      if (b.held != held || (!string && h.from_back != from_back)) continue;
      out.push_back(round_wall(h.title, turned(turn, h.at), 2 * b.radius,
                               string         ? turned_z(turn, -shape_.thickness / 2)
                               : h.depth == 0 ? -1e6
                                              : turned_z(turn, h.from) - h.depth));
    }
    return out;
  }

  /// z of the face; `held`: with the holes that are held back.
  [[nodiscard]] double top(Vec2 p, bool held = false) const {
    double z = shape_.top(p);
    for (const Made& m : cavities_)
      if (!m.cavity->from_back && m.cavity->layer < 0 && m.mask->holds(p)) z = std::min(z, floor(m, p));
    for (const Bore& b : holes_)
      if (!b.hole->from_back && (held || !b.held))
        if (const double rho = distance(p, b.hole->at); rho <= b.radius)
          z = b.hole->depth == 0 ? -1e6 : std::min(z, b.hole->from - b.hole->depth - b.point * (b.radius - rho));
    return z;
  }
  [[nodiscard]] double bottom(Vec2 p, bool held = false) const {
    double z = shape_.bottom(p);
    for (const Made& m : cavities_)
      if (m.cavity->from_back && m.cavity->layer < 0 && m.mask->holds(p)) z = std::max(z, m.cavity->bed_at(p));
    for (const Bore& b : holes_) {
      // String holes are drilled from both sides.
      const bool string = b.hole->id.starts_with("string");
      if ((!b.hole->from_back && !string) || (b.held && !held)) continue;
      if (const double rho = distance(p, b.hole->at); rho <= b.radius)
        z = b.hole->depth == 0 ? 1e6 : std::max(z, b.hole->from + b.hole->depth + b.point * (b.radius - rho));
    }
    return z;
  }
  /// A layer by itself before the glue-up, its plugs standing: z of its top (−1e6: a window) and of its underside
  /// (1e6).
  [[nodiscard]] double layer_top(Vec2 p, std::size_t layer) const {
    double z = layers_[layer].top;
    for (const LayerMade& m : layers_[layer].cuts)
      if (!m.cut->from_below && m.mask->holds(p) && !(m.plug && m.plug->holds(p)))
        z = m.cut->through ? -1e6 : std::min(z, m.cut->floor);
    return z;
  }
  [[nodiscard]] double layer_bottom(Vec2 p, std::size_t layer) const {
    double z = layers_[layer].bottom;
    for (const LayerMade& m : layers_[layer].cuts) {
      if (!m.mask->holds(p)) continue;
      if (m.cut->through) return 1e6;
      if (m.cut->from_below) z = std::max(z, m.cut->floor);
    }
    return z;
  }
  /// Uppermost and lowest wood of all layers as they are glued, plugs out; `none` where there is none.
  [[nodiscard]] double stack_top(Vec2 p, double none) const {
    for (std::size_t k = 0; k < layers_.size(); ++k)
      if (const double z = glued_top(p, k); z > layer_bottom(p, k)) return z;
    return none;
  }
  [[nodiscard]] double stack_bottom(Vec2 p, double none) const {
    for (std::size_t k = layers_.size(); k-- > 0;)
      if (const double z = layer_bottom(p, k); glued_top(p, k) > z) return z;
    return none;
  }
  /// Chambers and channels, whose walls and floors need no skim: they may stand a little proud.
  [[nodiscard]] bool hidden_in(Vec2 p, std::size_t layer) const {
    for (const LayerMade& m : layers_[layer].cuts)
      if (m.cut->hidden && m.near->holds(p)) return true;
    return false;
  }
  /// Beside a plug walls are looked at over its tabs, `over_tabs` mm high.
  [[nodiscard]] std::vector<WallDesign> layer_walls(std::size_t layer, bool from_below, Turn turn,
                                                    double over_tabs) const {
    std::vector<WallDesign> out;
    for (const LayerMade& m : layers_[layer].cuts)
      if (m.cut->from_below == from_below && !m.cut->hidden)
        add_walls(out, shape_.cavities[m.cut->cavity].title, turned(turn, m.mask->region()),
                  [z = m.cut->through ? layers_[layer].bottom + (m.plug ? over_tabs : 0)
                                      : turned_z(turn, m.cut->floor)](Vec2) { return z; });
    return out;
  }

 private:
  /// A region as the finest cutter leaves it, or whatever goes into it.
  [[nodiscard]] Region opened(const Rack& rack, const Region& region) const {
    double r = radius_;
    if (offset(region, -r).empty())
      if (const Cutter* k = widest_that_goes(rack, region, 0)) r = std::min(r, k->radius() - goes_in);
    return offset(offset(region, -r), r);
  }
  [[nodiscard]] double glued_top(Vec2 p, std::size_t layer) const {
    double z = layers_[layer].top;
    for (const LayerMade& m : layers_[layer].cuts)
      if (!m.cut->from_below && m.mask->holds(p)) z = m.cut->through ? -1e6 : std::min(z, m.cut->floor);
    return z;
  }
  struct LayerMade {
    const LayerCut* cut;
    std::shared_ptr<const RegionMask> mask;
    std::shared_ptr<const RegionMask> plug;  // nullptr: none
    std::shared_ptr<const RegionMask> near;  // of a hidden one, its walls too
  };
  struct LayerMadeOf {
    double top, bottom;
    std::vector<LayerMade> cuts;
  };
  struct Made {
    const Cavity* cavity;
    std::shared_ptr<const RegionMask> mask;
    std::shared_ptr<const RegionMask> middles;  // of a sloping floor: where the middle of its finest cutter may go
    double rim = 0;                             // that cutter's radius
  };
  struct Bore {
    const BodyHole* hole;
    double radius;
    double point;  // depth of the drill's point per radius
    bool held;     // drilled once the neck is on
  };
  [[nodiscard]] double floor(const Made& m, Vec2 p) const {
    const double z = m.cavity->bed_at(p);
    if (!m.middles) return z;
    // A flat bottom rests on the slope by its uphill rim: a place is cut lowest when it is the uphill rim itself.
    // Beside a side wall the cutter's middle cannot get to where it would be, and at a wall that the floor falls
    // towards (a neck that tilts forwards) it stays uphill altogether.
    const double down = m.cavity->slope > 0 ? -1 : 1;
    for (int k = 0; k <= 36; ++k) {
      const double a = k * 0.0872664626;
      const Vec2 u{down * std::cos(a), std::sin(a)};
      if (m.middles->holds(p + u * m.rim) || m.middles->holds(p + Vec2{u.x, -u.y} * m.rim))
        return z + std::abs(m.cavity->slope) * m.rim * (1 - std::cos(a));
    }
    return z + 2 * std::abs(m.cavity->slope) * m.rim;
  }
  BodyShape shape_;
  std::vector<std::vector<LayerCut>> cuts_;
  double radius_ = 1;
  std::vector<LayerMadeOf> layers_;
  std::vector<Made> cavities_;
  std::vector<Bore> holes_;
};

/// The finished body's holes that are held back, from one side or both: what of it there is by then is its stock.
void held_target(const BodyWork& work, const BodyDesign& design, const std::shared_ptr<const Makeable>& made,
                 PieceRequest& request);

/// How high a window's tabs are in a layer so thick.
[[nodiscard]] double plug_tab_height(const BodyWork& work, double thickness);

/// Designs of a layer by itself, of one side or both.
void layer_target(const BodyWork& work, const std::shared_ptr<const BodyDesign>& design,
                  const std::shared_ptr<const Makeable>& made, std::size_t layer, PieceRequest& request);

/// The glued body's request: it begins with the stack that the layers' programs left. `layers` from the face down; a
/// layer that nothing is cut of stands whole.
void glue_layers(const BodyDesign& design, const std::vector<GluedLayer>& layers, PieceRequest& request);

/// Designs of both sides of the whole body, its holes and tolerances.
void whole_target(const BodyWork& work, const BodyDesign& design, const std::shared_ptr<const Makeable>& made,
                  PieceRequest& request);

}  // namespace wren

// What the proof holds a body against: the finished body as the cutters at hand can make it. Body frame, mm.
#pragma once

#include <memory>

#include "core/cutting/choose.hpp"
#include "core/parts/body/part.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {

/// The finished body as the cutters at hand can make it: corners no tighter than the finest cutter, holes as wide as
/// their drills.
class Makeable {
 public:
  Makeable(const Makeable&) = delete;  // what it keeps points into its own shape
  Makeable(const BodyWork& w, const BodyDesign& d) : shape_(d.shape) {
    const Cutter* fine = find_cutter(d.rack, w.fine_cutter);
    const Cutter* clear = find_cutter(d.rack, w.clear_cutter);
    radius_ = std::min(fine != nullptr ? fine->radius() : 1.6, clear != nullptr ? clear->radius() : 1.6);
    for (const Cavity& c : shape_.cavities) {
      double r = radius_;
      if (offset(c.region, -r).empty())  // cut with whatever goes into it
        if (const Cutter* k = widest_that_goes(d.rack, c.region, 0)) r = std::min(r, k->radius() - goes_in);
      const Region opened = offset(offset(c.region, -r), r);
      cavities_.push_back({&c, std::make_shared<const RegionMask>(opened),
                           c.slope != 0
                               ? std::make_shared<const RegionMask>(Region(offset(c.region, -radius_ + 0.002)), 0.25)
                               : nullptr});
    }
    for (const BodyHole& h : shape_.holes) {
      double wide = h.diameter;
      double point = 0;
      if (h.drilled)
        if (const Cutter* drill = drill_in_use(d.rack, h.diameter)) {
          wide = std::min(wide, drill->effective_diameter());
          point = drill->profile(1.0);
        }
      holes_.push_back({&h, wide / 2, point});
    }
  }

  /// Walls of cavities and holes that are cut from one side, in its side frame; hidden ones are left out.
  [[nodiscard]] std::vector<WallDesign> walls(bool from_back, Turn turn) const {
    std::vector<WallDesign> out;
    for (const Made& m : cavities_)
      if (m.cavity->from_back == from_back && m.cavity->layer < 0)
        add_walls(out, m.cavity->title, turned(turn, m.mask->region()),
                  [c = *m.cavity, turn](Vec2 q) { return turned_z(turn, c.floor_at(turned(turn, q))); });
    for (const Bore& b : holes_)
      if (b.hole->from_back == from_back && !b.hole->id.starts_with("string"))
        out.push_back(round_wall(b.hole->title, turned(turn, b.hole->at), 2 * b.radius,
                                 b.hole->depth == 0 ? -1e6 : turned_z(turn, b.hole->from) - b.hole->depth));
    return out;
  }

  [[nodiscard]] double top(Vec2 p) const {
    double z = shape_.top(p);
    for (const Made& m : cavities_)
      if (!m.cavity->from_back && m.cavity->layer < 0 && m.mask->holds(p)) z = std::min(z, floor(m, p));
    for (const Bore& b : holes_)
      if (!b.hole->from_back)
        if (const double rho = distance(p, b.hole->at); rho <= b.radius)
          z = b.hole->depth == 0 ? -1e6 : std::min(z, b.hole->from - b.hole->depth - b.point * (b.radius - rho));
    return z;
  }
  [[nodiscard]] double bottom(Vec2 p) const {
    double z = shape_.bottom(p);
    for (const Made& m : cavities_)
      if (m.cavity->from_back && m.cavity->layer < 0 && m.mask->holds(p)) z = std::max(z, m.cavity->floor_at(p));
    for (const Bore& b : holes_) {
      // String holes are drilled from both sides.
      const bool string = b.hole->id.starts_with("string");
      if (!b.hole->from_back && !string) continue;
      if (const double rho = distance(p, b.hole->at); rho <= b.radius)
        z = b.hole->depth == 0 ? 1e6 : std::max(z, b.hole->from + b.hole->depth + b.point * (b.radius - rho));
    }
    return z;
  }
  [[nodiscard]] double layer_top(Vec2 p, std::size_t layer) const {
    double z = shape_.layers[layer].top;
    for (const Made& m : cavities_)
      if (m.cavity->layer == static_cast<int>(layer) && m.mask->holds(p))
        z = std::min(z, std::max(m.cavity->floor, shape_.layers[layer].bottom));
    return z;
  }

 private:
  struct Made {
    const Cavity* cavity;
    std::shared_ptr<const RegionMask> mask;
    std::shared_ptr<const RegionMask> middles;  // of a sloping floor: where the finest cutter's middle may go
  };
  struct Bore {
    const BodyHole* hole;
    double radius;
    double point;  // depth of the drill's point per radius
  };
  [[nodiscard]] double floor(const Made& m, Vec2 p) const {
    const double z = m.cavity->floor_at(p);
    if (!m.middles) return z;
    // A flat bottom rests on the slope by its uphill rim: a place is cut lowest when it is the uphill rim itself, and
    // beside a side wall the cutter's middle cannot get to where it would be.
    const double down = m.cavity->slope > 0 ? -1 : 1;
    for (int k = 0; k <= 18; ++k) {
      const double a = k * 0.0872664626;
      const Vec2 u{down * std::cos(a), std::sin(a)};
      if (m.middles->holds(p + u * radius_) || m.middles->holds(p + Vec2{u.x, -u.y} * radius_))
        return z + std::abs(m.cavity->slope) * radius_ * (1 - std::cos(a));
    }
    return z + std::abs(m.cavity->slope) * radius_;
  }
  BodyShape shape_;
  double radius_ = 1;
  std::vector<Made> cavities_;
  std::vector<Bore> holes_;
};

/// Designs of both sides of the whole body, its holes and tolerances.
void whole_target(const BodyWork& work, const BodyDesign& design, const std::shared_ptr<const Makeable>& made,
                  PieceRequest& request);

}  // namespace wren

// Weight, centre of mass and how the instrument hangs on its strap. Statics of composite bodies; g, mm, body plan.
//
// A strap of length ℓ over a shoulder touches it at P, |PA| + |PB| = ℓ, A and B the strap buttons; the centre of mass G
// hangs straight under P. The pulls along PA and PB balance across the vertical: T_A·sin α = T_B·sin β. Cloth on
// leather holds a difference of pulls up to e^(μπ) (rope over a drum, half a turn; textbook statics), so the instrument
// rests at the slope nearest to level at which sin β / sin α lies between e^(−μπ) and e^(μπ). Without friction that is
// the place where the angle APB is halved by the vertical.
#pragma once

#include "core/instrument/body_shape.hpp"

namespace wren {

struct Mass {
  std::string what;
  double grams = 0;
  Vec2 at;  // body plan
};

struct BodyBalance {
  std::vector<Mass> layers;
  double body_g = 0;
  double volume_mm3 = 0;  // of the body's wood
  double chambers_g = 0;  // taken out by chambers
  Vec2 body_centre;
  double whole_g = 0;
  Vec2 whole_centre;
  double hang = 0;  // radians: the neck's slope over the level, strap on; negative: it dives
  Vec2 shoulder;    // P
};

constexpr double strap_friction = 0.25;  // of a strap on a shirt (from memory; common practice says it barely holds)
struct HangWay {
  double angle = 0;
  Vec2 shoulder;
};
/// Buttons a (horn) and b (tail), centre of mass g. `treble` is the sign of y on the treble side: the shoulder is on
/// the other. The angle is the neck's slope over the level, to half a degree.
[[nodiscard]] HangWay hang(Vec2 a, Vec2 b, double strap, Vec2 g, double treble, double friction = strap_friction);

/// kg/m³ of a layer at a place of the body's plan.
using DensityAt = std::function<double(std::size_t layer, Vec2 at)>;
/// Volumes by rows cut exactly at the outline, `pace` mm apart. `others`: neck,
/// board, hardware.
[[nodiscard]] BodyBalance balance(const BodyShape& body, const DensityAt& density, const std::vector<Mass>& others,
                                  double pace = 2);

}  // namespace wren

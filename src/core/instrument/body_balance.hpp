// Weight, centre of mass and how the instrument hangs on its strap. Statics of composite bodies; g, mm, body plan.
//
// A strap of length ℓ over a shoulder without friction lets its highest point P slide along the ellipse with the two strap buttons as foci
// and |PA| + |PB| = ℓ. The centre of mass hangs as low as it can: |PG| is greatest, and P–G is the vertical (own derivation from the least
// potential energy; docs/formulas.md). Friction on a shoulder lets it rest a few degrees either way.
#pragma once

#include "core/instrument/body_shape.hpp"

namespace wren {

struct Mass {
  std::string what;
  double grams = 0;
  Vec2 at;             // body plan
};

struct BodyBalance {
  std::vector<Mass> layers;
  double body_g = 0;
  double volume_mm3 = 0;       // of the body's wood
  double chambers_g = 0;       // taken out by chambers
  Vec2 body_centre;
  double whole_g = 0;
  Vec2 whole_centre;
  double hang = 0;             // radians: the neck's slope over the level, strap on; negative: it dives
  Vec2 shoulder;               // P
};

struct HangWay { double angle = 0; Vec2 shoulder; };
/// Buttons a (horn) and b (tail), centre of mass g. `treble` is the sign of y on the treble side: the shoulder is on the other.
[[nodiscard]] HangWay hang(Vec2 a, Vec2 b, double strap, Vec2 g, double treble);

/// Volumes by rows cut exactly at the outline, `pace` mm apart. `density` in kg/m³ for each layer. `others`: neck, board, hardware.
[[nodiscard]] BodyBalance balance(const BodyShape& body, const std::vector<double>& density, const std::vector<Mass>& others, double pace = 2);

}  // namespace wren

// Ears: strips of waste that a body keeps between its outline and the blank's ends, with the pin holes (or the centre
// ticks) in them, so that wood that was sawn round is found again. Body frame, mm.
#pragma once

#include "core/parts/body/part.hpp"

namespace wren {

/// One ear for each end of the blank, the pins' or, without pins, on the centre line. `reach` is added on both of its
/// sides.
[[nodiscard]] std::vector<Ear> ears_of(const Polygon& outline, const Blank& blank, Vec2 blank_middle,
                                       const AlignmentNumbers& alignment, const PinPlan& pins, double width);
/// Where a screw holds an ear on the waste board: beside its pin, towards the body, sunk flush. Nothing where the ear
/// is too short for it.
[[nodiscard]] std::optional<Vec2> ear_screw(const Ear& ear);
constexpr double screw_aside = 14;  // mm from the pin's middle (common practice: clear of its hole)
constexpr double screw_head = 8;    // mm across

/// All of an ear's wood, `more` mm wider on either side.
[[nodiscard]] Polygon ear_strip(const Ear& ear, double more);
/// Everything that stands within `beside` mm of the outline, and the ears, within the blank.
[[nodiscard]] Polygon sawn_shape(const Polygon& outline, const std::vector<Ear>& ears, const Blank& blank,
                                 Vec2 blank_middle, double beside);

/// Ears that miss the body, are too narrow for their pins, or are crossed by a cut. In the wood of the whole body.
[[nodiscard]] std::vector<Remark> ear_remarks(const BodyDesign& design, const BodyWork& work);

/// Two places, as far apart as may be, where a small hole through the top and on into the layer under it lies in wood
/// that a cavity of the face takes away later, at least `deep` below the top layer. Fewer where there are none.
struct HiddenPlace {
  Vec2 at;
  double floor = 0;  // z of the cavity that takes it
};
[[nodiscard]] std::vector<HiddenPlace> hidden_places(const BodyShape& shape, double radius, double deep);

}  // namespace wren

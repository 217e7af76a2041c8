// Headstock: posts that the strings run to straight, the outline around them, the holes. Called by make_neck.
// Instrument frame, mm.
#pragma once

#include "core/instrument/neck_shape.hpp"

namespace wren {

/// Places each tuner so that its string runs on behind the nut in the line it has over the board, tangent to the post.
/// On each side the outermost string has the post nearest to the nut.
void lay_tuners(NeckShape& neck);

/// Shaft, heel and head in one contour. Refused where a drawn head does not meet the shaft.
[[nodiscard]] Expected<void> lay_outline(NeckShape& neck);

/// Tuner holes and screw pilots.
void lay_tuner_holes(NeckShape& neck);

/// Where a string meets its post: the tangent point of its line with the post's circle.
[[nodiscard]] Vec2 post_contact(const NeckShape& neck, const Tuner& tuner);

}  // namespace wren

// The guide for a jack hole in the finished body: it lies against the edge, and its far side is a flat square to the
// hole. Made from the body.
#pragma once

#include "core/job/part.hpp"

namespace wren {

[[nodiscard]] PartKind jack_guide_part();

}  // namespace wren

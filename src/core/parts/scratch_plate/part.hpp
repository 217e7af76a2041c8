// The scratch plate: its outline with a bevelled edge, openings for the pickups, holes for shafts and screws. Made from
// the body.
#pragma once

#include "core/job/part.hpp"

namespace wren {

[[nodiscard]] PartKind scratch_plate_part();

}  // namespace wren

// The waste board's pin holes.
#pragma once

#include "core/job/part.hpp"

namespace wren {
[[nodiscard]] PartKind waste_board_part();
}  // namespace wren

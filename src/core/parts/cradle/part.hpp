// The cradle a carved neck lies in while its back is cut.
#pragma once

#include "core/job/part.hpp"

namespace wren {
[[nodiscard]] PartKind cradle_part();
}  // namespace wren

// Covers of cavities as parts of their own.
#pragma once

#include "core/job/part.hpp"

namespace wren {
[[nodiscard]] PartKind cover_part();
}  // namespace wren

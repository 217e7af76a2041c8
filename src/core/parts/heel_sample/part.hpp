// A sample of the neck's heel, cut in scrap with the neck's own cutter and tried in the pocket before either is cut.
// Made from the neck.
#pragma once

#include "core/job/part.hpp"

namespace wren {

[[nodiscard]] PartKind heel_sample_part();

}  // namespace wren

// One walk from an instrument's numbers to everything that is kept of it.
#pragma once

#include <nlohmann/json.hpp>

#include "core/document/project.hpp"

namespace wren::golden {
[[nodiscard]] nlohmann::ordered_json walk(const Project& project);
}  // namespace wren::golden

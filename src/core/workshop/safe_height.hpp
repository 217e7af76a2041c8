#pragma once

#include "core/workshop/setup.hpp"

namespace wren {

/// The height of travel over a set-up: `clear` mm over the blank's top and over every clamp and solid
/// that is passed over; work z, mm.
[[nodiscard]] double safe_height(const Setup& setup, double clear);

}  // namespace wren

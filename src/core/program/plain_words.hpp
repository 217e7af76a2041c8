// What a comment says, however it is put: so that two that say the same to a hand compare equal.
#pragma once

#include <string>
#include <string_view>

namespace wren {

/// In small letters, single spaces, none at its ends nor before a colon or comma.
[[nodiscard]] std::string plain_words(std::string_view comment);

}  // namespace wren

// What a comment says, however it is put: so that two that say the same to a hand compare equal.
#pragma once

#include <string>
#include <string_view>

namespace wren {

/// Beside the wait that a spindle is given: no words to a hand.
constexpr const char* spin_words = "let the spindle come up to speed";

/// In small letters, single spaces, none at its ends nor before a colon or comma.
[[nodiscard]] std::string plain_words(std::string_view comment);

/// Whether a comment, as plain words, is one that controllers act on: they show it to a hand (NISTIR 6556, section
/// 3.3.4) or keep it in a file (common practice).
[[nodiscard]] bool acted_on(std::string_view plain);

}  // namespace wren

// How numbers and choices of the ledger are called on a screen: the file and the command line say "soft_v", a screen
// says "soft V"; numbers stand under heads.
#pragma once

#include <string>

#include "core/words/words.hpp"

namespace wren {

/// The words of a choice's id for a field; one that has none of its own is its id with spaces, so that no id of the
/// program's own reaches a screen.
[[nodiscard]] std::string choice_words(const std::string& key, const std::string& id);

/// The head that a number stands under: "Saddles", "Cutter slot-0.58". The longest beginning of its key decides.
[[nodiscard]] Words number_group(const std::string& key);

}  // namespace wren

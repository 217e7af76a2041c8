// A cutter's or a machine's numbers by key and text, as the command line and the rack's picture give them.
#pragma once

#include "core/document/field.hpp"
#include "core/record/shop_book.hpp"

namespace wren {

/// Every number of one cutter: key without the rack's prefix ("diameter", "number", "kind", "corner_radius"), on
/// Project::rack[0].
[[nodiscard]] std::vector<Field> cutter_fields();
/// Refused where there is no such number, the text is none, or the cutter would be none (check_cutter).
[[nodiscard]] Expected<Cutter> with_numbers(Cutter cutter,
                                            const std::vector<std::pair<std::string, std::string>>& edits,
                                            UnitSystem system = UnitSystem::millimetre);

/// Every number of a machine: key without "machine." ("travel_x"), and "address", "baud", "talk.done" ….
[[nodiscard]] std::vector<std::string> machine_keys();
[[nodiscard]] std::string machine_text(const ShopMachine& machine, const std::string& key,
                                       UnitSystem system = UnitSystem::millimetre);
[[nodiscard]] Expected<ShopMachine> with_numbers(ShopMachine machine,
                                                 const std::vector<std::pair<std::string, std::string>>& edits,
                                                 UnitSystem system = UnitSystem::millimetre);

}  // namespace wren

// What the commands of the shop share: its book, and who says something, when.
#pragma once

#include "cli/command.hpp"
#include "core/record/cutter_fields.hpp"

namespace wren::cli {

/// The option --shop.
void add_shop(CLI::App* parser, std::string& file);
[[nodiscard]] std::filesystem::path shop_of(const std::string& file);
/// Now, and whoever is logged in; with SOURCE_DATE_EPOCH the time is its.
[[nodiscard]] Told told();
[[nodiscard]] std::string time_of_day();
/// Refused where there is none yet: it is made with `wren rack --new`.
[[nodiscard]] Expected<ShopBook> open_shop(const std::string& file,
                                           ShopBook::Begin begin = ShopBook::Begin::only_if_there);
/// "KEY=VALUE" words taken apart.
[[nodiscard]] Expected<std::vector<std::pair<std::string, std::string>>> edits_of(
    const std::vector<std::string>& words);

}  // namespace wren::cli

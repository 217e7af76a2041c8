#include "cli/shop.hpp"

#include <pwd.h>
#include <unistd.h>

#include <ctime>

namespace wren::cli {

void add_shop(CLI::App* parser, std::string& file) {
  parser->add_option("--shop", file, "Another shop's book than the user's own")->type_name("FILE");
}

std::filesystem::path shop_of(const std::string& file) {
  return file.empty() ? shop_file() : std::filesystem::path(file);
}

std::string time_of_day() {
  std::time_t now = std::time(nullptr);
  if (const char* fixed = std::getenv("SOURCE_DATE_EPOCH"))
    now = static_cast<std::time_t>(std::strtoll(fixed, nullptr, 10));
  std::tm parts{};
  localtime_r(&now, &parts);
  char text[32];
  std::strftime(text, sizeof text, "%Y-%m-%d %H:%M:%S", &parts);
  return text;
}

Told told() {
  const passwd* user = getpwuid(getuid());
  return {time_of_day(), user != nullptr && user->pw_name != nullptr ? user->pw_name : "unknown"};
}

Expected<ShopBook> open_shop(const std::string& file, ShopBook::Begin begin) {
  return ShopBook::open(shop_of(file), begin, told());
}

Expected<std::vector<std::pair<std::string, std::string>>> edits_of(const std::vector<std::string>& words) {
  std::vector<std::pair<std::string, std::string>> out;
  for (const std::string& word : words) {
    auto edit = edit_from(word, "stickout=18");
    if (!edit) return tl::unexpected(edit.error());
    out.push_back(std::move(*edit));
  }
  return out;
}

}  // namespace wren::cli

#include "core/document/hardware_shelf.hpp"

#include <algorithm>
#include <cstdlib>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/document/files.hpp"

namespace wren {
namespace {

using Json = nlohmann::ordered_json;
constexpr std::size_t most_bytes = std::size_t{4} << 20;
constexpr int version = 1;

/// Where it stands in this instrument, and what is no size of it.
bool is_size(const std::string& key) {
  for (const char* place :
       {".from_bridge", ".by_layer", ".behind", ".front_left", ".seat", ".holes", ".name", ".start"})
    if (key.ends_with(place)) return false;
  return true;
}

tl::unexpected<Problem> damaged(const std::filesystem::path& file, const std::string& what) {
  return fail(ProblemKind::format, what, file.string(),
              "Put an earlier copy in its place, or move it away and begin anew");
}

}  // namespace

Expected<std::string> hardware_kind(const std::string& where) {
  for (const char* place : {"bridge", "tuner", "rod", "pickup.neck", "pickup.middle", "pickup.bridge"})
    if (where == place) return where.substr(0, where.find('.'));
  return fail(ProblemKind::input, worded("'{}' is no piece of hardware", where), "",
              "Choose bridge, pickup.neck, pickup.middle, pickup.bridge, tuner or rod");
}

std::filesystem::path hardware_file() {
  const char* data = std::getenv("XDG_DATA_HOME");
  const char* home = std::getenv("HOME");
  const std::filesystem::path base = data != nullptr && *data == '/' ? std::filesystem::path(data)
                                     : home != nullptr && *home != '\0'
                                         ? std::filesystem::path(home) / ".local" / "share"
                                         : std::filesystem::temp_directory_path();
  return base / "upland-wren" / "hardware.json";
}

Expected<std::vector<HardwarePiece>> read_hardware(const std::filesystem::path& file) {
  std::error_code none;
  if (!std::filesystem::exists(file, none)) return std::vector<HardwarePiece>{};
  const auto text = read_file(file, most_bytes);
  if (!text) return tl::unexpected(text.error());
  const Json doc = Json::parse(*text, nullptr, false);
  if (doc.is_discarded() || !doc.is_object() || !doc.contains("format") || doc["format"] != "upland-wren-hardware")
    return damaged(file, "this is no list of hardware");
  if (!doc.contains("version") || !doc["version"].is_number_integer() || doc["version"].get<int>() > version)
    return fail(ProblemKind::unsupported, "this list of hardware is from a newer version", file.string(),
                "Open it with that version; it is left as it is");
  if (!doc.contains("pieces") || !doc["pieces"].is_array() || doc["pieces"].size() > most_hardware)
    return damaged(file, fmt::format("there is no list of at most {} pieces", most_hardware));
  std::vector<HardwarePiece> out;
  for (const Json& e : doc["pieces"]) {
    const auto text_of = [&](const char* name) {
      return e.is_object() && e.contains(name) && e[name].is_string() ? e[name].get<std::string>() : std::string();
    };
    HardwarePiece piece{text_of("kind"), text_of("name"), text_of("date"), {}};
    if (piece.kind.empty() || piece.name.empty() || !e.contains("sizes") || !e["sizes"].is_object())
      return damaged(file, "a piece has no kind, no name or no sizes");
    for (auto it = e["sizes"].begin(); it != e["sizes"].end(); ++it) {
      if (!it.value().is_string() || it.key().size() > 60 || it.value().get<std::string>().size() > 200)
        return damaged(file, fmt::format("a size of '{}' is none", piece.name));
      piece.sizes[it.key()] = it.value().get<std::string>();
    }
    out.push_back(std::move(piece));
  }
  return out;
}

Expected<void> write_hardware(const std::filesystem::path& file, const std::vector<HardwarePiece>& all) {
  Json pieces = Json::array();
  for (const HardwarePiece& p : all) {
    Json sizes = Json::object();
    for (const auto& [key, text] : p.sizes) sizes[key] = text;
    pieces.push_back({{"kind", p.kind}, {"name", p.name}, {"date", p.date}, {"sizes", sizes}});
  }
  const Json doc{{"format", "upland-wren-hardware"}, {"version", version}, {"pieces", pieces}};
  std::error_code failed;
  std::filesystem::create_directories(file.parent_path(), failed);
  if (failed)
    return fail(ProblemKind::file, "its folder cannot be made: " + failed.message(), file.parent_path().string(),
                "Check your rights there");
  return write_file_atomically(file, doc.dump(1, ' ', false, Json::error_handler_t::replace) + "\n");
}

Expected<HardwarePiece> hardware_of(const FieldBook& book, const Project& project, const std::string& where,
                                    const std::string& name, const std::string& date) {
  const auto kind = hardware_kind(where);
  if (!kind) return tl::unexpected(kind.error());
  if (name.empty() || name.size() > 80 || name.find_first_of("\n\r\t") != std::string::npos)
    return fail(ProblemKind::input, "a piece of hardware needs a name of at most 80 characters", where,
                "Say what you call it: bridge of the blue one");
  HardwarePiece out{*kind, name, date, {}};
  const std::string begins = where + ".";
  book.each([&](const Field& f) {
    if (f.key.starts_with(begins) && is_size(f.key) && !f.alias)
      out.sizes[f.key.substr(begins.size())] = field_text(f, f.get(project));
  });
  return out;
}

void shelve(std::vector<HardwarePiece>& all, HardwarePiece piece) {
  std::erase_if(all, [&](const HardwarePiece& p) { return p.kind == piece.kind && p.name == piece.name; });
  all.push_back(std::move(piece));
}

Expected<std::vector<std::pair<std::string, std::string>>> edits_for(const FieldBook& book, const Project& project,
                                                                     const HardwarePiece& piece,
                                                                     const std::string& where) {
  const auto kind = hardware_kind(where);
  if (!kind) return tl::unexpected(kind.error());
  if (*kind != piece.kind)
    return fail(ProblemKind::input, worded("'{}' is a {} and does not go there", piece.name, piece.kind), where,
                "Choose a piece of that kind");
  std::vector<std::pair<std::string, std::string>> out;
  // A place that has no pickup yet gets one to give these sizes to.
  const std::string name_key = where + ".name";
  if (const auto named = book.find(project, name_key);
      named && *kind == "pickup" && field_text(*named, named->get(project)) == "none")
    out.emplace_back(name_key, named->choices.back());
  for (const auto& [key, text] : piece.sizes)
    if (book.find(project, where + "." + key)) out.emplace_back(where + "." + key, text);
  if (out.empty())
    return fail(ProblemKind::input, worded("'{}' has no size that this version knows", piece.name), where,
                "Measure it again and save it");
  return out;
}

}  // namespace wren

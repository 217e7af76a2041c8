// The maker's own hardware, kept for the next instrument: sizes of a bridge, a pickup, a set of tuners, a rod under a
// name of one's own. One JSON file beside the settings; a project takes sizes from it by ordinary edits.
#pragma once

#include <filesystem>

#include "core/document/field.hpp"

namespace wren {

/// One piece: what it is, what it is called, and its sizes as field texts by the last part of their keys.
struct HardwarePiece {
  std::string kind;  // "bridge", "pickup", "tuner", "rod"
  std::string name;
  std::string date;  // when it was measured
  std::map<std::string, std::string> sizes;
  friend bool operator==(const HardwarePiece&, const HardwarePiece&) = default;
};
constexpr std::size_t most_hardware = 500;

/// Where it is in a project: "bridge", "pickup.neck", "tuner", "rod".
[[nodiscard]] Expected<std::string> hardware_kind(const std::string& where);

/// $XDG_DATA_HOME/upland-wren/hardware.json (XDG Base Directory Specification 0.8), or under ~/.local/share.
[[nodiscard]] std::filesystem::path hardware_file();

/// No file: none. Refused where it is damaged or of a newer version.
[[nodiscard]] Expected<std::vector<HardwarePiece>> read_hardware(const std::filesystem::path& file);
[[nodiscard]] Expected<void> write_hardware(const std::filesystem::path& file, const std::vector<HardwarePiece>& all);

/// The sizes that a project has there; its place in the instrument is not among them.
[[nodiscard]] Expected<HardwarePiece> hardware_of(const FieldBook& book, const Project& project,
                                                  const std::string& where, const std::string& name,
                                                  const std::string& date);
/// One of the same kind and name gives way.
void shelve(std::vector<HardwarePiece>& all, HardwarePiece piece);
/// The edits that put a piece there: one step. Refused for another kind.
[[nodiscard]] Expected<std::vector<std::pair<std::string, std::string>>> edits_for(const FieldBook& book,
                                                                                   const Project& project,
                                                                                   const HardwarePiece& piece,
                                                                                   const std::string& where);

}  // namespace wren

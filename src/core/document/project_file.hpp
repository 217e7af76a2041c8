// Project files: one JSON document (docs/file-format.md), read with validation and written so that nothing on disk is
// ever half done. Unknown keys are kept.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "core/document/project.hpp"

namespace wren {

constexpr int project_version = 1;
constexpr std::size_t largest_project = 4 << 20;  // bytes

/// JSON text of a project, keys in the order of the field table. Ends with a newline.
[[nodiscard]] std::string project_to_json(const Project& project);

/// `name` is used in messages. Problems give the JSON path ("/strings/scale_bass") or the line of a syntax error.
[[nodiscard]] Expected<Project> project_from_json(std::string_view text, const std::string& name);

[[nodiscard]] Expected<std::string> read_file(const std::filesystem::path& path, std::size_t most_bytes);

/// Writes beside, syncs, renames: the old file stays whole until the new one is. Refused with what the system says
/// (read-only folder, full disk); the file beside is then removed.
[[nodiscard]] Expected<void> write_file_atomically(const std::filesystem::path& path, std::string_view bytes);

[[nodiscard]] Expected<Project> load_project(const std::filesystem::path& path);
[[nodiscard]] Expected<void> save_project(const std::filesystem::path& path, const Project& project);

/// Where unsaved work is kept between saves: ".NAME.autosave" beside the file.
[[nodiscard]] std::filesystem::path autosave_path(const std::filesystem::path& project);

/// Unsaved work of an earlier run: an autosave that is readable, differs from the file, and is not older than it.
[[nodiscard]] std::optional<Project> recoverable(const std::filesystem::path& project);

}  // namespace wren

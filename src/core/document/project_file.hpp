// Project files: one JSON document (docs/file-format.md), read with validation and written so that nothing on disk is
// ever half done. Unknown keys are kept, in lists and in parts this version does not know too.
#pragma once

#include "core/document/field.hpp"
#include "core/document/files.hpp"

namespace wren {

constexpr int project_version = 3;
constexpr std::size_t largest_project = 4 << 20;  // bytes

/// JSON text of a project, keys in the order of the field tables. Ends with a newline.
[[nodiscard]] std::string project_to_json(const FieldBook& book, const Project& project);

/// JSON text of the shop's numbers and those of some parts: what a fingerprint is made of.
[[nodiscard]] std::string numbers_text(const FieldBook& book, const Project& project,
                                       const std::vector<std::string>& parts);

/// `name` is used in messages. Problems give the JSON path ("/parts/fretboard/strings/scale_bass") or the line of a
/// syntax error. Older formats are brought up first. `notes` gets a sentence for what is no fault but worth saying.
[[nodiscard]] Expected<Project> project_from_json(const FieldBook& book, std::string_view text, const std::string& name,
                                                  std::vector<std::string>* notes = nullptr);

[[nodiscard]] Expected<Project> load_project(const FieldBook& book, const std::filesystem::path& path,
                                             std::vector<std::string>* notes = nullptr);
/// Read back and compared before the old file goes; a file of an older format is kept beside as ".bak" first.
[[nodiscard]] Expected<void> save_project(const FieldBook& book, const std::filesystem::path& path,
                                          const Project& project, std::vector<std::string>* notes = nullptr);

/// What a file would not bring back of a project: the one validator of edits, imports and saving is the reader itself.
/// Only what differs from `before`, a project that would come back, is looked at; without it everything is.
[[nodiscard]] std::optional<Problem> would_not_come_back(const FieldBook& book, const Project& project,
                                                         const Project* before = nullptr);

}  // namespace wren

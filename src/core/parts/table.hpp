// The one table of parts, in running order; and the document's calls with its fields, for whoever works with all parts.
#pragma once

#include "core/document/document.hpp"
#include "core/document/edits.hpp"
#include "core/job/part.hpp"

namespace wren {

[[nodiscard]] const Parts& all_parts();

/// Projects that `wren new` can start from: "plain", "reedling", "sedge", "bass". Unknown names are refused.
[[nodiscard]] Expected<Project> project_from(const std::string& name);
[[nodiscard]] std::vector<std::string> starting_points();

[[nodiscard]] inline Expected<Project> load_project(const std::filesystem::path& path,
                                                    std::vector<std::string>* notes = nullptr) {
  return load_project(all_parts().book(), path, notes);
}
[[nodiscard]] inline Expected<void> save_project(const std::filesystem::path& path, const Project& project) {
  return save_project(all_parts().book(), path, project);
}
[[nodiscard]] inline std::string project_to_json(const Project& project) {
  return project_to_json(all_parts().book(), project);
}
[[nodiscard]] inline Expected<Project> project_from_json(std::string_view text, const std::string& name,
                                                         std::vector<std::string>* notes = nullptr) {
  return project_from_json(all_parts().book(), text, name, notes);
}
[[nodiscard]] inline Expected<Project> with_edits(const Project& project,
                                                  const std::vector<std::pair<std::string, std::string>>& edits,
                                                  UnitSystem system = UnitSystem::millimetre) {
  return with_edits(all_parts().book(), project, edits, system);
}

}  // namespace wren

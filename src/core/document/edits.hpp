// Edits of a project by key and text, and how two projects differ, number by number.
#pragma once

#include "core/document/project_file.hpp"

namespace wren {

/// Parses, checks and applies; all or nothing. What a file would not bring back is refused too.
[[nodiscard]] Expected<Project> with_edits(const FieldBook& book, const Project& project,
                                           const std::vector<std::pair<std::string, std::string>>& edits,
                                           UnitSystem system = UnitSystem::millimetre);

/// One number that two projects have different, as field texts; "(a drawing)" where it is more than a number.
struct Difference {
  std::string key;
  Words label;
  std::string here;
  std::string there;
};
[[nodiscard]] std::vector<Difference> differences(const FieldBook& book, const Project& here, const Project& there);

}  // namespace wren

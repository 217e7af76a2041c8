// Field: one number, choice or text of a project under its stable dotted key. The one table of fields serves the
// ledger, the command line, the file and its validation, so that they cannot disagree.
#pragma once

#include <functional>
#include <string>
#include <variant>
#include <vector>

#include "core/document/project.hpp"

namespace wren {

enum class FieldKind { length, number, count, flag, choice, text, numbers };

/// monostate: not given (a measured value that was not measured).
using FieldValue = std::variant<std::monostate, double, long, bool, std::string, std::vector<double>>;

struct Field {
  std::string key;
  std::string label;
  FieldKind kind = FieldKind::length;
  std::string unit;  // "mm", "mm/min", "" …
  double low = 0;    // both ends included; for lists: of each entry
  double high = 0;
  std::vector<std::string> choices;  // for FieldKind::choice
  bool optional = false;             // may be left empty ("none")
  bool measured = false;             // its origin is "measured" when given
  bool alias = false;                // not stored: sets several other keys
  std::string reason;                // what the number is for, one line
  std::function<FieldValue(const Project&)> get;
  std::function<void(Project&, const FieldValue&)> put;  // precondition: accepted by check_value
};

[[nodiscard]] const std::vector<Field>& fields();
/// Also finds "rack.ID.measured" and other cutter keys, which depend on the project's rack; nullptr when there is none.
[[nodiscard]] const Field* find_field(const Project& project, const std::string& key);
[[nodiscard]] std::vector<Field> rack_fields(const Rack& rack);

/// Kind, range and choice; `where` is the key or JSON path.
[[nodiscard]] std::optional<Problem> check_value(const Field& field, const FieldValue& value, const std::string& where);

/// Field text (as typed by a maker) to a value; lengths in any unit.
[[nodiscard]] Expected<FieldValue> parse_field(const Field& field, const std::string& text,
                                               UnitSystem system = UnitSystem::millimetre);
/// A value as field text that parses back to it.
[[nodiscard]] std::string field_text(const Field& field, const FieldValue& value,
                                     UnitSystem system = UnitSystem::millimetre);

/// Parses, checks and applies; all or nothing.
[[nodiscard]] Expected<Project> with_edits(const Project& project,
                                           const std::vector<std::pair<std::string, std::string>>& edits,
                                           UnitSystem system = UnitSystem::millimetre);

}  // namespace wren

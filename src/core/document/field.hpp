// Field: one number, choice or text of a project under its stable dotted key. The one table of fields serves the
// ledger, the command line, the file and its validation, so that they cannot disagree.
#pragma once

#include <functional>
#include <string>
#include <variant>
#include <vector>

#include <nlohmann/json_fwd.hpp>

#include "core/document/project.hpp"

namespace wren {

enum class FieldKind { length, number, count, flag, choice, text, numbers };

/// monostate: not given (a measured value that was not measured).
using FieldValue = std::variant<std::monostate, double, long, bool, std::string, std::vector<double>>;

/// What a window offers to choose from for a text.
enum class Offers { nothing, cutters, woods };

struct Field {
  std::string key;
  Words label;
  FieldKind kind = FieldKind::length;
  std::string unit;  // "mm", "mm/min", "" …
  double low = 0;    // both ends included; for lists: of each entry
  double high = 0;
  std::vector<std::string> choices;  // for FieldKind::choice
  bool optional = false;             // may be left empty ("none")
  bool measured = false;             // its origin is "measured" when given
  bool alias = false;                // not stored: sets several other keys
  Words reason;                      // what the number is for, one line
  std::function<FieldValue(const Project&)> get;
  std::function<void(Project&, const FieldValue&)> put;  // precondition: accepted by check_value
  /// Texts: what is wrong with one, beyond its length; may be empty.
  std::function<std::optional<Problem>(const std::string&)> check{};
  Offers offers = Offers::nothing;
  /// Names of materials that this field's value speaks of; may be empty.
  std::function<std::vector<std::string>(const Project&)> materials{};
  /// What a value would contradict in this project; may be empty.
  std::function<std::optional<Problem>(const Project&, const FieldValue&)> contradicts{};
  /// Of a size of something that is bought: the line on which a hand says that the piece was measured
  /// ("body.hand.bridge-measured"); until then the size is the list's. Empty for every other field.
  std::string at_hand{};
};

/// What the document knows of a part: its fields, and how it reads and writes what it has beyond single numbers (drawn
/// outlines, measured sections) in its own group of the file. `where` is the JSON path of the group.
struct PartTable {
  std::string id;
  std::string title;
  std::vector<Field> fields;
  void (*write_more)(const Project& project, nlohmann::ordered_json& group) = nullptr;
  std::optional<Problem> (*read_more)(const nlohmann::ordered_json& group, const std::string& where,
                                      Project& project) = nullptr;
};

/// Every field there is: the parts' tables in their order, then the shop's.
class FieldBook {
 public:
  explicit FieldBook(std::vector<PartTable> parts);
  [[nodiscard]] const std::vector<PartTable>& parts() const { return parts_; }
  [[nodiscard]] const std::vector<Field>& shop() const { return shop_; }
  /// The part's fields, in its table's order; nullptr where no part has this id.
  [[nodiscard]] const PartTable* part(const std::string& id) const;
  /// The part that a field's key belongs to; nullptr for the shop's keys and unknown ones.
  [[nodiscard]] const PartTable* part_of_key(const std::string& key) const;
  /// Also finds "rack.ID.measured" and other cutter keys, which depend on the project's rack.
  [[nodiscard]] std::optional<Field> find(const Project& project, const std::string& key) const;
  /// Project's own, each part's, the shop's: as a ledger shows them.
  template <class Do>
  void each(const Do& with) const {
    for (const PartTable& part : parts_)
      for (const Field& f : part.fields) with(f);
    for (const Field& f : shop_) with(f);
  }

 private:
  std::vector<PartTable> parts_;
  std::vector<Field> shop_;
};

[[nodiscard]] std::vector<Field> shop_fields();
/// How the fields of a cutter are labelled: "flat-6, stickout" among those of others, or "Stickout".
enum class CutterLabels { among_others, alone };
[[nodiscard]] std::vector<Field> rack_fields(const Rack& rack, CutterLabels labels = CutterLabels::among_others);
/// "material.NAME.density" and the other figures of the project's own materials.
[[nodiscard]] std::vector<Field> material_fields(const Materials& own);
/// Names of all materials that these parts (all without names) speak of, each once, sorted.
[[nodiscard]] std::vector<std::string> materials_named(const FieldBook& book, const Project& project,
                                                       const std::vector<std::string>& parts = {});
/// The project's own entries among them.
[[nodiscard]] Materials own_materials_of(const FieldBook& book, const Project& project,
                                         const std::vector<std::string>& parts);

/// Kind, range and choice; `where` is the key or JSON path.
[[nodiscard]] std::optional<Problem> check_value(const Field& field, const FieldValue& value, const std::string& where);

/// Field text (as typed by a maker) to a value; lengths in any unit.
[[nodiscard]] Expected<FieldValue> parse_field(const Field& field, const std::string& text,
                                               UnitSystem system = UnitSystem::millimetre);
/// A value as field text that parses back to it.
[[nodiscard]] std::string field_text(const Field& field, const FieldValue& value,
                                     UnitSystem system = UnitSystem::millimetre);

}  // namespace wren

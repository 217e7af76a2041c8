// The ledger: every number of the job under its stable key, with its value, where it comes from and why.
#pragma once

#include <string>
#include <vector>

#include "core/document/field.hpp"

namespace wren {

/// listed: a size from a hardware list, of a piece that nobody has measured yet.
enum class Origin { given, derived, measured, listed };
[[nodiscard]] const char* origin_name(Origin origin);

struct LedgerLine {
  std::string key;
  Words label;
  FieldValue value;
  FieldKind kind = FieldKind::length;
  std::string unit;
  Origin origin = Origin::given;
  Words reason;
  bool editable = false;
  /// For a worked-out number that can be pinned: the given key that pins it; empty otherwise.
  std::string pin;
  Offers offers = Offers::nothing;
};

/// Worked-out numbers, one call each.
class Numbers {
 public:
  void length(std::string key, Words label, double mm, Words reason, std::string pin = "") {
    add(std::move(key), std::move(label), mm, FieldKind::length, "mm", std::move(reason), std::move(pin));
  }
  void number(std::string key, Words label, double v, std::string unit, Words reason) {
    add(std::move(key), std::move(label), v, FieldKind::number, std::move(unit), std::move(reason), "");
  }
  void list(std::string key, Words label, std::vector<double> v, Words reason, std::string pin) {
    add(std::move(key), std::move(label), std::move(v), FieldKind::numbers, "mm", std::move(reason), std::move(pin));
  }
  [[nodiscard]] std::vector<LedgerLine> take() { return std::move(lines_); }

 private:
  void add(std::string key, Words label, FieldValue v, FieldKind kind, std::string unit, Words reason,
           std::string pin) {
    lines_.push_back({std::move(key), std::move(label), std::move(v), kind, std::move(unit), Origin::derived,
                      std::move(reason), false, std::move(pin)});
  }
  std::vector<LedgerLine> lines_;
};

/// Whether a size of a bought piece is the one that a hand measured: said, and the number is still that of then.
[[nodiscard]] bool measured_at_hand(const Project& project, const Field& field);

/// Lines of the build sheet on which a hand has still to say that a piece was measured: of these fields' sizes.
[[nodiscard]] std::vector<std::string> not_measured_at_hand(const Project& project, const std::vector<Field>& fields);

/// What stands beside a number that hangs on sizes of a piece, measured on `line`, that nobody has measured; empty
/// where somebody has. `what`: "the bridge".
[[nodiscard]] Words hangs_on(const Project& project, const std::vector<Field>& fields, const std::string& line,
                             const char* what);

/// Given and measured numbers of the tables, in their order.
[[nodiscard]] std::vector<LedgerLine> given_numbers(const FieldBook& book, const Project& project);

/// A ledger value as text for a reader, with its unit. A list keeps the point: its commas part its numbers.
[[nodiscard]] std::string ledger_text(const LedgerLine& line, const Audience& audience);

}  // namespace wren

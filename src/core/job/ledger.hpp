// The ledger: every number of the job under its stable key, with its value, where it comes from and why.
#pragma once

#include <string>
#include <vector>

#include "core/document/field.hpp"
#include "core/job/body_cuts.hpp"
#include "core/job/neck_cuts.hpp"

namespace wren {

enum class Origin { given, derived, measured };
[[nodiscard]] const char* origin_name(Origin origin);

struct LedgerLine {
  std::string key;
  std::string label;
  FieldValue value;
  FieldKind kind = FieldKind::length;
  std::string unit;
  Origin origin = Origin::given;
  std::string reason;
  bool editable = false;
  /// For a worked-out number that can be pinned: the given key that pins it; empty otherwise.
  std::string pin;
};

/// Given and measured numbers, then derived ones. `cuts` may be null (not planned yet): path numbers are then left out.
[[nodiscard]] std::vector<LedgerLine> ledger(const Project& project, const BoardDesign* design, const BoardCuts* cuts,
                                             const NeckDesign* neck = nullptr, const NeckCuts* neck_cuts = nullptr,
                                             const BodyDesign* body = nullptr, const BodyCuts* body_cuts = nullptr);

/// What is worked out of the body, appended.
void add_body_ledger(const BodyDesign& body, const BodyCuts* cuts, std::vector<LedgerLine>& ledger);

/// A ledger value as text in a unit system, with its unit.
[[nodiscard]] std::string ledger_text(const LedgerLine& line, UnitSystem system);

}  // namespace wren

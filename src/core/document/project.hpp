// Project: everything that is saved, as one plain value. Copy it, compare it, keep old ones for undo. It knows no part:
// it keeps each part's numbers under the part's id; the part's own table says what they mean. Lengths mm.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/document/part_values.hpp"
#include "core/workshop/cutter.hpp"
#include "core/workshop/machine.hpp"
#include "core/program/writer.hpp"

namespace wren {

enum class ProgramFiles { per_cutter, one };

/// One measured value with its history: it stands beside the designed number and, where it is in use, takes its place
/// downstream.
struct Measured {
  std::string key;  // of the designed number in the ledger
  double value = 0;
  std::string date;
  std::string instrument;  // calipers, micrometer, rule, …
  std::string note;
  bool in_use = true;
  friend bool operator==(const Measured&, const Measured&) = default;
};
constexpr std::size_t most_measured = 1000;
/// The latest measure of a key that is in use; nullptr where the designed number holds.
[[nodiscard]] const Measured* measured_in_use(const std::vector<Measured>& all, const std::string& key);

struct ProgramChoices {
  UnitSystem units = UnitSystem::millimetre;
  bool arcs = true;
  ProgramFiles files = ProgramFiles::per_cutter;
  double safe = 10;  // above the blank and every clamp
  friend bool operator==(const ProgramChoices&, const ProgramChoices&) = default;
};

/// What was written to disk, so that it is found again.
struct WrittenRecord {
  std::string kind;  // "programs", "sheet"
  std::string date;
  std::string path;
  std::string fingerprint;  // of the numbers it was made from: tells whether it is still current
  friend bool operator==(const WrittenRecord&, const WrittenRecord&) = default;
};

struct Project {
  std::string name = "Untitled";
  std::string notes;
  Machine machine;
  Rack rack = default_rack();
  ProgramChoices programs;
  PartValues parts;
  std::vector<Measured> measured;
  std::vector<WrittenRecord> written;
  std::string unknown;  // JSON text of keys and parts this version does not know: kept and written back
  friend bool operator==(const Project&, const Project&) = default;
};

/// The measured number where one is in use, else the designed one.
[[nodiscard]] double in_use(const Project& project, const std::string& key, double designed);

}  // namespace wren

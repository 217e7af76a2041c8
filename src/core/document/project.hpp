// Project: everything that is saved, as one plain value. Copy it, compare it, keep old ones for undo. It knows no part:
// it keeps each part's numbers under the part's id; the part's own table says what they mean. Lengths mm.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/document/part_values.hpp"
#include "core/plan/placed_picture.hpp"
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

/// Something that happened, and from which numbers: a cut that was made, a proof that was passed.
struct Fact {
  std::string what;  // "fretboard.cut.top.slots", "neck.proof"
  std::string date;
  std::string fingerprint;  // of the numbers it was made from
  friend bool operator==(const Fact&, const Fact&) = default;
};
constexpr std::size_t most_facts = 2000;

/// What is so, whatever the numbers say today: undo never touches it, and nothing in it is overwritten.
struct Record {
  std::string id;  // of this instrument, for whoever keeps runs beside it (RFC 4122, version 4); empty: not given yet
  std::vector<Measured> measured;
  std::vector<Fact> facts;
  /// The numbers behind a fingerprint, as field texts by key: told where a cut was made from older ones.
  std::map<std::string, std::map<std::string, std::string>> numbers;
  std::string folder;  // of the programs, where they were last written; what they are, their manifests say
  friend bool operator==(const Record&, const Record&) = default;
};
constexpr std::size_t most_numbers_kept = 60;

struct Project {
  std::string name = "Untitled";
  std::string notes;
  Machine machine;
  Rack rack = default_rack();
  Materials materials;  // of its own: where one has a name of the table, it takes that one's place
  ProgramChoices programs;
  PartValues parts;
  std::vector<PlacedPicture> pictures;  // behind drawings; their files stand beside the project's
  Record record;
  std::string unknown;  // JSON text of keys and parts this version does not know: kept and written back
  friend bool operator==(const Project&, const Project&) = default;
};

/// Bytes that a project needs beyond what it shares with another.
[[nodiscard]] std::size_t weight_beside(const Project& project, const Project& other);

/// Gives the instrument its id where it has none; `random`: 32 hexadecimal digits.
void give_id(Project& project, const std::string& random);

/// The same numbers for another instrument: nothing of it was made, measured or proved yet.
[[nodiscard]] Project without_facts(Project project);

/// The measured number where one is in use, else the designed one.
[[nodiscard]] double in_use(const Project& project, const std::string& key, double designed);

}  // namespace wren

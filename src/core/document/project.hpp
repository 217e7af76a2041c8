// Project: everything that is saved, as one plain value. Copy it, compare it, keep old ones for undo. Lengths mm.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/cutting/crown.hpp"
#include "core/cutting/slot.hpp"
#include "core/instrument/instrument.hpp"
#include "core/program/writer.hpp"
#include "core/workshop/setup.hpp"

namespace wren {

enum class CutOrder { flat_first, crown_first };   // the two schools: slots while the blank is flat, or after the crown
enum class ProgramFiles { per_cutter, one };
enum class CrownExtent { board, blank };

/// How the fretboard is cut: the maker's choices.
struct BoardWork {
  CutOrder order = CutOrder::flat_first;
  std::string slot_cutter = "slot-0.58";
  SlotEntry slot_entry = SlotEntry::ramp;
  std::optional<double> slot_measured;      // width of a test slot cut on scrap with the slot cutter
  std::string mark_cutter = "flat-3.175";
  std::string crown_cutter = "facing-25";
  Direction crown_direction = Direction::across;
  CrownExtent crown_extent = CrownExtent::board;
  double crown_scallop = 0.01;
  double crown_stepover = 0;                // 0: worked out from the scallop
  std::string outline_cutter = "flat-3.175";
  bool outline_climb = true;
  double outline_skim = 0.2;
  int tabs = 4;
  std::vector<double> tab_places;           // along the outline; empty: placed automatically
  double tab_length = 6;
  double tab_height = 2;
  double through = 0.2;
  friend bool operator==(const BoardWork&, const BoardWork&) = default;
};

struct ProgramChoices {
  UnitSystem units = UnitSystem::millimetre;
  bool arcs = true;
  ProgramFiles files = ProgramFiles::per_cutter;
  double safe = 10;                         // above the blank and every clamp
  friend bool operator==(const ProgramChoices&, const ProgramChoices&) = default;
};

/// What was written to disk, so that it is found again.
struct WrittenRecord {
  std::string kind;                         // "programs", "sheet"
  std::string date;
  std::string path;
  std::string fingerprint;                  // of the numbers it was made from: tells whether it is still current
  friend bool operator==(const WrittenRecord&, const WrittenRecord&) = default;
};

struct Project {
  std::string name = "Untitled";
  std::string notes;
  Instrument instrument;
  Machine machine;
  Rack rack = default_rack();
  Blank blank;
  BoardWork work;
  ProgramChoices programs;
  std::vector<WrittenRecord> written;
  std::string unknown;                      // JSON text of keys this version does not know: kept and written back
  friend bool operator==(const Project&, const Project&) = default;
};

/// Projects that `wren new` can start from: "plain", "reedling", "sedge", "bass". Unknown names are refused.
[[nodiscard]] Expected<Project> project_from(const std::string& name);
[[nodiscard]] std::vector<std::string> starting_points();

}  // namespace wren

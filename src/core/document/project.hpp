// Project: everything that is saved, as one plain value. Copy it, compare it, keep old ones for undo. Lengths mm.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/cutting/crown.hpp"
#include "core/cutting/slot.hpp"
#include "core/instrument/body.hpp"
#include "core/instrument/instrument.hpp"
#include "core/instrument/neck.hpp"
#include "core/program/writer.hpp"
#include "core/workshop/alignment.hpp"

namespace wren {

enum class CutOrder { flat_first, crown_first };  // the two schools: slots while the blank is flat, or after the crown
enum class ProgramFiles { per_cutter, one };
enum class CrownExtent { board, blank };

/// How the fretboard is cut: the maker's choices.
struct BoardWork {
  CutOrder order = CutOrder::flat_first;
  std::string slot_cutter = "slot-0.58";
  SlotEntry slot_entry = SlotEntry::ramp;
  std::optional<double> slot_measured;  // width of a test slot cut on scrap with the slot cutter
  std::string mark_cutter = "flat-3.175";
  std::string crown_cutter = "facing-25";
  Direction crown_direction = Direction::across;
  CrownExtent crown_extent = CrownExtent::board;
  double crown_scallop = 0.01;
  double crown_stepover = 0;  // 0: worked out from the scallop
  std::string outline_cutter = "flat-3.175";
  bool outline_climb = true;
  double outline_skim = 0.2;
  int tabs = 4;
  std::vector<double> tab_places;  // along the outline; empty: placed automatically
  double tab_length = 6;
  double tab_height = 2;
  double through = 0.2;
  friend bool operator==(const BoardWork&, const BoardWork&) = default;
};

[[nodiscard]] Blank usual_neck_blank();

enum class Holding { frame, cradle };  // once the front is no longer flat

/// How the neck is cut from both sides: the maker's choices.
struct NeckWork {
  Blank blank = usual_neck_blank();
  double plank = 22;  // scarfed head: thickness of the plank
  AlignmentNumbers alignment;
  Holding holding = Holding::frame;
  std::string channel_cutter = "flat-6.35";
  std::string fine_cutter = "flat-3.175";  // bars, nut slot
  std::string face_cutter = "ball-6.35";   // step and face of the head
  std::string pilot_drill = "drill-1.6";
  std::string heel_drill = "drill-3.2";
  std::string hole_cutter = "flat-6.35";      // tuner holes, bored by a helix
  std::string pin_cutter = "flat-6.35-long";  // pin holes, through the whole blank
  std::string rough_cutter = "flat-6.35";
  std::string finish_cutter = "ball-6.35";
  std::string edge_cutter = "flat-6.35";  // steep sides by levels
  std::string outline_cutter = "flat-6.35";
  double scallop = 0.01;
  double rough_leave = 0.5;
  double skim = 0.25;
  double sand_back = 0;  // left standing for sanding, by surface
  double sand_face = 0;
  double sand_sides = 0;
  double web = 1.2;   // thin floor of the trough round the neck, until the outline is cut
  double frame = 7;   // least width of the waste frame
  int side_tabs = 2;  // on either side
  bool end_tabs = true;
  double tab_length = 9;
  double tab_height = 2.6;
  double through = 0.2;
  double cradle_clearance = 0.3;
  double cradle_thickness = 18;
  friend bool operator==(const NeckWork&, const NeckWork&) = default;
};

enum class OutlineSchool {
  full,
  halves,
  guide
};  // in one go from the back; half from either side; a groove, the band saw, a last skim
enum class GrainWay {
  one_way,
  thin,
  safer
};  // one direction throughout; a thin last skim where the cut runs against the grain; each span in its safer direction

[[nodiscard]] AlignmentNumbers usual_body_alignment();

/// How the body is cut, layer by layer and from both sides: the maker's choices.
struct BodyWork {
  double blank_length = 470;  // of every layer and of the glued body, measured
  double blank_width = 360;
  double face_off = 0;  // blank thicker than wanted: faced off the face
  Lie lie = Lie::along_x;
  std::vector<Clamp> clamps;
  AlignmentNumbers alignment = usual_body_alignment();
  std::string clear_cutter = "flat-6.35";
  std::string deep_cutter = "flat-6.35-long";  // where the first one does not reach
  std::string fine_cutter = "flat-3.175";      // corners, slots, the edges of sloping floors
  std::string facing_cutter = "facing-38";
  std::string rough_cutter = "flat-6.35";
  std::string finish_cutter = "ball-6.35";
  std::string round_cutter = "round-over-3";
  std::string outline_cutter = "flat-6.35";
  double step = 0.35;  // wood beside the cutter, of its diameter
  double wall_skim = 0.2;
  double floor_skim = 0.15;
  double scallop = 0.03;
  double rough_leave = 0.5;
  OutlineSchool outline = OutlineSchool::halves;
  double guide_depth = 6;
  double guide_leave = 2;  // left by the band saw
  double skim = 0.25;
  GrainWay grain = GrainWay::thin;
  double thin_skim = 0.1;
  int tabs = 4;
  double tab_length = 10;
  double tab_height = 3;
  double through = 0.2;
  double top_oversize = 0;  // a glued-on top cut this much larger first, then flush; 0: whole blanks are glued
  double peck = 4;
  std::string cover_wood = "ash";
  double cover_margin = 14;  // of the cover's blank
  friend bool operator==(const BodyWork&, const BodyWork&) = default;
};

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

[[nodiscard]] BodyWork usual_body_work();

struct Project {
  std::string name = "Untitled";
  std::string notes;
  Instrument instrument;
  Machine machine;
  Rack rack = default_rack();
  Blank blank;
  BoardWork work;
  Neck neck;
  NeckWork neck_work;
  Body body = usual_body();
  BodyWork body_work = usual_body_work();
  std::vector<Measured> measured;
  ProgramChoices programs;
  std::vector<WrittenRecord> written;
  std::string unknown;  // JSON text of keys this version does not know: kept and written back
  friend bool operator==(const Project&, const Project&) = default;
};

/// Projects that `wren new` can start from: "plain", "reedling", "sedge", "bass". Unknown names are refused.
[[nodiscard]] Expected<Project> project_from(const std::string& name);
[[nodiscard]] std::vector<std::string> starting_points();

}  // namespace wren

// The fretboard's numbers: strings, frets and board, the blank, and how it is cut. Plain values; lengths mm.
#pragma once

#include "core/cutting/crown.hpp"
#include "core/cutting/slot.hpp"
#include "core/document/project.hpp"
#include "core/instrument/instrument.hpp"

namespace wren {

enum class CutOrder { flat_first, crown_first };  // the two schools: slots while the blank is flat, or after the crown
enum class CrownExtent { board, blank };
enum class BoardOutline { last, first };  // first: the rest is cut of a board that its tabs hold

/// How the fretboard is cut: the maker's choices.
struct BoardWork {
  CutOrder order = CutOrder::flat_first;
  std::string slot_cutter = "slot-0.58";
  SlotEntry slot_entry = SlotEntry::ramp;
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
  BoardOutline outline_when = BoardOutline::last;
  std::string tick_cutter = "flat-1.5";  // marks over the edge
  std::string caul_wood = "fibreboard";
  std::string caul_rough = "flat-6.35";
  std::string caul_finish = "ball-6.35";
  std::string caul_groove = "flat-3.175";
  double caul_thickness = 30;   // of the caul that frets are glued up under
  double caul_clearance = 0.4;  // of its grooves round a fret's crown
  friend bool operator==(const BoardWork&, const BoardWork&) = default;
};

struct FretboardNumbers {
  static constexpr const char* part = "fretboard";
  Instrument instrument;
  Blank blank;
  BoardWork work;
  friend bool operator==(const FretboardNumbers&, const FretboardNumbers&) = default;
};

/// The fretboard's numbers of a project, to read or to change.
[[nodiscard]] inline const FretboardNumbers& board_of(const Project& p) { return p.parts.of<FretboardNumbers>(); }
[[nodiscard]] inline FretboardNumbers& board_of(Project& p) { return p.parts.of<FretboardNumbers>(); }

}  // namespace wren

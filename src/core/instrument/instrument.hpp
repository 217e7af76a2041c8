// Instrument: the numbers a maker gives for strings, frets and fretboard. Plain values, comparable, all lengths in mm.
// Spreads run between the centres of the outer strings, measured across the centre line at the strings' own nut and
// saddle points (without compensation). Every string is straight and its scale length is measured along it.
#pragma once

#include <string>
#include <vector>

#include "core/plan/contour.hpp"

namespace wren {

enum class Spacing { centres, gaps };  // equal centre distances, or equal gaps by gauge
enum class CrownKind { flat, cylinder, cone };
enum class SlotBottom { flat, crown };
enum class SlotEnds { through, blind };
enum class EndShape { square, slanted, round };  // slanted: parallel to the last fret
enum class MarkShape { none, dot, tick, block, outline };
/// When the frets are pressed: once the board is glued to its neck, or while it is loose and flat.
enum class FretsWhen { board_glued, board_loose };
/// What keeps them in their slots: the tang's barbs; those and a drop of glue; glue alone, clamped in two rounds.
enum class FretsHeld { pressed, pressed_glue, glued };
/// Along the board's edge: dots in a row, dots that stand higher and lower in turn, or ticks of the face that run over
/// it.
enum class SideMarks { row, staggered, ticks };
enum class Filling { shell, wood, resin, acrylic };

/// The spread at the bridge: as given, or as single bridge pieces stand beside each other.
enum class SpreadFrom { given, pieces };

struct Strings {
  int count = 6;
  double scale_bass = 635;
  double scale_treble = 635;
  double square_fret = 7;  // the fret that stands square to the centre line; may be a fraction
  double nut_spread = 35;
  double bridge_spread = 52;
  SpreadFrom spread_from = SpreadFrom::given;
  double piece_width = 10.4;  // of a single bridge piece, across its string, measured
  double piece_gap = 0.2;     // left between two of them
  Spacing spacing = Spacing::centres;
  bool left_handed = false;
  std::vector<double> gauges;  // bass to treble; empty: worked out by `string_gauges`
  [[nodiscard]] double spread_at_bridge() const {
    return spread_from == SpreadFrom::pieces ? (count - 1) * (piece_width + piece_gap) : bridge_spread;
  }
  friend bool operator==(const Strings&, const Strings&) = default;
};

struct Frets {
  int count = 22;
  bool zero_fret = false;
  double tang_width = 0.53;
  double tang_depth = 1.5;
  double crown_width = 2.4;
  double crown_height = 1.2;
  double wire_overhang = 3;  // wire left beyond each edge when it is cut to length
  double barb_width = 0.76;  // tang over its barbs
  FretsWhen when = FretsWhen::board_glued;
  FretsHeld held = FretsHeld::pressed;
  friend bool operator==(const Frets&, const Frets&) = default;
};

struct Crown {
  CrownKind kind = CrownKind::cone;
  double radius_nut = 254;
  double radius_last = 406.4;
  friend bool operator==(const Crown&, const Crown&) = default;
};

struct Slot {
  double width = 0.58;
  double depth = 2.0;  // flat bottom: below the top of the crown; following: below the crown everywhere
  SlotBottom bottom = SlotBottom::crown;
  SlotEnds ends = SlotEnds::through;
  double blind_margin = 2.0;  // wood left at each edge when the slot stops short
  friend bool operator==(const Slot&, const Slot&) = default;
};

/// A marked fret with a shape of its own.
struct MarkAt {
  int fret = 0;
  MarkShape shape = MarkShape::dot;
  friend bool operator==(const MarkAt&, const MarkAt&) = default;
};
constexpr std::size_t most_marks_at = 36;

struct Marks {
  MarkShape shape = MarkShape::dot;
  std::vector<int> places{3, 5, 7, 9, 12, 15, 17, 19, 21, 24};  // 12 and 24 are doubled
  double size = 6;                                              // dot: diameter; tick, block: along the board
  double length = 20;                                           // tick, block: across the board
  double depth = 1.75;                                          // below the crown at the mark's middle
  Polygon outline;           // for MarkShape::outline, about its own middle; counter-clockwise
  std::vector<MarkAt> at{};  // what stands there in place of the shape
  double pair_wide = 0;      // between the middles of a double at 12, 36; 0: a share of the board's width
  double pair_narrow = 0;    // at 24
  Filling filling = Filling::shell;
  double pour = 2;  // of resin in one go: thick layers grow hot and warp
  SideMarks side = SideMarks::row;
  double side_stagger = 1.5;  // between the two heights of staggered dots
  double tick_length = 4;     // of ticks over the edge, inwards from it
  double tick_width = 1.6;
  double tick_depth = 1.2;  // under the crown at the edge
  friend bool operator==(const Marks&, const Marks&) = default;
};

struct BoardShape {
  double thickness = 6.35;   // at the top of the crown
  double edge_margin = 4;    // board outside the outer strings' centres, across the centre line
  double overhang = 9;       // from the last fret to the end, along the centre line
  double nut_extension = 6;  // wood behind a zero fret; not used with a nut
  EndShape end = EndShape::square;
  double end_rise = 6;  // round end: how far the middle stands beyond the corners
  friend bool operator==(const BoardShape&, const BoardShape&) = default;
};

struct Instrument {
  Strings strings;
  Frets frets;
  BoardShape board;
  Crown crown;
  Slot slot;
  Marks marks;
  friend bool operator==(const Instrument&, const Instrument&) = default;
};

/// The gauges in use, bass to treble: those given where their number suits, else an even run from 0.254 mm at the
/// treble that grows by 1.36 a string (common practice for steel strings tuned in fourths).
[[nodiscard]] std::vector<double> string_gauges(const Strings& strings);

}  // namespace wren

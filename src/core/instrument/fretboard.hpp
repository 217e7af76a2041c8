// Fretboard: everything that follows from an Instrument's numbers. Instrument frame: origin where the centre line
// crosses the nut line, x towards the bridge, y towards the treble side of a right-handed instrument, z out of the face
// with z = 0 on the board's underside (glue plane). A left-handed instrument is the mirror image in y. Lengths in mm.
#pragma once

#include "core/instrument/instrument.hpp"
#include "core/report/problem.hpp"
#include "core/skin/two_skin.hpp"

namespace wren {

/// Part of a string's length between the nut and fret n: 1 − 2^(−n/12). n may be a fraction.
/// Source: equal temperament; Fletcher & Rossing, The Physics of Musical Instruments, ch. 9.
[[nodiscard]] double fret_fraction(double n);

struct StringLine {
  Vec2 nut;
  Vec2 saddle;
  double scale = 0;  // along the string
  double gauge = 0;
};

struct FretLine {
  int number = 0;    // 0 is the zero fret (or the nut line)
  Vec2 bass_string;  // on the outer bass string
  Vec2 treble_string;
  Vec2 bass_edge;  // on the board's edges
  Vec2 treble_edge;
  Vec2 slot_bass;  // ends of the slot: the edges, or short of them for blind slots
  Vec2 slot_treble;
  [[nodiscard]] double width() const { return distance(bass_edge, treble_edge); }
  [[nodiscard]] Vec2 along() const { return unit(treble_edge - bass_edge); }
  /// Where the fret crosses the centre line.
  [[nodiscard]] Vec2 middle() const;
};

struct Mark {
  int fret = 0;
  Vec2 centre;
  double floor = 0;   // z of the pocket's flat floor
  double radius = 0;  // > 0: a round mark, cut with true arcs
  Polygon outline;    // counter-clockwise
};

/// A mark that is cut into the face and runs out over the edge on the bass side, seen from above and from beside.
struct EdgeTick {
  int fret = 0;
  Vec2 inner, edge, outer;  // middle of its round end, where it leaves the board, and past it
  double width = 0;
  double floor = 0;  // z
  [[nodiscard]] bool holds(Vec2 p) const;
};

struct FretWire {  // one line of the fret job list
  int number = 0;
  double board_width = 0;  // along the fret, edge to edge
  double tang = 0;         // length of tang that enters the slot
  double cut_length = 0;   // board width and overhang at both ends
  double bend_radius = 0;
};

struct Fretboard {
  Instrument given;
  std::vector<StringLine> strings;  // bass to treble
  std::vector<FretLine> frets;      // slots to cut: from 0 with a zero fret, else from 1
  FretLine nut_line;
  Contour outline;  // exact, counter-clockwise
  Polygon corners;  // the same, flattened to 0.001 mm
  std::vector<Mark> marks;
  std::vector<EdgeTick> ticks;
  std::vector<FretWire> wire;
  double last_fret_x = 0;  // on the centre line
  double total_wire = 0;

  /// Radius of the crown at x; a cone's runs linearly from the nut to the last fret and on. 0 for a flat board.
  [[nodiscard]] double crown_radius(double x) const;
  /// Height of the crowned top anywhere in plan (z), without slots and marks: thickness − (R − √(R² − y²)).
  [[nodiscard]] double crown_height(Vec2 p) const;
  /// Slot floor (z) at a point of a slot.
  [[nodiscard]] double slot_floor(Vec2 p) const;
  /// Depth of a slot under the crown at p.
  [[nodiscard]] double slot_depth(Vec2 p) const { return crown_height(p) - slot_floor(p); }
  /// The finished top with slots and marks.
  [[nodiscard]] double finished_height(Vec2 p) const;
  /// The crowned piece without slots and marks.
  [[nodiscard]] TwoSkin crowned() const;
  /// Volume in mm³ with slots and marks taken off.
  [[nodiscard]] double volume() const;
};

/// Thickness of the board taken off the crown at half-chord y: R − √(R² − y²); source: circle geometry. Precondition
/// |y| < R.
[[nodiscard]] double crown_drop(double radius, double y);

/// Ratio of the radius a fret is bent to and the crown's: a little tighter, so that its ends press down (common
/// practice).
constexpr double bend_ratio = 0.9;

/// Works everything out. Refused, with the ledger key as place, where the numbers contradict each other (a crown
/// tighter than the board is wide, strings further apart than they are long, a mark's outline that crosses itself, …).
[[nodiscard]] Expected<Fretboard> make_fretboard(const Instrument& instrument);

}  // namespace wren

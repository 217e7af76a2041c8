// Neck: the numbers a maker gives for shaft, back, joint, rod and headstock. Plain values, comparable, lengths in mm,
// angles in degrees where named so. Frame: instrument, z = 0 on the glue plane between neck and board, the back at
// negative z.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/plan/contour.hpp"

namespace wren {

enum class NeckBuild {
  separate_board,
  one_piece
};  // rod from the front under a glued board, or from the back under a filler strip
enum class NeckJoint { bolted, glued, through };
enum class BackShape { round, oval, flattened, d, u, soft_v, hard_v, leaning };
enum class HeelKind { block, tapered };
enum class Transition { arc, curve, sections };  // arc: by its radius; curve: by its length; sections: as measured
enum class HeadKind { flat, tilted };
enum class HeadShape { arched, notched, slanted, drawn };
enum class RodKind { none, bar };
enum class RodEnd { head, heel };
enum class RodBottom { straight, curved };
enum class NutSeat { none, slot, shelf };
enum class HeelHoles { none, screws, dowels };

/// A section measured across the neck at x: points (y, depth under the glue plane), edge to edge in either direction.
struct BackSection {
  double x = 0;
  std::vector<Vec2> points;  // x: y of the instrument; y: depth, positive away from the strings
  friend bool operator==(const BackSection&, const BackSection&) = default;
};

struct BackNumbers {
  bool with_board = true;  // thicknesses include the board
  int fret_a = 1;
  int fret_b = 12;
  double thickness_a = 21;
  double thickness_b = 22.5;
  BackShape shape_a = BackShape::oval;
  BackShape shape_b = BackShape::d;
  double lean = 0;                    // −0.4 … 0.4: the thickest place moves towards the treble
  double fair_within = 0.2;           // measured sections: the surface may leave them by this much; 0 follows them
  bool symmetric = false;             // measured sections: the mean of both sides
  std::vector<BackSection> sections;  // measured; empty: the family of shapes
  friend bool operator==(const BackNumbers&, const BackNumbers&) = default;
};

struct HeelNumbers {
  HeelKind kind = HeelKind::block;
  double start = 66;        // length of the heel before the neck's end
  double thickness = 25.4;  // in all, board included
  double beyond = 0;        // neck beyond the board's end (through necks: to the tail)
  Transition transition = Transition::arc;
  double radius = 32;       // arc seen from the side
  double length = 60;       // of a curve
  double corner = 6.5;      // corners in plan, as the cutter of the body's pocket leaves them
  double tenon_width = 38;  // glued joint
  double tenon_length = 60;
  HeelHoles holes = HeelHoles::screws;
  double hole_diameter = 3.2;
  double hole_depth = 14;
  double hole_along = 38;   // between the two rows
  double hole_across = 36;  // between the holes of a row
  double hole_from_end = 14;
  friend bool operator==(const HeelNumbers&, const HeelNumbers&) = default;
};

struct RodNumbers {
  RodKind kind = RodKind::bar;
  double width = 6.35;
  double depth = 9;    // from the front; one piece: height of the rod
  double cover = 3.5;  // one piece: wood between rod and glue plane
  double start = 12;   // from the nut line
  double length = 420;
  bool round = false;  // the slot's floor is half a circle across, for a rod that is: cut by a ball of its width
  RodBottom bottom = RodBottom::straight;
  double sag = 1.5;  // curved: how much deeper at its middle
  RodEnd adjuster = RodEnd::head;
  double pocket_width = 9.5;
  double pocket_length = 24;
  double pocket_depth = 10;
  double access = 6;  // hole along the neck to the adjuster; 0: none
  int bars = 0;       // carbon bars, 0 or 2
  double bar_width = 3.175;
  double bar_depth = 6.35;
  double bar_offset = 13;  // from the centre line
  double bar_length = 380;
  friend bool operator==(const RodNumbers&, const RodNumbers&) = default;
};

/// Measured sizes of one tuner. The hardware list fills them in; the maker measures them again.
struct TunerNumbers {
  std::string name = "sealed-10";
  double hole = 10;        // through the head
  double post = 6;         // where the string winds
  double height = 10;      // of the winding over the head's face
  double step = 0;         // each further post is lower by this
  double body_along = 19;  // along the row, on the back
  double body_in = 9;      // from the post towards the middle of the head
  double edge = 13;        // post to the head's edge
  double pitch = 24.5;     // between posts
  double pilot = 1.6;
  double pilot_depth = 7;
  double pilot_along = 7.5;  // from the post, along the row and back
  double pilot_out = -7.5;   // from the post, outwards
  friend bool operator==(const TunerNumbers&, const TunerNumbers&) = default;
};
[[nodiscard]] const std::vector<TunerNumbers>& known_tuners();

struct HeadNumbers {
  HeadKind kind = HeadKind::flat;
  double drop = 9.5;            // flat: face under the glue plane
  double step_radius = 25;      // flat: of the curved step
  double angle_deg = 13;        // tilted
  double thickness = 14;        // square to its face, a veneer on it included
  double veneer = 0;            // glued on the face when it is cut; its edge is the nut slot's far wall
  double shelf = 6;             // level ground under the nut, from the nut line
  double transition = 42;       // length of the change from shaft to head on the back
  double transition_start = 8;  // from the nut line towards the bridge
  bool volute = false;
  double volute_height = 3;
  double volute_length = 46;
  bool scarf = false;  // tilted: two planks glued at a slant
  HeadShape shape = HeadShape::arched;
  int tuners_bass = 3;     // the rest stand on the treble side
  double first_post = 32;  // nut line to the first post
  double side_margin = 9;  // head beyond the outer string on a side without tuners
  double tip_margin = 17;  // beyond the last post
  double tip_rise = 7;
  double rounding = 5;
  bool string_bar = false;
  double string_bar_at = 18;     // from the nut line
  double string_bar_height = 3;  // of the string under it, over the face
  Polygon drawn;  // HeadShape::drawn: outline, x from the nut line (negative), y; closed towards the shaft
  friend bool operator==(const HeadNumbers&, const HeadNumbers&) = default;
};

struct NutNumbers {
  NutSeat seat = NutSeat::shelf;
  double thickness = 5;
  double depth = 2;  // of a slot under the glue plane
  friend bool operator==(const NutNumbers&, const NutNumbers&) = default;
};

struct Neck {
  NeckBuild build = NeckBuild::separate_board;
  NeckJoint joint = NeckJoint::bolted;
  BackNumbers back;
  HeelNumbers heel;
  RodNumbers rod;
  HeadNumbers head;
  TunerNumbers tuner;
  NutNumbers nut;
  double accent = 0;    // a strip of this thickness between neck and board; 0: none
  double side_dot = 2;  // diameter of side dots; 0: none
  std::string tuning;   // notes bass to treble, "E2 A2 D3 G3 B3 E4"; empty: the usual one
  friend bool operator==(const Neck&, const Neck&) = default;
};

/// Notes to frequencies in Hz, A4 = 440 (equal temperament, ISO 16). Refused with the note that is not understood.
[[nodiscard]] std::optional<std::vector<double>> note_frequencies(const std::string& notes);
/// The tuning in use: the given one where its number suits, else fourths from common practice by number of strings and
/// gauge.
[[nodiscard]] std::vector<double> tuning_in_use(const std::string& given, int count, double thinnest_gauge);

}  // namespace wren

// NeckShape: everything that follows from a Neck's numbers and its board: plan, front, back, rod, head, holes.
// Instrument frame: x towards the bridge, z out of the face, z = 0 on the glue plane; the back's depth is positive away
// from the strings. mm.
//
// The back is one function of the plan: the shaft's sections (a family, or a spline surface faired through measured
// ones), blended into the head's slab and the heel's block by fifth-degree steps whose first and second derivatives
// vanish at both ends, so that position, tangent and curvature go on everywhere inside the outline. Invariants (tested
// by number):
//  1. Symmetric sections give depth(x, y) == depth(x, −y) to the last bit where the board is symmetric.
//  2. Every hole, channel and tuner lies in the frame above; nothing here knows a machine.
#pragma once

#include <memory>

#include "core/instrument/fretboard.hpp"
#include "core/instrument/neck.hpp"
#include "core/skin/spline_surface.hpp"

namespace wren {

/// A flat-walled trough with round ends about the segment a → b, cut from the front or the back.
struct Channel {
  std::string id;  // "rod", "rod-pocket", "bar-1", "nut", "filler"
  std::string title;
  Vec2 a, b;  // middles of the end arcs
  double width = 0;
  Height floor;  // z
  bool from_back = false;
  bool round = false;  // its floor is half a circle across
  [[nodiscard]] bool holds(Vec2 p) const { return distance_to(p, {a, b}) <= width / 2; }
};

struct Hole {
  std::string id;  // "tuner-1", "pilot-1", "heel-1"
  Vec2 at;
  double diameter = 0;
  double depth = 0;       // under the back's surface there; 0: through
  double past_reach = 0;  // of it, what the machine's drill does not reach from the back
  double from_face = 0;   // how deep it is drilled from the glue face to meet that; 0: not at all
  [[nodiscard]] double from_back() const { return depth - past_reach; }
  [[nodiscard]] double by_hand() const { return from_face > 0 ? 0 : past_reach; }
  [[nodiscard]] bool through() const { return depth == 0 || from_face > 0; }
};

struct Tuner {
  int string = 0;  // from 1, bass first
  bool bass_side = false;
  Vec2 at;
  Vec2 along;             // of its row, unit, away from the nut
  Vec2 outward;           // unit, towards the head's edge
  double behind_nut = 0;  // along the string
  double winding_z = 0;
  double angle = 0;  // of the string over the nut, radians
  Polygon body;      // on the back
};

/// One given section against the surface.
struct SectionDeparture {
  double x = 0;
  double worst = 0;  // mm, square to the surface
  Vec2 at;           // plan
};

/// The worst lump: how far the back stands from what its neighbourhood 25 or 50 mm either way along the neck leads one
/// to expect.
struct Lump {
  double height = 0;  // mm, signed: positive stands out
  Vec2 at;
};

struct NeckShape {
  Neck given;
  std::shared_ptr<const Fretboard> board;  // with an accent strip under it as part of its thickness
  Contour outline;                         // exact, counter-clockwise
  Polygon corners;                         // flattened to 0.002 mm
  std::vector<Channel> channels;
  std::vector<Hole> holes;
  std::vector<Tuner> tuners;
  std::vector<SectionDeparture> departures;
  double end_x = 0;             // heel's end
  double tip_x = 0;             // head's tip
  double heel_x = 0;            // heel's block begins
  double heel_blend = 0;        // length of the change into it
  double head_blend_start = 0;  // distances behind the nut line
  double head_blend_end = 0;
  double rod_start = 0, rod_end = 0;

  /// Depth of the back under the glue plane, without holes and channels. Continuous to the second derivative inside the
  /// outline.
  [[nodiscard]] double depth(Vec2 p) const;
  /// z of the front without channels: glue plane or crowned board, shelf, step, face of the head.
  [[nodiscard]] double front(Vec2 p) const;
  /// Of the finished head: a veneer stands on the front behind its shelf, or where a flat head's step has come down.
  [[nodiscard]] double face(Vec2 p) const;
  [[nodiscard]] double finished_front(Vec2 p) const;
  [[nodiscard]] double finished_depth(Vec2 p) const;
  /// Distance behind the nut line, square to it; negative over the board.
  [[nodiscard]] double behind_nut(Vec2 p) const { return dot(p - nut_middle, head_way); }
  /// The shaft's own taper at x: middle and half width.
  struct Taper {
    double middle;
    double half;
  };
  [[nodiscard]] Taper taper(double x) const;
  /// Shaft thickness on the centre line under the glue plane, as given (before blending).
  [[nodiscard]] double shaft_depth(double x) const;
  /// The whole piece without channels and holes.
  [[nodiscard]] TwoSkin solid() const;
  /// The same with channels and holes taken off (steps inside the outline).
  [[nodiscard]] TwoSkin finished() const;
  /// Board and neck together on the centre line.
  [[nodiscard]] double whole_thickness(double x) const;
  [[nodiscard]] int nearest_fret(double x) const;
  [[nodiscard]] double fret_x(int n) const;

  double shaft_start = 0, shaft_slope = 0;  // shaft depth on the centre line: start + slope·x
  double shape_from = 0, shape_run = 1;     // where the two shapes' mix begins, and over what length
  Vec2 nut_middle;                          // on the centre line
  Vec2 head_way{-1, 0};                     // unit, square to the nut line, towards the head
  double low_slope = 0, high_slope = 0, low_nut = 0, high_nut = 0;  // the board's edges as lines y = nut + slope·x
  double half_head = 0;                                             // half width the sections widen to
  double middle_head = 0;
  bool measured_symmetric = false;
  SplineSurface measured;  // depth / sin φ over (x, φ) with y = middle + half·cos φ; empty for a family
};

/// Depth share of a family's section at s = (y − middle)/half in [−1, 1]: 1 at its deepest, 0 at the edges.
[[nodiscard]] double section_share(BackShape shape, double s, double lean);

/// Fifth-degree step from 0 to 1 over [0, 1] with vanishing first and second derivatives at both ends; 0 and 1 beyond.
[[nodiscard]] double smooth_step(double u);
/// Length over which that step must rise by `rise` so that its tightest place has the radius: √(10/√3 · radius ·
/// |rise|).
[[nodiscard]] double arc_length_of_step(double radius, double rise);

/// Reasons why measured sections cannot be used (cheap ones first): two points, backwards, crossing itself, outside the
/// neck, …
[[nodiscard]] std::vector<Problem> check_sections(const std::vector<BackSection>& sections, const NeckShape* neck);
constexpr std::size_t most_section_points = 20'000;
constexpr std::size_t most_sections = 400;

/// Refused with the ledger key as place where no neck follows.
[[nodiscard]] Expected<NeckShape> make_neck(const Fretboard& board, const Neck& neck);

/// Least distance between the channels cut from the front and the back's surface (or, one piece, the wood over the
/// rod), in space, and where. `shift` moves the back sideways and along against the front: the mismatch of turning
/// over.
struct Skin {
  double least = 1e9;
  Vec2 at;
  std::string channel;
};
[[nodiscard]] Skin least_skin(const NeckShape& neck, Vec2 shift = {});

[[nodiscard]] Lump worst_lump(const NeckShape& neck);

/// Principal curvatures' mean in 1/mm at a place of the back (positive: convex); for the curvature picture.
[[nodiscard]] double mean_curvature(const NeckShape& neck, Vec2 p);
/// Curvature along the neck (second derivative of depth), 1/mm: what the eye follows down the back; for map and comb.
[[nodiscard]] double along_curvature(const NeckShape& neck, Vec2 p);

}  // namespace wren

// The solid that is left of a piece once its sides are cut, and what holds it in its blank: read from the sides' wood.
// Instrument frame; mm.
#pragma once

#include "core/proof/piece.hpp"

namespace wren {

/// How far the last side's programs lie beside where they should: turned about the blank's middle, then shifted, in its
/// work frame.
struct Displaced {
  Vec3 by;
  double angle = 0;  // radians
};

/// Reads the wood of both sides at a place of the plan, in instrument z.
class Solid {
 public:
  Solid(const PieceRequest& request, const PieceResult& result, Displaced last = {})
      : request_(request), result_(result), last_(last) {}
  /// z of the wood's front face: what the front side left.
  [[nodiscard]] double front(Vec2 p) const { return read(0, p, request_.sides[0].setup.bed_z()); }
  /// z of the wood's back face.
  [[nodiscard]] double back(Vec2 p) const {
    if (request_.sides.size() == 1)
      return request_.sides[0].setup.bed_z() -
             request_.sides[0].setup.to_work.shift.z;  // its underside lies on the bed, uncut
    return -read(1, p, request_.sides[1].setup.bed_z() - 10);
  }
  /// Wood between them: what layers have lost before the glue-up is not counted.
  [[nodiscard]] double thickness(Vec2 p) const {
    const double high = front(p);
    const double low = back(p);
    return request_.stack && high > low ? request_.stack->wood_between(p, low, high) : high - low;
  }

 private:
  [[nodiscard]] double read(std::size_t side, Vec2 p, double none) const;
  const PieceRequest& request_;
  const PieceResult& result_;
  Displaced last_;
};

/// A run of wood that stands in the kerf.
struct Standing {
  Vec2 middle;
  double high = 0;  // at its highest
  double run = 0;
  std::vector<double> heights;  // every `kerf_step` mm along it
  /// The longest stretch that stands at least so high, mm.
  [[nodiscard]] double run_at(double height) const;
  /// How far it falls under that height between two places that stand so high, mm.
  [[nodiscard]] double deepest_notch(double height) const;
};
constexpr double kerf_step = 0.5;

constexpr double kerf_rim = 0.5;     // mm beside the outline: well within any outline cutter's kerf
constexpr double kerf_middle = 1.5;  // mm: near the middle of usual ones, where tabs are at their shortest

/// The same round any shape, inner corners left as round as `corner`.
bool walk_round(const Polygon& shape, double corner, const std::function<double(Vec2)>& thickness, double outside,
                std::vector<Standing>& out);

/// Runs of wood left standing in the kerf round the piece, `outside` mm beside its outline. True where more than half
/// of it is open.
bool walk_kerf(const PieceRequest& request, const Solid& solid, double outside, std::vector<Standing>& out);

/// The run that stands where a tab is to be, as its index; `standing.size()`: none. Those `used` are passed over.
[[nodiscard]] std::size_t run_of_tab(const std::vector<Standing>& standing, const TabDesign& tab,
                                     const std::vector<bool>& used);

/// The runs that are tabs: those that stand where one is to be; where none is designed, all that are high enough and no
/// longer than one.
[[nodiscard]] std::vector<Standing> tabs_of(const PieceRequest& request, const std::vector<Standing>& standing);

/// M10: every tab at its place, as thick and as long as designed up to 5 mm from the piece, half of that down to it,
/// and no other.
void hold_tabs(const PieceRequest& request, const Solid& solid, const std::vector<Standing>& standing,
               std::vector<Finding>& findings);

/// Windows that are open, plugs that their tabs hold: as the first side leaves them, since a hand takes the plugs out
/// before the piece is turned.
void hold_windows(const PieceRequest& request, const Solid& solid, std::vector<Finding>& findings);

/// Chambers that stay closed on both faces.
void hold_chambers(const PieceRequest& request, const Solid& solid, std::vector<Finding>& findings);

/// Wood over the rod at its thinnest, square to the surface.
struct RodSkin {
  double least = 1e9;
  double with_misfit = 1e9;  // the same, with the sides missing each other
  Vec2 at;
};
[[nodiscard]] RodSkin rod_skin(const PieceRequest& request, const Solid& solid);

/// The solid inside its outline at a pace of `pace` mm: volume, and its least thickness away from rim and holes, which
/// may lie `aside` mm from where they were designed.
struct SolidMeasures {
  double volume_mm3 = 0;
  double least = 1e9;
  Vec2 at;
};
[[nodiscard]] SolidMeasures measure_solid(const PieceRequest& request, const Solid& solid, double pace,
                                          double aside = 0);

}  // namespace wren

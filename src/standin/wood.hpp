// The stand-in's own wood: a block on the bed and every sweep of a cutter through it, kept as they were travelled. How
// high the wood stands is worked out where it is asked, from the sweeps that pass there: no grid, no rounding. mm, in
// the blank's own frame: its lower-left corner on the bed is the origin, z up from the bed.
#pragma once

#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

#include "standin/place.hpp"

namespace standin {

/// A cutter's shape below the collet nut: a disk, with its rim rounded or its tip pointed.
struct CutterShape {
  enum class Kind { flat, ball, nose, point, hollow } kind = Kind::flat;
  double radius = 1.5;
  double corner = 0;       // nose: of its rim; hollow: of the rounding it leaves on the wood
  double half_angle = 59;  // degrees, of a drill's point
  double length = 12;      // of its flutes
  double stickout = 20;    // from the nut
  /// Height of its surface over the tip at a distance from the axis; precondition 0 ≤ rho ≤ radius.
  [[nodiscard]] double over_tip(double rho) const;
};

class Wood {
 public:
  struct Block {
    double length = 0, width = 0, thickness = 0;  // along the machine's x and y, and up
    double x = 0, y = 0;                          // its lower-left corner, machine frame
  };
  /// A fresh block in place of whatever lay there.
  void lay(const Block& block);
  [[nodiscard]] bool there() const { return block_.length > 0; }
  [[nodiscard]] const Block& block() const { return block_; }
  /// Turned over about the machine's x axis or its y axis, and laid with its corner at a place.
  void turn(bool about_x, double x, double y);

  /// A cutter's tip went straight from `from` to `to` (blank's frame).
  void sweep(Place from, Place to, const CutterShape& cutter);
  /// As if somebody had cut a round of it down to a height by hand.
  void spoil(double x, double y, double radius, double height);

  /// Top and underside of the wood at a place; top ≤ bottom: there is none.
  [[nodiscard]] double top(double x, double y) const;
  [[nodiscard]] double bottom(double x, double y) const;

  /// The groove at a place, looked at square to `angle` (degrees from x): in a window of 0.01 mm cells.
  struct Groove {
    double width = 0, depth = 0;
    bool found = false;
  };
  [[nodiscard]] Groove groove(double x, double y, double angle, double reach = 8) const;

  [[nodiscard]] std::size_t sweeps() const { return sweeps_.size(); }
  /// All of it as lines of text, and back; false where the text is none.
  [[nodiscard]] std::string text() const;
  [[nodiscard]] bool from_text(const std::string& text);

 private:
  struct Sweep {
    Place from, to;
    std::uint16_t cutter = 0;
    bool below = false;  // it was cut from what is now the underside
  };
  void bin(std::uint32_t index);
  [[nodiscard]] static double low_over(const Sweep& s, const CutterShape& c, double x, double y);
  [[nodiscard]] std::uint16_t shape_of(const CutterShape& cutter);
  static constexpr double bin_size = 4;
  Block block_;
  std::vector<CutterShape> cutters_;
  std::vector<Sweep> sweeps_;
  std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> bins_;
};

}  // namespace standin

// Cutters and the rack they stand in. A cutter's tip is its lowest point on the axis; profile(ρ) is how far the cutting
// surface stands above the tip at distance ρ from the axis. Lengths in mm, angles in degrees where named so.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/report/problem.hpp"

namespace wren {

enum class CutterKind { flat, ball, round_nose, slot, drill, facing, round_over };
[[nodiscard]] const char* cutter_kind_name(CutterKind kind);
/// Which way the flutes carry the chips.
enum class Spiral { up, down, straight, compression };

struct Cutter {
  std::string id;  // stable, e.g. "flat-3.175"
  int number = 0;  // T word
  CutterKind kind = CutterKind::flat;
  double diameter = 3.175;         // nominal
  std::optional<double> measured;  // measured diameter; used in place of the nominal one
  double corner_radius =
      0;  // round nose; of a round-over the radius it leaves on the wood; a ball's is half its diameter
  double point_angle_deg = 118;  // drill only
  int flutes = 2;
  double cutting_length = 12;
  double overall = 38;
  double stickout = 20;        // from the collet nut to the tip
  double nut_diameter = 20;    // collet nut
  double modulus_gpa = 600;    // carbide
  bool centre_cutting = true;  // has an edge to its centre: may go straight down a little
  Spiral spiral = Spiral::up;
  std::optional<double> shank_diameter;  // above the flutes; not given: the cutter's own, at least 3.175
  std::optional<double> collet;          // that holds its shank; not given: as wide as the shank
  bool lengths_measured = false;         // cutting length and stickout were measured, not taken from the packet
  friend bool operator==(const Cutter&, const Cutter&) = default;

  [[nodiscard]] double effective_diameter() const { return measured.value_or(diameter); }
  [[nodiscard]] double shank() const {
    return shank_diameter.value_or(effective_diameter() > 3.175 ? effective_diameter() : 3.175);
  }
  [[nodiscard]] double collet_in_use() const { return collet.value_or(shank()); }
  [[nodiscard]] double radius() const { return effective_diameter() / 2; }
  /// Radius of the flat part of the bottom: the whole radius for flat cutters, 0 for a ball or drill.
  [[nodiscard]] double flat_radius() const;
  /// Radius of the rounded corner: 0 for flat cutters, the radius for a ball.
  [[nodiscard]] double rounding() const;
  [[nodiscard]] double profile(double rho) const;  // precondition 0 ≤ rho ≤ radius()
};

using Rack = std::vector<Cutter>;

/// The rack a new project starts with: the shop's.
[[nodiscard]] Rack default_rack();

/// Problems of a cutter as data (diameter, lengths, flutes), cheap ones first; empty when it is sound.
[[nodiscard]] std::vector<Problem> check_cutter(const Cutter& cutter);

[[nodiscard]] const Cutter* find_cutter(const Rack& rack, const std::string& id);

/// What to do about an identity that is not in the rack: names what is there.
[[nodiscard]] Problem missing_cutter(const Rack& rack, const std::string& id, const std::string& key);

}  // namespace wren

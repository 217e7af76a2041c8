// The set-up of the instrument: where the saddles come to stand, how deep the neck pocket is and how far it tilts.
// Plane trigonometry on the centre line (docs/formulas.md); instrument and body frames as in their headers. mm,
// radians.
//
// With the heel's end corner H = (x_h, −D) in the instrument frame (D: heel under the glue plane), the face's unit
// normal n = (sin θ, cos θ) seen from there, and the pocket d deep at H, a saddle at S stands over the face by
//     h = (S − H)·n − d.
// Tilt given: d follows. Depth given: R·sin(θ + φ) = h + d with R = |S − H|, φ its slope over the glue plane, so θ =
// asin((h + d)/R) − φ.
#pragma once

#include "core/instrument/body.hpp"
#include "core/instrument/neck_shape.hpp"

namespace wren {

/// The heel as it counts for the pocket: measured where it was measured.
struct HeelInUse {
  double end_x = 0;  // instrument
  double width = 0;  // at its end
  double designed_width = 0;
  double length = 0;  // of the flat
  double in_all = 0;  // thickness, board included
  double board = 0;   // thickness of the board in use, an accent strip under it included
  double accent = 0;  // of that strip
  bool measured = false;
  PocketFrom from = PocketFrom::measured_heel;
  [[nodiscard]] double under() const { return in_all - board; }  // glue plane to the heel's flat
};

/// The rigid move between the frames, in the x–z plane: y is the same in both.
struct BodyFrame {
  double tilt = 0;
  Vec2 heel;         // H, instrument x and z
  double depth = 0;  // of the pocket at H
  [[nodiscard]] Vec3 to_body(Vec3 instrument) const;
  [[nodiscard]] Vec3 to_instrument(Vec3 body) const;
};

struct SaddlePlace {
  int string = 0;           // from 1, bass first
  Vec3 scale_point;         // body frame: on the scale line, at the height for the action wanted
  double height = 0;        // over the face, at the action wanted
  double compensation = 0;  // behind the scale line
  double flat_height = 0;   // over the face with the string flat on the frets
  double up = 0;            // travel left upwards and downwards at the action wanted
  double down = 0;
  double back = 0;  // travel left along the string from the compensated place
  double ahead = 0;
  double break_angle = 0;  // behind the saddle
};

struct BodySetup {
  BodyFrame frame;
  double tilt = 0;
  double depth_end = 0;        // of the pocket's floor under the face at the heel's end
  double depth_edge = 0;       // at the edge that the neck enters by
  double board_over_face = 0;  // underside of the board over the face at that edge
  double board_end_over_face = 0;
  std::vector<SaddlePlace> saddles;
  Vec2 bridge_middle;  // body plan: on the scale line, midway between the outer strings
  Vec2 bridge_across;  // unit, from bass to treble along the scale line
  double least_up = 0, least_down = 0;

  /// Height of a string's underside over the face at body x (between nut and saddle). `string` from 1.
  [[nodiscard]] double string_over_face(int string, double body_x) const;
  /// A string's place in the body plan at a share of its length from the saddle (0) to the nut (1).
  [[nodiscard]] Vec2 string_at(int string, double share) const;
  std::vector<std::pair<Vec3, Vec3>> strings;  // body frame: nut, saddle (undersides)
};

/// String over fret at each fret (0 … count) for a string, at the action wanted; mm.
[[nodiscard]] std::vector<double> string_over_frets(const Fretboard& board, const SetupNumbers& setup, int string);

/// Refused with the ledger key where no tilt or depth follows from the numbers.
[[nodiscard]] Expected<BodySetup> work_out_setup(const Fretboard& board, const HeelInUse& heel, const Body& body);

}  // namespace wren

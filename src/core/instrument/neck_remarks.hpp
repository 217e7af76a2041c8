// The judgement of a neck's own numbers, before any machine is chosen; and the scarf of a tilted head.
#pragma once

#include <vector>

#include "core/instrument/neck_shape.hpp"
#include "core/report/remark.hpp"

namespace wren {

/// Limits that are common practice, each with its reason beside it. mm and degrees.
namespace practice {
constexpr double skin_least = 3.0;  // wood between rod and back
constexpr double head_thin = 12.0;  // head's thickness
constexpr double head_thick = 15.5;
constexpr double nut_angle_least = 4.0;  // degrees: less and the string rattles in its slot
constexpr double nut_angle_most = 22.0;  // more and it binds
constexpr double tilt_most = 18.0;       // more and the head is weak and wants a very thick blank
constexpr double hole_to_edge = 3.0;     // wood beside a tuner's hole
constexpr double tuner_gap = 0.3;        // between bodies
constexpr double heel_hole_skin = 3.0;   // wood under a screw pilot
constexpr double lump_seen = 0.12;       // a hand feels it
}  // namespace practice

[[nodiscard]] std::vector<Remark> neck_remarks(const NeckShape& neck);

/// A scarf: the plank is sawn at the head's angle, the cut-off turned over and glued under the shaft's end.
struct Scarf {
  double plank = 0;         // thickness of the plank
  double face = 0;          // length of the sawn face: plank / sin(angle)
  double line = 0;          // where the joint meets the front, behind the nut line
  double head_length = 0;   // of the head piece, along its face, with the slanted end
  double shaft_length = 0;  // of the shaft piece, with the slanted end
  double plank_length = 0;  // one straight plank that gives both, without saw kerf
  double angle_deg = 0;
  double head_thickness = 0;  // the head piece is planed to this
};
[[nodiscard]] Scarf scarf_of(const NeckShape& neck, double plank);

}  // namespace wren

// A set-up: one part on one blank on the machine, as one rigid transform instrument → work, with the jog distances that
// find the work zero from centre ticks. Work frame: origin at the work zero on top of the blank, axes along the
// machine's.
#pragma once

#include <array>
#include <optional>

#include "core/report/remark.hpp"
#include "core/skin/two_skin.hpp"
#include "core/workshop/cutter.hpp"
#include "core/workshop/machine.hpp"

namespace wren {

/// Which way a piece was turned over. Its *side frame* is the instrument frame turned with it: about its length y and z
/// change sign, about its width x and z do. Strands of a set-up are planned in its side frame, where "up" is always +z.
enum class Turn { none, about_length, about_width };
[[nodiscard]] constexpr Vec2 turned(Turn turn, Vec2 p) {
  return turn == Turn::about_length ? Vec2{p.x, -p.y} : turn == Turn::about_width ? Vec2{-p.x, p.y} : p;
}
[[nodiscard]] constexpr double turned_z(Turn turn, double z) { return turn == Turn::none ? z : -z; }
/// A polygon turned over, counter-clockwise again.
[[nodiscard]] Polygon turned(Turn turn, const Polygon& polygon);
[[nodiscard]] Contour turned(Turn turn, const Contour& contour);
/// Rings of a region; a hole turned over is a hole again.
[[nodiscard]] std::vector<Polygon> turned(Turn turn, const std::vector<Polygon>& region);

/// A turn about z by 0 or 90° and a shift: p_work = R·p_side + shift.
struct Transform {
  bool quarter = false;  // x_work = −y, y_work = x
  Vec3 shift;
  [[nodiscard]] Vec2 apply(Vec2 p) const {
    return quarter ? Vec2{-p.y + shift.x, p.x + shift.y} : Vec2{p.x + shift.x, p.y + shift.y};
  }
  [[nodiscard]] Vec2 back(Vec2 p) const {
    return quarter ? Vec2{p.y - shift.y, -(p.x - shift.x)} : Vec2{p.x - shift.x, p.y - shift.y};
  }
  [[nodiscard]] double apply_z(double z) const { return z + shift.z; }
};

struct Jog {
  std::string what;  // for the run sheet: "From home to the crossed lines"
  double x = 0;
  double y = 0;
};

/// A hole in the waste board that a program may go down into: pins stand there. Work frame.
struct BedHole {
  Vec2 at;
  double radius = 0;
  double depth = 0;
};

/// A top that rises and falls along one direction: height (y) over distance (x) along the unit vector, straight between
/// the points. Side frame.
struct TopProfile {
  Vec2 along{1, 0};
  std::vector<Vec2> points;
  [[nodiscard]] double at(Vec2 p) const;
};

/// What finds the place of wood that comes back onto the machine: something that was cut into it or marked on it
/// before. `first`: it lies there for the first time, and nothing has to be found.
enum class RegisterKind { first, pins, ears, hole, lines, fence };
[[nodiscard]] const char* register_id(RegisterKind kind);    // "pins", for manifests
[[nodiscard]] const char* register_name(RegisterKind kind);  // "two pins", for sheets and manifests

/// The register that a set-up's wood is found by, and how far it may miss what was cut before: at most, along the
/// machine's axes in mm, and turned in radians.
struct Register {
  RegisterKind kind = RegisterKind::first;
  Vec2 shift;
  double angle = 0;
  Words reason;
  /// The two errors added up at a place so far from the blank's middle (machine's axes).
  [[nodiscard]] double worst_at(Vec2 from_middle) const { return length(shift) + angle * length(from_middle); }
  friend bool operator==(const Register&, const Register&) = default;
};
/// Of the greatest misplacement, what is likely: readings and plays seldom all lie at their ends (common practice).
constexpr double likely_register = 0.5;

struct Setup {
  Machine machine;
  Blank blank;
  Turn turn = Turn::none;
  Transform to_work;     // from the side frame
  Vec3 blank_corner;     // lower-left corner of the blank's top, work frame (0, 0, 0 with the zero at the corner)
  Vec2 blank_size;       // along the machine's x and y
  Vec3 zero_in_machine;  // work zero with the tick alignment, machine frame: x, y from home; z of the blank's top over
                         // the waste board
  Vec3 board_low;        // bounding box of the part in the work frame, without cutters
  Vec3 board_high;
  std::vector<Jog> jogs;
  Height wood_top;                        // side frame; empty: the blank's top is flat
  std::optional<TopProfile> top_profile;  // the same in words that a manifest can carry
  Polygon top_island;                     // side frame: wood stands inside at the blank's top, none beside it
  std::vector<BedHole> bed_holes;
  /// Something solid on the bed, in the work frame; z from the waste board to its top.
  struct Box {
    std::string name;
    Vec3 low;
    Vec3 high;
    bool beside = false;  // nothing has to pass over it: what moves stays away from its place altogether
  };
  std::vector<Box> standing;  // beside the clamps: fence, pins that stand proud
  /// Where z is probed, at the start and at every change of cutter, and what is met there: the blank's top (z = 0) or
  /// the bare waste board (z = bed_z()). Work frame; nothing: nobody has said.
  struct Probe {
    Vec2 at;
    bool on_board = false;
    friend bool operator==(const Probe&, const Probe&) = default;
  };
  std::optional<Probe> probe;
  Register found_by;

  /// 4 × 4, row-major: instrument → work, the turn included.
  [[nodiscard]] std::array<double, 16> matrix() const;
  /// Top of the untouched wood at a place, work frame (0 for a flat blank).
  [[nodiscard]] double untouched(Vec2 work) const {
    return wood_top ? to_work.apply_z(wood_top(to_work.back(work))) : 0.0;
  }

  [[nodiscard]] double bed_z() const { return -blank.thickness; }  // waste board in the work frame
  [[nodiscard]] std::vector<Box> clamp_boxes() const;
  /// Everything that no cutter, nut or nose may meet: clamps and what else stands there.
  [[nodiscard]] std::vector<Box> solids() const;
};

/// Puts the side frame's point `middle` at `at` in the work frame, the blank about it, and the blank's top (side z) at
/// work z = 0.
void place_blank(Setup& setup, Vec2 middle, Vec2 at, double top_z);

/// Centres the outline (instrument frame, exact bounds) on the blank. The underside of the part lies on the waste
/// board.
[[nodiscard]] Setup make_setup(const Machine& machine, const Blank& blank, const Polygon& outline_instrument);

/// What the wood and the bed say about the part: blank too short, narrow or thin, machine too short, a clamp on the
/// part. `beside` mm is the room the widest outline cutter needs outside the part.
[[nodiscard]] std::vector<Remark> setup_remarks(const Setup& setup, double part_thickness, double beside);

/// Height of the collet nut and z travel: can this cutter's tip be lifted to `clear` above the blank and lowered to
/// `deepest` (work z)?
[[nodiscard]] std::optional<Remark> z_travel_remark(const Setup& setup, const Cutter& cutter, double clear,
                                                    double deepest);

}  // namespace wren

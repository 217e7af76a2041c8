// Alignment of a blank that is turned over: three schools, the set-ups of both sides, and how far the sides may miss
// each other. Lengths mm. Work axes are the machine's; the blank's middle lies at the middle of the work area for ticks
// and pins.
#pragma once

#include <string>
#include <vector>

#include "core/workshop/setup.hpp"

namespace wren {

enum class School { ticks, pins, fence };
/// What the pins are: ground steel, dowels sanded until they slip, or what was measured (pin_play).
enum class PinKind { ground, sanded, measured };
constexpr double ground_play = 0.015;  // hole over pin, in diameter (H7 on m6, ISO 286-2: at most 0.011 for 8 mm; bored
                                       // holes are a little worse)
constexpr double sanded_play = 0.15;   // common practice

struct AlignmentNumbers {
  School school = School::pins;
  Turn turn = Turn::about_length;
  double tick_error = 0.25;  // reading a tick against a line (common practice: 0.2 to 0.3)
  double pin_diameter = 8;
  double pin_inset = 11;  // from the blank's ends, along its length
  double pin_offset = 7;  // of the second pin, across: makes the wrong way round impossible
  double pin_depth = 8;   // into the waste board
  PinKind pins = PinKind::ground;
  double pin_play = ground_play;  // as measured: hole over pin, in diameter
  double square_error = 0.1;      // blank out of square or parallel, per 100 mm (fence, ticks' marks)
  double fence_x = 100;           // corner of the fence, machine frame
  double fence_y = 100;
  double fence_height = 15;  // over the waste board
  double pin_length = 0;     // 0: they end under the blank's top
  [[nodiscard]] double play() const {
    return pins == PinKind::ground ? ground_play : pins == PinKind::sanded ? sanded_play : pin_play;
  }
  friend bool operator==(const AlignmentNumbers&, const AlignmentNumbers&) = default;
};

/// Pins in the blank, as drilled with its front up. Instrument frame; the first is the work zero of the school of pins.
struct PinPlan {
  Vec2 first, second;
};
[[nodiscard]] PinPlan pin_plan(const Blank& blank, const AlignmentNumbers& a, Vec2 blank_middle);

/// The set-up of one side. `blank_middle` in the instrument frame; `top_z` is the instrument z of the face that is up.
[[nodiscard]] Setup side_setup(const Machine& machine, const Blank& blank, const AlignmentNumbers& a, Vec2 blank_middle,
                               Turn turn, double top_z);

/// Holes the waste board needs for both sides, work frame of the first (the same zero holds for the second).
[[nodiscard]] std::vector<BedHole> waste_board_holes(const Setup& front, const Setup& back, const PinPlan& pins,
                                                     const AlignmentNumbers& a);

/// Largest expected misfit of the second side against the first: a shift and a turn about the blank's middle.
struct RegisterError {
  Vec2 shift;        // along and across the neck
  double angle = 0;  // radians
  Words reason;
  /// At a place (distances from the blank's middle, instrument axes): the two errors added up, mm.
  [[nodiscard]] double at(Vec2 from_middle) const { return length(shift) + angle * length(from_middle); }
};
[[nodiscard]] RegisterError expected_error(const Blank& blank, const AlignmentNumbers& a);
/// The same as a set-up's register, along the machine's axes; of the school's own kind, or of ears that carry it.
[[nodiscard]] Register register_of(const Blank& blank, const AlignmentNumbers& a, bool ears = false);
/// "Its place is found by two pins: likely within 0.04 mm, at worst 0.09 mm off at the blank's ends (…)."
[[nodiscard]] Words register_words(const Setup& setup);

/// How a blank comes to its place: for the first time (its pin holes are bored where it lies), again onto pins that
/// stand, or turned over.
enum class Seating { first, again, turned };

/// What to do at the bench for one side, in order, with the exact distances.
[[nodiscard]] std::vector<Words> alignment_steps(const Setup& setup, const AlignmentNumbers& a, Seating seating);

/// What a hand does between the pins' holes and everything else.
constexpr const char* set_the_pins = "Push the pins through the blank into the waste board, then fix the blank anew";

[[nodiscard]] const char* school_name(School school);

/// Where a placement's zero is, for a header: "first pin's hole, z = 0 on top of the blank". `place` "": the blank's
/// own.
[[nodiscard]] std::string zero_words(const Blank& blank, const std::string& place);
[[nodiscard]] std::string zero_place(School school);
/// How it lies, for a manifest: "front side up, two pins".
[[nodiscard]] std::string seat_words(const Setup& setup, const std::string& how);
/// What the bare waste board is: a set-up with z = 0 on the board itself and no blank on it.
[[nodiscard]] Setup bare_board(Setup setup);

}  // namespace wren

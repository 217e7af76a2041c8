// The machine and the piece of wood on the machine. Lengths in mm, speeds in mm/min, accelerations in
// mm/s².
#pragma once

#include <string>
#include <vector>

#include "core/plan/geometry.hpp"
#include "core/workshop/material.hpp"

namespace wren {

enum class CutterChange { by_hand, magazine };

/// What the P of a G4 counts.
enum class DwellUnit { seconds, milliseconds };

/// Words that the machine's controller knows beyond the plain ones. Others are not written, and not let pass.
struct Controller {
  bool machine_moves = true;     // G53
  bool tool_lengths = true;      // G43 H
  bool exact_path = true;        // G61
  bool blend_tolerance = false;  // G64 P
  bool arcs = true;              // G2, G3
  bool cycles = true;            // G73, G81 to G83
  bool air = false;              // M7, M8 switch an air blast, and no coolant
  DwellUnit dwell = DwellUnit::seconds;
  friend bool operator==(const Controller&, const Controller&) = default;
};

/// Machine frame: origin at home, x and y run from 0 to the travels over the bed, z from 0 (home, top) down to
/// −travel.z.
struct Machine {
  std::string name = "Shop router 700 × 1000";
  Vec3 travel{700, 1000, 100};
  Vec3 max_feed{3000, 3000, 1500};
  double acceleration = 500;
  double rapid = 5000;        // mm/min, for the time estimate
  double spindle_low = 8000;  // 1/min
  double spindle_high = 24000;
  double clear_under_nut = 110;  // from the waste board's top to the collet nut's underside with z at home
  double spindle_power = 800;    // W
  double runout = 0.01;          // mm, how much a slot grows on each side beyond the cutter
  CutterChange change = CutterChange::by_hand;
  Vec2 park{350, 990};        // machine frame: where a hand reaches work and spindle
  double nose_diameter = 60;  // spindle nose over the collet nut
  double nose_above = 30;     // from the nut's underside up to the nose's
  double shoe_diameter = 0;   // of the dust shoe's body about the spindle; its brush may touch. 0: none
  double shoe_above = 10;     // from the nut's underside up to that of the shoe's body
  // How far off what is found by hand may be, at most; mm, common practice.
  double probe_error = 0.03;      // of z
  double zero_error = 0.15;       // of x and y
  double thickness_error = 0.05;  // of a blank as measured
  Controller controller;
  friend bool operator==(const Machine&, const Machine&) = default;
};

/// Keep-out box of a clamp. Blank frame: x, y from the blank's lower-left corner along the machine's axes, z from the
/// waste board.
struct Clamp {
  std::string name;
  Vec2 low;
  Vec2 high;
  double height = 0;
  friend bool operator==(const Clamp&, const Clamp&) = default;
};

enum class Lie { along_x, along_y };      // the board's length on the machine
enum class ZeroPlace { corner, centre };  // lower-left top corner of the blank, or the middle of its top

struct Blank {
  double length = 510;  // measured, along the board
  double width = 75;
  double thickness = 6.6;
  std::string wood = "pear";
  Lie lie = Lie::along_x;
  ZeroPlace zero = ZeroPlace::corner;
  std::vector<Clamp> clamps;
  friend bool operator==(const Blank&, const Blank&) = default;
};

}  // namespace wren

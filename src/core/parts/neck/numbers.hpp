// The neck's numbers: its shape, its blank, and how it is cut from both sides. Plain values; lengths mm.
#pragma once

#include "core/workshop/strips.hpp"
#include "core/document/project.hpp"
#include "core/instrument/neck.hpp"
#include "core/workshop/alignment.hpp"

namespace wren {

[[nodiscard]] Blank usual_neck_blank();

enum class Holding { frame, cradle };  // once the front is no longer flat

/// Holes deeper than the drill reaches: not at all; begun by the machine and drilled on by hand; or, where a glued
/// board covers them, drilled from the glue face too until both meet.
enum class DeepHoles { by_machine, finish_by_hand, both_sides };

/// How the neck is cut from both sides: the maker's choices.
struct NeckWork {
  Blank blank = usual_neck_blank();
  StripStack strips{};     // from the bass edge; empty: one piece
  double over_across = 0;  // the neck slid over its blank, towards the treble side
  double plank = 22;       // scarfed head: thickness of the plank
  AlignmentNumbers alignment;
  Holding holding = Holding::frame;
  std::string accent_wood = "walnut";  // of the strip between neck and board
  std::string veneer_wood = "pear";    // of the head's veneer
  std::string channel_cutter = "flat-6.35";
  std::string rod_cutter = "ball-6.35";    // a rod slot with a round floor
  std::string fine_cutter = "flat-3.175";  // bars, nut slot
  std::string face_cutter = "ball-6.35";   // step and face of the head
  DeepHoles deep_holes = DeepHoles::by_machine;
  std::string pilot_drill = "drill-1.6";
  std::string heel_drill = "drill-3.2";
  std::string hole_cutter = "flat-6.35";      // tuner holes, bored by a helix
  std::string pin_cutter = "flat-6.35-long";  // pin holes, through the whole blank
  std::string rough_cutter = "flat-6.35";
  std::string finish_cutter = "ball-6.35";
  std::string edge_cutter = "flat-6.35";  // steep sides by levels
  std::string outline_cutter = "flat-6.35";
  double scallop = 0.01;
  double rough_leave = 0.5;
  double skim = 0.25;
  double sand_back = 0;  // left standing for sanding, by surface
  double sand_face = 0;
  double sand_sides = 0;
  double web = 1.2;   // thin floor of the trough round the neck, until the outline is cut
  double frame = 7;   // least width of the waste frame
  int side_tabs = 2;  // on either side
  bool end_tabs = true;
  double tab_length = 9;
  double tab_height = 2.6;
  double through = 0.2;
  double cradle_clearance = 0.3;
  double cradle_thickness = 18;
  friend bool operator==(const NeckWork&, const NeckWork&) = default;
};

struct NeckNumbers {
  static constexpr const char* part = "neck";
  Neck neck;
  NeckWork work;
  [[nodiscard]] std::size_t drawn_bytes() const {
    std::size_t points = neck.head.drawn.size();
    for (const BackSection& s : neck.back.sections) points += s.points.size();
    return points * sizeof(Vec2);
  }
  friend bool operator==(const NeckNumbers&, const NeckNumbers&) = default;
};

/// The neck's numbers of a project, to read or to change.
[[nodiscard]] inline const NeckNumbers& neck_of(const Project& p) { return p.parts.of<NeckNumbers>(); }
[[nodiscard]] inline NeckNumbers& neck_of(Project& p) { return p.parts.of<NeckNumbers>(); }

}  // namespace wren

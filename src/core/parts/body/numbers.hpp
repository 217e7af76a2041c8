// The body's numbers: its shape, its blanks, and how it is cut layer by layer. Plain values; lengths mm.
#pragma once

#include "core/document/project.hpp"
#include "core/instrument/body.hpp"
#include "core/workshop/strips.hpp"
#include "core/workshop/alignment.hpp"

namespace wren {

enum class OutlineSchool {
  full,
  halves,
  guide
};  // in one go from the back; half from either side; a groove, the band saw, a last skim
enum class EarsOff { by_hand, by_machine };  // how the ears go, last of all
/// What an oversize top finds its place by when it is glued on, once it is out of its frame.
enum class TopRegister { ears, holes, lines };
/// When the outline is cut: last of all, or first, the body held by tabs from then on.
enum class OutlineWhen { last, first };
/// The bridge's own holes and the strings': with the body, or once the neck is on and shows where they belong.
enum class BridgeHoles { with_body, held_back };
enum class GrainWay {
  one_way,
  thin,
  safer
};  // one direction throughout; a thin last skim where the cut runs against the grain; each span in its safer direction

[[nodiscard]] AlignmentNumbers usual_body_alignment();

/// How the body is cut, layer by layer and from both sides: the maker's choices.
struct BodyWork {
  double blank_length = 470;  // of every layer and of the glued body, measured
  double blank_width = 360;
  double over_along = 0;  // the outline slid over its blank: towards the tail, and towards the treble side
  double over_across = 0;
  double over_turn = 0;  // degrees: the outline turned over the strips of its blank, the tail towards the treble side
  std::vector<StripStack> strips{};  // by layer; what is not there is one piece
  double face_off = 0;               // blank thicker than wanted: faced off the face
  double back_off = 0;               // and off the back, once the body is turned
  Lie lie = Lie::along_x;
  std::vector<Clamp> clamps;
  AlignmentNumbers alignment = usual_body_alignment();
  std::string clear_cutter = "flat-6.35";
  std::string deep_cutter = "flat-6.35-long";  // where the first one does not reach
  std::string fine_cutter = "flat-3.175";      // corners, slots, the edges of sloping floors
  std::string facing_cutter = "facing-38";
  std::string rough_cutter = "flat-6.35";
  std::string finish_cutter = "ball-6.35";
  std::string round_cutter = "round-over-3";
  std::string outline_cutter = "flat-6.35";
  double step = 0.35;  // wood beside the cutter, of its diameter
  double wall_skim = 0.2;
  double floor_skim = 0.15;
  double scallop = 0.03;
  double rough_leave = 0.5;
  OutlineSchool outline = OutlineSchool::halves;
  OutlineWhen outline_when = OutlineWhen::last;
  double first_tab_length = 18;  // of tabs that hold the body while the rest is cut
  double first_tab_height = 6;
  BridgeHoles bridge_holes = BridgeHoles::with_body;
  double line_error = 0.3;                 // of setting the finished body by its centre line and scale line
  std::string floor_cutter = "ball-6.35";  // rounds the edges of floors
  double sample_thickness = 18;            // of the scrap that a heel's sample is cut from
  double guide_wood = 20;                  // thickness of the jack's guide
  double guide_depth = 3.2;
  double guide_leave = 2;  // left by the band saw
  double ear_width = 30;
  EarsOff ears_off = EarsOff::by_hand;
  double skim = 0.25;
  GrainWay grain = GrainWay::thin;
  double thin_skim = 0.1;
  int tabs = 4;
  double tab_length = 10;
  double tab_height = 3;
  double through = 0.2;
  double top_oversize = 0;  // a glued-on top cut this much larger first, then flush; 0: whole blanks are glued
  TopRegister top_register = TopRegister::ears;
  double register_hole = 2;  // through top and layer, in wood that goes
  bool plugs = true;         // a window through a layer is cut round, its plug held by tabs; else cleared away
  double peck = 4;
  std::string plate_wood = "acrylic";
  std::string cover_wood = "ash";
  double cover_margin = 14;  // of the cover's blank
  friend bool operator==(const BodyWork&, const BodyWork&) = default;
};

struct BodyNumbers {
  static constexpr const char* part = "body";
  Body body = usual_body();
  BodyWork work;
  [[nodiscard]] std::size_t drawn_bytes() const {
    std::size_t nodes = body.outline.drawn.size();
    for (const DrawnCavity& d : body.drawn) nodes += d.outline.size();
    std::size_t points = 0;
    for (const ComfortNumbers::Line& l : body.comfort.lines) points += l.points.size();
    return nodes * sizeof(PathNode) + body.holes.size() * sizeof(DrawnHole) + points * sizeof(Vec2);
  }
  friend bool operator==(const BodyNumbers&, const BodyNumbers&) = default;
};

/// The body's numbers of a project, to read or to change.
[[nodiscard]] inline const BodyNumbers& body_of(const Project& p) { return p.parts.of<BodyNumbers>(); }
[[nodiscard]] inline BodyNumbers& body_of(Project& p) { return p.parts.of<BodyNumbers>(); }

}  // namespace wren

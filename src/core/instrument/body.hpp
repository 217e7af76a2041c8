// Body: the numbers a maker gives for outline, layers, set-up, hardware, cavities, comfort and covers. Plain values,
// comparable, lengths in mm, angles in degrees where named so.
//
// Body frame: x along the body's centre line towards the tail, y as in the instrument frame, z out of the face with z =
// 0 on the flat face; x agrees with the instrument's where the heel ends. A neck pocket without tilt makes both frames
// parallel.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/plan/path.hpp"

namespace wren {

enum class BodyForm { two_horns, one_horn, leaning, drawn };

struct OutlineNumbers {
  BodyForm form = BodyForm::two_horns;
  double lower_width = 330;
  double waist_width = 226;
  double upper_width = 276;
  double tail = 112;      // behind the scale line, on the centre line
  double horn_bass = 80;  // ahead of the edge that the neck enters by
  double horn_treble = 46;
  double pocket = 58;  // from that edge to the heel's end
  Path drawn;          // BodyForm::drawn; body frame, counter-clockwise
  friend bool operator==(const OutlineNumbers&, const OutlineNumbers&) = default;
};

struct BodyLayer {
  std::string name;
  double thickness = 0;
  std::string wood;
  friend bool operator==(const BodyLayer&, const BodyLayer&) = default;
};
constexpr std::size_t most_layers = 6;

enum class SetupSchool {
  action,
  flat
};  // to the action wanted, or strings flat on the frets with the saddles at their lowest
enum class PocketFollows { tilt, depth };  // which one is worked out from the bridge
/// What the pocket is cut to: the neck's heel as measured, its numbers alone, or a sample of it cut in scrap and tried.
enum class PocketFrom { measured_heel, numbers, sample };

struct SetupNumbers {
  SetupSchool school = SetupSchool::action;
  PocketFollows follows = PocketFollows::tilt;
  double depth = 16;         // at the heel's end, from the face; given where the tilt follows
  double tilt_deg = 0;       // given where the depth follows
  double action_bass = 2.0;  // string over fret at fret 12
  double action_treble = 1.6;
  double nut_clear = 0.35;  // string over the line of the frets' tops at the nut; 0 with a zero fret
  double reserve = 1.0;     // school of action: how far over its lowest the lowest saddle stands
  double fit = 0.1;         // pocket wider than the heel, each side
  double finish = 0.05;     // room for the finish, each side and under the heel
  PocketFrom from = PocketFrom::measured_heel;
  double bolt_hole = 4.5;      // through the body for a bolted neck; 0: none
  double bolt_sink = 14;       // ring or plate sunk from the back: diameter
  double bolt_sink_depth = 0;  // 0: none
  friend bool operator==(const SetupNumbers&, const SetupNumbers&) = default;
};

enum class BridgeKind { posts, plate, pieces };

/// Measured sizes of one bridge. Heights are of the saddles' tops over the face.
struct BridgeNumbers {
  std::string name = "posts-74";
  BridgeKind kind = BridgeKind::posts;
  double low = 15.5;
  double high = 24;
  double travel = 8;             // of a saddle along its string
  double forward = 1;            // how far ahead of the scale line the saddles can go
  double compensation_bass = 4;  // behind the scale line (common practice)
  double compensation_treble = 1.6;
  double post_spacing = 74;   // across the strings
  double post_behind = 3;     // behind the scale line
  double post_diameter = 11;  // of the threaded insert
  double post_depth = 26;
  double plate_length = 42;  // along the strings
  double plate_width = 84;
  double plate_ahead = 14;      // ahead of the scale line
  int screws = 3;               // in a row across the strings, at the plate's far edge
  double screw_diameter = 2.8;  // pilot
  double screw_depth = 14;
  double screw_behind = 20;     // behind the scale line
  double anchor_behind = 22;    // where the strings turn down or end
  double anchor_height = 10;    // over the face
  bool string_through = false;  // straight row of holes through the body at the anchor
  double string_hole = 3.2;
  double ferrule = 8;
  double ferrule_depth = 12.7;
  double piece_length = 38;  // of one of single pieces, along its string
  double piece_ahead = 12;   // of its own scale point
  int piece_screws = 2;      // one behind the other
  double piece_pitch = 14;   // between them
  double weight_g = 210;
  friend bool operator==(const BridgeNumbers&, const BridgeNumbers&) = default;
};
[[nodiscard]] const std::vector<BridgeNumbers>& known_bridges();

/// Measured sizes of one pickup.
struct PickupNumbers {
  std::string name = "none";  // of the hardware list; "none": no pickup
  double from_bridge = 45;    // its middle, from the scale line along the centre line
  double length = 70;         // across the strings
  double width = 38.5;        // along them
  double corner = 3.2;
  double poles = 52;       // between the outer poles' middles
  double depth = 19;       // of the cavity
  double ear_length = 84;  // over both ears
  double ear_width = 13;
  double ear_depth = 25;
  double screw_pitch = 78.5;  // between the height screws
  double low = 5;             // range of its top over the face
  double high = 12;
  double weight_g = 110;
  bool by_layer = false;  // its cavity, the same
  /// Let in from behind: a window in the face for what shows, the rest under it, a cover over the back.
  bool behind = false;
  double front_left = 4;  // wood left in front round the window
  double seat = 4;        // wider than the pickup there, each side: what it is screwed against
  friend bool operator==(const PickupNumbers&, const PickupNumbers&) = default;
};
[[nodiscard]] const std::vector<PickupNumbers>& known_pickups();
constexpr double pickup_clearance = 0.5;  // each side, and room for finish (common practice)

enum class SwitchKind { none, toggle, blade };
enum class CoverHold { screws, magnets };

struct ControlNumbers {
  int pots = 3;               // 0: no control cavity
  double first_behind = -18;  // first shaft, behind the scale line
  double first_aside = 84;    // towards the treble side
  double pitch = 40;
  double angle_deg = -5;    // of the row against the centre line
  double shaft = 9.5;       // hole for the threaded bushing
  double bushing_left = 3;  // wood left in front at a shaft
  double thin_round = 22;   // diameter of the thinned place
  double face_left = 7;     // wood left in front elsewhere
  double round = 15;        // cavity about the row of shafts: radius
  SwitchKind switch_kind = SwitchKind::toggle;
  double switch_ahead = 38;   // of the first shaft
  double switch_aside = 6;    // further from the centre line than the first shaft
  double switch_hole = 12;    // toggle: hole; blade: width of the slot is 1.6
  double switch_length = 36;  // blade: slot in the face
  double switch_needs = 24;   // depth under the wood in front of it
  double ledge = 7;           // wider than the cavity, each side
  double ledge_depth = 3;
  double cover_thickness = 3;
  double cover_clearance = 0.25;  // smaller than its ledge, each side (common practice)
  double cover_finish = 0.1;      // room for the finish, each side
  double cover_thinned = 0;       // taken out of its middle
  CoverHold hold = CoverHold::screws;
  int holds = 4;
  double screw = 2.0;  // pilot in the ledge
  double magnet = 6.35;
  double magnet_depth = 3.2;
  bool by_layer = false;   // cut before the glue-up, layer by layer and from either face; else from behind after it
  double knob_recess = 0;  // diameter of the recesses that knobs sink into; 0: none
  double knob_depth = 4;   // of them, under the face
  friend bool operator==(const ControlNumbers&, const ControlNumbers&) = default;
};

enum class ChamberSides { none, bass, treble, both };

struct ChamberNumbers {
  ChamberSides sides = ChamberSides::none;
  double wall = 18;    // to the outline
  double middle = 46;  // half width of the solid block
  double gap = 10;     // to every other cavity and hole
  double floor = 8;    // wood left at the back
  double corner = 12;
  friend bool operator==(const ChamberNumbers&, const ChamberNumbers&) = default;
};

/// A barrel is screwed through the wall and spans only so much of it; a plate is screwed onto the edge and its socket
/// goes in behind; a cup is let into the edge.
enum class JackKind { barrel, plate, cup };
/// When its hole is drilled: in the bare body, or in the finished one by a guide.
enum class JackWhen { body_bare, body_finished };

struct WireNumbers {
  double width = 8;  // of channels under a glued top; 0: none
  double depth = 8;
  double jack = 22;           // hole in the edge
  double jack_behind = 62;    // behind the scale line, on the treble side
  double jack_angle_deg = 0;  // against square to the edge
  JackKind jack_kind = JackKind::plate;
  double jack_spans = 35;   // wall that a barrel's thread spans, nut and washer left out (common practice)
  double jack_inside = 28;  // how far the socket reaches in from the edge
  double jack_dish = 0;     // of the edge taken away round the hole, by hand
  JackWhen jack_when = JackWhen::body_bare;
  double strap_pilot = 2.8;
  double strap_depth = 22;
  friend bool operator==(const WireNumbers&, const WireNumbers&) = default;
};

enum class CarveKind { flat, dome, drawn };

struct ComfortNumbers {
  double bevel_depth = 0;       // forearm, at the edge; 0: none
  double bevel_reach = 62;      // how far in from the edge
  double bevel_angle_deg = 35;  // of its line against the centre line
  double belly_depth = 0;       // on the back, at the edge
  double belly_reach = 70;
  double belly_angle_deg = 20;
  CarveKind carve = CarveKind::flat;
  double carve_drop = 6;    // dome: of the edge under the flat middle
  double carve_reach = 55;  // dome: from the edge to where it is flat
  double carve_flat = 8;    // wood kept flat round everything let into the face
  double round_face = 3;    // radius of the edge; 0: sharp
  double round_back = 3;
  bool round_by_form = false;  // with a form cutter, else by a ball
  struct Line {
    double x = 0;
    std::vector<Vec2> points;
    friend bool operator==(const Line&, const Line&) = default;
  };
  std::vector<Line> lines;  // carve drawn: sections across, (y, depth under the face)
  double fair_within = 0.2;
  friend bool operator==(const ComfortNumbers&, const ComfortNumbers&) = default;
};

enum class FloorEdge { flat, rounded };

/// A plate over the face, its edge bevelled, that carries or hides what is let in under it. Its outline goes round the
/// cavities it covers, or is drawn.
struct ScratchPlate {
  double thickness = 0;   // 0: none
  double beyond = 9;      // of what it covers
  double bevel = 1.5;     // of its upper edge, at 45 degrees
  double screw = 2.5;     // pilots
  int screws = 8;         // along its edge
  double inset = 5;       // of them
  bool pickups = true;    // covers the pickups' cavities, with openings for them
  bool controls = false;  // and the shafts
  Path drawn;             // in place of that; body frame
  friend bool operator==(const ScratchPlate&, const ScratchPlate&) = default;
};

/// A further cavity as drawn or imported.
struct DrawnCavity {
  std::string name;
  Path outline;
  bool from_back = false;
  double depth = 10;
  friend bool operator==(const DrawnCavity&, const DrawnCavity&) = default;
};
constexpr std::size_t most_drawn_cavities = 40;

/// A further round hole as drawn or imported; blind, bored or (under 4 mm) drilled.
struct DrawnHole {
  std::string name;
  Vec2 at;
  double diameter = 0;
  bool from_back = false;
  double depth = 10;
  friend bool operator==(const DrawnHole&, const DrawnHole&) = default;
};
constexpr std::size_t most_drawn_holes = 200;

struct Body {
  OutlineNumbers outline;
  std::vector<BodyLayer> layers{};  // from the face down; see usual_layers()
  SetupNumbers setup;
  BridgeNumbers bridge;
  PickupNumbers pickups[3];  // neck, middle, bridge
  ControlNumbers controls;
  ChamberNumbers chambers;
  WireNumbers wires;
  ComfortNumbers comfort;
  std::vector<DrawnCavity> drawn;
  std::vector<DrawnHole> holes;
  FloorEdge floors = FloorEdge::flat;  // of the control cavity and of those that are drawn
  double floor_radius = 3.175;
  ScratchPlate plate;
  double hardware_g = 140;  // pots, switch, jack, screws; at the controls
  double tuner_g = 38;      // of one tuner
  double strap = 1150;      // length of the strap between its buttons
  double strap_ahead = 6;   // upper strap button from the horn's tip
  friend bool operator==(const Body&, const Body&) = default;
};
[[nodiscard]] Body usual_body();

/// "top ash 6.5; body cherry 37.5": name, wood, thickness of each layer from the face down. Refused with what is not
/// understood.
[[nodiscard]] Expected<std::vector<BodyLayer>> layers_from(const std::string& text);
[[nodiscard]] std::string layers_text(const std::vector<BodyLayer>& layers);

}  // namespace wren

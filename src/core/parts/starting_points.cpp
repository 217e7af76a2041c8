// What a new project can begin with: the demo instruments, a bass, and the usual numbers.
#include <algorithm>

#include <fmt/format.h>

#include "core/parts/body/numbers.hpp"
#include "core/parts/fretboard/numbers.hpp"
#include "core/parts/neck/numbers.hpp"
#include "core/parts/table.hpp"

namespace wren {
namespace {

Project reedling() {
  Project p;
  p.name = "Reedling";
  p.notes = "Six strings, cherry body with an ash top, sycamore neck, pear fretboard.";
  neck_of(p).neck.head.tuners_bass = 4;
  board_of(p).instrument.strings.gauges = {1.168, 0.914, 0.66, 0.432, 0.33, 0.254};
  body_of(p).body.chambers.sides = ChamberSides::both;
  body_of(p).body.chambers.floor = 9;
  body_of(p).body.chambers.wall = 22;
  body_of(p).body.comfort.bevel_depth = 7;
  body_of(p).body.comfort.bevel_reach = 50;
  body_of(p).body.comfort.belly_depth = 8;
  body_of(p).body.comfort.belly_reach = 48;
  return p;
}

Project sedge() {
  Project p;
  p.name = "Sedge";
  p.notes = "Fanned five-string, the Reedling's sibling.";
  Instrument& in = board_of(p).instrument;
  in.strings.count = 5;
  in.strings.scale_bass = 710;
  in.strings.scale_treble = 660;
  in.strings.square_fret = 7;
  in.strings.nut_spread = 42;
  in.strings.bridge_spread = 66;
  in.strings.gauges = {2.667, 2.032, 1.524, 1.143, 0.813};
  in.frets.count = 24;
  in.crown.radius_nut = 305;
  in.crown.radius_last = 508;
  in.board.end = EndShape::slanted;
  in.board.overhang = 10;
  board_of(p).blank.length = 600;
  board_of(p).blank.width = 90;
  board_of(p).blank.clamps = {};
  Neck& neck = neck_of(p).neck;
  neck.head.tuners_bass = 3;
  neck.head.shape = HeadShape::slanted;
  neck.head.first_post = 40;
  neck.head.tip_margin = 24;
  neck.tuner = *std::find_if(known_tuners().begin(), known_tuners().end(),
                             [](const TunerNumbers& t) { return t.name == "bass-14"; });
  neck.back.shape_a = BackShape::d;
  neck.back.thickness_a = 21.5;
  neck.back.thickness_b = 23.5;
  neck.rod.length = 450;
  neck.heel.hole_across = 44;
  neck.tuning = "E1 A1 D2 G2 C3";
  neck_of(p).work.blank.length = 760;
  neck_of(p).work.blank.width = 140;
  neck_of(p).work.blank.lie = Lie::along_y;
  Body& body = body_of(p).body;
  body.layers = {{"body", 42, "cherry"}};
  body.outline.form = BodyForm::leaning;
  body.outline.horn_bass = 120;
  body.outline.tail = 128;
  body.outline.lower_width = 336;
  body.outline.upper_width = 290;
  body.bridge = *std::find_if(known_bridges().begin(), known_bridges().end(),
                              [](const BridgeNumbers& b) { return b.name == "plate-66"; });
  body.setup.follows = PocketFollows::depth;
  body.setup.tilt_deg = 0;
  body.setup.action_bass = 2.6;
  body.setup.action_treble = 2.0;
  const PickupNumbers& bar = *std::find_if(known_pickups().begin(), known_pickups().end(),
                                           [](const PickupNumbers& n) { return n.name == "bar-five"; });
  body.pickups[0] = {};
  body.pickups[2] = bar;
  body.pickups[2].from_bridge = 62;
  body.controls.pots = 4;
  body.controls.switch_kind = SwitchKind::none;
  body.controls.first_behind = -46;
  body.controls.first_aside = 98;
  body.controls.angle_deg = -8;
  body.controls.pitch = 36;
  body.controls.hold = CoverHold::magnets;
  body.controls.ledge = 9;
  body.controls.cover_thickness = 4;
  body.controls.ledge_depth = 4;
  body.comfort.carve = CarveKind::dome;
  body.comfort.carve_drop = 6;
  body.comfort.belly_depth = 8;
  body.tuner_g = 58;
  body_of(p).work.blank_length = 520;
  body_of(p).work.blank_width = 372;
  return p;
}

Project bass() {
  Project p;
  p.name = "Four-string bass";
  Instrument& in = board_of(p).instrument;
  in.strings.count = 4;
  in.strings.scale_bass = in.strings.scale_treble = 864;
  in.strings.nut_spread = 31;
  in.strings.bridge_spread = 57;
  in.strings.gauges = {2.667, 2.159, 1.651, 1.143};
  in.frets.count = 20;
  in.crown.radius_nut = 254;
  in.crown.radius_last = 305;
  board_of(p).blank.length = 640;
  board_of(p).blank.width = 82;
  neck_of(p).neck.tuner = *std::find_if(known_tuners().begin(), known_tuners().end(),
                                        [](const TunerNumbers& t) { return t.name == "bass-17"; });
  neck_of(p).neck.head.tuners_bass = 4;
  neck_of(p).neck.head.first_post = 45;
  neck_of(p).neck.head.tip_margin = 30;
  neck_of(p).neck.back.thickness_a = 22;
  neck_of(p).neck.back.thickness_b = 24;
  neck_of(p).neck.rod.length = 520;
  neck_of(p).work.blank.length = 870;
  neck_of(p).work.blank.width = 130;
  neck_of(p).work.blank.lie = Lie::along_y;
  body_of(p).body.layers = {{"body", 42, "ash"}};
  body_of(p).body.bridge = *std::find_if(known_bridges().begin(), known_bridges().end(),
                                         [](const BridgeNumbers& b) { return b.name == "plate-66"; });
  body_of(p).body.setup.follows = PocketFollows::depth;
  body_of(p).body.pickups[0] = {};
  body_of(p).body.pickups[2] = *std::find_if(known_pickups().begin(), known_pickups().end(),
                                             [](const PickupNumbers& n) { return n.name == "bar-five"; });
  body_of(p).body.pickups[2].from_bridge = 90;
  body_of(p).body.outline.horn_bass = 125;
  body_of(p).body.outline.tail = 125;
  body_of(p).work.blank_length = 624;
  return p;
}

}  // namespace

std::vector<std::string> starting_points() { return {"reedling", "sedge", "bass", "plain"}; }

Expected<Project> project_from(const std::string& name) {
  if (name == "reedling") return Expected<Project>(reedling());
  if (name == "sedge") return Expected<Project>(sedge());
  if (name == "bass") return Expected<Project>(bass());
  if (name == "plain") {
    Project plain;
    return plain;
  }
  return fail(ProblemKind::input, fmt::format("there is no starting point called '{}'", name), "--from",
              "Choose reedling, sedge, bass or plain");
}

}  // namespace wren

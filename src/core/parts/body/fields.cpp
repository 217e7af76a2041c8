// The body's fields: every single number of the body and of how it is cut under its key.
#include <fmt/format.h>

#include "core/document/field_makers.hpp"
#include "core/parts/body/part.hpp"

namespace wren {
namespace {

#define AT(member) \
  [](auto& p) -> auto& { return body_of(p).member; }

void form_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {choice_field("body.form", "Outline", AT(body.outline.form), {"two horns", "one horn", "leaning", "drawn"},
                    "a starting shape by its numbers, or as drawn and pulled"),
       length_field("body.lower_width", "Lower bout", AT(body.outline.lower_width), 100, 700,
                    "widest, behind the waist"),
       length_field("body.waist_width", "Waist", AT(body.outline.waist_width), 60, 600, "narrowest"),
       length_field("body.upper_width", "Upper bout", AT(body.outline.upper_width), 80, 700,
                    "widest, ahead of the waist"),
       length_field("body.tail", "Tail", AT(body.outline.tail), 20, 400, "behind the scale line, on the centre line"),
       length_field("body.horn_bass", "Bass horn", AT(body.outline.horn_bass), 0, 300,
                    "ahead of the edge that the neck enters by"),
       length_field("body.horn_treble", "Treble horn", AT(body.outline.horn_treble), 0, 300,
                    "ahead of the edge that the neck enters by"),
       length_field("body.pocket_length", "Pocket length", AT(body.outline.pocket), 15, 400,
                    "from that edge to the heel's end")});

  Field layers{"body.layers",
               "Layers",
               FieldKind::text,
               "",
               0,
               0,
               {},
               false,
               false,
               false,
               "from the face down: name wood thickness; the next after a semicolon",
               [](const Project& p) -> FieldValue { return layers_text(body_of(p).body.layers); },
               [](Project& p, const FieldValue& v) {
                 if (auto l = layers_from(std::get<std::string>(v))) body_of(p).body.layers = std::move(*l);
               }};
  layers.check = [](const std::string& text) -> std::optional<Problem> {
    if (auto bad = layers_from(text); !bad) return bad.error();
    return {};
  };
  layers.materials = [](const Project& p) {
    std::vector<std::string> out;
    for (const BodyLayer& l : body_of(p).body.layers) out.push_back(l.wood);
    return out;
  };
  f.push_back(layers);
}

void setup_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {choice_field("body.school", "Set up for", AT(body.setup.school), {"action", "flat"},
                    "the action wanted, or strings flat on the frets with the saddles at their lowest"),
       choice_field("body.follows", "Works out the", AT(body.setup.follows), {"tilt", "depth"},
                    "from the bridge's heights; the other one is given"),
       length_field("body.pocket_depth", "Pocket depth", AT(body.setup.depth), 3, 60,
                    "at the heel's end, where the tilt follows"),
       number_field("body.pocket_tilt", "Tilt", AT(body.setup.tilt_deg), "°", -4, 8, "where the depth follows"),
       length_field("body.action_bass", "Action, bass", AT(body.setup.action_bass), 0.2, 8, "string over fret 12"),
       length_field("body.action_treble", "Action, treble", AT(body.setup.action_treble), 0.2, 8,
                    "string over fret 12"),
       length_field("body.nut_clear", "Over the frets at the nut", AT(body.setup.nut_clear), 0, 3,
                    "string over the line of the frets' tops; none with a zero fret"),
       length_field("body.reserve", "Saddles over their lowest", AT(body.setup.reserve), 0, 15, "at the action wanted"),
       length_field("body.fit", "Pocket fit", AT(body.setup.fit), 0, 2, "wider than the heel, each side: a push fit"),
       length_field("body.finish", "Room for finish", AT(body.setup.finish), 0, 1,
                    "each side of the pocket and under the heel"),
       choice_field("body.pocket_from", "Pocket is cut to", AT(body.setup.from), {"measured_heel", "numbers", "sample"},
                    "the neck's heel, sanded and measured; its numbers, and the heel is fitted by hand; or a sample of "
                    "the heel, cut in scrap and tried first"),
       length_field("body.bolt_hole", "Bolt holes", AT(body.setup.bolt_hole), 0, 12,
                    "through the body for a bolted neck; 0: none"),
       length_field("body.bolt_sink", "Sunk rings", AT(body.setup.bolt_sink), 5, 40, "diameter, from the back"),
       length_field("body.bolt_sink_depth", "Rings sunk by", AT(body.setup.bolt_sink_depth), 0, 20, "0: none")});

  std::vector<std::string> names;
  for (const BridgeNumbers& b : known_bridges()) names.push_back(b.name);
  Field bridge{"bridge.name",
               "Bridge",
               FieldKind::choice,
               "",
               0,
               0,
               names,
               false,
               false,
               false,
               "hardware list: fills in usual sizes, measure the one at hand",
               [](const Project& p) -> FieldValue { return body_of(p).body.bridge.name; },
               [](Project& p, const FieldValue& v) {
                 for (const BridgeNumbers& b : known_bridges())
                   if (b.name == std::get<std::string>(v) && body_of(p).body.bridge.name != b.name)
                     body_of(p).body.bridge = b;
               }};
  f.insert(
      f.end(),
      {bridge,
       choice_field("bridge.kind", "Stands on", AT(body.bridge.kind), {"posts", "plate", "pieces"},
                    "two posts; a plate screwed flat; or single pieces, one for each string on its own scale point"),
       length_field("bridge.piece_length", "A piece's length", AT(body.bridge.piece_length), 8, 120,
                    "along its string"),
       length_field("bridge.piece_ahead", "A piece stands ahead", AT(body.bridge.piece_ahead), -20, 80,
                    "of its own scale point"),
       count_field("bridge.piece_screws", "Screws of a piece", AT(body.bridge.piece_screws), 1, 4,
                   "one behind the other"),
       length_field("bridge.piece_pitch", "Its screws apart", AT(body.bridge.piece_pitch), 3, 60,
                    "from screw to screw"),
       length_field("bridge.low", "Saddles lowest", AT(body.bridge.low), 1, 60, "tops over the face"),
       length_field("bridge.high", "Saddles highest", AT(body.bridge.high), 1, 80, "tops over the face"),
       length_field("bridge.travel", "Saddle travel", AT(body.bridge.travel), 0, 60, "along the string"),
       length_field("bridge.forward", "Ahead of the scale line", AT(body.bridge.forward), -20, 20,
                    "how far the saddles can go ahead of it"),
       length_field("bridge.compensation_bass", "Compensation, bass", AT(body.bridge.compensation_bass), -5, 20,
                    "saddle behind the scale line"),
       length_field("bridge.compensation_treble", "Compensation, treble", AT(body.bridge.compensation_treble), -5, 20,
                    "saddle behind the scale line"),
       length_field("bridge.post_spacing", "Posts apart", AT(body.bridge.post_spacing), 20, 200, "across"),
       length_field("bridge.post_behind", "Posts behind", AT(body.bridge.post_behind), -40, 60, "the scale line"),
       length_field("bridge.post_diameter", "Post hole", AT(body.bridge.post_diameter), 2, 25,
                    "of the threaded insert"),
       length_field("bridge.post_depth", "Post hole depth", AT(body.bridge.post_depth), 3, 60, "from the face"),
       length_field("bridge.plate_length", "Plate length", AT(body.bridge.plate_length), 5, 200, "along the strings"),
       length_field("bridge.plate_width", "Plate width", AT(body.bridge.plate_width), 10, 250, "across"),
       length_field("bridge.plate_ahead", "Plate ahead", AT(body.bridge.plate_ahead), -50, 100, "of the scale line"),
       count_field("bridge.screws", "Plate screws", AT(body.bridge.screws), 0, 12, "in one row"),
       length_field("bridge.screw_diameter", "Screw pilots", AT(body.bridge.screw_diameter), 0.5, 8, "diameter"),
       length_field("bridge.screw_depth", "Pilot depth", AT(body.bridge.screw_depth), 2, 40, "from the face"),
       length_field("bridge.screw_behind", "Screws behind", AT(body.bridge.screw_behind), -40, 120, "the scale line"),
       length_field("bridge.anchor_behind", "Strings end behind", AT(body.bridge.anchor_behind), 2, 200,
                    "the scale line"),
       length_field("bridge.anchor_height", "at a height of", AT(body.bridge.anchor_height), -40, 40, "over the face"),
       flag_field("bridge.string_through", "Strings through the body", AT(body.bridge.string_through),
                  "a straight row of holes, ferrules from the back"),
       length_field("bridge.string_hole", "String holes", AT(body.bridge.string_hole), 1, 8, "diameter"),
       length_field("bridge.ferrule", "Ferrules", AT(body.bridge.ferrule), 2, 20, "diameter"),
       length_field("bridge.ferrule_depth", "Ferrule depth", AT(body.bridge.ferrule_depth), 1, 40, "from the back"),
       number_field("bridge.weight", "Weight", AT(body.bridge.weight_g), "g", 0, 3000, "weighed")});
}

void pickup_fields(std::vector<Field>& f) {
  std::vector<std::string> names;
  for (const PickupNumbers& n : known_pickups()) names.push_back(n.name);
  const char* const which[] = {"neck", "middle", "bridge"};
  const char* const titles[] = {"Neck pickup", "Middle pickup", "Bridge pickup"};
  for (int k = 0; k < 3; ++k) {
    const std::string base = std::string("pickup.") + which[k] + ".";
    Field kind{base + "name",
               titles[k],
               FieldKind::choice,
               "",
               0,
               0,
               names,
               false,
               false,
               false,
               "hardware list: fills in usual sizes, measure the one at hand",
               [k](const Project& p) -> FieldValue { return body_of(p).body.pickups[k].name; },
               [k](Project& p, const FieldValue& v) {
                 for (const PickupNumbers& n : known_pickups())
                   if (n.name == std::get<std::string>(v) && body_of(p).body.pickups[k].name != n.name) {
                     const PickupNumbers was = body_of(p).body.pickups[k];
                     const double at = body_of(p).body.pickups[k].from_bridge;
                     const bool by_layer = body_of(p).body.pickups[k].by_layer;
                     body_of(p).body.pickups[k] = n;
                     body_of(p).body.pickups[k].from_bridge = at;
                     body_of(p).body.pickups[k].by_layer = by_layer;
                     body_of(p).body.pickups[k].behind = was.behind;
                     body_of(p).body.pickups[k].front_left = was.front_left;
                     body_of(p).body.pickups[k].seat = was.seat;
                   }
               }};
    f.push_back(kind);

    const auto add = [&](const char* key, const char* label, double PickupNumbers::*member, double low, double high,
                         const char* reason) {
      f.push_back(length_field(
          base + key, label, [ k, member ](auto& p) -> auto& { return body_of(p).body.pickups[k].*member; }, low, high,
          reason));
    };
    add("from_bridge", "From the scale line", &PickupNumbers::from_bridge, 5, 500, "its middle, along the centre line");
    add("length", "Length", &PickupNumbers::length, 5, 250, "across the strings");
    add("width", "Width", &PickupNumbers::width, 3, 150, "along the strings");
    add("corner", "Corner radius", &PickupNumbers::corner, 0, 50, "seen from above");
    add("poles", "Outer poles apart", &PickupNumbers::poles, 5, 200, "middle to middle");
    add("depth", "Cavity depth", &PickupNumbers::depth, 1, 60, "from the face");
    add("ear_length", "Over the ears", &PickupNumbers::ear_length, 0, 260, "length over both; 0: no ears");
    add("ear_width", "Ears' width", &PickupNumbers::ear_width, 3, 80, "along the strings");
    add("ear_depth", "Ears' depth", &PickupNumbers::ear_depth, 1, 60, "from the face");
    add("screw_pitch", "Height screws apart", &PickupNumbers::screw_pitch, 5, 260, "from screw to screw");
    add("low", "Top at its lowest", &PickupNumbers::low, -20, 40, "over the face");
    add("high", "Top at its highest", &PickupNumbers::high, -20, 60, "over the face");
    f.push_back(number_field(
        base + "weight", "Weight", [k](auto& p) -> auto& { return body_of(p).body.pickups[k].weight_g; }, "g", 0, 2000,
        "weighed"));
    f.push_back(flag_field(
        base + "by_layer", "Cut layer by layer", [k](auto& p) -> auto& { return body_of(p).body.pickups[k].by_layer; },
        "its cavity, before the glue-up and from either face; else from the face after it"));
    f.push_back(flag_field(
        base + "behind", "Let in from behind", [k](auto& p) -> auto& { return body_of(p).body.pickups[k].behind; },
        "a window in the face for what shows, the rest under it, a cover over the back"));
    add("front_left", "Wood round the window", &PickupNumbers::front_left, 1, 40, "left in front of what is let in");
    add("seat", "Seat round it", &PickupNumbers::seat, 1, 40, "wider than the pickup, each side: it is screwed there");
  }
}

void control_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {count_field("control.pots", "Shafts", AT(body.controls.pots), 0, 8, "0: no control cavity"),
       length_field("control.first_behind", "First shaft behind the scale line", AT(body.controls.first_behind), -300,
                    300, "the scale line"),
       length_field("control.first_aside", "First aside", AT(body.controls.first_aside), -400, 400,
                    "of the centre line, towards the treble side"),
       length_field("control.pitch", "Shafts apart", AT(body.controls.pitch), 10, 150,
                    "room for fingers and for the bodies of the pots"),
       number_field("control.angle", "Row's angle", AT(body.controls.angle_deg), "°", -180, 180,
                    "against the centre line"),
       length_field("control.shaft", "Shaft holes", AT(body.controls.shaft), 3, 20, "for the threaded bushing"),
       length_field("control.bushing_left", "Wood at the shafts", AT(body.controls.bushing_left), 0.5, 40,
                    "left in front, to suit the bushing"),
       length_field("control.thin_round", "Thinned places", AT(body.controls.thin_round), 8, 60, "diameter"),
       length_field("control.face_left", "Wood in front", AT(body.controls.face_left), 0.5, 60,
                    "of the control cavity"),
       length_field("control.round", "Cavity round the row", AT(body.controls.round), 6, 60, "radius"),
       choice_field("control.switch", "Switch", AT(body.controls.switch_kind), {"none", "toggle", "blade"},
                    "in line with the shafts, in the same cavity"),
       length_field("control.switch_ahead", "Switch ahead", AT(body.controls.switch_ahead), -200, 300,
                    "of the first shaft"),
       length_field("control.switch_aside", "Switch aside", AT(body.controls.switch_aside), -200, 200,
                    "of the first shaft"),
       length_field("control.switch_hole", "Switch hole", AT(body.controls.switch_hole), 3, 30, "of a toggle"),
       length_field("control.switch_length", "Switch slot", AT(body.controls.switch_length), 5, 80,
                    "of a blade switch"),
       length_field("control.switch_needs", "Switch needs", AT(body.controls.switch_needs), 2, 80,
                    "depth behind the wood in front"),
       length_field("control.ledge", "Ledge", AT(body.controls.ledge), 2, 40, "wider than the cavity, each side"),
       length_field("control.ledge_depth", "Ledge depth", AT(body.controls.ledge_depth), 0.5, 20, "from the back"),
       length_field("control.cover_thickness", "Cover", AT(body.controls.cover_thickness), 0.5, 20,
                    "thickness, measured"),
       length_field("control.cover_clearance", "Cover smaller by", AT(body.controls.cover_clearance), 0, 3,
                    "than its ledge, each side"),
       length_field("control.cover_finish", "and for finish", AT(body.controls.cover_finish), 0, 2, "each side"),
       length_field("control.cover_thinned", "Cover thinned by", AT(body.controls.cover_thinned), 0, 15,
                    "in its middle"),
       choice_field("control.hold", "Cover held by", AT(body.controls.hold), {"screws", "magnets"}, "in the ledge"),
       count_field("control.holds", "Screws or magnets of the cover", AT(body.controls.holds), 0, 12,
                   "spread along the ledge"),
       length_field("control.screw", "Cover screws' pilots", AT(body.controls.screw), 0.5, 6, "diameter"),
       length_field("control.magnet", "Magnets", AT(body.controls.magnet), 2, 20, "diameter of the hole"),
       flag_field("control.by_layer", "Cut layer by layer", AT(body.controls.by_layer),
                  "before the glue-up and from either face; else from behind after it"),
       length_field("control.knob_recess", "Knobs' recesses", AT(body.controls.knob_recess), 0, 80,
                    "diameter: knobs sink into the face; 0: none"),
       length_field("control.knob_depth", "Recesses' depth", AT(body.controls.knob_depth), 0.3, 30, "under the face"),
       choice_field("control.floor_edges", "Cavity floors", AT(body.floors), {"flat", "rounded"},
                    "square to the walls, or with an edge that a round nose rounds: of the control cavity and of those "
                    "that are drawn"),
       length_field("control.floor_radius", "Floors' rounding", AT(body.floor_radius), 0.5, 12,
                    "as the round nose leaves it"),
       length_field("plate.thickness", "Scratch plate", AT(body.plate.thickness), 0, 8, "its thickness; 0: none"),
       length_field("plate.beyond", "Beyond what it covers", AT(body.plate.beyond), 2, 80, "all round"),
       length_field("plate.bevel", "Bevel", AT(body.plate.bevel), 0, 5, "of its upper edge, at 45°; 0: square"),
       flag_field("plate.pickups", "Covers the pickups", AT(body.plate.pickups), "with openings for them"),
       flag_field("plate.controls", "Covers the controls", AT(body.plate.controls), "with holes for their shafts"),
       count_field("plate.screws", "Plate's screws", AT(body.plate.screws), 0, 30, "along its edge"),
       length_field("plate.screw", "Plate's screws are", AT(body.plate.screw), 1.5, 6, "thick, measured"),
       length_field("plate.inset", "Screws from the edge", AT(body.plate.inset), 2, 30, "of the plate"),
       wood_field("plate.wood", "Plate's material", AT(work.plate_wood), "or another"),
       length_field("control.magnet_depth", "Magnets' depth", AT(body.controls.magnet_depth), 0.5, 12, "in the ledge"),
       choice_field("chamber.sides", "Chambers", AT(body.chambers.sides), {"none", "bass", "treble", "both"},
                    "under a glued top, for weight and balance"),
       length_field("chamber.wall", "Wall", AT(body.chambers.wall), 3, 150, "to the outline"),
       length_field("chamber.middle", "Solid middle", AT(body.chambers.middle), 5, 300, "half its width"),
       length_field("chamber.gap", "Gap", AT(body.chambers.gap), 1, 80, "to every other cavity and hole"),
       length_field("chamber.floor", "Left at the back", AT(body.chambers.floor), 1, 80, "under the chambers"),
       length_field("chamber.corner", "Corner radius", AT(body.chambers.corner), 2, 80,
                    "of the chambers in plan; narrower necks go"),
       length_field("wire.width", "Wire channels", AT(body.wires.width), 0, 30, "width, under a glued top; 0: none"),
       length_field("wire.depth", "Channels' depth", AT(body.wires.depth), 1, 40, "into the layer under the top"),
       length_field("wire.jack", "Jack hole", AT(body.wires.jack), 0, 40, "diameter, in the edge; 0: none"),
       length_field("wire.jack_behind", "Jack behind", AT(body.wires.jack_behind), -300, 300,
                    "the scale line, on the treble side"),
       number_field("wire.jack_angle", "Jack's angle", AT(body.wires.jack_angle_deg), "°", -60, 60,
                    "against square to the edge"),
       choice_field("wire.jack_kind", "Jack is a", AT(body.wires.jack_kind), {"barrel", "plate", "cup"},
                    "screwed through the wall; on a plate over the edge; let into the edge"),
       length_field("wire.jack_spans", "A barrel spans", AT(body.wires.jack_spans), 5, 90,
                    "wall under its nut and washer"),
       length_field("wire.jack_inside", "Jack reaches in", AT(body.wires.jack_inside), 0, 90,
                    "from the edge: what may meet a potentiometer"),
       length_field("wire.jack_dish", "Dish at the jack", AT(body.wires.jack_dish), 0, 40,
                    "taken off the edge round the hole, by hand"),
       choice_field("wire.jack_when", "Jack's hole is drilled", AT(body.wires.jack_when),
                    {"body_bare", "body_finished"},
                    "in the bare body, before the neck is on; or in the finished one, by a guide that lies against its "
                    "edge"),
       length_field("wire.guide_wood", "Guide's thickness", AT(work.guide_wood), 8, 90, "of the block for the guide"),
       length_field("wire.strap_pilot", "Strap pilots", AT(body.wires.strap_pilot), 0.5, 8, "diameter"),
       length_field("wire.strap_depth", "Strap pilots' depth", AT(body.wires.strap_depth), 3, 60, "from the edge")});
}

void comfort_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {choice_field("body.carve", "Face", AT(body.comfort.carve), {"flat", "dome", "drawn"},
                    "flat, falling to the edge, or by drawn sections"),
       length_field("body.carve_drop", "Falls by", AT(body.comfort.carve_drop), 0, 40, "at the edge"),
       length_field("body.carve_reach", "Carve falls over", AT(body.comfort.carve_reach), 3, 300,
                    "from the edge inwards"),
       length_field("body.carve_flat", "Kept flat", AT(body.comfort.carve_flat), 0, 60,
                    "round everything let into the face"),
       length_field("body.carve_fair", "Fair within", AT(body.comfort.fair_within), 0, 5,
                    "drawn sections: the face may leave them by this much"),
       length_field("body.bevel_depth", "Forearm bevel", AT(body.comfort.bevel_depth), 0, 40,
                    "depth at the edge; 0: none"),
       length_field("body.bevel_reach", "Bevel reaches in", AT(body.comfort.bevel_reach), 5, 250,
                    "from the bass side's furthest corner"),
       number_field("body.bevel_angle", "Bevel's line", AT(body.comfort.bevel_angle_deg), "°", -80, 80,
                    "against the centre line"),
       length_field("body.belly_depth", "Belly cut", AT(body.comfort.belly_depth), 0, 40,
                    "depth at the edge, on the back; 0: none"),
       length_field("body.belly_reach", "Belly cut reaches in", AT(body.comfort.belly_reach), 5, 250,
                    "from the waist on the bass side"),
       number_field("body.belly_angle", "Belly cut's line", AT(body.comfort.belly_angle_deg), "°", -80, 80,
                    "against the centre line"),
       length_field("body.round_face", "Edge rounded, face", AT(body.comfort.round_face), 0, 20, "radius; 0: sharp"),
       length_field("body.round_back", "Edge rounded, back", AT(body.comfort.round_back), 0, 20, "radius; 0: sharp"),
       flag_field("body.round_by_form", "With a form cutter", AT(body.comfort.round_by_form),
                  "else by a ball, in passes"),
       number_field("body.hardware_weight", "Pots, jack, switch", AT(body.hardware_g), "g", 0, 3000,
                    "weighed together"),
       number_field("body.tuner_weight", "One tuner", AT(body.tuner_g), "g", 0, 500, "weighed"),
       length_field("body.strap", "Strap", AT(body.strap), 500, 2000, "its length between the buttons")});
}

void work_fields(std::vector<Field>& f) {
  f.insert(f.end(),
           {length_field("body.blank.length", "Blank length", AT(work.blank_length), 50, 5000, "of every layer"),
            length_field("body.blank.width", "Blank width", AT(work.blank_width), 50, 5000, "of every layer"),
            length_field("body.face_off", "Faced off", AT(work.face_off), 0, 30,
                         "blank thicker than wanted: taken off its face"),
            choice_field("body.blank.lie", "Body lies along", AT(work.lie), {"x", "y"}, "the machine's axis"),
            clamps_field("body.clamps", AT(work.clamps))});

  alignment_fields(f, "body.", AT(work.alignment));
  f.insert(
      f.end(),
      {cutter_field("body.clear_cutter", "Clearing cutter", AT(work.clear_cutter), "cavities; from the rack"),
       cutter_field("body.deep_cutter", "Deep cutter", AT(work.deep_cutter),
                    "where the first does not reach; from the rack"),
       cutter_field("body.fine_cutter", "Fine cutter", AT(work.fine_cutter), "corners and edges; from the rack"),
       cutter_field("body.facing_cutter", "Facing cutter", AT(work.facing_cutter), "from the rack"),
       cutter_field("body.rough_cutter", "Carving, roughing", AT(work.rough_cutter), "from the rack"),
       cutter_field("body.finish_cutter", "Carving, finishing", AT(work.finish_cutter), "a ball; from the rack"),
       cutter_field("body.round_cutter", "Round-over cutter", AT(work.round_cutter), "form cutter; from the rack"),
       cutter_field("body.outline_cutter", "Outline cutter", AT(work.outline_cutter), "from the rack"),
       number_field("body.step", "Wood beside the cutter", AT(work.step), "", 0.05, 0.6,
                    "at most, as a share of its diameter"),
       length_field("body.wall_skim", "Walls' last skim", AT(work.wall_skim), 0, 2,
                    "left by clearing, taken in one last round"),
       length_field("body.floor_skim", "Floors' last skim", AT(work.floor_skim), 0, 2,
                    "left by clearing, taken by the last level"),
       length_field("body.scallop", "Scallop", AT(work.scallop), 0.002, 0.5,
                    "greatest height left between rows of a carve"),
       length_field("body.rough_leave", "Left by roughing", AT(work.rough_leave), 0.1, 3, "for finishing a carve"),
       choice_field("body.outline_school", "Outline cut", AT(work.outline), {"full", "halves", "guide"},
                    "in one go from the back; half from each side; a groove, the band saw, a last skim"),
       length_field("body.guide_depth", "Guide groove", AT(work.guide_depth), 0.5, 40, "depth"),
       length_field("body.guide_leave", "Left by the saw", AT(work.guide_leave), 0.3, 15, "beside the line"),
       length_field("body.ear_width", "Ears", AT(work.ear_width), 8, 120,
                    "width of the waste that keeps the pin holes when the rest is sawn off"),
       choice_field("body.ears_off", "Ears go off", AT(work.ears_off), {"by hand", "by machine"},
                    "last of all: sawn and planed, or cut with a tab in each"),
       length_field("body.skim", "Outline's last skim", AT(work.skim), 0, 2,
                    "left by the depths, taken in one last round"),
       choice_field("body.outline_when", "Outline's turn", AT(work.outline_when), {"last", "first"},
                    "last, the blank whole under every other cut; or first of all, its tabs holding the body from then "
                    "on"),
       length_field("body.first_tab_length", "First tabs' length", AT(work.first_tab_length), 6, 80,
                    "of tabs that hold the body through every other cut"),
       length_field("body.first_tab_height", "First tabs' height", AT(work.first_tab_height), 4, 40, "over the back"),
       choice_field("bridge.holes", "Bridge and string holes", AT(work.bridge_holes), {"with_body", "held_back"},
                    "with the body, by the numbers; or once the neck is on and a straightedge shows where they belong: "
                    "a set-up of their own"),
       length_field("body.line_error", "Setting a line", AT(work.line_error), 0.05, 3,
                    "error of laying the finished body by its centre line and scale line"),
       cutter_field("body.floor_cutter", "Round nose for floors", AT(work.floor_cutter), "a ball; from the rack"),
       length_field("body.sample_thickness", "Sample's scrap", AT(work.sample_thickness), 4, 60,
                    "thickness of the scrap for a heel's sample"),
       choice_field("body.grain", "Against the grain", AT(work.grain), {"one way", "thin", "safer"},
                    "one direction throughout; a thin last skim; each span in its safer direction"),
       length_field("body.thin_skim", "Thin skim", AT(work.thin_skim), 0.02, 1, "where the cut runs against the grain"),
       count_field("body.tabs", "Tabs", AT(work.tabs), 0, 12, "in straight flat places along the grain"),
       length_field("body.tab_length", "Tab length", AT(work.tab_length), 2, 60, "of full height"),
       length_field("body.tab_height", "Tab height", AT(work.tab_height), 0.5, 30,
                    "over the face, or over the groove from the front"),
       length_field("body.through", "Into the waste board", AT(work.through), 0, 5,
                    "below the blank, so that no skin is left"),
       length_field("body.top_oversize", "Top cut oversize", AT(work.top_oversize), 0, 40,
                    "before it is glued on, then flush; 0: whole blanks are glued"),
       choice_field("body.top_register", "Oversize top finds its place by", AT(work.top_register),
                    {"ears", "holes", "lines"},
                    "ears with the pin holes; two small holes in wood that goes later; centre line and scale line"),
       length_field("body.register_hole", "Register holes", AT(work.register_hole), 1, 6, "their diameter"),
       flag_field("body.plugs", "Windows round a plug", AT(work.plugs),
                  "a window through a layer is cut round, its plug held by tabs; else cleared away"),
       length_field("body.peck", "Pecks", AT(work.peck), 0.5, 20, "of a drill, before it comes up"),
       length_field("body.back_off", "Faced off the back", AT(work.back_off), 0, 30,
                    "of a blank that much thicker: after it is turned, before anything else"),
       length_field("body.over_along", "Outline slid over its blank", AT(work.over_along), -300, 300,
                    "towards the tail"),
       length_field("body.over_across", "Outline slid across", AT(work.over_across), -300, 300,
                    "over its blank, towards the treble side"),
       number_field("body.over_turn", "Outline turned", AT(work.over_turn), "°", -30, 30,
                    "over the strips of its blank, the tail towards the treble side; the blank is then sawn square to "
                    "the outline"),
       wood_field("cover.wood", "Cover's wood", AT(work.cover_wood), "or another material of the cover"),
       length_field("cover.margin", "Cover's blank beyond", AT(work.cover_margin), 8, 80, "the cover, each side")});
}

#undef AT

/// Layers whose blanks are one piece take no place in the list: it ends with the last that is glued of strips.
Field layer_strips(std::size_t k) {
  Field f = strips_field(
      fmt::format("body.strips_{}", k + 1), worded("Layer {} glued of strips", k + 1),
      [k](const Project& p) {
        const auto& all = body_of(p).work.strips;
        return k < all.size() ? all[k] : StripStack{};
      },
      "from the bass edge: wood width; the next after a semicolon; 'across:' from the neck's end; none: one piece");
  f.put = [k](Project& p, const FieldValue& v) {
    auto stack = strips_from(std::get<std::string>(v), {});
    if (!stack) return;
    auto& all = body_of(p).work.strips;
    if (all.size() <= k) all.resize(k + 1);
    all[k] = std::move(*stack);
    while (!all.empty() && all.back().empty()) all.pop_back();
  };
  return f;
}

}  // namespace

std::vector<Field> body_fields() {
  std::vector<Field> f;
  form_fields(f);
  setup_fields(f);
  pickup_fields(f);
  control_fields(f);
  comfort_fields(f);
  work_fields(f);
  sizes_at_hand(
      f, "body.hand.bridge-measured",
      {"bridge.piece_length", "bridge.piece_ahead", "bridge.piece_pitch", "bridge.low", "bridge.high", "bridge.travel",
       "bridge.forward", "bridge.post_spacing", "bridge.post_diameter", "bridge.plate_length", "bridge.plate_width",
       "bridge.plate_ahead", "bridge.screw_behind", "bridge.anchor_behind", "bridge.anchor_height", "bridge.ferrule",
       "bridge.ferrule_depth", "bridge.weight"});
  for (const std::string which : {"neck", "middle", "bridge"}) {
    std::vector<std::string> sizes;
    for (const char* size : {"length", "width", "corner", "poles", "ear_length", "ear_width", "screw_pitch", "weight"})
      sizes.push_back("pickup." + which + "." + size);
    sizes_at_hand(f, "body.hand.pickups-measured", sizes);
  }
  sizes_at_hand(f, "body.hand.controls-measured",
                {"control.shaft", "control.switch_hole", "control.switch_length", "control.switch_needs",
                 "control.magnet", "control.magnet_depth", "wire.jack", "wire.jack_spans", "wire.jack_inside"});
  static const char* const layer_keys[] = {"body.layer_1", "body.layer_2", "body.layer_3",
                                           "body.layer_4", "body.layer_5", "body.layer_6"};
  for (std::size_t k = 0; k < most_layers; ++k) f.push_back(layer_strips(k));
  for (std::size_t k = 0; k < most_layers; ++k)
    f.push_back(measure_field(layer_keys[k], worded("Layer {}, thickness", k + 1), 0.3, 150));

  return f;
}

}  // namespace wren

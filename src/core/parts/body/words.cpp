// The body's numbers, lines and words.
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include "core/job/follow.hpp"
#include "core/parts/body/part.hpp"

namespace wren {
namespace {

constexpr double degrees = 180 / std::numbers::pi;

// A hand says that the pieces were bought and measured.
const char* const bridge_measured = "body.hand.bridge-measured";
const char* const pickups_measured = "body.hand.pickups-measured";
const char* const controls_measured = "body.hand.controls-measured";

std::vector<LedgerLine> numbers(const PartInput& input) {
  const auto& d = input.designs.shape<BodyDesign>();
  Numbers n;
  const BodyShape& s = d.shape;
  const Box2 box = bounds(s.corners);
  n.length("body.length", "Body length", box.size().x, "along the centre line, horns included");
  n.length("body.width", "Body width", box.size().y, "widest");
  n.number("body.nodes", "Nodes", static_cast<double>(s.path.size()), "",
           worded("{} edges and arcs within 0.004 mm of the drawn curves", s.outline.size()));
  n.length("body.thickness", "Body thickness", s.thickness, "sum of the layers in use");
  const BodySetup& st = s.setup;
  const SetupNumbers& in = s.given.setup;
  const bool tilt_follows = in.follows == PocketFollows::tilt;
  const double heel = s.heel.under();
  static const std::vector<Field> fields = body_fields();
  const Words bridge = hangs_on(input.project, fields, bridge_measured, "the bridge");
  const Words pickup = hangs_on(input.project, fields, pickups_measured, "the pickups");
  const Words parts = hangs_on(input.project, fields, controls_measured, "pots and switch");
  n.number("body.tilt", "Neck tilt", st.tilt * degrees, "°",
           tilt_follows
               ? worded("so that the lowest saddle stands {} over the face with a pocket {} deep",
                        mm(in.school == SetupSchool::action ? s.given.bridge.low + in.reserve : s.given.bridge.low),
                        mm(in.depth)) +
                     bridge
               : "as given");
  n.length("body.depth_end", "Pocket at the heel's end", st.depth_end,
           tilt_follows
               ? "as given"
               : worded("heel {} under the board, less what the bridge's lowest saddle leaves", mm(heel)) + bridge);
  n.length("body.depth_edge", "Pocket at the edge", st.depth_edge,
           worded("the floor falls by {} over {}", mm(st.depth_edge - st.depth_end), mm(s.given.outline.pocket)));
  n.length("body.board_over_face", "Board over the face", st.board_over_face, "its underside at the body's edge");
  for (const SaddlePlace& p : st.saddles) {
    const std::string base = fmt::format("saddle.{}.", p.string);
    n.length(
        base + "height", worded("Saddle {} height", p.string), p.height,
        worded("over the face at the action wanted; {} up and {} down are left, {} with the string flat on the frets",
               mm(p.up), mm(p.down), mm(p.flat_height)) +
            bridge);
    n.length(base + "behind", worded("Saddle {} behind", p.string), p.compensation,
             worded("the scale line; {} ahead and {} back are left", mm(p.ahead), mm(p.back)));
    n.number(base + "break", worded("String {} over saddle", p.string), p.break_angle * degrees, "°",
             "bends down behind the saddle");
  }
  const int last = static_cast<int>(st.saddles.size());
  if (st.strings.size() > 1) {
    // From the outer saddles, as they stand: 0 where they are square to the centre line.
    const Vec3 first = st.strings.front().second, other = st.strings.back().second;
    n.number("bridge.slant", "Bridge's slant", std::atan2(other.x - first.x, std::abs(other.y - first.y)) * degrees,
             "°", "line through the outer saddles, against square to the centre line" + bridge);
  }
  for (const int string : {1, last}) {
    const auto over = string_over_frets(*s.neck->board, in, string);
    for (const int fret : {1, 5, 12, s.neck->board->given.frets.count})
      if (fret < static_cast<int>(over.size()))
        n.length(fmt::format("action.{}.{}", string, fret), worded("String {} over fret {}", string, fret),
                 over[static_cast<std::size_t>(fret)], "underside to the fret's top, straight neck");
  }
  for (const auto& p : s.pickups) {
    n.length(fmt::format("pickup.{}.string_gap", p.which), "String over pickup",
             p.string_low - s.top(p.middle) - p.size.high,
             worded("open, pickup at its highest; {} at its lowest", mm(p.string_low - s.top(p.middle) - p.size.low)) +
                 pickup);
    n.length(fmt::format("pickup.{}.string_spread", p.which), "Strings apart there", p.string_spread, "outer to outer");
  }
  if (s.given.controls.pots > 0)
    n.length("control.depth_there", "Depth at the switch",
             s.thickness - std::min(s.given.controls.bushing_left, s.given.controls.face_left) -
                 s.given.controls.ledge_depth + s.given.controls.cover_thinned,
             "behind the wood in front, to the cover" + parts);
  n.number("body.weight", "Body's wood", std::round(d.balance.body_g), "g",
           worded("{:.0f} cm³ by layers at 12 % moisture", d.balance.volume_mm3 / 1000));
  for (std::size_t k = 0; k < s.layers.size(); ++k)
    n.length(fmt::format("body.moves_{}", k + 1), worded("Layer '{}' moves", s.layers[k].layer.name),
             layer_moves(input.project, d, k, dry_room, damp_room),
             worded("wider across between {} and {} % moisture, flat-sawn", dry_room, damp_room));
  n.number("body.whole_weight", "Whole instrument", std::round(d.balance.whole_g), "g",
           "body, neck, board, bridge, pickups, tuners, hardware");
  n.number("body.chambers_weight", "Chambers take out", std::round(d.balance.chambers_g), "g",
           "against the same body without them");
  n.length("body.balance_x", "Balances at", d.balance.whole_centre.x - st.bridge_middle.x,
           "from the scale line, towards the tail");
  n.length("body.balance_y", "Balances aside by", d.balance.whole_centre.y * s.treble, "towards the treble side");
  n.number("body.hang", "Hangs at", d.balance.hang * degrees, "°",
           worded("neck over the level on a strap of {}, friction {}", mm(s.given.strap), strap_friction));
  n.length("body.misfit", "Sides may miss by", d.misfit.at(box.size() * 0.5), d.misfit.reason);
  return n.take();
}

/// The set-up's own line waits for the measured neck whether a body follows or not.
BuildLine pocket_line(const PartInput* input, const Project& p) {
  BuildLine pocket{"body.pocket",
                   "Set-up and neck pocket",
                   LineState::ready,
                   {"body.school",
                    "body.follows",
                    "body.pocket_depth",
                    "body.pocket_tilt",
                    "body.action_bass",
                    "body.action_treble",
                    "body.nut_clear",
                    "body.reserve",
                    "body.depth_end",
                    "body.depth_edge",
                    "body.tilt",
                    "body.board_over_face",
                    "saddle.",
                    "body.pocket_length",
                    "body.pocket_from",
                    "measured.sample.heel_width",
                    "body.fit",
                    "body.finish",
                    "body.bolt_hole",
                    "body.bolt_sink",
                    "body.bolt_sink_depth",
                    "neck.heel_width",
                    "measured.neck.heel_width",
                    "neck.heel_length_made",
                    "measured.neck.heel_length_made",
                    "neck.heel_in_all",
                    "measured.neck.heel_in_all",
                    "neck.heel_corner",
                    "action."},
                   Look::side,
                   "Follows the measured neck."};
  const PocketFrom from = body_of(p).body.setup.from;
  if (from == PocketFrom::numbers && input != nullptr) {
    pocket.hint = "Cut to the neck's numbers: it waits for no measure.";
    return pocket;
  }
  if (from == PocketFrom::sample && input != nullptr) {
    pocket.hint = "Follows the measured sample.";
    if (measured_in_use(p.record.measured, "sample.heel_width") != nullptr) return pocket;
    pocket.waits = true;
    pocket.waits_on = "heel-sample.measure";
    pocket.state = LineState::question;
    pocket.note = "Waits for the heel's sample, cut in scrap and measured.";
    return pocket;
  }
  Words missing;
  if (input != nullptr)
    for (const WaitingFor& w : waiting_for(p, input->designs.shape<NeckDesign>()))
      if (w.used_by.str().find("pocket") != std::string::npos && w.measured == nullptr)
        missing = missing.empty() ? w.title : worded("{}, {}", missing, w.title);
  pocket.waits = input == nullptr || !missing.empty();
  if (pocket.waits) {
    pocket.waits_on = input == nullptr ? "neck.back" : "neck.measure";
    pocket.state = LineState::question;
    pocket.note =
        input == nullptr ? "Waits for the neck." : worded("Waits for the neck, sanded and measured: {}.", missing);
  }
  return pocket;
}

/// Putting it together, in the order of the schools that were chosen.
void hand_lines(const BodyDesign& d, const Project& p, std::vector<BuildLine>& out) {
  const BodyNumbers& n = body_of(p);
  const auto hand = [&](const char* id, Words title, std::vector<std::string> keys, std::vector<std::string> after,
                        std::string hint) {
    BuildLine l{id, std::move(title), LineState::ready, std::move(keys), Look::bench};
    l.by_hand = true;
    l.after = std::move(after);
    l.hint = std::move(hint);
    out.push_back(std::move(l));
  };
  const std::vector<std::string> of_jack{"wire.jack", "wire.jack_when", "wire.jack_behind", "wire.jack_angle",
                                         "wire.jack_dish"};
  const std::vector<std::string> body_cut{"body.cut.front.", "body.cut.back.", "body.cut.skim."};
  const bool jack =
      std::any_of(d.shape.edge_jobs.begin(), d.shape.edge_jobs.end(), [](const EdgeJob& j) { return j.id == "jack"; });
  const bool bare = n.body.wires.jack_when == JackWhen::body_bare;
  if (jack && bare)
    hand("body.hand.jack", "Jack hole, in the bare body", of_jack, body_cut,
         "Drill it while the body lies flat and free on the bench: nothing is finished yet that could be scratched. "
         "Clamp it, wear eye protection.");
  std::vector<std::string> on = body_cut;
  on.insert(on.end(), {"neck.cut.", "neck.hand.board", "body.hand.jack"});
  const NeckJoint joint = d.shape.neck->given.joint;
  hand("body.hand.neck-on",
       joint == NeckJoint::bolted  ? "Neck screwed into its pocket"
       : joint == NeckJoint::glued ? "Neck glued into its pocket"
                                   : "Neck and body's wings glued together",
       {"neck.joint", "body.fit", "body.finish", "body.bolt_hole", "body.depth_end", "body.depth_edge", "body.tilt"},
       std::move(on),
       "Lay a straightedge along each side of the neck before anything sets: both meet the bridge's outer strings "
       "alike.");
  if (jack && !bare)
    hand("body.hand.jack", "Jack hole, by its guide", of_jack, {"body.hand.neck-on", "jack-guide.cut."},
         "Clamp the guide against the finished edge, soft pads between, and drill slowly with a stop. Wear eye "
         "protection.");
  hand(
      "body.hand.strings", "Hardware, wires, strings, set-up",
      {"body.action_bass", "body.action_treble", "body.nut_clear"},
      {"body.hand.neck-on", "body.hand.jack", "body.cut.", "fretboard.hand.frets", "fretboard.hand.frets-1",
       "fretboard.hand.frets-2", "fretboard.hand.ends", "cover.cut.", "scratch-plate.cut."},
      "String it, let it settle, then set string height, relief and intonation, and write down what they became. Mains "
      "and structural work belong to licensed people.");
}

PartLines lines(const PartInput* input, const Project& p) {
  PartLines out;
  const auto line = [&](const char* id, const char* title, std::vector<std::string> keys, Look look = Look::plan) {
    out.before.push_back({id, title, LineState::ready, std::move(keys), look});
  };
  out.before.push_back(heading("Body"));
  if (input != nullptr) {
    line("body.outline", "Outline",
         {"body.form", "body.lower_width", "body.waist_width", "body.upper_width", "body.tail", "body.horn_bass",
          "body.horn_treble", "body.length", "body.width", "body.nodes"});
    line("body.bridge", "Bridge",
         {"bridge.", "strings.spread_from", "strings.piece_width", "strings.piece_gap", "body.line_error"});
  }
  const auto at_hand = [&](const char* id, const char* title, std::vector<std::string> keys) {
    out.before.push_back({id, title, LineState::ready, std::move(keys), Look::plan});
    out.before.back().by_hand = true;
    out.before.back().hint =
        "Measure the piece that you bought, enter its sizes, then say that it is done: until then they are the list's.";
  };
  if (input != nullptr) at_hand(bridge_measured, "Bridge at hand, measured", {"bridge."});
  out.before.push_back(pocket_line(input, p));
  if (input == nullptr) return out;
  line("body.pickups", "Pickups", {"pickup."});
  at_hand(pickups_measured, "Pickups at hand, measured", {"pickup."});
  line("body.controls", "Controls", {"control.", "plate."});
  at_hand(controls_measured, "Pots, switch and jack at hand, measured",
          {"control.shaft", "control.switch_hole", "control.switch_length", "control.switch_needs", "wire.jack",
           "wire.jack_spans", "wire.jack_inside"});
  std::vector<std::string> layers{"body.layers", "body.thickness"};
  for (std::size_t k = 0; k < input->designs.shape<BodyDesign>().shape.layers.size(); ++k)
    for (const char* of : {"measured.body.layer_", "body.strips_", "body.moves_"})
      layers.push_back(of + fmt::to_string(k + 1));
  layers.insert(layers.end(), {"body.plugs", "chamber.", "wire.", "body.floor_cutter"});
  line("body.layers", "Layers, chambers, wires", std::move(layers));
  line("body.shape", "Face, comfort, edges",
       {"body.carve", "body.carve_drop", "body.carve_reach", "body.carve_flat", "body.carve_fair", "body.bevel_depth",
        "body.bevel_reach", "body.bevel_angle", "body.belly_depth", "body.belly_reach", "body.belly_angle",
        "body.round_face", "body.round_back", "body.round_by_form"},
       Look::solid);
  out.before.push_back(heading("Body on the machine"));
  line("body.blank", "Blanks",
       {"body.blank.", "body.over_along", "body.over_across", "body.over_turn", "body.back_off", "body.face_off",
        "body.facing_cutter", "body.clamps"},
       Look::bed);
  line("body.setup", "Alignment, layer by layer",
       {"body.alignment", "body.turn", "body.tick_error", "body.pin_diameter", "body.pin_inset", "body.pin_offset",
        "body.pin_depth", "body.pins", "body.pin_play", "body.square_error", "body.fence_x", "body.fence_y",
        "body.fence_height", "body.pin_length", "body.misfit"},
       Look::bed);
  hand_lines(input->designs.shape<BodyDesign>(), p, out.assembly);
  out.assembly.push_back(
      {"body.strings",
       "String height over the frets",
       LineState::ready,
       {"body.action_bass", "body.action_treble", "body.nut_clear", "body.reserve", "action.", "saddle."},
       Look::side});
  out.assembly.push_back({"body.balance",
                          "Weight and balance",
                          LineState::ready,
                          {"body.whole_weight", "body.weight", "body.chambers_weight", "body.hang", "body.balance_x",
                           "body.balance_y", "body.strap", "body.tuner_weight", "body.hardware_weight"}});
  return out;
}

SheetWords words(const PartInput& in) {
  const BodyWork& w = body_of(in.project).work;
  const auto& d = in.designs.shape<BodyDesign>();
  const BodyShape& s = d.shape;
  const AlignmentNumbers& a = w.alignment;
  const Box2 box = bounds(s.corners);
  SheetWords out;
  Words blank{"{} × {}, {} thick", {d.blank.length, d.blank.width, d.blank.thickness}};
  if (w.face_off > 0) {
    blank += ", {} of it faced off";
    blank.add(w.face_off);
  }
  if (w.back_off > 0) {
    blank += ", {} of it off the back";
    blank.add(w.back_off);
  }
  out.facts = {
      {"Blank", blank},
      {"Layers", {layers_text(layers_in_use(in.project))}},
      {"Body", {"{} × {}, {} thick", {box.size().x, box.size().y, s.thickness}}},
      {"Neck pocket", worded("{} deep at the heel's end, {} at the edge, tilt {:.2f}°{}", mm(s.setup.depth_end, 3),
                             mm(s.setup.depth_edge, 3), s.setup.tilt * degrees,
                             s.heel.measured ? "; follows the measured heel" : "; the heel is not measured yet")},
      {"Alignment", {school_name(a.school)}},
      {"Turned", {a.turn == Turn::about_length ? "about its length" : "about its width"}},
      {"Sides may miss", worded("{} at the outline ({})", exact_mm(d.misfit.at(box.size() * 0.5)), d.misfit.reason)},
      {"Weight",
       worded("{:.0f} g of wood, {:.0f} g whole; balances {} from the scale line, hangs at {:.0f}°", d.balance.body_g,
              d.balance.whole_g, mm(d.balance.whole_centre.x - s.setup.bridge_middle.x, 3), d.balance.hang * degrees)}};
  out.set_up.push_back(worded("{}: saddles can go {} up and {} down.",
                              s.given.setup.school == SetupSchool::action
                                  ? "Set up for the action wanted"
                                  : "Set up for strings flat on the frets with the saddles at their lowest",
                              exact_mm(s.setup.least_up), exact_mm(s.setup.least_down)));
  for (const SaddlePlace& saddle : s.setup.saddles)
    out.set_up.push_back(worded("String {}: saddle {} over the face, {} behind the scale line, breaks by {:.1f}°.",
                                saddle.string, mm(saddle.height, 3), mm(saddle.compensation, 3),
                                saddle.break_angle * degrees));
  out.set_up.push_back(
      {"Before the pocket is cut: lay a straightedge along each side of the neck; both must meet the "
       "bridge's outer strings alike."});
  if (w.over_turn != 0 && std::any_of(w.strips.begin(), w.strips.end(), [](const StripStack& k) { return !k.empty(); }))
    out.by_hand.push_back(
        {worded("Blanks glued of strips: saw each square to the body's centre line, which runs {}° aslant of the "
                "joints, the tail towards the {} side.",
                format_mm(std::abs(w.over_turn), 2), w.over_turn > 0 ? "treble" : "bass")});
  for (const EdgeJob& j : s.edge_jobs)
    out.by_hand.push_back(
        worded("{}: {} wide, {} deep, {} from the scale line and {} from the centre line, {} under the face, aimed "
               "{:.0f}° against the centre line{}. The edge is {} thick there.",
               Words(j.title), mm(j.diameter, 3), mm(j.depth, 3), mm(j.at.x - s.setup.bridge_middle.x, 3),
               mm(std::abs(j.at.y), 3), mm(-j.z, 3), std::atan2(j.inward.y, j.inward.x) * degrees,
               j.reaches.empty() ? "" : ", into the control cavity", mm(j.thickness, 3)));
  for (const EdgeJob& j : s.edge_jobs) {
    if (j.id != "jack") continue;
    const WireNumbers& wire = s.given.wires;
    if (wire.jack_dish > 0)
      out.by_hand.push_back({"Jack: a dish {} deep round its hole first, so that {} of wall are left along its axis.",
                             {wire.jack_dish, j.wall - wire.jack_dish}});
    if (wire.jack_kind == JackKind::plate && j.bulge > practice::jack_flat_most)
      out.by_hand.push_back({"Jack's plate: a flat {} long on the edge, at most {} deep, before the hole is drilled.",
                             {practice::jack_plate, j.bulge}});
  }
  if (s.layers.size() < 2 && s.given.wires.width > 0 && !s.controls.empty()) {
    // A one-piece body has its wire ways drilled with a long drill.
    const auto way = [&](const std::string& from, Vec2 at, const char* to) {
      const Vec2 end = s.controls.front();
      out.by_hand.push_back(
          worded("Wire hole from the {} to the {}: {} long, {:.0f}° against the centre line; a long drill wanders with "
                 "the grain, go slowly.",
                 from, to, mm(distance(at, end), 3), std::atan2(end.y - at.y, end.x - at.x) * degrees));
    };
    for (const auto& pickup : s.pickups) way(pickup.which + " pickup's cavity", pickup.middle, "control cavity");
    way("bridge", s.setup.bridge_middle, "control cavity (ground wire)");
  }
  out.materials = d.woods;
  out.cautions = {
      "Dust of hard and exotic woods harms lungs and skin: extraction and a mask. Finishing, mains and "
      "structural work follow local rules and belong to licensed people."};
  out.boxes = {"Layers, measured", "Pocket depth, end and edge", "Heel fit",
               "Body weight",      "Feed override used",         "What to do otherwise next time"};
  return out;
}

}  // namespace

PartKind body_part() {
  PartKind kind;
  kind.table = {"body", "Body", body_fields(), body_to_json, body_from_json};
  kind.needs = {"fretboard", "neck"};
  kind.measures = {"neck.heel_width", "neck.heel_length_made", "neck.heel_in_all", "sample.heel_width", "body."};
  kind.design = [](const PartInput& in) -> Expected<Design> {
    auto d = design_body(in.project, in.designs.shape<NeckDesign>(), in.designs.shape<BoardDesign>().weight_g);
    if (!d) return tl::unexpected(d.error());
    return design_of(std::move(*d));
  };
  kind.pieces = [](const PartInput& in) { return body_pieces(in.project, in.designs.shape<BodyDesign>()); };
  kind.numbers = numbers;
  kind.lines = lines;
  kind.words = words;
  kind.mesh = [](const PartInput& in, double within) {
    return body_mesh(in.designs.shape<BodyDesign>().shape, within);
  };
  return kind;
}

}  // namespace wren

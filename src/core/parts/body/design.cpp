#include "core/parts/body/part.hpp"

#include <algorithm>
#include <memory>

#include <fmt/format.h>

#include "core/motion/toolpath.hpp"
#include "core/parts/body/ears.hpp"
#include "core/parts/body/layers.hpp"
#include "core/parts/body/target.hpp"
#include "core/units/plain_number.hpp"
#include "core/workshop/pin_room.hpp"
#include "core/workshop/safe_height.hpp"

namespace wren {
namespace {

std::string up(double v, double to = 1) { return format_mm(std::ceil(v / to - 1e-9) * to, 2); }

/// What is cut of each layer, and what wood that leaves for what comes after.
void work_layers(const BodyWork& w, BodyDesign& d) {
  const std::size_t n = d.shape.layers.size();
  for (std::size_t k = 0; k < n; ++k) d.cuts.push_back(n > 1 ? layer_cuts(w, d, k) : std::vector<LayerCut>{});
  if (n < 2) return;
  d.stack = std::make_shared<const DesignedStack>(w, d);
  for (std::size_t k = 0; k < n; ++k) {
    // Turned over, a window is no wood any more.
    std::vector<std::shared_ptr<const RegionMask>> windows;
    for (const LayerCut& c : d.cuts[k])
      if (c.through) windows.push_back(std::make_shared<const RegionMask>(c.region));
    if (windows.empty()) continue;
    const double high = -d.layers[k].to_work.shift.z;
    const double low = -d.under[k].to_work.shift.z;
    d.under[k].wood_top = [windows, low, high, turn = d.under[k].turn](Vec2 q) {
      const Vec2 at = turned(turn, q);
      const bool open = std::any_of(windows.begin(), windows.end(), [&](const auto& m) { return m->holds(at); });
      return open ? -high : low;
    };
  }
  // The glued body: where layers are worked through, or the top is smaller than the blank, wood is missing.
  const bool open =
      std::any_of(d.shape.cavities.begin(), d.shape.cavities.end(), [](const Cavity& c) { return c.by_layer; });
  if (!open && w.top_oversize <= 0) return;
  const double bottom = -d.shape.thickness - w.back_off;
  d.front.wood_top = [stack = d.stack, bottom](Vec2 q) { return stack->top(q, bottom); };
  if (open)
    d.back.wood_top = [stack = d.stack, turn = d.back.turn](Vec2 q) { return -stack->bottom(turned(turn, q), 0); };
}

void lay_on_machine(const Project& p, BodyDesign& d) {
  const BodyWork& w = body_of(p).work;
  const Box2 box = bounds(d.shape.corners);
  // Slid over its blank, the outline lies aside of the blank's middle.
  d.blank_middle = box.middle() - Vec2{w.over_along, w.over_across * (d.shape.treble > 0 ? 1 : -1)};
  Blank b;
  b.length = w.blank_length;
  b.width = w.blank_width;
  b.lie = w.lie;
  b.clamps = w.clamps;
  b.wood = d.shape.layers.front().layer.wood;
  b.thickness = d.shape.thickness + w.face_off + w.back_off;
  d.blank = b;
  d.face_top = w.face_off;
  const AlignmentNumbers& a = w.alignment;
  d.pins = pin_plan(b, a, d.blank_middle);
  d.front = side_setup(p.machine, b, a, d.blank_middle, Turn::none, d.face_top);
  // Turned over, what was faced off its face is gone.
  Blank faced = b;
  faced.thickness -= w.face_off;
  d.back = side_setup(p.machine, faced, a, d.blank_middle, a.turn, -d.shape.thickness - w.back_off);
  const auto part_box = [&](Setup& s) {
    Box2 part;
    for (const Vec2 q : d.shape.corners) part.add(s.to_work.apply(turned(s.turn, q)));
    s.board_low = {part.low.x, part.low.y, -s.blank.thickness};
    s.board_high = {part.high.x, part.high.y, 0};
  };
  part_box(d.front);
  part_box(d.back);
  for (std::size_t k = 0; k < d.shape.layers.size(); ++k) {
    Blank l = b;
    l.thickness = d.shape.layers[k].layer.thickness + (k == 0 ? w.face_off : 0) +
                  (k + 1 == d.shape.layers.size() ? w.back_off : 0);
    l.wood = d.shape.layers[k].layer.wood;
    Setup s =
        side_setup(p.machine, l, a, d.blank_middle, Turn::none, d.shape.layers[k].top + (k == 0 ? w.face_off : 0));
    part_box(s);
    d.layers.push_back(std::move(s));
    Setup turned_over = side_setup(p.machine, l, a, d.blank_middle, a.turn,
                                   d.shape.layers[k].bottom - (k + 1 == d.shape.layers.size() ? w.back_off : 0));
    part_box(turned_over);
    d.under.push_back(std::move(turned_over));
  }
  if (a.school == School::pins) {
    d.front.bed_holes = waste_board_holes(d.front, d.back, d.pins, a);
    d.back.bed_holes = d.front.bed_holes;
    for (auto* all : {&d.layers, &d.under})
      for (Setup& s : *all) s.bed_holes = d.front.bed_holes;
  }
  const bool oversize_ears = w.top_oversize > 0 && w.top_register == TopRegister::ears && d.shape.layers.size() > 1;
  if (w.outline == OutlineSchool::guide || (oversize_ears && a.school != School::fence))
    d.ears = ears_of(d.shape.corners, b, d.blank_middle, a, d.pins, w.ear_width);
  d.misfit = expected_error(b, a);
  work_layers(w, d);
  // Glued of layers it was on the machine before.
  if (d.shape.layers.size() > 1) d.front.found_by = register_of(b, a);
}

void judge_blank(const Project& p, const BodyDesign& d, std::vector<Remark>& out) {
  const BodyWork& w = body_of(p).work;
  const Box2 box = bounds(d.shape.corners);
  const Cutter* c = find_cutter(d.rack, w.outline_cutter);
  const double kerf = (c != nullptr ? c->effective_diameter() : 6.35) + w.skim;
  // An oversize top is cut out of its blank further out.
  const bool oversize = w.top_oversize > 0 && d.shape.layers.size() > 1;
  const bool oversize_ears = oversize && w.top_register == TopRegister::ears;
  const double margin = oversize && !oversize_ears ? w.top_oversize : 0;
  const double beside = margin + kerf + 2;
  // Between the outline's kerf and a pin half a millimetre of wood stays.
  const double pins = w.alignment.school == School::pins
                          ? w.alignment.pin_inset + w.alignment.pin_diameter / 2 + std::max(4.0, margin + kerf + 0.5)
                          : 0;
  const bool bored_into = w.alignment.school == School::pins && d.blank.length > 0 &&
                          pins_meet(d.pins,
                                    w.alignment.pin_diameter / 2 +
                                        (w.outline == OutlineSchool::guide || oversize_ears ? 0 : margin + kerf + 0.5),
                                    d.shape.corners);
  const auto small = [&](const char* kind, const char* key, const char* way, double have, double part, double need) {
    if (have >= need - 1e-9) return;
    const bool pins_there = bored_into && key == std::string("body.blank.length");
    Remark r{kind,
             have < part || pins_there ? Weight::stop : Weight::think_again,
             worded("The body's blank is {} {}; the body, its cutter{} need {}.", mm(have), way,
                    pins > 0 ? " and the pins" : "", mm(need)),
             have,
             need,
             "mm",
             "the body, its cutter and the pins",
             key,
             {},
             {},
             {}};
    r.repair = Repair{worded("Take a blank of {}", as_mm(up(need))), {{key, up(need)}}};
    out.push_back(std::move(r));
  };
  small("body.blank_short", "body.blank.length", "long", d.blank.length, box.size().x + 2 * std::abs(w.over_along),
        box.size().x + 2 * (std::max(beside, pins) + std::abs(w.over_along)));
  small("body.blank_narrow", "body.blank.width", "wide", d.blank.width, box.size().y + 2 * std::abs(w.over_across),
        box.size().y + 2 * (beside + std::abs(w.over_across)));
  const Vec3& travel = p.machine.travel;
  const Vec2 size = d.front.blank_size;
  if (size.x > travel.x || size.y > travel.y) {
    const bool turned_fits = size.y <= travel.x && size.x <= travel.y;
    const bool y_way = w.lie == Lie::along_y;
    Remark r{"body.machine_short",
             Weight::stop,
             worded("The body's blank covers {} × {} and the machine travels {} × {}.", format_mm(size.x, 1),
                    mm(size.y, 1), format_mm(travel.x, 1), mm(travel.y, 1)),
             std::max(size.x - travel.x, size.y - travel.y),
             0,
             "mm",
             "the machine's travels",
             "body.blank.lie",
             {},
             {},
             {}};
    if (turned_fits)
      r.repair =
          Repair{y_way ? "Lay the body along x" : "Lay the body along y", {{"body.blank.lie", y_way ? "x" : "y"}}};
    out.push_back(std::move(r));
  }
  if (w.alignment.school == School::fence) {
    const Vec2 far = Vec2{d.front.zero_in_machine.x, d.front.zero_in_machine.y} + size;
    if (far.x > travel.x + 1e-9 || far.y > travel.y + 1e-9) {
      const bool in_x = far.x - travel.x >= far.y - travel.y;
      const char* key = in_x ? "body.fence_x" : "body.fence_y";
      const double room = in_x ? travel.x - size.x : travel.y - size.y;
      Remark r{"body.fence_far",
               Weight::stop,
               worded("From the corner of the fence the blank reaches {} beyond the machine's travel in {}.",
                      mm(in_x ? far.x - travel.x : far.y - travel.y), in_x ? "x" : "y"),
               0,
               0,
               "mm",
               "the machine's travels",
               key,
               {},
               {},
               {}};
      if (room > 0)
        r.repair =
            Repair{worded("Set the fence's corner at {} {}", in_x ? "x" : "y", format_mm(std::floor(room / 2), 1)),
                   {{key, format_mm(std::floor(room / 2), 1)}}};
      out.push_back(std::move(r));
    }
  }
  for (const auto& clamp : d.front.clamp_boxes()) {
    const Setup& s = d.front;
    if (clamp.high.x > s.board_low.x - beside && clamp.low.x < s.board_high.x + beside &&
        clamp.high.y > s.board_low.y - beside && clamp.low.y < s.board_high.y + beside)
      out.push_back(
          {"body.clamp_on",
           Weight::think_again,
           worded("The clamp '{}' stands within the body's length and width: look whether the outline passes it.",
                  clamp.name),
           0,
           0,
           "mm",
           "the clamp's place",
           "body.clamps",
           {},
           Repair{"Hold it by its pins and screws in the waste", {{"body.clamps", "none"}}},
           {}});
  }
  if (w.through < 0.1)
    out.push_back(
        {"body.skin_left",
         w.through <= 0 ? Weight::stop : Weight::think_again,
         worded(
             "The outline goes {} into the waste board; a cut at just the measured thickness leaves a paper-thin skin.",
             mm(w.through)),
         w.through,
         0.1,
         "mm",
         "common practice",
         "body.through",
         {},
         Repair{worded("Go {} into the waste board", mm(0.2)), {{"body.through", "0.2"}}},
         {}});
  if (w.tabs < 3)
    out.push_back({"body.tabs_few",
                   w.tabs < 1 ? Weight::stop : Weight::think_again,
                   w.tabs < 1 ? "Without tabs the body comes free under a turning cutter and flies."
                              : "Fewer than three tabs let the body swing when the last wood is cut.",
                   static_cast<double>(w.tabs),
                   4,
                   "",
                   "common practice",
                   "body.tabs",
                   {},
                   Repair{"Leave four tabs", {{"body.tabs", "4"}}},
                   {}});
  if (w.alignment.school == School::pins && w.alignment.pin_offset < 2)
    out.push_back({"body.pin_offset",
                   Weight::think_again,
                   "The second pin stands in line with the first: the blank also goes on the wrong way round.",
                   w.alignment.pin_offset,
                   2,
                   "mm",
                   "common practice",
                   "body.pin_offset",
                   {},
                   Repair{worded("Set it {} aside", mm(30)), {{"body.pin_offset", "30"}}},
                   {}});
  const double miss = d.misfit.at(box.size() * 0.5);
  Remark r{
      "body.misfit",
      miss > 0.3 ? Weight::think_again : Weight::worth_knowing,
      worded("Turned over, the sides may miss each other by {} at the outline ({}): it shows as a step {}.", mm(miss),
             d.misfit.reason, w.outline == OutlineSchool::halves ? "half way up the edge" : "at holes that meet"),
      miss,
      0.3,
      "mm",
      "the alignment's own errors added up",
      "body.alignment",
      {},
      {},
      {}};
  if (miss > 0.3 && w.alignment.school != School::pins)
    r.repair = Repair{"Align on two pins", {{"body.alignment", "pins"}}};
  out.push_back(std::move(r));
}

/// Ways of working that this body cannot have, or not with these numbers.
void judge_schools(const Project& p, const BodyDesign& d, std::vector<Remark>& out) {
  const BodyWork& w = body_of(p).work;
  const Body& b = d.shape.given;
  const auto say = [&](const char* kind, Weight weight, Words text, double number, double limit, const char* source,
                       const char* key, std::vector<Repair> ways) {
    Remark r{kind, weight, std::move(text), number, limit, "mm", source, key, {}, {}, {}};
    if (!ways.empty()) r.repair = ways.front();
    r.others.assign(ways.begin() + (ways.empty() ? 0 : 1), ways.end());
    out.push_back(std::move(r));
  };
  if (w.outline_when == OutlineWhen::first) {
    const Repair last{"Cut the outline last", {{"body.outline_when", "last"}}};
    if (w.outline != OutlineSchool::full)
      say("body.first_in_one", Weight::stop,
          w.outline == OutlineSchool::guide
              ? "An outline that is cut first cannot be sawn: nothing would hold the body for its other cuts."
              : "An outline that is cut first is cut through in one go, and not half from each side.",
          0, 0, "geometry", "body.outline_when", {{"Cut it to full depth", {{"body.outline_school", "full"}}}, last});
    if (w.back_off > 0)
      say("body.first_and_faced", Weight::stop,
          "The back is faced off after the outline: the tabs that hold the body would go with it.", w.back_off, 0,
          "geometry", "body.outline_when", {{"Face nothing off the back", {{"body.back_off", "0"}}}, last});
    const double section = w.first_tab_height * w.first_tab_length;
    constexpr double least =
        60;  // mm² of wood in each tab that carries whole cuts: six times a usual one (from memory)
    if (section < least)
      say("body.first_tabs", Weight::stop,
          worded("The first tabs are {} by {}: too little wood to hold the body through every other cut.",
                 mm(w.first_tab_length), mm(w.first_tab_height)),
          section, least, "common practice", "body.first_tab_height",
          {{worded("Make them {} high", as_mm(up(least / w.first_tab_length, 0.5))),
            {{"body.first_tab_height", up(least / w.first_tab_length, 0.5)}}},
           last});
    else
      say("body.first_held", Weight::worth_knowing,
          worded("The outline is cut first: {} tabs of {} by {} hold the body through all that follows; the frame must "
                 "be clamped or screwed all round.",
                 d.tabs.size(), mm(w.first_tab_length), mm(w.first_tab_height)),
          section, least, "common practice", "body.outline_when", {last});
    // What is left of them stands between the groove of the back's edge and that of the face's.
    const Cutter* ball = find_cutter(d.rack, w.finish_cutter);
    const auto groove = [&](double radius, bool carved) {
      return radius <= 0 ? 0 : radius + (b.comfort.round_by_form && !carved ? 0 : ball != nullptr ? ball->radius() : 0);
    };
    const double room = d.shape.thickness - groove(b.comfort.round_back, d.shape.carved_back()) -
                        groove(b.comfort.round_face, d.shape.carved_face()) - b.comfort.belly_depth -
                        b.comfort.bevel_depth - (b.comfort.carve == CarveKind::dome ? b.comfort.carve_drop : 0);
    if (w.first_tab_height > room)
      say("body.first_tabs_high", Weight::stop,
          worded("Between what the face's and the back's edges lose the first tabs have room for {}, and are {} high.",
                 mm(room), mm(w.first_tab_height)),
          w.first_tab_height, room, "geometry", "body.first_tab_height",
          {{worded("Make them {} high", mm(std::floor(room), 1)),
            {{"body.first_tab_height", format_mm(std::max(4.0, std::floor(room)), 1)}}},
           last});
  }
  if (b.floors == FloorEdge::rounded) {
    if (b.controls.by_layer && d.shape.layers.size() > 1)
      say("body.floor_layers", Weight::stop,
          "Cut layer by layer the control cavity's floor is another layer's face: its edge cannot be rounded.", 0, 0,
          "geometry", "control.floor_edges",
          {{"Leave the floors square", {{"control.floor_edges", "flat"}}},
           {"Cut it after the glue-up", {{"control.by_layer", "no"}}}});
    const Cutter* c = find_cutter(d.rack, w.floor_cutter);
    if (c == nullptr || c->kind != CutterKind::ball) {
      say("body.floor_cutter", Weight::stop,
          c == nullptr ? worded("The round nose '{}' for the floors is not in the rack.", w.floor_cutter)
                       : worded("'{}' is a {}: floors are rounded by a ball.", c->id, cutter_kind_name(c->kind)),
          0, 0, "the rack", "body.floor_cutter", {{"Leave the floors square", {{"control.floor_edges", "flat"}}}});
    } else if (std::abs(c->radius() - b.floor_radius) > 0.005) {
      say("body.floor_radius", Weight::stop,
          worded("'{}' rounds a floor's edge by {}, and {} is asked for.", c->id, mm(c->radius()), mm(b.floor_radius)),
          c->radius(), b.floor_radius, "the rack", "control.floor_radius",
          {{worded("A rounding of {}", mm(c->radius(), 3)), {{"control.floor_radius", format_mm(c->radius(), 3)}}},
           {"Leave the floors square", {{"control.floor_edges", "flat"}}}});
    }
  }
  const Strings& strings = d.shape.neck->board->given.strings;
  if (b.bridge.kind == BridgeKind::pieces) {
    // Beside each other, square to their strings.
    double least = 1e9;
    for (std::size_t i = 0; i + 1 < d.shape.setup.strings.size(); ++i) {
      const auto& [nut, saddle] = d.shape.setup.strings[i];
      const Vec2 along = unit(flat(saddle) - flat(nut));
      least = std::min(least, std::abs(cross(along, flat(d.shape.setup.strings[i + 1].second) - flat(saddle))));
    }
    const double need = strings.piece_width + strings.piece_gap;
    const std::string spread = format_mm(std::ceil((strings.count - 1) * need * 10 - 1e-6) / 10, 2);
    if (strings.piece_width > least + 1e-6)
      say("bridge.piece_wide", Weight::stop,
          worded("A bridge piece is {} wide, and its string has room for {}: the next piece stands in the way.",
                 mm(strings.piece_width), mm(least)),
          strings.piece_width, least, "the strings at the bridge", "strings.piece_width",
          {{"Let the spread follow the pieces", {{"strings.spread_from", "pieces"}}},
           {worded("A spread of {} at the bridge (changes board and neck)", as_mm(spread)),
            {{"strings.bridge_spread", spread}}}});
    else if (strings.spread_from == SpreadFrom::given)
      say("bridge.pieces_apart", Weight::worth_knowing,
          worded("The pieces stand {} apart: beside each other the strings would spread over {}.",
                 mm(least - strings.piece_width), mm((strings.count - 1) * need)),
          least, need, "the pieces' width", "strings.spread_from",
          {{"Let the spread follow the pieces", {{"strings.spread_from", "pieces"}}}});
  } else if (strings.spread_from == SpreadFrom::pieces) {
    say("bridge.no_pieces", Weight::think_again,
        "The strings' spread follows single bridge pieces, and the bridge is none of those.", 0, 0, "the bridge",
        "strings.spread_from",
        {{"Keep the spread as a number", {{"strings.spread_from", "given"}}},
         {"A bridge of single pieces", {{"bridge.name", "single-pieces"}}}});
  }
  const ControlNumbers& c = b.controls;
  if (c.pots > 0 && c.knob_recess > 0) {
    const double left = std::min(c.face_left, c.bushing_left + c.knob_depth) - c.knob_depth;
    if (left < c.bushing_left - 1e-9)
      say("control.knob_deep", left < 1 ? Weight::stop : Weight::think_again,
          worded("Under the knobs' recesses {} of wood are left at the shafts; a bushing wants {}.",
                 mm(std::max(0.0, left)), mm(c.bushing_left)),
          left, c.bushing_left, "the pots' bushings", "control.knob_depth",
          {{worded("Leave {} in front of the cavity", as_mm(up(c.bushing_left + c.knob_depth, 0.1))),
            {{"control.face_left", up(c.bushing_left + c.knob_depth, 0.1)}}}});
    if (c.pots > 1 && c.knob_recess > c.pitch - 1)
      say("control.knob_wide", Weight::think_again,
          worded("Recesses of {} run into each other: the shafts stand {} apart.", mm(c.knob_recess), mm(c.pitch)),
          c.knob_recess, c.pitch - 1, "geometry", "control.knob_recess",
          {{worded("Recesses of {}", mm(c.pitch - 4, 1)), {{"control.knob_recess", format_mm(c.pitch - 4, 1)}}}});
  }
  for (const BodyShape::Pickup& pickup : d.shape.pickups) {
    const PickupNumbers& n = pickup.size;
    if (!n.behind) continue;
    const std::string key = "pickup." + pickup.which + ".behind";
    const double room = d.shape.thickness - n.front_left - c.ledge_depth;
    if (room < n.depth - n.front_left)
      say("pickup.behind_deep", Weight::stop,
          worded("Let in from behind the {} has {} between its seat and its cover, and needs {}.",
                 pickup_name(pickup.which), mm(room), mm(n.depth - n.front_left)),
          room, n.depth - n.front_left, "the body's thickness", key.c_str(),
          {{"Let it in from the face", {{key, "no"}}}});
    if (n.by_layer)
      say("pickup.behind_layers", Weight::stop,
          worded("The {} is let in from behind: its cavity is cut once the body is glued.", pickup_name(pickup.which)),
          0, 0, "geometry", key.c_str(),
          {{"Cut it after the glue-up", {{"pickup." + pickup.which + ".by_layer", "no"}}},
           {"Let it in from the face", {{key, "no"}}}});
  }
  if (w.bridge_holes == BridgeHoles::held_back) {
    const bool any =
        std::any_of(d.shape.holes.begin(), d.shape.holes.end(), [&](const BodyHole& h) { return held_back(w, h); });
    if (any)
      say("body.held_back", Weight::worth_knowing,
          worded("The bridge's holes wait until the neck is on: the strings' real line decides. They lie within {} of "
                 "it; against cavities and edge they may be off by what the neck stands aside.",
                 mm(2 * w.line_error)),
          2 * w.line_error, 0, "setting a line", "bridge.holes",
          {{"Drill them with the body", {{"bridge.holes", "with_body"}}}});
  }
}

void judge_cutters(const Project& p, const BodyDesign& d, std::vector<Remark>& out) {
  const BodyWork& w = body_of(p).work;
  const BodyWork fresh = BodyWork{};
  const auto need = [&](const std::string& id, const char* key, const char* what, const std::string& usual, auto fits) {
    const Cutter* c = find_cutter(d.rack, id);
    if (c == nullptr) {
      const Problem gone = missing_cutter(d.rack, id, key);
      Remark r{"body.cutter_missing",
               Weight::stop,
               gone.what + ": " + gone.todo + ".",
               0,
               0,
               "",
               "the rack",
               key,
               {},
               {},
               {}};
      if (find_cutter(d.rack, usual) != nullptr) r.repair = Repair{"Take " + usual, {{key, usual}}};
      out.push_back(std::move(r));
    } else if (!fits(*c)) {
      Remark r{"body.cutter_kind",
               Weight::stop,
               worded("'{}' is a {} and no {}.", id, cutter_kind_name(c->kind), what),
               0,
               0,
               "",
               "geometry",
               key,
               {},
               {},
               {}};
      if (find_cutter(d.rack, usual) != nullptr) r.repair = Repair{"Take " + usual, {{key, usual}}};
      out.push_back(std::move(r));
    }
  };
  const auto flat_one = [](const Cutter& c) { return c.kind == CutterKind::flat; };
  need(w.clear_cutter, "body.clear_cutter", "flat cutter", fresh.clear_cutter, flat_one);
  need(w.deep_cutter, "body.deep_cutter", "flat cutter", fresh.deep_cutter, flat_one);
  need(w.fine_cutter, "body.fine_cutter", "flat cutter", fresh.fine_cutter, flat_one);
  need(w.outline_cutter, "body.outline_cutter", "flat cutter", fresh.outline_cutter, flat_one);
  if (w.face_off > 0 || w.back_off > 0)
    need(w.facing_cutter, "body.facing_cutter", "facing cutter", fresh.facing_cutter,
         [](const Cutter& c) { return c.kind == CutterKind::facing || c.kind == CutterKind::flat; });
  const ComfortNumbers& c = d.shape.given.comfort;
  if (d.shape.carved_face() || d.shape.carved_back())
    need(w.rough_cutter, "body.rough_cutter", "flat cutter", fresh.rough_cutter, flat_one);
  if (d.shape.carved_face() || d.shape.carved_back() || ((c.round_face > 0 || c.round_back > 0) && !c.round_by_form))
    need(w.finish_cutter, "body.finish_cutter", "ball", fresh.finish_cutter,
         [](const Cutter& k) { return k.kind == CutterKind::ball; });
  if (c.round_by_form && (c.round_face > 0 || c.round_back > 0)) {
    need(w.round_cutter, "body.round_cutter", "round-over cutter", fresh.round_cutter,
         [](const Cutter& k) { return k.kind == CutterKind::round_over; });
    const Cutter* k = find_cutter(d.rack, w.round_cutter);
    for (const auto& [radius, key] :
         {std::pair{c.round_face, "body.round_face"}, std::pair{c.round_back, "body.round_back"}})
      if (k != nullptr && k->kind == CutterKind::round_over && radius > 0 &&
          std::abs(radius - k->corner_radius) > 0.01) {
        Remark r{"body.round_other",
                 Weight::stop,
                 worded("'{}' leaves a radius of {}, and {} is asked for.", k->id, mm(k->corner_radius), mm(radius)),
                 k->corner_radius,
                 radius,
                 "mm",
                 "the rack",
                 key,
                 {},
                 {},
                 {}};
        r.repair = Repair{worded("A radius of {}", mm(k->corner_radius, 3)), {{key, format_mm(k->corner_radius)}}};
        r.others.push_back({"By a ball, in passes", {{"body.round_by_form", "no"}}});
        out.push_back(std::move(r));
      }
    if (d.shape.carved_face() || d.shape.carved_back()) {
      Remark r{"body.round_carved",
               Weight::think_again,
               "A form cutter rounds only a level edge: where face or back is bevelled or carved the edge is rounded "
               "by a ball instead.",
               0,
               0,
               "",
               "geometry",
               "body.round_by_form",
               {},
               Repair{"By a ball, in passes", {{"body.round_by_form", "no"}}},
               {}};
      out.push_back(std::move(r));
    }
  }
  // Corners of the outline that the cutter does not get into.
  if (const Cutter* o = find_cutter(d.rack, w.outline_cutter)) {
    const Region closed = offset(offset({d.shape.corners}, o->radius()), -o->radius());
    const double missed = area(subtracted(closed, offset({d.shape.corners}, 0.02)));
    if (missed > 2) {
      const Region rest = subtracted(closed, offset({d.shape.corners}, 0.02));
      const Vec2 at = widest(rest)->front();
      out.push_back(
          {"body.outline_tight",
           Weight::worth_knowing,
           worded("'{}' leaves the outline's tightest inward corners round ({:.0f} mm² in all): finish them by hand.",
                  o->id, missed),
           missed,
           2,
           "mm²",
           "geometry",
           "body.outline_cutter",
           std::pair{at.x, at.y},
           {},
           {}});
    }
  }
  const Cavity* pocket = d.shape.cavity("pocket");
  // A neck that tilts forwards makes the floor fall towards the wall at the heel's end: twice as much stays there.
  const bool forwards = d.shape.setup.tilt < 0;
  if (const double stays =
          pocket != nullptr ? std::tan(std::abs(d.shape.setup.tilt)) * sloping_rim(w, d, *pocket) : 0.0;
      stays > 0.012)
    out.push_back({"body.sloping_floor",
                   Weight::worth_knowing,
                   forwards ? worded("A flat cutter leaves {} standing where the sloping floor meets its side walls, "
                                     "and {} along its end wall: ease the heel's lower edges with a file.",
                                     mm(stays), mm(2 * stays))
                            : worded("A flat cutter leaves {} standing where the sloping floor meets its side walls: "
                                     "ease the heel's lower edges with a file.",
                                     mm(stays)),
                   forwards ? 2 * stays : stays,
                   0.01,
                   "mm",
                   "geometry: slope times the cutter's radius",
                   "body.fine_cutter",
                   {},
                   {},
                   {}});
  for (const std::string& id : {w.deep_cutter, w.outline_cutter})
    if (const Cutter* k = find_cutter(d.rack, id))
      if (auto r = z_travel_remark(d.back, *k, safe_height(d.back, p.programs.safe), -d.blank.thickness - w.through)) {
        const double most =
            d.back.machine.clear_under_nut - d.back.blank.thickness - safe_height(d.back, p.programs.safe);
        if (r->kind == "machine.low" && most > 10 && most < k->overall - 12)
          r->repair = Repair{worded("Let it stick out {}", mm(std::floor(most), 1)),
                             {{"rack." + id + ".stickout", format_mm(std::floor(most), 1)}}};
        const bool once =
            std::none_of(out.begin(), out.end(), [&](const Remark& o) { return o.sentence == r->sentence; });
        if (once) out.push_back(*r);
      }
}

}  // namespace

bool held_back(const BodyWork& w, const BodyHole& h) {
  if (w.bridge_holes == BridgeHoles::with_body) return false;
  const std::string kind = h.id.substr(0, h.id.rfind('-'));
  return kind == "post" || kind == "plate" || kind == "piece" || kind == "string" || kind == "ferrule";
}

HeelInUse heel_in_use(const Project& p, const NeckShape& n) {
  HeelInUse h;
  h.end_x = n.end_x;
  h.designed_width = 2 * n.taper(n.end_x).half;
  h.length = n.end_x - n.heel_x;
  h.width = h.designed_width;
  h.board = n.board->given.board.thickness;
  h.accent = n.given.accent;
  h.in_all = n.given.heel.thickness;
  h.from = body_of(p).body.setup.from;
  switch (h.from) {
    case PocketFrom::numbers: break;
    case PocketFrom::sample:
      // Of a sample only the plan says anything: its thickness is the scrap's.
      h.width = in_use(p, "sample.heel_width", h.width);
      h.measured = measured_in_use(p.record.measured, "sample.heel_width") != nullptr;
      break;
    case PocketFrom::measured_heel:
      h.width = in_use(p, "neck.heel_width", h.width);
      h.length = in_use(p, "neck.heel_length_made", h.length);
      h.in_all = in_use(p, "neck.heel_in_all", h.in_all);
      h.measured = measured_in_use(p.record.measured, "neck.heel_width") != nullptr &&
                   measured_in_use(p.record.measured, "neck.heel_in_all") != nullptr;
      break;
  }
  return h;
}

std::vector<BodyLayer> layers_in_use(const Project& p) {
  std::vector<BodyLayer> out = body_of(p).body.layers;
  for (std::size_t k = 0; k < out.size(); ++k)
    out[k].thickness = in_use(p, fmt::format("body.layer_{}", k + 1), out[k].thickness);
  return out;
}

bool has_grain(const Materials& layers) {
  return std::any_of(layers.begin(), layers.end(), [](const Material& m) { return m.grain == Grain::along; });
}

GrainRun grain_at(Vec2 along) {
  const double a = std::abs(along.x);
  if (a > 0.985) return GrainRun::along;  // within 10° of the fibres
  if (a < 0.26) return GrainRun::end;     // within 15° of square to them
  // Counter-clockwise round the part the wood is on the left. Fibres that run on ahead into the wood are split off into
  // it.
  const Vec2 fibre{along.x > 0 ? 1.0 : -1.0, 0};
  return dot(fibre, left_of(along)) > 0 ? GrainRun::against : GrainRun::with;
}

std::vector<GrainSpan> grain_spans(const Contour& contour) {
  std::vector<GrainSpan> out;
  const double whole = perimeter(contour);
  // Walked edge by edge: looking a place up along the whole contour each time would cost the square of its length.
  const Polygon corners = flatten(contour, 0.01);
  double s = 0;
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const Vec2 a = corners[i];
    const Vec2 b = corners[(i + 1) % corners.size()];
    const double l = distance(a, b);
    if (l < 1e-9) continue;
    const GrainRun run = grain_at((b - a) * (1 / l));
    if (!out.empty() && out.back().run == run)
      out.back().to = s + l;
    else
      out.push_back({s, s + l, run});
    s += l;
  }
  if (!out.empty()) out.back().to = whole;
  // Slivers between two others are not worth a change of hand.
  std::vector<GrainSpan> joined_spans;
  for (const GrainSpan& g : out) {
    if (!joined_spans.empty() && (g.to - g.from < 6 || joined_spans.back().run == g.run))
      joined_spans.back().to = g.to;
    else
      joined_spans.push_back(g);
  }
  return joined_spans;
}

std::vector<Vec2> place_body_tabs(const Contour& contour, int count, const std::vector<Vec2>& avoid) {
  std::vector<Vec2> out;
  if (count <= 0 || contour.empty()) return out;
  const Polygon corners = flatten(contour, 0.01);
  std::vector<double> at{0};
  for (std::size_t i = 0; i < corners.size(); ++i)
    at.push_back(at.back() + distance(corners[i], corners[(i + 1) % corners.size()]));
  const double whole = at.back();
  const auto place = [&](double s) {
    s = std::fmod(std::fmod(s, whole) + whole, whole);
    const auto it = std::upper_bound(at.begin(), at.end(), s);
    const auto i = static_cast<std::size_t>(std::max<std::ptrdiff_t>(0, it - at.begin() - 1)) % corners.size();
    const double l = distance(corners[i], corners[(i + 1) % corners.size()]);
    return lerp(corners[i], corners[(i + 1) % corners.size()], l > 0 ? (s - at[i]) / l : 0);
  };
  for (int k = 0; k < count; ++k) {
    double best_cost = 1e300;
    Vec2 best;
    for (double t = 0.12; t <= 0.88; t += 0.01) {
      const double s = whole * (k + t) / count;
      const Vec2 a = place(s - 12);
      const Vec2 m = place(s);
      const Vec2 b = place(s + 12);
      const double bend = distance_to(m, Segment2{a, b});
      const double end_grain = 1 - std::abs(unit(b - a).x);
      double near = 0;
      for (const Vec2 v : avoid) near += std::max(0.0, 1 - distance(v, m) / 60);
      const double cost = bend * 1.5 + end_grain * 3 + near * 6 + std::abs(t - 0.5) * 0.8;
      if (cost < best_cost) {
        best_cost = cost;
        best = m;
      }
    }
    out.push_back(best);
  }
  return out;
}

Expected<BodyDesign> design_body(const Project& p, const NeckDesign& neck, double board_g) {
  BodyDesign d;
  const auto layers = layers_in_use(p);
  for (std::size_t k = 0; k < layers.size(); ++k) {
    auto wood = find_material(p.materials, layers[k].wood);
    if (!wood) return fail(ProblemKind::range, wood.error().what, "body.layers", wood.error().todo);
    // Glued of strips the hardest of them bears the cut.
    for (const Strip& strip : stack_of(body_of(p).work, k).strips) {
      const auto other = find_material(p.materials, strip.wood);
      if (!other)
        return fail(ProblemKind::range, other.error().what, fmt::format("body.strips_{}", k + 1), other.error().todo);
      if (strip == stack_of(body_of(p).work, k).strips.front() || other->cutting_force > wood->cutting_force)
        wood = other;
    }
    d.woods.push_back(*wood);
  }
  const HeelInUse heel = heel_in_use(p, neck.shape);
  auto shape = make_body(std::make_shared<const NeckShape>(neck.shape), heel, body_of(p).body, layers);
  if (!shape) return tl::unexpected(shape.error());
  d.shape = std::move(*shape);
  d.rack = p.rack;
  lay_on_machine(p, d);
  const DensityAt density = density_of(p, d);
  const BodyFrame& frame = d.shape.setup.frame;
  const auto there = [&](Vec2 q) {
    const Vec3 b = frame.to_body({q.x, q.y, 0});
    return Vec2{b.x, b.y};
  };
  std::vector<Mass> others{{"neck", neck.weight.grams, there(neck.weight.balance)},
                           {"fretboard", board_g, there(bounds(neck.shape.board->corners).middle())},
                           {"bridge", body_of(p).body.bridge.weight_g, d.shape.setup.bridge_middle}};
  for (const Tuner& t : neck.shape.tuners) others.push_back({"tuner", body_of(p).body.tuner_g, there(t.at)});
  for (const auto& pickup : d.shape.pickups) others.push_back({"pickup", pickup.size.weight_g, pickup.middle});
  Vec2 controls = d.shape.setup.bridge_middle;
  if (!d.shape.controls.empty()) {
    controls = {};
    for (const Vec2 q : d.shape.controls)
      controls = controls + q * (1.0 / static_cast<double>(d.shape.controls.size()));
  }
  others.push_back({"pots and jack", body_of(p).body.hardware_g, controls});
  d.balance = balance(d.shape, density, others, 3);
  // What the cutter meets at the edge has fibres only where its material has.
  if (has_grain(d.woods)) d.grain = grain_spans(d.shape.outline);
  std::vector<Vec2> avoid{d.shape.edge_middle};
  for (const EdgeJob& j : d.shape.edge_jobs) avoid.push_back(j.at);
  d.tabs = place_body_tabs(d.shape.outline, body_of(p).work.tabs, avoid);
  const Cutter* fine = find_cutter(d.rack, body_of(p).work.fine_cutter);
  d.remarks = body_remarks(d.shape, d.balance, fine != nullptr ? fine->radius() : 1.5875);
  judge_blank(p, d, d.remarks);
  for (std::size_t k = 0; k < d.shape.layers.size(); ++k) {
    d.joints.push_back(layer_joints(body_of(p).work, d, k));
    d.bands.push_back(layer_bands(p, d, k));
  }
  for (Remark& r : stack_remarks(p, d)) d.remarks.push_back(std::move(r));
  for (Remark& r : ear_remarks(d, body_of(p).work)) d.remarks.push_back(std::move(r));
  for (Remark& r : layer_remarks(d)) d.remarks.push_back(std::move(r));
  judge_cutters(p, d, d.remarks);
  judge_schools(p, d, d.remarks);
  return d;
}

AlignmentNumbers usual_body_alignment() {
  AlignmentNumbers a;
  a.pin_inset = 14;
  a.pin_offset = 30;
  return a;
}

}  // namespace wren

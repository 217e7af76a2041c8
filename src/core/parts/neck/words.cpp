// The neck's numbers, lines and words.
#include <algorithm>

#include <fmt/format.h>

#include "core/job/follow.hpp"
#include "core/parts/neck/part.hpp"

namespace wren {
namespace {

const char* const rod_measured = "neck.hand.rod-measured";

std::vector<LedgerLine> numbers(const PartInput& in) {
  const Project& p = in.project;
  const auto& d = in.designs.shape<NeckDesign>();
  static const std::vector<Field> fields = neck_fields();
  Numbers n;
  const NeckShape& s = d.shape;
  const Neck& given = s.given;
  n.length("neck.length", "Neck length", s.end_x - s.tip_x, "from the head's tip to the heel's end");
  n.length("neck.heel_width", "Heel width", 2 * s.taper(s.end_x).half, "the board's taper at the neck's end");
  n.length("neck.heel_length_made", "Heel length made", s.end_x - s.heel_x, "of the flat");
  n.length("neck.heel_in_all", "Heel in all", s.whole_thickness(s.end_x - 1), "board and neck at the heel");
  n.length("neck.thickness_at_a", "Thickness, first fret", s.whole_thickness(s.fret_x(given.back.fret_a)),
           worded("board and neck at fret {}", given.back.fret_a));
  n.length("neck.thickness_at_b", "Thickness, second fret", s.whole_thickness(s.fret_x(given.back.fret_b)),
           worded("board and neck at fret {}", given.back.fret_b));
  n.length("neck.heel_blend", "Change to the heel", s.heel_blend,
           given.heel.transition == Transition::arc
               ? worded("so long that its tightest place has the radius {}", exact_mm(given.heel.radius))
               : "as given");
  n.length("neck.skin", "Skin over the rod", d.skin.least,
           worded("nearest in space, near fret {} ({})", s.nearest_fret(d.skin.at.x), d.skin.channel) +
               hangs_on(p, fields, rod_measured, "the rod"));
  n.length("neck.skin_misfit", "Skin, sides apart", d.skin_with_misfit.least,
           "the same with the sides missing each other at worst: " + d.misfit.reason);
  if (const StripStack& stack = neck_of(p).work.strips; !stack.empty())
    n.length("neck.moves", "Blank moves",
             stack_moves(
                 stack, [&](const std::string& name) { return find_material(p.materials, name); }, 6, 12),
             "wider across between 6 and 12 % moisture, all strips together, flat-sawn");
  n.length("neck.misfit", "Sides may miss by", wren::length(d.misfit.shift) + d.misfit.angle * d.blank.length / 2,
           d.misfit.reason);
  n.number("neck.weight", "Weight", d.weight.grams, "g",
           worded("{} at {:.0f} kg/m³ (12 % moisture)", d.wood.name, d.wood.density));
  n.length("neck.balance", "Balance point", d.weight.balance.x, "from the nut line, without tuners");
  n.number("neck.pull", "String pull", d.pull.total, "N", "sum of μ·(2·L·f)² over the strings");
  n.number("neck.stiffness", "Stiffness at fret 5", section_stiffness(s, s.fret_x(5), d.woods).ei * 1e-6, "N·m²",
           "board, wood, bars; slots taken off");
  n.length("neck.relief", "Relief without rod", d.bend.relief,
           worded("strings' pull on the section's stiffness, largest near fret {}", s.nearest_fret(d.bend.relief_x)));
  n.length("neck.lump", "Worst lump", d.lump.height,
           worded("against the back 25 or 50 mm either way, near fret {}", s.nearest_fret(d.lump.at.x)));
  if (!s.departures.empty()) {
    const auto worst =
        std::max_element(s.departures.begin(), s.departures.end(),
                         [](const SectionDeparture& a, const SectionDeparture& b) { return a.worst < b.worst; });
    n.number("neck.sections_count", "Measured sections", static_cast<double>(s.departures.size()), "",
             "loaded from a file");
    n.length("neck.departure", "Leaves sections by", worst->worst,
             worded("square to the surface, worst at x {}", exact_mm(worst->x)));
  }
  n.length("neck.trough", "Trough", d.trough, "room for the widest cutter and for collet nuts below the frame's top");
  n.length("neck.stock", "Blank in use", d.blank.thickness,
           d.scarf ? "height of the glued-up scarfed blank" : "thickness");
  for (const Tuner& t : s.tuners) {
    n.length(fmt::format("tuner.{}.behind", t.string), worded("Post {} behind the nut", t.string), t.behind_nut,
             "along its string");
    n.number(fmt::format("tuner.{}.angle", t.string), worded("String {} over the nut", t.string),
             t.angle * 57.29577951308232, "°", "from the nut's top to the winding, or to the string bar");
  }
  if (d.scarf) {
    n.length("scarf.face", "Scarf's face", d.scarf->face, "plank / sin(tilt)");
    n.length("scarf.head_piece", "Head piece", d.scarf->head_length, "with its slanted end, along its face");
    n.length("scarf.shaft_piece", "Shaft piece", d.scarf->shaft_length, "with its slanted end");
    n.length("scarf.plank_length", "Plank for both", d.scarf->plank_length,
             "one saw cut gives both slants; add the kerf and a margin");
  }
  for (const Jog& jog : d.front.jogs) {
    const bool first = &jog == &d.front.jogs.front();
    n.length(first ? "necksetup.home_x" : "necksetup.back_x", worded("{}, x", Words(jog.what)), jog.x,
             school_name(neck_of(p).work.alignment.school));
    n.length(first ? "necksetup.home_y" : "necksetup.back_y", worded("{}, y", Words(jog.what)), jog.y,
             school_name(neck_of(p).work.alignment.school));
  }
  return n.take();
}

PartLines lines(const PartInput* input, const Project& p) {
  PartLines out;
  const auto line = [&](const char* id, const char* title, std::vector<std::string> keys, Look look = Look::plan) {
    out.before.push_back({id, title, LineState::ready, std::move(keys), look});
  };
  out.before.push_back(heading("Neck"));
  line("neck.back", "Back and build",
       {"neck.build",          "neck.joint",          "neck.with_board",     "neck.fret_a",    "neck.thickness_a",
        "neck.shape_a",        "neck.fret_b",         "neck.thickness_b",    "neck.shape_b",   "neck.lean",
        "neck.fair_within",    "neck.symmetric",      "neck.sections_count", "neck.departure", "neck.lump",
        "neck.thickness_at_a", "neck.thickness_at_b", "neck.weight",         "neck.balance",   "neck.length",
        "neck.side_dot",       "neck.accent",         "neck.accent_wood"},
       Look::surface);
  line("neck.heel", "Heel and joint",
       {"neck.heel_kind", "neck.heel_start", "neck.heel_thickness", "neck.heel_beyond", "neck.heel_transition",
        "neck.heel_radius", "neck.heel_length", "neck.heel_blend", "neck.heel_corner", "neck.heel_width",
        "neck.tenon_width", "neck.tenon_length", "neck.heel_holes", "neck.heel_hole_diameter", "neck.heel_hole_depth",
        "neck.heel_hole_along", "neck.heel_hole_across", "neck.heel_hole_from_end"},
       Look::side);
  const auto at_hand = [&](const char* id, const char* title, std::vector<std::string> keys) {
    out.before.push_back({id, title, LineState::ready, std::move(keys), Look::side});
    out.before.back().by_hand = true;
    out.before.back().hint =
        "Measure the piece that you bought, enter its sizes, then say that it is done: until then they are the list's.";
  };
  line("neck.rod", "Rod, bars, nut", {"rod.", "neck.skin", "nut.", "neck.fine_cutter", "neck.rod_cutter"}, Look::side);
  at_hand(rod_measured, "Rod at hand, measured",
          {"rod.width", "rod.depth", "rod.length", "rod.pocket_width", "rod.pocket_length", "rod.pocket_depth"});
  line("neck.head", "Head", {"head."});
  line("neck.tuners", "Tuners", {"head.tuners_bass", "head.first_post", "tuner."});
  at_hand("neck.hand.tuners-measured", "Tuners at hand, measured", {"tuner."});
  line("neck.strength", "Pull and stiffness",
       {"neck.tuning", "neck.pull", "neck.stiffness", "neck.relief", "rod.bars", "neck.blank.wood", "neck.strips",
        "neck.moves"},
       Look::side);
  out.before.push_back(heading("Neck on the machine"));
  line("neck.blank", "Blank and frame",
       {"neck.blank.", "neck.over_across", "neck.plank", "neck.stock", "scarf.", "neck.frame", "neck.web",
        "neck.trough", "measured.neck.blank.length", "measured.neck.blank.width", "measured.neck.blank.thickness"},
       Look::bed);
  line("neck.setup", "Alignment, turning over", {"neck.alignment",        "neck.turn",       "neck.tick_error",
                                                 "neck.pin_diameter",     "neck.pin_inset",  "neck.pin_offset",
                                                 "neck.pin_depth",        "neck.pins",       "neck.pin_play",
                                                 "neck.square_error",     "neck.fence_x",    "neck.fence_y",
                                                 "neck.fence_height",     "neck.pin_length", "neck.misfit",
                                                 "neck.skin_misfit",      "neck.holding",    "neck.cradle_clearance",
                                                 "neck.cradle_thickness", "neck.clamps",     "necksetup."},
       Look::bed);
  if (input == nullptr) return out;
  BuildLine measure{"neck.measure", "Measure after sanding", LineState::measured, {}, Look::side};
  measure.hint = "After sanding, enter what the neck measures: what depends on it follows the measure.";
  for (const WaitingFor& w : waiting_for(p, input->designs.shape<NeckDesign>())) {
    measure.keys.insert(measure.keys.end(), {w.key, "measured." + w.key});
    if (w.measured == nullptr) measure.state = LineState::ready;
  }
  out.after.push_back(std::move(measure));
  if (neck_of(p).neck.build != NeckBuild::one_piece) {
    const bool fretted = board_of(p).instrument.frets.when == FretsWhen::board_loose;
    BuildLine glue{"neck.hand.board",
                   fretted ? "Fretted board glued to the neck, under its caul" : "Board glued to the neck",
                   LineState::ready,
                   {"frets.when", "board.thickness", "neck.accent", "neck.thickness_a", "neck.thickness_b"},
                   Look::side};
    glue.by_hand = true;
    glue.after = {"fretboard.cut.", "neck.cut.front."};
    if (fretted)
      glue.after.insert(glue.after.end(),
                        {"fretboard.hand.frets", "fretboard.hand.frets-1", "fretboard.hand.frets-2", "caul.cut."});
    glue.hint =
        "Rod in, tape over it, glue on both faces, two thin nails through fret slots as register, cauls, overnight.";
    out.assembly.push_back(std::move(glue));
  }
  return out;
}

SheetWords words(const PartInput& in) {
  const NeckWork& w = neck_of(in.project).work;
  const auto& d = in.designs.shape<NeckDesign>();
  const NeckShape& n = d.shape;
  const BackNumbers& back = n.given.back;
  const AlignmentNumbers& a = w.alignment;
  const double at_a = n.whole_thickness(n.fret_x(back.fret_a));
  const double at_b = n.whole_thickness(n.fret_x(back.fret_b));
  SheetWords out;
  out.facts = {{"Blank", {"{} × {} × {} " + d.blank.wood, {d.blank.length, d.blank.width, d.blank.thickness}}},
               {"Neck", worded("{} long, {} at the nut, {} at the heel; {} thick at fret {}, {} at fret {}",
                               mm(n.end_x - n.tip_x, 3), mm(2 * n.taper(0).half, 3), mm(2 * n.taper(n.end_x).half, 3),
                               mm(at_a, 3), back.fret_a, mm(at_b, 3), back.fret_b)},
               {"Alignment", {school_name(a.school)}},
               {"Turned",
                {a.turn == Turn::about_length ? "about its length: the head keeps its end"
                                              : "about its width: the long edges keep their sides"}},
               {"Sides may miss",
                worded("{} at worst ({})", exact_mm(length(d.misfit.shift) + d.misfit.angle * d.blank.length / 2),
                       d.misfit.reason)},
               {"Skin over the rod", worded("{}, near fret {}", mm(d.skin.least, 3), n.nearest_fret(d.skin.at.x))}};
  if (d.scarf) {
    const Scarf& s = *d.scarf;
    out.by_hand.push_back(
        worded("Scarf: saw the plank ({} thick) at {:.1f}°; the sawn face is {} long. Turn the cut-off over and glue "
               "it under the shaft's end; the joint meets the front {} behind the nut line.",
               mm(s.plank, 3), s.angle_deg, mm(s.face, 3), mm(s.line, 3)));
    out.by_hand.push_back(
        {"Shaft piece {} and head piece {} with their slanted ends; one plank of {} gives both, and "
         "the kerf. Plane the head piece to {} and 2 mm more; the joint may stand 0.6 mm proud of the "
         "face: the programs count on no more.",
         {s.shaft_length, s.head_length, s.plank_length, s.head_thickness}});
    out.by_hand.push_back(
        {"Front up, the shaft rests on two equal risers so that the head hangs free; back up, it lies "
         "on the glue plane."});
  }
  const RodNumbers& rod = n.given.rod;
  if (rod.kind != RodKind::none && rod.access > 0)
    out.by_hand.push_back(
        worded("Access hole to the adjuster: {} along the neck from the {}, {} under the glue plane, drilled with the "
               "neck in a vice.",
               mm(rod.access, 3), rod.adjuster == RodEnd::head ? "head" : "heel", mm(rod.pocket_depth / 2, 3)));
  if (n.given.build == NeckBuild::one_piece)
    out.by_hand.push_back(
        {"Filler strip: {} wide, {} long, ends rounded to {}; fit it over the rod before the back is "
         "carved flush.",
         {rod.width, rod.length, rod.width / 2}});
  const Marks& marks = n.board->given.marks;
  if (n.given.side_dot > 0 && marks.side != SideMarks::ticks) {
    Words places;
    for (const auto& [fret, x] : side_dots(n))
      places = places.empty() ? worded("{}: {}", fret, exact_mm(x)) : worded("{}, {}: {}", places, fret, exact_mm(x));
    out.by_hand.push_back(
        marks.side == SideMarks::staggered
            ? worded("Side dots {}, higher and lower in turn by {}: from the nut line along the edge, {}. The "
                     "template's drilling strip has them at full size.",
                     exact_mm(n.given.side_dot), exact_mm(marks.side_stagger), places)
            : worded("Side dots {}: from the nut line along the edge, {}. The template's drilling strip has them at "
                     "full size.",
                     exact_mm(n.given.side_dot), places));
  }
  for (const char* kind : {"heel", "pilot"}) {
    const auto h = std::find_if(n.holes.begin(), n.holes.end(),
                                [&](const Hole& one) { return one.id.starts_with(kind) && one.by_hand() > 0; });
    if (h == n.holes.end()) continue;
    out.by_hand.push_back(worded(
        "{}: the machine drills them {} deep; drill on by hand to {}, a tape on the drill, square to the face.",
        kind == std::string("heel") ? "Heel holes" : "Screw pilots", exact_mm(h->from_back()), exact_mm(h->depth)));
  }
  if (const auto h = std::find_if(n.holes.begin(), n.holes.end(), [](const Hole& one) { return one.from_face > 0; });
      h != n.holes.end())
    out.by_hand.push_back(
        {"Heel holes are drilled from both sides and may miss each other by {}: run the drill through by hand once. "
         "They "
         "are open at the glue face, so tape goes over them before the board is glued.",
         {length(d.misfit.shift) + d.misfit.angle * d.blank.length / 2}});
  if (n.given.accent > 0)
    out.by_hand.push_back(worded(
        "Accent strip of {}, {} thick, glued between neck and board in one glue-up, proud of both edges and then "
        "flushed; a strip of tape over the rod keeps the glue out.",
        w.accent_wood, exact_mm(n.given.accent)));
  if (n.given.head.veneer > 0)
    out.by_hand.push_back(
        n.given.head.kind == HeadKind::tilted
            ? worded(
                  "Head veneer of {}, {} thick: its edge square and straight, {} from the board's end so that the nut "
                  "stands between them; a caul with a stop keeps it from slipping.",
                  w.veneer_wood, exact_mm(n.given.head.veneer), exact_mm(n.given.head.shelf))
            : worded("Head veneer of {}, {} thick, from where the step has come down to the tip.", w.veneer_wood,
                     exact_mm(n.given.head.veneer)));
  if (w.holding == Holding::cradle)
    out.by_hand.push_back(
        {"Fix the cradle on the waste board and lay the turned neck into it before its back is cut."});
  out.materials = {d.wood};
  out.boxes = {"Blank measured",
               "Feed override used",
               "Heel width after sanding",
               "Heel length",
               "Heel thickness with board",
               worded("Thickness at fret {}", back.fret_a),
               worded("Thickness at fret {}", back.fret_b),
               "Measured with",
               "Cut by, date"};
  return out;
}

}  // namespace

std::vector<std::pair<int, double>> side_dots(const NeckShape& n) {
  std::vector<std::pair<int, double>> out;
  for (const int place : n.board->given.marks.places)
    if (place <= n.board->given.frets.count) out.emplace_back(place, (n.fret_x(place - 1) + n.fret_x(place)) / 2);
  return out;
}

PartKind neck_part() {
  PartKind kind;
  kind.table = {"neck", "Neck", neck_fields(), neck_to_json, neck_from_json};
  kind.needs = {"fretboard"};
  kind.measures = {"neck.blank."};
  kind.design = [](const PartInput& in) -> Expected<Design> {
    auto d = design_neck(in.project, in.designs.shape<BoardDesign>().board, in.cache);
    if (!d) return tl::unexpected(d.error());
    return design_of(std::move(*d));
  };
  kind.pieces = [](const PartInput& in) { return neck_pieces(in.project, in.designs.shape<NeckDesign>()); };
  kind.numbers = numbers;
  kind.lines = lines;
  kind.words = words;
  kind.mesh = [](const PartInput& in, double within) {
    return neck_mesh(in.designs.shape<NeckDesign>().shape, within);
  };
  return kind;
}

}  // namespace wren

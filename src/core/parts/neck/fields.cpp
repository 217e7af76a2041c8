// The neck's fields. One line each: key, label, where it lives, range, what it is for.
#include <algorithm>

#include "core/document/field_makers.hpp"
#include "core/parts/neck/part.hpp"

namespace wren {
namespace {

#define AT(member) \
  [](auto& p) -> auto& { return neck_of(p).member; }

void shape_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {choice_field("neck.build", "Build", AT(neck.build), {"separate_board", "one_piece"},
                    "rod from the front under a glued board, or from the back under a filler strip"),
       choice_field("neck.joint", "Joint", AT(neck.joint), {"bolted", "glued", "through"}, "with the body"),
       flag_field("neck.with_board", "Thickness with board", AT(neck.back.with_board),
                  "the thicknesses below include the board"),
       count_field("neck.fret_a", "First fret", AT(neck.back.fret_a), 1, 12,
                   "where the first thickness and shape hold"),
       length_field("neck.thickness_a", "Thickness at the first fret given", AT(neck.back.thickness_a), 8, 60,
                    "on the centre line at the first fret"),
       choice_field("neck.shape_a", "Shape at the first fret given", AT(neck.back.shape_a),
                    {"round", "oval", "flattened", "d", "u", "soft_v", "hard_v", "leaning"},
                    "family of the back's section"),
       count_field("neck.fret_b", "Second fret", AT(neck.back.fret_b), 5, 30,
                   "where the second thickness and shape hold"),
       length_field("neck.thickness_b", "Thickness at the second fret given", AT(neck.back.thickness_b), 8, 60,
                    "on the centre line at the second fret"),
       choice_field("neck.shape_b", "Shape at the second fret given", AT(neck.back.shape_b),
                    {"round", "oval", "flattened", "d", "u", "soft_v", "hard_v", "leaning"},
                    "family of the back's section"),
       number_field("neck.lean", "Lean", AT(neck.back.lean), "", -0.4, 0.4,
                    "thickest place moved towards the treble by this share of the half width; 0: in the middle"),
       length_field("neck.fair_within", "Faired within", AT(neck.back.fair_within), 0, 3,
                    "measured sections: how far the surface may leave them; 0 follows them"),
       flag_field("neck.symmetric", "Mean of both sides", AT(neck.back.symmetric),
                  "measured sections: left and right made alike"),
       choice_field("neck.heel_kind", "Heel", AT(neck.heel.kind), {"block", "tapered"},
                    "a flat block, or tapering into it"),
       length_field("neck.heel_start", "Heel length", AT(neck.heel.start), 10, 400,
                    "of the flat, before the neck's end"),
       length_field("neck.heel_thickness", "Heel thickness", AT(neck.heel.thickness), 8, 80, "in all, board included"),
       length_field("neck.heel_beyond", "Neck beyond the board", AT(neck.heel.beyond), 0, 600,
                    "through necks: to the tail"),
       choice_field("neck.heel_transition", "Shaft to heel", AT(neck.heel.transition), {"arc", "curve", "sections"},
                    "by an arc's radius, by a length, or as the measured sections show"),
       length_field("neck.heel_radius", "Arc's radius", AT(neck.heel.radius), 4, 400,
                    "seen from the side; eased at both ends"),
       length_field("neck.heel_length", "Curve's length", AT(neck.heel.length), 8, 300, "along the neck"),
       length_field("neck.heel_corner", "Heel corners", AT(neck.heel.corner), 0, 40,
                    "radius in plan, to suit the pocket's cutter"),
       length_field("neck.tenon_width", "Tenon width", AT(neck.heel.tenon_width), 10, 100, "glued joint"),
       length_field("neck.tenon_length", "Tenon length", AT(neck.heel.tenon_length), 10, 200, "glued joint"),
       choice_field("neck.heel_holes", "Heel holes", AT(neck.heel.holes), {"none", "screws", "dowels"},
                    "four pilots from the back"),
       length_field("neck.heel_hole_diameter", "Hole diameter", AT(neck.heel.hole_diameter), 1, 20, "of the pilots"),
       length_field("neck.heel_hole_depth", "Hole depth", AT(neck.heel.hole_depth), 2, 60, "from the heel's back"),
       length_field("neck.heel_hole_along", "Holes along", AT(neck.heel.hole_along), 5, 150, "between the two rows"),
       length_field("neck.heel_hole_across", "Holes across", AT(neck.heel.hole_across), 5, 100,
                    "between the holes of a row"),
       length_field("neck.heel_hole_from_end", "Holes from the end", AT(neck.heel.hole_from_end), 4, 100,
                    "last row to the neck's end"),
       length_field("neck.side_dot", "Side dots", AT(neck.side_dot), 0, 8, "diameter; 0: none"),
       length_field("neck.accent", "Accent strip", AT(neck.accent), 0, 20,
                    "between neck and board, its thickness; 0: none"),
       wood_field("neck.accent_wood", "Accent's wood", AT(work.accent_wood), "or another material"),
       text_field("neck.tuning", "Tuning", AT(neck.tuning),
                  "notes bass to treble, E2 A2 D3 G3 B3 E4; empty: the usual one")});
}

void rod_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {choice_field("rod.kind", "Rod", AT(neck.rod.kind), {"none", "bar"}, "truss rod"),
       length_field("rod.width", "Slot width", AT(neck.rod.width), 2, 20, "of the rod at hand"),
       length_field("rod.depth", "Slot depth", AT(neck.rod.depth), 3, 25,
                    "from the glue plane; one piece: height of the rod"),
       length_field("rod.cover", "Cover", AT(neck.rod.cover), 0, 20,
                    "one piece: the slot's floor under the glue plane"),
       length_field("rod.start", "Rod from the nut", AT(neck.rod.start), -20, 100, "nut line to the slot's end"),
       length_field("rod.length", "Rod length", AT(neck.rod.length), 50, 1200, "of the slot, from the rod"),
       flag_field("rod.round", "Round floor", AT(neck.rod.round),
                  "half a circle across, cut by a ball as wide as the slot, for a rod that is round underneath"),
       choice_field("rod.bottom", "Slot's bottom", AT(neck.rod.bottom), {"straight", "curved"},
                    "straight, or deeper at its middle"),
       length_field("rod.sag", "Curve", AT(neck.rod.sag), 0, 8, "how much deeper at the middle"),
       choice_field("rod.adjuster", "Adjuster", AT(neck.rod.adjuster), {"head", "heel"}, "the end it is turned at"),
       length_field("rod.pocket_width", "Adjuster's pocket, width", AT(neck.rod.pocket_width), 0, 30,
                    "wider place for the adjuster"),
       length_field("rod.pocket_length", "Adjuster's pocket, length", AT(neck.rod.pocket_length), 0, 80, "0: none"),
       length_field("rod.pocket_depth", "Adjuster's pocket, depth", AT(neck.rod.pocket_depth), 3, 25,
                    "from the glue plane"),
       length_field("rod.access", "Access hole", AT(neck.rod.access), 0, 14,
                    "along the neck, drilled by hand; 0: none"),
       count_field("rod.bars", "Carbon bars", AT(neck.rod.bars), 0, 2, "0 or 2, beside the rod"),
       length_field("rod.bar_width", "Bar width", AT(neck.rod.bar_width), 1, 12, "across the neck"),
       length_field("rod.bar_depth", "Bar depth", AT(neck.rod.bar_depth), 1, 15, "from the glue plane"),
       length_field("rod.bar_offset", "Bars from the middle", AT(neck.rod.bar_offset), 3, 40, "at the nut"),
       length_field("rod.bar_length", "Bar length", AT(neck.rod.bar_length), 50, 1000, "along the neck"),
       choice_field("nut.seat", "Nut stands", AT(neck.nut.seat), {"none", "slot", "shelf"},
                    "in a slot, or on the shelf behind the board"),
       length_field("nut.thickness", "Nut thickness", AT(neck.nut.thickness), 1, 15, "along the strings"),
       length_field("nut.depth", "Nut slot depth", AT(neck.nut.depth), 0.5, 8, "under the glue plane")});
}

void head_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {choice_field("head.kind", "Head", AT(neck.head.kind), {"flat", "tilted"},
                    "face lowered by a step, or tilted back"),
       length_field("head.drop", "Face lowered by", AT(neck.head.drop), 1, 25, "under the glue plane"),
       length_field("head.step_radius", "Step's radius", AT(neck.head.step_radius), 3, 200,
                    "hollow arc from shelf to face"),
       number_field("head.angle_deg", "Tilt", AT(neck.head.angle_deg), "°", 0, 75, "10 to 17 are usual"),
       length_field("head.thickness", "Head thickness", AT(neck.head.thickness), 5, 40, "square to its face"),
       length_field("head.veneer", "Veneer", AT(neck.head.veneer), 0, 8,
                    "glued on the head's face, part of its thickness; 0: none"),
       wood_field("head.veneer_wood", "Veneer's wood", AT(work.veneer_wood), "or another material"),
       length_field("head.shelf", "Shelf", AT(neck.head.shelf), 0, 30,
                    "level ground under the nut, behind the nut line"),
       length_field("head.transition", "Shaft to head", AT(neck.head.transition), 12, 150,
                    "length of the change on the back"),
       length_field("head.transition_start", "Change begins", AT(neck.head.transition_start), -20, 60,
                    "before the nut line"),
       flag_field("head.volute", "Volute", AT(neck.head.volute), "a ridge that strengthens a thin head"),
       length_field("head.volute_height", "Volute height", AT(neck.head.volute_height), 0, 12, "at its middle"),
       length_field("head.volute_length", "Volute length", AT(neck.head.volute_length), 10, 120, "along the neck"),
       flag_field("head.scarf", "Scarf", AT(neck.head.scarf), "tilted: two planks glued at a slant"),
       choice_field("head.shape", "Outline", AT(neck.head.shape), {"arched", "notched", "slanted", "drawn"},
                    "kind of tip; drawn: brought in from DXF or SVG"),
       count_field("head.tuners_bass", "Tuners, bass side", AT(neck.head.tuners_bass), 0, 12,
                   "the rest stand on the treble side"),
       length_field("head.first_post", "First post", AT(neck.head.first_post), 12, 120,
                    "from the nut along its string"),
       length_field("head.side_margin", "Side margin", AT(neck.head.side_margin), 3, 40,
                    "beyond the outer string on a side without tuners"),
       length_field("head.tip_margin", "Tip margin", AT(neck.head.tip_margin), 6, 80, "beyond the last post"),
       length_field("head.tip_rise", "Tip's rise", AT(neck.head.tip_rise), 0, 40, "of arch, notch or slant"),
       length_field("head.rounding", "Rounding", AT(neck.head.rounding), 0, 20, "of the head's corners"),
       flag_field("head.string_bar", "String bar", AT(neck.head.string_bar), "presses the strings down behind the nut"),
       length_field("head.string_bar_at", "Bar from the nut", AT(neck.head.string_bar_at), 6, 80,
                    "behind the nut line"),
       length_field("head.string_bar_height", "Strings under it", AT(neck.head.string_bar_height), 0, 15,
                    "over the face")});

  Field kind =
      text_field("tuner.kind", "Tuners", AT(neck.tuner.name), "from the hardware list; fills in the sizes below");
  kind.kind = FieldKind::choice;
  for (const TunerNumbers& t : known_tuners()) kind.choices.push_back(t.name);
  kind.put = [](Project& p, const FieldValue& v) {
    for (const TunerNumbers& t : known_tuners())
      if (t.name == std::get<std::string>(v) && neck_of(p).neck.tuner.name != t.name) neck_of(p).neck.tuner = t;
  };
  f.insert(f.end(),
           {kind, length_field("tuner.hole", "Hole", AT(neck.tuner.hole), 3, 30, "through the head, for the bushing"),
            length_field("tuner.post", "Post", AT(neck.tuner.post), 2, 25, "diameter where the string winds"),
            length_field("tuner.height", "Winding height", AT(neck.tuner.height), 2, 30, "over the face"),
            length_field("tuner.step", "Step", AT(neck.tuner.step), 0, 3, "each further post is lower by this"),
            length_field("tuner.body_along", "Body along", AT(neck.tuner.body_along), 5, 60, "along the row"),
            length_field("tuner.body_in", "Body inwards", AT(neck.tuner.body_in), 2, 40, "from the post"),
            length_field("tuner.edge", "Post to edge", AT(neck.tuner.edge), 5, 50, "of the head, by the tuner"),
            length_field("tuner.pitch", "Between posts", AT(neck.tuner.pitch), 10, 90, "along the strings"),
            length_field("tuner.pilot", "Screw pilot", AT(neck.tuner.pilot), 0, 5, "diameter; 0: none"),
            length_field("tuner.pilot_depth", "Pilot depth", AT(neck.tuner.pilot_depth), 1, 20, "from the head's back"),
            length_field("tuner.pilot_along", "Pilot along", AT(neck.tuner.pilot_along), -40, 40,
                         "from the post along the row"),
            length_field("tuner.pilot_out", "Pilot outwards", AT(neck.tuner.pilot_out), -40, 40, "from the post")});
}

void neck_work_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {length_field("neck.blank.length", "Blank length", AT(work.blank.length), 50, 5000, "along the neck"),
       length_field("neck.blank.width", "Blank width", AT(work.blank.width), 20, 5000, "across the neck"),
       length_field("neck.blank.thickness", "Blank thickness", AT(work.blank.thickness), 5, 300, "at its thinnest"),
       wood_field("neck.blank.wood", "Wood", AT(work.blank.wood), "density, stiffness and cutting class"),
       strips_field("neck.strips", "Glued of strips", AT(work.strips),
                    "from the bass edge: wood width; the next after a semicolon; none: one piece"),
       length_field("neck.over_across", "Neck slid over its blank", AT(work.over_across), -200, 200,
                    "towards the treble side")});

  Field lie = choice_field("neck.blank.lie", "Neck lies along", AT(work.blank.lie), {"x", "y"},
                           "the machine's axis; clamps turn with the blank");
  lie.put = [](Project& p, const FieldValue& v) {
    const Lie way = std::get<std::string>(v) == "y" ? Lie::along_y : Lie::along_x;
    if (way == neck_of(p).work.blank.lie) return;
    neck_of(p).work.blank.lie = way;
    for (Clamp& c : neck_of(p).work.blank.clamps) {
      std::swap(c.low.x, c.low.y);
      std::swap(c.high.x, c.high.y);
    }
  };
  f.insert(f.end(),
           {lie,
            choice_field("neck.blank.zero", "Work zero", AT(work.blank.zero), {"corner", "centre"},
                         "with centre ticks: lower-left corner or middle of the blank"),
            length_field("neck.plank", "Plank", AT(work.plank), 8, 100, "scarfed head: thickness of the plank"),
            clamps_field("neck.clamps", AT(work.blank.clamps))});

  alignment_fields(f, "neck.", AT(work.alignment));
  f.insert(
      f.end(),
      {choice_field("neck.holding", "Held by", AT(work.holding), {"frame", "cradle"},
                    "once the front is carved: the waste frame, or a cradle cut to fit"),
       length_field("neck.cradle_clearance", "Cradle clearance", AT(work.cradle_clearance), 0, 3,
                    "between cradle and front"),
       length_field("neck.cradle_thickness", "Cradle thickness", AT(work.cradle_thickness), 6, 100,
                    "under its lowest place"),
       cutter_field("neck.rod_cutter", "Ball of a round rod slot", AT(work.rod_cutter), "as wide as the slot"),
       cutter_field("neck.channel_cutter", "Channel cutter", AT(work.channel_cutter),
                    "rod slot, pocket, level faces; from the rack"),
       cutter_field("neck.fine_cutter", "Fine cutter", AT(work.fine_cutter), "bars and nut slot; from the rack"),
       cutter_field("neck.face_cutter", "Face cutter", AT(work.face_cutter),
                    "step and tilted face of the head; from the rack"),
       choice_field("neck.deep_holes", "Holes beyond the drill's reach", AT(work.deep_holes),
                    {"by machine", "finish by hand", "from both sides"},
                    "stop the work; or are begun by machine and drilled on by hand, with the depth on the sheet; or, "
                    "under the glued board, are met from the glue face"),
       cutter_field("neck.pilot_drill", "Pilot drill", AT(work.pilot_drill), "from the rack"),
       cutter_field("neck.heel_drill", "Heel drill", AT(work.heel_drill), "from the rack"),
       cutter_field("neck.hole_cutter", "Hole cutter", AT(work.hole_cutter),
                    "tuner holes, bored by a helix; a ball will do; from the rack"),
       cutter_field("neck.pin_cutter", "Pin cutter", AT(work.pin_cutter),
                    "pin holes, through the whole blank; from the rack"),
       cutter_field("neck.rough_cutter", "Roughing cutter", AT(work.rough_cutter), "from the rack"),
       cutter_field("neck.finish_cutter", "Finishing cutter", AT(work.finish_cutter), "a ball; from the rack"),
       cutter_field("neck.edge_cutter", "Edge cutter", AT(work.edge_cutter), "steep sides by levels; from the rack"),
       cutter_field("neck.outline_cutter", "Outline cutter", AT(work.outline_cutter), "from the rack"),
       length_field("neck.scallop", "Scallop", AT(work.scallop), 0.002, 0.5, "greatest height left between rows"),
       length_field("neck.rough_leave", "Left by roughing", AT(work.rough_leave), 0.1, 3, "for finishing"),
       length_field("neck.skim", "Finishing skim", AT(work.skim), 0, 2, "of the outline"),
       length_field("neck.sand_back", "Sanding, back", AT(work.sand_back), 0, 2, "left standing on the back"),
       length_field("neck.sand_face", "Sanding, face", AT(work.sand_face), 0, 2, "left standing on the head's face"),
       length_field("neck.sand_sides", "Sanding, sides", AT(work.sand_sides), 0, 2, "left standing on the outline"),
       length_field("neck.web", "Web", AT(work.web), 0.3, 6,
                    "thin floor of the trough round the neck, until the outline is cut"),
       length_field("neck.frame", "Waste frame", AT(work.frame), 2, 60, "least width round the trough"),
       count_field("neck.side_tabs", "Tabs a side", AT(work.side_tabs), 0, 6,
                   "along the shaft; a neck's outline is cut last: its back is carved in the trough of a whole blank"),
       flag_field("neck.end_tabs", "Tabs at the ends", AT(work.end_tabs), "heel and head"),
       length_field("neck.tab_length", "Tab length", AT(work.tab_length), 2, 40, "of full height"),
       length_field("neck.tab_height", "Tab height", AT(work.tab_height), 0.5, 20, "over the front"),
       length_field("neck.through", "Into the waste board", AT(work.through), 0, 5,
                    "below the blank, so that no skin is left")});
}

#undef AT

}  // namespace

std::vector<Field> neck_fields() {
  std::vector<Field> f;
  shape_fields(f);
  rod_fields(f);
  head_fields(f);
  neck_work_fields(f);
  sizes_at_hand(f, "neck.hand.rod-measured",
                {"rod.width", "rod.depth", "rod.length", "rod.pocket_width", "rod.pocket_length", "rod.pocket_depth",
                 "rod.bar_width", "rod.bar_depth", "rod.bar_length"});
  sizes_at_hand(f, "neck.hand.tuners-measured",
                {"tuner.hole", "tuner.post", "tuner.height", "tuner.step", "tuner.body_along", "tuner.body_in",
                 "tuner.edge", "tuner.pilot", "tuner.pilot_along", "tuner.pilot_out"});
  f.insert(f.end(), {measure_field("neck.heel_width", "Heel width", 5, 200),
                     measure_field("neck.heel_length_made", "Heel length", 5, 600),
                     measure_field("neck.heel_in_all", "Heel thickness in all", 5, 120),
                     measure_field("neck.thickness_at_a", "Thickness at the first fret", 5, 80),
                     measure_field("neck.thickness_at_b", "Thickness at the second fret", 5, 80),
                     measure_field("neck.length", "Neck length", 100, 2000),
                     measure_field("neck.blank.length", "Blank length", 50, 5000),
                     measure_field("neck.blank.width", "Blank width", 20, 5000),
                     measure_field("neck.blank.thickness", "Blank thickness", 5, 300)});

  return f;
}

}  // namespace wren

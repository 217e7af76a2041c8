// The neck's fields. One line each: key, label, where it lives, range, what it is for.
#include <algorithm>

#include "core/document/field_makers.hpp"

namespace wren {
namespace {

#define AT(member) \
  [](auto& p) -> auto& { return p.member; }

void shape_fields(std::vector<Field>& f) {
  f.push_back(choice_field("neck.build", "Build", AT(neck.build), {"separate_board", "one_piece"},
                           "rod from the front under a glued board, or from the back under a filler strip"));
  f.push_back(choice_field("neck.joint", "Joint", AT(neck.joint), {"bolted", "glued", "through"}, "with the body"));
  f.push_back(flag_field("neck.with_board", "Thickness with board", AT(neck.back.with_board),
                         "the thicknesses below include the board"));
  f.push_back(count_field("neck.fret_a", "First fret", AT(neck.back.fret_a), 1, 12,
                          "where the first thickness and shape hold"));
  f.push_back(length_field("neck.thickness_a", "Thickness there", AT(neck.back.thickness_a), 8, 60,
                           "on the centre line at the first fret"));
  f.push_back(choice_field("neck.shape_a", "Shape there", AT(neck.back.shape_a),
                           {"round", "oval", "flattened", "d", "u", "soft_v", "hard_v", "leaning"},
                           "family of the back's section"));
  f.push_back(count_field("neck.fret_b", "Second fret", AT(neck.back.fret_b), 5, 30,
                          "where the second thickness and shape hold"));
  f.push_back(length_field("neck.thickness_b", "Thickness there", AT(neck.back.thickness_b), 8, 60,
                           "on the centre line at the second fret"));
  f.push_back(choice_field("neck.shape_b", "Shape there", AT(neck.back.shape_b),
                           {"round", "oval", "flattened", "d", "u", "soft_v", "hard_v", "leaning"},
                           "family of the back's section"));
  f.push_back(
      number_field("neck.lean", "Lean", AT(neck.back.lean), "", -0.4, 0.4,
                   "thickest place moved towards the treble by this share of the half width; 0: in the middle"));
  f.push_back(length_field("neck.fair_within", "Faired within", AT(neck.back.fair_within), 0, 3,
                           "measured sections: how far the surface may leave them; 0 follows them"));
  f.push_back(flag_field("neck.symmetric", "Mean of both sides", AT(neck.back.symmetric),
                         "measured sections: left and right made alike"));
  f.push_back(choice_field("neck.heel_kind", "Heel", AT(neck.heel.kind), {"block", "tapered"},
                           "a flat block, or tapering into it"));
  f.push_back(length_field("neck.heel_start", "Heel length", AT(neck.heel.start), 10, 400,
                           "of the flat, before the neck's end"));
  f.push_back(
      length_field("neck.heel_thickness", "Heel thickness", AT(neck.heel.thickness), 8, 80, "in all, board included"));
  f.push_back(length_field("neck.heel_beyond", "Neck beyond the board", AT(neck.heel.beyond), 0, 600,
                           "through necks: to the tail"));
  f.push_back(choice_field("neck.heel_transition", "Shaft to heel", AT(neck.heel.transition),
                           {"arc", "curve", "sections"},
                           "by an arc's radius, by a length, or as the measured sections show"));
  f.push_back(length_field("neck.heel_radius", "Arc's radius", AT(neck.heel.radius), 4, 400,
                           "seen from the side; eased at both ends"));
  f.push_back(length_field("neck.heel_length", "Curve's length", AT(neck.heel.length), 8, 300, "along the neck"));
  f.push_back(length_field("neck.heel_corner", "Heel corners", AT(neck.heel.corner), 0, 40,
                           "radius in plan, to suit the pocket's cutter"));
  f.push_back(length_field("neck.tenon_width", "Tenon width", AT(neck.heel.tenon_width), 10, 100, "glued joint"));
  f.push_back(length_field("neck.tenon_length", "Tenon length", AT(neck.heel.tenon_length), 10, 200, "glued joint"));
  f.push_back(choice_field("neck.heel_holes", "Heel holes", AT(neck.heel.holes), {"none", "screws", "dowels"},
                           "four pilots from the back"));
  f.push_back(
      length_field("neck.heel_hole_diameter", "Hole diameter", AT(neck.heel.hole_diameter), 1, 20, "of the pilots"));
  f.push_back(
      length_field("neck.heel_hole_depth", "Hole depth", AT(neck.heel.hole_depth), 2, 60, "from the heel's back"));
  f.push_back(
      length_field("neck.heel_hole_along", "Holes along", AT(neck.heel.hole_along), 5, 150, "between the two rows"));
  f.push_back(length_field("neck.heel_hole_across", "Holes across", AT(neck.heel.hole_across), 5, 100,
                           "between the holes of a row"));
  f.push_back(length_field("neck.heel_hole_from_end", "Holes from the end", AT(neck.heel.hole_from_end), 4, 100,
                           "last row to the neck's end"));
  f.push_back(length_field("neck.side_dot", "Side dots", AT(neck.side_dot), 0, 8, "diameter; 0: none"));
  f.push_back(text_field("neck.tuning", "Tuning", AT(neck.tuning),
                         "notes bass to treble, E2 A2 D3 G3 B3 E4; empty: the usual one"));
}

void rod_fields(std::vector<Field>& f) {
  f.push_back(choice_field("rod.kind", "Rod", AT(neck.rod.kind), {"none", "bar"}, "truss rod"));
  f.push_back(length_field("rod.width", "Slot width", AT(neck.rod.width), 2, 20, "of the rod at hand, measured"));
  f.push_back(length_field("rod.depth", "Slot depth", AT(neck.rod.depth), 3, 25,
                           "from the glue plane; one piece: height of the rod"));
  f.push_back(length_field("rod.cover", "Cover", AT(neck.rod.cover), 0, 20,
                           "one piece: the slot's floor under the glue plane"));
  f.push_back(
      length_field("rod.start", "Rod from the nut", AT(neck.rod.start), -20, 100, "nut line to the slot's end"));
  f.push_back(
      length_field("rod.length", "Rod length", AT(neck.rod.length), 50, 1200, "of the slot, measured on the rod"));
  f.push_back(choice_field("rod.bottom", "Slot's bottom", AT(neck.rod.bottom), {"straight", "curved"},
                           "straight, or deeper at its middle"));
  f.push_back(length_field("rod.sag", "Curve", AT(neck.rod.sag), 0, 8, "how much deeper at the middle"));
  f.push_back(
      choice_field("rod.adjuster", "Adjuster", AT(neck.rod.adjuster), {"head", "heel"}, "the end it is turned at"));
  f.push_back(length_field("rod.pocket_width", "Pocket width", AT(neck.rod.pocket_width), 0, 30,
                           "wider place for the adjuster"));
  f.push_back(length_field("rod.pocket_length", "Pocket length", AT(neck.rod.pocket_length), 0, 80, "0: none"));
  f.push_back(
      length_field("rod.pocket_depth", "Pocket depth", AT(neck.rod.pocket_depth), 3, 25, "from the glue plane"));
  f.push_back(length_field("rod.access", "Access hole", AT(neck.rod.access), 0, 14,
                           "along the neck, drilled by hand; 0: none"));
  f.push_back(count_field("rod.bars", "Carbon bars", AT(neck.rod.bars), 0, 2, "0 or 2, beside the rod"));
  f.push_back(length_field("rod.bar_width", "Bar width", AT(neck.rod.bar_width), 1, 12, "measured"));
  f.push_back(length_field("rod.bar_depth", "Bar depth", AT(neck.rod.bar_depth), 1, 15, "from the glue plane"));
  f.push_back(length_field("rod.bar_offset", "Bars from the middle", AT(neck.rod.bar_offset), 3, 40, "at the nut"));
  f.push_back(length_field("rod.bar_length", "Bar length", AT(neck.rod.bar_length), 50, 1000, "measured"));
  f.push_back(choice_field("nut.seat", "Nut stands", AT(neck.nut.seat), {"none", "slot", "shelf"},
                           "in a slot, or on the shelf behind the board"));
  f.push_back(length_field("nut.thickness", "Nut thickness", AT(neck.nut.thickness), 1, 15, "along the strings"));
  f.push_back(length_field("nut.depth", "Nut slot depth", AT(neck.nut.depth), 0.5, 8, "under the glue plane"));
}

void head_fields(std::vector<Field>& f) {
  f.push_back(choice_field("head.kind", "Head", AT(neck.head.kind), {"flat", "tilted"},
                           "face lowered by a step, or tilted back"));
  f.push_back(length_field("head.drop", "Face lowered by", AT(neck.head.drop), 1, 25, "under the glue plane"));
  f.push_back(length_field("head.step_radius", "Step's radius", AT(neck.head.step_radius), 3, 200,
                           "hollow arc from shelf to face"));
  f.push_back(number_field("head.angle_deg", "Tilt", AT(neck.head.angle_deg), "°", 0, 75, "10 to 17 are usual"));
  f.push_back(length_field("head.thickness", "Head thickness", AT(neck.head.thickness), 5, 40, "square to its face"));
  f.push_back(length_field("head.shelf", "Shelf", AT(neck.head.shelf), 0, 30,
                           "level ground under the nut, behind the nut line"));
  f.push_back(length_field("head.transition", "Shaft to head", AT(neck.head.transition), 12, 150,
                           "length of the change on the back"));
  f.push_back(length_field("head.transition_start", "Change begins", AT(neck.head.transition_start), -20, 60,
                           "before the nut line"));
  f.push_back(flag_field("head.volute", "Volute", AT(neck.head.volute), "a ridge that strengthens a thin head"));
  f.push_back(length_field("head.volute_height", "Volute height", AT(neck.head.volute_height), 0, 12, "at its middle"));
  f.push_back(
      length_field("head.volute_length", "Volute length", AT(neck.head.volute_length), 10, 120, "along the neck"));
  f.push_back(flag_field("head.scarf", "Scarf", AT(neck.head.scarf), "tilted: two planks glued at a slant"));
  f.push_back(choice_field("head.shape", "Outline", AT(neck.head.shape), {"arched", "notched", "slanted", "drawn"},
                           "kind of tip; drawn: brought in from DXF or SVG"));
  f.push_back(count_field("head.tuners_bass", "Tuners, bass side", AT(neck.head.tuners_bass), 0, 12,
                          "the rest stand on the treble side"));
  f.push_back(length_field("head.first_post", "First post", AT(neck.head.first_post), 12, 120,
                           "from the nut along its string"));
  f.push_back(length_field("head.side_margin", "Side margin", AT(neck.head.side_margin), 3, 40,
                           "beyond the outer string on a side without tuners"));
  f.push_back(length_field("head.tip_margin", "Tip margin", AT(neck.head.tip_margin), 6, 80, "beyond the last post"));
  f.push_back(length_field("head.tip_rise", "Tip's rise", AT(neck.head.tip_rise), 0, 40, "of arch, notch or slant"));
  f.push_back(length_field("head.rounding", "Rounding", AT(neck.head.rounding), 0, 20, "of the head's corners"));
  f.push_back(
      flag_field("head.string_bar", "String bar", AT(neck.head.string_bar), "presses the strings down behind the nut"));
  f.push_back(length_field("head.string_bar_at", "Bar from the nut", AT(neck.head.string_bar_at), 6, 80,
                           "behind the nut line"));
  f.push_back(length_field("head.string_bar_height", "Strings under it", AT(neck.head.string_bar_height), 0, 15,
                           "over the face"));
  Field kind =
      text_field("tuner.kind", "Tuners", AT(neck.tuner.name), "from the hardware list; fills in the sizes below");
  kind.kind = FieldKind::choice;
  for (const TunerNumbers& t : known_tuners()) kind.choices.push_back(t.name);
  kind.put = [](Project& p, const FieldValue& v) {
    for (const TunerNumbers& t : known_tuners())
      if (t.name == std::get<std::string>(v) && p.neck.tuner.name != t.name) p.neck.tuner = t;
  };
  f.push_back(kind);
  f.push_back(length_field("tuner.hole", "Hole", AT(neck.tuner.hole), 3, 30, "through the head; measure the bushing"));
  f.push_back(
      length_field("tuner.post", "Post", AT(neck.tuner.post), 2, 25, "diameter where the string winds, measured"));
  f.push_back(length_field("tuner.height", "Winding height", AT(neck.tuner.height), 2, 30, "over the face"));
  f.push_back(length_field("tuner.step", "Step", AT(neck.tuner.step), 0, 3, "each further post is lower by this"));
  f.push_back(
      length_field("tuner.body_along", "Body along", AT(neck.tuner.body_along), 5, 60, "along the row, measured"));
  f.push_back(length_field("tuner.body_in", "Body inwards", AT(neck.tuner.body_in), 2, 40, "from the post, measured"));
  f.push_back(
      length_field("tuner.edge", "Post to edge", AT(neck.tuner.edge), 5, 50, "of the head, measured on the tuner"));
  f.push_back(length_field("tuner.pitch", "Between posts", AT(neck.tuner.pitch), 10, 90, "along the strings"));
  f.push_back(length_field("tuner.pilot", "Screw pilot", AT(neck.tuner.pilot), 0, 5, "diameter; 0: none"));
  f.push_back(
      length_field("tuner.pilot_depth", "Pilot depth", AT(neck.tuner.pilot_depth), 1, 20, "from the head's back"));
  f.push_back(length_field("tuner.pilot_along", "Pilot along", AT(neck.tuner.pilot_along), -40, 40,
                           "from the post along the row, measured"));
  f.push_back(
      length_field("tuner.pilot_out", "Pilot outwards", AT(neck.tuner.pilot_out), -40, 40, "from the post, measured"));
}

void neck_work_fields(std::vector<Field>& f) {
  f.push_back(length_field("neck.blank.length", "Blank length", AT(neck_work.blank.length), 50, 5000,
                           "measured along the neck"));
  f.push_back(length_field("neck.blank.width", "Blank width", AT(neck_work.blank.width), 20, 5000, "measured"));
  f.push_back(
      length_field("neck.blank.thickness", "Blank thickness", AT(neck_work.blank.thickness), 5, 300, "measured"));
  f.push_back(text_field("neck.blank.wood", "Wood", AT(neck_work.blank.wood), "density, stiffness and cutting class"));
  Field lie = choice_field("neck.blank.lie", "Neck lies along", AT(neck_work.blank.lie), {"x", "y"},
                           "the machine's axis; clamps turn with the blank");
  lie.put = [](Project& p, const FieldValue& v) {
    const Lie way = std::get<std::string>(v) == "y" ? Lie::along_y : Lie::along_x;
    if (way == p.neck_work.blank.lie) return;
    p.neck_work.blank.lie = way;
    for (Clamp& c : p.neck_work.blank.clamps) {
      std::swap(c.low.x, c.low.y);
      std::swap(c.high.x, c.high.y);
    }
  };
  f.push_back(lie);
  f.push_back(choice_field("neck.blank.zero", "Work zero", AT(neck_work.blank.zero), {"corner", "centre"},
                           "with centre ticks: lower-left corner or middle of the blank"));
  f.push_back(length_field("neck.plank", "Plank", AT(neck_work.plank), 8, 100, "scarfed head: thickness of the plank"));
  f.push_back(clamps_field("neck.clamps", AT(neck_work.blank.clamps)));
  alignment_fields(f, "neck.", AT(neck_work.alignment));
  f.push_back(choice_field("neck.holding", "Held by", AT(neck_work.holding), {"frame", "cradle"},
                           "once the front is carved: the waste frame, or a cradle cut to fit"));
  f.push_back(length_field("neck.cradle_clearance", "Cradle clearance", AT(neck_work.cradle_clearance), 0, 3,
                           "between cradle and front"));
  f.push_back(length_field("neck.cradle_thickness", "Cradle thickness", AT(neck_work.cradle_thickness), 6, 100,
                           "under its lowest place"));
  f.push_back(text_field("neck.channel_cutter", "Channel cutter", AT(neck_work.channel_cutter),
                         "rod slot, pocket, level faces; from the rack"));
  f.push_back(
      text_field("neck.fine_cutter", "Fine cutter", AT(neck_work.fine_cutter), "bars and nut slot; from the rack"));
  f.push_back(text_field("neck.face_cutter", "Face cutter", AT(neck_work.face_cutter),
                         "step and tilted face of the head; from the rack"));
  f.push_back(text_field("neck.pilot_drill", "Pilot drill", AT(neck_work.pilot_drill), "from the rack"));
  f.push_back(text_field("neck.heel_drill", "Heel drill", AT(neck_work.heel_drill), "from the rack"));
  f.push_back(text_field("neck.hole_cutter", "Hole cutter", AT(neck_work.hole_cutter),
                         "tuner holes, bored by a helix; a ball will do; from the rack"));
  f.push_back(text_field("neck.pin_cutter", "Pin cutter", AT(neck_work.pin_cutter),
                         "pin holes, through the whole blank; from the rack"));
  f.push_back(text_field("neck.rough_cutter", "Roughing cutter", AT(neck_work.rough_cutter), "from the rack"));
  f.push_back(
      text_field("neck.finish_cutter", "Finishing cutter", AT(neck_work.finish_cutter), "a ball; from the rack"));
  f.push_back(
      text_field("neck.edge_cutter", "Edge cutter", AT(neck_work.edge_cutter), "steep sides by levels; from the rack"));
  f.push_back(text_field("neck.outline_cutter", "Outline cutter", AT(neck_work.outline_cutter), "from the rack"));
  f.push_back(
      length_field("neck.scallop", "Scallop", AT(neck_work.scallop), 0.002, 0.5, "greatest height left between rows"));
  f.push_back(length_field("neck.rough_leave", "Left by roughing", AT(neck_work.rough_leave), 0.1, 3, "for finishing"));
  f.push_back(length_field("neck.skim", "Finishing skim", AT(neck_work.skim), 0, 2, "of the outline"));
  f.push_back(
      length_field("neck.sand_back", "Sanding, back", AT(neck_work.sand_back), 0, 2, "left standing on the back"));
  f.push_back(length_field("neck.sand_face", "Sanding, face", AT(neck_work.sand_face), 0, 2,
                           "left standing on the head's face"));
  f.push_back(length_field("neck.sand_sides", "Sanding, sides", AT(neck_work.sand_sides), 0, 2,
                           "left standing on the outline"));
  f.push_back(length_field("neck.web", "Web", AT(neck_work.web), 0.3, 6,
                           "thin floor of the trough round the neck, until the outline is cut"));
  f.push_back(length_field("neck.frame", "Waste frame", AT(neck_work.frame), 2, 60, "least width round the trough"));
  f.push_back(count_field("neck.side_tabs", "Tabs a side", AT(neck_work.side_tabs), 0, 6, "along the shaft"));
  f.push_back(flag_field("neck.end_tabs", "Tabs at the ends", AT(neck_work.end_tabs), "heel and head"));
  f.push_back(length_field("neck.tab_length", "Tab length", AT(neck_work.tab_length), 2, 40, "of full height"));
  f.push_back(length_field("neck.tab_height", "Tab height", AT(neck_work.tab_height), 0.5, 20, "over the front"));
  f.push_back(length_field("neck.through", "Into the waste board", AT(neck_work.through), 0, 5,
                           "below the blank, so that no skin is left"));
}

#undef AT

}  // namespace

Field measure_field(const char* of, const char* label, double low, double high) {
  const std::string key = of;
  return {"measured." + key,
          std::string(label) + ", measured",
          FieldKind::length,
          "mm",
          low,
          high,
          {},
          true,
          true,
          true,
          "takes the designed number's place for what depends on it",
          [key](const Project& p) -> FieldValue {
            const Measured* m = measured_in_use(p.measured, key);
            return m != nullptr ? FieldValue(m->value) : FieldValue();
          },
          [key](Project& p, const FieldValue& v) {
            if (const double* d = std::get_if<double>(&v)) {
              p.measured.push_back({key, *d, "", "calipers", "", true});
              if (p.measured.size() > most_measured) p.measured.erase(p.measured.begin());
            } else {
              for (Measured& m : p.measured)
                if (m.key == key) m.in_use = false;
            }
          }};
}

void neck_fields(std::vector<Field>& f) {
  shape_fields(f);
  rod_fields(f);
  head_fields(f);
  neck_work_fields(f);
  f.push_back(measure_field("neck.heel_width", "Heel width", 5, 200));
  f.push_back(measure_field("neck.heel_length_made", "Heel length", 5, 600));
  f.push_back(measure_field("neck.heel_in_all", "Heel thickness in all", 5, 120));
  f.push_back(measure_field("neck.thickness_at_a", "Thickness at the first fret", 5, 80));
  f.push_back(measure_field("neck.thickness_at_b", "Thickness at the second fret", 5, 80));
  f.push_back(measure_field("neck.length", "Neck length", 100, 2000));
  f.push_back(measure_field("neck.blank.length", "Blank length", 50, 5000));
  f.push_back(measure_field("neck.blank.width", "Blank width", 20, 5000));
  f.push_back(measure_field("neck.blank.thickness", "Blank thickness", 5, 300));
}

}  // namespace wren

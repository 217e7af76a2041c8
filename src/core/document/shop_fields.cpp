// Fields of the project itself, of the machine and of the programs; and those of the rack, which depend on its cutters.
#include "core/document/field_makers.hpp"

namespace wren {
namespace {

#define AT(member) \
  [](auto& p) -> auto& { return p.member; }

void project_fields(std::vector<Field>& f) {
  f.insert(f.end(), {text_field("project.name", "Name", AT(name), "names files and sheets"),
                     text_field("project.notes", "Notes", AT(notes), "for you")});
}

void machine_fields(std::vector<Field>& f) {
  f.insert(
      f.end(),
      {text_field("machine.name", "Machine", AT(machine.name), "for the sheets"),
       length_field("machine.travel_x", "Travel x", AT(machine.travel.x), 50, 20000, "of the machine"),
       length_field("machine.travel_y", "Travel y", AT(machine.travel.y), 50, 20000, "of the machine"),
       length_field("machine.travel_z", "Travel z", AT(machine.travel.z), 10, 2000, "of the machine"),
       length_field("machine.clear_under_nut", "Bed to collet nut", AT(machine.clear_under_nut), 10, 2000,
                    "with z at home"),
       number_field("machine.max_feed_x", "Largest feed x", AT(machine.max_feed.x), "mm/min", 10, 100000,
                    "of the machine"),
       number_field("machine.max_feed_y", "Largest feed y", AT(machine.max_feed.y), "mm/min", 10, 100000,
                    "of the machine"),
       number_field("machine.max_feed_z", "Largest feed z", AT(machine.max_feed.z), "mm/min", 10, 100000,
                    "of the machine"),
       number_field("machine.rapid", "Rapid", AT(machine.rapid), "mm/min", 10, 200000, "for the time estimate"),
       number_field("machine.acceleration", "Acceleration", AT(machine.acceleration), "mm/s²", 10, 50000,
                    "for the time estimate"),
       number_field("machine.spindle_low", "Slowest spindle", AT(machine.spindle_low), "1/min", 0, 100000,
                    "of the spindle"),
       number_field("machine.spindle_high", "Fastest spindle", AT(machine.spindle_high), "1/min", 100, 100000,
                    "of the spindle"),
       number_field("machine.spindle_power", "Spindle power", AT(machine.spindle_power), "W", 10, 30000,
                    "of the spindle"),
       length_field("machine.runout", "Runout", AT(machine.runout), 0, 0.5,
                    "by which a slot grows at each side until a test slot was measured"),
       length_field("machine.park_x", "Parks at x", AT(machine.park.x), 0, 20000, "machine frame; room for a hand"),
       length_field("machine.park_y", "Parks at y", AT(machine.park.y), 0, 20000, "machine frame; room for a hand"),
       length_field("machine.nose_diameter", "Spindle nose", AT(machine.nose_diameter), 1, 400,
                    "over the collet nut; must not meet what stands on the bed"),
       length_field("machine.nose_above", "Nut to nose", AT(machine.nose_above), 0, 400,
                    "from the nut's underside up to the nose's"),
       length_field("machine.shoe_diameter", "Dust shoe", AT(machine.shoe_diameter), 0, 600,
                    "its body about the spindle, without the brush; 0: none"),
       length_field("machine.shoe_above", "Nut to shoe", AT(machine.shoe_above), 0, 400,
                    "from the nut's underside up to the underside of the shoe's body"),
       length_field("machine.probe_error", "Probing, off by", AT(machine.probe_error), 0, 1,
                    "at most, in z; the proof runs the programs with it"),
       length_field("machine.zero_error", "Zero, off by", AT(machine.zero_error), 0, 2,
                    "at most, in x and y; the proof runs the programs with it"),
       length_field("machine.thickness_error", "Blanks, off by", AT(machine.thickness_error), 0, 2,
                    "at most, in their measured thickness; the proof runs the programs with it"),
       flag_field("machine.knows_g53", "Controller knows G53", AT(machine.controller.machine_moves),
                  "programs begin and end in machine coordinates; without it home first"),
       flag_field("machine.knows_g43", "Controller knows G43", AT(machine.controller.tool_lengths),
                  "tool lengths from its table; a magazine needs it"),
       flag_field("machine.knows_g61", "Controller knows G61", AT(machine.controller.exact_path),
                  "exact path: corners are not blended"),
       flag_field("machine.knows_g64", "Controller knows G64 P", AT(machine.controller.blend_tolerance),
                  "corners blended within a stated limit; used where G61 is not known"),
       flag_field("machine.knows_arcs", "Controller knows arcs", AT(machine.controller.arcs),
                  "G2 and G3; without them programs have chords within 0.002 mm"),
       flag_field("machine.knows_cycles", "Controller knows cycles", AT(machine.controller.cycles),
                  "drilling cycles, G73 and G81 to G83"),
       flag_field("machine.has_air", "Controller has an air blast", AT(machine.controller.air),
                  "at M7 and M8; where they switch coolant, programs may not use them"),
       choice_field("machine.dwell", "A wait is counted in", AT(machine.controller.dwell), {"seconds", "milliseconds"},
                    "the P of G4; the wrong one cuts before the spindle turns, or waits for an hour"),
       choice_field("machine.change", "Cutters are changed", AT(machine.change), {"by_hand", "magazine"},
                    "decides whether programs stop for it"),
       choice_field("programs.units", "Program units", AT(programs.units), {"mm", "inch"}, "G21 or G20"),
       flag_field("programs.arcs", "Arcs in programs", AT(programs.arcs),
                  "G2 and G3; otherwise chords within 0.002 mm"),
       choice_field("programs.files", "Program files", AT(programs.files), {"per_cutter", "one"},
                    "one file for each cutter, or one with stops"),
       length_field("programs.safe", "Safe height", AT(programs.safe), 1, 100, "above the blank and every clamp")});
}

#undef AT

}  // namespace

std::vector<Field> shop_fields() {
  std::vector<Field> f;
  project_fields(f);
  machine_fields(f);
  return f;
}

std::vector<Field> rack_fields(const Rack& rack, CutterLabels labels) {
  std::vector<Field> f;
  for (std::size_t i = 0; i < rack.size(); ++i) {
    const std::string base = "rack." + rack[i].id + ".";
    const auto label = [&](const char* among_others, const char* alone) -> Words {
      if (labels == CutterLabels::alone) return alone;
      return worded("{}, {}", rack[i].id, Words(among_others));
    };
    Field shank = measured_field(
        base + "shank",
        label("shank diameter", "Shank diameter"), [i](auto& p) -> auto& { return p.rack[i].shank_diameter; }, 1, 50,
        "above the flutes; empty: the cutter's own, at least 3.175");
    shank.measured = false;
    Field collet = measured_field(
        base + "collet", label("collet", "Collet"), [i](auto& p) -> auto& { return p.rack[i].collet; }, 1, 50,
        "that holds its shank; empty: as wide as the shank");
    collet.measured = false;
    f.insert(
        f.end(),
        {length_field(
             base + "diameter",
             label("nominal diameter", "Nominal diameter"), [i](auto& p) -> auto& { return p.rack[i].diameter; }, 0.1,
             100, "as bought"),
         measured_field(
             base + "measured",
             label("measured diameter", "Measured diameter"), [i](auto& p) -> auto& { return p.rack[i].measured; },
             0.05, 150, "takes the nominal one's place"),
         length_field(
             base + "cutting_length",
             label("cutting length", "Cutting length"), [i](auto& p) -> auto& { return p.rack[i].cutting_length; }, 0.1,
             300, "of the flutes"),
         length_field(
             base + "stickout", label("stickout", "Stickout"), [i](auto& p) -> auto& { return p.rack[i].stickout; }, 1,
             400, "from the collet nut to the tip"),
         length_field(
             base + "nut_diameter",
             label("collet nut", "Collet nut"), [i](auto& p) -> auto& { return p.rack[i].nut_diameter; }, 1, 200,
             "diameter"),
         shank, collet,
         flag_field(
             base + "centre_cutting", label("cuts at its centre", "Cuts at its centre"),
             [i](auto& p) -> auto& { return p.rack[i].centre_cutting; },
             "may go straight down by a quarter of its diameter"),
         flag_field(
             base + "lengths_measured", label("lengths measured", "Lengths measured"),
             [i](auto& p) -> auto& { return p.rack[i].lengths_measured; },
             "cutting length and stickout were measured, not taken from the packet")});
  }
  return f;
}

std::vector<Field> material_fields(const Materials& own) {
  std::vector<Field> f;
  for (std::size_t i = 0; i < own.size(); ++i) {
    const std::string& name = own[i].name;
    const auto key = [&](const char* what) { return "material." + name + "." + what; };
    const auto of = [i](auto member) {
      return [ i, member ](auto& p) -> auto& { return p.materials[i].*member; };
    };
    using M = Material;
    f.insert(f.end(),
             {choice_field(key("kind"), worded("{}, {}", name, Words("kind")), of(&M::kind),
                           {"hardwood", "softwood", "sheet", "plastic"}, "what it is"),
              number_field(key("density"), worded("{}, {}", name, Words("density")), of(&M::density), "kg/m³", 20, 3000,
                           "weigh a piece"),
              choice_field(key("hardness"), worded("{}, {}", name, Words("hardness")), of(&M::hardness),
                           {"soft", "medium", "hard"}, "decides the chip load"),
              number_field(key("cutting_force"), worded("{}, {}", name, Words("cutting force")), of(&M::cutting_force),
                           "N/mm²", 0.5, 200, "specific: about 0.04 × the density of a wood"),
              number_field(key("modulus"), worded("{}, {}", name, Words("stiffness")), of(&M::modulus), "GPa", 0.01,
                           100, "along the grain"),
              number_field(key("side_hardness"), worded("{}, {}", name, Words("side hardness")), of(&M::side_hardness),
                           "N", 0, 50000, "0: not known"),
              number_field(key("shrink_radial"), worded("{}, {}", name, Words("shrinks radially")),
                           of(&M::shrink_radial), "%", 0, 20, "from green to oven-dry; 0: not known"),
              number_field(key("shrink_tangential"), worded("{}, {}", name, Words("shrinks tangentially")),
                           of(&M::shrink_tangential), "%", 0, 25, "from green to oven-dry; 0: not known"),
              choice_field(key("grain"), worded("{}, {}", name, Words("grain")), of(&M::grain),
                           {"along", "crossed", "none"}, "crossed: plywood; none: no advice of grain is given"),
              flag_field(key("melts"), worded("{}, {}", name, Words("melts")), of(&M::melts),
                         "a thick chip, a slow spindle and no dwell"),
              choice_field(key("dust"), worded("{}, {}", name, Words("dust")), of(&M::dust),
                           {"wood", "fine", "harmful", "plastic", "fumes"}, "decides the caution on the sheet"),
              text_field(key("source"), worded("{}, {}", name, Words("source")), of(&M::source), "of these figures")});
  }
  return f;
}

}  // namespace wren

#include "core/job/ledger.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/instrument/fretboard_remarks.hpp"
#include "core/instrument/headstock.hpp"

namespace wren {
namespace {

std::string mm(double v) { return format_mm(v, 3); }

class Writer {
 public:
  Writer(const Project& p, std::vector<LedgerLine>& out) : p_(p), out_(out) {}

  void given(const Field& f) {
    LedgerLine line{f.key, f.label, f.get(p_), f.kind, f.unit, Origin::given, f.reason, true, ""};
    if (f.measured && !std::holds_alternative<std::monostate>(line.value)) line.origin = Origin::measured;
    if ((f.key.rfind("board.blank.", 0) == 0 || f.key.rfind("neck.blank.", 0) == 0 ||
         f.key.rfind("body.blank.", 0) == 0) &&
        f.kind == FieldKind::length)
      line.origin = Origin::measured;
    if (f.key.rfind("measured.", 0) == 0) line.reason = measure_reason(f.key.substr(9), f.reason);
    out_.push_back(std::move(line));
  }
  void length(std::string key, std::string label, double v, std::string reason, std::string pin = "") {
    add(std::move(key), std::move(label), v, FieldKind::length, "mm", std::move(reason), std::move(pin));
  }
  void number(std::string key, std::string label, double v, std::string unit, std::string reason) {
    add(std::move(key), std::move(label), v, FieldKind::number, std::move(unit), std::move(reason), "");
  }
  void text(std::string key, std::string label, std::string v, std::string reason) {
    add(std::move(key), std::move(label), std::move(v), FieldKind::text, "", std::move(reason), "");
  }

  void design(const BoardDesign& d) {
    const Fretboard& b = d.board;
    const Instrument& in = p_.instrument;
    const Box2 box = bounds(b.corners);
    length("board.length", "Board length", box.size().x,
           "from end to end along the centre line: nut line to last fret, and what stands beyond");
    length("board.width_nut", "Width at the nut", b.nut_line.width(),
           fmt::format("spread {} and twice the margin {}", mm(in.strings.nut_spread), mm(in.board.edge_margin)));
    length("board.width_last", "Width at the last fret", b.frets.back().width(),
           fmt::format("along fret {}, edge to edge", b.frets.back().number));
    length("board.least_overhang", "Least board past fret", least_overhang(b),
           "nearest the last fret's line comes to the end");
    length("crown.drop_nut", "Crown drop, nut", in.board.thickness - b.crown_height(b.nut_line.bass_edge),
           "R − √(R² − y²) at the edge");
    length("crown.drop_last", "Crown drop, last fret", in.board.thickness - b.crown_height(b.frets.back().bass_edge),
           "R − √(R² − y²) at the edge");
    if (in.crown.kind == CrownKind::cone) {
      const double bridge_x = (b.strings.front().saddle.x + b.strings.back().saddle.x) / 2;
      length("crown.radius_saddles", "Radius at the saddles", b.crown_radius(bridge_x),
             "the cone carried on: set the saddles to it");
    }
    const LeastDepth least = least_slot_depth(b);
    length("slot.least_depth", "Least slot depth", least.depth,
           fmt::format("at fret {}, where the crown is lowest over the floor", least.fret));
    if (const Cutter* c = find_cutter(d.rack, p_.work.slot_cutter)) {
      length("slot.cutter_diameter", "Slot cutter in use", c->effective_diameter(),
             p_.work.slot_measured ? "measured on a test slot" : "nominal: not measured yet");
      length("slot.expected_width", "Expected slot width", expected_slot_width(p_, *c),
             p_.work.slot_measured ? "the paths are corrected by the test slot"
                                   : fmt::format("cutter and runout {} at each side", mm(p_.machine.runout)));
      const auto lanes = slot_lanes(in.slot.width, c->effective_diameter());
      length("slot.lane_offset", "Passes stand apart", lanes.back() - lanes.front(),
             lanes.size() == 1 ? "one pass makes the width" : "wanted width less the cutter's");
    }
    length("frets.wire_total", "Fret wire in all", b.total_wire,
           fmt::format("{} frets with {} at each end", b.frets.size(), mm(in.frets.wire_overhang)));
    number("board.volume", "Volume", d.volume_mm3 / 1000, "cm³", "slots and marks taken off");
    number("board.weight", "Weight", d.weight_g, "g",
           fmt::format("{} at {:.0f} kg/m³ (12 % moisture)", d.wood.name, d.wood.density));
    for (const StringLine& s : b.strings) {
      const auto i = static_cast<std::size_t>(&s - b.strings.data());
      length(fmt::format("strings.{}.scale", i + 1), fmt::format("String {} scale", i + 1), s.scale,
             "along the string, bass side first");
    }
    for (const FretLine& f : b.frets)
      length(fmt::format("frets.{}.x", f.number), fmt::format("Fret {}", f.number), f.middle().x,
             "from the nut line along the centre line: L·(1 − 2^(−n/12))");
    for (const Jog& jog : d.setup.jogs) {
      const bool home = &jog == &d.setup.jogs.front();
      length(home ? "setup.home_to_cross_x" : "setup.cross_to_zero_x", jog.what + ", x", jog.x,
             home ? "half the travel" : "half the blank");
      length(home ? "setup.home_to_cross_y" : "setup.cross_to_zero_y", jog.what + ", y", jog.y,
             home ? "half the travel" : "half the blank");
    }
    length("setup.board_from_left", "Board from left edge", d.setup.board_low.x - d.setup.blank_corner.x,
           "centred in the blank");
    length("setup.board_from_front", "Board from front edge", d.setup.board_low.y - d.setup.blank_corner.y,
           "centred in the blank");
  }

  void cuts(const BoardCuts& c) {
    length("crown.stepover_used", "Stepover in use", c.crown_stepover,
           p_.work.crown_stepover > 0 ? "pinned"
                                      : fmt::format("the widest that leaves {} standing", mm(p_.work.crown_scallop)),
           "crown.stepover");
    length("crown.left_over", "Left between rows", c.crown_left, "of this cutter's true shape on this crown");
    for (const CutFacts& f : c.facts) {
      number(fmt::format("cuts.{}.seconds", f.id), f.title + ", time", std::round(f.seconds), "s",
             fmt::format("{:.1f} min, with acceleration and look-ahead", f.seconds / 60));
      number(fmt::format("cuts.{}.feed", f.id), f.title + ", feed", f.feed, "mm/min", f.feed_reason);
      number(fmt::format("cuts.{}.rpm", f.id), f.title + ", spindle", f.rpm, "1/min",
             "the cutter's diameter and the spindle");
      length(fmt::format("cuts.{}.deepest", f.id), f.title + ", deepest", f.deepest,
             "lowest tip, from the blank's top");
    }
    std::vector<double> tabs = c.tab_places;
    add("board.tab_places_used", "Tab places in use", tabs, FieldKind::numbers, "mm",
        p_.work.tab_places.empty() ? "spread over the straight edges, between slots" : "as you moved them",
        "board.tab_places");
    number("cuts.seconds", "All cuts", std::round(c.seconds), "s",
           fmt::format("{:.1f} min, without changes of cutter", c.seconds / 60));
  }

  void neck(const NeckDesign& d) {
    const NeckShape& n = d.shape;
    const Neck& given = n.given;
    length("neck.length", "Neck length", n.end_x - n.tip_x, "from the head's tip to the heel's end");
    length("neck.heel_width", "Heel width", 2 * n.taper(n.end_x).half, "the board's taper at the neck's end");
    length("neck.heel_length_made", "Heel length made", n.end_x - n.heel_x, "of the flat");
    length("neck.heel_in_all", "Heel in all", n.whole_thickness(n.end_x - 1), "board and neck at the heel");
    length("neck.thickness_at_a", "Thickness, first fret", n.whole_thickness(n.fret_x(given.back.fret_a)),
           fmt::format("board and neck at fret {}", given.back.fret_a));
    length("neck.thickness_at_b", "Thickness, second fret", n.whole_thickness(n.fret_x(given.back.fret_b)),
           fmt::format("board and neck at fret {}", given.back.fret_b));
    length("neck.heel_blend", "Change to the heel", n.heel_blend,
           given.heel.transition == Transition::arc
               ? fmt::format("so long that its tightest place has the radius {}", mm(given.heel.radius))
               : "as given");
    length("neck.skin", "Skin over the rod", d.skin.least,
           fmt::format("nearest in space, near fret {} ({})", n.nearest_fret(d.skin.at.x), d.skin.channel));
    length("neck.skin_misfit", "Skin, sides apart", d.skin_with_misfit.least,
           "the same with the sides missing each other at worst: " + d.misfit.reason);
    length("neck.misfit", "Sides may miss by", length_of(d.misfit.shift) + d.misfit.angle * d.blank.length / 2,
           d.misfit.reason);
    number("neck.weight", "Weight", d.weight.grams, "g",
           fmt::format("{} at {:.0f} kg/m³ (12 % moisture)", d.wood.name, d.wood.density));
    length("neck.balance", "Balance point", d.weight.balance.x, "from the nut line, without tuners");
    number("neck.pull", "String pull", d.pull.total, "N", "sum of μ·(2·L·f)² over the strings");
    number("neck.stiffness", "Stiffness at fret 5", section_stiffness(n, n.fret_x(5), d.woods).ei * 1e-6, "N·m²",
           "board, wood, bars; slots taken off");
    length(
        "neck.relief", "Relief without rod", d.bend.relief,
        fmt::format("strings' pull on the section's stiffness, largest near fret {}", n.nearest_fret(d.bend.relief_x)));
    length("neck.lump", "Worst lump", d.lump.height,
           fmt::format("against the back 25 or 50 mm either way, near fret {}", n.nearest_fret(d.lump.at.x)));
    if (!n.departures.empty()) {
      const auto worst =
          std::max_element(n.departures.begin(), n.departures.end(),
                           [](const SectionDeparture& a, const SectionDeparture& b) { return a.worst < b.worst; });
      number("neck.sections_count", "Measured sections", static_cast<double>(n.departures.size()), "",
             "loaded from a file");
      length("neck.departure", "Leaves sections by", worst->worst,
             fmt::format("square to the surface, worst at x {}", mm(worst->x)));
    }
    length("neck.trough", "Trough", d.trough, "room for the widest cutter and for collet nuts below the frame's top");
    length("neck.stock", "Blank in use", d.blank.thickness,
           d.scarf ? "height of the glued-up scarfed blank" : "thickness");
    for (const Tuner& t : n.tuners) {
      length(fmt::format("tuner.{}.behind", t.string), fmt::format("Post {} behind the nut", t.string), t.behind_nut,
             "along its string");
      number(fmt::format("tuner.{}.angle", t.string), fmt::format("String {} over the nut", t.string),
             t.angle * 57.29577951308232, "°", "from the nut's top to the winding, or to the string bar");
    }
    if (d.scarf) {
      length("scarf.face", "Scarf's face", d.scarf->face, "plank / sin(tilt)");
      length("scarf.head_piece", "Head piece", d.scarf->head_length, "with its slanted end, along its face");
      length("scarf.shaft_piece", "Shaft piece", d.scarf->shaft_length, "with its slanted end");
      length("scarf.plank_length", "Plank for both", d.scarf->plank_length,
             "one saw cut gives both slants; add the kerf and a margin");
    }
    for (const Jog& jog : d.front.jogs) {
      const bool first = &jog == &d.front.jogs.front();
      length(first ? "necksetup.home_x" : "necksetup.back_x", jog.what + ", x", jog.x,
             school_name(p_.neck_work.alignment.school));
      length(first ? "necksetup.home_y" : "necksetup.back_y", jog.what + ", y", jog.y,
             school_name(p_.neck_work.alignment.school));
    }
  }

  void neck_cuts(const NeckCuts& c) {
    length("neckcuts.rows", "Rows stand apart", c.row_distance,
           fmt::format("the widest that leaves {}", mm(p_.neck_work.scallop)));
    number("neckcuts.finish_length", "Finishing path", std::round(c.finish_length / 10) / 100, "m",
           "rows along the neck");
    for (const Placement& side : c.sides)
      for (const CutFacts& f : side.facts) {
        const std::string base = fmt::format("neckcuts.{}.{}.", side.id, f.id);
        number(base + "seconds", "Time, " + f.title, std::round(f.seconds), "s",
               fmt::format("{:.1f} min, with acceleration and look-ahead", f.seconds / 60));
        number(base + "feed", "Feed, " + f.title, f.feed, "mm/min", f.feed_reason);
        length(base + "deepest", "Deepest, " + f.title, f.deepest, "lowest tip, from the blank's top");
      }
    number("neckcuts.seconds", "All neck cuts", std::round(c.seconds), "s",
           fmt::format("{:.1f} min, without changes of cutter", c.seconds / 60));
  }

 private:
  static double length_of(Vec2 v) { return wren::length(v); }

  [[nodiscard]] std::string measure_reason(const std::string& of, const std::string& otherwise) const {
    const Measured* m = measured_in_use(p_.measured, of);
    if (m == nullptr) return otherwise;
    return fmt::format("{}{}{}{}", m->instrument, m->date.empty() ? "" : ", " + m->date,
                       m->note.empty() ? "" : ": " + m->note, "; stands in for the designed number");
  }

  void add(std::string key, std::string label, FieldValue v, FieldKind kind, std::string unit, std::string reason,
           std::string pin) {
    out_.push_back({std::move(key), std::move(label), std::move(v), kind, std::move(unit), Origin::derived,
                    std::move(reason), false, std::move(pin)});
  }
  const Project& p_;
  std::vector<LedgerLine>& out_;
};

}  // namespace

const char* origin_name(Origin origin) {
  switch (origin) {
    case Origin::given: return "given";
    case Origin::derived: return "derived";
    case Origin::measured: return "measured";
  }
  return "";
}

std::vector<LedgerLine> ledger(const Project& project, const BoardDesign* design, const BoardCuts* cuts,
                               const NeckDesign* neck, const NeckCuts* neck_cuts, const BodyDesign* body,
                               const BodyCuts* body_cuts) {
  std::vector<LedgerLine> out;
  Writer writer(project, out);
  for (const Field& f : fields()) writer.given(f);
  for (const Field& f : rack_fields(project.rack)) writer.given(f);
  if (design != nullptr) writer.design(*design);
  if (cuts != nullptr) writer.cuts(*cuts);
  if (neck != nullptr) writer.neck(*neck);
  if (neck_cuts != nullptr) writer.neck_cuts(*neck_cuts);
  if (body != nullptr) add_body_ledger(*body, body_cuts, out);
  return out;
}

std::string ledger_text(const LedgerLine& line, UnitSystem system) {
  Field field;
  field.kind = line.kind;
  field.unit = line.unit;
  if (const double* v = std::get_if<double>(&line.value); v != nullptr && line.unit == "mm")
    return format_length(*v, system);
  if (const double* v = std::get_if<double>(&line.value))
    return format_mm(*v, 3) + (line.unit.empty() ? "" : " " + line.unit);
  const std::string text = field_text(field, line.value, system);
  const bool bare = line.unit.empty() || text == "none";
  return bare ? text : text + " " + (line.unit == "mm" && system == UnitSystem::inch ? "in" : line.unit);
}

}  // namespace wren

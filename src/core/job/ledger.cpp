#include "core/job/ledger.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/instrument/fretboard_remarks.hpp"

namespace wren {
namespace {

std::string mm(double v) { return format_mm(v, 3); }

class Writer {
 public:
  Writer(const Project& p, std::vector<LedgerLine>& out) : p_(p), out_(out) {}

  void given(const Field& f) {
    LedgerLine line{f.key, f.label, f.get(p_), f.kind, f.unit, Origin::given, f.reason, true, ""};
    if (f.measured && !std::holds_alternative<std::monostate>(line.value)) line.origin = Origin::measured;
    if (f.key.rfind("board.blank.", 0) == 0 && f.kind == FieldKind::length) line.origin = Origin::measured;
    out_.push_back(std::move(line));
  }
  void length(std::string key, std::string label, double v, std::string reason, std::string pin = "") { add(std::move(key), std::move(label), v, FieldKind::length, "mm", std::move(reason), std::move(pin)); }
  void number(std::string key, std::string label, double v, std::string unit, std::string reason) { add(std::move(key), std::move(label), v, FieldKind::number, std::move(unit), std::move(reason), ""); }
  void text(std::string key, std::string label, std::string v, std::string reason) { add(std::move(key), std::move(label), std::move(v), FieldKind::text, "", std::move(reason), ""); }

  void design(const BoardDesign& d) {
    const Fretboard& b = d.board;
    const Instrument& in = p_.instrument;
    const Box2 box = bounds(b.corners);
    length("board.length", "Board length", box.size().x, "from end to end along the centre line: nut line to last fret, and what stands beyond");
    length("board.width_nut", "Width at the nut", b.nut_line.width(), fmt::format("spread {} and twice the margin {}", mm(in.strings.nut_spread), mm(in.board.edge_margin)));
    length("board.width_last", "Width at the last fret", b.frets.back().width(), fmt::format("along fret {}, edge to edge", b.frets.back().number));
    length("board.least_overhang", "Least board past fret", least_overhang(b), "nearest the last fret's line comes to the end");
    length("crown.drop_nut", "Crown drop, nut", in.board.thickness - b.crown_height(b.nut_line.bass_edge), "R − √(R² − y²) at the edge");
    length("crown.drop_last", "Crown drop, last fret", in.board.thickness - b.crown_height(b.frets.back().bass_edge), "R − √(R² − y²) at the edge");
    if (in.crown.kind == CrownKind::cone) {
      const double bridge_x = (b.strings.front().saddle.x + b.strings.back().saddle.x) / 2;
      length("crown.radius_saddles", "Radius at the saddles", b.crown_radius(bridge_x), "the cone carried on: set the saddles to it");
    }
    const LeastDepth least = least_slot_depth(b);
    length("slot.least_depth", "Least slot depth", least.depth, fmt::format("at fret {}, where the crown is lowest over the floor", least.fret));
    if (const Cutter* c = find_cutter(d.rack, p_.work.slot_cutter)) {
      length("slot.cutter_diameter", "Slot cutter in use", c->effective_diameter(), p_.work.slot_measured ? "measured on a test slot" : "nominal: not measured yet");
      length("slot.expected_width", "Expected slot width", expected_slot_width(p_, *c), p_.work.slot_measured ? "the paths are corrected by the test slot" : fmt::format("cutter and runout {} at each side", mm(p_.machine.runout)));
      const auto lanes = slot_lanes(in.slot.width, c->effective_diameter());
      length("slot.lane_offset", "Passes stand apart", lanes.back() - lanes.front(), lanes.size() == 1 ? "one pass makes the width" : "wanted width less the cutter's");
    }
    length("frets.wire_total", "Fret wire in all", b.total_wire, fmt::format("{} frets with {} at each end", b.frets.size(), mm(in.frets.wire_overhang)));
    number("board.volume", "Volume", d.volume_mm3 / 1000, "cm³", "slots and marks taken off");
    number("board.weight", "Weight", d.weight_g, "g", fmt::format("{} at {:.0f} kg/m³ (12 % moisture)", d.wood.name, d.wood.density));
    for (const StringLine& s : b.strings) {
      const auto i = static_cast<std::size_t>(&s - b.strings.data());
      length(fmt::format("strings.{}.scale", i + 1), fmt::format("String {} scale", i + 1), s.scale, "along the string, bass side first");
    }
    for (const FretLine& f : b.frets) length(fmt::format("frets.{}.x", f.number), fmt::format("Fret {}", f.number), f.middle().x, "from the nut line along the centre line: L·(1 − 2^(−n/12))");
    for (const Jog& jog : d.setup.jogs) {
      const bool home = &jog == &d.setup.jogs.front();
      length(home ? "setup.home_to_cross_x" : "setup.cross_to_zero_x", jog.what + ", x", jog.x, home ? "half the travel" : "half the blank");
      length(home ? "setup.home_to_cross_y" : "setup.cross_to_zero_y", jog.what + ", y", jog.y, home ? "half the travel" : "half the blank");
    }
    length("setup.board_from_left", "Board from left edge", d.setup.board_low.x - d.setup.blank_corner.x, "centred in the blank");
    length("setup.board_from_front", "Board from front edge", d.setup.board_low.y - d.setup.blank_corner.y, "centred in the blank");
  }

  void cuts(const BoardCuts& c) {
    length("crown.stepover_used", "Stepover in use", c.crown_stepover, p_.work.crown_stepover > 0 ? "pinned" : fmt::format("the widest that leaves {} standing", mm(p_.work.crown_scallop)), "crown.stepover");
    length("crown.left_over", "Left between rows", c.crown_left, "of this cutter's true shape on this crown");
    for (const CutFacts& f : c.facts) {
      number(fmt::format("cuts.{}.seconds", f.id), f.title + ", time", std::round(f.seconds), "s", fmt::format("{:.1f} min, with acceleration and look-ahead", f.seconds / 60));
      number(fmt::format("cuts.{}.feed", f.id), f.title + ", feed", f.feed, "mm/min", f.feed_reason);
      number(fmt::format("cuts.{}.rpm", f.id), f.title + ", spindle", f.rpm, "1/min", "the cutter's diameter and the spindle");
      length(fmt::format("cuts.{}.deepest", f.id), f.title + ", deepest", f.deepest, "lowest tip, from the blank's top");
    }
    std::vector<double> tabs = c.tab_places;
    add("board.tab_places_used", "Tab places in use", tabs, FieldKind::numbers, "mm", p_.work.tab_places.empty() ? "spread over the straight edges, between slots" : "as you moved them", "board.tab_places");
    number("cuts.seconds", "All cuts", std::round(c.seconds), "s", fmt::format("{:.1f} min, without changes of cutter", c.seconds / 60));
  }

 private:
  void add(std::string key, std::string label, FieldValue v, FieldKind kind, std::string unit, std::string reason, std::string pin) {
    out_.push_back({std::move(key), std::move(label), std::move(v), kind, std::move(unit), Origin::derived, std::move(reason), false, std::move(pin)});
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

std::vector<LedgerLine> ledger(const Project& project, const BoardDesign* design, const BoardCuts* cuts) {
  std::vector<LedgerLine> out;
  Writer writer(project, out);
  for (const Field& f : fields()) writer.given(f);
  for (const Field& f : rack_fields(project.rack)) writer.given(f);
  if (design != nullptr) writer.design(*design);
  if (cuts != nullptr) writer.cuts(*cuts);
  return out;
}

std::string ledger_text(const LedgerLine& line, UnitSystem system) {
  Field field;
  field.kind = line.kind;
  field.unit = line.unit;
  if (const double* v = std::get_if<double>(&line.value); v != nullptr && line.unit == "mm") return format_length(*v, system);
  if (const double* v = std::get_if<double>(&line.value)) return format_mm(*v, 3) + (line.unit.empty() ? "" : " " + line.unit);
  const std::string text = field_text(field, line.value, system);
  const bool bare = line.unit.empty() || text == "none";
  return bare ? text : text + " " + (line.unit == "mm" && system == UnitSystem::inch ? "in" : line.unit);
}

}  // namespace wren

#include "core/job/build_sheet.hpp"

#include <algorithm>

#include "core/job/board_programs.hpp"

namespace wren {
namespace {

bool belongs(const BuildLine& line, const std::string& key) {
  return std::any_of(line.keys.begin(), line.keys.end(),
                     [&](const std::string& k) { return k == key || (k.back() == '.' && key.rfind(k, 0) == 0); });
}

std::vector<std::string> cut_keys(const std::string& id) {
  const std::string own = "cuts." + id + ".";
  if (id == "slots")
    return {"slot.cutter",      "slot.entry", "slot.measured_width", "slot.cutter_diameter", "slot.expected_width",
            "slot.lane_offset", own};
  if (id == "marks") return {"marks.cutter", own};
  if (id == "outline")
    return {"outline.",      "board.tabs", "board.tab_places",     "board.tab_length", "board.tab_height",
            "board.through", own,          "board.tab_places_used"};
  return {"crown.cutter", "crown.direction",     "crown.scallop",   "crown.stepover",
          "crown.extent", "crown.stepover_used", "crown.left_over", own};
}

std::vector<std::string> neck_cut_keys(const std::string& side, const std::string& id) {
  std::vector<std::string> out;
  if (id == "pins" || id == "pin-holes")
    out = {"neck.pin_cutter", "neck.pin_diameter", "neck.pin_depth"};
  else if (id == "rod" || id == "rod-pocket")
    out = {"neck.channel_cutter", "rod.width", "rod.depth"};
  else if (id == "bar" || id == "nut")
    out = {"neck.fine_cutter"};
  else if (id == "head-rough" || id == "rough")
    out = {"neck.rough_cutter", "neck.rough_leave"};
  else if (id == "head-face")
    out = {"neck.channel_cutter", "neck.sand_face"};
  else if (id == "head-step")
    out = {"neck.face_cutter", "neck.scallop", "neck.sand_face"};
  else if (id == "pilots")
    out = {"neck.pilot_drill", "tuner.pilot", "tuner.pilot_depth"};
  else if (id == "heel-holes")
    out = {"neck.heel_drill", "neck.heel_hole_depth"};
  else if (id == "tuner-holes")
    out = {"neck.hole_cutter", "tuner.hole"};
  else if (id == "finish")
    out = {"neck.finish_cutter", "neck.scallop", "neck.sand_back", "neckcuts.rows", "neckcuts.finish_length"};
  else if (id == "edges")
    out = {"neck.finish_cutter", "neck.scallop"};
  else if (id == "foot")
    out = {"neck.edge_cutter", "neck.scallop"};
  else if (id == "outline")
    out = {"neck.outline_cutter", "neck.skim",       "neck.side_tabs", "neck.end_tabs",
           "neck.tab_length",     "neck.tab_height", "neck.through",   "neck.sand_sides"};
  out.push_back("neckcuts." + side + "." + id + ".");
  return out;
}

/// The neck's lines, from its numbers to what is measured on it.
template <class Heading, class Line>
void neck_lines(const Project& p, const NeckDesign& neck, const NeckCuts* cuts, const Heading& heading,
                const Line& line, bool& written, bool& proved) {
  heading("Neck");
  line("neck.back", "Back and build",
       {"neck.build",          "neck.joint",          "neck.with_board",     "neck.fret_a",    "neck.thickness_a",
        "neck.shape_a",        "neck.fret_b",         "neck.thickness_b",    "neck.shape_b",   "neck.lean",
        "neck.fair_within",    "neck.symmetric",      "neck.sections_count", "neck.departure", "neck.lump",
        "neck.thickness_at_a", "neck.thickness_at_b", "neck.weight",         "neck.balance",   "neck.length",
        "neck.side_dot"});
  line("neck.heel", "Heel and joint",
       {"neck.heel_kind", "neck.heel_start", "neck.heel_thickness", "neck.heel_beyond", "neck.heel_transition",
        "neck.heel_radius", "neck.heel_length", "neck.heel_blend", "neck.heel_corner", "neck.heel_width",
        "neck.tenon_width", "neck.tenon_length", "neck.heel_holes", "neck.heel_hole_diameter", "neck.heel_hole_depth",
        "neck.heel_hole_along", "neck.heel_hole_across", "neck.heel_hole_from_end"});
  line("neck.rod", "Rod, bars, nut", {"rod.", "neck.skin", "nut."});
  line("neck.head", "Head", {"head."});
  line("neck.tuners", "Tuners", {"head.tuners_bass", "head.first_post", "tuner."});
  line("neck.strength", "Pull and stiffness",
       {"neck.tuning", "neck.pull", "neck.stiffness", "neck.relief", "rod.bars", "neck.blank.wood"});
  heading("Neck on the machine");
  line("neck.blank", "Blank and frame",
       {"neck.blank.", "neck.plank", "neck.stock", "scarf.", "neck.frame", "neck.web", "neck.trough",
        "measured.neck.blank.length", "measured.neck.blank.width", "measured.neck.blank.thickness"});
  line("neck.setup", "Alignment, turning over",
       {"neck.alignment", "neck.turn", "neck.tick_error", "neck.pin_diameter", "neck.pin_inset", "neck.pin_offset",
        "neck.pin_depth", "neck.pin_play", "neck.square_error", "neck.fence_x", "neck.fence_y", "neck.misfit",
        "neck.skin_misfit", "neck.holding", "neck.cradle_clearance", "neck.cradle_thickness", "neck.clamps",
        "necksetup."});
  bool programs_current = false;
  bool proof_current = false;
  const WrittenRecord* programs = remembered(p, "neck-programs", &programs_current);
  const WrittenRecord* proof = remembered(p, "neck-proof", &proof_current);
  written = programs != nullptr && programs_current;
  proved = proof != nullptr && proof_current;
  if (cuts != nullptr)
    for (const Placement& side : cuts->sides) {
      heading("Neck, " + side.title);
      for (const CutFacts& f : side.facts) {
        BuildLine& l = line("neckcut." + side.id + "." + f.id, f.title, neck_cut_keys(side.id, f.id));
        l.seconds = f.seconds;
        l.cutter = f.cutter;
        if (proved) l.state = LineState::proved;
        if (written) l.state = LineState::written;
        bool done = false;
        if (remembered(p, l.id, &done) != nullptr && done) l.state = LineState::cut;
      }
    }
  heading("Neck, checks and papers");
  BuildLine& rehearsal =
      line("neck.rehearsal", "Both sides as one piece",
           {"neckcuts.seconds", "neckcuts.finish_length", "neck.skin", "neck.misfit", "neck.skin_misfit"});
  if (proved) rehearsal.state = LineState::proved;
  BuildLine& folder =
      line("neck.programs", "Programs", {"programs.units", "programs.arcs", "programs.files", "programs.safe"});
  if (programs != nullptr) folder.note = programs->path + (programs_current ? "" : " (older numbers)");
  if (written) folder.state = LineState::written;
  BuildLine& sheet = line("neck.sheet", "Run sheet", {});
  bool sheet_current = false;
  if (const WrittenRecord* w = remembered(p, "neck-sheet", &sheet_current)) {
    sheet.note = w->path + (sheet_current ? "" : " (older numbers)");
    if (sheet_current) sheet.state = LineState::written;
  }
  const auto waiting = waiting_for(p, neck);
  std::vector<std::string> keys;
  std::size_t known = 0;
  for (const WaitingFor& w : waiting) {
    keys.push_back(w.key);
    keys.push_back("measured." + w.key);
    if (w.measured != nullptr) ++known;
  }
  BuildLine& measure = line("neck.measure", "Measure after sanding", keys);
  if (known == waiting.size()) measure.state = LineState::measured;
}

}  // namespace

Part part_of_line(const std::string& id) {
  return id.rfind("body", 0) == 0 ? Part::body : id.rfind("neck", 0) == 0 ? Part::neck : Part::fretboard;
}

const char* line_state_name(LineState state) {
  switch (state) {
    case LineState::heading: return "";
    case LineState::question: return "open question";
    case LineState::ready: return "ready";
    case LineState::written: return "written";
    case LineState::proved: return "proved";
    case LineState::cut: return "cut";
    case LineState::measured: return "measured";
  }
  return "";
}

std::vector<BuildLine> build_sheet(const Project& p, const BoardDesign* d, const BoardCuts* cuts,
                                   const NeckDesign* neck, const NeckCuts* neck_cuts, const BodyDesign* body,
                                   const BodyCuts* body_cuts) {
  std::vector<BuildLine> out;
  const auto heading = [&](std::string title) {
    out.push_back({"", std::move(title), LineState::heading, 0, "", "", {}, false, false});
  };
  const auto line = [&](std::string id, std::string title, std::vector<std::string> keys) -> BuildLine& {
    out.push_back({std::move(id), std::move(title), LineState::ready, 0, "", "", std::move(keys), false, false});
    return out.back();
  };
  heading("Instrument");
  line("strings", "Strings and scale",
       {"project.name", "strings.scale", "strings.count", "strings.scale_bass", "strings.scale_treble",
        "strings.square_fret", "strings.nut_spread", "strings.bridge_spread", "strings.spacing", "strings.left_handed",
        "strings.gauges", "strings."});
  line("frets", "Frets and wire",
       {"frets.count", "frets.zero_fret", "frets.tang_width", "frets.tang_depth", "frets.crown_width",
        "frets.crown_height", "frets.wire_overhang", "frets.wire_total", "frets."});
  heading("Fretboard");
  line("shape", "Shape",
       {"board.thickness", "board.edge_margin", "board.overhang", "board.end", "board.end_rise", "board.nut_extension",
        "board.length", "board.width_nut", "board.width_last", "board.least_overhang", "board.volume", "board.weight"});
  line("crown", "Crown",
       {"crown.kind", "crown.radius_nut", "crown.radius_last", "crown.radius_saddles", "crown.drop_nut",
        "crown.drop_last"});
  line("slots", "Slots",
       {"slot.width", "slot.depth", "slot.bottom", "slot.ends", "slot.blind_margin", "slot.least_depth"});
  line("marks", "Marks", {"marks.shape", "marks.places", "marks.size", "marks.length", "marks.depth"});
  heading("On the machine");
  line("blank", "Blank", {"board.blank.", "setup.board_from_left", "setup.board_from_front"});
  line("setup", "Set-up and holding", {"board.order", "board.clamps", "programs.", "setup."});
  BuildLine& test = line("test_slot", "Test slot on scrap",
                         {"slot.measured_width", "slot.cutter", "slot.cutter_diameter", "slot.expected_width",
                          "slot.lane_offset", "slot.width", "frets.tang_width"});
  if (p.work.slot_measured) test.state = LineState::measured;
  heading("Cuts");
  bool programs_current = false;
  bool proof_current = false;
  const WrittenRecord* programs = remembered(p, "programs", &programs_current);
  const WrittenRecord* proof = remembered(p, "proof", &proof_current);
  const bool written = programs != nullptr && programs_current;
  const bool proved = proof != nullptr && proof_current;
  if (cuts != nullptr)
    for (const CutFacts& f : cuts->facts) {
      BuildLine& l = line("cut." + f.id, f.title, cut_keys(f.id));
      l.seconds = f.seconds;
      l.cutter = f.cutter;
      if (proved) l.state = LineState::proved;
      if (written) l.state = LineState::written;
      bool done = false;
      if (remembered(p, "cut:" + f.id, &done) != nullptr && done) l.state = LineState::cut;
    }
  heading("Checks and papers");
  BuildLine& rehearsal = line("rehearsal", "Rehearsal",
                              {"cuts.slots.seconds", "cuts.marks.seconds", "cuts.crown.seconds",
                               "cuts.crown-again.seconds", "cuts.outline.seconds", "cuts.seconds", "crown.left_over"});
  if (proved) rehearsal.state = LineState::proved;
  BuildLine& folder =
      line("programs", "Programs", {"programs.units", "programs.arcs", "programs.files", "programs.safe"});
  if (programs != nullptr) folder.note = programs->path + (programs_current ? "" : " (older numbers)");
  if (written) folder.state = LineState::written;
  BuildLine& sheet = line("sheet", "Run sheet", {});
  bool sheet_current = false;
  if (const WrittenRecord* w = remembered(p, "sheet", &sheet_current)) {
    sheet.note = w->path + (sheet_current ? "" : " (older numbers)");
    if (sheet_current) sheet.state = LineState::written;
  }
  bool neck_written = false;
  bool neck_proved = false;
  if (neck != nullptr) neck_lines(p, *neck, neck_cuts, heading, line, neck_written, neck_proved);
  PartState body_state;
  if (neck != nullptr && body != nullptr) {
    body_state = add_body_lines(p, *neck, *body, body_cuts, out);
  } else if (neck != nullptr) {
    heading("Body");
    add_pocket_line(p, *neck, out);
  }
  heading("Shop");
  line("machine", "Machine", {"machine."});
  line("rack", "Cutter rack", {"rack."});

  std::vector<Remark> remarks;
  if (d != nullptr) remarks = d->remarks;
  if (cuts != nullptr) remarks.insert(remarks.end(), cuts->remarks.begin(), cuts->remarks.end());
  if (neck != nullptr) remarks.insert(remarks.end(), neck->remarks.begin(), neck->remarks.end());
  if (neck_cuts != nullptr) remarks.insert(remarks.end(), neck_cuts->remarks.begin(), neck_cuts->remarks.end());
  if (body != nullptr) remarks.insert(remarks.end(), body->remarks.begin(), body->remarks.end());
  if (body_cuts != nullptr) remarks.insert(remarks.end(), body_cuts->remarks.begin(), body_cuts->remarks.end());
  for (const Remark& r : remarks) {
    if (r.weight != Weight::stop && r.weight != Weight::think_again) continue;
    for (BuildLine& l : out)
      if (l.state == LineState::ready && belongs(l, r.place)) {
        l.state = LineState::question;
        l.note = r.sentence;
        break;
      }
  }
  if (d == nullptr)
    for (BuildLine& l : out)
      if (l.id == "strings") l.state = LineState::question;
  // Next: the first open question, then the first thing not yet done.
  const auto mark = [&](const auto& is) {
    const auto it = std::find_if(out.begin(), out.end(), is);
    if (it != out.end()) it->next = true;
    return it != out.end();
  };
  const auto todo = [&](const char* id, LineState done) {
    return mark([&](const BuildLine& l) { return l.id == id && l.state != done; });
  };
  const auto uncut = [&](const char* prefix) {
    return mark([&](const BuildLine& l) { return l.id.rfind(prefix, 0) == 0 && l.state != LineState::cut; });
  };
  if (mark([](const BuildLine& l) { return l.state == LineState::question && !l.waits; })) return out;
  if ((!proved && todo("rehearsal", LineState::proved)) || todo("programs", LineState::written) ||
      todo("sheet", LineState::written) || uncut("cut.") || neck == nullptr)
    return out;
  if ((!neck_proved && todo("neck.rehearsal", LineState::proved)) || todo("neck.programs", LineState::written) ||
      todo("neck.sheet", LineState::written) || uncut("neckcut."))
    return out;
  if (todo("neck.measure", LineState::measured) || body == nullptr) return out;
  if ((!body_state.proved && todo("body.rehearsal", LineState::proved)) || todo("body.programs", LineState::written) ||
      todo("body.sheet", LineState::written))
    return out;
  uncut("bodycut.");
  return out;
}

std::vector<LedgerLine> lines_of(const BuildLine& line, const std::vector<LedgerLine>& ledger) {
  std::vector<LedgerLine> out;
  const auto has = [&](const std::string& key) {
    return std::any_of(out.begin(), out.end(), [&](const LedgerLine& l) { return l.key == key; });
  };
  for (const std::string& key : line.keys)
    for (const LedgerLine& l : ledger)
      if ((l.key == key || (key.back() == '.' && l.key.rfind(key, 0) == 0)) && !has(l.key)) out.push_back(l);
  return out;
}

std::string line_for_key(const std::vector<BuildLine>& sheet, const std::string& key) {
  for (const BuildLine& l : sheet)
    if (belongs(l, key)) return l.id;
  return {};
}

}  // namespace wren

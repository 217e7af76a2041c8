#include "core/job/build_sheet.hpp"

#include <algorithm>

#include "core/job/board_programs.hpp"

namespace wren {
namespace {

bool belongs(const BuildLine& line, const std::string& key) {
  return std::any_of(line.keys.begin(), line.keys.end(), [&](const std::string& k) { return k == key || (k.back() == '.' && key.rfind(k, 0) == 0); });
}

std::vector<std::string> cut_keys(const std::string& id) {
  const std::string own = "cuts." + id + ".";
  if (id == "slots") return {"slot.cutter", "slot.entry", "slot.measured_width", "slot.cutter_diameter", "slot.expected_width", "slot.lane_offset", own};
  if (id == "marks") return {"marks.cutter", own};
  if (id == "outline") return {"outline.", "board.tabs", "board.tab_places", "board.tab_length", "board.tab_height", "board.through", own, "board.tab_places_used"};
  return {"crown.cutter", "crown.direction", "crown.scallop", "crown.stepover", "crown.extent", "crown.stepover_used", "crown.left_over", own};
}

}  // namespace

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

std::vector<BuildLine> build_sheet(const Project& p, const BoardDesign* d, const BoardCuts* cuts) {
  std::vector<BuildLine> out;
  const auto heading = [&](std::string title) { out.push_back({"", std::move(title), LineState::heading, 0, "", "", {}, false}); };
  const auto line = [&](std::string id, std::string title, std::vector<std::string> keys) -> BuildLine& {
    out.push_back({std::move(id), std::move(title), LineState::ready, 0, "", "", std::move(keys), false});
    return out.back();
  };
  heading("Instrument");
  line("strings", "Strings and scale", {"project.name", "strings.scale", "strings.count", "strings.scale_bass", "strings.scale_treble", "strings.square_fret", "strings.nut_spread", "strings.bridge_spread", "strings.spacing", "strings.left_handed", "strings.gauges", "strings."});
  line("frets", "Frets and wire", {"frets.count", "frets.zero_fret", "frets.tang_width", "frets.tang_depth", "frets.crown_width", "frets.crown_height", "frets.wire_overhang", "frets.wire_total", "frets."});
  heading("Fretboard");
  line("shape", "Shape", {"board.thickness", "board.edge_margin", "board.overhang", "board.end", "board.end_rise", "board.nut_extension", "board.length", "board.width_nut", "board.width_last", "board.least_overhang", "board.volume", "board.weight"});
  line("crown", "Crown", {"crown.kind", "crown.radius_nut", "crown.radius_last", "crown.radius_saddles", "crown.drop_nut", "crown.drop_last"});
  line("slots", "Slots", {"slot.width", "slot.depth", "slot.bottom", "slot.ends", "slot.blind_margin", "slot.least_depth"});
  line("marks", "Marks", {"marks.shape", "marks.places", "marks.size", "marks.length", "marks.depth"});
  heading("On the machine");
  line("blank", "Blank", {"board.blank.", "setup.board_from_left", "setup.board_from_front"});
  line("setup", "Set-up and holding", {"board.order", "board.clamps", "programs.", "setup."});
  BuildLine& test = line("test_slot", "Test slot on scrap", {"slot.measured_width", "slot.cutter", "slot.cutter_diameter", "slot.expected_width", "slot.lane_offset", "slot.width", "frets.tang_width"});
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
  BuildLine& rehearsal = line("rehearsal", "Rehearsal", {"cuts.slots.seconds", "cuts.marks.seconds", "cuts.crown.seconds", "cuts.crown-again.seconds", "cuts.outline.seconds", "cuts.seconds", "crown.left_over"});
  if (proved) rehearsal.state = LineState::proved;
  BuildLine& folder = line("programs", "Programs", {"programs.units", "programs.arcs", "programs.files", "programs.safe"});
  if (programs != nullptr) folder.note = programs->path + (programs_current ? "" : " (older numbers)");
  if (written) folder.state = LineState::written;
  BuildLine& sheet = line("sheet", "Run sheet", {});
  bool sheet_current = false;
  if (const WrittenRecord* w = remembered(p, "sheet", &sheet_current)) {
    sheet.note = w->path + (sheet_current ? "" : " (older numbers)");
    if (sheet_current) sheet.state = LineState::written;
  }
  heading("Shop");
  line("machine", "Machine", {"machine."});
  line("rack", "Cutter rack", {"rack."});

  std::vector<Remark> remarks;
  if (d != nullptr) remarks = d->remarks;
  if (cuts != nullptr) remarks.insert(remarks.end(), cuts->remarks.begin(), cuts->remarks.end());
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
  if (!mark([](const BuildLine& l) { return l.state == LineState::question; }) && !(proved ? false : mark([](const BuildLine& l) { return l.id == "rehearsal"; })) &&
      !mark([](const BuildLine& l) { return l.id == "programs" && l.state != LineState::written; }) && !mark([](const BuildLine& l) { return l.id == "sheet" && l.state != LineState::written; }))
    mark([](const BuildLine& l) { return l.id.rfind("cut.", 0) == 0 && l.state != LineState::cut; });
  return out;
}

std::vector<LedgerLine> lines_of(const BuildLine& line, const std::vector<LedgerLine>& ledger) {
  std::vector<LedgerLine> out;
  const auto has = [&](const std::string& key) { return std::any_of(out.begin(), out.end(), [&](const LedgerLine& l) { return l.key == key; }); };
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

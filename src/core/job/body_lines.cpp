// The body's lines on the build sheet.
#include <algorithm>

#include "core/job/build_sheet.hpp"

namespace wren {
namespace {

std::vector<std::string> cut_keys(const std::string& side, const std::string& id) {
  std::vector<std::string> out;
  const auto is = [&](const char* with) { return id.rfind(with, 0) == 0; };
  if (is("pins") || is("pin-holes"))
    out = {"body.pin_diameter", "body.pin_depth", "body.deep_cutter"};
  else if (is("facing"))
    out = {"body.face_off", "body.facing_cutter"};
  else if (is("outline") || is("guide") || is("oversize"))
    out = {"body.outline_school", "body.outline_cutter", "body.skim",        "body.grain",
           "body.thin_skim",      "body.tabs",           "body.tab_length",  "body.tab_height",
           "body.through",        "body.guide_depth",    "body.guide_leave", "body.top_oversize"};
  else if (is("carve-rough"))
    out = {"body.rough_cutter", "body.rough_leave"};
  else if (is("carve"))
    out = {"body.finish_cutter", "body.scallop"};
  else if (is("round"))
    out = {"body.round_face",    "body.round_back",   "body.round_by_form",
           "body.finish_cutter", "body.round_cutter", "body.scallop"};
  else if (is("bolt") || is("plate") || is("string") || is("hold"))
    out = {"body.peck"};
  else if (is("post") || is("shaft") || is("ferrule") || is("sink"))
    out = {"body.clear_cutter", "body.deep_cutter"};
  else
    out = {"body.clear_cutter", "body.deep_cutter", "body.fine_cutter",
           "body.step",         "body.wall_skim",   "body.floor_skim"};
  out.push_back("bodycuts." + side + "." + id + ".");
  return out;
}

}  // namespace

void add_pocket_line(const Project& p, const NeckDesign& neck, std::vector<BuildLine>& out) {
  out.push_back({"body.pocket",
                 "Set-up and neck pocket",
                 LineState::ready,
                 0,
                 "",
                 "",
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
                 false,
                 false});
  BuildLine& pocket = out.back();
  std::string missing;
  for (const WaitingFor& w : waiting_for(p, neck))
    if (w.used_by.find("pocket") != std::string::npos && w.measured == nullptr)
      missing += (missing.empty() ? "" : ", ") + w.title;
  pocket.waits = !missing.empty();
  if (pocket.waits) {
    pocket.state = LineState::question;
    pocket.note = "Waits for the neck, sanded and measured: " + missing + ".";
  } else {
    pocket.note = "Follows the measured neck.";
  }
}

PartState add_body_lines(const Project& p, const NeckDesign& neck, const BodyDesign& d, const BodyCuts* cuts,
                         std::vector<BuildLine>& out) {
  const auto heading = [&](std::string title) {
    out.push_back({"", std::move(title), LineState::heading, 0, "", "", {}, false, false});
  };
  const auto line = [&](std::string id, std::string title, std::vector<std::string> keys) -> BuildLine& {
    out.push_back({std::move(id), std::move(title), LineState::ready, 0, "", "", std::move(keys), false, false});
    return out.back();
  };
  heading("Body");
  line("body.outline", "Outline",
       {"body.form", "body.lower_width", "body.waist_width", "body.upper_width", "body.tail", "body.horn_bass",
        "body.horn_treble", "body.length", "body.width", "body.outline", "body.nodes"});
  line("body.bridge", "Bridge", {"bridge."});
  add_pocket_line(p, neck, out);
  line("body.pickups", "Pickups", {"pickup."});
  line("body.controls", "Controls and cover", {"control.", "cover."});
  std::vector<std::string> layers{"body.layers", "body.thickness"};
  for (std::size_t k = 0; k < d.shape.layers.size(); ++k)
    layers.push_back("measured.body.layer_" + std::to_string(k + 1));
  for (const char* more : {"chamber.", "wire.", "body.cavities"}) layers.emplace_back(more);
  line("body.layers", "Layers, chambers, wires", layers);
  line("body.shape", "Face, comfort, edges",
       {"body.carve", "body.carve_drop", "body.carve_reach", "body.carve_flat", "body.carve_fair", "body.bevel_depth",
        "body.bevel_reach", "body.bevel_angle", "body.belly_depth", "body.belly_reach", "body.belly_angle",
        "body.round_face", "body.round_back", "body.round_by_form"});
  line("body.balance", "Weight and balance",
       {"body.whole_weight", "body.weight", "body.chambers_weight", "body.hang", "body.balance_x", "body.balance_y",
        "body.strap", "body.tuner_weight", "body.hardware_weight"});
  heading("Body on the machine");
  line("body.blank", "Blanks", {"body.blank.", "body.face_off", "body.clamps"});
  line("body.setup", "Alignment, layer by layer",
       {"body.alignment", "body.turn", "body.tick_error", "body.pin_diameter", "body.pin_inset", "body.pin_offset",
        "body.pin_depth", "body.pin_play", "body.square_error", "body.fence_x", "body.fence_y", "body.misfit"});
  PartState state;
  bool programs_current = false;
  bool proof_current = false;
  const WrittenRecord* programs = remembered(p, "body-programs", &programs_current);
  const WrittenRecord* proof = remembered(p, "body-proof", &proof_current);
  state.written = programs != nullptr && programs_current;
  state.proved = proof != nullptr && proof_current;
  if (cuts != nullptr)
    for (const Placement& side : cuts->sides) {
      if (side.facts.empty()) continue;
      heading("Body, " + side.title);
      for (const CutFacts& f : side.facts) {
        BuildLine& l = line("bodycut." + side.id + "." + f.id, f.title, cut_keys(side.id, f.id));
        l.seconds = f.seconds;
        l.cutter = f.cutter;
        if (state.proved) l.state = LineState::proved;
        if (state.written) l.state = LineState::written;
        bool done = false;
        if (remembered(p, l.id, &done) != nullptr && done) l.state = LineState::cut;
      }
    }
  heading("Body, checks and papers");
  BuildLine& rehearsal = line("body.rehearsal", "All layers and sides", {"bodycuts.seconds", "body.misfit"});
  if (state.proved) rehearsal.state = LineState::proved;
  BuildLine& folder =
      line("body.programs", "Programs", {"programs.units", "programs.arcs", "programs.files", "programs.safe"});
  if (programs != nullptr) folder.note = programs->path + (programs_current ? "" : " (older numbers)");
  if (state.written) folder.state = LineState::written;
  BuildLine& sheet = line("body.sheet", "Run sheet", {});
  bool sheet_current = false;
  if (const WrittenRecord* w = remembered(p, "body-sheet", &sheet_current)) {
    sheet.note = w->path + (sheet_current ? "" : " (older numbers)");
    if (sheet_current) sheet.state = LineState::written;
  }
  return state;
}

}  // namespace wren

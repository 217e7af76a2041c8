#include "core/job/body_sheet.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

namespace wren {

BodySheet body_sheet(const Project& p, const BodyDesign& d, const BodyCuts& cuts, const std::string& date,
                     UnitSystem system) {
  const auto len = [&](double v) { return format_length(std::round(v * 1000) / 1000, system); };
  constexpr double degrees = 180 / std::numbers::pi;
  const BodyShape& s = d.shape;
  const AlignmentNumbers& a = p.body_work.alignment;
  const Box2 box = bounds(s.corners);
  BodySheet sheet;
  sheet.title = p.name + ": body";
  sheet.date = date;
  sheet.facts = {
      {"Blank",
       fmt::format("{} × {}, {} thick{}", len(d.blank.length), len(d.blank.width), len(d.blank.thickness),
                   p.body_work.face_off > 0 ? fmt::format(", {} of it faced off", len(p.body_work.face_off)) : "")},
      {"Layers", layers_text(layers_in_use(p))},
      {"Body", fmt::format("{} × {}, {} thick", len(box.size().x), len(box.size().y), len(s.thickness))},
      {"Neck pocket", fmt::format("{} deep at the heel's end, {} at the edge, tilt {:.2f}°{}", len(s.setup.depth_end),
                                  len(s.setup.depth_edge), s.setup.tilt * degrees,
                                  s.heel.measured ? "; follows the measured heel" : "; the heel is not measured yet")},
      {"Alignment", school_name(a.school)},
      {"Turned", a.turn == Turn::about_length ? "about its length" : "about its width"},
      {"Sides may miss", fmt::format("{} at the outline ({})", len(d.misfit.at(box.size() * 0.5)), d.misfit.reason)},
      {"Weight", fmt::format("{:.0f} g of wood, {:.0f} g whole; balances {} from the scale line, hangs at {:.0f}°",
                             d.balance.body_g, d.balance.whole_g,
                             len(d.balance.whole_centre.x - s.setup.bridge_middle.x), d.balance.hang * degrees)},
      {"Machine", fmt::format("{}, travels {} × {} × {}", p.machine.name, len(p.machine.travel.x),
                              len(p.machine.travel.y), len(p.machine.travel.z))},
      {"Time", fmt::format("{:.0f} min in all without changes of cutter", cuts.seconds / 60)},
  };
  sheet.set_up.push_back(fmt::format("{}: saddles can go {} up and {} down.",
                                     s.given.setup.school == SetupSchool::action
                                         ? "Set up for the action wanted"
                                         : "Set up for strings flat on the frets with the saddles at their lowest",
                                     len(s.setup.least_up), len(s.setup.least_down)));
  for (const SaddlePlace& saddle : s.setup.saddles)
    sheet.set_up.push_back(
        fmt::format("String {}: saddle {} over the face, {} behind the scale line, breaks by {:.1f}°.", saddle.string,
                    len(saddle.height), len(saddle.compensation), saddle.break_angle * degrees));
  sheet.set_up.emplace_back(
      "Before the pocket is cut: lay a straightedge along each side of the neck; both must meet the bridge's outer "
      "strings alike.");
  const auto programs = body_programs(p, d, cuts, date);
  int number = 0;
  std::size_t next = 0;
  for (const Placement& side : cuts.sides) {
    BodySheetSide out{side.id, side.title, {}, {}, {}};
    const bool cover = side.id.rfind("cover", 0) == 0;
    if (side.id == "waste-board") {
      out.alignment = {
          fmt::format("{}: x {}, y {}. Set x and y to zero here; probe z on the waste board.",
                      side.setup.jogs.front().what, len(side.setup.jogs.front().x), len(side.setup.jogs.front().y)),
          "Do this before any blank lies on the bed. The zero then stays for every layer and both sides."};
    } else if (cover) {
      out.alignment = {
          fmt::format("Cover's blank {} × {} × {}, held with double-sided tape; centre ticks on the crossed lines.",
                      len(side.setup.blank.length), len(side.setup.blank.width), len(side.setup.blank.thickness))};
    } else if (side.id == "skim") {
      out.alignment = {
          "Saw the body out beside its groove; fix it back up where it lay, by screws through the neck pocket and the "
          "control cavity into the waste board.",
          "Keep the same zero."};
    } else {
      const bool pins_stand = a.school == School::pins && (side.id != "layer-1") && s.layers.size() > 1;
      const bool bored = std::any_of(side.facts.begin(), side.facts.end(),
                                     [](const CutFacts& f) { return f.id.rfind("pin", 0) == 0; });
      out.alignment = alignment_steps(side.setup, a,
                                      side.setup.turn != Turn::none ? Seating::turned
                                      : bored                       ? Seating::first
                                                                    : Seating::again);
      if (pins_stand && side.setup.turn == Turn::none)
        out.alignment.insert(out.alignment.begin(),
                             side.id == "front"
                                 ? "Lower the glued body onto the same two pins; the zero is still the same."
                                 : "Put this blank onto the same two pins' places; the zero is still the same.");
    }
    for (std::size_t i = 0; i < side.paths.size(); ++i) {
      const Toolpath& path = side.paths[i];
      const Cutter* c = find_cutter(d.rack, path.cutter);
      RunStep step;
      double feed = 0;
      std::string titles;
      const auto has = [&](const char* with) {
        return std::any_of(path.cuts.begin(), path.cuts.end(),
                           [&](const std::string& id) { return id.rfind(with, 0) == 0; });
      };
      for (const CutFacts& f : side.facts)
        if (std::find(path.cuts.begin(), path.cuts.end(), f.id) != path.cuts.end()) {
          titles += (titles.empty() ? "" : ", ") + f.title;
          feed = f.feed;
        }
      step.title = fmt::format("{}  {}", ++number, titles);
      std::size_t k = next;
      while (k < programs.size() && programs[k].side != side.id) ++k;
      if (k < programs.size()) {
        step.file = programs[k].file.file;
        if (p.programs.files == ProgramFiles::per_cutter) next = k + 1;
      }
      if (c != nullptr)
        step.cutter = fmt::format("T{} {}, {} {}, stick out {}", c->number, c->id, cutter_kind_name(c->kind),
                                  len(c->effective_diameter()), len(c->stickout));
      step.time = path_seconds_text(side.path_seconds[i]);
      step.speeds = fmt::format("{:.0f} 1/min, {:.0f} mm/min", path.rpm, feed);
      if (i == 0) step.before.emplace_back("Air pass: run the program once 25 mm above the work.");
      for (const Stop& stop : path.stops) step.before.push_back(stop.text);
      if (has("pins"))
        step.check.push_back(fmt::format("Pins {} push in by hand and do not rock.", len(a.pin_diameter)));
      if (has("pocket")) {
        step.before.emplace_back("Measure the neck's heel once more: width, thickness with board, length.");
        step.check.emplace_back(
            "The heel pushes in by hand, lies flat on the floor, and both straightedges meet the bridge alike.");
      }
      if (has("pickup")) step.check.emplace_back("Each pickup drops in with room for the finish.");
      if (has("control"))
        step.check.push_back(
            fmt::format("A potentiometer's bushing comes through with {} of wood; the switch has its depth.",
                        len(s.given.controls.bushing_left)));
      if (has("string"))
        step.check.emplace_back(
            "The first two holes, the outer ones, meet those from the other side: look before the inner ones are "
            "drilled.");
      if (has("outline")) {
        step.caution.emplace_back(
            "Check pins, clamps and tabs before this one: a free body meets a turning cutter and flies.");
        if (side.setup.turn != Turn::none) step.check.push_back(fmt::format("{} tabs hold the body.", d.tabs.size()));
      }
      if (has("chamber") || has("carve"))
        step.caution.emplace_back("Long cuts make heat and dust: extraction on, and never leave the machine alone.");
      if (c != nullptr && c->kind == CutterKind::drill)
        step.check.emplace_back("Chips come out of every peck; a thin drill that packs snaps.");
      out.steps.push_back(std::move(step));
    }
    if (side.id.rfind("layer-", 0) == 0) {
      const auto k = static_cast<std::size_t>(std::atoi(side.id.c_str() + 6));
      if (k == s.layers.size()) {
        out.after.emplace_back(
            "Glue-up: mask wire channels and the places of post and pickup holes, glue on both faces, pins through all "
            "layers as register, cauls over the whole face; leave it a day.");
        out.after.emplace_back(
            "A top of two mirror halves is joined before: shoot both edges together, the join on the centre line.");
      }
    }
    if (side.id == "front" && p.body_work.outline == OutlineSchool::halves)
      out.after.emplace_back(
          "The flat back stays the reference until the body is turned; only then are its edges rounded.");
    sheet.sides.push_back(std::move(out));
  }
  for (const EdgeJob& j : s.edge_jobs)
    sheet.by_hand.push_back(
        fmt::format("{}: {} wide, {} deep, {} from the scale line and {} from the centre line, {} under the face, "
                    "aimed {:.0f}° against the centre line{}. The edge is {} thick there.",
                    j.title, len(j.diameter), len(j.depth), len(j.at.x - s.setup.bridge_middle.x),
                    len(std::abs(j.at.y)), len(-j.z), std::atan2(j.inward.y, j.inward.x) * degrees,
                    j.reaches.empty() ? "" : ", into the control cavity", len(j.thickness)));
  if (s.layers.size() < 2 && s.given.wires.width > 0) {
    // A one-piece body has its wire ways drilled with a long drill.
    const auto way = [&](const char* from, Vec2 at, const char* to, Vec2 end) {
      sheet.by_hand.push_back(
          fmt::format("Wire hole from the {} to the {}: {} long, {:.0f}° against the centre line; a long drill wanders "
                      "with the grain, go slowly.",
                      from, to, len(distance(at, end)), std::atan2(end.y - at.y, end.x - at.x) * degrees));
    };
    for (const auto& pickup : s.pickups)
      if (!s.controls.empty())
        way((pickup.which + " pickup's cavity").c_str(), pickup.middle, "control cavity", s.controls.front());
    if (!s.controls.empty()) way("bridge", s.setup.bridge_middle, "control cavity (ground wire)", s.controls.front());
  }
  sheet.cautions = cautions("start", p);
  for (const auto& c : cautions("cutter", p)) sheet.cautions.push_back(c);
  sheet.cautions.emplace_back(
      "Dust of hard and exotic woods harms lungs and skin: extraction and a mask. Finishing, mains and structural work "
      "follow local rules and belong to licensed people.");
  sheet.boxes = {"Layers, measured", "Pocket depth, end and edge", "Heel fit",
                 "Body weight",      "Feed override used",         "What to do otherwise next time"};
  return sheet;
}

}  // namespace wren

#include "core/job/neck_sheet.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace wren {

std::vector<std::pair<int, double>> side_dots(const NeckShape& n) {
  std::vector<std::pair<int, double>> out;
  for (const int place : n.board->given.marks.places)
    if (place <= n.board->given.frets.count) out.emplace_back(place, (n.fret_x(place - 1) + n.fret_x(place)) / 2);
  return out;
}

NeckSheet neck_sheet(const Project& p, const NeckDesign& d, const NeckCuts& cuts, const std::string& date,
                     UnitSystem system) {
  const auto len = [&](double v) { return format_length(std::round(v * 1000) / 1000, system); };
  const NeckShape& n = d.shape;
  const AlignmentNumbers& a = p.neck_work.alignment;
  NeckSheet sheet;
  sheet.title = p.name + ": neck";
  sheet.date = date;
  sheet.facts = {
      {"Blank",
       fmt::format("{} × {} × {} {}", len(d.blank.length), len(d.blank.width), len(d.blank.thickness), d.blank.wood)},
      {"Neck", fmt::format("{} long, {} at the nut, {} at the heel; {} thick at fret {}, {} at fret {}",
                           len(n.end_x - n.tip_x), len(2 * n.taper(0).half), len(2 * n.taper(n.end_x).half),
                           len(n.whole_thickness(n.fret_x(n.given.back.fret_a))), n.given.back.fret_a,
                           len(n.whole_thickness(n.fret_x(n.given.back.fret_b))), n.given.back.fret_b)},
      {"Alignment", school_name(a.school)},
      {"Turned", a.turn == Turn::about_length ? "about its length: the head keeps its end"
                                              : "about its width: the long edges keep their sides"},
      {"Sides may miss",
       fmt::format("{} at worst ({})", len(length(d.misfit.shift) + d.misfit.angle * d.blank.length / 2),
                   d.misfit.reason)},
      {"Skin over the rod", fmt::format("{}, near fret {}", len(d.skin.least), n.nearest_fret(d.skin.at.x))},
      {"Machine", fmt::format("{}, travels {} × {} × {}", p.machine.name, len(p.machine.travel.x),
                              len(p.machine.travel.y), len(p.machine.travel.z))},
      {"Time", fmt::format("{:.0f} min in all without changes of cutter", cuts.seconds / 60)},
  };
  if (d.scarf) {
    const Scarf& s = *d.scarf;
    sheet.by_hand.push_back(
        fmt::format("Scarf: saw the plank ({} thick) at {:.1f}°; the sawn face is {} long. Turn the cut-off over and "
                    "glue it under the shaft's end; the joint meets the front {} behind the nut line.",
                    len(s.plank), s.angle_deg, len(s.face), len(s.line)));
    sheet.by_hand.push_back(
        fmt::format("Shaft piece {} and head piece {} with their slanted ends; one plank of {} gives both, and the "
                    "kerf. Plane the head piece to {} and a little more.",
                    len(s.shaft_length), len(s.head_length), len(s.plank_length), len(s.head_thickness)));
    sheet.by_hand.push_back(
        "Front up, the shaft rests on two equal risers so that the head hangs free; back up, it lies on the glue "
        "plane.");
  }
  if (n.given.rod.kind != RodKind::none && n.given.rod.access > 0)
    sheet.by_hand.push_back(
        fmt::format("Access hole to the adjuster: {} along the neck from the {}, {} under the glue plane, drilled with "
                    "the neck in a vice.",
                    len(n.given.rod.access), n.given.rod.adjuster == RodEnd::head ? "head" : "heel",
                    len(n.given.rod.pocket_depth / 2)));
  if (n.given.build == NeckBuild::one_piece)
    sheet.by_hand.push_back(fmt::format(
        "Filler strip: {} wide, {} long, ends rounded to {}; fit it over the rod before the back is carved flush.",
        len(n.given.rod.width), len(n.given.rod.length), len(n.given.rod.width / 2)));
  if (n.given.side_dot > 0) {
    std::string places;
    for (const auto& [fret, x] : side_dots(n))
      places += fmt::format("{}{}: {}", places.empty() ? "" : ", ", fret, len(x));
    sheet.by_hand.push_back(fmt::format(
        "Side dots {}: from the nut line along the edge, {}. The template's drilling strip has them at full size.",
        len(n.given.side_dot), places));
  }
  if (p.neck_work.holding == Holding::cradle)
    sheet.by_hand.push_back(
        "Fix the cradle on the waste board and lay the turned neck into it before its back is cut.");
  int number = 0;
  const auto programs = neck_programs(p, d, cuts, date);
  std::size_t next = 0;
  for (const Placement& side : cuts.sides) {
    NeckSheetSide out{side.id, side.title, {}, {}};
    if (side.id == "waste-board") {
      out.alignment = {
          fmt::format("{}: x {}, y {}. Set x and y to zero here; probe z on the waste board.",
                      side.setup.jogs.front().what, len(side.setup.jogs.front().x), len(side.setup.jogs.front().y)),
          "Do this before the blank lies on the bed. The zero then stays for both sides."};
    } else if (side.id == "cradle") {
      out.alignment = {fmt::format("Cradle blank {} × {} × {}; centre ticks on the crossed lines.",
                                   len(side.setup.blank.length), len(side.setup.blank.width),
                                   len(side.setup.blank.thickness))};
    } else {
      out.alignment = alignment_steps(side.setup, a, side.id == "back" ? Seating::turned : Seating::first);
    }
    for (std::size_t i = 0; i < side.paths.size(); ++i) {
      const Toolpath& path = side.paths[i];
      const Cutter* c = find_cutter(d.rack, path.cutter);
      RunStep step;
      double feed = 0;
      std::string titles;
      for (const CutFacts& f : side.facts)
        if (std::find(path.cuts.begin(), path.cuts.end(), f.id) != path.cuts.end()) {
          titles += (titles.empty() ? "" : ", ") + f.title;
          feed = f.feed;
        }
      step.title = fmt::format("{}  {}", ++number, titles);
      // With one file for each side the same name stands at all of its steps.
      std::size_t k = next;
      while (k < programs.size() && programs[k].side != side.id) ++k;
      if (k < programs.size()) {
        step.file = programs[k].file.file;
        if (p.programs.files == ProgramFiles::per_cutter) next = k + 1;
      }
      if (c != nullptr)
        step.cutter = fmt::format("T{}  {}, {}{}, cutting length {}, stick out {}", c->number, c->id,
                                  len(c->effective_diameter()), c->measured ? " measured" : "", len(c->cutting_length),
                                  len(c->stickout));
      step.time = path_seconds_text(side.path_seconds[i]);
      step.speeds = fmt::format("{:.0f} 1/min, {}", path.rpm,
                                system == UnitSystem::inch ? fmt::format("{:.1f} in/min", feed / mm_per_inch)
                                                           : fmt::format("{:.0f} mm/min", feed));
      if (i == 0) step.before.push_back("Air pass: run the program once 25 mm above the work.");
      const auto has = [&](const char* id) {
        return std::find(path.cuts.begin(), path.cuts.end(), id) != path.cuts.end();
      };
      if (has("pins"))
        step.check.push_back(fmt::format("Pins {} push in by hand and do not rock.", len(a.pin_diameter)));
      if (has("rod"))
        step.check.push_back(fmt::format("The rod drops in and lies {} under the glue plane.", len(n.given.rod.depth)));
      if (has("tuner-holes"))
        step.check.push_back(fmt::format("A tuner's bushing goes into each hole ({}).", len(n.given.tuner.hole)));
      if (has("finish"))
        step.check.push_back(fmt::format(
            "Run a straightedge down the back: no light moves under it. Thickness with board {} at fret {}.",
            len(n.whole_thickness(n.fret_x(n.given.back.fret_a))), n.given.back.fret_a));
      if (has("outline")) {
        step.caution.push_back(
            "Check clamps, pins and tabs before this one: a free neck meets a turning cutter and flies.");
        step.check.push_back(fmt::format("{} tabs hold the neck.", cuts.tabs.size()));
      }
      if (has("rough"))
        step.caution.push_back("Long cuts make heat and dust: extraction on, and never leave the machine alone.");
      if (has("pilots") || has("heel-holes"))
        step.check.push_back("Chips come out of every peck; a thin drill that packs snaps.");
      out.steps.push_back(std::move(step));
    }
    sheet.sides.push_back(std::move(out));
  }
  sheet.cautions = cautions("start", p);
  for (const auto& c : cautions("cutter", p)) sheet.cautions.push_back(c);
  sheet.boxes = {"Blank measured",
                 "Feed override used",
                 "Heel width after sanding",
                 "Heel length",
                 "Heel thickness with board",
                 fmt::format("Thickness at fret {}", n.given.back.fret_a),
                 fmt::format("Thickness at fret {}", n.given.back.fret_b),
                 "Measured with",
                 "Cut by, date"};
  return sheet;
}

}  // namespace wren

#include "core/job/run_sheet.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/instrument/fretboard_remarks.hpp"

namespace wren {

RunSheet run_sheet(const Project& p, const BoardDesign& d, const BoardCuts& cuts, const std::string& date,
                   UnitSystem system) {
  const auto len = [&](double v) { return format_length(v, system); };
  RunSheet sheet;
  sheet.title = p.name + ": fretboard";
  sheet.date = date;
  const auto files = board_programs(p, d, cuts, date);
  sheet.facts = {
      {"Blank",
       fmt::format("{} × {} × {} {}", len(p.blank.length), len(p.blank.width), len(p.blank.thickness), p.blank.wood)},
      {"Board", fmt::format("{} long, {} at the nut, {} at the last fret, {} thick",
                            len(bounds(d.board.corners).size().x), len(d.board.nut_line.width()),
                            len(d.board.frets.back().width()), len(p.instrument.board.thickness))},
      {"Lies along", p.blank.lie == Lie::along_x ? "x, nut to the left" : "y, nut to the front"},
      {"Work zero", p.blank.zero == ZeroPlace::corner ? "lower-left corner of the blank, z = 0 on its top"
                                                      : "middle of the blank, z = 0 on its top"},
      {"Machine", fmt::format("{}, travels {} × {} × {}", p.machine.name, len(p.machine.travel.x),
                              len(p.machine.travel.y), len(p.machine.travel.z))},
      {"Programs", fmt::format("{}, {} in all without changes of cutter", files.size(),
                               fmt::format("{:.0f} min", cuts.seconds / 60))},
  };
  const Vec2 size = d.setup.blank_size;
  sheet.alignment = {
      "Check the blank flat and square; measure it again and compare with the figures above.",
      fmt::format("Mark the middle of all four edges, {} and {} from the lower-left corner, always measuring from the "
                  "same side; carry the marks down the edges.",
                  len(size.x / 2), len(size.y / 2)),
      "Set the four marks on the two crossed lines of the waste board. Fix the blank as drawn.",
  };
  for (std::size_t i = 0; i < d.setup.jogs.size(); ++i) {
    const Jog& jog = d.setup.jogs[i];
    sheet.alignment.push_back(
        i == 0 ? fmt::format("Home the machine, then jog to the crossed lines: x {}, y {}.", len(jog.x), len(jog.y))
               : fmt::format("Jog back to the blank's corner: x {}, y {}. Set x and y to zero here.", len(jog.x),
                             len(jog.y)));
  }
  if (d.setup.jogs.size() == 1) sheet.alignment.push_back("Set x and y to zero here.");
  sheet.alignment.push_back("Probe z on the blank's top after every change of cutter.");

  std::size_t number = 0;
  for (std::size_t i = 0; i < cuts.paths.size(); ++i) {
    const Toolpath& path = cuts.paths[i];
    const Cutter* c = find_cutter(d.rack, path.cutter);
    RunStep step;
    std::string titles;
    double feed = 0;
    for (const CutFacts& f : cuts.facts)
      if (std::find(path.cuts.begin(), path.cuts.end(), f.id) != path.cuts.end()) {
        titles += (titles.empty() ? "" : ", ") + f.title;
        feed = f.feed;
      }
    step.title = fmt::format("{}  {}", ++number, titles);
    step.file = files.size() == cuts.paths.size() ? files[i].file : files.front().file;
    if (c != nullptr)
      step.cutter =
          fmt::format("T{}  {}, {}{}, cutting length {}, stick out {}", c->number, c->id, len(c->effective_diameter()),
                      c->measured ? " measured" : "", len(c->cutting_length), len(c->stickout));
    step.time = path_seconds_text(cuts.path_seconds[i]);
    step.speeds = fmt::format("{:.0f} 1/min, {}", path.rpm,
                              system == UnitSystem::inch ? fmt::format("{:.1f} in/min", feed / mm_per_inch)
                                                         : fmt::format("{:.0f} mm/min", feed));
    for (const Stop& stop : path.stops) step.before.push_back(stop.text + ".");
    if (i == 0) step.before.push_back("Air pass: run the program once 25 mm above the work.");
    const auto has = [&](const char* id) {
      return std::find(path.cuts.begin(), path.cuts.end(), id) != path.cuts.end();
    };
    if (has("slots")) {
      step.check.push_back(
          fmt::format("Stand an off-cut of wire in a slot: it must press in by hand pressure and a tap. Depth at the "
                      "edge at least {}.",
                      len(p.instrument.frets.tang_depth + practice::tang_clearance)));
      if (!p.work.slot_measured)
        step.before.push_back(
            fmt::format("Cut a test slot in scrap first; it should measure {} to {}. Enter what it measures.",
                        len(p.instrument.frets.tang_width + practice::slot_play_least),
                        len(p.instrument.frets.tang_width + practice::slot_play_most)));
      step.caution = cautions("slots", p);
    }
    if (has("marks"))
      step.check.push_back(
          fmt::format("Mark pockets {} deep; an inlay drops in without force.", len(p.instrument.marks.depth)));
    if (has("crown") || has("crown-again"))
      step.check.push_back(
          fmt::format("Radius gauge: {} at the nut, {} at the last fret; board {} thick on the centre line.",
                      len(d.board.crown_radius(0)), len(d.board.crown_radius(d.board.last_fret_x)),
                      len(p.instrument.board.thickness)));
    if (has("crown-again"))
      for (const auto& c2 : cautions("fill", p)) step.caution.push_back(c2);
    if (has("outline")) {
      step.check.push_back(fmt::format(
          "{} tabs hold the board; saw them through, then file. No skin left in the groove.", cuts.tab_places.size()));
      for (const auto& c2 : cautions("outline", p)) step.caution.push_back(c2);
    }
    sheet.steps.push_back(std::move(step));
  }
  sheet.cautions = cautions("start", p);
  for (const auto& c : cautions("cutter", p)) sheet.cautions.push_back(c);
  sheet.boxes = {"Blank measured",   "Test slot measured", "Feed override used", "Slot depth at the edge",
                 "Width at the nut", "Thickness",          "Cut by, date"};
  return sheet;
}

std::string path_seconds_text(double seconds) {
  if (seconds < 90) return fmt::format("{:.0f} s", seconds);
  return fmt::format("{:.0f} min {:02.0f} s", std::floor(seconds / 60), std::floor(std::fmod(seconds, 60)));
}

}  // namespace wren

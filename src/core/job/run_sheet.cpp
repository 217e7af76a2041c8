#include "core/job/run_sheet.hpp"

#include "core/job/probe_place.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace wren {
namespace {

/// The operation that a cut came from: corners and floors' edges belong to their cavity.
const Operation* operation_of(const Side& side, const std::string& cut) {
  const Operation* found = nullptr;
  for (const Operation& op : side.operations)
    if (is_cut_of(op, cut)) found = &op;
  return found;
}

void add(std::vector<std::string>& to, const std::vector<Words>& words, const Audience& audience) {
  for (const Words& w : words)
    if (std::string text = w.in(audience); std::find(to.begin(), to.end(), text) == to.end())
      to.push_back(std::move(text));
}

/// How a program is run in the air first: raised by what the machine has room for, where that lifts every cut out of
/// the wood; else without the blank.
Words air_pass(const Setup& setup, const Toolpath& path, const Rack& rack) {
  const Cutter* c = find_cutter(rack, path.cutter);
  const Extents e = extents(path);
  const double tip_home = setup.machine.clear_under_nut - (c != nullptr ? c->stickout : 0) - setup.blank.thickness;
  const double room = std::floor(tip_home - e.high.z);
  const double enough = 2 - e.low.z;
  const double raise = std::min(room, std::max(25.0, std::ceil(enough)));
  if (raise < enough) {
    Words out{
        "Air pass: run it once without the blank, the way over the waste board clear; there is no room to raise it "
        "out of the wood."};
    if (const double deep = setup.bed_z() - e.low.z; deep > 0.01)
      return worded("{} It goes {} into the waste board.", out, mm(deep));
    return out;
  }
  return {"Air pass: move z zero up by {}, run it once, then set z zero where it is probed again.", {raise}};
}

RunStep step_of(const Side& side, const Placement& placement, std::size_t i, const Rack& rack,
                const Audience& audience) {
  const auto say = [&](const Words& w) { return w.in(audience); };
  const Toolpath& path = placement.paths[i];
  RunStep step;
  double feed = 0;
  for (const CutFacts& f : placement.facts)
    if (std::find(path.cuts.begin(), path.cuts.end(), f.id) != path.cuts.end()) {
      step.title += (step.title.empty() ? "" : ", ") + say(f.title);
      feed = f.feed;
    }
  if (const Cutter* c = find_cutter(rack, path.cutter)) {
    step.cutter = say(worded("T{}  {}, {} {}{}, collet {}, cutting length {}, stick out {}", c->number, c->id,
                             Words(cutter_kind_name(c->kind)), exact_mm(c->effective_diameter()),
                             c->measured ? Words(" measured") : Words(), exact_mm(c->collet_in_use()),
                             exact_mm(c->cutting_length), exact_mm(c->stickout)));
    if (c->kind == CutterKind::drill)
      step.check.push_back(say("Chips come out of every peck; a thin drill that packs snaps."));
  }
  step.time = path_seconds_text(placement.path_seconds[i]);
  const bool inch = audience.units == UnitSystem::inch;
  step.speeds = say(inch ? worded("{:.0f} 1/min, {:.1f} in/min", path.rpm, feed / mm_per_inch)
                         : worded("{:.0f} 1/min, {:.0f} mm/min", path.rpm, feed));
  for (const Stop& stop : path.stops) step.before.push_back(say(stop.text) + ".");
  if (i == 0) step.before.push_back(say(air_pass(side.setup, path, rack)));
  for (const std::string& cut : path.cuts)
    if (const Operation* op = operation_of(side, cut)) {
      add(step.before, op->before, audience);
      add(step.check, op->check, audience);
      add(step.caution, op->caution, audience);
    }
  return step;
}

/// Cutters of the part whose lengths nobody measured: "T5 flat-6.35, T6 …".
std::string unmeasured(const Planned& planned) {
  std::string out;
  std::vector<std::string> seen;
  for (const Placement& side : planned.cuts.sides)
    for (const Toolpath& path : side.paths) {
      const Cutter* c = find_cutter(planned.rack, path.cutter);
      if (c == nullptr || c->lengths_measured || std::find(seen.begin(), seen.end(), c->id) != seen.end()) continue;
      seen.push_back(c->id);
      out += fmt::format("{}T{} {}", out.empty() ? "" : ", ", c->number, c->id);
    }
  return out;
}

/// "Bridge at hand, measured; Pickups at hand, measured": bought pieces whose sizes the part is cut to and nobody
/// measured.
Words from_the_list(const PartKind& kind, const PartInput& in) {
  const auto open = not_measured_at_hand(in.project, kind.table.fields);
  if (open.empty()) return {};
  const PartLines lines = kind.lines(&in, in.project);
  Words out;
  for (const auto* some : {&lines.instrument, &lines.before, &lines.assembly})
    for (const BuildLine& l : *some)
      if (std::find(open.begin(), open.end(), l.id) != open.end()) {
        out = out.empty() ? l.title : worded("{}; {}", out, l.title);
      }
  return out;
}

}  // namespace

RunSheet run_sheet(const PartKind& kind, const Followed& followed, Cache& cache, const Planned& planned,
                   const std::string& date, const Audience& audience, const PartProof* proof) {
  const auto say = [&](const Words& w) { return w.in(audience); };
  const Project& p = followed.project;
  const SheetWords words = kind.words(followed.input(cache));
  RunSheet sheet;
  const auto fact = [&](const Words& label, const Words& value) { sheet.facts.emplace_back(say(label), say(value)); };
  sheet.title = say(worded("{}: {}", p.name, Words(kind.title())));
  sheet.date = date;
  const auto programs = programs_of(p, planned, date);
  for (const auto& [label, w] : words.facts) fact(label, w);
  if (const Words listed = from_the_list(kind, followed.input(cache)); !listed.empty())
    fact("Sizes from the list", worded("Not yet done: {}. Measure what you bought first", listed));
  const auto& travel = p.machine.travel;
  fact("Machine",
       worded("{}, travels {} × {} × {}", p.machine.name, exact_mm(travel.x), exact_mm(travel.y), exact_mm(travel.z)));
  fact("Programs",
       worded("{}; {:.0f} min in all without changes of cutter", programs.size(), planned.cuts.seconds / 60));
  if (proof == nullptr)
    fact("Proof", "NOT PROVED: rehearse these programs before they are run");
  else
    fact("Proof", verdict_text(*proof));
  if (proof != nullptr)
    for (const auto& [label, figures] : error_lines(*proof)) fact(label, figures);
  if (const std::string open = unmeasured(planned); !open.empty())
    sheet.set_up.push_back(
        say(worded("Before the run measure stickout and cutting length of {} and enter them: the programs are made for "
                   "what the rack says.",
                   open)));
  add(sheet.set_up, words.set_up, audience);
  add(sheet.by_hand, words.by_hand, audience);
  int number = 0;
  for (const Piece& piece : planned.made.pieces)
    for (const Side& side : piece.sides) {
      const Placement* placement = planned.cuts.side(side.id);
      if (placement == nullptr || placement->paths.empty()) continue;
      RunSide out{side.id, say(side.title), {}, {}, {}};
      for (const auto& after : side.after) out.after.push_back(say(after));
      add(out.alignment, side.alignment, audience);
      if (side.setup.found_by.kind != RegisterKind::first) out.alignment.push_back(say(register_words(side.setup)));
      add(out.alignment, {probe_words(side.setup)}, audience);
      std::vector<const PlacedProgram*> here;
      for (const PlacedProgram& f : programs)
        if (f.side == side.id) here.push_back(&f);
      for (std::size_t i = 0; i < placement->paths.size(); ++i) {
        RunStep step = step_of(side, *placement, i, planned.rack, audience);
        step.title = fmt::format("{}  {}", ++number, step.title);
        if (!here.empty()) step.file = here[std::min(i, here.size() - 1)]->file.file;
        out.steps.push_back(std::move(step));
      }
      sheet.sides.push_back(std::move(out));
    }
  for (const auto& caution : general_cautions(words.materials)) sheet.cautions.push_back(say(caution));
  for (const auto& caution : words.cautions) sheet.cautions.push_back(say(caution));
  for (const auto& box : words.boxes) sheet.boxes.push_back(say(box));
  return sheet;
}

std::string path_seconds_text(double seconds) {
  if (seconds < 90) return fmt::format("{:.0f} s", seconds);
  return worded("{:.0f} min {:02.0f} s", std::floor(seconds / 60), std::floor(std::fmod(seconds, 60)));
}

}  // namespace wren

#include "core/job/placement.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/job/board_programs.hpp"
#include "core/motion/link.hpp"

namespace wren {
namespace {

/// Placements whose zero is their own blank's whatever the school.
bool own_zero(const std::string& id) { return id == "cradle" || id.rfind("cover", 0) == 0; }

}  // namespace

Cut begin_cut(std::string id, std::string title, const Cutter& c, const Feeds& f) {
  Cut cut;
  cut.id = std::move(id);
  cut.title = std::move(title);
  cut.cutter = c.id;
  cut.rpm = f.rpm;
  cut.feed = f.feed;
  cut.plunge = f.plunge;
  cut.feed_reason = fmt::format("{} 1/min × {} flutes × {:.4f} mm, held by {}; {:.1f} N bend the cutter {:.4f} mm",
                                f.rpm, c.flutes, f.chip_load, f.limited_by, f.force, f.bending);
  return cut;
}

void keep_cut(Placement& placement, Cut cut) {
  if (cut.strands.empty()) return;
  cut.deepest = 1e300;
  for (const Strand& s : cut.strands) {
    cut.deepest = std::min(cut.deepest, s.start.z);
    for (const Step& step : s.steps) cut.deepest = std::min(cut.deepest, step.to.z);
  }
  placement.cuts.push_back(std::move(cut));
}

void link_placement(Placement& placement, const Rack& rack, const Machine& machine, double safe_above) {
  LinkHeights heights;
  heights.safe = safe_height(placement.setup, safe_above);
  placement.paths = link_cuts(placement.cuts, placement.setup, rack, heights);
  for (const Toolpath& path : placement.paths) {
    placement.path_seconds.push_back(estimate_seconds(path, machine));
    placement.seconds += placement.path_seconds.back();
  }
  for (const Cut& cut : placement.cuts) {
    CutFacts f{
        cut.id,         cut.title, cut.cutter, 0, cut.rpm, cut.feed, placement.setup.to_work.apply_z(cut.deepest),
        cut.feed_reason};
    for (const Toolpath& path : link_cuts({cut}, placement.setup, rack, heights))
      f.seconds += estimate_seconds(path, machine);
    placement.facts.push_back(std::move(f));
  }
}

std::vector<PlacedProgram> placed_programs(const Project& p, const Rack& rack, const std::string& part, School school,
                                           const std::vector<Placement>& placements, const std::string& date) {
  std::vector<PlacedProgram> out;
  int number = 0;
  for (const Placement& side : placements) {
    const Blank& b = side.setup.blank;
    const std::string zero = school == School::pins && !own_zero(side.id)    ? "first pin's hole"
                             : school == School::fence && !own_zero(side.id) ? "corner of the fence"
                             : b.zero == ZeroPlace::corner                   ? "lower-left corner of the blank"
                                                                             : "middle of the blank";
    const ProgramHeader header{
        part + ", " + side.title, p.name,
        side.id == "waste-board"
            ? std::string("bare waste board")
            : fmt::format("{} x {} x {} mm {}, length along {}", format_mm(b.length), format_mm(b.width),
                          format_mm(b.thickness, 2), b.wood, b.lie == Lie::along_x ? "x" : "y"),
        zero + (side.id == "waste-board" ? ", z = 0 on the waste board" : ", z = 0 on top of the blank"), date};
    const auto add = [&](const std::vector<const Toolpath*>& paths, const std::string& name, double seconds) {
      out.push_back({side.id, program_file(p, rack, header, paths, name, seconds)});
    };
    const std::string base = file_safe(p.name) + "-" + part;
    if (p.programs.files == ProgramFiles::one) {
      std::vector<const Toolpath*> all;
      for (const Toolpath& path : side.paths) all.push_back(&path);
      if (!all.empty()) add(all, fmt::format("{}-{}-{}", base, ++number, side.id), side.seconds);
    } else {
      for (std::size_t i = 0; i < side.paths.size(); ++i)
        add({&side.paths[i]}, fmt::format("{}-{:02}-{}-{}", base, ++number, side.id, side.paths[i].cuts.front()),
            side.path_seconds[i]);
    }
  }
  return out;
}

std::string placed_manifest(const Project& p, const Rack& rack, const std::string& part, School school,
                            const std::vector<Placement>& placements, const std::vector<PlacedProgram>& programs,
                            const std::string& date) {
  std::vector<ManifestPart> parts;
  for (const Placement& side : placements) {
    ManifestPart out;
    out.facts = {p.name, date, part,
                 fmt::format("{}: {}, {}", side.title,
                             side.setup.turn == Turn::none           ? "front side up"
                             : side.setup.turn == Turn::about_length ? "turned about its length"
                                                                     : "turned about its width",
                             own_zero(side.id) ? "its own blank's corner" : school_name(school))};
    out.setup = side.setup;
    for (const PlacedProgram& f : programs)
      if (f.side == side.id) out.files.push_back(f.file);
    parts.push_back(std::move(out));
  }
  return write_manifest(parts, rack);
}

std::vector<ProgramFile> files_of(const std::vector<PlacedProgram>& programs) {
  std::vector<ProgramFile> out;
  for (const PlacedProgram& p : programs) out.push_back(p.file);
  return out;
}

std::vector<ProgramText> texts_of(const std::vector<PlacedProgram>& programs, const std::string& side) {
  std::vector<ProgramText> out;
  for (const PlacedProgram& p : programs)
    if (p.side == side) out.push_back({p.file.file, p.file.text, ""});
  return out;
}

}  // namespace wren

#include "core/job/programs.hpp"

#include <algorithm>
#include <map>

#include <fmt/format.h>

#include "core/job/probe_place.hpp"
#include "core/report/names.hpp"

namespace wren {
namespace {

ProgramFile program_file(const Project& p, const Rack& rack, const ProgramHeader& header,
                         const std::vector<const Toolpath*>& paths, const std::string& name, double seconds) {
  ProgramFile file;
  file.file = name + ".ngc";
  file.text = write_program(paths, header, rack, {p.programs.units, p.programs.arcs, 0.002}, p.machine);
  file.seconds = seconds;
  for (const Toolpath* path : paths) {
    file.cuts.insert(file.cuts.end(), path->cuts.begin(), path->cuts.end());
    file.cutters.push_back(path->cutter);
    const Extents e = extents(*path);
    file.extents.low = {std::min(file.extents.low.x, e.low.x), std::min(file.extents.low.y, e.low.y),
                        std::min(file.extents.low.z, e.low.z)};
    file.extents.high = {std::max(file.extents.high.x, e.high.x), std::max(file.extents.high.y, e.high.y),
                         std::max(file.extents.high.z, e.high.z)};
  }
  return file;
}

std::string blank_text(const Blank& b) {
  if (b.thickness <= 0) return "bare waste board";
  return worded("{} x {} x {} {}, length along {}", format_mm(b.length), format_mm(b.width), mm(b.thickness), b.wood,
                b.lie == Lie::along_x ? "x" : "y");
}

}  // namespace

ProgramHeader header_of(const std::string& part, const Side& side) {
  return {part + ", " + side.title, {}, blank_text(side.setup.blank), side.zero, probe_text(side.setup), {}, {}};
}

std::vector<PlacedProgram> programs_of(const Project& p, const Planned& planned, const std::string& date,
                                       const std::string& notice) {
  std::vector<PlacedProgram> out;
  const std::string base = file_safe(p.name) + "-" + planned.part;
  int number = 0;
  for (const Piece& piece : planned.made.pieces)
    for (const Side& side : piece.sides) {
      const Placement* placement = planned.cuts.side(side.id);
      if (placement == nullptr) continue;
      ProgramHeader header = header_of(planned.part, side);
      header.project = p.name;
      header.date = date;
      header.notice = notice;
      const auto add = [&](const std::vector<const Toolpath*>& paths, const std::string& name, double seconds) {
        out.push_back({piece.id, side.id, program_file(p, planned.rack, header, paths, name, seconds)});
      };
      if (p.programs.files == ProgramFiles::one) {
        std::vector<const Toolpath*> all;
        for (const Toolpath& path : placement->paths) all.push_back(&path);
        if (!all.empty()) add(all, fmt::format("{}-{}-{}", base, ++number, side.id), placement->seconds);
      } else {
        for (std::size_t i = 0; i < placement->paths.size(); ++i)
          add({&placement->paths[i]},
              fmt::format("{}-{:02}-{}-{}", base, ++number, side.id, file_safe(placement->paths[i].cuts.front())),
              placement->path_seconds[i]);
      }
    }
  return out;
}

namespace {

/// What has to have run before a program: those before it on its side that work at the same place; before and after a
/// stop for the hand, all. Two that nowhere meet may change places.
std::vector<std::string> after_which(const std::vector<ProgramFile>& before, const ProgramFile& file,
                                     const Rack& rack) {
  const auto grown = [&](const ProgramFile& f) {
    double r = 0;
    for (const std::string& id : f.cutters)
      if (const Cutter* c = find_cutter(rack, id)) r = std::max(r, c->radius());
    return Box2{{f.extents.low.x - r, f.extents.low.y - r}, {f.extents.high.x + r, f.extents.high.y + r}};
  };
  const Box2 own = grown(file);
  const auto stops = [](const ProgramFile& f) { return f.text.str().find("\nM0 (") != std::string::npos; };
  bool stopped = stops(file);
  std::vector<std::string> out;
  for (auto b = before.rbegin(); b != before.rend(); ++b) {
    const Box2 other = grown(*b);
    const bool meet =
        own.low.x < other.high.x && other.low.x < own.high.x && own.low.y < other.high.y && other.low.y < own.high.y;
    if (meet || stopped) out.push_back(b->file);
    stopped = stopped || stops(*b);
  }
  std::reverse(out.begin(), out.end());
  return out;
}

}  // namespace

std::string manifest_of(const Project& p, const Planned& planned, const std::vector<PlacedProgram>& programs,
                        const std::string& date) {
  std::vector<ManifestPart> parts;
  std::map<std::string, std::vector<std::string>> files_of;  // by piece
  for (const Piece& piece : planned.made.pieces) {
    std::vector<std::string>& earlier = files_of[piece.id];
    for (const std::string& before : piece.after)
      earlier.insert(earlier.end(), files_of[before].begin(), files_of[before].end());
    for (const Side& side : piece.sides) {
      ManifestPart out;
      out.facts = {p.name, date, planned.part, side.title + ": " + side.seat, piece.id, side.id, earlier};
      out.setup = side.setup;
      for (const PlacedProgram& f : programs)
        if (f.side == side.id) {
          ProgramFile file = f.file;
          file.after = after_which(out.files, file, planned.rack);
          earlier.push_back(file.file);
          out.files.push_back(std::move(file));
        }
      parts.push_back(std::move(out));
    }
  }
  return write_manifest(parts, planned.rack, planned.fingerprint);
}

std::vector<ProgramText> texts_of(const std::vector<PlacedProgram>& programs, const std::string& side) {
  std::vector<ProgramText> out;
  for (const PlacedProgram& p : programs)
    if (p.side == side) out.push_back({p.file.file, p.file.text, p.cutter, p.sealed});
  return out;
}

}  // namespace wren

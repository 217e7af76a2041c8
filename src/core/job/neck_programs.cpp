// The neck's program texts, their manifest, and what the proof is asked.
#include <algorithm>
#include <memory>

#include <fmt/format.h>

#include "core/job/board_programs.hpp"
#include "core/job/neck_cuts.hpp"

namespace wren {
namespace {

bool starts(const std::string& text, const char* with) { return text.rfind(with, 0) == 0; }

}  // namespace

std::vector<NeckProgram> neck_programs(const Project& p, const NeckDesign& d, const NeckCuts& cuts, const std::string& date) {
  std::vector<NeckProgram> out;
  int number = 0;
  for (const NeckSide& side : cuts.sides) {
    const Blank& b = side.setup.blank;
    const std::string zero = p.neck_work.alignment.school == School::pins && side.id != "cradle" ? "first pin's hole" : p.neck_work.alignment.school == School::fence ? "corner of the fence" : b.zero == ZeroPlace::corner ? "lower-left corner of the blank" : "middle of the blank";
    const ProgramHeader header{"neck, " + side.title, p.name,
                               side.id == "waste-board" ? std::string("bare waste board") : fmt::format("{} x {} x {} mm {}, length along {}", format_mm(b.length), format_mm(b.width), format_mm(b.thickness, 2), b.wood, b.lie == Lie::along_x ? "x" : "y"),
                               zero + (side.id == "waste-board" ? ", z = 0 on the waste board" : ", z = 0 on top of the blank"), date};
    const auto add = [&](const std::vector<const Toolpath*>& paths, const std::string& name, double seconds) { out.push_back({side.id, program_file(p, d.rack, header, paths, name, seconds)}); };
    const std::string base = file_safe(p.name) + "-neck";
    if (p.programs.files == ProgramFiles::one) {
      std::vector<const Toolpath*> all;
      for (const Toolpath& path : side.paths) all.push_back(&path);
      if (!all.empty()) add(all, fmt::format("{}-{}-{}", base, ++number, side.id), side.seconds);
    } else {
      for (std::size_t i = 0; i < side.paths.size(); ++i) add({&side.paths[i]}, fmt::format("{}-{:02}-{}-{}", base, ++number, side.id, side.paths[i].cuts.front()), side.path_seconds[i]);
    }
  }
  return out;
}

std::vector<ProgramFile> files_of(const std::vector<NeckProgram>& programs) {
  std::vector<ProgramFile> out;
  for (const NeckProgram& p : programs) out.push_back(p.file);
  return out;
}

std::string neck_manifest(const Project& p, const NeckDesign&, const NeckCuts& cuts, const std::vector<NeckProgram>& programs, const std::string& date) {
  std::vector<ManifestPart> parts;
  for (const NeckSide& side : cuts.sides) {
    ManifestPart part;
    part.facts = {p.name, date, "neck", fmt::format("{}: {}, {}", side.title, side.setup.turn == Turn::none ? "front side up" : side.setup.turn == Turn::about_length ? "turned about its length" : "turned about its width", school_name(p.neck_work.alignment.school))};
    part.setup = side.setup;
    for (const NeckProgram& f : programs)
      if (f.side == side.id) part.files.push_back(f.file);
    parts.push_back(std::move(part));
  }
  return write_manifest(parts, p.rack);
}

PieceRequest neck_proof(const Project& p, const NeckDesign& d, const NeckCuts& cuts, const std::vector<NeckProgram>& programs, double cell) {
  PieceRequest request;
  request.rack = d.rack;
  request.tolerances.below = p.neck_work.through;
  request.tolerances.left_over = std::max(0.04, p.neck_work.scallop * 1.6 + 0.015);
  request.tolerances.skin_height = 0.4;
  request.tolerances.tab_longest = p.neck_work.tab_length + 20;
  const double area = d.blank.length * d.blank.width;
  request.cell = std::max(cell, std::sqrt(area / 30e6));
  const auto shape = std::make_shared<const NeckDesign>(d);
  const auto point_of = [&](const std::string& id) {   // how steep a drill's point is: depth per radius
    const Cutter* c = find_cutter(d.rack, id);
    return c != nullptr && c->kind == CutterKind::drill ? c->profile(1.0) : 0.0;
  };
  const auto width_of = [&](const std::string& id) {   // a hole drilled with a thinner drill is as wide as the drill
    const Cutter* c = find_cutter(d.rack, id);
    return c != nullptr && c->kind == CutterKind::drill ? c->effective_diameter() : 1e9;
  };
  for (const NeckSide& side : cuts.sides) {
    if (side.id != "front" && side.id != "back") continue;
    PieceSide s;
    s.name = side.id;
    s.setup = side.setup;
    for (const NeckProgram& f : programs)
      if (f.side == side.id) s.programs.push_back({f.file.file, f.file.text, ""});
    const Turn turn = side.setup.turn;
    s.design.outline = turned(turn, d.cut_outline);
    if (side.id == "front") {
      s.design.finished = [shape](Vec2 q) {
        double z = shape->cut_front(q);
        for (const Channel& c : shape->shape.channels)
          if (!c.from_back && c.holds(q)) z = std::min(z, c.floor(q));
        if (shape->front_top > 0 && shape->shape.behind_nut(q) <= 0) z = std::min(z, shape->shape.board->finished_height(q));
        return z;
      };
    } else {
      s.design.cut_free = true;
      s.design.finished = [shape, turn, heel_point = point_of(p.neck_work.heel_drill), pilot_point = point_of(p.neck_work.pilot_drill), heel_width = width_of(p.neck_work.heel_drill), pilot_width = width_of(p.neck_work.pilot_drill)](Vec2 q) {
        const Vec2 at = turned(turn, q);
        double z = shape->cut_depth(at);
        for (const Channel& c : shape->shape.channels)
          if (c.from_back && c.holds(at)) z = std::min(z, -c.floor(at));
        for (const Hole& h : shape->shape.holes)
          if (const double rho = distance(at, h.at); rho <= h.diameter / 2) {
            // A drill's point goes on under the full diameter, and a thin drill leaves a thin hole.
            const bool heel = starts(h.id, "heel");
            const bool pilot = starts(h.id, "pilot");
            const double wide = std::min(h.diameter, heel ? heel_width : pilot ? pilot_width : 1e9);
            const double point = heel ? heel_point : pilot ? pilot_point : 0;
            if (rho > wide / 2) continue;
            z = h.depth == 0 ? -1e6 : std::min(z, shape->cut_depth(h.at) - h.depth - point * (wide / 2 - rho));
          }
        return z;
      };
    }
    request.sides.push_back(std::move(s));
  }
  for (const Channel& c : d.shape.channels) {
    if (c.id == "nut") continue;
    const Vec2 u = unit(c.b - c.a);
    const double l = distance(c.a, c.b);
    for (double t = 0; t <= l; t += 1)
      for (const double o : {-0.4, 0.0, 0.4}) request.rod.push_back(c.a + u * t + left_of(u) * (o * c.width));
  }
  for (const Hole& h : d.shape.holes)
    if (h.depth == 0) request.holes.push_back({h.id, h.at, h.diameter});
  request.rod_from_back = p.neck.build == NeckBuild::one_piece;
  request.misfit = length(d.misfit.shift) + d.misfit.angle * d.blank.length / 2;
  return request;
}

}  // namespace wren

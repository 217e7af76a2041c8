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

std::vector<PlacedProgram> neck_programs(const Project& p, const NeckDesign& d, const NeckCuts& cuts,
                                         const std::string& date) {
  return placed_programs(p, d.rack, "neck", p.neck_work.alignment.school, cuts.sides, date);
}

std::string neck_manifest(const Project& p, const NeckDesign&, const NeckCuts& cuts,
                          const std::vector<PlacedProgram>& programs, const std::string& date) {
  return placed_manifest(p, p.rack, "neck", p.neck_work.alignment.school, cuts.sides, programs, date);
}

PieceRequest neck_proof(const Project& p, const NeckDesign& d, const NeckCuts& cuts,
                        const std::vector<PlacedProgram>& programs, double cell) {
  PieceRequest request;
  request.rack = d.rack;
  request.tolerances.below = p.neck_work.through;
  request.tolerances.left_over = std::max(0.04, p.neck_work.scallop * 1.6 + 0.015);
  request.tolerances.skin_height = 0.4;
  request.tolerances.tab_longest = p.neck_work.tab_length + 20;
  const double area = d.blank.length * d.blank.width;
  request.cell = std::max(cell, std::sqrt(area / 30e6));
  const auto shape = std::make_shared<const NeckDesign>(d);
  const auto point_of = [&](const std::string& id) {  // how steep a drill's point is: depth per radius
    const Cutter* c = find_cutter(d.rack, id);
    return c != nullptr && c->kind == CutterKind::drill ? c->profile(1.0) : 0.0;
  };
  const auto width_of = [&](const std::string& id) {  // a hole drilled with a thinner drill is as wide as the drill
    const Cutter* c = find_cutter(d.rack, id);
    return c != nullptr && c->kind == CutterKind::drill ? c->effective_diameter() : 1e9;
  };
  for (const Placement& side : cuts.sides) {
    if (side.id != "front" && side.id != "back") continue;
    PieceSide s;
    s.name = side.id;
    s.setup = side.setup;
    s.programs = texts_of(programs, side.id);
    const Turn turn = side.setup.turn;
    s.design.outline = turned(turn, d.cut_outline);
    if (side.id == "front") {
      s.design.finished = [shape](Vec2 q) {
        double z = shape->cut_front(q);
        for (const Channel& c : shape->shape.channels)
          if (!c.from_back && c.holds(q)) z = std::min(z, c.floor(q));
        if (shape->front_top > 0 && shape->shape.behind_nut(q) <= 0)
          z = std::min(z, shape->shape.board->finished_height(q));
        return z;
      };
    } else {
      s.design.cut_free = true;
      s.design.finished =
          [shape, turn, heel_point = point_of(p.neck_work.heel_drill), pilot_point = point_of(p.neck_work.pilot_drill),
           heel_width = width_of(p.neck_work.heel_drill), pilot_width = width_of(p.neck_work.pilot_drill)](Vec2 q) {
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

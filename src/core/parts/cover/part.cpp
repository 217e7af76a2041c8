// Covers: cut by themselves from the outline of their ledge, smaller all round, their inside up. Made from the body,
// whose controls say how they are. Body frame, mm, z = 0 on the cover's outside.
#include <algorithm>

#include <fmt/format.h>

#include "core/cutting/choose.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/cover/part.hpp"
#include "core/parts/flat.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {
namespace {

struct CoverDesign {
  static constexpr const char* part = "cover";
  std::shared_ptr<const BodyDesign> body;
  Material wood;
  Rack rack;
  std::vector<Remark> remarks;
};

Expected<Design> design(const PartInput& in) {
  const BodyWork& w = body_of(in.project).work;
  CoverDesign d;
  d.body = in.designs.shared<BodyDesign>();
  d.rack = in.project.rack;
  if (const auto wood = find_material(in.project.materials, w.cover_wood)) {
    d.wood = *wood;
  } else {
    d.wood = d.body->woods.front();
    d.remarks.push_back({"cover.wood",
                         Weight::stop,
                         wood.error().what + ".",
                         0,
                         0,
                         "",
                         "the woods",
                         "cover.wood",
                         {},
                         Repair{"Take the top's wood", {{"cover.wood", d.wood.name}}},
                         {}});
  }
  const bool any = !d.body->shape.covers.empty();
  Design out = design_of(std::move(d));
  out.present = any;
  return out;
}

FlatPart flat_of(const Project& p, const CoverDesign& d, const Cover& c) {
  return {c.id, c.title, c.outline, c.thickness, body_of(p).work.cover_margin, d.wood};
}

Piece cover_piece(const Project& p, const CoverDesign& d, const Cover& c) {
  const BodyWork& w = body_of(p).work;
  const FlatPart flat_part = flat_of(p, d, c);
  Side side = flat_side(p.machine, flat_part, "Cover's blank");
  side.title = worded("{}, its inside up", Words(c.title));
  const auto add = [&](const char* id, Words title, const std::string& cutter, Shape shape, const char* key,
                       std::vector<std::string> keys) -> Operation& {
    side.operations.push_back({id, std::move(title), cutter, std::move(shape), key, std::move(keys)});
    return side.operations.back();
  };
  const Region middle = c.thinned > 0 ? Region(offset({c.inside}, -1.0)) : Region{};
  if (c.thinned > 0) {
    ClearPlan plan;
    plan.region = middle;
    plan.top = c.thickness;
    plan.floor = [z = c.thickness - c.thinned](Vec2) { return z; };
    plan.lowest_floor = c.thickness - c.thinned;
    plan.step = w.step;
    plan.leave_wall = w.wall_skim;
    plan.leave_floor = w.floor_skim;
    add("thinned", "Cover, thinned middle", w.clear_cutter,
        Clear{std::move(plan), w.deep_cutter, w.fine_cutter, c.thickness, d.body->shape.corners}, "body.clear_cutter",
        {"body.clear_cutter", "control.cover_thinned"});
  }
  struct Hold {
    Vec2 at;
    double radius, bottom, point;
  };
  std::vector<Hold> holds;
  const Cutter* tool = nullptr;
  Holes shape;
  const Cutter* clear_with = find_cutter(d.rack, w.clear_cutter);
  for (const BodyHole& h : c.holds) {
    const Cutter* drill = h.drilled ? drill_in_use(d.rack, h.diameter) : nullptr;
    tool = h.drilled ? drill
           : clear_with != nullptr && clear_with->effective_diameter() <= h.diameter + 0.005
               ? clear_with
               : find_cutter(d.rack, w.fine_cutter);
    if (tool == nullptr) continue;
    // A drill's point just comes through into the waste board.
    const double through = -w.through + 0.02 + (tool->kind == CutterKind::drill ? tool->profile(tool->radius()) : 0);
    shape.holes.push_back({h.title, h.at, h.diameter, c.thickness, h.depth > 0 ? c.thickness - h.depth : through});
    if (h.drilled) shape.peck = std::max(1.0, w.peck);
    holds.push_back({h.at, (drill != nullptr ? std::min(h.diameter, drill->effective_diameter()) : h.diameter) / 2,
                     h.depth == 0 ? -1e6 : c.thickness - h.depth, drill != nullptr ? drill->profile(1.0) : 0});
  }
  if (tool != nullptr && !shape.holes.empty()) {
    const bool drilled = shape.peck > 0;
    Operation& op = add("holds", worded(drilled ? "{}, pecked" : "{}, bored", Words(c.holds.front().title)), tool->id,
                        std::move(shape), drilled ? "body.peck" : "body.clear_cutter",
                        {"control.holds", "control.hold", "body.peck"});
    if (drilled) op.touches = [](Vec2) { return -1e300; };
  }
  Operation& op = flat_outline(side, w, flat_part, "Cover's outline, with tabs",
                               {"body.outline_cutter", "control.cover_clearance", "control.cover_finish"});
  op.caution = {{"Check tape and tabs before this one: a free cover meets a turning cutter and flies."}};
  op.check = {{"The cover drops into its ledge with {} all round.", {c.clearance}}};
  Piece piece{c.id, c.title, {std::move(side)}, 0.1, false, {}};
  piece.target = [w, c, holds, flat_part, inner = std::make_shared<const RegionMask>(middle)](PieceRequest& r) {
    flat_target(w, flat_part, r);
    SideDesign& one = r.sides.front().design;
    one.finished = [thick = c.thickness, thin = c.thinned, inner, holds](Vec2 q) {
      double z = inner->holds(q) ? thick - thin : thick;
      for (const Hold& h : holds)
        if (distance(q, h.at) <= h.radius) z = std::min(z, h.bottom);
      return z;
    };
    add_walls(one.walls, "Thinned middle", inner->region(), [z = c.thickness - c.thinned](Vec2) { return z; });
    for (const Hold& h : holds) one.walls.push_back(round_wall("Screw hole", h.at, 2 * h.radius, h.bottom));
    for (const BodyHole& h : c.holds)
      if (h.depth == 0) r.holes.push_back({h.id, h.at, h.diameter});
  };
  return piece;
}

}  // namespace

PartKind cover_part() {
  PartKind kind;
  kind.table = {"cover", "Cover", {}};
  kind.needs = {"body"};
  kind.design = design;
  kind.pieces = [](const PartInput& in) {
    Pieces out;
    const auto& d = in.designs.shape<CoverDesign>();
    const BodyWork& w = body_of(in.project).work;
    if (find_cutter(d.rack, w.outline_cutter) == nullptr || find_cutter(d.rack, w.clear_cutter) == nullptr) return out;
    for (const Cover& c : d.body->shape.covers) out.pieces.push_back(cover_piece(in.project, d, c));
    return out;
  };
  kind.numbers = [](const PartInput& in) {
    Numbers n;
    for (const Cover& c : in.designs.shape<CoverDesign>().body->shape.covers)
      n.length("cover.smaller", "Cover smaller", c.clearance, "than its ledge, each side, finish included");
    return n.take();
  };
  kind.small = true;
  kind.lines = [](const PartInput*, const Project&) -> PartLines {
    return {{heading("Cover"),
             {"cover.shape",
              "Cover and its blank",
              LineState::ready,
              {"cover.", "control.cover_thickness", "control.cover_clearance", "control.cover_finish",
               "control.cover_thinned", "control.hold", "control.holds"}}},
            {}};
  };
  kind.words = [](const PartInput& in) {
    const auto& d = in.designs.shape<CoverDesign>();
    SheetWords out;
    for (const Cover& c : d.body->shape.covers) {
      const Vec2 size = bounds(c.outline).size();
      out.facts.push_back({c.title, worded("{} × {}, {} thick, {}", exact_mm(size.x), exact_mm(size.y),
                                           exact_mm(c.thickness), d.wood.name)});
    }
    out.materials = {d.wood};
    out.boxes = {"Cover's blank, measured", "Fit in its ledge", "Cut by, date"};
    return out;
  };
  kind.mesh = [](const PartInput& in, double) {
    const auto& d = in.designs.shape<CoverDesign>();
    if (d.body->shape.covers.empty()) return Mesh{};
    const Cover& c = d.body->shape.covers.front();
    std::vector<FlatCut> cuts;
    if (c.thinned > 0) cuts.push_back({Region(offset({c.inside}, -1.0)), c.thinned});
    for (const BodyHole& h : c.holds)
      cuts.push_back({{circle_polygon(h.at, h.diameter / 2)}, h.depth == 0 ? c.thickness : h.depth});
    return flat_mesh(flat_of(in.project, d, c), cuts);
  };
  return kind;
}

}  // namespace wren

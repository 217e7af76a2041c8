#include "core/parts/jack_guide/part.hpp"

#include <cmath>

#include "core/parts/body/part.hpp"
#include "core/parts/flat.hpp"
#include "core/plan/region.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {
namespace {

constexpr double half_long = 36;  // mm of the edge that it lies against, each way
constexpr double outward = 26;    // from the edge to its flat
constexpr double mark_depth = 1;  // of the line that shows the hole's axis
constexpr double mark_wide = 1.6;

struct GuideDesign {
  static constexpr const char* part = "jack-guide";
  FlatPart flat;
  Vec2 mark_a, mark_b;  // the axis on its top, from the flat to the edge
  double under_face = 0;
  double hole = 0;
  Rack rack;
  std::vector<Remark> remarks;
};

const Cutter* marker(const Rack& rack) {
  const Cutter* best = nullptr;
  for (const Cutter& c : rack)
    if (c.kind == CutterKind::flat && c.effective_diameter() <= mark_wide + 0.01 &&
        (best == nullptr || c.effective_diameter() > best->effective_diameter()))
      best = &c;
  return best;
}

Expected<Design> design(const PartInput& in) {
  const BodyNumbers& b = body_of(in.project);
  const BodyDesign& body = in.designs.shape<BodyDesign>();
  GuideDesign d;
  d.rack = in.project.rack;
  d.flat.id = "jack-guide";
  d.flat.title = "Jack's guide";
  d.flat.thickness = b.work.guide_wood;
  d.flat.wood = body.woods.front();
  bool wanted = false;
  for (const EdgeJob& j : body.shape.edge_jobs) {
    if (j.id != "jack" || b.body.wires.jack_when != JackWhen::body_finished) continue;
    const Vec2 along = left_of(j.inward);
    Polygon block{j.at + along * half_long - j.inward * outward, j.at - along * half_long - j.inward * outward,
                  j.at - along * half_long + j.inward * 24, j.at + along * half_long + j.inward * 24};
    if (signed_area(block) < 0) std::reverse(block.begin(), block.end());
    // Its inner side is the body's own edge, with room for the finish.
    const Region left = subtracted({block}, offset({body.shape.corners}, b.body.setup.finish));
    if (const Polygon* one = widest(left)) d.flat.outline = *one;
    d.mark_a = j.at - j.inward * (outward + 3);
    d.mark_b = j.at - j.inward * 2;
    d.under_face = -j.z;
    d.hole = j.diameter;
    wanted = d.flat.outline.size() >= 3;
    if (j.diameter > b.work.guide_wood - 4)
      d.remarks.push_back({"jack-guide.thin",
                           Weight::worth_knowing,
                           "The jack's hole is nearly as wide as the guide is thick: glue two of them together.",
                           j.diameter,
                           b.work.guide_wood - 4,
                           "mm",
                           "geometry",
                           "wire.guide_wood",
                           {},
                           {}});
  }
  Design out = design_of(std::move(d));
  out.present = wanted;
  return out;
}

}  // namespace

PartKind jack_guide_part() {
  PartKind kind;
  kind.table = {"jack-guide", "Jack's guide", {}};
  kind.needs = {"body"};
  kind.small = true;
  kind.design = design;
  kind.pieces = [](const PartInput& in) {
    Pieces out;
    const auto& d = in.designs.shape<GuideDesign>();
    const BodyWork w = body_of(in.project).work;
    const Cutter* pen = marker(d.rack);
    if (find_cutter(d.rack, w.outline_cutter) == nullptr) return out;
    Side side = flat_side(in.project.machine, d.flat, "Guide's blank of hard wood");
    side.title = "Jack's guide, its top up";
    const double floor = d.flat.thickness - mark_depth;
    if (pen != nullptr) {
      Channels line;
      line.top = d.flat.thickness;
      line.channels.push_back({"axis", d.mark_a, d.mark_b, pen->effective_diameter(), [floor](Vec2) { return floor; }});
      side.operations.push_back(
          {"axis", "The hole's axis, marked", pen->id, std::move(line), "wire.guide_wood", {"wire.guide_wood"}});
    }
    Operation& op = flat_outline(side, w, d.flat, "Guide's outline, with tabs", {"body.outline_cutter"});
    op.check = {{"It lies against the body's edge without light between them."}};
    op.caution = {{"Check tape and tabs before this one: a free block meets a turning cutter and flies."}};
    Piece piece{"jack-guide", "The jack's guide", {std::move(side)}, 0.1, false, {}};
    const double half = pen != nullptr ? pen->effective_diameter() / 2 : 0;
    piece.target = [w, d, half, floor](PieceRequest& r) {
      flat_target(w, d.flat, r);
      if (half <= 0) return;
      SideDesign& one = r.sides.front().design;
      one.finished = [d, half, floor](Vec2 q) {
        return distance_to(q, {d.mark_a, d.mark_b}) <= half ? floor : d.flat.thickness;
      };
      add_walls(one.walls, "Axis", {buffer_of({d.mark_a, d.mark_b}, half)}, [floor](Vec2) { return floor; });
    };
    out.pieces.push_back(std::move(piece));
    return out;
  };
  kind.numbers = [](const PartInput&) { return std::vector<LedgerLine>{}; };
  kind.lines = [](const PartInput*, const Project&) -> PartLines {
    return {{heading("Jack's guide"),
             {"jack-guide.shape", "Guide for the jack's hole", LineState::ready, {"wire.guide_wood"}, Look::bed}},
            {}};
  };
  kind.words = [](const PartInput& in) {
    const auto& d = in.designs.shape<GuideDesign>();
    SheetWords out;
    const Vec2 size = bounds(d.flat.outline).size();
    out.facts = {{"Guide", {"{} × {}, {} thick, hard wood", {size.x, size.y, d.flat.thickness}}}};
    out.by_hand = {
        {"Drill its hole {} wide square into the flat side, on the marked axis and at half its thickness, on a "
         "drill press.",
         {d.hole}},
        {"Clamp it against the finished edge so that the hole's middle lies {} under the face, soft pads "
         "between; drill by hand, slowly, a stop on the drill; wear eye protection.",
         {d.under_face}}};
    out.materials = {d.flat.wood};
    out.boxes = {"Blank measured", "It lies close to the edge", "Cut by, date"};
    return out;
  };
  kind.mesh = [](const PartInput& in, double) { return flat_mesh(in.designs.shape<GuideDesign>().flat, {}); };
  return kind;
}

}  // namespace wren

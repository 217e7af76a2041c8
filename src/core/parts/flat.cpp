#include "core/parts/flat.hpp"

#include <algorithm>

#include "core/parts/body/part.hpp"
#include "core/plan/recover.hpp"

namespace wren {

Side flat_side(const Machine& machine, const FlatPart& part, const std::string& called) {
  const Box2 box = bounds(part.outline);
  Blank blank;
  blank.length = box.size().x + 2 * part.margin;
  blank.width = box.size().y + 2 * part.margin;
  blank.thickness = part.thickness;
  blank.wood = part.wood.name;
  AlignmentNumbers a;
  a.school = School::ticks;
  Side side;
  side.id = part.id;
  side.setup = side_setup(machine, blank, a, box.middle(), Turn::none, part.thickness);
  Box2 there;
  for (const Vec2 q : part.outline) there.add(side.setup.to_work.apply(q));
  side.setup.board_low = {there.low.x, there.low.y, -part.thickness};
  side.setup.board_high = {there.high.x, there.high.y, 0};
  side.wood = part.wood;
  side.zero = zero_words(blank, "");
  side.seat = seat_words(side.setup, "its own blank's corner");
  side.clamps_key = "body.clamps";
  side.reach_slack = 1.2;
  side.alignment = {worded("{} {} × {} × {}, held with double-sided tape; centre ticks on the crossed lines.",
                           Words(called), exact_mm(blank.length), exact_mm(blank.width), exact_mm(blank.thickness))};
  return side;
}

Operation& flat_outline(Side& side, const BodyWork& w, const FlatPart& part, Words title, std::vector<std::string> keys,
                        int tabs) {
  OutlinePlan plan = body_outline_plan(w, {part.wood});
  plan.thin = 0;
  plan.wood_top = part.thickness;
  plan.tab_height = std::min(1.2, part.thickness * 0.4);
  plan.tab_length = 5;
  RecoverOptions options;
  options.within = 0.004;
  options.edges_too = true;
  const Contour contour = to_contour(recover(part.outline, true, options).path, 0.002);
  for (const Vec2 t : place_body_tabs(contour, tabs, {})) plan.tabs.push_back(nearest_along(contour, t));
  side.operations.push_back({"outline", std::move(title), w.outline_cutter, Outline{contour, std::move(plan)},
                             "body.outline_cutter", std::move(keys)});
  return side.operations.back();
}

void flat_target(const BodyWork& w, const FlatPart& part, PieceRequest& r) {
  body_tolerances(w, r);
  SideDesign& one = r.sides.front().design;
  one.outline = part.outline;
  one.cut_free = true;
  one.finished = [z = part.thickness](Vec2) { return z; };
}

Mesh flat_mesh(const FlatPart& part, const std::vector<FlatCut>& cuts) {
  MeshPlan plan;
  plan.outline = part.outline;
  for (const FlatCut& c : cuts)
    for (const Polygon& ring : c.region) plan.steps.push_back(ring);
  // Where several lie over each other the deepest counts.
  const auto deepest = [&](Vec2 q) {
    int found = -1;
    for (std::size_t k = 0; k < cuts.size(); ++k)
      if (contains(cuts[k].region, q) && (found < 0 || cuts[k].depth > cuts[static_cast<std::size_t>(found)].depth))
        found = static_cast<int>(k);
    return found;
  };
  plan.region = [&](Vec2 q) {
    if (!contains(part.outline, q)) return -1;
    const int k = deepest(q);
    return k < 0 ? 0 : cuts[static_cast<std::size_t>(k)].depth >= part.thickness ? -1 : 1 + k;
  };
  plan.top = [&](Vec2, int region) {
    return part.thickness - (region == 0 ? 0.0 : cuts[static_cast<std::size_t>(region - 1)].depth);
  };
  plan.bottom = [](Vec2, int) { return 0.0; };
  return mesh_piece(plan);
}

}  // namespace wren

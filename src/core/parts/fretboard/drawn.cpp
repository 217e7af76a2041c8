// What a fretboard has beyond single numbers, as JSON; and its mesh.
#include "core/document/json_pieces.hpp"
#include "core/parts/fretboard/part.hpp"

namespace wren {

void fretboard_to_json(const Project& project, Json& group) {
  group["marks"]["outline"] = points_to_json(board_of(project).instrument.marks.outline);
}

std::optional<Problem> fretboard_from_json(const Json& group, const std::string& where, Project& project) {
  if (!group.contains("marks") || !group["marks"].is_object() || !group["marks"].contains("outline")) return {};
  auto points = points_from_json(group["marks"]["outline"], where + "/marks/outline", 2000, 200);
  if (!points) return points.error();
  board_of(project).instrument.marks.outline = std::move(*points);
  return {};
}

Mesh board_mesh(const Fretboard& b) {
  MeshPlan plan;
  constexpr double pace = 4;  // mm between points where the crown bends
  plan.outline = divided(flatten(b.outline, 0.01), pace);
  std::vector<Polygon> slots;
  for (const FretLine& f : b.frets) {
    const Vec2 n = left_of(f.along()) * (b.given.slot.width / 2);
    slots.push_back({f.slot_bass - n, f.slot_treble - n, f.slot_treble + n, f.slot_bass + n});
    plan.steps.push_back(divided(slots.back(), pace));
  }
  for (const Mark& m : b.marks) plan.steps.push_back(m.outline);
  const Box2 box = bounds(b.corners);
  for (double x = box.low.x + pace; x < box.high.x; x += pace)
    for (double y = box.low.y + pace / 2; y < box.high.y; y += pace)
      if (contains(b.corners, {x, y})) plan.inside.push_back({x, y});
  const auto slot_count = static_cast<int>(slots.size());
  plan.region = [&](Vec2 q) {
    if (!contains(b.corners, q)) return -1;
    for (int k = 0; k < slot_count; ++k)
      if (std::abs(q.x - b.frets[static_cast<std::size_t>(k)].middle().x) < 60 &&
          contains(slots[static_cast<std::size_t>(k)], q))
        return 1;
    for (std::size_t k = 0; k < b.marks.size(); ++k)
      if (contains(b.marks[k].outline, q)) return 2 + static_cast<int>(k);
    return 0;
  };
  plan.top = [&](Vec2 q, int region) {
    if (region == 1) return std::min(b.slot_floor(q), b.crown_height(q));
    if (region >= 2) return b.marks[static_cast<std::size_t>(region - 2)].floor;
    return b.crown_height(q);
  };
  plan.bottom = [](Vec2, int) { return 0.0; };
  return mesh_piece(plan);
}

}  // namespace wren

#include "core/parts/body/target.hpp"

#include <algorithm>

namespace wren {

void body_tolerances(const BodyWork& w, PieceRequest& request) {
  request.tolerances.below = w.through;
  request.tolerances.left_over = std::max(0.04, w.scallop * 1.6 + 0.015);
  request.tolerances.skin_height = 0.4;
  request.tolerances.tab_longest = w.tab_length + 20;
}

void whole_target(const BodyWork& w, const BodyDesign& d, const std::shared_ptr<const Makeable>& made,
                  PieceRequest& request) {
  body_tolerances(w, request);
  const BodyShape& s = d.shape;
  for (PieceSide& one : request.sides) {
    const Turn turn = one.setup.turn;
    one.design.outline = turned(turn, s.corners);
    one.design.walls = made->walls(turn != Turn::none, turn);
    if (turn == Turn::none) {
      one.design.finished = [made](Vec2 q) { return made->top(q); };
    } else {
      one.design.cut_free = w.outline != OutlineSchool::guide;
      one.design.finished = [made, turn](Vec2 q) { return -made->bottom(turned(turn, q)); };
    }
  }
  for (const BodyHole& h : s.holes)
    if (h.depth == 0 || h.id.starts_with("shaft"))
      request.holes.push_back({h.title + " " + h.id.substr(h.id.rfind('-') + 1), h.at, h.diameter});
  for (const Cavity& c : s.cavities)
    if (c.id == "switch") {  // a slot through: places along it stand for it
      const Polygon& ring = c.region.front();
      Vec2 a = ring.front();
      Vec2 b = ring.front();
      for (const Vec2 u : ring)
        for (const Vec2 v : ring)
          if (distance(u, v) > distance(a, b)) a = u, b = v;
      const double l = distance(a, b);
      for (double t = 0.8; t <= l - 0.8 + 1e-9; t += (l - 1.6) / std::ceil((l - 1.6) / 1.2))
        request.holes.push_back({c.title, lerp(a, b, t / l), 1.2});
    }
  request.misfit = d.misfit.at(bounds(s.corners).size() * 0.5);
}

}  // namespace wren

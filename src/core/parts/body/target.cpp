#include "core/parts/body/target.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/parts/body/registers.hpp"

namespace wren {

double sloping_rim(const BodyWork& work, const BodyDesign& design, const Cavity& cavity) {
  double deep = 0;
  for (const Polygon& ring : cavity.region)
    for (const Vec2 q : ring) deep = std::max(deep, design.face_top - cavity.bed_at(q));
  double rim = 1e9;
  double widest = 1.6;
  for (const std::string& id : {work.fine_cutter, work.clear_cutter}) {
    const Cutter* c = find_cutter(design.rack, id);
    if (c == nullptr) continue;
    widest = std::max(widest, c->radius());
    const Cutter* other = one_that_reaches(design.rack, *c, deep, deep + 1);
    if (c->cutting_length + 0.01 < deep) c = other;
    if (c != nullptr) rim = std::min(rim, c->radius());
  }
  return rim < 1e8 ? rim : widest;
}

void body_tolerances(const BodyWork& w, PieceRequest& request) {
  request.tolerances.below = w.through;
  request.tolerances.left_over = std::max(0.04, w.scallop * 1.6 + 0.015);
  request.tolerances.skin_height = 0.4;
  request.tolerances.tab_longest = w.tab_length + 20;
}

double plug_tab_height(const BodyWork& w, double thickness) { return std::min(w.tab_height, thickness / 2); }

void layer_target(const BodyWork& w, const std::shared_ptr<const BodyDesign>& d,
                  const std::shared_ptr<const Makeable>& made, std::size_t k, PieceRequest& r) {
  constexpr double hidden_proud = 0.6;  // mm
  body_tolerances(w, r);
  const bool oversize = k == 0 && w.top_oversize > 0;
  const Polygon outline = oversize ? oversize_outline(w, *d) : d->shape.corners;
  for (std::size_t side = 0; side < r.sides.size(); ++side) {
    SideDesign& one = r.sides[side].design;
    const Turn turn = r.sides[side].setup.turn;
    const bool below = turn != Turn::none;
    one.outline = turned(turn, outline);
    one.cut_free = oversize && side + 1 == r.sides.size();
    one.walls = made->layer_walls(k, below, turn, plug_tab_height(w, d->layers[k].blank.thickness) + 0.2);
    if (below) {
      one.finished = [made, k, turn](Vec2 q) { return -made->layer_bottom(turned(turn, q), k); };
      continue;
    }
    one.loose = [made, k](Vec2 q) { return made->hidden_in(q, k) ? hidden_proud : 0.0; };
    for (const RegisterMark& m : register_marks(w, *d, k))
      if (distance(m.a, m.b) < 1e-6)
        one.walls.push_back(round_wall("Register hole", m.a, 2 * m.radius, m.bottom));
      else
        add_walls(one.walls, "Register line", {buffer_of({m.a, m.b}, m.radius)}, [z = m.bottom](Vec2) { return z; });
    one.finished = [made, k, marks = register_marks(w, *d, k)](Vec2 q) {
      double z = made->layer_top(q, k);
      for (const RegisterMark& m : marks)
        if (m.holds(q)) z = std::min(z, m.floor(q));
      return z;
    };
  }
  for (const RegisterMark& m : register_marks(w, *d, k))
    if (m.bottom < -1e5) r.holes.push_back({"register", m.a, 2 * m.radius});
  for (const LayerCut& c : d->cuts[k]) {
    if (!c.through) continue;
    WindowDesign window{d->shape.cavities[c.cavity].title, c.open(), c.plug, {}};
    for (const Vec2 t : c.tabs)
      window.tabs.push_back({t, plug_tab_height(w, d->layers[k].blank.thickness), w.tab_length});
    r.windows.push_back(std::move(window));
  }
}

void glue_layers(const BodyDesign& d, const std::vector<GluedLayer>& layers, PieceRequest& request) {
  std::vector<LayerStack::Layer> stack;
  for (std::size_t k = 0; k < d.shape.layers.size(); ++k) {
    LayerStack::Layer l;
    l.top = d.layers[k];
    l.low = -d.layers[k].to_work.shift.z - d.layers[k].blank.thickness;
    const std::string id = "layer-" + fmt::to_string(k + 1);
    const auto cut = std::find_if(layers.begin(), layers.end(),
                                  [&](const GluedLayer& g) { return g.request->sides.front().name == id; });
    if (cut == layers.end()) {
      const Vec2 corner{l.top.blank_corner.x, l.top.blank_corner.y};
      l.from_top = TileGrid(corner, std::max(l.top.blank_size.x, l.top.blank_size.y), 1, 1, 0);
    } else {
      const PieceRequest& of = *cut->request;
      l.from_top = cut->result->sides[0].stock;
      if (of.sides.size() > 1) {
        l.under = of.sides[1].setup;
        l.from_under = cut->result->sides[1].stock;
      }
      if (of.sides.back().design.cut_free) l.kept = turned(of.sides.back().setup.turn, of.sides.back().design.outline);
      for (const WindowDesign& w : of.windows)
        if (!w.plug.empty())  // with its tabs
          if (const Region all = joined(w.open, {w.plug}); widest(all) != nullptr) l.gone.push_back(*widest(all));
    }
    stack.push_back(std::move(l));
  }
  request.stack = std::make_shared<const LayerStack>(std::move(stack));
  for (PieceSide& side : request.sides) {
    const Turn turn = side.setup.turn;
    const double bed = side.setup.bed_z() - side.setup.to_work.shift.z;
    side.setup.wood_top = [stack = request.stack, turn, bed](Vec2 q) {
      const Vec2 p = turned(turn, q);
      return turn == Turn::none ? stack->top(p, bed) : -stack->bottom(p, -bed);
    };
  }
}

namespace {

/// Holes that have to be open when the piece is done.
void open_holes(const BodyWork& w, const BodyDesign& d, bool held, PieceRequest& request) {
  for (const BodyHole& h : d.shape.holes)
    if (held_back(w, h) == held && (h.depth == 0 || h.id.starts_with("shaft"))) {
      const Cutter* drill = h.drilled ? drill_in_use(d.rack, h.diameter) : nullptr;
      request.holes.push_back({h.title + " " + h.id.substr(h.id.rfind('-') + 1), h.at,
                               drill != nullptr ? std::min(h.diameter, drill->effective_diameter()) : h.diameter});
    }
}

}  // namespace

void held_target(const BodyWork& w, const BodyDesign& d, const std::shared_ptr<const Makeable>& made,
                 PieceRequest& request) {
  body_tolerances(w, request);
  request.held = true;
  for (PieceSide& one : request.sides) {
    const Turn turn = one.setup.turn;
    one.design.outline = turned(turn, d.shape.corners);
    one.design.walls = made->hole_walls(turn != Turn::none, turn, true);
    if (turn == Turn::none)
      one.design.finished = [made](Vec2 q) { return made->top(q, true); };
    else
      one.design.finished = [made, turn](Vec2 q) { return -made->bottom(turned(turn, q), true); };
  }
  // What is drilled from one side only has its other half from nowhere.
  if (request.sides.size() > 1) open_holes(w, d, true, request);
}

void whole_target(const BodyWork& w, const BodyDesign& d, const std::shared_ptr<const Makeable>& made,
                  PieceRequest& request) {
  body_tolerances(w, request);
  const BodyShape& s = d.shape;
  for (PieceSide& one : request.sides) {
    const Turn turn = one.setup.turn;
    one.design.outline = turned(turn, s.corners);
    one.design.walls = made->walls(turn != Turn::none, turn);
    // What layers have lost before the glue-up is open where it meets a cavity of the glued body, whoever cut that.
    const bool by_layer = std::any_of(s.cavities.begin(), s.cavities.end(), [](const Cavity& c) { return c.by_layer; });
    if (turn == Turn::none && by_layer) {
      one.design.finished = [made](Vec2 q) { return std::min(made->top(q), made->stack_top(q, -1e6)); };
    } else if (turn == Turn::none) {
      one.design.finished = [made](Vec2 q) { return made->top(q); };
    } else {
      one.design.cut_free = w.outline != OutlineSchool::guide && w.outline_when == OutlineWhen::last;
      one.design.finished = [made, turn, by_layer](Vec2 q) {
        const Vec2 p = turned(turn, q);
        const double z = made->bottom(p);
        return -(by_layer ? std::max(z, made->stack_bottom(p, 1e6)) : z);
      };
    }
  }
  if (w.outline_when == OutlineWhen::first) {
    request.sides.front().design.cut_free = true;
    // Their ends rise aslant, and they begin under what the back's edge and belly take away.
    request.tolerances.tab_longest =
        w.first_tab_length + 2 * (w.first_tab_height + s.given.comfort.round_back + s.given.comfort.belly_depth) + 20;
  }
  open_holes(w, d, false, request);
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
  for (const auto& layer : d.cuts)
    for (const LayerCut& c : layer)
      if (c.hidden && s.cavities[c.cavity].id.starts_with("chamber"))
        request.chambers.push_back({s.cavities[c.cavity].title, c.region});
  request.misfit = d.misfit.at(bounds(s.corners).size() * 0.5);
}

}  // namespace wren

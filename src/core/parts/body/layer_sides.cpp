// The layers of a body, each from its own blank, and what a glued top is found by.
#include "core/parts/body/sides.hpp"

#include <algorithm>
#include <memory>
#include <utility>

#include <fmt/format.h>

#include "core/parts/body/ears.hpp"
#include "core/parts/body/layers.hpp"
#include "core/parts/body/registers.hpp"

namespace wren {

void BodySides::pins(double thickness) {
  if (w_.alignment.school != School::pins) return;
  const Cutter* c = reaching(w_.clear_cutter, thickness + 1);
  if (c == nullptr) return;
  Holes holes;
  for (const Vec2 at : {d_->pins.first, d_->pins.second})
    holes.holes.push_back(
        {"pin's hole", at, w_.alignment.pin_diameter, top_, top_ - thickness - std::min(1.0, w_.alignment.pin_depth)});
  const bool again = side_.id == "front" && s_.layers.size() > 1;
  add("pins", again ? "Pin holes, bored again through the glued body" : "Pin holes through the waste", c->id,
      std::move(holes), "body.deep_cutter", {"body.pin_diameter", "body.pin_depth", "body.deep_cutter"})
      .check = {{"Pins {} push in by hand and do not rock.", {w_.alignment.pin_diameter}}};
  after_pins_ = true;
}

void BodySides::layer(std::size_t k, const std::shared_ptr<const Makeable>& made) {
  const LayerPlace& l = s_.layers[k];
  const bool below = d_->worked_below(k);
  begin(fmt::format("layer-{}", k + 1), worded("Layer '{}', its top up", l.layer.name), d_->layers[k]);
  side_.wood = d_->woods[k];
  pins(d_->layers[k].blank.thickness);
  layer_cavities(k, false);
  if (oversize_top() && w_.top_register != TopRegister::ears && k < 2) register_cut(k);
  const bool oversize = k == 0 && w_.top_oversize > 0;
  if (oversize && !below) oversize_cut(k);
  if (std::any_of(d_->cuts[k].begin(), d_->cuts[k].end(), [](const LayerCut& c) { return !c.plug.empty(); }))
    side_.after.push_back(
        "Spindle still: saw the plugs' tabs through by hand, take the plugs out, and level what is left of the "
        "tabs.");
  Piece piece{side_.id, side_.title, {}, 0.2, true, {}};
  if (!below && k + 1 == s_.layers.size()) glue_up();
  align();
  piece.sides.push_back(std::move(side_));
  if (below) {
    begin(fmt::format("layer-{}-under", k + 1), worded("Layer '{}', turned over", l.layer.name), d_->under[k]);
    side_.wood = d_->woods[k];
    layer_cavities(k, true);
    if (oversize) oversize_cut(k);
    if (k + 1 == s_.layers.size()) glue_up();
    align();
    piece.title = worded("Layer '{}', both sides", l.layer.name);
    piece.sides.push_back(std::move(side_));
  }
  piece.target = [w = w_, d = d_, made, k](PieceRequest& r) { layer_target(w, d, made, k, r); };
  piece.measured = {fmt::format("body.layer_{}", k + 1)};
  keep(std::move(piece));
}

void BodySides::glue_up() {
  side_.after.push_back(
      worded("Glue-up: mask wire channels and the places of post and pickup holes, glue on both faces, {}, cauls over "
             "the whole face; leave it a day.",
             glue_register()));
  side_.after.push_back(
      "A top of two mirror halves is joined before: shoot both edges together, the join on the centre "
      "line.");
}

void BodySides::layer_cavities(std::size_t k, bool from_below) {
  std::vector<const LayerCut*> order;
  for (const LayerCut& c : d_->cuts[k])
    if (c.from_below == from_below) order.push_back(&c);
  const auto up = [&](double z) { return side_z(z); };
  // Shallow before deep, windows last.
  std::stable_sort(order.begin(), order.end(), [&](const LayerCut* a, const LayerCut* b) {
    return a->through != b->through ? b->through : up(a->floor) > up(b->floor);
  });
  for (const LayerCut* cut : order) {
    const Cavity& c = s_.cavities[cut->cavity];
    const double thick = d_->layers[k].blank.thickness;
    if (!cut->plug.empty()) {
      window(*cut, c, thick);
      continue;
    }
    double top = top_;
    for (const LayerCut* o : order)
      if (o != cut && !o->through && up(o->floor) > up(cut->floor) + 1e-6 &&
          area(subtracted(cut->region, o->region)) < 0.01)
        top = std::min(top, up(o->floor));
    // A window goes on into the waste board, so that no skin is left.
    const double floor = up(cut->floor) - (cut->through ? std::min(0.1, w_.through) : 0);
    clear(
        {cut->region, c.id, c.title}, top, [floor](Vec2) { return floor; }, floor, 0, !cut->hidden);
  }
}

void BodySides::window(const LayerCut& cut, const Cavity& c, double thick) {
  const Cutter* k = reaching(w_.outline_cutter, thick + w_.through);
  if (k == nullptr) return;
  Contour round;
  for (const Vec2 q : cut.plug) round.push_back({q, 0});
  OutlinePlan plan = body_outline_plan(w_, {side_.wood});
  plan.wood_top = thick;
  plan.skim = 0;  // its walls are the other side of the cut
  plan.thin = 0;
  plan.aside = 0;
  plan.tab_height = plug_tab_height(w_, thick);
  plan.shift = top_ - thick;
  for (const Vec2 t : cut.tabs) plan.tabs.push_back(nearest_along(round, t));
  Operation& op = add(c.id, worded("{}, round its plug", Words(c.title)), k->id, Outline{round, std::move(plan), true},
                      "body.outline_cutter",
                      {"body.plugs", "body.outline_cutter", "body.tab_length", "body.tab_height", "body.through"});
  op.caution = {{"Hands off the plug while the spindle turns; it is taken out by hand once the machine stands."}};
  op.ways_out = {{"Clear the window away", {{"body.plugs", "no"}}}};
}

void BodySides::oversize_cut(std::size_t k) {
  Contour larger;
  for (const Vec2 q : oversize_outline(w_, *d_)) larger.push_back({q, 0});
  if (turn_ != Turn::none) larger = turned(turn_, larger);
  OutlinePlan plan = body_outline_plan(w_, {d_->woods[k]});
  plan.wood_top = d_->layers[k].blank.thickness;
  plan.skim = 0;
  plan.shift = top_ - d_->layers[k].blank.thickness;
  plan.thin = 0;
  for (const Vec2 t : place_body_tabs(larger, w_.tabs, {})) plan.tabs.push_back(nearest_along(larger, t));
  outline_words(add("oversize", "Top, oversize", w_.outline_cutter, Outline{larger, std::move(plan)},
                    "body.outline_cutter", outline_keys()));
}

std::string BodySides::glue_register() const {
  if (!oversize_top() || w_.top_register == TopRegister::ears)
    return w_.alignment.school == School::pins ? "pins through all layers as register"
                                               : "the layers' ticks in line on all four edges";
  if (w_.top_register == TopRegister::lines)
    return "the top's ticks on the centre line and the scale line of the layer under it, looked at from all four "
           "sides";
  return fmt::format("pins of {} through the top's two small holes into those of the layer under it",
                     mm(w_.register_hole));
}

void BodySides::register_cut(std::size_t k) {
  const auto marks = register_marks(w_, *d_, k);
  if (w_.top_register == TopRegister::holes) {
    const Cutter* drill = drill_in_use(d_->rack, w_.register_hole);
    if (drill == nullptr || marks.size() < 2) {
      if (k > 0) return;
      out_.remarks.push_back(
          {"body.register_hole",
           Weight::stop,
           drill == nullptr
               ? worded("No drill of the rack is thin enough for register holes of {}.", mm(w_.register_hole))
               : "No two register holes of the top lie in wood that a later cut takes away.",
           w_.register_hole,
           0,
           "mm",
           "what the face's cavities take away",
           "body.top_register",
           {},
           Repair{"Let the top keep ears", {{"body.top_register", "ears"}}},
           {Repair{"Mark centre line and scale line", {{"body.top_register", "lines"}}}}});
      return;
    }
    Holes holes;
    holes.peck = std::max(1.0, w_.peck / 2);
    for (const RegisterMark& m : marks) {
      holes.holes.push_back({"register hole", m.a, w_.register_hole, top_, m.cut_to});
      // Through the top its point goes on into the waste board.
      if (m.bottom < -1e5) side_.setup.bed_holes.push_back({side_.setup.to_work.apply(m.a), m.radius + 0.3, 3});
      side_.after.push_back(
          worded("Register hole at x {}, y {} from the body's middle: a later cut takes it.", mm(m.a.x), mm(m.a.y)));
    }
    add("register", "Register holes for the glue-up, pecked", drill->id, std::move(holes), "body.peck",
        {"body.top_register", "body.register_hole"})
        .touches = [](Vec2) { return -1e300; };
    return;
  }
  const Cutter* c = tick_cutter(d_->rack);
  if (c == nullptr) return;
  Channels ticks;
  ticks.top = top_;
  for (const RegisterMark& m : marks)
    ticks.channels.push_back({"tick", m.a, m.b, c->effective_diameter(), [z = m.cut_to](Vec2) { return z; }});
  add("register", "Ticks of centre line and scale line", c->id, std::move(ticks), "body.top_register",
      {"body.top_register"})
      .check = {{"The ticks are easy to see; draw them over with a sharp pencil."}};
}

}  // namespace wren

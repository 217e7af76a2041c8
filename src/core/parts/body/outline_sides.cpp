// The outline of a body by its schools, and what a saw has left of one.
#include "core/parts/body/sides.hpp"

#include <algorithm>
#include <memory>
#include <utility>

#include <fmt/format.h>

#include "core/parts/body/ears.hpp"
#include "core/parts/body/registers.hpp"

namespace wren {
namespace {

constexpr double groove_past = 0.5;  // mm: how far the two halves of an outline overlap

}  // namespace

std::vector<std::string> BodySides::outline_keys() {
  return {"body.outline_when",   "body.first_tab_length", "body.first_tab_height",
          "body.outline_school", "body.outline_cutter",   "body.skim",
          "body.grain",          "body.thin_skim",        "body.tabs",
          "body.tab_length",     "body.tab_height",       "body.through",
          "body.guide_depth",    "body.guide_leave",      "body.ear_width",
          "body.ears_off",       "body.top_oversize",     "body.top_register",
          "body.register_hole"};
}

void BodySides::outline_words(Operation& op) const {
  op.caution = {{"Check pins, clamps and tabs before this one: a free body meets a turning cutter and flies."}};
  if (turn_ != Turn::none) op.check = {{worded("{} tabs hold the body.", d_->tabs.size())}};
  op.ways_out = {{"Cut half the outline from each side", {{"body.outline_school", "halves"}}}};
}

double BodySides::fallen_at(Vec2 at, double wide) const {
  if (!s_.carved_face()) return 0;
  double deep = 0;
  for (int k = 0; k < 12; ++k) {
    const double a = k * 0.5235987755982988;
    deep = std::max(deep, -s_.carved_top(at + Vec2{std::cos(a), std::sin(a)} * wide));
  }
  return deep;
}

void BodySides::in_stretches(OutlinePlan& plan, const Contour& contour) const {
  if (w_.grain != GrainWay::safer || !has_grain(d_->woods)) return;
  for (const GrainSpan& g : grain_spans(contour)) plan.stretches.push_back({g.from, g.to, g.run != GrainRun::with});
  if (plan.stretches.size() < 2) plan.stretches.clear();
}

void BodySides::outline_first() {
  const double depth = s_.thickness + w_.through;
  const Cutter* c = reaching(w_.outline_cutter, depth);
  if (c == nullptr) return;
  OutlinePlan plan = body_outline_plan(w_, d_->woods);
  plan.wood_top = s_.thickness + std::max(0.0, top_);
  plan.shift = -s_.thickness;
  plan.tab_length = w_.first_tab_length;
  plan.tab_height = w_.first_tab_height;
  // Rounding the back's edge cuts a groove beside it, and a belly runs out over it: tabs stand above that.
  const ComfortNumbers& comfort = s_.given.comfort;
  const Cutter* ball = cutter(w_.finish_cutter);
  const bool by_ball = !(comfort.round_by_form && !s_.carved_back());
  const double groove =
      comfort.round_back > 0 ? comfort.round_back + (by_ball && ball != nullptr ? ball->radius() : 0) : 0;
  for (const Vec2 t : d_->tabs) {
    plan.tabs.push_back(nearest_along(s_.outline, t));
    plan.tab_lifts.push_back(groove + fallen_back_at(t, c->radius()));
  }
  if (plan.skim > 0) in_stretches(plan, s_.outline);
  Operation& op = add("outline", "Outline, first of all, with tabs", c->id, Outline{s_.outline, std::move(plan)},
                      "body.outline_cutter", outline_keys());
  outline_words(op);
  op.check = {
      worded("From here on {} tabs, {} long and {} high, are all that holds the body: none cracked, none thinner than "
             "drawn. Screws or clamps hold the frame round it.",
             d_->tabs.size(), mm(w_.first_tab_length, 3), mm(w_.first_tab_height, 3))};
}

double BodySides::fallen_back_at(Vec2 at, double wide) const {
  if (!s_.carved_back()) return 0;
  double deep = 0;
  for (int k = 0; k < 12; ++k) {
    const double a = k * 0.5235987755982988;
    deep = std::max(deep, s_.carved_bottom(at + Vec2{std::cos(a), std::sin(a)} * wide) + s_.thickness);
  }
  return deep;
}

void BodySides::outline(bool from_back) {
  if (w_.outline_when == OutlineWhen::first) return;
  const bool full = w_.outline == OutlineSchool::full;
  const bool guide = w_.outline == OutlineSchool::guide;
  if (from_back ? guide : full) return;
  const double thick = s_.thickness;
  const double half = guide ? std::min(w_.guide_depth, thick - 1) : thick / 2 + groove_past;
  const double depth = full ? thick + w_.through : from_back ? thick - half + groove_past : half;
  const Cutter* c = reaching(w_.outline_cutter, depth);
  if (c == nullptr) return;
  OutlinePlan plan = body_outline_plan(w_, d_->woods);
  const Contour contour = turned(turn_, s_.outline);
  if (!from_back) {
    plan.wood_top = w_.face_off > 0 ? half : half + d_->face_top;
    plan.through = 0;
    plan.tab_height = 0;
    plan.shift = -half;
    if (guide) plan.skim = 0;
  } else {
    // In halves the groove from the front is the floor: its wood side z is `half` over the face.
    const double floor = full ? 0 : half;
    plan.wood_top = thick - floor;
    plan.shift = floor;
    if (w_.outline == OutlineSchool::halves) plan.through = groove_past;
    // Rounding the face's edge has cut a groove beside it, and a carve runs out over it: tabs stand above that.
    const ComfortNumbers& comfort = s_.given.comfort;
    double groove = 0;
    if (full && comfort.round_face > 0) {
      const Cutter* ball = cutter(w_.finish_cutter);
      const bool by_ball = !(comfort.round_by_form && !s_.carved_face());
      groove = comfort.round_face + (by_ball && ball != nullptr ? ball->radius() : 0);
    }
    for (const Vec2 t : d_->tabs) {
      plan.tabs.push_back(nearest_along(contour, turned(turn_, t)));
      if (full) plan.tab_lifts.push_back(groove + fallen_at(t, c->radius()));
    }
  }
  if (plan.skim > 0) in_stretches(plan, contour);
  outline_words(add(from_back ? "outline"
                    : guide   ? "guide"
                              : "outline-front",
                    from_back ? "Outline, with tabs"
                    : guide   ? "Guide groove for the band saw"
                              : "Outline, upper half",
                    c->id, Outline{contour, std::move(plan)}, "body.outline_cutter", outline_keys()));
}

void BodySides::sawn(const std::shared_ptr<const Makeable>& made) {
  // Both faces are down to their thickness by then.
  Blank blank = d_->blank;
  blank.thickness = s_.thickness;
  Setup setup = side_setup(d_->back.machine, blank, w_.alignment, d_->blank_middle, w_.alignment.turn, -s_.thickness);
  setup.bed_holes = d_->back.bed_holes;
  setup.board_low = {d_->back.board_low.x, d_->back.board_low.y, -s_.thickness};
  setup.board_high = d_->back.board_high;
  const Polygon left =
      turned(setup.turn, sawn_shape(s_.corners, d_->ears, d_->blank, d_->blank_middle, w_.guide_leave));
  setup.top_island = left;
  // What the back's cuts have left: z is probed on it, and a belly, a cavity or a hole is no place for that. Holes
  // that go through end just over the bed: they were proved with the body, and are no thin wood of this piece.
  static constexpr double over_bed = 1;
  const Height back = [made, d = d_, turn = setup.turn, top = s_.thickness](Vec2 q) {
    const Vec2 p = turned(turn, q);
    return d->shape.inside->holds(p) ? std::clamp(-made->bottom(p), over_bed, top) : top;
  };
  setup.wood_top = [mask = std::make_shared<const RegionMask>(Region{left}, 0.5), back](Vec2 q) {
    return mask->holds(q) ? back(q) : 0.0;
  };
  // A screw in each ear, between its pin and the body, into the waste board; where an ear is too short for one, it is
  // clamped.
  bool screwed = true;
  for (const Ear& e : d_->ears) {
    const std::optional<Vec2> at = ear_screw(e);
    screwed = screwed && at;
    if (!at || !e.meets) continue;
    const Vec2 q = setup.to_work.apply(turned(setup.turn, *at));
    setup.standing.push_back({"screw",
                              {q.x - screw_head / 2, q.y - screw_head / 2, setup.bed_z()},
                              {q.x + screw_head / 2, q.y + screw_head / 2, 0}});
  }
  const School school = w_.alignment.school;
  setup.found_by = school == School::fence ? Register{} : register_of(setup.blank, w_.alignment, true);
  begin("skim", "Last skim, after the band saw", setup);
  side_.seat = seat_words(setup, register_name(setup.found_by.kind));
  const Cutter* c = reaching(w_.outline_cutter, s_.thickness);
  if (c == nullptr) return;
  std::vector<Kept> kept;
  for (const Ear& e : d_->ears)
    if (e.meets) kept.push_back({turned(turn_, ear_strip(e, 0)), turned(turn_, e.outward)});
  Operation& op = add("outline", "Outline, last skims", c->id,
                      Skims{turned(turn_, s_.outline), s_.thickness, w_.through, w_.skim, w_.guide_leave, kept},
                      "body.outline_cutter", outline_keys());
  outline_words(op);
  op.check = {{"The ears are untouched: nothing else holds the body to its place."}};
  op.stop_before = worded(
      "Saw the body out beside the groove, {} outside the line, an ear {} wide left standing at either end out to the "
      "blank's end; set it back by its ears, back up",
      mm(w_.guide_leave), mm(w_.ear_width));
  op.judge_reach = false;
  const bool machine = w_.ears_off == EarsOff::by_machine;
  if (machine && !kept.empty()) {
    Operation& off =
        add("ears", "Ears cut off, a tab left in each", c->id,
            KeptOff{turned(turn_, s_.outline), s_.thickness, w_.through, w_.skim, w_.guide_leave, w_.tab_length,
                    w_.tab_height, kept},
            "body.outline_cutter", {"body.ears_off", "body.tab_length", "body.tab_height", "body.ear_width"});
    off.caution = {{"The tabs hold the body now: a hand near the stop, and no tab thinner than drawn."}};
    off.touches = [top = s_.thickness](Vec2) { return top; };
  } else if (!machine) {
    side_.after = {
        "Last of all saw off both ears beside the line, and plane and sand them flush; they have held the body's "
        "place, "
        "and nothing is set by it any more."};
  }
  const std::string hold =
      screwed ? "a screw in each ear, sunk flush, {} from its pin towards the body" : "a clamp on each ear's end";
  Words back_on{
      (school == School::pins
           ? "Saw the body out beside its groove and leave both ears standing, {} wide, with their pin holes; "
             "lower it onto the same two pins, back up, "
           : "Saw the body out beside its groove and leave both ears standing, {} wide, with the ticks on "
             "their ends; set those on the same lines, back up, ") +
          hold + ".",
      {w_.ear_width}};
  if (screwed) back_on.add(screw_aside);
  side_.alignment = {std::move(back_on), {"Keep the same zero."}};
  Piece piece{"skim", side_.title, {std::move(side_)}, 0.2, false, {}, {"body"}};
  piece.target = [w = w_, d = d_, machine, back, reach = c->effective_diameter()](PieceRequest& r) {
    body_tolerances(w, r);
    r.tolerances.tab_longest = w.ear_width + 2 * w.guide_leave + 2 * reach + 40;
    PieceSide& one = r.sides.front();
    one.design.outline = turned(one.setup.turn, d->shape.corners);
    one.design.finished = back;
    one.design.cut_free = true;
    for (const Ear& e : d->ears) {
      if (!e.meets) continue;
      r.tabs.push_back({{e.foot + e.outward.x, e.pin.y},
                        machine ? w.tab_height : d->shape.thickness,
                        machine ? w.tab_length : w.ear_width + 2 * w.guide_leave});
    }
  };
  keep(std::move(piece));
}

}  // namespace wren

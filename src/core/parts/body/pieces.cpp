// What is cut of a body: layer by layer on the same pins, then the glued body from both sides, and what the saw left.
#include "core/parts/body/sides.hpp"

#include <algorithm>
#include <memory>
#include <utility>

#include "core/parts/body/ears.hpp"
#include "core/parts/body/layers.hpp"

namespace wren {

Pieces BodySides::run() {
  const auto made = std::make_shared<const Makeable>(w_, *d_);
  if (s_.layers.size() > 1)
    for (std::size_t k = 0; k < s_.layers.size(); ++k) layer(k, made);
  Piece whole{"body", s_.layers.size() > 1 ? "The glued body, both sides" : "The body, both sides", {}, 0.2, false, {}};
  front();
  whole.sides.push_back(std::move(side_));
  back();
  whole.sides.push_back(std::move(side_));
  whole.target = [w = w_, d = d_, made](PieceRequest& r) { whole_target(w, *d, made, r); };
  for (const Piece& layer : out_.pieces) whole.after.push_back(layer.id);
  if (s_.layers.size() > 1)
    whole.glue = [d = d_](const std::vector<GluedLayer>& layers, PieceRequest& r) { glue_layers(*d, layers, r); };
  keep(std::move(whole));
  if (w_.outline == OutlineSchool::guide) sawn(made);
  if (w_.bridge_holes == BridgeHoles::held_back) once_the_neck_is_on(made);
  return std::move(out_);
}

void BodySides::keep(Piece piece) {
  if (std::any_of(piece.sides.begin(), piece.sides.end(), [](const Side& s) { return !s.operations.empty(); }))
    out_.pieces.push_back(std::move(piece));
}

void BodySides::begin(std::string id, Words title, const Setup& setup) {
  side_ = {};
  side_.id = std::move(id);
  side_.title = std::move(title);
  side_.setup = setup;
  side_.zero = zero_words(setup.blank, zero_place(w_.alignment.school));
  side_.seat = seat_words(setup, school_name(w_.alignment.school));
  side_.clamps_key = "body.clamps";
  after_pins_ = false;  // a side's last cut may be its pins: what is cut next then has pins in its own blank
  side_.reach_slack = 1.2;
  side_.wood = d_->woods.front();
  for (const Material& w : d_->woods)  // the hardest layer decides what the glued body bears
    if (w.cutting_force > side_.wood.cutting_force) side_.wood = w;
  turn_ = setup.turn;
  top_ = -setup.to_work.shift.z;
}

void BodySides::align() {
  if (w_.alignment.school == School::pins && s_.layers.size() > 1 && side_.id == "front") {
    side_.alignment = {
        {"Clear the glue out of the old pin holes by hand until the pins slip in; lower the glued body onto the same "
         "two pins. The zero is still the same."},
        {"Fix it by clamps at its waste, then pull the pins: the first program bores both holes again, {} wide.",
         {w_.alignment.pin_diameter}},
        {"Push the pins through the body into the waste board before anything else is cut."}};
    return;
  }
  const bool bored = std::any_of(side_.operations.begin(), side_.operations.end(),
                                 [](const Operation& op) { return op.id == "pins"; });
  const Seating seating = turn_ != Turn::none ? Seating::turned : bored ? Seating::first : Seating::again;
  if (w_.alignment.school == School::pins && side_.id != "layer-1" && s_.layers.size() > 1 && turn_ == Turn::none)
    side_.alignment.push_back({"Put this blank onto the same two pins' places; the zero is still the same."});
  for (const auto& s : alignment_steps(side_.setup, w_.alignment, seating)) side_.alignment.push_back(s);
}

Operation& BodySides::add(std::string id, Words title, const std::string& cutter, Shape shape, const char* key,
                          std::vector<std::string> keys) {
  side_.operations.push_back({std::move(id), std::move(title), cutter, std::move(shape), key, std::move(keys)});
  Operation& op = side_.operations.back();
  if (std::exchange(after_pins_, false)) op.stop_before = set_the_pins;
  // After facing the wood's top is the face itself.
  if (top_ < -side_.setup.to_work.shift.z) op.touches = op.under_nut = [z = top_](Vec2) { return z; };
  return op;
}

const Cutter* BodySides::reaching(const std::string& id, double depth) const {
  const Cutter* c = cutter(id);
  if (c != nullptr && c->cutting_length + 0.01 >= depth && c->stickout > depth + 1) return c;
  const Cutter* deep = cutter(w_.deep_cutter);
  return deep != nullptr ? deep : c;
}

void BodySides::front() {
  begin("front", "Front", d_->front);
  pins(d_->blank.thickness);
  if (w_.face_off > 0 && cutter(w_.facing_cutter) != nullptr) {
    const Vec2 half{d_->blank.length / 2, d_->blank.width / 2};
    add("facing", "Facing to thickness", w_.facing_cutter,
        Face{d_->blank_middle - half, d_->blank_middle + half, w_.face_off, 0}, "body.facing_cutter",
        {"body.face_off", "body.facing_cutter"});
    top_ = 0;
  }
  if (w_.outline_when == OutlineWhen::first) outline_first();
  cavities(false);
  holes(false);
  outline(false);
  carve(false);
  edge(false);
  align();
  if (w_.outline == OutlineSchool::halves)
    side_.after = {"The flat back stays the reference until the body is turned; only then are its edges rounded."};
}

void BodySides::back() {
  begin("back", "Back", d_->back);
  if (w_.back_off > 0 && cutter(w_.facing_cutter) != nullptr) {
    const Vec2 half{d_->blank.length / 2, d_->blank.width / 2};
    const Vec2 middle = turned(turn_, d_->blank_middle);
    add("facing-back", "Facing the back to thickness", w_.facing_cutter,
        Face{middle - half, middle + half, s_.thickness + w_.back_off, s_.thickness}, "body.facing_cutter",
        {"body.back_off", "body.facing_cutter"});
    top_ = s_.thickness;
  }
  cavities(true);
  holes(true);
  carve(true);
  edge(true);
  outline(true);
  align();
}

OutlinePlan body_outline_plan(const BodyWork& w, const Materials& layers) {
  OutlinePlan plan;
  plan.through = w.through;
  plan.climb = true;
  plan.skim = w.skim;
  plan.tab_length = w.tab_length;
  plan.tab_height = w.tab_height;
  if (w.grain == GrainWay::thin && has_grain(layers) && w.thin_skim < w.skim) plan.thin = w.thin_skim;
  return plan;
}

Pieces body_pieces(const Project& project, const BodyDesign& design) { return BodySides(project, design).run(); }

}  // namespace wren

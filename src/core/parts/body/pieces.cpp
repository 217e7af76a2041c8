// What is cut of a body: layer by layer on the same pins, then the glued body from both sides, and what the saw left.
#include <algorithm>
#include <memory>
#include <utility>

#include <fmt/format.h>

#include "core/cutting/choose.hpp"
#include "core/parts/body/ears.hpp"
#include "core/parts/body/layers.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/body/registers.hpp"
#include "core/parts/body/target.hpp"
#include "core/skin/grids.hpp"

namespace wren {
namespace {

constexpr double coarse_cell = 0.5;  // mm, roughing grids of carves
constexpr double fine_cell = 0.25;   // mm, finishing grids: contacts are exact, the grid guards
constexpr double groove_past = 0.5;  // mm: how far the two halves of an outline overlap

std::string mm(double v) { return format_mm(v, 2) + " mm"; }

/// Connected runs of stations: where a piece has horns, each by itself.
template <class Wanted>
std::vector<std::vector<Station>> chains(const Polygon& outline, double apart, const Wanted& wanted) {
  const Box2 box = bounds(outline);
  // Rows follow both ends of a run's stations: where an end jumps, rows would be drawn aslant over what lies between.
  const double jump = 3 * apart;
  struct Open {
    std::vector<Station> run;
    bool touched = false;
  };
  std::vector<Open> open;
  std::vector<std::vector<Station>> done;
  for (double x = box.low.x - 3; x <= box.high.x + 3; x += apart) {
    std::vector<Station> here;
    // In steps across, the intervals where something is to be cut.
    constexpr double nothing = -1e9;
    double from = nothing;
    // Well past what is wanted, so that every interval ends before the line does.
    for (double y = box.low.y - 4.5; y <= box.high.y + 4.5; y += 0.5) {
      const bool in = wanted(Vec2{x, y});
      if (in && from == nothing) from = y;
      if (!in && from != nothing) {
        if (y - from > 1.2) here.push_back({x, from, y - 0.5});
        from = nothing;
      }
    }
    for (Open& o : open) o.touched = false;
    for (const Station& s : here) {
      Open* best = nullptr;
      for (Open& o : open)
        if (!o.touched && o.run.back().high > s.low && o.run.back().low < s.high &&
            std::abs(o.run.back().low - s.low) < jump && std::abs(o.run.back().high - s.high) < jump)
          best = &o;
      if (best == nullptr) {
        open.push_back({});
        best = &open.back();
      }
      best->run.push_back(s);
      best->touched = true;
    }
    for (std::size_t i = open.size(); i-- > 0;)
      if (!open[i].touched) {
        done.push_back(std::move(open[i].run));
        open.erase(open.begin() + static_cast<std::ptrdiff_t>(i));
      }
  }
  for (Open& o : open) done.push_back(std::move(o.run));
  // A run goes on for half a station past its ends: where one run ends and others begin they meet there.
  for (auto& run : done) {
    const Station first = run.front();
    const Station last = run.back();
    run.insert(run.begin(), {first.x - apart / 2, first.low, first.high});
    run.push_back({last.x + apart / 2, last.low, last.high});
  }
  return done;
}

class BodySides {
 public:
  BodySides(const Project& p, const BodyDesign& d)
      : w_(body_of(p).work), d_(std::make_shared<const BodyDesign>(d)), s_(d_->shape) {}

  Pieces run() {
    const auto made = std::make_shared<const Makeable>(w_, *d_);
    if (s_.layers.size() > 1)
      for (std::size_t k = 0; k < s_.layers.size(); ++k) layer(k, made);
    Piece whole{"body", s_.layers.size() > 1 ? "The glued body, both sides" : "The body, both sides", {}, 0.2, false,
                {}};
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

 private:
  [[nodiscard]] const Cutter* cutter(const std::string& id) const { return find_cutter(d_->rack, id); }

  void keep(Piece piece) {
    if (std::any_of(piece.sides.begin(), piece.sides.end(), [](const Side& s) { return !s.operations.empty(); }))
      out_.pieces.push_back(std::move(piece));
  }

  void begin(std::string id, std::string title, const Setup& setup) {
    side_ = {};
    side_.id = std::move(id);
    side_.title = std::move(title);
    side_.setup = setup;
    side_.zero = zero_words(setup.blank, zero_place(w_.alignment.school));
    side_.seat = seat_words(setup, school_name(w_.alignment.school));
    side_.clamps_key = "body.clamps";
    side_.reach_slack = 1.2;
    side_.wood = d_->woods.front();
    for (const Material& w : d_->woods)  // the hardest layer decides what the glued body bears
      if (w.cutting_force > side_.wood.cutting_force) side_.wood = w;
    turn_ = setup.turn;
    top_ = -setup.to_work.shift.z;
  }

  /// How the wood comes to its place: bored here for its pins, onto pins that stand, or turned over.
  void align() {
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
    for (const auto& s : alignment_steps(side_.setup, w_.alignment, seating)) side_.alignment.push_back({s});
  }

  Operation& add(std::string id, std::string title, const std::string& cutter, Shape shape, const char* key,
                 std::vector<std::string> keys) {
    side_.operations.push_back({std::move(id), std::move(title), cutter, std::move(shape), key, std::move(keys)});
    Operation& op = side_.operations.back();
    if (std::exchange(after_pins_, false)) op.stop_before = set_the_pins;
    // After facing the wood's top is the face itself.
    if (top_ < -side_.setup.to_work.shift.z) op.touches = op.under_nut = [z = top_](Vec2) { return z; };
    return op;
  }

  /// The clearing cutter where it reaches, else the deep one.
  [[nodiscard]] const Cutter* reaching(const std::string& id, double depth) const {
    const Cutter* c = cutter(id);
    if (c != nullptr && c->cutting_length + 0.01 >= depth && c->stickout > depth + 1) return c;
    const Cutter* deep = cutter(w_.deep_cutter);
    return deep != nullptr ? deep : c;
  }
  [[nodiscard]] double side_z(double body_z) const { return turned_z(turn_, body_z); }

  // ---- pins and layers

  void pins(double thickness) {
    if (w_.alignment.school != School::pins) return;
    const Cutter* c = reaching(w_.clear_cutter, thickness + 1);
    if (c == nullptr) return;
    Holes holes;
    for (const Vec2 at : {d_->pins.first, d_->pins.second})
      holes.holes.push_back({"pin's hole", at, w_.alignment.pin_diameter, top_,
                             top_ - thickness - std::min(1.0, w_.alignment.pin_depth)});
    const bool again = side_.id == "front" && s_.layers.size() > 1;
    add("pins", again ? "Pin holes, bored again through the glued body" : "Pin holes through the waste", c->id,
        std::move(holes), "body.deep_cutter", {"body.pin_diameter", "body.pin_depth", "body.deep_cutter"})
        .check = {{"Pins {} push in by hand and do not rock.", {w_.alignment.pin_diameter}}};
    after_pins_ = true;
  }

  void layer(std::size_t k, const std::shared_ptr<const Makeable>& made) {
    const LayerPlace& l = s_.layers[k];
    const bool below = d_->worked_below(k);
    begin(fmt::format("layer-{}", k + 1), fmt::format("Layer '{}', its top up", l.layer.name), d_->layers[k]);
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
      begin(fmt::format("layer-{}-under", k + 1), fmt::format("Layer '{}', turned over", l.layer.name), d_->under[k]);
      side_.wood = d_->woods[k];
      layer_cavities(k, true);
      if (oversize) oversize_cut(k);
      if (k + 1 == s_.layers.size()) glue_up();
      align();
      piece.title = fmt::format("Layer '{}', both sides", l.layer.name);
      piece.sides.push_back(std::move(side_));
    }
    piece.target = [w = w_, d = d_, made, k](PieceRequest& r) { layer_target(w, d, made, k, r); };
    piece.measured = {fmt::format("body.layer_{}", k + 1)};
    keep(std::move(piece));
  }

  void glue_up() {
    side_.after.push_back(
        fmt::format("Glue-up: mask wire channels and the places of post and pickup holes, glue on both faces, {}, "
                    "cauls over the whole face; leave it a day.",
                    glue_register()));
    side_.after.push_back(
        "A top of two mirror halves is joined before: shoot both edges together, the join on the centre "
        "line.");
  }

  /// A layer's share of the cavities, from one of its faces.
  void layer_cavities(std::size_t k, bool from_below) {
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

  /// Round along a window's walls, what is inside held by tabs.
  void window(const LayerCut& cut, const Cavity& c, double thick) {
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
    Operation& op =
        add(c.id, c.title + ", round its plug", k->id, Outline{round, std::move(plan), true}, "body.outline_cutter",
            {"body.plugs", "body.outline_cutter", "body.tab_length", "body.tab_height", "body.through"});
    op.caution = {{"Hands off the plug while the spindle turns; it is taken out by hand once the machine stands."}};
    op.ways_out = {{"Clear the window away", {{"body.plugs", "no"}}}};
  }

  /// The top by itself, larger than the body, with tabs; it is glued on and goes flush with the body's own outline
  /// later.
  void oversize_cut(std::size_t k) {
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

  // ---- what an oversize top is found by

  [[nodiscard]] bool oversize_top() const { return w_.top_oversize > 0 && s_.layers.size() > 1; }

  [[nodiscard]] std::string glue_register() const {
    if (!oversize_top() || w_.top_register == TopRegister::ears)
      return w_.alignment.school == School::pins ? "pins through all layers as register"
                                                 : "the layers' ticks in line on all four edges";
    if (w_.top_register == TopRegister::lines)
      return "the top's ticks on the centre line and the scale line of the layer under it, looked at from all four "
             "sides";
    return fmt::format("pins of {} through the top's two small holes into those of the layer under it",
                       mm(w_.register_hole));
  }

  /// Two small holes through the top and into the layer under it, in wood that goes; or ticks where centre line and
  /// scale line leave the body.
  void register_cut(std::size_t k) {
    const auto marks = register_marks(w_, *d_, k);
    if (w_.top_register == TopRegister::holes) {
      const Cutter* drill = drill_in_use(d_->rack, w_.register_hole);
      if (drill == nullptr || marks.size() < 2) {
        if (k > 0) return;
        out_.remarks.push_back(
            {"body.register_hole",
             Weight::stop,
             drill == nullptr
                 ? fmt::format("No drill of the rack is thin enough for register holes of {}.", mm(w_.register_hole))
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
        side_.after.push_back(fmt::format("Register hole at x {}, y {} from the body's middle: a later cut takes it.",
                                          mm(m.a.x), mm(m.a.y)));
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

  // ---- cavities

  struct Cleared {
    const Region& region;  // body plan
    const std::string& id;
    const std::string& title;
  };
  /// `floor` is a side z over side places.
  void clear(const Cleared& c, double top, const Height& floor, double lowest, double slope, bool finish) {
    ClearPlan plan;
    plan.region = turned(turn_, c.region);
    plan.top = top;
    plan.floor = floor;
    plan.lowest_floor = lowest;
    plan.slope = slope;
    plan.step = w_.step;
    plan.leave_wall = w_.wall_skim;
    plan.leave_floor = w_.floor_skim;
    plan.finish = finish;
    Operation& op = add(c.id, c.title, w_.clear_cutter,
                        Clear{std::move(plan), w_.deep_cutter, w_.fine_cutter, top_, turned(turn_, s_.corners), edge_},
                        "body.clear_cutter",
                        {"body.clear_cutter", "body.deep_cutter", "body.fine_cutter", "body.step", "body.wall_skim",
                         "body.floor_skim"});
    if (c.id.starts_with("pocket")) {
      op.before = {{"Measure the neck's heel once more: width, thickness with board, length."}};
      op.check = {
          {"The heel pushes in by hand, lies flat on the floor, and both straightedges meet the bridge alike."}};
    } else if (c.id.starts_with("pickup")) {
      op.check = {{"Each pickup drops in with room for the finish."}};
    } else if (c.id.starts_with("control")) {
      op.check = {{"A potentiometer's bushing comes through with {} of wood; the switch has its depth.",
                   {s_.given.controls.bushing_left}}};
    } else if (c.id.starts_with("chamber")) {
      op.caution = {{"Long cuts make heat and dust: extraction on, and never leave the machine alone."}};
    }
  }

  void cavities(bool from_back) {
    // Ledges before what is let into them, shallow before deep.
    std::vector<const Cavity*> order;
    for (const Cavity& c : s_.cavities)
      if (c.layer < 0 && !c.by_layer && c.from_back == from_back) order.push_back(&c);
    std::stable_sort(order.begin(), order.end(),
                     [&](const Cavity* a, const Cavity* b) { return side_z(a->floor) > side_z(b->floor); });
    for (const Cavity* c : order) {
      double top = top_;
      // What lies wholly within another cavity begins on its floor.
      for (const Cavity* o : order)
        if (o != c && o->group == c->group && side_z(o->floor) > side_z(c->floor) + 1e-6 &&
            area(subtracted(c->region, o->region)) < 0.01)
          top = std::min(top, side_z(o->floor));
      const Height floor = [d = d_, k = c - s_.cavities.data(), turn = turn_](Vec2 q) {
        return turned_z(turn, d->shape.cavities[static_cast<std::size_t>(k)].floor_at(turned(turn, q)));
      };
      edge_ = c->round > 0 ? w_.floor_cutter : std::string();
      double lowest = 1e9;
      for (const Polygon& ring : c->region)
        for (const Vec2 q : ring) lowest = std::min(lowest, floor(turned(turn_, q)));
      const double slope = c->slope * (turn_ == Turn::about_width ? -1 : 1) * (from_back ? -1 : 1);
      clear({c->region, c->id, c->title}, top, floor, c->slope != 0 ? lowest : side_z(c->floor), slope, true);
    }
    edge_.clear();
  }

  // ---- holes

  /// Those that are drilled with the body, or those that are held back.
  void holes(bool from_back, bool held = false) {
    struct Group {
      const Cutter* cutter;
      std::string kind;
      std::string title;
      Holes shape;
    };
    std::vector<Group> groups;
    const auto into = [&](const Cutter& c, const BodyHole& h) -> Holes& {
      const std::string kind = h.id.substr(0, h.id.rfind('-')) + (from_back ? "-back" : "");
      for (Group& g : groups)
        if (g.cutter == &c && g.kind == kind) return g.shape;
      groups.push_back({&c, kind, h.title + (h.drilled ? ", pecked" : ", bored"), {}});
      return groups.back().shape;
    };
    // The outer two of a row first: they show whether the drill wanders.
    std::vector<const BodyHole*> order;
    for (const BodyHole& h : s_.holes)
      if (held_back(w_, h) == held && (h.id.starts_with("string") || h.from_back == from_back)) order.push_back(&h);
    std::stable_sort(order.begin(), order.end(),
                     [&](const BodyHole* a, const BodyHole* b) { return rank(*a) < rank(*b); });
    for (const BodyHole* h : order) {
      double from = top_;
      if (h->from_back == from_back && h->from != 0 && from_back) from = std::min(from, side_z(h->from));
      double bottom = side_z(h->from) - h->depth;
      if (h->id.starts_with("string")) {
        if (from_back) from = side_z(-s_.thickness + s_.given.bridge.ferrule_depth);
        bottom = side_z(-s_.thickness / 2) - 1;  // the two halves meet
      } else if (h->id.starts_with("bolt")) {
        const Cavity* pocket = s_.cavity("pocket");
        if (s_.given.setup.bolt_sink_depth > 0) from = side_z(-s_.thickness + s_.given.setup.bolt_sink_depth);
        bottom = pocket != nullptr ? side_z(pocket->floor_at(h->at)) - 0.6 : side_z(0);
      } else if (!from_back) {
        from = top_;
      }
      const Cutter* c = nullptr;
      if (h->drilled) {
        c = drill_in_use(d_->rack, h->diameter);
        if (c == nullptr)
          out_.remarks.push_back(
              {"body.drill_missing",
               Weight::stop,
               fmt::format("No drill of the rack is thin enough for '{}' ({}).", h->title, mm(h->diameter)),
               h->diameter,
               0,
               "mm",
               "the rack",
               "body.peck",
               {},
               {},
               {}});
        else if (c->effective_diameter() < h->diameter - 0.35)
          note_thin(*c, *h);
      } else {
        c = reaching(w_.clear_cutter, from - bottom);
        if (c != nullptr && c->effective_diameter() > h->diameter + 0.005) c = cutter(w_.fine_cutter);
      }
      if (c == nullptr) continue;
      Holes& shape = into(*c, *h);
      if (h->drilled) shape.peck = std::max(1.0, w_.peck);
      shape.holes.push_back({h->title, turned(turn_, h->at), h->diameter, from, bottom});
    }
    // Few changes of cutter: cuts with the same one after each other, bores before drills.
    std::stable_sort(groups.begin(), groups.end(), [](const Group& a, const Group& b) {
      return a.cutter->kind == b.cutter->kind ? a.cutter->effective_diameter() > b.cutter->effective_diameter()
                                              : a.cutter->kind < b.cutter->kind;
    });
    for (Group& g : groups) {
      const bool drilled = g.shape.peck > 0;
      Operation& op =
          add(g.kind, g.title, g.cutter->id, std::move(g.shape), drilled ? "body.peck" : "body.clear_cutter",
              drilled ? std::vector<std::string>{"body.peck"}
                      : std::vector<std::string>{"body.clear_cutter", "body.deep_cutter"});
      if (drilled) op.touches = [](Vec2) { return -1e300; };  // its flutes bring the chips up in pecks
      if (g.kind.starts_with("string"))
        op.check = {
            {"The first two holes, the outer ones, meet those from the other side: look before the inner ones "
             "are drilled."}};
    }
  }

  [[nodiscard]] int rank(const BodyHole& h) const {
    if (!h.id.starts_with("string") && !h.id.starts_with("ferrule")) return 0;
    const auto n = static_cast<int>(s_.setup.strings.size());
    const auto i = static_cast<int>(std::strtol(h.id.c_str() + h.id.rfind('-') + 1, nullptr, 10));
    return i == 1 || i == n ? 1 : 2;
  }

  void note_thin(const Cutter& drill, const BodyHole& h) {
    for (const Remark& r : out_.remarks)
      if (r.kind == "body.drill_thin" && r.sentence.find(h.title) != std::string::npos) return;
    out_.remarks.push_back({"body.drill_thin",
                            Weight::worth_knowing,
                            fmt::format("'{}' drills '{}' {} wide where {} are asked for: open them by hand, or put "
                                        "the right drill into the rack.",
                                        drill.id, h.title, mm(drill.effective_diameter()), mm(h.diameter)),
                            drill.effective_diameter(),
                            h.diameter,
                            "mm",
                            "the rack",
                            "body.peck",
                            {},
                            {},
                            {}});
  }

  // ---- carves and edges

  void carve(bool from_back) {
    if (from_back ? !s_.carved_back() : !s_.carved_face()) return;
    const Cutter* rough = cutter(w_.rough_cutter);
    if (rough == nullptr || cutter(w_.finish_cutter) == nullptr) return;
    const Height surface = [d = d_, turn = turn_, from_back](Vec2 q) {
      const Vec2 p = turned(turn, q);
      return turned_z(turn, from_back ? d->shape.carved_bottom(p) : d->shape.carved_top(p));
    };
    const double flat_z = side_z(from_back ? -s_.thickness : 0);
    const Polygon outline = turned(turn_, s_.corners);
    const RegionMask near(offset({outline}, 3.2), 1.0);
    const auto wanted = [&](Vec2 q) { return near.holds(q) && surface(q) < flat_z - 0.004; };
    // The box that holds everything lower than the flat.
    Box2 box;
    const Box2 all = bounds(outline);
    for (double y = all.low.y - 3; y <= all.high.y + 3; y += 2)
      for (double x = all.low.x - 3; x <= all.high.x + 3; x += 2)
        if (wanted({x, y})) box.add({x, y});
    if (box.low.x > box.high.x) return;
    const MakeGrid plain = [surface, box](double cell) {
      const Vec2 margin{9, 9};
      return grid_over(box.low - margin, box.high + margin, cell, {}, [&](Vec2 q, bool) { return surface(q); });
    };
    const auto cut_to = std::make_shared<const RegionMask>(offset({outline}, 2.0 + rough->radius()), 1.0);
    const MakeGrid target = [plain, cut_to, flat_z, leave = w_.rough_leave](double cell) {
      const TileGrid base = plain(cell);
      TileGrid grid = base;
      // On coarse cells what is left must stand sideways too.
      const int aside = static_cast<int>(std::ceil((cell / 2 + 0.8 * leave) / cell));
      fill_cells(grid, [&](int i, int j) {
        if (!cut_to->holds(base.centre(i, j))) return flat_z;
        double z = static_cast<double>(base.at(i, j));
        for (const auto& [di, dj] :
             {std::pair{aside, 0}, std::pair{-aside, 0}, std::pair{0, aside}, std::pair{0, -aside}})
          if (base.holds(i + di, j + dj)) z = std::max(z, static_cast<double>(base.at(i + di, j + dj)));
        z = std::min(flat_z, z + leave);
        return z > flat_z - 0.25 ? flat_z : z;
      });
      return grid;
    };
    const MakeGrid stock = [target, flat_z](double cell) {
      TileGrid grid = target(cell);
      fill(grid, [&](Vec2) { return flat_z; });
      return grid;
    };
    const Words caution{"Long cuts make heat and dust: extraction on, and never leave the machine alone."};
    const auto followed = [](Operation& op) { op.touches = [](Vec2) { return -1e300; }; };
    Operation& first = add(from_back ? "carve-rough-back" : "carve-rough",
                           from_back ? "Back, roughing the carve" : "Face, roughing the carve", w_.rough_cutter,
                           Rough{target, stock, coarse_cell, flat_z, {}}, "body.rough_cutter",
                           {"body.rough_cutter", "body.rough_leave"});
    first.caution = {caution};
    followed(first);
    Finish shape;
    shape.surface = surface;
    shape.grid = plain;
    shape.cell = fine_cell;
    shape.runs = chains(outline, 1.0, wanted);
    shape.leave = w_.rough_leave;
    shape.plan.scallop = w_.scallop;
    shape.plan.sample = 0.4;
    shape.plan.wood_top = flat_z;
    shape.plan.bend = 0;
    Operation& fine =
        add(from_back ? "carve-back" : "carve", from_back ? "Back, finishing the carve" : "Face, finishing the carve",
            w_.finish_cutter, std::move(shape), "body.finish_cutter", {"body.finish_cutter", "body.scallop"});
    fine.caution = {caution};
    followed(fine);
  }

  void edge(bool from_back) {
    const ComfortNumbers& c = s_.given.comfort;
    const double radius = from_back ? c.round_back : c.round_face;
    if (radius <= 0) return;
    const bool carved = from_back ? s_.carved_back() : s_.carved_face();
    const bool form = c.round_by_form && !carved;
    const Cutter* k = cutter(form ? w_.round_cutter : w_.finish_cutter);
    if (k == nullptr) return;
    EdgePlan plan;
    plan.outline = turned(turn_, s_.outline);
    plan.radius = radius;
    // Beside the outline there is only waste: the ball's tip goes down there until its flank stands against the wall.
    plan.surface = [d = d_, turn = turn_, from_back](Vec2 q) {
      const Vec2 p = turned(turn, q);
      return d->shape.inside->holds(p) ? turned_z(turn, from_back ? d->shape.bottom(p) : d->shape.top(p)) : -1e9;
    };
    plan.top = side_z(from_back ? -s_.thickness : 0);
    plan.scallop = w_.scallop;
    // As far as a carve, a bevel or a belly really falls at the edge: where the outline bulges they go on falling.
    double fall = 0;
    for (const Vec2 p : s_.corners)
      fall = std::max(fall, plan.top - side_z(from_back ? s_.carved_bottom(p) : s_.carved_top(p)));
    plan.lowest = plan.top - fall - (carved ? 0.5 : 0) - radius - k->radius();
    Operation& op = add(from_back ? "round-back" : "round", from_back ? "Back's edge, rounded" : "Face's edge, rounded",
                        k->id, RoundEdge{std::move(plan), form}, "body.round_cutter",
                        {"body.round_face", "body.round_back", "body.round_by_form", "body.finish_cutter",
                         "body.round_cutter", "body.scallop"});
    op.touches = [](Vec2) { return -1e300; };
  }

  // ---- outline

  static std::vector<std::string> outline_keys() {
    return {"body.outline_when",   "body.first_tab_length", "body.first_tab_height",
            "body.outline_school", "body.outline_cutter",   "body.skim",
            "body.grain",          "body.thin_skim",        "body.tabs",
            "body.tab_length",     "body.tab_height",       "body.through",
            "body.guide_depth",    "body.guide_leave",      "body.ear_width",
            "body.ears_off",       "body.top_oversize",     "body.top_register",
            "body.register_hole"};
  }
  void outline_words(Operation& op) const {
    op.caution = {{"Check pins, clamps and tabs before this one: a free body meets a turning cutter and flies."}};
    if (turn_ != Turn::none) op.check = {{fmt::format("{} tabs hold the body.", d_->tabs.size())}};
    op.ways_out = {{"Cut half the outline from each side", {{"body.outline_school", "halves"}}}};
  }

  /// How far the carved face has fallen under a cutter that goes by at a place of the outline, at most.
  [[nodiscard]] double fallen_at(Vec2 at, double wide) const {
    if (!s_.carved_face()) return 0;
    double deep = 0;
    for (int k = 0; k < 12; ++k) {
      const double a = k * 0.5235987755982988;
      deep = std::max(deep, -s_.carved_top(at + Vec2{std::cos(a), std::sin(a)} * wide));
    }
    return deep;
  }

  /// The last skim in stretches, each in its safer direction: conventional where that runs with the grain, else climb.
  void in_stretches(OutlinePlan& plan, const Contour& contour) const {
    if (w_.grain != GrainWay::safer || !has_grain(d_->woods)) return;
    for (const GrainSpan& g : grain_spans(contour)) plan.stretches.push_back({g.from, g.to, g.run != GrainRun::with});
    if (plan.stretches.size() < 2) plan.stretches.clear();
  }

  /// First of all, in one go from the front: tabs of a stated section under the back hold the body from then on.
  void outline_first() {
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
        {fmt::format("From here on {} tabs, {{}} long and {{}} high, are all that holds the body: none cracked, "
                     "none thinner than drawn. Screws or clamps hold the frame round it.",
                     d_->tabs.size()),
         {w_.first_tab_length, w_.first_tab_height}}};
  }

  [[nodiscard]] double fallen_back_at(Vec2 at, double wide) const {
    if (!s_.carved_back()) return 0;
    double deep = 0;
    for (int k = 0; k < 12; ++k) {
      const double a = k * 0.5235987755982988;
      deep = std::max(deep, s_.carved_bottom(at + Vec2{std::cos(a), std::sin(a)} * wide) + s_.thickness);
    }
    return deep;
  }

  void outline(bool from_back) {
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

  // ---- placements

  void front() {
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

  void back() {
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

  /// The finished body with its neck on, found by its own centre line and scale line: what was held back is drilled
  /// where the real neck shows that it belongs.
  void once_the_neck_is_on(const std::shared_ptr<const Makeable>& made) {
    const bool from_behind = std::any_of(s_.holes.begin(), s_.holes.end(),
                                         [&](const BodyHole& h) { return held_back(w_, h) && h.from_back; });
    static constexpr double over_bed = 1;
    const auto placed = [&](Turn turn, Vec2 zero) {
      Blank b = d_->blank;
      b.zero = ZeroPlace::centre;
      b.clamps.clear();
      b.thickness = s_.thickness;
      const Box2 box = bounds(s_.corners);
      b.length = 2 * std::max(box.high.x - zero.x, zero.x - box.low.x) + 2;
      b.width = 2 * std::max(box.high.y - zero.y, zero.y - box.low.y) + 2;
      AlignmentNumbers a = w_.alignment;
      a.school = School::ticks;
      Setup s = side_setup(d_->front.machine, b, a, zero, turn, turn == Turn::none ? 0 : -s_.thickness);
      Box2 part;
      for (const Vec2 q : s_.corners) part.add(s.to_work.apply(turned(turn, q)));
      s.board_low = {part.low.x, part.low.y, -b.thickness};
      s.board_high = {part.high.x, part.high.y, 0};
      s.wood_top = [made, d = d_, turn](Vec2 q) {
        const Vec2 p = turned(turn, q);
        if (!d->shape.inside->holds(p)) return turn == Turn::none ? -d->shape.thickness : 0.0;
        return turn == Turn::none ? std::max(made->top(p), over_bed - d->shape.thickness)
                                  : std::max(-made->bottom(p), over_bed);
      };
      return s;
    };
    const Vec2 crossing{s_.setup.bridge_middle.x, 0};
    Setup front = placed(Turn::none, crossing);
    neck_stands(front);
    front.found_by = {RegisterKind::lines,
                      {w_.line_error, w_.line_error},
                      w_.line_error / 200,
                      "setting two marks of a line, 400 mm apart, and its crossing under a pointed cutter"};
    begin("bridge", "Bridge and strings, the neck on", front);
    side_.zero = "the crossing of the neck's own centre line and the scale line, z = 0 on the face";
    side_.seat = seat_words(front, "centre line and scale line");
    holes(false, true);
    if (side_.operations.empty()) return;
    side_.operations.front().stop_before = {};
    side_.alignment = {
        {"Screw the neck on, or let its glue set. Lay a straightedge along each of its sides: where both meet the "
         "scale line mark the face (on tape); the middle of the two marks and the middle of the neck are the centre "
         "line. "
         "Equal distances at both sides mean it is centred.",
         {}},
        {"Lay the body on the bed, face up, on something soft, the neck out over it; turn it until the line's two ends "
         "lie under the same y (or x) of a pointed cutter; clamp it at its edges, away from the bridge."},
        {"Set x and y to zero at the crossing of the centre line and the scale line, {} from the nut along the "
         "strings' middle.",
         {s_.neck->board->strings.front().scale / 2 + s_.neck->board->strings.back().scale / 2}}};
    std::vector<Side> sides;
    if (from_behind)
      side_.after.push_back(
          "The strings' holes go on from behind: drill the outer two on through by hand, square to the face, so that "
          "they show there.");
    sides.push_back(std::move(side_));
    if (from_behind) {
      const auto first =
          std::find_if(s_.holes.begin(), s_.holes.end(), [](const BodyHole& h) { return h.id == "string-1"; });
      const Turn turn = w_.alignment.turn;
      Setup back = placed(turn, first != s_.holes.end() ? first->at : crossing);
      back.found_by = {RegisterKind::hole,
                       {w_.line_error, w_.line_error},
                       w_.line_error / 50,
                       "the outer two string holes, each found with a drill of their own width"};
      begin("bridge-back", "Ferrules from behind, the neck on", back);
      side_.zero = "the bass string's hole, z = 0 on the back";
      side_.seat = seat_words(back, "the outer two string holes");
      holes(true, true);
      side_.alignment = {
          {"Turn the body over, its face on blocks more than {} thick so that board and frets hang free; nothing "
           "presses on the neck.",
           {s_.setup.board_over_face + s_.neck->board->given.board.thickness +
            s_.neck->board->given.frets.crown_height}},
          {"Lower a drill of the holes' width into both outer string holes; turn the body until they lie in the "
           "machine's line; set x and y to zero in the bass string's."}};
      sides.push_back(std::move(side_));
    }
    Piece piece{"bridge", "Bridge and strings, the neck on", std::move(sides), 0.2, false, {}, {}};
    for (const Piece& p : out_.pieces)
      if (p.id == "body" || p.id == "skim") piece.after.push_back(p.id);
    piece.waits_for = {"body.hand.neck-on"};
    piece.target = [w = w_, d = d_, made](PieceRequest& r) { held_target(w, *d, made, r); };
    keep(std::move(piece));
  }

  /// The neck with its board, over the body and beyond: nothing may come near it.
  void neck_stands(Setup& s) const {
    Box2 over;
    for (const Polygon* part : {&s_.neck->corners, &s_.neck->board->corners})
      for (const Vec2 q : *part) {
        const Vec3 p = s_.setup.frame.to_body({q.x, q.y, 0});
        if (p.x > s_.edge_middle.x - 120) over.add({p.x, p.y});
      }
    const double high = std::max(s_.setup.board_over_face, s_.setup.board_end_over_face) +
                        s_.neck->board->given.board.thickness + s_.neck->board->given.frets.crown_height + 2;
    const Vec2 a = s.to_work.apply(over.low);
    const Vec2 b = s.to_work.apply(over.high);
    s.standing.push_back({"neck",
                          {std::min(a.x, b.x), std::min(a.y, b.y), s.bed_z()},
                          {std::max(a.x, b.x), std::max(a.y, b.y), s.to_work.apply_z(high)},
                          true});
  }

  /// The body sawn out beside its groove, back on its pins by its ears, its back up: the last skim at full depth, and
  /// the ears last of all.
  void sawn(const std::shared_ptr<const Makeable>& made) {
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
    op.stop_before = fmt::format(
        "Saw the body out beside the groove, {} outside the line, an ear {} wide left standing at either end out to "
        "the "
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
    std::vector<double> lengths{w_.ear_width};
    if (screwed) lengths.push_back(screw_aside);
    side_.alignment = {{(school == School::pins
                             ? "Saw the body out beside its groove and leave both ears standing, {} wide, with their "
                               "pin holes; lower it onto the same two pins, back up, "
                             : "Saw the body out beside its groove and leave both ears standing, {} wide, with the "
                               "ticks on their ends; set those on the same lines, back up, ") +
                            hold + ".",
                        lengths},
                       {"Keep the same zero."}};
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

  const BodyWork w_;
  std::shared_ptr<const BodyDesign> d_;
  const BodyShape& s_;
  Side side_;
  Turn turn_ = Turn::none;
  double top_ = 0;
  std::string edge_;         // the cutter that rounds a floor's edge; empty: it stays square
  bool after_pins_ = false;  // the next cut waits for the hand that sets them
  Pieces out_;
};

}  // namespace

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

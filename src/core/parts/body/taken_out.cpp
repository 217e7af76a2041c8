// What is taken out of a body: cavities and holes.
#include "core/parts/body/sides.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

namespace wren {

void BodySides::clear(const Cleared& c, double top, const Height& floor, double lowest, double slope, bool finish) {
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
  Operation& op = add(
      c.id, c.title, w_.clear_cutter,
      Clear{std::move(plan), w_.deep_cutter, w_.fine_cutter, top_, turned(turn_, s_.corners), edge_},
      "body.clear_cutter",
      {"body.clear_cutter", "body.deep_cutter", "body.fine_cutter", "body.step", "body.wall_skim", "body.floor_skim"});
  if (c.id.starts_with("pocket")) {
    op.before = {{"Measure the neck's heel once more: width, thickness with board, length."}};
    op.check = {{"The heel pushes in by hand, lies flat on the floor, and both straightedges meet the bridge alike."}};
  } else if (c.id.starts_with("pickup")) {
    op.check = {{"Each pickup drops in with room for the finish."}};
  } else if (c.id.starts_with("control")) {
    op.check = {{"A potentiometer's bushing comes through with {} of wood; the switch has its depth.",
                 {s_.given.controls.bushing_left}}};
  } else if (c.id.starts_with("chamber")) {
    op.caution = {{"Long cuts make heat and dust: extraction on, and never leave the machine alone."}};
  }
}

void BodySides::cavities(bool from_back) {
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

/// The way out where a drill's flutes are shorter than its deepest hole: the same one, longer.
void BodySides::longer_drill(Operation& op, const Cutter& drill) {
  double deep = 0;
  for (const Holes::One& h : std::get<Holes>(op.shape).holes) deep = std::max(deep, h.top - h.bottom);
  const double flutes = std::ceil(deep + drill.profile(1.0) * drill.radius() + 1);
  if (flutes > drill.cutting_length)
    op.ways_out.push_back({worded("Take a longer drill: {} of flutes", mm(flutes, 0)),
                           {{"rack." + drill.id + ".cutting_length", format_mm(flutes, 0)},
                            {"rack." + drill.id + ".stickout", format_mm(std::max(drill.stickout, flutes + 4), 0)}}});
}

void BodySides::holes(bool from_back, bool held) {
  struct Group {
    const Cutter* cutter;
    std::string kind;
    Words title;
    Holes shape;
  };
  std::vector<Group> groups;
  const auto into = [&](const Cutter& c, const BodyHole& h) -> Holes& {
    const std::string kind = h.id.substr(0, h.id.rfind('-')) + (from_back ? "-back" : "");
    for (Group& g : groups)
      if (g.cutter == &c && g.kind == kind) return g.shape;
    groups.push_back({&c, kind, worded(h.drilled ? "{}, pecked" : "{}, bored", Words(h.title)), {}});
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
        out_.remarks.push_back({"body.drill_missing",
                                Weight::stop,
                                worded("No drill of the rack is thin enough for '{}' ({}).", h->title, mm(h->diameter)),
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
    Operation& op = add(g.kind, g.title, g.cutter->id, std::move(g.shape), drilled ? "body.peck" : "body.clear_cutter",
                        drilled ? std::vector<std::string>{"body.peck"}
                                : std::vector<std::string>{"body.clear_cutter", "body.deep_cutter"});
    if (drilled) longer_drill(op, *g.cutter);
    if (g.kind.starts_with("string"))
      op.check = {
          {"The first two holes, the outer ones, meet those from the other side: look before the inner ones "
           "are drilled."}};
  }
}

int BodySides::rank(const BodyHole& h) const {
  if (!h.id.starts_with("string") && !h.id.starts_with("ferrule")) return 0;
  const auto n = static_cast<int>(s_.setup.strings.size());
  const auto i = static_cast<int>(std::strtol(h.id.c_str() + h.id.rfind('-') + 1, nullptr, 10));
  return i == 1 || i == n ? 1 : 2;
}

void BodySides::note_thin(const Cutter& drill, const BodyHole& h) {
  for (const Remark& r : out_.remarks)
    if (r.kind == "body.drill_thin" && r.sentence.find(h.title) != std::string::npos) return;
  out_.remarks.push_back(
      {"body.drill_thin",
       Weight::worth_knowing,
       worded(
           "'{}' drills '{}' {} wide where {} are asked for: open them by hand, or put the right drill into the rack.",
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

}  // namespace wren

#include "core/parts/body/layers.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/parts/body/ears.hpp"
#include "core/parts/body/registers.hpp"

namespace wren {
namespace {

constexpr double same = 0.01;         // mm: heights nearer than this are one
constexpr double skin_least = 1.0;    // mm of wood between a cavity and a joint, or a face
constexpr double plug_least = 30;     // mm either way: less is quicker cleared away
constexpr double off_the_wall = 1.5;  // mm of a plug's corner tighter than its cutter leaves

/// The cutter of outlines, or the long one where that does not reach through a layer.
const Cutter* window_cutter(const BodyWork& w, const BodyDesign& d, double deep) {
  const Cutter* c = find_cutter(d.rack, w.outline_cutter);
  if (c != nullptr && c->cutting_length + 0.01 >= deep && c->stickout > deep + 1) return c;
  const Cutter* other = find_cutter(d.rack, w.deep_cutter);
  return other != nullptr ? other : c;
}

/// What stands inside a window once a cutter has gone round along its walls, and where tabs hold it; nothing where it
/// is too small, or its corners are tighter than the cutter leaves them.
std::pair<Polygon, std::vector<Vec2>> plug_of(const BodyWork& w, const BodyDesign& d, const Region& window,
                                              double deep) {
  const Cutter* c = window_cutter(w, d, deep);
  if (!w.plugs || c == nullptr || window.size() != 1) return {};
  const double wide = c->effective_diameter();
  const Region inside = offset(window, -wide);
  if (inside.size() != 1) return {};
  const Vec2 size = bounds(inside.front()).size();
  if (size.x < plug_least || size.y < plug_least / 2) return {};
  if (area(window) - area(offset(inside, wide)) > off_the_wall) return {};
  Contour round;
  for (const Vec2 q : inside.front()) round.push_back({q, 0});
  constexpr double apart = 90;  // mm of its edge to a tab: nearer they run into each other
  const int tabs = std::clamp(static_cast<int>(perimeter(round) / apart), 2, 4);
  return {inside.front(), place_body_tabs(round, tabs, {})};
}

}  // namespace

std::vector<LayerCut> layer_cuts(const BodyWork& w, const BodyDesign& d, std::size_t k) {
  const BodyShape& s = d.shape;
  const LayerPlace& l = s.layers[k];
  const double over = k == 0 ? w.face_off : 0;                         // wood still on its top
  const double beneath = k + 1 == s.layers.size() ? w.back_off : 0.0;  // and under it
  std::vector<LayerCut> all;
  for (std::size_t i = 0; i < s.cavities.size(); ++i) {
    const Cavity& c = s.cavities[i];
    LayerCut cut;
    cut.cavity = i;
    cut.region = c.region;
    if (c.layer == static_cast<int>(k)) {
      cut.from = l.top + over;
      // As deep as its layer and deeper it goes right through; the next one is its floor.
      cut.through = c.floor < l.bottom + same;
      cut.floor = cut.through ? l.bottom - beneath : c.floor;
      cut.hidden = true;
      all.push_back(std::move(cut));
      continue;
    }
    if (!c.by_layer) continue;
    const double high = std::min(l.top, c.from_back ? c.floor : 0.0);
    const double low = std::max(l.bottom, c.from_back ? -s.thickness : c.floor);
    if (high - low < same) continue;
    const bool top = high > l.top - same;
    const bool bottom = low < l.bottom + same;
    cut.from_below = bottom && !top;
    cut.through = bottom && top;
    cut.from = cut.from_below ? l.bottom - beneath : l.top + over;
    cut.floor = cut.from_below ? high : cut.through ? l.bottom - beneath : low;
    all.push_back(std::move(cut));
  }
  // Windows that run into each other are one.
  for (std::size_t i = 0; i < all.size(); ++i)
    for (std::size_t j = all.size(); j-- > i + 1;) {
      LayerCut& a = all[i];
      const LayerCut& b = all[j];
      if (!a.through || !b.through || a.hidden != b.hidden || area(intersected(a.region, b.region)) < 0.01) continue;
      if (area(b.region) > area(a.region)) a.cavity = b.cavity;
      a.region = joined(a.region, b.region);
      all.erase(all.begin() + static_cast<std::ptrdiff_t>(j));
      j = all.size();
    }
  std::vector<LayerCut> out;
  for (const LayerCut& c : all) {
    // A window takes all that lies within it; of the rest the deeper one.
    const bool within = std::any_of(all.begin(), all.end(), [&](const LayerCut& o) {
      if (&o == &c || o.hidden || c.hidden || !(o.through || (o.from_below == c.from_below && !c.through)))
        return false;
      const bool deeper = o.through      ? !c.through || &o < &c
                          : c.from_below ? o.floor > c.floor - same
                                         : o.floor < c.floor + same;
      return deeper && area(subtracted(c.region, o.region)) < 0.01;
    });
    if (!within) out.push_back(c);
  }
  for (LayerCut& c : out)
    if (c.through) std::tie(c.plug, c.tabs) = plug_of(w, d, c.region, c.from - c.floor + w.through);
  return out;
}

DesignedStack::DesignedStack(const BodyWork& w, const BodyDesign& d) {
  const auto& layers = d.shape.layers;
  for (std::size_t k = 0; k < layers.size(); ++k) {
    Layer l{layers[k].top + (k == 0 ? w.face_off : 0),
            layers[k].bottom - (k + 1 == layers.size() ? w.back_off : 0),
            {},
            nullptr};
    for (const LayerCut& c : d.cuts[k])
      l.cuts.push_back({std::make_shared<const RegionMask>(c.region), c.floor, c.from_below, c.through});
    if (k == 0 && w.top_oversize > 0 && layers.size() > 1)
      l.kept = std::make_shared<const RegionMask>(Region{oversize_outline(w, d)});
    layers_.push_back(std::move(l));
  }
}

std::pair<double, double> DesignedStack::wood(const Layer& l, Vec2 p) {
  double low = l.bottom;
  double high = l.top;
  if (l.kept && !l.kept->holds(p)) return {low, low};
  for (const Cut& c : l.cuts) {
    if (!c.mask->holds(p)) continue;
    if (c.through) return {low, low};
    if (c.from_below)
      low = std::max(low, c.floor);
    else
      high = std::min(high, c.floor);
  }
  return {low, std::max(low, high)};
}

double DesignedStack::top(Vec2 p, double none) const {
  for (const Layer& l : layers_)
    if (const auto [low, high] = wood(l, p); high > low) return high;
  return none;
}

double DesignedStack::bottom(Vec2 p, double none) const {
  for (std::size_t k = layers_.size(); k-- > 0;)
    if (const auto [low, high] = wood(layers_[k], p); high > low) return low;
  return none;
}

std::vector<Remark> layer_remarks(const BodyDesign& d) {
  std::vector<Remark> out;
  const BodyShape& s = d.shape;
  const auto say = [&](const char* kind, Weight weight, Words text, double number, double limit,
                       std::string place) -> Remark& {
    out.push_back({kind, weight, std::move(text), number, limit, "mm", "geometry", std::move(place), {}, {}, {}});
    return out.back();
  };
  const bool one_piece = s.layers.size() < 2;
  const auto key_of = [](const Cavity& c) {
    return c.group == "control" ? std::string("control.by_layer")
                                : "pickup." + c.group.substr(std::string("pickup-").size()) + ".by_layer";
  };
  bool wanted = s.given.controls.by_layer && s.given.controls.pots > 0;
  for (const PickupNumbers& p : s.given.pickups) wanted = wanted || (p.by_layer && p.name != "none");
  if (wanted && one_piece) {
    Remark& r = say("body.by_layer_alone", Weight::think_again,
                    "Cavities are to be cut layer by layer, and the body is one piece: they are cut whole.", 1, 2,
                    "body.layers");
    r.unit = "";
    r.repair = Repair{"Cut them whole", {}};
    if (s.given.controls.by_layer) r.repair->edits.push_back({"control.by_layer", "no"});
    const char* const which[] = {"neck", "middle", "bridge"};
    for (int k = 0; k < 3; ++k)
      if (s.given.pickups[k].by_layer) r.repair->edits.push_back({fmt::format("pickup.{}.by_layer", which[k]), "no"});
  }
  for (std::size_t k = 0; k < d.cuts.size(); ++k) {
    const LayerPlace& l = s.layers[k];
    for (const LayerCut& c : d.cuts[k])
      if (const Cavity& cavity = s.cavities[c.cavity];
          c.hidden && cavity.id.starts_with("chamber") &&
          std::abs(std::max(cavity.floor, l.bottom) - cavity.floor) > same) {
        Remark& r = say(
            "body.chamber_floor", Weight::worth_knowing,
            worded(
                "Chambers go through layer '{}' and end on the next one: {} are left under them, and {} are asked for.",
                l.layer.name, mm(l.bottom + s.thickness), mm(cavity.floor + s.thickness)),
            l.bottom + s.thickness, cavity.floor + s.thickness, "chamber.floor");
        r.repair = Repair{worded("Leave {}: the layer under them", mm(l.bottom + s.thickness)),
                          {{"chamber.floor", format_mm(l.bottom + s.thickness, 3)}}};
        break;
      }
    for (const LayerCut& c : d.cuts[k]) {
      const Cavity& cavity = s.cavities[c.cavity];
      if (!cavity.by_layer || c.through) continue;
      const double left = c.from_below ? l.top - c.floor : c.floor - l.bottom;
      if (left >= skin_least) continue;
      Remark& r = say(
          "body.layer_skin", Weight::stop,
          worded("Cut layer by layer, '{}' leaves a skin of {} in layer '{}'.", cavity.title, mm(left), l.layer.name),
          left, skin_least, key_of(cavity));
      const Vec2 at = bounds(c.region.front()).middle();
      r.at = std::pair{at.x, at.y};
      // As deep as the joint, the skin goes altogether.
      if (cavity.id == "control")
        r.repair = Repair{worded("Leave {} in front: down to the joint", mm(-l.top)),
                          {{"control.face_left", format_mm(-l.top, 3)}}};
      else if (cavity.group.starts_with("pickup-") && !cavity.id.ends_with("-ears"))
        r.repair = Repair{worded("A cavity {} deep: down to the joint", mm(-l.bottom)),
                          {{"pickup." + cavity.group.substr(7) + ".depth", format_mm(-l.bottom, 3)}}};
      r.others.push_back({"Cut it whole, after the glue-up", {{key_of(cavity), "no"}}});
    }
  }
  return out;
}

}  // namespace wren

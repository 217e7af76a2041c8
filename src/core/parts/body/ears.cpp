#include "core/parts/body/ears.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr double beside_pin = 5;     // mm of wood that an ear has on either side of its pin, at least
constexpr double thinnest_ear = 10;  // mm of wood under what crosses an ear; thinner ones break in the hand

/// Where the outline is met first, coming from the end that `toward` looks from; nothing where it is not met.
std::optional<double> first_met(const Polygon& outline, double y, double toward) {
  std::optional<double> best;
  for (std::size_t i = 0; i < outline.size(); ++i) {
    const Vec2 a = outline[i];
    const Vec2 b = outline[(i + 1) % outline.size()];
    if ((a.y > y) == (b.y > y)) continue;
    const double x = a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y);
    if (!best || x * toward < *best * toward) best = x;
  }
  return best;
}

Polygon rectangle(Vec2 a, Vec2 b) {
  const Vec2 low{std::min(a.x, b.x), std::min(a.y, b.y)};
  const Vec2 high{std::max(a.x, b.x), std::max(a.y, b.y)};
  return {low, {high.x, low.y}, high, {low.x, high.y}};
}

}  // namespace

std::vector<Ear> ears_of(const Polygon& outline, const Blank& blank, Vec2 middle, const AlignmentNumbers& a,
                         const PinPlan& pins, double width) {
  std::vector<Ear> out;
  for (const double side : {-1.0, 1.0}) {
    const Vec2 end{middle.x + side * blank.length / 2, middle.y};
    Ear ear;
    ear.pin = a.school == School::pins ? (side < 0 ? pins.first : pins.second) : end;
    ear.outward = {side, 0};
    ear.width = width;
    ear.end = end.x;
    // As far in as the outline falls back over the ear's width.
    constexpr int places = 16;
    std::optional<double> deepest;
    for (int k = 0; k <= places; ++k) {
      const auto x = first_met(outline, ear.pin.y + width * (static_cast<double>(k) / places - 0.5), -side);
      if (!x) {
        deepest.reset();
        break;
      }
      if (!deepest || *x * side < *deepest * side) deepest = *x;
    }
    ear.meets = deepest.has_value();
    ear.foot = deepest.value_or(middle.x) - side;  // 1 mm into the body, so that they are one
    out.push_back(ear);
  }
  return out;
}

std::optional<Vec2> ear_screw(const Ear& e) {
  constexpr double by = 16;  // mm to the body: an outline cutter's way, what the saw leaves, and room
  if (std::abs(e.pin.x - e.foot) < screw_aside + screw_head / 2 + by) return {};
  return e.pin - e.outward * screw_aside;
}

Polygon ear_strip(const Ear& e, double more) {
  const double half = e.width / 2 + more;
  return rectangle({e.end, e.pin.y - half}, {e.foot, e.pin.y + half});
}

Polygon sawn_shape(const Polygon& outline, const std::vector<Ear>& ears, const Blank& blank, Vec2 middle,
                   double beside) {
  Region all = offset({outline}, beside);
  for (const Ear& e : ears)
    if (e.meets) all = joined(all, {ear_strip(e, beside)});
  const Vec2 half{blank.length / 2, blank.width / 2};
  const Region within = intersected(all, {rectangle(middle - half, middle + half)});
  const Polygon* ring = widest(within);
  return ring != nullptr ? *ring : outline;
}

std::vector<Remark> ear_remarks(const BodyDesign& d, const BodyWork& w) {
  std::vector<Remark> out;
  const auto say = [&](const char* kind, Weight weight, Words text, double number, double limit, const char* key,
                       std::optional<Repair> repair, std::vector<Repair> others = {}) {
    out.push_back({kind,
                   weight,
                   std::move(text),
                   number,
                   limit,
                   "mm",
                   "common practice",
                   key,
                   {},
                   std::move(repair),
                   std::move(others)});
  };
  const Repair halves{"Cut half the outline from each side", {{"body.outline_school", "halves"}}};
  if (w.outline == OutlineSchool::guide && w.alignment.school == School::fence)
    say("body.sawn_fence", Weight::stop,
        "A body that was sawn round has no edge left to lie at the corner fence: nothing would find its place for the "
        "last skim.",
        0, 0, "body.alignment", Repair{"Align it by pins", {{"body.alignment", "pins"}}}, {halves});
  if (d.ears.empty()) return out;
  const bool pinned = w.alignment.school == School::pins;
  const double least = (pinned ? w.alignment.pin_diameter : 0) + 2 * beside_pin;
  if (w.ear_width < least - 1e-9)
    say("body.ear_narrow", Weight::stop,
        worded("Ears {} wide leave less than {} beside {}.", mm(w.ear_width), mm(beside_pin),
               pinned ? "their pins" : "their ticks"),
        w.ear_width, least, "body.ear_width",
        Repair{worded("Make them {} wide", mm(std::ceil(least), 0)),
               {{"body.ear_width", format_mm(std::ceil(least), 0)}}});
  const double thick = d.shape.thickness;
  for (const Ear& e : d.ears) {
    const std::string place = e.outward.x < 0 ? "neck" : "tail";
    if (!e.meets) {
      say("body.ear_misses", Weight::stop,
          worded("The ear at the {}'s end does not meet the body over its whole width.", place), 0, 0, "body.ear_width",
          w.ear_width > least + 1 ? std::optional<Repair>(Repair{"Make the ears narrower",
                                                                 {{"body.ear_width", format_mm(std::ceil(least), 0)}}})
                                  : std::nullopt,
          {halves});
      continue;
    }
    // What is cut beyond the outline thins it: open pockets, and channels that run out.
    const Region beyond = subtracted({ear_strip(e, 0)}, {d.shape.corners});
    double stays = thick;
    std::string by;
    for (const Cavity& c : d.shape.cavities) {
      if (c.layer >= 0 || area(intersected(beyond, c.region)) < 0.5) continue;
      const double left = c.from_back ? -c.floor : thick + c.floor;
      if (left < stays) {
        stays = left;
        by = c.title;
      }
    }
    if (by.empty()) continue;
    if (stays < thinnest_ear)
      say("body.ear_crossed", Weight::stop,
          worded("'{}' runs out through the ear at the {}'s end and leaves {} of it.", by, place,
                 mm(std::max(0.0, stays))),
          stays, thinnest_ear, "body.ear_width", halves);
    else
      say("body.ear_crossed", Weight::worth_knowing,
          worded("'{}' runs out into the ear at the {}'s end; {} of it stay.", by, place, mm(stays)), stays,
          thinnest_ear, "body.ear_width", std::nullopt);
  }
  return out;
}

std::vector<HiddenPlace> hidden_places(const BodyShape& s, double radius, double deep) {
  constexpr double aside = 1.5;  // mm of wood that the cavity takes round the hole
  if (s.layers.size() < 2) return {};
  const double under = s.layers.front().bottom - deep;
  std::vector<HiddenPlace> all;
  for (const Cavity& c : s.cavities) {
    // What is cut before the glue-up is gone by then.
    if (c.from_back || c.layer >= 0 || c.by_layer) continue;
    for (const Polygon& ring : offset(c.region, -(radius + aside)))
      for (const Vec2 q : ring)
        if (c.floor_at(q) < under && contains({s.corners}, q)) all.push_back({q, c.floor_at(q)});
  }
  std::vector<HiddenPlace> out;
  double most = 0;
  for (const HiddenPlace& a : all)
    for (const HiddenPlace& b : all)
      if (const double l = distance(a.at, b.at); l > most) {
        most = l;
        out = {a, b};
      }
  return out;
}

}  // namespace wren

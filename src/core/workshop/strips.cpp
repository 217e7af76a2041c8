#include "core/workshop/strips.hpp"

#include <algorithm>
#include <cmath>
#include <sstream>

#include <fmt/format.h>

#include "core/units/length.hpp"

namespace wren {

double StripStack::width() const {
  double sum = 0;
  for (const Strip& s : strips) sum += s.width;
  return sum;
}

std::vector<double> StripStack::joints() const {
  std::vector<double> out;
  double at = -width() / 2;
  for (std::size_t i = 0; i + 1 < strips.size(); ++i) out.push_back(at += strips[i].width);
  return out;
}

const Strip& StripStack::at(double from_middle) const {
  double end = -width() / 2;
  for (const Strip& s : strips)
    if (from_middle < (end += s.width)) return s;
  return strips.back();
}

Expected<StripStack> strips_from(const std::string& text, const std::string& where) {
  StripStack out;
  const auto bad = [&](const Words& what) {
    return fail(
        ProblemKind::input, what, where,
        "Write wood and width of each strip: cherry 120; walnut 12; cherry 120, with 'across:' before them where "
        "their joints run across; none for one piece");
  };
  std::string list = text;
  const auto trimmed = [](std::string s) {
    while (!s.empty() && s.front() == ' ') s.erase(0, 1);
    while (!s.empty() && s.back() == ' ') s.pop_back();
    return s;
  };
  if (const auto colon = list.find(':'); colon != std::string::npos) {
    const std::string way = trimmed(list.substr(0, colon));
    if (way != "across" && way != "along") return bad(worded("'{}' is no way for joints to run", way.substr(0, 30)));
    out.across = way == "across";
    list = list.substr(colon + 1);
  }
  list = trimmed(list);
  if (list.empty() || list == "none") return StripStack{};
  std::istringstream in(list);
  std::string part;
  while (std::getline(in, part, ';')) {
    std::istringstream words(part);
    Strip strip;
    std::string size;
    words >> strip.wood;
    std::getline(words, size);
    if (strip.wood.empty() || trimmed(size).empty())
      return bad(worded("'{}' does not give wood and width", trimmed(part).substr(0, 40)));
    if (strip.wood.size() > longest_material_name) return bad("a wood's name is too long");
    const auto width = parse_length(size);
    if (!width) return bad(worded("the width of '{}' is not understood: {}", strip.wood, width.error().what));
    if (!(*width >= narrowest_strip && *width <= 1500))
      return bad(worded("a strip of '{}' is {} wide; {} to {} is possible", strip.wood, mm(*width, 3),
                        mm(narrowest_strip), mm(1500)));
    strip.width = std::round(*width * 1000) / 1000;  // as it is written
    out.strips.push_back(std::move(strip));
    if (out.strips.size() > most_strips) return bad(worded("more than {} strips", most_strips));
  }
  if (out.strips.size() < 2) return bad("one strip is no stack");
  return out;
}

std::string strips_text(const StripStack& stack) {
  if (stack.empty()) return "none";
  std::string out = stack.across ? "across: " : "";
  for (std::size_t i = 0; i < stack.strips.size(); ++i)
    out += fmt::format("{}{} {}", i == 0 ? "" : "; ", stack.strips[i].wood, format_mm(stack.strips[i].width));
  return out;
}

double stack_moves(const StripStack& stack, const FindMaterial& find, double moisture, double moisture_later) {
  double sum = 0;
  for (const Strip& s : stack.strips)
    if (const auto m = find(s.wood); m && m->grain == Grain::along)
      sum += moisture_change(s.width, m->shrink_tangential, moisture, moisture_later);
  return sum;
}

namespace {

template <class Figure>
double mean(const StripStack& stack, const FindMaterial& find, double from, double to, const Figure& figure) {
  double sum = 0;
  double wide = 0;
  double low = -stack.width() / 2;
  for (std::size_t i = 0; i < stack.strips.size(); ++i) {
    const Strip& s = stack.strips[i];
    // The outer strips go on.
    const double a = i == 0 ? -1e9 : low;
    const double b = i + 1 == stack.strips.size() ? 1e9 : low + s.width;
    low += s.width;
    const double w = std::min(b, to) - std::max(a, from);
    if (w <= 0) continue;
    const auto m = find(s.wood);
    if (!m) continue;
    sum += w * figure(*m);
    wide += w;
  }
  return wide > 0 ? sum / wide : 0;
}

}  // namespace

double mean_density(const StripStack& stack, const FindMaterial& find, double from, double to) {
  return mean(stack, find, from, to, [](const Material& m) { return m.density; });
}

double mean_modulus(const StripStack& stack, const FindMaterial& find, double from, double to) {
  return mean(stack, find, from, to, [](const Material& m) { return m.modulus; });
}

Vec2 StackPlace::across(const StripStack& stack) const {
  const Vec2 way{std::cos(angle), std::sin(angle)};
  return stack.across ? way : left_of(way);
}

Polygon StackPlace::band(const StripStack& stack, double from, double to) const {
  constexpr double far = 3000;
  const Vec2 over = across(stack);
  const Vec2 along = stack.across ? left_of(over) : left_of(over) * -1.0;
  Polygon out;
  for (const auto& [o, a] : {std::pair{from, -far}, {to, -far}, {to, far}, {from, far}})
    out.push_back(middle + over * o + along * a);
  if (signed_area(out) < 0) std::reverse(out.begin(), out.end());
  return out;
}

double width_needed(const StripStack& stack, Vec2 blank, double angle) {
  const double over = stack.across ? blank.x : blank.y;
  const double along = stack.across ? blank.y : blank.x;
  return over * std::abs(std::cos(angle)) + along * std::abs(std::sin(angle));
}

std::vector<StripBand> bands_of(const StripStack& stack, const StackPlace& place, Vec2 size, const FindMaterial& find) {
  std::vector<StripBand> out;
  if (stack.empty()) return out;
  const Vec2 low = place.middle - size * 0.5;
  const Vec2 high = place.middle + size * 0.5;
  const Polygon blank{low, {high.x, low.y}, high, {low.x, high.y}};
  std::vector<double> cuts = stack.joints();
  // The outer strips go on to the blank's edge.
  const double half = width_needed(stack, size, place.angle) / 2;
  cuts.insert(cuts.begin(), -half);
  cuts.push_back(half);
  for (std::size_t i = 0; i < stack.strips.size(); ++i) {
    const auto m = find(stack.strips[i].wood);
    StripBand band{{}, stack.strips[i].wood, m ? m->density : 0};
    const double a = std::clamp(cuts[i], -half, half);
    const double b = std::clamp(cuts[i + 1], -half, half);
    const auto cut = b > a ? intersected({blank}, {place.band(stack, a, b)}) : Region{};
    if (!cut.empty()) band.plan = cut.front();
    out.push_back(std::move(band));
  }
  return out;
}

std::vector<Joint> joints_of(const StripStack& stack, const StackPlace& place) {
  std::vector<Joint> out;
  if (stack.empty()) return out;
  const auto places = stack.joints();
  const Vec2 over = place.across(stack);
  for (std::size_t i = 0; i < places.size(); ++i) {
    const std::string& a = stack.strips[i].wood;
    const std::string& b = stack.strips[i + 1].wood;
    out.push_back({place.middle + over * places[i], stack.across ? left_of(over) : left_of(over) * -1.0,
                   a == b ? fmt::format("two strips of {}", a) : fmt::format("{} and {}", a, b)});
  }
  return out;
}

JointBeside joint_beside(const Joint& joint, const Region& region, double near, double shortest) {
  constexpr double aslant = 0.0872;  // sin 5°
  JointBeside best;
  const Vec2 across = left_of(joint.along);
  // The stretch of an edge, as shares of it, that is near; from > to: none of it.
  struct Stretch {
    double from = 1;
    double to = 0;
  };
  for (const Polygon& ring : region) {
    const std::size_t n = ring.size();
    const auto stretch = [&](std::size_t i) -> Stretch {
      const Vec2 a = ring[i % n];
      const Vec2 b = ring[(i + 1) % n];
      const double l = distance(a, b);
      const double da = dot(a - joint.at, across);
      const double db = dot(b - joint.at, across);
      if (l < 1e-9 || std::abs(db - da) > aslant * l) return {};
      if (std::abs(db - da) < 1e-12) return std::abs(da) <= near ? Stretch{0, 1} : Stretch{};
      const double t0 = (-near - da) / (db - da);
      const double t1 = (near - da) / (db - da);
      return {std::max(0.0, std::min(t0, t1)), std::min(1.0, std::max(t0, t1))};
    };
    const auto whole = [&](std::size_t i) {
      const Stretch s = stretch(i);
      return s.from <= 0 && s.to >= 1;
    };
    std::size_t begin = 0;
    while (begin < n && whole(begin)) ++begin;  // a run may pass the ring's own beginning
    JointBeside run;
    double weight = 0;
    Vec2 middle;
    const auto close = [&] {
      if (run.length >= shortest && run.length > best.length) {
        run.distance = weight / run.length;
        run.at = middle * (1 / run.length);
        best = run;
      }
      run = {};
      weight = 0;
      middle = {};
    };
    for (std::size_t k = 0; k < n; ++k) {
      const std::size_t i = (begin + k) % n;
      const Stretch s = stretch(i);
      if (!(s.from < s.to)) {
        close();
        continue;
      }
      if (s.from > 0) close();
      const Vec2 a = lerp(ring[i], ring[(i + 1) % n], s.from);
      const Vec2 b = lerp(ring[i], ring[(i + 1) % n], s.to);
      const double l = distance(a, b);
      run.length += l;
      weight += l * (std::abs(dot(a - joint.at, across)) + std::abs(dot(b - joint.at, across))) / 2;
      middle = middle + lerp(a, b, 0.5) * l;
      if (s.to < 1) close();
    }
    close();
  }
  return best;
}

std::optional<double> free_slide(const std::vector<Joint>& joints, const std::vector<Region>& walls, double near,
                                 double shortest, double most) {
  constexpr double step = 0.5;  // mm
  for (int k = 0; k * step <= most; ++k)
    for (const double sign : {1.0, -1.0}) {
      const double slide = sign * k * step;
      // The part moves over the joints, so in its own plan they move the other way.
      const bool free = std::all_of(joints.begin(), joints.end(), [&](Joint j) {
        j.at = j.at - left_of(j.along) * slide;
        return std::all_of(walls.begin(), walls.end(),
                           [&](const Region& w) { return joint_beside(j, w, near, shortest).length <= 0; });
      });
      if (free) return slide;
    }
  return {};
}

}  // namespace wren

#include "core/instrument/neck_strength.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wren {

double string_mass(double gauge) {
  constexpr double steel = 7850;   // kg/m³
  const double r = gauge / 2000;   // m
  return std::numbers::pi * r * r * steel * (gauge > 0.55 ? 0.86 : 1.0);
}

StringPull string_pull(const Fretboard& board, const std::string& tuning) {
  StringPull out;
  double thinnest = 1e300;
  for (const StringLine& s : board.strings) thinnest = std::min(thinnest, s.gauge);
  out.frequency = tuning_in_use(tuning, static_cast<int>(board.strings.size()), thinnest);
  for (std::size_t i = 0; i < board.strings.size(); ++i) {
    const double speed = 2 * board.strings[i].scale / 1000 * out.frequency[i];
    out.tension.push_back(string_mass(board.strings[i].gauge) * speed * speed);
    out.total += out.tension.back();
  }
  return out;
}

SectionStiffness section_stiffness(const NeckShape& neck, double x, const NeckWoods& woods) {
  SectionStiffness out;
  out.x = x;
  const NeckShape::Taper t = neck.taper(x);
  const bool one_piece = neck.given.build == NeckBuild::one_piece;
  double ea = 0;
  double es = 0;
  double ei = 0;
  const auto add = [&](double wide, double low, double high, double gpa) {
    if (!(high > low)) return;
    const double e = gpa * 1000;
    ea += e * wide * (high - low);
    es += e * wide * (high * high - low * low) / 2;
    ei += e * wide * (high * high * high - low * low * low) / 3;
  };
  constexpr int strips = 240;
  const double wide = 2 * t.half / strips;
  for (int k = 0; k < strips; ++k) {
    const Vec2 p{x, t.middle - t.half + (k + 0.5) * wide};
    const double back = -neck.depth(p);
    const double top = one_piece ? neck.board->crown_height(p) : 0.0;
    double low = back;
    double high = top;
    for (const Channel& c : neck.channels) {
      if (!c.holds(p) || c.id == "nut") continue;
      const bool bar = c.id.rfind("bar", 0) == 0;
      const double floor = c.floor(p);
      if (bar) add(wide, c.from_back ? std::max(back, floor - neck.given.rod.bar_depth) : floor, c.from_back ? floor : std::min(0.0, floor + neck.given.rod.bar_depth), woods.bar_gpa);
      if (c.from_back) low = std::max(low, std::min(floor, top));
      else high = std::min(high, std::max(floor, back));
    }
    add(wide, low, high, woods.neck_gpa);
    out.area += wide * std::max(0.0, high - low);
    if (!one_piece && x > 0) add(wide, 0, neck.board->crown_height(p), woods.board_gpa);
  }
  if (ea <= 0) return out;
  out.neutral_z = es / ea;
  out.ei = ei - es * es / ea;
  return out;
}

NeckBend neck_bend(const NeckShape& neck, const StringPull& pull, const NeckWoods& woods) {
  NeckBend out;
  const double end = neck.heel_x;
  constexpr int n = 60;
  const double string_z = neck.board->given.board.thickness + neck.board->given.frets.crown_height + 1.0;   // mean height over the glue plane
  std::vector<double> bent(n + 1);
  for (int k = 0; k <= n; ++k) {
    const double x = 1 + (end - 1) * k / n;
    out.along.push_back(section_stiffness(neck, x, woods));
    const SectionStiffness& s = out.along.back();
    out.moment.push_back(pull.total * (string_z - s.neutral_z));
    bent[static_cast<std::size_t>(k)] = s.ei > 0 ? out.moment.back() / s.ei : 0;
  }
  // Held at the heel, free at the nut: slope and rise by the trapezoid rule from the heel outwards.
  const double h = (end - 1) / n;
  std::vector<double> rise(n + 1, 0);
  double slope = 0;
  for (int k = n - 1; k >= 0; --k) {
    const auto i = static_cast<std::size_t>(k);
    const double next = slope + h * (bent[i] + bent[i + 1]) / 2;
    rise[i] = rise[i + 1] + h * (slope + next) / 2;
    slope = next;
  }
  out.nut_rise = rise.front();
  for (int k = 0; k <= n; ++k) {
    const auto i = static_cast<std::size_t>(k);
    const double chord = rise.front() * (1 - static_cast<double>(k) / n);
    if (chord - rise[i] > out.relief) {
      out.relief = chord - rise[i];
      out.relief_x = out.along[i].x;
    }
  }
  return out;
}

NeckWeight neck_weight(const NeckShape& neck, double density) {
  NeckWeight out;
  const MassProperties whole = mass_properties(neck.solid(), 2.0);
  double volume = whole.volume_mm3;
  double mx = whole.volume_mm3 * whole.centre.x;
  double my = whole.volume_mm3 * whole.centre.y;
  const auto take = [&](double v, Vec2 at) {
    volume -= v;
    mx -= v * at.x;
    my -= v * at.y;
  };
  for (const Channel& c : neck.channels) {
    // Simpson's rule along the straight part, the round ends at their own depth; where channels overlap the deeper one counts.
    const double l = distance(c.a, c.b);
    const int steps = std::max(8, static_cast<int>(l / 2));
    const auto depth = [&](Vec2 p) {
      if (!contains(neck.corners, p)) return 0.0;   // a nut's slot runs out through the edges
      double d = c.from_back ? neck.depth(p) + c.floor(p) : neck.front(p) - c.floor(p);
      for (const Channel& o : neck.channels) {
        if (o.id == c.id) break;
        if (o.holds(p)) d -= std::max(0.0, o.from_back ? neck.depth(p) + o.floor(p) : neck.front(p) - o.floor(p));
      }
      return std::max(0.0, d);
    };
    for (int k = 0; k < steps; ++k) {
      const Vec2 p = lerp(c.a, c.b, (k + 0.5) / steps);
      take(depth(p) * c.width * l / steps, p);
    }
    for (const Vec2 end : {c.a, c.b}) take(depth(end) * std::numbers::pi * c.width * c.width / 8, end);
  }
  for (const Hole& h : neck.holes) {
    const double d = h.depth > 0 ? h.depth : neck.depth(h.at) + neck.front(h.at);
    take(d * std::numbers::pi * h.diameter * h.diameter / 4, h.at);
  }
  out.volume_mm3 = volume;
  out.grams = volume * density * 1e-6;
  out.balance = volume > 0 ? Vec2{mx / volume, my / volume} : Vec2{};
  return out;
}

}  // namespace wren

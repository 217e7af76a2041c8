#include "core/instrument/neck_strength.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/plan/polyline.hpp"

namespace wren {

double string_mass(double gauge) {
  constexpr double steel = 7850;  // kg/m³
  const double r = gauge / 2000;  // m
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
      if (bar)
        add(wide, c.from_back ? std::max(back, floor - neck.given.rod.bar_depth) : floor,
            c.from_back ? floor : std::min(0.0, floor + neck.given.rod.bar_depth), woods.bar_gpa);
      if (c.from_back)
        low = std::max(low, std::min(floor, top));
      else
        high = std::min(high, std::max(floor, back));
    }
    add(wide, low, high, woods.neck_gpa_at ? woods.neck_gpa_at(p.y) : woods.neck_gpa);
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
  const double string_z = neck.board->given.board.thickness + neck.board->given.frets.crown_height +
                          1.0;  // mean height over the glue plane
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
  // The outline to a hundredth, and no finer: every corner costs a strip.
  TwoSkin piece = neck.solid();
  std::vector<Vec3> corners;
  for (const Vec2 p : neck.corners) corners.push_back({p.x, p.y, 0});
  piece.outline.clear();
  for (const Vec3& p : thinned(corners, 0.01)) piece.outline.push_back({flat(p), 0});
  const MassProperties whole = mass_properties(piece, 4.0);
  double volume = whole.volume_mm3;
  double mx = whole.volume_mm3 * whole.centre.x;
  double my = whole.volume_mm3 * whole.centre.y;
  const auto take = [&](double v, Vec2 at) {
    volume -= v;
    mx -= v * at.x;
    my -= v * at.y;
  };
  for (std::size_t k = 0; k < neck.channels.size(); ++k) {
    // Small areas of the plan; where channels overlap, the later one takes only what the earlier ones left.
    const Channel& c = neck.channels[k];
    const auto taken = [&](const Channel& o, Vec2 p) {
      return std::max(0.0, o.from_back ? neck.depth(p) + o.floor(p) : neck.front(p) - o.floor(p));
    };
    const Vec2 u = c.a == c.b ? Vec2{1, 0} : unit(c.b - c.a);
    const double l = distance(c.a, c.b);
    constexpr int across = 16;
    constexpr double along = 1.0;
    const double wide = c.width / across;
    for (double t = -c.width / 2 + along / 2; t < l + c.width / 2; t += along)
      for (int j = 0; j < across; ++j) {
        const Vec2 p = c.a + u * t + left_of(u) * (-c.width / 2 + (j + 0.5) * wide);
        if (!c.holds(p) || (c.id == "nut" && !contains(neck.corners, p))) continue;
        double before = 0;
        for (std::size_t m = 0; m < k; ++m)
          if (neck.channels[m].holds(p)) before = std::max(before, taken(neck.channels[m], p));
        take(std::max(0.0, taken(c, p) - before) * along * wide, p);
      }
  }
  for (const Hole& h : neck.holes) {
    const double d = !h.through() ? h.depth : neck.depth(h.at) + neck.front(h.at);
    take(d * std::numbers::pi * h.diameter * h.diameter / 4, h.at);
  }
  out.volume_mm3 = volume;
  out.grams = volume * density * 1e-6;
  out.balance = volume > 0 ? Vec2{mx / volume, my / volume} : Vec2{};
  return out;
}

}  // namespace wren

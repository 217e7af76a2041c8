#include "core/instrument/headstock.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

#include "core/plan/polyline.hpp"
#include "core/plan/region.hpp"

namespace wren {
namespace {

/// A cubic from a (leaving along u) to b (arriving along v), as points without the first one.
void bend(Polygon& to, Vec2 a, Vec2 u, Vec2 b, Vec2 v) {
  const double handle = 0.42 * distance(a, b);
  const Vec2 c1 = a + u * handle;
  const Vec2 c2 = b - v * handle;
  const int n = std::clamp(static_cast<int>(distance(a, b) / 0.4), 12, 160);
  for (int k = 1; k <= n; ++k) {
    const double t = static_cast<double>(k) / n;
    const double s = 1 - t;
    to.push_back(a * (s * s * s) + c1 * (3 * s * s * t) + c2 * (3 * s * t * t) + b * (t * t * t));
  }
}

struct SideLine {
  Vec2 at;
  Vec2 way;        // unit, towards the tip
  double begin_x;  // where the straight part starts
};

/// The straight side of the head on one side (sign of y: side).
SideLine side_line(const NeckShape& neck, double side) {
  const HeadNumbers& head = neck.given.head;
  std::vector<const Tuner*> row;
  for (const Tuner& t : neck.tuners)
    if (t.outward.y * side > 0) row.push_back(&t);
  std::sort(row.begin(), row.end(), [](const Tuner* a, const Tuner* b) { return a->at.x > b->at.x; });
  if (!row.empty()) {
    const Vec2 way = row.front()->along;
    const Vec2 out = row.front()->outward;
    return {row.front()->at + out * neck.given.tuner.edge, way, row.front()->at.x + 0.35 * neck.given.tuner.body_along};
  }
  const auto& strings = neck.board->strings;
  const StringLine& outer =
      strings.front().nut.y * side > strings.back().nut.y * side ? strings.front() : strings.back();
  const Vec2 way = unit(outer.nut - outer.saddle);
  return {outer.nut + Vec2{0, side * head.side_margin}, way, neck.nut_middle.x - head.shelf - 14};
}

Vec2 on_line(const SideLine& line, double x) { return line.at + line.way * ((x - line.at.x) / line.way.x); }

/// The head's polygon with a stretch of the shaft, counter-clockwise, starting and ending at x = join.
Polygon solved_head(const NeckShape& neck, double join) {
  const HeadNumbers& head = neck.given.head;
  double last = neck.nut_middle.x - head.first_post;
  for (const Tuner& t : neck.tuners) last = std::min(last, t.at.x);
  const double tip = last - head.tip_margin;
  const SideLine high = side_line(neck, 1);
  const SideLine low = side_line(neck, -1);
  const auto edge = [&](double x, double side) {
    return Vec2{x, side > 0 ? neck.high_nut + neck.high_slope * x : neck.low_nut + neck.low_slope * x};
  };
  // The cheeks begin behind the nut's own end on either side.
  const auto nut_end = [&](double side) {
    const FretLine& nut = neck.board->nut_line;
    const Vec2 end = nut.bass_edge.y * side > nut.treble_edge.y * side ? nut.bass_edge : nut.treble_edge;
    return end.x - 0.5;
  };
  const bool bass_high = neck.board->nut_line.bass_edge.y > neck.board->nut_line.treble_edge.y;
  double tip_high = tip;
  double tip_low = tip;
  if (head.shape == HeadShape::slanted) (bass_high ? tip_high : tip_low) -= head.tip_rise;
  Polygon out{edge(join, 1)};
  const Vec2 high_nut = edge(nut_end(1), 1);
  out.push_back(high_nut);
  const double begin_high = std::clamp(high.begin_x, tip_high + 6, high_nut.x - 8);
  bend(out, high_nut, unit(Vec2{-1, -neck.high_slope}), on_line(high, begin_high), high.way);
  const Vec2 a = on_line(high, tip_high);
  const Vec2 b = on_line(low, tip_low);
  out.push_back(a);
  if (head.shape != HeadShape::slanted && head.tip_rise > 0) {
    const double way = head.shape == HeadShape::arched ? -1 : 1;
    const int n = 60;
    for (int k = 1; k < n; ++k) {
      const double t = static_cast<double>(k) / n;
      out.push_back(lerp(a, b, t) + Vec2{way * head.tip_rise * 4 * t * (1 - t), 0});
    }
  }
  out.push_back(b);
  const Vec2 low_nut = edge(nut_end(-1), -1);
  const double begin_low = std::clamp(low.begin_x, tip_low + 6, low_nut.x - 8);
  const Vec2 from = on_line(low, begin_low);
  out.push_back(from);
  bend(out, from, low.way * -1.0, low_nut, unit(Vec2{1, neck.low_slope}));
  out.push_back(edge(join, -1));
  return out;
}

}  // namespace

void lay_tuners(NeckShape& neck) {
  const Fretboard& board = *neck.board;
  const HeadNumbers& head = neck.given.head;
  const TunerNumbers& size = neck.given.tuner;
  const int count = static_cast<int>(board.strings.size());
  const double nut_top = board.given.board.thickness + board.given.frets.crown_height + 0.5;
  for (int i = 0; i < count; ++i) {
    const StringLine& s = board.strings[static_cast<std::size_t>(i)];
    const bool bass = i < head.tuners_bass;
    // Outermost first on either side.
    const int place = bass ? i : count - 1 - i;
    Tuner t;
    t.string = i + 1;
    t.bass_side = bass;
    const Vec2 way = unit(s.nut - s.saddle);
    const Vec2 bass_way = unit(board.strings.front().nut - board.strings.back().nut);
    Vec2 out = left_of(way);
    if (dot(out, bass_way) * (bass ? 1 : -1) < 0) out = out * -1.0;
    t.behind_nut = head.first_post + place * size.pitch;
    t.at = s.nut + way * t.behind_nut + out * (size.post / 2 + s.gauge / 2);
    neck.tuners.push_back(t);
  }
  for (Tuner& t : neck.tuners) {
    // The row's direction: from the first to the last post of its side.
    const Tuner* first = nullptr;
    const Tuner* last = nullptr;
    for (const Tuner& o : neck.tuners) {
      if (o.bass_side != t.bass_side) continue;
      if (first == nullptr || o.at.x > first->at.x) first = &o;
      if (last == nullptr || o.at.x < last->at.x) last = &o;
    }
    t.along = first == last ? Vec2{-1, 0} : unit(last->at - first->at);
    const StringLine& s = board.strings[static_cast<std::size_t>(t.string - 1)];
    const Vec2 bass_way = unit(board.strings.front().nut - board.strings.back().nut);
    Vec2 out = left_of(t.along);
    if (dot(out, bass_way) * (t.bass_side ? 1 : -1) < 0) out = out * -1.0;
    t.outward = out;
    const Vec2 a = t.along * (size.body_along / 2);
    t.body = {t.at - a - out * size.body_in, t.at + a - out * size.body_in, t.at + a + out * size.edge,
              t.at - a + out * size.edge};
    if (signed_area(t.body) < 0) std::reverse(t.body.begin(), t.body.end());
    const int place = static_cast<int>(std::lround((t.behind_nut - head.first_post) / size.pitch));
    const double face = neck.face(t.at);
    t.winding_z = face + size.height - place * size.step;
    double down = nut_top - t.winding_z;
    double run = t.behind_nut;
    if (head.string_bar && t.behind_nut > head.string_bar_at) {
      run = head.string_bar_at;
      down = std::max(down * run / t.behind_nut,
                      nut_top - (neck.face(s.nut + unit(s.nut - s.saddle) * run) + head.string_bar_height));
    }
    t.angle = std::atan2(down, run);
  }
}

Expected<void> lay_outline(NeckShape& neck) {
  const HeadNumbers& head = neck.given.head;
  const HeelNumbers& heel = neck.given.heel;
  const double join = std::min(120.0, neck.end_x / 3);
  Polygon with_head;
  if (head.shape == HeadShape::drawn) {
    if (head.drawn.size() < 3)
      return fail(ProblemKind::input, "no outline was brought in for the head", "head.shape",
                  "Load one from DXF or SVG, or choose arched, notched or slanted");
    if (!is_simple(head.drawn))
      return fail(ProblemKind::input, "the drawn outline of the head crosses itself", "head.drawn",
                  "Correct the drawing");
    const Polygon shaft{{join, neck.low_nut + neck.low_slope * join},
                        {join, neck.high_nut + neck.high_slope * join},
                        {-1, neck.high_nut - neck.high_slope},
                        {-1, neck.low_nut - neck.low_slope}};
    const auto all = united({shaft, head.drawn});
    if (all.size() != 1)
      return fail(ProblemKind::input, "the drawn outline of the head does not meet the shaft at the nut", "head.drawn",
                  "Draw it with the nut line at x = 0 and the head at negative x, overlapping the shaft a little");
    with_head = all.front();
  } else {
    with_head = solved_head(neck, join);
  }
  if (head.rounding > 0) {
    // Outer corners get their radius by going in and out again, inner ones by out and in. The shaft's cut end is
    // dropped below.
    for (const double r : {-head.rounding, head.rounding}) {
      auto first = offset({with_head}, r);
      if (first.size() != 1)
        return fail(ProblemKind::range,
                    worded("corners of the head cannot be rounded to {}: a part of it is narrower than that",
                           mm(head.rounding, 1)),
                    "head.rounding", "Give a smaller radius");
      auto back = offset({first.front()}, -r);
      if (back.size() != 1)
        return fail(ProblemKind::range, "rounding takes the head apart", "head.rounding", "Give a smaller radius");
      with_head = back.front();
    }
  }
  if (signed_area(with_head) < 0) std::reverse(with_head.begin(), with_head.end());
  // The chain of points over the head, from the shaft's high side round to its low side.
  const double keep = join - head.rounding - 2;
  std::size_t from = 0;
  while (from < with_head.size() && with_head[from].x <= keep) ++from;
  if (from == with_head.size())
    return fail(ProblemKind::range, "the head leaves no shaft", "head.shape", "Check the head's numbers");
  Polygon chain;
  for (std::size_t k = 0; k < with_head.size(); ++k)
    if (const Vec2 p = with_head[(from + k) % with_head.size()];
        p.x <= keep && (chain.empty() || distance(chain.back(), p) > 1e-4))
      chain.push_back(p);

  const auto low = [&](double x) { return Vec2{x, neck.low_nut + neck.low_slope * x}; };
  const auto high = [&](double x) { return Vec2{x, neck.high_nut + neck.high_slope * x}; };
  Polygon tail;  // counter-clockwise from the low side of the shaft round the heel's end
  const double end = neck.end_x;
  if (neck.given.joint == NeckJoint::glued) {
    const double half = heel.tenon_width / 2;
    const double start = end - heel.tenon_length;
    if (half >= neck.taper(start).half)
      return fail(ProblemKind::range, worded("a tenon {} wide is wider than the neck there", mm(heel.tenon_width, 1)),
                  "neck.tenon_width", worded("Give less than {:.1f}", 2 * neck.taper(start).half));
    tail = {low(start),
            {start, neck.taper(start).middle - half},
            {end, neck.taper(end).middle - half},
            {end, neck.taper(end).middle + half},
            {start, neck.taper(start).middle + half},
            high(start)};
  } else if (heel.beyond > 0) {
    const double board_end = end - heel.beyond;  // beyond the board the neck keeps its width
    tail = {low(board_end), {end, low(board_end).y}, {end, high(board_end).y}, high(board_end)};
  } else {
    tail = {low(end), high(end)};
  }
  neck.outline.clear();
  const double r = heel.corner;
  for (std::size_t k = 0; k < tail.size(); ++k) {
    const Vec2 p = tail[k];
    const Vec2 before = k > 0 ? tail[k - 1] : chain.back();
    const Vec2 after = k + 1 < tail.size() ? tail[k + 1] : chain.front();
    const Vec2 in = unit(p - before);
    const Vec2 out = unit(after - p);
    const double turn = std::atan2(cross(in, out), dot(in, out));
    const double cut = r * std::tan(std::abs(turn) / 2);
    const bool end_corner = std::abs(p.x - end) < 1e-9;
    if (r > 0 && end_corner && turn > 0.2 && cut < 0.45 * std::min(distance(p, before), distance(p, after))) {
      neck.outline.push_back({p - in * cut, std::tan(turn / 4)});
      neck.outline.push_back({p + out * cut, 0});
    } else {
      neck.outline.push_back({p, 0});
    }
  }
  // Points that a straight edge passes by within 2 µm say nothing.
  std::vector<Vec3> in_space;
  for (const Vec2 p : chain) in_space.push_back({p.x, p.y, 0});
  for (const Vec3& p : thinned(in_space, 0.002)) neck.outline.push_back({flat(p), 0});
  return {};
}

void lay_tuner_holes(NeckShape& neck) {
  const TunerNumbers& size = neck.given.tuner;
  for (const Tuner& t : neck.tuners) {
    neck.holes.push_back({fmt::format("tuner-{}", t.string), t.at, size.hole, 0});
    if (size.pilot <= 0) continue;
    neck.holes.push_back({fmt::format("pilot-{}", t.string),
                          t.at + t.along * size.pilot_along + t.outward * size.pilot_out, size.pilot,
                          size.pilot_depth});
  }
}

Vec2 post_contact(const NeckShape& neck, const Tuner& t) {
  const StringLine& s = neck.board->strings[static_cast<std::size_t>(t.string - 1)];
  const Vec2 way = unit(s.nut - s.saddle);
  return s.nut + way * dot(t.at - s.nut, way);
}

}  // namespace wren

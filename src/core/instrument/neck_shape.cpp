#include "core/instrument/neck_shape.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

#include "core/instrument/headstock.hpp"

namespace wren {
namespace {

constexpr double pi = std::numbers::pi;

Problem contradiction(Words what, const char* key, Words todo) {
  return {ProblemKind::range, std::move(what), key, std::move(todo)};
}

/// |s| with a rounded tip of the size e, 0 at 0 and 1 at 1, smooth everywhere.
double soft_abs(double s, double e) { return (std::sqrt(s * s + e * e) - e) / (std::sqrt(1 + e * e) - e); }

double power_share(double s, double power, double e) {
  const double e2 = e * e;
  const double low = std::pow(e2, power / 2);
  return (std::pow(s * s + e2, power / 2) - low) / (std::pow(1 + e2, power / 2) - low);
}

/// 1 − share²: smooth on the whole width, 0 at the middle, 1 at the edges.
double section_fall(BackShape shape, double s) {
  switch (shape) {
    case BackShape::round: return s * s;
    case BackShape::oval: return power_share(s, 1.72, 0.3);
    case BackShape::flattened: return power_share(s, 3.2, 0.02);
    case BackShape::d:
    case BackShape::leaning: return power_share(s, 2.45, 0.02);
    case BackShape::u: return s * s * s * s;
    case BackShape::soft_v: {
      const double m = soft_abs(s, 0.35);
      return 0.45 * m * m + 0.55 * (2 * m - m * m);
    }
    case BackShape::hard_v: {
      const double m = soft_abs(s, 0.12);
      return 0.15 * m * m + 0.85 * (2 * m - m * m);
    }
  }
  return s * s;
}

/// Samples of one measured section as depth/sin φ over φ, evenly in φ, by linear interpolation between its points.
std::vector<FairSample> section_samples(const BackSection& section, const NeckShape& neck, bool fold, bool& mirrored) {
  std::vector<Vec2> points = section.points;
  if (points.front().x > points.back().x) std::reverse(points.begin(), points.end());
  const NeckShape::Taper t = neck.taper(section.x);
  const auto depth_at = [&](double y) {
    const auto after = std::lower_bound(points.begin(), points.end(), y, [](Vec2 p, double v) { return p.x < v; });
    if (after == points.begin()) return points.front().y;
    if (after == points.end()) return points.back().y;
    const Vec2 a = *(after - 1);
    return a.y + (after->y - a.y) * (y - a.x) / (after->x - a.x);
  };
  const int n = std::clamp(static_cast<int>(points.size()), 24, 96);
  std::vector<FairSample> out;
  for (int k = 0; k < n; ++k) {
    const double phi = pi * (k + 0.5) / n;
    const double y = t.middle + t.half * std::cos(phi);
    const double other = t.middle - t.half * std::cos(phi);
    if (y < points.front().x || y > points.back().x) continue;  // beyond what was measured
    double depth = depth_at(y);
    if (other >= points.front().x && other <= points.back().x) {
      if (std::abs(depth_at(other) - depth) > 1e-9) mirrored = false;
      if (fold) depth = (depth + depth_at(other)) / 2;
    }
    const double sine = std::sin(phi);
    // Near the edges the side is steep: an error in depth counts for its part square to the surface.
    out.push_back({section.x, phi, depth / sine, sine * std::max(0.15, sine)});
  }
  return out;
}

Expected<void> fair_sections(NeckShape& neck) {
  const BackNumbers& back = neck.given.back;
  if (auto bad = check_sections(back.sections, &neck); !bad.empty()) return tl::unexpected(bad.front());
  std::vector<FairSample> samples;
  bool mirrored = true;
  double low = 1e300;
  double high = -1e300;
  double gap = 1e300;
  std::vector<double> places;
  for (const BackSection& s : back.sections) {
    for (const FairSample& f : section_samples(s, neck, back.symmetric, mirrored)) samples.push_back(f);
    places.push_back(s.x);
  }
  std::sort(places.begin(), places.end());
  low = places.front();
  high = places.back();
  for (std::size_t i = 1; i < places.size(); ++i) gap = std::min(gap, places[i] - places[i - 1]);
  FairOptions o;
  // The surface reaches over the whole shaft; beyond the outermost sections the penalty carries it on.
  o.u0 = std::min(low, -neck.head_blend_end);
  o.u1 = std::max(high, neck.end_x);
  if (o.u1 - o.u0 < 1) o.u1 = o.u0 + 1;
  o.v0 = 0;
  o.v1 = pi;
  o.pieces_u = std::clamp(static_cast<int>((o.u1 - o.u0) / std::max(gap, 4.0)), 16, 120);
  o.pieces_v = 14;
  o.within = back.fair_within;
  o.symmetric_in_v = back.symmetric || mirrored;
  neck.measured_symmetric = o.symmetric_in_v;
  auto fit = fit_fair(samples, o);
  if (!fit) return tl::unexpected(fit.error());
  neck.measured = std::move(fit->surface);
  // Departures are told square to the surface, section by section, from the points as they were given.
  for (const BackSection& s : back.sections) {
    SectionDeparture d{s.x, 0, {s.x, 0}};
    const NeckShape::Taper t = neck.taper(s.x);
    for (const Vec2 p : s.points) {
      const double share = (p.x - t.middle) / t.half;
      if (std::abs(share) > 0.995) continue;
      const auto at = [&](double y) {
        const double phi = std::acos(std::clamp((y - t.middle) / t.half, -1.0, 1.0));
        return neck.measured.value(s.x, phi) * std::sin(phi);
      };
      const double slope = (at(p.x + 0.05) - at(p.x - 0.05)) / 0.1;
      const double off = std::abs(at(p.x) - p.y) / std::sqrt(1 + slope * slope);
      if (off > d.worst) d = {s.x, off, {s.x, p.x}};
    }
    neck.departures.push_back(d);
  }
  return {};
}

void lay_rod(NeckShape& neck) {
  const RodNumbers& rod = neck.given.rod;
  if (rod.kind == RodKind::none) return;
  const bool from_back = neck.given.build == NeckBuild::one_piece;
  neck.rod_start = rod.start;
  neck.rod_end = rod.start + rod.length;
  const double middle = (neck.rod_start + neck.rod_end) / 2;
  const double half = rod.length / 2;
  const auto bow = [rod, middle, half](double x) {
    if (rod.bottom == RodBottom::straight) return 0.0;
    const double u = std::clamp((x - middle) / half, -1.0, 1.0);
    return rod.sag * (1 - u * u);
  };
  Channel slot{"rod", "Rod slot", {neck.rod_start + rod.width / 2, 0}, {neck.rod_end - rod.width / 2, 0}, rod.width,
               {},    from_back};
  // A round floor rises from its middle like the ball that cuts it; the slot is as deep as its middle.
  slot.round = rod.round;
  const auto rise = [round = rod.round, half = rod.width / 2, axis = Segment2{slot.a, slot.b}](Vec2 p) {
    if (!round) return 0.0;
    const double off = std::min(half, distance_to(p, axis));
    return half - std::sqrt(half * half - off * off);
  };
  if (from_back)
    slot.floor = [rod, bow, rise](Vec2 p) { return -(rod.cover + bow(p.x)) - rise(p); };
  else
    slot.floor = [rod, bow, rise](Vec2 p) { return -(rod.depth + bow(p.x)) + rise(p); };
  neck.channels.push_back(slot);
  if (rod.pocket_length > 0 && rod.pocket_width > rod.width) {
    const bool at_head = rod.adjuster == RodEnd::head;
    const double x0 = at_head ? neck.rod_start - rod.pocket_length * 0.4 : neck.rod_end - rod.pocket_length * 0.6;
    Channel pocket{"rod-pocket",
                   "Adjuster pocket",
                   {x0 + rod.pocket_width / 2, 0},
                   {x0 + rod.pocket_length - rod.pocket_width / 2, 0},
                   rod.pocket_width,
                   {},
                   from_back};
    if (from_back)
      pocket.floor = [rod](Vec2) { return -std::max(1.0, rod.cover - (rod.pocket_depth - rod.depth)); };
    else
      pocket.floor = [rod](Vec2) { return -rod.pocket_depth; };
    if (pocket.b.x < pocket.a.x) pocket.b = pocket.a;
    neck.channels.push_back(pocket);
  }
  for (int k = 0; k < rod.bars; ++k) {
    // Bars follow the taper: they keep their distance from the edge's direction, not from the centre line.
    const double side = k % 2 == 0 ? -1 : 1;
    const double x0 = neck.rod_start + 6;
    const double x1 = std::min(x0 + rod.bar_length, neck.end_x - 10);
    const double slope = side < 0 ? neck.low_slope : neck.high_slope;
    const double y0 = side * rod.bar_offset;
    Channel bar{fmt::format("bar-{}", k + 1),
                worded("Carbon bar {}", k + 1),
                {x0, y0},
                {x1, y0 + slope * 0.5 * (x1 - x0)},
                rod.bar_width,
                {},
                from_back};
    if (from_back)
      bar.floor = [rod](Vec2) { return -rod.cover; };
    else
      bar.floor = [rod](Vec2) { return -rod.bar_depth; };
    neck.channels.push_back(bar);
  }
}

void lay_nut(NeckShape& neck) {
  const NutNumbers& nut = neck.given.nut;
  if (nut.seat != NutSeat::slot) return;
  // Just behind the nut line and parallel to it, out through both edges.
  const Vec2 middle = neck.nut_middle + neck.head_way * (nut.thickness / 2);
  const Vec2 u = left_of(neck.head_way);
  const double half = neck.board->nut_line.width() / 2 + nut.thickness;
  neck.channels.push_back({"nut", "Nut slot", middle - u * half, middle + u * half, nut.thickness,
                           [d = nut.depth](Vec2) { return -d; }, false});
}

void lay_heel_holes(NeckShape& neck) {
  const HeelNumbers& heel = neck.given.heel;
  if (heel.holes == HeelHoles::none || neck.given.joint != NeckJoint::bolted) return;
  int n = 0;
  for (const double back : {heel.hole_from_end, heel.hole_from_end + heel.hole_along})
    for (const double side : {-0.5, 0.5}) {
      const double x = neck.end_x - back;
      neck.holes.push_back({fmt::format("heel-{}", ++n),
                            {x, neck.taper(x).middle + side * heel.hole_across},
                            heel.hole_diameter,
                            heel.hole_depth});
    }
}

}  // namespace

double section_share(BackShape shape, double s, double lean) {
  s = std::clamp(s, -1.0, 1.0);
  if (shape == BackShape::leaning && lean == 0) lean = 0.18;
  if (lean != 0) s = s - lean * (1 - s * s);
  return std::sqrt(std::max(0.0, 1 - section_fall(shape, s)));
}

double smooth_step(double u) {
  if (u <= 0) return 0;
  if (u >= 1) return 1;
  return u * u * u * (10 + u * (6 * u - 15));
}

double arc_length_of_step(double radius, double rise) {
  // The step's steepest bend: max |d²/du² (6u⁵ − 15u⁴ + 10u³)| = 10/√3 at u = ½ ± 1/(2√3).
  return std::sqrt(10 / std::sqrt(3.0) * radius * std::abs(rise));
}

NeckShape::Taper NeckShape::taper(double x) const {
  x = std::min(x, end_x);
  const double low = low_nut + low_slope * x;
  const double high = high_nut + high_slope * x;
  return {(low + high) / 2, (high - low) / 2};
}

double NeckShape::shaft_depth(double x) const { return shaft_start + shaft_slope * x; }

double NeckShape::depth(Vec2 p) const {
  const double behind = behind_nut(p);
  const double head = smooth_step((behind - head_blend_start) / (head_blend_end - head_blend_start));
  const double heel = smooth_step((p.x - (heel_x - heel_blend)) / heel_blend);
  double out = 0;
  // Ahead of the head the sections widen, sooner than its outline does, and take the head's middle for theirs.
  Taper t = taper(p.x);
  const double widen = smooth_step(1.7 * (behind - head_blend_start) / (head_blend_end - head_blend_start));
  if (widen > 0)
    t = {t.middle + (middle_head - t.middle) * widen, t.half + (std::max(half_head, t.half) - t.half) * widen};
  const double s = (p.y - t.middle) / t.half;
  if (head < 1 && heel < 1) {
    double shaft;
    if (measured.empty()) {
      const BackNumbers& b = given.back;
      const double mix = smooth_step((p.x - shape_from) / shape_run);
      // A symmetric section is asked for by distance from the middle: equal to the last bit on both sides.
      const bool leans = b.lean != 0 || b.shape_a == BackShape::leaning || b.shape_b == BackShape::leaning;
      const double at = leans ? s : std::abs(s);
      const double bent = board->given.strings.left_handed ? -b.lean : b.lean;
      double share = 0;
      if (mix < 1) share += (1 - mix) * section_share(b.shape_a, at, bent);
      if (mix > 0) share += mix * section_share(b.shape_b, at, bent);
      shaft = shaft_depth(p.x) * share;
    } else {
      const double c = std::clamp(std::abs(s), 0.0, 1.0);
      const double phi = std::acos(c);
      // A symmetric surface is read from one end for both sides: equal to the last bit.
      shaft = measured.value(p.x, s >= 0 || measured_symmetric ? phi : pi - phi) * std::sqrt(std::max(0.0, 1 - c * c));
    }
    out += (1 - head - heel) * shaft;
  }
  if (head > 0) {
    const HeadNumbers& h = given.head;
    double slab = h.drop + h.thickness;  // a veneer lies on a face that is cut that much lower
    if (h.kind == HeadKind::tilted) {
      const double a = h.angle_deg * pi / 180;
      slab = (behind - h.shelf) * std::tan(a) + (h.thickness - h.veneer) / std::cos(a);
    }
    out += head * slab;
  }
  if (heel > 0) out += heel * (given.heel.thickness - board->given.board.thickness);
  if (given.head.volute) {
    const double at = (head_blend_start + head_blend_end) / 2;
    const double v = (behind - at) / (given.head.volute_length / 2);
    if (std::abs(v) < 1 && std::abs(s) < 1) {
      const double lengthwise = 1 - v * v;
      const double across = 1 - s * s;
      out += given.head.volute_height * lengthwise * lengthwise * lengthwise * across * across * across;
    }
  }
  return out;
}

double NeckShape::front(Vec2 p) const {
  const double behind = behind_nut(p);
  const HeadNumbers& h = given.head;
  if (behind <= 0 && given.build == NeckBuild::one_piece) return board->crown_height(p);
  const double past = behind - h.shelf;
  if (past <= 0) return 0;
  if (h.kind == HeadKind::tilted) return -past * std::tan(h.angle_deg * pi / 180);
  // A hollow arc from the shelf's edge down to the face, which it meets without a step. A veneer takes its room from
  // the wood under a flat face; on a tilted one it stands up behind the nut.
  const double drop = h.drop + h.veneer;
  const double r = std::max(h.step_radius, drop + 1e-6);
  const double run = std::sqrt(r * r - (r - drop) * (r - drop));
  if (past >= run) return -drop;
  const double to_go = run - past;
  return -drop + (r - std::sqrt(r * r - to_go * to_go));
}

double NeckShape::face(Vec2 p) const {
  const HeadNumbers& h = given.head;
  if (h.veneer <= 0 || behind_nut(p) <= h.shelf) return front(p);
  return h.kind == HeadKind::tilted ? front(p) + h.veneer / std::cos(h.angle_deg * pi / 180)
                                    : std::max(-h.drop, front(p));
}

double NeckShape::finished_front(Vec2 p) const {
  double z = front(p);
  for (const Channel& c : channels)
    if (!c.from_back && c.holds(p)) z = std::min(z, c.floor(p));
  for (const Hole& h : holes)
    if (h.through() && distance(p, h.at) <= h.diameter / 2) z = -1e6;
  return z;
}

double NeckShape::finished_depth(Vec2 p) const {
  double d = depth(p);
  for (const Channel& c : channels)
    if (c.from_back && c.holds(p)) d = std::min(d, -c.floor(p));
  for (const Hole& h : holes)
    if (distance(p, h.at) <= h.diameter / 2) d = h.through() ? -1e6 : std::min(d, depth(h.at) - h.depth);
  return d;
}

TwoSkin NeckShape::solid() const {
  const auto shape = std::make_shared<NeckShape>(*this);
  return {outline, [shape](Vec2 p) { return shape->front(p); }, [shape](Vec2 p) { return -shape->depth(p); }};
}

TwoSkin NeckShape::finished() const {
  const auto shape = std::make_shared<NeckShape>(*this);
  // Through a hole both skins meet: no wood.
  return {outline,
          [shape](Vec2 p) { return std::max(shape->finished_front(p), -std::max(shape->finished_depth(p), -1e3)); },
          [shape](Vec2 p) { return -std::max(shape->finished_depth(p), -1e3); }};
}

double NeckShape::whole_thickness(double x) const {
  const Vec2 p{x, 0};
  if (behind_nut(p) > 0) return front(p) + depth(p);
  return depth(p) + (x <= end_x ? board->given.board.thickness : 0);
}

int NeckShape::nearest_fret(double x) const {
  int best = 0;
  double least = std::abs(x);
  for (const FretLine& f : board->frets)
    if (const double d = std::abs(f.middle().x - x); d < least) {
      least = d;
      best = f.number;
    }
  return best;
}

double NeckShape::fret_x(int n) const {
  for (const FretLine& f : board->frets)
    if (f.number == n) return f.middle().x;
  return n <= 0 ? 0 : board->last_fret_x;
}

std::vector<Problem> check_sections(const std::vector<BackSection>& sections, const NeckShape* neck) {
  std::vector<Problem> out;
  const auto bad = [&](Words what, std::string where, Words todo) {
    out.push_back({ProblemKind::input, std::move(what), "neck.sections, " + std::move(where), std::move(todo)});
  };
  if (sections.size() > most_sections) {
    bad(worded("{} sections are too many", sections.size()), "all", worded("Give at most {}", most_sections));
    return out;
  }
  std::vector<double> places;
  for (std::size_t k = 0; k < sections.size(); ++k) {
    const BackSection& s = sections[k];
    const std::string where = fmt::format("section {} at x {:.1f}", k + 1, s.x);
    if (!std::isfinite(s.x)) bad("its place is not a number", where, "Give the distance from the nut line");
    if (s.points.size() < 3)
      bad(worded("{} points are too few for a section", s.points.size()), where,
          "Trace it with five or more, edge to edge");
    if (s.points.size() > most_section_points)
      bad(worded("{} points are too many for a section", s.points.size()), where,
          worded("Give at most {}", most_section_points));
    if (out.size() > 8) return out;
    if (s.points.size() < 3 || s.points.size() > most_section_points) continue;
    bool finite = true;
    int forward = 0;
    int backward = 0;
    for (std::size_t i = 0; i < s.points.size(); ++i) {
      finite = finite && std::isfinite(s.points[i].x) && std::isfinite(s.points[i].y);
      if (i > 0) (s.points[i].x > s.points[i - 1].x ? forward : backward)++;
    }
    if (!finite) {
      bad("a point is not a number", where, "Correct it");
      continue;
    }
    if (forward > 0 && backward > 0) {
      std::size_t turn = 1;
      const bool up = s.points[1].x > s.points[0].x;
      while (turn + 1 < s.points.size() && (s.points[turn + 1].x > s.points[turn].x) == up) ++turn;
      bad(worded("it runs back on itself at point {} (y {}): a section goes from one edge to the other without turning",
                 turn + 1, mm(s.points[turn].x)),
          where, "Trace it again, or drop that point");
      continue;
    }
    for (std::size_t i = 0; i < s.points.size(); ++i)
      if (s.points[i].y < -1.0) {
        bad(worded("point {} stands {} above the glue plane", i + 1, mm(-s.points[i].y)), where,
            "Depths are positive away from the strings");
        break;
      }
    if (neck != nullptr) {
      if (s.x < neck->tip_x - 1 || s.x > neck->end_x + 1) {
        bad(worded("x {} lies outside the neck ({} to {})", mm(s.x, 1), mm(neck->tip_x, 1), mm(neck->end_x, 1)), where,
            "Measure from the nut line towards the bridge");
        continue;
      }
      const NeckShape::Taper t = neck->taper(s.x);
      for (std::size_t i = 0; i < s.points.size(); ++i)
        if (s.x > 0 && std::abs(s.points[i].x - t.middle) > t.half + 1.0) {
          bad(worded("point {} stands {} outside the neck's edge ({} from the centre line there)", i + 1,
                     mm(std::abs(s.points[i].x - t.middle) - t.half), mm(t.half)),
              where, "Check the unit, and that the middle of the neck is y = 0");
          break;
        }
    }
    for (const double other : places)
      if (std::abs(other - s.x) < 0.5) bad("two sections stand at the same place", where, "Keep one of them");
    places.push_back(s.x);
  }
  return out;
}

namespace {
Expected<NeckShape> finish_neck(const Fretboard& board, NeckShape neck);
}

Expected<NeckShape> make_neck(const Fretboard& board, const Neck& given) {
  NeckShape neck;
  neck.given = given;
  if (given.accent > 0) {
    if (given.build == NeckBuild::one_piece)
      return tl::unexpected(contradiction("an accent strip lies under a board of its own, and this neck is one piece",
                                          "neck.accent", "Leave the strip out, or glue a board on"));
    if (given.heel.thickness - board.given.board.thickness - given.accent < 5)
      return tl::unexpected(contradiction(
          worded("an accent strip of {} under a board of {} leaves {} of a heel that is {} in all", mm(given.accent, 1),
                 mm(board.given.board.thickness, 1),
                 mm(given.heel.thickness - board.given.board.thickness - given.accent, 1), mm(given.heel.thickness, 1)),
          "neck.accent", "Take a thinner strip, or make the heel thicker"));
    // To the neck it is part of the board: everything above its glue plane stands so much higher.
    Fretboard raised = board;
    raised.given.board.thickness += given.accent;
    return finish_neck(raised, std::move(neck));
  }
  return finish_neck(board, std::move(neck));
}

namespace {

Expected<NeckShape> finish_neck(const Fretboard& board, NeckShape neck) {
  const Neck& given = neck.given;
  neck.board = std::make_shared<const Fretboard>(board);
  const FretLine& nut = board.nut_line;
  const FretLine& last = board.frets.back();
  const bool bass_low = nut.bass_edge.y < nut.treble_edge.y;
  const Vec2 low0 = bass_low ? nut.bass_edge : nut.treble_edge;
  const Vec2 high0 = bass_low ? nut.treble_edge : nut.bass_edge;
  const Vec2 low1 = bass_low ? last.bass_edge : last.treble_edge;
  const Vec2 high1 = bass_low ? last.treble_edge : last.bass_edge;
  neck.low_slope = (low1.y - low0.y) / (low1.x - low0.x);
  neck.high_slope = (high1.y - high0.y) / (high1.x - high0.x);
  neck.low_nut = low0.y - neck.low_slope * low0.x;
  neck.high_nut = high0.y - neck.high_slope * high0.x;
  neck.nut_middle = nut.middle();
  const Vec2 along = unit(high0 - low0);
  neck.head_way = left_of(along);  // towards −x
  neck.end_x = board.last_fret_x + board.given.board.overhang + given.heel.beyond;
  neck.heel_x = neck.end_x - given.heel.start;
  const HeadNumbers& head = given.head;
  neck.head_blend_start = -head.transition_start;
  neck.head_blend_end = -head.transition_start + head.transition;

  const auto& b = given.back;
  const double board_part = b.with_board ? board.given.board.thickness : 0;
  if (b.fret_a >= b.fret_b)
    return tl::unexpected(
        contradiction(worded("the first thickness is given at fret {} and the second at fret {}", b.fret_a, b.fret_b),
                      "neck.fret_b", "Give the second further up the neck"));
  if (b.fret_b > board.given.frets.count)
    return tl::unexpected(contradiction(worded("there is no fret {} on this board", b.fret_b), "neck.fret_b",
                                        worded("Give at most {}", board.given.frets.count)));
  for (const auto& [t, key] : {std::pair{b.thickness_a, "neck.thickness_a"}, {b.thickness_b, "neck.thickness_b"}})
    if (t - board_part < 4)
      return tl::unexpected(contradiction(worded("{} in all leaves {} of neck under a board of {}", mm(t, 1),
                                                 mm(t - board_part, 1), mm(board.given.board.thickness, 1)),
                                          key, "Give more"));
  if (head.veneer > 0 && head.thickness - head.veneer < 4)
    return tl::unexpected(
        contradiction(worded("a veneer of {} leaves {} of a head that is {} thick in all", mm(head.veneer, 1),
                             mm(head.thickness - head.veneer, 1), mm(head.thickness, 1)),
                      "head.veneer", "Take a thinner veneer, or make the head thicker"));
  if (given.heel.thickness - board.given.board.thickness < 5)
    return tl::unexpected(
        contradiction(worded("a heel of {} in all leaves nothing under the board", mm(given.heel.thickness, 1)),
                      "neck.heel_thickness", "Give more"));
  if (neck.heel_x < board.last_fret_x * 0.35)
    return tl::unexpected(contradiction("the heel is longer than the neck's playing part leaves room for",
                                        "neck.heel_start", "Shorten the heel"));
  if (head.kind == HeadKind::tilted && (head.angle_deg < 0 || head.angle_deg > 45))
    return tl::unexpected(contradiction(worded("a head tilted by {:.0f}° cannot be cut from above", head.angle_deg),
                                        "head.angle_deg", "Give 3° to 25°"));
  if (head.kind == HeadKind::flat && head.step_radius < head.drop + head.veneer)
    return tl::unexpected(contradiction(worded("a step of radius {} is tighter than the face is low ({})",
                                               mm(head.step_radius, 1), mm(head.drop + head.veneer, 1)),
                                        "head.step_radius", "Give a radius larger than the drop"));
  if (head.tuners_bass < 0 || head.tuners_bass > board.given.strings.count)
    return tl::unexpected(
        contradiction(worded("{} tuners on the bass side for {} strings", head.tuners_bass, board.given.strings.count),
                      "head.tuners_bass", worded("Give 0 to {}", board.given.strings.count)));
  if (given.rod.kind != RodKind::none && given.rod.start + given.rod.length > neck.end_x - 2)
    return tl::unexpected(contradiction(
        worded("the rod ends {} from the nut line and the neck already at {}",
               mm(given.rod.start + given.rod.length, 1), mm(neck.end_x, 1)),
        "rod.length", worded("Give at most {}, or take a shorter rod", mm(neck.end_x - 5 - given.rod.start, 0))));

  neck.shape_from = neck.fret_x(b.fret_a);
  neck.shape_run = std::max(1.0, neck.fret_x(b.fret_b) - neck.shape_from);
  neck.shaft_slope = (b.thickness_b - b.thickness_a) / neck.shape_run;
  neck.shaft_start = b.thickness_a - board_part - neck.shaft_slope * neck.shape_from;
  const double middle_depth = neck.shaft_depth(neck.heel_x);
  const double heel_depth = given.heel.thickness - board.given.board.thickness;
  const HeelNumbers& heel = given.heel;
  neck.heel_blend = heel.transition == Transition::arc
                        ? std::max(8.0, arc_length_of_step(heel.radius, heel_depth - middle_depth))
                        : std::max(8.0, heel.length);
  if (heel.transition == Transition::sections) {
    // The measured sections carry the shaft as far as they go; only the rest of the way to the block is blended.
    if (b.sections.size() < 2)
      return tl::unexpected(contradiction("the change to the heel is to follow measured sections, and there are none",
                                          "neck.heel_transition", "Load sections, or give an arc or a curve"));
    double furthest = -1e300;
    for (const BackSection& s : b.sections) furthest = std::max(furthest, s.x);
    neck.heel_blend = std::max(8.0, neck.heel_x - furthest);
  }
  if (heel.kind == HeelKind::tapered) neck.heel_blend = std::max(neck.heel_blend, 0.22 * neck.heel_x);
  if (neck.heel_blend > 0.6 * neck.heel_x)
    return tl::unexpected(
        contradiction("the change from shaft to heel is longer than the shaft", "neck.heel_length", "Shorten it"));

  lay_tuners(neck);
  if (auto drawn = lay_outline(neck); !drawn) return tl::unexpected(drawn.error());
  neck.corners = flatten(neck.outline, 0.002);
  if (!is_simple(neck.corners) || signed_area(neck.corners) <= 0)
    return tl::unexpected(contradiction("the neck's outline crosses itself",
                                        head.shape == HeadShape::drawn ? "head.drawn" : "head.first_post",
                                        "Check the head's numbers: posts, edge, margins, rounding"));
  const Box2 box = bounds(neck.corners);
  neck.tip_x = box.low.x;
  double low = 0;
  double high = 0;
  for (const Vec2 p : neck.corners)
    if (neck.behind_nut(p) > 0) {
      low = std::min(low, p.y);
      high = std::max(high, p.y);
    }
  neck.half_head = (high - low) / 2 + 4;
  neck.middle_head = (high + low) / 2;
  // One section alone makes no back: the numbers hold until there is a second.
  if (b.sections.size() == 1)
    if (auto wrong = check_sections(b.sections, &neck); !wrong.empty()) return tl::unexpected(wrong.front());
  if (b.sections.size() > 1)
    if (auto faired = fair_sections(neck); !faired) return tl::unexpected(faired.error());
  lay_rod(neck);
  lay_nut(neck);
  lay_heel_holes(neck);
  lay_tuner_holes(neck);
  return neck;
}

}  // namespace

Skin least_skin(const NeckShape& neck, Vec2 shift) {
  Skin out;
  const bool one_piece = neck.given.build == NeckBuild::one_piece;
  for (const Channel& c : neck.channels) {
    if (c.id == "nut") continue;
    const Vec2 u = unit(c.b - c.a);
    const Vec2 n = c.a == c.b ? Vec2{0, 1} : left_of(u);
    const double l = distance(c.a, c.b);
    const int steps = std::max(2, static_cast<int>(l / 3));
    for (int k = 0; k <= steps; ++k)
      for (const double side : {-0.5, 0.0, 0.5}) {
        const Vec2 p = c.a + u * (l * k / steps) + n * (side * c.width);
        double least = 1e9;
        if (one_piece) {
          // The wood that stays between the rod and the strings.
          least = neck.front(p) - c.floor(p);
        } else {
          // Nearest place of the back's surface around the channel's bottom edge.
          const double bottom = -c.floor(p);
          const double straight = neck.depth(p - shift) - bottom;
          least = straight;
          // The nearest place is never nearer than about half as far as straight down on any back a hand holds.
          if (straight > 2.2 * out.least) continue;
          const double reach = std::clamp(straight, 1.0, 14.0);
          for (int i = -8; i <= 8; ++i)
            for (int j = -2; j <= 2; ++j) {
              const Vec2 d{j * reach / 4, i * reach / 8};
              const Vec2 q = p - shift + d;
              if (std::abs(q.y - neck.taper(q.x).middle) > neck.taper(q.x).half && neck.behind_nut(q) < 0) continue;
              const double down = neck.depth(q) - bottom;
              if (down <= 0)
                least = std::min(least, down);
              else if (straight > 0)
                least = std::min(least, std::hypot(d.x, d.y, down));
            }
        }
        if (least < out.least) out = {least, p, c.id};
      }
  }
  return out;
}

Lump worst_lump(const NeckShape& neck) {
  // Second differences against their neighbours': a straight, round or evenly bending back gives nothing, a bump of
  // height b narrower than the reach gives b. Two reaches: a dent under a palm, and a swelling that two frets share.
  Lump out;
  for (const double h : {25.0, 50.0}) {
    const double x0 = 2 * h - std::min(0.0, neck.head_blend_start) + 4;
    const double x1 = neck.heel_x - neck.heel_blend - 2 * h;
    for (double x = x0; x <= x1; x += 3)
      for (const double s : {-0.75, -0.5, -0.25, 0.0, 0.25, 0.5, 0.75}) {
        const auto at = [&](double xx) {
          const NeckShape::Taper t = neck.taper(xx);
          return neck.depth({xx, t.middle + s * t.half});
        };
        const double lump = (6 * at(x) - 4 * (at(x - h) + at(x + h)) + at(x - 2 * h) + at(x + 2 * h)) / 6;
        if (std::abs(lump) > std::abs(out.height)) out = {lump, {x, neck.taper(x).middle + s * neck.taper(x).half}};
      }
  }
  return out;
}

double along_curvature(const NeckShape& neck, Vec2 p) {
  constexpr double h = 2;
  // Along a line of constant share of the width, as a hand slides.
  const NeckShape::Taper t = neck.taper(p.x);
  const double s = std::clamp((p.y - t.middle) / t.half, -0.97, 0.97);
  const auto at = [&](double x) {
    const NeckShape::Taper q = neck.taper(x);
    return neck.depth({x, q.middle + s * q.half});
  };
  return (at(p.x - h) - 2 * at(p.x) + at(p.x + h)) / (h * h);
}

double mean_curvature(const NeckShape& neck, Vec2 p) {
  constexpr double h = 0.5;
  const auto z = [&](double dx, double dy) { return neck.depth({p.x + dx, p.y + dy}); };
  const double zx = (z(h, 0) - z(-h, 0)) / (2 * h);
  const double zy = (z(0, h) - z(0, -h)) / (2 * h);
  const double zxx = (z(h, 0) - 2 * z(0, 0) + z(-h, 0)) / (h * h);
  const double zyy = (z(0, h) - 2 * z(0, 0) + z(0, -h)) / (h * h);
  const double zxy = (z(h, h) - z(h, -h) - z(-h, h) + z(-h, -h)) / (4 * h * h);
  const double g = 1 + zx * zx + zy * zy;
  return -((1 + zy * zy) * zxx - 2 * zx * zy * zxy + (1 + zx * zx) * zyy) / (2 * g * std::sqrt(g));
}

}  // namespace wren

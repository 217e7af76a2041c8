#include "core/cutting/outline.hpp"
#include "core/plan/region.hpp"

#include <algorithm>
#include <numbers>

namespace wren {
namespace {

/// A closed path measured by its length, from which pieces are emitted with a height that depends on the place.
class Loop {
 public:
  explicit Loop(const Contour& contour) {
    for (std::size_t i = 0; i < contour.size(); ++i) {
      const Vec2 a = contour[i].at;
      const Vec2 b = contour[(i + 1) % contour.size()].at;
      if (a == b) continue;
      Edge e{a, b, contour[i].bulge, total_, distance(a, b)};
      if (e.bulge != 0) {
        const Arc arc = arc_of(a, b, e.bulge);
        e.length = std::abs(arc.radius * arc.sweep);
      }
      total_ += e.length;
      edges_.push_back(e);
    }
  }
  [[nodiscard]] double total() const { return total_; }

  /// Goes from s0 forward to s1 > s0 (beyond the total: round again), stopping at edge ends and at `breaks` (within one
  /// turn).
  template <class HeightAt>
  void emit(Strand& strand, double s0, double s1, const std::vector<double>& breaks, const HeightAt& z,
            double feed) const {
    std::vector<double> stops;
    for (double turn = std::floor(s0 / total_) * total_; turn < s1; turn += total_) {
      for (const Edge& e : edges_) stops.push_back(turn + e.from + e.length);
      for (const double b : breaks) stops.push_back(turn + b);
    }
    stops.push_back(s1);
    std::sort(stops.begin(), stops.end());
    double at = s0;
    for (const double stop : stops) {
      if (stop <= at + 1e-7 || stop > s1 + 1e-9) continue;
      piece(strand, at, stop, z(stop), feed);
      at = stop;
    }
  }
  [[nodiscard]] Vec2 point(double s) const {
    const auto [e, t] = find(s);
    if (e->bulge == 0) return lerp(e->a, e->b, t / e->length);
    const Arc arc = arc_of(e->a, e->b, e->bulge);
    const double angle = arc.start + arc.sweep * t / e->length;
    return arc.centre + Vec2{std::cos(angle), std::sin(angle)} * std::abs(arc.radius);
  }

 private:
  struct Edge {
    Vec2 a, b;
    double bulge;
    double from;
    double length;
  };
  [[nodiscard]] std::pair<const Edge*, double> find(double s) const {
    s = std::fmod(s, total_);
    if (s < 0) s += total_;
    const auto it = std::lower_bound(edges_.begin(), edges_.end(), s,
                                     [](const Edge& e, double at) { return e.from + e.length < at; });
    if (it != edges_.end()) return {&*it, s - it->from};
    return {&edges_.back(), edges_.back().length};
  }
  /// Precondition: [s0, s1] lies within one edge.
  void piece(Strand& strand, double s0, double s1, double z, double feed) const {
    const Edge* e = find((s0 + s1) / 2).first;
    const Vec2 to = point(s1);
    Step step{{to.x, to.y, z}, {}, feed, StepKind::line};
    if (e->bulge != 0) {
      step.kind = e->bulge > 0 ? StepKind::arc_ccw : StepKind::arc_cw;
      step.centre = arc_of(e->a, e->b, e->bulge).centre;
    }
    strand.steps.push_back(step);
  }
  std::vector<Edge> edges_;
  double total_ = 0;
};

Contour reversed(const Contour& c) {
  Contour out;
  const std::size_t n = c.size();
  for (std::size_t i = n; i-- > 0;) out.push_back({c[i].at, -c[(i + n - 1) % n].bulge});
  return out;
}

struct TabSpan {
  double low;   // where the ramp up begins
  double high;  // where the ramp down ends
  double top;   // of its wood
};

/// Height of the tip along the loop: the level, lifted over the tabs with a 45° slope on both sides.
struct Floor {
  double level;
  double total;
  const std::vector<TabSpan>* tabs;
  [[nodiscard]] double operator()(double s) const {
    s = std::fmod(s, total);
    if (s < 0) s += total;
    double z = level;
    for (const TabSpan& t : *tabs)
      for (const double shift : {-total, 0.0, total}) {
        const double in = std::min(s - (t.low + shift), t.high + shift - s);  // > 0 inside
        if (in > -1e-9) z = std::max(z, std::min(std::max(t.top, level), level + in));
      }
    return z;
  }
};

class OutlineCutter {
 public:
  OutlineCutter(Contour path, const Contour& part, const OutlinePlan& plan) : plan_(plan), loop_(path) {
    const double half = (plan.tab_length + plan.cutter.effective_diameter()) / 2;
    for (std::size_t k = 0; k < plan.tabs.size(); ++k) {
      const double lift = k < plan.tab_lifts.size() ? plan.tab_lifts[k] : 0;
      const double rise = plan.tab_height + lift + plan.through;
      const double here = nearest_along(path, place_along(part, plan.tabs[k]).at);
      tabs_.push_back({here - half - rise, here + half + rise, plan.tab_height + lift});
      for (const double b : {here - half - rise, here - half, here + half, here + half + rise}) breaks_.push_back(b);
    }
    for (double& b : breaks_) {
      b = std::fmod(b, loop_.total());
      if (b < 0) b += loop_.total();
    }
    start_ = quiet_start();
  }
  [[nodiscard]] double start() const { return start_; }
  [[nodiscard]] const Loop& loop() const { return loop_; }

  /// All depths in one strand: a ramp down along the path, a full round, and so on.
  [[nodiscard]] Strand depths() const {
    Strand strand;
    strand.plunge_feed = plan_.feeds.plunge;
    strand.free_z = plan_.wood_top;
    lead_in(strand, plan_.wood_top);
    const double deepest = -plan_.through;
    const double bite = depth_per_pass(plan_.cutter);
    const int n = std::max(1, static_cast<int>(std::ceil((plan_.wood_top - deepest) / bite - 1e-9)));
    double z = plan_.wood_top;
    double s = start_;
    const double ramp = std::min(loop_.total() / 3, 30.0);
    for (int i = 1; i <= n; ++i) {
      const double level = plan_.wood_top + (deepest - plan_.wood_top) * i / n;
      const Floor before = floor(z);
      const Floor after = floor(level);
      const double from = s;
      const double drop = z - level;
      std::vector<double> more = breaks_;
      for (int k = 1; k < 8; ++k) more.push_back(std::fmod(from + ramp * k / 8, loop_.total()));
      loop_.emit(
          strand, s, s + ramp, more, [&](double q) { return std::max(after(q), before(q) - drop * (q - from) / ramp); },
          plan_.feeds.feed);
      loop_.emit(strand, s + ramp, s + ramp + loop_.total(), breaks_, after, plan_.feeds.feed);
      s += ramp + loop_.total();
      s = std::fmod(s, loop_.total());
      z = level;
    }
    return strand;
  }

  /// One round at full depth: joined from the rough path by a slant that takes only the skim.
  [[nodiscard]] Strand skim_round(const OutlineCutter& rough) const {
    Strand strand;
    strand.plunge_feed = plan_.feeds.plunge;
    const Floor deep = floor(-plan_.through);
    const double slant = std::min(8.0, loop_.total() / 10);
    const Vec2 begin = rough.loop().point(nearest_rough(rough, start_) - slant);
    strand.start = {begin.x, begin.y, deep(start_)};
    strand.free_z = plan_.wood_top;
    const Vec2 on = loop_.point(start_);
    strand.steps.push_back({{on.x, on.y, deep(start_)}, {}, plan_.feeds.feed, StepKind::line});
    loop_.emit(strand, start_, start_ + loop_.total() + 2, breaks_, deep, plan_.feeds.feed);
    const Vec2 off = rough.loop().point(nearest_rough(rough, start_ + 2) + slant);
    const Vec3 end = strand.end();
    strand.steps.push_back(
        {{off.x, off.y, std::max(end.z, deep(start_ + 2 + slant))}, {}, plan_.feeds.feed, StepKind::line});
    return strand;
  }

  /// One stretch of the last skim, from s0 to s1 along this way (s1 > s0), forwards or backwards; in and out over
  /// `clear` mm beside it.
  [[nodiscard]] Strand stretch(double s0, double s1, bool backwards, double clear) const {
    const Floor deep = floor(-plan_.through);
    Strand run;
    const Vec2 first = loop_.point(s0);
    run.start = {first.x, first.y, deep(s0)};
    loop_.emit(run, s0, s1, breaks_, deep, plan_.feeds.feed);
    if (backwards) {
      Strand back;
      back.start = run.end();
      for (std::size_t k = run.steps.size(); k-- > 0;) {
        Step step = run.steps[k];
        step.to = k > 0 ? run.steps[k - 1].to : run.start;
        if (step.kind != StepKind::line)
          step.kind = step.kind == StepKind::arc_cw ? StepKind::arc_ccw : StepKind::arc_cw;
        back.steps.push_back(step);
      }
      run = std::move(back);
    }
    // Outside lies on the right of a counter-clockwise way.
    const auto outward = [&](double s) {
      return left_of(unit(loop_.point(s + 0.05) - loop_.point(s - 0.05))) * -clear;
    };
    const Vec2 a = flat(run.start) + outward(backwards ? s1 : s0);
    const Vec2 b = flat(run.end()) + outward(backwards ? s0 : s1);
    Strand out;
    out.plunge_feed = plan_.feeds.plunge;
    out.free_z = plan_.wood_top;
    out.start = {a.x, a.y, run.start.z};
    out.steps.push_back({run.start, {}, plan_.feeds.feed, StepKind::line});
    out.steps.insert(out.steps.end(), run.steps.begin(), run.steps.end());
    out.steps.push_back({{b.x, b.y, run.end().z}, {}, plan_.feeds.feed, StepKind::line});
    return out;
  }

 private:
  [[nodiscard]] Floor floor(double level) const { return {level, loop_.total(), &tabs_}; }

  [[nodiscard]] double nearest_rough(const OutlineCutter& rough, double s) const {
    const Vec2 p = loop_.point(s);
    double best = 0;
    double least = 1e300;
    for (int k = 0; k < 4000; ++k) {
      const double q = rough.loop().total() * k / 4000;
      if (const double d = distance(p, rough.loop().point(q)); d < least) {
        least = d;
        best = q;
      }
    }
    return best;
  }

  /// A place on a long straight edge with the most room to the tabs.
  [[nodiscard]] double quiet_start() const {
    double best = 0;
    double most = -1;
    for (int k = 0; k < 400; ++k) {
      const double s = loop_.total() * k / 400;
      double room = 60;
      for (const TabSpan& t : tabs_)
        for (const double shift : {-loop_.total(), 0.0, loop_.total()}) {
          const double d = std::max(t.low + shift - s, s - t.high - shift);
          room = std::min(room, d);
        }
      // Straight for a while on both sides: the lead-in and the overlap stand there.
      const Vec2 here = loop_.point(s);
      const Vec2 before = loop_.point(s - std::min(12.0, loop_.total() / 30));
      const Vec2 after = loop_.point(s + std::min(40.0, loop_.total() / 10));  // a small part has no longer edge
      const double straight = distance(before, here) + distance(here, after) - distance(before, after);
      room -= 1000 * std::max(0.0, straight);
      if (room > most) {
        most = room;
        best = s;
      }
    }
    return best;
  }

  /// A quarter circle onto the path from outside, at the wood's top: it ends along the path.
  void lead_in(Strand& strand, double z) const {
    const Vec2 on = loop_.point(start_);
    const Vec2 along = unit(loop_.point(start_ + 0.5) - loop_.point(start_ - 0.5));
    const Vec2 outward =
        left_of(along) * (plan_.climb ? 1.0 : -1.0);  // clockwise round the part: outside is on the left
    if (plan_.aside) {
      const Vec2 beside = on + outward * *plan_.aside;
      strand.start = {beside.x, beside.y, z};
      strand.steps.push_back({{on.x, on.y, z}, {}, plan_.feeds.feed, StepKind::line});
      return;
    }
    const double r = std::max(1.0, plan_.cutter.radius());
    const Vec2 centre = on + outward * r;
    const Vec2 begin = centre - along * r;
    strand.start = {begin.x, begin.y, z};
    strand.steps.push_back(
        {{on.x, on.y, z}, centre, plan_.feeds.feed, plan_.climb ? StepKind::arc_ccw : StepKind::arc_cw});
  }

  OutlinePlan plan_;
  Loop loop_;
  std::vector<TabSpan> tabs_;
  std::vector<double> breaks_;
  double start_ = 0;
};

}  // namespace

double nearest_along(const Contour& contour, Vec2 p) {
  const Loop loop(contour);
  double best = 0;
  double least = 1e300;
  const int n = 2000;
  for (int k = 0; k < n; ++k) {
    const double s = loop.total() * k / n;
    if (const double d = distance(p, loop.point(s)); d < least) {
      least = d;
      best = s;
    }
  }
  double step = loop.total() / n;
  while (step > 1e-6) {
    const double ahead = distance(p, loop.point(best + step));
    const double behind = distance(p, loop.point(best - step));
    if (ahead < least) {
      least = ahead;
      best += step;
    } else if (behind < least) {
      least = behind;
      best -= step;
    } else {
      step /= 2;
    }
  }
  best = std::fmod(best, loop.total());
  return best < 0 ? best + loop.total() : best;
}

std::vector<double> place_tabs(const Contour& contour, int count, const std::vector<Vec2>& avoid) {
  struct Side {
    double from;
    double length;
  };
  std::vector<Side> sides;
  double at = 0;
  double straight = 0;
  for (std::size_t i = 0; i < contour.size(); ++i) {
    const Vec2 a = contour[i].at;
    const Vec2 b = contour[(i + 1) % contour.size()].at;
    double l = distance(a, b);
    if (contour[i].bulge != 0) {
      const Arc arc = arc_of(a, b, contour[i].bulge);
      l = std::abs(arc.radius * arc.sweep);
    } else if (l > 60) {
      sides.push_back({at, l});
      straight += l;
    }
    at += l;
  }
  std::vector<double> out;
  if (sides.empty() || count <= 0) return out;
  std::vector<double> taken;
  for (const Vec2 p : avoid) taken.push_back(nearest_along(contour, p));
  std::sort(taken.begin(), taken.end());
  int left = count;
  double rest = straight;
  for (const Side& side : sides) {
    const int here = static_cast<int>(std::lround(left * side.length / rest));
    for (int k = 0; k < here; ++k) {
      double s = side.from + side.length * (k + 0.5) / here;
      // Half way between the slots on either side, so that no slot breaks out through a tab.
      const auto after = std::lower_bound(taken.begin(), taken.end(), s);
      if (after != taken.end() && after != taken.begin() && *after<side.from + side.length&&*(after - 1)> side.from)
        s = (*after + *(after - 1)) / 2;
      out.push_back(s);
    }
    left -= here;
    rest -= side.length;
  }
  return out;
}

namespace {

/// The cutter's way round a part: exact where the part is convex, else by the clipping library; finely divided where
/// heights follow an underside that is not level.
Expected<Contour> way_round(const Contour& part, double distance_out, bool divide) {
  Contour way;
  if (auto exact = offset_outside(part, distance_out)) {
    way = std::move(*exact);
  } else {
    const auto grown = offset({flatten(part, 0.002)}, distance_out);
    if (grown.empty()) return tl::unexpected(exact.error());
    // Rings inside the outermost one are pockets the cutter does not reach from outside.
    const Polygon* widest = &grown.front();
    for (const Polygon& g : grown)
      if (std::abs(signed_area(g)) > std::abs(signed_area(*widest))) widest = &g;
    for (const Vec2 p : *widest) way.push_back({p, 0});
    if (signed_area(*widest) < 0) way = reversed(way);
  }
  if (!divide) return way;
  constexpr double longest = 1.5;  // mm between heights
  Contour fine;
  const Polygon corners = flatten(way, 0.001);
  for (std::size_t i = 0; i < corners.size(); ++i) {
    const Vec2 b = corners[(i + 1) % corners.size()];
    const int n = std::max(1, static_cast<int>(std::ceil(distance(corners[i], b) / longest)));
    for (int k = 0; k < n; ++k) fine.push_back({lerp(corners[i], b, static_cast<double>(k) / n), 0});
  }
  return fine;
}

void stand_on(std::vector<Strand>& strands, const Height& underside, double radius) {
  for (Strand& s : strands) {
    // On a slanted floor the wood under the cutter's rim is higher than under its middle.
    double highest = underside(flat(s.start));
    s.start.z += highest;
    for (int k = 0; k < 8; ++k)
      highest = std::max(
          highest, underside(flat(s.start) +
                             Vec2{std::cos(k * std::numbers::pi / 4), std::sin(k * std::numbers::pi / 4)} * radius));
    s.free_z += highest;
    for (Step& step : s.steps) step.to.z += underside(flat(step.to));
  }
}

}  // namespace

Expected<std::vector<Strand>> cut_outline(const Contour& contour, const OutlinePlan& plan) {
  const double r = plan.cutter.radius();
  const bool divide = static_cast<bool>(plan.underside);
  auto fine = way_round(contour, r, divide);
  if (!fine) return tl::unexpected(fine.error());
  auto rough = way_round(contour, r + plan.skim, divide);
  if (!rough) return tl::unexpected(rough.error());
  const auto way = [&](const Contour& c) { return plan.climb ? reversed(c) : c; };
  const OutlineCutter depths(way(*rough), contour, plan);
  std::vector<Strand> out{depths.depths()};
  if (plan.skim > 0 && plan.thin > 0 && plan.thin < plan.skim) {
    auto nearly = way_round(contour, r + plan.thin, divide);
    if (!nearly) return tl::unexpected(nearly.error());
    out.push_back(OutlineCutter(way(*nearly), contour, plan).skim_round(depths));
  }
  if (plan.skim > 0 && plan.stretches.empty())
    out.push_back(OutlineCutter(way(*fine), contour, plan).skim_round(depths));
  if (plan.skim > 0 && !plan.stretches.empty()) {
    const OutlineCutter last(*fine, contour, plan);
    const double whole = last.loop().total();
    for (const OutlinePlan::Stretch& s : plan.stretches) {
      constexpr double overlap = 1.5;  // mm beyond either end, so that no ridge stays between two stretches
      const double s0 = nearest_along(*fine, place_along(contour, s.from).at);
      double s1 = nearest_along(*fine, place_along(contour, s.to).at);
      while (s1 <= s0 + 1e-6) s1 += whole;
      out.push_back(last.stretch(s0 - overlap, s1 + overlap, s.climb, plan.skim + 0.3));
    }
  }
  if (divide) stand_on(out, plan.underside, r);
  for (Strand& s : out) {
    s.start.z += plan.shift;
    s.free_z += plan.shift;
    for (Step& step : s.steps) step.to.z += plan.shift;
  }
  return out;
}

}  // namespace wren

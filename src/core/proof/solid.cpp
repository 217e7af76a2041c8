#include "core/proof/solid.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/plan/region.hpp"
#include "core/proof/clearance.hpp"

namespace wren {
namespace {

constexpr double across = 5;            // mm from the piece: further out an oversize top may end, and a tab be thinner
constexpr double thinner = 0.15;        // mm that a tab may be thinner than it is designed
constexpr double shortest = 0.8;        // of its length
constexpr double tab_aside = 3.5;       // mm along the outline
constexpr double thin_cut = 0.2;        // mm: no cut that severs a tab is as narrow
constexpr double outline_corner = 3.3;  // mm: inner corners of an outline are left as round as a usual outline cutter

}  // namespace

double Solid::read(std::size_t side, Vec2 p, double none) const {
  const Setup& setup = request_.sides[side].setup;
  const TileGrid& stock = result_.sides[side].stock;
  Vec2 q = setup.to_work.apply(turned(setup.turn, p));
  double lift = 0;
  if (side + 1 == request_.sides.size() && !(last_.by == Vec3{} && last_.angle == 0)) {
    // What stands here was cut for the place that lies so far back.
    const Vec2 middle = Vec2{setup.blank_corner.x, setup.blank_corner.y} + setup.blank_size * 0.5;
    const Vec2 r = q - middle - flat(last_.by);
    q = middle + Vec2{r.x + last_.angle * r.y, r.y - last_.angle * r.x};
    lift = last_.by.z;
  }
  double work = none;
  if (const double high = height_at(stock, q, none); high != none) work = std::min(high + lift, std::max(0.0, high));
  return work - setup.to_work.shift.z;
}

bool walk_kerf(const PieceRequest& request, const Solid& solid, double outside, std::vector<Standing>& out) {
  return walk_round(
      turned(request.sides[0].setup.turn, request.sides[0].design.outline), outline_corner,
      [&solid](Vec2 p) { return solid.thickness(p); }, outside, out);
}

bool walk_round(const Polygon& shape, double corner, const std::function<double(Vec2)>& thickness, double outside,
                std::vector<Standing>& out) {
  // Inner corners are left as round as a usual outline cutter: the walk goes round them.
  const auto grown = offset(offset({shape}, outside + corner), -corner);
  if (grown.empty()) return false;
  Contour walk;
  for (const Vec2 p : grown.front()) walk.push_back({p, 0});
  std::vector<Vec2> places;
  for (std::size_t i = 0; i < walk.size(); ++i) {
    const Vec2 b = walk[(i + 1) % walk.size()].at;
    const double l = distance(walk[i].at, b);
    const int n = std::max(1, static_cast<int>(std::lround(l / kerf_step)));
    for (int k = 0; k < n; ++k) places.push_back(lerp(walk[i].at, b, static_cast<double>(k) / n));
  }
  std::vector<double> standing;
  std::size_t open = 0;
  for (const Vec2 p : places) {
    standing.push_back(std::max(0.0, thickness(p)));
    if (standing.back() < 0.001) ++open;
  }
  if (open * 2 < standing.size()) return false;
  std::size_t first = 0;
  while (standing[first] > 0.001) ++first;
  const std::size_t n = standing.size();
  for (std::size_t k = 0; k < n;) {
    if (standing[(first + k) % n] < 0.001) {
      ++k;
      continue;
    }
    Standing s;
    const std::size_t from = k;
    while (k < n && standing[(first + k) % n] >= 0.001) {
      s.high = std::max(s.high, standing[(first + k) % n]);
      s.heights.push_back(standing[(first + k) % n]);
      s.run += distance(places[(first + k) % n], places[(first + k + 1) % n]);
      ++k;
    }
    s.middle = places[(first + (from + k) / 2) % n];
    out.push_back(s);
  }
  return true;
}

double Standing::run_at(double height) const {
  std::size_t longest = 0;
  std::size_t now = 0;
  for (const double h : heights) {
    now = h >= height ? now + 1 : 0;
    longest = std::max(longest, now);
  }
  return static_cast<double>(longest) * kerf_step;
}

double Standing::deepest_notch(double height) const {
  const auto stands = [height](double h) { return h >= height; };
  const auto first = std::find_if(heights.begin(), heights.end(), stands);
  const auto last = std::find_if(heights.rbegin(), heights.rend(), stands).base();
  return first < last ? height - *std::min_element(first, last) : 0;
}

std::size_t run_of_tab(const std::vector<Standing>& standing, const TabDesign& tab, const std::vector<bool>& used) {
  constexpr double near = 5;  // mm from a tab's place: across to the kerf's middle, and a little along
  std::size_t best = standing.size();
  for (std::size_t k = 0; k < standing.size(); ++k)
    if (distance(standing[k].middle, tab.at) < near && !used[k] &&
        (best == standing.size() || standing[k].high * standing[k].run > standing[best].high * standing[best].run))
      best = k;
  return best;
}

namespace {

/// Every tab of a run at its place, and none beside them.
void hold_each(const PieceRequest& request, const std::vector<TabDesign>& tabs, const std::vector<Standing>& standing,
               std::vector<Finding>& findings) {
  const auto tell = [&](const char* kind, Vec2 at, double number, double limit, Words text) {
    const Setup& setup = request.sides.back().setup;
    const Vec2 q = setup.to_work.apply(turned(setup.turn, at));
    findings.push_back({kind, Weight::stop, std::move(text), "", 0, {q.x, q.y, 0}, number, limit, "M10", 1});
  };
  std::vector<bool> used(standing.size(), false);
  for (const TabDesign& tab : tabs) {
    const std::size_t best = run_of_tab(standing, tab, used);
    if (best == standing.size()) {
      tell("tab_missing", tab.at, 0, tab.height, worded("There is no tab at x {:.0f}, y {:.0f}.", tab.at.x, tab.at.y));
      continue;
    }
    used[best] = true;
    const Standing& s = standing[best];
    // Crowned faces and rounded edges leave a little more than was asked for; twice as much is not as designed.
    const double thicker = std::max(1.0, 0.6 * tab.height);
    if (s.high > tab.height + thicker)
      tell("tab_thick", s.middle, s.high, tab.height,
           worded("The tab at x {:.0f}, y {:.0f} is {} high; {:.2f} is designed.", tab.at.x, tab.at.y, mm(s.high),
                  tab.height));
    // A notch takes as much of its strength as a thin tab lacks.
    const double held = s.run_at(tab.height - thinner);
    const double notch = s.deepest_notch(tab.height - thinner);
    if (held < shortest * tab.length || notch > thinner)
      tell("tab_thin", s.middle, s.high, tab.height,
           notch > thinner ? worded("The tab at x {:.0f}, y {:.0f} has a notch {} deep.", tab.at.x, tab.at.y, mm(notch))
                           : worded("The tab at x {:.0f}, y {:.0f} is {} high at most, and as high as designed over "
                                    "{}; {:.2f} and {:.1f} are designed.",
                                    tab.at.x, tab.at.y, mm(s.high), mm(held, 1), tab.height, tab.length));
  }
  for (std::size_t k = 0; k < standing.size(); ++k)
    if (!used[k] && standing[k].high >= request.tolerances.skin_height && standing[k].run > 0.8)
      tell("tab_extra", standing[k].middle, standing[k].high, 0,
           worded("Wood stands in the outline at x {:.0f}, y {:.0f}, {} high and {} long, where no tab is designed.",
                  standing[k].middle.x, standing[k].middle.y, mm(standing[k].high), mm(standing[k].run, 1)));
}

}  // namespace

std::vector<Standing> tabs_of(const PieceRequest& request, const std::vector<Standing>& standing) {
  std::vector<Standing> out;
  if (request.tabs.empty()) {
    std::copy_if(standing.begin(), standing.end(), std::back_inserter(out), [&](const Standing& s) {
      return s.high >= request.tolerances.skin_height && s.run <= request.tolerances.tab_longest;
    });
    return out;
  }
  std::vector<bool> used(standing.size(), false);
  for (const TabDesign& tab : request.tabs) {
    const std::size_t best = run_of_tab(standing, tab, used);
    if (best == standing.size()) continue;
    used[best] = true;
    out.push_back(standing[best]);
  }
  return out;
}

void hold_tabs(const PieceRequest& request, const Solid& solid, const std::vector<Standing>& standing,
               std::vector<Finding>& findings) {
  if (request.tabs.empty()) return;
  const std::size_t before = findings.size();
  hold_each(request, request.tabs, standing, findings);
  if (findings.size() > before) return;
  // A tab is as strong as it is where it is thinnest. False where the kerf is not open all round.
  const auto ring = [&](double outside, double share, double along) {
    std::vector<Standing> there;
    if (!walk_kerf(request, solid, outside, there)) return false;
    for (const TabDesign& tab : request.tabs) {
      double held = 0;
      Standing most{tab.at, 0, 0, {}};
      for (const Standing& s : there)
        if (distance(s.middle, tab.at) < outside + tab_aside + s.run / 2 && s.run_at(share * tab.height) >= held) {
          held = s.run_at(share * tab.height);
          most = s;
        }
      if (held >= along * tab.length) continue;
      const Setup& setup = request.sides.back().setup;
      const Vec2 q = setup.to_work.apply(turned(setup.turn, most.middle));
      findings.push_back(
          {"tab_thin",
           Weight::stop,
           worded("The tab at x {:.0f}, y {:.0f} is {} high at most {} from the piece, and as high as "
                  "designed over {}; {:.2f} and {:.1f} are designed.",
                  tab.at.x, tab.at.y, mm(most.high), mm(outside, 1), mm(held, 1), tab.height, tab.length),
           "",
           0,
           {q.x, q.y, 0},
           most.high,
           tab.height,
           "M10",
           1});
    }
    return findings.size() == before;
  };
  // Outwards as far as the kerf is open; beside a crown its upper side slants.
  for (double outside = kerf_middle + 1; outside < across; outside += 1)
    if (!ring(outside, 0.85, shortest)) break;
  // And inwards to the piece, closely enough for the thinnest cutter: what has run round it or left a root is no
  // matter.
  for (double outside = kerf_rim; findings.size() == before && outside < kerf_middle; outside += thin_cut)
    if (!ring(outside, 0.5, 0.5)) break;
}

namespace {

/// Places of a region, `inside` mm within its edges, `pace` apart.
template <class At>
void over(const Region& region, double inside, double pace, const At& at) {
  const Region within = offset(region, -inside);
  Box2 box;
  for (const Polygon& ring : within)
    for (const Vec2 q : ring) box.add(q);
  for (double y = box.low.y + pace / 2; y < box.high.y; y += pace) {
    std::vector<double> edges;
    for (const Polygon& ring : within)
      for (const double x : crossings(ring, {0, y}, {1, 0})) edges.push_back(x);
    std::sort(edges.begin(), edges.end());
    for (std::size_t e = 0; e + 1 < edges.size(); e += 2)
      for (double x = edges[e] + pace / 2; x < edges[e + 1]; x += pace) at(Vec2{x, y});
  }
}

Finding told(const PieceRequest& request, const char* kind, Vec2 at, double number, double limit, Words text,
             const char* rule) {
  const Setup& setup = request.sides.back().setup;
  const Vec2 q = setup.to_work.apply(turned(setup.turn, at));
  return {kind, Weight::stop, std::move(text), "", 0, {q.x, q.y, 0}, number, limit, rule, 1};
}

}  // namespace

void hold_windows(const PieceRequest& request, const Solid& solid, std::vector<Finding>& findings) {
  constexpr double closed = 0.02;  // mm of wood
  // About a tab: its flanks, and across the cutter's way to the wall, where on a bend it is longer.
  constexpr double tab_foot = 4;  // mm
  constexpr double tab_across = 8;
  const Setup& first = request.sides[0].setup;
  const double bed = first.bed_z() - first.to_work.shift.z;
  const auto thickness = [&](Vec2 p) { return solid.front(p) - bed; };
  for (const WindowDesign& w : request.windows) {
    double most = closed;
    Vec2 where;
    over(w.open, 0.3 + request.cell, std::max(0.5, request.cell), [&](Vec2 p) {
      const double t = thickness(p);
      if (t <= most) return;
      if (std::any_of(w.tabs.begin(), w.tabs.end(), [&](const TabDesign& tab) {
            return distance(p, tab.at) < std::hypot(tab.length / 2 + tab_foot, tab_across);
          }))
        return;
      most = t;
      where = p;
    });
    if (most > closed)
      findings.push_back(told(request, "window_closed", where, most, 0,
                              worded("The window '{}' is not open: {} of wood stand at x {:.0f}, y {:.0f}.", w.name,
                                     mm(most), where.x, where.y),
                              "P3"));
    if (w.plug.empty()) continue;
    std::vector<Standing> standing;
    if (!walk_round(w.plug, 0.05, thickness, kerf_middle, standing)) continue;  // not open: told above
    if (standing.empty())
      findings.push_back(told(request, "comes_loose", bounds(w.plug).middle(), 0, 1,
                              worded("No tab holds the plug of '{}': it comes free under a turning cutter.", w.name),
                              "M10"));
    else
      hold_each(request, w.tabs, standing, findings);
  }
}

void hold_chambers(const PieceRequest& request, const Solid& solid, std::vector<Finding>& findings) {
  constexpr double skin = 0.8;  // mm over and under a chamber
  if (!request.stack) return;
  for (const ChamberDesign& c : request.chambers) {
    double least = skin;
    Vec2 where;
    over(c.region, 1.0, 1.0, [&](Vec2 p) {
      const double high = solid.front(p);
      const double low = solid.back(p);
      const auto [roof, floor] = request.stack->void_at(p);
      if (roof <= floor) return;  // no chamber was cut here
      const double thin = std::min(high - roof, floor - low);
      if (thin >= least) return;
      least = thin;
      where = p;
    });
    if (least < skin)
      findings.push_back(told(
          request, "chamber_open", where, least, skin,
          worded("{} of wood close '{}' at x {:.0f}, y {:.0f}.", mm(std::max(0.0, least)), c.name, where.x, where.y),
          "P3"));
  }
}

SolidMeasures measure_solid(const PieceRequest& request, const Solid& solid, double pace, double aside) {
  SolidMeasures out;
  const Polygon outline = turned(request.sides[0].setup.turn, request.sides[0].design.outline);
  const Box2 box = bounds(outline);
  constexpr double rim = 4;  // mm: thin edges belong to the piece's shape
  const Nearness near(outline, rim + 0.1);
  // By design open from one face to the other: windows, and hollows of both sides that meet.
  const auto open_by_design = [&](Vec2 p) {
    const PieceSide& first = request.sides[0];
    const double bed = first.setup.bed_z() - first.setup.to_work.shift.z;
    const double reach = 0.5 + request.cell + aside;
    for (int k = 0; k < 9; ++k) {
      const double a = k * 0.7853981633974483;
      const Vec2 q = k == 8 ? p : p + Vec2{std::cos(a), std::sin(a)} * reach;
      const double high = first.design.finished(turned(first.setup.turn, q));
      const double low =
          request.sides.size() < 2 ? bed : -request.sides[1].design.finished(turned(request.sides[1].setup.turn, q));
      if (high - low < 0.05) return true;
    }
    return false;
  };
  for (double y = box.low.y + pace / 2; y < box.high.y; y += pace) {
    const std::vector<double> edges = crossings(outline, {0, y}, {1, 0});
    for (std::size_t e = 0; e + 1 < edges.size(); e += 2)
      for (double x = edges[e] + pace / 2; x < edges[e + 1]; x += pace) {
        const Vec2 p{x, y};
        const double t = solid.thickness(p);
        out.volume_mm3 += std::max(0.0, t) * pace * pace;
        if (t >= out.least || near.distance_within(p) < rim) continue;
        const bool hole = std::any_of(request.holes.begin(), request.holes.end(), [&](const ThroughHole& h) {
          return distance(h.at, p) < h.diameter / 2 + 0.5 + request.cell + aside;
        });
        constexpr double thin = 1;  // mm: what is thicker is looked at whatever the design says
        if (hole || (t < thin && open_by_design(p))) continue;
        out.least = t;
        out.at = p;
      }
  }
  return out;
}

RodSkin rod_skin(const PieceRequest& request, const Solid& solid) {
  RodSkin out;
  const auto square = [&](Vec2 p) {
    if (request.rod_from_back) return 1.0;
    // Distance to the back's tangent plane: the skin is thinnest square to the back.
    constexpr double h = 0.6;
    const double sx = (solid.back({p.x + h, p.y}) - solid.back({p.x - h, p.y})) / (2 * h);
    const double sy = (solid.back({p.x, p.y + h}) - solid.back({p.x, p.y - h})) / (2 * h);
    return std::sqrt(1 + sx * sx + sy * sy);
  };
  for (const Vec2 p : request.rod) {
    const double slope = square(p);
    const double skin = solid.thickness(p) / slope;
    if (skin < out.least) {
      out.least = skin;
      out.at = p;
    }
    out.with_misfit = std::min(out.with_misfit, skin - request.misfit * std::sqrt(slope * slope - 1) / slope);
  }
  return out;
}

}  // namespace wren

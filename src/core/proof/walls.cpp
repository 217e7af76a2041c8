// Walls in plan, exactly: at places along the outline the nearest that any cutter's surface came, from the moves
// themselves and not from cells. Too far out is as wrong as too far in (rule P3).
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <numeric>
#include <optional>

#include <fmt/format.h>

#include "core/plan/region.hpp"
#include "core/proof/clearance.hpp"
#include "core/proof/solid.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {
namespace {

constexpr double pace = 0.75;           // mm between places where it is asked whether wood is left at a wall
constexpr int finer = 6;                // times as many places are asked whether a cutter went into the wall
constexpr double usual_corner = 3.3;    // mm: inner corners are left as round as a usual outline cutter
constexpr double usual_width = 6.4;     // mm: of the same
constexpr double at_edge = 0.06;        // mm inside the outline: there the wall's height is read
constexpr double beside_opening = 0.6;  // mm along a wall
constexpr double thin_wall = 1.2;       // mm: an edge that runs out so thin is no wall to speak of
constexpr double thin_share = 0.6;      // of the blank: what is made of a thinner one has thinner walls
constexpr double low_wall = 0.45;       // mm: the same of a cavity's, whose floor ends at it
constexpr double at_mouth = 0.3;        // mm: a cavity that is open to the outline has no wall there
constexpr double at_foot = 0.2;         // mm over a wall's foot: what stands there is a ledge
constexpr double at_rim = 0.1;          // mm under a wall's rim: no cutter is wider further down
constexpr double dent = 1;              // mm: what goes further in at a rim alone is a floor too deep, and told as that
constexpr double widest_kink = 0.2;     // mm
constexpr double rim_edge = 0.02;       // mm into the wood: there a rim's height is read
constexpr double bin = 10;              // mm

/// Distance from its axis at which a cutter's surface stands `h` over its tip; nothing where it has none there.
std::optional<double> radius_at(const Cutter& c, double h) {
  if (h < 0) return {};
  const double r = c.radius();
  if (c.kind == CutterKind::drill) {
    const double point = c.profile(1.0);  // depth per radius
    return point > 0 ? std::min(r, h / point) : r;
  }
  const double round = c.rounding();
  if (c.kind == CutterKind::round_over) {
    double low = 0;
    double high = r;
    if (c.profile(r) <= h) return r;
    for (int k = 0; k < 40; ++k) (c.profile((low + high) / 2) <= h ? low : high) = (low + high) / 2;
    return low;
  }
  if (h >= round) return r;
  return c.flat_radius() + std::sqrt(std::max(0.0, round * round - (round - h) * (round - h)));
}

struct Wall {
  Vec2 at;   // instrument frame, on the outline
  Vec2 in;   // into the piece
  double z;  // instrument
};

/// Gap between a place at height `z` and a cutter that makes a move, where it comes nearest: negative where it goes
/// past the place. Nothing where it stays above that height. What is not under `best` need not be exact.
std::optional<double> nearest(const Motion& m, const Cutter& c, Vec2 q, double z, double best) {
  // On a slanting way it is low enough over a part of it alone, and nowhere near where it passes the place.
  double t0 = 0;
  double t1 = 1;
  const double rise = m.b.z - m.a.z;
  if (m.a.z > z) t0 = (z - m.a.z) / rise;
  if (m.b.z > z) t1 = (z - m.a.z) / rise;
  if (t0 > t1) return {};
  const Vec2 d = flat(m.b) - flat(m.a);
  const double l2 = dot(d, d);
  const double beside = l2 > 0 ? dot(q - flat(m.a), d) / l2 : (rise > 0 ? 0 : 1);
  const auto gap = [&](double t) {
    return distance(q, flat(m.a) + d * t) - radius_at(c, z - (m.a.z + rise * t)).value_or(0);
  };
  const double foot = std::clamp(beside, t0, t1);
  if (rise == 0 || distance(q, flat(m.a) + d * foot) - c.radius() >= best) return gap(foot);
  double out = gap(foot);
  const bool upright = c.rounding() == 0 && c.kind != CutterKind::drill && c.kind != CutterKind::round_over;
  if (upright) return out;
  // A tip that is round or pointed is the wider there the lower it is.
  for (const double t : {t0, t1, least_between(t0, t1, distance(m.a, m.b), gap)}) out = std::min(out, gap(t));
  return out;
}

/// The moves of one side near a place.
class Moves {
 public:
  Moves(const PieceSide& side, const Score& score) : setup_(side.setup), score_(score) {
    const Vec2 low{setup_.blank_corner.x - 30, setup_.blank_corner.y - 30};
    origin_ = low;
    width_ = static_cast<int>((setup_.blank_size.x + 60) / bin) + 1;
    height_ = static_cast<int>((setup_.blank_size.y + 60) / bin) + 1;
    bins_.resize(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
    for (std::size_t i = 0; i < score.motions.size(); ++i) {
      const Motion& m = score.motions[i];
      if (m.cutter < 0 || std::min(m.a.z, m.b.z) >= 0) continue;
      const double r = score.cutters[static_cast<std::size_t>(m.cutter)].radius() + 1;
      const int x0 = cell(std::min(m.a.x, m.b.x) - r - origin_.x, width_);
      const int x1 = cell(std::max(m.a.x, m.b.x) + r - origin_.x, width_);
      const int y0 = cell(std::min(m.a.y, m.b.y) - r - origin_.y, height_);
      const int y1 = cell(std::max(m.a.y, m.b.y) + r - origin_.y, height_);
      for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x) {
          // A long slanting move passes few of the bins in its box.
          const Vec2 middle{origin_.x + (x + 0.5) * bin, origin_.y + (y + 0.5) * bin};
          if (distance_to(middle, {flat(m.a), flat(m.b)}) < r + bin * 0.7072)
            note(bins_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)],
                 static_cast<std::uint32_t>(i));
        }
    }
  }

  /// Gap between a place of the wall and the nearest cutter's surface at its height: negative where the cutter went
  /// into the piece. Rapids dent a wall too, but what is left at one was not cut by them.
  [[nodiscard]] double gap(const Wall& wall, bool rapids) const {
    const Vec2 q = setup_.to_work.apply(turned(setup_.turn, wall.at));
    const double z = setup_.to_work.apply_z(turned_z(setup_.turn, wall.z));
    const int x = static_cast<int>((q.x - origin_.x) / bin);
    const int y = static_cast<int>((q.y - origin_.y) / bin);
    if (x < 0 || y < 0 || x >= width_ || y >= height_) return 1e9;
    double best = 1e9;
    for (const Run& run :
         bins_[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)])
      for (std::uint32_t i = run.first; i <= run.last; ++i) {
        const Motion m = score_.motions[i];
        if (std::min(m.a.z, m.b.z) > z || (m.rapid && !rapids)) continue;
        if (const auto near = nearest(m, score_.cutters[static_cast<std::size_t>(m.cutter)], q, z, best))
          best = std::min(best, *near);
      }
    return best;
  }

 private:
  /// Moves of one bin that follow on each other: a way of many short moves is one run of each bin that it crosses.
  struct Run {
    std::uint32_t first, last;
  };
  static void note(std::vector<Run>& runs, std::uint32_t i) {
    if (!runs.empty() && runs.back().last + 1 == i)
      runs.back().last = i;
    else
      runs.push_back({i, i});
  }
  static int cell(double v, int most) { return std::clamp(static_cast<int>(std::floor(v / bin)), 0, most - 1); }
  const Setup& setup_;
  const Score& score_;
  Vec2 origin_;
  int width_ = 1;
  int height_ = 1;
  std::vector<std::vector<Run>> bins_;
};

/// A place at a wall's rim, and one under it.
struct Rim {
  Wall at, under;
  Rim(Vec2 p, Vec2 in, Turn turn, double z)
      : at{p, in, turned_z(turn, z - at_rim)}, under{p, in, turned_z(turn, z - dent)} {}
  /// How far the cutters of these sides went into the wood there, as a gap: no more than 0.
  [[nodiscard]] double cut_into(const Moves* first, const Moves* last) const {
    const auto gap = [&](const Wall& w) {
      return std::accumulate(first, last, 0.0,
                             [&](double least, const Moves& m) { return std::min(least, m.gap(w, true)); });
    };
    const double here = gap(at);
    return here < -dent ? gap(under) : here;
  }
};

/// The worst places of a wall, both ways.
struct Worst {
  double gap = 0;
  Wall wall{};
  std::size_t places = 0;
  std::string name{};
};
struct BothWays {
  Worst in, out;
  void take(double gap, double limit, const Wall& wall, const std::string& name = {}) {
    Worst& w = gap < 0 ? in : out;
    const std::size_t places = w.places + (std::abs(gap) > limit ? 1 : 0);
    if (std::abs(gap) > std::abs(w.gap)) w = {gap, wall, places, name};
    w.places = places;
  }
};

/// Calls `visit(place, into the left, along, left_too)` at places along a ring, close enough for the dent of a thin
/// cutter. Whether wood is left is asked at every sixth, and not where `rounded` leaves the ring: in corners.
template <class Visit>
void walk(const Polygon& ring, const Region& rounded, double step, const Visit& visit) {
  const std::size_t n = ring.size();
  const Nearness near(rounded, 0.5);
  double since = step;
  for (std::size_t i = 0; i < n; ++i) {
    const Vec2 a = ring[i];
    const Vec2 b = ring[(i + 1) % n];
    const double l = distance(a, b);
    if (l < 1e-9) continue;
    const Vec2 along = (b - a) * (1 / l);
    const int parts = std::max(1, static_cast<int>(std::ceil(l / step * finer)));
    for (int k = 0; k < parts; ++k) {
      const Vec2 p = lerp(a, b, (k + 0.5) / parts);
      since += l / parts;
      const bool whole = since > step * 0.99;
      if (whole) since = 0;
      visit(p, left_of(along), along, whole && near.distance_within(p) <= 0.004);
    }
  }
}

bool in_a_slot(const PieceSide& side, Vec2 p, double beside) {
  return std::any_of(side.design.slots.begin(), side.design.slots.end(), [&](const SlotDesign& s) {
    return distance_to(p, {s.a, s.b}) < s.width / 2 + beside;
  });
}

/// How high the wood stands at a wall's very rim (frame of the side): a slot that runs out through it lowers it.
double rim_height(const PieceSide& side, Vec2 p, Vec2 wood) {
  double top = std::min(side.design.finished(p + wood * rim_edge), side.design.finished(p + wood * at_edge));
  for (const SlotDesign& s : side.design.slots)
    if (distance_to(p, {s.a, s.b}) < s.width / 2 + rim_edge) top = std::min(top, s.floor(p) - at_rim);
  return top;
}

/// A cavity's corners that turn into it are left round; where it is too narrow for that, less so.
Region rounded_by(const WallDesign& wall) {
  double corner = wall.corner;
  const bool island = signed_area(wall.loop) < 0;
  for (int k = 0; k < 6 && corner > 0; ++k, corner /= 2) {
    Region out = island ? offset(offset({Polygon(wall.loop.rbegin(), wall.loop.rend())}, corner), -corner)
                        : offset(offset({wall.loop}, -corner), corner);
    if (!out.empty()) return out;
  }
  return {wall.loop};
}

/// Cavities and holes of one side; what goes through ends at the `other` side's surface (instrument frame).
void check_cavities(const PieceSide& side, const Moves& moves, const Height& other, double limit, BothWays& worst) {
  const Polygon& outline = side.design.outline;
  const Nearness edge(outline, 2);
  const double bed = side.setup.bed_z() - side.setup.to_work.shift.z;
  const Turn turn = side.setup.turn;
  const bool bounded = outline.size() > 2;
  for (const WallDesign& w : side.design.walls) {
    if (w.loop.size() < 3) continue;
    const bool small = std::abs(signed_area(w.loop)) < 400;
    walk(w.loop, rounded_by(w), small ? pace / 1.5 : pace, [&](Vec2 p, Vec2 left, Vec2, bool left_too) {
      const Vec2 wood = left * -1;
      if (bounded && !contains(outline, p)) return;
      const double to_edge = bounded ? edge.distance_within(p) : at_mouth;
      const double rim = rim_height(side, p, wood);
      if (to_edge > at_rim && rim > -1e5) {
        const Rim wall(turned(turn, p), turned(turn, wood), turn, rim);
        worst.take(wall.cut_into(&moves, &moves + 1), limit, wall.at, w.name);
      }
      if (!left_too || to_edge < at_mouth || in_a_slot(side, p, beside_opening)) return;
      double floor = w.floor(p + left * at_edge);
      if (floor < -1e5) floor = other ? std::max(bed, turned_z(turn, other(turned(turn, p + wood * at_edge)))) : bed;
      const double top = side.design.finished(p + wood * at_edge);
      if (!(top - floor > low_wall) || top < -1e5) return;
      // Beside an opening in the wall another cavity's cutter comes by.
      const Vec2 way = left_of(left);
      double opening = top;
      for (const double aside : {-beside_opening, beside_opening})
        opening = std::min(opening, side.design.finished(p + wood * at_edge + way * aside));
      // A floor that falls towards its wall, or towards the wall's end, keeps a wedge there, as high as it rises over
      // the cutter's width.
      double foot = at_foot;
      for (const Vec2 aside :
           {left * usual_width, left * at_edge + way * usual_width, left * at_edge - way * usual_width})
        if (const double away = w.floor(p + aside); away > -1e5) foot = std::max(foot, at_foot + away - floor);
      for (const double share : {std::min(0.3, foot / (top - floor)), 0.3, 0.6, 0.9}) {
        if (opening < top - std::min(thin_wall, 0.8 * (top - floor)) && floor + (top - floor) * share > opening)
          continue;
        const Wall wall{turned(turn, p), turned(turn, wood), turned_z(turn, floor + (top - floor) * share)};
        worst.take(std::max(0.0, moves.gap(wall, false)), limit, wall, w.name);
      }
    });
  }
}

}  // namespace

WallDesign round_wall(std::string name, Vec2 at, double diameter, double floor) {
  // Circumscribed, by sides so short that only their middles are looked at: those lie at the radius.
  const int n = std::max(24, static_cast<int>(std::ceil(std::numbers::pi * diameter / (pace / 1.5 / finer))));
  WallDesign out{std::move(name), {}, [floor](Vec2) { return floor; }, 0};
  const double r = diameter / 2 / std::cos(std::numbers::pi / n);
  for (int k = 0; k < n; ++k) {
    const double a = 2 * std::numbers::pi * k / n;
    out.loop.push_back(at + Vec2{std::cos(a), std::sin(a)} * r);
  }
  return out;
}

void add_walls(std::vector<WallDesign>& walls, const std::string& name, const Region& region, const Height& floor) {
  for (const Polygon& ring : region) walls.push_back({name, ring, floor, usual_corner});
}

void check_walls(const PieceRequest& request, const std::vector<Score>& scores,
                 const std::function<bool(Vec2 at, double z)>& stands, PieceResult& result) {
  std::vector<Moves> moves;
  for (std::size_t k = 0; k < request.sides.size(); ++k) moves.emplace_back(request.sides[k], scores[k]);
  const auto tell = [&](const Worst& w, const Setup& setup, const char* kind, const std::string& text) {
    const Vec2 q = setup.to_work.apply(turned(setup.turn, w.wall.at));
    result.findings.push_back({kind,
                               Weight::stop,
                               text,
                               "",
                               0,
                               {q.x, q.y, setup.to_work.apply_z(turned_z(setup.turn, w.wall.z))},
                               std::abs(w.gap),
                               request.tolerances.plan,
                               "P3",
                               std::max<std::size_t>(1, w.places)});
  };
  for (std::size_t k = 0; k < request.sides.size(); ++k) {
    BothWays worst;
    const PieceSide& side = request.sides[k];
    Height other;
    if (request.sides.size() == 2)
      other = [&o = request.sides[1 - k]](Vec2 q) {
        return turned_z(o.setup.turn, o.design.finished(turned(o.setup.turn, q)));
      };
    check_cavities(side, moves[k], other, request.tolerances.plan, worst);
    result.cavity_wide = std::max(result.cavity_wide, -worst.in.gap);
    result.cavity_tight = std::max(result.cavity_tight, std::min(worst.out.gap, 99.0));
    if (-worst.in.gap > request.tolerances.plan)
      tell(worst.in, side.setup, "cavity_wide",
           worded("{}: the wall is cut {} too far into the wood at x {:.0f}, y {:.0f}.", worst.in.name,
                  mm(-worst.in.gap, 3), worst.in.wall.at.x, worst.in.wall.at.y));
    if (worst.out.gap > request.tolerances.plan)
      tell(worst.out, side.setup, "cavity_tight",
           worst.out.gap > 50 ? worded("{}: no cutter comes near its wall at x {:.0f}, y {:.0f}.", worst.out.name,
                                       worst.out.wall.at.x, worst.out.wall.at.y)
                              : worded("{}: {} stand at its wall at x {:.0f}, y {:.0f}.", worst.out.name,
                                       mm(worst.out.gap, 3), worst.out.wall.at.x, worst.out.wall.at.y));
  }

  if (request.board_only) return;
  if (std::none_of(request.sides.begin(), request.sides.end(), [](const PieceSide& s) { return s.design.cut_free; }))
    return;
  const Polygon outline = turned(request.sides[0].setup.turn, request.sides[0].design.outline);
  const Region rounded = offset(offset({outline}, usual_corner), -usual_corner);
  const double bed = request.sides[0].setup.bed_z() - request.sides[0].setup.to_work.shift.z;
  const auto front = [&](Vec2 p) {
    const PieceSide& s = request.sides[0];
    return turned_z(s.setup.turn, s.design.finished(turned(s.setup.turn, p)));
  };
  const auto back = [&](Vec2 p) {
    if (request.sides.size() == 1) return bed;
    const PieceSide& s = request.sides[1];
    return turned_z(s.setup.turn, s.design.finished(turned(s.setup.turn, p)));
  };
  BothWays worst;
  /// Whether wood is left at a place of the wall, `corner` mm outside the outline.
  const auto left = [&](Vec2 p, Vec2 in, Vec2 right, double corner) {
    for (const PieceSide& side : request.sides)
      if (in_a_slot(side, turned(side.setup.turn, p), rim_edge)) return;
    const double top = front(p + in * (corner + at_edge));
    const double bottom = back(p + in * (corner + at_edge));
    const double least = std::min(thin_wall, thin_share * request.sides[0].setup.blank.thickness);
    if (!(top - bottom > least) || top > 1e5 || bottom < -1e5) return;
    const auto tabbed = [&](double z) {  // beside a tab its flanks slope over a few millimetres
      constexpr std::array<double, 5> along{-6, -3, 0, 3, 6};
      return std::any_of(along.begin(), along.end(),
                         [&](double t) { return stands(p - in * kerf_middle + right * t, z); });
    };
    const double limit = request.tolerances.plan;
    const auto ask = [&](double z) {
      if (tabbed(z)) return;
      const Wall wall{p, in, z};
      double gap = 1e9;
      for (const Moves& m : moves) gap = std::min(gap, m.gap(wall, false));
      worst.take(std::max(0.0, gap), limit, wall);
    };
    // Each side's cuts go least far in at their own foot.
    const bool turns = moves.size() > 1;
    const double h = top - bottom;
    const std::array<double, 5> heights{bottom + at_foot, bottom + 0.25 * h, bottom + 0.5 * h, bottom + 0.9 * h,
                                        top - at_foot};
    for (std::size_t k = 0; k < (turns ? heights.size() : heights.size() - 1); ++k) ask(heights[k]);
    // What a side has cut it has cut from there upwards: just under where the first one's cuts end the second's hold.
    if (!turns) return;
    constexpr double closely = 0.05;  // mm
    const auto cut = [&](double z) { return moves.front().gap({p, in, z}, false) <= limit; };
    double under = heights.front();
    double over = heights.back();
    if (cut(under) || !cut(over)) return;
    while (over - under > closely) (cut((under + over) / 2) ? over : under) = (under + over) / 2;
    // Over the slope of a tab's end a ball from the other side leaves a wedge: it comes off with the tab.
    constexpr double wedge = 3;  // mm
    if (!tabbed(under - wedge) && !tabbed(under + wedge)) ask(under);
  };
  walk(outline, rounded, pace, [&](Vec2 p, Vec2 in, Vec2 right, bool left_too) {
    // Each side's cutters go furthest in at its own rim.
    for (const PieceSide& side : request.sides) {
      const Turn turn = side.setup.turn;
      const double rim = rim_height(side, turned(turn, p), turned(turn, in));
      if (rim < -1e5 || rim > 1e5) continue;
      const Rim wall(p, in, turn, rim);
      worst.take(wall.cut_into(moves.data(), moves.data() + moves.size()), request.tolerances.plan, wall.at);
    }
    if (left_too) left(p, in, right, 0);
  });
  // In corners that turn into the piece as much may stand as a usual cutter leaves, and no more.
  const Nearness near(outline, 2 * usual_corner);
  for (const Polygon& ring : rounded) {
    if (signed_area(ring) < 0) continue;
    walk(ring, {ring}, pace, [&](Vec2 p, Vec2 in, Vec2 right, bool left_too) {
      if (const double corner = near.distance_within(p); left_too && corner > 0.004) left(p, in, right, corner);
    });
  }
  const Worst& inside = worst.in;
  const Worst& outside = worst.out;
  const Setup& last = request.sides.back().setup;
  result.plan_inside = -inside.gap;
  result.plan_outside = std::min(outside.gap, 99.0);
  if (-inside.gap > request.tolerances.plan)
    tell(inside, last, "wall_cut",
         worded("The outline's wall is cut {} too far in at x {:.0f}, y {:.0f}.", mm(-inside.gap, 3), inside.wall.at.x,
                inside.wall.at.y));
  // What one place shows alone, at one height, is narrower than any cutter leaves a bulge: a kink of the outline.
  const bool kink = outside.places <= 1 && outside.gap < widest_kink;
  if (outside.gap > request.tolerances.plan && !kink && result.free)
    tell(outside, last, "wall_proud",
         outside.gap > 50 ? worded("No cutter comes near the outline's wall at x {:.0f}, y {:.0f}.", outside.wall.at.x,
                                   outside.wall.at.y)
                          : worded("The piece is {} too large at x {:.0f}, y {:.0f}.", mm(outside.gap, 3),
                                   outside.wall.at.x, outside.wall.at.y));
}

}  // namespace wren

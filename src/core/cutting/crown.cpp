#include "core/cutting/crown.hpp"

#include <algorithm>
#include <array>

#include "core/cutting/drop_grid.hpp"
#include "core/plan/region.hpp"

namespace wren {
namespace {

constexpr double chord = 0.0005;  // mm that merging points along a row may cost

Vec2 crown_gradient(const Fretboard& board, Vec2 p) {
  const double r = board.crown_radius(p.x);
  if (r == 0 || std::abs(p.y) >= 0.98 * r) return {};
  const double root = std::sqrt(r * r - p.y * p.y);
  const double growth = board.given.crown.kind == CrownKind::cone
                            ? (board.given.crown.radius_last - board.given.crown.radius_nut) / board.last_fret_x
                            : 0;
  return {-growth * (1 - r / root), -p.y / root};
}

/// Rows of a raster: along rows have constant y and run in x, across rows the other way about.
struct Row {
  double at;   // the constant coordinate
  double low;  // of the running coordinate
  double high;
};

Vec2 place(const CrownPlan& plan, double at, double run) {
  return plan.direction == Direction::along ? Vec2{run, at} : Vec2{at, run};
}

/// Room the cutter's centre needs beyond the area's edge: a flat bottom touches the crown with its inner edge.
double reach(const CrownPlan& plan) { return plan.cutter.flat_radius() + plan.beyond; }

std::vector<Row> rows(const CrownPlan& plan) {
  const bool along = plan.direction == Direction::along;
  // The area grown by the cutter's reach: on a tapered board rows must start well before their own line enters it.
  const std::vector<Polygon> grown_all =
      reach(plan) > 0 ? offset({plan.area}, reach(plan)) : std::vector<Polygon>{plan.area};
  const Polygon& grown = grown_all.empty() ? plan.area : grown_all.front();
  const Box2 wide = bounds(grown);
  const Box2 own = bounds(plan.area);
  const double low = along ? wide.low.y : own.low.x - plan.beyond;
  const double high = along ? wide.high.y : own.high.x + plan.beyond;
  const int n = std::max(1, static_cast<int>(std::ceil((high - low) / plan.stepover - 1e-9)));
  std::vector<Row> out;
  for (int i = 0; i < n; ++i) {
    const double at = low + (i + 0.5) * (high - low) / n;
    // The extent over the width of the row, so that slanted sides are covered.
    Span span{1e300, -1e300};
    for (const double shift : {-0.5, 0.0, 0.5}) {
      const double line = std::clamp(at + shift * (high - low) / n, (along ? wide.low.y : wide.low.x) + 1e-6,
                                     (along ? wide.high.y : wide.high.x) - 1e-6);
      const auto s = along ? crossing(grown, {0, line}, {1, 0}) : crossing(grown, {line, 0}, {0, 1});
      if (!s) continue;
      span.low = std::min(span.low, s->low);
      span.high = std::max(span.high, s->high);
    }
    if (span.high >= span.low) out.push_back({at, span.low, span.high});
  }
  return out;
}

std::vector<Vec3> row_points(const Fretboard& board, const CrownPlan& plan, double at, double from, double to) {
  const int n = std::max(1, static_cast<int>(std::ceil(std::abs(to - from) / plan.sample)));
  std::vector<Vec3> points;
  points.reserve(static_cast<std::size_t>(n) + 1);
  for (int i = 0; i <= n; ++i) {
    const Vec2 p = place(plan, at, from + (to - from) * i / n);
    points.push_back({p.x, p.y, crown_drop_height(board, plan.cutter, p) + plan.allowance});
  }
  return thinned(points, chord);
}

/// Joins rows there and back with half circles beyond the rows' ends, where the crown is level or falls away.
class RowJoiner {
 public:
  RowJoiner(const CrownPlan& plan, std::vector<Strand>& out) : plan_(plan), out_(out) {}

  void add(const std::vector<Vec3>& points) {
    if (out_.empty() || fresh_) {
      Strand strand;
      strand.start = points.front();
      strand.free_z = std::max(plan_.wood_top, points.front().z);  // beside the rows the blank stands untouched
      strand.plunge_feed = plan_.feeds.plunge;
      out_.push_back(strand);
      fresh_ = false;
      ramp_in(points);
    } else {
      turn(points.front());
    }
    append_lines(out_.back(), points, 1, plan_.feeds.feed);
    last_ = unit(flat(points.back()) - flat(points[points.size() - 2]));
  }
  void lift() { fresh_ = true; }

 private:
  /// Down along the row and back: wide cutters do not cut with their middle, so none is let straight down into wood.
  void ramp_in(const std::vector<Vec3>& points) {
    Strand& strand = out_.back();
    const double above = plan_.wood_top - points.front().z;
    if (above <= 0) return;
    strand.start.z = plan_.wood_top;
    std::size_t far = 1;
    while (far + 1 < points.size() && distance(flat(points[far]), flat(points.front())) < 12) ++far;
    const double way = distance(flat(points[far]), flat(points.front()));
    for (std::size_t i = 1; i <= far; ++i) {
      const double left = above * (1 - distance(flat(points[i]), flat(points.front())) / way);
      strand.steps.push_back({{points[i].x, points[i].y, points[i].z + left}, {}, plan_.feeds.feed, StepKind::line});
    }
    for (std::size_t i = far; i-- > 0;) strand.steps.push_back({points[i], {}, plan_.feeds.feed, StepKind::line});
  }

  void turn(Vec3 to) {
    Strand& strand = out_.back();
    const Vec3 from = strand.end();
    const Vec2 step = flat(to) - flat(from);
    // Level the two ends with a straight piece, so that the half circle stands square to the rows.
    const double ahead = dot(step, last_);
    const Vec2 sideways = step - last_ * ahead;
    if (length(sideways) < 1e-6) {
      strand.steps.push_back({to, {}, plan_.feeds.feed, StepKind::line});
      return;
    }
    const Vec2 begin = flat(from) + last_ * std::max(0.0, ahead);
    const Vec2 finish = flat(to) - last_ * std::min(0.0, ahead);
    if (ahead > 1e-6) strand.steps.push_back({{begin.x, begin.y, from.z}, {}, plan_.feeds.feed, StepKind::line});
    strand.steps.push_back({{finish.x, finish.y, to.z},
                            lerp(begin, finish, 0.5),
                            plan_.feeds.feed,
                            cross(last_, sideways) > 0 ? StepKind::arc_ccw : StepKind::arc_cw});
    if (ahead < -1e-6) strand.steps.push_back({to, {}, plan_.feeds.feed, StepKind::line});
  }

  const CrownPlan& plan_;
  std::vector<Strand>& out_;
  Vec2 last_;
  bool fresh_ = true;
};

/// A wide flat cutter stands level over the crest for its whole width: the sides are then taken one after the other,
/// and the idle way over the crest is saved. The overlap covers the gap between neighbouring rows at the crest.
bool split_at_crest(const CrownPlan& plan) {
  return plan.direction == Direction::across && plan.cutter.flat_radius() > 4;
}

double crest_start(const CrownPlan& plan) {
  const double r = plan.cutter.flat_radius();
  return r - (plan.stepover * plan.stepover / 8 / r + 0.2);
}

}  // namespace

double crown_drop_height(const Fretboard& board, const Cutter& cutter, Vec2 p) {
  const double t = board.given.board.thickness;
  const double flat_part = cutter.flat_radius();
  if (board.given.crown.kind == CrownKind::flat || std::abs(p.y) <= flat_part) return t;
  const double round_part = cutter.rounding();
  // At the contact the crown's slope equals the cutter's: rho = flat + r·m/√(1+m²), towards the crest.
  Vec2 contact{p.x, p.y > 0 ? p.y - flat_part : p.y + flat_part};
  double rho = flat_part;
  for (int i = 0; i < 12; ++i) {
    const Vec2 g = crown_gradient(board, contact);
    const double m = length(g);
    if (m < 1e-12) break;
    rho = flat_part + round_part * m / std::sqrt(1 + m * m);
    const Vec2 moved = p + g * (rho / m);
    const bool settled = distance(moved, contact) < 1e-7;
    contact = moved;
    if (settled) break;
  }
  return std::min(t, board.crown_height(contact) - cutter.profile(std::min(rho, cutter.radius())));
}

std::vector<Strand> finish_crown(const Fretboard& board, const CrownPlan& plan) {
  std::vector<Strand> out;
  RowJoiner joiner(plan, out);
  if (!split_at_crest(plan)) {
    bool forward = true;
    for (const Row& row : rows(plan)) {
      joiner.add(row_points(board, plan, row.at, forward ? row.low : row.high, forward ? row.high : row.low));
      forward = !forward;
    }
    return out;
  }
  const std::vector<Row> all = rows(plan);
  for (const double side : {1.0, -1.0}) {
    joiner.lift();
    bool outward = true;
    // The second side is taken from the far end back, so that the link between the sides is short.
    for (std::size_t k = 0; k < all.size(); ++k) {
      const Row& row = all[side > 0 ? k : all.size() - 1 - k];
      const double outer = side > 0 ? row.high : row.low;
      const double inner = side * std::min(crest_start(plan), side * outer - 1);
      joiner.add(row_points(board, plan, row.at, outward ? inner : outer, outward ? outer : inner));
      outward = !outward;
    }
  }
  return out;
}

std::vector<Strand> rough_crown(const Fretboard& board, const CrownPlan& plan, double bite) {
  const double wood_top = plan.wood_top;
  // Half a millimetre is fine enough for a surface that keeps an allowance of its own.
  const double cell = 0.5;
  const double r = plan.cutter.radius();
  const Box2 box = bounds(plan.area);
  const Vec2 origin{box.low.x - 2 * r - 1, box.low.y - 2 * r - 1};
  const Vec2 size = box.high - origin + Vec2{2 * r + 1, 2 * r + 1};
  TileGrid grid(origin, cell, static_cast<int>(std::ceil(size.x / cell)), static_cast<int>(std::ceil(size.y / cell)),
                0);
  for (int j = 0; j < grid.height(); ++j)
    for (int i = 0; i < grid.width(); ++i) grid.at(i, j) = static_cast<float>(board.crown_height(grid.centre(i, j)));
  grid.refresh_all();
  const GridDropper dropper(plan.cutter, grid);

  std::vector<Strand> out;
  const std::vector<Row> all = rows(plan);
  double above = wood_top;
  const double lowest = wood_top - most_above_crown(board, plan.area, wood_top);
  for (double level = wood_top - bite; above > lowest + plan.allowance + 1e-6; level -= bite) {
    RowJoiner joiner(plan, out);
    bool forward = true;
    for (const Row& row : all) {
      joiner.lift();
      std::vector<Vec3> points;
      const int n = std::max(1, static_cast<int>(std::ceil((row.high - row.low) / plan.sample)));
      for (int i = 0; i <= n; ++i) {
        const double t = forward ? static_cast<double>(i) / n : 1 - static_cast<double>(i) / n;
        const Vec2 p = place(plan, row.at, row.low + (row.high - row.low) * t);
        const double z = std::max(level, static_cast<double>(dropper.drop(p)) + plan.allowance);
        if (z < above - 1e-6) {
          points.push_back({p.x, p.y, z});
        } else if (points.size() > 1) {
          joiner.add(thinned(points, 0.005));
          joiner.lift();
          points.clear();
        } else {
          points.clear();
        }
      }
      if (points.size() > 1) joiner.add(thinned(points, 0.005));
      forward = !forward;
    }
    above = level;
  }
  return out;
}

double left_over(const Fretboard& board, const CrownPlan& plan) {
  if (board.given.crown.kind == CrownKind::flat && plan.cutter.flat_radius() > plan.stepover / 2) return 0;
  const double r = plan.cutter.radius();
  const Box2 box = bounds(plan.area);
  double worst = 0;
  // Lowest the swept cutter reaches at p, from a row at `at`: the least over the row of tip + profile.
  const auto swept = [&](Vec2 p, double at) {
    const bool along = plan.direction == Direction::along;
    const double across = (along ? p.y : p.x) - at;
    const double run = along ? p.x : p.y;
    if (std::abs(across) >= r) return 1e300;
    const double half = std::sqrt(r * r - across * across) * (1 - 1e-12);
    const auto height = [&](double u) {
      return crown_drop_height(board, plan.cutter, place(plan, at, u)) +
             plan.cutter.profile(std::min(r, std::hypot(across, run - u)));
    };
    constexpr int steps = 24;
    int best = 0;
    double least = 1e300;
    for (int i = 0; i <= steps; ++i)
      if (const double h = height(run - half + 2 * half * i / steps); h < least) {
        least = h;
        best = i;
      }
    double low = run - half + 2 * half * std::max(0, best - 1) / steps;
    double high = run - half + 2 * half * std::min(steps, best + 1) / steps;
    constexpr double golden = 0.6180339887498949;
    for (int i = 0; i < 30 && high - low > 1e-5; ++i) {
      const double a = high - golden * (high - low);
      const double b = low + golden * (high - low);
      if (height(a) < height(b))
        high = b;
      else
        low = a;
    }
    return std::min(least, height((low + high) / 2));
  };
  const bool along = plan.direction == Direction::along;
  for (const double share : {0.01, 0.5, 0.99}) {
    const double x = box.low.x + (box.high.x - box.low.x) * share;
    const auto span = crossing(plan.area, {x, 0}, {0, 1});
    if (!span) continue;
    const double edge = std::max(std::abs(span->low), std::abs(span->high));
    for (const double part : {0.0, 0.25, 0.5, 0.75, 1.0}) {
      const double y = edge * part;
      for (const double between : {0.25, 0.5}) {
        // Rows on both sides of the place, the nearer `between` of a stepover away.
        const double nearer = (along ? y : x) - between * plan.stepover;
        const Vec2 p{x, y};
        double low = 1e300;
        for (int k = -1; k <= 2; ++k) low = std::min(low, swept(p, nearer + k * plan.stepover));
        worst = std::max(worst, std::min(low, 1e6) - board.crown_height(p));
      }
    }
  }
  return worst;
}

double stepover_for(const Fretboard& board, CrownPlan plan, double scallop) {
  double low = 0.02;
  double high = 0.8 * plan.cutter.effective_diameter();
  plan.stepover = high;
  if (left_over(board, plan) <= scallop) return high;
  for (int i = 0; i < 22; ++i) {
    plan.stepover = (low + high) / 2;
    (left_over(board, plan) <= scallop ? low : high) = plan.stepover;
  }
  return low;
}

double most_above_crown(const Fretboard& board, const Polygon& area, double wood_top) {
  double most = wood_top - board.given.board.thickness;
  for (const Vec2 p : area) most = std::max(most, wood_top - board.crown_height(p));
  return most;
}

bool can_finish_crown(const Cutter& c) {
  return c.kind != CutterKind::drill && c.kind != CutterKind::slot && c.effective_diameter() > 1;
}

}  // namespace wren

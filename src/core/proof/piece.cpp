#include "core/proof/piece.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

#include "core/plan/region.hpp"
#include "core/report/parallel.hpp"

namespace wren {
namespace {

constexpr int bands = 16;  // of rows; joined in order, so that the outcome does not depend on the number of threads
constexpr double wall = 0.045;  // mm: half of what a wall may stand off before a cell counts

struct Worst {
  double error = 0;
  Vec2 at;  // work frame
  double stock = 0;
  std::size_t cells = 0;
};

constexpr double outline_corner = 3.3;  // mm: inner corners of an outline are left as round as a usual outline cutter

struct Band {
  Worst gouge, left;
  std::array<std::size_t, 512> open{};  // heights left on an open crown, 0.001 mm a bin
};

/// One side's wood against its design: errors square to the surface; near walls the range of heights around decides.
class SideComparer {
 public:
  SideComparer(const PieceSide& side, const ProofTolerances& tolerances, const TileGrid& stock,
               const std::vector<Vec2>& tabs, double tab_reach)
      : side_(side), tolerances_(tolerances), stock_(stock), tabs_(tabs), tab_reach_(tab_reach) {
    for (const Vec2 p : side.design.outline) outline_.push_back(side.setup.to_work.apply(p));
  }

  void rows(int j0, int j1, Band& band) const {
    for (int j = j0; j < j1; ++j) {
      const double y = stock_.centre(0, j).y;
      const std::vector<double> edges = crossings(outline_, {0, y}, {1, 0});
      std::size_t passed = 0;
      for (int i = 0; i < stock_.width(); ++i) {
        const Vec2 work = stock_.centre(i, j);
        while (passed < edges.size() && edges[passed] <= work.x) ++passed;
        if (passed % 2 == 0) continue;
        cell(i, j, work, band);
      }
    }
  }

 private:
  void cell(int i, int j, Vec2 work, Band& band) const {
    const Vec2 p = side_.setup.to_work.back(work);
    const double z = static_cast<double>(stock_.at(i, j)) - side_.setup.to_work.shift.z;
    const double want = side_.design.finished(p);
    const double error = z - want;
    if (want > -1e5 && error > -tolerances_.gouge && error < tolerances_.left_over) {
      // On an open crown, away from walls, every micrometre counts.
      if (side_.design.crowned && want > side_.design.crowned(p) - 1e-9)
        ++band.open[static_cast<std::size_t>(std::clamp(error * 1000, 0.0, 511.0))];
      return keep(band, error, work, z, false);
    }
    if (rounded_by_cutter(p)) return;
    // Square to a slope the error is smaller than straight down.
    const Vec2 steps[8]{{wall, 0},    {-wall, 0},    {0, wall},     {0, -wall},
                        {wall, wall}, {-wall, wall}, {wall, -wall}, {-wall, -wall}};
    double low = want;
    double high = want;
    double around[4];
    for (int k = 0; k < 8; ++k) {
      const double h = side_.design.finished(p + steps[k]);
      if (k < 4) around[k] = h;
      low = std::min(low, h);
      high = std::max(high, h);
    }
    if (low < -1e5 && high < -1e5) {
      // A through hole is judged as a hole, from both sides.
      return;
    }
    if (low < -1e5) low = -1e9;
    double off = z < low ? z - low : z > high ? z - high : 0;
    if (off == 0) return;
    if (off > 0 && near_tab(work)) return;
    if (off < 0 && distance_to(outline_, work) < wall) return;  // the outline's own wall passes through the cell
    const Vec2 slope{(around[0] - around[1]) / (2 * wall), (around[2] - around[3]) / (2 * wall)};
    if (std::abs(slope.x) < 50 && std::abs(slope.y) < 50) off /= std::sqrt(1 + dot(slope, slope));
    keep(band, off, work, z, true);
  }

  /// A blind slot's ends are as round as its cutter.
  [[nodiscard]] bool rounded_by_cutter(Vec2 p) const {
    return std::any_of(side_.design.slots.begin(), side_.design.slots.end(), [&](const SlotDesign& s) {
      return s.blind && (distance(p, s.a) < s.width || distance(p, s.b) < s.width);
    });
  }
  [[nodiscard]] bool near_tab(Vec2 work) const {
    return std::any_of(tabs_.begin(), tabs_.end(), [&](Vec2 t) { return distance(t, work) < tab_reach_; });
  }
  void keep(Band& band, double error, Vec2 at, double z, bool count) const {
    if (-error > band.gouge.error) band.gouge = {-error, at, z, band.gouge.cells};
    if (error > band.left.error) band.left = {error, at, z, band.left.cells};
    if (count && error < -tolerances_.gouge) ++band.gouge.cells;
    if (count && error > tolerances_.left_over) ++band.left.cells;
  }

  const PieceSide& side_;
  const ProofTolerances& tolerances_;
  const TileGrid& stock_;
  const std::vector<Vec2>& tabs_;
  double tab_reach_;
  Polygon outline_;
};

Band compare(const PieceSide& side, const ProofTolerances& tolerances, const TileGrid& stock,
             const std::vector<Vec2>& tabs, double tab_reach) {
  const SideComparer comparer(side, tolerances, stock, tabs, tab_reach);
  std::array<Band, bands> part;
  in_parallel(bands, [&](int b) {
    comparer.rows(stock.height() * b / bands, stock.height() * (b + 1) / bands, part[static_cast<std::size_t>(b)]);
  });
  Band all;
  for (const Band& b : part) {
    const std::size_t gouges = all.gouge.cells + b.gouge.cells;
    const std::size_t lefts = all.left.cells + b.left.cells;
    if (b.gouge.error > all.gouge.error) all.gouge = b.gouge;
    if (b.left.error > all.left.error) all.left = b.left;
    all.gouge.cells = gouges;
    all.left.cells = lefts;
    for (std::size_t i = 0; i < all.open.size(); ++i) all.open[i] += b.open[i];
  }
  return all;
}

/// The height under which 99.9 % of an open crown's cells lie.
double most_left(const Band& band) {
  std::size_t count = 0;
  for (const std::size_t n : band.open) count += n;
  std::size_t above = count / 1000;
  for (std::size_t i = band.open.size(); i-- > 0;) {
    if (band.open[i] > above) return (static_cast<double>(i) + 1) / 1000;
    above -= band.open[i];
  }
  return 0;
}

/// Reads the wood of both sides at a place of the plan, in instrument z.
class Solid {
 public:
  Solid(const PieceRequest& request, const PieceResult& result) : request_(request), result_(result) {}
  /// z of the wood's front face: what the front side left.
  [[nodiscard]] double front(Vec2 p) const { return read(0, p, request_.sides[0].setup.bed_z()); }
  /// z of the wood's back face.
  [[nodiscard]] double back(Vec2 p) const {
    if (request_.sides.size() == 1)
      return request_.sides[0].setup.bed_z() -
             request_.sides[0].setup.to_work.shift.z;  // its underside lies on the bed, uncut
    return -read(1, p, request_.sides[1].setup.bed_z() - 10);
  }
  [[nodiscard]] double thickness(Vec2 p) const { return front(p) - back(p); }

 private:
  [[nodiscard]] double read(std::size_t side, Vec2 p, double none) const {
    const Setup& setup = request_.sides[side].setup;
    const TileGrid& stock = result_.sides[side].stock;
    const Vec2 q = setup.to_work.apply(turned(setup.turn, p));
    const int i = static_cast<int>(std::floor((q.x - stock.origin().x) / stock.cell()));
    const int j = static_cast<int>(std::floor((q.y - stock.origin().y) / stock.cell()));
    const double work = stock.holds(i, j) ? static_cast<double>(stock.at(i, j)) : none;
    return work - setup.to_work.shift.z;
  }
  const PieceRequest& request_;
  const PieceResult& result_;
};

struct Standing {
  Vec2 middle;  // instrument frame
  double high = 0;
  double run = 0;
};

/// Runs of wood left standing in the kerf round the piece. True where more than half of it is open.
bool walk_kerf(const PieceRequest& request, const Solid& solid, std::vector<Standing>& out) {
  constexpr double outside = 0.5;  // mm beside the outline: well within any outline cutter's kerf
  constexpr double step = 0.5;
  // Inner corners are left as round as a usual outline cutter: the walk goes round them.
  const auto grown =
      offset(offset({turned(request.sides[0].setup.turn, request.sides[0].design.outline)}, outside + outline_corner),
             -outline_corner);
  if (grown.empty()) return false;
  Contour walk;
  for (const Vec2 p : grown.front()) walk.push_back({p, 0});
  std::vector<Vec2> places;
  for (std::size_t i = 0; i < walk.size(); ++i) {
    const Vec2 b = walk[(i + 1) % walk.size()].at;
    const double l = distance(walk[i].at, b);
    const int n = std::max(1, static_cast<int>(std::lround(l / step)));
    for (int k = 0; k < n; ++k) places.push_back(lerp(walk[i].at, b, static_cast<double>(k) / n));
  }
  std::vector<double> standing;
  std::size_t open = 0;
  for (const Vec2 p : places) {
    standing.push_back(std::max(0.0, solid.thickness(p)));
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
      s.run += distance(places[(first + k) % n], places[(first + k + 1) % n]);
      ++k;
    }
    s.middle = places[(first + (from + k) / 2) % n];
    out.push_back(s);
  }
  return true;
}

/// M10: every tab at its place, as thick and as long as designed, and no other.
void hold_tabs(const PieceRequest& request, const std::vector<Standing>& standing, std::vector<Finding>& findings) {
  if (request.tabs.empty()) return;
  constexpr double near = 8;        // mm between a tab and its place: half of it and the cutter's way round a corner
  constexpr double thinner = 0.15;  // mm
  const auto tell = [&](const char* kind, Vec2 at, double number, double limit, std::string text) {
    const Setup& setup = request.sides.back().setup;
    const Vec2 q = setup.to_work.apply(turned(setup.turn, at));
    findings.push_back({kind, Weight::stop, std::move(text), "", 0, {q.x, q.y, 0}, number, limit, "M10", 1});
  };
  std::vector<bool> used(standing.size(), false);
  for (const TabDesign& tab : request.tabs) {
    std::size_t best = standing.size();
    for (std::size_t k = 0; k < standing.size(); ++k)
      if (distance(standing[k].middle, tab.at) < near + tab.length / 2 && !used[k] &&
          (best == standing.size() || standing[k].high * standing[k].run > standing[best].high * standing[best].run))
        best = k;
    if (best == standing.size()) {
      tell("tab_missing", tab.at, 0, tab.height,
           fmt::format("There is no tab at x {:.0f}, y {:.0f}.", tab.at.x, tab.at.y));
      continue;
    }
    used[best] = true;
    const Standing& s = standing[best];
    if (s.high < tab.height - thinner || s.run < 0.7 * tab.length)
      tell("tab_thin", s.middle, s.high, tab.height,
           fmt::format("The tab at x {:.0f}, y {:.0f} is {:.2f} mm high and {:.1f} mm long; {:.2f} and {:.1f} are "
                       "designed.",
                       tab.at.x, tab.at.y, s.high, s.run, tab.height, tab.length));
  }
  for (std::size_t k = 0; k < standing.size(); ++k)
    if (!used[k] && standing[k].high >= request.tolerances.skin_height && standing[k].run > 2)
      tell("tab_extra", standing[k].middle, standing[k].high, 0,
           fmt::format("Wood stands in the outline at x {:.0f}, y {:.0f}, {:.2f} mm high and {:.1f} mm long, where no "
                       "tab is designed.",
                       standing[k].middle.x, standing[k].middle.y, standing[k].high, standing[k].run));
}

}  // namespace

TileGrid underside_for(const Setup& second, const TileGrid& grid, const Setup& first, const TileGrid& stock) {
  TileGrid out(grid.origin(), grid.cell(), grid.width(), grid.height(), 0);
  for (int j = 0; j < grid.height(); ++j)
    for (int i = 0; i < grid.width(); ++i) {
      const Vec2 instrument = turned(second.turn, second.to_work.back(grid.centre(i, j)));
      const Vec2 q = first.to_work.apply(turned(first.turn, instrument));
      const int a = static_cast<int>(std::floor((q.x - stock.origin().x) / stock.cell()));
      const int b = static_cast<int>(std::floor((q.y - stock.origin().y) / stock.cell()));
      const double front =
          (stock.holds(a, b) ? static_cast<double>(stock.at(a, b)) : 0.0) - first.to_work.shift.z;  // instrument z
      out.at(i, j) = static_cast<float>(second.to_work.apply_z(-front));
    }
  return out;
}

bool PieceResult::passed() const {
  const auto well = [](const Finding& f) { return f.weight != Weight::stop; };
  return std::all_of(findings.begin(), findings.end(), well) &&
         std::all_of(sides.begin(), sides.end(), [&](const ProofResult& s) { return s.passed(); });
}

Expected<PieceResult> prove_piece(const PieceRequest& request, Progress* progress) {
  PieceResult out;
  const auto stopped = [] {
    return fail(ProblemKind::stopped, "the rehearsal was stopped", "", "Start it again when you like");
  };
  if (request.sides.empty() || request.sides.size() > 2)
    return fail(ProblemKind::input, "a piece is proved from its one or two sides", "proof", "Plan its sides first");
  std::vector<Score> scores;
  for (std::size_t k = 0; k < request.sides.size(); ++k) {
    const PieceSide& side = request.sides[k];
    ProofRequest one;
    one.programs = side.programs;
    one.rack = request.rack;
    one.setup = side.setup;
    one.tolerances = request.tolerances;
    one.cell = request.cell;
    Progress inner([&](double share, std::string_view phase) {
      if (progress != nullptr &&
          !progress->go_on(0.84 * (static_cast<double>(k) + share) / static_cast<double>(request.sides.size()), phase))
        inner.stop();
    });
    Score score;
    auto result = rehearse_side(one, &score, &inner);
    if (!result) return tl::unexpected(result.error());
    check_slots(side, request.tolerances, score, *result);
    out.seconds += result->seconds;
    out.sides.push_back(std::move(*result));
    scores.push_back(std::move(score));
  }
  if (progress != nullptr && !progress->go_on(0.85, "comparing both sides with the design")) return stopped();
  const Solid solid(request, out);
  const auto find = [&](const char* kind, Weight weight, Vec2 instrument, double number, double limit,
                        std::string text) {
    const Setup& setup = request.sides.back().setup;
    const Vec2 q = setup.to_work.apply(turned(setup.turn, instrument));
    out.findings.push_back({kind, weight, std::move(text), "", 0, {q.x, q.y, 0}, number, limit});
  };

  // Tabs first: what stands against them is not left over.
  std::vector<Standing> standing;
  out.free = walk_kerf(request, solid, standing);
  std::vector<Vec2> tabs;
  const bool meant =
      std::any_of(request.sides.begin(), request.sides.end(), [](const PieceSide& s) { return s.design.cut_free; });
  if (!out.free && meant)
    find("outline_not_through", Weight::stop, {}, 0, 0,
         "The outline is not cut through: the piece stays in its blank.");
  hold_tabs(request, standing, out.findings);
  check_walls(
      request, scores,
      [&](Vec2 p, double z) {
        // Just over and under a tab its flanks slope.
        constexpr double flank = 0.6;
        return solid.thickness(p) > 0.001 && z < solid.front(p) + flank && z > solid.back(p) - flank;
      },
      out);
  for (const Standing& s : standing) {
    if (s.high >= request.tolerances.skin_height && s.run <= request.tolerances.tab_longest) {
      ++out.tabs;
      tabs.push_back(s.middle);
    } else if (s.high < 0.1 && s.run < 1) {
      continue;  // one cell at the kerf's rim, no skin
    } else if (out.findings.size() < 60) {
      find("skin_left", Weight::stop, s.middle, s.high, 0,
           fmt::format("A skin {:.2f} mm thick and {:.1f} mm long is left in the outline.", s.high, s.run));
    }
  }
  if (out.free && out.tabs == 0 && !request.held)
    find("comes_loose", request.taped ? Weight::think_again : Weight::stop, {}, 0, 1,
         request.taped ? "No tab is left: the piece comes free under a turning cutter. Hold it with tape or vacuum."
                       : "No tab is left: the piece comes free under a turning cutter.");

  for (std::size_t k = 0; k < request.sides.size(); ++k) {
    const PieceSide& side = request.sides[k];
    std::vector<Vec2> here;
    for (const Vec2 t : tabs) here.push_back(side.setup.to_work.apply(turned(side.setup.turn, t)));
    const Band band = compare(side, request.tolerances, out.sides[k].stock, here, request.tolerances.tab_longest);
    ProofResult& r = out.sides[k];
    r.worst_gouge = band.gouge.error;
    r.worst_left = band.left.error;
    r.surface_left = most_left(band);
    out.worst_gouge = std::max(out.worst_gouge, band.gouge.error);
    out.worst_left = std::max(out.worst_left, band.left.error);
    const double area = request.cell * request.cell;
    if (band.gouge.error > request.tolerances.gouge)
      r.findings.push_back(
          {"gouge",
           Weight::stop,
           fmt::format("{}: wood is missing, {:.3f} mm below the design at the worst place, over {:.1f} mm² in all.",
                       side.name, band.gouge.error, static_cast<double>(band.gouge.cells) * area),
           "",
           0,
           {band.gouge.at.x, band.gouge.at.y, band.gouge.stock},
           band.gouge.error,
           request.tolerances.gouge});
    if (band.left.error > request.tolerances.left_over)
      r.findings.push_back(
          {"left_over",
           Weight::stop,
           fmt::format("{}: wood is left, {:.3f} mm above the design at the worst place, over {:.1f} mm² in all.",
                       side.name, band.left.error, static_cast<double>(band.left.cells) * area),
           "",
           0,
           {band.left.at.x, band.left.at.y, band.left.stock},
           band.left.error,
           request.tolerances.left_over});
  }
  if (progress != nullptr && !progress->go_on(0.95, "measuring the solid")) return stopped();

  // The solid itself: thickness everywhere, volume, skin over the rod, holes that meet.
  const Polygon outline = turned(request.sides[0].setup.turn, request.sides[0].design.outline);  // instrument frame
  const Box2 box = bounds(outline);
  const double pace = std::max(0.4, request.cell);
  constexpr double rim = 4;  // mm: thin edges belong to the piece's shape
  const Nearness near(outline, rim + 0.1);
  for (double y = box.low.y + pace / 2; y < box.high.y; y += pace) {
    const std::vector<double> edges = crossings(outline, {0, y}, {1, 0});
    for (std::size_t e = 0; e + 1 < edges.size(); e += 2)
      for (double x = edges[e] + pace / 2; x < edges[e + 1]; x += pace) {
        const Vec2 p{x, y};
        const double t = solid.thickness(p);
        out.volume_mm3 += std::max(0.0, t) * pace * pace;
        if (near.distance_within(p) < rim) continue;
        const bool hole = std::any_of(request.holes.begin(), request.holes.end(), [&](const ThroughHole& h) {
          return distance(h.at, p) < h.diameter / 2 + 0.5 + request.cell;
        });
        if (!hole && t < out.least_thickness) {
          out.least_thickness = t;
          out.least_at = p;
        }
      }
  }
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
    if (skin < out.least_skin) {
      out.least_skin = skin;
      out.skin_at = p;
    }
    out.least_skin_misfit =
        std::min(out.least_skin_misfit, skin - request.misfit * std::sqrt(slope * slope - 1) / slope);
  }
  if (!request.rod.empty()) {
    if (out.least_skin < 0.05)
      find("rod_through", Weight::stop, out.skin_at, out.least_skin, request.skin_least,
           fmt::format("The rod's slot breaks through the other side at x {:.0f}.", out.skin_at.x));
    else if (out.least_skin_misfit < request.skin_least)
      find("skin_thin", Weight::stop, out.skin_at, out.least_skin_misfit, request.skin_least,
           fmt::format("Only {:.2f} mm of wood stay over the rod at x {:.0f} ({:.2f} with the sides {:.2f} mm apart).",
                       out.least_skin, out.skin_at.x, out.least_skin_misfit, request.misfit));
  }
  if (out.least_thickness < 0.3 && !request.board_only)
    find("thin", Weight::stop, out.least_at, out.least_thickness, 0.3,
         fmt::format("The piece is {:.2f} mm thick at x {:.0f}, y {:.0f}.", out.least_thickness, out.least_at.x,
                     out.least_at.y));
  for (const ThroughHole& h : request.holes) {
    bool open = true;
    for (const Vec2 d : {Vec2{0, 0}, Vec2{0.8, 0}, Vec2{-0.8, 0}, Vec2{0, 0.8}, Vec2{0, -0.8}})
      open = open && solid.thickness(h.at + d * (h.diameter / 2)) < 0.001;
    if (open)
      ++out.holes_open;
    else
      find("hole_closed", Weight::stop, h.at, solid.thickness(h.at), 0,
           fmt::format("The hole {} does not go through.", h.name));
  }
  if (progress != nullptr && !progress->go_on(1, "done")) return stopped();
  return out;
}

}  // namespace wren

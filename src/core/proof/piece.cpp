#include "core/proof/piece.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

#include "core/plan/region.hpp"
#include "core/proof/clearance.hpp"
#include "core/proof/frame.hpp"
#include "core/proof/turned.hpp"
#include "core/proof/under_error.hpp"
#include "core/report/parallel.hpp"
#include "core/report/shared_progress.hpp"

namespace wren {
namespace {

constexpr int bands = 16;  // of rows; joined in order, so that the outcome does not depend on the number of threads
constexpr double tab_foot = 3.3;  // mm about a tab: its root stays as round as a usual cutter leaves a corner
constexpr double tab_over = 0.3;  // mm over it where the surface is level
constexpr double wall = 0.045;    // mm: half of what a wall may stand off before a cell counts

struct Worst {
  double error = 0;
  Vec2 at;  // work frame
  double stock = 0;
  std::size_t cells = 0;
};

struct Band {
  Worst gouge, left;
  double loose = 0;                     // left where it is hidden in the glue
  std::array<std::size_t, 512> open{};  // heights left on an open crown, 0.001 mm a bin
};

/// Where a tab's root may stand.
struct TabRoot {
  Vec2 at;  // work frame
  double reach = 0;
  double top = 0;  // z of the tab's
};

/// One side's wood against its design: errors square to the surface; near walls the range of heights around decides.
class SideComparer {
 public:
  SideComparer(const PieceSide& side, const ProofTolerances& tolerances, const TileGrid& stock,
               const std::vector<TabRoot>& tabs, bool stacked)
      : side_(side), tolerances_(tolerances), stock_(stock), tabs_(tabs), stacked_(stacked) {
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
    if (rounded_by_cutter(p, z)) return;
    // What stands as the layers' programs left it is read from their cells: it may lie one of those aside. It was held
    // closely as a layer.
    const double off_wall = stacked_ && std::abs(z - side_.setup.wood_top(p)) < 1e-4 ? wall + stock_.cell() : wall;
    // Square to a slope the error is smaller than straight down.
    const Vec2 steps[8]{{off_wall, 0},        {-off_wall, 0},        {0, off_wall},         {0, -off_wall},
                        {off_wall, off_wall}, {-off_wall, off_wall}, {off_wall, -off_wall}, {-off_wall, -off_wall}};
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
    const Vec2 slope{(around[0] - around[1]) / (2 * off_wall), (around[2] - around[3]) / (2 * off_wall)};
    if (off > 0 && at_tab(work, z, length(slope)) && distance_to(outline_, work) < tab_foot) return;
    if (off < 0 && distance_to(outline_, work) < wall) return;  // the outline's own wall passes through the cell
    if (std::abs(slope.x) < 50 && std::abs(slope.y) < 50) off /= std::sqrt(1 + dot(slope, slope));
    keep(band, off, work, z, true);
  }

  /// A blind slot's ends are as round as its cutter; no deeper than its floor, and nothing beside them.
  [[nodiscard]] bool rounded_by_cutter(Vec2 p, double z) const {
    return std::any_of(side_.design.slots.begin(), side_.design.slots.end(), [&](const SlotDesign& s) {
      return s.blind && (distance(p, s.a) < s.width || distance(p, s.b) < s.width) &&
             distance_to(p, {s.a, s.b}) < s.width / 2 + wall && z > s.floor(p) - tolerances_.gouge;
    });
  }
  /// A ball that passes over a tab touches a surface the higher over its tip the steeper that is.
  [[nodiscard]] bool at_tab(Vec2 work, double z, double slope) const {
    const double over = tab_over + tab_foot * (1 - 1 / std::sqrt(1 + slope * slope));
    return std::any_of(tabs_.begin(), tabs_.end(),
                       [&](const TabRoot& t) { return z < t.top + over && distance(t.at, work) < t.reach; });
  }
  void keep(Band& band, double error, Vec2 at, double z, bool count) const {
    if (error > tolerances_.left_over && side_.design.loose) {
      const double may = side_.design.loose(side_.setup.to_work.back(at));
      if (may > 0) band.loose = std::max(band.loose, error);
      if (error <= may) return;
    }
    if (-error > band.gouge.error) band.gouge = {-error, at, z, band.gouge.cells};
    if (error > band.left.error) band.left = {error, at, z, band.left.cells};
    if (count && error < -tolerances_.gouge) ++band.gouge.cells;
    if (count && error > tolerances_.left_over) ++band.left.cells;
  }

  const PieceSide& side_;
  const ProofTolerances& tolerances_;
  const TileGrid& stock_;
  const std::vector<TabRoot>& tabs_;
  bool stacked_;  // its wood begins as layers left it
  Polygon outline_;
};

bool beside_a_tab(const std::vector<Standing>& tabs, Vec2 p, double room) {
  return std::any_of(tabs.begin(), tabs.end(),
                     [&](const Standing& t) { return distance(p, t.middle) <= t.run / 2 + room; });
}

Band compare(const PieceSide& side, const ProofTolerances& tolerances, const TileGrid& stock,
             const std::vector<TabRoot>& tabs, bool stacked) {
  const SideComparer comparer(side, tolerances, stock, tabs, stacked);
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
    all.loose = std::max(all.loose, b.loose);
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

}  // namespace

TileGrid underside_for(const Setup& second, const TileGrid& grid, const Setup& first, const TileGrid& stock) {
  TileGrid out(grid.origin(), grid.cell(), grid.width(), grid.height(), 0);
  for (int j = 0; j < grid.height(); ++j)
    for (int i = 0; i < grid.width(); ++i) {
      const Vec2 instrument = turned(second.turn, second.to_work.back(grid.centre(i, j)));
      const Vec2 q = first.to_work.apply(turned(first.turn, instrument));
      const double front = height_at(stock, q, 0.0) - first.to_work.shift.z;  // instrument z
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
  // Each side is cut into wood of its own, so they are rehearsed side by side.
  const std::size_t n = request.sides.size();
  SharedProgress shared(progress, n, 0.84);
  const std::size_t apart = request.board_only ? 0 : request.tabs.empty() ? 2 : 1;
  std::vector<Expected<ProofResult>> results(n);
  scores.resize(n);
  in_parallel(static_cast<int>(n), [&](int i) {
    const auto k = static_cast<std::size_t>(i);
    const PieceSide& side = request.sides[k];
    results[k] =
        rehearse_side({side.programs, request.rack, side.setup, request.tolerances, request.cell, side.material, apart},
                      &scores[k], shared.of(k));
    if (results[k]) check_slots(side, request.tolerances, scores[k], *results[k]);
  });
  for (auto& result : results) {
    if (!result) return tl::unexpected(result.error());
    out.seconds += result->seconds;
    out.sides.push_back(std::move(*result));
  }
  if (progress != nullptr && !progress->go_on(0.85, "comparing both sides with the design")) return stopped();
  const Solid solid(request, out);
  const auto find = [&](const char* kind, Weight weight, Vec2 instrument, double number, double limit, Words text) {
    const Setup& setup = request.sides.back().setup;
    const Vec2 q = setup.to_work.apply(turned(setup.turn, instrument));
    out.findings.push_back({kind, weight, std::move(text), "", 0, {q.x, q.y, 0}, number, limit});
  };

  // Tabs first: what stands against them is not left over.
  std::vector<Standing> standing;
  out.free = walk_kerf(request, solid, kerf_rim, standing);
  const bool meant =
      std::any_of(request.sides.begin(), request.sides.end(), [](const PieceSide& s) { return s.design.cut_free; });
  if (!out.free && meant)
    find("outline_not_through", Weight::stop, {}, 0, 0,
         "The outline is not cut through: the piece stays in its blank.");
  std::vector<Standing> middle;
  if (!walk_kerf(request, solid, kerf_middle, middle)) middle = standing;
  const std::vector<Standing> tabs = tabs_of(request, middle);
  hold_tabs(request, solid, middle, out.findings);
  hold_turned(request, scores, solid, out.findings);
  hold_windows(request, solid, out.findings);
  hold_chambers(request, solid, out.findings);
  const bool came_off = std::any_of(out.sides.begin(), out.sides.end(), [](const ProofResult& r) {
    return std::any_of(r.findings.begin(), r.findings.end(), [](const Finding& f) { return f.kind == "offcut_loose"; });
  });
  if (out.free && !request.board_only && !came_off) hold_frame(request, solid, middle, out.findings);
  check_walls(
      request, scores,
      [&](Vec2 p, double z) {
        constexpr double flank = 0.6;  // mm: just over and under a tab it slopes
        constexpr double slope = 4;    // mm: and at its ends
        return beside_a_tab(tabs, p, slope) && solid.thickness(p) > 0.001 && z < solid.front(p) + flank &&
               z > solid.back(p) - flank;
      },
      out);
  std::vector<Standing> feet;  // of tabs, where they meet the wall
  for (const Standing& s : standing) {
    const bool thick = s.high >= request.tolerances.skin_height;
    if (thick && s.run <= request.tolerances.tab_longest) {
      // What stands nearer to the wall than tabs do is the wall's own fault, or a round corner.
      if (!beside_a_tab(tabs, s.middle, s.run / 2 + kerf_middle)) continue;
      ++out.tabs;
      feet.push_back(s);
    } else if (!thick && s.run < 1) {
      continue;  // a cell or two at the kerf's rim, no skin
    } else if (out.findings.size() < 60) {
      find("skin_left", Weight::stop, s.middle, s.high, 0,
           worded("A skin {} thick and {} long is left in the outline.", mm(s.high), mm(s.run, 1)));
    }
  }
  if (out.free && out.tabs == 0 && !request.held)
    find("comes_loose", request.taped ? Weight::think_again : Weight::stop, {}, 0, 1,
         request.taped ? "No tab is left: the piece comes free under a turning cutter. Hold it with tape or vacuum."
                       : "No tab is left: the piece comes free under a turning cutter.");

  for (std::size_t k = 0; k < request.sides.size(); ++k) {
    const PieceSide& side = request.sides[k];
    std::vector<TabRoot> here;
    for (const Standing& tab : feet)
      here.push_back({side.setup.to_work.apply(turned(side.setup.turn, tab.middle)), tab.run / 2 + tab_foot,
                      k == 0 ? solid.front(tab.middle) : -solid.back(tab.middle)});
    const Band band = compare(side, request.tolerances, out.sides[k].stock, here, request.stack != nullptr);
    ProofResult& r = out.sides[k];
    r.worst_gouge = band.gouge.error;
    r.worst_left = band.left.error;
    r.surface_left = most_left(band);
    out.worst_gouge = std::max(out.worst_gouge, band.gouge.error);
    out.worst_left = std::max(out.worst_left, band.left.error);
    r.worst_loose = band.loose;
    out.worst_loose = std::max(out.worst_loose, band.loose);
    const double area = request.cell * request.cell;
    if (band.gouge.error > request.tolerances.gouge)
      r.findings.push_back(
          {"gouge",
           Weight::stop,
           worded("{}: wood is missing, {} below the design at the worst place, over {:.1f} mm² in all.", side.name,
                  mm(band.gouge.error, 3), static_cast<double>(band.gouge.cells) * area),
           "",
           0,
           {band.gouge.at.x, band.gouge.at.y, band.gouge.stock},
           band.gouge.error,
           request.tolerances.gouge});
    if (band.left.error > request.tolerances.left_over)
      r.findings.push_back({"left_over",
                            Weight::stop,
                            worded("{}: wood is left, {} above the design at the worst place, over {:.1f} mm² in all.",
                                   side.name, mm(band.left.error, 3), static_cast<double>(band.left.cells) * area),
                            "",
                            0,
                            {band.left.at.x, band.left.at.y, band.left.stock},
                            band.left.error,
                            request.tolerances.left_over});
  }
  if (progress != nullptr && !progress->go_on(0.95, "measuring the solid")) return stopped();

  // The solid itself: thickness everywhere, volume, skin over the rod, holes that meet.
  const SolidMeasures measures = measure_solid(request, solid, std::max(0.4, request.cell));
  out.volume_mm3 = measures.volume_mm3;
  out.least_thickness = measures.least;
  out.least_at = measures.at;
  const RodSkin rod = rod_skin(request, solid);
  out.least_skin = rod.least;
  out.least_skin_misfit = rod.with_misfit;
  out.skin_at = rod.at;
  if (!request.rod.empty()) {
    if (out.least_skin < 0.05)
      find("rod_through", Weight::stop, out.skin_at, out.least_skin, request.skin_least,
           worded("The rod's slot breaks through the other side at x {:.0f}.", out.skin_at.x));
    else if (out.least_skin_misfit < request.skin_least)
      find("skin_thin", Weight::stop, out.skin_at, out.least_skin_misfit, request.skin_least,
           worded("Only {} of wood stay over the rod at x {:.0f} ({:.2f} with the sides {} apart).", mm(out.least_skin),
                  out.skin_at.x, out.least_skin_misfit, mm(request.misfit)));
  }
  if (out.least_thickness < 0.3 && !request.board_only)
    find("thin", Weight::stop, out.least_at, out.least_thickness, 0.3,
         worded("The piece is {} thick at x {:.0f}, y {:.0f}.", mm(out.least_thickness), out.least_at.x,
                out.least_at.y));
  for (const ThroughHole& h : request.holes) {
    bool open = true;
    for (const Vec2 d : {Vec2{0, 0}, Vec2{0.8, 0}, Vec2{-0.8, 0}, Vec2{0, 0.8}, Vec2{0, -0.8}})
      open = open && solid.thickness(h.at + d * (h.diameter / 2)) < 0.001;
    if (open)
      ++out.holes_open;
    else
      find("hole_closed", Weight::stop, h.at, solid.thickness(h.at), 0,
           worded("The hole {} does not go through.", h.name));
  }
  if (progress != nullptr && !progress->go_on(0.97, "the same with everything a little off")) return stopped();
  judge_under_error(request, scores, out);
  if (progress != nullptr && !progress->go_on(1, "done")) return stopped();
  return out;
}

}  // namespace wren

#include "core/proof/under_error.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <fmt/format.h>

#include "core/plan/region.hpp"
#include "core/proof/clearance.hpp"

namespace wren {
namespace {

constexpr double tab_share = 0.35;    // of its height: thinner it holds nothing
constexpr double tab_least = 0.3;     // mm, the same
constexpr double skin_run = 2;        // mm of kerf
constexpr double thin = 0.3;          // mm of wood
constexpr double pace = 1.2;          // mm between places that are read
constexpr double mouth = 0.1;         // mm: less is no wall, the cavity is open to the outline
constexpr double furthest_wall = 30;  // mm: walls thicker than this are not told
// Cutters cut wider than they are called: run-out, and what nobody measured (common practice).
constexpr double wider_measured = 0.02;  // mm
constexpr double wider_nominal = 0.05;

class UnderError {
 public:
  UnderError(const PieceRequest& request, const std::vector<Score>& scores, PieceResult& result)
      : request_(request), scores_(scores), result_(result), last_(request.sides.back().setup) {}

  void run() {
    if (request_.board_only) return;
    walls();
    one(ErrorLevel::drawn, "as drawn", {});
    for (const ErrorLevel level : {ErrorLevel::likely, ErrorLevel::worst}) {
      const bool worst = level == ErrorLevel::worst;
      const Machine& m = last_.machine;
      const double z = worst ? m.probe_error + m.thickness_error : std::hypot(m.probe_error, m.thickness_error);
      if (z > 0)
        for (const double sign : {-1.0, 1.0})
          one(level, fmt::format("z {:.2f} mm too {}", z, sign < 0 ? "low" : "high"), {{0, 0, sign * z}, 0});
      if (request_.sides.size() == 2) registers(level);
      cutters(level);
      hits(worst, z);
    }
  }

 private:
  void tell(const char* kind, Weight weight, Vec2 at, double number, double limit, Words text) {
    // The same trouble in several cases is told once, at its worst.
    for (Finding& f : result_.findings)
      if (f.rule == "P7" && f.kind == kind) {
        ++f.count;
        f.weight = std::min(f.weight, weight);
        return;
      }
    const Vec2 q = last_.to_work.apply(turned(last_.turn, at));
    result_.findings.push_back({kind, weight, std::move(text), "", 0, {q.x, q.y, 0}, number, limit, "P7", 1});
  }
  [[nodiscard]] static const char* how(bool worst) { return worst ? "at worst" : "as it is likely to be"; }

  /// The solid as it becomes with the last side displaced.
  void one(ErrorLevel level, const std::string& what, const Displaced& displaced) {
    const bool worst = level == ErrorLevel::worst;
    const bool drawn = level == ErrorLevel::drawn;  // what is wrong as drawn is told as that
    const Solid solid(request_, result_, displaced);
    ErrorCase c{what, level, 1e9, 1e9, {}, 1e9};
    std::vector<Standing> standing;
    // As far out as the last side's wall may have come, so that the wall itself is no wood in the kerf.
    const double moved = length(flat(displaced.by)) + std::abs(displaced.angle) * length(last_.blank_size) / 2;
    constexpr double furthest = 2.8;  // mm: within usual outline cutters' kerf
    const bool open = walk_kerf(request_, solid, std::min(furthest, kerf_rim + moved), standing);
    // A piece that was out of its blank before has no outline to be cut through here.
    const bool meant =
        std::any_of(request_.sides.begin(), request_.sides.end(), [](const PieceSide& s) { return s.design.cut_free; });
    if (result_.free && meant && !open && !drawn)
      tell("skin_left", Weight::stop, {}, 0, 0,
           worded("With {} ({}) the outline is not cut through.", what, how(worst)));
    if (open && result_.free) {
      std::vector<bool> used(standing.size(), false);
      for (const TabDesign& tab : request_.tabs) {
        const std::size_t best = run_of_tab(standing, tab, used);
        const double high = best < standing.size() ? standing[best].high : 0;
        if (best < standing.size()) used[best] = true;
        c.least_tab = std::min(c.least_tab, high);
        if (!drawn && high < std::max(tab_least, tab_share * tab.height))
          tell("tab_through", Weight::stop, tab.at, high, tab.height,
               worded("With {} ({}) {} stay of the tab at x {:.0f}, y {:.0f}: it does not hold.", what, how(worst),
                      mm(high), tab.at.x, tab.at.y));
      }
      for (std::size_t k = 0; k < standing.size(); ++k)
        if (!drawn && !used[k] && standing[k].high < request_.tolerances.skin_height && standing[k].high > 0.02 &&
            standing[k].run > skin_run)
          tell("skin_left", worst ? Weight::think_again : Weight::stop, standing[k].middle, standing[k].high, 0,
               worded("With {} ({}) a skin of {} is left in the outline.", what, how(worst), mm(standing[k].high)));
    }
    const double half = length(last_.blank_size) / 2;
    const double aside = length(flat(displaced.by)) + std::abs(displaced.angle) * half;
    const SolidMeasures measures = measure_solid(request_, solid, pace, aside);
    c.least_wall = std::min(last_wall_, earlier_wall_ - aside);
    c.least_thickness = measures.least;
    c.least_at = measures.at;
    thin_wall(c);
    if (measures.least < thin && result_.least_thickness >= thin)
      tell("thin", Weight::stop, measures.at, measures.least, thin,
           worded("With {} ({}) the piece is {} thick at x {:.0f}, y {:.0f}.", what, how(worst), mm(measures.least),
                  measures.at.x, measures.at.y));
    if (!request_.rod.empty()) {
      const RodSkin rod = rod_skin(request_, solid);
      c.least_skin = rod.least;
      if (rod.least < 0.05 && result_.least_skin >= 0.05)
        tell("rod_through", Weight::stop, rod.at, rod.least, request_.skin_least,
             worded("With {} ({}) the rod's slot breaks through at x {:.0f}.", what, how(worst), rod.at.x));
    }
    result_.under_error.push_back(std::move(c));
  }

  /// The second side misplaced every way, turned both ways; the worst of them stands for all.
  void registers(ErrorLevel level) {
    const double share = level == ErrorLevel::worst ? 1 : likely_register;
    const Vec2 e = last_.found_by.shift * share;
    const double angle = last_.found_by.angle * share;
    if (e.x <= 0 && e.y <= 0 && angle <= 0) return;
    const std::size_t first = result_.under_error.size();
    for (const double sx : {-1.0, 1.0})
      for (const double sy : {-1.0, 1.0})
        one(level,
            fmt::format("the turned side off by {:.2f} in x and {:.2f} in y, {:.2f}° round", e.x, e.y,
                        angle * 57.2957795),
            {{sx * e.x, sy * e.y, 0}, sx * sy * angle});
    ErrorCase all = result_.under_error[first];
    for (std::size_t k = first + 1; k < result_.under_error.size(); ++k) {
      const ErrorCase& c = result_.under_error[k];
      all.least_tab = std::min(all.least_tab, c.least_tab);
      all.least_skin = std::min(all.least_skin, c.least_skin);
      all.least_wall = std::min(all.least_wall, c.least_wall);
      if (c.least_thickness < all.least_thickness) {
        all.least_thickness = c.least_thickness;
        all.least_at = c.least_at;
      }
    }
    result_.under_error.resize(first);
    result_.under_error.push_back(std::move(all));
  }

  /// All cutters wider than they are called: every wall between two cuts is thinner by as much.
  void cutters(ErrorLevel level) {
    if (result_.wall_beside > 1e8) return;
    double wider = wider_measured;
    for (const Score& score : scores_)
      for (const Cutter& c : score.cutters)
        if (!c.measured) wider = wider_nominal;
    if (level == ErrorLevel::likely) wider /= 2;
    ErrorCase c{fmt::format("cutters {:.3f} mm wider", wider), level, 1e9, 1e9, {}, 1e9, result_.wall_beside - wider};
    thin_wall(c);
    result_.under_error.push_back(std::move(c));
  }

  void thin_wall(const ErrorCase& c) {
    if (c.level == ErrorLevel::drawn || c.least_wall >= thin || result_.wall_beside < thin) return;
    tell("thin", Weight::stop, result_.wall_beside_at, c.least_wall, thin,
         worded("With {} ({}) {} of wood stay between a cavity and the outline at x {:.0f}, y {:.0f}.", c.what,
                how(c.level == ErrorLevel::worst), mm(c.least_wall), result_.wall_beside_at.x,
                result_.wall_beside_at.y));
  }

  /// What stands on the bed, with the programs off in x, y and z: it may come near, never touch.
  void hits(bool worst, double z) {
    for (std::size_t k = 0; k < request_.sides.size(); ++k) {
      const Setup& setup = request_.sides[k].setup;
      const Machine& m = setup.machine;
      const double xy = m.zero_error * (worst ? 1 : likely_register);
      const auto boxes = setup.solids();
      const auto& found = result_.sides[k].findings;
      const bool as_drawn =
          std::any_of(found.begin(), found.end(), [](const Finding& f) { return f.kind.ends_with("into_clamp"); });
      if (boxes.empty() || as_drawn) continue;
      for (const Motion& p : scores_[k].motions) {
        if (p.cutter < 0) continue;
        const Cutter& c = scores_[k].cutters[static_cast<std::size_t>(p.cutter)];
        const bool bores = hole_under(setup, flat(p.a), flat(p.b)) != nullptr;
        for (const Setup::Box& box : boxes) {
          if (bores && box.name == "pin") continue;  // it is not set yet
          if (std::min(p.a.z, p.b.z) >= box.high.z + z) continue;
          const auto meets = [&](double lift, double radius) {
            return meets_box({p.a.x, p.a.y, p.a.z + lift}, {p.b.x, p.b.y, p.b.z + lift}, radius, box, xy, z);
          };
          if (meets(0, c.radius()) || meets(c.cutting_length, c.shank() / 2) || meets(c.stickout, c.nut_diameter / 2) ||
              meets(c.stickout + m.nose_above, m.nose_diameter / 2) ||
              (m.shoe_diameter > 0 && meets(c.stickout + m.shoe_above, m.shoe_diameter / 2)))
            tell("hit", Weight::stop, turned(setup.turn, setup.to_work.back(flat(p.b))), xy, 0,
                 worded("With the zero {} off ({}) '{}' meets '{}' ({}, line {}).", mm(xy), how(worst), c.id, box.name,
                        scores_[k].programs[p.program].name, p.line));
        }
      }
    }
  }

  /// Wood between cavities and the outline, which the last side cuts.
  void walls() {
    for (const PieceSide& side : request_.sides) {
      const bool last = &side == &request_.sides.back();
      const Nearness edge(side.design.outline, furthest_wall);
      for (const WallDesign& w : side.design.walls) {
        const std::vector<Vec2> ring = dense(w.loop);
        std::vector<double> wood;
        for (const Vec2 p : ring) wood.push_back(contains(side.design.outline, p) ? edge.distance_within(p) : 0);
        for (std::size_t i = 0; i < ring.size(); ++i) {
          // Towards a mouth in the outline it is less from place to place: there is no wall until it is least.
          const double before = wood[(i + ring.size() - 1) % ring.size()];
          const double after = wood[(i + 1) % ring.size()];
          if (wood[i] < mouth || wood[i] > before + 1e-9 || wood[i] > after + 1e-9 || wood[i] >= furthest_wall)
            continue;
          double& least = last ? last_wall_ : earlier_wall_;
          least = std::min(least, wood[i]);
          if (wood[i] >= result_.wall_beside) continue;
          result_.wall_beside = wood[i];
          result_.wall_beside_at = turned(side.setup.turn, ring[i]);
        }
      }
    }
  }
  static std::vector<Vec2> dense(const Polygon& loop) {
    std::vector<Vec2> out;
    for (std::size_t i = 0; i < loop.size(); ++i) {
      const Vec2 a = loop[i];
      const Vec2 b = loop[(i + 1) % loop.size()];
      const int n = std::max(1, static_cast<int>(std::ceil(distance(a, b) / pace)));
      for (int k = 0; k < n; ++k) out.push_back(lerp(a, b, static_cast<double>(k) / n));
    }
    return out;
  }

  const PieceRequest& request_;
  const std::vector<Score>& scores_;
  PieceResult& result_;
  const Setup& last_;
  double last_wall_ = 1e9;     // mm, of cavities that the last side cuts itself
  double earlier_wall_ = 1e9;  // of those that it may lie aside of
};

}  // namespace

void judge_under_error(const PieceRequest& request, const std::vector<Score>& scores, PieceResult& result) {
  UnderError(request, scores, result).run();
}

}  // namespace wren

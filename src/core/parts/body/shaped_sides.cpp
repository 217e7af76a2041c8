// Carves and rounded edges of a body.
#include "core/parts/body/sides.hpp"

#include <algorithm>
#include <memory>
#include <utility>

#include "core/skin/grids.hpp"

namespace wren {
namespace {

constexpr double coarse_cell = 0.5;  // mm, roughing grids of carves
constexpr double fine_cell = 0.25;   // mm, finishing grids: contacts are exact, the grid guards

/// Connected runs of stations: where a piece has horns, each by itself.
template <class Wanted>
std::vector<std::vector<Station>> chains(const Polygon& outline, double apart, const Wanted& wanted) {
  const Box2 box = bounds(outline);
  // Rows follow both ends of a run's stations: where an end jumps, rows would be drawn aslant over what lies between.
  const double jump = 3 * apart;
  struct Open {
    std::vector<Station> run;
    bool touched = false;
  };
  std::vector<Open> open;
  std::vector<std::vector<Station>> done;
  for (double x = box.low.x - 3; x <= box.high.x + 3; x += apart) {
    std::vector<Station> here;
    // In steps across, the intervals where something is to be cut.
    constexpr double nothing = -1e9;
    double from = nothing;
    // Well past what is wanted, so that every interval ends before the line does.
    for (double y = box.low.y - 4.5; y <= box.high.y + 4.5; y += 0.5) {
      const bool in = wanted(Vec2{x, y});
      if (in && from == nothing) from = y;
      if (!in && from != nothing) {
        if (y - from > 1.2) here.push_back({x, from, y - 0.5});
        from = nothing;
      }
    }
    for (Open& o : open) o.touched = false;
    for (const Station& s : here) {
      Open* best = nullptr;
      for (Open& o : open)
        if (!o.touched && o.run.back().high > s.low && o.run.back().low < s.high &&
            std::abs(o.run.back().low - s.low) < jump && std::abs(o.run.back().high - s.high) < jump)
          best = &o;
      if (best == nullptr) {
        open.push_back({});
        best = &open.back();
      }
      best->run.push_back(s);
      best->touched = true;
    }
    for (std::size_t i = open.size(); i-- > 0;)
      if (!open[i].touched) {
        done.push_back(std::move(open[i].run));
        open.erase(open.begin() + static_cast<std::ptrdiff_t>(i));
      }
  }
  for (Open& o : open) done.push_back(std::move(o.run));
  // A run goes on for half a station past its ends: where one run ends and others begin they meet there.
  for (auto& run : done) {
    const Station first = run.front();
    const Station last = run.back();
    run.insert(run.begin(), {first.x - apart / 2, first.low, first.high});
    run.push_back({last.x + apart / 2, last.low, last.high});
  }
  return done;
}

}  // namespace

void BodySides::carve(bool from_back) {
  if (from_back ? !s_.carved_back() : !s_.carved_face()) return;
  const Cutter* rough = cutter(w_.rough_cutter);
  if (rough == nullptr || cutter(w_.finish_cutter) == nullptr) return;
  const Height surface = [d = d_, turn = turn_, from_back](Vec2 q) {
    const Vec2 p = turned(turn, q);
    return turned_z(turn, from_back ? d->shape.carved_bottom(p) : d->shape.carved_top(p));
  };
  const double flat_z = side_z(from_back ? -s_.thickness : 0);
  const Polygon outline = turned(turn_, s_.corners);
  const RegionMask near(offset({outline}, 3.2), 1.0);
  const auto wanted = [&](Vec2 q) { return near.holds(q) && surface(q) < flat_z - 0.004; };
  // The box that holds everything lower than the flat.
  Box2 box;
  const Box2 all = bounds(outline);
  for (double y = all.low.y - 3; y <= all.high.y + 3; y += 2)
    for (double x = all.low.x - 3; x <= all.high.x + 3; x += 2)
      if (wanted({x, y})) box.add({x, y});
  if (box.low.x > box.high.x) return;
  const MakeGrid plain = [surface, box](double cell) {
    const Vec2 margin{9, 9};
    return grid_over(box.low - margin, box.high + margin, cell, {}, [&](Vec2 q, bool) { return surface(q); });
  };
  const auto cut_to = std::make_shared<const RegionMask>(offset({outline}, 2.0 + rough->radius()), 1.0);
  const MakeGrid target = [plain, cut_to, flat_z, leave = w_.rough_leave](double cell) {
    const TileGrid base = plain(cell);
    TileGrid grid = base;
    // On coarse cells what is left must stand sideways too.
    const int aside = static_cast<int>(std::ceil((cell / 2 + 0.8 * leave) / cell));
    fill_cells(grid, [&](int i, int j) {
      if (!cut_to->holds(base.centre(i, j))) return flat_z;
      double z = static_cast<double>(base.at(i, j));
      for (const auto& [di, dj] :
           {std::pair{aside, 0}, std::pair{-aside, 0}, std::pair{0, aside}, std::pair{0, -aside}})
        if (base.holds(i + di, j + dj)) z = std::max(z, static_cast<double>(base.at(i + di, j + dj)));
      z = std::min(flat_z, z + leave);
      return z > flat_z - 0.25 ? flat_z : z;
    });
    return grid;
  };
  const MakeGrid stock = [target, flat_z](double cell) {
    TileGrid grid = target(cell);
    fill(grid, [&](Vec2) { return flat_z; });
    return grid;
  };
  const Words caution{"Long cuts make heat and dust: extraction on, and never leave the machine alone."};
  const auto followed = [](Operation& op) { op.touches = [](Vec2) { return -1e300; }; };
  Operation& first = add(from_back ? "carve-rough-back" : "carve-rough",
                         from_back ? "Back, roughing the carve" : "Face, roughing the carve", w_.rough_cutter,
                         Rough{target, stock, coarse_cell, flat_z, {}}, "body.rough_cutter",
                         {"body.rough_cutter", "body.rough_leave"});
  first.caution = {caution};
  followed(first);
  Finish shape;
  shape.surface = surface;
  shape.grid = plain;
  shape.cell = fine_cell;
  shape.runs = chains(outline, 1.0, wanted);
  shape.leave = w_.rough_leave;
  shape.plan.scallop = w_.scallop;
  shape.plan.sample = 0.4;
  shape.plan.wood_top = flat_z;
  shape.plan.bend = 0;
  Operation& fine =
      add(from_back ? "carve-back" : "carve", from_back ? "Back, finishing the carve" : "Face, finishing the carve",
          w_.finish_cutter, std::move(shape), "body.finish_cutter", {"body.finish_cutter", "body.scallop"});
  fine.caution = {caution};
  followed(fine);
}

void BodySides::edge(bool from_back) {
  const ComfortNumbers& c = s_.given.comfort;
  const double radius = from_back ? c.round_back : c.round_face;
  if (radius <= 0) return;
  const bool carved = from_back ? s_.carved_back() : s_.carved_face();
  const bool form = c.round_by_form && !carved;
  const Cutter* k = cutter(form ? w_.round_cutter : w_.finish_cutter);
  if (k == nullptr) return;
  EdgePlan plan;
  plan.outline = turned(turn_, s_.outline);
  plan.radius = radius;
  // Beside the outline there is only waste: the ball's tip goes down there until its flank stands against the wall.
  plan.surface = [d = d_, turn = turn_, from_back](Vec2 q) {
    const Vec2 p = turned(turn, q);
    return d->shape.inside->holds(p) ? turned_z(turn, from_back ? d->shape.bottom(p) : d->shape.top(p)) : -1e9;
  };
  plan.top = side_z(from_back ? -s_.thickness : 0);
  plan.scallop = w_.scallop;
  // As far as a carve, a bevel or a belly really falls at the edge: where the outline bulges they go on falling.
  double fall = 0;
  for (const Vec2 p : s_.corners)
    fall = std::max(fall, plan.top - side_z(from_back ? s_.carved_bottom(p) : s_.carved_top(p)));
  plan.lowest = plan.top - fall - (carved ? 0.5 : 0) - radius - k->radius();
  Operation& op = add(from_back ? "round-back" : "round", from_back ? "Back's edge, rounded" : "Face's edge, rounded",
                      k->id, RoundEdge{std::move(plan), form}, "body.round_cutter",
                      {"body.round_face", "body.round_back", "body.round_by_form", "body.finish_cutter",
                       "body.round_cutter", "body.scallop"});
  op.touches = [](Vec2) { return -1e300; };
}

}  // namespace wren

// The cradle: its top is the neck's front, with clearance, so that the turned neck lies in it. Frame: the turned neck's
// side frame, shifted down so that the cradle's highest place is z = 0; mm.
#include <algorithm>

#include "core/parts/cradle/part.hpp"
#include "core/parts/neck/part.hpp"
#include "core/plan/region.hpp"
#include "core/skin/grids.hpp"

namespace wren {
namespace {

constexpr double left_by_roughing = 0.4;
constexpr double corner_radius = 3.5;  // mm: inner corners of the bed are rounded by design
constexpr double relief = 0.8;         // mm that they stand back, so that the rounding stays clear of the neck's edge

/// The bed as a ball rolls in it: every inner corner (at the foot of the head's step) stands back a little and is
/// rounded, so that a ball cutter can make all of it. Morphological erosion and closing on a grid (Serra, Image
/// Analysis and Mathematical Morphology, 1982).
class RolledBed {
 public:
  RolledBed(const Height& raw, Box2 box, double cell = 0.4) {
    const Vec2 margin{2 * corner_radius, 2 * corner_radius};
    grid_ = grid_over(box.low - margin, box.high + margin, cell, {}, [&](Vec2 q, bool) { return raw(q); });
    grid_ = over_disc(
        relief, [](double low, double z, double) { return std::min(low, z); }, 1e9);
    const auto ball = [](double d2) { return std::sqrt(std::max(0.0, corner_radius * corner_radius - d2)); };
    grid_ = over_disc(
        corner_radius, [&](double high, double z, double d2) { return std::max(high, z + ball(d2)); }, -1e9);
    grid_ = over_disc(
        corner_radius, [&](double low, double z, double d2) { return std::min(low, z - ball(d2)); }, 1e9);
  }
  /// Bilinear between cells' middles.
  [[nodiscard]] double at(Vec2 q) const {
    const Vec2 p = (q - grid_.origin()) * (1 / grid_.cell()) - Vec2{0.5, 0.5};
    const int i = std::clamp(static_cast<int>(std::floor(p.x)), 0, grid_.width() - 2);
    const int j = std::clamp(static_cast<int>(std::floor(p.y)), 0, grid_.height() - 2);
    const double u = std::clamp(p.x - i, 0.0, 1.0);
    const double v = std::clamp(p.y - j, 0.0, 1.0);
    const auto z = [&](int a, int b) { return static_cast<double>(grid_.at(i + a, j + b)); };
    return (z(0, 0) * (1 - u) + z(1, 0) * u) * (1 - v) + (z(0, 1) * (1 - u) + z(1, 1) * u) * v;
  }

 private:
  template <class Join>
  [[nodiscard]] TileGrid over_disc(double radius, const Join& join, double from) const {
    struct Offset {
      int i, j;
      double d2;
    };
    std::vector<Offset> disc;
    const int n = static_cast<int>(radius / grid_.cell());
    for (int j = -n; j <= n; ++j)
      for (int i = -n; i <= n; ++i)
        if (const double d2 = (i * i + j * j) * grid_.cell() * grid_.cell(); d2 <= radius * radius)
          disc.push_back({i, j, d2});
    TileGrid out = grid_;
    fill_cells(out, [&](int i, int j) {
      double z = from;
      for (const Offset& o : disc)
        if (grid_.holds(i + o.i, j + o.j)) z = join(z, static_cast<double>(grid_.at(i + o.i, j + o.j)), o.d2);
      return z;
    });
    return out;
  }
  TileGrid grid_;
};

struct CradleDesign {
  static constexpr const char* part = "cradle";
  std::shared_ptr<const NeckDesign> neck;
  double rise = 0;  // the head's face stands above the glue plane when the neck lies on its front
  double clearance = 0.3;
  Setup setup;
  Vec2 middle;
  Polygon bed;  // where the neck lies
  Rack rack;
  std::vector<Remark> remarks;
  std::shared_ptr<const RolledBed> rolled;
  [[nodiscard]] double top(Vec2 q) const { return rolled ? rolled->at(q) : 0; }
};

Expected<Design> design(const PartInput& in) {
  const NeckWork& w = neck_of(in.project).work;
  CradleDesign d;
  d.neck = in.designs.shared<NeckDesign>();
  d.rack = in.project.rack;
  d.clearance = w.cradle_clearance;
  const Box2 box = bounds(d.neck->cut_outline);
  for (const Vec2 q : d.neck->cut_outline) d.rise = std::max(d.rise, -d.neck->cut_front(q));
  Blank blank = d.neck->blank;
  blank.length = box.size().x + 30;
  blank.width = box.size().y + 24;
  blank.thickness = w.cradle_thickness + d.rise;
  blank.clamps.clear();
  AlignmentNumbers a = w.alignment;
  a.school = School::ticks;
  a.turn = Turn::none;
  d.setup = side_setup(in.project.machine, blank, a, {0, 0}, Turn::none, 0);
  const Turn turn = d.neck->back.turn;
  d.middle = turned(turn, box.middle());
  place_blank(d.setup, d.middle, blank.zero == ZeroPlace::corner ? d.setup.blank_size * 0.5 : Vec2{}, 0);
  d.setup.board_low = {d.setup.blank_corner.x, d.setup.blank_corner.y, -blank.thickness};
  d.setup.board_high = {d.setup.blank_corner.x + d.setup.blank_size.x, d.setup.blank_corner.y + d.setup.blank_size.y,
                        0};
  d.bed = turned(turn, offset({d.neck->cut_outline}, 3.0).front());
  if (w.holding == Holding::cradle)
    d.rolled = std::make_shared<const RolledBed>(
        [&](Vec2 q) { return std::min(0.0, d.neck->back_under(q) - d.rise - d.clearance); }, bounds(d.bed));
  Design out = design_of(std::move(d));
  out.present = w.holding == Holding::cradle;
  return out;
}

Pieces pieces(const PartInput& in) {
  const NeckWork& w = neck_of(in.project).work;
  const auto d = in.designs.shared<CradleDesign>();
  Pieces out;
  if (find_cutter(d->rack, w.rough_cutter) == nullptr || find_cutter(d->rack, w.face_cutter) == nullptr) return out;
  const Blank& blank = d->setup.blank;
  const Vec2 half{blank.length / 2, blank.width / 2};
  const Polygon all{d->middle - half, d->middle + Vec2{half.x, -half.y}, d->middle + half,
                    d->middle + Vec2{-half.x, half.y}};
  const auto heights = [d, half, all](double leave) -> MakeGrid {
    return [d, half, all, leave](double cell) {
      const Vec2 margin{9, 9};
      return grid_over(d->middle - half - margin, d->middle + half + margin, cell, all, [&](Vec2 q, bool inside) {
        return inside ? std::min(0.0, d->top(q) + leave) : d->top(q) + leave;
      });
    };
  };
  const MakeGrid stock = [target = heights(left_by_roughing)](double cell) {
    TileGrid grid = target(cell);
    fill(grid, [](Vec2) { return 0.0; });
    return grid;
  };
  Side side;
  side.id = "cradle";
  side.title = "Cradle for the neck's front";
  side.setup = d->setup;
  side.wood = d->neck->wood;
  side.zero = zero_words(blank, "");
  side.seat = seat_words(d->setup, "its own blank's corner");
  side.clamps_key = "neck.clamps";
  side.alignment = {
      {"Cradle blank {} × {} × {}; centre ticks on the crossed lines.", {blank.length, blank.width, blank.thickness}}};
  side.after = {"Leave it where it is: the neck is laid into it, front down, before its back is cut."};
  side.operations.push_back({"cradle-rough",
                             "Cradle, roughing",
                             w.rough_cutter,
                             Rough{heights(left_by_roughing), stock, 0.4, 0, {}},
                             "neck.rough_cutter",
                             {"neck.rough_cutter", "neck.cradle_thickness"}});
  Finish finish;
  finish.surface = [d](Vec2 q) { return d->top(q); };
  finish.grid = heights(0);
  finish.cell = 0.2;
  finish.leave = left_by_roughing;
  finish.row_width = 0.8;
  finish.plan.scallop = 0.03;
  finish.plan.sample = 1.0;
  finish.plan.wood_top = 0;
  finish.plan.bend = 0;
  std::vector<Station> stations;
  const Box2 own = bounds(d->bed);
  for (double x = own.low.x; x <= own.high.x; x += 1.5) {
    const auto cross = crossings(d->bed, {std::clamp(x, own.low.x + 0.05, own.high.x - 0.05), 0}, {0, 1});
    if (cross.size() >= 2) stations.push_back({x, cross.front(), cross.back()});
  }
  finish.runs.push_back(std::move(stations));
  side.operations.push_back({"cradle-finish",
                             "Cradle, finishing",
                             w.face_cutter,
                             std::move(finish),
                             "neck.face_cutter",
                             {"neck.face_cutter", "neck.cradle_clearance"}});
  for (Operation& op : side.operations) op.judge_reach = false;
  Piece piece{"cradle", "The cradle", {std::move(side)}, 0.2, false, {}};
  piece.target = [d](PieceRequest& r) {
    // Only the bed under the neck matters: round it the roughed wood may stand, a little over the neck's own width.
    const Region inside = offset({d->bed}, -3.5);
    r.sides.front().design.outline = *widest(inside);
    r.sides.front().design.finished = [d](Vec2 q) { return d->top(q); };
    r.tolerances.left_over = d->clearance * 0.4;
    r.tolerances.gouge = 0.1;
    r.held = true;
  };
  out.pieces.push_back(std::move(piece));
  return out;
}

}  // namespace

PartKind cradle_part() {
  PartKind kind;
  kind.table = {"cradle", "Cradle", {}};
  kind.needs = {"neck"};
  kind.design = design;
  kind.pieces = pieces;
  kind.small = true;
  kind.lines = [](const PartInput*, const Project&) -> PartLines {
    return {
        {heading("Cradle"),
         {"cradle.shape", "Cradle", LineState::ready, {"neck.cradle_clearance", "neck.cradle_thickness"}, Look::bed}},
        {}};
  };
  kind.words = [](const PartInput& in) {
    const Blank& b = in.designs.shape<CradleDesign>().setup.blank;
    SheetWords out;
    out.facts = {{"Blank", {"{} × {} × {} of any sound wood or board", {b.length, b.width, b.thickness}}}};
    out.boxes = {"Blank measured", "The neck lies in it without rocking", "Cut by, date"};
    return out;
  };
  kind.mesh = [](const PartInput& in, double within) {
    const auto& d = in.designs.shape<CradleDesign>();
    MeshPlan plan;
    const Blank& b = d.setup.blank;
    const Vec2 half{b.length / 2, b.width / 2};
    plan.outline = divided(
        {d.middle - half, d.middle + Vec2{half.x, -half.y}, d.middle + half, d.middle + Vec2{-half.x, half.y}}, 5);
    plan.steps.push_back(d.bed);
    const Box2 box = bounds(plan.outline);
    const double pace = within < 0.05 ? 0.8 : 4;  // corners of the bed are rounded by 3.5
    for (double x = box.low.x + pace / 2; x < box.high.x; x += pace)
      for (double y = box.low.y + pace / 2; y < box.high.y; y += pace) plan.inside.push_back({x, y});
    plan.region = [&](Vec2 q) { return contains(d.bed, q) ? 1 : contains(plan.outline, q) ? 0 : -1; };
    plan.top = [&](Vec2 q, int region) { return region == 1 ? d.top(q) : 0.0; };
    plan.bottom = [&](Vec2, int) { return -b.thickness; };
    return mesh_piece(plan);
  };
  return kind;
}

}  // namespace wren

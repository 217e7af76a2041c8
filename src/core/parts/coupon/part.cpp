// The test coupon: the board's slot, a pocket for the fit of the heel, a stair of scallops, a hole of each drill, and
// an outline with a tab, cut in scrap with the board's, neck's and body's own cutters and feeds. What is measured on it
// becomes the cutters' effective diameters, the pocket's fit and the scallops wanted. Frame: the coupon's own, origin
// at its lower-left corner, z = 0 on its underside; mm.
#include <algorithm>

#include <fmt/format.h>

#include "core/document/field_makers.hpp"
#include "core/instrument/body_shape.hpp"
#include "core/parts/body/numbers.hpp"
#include "core/parts/coupon/part.hpp"
#include "core/parts/fretboard/numbers.hpp"
#include "core/parts/neck/numbers.hpp"
#include "core/plan/region.hpp"
#include "core/proof/wall_designs.hpp"
#include "core/skin/grids.hpp"

namespace wren {
namespace {

constexpr double length_mm = 170;
constexpr double width_mm = 50;
constexpr double margin = 14;  // of the scrap round the coupon
constexpr double stair_scallops[] = {0.005, 0.01, 0.02, 0.04, 0.08};
constexpr double tread = 12;       // of the stair, along
constexpr double stair_depth = 2;  // under the top
constexpr double pocket_depth = 4;

struct CouponDesign {
  static constexpr const char* part = "coupon";
  Setup setup;
  Material wood;
  Rack rack;
  std::vector<Remark> remarks;
  double thickness = 12;
  Polygon outline;
  std::shared_ptr<const Fretboard> strip;  // one slot like the board's, in a flat board
  Polygon pocket;
  struct Hole {
    const char* key;
    std::string drill;
    Vec2 at;
    double diameter = 0;
    double point = 0;
  };
  std::vector<Hole> holes;
  double stair_from = 0;  // x
};

/// A board with one slot across the coupon's left end; its numbers are the board's own slot's.
Expected<Fretboard> strip_of(const FretboardNumbers& board, double thickness) {
  Instrument in = board.instrument;
  in.crown.kind = CrownKind::flat;
  in.board.thickness = thickness;
  in.marks.shape = MarkShape::none;
  in.slot.ends = SlotEnds::blind;
  auto made = make_fretboard(in);
  if (!made) return made;
  // Only the slot of one fret, moved to its place; everything else of the board is not there.
  FretLine slot = made->frets.front();
  const double half = 14;
  slot.bass_edge = {14, width_mm / 2 - half - 4};
  slot.treble_edge = {14, width_mm / 2 + half + 4};
  slot.slot_bass = {14, width_mm / 2 - half};
  slot.slot_treble = {14, width_mm / 2 + half};
  made->frets = {slot};
  made->marks.clear();
  return made;
}

Expected<Design> design(const PartInput& in) {
  const Project& p = in.project;
  const CouponNumbers& n = coupon_of(p);
  CouponDesign d;
  d.rack = p.rack;
  d.thickness = n.thickness;
  auto wood = find_material(p.materials, n.wood);
  if (!wood) return fail(ProblemKind::range, wood.error().what, "coupon.wood", wood.error().todo);
  d.wood = *wood;
  auto strip = strip_of(board_of(p), n.thickness);
  if (!strip) return tl::unexpected(strip.error());
  d.strip = std::make_shared<const Fretboard>(std::move(*strip));
  const std::string& slot = board_of(p).work.slot_cutter;
  const auto need = [&](const std::string& cutter, const char* key, const char* what) {
    if (find_cutter(d.rack, cutter) != nullptr) return;
    d.remarks.push_back({"coupon.cutter_missing",
                         Weight::stop,
                         worded("The coupon is cut with the {} '{}', which is not in the rack.", what, cutter),
                         0,
                         0,
                         "",
                         "the rack",
                         key,
                         {},
                         {},
                         {}});
  };
  need(slot, "slot.cutter", "board's slot cutter");
  need(board_of(p).work.outline_cutter, "outline.cutter", "board's outline cutter");
  need(body_of(p).work.clear_cutter, "body.clear_cutter", "body's clearing cutter");
  need(neck_of(p).work.finish_cutter, "neck.finish_cutter", "neck's finishing cutter");
  const double depth = d.strip->given.board.thickness - d.strip->slot_floor({14, width_mm / 2});
  if (depth > n.thickness - 2)
    d.remarks.push_back(
        {"coupon.thin",
         Weight::stop,
         worded("Scrap of {} is too thin for a slot {} deep.", format_mm(n.thickness), format_mm(depth)),
         n.thickness,
         depth + 2,
         "mm",
         "geometry",
         "coupon.thickness",
         {},
         Repair{worded("Take scrap of {}", mm(12)), {{"coupon.thickness", "12"}}},
         {}});
  d.outline = {{0, 0}, {length_mm, 0}, {length_mm, width_mm}, {0, width_mm}};
  const double half = n.pocket / 2;
  d.pocket = {
      {28, width_mm / 2 - half}, {58, width_mm / 2 - half}, {58, width_mm / 2 + half}, {28, width_mm / 2 + half}};
  d.stair_from = 68;
  const double x = 140;
  const std::pair<const char*, std::string> drills[] = {{"neck.pilot_drill", neck_of(p).work.pilot_drill},
                                                        {"neck.heel_drill", neck_of(p).work.heel_drill}};
  double y = 12;
  for (const auto& [key, id] : drills)
    if (const Cutter* c = find_cutter(d.rack, id)) {
      d.holes.push_back({key, id, {x, y}, c->effective_diameter(), c->kind == CutterKind::drill ? c->profile(1.0) : 0});
      y += 13;
    }
  Blank blank;
  blank.length = length_mm + 2 * margin;
  blank.width = width_mm + 2 * margin;
  blank.thickness = n.thickness;
  blank.wood = n.wood;
  d.setup = make_setup(p.machine, blank, d.outline);
  return design_of(std::move(d));
}

constexpr double row_step = 0.5;  // mm between the stations of a tread's rows
constexpr double row_end = 10;    // mm from the coupon's long sides

/// Between which x the middle of the ball runs on a tread.
struct Rows {
  double from = 0, to = 0;
};
Rows rows_of(const CouponDesign& d, std::size_t k, double ball_radius) {
  const double x0 = d.stair_from + static_cast<double>(k) * tread;
  const double from = x0 + ball_radius + 0.5;
  return {from, from + row_step * std::floor((x0 + tread - from) / row_step + 1e-9)};
}

/// One tread: rows of the finishing ball so far apart that this scallop stands between them.
Finish tread_of(const CouponDesign& d, std::size_t k, const Cutter& ball) {
  const double x0 = d.stair_from + static_cast<double>(k) * tread;
  const double z = d.thickness - stair_depth;
  Finish f;
  f.surface = [z](Vec2) { return z; };
  f.grid = [x0, z](double cell) {
    return grid_over({x0 - 6, 2}, {x0 + tread + 6, width_mm - 2}, cell, {}, [z](Vec2, bool) { return z; });
  };
  f.cell = 0.2;
  std::vector<Station> run;
  const Rows rows = rows_of(d, k, ball.radius());
  for (double x = rows.from; x <= rows.to + 1e-6; x += row_step) run.push_back({x, row_end, width_mm - row_end});
  f.runs = {run};
  f.plan.scallop = stair_scallops[k];
  f.plan.sample = 1;
  f.leave = stair_depth;  // nothing was roughed before
  f.plan.wood_top = d.thickness;
  f.plan.bend = 0;
  f.leave = stair_depth;
  return f;
}

Pieces pieces(const PartInput& in) {
  const Project& p = in.project;
  const auto d = in.designs.shared<CouponDesign>();
  Side side;
  side.id = "top";
  side.title = "Top";
  side.setup = d->setup;
  side.wood = d->wood;
  side.zero = zero_words(d->setup.blank, "");
  side.seat = "top side up, centre ticks on the crossed lines";
  side.reach_slack = 1.2;
  side.alignment = {{"Any sound scrap {} × {} × {}, held with double-sided tape; centre ticks on the crossed lines.",
                     {d->setup.blank.length, d->setup.blank.width, d->setup.blank.thickness}}};
  for (const Jog& jog : d->setup.jogs)
    side.alignment.push_back(worded("{}: x {}, y {}.", Words(jog.what), exact_mm(jog.x), exact_mm(jog.y)));
  const auto add = [&](std::string id, Words title, const std::string& cutter, Shape shape, const char* key,
                       Words check) {
    if (find_cutter(d->rack, cutter) == nullptr) return;
    side.operations.push_back({std::move(id), std::move(title), cutter, std::move(shape), key, {key}});
    side.operations.back().check = {std::move(check)};
  };
  const FretboardNumbers& board = board_of(p);
  const Height top = [t = d->thickness](Vec2) { return t; };
  add("slot", "The board's slot", board.work.slot_cutter, Slots{d->strip, board.work.slot_entry, top}, "slot.cutter",
      {"Measure the slot's width with feeler gauges, or stand an off-cut of wire in it: it becomes the slot cutter's "
       "diameter. Depth wanted {}.",
       {d->strip->given.slot.depth}});
  ClearPlan clear;
  clear.region = {d->pocket};
  clear.top = d->thickness;
  clear.floor = [z = d->thickness - pocket_depth](Vec2) { return z; };
  clear.lowest_floor = d->thickness - pocket_depth;
  clear.step = body_of(p).work.step;
  clear.leave_wall = body_of(p).work.wall_skim;
  clear.leave_floor = body_of(p).work.floor_skim;
  add("pocket", "Pocket for the fit", body_of(p).work.clear_cutter, Clear{std::move(clear), "", "", d->thickness, {}},
      "body.clear_cutter",
      {"Measure the pocket across with calipers ({} wanted): what is missing is the clearing cutter's. Try a gauge in "
       "it "
       "that pushes in by hand: half the play becomes the pocket's fit.",
       {coupon_of(p).pocket}});
  const std::string& ball_id = neck_of(p).work.finish_cutter;
  if (const Cutter* ball = find_cutter(d->rack, ball_id))
    for (std::size_t k = 0; k < std::size(stair_scallops); ++k)
      add(fmt::format("stair-{}", k + 1), worded("Stair, scallop {}", format_mm(stair_scallops[k], 3)), ball_id,
          tread_of(*d, k, *ball), "neck.finish_cutter",
          {"Sand the stair with the last paper you use: the coarsest tread that no longer shows is the scallop to ask "
           "for."});
  for (const CouponDesign::Hole& h : d->holes) {
    Holes one;
    one.holes.push_back({"hole of " + h.drill, h.at, h.diameter, d->thickness, d->thickness - 8});
    one.peck = std::max(1.0, 1.5 * h.diameter);
    add("hole-" + h.drill, worded("Hole of {}", h.drill), h.drill, std::move(one), h.key,
        {"Measure the hole with a pin or the drill's shank: it becomes the drill's diameter ({} now).", {h.diameter}});
    if (!side.operations.empty()) side.operations.back().touches = [](Vec2) { return -1e300; };
  }
  OutlinePlan plan;
  plan.wood_top = d->thickness;
  plan.through = board.work.through;
  plan.skim = board.work.outline_skim;
  plan.tab_length = board.work.tab_length;
  plan.tab_height = board.work.tab_height;
  Contour contour;
  for (const Vec2 q : d->outline) contour.push_back({q, 0});
  plan.tabs = {length_mm / 2, length_mm * 1.5 + width_mm};
  add("outline", "Outline", body_of(p).work.outline_cutter, Outline{contour, std::move(plan)}, "body.outline_cutter",
      {"Saw a tab through: it should be {} high. No skin left in the groove.", {board.work.tab_height}});
  Piece piece{"coupon", "The coupon", {std::move(side)}, 0.1, false, {}};
  piece.target = [d, through = board.work.through,
                  fine = find_cutter(d->rack, body_of(p).work.clear_cutter)
                             ? find_cutter(d->rack, body_of(p).work.clear_cutter)->radius()
                             : 3.0,
                  ball =
                      find_cutter(d->rack, ball_id) ? find_cutter(d->rack, ball_id)->radius() : 0.0](PieceRequest& r) {
    const Region pocket = offset(offset({d->pocket}, -fine), fine);
    const auto mask = std::make_shared<const RegionMask>(pocket);
    SideDesign& one = r.sides.front().design;
    one.outline = d->outline;
    one.cut_free = true;
    one.crowned = [t = d->thickness](Vec2) { return t; };
    one.finished = [d, mask, r = ball](Vec2 q) {
      double z = d->thickness;
      if (mask->holds(q)) z = d->thickness - pocket_depth;
      // Each tread is as deep as the stair where its rows run; about them stands what the ball leaves.
      for (std::size_t k = 0; r > 0 && k < std::size(stair_scallops); ++k) {
        const Rows rows = rows_of(*d, k, r);
        const double rho = length({std::max({rows.from - q.x, 0.0, q.x - rows.to}),
                                   std::max({row_end - q.y, 0.0, q.y - (width_mm - row_end)})});
        if (rho < r) z = std::min(z, d->thickness - stair_depth + r - std::sqrt(r * r - rho * rho));
      }
      for (const CouponDesign::Hole& h : d->holes)
        if (const double rho = distance(q, h.at); rho <= h.diameter / 2)
          z = std::min(z, d->thickness - 8 - h.point * (h.diameter / 2 - rho));
      const FretLine& f = d->strip->frets.front();
      if (std::abs(q.x - f.slot_bass.x) < d->strip->given.slot.width / 2 && q.y > f.slot_bass.y &&
          q.y < f.slot_treble.y)
        z = std::min(z, d->strip->slot_floor(q));
      return z;
    };
    const FretLine& f = d->strip->frets.front();
    add_walls(one.walls, "Pocket", pocket, [z = d->thickness - pocket_depth](Vec2) { return z; });
    for (const CouponDesign::Hole& h : d->holes)
      one.walls.push_back(round_wall("Hole of " + h.drill, h.at, h.diameter, d->thickness - 8));
    one.slots.push_back({"the board's slot", f.slot_bass, f.slot_treble, d->strip->given.slot.width,
                         [strip = d->strip](Vec2 q) { return strip->slot_floor(q); }, true});
    r.tolerances.below = through;
    r.tolerances.left_over = stair_scallops[std::size(stair_scallops) - 1] * 1.3;  // between the coarsest rows
    r.tolerances.skin_height = 0.4;
  };
  Pieces out;
  out.pieces.push_back(std::move(piece));
  return out;
}

/// What is measured on the coupon goes where it belongs, with its date and how it was measured.
template <class Set>
Field coupon_measure(std::string key, Words label, double low, double high, Words reason, std::string target, Set set) {
  Field f;
  f.key = "measured.coupon." + std::move(key);
  f.label = std::move(label);
  f.unit = "mm";
  f.low = low;
  f.high = high;
  f.optional = f.measured = f.alias = true;
  f.reason = std::move(reason);
  f.get = [key = f.key.substr(9)](const Project& p) -> FieldValue {
    const Measured* m = measured_in_use(p.record.measured, key);
    return m != nullptr ? FieldValue(m->value) : FieldValue();
  };
  f.put = [key = f.key.substr(9), target, set](Project& p, const FieldValue& v) {
    if (const double* number = std::get_if<double>(&v)) {
      p.record.measured.push_back({key, *number, "", "measured on coupon", target, true});
      if (p.record.measured.size() > most_measured) p.record.measured.erase(p.record.measured.begin());
      set(p, *number);
    } else {
      for (Measured& m : p.record.measured)
        if (m.key == key) m.in_use = false;
    }
  };
  return f;
}

/// A slot is never thinner than the cutter that made it: by more than a hair it was measured wrong.
std::optional<Problem> check_slot(const Project& p, double width) {
  const Cutter* c = find_cutter(p.rack, board_of(p).work.slot_cutter);
  if (c == nullptr || width >= c->diameter - 0.03) return {};
  return Problem{ProblemKind::range,
                 worded("a slot of {} is thinner than its cutter '{}' of {}", format_mm(width, 3), c->id,
                        format_mm(c->diameter, 3)),
                 "coupon.slot", "Measure it again"};
}

void set_cutter(Project& p, const std::string& id, double diameter) {
  for (Cutter& c : p.rack)
    if (c.id == id) c.measured = diameter;
}

std::vector<Field> fields() {
#define AT(member) \
  [](auto& p) -> auto& { return coupon_of(p).member; }
  std::vector<Field> f{
      length_field("coupon.thickness", "Scrap's thickness", AT(thickness), 6, 60, "measured"),
      wood_field("coupon.wood", "Wood", AT(wood), "the wood to be cut later says most"),
      length_field("coupon.pocket", "Pocket's width", AT(pocket), 10, 40, "as designed"),
      coupon_measure("slot", "Slot's width", 0.1, 4, "becomes the slot cutter's diameter", "the slot cutter",
                     [](Project& p, double v) { set_cutter(p, board_of(p).work.slot_cutter, v); }),
      coupon_measure("pocket", "Pocket across", 5, 60, "what it differs by is the clearing cutter's",
                     "the clearing cutter",

                     [](Project& p, double v) {
                       const Cutter* c = find_cutter(p.rack, body_of(p).work.clear_cutter);
                       if (c != nullptr) set_cutter(p, c->id, c->effective_diameter() + (v - coupon_of(p).pocket));
                     }),
      coupon_measure("gauge", "Gauge that pushes in", 5, 60,
                     "half its play in the pocket becomes the neck pocket's fit", "body.fit",
                     [](Project& p, double v) {
                       const Measured* pocket = measured_in_use(p.record.measured, "coupon.pocket");
                       const double across = pocket != nullptr ? pocket->value : coupon_of(p).pocket;
                       body_of(p).body.setup.fit = std::clamp((across - v) / 2, 0.0, 2.0);
                     }),
      coupon_measure("pilot", "Pilot drill's hole", 0.3, 10, "becomes the pilot drill's diameter", "the pilot drill",
                     [](Project& p, double v) { set_cutter(p, neck_of(p).work.pilot_drill, v); }),
      coupon_measure("heel_hole", "Heel drill's hole", 0.3, 20, "becomes the heel drill's diameter", "the heel drill",
                     [](Project& p, double v) { set_cutter(p, neck_of(p).work.heel_drill, v); }),
      coupon_measure("scallop", "Coarsest tread unseen", 0.001, 0.2, "becomes the scallop of crown, neck and body",
                     "the scallops wanted", [](Project& p, double v) {
                       board_of(p).work.crown_scallop = neck_of(p).work.scallop = body_of(p).work.scallop = v;
                     })};
#undef AT
  for (Field& one : f)
    if (one.key == "measured.coupon.slot")
      one.contradicts = [](const Project& p, const FieldValue& v) -> std::optional<Problem> {
        const double* width = std::get_if<double>(&v);
        return width != nullptr ? check_slot(p, *width) : std::nullopt;
      };
  return f;
}

}  // namespace

PartKind coupon_part() {
  PartKind kind;
  kind.table = {"coupon", "Test coupon", fields()};
  kind.needs = {"fretboard"};
  kind.design = design;
  kind.pieces = pieces;
  kind.small = true;
  kind.lines = [](const PartInput*, const Project&) -> PartLines {
    return {{heading("Test coupon"), {"coupon.scrap", "Scrap", LineState::ready, {"coupon."}, Look::bed}},
            {{"coupon.measures",
              "What it measures",
              LineState::ready,
              {"measured.coupon."},
              Look::bed,
              "",
              0,
              {},
              {},
              false,
              false,
              "Each number goes to the cutter or the choice it belongs to, with its date."}}};
  };
  kind.words = [](const PartInput& in) {
    const auto& d = in.designs.shape<CouponDesign>();
    SheetWords out;
    out.facts = {
        {"Scrap",
         {"{} × {} × {} " + d.setup.blank.wood, {d.setup.blank.length, d.setup.blank.width, d.setup.blank.thickness}}}};
    out.set_up = {
        {"What is measured here changes: the slot cutter's, clearing cutter's and drills' diameters in the rack, "
         "the neck pocket's fit, and the scallops of crown, neck and body."}};
    out.materials = {d.wood};
    out.boxes = {"Slot's width (feeler gauges)",
                 "Pocket across (calipers)",
                 "Gauge that pushes in by hand",
                 "Pilot drill's hole (pin)",
                 "Heel drill's hole (pin)",
                 "Coarsest tread unseen after sanding",
                 "Cut by, date"};
    return out;
  };
  return kind;
}

}  // namespace wren

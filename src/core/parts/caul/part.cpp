#include "core/parts/caul/part.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/instrument/fret_work.hpp"
#include "core/parts/fretboard/part.hpp"
#include "core/plan/region.hpp"
#include "core/proof/wall_designs.hpp"
#include "core/skin/grids.hpp"

namespace wren {
namespace {

constexpr double left_by_roughing = 0.4;
constexpr double beyond = 3;  // mm of the caul past the board, each way

struct CaulDesign {
  static constexpr const char* part = "caul";
  std::shared_ptr<const Fretboard> board;
  Setup setup;
  Polygon blank;                // its plan
  double rim = 0;               // z of the board's lowest place, which its edges meet
  double width = 0, depth = 0;  // of the grooves; 0: none
  Material wood;
  Rack rack;
  std::vector<Remark> remarks;

  /// Its hollow, without grooves.
  [[nodiscard]] double hollow(Vec2 q) const { return std::min(0.0, rim - board->crown_height({q.x, -q.y})); }
  struct Groove {
    Vec2 a, b;  // out over both edges
  };
  std::vector<Groove> grooves;
  [[nodiscard]] bool in_groove(Vec2 q) const {
    return std::any_of(grooves.begin(), grooves.end(), [&](const Groove& g) {
      return distance_to(q, {g.a, g.b}) <= width / 2;
    });
  }
};

Expected<Design> design(const PartInput& in) {
  const FretboardNumbers& n = board_of(in.project);
  CaulDesign d;
  d.board = std::make_shared<const Fretboard>(in.designs.shape<BoardDesign>().board);
  d.rack = in.project.rack;
  const Box2 box = bounds(d.board->corners);
  d.rim = 1e9;
  for (const Vec2 p : d.board->corners) d.rim = std::min(d.rim, d.board->crown_height(p));
  Blank blank;
  blank.length = box.size().x + 2 * beyond;
  blank.width = box.size().y + 2 * beyond;
  blank.thickness = n.work.caul_thickness;
  blank.wood = n.work.caul_wood;
  blank.lie = n.blank.lie;
  if (const auto wood = find_material(in.project.materials, n.work.caul_wood))
    d.wood = *wood;
  else
    return fail(ProblemKind::range, wood.error().what, "caul.wood", wood.error().todo);
  AlignmentNumbers a;
  a.school = School::ticks;
  a.turn = Turn::none;
  const Vec2 middle{box.middle().x, -box.middle().y};
  d.setup = side_setup(in.project.machine, blank, a, middle, Turn::none, 0);
  d.setup.board_low = {d.setup.blank_corner.x, d.setup.blank_corner.y, -blank.thickness};
  d.setup.board_high = {d.setup.blank_corner.x + d.setup.blank_size.x, d.setup.blank_corner.y + d.setup.blank_size.y,
                        0};
  const Vec2 half{blank.length / 2, blank.width / 2};
  d.blank = {middle - half, middle + Vec2{half.x, -half.y}, middle + half, middle + Vec2{-half.x, half.y}};
  const Frets& frets = n.instrument.frets;
  if (frets.when == FretsWhen::board_loose && frets.held != FretsHeld::glued) {
    d.width = frets.crown_width + 2 * n.work.caul_clearance;
    d.depth = frets.crown_height + n.work.caul_clearance;
    for (const FretLine& f : d.board->frets) {
      const Vec2 u = f.along() * (beyond + d.width);
      const Vec2 bass = f.bass_edge - u;
      const Vec2 treble = f.treble_edge + u;
      d.grooves.push_back({{bass.x, -bass.y}, {treble.x, -treble.y}});
    }
    const Cutter* c = find_cutter(d.rack, n.work.caul_groove);
    if (c != nullptr && c->effective_diameter() > d.width + 1e-9)
      d.remarks.push_back({"caul.groove_cutter",
                           Weight::stop,
                           worded("'{}' is wider than the caul's grooves of {}.", c->id, mm(d.width)),
                           c->effective_diameter(),
                           d.width,
                           "mm",
                           "geometry",
                           "caul.groove_cutter",
                           {},
                           find_cutter(d.rack, "flat-1.5") != nullptr
                               ? std::optional(Repair{"Take flat-1.5", {{"caul.groove_cutter", "flat-1.5"}}})
                               : std::nullopt});
    const double left = n.work.caul_thickness + d.rim - n.instrument.board.thickness - d.depth;
    if (left < 8)
      d.remarks.push_back(
          {"caul.thin",
           left < 3 ? Weight::stop : Weight::think_again,
           worded("Under its grooves only {} of the caul are left: it bends with the board.", mm(left, 1)),
           left,
           8,
           "mm",
           "common practice",
           "caul.thickness",
           {},
           Repair{worded("{} thick", mm(30)), {{"caul.thickness", "30"}}}});
  }
  for (const auto& [id, key] :
       {std::pair{&n.work.caul_rough, "caul.rough_cutter"}, std::pair{&n.work.caul_finish, "caul.finish_cutter"},
        std::pair{&n.work.caul_groove, "caul.groove_cutter"}}) {
    const Cutter* c = find_cutter(d.rack, *id);
    const bool ball = key == std::string("caul.finish_cutter");
    if (c != nullptr && (c->kind == CutterKind::ball) == ball && (ball || c->kind == CutterKind::flat)) continue;
    if (c == nullptr) {
      const Problem gone = missing_cutter(d.rack, *id, key);
      d.remarks.push_back(
          {"caul.cutter_missing", Weight::stop, gone.what + ": " + gone.todo + ".", 0, 0, "", "the rack", key, {}, {}});
    } else {
      d.remarks.push_back(
          {"caul.cutter_kind",
           Weight::stop,
           worded("'{}' is a {} and no {}.", c->id, cutter_kind_name(c->kind), ball ? "ball" : "flat cutter"),
           0,
           0,
           "",
           "geometry",
           key,
           {},
           {}});
    }
  }
  const bool wanted = frets.when == FretsWhen::board_loose || frets.held == FretsHeld::glued;
  if (!wanted) d.remarks.clear();
  Design out = design_of(std::move(d));
  out.present = wanted;
  return out;
}

MakeGrid heights(const std::shared_ptr<const CaulDesign>& d, double leave) {
  return [d, leave](double cell) {
    const Vec2 margin{9, 9};
    const Box2 box = bounds(d->blank);
    return grid_over(box.low - margin, box.high + margin, cell, d->blank,
                     [&](Vec2 q, bool) { return std::min(0.0, d->hollow(q) + leave); });
  };
}

Pieces pieces(const PartInput& in) {
  const BoardWork& w = board_of(in.project).work;
  const auto d = in.designs.shared<CaulDesign>();
  Pieces out;
  if (find_cutter(d->rack, w.caul_rough) == nullptr || find_cutter(d->rack, w.caul_finish) == nullptr) return out;
  const Blank& blank = d->setup.blank;
  Side side;
  side.id = "caul";
  side.title = "Caul, its hollow up";
  side.setup = d->setup;
  side.wood = d->wood;
  side.zero = zero_words(blank, "");
  side.seat = seat_words(d->setup, "its own blank's corner");
  side.clamps_key = "board.clamps";
  side.alignment = {
      {"Caul's blank {} × {} × {}, held with double-sided tape or screws from below; centre ticks on the "
       "crossed lines.",
       {blank.length, blank.width, blank.thickness}}};
  const bool crowned = d->board->given.crown.kind != CrownKind::flat;
  if (crowned) {
    const MakeGrid stock = [target = heights(d, left_by_roughing)](double cell) {
      TileGrid grid = target(cell);
      fill(grid, [](Vec2) { return 0.0; });
      return grid;
    };
    side.operations.push_back({"caul-rough",
                               "Caul, roughing its hollow",
                               w.caul_rough,
                               Rough{heights(d, left_by_roughing), stock, 0.4, 0, {}},
                               "caul.rough_cutter",
                               {"caul.rough_cutter", "caul.thickness"}});
    Finish finish;
    finish.surface = [d](Vec2 q) { return d->hollow(q); };
    finish.grid = heights(d, 0);
    finish.cell = 0.2;
    finish.leave = left_by_roughing;
    finish.row_width = 1;
    finish.plan.scallop = 0.03;
    finish.plan.sample = 1.5;
    finish.plan.wood_top = 0;
    finish.plan.bend = 0;
    const Box2 box = bounds(d->blank);
    std::vector<Station> stations;
    const int paces = std::max(1, static_cast<int>(std::ceil(box.size().x / 3)));  // both ends are stations
    for (int k = 0; k <= paces; ++k) stations.push_back({box.low.x + box.size().x * k / paces, box.low.y, box.high.y});
    finish.runs.push_back(std::move(stations));
    side.operations.push_back({"caul-finish",
                               "Caul, finishing its hollow",
                               w.caul_finish,
                               std::move(finish),
                               "caul.finish_cutter",
                               {"caul.finish_cutter"}});
    side.operations.back().check = {{"Laid on the crowned board without frets it does not rock."}};
  }
  if (!d->grooves.empty()) {
    Channels grooves;
    grooves.top = 0;
    int number = d->board->frets.front().number;
    for (const CaulDesign::Groove& g : d->grooves)
      grooves.channels.push_back({fmt::format("groove over fret {}", number++), g.a, g.b, d->width,
                                  [d](Vec2 q) { return d->hollow(q) - d->depth; }});
    side.operations.push_back({"caul-grooves",
                               "Caul's grooves over the frets",
                               w.caul_groove,
                               std::move(grooves),
                               "caul.groove_cutter",
                               {"caul.groove_cutter", "caul.clearance"}});
    side.operations.back().check = {{"A fret's crown drops into every groove and touches nothing."}};
  }
  for (Operation& op : side.operations) op.judge_reach = false;
  Piece piece{"caul", "The caul", {std::move(side)}, 0.15, false, {}};
  piece.target = [d](PieceRequest& r) {
    SideDesign& one = r.sides.front().design;
    one.outline = d->blank;
    one.finished = [d](Vec2 q) { return d->in_groove(q) ? d->hollow(q) - d->depth : d->hollow(q); };
    for (const CaulDesign::Groove& g : d->grooves)
      add_walls(one.walls, "Groove", {buffer_of({g.a, g.b}, d->width / 2)},
                [d](Vec2 q) { return d->hollow(q) - d->depth; });
    r.tolerances.left_over = 0.15;  // a flat bottom on a hollow floor; the frets have more room than that
    r.tolerances.gouge = 0.08;
    r.held = true;
  };
  if (!piece.sides.front().operations.empty()) out.pieces.push_back(std::move(piece));
  return out;
}

}  // namespace

PartKind caul_part() {
  PartKind kind;
  kind.table = {"caul", "Caul", {}};
  kind.needs = {"fretboard"};
  kind.design = design;
  kind.pieces = pieces;
  kind.small = true;
  kind.numbers = [](const PartInput& in) {
    const auto& d = in.designs.shape<CaulDesign>();
    Numbers n;
    if (d.width > 0) {
      n.length("caul.groove_width", "Grooves' width", d.width, "a fret's crown and room at both sides");
      n.length("caul.groove_depth", "Grooves' depth", d.depth, "a fret's crown and room over it, under the hollow");
    }
    return n.take();
  };
  kind.lines = [](const PartInput*, const Project&) -> PartLines {
    return {{heading("Caul"), {"caul.shape", "Caul for the fretted board", LineState::ready, {"caul."}, Look::bed}},
            {}};
  };
  kind.words = [](const PartInput& in) {
    const auto& d = in.designs.shape<CaulDesign>();
    const Blank& b = d.setup.blank;
    SheetWords out;
    out.facts = {{"Blank", {"{} × {} × {} " + b.wood, {b.length, b.width, b.thickness}}}};
    if (d.width > 0) {
      out.facts.push_back({"Grooves", {"{} wide, {} deep, over every fret", {d.width, d.depth}}});
      out.facts.push_back({"Back-bow held flat", {"about {} between the outer frets", {back_bow(*d.board)}}});
    }
    out.materials = {d.wood};
    out.boxes = {"Blank measured", "It lies on the board without rocking", "Cut by, date"};
    return out;
  };
  kind.mesh = [](const PartInput& in, double within) {
    const auto& d = in.designs.shape<CaulDesign>();
    MeshPlan plan;
    plan.outline = divided(d.blank, 4);
    const double pace = within < 0.05 ? 2 : 5;
    std::vector<Polygon> grooves;
    for (const CaulDesign::Groove& g : d.grooves) {
      const Vec2 n = left_of(unit(g.b - g.a)) * (d.width / 2);
      for (const Polygon& part : intersected({{g.a - n, g.b - n, g.b + n, g.a + n}}, {d.blank})) {
        grooves.push_back(part);
        plan.steps.push_back(divided(part, 4));
      }
    }
    const Box2 box = bounds(d.blank);
    for (double x = box.low.x + pace / 2; x < box.high.x; x += pace)
      for (double y = box.low.y + pace / 2; y < box.high.y; y += pace) plan.inside.push_back({x, y});
    plan.region = [&](Vec2 q) {
      for (const Polygon& g : grooves)
        if (contains(g, q)) return 1;
      return contains(d.blank, q) ? 0 : -1;
    };
    plan.top = [&](Vec2 q, int region) { return d.hollow(q) - (region == 1 ? d.depth : 0); };
    plan.bottom = [&](Vec2, int) { return -d.setup.blank.thickness; };
    return mesh_piece(plan);
  };
  return kind;
}

}  // namespace wren

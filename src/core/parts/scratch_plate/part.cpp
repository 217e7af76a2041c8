#include "core/parts/scratch_plate/part.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/cutting/choose.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/flat.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {
namespace {

constexpr double sheet_margin = 14;
constexpr double flank = 0.2928932188;  // 1 − cos 45°: how far a ball's tip lies under where it touches a bevel
constexpr double round_least = 4;       // mm: the bevel's ball goes round every corner

struct PlateDesign {
  static constexpr const char* part = "scratch-plate";
  FlatPart flat;
  double bevel = 0;
  struct Opening {
    std::string id, title;
    Region region;
  };
  std::vector<Opening> openings;
  std::vector<BodyHole> holes;  // screws and shafts
  std::shared_ptr<const Nearness> edge;
  std::shared_ptr<const RegionMask> inside;
  Rack rack;
  std::vector<Remark> remarks;
  [[nodiscard]] double top(Vec2 q) const {
    return flat.thickness - std::clamp(bevel - (inside->holds(q) ? edge->distance_within(q) : 0.0), 0.0, bevel);
  }
};

Expected<Design> design(const PartInput& in) {
  const BodyNumbers& b = body_of(in.project);
  const BodyShape& s = in.designs.shape<BodyDesign>().shape;
  const ScratchPlate& plate = b.body.plate;
  PlateDesign d;
  d.rack = in.project.rack;
  d.flat.id = "scratch-plate";
  d.flat.title = "Scratch plate";
  d.flat.margin = sheet_margin;
  d.flat.thickness = plate.thickness;
  const auto wood = find_material(in.project.materials, b.work.plate_wood);
  if (!wood && plate.thickness > 0) return fail(ProblemKind::range, wood.error().what, "plate.wood", wood.error().todo);
  if (wood) d.flat.wood = *wood;
  d.bevel = std::min(plate.bevel, plate.thickness * 0.8);
  if (!s.scratch_plate.empty()) {
    const Region soft = offset(offset({s.scratch_plate}, -round_least), round_least);
    if (const Polygon* one = widest(soft)) d.flat.outline = *one;
  }
  const bool wanted = plate.thickness > 0 && d.flat.outline.size() >= 3;
  if (wanted) {
    d.edge = std::make_shared<const Nearness>(d.flat.outline, d.bevel + 0.5);
    d.inside = std::make_shared<const RegionMask>(Region{d.flat.outline});
    const Region within = offset({d.flat.outline}, -(d.bevel + 1));
    for (const BodyShape::Pickup& p : s.pickups) {
      const Polygon hole = rounded_rectangle(p.middle, p.across, p.size.length + 2 * pickup_clearance,
                                             p.size.width + 2 * pickup_clearance, std::max(1.6, p.size.corner));
      if (area(intersected({hole}, {d.flat.outline})) < 1) continue;
      if (area(subtracted({hole}, within)) > 0.01) {
        d.remarks.push_back(
            {"plate.opening_at_edge",
             Weight::stop,
             worded("The scratch plate ends within the {}'s opening: it would be cut in two.", pickup_name(p.which)),
             0,
             0,
             "mm",
             "geometry",
             "plate.beyond",
             {},
             Repair{worded("Let it go {} beyond what it covers", mm(12)), {{"plate.beyond", "12"}}}});
        continue;
      }
      d.openings.push_back({"opening-" + p.which, "Opening for the " + p.which + " pickup", {hole}});
    }
    for (const BodyHole& h : s.holes) {
      const bool screw = h.id.starts_with("guard-");
      if (!screw && !(h.id.starts_with("shaft-") && plate.controls)) continue;
      BodyHole own = h;
      own.title = screw ? "Screw hole" : "Shaft's hole";
      own.diameter = screw ? plate.screw + 0.7 : h.diameter;
      own.depth = 0;
      own.drilled = false;
      if (area(subtracted({circle_polygon(h.at, own.diameter / 2)}, within)) < 0.01) d.holes.push_back(std::move(own));
    }
  }
  Design out = design_of(std::move(d));
  out.present = wanted;
  return out;
}

Pieces pieces(const PartInput& in) {
  Pieces out;
  const auto d = in.designs.shared<PlateDesign>();
  const BodyWork w = body_of(in.project).work;
  const Cutter* fine = find_cutter(d->rack, w.fine_cutter);
  if (find_cutter(d->rack, w.outline_cutter) == nullptr || fine == nullptr) return out;
  Side side = flat_side(in.project.machine, d->flat, "Sheet for the scratch plate");
  side.title = "Scratch plate, its face up";
  const double thick = d->flat.thickness;
  const double through = -std::min(0.1, w.through);
  for (const PlateDesign::Opening& o : d->openings) {
    ClearPlan plan;
    plan.region = o.region;
    plan.top = thick;
    plan.floor = [through](Vec2) { return through; };
    plan.lowest_floor = through;
    plan.step = w.step;
    plan.leave_wall = w.wall_skim;
    plan.leave_floor = 0;
    side.operations.push_back({o.id,
                               o.title,
                               w.fine_cutter,
                               Clear{std::move(plan), "", "", thick, {}},
                               "body.fine_cutter",
                               {"body.fine_cutter"}});
  }
  Holes bored;
  const Cutter* small = nullptr;
  for (const BodyHole& h : d->holes) {
    const Cutter* c = fine;
    if (c->effective_diameter() > h.diameter + 0.005) {
      small = find_cutter(d->rack, "flat-1.5");
      for (const Cutter& k : d->rack)
        if (k.kind == CutterKind::flat && k.effective_diameter() <= h.diameter + 0.005 &&
            (small == nullptr || k.effective_diameter() > small->effective_diameter() ||
             small->effective_diameter() > h.diameter))
          small = &k;
      c = small;
    }
    if (c == nullptr || c->effective_diameter() > h.diameter + 0.005) continue;
    bored.holes.push_back({h.title, h.at, h.diameter, thick, through});
  }
  if (!bored.holes.empty()) {
    const std::string cutter = small != nullptr ? small->id : fine->id;
    side.operations.push_back({"holes",
                               "Screw and shaft holes, bored",
                               cutter,
                               std::move(bored),
                               "body.fine_cutter",
                               {"body.fine_cutter", "plate.screw"}});
  }
  // The ball's flank makes the bevel: the wider one, so long as its tip stays over the board.
  const Cutter* round = nullptr;
  const double foot = thick - d->bevel;
  for (const Cutter& c : d->rack)
    if (c.kind == CutterKind::ball && foot - flank * c.radius() >= 0.02 &&
        (round == nullptr || c.radius() > round->radius()))
      round = &c;
  if (d->bevel > 0 && round == nullptr)
    out.remarks.push_back(
        {"plate.bevel_deep",
         Weight::stop,
         worded("No ball of the rack makes a bevel of {} on {} without going through.", mm(d->bevel), mm(thick)),
         d->bevel,
         thick,
         "mm",
         "the rack",
         "plate.bevel",
         {},
         Repair{"Leave its edge square", {{"plate.bevel", "0"}}}});
  if (d->bevel > 0 && round != nullptr) {
    EdgePlan plan;
    for (const Vec2 q : d->flat.outline) plan.outline.push_back({q, 0});
    plan.radius = d->bevel;
    plan.surface = [d](Vec2 q) { return d->inside->holds(q) ? d->top(q) : -1e9; };
    plan.top = thick;
    plan.scallop = w.scallop / 2;
    plan.lowest = foot - flank * round->radius();
    side.operations.push_back({"bevel",
                               "Bevelled edge",
                               round->id,
                               RoundEdge{std::move(plan), false},
                               "body.finish_cutter",
                               {"body.finish_cutter", "plate.bevel", "body.scallop"}});
    side.operations.back().touches = [](Vec2) { return -1e300; };
  }
  Operation& op = flat_outline(side, w, d->flat, "Scratch plate's outline, held by tape", {"body.outline_cutter"}, 0);
  op.caution = {{"Tape under all of it: there is no tab, and a free plate meets a turning cutter and flies."}};
  if (d->flat.wood.melts) op.check = {{"Chips fall away and do not weld: plastic melts when the cutter rubs."}};
  Piece piece{"scratch-plate", "The scratch plate", {std::move(side)}, 0.1, false, {}};
  piece.target = [w, d](PieceRequest& r) {
    flat_target(w, d->flat, r);
    r.taped = true;
    SideDesign& one = r.sides.front().design;
    one.finished = [d](Vec2 q) {
      for (const PlateDesign::Opening& o : d->openings)
        if (contains(o.region, q)) return -1e6;
      for (const BodyHole& h : d->holes)
        if (distance(q, h.at) <= h.diameter / 2) return -1e6;
      return d->top(q);
    };
    for (const PlateDesign::Opening& o : d->openings) {
      add_walls(one.walls, o.title, o.region, [](Vec2) { return 0.0; });
      r.windows.push_back({o.title, o.region, {}, {}});
    }
    for (const BodyHole& h : d->holes) {
      one.walls.push_back(round_wall(h.title, h.at, h.diameter, -1e6));
      r.holes.push_back({h.title + " " + h.id.substr(h.id.rfind('-') + 1), h.at, h.diameter});
    }
  };
  out.pieces.push_back(std::move(piece));
  return out;
}

}  // namespace

PartKind scratch_plate_part() {
  PartKind kind;
  kind.table = {"scratch-plate", "Scratch plate", {}};
  kind.needs = {"body"};
  kind.small = true;
  kind.design = design;
  kind.pieces = pieces;
  kind.numbers = [](const PartInput& in) {
    const auto& d = in.designs.shape<PlateDesign>();
    Numbers n;
    const Vec2 size = bounds(d.flat.outline).size();
    n.length("plate.length", "Plate's length", size.x, "along the body");
    n.length("plate.width", "Plate's width", size.y, "across");
    n.number("plate.openings", "Openings", static_cast<double>(d.openings.size()), "", "for pickups");
    n.number("plate.holes", "Holes", static_cast<double>(d.holes.size()), "", "for screws and shafts");
    return n.take();
  };
  kind.lines = [](const PartInput*, const Project&) -> PartLines {
    return {
        {heading("Scratch plate"), {"scratch-plate.shape", "Scratch plate", LineState::ready, {"plate."}, Look::bed}},
        {}};
  };
  kind.words = [](const PartInput& in) {
    const auto& d = in.designs.shape<PlateDesign>();
    SheetWords out;
    const Vec2 size = bounds(d.flat.outline).size();
    out.facts = {{"Plate", worded("{} × {}, {} thick, {}", exact_mm(size.x), exact_mm(size.y),
                                  exact_mm(d.flat.thickness), d.flat.wood.name)}};
    out.materials = {d.flat.wood};
    out.boxes = {"Sheet measured", "Pickups go through", "Cut by, date"};
    return out;
  };
  kind.mesh = [](const PartInput& in, double) {
    const auto& d = in.designs.shape<PlateDesign>();
    std::vector<FlatCut> cuts;
    for (const auto& o : d.openings) cuts.push_back({o.region, d.flat.thickness});
    for (const BodyHole& h : d.holes) cuts.push_back({{circle_polygon(h.at, h.diameter / 2)}, d.flat.thickness});
    return flat_mesh(d.flat, cuts);
  };
  return kind;
}

}  // namespace wren

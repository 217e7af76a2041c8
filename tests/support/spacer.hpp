// A part that the program has never heard of: what a new kind has to bring, and nothing more.
#pragma once

#include "core/document/field_makers.hpp"
#include "core/job/part.hpp"

namespace wren {

struct SpacerNumbers {
  static constexpr const char* part = "spacer";
  double size = 40;
  double hole = 10;
  bool operator==(const SpacerNumbers&) const = default;
};

struct Spacer {
  static constexpr const char* part = "spacer";
  Setup setup;
  Rack rack;
  std::vector<Remark> remarks;
};

/// A spacer: a square with one hole, the smallest part there can be.
inline PartKind spacer_part() {
  PartKind kind;
  const auto size = [](auto& p) -> auto& { return p.parts.template of<SpacerNumbers>().size; };
  const auto bore = [](auto& p) -> auto& { return p.parts.template of<SpacerNumbers>().hole; };
  kind.table = {Spacer::part,
                "Spacer",
                {length_field("spacer.size", "Size", size, 20, 200, "as wanted"),
                 length_field("spacer.hole", "Hole", bore, 7, 60, "as wanted")}};
  kind.design = [](const PartInput& in) -> Expected<Design> {
    const double s = in.project.parts.of<SpacerNumbers>().size;
    if (in.project.parts.of<SpacerNumbers>().hole > s - 8)
      return fail(ProblemKind::range, "the hole leaves less than 4 mm beside it", "spacer.hole", "Make it smaller");
    Blank blank;
    blank.length = blank.width = s + 40;
    blank.thickness = 6;
    return design_of(
        Spacer{make_setup(in.project.machine, blank, {{0, 0}, {s, 0}, {s, s}, {0, s}}), in.project.rack, {}});
  };
  kind.pieces = [](const PartInput& in) {
    const auto& d = in.designs.shape<Spacer>();
    const auto [s, hole_mm] = in.project.parts.of<SpacerNumbers>();
    Side side;
    side.id = "top";
    side.title = "Top";
    side.setup = d.setup;
    side.wood = *find_material({}, "cherry");
    OutlinePlan plan;
    plan.wood_top = 6;
    plan.tabs = {s / 2, s * 2.5};
    Holes hole;
    hole.holes.push_back({"the hole", {s / 2, s / 2}, hole_mm, 6, -0.1});
    side.operations = {{"hole", "Hole", "flat-6.35", hole, "", {"spacer.hole"}},
                       {"outline",
                        "Outline",
                        "flat-6.35",
                        Outline{{{{0, 0}, 0}, {{s, 0}, 0}, {{s, s}, 0}, {{0, s}, 0}}, plan},
                        "",
                        {"spacer.size"}}};
    Piece piece{"spacer", "The spacer", {side}, 0.2, false, {}};
    piece.target = [s = s, bore = hole_mm](PieceRequest& r) {
      SideDesign& one = r.sides.front().design;
      one.outline = {{0, 0}, {s, 0}, {s, s}, {0, s}};
      one.cut_free = true;
      one.finished = [s, bore](Vec2 q) { return distance(q, {s / 2, s / 2}) <= bore / 2 ? -1e6 : 6.0; };
      r.holes.push_back({"the hole", {s / 2, s / 2}, bore});
    };
    Pieces out;
    out.pieces.push_back(piece);
    return out;
  };
  kind.lines = [](const PartInput*, const Project&) -> PartLines { return {{heading("Spacer")}, {}}; };
  kind.words = [](const PartInput&) { return SheetWords{}; };
  return kind;
}

}  // namespace wren

// The waste board: holes for the pins that neck and body are aligned on, bored before any blank lies on it. The zero
// set for it stays for everything that comes onto the same pins. Frame: work, z = 0 on the board; mm.
#include <fmt/format.h>

#include "core/parts/body/part.hpp"
#include "core/parts/neck/part.hpp"
#include "core/parts/waste_board/part.hpp"
#include "core/proof/wall_designs.hpp"

namespace wren {
namespace {

/// One set of holes: whose they are, where, and with what they are bored.
struct PinSet {
  std::string id;
  Words title;
  Setup setup;
  AlignmentNumbers alignment;
  std::string cutter;
  std::string key;
};

struct WasteBoardDesign {
  static constexpr const char* part = "waste-board";
  std::vector<PinSet> sets;
  Rack rack;
  std::vector<Remark> remarks;
};

Expected<Design> design(const PartInput& in) {
  WasteBoardDesign d{{}, in.project.rack, {}};
  const auto take = [&](const char* whose, const Words& title, const Setup& front, const AlignmentNumbers& a,
                        const std::string& cutter, const char* key) {
    if (a.school == School::pins)
      d.sets.push_back({std::string(whose) + "-pins", title, bare_board(front), a, cutter, key});
  };
  const NeckWork& n = neck_of(in.project).work;
  const BodyWork& b = body_of(in.project).work;
  if (in.designs.find("neck"))
    take("neck", "Waste board: pin holes for the neck", in.designs.shape<NeckDesign>().front, n.alignment, n.pin_cutter,
         "neck.pin_cutter");
  if (in.designs.find("body"))
    take("body", "Waste board: pin holes for the body", in.designs.shape<BodyDesign>().front, b.alignment,
         b.deep_cutter, "body.deep_cutter");
  const bool any = !d.sets.empty();
  Design out = design_of(std::move(d));
  out.present = any;
  return out;
}

Piece pin_piece(const PinSet& set, const Material& wood) {
  Side side;
  side.id = set.id;
  side.title = set.title;
  side.setup = set.setup;
  side.wood = wood;
  side.zero = zero_words(set.setup.blank, zero_place(School::pins));
  side.seat = seat_words(set.setup, "the bare board");
  const Jog& jog = set.setup.jogs.front();
  side.alignment = {
      worded("{}: x {}, y {}. Set x and y to zero here.", Words(jog.what), exact_mm(jog.x), exact_mm(jog.y)),
      {"Do this before any blank lies on the bed. The zero then stays for every layer and both sides."}};
  Holes holes;
  for (const BedHole& h : set.setup.bed_holes)
    holes.holes.push_back({"pin's hole", set.setup.to_work.back(h.at), 2 * h.radius, 0, -h.depth});
  Operation op{"pin-holes", "Pin holes in the waste board", set.cutter, std::move(holes), set.key, {set.key}};
  op.judge_reach = false;
  op.check = {{"Pins {} push in by hand and do not rock.", {set.alignment.pin_diameter}}};
  side.operations.push_back(std::move(op));
  Piece piece{set.id, set.title, {std::move(side)}, 0.1, false, {}};
  // Holes where the pins are to stand, so wide and so deep, and the board untouched everywhere else.
  piece.target = [s = set.setup](PieceRequest& r) {
    const Vec2 c{s.blank_corner.x, s.blank_corner.y};
    Polygon whole;
    for (const Vec2 k : {Vec2{0, 0}, Vec2{1, 0}, Vec2{1, 1}, Vec2{0, 1}})
      whole.push_back(s.to_work.back(c + Vec2{k.x * s.blank_size.x, k.y * s.blank_size.y}));
    if (signed_area(whole) < 0) std::reverse(whole.begin(), whole.end());
    SideDesign& one = r.sides.front().design;
    one.outline = whole;
    one.finished = [s](Vec2 q) {
      for (const BedHole& h : s.bed_holes)
        if (distance(s.to_work.apply(q), h.at) <= h.radius) return -h.depth;
      return 0.0;
    };
    for (const BedHole& h : s.bed_holes)
      one.walls.push_back(round_wall("Pin's hole", s.to_work.back(h.at), 2 * h.radius, -h.depth));
    r.board_only = true;
    r.held = true;
  };
  return piece;
}

}  // namespace

PartKind waste_board_part() {
  PartKind kind;
  kind.table = {"waste-board", "Waste board", {}};
  kind.needs = {"neck", "body"};
  kind.design = design;
  kind.pieces = [](const PartInput& in) {
    Pieces out;
    Material board;  // fibreboard or plywood: as hard as a medium wood
    for (const PinSet& set : in.designs.shape<WasteBoardDesign>().sets)
      if (find_cutter(in.project.rack, set.cutter) != nullptr) out.pieces.push_back(pin_piece(set, board));
    return out;
  };
  kind.small = true;
  kind.lines = [](const PartInput*, const Project&) -> PartLines {
    return {{heading("Waste board"),
             {"waste-board.pins",
              "Pins",
              LineState::ready,
              {"neck.pin_diameter", "neck.pin_depth", "neck.pin_cutter", "body.pin_diameter", "body.pin_depth",
               "body.deep_cutter"},
              Look::bed}},
            {}};
  };
  kind.words = [](const PartInput& in) {
    SheetWords out;
    for (const PinSet& set : in.designs.shape<WasteBoardDesign>().sets)
      out.facts.push_back({set.title, worded("{} holes {} wide and {} deep", set.setup.bed_holes.size(),
                                             mm(set.alignment.pin_diameter, 3), mm(set.alignment.pin_depth, 3))});
    out.boxes = {"Pins push in by hand", "Drilled by, date"};
    return out;
  };
  return kind;
}

}  // namespace wren

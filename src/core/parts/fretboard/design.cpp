#include "core/parts/fretboard/part.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/cutting/choose.hpp"
#include "core/instrument/fret_work.hpp"
#include "core/instrument/fretboard_remarks.hpp"
#include "core/workshop/safe_height.hpp"

namespace wren {
namespace {

Mm exact_mm(double v) { return mm(v, 3); }

void judge_rack(const Project& p, const Rack& rack, std::vector<Remark>& out) {
  const auto need = [&](const std::string& id, const char* key, const char* what) {
    if (find_cutter(rack, id) != nullptr) return;
    const Problem problem = missing_cutter(rack, id, key);
    const FretboardNumbers fresh;
    const std::string usual = key == std::string("slot.cutter")         ? fresh.work.slot_cutter
                              : key == std::string("marks.cutter")      ? fresh.work.mark_cutter
                              : key == std::string("crown.cutter")      ? fresh.work.crown_cutter
                              : key == std::string("marks.tick_cutter") ? fresh.work.tick_cutter
                                                                        : fresh.work.outline_cutter;
    out.push_back(
        {"cutter.missing",
         Weight::stop,
         worded("The {} cutter '{}' is not in the rack.", what, id),
         0,
         0,
         "",
         "the rack",
         key,
         {},
         find_cutter(rack, usual) != nullptr ? std::optional(Repair{"Take " + usual, {{key, usual}}}) : std::nullopt});
  };
  need(board_of(p).work.slot_cutter, "slot.cutter", "slot");
  if (board_of(p).instrument.marks.shape != MarkShape::none) need(board_of(p).work.mark_cutter, "marks.cutter", "mark");
  if (board_of(p).instrument.crown.kind != CrownKind::flat ||
      board_of(p).blank.thickness > board_of(p).instrument.board.thickness)
    need(board_of(p).work.crown_cutter, "crown.cutter", "crown");
  need(board_of(p).work.outline_cutter, "outline.cutter", "outline");
  if (board_of(p).instrument.marks.side == SideMarks::ticks)
    need(board_of(p).work.tick_cutter, "marks.tick_cutter", "tick");
  for (std::size_t i = 0; i < rack.size(); ++i)
    for (std::size_t k = i + 1; k < rack.size(); ++k)
      if (rack[i].number == rack[k].number && rack[i].number != 0)
        out.push_back({"rack.same_number",
                       Weight::stop,
                       worded("'{}' and '{}' both have T{}: a program would not say which one it means.", rack[i].id,
                              rack[k].id, rack[i].number),
                       static_cast<double>(rack[i].number),
                       0,
                       "",
                       "the rack",
                       "rack",
                       {},
                       {}});
}

void judge_slot_cutter(const Project& p, const BoardDesign& d, std::vector<Remark>& out) {
  const Cutter* cutter = find_cutter(d.rack, board_of(p).work.slot_cutter);
  if (cutter == nullptr) return;
  const Instrument& in = board_of(p).instrument;
  const SlotPlay play = slot_play(in.frets.held);
  const double low = in.frets.tang_width + play.least;
  const double high = in.frets.tang_width + play.most;
  const double comes_out = expected_slot_width(p, *cutter);
  const bool measured = cutter->measured.has_value();
  if (comes_out > high + 1e-9) {
    const Cutter* thinnest = nullptr;
    for (const Cutter& c : d.rack)
      if (c.kind == CutterKind::slot &&
          (thinnest == nullptr || c.effective_diameter() < thinnest->effective_diameter()))
        thinnest = &c;
    std::optional<Repair> repair;
    if (thinnest != nullptr && thinnest->effective_diameter() < cutter->effective_diameter() - 1e-6)
      repair = Repair{"Take the thinnest slot cutter, " + thinnest->id, {{"slot.cutter", thinnest->id}}};
    out.push_back(
        {"slot.too_wide",
         comes_out > high + 0.1 ? Weight::stop : Weight::think_again,
         measured
             ? worded("The test slot measures {}; for a tang of {} it should measure {} to {}, or the frets sit loose.",
                      exact_mm(comes_out), exact_mm(in.frets.tang_width), exact_mm(low), exact_mm(high))
             : worded("With '{}' the slots will be about {} wide, too wide for a tang of {}. Cut a test slot in scrap: "
                      "it should measure {} to {}; enter what it measures.",
                      cutter->id, exact_mm(comes_out), exact_mm(in.frets.tang_width), exact_mm(low), exact_mm(high)),
         comes_out,
         high,
         "mm",
         measured ? "the test slot"
                  : worded("cutter {} and runout {} at each side; fit: common practice",
                           exact_mm(cutter->effective_diameter()), exact_mm(p.machine.runout)),
         measured ? "slot.measured_width" : "slot.cutter",
         {},
         repair});
  }
  if (const double d_eff = cutter->effective_diameter(); d_eff > in.slot.width + 0.03)
    out.push_back({"slot.cutter_wide",
                   Weight::stop,
                   worded("'{}' is {} thick and cannot make slots {} wide.", cutter->id, exact_mm(d_eff),
                          exact_mm(in.slot.width)),
                   d_eff,
                   in.slot.width,
                   "mm",
                   "the cutter's diameter",
                   "slot.cutter",
                   {},
                   {}});
  else if (measured && d_eff < in.slot.width - 0.002)
    out.push_back(
        {"slot.widened",
         Weight::worth_knowing,
         worded(
             "Each slot is cut with side-by-side passes {} apart, because the test slot measured {} and {} are wanted.",
             exact_mm(in.slot.width - d_eff), exact_mm(d_eff), exact_mm(in.slot.width)),
         in.slot.width - d_eff,
         0,
         "mm",
         "the test slot",
         "slot.measured_width",
         {},
         {}});
  double deepest = 0;
  const double top = board_of(p).work.order == CutOrder::flat_first ? board_of(p).blank.thickness : in.board.thickness;
  for (const FretLine& f : d.board.frets)
    for (const Vec2 at : {f.slot_bass, f.middle(), f.slot_treble}) {
      const double wood = board_of(p).work.order == CutOrder::flat_first ? top : d.board.crown_height(at);
      deepest = std::max(deepest, wood - d.board.slot_floor(at));
    }
  if (deepest > cutter->cutting_length + 1e-9)
    out.push_back({"slot.cutter_short",
                   Weight::stop,
                   worded("The slots go {} into the wood, and '{}' cuts only over {}.", exact_mm(deepest), cutter->id,
                          exact_mm(cutter->cutting_length)),
                   deepest,
                   cutter->cutting_length,
                   "mm",
                   "the cutter's cutting length",
                   "slot.cutter",
                   {},
                   board_of(p).work.order == CutOrder::flat_first
                       ? std::optional(Repair{"Cut the crown first, then the slots", {{"board.order", "crown_first"}}})
                       : std::nullopt});
}

/// The widest cutter diameter that goes into every mark: twice the largest inward offset, to 0.01 mm.
double widest_in_marks(const std::vector<Mark>& marks) {
  double widest = 1e300;
  for (const Mark& mark : marks) {
    double low = mark.radius > 0 ? mark.radius : 0;
    double high = mark.radius > 0 ? mark.radius : 50;
    while (high - low > 0.005) {
      const double middle = (low + high) / 2;
      (offset({mark.outline}, -middle).empty() ? high : low) = middle;
    }
    widest = std::min(widest, 2 * low);
  }
  return widest;
}

void judge_other_cutters(const Project& p, const BoardDesign& d, std::vector<Remark>& out) {
  if (const Cutter* c = find_cutter(d.rack, board_of(p).work.mark_cutter); c != nullptr && !d.board.marks.empty()) {
    const double widest = widest_in_marks(d.board.marks);
    if (c->effective_diameter() > widest + 1e-6) {
      const Cutter* better = nullptr;
      for (const Cutter& o : d.rack)
        if (o.kind == CutterKind::flat && o.effective_diameter() <= widest &&
            o.cutting_length > board_of(p).instrument.marks.depth + 1 &&
            (better == nullptr || o.effective_diameter() > better->effective_diameter()))
          better = &o;
      out.push_back({"marks.cutter_wide",
                     Weight::stop,
                     worded("'{}' is {} thick; the narrowest mark takes at most {}.", c->id,
                            exact_mm(c->effective_diameter()), exact_mm(widest)),
                     c->effective_diameter(),
                     widest,
                     "mm",
                     "the marks' shape",
                     "marks.cutter",
                     {},
                     better != nullptr ? std::optional(Repair{"Take " + better->id, {{"marks.cutter", better->id}}})
                                       : std::nullopt});
    }
  }
  if (const Cutter* c = find_cutter(d.rack, board_of(p).work.crown_cutter); c != nullptr) {
    if (!can_finish_crown(*c))
      out.push_back(
          {"crown.cutter_kind",
           Weight::stop,
           worded("'{}' cannot finish a crown.", c->id),
           0,
           0,
           "",
           "the cutter's kind",
           "crown.cutter",
           {},
           Repair{"Take facing-25 across the board", {{"crown.cutter", "facing-25"}, {"crown.direction", "across"}}}});
    else if (board_of(p).work.crown_direction == Direction::across && c->flat_radius() > 1)
      // Out of square by 0.02 mm per 100 mm is a well-set spindle (common practice).
      out.push_back({"crown.squareness",
                     Weight::worth_knowing,
                     worded("Rows across the board cut across the grain and want a square spindle: {} out of square "
                            "per {} leaves steps of {} with '{}'.",
                            mm(0.02), mm(100), exact_mm(0.0002 * c->effective_diameter()), c->id),
                     0.0002 * c->effective_diameter(),
                     0,
                     "mm",
                     "geometry",
                     "crown.direction",
                     {},
                     {}});
  }
  if (const Cutter* c = find_cutter(d.rack, board_of(p).work.outline_cutter); c != nullptr) {
    const double depth = board_of(p).blank.thickness + board_of(p).work.through;
    if (depth > c->cutting_length + 1e-9) {
      const Cutter* longer = nullptr;
      for (const Cutter& o : d.rack)
        if (o.kind == CutterKind::flat && o.cutting_length >= depth &&
            (longer == nullptr || o.effective_diameter() < longer->effective_diameter()))
          longer = &o;
      out.push_back({"outline.cutter_short",
                     Weight::stop,
                     worded("The outline is {} deep, and '{}' cuts only over {}.", exact_mm(depth), c->id,
                            exact_mm(c->cutting_length)),
                     depth,
                     c->cutting_length,
                     "mm",
                     "the cutter's cutting length",
                     "outline.cutter",
                     {},
                     longer != nullptr ? std::optional(Repair{"Take " + longer->id, {{"outline.cutter", longer->id}}})
                                       : std::nullopt});
    }
    if (c->kind != CutterKind::flat)
      out.push_back({"outline.cutter_kind",
                     Weight::stop,
                     worded("'{}' does not leave a square edge; the outline wants a flat cutter.", c->id),
                     0,
                     0,
                     "",
                     "the cutter's kind",
                     "outline.cutter",
                     {},
                     Repair{"Take flat-3.175", {{"outline.cutter", "flat-3.175"}}}});
  }
}

void judge_holding(const Project& p, std::vector<Remark>& out) {
  if (board_of(p).work.through < 0.1)
    out.push_back(
        {"board.skin",
         board_of(p).work.through <= 0 ? Weight::stop : Weight::think_again,
         worded(
             "The outline goes {} into the waste board; a cut at just the measured thickness leaves a paper-thin skin.",
             exact_mm(board_of(p).work.through)),
         board_of(p).work.through,
         0.1,
         "mm",
         "common practice: 0.1 to 0.5",
         "board.through",
         {},
         Repair{worded("Cut {} into the waste board", mm(0.2)), {{"board.through", "0.2"}}}});
  else if (board_of(p).work.through > 0.5)
    out.push_back(
        {"board.through_deep",
         Weight::worth_knowing,
         worded("The outline goes {} into the waste board; 0.5 is plenty.", exact_mm(board_of(p).work.through)),
         board_of(p).work.through,
         0.5,
         "mm",
         "common practice: 0.1 to 0.5",
         "board.through",
         {},
         Repair{worded("Cut {} into the waste board", mm(0.2)), {{"board.through", "0.2"}}}});
  const auto tabs = board_of(p).work.tab_places.empty() ? static_cast<std::size_t>(board_of(p).work.tabs)
                                                        : board_of(p).work.tab_places.size();
  if (tabs < 3)
    out.push_back(
        {"board.tabs_few",
         Weight::think_again,
         tabs == 0 ? worded("Without tabs the board comes free under a turning cutter and flies, unless tape or vacuum "
                            "holds all of it.")
                   : worded_by(static_cast<long long>(tabs), "{} tab lets the board tip into the cutter; four hold it.",
                               "{} tabs let the board tip into the cutter; four hold it.", tabs),
         static_cast<double>(tabs),
         4,
         "",
         "common practice",
         "board.tabs",
         {},
         Repair{"Leave four tabs", {{"board.tabs", "4"}, {"board.tab_places", "none"}}}});
  if (board_of(p).work.tab_height > board_of(p).instrument.board.thickness / 2)
    out.push_back({"board.tabs_high",
                   Weight::worth_knowing,
                   worded("Tabs {} high are hard to saw through on a board {} thick.",
                          exact_mm(board_of(p).work.tab_height), exact_mm(board_of(p).instrument.board.thickness)),
                   board_of(p).work.tab_height,
                   board_of(p).instrument.board.thickness / 2,
                   "mm",
                   "common practice",
                   "board.tab_height",
                   {},
                   Repair{worded("Make the tabs {} high", mm(2)), {{"board.tab_height", "2"}}}});
}

}  // namespace

double expected_slot_width(const Project& p, const Cutter& cutter) {
  const double grown = cutter.measured ? 0 : 2 * p.machine.runout;
  return std::max(cutter.effective_diameter(), board_of(p).instrument.slot.width) + grown;
}

Expected<BoardDesign> design_board(const Project& p) {
  auto board = make_fretboard(board_of(p).instrument);
  if (!board) return tl::unexpected(board.error());
  auto wood = find_material(p.materials, board_of(p).blank.wood);
  if (!wood) return fail(ProblemKind::range, wood.error().what, "board.blank.wood", wood.error().todo);
  BoardDesign d;
  d.board = std::move(*board);
  d.rack = p.rack;
  d.wood = *wood;
  d.setup = make_setup(p.machine, board_of(p).blank, d.board.corners);
  d.volume_mm3 = d.board.volume();
  d.weight_g = d.volume_mm3 * d.wood.density * 1e-6;
  d.remarks = fretboard_remarks(d.board);
  const Cutter* outline = find_cutter(d.rack, board_of(p).work.outline_cutter);
  const double beside = outline != nullptr ? outline->effective_diameter() + board_of(p).work.outline_skim : 4;
  for (auto& r : setup_remarks(d.setup, board_of(p).instrument.board.thickness, beside))
    d.remarks.push_back(std::move(r));
  judge_rack(p, d.rack, d.remarks);
  judge_slot_cutter(p, d, d.remarks);
  judge_other_cutters(p, d, d.remarks);
  judge_holding(p, d.remarks);
  for (const auto& id : {board_of(p).work.slot_cutter, board_of(p).work.crown_cutter, board_of(p).work.outline_cutter})
    if (const Cutter* c = find_cutter(d.rack, id)) {
      const bool outline_cut = id == board_of(p).work.outline_cutter;
      if (auto r = z_travel_remark(d.setup, *c, safe_height(d.setup, p.programs.safe),
                                   outline_cut ? -board_of(p).blank.thickness - board_of(p).work.through
                                               : -board_of(p).blank.thickness + 1)) {
        d.remarks.push_back(*r);
        break;
      }
    }
  return d;
}

}  // namespace wren

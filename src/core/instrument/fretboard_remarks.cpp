#include "core/instrument/fretboard_remarks.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

#include "core/instrument/fret_work.hpp"
#include "core/plan/region.hpp"
#include "core/units/length.hpp"
#include "core/units/plain_number.hpp"

namespace wren {
namespace {

const char* const common = "common practice";

std::pair<double, double> spot(Vec2 p) { return {p.x, p.y}; }
std::string up(double v, double step) { return format_mm(std::ceil(v / step - 1e-9) * step, 2); }

void judge_ends(const Fretboard& board, std::vector<Remark>& out) {
  const FretLine& last = board.frets.back();
  const double least = least_overhang(board);
  if (least < practice::overhang_least - 1e-6) {
    const std::string need = up(board.given.board.overhang + practice::overhang_least - least + 0.05, 0.5);
    out.push_back(
        {"board.overhang_short", least < 2 ? Weight::stop : Weight::think_again,
         worded("Only {} of board stand after fret {} at its shortest; less than {} chips when the end is trimmed.",
                mm(least), last.number, mm(practice::overhang_least)),
         least, practice::overhang_least, "mm", common, "board.overhang", spot(last.middle()),
         Repair{worded("Lengthen the overhang to {}", as_mm(need)), {{"board.overhang", need}}}});
  }
  if (board.given.frets.zero_fret && board.given.board.nut_extension < practice::nut_extension_least)
    out.push_back({"board.extension_short", Weight::think_again,
                   worded("Behind the zero fret stand {} of wood; under {} it breaks out when the fret is pressed in.",
                          mm(board.given.board.nut_extension), mm(practice::nut_extension_least)),
                   board.given.board.nut_extension, practice::nut_extension_least, "mm", common, "board.nut_extension",
                   spot(board.nut_line.middle()),
                   Repair{worded("Leave {} behind the zero fret", mm(6)), {{"board.nut_extension", "6"}}}});
}

void judge_slots(const Fretboard& board, std::vector<Remark>& out) {
  const Instrument& in = board.given;
  const LeastDepth least = least_slot_depth(board);
  const double need = in.frets.tang_depth + practice::tang_clearance;
  if (least.depth < need - 1e-6) {
    Repair repair{worded("Let the slots follow the crown, {} deep", as_mm(up(std::max(need, in.slot.depth), 0.05))),
                  {{"slot.bottom", "crown"}, {"slot.depth", up(std::max(need, in.slot.depth), 0.05)}}};
    if (in.slot.bottom == SlotBottom::crown)
      repair = {worded("Cut the slots {} deep", as_mm(up(need, 0.05))), {{"slot.depth", up(need, 0.05)}}};
    out.push_back({"slot.shallow", Weight::stop,
                   worded("At the edge of fret {} the slot is {} deep; a tang of {} wants {}.", least.fret,
                          mm(least.depth), mm(in.frets.tang_depth), mm(need)),
                   least.depth, need, "mm", "tang depth and " + mm(practice::tang_clearance) + ", " + common,
                   "slot.depth", spot(least.at), repair});
  }
  double thinnest = 1e300;
  const FretLine* where = nullptr;
  for (const FretLine& fret : board.frets)
    for (const Vec2 p : {fret.slot_bass, fret.middle(), fret.slot_treble})
      if (const double left = board.slot_floor(p); left < thinnest) {
        thinnest = left;
        where = &fret;
      }
  if (where != nullptr && thinnest < practice::under_slot_least)
    out.push_back({"slot.floor_thin", thinnest < 1 ? Weight::stop : Weight::think_again,
                   worded("Under the slot of fret {} only {} of wood are left; under {} the board may break there "
                          "before it is glued.",
                          where->number, mm(thinnest), mm(practice::under_slot_least)),
                   thinnest, practice::under_slot_least, "mm", common, "board.thickness", spot(where->middle()),
                   Repair{worded("Make the board {} thick",
                                 as_mm(up(in.board.thickness + practice::under_slot_least - thinnest, 0.1))),
                          {{"board.thickness", up(in.board.thickness + practice::under_slot_least - thinnest, 0.1)}}}});
  const SlotPlay play = slot_play(in.frets.held);
  const double low = in.frets.tang_width + play.least;
  const double high = in.frets.tang_width + play.most;
  if (in.slot.width > high + 1e-9 || in.slot.width < low - 1e-9) {
    const bool wide = in.slot.width > high;
    const bool glued = in.frets.held == FretsHeld::glued;
    const char* const why = wide && glued ? "glue has to fill a gap"
                            : wide        ? "the frets sit loose and have to be glued"
                            : glued       ? "there is no room for the glue that is to hold it"
                                          : "the fret bends the board backwards";
    out.push_back(
        {wide ? "slot.wide_for_tang" : "slot.narrow_for_tang", Weight::think_again,
         worded("A slot {} wide is too {} for a tang of {}: {} {} {}.", mm(in.slot.width), wide ? "wide" : "tight",
                mm(in.frets.tang_width), wide ? "over" : "under", mm(wide ? high : low), why),
         in.slot.width, wide ? high : low, "mm", common, "slot.width", spot(board.frets.front().middle()),
         Repair{worded("Ask for slots {} wide", mm((low + high) / 2)), {{"slot.width", format_mm((low + high) / 2)}}}});
  }
}

/// What is gained and lost by how the frets are held and when they go in.
void judge_fret_work(const Fretboard& board, std::vector<Remark>& out) {
  const Frets& frets = board.given.frets;
  if (frets.barb_width < frets.tang_width - 1e-9)
    out.push_back({"frets.barbs", Weight::think_again,
                   worded("Over its barbs the tang would be {}, and {} without them: measure both.",
                          mm(frets.barb_width), mm(frets.tang_width)),
                   frets.barb_width, frets.tang_width, "mm", "geometry", "frets.barb_width", spot({}),
                   std::optional<Repair>{}});
  const double bow = back_bow(board);
  if (frets.when == FretsWhen::board_loose && bow > practice::back_bow_told)
    out.push_back({"frets.back_bow", bow > 8 ? Weight::think_again : Weight::worth_knowing,
                   worded("Pressed while the board is loose, the frets bend it backwards by about {} between the outer "
                          "ones: the caul has to hold it flat while the glue sets.",
                          mm(bow)),
                   bow, practice::back_bow_told, "mm",
                   "an estimate: two layers of unequal length, a twentieth of the barbs' interference", "frets.when",
                   spot({}), Repair{"Press them once the board is glued", {{"frets.when", "board_glued"}}}});
}

void judge_crown(const Fretboard& board, std::vector<Remark>& out) {
  const Instrument& in = board.given;
  if (in.crown.kind == CrownKind::cone && in.crown.radius_last < in.crown.radius_nut)
    out.push_back({"crown.reversed",
                   Weight::think_again,
                   worded("The crown gets rounder towards the body ({} at the nut, {} at the last fret); bends will "
                          "choke on the upper frets.",
                          mm(in.crown.radius_nut), mm(in.crown.radius_last)),
                   in.crown.radius_last,
                   in.crown.radius_nut,
                   "mm",
                   common,
                   "crown.radius_last",
                   {},
                   Repair{"Exchange the two radii",
                          {{"crown.radius_nut", format_mm(in.crown.radius_last)},
                           {"crown.radius_last", format_mm(in.crown.radius_nut)}}}});
  double thinnest = 1e300;
  Vec2 at;
  for (const Vec2 p : board.corners)
    if (board.crown_height(p) < thinnest) {
      thinnest = board.crown_height(p);
      at = p;
    }
  if (thinnest < practice::edge_thickness_least)
    out.push_back(
        {"board.edge_thin", thinnest < 1.5 ? Weight::stop : Weight::think_again,
         worded("The board's edge comes out {} thick; under {} there is no room for side dots and binding.",
                mm(thinnest), mm(practice::edge_thickness_least)),
         thinnest, practice::edge_thickness_least, "mm", common, "board.thickness", spot(at),
         Repair{worded("Make the board {} thick",
                       as_mm(up(in.board.thickness + practice::edge_thickness_least - thinnest, 0.1))),
                {{"board.thickness", up(in.board.thickness + practice::edge_thickness_least - thinnest, 0.1)}}}});
}

void judge_playing(const Fretboard& board, std::vector<Remark>& out) {
  const Instrument& in = board.given;
  if (in.board.edge_margin < practice::edge_margin_least)
    out.push_back({"board.margin_small", Weight::think_again,
                   worded("The outer strings stand {} from the edge; under {} they slip off the frets' ends.",
                          mm(in.board.edge_margin), mm(practice::edge_margin_least)),
                   in.board.edge_margin, practice::edge_margin_least, "mm", common, "board.edge_margin",
                   spot(board.strings.back().nut),
                   Repair{worded("Give the edge {}", mm(3.5)), {{"board.edge_margin", "3.5"}}}});
  double closest = 1e300;
  for (std::size_t i = 0; i + 1 < board.strings.size(); ++i)
    closest = std::min(closest, std::abs(board.strings[i + 1].nut.y - board.strings[i].nut.y));
  if (closest < practice::string_gap_least)
    out.push_back({"strings.close",
                   Weight::think_again,
                   worded("Neighbouring strings stand {} apart at the nut; under {} fingers touch two at once.",
                          mm(closest), mm(practice::string_gap_least)),
                   closest,
                   practice::string_gap_least,
                   "mm",
                   common,
                   "strings.nut_spread",
                   spot(board.nut_line.middle()),
                   {}});
  const auto n = board.frets.size();
  const double gap = std::min(distance(board.frets[n - 1].treble_edge, board.frets[n - 2].treble_edge),
                              distance(board.frets[n - 1].bass_edge, board.frets[n - 2].bass_edge));
  if (gap < practice::fret_gap_least)
    out.push_back({"frets.close",
                   Weight::worth_knowing,
                   worded("The last two frets stand {} apart, less than the {} a finger tip needs.", mm(gap),
                          mm(practice::fret_gap_least)),
                   gap,
                   practice::fret_gap_least,
                   "mm",
                   common,
                   "frets.count",
                   spot(board.frets.back().middle()),
                   {}});
  double most = 0;
  const FretLine* slanted = &board.frets.front();
  for (const FretLine& fret : board.frets)
    if (const double lean = std::abs(std::atan2(fret.along().x, std::abs(fret.along().y))) * 180 / std::numbers::pi;
        lean > most) {
      most = lean;
      slanted = &fret;
    }
  if (most > 10)
    out.push_back(
        {"frets.slant_large",
         Weight::worth_knowing,
         worded("Fret {} stands {:.1f}° off square; over 10° chords near it get hard to reach.", slanted->number, most),
         most,
         10,
         "°",
         common,
         "strings.square_fret",
         spot(slanted->middle()),
         {}});
  const double ratio_low = std::min(board.strings.front().scale, board.strings.back().scale);
  if (in.strings.square_fret < 0.5 && board.strings.front().scale != board.strings.back().scale && ratio_low > 0)
    out.push_back({"strings.square_at_nut",
                   Weight::worth_knowing,
                   "With the nut square, all of the fan is at the bridge, which then needs single-string pieces.",
                   in.strings.square_fret,
                   0.5,
                   "",
                   common,
                   "strings.square_fret",
                   {},
                   {}});
}

void judge_marks(const Fretboard& board, std::vector<Remark>& out) {
  double thinnest = 1e300;
  double nearest = 1e300;
  const Mark* deep = nullptr;
  const Mark* close = nullptr;
  int close_fret = 0;
  const Mark* beyond = nullptr;
  for (const Mark& mark : board.marks) {
    if (mark.floor < thinnest) {
      thinnest = mark.floor;
      deep = &mark;
    }
    for (const FretLine& fret : board.frets)
      for (const Vec2 p : mark.outline)
        if (const double d = distance_to(p, {fret.bass_edge, fret.treble_edge}) - board.given.slot.width / 2;
            d < nearest) {
          nearest = d;
          close = &mark;
          close_fret = fret.number;
        }
    for (const Vec2 p : mark.outline)
      if (!contains(board.corners, p)) beyond = &mark;
  }
  for (std::size_t i = 0; i + 1 < board.marks.size(); ++i) {
    const Mark& one = board.marks[i];
    const Mark& next = board.marks[i + 1];
    if (one.fret != next.fret || area(intersected({one.outline}, {next.outline})) < 0.01) continue;
    const char* const key = one.fret % 24 == 0 ? "marks.pair_narrow" : "marks.pair_wide";
    out.push_back({"marks.pair_touches", Weight::think_again,
                   worded("The two marks at fret {} run into each other.", one.fret), 0, 0, "mm", "geometry", key,
                   spot(one.centre), Repair{"Half the board's width apart", {{key, "0"}}}});
  }
  for (const EdgeTick& t : board.ticks) {
    const bool thin = t.floor < practice::tick_floor_least;
    double room = 1e9;
    for (const FretLine& f : board.frets)
      room = std::min(room, std::min(distance_to(t.inner, {f.bass_edge, f.treble_edge}),
                                     distance_to(t.edge, {f.bass_edge, f.treble_edge})) -
                                t.width / 2 - board.given.slot.width / 2);
    if (!thin && room >= practice::mark_to_slot_least) continue;
    out.push_back(
        {thin ? "marks.tick_deep" : "marks.tick_near_slot",
         (thin ? t.floor < 1 : room < 0.2) ? Weight::stop : Weight::think_again,
         thin ? worded("Under the tick at fret {} only {} of wood are left at the edge; keep {}.", t.fret, mm(t.floor),
                       mm(practice::tick_floor_least))
              : worded("The tick at fret {} comes within {} of a slot; the wood between breaks out.", t.fret, mm(room)),
         thin ? t.floor : room, thin ? practice::tick_floor_least : practice::mark_to_slot_least, "mm", common,
         thin ? "marks.tick_depth" : "marks.tick_width", spot(t.edge), std::optional<Repair>{}});
    break;
  }
  if (board.given.marks.side == SideMarks::ticks && board.given.marks.tick_length < board.given.marks.tick_width)
    out.push_back({"marks.tick_short", Weight::stop,
                   worded("A tick {} long and {} wide is a notch: make it longer than it is wide.",
                          mm(board.given.marks.tick_length), mm(board.given.marks.tick_width)),
                   board.given.marks.tick_length, board.given.marks.tick_width, "mm", "geometry", "marks.tick_length",
                   spot({}), Repair{worded("{} long", mm(4)), {{"marks.tick_length", "4"}}}});
  if (deep != nullptr && thinnest < practice::under_mark_least)
    out.push_back({"marks.deep",
                   thinnest < 0.5 ? Weight::stop : Weight::think_again,
                   worded("Under the mark at fret {} only {} of wood are left; keep {}.", deep->fret, mm(thinnest),
                          mm(practice::under_mark_least)),
                   thinnest,
                   practice::under_mark_least,
                   "mm",
                   common,
                   "marks.depth",
                   spot(deep->centre),
                   {}});
  if (close != nullptr && nearest < practice::mark_to_slot_least)
    out.push_back(
        {"marks.near_slot", nearest < 0.2 ? Weight::stop : Weight::think_again,
         worded("The mark at fret {} comes within {} of slot {}; the wood between breaks out under {}.", close->fret,
                mm(nearest), close_fret, mm(practice::mark_to_slot_least)),
         nearest, practice::mark_to_slot_least, "mm", common, "marks.size", spot(close->centre),
         board.given.marks.shape == MarkShape::outline
             ? std::optional<Repair>{}
             : Repair{"Make the marks smaller",
                      {{"marks.size", format_mm(std::max(1.0, board.given.marks.size -
                                                                  2.1 * (practice::mark_to_slot_least - nearest)),
                                                1)}}}});
  if (beyond != nullptr)
    out.push_back({"marks.beyond_edge",
                   Weight::think_again,
                   worded("The mark at fret {} reaches beyond the board's edge.", beyond->fret),
                   0,
                   0,
                   "mm",
                   "the board's outline",
                   "marks.length",
                   spot(beyond->centre),
                   {}});
}

}  // namespace

double least_overhang(const Fretboard& board) {
  const FretLine& last = board.frets.back();
  // The end is the outline's second edge (see lay_outline), straight or round.
  const Polygon end = flatten({board.outline[1], {board.outline[2].at}}, 0.001);
  double least = 1e300;
  for (int k = 0; k <= 64; ++k) {
    const Vec2 p = lerp(last.bass_edge, last.treble_edge, k / 64.0);
    for (std::size_t i = 0; i + 1 < end.size(); ++i) {
      // A fret that reaches beyond the end has less than nothing after it.
      const Vec2 d = end[i + 1] - end[i];
      const double beyond = cross(d, p - end[i]) * (end[i + 1].y > end[i].y ? 1 : -1);
      const double away = distance_to(p, {end[i], end[i + 1]});
      least = std::min(least, beyond < 0 ? -away : away);
    }
  }
  return least;
}

LeastDepth least_slot_depth(const Fretboard& board) {
  LeastDepth least{1e300, 0, {}};
  for (const FretLine& fret : board.frets)
    for (const Vec2 p : {fret.slot_bass, fret.middle(), fret.slot_treble})
      if (const double depth = board.slot_depth(p); depth < least.depth) least = {depth, fret.number, p};
  return least;
}

std::vector<Remark> fretboard_remarks(const Fretboard& board) {
  std::vector<Remark> out;
  judge_ends(board, out);
  judge_slots(board, out);
  judge_fret_work(board, out);
  judge_crown(board, out);
  judge_playing(board, out);
  judge_marks(board, out);
  return out;
}

}  // namespace wren

#include "core/parts/neck/laminate.hpp"
#include "core/parts/neck/part.hpp"

#include <algorithm>
#include <numbers>

#include <fmt/format.h>

#include "core/motion/toolpath.hpp"
#include "core/plan/region.hpp"
#include "core/units/plain_number.hpp"
#include "core/workshop/pin_room.hpp"
#include "core/workshop/safe_height.hpp"

namespace wren {
namespace {

constexpr double degree = std::numbers::pi / 180;

std::string up(double v, double step) { return format_mm(std::ceil(v / step - 1e-9) * step, 2); }

/// Depth of the glued-up blank's back under the glue plane, for a scarfed head.
double scarf_depth(const NeckShape& n, double plank, Vec2 p) {
  const double a = n.given.head.angle_deg * degree;
  const double past = n.behind_nut(p) - n.given.head.shelf;
  const double shaft = past < plank / std::tan(a) ? plank : 0;
  const double head = past > -30 ? past * std::tan(a) + (n.given.head.thickness + 2) / std::cos(a) : 0;
  return std::max(shaft, head);
}

/// Tops of a glued-up scarfed blank on both sides: on the face a hair more than planed, on the head's back two
/// millimetres. Both fall along the square to the nut line only, so that a manifest can say them.
void scarf_tops(const NeckShape& n, double plank, NeckDesign& d) {
  constexpr double planed = 0.6;
  const double a = n.given.head.angle_deg * degree;
  const Vec2 way = n.head_way;                                 // behind_nut grows along it
  const double nut = n.behind_nut({0, 0}) - dot(way, {0, 0});  // behind_nut(p) = dot(way, p) + nut
  const double shelf = n.given.head.shelf - nut;               // distance along `way` where the head begins
  const double far = 400;
  TopProfile front{way, {{shelf - 2000, 0}, {shelf, 0}, {shelf, planed}, {shelf + far, planed - far * std::tan(a)}}};
  const auto head = [&](double past) { return past * std::tan(a) + (n.given.head.thickness + 2) / std::cos(a); };
  const auto depth = [&](double past) {
    return std::min(d.blank.thickness, std::max(past < plank / std::tan(a) ? plank : 0, past > -30 ? head(past) : 0));
  };
  TopProfile back{
      {d.back.turn == Turn::about_width ? -way.x : way.x, d.back.turn == Turn::about_length ? -way.y : way.y}, {}};
  constexpr double hair = 1e-7;
  std::vector<double> breaks{-2000, -30 - hair, -30 + hair, far};
  const double run = plank / std::tan(a);
  breaks.insert(breaks.end(), {run - hair, run + hair});
  for (const double level : {plank, d.blank.thickness})
    breaks.push_back((level - (n.given.head.thickness + 2) / std::cos(a)) / std::tan(a));
  std::sort(breaks.begin(), breaks.end());
  for (const double past : breaks) back.points.push_back({shelf + past, depth(past)});
  d.front.top_profile = front;
  d.back.top_profile = back;
  d.front.wood_top = [front](Vec2 q) { return front.at(q); };
  d.back.wood_top = [back](Vec2 q) { return back.at(q); };
}

double treble_of(const Project& p) { return board_of(p).instrument.strings.left_handed ? -1 : 1; }

void lay_on_machine(const Project& p, NeckDesign& d) {
  const NeckShape& n = d.shape;
  const Box2 box = bounds(d.cut_outline);
  d.blank_middle = box.middle() - Vec2{0, neck_of(p).work.over_across * treble_of(p)};
  if (n.given.head.scarf && n.given.head.kind == HeadKind::tilted) {
    d.scarf = scarf_of(n, neck_of(p).work.plank);
    double deepest = neck_of(p).work.plank;
    for (const Vec2 q : d.cut_outline) deepest = std::max(deepest, scarf_depth(n, neck_of(p).work.plank, q));
    // A little more at the end of the head plank, which runs on into the frame.
    const double a = n.given.head.angle_deg * degree;
    deepest += 12 * std::tan(a);
    d.blank.thickness = deepest;
  }
  d.front = side_setup(p.machine, d.blank, neck_of(p).work.alignment, d.blank_middle, Turn::none, d.front_top);
  d.back = side_setup(p.machine, d.blank, neck_of(p).work.alignment, d.blank_middle, neck_of(p).work.alignment.turn,
                      d.front_top - d.blank.thickness);
  if (d.scarf) scarf_tops(n, neck_of(p).work.plank, d);
  for (Setup* s : {&d.front, &d.back}) {
    Box2 work;
    for (const Vec2 q : d.cut_outline) work.add(s->to_work.apply(turned(s->turn, q)));
    s->board_low = {work.low.x, work.low.y, -d.blank.thickness};
    s->board_high = {work.high.x, work.high.y, 0};
  }
  d.pins = pin_plan(d.blank, neck_of(p).work.alignment, d.blank_middle);
  if (neck_of(p).work.alignment.school == School::pins) {
    const auto holes = waste_board_holes(d.front, d.back, d.pins, neck_of(p).work.alignment);
    d.front.bed_holes = d.back.bed_holes = holes;
  }
  d.misfit = expected_error(d.blank, neck_of(p).work.alignment);
}

/// Room beside the neck that its widest cutter and every collet nut under the frame's top need.
double trough_width(const Project& p, const NeckDesign& d) {
  double need = 6;
  for (const auto& id : {neck_of(p).work.rough_cutter, neck_of(p).work.finish_cutter, neck_of(p).work.edge_cutter,
                         neck_of(p).work.outline_cutter})
    if (const Cutter* c = find_cutter(d.rack, id)) {
      need = std::max(need, c->effective_diameter() * (id == neck_of(p).work.rough_cutter ? 1.5 : 1.0) +
                                std::max(neck_of(p).work.skim, 0.3) + 0.8);
      if (c->stickout < d.blank.thickness + 1) need = std::max(need, c->radius() + c->nut_diameter / 2 + 1);
    }
  return need;
}

void judge_cutters(const Project& p, const NeckDesign& d, std::vector<Remark>& out) {
  const NeckWork fresh;
  const auto need = [&](const std::string& id, const char* key, const char* what, const std::string& usual,
                        std::initializer_list<CutterKind> kinds) {
    const Cutter* c = find_cutter(d.rack, id);
    const auto repair = find_cutter(d.rack, usual) != nullptr && usual != id
                            ? std::optional(Repair{"Take " + usual, {{key, usual}}})
                            : std::nullopt;
    if (c == nullptr)
      out.push_back({"cutter.missing",
                     Weight::stop,
                     worded("The {} '{}' is not in the rack.", what, id),
                     0,
                     0,
                     "",
                     "the rack",
                     key,
                     {},
                     repair,
                     {}});
    else if (std::find(kinds.begin(), kinds.end(), c->kind) == kinds.end())
      out.push_back({"neck.cutter_kind",
                     Weight::stop,
                     worded("'{}' cannot do the work of the {}.", id, what),
                     0,
                     0,
                     "",
                     "the cutter's kind",
                     key,
                     {},
                     repair,
                     {}});
  };
  const auto flat_like = {CutterKind::flat, CutterKind::slot};
  const auto borer = {CutterKind::flat, CutterKind::ball, CutterKind::slot, CutterKind::drill};
  need(neck_of(p).work.channel_cutter, "neck.channel_cutter", "channel cutter", fresh.channel_cutter, flat_like);
  need(neck_of(p).work.face_cutter, "neck.face_cutter", "face cutter", fresh.face_cutter,
       {CutterKind::ball, CutterKind::round_nose});
  need(neck_of(p).work.hole_cutter, "neck.hole_cutter", "hole cutter", fresh.hole_cutter, borer);
  need(neck_of(p).work.rough_cutter, "neck.rough_cutter", "roughing cutter", fresh.rough_cutter,
       {CutterKind::flat, CutterKind::ball, CutterKind::round_nose});
  need(neck_of(p).work.finish_cutter, "neck.finish_cutter", "finishing cutter", fresh.finish_cutter,
       {CutterKind::ball});
  need(neck_of(p).work.edge_cutter, "neck.edge_cutter", "edge cutter", fresh.edge_cutter, {CutterKind::flat});
  need(neck_of(p).work.outline_cutter, "neck.outline_cutter", "outline cutter", fresh.outline_cutter,
       {CutterKind::flat});
  if (neck_of(p).neck.rod.bars > 0 || neck_of(p).neck.nut.seat == NutSeat::slot)
    need(neck_of(p).work.fine_cutter, "neck.fine_cutter", "fine cutter", fresh.fine_cutter, flat_like);
  if (neck_of(p).neck.tuner.pilot > 0)
    need(neck_of(p).work.pilot_drill, "neck.pilot_drill", "pilot drill", fresh.pilot_drill, borer);
  const auto thin = [&](const std::string& id, const char* key, double width, const char* what) {
    const Cutter* c = find_cutter(d.rack, id);
    if (c != nullptr && c->kind == CutterKind::drill && c->effective_diameter() < width - 0.15)
      out.push_back({"neck.drill_thin",
                     Weight::worth_knowing,
                     worded("'{}' drills {} {} wide where {} are asked for: open them by hand, or put the right drill "
                            "into the rack.",
                            id, what, mm(c->effective_diameter()), mm(width)),
                     c->effective_diameter(),
                     width,
                     "mm",
                     "the drill's diameter",
                     key,
                     {},
                     {},
                     {}});
  };
  if (neck_of(p).neck.tuner.pilot > 0)
    thin(neck_of(p).work.pilot_drill, "neck.pilot_drill", neck_of(p).neck.tuner.pilot, "screw pilots");
  if (neck_of(p).neck.joint == NeckJoint::bolted && neck_of(p).neck.heel.holes != HeelHoles::none)
    thin(neck_of(p).work.heel_drill, "neck.heel_drill", neck_of(p).neck.heel.hole_diameter, "heel holes");
  if (neck_of(p).neck.joint == NeckJoint::bolted && neck_of(p).neck.heel.holes != HeelHoles::none)
    need(neck_of(p).work.heel_drill, "neck.heel_drill", "heel drill", fresh.heel_drill, borer);
  const auto fits = [&](const std::string& id, const char* key, double width, const std::string& what) {
    const Cutter* c = find_cutter(d.rack, id);
    if (c == nullptr || c->effective_diameter() <= width + 0.005) return;
    const Cutter* better = nullptr;
    for (const Cutter& o : d.rack)
      if (o.kind == CutterKind::flat && o.effective_diameter() <= width + 0.005 &&
          (better == nullptr || o.effective_diameter() > better->effective_diameter()))
        better = &o;
    out.push_back({"neck.cutter_wide",
                   Weight::stop,
                   worded("'{}' is {} thick and {} is {} wide.", id, mm(c->effective_diameter()), what, mm(width)),
                   c->effective_diameter(),
                   width,
                   "mm",
                   "geometry",
                   key,
                   {},
                   better != nullptr ? std::optional(Repair{"Take " + better->id, {{key, better->id}}}) : std::nullopt,
                   {}});
  };
  const RodNumbers& rod = neck_of(p).neck.rod;
  if (rod.kind != RodKind::none && !rod.round)
    fits(neck_of(p).work.channel_cutter, "neck.channel_cutter", rod.width, "the rod's slot");
  if (rod.kind != RodKind::none && rod.round) {
    need(neck_of(p).work.rod_cutter, "neck.rod_cutter", "ball of a round rod slot", fresh.rod_cutter,
         {CutterKind::ball});
    const Cutter* ball = find_cutter(d.rack, neck_of(p).work.rod_cutter);
    if (ball != nullptr && ball->kind == CutterKind::ball && std::abs(ball->effective_diameter() - rod.width) > 0.02) {
      Remark r{"neck.rod_ball",
               Weight::stop,
               worded("A rod slot with a round floor is as wide as the ball that cuts it: '{}' leaves {}, and {} are "
                      "asked for.",
                      ball->id, mm(ball->effective_diameter()), mm(rod.width)),
               ball->effective_diameter(),
               rod.width,
               "mm",
               "geometry",
               "rod.width",
               {},
               Repair{worded("A slot {} wide", mm(ball->effective_diameter())),
                      {{"rod.width", format_mm(ball->effective_diameter(), 3)}}},
               {Repair{"A flat floor", {{"rod.round", "no"}}}}};
      out.push_back(std::move(r));
    }
  }
  if (neck_of(p).neck.rod.bars > 0)
    fits(neck_of(p).work.fine_cutter, "neck.fine_cutter", neck_of(p).neck.rod.bar_width, "a bar's slot");
  if (neck_of(p).neck.nut.seat == NutSeat::slot)
    fits(neck_of(p).work.fine_cutter, "neck.fine_cutter", neck_of(p).neck.nut.thickness, "the nut's slot");
  fits(neck_of(p).work.hole_cutter, "neck.hole_cutter", neck_of(p).neck.tuner.hole, "a tuner's hole");
  if (neck_of(p).work.alignment.school == School::pins) {
    need(neck_of(p).work.pin_cutter, "neck.pin_cutter", "pin cutter", fresh.pin_cutter, borer);
    fits(neck_of(p).work.pin_cutter, "neck.pin_cutter", neck_of(p).work.alignment.pin_diameter, "a pin's hole");
  }
}

void judge_blank(const Project& p, const NeckDesign& d, std::vector<Remark>& out) {
  const Box2 box = bounds(d.cut_outline);
  const double beside = d.trough + neck_of(p).work.frame;
  const double pins = neck_of(p).work.alignment.school == School::pins
                          ? std::max(0.0, neck_of(p).work.alignment.pin_inset +
                                              neck_of(p).work.alignment.pin_diameter / 2 + 3 - neck_of(p).work.frame)
                          : 0;
  const AlignmentNumbers& a = neck_of(p).work.alignment;
  const bool bored_into = a.school == School::pins && pins_meet(d.pins, a.pin_diameter / 2, d.shape.corners);
  const auto small = [&](const char* kind, const char* key, const char* way, double have, double part, double need) {
    if (have >= need - 1e-9) return;
    const bool pins_there = bored_into && key == std::string("neck.blank.length");
    out.push_back({kind,
                   have < part + 2 * d.trough || pins_there ? Weight::stop : Weight::think_again,
                   worded("The neck's blank is {} {}; neck, trough and waste frame need {}.", mm(have), way, mm(need)),
                   have,
                   need,
                   "mm",
                   "the neck, its cutters and the frame",
                   key,
                   {},
                   Repair{worded("Take a blank of {}", as_mm(up(need, 1))), {{key, up(need, 1)}}},
                   {}});
  };
  small("neck.blank_short", "neck.blank.length", "long", d.blank.length, box.size().x,
        box.size().x + 2 * (beside + pins));
  small("neck.blank_narrow", "neck.blank.width", "wide", d.blank.width,
        box.size().y + 2 * std::abs(neck_of(p).work.over_across),
        box.size().y + 2 * (beside + std::abs(neck_of(p).work.over_across)));
  double deepest = 0;
  Vec2 where;
  for (double x = d.shape.tip_x + 1; x < d.shape.end_x; x += 3)
    for (const double s : {-0.9, -0.5, 0.0, 0.5, 0.9}) {
      const auto edges = crossings(d.shape.corners, {x, 0}, {0, 1});
      if (edges.size() < 2) continue;
      const Vec2 q{x, (edges.front() + edges.back()) / 2 + s * (edges.back() - edges.front()) / 2};
      if (const double z = d.shape.depth(q) + d.sand_back; z > deepest) {
        deepest = z;
        where = q;
      }
    }
  const double need = deepest + d.front_top;
  if (!d.scarf && d.blank.thickness < need - 1e-6) {
    Remark r{"neck.blank_thin",
             Weight::stop,
             worded("The blank is {} thick and the neck needs {} near x {}.", mm(d.blank.thickness), mm(need),
                    format_mm(where.x, 0)),
             d.blank.thickness,
             need,
             "mm",
             "the neck's deepest place",
             "neck.blank.thickness",
             std::pair{where.x, where.y},
             {},
             {}};
    const bool head = d.shape.behind_nut(where) > 0;
    if (head && d.shape.given.head.kind == HeadKind::tilted) {
      r.repair = Repair{worded("Glue the head on with a scarf (plank {})", mm(neck_of(p).work.plank)),
                        {{"head.scarf", "yes"}}};
      r.others.push_back({worded("Take a blank {} thick", as_mm(up(need + 0.5, 0.5))),
                          {{"neck.blank.thickness", up(need + 0.5, 0.5)}}});
    } else {
      r.repair = Repair{worded("Take a blank {} thick", as_mm(up(need + 0.5, 0.5))),
                        {{"neck.blank.thickness", up(need + 0.5, 0.5)}}};
      if (head)
        r.others.push_back(
            {"Lower the head's face less",
             {{"head.drop",
               format_mm(std::max(2.0, neck_of(p).neck.head.drop - (need - d.blank.thickness) - 0.2), 2)}}});
    }
    out.push_back(std::move(r));
  }
  if (d.scarf && neck_of(p).work.plank < d.shape.shaft_depth(d.shape.heel_x) + 0.5)
    out.push_back({"neck.plank_thin",
                   Weight::stop,
                   worded("A plank of {} is thinner than the shaft.", mm(neck_of(p).work.plank)),
                   neck_of(p).work.plank,
                   d.shape.shaft_depth(d.shape.heel_x),
                   "mm",
                   "geometry",
                   "neck.plank",
                   {},
                   {},
                   {}});
  if (d.scarf && neck_of(p).work.plank < d.shape.given.heel.thickness - d.shape.board->given.board.thickness - 1e-9) {
    const std::string thick = up(d.shape.given.heel.thickness - d.shape.board->given.board.thickness + 0.3, 0.1);
    out.push_back({"neck.plank_heel",
                   Weight::stop,
                   worded("A plank of {} gives no heel of {} under the board.", mm(neck_of(p).work.plank),
                          mm(d.shape.given.heel.thickness - d.shape.board->given.board.thickness)),
                   neck_of(p).work.plank,
                   0,
                   "mm",
                   "geometry",
                   "neck.plank",
                   {},
                   Repair{"Take a plank of " + thick + " mm", {{"neck.plank", thick}}},
                   {}});
  }
  const Vec3& travel = p.machine.travel;
  const Vec2 size = d.front.blank_size;
  if (size.x > travel.x || size.y > travel.y) {
    const bool turned_fits = size.y <= travel.x && size.x <= travel.y;
    const bool y_way = d.blank.lie == Lie::along_y;
    out.push_back({"neck.machine_short",
                   Weight::stop,
                   worded("The neck's blank covers {} × {} and the machine travels {} × {}.", format_mm(size.x, 1),
                          mm(size.y, 1), format_mm(travel.x, 1), mm(travel.y, 1)),
                   std::max(size.x - travel.x, size.y - travel.y),
                   0,
                   "mm",
                   "the machine's travels",
                   "neck.blank.lie",
                   {},
                   turned_fits ? std::optional(Repair{y_way ? "Lay the neck along x" : "Lay the neck along y",
                                                      {{"neck.blank.lie", y_way ? "x" : "y"}}})
                               : std::nullopt,
                   {}});
  }
}

/// The fence's corner may push a blank that would fit beyond the machine's travel.
void judge_fence(const Project& p, const NeckDesign& d, std::vector<Remark>& out) {
  if (neck_of(p).work.alignment.school != School::fence) return;
  const Vec2 far = Vec2{d.front.zero_in_machine.x, d.front.zero_in_machine.y} + d.front.blank_size;
  const double over = std::max(far.x - p.machine.travel.x, far.y - p.machine.travel.y);
  if (over <= 0 || d.front.blank_size.x > p.machine.travel.x || d.front.blank_size.y > p.machine.travel.y) return;
  const bool in_x = far.x - p.machine.travel.x >= far.y - p.machine.travel.y;
  const char* key = in_x ? "neck.fence_x" : "neck.fence_y";
  const double room = in_x ? p.machine.travel.x - d.front.blank_size.x : p.machine.travel.y - d.front.blank_size.y;
  out.push_back({"neck.fence_far",
                 Weight::stop,
                 worded("From the corner of the fence the blank reaches {} beyond the machine's travel in {}.",
                        mm(over), in_x ? "x" : "y"),
                 over,
                 0,
                 "mm",
                 "the machine's travels",
                 key,
                 {},
                 Repair{worded("Set the fence's corner at {} {}", in_x ? "x" : "y", format_mm(std::floor(room / 2), 1)),
                        {{key, format_mm(std::floor(room / 2), 1)}}},
                 {}});
}

/// The mismatch of the two sides, and where it shows.
void judge_register(const Project& p, NeckDesign& d, std::vector<Remark>& out) {
  const RegisterError& e = d.misfit;
  d.skin_with_misfit = d.skin;
  const double turn = e.angle * d.blank.length / 2;
  for (const Vec2 shift : {Vec2{e.shift.x, e.shift.y + turn}, Vec2{e.shift.x, -e.shift.y - turn},
                           Vec2{-e.shift.x, e.shift.y + turn}, Vec2{-e.shift.x, -e.shift.y - turn}})
    if (const Skin s = least_skin(d.shape, shift); s.least < d.skin_with_misfit.least) d.skin_with_misfit = s;
  double worst = 0;
  Vec2 where;
  for (const Vec2 q : d.shape.corners)
    if (const double m = e.at(q - d.blank_middle); m > worst) {
      worst = m;
      where = q;
    }
  const bool bad = worst > 0.25;
  Remark r{"neck.misfit",
           bad ? Weight::think_again : Weight::worth_knowing,
           worded("Turned over, the sides may miss each other by {} at the worst place ({}): it shows {}, and leaves "
                  "{} over the rod.",
                  mm(worst), e.reason, d.shape.behind_nut(where) > 0 ? "at the head's end" : "at the heel's end",
                  mm(d.skin_with_misfit.least)),
           worst,
           0.25,
           "mm",
           "the alignment's own errors added up",
           "neck.alignment",
           std::pair{where.x, where.y},
           {},
           {}};
  if (bad && neck_of(p).work.alignment.school != School::pins)
    r.repair = Repair{"Align on two pins", {{"neck.alignment", "pins"}}};
  out.push_back(std::move(r));
  if (d.skin_with_misfit.least < 1.5 && d.skin.least >= 1.5)
    out.push_back({"neck.misfit_skin",
                   Weight::stop,
                   worded("With the sides {} apart only {} stay over the rod near fret {}.", mm(worst),
                          mm(d.skin_with_misfit.least), d.shape.nearest_fret(d.skin_with_misfit.at.x)),
                   d.skin_with_misfit.least,
                   1.5,
                   "mm",
                   "the alignment's own errors",
                   "neck.alignment",
                   std::pair{d.skin_with_misfit.at.x, d.skin_with_misfit.at.y},
                   {},
                   {}});
  if (neck_of(p).work.alignment.school == School::pins && neck_of(p).work.alignment.pin_offset < 2)
    out.push_back({"neck.pin_offset",
                   Weight::think_again,
                   "The second pin stands in line with the first: the blank also goes on the wrong way round.",
                   neck_of(p).work.alignment.pin_offset,
                   2,
                   "mm",
                   "common practice",
                   "neck.pin_offset",
                   {},
                   Repair{worded("Set it {} aside", mm(7)), {{"neck.pin_offset", "7"}}},
                   {}});
  if (neck_of(p).work.side_tabs < 1 && !neck_of(p).work.end_tabs)
    out.push_back(
        {"neck.tabs_none",
         Weight::stop,
         "Without tabs the neck comes free under a turning cutter and flies.",
         0,
         4,
         "",
         "common practice",
         "neck.side_tabs",
         {},
         Repair{"Leave two tabs a side and one at each end", {{"neck.side_tabs", "2"}, {"neck.end_tabs", "yes"}}},
         {}});
  if (neck_of(p).work.through < 0.1)
    out.push_back(
        {"neck.skin_left",
         neck_of(p).work.through <= 0 ? Weight::stop : Weight::think_again,
         worded(
             "The outline goes {} into the waste board; a cut at just the measured thickness leaves a paper-thin skin.",
             mm(neck_of(p).work.through)),
         neck_of(p).work.through,
         0.1,
         "mm",
         "common practice: 0.1 to 0.5",
         "neck.through",
         {},
         Repair{worded("Cut {} into the waste board", mm(0.2)), {{"neck.through", "0.2"}}},
         {}});
}

void judge_pull(const NeckDesign& d, std::vector<Remark>& out) {
  out.push_back(
      {"neck.pull",
       d.bend.relief > 1.2 ? Weight::think_again : Weight::worth_knowing,
       worded("The strings pull with {:.0f} N; without its rod the neck would bend to a relief of {} near fret {}.",
              d.pull.total, mm(d.bend.relief), d.shape.nearest_fret(d.bend.relief_x)),
       d.bend.relief,
       1.2,
       "mm",
       "ideal strings, beam bending (an estimate: wood varies by a fifth)",
       "rod.bars",
       std::pair{d.bend.relief_x, 0.0},
       d.bend.relief > 1.2 && d.shape.given.rod.bars == 0
           ? std::optional(Repair{"Put in two carbon bars", {{"rod.bars", "2"}}})
           : std::nullopt,
       {}});
}

/// What the drills do not reach, over what roughing leaves on the back: drilled on by hand, or met from the glue face.
void share_deep_holes(const NeckWork& w, NeckDesign& d) {
  if (w.deep_holes == DeepHoles::by_machine) return;
  for (Hole& h : d.shape.holes) {
    const bool pilot = h.id.starts_with("pilot");
    if (h.depth == 0 || !(pilot || h.id.starts_with("heel"))) continue;
    const Cutter* drill = find_cutter(d.rack, pilot ? w.pilot_drill : w.heel_drill);
    if (drill == nullptr) continue;
    constexpr double slack = 1;  // mm: a back that slopes stands higher beside the hole
    const double reach = std::min(drill->cutting_length, drill->stickout - 1.5) - w.rough_leave - slack;
    const double most = std::floor(2 * reach) / 2;
    if (most < 2) continue;
    h.past_reach = std::max(0.0, h.depth - most);
    constexpr double overlap = 0.5;  // mm that both are full width together
    if (w.deep_holes == DeepHoles::both_sides && h.past_reach > 0 && may_open_at_face(d, h))
      h.from_face = d.cut_depth(h.at) - h.from_back() + overlap;
  }
}

}  // namespace

bool may_open_at_face(const NeckDesign& d, const Hole& h) {
  constexpr double wood = 1.5;  // mm beside it, at least
  if (d.front_top > 0) return false;
  const double need = h.diameter / 2 + wood;
  const Polygon& board = d.shape.board->corners;
  if (!contains(board, h.at) || distance_to(board, h.at) < need) return false;
  return std::none_of(d.shape.channels.begin(), d.shape.channels.end(), [&](const Channel& c) {
    return !c.from_back && distance_to(h.at, {c.a, c.b}) < c.width / 2 + need;
  });
}

Expected<NeckDesign> design_neck(const Project& p, const Fretboard& board, Cache& cache) {
  auto wood = find_material(p.materials, neck_of(p).work.blank.wood);
  if (!wood) return fail(ProblemKind::range, wood.error().what, "neck.blank.wood", wood.error().todo);
  // A surface faired through measured sections costs more than all the rest: kept as long as nothing it depends on
  // changes.
  using Made = Expected<NeckShape>;
  const auto made = cache.get<std::shared_ptr<const Made>>(std::pair(board.given, neck_of(p).neck), 8, [&] {
    return std::make_shared<const Made>(make_neck(board, neck_of(p).neck));
  });
  if (!*made) return tl::unexpected(made->error());
  NeckDesign d;
  d.shape = **made;
  d.rack = p.rack;
  d.wood = *wood;
  d.woods.neck_gpa = wood->modulus;
  d.woods.neck_density = wood->density;
  if (const auto b = find_material(p.materials, board_of(p).blank.wood)) d.woods.board_gpa = b->modulus;
  if (auto bad = glued_of_strips(p, d)) return tl::unexpected(*bad);
  d.blank = neck_of(p).work.blank;
  d.blank.length = in_use(p, "neck.blank.length", d.blank.length);
  d.blank.width = in_use(p, "neck.blank.width", d.blank.width);
  d.blank.thickness = in_use(p, "neck.blank.thickness", d.blank.thickness);
  d.front_top = neck_of(p).neck.build == NeckBuild::one_piece ? board.given.board.thickness : 0;
  d.sand_back = neck_of(p).work.sand_back;
  d.sand_face = neck_of(p).work.sand_face;
  d.sand_sides = neck_of(p).work.sand_sides;
  d.cut_contour = d.shape.outline;
  if (neck_of(p).work.sand_sides > 0) {
    const auto grown = offset({d.shape.corners}, neck_of(p).work.sand_sides);
    d.cut_contour.clear();
    for (const Vec2 q : grown.front()) d.cut_contour.push_back({q, 0});
  }
  d.cut_outline = flatten(d.cut_contour, 0.002);
  share_deep_holes(neck_of(p).work, d);
  lay_on_machine(p, d);
  d.trough = trough_width(p, d);
  d.weight = neck_weight(d.shape, d.woods.neck_density);
  if (auto bad = add_laminates(p, d)) return tl::unexpected(*bad);
  d.pull = string_pull(board, neck_of(p).neck.tuning);
  d.bend = neck_bend(d.shape, d.pull, d.woods);
  d.skin = least_skin(d.shape);
  d.lump = worst_lump(d.shape);
  d.remarks = neck_remarks(d.shape);
  judge_blank(p, d, d.remarks);
  d.joints = joints_of(seen_stack(p, neck_of(p).work.strips), {d.blank_middle});
  d.bands = neck_bands(p, d);
  for (Remark& r : laminate_remarks(p, d)) d.remarks.push_back(std::move(r));
  judge_fence(p, d, d.remarks);
  judge_cutters(p, d, d.remarks);
  judge_register(p, d, d.remarks);
  judge_pull(d, d.remarks);
  if (d.shape.given.build == NeckBuild::one_piece && d.shape.board->given.frets.when == FretsWhen::board_loose)
    d.remarks.push_back({"neck.frets_loose_board",
                         Weight::stop,
                         "A neck of one piece has no loose board: its frets are pressed into the neck itself.",
                         0,
                         0,
                         "",
                         "the neck's build",
                         "frets.when",
                         {},
                         Repair{"Press them into the neck", {{"frets.when", "board_glued"}}},
                         {Repair{"A separate board", {{"neck.build", "separate_board"}}}}});
  if (!neck_of(p).neck.tuning.empty()) {
    const auto notes = note_frequencies(neck_of(p).neck.tuning);
    if (!notes || notes->size() != board.strings.size())
      d.remarks.push_back(
          {"neck.tuning",
           Weight::think_again,
           notes ? worded("The tuning names {} notes for {} strings.", notes->size(), board.strings.size())
                 : "The tuning is not understood: write notes bass to treble, E2 A2 D3 G3 B3 E4.",
           0,
           0,
           "",
           "the tuning",
           "neck.tuning",
           {},
           Repair{"Take the usual tuning", {{"neck.tuning", ""}}},
           {}});
  }
  for (const auto& id : {neck_of(p).work.rough_cutter, neck_of(p).work.finish_cutter, neck_of(p).work.outline_cutter})
    if (const Cutter* c = find_cutter(d.rack, id))
      if (auto r = z_travel_remark(d.back, *c, safe_height(d.back, p.programs.safe),
                                   -d.blank.thickness - neck_of(p).work.through)) {
        d.remarks.push_back(*r);
        break;
      }
  return d;
}

std::vector<WaitingFor> waiting_for(const Project& p, const NeckDesign& d) {
  const NeckShape& n = d.shape;
  const auto value = [&](const char* key, const Words& title, double designed, const char* used) {
    return WaitingFor{key, title, designed, used, measured_in_use(p.record.measured, key)};
  };
  return {
      value("neck.heel_width", "Heel width at its end", 2 * n.taper(n.end_x).half, "the body's neck pocket"),
      value("neck.heel_length_made", "Heel length", n.given.heel.start, "the body's neck pocket"),
      value("neck.heel_in_all", "Heel thickness in all", n.given.heel.thickness,
            "the pocket's depth and the bridge's height"),
      value("neck.thickness_at_a", worded("Thickness at fret {}", n.given.back.fret_a),
            n.whole_thickness(n.fret_x(n.given.back.fret_a)), "the record"),
      value("neck.thickness_at_b", worded("Thickness at fret {}", n.given.back.fret_b),
            n.whole_thickness(n.fret_x(n.given.back.fret_b)), "the record"),
      value("neck.length", "Neck length", n.end_x - n.tip_x, "the record"),
  };
}

}  // namespace wren

// What is cut of a neck: the front with its channels and the head's face, then, turned over, holes, roughing,
// finishing, outline with tabs and the steep sides last.
#include <algorithm>
#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "core/cutting/choose.hpp"
#include "core/parts/neck/part.hpp"
#include "core/plan/region.hpp"
#include "core/proof/wall_designs.hpp"
#include "core/skin/grids.hpp"

namespace wren {
namespace {

constexpr double coarse_cell = 0.4;  // mm, roughing grids
constexpr double fine_cell = 0.1;    // mm, finishing grids

/// Highest value of a height on a circle about a place and in its middle.
template <class At>
double highest_round(Vec2 middle, double radius, const At& at) {
  double best = at(middle);
  for (int k = 0; k < 12; ++k)
    best =
        std::max(best, at(middle + Vec2{std::cos(k * 0.5235987755982988), std::sin(k * 0.5235987755982988)} * radius));
  return best;
}

/// The highest tab at x beside which the finishing ball still comes down to the neck at both edges: there the neck is
/// as high a radius inside its edge as the ball touches a slope like that over its own tip. 0 where there is no neck.
double room_across(const NeckWork& w, const NeckDesign& d, double x) {
  const auto edges = crossings(d.cut_outline, {x, 0}, {0, 1});
  if (edges.size() < 2) return 0;
  const Cutter* ball = find_cutter(d.rack, w.finish_cutter);
  const double r = ball != nullptr ? ball->effective_diameter() / 2 : 3.175;
  const auto high = [&](double y) { return d.cut_depth({x, y}) + d.cut_front({x, y}); };
  const auto room = [&](double edge, double in) {
    constexpr double half = 0.5;
    const double slope = (high(edge + in * (r + half)) - high(edge + in * (r - half))) / (2 * half);
    return high(edge + in * r) - r * (1 - std::cos(std::atan(slope)));
  };
  return std::min(room(edges.front(), 1), room(edges.back(), -1));
}

/// How far from x the next slot of a one-piece neck's board runs out over either edge.
double next_slot(const NeckDesign& d, double x) {
  double least = 1e9;
  if (d.front_top <= 0) return least;
  for (const FretLine& f : d.shape.board->frets)
    for (const auto& [end, edge] : {std::pair{f.slot_bass, f.bass_edge}, std::pair{f.slot_treble, f.treble_edge}})
      if (distance(end, edge) < 0.5) least = std::min(least, std::abs(edge.x - x));
  return least;
}

/// The same over all of the way that the ball goes higher for the tab; less than that where a fret's slot runs through
/// the tab or the flanks beside it.
double room_for_tab(const NeckWork& w, const NeckDesign& d, double x) {
  const Cutter* ball = find_cutter(d.rack, w.finish_cutter);
  const double reach = w.tab_length / 2 + (ball != nullptr ? ball->effective_diameter() : 6.35);
  const double room = std::min({room_across(w, d, x - reach), room_across(w, d, x), room_across(w, d, x + reach)});
  constexpr double flank = 4;  // mm
  const double clear = next_slot(d, x) - w.tab_length / 2 - flank;
  return clear >= 0 ? room : std::min(room, w.tab_height) + 0.1 * clear;
}

/// Where a tab at the sides is to stand: at its share of the shaft, or as near as there is room for it.
double tab_station(const NeckWork& w, const NeckDesign& d, double wanted, double reach) {
  constexpr double step = 2;
  double best = wanted, most = 0;
  for (double far = 0; far <= reach; far += step)
    for (const double x : {wanted - far, wanted + far}) {
      const double room = room_for_tab(w, d, x);
      if (room >= w.tab_height) return x;
      if (room > most + 1e-6) {
        most = room;
        best = x;
      }
    }
  return best;
}

/// Places of tabs on the outline, instrument frame.
std::vector<Vec2> tab_places(const NeckWork& w, const NeckDesign& d) {
  const NeckShape& n = d.shape;
  std::vector<Vec2> out;
  const double x0 = n.nut_middle.x + 30;
  for (int k = 0; k < w.side_tabs; ++k) {
    const double share = (n.heel_x - x0) / w.side_tabs;
    const double x = tab_station(w, d, x0 + share * (k + 0.5), 0.4 * share);
    const auto edges = crossings(d.cut_outline, {x, 0}, {0, 1});
    if (edges.size() >= 2) out.insert(out.end(), {{x, edges.front()}, {x, edges.back()}});
  }
  if (!w.end_tabs) return out;
  for (const bool head : {true, false}) {
    const double y = n.taper(head ? 0 : n.end_x).middle + (head ? n.middle_head : 0);
    const auto edges = crossings(d.cut_outline, {0, y}, {1, 0});
    if (edges.size() >= 2) out.push_back({head ? edges.front() : edges.back(), y});
  }
  return out;
}

const Polygon& widest_of(const std::vector<Polygon>& polygons) { return *widest(polygons); }

/// Places so far beside one, four ways.
std::array<Vec2, 4> around_it(double aside) { return {Vec2{aside, 0}, {-aside, 0}, {0, aside}, {0, -aside}}; }

/// What both sides share: the numbers, and heights of wood and neck. Copied into the operations that need it.
struct NeckCut {
  NeckCut(const Project& p, const NeckDesign& design) : w(neck_of(p).work), d(design) {
    turn = d.back.turn;
    bottom_of_back = d.blank.thickness - d.front_top;
    outline_back = turned(turn, d.cut_outline);
    for (const Vec2 t : tab_places(w, d)) tabs.push_back(turned(turn, t));
    // A one-piece neck's crown runs on past its edges and takes wood from under the tabs: they are that much higher.
    for (const Vec2 t : tabs) tab_height = std::max(tab_height, w.tab_height + std::max(0.0, under(t) - wood_under(t)));
    const Cutter* round = find_cutter(d.rack, w.outline_cutter);
    tab_reach = std::hypot(w.tab_length / 2 + 0.5, (round != nullptr ? round->effective_diameter() : 6.0) + w.skim + 1);
  }
  [[nodiscard]] double front_wood(Vec2 p) const { return d.front.wood_top ? d.front.wood_top(p) : d.front_top; }
  [[nodiscard]] double back_wood(Vec2 side) const { return d.back.wood_top ? d.back.wood_top(side) : bottom_of_back; }
  [[nodiscard]] double under(Vec2 side) const { return d.back_under(side); }
  /// Underside of the wood beside the neck: of a one-piece neck the blank's own face, since only the board itself is
  /// crowned.
  [[nodiscard]] double wood_under(Vec2 side) const {
    constexpr double past_nut = 3;  // the step at the nut is gone down to a little behind it
    return d.front_top > 0 && d.shape.behind_nut(turned(turn, side)) <= past_nut ? -d.front_top : under(side);
  }
  [[nodiscard]] bool at_tab(Vec2 side, double more = 0) const {
    return std::any_of(tabs.begin(), tabs.end(), [&](Vec2 t) { return distance(side, t) < tab_reach + more; });
  }
  /// What roughing leaves under it: the web, and round the tabs all that they are to be.
  [[nodiscard]] double left_in_trough(Vec2 side, double more = 0) const {
    return at_tab(side, more) ? std::max(w.web, tab_height) : w.web;
  }
  [[nodiscard]] double trough_floor(Vec2 side) const { return wood_under(side) + left_in_trough(side); }

  /// Target heights of the front where the head's face, shelf and step are to be; the blank's own height elsewhere.
  [[nodiscard]] TileGrid face_target(double cell, double leave, double beyond) const {
    const NeckShape& n = d.shape;
    const auto grown = offset({d.cut_outline}, beyond);
    const Polygon& around = widest_of(grown);
    const Box2 box = bounds(around);
    const FretLine& nut = n.board->nut_line;
    const double right = std::max({n.nut_middle.x, nut.bass_edge.x, nut.treble_edge.x}) + 14;
    const double from = d.front_top > 0 ? 0 : n.given.head.shelf;
    const auto face = [&](Vec2 p) { return n.behind_nut(p) > from ? d.cut_front(p) : front_wood(p); };
    const double aside = leave > 0 ? cell + 0.05 : 0;
    return grid_over(box.low - Vec2{9, 9}, {right, box.high.y + 9}, cell, around, [&](Vec2 p, bool inside) {
      const double top = front_wood(p);
      if (!inside || n.behind_nut(p) <= from) return top;
      // Upright walls and steep steps keep off by more than a cell sideways too.
      double high = d.cut_front(p) + leave;
      if (aside > 0)
        for (const Vec2 o : around_it(aside)) high = std::max(high, face(p + o));
      return std::min(top, high);
    });
  }

  /// Heights of the turned piece: the back inside, the trough's floor round it, the blank beyond.
  [[nodiscard]] TileGrid back_target(double cell, double leave) const {
    const auto grown = offset({d.cut_outline}, d.trough);
    const Polygon around = turned(turn, widest_of(grown));
    const Box2 box = bounds(around);
    const Vec2 margin{8, 8};
    TileGrid grid = grid_over(box.low - margin, box.high + margin, cell, around, [&](Vec2 p, bool inside) {
      const double top = back_wood(p);
      return inside ? std::min(top, trough_floor(p)) : top;
    });
    // The neck itself over it; what is left for finishing stands on its sides too, more than a cell wide.
    const double least = cell + 0.05;
    const Polygon with_leave =
        leave > 0 ? turned(turn, offset({d.cut_outline}, std::max(leave, least)).front()) : outline_back;
    const double aside = leave > 0 ? std::max(cell / 2 + 0.8 * leave, least) : 0;
    change_inside(grid, with_leave, [&](Vec2 p, float) {
      double high = d.back_height(p);
      if (aside > 0)
        for (const Vec2 o : around_it(aside)) high = std::max(high, d.back_height(p + o));
      return std::min(back_wood(p), high + leave);
    });
    return grid;
  }

  /// Highest surface that a cutter's flank may touch: on the side towards the neck.
  [[nodiscard]] double contact(Vec2 q, double radius) const {
    const Vec2 p = turned(turn, q);
    if (contains(d.cut_outline, p)) return d.back_height(q);
    const Vec2 at = p + unit(Vec2{0, d.shape.taper(p.x).middle - p.y}) * radius;
    return contains(d.cut_outline, at) ? d.shape.depth(at) : under(q);
  }

  NeckWork w;
  NeckDesign d;
  Turn turn = Turn::none;
  double bottom_of_back = 0;  // side z of the blank's upper face when turned
  Polygon outline_back;       // side frame of the back
  std::vector<Vec2> tabs;     // side frame of the back
  double tab_height = 0;      // over the blank's face
  double tab_reach = 0;       // round their middles: length, and the outline cutter's way beside the neck
};

using Shared = std::shared_ptr<const NeckCut>;

MakeGrid wood_like(MakeGrid target, Height wood) {
  return [target = std::move(target), wood = std::move(wood)](double cell) {
    TileGrid grid = target(cell);
    fill(grid, wood);
    return grid;
  };
}

class NeckSides {
 public:
  NeckSides(const Project& p, const NeckDesign& d)
      : p_(p),
        w_(neck_of(p).work),
        d_(d),
        n_(d.shape),
        c_(std::make_shared<const NeckCut>(p, d)),
        tabs_(tab_places(w_, d)) {}

  [[nodiscard]] std::vector<Side> sides() {
    std::vector<Side> out;
    out.push_back(begin("front", "Front", d_.front, Seating::first));
    front();
    out.back().operations = std::move(ops_);
    ops_.clear();
    out.push_back(begin("back", "Back", d_.back, Seating::turned));
    back();
    out.back().operations = std::move(ops_);
    return out;
  }
  [[nodiscard]] double rows() const { return rows_; }

 private:
  Side begin(std::string id, Words title, const Setup& setup, Seating seating) const {
    Side side;
    side.id = std::move(id);
    side.title = std::move(title);
    side.setup = setup;
    side.wood = d_.wood;
    side.zero = zero_words(setup.blank, zero_place(w_.alignment.school));
    side.seat = seat_words(setup, school_name(w_.alignment.school));
    side.clamps_key = "neck.clamps";
    for (const auto& s : alignment_steps(setup, w_.alignment, seating)) side.alignment.push_back(s);
    return side;
  }

  [[nodiscard]] const Cutter* cutter(const std::string& id) const { return find_cutter(d_.rack, id); }

  Operation& add(std::string id, Words title, const std::string& cutter, Shape shape, const char* key,
                 std::vector<std::string> keys) {
    ops_.push_back({std::move(id), std::move(title), cutter, std::move(shape), key, std::move(keys)});
    if (std::exchange(after_pins_, false)) ops_.back().stop_before = set_the_pins;
    return ops_.back();
  }

  // ---- front

  void front() {
    if (w_.alignment.school == School::pins) pins();
    const bool one_piece = n_.given.build == NeckBuild::one_piece;
    if (one_piece) playing_surface();
    // Work that needs the flat face comes before the head's face goes.
    const double top = one_piece ? 0.0 : d_.front_top;
    for (const char* first : {"rod", "rod-pocket", "bar"}) channels(first, false, top);
    if (!one_piece) channels("nut", false, top);
    holes_from_face();
    head_face();
    // The nut of a one-piece neck is let into the shelf that the head's face has left behind its board; beside the neck
    // roughing has left more.
    if (one_piece) channels("nut", false, w_.rough_leave);
  }

  void pins() {
    Holes holes;
    for (const Vec2 at : {d_.pins.first, d_.pins.second})
      holes.holes.push_back(
          {"pin's hole", at, w_.alignment.pin_diameter,
           highest_round(at, w_.alignment.pin_diameter / 2, [&](Vec2 q) { return c_->front_wood(q); }),
           d_.front_top - d_.blank.thickness - std::min(1.0, w_.alignment.pin_depth)});
    add("pins", "Pin holes through the waste", w_.pin_cutter, std::move(holes), "neck.pin_cutter",
        {"neck.pin_cutter", "neck.pin_diameter", "neck.pin_depth"})
        .check = {{"Pins {} push in by hand and do not rock.", {w_.alignment.pin_diameter}}};
    after_pins_ = true;
  }

  void channels(const std::string& first, bool from_back, double top) {
    struct Kind {
      const char* title;
      std::vector<std::string> keys;
    };
    const bool fine = first == "bar" || first == "nut";
    const bool round = first == "rod" && n_.given.rod.round;
    const std::string& id = fine ? w_.fine_cutter : round ? w_.rod_cutter : w_.channel_cutter;
    const Cutter* c = cutter(id);
    if (c == nullptr) return;
    Channels shape;
    shape.top = top;
    for (const Channel& ch : n_.channels) {
      const bool mine = first == "rod" ? ch.id == "rod" : ch.id.starts_with(first);
      if (!mine || ch.from_back != from_back) continue;
      Channels::One one{ch.title, ch.a, ch.b, ch.width, ch.floor};
      if (ch.round)  // its ball's tip runs along the middle of the floor
        one.floor = [ch](Vec2 q) {
          const Vec2 way = ch.b - ch.a;
          const double t = std::clamp(dot(q - ch.a, way) / std::max(1e-12, dot(way, way)), 0.0, 1.0);
          return ch.floor(lerp(ch.a, ch.b, t));
        };
      if (from_back) {  // in the side frame of the turned set-up
        const Turn turn = c_->turn;
        one.a = turned(turn, ch.a);
        one.b = turned(turn, ch.b);
        one.floor = [floor = one.floor, turn](Vec2 q) { return -floor(turned(turn, q)); };
      } else if (ch.id == "nut") {  // out through both edges, as far as the trough lets it
        const Vec2 out = unit(ch.b - ch.a) * (c->radius() * 0.5);
        one.a = ch.a - out;
        one.b = ch.b + out;
      }
      shape.channels.push_back(std::move(one));
    }
    if (shape.channels.empty()) return;
    const char* title = first == "bar"   ? "Carbon bars' slots"
                        : first == "nut" ? "Nut slot"
                        : first == "rod" ? "Rod slot"
                                         : "Adjuster pocket";
    Operation& op = add(
        first, title, id, std::move(shape),
        fine    ? "neck.fine_cutter"
        : round ? "neck.rod_cutter"
                : "neck.channel_cutter",
        fine ? std::vector<std::string>{"neck.fine_cutter"}
             : std::vector<std::string>{round ? "neck.rod_cutter" : "neck.channel_cutter", "rod.width", "rod.depth"});
    if (round)
      op.before = {{"The rod must be round underneath, {} across: a square one would stand on its edges.",
                    {n_.given.rod.width}}};
    if (first == "rod") op.check = {{"The rod drops in and lies {} under the glue plane.", {n_.given.rod.depth}}};
  }

  /// Heel holes that the drill does not reach the bottom of from the back are met from the face.
  void holes_from_face() {
    const Cutter* drill = cutter(w_.heel_drill);
    if (drill == nullptr) return;
    Holes shape;
    for (const Hole& h : n_.holes) {
      if (h.from_face == 0) continue;
      const double top = highest_round(h.at, h.diameter / 2, [this](Vec2 q) { return c_->front_wood(q); });
      shape.holes.push_back({"heel hole", h.at, h.diameter, top, -h.from_face});
    }
    if (shape.holes.empty()) return;
    if (drill->kind == CutterKind::drill) shape.peck = std::max(1.0, 1.5 * drill->effective_diameter());
    add("heel-face", "Heel holes, from the glue face", w_.heel_drill, std::move(shape), "neck.heel_drill",
        {"neck.deep_holes", "neck.heel_drill", "neck.heel_hole_depth"});
  }

  /// One piece: the crowned playing surface and its slots are cut in the neck's own wood.
  void playing_surface() {
    const FretboardNumbers& given = board_of(p_);
    const auto board = n_.board;
    const Height flat_top = [z = d_.front_top](Vec2) { return z; };
    add("slots", "Fret slots", given.work.slot_cutter, Slots{board, given.work.slot_entry, flat_top}, "slot.cutter",
        {"slot.cutter"});
    if (auto marks = marks_shape(*board, flat_top))
      add("marks", "Position marks", given.work.mark_cutter, std::move(*marks), "marks.cutter", {"marks.cutter"})
          .bending = 0.03;
    if (auto ticks = ticks_shape(*board, flat_top); ticks && cutter(given.work.tick_cutter) != nullptr)
      add("ticks", "Ticks over the edge", given.work.tick_cutter, std::move(*ticks), "marks.tick_cutter",
          {"marks.tick_cutter"});
    if (const Cutter* c = cutter(given.work.crown_cutter);
        c != nullptr && can_finish_crown(*c) && board->given.crown.kind != CrownKind::flat) {
      CrownPlan plan;
      plan.cutter = *c;
      plan.direction = given.work.crown_direction;
      plan.area = flatten(board->outline, 0.05);
      plan.wood_top = d_.front_top;
      plan.stepover = given.work.crown_stepover > 0 ? given.work.crown_stepover
                                                    : stepover_for(*board, plan, given.work.crown_scallop);
      add("crown", "Crown", given.work.crown_cutter, CrownRows{board, std::move(plan), true}, "crown.cutter",
          {"crown.cutter"});
    }
  }

  void head_face() {
    const Cutter* fine = cutter(w_.face_cutter);
    const Cutter* flat_one = cutter(w_.channel_cutter);
    if (cutter(w_.rough_cutter) == nullptr || fine == nullptr || flat_one == nullptr) return;
    const double beyond = d_.trough + (cutter(w_.outline_cutter) != nullptr ? 0.5 : 0);
    const MakeGrid target = [c = c_, beyond, leave = w_.rough_leave](double cell) {
      return c->face_target(cell, leave, beyond);
    };
    const Height wood = [c = c_](Vec2 q) { return c->front_wood(q); };
    add("head-rough", "Head's face, roughing", w_.rough_cutter,
        Rough{target, wood_like(target, wood), coarse_cell, d_.front_top, {}}, "neck.rough_cutter",
        {"neck.rough_cutter", "neck.rough_leave"});
    const HeadNumbers& head = n_.given.head;
    const bool flat_head = head.kind == HeadKind::flat;
    const double rise = head.step_radius - head.drop - head.veneer;
    const double run = flat_head ? std::sqrt(std::max(0.0, head.step_radius * head.step_radius - rise * rise)) : 0;
    const double slanted_end = head.shelf + run;
    Finish base;
    base.surface = [c = c_](Vec2 p) {
      return c->d.shape.behind_nut(p) > 0 || c->d.front_top == 0 ? c->d.cut_front(p) : c->d.front_top;
    };
    base.grid = [c = c_, beyond](double cell) { return c->face_target(cell, 0, beyond); };
    base.cell = fine_cell;
    base.leave = w_.rough_leave;
    base.plan.wood_top = d_.front_top;
    base.plan.bend = 0;
    if (flat_head || d_.front_top > 0) {
      // What lies level is faced with a flat cutter: shelf of a one-piece neck, face of a flat head.
      Finish level = base;
      const double r = flat_one->radius();
      level.plan.scallop = 0.01;
      level.plan.sample = 1.0;
      level.row_width = 0.6 * flat_one->effective_diameter();
      if (d_.front_top > 0) {
        level.runs.push_back(face_stations(0 + r + 0.01, std::max(r + 0.5, head.shelf + 1), 0.6));
        level.ways.push_back(nut_wall(r));
      }
      if (flat_head) level.runs.push_back(face_stations(slanted_end + r * 0.6, 1e9, 1.0));
      add("head-face", "Head's face, level parts", w_.channel_cutter, std::move(level), "neck.channel_cutter",
          {"neck.channel_cutter", "neck.sand_face"});
    }
    Finish step = std::move(base);
    step.plan.scallop = w_.scallop;
    step.plan.sample = 0.5;
    const double from = d_.front_top > 0 ? std::max(head.shelf - 1.5, fine->radius()) : head.shelf - 1.5;
    step.runs.push_back(face_stations(from, flat_head ? slanted_end + fine->radius() + 1.5 : 1e9, 1.0));
    add("head-step", flat_head ? "Step to the head, finishing" : "Head's face, finishing", w_.face_cutter,
        std::move(step), "neck.face_cutter", {"neck.face_cutter", "neck.scallop", "neck.sand_face"});
  }

  /// The wall at the nut's line of a one-piece neck, where level rows would leave cusps.
  [[nodiscard]] std::pair<Vec3, Vec3> nut_wall(double r) const {
    const FretLine& nut = n_.board->nut_line;
    const Vec2 u = nut.along() * (r + 1);
    const Vec2 a = nut.bass_edge + n_.head_way * r - u;
    const Vec2 b = nut.treble_edge + n_.head_way * r + u;
    return {{a.x, a.y, 0}, {b.x, b.y, 0}};
  }

  /// Stations across the head between two distances behind the nut line, a little wider than the outline.
  [[nodiscard]] std::vector<Station> face_stations(double from, double to, double apart) const {
    std::vector<Station> out;
    const Box2 box = bounds(d_.cut_outline);
    const double slant = n_.head_way.y / n_.head_way.x;
    constexpr double margin = 1.2;
    const double right = n_.nut_middle.x - from + std::abs(slant) * 80;
    for (double x = box.low.x - margin; x <= right; x += apart) {
      const auto edges = crossings(d_.cut_outline, {std::max(x, box.low.x + 0.05), 0}, {0, 1});
      if (edges.size() < 2) continue;
      Station s{x, edges.front() - margin, edges.back() + margin};
      // For a slanted nut only part of a station lies between the two distances.
      const auto clip = [&](double limit, bool keep_above) {
        const double at_low = n_.behind_nut({x, s.low});
        const double at_high = n_.behind_nut({x, s.high});
        const auto ok = [&](double v) { return keep_above ? v >= limit : v <= limit; };
        if (ok(at_low) && ok(at_high)) return true;
        if (!ok(at_low) && !ok(at_high)) return false;
        (ok(at_low) ? s.high : s.low) = s.low + (s.high - s.low) * (limit - at_low) / (at_high - at_low);
        return s.high - s.low > 0.2;
      };
      if (clip(from, true) && clip(to, false)) out.push_back(s);
    }
    return out;
  }

  // ---- back

  void back() {
    const Cutter* rough = cutter(w_.rough_cutter);
    const Cutter* fine = cutter(w_.finish_cutter);
    const Cutter* edge = cutter(w_.edge_cutter);
    if (rough == nullptr || fine == nullptr || edge == nullptr || cutter(w_.outline_cutter) == nullptr) return;
    if (n_.given.build == NeckBuild::one_piece)
      for (const char* first : {"rod", "rod-pocket", "bar"}) channels(first, true, c_->bottom_of_back);
    // Holes while the blank is flat, where the cutter reaches; else when the waste over them is gone.
    holes(true);
    const MakeGrid target = [c = c_, leave = w_.rough_leave](double cell) { return c->back_target(cell, leave); };
    const Height wood = [c = c_](Vec2 q) { return c->back_wood(q); };
    double top = c_->bottom_of_back;
    if (d_.back.top_profile) {
      top = -1e300;
      for (const Vec2 q : c_->outline_back) top = std::max(top, c_->back_wood(q));
    }
    Rough shape{target, wood_like(target, wood), coarse_cell, top, {}};
    for (const double off : {d_.trough - rough->radius() - 0.01, rough->radius() + w_.rough_leave + 0.3})
      for (const Polygon& loop : offset({d_.cut_outline}, off)) shape.loops.push_back(turned(c_->turn, loop));
    add("rough", "Roughing by levels", w_.rough_cutter, std::move(shape), "neck.rough_cutter",
        {"neck.rough_cutter", "neck.rough_leave"})
        .caution = {{"Long cuts make heat and dust: extraction on, and never leave the machine alone."}};
    holes(false);
    finish(*fine);
    outline();
    edges(*fine, *edge);
  }

  /// After roughing only the trough's floor and what is left for finishing touch the cutter, and the collet nut stands
  /// over the frame only where it reaches there.
  void carved(Operation& op) const {
    const Cutter* c = cutter(op.cutter);
    if (c == nullptr) return;
    const double leave = w_.rough_leave;
    op.touches = [s = c_, r = c->radius(), leave](Vec2 q) {
      return std::max(s->trough_floor(q), std::min(s->back_wood(q), s->contact(q, r) + leave));
    };
    op.under_nut = [s = c_, nut = c->nut_diameter / 2](Vec2 q) {
      const double apart = distance_to(s->d.cut_outline, turned(s->turn, q));
      return apart + nut > s->d.trough ? s->back_wood(q) : -1e300;
    };
  }

  /// What can be done about holes that a drill does not reach the bottom of.
  void ways_of_deep_holes(Operation& op, const Cutter& drill, double deepest,
                          const std::vector<std::string>& keys) const {
    const double short_by = deepest - drill.cutting_length;
    if (short_by <= 0) return;
    op.ways_out.push_back({"Start them by machine and drill on by hand", {{"neck.deep_holes", "finish by hand"}}});
    if (op.id == "heel-holes" && std::all_of(n_.holes.begin(), n_.holes.end(), [this](const Hole& h) {
          return !h.id.starts_with("heel") || may_open_at_face(d_, h);
        }))
      op.ways_out.push_back({"Drill them from both sides: open at the glue face, under the board",
                             {{"neck.deep_holes", "from both sides"}}});
    double deep = 0;
    for (const Hole& h : n_.holes)
      if (h.id.starts_with(op.id == "pilots" ? "pilot" : "heel")) deep = std::max(deep, h.depth);
    const double reach = std::min(drill.cutting_length, drill.stickout - 1.5) - w_.rough_leave - 1;
    if (const double less = std::floor(std::min(deep, reach) * 2) / 2; less >= 3)
      op.ways_out.push_back(
          {worded("Make them {} deep: as far as the drill reaches", mm(less, 1)), {{keys.back(), format_mm(less, 1)}}});
    const double flutes = std::ceil(deepest + 1);
    op.ways_out.push_back({worded("Take a longer drill: {} of flutes", mm(flutes, 0)),
                           {{"rack." + drill.id + ".cutting_length", format_mm(flutes, 0)},
                            {"rack." + drill.id + ".stickout", format_mm(std::max(drill.stickout, flutes + 4), 0)}}});
  }

  void holes(bool before_roughing) {
    struct Kind {
      const char* prefix;
      const char* id;
      const char* title;
      const std::string& cutter;
      const char* key;
      std::vector<std::string> keys;
    };
    const Height under = [c = c_](Vec2 q) { return c->under(q); };
    const auto back_at = [this](Vec2 at) { return d_.back_height(at); };
    for (const Kind& k : {Kind{"heel",
                               "heel-holes",
                               "Heel holes, pecked",
                               w_.heel_drill,
                               "neck.heel_drill",
                               {"neck.deep_holes", "neck.heel_drill", "neck.heel_hole_depth"}},
                          Kind{"pilot",
                               "pilots",
                               "Screw pilots, pecked",
                               w_.pilot_drill,
                               "neck.pilot_drill",
                               {"neck.deep_holes", "neck.pilot_drill", "tuner.pilot", "tuner.pilot_depth"}},
                          Kind{"tuner",
                               "tuner-holes",
                               "Tuner holes, bored",
                               w_.hole_cutter,
                               "neck.hole_cutter",
                               {"neck.hole_cutter", "tuner.hole"}}}) {
      const Cutter* c = cutter(k.cutter);
      if (c == nullptr) continue;
      double deepest = 0;  // from the blank's top
      Holes shape;
      for (const Hole& h : n_.holes) {
        if (!h.id.starts_with(k.prefix)) continue;
        const Vec2 q = turned(c_->turn, h.at);
        const double over = c_->back_wood(q) - d_.back_height(q);
        deepest = std::max(
            deepest,
            over + (h.depth > 0 ? h.from_back() + (c->kind == CutterKind::drill ? c->profile(1.0) * c->radius() : 0)
                                : d_.back_height(q) - under(q) + 0.4 + c->rounding()));
        // On a tilted head the hole's rim is higher on one side and its far end lower on the other.
        const double top = before_roughing
                               ? highest_round(q, h.diameter / 2, [this](Vec2 at) { return c_->back_wood(at); })
                               : highest_round(q, h.diameter / 2 + 0.5, back_at) + w_.rough_leave;
        const double bottom = h.depth > 0
                                  ? d_.back_height(q) - h.from_back()
                                  : -highest_round(q, h.diameter / 2, [&](Vec2 at) { return -under(at); }) - 0.3;
        if (h.depth > 0) shape.peck = std::max(1.0, 1.5 * c->effective_diameter());
        shape.holes.push_back({k.title, q, h.diameter, top, bottom});
      }
      const bool reaches_at_once = deepest <= c->cutting_length && deepest < c->stickout - 1;
      if (shape.holes.empty() || reaches_at_once != before_roughing) continue;
      Operation& op = add(k.id, k.title, k.cutter, std::move(shape), k.key, k.keys);
      if (!before_roughing) carved(op);  // that wood is gone by then
      if (c->kind == CutterKind::drill) ways_of_deep_holes(op, *c, deepest, k.keys);
      if (std::string(k.id) == "tuner-holes")
        op.check = {{"A tuner's bushing goes into each hole ({}).", {n_.given.tuner.hole}}};
    }
  }

  /// From an edge inwards, the first y where a ball that touches there keeps its tip above the floor.
  [[nodiscard]] double rows_limit(double x, double edge, double inner, const Cutter& ball, double floor) const {
    const double in = inner > edge ? 1 : -1;
    const double wide = std::abs(inner - edge);
    for (double off = 0; off < wide; off += 0.05) {
      const Vec2 a{x, edge + in * (off + 0.001)};
      const Vec2 b{x, edge + in * (off + 0.021)};
      const double slope = (d_.back_height(b) - d_.back_height(a)) / 0.02;
      const double up = 1 / std::sqrt(1 + slope * slope);
      if (d_.back_height(a) - ball.radius() * (1 - up) >= c_->wood_under(a) + floor) return edge + in * off;
    }
    return inner;
  }

  void finish(const Cutter& ball) {
    const Box2 box = bounds(c_->outline_back);
    // Where rows end, and from what height on the steep sides are gone along instead.
    struct Ends {
      double x = 0, low = 0, high = 0;  // outline
      Station rows;
      double low_z = 0, high_z = 0;
    };
    const auto ends_at = [&](double x) -> std::optional<Ends> {
      const double at = std::clamp(x, box.low.x + 0.02, box.high.x - 0.02);
      const auto cross = crossings(c_->outline_back, {at, 0}, {0, 1});
      if (cross.size() < 2) return std::nullopt;
      const double low = cross.front();
      const double high = cross.back();
      const double middle = (low + high) / 2;
      // Rows end over the trough's floor, which is higher round the tabs.
      const auto floor = [&](double y) { return c_->left_in_trough({at, y}, ball.radius()) + 0.02; };
      Ends e{x,    low,
             high, {x, rows_limit(at, low, middle, ball, floor(low)), rows_limit(at, high, middle, ball, floor(high))},
             0,    0};
      if (e.rows.low != low) e.low_z = d_.back_height({at, e.rows.low});
      if (e.rows.high != high) e.high_z = d_.back_height({at, e.rows.high});
      return e;
    };
    // By the millimetre, and closer where that changes fast, as where the heel begins.
    constexpr double apart = 1.0;
    constexpr double fast = 0.5;
    constexpr double closest = 0.13;
    std::vector<Ends> all;
    const std::function<void(const Ends&, const Ends&)> between = [&](const Ends& a, const Ends& b) {
      const double most =
          std::max({std::abs((a.rows.low - a.low) - (b.rows.low - b.low)),
                    std::abs((a.rows.high - a.high) - (b.rows.high - b.high)), std::abs(a.low - b.low),
                    std::abs(a.high - b.high), std::abs(a.low_z - b.low_z), std::abs(a.high_z - b.high_z)});
      if (most < fast || b.x - a.x < 2 * closest) return;
      const auto m = ends_at((a.x + b.x) / 2);
      if (!m) return;
      between(a, *m);
      all.push_back(*m);
      between(*m, b);
    };
    for (double x = box.low.x - 0.6; x <= box.high.x + 0.6 + 1e-9; x += apart)
      if (const auto e = ends_at(x)) {
        if (!all.empty()) {
          const Ends before = all.back();
          between(before, *e);
        }
        all.push_back(*e);
      }
    std::vector<Station> stations;
    for (const Ends& e : all) {
      if (e.x == std::clamp(e.x, box.low.x + 0.02, box.high.x - 0.02)) {
        // The sides left over: from where the rows end down to the foot.
        const double middle = (e.low + e.high) / 2;
        side_low_.push_back({e.x, e.low, middle, 0, e.low_z});
        side_high_.push_back({e.x, e.high, middle, 0, e.high_z});
      }
      if (e.rows.high - e.rows.low > 0.01) stations.push_back(e.rows);
    }
    Finish shape;
    shape.surface = [c = c_](Vec2 q) { return c->d.back_height(q); };
    shape.grid = [c = c_](double cell) { return c->back_target(cell, 0); };
    shape.cell = fine_cell;
    shape.runs.push_back(std::move(stations));
    shape.plan.scallop = w_.scallop;
    shape.plan.wood_top = c_->bottom_of_back;
    shape.leave = w_.rough_leave;
    rows_ = row_distance(ball, w_.scallop, shape.plan.bend);
    Operation& op = add("finish", "Finishing along the neck", w_.finish_cutter, std::move(shape), "neck.finish_cutter",
                        {"neck.finish_cutter", "neck.scallop", "neck.sand_back", "neck.rows"});
    op.check = {worded("Run a straightedge down the back: no light moves under it. Thickness with board {} at fret {}.",
                       mm(n_.whole_thickness(n_.fret_x(n_.given.back.fret_a)), 3), n_.given.back.fret_a)};
    carved(op);
  }

  void outline() {
    OutlinePlan plan;
    plan.wood_top = w_.web;
    plan.through = w_.through;
    plan.climb = true;
    plan.aside = w_.rough_leave + 0.4;
    plan.skim = w_.skim;
    plan.tab_length = w_.tab_length;
    plan.tab_height = c_->tab_height;
    plan.tab_wood = w_.tab_height;
    plan.underside = [c = c_](Vec2 q) { return c->wood_under(q); };
    const Contour contour = turned(c_->turn, d_.cut_contour);
    for (const Vec2 t : tabs_) plan.tabs.push_back(nearest_along(contour, turned(c_->turn, t)));
    Operation& op = add("outline", "Outline, with tabs", w_.outline_cutter, Outline{contour, std::move(plan)},
                        "neck.outline_cutter",
                        {"neck.outline_cutter", "neck.skim", "neck.side_tabs", "neck.end_tabs", "neck.tab_length",
                         "neck.tab_height", "neck.through", "neck.sand_sides"});
    op.caution = {{"Check clamps, pins and tabs before this one: a free neck meets a turning cutter and flies."}};
    op.check = {{worded("{} tabs hold the neck.", tabs_.size())}};
    carved(op);
  }

  void edges(const Cutter& ball, const Cutter& flat_one) {
    const Height surface = [c = c_](Vec2 q) { return c->d.back_height(q); };
    // Height over the underside that a tip must keep because of tabs.
    const auto lowest = [&](double reach) -> Height {
      std::vector<Vec2> tabs;
      for (const Vec2 t : tabs_) tabs.push_back(turned(c_->turn, t));
      return [c = c_, tabs, reach](Vec2 q) {
        const bool near = std::any_of(tabs.begin(), tabs.end(),
                                      [&](Vec2 t) { return distance(q, t) < c->w.tab_length / 2 + reach + 0.5; });
        return c->wood_under(q) + (near ? c->tab_height : -c->w.through);
      };
    };
    std::vector<std::vector<SideStation>> round;
    std::vector<std::vector<SideStation>> foot;
    for (std::vector<SideStation>* one : {&side_low_, &side_high_}) {
      std::vector<SideStation> lower = *one;
      for (std::size_t i = 0; i < one->size(); ++i) {
        SideStation& s = (*one)[i];
        if (!(s.high > 0)) continue;
        // Down to where the ball's tip comes to the bottom of the cut.
        const double bottom = c_->wood_under({s.x, s.edge}) - w_.through + 0.03;
        double z0 = 0;
        double z1 = s.high;
        for (int k = 0; k < 40; ++k) {
          const double z = (z0 + z1) / 2;
          const double y = side_at(surface, s.x, s.edge, s.inner, z);
          const double in = s.inner > s.edge ? 1 : -1;
          const double slope = (surface({s.x, y + in * 0.021}) - surface({s.x, y + in * 0.001})) / 0.02;
          const double up = 1 / std::sqrt(1 + slope * slope);
          (z - ball.radius() * (1 - up) >= bottom ? z1 : z0) = z;
        }
        s.low = std::min(z1, s.high);
        lower[i].low = std::max(0.0, c_->under({s.x, s.edge}));
        lower[i].high = s.low;
      }
      round.push_back(*one);
      foot.push_back(std::move(lower));
    }
    const double top = c_->bottom_of_back;
    carved(add("edges", "Steep sides, by the ball's flank", w_.finish_cutter,
               Sides{surface, std::move(round), w_.scallop, lowest(ball.radius()), top, w_.rough_leave, false},
               "neck.finish_cutter", {"neck.finish_cutter", "neck.scallop"}));
    carved(add("foot", "Steep sides, by levels", w_.edge_cutter,
               Sides{surface, std::move(foot), w_.scallop, lowest(flat_one.radius()), top, w_.rough_leave, true},
               "neck.edge_cutter", {"neck.edge_cutter", "neck.scallop"}));
  }

  const Project& p_;
  const NeckWork& w_;
  const NeckDesign& d_;
  const NeckShape& n_;
  Shared c_;
  std::vector<Vec2> tabs_;  // instrument frame, on the outline
  std::vector<Operation> ops_;
  std::vector<SideStation> side_low_, side_high_;
  double rows_ = 0;
  bool after_pins_ = false;  // the next cut waits for the hand that sets them
};

/// Troughs that stand between walls; a nut's slot is open at both ends.
void channel_walls(const NeckDesign& d, Turn turn, std::vector<WallDesign>& out) {
  for (const Channel& c : d.shape.channels) {
    if (c.from_back != (turn != Turn::none)) continue;
    add_walls(out, c.title, {buffer_of({turned(turn, c.a), turned(turn, c.b)}, c.width / 2)},
              // Where a round floor ends in its walls.
              [floor = c.floor, turn, rise = c.round ? c.width / 2 : 0, axis = Segment2{c.a, c.b}](Vec2 q) {
                const Vec2 p = turned(turn, q);
                const double off = std::min(rise, distance_to(p, axis));
                const double now = rise > 0 ? rise - std::sqrt(rise * rise - off * off) : 0;
                return turned_z(turn, floor(p)) - now + rise;
              });
  }
}

/// The playing surface ends upright at the nut line, from edge to edge; the cut lies towards the head.
WallDesign nut_end(const NeckShape& n, const Height& finished) {
  constexpr double beyond = 1000;  // mm: past the edges and the head
  const Vec2 along = left_of(n.head_way) * beyond;
  const Vec2 behind = n.head_way * beyond;
  WallDesign out{"Nut end", {}, finished, 0};
  out.loop = {n.nut_middle - along, n.nut_middle - along + behind, n.nut_middle + along + behind, n.nut_middle + along};
  if (signed_area(out.loop) < 0) std::reverse(out.loop.begin(), out.loop.end());
  return out;
}

/// What the proof holds the neck against, from the design alone. `face`: the playing surface, where it is the neck's
/// own.
void neck_target(const NeckWork& w, const NeckDesign& d, const std::shared_ptr<const Fretboard>& face,
                 PieceRequest& request) {
  request.tolerances.below = w.through;
  request.tolerances.left_over = std::max(0.04, w.scallop * 1.6 + 0.015);
  request.tolerances.skin_height = 0.4;
  request.tolerances.tab_longest = w.tab_length + 20;
  const auto shape = std::make_shared<const NeckDesign>(d);
  struct Drilled {
    double point = 0;  // how steep a drill's point is: depth per radius
    double width = 1e9;
  };
  const auto drilled = [&](const std::string& id) {  // a hole drilled with a thinner drill is as wide as the drill
    const Cutter* c = find_cutter(d.rack, id);
    return c != nullptr && c->kind == CutterKind::drill ? Drilled{c->profile(1.0), c->effective_diameter()} : Drilled{};
  };
  for (PieceSide& s : request.sides) {
    const Turn turn = s.setup.turn;
    s.design.outline = turned(turn, d.cut_outline);
    if (turn == Turn::none) {
      s.design.finished = [shape, face, heel = drilled(w.heel_drill)](Vec2 q) {
        double z = shape->cut_front(q);
        for (const Hole& h : shape->shape.holes) {
          const double wide = std::min(h.diameter, heel.width);
          if (const double rho = distance(q, h.at); h.from_face > 0 && rho <= wide / 2)
            z = std::min(z, -h.from_face - heel.point * (wide / 2 - rho));
        }
        for (const Channel& c : shape->shape.channels)
          if (!c.from_back && c.holds(q)) z = std::min(z, c.floor(q));
        if (face && shape->shape.behind_nut(q) <= 0) z = std::min(z, face->finished_height(q));
        return z;
      };
      if (face) {
        s.design.crowned = [shape, face](Vec2 q) {
          return shape->shape.behind_nut(q) <= 0 ? face->crown_height(q) : 1e6;
        };
        face_target(face, s.design);
        s.design.walls.push_back(nut_end(shape->shape, s.design.finished));
      }
      channel_walls(d, turn, s.design.walls);
      for (const Hole& h : d.shape.holes)
        if (h.from_face > 0)
          s.design.walls.push_back(
              round_wall("Hole " + h.id, h.at, std::min(h.diameter, drilled(w.heel_drill).width), -h.from_face));
      continue;
    }
    s.design.cut_free = true;
    s.design.finished = [shape, turn, heel = drilled(w.heel_drill), pilot = drilled(w.pilot_drill)](Vec2 q) {
      const Vec2 at = turned(turn, q);
      double z = shape->cut_depth(at);
      for (const Channel& c : shape->shape.channels)
        if (c.from_back && c.holds(at)) z = std::min(z, -c.floor(at));
      for (const Hole& h : shape->shape.holes)
        if (const double rho = distance(at, h.at); rho <= h.diameter / 2) {
          // A drill's point goes on under the full diameter, and a thin drill leaves a thin hole.
          const Drilled by = h.id.starts_with("heel") ? heel : h.id.starts_with("pilot") ? pilot : Drilled{};
          const double wide = std::min(h.diameter, by.width);
          if (rho > wide / 2) continue;
          z = h.depth == 0 ? -1e6 : std::min(z, shape->cut_depth(h.at) - h.from_back() - by.point * (wide / 2 - rho));
        }
      return z;
    };
    channel_walls(d, turn, s.design.walls);
    for (const Hole& h : d.shape.holes) {
      const Drilled by = drilled(h.id.starts_with("heel")    ? w.heel_drill
                                 : h.id.starts_with("pilot") ? w.pilot_drill
                                                             : "");
      s.design.walls.push_back(round_wall("Hole " + h.id, turned(turn, h.at), std::min(h.diameter, by.width),
                                          h.depth == 0 ? -1e6 : d.cut_depth(h.at) - h.from_back()));
    }
  }
  for (const Channel& c : d.shape.channels) {
    if (c.id == "nut") continue;
    const Vec2 u = unit(c.b - c.a);
    const double l = distance(c.a, c.b);
    for (double t = 0; t <= l; t += 1)
      for (const double o : {-0.4, 0.0, 0.4}) request.rod.push_back(c.a + u * t + left_of(u) * (o * c.width));
  }
  for (const Hole& h : d.shape.holes)
    if (h.through())
      request.holes.push_back(
          {h.id, h.at, std::min(h.diameter, h.from_face > 0 ? drilled(w.heel_drill).width : h.diameter)});
  request.rod_from_back = d.shape.given.build == NeckBuild::one_piece;
  request.misfit = length(d.misfit.shift) + d.misfit.angle * d.blank.length / 2;
}

}  // namespace

namespace {

/// Tabs that stand over the neck's edge wherever they are put.
void judge_tabs(const NeckWork& w, const NeckDesign& d, std::vector<Remark>& out) {
  constexpr double grant = 0.05;  // mm
  std::optional<Vec2> tightest;
  double least = w.tab_height - grant;
  for (const Vec2 at : tab_places(w, d))
    if (at.x > d.shape.nut_middle.x && at.x < d.shape.heel_x)
      if (const double room = room_for_tab(w, d, at.x); room < least) {
        least = room;
        tightest = at;
      }
  if (!tightest) return;
  Remark r{"neck.tab_proud",
           Weight::stop,
           worded("The neck is so shallow at its edge near fret {} that the ball comes down beside tabs of {} at most, "
                  "and these are {} high.",
                  d.shape.nearest_fret(tightest->x), mm(std::max(0.0, least)), mm(w.tab_height)),
           w.tab_height,
           least,
           "mm",
           "the neck's section at its tabs",
           "neck.tab_height",
           std::pair{tightest->x, tightest->y},
           {},
           {}};
  constexpr double lowest_tab = 0.5;
  if (const double lower = std::floor(least * 10) / 10; lower >= lowest_tab)
    r.repair = Repair{worded("Make the tabs {} high", mm(lower)), {{"neck.tab_height", format_mm(lower, 1)}}};
  out.push_back(std::move(r));
}

}  // namespace

Pieces neck_pieces(const Project& p, const NeckDesign& d) {
  NeckSides made(p, d);
  Piece piece{"neck", "The neck, both sides", made.sides(), 0.1, false, {}};
  const auto face = d.front_top > 0 ? board_as_cut(p, *d.shape.board, d.rack) : nullptr;
  piece.target = [w = neck_of(p).work, d, face](PieceRequest& r) { neck_target(w, d, face, r); };
  Numbers n;
  n.length("neck.rows", "Rows stand apart", made.rows(),
           worded("the widest that leaves {}", exact_mm(neck_of(p).work.scallop)));
  Pieces out;
  judge_tabs(neck_of(p).work, d, out.remarks);
  out.pieces.push_back(std::move(piece));
  out.numbers = n.take();
  return out;
}

}  // namespace wren

#include "core/job/neck_cuts.hpp"

#include <algorithm>
#include <memory>
#include <thread>

#include <fmt/format.h>

#include "core/cutting/channel.hpp"
#include "core/cutting/outline.hpp"
#include "core/cutting/pocket.hpp"
#include "core/cutting/slot.hpp"
#include "core/cutting/surface.hpp"
#include "core/job/board_programs.hpp"
#include "core/plan/region.hpp"

namespace wren {
namespace {

constexpr double coarse_cell = 0.4;  // mm, roughing grids
constexpr double fine_cell = 0.1;    // mm, finishing grids
constexpr double blank_margin = 0.01;

std::string mm(double v) { return format_mm(v, 2) + " mm"; }

bool starts(const std::string& text, const char* with) { return text.rfind(with, 0) == 0; }

class NeckPlanner {
 public:
  NeckPlanner(const Project& p, const NeckDesign& d, Progress* progress)
      : p_(p),
        w_(p.neck_work),
        d_(d),
        n_(d.shape),
        progress_(progress),
        turn_(d.back.turn),
        bottom_of_back_(d.blank.thickness - d.front_top) {}

  NeckCuts run() {
    place_tabs_round();
    if (w_.alignment.school == School::pins) waste_board();
    front();
    if (go_on(0.35, "planning the neck's back")) back();
    if (w_.holding == Holding::cradle && go_on(0.95, "planning the cradle")) cradle();
    for (Placement& s : out_.sides) {
      link(s);
      out_.seconds += s.seconds;
    }
    return std::move(out_);
  }

 private:
  bool go_on(double share, const char* phase) { return progress_ == nullptr || progress_->go_on(share, phase); }
  const Cutter* cutter(const std::string& id) const { return find_cutter(d_.rack, id); }

  Placement& begin_side(std::string id, std::string title, const Setup& setup) {
    out_.sides.push_back({std::move(id), std::move(title), setup, {}, {}, {}, {}, 0});
    return out_.sides.back();
  }

  static Cut begin(std::string id, std::string title, const Cutter& c, const Feeds& f) {
    return begin_cut(std::move(id), std::move(title), c, f);
  }
  static void keep(Placement& side, Cut cut) { keep_cut(side, std::move(cut)); }

  Feeds feeds(const Cutter& c, double depth, double width, double bending) const {
    return work_out_feeds(c, d_.wood, p_.machine, {depth, width, bending});
  }
  Feeds slotting(const Cutter& c, double bending = 0.04) const {
    return feeds(c, depth_per_pass(c), c.effective_diameter(), bending);
  }

  void refuse(const char* kind, const std::string& title, const Problem& why, const char* key) {
    out_.remarks.push_back({kind,
                            Weight::stop,
                            fmt::format("'{}' cannot be planned: {}.", title, why.what),
                            0,
                            0,
                            "",
                            "geometry",
                            key,
                            {},
                            {},
                            {}});
  }

  // ---- tabs

  void place_tabs_round() {
    const double x0 = n_.nut_middle.x + 30;
    const double x1 = n_.heel_x;
    for (int k = 0; k < w_.side_tabs; ++k) {
      const double x = x0 + (x1 - x0) * (k + 0.5) / w_.side_tabs;
      const auto edges = crossings(d_.cut_outline, {x, 0}, {0, 1});
      if (edges.size() < 2) continue;
      out_.tabs.push_back({x, edges.front()});
      out_.tabs.push_back({x, edges.back()});
    }
    if (!w_.end_tabs) return;
    for (const bool head : {true, false}) {
      const auto edges =
          crossings(d_.cut_outline, {0, n_.taper(head ? 0 : n_.end_x).middle + (head ? n_.middle_head : 0)}, {1, 0});
      if (edges.size() >= 2)
        out_.tabs.push_back(
            {head ? edges.front() : edges.back(), n_.taper(head ? 0 : n_.end_x).middle + (head ? n_.middle_head : 0)});
    }
  }

  /// Height over the underside that a tip must keep at a place because of tabs; `reach` is the cutter's radius.
  [[nodiscard]] double over_tabs(Vec2 side, double reach) const {
    for (const Vec2 t : tabs_side_)
      if (distance(side, t) < w_.tab_length / 2 + reach + 0.5) return w_.tab_height;
    return -w_.through;
  }

  /// Highest value of a height on a circle about a place and in its middle.
  template <class At>
  [[nodiscard]] static double highest_round(Vec2 middle, double radius, const At& at) {
    double best = at(middle);
    for (int k = 0; k < 12; ++k)
      best = std::max(best,
                      at(middle + Vec2{std::cos(k * 0.5235987755982988), std::sin(k * 0.5235987755982988)} * radius));
    return best;
  }

  // ---- front

  void waste_board() {
    const Cutter* c = cutter(w_.pin_cutter);
    if (c == nullptr) return;
    Setup bare = d_.front;
    bare.wood_top = {};
    // z = 0 on the waste board itself: nothing lies on it yet.
    bare.blank.thickness = 0;
    bare.to_work.shift.z = 0;
    bare.zero_in_machine.z = 0;
    Placement& side = begin_side("waste-board", "Waste board: pin holes", bare);
    const Feeds f = slotting(*c);
    Cut cut = begin("pin-holes", "Pin holes in the waste board", *c, f);
    for (const BedHole& h : d_.front.bed_holes) {
      BorePlan plan{bare.to_work.back(h.at), 2 * h.radius, 0, -h.depth, *c, f};
      auto s = bore(plan);
      if (!s) return refuse("neck.pins_unplanned", cut.title, s.error(), "neck.pin_cutter");
      cut.strands.push_back(std::move(*s));
    }
    keep(side, std::move(cut));
  }

  [[nodiscard]] double wood_top_front(Vec2 p) const { return d_.front.wood_top ? d_.front.wood_top(p) : d_.front_top; }

  void front() {
    Placement& side = begin_side("front", "Front", d_.front);
    if (w_.alignment.school == School::pins) pins(side);
    if (p_.neck.build == NeckBuild::one_piece) playing_surface(side);
    // Work that needs the flat face comes before the head's face goes.
    for (const char* first : {"rod", "rod-pocket", "bar", "nut"})
      channels(side, first, false, p_.neck.build == NeckBuild::one_piece ? 0.0 : d_.front_top);
    head_face(side);
  }

  void pins(Placement& side) {
    const Cutter* c = cutter(w_.pin_cutter);
    if (c == nullptr) return;
    const Feeds f = slotting(*c);
    Cut cut = begin("pins", "Pin holes through the waste", *c, f);
    for (const Vec2 at : {d_.pins.first, d_.pins.second}) {
      const double top = highest_round(at, w_.alignment.pin_diameter / 2, [this](Vec2 q) { return wood_top_front(q); });
      auto s = bore({at, w_.alignment.pin_diameter, top,
                     d_.front_top - d_.blank.thickness - std::min(1.0, w_.alignment.pin_depth), *c, f});
      if (!s) return refuse("neck.pins_unplanned", cut.title, s.error(), "neck.pin_cutter");
      cut.strands.push_back(std::move(*s));
    }
    keep(side, std::move(cut));
  }

  void channels(Placement& side, const char* first, bool from_back, double top) {
    const bool fine = starts(first, "bar") || starts(first, "nut");
    const std::string id = fine ? w_.fine_cutter : w_.channel_cutter;
    const Cutter* c = cutter(id);
    if (c == nullptr) return;
    const Feeds f = slotting(*c);
    Cut cut = begin(first,
                    starts(first, "bar")          ? "Carbon bars' slots"
                    : starts(first, "nut")        ? "Nut slot"
                    : std::string(first) == "rod" ? "Rod slot"
                                                  : "Adjuster pocket",
                    *c, f);
    for (const Channel& ch : n_.channels) {
      const bool mine = std::string(first) == "rod" ? ch.id == "rod" : starts(ch.id, first);
      if (!mine || ch.from_back != from_back) continue;
      ChannelPlan plan{ch.a, ch.b, ch.width, ch.floor, top, *c, f, 0.45};
      if (from_back) {
        // In the side frame of the turned set-up.
        plan.a = turned(turn_, ch.a);
        plan.b = turned(turn_, ch.b);
        plan.floor = [floor = ch.floor, t = turn_](Vec2 q) { return -floor(turned(t, q)); };
      } else if (ch.id == "nut") {
        // Out through both edges, as far as the trough lets it.
        const Vec2 u = unit(ch.b - ch.a);
        plan.a = ch.a - u * (c->radius() * 0.5);
        plan.b = ch.b + u * (c->radius() * 0.5);
      }
      auto s = cut_channel(plan);
      if (!s) {
        refuse("neck.channel_unplanned", ch.title, s.error(), fine ? "neck.fine_cutter" : "neck.channel_cutter");
        continue;
      }
      cut.strands.push_back(std::move(*s));
    }
    keep(side, std::move(cut));
  }

  /// One piece: the crowned playing surface and its slots are cut in the neck's own wood.
  void playing_surface(Placement& side) {
    const Fretboard& board = *n_.board;
    const Polygon area = flatten(board.outline, 0.05);
    if (const Cutter* c = cutter(p_.work.slot_cutter)) {
      SlotPlan plan;
      plan.cutter = *c;
      plan.feeds = feeds(*c, depth_per_pass(*c), c->effective_diameter(), 0.01);
      plan.entry = p_.work.slot_entry;
      plan.wood_top = [z = d_.front_top](Vec2) { return z; };
      Cut cut = begin("slots", "Fret slots", *c, plan.feeds);
      cut.strands = cut_slots(board, plan);
      keep(side, std::move(cut));
    }
    if (const Cutter* c = cutter(p_.work.mark_cutter); c != nullptr && !board.marks.empty()) {
      PocketPlan plan{*c, slotting(*c, 0.03), [z = d_.front_top](Vec2) { return z; }, 0.4};
      Cut cut = begin("marks", "Position marks", *c, plan.feeds);
      for (const Mark& mark : board.marks)
        if (auto strands = cut_pocket(mark, plan))
          for (auto& s : *strands) cut.strands.push_back(std::move(s));
      keep(side, std::move(cut));
    }
    if (const Cutter* c = cutter(p_.work.crown_cutter);
        c != nullptr && can_finish_crown(*c) && board.given.crown.kind != CrownKind::flat) {
      CrownPlan plan;
      plan.cutter = *c;
      plan.direction = p_.work.crown_direction;
      plan.area = area;
      plan.wood_top = d_.front_top;
      plan.stepover =
          p_.work.crown_stepover > 0 ? p_.work.crown_stepover : stepover_for(board, plan, p_.work.crown_scallop);
      plan.feeds = feeds(*c, std::max(0.2, most_above_crown(board, area, d_.front_top)), plan.stepover, 0.02);
      Cut cut = begin("crown", "Crown", *c, plan.feeds);
      cut.strands = finish_crown(board, plan);
      keep(side, std::move(cut));
    }
  }

  /// Target heights of the front where the head's face, shelf and step are to be; the blank's own height elsewhere.
  [[nodiscard]] TileGrid face_target(double cell, double leave, double beyond) const {
    const Polygon* around = nullptr;
    const auto grown = offset({d_.cut_outline}, beyond);
    for (const Polygon& g : grown)
      if (around == nullptr || g.size() > around->size()) around = &g;
    const Box2 box = bounds(*around);
    const double right =
        std::max(n_.nut_middle.x, std::max(n_.board->nut_line.bass_edge.x, n_.board->nut_line.treble_edge.x)) + 14;
    const double from = d_.front_top > 0 ? 0 : n_.given.head.shelf;
    return grid_over({box.low - Vec2{9, 9}, {right, box.high.y + 9}}, cell, *around, [&](Vec2 p, bool inside) {
      const double top = wood_top_front(p);
      return inside && n_.behind_nut(p) > from ? std::min(top, d_.cut_front(p) + leave) : top;
    });
  }

  /// A grid over a box, its heights from a function of the place and whether it lies in the polygon.
  template <class At>
  [[nodiscard]] static TileGrid grid_over(std::pair<Vec2, Vec2> box, double cell, const Polygon& polygon,
                                          const At& at) {
    const Vec2 size = box.second - box.first;
    TileGrid grid(box.first, cell, std::max(1, static_cast<int>(std::ceil(size.x / cell))),
                  std::max(1, static_cast<int>(std::ceil(size.y / cell))), 0);
    const auto rows = [&](int first) {
      for (int j = first; j < grid.height(); j += 2) {
        // Inside and outside from the row's crossings, not point by point.
        const double y = grid.centre(0, j).y;
        const std::vector<double> edges = crossings(polygon, {0, y}, {1, 0});
        std::size_t passed = 0;
        for (int i = 0; i < grid.width(); ++i) {
          const Vec2 p = grid.centre(i, j);
          while (passed < edges.size() && edges[passed] <= p.x) ++passed;
          grid.at(i, j) = static_cast<float>(at(p, passed % 2 == 1));
        }
      }
    };
    std::thread other(rows, 1);
    rows(0);
    other.join();
    grid.refresh_all();
    return grid;
  }

  void head_face(Placement& side) {
    const Cutter* rough = cutter(w_.rough_cutter);
    const Cutter* fine = cutter(w_.face_cutter);
    const Cutter* flat_one = cutter(w_.channel_cutter);
    if (rough == nullptr || fine == nullptr || flat_one == nullptr) return;
    const Cutter* outline = cutter(w_.outline_cutter);
    const double beyond = d_.trough + (outline != nullptr ? 0.5 : 0);
    // Roughing, where there is more than a finishing cut to take.
    const TileGrid target = face_target(coarse_cell, w_.rough_leave, beyond);
    TileGrid stock = target;
    for (int j = 0; j < stock.height(); ++j)
      for (int i = 0; i < stock.width(); ++i) stock.at(i, j) = static_cast<float>(wood_top_front(stock.centre(i, j)));
    stock.refresh_all();
    RoughPlan plan{*rough,
                   feeds(*rough, depth_per_pass(*rough), rough->effective_diameter(), 0.06),
                   depth_per_pass(*rough),
                   0.45,
                   d_.front_top,
                   true,
                   {}};
    Cut cut = begin("head-rough", "Head's face, roughing", *rough, plan.feeds);
    cut.strands = rough_by_levels(target, stock, plan);
    keep(side, std::move(cut));

    const TileGrid grid = face_target(fine_cell, 0, beyond);
    const Height surface = [this](Vec2 p) {
      return n_.behind_nut(p) > 0 || d_.front_top == 0 ? d_.cut_front(p) : d_.front_top;
    };
    const HeadNumbers& head = n_.given.head;
    const double run =
        head.kind == HeadKind::flat
            ? std::sqrt(std::max(0.0, head.step_radius * head.step_radius -
                                          (head.step_radius - head.drop) * (head.step_radius - head.drop)))
            : 0;
    const double slanted_end = head.shelf + run;
    if (head.kind == HeadKind::flat || d_.front_top > 0) {
      // What lies level is faced with a flat cutter: shelf of a one-piece neck, face of a flat head.
      FinishPlan level{*flat_one,
                       feeds(*flat_one, w_.rough_leave, 0.6 * flat_one->effective_diameter(), 0.03),
                       0.01,
                       1.0,
                       d_.front_top,
                       0,
                       {}};
      Cut facing = begin("head-face", "Head's face, level parts", *flat_one, level.feeds);
      const double r = flat_one->radius();
      if (d_.front_top > 0)
        for (auto& s :
             finish_along(surface, grid, face_stations(0 + r + 0.01, std::max(r + 0.5, head.shelf + 1), 0.6), level))
          facing.strands.push_back(std::move(s));
      if (d_.front_top > 0) facing.strands.push_back(nut_wall(*flat_one, level));
      if (head.kind == HeadKind::flat)
        for (auto& s : finish_along(surface, grid, face_stations(slanted_end + r * 0.6, 1e9, 1.0), level))
          facing.strands.push_back(std::move(s));
      keep(side, std::move(facing));
    }
    FinishPlan ball{
        *fine, feeds(*fine, w_.rough_leave, row_distance(*fine, w_.scallop, 0), 0.03), w_.scallop, 0.5, d_.front_top, 0,
        {}};
    Cut step =
        begin("head-step", head.kind == HeadKind::tilted ? "Head's face, finishing" : "Step to the head, finishing",
              *fine, ball.feeds);
    const double from = d_.front_top > 0 ? std::max(head.shelf - 1.5, fine->radius()) : head.shelf - 1.5;
    step.strands = finish_along(
        surface, grid,
        face_stations(from, head.kind == HeadKind::tilted ? 1e9 : slanted_end + fine->radius() + 1.5, 1.0), ball);
    keep(side, std::move(step));
  }

  /// The wall at the nut's line of a one-piece neck, where level rows would leave cusps.
  [[nodiscard]] Strand nut_wall(const Cutter& c, const FinishPlan& plan) const {
    const FretLine& nut = n_.board->nut_line;
    const Vec2 u = nut.along();
    const double r = c.radius();
    const Vec2 shift = n_.head_way * (r + 0.0);
    const Vec2 a = nut.bass_edge + shift - u * (r + 1);
    const Vec2 b = nut.treble_edge + shift + u * (r + 1);
    Strand s;
    s.plunge_feed = plan.feeds.plunge;
    s.free_z = d_.front_top;
    s.start = {a.x, a.y, 0};
    s.steps.push_back({{b.x, b.y, 0}, {}, plan.feeds.feed, StepKind::line});
    return s;
  }

  /// Stations across the head between two distances behind the nut line, a little wider than the outline.
  [[nodiscard]] std::vector<Station> face_stations(double from, double to, double apart) const {
    std::vector<Station> out;
    const Box2 box = bounds(d_.cut_outline);
    const double slant = n_.head_way.y / n_.head_way.x;
    const double margin = 1.2;
    const double right = n_.nut_middle.x - from + std::abs(slant) * 80;
    for (double x = box.low.x - margin; x <= right; x += apart) {
      const double inner = std::max(x, box.low.x + 0.05);
      const auto edges = crossings(d_.cut_outline, {inner, 0}, {0, 1});
      if (edges.size() < 2) continue;
      Station s{x, edges.front() - margin, edges.back() + margin};
      // behind_nut = −(x − x0)·|hx| + …: for a slanted nut only part of a station lies between the two distances.
      const auto clip = [&](double limit, bool keep_above) {
        const double at_low = n_.behind_nut({x, s.low});
        const double at_high = n_.behind_nut({x, s.high});
        const auto ok = [&](double v) { return keep_above ? v >= limit : v <= limit; };
        if (ok(at_low) && ok(at_high)) return true;
        if (!ok(at_low) && !ok(at_high)) return false;
        const double y = s.low + (s.high - s.low) * (limit - at_low) / (at_high - at_low);
        (ok(at_low) ? s.high : s.low) = y;
        return s.high - s.low > 0.2;
      };
      if (!clip(from, true) || !clip(to, false)) continue;
      out.push_back(s);
    }
    return out;
  }

  // ---- back

  [[nodiscard]] double wood_top_back(Vec2 side) const {
    return d_.back.wood_top ? d_.back.wood_top(side) : bottom_of_back_;
  }
  [[nodiscard]] double under(Vec2 side) const { return d_.back_under(side); }
  /// Underside of the wood beside the neck: of a one-piece neck the blank's own face, since only the board itself is
  /// crowned.
  [[nodiscard]] double wood_under(Vec2 side) const {
    constexpr double past_nut = 3;  // the step at the nut is gone down to a little behind it
    return d_.front_top > 0 && n_.behind_nut(turned(turn_, side)) <= past_nut ? -d_.front_top : under(side);
  }

  /// Heights of the turned piece: the back inside, the trough's floor round it, the blank beyond.
  template <class Floor>
  [[nodiscard]] TileGrid back_target(double cell, double leave, const Floor& floor) const {
    const Polygon outline = turned(turn_, d_.cut_outline);
    const auto grown = offset({d_.cut_outline}, d_.trough);
    const Polygon* widest = &grown.front();
    for (const Polygon& g : grown)
      if (std::abs(signed_area(g)) > std::abs(signed_area(*widest))) widest = &g;
    const Polygon around = turned(turn_, *widest);
    const Box2 box = bounds(around);
    const double margin = 8;
    TileGrid grid = grid_over({box.low - Vec2{margin, margin}, box.high + Vec2{margin, margin}}, cell, around,
                              [&](Vec2 p, bool inside) {
                                const double top = wood_top_back(p);
                                return inside ? std::min(top, floor(p)) : top;
                              });
    // The neck itself over it; what is left for finishing stands on its sides too, more than a cell wide.
    const Polygon with_leave = leave > 0 ? turned(turn_, offset({d_.cut_outline}, leave).front()) : outline;
    const auto rows = [&](int first) {
      for (int j = first; j < grid.height(); j += 2) {
        const double y = grid.centre(0, j).y;
        const std::vector<double> edges = crossings(with_leave, {0, y}, {1, 0});
        if (edges.empty()) continue;
        std::size_t passed = 0;
        for (int i = 0; i < grid.width(); ++i) {
          const Vec2 p = grid.centre(i, j);
          while (passed < edges.size() && edges[passed] <= p.x) ++passed;
          if (passed % 2 == 0) continue;
          double high = d_.back_height(p);
          // On coarse cells what is left must stand sideways too, on steep sides above all.
          if (const double aside = leave > 0 ? cell / 2 + 0.8 * leave : 0; aside > 0)
            for (const Vec2 o : {Vec2{aside, 0}, Vec2{-aside, 0}, Vec2{0, aside}, Vec2{0, -aside}})
              high = std::max(high, d_.back_height(p + o));
          grid.at(i, j) = static_cast<float>(std::min(wood_top_back(p), high + leave));
        }
      }
    };
    std::thread other(rows, 1);
    rows(0);
    other.join();
    grid.refresh_all();
    return grid;
  }

  void back() {
    Placement& side = begin_side("back", "Back", d_.back);
    for (const Vec2 t : out_.tabs) tabs_side_.push_back(turned(turn_, t));
    const Cutter* rough = cutter(w_.rough_cutter);
    const Cutter* fine = cutter(w_.finish_cutter);
    const Cutter* edge = cutter(w_.edge_cutter);
    const Cutter* outline_cutter = cutter(w_.outline_cutter);
    if (rough == nullptr || fine == nullptr || edge == nullptr || outline_cutter == nullptr) return;
    if (p_.neck.build == NeckBuild::one_piece)
      for (const char* first : {"rod", "rod-pocket", "bar"}) channels(side, first, true, bottom_of_back_);
    // Holes while the blank is flat, where the cutter reaches; else when the waste over them is gone.
    holes(side, true);
    const auto trough_floor = [this](Vec2 q) { return wood_under(q) + w_.web; };
    const TileGrid target = back_target(coarse_cell, w_.rough_leave, trough_floor);
    TileGrid stock = target;
    double top = -1e300;
    for (int j = 0; j < stock.height(); ++j)
      for (int i = 0; i < stock.width(); ++i) {
        stock.at(i, j) = static_cast<float>(wood_top_back(stock.centre(i, j)));
        top = std::max(top, static_cast<double>(stock.at(i, j)));
      }
    stock.refresh_all();
    RoughPlan plan{*rough,
                   feeds(*rough, depth_per_pass(*rough), rough->effective_diameter(), 0.06),
                   depth_per_pass(*rough),
                   0.45,
                   top,
                   true,
                   {}};
    for (const double off : {d_.trough - rough->radius() - 0.01, rough->radius() + w_.rough_leave + 0.3})
      for (const Polygon& loop : offset({d_.cut_outline}, off)) plan.loops.push_back(turned(turn_, loop));
    Cut cut = begin("rough", "Roughing by levels", *rough, plan.feeds);
    cut.strands = rough_by_levels(target, stock, plan);
    keep(side, std::move(cut));
    if (!go_on(0.5, "planning the finishing rows")) return;
    holes(side, false);
    finish(side, *fine, *edge);
    outline(side, *outline_cutter);
    edges(side, *fine, *edge);
  }

  void holes(Placement& side, bool before_roughing) {
    struct Kind {
      const char* prefix;
      const char* id;
      const char* title;
      const std::string& cutter;
      const char* key;
    };
    for (const Kind& k : {Kind{"heel", "heel-holes", "Heel holes, pecked", w_.heel_drill, "neck.heel_drill"},
                          Kind{"pilot", "pilots", "Screw pilots, pecked", w_.pilot_drill, "neck.pilot_drill"},
                          Kind{"tuner", "tuner-holes", "Tuner holes, bored", w_.hole_cutter, "neck.hole_cutter"}}) {
      const Cutter* c = cutter(k.cutter);
      if (c == nullptr) continue;
      double deepest = 0;   // from the blank's top
      double standing = 0;  // wood over the finished surface
      for (const Hole& h : n_.holes) {
        if (!starts(h.id, k.prefix)) continue;
        const Vec2 q = turned(turn_, h.at);
        const double over = wood_top_back(q) - d_.back_height(q);
        standing = std::max(standing, over);
        deepest =
            std::max(deepest, over + (h.depth > 0 ? h.depth : d_.back_height(q) - under(q) + 0.4 + c->rounding()));
      }
      const bool reaches_at_once = deepest <= c->cutting_length && deepest < c->stickout - 1;
      if (deepest == 0 || reaches_at_once != before_roughing) continue;
      const Feeds f = slotting(*c);
      Cut cut = begin(k.id, k.title, *c, f);
      for (const Hole& h : n_.holes) {
        if (!starts(h.id, k.prefix)) continue;
        const Vec2 q = turned(turn_, h.at);
        // On a tilted head the hole's rim is higher on one side and its far end lower on the other.
        const auto back_at = [this](Vec2 at) { return d_.back_height(at); };
        BorePlan plan{q,
                      h.diameter,
                      before_roughing ? highest_round(q, h.diameter / 2, [this](Vec2 at) { return wood_top_back(at); })
                                      : highest_round(q, h.diameter / 2 + 0.5, back_at) + w_.rough_leave,
                      0,
                      *c,
                      f};
        plan.bottom = h.depth > 0 ? d_.back_height(q) - h.depth
                                  : -highest_round(q, h.diameter / 2, [this](Vec2 at) { return -under(at); }) - 0.3;
        const bool same = std::abs(c->effective_diameter() - h.diameter) < 0.06;
        if (h.depth > 0 && (same || c->kind == CutterKind::drill)) {
          if (c->effective_diameter() > h.diameter + 0.06) {
            refuse("neck.hole_unplanned", k.title,
                   {ProblemKind::range, fmt::format("'{}' is wider than a hole of {}", c->id, mm(h.diameter)), "", ""},
                   k.key);
            break;
          }
          cut.strands.push_back(peck(plan, std::max(1.0, 1.5 * c->effective_diameter())));
        } else if (auto s = bore(plan)) {
          cut.strands.push_back(std::move(*s));
        } else {
          refuse("neck.hole_unplanned", k.title, s.error(), k.key);
          break;
        }
      }
      keep(side, std::move(cut));
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
      if (d_.back_height(a) - ball.radius() * (1 - up) >= wood_under(a) + floor) return edge + in * off;
    }
    return inner;
  }

  void finish(Placement& side, const Cutter& ball, const Cutter&) {
    const double floor = w_.web + 0.02;
    const Polygon outline = turned(turn_, d_.cut_outline);
    const Box2 box = bounds(outline);
    constexpr double apart = 1.0;
    std::vector<Station> stations;
    side_low_.clear();
    side_high_.clear();
    for (double x = box.low.x - 0.6; x <= box.high.x + 0.6 + 1e-9; x += apart) {
      const double at = std::clamp(x, box.low.x + 0.02, box.high.x - 0.02);
      const auto cross = crossings(outline, {at, 0}, {0, 1});
      if (cross.size() < 2) continue;
      const double low = cross.front();
      const double high = cross.back();
      const double middle = (low + high) / 2;
      Station s{x, rows_limit(at, low, middle, ball, floor), rows_limit(at, high, middle, ball, floor)};
      if (x == at) {
        // The sides left over: from where the rows end down to the foot.
        side_low_.push_back({x, low, middle, 0, s.low != low ? d_.back_height({x, s.low}) : 0});
        side_high_.push_back({x, high, middle, 0, s.high != high ? d_.back_height({x, s.high}) : 0});
      }
      if (s.high - s.low > 0.01) stations.push_back(s);
    }
    const TileGrid grid = back_target(fine_cell, 0, [this](Vec2 q) { return wood_under(q) + w_.web; });
    FinishPlan plan{ball,
                    feeds(ball, w_.rough_leave, row_distance(ball, w_.scallop, 15), 0.03),
                    w_.scallop,
                    0.5,
                    bottom_of_back_,
                    15,
                    {}};
    Cut cut = begin("finish", "Finishing along the neck", ball, plan.feeds);
    cut.strands = finish_along([this](Vec2 q) { return d_.back_height(q); }, grid, stations, plan);
    out_.finish_length = path_length(cut.strands);
    out_.row_distance = row_distance(ball, w_.scallop, plan.bend);
    keep(side, std::move(cut));
  }

  void outline(Placement& side, const Cutter& c) {
    OutlinePlan plan;
    plan.cutter = c;
    plan.feeds = slotting(c, 0.05);
    plan.wood_top = w_.web;
    plan.through = w_.through;
    plan.climb = true;
    plan.aside = w_.rough_leave + 0.4;
    plan.skim = w_.skim;
    plan.tab_length = w_.tab_length;
    plan.tab_height = w_.tab_height;
    plan.underside = [this](Vec2 q) { return wood_under(q); };
    const Contour contour = turned(turn_, d_.cut_contour);
    for (const Vec2 t : tabs_side_) plan.tabs.push_back(nearest_along(contour, t));
    Cut cut = begin("outline", "Outline, with tabs", c, plan.feeds);
    auto strands = cut_outline(contour, plan);
    if (!strands) return refuse("neck.outline_unplanned", cut.title, strands.error(), "neck.outline_cutter");
    cut.strands = std::move(*strands);
    keep(side, std::move(cut));
  }

  void edges(Placement& side, const Cutter& ball, const Cutter& flat_one) {
    const Height surface = [this](Vec2 q) { return d_.back_height(q); };
    Cut round = begin("edges", "Steep sides, by the ball's flank", ball, feeds(ball, 1.5, w_.rough_leave, 0.03));
    Cut foot = begin("foot", "Steep sides, by levels", flat_one, feeds(flat_one, 1.5, w_.rough_leave, 0.03));
    for (std::vector<SideStation>* one : {&side_low_, &side_high_}) {
      std::vector<SideStation> lower = *one;
      for (std::size_t i = 0; i < one->size(); ++i) {
        SideStation& s = (*one)[i];
        if (!(s.high > 0)) continue;
        // Down to where the ball's tip comes to the bottom of the cut.
        const double bottom = wood_under({s.x, s.edge}) - w_.through + 0.03;
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
        lower[i].low = std::max(0.0, under({s.x, s.edge}));
        lower[i].high = s.low;
      }
      const auto lowest = [this](double reach) {
        return [this, reach](Vec2 q) { return wood_under(q) + over_tabs(q, reach); };
      };
      SidePlan plan{ball, feeds(ball, 1.5, w_.rough_leave, 0.03), w_.scallop, lowest(ball.radius()), bottom_of_back_};
      for (auto& s : finish_side_ball(surface, *one, plan)) round.strands.push_back(std::move(s));
      SidePlan levels{flat_one, feeds(flat_one, 1.5, w_.rough_leave, 0.03), w_.scallop, lowest(flat_one.radius()),
                      bottom_of_back_};
      for (auto& s : finish_side_levels(surface, lower, levels)) foot.strands.push_back(std::move(s));
    }
    keep(side, std::move(round));
    keep(side, std::move(foot));
  }

  // ---- cradle: its top is the neck's front, with clearance

  void cradle() {
    const Cutter* rough = cutter(w_.rough_cutter);
    const Cutter* fine = cutter(w_.face_cutter);
    if (rough == nullptr || fine == nullptr) return;
    const Box2 box = bounds(d_.cut_outline);
    double rise = 0;  // the head's face stands above the glue plane when the neck lies on its front
    for (const Vec2 q : d_.cut_outline) rise = std::max(rise, -d_.cut_front(q));
    Blank blank = d_.blank;
    blank.length = box.size().x + 30;
    blank.width = box.size().y + 24;
    blank.thickness = w_.cradle_thickness + std::max(0.0, rise);
    AlignmentNumbers a = w_.alignment;
    a.school = School::ticks;
    a.turn = Turn::none;
    Setup setup = side_setup(p_.machine, blank, a, {0, 0}, Turn::none, 0);
    // Side frame of the cradle: the turned neck's, its glue plane at z = −rise (the cradle's own highest place is z =
    // 0).
    const Vec2 middle = turned(turn_, box.middle());
    place_blank(setup, middle, blank.zero == ZeroPlace::corner ? setup.blank_size * 0.5 : Vec2{}, 0);
    const auto top = [this, rise](Vec2 q) { return std::min(0.0, under(q) - rise - w_.cradle_clearance); };
    Placement& side = begin_side("cradle", "Cradle for the neck's front", setup);
    const Vec2 half{blank.length / 2, blank.width / 2};
    const Polygon all{middle - half, middle + Vec2{half.x, -half.y}, middle + half, middle + Vec2{-half.x, half.y}};
    const Polygon bed_of_neck = turned(turn_, offset({d_.cut_outline}, 3.0).front());
    const auto heights = [&](double cell, double leave) {
      return grid_over({middle - half - Vec2{9, 9}, middle + half + Vec2{9, 9}}, cell, all,
                       [&](Vec2 q, bool inside) { return inside ? std::min(0.0, top(q) + leave) : top(q) + leave; });
    };
    const TileGrid target = heights(coarse_cell, 0.4);
    TileGrid stock(target.origin(), target.cell(), target.width(), target.height(), 0);
    RoughPlan plan{*rough,
                   feeds(*rough, depth_per_pass(*rough), rough->effective_diameter(), 0.06),
                   depth_per_pass(*rough),
                   0.45,
                   0,
                   true,
                   {}};
    Cut cut = begin("cradle-rough", "Cradle, roughing", *rough, plan.feeds);
    cut.strands = rough_by_levels(target, stock, plan);
    keep(side, std::move(cut));
    std::vector<Station> stations;
    const Box2 own = bounds(bed_of_neck);
    for (double x = own.low.x; x <= own.high.x; x += 1.5) {
      const auto cross = crossings(bed_of_neck, {std::clamp(x, own.low.x + 0.05, own.high.x - 0.05), 0}, {0, 1});
      if (cross.size() >= 2) stations.push_back({x, cross.front(), cross.back()});
    }
    FinishPlan finish_plan{*fine, feeds(*fine, 0.4, 0.8, 0.03), 0.03, 1.0, 0, 0, {}};
    Cut finishing = begin("cradle-finish", "Cradle, finishing", *fine, finish_plan.feeds);
    finishing.strands = finish_along(top, heights(0.2, 0), stations, finish_plan);
    keep(side, std::move(finishing));
  }

  // ---- paths, times, reach

  void link(Placement& side) {
    link_placement(side, d_.rack, p_.machine, p_.programs.safe);
    for (const Cut& cut : side.cuts) judge_reach(side, cut);
  }

  /// Cutting length and stickout against the wood that stands beside the deepest places of a cut.
  void judge_reach(const Placement& side, const Cut& cut) {
    const Cutter* c = cutter(cut.cutter);
    if (c == nullptr || side.id == "waste-board" || side.id == "cradle") return;
    const bool is_back = side.id == "back";
    const bool carved = is_back && cut.id != "rough" && cut.id != "pilots" && cut.id != "tuner-holes" &&
                        cut.id != "heel-holes" && cut.id != "rod" && cut.id != "rod-pocket" && cut.id != "bar";
    double length_need = 0;
    double out_need = 0;
    for (const Strand& s : cut.strands)
      for (std::size_t k = 0; k < s.steps.size(); k += std::max<std::size_t>(1, s.steps.size() / 400)) {
        const Vec3 tip = s.steps[k].to;
        const Vec2 q{tip.x, tip.y};
        const double frame = is_back ? wood_top_back(q) : wood_top_front(q);
        // After roughing only the trough's floor and what is left for finishing touch the cutter.
        const double touch =
            carved ? std::max(wood_under(q) + w_.web, std::min(frame, contact_height(q, *c) + w_.rough_leave)) : frame;
        length_need = std::max(length_need, touch - tip.z);
        const double apart = carved ? distance_to(d_.cut_outline, turned(turn_, q)) : 0;
        const bool nut_over_frame = !carved || apart + c->nut_diameter / 2 > d_.trough;
        if (nut_over_frame) out_need = std::max(out_need, frame - tip.z);
      }
    const char* key = key_of(cut.id);
    const auto better = [&]() -> const Cutter* {
      const Cutter* best = nullptr;
      for (const Cutter& o : d_.rack)
        if (o.kind == c->kind && o.effective_diameter() <= c->effective_diameter() + 0.01 &&
            o.effective_diameter() > 0.4 * c->effective_diameter() && o.cutting_length >= length_need &&
            o.stickout > out_need && (best == nullptr || o.effective_diameter() > best->effective_diameter()))
          best = &o;
      return best;
    };
    if (length_need > c->cutting_length + 0.02) {
      const Cutter* o = better();
      out_.remarks.push_back(
          {"neck.cutter_short",
           Weight::stop,
           fmt::format(
               "'{}' cuts {} deep, and '{}' only over {}{}.", cut.title, mm(length_need), c->id, mm(c->cutting_length),
               o != nullptr ? fmt::format("; '{}' reaches", o->id) : "; no cutter of its kind in the rack reaches"),
           length_need,
           c->cutting_length,
           "mm",
           "the wood that stands beside the cutter",
           key,
           {},
           o != nullptr ? std::optional(Repair{"Take " + o->id, {{key, o->id}}}) : std::nullopt,
           {}});
    } else if (out_need > c->stickout - 0.5) {
      const Cutter* o = better();
      Remark r{
          "neck.nut_low",
          Weight::stop,
          fmt::format(
              "In '{}' the collet nut over '{}' comes down onto wood that stands {} over its tip; it sticks out {}.",
              cut.title, c->id, mm(out_need), mm(c->stickout)),
          out_need,
          c->stickout,
          "mm",
          "the wood that stands beside the collet nut",
          key,
          {},
          {},
          {}};
      if (o != nullptr) r.repair = Repair{"Take " + o->id, {{key, o->id}}};
      const std::string more = format_mm(std::ceil(out_need + 1), 1);
      if (out_need + 1 < c->overall - 12)
        r.others.push_back({fmt::format("Let it stick out {} mm", more), {{"rack." + c->id + ".stickout", more}}});
      if (!r.repair && !r.others.empty()) {
        r.repair = r.others.front();
        r.others.clear();
      }
      out_.remarks.push_back(std::move(r));
    }
  }

  [[nodiscard]] double contact_height(Vec2 q, const Cutter& c) const {
    // Highest surface that the cutter's flank may touch: on the side towards the neck.
    const Vec2 p = turned(turn_, q);
    if (contains(d_.cut_outline, p)) return d_.back_height(q);
    const Vec2 in = unit(Vec2{0, n_.taper(p.x).middle - p.y});
    const Vec2 at = p + in * c.radius();
    return contains(d_.cut_outline, at) ? d_.shape.depth(at) : under(q);
  }

  static const char* key_of(const std::string& cut) {
    if (cut == "pins" || cut == "pin-holes") return "neck.pin_cutter";
    if (cut == "tuner-holes") return "neck.hole_cutter";
    if (cut == "rod" || cut == "rod-pocket" || cut == "head-face") return "neck.channel_cutter";
    if (cut == "bar" || cut == "nut") return "neck.fine_cutter";
    if (cut == "head-step" || cut == "cradle-finish") return "neck.face_cutter";
    if (cut == "pilots") return "neck.pilot_drill";
    if (cut == "heel-holes") return "neck.heel_drill";
    if (cut == "finish" || cut == "edges") return "neck.finish_cutter";
    if (cut == "foot") return "neck.edge_cutter";
    if (cut == "outline") return "neck.outline_cutter";
    if (cut == "slots") return "slot.cutter";
    if (cut == "crown") return "crown.cutter";
    return "neck.rough_cutter";
  }

  const Project& p_;
  const NeckWork& w_;
  const NeckDesign& d_;
  const NeckShape& n_;
  Progress* progress_;
  Turn turn_;
  double bottom_of_back_;  // side z of the blank's upper face when turned
  std::vector<Vec2> tabs_side_;
  std::vector<SideStation> side_low_, side_high_;
  NeckCuts out_;
};

}  // namespace

const Placement* NeckCuts::side(const std::string& id) const {
  for (const Placement& s : sides)
    if (s.id == id) return &s;
  return nullptr;
}

NeckCuts plan_neck(const Project& project, const NeckDesign& design, Progress* progress) {
  return NeckPlanner(project, design, progress).run();
}

std::vector<Remark> all_remarks(const NeckDesign& design, const NeckCuts& cuts) {
  std::vector<Remark> out = design.remarks;
  out.insert(out.end(), cuts.remarks.begin(), cuts.remarks.end());
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

}  // namespace wren

#include "core/job/body_cuts.hpp"

#include <algorithm>
#include <thread>

#include <fmt/format.h>

#include "core/cutting/channel.hpp"
#include "core/cutting/clearing.hpp"
#include "core/cutting/edge.hpp"
#include "core/cutting/outline.hpp"
#include "core/cutting/surface.hpp"
#include "core/plan/recover.hpp"

namespace wren {
namespace {

constexpr double coarse_cell = 0.5;  // mm, roughing grids of carves
constexpr double fine_cell = 0.25;   // mm, finishing grids: contacts are exact, the grid guards
constexpr double groove_past = 0.5;  // mm: how far the two halves of an outline overlap

std::string mm(double v) { return format_mm(v, 2) + " mm"; }
bool starts(const std::string& text, const char* with) { return text.rfind(with, 0) == 0; }

Region turned_region(Turn turn, const Region& region) {
  Region out;
  for (const Polygon& p : region) out.push_back(turned(turn, p));  // a hole turned over is a hole again
  return out;
}

class BodyPlanner {
 public:
  BodyPlanner(const Project& p, const BodyDesign& d, Progress* progress)
      : p_(p), w_(p.body_work), d_(d), s_(d.shape), progress_(progress) {}

  BodyCuts run() {
    if (w_.alignment.school == School::pins) waste_board();
    if (s_.layers.size() > 1)
      for (std::size_t k = 0; k < s_.layers.size(); ++k) layer(k);
    if (go_on(0.2, "planning the front")) front();
    if (go_on(0.6, "planning the back")) back();
    if (w_.outline == OutlineSchool::guide && go_on(0.9, "planning the last skim")) sawn();
    for (const Cover& c : s_.covers) cover(c);
    for (Placement& side : out_.sides) {
      link_placement(side, d_.rack, p_.machine, p_.programs.safe);
      for (const Cut& cut : side.cuts) judge_reach(side, cut);
      out_.seconds += side.seconds;
    }
    return std::move(out_);
  }

 private:
  bool go_on(double share, const char* phase) { return progress_ == nullptr || progress_->go_on(share, phase); }
  [[nodiscard]] const Cutter* cutter(const std::string& id) const { return find_cutter(d_.rack, id); }
  [[nodiscard]] Feeds feeds(const Cutter& c, double depth, double width, double bending) const {
    return work_out_feeds(c, wood_, p_.machine, {depth, width, bending});
  }
  [[nodiscard]] Feeds slotting(const Cutter& c, double bending = 0.04) const {
    return feeds(c, depth_per_pass(c), c.effective_diameter(), bending);
  }

  Placement& begin_side(std::string id, std::string title, const Setup& setup) {
    out_.sides.push_back({std::move(id), std::move(title), setup, {}, {}, {}, {}, 0});
    turn_ = setup.turn;
    wood_ = d_.woods.front();
    for (const Wood& w : d_.woods)  // the hardest layer decides what the glued body bears
      if (w.cutting_force > wood_.cutting_force) wood_ = w;
    top_ = -setup.to_work.shift.z;  // side z of the blank's upper face
    return out_.sides.back();
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

  /// The clearing cutter where it reaches, else the deep one.
  [[nodiscard]] const Cutter* reaching(const std::string& id, double depth) const {
    const Cutter* c = cutter(id);
    if (c != nullptr && c->cutting_length + 0.01 >= depth && c->stickout > depth + 1) return c;
    const Cutter* deep = cutter(w_.deep_cutter);
    return deep != nullptr ? deep : c;
  }

  [[nodiscard]] double side_z(double body_z) const { return turned_z(turn_, body_z); }

  // ---- pins and layers

  void waste_board() {
    const Cutter* c = cutter(w_.deep_cutter);
    if (c == nullptr) return;
    Setup bare = d_.front;
    bare.wood_top = {};
    bare.blank.thickness = 0;  // z = 0 on the waste board itself
    bare.to_work.shift.z = 0;
    bare.zero_in_machine.z = 0;
    Placement& side = begin_side("waste-board", "Waste board: pin holes", bare);
    const Feeds f = slotting(*c);
    Cut cut = begin_cut("pin-holes", "Pin holes in the waste board", *c, f);
    for (const BedHole& h : d_.front.bed_holes) {
      auto s = bore({bare.to_work.back(h.at), 2 * h.radius, 0, -h.depth, *c, f});
      if (!s) return refuse("body.pins_unplanned", cut.title, s.error(), "body.deep_cutter");
      cut.strands.push_back(std::move(*s));
    }
    keep_cut(side, std::move(cut));
  }

  void pins(Placement& side, double thickness) {
    if (w_.alignment.school != School::pins) return;
    const Cutter* c = reaching(w_.clear_cutter, thickness + 1);
    if (c == nullptr) return;
    const Feeds f = slotting(*c);
    Cut cut = begin_cut("pins", "Pin holes through the waste", *c, f);
    for (const Vec2 at : {d_.pins.first, d_.pins.second}) {
      auto s =
          bore({at, w_.alignment.pin_diameter, top_, top_ - thickness - std::min(1.0, w_.alignment.pin_depth), *c, f});
      if (!s) return refuse("body.pins_unplanned", cut.title, s.error(), "body.deep_cutter");
      cut.strands.push_back(std::move(*s));
    }
    keep_cut(side, std::move(cut));
  }

  void layer(std::size_t k) {
    const LayerPlace& l = s_.layers[k];
    Placement& side =
        begin_side(fmt::format("layer-{}", k + 1), fmt::format("Layer '{}', its top up", l.layer.name), d_.layers[k]);
    wood_ = d_.woods[k];
    pins(side, d_.layers[k].blank.thickness);
    std::vector<const Cavity*> hidden;
    for (const Cavity& c : s_.cavities)
      if (c.layer == static_cast<int>(k)) hidden.push_back(&c);
    for (const Cavity* c : hidden) {
      const double floor = std::max(c->floor, l.bottom);
      clear(
          side, *c, c->id, c->title, l.top, [floor](Vec2) { return floor; }, floor, 0, false);
    }
    if (k == 0 && w_.top_oversize > 0) {
      // The top by itself, larger than the body, with tabs; it is glued on and goes flush with the body's own outline
      // later.
      const Cutter* c = cutter(w_.outline_cutter);
      if (c == nullptr) return;
      Contour larger;
      const Region grown = offset({s_.corners}, w_.top_oversize);
      for (const Vec2 q : *widest(grown)) larger.push_back({q, 0});
      OutlinePlan plan = outline_plan(*c);
      plan.wood_top = d_.layers[k].blank.thickness;
      plan.skim = 0;
      plan.shift = l.bottom;
      plan.stretches.clear();
      plan.thin = 0;
      for (const Vec2 t : place_body_tabs(larger, w_.tabs, {})) plan.tabs.push_back(nearest_along(larger, t));
      Cut cut = begin_cut("oversize", "Top, oversize", *c, plan.feeds);
      auto strands = cut_outline(larger, plan);
      if (!strands) return refuse("body.outline_unplanned", cut.title, strands.error(), "body.outline_cutter");
      cut.strands = std::move(*strands);
      keep_cut(side, std::move(cut));
    }
  }

  // ---- cavities

  /// Rough, floor and walls of a cavity; then what is left with the fine cutter. `floor` is a side z over side places.
  void clear(Placement& side, const Cavity& c, const std::string& id, const std::string& title, double top,
             const Height& floor, double lowest, double slope, bool finish) {
    const double depth = top - lowest;
    if (depth <= 0.005) return;
    const Cutter* wide = reaching(w_.clear_cutter, top_ - lowest);  // the collet nut passes over what stands beside it
    const Cutter* fine = cutter(w_.fine_cutter);
    if (wide == nullptr || fine == nullptr) return;
    ClearPlan plan;
    plan.region = turned_region(turn_, c.region);
    plan.top = top;
    plan.floor = floor;
    plan.lowest_floor = lowest;
    plan.slope = slope;
    plan.step = w_.step;
    plan.leave_wall = w_.wall_skim;
    plan.leave_floor = std::min(w_.floor_skim, depth * 0.4);
    plan.finish = finish;
    // A cavity narrower than the wide cutter is cut with the fine one altogether.
    const bool narrow = offset(plan.region, -(wide->radius() + (finish ? w_.wall_skim : 0))).empty() &&
                        offset(plan.region, -wide->radius()).empty();
    const Cutter* first = narrow ? slimmest_that_goes(plan.region, depth) : wide;
    if (first == nullptr) {
      out_.remarks.push_back({"body.cavity_narrow",
                              Weight::stop,
                              fmt::format("No flat cutter of the rack goes into '{}'.", title),
                              0,
                              0,
                              "mm",
                              "geometry",
                              "body.fine_cutter",
                              {},
                              {},
                              {}});
      return;
    }
    const auto set = [&](const Cutter& cut) {
      plan.cutter = cut;
      plan.bite = std::min(cut.effective_diameter() * (cut.cutting_length > 8 * cut.effective_diameter() ? 0.7 : 1.0),
                           cut.cutting_length);
      plan.feeds = feeds(cut, plan.bite, plan.step * cut.effective_diameter(), 0.06);
      plan.entry = slotting(cut, 0.05);
    };
    set(*first);
    auto cleared = clear_region(plan);
    if (!cleared) return refuse("body.cavity_unplanned", title, cleared.error(), "body.clear_cutter");
    Cut rough = begin_cut(id, title, *first, plan.feeds);
    rough.strands = std::move(cleared->rough);
    for (auto* more : {&cleared->floor, &cleared->walls})
      for (Strand& s : *more) rough.strands.push_back(std::move(s));
    keep_cut(side, std::move(rough));
    if (!finish || narrow || fine->radius() >= first->radius() - 0.05) return;
    // Corners that lie in the waste, where a cavity runs out of the edge, are nobody's.
    const Region left = intersected(left_by(plan.region, first->radius()), {turned(turn_, s_.corners)});
    if (area(left) > 1.5) {
      plan.cleared = cleared->reached;
      set(*fine);
      auto rest = clear_region(plan);
      if (rest && !rest->rough.empty()) {
        Cut cut = begin_cut(id + "-rest", title + ", corners", *fine, plan.feeds);
        cut.strands = std::move(rest->rough);
        for (auto* more : {&rest->floor, &rest->walls})
          for (Strand& s : *more) cut.strands.push_back(std::move(s));
        keep_cut(side, std::move(cut));
      }
    } else if (std::abs(slope) * first->radius() > 0.025) {
      // Where the sloping floor meets its side walls the wide cutter leaves slope times its radius: the fine one goes
      // nearer.
      set(*fine);
      const Height tip = [floor, slope, r = fine->radius()](Vec2 q) { return floor(q) + std::abs(slope) * r; };
      Cut cut = begin_cut(id + "-edge", title + ", floor's edge", *fine, plan.feeds);
      // Only where the wide cutter has been: corners it did not reach would be too deep for this one, so they are
      // passed wider, and the walls by a hair.
      const double wider = first->radius() + 0.6;
      const Region reached = offset(offset(plan.region, -wider), wider);
      for (const double in : {fine->radius() + 1.3, fine->radius() + 0.5, fine->radius()})
        for (const Polygon& ring : offset(reached, -in - 0.03))
          cut.strands.push_back(skim_ring(ring, tip, top, plan.feeds));
      keep_cut(side, std::move(cut));
    }
  }

  [[nodiscard]] const Cutter* slimmest_that_goes(const Region& region, double) const {
    const Cutter* best = nullptr;
    for (const Cutter& c : d_.rack)
      if (c.kind == CutterKind::flat && !offset(region, -(c.radius() - 0.004)).empty() &&
          (best == nullptr || c.radius() > best->radius()))
        best = &c;
    return best;
  }

  void cavities(Placement& side, bool from_back) {
    // Ledges before what is let into them, shallow before deep.
    std::vector<const Cavity*> order;
    for (const Cavity& c : s_.cavities)
      if (c.layer < 0 && c.from_back == from_back) order.push_back(&c);
    std::stable_sort(order.begin(), order.end(),
                     [&](const Cavity* a, const Cavity* b) { return side_z(a->floor) > side_z(b->floor); });
    for (const Cavity* c : order) {
      double top = top_;
      // What lies wholly within another cavity begins on its floor.
      for (const Cavity* o : order)
        if (o != c && o->group == c->group && side_z(o->floor) > side_z(c->floor) + 1e-6 &&
            area(subtracted(c->region, o->region)) < 0.01)
          top = std::min(top, side_z(o->floor));
      const Turn turn = turn_;
      const Height floor = [c, turn](Vec2 q) { return turned_z(turn, c->floor_at(turned(turn, q))); };
      double lowest = 1e9;
      for (const Polygon& ring : c->region)
        for (const Vec2 q : ring) lowest = std::min(lowest, floor(turned(turn_, q)));
      const double slope = c->slope * (turn_ == Turn::about_width ? -1 : 1) * (from_back ? -1 : 1);
      clear(side, *c, c->id, c->title, top, floor, c->slope != 0 ? lowest : side_z(c->floor), slope, true);
    }
  }

  // ---- holes

  void holes(Placement& side, bool from_back) {
    std::vector<std::pair<const Cutter*, Cut>> cuts;
    const auto into = [&](const Cutter& c, const BodyHole& h) -> Cut& {
      const std::string kind = h.id.substr(0, h.id.rfind('-'));
      for (auto& [k, cut] : cuts)
        if (k == &c && cut.id == kind + (from_back ? "-back" : "")) return cut;
      cuts.emplace_back(&c, begin_cut(kind + (from_back ? "-back" : ""), h.title + (h.drilled ? ", pecked" : ", bored"),
                                      c, slotting(c)));
      return cuts.back().second;
    };
    // The outer two of a row first: they show whether the drill wanders.
    std::vector<const BodyHole*> order;
    for (const BodyHole& h : s_.holes) {
      const bool both = starts(h.id, "string");
      if (both || h.from_back == from_back) order.push_back(&h);
    }
    std::stable_sort(order.begin(), order.end(),
                     [&](const BodyHole* a, const BodyHole* b) { return rank(*a) < rank(*b); });
    for (const BodyHole* h : order) {
      const Vec2 q = turned(turn_, h->at);
      double from = top_;
      if (h->from_back == from_back && h->from != 0 && from_back) from = std::min(from, side_z(h->from));
      double bottom = 0;
      if (starts(h->id, "string")) {
        if (from_back) from = side_z(-s_.thickness + s_.given.bridge.ferrule_depth);
        bottom = side_z(-s_.thickness / 2) - 1;  // the two halves meet
      } else if (starts(h->id, "bolt")) {
        const Cavity* pocket = s_.cavity("pocket");
        if (s_.given.setup.bolt_sink_depth > 0) from = side_z(-s_.thickness + s_.given.setup.bolt_sink_depth);
        bottom = pocket != nullptr ? side_z(pocket->floor_at(h->at)) - 0.6 : side_z(0);
      } else {
        bottom = side_z(h->from) - h->depth;
        if (!from_back) from = top_;
      }
      const double depth = from - bottom;
      if (h->drilled) {
        const Cutter* drill = drill_in_use(d_.rack, h->diameter);
        if (drill == nullptr) {
          out_.remarks.push_back(
              {"body.drill_missing",
               Weight::stop,
               fmt::format("No drill of the rack is thin enough for '{}' ({}).", h->title, mm(h->diameter)),
               h->diameter,
               0,
               "mm",
               "the rack",
               "body.peck",
               {},
               {},
               {}});
          continue;
        }
        if (drill->effective_diameter() < h->diameter - 0.35) note_thin(*drill, *h);
        into(*drill, *h)
            .strands.push_back(peck({q, h->diameter, from, bottom, *drill, slotting(*drill)}, std::max(1.0, w_.peck)));
        continue;
      }
      const Cutter* c = reaching(w_.clear_cutter, depth);
      if (c != nullptr && c->effective_diameter() > h->diameter + 0.005) c = cutter(w_.fine_cutter);
      if (c == nullptr) continue;
      auto s = bore({q, h->diameter, from, bottom, *c, slotting(*c)});
      if (!s) {
        refuse("body.hole_unplanned", h->title, s.error(), "body.clear_cutter");
        continue;
      }
      into(*c, *h).strands.push_back(std::move(*s));
    }
    // Few changes of cutter: cuts with the same one after each other, bores before drills.
    std::stable_sort(cuts.begin(), cuts.end(), [](const auto& a, const auto& b) {
      return a.first->kind == b.first->kind ? a.first->effective_diameter() > b.first->effective_diameter()
                                            : a.first->kind < b.first->kind;
    });
    for (auto& [c, cut] : cuts) keep_cut(side, std::move(cut));
  }

  [[nodiscard]] int rank(const BodyHole& h) const {
    if (!starts(h.id, "string") && !starts(h.id, "ferrule")) return 0;
    const auto n = static_cast<int>(s_.setup.strings.size());
    const int i = std::atoi(h.id.substr(h.id.rfind('-') + 1).c_str());
    return i == 1 || i == n ? 1 : 2;
  }

  void note_thin(const Cutter& drill, const BodyHole& h) {
    for (const Remark& r : out_.remarks)
      if (r.kind == "body.drill_thin" && r.sentence.find(h.title) != std::string::npos) return;
    out_.remarks.push_back({"body.drill_thin",
                            Weight::worth_knowing,
                            fmt::format("'{}' drills '{}' {} wide where {} are asked for: open them by hand, or put "
                                        "the right drill into the rack.",
                                        drill.id, h.title, mm(drill.effective_diameter()), mm(h.diameter)),
                            drill.effective_diameter(),
                            h.diameter,
                            "mm",
                            "the rack",
                            "body.peck",
                            {},
                            {},
                            {}});
  }

  // ---- carves and edges

  /// Connected runs of stations: where a piece has horns, each by itself.
  template <class Wanted>
  [[nodiscard]] std::vector<std::vector<Station>> chains(double apart, const Wanted& wanted) const {
    const Polygon outline = turned(turn_, s_.corners);
    const Box2 box = bounds(outline);
    // Rows follow both ends of a run's stations: where an end jumps, rows would be drawn aslant over what lies between.
    const double jump = 3 * apart;
    struct Open {
      std::vector<Station> run;
      bool touched = false;
    };
    std::vector<Open> open;
    std::vector<std::vector<Station>> done;
    for (double x = box.low.x - 3; x <= box.high.x + 3; x += apart) {
      std::vector<Station> here;
      // In steps across, the intervals where something is to be cut.
      constexpr double nothing = -1e9;
      double from = nothing;
      for (double y = box.low.y - 3.5; y <= box.high.y + 3.5; y += 0.5) {
        const bool in = wanted(Vec2{x, y});
        if (in && from == nothing) from = y;
        if (!in && from != nothing) {
          if (y - from > 1.2) here.push_back({x, from, y - 0.5});
          from = nothing;
        }
      }
      for (Open& o : open) o.touched = false;
      for (const Station& s : here) {
        Open* best = nullptr;
        for (Open& o : open)
          if (!o.touched && o.run.back().high > s.low && o.run.back().low < s.high &&
              std::abs(o.run.back().low - s.low) < jump && std::abs(o.run.back().high - s.high) < jump)
            best = &o;
        if (best == nullptr) {
          open.push_back({});
          best = &open.back();
        }
        best->run.push_back(s);
        best->touched = true;
      }
      for (std::size_t i = open.size(); i-- > 0;)
        if (!open[i].touched) {
          done.push_back(std::move(open[i].run));
          open.erase(open.begin() + static_cast<std::ptrdiff_t>(i));
        }
    }
    for (Open& o : open) done.push_back(std::move(o.run));
    // A run goes on for half a station past its ends: where one run ends and others begin they meet there.
    for (auto& run : done) {
      const Station first = run.front();
      const Station last = run.back();
      run.insert(run.begin(), {first.x - apart / 2, first.low, first.high});
      run.push_back({last.x + apart / 2, last.low, last.high});
    }
    return done;
  }

  void carve(Placement& side, bool from_back) {
    if (from_back ? !s_.carved_back() : !s_.carved_face()) return;
    const Cutter* rough = cutter(w_.rough_cutter);
    const Cutter* ball = cutter(w_.finish_cutter);
    if (rough == nullptr || ball == nullptr) return;
    const Turn turn = turn_;
    const Height surface = [this, turn, from_back](Vec2 q) {
      const Vec2 p = turned(turn, q);
      return turned_z(turn, from_back ? s_.carved_bottom(p) : s_.carved_top(p));
    };
    const double flat_z = side_z(from_back ? -s_.thickness : 0);
    const Polygon outline = turned(turn_, s_.corners);
    const RegionMask near(offset({outline}, 3.2), 1.0);
    const auto wanted = [&](Vec2 q) { return near.holds(q) && surface(q) < flat_z - 0.004; };
    // The box that holds everything lower than the flat.
    Box2 box;
    const Box2 all = bounds(outline);
    for (double y = all.low.y - 3; y <= all.high.y + 3; y += 2)
      for (double x = all.low.x - 3; x <= all.high.x + 3; x += 2)
        if (wanted({x, y})) box.add({x, y});
    if (box.low.x > box.high.x) return;
    const auto rows_of = [](TileGrid& grid, const auto& at) {
      const auto rows = [&](int first) {
        for (int j = first; j < grid.height(); j += 2)
          for (int i = 0; i < grid.width(); ++i) grid.at(i, j) = static_cast<float>(at(i, j));
      };
      std::thread other(rows, 1);
      rows(0);
      other.join();
      grid.refresh_all();
    };
    const auto plain_grid = [&](double cell) {
      constexpr double margin = 9;
      const Vec2 size = box.size() + Vec2{2 * margin, 2 * margin};
      TileGrid grid(box.low - Vec2{margin, margin}, cell, std::max(1, static_cast<int>(std::ceil(size.x / cell))),
                    std::max(1, static_cast<int>(std::ceil(size.y / cell))), 0);
      rows_of(grid, [&](int i, int j) { return surface(grid.centre(i, j)); });
      return grid;
    };
    const auto roughing_grid = [&](double leave) {
      const TileGrid base = plain_grid(coarse_cell);
      TileGrid grid = base;
      // On coarse cells what is left must stand sideways too.
      const int aside = static_cast<int>(std::ceil((coarse_cell / 2 + 0.8 * leave) / coarse_cell));
      const RegionMask cut_to(offset({outline}, 2.0 + rough->radius()), 1.0);
      rows_of(grid, [&](int i, int j) {
        if (!cut_to.holds(base.centre(i, j))) return flat_z;
        double z = static_cast<double>(base.at(i, j));
        for (const auto& [di, dj] :
             {std::pair{aside, 0}, std::pair{-aside, 0}, std::pair{0, aside}, std::pair{0, -aside}})
          if (base.holds(i + di, j + dj)) z = std::max(z, static_cast<double>(base.at(i + di, j + dj)));
        z = std::min(flat_z, z + leave);
        return z > flat_z - 0.25 ? flat_z : z;
      });
      return grid;
    };
    const TileGrid target = roughing_grid(w_.rough_leave);
    TileGrid stock(target.origin(), target.cell(), target.width(), target.height(), static_cast<float>(flat_z));
    stock.refresh_all();
    RoughPlan plan{*rough,
                   feeds(*rough, depth_per_pass(*rough), rough->effective_diameter(), 0.06),
                   depth_per_pass(*rough),
                   0.45,
                   flat_z,
                   true,
                   {}};
    Cut cut = begin_cut(from_back ? "carve-rough-back" : "carve-rough",
                        from_back ? "Back, roughing the carve" : "Face, roughing the carve", *rough, plan.feeds);
    cut.strands = rough_by_levels(target, stock, plan);
    keep_cut(side, std::move(cut));
    const TileGrid grid = plain_grid(fine_cell);
    FinishPlan finish{
        *ball, feeds(*ball, w_.rough_leave, row_distance(*ball, w_.scallop, 0), 0.03), w_.scallop, 0.4, flat_z, 0, {}};
    Cut fine = begin_cut(from_back ? "carve-back" : "carve",
                         from_back ? "Back, finishing the carve" : "Face, finishing the carve", *ball, finish.feeds);
    for (const auto& run : chains(1.0, wanted))
      for (Strand& s : finish_along(surface, grid, run, finish)) fine.strands.push_back(std::move(s));
    keep_cut(side, std::move(fine));
  }

  void edge(Placement& side, bool from_back) {
    const ComfortNumbers& c = s_.given.comfort;
    const double radius = from_back ? c.round_back : c.round_face;
    if (radius <= 0) return;
    const bool carved = from_back ? s_.carved_back() : s_.carved_face();
    const bool form = c.round_by_form && !carved;
    const Cutter* k = cutter(form ? w_.round_cutter : w_.finish_cutter);
    if (k == nullptr) return;
    const Turn turn = turn_;
    EdgePlan plan;
    plan.cutter = *k;
    plan.outline = turned(turn_, s_.outline);
    plan.radius = radius;
    // Beside the outline there is only waste: the ball's tip goes down there until its flank stands against the wall.
    plan.surface = [this, turn, from_back](Vec2 q) {
      const Vec2 p = turned(turn, q);
      return s_.inside->holds(p) ? turned_z(turn, from_back ? s_.bottom(p) : s_.top(p)) : -1e9;
    };
    plan.top = side_z(from_back ? -s_.thickness : 0);
    plan.scallop = w_.scallop;
    const double carve_most = carved ? (from_back ? c.belly_depth
                                                  : std::max(c.bevel_depth, c.carve == CarveKind::dome    ? c.carve_drop
                                                                            : c.carve == CarveKind::drawn ? 30.0
                                                                                                          : 0.0))
                                     : 0;
    plan.lowest = plan.top - carve_most - radius - k->radius();
    plan.feeds = feeds(*k, radius * 0.6, radius * 0.6, 0.03);
    const std::string id = from_back ? "round-back" : "round";
    const std::string title = from_back ? "Back's edge, rounded" : "Face's edge, rounded";
    Cut cut = begin_cut(id, title, *k, plan.feeds);
    if (form) {
      auto strands = round_edge_by_form(plan);
      if (!strands) return refuse("body.edge_unplanned", title, strands.error(), "body.round_cutter");
      cut.strands = std::move(*strands);
    } else {
      cut.strands = round_edge_by_ball(plan);
    }
    keep_cut(side, std::move(cut));
  }

  // ---- outline

  [[nodiscard]] OutlinePlan outline_plan(const Cutter& c) const {
    OutlinePlan plan;
    plan.cutter = c;
    plan.feeds = slotting(c, 0.05);
    plan.through = w_.through;
    plan.climb = true;
    plan.skim = w_.skim;
    plan.tab_length = w_.tab_length;
    plan.tab_height = w_.tab_height;
    if (w_.grain == GrainWay::thin && w_.thin_skim < w_.skim) plan.thin = w_.thin_skim;
    return plan;
  }

  /// How far the carved face falls at the outline, at most.
  [[nodiscard]] double deepest_edge() const {
    double deep = 0;
    for (std::size_t i = 0; i < s_.corners.size(); i += 4) deep = std::max(deep, -s_.carved_top(s_.corners[i]));
    return deep;
  }

  /// The last skim in stretches, each in its safer direction: conventional where that runs with the grain, else climb.
  void in_stretches(OutlinePlan& plan, const Contour& contour) const {
    if (w_.grain != GrainWay::safer) return;
    for (const GrainSpan& g : grain_spans(contour)) plan.stretches.push_back({g.from, g.to, g.run != GrainRun::with});
    if (plan.stretches.size() < 2) plan.stretches.clear();
  }

  void outline(Placement& side, bool from_back) {
    if (!from_back && w_.outline == OutlineSchool::full) return;
    if (from_back && w_.outline == OutlineSchool::guide) return;
    const double thick = s_.thickness;
    const double half =
        w_.outline == OutlineSchool::guide ? std::min(w_.guide_depth, thick - 1) : thick / 2 + groove_past;
    const double depth = w_.outline == OutlineSchool::full ? thick + w_.through
                         : from_back                       ? thick - half + groove_past
                                                           : half;
    const Cutter* c = reaching(w_.outline_cutter, depth);
    if (c == nullptr) return;
    OutlinePlan plan = outline_plan(*c);
    const Contour contour = turned(turn_, s_.outline);
    if (!from_back) {
      plan.wood_top = half + d_.face_top;
      if (w_.face_off > 0) plan.wood_top = half;
      plan.through = 0;
      plan.tab_height = 0;
      plan.shift = -half;
      if (w_.outline == OutlineSchool::guide) plan.skim = 0;
    } else {
      // In halves the groove from the front is the floor: its wood side z is `half` over the face.
      const double floor = w_.outline == OutlineSchool::full ? 0 : half;
      plan.wood_top = thick - floor;
      plan.shift = floor;
      if (w_.outline == OutlineSchool::halves) plan.through = groove_past;
      // Rounding the face's edge has cut a groove beside it: tabs stand above that.
      if (w_.outline == OutlineSchool::full && s_.given.comfort.round_face > 0) {
        const Cutter* ball = cutter(w_.finish_cutter);
        const double carve = s_.carved_face() ? deepest_edge() : 0;
        plan.tab_height += s_.given.comfort.round_face + carve +
                           (s_.given.comfort.round_by_form && !s_.carved_face() ? 0
                            : ball != nullptr                                   ? ball->radius()
                                                                                : 0);
      }
      for (const Vec2 t : d_.tabs) plan.tabs.push_back(nearest_along(contour, turned(turn_, t)));
    }
    if (plan.skim > 0) in_stretches(plan, contour);
    Cut cut = begin_cut(from_back                            ? "outline"
                        : w_.outline == OutlineSchool::guide ? "guide"
                                                             : "outline-front",
                        from_back                            ? "Outline, with tabs"
                        : w_.outline == OutlineSchool::guide ? "Guide groove for the band saw"
                                                             : "Outline, upper half",
                        *c, plan.feeds);
    auto strands = cut_outline(contour, plan);
    if (!strands) return refuse("body.outline_unplanned", cut.title, strands.error(), "body.outline_cutter");
    cut.strands = std::move(*strands);
    keep_cut(side, std::move(cut));
  }

  // ---- placements

  void front() {
    Placement& side = begin_side("front", "Front", d_.front);
    if (s_.layers.size() == 1) pins(side, d_.blank.thickness);
    if (w_.face_off > 0)
      if (const Cutter* c = cutter(w_.facing_cutter)) {
        const Feeds f = feeds(*c, 1.0, 0.7 * c->effective_diameter(), 0.05);
        Cut cut = begin_cut("facing", "Facing to thickness", *c, f);
        const Vec2 half{d_.blank.length / 2, d_.blank.width / 2};
        cut.strands = face_off(d_.blank_middle - half, d_.blank_middle + half, w_.face_off, 0, *c, f, 1.0);
        keep_cut(side, std::move(cut));
        top_ = 0;
      }
    cavities(side, false);
    holes(side, false);
    outline(side, false);
    carve(side, false);
    edge(side, false);
  }

  void back() {
    Placement& side = begin_side("back", "Back", d_.back);
    cavities(side, true);
    holes(side, true);
    carve(side, true);
    edge(side, true);
    outline(side, true);
  }

  /// The body sawn out beside its groove, still on its back's side up: the last skim at full depth.
  void sawn() {
    Setup setup = d_.back;
    setup.wood_top = sawn_top();
    Placement& side = begin_side("skim", "Last skim, after the band saw", setup);
    const Cutter* c = reaching(w_.outline_cutter, s_.thickness);
    if (c == nullptr) return;
    const Contour contour = turned(turn_, s_.outline);
    Cut cut = begin_cut("outline", "Outline, last skims", *c, feeds(*c, s_.thickness, w_.guide_leave, 0.06));
    cut.stop_before = true;
    cut.stop_text = fmt::format(
        "Saw the body out beside the groove, {} outside the line; fix it on its pins or through the neck pocket and "
        "the cavities, back up.",
        mm(w_.guide_leave));
    const double bite = c->effective_diameter() * 2;
    const int levels = std::max(1, static_cast<int>(std::ceil(s_.thickness / bite)));
    const auto round_at = [&](double out, double z, bool climb) {
      Polygon ring;
      if (auto exact = offset_outside(contour, c->radius() + out))
        ring = flatten(*exact, 0.002);
      else if (const auto grown = offset({flatten(contour, 0.002)}, c->radius() + out); !grown.empty())
        ring = *widest(grown);
      if (ring.empty()) return;
      if (climb) std::reverse(ring.begin(), ring.end());
      Strand s;
      s.plunge_feed = cut.plunge;
      s.free_z = top_;
      const Vec2 in = left_of(unit(ring[1] - ring[0])) * (climb ? w_.guide_leave + 1 : -(w_.guide_leave + 1));
      const Vec2 begin = ring.front() + in;
      s.start = {begin.x, begin.y, z};
      for (std::size_t i = 0; i <= ring.size(); ++i)
        s.steps.push_back({{ring[i % ring.size()].x, ring[i % ring.size()].y, z}, {}, cut.feed, StepKind::line});
      s.steps.push_back({s.start, {}, cut.feed, StepKind::line});
      cut.strands.push_back(std::move(s));
    };
    for (int i = 1; i <= levels; ++i) round_at(w_.skim, s_.thickness - (s_.thickness + w_.through) * i / levels, true);
    round_at(0, -w_.through, true);
    keep_cut(side, std::move(cut));
  }

 public:
  /// Top of the wood after the band saw, side frame of the back: the body and what the saw left beside it.
  [[nodiscard]] Height sawn_top() const {
    const auto left =
        std::make_shared<const RegionMask>(Region(offset({turned(d_.back.turn, s_.corners)}, w_.guide_leave)), 0.5);
    const double top = s_.thickness;
    return [left, top](Vec2 q) { return left->holds(q) ? top : 0.0; };
  }

 private:
  // ---- covers

  void cover(const Cover& c) {
    const Cutter* k = cutter(w_.outline_cutter);
    const Cutter* clear_with = cutter(w_.clear_cutter);
    if (k == nullptr || clear_with == nullptr) return;
    const auto wood = find_wood(w_.cover_wood);
    if (!wood) {
      out_.remarks.push_back({"body.cover_wood",
                              Weight::stop,
                              wood.error().what + ".",
                              0,
                              0,
                              "",
                              "the woods",
                              "cover.wood",
                              {},
                              Repair{"Take the top's wood", {{"cover.wood", d_.woods.front().name}}},
                              {}});
      return;
    }
    const Box2 box = bounds(c.outline);
    Blank blank;
    blank.length = box.size().x + 2 * w_.cover_margin;
    blank.width = box.size().y + 2 * w_.cover_margin;
    blank.thickness = c.thickness;
    blank.wood = w_.cover_wood;
    AlignmentNumbers a;
    a.school = School::ticks;
    Setup setup = side_setup(p_.machine, blank, a, box.middle(), Turn::none, c.thickness);
    Box2 part;
    for (const Vec2 q : c.outline) part.add(setup.to_work.apply(q));
    setup.board_low = {part.low.x, part.low.y, -c.thickness};
    setup.board_high = {part.high.x, part.high.y, 0};
    Placement& side = begin_side(c.id, c.title + ", its inside up", setup);
    wood_ = *wood;
    if (c.thinned > 0) {
      Cavity middle;
      middle.region = offset({c.inside}, -1.0);
      clear(
          side, middle, "thinned", "Cover, thinned middle", c.thickness,
          [z = c.thickness - c.thinned](Vec2) { return z; }, c.thickness - c.thinned, 0, true);
    }
    std::vector<std::pair<const Cutter*, Cut>> cuts;
    for (const BodyHole& h : c.holds) {
      const Cutter* tool = h.drilled                                                ? drill_in_use(d_.rack, h.diameter)
                           : clear_with->effective_diameter() <= h.diameter + 0.005 ? clear_with
                                                                                    : cutter(w_.fine_cutter);
      if (tool == nullptr) continue;
      // A drill's point just comes through into the waste board.
      const double bottom =
          h.depth > 0 ? c.thickness - h.depth
                      : -w_.through + 0.02 + (tool->kind == CutterKind::drill ? tool->profile(tool->radius()) : 0);
      const BorePlan plan{h.at, h.diameter, c.thickness, bottom, *tool, slotting(*tool)};
      if (cuts.empty())
        cuts.emplace_back(tool,
                          begin_cut("holds", h.title + (h.drilled ? ", pecked" : ", bored"), *tool, slotting(*tool)));
      if (h.drilled)
        cuts.back().second.strands.push_back(peck(plan, std::max(1.0, w_.peck)));
      else if (auto s = bore(plan))
        cuts.back().second.strands.push_back(std::move(*s));
    }
    for (auto& [tool, cut] : cuts) keep_cut(side, std::move(cut));
    OutlinePlan plan = outline_plan(*k);
    plan.thin = 0;
    plan.wood_top = c.thickness;
    plan.tab_height = std::min(1.2, c.thickness * 0.4);
    plan.tab_length = 5;
    Contour contour;
    {
      RecoverOptions options;
      options.within = 0.004;
      options.edges_too = true;
      contour = to_contour(recover(c.outline, true, options).path, 0.002);
    }
    for (const Vec2 t : place_body_tabs(contour, 4, {})) plan.tabs.push_back(nearest_along(contour, t));
    Cut cut = begin_cut("outline", "Cover's outline, with tabs", *k, plan.feeds);
    auto strands = cut_outline(contour, plan);
    if (!strands) return refuse("body.outline_unplanned", cut.title, strands.error(), "body.outline_cutter");
    cut.strands = std::move(*strands);
    keep_cut(side, std::move(cut));
  }

  // ---- reach

  void judge_reach(const Placement& side, const Cut& cut) {
    const Cutter* c = cutter(cut.cutter);
    if (c == nullptr || side.id == "waste-board" || side.id == "skim") return;
    // A wall that a wider cutter has cut already is only followed; a drill's flutes must come up out of the hole.
    const bool follows = cut.id.size() > 5 && (cut.id.ends_with("-edge") || cut.id.ends_with("-rest"));
    // After facing the wood's top is the face itself.
    const double top = side.id == "front" && cut.id != "facing" && cut.id != "pins"
                           ? std::min(0.0, -side.setup.to_work.shift.z)
                           : -side.setup.to_work.shift.z;
    const double depth = top - cut.deepest;
    const bool carve = starts(cut.id, "carve") || starts(cut.id, "round");
    const double need = follows || carve ? 0 : depth;
    const char* key = c->kind == CutterKind::drill                  ? "body.peck"
                      : cut.id.find("outline") != std::string::npos ? "body.outline_cutter"
                      : cut.id == "carve-rough"                     ? "body.rough_cutter"
                      : follows                                     ? "body.fine_cutter"
                                                                    : "body.clear_cutter";
    if (need > c->cutting_length + 1.2 && c->kind != CutterKind::drill) {
      Remark r{
          "body.cutter_short",
          Weight::stop,
          fmt::format("'{}' cuts {} deep, and '{}' only over {}.", cut.title, mm(need), c->id, mm(c->cutting_length)),
          need,
          c->cutting_length,
          "mm",
          "the wood that stands beside the cutter",
          key,
          {},
          {},
          {}};
      for (const Cutter& o : d_.rack)
        if (!r.repair && o.kind == c->kind && std::abs(o.effective_diameter() - c->effective_diameter()) < 0.01 &&
            o.cutting_length >= need && o.stickout > need + 0.5)
          r.repair = Repair{"Take " + o.id, {{key, o.id}}};
      if (!r.repair && cut.id.find("outline") != std::string::npos)
        r.repair = Repair{"Cut half the outline from each side", {{"body.outline_school", "halves"}}};
      out_.remarks.push_back(std::move(r));
    } else if (depth > c->stickout - 0.5) {
      const double more = std::ceil(depth + 1.5);
      Remark r{"body.nut_low",
               Weight::stop,
               fmt::format("In '{}' the collet nut over '{}' comes down onto the wood: {} deep, and it sticks out {}.",
                           cut.title, c->id, mm(depth), mm(c->stickout)),
               depth,
               c->stickout,
               "mm",
               "the wood that stands beside the collet nut",
               key,
               {},
               {},
               {}};
      if (more < c->overall - 12)
        r.repair = Repair{fmt::format("Let it stick out {} mm", format_mm(more, 1)),
                          {{"rack." + c->id + ".stickout", format_mm(more, 1)}}};
      out_.remarks.push_back(std::move(r));
    }
  }

  const Project& p_;
  const BodyWork& w_;
  const BodyDesign& d_;
  const BodyShape& s_;
  Progress* progress_;
  Turn turn_ = Turn::none;
  Wood wood_;
  double top_ = 0;
  BodyCuts out_;
};

}  // namespace

const Placement* BodyCuts::side(const std::string& id) const {
  for (const Placement& s : sides)
    if (s.id == id) return &s;
  return nullptr;
}

BodyCuts plan_body(const Project& project, const BodyDesign& design, Progress* progress) {
  return BodyPlanner(project, design, progress).run();
}

std::vector<Remark> all_remarks(const BodyDesign& design, const BodyCuts& cuts) {
  std::vector<Remark> out = design.remarks;
  out.insert(out.end(), cuts.remarks.begin(), cuts.remarks.end());
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

}  // namespace wren

#include "core/job/board_cuts.hpp"

#include <algorithm>
#include <memory>
#include <tuple>

#include <fmt/format.h>

#include "core/cutting/crown.hpp"
#include "core/cutting/outline.hpp"
#include "core/cutting/pocket.hpp"
#include "core/cutting/slot.hpp"
#include "core/job/memo.hpp"
#include "core/motion/link.hpp"
#include "core/plan/region.hpp"

namespace wren {
namespace {

constexpr double rough_allowance = 0.3;  // mm left on the crown by roughing

std::string mm(double v) { return format_mm(v, 2) + " mm"; }

class Planner {
 public:
  Planner(const Project& p, const BoardDesign& d)
      : p_(p), d_(d), blank_top_([z = p.blank.thickness](Vec2) { return z; }), crown_top_(d.board.crowned().top) {}

  BoardCuts run() {
    const bool flat_first = p_.work.order == CutOrder::flat_first;
    if (flat_first) {
      slots(blank_top_);
      marks(blank_top_);
      crown("crown", "Crown", false);
    } else {
      crown("crown", "Crown", false);
      marks(crown_top_);
      if (!d_.board.marks.empty()) crown("crown-again", "Crown again, over the filled marks", true);
      slots(crown_top_);
    }
    outline();
    link();
    return std::move(out_);
  }

 private:
  const Cutter* cutter(const std::string& id) const { return find_cutter(d_.rack, id); }

  Cut begin(std::string id, std::string title, const Cutter& c, const Feeds& f) const {
    Cut cut;
    cut.id = std::move(id);
    cut.title = std::move(title);
    cut.cutter = c.id;
    cut.rpm = f.rpm;
    cut.feed = f.feed;
    cut.plunge = f.plunge;
    cut.feed_reason = fmt::format("{} 1/min × {} flutes × {:.4f} mm, held by {}; {:.1f} N bend the cutter {:.4f} mm",
                                  f.rpm, c.flutes, f.chip_load, f.limited_by, f.force, f.bending);
    return cut;
  }

  void finish(Cut cut) {
    cut.deepest = 1e300;
    for (const Strand& s : cut.strands) {
      cut.deepest = std::min(cut.deepest, s.start.z);
      for (const Step& step : s.steps) cut.deepest = std::min(cut.deepest, step.to.z);
    }
    if (!cut.strands.empty()) out_.cuts.push_back(std::move(cut));
  }

  void slots(const Height& top) {
    const Cutter* c = cutter(p_.work.slot_cutter);
    if (c == nullptr) return;
    SlotPlan plan;
    plan.cutter = *c;
    plan.feeds = work_out_feeds(*c, d_.wood, p_.machine, {depth_per_pass(*c), c->effective_diameter(), 0.01});
    plan.entry = p_.work.slot_entry;
    plan.wood_top = top;
    Cut cut = begin("slots", "Fret slots", *c, plan.feeds);
    cut.strands = cut_slots(d_.board, plan);
    finish(std::move(cut));
  }

  void marks(const Height& top) {
    const Cutter* c = cutter(p_.work.mark_cutter);
    if (c == nullptr || d_.board.marks.empty()) return;
    PocketPlan plan;
    plan.cutter = *c;
    plan.feeds = work_out_feeds(*c, d_.wood, p_.machine, {depth_per_pass(*c), c->effective_diameter(), 0.03});
    plan.wood_top = top;
    Cut cut = begin("marks", "Position marks", *c, plan.feeds);
    for (const Mark& mark : d_.board.marks)
      if (auto strands = cut_pocket(mark, plan))
        for (auto& s : *strands) cut.strands.push_back(std::move(s));
    finish(std::move(cut));
  }

  void crown(const char* id, const char* title, bool again) {
    const Cutter* c = cutter(p_.work.crown_cutter);
    if (c == nullptr || !can_finish_crown(*c)) return;
    if (p_.instrument.crown.kind == CrownKind::flat && p_.blank.thickness <= p_.instrument.board.thickness + 1e-9)
      return;
    const CrownPlan plan = crown_plan(p_, d_, *c, p_.work.crown_direction);
    Cut cut = begin(id, title, *c, plan.feeds);
    if (!again) {
      for (auto& s : roughing(p_, d_, plan)) cut.strands.push_back(std::move(s));
      out_.crown_stepover = plan.stepover;
      out_.crown_left = crown_left(plan);
    } else {
      cut.stop_before = true;
      cut.stop_text = "Fill the marks, let the filling set, check that the blank has not moved; then plane it flush";
    }
    for (auto& s : finish_crown(d_.board, plan)) cut.strands.push_back(std::move(s));
    finish(std::move(cut));
  }

  void outline() {
    const Cutter* c = cutter(p_.work.outline_cutter);
    if (c == nullptr) return;
    OutlinePlan plan;
    plan.cutter = *c;
    plan.feeds = work_out_feeds(*c, d_.wood, p_.machine, {depth_per_pass(*c), c->effective_diameter(), 0.05});
    plan.wood_top = p_.blank.thickness;
    plan.through = p_.work.through;
    plan.climb = p_.work.outline_climb;
    plan.skim = p_.work.outline_skim;
    plan.tab_length = p_.work.tab_length;
    plan.tab_height = p_.work.tab_height;
    plan.tabs = p_.work.tab_places;
    if (plan.tabs.empty()) {
      std::vector<Vec2> slot_ends;
      for (const FretLine& f : d_.board.frets) {
        slot_ends.push_back(f.bass_edge);
        slot_ends.push_back(f.treble_edge);
      }
      plan.tabs = place_tabs(d_.board.outline, p_.work.tabs, slot_ends);
    }
    const double total = perimeter(d_.board.outline);
    for (double& s : plan.tabs) s = std::fmod(s, total);
    out_.tab_places = plan.tabs;
    Cut cut = begin("outline", "Outline", *c, plan.feeds);
    auto strands = cut_outline(d_.board.outline, plan);
    if (!strands) {
      out_.remarks.push_back({"outline.unplanned",
                              Weight::stop,
                              "The outline cannot be planned: " + strands.error().what + ".",
                              0,
                              0,
                              "",
                              "the outline",
                              "board.end",
                              {},
                              {}});
      return;
    }
    cut.strands = std::move(*strands);
    finish(std::move(cut));
  }

  void link() {
    LinkHeights heights;
    heights.safe = safe_height(d_.setup, p_.programs.safe);
    out_.paths = link_cuts(out_.cuts, d_.setup, d_.rack, heights);
    for (const Toolpath& path : out_.paths) {
      out_.path_seconds.push_back(estimate_seconds(path, p_.machine));
      out_.seconds += out_.path_seconds.back();
    }
    for (const Cut& cut : out_.cuts) {
      CutFacts f{cut.id,         cut.title, cut.cutter, 0, cut.rpm, cut.feed, d_.setup.to_work.apply_z(cut.deepest),
                 cut.feed_reason};
      for (const Toolpath& path : link_cuts({cut}, d_.setup, d_.rack, heights))
        f.seconds += estimate_seconds(path, p_.machine);
      out_.facts.push_back(std::move(f));
      judge_clamps(cut);
    }
  }

  void judge_clamps(const Cut& cut) {
    const Cutter* c = cutter(cut.cutter);
    if (c == nullptr) return;
    for (const auto& box : d_.setup.clamp_boxes()) {
      double nearest = 1e300;
      for (const Strand& s : cut.strands) {
        const auto look = [&](Vec3 p) {
          const Vec2 q = d_.setup.to_work.apply({p.x, p.y});
          const double z = d_.setup.to_work.apply_z(p.z);
          if (z >= box.high.z) return;
          const double dx = std::max({box.low.x - q.x, 0.0, q.x - box.high.x});
          const double dy = std::max({box.low.y - q.y, 0.0, q.y - box.high.y});
          const double part = z + c->stickout < box.high.z ? std::max(c->radius(), c->nut_diameter / 2) : c->radius();
          nearest = std::min(nearest, std::hypot(dx, dy) - part);
        };
        look(s.start);
        for (const Step& step : s.steps) look(step.to);
      }
      if (nearest < 0)
        out_.remarks.push_back({"clamp.in_path",
                                Weight::stop,
                                fmt::format("In the cut '{}' the cutter '{}' runs {} into the clamp '{}'.", cut.title,
                                            c->id, mm(-nearest), box.name),
                                -nearest,
                                0,
                                "mm",
                                "the clamp's place and the cutter's width",
                                "board.clamps",
                                {},
                                Repair{"Hold it with tape, no clamps", {{"board.clamps", "none"}}}});
    }
  }

 public:
  static Polygon crown_area(const Project& p, const BoardDesign& d) {
    if (p.work.crown_extent == CrownExtent::board) return flatten(d.board.outline, 0.05);
    const Setup& s = d.setup;
    Polygon out;
    for (const Vec2 corner : {Vec2{0, 0}, Vec2{1, 0}, Vec2{1, 1}, Vec2{0, 1}})
      out.push_back(
          s.to_work.back({s.blank_corner.x + corner.x * s.blank_size.x, s.blank_corner.y + corner.y * s.blank_size.y}));
    return out;
  }

  static CrownPlan crown_plan(const Project& p, const BoardDesign& d, const Cutter& c, Direction direction) {
    CrownPlan plan;
    plan.cutter = c;
    plan.direction = direction;
    plan.area = crown_area(p, d);
    plan.wood_top = p.blank.thickness;
    plan.whole_blank = p.work.crown_extent == CrownExtent::blank;
    if (plan.whole_blank) plan.beyond = 0;
    if (p.work.crown_stepover > 0) {
      plan.stepover = std::min(p.work.crown_stepover, 0.9 * c.effective_diameter());
    } else {
      // Worked out once for each surface and cutter: it costs more than all else here together.
      using Key = std::tuple<Crown, BoardShape, Strings, Frets, Cutter, Direction, double, Polygon>;
      static Memo<Key, double> memo(64);
      plan.stepover = memo.get({p.instrument.crown, p.instrument.board, p.instrument.strings, p.instrument.frets, c,
                                direction, p.work.crown_scallop, plan.area},
                               [&] { return stepover_for(d.board, plan, p.work.crown_scallop); });
    }
    const double depth = std::min(most_above_crown(d.board, plan.area, p.blank.thickness), bite(c));
    plan.feeds = work_out_feeds(c, d.wood, p.machine, {std::max(0.2, depth), plan.stepover, 0.02});
    return plan;
  }

  static double bite(const Cutter& c) { return std::clamp(0.15 * c.effective_diameter(), 0.5, 4.0); }

  /// Rows by levels, where there is more wood than the finishing rows may take at once.
  static std::vector<Strand> roughing(const Project& p, const BoardDesign& d, const CrownPlan& fine) {
    const double most = most_above_crown(d.board, fine.area, p.blank.thickness);
    if (most <= bite(fine.cutter) + 1e-9) return {};
    CrownPlan rough = fine;
    rough.stepover = std::max(fine.stepover, 0.4 * fine.cutter.effective_diameter());
    rough.allowance = rough_allowance;
    rough.feeds = work_out_feeds(fine.cutter, d.wood, p.machine, {bite(fine.cutter), rough.stepover, 0.05});
    return rough_crown(d.board, rough, bite(fine.cutter));
  }

 private:
  double crown_left(const CrownPlan& plan) const { return left_over(d_.board, plan); }

  const Project& p_;
  const BoardDesign& d_;
  Height blank_top_;
  Height crown_top_;
  BoardCuts out_;
};

}  // namespace

BoardCuts plan_cuts(const Project& project, const BoardDesign& design) { return Planner(project, design).run(); }

Design proof_design(const Project& p, const BoardDesign& d) {
  auto made = std::make_shared<Fretboard>(d.board);
  if (const Cutter* c = find_cutter(d.rack, p.work.mark_cutter))
    for (Mark& mark : made->marks)
      if (mark.radius <= 0) {
        // In and out again by the cutter's radius: inner corners become as round as the cutter.
        const auto inner = offset({mark.outline}, -c->radius());
        if (const auto rounded = offset(inner, c->radius()); !rounded.empty()) mark.outline = rounded.front();
      }
  Design design;
  design.outline = made->outline;
  design.finished = [made](Vec2 q) { return made->finished_height(q); };
  design.crowned = [made](Vec2 q) { return made->crown_height(q); };
  for (const FretLine& fret : made->frets)
    design.slots.push_back({fmt::format("fret {}", fret.number), fret.slot_bass, fret.slot_treble,
                            made->given.slot.width, [made](Vec2 q) { return made->slot_floor(q); },
                            made->given.slot.ends == SlotEnds::blind});
  for (const Mark& mark : made->marks) design.pockets.push_back(mark.outline);
  return design;
}

ProofRequest proof_request(const Project& p, const BoardDesign& d, std::vector<ProgramText> programs, double cell) {
  ProofRequest request;
  request.programs = std::move(programs);
  request.rack = d.rack;
  request.setup = d.setup;
  request.design = proof_design(p, d);
  request.tolerances.below = p.work.through;
  request.tolerances.left_over = std::max(request.tolerances.left_over, p.work.crown_scallop * 1.5 + 0.01);
  // A grid of at most 60 million cells, whatever the blank.
  const double area = d.setup.blank_size.x * d.setup.blank_size.y;
  request.cell = std::max(cell, std::sqrt(area / 60e6));
  return request;
}

std::vector<CrownChoice> crown_table(const Project& p, const BoardDesign& d, Progress* progress) {
  std::vector<CrownChoice> out;
  Project by_scallop = p;
  by_scallop.work.crown_stepover = 0;
  std::size_t done = 0;
  for (const Cutter& c : d.rack) {
    ++done;
    if (!can_finish_crown(c)) continue;
    for (const Direction direction : {Direction::along, Direction::across}) {
      if (progress != nullptr && !progress->go_on(static_cast<double>(done) / static_cast<double>(d.rack.size()),
                                                  "comparing cutters for the crown"))
        return out;
      CrownPlan plan = Planner::crown_plan(by_scallop, d, c, direction);
      CrownChoice choice{c.id, direction, plan.stepover, 0, left_over(d.board, plan), "", true};
      const Box2 box = bounds(plan.area);
      const Vec2 size = box.size();
      const double rows = (direction == Direction::along ? size.y : size.x) / plan.stepover;
      const double length = rows * (direction == Direction::along ? size.x : size.y);
      if (length > 1.5e6) {  // more than a kilometre and a half of rows: an hour or many, not worth planning
        choice.minutes = length / plan.feeds.feed;
        choice.cost = "far too many rows";
      } else {
        plan.sample = direction == Direction::along ? 8 : 3;  // the time hardly feels the sampling
        Cut cut;
        cut.id = "crown";
        cut.cutter = c.id;
        cut.strands = Planner::roughing(by_scallop, d, plan);
        for (auto& s : finish_crown(d.board, plan)) cut.strands.push_back(std::move(s));
        LinkHeights heights;
        heights.safe = safe_height(d.setup, p.programs.safe);
        for (const Toolpath& path : link_cuts({cut}, d.setup, d.rack, heights))
          choice.minutes += estimate_seconds(path, p.machine) / 60;
        if (direction == Direction::across)
          choice.cost = c.flat_radius() > 1
                            ? fmt::format("across the grain; spindle square to 0.02 in 100 mm or steps of {:.3f} mm",
                                          0.0002 * c.effective_diameter())
                            : "across the grain";
        else
          choice.cost = c.flat_radius() > 1 ? "ridges along the strings" : "with the grain";
      }
      const double r = c.radius();
      for (const auto& clamp : d.setup.clamp_boxes()) {
        const Vec2 a = d.setup.to_work.apply(box.low);
        const Vec2 b = d.setup.to_work.apply(box.high);
        if (clamp.high.x > std::min(a.x, b.x) - r && clamp.low.x < std::max(a.x, b.x) + r &&
            clamp.high.y > std::min(a.y, b.y) - r && clamp.low.y < std::max(a.y, b.y) + r)
          choice.reaches = false;
      }
      if (!choice.reaches) choice.cost += "; touches a clamp";
      out.push_back(std::move(choice));
    }
  }
  std::sort(out.begin(), out.end(), [](const CrownChoice& a, const CrownChoice& b) { return a.minutes < b.minutes; });
  return out;
}

}  // namespace wren

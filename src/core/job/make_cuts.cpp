#include "core/job/make_cuts.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/cutting/choose.hpp"
#include "core/cutting/way_down.hpp"
#include "core/motion/link.hpp"
#include "core/units/plain_number.hpp"
#include "core/workshop/safe_height.hpp"

namespace wren {
namespace {

constexpr double rough_allowance = 0.3;  // mm left on a crown by roughing

Words reason_of(const Feeds& f, const Cutter& c) {
  return worded("{} 1/min × {} flutes × {}, held by {}; {:.1f} N bend the cutter {}", f.rpm, c.flutes,
                mm(f.chip_load, 4), f.limited_by, f.force, mm(f.bending, 4));
}

/// Turns one operation's shape into strands. Every shape has one way, whatever the part.
class Cutting {
 public:
  Cutting(const Operation& op, const Side& side, const CutWith& with, std::optional<TileGrid>& roughed,
          std::vector<Remark>& remarks)
      : op_(op),
        side_(side),
        with_(with),
        roughed_(roughed),
        remarks_(remarks),
        cutter_(find_cutter(with.rack, op.cutter)) {}

  std::vector<Cut> run() {
    if (cutter_ == nullptr) return {};
    std::visit([this](const auto& shape) { make(shape); }, op_.shape);
    return std::move(out_);
  }

 private:
  [[nodiscard]] Feeds feeds(const Cutter& c, double depth, double width, double bending) const {
    return work_out_feeds(c, side_.wood, with_.machine, {depth, width, bending});
  }
  [[nodiscard]] Feeds slotting(const Cutter& c, double bending) const {
    return feeds(c, depth_per_pass(c), c.effective_diameter(), bending);
  }

  void keep(std::vector<Strand> strands, const Cutter& c, const Feeds& f, const std::string& id, const Words& title) {
    if (strands.empty()) return;
    Cut cut{id,
            title,
            c.id,
            f.rpm,
            f.feed,
            f.plunge,
            reason_of(f, c),
            1e300,
            !op_.stop_before.empty(),
            op_.stop_before,
            std::move(strands)};
    // A finished surface downhill is no way into wood; roughing and clearing look at their wood themselves.
    if (std::holds_alternative<Outline>(op_.shape) || std::holds_alternative<Channels>(op_.shape) ||
        std::holds_alternative<Skims>(op_.shape) || std::holds_alternative<Face>(op_.shape) || from_the_blank() ||
        std::holds_alternative<Slots>(op_.shape))
      for (Strand& s : cut.strands) s = with_ways_down(s, c);
    // Nothing goes steeply down faster than it plunges; off a tab that is anything over 45°, and a chord's rounding.
    const bool outline = std::holds_alternative<Outline>(op_.shape);
    const double steep = outline ? 0.69 : 0.98;
    // Places are written in thousandths: a short step may come out steeper than it is.
    constexpr double rounded = 0.0015;
    const double least = outline ? 0.001 : 0.003;
    for (Strand& s : cut.strands) {
      Vec3 at = s.start;
      for (Step& step : s.steps) {
        const double drop = at.z - step.to.z;
        if (step.kind == StepKind::line && drop > least &&
            drop + rounded > steep * (distance(flat(at), flat(step.to)) - rounded))
          step.feed = std::min(step.feed, s.plunge_feed > 0 ? s.plunge_feed : step.feed);
        at = step.to;
      }
    }
    for (const Strand& s : cut.strands) {
      cut.deepest = std::min(cut.deepest, s.start.z);
      for (const Step& step : s.steps) cut.deepest = std::min(cut.deepest, step.to.z);
    }
    out_.push_back(std::move(cut));
  }
  void keep(std::vector<Strand> strands, const Feeds& f) { keep(std::move(strands), *cutter_, f, op_.id, op_.title); }

  /// Finishing rows that no roughing went before.
  [[nodiscard]] bool from_the_blank() const {
    const auto* finish = std::get_if<Finish>(&op_.shape);
    return finish != nullptr && finish->leave > 1;
  }

  void refuse(const std::string& what, const std::string& why) {
    remarks_.push_back({with_.part + ".unplanned",
                        Weight::stop,
                        worded("'{}' cannot be planned: {}.", what, why),
                        0,
                        0,
                        "",
                        "geometry",
                        op_.key,
                        {},
                        {},
                        {}});
  }
  /// Strands, or a remark that says why there are none.
  void keep_or_refuse(Expected<std::vector<Strand>> strands, const Feeds& f) {
    if (strands)
      keep(std::move(*strands), f);
    else
      refuse(op_.title, strands.error().what);
  }

  void make(const Slots& s) {
    SlotPlan plan{*cutter_, slotting(*cutter_, 0.01), s.entry, s.wood_top};
    keep(cut_slots(*s.board, plan), plan.feeds);
  }

  void make(const CrownRows& s) {
    const auto bite = [](const Cutter& c) { return std::clamp(0.15 * c.effective_diameter(), 0.5, 4.0); };
    CrownPlan plan = s.plan;
    plan.cutter = *cutter_;
    const double most = most_above_crown(*s.board, plan.area, plan.wood_top);
    // Without an edge at its centre a cutter may not follow the crown downhill into more than a finishing leave.
    const double leave = cutter_->centre_cutting ? bite(*cutter_) : 0.45;
    const double first = s.rough ? std::min(most, leave) : most;
    plan.feeds = feeds(*cutter_, std::max(0.2, first), plan.stepover, 0.02);
    std::vector<Strand> strands;
    if (s.rough && most > leave + 1e-9) {
      CrownPlan rough = plan;
      rough.stepover = std::max(plan.stepover, (cutter_->centre_cutting ? 0.4 : 0.7) * cutter_->effective_diameter());
      rough.allowance = rough_allowance;
      rough.feeds = feeds(*cutter_, bite(*cutter_), rough.stepover, 0.05);
      for (const Strand& one : rough_crown(*s.board, rough, bite(*cutter_)))
        strands.push_back(with_ways_down(cutter_->centre_cutting ? one : gentle(one, *cutter_), *cutter_));
      // Where the crown is steeper than it may go downhill it left more than a finishing leave: that goes in layers.
      if (!cutter_->centre_cutting) {
        double left = rough_allowance;
        for (const Strand& one : rough_crown(*s.board, rough, 1e3)) {
          const Strand flat_one = gentle(one, *cutter_);
          for (std::size_t k = 0; k < one.steps.size(); ++k)
            left = std::max(left, rough_allowance + flat_one.steps[k].to.z - one.steps[k].to.z);
        }
        for (double a = left - 0.45; left > 0.5 && a > rough_allowance; a -= 0.45) {
          rough.allowance = a;
          for (Strand& one : rough_crown(*s.board, rough, 1e3)) strands.push_back(std::move(one));
        }
      }
    }
    for (Strand& row : finish_crown(*s.board, plan)) strands.push_back(std::move(row));
    keep(std::move(strands), plan.feeds);
  }

  /// Rough, floor and walls of a cavity; then what is left with the fine cutter.
  void make(const Clear& s) {
    ClearPlan plan = s.plan;
    const double depth = plan.top - plan.lowest_floor;
    if (depth <= 0.005) return;
    const double reach = s.stands - plan.lowest_floor;
    const auto reaches = [&](const Cutter& c) { return c.cutting_length + 0.01 >= reach && c.stickout > reach + 1; };
    const Cutter* deep = s.deep.empty() ? nullptr : find_cutter(with_.rack, s.deep);
    const Cutter* wide = reaches(*cutter_) || deep == nullptr ? cutter_ : deep;
    // The fine one stands beside the walls to their full height, whatever the wide one has left it to do.
    const Cutter* fine = s.fine.empty() ? nullptr : find_cutter(with_.rack, s.fine);
    if (fine != nullptr && !reaches(*fine)) fine = one_that_reaches(with_.rack, *fine, reach, reach + 1);
    plan.leave_floor = std::min(plan.leave_floor, depth * 0.4);
    const Cutter* edge = s.edge.empty() ? nullptr : find_cutter(with_.rack, s.edge);
    if (edge != nullptr && !reaches(*edge)) edge = one_that_reaches(with_.rack, *edge, reach, reach + 1);
    const Region whole = plan.region;
    const double skim = plan.leave_wall;
    if (edge != nullptr) {
      // What a ball's radius takes beside the walls is left to it, full height.
      plan.region = offset(whole, -edge->radius());
      plan.leave_wall = 0;
    }
    // A cavity narrower than the wide cutter is cut altogether with one that goes in.
    const bool narrow = offset(plan.region, -(wide->radius() + (plan.finish ? plan.leave_wall : 0))).empty() &&
                        offset(plan.region, -wide->radius()).empty();
    const Cutter* first = narrow ? widest_that_goes(with_.rack, plan.region, depth) : wide;
    if (first == nullptr) {
      remarks_.push_back({with_.part + ".cavity_narrow",
                          Weight::stop,
                          worded("No flat cutter of the rack goes into '{}'.", op_.title),
                          0,
                          0,
                          "mm",
                          "geometry",
                          op_.key,
                          {},
                          {},
                          {}});
      return;
    }
    const auto clear = [&](const Cutter& c, std::string id, Words title) -> std::optional<Region> {
      plan.cutter = c;
      plan.bite = std::min(c.effective_diameter() * (c.cutting_length > 8 * c.effective_diameter() ? 0.7 : 1.0),
                           c.cutting_length);
      plan.feeds = feeds(c, plan.bite, plan.step * c.effective_diameter(), 0.06);
      plan.entry = slotting(c, 0.05);
      auto cleared = clear_region(plan);
      if (!cleared) {
        refuse(title, cleared.error().what);
        return {};
      }
      std::vector<Strand> strands;
      for (const Strand& one : cleared->rough) strands.push_back(with_ways_down(one, c));
      for (auto* more : {&cleared->floor, &cleared->walls})
        std::move(more->begin(), more->end(), std::back_inserter(strands));
      keep(std::move(strands), c, plan.feeds, id, title);
      return std::move(cleared->reached);
    };
    const auto reached = clear(*first, op_.id, op_.title);
    if (edge != nullptr && reached) {
      plan.cleared = *reached;
      plan.region = whole;
      plan.leave_wall = skim;
      plan.leave_floor = 0;
      (void)clear(*edge, op_.id + "-round", worded("{}, floor's edge rounded", op_.title));
      return;
    }
    if (!reached || !plan.finish || narrow || fine == nullptr || fine->radius() >= first->radius() - 0.05) return;
    Region left = left_by(plan.region, first->radius());
    if (!s.within.empty()) left = intersected(left, {s.within});
    if (area(left) > 1.5) {
      plan.cleared = *reached;
      (void)clear(*fine, op_.id + "-rest", worded("{}, corners", op_.title));
    } else if (std::abs(plan.slope) * first->radius() > 0.025) {
      floors_edge(plan, *first, *fine);
    }
  }

  /// Where a sloping floor meets its side walls the wide cutter leaves slope times its radius: the fine one goes
  /// nearer, but only where the wide one has been; corners it did not reach would be too deep, so they are passed
  /// wider.
  void floors_edge(const ClearPlan& plan, const Cutter& first, const Cutter& fine) {
    const Feeds f = feeds(fine, std::min(fine.effective_diameter(), fine.cutting_length),
                          plan.step * fine.effective_diameter(), 0.06);
    const Height tip = [&plan, r = fine.radius()](Vec2 q) { return plan.floor(q) + std::abs(plan.slope) * r; };
    const double wider = first.radius() + 0.6;
    const Region reached = offset(offset(plan.region, -wider), wider);
    std::vector<Strand> strands;
    for (const double in : {fine.radius() + 1.3, fine.radius() + 0.5, fine.radius()})
      for (const Polygon& ring : offset(reached, -in - 0.03)) strands.push_back(skim_ring(ring, tip, plan.top, f));
    keep(std::move(strands), fine, f, op_.id + "-edge", worded("{}, floor's edge", op_.title));
  }

  void make(const Holes& s) {
    const Feeds f = slotting(*cutter_, op_.bending);
    std::vector<Strand> strands;
    for (const Holes::One& h : s.holes) {
      const BorePlan plan{h.at, h.diameter, h.top, h.bottom, *cutter_, f};
      const bool drill = cutter_->kind == CutterKind::drill;
      if (s.peck > 0 && (drill || std::abs(cutter_->effective_diameter() - h.diameter) < 0.06)) {
        if (cutter_->effective_diameter() > h.diameter + 0.06)
          return refuse(h.title, worded("'{}' is wider than a hole of {}", cutter_->id, mm(h.diameter)));
        strands.push_back(peck(plan, s.peck));
      } else if (auto one = bore(plan)) {
        strands.push_back(std::move(*one));
      } else {
        return refuse(h.title, one.error().what);
      }
    }
    keep(std::move(strands), f);
  }

  void make(const Channels& s) {
    const Feeds f = slotting(*cutter_, op_.bending);
    std::vector<Strand> strands;
    for (const Channels::One& c : s.channels) {
      if (auto one = cut_channel({c.a, c.b, c.width, c.floor, s.top, *cutter_, f}))
        strands.push_back(std::move(*one));
      else
        refuse(c.title, one.error().what);
    }
    keep(std::move(strands), f);
  }

  void make(const Outline& s) {
    OutlinePlan plan = s.plan;
    plan.cutter = *cutter_;
    plan.feeds = slotting(*cutter_, 0.05);
    keep_or_refuse(cut_outline(s.contour, plan), plan.feeds);
  }

  void make(const Rough& s) {
    const double bite = depth_per_pass(*cutter_);
    const RoughPlan plan{*cutter_, slotting(*cutter_, 0.06), bite, 0.45, s.top, true, s.loops};
    TileGrid stock = s.stock(s.cell);
    keep(rough_by_levels(s.target(s.cell), stock, plan), plan.feeds);
    roughed_ = std::move(stock);
  }

  void make(const Finish& s) {
    FinishPlan plan = s.plan;
    plan.cutter = *cutter_;
    const double width = s.row_width > 0 ? s.row_width : row_distance(*cutter_, plan.scallop, plan.bend);
    plan.feeds = feeds(*cutter_, s.leave, width, 0.03);
    plan.stock = roughed_ ? &*roughed_ : nullptr;
    const TileGrid grid = s.grid(s.cell);
    std::vector<Strand> strands;
    for (std::size_t run = 0; run < s.runs.size(); ++run) {
      for (Strand& row : finish_along(s.surface, grid, s.runs[run], plan)) strands.push_back(std::move(row));
      if (run == 0)
        for (const auto& [a, b] : s.ways) {
          Strand way{a, plan.wood_top, plan.feeds.plunge, {}};
          way.steps.push_back({b, {}, plan.feeds.feed, StepKind::line});
          strands.push_back(std::move(way));
        }
    }
    keep(std::move(strands), plan.feeds);
  }

  void make(const Sides& s) {
    const SidePlan plan{*cutter_, feeds(*cutter_, 1.5, s.leave, 0.03), s.scallop, s.lowest, s.wood_top};
    std::vector<Strand> strands;
    for (const auto& band : s.bands)
      for (Strand& row :
           s.by_levels ? finish_side_levels(s.surface, band, plan) : finish_side_ball(s.surface, band, plan))
        strands.push_back(std::move(row));
    keep(std::move(strands), plan.feeds);
  }

  void make(const RoundEdge& s) {
    EdgePlan plan = s.plan;
    plan.cutter = *cutter_;
    plan.feeds = feeds(*cutter_, plan.radius * 0.6, plan.radius * 0.6, 0.03);
    if (s.by_form)
      keep_or_refuse(round_edge_by_form(plan), plan.feeds);
    else
      keep(round_edge_by_ball(plan), plan.feeds);
  }

  void make(const Face& s) {
    const Feeds f = feeds(*cutter_, 1.0, 0.7 * cutter_->effective_diameter(), 0.05);
    keep(face_off(s.low, s.high, s.top, s.bottom, *cutter_, f, 1.0), f);
  }

  /// The cutter's closed way round an outline, clockwise: climb.
  [[nodiscard]] Polygon way_round(const Contour& contour, double out) const {
    Polygon ring;
    if (auto exact = offset_outside(contour, cutter_->radius() + out))
      ring = flatten(*exact, 0.002);
    else if (const auto grown = offset({flatten(contour, 0.002)}, cutter_->radius() + out); !grown.empty())
      ring = *widest(grown);
    std::reverse(ring.begin(), ring.end());
    return ring;
  }

  /// Parts of the cutter's way that lie beside what is kept, or (`within`) in it, each with the ways in and out at its
  /// ends.
  struct Run {
    Polygon way;
    Vec2 in, out;
  };
  [[nodiscard]] std::vector<Run> runs_of(const Polygon& ring, const std::vector<Kept>& kept, double clear,
                                         bool within) const {
    Region near;
    for (const Kept& k : kept) near = joined(near, offset({k.strip}, cutter_->radius() + clear));
    Polygon closed = ring;
    closed.push_back(ring.front());
    std::vector<Polygon> lines;
    if (within) {
      const Box2 box = bounds(ring);
      const Region all = offset({{box.low, {box.high.x, box.low.y}, box.high, {box.low.x, box.high.y}}}, 10);
      lines = lines_outside({closed}, subtracted(all, near));
    } else {
      lines = lines_outside({closed}, near);
    }
    // What begins where another ends is one run: the ring's own beginning is no place to come in.
    for (std::size_t i = 0; i < lines.size(); ++i)
      for (std::size_t j = 0; j < lines.size(); ++j)
        if (i != j && !lines[i].empty() && !lines[j].empty() && distance(lines[i].back(), lines[j].front()) < 1e-4) {
          lines[i].insert(lines[i].end(), lines[j].begin() + 1, lines[j].end());
          lines[j].clear();
        }
    std::vector<Run> out;
    for (Polygon& l : lines) {
      if (l.size() < 2) continue;
      const auto way = [&](Vec2 p) {
        const auto nearest = std::min_element(kept.begin(), kept.end(), [&](const Kept& a, const Kept& b) {
          return distance_to(a.strip, p) < distance_to(b.strip, p);
        });
        return nearest->outward;
      };
      Run run{std::move(l), {}, {}};
      run.in = way(run.way.front());
      run.out = way(run.way.back());
      out.push_back(std::move(run));
    }
    return out;
  }

  void make(const Skims& s) {
    const Feeds f = feeds(*cutter_, s.thickness, s.leave, 0.06);
    std::vector<Strand> strands;
    const auto round_at = [&](double out, double z) {
      const Polygon ring = way_round(s.contour, out);
      if (ring.empty()) return;
      const double aside = s.leave + 1;
      if (s.kept.empty()) {
        const Vec2 begin = ring.front() + left_of(unit(ring[1] - ring[0])) * aside;
        Strand strand{{begin.x, begin.y, z}, s.thickness, f.plunge, {}};
        for (std::size_t i = 0; i <= ring.size(); ++i)
          strand.steps.push_back({{ring[i % ring.size()].x, ring[i % ring.size()].y, z}, {}, f.feed, StepKind::line});
        strand.steps.push_back({strand.start, {}, f.feed, StepKind::line});
        strands.push_back(std::move(strand));
        return;
      }
      for (const Run& run : runs_of(ring, s.kept, s.leave + 0.5, false)) {
        const Vec2 begin = run.way.front() + run.in * aside;
        const Vec2 end = run.way.back() + run.out * aside;
        Strand strand{{begin.x, begin.y, z}, s.thickness, f.plunge, {}};
        for (const Vec2 q : run.way) strand.steps.push_back({{q.x, q.y, z}, {}, f.feed, StepKind::line});
        strand.steps.push_back({{end.x, end.y, z}, {}, f.feed, StepKind::line});
        strands.push_back(std::move(strand));
      }
    };
    const int levels = std::max(1, static_cast<int>(std::ceil(s.thickness / (cutter_->effective_diameter() * 2))));
    for (int i = 1; i <= levels; ++i) round_at(s.skim, s.thickness - (s.thickness + s.through) * i / levels);
    round_at(0, -s.through);
    keep(std::move(strands), f);
  }

  /// Along the line through each strip. It comes in beside the strip, where the skims have cut, and goes out there; the
  /// lowest levels come from both sides up to the tab and back the way they came.
  void make(const KeptOff& s) {
    const Feeds f = slotting(*cutter_, 0.06);
    std::vector<Strand> strands;
    const double aside = s.leave + 1;
    const auto line = [&](const Polygon& way, Vec2 in, Vec2 out, double z) {
      const Vec2 begin = way.front() + in * aside;
      const Vec2 end = way.back() + out * aside;
      Strand strand{{begin.x, begin.y, z}, s.thickness, f.plunge, {}};
      for (const Vec2 q : way) strand.steps.push_back({{q.x, q.y, z}, {}, f.feed, StepKind::line});
      strand.steps.push_back({{end.x, end.y, z}, {}, f.feed, StepKind::line});
      strands.push_back(std::move(strand));
    };
    // As far as `length` along a way, from its front.
    const auto first_of = [](const Polygon& way, double length) {
      Polygon out{way.front()};
      for (std::size_t i = 0; i + 1 < way.size() && length > 0; ++i) {
        const double l = distance(way[i], way[i + 1]);
        out.push_back(l <= length ? way[i + 1] : lerp(way[i], way[i + 1], length / l));
        length -= l;
      }
      return out;
    };
    const auto there_and_back = [](Polygon way) {
      for (std::size_t i = way.size() - 1; i-- > 0;) way.push_back(way[i]);
      return way;
    };
    const auto at_level = [&](double out, double z) {
      for (const Run& run : runs_of(way_round(s.contour, out), s.kept, s.leave + 1.0, true)) {
        if (z >= s.tab_height - 1e-9) {
          line(run.way, run.in, run.out, z);
          continue;
        }
        double whole = 0;
        for (std::size_t i = 0; i + 1 < run.way.size(); ++i) whole += distance(run.way[i], run.way[i + 1]);
        const double half = (whole - s.tab_length) / 2 - cutter_->radius();
        if (half <= 0) continue;
        const Polygon from_front = there_and_back(first_of(run.way, half));
        line(from_front, run.in, run.in, z);
        Polygon other = run.way;
        std::reverse(other.begin(), other.end());
        const Polygon from_back = there_and_back(first_of(other, half));
        line(from_back, run.out, run.out, z);
      }
    };
    const double bite = depth_per_pass(*cutter_);
    const auto levels = [&](double from, double to) {
      const int n = std::max(1, static_cast<int>(std::ceil((from - to) / bite - 1e-9)));
      for (int i = 1; i <= n; ++i) at_level(s.skim, from + (to - from) * i / n);
    };
    levels(s.thickness, s.tab_height);
    levels(s.tab_height, -s.through);
    at_level(0, s.tab_height);
    at_level(0, -s.through);
    keep(std::move(strands), f);
  }

  const Operation& op_;
  const Side& side_;
  const CutWith& with_;
  std::optional<TileGrid>& roughed_;
  std::vector<Remark>& remarks_;
  const Cutter* cutter_;
  std::vector<Cut> out_;
};

/// Flutes and stickout against the wood that stands beside the cutter.
void judge_reach(const Operation& op, const Side& side, const Cut& cut, const CutWith& with, std::vector<Remark>& out) {
  const Cutter* c = find_cutter(with.rack, cut.cutter);
  if (c == nullptr || !op.judge_reach) return;
  const double top = -side.setup.to_work.shift.z;  // side z of the blank's upper face
  const auto height = [&](const Height& own, Vec2 q) {
    return own ? own(q) : side.setup.wood_top ? side.setup.wood_top(q) : top;
  };
  // A wall that a wider cutter has cut already is only followed.
  const bool follows = cut.id != op.id;
  double flutes = 0;
  double nut = 0;
  for (const Strand& s : cut.strands)
    for (std::size_t k = 0; k < s.steps.size(); k += std::max<std::size_t>(1, s.steps.size() / 400)) {
      const Vec3 tip = s.steps[k].to;
      if (!follows) flutes = std::max(flutes, height(op.touches, {tip.x, tip.y}) - tip.z);
      nut = std::max(nut, height(op.under_nut, {tip.x, tip.y}) - tip.z);
    }
  if (!op.touches && !side.setup.wood_top && !follows) flutes = std::max(flutes, top - cut.deepest);
  if (!op.under_nut && !side.setup.wood_top) nut = std::max(nut, top - cut.deepest);
  const Cutter* other = one_that_reaches(with.rack, *c, flutes, nut);
  std::vector<Repair> ways;
  if (other != nullptr) ways.push_back({"Take " + other->id, {{op.key, other->id}}});
  // A drill stands in its hole all round: no shank goes in after its flutes.
  const double slack = c->kind == CutterKind::drill ? 0.02 : side.reach_slack;
  if (flutes > c->cutting_length + slack) {
    ways.insert(ways.end(), op.ways_out.begin(), op.ways_out.end());
    out.push_back(
        {with.part + ".cutter_short",
         Weight::stop,
         worded("'{}' cuts {} deep, and '{}' only over {}{}.", cut.title, mm(flutes), c->id, mm(c->cutting_length),
                other != nullptr ? fmt::format("; '{}' reaches", other->id) : std::string()),
         flutes,
         c->cutting_length,
         "mm",
         "the wood that stands beside the cutter",
         op.key,
         {},
         {},
         {}});
  } else if (nut > c->stickout - 0.5) {
    const std::string more = format_mm(std::ceil(nut + 1), 1);
    if (nut + 1 < c->overall - 12)
      ways.push_back({worded("Let it stick out {}", as_mm(more)), {{"rack." + c->id + ".stickout", more}}});
    out.push_back(
        {with.part + ".nut_low",
         Weight::stop,
         worded("In '{}' the collet nut over '{}' comes down onto wood that stands {} over its tip; it sticks out {}.",
                cut.title, c->id, mm(nut), mm(c->stickout)),
         nut,
         c->stickout,
         "mm",
         "the wood that stands beside the collet nut",
         op.key,
         {},
         {},
         {}});
  } else {
    return;
  }
  if (ways.empty()) return;
  out.back().repair = ways.front();
  out.back().others.assign(ways.begin() + 1, ways.end());
}

void judge_clamps(const Side& side, const Cut& cut, const CutWith& with, std::vector<Remark>& out) {
  const Cutter* c = find_cutter(with.rack, cut.cutter);
  if (c == nullptr) return;
  for (const auto& box : side.setup.solids()) {
    double nearest = 1e300;
    const auto look = [&](Vec3 p) {
      const Vec2 q = side.setup.to_work.apply({p.x, p.y});
      const double z = side.setup.to_work.apply_z(p.z);
      if (z >= box.high.z) return;
      // What bores a pin's hole comes before the pin.
      if (box.name == "pin" && std::any_of(side.setup.bed_holes.begin(), side.setup.bed_holes.end(),
                                           [&](const BedHole& h) { return distance(h.at, q) <= h.radius; }))
        return;
      const double dx = std::max({box.low.x - q.x, 0.0, q.x - box.high.x});
      const double dy = std::max({box.low.y - q.y, 0.0, q.y - box.high.y});
      double part = c->radius();
      if (z + c->cutting_length < box.high.z) part = std::max(part, c->shank() / 2);
      if (z + c->stickout < box.high.z) part = std::max(part, c->nut_diameter / 2);
      nearest = std::min(nearest, std::hypot(dx, dy) - part);
    };
    for (const Strand& s : cut.strands) {
      look(s.start);
      for (const Step& step : s.steps) look(step.to);
    }
    if (nearest >= 0) continue;
    out.push_back({"clamp.in_path",
                   Weight::stop,
                   worded("In the cut '{}' the cutter '{}' runs {} into the clamp '{}'.", cut.title, c->id,
                          mm(-nearest), box.name),
                   -nearest,
                   0,
                   "mm",
                   "the clamp's place and the cutter's width",
                   side.clamps_key,
                   {},
                   Repair{"Hold it with tape, no clamps", {{side.clamps_key, "none"}}},
                   {}});
  }
}

/// Paths, their times, and facts of every cut.
void link(Placement& placement, const CutWith& with) {
  LinkHeights heights;
  heights.safe = safe_height(placement.setup, with.safe);
  heights.digit = with.digit;
  placement.paths = link_cuts(placement.cuts, placement.setup, with.rack, heights);
  for (const Toolpath& path : placement.paths) {
    placement.path_seconds.push_back(estimate_seconds(path, with.machine));
    placement.seconds += placement.path_seconds.back();
  }
  for (const Cut& cut : placement.cuts) {
    CutFacts f{cut.id,
               cut.title,
               cut.cutter,
               0,
               cut.rpm,
               cut.feed,
               placement.setup.to_work.apply_z(cut.deepest),
               cut.feed_reason,
               path_length(cut.strands)};
    for (const Toolpath& path : link_cuts({cut}, placement.setup, with.rack, heights))
      f.seconds += estimate_seconds(path, with.machine);
    placement.facts.push_back(std::move(f));
  }
}

}  // namespace

const Placement* PartCuts::side(const std::string& id) const {
  const auto it = std::find_if(sides.begin(), sides.end(), [&](const Placement& s) { return s.id == id; });
  return it != sides.end() ? &*it : nullptr;
}

std::vector<Cut> cuts_of(const Operation& operation, const Side& side, const CutWith& with,
                         std::optional<TileGrid>& roughed, std::vector<Remark>& remarks) {
  return Cutting(operation, side, with, roughed, remarks).run();
}

Expected<PartCuts> make_cuts(const std::vector<Piece>& pieces, const CutWith& with, Progress* progress) {
  const auto stopped = [] {
    return fail(ProblemKind::stopped, "planning was stopped", "", "Start it again when you like");
  };
  PartCuts out;
  double all = 0;
  for (const Piece& piece : pieces)
    for (const Side& side : piece.sides) all += static_cast<double>(side.operations.size() + 1);
  double done = 0;
  const auto go_on = [&](const std::string& phase) {
    return progress == nullptr || progress->go_on(done++ / std::max(1.0, all), phase);
  };
  for (const Piece& piece : pieces)
    for (const Side& side : piece.sides) {
      Placement placement{side.id, side.title, side.setup, {}, {}, {}, {}, 0};
      std::optional<TileGrid> roughed;
      for (const Operation& op : side.operations) {
        if (!go_on("planning: " + op.title)) return stopped();
        for (Cut& cut : cuts_of(op, side, with, roughed, out.remarks)) {
          judge_reach(op, side, cut, with, out.remarks);
          judge_clamps(side, cut, with, out.remarks);
          placement.cuts.push_back(std::move(cut));
        }
      }
      if (!go_on("linking: " + side.title)) return stopped();
      link(placement, with);
      out.seconds += placement.seconds;
      out.sides.push_back(std::move(placement));
    }
  return out;
}

}  // namespace wren

#include "core/proof/proof.hpp"

#include <algorithm>
#include <numbers>
#include <set>

#include <fmt/format.h>

#include "core/proof/clearance.hpp"
#include "core/proof/frame.hpp"
#include "core/proof/probe.hpp"
#include "core/proof/strokes.hpp"
#include "core/workshop/load.hpp"

namespace wren {
namespace {

constexpr double side_room = 2;         // mm that a feed move keeps beside clamps, fence and pins (M8)
constexpr double room_above = 1;        // mm over them
constexpr double rapid_room = 2;        // mm that a rapid keeps over everything (M2)
constexpr double rapid_beside = 0.3;    // mm that a rapid on its way over keeps from what stands beside it
constexpr double leave = 0.5;           // mm of wood under the tip's middle that count as finishing (M1)
constexpr double steepest_flat = 3.5;   // degrees into wood without an edge at the centre
constexpr double steepest_centre = 15;  // with one
constexpr double plunge_share = 0.25;   // of the diameter, straight down
constexpr double degree = 57.29577951308232;

/// Every move watched: before it is made, what it would meet; afterwards, what it took.
class Watch {
 public:
  Watch(const ProofRequest& request, const Score& score, ProofResult& result)
      : request_(request),
        score_(score),
        result_(result),
        boxes_(request.setup.solids()),
        strokes_(request.material, request.cell, request.tolerances.slot_bending),
        comes_off_(request.setup, request.apart) {
    under_.resize(score.motions.size(), -1);
    const auto pins =
        std::stable_partition(boxes_.begin(), boxes_.end(), [](const auto& b) { return b.name != "pin"; });
    pins_.assign(pins, boxes_.end());
    boxes_.erase(pins, boxes_.end());
    const RegisterKind found_by = request.setup.found_by.kind;
    if ((found_by == RegisterKind::pins || found_by == RegisterKind::ears) && !bores_any()) set_pins();
  }

  /// Everything that a hand does before this motion: what it finds must still be there (M7), and it must have had its
  /// stop (M9).
  void hand(std::size_t i, const TileGrid& stock) {
    for (; stop_ < score_.stops.size() && score_.stops[stop_].before <= i; ++stop_) {
      if (pins_to_set_) set_pins();
      pins_to_set_ = false;
      if (score_.stops[stop_].probes) probed(score_.stops[stop_], i, stock);
    }
  }

  /// P2, once all has run: what never comes down to the wood is forgotten, whatever it is called. (A crown that runs
  /// again over what a hand has filled takes nothing either.)
  void ended() {
    for (std::size_t k = 0; k < score_.programs.size(); ++k) {
      Motion where;
      where.program = static_cast<std::uint16_t>(k);
      if (!worked_.contains(where.program))
        tell("P2", "cut_missing", Weight::stop, where, {}, 0, 0,
             worded("{} never comes down to the wood: what it is for is not cut.", score_.programs[k].name));
    }
  }

  /// A fault of one kind in one program is told once, at its worst place, with its count.
  void tell(const char* rule, const char* kind, Weight weight, const Motion& piece, Vec3 at, double number,
            double limit, Words text) {
    const auto key = std::pair{std::string(kind), piece.program};
    const auto [it, fresh] = seen_.try_emplace(key, result_.findings.size());
    if (!fresh) {
      Finding& f = result_.findings[it->second];
      ++f.count;
      if (std::abs(number - limit) <= std::abs(f.number - f.limit)) return;
      const std::size_t count = f.count;
      f = {kind, weight, std::move(text), f.program, piece.line, at, number, limit, rule, count};
      return;
    }
    result_.findings.push_back(
        {kind, weight, std::move(text), score_.programs[piece.program].name, piece.line, at, number, limit, rule, 1});
  }

  /// Looks at the wood that stands where the cutter will come next, before this pass has touched it.
  void look_ahead(std::size_t i, const TileGrid& stock) {
    const Motion& now = score_.motions[i];
    if (ahead_ < i) {
      ahead_ = i;
      ahead_run_ = 0;
    }
    const double reach = now.cutter < 0 ? 0 : score_.cutters[static_cast<std::size_t>(now.cutter)].radius() + leave;
    while (ahead_ < score_.motions.size() && ahead_run_ <= reach) {
      const Motion& p = score_.motions[ahead_];
      if (p.program != now.program) break;
      // Turning back it comes over ground that it will have cut by then: that is looked at when it gets there.
      if (ahead_ > i && turns_back(ahead_)) break;
      if (!p.rapid && p.cutter >= 0 && p.b.z < p.a.z - 1e-6) under_[ahead_] = static_cast<float>(wood_under(p, stock));
      ahead_run_ += distance(p.a, p.b);
      ++ahead_;
    }
    ahead_run_ -= distance(now.a, now.b);
  }

  void before(std::size_t i, const TileGrid& stock) {
    const Motion& p = score_.motions[i];
    const Setup& setup = request_.setup;
    const double low = std::min(p.a.z, p.b.z);
    result_.deepest = std::min(result_.deepest, low);
    double allowed = setup.bed_z() - request_.tolerances.below;
    // Where a pin stands the waste board has a hole: straight down into it a cutter may go.
    if (p.cutter >= 0)
      for (const BedHole& hole : setup.bed_holes)
        if (std::max(distance(flat(p.a), hole.at), distance(flat(p.b), hole.at)) +
                score_.cutters[static_cast<std::size_t>(p.cutter)].radius() <
            hole.radius + 0.02)
          allowed = std::min(allowed, setup.bed_z() - hole.depth - 0.001);
    if (low < allowed - 0.0011)
      tell("M8", "below_allowance", Weight::stop, p, p.b, setup.bed_z() - low, request_.tolerances.below,
           worded("The cutter goes {} under the blank; {} are allowed.", mm(setup.bed_z() - low, 3),
                  mm(request_.tolerances.below, 3)));
    bores_pins(p, low, allowed);
    if (!p.rapid && low < -0.01) worked_.insert(p.program);
    if (p.cutter < 0) {
      travels(p, nullptr);
      if (!p.rapid && low < 0)
        tell("P2", "unknown_cutter", Weight::stop, p, p.b, 0, 0,
             "A cut is made with a cutter that is not in the rack.");
      return;
    }
    const Cutter& c = score_.cutters[static_cast<std::size_t>(p.cutter)];
    stops_in_wood(i, p, c, stock);
    travels(p, &c);
    solids(p, c);
    scratches_board(p, c, low);
    if (p.rapid)
      way_over(p, c, stock);
    else if (p.b.z < p.a.z - 1e-6 && steep(p, c))
      way_down(p, c, static_cast<double>(under_[i]));
    if (p.rapid || !steep(p, c)) level_or_up(p);
  }

  /// Takes the wood away, and follows what the cutter has to bear.
  Removed cut(const Motion& p, const Remover& remover, TileGrid& stock) {
    const Cutter& c = score_.cutters[static_cast<std::size_t>(p.cutter)];
    const int n = Strokes::pieces(p, c, stock);
    Removed all;
    Motion part = p;
    for (int k = 0; k < n; ++k) {
      part.a = k == 0 ? p.a : part.b;
      part.b = k + 1 == n ? p.b : lerp(p.a, p.b, static_cast<double>(k + 1) / n);
      const Removed removed = remover.sweep(stock, part.a, part.b);
      strokes_.after(part, c, removed,
                     [&](const char* rule, const char* kind, double number, double limit, Words text) {
                       tell(rule, kind, Weight::stop, part, part.b, number, limit, std::move(text));
                     });
      all.any = all.any || removed.any;
      all.volume_mm3 += removed.volume_mm3;
      all.deepest = std::max(all.deepest, removed.deepest);
    }
    return all;
  }

  void after(const Motion& p, const Removed& removed, const TileGrid& stock) {
    if (const auto off = comes_off_.after(p.a, p.b, removed.any, stock)) {
      const Vec2 at = comes_off_.place(*off);
      tell("M10", "offcut_loose", Weight::stop, p, {at.x, at.y, 0}, off->area(), offcut_area,
           worded("A piece of the blank comes off at x {:.0f}, y {:.0f}, {:.0f} mm² of it: nothing holds it, and the "
                  "cutter comes by.",
                  at.x, at.y, off->area()));
    }
    const Cutter& c = score_.cutters[static_cast<std::size_t>(p.cutter)];
    if (!removed.any || removed.volume_mm3 < 1e-6) return;
    result_.removed_mm3 += removed.volume_mm3;
    if (pins_to_set_ && !boring_ && removed.volume_mm3 > 0.01)
      tell("M9", "stop_missing", Weight::stop, p, p.b, 0, 0,
           "Pin holes are bored, and it cuts on without a stop for the hand that sets the pins.");
    const double run = distance(flat(p.a), flat(p.b));
    // Straight up out of its own cut the cutter can only touch what rounding left.
    const bool lift = p.b.z >= p.a.z && run < 1e-6;
    if (p.rapid && !lift && removed.volume_mm3 > 1e-4)
      tell("M2", "rapid_in_wood", Weight::stop, p, p.b, removed.volume_mm3, 0, "A rapid move goes through wood.");
    if (!p.spindle)
      tell("M5", "spindle_still", Weight::stop, p, p.b, 0, 0, "The cutter meets wood while the spindle stands still.");
    // Over a shank thinner than the flutes wood may stand, but none that this very move would have to take.
    if (removed.deepest > c.cutting_length + 0.05)
      tell("M11", "beyond_cutting_length", Weight::stop, p, p.b, removed.deepest, c.cutting_length,
           worded("'{}' takes {} of wood at once; its flutes are {} long.", c.id, mm(removed.deepest),
                  mm(c.cutting_length)));
    if (c.kind == CutterKind::drill && run > 0.02 && removed.volume_mm3 > 0.01)
      tell("M2", "drill_sideways", Weight::stop, p, p.b, run, 0, "A drill goes sideways in wood.");
  }

  /// What follows the flutes — shank, collet nut, spindle nose — against the wood as this move leaves it.
  void holder(const Motion& p, const TileGrid& stock) {
    if (p.cutter < 0) return;
    const Cutter& c = score_.cutters[static_cast<std::size_t>(p.cutter)];
    const auto body = [&](double lift, double radius, double slack, const char* kind, const char* what) {
      if (std::min(p.a.z, p.b.z) + lift >= highest_) return;
      const Into into =
          wood_into_disc(stock, {p.a.x, p.a.y, p.a.z + lift}, {p.b.x, p.b.y, p.b.z + lift}, radius, slack);
      if (into.by > slack)
        tell("M11", kind, Weight::stop, p, {into.at.x, into.at.y, std::min(p.a.z, p.b.z) + lift}, into.by, 0,
             worded("The {} of '{}' is {} deep in wood.", what, c.id, mm(into.by)));
    };
    // A shank as thick as the flutes rubs at the wall that they have cut: one cell further out stands that wall.
    if (c.shank() > c.effective_diameter() - 0.1)
      body(c.cutting_length, std::max(c.shank() / 2, c.radius()) + 0.75 * stock.cell(), 0.05, "beyond_cutting_length",
           "shank");
    body(c.stickout, c.nut_diameter / 2, 0, "holder_in_wood", "collet nut");
    body(c.stickout + request_.setup.machine.nose_above, request_.setup.machine.nose_diameter / 2, 0, "nose_in_wood",
         "spindle nose over");
    if (request_.setup.machine.shoe_diameter > 0)
      body(c.stickout + request_.setup.machine.shoe_above, request_.setup.machine.shoe_diameter / 2, 0, "shoe_in_wood",
           "dust shoe over");
  }

 private:
  /// M7: what is probed must still be as it was.
  void probed(const HandStop& stop, std::size_t i, const TileGrid& stock) {
    const Setup& setup = request_.setup;
    if (!setup.probe) return;
    const auto [at, on_board] = *setup.probe;
    Motion where;
    where.program = stop.program;
    where.line = stop.line;
    where.cutter = i < score_.motions.size() ? score_.motions[i].cutter : std::int16_t{-1};
    auto [gone, met] = probe_fault(setup, stock);
    if (on_board) gone = std::max(gone, board_gone_);
    if (met) {
      tell("M7", "probe_blocked", Weight::stop, where, {at.x, at.y, 0}, 0, 0,
           worded("z is to be probed at x {}, y {}: {}.", mm(at.x, 1), mm(at.y, 1), met));
    } else if (gone > probe_flat) {
      tell("M7", "probe_gone", Weight::stop, where, {at.x, at.y, -gone}, gone, probe_flat,
           worded("z is probed at x {}, y {} on {}, and {} are gone there: everything after it is too deep.",
                  mm(at.x, 1), mm(at.y, 1), on_board ? "the waste board" : "the blank's top", mm(gone)));
    }
  }

  /// M5: a spindle that is switched off down in its cut jams there as it slows down.
  void stops_in_wood(std::size_t i, const Motion& p, const Cutter& c, const TileGrid& stock) {
    if (p.spindle || p.a.z > -0.05 || i == 0 || !score_.motions[i - 1].spindle) return;
    const Into into = wood_into_disc(stock, p.a, p.a, c.radius() + 0.75 * stock.cell(), 0.05);
    if (into.by > 0.05)
      tell("M5", "spindle_still", Weight::stop, p, p.a, into.by, 0,
           worded("The spindle is switched off {} deep in the wood.", mm(into.by)));
  }

  /// The waste board bears no cells: what is cut where z is probed on it is kept as a number.
  void scratches_board(const Motion& p, const Cutter& c, double low) {
    const Setup& setup = request_.setup;
    if (!setup.probe || !setup.probe->on_board || setup.blank.thickness <= 0 || low >= setup.bed_z()) return;
    if (distance_to(setup.probe->at, {flat(p.a), flat(p.b)}) < c.radius() + probe_radius)
      board_gone_ = std::max(board_gone_, setup.bed_z() - low);
  }

  /// Pins stand from now on. Those that end somewhere under the blank's top reach up to its middle at least; where they
  /// were bored on this side.
  void set_pins() {
    const Setup& setup = request_.setup;
    if (setup.blank.thickness <= 0 || pins_stand_) return;
    pins_stand_ = true;
    if (pins_.empty())
      for (const BedHole& h : setup.bed_holes) {
        if (h.depth < pin_least_deep || !bored_.contains(&h)) continue;
        // As wide as leaves what it needs beside it of the room that all solids get.
        const double r = std::max(0.05, h.radius - (side_room - pin_beside));
        pins_.push_back({"pin",
                         {h.at.x - r, h.at.y - r, setup.bed_z()},
                         {h.at.x + r, h.at.y + r, setup.bed_z() + setup.blank.thickness / 2}});
      }
    boxes_.insert(boxes_.end(), pins_.begin(), pins_.end());
  }
  [[nodiscard]] bool bores(double low) const { return low < request_.setup.bed_z() - request_.tolerances.below - 0.01; }
  [[nodiscard]] bool bores_any() const {
    return std::any_of(score_.motions.begin(), score_.motions.end(),
                       [this](const Motion& m) { return bores(std::min(m.a.z, m.b.z)) && over_a_pin(m); });
  }

  /// M9: pins are set by hand into what is bored for them.
  void bores_pins(const Motion& p, double low, double allowed) {
    // Deeper than anything else may go: only where a pin is to stand.
    boring_ = bores(low) && low >= allowed - 0.0011 && !request_.setup.bed_holes.empty();
    if (boring_ && request_.setup.blank.thickness > 0) pins_to_set_ = true;
    if (bores(low))
      if (const BedHole* hole = pin_under(p)) bored_.insert(hole);
    // Other holes of the same cut are bored before the hand comes.
    boring_ = boring_ || over_a_pin(p);
  }
  [[nodiscard]] const BedHole* pin_under(const Motion& p) const {
    return hole_under(request_.setup, flat(p.a), flat(p.b));
  }
  [[nodiscard]] bool over_a_pin(const Motion& p) const { return pin_under(p) != nullptr; }

  [[nodiscard]] bool turns_back(std::size_t i) const {
    const Motion& p = score_.motions[i];
    const Vec2 d = flat(p.b) - flat(p.a);
    if (length(d) < 1e-6) return false;
    for (std::size_t k = i; k-- > 0 && i - k < 4;) {
      const Vec2 before = flat(score_.motions[k].b) - flat(score_.motions[k].a);
      if (length(before) > 1e-6) return dot(d, before) < -0.7 * length(d) * length(before);
    }
    return false;
  }

  /// Wood over the tip's middle along a move, at most, mm.
  [[nodiscard]] static double wood_under(const Motion& p, const TileGrid& stock) {
    const double l = distance(p.a, p.b);
    const int n = std::clamp(static_cast<int>(std::ceil(l / 0.5)), 1, 400);
    double most = -1;
    for (int k = 0; k <= n; ++k) {
      const Vec3 q = lerp(p.a, p.b, static_cast<double>(k) / n);
      most = std::max(most, height_at(stock, flat(q)) - q.z);
    }
    return most;
  }

  [[nodiscard]] static bool steep(const Motion& p, const Cutter& c) {
    if (c.kind == CutterKind::drill) return p.b.z < p.a.z - 1e-6;
    const double steepest = (c.centre_cutting ? steepest_centre : steepest_flat) + 0.3;
    return std::atan2(p.a.z - p.b.z, distance(flat(p.a), flat(p.b))) * degree > steepest;
  }

  /// M1: into wood only by helix, ramp or peck.
  void way_down(const Motion& p, const Cutter& c, double wood) {
    if (wood <= 0.05) return;
    const double run = distance(flat(p.a), flat(p.b));
    const double drop = p.a.z - p.b.z;
    const double angle = std::atan2(drop, run) * degree;
    if (c.kind == CutterKind::drill) {
      if (run < 0.02 && std::min(wood, drop) > 4 * c.effective_diameter() + 0.01)
        tell("M1", "peck_long", Weight::stop, p, p.b, std::min(wood, drop), 4 * c.effective_diameter(),
             worded("'{}' goes {} down in one; chips want it out every {}.", c.id, mm(std::min(wood, drop), 1),
                    mm(4 * c.effective_diameter(), 1)));
      return;
    }
    // The descent so far, stairs with short treads included: they are a slope to the cutter.
    const double steepest = c.centre_cutting ? steepest_centre : steepest_flat;
    if (angle <= steepest + 0.3) return;
    if (!descending_ || since_ > c.effective_diameter()) descent_from_ = p.a.z;
    descending_ = true;
    since_ = 0;
    const double deep = std::min(wood, descent_from_ - p.b.z);
    // What finishing takes off is free, but no thin cutter goes straight into as much as it is wide.
    if (deep <= std::min(leave, plunge_share * c.effective_diameter() + 0.02)) return;
    if (angle > 45 && p.rpm > 0) {
      // The edges near the middle hardly cut: half the chip of a side cut at most.
      const double chip = static_cast<double>(p.feed) / (static_cast<double>(p.rpm) * c.flutes);
      const double most = 0.5 * chip_load(c.effective_diameter(), request_.material) * 1.05;
      if (chip > most)
        tell("M1", "plunge_fast", Weight::stop, p, p.b, chip, most,
             worded("'{}' goes down into wood at {:.0f} mm/min, {} a tooth; {:.3f} are for it.", c.id,
                    static_cast<double>(p.feed), mm(chip, 3), most));
    }
    if (c.centre_cutting && deep <= plunge_share * c.effective_diameter() + 0.02) return;
    tell("M1", "way_down", Weight::stop, p, p.b, angle, steepest,
         angle > 89 ? worded("'{}' goes straight down {} deep into wood; {} are for it.", c.id, mm(deep),
                             mm(c.centre_cutting ? plunge_share * c.effective_diameter() : 0))
                    : worded("'{}' goes down into {} of wood at {:.0f}°; {:.1f}° are for it.", c.id, mm(deep), angle,
                             steepest));
  }

  /// Level and rising moves end a descent once they are longer than the cutter is wide, or lead back up to where it
  /// began: a hop within it does not.
  void level_or_up(const Motion& p) {
    since_ += distance(p.a, p.b);
    if (p.rapid || (p.b.z > p.a.z && p.b.z > descent_from_ - 0.05)) descending_ = false;
  }

  /// M2: a rapid keeps its distance from whatever stands under its way at this moment.
  void way_over(const Motion& p, const Cutter& c, const TileGrid& stock) {
    const double run = distance(flat(p.a), flat(p.b));
    if (p.b.z >= p.a.z && run < 1e-6) return;  // straight up
    // Down into a hole only: wood stands round it that is higher than where it ends.
    const bool in_own_hole = c.kind == CutterKind::drill && run < 1e-6 && in_a_hole(stock, p.b, c.radius());
    const double room = in_own_hole ? 0.2 : rapid_room;
    // The waste board stands everywhere, and bears no cells.
    if (const double over = std::min(p.a.z, p.b.z) - request_.setup.bed_z(); over < room - 0.002)
      tell("M2", "rapid_low", Weight::stop, p, p.b, over, room,
           worded("A rapid move comes within {} of the waste board; it keeps {:.1f}.", mm(std::max(0.0, over)), room));
    if (std::min(p.a.z, p.b.z) - room >= highest_ - 0.001) return;
    const double radius = in_own_hole ? c.radius() - 0.75 * stock.cell() : c.radius() + (run > 1e-6 ? rapid_beside : 0);
    if (radius <= 0) return;
    Vec3 a = p.a;
    Vec3 b = p.b;
    a.z -= room;
    b.z -= room;
    const Into into = wood_into_disc(stock, a, b, radius, 0.02);
    if (into.by > 0.02)
      tell("M2", "rapid_low", Weight::stop, p, {into.at.x, into.at.y, p.b.z}, room - into.by, room,
           worded("A rapid move comes within {} of the wood under it; it keeps {:.1f}.",
                  mm(std::max(0.0, room - into.by)), room));
  }

  /// Wood stands on most sides of a place, higher than it.
  [[nodiscard]] static bool in_a_hole(const TileGrid& stock, Vec3 at, double radius) {
    constexpr int ways = 8;
    int stand = 0;
    for (int k = 0; k < ways; ++k) {
      const double angle = 2 * std::numbers::pi * k / ways;
      const Vec2 q = flat(at) + Vec2{std::cos(angle), std::sin(angle)} * (radius + 1.5 * stock.cell());
      if (height_at(stock, q) > at.z + 0.02) ++stand;
    }
    return stand > ways / 2 + 1;
  }

  /// Without a cutter in the plan alone: how low an unknown one hangs, nobody knows.
  void travels(const Motion& p, const Cutter* c) {
    const Setup& setup = request_.setup;
    const Vec3& travel = setup.machine.travel;
    const double tip_home = setup.machine.clear_under_nut - (c != nullptr ? c->stickout : 0);
    for (const Vec3& at : {p.a, p.b}) {
      const double x = setup.zero_in_machine.x + at.x;
      const double y = setup.zero_in_machine.y + at.y;
      const double z = at.z + setup.blank.thickness - tip_home;
      const auto axis = [&](char name, double v, double low, double high) {
        if (v >= low - 1e-6 && v <= high + 1e-6) return;
        tell("M8", "outside_travel", Weight::stop, p, at, v < low ? low - v : v - high, 0,
             c != nullptr
                 ? worded("{} goes {} beyond the machine's travel with '{}'.", name,
                          mm(v < low ? low - v : v - high, 1), c->id)
                 : worded("{} goes {} beyond the machine's travel.", name, mm(v < low ? low - v : v - high, 1)));
      };
      axis('x', x, 0, travel.x);
      axis('y', y, 0, travel.y);
      if (c != nullptr) axis('z', z, -travel.z, 0);
    }
  }

  /// M8: clamps, fence and pins against cutter, shank, nut, nose and shoe.
  void solids(const Motion& p, const Cutter& c) {
    const Machine& m = request_.setup.machine;
    for (const auto& box : boxes_) {
      const double room = p.rapid ? rapid_room : room_above;
      const auto hits = [&](double radius, double lift) {
        return meets_box({p.a.x, p.a.y, p.a.z + lift}, {p.b.x, p.b.y, p.b.z + lift}, radius, box, side_room - 0.01,
                         room - 0.001);
      };
      if (hits(c.radius(), 0))
        tell("M8", "into_clamp", Weight::stop, p, p.b, 0, 0, worded("'{}' comes too near to '{}'.", c.id, box.name));
      else if (hits(c.shank() / 2, c.cutting_length))
        tell("M8", "shank_into_clamp", Weight::stop, p, p.b, 0, 0,
             worded("The shank of '{}' comes too near to '{}'.", c.id, box.name));
      else if (hits(c.nut_diameter / 2, c.stickout))
        tell("M8", "holder_into_clamp", Weight::stop, p, p.b, 0, 0,
             worded("The collet nut over '{}' comes too near to '{}'.", c.id, box.name));
      else if (hits(m.nose_diameter / 2, c.stickout + m.nose_above))
        tell("M8", "nose_into_clamp", Weight::stop, p, p.b, 0, 0,
             worded("The spindle nose over '{}' comes too near to '{}'.", c.id, box.name));
      else if (m.shoe_diameter > 0 && hits(m.shoe_diameter / 2, c.stickout + m.shoe_above))
        tell("M8", "shoe_into_clamp", Weight::stop, p, p.b, 0, 0,
             worded("The dust shoe over '{}' comes too near to '{}'.", c.id, box.name));
    }
  }

  const ProofRequest& request_;
  const Score& score_;
  ProofResult& result_;
  std::vector<Setup::Box> boxes_;  // what stands on the bed at present
  std::vector<Setup::Box> pins_;   // and what a hand sets on the way
  std::set<const BedHole*> bored_;
  double highest_ = 0;        // no wood stands above the blank's top
  std::vector<float> under_;  // by motion: wood over the tip's middle before its pass; negative: not looked at
  std::size_t ahead_ = 0;
  double ahead_run_ = 0;
  bool descending_ = false;
  double descent_from_ = 0;  // z at which the present descent began
  double since_ = 0;         // mm of way since its last steep move
  std::size_t stop_ = 0;     // the next that a hand acts at
  bool pins_stand_ = false;
  bool pins_to_set_ = false;
  bool boring_ = false;             // this motion bores a pin's hole
  double board_gone_ = 0;           // mm of the waste board cut where z is probed
  std::set<std::uint16_t> worked_;  // programs that have come down to the wood
  Strokes strokes_;
  ComesOff comes_off_;
  std::map<std::pair<std::string, std::uint16_t>, std::size_t> seen_;
};

}  // namespace

bool ProofResult::passed() const {
  return std::none_of(findings.begin(), findings.end(), [](const Finding& f) { return f.weight == Weight::stop; });
}

Expected<ProofResult> rehearse_side(const ProofRequest& request, Score* kept, Progress* progress) {
  const auto stopped = [] {
    return fail(ProblemKind::stopped, "the rehearsal was stopped", "", "Start it again when you like");
  };
  if (progress != nullptr && !progress->go_on(0, "reading")) return stopped();
  auto read = read_score(request.programs, request.rack, request.setup);
  if (!read) return tl::unexpected(read.error());
  const Score& score = *read;
  ProofResult result;
  result.programs = score.programs;
  result.seconds = score.seconds;
  for (const ProgramFacts& facts : score.programs) {
    result.findings.insert(result.findings.end(), facts.findings.begin(), facts.findings.end());
    for (const int tool : facts.unknown_tools)
      result.findings.push_back({"unknown_cutter",
                                 Weight::stop,
                                 worded("T{} is not in the rack, so what it cuts cannot be shown.", tool),
                                 facts.name,
                                 0,
                                 {},
                                 static_cast<double>(tool),
                                 0,
                                 "P2",
                                 1});
  }
  TileGrid stock = fresh_stock(request.setup, request.cell);
  std::vector<Remover> removers;
  for (const Cutter& c : score.cutters) removers.emplace_back(c);
  Watch watch(request, score, result);
  for (std::size_t i = 0; i < score.motions.size(); ++i) {
    if (progress != nullptr && i % 128 == 0 &&
        !progress->go_on(0.9 * static_cast<double>(i) / static_cast<double>(score.motions.size()),
                         "cutting virtual wood"))
      return stopped();
    const Motion& piece = score.motions[i];
    watch.hand(i, stock);
    watch.look_ahead(i, stock);
    watch.before(i, stock);
    if (piece.cutter < 0) continue;
    watch.after(piece, watch.cut(piece, removers[static_cast<std::size_t>(piece.cutter)], stock), stock);
    watch.holder(piece, stock);
  }
  watch.ended();
  result.stock = std::move(stock);
  if (kept != nullptr) *kept = std::move(*read);
  if (progress != nullptr && !progress->go_on(1, "done")) return stopped();
  return result;
}

}  // namespace wren

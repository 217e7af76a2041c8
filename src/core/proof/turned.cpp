#include "core/proof/turned.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/plan/region.hpp"
#include "core/proof/clearance.hpp"
#include "core/proof/probe.hpp"

namespace wren {
namespace {

constexpr double pin_above = 1;      // mm over them
constexpr double open_by = 0.05;     // mm of wood that a hole may hold and be open
constexpr double touches = 0.1;      // mm that wood may stand off what it lies on
constexpr double settles = 0.25;     // mm that a blank may lie lower than it was
constexpr double hull_share = 0.25;  // of the blank's plan: what it lies on has to surround so much
constexpr double probe_wood = 2;     // mm that a probe does not bend
constexpr double tick_room = 3;      // mm about a tick

/// What many holes lack, at its worst.
struct WorstHole {
  double by = 0;
  Vec2 at;
  std::size_t count = 0;
  void take(double amount, double limit, Vec2 where) {
    if (amount <= limit) return;
    ++count;
    if (amount <= by) return;
    by = amount;
    at = where;
  }
};

/// The first side as it leaves the machine: holes for the pins that what comes after it is found by.
class FirstSide {
 public:
  FirstSide(const PieceRequest& request, const std::vector<Score>& scores, const Solid& solid,
            std::vector<Finding>& findings)
      : request_(request), score_(scores[0]), solid_(solid), findings_(findings), setup_(request.sides[0].setup) {}

  /// Whether this side bores a hole there into the waste board.
  [[nodiscard]] bool bores(Vec2 work, double radius) const {
    return std::any_of(score_.motions.begin(), score_.motions.end(), [&](const Motion& m) {
      return !m.rapid && m.b.z < setup_.bed_z() - request_.tolerances.below - 0.01 &&
             distance(flat(m.a), work) <= radius && distance(flat(m.b), work) <= radius;
    });
  }
  /// The pins' holes go through the wood and are as wide as the pins.
  void pins() {
    WorstHole closed;
    WorstHole loose;
    WorstHole tight;
    if (request_.sides.size() == 2)
      turned_over(request_.sides[1].setup, closed, loose, tight);
    else
      glued(closed, loose, tight);
    const std::size_t through = own();
    if (closed.count == 0 && request_.sides[0].design.pinned && through < 2)
      findings_.push_back(
          {"hole_closed",
           Weight::stop,
           worded("Of the holes for the pins {} lead through into the waste board; two have to.", through),
           "",
           0,
           {},
           static_cast<double>(through),
           2,
           "P2",
           1});
    if (closed.count > 0)
      tell("hole_closed", closed, open_by,
           worded("The hole for the pin at x {:.1f}, y {:.1f} does not go through: {} of wood stand.", closed.at.x,
                  closed.at.y, mm(closed.by)));
    if (loose.count > 0)
      tell("register_loose", loose, request_.tolerances.plan,
           worded("The hole for the pin at x {:.1f}, y {:.1f} is {} too wide: what comes next is found by it.",
                  loose.at.x, loose.at.y, mm(loose.by)));
    if (tight.count > 0)
      tell("register_tight", tight, request_.tolerances.plan,
           worded("The hole for the pin at x {:.1f}, y {:.1f} is {} too tight at its wall: no pin goes in.", tight.at.x,
                  tight.at.y, mm(tight.by)));
  }

 private:
  void tell(const char* kind, const WorstHole& w, double limit, Words text) {
    findings_.push_back({kind, Weight::stop, std::move(text), "", 0, {w.at.x, w.at.y, 0}, w.by, limit, "P2", w.count});
  }
  /// How many of the pins' holes this side bores itself: what layers have bored is full of glue.
  [[nodiscard]] std::size_t own() const {
    return static_cast<std::size_t>(
        std::count_if(setup_.bed_holes.begin(), setup_.bed_holes.end(),
                      [this](const BedHole& h) { return h.depth >= pin_least_deep && bores(h.at, h.radius); }));
  }
  /// Which of the two places of a pin this side bores.
  [[nodiscard]] std::optional<Vec2> bored_of(const BedHole& hole, Vec2 after) const {
    if (bores(hole.at, hole.radius)) return hole.at;
    if (bores(after, hole.radius)) return after;
    return {};
  }
  static bool pin_at(const Setup& setup, Vec2 work) {
    return std::any_of(setup.bed_holes.begin(), setup.bed_holes.end(),
                       [&](const BedHole& h) { return h.depth >= pin_least_deep && distance(h.at, work) < 0.01; });
  }
  /// Wood that stands in a hole, mm.
  [[nodiscard]] double wood_at(Vec2 work, double radius) const {
    const Vec2 p = turned(setup_.turn, setup_.to_work.back(work));
    const double bed = setup_.bed_z() - setup_.to_work.shift.z;
    const double r = 0.6 * radius;  // well within the hole, whatever the cells
    double most = 0;
    for (const Vec2 off : {Vec2{}, Vec2{r, 0}, Vec2{-r, 0}, Vec2{0, r}, Vec2{0, -r}})
      most = std::max(most, solid_.front(p + off) - bed);
    return most;
  }

  /// The waste board has a hole under each pin as it stands before the blank is turned, and one as it stands after: the
  /// blank's own is one of the two.
  void turned_over(const Setup& second, WorstHole& closed, WorstHole& loose, WorstHole& tight) const {
    for (const BedHole& hole : setup_.bed_holes) {
      const Vec2 after = second.to_work.apply(turned(second.turn, turned(setup_.turn, setup_.to_work.back(hole.at))));
      if (hole.depth < pin_least_deep || !pin_at(second, after)) continue;
      const double here = wood_at(hole.at, hole.radius);
      const double there = wood_at(after, hole.radius);
      closed.take(std::min(here, there), open_by, hole.at);
      if (const auto at = bored_of(hole, after)) fits(*at, hole.radius, loose, tight);
    }
  }

  /// A layer bores two of them, by which it is glued to the next.
  void glued(WorstHole& closed, WorstHole& loose, WorstHole& tight) const {
    std::vector<std::pair<double, Vec2>> wood;
    bool any = request_.sides[0].design.pinned;
    for (const BedHole& hole : setup_.bed_holes) {
      if (hole.depth < pin_least_deep) continue;
      wood.emplace_back(wood_at(hole.at, hole.radius), hole.at);
      if (!bores(hole.at, hole.radius)) continue;
      any = true;
      fits(hole.at, hole.radius, loose, tight);
    }
    std::sort(wood.begin(), wood.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
    if (any && wood.size() >= 2) closed.take(wood[1].first, open_by, wood[1].second);
  }

  /// The least height of a cutter's surface over a place all along a move; far above where it does not reach.
  [[nodiscard]] double surface(const Motion& m, Vec2 p) const {
    const Cutter& c = score_.cutters[static_cast<std::size_t>(m.cutter)];
    const Vec2 d = flat(m.b) - flat(m.a);
    const double l2 = dot(d, d);
    const double beside = l2 > 0 ? dot(p - flat(m.a), d) / l2 : (m.a.z < m.b.z ? 0.0 : 1.0);
    const double foot = std::clamp(beside, 0.0, 1.0);
    const double off = distance(p, lerp(flat(m.a), flat(m.b), foot));
    if (off > c.radius()) return 1e300;
    const auto height = [&](double t) {
      return m.a.z + (m.b.z - m.a.z) * t + c.profile(std::min(c.radius(), distance(p, lerp(flat(m.a), flat(m.b), t))));
    };
    if (m.a.z == m.b.z || l2 == 0) return height(foot);
    // The part of the way over which the cutter reaches the place.
    const double aside = distance(p, flat(m.a) + d * beside);
    const double half = std::sqrt(std::max(0.0, c.radius() * c.radius() - aside * aside) / l2);
    const double t0 = std::max(0.0, beside - half);
    const double t1 = std::min(1.0, beside + half);
    return std::min({height(t0), height(t1), height(least_between(t0, t1, distance(m.a, m.b), height))});
  }

  void fits(Vec2 at, double radius, WorstHole& loose, WorstHole& tight) const {
    loose.take(widened(at, radius), request_.tolerances.plan, at);
    tight.take(narrowed(at, radius), request_.tolerances.plan, at);
  }

  /// How far a hole of the first side lacks of its radius where it comes out of the wood, at the worst of its sides,
  /// mm.
  [[nodiscard]] double narrowed(Vec2 at, double radius) const {
    constexpr double step = 0.02;
    constexpr int ways = 16;
    const double low = setup_.bed_z();
    std::vector<Motion> near;
    for (const Motion& m : score_.motions)
      if (!m.rapid && m.cutter >= 0 && std::min(m.a.z, m.b.z) < low &&
          distance_to(at, Segment2{flat(m.a), flat(m.b)}) <= radius)
        near.push_back(m);
    const auto open = [&](Vec2 p) {
      return std::any_of(near.begin(), near.end(), [&](const Motion& m) { return surface(m, p) < low; });
    };
    double most = 0;
    for (int k = 0; k < ways; ++k) {
      const double angle = 2 * std::numbers::pi * k / ways;
      const Vec2 out{std::cos(angle), std::sin(angle)};
      while (most < radius && !open(at + out * (radius - most - step / 2))) most += step;
    }
    return most;
  }

  /// How far a hole of the first side is cut out beyond its radius, anywhere in the blank's thickness, mm.
  [[nodiscard]] double widened(Vec2 at, double radius) const {
    constexpr double step = 0.05;
    constexpr double furthest = 2;
    constexpr int ways = 16;
    // What is wider in its upper quarter alone holds the pin as it should.
    const double low = -0.25 * setup_.blank.thickness;
    double most = 0;
    for (const Motion& m : score_.motions) {
      if (m.cutter < 0 || std::min(m.a.z, m.b.z) >= low) continue;
      const Cutter& c = score_.cutters[static_cast<std::size_t>(m.cutter)];
      const Segment2 way{flat(m.a), flat(m.b)};
      if (distance_to(at, way) > radius + furthest + c.radius()) continue;
      for (int k = 0; k < ways; ++k) {
        const double angle = 2 * std::numbers::pi * k / ways;
        const Vec2 out{std::cos(angle), std::sin(angle)};
        for (double by = most + step; by <= furthest; by += step) {
          const Vec2 p = at + out * (radius + by);
          if (surface(m, p) >= low) break;
          most = by;
        }
      }
    }
    return most;
  }

  const PieceRequest& request_;
  const Score& score_;
  const Solid& solid_;
  std::vector<Finding>& findings_;
  const Setup& setup_;
};

class TurnedSide {
 public:
  TurnedSide(const PieceRequest& request, const std::vector<Score>& scores, const Solid& solid,
             std::vector<Finding>& findings)
      : request_(request),
        scores_(scores),
        solid_(solid),
        findings_(findings),
        first_(request.sides[0].setup),
        second_(request.sides[1].setup) {}

  void run() {
    pins();
    if (!request_.held) {  // fixed by itself it does not lie on its waste
      lies_on();
      clamped();
    }
    probed();
    edges();
  }

 private:
  void tell(const char* kind, const char* rule, Vec2 work, double number, double limit, std::size_t count, Words text) {
    findings_.push_back({kind, Weight::stop, std::move(text), "", 0, {work.x, work.y, 0}, number, limit, rule, count});
  }
  /// A place of the second side's work frame as the instrument has it.
  [[nodiscard]] Vec2 instrument(Vec2 work) const { return turned(second_.turn, second_.to_work.back(work)); }
  /// Underside of the turned wood, in its work frame, before anything is cut there.
  [[nodiscard]] double under(Vec2 work) const {
    return second_.to_work.apply_z(turned_z(second_.turn, solid_.front(instrument(work))));
  }

  /// M8: pins that end somewhere under the blank's top reach up to its middle at least. (Those that stand proud are
  /// solids of the set-up.)
  void pins() {
    if (std::any_of(second_.standing.begin(), second_.standing.end(), [](const auto& b) { return b.name == "pin"; }))
      return;
    const FirstSide first(request_, scores_, solid_, findings_);
    const Score& score = scores_[1];
    for (const BedHole& hole : first_.bed_holes) {
      if (hole.depth < pin_least_deep || !first.bores(hole.at, hole.radius)) continue;
      const Vec2 q = second_.to_work.apply(turned(second_.turn, turned(first_.turn, first_.to_work.back(hole.at))));
      const Setup::Box box{"pin",
                           {q.x - hole.radius, q.y - hole.radius, second_.bed_z()},
                           {q.x + hole.radius, q.y + hole.radius, second_.bed_z() + second_.blank.thickness / 2}};
      for (const Motion& m : score.motions) {
        if (m.cutter < 0 || std::min(m.a.z, m.b.z) > box.high.z + pin_above) continue;
        const Cutter& c = score.cutters[static_cast<std::size_t>(m.cutter)];
        if (!meets_box(m.a, m.b, c.radius(), box, pin_beside - 0.01, pin_above - 0.001)) continue;
        findings_.push_back({"into_clamp", Weight::stop,
                             worded("'{}' comes too near to the pin at x {:.0f}, y {:.0f}.", c.id, q.x, q.y),
                             score.programs[m.program].name, m.line, m.b, 0, 0, "M8", 1});
        break;
      }
    }
  }

  /// The same before the first side was cut.
  [[nodiscard]] double whole_under(Vec2 work) const {
    const Vec2 side = turned(first_.turn, instrument(work));
    const double top = first_.untouched(first_.to_work.apply(side)) - first_.to_work.shift.z;
    return second_.to_work.apply_z(turned_z(second_.turn, turned_z(first_.turn, top)));
  }

  /// Places of the blank that touch what it is laid on, and how high the lowest stands over the bed.
  struct Seat {
    double share = 0;  // of the blank's plan that they surround, its middle among it; else 0
    double high = 1e300;
  };
  template <class Under>
  [[nodiscard]] Seat seat(const Under& under) const {
    constexpr double pace = 3;  // mm
    const Vec2 corner{second_.blank_corner.x, second_.blank_corner.y};
    std::vector<std::pair<Vec2, double>> places;
    double lowest = 1e300;
    for (double y = pace / 2; y < second_.blank_size.y; y += pace)
      for (double x = pace / 2; x < second_.blank_size.x; x += pace) {
        const Vec2 p = corner + Vec2{x, y};
        places.emplace_back(p, under(p));
        lowest = std::min(lowest, places.back().second);
      }
    Polygon feet;
    for (const auto& [p, z] : places)
      if (z < lowest + touches) feet.push_back(p);
    const Polygon hull = hull_of(feet);
    const bool held = hull.size() >= 3 && contains(hull, corner + second_.blank_size * 0.5);
    return {held ? area({hull}) / (second_.blank_size.x * second_.blank_size.y) : 0, lowest - second_.bed_z()};
  }

  /// What lies on the bed surrounds enough of the blank, and no lower than it did. (A blank whose face is not flat to
  /// begin with, as a scarfed head's, is laid on something else.)
  void lies_on() {
    const Seat whole = seat([this](Vec2 p) { return whole_under(p); });
    if (whole.share < hull_share) return;
    const Seat now = seat([this](Vec2 p) { return under(p); });
    const Vec2 middle = Vec2{second_.blank_corner.x, second_.blank_corner.y} + second_.blank_size * 0.5;
    if (now.share < hull_share)
      tell("lies_loose", "M10", middle, now.share, hull_share, 1,
           worded("Turned over, the blank lies on {:.0f} % of its plan: it rocks. The first side has cut away what it "
                  "is to lie on.",
                  100 * now.share));
    if (now.high > settles)
      tell(
          "lies_low", "M7", middle, now.high, settles, 1,
          worded("Turned over, the blank lies {} lower than the set-up says: the first side has taken what it lies on.",
                 mm(now.high)));
  }

  /// M10: a clamp presses on wood that lies on the bed: over a hollow it bends what it is to hold, and lets it go.
  void clamped() {
    constexpr int places = 8;  // along each side of a clamp
    const Vec2 low{second_.blank_corner.x, second_.blank_corner.y};
    const Vec2 high = low + second_.blank_size;
    for (const Setup::Box& c : second_.clamp_boxes()) {
      const Vec2 a{std::max(c.low.x, low.x), std::max(c.low.y, low.y)};
      const Vec2 b{std::min(c.high.x, high.x), std::min(c.high.y, high.y)};
      if (a.x >= b.x || a.y >= b.y) continue;  // it stands beside the blank
      int lay = 0;
      int lies = 0;
      for (int k = 0; k < places * places; ++k) {
        const int row = k / places;
        const double tx = (k % places + 0.5) / places;
        const double ty = (row + 0.5) / places;
        const Vec2 p{a.x + (b.x - a.x) * tx, a.y + (b.y - a.y) * ty};
        if (whole_under(p) > second_.bed_z() + touches) continue;
        ++lay;
        if (under(p) <= second_.bed_z() + touches) ++lies;
      }
      if (lies * 2 >= lay) continue;
      tell("clamp_hollow", "M10", lerp(a, b, 0.5), static_cast<double>(lies) / lay, 0.5, 1,
           worded(
               "Under the clamp '{}' the first side has cut away what the blank is to lie on: it holds nothing there.",
               c.name));
    }
  }

  /// M7: there is wood under what is probed, and the waste board is whole where z is probed on it.
  void probed() {
    if (!second_.probe) return;
    const Vec2 at = second_.probe->at;
    if (second_.probe->on_board) {
      const Vec2 there = at + flat(second_.zero_in_machine) - flat(first_.zero_in_machine);
      double gone = 0;
      for (const Motion& m : scores_[0].motions)
        if (m.cutter >= 0 && std::min(m.a.z, m.b.z) < first_.bed_z() - gone &&
            distance_to(there, Segment2{flat(m.a), flat(m.b)}) <
                scores_[0].cutters[static_cast<std::size_t>(m.cutter)].radius() + probe_radius)
          gone = first_.bed_z() - std::min(m.a.z, m.b.z);
      if (gone > probe_flat)
        tell("probe_gone", "M7", at, gone, probe_flat, 1,
             worded("z is probed at x {}, y {} on the waste board, and the first side has cut {} of it away.",
                    mm(at.x, 1), mm(at.y, 1), mm(gone)));
      return;
    }
    double least = 1e300;
    for (const Vec2 off : {Vec2{}, Vec2{1, 0}, Vec2{-1, 0}, Vec2{0, 1}, Vec2{0, -1}})
      least = std::min(least, second_.untouched(at) - under(at + off * probe_radius));
    if (least < probe_wood)
      tell("probe_gone", "M7", at, least, probe_wood, 1,
           worded("z is probed at x {}, y {} on the blank's top, and the first side has left {} of wood under it.",
                  mm(at.x, 1), mm(at.y, 1), mm(std::max(0.0, least))));
  }

  /// What lies at the fence, or bears the ticks, is still the blank's own edge.
  void edges() {
    const RegisterKind kind = second_.found_by.kind;
    if (kind != RegisterKind::fence && kind != RegisterKind::lines) return;
    const Vec2 low{second_.blank_corner.x, second_.blank_corner.y};
    const Vec2 high = low + second_.blank_size;
    struct Edge {
      Vec2 a, b, in;
    };
    const Vec2 lr{high.x, low.y};
    const Vec2 ul{low.x, high.y};
    const std::array<Edge, 4> all{{{low, lr, {0, 1}}, {low, ul, {1, 0}}, {ul, high, {0, -1}}, {lr, high, {-1, 0}}}};
    double top = second_.bed_z() + second_.blank.thickness;  // what touches lies under this
    for (const Setup::Box& b : second_.standing)
      if (b.name == "fence") top = std::min(top, b.high.z);
    // Where the first side has cut down to the fence's top, or to half of the blank, nothing touches any more.
    const auto whole = [&](Vec2 p) {
      return under(p) < std::min(top - 1, second_.bed_z() + second_.blank.thickness / 2);
    };
    for (std::size_t k = 0; k < (kind == RegisterKind::fence ? 2U : 4U); ++k) {
      const Edge& e = all[k];
      const double l = distance(e.a, e.b);
      const auto at = [&](double t) { return lerp(e.a, e.b, t) + e.in * (request_.cell / 2); };
      bool held = true;
      if (kind == RegisterKind::fence) {
        constexpr int parts = 40;
        constexpr int ends = 6;
        int touching = 0;
        bool near_a = false;
        bool near_b = false;
        for (int i = 0; i < parts; ++i) {
          if (!whole(at((i + 0.5) / parts))) continue;
          ++touching;
          near_a = near_a || i < ends;
          near_b = near_b || i >= parts - ends;
        }
        held = touching * 2 >= parts && near_a && near_b;
      } else {
        for (const double off : {-tick_room, 0.0, tick_room}) held = held && whole(at(0.5 + off / l));
      }
      if (held) continue;
      const Vec2 p = lerp(e.a, e.b, 0.5);
      tell("register_gone", "P2", p, 0, 0, 1,
           kind == RegisterKind::fence
               ? worded("The first side has cut away the edge at x {:.0f}, y {:.0f} that lies at the fence.", p.x, p.y)
               : worded("The first side has cut away the tick at x {:.0f}, y {:.0f}.", p.x, p.y));
    }
  }

  const PieceRequest& request_;
  const std::vector<Score>& scores_;
  const Solid& solid_;
  std::vector<Finding>& findings_;
  const Setup& first_;
  const Setup& second_;
};

}  // namespace

void hold_turned(const PieceRequest& request, const std::vector<Score>& scores, const Solid& solid,
                 std::vector<Finding>& findings) {
  if (request.board_only) return;
  FirstSide(request, scores, solid, findings).pins();
  if (request.sides.size() == 2) TurnedSide(request, scores, solid, findings).run();
}

}  // namespace wren

#include <catch2/catch.hpp>

#include <numbers>
#include <random>

#include "core/cutting/channel.hpp"
#include "core/cutting/crown.hpp"
#include "core/cutting/drop_grid.hpp"
#include "core/cutting/outline.hpp"
#include "core/cutting/edge.hpp"
#include "support/made.hpp"
#include "support/random.hpp"
#include "core/cutting/slot.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {
Cutter cutter(const char* id) { return *find_cutter(default_rack(), id); }
/// The slow obvious way: the highest of surface − profile over a fine disk.
double brute_drop(const Fretboard& b, const Cutter& c, Vec2 p) {
  double best = -1e300;
  for (int i = 0; i <= 60; ++i)
    for (int k = 0; k < 360; ++k) {
      const double rho = c.radius() * i / 60;
      const double a = k * std::numbers::pi / 180;
      best = std::max(best, b.crown_height(p + Vec2{std::cos(a), std::sin(a)} * rho) - c.profile(rho));
    }
  return best;
}
}  // namespace

TEST_CASE("the cutter's drop on a crown agrees with the slow obvious way") {
  const Fretboard b = *make_fretboard({});
  for (const char* id : {"flat-6.35", "facing-25", "ball-6.35", "ball-3.175", "round-12.7"})
    for (const Vec2 p : {Vec2{10, 0}, Vec2{100, 5}, Vec2{300, -14}, Vec2{460, 27}, Vec2{250, 38}}) {
      const Cutter c = cutter(id);
      INFO(id << " at " << p.x << ", " << p.y);
      CHECK_THAT(crown_drop_height(b, c, p), WithinAbs(brute_drop(b, c, p), 0.0008));
      CHECK(crown_drop_height(b, c, p) >= brute_drop(b, c, p) - 1e-6);  // never lower: that would gouge
    }
}

TEST_CASE("the grid drop agrees with the exact one on a smooth crown and is refined above the raw cells") {
  const Fretboard b = *make_fretboard({});
  TileGrid grid({0, -30}, 0.1, 1200, 600, 0);
  for (int j = 0; j < grid.height(); ++j)
    for (int i = 0; i < grid.width(); ++i) grid.at(i, j) = static_cast<float>(b.crown_height(grid.centre(i, j)));
  grid.refresh_all();
  const Cutter ball = cutter("ball-6.35");
  const GridDropper dropper(ball, grid);
  for (const Vec2 p : {Vec2{50, 0}, Vec2{60.03, 11.11}, Vec2{70, -20.5}, Vec2{33.3, 25}})
    CHECK_THAT(static_cast<double>(dropper.drop(p)), WithinAbs(crown_drop_height(b, ball, p), 0.0005));
  float row[50];
  dropper.drop_row({40, 10}, {0.4, 0}, 50, row);
  for (int k = 0; k < 50; ++k) CHECK(row[k] == dropper.drop({40 + 0.4 * k, 10}));
}

TEST_CASE("a wide slot is made by side-by-side lanes, a slot as wide as the cutter by one") {
  CHECK(slot_lanes(0.58, 0.58) == std::vector<double>{0});
  CHECK(slot_lanes(0.58, 0.60) == std::vector<double>{0});
  const auto two = slot_lanes(0.58, 0.5);
  REQUIRE(two.size() == 2);
  CHECK_THAT(two[0], WithinAbs(-0.04, 1e-12));
  CHECK_THAT(two[1], WithinAbs(0.04, 1e-12));
  const auto many = slot_lanes(2.0, 0.5);
  CHECK_THAT(many.back() - many.front(), WithinAbs(1.5, 1e-12));
  for (std::size_t i = 1; i < many.size(); ++i) CHECK(many[i] - many[i - 1] <= 0.4 + 1e-9);
}

TEST_CASE("no pass of a slot bites deeper than its share, whatever the entry") {
  Project p;
  for (const SlotEntry entry : {SlotEntry::ramp, SlotEntry::peck}) {
    const auto d = *design_board(p);
    SlotPlan plan;
    plan.cutter = cutter("slot-0.58");
    plan.feeds = {20000, 400, 100, 0, 0, 0, ""};
    plan.entry = entry;
    plan.wood_top = [](Vec2) { return 6.6; };
    const auto strands = cut_slots(d.board, plan);
    REQUIRE(strands.size() == 22);
    // Depth reached so far at 100 places along the first slot.
    std::vector<double> floor(101, 6.6);
    const FretLine& f = d.board.frets.front();
    const double l = distance(f.slot_bass, f.slot_treble);
    Vec3 from = strands[0].start;
    for (const Step& s : strands[0].steps) {
      const double ta = dot(flat(from) - f.slot_bass, f.along()) / l * 100;
      const double tb = dot(flat(s.to) - f.slot_bass, f.along()) / l * 100;
      for (int k = 0; k <= 100; ++k) {
        if (k < std::min(ta, tb) || k > std::max(ta, tb) || ta == tb) continue;
        const double z = from.z + (s.to.z - from.z) * (k - ta) / (tb - ta);
        CHECK(floor[static_cast<std::size_t>(k)] - z <= slot_bite(plan.cutter) + 0.002);
        floor[static_cast<std::size_t>(k)] = std::min(floor[static_cast<std::size_t>(k)], z);
      }
      from = s.to;
    }
  }
}

TEST_CASE("a slot cut before the crown allows for the crown's drop at the edges") {
  Project p;
  board_of(p).work.order = CutOrder::flat_first;
  const Made m = made(p);
  const BoardDesign& d = m.board();
  const auto& slots = m.side("top").cuts.front();
  REQUIRE(slots.id == "slots");
  const FretLine& f = d.board.frets.back();
  // Height floor of the path at the edge: crown height there less the depth.
  const double want = d.board.crown_height(f.bass_edge) - board_of(p).instrument.slot.depth;
  double lowest = 1e300;
  for (const Step& s : slots.strands.back().steps)
    if (distance(flat(s.to), f.bass_edge) < 1.5) lowest = std::min(lowest, s.to.z);
  CHECK_THAT(lowest, WithinAbs(want, 0.1));
  CHECK(lowest < board_of(p).instrument.board.thickness - board_of(p).instrument.slot.depth - 0.5);
}

TEST_CASE("tabs stand in straight places, half way between slots") {
  const Fretboard b = *make_fretboard({});
  std::vector<Vec2> ends;
  for (const FretLine& f : b.frets) {
    ends.push_back(f.bass_edge);
    ends.push_back(f.treble_edge);
  }
  const auto tabs = place_tabs(b.outline, 4, ends);
  REQUIRE(tabs.size() == 4);
  for (const double s : tabs) {
    double nearest = 1e300;
    for (const Vec2 e : ends) nearest = std::min(nearest, distance(e, place_along(b.outline, s).at));
    CHECK(nearest > 5);
    CHECK(std::abs(place_along(b.outline, s).along.x) > 0.99);
  }
}

TEST_CASE("outline: climb goes clockwise, tabs are lifted over, the skim is the last round") {
  const Fretboard b = *make_fretboard({});
  OutlinePlan plan;
  plan.cutter = cutter("flat-3.175");
  plan.feeds = {18000, 1000, 300, 0, 0, 0, ""};
  plan.wood_top = 6.6;
  plan.tabs = place_tabs(b.outline, 4, {});
  for (const bool climb : {true, false}) {
    plan.climb = climb;
    const auto strands = cut_outline(b.outline, plan);
    REQUIRE(strands);
    REQUIRE(strands->size() == 2);
    Polygon round;
    double lowest = 1e300;
    for (const Step& s : strands->back().steps) {
      round.push_back(flat(s.to));
      lowest = std::min(lowest, s.to.z);
      // Never nearer to the board than the cutter's radius.
      CHECK(distance_to(b.corners, flat(s.to)) >= plan.cutter.radius() - 0.002);
      for (const double tab : plan.tabs)
        if (distance(flat(s.to), place_along(b.outline, tab).at) < plan.cutter.radius() + 1)
          CHECK(s.to.z >= plan.tab_height - 1e-9);
    }
    CHECK_THAT(lowest, WithinAbs(-plan.through, 1e-9));
    CHECK((signed_area(round) < 0) == climb);
  }
}

TEST_CASE("no crown cutter is let straight down into wood: it comes down along its row") {
  for (const char* name : {"reedling", "sedge", "bass"}) {
    const Project p = *project_from(name);
    const Made m = made(p);
    for (const Cut& cut : m.side("top").cuts)
      if (cut.id == "crown")
        for (const Strand& s : cut.strands) CHECK(s.start.z >= board_of(p).blank.thickness - 1e-9);
  }
}

TEST_CASE("what a project plans does not change from one run to the next") {
  const Project p = *project_from("sedge");
  const Made one = made(p);
  const Made two = made(p);
  const Placement& a = one.side("top");
  const Placement& b = two.side("top");
  REQUIRE(a.paths.size() == b.paths.size());
  for (std::size_t i = 0; i < a.paths.size(); ++i) {
    REQUIRE(a.paths[i].moves.size() == b.paths[i].moves.size());
    for (std::size_t k = 0; k < a.paths[i].moves.size(); ++k) CHECK(a.paths[i].moves[k].to == b.paths[i].moves[k].to);
  }
}

namespace {

/// How far the passes round an edge go under a ball that rests on it, at worst, at some of their places: the ball's
/// height is looked for over the whole of its disc, without the slope. `all_of` says where every fourth place is tried.
template <class AllOf>
double worst_under(const EdgePlan& edge, const AllOf& all_of, double share, int& looked) {
  const double r = edge.cutter.radius();
  const auto tip_on = [&](Vec2 p, Vec2 o) {
    const double t2 = dot(o, o);
    return t2 > r * r ? -1e9 : edge.surface(p + o) - (r - std::sqrt(r * r - t2));
  };
  const auto should_be = [&](Vec2 p) {
    std::vector<std::pair<double, Vec2>> seen;
    constexpr double coarse = 0.12;
    for (double x = -r; x <= r; x += coarse)
      for (double y = -r; y <= r; y += coarse) seen.push_back({tip_on(p, {x, y}), {x, y}});
    // Along the disc's rim too, which a grid misses.
    for (int k = 0; k < 720; ++k)
      seen.push_back({tip_on(p, Vec2{std::cos(k * 0.0087266), std::sin(k * 0.0087266)} * (r * 0.9999)), {}});
    std::partial_sort(seen.begin(), seen.begin() + 10, seen.end(),
                      [](const auto& a, const auto& b) { return a.first > b.first; });
    double tip = seen.front().first;
    for (int k = 0; k < 10; ++k)
      for (double x = -coarse; x <= coarse; x += 0.02)
        for (double y = -coarse; y <= coarse; y += 0.02)
          tip = std::max(tip, tip_on(p, seen[static_cast<std::size_t>(k)].second + Vec2{x, y}));
    return tip;
  };
  double worst = 0;
  Random random(11);
  for (const Strand& s : round_edge_by_ball(edge)) {
    Vec3 before = s.start;
    for (const Step& step : s.steps) {
      const Vec3 q = lerp(before, step.to, random.between(0, 1));
      before = step.to;
      if (random.between(0, 1) > (all_of(flat(q)) ? 0.12 : share)) continue;
      ++looked;
      worst = std::max(worst, should_be(flat(q)) - q.z);
    }
  }
  return worst;
}

/// An edge that is rounded by a ball of 6.35, going on level outside; `face` is the face's height.
EdgePlan rounded_edge(const Polygon& plan, double radius, const Height& face) {
  EdgePlan edge;
  edge.cutter = *find_cutter(default_rack(), "ball-6.35");
  edge.feeds.feed = 1200;
  edge.feeds.plunge = 400;
  for (const Vec2 q : plan) edge.outline.push_back({q, 0});
  edge.radius = radius;
  edge.lowest = -40;
  edge.surface = [plan, radius, face](Vec2 q) {
    const double in = contains(plan, q) ? std::min(radius, distance_to(plan, q)) : 0.0;
    return face(q) - (radius - std::sqrt(radius * radius - (radius - in) * (radius - in)));
  };
  return edge;
}

}  // namespace

TEST_CASE("a ball that rounds an edge never goes under it, at inner corners as elsewhere, by brute force") {
  // An L with a slot let into it, 6 wide, whose corners are square: two edges hold the ball up at once there.
  const Polygon plan{{0, 0}, {80, 0}, {80, 30}, {46, 30}, {46, 22}, {40, 22}, {40, 30}, {30, 30}, {30, 70}, {0, 70}};
  for (const double fall : {0.0, 0.05}) {
    int looked = 0;
    const double worst = worst_under(
        rounded_edge(plan, 2.5, [fall](Vec2 q) { return -fall * q.x; }),
        [&](Vec2 q) { return std::any_of(plan.begin(), plan.end(), [&](Vec2 v) { return distance(v, q) < 4; }); }, 0.03,
        looked);
    INFO("falls by " << fall << ", " << looked << " places");
    CHECK(looked > 20);
    CHECK(worst < 0.008);
  }
}

TEST_CASE("a ball that rounds a bent edge never goes under it, in waists and horns as elsewhere, by brute force") {
  // Waists bent inwards almost as tightly as the ball, horns outwards; the face falls to all sides, or along a dish.
  for (const int trial : {0, 1, 2}) {
    Polygon plan;
    for (int k = 0; k < 130; ++k) {
      const double a = 2 * std::numbers::pi * k / 130;
      const double out = trial == 0 ? 14 + 3 * std::cos(3 * a) : trial == 1 ? 15 + 2 * std::cos(4 * a + 1) : 14;
      plan.push_back({out * std::cos(a) * (trial == 2 ? 1.4 : 1), out * std::sin(a) * (trial == 2 ? 0.45 : 1)});
    }
    const Height face = [trial](Vec2 q) {
      return trial == 0 ? -dot(q, q) / 80 : trial == 1 ? 0.06 * q.x - 0.03 * q.y : 0.004 * q.x * q.x;
    };
    int looked = 0;
    const double worst = worst_under(
        rounded_edge(plan, trial == 1 ? 4 : 2.5, face), [](Vec2) { return false; }, 0.02, looked);
    INFO("outline " << trial << ", " << looked << " places");
    CHECK(looked > 20);
    CHECK(worst < 0.008);
  }
}

namespace {

/// The deepest way straight down that a strand makes in wood that nobody has cut: within a tenth of the cutter's width
/// of one place, until it is lifted again. What a smaller hole has taken before is not counted.
double deepest_plunge(const Strand& strand, double wide) {
  Vec3 from = strand.start;
  double bottom = strand.free_z;  // of the hole so far
  double worst = 0;
  Vec3 here = strand.start;
  for (const Step& s : strand.steps) {
    const bool lifted = s.to.z > here.z + 0.05;
    here = s.to;
    if (lifted || distance(flat(from), flat(here)) > 0.1 * wide) {
      from = here;
    } else {
      worst = std::max(worst, std::min(from.z, bottom) - here.z);
    }
    bottom = std::min(bottom, here.z);
  }
  return worst;
}

}  // namespace

TEST_CASE("a hole hardly wider than its cutter is pecked, not screwed into: no way down is a plunge") {
  const Cutter flat = cutter("flat-6.35");
  const double d = flat.effective_diameter();
  for (const double wider : {0.0, 0.03, 0.06, 0.1, 0.25, 0.5, 0.69, 0.75, 1.5, 3.0, 9.0}) {
    CAPTURE(wider);
    BorePlan plan;
    plan.at = {10, 20};
    plan.diameter = d + wider;
    plan.bottom = -14;
    plan.cutter = flat;
    plan.feeds.feed = 1500;
    plan.feeds.plunge = 500;
    const auto hole = bore(plan);
    REQUIRE(hole);
    CHECK(deepest_plunge(*hole, d) < 0.25 * d);
    CHECK_THAT(std::min_element(hole->steps.begin(), hole->steps.end(),
                                [](const Step& a, const Step& b) { return a.to.z < b.to.z; })
                   ->to.z,
               WithinAbs(-14, 1e-9));
    // Its wall is reached all round where the hole is wider at all.
    double out = 0;
    for (const Step& s : hole->steps) out = std::max(out, distance(wren::flat(s.to), plan.at));
    CHECK_THAT(out, WithinAbs(wider / 2 < 0.02 ? 0 : wider / 2, 1e-9));
    // The same as a channel that leads nowhere.
    ChannelPlan round;
    round.a = round.b = plan.at;
    round.width = plan.diameter;
    round.floor = [](Vec2) { return -14.0; };
    round.cutter = flat;
    round.feeds = plan.feeds;
    const auto pocket = cut_channel(round);
    REQUIRE(pocket);
    CHECK(deepest_plunge(*pocket, d) < 0.25 * d);
  }
}

// The way down into wood (M1): what the planner makes of steep descents, and what the proof says of them.
#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <random>

#include "core/cutting/channel.hpp"
#include "core/cutting/surface.hpp"
#include "core/cutting/way_down.hpp"
#include "core/proof/clearance.hpp"
#include "core/proof/removal.hpp"
#include "core/skin/grids.hpp"
#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;

namespace {

Cutter cutter(const char* id) { return *find_cutter(default_rack(), id); }

Step line(double x, double y, double z, double feed = 3000) { return {{x, y, z}, {}, feed, StepKind::line}; }

/// Steepest descent of a strand that goes deeper than `free` in one, degrees.
double steepest(const Strand& s, double free) {
  Vec3 at = s.start;
  double worst = 0;
  for (const Step& step : s.steps) {
    if (step.kind == StepKind::line && at.z - step.to.z > free)
      worst = std::max(worst, std::atan2(at.z - step.to.z, distance(flat(at), flat(step.to))) * 57.29578);
    at = step.to;
  }
  return worst;
}

/// No tip of `after` is lower than the lowest of `before` near its place, and every place of `before` is still reached.
void same_ground(const Strand& before, const Strand& after) {
  const auto points = [](const Strand& s) {
    std::vector<Vec3> out{s.start};
    for (const Step& step : s.steps) {
      const Vec3 a = out.back();
      const int n = std::max(1, static_cast<int>(distance(a, step.to) / 0.1));
      for (int k = 1; k <= n; ++k) out.push_back(lerp(a, step.to, static_cast<double>(k) / n));
    }
    return out;
  };
  const auto own = points(before);
  for (const Vec3& p : points(after)) {
    double lowest = 1e9;
    for (const Vec3& q : own)
      if (distance(flat(p), flat(q)) < 0.11) lowest = std::min(lowest, q.z);
    CHECK(p.z > lowest - 1e-3);
  }
  const auto made = points(after);
  for (const Step& step : before.steps) {
    double nearest = 1e9;
    for (const Vec3& q : made) nearest = std::min(nearest, distance(step.to, q));
    CHECK(nearest < 0.06);
  }
}

PieceRequest block_with(const std::string& moves, const char* tool) {
  Blank blank;
  blank.length = 100;
  blank.width = 80;
  blank.thickness = 20;
  blank.wood = "cherry";
  PieceRequest r;
  r.rack = default_rack();
  PieceSide side;
  side.name = "top";
  side.setup = make_setup({}, blank, {{0, 0}, {60, 0}, {60, 40}, {0, 40}});
  side.design.outline = {{-9, -9}, {69, -9}, {69, 49}, {-9, 49}};
  side.design.finished = [](Vec2) { return -1e6; };
  const int number = find_cutter(r.rack, tool)->number;
  side.programs = {{"hand.ngc",
                    "G21 G17 G90 G91.1 G94 G54 G61\nG53 G0 Z0\nT" + fmt::to_string(number) +
                        " M6\nG53 G0 Z0\nS18000 M3\nG4 P3\nG0 X30 Y30\nZ2\n" + moves +
                        "G53 G0 Z0\nM5\nG53 G0 X350 Y990\nM30\n",
                    ""}};
  r.sides = {side};
  r.held = true;
  r.cell = 0.2;
  return r;
}
std::vector<std::string> found_in(const std::string& moves, const char* tool = "flat-6.35") {
  const auto r = prove_piece(block_with(moves, tool));
  INFO((r ? "" : r.error().text()));
  REQUIRE(r);
  std::vector<std::string> out;
  for (const Finding& f : r->sides.front().findings) {
    UNSCOPED_INFO(f.text);
    out.push_back(f.kind);
  }
  return out;
}
/// What a strand is as a program's text, begun from 2 mm over its free height.
std::string moves_of(const Strand& s) {
  std::string out = fmt::format("G0 X{:.3f} Y{:.3f}\nG0 Z{:.3f}\nG1 Z{:.3f} F{}\n", s.start.x, s.start.y, s.free_z + 2,
                                s.start.z, s.plunge_feed);
  for (const Step& step : s.steps)
    out += fmt::format("G1 X{:.3f} Y{:.3f} Z{:.3f} F{}\n", step.to.x, step.to.y, step.to.z, step.feed);
  return out + "G0 Z2\n";
}
bool has(const std::vector<std::string>& all, const char* kind) {
  return std::find(all.begin(), all.end(), kind) != all.end();
}

}  // namespace

TEST_CASE("a plunge from the wood's top becomes a ramp along the strand's own way") {
  Strand s{{0, 0, -3}, 0, 500, {line(30, 0, -3), line(30, 20, -3)}};
  const Strand out = with_ways_down(s, cutter("flat-6.35"));
  CHECK(out.start.z == 0);
  CHECK(steepest(out, 0.01) < 15);
  CHECK(out.end() == s.end());
  same_ground(s, out);
}

TEST_CASE("a step down in the middle is gone over, ramped, and its slope cut upwards") {
  const Strand s{
      {0, 0, 0}, 0, 500, {line(10, 0, 0), line(12, 0, -4), line(40, 0, -4), line(41, 0, -1), line(60, 0, -1)}};
  const Strand out = with_ways_down(s, cutter("flat-6.35"));
  same_ground(s, out);
  // What is steep downwards stands over ground that was cut on the way up: of it no wood is left.
  Vec3 at = out.start;
  TileGrid wood({-10, -10}, 0.25, 320, 80, 0);
  const Remover remover(cutter("flat-6.35"));
  for (const Step& step : out.steps) {
    const double angle = std::atan2(at.z - step.to.z, distance(flat(at), flat(step.to))) * 57.29578;
    const Removed r = remover.sweep(wood, at, step.to);
    if (angle > 15.5) CHECK(r.volume_mm3 < 1.5);
    at = step.to;
  }
}

TEST_CASE("cutters without an edge at the centre go flatter, drills as they are, shallow steps stay") {
  const Strand s{{0, 0, 0}, 0, 500, {line(50, 0, -4), line(100, 0, -4)}};  // 4.6 degrees
  CHECK(with_ways_down(s, cutter("flat-6.35")).steps.size() == s.steps.size());
  const Strand flat_ones = with_ways_down(s, cutter("facing-25"));
  CHECK(flat_ones.steps.size() > s.steps.size());
  same_ground(s, flat_ones);
  const Strand hole{{0, 0, -8}, 0, 300, {}};
  CHECK(with_ways_down(hole, cutter("drill-4")).start.z == -8);
  const Strand shallow{{0, 0, -1}, 0, 500, {line(20, 0, -1)}};
  const Strand kept = with_ways_down(shallow, cutter("flat-6.35"));
  CHECK(kept.start.z == -1);
  CHECK(kept.steps.size() == 1);
}

TEST_CASE("stairs with treads shorter than the cutter are one slope") {
  Strand s{{0, 0, 0}, 0, 500, {}};
  for (int k = 1; k <= 6; ++k) {
    s.steps.push_back(line(k - 1, 0, -0.9 * k));
    s.steps.push_back(line(k, 0, -0.9 * k));
  }
  s.steps.push_back(line(40, 0, -5.4));
  const Strand out = with_ways_down(s, cutter("flat-6.35"));
  CHECK(out.steps.size() > s.steps.size());
  same_ground(s, out);
  // Where no wood stands the stairs stay.
  CHECK(with_ways_down(s, cutter("flat-6.35"), [](Vec2) { return -5.4; }).steps.size() == s.steps.size());
}

TEST_CASE("the first descent and the stairs after it are one descent") {
  // Straight down by less than a quarter of the diameter, then stairs of 20 degrees: 3 mm in all.
  Strand s{{0, 20, -1.2}, 0, 500, {}};
  for (int k = 1; k <= 5; ++k) s.steps.push_back(line(k, 20, -1.2 - 0.36 * k, 1500));
  s.steps.push_back(line(30, 20, -3, 1500));
  const Strand out = with_ways_down(s, cutter("flat-6.35"));
  CHECK(has(found_in(moves_of(s)), "way_down"));
  CHECK_FALSE(has(found_in(moves_of(out)), "way_down"));
  same_ground(s, out);
}

TEST_CASE("a way that begins with a steep descent is ramped over it") {
  const Strand s{{0, 20, -2.6}, 0, 500, {line(1, 20, -3, 1500), line(2, 20, -3.4, 1500), line(12, 20, -3.5, 1500)}};
  const Strand out = with_ways_down(s, cutter("flat-6.35"));
  CHECK(has(found_in(moves_of(s)), "way_down"));
  CHECK_FALSE(has(found_in(moves_of(out)), "way_down"));
  same_ground(s, out);
}

TEST_CASE("random surfaces gone along by stairs are gone down into as the rule allows") {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> slope(-0.9, 0.9), run(2, 14), rest(0, 1);
  int refused = 0;
  for (int trial = 0; trial < 100; ++trial) {
    const Cutter c = cutter(trial % 3 == 0 ? "flat-3.175" : "flat-6.35");
    // A surface of straight stretches, gone along by the millimetre; steps of more than 0.4 over first, then down.
    const double deepest = trial % 3 == 0 ? -2.5 : -5;
    std::vector<Vec3> ground{{-5, 20, 0.6 * deepest * rest(random) - 0.2}};
    while (ground.size() < 50) {
      const double g = rest(random) < 0.3 ? 0 : slope(random) * (trial % 2 == 0 ? 1 : 2.5);
      for (double l = run(random); l > 0; l -= 1) {
        const Vec3 p = ground.back();
        ground.push_back({p.x + 1, p.y, std::clamp(p.z + g, deepest, -0.2)});
      }
    }
    for (int k = 0; k < trial % 4 * 2; ++k) ground.push_back({ground.back().x + 1, 20, ground.back().z});
    Strand s{ground.front(), 0, 500, {}};
    for (std::size_t k = 1; k < ground.size(); ++k) {
      const Vec3 p = ground[k];
      const Vec3 before = ground[k - 1];
      if (p.z < before.z - 0.4) s.steps.push_back(line(p.x, 20, before.z, 1500));
      if (p.z > before.z + 0.4) s.steps.push_back(line(before.x, 20, p.z, 1500));
      s.steps.push_back(line(p.x, 20, p.z, 1500));
    }
    const Strand out = with_ways_down(s, c);
    CAPTURE(trial, c.diameter, moves_of(s));
    if (has(found_in(moves_of(s), c.id.c_str()), "way_down")) ++refused;
    CHECK_FALSE(has(found_in(moves_of(out), c.id.c_str()), "way_down"));
    same_ground(s, out);
  }
  CHECK(refused > 25);  // what it is tried on is worth trying
}

TEST_CASE("channels of any depth, length and bow are cut in passes that the cutter bears") {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> share(0, 1);
  for (int trial = 0; trial < 24; ++trial) {
    const Cutter c = cutter("flat-6.35");
    Feeds feeds;
    feeds.feed = 1500;
    feeds.plunge = 500;
    const double length = 20 + 60 * share(random);
    const double depth = 2 + 8 * share(random);
    const double bow = trial % 3 == 0 ? 0 : 0.8 * share(random);
    const Vec2 a{-8, 20};
    const Vec2 b = trial % 2 == 0 ? Vec2{a.x + length, 20} : Vec2{a.x + 0.9 * length, 20 + 0.25 * length};
    const Height floor = [&](Vec2 p) {
      const double t = std::clamp(distance(p, a) / length, 0.0, 1.0);
      return -depth + 4 * bow * (t - 0.5) * (t - 0.5);
    };
    const double width = trial % 4 == 0 ? 8.5 : 6.35;
    const auto strand = cut_channel({a, b, width, floor, 0, c, feeds});
    REQUIRE(strand);
    Strand lines = *strand;
    CAPTURE(trial, length, depth, bow, width, moves_of(lines));
    if (width < 7) {  // rings have arcs, which moves_of does not write
      const auto kinds = found_in(moves_of(lines));
      CHECK_FALSE(has(kinds, "pass_deep"));
      CHECK_FALSE(has(kinds, "way_down"));
    }
    // The floor is reached along the middle line, and nowhere gone below.
    double lowest_left = 0;
    for (int k = 0; k <= 100; ++k) {
      const Vec2 p = lerp(a, b, k / 100.0);
      double nearest = 1e9;
      Vec3 at = lines.start;
      for (const Step& step : lines.steps) {
        if (step.kind == StepKind::line) {
          const Vec2 d = flat(step.to) - flat(at);
          const double l2 = dot(d, d);
          const double t = l2 < 1e-12 ? 1 : std::clamp(dot(p - flat(at), d) / l2, 0.0, 1.0);
          const Vec3 q = lerp(at, step.to, t);
          if (distance(flat(q), p) < 0.05) nearest = std::min(nearest, q.z);
        }
        at = step.to;
      }
      CHECK(nearest >= floor(p) - 0.002);
      lowest_left = std::max(lowest_left, nearest - floor(p));
    }
    CHECK(lowest_left < 0.05 + bow * 4 * 6.35 / length);
  }
}

TEST_CASE("finishing goes down by ramps into what roughing left standing") {
  // A slope of 19 degrees that nobody has roughed, as at the rim of a carve.
  const Height surface = [](Vec2 q) { return -std::clamp((q.x - 8) * 0.35, 0.0, 6.0); };
  TileGrid grid({-9, -9}, 0.2, 390, 290, 0);
  fill(grid, surface);
  std::vector<Station> stations;
  for (int x = 0; x <= 50; ++x) stations.push_back({static_cast<double>(x), 10, 14});
  FinishPlan plan;
  plan.cutter = cutter("ball-6.35");
  plan.feeds.feed = 1500;
  plan.feeds.plunge = 500;
  plan.scallop = 0.05;
  const auto found = [&](TileGrid* stock) {
    plan.stock = stock;
    std::string moves;
    for (const Strand& s : finish_along(surface, grid, stations, plan)) moves += moves_of(s);
    return found_in(moves, "ball-6.35");
  };
  CHECK(has(found(nullptr), "way_down"));
  TileGrid stock({-9, -9}, 0.4, 195, 145, 0);
  CHECK_FALSE(has(found(&stock), "way_down"));
  // What it has cut is gone from the stock; where roughing had been, nothing changes.
  CHECK(stock.at(97, 52) < -6 + 0.2);
  TileGrid roughed({-9, -9}, 0.4, 195, 145, 0);
  fill(roughed, [&](Vec2 q) { return surface(q) + 0.5; });
  plan.stock = nullptr;
  const auto plain = finish_along(surface, grid, stations, plan);
  plan.stock = &roughed;
  const auto after_roughing = finish_along(surface, grid, stations, plan);
  REQUIRE(plain.size() == after_roughing.size());
  CHECK(plain.front().steps.size() == after_roughing.front().steps.size());
}

TEST_CASE("random strands keep their ground") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> step(-6, 6), depth(-5, 0);
  for (int trial = 0; trial < 30; ++trial) {
    Strand s{{0, 0, depth(random)}, 0, 500, {}};
    Vec3 at = s.start;
    for (int k = 0; k < 12; ++k) {
      at = {at.x + step(random), at.y + step(random), depth(random)};
      s.steps.push_back({at, {}, 2000, StepKind::line});
    }
    const Strand out = with_ways_down(s, cutter(trial % 2 == 0 ? "flat-6.35" : "facing-25"));
    CHECK(out.end() == s.end());
    same_ground(s, out);
  }
}

TEST_CASE("M1: the proof finds plunges, steep ramps and fast ways down, and lets the right ones pass") {
  CHECK_FALSE(has(found_in("G1 Z0 F500\nX60 Z-3 F2000\nX30\n"), "way_down"));         // 5.7 degrees
  CHECK(has(found_in("G1 Z0 F500\nX34 Z-3 F2000\nX60\n"), "way_down"));               // 37 degrees
  CHECK(has(found_in("G1 Z-3 F500\nX60 F2000\n"), "way_down"));                       // straight down
  CHECK_FALSE(has(found_in("G1 Z-1.5 F500\nX60 F2000\n"), "way_down"));               // a quarter of the diameter
  CHECK(has(found_in("G1 Z-0.75 F1500\nX60 F2000\n", "flat-3.175"), "plunge_fast"));  // at the feed of a cut
  CHECK_FALSE(has(found_in("G1 Z-0.75 F700\nX60 F2000\n", "flat-3.175"), "plunge_fast"));
  CHECK(has(found_in("G1 Z-0.9 F500\nX31\nZ-1.8\nX32\nZ-2.7\nX60 F2000\n"), "way_down"));  // stairs
  CHECK(has(found_in("G1 Z0 F500\nX60 Z-3 F2000\nX30\n", "facing-25"), "way_down"));       // no edge at its centre
  CHECK_FALSE(has(found_in("G1 Z0 F500\nX60 Z-1.6 F2000\nX30\n", "facing-25"), "way_down"));
  CHECK_FALSE(has(found_in("G1 Z-6 F300\nG0 Z2\nG1 Z-12 F300\n", "drill-4"), "peck_long"));
  CHECK(has(found_in("G1 Z-19 F300\n", "drill-4"), "peck_long"));
  CHECK(has(found_in("G1 Z-3 F300\nX40 F500\n", "drill-4"), "drill_sideways"));
  CHECK(has(found_in("G1 Z0 F500\nX34 Z-1.4 F1500\nX30 Z-2.8\nX34 Z-4.2\nX60\n"), "way_down"));  // steep there and back
  // down over ground that is cut already it may go as it likes
  CHECK_FALSE(has(found_in("G1 Z0 F500\nX60 Z-3 F2000\nX30\nG0 Z2\nG1 Z-2.9 F1500\n"), "way_down"));
}

TEST_CASE("M2: a rapid keeps 2 mm above what stands, not above what stood") {
  CHECK_FALSE(has(found_in("G1 Z0 F500\nX60 Z-3 F2000\nG0 Z2\nX30\n"), "rapid_low"));
  CHECK(has(found_in("G1 Z0 F500\nX60 Z-3 F2000\nG0 Z1\nX30\n"), "rapid_low"));
  CHECK(has(found_in("G0 Z0.5\nG1 Z0 F500\nX60 Z-3 F2000\n"), "rapid_low"));  // down to half a millimetre
  // over a trough that is wide enough it may be lower
  std::string trough = "G1 Z0 F500\nX70 Z-3 F2000\nX30\n";
  for (int k = 1; k <= 5; ++k) trough += fmt::format("Y{}\nX{}\n", 30 + k * 3, k % 2 == 1 ? 70 : 30);
  CHECK_FALSE(has(found_in(trough + "G0 Z2\nX50 Y38\nZ-0.9\nX52\nX50\n"), "rapid_low"));
  CHECK(has(found_in(trough + "G0 Z2\nX50 Y38\nZ-1.4\nX52\nX50\n"), "rapid_low"));
}

TEST_CASE("M11: the wood beside the cutter counts, not the depth of one pass") {
  // 18 mm deep in levels of 3: flutes of 12 mm end in the wall
  std::string levels;
  double x = 30;
  for (int k = 1; k <= 6; ++k) {
    const double far = x < 45 ? 60 : 30;
    levels += "G1 X" + fmt::to_string(far) + " Z-" + fmt::to_string(k * 1.5 - 1.5 + 0.7) + " F800\n";
    levels += "X" + fmt::to_string(x) + " Z-" + fmt::to_string(k * 1.5) + "\nX" + fmt::to_string(far) + "\nX" +
              fmt::to_string(x) + "\n";
  }
  CHECK_FALSE(has(found_in("G1 Z0 F500\n" + levels, "flat-3.175"), "beyond_cutting_length"));  // 9 mm
  std::string deeper = levels;
  for (int k = 7; k <= 12; ++k)
    deeper += "G1 X60 Z-" + fmt::to_string(k * 1.5 - 0.7) + " F800\nX30 Z-" + fmt::to_string(k * 1.5) + "\nX60\nX30\n";
  CHECK(has(found_in("G1 Z0 F500\n" + deeper, "flat-3.175"), "beyond_cutting_length"));  // 18 mm
}

TEST_CASE("M5 and M12: chips and passes that a cutter does not bear") {
  CHECK_FALSE(has(found_in("G1 Z0 F500\nX60 Z-3 F2400\nX30\n"), "pass_deep"));
  CHECK(has(found_in("G1 Z0 F500\nX60 Z-5.6 F2400\nX30\nX60\nX90 F2300\n"), "pass_deep"));
  CHECK(has(found_in("G1 Z0 F500\nX60 Z-0.4 F900\nX30 F900\nX60 F1500\nX80\n", "slot-0.58"), "tooth_overloaded"));
}

TEST_CASE("wood under a moving disc agrees with looking at every hundredth of a millimetre") {
  std::mt19937 random(8);
  std::uniform_real_distribution<double> place(1, 19), height(-4, 1);
  TileGrid wood({0, 0}, 0.25, 80, 80, 0);
  for (int j = 0; j < 80; ++j)
    for (int i = 0; i < 80; ++i) wood.at(i, j) = static_cast<float>(height(random));
  wood.refresh_all();
  for (int trial = 0; trial < 40; ++trial) {
    const Vec3 a{place(random), place(random), height(random)};
    const Vec3 b{place(random), place(random), trial % 3 == 0 ? a.z : height(random)};
    const double radius = 0.4 + 0.1 * trial;
    double want = -1e300;
    const int n = std::max(1, static_cast<int>(distance(a, b) / 0.01));
    for (int k = 0; k <= n; ++k) {
      const Vec3 p = lerp(a, b, static_cast<double>(k) / n);
      for (int j = 0; j < 80; ++j)
        for (int i = 0; i < 80; ++i)
          if (distance(wood.centre(i, j), flat(p)) < radius)
            want = std::max(want, static_cast<double>(wood.at(i, j)) - p.z);
    }
    const Into got = wood_into_disc(wood, a, b, radius, -100);
    CHECK(got.by == Approx(want).margin(0.02));
    CHECK(wood_into_disc(wood, a, b, radius, want + 0.1).by <= want + 0.1);
  }
}

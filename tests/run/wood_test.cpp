// The stand-in's wood against the proof's: two readers, two integrators, two cutters, one program text. And its motion
// against closed forms (textbook kinematics: t = d/v + v/a for a move that reaches its speed, 2·√(d/a) for one that
// does not).
#include "core/proof/rehearsal.hpp"
#include "run/bench.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {

double time_of(standin::Drive& drive) {
  std::vector<standin::Drive::Ended> ended;
  double t = 0;
  while (!drive.idle()) {
    drive.go_on(ended);
    t += standin::Drive::tick;
  }
  return t;
}

/// Runs every program of a part's first side on the stand-in, and cuts the same texts as the proof does.
void both_woods(const std::string& part, double cell) {
  const auto set = written(part);
  Stand stand(3, [] {
    standin::Frame f;
    f.switch_repeats = 0;
    f.probe_repeats = 0;
    return f;
  }());
  auto host = stand.connect(1000);
  home(*host);
  well(lay_blank(*host, set->entries.front()));
  const std::string side = set->entries.front().side;
  RunControls controls;
  for (std::size_t i = 0; i < set->entries.size(); ++i) {
    if (set->entries[i].side != side) continue;
    const ProgramAtHand p = set->program(i);
    prepare(*host, p.entry);
    const auto end = Runner(host, controls, {}).run(request_of(p, set->scratch.path / "runs"));
    REQUIRE(end);
    INFO(end->words);
    REQUIRE(end->run.outcome == "done");
  }
  CHECK(stand.router.hits().empty());
  const auto request = set->made.request(cell);
  ProofRequest one;
  one.programs = request.sides.front().programs;
  one.setup = request.sides.front().setup;
  one.material = request.sides.front().material;
  one.rack = request.rack;
  one.tolerances = request.tolerances;
  one.cell = cell;
  const auto proof = rehearse_side(one);
  REQUIRE(proof);
  const TileGrid& grid = proof->stock;
  const double bed = one.setup.bed_z();
  std::size_t compared = 0, steep = 0;
  double worst = 0;
  for (int j = 3; j + 3 < grid.height(); j += 5)
    for (int i = 3; i + 3 < grid.width(); i += 7) {
      // A wall may lie anywhere within its cell: looked at where the wood is even about the place.
      double low = 1e9, high = -1e9;
      for (int b = -1; b <= 1; ++b)
        for (int a = -1; a <= 1; ++a) {
          low = std::min(low, static_cast<double>(grid.at(i + a, j + b)));
          high = std::max(high, static_cast<double>(grid.at(i + a, j + b)));
        }
      if (high - low > 0.01) {
        ++steep;
        continue;
      }
      const Vec2 at = grid.centre(i, j);
      const double x = at.x - one.setup.blank_corner.x, y = at.y - one.setup.blank_corner.y;
      if (x <= 0 || y <= 0 || x >= stand.router.wood().block().length || y >= stand.router.wood().block().width)
        continue;
      const double other = stand.router.wood().top(x, y) + bed;
      const double off = std::abs(std::max(other, bed - 0.5) - std::max(static_cast<double>(grid.at(i, j)), bed - 0.5));
      if (off > worst) worst = off;
      ++compared;
    }
  INFO(compared << " places compared, " << steep << " steep ones left out");
  CHECK(compared > 2000);
  CHECK(worst <= 0.02);
}

}  // namespace

TEST_CASE("coupon: the stand-in's wood is the proof's within 0.02") { both_woods("coupon", 0.1); }
TEST_CASE("board: the stand-in's wood is the proof's within 0.02") { both_woods("fretboard", 0.1); }

TEST_CASE("a straight move takes what the closed forms say") {
  const standin::Limits limits{{50, 50, 25}, {100, 100, 100}, {500, 500, 250}, 2};
  const auto alone = [&](standin::Place to, bool rapid, double feed) {
    standin::Drive drive(limits, {0, 0, 0});
    drive.add(to, rapid, feed, 0);
    return time_of(drive);
  };
  CHECK_THAT(alone({200, 0, 0}, false, 50), WithinAbs(200.0 / 50 + 50.0 / 500, 0.004));
  CHECK_THAT(alone({200, 0, 0}, true, 0), WithinAbs(200.0 / 100 + 100.0 / 500, 0.004));
  CHECK_THAT(alone({2, 0, 0}, false, 50), WithinAbs(2 * std::sqrt(2.0 / 500), 0.006));
  // Axis by axis: z allows 25 mm/s and 250 mm/s², whatever was asked for.
  CHECK_THAT(alone({0, 0, -50}, false, 50), WithinAbs(50.0 / 25 + 25.0 / 250, 0.004));
  // Aslant, each axis at half its share of both.
  const double d = std::hypot(60, 60);
  CHECK_THAT(alone({60, 60, 0}, false, 1e9), WithinAbs(d / (50 * std::sqrt(2.0)) + 50.0 / 500, 0.004));
}

TEST_CASE("pieces in a row are one move; a corner is passed no faster than an axis may jump") {
  const standin::Limits limits{{50, 50, 25}, {100, 100, 100}, {500, 500, 250}, 2};
  standin::Drive row(limits, {0, 0, 0});
  for (int k = 1; k <= 400; ++k) row.add({k * 0.5, 0, 0}, false, 50, 0);
  CHECK_THAT(time_of(row), WithinAbs(200.0 / 50 + 50.0 / 500, 0.01));
  standin::Drive corner(limits, {0, 0, 0});
  corner.add({50, 0, 0}, false, 50, 0);
  corner.add({50, 50, 0}, false, 50, 0);
  // Each leg: up to 50, down to 2 at the corner (one end stands): d/v + ((v)² + (v−2)²)/(2·a·v) with a = 500.
  const double leg = 50.0 / 50 + (50.0 * 50 + 48.0 * 48) / (2 * 500.0 * 50);
  CHECK_THAT(time_of(corner), WithinAbs(2 * leg, 0.01));
}

TEST_CASE("a hold brakes along the path, and nothing is lost of it") {
  const standin::Limits limits{{50, 50, 25}, {100, 100, 100}, {500, 500, 250}, 2};
  standin::Drive drive(limits, {0, 0, 0});
  for (int k = 1; k <= 100; ++k) drive.add({k * 1.0, 0, 0}, false, 50, static_cast<std::uint32_t>(k));
  std::vector<standin::Drive::Ended> ended;
  for (int t = 0; t < 1000; ++t) drive.go_on(ended);
  const double at = drive.at().x;
  drive.hold(true);
  for (int t = 0; t < 1000; ++t) drive.go_on(ended);
  CHECK(drive.stands());
  CHECK_THAT(drive.at().x - at, WithinAbs(50.0 * 50 / (2 * 500), 0.1));  // v²/2a
  CHECK(drive.at().y == 0);
  drive.hold(false);
  while (!drive.idle()) drive.go_on(ended);
  REQUIRE(ended.size() == 100);
  for (std::size_t k = 0; k < 100; ++k) CHECK(ended[k].mark == k + 1);
}

TEST_CASE("a ball's sweep has the height of its closed form, level and aslant") {
  standin::Wood wood;
  wood.lay({100, 100, 20, 0, 0});
  standin::CutterShape ball;
  ball.kind = standin::CutterShape::Kind::ball;
  ball.radius = 3;
  wood.sweep({20, 50, 12}, {80, 50, 12}, ball);
  for (const double off : {0.0, 0.7, 1.9, 2.9})
    CHECK_THAT(wood.top(50, 50 + off), WithinAbs(12 + 3 - std::sqrt(9 - off * off), 1e-9));
  CHECK(wood.top(50, 53.1) == 20);
  // Aslant: the tube about the line of the ball's middles, square to it.
  wood.lay({100, 100, 20, 0, 0});
  wood.sweep({20, 50, 10}, {80, 50, 16}, ball);
  const double slope = 6.0 / 60;
  for (const double x : {35.0, 50.0, 65.0}) {
    const double middle = 10 + (x - 20) * slope + 3;
    CHECK_THAT(wood.top(x, 50), WithinAbs(middle - 3 * std::sqrt(1 + slope * slope), 1e-6));
  }
  // Turned over, what was cut is the underside.
  const double left = wood.top(50, 50);
  wood.turn(true, 0, 0);
  CHECK(wood.top(50, 50) == 20);
  CHECK_THAT(wood.bottom(50, 50), WithinAbs(20 - left, 1e-9));
  standin::Wood kept;
  REQUIRE(kept.from_text(wood.text()));
  CHECK_THAT(kept.bottom(50, 50), WithinAbs(20 - left, 1e-4));
  CHECK_FALSE(kept.from_text("wood 1 nonsense"));
  CHECK_FALSE(kept.from_text(wood.text().substr(0, wood.text().size() / 2)));
}

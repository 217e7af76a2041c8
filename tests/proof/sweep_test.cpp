// Swept bodies against the plain way: a disc put down at every hundredth of a millimetre, a box looked at from every
// place of a move.
#include <catch2/catch.hpp>

#include "core/proof/clearance.hpp"
#include "core/proof/removal.hpp"
#include "support/random.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {

TileGrid hills(Random& random, double size, double cell) {
  const int n = static_cast<int>(size / cell);
  TileGrid grid({0, 0}, cell, n, n, 0);
  const double fx = random.between(0.2, 0.8);
  const double fy = random.between(0.2, 0.8);
  const double step = random.between(2, size - 2);
  for (int j = 0; j < n; ++j)
    for (int i = 0; i < n; ++i) {
      const Vec2 p = grid.centre(i, j);
      grid.at(i, j) = static_cast<float>(-2 + std::sin(fx * p.x) + std::cos(fy * p.y) - (p.x > step ? 1.5 : 0));
    }
  grid.refresh_all();
  return grid;
}

/// The greatest height of wood over a disc's underside, from places along the move.
double stamped(const TileGrid& grid, Vec3 a, Vec3 b, double radius) {
  double worst = -1e300;
  const int n = std::max(1, static_cast<int>(std::ceil(distance(a, b) / 0.01)));
  for (int s = 0; s <= n; ++s) {
    const Vec3 p = lerp(a, b, static_cast<double>(s) / n);
    for (int j = 0; j < grid.height(); ++j)
      for (int i = 0; i < grid.width(); ++i)
        if (distance(grid.centre(i, j), flat(p)) < radius)
          worst = std::max(worst, static_cast<double>(grid.at(i, j)) - p.z);
  }
  return worst;
}

}  // namespace

TEST_CASE("a disc swept through wood meets what one put down at every hundredth meets") {
  Random random(11);
  for (int round = 0; round < 60; ++round) {
    CAPTURE(round);
    const double cell = random.between(0.25, 0.6);
    const TileGrid grid = hills(random, 16, cell);
    Vec3 a = random.place(16, -4, 1);
    Vec3 b = a;
    switch (round % 4) {
      case 0: b = random.place(16, a.z, a.z + 1e-9); break;            // level
      case 1: b.z -= random.between(0.1, 2); break;                    // straight down
      case 2: b = {a.x + random.between(-2, 2), a.y, a.z - 1}; break;  // steep
      default: b = random.place(16, -4, 1);
    }
    const double radius = random.between(0.6, 5);
    const double plain = stamped(grid, a, b, radius);
    const Into swept = wood_into_disc(grid, a, b, radius, -100);
    if (plain < -1e200) {
      CHECK(swept.by < -1e200);
      continue;
    }
    // At the rim of the disc a cell may be met between two places that were looked at: never missed, and never by more
    // than the move falls on the way across the widest cell.
    CHECK(swept.by >= plain - 1e-6);
    const double fall = std::abs(a.z - b.z) / std::max(1e-9, distance(flat(a), flat(b)));
    if (distance(flat(a), flat(b)) < 1e-9)
      CHECK_THAT(swept.by, WithinAbs(plain, 0.011));
    else
      CHECK(swept.by <= plain + 0.02 + 0.03 * fall + (fall > 0 ? 0.15 * std::abs(a.z - b.z) : 0));
  }
}

TEST_CASE("a disc that is wholly above the wood is told to be, and where it is met lies under it") {
  Random random(5);
  for (int round = 0; round < 40; ++round) {
    const TileGrid grid = hills(random, 16, 0.4);
    const Vec3 a = random.place(16, 0.6, 2);
    const Vec3 b = random.place(16, 0.6, 2);
    CHECK(wood_into_disc(grid, a, b, 3).by <= 0);
    const Vec3 low_a{a.x, a.y, -3};
    const Vec3 low_b{b.x, b.y, -3};
    const Into into = wood_into_disc(grid, low_a, low_b, 3);
    if (into.by > 0) CHECK(distance_to(into.at, {flat(a), flat(b)}) < 3);
  }
}

TEST_CASE("a cylinder meets a box where one that is looked at step by step does") {
  Random random(23);
  int met = 0;
  for (int round = 0; round < 400; ++round) {
    CAPTURE(round);
    const Setup::Box box{"post",
                         {random.between(4, 8), random.between(4, 8), -10},
                         {random.between(8.5, 12), random.between(8.5, 12), random.between(-3, 3)}};
    const Vec3 a = random.place(18, -5, 5);
    const Vec3 b = round % 5 == 0 ? Vec3{a.x, a.y, a.z - 2} : random.place(18, -5, 5);
    const double radius = random.between(0.5, 3);
    const double beside = random.between(0, 2);
    const double above = random.between(0, 1);
    const auto near = [&](double margin) {
      const int n = std::max(1, static_cast<int>(std::ceil(distance(a, b) / 0.01)));
      for (int s = 0; s <= n; ++s) {
        const Vec3 p = lerp(a, b, static_cast<double>(s) / n);
        if (p.z >= box.high.z + above + margin) continue;
        const double dx = std::max({box.low.x - p.x, 0.0, p.x - box.high.x});
        const double dy = std::max({box.low.y - p.y, 0.0, p.y - box.high.y});
        if (std::hypot(dx, dy) < radius + beside + margin) return true;
      }
      return false;
    };
    const bool swept = meets_box(a, b, radius, box, beside, above);
    if (near(-0.02)) CHECK(swept);
    if (!near(0.02)) CHECK_FALSE(swept);
    met += swept ? 1 : 0;
  }
  CHECK(met > 50);
  CHECK(met < 380);
}

TEST_CASE("what a sweep takes is the wood that is gone, and how deep the cutter was in it") {
  Random random(31);
  for (int round = 0; round < 40; ++round) {
    CAPTURE(round);
    TileGrid grid = hills(random, 16, 0.3);
    const TileGrid before = grid;
    Cutter c;
    c.kind = round % 3 == 0 ? CutterKind::ball : round % 3 == 1 ? CutterKind::flat : CutterKind::drill;
    c.diameter = random.between(1, 5);
    Remover remover(c);
    const Vec3 a = random.place(16, -4, 0);
    const Vec3 b = c.kind == CutterKind::drill ? Vec3{a.x, a.y, a.z - 1} : random.place(16, -4, 0);
    const Removed removed = remover.sweep(grid, a, b);
    double volume = 0;
    double deepest = 0;
    double highest = -1e300;
    for (int j = 0; j < grid.height(); ++j)
      for (int i = 0; i < grid.width(); ++i) {
        const double taken = static_cast<double>(before.at(i, j)) - static_cast<double>(grid.at(i, j));
        CHECK(taken >= 0);
        volume += taken * 0.3 * 0.3;
        if (taken > 0) highest = std::max(highest, static_cast<double>(before.at(i, j)));
        deepest = std::max(deepest, taken);
      }
    CHECK_THAT(removed.volume_mm3, WithinAbs(volume, 1e-3 + 1e-4 * volume));
    // How much of the cutter was in wood: at least what is gone, at most up to the highest of it.
    if (volume > 0) {
      CHECK(removed.deepest >= deepest - 1e-4);
      CHECK(removed.deepest <= highest - std::min(a.z, b.z) + 1e-4);
    }
    CHECK(removed.any == (volume > 0));
    // The same once more takes nothing.
    CHECK(remover.sweep(grid, a, b).volume_mm3 < 1e-9);
  }
}

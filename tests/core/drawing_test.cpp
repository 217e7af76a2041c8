// What short segments are turned back into, and what is told of a drawing that cannot be an outline.
#include <catch2/catch.hpp>

#include <numbers>
#include <random>

#include "core/plan/cleaning.hpp"
#include "core/plan/region.hpp"

using namespace wren;
using Catch::Matchers::WithinAbs;

namespace {

constexpr double pi = std::numbers::pi;

Polygon chopped_circle(Vec2 c, double r, int n, double from = 0.3) {
  Polygon out;
  for (int k = 0; k < n; ++k)
    out.push_back(c + Vec2{std::cos(from + 2 * pi * k / n), std::sin(from + 2 * pi * k / n)} * r);
  return out;
}

double farthest(const Contour& contour, const Polygon& points) {
  const Polygon fine = flatten(contour, 1e-4);
  double worst = 0;
  for (const Vec2 p : points) worst = std::max(worst, distance_to(fine, p));
  return worst;
}

}  // namespace

TEST_CASE("a circle drawn as 30 segments comes back as one circle") {
  for (const double r : {1.6, 4.75, 50.0, 165.0}) {
    const Recovered back = recover(chopped_circle({12.5, -40}, r, 30), true);
    REQUIRE(back.circle);
    CHECK_THAT(back.circle->radius, WithinAbs(r, 1e-6));
    CHECK(distance(back.circle->centre, {12.5, -40}) < 1e-6);
    CHECK(back.path.size() == 2);
  }
  // Written with two decimals, as some exporters do.
  Polygon rough = chopped_circle({3, 4}, 22, 30);
  for (Vec2& p : rough) p = {std::round(p.x * 100) / 100, std::round(p.y * 100) / 100};
  const Recovered back = recover(rough, true);
  REQUIRE(back.circle);
  CHECK_THAT(back.circle->radius, WithinAbs(22, 0.01));
  CHECK(distance(back.circle->centre, {3, 4}) < 0.01);
}

TEST_CASE("a square, a hexagon and an octagon keep their corners") {
  for (const int n : {4, 6, 8}) {
    const Recovered back = recover(chopped_circle({0, 0}, 40, n), true);
    CHECK_FALSE(back.circle);
    CHECK(back.lines == n);
    CHECK(back.path.size() == static_cast<std::size_t>(n));
  }
}

TEST_CASE("a rounded rectangle of short segments comes back as four lines and four arcs") {
  const Polygon points = rounded_rectangle({10, 20}, {1, 0.2}, 92, 40, 6);
  Polygon coarse;
  Contour exact;
  for (const Vec2 p : points) coarse.push_back(p);
  const Recovered back = recover(coarse, true);
  CHECK(back.lines == 4);
  CHECK(back.arcs == 4);
  CHECK(back.curves == 0);
  for (const PathNode& n : back.path)
    if (n.edge == EdgeKind::arc)
      CHECK_THAT(std::abs(arc_of(n.at, (&n == &back.path.back() ? back.path.front() : *(&n + 1)).at, n.bulge).radius),
                 WithinAbs(6, 0.05));
  CHECK(farthest(to_contour(back.path), coarse) < 0.03);
}

TEST_CASE("an ellipse and a free curve come back as a few smooth curves") {
  Polygon points;
  const int n = 400;
  for (int k = 0; k < n; ++k) points.push_back({160 * std::cos(2 * pi * k / n), 95 * std::sin(2 * pi * k / n)});
  const Recovered back = recover(points, true);
  CHECK(back.path.size() <= 16);
  CHECK(farthest(to_contour(back.path, 0.002), points) < 0.025);
  // The area of the ellipse itself, not of its chords.
  CHECK_THAT(signed_area(flatten(to_contour(back.path, 0.001), 0.0005)), WithinAbs(pi * 160 * 95, 8));
}

TEST_CASE("arcs made of a curve meet in one tangent and stay within the tolerance") {
  const Path path =
      smooth_through({{{0, 0}, {0, 1}}, {{-60, 90}, {-1, 0}}, {{-200, 20}, {0, -1}}, {{-70, -80}, {1, 0.1}}});
  const Contour contour = to_contour(path, 0.005);
  const Polygon fine = flatten(contour, 1e-4);
  for (std::size_t i = 0; i < path.size(); ++i)
    for (int k = 0; k < 40; ++k)
      CHECK(distance_to(fine, point_on(path[i], path[(i + 1) % path.size()], k / 40.0)) < 0.0055);
  for (std::size_t i = 0; i < contour.size(); ++i) {
    const Vec2 at = contour[i].at;
    const double s = [&] {
      double sum = 0;
      for (std::size_t k = 0; k < i; ++k) {
        const Contour piece{contour[k], {contour[k + 1].at, 0}};
        sum += perimeter(piece) - distance(contour[k + 1].at, contour[k].at);
      }
      return sum;
    }();
    const Vec2 before = place_along(contour, s - 1e-4).along;
    const Vec2 behind = place_along(contour, s + 1e-4).along;
    INFO(at.x << " " << at.y);
    CHECK(std::abs(cross(before, behind)) < 1e-3);
  }
}

TEST_CASE("a node put on a path does not change it, and a mirrored half is symmetric to the last bit") {
  const Path path =
      smooth_through({{{100, 0}, {0, 1}}, {{0, 150}, {-1, 0}}, {{-120, 3}, {0, -1}}, {{10, -140}, {1, 0}}});
  const Path more = with_node(path, 1, 0.37);
  CHECK(more.size() == path.size() + 1);
  CHECK(farthest(to_contour(more, 0.001), flatten(to_contour(path, 0.001), 0.001)) < 0.003);
  for (const int side : {1, -1}) {
    const auto even = symmetric_from(path, side);
    REQUIRE(even);
    for (const PathNode& n : *even) {
      if (n.at.y == 0) continue;
      CHECK(std::any_of(even->begin(), even->end(),
                        [&](const PathNode& m) { return m.at.x == n.at.x && m.at.y == -n.at.y; }));
    }
    CHECK(signed_area(flatten(to_contour(*even), 0.01)) > 0);
  }
  CHECK_FALSE(symmetric_from(moved(path, {0, 500}), 1));
}

TEST_CASE("ten thousand loose segments in any order and direction are joined into what they were") {
  std::mt19937 rng(7);
  std::vector<DrawnPath> pieces;
  Polygon ring;
  const int n = 10'000;
  for (int k = 0; k < n; ++k) {
    const double a = 2 * pi * k / n;
    ring.push_back(Vec2{std::cos(a), std::sin(a)} * (150 + 20 * std::sin(3 * a)));
  }
  for (int k = 0; k < n; ++k) {
    Polygon two{ring[static_cast<std::size_t>(k)], ring[static_cast<std::size_t>((k + 1) % n)]};
    if (rng() % 2 == 0) std::swap(two[0], two[1]);
    pieces.push_back({"body", 0, false, two});
  }
  pieces.push_back(pieces[17]);  // drawn twice
  pieces.push_back({"body", 0, false, {{5, 5}, {5, 5}}});
  std::shuffle(pieces.begin(), pieces.end(), rng);
  const Cleaned cleaned = clean(pieces);
  CHECK(cleaned.doubles == 1);
  CHECK(cleaned.zero_length == 1);
  REQUIRE(cleaned.paths.size() == 1);
  CHECK(cleaned.paths.front().closed);
  CHECK(cleaned.paths.front().points.size() == static_cast<std::size_t>(n));
  CHECK(cleaned.open_ends.empty());
  CHECK(cleaned.paths.front().shape.path.size() < 60);
  CHECK(cleaned.worst <= 0.0201);
}

TEST_CASE("open and self-crossing outlines are told with their places") {
  const Cleaned cleaned =
      clean({{"a", 0, false, {{0, 0}, {50, 0}, {50, 30}}}, {"b", 0, true, {{0, 0}, {40, 40}, {40, 0}, {0, 40}}}});
  REQUIRE(cleaned.open_ends.size() == 2);
  CHECK(cleaned.open_ends.back() == Vec2{50, 30});
  REQUIRE(cleaned.crossings.size() == 1);
  CHECK(distance(cleaned.crossings.front(), {20, 20}) < 1e-9);
  CHECK(is_simple(chopped_circle({0, 0}, 100, 50'000)));
}

TEST_CASE("distances read from cells are the true ones within their reach") {
  const Polygon ring = chopped_circle({0, 0}, 60, 200);
  const Nearness near(ring, 12);
  std::mt19937 rng(3);
  std::uniform_real_distribution<double> anywhere(-90, 90);
  for (int k = 0; k < 2000; ++k) {
    const Vec2 p{anywhere(rng), anywhere(rng)};
    CHECK_THAT(near.distance_within(p), WithinAbs(std::min(12.0, distance_to(ring, p)), 1e-9));
  }
}

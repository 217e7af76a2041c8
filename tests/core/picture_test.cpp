// Pictures behind views: their places; what cannot be placed; tracing what is odd.
#include <fmt/format.h>
#include "core/plan/placed_picture.hpp"
#include "core/plan/trace.hpp"
#include "support/made.hpp"
#include "support/random.hpp"

namespace wren {
namespace {

GreyPicture drawn(const std::vector<std::string>& rows) {
  GreyPicture p{static_cast<int>(rows.front().size()), static_cast<int>(rows.size()), {}};
  for (const std::string& row : rows)
    for (const char c : row) p.grey.push_back(c == '#' ? 0 : c == '+' ? 128 : 255);
  return p;
}

std::string ppm(int w, int h, unsigned char grey) {
  return "P6\n" + fmt::to_string(w) + " " + fmt::to_string(h) + "\n255\n" +
         std::string(static_cast<std::size_t>(w) * static_cast<std::size_t>(h) * 3, static_cast<char>(grey));
}

}  // namespace

TEST_CASE("a place goes into the picture and back, however it is turned, mirrored and scaled", "[picture]") {
  Random random(5);
  for (int k = 0; k < 200; ++k) {
    PlacedPicture p;
    p.low = {random.between(-300, 300), random.between(-300, 300)};
    p.angle_deg = random.between(-180, 180);
    p.mirrored = random.between(0, 1) < 0.5;
    p.mm_per_pixel = random.between(0.01, 2);
    const Vec2 at{random.between(-2000, 2000), random.between(-2000, 2000)};
    CHECK(distance(p.to_pixel(p.to_world(at)), at) < 1e-8);
    // Laid on two places, both lie there, and it is mirrored as it was.
    const Vec2 other = at + Vec2{random.between(5, 900), random.between(-900, 900)};
    const Vec2 a{random.between(-100, 100), random.between(-100, 100)};
    const Vec2 b = a + Vec2{random.between(1, 400), random.between(-300, 300)};
    const auto laid = laid_on(p, at, other, a, b);
    REQUIRE(laid);
    CHECK(distance(laid->to_world(at), a) < 1e-8);
    CHECK(distance(laid->to_world(other), b) < 1e-8);
    CHECK(laid->mirrored == p.mirrored);
    // Turned and mirrored about a place, that place keeps its pixel; twice mirrored it is what it was.
    const PlacedPicture turned = turned_about(p, a, 33);
    CHECK(distance(turned.to_pixel(a), p.to_pixel(a)) < 1e-7);
    const PlacedPicture back = mirrored_about(mirrored_about(p, a), a);
    CHECK(distance(back.low, p.low) < 1e-8);
    const auto known = scaled(p, at, other, 123);
    REQUIRE(known);
    CHECK(distance(known->to_world(at), known->to_world(other)) == Approx(123));
    CHECK(distance(known->to_world(at), p.to_world(at)) < 1e-8);
  }
}

TEST_CASE("two points in one place give no scale, and a sentence", "[picture]") {
  PlacedPicture p;
  for (const auto& bad :
       {laid_on(p, {5, 5}, {5, 5}, {0, 0}, {100, 0}), laid_on(p, {5, 5}, {5.5, 5}, {0, 0}, {100, 0}),
        laid_on(p, {5, 5}, {90, 5}, {7, 7}, {7, 7}), scaled(p, {5, 5}, {5, 5}, 100), scaled(p, {5, 5}, {90, 5}, 0),
        scaled(p, {5, 5}, {90, 5}, -3), scaled(p, {5, 5}, {90, 5}, 1e300)}) {
    REQUIRE_FALSE(bad);
    CHECK(bad.error().text().size() > 40);
    CHECK_FALSE(bad.error().todo.empty());
  }
  CHECK_FALSE(scaled(p, {5, 5}, {90, 5}, std::nan("")));
}

TEST_CASE("a square is one ring with the dark on its left, its hole another", "[trace]") {
  const GreyPicture p = drawn({"........", ".######.", ".#....#.", ".#....#.", ".#....#.", ".######.", "........"});
  const auto rings = dark_rings(p, 127, 1);
  REQUIRE(rings.size() == 2);
  CHECK(signed_area(rings[0]) > 0);
  CHECK(signed_area(rings[1]) < 0);
  CHECK(signed_area(rings[0]) == Approx(6 * 5).epsilon(0.1));
  // One line: the curve half way between its edges.
  const auto one = drawn_shapes(rings, 3);
  REQUIRE(one.size() == 1);
  CHECK(signed_area(one.front()) == Approx(5 * 4).epsilon(0.15));
  // With no line so wide it is a dark frame, and its outside counts.
  CHECK(signed_area(drawn_shapes(rings, 0.5).front()) == Approx(signed_area(rings[0])));
}

TEST_CASE("shapes at the picture's edge are closed along it; empty pictures have none", "[trace]") {
  CHECK(dark_rings(drawn({"....", "....", "...."}), 127).empty());
  const auto all = dark_rings(drawn({"####", "####", "####"}), 127, 1);
  REQUIRE(all.size() == 1);
  CHECK(signed_area(all.front()) > 6);
  CHECK(dark_rings(drawn({"##..", "##..", "...."}), 127, 1).size() == 1);
  // Two that touch by a corner: each ring is closed, whatever is made of it.
  for (const Polygon& ring : dark_rings(drawn({"......", ".##...", ".##...", "...##.", "...##.", "......"}), 127, 1))
    CHECK(std::abs(signed_area(ring)) > 1);
}

TEST_CASE("the level parts ink from paper, wherever both lie", "[trace]") {
  for (const auto& [ink, paper] : {std::pair{0, 255}, {90, 200}, {20, 60}}) {
    GreyPicture p{40, 40, {}};
    for (int k = 0; k < 1600; ++k) p.grey.push_back(static_cast<std::uint8_t>(k % 40 < 8 ? ink : paper));
    CHECK(level_of(p) > ink);
    CHECK(level_of(p) < paper);
  }
}

TEST_CASE("random pictures give closed rings and nothing twice", "[trace]") {
  Random random(11);
  for (int run = 0; run < 40; ++run) {
    GreyPicture p{24, 17, {}};
    for (int k = 0; k < 24 * 17; ++k) p.grey.push_back(random.between(0, 1) < 0.45 ? 0 : 255);
    double sum = 0;
    for (const Polygon& ring : dark_rings(p, 127.5, 0)) {
      sum += signed_area(ring);
      for (std::size_t i = 0; i < ring.size(); ++i) CHECK(distance(ring[i], ring[(i + 1) % ring.size()]) < 1.5);
    }
    // Dark pixels' squares, less what the slanting corners take: between none and all of them.
    double dark = 0;
    for (const std::uint8_t g : p.grey) dark += g == 0 ? 1 : 0;
    CHECK(sum > 0.5 * dark);
    CHECK(sum < 1.2 * dark + 1);
  }
}

TEST_CASE("pixels that are no picture, or too many, are a sentence", "[trace]") {
  CHECK(grey_from_ppm(ppm(7, 5, 90), "x"));
  CHECK(grey_from_ppm(ppm(7, 5, 90), "x")->grey.front() == 90);
  std::string cut = ppm(7, 5, 90);
  cut.pop_back();
  for (const std::string& bad :
       {std::string(), std::string("P5\n3 3\n255\n"), std::string("P6\n"), std::string("P6\n0 4\n255\n"),
        std::string("P6\n-4 4\n255\n"), std::string("P6\n4 4\n65535\n"), cut, std::string("P6\n20000 20000\n255\nabc"),
        std::string("P6\n99999999999999999999 1\n255\n")}) {
    INFO(bad.substr(0, 30));
    const auto read = grey_from_ppm(bad, "scan.png");
    REQUIRE_FALSE(read);
    CHECK(read.error().text().find("scan.png") != std::string::npos);
  }
  const auto huge = grey_from_ppm("P6\n20000 20000\n255\n", "scan.png");
  REQUIRE_FALSE(huge);
  CHECK(huge.error().text().find("20000") != std::string::npos);
}

}  // namespace wren

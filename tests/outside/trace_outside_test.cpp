// Traced pictures against shapes that are known: what was drawn at 150 dots an inch comes back within a tenth of a mm.
#include <numbers>

#include "core/plan/placed_picture.hpp"
#include "core/plan/recover.hpp"
#include "core/plan/trace.hpp"
#include "support/made.hpp"

namespace wren {
namespace {

constexpr double dpi = 150;
constexpr double mm_per_pixel = 25.4 / dpi;

/// A picture as a scanner gives it: every pixel the mean of 6 x 6 places on it. `ink` says whether a place (mm) is
/// dark.
template <class Ink>
GreyPicture scanned(double wide, double high, const Ink& ink) {
  GreyPicture p{static_cast<int>(wide / mm_per_pixel), static_cast<int>(high / mm_per_pixel), {}};
  p.grey.resize(static_cast<std::size_t>(p.width) * static_cast<std::size_t>(p.height));
  constexpr int fine = 6;
  for (int y = 0; y < p.height; ++y)
    for (int x = 0; x < p.width; ++x) {
      int dark = 0;
      for (int j = 0; j < fine; ++j)
        for (int i = 0; i < fine; ++i)
          if (ink(Vec2{(x + (i + 0.5) / fine - 0.5) * mm_per_pixel, (y + (j + 0.5) / fine - 0.5) * mm_per_pixel}))
            ++dark;
      p.grey[static_cast<std::size_t>(p.height - 1 - y) * static_cast<std::size_t>(p.width) +
             static_cast<std::size_t>(x)] = static_cast<std::uint8_t>(245 - 215 * dark / (fine * fine));
    }
  return p;
}

Polygon in_mm(const Polygon& ring) {
  Polygon out;
  for (const Vec2 q : ring) out.push_back(q * mm_per_pixel);
  return out;
}

}  // namespace

TEST_CASE("traced circles come back within a tenth of a millimetre at 150 dots an inch", "[outside]") {
  for (const double radius : {3.0, 12.25, 31.7})
    for (const double line : {0.35, 0.7, 1.4}) {
      INFO("radius " << radius << ", drawn with a line of " << line);
      const Vec2 middle{36.13, 35.41};
      const GreyPicture p = scanned(72, 71, [&](Vec2 q) { return std::abs(distance(q, middle) - radius) < line / 2; });
      const auto shapes = drawn_shapes(dark_rings(p, level_of(p)), 12);
      REQUIRE(shapes.size() == 1);
      const Recovered found = recover(in_mm(shapes.front()), true, {0.08, false, 28});
      REQUIRE(found.circle);
      CHECK(found.circle->radius == Approx(radius).margin(0.1));
      CHECK(distance(found.circle->centre, middle) < 0.1);
      for (const Vec2 q : in_mm(shapes.front())) CHECK(std::abs(distance(q, middle) - radius) < 0.1);
    }
}

TEST_CASE("a dark disc is its own edge, a drawn one the middle of its line", "[outside]") {
  const Vec2 middle{20, 20};
  const GreyPicture disc = scanned(40, 40, [&](Vec2 q) { return distance(q, middle) < 12; });
  const auto filled = drawn_shapes(dark_rings(disc, level_of(disc)), 8);
  REQUIRE(filled.size() == 1);
  CHECK(signed_area(in_mm(filled.front())) == Approx(std::numbers::pi * 144).epsilon(0.004));
}

// A known section: half an ellipse 52 wide and 21 deep, as a gauge's trace on paper.
TEST_CASE("a known section comes back within a tenth of a millimetre", "[outside]") {
  const Vec2 middle{32, 26};
  const auto inside = [&](Vec2 q) {
    const Vec2 d = q - middle;
    return d.y <= 0 && (d.x / 26) * (d.x / 26) + (d.y / 21) * (d.y / 21) <= 1;
  };
  const GreyPicture p = scanned(64, 40, inside);
  const auto rings = dark_rings(p, level_of(p));
  REQUIRE(rings.size() == 1);
  double worst = 0;
  for (const Vec2 q : in_mm(rings.front())) {
    // Square to the ellipse, to first order: its equation's value over its gradient; above it the straight edge.
    const Vec2 d = q - middle;
    const double f = (d.x / 26) * (d.x / 26) + (d.y / 21) * (d.y / 21) - 1;
    const double g = 2 * std::hypot(d.x / (26 * 26), d.y / (21 * 21));
    const double off = std::abs(d.y) < 0.15 ? std::abs(d.y) : std::abs(f) / g;
    if (std::abs(std::abs(d.x) - 26) > 0.5 || d.y < -1) worst = std::max(worst, off);  // its two corners are sharp
  }
  CHECK(worst < 0.1);
}

// By hand: a picture whose nut and twelfth fret are 1200 pixels apart and lie 317.5 mm apart on the instrument.
TEST_CASE("a picture laid on two known places is so large and so turned", "[outside]") {
  PlacedPicture p;
  const auto laid = laid_on(p, {100, 50}, {1300, 50}, {0, 0}, {317.5, 0});
  REQUIRE(laid);
  CHECK(laid->mm_per_pixel == Approx(317.5 / 1200));
  CHECK(laid->angle_deg == Approx(0).margin(1e-12));
  CHECK(laid->to_world({700, 50}).x == Approx(158.75));
  // The same, the paper upside down on the glass.
  const auto over = laid_on(p, {1300, 50}, {100, 50}, {0, 0}, {317.5, 0});
  REQUIRE(over);
  CHECK(std::abs(over->angle_deg) == Approx(180));
  CHECK(distance(over->to_world({700, 150}), {158.75, -100 * 317.5 / 1200}) < 1e-9);
}

}  // namespace wren

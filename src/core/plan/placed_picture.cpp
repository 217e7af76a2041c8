#include "core/plan/placed_picture.hpp"

#include <cmath>
#include <numbers>

#include "core/units/length.hpp"

namespace wren {
namespace {

constexpr double degree = std::numbers::pi / 180;
Vec2 rotated(Vec2 p, double angle) {
  return {p.x * std::cos(angle) - p.y * std::sin(angle), p.x * std::sin(angle) + p.y * std::cos(angle)};
}

tl::unexpected<Problem> one_place(const char* of) {
  return fail(ProblemKind::input, std::string("both points lie in one place of the ") + of, "the picture's scale",
              "Choose two points far apart: the nut and the twelfth fret, the ends of a ruler");
}

}  // namespace

Vec2 PlacedPicture::to_world(Vec2 p) const {
  if (mirrored) p.x = -p.x;
  return low + rotated(p * mm_per_pixel, angle_deg * degree);
}

Vec2 PlacedPicture::to_pixel(Vec2 w) const {
  Vec2 p = rotated(w - low, -angle_deg * degree) * (1 / mm_per_pixel);
  if (mirrored) p.x = -p.x;
  return p;
}

Expected<PlacedPicture> laid_on(PlacedPicture p, Vec2 pixel_a, Vec2 pixel_b, Vec2 world_a, Vec2 world_b) {
  if (distance(pixel_a, pixel_b) < 1) return one_place("picture");
  if (distance(world_a, world_b) < 0.1) return one_place("drawing");
  p.mm_per_pixel = distance(world_a, world_b) / distance(pixel_a, pixel_b);
  Vec2 in = pixel_b - pixel_a;
  if (p.mirrored) in.x = -in.x;
  const Vec2 out = world_b - world_a;
  p.angle_deg = (std::atan2(out.y, out.x) - std::atan2(in.y, in.x)) / degree;
  p.low = {};
  p.low = world_a - p.to_world(pixel_a);
  return p;
}

Expected<PlacedPicture> scaled(PlacedPicture p, Vec2 pixel_a, Vec2 pixel_b, double known) {
  if (distance(pixel_a, pixel_b) < 1) return one_place("picture");
  if (!(known >= 0.1 && known <= 10'000))
    return fail(ProblemKind::range, "a distance of " + format_mm(known, 3) + " mm says nothing", "the picture's scale",
                "Give the distance of the two points, between 0.1 and 10 000 mm");
  const Vec2 keep = p.to_world(pixel_a);
  p.mm_per_pixel = known / distance(pixel_a, pixel_b);
  p.low = p.low + keep - p.to_world(pixel_a);
  return p;
}

PlacedPicture turned_about(PlacedPicture p, Vec2 world, double more_deg) {
  const Vec2 pixel = p.to_pixel(world);
  p.angle_deg = std::remainder(p.angle_deg + more_deg, 360.0);
  p.low = p.low + world - p.to_world(pixel);
  return p;
}

PlacedPicture mirrored_about(PlacedPicture p, Vec2 world) {
  const Vec2 pixel = p.to_pixel(world);
  p.mirrored = !p.mirrored;
  p.low = p.low + world - p.to_world(pixel);
  return p;
}

}  // namespace wren

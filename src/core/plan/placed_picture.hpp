// A picture that lies behind a view of a part: where, how large, which way, how faded. Its pixels are counted as they
// are traced: x to the right, y up from the lowest row. World: the view's, mm.
#pragma once

#include <string>

#include "core/plan/geometry.hpp"
#include "core/report/problem.hpp"

namespace wren {

struct PlacedPicture {
  std::string hash;    // SHA-256 of its file: what it is found by beside the project
  std::string name;    // the file's own, for people
  int page = 1;        // of a PDF
  std::string part;    // "body", "neck", …
  std::string view;    // "plan", "side", "section"
  double station = 0;  // of a section: where along the part
  Vec2 low;            // world: where the lower left pixel's middle lies
  double mm_per_pixel = 0.2;
  double angle_deg = 0;   // counter-clockwise, about `low`
  bool mirrored = false;  // left and right, before it is turned
  double fade = 0.5;      // 0 as it is, 1 gone
  friend bool operator==(const PlacedPicture&, const PlacedPicture&) = default;

  [[nodiscard]] Vec2 to_world(Vec2 pixel) const;
  [[nodiscard]] Vec2 to_pixel(Vec2 world) const;
};
constexpr std::size_t most_pictures = 100;

/// The picture so that two of its pixels come to lie where two places of the world are: scaled and turned, as it is
/// mirrored. Refused for two points in one place, of the picture or of the world.
[[nodiscard]] Expected<PlacedPicture> laid_on(PlacedPicture picture, Vec2 pixel_a, Vec2 pixel_b, Vec2 world_a,
                                              Vec2 world_b);
/// So that they are `known` mm apart, about the first, as it is turned. Refused like that, and for no distance.
[[nodiscard]] Expected<PlacedPicture> scaled(PlacedPicture picture, Vec2 pixel_a, Vec2 pixel_b, double known);
/// Turned or mirrored about a place of the world, which keeps its pixel.
[[nodiscard]] PlacedPicture turned_about(PlacedPicture picture, Vec2 world, double more_deg);
[[nodiscard]] PlacedPicture mirrored_about(PlacedPicture picture, Vec2 world);

}  // namespace wren

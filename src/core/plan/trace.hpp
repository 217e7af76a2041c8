// Tracing: dark shapes and lines of a grey picture as polygons with corners between pixels, where the grey passes a
// level (marching squares; Lorensen & Cline 1987 in two dimensions). Pixels' middles are the samples. Units: pixels, x
// to the right, y up from the lowest row's middle.
#pragma once

#include <cstdint>

#include "core/plan/region.hpp"
#include "core/report/problem.hpp"

namespace wren {

struct GreyPicture {
  int width = 0;
  int height = 0;
  std::vector<std::uint8_t> grey;  // row by row from the top; 0 black, 255 white
  /// 255 outside.
  [[nodiscard]] double at(int x, int y_up) const {
    if (x < 0 || y_up < 0 || x >= width || y_up >= height) return 255;
    return grey[static_cast<std::size_t>(height - 1 - y_up) * static_cast<std::size_t>(width) +
                static_cast<std::size_t>(x)];
  }
};
constexpr std::size_t most_picture_pixels = 100'000'000;

/// From PPM (P6, 255), by the eye's weights (ITU-R BT.601). Refused where it is none, or has more pixels than may be.
[[nodiscard]] Expected<GreyPicture> grey_from_ppm(std::string_view ppm, const std::string& name);

/// A level between the picture's dark and its paper: the one that parts its greys best (Otsu, IEEE Trans. Syst. Man
/// Cybern. 9, 1979).
[[nodiscard]] double level_of(const GreyPicture& picture);

/// Rings round everything darker than the level, dark on their left; of at least `least` pixels' area. What the
/// picture's edge cuts off is closed along it. At most `most`: the largest.
[[nodiscard]] std::vector<Polygon> dark_rings(const GreyPicture& picture, double level, double least = 20,
                                              std::size_t most = 2000);

/// A closed shape as a maker draws it is a line round it: of a ring and the ring within it the curve half way between,
/// as rings of one line run side by side. A shape that is dark all through stays its own edge.
[[nodiscard]] std::vector<Polygon> drawn_shapes(const std::vector<Polygon>& rings, double widest_line);

}  // namespace wren

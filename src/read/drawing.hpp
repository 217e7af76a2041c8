// Foreign drawings from their text: what the walled-in reader makes of a file. Lengths come out in mm; arcs and curves
// as chords. Work is bounded, not size alone: whatever a text asks for, no more than 200 000 points are made of it,
// counted before blocks are put in.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "core/plan/cleaning.hpp"
#include "core/report/problem.hpp"

namespace wren {

constexpr std::size_t most_drawing_bytes = 64U << 20;
constexpr std::size_t most_drawing_points = 200'000;

struct ReadDrawing {
  std::vector<DrawnPath> paths;
  bool unit_known = false;                  // whether the file says its unit
  std::map<std::string, std::size_t> left;  // what was left out, by kind: "text", "dimension"
};

/// LINE, ARC, CIRCLE, ELLIPSE, LWPOLYLINE, POLYLINE (with bulges), SPLINE (with weights, or through fit points), blocks
/// put in by INSERT (nested up to 12 deep); mm where no unit is said. `name` is for messages.
[[nodiscard]] Expected<ReadDrawing> dxf_paths(std::string_view text, const std::string& name);
/// path, polygon, polyline, rect (rounded too), circle, ellipse, line, use; transforms; units from width and viewBox
/// (96 px to the inch without).
[[nodiscard]] Expected<ReadDrawing> svg_paths(std::string_view text, const std::string& name);

/// A PNG or JPEG as PPM (P6), its points thinned to 12 million; at most 100 million are read.
[[nodiscard]] Expected<std::string> picture_pixels(std::string_view bytes, const std::string& name);

}  // namespace wren

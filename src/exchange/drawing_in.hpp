// Drawings and tables read: DXF (by dxflib), SVG (XML by pugixml; path grammar after SVG 1.1), CSV. Limits are stated
// and kept: files of at most 64 MB, 200 000 points. Lengths come out in mm.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/instrument/neck_shape.hpp"
#include "core/plan/cleaning.hpp"
#include "core/report/problem.hpp"

namespace wren {

/// LINE, ARC, CIRCLE, LWPOLYLINE, POLYLINE (with bulges), SPLINE, blocks put in by INSERT (nested up to 12 deep); arcs
/// and curves as chords within 0.005 mm; ends that meet within 0.02 mm are joined. `unit_known`: whether the file says
/// its unit (else mm).
[[nodiscard]] Expected<std::vector<DrawnPath>> read_dxf(const std::string& path, bool* unit_known = nullptr);
/// path, polygon, polyline, rect, circle, ellipse, line; transforms; units from width and viewBox (96 px to the inch
/// without).
[[nodiscard]] Expected<std::vector<DrawnPath>> read_svg(const std::string& path, bool* unit_known = nullptr);
/// The same from text; `name` is for messages.
[[nodiscard]] Expected<std::vector<DrawnPath>> svg_paths(std::string_view text, const std::string& name,
                                                         bool* unit_known = nullptr);

/// CSV with the columns x, y, depth (header optional; any unit in a cell), sections one after another.
[[nodiscard]] Expected<std::vector<BackSection>> sections_from_csv(std::string_view text, const std::string& name);
/// One open polyline for each section; its place x is the number in its layer's name, or its elevation.
[[nodiscard]] Expected<std::vector<BackSection>> sections_from_dxf(const std::string& path);
/// By the file's ending.
[[nodiscard]] Expected<std::vector<BackSection>> read_sections(const std::string& path);

/// The largest closed path of a DXF or SVG, counter-clockwise; an SVG's y is turned up. Instrument plan: nut line at x
/// = 0, head at negative x.
[[nodiscard]] Expected<Polygon> read_head_outline(const std::string& path);

}  // namespace wren

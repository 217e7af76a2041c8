// Drawings and tables read: DXF and SVG by wren-read, a process walled in from everything; CSV here. Lengths come out
// in mm.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/instrument/neck_shape.hpp"
#include "core/report/progress.hpp"
#include "core/report/problem.hpp"
#include "read/drawing.hpp"

namespace wren {

/// A DXF or SVG by the file's ending (see dxf_paths, svg_paths). Refused with a sentence, whatever the file holds: it
/// has ten seconds and 1 GiB.
[[nodiscard]] Expected<ReadDrawing> read_drawing(const std::string& path, Progress* progress = nullptr);
/// The same from text; `kind` is "dxf" or "svg", `path` for messages.
[[nodiscard]] Expected<ReadDrawing> drawing_from(std::string_view text, const std::string& kind,
                                                 const std::string& path, Progress* progress = nullptr);
/// A PNG or JPEG as PPM (P6), read by the same walled-in process; see picture_pixels.
[[nodiscard]] Expected<std::string> read_picture(const std::string& path, Progress* progress = nullptr);
/// What wren-read answered (docs/file-format.md); it has read a foreign file, so nothing in it is taken on trust.
[[nodiscard]] Expected<ReadDrawing> drawing_from_answer(std::string_view answer, const std::string& path);

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

// What is drawn somewhere else becomes something of the instrument: shapes traced from a picture behind a drawing, or
// curves of a DXF, SVG or PDF. mm.
#pragma once

#include "core/document/project.hpp"
#include "core/plan/cleaning.hpp"
#include "core/plan/placed_picture.hpp"
#include "core/plan/trace.hpp"
#include "core/report/progress.hpp"
#include "core/units/length.hpp"

namespace wren {

/// A picture's pixels (PNG, JPEG, or a page of a PDF at 150 dots an inch), read by the walled-in reader.
[[nodiscard]] Expected<GreyPicture> read_grey(const std::string& path, int page = 1, Progress* progress = nullptr);

/// Shapes of a picture where it lies, the largest first: lines by their middle, dark shapes by their edge.
[[nodiscard]] std::vector<Polygon> shapes_in(const GreyPicture& grey, const PlacedPicture& placed);

/// What is drawn in a file, the largest first: curves of a DXF, SVG or PDF, shapes of a PNG or JPEG whose points
/// measure `mm_per_point` (of a PDF too where it is more than 0: its page is traced then).
struct DrawnCurve {
  Polygon points;
  bool closed = true;
};
struct Drawn {
  std::vector<DrawnCurve> curves;
  bool unit_known = true;  // false: scale it by a known length
};
[[nodiscard]] bool is_raster(const std::string& path);
[[nodiscard]] Expected<Drawn> curves_in(const std::string& path, int page = 1, double mm_per_point = 0,
                                        Progress* progress = nullptr);

/// What a curve can become.
enum class TakenAs { body_outline, cavity, back_cavity, head, heel_arc, section, pickup, plate, mark };
struct TakeAs {
  TakenAs as = TakenAs::body_outline;
  std::string part;      // whose it becomes
  std::string name;      // of a cavity; which pickup: "neck", "middle", "bridge"
  double depth = 10;     // of a cavity
  double station = 0;    // of a section: from the nut line
  double within = 0.05;  // mm: how far the fair curve may leave the points
};
/// The ways there are, once for windows and command line: what each is called, whose part it becomes, and behind which
/// drawings of it such a curve is found ("plan side section").
struct TakeWay {
  const char* id;
  TakenAs as;
  const char* part;
  const char* views;
  const char* words;
  [[nodiscard]] bool found_in(const std::string& of_part, const std::string& view) const;
};
[[nodiscard]] const std::vector<TakeWay>& take_ways();
/// "body-outline", "cavity", "cavity-back", "head", "heel-arc", "section", "pickup-bridge", "plate", "mark"; nothing
/// else.
[[nodiscard]] Expected<TakeAs> take_as(const std::string& text);

/// The project with a curve taken over: into the frame of what it becomes, as it lies. Closed: its ends meet. Refused,
/// and nothing taken, where it crosses itself, is open where it must be closed, or makes nothing that can be.
[[nodiscard]] Expected<Project> with_curve(const Project& project, const Polygon& points, bool closed,
                                           const TakeAs& as);

/// Places along the neck as they are typed: "25, 30, 35 mm", or the first and the step, "25 by 5". Refused where they
/// are not `count` places, or two of them the same.
[[nodiscard]] Expected<std::vector<double>> places_from(const std::string& text, std::size_t count, UnitSystem units);

/// The order in which a sheet with curves on it is read: rows from the top, each from the left.
[[nodiscard]] std::vector<std::size_t> reading_order(const std::vector<DrawnCurve>& curves);

/// Gauge traces, wherever they lie on their sheet, as sections of the neck: the first in reading order at the first
/// place, and so on. Each stands upright, its middle over the neck's and its highest point on the glue plane. Refused,
/// and nothing taken, where one of them cannot be a section; it is named by its place.
[[nodiscard]] Expected<Project> with_sections(const Project& project, std::vector<DrawnCurve> curves,
                                              const std::vector<double>& places);

}  // namespace wren

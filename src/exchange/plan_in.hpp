// Plans read: a drawing of any kind (DXF, SVG, a page of a PDF) cleaned, and one of its curves laid into the body's
// frame.
//
// PDF pages are turned into paths by poppler's own converter in a process of its own, with limits on time and memory: a
// hostile file can only break that. Lengths in mm.
#pragma once

#include <string>

#include "core/instrument/body.hpp"
#include "core/plan/cleaning.hpp"
#include "core/report/progress.hpp"
#include "core/report/problem.hpp"

namespace wren {

struct PlanDrawing {
  Cleaned cleaned;
  bool unit_known = true;  // false: the file does not say; scale it by a known length
  int pages = 1;
  Vec2 size;  // of a PDF's page
  std::vector<std::string> notes;
};

/// By the file's ending: .dxf, .svg, .pdf. `page` from 1. A PDF page with pictures only is refused as unsupported: show
/// it as a backdrop.
[[nodiscard]] Expected<PlanDrawing> read_plan(const std::string& path, int page = 1,
                                              const CleaningOptions& options = {}, Progress* progress = nullptr);

/// What poppler's `pdfinfo` says of a file: pages, and the size of one in mm (nothing: unsaid or impossible).
struct PdfPages {
  int count = 1;
  Vec2 size;
};
[[nodiscard]] PdfPages pages_from(std::string_view said);
/// How many points one unit of a PDF's pages is (ISO 32000-1, 14.11.2, UserUnit), which the converter does not know; 1
/// where it is not said in the open, or where pages differ.
[[nodiscard]] double user_unit_of(std::string_view pdf);

/// A page of a PDF as PPM (P6). Refused where poppler's converter is missing or gives up.
[[nodiscard]] Expected<std::string> page_picture(const std::string& path, int page, int dots_per_inch,
                                                 Progress* progress = nullptr);

/// How a plan lies in the body's frame. The plan is turned so that `along` becomes +x, scaled, and `scale_point` comes
/// to lie on the body's scale line at its middle.
struct PlanPlacement {
  double scale = 1;
  double turn_deg = 0;
  bool mirror = false;  // seen from behind
  Vec2 centre;          // plan: a point on the centre line that comes to stand at `body_x`
  double body_x = 0;
};
[[nodiscard]] Path placed(const Path& path, const PlanPlacement& placement);
/// The scale that makes a measured distance of the plan the known one. Refused for a distance of nothing.
[[nodiscard]] Expected<double> scale_from(Vec2 a, Vec2 b, double known);

/// The usual guess for a body's outline: centre line along its longer side through the middle of its width, tail to the
/// right.
[[nodiscard]] PlanPlacement usual_placement(const CleanedPath& outline, double tail_x);

/// What a closed curve of a plan becomes of the body.
enum class Becomes { nothing, outline, cavity, back_cavity, hole, back_hole };
struct CurveUse {
  Becomes as = Becomes::nothing;
  std::string name;
  double depth = 10;
};
/// A guess for each path: the largest closed one is the outline; circles up to 40 mm within it are holes, other closed
/// curves within it cavities from the face; open ones, crossing ones and what lies outside nothing.
[[nodiscard]] std::vector<CurveUse> usual_uses(const Cleaned& plan);
/// The body with each path taken over as `uses` says (one for each path), laid by `placement`; what was drawn before
/// goes first where `instead`. Refused with the curve that cannot be used, and nothing taken.
[[nodiscard]] Expected<Body> with_curves(Body body, const Cleaned& plan, const std::vector<CurveUse>& uses,
                                         const PlanPlacement& placement, bool instead);

}  // namespace wren

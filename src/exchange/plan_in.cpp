#include "exchange/plan_in.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <numbers>

#include <fmt/format.h>

#include "core/document/files.hpp"
#include "core/instrument/body_shape.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/walled.hpp"

namespace wren {
namespace {

Problem pdf_problem(const std::string& path, const WalledResult& o) {
  if (o.code == 127) return {ProblemKind::file, "poppler's converter is not installed", path, "Install poppler-utils"};
  const bool locked = o.said.find("assword") != std::string::npos;
  if (locked) return {ProblemKind::unsupported, "the PDF is locked by a password", path, "Save it without one"};
  return {ProblemKind::format,
          o.code == 128 ? "the PDF took too long or too much memory"
                        : "this is no whole PDF: it is damaged, cut short or of another kind",
          path, "Fetch or print it again as PDF"};
}

bool is_pdf(const std::string& path) {
  const auto head = read_file(path, 512u << 20);
  return head && head->size() > 8 &&
         head->substr(0, std::min<std::size_t>(1024, head->size())).find("%PDF-") != std::string::npos;
}

std::string ending(const std::string& path) {
  std::string out = std::filesystem::path(path).extension().string();
  std::transform(out.begin(), out.end(), out.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return out;
}

/// The plural of what was left out: "texts", "pieces on a hidden layer".
std::string several(std::string kind) {
  const auto noun = std::min({kind.find(" on "), kind.find(" of "), kind.find(" without "), kind.size()});
  return kind.insert(noun, "s");
}

/// "left out: 3 texts, 1 dimension".
void tell_left(const std::map<std::string, std::size_t>& left, std::vector<std::string>& notes) {
  std::string text;
  for (const auto& [kind, count] : left)
    text += (text.empty() ? "" : ", ") + fmt::format("{} {}", count, count == 1 ? kind : several(kind));
  if (!text.empty()) notes.push_back("Left out: " + text + ".");
}

Expected<std::vector<DrawnPath>> read(const std::string& path, PlanDrawing& out, Progress* progress) {
  auto drawing = read_drawing(path, progress);
  if (!drawing) return tl::unexpected(drawing.error());
  out.unit_known = drawing->unit_known;
  tell_left(drawing->left, out.notes);
  return std::move(drawing->paths);
}

}  // namespace

double user_unit_of(std::string_view pdf) {
  constexpr std::string_view key = "/UserUnit";
  double unit = 0;
  for (auto at = pdf.find(key); at != std::string_view::npos; at = pdf.find(key, at + 1)) {
    const auto digit = pdf.find_first_not_of(" \r\n", at + key.size());
    double here = 0;
    if (digit == std::string_view::npos ||
        std::from_chars(pdf.data() + digit, pdf.data() + pdf.size(), here).ec != std::errc())
      continue;
    if (unit != 0 && here != unit) return 1;  // pages differ: which is whose is not told here
    unit = here;
  }
  return unit >= 0.01 && unit <= 1000 ? unit : 1;
}

PdfPages pages_from(std::string_view said) {
  PdfPages out;
  const char* const end = said.data() + said.size();
  const auto number_at = [&](std::string_view label) {
    const auto at = said.find(label);
    const auto digit = at == std::string_view::npos ? at : said.find_first_of("0123456789\n", at);
    return digit == std::string_view::npos ? end : said.data() + digit;
  };
  int count = 0;
  if (std::from_chars(number_at("Pages:"), end, count).ec == std::errc()) out.count = std::clamp(count, 1, 100'000);
  // "Page size:      595.276 x 841.89 pts (A4)", whatever the reader's own decimal sign.
  double w = 0;
  double h = 0;
  const auto wide = std::from_chars(number_at("Page size:"), end, w);
  if (wide.ec == std::errc() && end - wide.ptr > 3 && std::from_chars(wide.ptr + 3, end, h).ec == std::errc() &&
      w > 0 && h > 0 && w < 1e6 && h < 1e6)
    out.size = {w * 25.4 / 72, h * 25.4 / 72};
  return out;
}

Expected<std::string> page_picture(const std::string& path, int page, int dpi, Progress* progress) {
  if (!is_pdf(path)) return fail(ProblemKind::format, "this is not a PDF", path, "Choose a PDF file");
  const std::string number = fmt::to_string(page);
  auto made = run_walled({"pdftoppm", "-r", fmt::to_string(std::clamp(dpi, 20, 400)), "-f", number, "-l", number, path},
                         {}, {}, progress);
  if (!made) return tl::unexpected(made.error());
  if (made->code != 0 || !made->text.starts_with("P6\n")) return tl::unexpected(pdf_problem(path, *made));
  return std::move(made->text);
}

Expected<PlanDrawing> read_plan(const std::string& path, int page, const CleaningOptions& options, Progress* progress) {
  PlanDrawing out;
  const std::string kind = ending(path);
  Expected<std::vector<DrawnPath>> paths = std::vector<DrawnPath>{};
  if (kind == ".dxf") {
    paths = read(path, out, progress);
    if (paths && !out.unit_known)
      out.notes.emplace_back(
          "The drawing does not say its unit: it is taken as millimetres. Check one length you know.");
  } else if (kind == ".svg") {
    paths = read(path, out, progress);
    if (paths && !out.unit_known)
      out.notes.emplace_back(
          "The drawing does not say its size: 96 units are taken as an inch. Check one length you know.");
  } else if (kind == ".pdf") {
    const auto bytes = read_file(path, 512u << 20);
    if (!bytes) return tl::unexpected(bytes.error());
    if (!is_pdf(path)) return fail(ProblemKind::format, "this is not a PDF", path, "Choose a PDF file");
    auto info = run_walled({"pdfinfo", path}, {}, {}, progress);
    if (!info) return tl::unexpected(info.error());
    if (info->code != 0) return tl::unexpected(pdf_problem(path, *info));
    const PdfPages pages = pages_from(info->text);
    out.pages = pages.count;
    const double user_unit = user_unit_of(*bytes);
    out.size = pages.size * user_unit;
    if (page < 1 || page > out.pages)
      return fail(ProblemKind::range, worded("the PDF has {} pages and no page {}", out.pages, page), path,
                  "Choose one of its pages");
    const std::string number = fmt::to_string(page);
    // Left to itself the converter shrinks a page to whole points: 0.12 % of an A4.
    auto made = run_walled({"pdftocairo", "-svg", "-noshrink", "-nocenter", "-f", number, "-l", number, path, "-"}, {},
                           {}, progress);
    if (!made) return tl::unexpected(made.error());
    if (made->code != 0 || made->text.empty()) return tl::unexpected(pdf_problem(path, *made));
    auto drawing = drawing_from(made->text, "svg", path, progress);
    if (drawing) {
      tell_left(drawing->left, out.notes);
      paths = std::move(drawing->paths);
    } else {
      paths = tl::unexpected(drawing.error());
    }
    const bool picture = made->text.find("<image") != std::string::npos;
    if (paths && user_unit != 1)
      for (DrawnPath& p : *paths)
        for (Vec2& q : p.points) q = q * user_unit;
    if (paths) {
      // The page's own ground is no curve.
      std::erase_if(*paths, [&](const DrawnPath& p) {
        const Box2 b = bounds(p.points);
        return out.size.x > 0 && b.size().x > out.size.x * 0.985 && b.size().y > out.size.y * 0.985 &&
               p.points.size() <= 5;
      });
    }
    if (picture && (!paths || paths->empty()))
      return fail(
          ProblemKind::unsupported, "this page is a scanned picture and has no curves", path,
          "Show it under the outline as a backdrop, scaled by two points you know the distance of, and draw over it");
    if (paths && paths->empty())
      return fail(ProblemKind::format, "this page has no curves", path, "Choose another page");
    out.notes.emplace_back("A printed plan is rarely at full size: check one length you know.");
  } else {
    return fail(ProblemKind::unsupported, worded("a file ending in '{}' is not read", kind), path,
                "Use DXF, SVG or PDF");
  }
  if (!paths) return tl::unexpected(paths.error());
  out.cleaned = clean(std::move(*paths), options);
  if (out.cleaned.paths.empty())
    return fail(ProblemKind::format, "nothing is left of the drawing once zero-length pieces are dropped", path,
                "Look at it in the program it comes from");
  return out;
}

Path placed(const Path& path, const PlanPlacement& p) {
  Path out = path;
  if (p.mirror) out = mirrored(moved(out, {0, -p.centre.y}));
  if (p.mirror) out = moved(out, {0, p.centre.y});
  out = transformed(out, p.centre, p.turn_deg * std::numbers::pi / 180, p.scale);
  return moved(out, Vec2{p.body_x, 0} - p.centre);
}

Expected<double> scale_from(Vec2 a, Vec2 b, double known) {
  const double drawn = distance(a, b);
  if (!(drawn > 1e-6)) return fail(ProblemKind::range, "the two points are one", "scale", "Choose two points apart");
  if (!(known > 0.1 && known < 20000))
    return fail(ProblemKind::range, "the known length is not possible", "scale", "Give 0.1 to 20000 mm");
  return known / drawn;
}

PlanPlacement usual_placement(const CleanedPath& outline, double tail_x) {
  PlanPlacement p;
  const Box2 box = bounds(outline.points);
  const bool upright = box.size().y > box.size().x;
  p.turn_deg = upright ? -90 : 0;
  // The end with more wood is the tail.
  const Vec2 m = box.middle();
  const Vec2 axis = upright ? Vec2{0, 1} : Vec2{1, 0};
  Vec2 centroid;
  double twice = 0;
  for (std::size_t i = 0; i < outline.points.size(); ++i) {
    const Vec2 a = outline.points[i] - m;
    const Vec2 b = outline.points[(i + 1) % outline.points.size()] - m;
    const double w = cross(a, b);
    twice += w;
    centroid = centroid + (a + b) * (w / 3);
  }
  if (twice != 0) centroid = centroid * (1 / twice);
  const bool tail_ahead = dot(centroid, axis) >= 0;  // towards +axis
  if (!tail_ahead) p.turn_deg += 180;
  p.centre = m + axis * ((upright ? box.size().y : box.size().x) / 2 * (tail_ahead ? 1 : -1));
  p.body_x = tail_x;
  return p;
}

std::vector<CurveUse> usual_uses(const Cleaned& plan) {
  std::vector<CurveUse> out(plan.paths.size());
  const CleanedPath* outline = nullptr;
  std::map<std::string, int> cavities;  // by name
  int holes = 0;
  for (std::size_t i = 0; i < plan.paths.size(); ++i) {
    const CleanedPath& p = plan.paths[i];
    if (!p.closed || p.crosses) continue;
    if (outline == nullptr) {
      outline = &p;
      out[i] = {Becomes::outline, "outline", 0};
    } else if (const Vec2 middle = bounds(p.points).middle(); !contains(outline->points, middle)) {
      continue;
    } else if (p.shape.circle && p.shape.circle->radius <= 20) {
      out[i] = {Becomes::hole, fmt::format("hole {}", ++holes), 10};
    } else {
      const std::string name = p.layer.empty() || p.layer == "0" ? "cavity" : p.layer;
      const int number = ++cavities[name];
      out[i] = {Becomes::cavity, number == 1 ? name : fmt::format("{} {}", name, number), 10};
    }
  }
  return out;
}

Expected<Body> with_curves(Body body, const Cleaned& plan, const std::vector<CurveUse>& uses,
                           const PlanPlacement& placement, bool instead) {
  if (instead) {
    body.drawn.clear();
    body.holes.clear();
  }
  bool outline = false;
  bool some = false;
  for (std::size_t i = 0; i < std::min(uses.size(), plan.paths.size()); ++i) {
    const CurveUse& use = uses[i];
    if (use.as == Becomes::nothing) continue;
    some = true;
    const CleanedPath& curve = plan.paths[i];
    const std::string where = use.name.empty() ? fmt::format("curve {}", i + 1) : use.name;
    if (!curve.closed)
      return fail(ProblemKind::format, "the curve is open", where,
                  "Join its ends in the drawing, or close its gap here");
    if (curve.crosses)
      return fail(ProblemKind::format,
                  worded("the curve crosses itself near {:.1f}, {:.1f}", curve.crosses->x, curve.crosses->y), where,
                  "Mend the drawing there");
    const Path path = placed(curve.shape.path, placement);
    const bool hole = use.as == Becomes::hole || use.as == Becomes::back_hole;
    if (use.as != Becomes::outline && !(use.depth >= 0.1 && use.depth < 200))
      return fail(ProblemKind::range, worded("{}'s depth is from 0.1 to 200 mm", hole ? "a hole" : "a cavity"), where,
                  "Give its depth");
    if (use.as == Becomes::outline) {
      if (outline) return fail(ProblemKind::input, "two curves are the outline", where, "Choose one");
      outline = true;
      if (auto bad = check_outline(path); !bad.empty()) return tl::unexpected(bad.front());
      body.outline.drawn = path;
      body.outline.form = BodyForm::drawn;
    } else if (hole) {
      if (!curve.shape.circle)
        return fail(ProblemKind::format, "a hole is a circle, and this curve is none", where, "Take it as a cavity");
      if (body.holes.size() >= most_drawn_holes)
        return fail(ProblemKind::range, worded("more than {} drawn holes", most_drawn_holes), where, "Leave some out");
      // A circle stays one however the plan is laid.
      Vec2 c = curve.shape.circle->centre;
      if (placement.mirror) c.y = 2 * placement.centre.y - c.y;
      const double a = placement.turn_deg * std::numbers::pi / 180;
      const Vec2 off = (c - placement.centre) * placement.scale;
      body.holes.push_back({use.name,
                            Vec2{placement.body_x, 0} + Vec2{off.x * std::cos(a) - off.y * std::sin(a),
                                                             off.x * std::sin(a) + off.y * std::cos(a)},
                            2 * curve.shape.circle->radius * placement.scale, use.as == Becomes::back_hole, use.depth});
    } else {
      if (body.drawn.size() >= most_drawn_cavities)
        return fail(ProblemKind::range, worded("more than {} drawn cavities", most_drawn_cavities), where,
                    "Leave some out");
      body.drawn.push_back({use.name, path, use.as == Becomes::back_cavity, use.depth});
    }
  }
  if (!some) return fail(ProblemKind::input, "no curve becomes anything", "plan", "Say what the curves become");
  return body;
}

}  // namespace wren

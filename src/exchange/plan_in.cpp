#include "exchange/plan_in.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <numbers>

#include <fmt/format.h>

#include "core/document/files.hpp"
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

/// "left out: 3 texts, 1 dimension".
void tell_left(const std::map<std::string, std::size_t>& left, std::vector<std::string>& notes) {
  std::string text;
  for (const auto& [kind, count] : left)
    text += (text.empty() ? "" : ", ") + fmt::format("{} {}{}", count, kind, count == 1 ? "" : "s");
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

Expected<std::string> page_picture(const std::string& path, int page, int dpi) {
  if (!is_pdf(path)) return fail(ProblemKind::format, "this is not a PDF", path, "Choose a PDF file");
  const std::string number = std::to_string(page);
  auto made = run_walled(
      {"pdftoppm", "-png", "-r", std::to_string(std::clamp(dpi, 20, 400)), "-f", number, "-l", number, path});
  if (!made) return tl::unexpected(made.error());
  if (made->code != 0 || made->text.size() < 100) return tl::unexpected(pdf_problem(path, *made));
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
    if (auto text = read_file(path, 512u << 20); !text) return tl::unexpected(text.error());
    if (!is_pdf(path)) return fail(ProblemKind::format, "this is not a PDF", path, "Choose a PDF file");
    auto info = run_walled({"pdfinfo", path}, {}, {}, progress);
    if (!info) return tl::unexpected(info.error());
    if (info->code != 0) return tl::unexpected(pdf_problem(path, *info));
    if (const auto at = info->text.find("Pages:"); at != std::string::npos)
      out.pages = std::max(1, std::atoi(info->text.c_str() + at + 6));
    if (const auto at = info->text.find("Page size:"); at != std::string::npos) {
      // "Page size:      595.276 x 841.89 pts (A4)", whatever the reader's own decimal sign.
      const char* from = info->text.data() + info->text.find_first_of("0123456789", at);
      const char* const end = info->text.data() + info->text.size();
      double w = 0;
      double h = 0;
      const auto wide = std::from_chars(from, end, w);
      if (wide.ec == std::errc() && end - wide.ptr > 3 && std::from_chars(wide.ptr + 3, end, h).ec == std::errc())
        out.size = {w * 25.4 / 72, h * 25.4 / 72};
    }
    if (page < 1 || page > out.pages)
      return fail(ProblemKind::range, fmt::format("the PDF has {} pages and no page {}", out.pages, page), path,
                  "Choose one of its pages");
    const std::string number = std::to_string(page);
    auto made = run_walled({"pdftocairo", "-svg", "-f", number, "-l", number, path, "-"}, {}, {}, progress);
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
    return fail(ProblemKind::unsupported, fmt::format("a file ending in '{}' is not read", kind), path,
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

}  // namespace wren

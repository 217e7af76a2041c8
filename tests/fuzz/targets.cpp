#include "fuzz/targets.hpp"

#include <cmath>

#include "core/parts/table.hpp"
#include "core/program/manifest.hpp"
#include "core/program/reader.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/plan_in.hpp"

namespace wren::fuzz {
namespace {

void must(bool holds, const char* what) {
  if (!holds) throw Broken(what);
}
bool finite(Vec2 p) { return std::isfinite(p.x) && std::isfinite(p.y); }
bool finite(Vec3 p) { return std::isfinite(p.x) && std::isfinite(p.y) && std::isfinite(p.z); }

/// A refusal says something, and something that a hand can do.
template <class T>
bool refused(const Expected<T>& read) {
  if (read) return false;
  must(!read.error().what.empty(), "a refusal without a word");
  return true;
}

void project(std::string_view bytes) {
  const auto read = project_from_json(bytes, "fuzzed");
  if (refused(read)) return;
  const std::string text = project_to_json(*read);
  const auto again = project_from_json(text, "written");
  must(again.has_value(), "what was written is not read");
  must(*again == *read, "a project comes back different");
  must(project_to_json(*again) == text, "a project is written in two ways");
}

void drawing(const Expected<ReadDrawing>& read) {
  if (refused(read)) return;
  std::size_t points = 0;
  for (const DrawnPath& p : read->paths) {
    points += p.points.size();
    for (const Vec2 q : p.points) must(finite(q), "a point that is no place");
  }
  must(points <= most_drawing_points + 1000, "more points than may be");
  const Cleaned cleaned = clean(read->paths);
  for (const CleanedPath& p : cleaned.paths) {
    for (const Vec2 q : p.points) must(finite(q), "a cleaned point that is no place");
    for (const PathNode& n : p.shape.path) must(finite(n.at) && finite(n.out) && finite(n.in), "a node at no place");
  }
}

void dxf(std::string_view bytes) { drawing(dxf_paths(bytes, "fuzzed.dxf")); }
void svg(std::string_view bytes) { drawing(svg_paths(bytes, "fuzzed.svg")); }

void answer(std::string_view bytes) {
  const PdfPages pages = pages_from(bytes);
  must(pages.count >= 1 && finite(pages.size), "a page of no size");
  const auto read = drawing_from_answer(bytes, "fuzzed.pdf");
  if (!refused(read))
    for (const DrawnPath& p : read->paths)
      for (const Vec2 q : p.points) must(finite(q), "a point that is no place");
}

void csv(std::string_view bytes) {
  const auto read = sections_from_csv(bytes, "fuzzed.csv");
  if (refused(read)) return;
  for (const BackSection& s : *read) {
    must(std::isfinite(s.x) && s.points.size() >= 2, "a section that is none");
    for (const Vec2 p : s.points) must(finite(p), "a point that is no place");
  }
}

void program(std::string_view bytes) {
  ReadOptions options;
  options.most_moves = 200'000;
  options.most_cycle_moves = 50'000;
  options.machine_origin = [](int tool) { return Vec3{-50, -60, 100.0 + tool}; };
  const auto read = read_program(bytes, "fuzzed", options);
  if (refused(read)) return;
  must(read->moves.size() <= options.most_moves, "more moves than may be");
  Vec3 at = read->start;
  std::vector<Vec3> chords;
  std::size_t flattened = 0;
  for (const ReadMove& m : read->moves) {
    must(finite(m.to) && std::isfinite(m.feed) && m.feed >= 0 && std::isfinite(m.rpm), "a move to no place");
    must(m.tool < read->tools.size(), "a move with no tool");
    must(m.line >= 1 && m.line <= read->lines, "a move of no line");
    if (m.kind == ReadKind::arc && flattened < 200) {
      chords.clear();
      flatten_arc(at, m, 0.01, chords);
      ++flattened;
      must(!chords.empty() && finite(chords.back()), "an arc to no place");
    }
    at = m.to;
  }
}

void manifest(std::string_view bytes) {
  (void)manifest_title(bytes);
  const auto read = read_manifest(bytes, "fuzzed");
  if (refused(read)) return;
  for (const ManifestEntry& e : *read) must(e.matrix.empty() || e.matrix.size() == 16, "a matrix that is none");
}

}  // namespace

const std::vector<Target>& targets() {
  static const std::vector<Target> all{{"project", project},  {"dxf", dxf}, {"svg", svg},
                                       {"answer", answer},    {"csv", csv}, {"program", program},
                                       {"manifest", manifest}};
  return all;
}

}  // namespace wren::fuzz

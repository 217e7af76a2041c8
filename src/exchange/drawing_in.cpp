#include "exchange/drawing_in.hpp"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <sstream>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/document/files.hpp"
#include "core/units/length.hpp"
#include "exchange/walled.hpp"

namespace wren {
namespace {

constexpr std::size_t most_bytes = 64u << 20;
constexpr std::size_t most_points = 200'000;
using Json = nlohmann::json;

std::string ending(const std::string& path) {
  std::string out = std::filesystem::path(path).extension().string();
  std::transform(out.begin(), out.end(), out.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return out;
}

/// A cell of a table: a plain number as programs write them (1.2e-05 too), or a length as a maker does.
Expected<double> cell_value(const std::string& cell, UnitSystem system) {
  const auto first = cell.find_first_not_of(" \t+");
  const auto last = cell.find_last_not_of(" \t");
  double v = 0;
  const bool some = first != std::string::npos;
  const char* const end = some ? cell.data() + last + 1 : nullptr;
  const auto read = some ? std::from_chars(cell.data() + first, end, v) : std::from_chars_result{};
  if (some && read.ec == std::errc() && read.ptr == end && std::isfinite(v) && std::abs(v) < 1e5)
    return system == UnitSystem::inch ? v * mm_per_inch : v;
  return parse_length(cell, system);
}

Problem unusable(const std::string& path, std::string what, std::string todo) {
  return {ProblemKind::format, std::move(what), path, std::move(todo)};
}

}  // namespace

namespace {

/// What wren-read makes of a file's bytes. Drawings are small or wrong: what takes longer than this is not one that
/// anybody drew.
Expected<std::string> read_walled(std::string_view bytes, const std::string& kind, const std::string& path,
                                  Progress* progress) {
  constexpr WalledLimits limits{10, 1ULL << 30, 64ULL << 20};
  auto made = run_walled({program_beside("wren-read"), kind}, bytes, limits, progress);
  if (!made) return tl::unexpected(made.error());
  if (made->code == 127)
    return fail(ProblemKind::file, "a program that belongs to this one is missing: wren-read", path,
                "Install it beside this one");
  if (made->code != 0)
    return tl::unexpected(unusable(path,
                                   made->code == 128
                                       ? "the file took too long or too much memory to read, or is made to do harm"
                                       : "the file cannot be read: " + made->said,
                                   "Leave out what is not needed, or save it again from another program"));
  return std::move(made->text);
}

}  // namespace

Expected<ReadDrawing> drawing_from(std::string_view text, const std::string& kind, const std::string& path,
                                   Progress* progress) {
  const auto answer = read_walled(text, kind, path, progress);
  return answer ? drawing_from_answer(*answer, path) : tl::unexpected(answer.error());
}

Expected<std::string> read_picture(const std::string& path, Progress* progress) {
  auto bytes = read_file(path, most_bytes);
  if (!bytes) return tl::unexpected(bytes.error());
  auto pixels = read_walled(*bytes, "picture", path, progress);
  if (!pixels || pixels->starts_with("P6\n")) return pixels;
  const auto problem = drawing_from_answer(*pixels, path);
  return tl::unexpected(problem ? unusable(path, "the picture's reader gave no answer", "Save the picture again")
                                : problem.error());
}

Expected<ReadDrawing> drawing_from_answer(std::string_view answer, const std::string& path) {
  const auto none = [&] {
    return tl::unexpected(unusable(path, "the drawing's reader gave no answer", "Save the drawing again"));
  };
  const Json doc = Json::parse(answer, nullptr, false);
  if (!doc.is_object()) return none();
  const auto word = [](const Json& j, const char* key) {
    const auto it = j.find(key);
    return it != j.end() && it->is_string() ? it->get<std::string>() : std::string();
  };
  const auto yes = [](const Json& j, const char* key) {
    const auto it = j.find(key);
    return it != j.end() && it->is_boolean() && it->get<bool>();
  };
  if (const auto bad = doc.find("problem"); bad != doc.end())
    return bad->is_object() && !word(*bad, "what").empty()
               ? tl::unexpected(unusable(path, word(*bad, "what"), word(*bad, "todo")))
               : none();
  const auto paths = doc.find("paths");
  if (paths == doc.end() || !paths->is_array()) return none();
  ReadDrawing out;
  out.unit_known = yes(doc, "unit_known");
  if (const auto left = doc.find("left"); left != doc.end() && left->is_object())
    for (auto it = left->begin(); it != left->end(); ++it)
      if (it.value().is_number_unsigned()) out.left[it.key()] = it.value().get<std::size_t>();
  std::size_t points = 0;
  for (const Json& p : *paths) {
    if (!p.is_object()) return none();
    const auto z = p.find("z");
    const auto xy = p.find("xy");
    if (xy == p.end() || !xy->is_array() || (points += xy->size() / 2) > most_points) return none();
    DrawnPath path_read{word(p, "layer"), z != p.end() && z->is_number() ? z->get<double>() : 0, yes(p, "closed"), {}};
    for (std::size_t k = 0; k + 1 < xy->size(); k += 2) {
      const Json& x = (*xy)[k];
      const Json& y = (*xy)[k + 1];
      if (!x.is_number() || !y.is_number()) return none();
      path_read.points.push_back({x.get<double>(), y.get<double>()});
    }
    out.paths.push_back(std::move(path_read));
  }
  return out;
}

Expected<ReadDrawing> read_drawing(const std::string& path, Progress* progress) {
  auto text = read_file(path, most_bytes);
  if (!text) return tl::unexpected(text.error());
  return drawing_from(*text, ending(path) == ".svg" ? "svg" : "dxf", path, progress);
}

Expected<std::vector<BackSection>> sections_from_csv(std::string_view text, const std::string& name) {
  std::vector<BackSection> out;
  std::istringstream in{std::string(text)};
  std::string line;
  std::size_t number = 0;
  std::size_t points = 0;
  UnitSystem system = UnitSystem::millimetre;
  while (std::getline(in, line)) {
    ++number;
    if (!line.empty() && line.back() == '\r') line.pop_back();
    if (line.empty() || line.front() == '#') continue;
    std::vector<std::string> cells;
    std::string cell;
    const char separator = line.find(';') != std::string::npos    ? ';'
                           : line.find('\t') != std::string::npos ? '\t'
                                                                  : ',';
    std::istringstream row(line);
    while (std::getline(row, cell, separator)) cells.push_back(cell);
    const auto where = worded("{}, line {}", name, number);
    const auto first = cells.empty() ? tl::unexpected(Problem{}) : cell_value(cells[0], system);
    if (!first && out.empty() && number <= 3) {  // a header; it may say inches
      if (line.find("in") != std::string::npos && line.find("mm") == std::string::npos &&
          (line.find("_in") != std::string::npos || line.find("inch") != std::string::npos))
        system = UnitSystem::inch;
      continue;
    }
    if (cells.size() < 3)
      return fail(ProblemKind::format, worded("{} columns where x, y and depth are expected", cells.size()), where,
                  "Give three columns: place along the neck, across it, depth");
    double v[3];
    for (std::size_t k = 0; k < 3; ++k) {
      const auto value = cell_value(cells[k], system);
      if (!value) return fail(ProblemKind::format, value.error().what, where, "Correct the cell");
      v[k] = *value;
    }
    if (++points > most_points)
      return fail(ProblemKind::range, worded("more than {} points", most_points), where, "Measure fewer");
    if (out.empty() || std::abs(out.back().x - v[0]) > 1e-6) out.push_back({v[0], {}});
    out.back().points.push_back({v[1], v[2]});
  }
  if (out.empty())
    return fail(ProblemKind::format, "the table has no sections", name,
                "Give three columns: place along the neck, across it, depth");
  if (auto bad = check_sections(out, nullptr); !bad.empty()) return tl::unexpected(bad.front());
  return out;
}

Expected<std::vector<BackSection>> sections_from_dxf(const std::string& path) {
  const auto drawing = read_drawing(path);
  if (!drawing) return tl::unexpected(drawing.error());
  std::vector<BackSection> out;
  for (const DrawnPath& p : drawing->paths) {
    if (p.points.size() < 3) continue;
    BackSection s;
    const auto digit = p.layer.find_first_of("0123456789-");
    if (digit != std::string::npos && p.layer != "0")
      std::from_chars(p.layer.data() + digit, p.layer.data() + p.layer.size(), s.x);
    else
      s.x = p.elevation;
    s.points = p.points;
    // Drawn with the back downwards or upwards: depth is positive either way.
    double sum = 0;
    for (const Vec2 q : s.points) sum += q.y;
    if (sum < 0)
      for (Vec2& q : s.points) q.y = -q.y;
    out.push_back(std::move(s));
  }
  std::sort(out.begin(), out.end(), [](const BackSection& a, const BackSection& b) { return a.x < b.x; });
  if (out.empty())
    return tl::unexpected(unusable(path, "the drawing has no sections",
                                   "Draw each as an open polyline on a layer named by its place, as X120"));
  if (auto bad = check_sections(out, nullptr); !bad.empty()) return tl::unexpected(bad.front());
  return out;
}

Expected<std::vector<BackSection>> read_sections(const std::string& path) {
  if (ending(path) == ".dxf") return sections_from_dxf(path);
  auto text = read_file(path, most_bytes);
  if (!text) return tl::unexpected(text.error());
  return sections_from_csv(*text, std::filesystem::path(path).filename().string());
}

Expected<Polygon> read_head_outline(const std::string& path) {
  const auto drawing = read_drawing(path);
  if (!drawing) return tl::unexpected(drawing.error());
  const std::vector<DrawnPath>* const paths = &drawing->paths;
  const DrawnPath* best = nullptr;
  for (const DrawnPath& p : *paths)
    if (p.closed && p.points.size() >= 3 &&
        (best == nullptr || std::abs(signed_area(p.points)) > std::abs(signed_area(best->points))))
      best = &p;
  if (best == nullptr)
    return tl::unexpected(unusable(path, fmt::format("none of the {} paths is closed", paths->size()),
                                   "Close the outline: its ends must meet within 0.02 mm"));
  Polygon out = best->points;
  if (out.size() > 4000)
    return tl::unexpected(
        unusable(path, fmt::format("the outline has {} points", out.size()), "Simplify it to under 4000"));
  if (signed_area(out) < 0) std::reverse(out.begin(), out.end());
  if (!is_simple(out)) return tl::unexpected(unusable(path, "the outline crosses itself", "Correct the drawing"));
  return out;
}

}  // namespace wren

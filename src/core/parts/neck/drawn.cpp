// What a neck has beyond single numbers, as JSON: measured sections and a drawn head.
#include <fmt/format.h>

#include "core/document/json_pieces.hpp"
#include "core/parts/neck/part.hpp"

namespace wren {
namespace {

Json sections_to_json(const std::vector<BackSection>& sections) {
  Json out = Json::array();
  for (const BackSection& s : sections) out.push_back({{"x", s.x}, {"points", points_to_json(s.points)}});
  return out;
}

Expected<std::vector<BackSection>> sections_from_json(const Json& j, const std::string& where) {
  constexpr std::size_t most_sections_in_file = 400;
  if (!j.is_array() || j.size() > most_sections_in_file)
    return fail(ProblemKind::range, worded("this is not a list of at most {} sections", most_sections_in_file), where,
                "Shorten it");
  std::vector<BackSection> out;
  for (std::size_t i = 0; i < j.size(); ++i) {
    const std::string here = fmt::format("{}/{}", where, i);
    const Json& e = j[i];
    if (!e.is_object() || !e.contains("x") || !e["x"].is_number() || !(std::abs(e["x"].get<double>()) < 5000) ||
        !e.contains("points"))
      return fail(ProblemKind::format, "a section has no place x or no points", here, "Correct it");
    auto points = points_from_json(e["points"], here + "/points", 20'000, 1000);
    if (!points) return tl::unexpected(points.error());
    out.push_back({e["x"].get<double>(), std::move(*points)});
  }
  return out;
}

}  // namespace

Blank usual_neck_blank() {
  Blank blank;
  blank.length = 680;
  blank.width = 116;
  blank.thickness = 25;
  blank.wood = "sycamore";
  return blank;
}

void neck_to_json(const Project& project, Json& group) {
  group["neck"]["sections"] = sections_to_json(neck_of(project).neck.back.sections);
  group["head"]["drawn"] = points_to_json(neck_of(project).neck.head.drawn);
}

std::optional<Problem> neck_from_json(const Json& group, const std::string& where, Project& project) {
  if (group.contains("head") && group["head"].is_object() && group["head"].contains("drawn")) {
    auto points = points_from_json(group["head"]["drawn"], where + "/head/drawn", 5000, 2000);
    if (!points) return points.error();
    neck_of(project).neck.head.drawn = std::move(*points);
  }
  if (group.contains("neck") && group["neck"].is_object() && group["neck"].contains("sections")) {
    auto sections = sections_from_json(group["neck"]["sections"], where + "/neck/sections");
    if (!sections) return sections.error();
    neck_of(project).neck.back.sections = std::move(*sections);
  }
  return {};
}

}  // namespace wren

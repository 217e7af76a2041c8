// What a body has beyond single numbers, as JSON: the drawn outline's nodes, sections of a carved face, further
// cavities.
#include "core/document/json_pieces.hpp"
#include "core/parts/body/part.hpp"

#include <fmt/format.h>

namespace wren {
namespace {

const char* const edge_names[] = {"line", "arc", "curve"};

Json pair(Vec2 p) { return {p.x, p.y}; }

std::optional<Vec2> vec(const Json& j) {
  if (!j.is_array() || j.size() != 2 || !j[0].is_number() || !j[1].is_number()) return {};
  const Vec2 p{j[0].get<double>(), j[1].get<double>()};
  if (!(std::abs(p.x) < 5000) || !(std::abs(p.y) < 5000)) return {};
  return p;
}

Json path_to_json(const Path& path) {
  Json out = Json::array();
  for (const PathNode& n : path) {
    Json j{{"at", pair(n.at)}, {"edge", edge_names[static_cast<int>(n.edge)]}};
    if (n.edge == EdgeKind::arc) j["bulge"] = n.bulge;
    if (!(n.out == Vec2{})) j["out"] = pair(n.out);
    if (!(n.in == Vec2{})) j["in"] = pair(n.in);
    if (n.smooth) j["smooth"] = true;
    out.push_back(std::move(j));
  }
  return out;
}

Problem wrong(Words what, std::string where) {
  return {ProblemKind::format, std::move(what), std::move(where), "Correct it, or open an earlier copy"};
}

std::optional<Problem> path_from_json(const Json& j, const std::string& where, Path& path) {
  if (!j.is_array() || j.size() > most_path_nodes)
    return Problem{ProblemKind::range, worded("this is not a list of at most {} nodes", most_path_nodes), where,
                   "Shorten it"};
  path.clear();
  for (std::size_t i = 0; i < j.size(); ++i) {
    const Json& e = j[i];
    const std::string here = fmt::format("{}/{}", where, i);
    PathNode n;
    if (!e.is_object() || !e.contains("at")) return wrong("a node has no place", here);
    const auto at = vec(e["at"]);
    if (!at) return wrong("a node's place is not two numbers under 5000 mm", here + "/at");
    n.at = *at;
    for (const auto& [name, to] : {std::pair{"out", &n.out}, std::pair{"in", &n.in}})
      if (e.contains(name)) {
        const auto v = vec(e[name]);
        if (!v) return wrong("a handle is not two numbers under 5000 mm", here + "/" + name);
        *to = *v;
      }
    if (e.contains("edge")) {
      bool known = false;
      for (int k = 0; k < 3; ++k)
        if (e["edge"] == edge_names[k]) {
          n.edge = static_cast<EdgeKind>(k);
          known = true;
        }
      if (!known) return wrong("an edge is none of line, arc, curve", here + "/edge");
    }
    if (e.contains("bulge")) {
      if (!e["bulge"].is_number() || !(std::abs(e["bulge"].get<double>()) <= 1000))
        return wrong("a bulge is not a number up to 1000", here + "/bulge");
      n.bulge = e["bulge"].get<double>();
    }
    n.smooth = e.contains("smooth") && e["smooth"].is_boolean() && e["smooth"].get<bool>();
    path.push_back(n);
  }
  return {};
}

}  // namespace

void body_to_json(const Project& project, Json& group) {
  const Body& body = body_of(project).body;
  Json& out = group["body"];
  out["nodes"] = path_to_json(body.outline.drawn);
  Json lines = Json::array();
  for (const auto& line : body.comfort.lines) {
    Json points = Json::array();
    for (const Vec2 p : line.points) points.push_back(pair(p));
    lines.push_back({{"x", line.x}, {"points", points}});
  }
  out["carve_lines"] = lines;
  Json cavities = Json::array();
  for (const DrawnCavity& d : body.drawn)
    cavities.push_back(
        {{"name", d.name}, {"back", d.from_back}, {"depth", d.depth}, {"nodes", path_to_json(d.outline)}});
  out["cavities"] = cavities;
  if (!body.plate.drawn.empty()) group["plate"]["nodes"] = path_to_json(body.plate.drawn);
  if (body.holes.empty()) return;
  for (const DrawnHole& h : body.holes)
    out["holes"].push_back(
        {{"name", h.name}, {"back", h.from_back}, {"depth", h.depth}, {"at", pair(h.at)}, {"diameter", h.diameter}});
}

std::optional<Problem> body_from_json(const Json& group, const std::string& where, Project& project) {
  if (group.contains("plate") && group["plate"].is_object() && group["plate"].contains("nodes"))
    if (auto bad = path_from_json(group["plate"]["nodes"], where + "/plate/nodes", body_of(project).body.plate.drawn))
      return bad;
  if (!group.contains("body") || !group["body"].is_object()) return {};
  Body& body = body_of(project).body;
  const Json& in = group["body"];
  if (in.contains("nodes"))
    if (auto bad = path_from_json(in["nodes"], where + "/body/nodes", body.outline.drawn)) return bad;
  if (in.contains("carve_lines")) {
    if (!in["carve_lines"].is_array() || in["carve_lines"].size() > 200)
      return wrong("this is not a list of at most 200 sections", where + "/body/carve_lines");
    body.comfort.lines.clear();
    for (std::size_t i = 0; i < in["carve_lines"].size(); ++i) {
      const Json& e = in["carve_lines"][i];
      const std::string here = fmt::format("{}/body/carve_lines/{}", where, i);
      if (!e.is_object() || !e.contains("x") || !e["x"].is_number() || !e.contains("points") ||
          !e["points"].is_array() || e["points"].size() > 5000)
        return wrong("a section has no place x, or no points", here);
      ComfortNumbers::Line line;
      line.x = e["x"].get<double>();
      for (const Json& p : e["points"]) {
        const auto v = vec(p);
        if (!v) return wrong("a point is not two numbers under 5000 mm", here + "/points");
        line.points.push_back(*v);
      }
      if (!(std::abs(line.x) < 5000)) return wrong("a section's place is no length", here + "/x");
      body.comfort.lines.push_back(std::move(line));
    }
  }
  if (in.contains("cavities")) {
    if (!in["cavities"].is_array() || in["cavities"].size() > most_drawn_cavities)
      return wrong(fmt::format("this is not a list of at most {} cavities", most_drawn_cavities),
                   where + "/body/cavities");
    body.drawn.clear();
    for (std::size_t i = 0; i < in["cavities"].size(); ++i) {
      const Json& e = in["cavities"][i];
      const std::string here = fmt::format("{}/body/cavities/{}", where, i);
      DrawnCavity d;
      if (!e.is_object() || !e.contains("name") || !e["name"].is_string() || !e.contains("depth") ||
          !e["depth"].is_number() || !(e["depth"].get<double>() > 0 && e["depth"].get<double>() < 200) ||
          !e.contains("nodes"))
        return wrong("a cavity has no name, no depth from 0 to 200, or no nodes", here);
      d.name = e["name"].get<std::string>();
      if (d.name.size() > 200) return wrong("a cavity's name is longer than 200 characters", here + "/name");
      d.depth = e["depth"].get<double>();
      d.from_back = e.contains("back") && e["back"].is_boolean() && e["back"].get<bool>();
      if (auto bad = path_from_json(e["nodes"], here + "/nodes", d.outline)) return bad;
      body.drawn.push_back(std::move(d));
    }
  }
  if (in.contains("holes")) {
    if (!in["holes"].is_array() || in["holes"].size() > most_drawn_holes)
      return wrong(fmt::format("this is not a list of at most {} holes", most_drawn_holes), where + "/body/holes");
    body.holes.clear();
    for (std::size_t i = 0; i < in["holes"].size(); ++i) {
      const Json& e = in["holes"][i];
      const std::string here = fmt::format("{}/body/holes/{}", where, i);
      const auto within = [&](const char* key, double low, double high) {
        return e.contains(key) && e[key].is_number() && e[key].get<double>() >= low && e[key].get<double>() <= high;
      };
      const auto at = e.is_object() && e.contains("at") ? vec(e["at"]) : std::nullopt;
      if (!at || !e.contains("name") || !e["name"].is_string() || !within("depth", 0.1, 200) ||
          !within("diameter", 0.5, 100))
        return wrong("a hole has no name, no place, no depth from 0.1 to 200, or no diameter from 0.5 to 100", here);
      DrawnHole h{e["name"].get<std::string>(), *at, e["diameter"].get<double>(),
                  e.contains("back") && e["back"].is_boolean() && e["back"].get<bool>(), e["depth"].get<double>()};
      if (h.name.size() > 200) return wrong("a hole's name is longer than 200 characters", here + "/name");
      body.holes.push_back(std::move(h));
    }
  }
  return {};
}

}  // namespace wren

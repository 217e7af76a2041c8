#include "core/program/manifest.hpp"

#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <openssl/evp.h>

#include "core/program/restart.hpp"

namespace wren {
namespace {

using Json = nlohmann::ordered_json;

constexpr int manifest_version = 2;

/// Micrometres are the programs' resolution; more digits would only be noise.
double micro(double mm) { return std::round(mm * 1e6) / 1e6; }
Json point(Vec3 p) { return {micro(p.x), micro(p.y), micro(p.z)}; }

Json cutter_json(const Cutter& c) {
  Json j{{"id", c.id},
         {"number", c.number},
         {"kind", cutter_kind_name(c.kind)},
         {"diameter_mm", micro(c.effective_diameter())},
         {"nominal_diameter_mm", c.diameter}};
  if (c.kind == CutterKind::round_nose || c.kind == CutterKind::ball) j["corner_radius_mm"] = micro(c.rounding());
  if (c.kind == CutterKind::round_over) {
    // A hollow corner of this radius about a pilot that reaches down to the tip.
    j["corner_radius_mm"] = micro(c.corner_radius);
    j["pilot_radius_mm"] = micro(c.flat_radius());
  }
  if (c.kind == CutterKind::drill) j["angle_deg"] = c.point_angle_deg;
  if (c.kind == CutterKind::flat || c.kind == CutterKind::slot || c.kind == CutterKind::facing)
    j["corner_radius_mm"] = 0;
  j["cutting_length_mm"] = c.cutting_length;
  j["stickout_mm"] = c.stickout;
  j["shank_mm"] = micro(c.shank());
  j["cuts_at_centre"] = c.centre_cutting;
  j["lengths"] = c.lengths_measured ? "measured" : "assumed";
  return j;
}

/// What stands on the bed before the first cut of this side: a block, or what its top is.
Json stock_json(const Setup& s) {
  Json j{{"kind", "block"}};
  if (s.top_profile) {
    Json points = Json::array();
    for (const Vec2 p : s.top_profile->points) points.push_back({micro(p.x), micro(p.y)});
    j = {{"kind", "profile"},
         {"along", {micro(s.top_profile->along.x), micro(s.top_profile->along.y)}},
         {"points_mm", points}};
  } else if (!s.top_island.empty()) {
    Json points = Json::array();
    for (const Vec2 p : s.top_island) points.push_back({micro(p.x), micro(p.y)});
    j = {{"kind", "island"}, {"outline_mm", points}};
  }
  return j;
}

}  // namespace

std::string sha256_hex(std::string_view bytes) {
  unsigned char digest[EVP_MAX_MD_SIZE];
  unsigned int length = 0;
  EVP_Digest(bytes.data(), bytes.size(), digest, &length, EVP_sha256(), nullptr);
  std::string out;
  for (unsigned int i = 0; i < length; ++i) out += fmt::format("{:02x}", digest[i]);
  return out;
}

std::string write_manifest(const std::vector<ManifestPart>& parts, const Rack& rack, const std::string& fingerprint) {
  Json doc;
  doc["schema"] = "upland-wren-manifest";
  doc["schema_version"] = manifest_version;
  doc["project"] = parts.empty() ? "" : parts.front().facts.project;
  doc["date"] = parts.empty() ? "" : parts.front().facts.date;
  doc["fingerprint"] = fingerprint;
  Json programs = Json::array();
  for (const auto& [facts, files, setup] : parts)
    for (const ProgramFile& f : files) {
      Json j;
      j["file"] = f.file;
      j["sha256"] = sha256_hex(f.text.str());
      j["part"] = facts.part;
      j["piece"] = facts.piece;
      j["side"] = facts.side;
      j["earlier"] = facts.earlier;
      j["after"] = f.after;
      j["cut"] = f.cuts;
      const Cutter* first = f.cutters.empty() ? nullptr : find_cutter(rack, f.cutters.front());
      if (first != nullptr) j["cutter"] = cutter_json(*first);
      if (f.cutters.size() > 1) {
        j["cutters"] = Json::array();
        for (const auto& id : f.cutters)
          if (const Cutter* c = find_cutter(rack, id)) j["cutters"].push_back(cutter_json(*c));
      }
      j["time_s"] = std::round(f.seconds * 10) / 10;
      j["extents_mm"] = {{"low", point(f.extents.low)}, {"high", point(f.extents.high)}};
      j["restart"] = restart_lines(f.text.str());
      j["setup"] = facts.setup;
      Json matrix = Json::array();
      for (const double v : setup.matrix()) matrix.push_back(micro(v));
      Json rows = Json::array();
      for (std::size_t r = 0; r < 4; ++r)
        rows.push_back({matrix[4 * r], matrix[4 * r + 1], matrix[4 * r + 2], matrix[4 * r + 3]});
      j["instrument_to_work"] = rows;
      j["register"] = {{"kind", register_id(setup.found_by.kind)},
                       {"shift_mm", {micro(setup.found_by.shift.x), micro(setup.found_by.shift.y)}},
                       {"angle_deg", micro(setup.found_by.angle * 57.29577951308232)}};
      j["zero_in_machine_mm"] = point(setup.zero_in_machine);
      if (setup.probe)
        j["probe"] = {{"on", setup.probe->on_board ? "waste board" : "blank top"},
                      {"at_mm", {micro(setup.probe->at.x), micro(setup.probe->at.y)}},
                      {"z_mm", setup.probe->on_board ? micro(setup.bed_z()) : 0.0}};
      j["blank_mm"] = {
          {"length", setup.blank.length},        {"width", setup.blank.width},
          {"thickness", setup.blank.thickness},  {"length_along", setup.blank.lie == Lie::along_x ? "x" : "y"},
          {"corner", point(setup.blank_corner)}, {"stock", stock_json(setup)}};
      programs.push_back(j);
    }
  doc["programs"] = programs;
  return doc.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

ManifestTitle manifest_title(std::string_view manifest) {
  const Json doc = Json::parse(manifest, nullptr, false);
  const auto text = [&](const char* key) {
    return doc.is_object() && doc.contains(key) && doc[key].is_string() ? doc[key].get<std::string>() : std::string();
  };
  return {text("project"), text("date"), text("fingerprint")};
}

Expected<std::vector<ManifestEntry>> read_manifest(std::string_view text, const std::string& name) {
  const Json doc = Json::parse(text, nullptr, false);
  if (!doc.is_object() || !doc.contains("schema") || doc["schema"] != "upland-wren-manifest" ||
      !doc.contains("programs") || !doc["programs"].is_array())
    return fail(ProblemKind::format, "this is no manifest of programs, or it was cut short", name,
                "Write the programs again");
  // What a newer one says in words of its own would be passed over here.
  if (doc.contains("schema_version") && doc["schema_version"].is_number() &&
      doc["schema_version"].get<double>() > manifest_version)
    return fail(ProblemKind::unsupported,
                worded("the manifest was written by a newer version of this program (format {}, this one knows {})",
                       doc["schema_version"].dump(), manifest_version),
                name, "Take that version, or write the programs again");
  const Vec3 nowhere{std::nan(""), std::nan(""), std::nan("")};
  std::vector<ManifestEntry> out;
  for (const Json& e : doc["programs"]) {
    const auto word = [&](const char* key) {
      return e.is_object() && e.contains(key) && e[key].is_string() ? e[key].get<std::string>() : std::string();
    };
    ManifestEntry entry{word("file"), word("sha256"), word("part"), word("piece"), word("side")};
    const auto texts = [&](const char* key, std::vector<std::string>& to) {
      if (e.is_object() && e.contains(key) && e[key].is_array())
        for (const Json& one : e[key])
          if (one.is_string()) to.push_back(one.get<std::string>());
    };
    texts("cut", entry.cuts);
    texts("after", entry.after);
    texts("earlier", entry.after);
    const auto number = [](const Json& j, const char* key) {
      return j.is_object() && j.contains(key) && j[key].is_number() ? j[key].get<double>() : std::nan("");
    };
    const auto tool = [&](const Json& j) {
      if (!j.is_object()) return;
      const auto said = [&](const char* key) {
        return j.contains(key) && j[key].is_string() ? j[key].get<std::string>() : std::string();
      };
      const double n = number(j, "number");
      const auto or_else = [&](const char* key, double otherwise) {
        const double v = number(j, key);
        return std::isnan(v) ? otherwise : v;
      };
      entry.cutters.push_back({said("id"), n >= 0 && n < 1e6 ? static_cast<int>(n) : -1, said("kind"),
                               number(j, "diameter_mm"), number(j, "cutting_length_mm"), number(j, "stickout_mm"),
                               or_else("corner_radius_mm", 0), or_else("angle_deg", 118),
                               said("lengths") == "measured"});
    };
    if (e.is_object() && e.contains("cutters") && e["cutters"].is_array()) {
      for (const Json& j : e["cutters"]) tool(j);
      // "cutter" is the first of them; one that is not counts as another, and the proof meets it.
      if (e.contains("cutter") && (e["cutters"].empty() || e["cutter"] != e["cutters"].front())) tool(e["cutter"]);
    } else if (e.is_object() && e.contains("cutter"))
      tool(e["cutter"]);
    if (e.is_object() && e.contains("instrument_to_work") && e["instrument_to_work"].is_array())
      for (const Json& row : e["instrument_to_work"])
        if (row.is_array())
          for (const Json& v : row) entry.matrix.push_back(v.is_number() ? v.get<double>() : std::nan(""));
    if (entry.matrix.size() != 16) entry.matrix.clear();  // none that any program was written with
    if (e.is_object() && e.contains("blank_mm"))
      entry.blank = {number(e["blank_mm"], "length"), number(e["blank_mm"], "width"),
                     number(e["blank_mm"], "thickness")};
    const auto place = [&](const Json& j, const char* key) -> Vec3 {
      if (!j.is_object() || !j.contains(key) || !j[key].is_array() || j[key].size() != 3) return nowhere;
      for (const Json& v : j[key])
        if (!v.is_number()) return nowhere;
      return {j[key][0].get<double>(), j[key][1].get<double>(), j[key][2].get<double>()};
    };
    if (e.is_object() && e.contains("register") && e["register"].is_object() && e["register"].contains("kind") &&
        e["register"]["kind"].is_string())
      entry.found_by = e["register"]["kind"].get<std::string>();
    entry.zero_in_machine = place(e, "zero_in_machine_mm");
    entry.blank_corner = e.is_object() && e.contains("blank_mm") ? place(e["blank_mm"], "corner") : nowhere;
    if (e.is_object() && e.contains("probe") && e["probe"].is_object()) {
      const Json& probe = e["probe"];
      const auto coordinate = [&](std::size_t k) {
        return probe.contains("at_mm") && probe["at_mm"].is_array() && probe["at_mm"].size() == 2 &&
                       probe["at_mm"][k].is_number()
                   ? probe["at_mm"][k].get<double>()
                   : std::nan("");
      };
      const std::string on = probe.contains("on") && probe["on"].is_string() ? probe["on"].get<std::string>() : "";
      if (on == "blank top" || on == "waste board")
        entry.probe = {Setup::Probe{{coordinate(0), coordinate(1)}, on == "waste board"}, number(probe, "z_mm")};
    }
    if (e.is_object()) {
      entry.seconds = number(e, "time_s");
      if (e.contains("extents_mm")) {
        entry.low = place(e["extents_mm"], "low");
        entry.high = place(e["extents_mm"], "high");
      }
      entry.along_y = e.contains("blank_mm") && e["blank_mm"].is_object() && e["blank_mm"].contains("length_along") &&
                      e["blank_mm"]["length_along"] == "y";
      if (e.contains("restart") && e["restart"].is_array())
        for (const Json& line : e["restart"])
          if (line.is_number_unsigned() && line.get<std::uint64_t>() < 4'000'000'000U)
            entry.restart.push_back(line.get<std::uint32_t>());
    }
    out.push_back(std::move(entry));
  }
  return out;
}

}  // namespace wren

#include "core/program/manifest.hpp"

#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <openssl/evp.h>

namespace wren {
namespace {

using Json = nlohmann::ordered_json;

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
  if (c.kind == CutterKind::drill) j["angle_deg"] = c.point_angle_deg;
  if (c.kind == CutterKind::flat || c.kind == CutterKind::slot || c.kind == CutterKind::facing)
    j["corner_radius_mm"] = 0;
  j["cutting_length_mm"] = c.cutting_length;
  j["stickout_mm"] = c.stickout;
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

std::string write_manifest(const std::vector<ManifestPart>& parts, const Rack& rack) {
  Json doc;
  doc["schema"] = "upland-wren-manifest";
  doc["schema_version"] = 1;
  doc["project"] = parts.empty() ? "" : parts.front().facts.project;
  doc["date"] = parts.empty() ? "" : parts.front().facts.date;
  Json programs = Json::array();
  for (const auto& [facts, files, setup] : parts)
    for (const ProgramFile& f : files) {
      Json j;
      j["file"] = f.file;
      j["sha256"] = sha256_hex(f.text);
      j["part"] = facts.part;
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
      j["setup"] = facts.setup;
      Json matrix = Json::array();
      for (const double v : setup.matrix()) matrix.push_back(micro(v));
      Json rows = Json::array();
      for (std::size_t r = 0; r < 4; ++r)
        rows.push_back({matrix[4 * r], matrix[4 * r + 1], matrix[4 * r + 2], matrix[4 * r + 3]});
      j["instrument_to_work"] = rows;
      j["blank_mm"] = {{"length", setup.blank.length},
                       {"width", setup.blank.width},
                       {"thickness", setup.blank.thickness},
                       {"length_along", setup.blank.lie == Lie::along_x ? "x" : "y"},
                       {"corner", point(setup.blank_corner)}};
      programs.push_back(j);
    }
  doc["programs"] = programs;
  return doc.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace wren

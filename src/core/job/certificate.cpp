#include "core/job/certificate.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/document/files.hpp"

namespace wren {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* schema = "upland-wren-proof";
constexpr int schema_version = 1;
constexpr int prover_version = 11;  // counts up when the proof looks for more than before
constexpr std::size_t largest_file = 512U << 20;

double milli(double mm) { return std::round(mm * 1e4) / 1e4; }

std::string text_of(const Json& j, const char* key) {
  return j.is_object() && j.contains(key) && j[key].is_string() ? j[key].get<std::string>() : std::string();
}

Json document(Json parts) {
  Json doc;
  doc["schema"] = schema;
  doc["schema_version"] = schema_version;
  doc["parts"] = std::move(parts);
  return doc;
}

Expected<Json> read_certificate(const std::filesystem::path& file) {
  auto text = read_file(file, largest_file);
  if (!text) return tl::unexpected(text.error());
  Json doc = Json::parse(*text, nullptr, false);
  if (!doc.is_object() || text_of(doc, "schema") != schema || !doc.contains("parts") || !doc["parts"].is_array())
    return fail(ProblemKind::format, "this is no certificate of a proof, or it was cut short", file.string(),
                "Write the programs again");
  return doc;
}

}  // namespace

std::string certificate_of(const Project& project, const Planned& planned, const std::vector<PlacedProgram>& programs,
                           const PartProof& proof, const std::string& date) {
  Json part{{"part", planned.part},
            {"project", project.name},
            {"date", date},
            {"prover", prover_version},
            {"verdict", verdict_words(proof.verdict())},
            {"assumed_lengths", proof.assumed},
            {"machine", project.machine.name}};
  Json pieces = Json::array();
  for (const Piece& piece : planned.made.pieces)
    for (const PieceProof& p : proof.pieces)
      if (p.id == piece.id) {
        const PieceRequest request = request_for(piece, planned, programs);
        const ProofTolerances& t = request.tolerances;
        pieces.push_back({{"piece", p.id},
                          {"cell_mm", request.cell},
                          {"gouge_mm", milli(p.result.worst_gouge)},
                          {"left_mm", milli(p.result.worst_left)},
                          {"loose_mm", milli(p.result.worst_loose)},
                          {"plan_inside_mm", milli(p.result.plan_inside)},
                          {"plan_outside_mm", milli(p.result.plan_outside)},
                          {"tabs", p.result.tabs},
                          {"tolerances_mm", {{"gouge", t.gouge}, {"left_over", t.left_over}, {"plan", t.plan}}}});
      }
  part["pieces"] = pieces;
  Json cutters = Json::array();
  std::set<std::string> seen;
  Json files = Json::array();
  for (const PlacedProgram& p : programs) {
    files.push_back({{"file", p.file.file}, {"sha256", sha256_hex(p.file.text.str())}});
    for (const std::string& id : p.file.cutters)
      if (const Cutter* c = find_cutter(planned.rack, id); c != nullptr && seen.insert(id).second)
        cutters.push_back({{"id", c->id},
                           {"number", c->number},
                           {"diameter_mm", c->effective_diameter()},
                           {"diameter", c->measured ? "measured" : "nominal"},
                           {"cutting_length_mm", c->cutting_length},
                           {"stickout_mm", c->stickout},
                           {"lengths", c->lengths_measured ? "measured" : "assumed"}});
  }
  part["cutters"] = cutters;
  part["programs"] = files;
  part["manifest_sha256"] = sha256_hex(manifest_of(project, planned, programs, date));
  return document(Json::array({part})).dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::vector<std::string> stray_programs(const std::filesystem::path& folder, const std::set<std::string>& known) {
  static const std::set<std::string> endings{".ngc", ".nc", ".tap", ".cnc", ".gcode", ".gc"};
  std::vector<std::string> out;
  std::error_code error;
  for (auto it = std::filesystem::directory_iterator(folder, error); !error && it != std::filesystem::end(it);
       it.increment(error)) {
    const std::string name = it->path().filename().string();
    std::string ending = it->path().extension().string();
    for (char& c : ending) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c;
    std::error_code odd;
    if (endings.contains(ending) && !known.contains(name) && !it->is_directory(odd)) out.push_back(name);
  }
  std::sort(out.begin(), out.end());
  return out;
}

bool FolderCheck::passed() const {
  return faults.empty() && !parts.empty() &&
         std::all_of(parts.begin(), parts.end(), [](const Part& p) { return p.verdict == "PROVED"; });
}

namespace {

Expected<FolderCheck> check_one(const std::filesystem::path& folder) {
  const auto manifest_file = folder / "manifest.json";
  auto text = read_file(manifest_file, largest_file);
  if (!text) return tl::unexpected(text.error());
  const auto entries = read_manifest(*text, manifest_file.string());
  if (!entries) return tl::unexpected(entries.error());
  const auto certificate = read_certificate(folder / "proof.json");
  if (!certificate) return tl::unexpected(certificate.error());
  FolderCheck out;
  std::set<std::string> certified;
  for (const Json& p : (*certificate)["parts"]) {
    FolderCheck::Part part{text_of(p, "part"), text_of(p, "verdict"), text_of(p, "date"), 0, {}};
    if (p.contains("assumed_lengths") && p["assumed_lengths"].is_array())
      for (const Json& c : p["assumed_lengths"])
        if (c.is_string()) part.assumed.push_back(c.get<std::string>());
    if (p.contains("programs") && p["programs"].is_array())
      for (const Json& f : p["programs"]) {
        const std::string file = text_of(f, "file");
        if (!plain_name(file)) {
          out.faults.push_back(worded("The certificate names a file outside its folder: '{}'.", file));
          continue;
        }
        ++part.programs;
        certified.insert(file);
        const auto program = read_file(folder / file, largest_file);
        if (!program)
          out.faults.push_back(worded("{} was proved and is missing.", file));
        else if (sha256_hex(*program) != text_of(f, "sha256"))
          out.faults.push_back(worded("{} is not the program that was proved.", file));
      }
    // A run goes by the manifest: what may follow what, where z is probed, which cutter is whose.
    if (const int prover = p.contains("prover") && p["prover"].is_number_integer() ? p["prover"].get<int>() : 0;
        prover < prover_version)
      out.faults.push_back(
          worded("{} was proved by an older version ({}; this is {}), which did not look for all that "
                 "this one looks for. Write the programs again.",
                 part.part, prover, prover_version));
    else if (const std::string hash = text_of(p, "manifest_sha256"); hash.empty())
      out.faults.push_back("The certificate does not say which manifest was proved.");
    else if (hash != sha256_hex(*text))
      out.faults.push_back("manifest.json is not the one that was proved.");
    out.parts.push_back(std::move(part));
  }
  for (const ManifestEntry& e : *entries)
    if (!certified.contains(e.file))
      out.faults.push_back(worded("{} stands in the manifest, and nobody has proved it.", e.file));
  out.strays = stray_programs(folder, certified);
  return out;
}

}  // namespace

Expected<FolderCheck> check_folder(const std::filesystem::path& folder) {
  std::error_code error;
  if (std::filesystem::exists(folder / "manifest.json", error)) return check_one(folder);
  std::set<std::filesystem::path> own;
  for (auto it = std::filesystem::directory_iterator(folder, error); !error && it != std::filesystem::end(it);
       it.increment(error))
    if (it->path().filename().string()[0] != '.' && std::filesystem::exists(it->path() / "manifest.json", error))
      own.insert(it->path());
  if (own.empty()) return check_one(folder);  // says what is missing
  FolderCheck out;
  out.strays = stray_programs(folder, {});
  for (const auto& one : own) {
    auto check = check_one(one);
    if (!check) return check;
    for (FolderCheck::Part& p : check->parts) out.parts.push_back(std::move(p));
    for (const std::string& stray : check->strays) out.strays.push_back((one.filename() / stray).string());
    for (const std::string& fault : check->faults) out.faults.push_back(one.filename().string() + ": " + fault);
  }
  return out;
}

}  // namespace wren

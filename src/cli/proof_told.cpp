#include "cli/proof_told.hpp"

#include <algorithm>
#include <cmath>

namespace wren::cli {
namespace {

Json finding_json(const Finding& f, const std::string& side) {
  return {{"side", side},       {"rule", f.rule},       {"kind", f.kind},  {"weight", weight_name(f.weight)},
          {"text", f.text},     {"program", f.program}, {"line", f.line},  {"at_mm", {f.at.x, f.at.y, f.at.z}},
          {"number", f.number}, {"limit", f.limit},     {"count", f.count}};
}

Json under_error_json(const PieceResult& result) {
  const char* const levels[] = {"drawn", "likely", "worst"};
  Json out = Json::array();
  for (const ErrorCase& c : result.under_error)
    out.push_back({{"what", c.what},
                   {"level", levels[static_cast<int>(c.level)]},
                   {"least_tab_mm", c.least_tab},
                   {"least_thickness_mm", c.least_thickness},
                   {"least_at_mm", {c.least_at.x, c.least_at.y}},
                   {"least_skin_mm", c.least_skin},
                   {"least_wall_mm", c.least_wall}});
  return out;
}

}  // namespace

Json proof_json(const PartProof& proof) {
  Json findings = Json::array();
  Json programs = Json::array();
  Json slots = Json::array();
  Json pieces = Json::array();
  for (const std::string& m : proof.missing)
    findings.push_back({{"kind", "program_missing"}, {"weight", "stop"}, {"text", m}});
  for (const Finding& f : proof.findings) findings.push_back(finding_json(f, ""));
  for (const PieceProof& p : proof.pieces) {
    const PieceResult& r = p.result;
    for (std::size_t k = 0; k < r.sides.size(); ++k) {
      const ProofResult& side = r.sides[k];
      for (const auto& f : side.findings) findings.push_back(finding_json(f, p.sides[k]));
      for (const auto& f : side.programs)
        programs.push_back({{"side", p.sides[k]},
                            {"name", f.name},
                            {"lines", f.lines},
                            {"moves", f.moves},
                            {"seconds", std::round(f.seconds * 10) / 10},
                            {"sealed", f.sealed},
                            {"cutters", f.cutters},
                            {"lowest_mm", f.low.z}});
      for (const auto& s : side.slots)
        slots.push_back({{"name", s.name},
                         {"found", s.found},
                         {"place_error_mm", s.place_error},
                         {"width_mm", s.width},
                         {"depth_error_mm", s.depth_error},
                         {"covered", s.covered}});
    }
    for (const auto& f : r.findings) findings.push_back(finding_json(f, p.id));
    pieces.push_back({{"piece", p.id},
                      {"passed", r.passed()},
                      {"worst_gouge_mm", r.worst_gouge},
                      {"worst_left_mm", r.worst_left},
                      {"worst_loose_mm", r.worst_loose},
                      {"surface_left_mm", r.sides.front().surface_left},
                      {"deepest_mm", r.sides.front().deepest},
                      {"least_skin_mm", r.least_skin},
                      {"least_skin_misfit_mm", r.least_skin_misfit},
                      {"least_thickness_mm", r.least_thickness},
                      {"holes_open", r.holes_open},
                      {"tabs", r.tabs},
                      {"cut_free", r.free},
                      {"wall_beside_outline_mm", r.wall_beside},
                      {"wall_beside_at_mm", {r.wall_beside_at.x, r.wall_beside_at.y}},
                      {"cavity_wide_mm", r.cavity_wide},
                      {"cavity_tight_mm", r.cavity_tight},
                      {"plan_inside_mm", r.plan_inside},
                      {"plan_outside_mm", r.plan_outside},
                      {"under_error", under_error_json(r)},
                      {"volume_cm3", r.volume_mm3 / 1000}});
  }
  int tabs = 0;
  int holes = 0;
  bool free = false;
  double skin = 1e9;
  for (const PieceProof& p : proof.pieces) {
    tabs += p.result.tabs;
    holes += p.result.holes_open;
    free = free || p.result.free;
    skin = std::min(skin, p.result.least_skin);
  }
  return {{"passed", proof.passed()},
          {"verdict", verdict_words(proof.verdict())},
          {"assumed_lengths", proof.assumed},
          {"tabs", tabs},
          {"holes_open", holes},
          {"cut_free", free},
          {"least_skin_mm", skin},
          {"seconds", std::round(proof.seconds * 10) / 10},
          {"worst_gouge_mm", proof.worst_gouge},
          {"worst_left_mm", proof.worst_left},
          {"worst_loose_mm", proof.worst_loose},
          {"pieces", pieces},
          {"programs", programs},
          {"findings", findings},
          {"slots", slots}};
}

void tell(const PartProof& proof, const std::string& part) {
  for (const Finding& f : proof.findings)
    fmt::print("{}: {}: {}\n", weight_name(f.weight), f.rule, f.text.in(audience()));
  for (const PieceProof& p : proof.pieces) {
    const PieceResult& r = p.result;
    const auto found = [](const Finding& f, const std::string& where) {
      fmt::print("{}: {}{}{}: {}{}{}\n", weight_name(f.weight), f.rule, f.rule.empty() ? "" : ": ", where,
                 f.text.in(audience()), f.line > 0 ? fmt::format(" ({}, line {})", f.program, f.line) : "",
                 f.count > 1 ? fmt::format(", at {} places", f.count) : "");
    };
    for (std::size_t k = 0; k < r.sides.size(); ++k) {
      for (const auto& f : r.sides[k].programs)
        if (!quiet())
          fmt::print("{}: {} lines, {:.1f} min, lowest z {:.3f}{}\n", f.name, f.lines, f.seconds / 60, f.low.z,
                     f.sealed ? ", checksum right" : "");
      for (const auto& f : r.sides[k].findings) found(f, p.sides[k]);
    }
    for (const auto& f : r.findings) found(f, p.id);
    if (quiet()) continue;
    double place = 0;
    for (const ProofResult& side : r.sides)
      for (const auto& s : side.slots) place = std::max(place, s.place_error);
    fmt::print(
        "{}: {}; time {:.1f} min; gouge {:.3f} mm, left {:.3f} mm{}, thinnest {:.2f} mm, {} holes through, {} "
        "tabs{}{}\n",
        p.title, r.passed() ? "proved" : "not proved", r.seconds / 60, r.worst_gouge, r.worst_left,
        r.worst_loose > 0 ? fmt::format(", {:.3f} mm where the glue hides it", r.worst_loose) : "", r.least_thickness,
        r.holes_open, r.tabs,
        r.least_skin < 1e8
            ? fmt::format(", skin over the rod {:.2f} ({:.2f} with the sides apart)", r.least_skin, r.least_skin_misfit)
            : "",
        place > 0 ? fmt::format(", slots within {:.4f} mm", place) : "");
  }
  for (const std::string& m : proof.missing) fmt::print("stop: {}\n", m);
  if (!quiet())
    for (const auto& [label, words] : error_lines(proof))
      fmt::print("{}: {}\n", label, words.in(UnitSystem::millimetre));
  const Verdict verdict = proof.verdict();
  const char* const after[] = {"", ": do not run these programs", ": something is left out; do not run these programs",
                               ": the cells are wider than the piece's own; do not run these programs"};
  if (verdict != Verdict::proved) {
    fmt::print("{}{}\n", verdict_words(verdict), after[static_cast<int>(verdict)]);
    return;
  }
  std::string assumed;
  for (const std::string& c : proof.assumed) assumed += (assumed.empty() ? ", for assumed lengths of " : ", ") + c;
  fmt::print("PROVED: these programs make the part '{}'{}\n", part, assumed);
}

Problem no_such_part(const std::string& part) {
  return {ProblemKind::input, "these numbers ask for no such part, so nothing is cut of it", part,
          "Choose another part, or change the numbers"};
}

}  // namespace wren::cli

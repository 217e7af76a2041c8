// programs, prove, sheet, export: what leaves the project.
#include "cli/commands/command.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

#include "core/job/certificate.hpp"
#include "core/job/program_folder.hpp"
#include "exchange/exports.hpp"

namespace wren::cli {
namespace {

constexpr std::size_t largest_program = 512U << 20;

struct WriteCall {
  std::string file, out;
  std::string part = first_part();
  bool force = false;
  bool unproved = false;
};

void print_proof(const PartProof& proof, const std::string& part);

Problem no_such_part(const std::string& part) {
  return {ProblemKind::input, "these numbers ask for no such part, so nothing is cut of it", part,
          "Choose another part, or change the numbers"};
}

int write(const WriteCall& call) {
  const auto& [file, folder, part, force, unproved] = call;
  auto job = load_designed(file, part);
  if (!job) return refuse(job.error());
  const auto planned = plan(*(*job)->kind, (*job)->followed, (*job)->cache);
  if (!planned) return refuse(planned.error());
  if (planned->made.pieces.empty()) return refuse(no_such_part(part));
  const auto remarks = remarks_of(*(*job)->kind, (*job)->followed, &*planned);
  if (stops_work(remarks)) {
    for (const Remark& r : remarks)
      if (r.weight == Weight::stop) std::cerr << "stop: " << r.sentence << "\n";
    if (!force) {
      std::cerr << "wren: no program was written. Look at: wren remarks --part " << part << " " << file << "\n";
      return must_stop;
    }
  }
  const std::string date = today();
  auto programs = programs_of((*job)->project(), *planned, date);
  // A maker starts the spindle on what is written: it is proved first.
  std::string certificate;
  if (unproved) {
    programs = programs_of((*job)->project(), *planned, date, "NOT PROVED: written without a proof");
  } else {
    const auto proof = prove_part(*planned, programs);
    if (!proof) return refuse(proof.error());
    if (!proof->passed()) {
      print_proof(*proof, part);
      std::cerr << "wren: no program was written; --unproved writes them all the same, and they say so\n";
      return must_stop;
    }
    certificate = certificate_of((*job)->project(), *planned, programs, *proof, date);
  }
  const std::string manifest = manifest_of((*job)->project(), *planned, programs, date);
  const auto written = write_folder(folder, part, programs, manifest, certificate, holder("programs"));
  if (!written) return refuse(written.error());
  for (const PlacedProgram& p : programs)
    fmt::print("{}  {}  {:.1f} min  {}\n", (written->folder / p.file.file).string(), p.side, p.file.seconds / 60,
               p.file.cutters.empty() ? "" : p.file.cutters.front());
  if (!written->old.empty())
    std::cerr << fmt::format("wren: the set before is in {}: {}\n", (written->folder / "old").string(),
                             fmt::join(written->old, ", "));
  if (!written->carried.empty())
    std::cerr << fmt::format("wren: still in {}, listed by no manifest: {}\n", written->folder.string(),
                             fmt::join(written->carried, ", "));
  return well;
}

struct ProveCall {
  std::string file;
  std::string folder;
  std::vector<std::string> programs;
  std::string part = first_part();
  std::string cutter;
  double cell = 0;
  bool json = false;
};

/// Programs named one by one: those of a planned name stand in for the planned one; else the name tells the side.
Expected<std::vector<PlacedProgram>> from_files(const std::vector<std::string>& files, const Planned& planned,
                                                std::vector<PlacedProgram> own) {
  std::vector<PlacedProgram> given;
  bool replaces = false;
  for (const std::string& name : files) {
    auto text = read_file(name, largest_program);
    if (!text) return tl::unexpected(text.error());
    const std::string plain = std::filesystem::path(name).filename().string();
    const auto mine =
        std::find_if(own.begin(), own.end(), [&](const PlacedProgram& p) { return p.file.file == plain; });
    if (mine != own.end()) {
      mine->file.text = std::move(*text);
      replaces = true;
      given.push_back(*mine);
      continue;
    }
    const Piece* piece = nullptr;
    const Side* side = nullptr;
    std::size_t sides = 0;
    for (const Piece& p : planned.made.pieces)
      for (const Side& s : p.sides) {
        ++sides;
        if (plain.find("-" + s.id + "-") != std::string::npos || planned.made.pieces.size() + p.sides.size() == 2) {
          piece = &p;
          side = &s;
        }
      }
    if (side == nullptr)
      return fail(ProblemKind::input, "the file's name does not say which side it cuts", plain,
                  "Name it as wren programs does");
    PlacedProgram p{piece->id, side->id, {}};
    p.sealed = false;  // from anywhere
    p.file.file = plain;
    p.file.text = std::move(*text);
    given.push_back(std::move(p));
  }
  return replaces && given.size() < own.size() && planned.made.pieces.size() > 1 ? own : given;
}

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
                   {"least_skin_mm", c.least_skin}});
  return out;
}

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
                      {"surface_left_mm", r.sides.front().surface_left},
                      {"deepest_mm", r.sides.front().deepest},
                      {"least_skin_mm", r.least_skin},
                      {"least_skin_misfit_mm", r.least_skin_misfit},
                      {"least_thickness_mm", r.least_thickness},
                      {"holes_open", r.holes_open},
                      {"tabs", r.tabs},
                      {"cut_free", r.free},
                      {"wall_beside_outline_mm", r.wall_beside},
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
          {"pieces", pieces},
          {"programs", programs},
          {"findings", findings},
          {"slots", slots}};
}

void print_proof(const PartProof& proof, const std::string& part) {
  for (const Finding& f : proof.findings) fmt::print("{}: {}: {}\n", weight_name(f.weight), f.rule, f.text);
  for (const PieceProof& p : proof.pieces) {
    const PieceResult& r = p.result;
    const auto tell = [](const Finding& f, const std::string& where) {
      fmt::print("{}: {}{}{}: {}{}{}\n", weight_name(f.weight), f.rule, f.rule.empty() ? "" : ": ", where, f.text,
                 f.line > 0 ? fmt::format(" ({}, line {})", f.program, f.line) : "",
                 f.count > 1 ? fmt::format(", at {} places", f.count) : "");
    };
    for (std::size_t k = 0; k < r.sides.size(); ++k) {
      for (const auto& f : r.sides[k].programs)
        fmt::print("{}: {} lines, {:.1f} min, lowest z {:.3f}{}\n", f.name, f.lines, f.seconds / 60, f.low.z,
                   f.sealed ? ", checksum right" : "");
      for (const auto& f : r.sides[k].findings) tell(f, p.sides[k]);
    }
    for (const auto& f : r.findings) tell(f, p.id);
    double place = 0;
    for (const ProofResult& side : r.sides)
      for (const auto& s : side.slots) place = std::max(place, s.place_error);
    fmt::print(
        "{}: {}; time {:.1f} min; gouge {:.3f} mm, left {:.3f} mm, thinnest {:.2f} mm, {} holes through, {} tabs{}{}\n",
        p.title, r.passed() ? "proved" : "not proved", r.seconds / 60, r.worst_gouge, r.worst_left, r.least_thickness,
        r.holes_open, r.tabs,
        r.least_skin < 1e8
            ? fmt::format(", skin over the rod {:.2f} ({:.2f} with the sides apart)", r.least_skin, r.least_skin_misfit)
            : "",
        place > 0 ? fmt::format(", slots within {:.4f} mm", place) : "");
  }
  for (const std::string& m : proof.missing) fmt::print("stop: {}\n", m);
  for (const auto& [label, words] : error_lines(proof)) fmt::print("{}: {}\n", label, words.in(UnitSystem::millimetre));
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

int prove(ProveCall call) {
  auto job = load_designed(call.file, call.part);
  if (!job) return refuse(job.error());
  auto planned = plan(*(*job)->kind, (*job)->followed, (*job)->cache);
  if (!planned) return refuse(planned.error());
  if (planned->made.pieces.empty()) return refuse(no_such_part(call.part));
  if (!call.cutter.empty() && find_cutter(planned->rack, call.cutter) == nullptr)
    return refuse(missing_cutter(planned->rack, call.cutter, "--cutter"));
  Expected<std::vector<PlacedProgram>> programs = programs_of((*job)->project(), *planned, today());
  std::vector<Finding> of_the_set;
  if (!call.folder.empty()) {
    auto set = read_folder(call.folder, *planned);
    if (!set) return refuse(set.error());
    of_the_set = std::move(set->findings);
    take_probes(*set, *planned);
    programs = std::move(set->programs);
  } else if (!call.programs.empty()) {
    programs = from_files(call.programs, *planned, std::move(*programs));
  }
  if (!programs) return refuse(programs.error());
  if (!call.cutter.empty())
    for (PlacedProgram& p : *programs) p.cutter = call.cutter;
  auto proof = prove_part(*planned, *programs, call.cell);
  if (!proof) return refuse(proof.error());
  std::move(of_the_set.begin(), of_the_set.end(), std::back_inserter(proof->findings));
  if (call.json)
    print(proof_json(*proof));
  else
    print_proof(*proof, call.part);
  return proof->passed() ? well : must_stop;
}

struct ExportCall {
  std::string file, out;
  std::string part;
  std::string what;
  std::string paper = "a4";
  RouterOffset router;
};

int run_export(ExportCall call) {
  const std::string ending = std::filesystem::path(call.out).extension().string();
  if (call.part.empty()) call.part = usual_export_part(ending);
  if (const auto bad = check_router(call.router)) return refuse(*bad);
  if (auto may = may_export_to(call.out); !may) return refuse(may.error());
  auto job = load_designed(call.file, call.part);
  if (!job) return refuse(job.error());
  const ExportFormat* format = find_export(call.part, ending, call.what);
  if (format == nullptr)
    return refuse({ProblemKind::unsupported,
                   fmt::format("files that end in '{}' are not written for the part '{}'", ending, call.part), call.out,
                   "Choose one of " + export_endings(call.part)});
  if (format->program == "upland-wren")
    return become(format->program, {"--templates", call.out, "--part", call.part, "--paper", call.paper, "--router",
                                    fmt::format("{}", call.router.cutter), "--follower",
                                    fmt::format("{}", call.router.follower), call.file});
  if (format->write == nullptr) return become(format->program, {call.file, call.out});
  const auto bytes = format->write(*(*job)->kind, (*job)->followed, (*job)->cache, {call.what, call.router});
  if (!bytes) return refuse(bytes.error());
  if (auto written = write_export(call.out, *bytes); !written) return refuse(written.error());
  fmt::print("{}\n", call.out);
  return well;
}

}  // namespace

Command add_programs(CLI::App& app) {
  auto call = std::make_shared<WriteCall>();
  auto* parser =
      app.add_subcommand("programs", "Prove a part's programs and write them, with manifest and certificate");
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("--out", call->out, "Folder; each part has a subfolder of its own in it")->required();
  add_part(parser, call->part);
  parser->add_flag("--force", call->force, "Write even where a remark stops the work; never past the proof");
  parser->add_flag("--unproved", call->unproved, "Write without a proof; every program says so in its first lines");
  return {parser, [call] { return write(*call); }};
}

Command add_prove(CLI::App& app) {
  auto call = std::make_shared<ProveCall>();
  auto* parser =
      app.add_subcommand("prove", "Cut the programs into virtual wood and hold the result against the design");
  parser->add_option("FILE", call->file, "Project: its blank and design are what is proved against")->required();
  parser->add_option("PROGRAM", call->programs,
                     "Programs from anywhere, in running order; without them the project's own");
  parser->add_option("--folder", call->folder,
                     "Prove the programs of a folder, as its manifest names them: a part's own, or the one above");
  add_part(parser, call->part);
  parser->add_option("--cutter", call->cutter, "Rack identity to use for programs that name no tool of the rack");
  parser->add_option("--cell", call->cell, "Grid of the virtual wood in mm; without it each piece's own")
      ->check([](const std::string& text) {
        // Also refuses what is no number: "nan" is neither above nor below.
        double cell = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), cell);
        return error == std::errc() && end == text.data() + text.size() && cell >= 0.02 && cell <= 2.0
                   ? std::string()
                   : "not a number from 0.02 to 2.0";
      });
  parser->add_flag("--json", call->json, "As JSON");
  return {parser, [call] { return prove(*call); }};
}

Command add_check(CLI::App& app) {
  auto folder = std::make_shared<std::string>();
  auto* parser = app.add_subcommand("check", "Hold a folder or stick of programs against the certificate beside them");
  parser
      ->add_option("FOLDER", *folder,
                   "Folder with manifest.json and proof.json, or with parts' subfolders that have them")
      ->required();
  return {parser, [folder]() -> int {
            const auto check = check_folder(*folder);
            if (!check) return refuse(check.error());
            for (const FolderCheck::Part& p : check->parts) {
              std::string assumed;
              for (const std::string& c : p.assumed)
                assumed += (assumed.empty() ? ", for assumed lengths of " : ", ") + c;
              fmt::print("{}: {} on {}, {} programs{}\n", p.part, p.verdict, p.date, p.programs, assumed);
            }
            for (const std::string& f : check->faults) fmt::print("stop: {}\n", f);
            fmt::print("{}\n",
                       check->passed() ? "Every file is the one that was proved." : "Do not run these programs.");
            return check->passed() ? well : must_stop;
          }};
}

Command add_sheet(CLI::App& app) {
  struct Call {
    std::string file, out;
    std::string part = first_part();
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("sheet", "Write the run sheet");
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("--out", call->out, "PDF to write")->required();
  add_part(parser, call->part);
  return {parser, [call] {
            // Drawn by the window program, so that paper and screen agree; it needs no display for that.
            if (auto job = load_designed(call->file, call->part); !job) return refuse(job.error());
            if (auto may = may_export_to(call->out); !may) return refuse(may.error());
            return become("upland-wren", {"--sheet", call->out, "--part", call->part, call->file});
          }};
}

Command add_export(CLI::App& app) {
  auto call = std::make_shared<ExportCall>();
  auto* parser = app.add_subcommand(
      "export", "Write a part's solid as .stl or .step, its drawings as .dxf, .svg or .csv, its templates as .pdf");
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("--out", call->out, "File to write; its ending tells the format")->required();
  add_part(parser, call->part);
  parser->add_option("--what", call->what, "For DXF: sections or plan")->check(CLI::IsMember({"sections", "plan"}));
  parser->add_option("--router", call->router.cutter, "Templates: cutter of the hand router, mm");
  parser->add_option("--follower", call->router.follower, "Templates: bearing or bush, mm");
  parser->add_option("--paper", call->paper, "Templates: a4, a3 or letter")
      ->check(CLI::IsMember({"a4", "a3", "letter"}));
  return {parser, [call] { return run_export(*call); }};
}

}  // namespace wren::cli

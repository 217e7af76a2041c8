// wren: the jobs of Upland Wren on the command line. Starts quickly: links the core only, no interface code.
#include <cstdio>
#include <ctime>
#include <filesystem>
#include <iostream>
#include <unistd.h>

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/document/project_file.hpp"
#include "core/job/body_cuts.hpp"
#include "core/job/body_mesh.hpp"
#include "core/job/neck_mesh.hpp"
#include "core/job/board_programs.hpp"
#include "core/job/ledger.hpp"
#include "exchange/body_out.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/fret_table.hpp"
#include "exchange/plan_in.hpp"
#include "exchange/solid_out.hpp"

namespace {

using namespace wren;
using Json = nlohmann::ordered_json;

/// Exit codes, also in --help and README: 0 well; 1 the work must stop (remarks, proof); 2 the call is wrong; 3 a file
/// or value cannot be used.
enum Exit { well = 0, must_stop = 1, bad_call = 2, bad_input = 3 };

int refuse(const Problem& problem) {
  std::cerr << "wren: " << problem.text() << "\n";
  return bad_input;
}

std::string today() {
  // SOURCE_DATE_EPOCH (reproducible-builds.org) makes the same input give the same bytes.
  std::time_t now = std::time(nullptr);
  if (const char* fixed = std::getenv("SOURCE_DATE_EPOCH"))
    now = static_cast<std::time_t>(std::strtoll(fixed, nullptr, 10));
  std::tm parts{};
  localtime_r(&now, &parts);
  char text[32];
  std::strftime(text, sizeof text, "%Y-%m-%d", &parts);
  return text;
}

Json value_json(const FieldValue& value) {
  if (const double* v = std::get_if<double>(&value)) return std::round(*v * 1e9) / 1e9;
  if (const long* v = std::get_if<long>(&value)) return *v;
  if (const bool* v = std::get_if<bool>(&value)) return *v;
  if (const auto* v = std::get_if<std::string>(&value)) return *v;
  if (const auto* v = std::get_if<std::vector<double>>(&value)) return *v;
  return nullptr;
}

Json remark_json(const Remark& r) {
  Json j{{"kind", r.kind},         {"weight", weight_name(r.weight)},
         {"sentence", r.sentence}, {"number", r.number},
         {"limit", r.limit},       {"unit", r.unit},
         {"source", r.source},     {"place", r.place}};
  if (r.at) j["at_mm"] = {r.at->first, r.at->second};
  const auto way = [](const Repair& repair) {
    Json edits = Json::object();
    for (const auto& [key, text] : repair.edits) edits[key] = text;
    return Json{{"label", repair.label}, {"set", edits}};
  };
  if (r.repair) j["repair"] = way(*r.repair);
  for (const Repair& other : r.others) j["other_repairs"].push_back(way(other));
  return j;
}

std::optional<Problem> unknown_part(const std::string& part) {
  if (part == "fretboard" || part == "neck" || part == "body") return {};
  return Problem{ProblemKind::unsupported, fmt::format("there is no part called '{}'", part), "--part",
                 "Choose fretboard, neck or body"};
}

int run_new(const std::string& file, const std::string& from, bool force) {
  const auto project = project_from(from);
  if (!project) return refuse(project.error());
  if (!force && std::filesystem::exists(file))
    return refuse({ProblemKind::file, "the file exists already", file, "Choose another name, or say --force"});
  Project fresh = *project;
  if (from == "plain") fresh.name = std::filesystem::path(file).stem().string();
  if (auto saved = save_project(file, fresh); !saved) return refuse(saved.error());
  fmt::print("{} made from {}\n", file, from);
  return well;
}

int run_get(const std::string& file, const std::vector<std::string>& keys, bool json) {
  const auto project = load_project(file);
  if (!project) return refuse(project.error());
  const auto design = design_board(*project);
  // Paths are only planned where somebody asks for a number that needs them.
  const bool want_cuts =
      design && (keys.empty() ? json : std::any_of(keys.begin(), keys.end(), [](const std::string& k) {
        return k.rfind("cuts.", 0) == 0 || k == "crown.left_over" || k.find("_used") != std::string::npos;
      }));
  std::optional<BoardCuts> cuts;
  if (want_cuts) cuts = plan_cuts(*project, *design);
  // The same for the neck: its paths take seconds.
  std::optional<NeckDesign> neck;
  std::optional<NeckCuts> neck_cuts;
  std::optional<Problem> no_neck;
  if (design) {
    if (auto made = design_neck(*project, design->board))
      neck = std::move(*made);
    else
      no_neck = made.error();
  }
  if (neck && std::any_of(keys.begin(), keys.end(), [](const std::string& k) { return k.rfind("neckcuts.", 0) == 0; }))
    neck_cuts = plan_neck(*project, *neck);
  std::optional<BodyDesign> body;
  std::optional<BodyCuts> body_cuts;
  if (neck) {
    if (auto made = design_body(*project, *neck, design->weight_g))
      body = std::move(*made);
    else
      no_neck = made.error();
  }
  if (body && std::any_of(keys.begin(), keys.end(), [](const std::string& k) { return k.rfind("bodycuts.", 0) == 0; }))
    body_cuts = plan_body(*project, *body);
  const auto lines =
      ledger(*project, design ? &*design : nullptr, cuts ? &*cuts : nullptr, neck ? &*neck : nullptr,
             neck_cuts ? &*neck_cuts : nullptr, body ? &*body : nullptr, body_cuts ? &*body_cuts : nullptr);
  Json doc = Json::object();
  std::vector<std::string> missing = keys;
  for (const LedgerLine& line : lines) {
    if (!keys.empty() && std::find(keys.begin(), keys.end(), line.key) == keys.end()) continue;
    std::erase(missing, line.key);
    if (json)
      doc[line.key] = {{"value", value_json(line.value)},
                       {"unit", line.unit},
                       {"origin", origin_name(line.origin)},
                       {"reason", line.reason}};
    else
      fmt::print("{} = {}\n", line.key, ledger_text(line, UnitSystem::millimetre));
  }
  if (json) std::cout << doc.dump(1, ' ', false, Json::error_handler_t::replace) << "\n";
  if (!design) std::cerr << "wren: " << design.error().text() << "\n";
  if (no_neck) std::cerr << "wren: " << no_neck->text() << "\n";
  if (!missing.empty())
    return refuse({ProblemKind::input, fmt::format("there is no number called '{}'", missing.front()), file,
                   design ? "List them with: wren get FILE" : "It may follow once the numbers agree"});
  return well;
}

int run_set(const std::string& file, const std::vector<std::string>& edits, bool inch) {
  const auto project = load_project(file);
  if (!project) return refuse(project.error());
  std::vector<std::pair<std::string, std::string>> pairs;
  for (const auto& edit : edits) {
    const auto equal = edit.find('=');
    if (equal == std::string::npos || equal == 0)
      return refuse({ProblemKind::input, fmt::format("'{}' is not KEY=VALUE", edit), "",
                     "Write for example: strings.scale_bass=\"25 1/2 in\""});
    pairs.emplace_back(edit.substr(0, equal), edit.substr(equal + 1));
  }
  const auto changed = with_edits(*project, pairs, inch ? UnitSystem::inch : UnitSystem::millimetre);
  if (!changed) return refuse(changed.error());
  if (auto saved = save_project(file, *changed); !saved) return refuse(saved.error());
  if (const auto design = design_board(*changed); !design)
    std::cerr << "wren: saved, but no board follows from these numbers: " << design.error().text() << "\n";
  else if (const auto neck = make_neck(design->board, changed->neck); !neck)
    std::cerr << "wren: saved, but no neck follows from these numbers: " << neck.error().text() << "\n";
  return well;
}

int run_remarks(const std::string& file, const std::string& part, bool json) {
  if (const auto bad = unknown_part(part)) return refuse(*bad);
  const auto project = load_project(file);
  if (!project) return refuse(project.error());
  const auto design = design_board(*project);
  std::vector<Remark> remarks;
  if (design && part == "body") {
    const auto neck = design_neck(*project, design->board);
    if (!neck) {
      remarks.push_back({"neck.impossible",
                         Weight::stop,
                         neck.error().what + ". " + neck.error().todo,
                         0,
                         0,
                         "",
                         "geometry",
                         neck.error().where,
                         {},
                         {},
                         {}});
    } else if (const auto body = design_body(*project, *neck, design->weight_g)) {
      remarks = all_remarks(*body, plan_body(*project, *body));
    } else {
      remarks.push_back({"body.impossible",
                         Weight::stop,
                         body.error().what + ". " + body.error().todo,
                         0,
                         0,
                         "",
                         "geometry",
                         body.error().where,
                         {},
                         {},
                         {}});
    }
  } else if (design && part == "neck") {
    if (const auto neck = design_neck(*project, design->board))
      remarks = all_remarks(*neck, plan_neck(*project, *neck));
    else
      remarks.push_back({"neck.impossible",
                         Weight::stop,
                         neck.error().what + ". " + neck.error().todo,
                         0,
                         0,
                         "",
                         "geometry",
                         neck.error().where,
                         {},
                         {},
                         {}});
  } else if (design) {
    const BoardCuts cuts = plan_cuts(*project, *design);
    remarks = all_remarks(*design, cuts);
  } else {
    const Problem& p = design.error();
    remarks.push_back(
        {"board.impossible", Weight::stop, p.what + ". " + p.todo, 0, 0, "", "geometry", p.where, {}, {}, {}});
  }
  if (json) {
    Json list = Json::array();
    for (const Remark& r : remarks) list.push_back(remark_json(r));
    std::cout << Json{{"remarks", list}, {"stops_work", stops_work(remarks)}}.dump(1, ' ', false,
                                                                                   Json::error_handler_t::replace)
              << "\n";
  } else {
    for (const Remark& r : remarks) {
      fmt::print("{}: {} [{}; {}]\n", weight_name(r.weight), r.sentence, r.place, r.source);
      std::vector<Repair> ways = r.others;
      if (r.repair) ways.insert(ways.begin(), *r.repair);
      for (const Repair& way : ways) {
        std::string edits;
        for (const auto& [key, text] : way.edits) edits += " " + key + "=\"" + text + "\"";
        fmt::print("    {}: wren set {}{}\n", way.label, file, edits);
      }
    }
    if (remarks.empty()) fmt::print("nothing to remark\n");
  }
  return stops_work(remarks) ? must_stop : well;
}

/// Project, design and cuts together, or the exit code to leave with.
struct Loaded {
  Project project;
  BoardDesign design;
  BoardCuts cuts;
};
Expected<Loaded> load_job(const std::string& file, bool with_cuts) {
  auto project = load_project(file);
  if (!project) return tl::unexpected(project.error());
  auto design = design_board(*project);
  if (!design) return tl::unexpected(design.error());
  Loaded out{std::move(*project), std::move(*design), {}};
  if (with_cuts) out.cuts = plan_cuts(out.project, out.design);
  return out;
}

struct LoadedNeck {
  Project project;
  NeckDesign design;
  NeckCuts cuts;
};
Expected<LoadedNeck> load_neck(const std::string& file, bool with_cuts) {
  auto project = load_project(file);
  if (!project) return tl::unexpected(project.error());
  auto board = make_fretboard(project->instrument);
  if (!board) return tl::unexpected(board.error());
  auto design = design_neck(*project, *board);
  if (!design) return tl::unexpected(design.error());
  LoadedNeck out{std::move(*project), std::move(*design), {}};
  if (with_cuts) out.cuts = plan_neck(out.project, out.design);
  return out;
}

struct LoadedBody {
  Project project;
  BodyDesign design;
  BodyCuts cuts;
};
Expected<LoadedBody> load_body(const std::string& file, bool with_cuts) {
  auto project = load_project(file);
  if (!project) return tl::unexpected(project.error());
  auto board = design_board(*project);
  if (!board) return tl::unexpected(board.error());
  auto neck = design_neck(*project, board->board);
  if (!neck) return tl::unexpected(neck.error());
  auto design = design_body(*project, *neck, board->weight_g);
  if (!design) return tl::unexpected(design.error());
  LoadedBody out{std::move(*project), std::move(*design), {}};
  if (with_cuts) out.cuts = plan_body(out.project, out.design);
  return out;
}

Json finding_json(const Finding& f, const std::string& side) {
  return {{"side", side},         {"kind", f.kind}, {"weight", weight_name(f.weight)},   {"text", f.text},
          {"program", f.program}, {"line", f.line}, {"at_mm", {f.at.x, f.at.y, f.at.z}}, {"number", f.number},
          {"limit", f.limit}};
}

int print_piece(const PieceResult& r, bool json) {
  const char* const names[] = {"front", "back"};
  if (json) {
    Json findings = Json::array();
    Json programs = Json::array();
    for (std::size_t k = 0; k < r.sides.size(); ++k) {
      for (const auto& f : r.sides[k].findings) findings.push_back(finding_json(f, names[k]));
      for (const auto& f : r.sides[k].programs)
        programs.push_back({{"side", names[k]},
                            {"name", f.name},
                            {"lines", f.lines},
                            {"seconds", std::round(f.seconds * 10) / 10},
                            {"sealed", f.sealed},
                            {"cutters", f.cutters}});
    }
    for (const auto& f : r.findings) findings.push_back(finding_json(f, "piece"));
    std::cout << Json{{"passed", r.passed()},
                      {"seconds", std::round(r.seconds * 10) / 10},
                      {"worst_gouge_mm", r.worst_gouge},
                      {"worst_left_mm", r.worst_left},
                      {"least_skin_mm", r.least_skin},
                      {"least_skin_misfit_mm", r.least_skin_misfit},
                      {"least_thickness_mm", r.least_thickness},
                      {"holes_open", r.holes_open},
                      {"tabs", r.tabs},
                      {"cut_free", r.free},
                      {"volume_cm3", r.volume_mm3 / 1000},
                      {"programs", programs},
                      {"findings", findings}}
                     .dump(1, ' ', false, Json::error_handler_t::replace)
              << "\n";
  } else {
    for (std::size_t k = 0; k < r.sides.size(); ++k) {
      for (const auto& f : r.sides[k].programs)
        fmt::print("{}: {} lines, {:.1f} min, lowest z {:.3f}{}\n", f.name, f.lines, f.seconds / 60, f.low.z,
                   f.sealed ? ", checksum right" : "");
      for (const auto& f : r.sides[k].findings)
        fmt::print("{}: {}: {}{}\n", weight_name(f.weight), names[k], f.text,
                   f.line > 0 ? fmt::format(" ({}, line {})", f.program, f.line) : "");
    }
    for (const auto& f : r.findings) fmt::print("{}: {}\n", weight_name(f.weight), f.text);
    fmt::print(
        "time {:.1f} min; largest gouge {:.3f} mm; largest left-over {:.3f} mm; skin over the rod {:.2f} mm ({:.2f} "
        "with the sides apart); thinnest {:.2f} mm; {} holes through; {} tabs\n",
        r.seconds / 60, r.worst_gouge, r.worst_left, r.least_skin, r.least_skin_misfit, r.least_thickness, r.holes_open,
        r.tabs);
    fmt::print("{}\n", r.passed() ? "PROVED: these programs make this neck from one piece of wood"
                                  : "NOT PROVED: do not run these programs");
  }
  return r.passed() ? well : must_stop;
}

/// What stops the work, told; true where no program may be written.
bool told_stops(const std::vector<Remark>& remarks, const std::string& file, const std::string& part, bool force) {
  if (!stops_work(remarks)) return false;
  for (const Remark& r : remarks)
    if (r.weight == Weight::stop) std::cerr << "stop: " << r.sentence << "\n";
  if (force) return false;
  std::cerr << "wren: no program was written. Look at: wren remarks --part " << part << " " << file << "\n";
  return true;
}

/// Programs written are kept in mind in the project itself.
void note_programs(const std::string& file, Project& project, const char* what, const std::string& date,
                   const std::string& folder) {
  remember(project, what, date, std::filesystem::absolute(folder).lexically_normal().string());
  if (auto saved = save_project(file, project); !saved)
    std::cerr << "wren: the programs are written, but the project could not note it: " << saved.error().text() << "\n";
}

int write_neck_programs(const std::string& file, const std::string& folder, bool force) {
  auto job = load_neck(file, true);
  if (!job) return refuse(job.error());
  if (told_stops(all_remarks(job->design, job->cuts), file, "neck", force)) return must_stop;
  const std::string date = today();
  const auto programs = neck_programs(job->project, job->design, job->cuts, date);
  if (auto written =
          write_folder(folder, files_of(programs), neck_manifest(job->project, job->design, job->cuts, programs, date));
      !written)
    return refuse(written.error());
  for (const PlacedProgram& f : programs)
    fmt::print("{}  {}  {:.1f} min  {}\n", (std::filesystem::path(folder) / f.file.file).string(), f.side,
               f.file.seconds / 60, f.file.cutters.empty() ? "" : f.file.cutters.front());
  note_programs(file, job->project, "neck-programs", date, folder);
  return well;
}

int write_body_programs(const std::string& file, const std::string& folder, bool force) {
  auto job = load_body(file, true);
  if (!job) return refuse(job.error());
  if (told_stops(all_remarks(job->design, job->cuts), file, "body", force)) return must_stop;
  const std::string date = today();
  const auto programs = body_programs(job->project, job->design, job->cuts, date);
  if (auto written =
          write_folder(folder, files_of(programs), body_manifest(job->project, job->design, job->cuts, programs, date));
      !written)
    return refuse(written.error());
  for (const PlacedProgram& f : programs)
    fmt::print("{}  {}  {:.1f} min  {}\n", (std::filesystem::path(folder) / f.file.file).string(), f.side,
               f.file.seconds / 60, f.file.cutters.empty() ? "" : f.file.cutters.front());
  note_programs(file, job->project, "body-programs", date, folder);
  return well;
}

/// The body's own programs, or ones from files in their place: a file replaces the program of its name.
int prove_the_body(const std::string& file, const std::vector<std::string>& replaced, double cell, bool json) {
  auto job = load_body(file, true);
  if (!job) return refuse(job.error());
  auto programs = body_programs(job->project, job->design, job->cuts, today());
  for (const std::string& name : replaced) {
    auto text = read_file(name, 512u << 20);
    if (!text) return refuse(text.error());
    const std::string plain = std::filesystem::path(name).filename().string();
    const auto it =
        std::find_if(programs.begin(), programs.end(), [&](const PlacedProgram& p) { return p.file.file == plain; });
    if (it == programs.end())
      return refuse({ProblemKind::input, "no program of this body has that name", plain,
                     "Name it as wren programs --part body does"});
    it->file.text = std::move(*text);
  }
  const auto result = prove_body(body_proof(job->project, job->design, job->cuts, programs, std::max(cell, 0.2)));
  if (!result) return refuse(result.error());
  if (json) {
    Json pieces = Json::array();
    for (const auto& [piece, r] : result->pieces) {
      Json findings = Json::array();
      for (std::size_t k = 0; k < r.sides.size(); ++k)
        for (const auto& f : r.sides[k].findings) findings.push_back(finding_json(f, piece.request.sides[k].name));
      for (const auto& f : r.findings) findings.push_back(finding_json(f, piece.id));
      pieces.push_back({{"piece", piece.id},
                        {"passed", r.passed()},
                        {"worst_gouge_mm", r.worst_gouge},
                        {"worst_left_mm", r.worst_left},
                        {"least_thickness_mm", r.least_thickness},
                        {"holes_open", r.holes_open},
                        {"tabs", r.tabs},
                        {"volume_cm3", r.volume_mm3 / 1000},
                        {"findings", findings}});
    }
    std::cout << Json{{"passed", result->passed()},
                      {"seconds", std::round(result->seconds * 10) / 10},
                      {"worst_gouge_mm", result->worst_gouge},
                      {"worst_left_mm", result->worst_left},
                      {"pieces", pieces}}
                     .dump(1, ' ', false, Json::error_handler_t::replace)
              << "\n";
  } else {
    for (const auto& [piece, r] : result->pieces) {
      fmt::print("{}: {}; gouge {:.3f} mm, left {:.3f} mm, thinnest {:.2f} mm, {} holes through, {} tabs\n",
                 piece.title, r.passed() ? "proved" : "not proved", r.worst_gouge, r.worst_left, r.least_thickness,
                 r.holes_open, r.tabs);
      for (std::size_t k = 0; k < r.sides.size(); ++k)
        for (const auto& f : r.sides[k].findings)
          fmt::print("{}: {}: {}{}\n", weight_name(f.weight), piece.request.sides[k].name, f.text,
                     f.line > 0 ? fmt::format(" ({}, line {})", f.program, f.line) : "");
      for (const auto& f : r.findings) fmt::print("{}: {}\n", weight_name(f.weight), f.text);
    }
    fmt::print("{}\n", result->passed() ? "PROVED: these programs make this body, layer by layer"
                                        : "NOT PROVED: do not run these programs");
  }
  return result->passed() ? well : must_stop;
}

struct PlanChoice {
  int page = 1;
  int pick = 1;       // of the closed curves, the largest first
  std::string known;  // length of its longer side
  std::string tail;
  bool mirror = false;
  std::string cavity;  // name: use it as a cavity
  std::string depth = "10 mm";
  bool back = false;
};

/// Lists a plan's curves, or takes one over as the body's outline or as a cavity.
int run_plan(const std::string& file, const std::string& from, const PlanChoice& choice, bool take, bool json) {
  const auto plan = read_plan(from, choice.page);
  if (!plan) return refuse(plan.error());
  const Cleaned& c = plan->cleaned;
  std::vector<const CleanedPath*> closed;
  for (const CleanedPath& p : c.paths)
    if (p.closed) closed.push_back(&p);
  if (!take) {
    Json curves = Json::array();
    for (const CleanedPath* p : closed) {
      const Vec2 size = bounds(p->points).size();
      Json j{{"layer", p->layer},
             {"size_mm", {size.x, size.y}},
             {"nodes", p->shape.path.size()},
             {"lines", p->shape.lines},
             {"arcs", p->shape.arcs},
             {"curves", p->shape.curves},
             {"worst_mm", p->shape.worst},
             {"crosses_itself", p->crosses.has_value()}};
      if (p->shape.circle)
        j["circle"] = {{"centre", {p->shape.circle->centre.x, p->shape.circle->centre.y}},
                       {"radius", p->shape.circle->radius}};
      if (!json)
        fmt::print("{}: {:.2f} x {:.2f} mm, {} nodes ({} lines, {} arcs, {} curves){}{}\n", curves.size() + 1, size.x,
                   size.y, p->shape.path.size(), p->shape.lines, p->shape.arcs, p->shape.curves,
                   p->shape.circle ? fmt::format(", a circle of diameter {:.3f}", 2 * p->shape.circle->radius) : "",
                   p->crosses ? ", crosses itself" : "");
      curves.push_back(std::move(j));
    }
    if (json)
      std::cout << Json{{"segments", c.segments_before},
                        {"doubles", c.doubles},
                        {"zero_length", c.zero_length},
                        {"joined", c.joined},
                        {"open", c.open_ends.size() / 2},
                        {"crossings", c.crossings.size()},
                        {"worst_mm", c.worst},
                        {"unit_known", plan->unit_known},
                        {"pages", plan->pages},
                        {"closed", curves}}
                       .dump(1, ' ', false, Json::error_handler_t::replace)
                << "\n";
    else {
      fmt::print(
          "{} segments: {} doubles, {} of no length, {} ends joined, {} curves open, {} cross themselves; nothing "
          "moved by more than {:.3f} mm\n",
          c.segments_before, c.doubles, c.zero_length, c.joined, c.open_ends.size() / 2, c.crossings.size(), c.worst);
      for (const auto& n : plan->notes) fmt::print("{}\n", n);
    }
    return well;
  }
  if (closed.empty())
    return refuse({ProblemKind::format, fmt::format("none of the {} curves is closed", c.paths.size()), from,
                   "Close the outline, or join its ends in the drawing"});
  if (choice.pick < 1 || choice.pick > static_cast<int>(closed.size()))
    return refuse({ProblemKind::range, fmt::format("there are {} closed curves", closed.size()), "--pick",
                   "List them with: wren plan " + file + " " + from});
  const CleanedPath& chosen = *closed[static_cast<std::size_t>(choice.pick - 1)];
  if (chosen.crosses)
    return refuse({ProblemKind::format,
                   fmt::format("the curve crosses itself near {:.1f}, {:.1f}", chosen.crosses->x, chosen.crosses->y),
                   from, "Mend the drawing there"});
  auto project = load_project(file);
  if (!project) return refuse(project.error());
  auto job = load_body(file, false);
  if (!job) return refuse(job.error());
  double tail = project->body.outline.tail;
  if (!choice.tail.empty()) {
    const auto v = parse_length(choice.tail);
    if (!v) return refuse(v.error());
    tail = *v;
  }
  PlanPlacement placement = usual_placement(*closed.front(), job->design.shape.setup.bridge_middle.x + tail);
  placement.mirror = choice.mirror;
  if (!choice.known.empty()) {
    const auto v = parse_length(choice.known);
    if (!v) return refuse(v.error());
    const Vec2 size = bounds(closed.front()->points).size();
    const auto scale = scale_from({0, 0}, {std::max(size.x, size.y), 0}, *v);
    if (!scale) return refuse(scale.error());
    placement.scale = *scale;
  }
  const Path path = placed(chosen.shape.path, placement);
  if (choice.cavity.empty()) {
    if (auto bad = check_outline(path); !bad.empty()) return refuse(bad.front());
    project->body.outline.drawn = path;
    project->body.outline.form = BodyForm::drawn;
  } else {
    const auto depth = parse_length(choice.depth);
    if (!depth) return refuse(depth.error());
    if (!(*depth > 0 && *depth < 200))
      return refuse({ProblemKind::range, "a cavity's depth is from 0 to 200 mm", "--depth", "Give its depth"});
    if (project->body.drawn.size() >= most_drawn_cavities)
      return refuse({ProblemKind::range, fmt::format("there are {} drawn cavities already", most_drawn_cavities), file,
                     "Take some out"});
    project->body.drawn.push_back({choice.cavity, path, choice.back, *depth});
  }
  if (auto saved = save_project(file, *project); !saved) return refuse(saved.error());
  fmt::print("{} taken over, scaled by {:.4f}\n", choice.cavity.empty() ? "outline" : "cavity '" + choice.cavity + "'",
             placement.scale);
  if (auto again = load_body(file, false); !again)
    std::cerr << "wren: saved, but no body follows from this: " << again.error().text() << "\n";
  return well;
}

int run_carve(const std::string& file, const std::string& from) {
  auto project = load_project(file);
  if (!project) return refuse(project.error());
  const auto sections = read_sections(from);
  if (!sections) return refuse(sections.error());
  project->body.comfort.lines.clear();
  for (const BackSection& s : *sections) project->body.comfort.lines.push_back({s.x, s.points});
  project->body.comfort.carve = CarveKind::drawn;
  if (auto saved = save_project(file, *project); !saved) return refuse(saved.error());
  fmt::print("{} sections of the face taken over\n", sections->size());
  return well;
}

/// The neck's own programs, or ones from files in their place: a name with "-front-" or "-back-" tells the side.
int prove_neck(const std::string& file, const std::vector<std::string>& programs, double cell, bool json) {
  auto job = load_neck(file, programs.empty());
  if (!job) return refuse(job.error());
  auto planned =
      programs.empty() ? neck_programs(job->project, job->design, job->cuts, today()) : std::vector<PlacedProgram>{};
  if (!programs.empty()) {
    Placement front;
    front.id = "front";
    front.setup = job->design.front;
    Placement back;
    back.id = "back";
    back.setup = job->design.back;
    job->cuts.sides = {front, back};
  }
  for (const auto& name : programs) {
    auto text = read_file(name, 512u << 20);
    if (!text) return refuse(text.error());
    const std::string plain = std::filesystem::path(name).filename().string();
    const bool of_front = plain.find("-front-") != std::string::npos;
    const bool of_back = plain.find("-back-") != std::string::npos;
    if (plain.find("-waste-board") != std::string::npos || plain.find("-cradle") != std::string::npos) continue;
    if (of_front == of_back)
      return refuse({ProblemKind::input, "the file's name does not say which side it cuts", plain,
                     "Name it with -front- or -back-"});
    PlacedProgram p;
    p.side = of_front ? "front" : "back";
    p.file.file = plain;
    p.file.text = std::move(*text);
    planned.push_back(std::move(p));
  }
  const auto result = prove_piece(neck_proof(job->project, job->design, job->cuts, planned, cell));
  if (!result) return refuse(result.error());
  return print_piece(*result, json);
}

int run_measure(const std::string& file, const std::string& edit, const std::string& with, const std::string& note,
                bool unused, bool inch) {
  auto project = load_project(file);
  if (!project) return refuse(project.error());
  const auto equal = edit.find('=');
  if (equal == std::string::npos || equal == 0)
    return refuse({ProblemKind::input, fmt::format("'{}' is not KEY=VALUE", edit), "",
                   "Write for example: neck.heel_width=55.43"});
  const std::string key = edit.substr(0, equal);
  if (find_field(*project, "measured." + key) == nullptr) {
    std::string all;
    for (const Field& f : fields())
      if (f.key.rfind("measured.", 0) == 0) all += (all.empty() ? "" : ", ") + f.key.substr(9);
    return refuse({ProblemKind::input, fmt::format("'{}' is not among the numbers that are measured", key), key,
                   "Choose one of " + all});
  }
  const std::size_t before = project->measured.size();
  auto next = with_edits(*project, {{"measured." + key, edit.substr(equal + 1)}},
                         inch ? UnitSystem::inch : UnitSystem::millimetre);
  if (!next) return refuse(next.error());
  if (next->measured.size() > before) {
    Measured& m = next->measured.back();
    m.date = today();
    m.instrument = with;
    m.note = note;
    m.in_use = !unused;
  }
  if (auto saved = save_project(file, *next); !saved) return refuse(saved.error());
  return well;
}

int run_sections(const std::string& file, const std::string& from, bool forget) {
  auto project = load_project(file);
  if (!project) return refuse(project.error());
  if (forget) {
    project->neck.back.sections.clear();
  } else {
    auto sections = read_sections(from);
    if (!sections) return refuse(sections.error());
    project->neck.back.sections = std::move(*sections);
    const auto board = make_fretboard(project->instrument);
    if (!board) return refuse(board.error());
    const auto neck = make_neck(*board, project->neck);
    if (!neck) return refuse(neck.error());
    double worst = 0;
    for (const auto& d : neck->departures) worst = std::max(worst, d.worst);
    const Lump lump = worst_lump(*neck);
    fmt::print("{} sections; the back leaves them by {:.3f} mm at most; worst lump {:.3f} mm at x {:.0f}\n",
               neck->departures.size(), worst, lump.height, lump.at.x);
  }
  if (auto saved = save_project(file, *project); !saved) return refuse(saved.error());
  return well;
}

int run_head(const std::string& file, const std::string& from) {
  auto project = load_project(file);
  if (!project) return refuse(project.error());
  auto outline = read_head_outline(from);
  if (!outline) return refuse(outline.error());
  project->neck.head.drawn = std::move(*outline);
  project->neck.head.shape = HeadShape::drawn;
  const auto board = make_fretboard(project->instrument);
  if (!board) return refuse(board.error());
  if (const auto neck = make_neck(*board, project->neck); !neck) return refuse(neck.error());
  if (auto saved = save_project(file, *project); !saved) return refuse(saved.error());
  return well;
}

/// Starts a program that stands beside this one; returns only where it cannot be started.
int become(const char* name, std::vector<std::string> arguments, const std::string& self) {
  std::error_code error;
  const auto here = std::filesystem::read_symlink("/proc/self/exe", error);
  const std::filesystem::path other = (error ? std::filesystem::path(self) : here).parent_path() / name;
  if (!std::filesystem::exists(other))
    return refuse(
        {ProblemKind::file, "a program that belongs to this one is missing", other.string(), "Install it beside wren"});
  ::setenv("QT_QPA_PLATFORM", "offscreen", 1);
  std::vector<char*> argv{const_cast<char*>(other.c_str())};
  for (auto& a : arguments) argv.push_back(a.data());
  argv.push_back(nullptr);
  ::execv(other.c_str(), argv.data());
  return refuse({ProblemKind::file, "a program that belongs to this one cannot be started", other.string(),
                 "Check the installation"});
}

struct RouterChoice {
  double cutter = 12.7;
  double follower = 12.7;
  std::string paper = "a4";
};

int export_body(const std::string& file, const std::string& out, const RouterChoice& router, const std::string& self) {
  const std::string ending = std::filesystem::path(out).extension().string();
  if (ending == ".pdf")
    return become("upland-wren",
                  {"--templates", out, "--part", "body", "--paper", router.paper, "--router",
                   std::to_string(router.cutter), "--follower", std::to_string(router.follower), file},
                  self);
  auto job = load_body(file, false);
  if (!job) return refuse(job.error());
  std::string bytes;
  if (ending == ".stl")
    bytes = stl_bytes(body_mesh(job->design.shape, 3), job->project.name + " body, mm");
  else if (ending == ".dxf")
    bytes = body_dxf(job->design.shape, {router.cutter, router.follower});
  else if (ending == ".svg")
    bytes = body_svg(job->design.shape, {router.cutter, router.follower});
  else
    return refuse({ProblemKind::unsupported, fmt::format("files that end in '{}' are not written for the body", ending),
                   out, "Choose .stl, .dxf, .svg or .pdf"});
  if (auto written = write_file_atomically(out, bytes); !written) return refuse(written.error());
  fmt::print("{}\n", out);
  return well;
}

int run_export(const std::string& file, const std::string& out, const std::string& what, const std::string& part,
               const RouterChoice& router, const std::string& self) {
  if (const auto bad = unknown_part(part)) return refuse(*bad);
  if (part == "body") return export_body(file, out, router, self);
  const std::string ending = std::filesystem::path(out).extension().string();
  if (ending == ".step" || ending == ".stp") return become("wren-step", {file, out}, self);
  if (ending == ".pdf") return become("upland-wren", {"--templates", out, file}, self);
  auto job = load_neck(file, false);
  if (!job) return refuse(job.error());
  const NeckShape& neck = job->design.shape;
  std::string bytes;
  if (ending == ".stl")
    bytes = stl_bytes(neck_mesh(neck, 1.5), job->project.name + " neck, mm");
  else if (ending == ".dxf")
    bytes = what == "plan" ? plan_dxf(neck) : sections_dxf(neck, usual_places(neck));
  else if (ending == ".csv")
    bytes = sections_csv(neck, usual_places(neck));
  else
    return refuse({ProblemKind::unsupported, fmt::format("files that end in '{}' are not written", ending), out,
                   "Choose .stl, .step, .dxf, .csv or .pdf"});
  if (auto written = write_file_atomically(out, bytes); !written) return refuse(written.error());
  fmt::print("{}\n", out);
  return well;
}

int print_proof(const ProofResult& result, bool json) {
  if (json) {
    Json programs = Json::array();
    for (const auto& f : result.programs)
      programs.push_back({{"name", f.name},
                          {"lines", f.lines},
                          {"moves", f.moves},
                          {"seconds", std::round(f.seconds * 10) / 10},
                          {"sealed", f.sealed},
                          {"cutters", f.cutters},
                          {"lowest_mm", f.low.z}});
    Json findings = Json::array();
    for (const auto& f : result.findings)
      findings.push_back({{"kind", f.kind},
                          {"weight", weight_name(f.weight)},
                          {"text", f.text},
                          {"program", f.program},
                          {"line", f.line},
                          {"at_mm", {f.at.x, f.at.y, f.at.z}},
                          {"number", f.number},
                          {"limit", f.limit}});
    Json slots = Json::array();
    for (const auto& s : result.slots)
      slots.push_back({{"name", s.name},
                       {"found", s.found},
                       {"place_error_mm", s.place_error},
                       {"width_mm", s.width},
                       {"depth_error_mm", s.depth_error},
                       {"covered", s.covered}});
    std::cout << Json{{"passed", result.passed()},
                      {"seconds", std::round(result.seconds * 10) / 10},
                      {"worst_gouge_mm", result.worst_gouge},
                      {"worst_left_mm", result.worst_left},
                      {"surface_left_mm", result.surface_left},
                      {"deepest_mm", result.deepest},
                      {"outline_through", result.outline_through},
                      {"tabs", result.tabs},
                      {"removed_cm3", result.removed_mm3 / 1000},
                      {"programs", programs},
                      {"findings", findings},
                      {"slots", slots}}
                     .dump(1, ' ', false, Json::error_handler_t::replace)
              << "\n";
  } else {
    for (const auto& f : result.programs)
      fmt::print("{}: {} lines, {:.1f} min, lowest z {:.3f}{}\n", f.name, f.lines, f.seconds / 60, f.low.z,
                 f.sealed ? ", checksum right" : "");
    for (const auto& f : result.findings)
      fmt::print("{}: {}{}\n", weight_name(f.weight), f.text,
                 f.line > 0 ? fmt::format(" ({}, line {})", f.program, f.line) : "");
    double place = 0;
    for (const auto& s : result.slots) place = std::max(place, s.place_error);
    fmt::print(
        "time {:.1f} min; largest gouge {:.3f} mm; largest left-over {:.3f} mm (crown {:.3f}); {} slots, worst place "
        "{:.4f} mm; {} tabs\n",
        result.seconds / 60, result.worst_gouge, result.worst_left, result.surface_left, result.slots.size(), place,
        result.tabs);
    fmt::print("{}\n",
               result.passed() ? "PROVED: these programs make this board" : "NOT PROVED: do not run these programs");
  }
  return result.passed() ? well : must_stop;
}

int run_programs(const std::string& file, const std::string& folder, const std::string& part, bool force) {
  if (const auto bad = unknown_part(part)) return refuse(*bad);
  if (part == "neck") return write_neck_programs(file, folder, force);
  if (part == "body") return write_body_programs(file, folder, force);
  auto job = load_job(file, true);
  if (!job) return refuse(job.error());
  if (told_stops(all_remarks(job->design, job->cuts), file, "fretboard", force)) return must_stop;
  const std::string date = today();
  const auto files = board_programs(job->project, job->design, job->cuts, date);
  if (auto written = write_folder(folder, files, board_manifest(job->project, job->design, files, date)); !written)
    return refuse(written.error());
  for (const ProgramFile& f : files)
    fmt::print("{}  {:.1f} min  {}\n", (std::filesystem::path(folder) / f.file).string(), f.seconds / 60,
               f.cutters.empty() ? "" : f.cutters.front());
  note_programs(file, job->project, "programs", date, folder);
  return well;
}

int run_prove(const std::string& file, const std::vector<std::string>& programs, const std::string& cutter, double cell,
              bool json) {
  auto job = load_job(file, programs.empty());
  if (!job) return refuse(job.error());
  std::vector<ProgramText> texts;
  if (programs.empty()) {
    texts = program_texts(board_programs(job->project, job->design, job->cuts, today()));
  } else {
    for (const auto& name : programs) {
      auto text = read_file(name, 512u << 20);
      if (!text) return refuse(text.error());
      texts.push_back({std::filesystem::path(name).filename().string(), std::move(*text), cutter});
    }
  }
  if (!cutter.empty() && find_cutter(job->design.rack, cutter) == nullptr)
    return refuse(missing_cutter(job->design.rack, cutter, "--cutter"));
  const auto result = prove(proof_request(job->project, job->design, std::move(texts), cell));
  if (!result) return refuse(result.error());
  return print_proof(*result, json);
}

int run_crown(const std::string& file, bool json) {
  auto job = load_job(file, false);
  if (!job) return refuse(job.error());
  const auto table = crown_table(job->project, job->design);
  Json list = Json::array();
  if (!json) fmt::print("cutter           rows    stepover    min   left over  asks for\n");
  for (const CrownChoice& c : table) {
    const char* way = c.direction == Direction::along ? "along" : "across";
    if (json)
      list.push_back({{"cutter", c.cutter},
                      {"direction", way},
                      {"stepover_mm", c.stepover},
                      {"minutes", c.minutes},
                      {"left_over_mm", c.left_over},
                      {"cost", c.cost},
                      {"clear_of_clamps", c.reaches}});
    else
      fmt::print("{:<16} {:<7} {:7.3f} {:8.1f} {:10.4f}   {}\n", c.cutter, way, c.stepover, c.minutes, c.left_over,
                 c.cost);
  }
  if (json) std::cout << list.dump(1, ' ', false, Json::error_handler_t::replace) << "\n";
  return well;
}

int run_frets(const std::string& file, bool csv) {
  auto job = load_job(file, false);
  if (!job) return refuse(job.error());
  std::cout << (csv ? fret_table_csv(job->design.board) : fret_table_text(job->design.board));
  return well;
}

/// The sheet is drawn by the window program, so that paper and screen agree; it needs no display for that.
int run_sheet(const std::string& file, const std::string& out, const std::string& part, const std::string& self) {
  if (const auto bad = unknown_part(part)) return refuse(*bad);
  if (part == "body") {
    if (auto job = load_body(file, false); !job) return refuse(job.error());
  } else if (part == "neck") {
    if (auto job = load_neck(file, false); !job) return refuse(job.error());
  } else if (auto job = load_job(file, false); !job) {
    return refuse(job.error());
  }
  return become("upland-wren", {"--sheet", out, "--part", part, file}, self);
}

}  // namespace

int main(int argc, char** argv) {
  CLI::App app{"wren: fretboards, necks and bodies from their numbers to proved programs, without the window"};
  app.require_subcommand(1);
  app.footer(
      "Exit codes: 0 well; 1 something stops the work; 2 the call is wrong; 3 a file or value cannot be used.\nErrors "
      "go to standard error. Lengths are mm unless they carry a unit.");
  std::string file;
  std::string from = "reedling";
  std::string out;
  std::string part = "fretboard";
  std::string cutter;
  std::string against;
  std::vector<std::string> keys;
  std::vector<std::string> programs;
  bool json = false;
  bool csv = false;
  bool force = false;
  bool inch = false;
  double cell = 0.1;

  auto* make = app.add_subcommand("new", "Make a project file");
  make->add_option("FILE", file, "Project to make (.wren)")->required();
  make->add_option("--from", from, "Starting point: reedling, sedge, bass or plain");
  make->add_flag("--force", force, "Replace an existing file");
  auto* get = app.add_subcommand("get", "Show numbers of the ledger");
  get->add_option("FILE", file, "Project")->required();
  get->add_option("KEY", keys, "Keys to show; all when none is given");
  get->add_flag("--json", json, "Value, unit, origin and reason of each key as JSON");
  auto* set =
      app.add_subcommand("set", "Change numbers: KEY=VALUE, the value as in a field of the window (\"25 1/2 in\")");
  set->add_option("FILE", file, "Project")->required();
  set->add_option("KEY=VALUE", keys, "Changes; all are made or none")->required();
  set->add_flag("--inch", inch, "Numbers without a unit are inches");
  auto* remarks = app.add_subcommand("remarks", "Show what stops the work and what to think about again");
  remarks->add_option("FILE", file, "Project")->required();
  remarks->add_flag("--json", json, "As JSON");
  auto* write = app.add_subcommand("programs", "Write the programs and their manifest into a folder");
  write->add_option("FILE", file, "Project")->required();
  write->add_option("--out", out, "Folder")->required();
  write->add_option("--part", part, "Part: fretboard, neck or body");
  write->add_flag("--force", force, "Write even where a remark stops the work");
  auto* prove_command =
      app.add_subcommand("prove", "Cut the programs into virtual wood and hold the result against the design");
  auto* prove_file = prove_command->add_option("FILE", file, "Project whose own programs are proved");
  auto* prove_against = prove_command->add_option(
      "--against", against, "Project whose blank and design the given programs are proved against");
  prove_command->add_option("PROGRAM", programs, "Programs from anywhere, with --against, in running order");
  prove_command->add_option("--cutter", cutter, "Rack identity to use for programs that name no tool of the rack");
  prove_command->add_option("--cell", cell, "Grid of the virtual wood in mm")->check(CLI::Range(0.02, 2.0));
  prove_command->add_flag("--json", json, "As JSON");
  auto* sheet = app.add_subcommand("sheet", "Write the run sheet");
  sheet->add_option("FILE", file, "Project")->required();
  sheet->add_option("--out", out, "PDF to write")->required();
  auto* frets = app.add_subcommand("frets", "Show the fret job list");
  frets->add_option("FILE", file, "Project")->required();
  frets->add_flag("--csv", csv, "As CSV");
  auto* crown = app.add_subcommand("crown", "Compare cutters for the crown: minutes and what they leave");
  crown->add_option("FILE", file, "Project")->required();
  crown->add_flag("--json", json, "As JSON");

  std::string with = "calipers";
  std::string note;
  std::string source;
  std::string what = "sections";
  bool unused = false;
  bool forget = false;
  remarks->add_option("--part", part, "Part: fretboard, neck or body");
  prove_command->add_option("--part", part, "Part: fretboard, neck or body");
  sheet->add_option("--part", part, "Part: fretboard, neck or body");
  auto* measure = app.add_subcommand("measure", "Enter a measured number beside the designed one");
  measure->add_option("FILE", file, "Project")->required();
  measure->add_option("KEY=VALUE", source, "Ledger key and what it measures")->required();
  measure->add_option("--with", with, "Instrument used");
  measure->add_option("--note", note, "Note");
  measure->add_flag("--unused", unused, "Keep it in the record, but go on with the designed number");
  measure->add_flag("--inch", inch, "Plain numbers are inches");
  auto* sections = app.add_subcommand("sections", "Load sections measured on a neck (CSV or DXF)");
  sections->add_option("FILE", file, "Project")->required();
  sections->add_option("FROM", source, "CSV with x, y, depth; or DXF with one polyline on a layer X<place> for each");
  sections->add_flag("--forget", forget, "Go back to the families of shapes");
  auto* head =
      app.add_subcommand("head", "Load the head's outline (DXF or SVG), nut line at x = 0, head at negative x");
  head->add_option("FILE", file, "Project")->required();
  head->add_option("FROM", source, "Drawing")->required();
  auto* exporter = app.add_subcommand(
      "export",
      "Write the neck as .stl, .step, .dxf, .csv or template .pdf, the body as .stl, .dxf, .svg or template .pdf");
  exporter->add_option("FILE", file, "Project")->required();
  exporter->add_option("--out", out, "File to write; its ending tells the format")->required();
  std::string exported = "neck";
  RouterChoice router;
  exporter->add_option("--part", exported, "neck or body");
  exporter->add_option("--router", router.cutter, "Templates: cutter of the hand router, mm");
  exporter->add_option("--follower", router.follower, "Templates: bearing or bush, mm");
  exporter->add_option("--paper", router.paper, "Templates: a4, a3 or letter")
      ->check(CLI::IsMember({"a4", "a3", "letter"}));
  PlanChoice choice;
  bool take = false;
  auto* plan = app.add_subcommand(
      "plan", "List a plan's curves (DXF, SVG, PDF), cleaned; or take one over as the body's outline or a cavity");
  plan->add_option("FILE", file, "Project")->required();
  plan->add_option("FROM", source, "Plan")->required();
  plan->add_flag("--take", take, "Take the curve over");
  plan->add_option("--pick", choice.pick, "Which of the closed curves, the largest first");
  plan->add_option("--page", choice.page, "Page of a PDF");
  plan->add_option("--known-length", choice.known, "Length of the largest curve's longer side");
  plan->add_option("--tail", choice.tail, "Tail behind the scale line");
  plan->add_flag("--mirror", choice.mirror, "The plan is drawn from behind");
  plan->add_option("--cavity", choice.cavity, "Take it over as a cavity of this name");
  plan->add_option("--depth", choice.depth, "Depth of the cavity");
  plan->add_flag("--back", choice.back, "The cavity is cut from the back");
  plan->add_flag("--json", json, "As JSON");
  auto* carve = app.add_subcommand(
      "carve", "Load sections of the body's face (CSV or DXF: place along, across, depth under the face)");
  carve->add_option("FILE", file, "Project")->required();
  carve->add_option("FROM", source, "Sections")->required();
  exporter->add_option("--what", what, "For DXF: sections or plan")->check(CLI::IsMember({"sections", "plan"}));

  try {
    app.parse(argc, argv);
  } catch (const CLI::CallForHelp& e) {
    return app.exit(e);
  } catch (const CLI::CallForAllHelp& e) {
    return app.exit(e);
  } catch (const CLI::ParseError& e) {
    app.exit(e, std::cout, std::cerr);
    return bad_call;
  }
  if (*make) return run_new(file, from, force);
  if (*get) return run_get(file, keys, json);
  if (*set) return run_set(file, keys, inch);
  if (*remarks) return run_remarks(file, part, json);
  if (*measure) return run_measure(file, source, with, note, unused, inch);
  if (*sections) {
    if (!forget && source.empty())
      return refuse(
          {ProblemKind::input, "no file with sections was named", "sections", "Write: wren sections FILE FROM"});
    return run_sections(file, source, forget);
  }
  if (*head) return run_head(file, source);
  if (*exporter) return run_export(file, out, what, exported, router, argv[0]);
  if (*plan) return run_plan(file, source, choice, take, json);
  if (*carve) return run_carve(file, source);
  if (*write) return run_programs(file, out, part, force);
  if (*prove_command) {
    if (const auto bad = unknown_part(part)) return refuse(*bad);
    if (part == "body") {
      if (*prove_against && *prove_file) programs.insert(programs.begin(), file);
      return prove_the_body(*prove_against ? against : file, programs, cell, json);
    }
    if (part == "neck") {
      if (*prove_against && *prove_file) programs.insert(programs.begin(), file);
      if (*prove_against) return prove_neck(against, programs, cell, json);
      return prove_neck(file, programs, cell, json);
    }
    if (*prove_against) {
      // With --against every plain argument is a program.
      if (*prove_file) programs.insert(programs.begin(), file);
      if (programs.empty())
        return refuse(
            {ProblemKind::input, "no program was named", "prove", "Write: wren prove --against FILE PROGRAM…"});
      return run_prove(against, programs, cutter, cell, json);
    }
    if (file.empty()) return refuse({ProblemKind::input, "no project was named", "prove", "Write: wren prove FILE"});
    if (!programs.empty())
      return refuse({ProblemKind::input, "programs are named, but not what to prove them against", "prove",
                     "Write: wren prove --against FILE PROGRAM…"});
    return run_prove(file, {}, cutter, cell, json);
  }
  if (*sheet) return run_sheet(file, out, part, argv[0]);
  if (*frets) return run_frets(file, csv);
  if (*crown) return run_crown(file, json);
  return bad_call;
}

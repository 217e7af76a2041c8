// prove: programs cut into virtual wood and held against the design.
#include "cli/command.hpp"

#include <algorithm>
#include <charconv>

#include "cli/proof_told.hpp"
#include "core/job/hand_words.hpp"
#include "core/job/program_folder.hpp"

namespace wren::cli {
namespace {

constexpr std::size_t largest_program = 512U << 20;

struct ProveCall {
  std::string file;
  std::string folder;
  std::vector<std::string> programs;
  std::string part = first_part();
  std::string cutter;
  double cell = 0;
  bool json = false;
};

/// One of our own, whatever it is called now, tells the hand what the project says.
void hold_words(PlacedProgram& p, const Planned& planned, std::vector<Finding>& findings) {
  const auto read = read_for_words(p.file.text.str(), p.file.file);
  if (!read) return;  // the proof says why
  if (p.file.cuts.empty()) p.file.cuts = told_cuts(*read);
  if (p.file.cuts.empty()) return;  // somebody else's
  for (const Piece& piece : planned.made.pieces)
    for (const Side& side : piece.sides)
      if (piece.id == p.piece && side.id == p.side)
        hold_hand_words(p.file.file, p.file.cuts, *read, side, planned, findings);
}

/// Programs named one by one: those of a planned name stand in for the planned one; else the name tells the side.
Expected<std::vector<PlacedProgram>> from_files(const std::vector<std::string>& files, const Planned& planned,
                                                std::vector<PlacedProgram> own, std::vector<Finding>& findings) {
  std::vector<PlacedProgram> given;
  bool replaces = false;
  for (const std::string& name : files) {
    auto text = read_text(name, largest_program);
    if (!text) return tl::unexpected(text.error());
    const std::string plain = std::filesystem::path(name).filename().string();
    const auto mine =
        std::find_if(own.begin(), own.end(), [&](const PlacedProgram& p) { return p.file.file == plain; });
    if (mine != own.end()) {
      mine->file.text = std::move(*text);
      hold_words(*mine, planned, findings);
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
    hold_words(p, planned, findings);
    given.push_back(std::move(p));
  }
  if (replaces && given.size() < own.size() && planned.made.pieces.size() > 1) return own;
  hold_running_order(given, planned, findings);
  return given;
}

int prove(ProveCall call) {
  auto job = load_designed(call.file, call.part);
  if (!job) return refuse(job.error());
  auto planned = plan_of(**job);
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
    programs = from_files(call.programs, *planned, std::move(*programs), of_the_set);
  }
  if (!programs) return refuse(programs.error());
  if (!call.cutter.empty())
    for (PlacedProgram& p : *programs) p.cutter = call.cutter;
  auto proof = [&] {
    Meter meter("proving");
    return prove_part(*planned, *programs, call.cell, meter.progress());
  }();
  if (!proof) return refuse(proof.error());
  std::move(of_the_set.begin(), of_the_set.end(), std::back_inserter(proof->findings));
  if (call.json)
    print("proof-report", proof_json(*proof));
  else
    tell(*proof, call.part);
  return proof->passed() ? well : must_stop;
}

}  // namespace

Command add_prove(CLI::App& app) {
  auto call = std::make_shared<ProveCall>();
  auto* parser =
      app.add_subcommand("prove", "Cut the programs into virtual wood and hold the result against the design");
  add_project(parser, call->file, "Project: its blank and design are what is proved against; - for standard input");
  parser
      ->add_option("PROGRAM", call->programs,
                   "Programs from anywhere, in running order (- for standard input); without them the project's own")
      ->type_name("FILE");
  parser
      ->add_option("--folder", call->folder,
                   "Prove the programs of a folder, as its manifest names them: a part's own, or the one above")
      ->type_name("FOLDER");
  add_part(parser, call->part);
  parser->add_option("--cutter", call->cutter, "Rack identity to use for programs that name no tool of the rack")
      ->type_name("CUTTER");
  parser->add_option("--cell", call->cell, "Grid of the virtual wood in mm; without it each piece's own")
      ->type_name("MM")
      ->check([](const std::string& text) {
        // Also refuses what is no number: "nan" is neither above nor below.
        double cell = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), cell);
        return error == std::errc() && end == text.data() + text.size() && cell >= 0.02 && cell <= 2.0
                   ? std::string()
                   : "not a number from 0.02 to 2.0";
      });
  add_json(parser, call->json);
  return {parser, [call] { return prove(*call); }};
}

}  // namespace wren::cli

// programs: proved, then written.
#include "cli/command.hpp"

#include "cli/proof_told.hpp"
#include "core/job/certificate.hpp"
#include "core/job/program_folder.hpp"

namespace wren::cli {
namespace {

struct WriteCall {
  std::string file, out;
  std::string part = first_part();
  bool force = false;
  bool unproved = false;
  bool note = false;
};

int write(const WriteCall& call) {
  const auto& [file, folder, part, force, unproved, noted] = call;
  if (noted && is_stream(file))
    return wrong_call({ProblemKind::input, "a project that is read from a stream keeps no note", "--note",
                       "Name the project's file, or leave --note out"});
  auto job = load_designed(file, part);
  if (!job) return refuse(job.error());
  const auto planned = plan_of(**job);
  if (!planned) return refuse(planned.error());
  if (planned->made.pieces.empty()) return refuse(no_such_part(part));
  const auto remarks = remarks_of(*(*job)->kind, (*job)->followed, &*planned);
  if (stops_work(remarks)) {
    for (const Remark& r : remarks)
      if (r.weight == Weight::stop) std::cerr << "stop: " << r.sentence.in(audience()) << "\n";
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
    const auto proof = [&] {
      Meter meter("proving");
      return prove_part(*planned, programs, 0, meter.progress());
    }();
    if (!proof) return refuse(proof.error());
    if (!proof->passed()) {
      tell(*proof, part);
      std::cerr << "wren: no program was written; --unproved writes them all the same, and they say so\n";
      return must_stop;
    }
    certificate = certificate_of((*job)->project(), *planned, programs, *proof, date);
  }
  const std::string manifest = manifest_of((*job)->project(), *planned, programs, date);
  const auto written = write_folder(folder, part, programs, manifest, certificate, holder("programs"));
  if (!written) return refuse(written.error());
  for (const PlacedProgram& p : programs)
    say(fmt::format("{}  {}  {:.1f} min  {}", (written->folder / p.file.file).string(), p.side, p.file.seconds / 60,
                    p.file.cutters.empty() ? "" : p.file.cutters.front()));
  if (!written->old.empty())
    note(fmt::format("the set before is in {}: {}", (written->folder / "old").string(), fmt::join(written->old, ", ")));
  if (!written->carried.empty())
    note(fmt::format("still in {}, listed by no manifest: {}", written->folder.string(),
                     fmt::join(written->carried, ", ")));
  if (!noted) return well;
  // As the window does: where they lie is a fact of the project, and 'wren run --step' finds them.
  return change_project(file, "programs", [&there = folder](Project& project) -> std::optional<Problem> {
    project.record.folder = std::filesystem::absolute(there).lexically_normal().string();
    return {};
  });
}

}  // namespace

Command add_programs(CLI::App& app) {
  auto call = std::make_shared<WriteCall>();
  auto* parser =
      app.add_subcommand("programs", "Prove a part's programs and write them, with manifest and certificate");
  add_project(parser, call->file);
  parser->add_option("--out", call->out, "Folder; each part has a subfolder of its own in it")
      ->required()
      ->type_name("FOLDER");
  add_part(parser, call->part);
  parser->add_flag("--force", call->force, "Write even where a remark stops the work; never past the proof");
  parser->add_flag("--unproved", call->unproved, "Write without a proof; every program says so in its first lines");
  parser->add_flag("--note", call->note, "Note in the project where they lie, for 'wren run --step' and the window");
  return {parser, [call] { return write(*call); }};
}

}  // namespace wren::cli

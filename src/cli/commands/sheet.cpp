// sheet: the run sheet as PDF.
#include "cli/command.hpp"

namespace wren::cli {
namespace {

struct SheetCall {
  std::string file, out;
  std::string part = first_part();
  std::string paper = "a4";
  bool inch = false;
};

/// Drawn by the window program, so that paper and screen agree; it needs no display for that.
int run_sheet(const SheetCall& call) {
  const auto source = Source::of(call.file);
  if (!source) return refuse(source.error());
  if (auto job = load_designed(source->path(), call.part); !job) return refuse(job.error());
  const auto target = Target::of(call.out, ".pdf");
  if (!target) return refuse(target.error());
  std::vector<std::string> asked{"--sheet", target->path(), "--part", call.part, "--paper", call.paper, source->path()};
  if (call.inch) asked.emplace_back("--inch");
  if (const int code = run_beside("upland-wren", asked); code != well) return code;
  if (!is_stream(call.out)) say(call.out);
  return target->give();
}

}  // namespace

Command add_sheet(CLI::App& app) {
  auto call = std::make_shared<SheetCall>();
  auto* parser = app.add_subcommand("sheet", "Write the run sheet");
  add_project(parser, call->file);
  parser->add_option("--out", call->out, "PDF to write; - for standard output")->required()->type_name("FILE");
  add_part(parser, call->part);
  one_of(parser->add_option("--paper", call->paper, "Paper"), {"a4", "a3", "letter"});
  parser->add_flag("--inch", call->inch, "Lengths in inches");
  return {parser, [call] { return run_sheet(*call); }};
}

}  // namespace wren::cli

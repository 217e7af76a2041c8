// export: solids, drawings, tables and templates.
#include "cli/command.hpp"

#include "exchange/exports.hpp"

namespace wren::cli {
namespace {

struct ExportCall {
  std::string file, out;
  std::string part;
  std::string format;
  std::string what;
  std::string paper = "a4";
  RouterOffset router;
  bool inch = false;
};

int run_export(ExportCall call) {
  const std::string ending =
      call.format.empty() ? std::filesystem::path(call.out).extension().string() : "." + call.format;
  if (is_stream(call.out) && call.format.empty())
    return wrong_call({ProblemKind::input, "standard output has no ending that tells the format", "--out -",
                       "Say it, for example: --format stl"});
  if (call.part.empty()) call.part = usual_export_part(ending);
  if (const auto bad = check_router(call.router)) return refuse(*bad);
  // The programs beside this one read the project's file themselves.
  const auto source = Source::of(call.file);
  if (!source) return refuse(source.error());
  const auto target = Target::of(call.out, ending);
  if (!target) return refuse(target.error());
  auto job = load_designed(source->path(), call.part);
  if (!job) return refuse(job.error());
  const ExportFormat* format = find_export(call.part, ending, call.what);
  if (format == nullptr)
    return refuse({ProblemKind::unsupported,
                   fmt::format("files that end in '{}' are not written for the part '{}'", ending, call.part), call.out,
                   "Choose one of " + export_endings(call.part)});
  if (format->write == nullptr) {
    std::vector<std::string> words =
        format->program == "upland-wren"
            ? std::vector<std::string>{"--templates", target->path(),
                                       "--part",      call.part,
                                       "--paper",     call.paper,
                                       "--router",    fmt::format("{}", call.router.cutter),
                                       "--follower",  fmt::format("{}", call.router.follower),
                                       source->path()}
            : std::vector<std::string>{source->path(), target->path()};
    if (call.inch && format->program == "upland-wren") words.emplace_back("--inch");
    if (const int code = run_beside(format->program, words); code != well) return code;
  } else {
    const auto bytes = format->write(*(*job)->kind, (*job)->followed, (*job)->cache, {call.what, call.router});
    if (!bytes) return refuse(bytes.error());
    if (auto written = write_export(target->path(), *bytes); !written) return refuse(written.error());
  }
  if (!is_stream(call.out)) say(call.out);
  return target->give();
}

}  // namespace

Command add_export(CLI::App& app) {
  auto call = std::make_shared<ExportCall>();
  auto* parser = app.add_subcommand(
      "export", "Write a part's solid as .stl or .step, its drawings as .dxf, .svg or .csv, its templates as .pdf");
  add_project(parser, call->file);
  parser->add_option("--out", call->out, "File to write; its ending tells the format; - for standard output")
      ->required()
      ->type_name("FILE");
  one_of(parser->add_option("--format", call->format, "Format, where the file's name does not tell it"),
         {"stl", "step", "dxf", "svg", "csv", "pdf"});
  add_part(parser, call->part);
  one_of(parser->add_option("--what", call->what, "For DXF: what of it"), {"sections", "plan"});
  parser->add_option("--router", call->router.cutter, "Templates: cutter of the hand router, mm")->type_name("MM");
  parser->add_option("--follower", call->router.follower, "Templates: bearing or bush, mm")->type_name("MM");
  one_of(parser->add_option("--paper", call->paper, "Templates: paper"), {"a4", "a3", "letter"});
  parser->add_flag("--inch", call->inch, "Templates: words and bar for who measures in inches");
  return {parser, [call] { return run_export(*call); }};
}

}  // namespace wren::cli

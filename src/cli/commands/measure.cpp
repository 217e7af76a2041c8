// measure: a measured number beside the designed one.
#include "cli/command.hpp"

namespace wren::cli {
namespace {

struct MeasureCall {
  std::string file, edit, note;
  std::string with = "calipers";
  bool unused = false;
  bool inch = false;
};

std::optional<Problem> measure(const MeasureCall& call, Project& project) {
  const auto edit = edit_from(call.edit, "neck.heel_width=55.43");
  if (!edit) return edit.error();
  const std::string key = "measured." + edit->first;
  if (!all_parts().book().find(project, key)) {
    std::string all;
    all_parts().book().each([&](const Field& f) {
      if (f.key.starts_with("measured.")) all += (all.empty() ? "" : ", ") + f.key.substr(9);
    });
    return Problem{ProblemKind::input, fmt::format("'{}' is not among the numbers that are measured", edit->first),
                   edit->first, "Choose one of " + all};
  }
  const std::size_t before = project.record.measured.size();
  auto next = with_edits(project, {{key, edit->second}}, call.inch ? UnitSystem::inch : UnitSystem::millimetre);
  if (!next) return next.error();
  project = std::move(*next);
  for (std::size_t i = before; i < project.record.measured.size(); ++i) {
    Measured& m = project.record.measured[i];
    m.date = today();
    if (m.instrument == "calipers") m.instrument = call.with;
    m.note = call.note;
    m.in_use = !call.unused;
  }
  return {};
}

}  // namespace

Command add_measure(CLI::App& app) {
  auto call = std::make_shared<MeasureCall>();
  auto* parser = app.add_subcommand("measure", "Enter a measured number beside the designed one");
  add_project(parser, call->file);
  parser->add_option("KEY=VALUE", call->edit, "Ledger key and what it measures")->required()->type_name("KEY=VALUE");
  parser->add_option("--with", call->with, "Instrument used")->type_name("NAME");
  parser->add_option("--note", call->note, "Note")->type_name("TEXT");
  parser->add_flag("--unused", call->unused, "Keep it in the record, but go on with the designed number");
  parser->add_flag("--inch", call->inch, "Plain numbers are inches");
  return {parser, [call] {
            return change_project(call->file, "measure", [&](Project& project) { return measure(*call, project); });
          }};
}

}  // namespace wren::cli

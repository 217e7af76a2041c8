// done: a cut was made, or a hand's step was done; what waited for it is free.
#include "cli/command.hpp"
#include "core/job/overview.hpp"

namespace wren::cli {
namespace {

struct DoneCall {
  std::string file, line;
  bool not_done = false;
  bool anyway = false;
};

/// The sheet with the cuts of one part planned, so that each of them has its line.
Expected<std::vector<BuildLine>> sheet_of(Job& job, bool with_cuts) {
  std::vector<const Planned*> planned;
  std::optional<Planned> one;
  if (with_cuts) {
    auto made = plan_of(job);
    if (!made) return tl::unexpected(made.error());
    one = std::move(*made);
    planned.push_back(&*one);
  }
  return build_sheet(all_parts(), job.followed, job.cache, planned);
}

std::optional<Problem> done(const DoneCall& call, Project& project) {
  const std::string part = part_of_line(call.line);
  if (all_parts().find(part) == nullptr)
    return Problem{ProblemKind::input, fmt::format("'{}' is no step", call.line), "",
                   "Name one that 'wren steps' lists, such as body.hand.neck-on"};
  auto job = designed(project, part);
  if (!job) return job.error();
  const auto sheet = sheet_of(**job, call.line.find(".cut.") != std::string::npos);
  if (!sheet) return sheet.error();
  const auto it = std::find_if(sheet->begin(), sheet->end(), [&](const BuildLine& l) { return l.id == call.line; });
  if (it == sheet->end() || (it->side.empty() && !it->by_hand)) {
    std::string all;
    for (const BuildLine& l : *sheet)
      if (part_of_line(l.id) == part && (l.by_hand || !l.side.empty())) all += (all.empty() ? "" : ", ") + l.id;
    return Problem{ProblemKind::input, fmt::format("'{}' is no step of this instrument", call.line), "",
                   all.empty() ? "Name one that 'wren steps' lists" : "Name one of " + all};
  }
  if (call.not_done) {
    take_fact_back(project.record, call.line, (*job)->followed.fingerprints.at(part));
    return {};
  }
  if (!it->held_up_by.empty() && !call.anyway)
    return Problem{ProblemKind::input, fmt::format("'{}' comes after {}", it->title, it->held_up_by), call.line,
                   "Say that that is done first, or add --anyway"};
  note_fact(all_parts(), project, call.line, today());
  return {};
}

}  // namespace

Command add_done(CLI::App& app) {
  auto call = std::make_shared<DoneCall>();
  auto* parser = app.add_subcommand("done", "Say that a cut was made, or a step of hand work done");
  add_project(parser, call->file);
  parser->add_option("STEP", call->line, "As 'wren steps' lists it")->required()->type_name("STEP");
  parser->add_flag("--not", call->not_done, "It was not done after all");
  parser->add_flag("--anyway", call->anyway, "Though something comes before it");
  return {parser, [call] {
            return change_project(call->file, "done", [&](Project& project) { return done(*call, project); });
          }};
}

Command add_steps(CLI::App& app) {
  struct Call {
    std::string file;
    bool json = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser =
      app.add_subcommand("steps", "The hand work of putting it together, in the order of the schools chosen");
  add_project(parser, call->file);
  add_json(parser, call->json);
  return {parser, [call] {
            auto job = load_job(call->file, first_part());
            if (!job) return refuse(job.error());
            const auto sheet = build_sheet(all_parts(), (*job)->followed, (*job)->cache, {});
            Json out = Json::array();
            std::string text;
            for (const BuildLine& l : sheet) {
              if (!l.by_hand) continue;
              const bool is_done = l.state == LineState::cut;
              out.push_back(
                  {{"step", l.id}, {"title", l.title}, {"done", is_done}, {"after", l.held_up_by}, {"note", l.note}});
              text += fmt::format("{:6} {:28} {}{}\n",
                                  is_done                ? "done"
                                  : l.held_up_by.empty() ? "open"
                                                         : "waits",
                                  l.id, l.title, l.note.empty() ? "" : " (" + l.note + ")");
            }
            if (call->json)
              print("steps", {{"steps", out}});
            else
              fmt::print("{}", text);
            return static_cast<int>(well);
          }};
}

}  // namespace wren::cli

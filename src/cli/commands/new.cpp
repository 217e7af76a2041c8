// new: a project file from a starting point.
#include "cli/command.hpp"

namespace wren::cli {
Command add_new(CLI::App& app) {
  struct Call {
    std::string file;
    std::string from = "reedling";
    std::string like;
    bool force = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("new", "Make a project file");
  add_project(parser, call->file, "Project to make (.wren); - for standard output");
  one_of(parser->add_option("--from", call->from, "Starting point"), starting_points());
  parser
      ->add_option("--like", call->like,
                   "Another project: its numbers, cutters and materials, nothing of what was made or measured")
      ->excludes("--from");
  parser->add_flag("--force", call->force, "Replace an existing file");
  return {parser, [call] {
            auto project = call->like.empty() ? project_from(call->from) : load_project(call->like);
            if (!project) return refuse(project.error());
            if (!call->like.empty()) {
              *project = without_facts(std::move(*project));
              project->name = is_stream(call->file) ? project->name : std::filesystem::path(call->file).stem().string();
            }
            if (is_stream(call->file)) {
              std::cout << project_to_json(*project);
              return static_cast<int>(well);
            }
            const auto lock = FileLock::take(call->file, holder("new"), writers_wait);
            if (!lock) return refuse(lock.error());
            if (!call->force && std::filesystem::exists(call->file))
              return refuse(
                  {ProblemKind::file, "the file exists already", call->file, "Choose another name, or say --force"});
            if (call->from == "plain") project->name = std::filesystem::path(call->file).stem().string();
            give_id(*project, new_digits(std::filesystem::absolute(call->file).string()));
            if (auto saved = save_project(call->file, *project); !saved) return refuse(saved.error());
            say(fmt::format("{} made from {}", call->file, call->like.empty() ? call->from : call->like));
            return static_cast<int>(well);
          }};
}

}  // namespace wren::cli

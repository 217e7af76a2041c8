// new: a project file from a starting point.
#include "cli/command.hpp"

namespace wren::cli {
Command add_new(CLI::App& app) {
  struct Call {
    std::string file;
    std::string from = "reedling";
    bool force = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("new", "Make a project file");
  add_project(parser, call->file, "Project to make (.wren); - for standard output");
  one_of(parser->add_option("--from", call->from, "Starting point"), starting_points());
  parser->add_flag("--force", call->force, "Replace an existing file");
  return {parser, [call] {
            auto project = project_from(call->from);
            if (!project) return refuse(project.error());
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
            if (auto saved = save_project(call->file, *project); !saved) return refuse(saved.error());
            say(fmt::format("{} made from {}", call->file, call->from));
            return static_cast<int>(well);
          }};
}

}  // namespace wren::cli

// set: numbers changed.
#include "cli/command.hpp"

namespace wren::cli {
Command add_set(CLI::App& app) {
  struct Call {
    std::string file;
    std::vector<std::string> edits;
    bool inch = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser =
      app.add_subcommand("set", "Change numbers: KEY=VALUE, the value as in a field of the window (\"25 1/2 in\")");
  add_project(parser, call->file);
  parser->add_option("KEY=VALUE", call->edits, "Changes; all are made or none")->required()->type_name("KEY=VALUE");
  parser->add_flag("--inch", call->inch, "Numbers without a unit are inches");
  return {parser, [call] {
            return change_project(call->file, "set", [&](Project& project) -> std::optional<Problem> {
              std::vector<std::pair<std::string, std::string>> pairs;
              for (const auto& text : call->edits) {
                auto edit = edit_from(text, "strings.scale_bass=\"25 1/2 in\"");
                if (!edit) return edit.error();
                pairs.push_back(std::move(*edit));
              }
              auto next = with_edits(project, pairs, call->inch ? UnitSystem::inch : UnitSystem::millimetre);
              if (!next) return next.error();
              project = std::move(*next);
              return {};
            });
          }};
}

}  // namespace wren::cli

// carve: a body's face from sections.
#include "cli/command.hpp"

#include "core/parts/body/part.hpp"
#include "exchange/drawing_in.hpp"

namespace wren::cli {
namespace {

int run_carve(const std::string& file, const std::string& from) {
  return change_project(file, "carve", [&](Project& project) -> std::optional<Problem> {
    const auto source = Source::of(from);
    if (!source) return source.error();
    const auto sections = read_sections(source->path());
    if (!sections) return sections.error();
    ComfortNumbers& comfort = body_of(project).body.comfort;
    comfort.lines.clear();
    for (const BackSection& s : *sections) comfort.lines.push_back({s.x, s.points});
    comfort.carve = CarveKind::drawn;
    say(fmt::format("{} sections of the face taken over", sections->size()));
    return {};
  });
}

}  // namespace

Command add_carve(CLI::App& app) {
  auto call = std::make_shared<std::pair<std::string, std::string>>();
  auto* parser = app.add_subcommand(
      "carve", "Load sections of the body's face (CSV or DXF: place along, across, depth under the face)");
  add_project(parser, call->first);
  parser->add_option("FROM", call->second, "Sections; - for standard input")->required()->type_name("FILE");
  return {parser, [call] { return run_carve(call->first, call->second); }};
}

}  // namespace wren::cli

// crown: cutters and directions compared by minutes and by what they leave.
#include "cli/command.hpp"

#include "core/parts/fretboard/part.hpp"

namespace wren::cli {
namespace {

int run_crown(const std::string& file, bool json) {
  auto job = load_designed(file, BoardDesign::part);
  if (!job) return refuse(job.error());
  const auto table = crown_table((*job)->project(), (*job)->followed.designs.shape<BoardDesign>(), (*job)->cache);
  Json list = Json::array();
  if (!json) fmt::print("cutter           rows    stepover    min   left over  asks for\n");
  for (const CrownChoice& c : table) {
    const char* way = c.direction == Direction::along ? "along" : "across";
    if (json)
      list.push_back({{"cutter", c.cutter},
                      {"direction", way},
                      {"stepover_mm", c.stepover},
                      {"minutes", c.minutes},
                      {"left_over_mm", c.left_over},
                      {"cost", c.cost},
                      {"clear_of_clamps", c.reaches}});
    else
      fmt::print("{:<16} {:<7} {:7.3f} {:8.1f} {:10.4f}   {}\n", c.cutter, way, c.stepover, c.minutes, c.left_over,
                 c.cost);
  }
  if (json) print("crown", {{"cutters", list}});
  return well;
}

}  // namespace

Command add_crown(CLI::App& app) {
  auto file = std::make_shared<std::string>();
  auto json = std::make_shared<bool>(false);
  auto* parser = app.add_subcommand("crown", "Compare cutters for the crown: minutes and what they leave");
  add_project(parser, *file);
  add_json(parser, *json);
  return {parser, [file, json] { return run_crown(*file, *json); }};
}

}  // namespace wren::cli

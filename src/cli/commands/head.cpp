// head: a neck's head from a drawn outline.
#include "cli/command.hpp"

#include "core/parts/neck/part.hpp"
#include "exchange/drawing_in.hpp"

namespace wren::cli {
namespace {

int run_head(const std::string& file, const std::string& from) {
  return change_project(file, "head", [&](Project& project) -> std::optional<Problem> {
    const auto source = Source::of(from);
    if (!source) return source.error();
    auto outline = read_head_outline(source->path());
    if (!outline) return outline.error();
    Neck& neck = neck_of(project).neck;
    neck.head.drawn = std::move(*outline);
    neck.head.shape = HeadShape::drawn;
    const auto board = make_fretboard(board_of(project).instrument);
    if (!board) return board.error();
    if (const auto made = make_neck(*board, neck); !made) return made.error();
    return {};
  });
}

}  // namespace

Command add_head(CLI::App& app) {
  auto call = std::make_shared<std::pair<std::string, std::string>>();
  auto* parser =
      app.add_subcommand("head", "Load the head's outline (DXF or SVG), nut line at x = 0, head at negative x");
  add_project(parser, call->first);
  parser->add_option("FROM", call->second, "Drawing; - for standard input")->required()->type_name("FILE");
  return {parser, [call] { return run_head(call->first, call->second); }};
}

}  // namespace wren::cli

// frets: the fret job list.
#include "cli/command.hpp"

#include "core/parts/fretboard/part.hpp"
#include "exchange/fret_table.hpp"

namespace wren::cli {
namespace {

int run_frets(const std::string& file, bool csv) {
  auto job = load_designed(file, BoardDesign::part);
  if (!job) return refuse(job.error());
  const Fretboard& board = (*job)->followed.designs.shape<BoardDesign>().board;
  std::cout << (csv ? fret_table_csv(board) : fret_table_text(board));
  return well;
}

}  // namespace

Command add_frets(CLI::App& app) {
  auto file = std::make_shared<std::string>();
  auto csv = std::make_shared<bool>(false);
  auto* parser = app.add_subcommand("frets", "Show the fret job list");
  add_project(parser, *file);
  parser->add_flag("--csv", *csv, "As CSV");
  return {parser, [file, csv] { return run_frets(*file, *csv); }};
}

}  // namespace wren::cli

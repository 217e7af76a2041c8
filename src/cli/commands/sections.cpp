// sections: a neck's back from sections that were measured.
#include "cli/command.hpp"

#include "core/parts/neck/part.hpp"
#include "exchange/drawing_in.hpp"

namespace wren::cli {
namespace {

int run_sections(const std::string& file, const std::string& from, bool forget) {
  if (!forget && from.empty())
    return refuse(
        {ProblemKind::input, "no file with sections was named", "sections", "Write: wren sections FILE FROM"});
  return change_project(file, "sections", [&](Project& project) -> std::optional<Problem> {
    Neck& neck = neck_of(project).neck;
    neck.back.sections.clear();
    if (forget) return {};
    const auto source = Source::of(from);
    if (!source) return source.error();
    auto sections = read_sections(source->path());
    if (!sections) return sections.error();
    neck.back.sections = std::move(*sections);
    const auto board = make_fretboard(board_of(project).instrument);
    if (!board) return board.error();
    const auto made = make_neck(*board, neck);
    if (!made) return made.error();
    double worst = 0;
    for (const auto& d : made->departures) worst = std::max(worst, d.worst);
    const Lump lump = worst_lump(*made);
    say(fmt::format("{} sections; the back leaves them by {:.3f} mm at most; worst lump {:.3f} mm at x {:.0f}",
                    made->departures.size(), worst, lump.height, lump.at.x));
    return {};
  });
}

}  // namespace

Command add_sections(CLI::App& app) {
  struct Call {
    std::string file, from;
    bool forget = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("sections", "Load sections measured on a neck (CSV or DXF)");
  add_project(parser, call->file);
  parser
      ->add_option("FROM", call->from,
                   "CSV with x, y, depth; or DXF with one polyline on a layer X<place> for each; - for standard input")
      ->type_name("FILE");
  parser->add_flag("--forget", call->forget, "Go back to the families of shapes");
  return {parser, [call] { return run_sections(call->file, call->from, call->forget); }};
}

}  // namespace wren::cli

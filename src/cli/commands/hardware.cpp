// hardware: the maker's own, kept for the next instrument.
#include "cli/command.hpp"

#include "core/document/hardware_shelf.hpp"

namespace wren::cli {
namespace {

struct HardwareCall {
  std::string file, where, name;
  std::string shelf;
  bool keep = false;
  bool use = false;
  bool forget = false;
  bool json = false;
};

std::filesystem::path shelf_of(const HardwareCall& call) {
  return call.shelf.empty() ? hardware_file() : std::filesystem::path(call.shelf);
}

int list(const HardwareCall& call) {
  const auto all = read_hardware(shelf_of(call));
  if (!all) return refuse(all.error());
  Json pieces = Json::array();
  for (const HardwarePiece& p : *all) {
    if (call.json)
      pieces.push_back({{"kind", p.kind}, {"name", p.name}, {"date", p.date}, {"sizes", p.sizes}});
    else
      fmt::print("{:8} {}  (measured {}, {} sizes)\n", p.kind, p.name, p.date, p.sizes.size());
  }
  if (call.json) print("hardware", {{"hardware", pieces}});
  return well;
}

std::optional<Problem> no_such(const HardwareCall& call, const std::vector<HardwarePiece>& all) {
  std::string names;
  for (const HardwarePiece& p : all) names += (names.empty() ? "" : ", ") + p.name;
  return Problem{
      ProblemKind::input, fmt::format("there is no '{}' of that kind", call.name), shelf_of(call).string(),
      names.empty() ? "Nothing is kept yet: wren hardware FILE pickup.bridge NAME --keep" : "Choose one of " + names};
}

int run(const HardwareCall& call) {
  if (!call.keep && !call.use && !call.forget) return list(call);
  if (call.where.empty() || call.name.empty())
    return wrong_call({ProblemKind::input, "where it stands, or its name, is not said", "hardware",
                       "Write: wren hardware FILE pickup.bridge NAME --keep, or --use"});
  auto all = read_hardware(shelf_of(call));
  if (!all) return refuse(all.error());
  const auto kind = hardware_kind(call.where);
  if (!kind) return refuse(kind.error());
  const auto it = std::find_if(all->begin(), all->end(),
                               [&](const HardwarePiece& p) { return p.kind == *kind && p.name == call.name; });
  if (call.forget) {
    if (it == all->end()) return refuse(*no_such(call, *all));
    all->erase(it);
    const auto written = write_hardware(shelf_of(call), *all);
    return written ? static_cast<int>(well) : refuse(written.error());
  }
  if (call.keep) {
    auto job = load_job(call.file, first_part());
    if (!job) return refuse(job.error());
    auto piece = hardware_of(all_parts().book(), (*job)->project(), call.where, call.name, today());
    if (!piece) return refuse(piece.error());
    shelve(*all, std::move(*piece));
    if (all->size() > most_hardware)
      return refuse({ProblemKind::range, fmt::format("there are {} pieces already", most_hardware),
                     shelf_of(call).string(), "Forget some first"});
    const auto written = write_hardware(shelf_of(call), *all);
    return written ? static_cast<int>(well) : refuse(written.error());
  }
  if (it == all->end()) return refuse(*no_such(call, *all));
  return change_project(call.file, "hardware", [&](Project& project) -> std::optional<Problem> {
    const auto edits = edits_for(all_parts().book(), project, *it, call.where);
    if (!edits) return edits.error();
    auto next = with_edits(project, *edits);
    if (!next) return next.error();
    project = std::move(*next);
    return {};
  });
}

}  // namespace

Command add_hardware(CLI::App& app) {
  auto call = std::make_shared<HardwareCall>();
  auto* parser = app.add_subcommand("hardware", "Your own hardware: its sizes, kept for the next instrument");
  parser->add_option("FILE", call->file, "Project; left out to list what is kept")->type_name("FILE");
  parser->add_option("WHERE", call->where, "bridge, pickup.neck, pickup.middle, pickup.bridge, tuner or rod")
      ->type_name("WHERE");
  parser->add_option("NAME", call->name, "What you call it")->type_name("NAME");
  parser->add_flag("--keep", call->keep, "Keep the project's sizes under this name");
  parser->add_flag("--use", call->use, "Give the project the sizes that are kept under this name");
  parser->add_flag("--forget", call->forget, "Keep it no longer");
  parser->add_option("--shelf", call->shelf, "Another list than the user's own")->type_name("FILE");
  add_json(parser, call->json);
  return {parser, [call] { return run(*call); }};
}

}  // namespace wren::cli

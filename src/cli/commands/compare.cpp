// compare: what another way of making a part would cost, before it is chosen.
#include "cli/command.hpp"

#include "core/document/edits.hpp"
#include "core/job/compare.hpp"

namespace wren::cli {
namespace {

Json as_json(const WayCost& c) {
  return {{"seconds", std::round(c.seconds)},
          {"set_ups", c.set_ups},
          {"programs", c.programs},
          {"changes", c.changes},
          {"deepest_mm", std::round(c.deepest * 1e3) / 1e3},
          {"deepest_cut", c.deepest_cut},
          {"stops", c.stops}};
}

std::string minutes(double seconds) { return seconds > 0 ? fmt::format("{:.1f}", seconds / 60) : std::string("–"); }
std::string depth(double seconds, double mm) { return seconds > 0 ? fmt::format("{:.1f}", mm) : std::string("–"); }

int run_compare(const std::string& file, const std::string& part, const std::vector<std::string>& texts, bool json) {
  auto now = load_designed(file, part);
  if (!now) return refuse(now.error());
  std::vector<std::pair<std::string, std::string>> edits;
  for (const std::string& text : texts) {
    auto edit = edit_from(text, "control.by_layer=yes");
    if (!edit) return wrong_call(edit.error());
    edits.push_back(std::move(*edit));
  }
  auto changed = with_edits((*now)->project(), edits);
  if (!changed) return refuse(changed.error());
  auto then = designed(std::move(*changed), part);
  if (!then) return refuse(then.error());
  const auto a = plan_of(**now);
  if (!a) return refuse(a.error());
  const auto b = plan_of(**then);
  if (!b) return refuse(b.error());
  const WayCost costs[] = {cost_of(*a, remarks_of(*(*now)->kind, (*now)->followed, &*a)),
                           cost_of(*b, remarks_of(*(*then)->kind, (*then)->followed, &*b))};
  const auto cuts = differences(*a, *b);
  if (json) {
    Json list = Json::array();
    for (const CutDifference& d : cuts)
      list.push_back({{"set_up", d.set_up}, {"cut", d.cut}, {"seconds", d.seconds}, {"depth_mm", d.depth}});
    print("compare", {{"now", as_json(costs[0])}, {"then", as_json(costs[1])}, {"cuts", list}});
    return well;
  }
  const auto row = [](const char* what, const auto& x, const auto& y) {
    fmt::print("{:<24}{:>12}{:>12}\n", what, x, y);
  };
  row("", "now", "then");
  row("minutes", minutes(costs[0].seconds), minutes(costs[1].seconds));
  row("set-ups", costs[0].set_ups, costs[1].set_ups);
  row("programs", costs[0].programs, costs[1].programs);
  row("cutters put in", costs[0].changes, costs[1].changes);
  row("deepest cut, mm", fmt::format("{:.1f}", costs[0].deepest), fmt::format("{:.1f}", costs[1].deepest));
  row("stops the work", costs[0].stops, costs[1].stops);
  if (!cuts.empty()) fmt::print("\ncuts that differ (minutes, mm deep: now | then)\n");
  for (const CutDifference& d : cuts)
    fmt::print("  {}, {}: {}, {} | {}, {}\n", d.set_up, d.cut, minutes(d.seconds[0]), depth(d.seconds[0], d.depth[0]),
               minutes(d.seconds[1]), depth(d.seconds[1], d.depth[1]));
  return well;
}

}  // namespace

Command add_compare(CLI::App& app) {
  struct Call {
    std::string file;
    std::string part = first_part();
    std::vector<std::string> edits;
    bool json = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand(
      "compare", "What another way would cost in set-ups, cutters, minutes and reach; nothing is changed");
  add_project(parser, call->file);
  parser->add_option("EDIT", call->edits, "KEY=VALUE of the other way")->required()->type_name("KEY=VALUE");
  add_part(parser, call->part);
  add_json(parser, call->json);
  return {parser, [call] { return run_compare(call->file, call->part, call->edits, call->json); }};
}

}  // namespace wren::cli

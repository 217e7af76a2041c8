// machine: the shop's machines, and how they are spoken to.
#include <algorithm>

#include "cli/shop.hpp"

namespace wren::cli {
namespace {

struct Call {
  std::string shop, add, change, retire, bring_back, from, into, name;
  std::vector<std::string> numbers;
  bool json = false;
};

int list(ShopBook& book, const Call& call) {
  const auto all = book.machines();
  if (!all) return refuse(all.error());
  Json rows = Json::array();
  for (const Entry<ShopMachine>& e : *all) {
    Json numbers = Json::object();
    for (const std::string& key : machine_keys()) numbers[key] = machine_text(e.thing, key);
    rows.push_back({{"name", e.thing.machine.name},
                    {"retired", e.retired},
                    {"at", e.told.at},
                    {"who", e.told.who},
                    {"what", e.what},
                    {"numbers", numbers}});
    if (call.json) continue;
    const Machine& m = e.thing.machine;
    fmt::print("{:<28} {:g} x {:g} x {:g} mm  {:g} to {:g} 1/min  {}  {} {}\n",
               m.name + (e.retired ? " (retired)" : ""), m.travel.x, m.travel.y, m.travel.z, m.spindle_low,
               m.spindle_high, e.thing.address.empty() ? "fed by hand" : e.thing.address, e.told.at.substr(0, 10),
               e.what);
  }
  if (call.json) print("machines", {{"machines", rows}});
  return well;
}

int run(const Call& call) {
  auto book = open_shop(call.shop);
  if (!book) return refuse(book.error());
  const auto all = book->machines();
  if (!all) return refuse(all.error());
  const auto named = [&](const std::string& name) {
    return std::find_if(all->begin(), all->end(),
                        [&](const Entry<ShopMachine>& e) { return e.thing.machine.name == name; });
  };
  if (!call.add.empty() || !call.change.empty()) {
    const std::string& name = call.add.empty() ? call.change : call.add;
    const auto it = named(name);
    if (call.add.empty() && it == all->end())
      return refuse(
          {ProblemKind::input, fmt::format("the shop has no machine '{}'", name), "", "List them: wren machine"});
    if (!call.add.empty() && it != all->end())
      return refuse(
          {ProblemKind::range, fmt::format("there is a machine '{}' already", name), "", "Choose another name"});
    const auto edits = edits_of(call.numbers);
    if (!edits) return wrong_call(edits.error());
    ShopMachine machine;
    if (it != all->end()) machine = it->thing;
    machine.machine.name = name;
    auto made = with_numbers(machine, *edits);
    if (!made) return refuse(made.error());
    if (auto done = book->put(*made, told()); !done) return refuse(done.error());
    return well;
  }
  if (!call.retire.empty() || !call.bring_back.empty()) {
    auto done = book->retire_machine(call.retire.empty() ? call.bring_back : call.retire, !call.retire.empty(), told());
    return done ? static_cast<int>(well) : refuse(done.error());
  }
  if (!call.from.empty()) {
    auto job = load_job(call.from, first_part());
    if (!job) return refuse(job.error());
    ShopMachine machine;
    if (const auto it = named((*job)->project().machine.name); it != all->end()) machine = it->thing;
    machine.machine = (*job)->project().machine;
    if (auto done = book->put(machine, told()); !done) return refuse(done.error());
    return well;
  }
  if (!call.into.empty()) {
    const auto it = call.name.empty() ? std::find_if(all->begin(), all->end(), [](const auto& e) { return !e.retired; })
                                      : named(call.name);
    if (it == all->end())
      return refuse({ProblemKind::input, "the shop has no such machine", call.name, "List them: wren machine"});
    if (it->retired)
      return refuse(
          {ProblemKind::input, "that machine is retired", it->thing.machine.name, "Bring it back, or name another"});
    return change_project(call.into, "machine", [&](Project& project) -> std::optional<Problem> {
      project.machine = it->thing.machine;
      return {};
    });
  }
  if (!call.numbers.empty())
    return wrong_call({ProblemKind::input, "numbers without a machine", "", "Say --add NAME or --change NAME"});
  return list(*book, call);
}

}  // namespace

Command add_machine(CLI::App& app) {
  auto call = std::make_shared<Call>();
  auto* parser =
      app.add_subcommand("machine", "The shop's machines: list, add, change, retire; and how they are spoken to");
  parser
      ->add_option("NUMBERS", call->numbers,
                   "KEY=VALUE of --add or --change: travel_x=700, address=127.0.0.1:7311, "
                   "talk.done=done")
      ->type_name("KEY=VALUE");
  add_shop(parser, call->shop);
  parser->add_option("--add", call->add, "A new machine, by its name")->type_name("NAME");
  parser->add_option("--change", call->change, "From now on its numbers are these")->type_name("NAME");
  parser->add_option("--retire", call->retire, "It is no longer in the shop")->type_name("NAME");
  parser->add_option("--bring-back", call->bring_back, "A retired one is in use again")->type_name("NAME");
  parser->add_option("--from", call->from, "A project's machine becomes the shop's")->type_name("PROJECT");
  parser->add_option("--into", call->into, "The shop's machine becomes a project's")->type_name("PROJECT");
  parser->add_option("--name", call->name, "Which one, with --into")->type_name("NAME");
  add_json(parser, call->json);
  return {parser, [call] { return run(*call); }};
}

}  // namespace wren::cli

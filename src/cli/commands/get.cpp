// get: numbers of the ledger.
#include "cli/command.hpp"

#include <algorithm>
#include <cmath>

namespace wren::cli {
namespace {

Json value_json(const FieldValue& value) {
  if (const double* v = std::get_if<double>(&value)) return std::round(*v * 1e9) / 1e9;
  if (const long* v = std::get_if<long>(&value)) return *v;
  if (const bool* v = std::get_if<bool>(&value)) return *v;
  if (const auto* v = std::get_if<std::string>(&value)) return *v;
  if (const auto* v = std::get_if<std::vector<double>>(&value)) return *v;
  return nullptr;
}

int get(const std::string& file, const std::vector<std::string>& keys, bool json) {
  auto job = load_job(file, all_parts().kinds().front().id());
  if (!job) return refuse(job.error());
  const Followed& followed = (*job)->followed;
  // Paths are only planned where somebody asks for a number that needs them.
  std::vector<LedgerLine> lines = ledger(all_parts(), followed, (*job)->cache, {});
  const auto known = [&](const std::string& k) {
    return std::any_of(lines.begin(), lines.end(), [&](const LedgerLine& l) { return l.key == k; });
  };
  std::vector<Planned> planned;
  for (const PartKind& kind : all_parts().kinds()) {
    const std::string own = "cuts." + kind.id() + ".";
    const bool wanted = std::any_of(keys.begin(), keys.end(), [&](const std::string& k) {
      return k.starts_with(own) || (!k.starts_with("cuts.") && !known(k));
    });
    if (!wanted && !(keys.empty() && json && &kind == &all_parts().kinds().front())) continue;
    if (auto p = plan(kind, followed, (*job)->cache)) planned.push_back(std::move(*p));
  }
  std::vector<const Planned*> all;
  for (const Planned& p : planned) all.push_back(&p);
  if (!all.empty()) lines = ledger(all_parts(), followed, (*job)->cache, all);
  Json doc = Json::object();
  std::vector<std::string> missing = keys;
  for (const LedgerLine& line : lines) {
    if (!keys.empty() && std::find(keys.begin(), keys.end(), line.key) == keys.end()) continue;
    std::erase(missing, line.key);
    if (json)
      doc[line.key] = {{"value", value_json(line.value)},
                       {"unit", line.unit},
                       {"origin", origin_name(line.origin)},
                       {"reason", line.reason}};
    else
      fmt::print("{} = {}\n", line.key, ledger_text(line, {}));
  }
  if (json) print("ledger", doc);
  for (const auto& [part, problem] : followed.problems) std::cerr << "wren: " << problem.text() << "\n";
  if (!missing.empty())
    return refuse(
        {ProblemKind::input, fmt::format("there is no number called '{}'", missing.front()), file,
         followed.problems.empty() ? "List them with: wren get FILE" : "It may follow once the numbers agree"});
  return well;
}

}  // namespace

Command add_get(CLI::App& app) {
  struct Call {
    std::string file;
    std::vector<std::string> keys;
    bool json = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("get", "Show numbers of the ledger");
  add_project(parser, call->file);
  parser->add_option("KEY", call->keys, "Keys to show; all when none is given")->type_name("KEY");
  parser->add_flag("--json", call->json, "Value, unit, origin and reason of each key as JSON");
  return {parser, [call] { return get(call->file, call->keys, call->json); }};
}

}  // namespace wren::cli

// new, get, set, remarks, measure: the project and its numbers.
#include "cli/commands/command.hpp"

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

Json remark_json(const Remark& r) {
  Json j{{"kind", r.kind},         {"weight", weight_name(r.weight)},
         {"sentence", r.sentence}, {"number", r.number},
         {"limit", r.limit},       {"unit", r.unit},
         {"source", r.source},     {"place", r.place}};
  if (r.at) j["at_mm"] = {r.at->first, r.at->second};
  const auto way = [](const Repair& repair) {
    Json edits = Json::object();
    for (const auto& [key, text] : repair.edits) edits[key] = text;
    return Json{{"label", repair.label}, {"set", edits}};
  };
  if (r.repair) j["repair"] = way(*r.repair);
  for (const Repair& other : r.others) j["other_repairs"].push_back(way(other));
  return j;
}

/// "KEY=VALUE" taken apart; refused where it is none.
Expected<std::pair<std::string, std::string>> edit_from(const std::string& text, const char* example) {
  const auto equal = text.find('=');
  if (equal == std::string::npos || equal == 0)
    return fail(ProblemKind::input, fmt::format("'{}' is not KEY=VALUE", text), "",
                fmt::format("Write for example: {}", example));
  return std::pair{text.substr(0, equal), text.substr(equal + 1)};
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
      fmt::print("{} = {}\n", line.key, ledger_text(line, UnitSystem::millimetre));
  }
  if (json) print(doc);
  for (const auto& [part, problem] : followed.problems) std::cerr << "wren: " << problem.text() << "\n";
  if (!missing.empty())
    return refuse(
        {ProblemKind::input, fmt::format("there is no number called '{}'", missing.front()), file,
         followed.problems.empty() ? "List them with: wren get FILE" : "It may follow once the numbers agree"});
  return well;
}

int remarks(const std::string& file, const std::string& part, bool json) {
  auto job = load_job(file, part);
  if (!job) return refuse(job.error());
  const auto planned = plan(*(*job)->kind, (*job)->followed, (*job)->cache);
  const auto all = remarks_of(*(*job)->kind, (*job)->followed, planned ? &*planned : nullptr);
  if (json) {
    Json list = Json::array();
    for (const Remark& r : all) list.push_back(remark_json(r));
    print({{"remarks", list}, {"stops_work", stops_work(all)}});
  } else {
    for (const Remark& r : all) {
      fmt::print("{}: {} [{}; {}]\n", weight_name(r.weight), r.sentence, r.place, r.source);
      std::vector<Repair> ways = r.others;
      if (r.repair) ways.insert(ways.begin(), *r.repair);
      for (const Repair& way : ways) {
        std::string edits;
        for (const auto& [key, text] : way.edits) edits += " " + shell_word(key + "=" + text);
        fmt::print("    {}: wren set {}{}\n", way.label, shell_word(file), edits);
      }
    }
    if (all.empty()) fmt::print("nothing to remark\n");
  }
  return stops_work(all) ? must_stop : well;
}

struct MeasureCall {
  std::string file, edit, note;
  std::string with = "calipers";
  bool unused = false;
  bool inch = false;
};

std::optional<Problem> measure(const MeasureCall& call, Project& project) {
  const auto edit = edit_from(call.edit, "neck.heel_width=55.43");
  if (!edit) return edit.error();
  const std::string key = "measured." + edit->first;
  if (!all_parts().book().find(project, key)) {
    std::string all;
    all_parts().book().each([&](const Field& f) {
      if (f.key.starts_with("measured.")) all += (all.empty() ? "" : ", ") + f.key.substr(9);
    });
    return Problem{ProblemKind::input, fmt::format("'{}' is not among the numbers that are measured", edit->first),
                   edit->first, "Choose one of " + all};
  }
  const std::size_t before = project.record.measured.size();
  auto next = with_edits(project, {{key, edit->second}}, call.inch ? UnitSystem::inch : UnitSystem::millimetre);
  if (!next) return next.error();
  project = std::move(*next);
  for (std::size_t i = before; i < project.record.measured.size(); ++i) {
    Measured& m = project.record.measured[i];
    m.date = today();
    if (m.instrument == "calipers") m.instrument = call.with;
    m.note = call.note;
    m.in_use = !call.unused;
  }
  return {};
}

}  // namespace

Command add_new(CLI::App& app) {
  struct Call {
    std::string file;
    std::string from = "reedling";
    bool force = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("new", "Make a project file");
  parser->add_option("FILE", call->file, "Project to make (.wren)")->required();
  parser->add_option("--from", call->from, "Starting point: reedling, sedge, bass or plain")
      ->check(CLI::IsMember(starting_points()));
  parser->add_flag("--force", call->force, "Replace an existing file");
  return {parser, [call] {
            auto project = project_from(call->from);
            if (!project) return refuse(project.error());
            const auto lock = FileLock::take(call->file, holder("new"), writers_wait);
            if (!lock) return refuse(lock.error());
            if (!call->force && std::filesystem::exists(call->file))
              return refuse(
                  {ProblemKind::file, "the file exists already", call->file, "Choose another name, or say --force"});
            if (call->from == "plain") project->name = std::filesystem::path(call->file).stem().string();
            if (auto saved = save_project(call->file, *project); !saved) return refuse(saved.error());
            fmt::print("{} made from {}\n", call->file, call->from);
            return static_cast<int>(well);
          }};
}

Command add_get(CLI::App& app) {
  struct Call {
    std::string file;
    std::vector<std::string> keys;
    bool json = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("get", "Show numbers of the ledger");
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("KEY", call->keys, "Keys to show; all when none is given");
  parser->add_flag("--json", call->json, "Value, unit, origin and reason of each key as JSON");
  return {parser, [call] { return get(call->file, call->keys, call->json); }};
}

Command add_set(CLI::App& app) {
  struct Call {
    std::string file;
    std::vector<std::string> edits;
    bool inch = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser =
      app.add_subcommand("set", "Change numbers: KEY=VALUE, the value as in a field of the window (\"25 1/2 in\")");
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("KEY=VALUE", call->edits, "Changes; all are made or none")->required();
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

Command add_remarks(CLI::App& app) {
  struct Call {
    std::string file;
    std::string part = first_part();
    bool json = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("remarks", "Show what stops the work and what to think about again");
  parser->add_option("FILE", call->file, "Project")->required();
  add_part(parser, call->part);
  parser->add_flag("--json", call->json, "As JSON");
  return {parser, [call] { return remarks(call->file, call->part, call->json); }};
}

Command add_measure(CLI::App& app) {
  auto call = std::make_shared<MeasureCall>();
  auto* parser = app.add_subcommand("measure", "Enter a measured number beside the designed one");
  parser->add_option("FILE", call->file, "Project")->required();
  parser->add_option("KEY=VALUE", call->edit, "Ledger key and what it measures")->required();
  parser->add_option("--with", call->with, "Instrument used");
  parser->add_option("--note", call->note, "Note");
  parser->add_flag("--unused", call->unused, "Keep it in the record, but go on with the designed number");
  parser->add_flag("--inch", call->inch, "Plain numbers are inches");
  return {parser, [call] {
            return change_project(call->file, "measure", [&](Project& project) { return measure(*call, project); });
          }};
}

}  // namespace wren::cli

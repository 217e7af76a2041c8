// remarks: what stops the work and what to think about again.
#include "cli/command.hpp"

namespace wren::cli {
namespace {

Json remark_json(const Remark& r) {
  Json j{{"kind", r.kind},           {"weight", weight_name(r.weight)},
         {"sentence", r.sentence},   {"number", r.number},
         {"limit", r.limit},         {"unit", r.unit},
         {"source", r.source.str()}, {"place", r.place}};
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

int remarks(const std::string& file, const std::string& part, bool json) {
  auto job = load_job(file, part);
  if (!job) return refuse(job.error());
  const auto planned = plan_of(**job);
  const auto all = remarks_of(*(*job)->kind, (*job)->followed, planned ? &*planned : nullptr);
  if (json) {
    Json list = Json::array();
    for (const Remark& r : all) list.push_back(remark_json(r));
    print("remarks", {{"remarks", list}, {"stops_work", stops_work(all)}});
  } else {
    for (const Remark& r : all) {
      fmt::print("{}: {} [{}; {}]\n", weight_name(r.weight), r.sentence.in(audience()), r.place,
                 r.source.in(audience()));
      std::vector<Repair> ways = r.others;
      if (r.repair) ways.insert(ways.begin(), *r.repair);
      for (const Repair& way : ways) {
        std::string edits;
        for (const auto& [key, text] : way.edits) edits += fmt::format(" {}", shell_word(key + "=" + text));
        fmt::print("    {}: wren set {}{}\n", way.label.in(audience()), shell_word(file), edits);
      }
    }
    if (all.empty()) say("nothing to remark");
  }
  return stops_work(all) ? must_stop : well;
}

}  // namespace

Command add_remarks(CLI::App& app) {
  struct Call {
    std::string file;
    std::string part = first_part();
    bool json = false;
  };
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("remarks", "Show what stops the work and what to think about again");
  add_project(parser, call->file);
  add_part(parser, call->part);
  add_json(parser, call->json);
  return {parser, [call] { return remarks(call->file, call->part, call->json); }};
}

}  // namespace wren::cli

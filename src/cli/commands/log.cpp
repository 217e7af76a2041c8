// log: what was run, and how it went.
#include "cli/shop.hpp"

namespace wren::cli {
namespace {

struct Call {
  std::string shop, run, note;
  std::size_t most = 30;
  bool pace = false, json = false;
};

Json run_json(const wren::Run& r, bool events) {
  Json j{{"id", r.id},
         {"began", r.began},
         {"ended", r.ended},
         {"outcome", r.outcome},
         {"project", r.project},
         {"part", r.part},
         {"side", r.side},
         {"program", r.program},
         {"sha256", r.sha256},
         {"cutter", r.cutter},
         {"cuts", r.cuts},
         {"machine", r.machine},
         {"air", r.air},
         {"planned_s", r.planned_seconds},
         {"real_s", r.real_seconds},
         {"lines", r.lines},
         {"done", r.done},
         {"from", r.from},
         {"feed_low", r.feed_low},
         {"feed_high", r.feed_high},
         {"signed_by", r.signed_by},
         {"proved_for", r.proved_for}};
  if (events) {
    j["events"] = Json::array();
    for (const RunEvent& e : r.events)
      j["events"].push_back({{"seconds", e.seconds}, {"kind", e.kind}, {"line", e.line}, {"words", e.words}});
  }
  return j;
}

int run_log(const Call& call) {
  auto book = open_shop(call.shop);
  if (!book) return refuse(book.error());
  if (!call.note.empty()) {
    if (call.run.empty())
      return wrong_call({ProblemKind::input, "a note without its run", "--note", "Say which: --run ID"});
    const auto done = book->note(call.run, told(), call.note);
    return done ? static_cast<int>(well) : refuse(done.error());
  }
  if (call.pace) {
    const auto all = book->paces();
    if (!all) return refuse(all.error());
    Json rows = Json::array();
    for (const Pace& p : *all) {
      rows.push_back({{"cutter", p.cutter},
                      {"cuts", p.cuts},
                      {"runs", p.runs},
                      {"planned_s", p.planned_seconds},
                      {"real_s", p.real_seconds},
                      {"ratio", p.ratio()}});
      if (!call.json)
        fmt::print("{:<18} {:<24} {:>3} run{}  planned {:>7.1f} min, really {:>7.1f} min: {:.2f} times\n", p.cutter,
                   p.cuts, p.runs, p.runs == 1 ? " " : "s", p.planned_seconds / 60, p.real_seconds / 60, p.ratio());
    }
    if (call.json) print("paces", {{"paces", rows}});
    return well;
  }
  if (!call.run.empty()) {
    const auto one = book->run(call.run);
    if (!one) return refuse(one.error());
    if (call.json) {
      print("run", run_json(*one, true));
      return well;
    }
    fmt::print("{}  {}\n{} of {}, {}\nsigned by {}; {}\n", one->began, one->program, one->cuts, one->cutter,
               one->machine, one->signed_by, one->proved_for);
    for (const RunEvent& e : one->events)
      fmt::print("{:>9.1f} s  line {:>6}  {:<10} {}\n", e.seconds, e.line, e.kind, e.words);
    return well;
  }
  const auto all = book->runs(call.most);
  if (!all) return refuse(all.error());
  Json rows = Json::array();
  for (const wren::Run& r : *all) {
    rows.push_back(run_json(r, false));
    if (!call.json)
      fmt::print("{}  {:<8} {:<44} {:>6} of {:<6} {:>6.1f} min (planned {:.1f}){}  {}\n", r.began, r.outcome, r.program,
                 r.done, r.lines, r.real_seconds / 60, r.planned_seconds / 60, r.air ? " air" : "", r.id);
  }
  if (call.json) print("runs", {{"runs", rows}});
  return well;
}

}  // namespace

Command add_log(CLI::App& app) {
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("log", "What was run on the machine, and how it went");
  add_shop(parser, call->shop);
  parser->add_option("--run", call->run, "One run with all that happened")->type_name("ID");
  parser->add_option("--note", call->note, "Something to say about it")->type_name("WORDS");
  parser->add_option("--most", call->most, "So many, the newest first")->type_name("N");
  parser->add_flag("--pace", call->pace, "Real minutes against planned ones, by cutter and kind of cut");
  add_json(parser, call->json);
  return {parser, [call] { return run_log(*call); }};
}

}  // namespace wren::cli

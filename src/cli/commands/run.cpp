// run: a program sent to a machine, line by checked line, after everything that has to be looked at and asked before.
#include <algorithm>
#include <csignal>
#include <cstdio>
#include <unistd.h>

#include "cli/shop.hpp"
#include "core/job/hand_step.hpp"
#include "core/job/program_folder.hpp"
#include "run/at_machine.hpp"
#include "run/restart.hpp"
#include "run/runner.hpp"

namespace wren::cli {
namespace {

struct Call {
  std::string file, machine, serial, step, programs, project, signed_by, shop;
  long baud = 115200;
  double feed = 0;
  bool air = false, plain = false, by_hand = false, home = false, zero = false, lay = false, turn = false,
       cutter = false;
  bool restart = false, z_anew = false, zero_anew = false, json = false;
};

RunControls* asked_to_stop = nullptr;
void on_signal(int) {
  if (asked_to_stop != nullptr) asked_to_stop->stop();
}

/// "yes" from whoever sits there.
bool asked(const std::string& words) {
  std::cerr << words << " [y/N] " << std::flush;
  std::string line;
  if (!std::getline(std::cin, line)) return false;
  return line == "y" || line == "Y" || line == "yes";
}

/// The program's file: named itself, or as a step of a project whose programs were written.
Expected<std::filesystem::path> program_file(const Call& call) {
  if (call.step.empty()) return std::filesystem::path(call.file);
  const std::string part = part_of_line(call.step);
  auto job = load_designed(call.file, part);
  if (!job) return tl::unexpected(job.error());
  const std::string folder = call.programs.empty() ? (*job)->project().record.folder : call.programs;
  if (folder.empty())
    return fail(ProblemKind::input, "the project does not know where its programs were written", call.file,
                "Say where: --programs FOLDER (as given to wren programs --out)");
  auto planned = plan_of(**job);
  if (!planned) return tl::unexpected(planned.error());
  const auto sheet = build_sheet(all_parts(), (*job)->followed, (*job)->cache, {&*planned});
  for (const HandStep& s :
       hand_steps(*(*job)->kind, (*job)->followed, (*job)->cache, *planned, sheet, today(), audience()))
    if (std::find(s.lines.begin(), s.lines.end(), call.step) != s.lines.end())
      return folder_with_manifest(folder, part) / std::filesystem::path(s.file).filename();
  return fail(ProblemKind::input, fmt::format("'{}' is no step at the machine", call.step), call.file,
              "Name a cut's line, such as neck.cut.front.rod");
}

Expected<std::unique_ptr<Host>> connect(const Call& call, const PlainTalk& talk) {
  auto link = call.serial.empty() ? connect_tcp(call.machine) : open_serial(call.serial, call.baud);
  if (!link) return tl::unexpected(link.error());
  auto host = call.plain || !call.serial.empty() ? plain_host(std::move(*link), talk) : checked_host(std::move(*link));
  if (auto greeted = host->greet("wren run"); !greeted) return tl::unexpected(greeted.error());
  return host;
}

/// What a hand does at a simulated machine, and what is done at any: home, zero.
Expected<void> prepare(const Call& call, Host& host, const ProgramAtHand& p) {
  if (call.home) {
    if (host.last().word == "alarm")
      if (auto done = host.unlock(); !done) return done;
    if (auto done = host.home(); !done) return done;
    const auto there = host.settle(120);
    if (!there) return tl::unexpected(there.error());
    if (there->lost())
      return fail(ProblemKind::input, "it does not find home: " + there->why, "", "Look at its switches");
  }
  if (call.lay || call.turn || call.cutter) {
    if (!host.simulated())
      return fail(ProblemKind::unsupported, "only a simulated machine is told what hands do", "--lay, --turn, --cutter",
                  "Do it by hand");
    if (call.lay)
      if (auto done = lay_blank(host, p.entry); !done) return done;
    if (call.turn) {
      const auto text = read_text((p.file.parent_path() / "manifest.json").string(), std::size_t{64} << 20);
      if (!text) return tl::unexpected(text.error());
      const auto all = read_manifest(*text, "manifest.json");
      if (!all) return tl::unexpected(all.error());
      const auto first = std::find_if(all->begin(), all->end(), [&](const ManifestEntry& e) {
        return e.piece == p.entry.piece && e.side != p.entry.side;
      });
      if (first == all->end()) return fail(ProblemKind::input, "it has no other side", p.entry.file, "Lay it: --lay");
      if (auto done = turn_blank(host, *first, p.entry); !done) return done;
    }
    if (call.cutter && !p.entry.cutters.empty())
      if (auto done = put_cutter(host, p.entry.cutters.front()); !done) return done;
  }
  if (call.zero) {
    if (auto may = z_can_be_set(p); !may) return may;
    if (auto done = set_zero_by_sheet(host, p.entry); !done) return done;
    auto z = probe_z(host, p.entry);
    if (!z && z.error().kind == ProblemKind::unsupported && !host.tells_lines()) {
      std::cerr << "Probe z at the machine's panel, and type its z there (machine coordinates): " << std::flush;
      std::string line;
      if (!std::getline(std::cin, line)) return tl::unexpected(z.error());
      const auto typed = parse_length(line, UnitSystem::millimetre);
      if (!typed) return tl::unexpected(typed.error());
      z = type_z(host, p.entry, *typed);
    }
    if (!z) return tl::unexpected(z.error());
    note(fmt::format("z is zero at {:.3f} of the machine", *z));
  }
  if (const auto s = host.look(); !s) return tl::unexpected(s.error());
  return {};
}

/// The same steps with no machine at the other end: told by whoever ran them.
int by_hand(const Call& call, const ProgramAtHand& p, ShopBook& book, wren::Run facts) {
  if (!asked(fmt::format("Was {} run to its end at the machine?", p.entry.file))) {
    note("nothing was noted");
    return must_stop;
  }
  facts.id = random_name();
  facts.began = facts.ended = time_of_day();
  facts.outcome = "done";
  facts.air = call.air;
  facts.lines = facts.done = static_cast<std::uint32_t>(lines_to_send(p.text).size());
  facts.events.push_back({0, "note", 0, "run by hand; told by " + facts.signed_by});
  const auto written = book.write(facts);
  return written ? static_cast<int>(well) : refuse(written.error());
}

/// The last run of this program through wood.
Expected<wren::Run> last_run(ShopBook& book, const ProgramAtHand& p) {
  const auto all = book.runs_of(p.entry.sha256);
  if (!all) return tl::unexpected(all.error());
  for (const wren::Run& r : *all)
    if (!r.air) return r;
  return fail(ProblemKind::input, "the log knows no run of this program", p.entry.file, "Run it from its beginning");
}

Expected<Restart> planned_restart(const Call& call, ShopBook& book, const ProgramAtHand& p, const MachineState& now) {
  if (call.project.empty())
    return fail(ProblemKind::input,
                "the way in cannot be proved without the project: clamps, fence and the wood's shape "
                "are its own",
                "--restart", "Name it: --project FILE");
  const auto last = last_run(book, p);
  if (!last) return tl::unexpected(last.error());
  RestartAnswers answers;
  answers.z_anew = call.z_anew || call.zero;
  answers.zero_anew = call.zero_anew || call.zero;
  const bool by_name = !call.signed_by.empty();
  answers.same_wood = by_name || asked("Does the wood lie where it lay, and is it held?");
  answers.same_cutter = by_name || answers.z_anew || asked("Is the cutter whole, and has it not slipped?");
  auto restart = restart_of(p, *last, now, answers);
  if (!restart) return restart;
  auto job = load_designed(call.project, p.entry.part);
  if (!job) return tl::unexpected(job.error());
  auto planned = plan_of(**job);
  if (!planned) return tl::unexpected(planned.error());
  auto set = read_folder(p.file.parent_path(), *planned);
  if (!set) return tl::unexpected(set.error());
  take_probes(*set, *planned);
  const auto findings = prove_restart(*planned, set->programs, p.entry.file, *restart);
  if (!findings) return tl::unexpected(findings.error());
  if (!findings->empty())
    return fail(ProblemKind::input,
                fmt::format("the way in at line {} is not proved: {}", restart->line, findings->front().text),
                p.entry.file, "Run it from its beginning");
  note(fmt::format("begins again at line {} of {}; its way in is proved", restart->line, p.entry.file));
  return restart;
}

/// The cuts of a program are noted as made in the project it belongs to.
int note_cut(const Call& call, const ProgramAtHand& p) {
  if (call.project.empty()) return well;
  return change_project(call.project, "run", [&](Project& project) -> std::optional<Problem> {
    for (const std::string& cut : p.entry.cuts)
      note_fact(all_parts(), project, fmt::format("{}.cut.{}.{}", p.entry.part, p.entry.side, cut), today());
    return {};
  });
}

/// The program waits for a hand: the cutter it names goes in, z anew with it; or a yes is all it wants.
void at_a_stop(const Call& call, const ProgramAtHand& p, Host& host, RunControls& controls, const RunView& v) {
  const bool by_name = !call.signed_by.empty();
  if (v.told_bad) {
    std::cerr << "wren: " << v.told << "\n";
    if (by_name || !asked("Try it again?")) return controls.stop();
  }
  const auto tool = std::find_if(p.entry.cutters.begin(), p.entry.cutters.end(),
                                 [&](const ManifestEntry::Tool& t) { return t.number == v.change_to; });
  if (v.change_to == 0 || tool == p.entry.cutters.end()) {
    // What it held by itself for nobody has seen yet: no name given before answers that.
    if (by_name ? v.state.word == "waiting" : asked(v.words + ". Go on?")) return controls.resume();
    return controls.stop();
  }
  if (host.simulated() && v.state.tool != tool->number)
    controls.hand(
        fmt::format("T{} put in", tool->number), [t = *tool](Host& h) { return put_cutter(h, t); }, false);
  if (!by_name && !asked(cutter_question(*tool, "in the spindle, tight"))) return controls.stop();
  if (v.wants_z)
    controls.hand(
        fmt::format("z anew with T{}", tool->number),
        [entry = p.entry](Host& h) -> Expected<void> {
          auto z = probe_z(h, entry);
          if (!z) return tl::unexpected(z.error());
          return {};
        },
        true);
  controls.resume();
}

int tell_end(const Call& call, const RunEnd& end) {
  if (call.json)
    print("run-end", {{"id", end.run.id},
                      {"outcome", end.run.outcome},
                      {"done", end.run.done},
                      {"lines", end.run.lines},
                      {"real_s", end.run.real_seconds},
                      {"known", end.known},
                      {"words", end.words}});
  else
    say(end.words);
  return end.run.outcome == "done" ? well : must_stop;
}

int run(const Call& call) {
  if (call.machine.empty() + call.serial.empty() + !call.by_hand != 2)
    return wrong_call({ProblemKind::input, "which machine?", "run", "Say one of --machine, --serial and --by-hand"});
  const auto file = program_file(call);
  if (!file) return refuse(file.error());
  auto program = program_at_hand(*file);
  if (!program) return refuse(program.error());
  auto book = open_shop(call.shop, ShopBook::Begin::general_rack);
  if (!book) return refuse(book.error());
  const auto folder = journal_folder(book->file());
  if (auto lost = take_journals(folder, *book); !lost)
    return refuse(lost.error());
  else
    for (const wren::Run& r : *lost)
      note(fmt::format("a run of {} on {} was begun and nobody saw its end: line {} was the last told", r.program,
                       r.began, r.done));
  Call known = call;
  if (known.project.empty() && !call.step.empty()) known.project = call.file;
  std::string instrument;
  if (!known.project.empty()) {
    auto job = load_job(known.project, program->entry.part);
    if (!job) return refuse(job.error());
    instrument = (*job)->project().record.id;
  }
  PlainTalk talk;
  std::string name = call.by_hand ? "by hand" : call.serial.empty() ? call.machine : call.serial;
  if (const auto machines = book->machines())
    for (const Entry<ShopMachine>& m : *machines)
      if (!m.retired && m.thing.address == name) {
        talk = m.thing.talk;
        name = m.thing.machine.name;
      }
  const Told who = told();
  std::unique_ptr<Host> host;
  if (!call.by_hand) {
    auto there = connect(call, talk);
    if (!there) return refuse(there.error());
    host = std::move(*there);
    if (auto ready = prepare(known, *host, *program); !ready) return refuse(ready.error());
  }
  // What this program sees itself.
  std::optional<double> raise;
  if (host) {
    bool good = true;
    for (const Check& check : looked_at(*program, host->last(), host->travel(), call.air)) {
      if (!check.well) std::cerr << "wren: " << check.words << "\n";
      good = good && check.well;
    }
    if (!good)
      return refuse(
          {ProblemKind::input, "nothing was run", program->entry.file, "See to what is told above, and call again"});
    if (call.air) {
      if (!host->last().zero)
        return refuse({ProblemKind::unsupported, "this machine does not tell its zero: nothing can be raised from here",
                       "--air", "Raise it at its panel"});
      raise = air_raise(program->entry, host->last().zero->z);
    }
  }
  const auto earlier = not_run_yet(*program, *book);
  if (!earlier) return refuse(earlier.error());
  for (const Question& q : to_ask(*program, raise.value_or(0), *earlier))
    if (call.signed_by.empty() && !asked(q.words))
      return refuse(
          {ProblemKind::input, "nothing was run: " + q.words, program->entry.file, "See to it, and call again"});
  const std::string signed_by = fmt::format("{}, {}", call.signed_by.empty() ? who.who : call.signed_by, who.at);
  wren::Run facts = facts_of(*program, instrument, name, signed_by);
  if (call.by_hand) return by_hand(call, *program, *book, std::move(facts));

  RunRequest request;
  request.text = program->text;
  if (call.restart) {
    auto restart = planned_restart(known, *book, *program, host->last());
    if (!restart) return refuse(restart.error());
    request.text = std::move(restart->text);
    facts.from = restart->line;
  }
  if (const auto same = still_the_same(*program); !same) return refuse(same.error());
  request.id = random_name();
  request.began = time_of_day();
  request.facts = std::move(facts);
  request.raise = raise.value_or(0);
  request.planned_seconds = request.facts.planned_seconds;
  request.journals = folder;
  request.time_of_day = [] { return time_of_day(); };
  request.again = [&]() { return connect(call, talk); };
  RunControls controls;
  if (call.feed > 0) controls.feed(call.feed);
  asked_to_stop = &controls;
  std::signal(SIGINT, on_signal);
  const bool terminal = ::isatty(STDERR_FILENO) != 0 && !quiet();
  note("the machine's own stop is the one that stops it; Ctrl-C asks it to brake and stand");
  Awake awake;
  bool looked = false;
  std::uint32_t answered = 0;  // the line whose stop was answered
  Runner runner(host, controls, [&](const RunView& v) {
    if (terminal) fmt::print(stderr, "\r\033[K{}, {:.0f} s", v.words, v.seconds);
    if (!looked && v.seconds > 1) {
      looked = true;
      if (!awake.held()) note("nothing here keeps this computer awake meanwhile: see to it");
    }
    // Asked once for each stop, and again where what was done there did not come off.
    if (v.asks && (answered != v.line || v.told_bad)) at_a_stop(call, *program, *host, controls, v);
    answered = v.asks ? v.line : 0;
  });
  auto end = runner.run(request);
  asked_to_stop = nullptr;
  if (terminal) fmt::print(stderr, "\r\033[K");
  if (!end) {
    (void)take_journals(folder, *book);
    return refuse(end.error());
  }
  if (auto written = book->write(end->run); !written) return refuse(written.error());
  std::error_code ignored;
  std::filesystem::remove(folder / (end->run.id + ".journal"), ignored);
  const int code = tell_end(call, *end);
  if (code == well && !end->run.air)
    if (const int noted = note_cut(known, *program); noted != well) return noted;
  return code;
}

}  // namespace

Command add_run(CLI::App& app) {
  auto call = std::make_shared<Call>();
  auto* parser = app.add_subcommand("run", "Send a program to a machine, line by checked line, and keep the record");
  parser->add_option("FILE", call->file, "Program in the folder it was written into; or a project, with --step")
      ->required()
      ->type_name("FILE");
  parser->add_option("--machine", call->machine, "A machine on the network, or wren-machine")->type_name("HOST:PORT");
  parser->add_option("--serial", call->serial, "A machine on a serial line, a line for a line")->type_name("DEVICE");
  parser->add_option("--baud", call->baud, "Of the serial line");
  parser->add_flag("--plain", call->plain, "The machine takes a line for a line");
  parser->add_flag("--by-hand", call->by_hand, "The machine is fed by stick or panel: only the record is kept");
  parser->add_option("--step", call->step, "A cut's line of the project, such as neck.cut.front.rod")->type_name("ID");
  parser
      ->add_option("--programs", call->programs,
                   "With --step: where the programs were written, unless the project knows it")
      ->type_name("FOLDER");
  parser->add_option("--project", call->project, "The project it belongs to: its cuts are noted there")
      ->type_name("FILE");
  parser->add_flag("--air", call->air, "A first run through air: raised as far as fits under the machine");
  parser->add_flag("--home", call->home, "Home the machine first");
  parser->add_flag("--zero", call->zero,
                   "Set zero by the sheet's distances, and probe z with the cutter in the spindle");
  parser->add_flag("--restart", call->restart, "Begin again where the last run of it stopped");
  parser->add_flag("--z-anew", call->z_anew, "With --restart: z was probed again since");
  parser->add_flag("--zero-anew", call->zero_anew, "With --restart: zero in x and y was found again since");
  parser->add_option("--feed", call->feed, "Begin with this share of the feed, in percent")
      ->check(CLI::Range(10.0, 200.0));
  parser->add_option("--signed", call->signed_by, "Everything that is asked before a run is well: says who")
      ->type_name("NAME");
  parser->add_flag("--lay", call->lay, "At a simulated machine: the blank is laid");
  parser->add_flag("--turn", call->turn, "At a simulated machine: the wood that lies there is turned over");
  parser->add_flag("--cutter", call->cutter, "At a simulated machine: the program's cutter is put in");
  add_shop(parser, call->shop);
  add_json(parser, call->json);
  return {parser, [call] { return run(*call); }};
}

}  // namespace wren::cli

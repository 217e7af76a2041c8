// A cutter changed by hand in the middle of a program: what the machine does with lines behind the stop, what the
// runner asks for before it goes on, and what becomes of an air pass.
#include "run/bench.hpp"

#include "run/restart.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

/// The coupon's cuts in one file each side, its cutters changed by hand.
std::unique_ptr<WrittenPart> one_file() {
  Project project = *project_from("reedling");
  project.programs.files = ProgramFiles::one;
  return written("coupon", project);
}

/// That program at a machine that is homed, with its blank laid and its first cutter in.
struct AtTheMachine {
  std::unique_ptr<WrittenPart> set = one_file();
  ProgramAtHand program = set->program(0);
  Stand stand;
  decltype(stand.connect()) host = stand.connect();
  RunControls controls;
  AtTheMachine() {
    home(*host);
    well(lay_blank(*host, program.entry));
    prepare(*host, program.entry);
  }
};

std::function<Expected<void>(Host&)> probing(const ManifestEntry& e) {
  return [e](Host& h) -> Expected<void> {
    auto z = probe_z(h, e);
    if (!z) return tl::unexpected(z.error());
    return {};
  };
}
const ManifestEntry::Tool& tool_of(const ManifestEntry& e, int number) {
  for (const ManifestEntry::Tool& t : e.cutters)
    if (t.number == number) return t;
  FAIL("no such cutter: " << number);
  return e.cutters.front();
}
bool has(const Run& run, const std::string& kind, const std::string& words) {
  return std::any_of(run.events.begin(), run.events.end(),
                     [&](const RunEvent& e) { return e.kind == kind && e.words.find(words) != std::string::npos; });
}

/// A hand that does as it is asked at every change.
struct Hand {
  const ManifestEntry& entry;
  RunControls& controls;
  std::uint32_t done = 0;  // the line whose stop was seen to
  std::vector<int> put{};
  void operator()(const RunView& v) {
    if (v.told_bad) FAIL_CHECK(v.told);
    if (!v.asks || done == v.line) return;
    done = v.line;
    if (v.change_to != 0) {
      if (v.state.tool != v.change_to) {
        put.push_back(v.change_to);
        controls.hand(
            "a cutter", [t = tool_of(entry, v.change_to)](Host& h) { return put_cutter(h, t); }, false);
      }
      if (v.wants_z) controls.hand("z", probing(entry), true);
    }
    controls.resume();
  }
};

std::string three_lines_after_a_stop() {
  return "G21 G90 G94 G54\nG53 G0 Z0\nG0 X10 Y10\nM0 (look)\nG0 X20 Y10\nG1 Z5 F900\nG53 G0 Z0\nM30\n";
}

}  // namespace

TEST_CASE("a program of several cutters is cut with z anew for each, as one of a file each would be") {
  const auto set = one_file();
  const ProgramAtHand p = set->program(0);
  REQUIRE(p.entry.cutters.size() > 1);
  REQUIRE(p.text.find("G43") == std::string::npos);
  // Their lengths differ, so that a z that stays is a wrong one.
  REQUIRE(p.entry.cutters[0].stickout != p.entry.cutters[1].stickout);
  Stand stand;
  auto host = stand.connect();
  home(*host);
  well(lay_blank(*host, p.entry));
  prepare(*host, p.entry);
  const auto checks = looked_at(p, host->last(), host->travel(), false);
  CHECK(std::all_of(checks.begin(), checks.end(), [](const Check& c) { return c.well; }));
  RunControls controls;
  Hand hand{p.entry, controls};
  const auto end = Runner(host, controls, std::ref(hand)).run(request_of(p, set->scratch.path / "runs"));
  REQUIRE(end);
  INFO(end->words);
  CHECK(end->run.outcome == "done");
  CHECK(hand.put.size() == p.entry.cutters.size() - 1);
  CHECK(stand.router.hits().empty());
  CHECK(*replay(set->scratch.path / "runs" / (end->run.id + ".journal")) == end->run);
  // The same wood from a file for each cutter: heights all over it agree.
  const auto apart = written("coupon");
  Stand other;
  auto second = other.connect();
  home(*second);
  well(lay_blank(*second, apart->entries.front()));
  for (std::size_t i = 0; i < apart->entries.size(); ++i) {
    const ProgramAtHand q = apart->program(i);
    prepare(*second, q.entry);
    RunControls none;
    REQUIRE(Runner(second, none, {}).run(request_of(q, apart->scratch.path / "runs")));
  }
  const auto& block = stand.router.wood().block();
  double worst = 0;
  int cut = 0;
  for (double x = 4; x < block.length; x += 9.3)
    for (double y = 4; y < block.width; y += 9.3) {
      const double a = stand.router.wood().top(x, y), b = other.router.wood().top(x, y);
      if (a < block.thickness - 0.5) ++cut;
      // A wall may stand a hair to one side of where it was looked at: homing is another.
      if (std::abs(a - b) > 0.5) continue;
      worst = std::max(worst, std::abs(a - b));
    }
  CHECK(cut > 3);
  CHECK(worst < 0.03);
}

TEST_CASE("it does not go on with the wrong cutter, nor with the z of the one before") {
  AtTheMachine at;
  auto& [set, p, stand, host, controls] = at;
  int step = 0;
  std::vector<std::string> told;
  const auto end =
      Runner(host, controls, [&](const RunView& v) {
        if (!v.asks || v.change_to == 0) return;
        if (v.told_bad && (told.empty() || told.back() != v.told)) told.push_back(v.told);
        switch (step++) {
          case 0: controls.resume(); break;
          case 3:
            controls.hand(
                "a cutter", [t = tool_of(p.entry, v.change_to)](Host& h) { return put_cutter(h, t); }, false);
            break;
          case 6: controls.resume(); break;
          case 9:
            controls.hand(
                "z",
                [](Host&) -> Expected<void> { return fail(ProblemKind::input, "the probe's wire is off", "", ""); },
                true);
            controls.resume();
            break;
          case 12: controls.stop(); break;
          default: break;
        }
      }).run(request_of(p, set->scratch.path / "runs"));
  REQUIRE(end);
  CHECK(end->run.outcome == "stopped");
  REQUIRE(told.size() >= 2);
  CHECK_THAT(told[0], Contains("is to be put in"));
  CHECK_THAT(told[1], Contains("z is to be set"));
  CHECK(has(end->run, "refused", "the probe's wire is off"));
  CHECK_FALSE(has(end->run, "resumed", ""));
  CHECK(has(end->run, "hand", "a cutter"));
  // Nothing was cut with it.
  CHECK(stand.router.story().back().text.find("M0") != std::string::npos);
}

TEST_CASE("a cutter that is put in after z was set wants z once more") {
  AtTheMachine at;
  auto& [set, p, stand, host, controls] = at;
  int step = 0;
  bool set_once = false, wants_again = false;
  const auto end = Runner(host, controls, [&](const RunView& v) {
                     if (!v.asks || v.change_to == 0) return;
                     const auto put = [t = tool_of(p.entry, v.change_to)](Host& h) { return put_cutter(h, t); };
                     ++step;
                     if (step == 1) {
                       controls.hand("a cutter", put, false);
                       controls.hand("z", probing(p.entry), true);
                     } else if (step == 4) {
                       set_once = !v.wants_z;
                       controls.hand("out and in again", put, false);
                       controls.resume();
                     } else if (step == 7) {
                       wants_again = v.wants_z && v.told_bad;
                       controls.stop();
                     }
                   }).run(request_of(p, set->scratch.path / "runs"));
  REQUIRE(end);
  CHECK(set_once);
  CHECK(wants_again);
  CHECK(end->run.outcome == "stopped");
}

TEST_CASE("several cutters: a restart begins with the first one, and with its z") {
  const auto set = one_file();
  const ProgramAtHand p = set->program(0);
  Run last = facts_of(p, "", "", "");
  last.outcome = "stopped";
  last.lines = static_cast<std::uint32_t>(lines_to_send(p.text).size());
  last.done = last.lines - 5;  // the last of its cutters was at work
  MachineState now;
  now.word = "idle";
  now.known = true;
  now.tool = p.entry.cutters.back().number;
  RestartAnswers answers{true, true, false, true};
  CHECK_THAT(restart_of(p, last, now, answers).error().what, Contains("several cutters"));
  answers.z_anew = true;
  CHECK_THAT(restart_of(p, last, now, answers).error().what, Contains("is wanted in the spindle"));
  now.tool = p.entry.cutters.front().number;
  const auto restart = restart_of(p, last, now, answers);
  REQUIRE(restart);
  CHECK(restart->line == p.entry.restart.front());
  // Nor is an air pass anything to go on from.
  last.air = true;
  CHECK_THAT(restart_of(p, last, now, answers).error().what, Contains("air pass"));
}

TEST_CASE("what is done by hand at any other time is refused, and in the record") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect(20);
  home(*host);
  const ProgramAtHand p = set->program(1);
  prepare(*host, p.entry);
  RunControls controls;
  controls.hand(
      "z anew", [](Host& h) { return h.line("G10 L2 P1 Z-1"); }, true);
  const double zero = stand.router.zero().z;
  const auto end = Runner(host, controls, {}).run(request_of(p, set->scratch.path / "runs"));
  REQUIRE(end);
  CHECK(end->run.outcome == "done");
  CHECK(has(end->run, "refused", "waits for no hand"));
  CHECK(stand.router.zero().z == zero);
}

TEST_CASE("an air pass stays one over a change of cutter, and gives back the last zero") {
  AtTheMachine at;
  auto& [set, p, stand, host, controls] = at;
  RunRequest request = request_of(p, set->scratch.path / "runs");
  const auto raise = air_raise(p.entry, host->last().zero->z);
  REQUIRE(raise);
  request.raise = std::min(*raise, 20.0);
  Hand hand{p.entry, controls};
  const auto end = Runner(host, controls, std::ref(hand)).run(request);
  REQUIRE(end);
  INFO(end->words);
  CHECK(end->run.outcome == "done");
  CHECK_FALSE(end->raised);
  CHECK(hand.put.size() == p.entry.cutters.size() - 1);
  CHECK(stand.router.wood().sweeps() == 0);
  // Zero as the last cutter touches the top: its tip over the bed is the blank's thickness.
  const double tip =
      stand.router.frame().clear_under_nut + stand.router.zero().z - tool_of(p.entry, hand.put.back()).stickout;
  const double met = p.entry.probe.place->on_board ? 0 : p.entry.blank.z;
  const double set_z = std::isfinite(p.entry.probe.z) ? p.entry.probe.z : 0;
  CHECK_THAT(tip + set_z, WithinAbs(met, 0.02));
}

TEST_CASE("lines behind a stop are read when it is over, with the zero that a hand has set there") {
  Stand stand;
  auto host = stand.connect();
  home(*host);
  ManifestEntry::Tool t{"flat-3", 4, "flat", 3, 12, 20};
  well(put_cutter(*host, t));
  well(host->line("G10 L2 P1 X100 Y100 Z-60"));
  REQUIRE(host->settle(10));
  const Scratch scratch;
  RunRequest request = request_of(three_lines_after_a_stop(), scratch.path);
  RunControls controls;
  standin::Place at_wait;
  bool done = false;
  const auto end = Runner(host, controls, [&](const RunView& v) {
                     if (!v.asks || done) return;
                     done = true;
                     at_wait = stand.router.at();
                     controls.hand(
                         "zero elsewhere",
                         [](Host& h) -> Expected<void> {
                           for (const char* line : {"G53 G0 X300 Y300", "G91", "G10 L2 P1 X200 Y150 Z-50"})
                             if (auto told = h.line(line); !told) return told;
                           const auto there = h.settle(60);
                           if (!there) return tl::unexpected(there.error());
                           // The hand's own lines are run, the program's are not, and it waits on.
                           CHECK(there->word == "waiting");
                           CHECK_THAT(there->at->x, WithinAbs(300, 1e-6));
                           return {};
                         },
                         false);
                     controls.resume();
                   }).run(request);
  REQUIRE(end);
  INFO(end->words);
  CHECK(end->run.outcome == "done");
  CHECK_THAT(at_wait.x, WithinAbs(110, 1e-6));
  // G90 is the program's still, whatever the hand said: x 20 of the new zero.
  CHECK_THAT(stand.router.at().x, WithinAbs(220, 1e-6));
  CHECK_THAT(stand.router.at().y, WithinAbs(160, 1e-6));
}

TEST_CASE("a stop, an emergency and a power cut in the wait end the program where it waits") {
  Stand stand;
  auto host = stand.connect();
  home(*host);
  well(host->line("G10 L2 P1 X100 Y100 Z-60"));
  REQUIRE(host->settle(10));
  const Scratch scratch;
  RunRequest request = request_of(three_lines_after_a_stop(), scratch.path);
  RunControls controls;
  std::string outcome = "stopped";
  std::function<void()> happens = [&] { controls.stop(); };
  SECTION("stopped") {}
  SECTION("the emergency stop") {
    happens = [&] { stand.router.emergency(); };
    outcome = "fault";
  }
  SECTION("the power goes") {
    happens = [&] { stand.router.arm(standin::Fault::power_cut, 0); };
    outcome = "unknown";
  }
  bool done = false;
  const auto end = Runner(host, controls, [&](const RunView& v) {
                     if (!v.asks || done) return;
                     done = true;
                     happens();
                   }).run(request);
  REQUIRE(end);
  CHECK(end->run.outcome == outcome);
  CHECK(end->run.done == 4);
  CHECK_FALSE(std::any_of(stand.router.story().begin(), stand.router.story().end(),
                          [](const standin::Router::Ran& r) { return r.line > 4; }));
  // The next program is another one: nothing of the old one is left over.
  if (outcome == "stopped") {
    stand.router.forget_story();
    request.id = random_name();
    request.text = "G21 G90 G94 G54\nG53 G0 Z0\nM30\n";
    const auto next = Runner(host, controls, {}).run(request);
    REQUIRE(next);
    CHECK(next->run.outcome == "done");
    CHECK(stand.router.story().size() == 3);
  }
}

TEST_CASE("a cutter that is in already stops nothing, and what stands behind it is read") {
  Stand stand;
  auto host = stand.connect();
  home(*host);
  ManifestEntry::Tool t{"flat-3", 4, "flat", 3, 12, 20};
  well(put_cutter(*host, t));
  const Scratch scratch;
  RunRequest request =
      request_of("G21 G90 G94 G54\nG53 G0 Z0\nT4 M6\nS12000 M3\nG53 G0 X30 Y40\nM5\nM30\n(end)\n", scratch.path);
  RunControls controls;
  bool asked = false;
  const auto end = Runner(host, controls, [&](const RunView& v) { asked = asked || v.asks; }).run(request);
  REQUIRE(end);
  CHECK(end->run.outcome == "done");
  CHECK_FALSE(asked);
  CHECK_THAT(stand.router.at().x, WithinAbs(30, 1e-6));
  CHECK(stand.router.story().size() == 8);
}

TEST_CASE("a bad line behind a stop is an alarm when it is read, and nothing of it moves") {
  Stand stand;
  auto host = stand.connect();
  home(*host);
  const Scratch scratch;
  RunRequest request = request_of("G21 G90 G94 G54\nG53 G0 Z0\nM0\nG53 G0 X50\nG0 X5000\nM30\n", scratch.path);
  RunControls controls;
  const auto end = Runner(host, controls, [&](const RunView& v) {
                     if (v.asks) controls.resume();
                   }).run(request);
  REQUIRE(end);
  INFO(end->words);
  CHECK(end->run.outcome == "fault");
  CHECK_THAT(end->words, Contains("line 5"));
  CHECK(end->run.done == 4);
  CHECK_THAT(stand.router.at().x, WithinAbs(50, 1e-6));
}

TEST_CASE("a stop before the first cutter's line, or between two names of the same one, is no change") {
  Stand stand;
  auto host = stand.connect();
  home(*host);
  ManifestEntry::Tool t{"flat-3", 4, "flat", 3, 12, 20};
  well(put_cutter(*host, t));
  const Scratch scratch;
  RunRequest request =
      request_of("G21 G90 G94 G54\nG53 G0 Z0\nM0 (push the pins in)\nT4 M6\nG53 G0 X5\nM0 (blow it out)\nT4 M6\nM30\n",
                 scratch.path);
  RunControls controls;
  std::vector<std::uint32_t> asked;
  const auto end = Runner(host, controls, [&](const RunView& v) {
                     if (!v.asks || (!asked.empty() && asked.back() == v.line)) return;
                     asked.push_back(v.line);
                     CHECK(v.change_to == 0);
                     CHECK_FALSE(v.wants_z);
                     controls.resume();
                   }).run(request);
  REQUIRE(end);
  CHECK(end->run.outcome == "done");
  CHECK(asked == std::vector<std::uint32_t>{3, 6});
}

TEST_CASE("lengths from the machine's table ask for no z; a machine that cannot be spoken to gets no such program") {
  Stand stand;
  auto host = stand.connect();
  home(*host);
  ManifestEntry::Tool t{"flat-3", 4, "flat", 3, 12, 20};
  well(put_cutter(*host, t));
  const Scratch scratch;
  RunRequest request = request_of("G21 G90 G94 G54\nG53 G0 Z0\nT5 M6\nG43 H5\nM30\n", scratch.path);
  RunControls controls;
  bool wanted_z = false, done = false;
  int wanted = 0;
  const auto end = Runner(host, controls, [&](const RunView& v) {
                     wanted_z = wanted_z || v.wants_z;
                     wanted = std::max(wanted, v.change_to);
                     if (!v.asks || done) return;
                     done = true;
                     controls.hand(
                         "a cutter",
                         [t](Host& h) {
                           auto five = t;
                           five.number = 5;
                           return put_cutter(h, five);
                         },
                         false);
                     controls.resume();
                   }).run(request);
  REQUIRE(end);
  INFO(end->words);
  CHECK(end->run.outcome == "done");
  CHECK_FALSE(wanted_z);
  CHECK(wanted == 5);  // but the cutter is asked for

  const auto set = one_file();
  ProgramAtHand p = set->program(0);
  MachineState little;
  const auto checks = looked_at(p, little, {}, false);
  CHECK(std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.id == "one-cutter" && !c.well; }));
  CHECK_FALSE(lengths_in_table(p));
  CHECK(z_can_be_set(p));
  // With a table of lengths z is the machine's own affair: asked for, and not set from here.
  ProgramAtHand by_table = p;
  by_table.text += "G43 H5\n";
  CHECK(lengths_in_table(by_table));
  const auto no = z_can_be_set(by_table);
  REQUIRE_FALSE(no);
  CHECK_THAT(no.error().todo, Contains("panel"));
  bool asked_for = false;
  for (const Question& q : to_ask(by_table, 0, {}))
    asked_for = asked_for || (q.id == "zero" && q.words.find("table") != std::string::npos);
  CHECK(asked_for);
  // The cutters that come later are asked for as what they are.
  const auto questions = to_ask(p, 0, {});
  int now = 0, later = 0;
  for (const Question& q : questions) {
    now += q.words.find("in the spindle") != std::string::npos;
    later += q.words.find("at hand for later") != std::string::npos;
  }
  CHECK(now == 1);
  CHECK(later == static_cast<int>(p.entry.cutters.size()) - 1);
}

TEST_CASE("what is set by hand says its unit: an inch program may have run before") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect();
  home(*host);
  const ProgramAtHand p = set->program(1);
  well(lay_blank(*host, p.entry));
  well(put_cutter(*host, p.entry.cutters.front()));
  const auto in_inches = [&] {
    well(host->line("G20 G91"));
    REQUIRE(host->settle(10));
  };
  in_inches();
  well(set_zero_by_sheet(*host, p.entry));
  CHECK_THAT(stand.router.zero().x, WithinAbs(p.entry.zero_in_machine.x, 1e-4));
  in_inches();
  const auto z = probe_z(*host, p.entry);
  INFO((z ? "" : z.error().text()));
  REQUIRE(z);
  const double zero = stand.router.zero().z;
  CHECK_THAT(zero, WithinAbs(*z, 1e-4));
  in_inches();
  REQUIRE(type_z(*host, p.entry, -60));
  CHECK_THAT(stand.router.zero().z, WithinAbs(-60 - (std::isfinite(p.entry.probe.z) ? p.entry.probe.z : 0), 1e-4));
  REQUIRE(probe_z(*host, p.entry));
  // An air pass is raised by millimetres, and what ran in inches gives its zero back.
  in_inches();
  RunRequest request = request_of(p, set->scratch.path / "runs");
  request.raise = 5;
  request.text = "G20 G17 G90 G91.1 G94 G54 G40 G49 G80 G61\nG53 G0 Z0\nG4 P200\nM30\n";
  RunControls controls;
  double highest = -1e9;
  const double before = stand.router.zero().z;
  const auto end = Runner(host, controls, [&](const RunView& v) {
                     if (v.state.zero) highest = std::max(highest, v.state.zero->z);
                   }).run(request);
  REQUIRE(end);
  CHECK(end->run.outcome == "done");
  CHECK_FALSE(end->raised);
  CHECK_THAT(highest, WithinAbs(before + 5, 1e-3));
  CHECK_THAT(stand.router.zero().z, WithinAbs(before, 1e-3));
}

TEST_CASE("over a plain line the program's own lines behind M0 wait, whoever types them") {
  Stand stand;
  {
    auto host = stand.connect();
    home(*host);
  }
  standin::Session plain(stand.router, standin::Session::Mode::plain);
  std::string out;
  for (const char* line : {"G21 G90 G94 G54\n", "M0\n", "G53 G0 X80\n"}) REQUIRE(plain.take(line, out));
  (void)stand.router.advance(20);
  CHECK(stand.router.at().x == 0);
  REQUIRE(plain.take("go\n", out));
  (void)stand.router.advance(20);
  CHECK_THAT(stand.router.at().x, WithinAbs(80, 1e-6));
}

TEST_CASE("z is typed at a machine that tells nothing, and is where the sheet wants it") {
  const auto set = written("coupon");
  Stand stand;
  {
    auto host = stand.connect();
    home(*host);
  }
  PlainTalk talk;
  SECTION("it tells its place") {}
  SECTION("it tells nothing") { talk.ask_place.clear(); }
  auto host = plain_host(std::make_unique<Wire>(stand.router, stand.clock, 400, standin::Session::Mode::plain), talk);
  well(host->greet("test"));
  const ManifestEntry& e = set->entries.front();
  well(set_zero_by_sheet(*host, e));
  const auto z = type_z(*host, e, -71.25);
  REQUIRE(z);
  const double at = std::isfinite(e.probe.z) ? e.probe.z : 0;
  CHECK_THAT(*z, WithinAbs(-71.25 - at, 1e-9));
  CHECK_THAT(stand.router.zero().z, WithinAbs(*z, 1e-4));
  CHECK_THAT(stand.router.zero().x, WithinAbs(e.zero_in_machine.x, 1e-4));
}

TEST_CASE("a manifest whose first cutter is not the first of its cutters has one more, which the proof then meets") {
  const auto set = one_file();
  std::string text = set->made.manifest();
  const auto honest = read_manifest(text, "manifest");
  REQUIRE(honest);
  const std::size_t own = honest->front().cutters.size();
  REQUIRE(own > 1);
  const std::size_t at = text.find("\"stickout_mm\": ", text.find("\"cutter\": "));
  REQUIRE(at != std::string::npos);
  text.insert(at + std::string("\"stickout_mm\": ").size(), "1");
  const auto lied = read_manifest(text, "manifest");
  REQUIRE(lied);
  CHECK(lied->front().cutters.size() == own + 1);
}

// Runs of the coupon with random faults. After each: what was cut is what the proof had seen, in order; a place that is
// believed is the machine's own within 0.01; the log tells the machine's story; and where nothing was lost it can be
// gone on with. WREN_HEAVY: a thousand of them, and the neck.
#include "run/bench.hpp"
#include "run/restart.hpp"
#include "support/random.hpp"

using namespace wren;
using standin::Fault;

namespace {

/// The machine's own story of a program is the text's own lines, from the first on.
void same_story(const standin::Router& router, const std::string& id, const std::vector<std::string_view>& lines,
                std::uint32_t done) {
  std::uint32_t n = 0, wrong = 0;
  for (const auto& r : router.story()) {
    if (r.program != id) continue;
    ++n;
    wrong += r.line != n || r.line > lines.size() || r.text != lines[r.line - 1];
  }
  REQUIRE(wrong == 0);
  REQUIRE(done <= n);
}

struct Tally {
  int runs = 0, done = 0, fault = 0, stopped = 0, unknown = 0, again = 0;
};

void one_run(const WrittenPart& set, std::size_t which, std::uint32_t seed, ShopBook& book, Tally& tally,
             double times) {
  std::mt19937 random(seed);
  Stand stand(seed);
  auto host = stand.connect(times);
  home(*host);
  const ProgramAtHand p = set.program(which);
  const auto first = std::find_if(set.entries.begin(), set.entries.end(), [&](const ManifestEntry& e) {
    return e.piece == p.entry.piece && e.side != p.entry.side;
  });
  if (first != set.entries.end() && p.entry.matrix[10] * first->matrix[10] < 0 && p.entry.matrix[10] < 0) {
    well(lay_blank(*host, *first));
    well(turn_blank(*host, *first, p.entry));
  } else {
    well(lay_blank(*host, p.entry));
  }
  prepare(*host, p.entry);
  const auto lines = lines_to_send(p.text);
  const auto fault = static_cast<Fault>(random() % standin::fault_count);
  const auto line = static_cast<std::uint32_t>(1 + random() % lines.size());
  stand.router.arm(fault, line);
  if (random() % 3 == 0)
    stand.router.arm(static_cast<Fault>(random() % 5), static_cast<std::uint32_t>(1 + random() % lines.size()));
  RunRequest request = request_of(p, set.scratch.path / "runs");
  const bool comes_back = random() % 4 != 0;
  if (comes_back) request.again = [&]() -> Expected<std::unique_ptr<Host>> { return stand.connect(times); };
  RunControls controls;
  stand.router.forget_story();
  // A hand goes on where the program asks for it, and stops what the machine holds by itself.
  const auto hand = [&](const RunView& v) {
    if (!v.asks) return;
    if (v.state.word == "waiting")
      controls.resume();
    else
      controls.stop();
  };
  const auto end = Runner(host, controls, hand).run(request);
  INFO("seed " << seed << ", " << standin::fault_word(fault) << " at " << line << " of " << lines.size());
  REQUIRE(end);
  INFO(end->words);
  ++tally.runs;
  same_story(stand.router, request.id, lines, end->run.done);
  if (end->known) {
    REQUIRE(stand.router.known());
    REQUIRE(end->state.at);
    CHECK(std::abs(end->state.at->x - stand.router.at().x) <= 0.01);
    CHECK(std::abs(end->state.at->y - stand.router.at().y) <= 0.01);
    CHECK(std::abs(end->state.at->z - stand.router.at().z) <= 0.01);
  }
  // Done is what the machine has done, all of it, and nothing happened at its last line.
  if (end->run.outcome == "done") {
    CHECK(stand.router.story().size() >= lines.size());
    CHECK(end->run.done == lines.size());
    CHECK(stand.router.state() == standin::State::idle);
  }
  CHECK(stand.router.hits().empty());
  const auto again = replay(request.journals / (request.id + ".journal"));
  REQUIRE(again);
  CHECK(*again == end->run);
  REQUIRE(book.write(end->run));
  CHECK(book.run(request.id).value() == end->run);
  fs::remove(request.journals / (request.id + ".journal"));
  tally.done += end->run.outcome == "done";
  tally.fault += end->run.outcome == "fault";
  tally.stopped += end->run.outcome == "stopped";
  tally.unknown += end->run.outcome == "unknown";
  if (end->run.outcome == "done") return;

  // Begin again: refused as long as something may be lost, then from a listed line with its way in proved.
  host = stand.connect(times);
  if (host->last().word == "held") well(host->stop());
  (void)host->settle(1000);
  if (host->last().word == "running") well(host->stop());
  (void)host->settle(1000);
  auto now = *host->look();
  RestartAnswers answers;
  CHECK_FALSE(restart_of(p, end->run, now, answers));
  answers.same_wood = true;
  if (now.lost()) {
    CHECK_FALSE(restart_of(p, end->run, now, answers));
    home(*host);
  }
  prepare(*host, p.entry);
  answers.z_anew = answers.zero_anew = true;
  now = *host->look();
  const auto restart = restart_of(p, end->run, now, answers);
  if (restart && fault == Fault::cutter_broken) CHECK(restart->line == p.entry.restart.front());
  if (!restart) return;  // no listed line is early enough
  CHECK((restart->line <= end->run.done + 1 || restart->line == p.entry.restart.front()));
  if (tally.again++ % 5 == 0) {
    const auto findings = prove_restart(set.made.planned, set.made.programs, p.entry.file, *restart);
    INFO((findings ? "" : findings.error().text()));
    REQUIRE(findings);
    INFO((findings->empty() ? "" : findings->front().text));
    CHECK(findings->empty());
  }
  const bool more = stand.router.faults_left() > 0;  // one that had no occasion yet may come now
  RunRequest second = request_of(p, set.scratch.path / "runs");
  second.text = restart->text;
  const auto rest = Runner(host, controls, hand).run(second);
  REQUIRE(rest);
  INFO(rest->words);
  CHECK((rest->run.outcome == "done" || more));
  if (rest->run.outcome != "done") return;
  INFO((stand.router.hits().empty() ? "" : stand.router.hits().front()) << "; begun at " << restart->line);
  CHECK(stand.router.hits().empty());
  fs::remove(second.journals / (second.id + ".journal"));

  // In the end the wood is as if nothing had happened, but for what homing and probing repeat.
  if (tally.again % 5 != 1) return;
  Stand calm(seed + 7);
  auto other = calm.connect(times);
  home(*other);
  well(lay_blank(*other, p.entry));
  prepare(*other, p.entry);
  REQUIRE(Runner(other, controls, hand).run(request_of(p, set.scratch.path / "calm"))->run.outcome == "done");
  const auto& a = stand.router.wood();
  const auto& b = calm.router.wood();
  int apart = 0;
  for (int k = 0; k < 400; ++k) {
    const double x = p.entry.low.x + (p.entry.high.x - p.entry.low.x) * (k % 20 + 0.5) / 20;
    const double y = p.entry.low.y + (p.entry.high.y - p.entry.low.y) * (k / 20 + 0.5) / 20;
    apart += std::abs(a.top(x, y) - b.top(x, y)) > 0.05;  // a wall may lie between: few places only
  }
  CHECK(apart <= 6);
}

}  // namespace

TEST_CASE(
    "after any fault the machine's place is known or said to be unknown, and no line was cut that was not proved") {
  const bool heavy = std::getenv("WREN_HEAVY") != nullptr;
  const auto set = written("coupon");
  auto book = ShopBook::open(set->scratch.path / "shop.sqlite", ShopBook::Begin::empty, {"now", "a test"});
  REQUIRE(book);
  Tally tally;
  const int runs = heavy ? 1000 : 120;
  for (int k = 0; k < runs; ++k)
    one_run(*set, static_cast<std::size_t>(k) % 3, static_cast<std::uint32_t>(1000 + k), *book, tally, 60);
  WARN(tally.runs << " runs: " << tally.done << " done, " << tally.fault << " faults, " << tally.stopped << " stopped, "
                  << tally.unknown << " unknown, " << tally.again << " begun again");
  CHECK(tally.done > 0);
  CHECK(tally.fault > 0);
  CHECK(tally.unknown > 0);
  CHECK(tally.again > 0);
  CHECK_FALSE(book->unsound());
}

TEST_CASE("what was lost follows from how a run ended, whatever words its machine has for it") {
  const auto set = written("coupon");
  const ProgramAtHand p = set->program(1);
  Run last = facts_of(p, "", "another's", "a test");
  last.lines = static_cast<std::uint32_t>(lines_to_send(p.text).size());
  last.done = last.lines / 2;
  MachineState now;
  now.word = "idle";
  now.known = true;
  now.tool = p.entry.cutters.front().number;
  RestartAnswers answers{true, true, false, false};
  last.outcome = "stopped";
  last.events = {{1, "stopped", last.done, "durch den Menschen"}};
  const auto asked_for = restart_of(p, last, now, answers);
  REQUIRE(asked_for);
  for (const char* outcome : {"fault", "unknown"}) {
    INFO(outcome);
    last.outcome = outcome;
    last.events = {{1, outcome, last.done, "Endschalter"}};
    answers.z_anew = answers.zero_anew = false;
    CHECK_FALSE(restart_of(p, last, now, answers));
    answers.z_anew = true;
    CHECK_FALSE(restart_of(p, last, now, answers));
    answers.zero_anew = true;
    CHECK(restart_of(p, last, now, answers));
  }
  last.outcome = "stopped";
  last.events = {{1, held_by_itself, last.done, "Last weg"}};
  answers.z_anew = answers.zero_anew = false;
  CHECK_FALSE(restart_of(p, last, now, answers));
  answers.z_anew = true;
  const auto again = restart_of(p, last, now, answers);
  REQUIRE(again);
  CHECK(again->line == p.entry.restart.front());
}

TEST_CASE("the neck's rod slot, with a fault on the way", "[neck]") {
  const auto set = written("neck");
  auto book = ShopBook::open(set->scratch.path / "shop.sqlite", ShopBook::Begin::empty, {"now", "a test"});
  REQUIRE(book);
  Tally tally;
  one_run(*set, 1, 4242, *book, tally, 400);
  CHECK(tally.runs == 1);
}

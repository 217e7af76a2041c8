// A program sent to the stand-in: what goes right, what is asked, what is refused.
#include "run/bench.hpp"

#include "core/units/plain_number.hpp"

using namespace wren;
using Catch::Matchers::Contains;
using Catch::Matchers::WithinAbs;

namespace {

Expected<RunEnd> run_on(Stand& stand, std::unique_ptr<Host>& host, const RunRequest& request, RunControls& controls,
                        Runner::Watch watch = {}) {
  (void)stand;
  return Runner(host, controls, std::move(watch)).run(request);
}

}  // namespace

TEST_CASE("the coupon's programs are run one after another, and its slot is measured in the stand-in's wood") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect();
  home(*host);
  well(lay_blank(*host, set->entries.front()));
  for (std::size_t i = 0; i < set->entries.size(); ++i) {
    const ProgramAtHand p = set->program(i);
    prepare(*host, p.entry);
    RunControls controls;
    std::uint32_t last = 0;
    bool forward = true;
    const auto end = run_on(stand, host, request_of(p, set->scratch.path / "runs"), controls, [&](const RunView& v) {
      forward = forward && v.line >= last && v.line <= v.lines;
      last = v.line;
    });
    REQUIRE(end);
    INFO(end->words);
    CHECK(end->run.outcome == "done");
    CHECK(end->known);
    CHECK(forward);
    CHECK(end->run.done == lines_to_send(p.text).size());
    CHECK(stand.router.hits().empty());
    CHECK(*replay(set->scratch.path / "runs" / (end->run.id + ".journal")) == end->run);
  }
  // The slot program's middle: as wide as its cutter, as deep as designed, by the wood alone.
  const ManifestEntry& slot = set->entries.front();
  const auto groove = host->ask(fmt::format("measure groove {} {} 90", slot.low.x, (slot.low.y + slot.high.y) / 2));
  REQUIRE(groove);
  CHECK_THAT(plain_number(groove->substr(0, groove->find(' '))).value(),
             WithinAbs(slot.cutters.front().diameter, 0.021));
  CHECK_THAT(plain_number(groove->substr(groove->find(' ') + 1)).value(), WithinAbs(-slot.low.z, 0.02));
  // Altering the wood alters the answer.
  stand.router.wood().spoil(slot.low.x + slot.zero_in_machine.x - stand.router.wood().block().x,
                            (slot.low.y + slot.high.y) / 2 + slot.zero_in_machine.y - stand.router.wood().block().y,
                            1.0, 5);
  const auto spoiled = host->ask(fmt::format("measure groove {} {} 90", slot.low.x, (slot.low.y + slot.high.y) / 2));
  REQUIRE(spoiled);
  CHECK_THAT(plain_number(spoiled->substr(0, spoiled->find(' '))).value(), WithinAbs(2.0, 0.021));
}

TEST_CASE("an air pass is raised as far as fits, cuts nothing, and gives zero back") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect();
  home(*host);
  well(lay_blank(*host, set->entries.front()));
  const ProgramAtHand p = set->program(1);
  prepare(*host, p.entry);
  const double zero = host->last().zero->z;
  const auto raise = air_raise(p.entry, zero);
  REQUIRE(raise);
  CHECK(*raise <= 25);
  CHECK(*raise + zero + p.entry.high.z <= 1e-9);
  RunRequest request = request_of(p, set->scratch.path / "runs");
  request.raise = *raise;
  RunControls controls;
  double highest = -1e9;
  const auto end = run_on(stand, host, request, controls, [&](const RunView& v) {
    if (v.state.zero) highest = std::max(highest, v.state.zero->z);
  });
  REQUIRE(end);
  CHECK(end->run.outcome == "done");
  CHECK(end->run.air);
  CHECK_FALSE(end->raised);
  CHECK_THAT(highest, WithinAbs(zero + *raise, 0.001));
  CHECK_THAT(stand.router.zero().z, WithinAbs(zero, 0.0001));
  CHECK(stand.router.wood().sweeps() == 0);
  // A machine with no room over the work: nothing is pretended.
  ManifestEntry high = p.entry;
  high.high.z = -zero - 0.3;
  CHECK_FALSE(air_raise(high, zero));
  const auto checks = looked_at({{}, {}, high, {}, {}, {}, {}, {}}, host->last(), host->travel(), true);
  CHECK(std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.id == "raise" && !c.well; }));
}

TEST_CASE("held, resumed and stopped by whoever watches, with feed and remarks in the record") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect(2);
  home(*host);
  well(lay_blank(*host, set->entries.front()));
  const ProgramAtHand p = set->program(2);
  prepare(*host, p.entry);
  RunControls controls;
  int looks = 0;
  bool was_held = false;
  const auto end = run_on(stand, host, request_of(p, set->scratch.path / "runs"), controls, [&](const RunView& v) {
    ++looks;
    if (looks == 40) {
      controls.feed(60);
      controls.remark("it chatters");
    }
    if (looks == 80) controls.hold();
    if (v.state.word == "held" && !was_held) {
      was_held = true;
      CHECK(v.state.speed.value_or(1) == 0);
      controls.resume();
    }
    if (looks == 400) controls.stop();
  });
  REQUIRE(end);
  CHECK(was_held);
  CHECK(end->run.outcome == "stopped");
  CHECK(end->known);
  CHECK(end->run.done < end->run.lines);
  CHECK(end->run.feed_low == 60);
  const auto has = [&](const char* kind, const char* words) {
    return std::any_of(end->run.events.begin(), end->run.events.end(),
                       [&](const RunEvent& e) { return e.kind == kind && e.words.find(words) != std::string::npos; });
  };
  CHECK(has("note", "it chatters"));
  CHECK(has("held", ""));
  CHECK(has("resumed", ""));
  CHECK(*replay(set->scratch.path / "runs" / (end->run.id + ".journal")) == end->run);
}

TEST_CASE("a connection that goes and comes back goes on where the machine stands") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect(4);
  home(*host);
  well(lay_blank(*host, set->entries.front()));
  const ProgramAtHand p = set->program(1);
  prepare(*host, p.entry);
  stand.router.arm(standin::Fault::connection_gone, 200);
  RunRequest request = request_of(p, set->scratch.path / "runs");
  int again = 0;
  request.again = [&]() -> Expected<std::unique_ptr<Host>> {
    ++again;
    return stand.connect(4);
  };
  stand.router.forget_story();
  RunControls controls;
  const auto end = run_on(stand, host, request, controls);
  REQUIRE(end);
  CHECK(again == 1);
  CHECK(end->run.outcome == "done");
  const auto lines = lines_to_send(p.text);
  REQUIRE(stand.router.story().size() == lines.size());
  for (std::size_t i = 0; i < lines.size(); ++i) CHECK(stand.router.story()[i].text == lines[i]);
}

TEST_CASE("a connection that stays gone leaves a run whose end nobody knows") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect(4);
  home(*host);
  const ProgramAtHand p = set->program(1);
  prepare(*host, p.entry);
  stand.router.arm(standin::Fault::connection_gone, 200);
  RunControls controls;
  const auto end = run_on(stand, host, request_of(p, set->scratch.path / "runs"), controls);
  REQUIRE(end);
  CHECK(end->run.outcome == "unknown");
  CHECK_FALSE(end->known);
  CHECK_THAT(end->words, Contains("nobody here knows"));
  CHECK(end->run.done <= stand.router.done());
}

TEST_CASE("nothing runs on a machine that is not homed, has another cutter, or stands elsewhere") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect();
  const ProgramAtHand p = set->program(0);
  const auto bad = [&](const char* id) {
    const auto checks = looked_at(p, host->last(), host->travel(), false);
    return std::any_of(checks.begin(), checks.end(), [&](const Check& c) { return c.id == id && !c.well; });
  };
  CHECK(bad("homed"));
  RunControls controls;
  auto end = run_on(stand, host, request_of(p, set->scratch.path / "runs"), controls);
  REQUIRE_FALSE(end);
  CHECK_THAT(end.error().what, Contains("where it stands"));
  home(*host);
  CHECK_FALSE(bad("homed"));
  CHECK(bad("cutter"));
  CHECK(bad("zero"));
  CHECK(bad("room"));
  well(lay_blank(*host, p.entry));
  prepare(*host, p.entry);
  for (const char* id : {"homed", "cutter", "zero", "room"}) CHECK_FALSE(bad(id));
  // Two runners on one machine.
  well(host->begin("held", 5));
  auto second = checked_host(std::make_unique<Wire>(stand.router, stand.clock));
  well(second->greet("another"));
  end = run_on(stand, second, request_of(p, set->scratch.path / "runs"), controls);
  REQUIRE_FALSE(end);
  CHECK_THAT(end.error().what, Contains("running"));
}

TEST_CASE("a line that the machine refuses ends the run with its words, before anything of it moves") {
  const auto set = written("coupon");
  Stand stand;
  auto host = stand.connect();
  home(*host);
  ProgramAtHand p = set->program(0);
  prepare(*host, p.entry);
  auto request = request_of(p, set->scratch.path / "runs");
  SECTION("a word it does not know") { request.text = "G21 G90 G94 G54\nG53 G0 Z0\nG1 X5 F200 Z-1 G05.9\nM30\n"; }
  SECTION("a place it cannot go to") { request.text = "G21 G90 G94 G54\nG53 G0 Z0\nG0 X5000\nM30\n"; }
  const standin::Place before = stand.router.at();
  RunControls controls;
  const auto end = run_on(stand, host, request, controls);
  REQUIRE(end);
  INFO(end->words);
  CHECK(end->run.outcome == "fault");
  CHECK(end->run.done == 2);
  CHECK_THAT(end->words, Contains("line 3"));
  CHECK(stand.router.at().x == before.x);
}

TEST_CASE("a program asks for a hand: the run waits, and goes on or stops as told") {
  Stand stand;
  auto host = stand.connect();
  home(*host);
  ManifestEntry::Tool t{"flat-3", 4, "flat", 3, 12, 20};
  well(put_cutter(*host, t));
  const Scratch scratch;
  RunRequest request = request_of("G21 G90 G94 G54\nG53 G0 Z0\nM0 (turn it over)\nT5 M6\nM30\n", scratch.path);
  RunControls controls;
  int asked = 0;
  const auto end = run_on(stand, host, request, controls, [&](const RunView& v) {
    if (!v.asks) return;
    ++asked;
    if (v.change_to == 5 && v.wants_z) {
      t.number = 5;
      controls.hand(
          "the cutter", [t](Host& h) { return put_cutter(h, t); }, false);
      controls.hand(
          "z", [](Host& h) { return h.line("G10 L2 P1 Z-60"); }, true);
    }
    controls.resume();
  });
  REQUIRE(end);
  CHECK(end->run.outcome == "done");
  CHECK(asked >= 2);
}

TEST_CASE("a machine that tells nothing but done is believed no further") {
  const auto set = written("coupon");
  Stand stand;
  {
    auto host = stand.connect();
    home(*host);
    well(lay_blank(*host, set->entries.front()));
    prepare(*host, set->entries.front());
  }
  PlainTalk talk;
  SECTION("it tells where it stands") {}
  SECTION("it tells nothing") { talk.ask_place.clear(); }
  std::unique_ptr<Host> host =
      plain_host(std::make_unique<Wire>(stand.router, stand.clock, 400, standin::Session::Mode::plain), talk);
  well(host->greet("test"));
  CHECK_FALSE(host->tells_lines());
  CHECK_FALSE(host->override_feed(50));
  CHECK_FALSE(host->touched());
  const ProgramAtHand p = set->program(0);
  RunControls controls;
  bool claimed = false;
  const auto end = run_on(stand, host, request_of(p, set->scratch.path / "runs"), controls,
                          [&](const RunView& v) { claimed = claimed || v.line != 0 || v.state.done.has_value(); });
  REQUIRE(end);
  INFO(end->words);
  CHECK(end->run.outcome == "done");
  CHECK_FALSE(end->known);
  CHECK_FALSE(claimed);
  if (talk.ask_place.empty()) CHECK_THAT(end->words, Contains("only the machine shows"));
  // Its other words are its own: a machine that says otherwise is not understood as done.
  talk.done = "good";
  auto other = plain_host(std::make_unique<Wire>(stand.router, stand.clock, 400, standin::Session::Mode::plain), talk);
  CHECK_FALSE(other->line("G21"));
}

TEST_CASE("machines that lie, babble or say nothing are told apart from machines") {
  struct Says : Link {
    std::string text;
    bool endless = false;
    double clock = 0;
    bool send(std::string_view) override { return true; }
    std::optional<std::string> receive(double seconds) override {
      clock += std::max(seconds, 0.01);
      if (endless) return std::string(100000, 'x');
      std::string out;
      out.swap(text);
      return out;
    }
    double now() const override { return clock; }
  };
  const auto greeted = [](const std::string& text, bool endless = false) {
    auto link = std::make_unique<Says>();
    link->text = text;
    link->endless = endless;
    return checked_host(std::move(link))->greet("test");
  };
  CHECK_FALSE(greeted(""));
  CHECK_FALSE(greeted("hello\r\nhello\r\n"));
  CHECK_FALSE(greeted("", true));
  CHECK_FALSE(greeted(sealed_line("welcome 2 abc 10 x 1 2 3")));
  const auto busy = greeted(sealed_line("busy somebody"));
  REQUIRE_FALSE(busy);
  CHECK(busy.error().kind == ProblemKind::held);
  CHECK_THAT(busy.error().what, Contains("somebody"));
  // A welcome and then silence: its state was never told.
  const auto silent = greeted(sealed_line("welcome 1 00000001 10 router 1 2 3"));
  REQUIRE_FALSE(silent);
  CHECK_THAT(silent.error().what, Contains("silent"));
  // States that are none.
  for (const char* text : {"st", "st 1 idle known - 1 1 a b c 0 0 0 0 0 0 0 0 0 0 0 -",
                           "st 1 idle maybe - 1 1 0 0 0 0 0 0 0 0 100 100 1 0 0 0 -",
                           "st 1 idle known - 1 1 nan 0 0 0 0 0 0 0 100 100 1 0 0 0 -", "ack 7"})
    CHECK_FALSE(state_from(text));
  const auto lost = state_from("st 1 alarm lost - 1 1 5 6 7 0 0 0 0 0 100 100 1 0 0 0 the power was gone");
  REQUIRE(lost);
  CHECK_FALSE(lost->at);  // a count it does not vouch for is no place
  CHECK(lost->why == "the power was gone");
}

TEST_CASE("acknowledgements of what was never sent are not believed") {
  struct Liar : Link {
    double clock = 0;
    std::string out = sealed_line("welcome 1 00000001 10 router 1 2 3") +
                      sealed_line("st 00000001 idle known - 0 0 0 0 0 0 0 0 0 0 100 100 1 0 0 0 -");
    bool send(std::string_view bytes) override {
      if (bytes.starts_with("st?"))
        out += sealed_line("st 00000001 idle known - 0 0 0 0 0 0 0 0 0 0 100 100 1 0 0 0 -");
      if (bytes.starts_with("L "))
        out += sealed_line("ack 4000000000") + sealed_line("ack 5") + sealed_line("again 0 x");
      return true;
    }
    std::optional<std::string> receive(double seconds) override {
      clock += std::max(seconds, 0.01);
      std::string text;
      text.swap(out);
      return text;
    }
    double now() const override { return clock; }
  };
  auto host = checked_host(std::make_unique<Liar>());
  well(host->greet("test"));
  const std::vector<std::string_view> lines{"G21", "G90", "M30"};
  const Sent sent = host->send(lines, 0.1);
  CHECK(sent.accepted == 0);
}

// Before a run: the very bytes that were proved, and nothing else.
#include <fmt/format.h>
#include <fstream>

#include "run/bench.hpp"
#include "core/program/restart.hpp"
#include "core/program/reader.hpp"

using namespace wren;
using Catch::Matchers::Contains;

namespace {
void put(const fs::path& file, const std::string& text) {
  std::ofstream(file, std::ios::binary | std::ios::trunc) << text;
}
}  // namespace

TEST_CASE("a program is only at hand with the certificate of its own bytes") {
  const auto set = written("coupon");
  const fs::path file = set->folder() / set->entries[1].file;
  const std::string good = *read_file(file, 1 << 24);
  REQUIRE(program_at_hand(file));
  CHECK_THAT(program_at_hand(file)->proved_for, Contains("assumed lengths of T1 slot-0.58"));
  const auto refused = [&](const char* words) {
    const auto p = program_at_hand(file);
    REQUIRE_FALSE(p);
    CHECK_THAT(p.error().text(), Contains(words));
  };
  SECTION("a byte changed") {
    std::string bent = good;
    bent[bent.size() / 2] = bent[bent.size() / 2] == '1' ? '2' : '1';
    put(file, bent);
    refused("not the program that was written");
  }
  SECTION("cut short") {
    put(file, good.substr(0, good.size() / 2));
    refused("not the program that was written");
  }
  SECTION("manifest and file changed alike") {
    std::string bent = good;
    bent += "(harmless)\n";
    put(file, bent);
    std::string manifest = *read_file(set->folder() / "manifest.json", 1 << 24);
    manifest.replace(manifest.find(sha256_hex(good)), 64, sha256_hex(bent));
    put(set->folder() / "manifest.json", manifest);
    refused("is not the program that was proved");
  }
  SECTION("another of the set is not what was proved") {
    put(set->folder() / set->entries[4].file, "G0 X0\n");
    refused("the set it belongs to");
  }
  SECTION("a verdict that says otherwise") {
    std::string proof = *read_file(set->folder() / "proof.json", 1 << 24);
    proof.replace(proof.find("\"PROVED\""), 8, "\"NOT WHOLE\"");
    put(set->folder() / "proof.json", proof);
    refused("does not say PROVED");
  }
  SECTION("no certificate") {
    fs::remove(set->folder() / "proof.json");
    CHECK_FALSE(program_at_hand(file));
  }
  SECTION("no manifest") {
    fs::remove(set->folder() / "manifest.json");
    refused("no manifest");
  }
  SECTION("a program of nobody's") {
    put(set->folder() / "stranger.ngc", "G0 X0\nM30\n");
    const auto p = program_at_hand(set->folder() / "stranger.ngc");
    REQUIRE_FALSE(p);
    CHECK_THAT(p.error().text(), Contains("does not name this program"));
  }
  SECTION("changed between the look and the run") {
    const auto p = program_at_hand(file);
    REQUIRE(still_the_same(*p));
    put(file, good + " ");
    CHECK_FALSE(still_the_same(*p));
  }
}

TEST_CASE(
    "a program that changes its cutter on the way is not run from here unless the machine knows its tools' lengths") {
  const auto set = written("coupon");
  ProgramAtHand p = set->program(0);
  MachineState there;
  const auto bad = [&] {
    const auto checks = looked_at(p, there, {}, false);
    return std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.id == "one-cutter" && !c.well; });
  };
  CHECK_FALSE(bad());
  p.entry.cutters.push_back(p.entry.cutters.front());
  CHECK(bad());
  p.text.insert(p.text.find("M3"), "G43 H1\n");
  CHECK_FALSE(bad());
}

TEST_CASE("what comes before is asked for until the log knows it as run, of these very files") {
  const auto set = written("coupon");
  auto book = ShopBook::open(set->scratch.path / "shop.sqlite", ShopBook::Begin::empty, {"now", "a test"});
  REQUIRE(book);
  std::size_t last = 0;
  for (std::size_t i = 0; i < set->entries.size(); ++i)
    if (!set->entries[i].after.empty()) last = i;
  const ProgramAtHand p = set->program(last);
  REQUIRE_FALSE(p.entry.after.empty());
  auto open = *not_run_yet(p, *book);
  CHECK(open == p.entry.after);
  const auto ask = to_ask(p, 0, open);
  CHECK(std::count_if(ask.begin(), ask.end(), [](const Question& q) { return q.id == "before"; }) ==
        static_cast<long>(open.size()));
  for (const char* id : {"cutter", "zero", "solids", "extraction", "eyes"})
    CHECK(std::any_of(ask.begin(), ask.end(), [&](const Question& q) { return q.id == id; }));
  int n = 0;
  for (const std::string& file : p.entry.after) {
    Run r;
    r.id = "r" + fmt::to_string(++n);
    r.began = "now";
    r.outcome = n == 1 ? "stopped" : "done";
    r.sha256 = sha256_hex(*read_file(set->folder() / file, 1 << 24));
    REQUIRE(book->write(r));
  }
  open = *not_run_yet(p, *book);
  CHECK(open == std::vector<std::string>{p.entry.after.front()});  // the stopped one
  // Raised by less than it cuts deep: the blank has to come off first.
  const auto air = to_ask(p, 0.5, {});
  CHECK(std::any_of(air.begin(), air.end(), [](const Question& q) { return q.id == "no-blank" && q.caution; }));
}

TEST_CASE("a program can be begun again where a rapid goes over everything, and its text is a whole program") {
  for (const char* part : {"coupon", "fretboard", "neck"}) {
    const auto m = made(*project_from("reedling"), part);
    const auto entries = *read_manifest(m.manifest(), "manifest");
    for (const ManifestEntry& e : entries) {
      const auto it = std::find_if(m.programs.begin(), m.programs.end(),
                                   [&](const PlacedProgram& p) { return p.file.file == e.file; });
      INFO(e.file);
      REQUIRE_FALSE(e.restart.empty());
      CHECK(e.restart == restart_lines(it->file.text.str()));
      CHECK(std::is_sorted(e.restart.begin(), e.restart.end()));
      ReadOptions options;
      options.machine_origin = [](int) { return Vec3{-250, -400, 90}; };
      const auto whole = read_program(it->file.text.str(), e.file, options);
      REQUIRE(whole);
      for (std::size_t k = 0; k < e.restart.size(); k += 1 + e.restart.size() / 4) {
        const std::uint32_t line = e.restart[k];
        const auto text = restart_text(it->file.text.str(), line);
        REQUIRE(text);
        const auto shift = *restart_shift(it->file.text.str(), line);
        const auto again = read_program(*text, e.file, options);
        INFO("line " << line << ": " << (again ? "" : again.error().text()));
        REQUIRE(again);
        CHECK(again->sealed);
        CHECK(again->ends);
        CHECK(again->stated == whole->stated);
        // From there on it moves as the program does, with the same feeds and speeds.
        std::size_t a = 0, b = 0;
        while (a < whole->moves.size() && whole->moves[a].line < line) ++a;
        while (b < again->moves.size() && again->moves[b].line <= shift.way_in) ++b;
        REQUIRE(whole->moves.size() - a == again->moves.size() - b);
        for (; a < whole->moves.size(); ++a, ++b) {
          const ReadMove &x = whole->moves[a], &y = again->moves[b];
          REQUIRE(std::abs(x.to.x - y.to.x) + std::abs(x.to.y - y.to.y) + std::abs(x.to.z - y.to.z) < 1e-6);
          REQUIRE(x.kind == y.kind);
          REQUIRE((x.kind == ReadKind::rapid || x.feed == y.feed));
          REQUIRE(x.rpm == y.rpm);
          REQUIRE(x.spindle == y.spindle);
          REQUIRE(static_cast<long>(y.line) + shift.shift == static_cast<long>(x.line));
        }
      }
      CHECK_FALSE(restart_text(it->file.text.str(), e.restart.back() + 1));
      CHECK_FALSE(restart_text(it->file.text.str(), 0));
    }
  }
  CHECK(restart_lines("nonsense").empty());
  CHECK(restart_lines("").empty());
}

// The journal of a run: it replays to the same log, whatever it was cut short by.
#include <csignal>
#include <fstream>
#include <sys/resource.h>
#include <sys/wait.h>

#include "run/bench.hpp"

using namespace wren;

namespace {

Run begun(const std::string& id) {
  Run r;
  r.id = id;
  r.began = "2026-11-26 10:00:00";
  r.project = "Reedling";
  r.program = "a \"quoted\" name.ngc";
  r.signed_by = "Zoë, 10:00";
  r.lines = 100;
  return r;
}

}  // namespace

TEST_CASE("a journal replays to the run it tells of, and to what is known of it where it was cut short") {
  const Scratch scratch;
  auto journal = Journal::begin(scratch.path, begun("one"));
  REQUIRE(journal);
  CHECK_FALSE(Journal::begin(scratch.path, begun("one")));  // one run, one journal
  REQUIRE(journal->write({0.5, "began", 0, "100 lines\nand more"}));
  REQUIRE(journal->write({3, "feed", 10, "60"}));
  for (std::uint32_t n = 1; n <= 40; ++n) REQUIRE(journal->progress(n * 0.3, n));
  REQUIRE(journal->end("stopped", "2026-11-26 10:05:00", 12.5, 40));
  const fs::path file = scratch.path / "one.journal";
  const auto whole = replay(file);
  REQUIRE(whole);
  CHECK(whole->outcome == "stopped");
  CHECK(whole->done == 40);
  CHECK(whole->real_seconds == 12.5);
  CHECK(whole->feed_low == 60);
  CHECK(whole->program == begun("").program);
  REQUIRE(whole->events.size() == 2);
  CHECK(whole->events[0].words == "100 lines\nand more");

  // Cut off at every byte, it is a story that is true as far as it goes, or none.
  const std::string bytes = *read_file(file, 1 << 20);
  std::uint32_t last = 0;
  for (std::size_t n = 0; n < bytes.size(); n += 7) {
    std::ofstream(file, std::ios::binary | std::ios::trunc) << bytes.substr(0, n);
    const auto part = replay(file);
    if (!part) continue;
    CHECK(part->outcome == "unknown");
    CHECK(part->done >= last);
    last = part->done;
    CHECK(part->done <= 40);
    CHECK(part->events.back().kind == "lost");
  }
  CHECK(last == 40);
  // A byte changed: what is behind it does not count.
  std::string bent = bytes;
  bent[bytes.size() / 2] ^= 1;
  std::ofstream(file, std::ios::binary | std::ios::trunc) << bent;
  const auto half = replay(file);
  REQUIRE(half);
  CHECK(half->outcome == "unknown");
  CHECK(half->done < 40);
  std::ofstream(file, std::ios::trunc) << "nothing of the kind\n";
  CHECK_FALSE(replay(file));
}

TEST_CASE("journals of programs that died go into the book as what they are; those of the living are left") {
  const Scratch scratch;
  auto book = ShopBook::open(scratch.path / "shop.sqlite", ShopBook::Begin::empty, {"now", "a test"});
  REQUIRE(book);
  const fs::path folder = journal_folder(book->file());
  const pid_t child = ::fork();
  if (child == 0) {
    auto journal = Journal::begin(folder, begun("dead"));
    (void)journal->write({1, "began", 0, "x"});
    (void)journal->progress(2, 17);
    ::kill(::getpid(), SIGKILL);
  }
  int status = 0;
  ::waitpid(child, &status, 0);
  auto living = Journal::begin(folder, begun("living"));
  REQUIRE(living);
  std::ofstream(folder / "broken.journal") << "garbage";
  const auto lost = take_journals(folder, *book);
  REQUIRE(lost);
  REQUIRE(lost->size() == 1);
  CHECK(lost->front().id == "dead");
  CHECK(book->run("dead")->done == 17);
  CHECK(book->run("dead")->outcome == "unknown");
  CHECK(fs::exists(folder / "living.journal"));
  CHECK_FALSE(fs::exists(folder / "dead.journal"));
  CHECK(fs::exists(folder / "broken.journal.damaged"));  // nothing is thrown away
  CHECK(take_journals(folder, *book)->empty());
}

TEST_CASE("a disk that fills up under a run is told, and the run is not lost") {
  const Scratch scratch;
  const pid_t child = ::fork();
  if (child == 0) {
    auto journal = Journal::begin(scratch.path, begun("full"));
    std::signal(SIGXFSZ, SIG_IGN);
    const rlimit little{2000, 2000};
    ::setrlimit(RLIMIT_FSIZE, &little);
    bool failed = false;
    for (std::uint32_t n = 0; n < 1000 && !failed; ++n) failed = !journal->progress(n, n);
    ::_exit(failed && !journal->whole() ? 0 : 1);
  }
  int status = 1;
  ::waitpid(child, &status, 0);
  CHECK(WEXITSTATUS(status) == 0);
  const auto run = replay(scratch.path / "full.journal");
  REQUIRE(run);
  CHECK(run->done > 0);
}

// The shop's book: every change a dated fact, nothing overwritten; old versions, damage, two programs, a kill.
#include <csignal>
#include <fstream>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fmt/format.h>
#include <soci/soci.h>
#include <soci/sqlite3/soci-sqlite3.h>

#include "core/document/files.hpp"
#include "core/document/project_file.hpp"
#include "core/parts/table.hpp"
#include "core/record/cutter_fields.hpp"
#include "core/record/session.hpp"

using namespace wren;
using Catch::Matchers::Contains;
namespace fs = std::filesystem;

namespace {

struct Folder {
  fs::path path = fs::temp_directory_path() / ("wren-shop-" + fmt::to_string(::getpid()) + "-" + random_name());
  Folder() { fs::create_directories(path); }
  ~Folder() { fs::remove_all(path); }
  [[nodiscard]] fs::path book() const { return path / "shop.sqlite"; }
};

const Told monday{"2026-11-23 09:00:00", "ann"};
const Told tuesday{"2026-11-24 10:00:00", "ben"};

ShopBook opened(const fs::path& file, ShopBook::Begin begin = ShopBook::Begin::empty) {
  auto book = ShopBook::open(file, begin, monday);
  INFO((book ? "" : book.error().text()));
  REQUIRE(book);
  return std::move(*book);
}

Cutter some(const std::string& id, int number) {
  Cutter c;
  c.id = id;
  c.number = number;
  return c;
}

Run some_run(const std::string& id) {
  Run r;
  r.id = id;
  r.began = monday.at;
  r.ended = tuesday.at;
  r.project = "Reedling";
  r.program = "a.ngc";
  r.cutter = "flat-6.35";
  r.cuts = "pocket";
  r.outcome = "done";
  r.planned_seconds = 100;
  r.real_seconds = 120;
  r.lines = r.done = 10;
  r.events = {{0, "began", 0, "10 lines"}, {60.5, "feed", 4, "80"}, {120, "done", 10, "Done"}};
  return r;
}

}  // namespace

TEST_CASE("a cutter's history is kept whole: added, measured, changed, retired, brought back") {
  const Folder folder;
  ShopBook book = opened(folder.book());
  Cutter c = some("flat-6", 5);
  c.diameter = 6;
  REQUIRE(book.add(c, monday, "new"));
  c.measured = 5.98;
  REQUIRE(book.change(c, tuesday));
  REQUIRE(book.change(c, tuesday));  // nothing new: no fact
  c.flutes = 3;
  REQUIRE(book.change(c, tuesday));
  REQUIRE(book.retire("flat-6", true, tuesday));
  REQUIRE(book.rack()->empty());
  REQUIRE(book.retire("flat-6", false, tuesday));
  const auto all = *book.history_of("flat-6");
  REQUIRE(all.size() == 5);
  const char* what[] = {"added", "measured", "changed", "retired", "brought back"};
  for (std::size_t i = 0; i < all.size(); ++i) CHECK(all[i].what == what[i]);
  CHECK_FALSE(all[0].thing.measured);
  CHECK(all[0].note == "new");
  CHECK(all[0].told.who == "ann");
  CHECK(all[1].thing.measured == 5.98);
  CHECK(all[1].thing.flutes == 2);
  CHECK(book.rack()->at(0) == c);
}

TEST_CASE("every number of every cutter comes back from the book as it went in") {
  const Folder folder;
  ShopBook book = opened(folder.book());
  Rack rack = default_rack();
  rack[3].measured = 3.168;
  rack[4].shank_diameter = 6.0;
  rack[4].collet = 6.35;
  rack[5].spiral = Spiral::compression;
  rack[6].lengths_measured = true;
  for (const Cutter& c : rack) REQUIRE(book.add(c, monday));
  CHECK(*book.rack() == rack);
  ShopMachine m;
  m.machine.name = "Träge \"alte\" Fräse";
  m.machine.travel = {612.5, 980.25, 88};
  m.machine.controller.tool_lengths = false;
  m.machine.change = CutterChange::magazine;
  m.address = "/dev/ttyUSB0";
  m.baud = 57600;
  m.talk.done = "fertig";
  m.talk.ask_place = "";
  REQUIRE(book.put(m, monday));
  CHECK(book.machines()->at(0).thing == m);
  Material oak = *material_like({}, "bog-oak", "cherry");
  oak.density = 812;
  REQUIRE(book.put(oak, monday));
  CHECK(book.materials()->at(0).thing == oak);
}

TEST_CASE("what cannot be a rack is refused in words, and nothing is changed") {
  const Folder folder;
  ShopBook book = opened(folder.book());
  REQUIRE(book.add(some("a", 1), monday));
  const auto refused = [&](const Cutter& c, const char* words) {
    const auto added = book.add(c, monday);
    REQUIRE_FALSE(added);
    CHECK_THAT(added.error().text(), Contains(words));
  };
  refused(some("b", 1), "T1 is a already");
  refused(some("a", 2), "there is a cutter 'a' already");
  Cutter long_flutes = some("c", 3);
  long_flutes.cutting_length = 50;
  refused(long_flutes, "cutting length of 50 mm in 38 mm overall");
  refused(some("", 3), "no name");
  refused(some("a b;DROP TABLE cutter_fact", 3), "no name");
  REQUIRE(book.retire("a", true, monday));
  REQUIRE(book.add(some("b", 1), monday));       // a retired one's number is free
  CHECK_FALSE(book.retire("a", false, monday));  // and then it cannot come back with it
  CHECK_FALSE(book.change(some("nobody", 4), monday));
  CHECK_FALSE(book.retire("nobody", true, monday));
  CHECK(book.cutters()->size() == 2);
  const ShopMachine usual;
  ShopMachine none = usual;
  none.machine.travel.x = 0;
  const auto put = book.put(none, monday);
  REQUIRE_FALSE(put);
  CHECK_THAT(put.error().text(), Contains("travel_x"));
  none = usual;
  none.machine.spindle_low = 30000;
  CHECK_FALSE(book.put(none, monday));
  none = usual;
  none.talk.error = none.talk.done;
  CHECK_FALSE(book.put(none, monday));
  CHECK(book.machines()->empty());
}

TEST_CASE("a first book holds a small rack to be checked, the demo shop only when asked") {
  const Folder folder;
  CHECK_FALSE(ShopBook::open(folder.book(), ShopBook::Begin::only_if_there, monday));
  CHECK_FALSE(fs::exists(folder.book()));
  {
    ShopBook book = opened(folder.book(), ShopBook::Begin::general_rack);
    CHECK(book.is_new());
    const auto all = *book.cutters();
    CHECK(all.size() == general_rack().size());
    for (const auto& e : all) CHECK(e.note == "check these against your own");
  }
  ShopBook again = opened(folder.book(), ShopBook::Begin::demo_shop);
  CHECK_FALSE(again.is_new());
  CHECK(again.cutters()->size() == general_rack().size());
  ShopBook demo = opened(folder.path / "demo.sqlite", ShopBook::Begin::demo_shop);
  CHECK(*demo.rack() == default_rack());
}

TEST_CASE("runs are kept with their events, once, and give the pace of a cutter at a kind of cut") {
  const Folder folder;
  ShopBook book = opened(folder.book());
  const Run one = some_run("one");
  REQUIRE(book.write(one));
  Run other = one;
  other.outcome = "stopped";
  REQUIRE(book.write(other));  // the same id: what was told first stays
  CHECK(*book.run("one") == one);
  Run air = some_run("air");
  air.air = true;
  air.began = tuesday.at;
  REQUIRE(book.write(air));
  Run broken = some_run("broken");
  broken.outcome = "fault";
  REQUIRE(book.write(broken));
  Run second = some_run("second");
  second.real_seconds = 100;
  REQUIRE(book.write(second));
  CHECK(book.runs()->front().id == "air");
  CHECK(book.runs(2)->size() == 2);
  const auto paces = *book.paces();
  REQUIRE(paces.size() == 1);
  CHECK(paces[0].runs == 2);
  CHECK(paces[0].ratio() == Approx(1.1).margin(1e-9));
  CHECK((*book.seconds_cut())["flat-6.35"] == Approx(340).margin(1e-6));
  REQUIRE(book.note("one", tuesday, "a burn at the end"));
  CHECK(book.run("one")->events.back().words == "2026-11-24 10:00:00 ben: a burn at the end");
  CHECK_FALSE(book.note("nobody", tuesday, "x"));
  CHECK_FALSE(book.note("one", tuesday, ""));
  CHECK_FALSE(book.run("nobody"));
  CHECK_FALSE(book.write(Run{}));
}

TEST_CASE(
    "a book of the first version is brought up to date with all its facts; one of a newer version is left alone") {
  const Folder folder;
  {
    // As the first version made it: no runs yet.
    soci::session sql(soci::sqlite3, "db=\"" + folder.book().string() + "\"");
    make_schema(sql, 0);
    for (const char* drop : {"DROP VIEW pace", "DROP TABLE run_event", "DROP TABLE run"}) sql << drop;
    sql << "UPDATE book SET value = '1' WHERE key = 'schema'";
    sql << "INSERT INTO cutter_fact VALUES (NULL, 'old', '2025-01-01', 'ann', 'added', '', 0, 7, 'ball', 6, 5.97, 3, "
           "118, "
           "2, 20, 50, 30, 20, 600, 1, 'up', NULL, NULL, 1)";
  }
  {
    ShopBook book = opened(folder.book());
    CHECK_FALSE(book.is_new());
    CHECK(book.rack()->at(0).measured == 5.97);
    CHECK(book.rack()->at(0).kind == CutterKind::ball);
    REQUIRE(book.write(some_run("first")));
    CHECK_FALSE(book.unsound());
  }
  {
    soci::session sql(soci::sqlite3, "db=\"" + folder.book().string() + "\"");
    sql << "UPDATE book SET value = '99' WHERE key = 'schema'";
  }
  const auto before = read_file(folder.book(), 1 << 24);
  const auto newer = ShopBook::open(folder.book(), ShopBook::Begin::general_rack, monday);
  REQUIRE_FALSE(newer);
  CHECK(newer.error().kind == ProblemKind::version);
  CHECK(*read_file(folder.book(), 1 << 24) == *before);
}

TEST_CASE("files that are no sound book are refused with a way out, and left as they are") {
  const Folder folder;
  const auto refused = [&](const std::string& bytes, const char* words) {
    std::ofstream(folder.book(), std::ios::binary) << bytes;
    auto book = ShopBook::open(folder.book(), ShopBook::Begin::general_rack, monday);
    std::optional<Problem> bad;
    if (!book)
      bad = book.error();
    else
      bad = book->unsound();
    REQUIRE(bad);
    CHECK_THAT(bad->text(), Contains(words));
    CHECK(read_file(folder.book(), 1 << 24)->substr(0, bytes.size()) == bytes);
    fs::remove(folder.book());
  };
  refused("this is a letter to my aunt, and longer than a header of a hundred bytes would be; so it is not one at all.",
          "damaged");
  {
    ShopBook book = opened(folder.book(), ShopBook::Begin::demo_shop);
    for (int k = 0; k < 60; ++k) REQUIRE(book.write(some_run("run" + fmt::to_string(k))));
  }
  std::string good = *read_file(folder.book(), 1 << 24);
  std::string half = good.substr(0, good.size() / 2 / 4096 * 4096);
  fs::remove(folder.book());
  refused(half, "damaged");
  std::string bent = good;
  for (std::size_t k = 8192; k < 12288; ++k) bent[k] = 'x';
  refused(bent, "damaged");
  {
    soci::session sql(soci::sqlite3, "db=\"" + folder.book().string() + "\"");
    sql << "CREATE TABLE recipes (name TEXT)";
  }
  const auto other = ShopBook::open(folder.book(), ShopBook::Begin::general_rack, monday);
  REQUIRE_FALSE(other);
  CHECK_THAT(other.error().what, Contains("no shop's book"));
  CHECK_FALSE(ShopBook::open(folder.path, ShopBook::Begin::general_rack, monday));
}

TEST_CASE("a book that cannot be written says so: no rights, a full disk, another program") {
  const Folder folder;
  {
    ShopBook book = opened(folder.book(), ShopBook::Begin::demo_shop);
    // Another program holds it: waited for five seconds, then told.
    soci::session other(soci::sqlite3, "db=\"" + folder.book().string() + "\"");
    other << "BEGIN IMMEDIATE";
    const auto held = book.add(some("late", 90), monday);
    REQUIRE_FALSE(held);
    CHECK(held.error().kind == ProblemKind::held);
    other << "ROLLBACK";
    REQUIRE(book.add(some("late", 90), monday));
  }
  // No byte more may be written: a child with a limit on file sizes, as a full disk has it.
  const pid_t child = ::fork();
  if (child == 0) {
    auto book = ShopBook::open(folder.book(), ShopBook::Begin::only_if_there, monday);
    std::signal(SIGXFSZ, SIG_IGN);
    const rlimit none{static_cast<rlim_t>(fs::file_size(folder.book())),
                      static_cast<rlim_t>(fs::file_size(folder.book()))};
    ::setrlimit(RLIMIT_FSIZE, &none);
    int failed = 0;
    for (int k = 0; k < 200 && book && failed == 0; ++k) failed = !book->write(some_run("full" + fmt::to_string(k)));
    ::_exit(failed != 0 ? 0 : 1);
  }
  int status = 1;
  ::waitpid(child, &status, 0);
  CHECK(WIFEXITED(status));
  CHECK(WEXITSTATUS(status) == 0);
  ShopBook book = opened(folder.book(), ShopBook::Begin::only_if_there);
  CHECK_FALSE(book.unsound());
  CHECK(book.rack()->size() == default_rack().size() + 1);
}

TEST_CASE("killed at any moment, the book keeps every fact that was told, and is sound") {
  const Folder folder;
  { opened(folder.book(), ShopBook::Begin::empty); }
  std::mt19937 random(11);
  int told = 0;
  // On a slow disk most are killed before they have told anything: then there are more of them.
  for (int round = 0; round < 12 || (told <= 20 && round < 300); ++round) {
    int pipe_ends[2];
    REQUIRE(::pipe(pipe_ends) == 0);
    const pid_t child = ::fork();
    if (child == 0) {
      ::close(pipe_ends[0]);
      auto book = ShopBook::open(folder.book(), ShopBook::Begin::only_if_there, monday);
      for (int k = 0; book; ++k) {
        const auto done = book->add(some(fmt::format("c{}-{}", round, k), 0), monday);
        const char byte = done ? '1' : '0';
        if (::write(pipe_ends[1], &byte, 1) != 1 || !done) break;
      }
      ::_exit(0);
    }
    ::close(pipe_ends[1]);
    ::usleep(static_cast<useconds_t>(3000 + random() % 60000));
    ::kill(child, SIGKILL);
    int status = 0;
    ::waitpid(child, &status, 0);
    char byte = 0;
    while (::read(pipe_ends[0], &byte, 1) == 1) told += byte == '1';
    ::close(pipe_ends[0]);
    ShopBook book = opened(folder.book(), ShopBook::Begin::only_if_there);
    CHECK_FALSE(book.unsound());
    CHECK(static_cast<int>(book.cutters()->size()) >= told);
    CHECK(static_cast<int>(book.cutters()->size()) <= told + round + 1);  // one a kill may be there and not told
  }
  CHECK(told > 20);
}

TEST_CASE("a backup is a whole book, and takes the place of one in a step") {
  const Folder folder;
  const fs::path copy = folder.path / "copy.sqlite";
  {
    ShopBook book = opened(folder.book(), ShopBook::Begin::demo_shop);
    REQUIRE(book.backup(copy));
    CHECK_FALSE(book.backup(copy));  // never over something
    REQUIRE(book.retire("flat-6.35", true, tuesday));
  }
  REQUIRE(restore_book(copy, folder.book(), tuesday));
  ShopBook back = opened(folder.book());
  CHECK(*back.rack() == default_rack());
  ShopBook before = opened(folder.book().string() + ".before");
  CHECK(before.rack()->size() == default_rack().size() - 1);
  std::ofstream(copy) << "gone";
  CHECK_FALSE(restore_book(copy, folder.book(), tuesday));
  CHECK(*opened(folder.book()).rack() == default_rack());
}

TEST_CASE("a project's copy of the rack is held against the shop's, cutter by cutter") {
  const Folder folder;
  ShopBook book = opened(folder.book(), ShopBook::Begin::demo_shop);
  Rack mine = default_rack();
  CHECK(rack_differences(mine, *book.cutters()).empty());
  mine[0].stickout = 17;
  mine.push_back(some("only-here", 90));
  mine.erase(mine.begin() + 1);
  REQUIRE(book.retire("flat-1.5", true, tuesday));
  const auto all = rack_differences(mine, *book.cutters());
  REQUIRE(all.size() == 4);
  const auto kind = [&](const std::string& id) {
    const auto it = std::find_if(all.begin(), all.end(), [&](const RackDifference& d) { return d.id == id; });
    REQUIRE(it != all.end());
    return it->kind;
  };
  CHECK(kind("slot-0.58") == RackDifference::Kind::differs);
  CHECK(all[0].what == std::vector<std::string>{"stickout 17 here, 15 in the shop"});
  CHECK(kind("only-here") == RackDifference::Kind::not_in_shop);
  CHECK(kind("slot-0.79") == RackDifference::Kind::not_in_project);
  CHECK(kind("flat-1.5") == RackDifference::Kind::retired_in_shop);
}

TEST_CASE("numbers of a cutter and a machine are given as a field takes them, in any unit") {
  const auto made = with_numbers(some("x", 3), {{"diameter", "1/4 in"},
                                                {"kind", "ball"},
                                                {"number", "12"},
                                                {"overall", "60"},
                                                {"cutting_length", "25.4"},
                                                {"measured", "6.32"}});
  REQUIRE(made);
  CHECK(made->diameter == Approx(6.35).margin(1e-9));
  CHECK(made->kind == CutterKind::ball);
  CHECK(made->number == 12);
  CHECK(made->measured == 6.32);
  CHECK_FALSE(with_numbers(some("x", 3), {{"nonsense", "1"}}));
  CHECK_FALSE(with_numbers(some("x", 3), {{"diameter", "thick"}}));
  CHECK_FALSE(with_numbers(some("x", 3), {{"cutting_length", "200"}}));
  const ShopMachine plain;
  for (const std::string& key : machine_keys()) {
    INFO(key);
    const auto text = machine_text(plain, key);
    const auto same = with_numbers(plain, {{key, text}});
    REQUIRE(same);
    CHECK(*same == plain);
  }
  CHECK_FALSE(with_numbers(plain, {{"travel_x", "0"}}));
  CHECK_FALSE(with_numbers(plain, {{"baud", "fast"}}));
  CHECK_FALSE(with_numbers(plain, {{"name", "x"}}));
}

TEST_CASE("an instrument has an id of its own, once, and another made like it gets another") {
  Project p;
  give_id(p, "short");
  CHECK(p.record.id.empty());
  give_id(p, "0123456789abcdef0123456789abcdef");
  const std::string id = p.record.id;
  CHECK(id.size() == 36);
  CHECK(id[14] == '4');
  CHECK(std::string("89ab").find(id[19]) != std::string::npos);
  give_id(p, "ffffffffffffffffffffffffffffffff");
  CHECK(p.record.id == id);
  const auto back = project_from_json(project_to_json(p), "x");
  REQUIRE(back);
  CHECK(back->record.id == id);
  CHECK(without_facts(p).record.id.empty());
}

TEST_CASE("the runs of one program are found by its bytes, the newest first, however many others there are") {
  const Folder folder;
  ShopBook book = opened(folder.book());
  for (int k = 0; k < 30; ++k) {
    Run r = some_run("other" + fmt::to_string(k));
    r.sha256 = "other";
    REQUIRE(book.write(r));
  }
  for (const char* at : {"2026-11-20 08:00:00", "2026-11-22 08:00:00", "2026-11-21 08:00:00"}) {
    Run r = some_run(at);
    r.began = at;
    r.sha256 = "mine";
    r.events = {{1, "note", 1, at}};
    REQUIRE(book.write(r));
  }
  const auto mine = book.runs_of("mine");
  REQUIRE(mine);
  REQUIRE(mine->size() == 3);
  CHECK((*mine)[0].id == "2026-11-22 08:00:00");
  CHECK((*mine)[2].id == "2026-11-20 08:00:00");
  CHECK((*mine)[0].events.back().words == "2026-11-22 08:00:00");
  CHECK(book.runs_of("nobody's")->empty());
  CHECK(book.runs_of("' OR 1 --")->empty());
}

// Files, their locks and the open document: what stands on disk is whole, and is what was meant, whoever else is at it.
#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <filesystem>
#include <thread>
#include <fstream>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include "support/made.hpp"

using namespace wren;
using Catch::Matchers::Contains;
namespace fs = std::filesystem;

namespace {

struct Folder {
  fs::path path = fs::temp_directory_path() / ("wren-files-" + fmt::to_string(::getpid()) + "-" + random_name());
  Folder() { fs::create_directories(path); }
  ~Folder() { fs::remove_all(path); }
  [[nodiscard]] std::size_t entries() const {
    return static_cast<std::size_t>(std::distance(fs::directory_iterator(path), fs::directory_iterator()));
  }
};

void put(const fs::path& file, const std::string& text) { std::ofstream(file, std::ios::binary) << text; }
std::string get(const fs::path& file) { return read_file(file, 64 << 20).value_or("(unreadable)"); }
mode_t mode_of(const fs::path& file) {
  struct stat now {};
  ::stat(file.c_str(), &now);
  return now.st_mode & 07777;
}
const Holder somebody{"a test", "14:32"};

/// Another process that does something and then stands still until it is killed, so that its locks are seen from
/// outside.
class Other {
 public:
  explicit Other(const std::function<void()>& what) {
    int ready[2];
    if (::pipe(ready) != 0) throw std::runtime_error("no pipe");
    pid_ = ::fork();
    if (pid_ == 0) {
      what();
      static_cast<void>(!::write(ready[1], "x", 1));
      for (;;) ::pause();
    }
    char c = 0;
    static_cast<void>(!::read(ready[0], &c, 1));
    ::close(ready[0]);
    ::close(ready[1]);
  }
  ~Other() { kill(); }
  void kill() {
    if (pid_ <= 0) return;
    ::kill(pid_, SIGKILL);
    ::waitpid(pid_, nullptr, 0);
    pid_ = -1;
  }

 private:
  pid_t pid_ = -1;
};

Project named(const std::string& name) {
  Project p = *project_from("plain");
  p.name = name;
  return p;
}
Document opened(const fs::path& file) {
  Document d(all_parts().book(), Project());
  REQUIRE(d.open(file, somebody, {}));
  return d;
}
void edit(Document& d, const std::string& key, const std::string& text) {
  d.history().change(*with_edits(d.project(), {{key, text}}), "edit");
}

}  // namespace

TEST_CASE("saving keeps a link a link, a file its mode, and leaves nothing beside") {
  const Folder folder;
  put(folder.path / "true.wren", "old");
  ::chmod((folder.path / "true.wren").c_str(), 0640);
  fs::create_directory(folder.path / "links");
  fs::create_symlink("../true.wren", folder.path / "links" / "first");
  fs::create_symlink("first", folder.path / "links" / "second");
  REQUIRE(write_file_atomically(folder.path / "links" / "second", "new"));
  CHECK(fs::is_symlink(folder.path / "links" / "second"));
  CHECK(fs::is_symlink(folder.path / "links" / "first"));
  CHECK(get(folder.path / "true.wren") == "new");
  CHECK(mode_of(folder.path / "true.wren") == 0640);
  CHECK(folder.entries() == 2);
  // A link that leads nowhere yet makes the file it names; one that leads round in a circle is refused.
  fs::create_symlink("fresh.wren", folder.path / "dangling");
  REQUIRE(write_file_atomically(folder.path / "dangling", "x"));
  CHECK(get(folder.path / "fresh.wren") == "x");
  CHECK(fs::is_symlink(folder.path / "dangling"));
  fs::create_symlink("b", folder.path / "a");
  fs::create_symlink("a", folder.path / "b");
  CHECK_FALSE(write_file_atomically(folder.path / "a", "x"));
}

TEST_CASE("what is given away by root keeps its owner") {
  if (::geteuid() != 0) return;  // only root can give a file away
  const Folder folder;
  const fs::path file = folder.path / "theirs.wren";
  put(file, "old");
  REQUIRE(::chown(file.c_str(), 12345, 23456) == 0);
  std::vector<std::string> notes;
  REQUIRE(write_file_atomically(file, "new", &notes));
  struct stat now {};
  REQUIRE(::stat(file.c_str(), &now) == 0);
  CHECK(now.st_uid == 12345);
  CHECK(now.st_gid == 23456);
  CHECK(notes.empty());
}

TEST_CASE("where the system does not let a file keep its owner, it says so") {
  if (::geteuid() != 0) return;
  const Folder folder;
  ::chmod(folder.path.c_str(), 0777);
  const fs::path file = folder.path / "theirs.wren";
  put(file, "old");
  REQUIRE(::chown(file.c_str(), 12345, 12345) == 0);
  const pid_t child = ::fork();
  if (child == 0) {
    if (::setgid(23456) != 0 || ::setuid(23456) != 0) ::_exit(9);
    std::vector<std::string> notes;
    const bool written = write_file_atomically(file, "new", &notes).has_value();
    ::_exit(written && notes.size() == 1 && notes[0].find("owner") != std::string::npos ? 0 : 1);
  }
  int status = 0;
  ::waitpid(child, &status, 0);
  CHECK(WEXITSTATUS(status) == 0);
  CHECK(get(file) == "new");
}

TEST_CASE("devices, pipes and folders are neither read nor written") {
  const Folder folder;
  REQUIRE(::mkfifo((folder.path / "pipe").c_str(), 0600) == 0);
  fs::create_directory(folder.path / "folder");
  CHECK_THAT(read_file(folder.path / "pipe", 100).error().what, Contains("a pipe"));
  CHECK_THAT(read_file("/dev/zero", 100).error().what, Contains("a device"));
  CHECK_THAT(read_file(folder.path, 100).error().what, Contains("a folder"));
  CHECK_THAT(write_file_atomically(folder.path / "pipe", "x").error().what, Contains("a pipe"));
  CHECK_THAT(write_file_atomically(folder.path / "folder", "x").error().what, Contains("a folder"));
  CHECK_THAT(write_file_atomically("/dev/null", "x").error().what, Contains("a device"));
  CHECK(fs::is_fifo(folder.path / "pipe"));
  CHECK(folder.entries() == 2);
}

TEST_CASE("names as long as the system takes can be saved, longer ones are refused in words") {
  const Folder folder;
  for (const std::size_t length : {240U, 245U, 250U, 255U}) {
    const fs::path file = folder.path / (std::string(length - 5, 'n') + ".wren");
    INFO(length);
    REQUIRE(save_project(file, named("long")));
    Document d = opened(file);
    edit(d, "frets.count", "23");
    REQUIRE(d.autosave());
    CHECK(lost_work(all_parts().book(), file));
    REQUIRE(d.save(file, somebody));
    CHECK_FALSE(lost_work(all_parts().book(), file));
  }
  const auto refused = save_project(folder.path / std::string(300, 'n'), named("x"));
  REQUIRE_FALSE(refused);
  CHECK(refused.error().kind == ProblemKind::file);
}

TEST_CASE("what a killed program left is cleared away, and what one alive is writing is not") {
  const Folder folder;
  const auto old = [](const fs::path& p) {
    fs::last_write_time(p, fs::file_time_type::clock::now() - std::chrono::minutes(5));
  };
  const fs::path dead = folder.path / name_while_written();
  const fs::path young = folder.path / name_while_written();
  const fs::path alive = folder.path / name_while_written();
  const fs::path set = folder.path / name_while_written();
  for (const fs::path& p : {dead, young, alive}) put(p, "half");
  fs::create_directory(set);
  put(set / "a.ngc", "half");
  put(folder.path / ".wren-notes.txt", "the maker's own");
  for (const fs::path& p : {dead, alive, set, folder.path / ".wren-notes.txt"}) old(p);
  Other writer([&] {
    const int fd = ::open(alive.c_str(), O_RDONLY);
    static_cast<void>(::flock(fd, LOCK_EX));
  });
  REQUIRE(write_file_atomically(folder.path / "x", "x"));
  CHECK_FALSE(fs::exists(dead));
  CHECK_FALSE(fs::exists(set));
  CHECK(fs::exists(young));
  CHECK(fs::exists(alive));
  CHECK(fs::exists(folder.path / ".wren-notes.txt"));
  writer.kill();
  REQUIRE(write_file_atomically(folder.path / "x", "y"));
  CHECK_FALSE(fs::exists(alive));
}

TEST_CASE("a link laid under the name of a file being written is not followed") {
  const Folder folder;
  put(folder.path / "target", "precious");
  // Names while writing cannot be guessed; and none is used that stands already.
  CHECK(name_while_written() != name_while_written());
  CHECK(name_while_written().size() > 16);
  fs::create_symlink(folder.path / "target", beside(folder.path / "p.wren", "lock"));
  CHECK_FALSE(FileLock::take(folder.path / "p.wren", somebody, {}));
  CHECK(get(folder.path / "target") == "precious");
}

TEST_CASE("an export does not write over a project") {
  const Folder folder;
  REQUIRE(save_project(folder.path / "p.wren", named("p")));
  REQUIRE(save_project(folder.path / "copy.pdf", named("p")));  // a project under another ending
  put(folder.path / "old.pdf", "%PDF-1.4 an older sheet");
  CHECK_THAT(write_export(folder.path / "p.wren", "%PDF").error().what, Contains("a project stands there"));
  CHECK_THAT(write_export(folder.path / "other.wren", "%PDF").error().what, Contains("a project"));
  CHECK_THAT(write_export(folder.path / "copy.pdf", "%PDF").error().what, Contains("a project stands there"));
  CHECK(write_export(folder.path / "old.pdf", "%PDF"));
  CHECK(load_project(folder.path / "p.wren"));
}

TEST_CASE("a second writer is told who holds the file, and takes over from the dead") {
  const Folder folder;
  const fs::path file = folder.path / "p.wren";
  REQUIRE(save_project(file, named("p")));
  fs::create_symlink("p.wren", folder.path / "link.wren");
  Other window([&] {
    static auto held = FileLock::take(file, {"the window", "2026-11-25 14:32"}, {});
    if (!held) ::_exit(1);
  });
  for (const fs::path& name : {file, folder.path / "link.wren"}) {
    const auto before = std::chrono::steady_clock::now();
    const auto refused = FileLock::take(name, somebody, std::chrono::milliseconds(200));
    REQUIRE_FALSE(refused);
    CHECK(refused.error().kind == ProblemKind::held);
    CHECK_THAT(refused.error().what, Contains("the window since 2026-11-25 14:32") && Contains("process"));
    CHECK(std::chrono::steady_clock::now() - before >= std::chrono::milliseconds(200));
  }
  CHECK(load_project(file));  // readers never wait
  window.kill();
  CHECK(fs::exists(beside(file, "lock")));  // left behind
  {
    const auto taken = FileLock::take(file, somebody, {});
    REQUIRE(taken);
    CHECK_FALSE(FileLock::take(file, somebody, {}));  // for this process too
  }
  CHECK_FALSE(fs::exists(beside(file, "lock")));
}

TEST_CASE("of many processes that count in one file, none loses what another counted") {
  const Folder folder;
  const fs::path file = folder.path / "count";
  put(file, "0");
  std::vector<pid_t> children;
  for (int k = 0; k < 6; ++k) {
    const pid_t child = ::fork();
    if (child == 0) {
      for (int i = 0; i < 15; ++i) {
        const auto lock = FileLock::take(file, somebody, std::chrono::seconds(60));
        if (!lock) ::_exit(1);
        const int now = std::stoi(get(file));
        if (!write_file_atomically(file, fmt::to_string(now + 1))) ::_exit(2);
      }
      ::_exit(0);
    }
    children.push_back(child);
  }
  for (const pid_t child : children) {
    int status = 0;
    ::waitpid(child, &status, 0);
    CHECK(WEXITSTATUS(status) == 0);
  }
  CHECK(get(file) == "90");
  CHECK(folder.entries() == 1);
}

TEST_CASE("an open file holds its lock, and another document only looks at it") {
  const Folder folder;
  const fs::path file = folder.path / "p.wren";
  REQUIRE(save_project(file, named("p")));
  Document first = opened(file);
  CHECK_FALSE(first.held_by());
  Document second = opened(file);
  REQUIRE(second.held_by());
  CHECK(second.held_by()->kind == ProblemKind::held);
  edit(second, "frets.count", "23");
  const auto refused = second.save(file, somebody);
  REQUIRE_FALSE(refused);
  CHECK(refused.error().kind == ProblemKind::held);
  CHECK(board_of(*load_project(file)).instrument.frets.count != 23);
  // Under another name it is its own.
  REQUIRE(second.save(folder.path / "q.wren", somebody));
  CHECK_FALSE(second.held_by());
  CHECK_FALSE(FileLock::take(folder.path / "q.wren", somebody, {}));
  edit(first, "frets.count", "21");
  REQUIRE(first.save(file, somebody));
  CHECK(board_of(*load_project(file)).instrument.frets.count == 21);
  // Open again what is open already; and go over to another file: the first one is free.
  REQUIRE(first.open(file, somebody, {}));
  CHECK_FALSE(first.held_by());
  REQUIRE(save_project(folder.path / "r.wren", named("r")));
  REQUIRE(first.open(folder.path / "r.wren", somebody, {}));
  CHECK(FileLock::take(file, somebody, {}));
  // A file that cannot be opened leaves everything as it was, lock and all.
  put(folder.path / "broken.wren", "{");
  CHECK_FALSE(first.open(folder.path / "broken.wren", somebody, {}));
  CHECK(first.path() == folder.path / "r.wren");
  CHECK_FALSE(FileLock::take(folder.path / "r.wren", somebody, {}));
}

TEST_CASE("a file that another program changed is not written over unasked") {
  const Folder folder;
  const fs::path file = folder.path / "p.wren";
  REQUIRE(save_project(file, named("p")));
  Document d = opened(file);
  edit(d, "frets.count", "23");
  // By a program that knows no lock: an editor, a copy from a stick.
  const Project theirs = *with_edits(named("p"), {{"strings.count", "7"}, {"machine.travel_x", "900"}});
  REQUIRE(save_project(file, theirs));
  const auto refused = d.save(file, somebody);
  REQUIRE_FALSE(refused);
  CHECK(refused.error().kind == ProblemKind::changed);
  CHECK(*load_project(file) == theirs);
  // What differs, number by number.
  std::map<std::string, std::pair<std::string, std::string>> found;
  for (const Difference& x : differences(all_parts().book(), d.project(), *d.on_disk()))
    found[x.key] = {x.here, x.there};
  CHECK(found.size() == 3);
  CHECK(found["frets.count"].first == "23");
  CHECK(found["strings.count"].second == "7");
  CHECK(found["machine.travel_x"].second == "900");
  // Over it, theirs is kept beside.
  REQUIRE(d.save(file, somebody, Document::Over::theirs));
  CHECK(*load_project(file) == d.project());
  CHECK(*load_project(folder.path / "p.wren.bak") == theirs);
  edit(d, "frets.count", "22");
  CHECK(d.save(file, somebody));  // our own saving is no change
  // A file that is gone is simply written again.
  fs::remove(file);
  edit(d, "frets.count", "24");
  CHECK(d.save(file, somebody));
  CHECK(board_of(*load_project(file)).instrument.frets.count == 24);
}

TEST_CASE(
    "unsaved work is found after a kill, whatever was done to the file since, and not once it was saved or let go") {
  const Folder folder;
  const fs::path file = folder.path / "p.wren";
  const FieldBook& book = all_parts().book();
  REQUIRE(save_project(file, named("p")));
  CHECK_FALSE(lost_work(book, file));
  {
    Other window([&] {
      static Document d(all_parts().book(), Project());
      if (!d.open(file, somebody, {})) ::_exit(1);
      edit(d, "frets.count", "23");
      if (!d.autosave()) ::_exit(1);
    });
    window.kill();
  }
  REQUIRE(lost_work(book, file));
  // A later time of the file itself says nothing: another command may have written it.
  fs::last_write_time(file, fs::file_time_type::clock::now() + std::chrono::hours(1));
  REQUIRE(lost_work(book, file));
  Document d = opened(file);
  CHECK(board_of(d.project()).instrument.frets.count != 23);
  d.restore(*lost_work(book, file));
  CHECK(board_of(d.project()).instrument.frets.count == 23);
  CHECK(d.history().undo_name() == "Restore unsaved work");
  REQUIRE(d.save(file, somebody));
  CHECK_FALSE(lost_work(book, file));
  CHECK(folder.entries() == 2);  // the file and its lock
  // Let go.
  edit(d, "frets.count", "20");
  REQUIRE(d.autosave());
  REQUIRE(lost_work(book, file));
  d.discard_autosave();
  CHECK_FALSE(lost_work(book, file));
  // Kept aside: not asked for again, and not lost.
  edit(d, "frets.count", "19");
  REQUIRE(d.autosave());
  put_aside(*lost_work(book, file));
  CHECK_FALSE(lost_work(book, file));
  CHECK(fs::exists(folder.path / ".p.wren.autosave.bak"));
}

TEST_CASE("unsaved work is found beside a file that is broken, which is kept when it is saved over") {
  const Folder folder;
  const fs::path file = folder.path / "p.wren";
  REQUIRE(save_project(file, named("p")));
  {
    Document d = opened(file);
    edit(d, "frets.count", "23");
    REQUIRE(d.autosave());
  }
  const std::string half = get(file).substr(0, 500);
  put(file, half);
  const auto lost = lost_work(all_parts().book(), file);
  REQUIRE(lost);
  Document d(all_parts().book(), Project());
  REQUIRE_FALSE(d.open(file, somebody, {}));
  REQUIRE(d.restore_over(*lost, somebody));
  CHECK(d.path() == file);
  CHECK(board_of(d.project()).instrument.frets.count == 23);
  REQUIRE(d.save(file, somebody));
  CHECK(board_of(*load_project(file)).instrument.frets.count == 23);
  CHECK(get(folder.path / "p.wren.bak") == half);
}

TEST_CASE("work that never had a file is kept too, each window's under a name of its own") {
  const Folder folder;
  const fs::path home = folder.path / "unsaved";
  const FieldBook& book = all_parts().book();
  {
    const auto window = [&](const char* frets) {
      return [&home, frets] {
        static Document d(all_parts().book(), *project_from("bass"), home);
        edit(d, "frets.count", frets);
        if (!d.autosave()) ::_exit(1);
      };
    };
    Other one(window("19"));
    Other two(window("22"));
    CHECK(lost_work_in(book, home).empty());  // both are alive
    one.kill();
    REQUIRE(lost_work_in(book, home).size() == 1);
    CHECK(board_of(lost_work_in(book, home)[0].project).instrument.frets.count == 19);
    two.kill();
  }
  auto lost = lost_work_in(book, home);
  REQUIRE(lost.size() == 2);
  Document d(book, *project_from("plain"), home);
  d.restore(lost[0]);
  CHECK(d.path().empty());
  REQUIRE(d.autosave());  // and it is kept on
  REQUIRE(d.save(folder.path / "named.wren", somebody));
  lost = lost_work_in(book, home);
  CHECK(lost.size() == 1);
}

TEST_CASE("an autosave is only written where there is something new, and over nobody's lost work") {
  const Folder folder;
  const fs::path file = folder.path / "p.wren";
  REQUIRE(save_project(file, named("p")));
  Document d = opened(file);
  REQUIRE(d.autosave());
  CHECK_FALSE(fs::exists(beside(file, "autosave")));  // nothing was changed
  REQUIRE(save_project(beside(file, "autosave"), named("lost")));
  edit(d, "frets.count", "23");
  REQUIRE(d.autosave());
  CHECK(load_project(folder.path / ".p.wren.autosave.bak")->name == "lost");
  CHECK(board_of(*load_project(beside(file, "autosave"))).instrument.frets.count == 23);
}

TEST_CASE("unsaved work is written on another thread while the document goes on") {
  const Folder folder;
  const fs::path file = folder.path / "p.wren";
  REQUIRE(save_project(file, named("p")));
  Document d = opened(file);
  const FieldBook& book = all_parts().book();
  CHECK_FALSE(d.unkept());
  for (int frets = 19; frets < 25; ++frets) {
    edit(d, "frets.count", fmt::format("{}", frets));
    const auto work = d.unkept();
    REQUIRE(work);
    CHECK((!work->others || frets == 19));
    Expected<void> written;
    std::thread writer([&] { written = Document::keep(book, *work); });
    edit(d, "board.overhang", fmt::format("{}", frets / 4.0));  // meanwhile
    writer.join();
    REQUIRE(written);
    d.kept(*work);
    // What was asked for stands there; what came meanwhile is still to be kept.
    const Project there = *load_project(beside(file, "autosave"));
    CHECK(board_of(there).instrument.frets.count == frets);
    CHECK(board_of(there).instrument.board.overhang != frets / 4.0);
    REQUIRE(d.unkept());
    CHECK(d.unkept()->revision > work->revision);
    CHECK_FALSE(d.unkept()->others);
  }
  REQUIRE(d.autosave());
  CHECK_FALSE(d.unkept());
  CHECK_FALSE(fs::exists(folder.path / ".p.wren.autosave.bak"));  // its own is nobody's lost work
  REQUIRE(d.save(file, somebody));
  CHECK_FALSE(fs::exists(beside(file, "autosave")));
}

TEST_CASE("undo never touches what was measured and made") {
  History h(*project_from("plain"));
  Project p = h.now();
  board_of(p).instrument.frets.count = 23;
  REQUIRE(h.change(p, "frets"));
  p = *with_edits(h.now(), {{"measured.neck.heel_width", "55.4"}});
  REQUIRE(h.change(p, "measure"));
  CHECK(h.undo_name() == "frets");  // a fact is no step
  p = h.now();
  note_fact(all_parts(), p, "neck.cut.back.finish", "2026-11-25");
  h.set_record(p.record);
  REQUIRE(h.undo());
  CHECK(board_of(h.now()).instrument.frets.count != 23);
  CHECK(h.now().record.measured.size() == 1);
  CHECK(h.now().record.facts.size() == 1);
  REQUIRE(h.redo());
  CHECK(h.now().record.measured.size() == 1);
  // A gesture given up, a fact said meanwhile.
  p = h.now();
  board_of(p).instrument.frets.count = 20;
  REQUIRE(h.change(p, "drag", "m"));
  p = h.now();
  p.record.folder = "/programs";
  REQUIRE(h.change(p, "where"));
  REQUIRE(h.give_up());
  CHECK(board_of(h.now()).instrument.frets.count == 23);
  CHECK(h.now().record.folder == "/programs");
}

TEST_CASE("a thousand steps of a large drawing have an end in bytes, and the last can be taken back") {
  Project p = *project_from("plain");
  Path path(2000);
  for (std::size_t k = 0; k < path.size(); ++k) path[k].at = {static_cast<double>(k), 0};
  for (int k = 0; k < 40; ++k) body_of(p).body.drawn.push_back({"c", path, false, 10});
  History h(p);
  const std::size_t once = body_of(p).drawn_bytes();
  REQUIRE(once > 4 << 20);
  for (int k = 0; k < 300; ++k) {
    p = h.now();
    body_of(p).body.drawn[0].depth = 11 + k;
    REQUIRE(h.change(std::move(p), "deeper"));
  }
  CHECK(h.bytes() <= (257U << 20));
  CHECK(h.steps() < 80);
  CHECK(h.steps() > 20);
  REQUIRE(h.undo());
  CHECK(body_of(h.now()).body.drawn[0].depth == 309);
  // Steps that share the drawing weigh little.
  History light(p);
  for (int k = 0; k < 500; ++k) {
    p = light.now();
    board_of(p).instrument.board.overhang = 1 + 0.01 * k;
    REQUIRE(light.change(std::move(p), "end"));
  }
  CHECK(light.steps() == 501);
}

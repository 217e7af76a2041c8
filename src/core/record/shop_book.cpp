#include "core/record/shop_book.hpp"

#include <algorithm>
#include <cstdlib>

#include <fmt/format.h>
#include <soci/sqlite3/soci-sqlite3.h>

#include "core/document/files.hpp"
#include "core/record/session.hpp"

namespace wren {

namespace fs = std::filesystem;

Problem book_problem(const std::exception& e, const fs::path& file) {
  const std::string said = e.what();
  const auto has = [&](const char* words) { return said.find(words) != std::string::npos; };
  if (has("malformed") || has("not a database"))
    return {ProblemKind::format, "the shop's book is damaged", file.string(),
            "Restore it from a backup; the damaged file is left as it is"};
  if (has("locked") || has("busy"))
    return {ProblemKind::held, "another program is writing into the shop's book", file.string(), "Try again"};
  if (has("readonly") || has("read-only"))
    return {ProblemKind::file, "the shop's book cannot be written", file.string(), "Check your rights there"};
  if (has("full"))
    return {ProblemKind::file, "there is no room for the shop's book: the disk is full", file.string(),
            "Make room; what was there is whole"};
  return {ProblemKind::file, "the shop's book cannot be used: " + said, file.string(),
          "Check the file and your rights"};
}

ShopBook::ShopBook(std::unique_ptr<Session> session) : session_(std::move(session)) {}
ShopBook::ShopBook(ShopBook&&) noexcept = default;
ShopBook& ShopBook::operator=(ShopBook&&) noexcept = default;
ShopBook::~ShopBook() = default;
const fs::path& ShopBook::file() const { return session_->file; }
bool ShopBook::is_new() const { return session_->is_new; }

fs::path shop_file() {
  const char* data = std::getenv("XDG_DATA_HOME");
  const char* home = std::getenv("HOME");
  const fs::path base = data != nullptr && *data == '/'    ? fs::path(data)
                        : home != nullptr && *home != '\0' ? fs::path(home) / ".local" / "share"
                                                           : fs::temp_directory_path();
  return base / "upland-wren" / "shop.sqlite";
}

Rack general_rack() {
  Rack out;
  for (const Cutter& c : default_rack())
    for (const char* id :
         {"slot-0.58", "flat-3.175", "flat-6.35", "flat-6.35-long", "ball-6.35", "facing-25", "drill-3.2"})
      if (c.id == id) out.push_back(c);
  return out;
}

Expected<ShopBook> ShopBook::open(const fs::path& file, Begin begin, const Told& told) {
  std::error_code ignored;
  const bool there = fs::exists(file, ignored);
  if (!there && begin == Begin::only_if_there)
    return fail(ProblemKind::file, "there is no shop's book yet", file.string(),
                "Make one: wren rack --new general, or --new demo");
  if (there && !fs::is_regular_file(file, ignored))
    return fail(ProblemKind::file, "this is no file", file.string(), "Name the shop's book");
  if (file.string().find('"') != std::string::npos)
    return fail(ProblemKind::input, "the name of the shop's book has a quotation mark in it", file.string(),
                "Choose another");
  if (!there) {
    fs::create_directories(file.parent_path().empty() ? "." : file.parent_path(), ignored);
    if (ignored)
      return fail(ProblemKind::file, "its folder cannot be made: " + ignored.message(), file.parent_path().string(),
                  "Check your rights there");
  }
  auto session = std::make_unique<Session>();
  session->file = file;
  int version = 0;
  try {
    session->sql.open(soci::sqlite3, fmt::format("db=\"{}\" timeout=5 synchronous=full", file.string()));
    session->sql << "PRAGMA foreign_keys = ON";
    int tables = 0;
    session->sql << "SELECT count(*) FROM sqlite_master WHERE name = 'book'", soci::into(tables);
    int others = 0;
    session->sql << "SELECT count(*) FROM sqlite_master", soci::into(others);
    if (tables == 0 && others > 0)
      return fail(ProblemKind::format, "this database is no shop's book", file.string(), "Name another file");
    if (tables != 0) {
      std::string said;
      soci::indicator found = soci::i_null;
      session->sql << "SELECT value FROM book WHERE key = 'schema'", soci::into(said, found);
      version = found == soci::i_ok ? std::atoi(said.c_str()) : 0;
      if (version <= 0)
        return fail(ProblemKind::format, "the shop's book does not say its version", file.string(),
                    "Restore it from a backup");
      if (version > schema)
        return fail(ProblemKind::version,
                    worded("the shop's book is of version {}, and {} is read here", version, schema), file.string(),
                    "Open it with the newer program; it is left as it is");
    } else if (there && fs::file_size(file, ignored) > 0 && !ignored && others > 0) {
      return fail(ProblemKind::format, "this is no shop's book", file.string(), "Name another file");
    }
  } catch (const std::exception& e) {
    return tl::unexpected(book_problem(e, file));
  }
  session->is_new = version == 0;
  ShopBook book(std::move(session));
  if (version < schema) {
    auto made = in_one_step(*book.session_, [&]() -> Expected<void> {
      // Another program may have been quicker.
      int tables = 0;
      book.session_->sql << "SELECT count(*) FROM sqlite_master WHERE name = 'run'", soci::into(tables);
      if (tables == 0)
        make_schema(book.session_->sql, version);
      else
        book.session_->is_new = false;
      return {};
    });
    if (!made) return tl::unexpected(made.error());
  }
  if (book.session_->is_new && begin != Begin::empty && begin != Begin::only_if_there) {
    const bool demo = begin == Begin::demo_shop;
    for (const Cutter& c : demo ? default_rack() : general_rack())
      if (auto added = book.add(c, told, demo ? "the demo shop's" : "check these against your own"); !added)
        return tl::unexpected(added.error());
    ShopMachine machine;
    if (!demo) machine.machine.name = "My machine";
    if (demo) machine.address = "127.0.0.1:7311";
    if (auto added = book.put(machine, told); !added) return tl::unexpected(added.error());
  }
  return book;
}

std::optional<Problem> ShopBook::unsound() {
  try {
    std::string said;
    session_->sql << "PRAGMA integrity_check(1)", soci::into(said);
    if (said != "ok")
      return Problem{ProblemKind::format, "the shop's book is damaged: " + said, session_->file.string(),
                     "Restore it from a backup"};
    return {};
  } catch (const std::exception& e) {
    return book_problem(e, session_->file);
  }
}

Expected<void> ShopBook::backup(const fs::path& to) {
  std::error_code ignored;
  if (fs::exists(to, ignored))
    return fail(ProblemKind::file, "something stands there already", to.string(), "Choose another name");
  try {
    const std::string name = to.string();
    session_->sql << "VACUUM INTO :name", soci::use(name);
    return {};
  } catch (const std::exception& e) {
    fs::remove(to, ignored);
    return tl::unexpected(book_problem(e, to));
  }
}

Expected<void> restore_book(const fs::path& backup, const fs::path& file, const Told& told) {
  {
    auto book = ShopBook::open(backup, ShopBook::Begin::only_if_there, told);
    if (!book) return tl::unexpected(book.error());
    if (const auto bad = book->unsound()) return tl::unexpected(*bad);
  }
  constexpr std::size_t most = std::size_t{1} << 30;
  const auto bytes = read_file(backup, most);
  if (!bytes) return tl::unexpected(bytes.error());
  std::error_code ignored;
  if (fs::exists(file, ignored)) {
    const auto now = read_file(file, most);
    if (!now) return tl::unexpected(now.error());
    if (auto kept = write_file_atomically(file.string() + ".before", *now); !kept) return kept;
  }
  return write_file_atomically(file, *bytes);
}

}  // namespace wren

// The open file behind ShopBook, for this room's own sources: everything that the database library throws becomes a
// Problem here.
#pragma once

#include <soci/soci.h>

#include "core/record/shop_book.hpp"

namespace wren {

struct ShopBook::Session {
  soci::session sql;
  std::filesystem::path file;
  bool is_new = false;
};

/// What the library says, as a problem with a way out.
[[nodiscard]] Problem book_problem(const std::exception& e, const std::filesystem::path& file);

/// Runs `work` in a transaction that is begun for writing; taken back where it throws or refuses.
template <class Work>
Expected<void> in_one_step(ShopBook::Session& s, Work work) {
  bool open = false;
  try {
    s.sql << "BEGIN IMMEDIATE";
    open = true;
    if (auto done = work(); !done) {
      s.sql << "ROLLBACK";
      return done;
    }
    s.sql << "COMMIT";
    return {};
  } catch (const std::exception& e) {
    const Problem problem = book_problem(e, s.file);
    try {
      if (open) s.sql << "ROLLBACK";
    } catch (const std::exception&) {  // the library has taken it back itself
    }
    return tl::unexpected(problem);
  }
}

/// The same for reading.
template <class Work>
auto looked_up(ShopBook::Session& s, Work work) -> Expected<decltype(work())> {
  try {
    return work();
  } catch (const std::exception& e) {
    return tl::unexpected(book_problem(e, s.file));
  }
}

/// The next fact about something needs a place in its history: the latest row of each, as SQL.
void make_schema(soci::session& sql, int from);

}  // namespace wren

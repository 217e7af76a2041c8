// Problem: the one way this program says that something given to it (a text, a file, a number) cannot be used.
// A Problem names what is wrong, where, and what to do about it. Exceptions are kept for broken promises inside the
// program.
#pragma once

#include <string>

#include <tl/expected.hpp>

#include "core/words/words.hpp"

namespace wren {

enum class ProblemKind {
  input,        // a text or value that cannot be understood
  range,        // understood, but outside what is possible
  file,         // cannot be opened, read or written
  format,       // a file that is damaged or of another kind
  version,      // a file made by a newer program
  unsupported,  // understood and refused on purpose
  held,         // in use by another program
  changed,      // not what it was when it was read: somebody else has changed it
  stopped,      // the user stopped it: an outcome, not a fault
};

struct Problem {
  ProblemKind kind = ProblemKind::input;
  Words what;         // one sentence
  std::string where;  // file, line, JSON path, field or column; may be empty
  Words todo;         // what the user can do; may be empty

  /// "where: what. todo", for a terminal or a log; for others than those in their own words.
  [[nodiscard]] std::string text(const Audience& audience = {}) const;
};

template <class T>
using Expected = tl::expected<T, Problem>;

[[nodiscard]] inline tl::unexpected<Problem> fail(ProblemKind kind, Words what, std::string where = {},
                                                  Words todo = {}) {
  return tl::unexpected<Problem>(Problem{kind, std::move(what), std::move(where), std::move(todo)});
}

}  // namespace wren

// What a call says and where it reads: a document goes to standard output, everything else about it beside it; `-` is
// standard input or output; how far a long call is stands on a terminal only.
#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <string>

#include <nlohmann/json.hpp>

#include "core/report/problem.hpp"
#include "core/report/progress.hpp"

namespace wren::cli {

using Json = nlohmann::ordered_json;

/// The one name that is no file: standard input or output.
[[nodiscard]] inline bool is_stream(const std::string& name) { return name == "-"; }

/// Only what was asked for and what is wrong from here on.
void be_quiet();
[[nodiscard]] bool quiet();
/// From here on standard output carries a document: what is said goes to standard error.
void give_document();

/// What was done; nothing when quiet.
void say(const std::string& sentence);
/// Worth knowing beside what was asked for: to standard error, nothing when quiet.
void note(const std::string& sentence);
/// A document as JSON: an object that begins with its `schema` and `version`.
void print(const std::string& schema, const Json& doc);

/// All of standard input, once for each call. Refused where it is longer than `most` bytes or was read already.
[[nodiscard]] Expected<std::string> read_stream(std::size_t most);
/// A file's text, or that of standard input.
[[nodiscard]] Expected<std::string> read_text(const std::string& name, std::size_t most);

/// A file to read from, for readers that go by a name's ending; standard input is kept in a file of its own meanwhile,
/// with the ending that its first bytes tell.
class Source {
 public:
  [[nodiscard]] static Expected<Source> of(const std::string& name);
  [[nodiscard]] const std::string& path() const { return path_; }

 private:
  std::string path_;
  std::shared_ptr<void> kept_;
};
/// A file to write to; where standard output is meant, one of its own that is copied there by `give`.
class Target {
 public:
  /// `ending` with its dot, for a file that stands for standard output.
  [[nodiscard]] static Expected<Target> of(const std::string& name, const std::string& ending);
  [[nodiscard]] const std::string& path() const { return path_; }
  /// Returns the exit code: a broken file or stream is told.
  [[nodiscard]] int give() const;

 private:
  std::string path_;
  std::shared_ptr<void> kept_;
};

/// How far a long call is, on one line of a terminal; silent elsewhere and when quiet. The line is wiped at the end.
class Meter {
 public:
  explicit Meter(std::string what);
  ~Meter();
  Meter(const Meter&) = delete;
  Meter& operator=(const Meter&) = delete;
  /// What the call takes; nullptr where nobody looks.
  [[nodiscard]] Progress* progress() { return progress_.get(); }

 private:
  std::string what_;
  std::unique_ptr<Progress> progress_;
};

}  // namespace wren::cli

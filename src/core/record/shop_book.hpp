// The shop's book: cutters with the history of their measures, machines, materials and runs, in one SQLite file that
// any SQLite tool reads (docs/shop-book.md). Every change is a dated fact; nothing is overwritten. Through a library
// that speaks to a server too. One object is one thread's; several programs may have the file open. mm, seconds.
#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/report/problem.hpp"
#include "core/workshop/cutter.hpp"
#include "core/workshop/machine.hpp"
#include "core/workshop/material.hpp"

namespace wren {

/// Who says it, and when: passed in, "2026-11-26 14:05:09".
struct Told {
  std::string at;
  std::string who;
};

/// One fact of a thing's history: what it was from then on.
template <class Thing>
struct Entry {
  Thing thing;
  Told told;
  std::string what;      // "added", "changed", "measured", "retired", "brought back"
  std::string note;      // "check these against your own"
  bool retired = false;  // from then on
};

/// The words of a controller that answers one line with one line.
struct PlainTalk {
  std::string done = "done";        // a line that begins so: it was taken
  std::string error = "error";      // it was refused
  std::string stopped = "stopped";  // the machine has stopped by itself
  std::string ask_place = "where";  // asks where it stands; empty: it does not tell
  std::string place = "at";         // a line that begins so and has X, Y and Z in it, counts of the machine
  std::string hold = "hold";
  std::string resume = "go";
  std::string stop = "halt";
  friend bool operator==(const PlainTalk&, const PlainTalk&) = default;
};

struct ShopMachine {
  Machine machine;      // its name is its identity
  std::string address;  // "127.0.0.1:7311", "/dev/ttyUSB0"; empty: fed by hand
  long baud = 115200;   // of a serial line
  PlainTalk talk;
  friend bool operator==(const ShopMachine&, const ShopMachine&) = default;
};

/// What happened during a run, in order.
struct RunEvent {
  double seconds = 0;  // since it began
  std::string kind;  // "began", "feed", "spindle", "held", "resumed", "stopped", "fault", "cutter", "lost", "note", …
  std::uint32_t line = 0;
  std::string words;
  friend bool operator==(const RunEvent&, const RunEvent&) = default;
};

/// One program that was run, or begun.
struct Run {
  std::string id;  // unique
  std::string began, ended;
  std::string instrument;  // the project's id
  std::string project, part, piece, side;
  std::string program, sha256;
  std::string cutter;  // rack identity
  std::string cuts;    // what it makes: "slots", "finish"
  std::string machine;
  std::string signed_by;
  std::string proved_for;  // the verdict and what it rests on
  std::string outcome;     // "done", "stopped", "fault", "unknown"
  bool air = false;
  double planned_seconds = 0, real_seconds = 0;
  std::uint32_t lines = 0, done = 0;
  std::uint32_t from = 1;                  // line it was begun at
  double feed_low = 100, feed_high = 100;  // overrides used, percent
  std::vector<RunEvent> events;
  friend bool operator==(const Run&, const Run&) = default;
};

/// How long runs really took against what was planned, by cutter and kind of cut.
struct Pace {
  std::string cutter, cuts;
  int runs = 0;
  double planned_seconds = 0, real_seconds = 0;
  [[nodiscard]] double ratio() const { return planned_seconds > 0 ? real_seconds / planned_seconds : 1; }
};

class ShopBook {
 public:
  enum class Begin { only_if_there, general_rack, demo_shop, empty };
  static constexpr int schema = 2;

  /// Opens the book, brings an older one up to date, and makes one where there is none as `begin` says. Refused: it is
  /// from a newer version, damaged, no shop's book, cannot be written.
  [[nodiscard]] static Expected<ShopBook> open(const std::filesystem::path& file, Begin begin, const Told& told);
  ShopBook(ShopBook&&) noexcept;
  ShopBook& operator=(ShopBook&&) noexcept;
  ~ShopBook();

  [[nodiscard]] const std::filesystem::path& file() const;
  /// Was made by this call of `open`.
  [[nodiscard]] bool is_new() const;

  /// As they are now, retired ones too, by T number.
  [[nodiscard]] Expected<std::vector<Entry<Cutter>>> cutters();
  /// The rack to work from: what is not retired.
  [[nodiscard]] Expected<Rack> rack();
  [[nodiscard]] Expected<std::vector<Entry<Cutter>>> history_of(const std::string& cutter);
  /// Refused: what check_cutter says; an id or number that another cutter of the rack has.
  [[nodiscard]] Expected<void> add(const Cutter& cutter, const Told& told, const std::string& note = {});
  /// The next fact about a cutter: "measured" where only measures differ, else "changed"; no fact where nothing
  /// differs.
  [[nodiscard]] Expected<void> change(const Cutter& cutter, const Told& told, const std::string& note = {});
  [[nodiscard]] Expected<void> retire(const std::string& cutter, bool retired, const Told& told);

  [[nodiscard]] Expected<std::vector<Entry<ShopMachine>>> machines();
  /// Adds it, or notes what is different from now on. Refused: a machine of 0 mm, a feed of nothing.
  [[nodiscard]] Expected<void> put(const ShopMachine& machine, const Told& told);
  [[nodiscard]] Expected<void> retire_machine(const std::string& name, bool retired, const Told& told);

  [[nodiscard]] Expected<std::vector<Entry<Material>>> materials();
  [[nodiscard]] Expected<void> put(const Material& material, const Told& told);

  /// A run with all that happened, in one step. A run that is there already is left as it is.
  [[nodiscard]] Expected<void> write(const Run& run);
  /// The newest first.
  [[nodiscard]] Expected<std::vector<Run>> runs(std::size_t most = 100);
  /// All runs of one program, by the hash of its bytes, the newest first.
  [[nodiscard]] Expected<std::vector<Run>> runs_of(const std::string& sha256);
  [[nodiscard]] Expected<Run> run(const std::string& id);
  /// Something to say about a run, later.
  [[nodiscard]] Expected<void> note(const std::string& run, const Told& told, const std::string& words);
  /// Of runs that were cut to their end and not through air.
  [[nodiscard]] Expected<std::vector<Pace>> paces();
  /// Seconds that each cutter has cut.
  [[nodiscard]] Expected<std::map<std::string, double>> seconds_cut();

  /// A whole copy as one file. Refused where something stands there.
  [[nodiscard]] Expected<void> backup(const std::filesystem::path& to);
  /// What is wrong with the file, checked through; nothing where it is sound.
  [[nodiscard]] std::optional<Problem> unsound();

  struct Session;  // of the library; for this room's own sources

 private:
  explicit ShopBook(std::unique_ptr<Session> session);
  std::unique_ptr<Session> session_;
};

/// A backup takes the book's place; what stood there is kept beside it, its name with ".before". Refused, and nothing
/// is changed, where the backup is not sound or from a newer version.
[[nodiscard]] Expected<void> restore_book(const std::filesystem::path& backup, const std::filesystem::path& file,
                                          const Told& told);

/// Where the book is when nobody says otherwise: below $XDG_DATA_HOME, or ~/.local/share.
[[nodiscard]] std::filesystem::path shop_file();

/// Reasons why a machine is none; empty when it is sound.
[[nodiscard]] std::vector<Problem> check_machine(const ShopMachine& machine);

/// The small rack that a shop begins with: to be checked against one's own.
[[nodiscard]] Rack general_rack();

/// Where a project's copy of a cutter and the shop's differ.
struct RackDifference {
  std::string id;
  enum class Kind { differs, not_in_shop, retired_in_shop, not_in_project } kind = Kind::differs;
  std::vector<std::string> what;  // "diameter 3.175 here, 3.16 in the shop"
  Cutter here, shop;
};
[[nodiscard]] std::vector<RackDifference> rack_differences(const Rack& project, const std::vector<Entry<Cutter>>& shop);

}  // namespace wren

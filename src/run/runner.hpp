// The runner: one program sent to a machine, line by checked line, watched to its end, with a journal. It is told from
// the machine's state, never the other way round: where the machine says nothing, it says that it does not know. It
// blocks; a window runs it on a thread of its own and speaks to it through RunControls. mm, s.
#pragma once

#include <atomic>
#include <functional>
#include <mutex>

#include "run/host.hpp"
#include "run/journal.hpp"
#include "run/preflight.hpp"

namespace wren {

/// What whoever watches may ask for at any moment, from any thread.
class RunControls {
 public:
  void hold() { hold_ = true; }
  void resume() { resume_ = true; }
  void stop() { stop_ = true; }
  void feed(double percent) { feed_ = percent; }
  void spindle(double percent) { spindle_ = percent; }
  /// "It did not look right": goes into the record with the line that is being cut.
  void remark(std::string words) {
    const std::lock_guard guard(mutex_);
    remarks_.push_back(std::move(words));
  }
  /// Something done by hand while the program waits for one: a cutter put in, z anew (`sets_z`). Refused, in the run's
  /// record, at any other time.
  void hand(std::string what, std::function<Expected<void>(Host&)> deed, bool sets_z) {
    const std::lock_guard guard(mutex_);
    hands_.push_back({std::move(what), std::move(deed), sets_z});
  }

 private:
  friend class Runner;
  struct Hand {
    std::string what;
    std::function<Expected<void>(Host&)> deed;
    bool sets_z = false;
  };
  std::atomic<bool> hold_{false}, resume_{false}, stop_{false};
  std::atomic<double> feed_{0}, spindle_{0};
  std::mutex mutex_;
  std::vector<std::string> remarks_;
  std::vector<Hand> hands_;
};

/// How far it is, as often as the machine tells.
struct RunView {
  MachineState state;
  std::uint32_t lines = 0;
  std::uint32_t line = 0;  // of the program, as the machine has told; 0: unknown, or not yet
  double seconds = 0;      // since it began
  double left = 0;         // by the plan, what is left; 0 where nothing can be said
  std::string words;       // "Cutting line 120 of 363"
  bool asks = false;       // it waits for a hand: resume or stop; another line is another asking
  int change_to = 0;       // it waits for this tool to be put in; 0: for something else, or not at all
  bool wants_z = false;    // z is to be set with that cutter before it goes on
  std::string told;        // what came of the last thing done by hand
  bool told_bad = false;
};

/// Kind of the event where the machine held and nobody had asked it to; "held" is the watcher's.
inline constexpr const char* held_by_itself = "held by itself";

struct RunRequest {
  std::string id;     // unique; names the journal
  std::string began;  // time of day
  std::string text;   // what is sent
  Run facts;          // what goes into the log: program, hash, cutter, who signed…
  double raise = 0;   // mm, of an air pass
  double planned_seconds = 0;
  std::filesystem::path journals;
  /// Connects anew where the link goes; nothing: it cannot be tried.
  std::function<Expected<std::unique_ptr<Host>>()> again{};
  std::function<std::string()> time_of_day{};
  double patience = 20;  // s that a lost link is tried for
};

struct RunEnd {
  Run run;              // as it goes into the log
  MachineState state;   // the last that the machine told
  bool known = false;   // it knows where it stands, and has told it
  std::string words;    // how it ended, in a sentence
  bool raised = false;  // the air pass' raise could not be taken back: zero is to be set again
};

class Runner {
 public:
  using Watch = std::function<void(const RunView&)>;
  Runner(std::unique_ptr<Host>& host, RunControls& controls, Watch watch)
      : host_(host), controls_(controls), watch_(std::move(watch)) {}
  /// Refused where it cannot begin (journal, machine, air pass); otherwise how it ended.
  [[nodiscard]] Expected<RunEnd> run(const RunRequest& request);

 private:
  [[nodiscard]] Expected<void> raise_zero(double by);
  void obey();
  void do_by_hand();
  [[nodiscard]] bool may_go_on();
  /// The tool that a line soon after the last done one puts in, where the program waits for it.
  [[nodiscard]] int tool_waited_for() const;
  enum class Found { same, other, nobody };  // the machine as it was; another power-on or program; no answer
  [[nodiscard]] Found reconnect();
  void note(const std::string& kind, std::uint32_t line, const std::string& words);
  void tell(const std::string& words, bool asks);
  /// Seconds since it began: by the machine's own clock of work where it tells one, else by ours.
  [[nodiscard]] double passed() const;
  std::unique_ptr<Host>& host_;
  RunControls& controls_;
  Watch watch_;
  const RunRequest* request_ = nullptr;
  std::vector<std::string_view> lines_;
  Run run_;
  std::optional<Journal> journal_;
  std::string boot_;
  double began_ = 0;
  double clock_began_ = 0;
  bool held_ = false;
  double raise_ = 0, zero_z_ = 0;  // of an air pass; where z's zero is without it
  bool lengths_in_table_ = false;  // the program takes each cutter's length from the machine's table (G43)
  bool waits_ = false, z_set_ = false;
  int change_to_ = 0;
  std::uint32_t wait_line_ = 0;
  std::string hand_told_;
  bool hand_bad_ = false;
};

/// The lines of a program as they are sent: without their ends, no empty one after the last.
[[nodiscard]] std::vector<std::string_view> lines_to_send(std::string_view text);

/// What goes into the log of a program at hand, before it runs.
[[nodiscard]] Run facts_of(const ProgramAtHand& program, const std::string& instrument, const std::string& machine,
                           const std::string& signed_by);

/// Keeps the computer awake while it lives, where the system can be asked to; `held()` says whether it could.
class Awake {
 public:
  Awake();
  ~Awake();
  Awake(const Awake&) = delete;
  Awake& operator=(const Awake&) = delete;
  [[nodiscard]] bool held();

 private:
  int child_ = -1;
};

}  // namespace wren

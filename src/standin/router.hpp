// The stand-in machine itself: what it is doing, where it stands, what is in its spindle, and the wood on its bed. It
// lives on the time it is given (`advance`), takes program lines one by one (`accept`), and can be made to fail. It is
// one thread's own. mm, s; machine frame: x and y from home over the bed, z from 0 at home down.
#pragma once

#include <cstdint>
#include <deque>
#include <map>
#include <optional>
#include <random>
#include <string>
#include <vector>

#include "standin/drive.hpp"
#include "standin/wood.hpp"
#include "standin/words.hpp"

namespace standin {

enum class State { unhomed, idle, homing, moving, running, holding, held, waiting, alarm };
[[nodiscard]] const char* state_word(State state);

enum class Fault {
  line_lost,
  byte_changed,
  line_twice,
  answer_late,
  connection_gone,
  switch_stuck,
  power_cut,
  emergency_stop,
  limit_hit,
  cutter_broken,
  probe_open,
};
[[nodiscard]] const char* fault_word(Fault fault);
[[nodiscard]] std::optional<Fault> fault_from(std::string_view word);
inline constexpr int fault_count = 11;

struct Frame {
  Place travel{700, 1000, 100};
  Limits limits;
  double clear_under_nut = 110;  // from the bed to the nut with z at home
  double spindle_high = 24000;
  double switch_repeats = 0.004;  // homing is off by so much at most, each axis
  double probe_repeats = 0.003;   // and a probe's touch
  std::uint32_t seed = 1;
};

class Router {
 public:
  explicit Router(const Frame& frame);

  static constexpr std::size_t most_lines = 1024;  // accepted and not yet run
  static constexpr std::size_t most_deeds = 100000;

  /// A program of so many lines begins; its lines count from 1. Refused with a sentence unless it is idle and homed.
  std::string begin(const std::string& name, std::uint32_t lines);
  /// The next line of it. Refused: nothing of it is done, the lines before it are, and then the machine holds.
  std::string accept(std::string_view text);
  /// A line by hand, outside of any program (zero, a move, probing). While a program waits for a hand, the hand's lines
  /// are run and it waits on.
  std::string by_hand(std::string_view text);
  /// A line of the plain mode, where nobody tells a program's from a hand's: one after another.
  std::string plain_line(std::string_view text);
  [[nodiscard]] bool room() const { return pending_lines_ < most_lines && deeds_.size() < most_deeds; }

  [[nodiscard]] std::size_t waiting_deeds() const { return deeds_.size(); }

  /// Lives on for so long, or until there is nothing to do; what it lived.
  double advance(double seconds);

  std::string home();
  std::string jog(Place by, double feed);
  std::string hold();
  std::string resume();
  /// Brakes, then forgets the program; it knows where it stands.
  std::string stop();
  /// The emergency stop: stands at once, without power to the axes; where it stands is lost if it was moving.
  void emergency();
  /// Out of an alarm, once its cause is gone.
  std::string unlock();
  std::string set_feed(double percent);
  std::string set_spindle(double percent);
  /// A hand puts a cutter into the collet. Refused while the spindle turns.
  std::string put_cutter(int tool, const CutterShape& shape);
  std::string lay(const Wood::Block& block);
  std::string turn(bool about_x, double x, double y);

  /// Fails so once the program has run its line `at` (0: at once, or at the next occasion).
  void arm(Fault fault, std::uint32_t at);
  /// From here on every program meets one fault of any kind at one of its lines, both by this seed.
  void fail_by_seed(std::uint32_t seed) { fault_random_.emplace(seed); }
  /// Faults that have not come yet.
  [[nodiscard]] std::size_t faults_left() const { return faults_.size(); }
  /// What the wire is to do wrong at line `n`, told once.
  [[nodiscard]] std::optional<Fault> wire_fault(std::uint32_t n);

  [[nodiscard]] State state() const { return state_; }
  [[nodiscard]] const std::string& why() const { return why_; }  // of an alarm, a refused line, what it waits for
  [[nodiscard]] bool known() const { return homed_; }
  [[nodiscard]] Place at() const { return drive_.at(); }
  [[nodiscard]] Place zero() const { return reader_.zero; }
  [[nodiscard]] std::uint32_t accepted() const { return accepted_; }
  [[nodiscard]] std::uint32_t done() const { return done_; }
  [[nodiscard]] bool ended() const { return ended_; }
  [[nodiscard]] const std::string& program() const { return program_; }
  [[nodiscard]] int tool() const { return tool_; }      // 0: nobody has told
  [[nodiscard]] int wanted() const { return wanted_; }  // tool that it waits for
  [[nodiscard]] bool turning() const { return turning_ != 0; }
  [[nodiscard]] double rpm() const { return turning_ != 0 ? rpm_ * spindle_share_ : 0; }
  [[nodiscard]] double feed_share() const { return drive_.feed_share(); }
  [[nodiscard]] double spindle_share() const { return spindle_share_; }
  [[nodiscard]] double speed() const { return drive_.speed(); }
  [[nodiscard]] std::optional<Place> touched() const { return touched_; }
  [[nodiscard]] std::uint32_t boot() const { return boot_; }
  [[nodiscard]] double clock() const { return clock_; }
  [[nodiscard]] const Wood& wood() const { return wood_; }
  [[nodiscard]] Wood& wood() { return wood_; }
  [[nodiscard]] const Frame& frame() const { return frame_; }
  /// What went wrong in the wood: rapids through it, a cutter that stood still in it.
  [[nodiscard]] const std::vector<std::string>& hits() const { return hits_; }
  /// Lines that were run, as they came: the machine's own story. Kept for tests and the log on disk.
  struct Ran {
    std::string program;
    std::uint32_t line = 0;
    std::string text;
  };
  [[nodiscard]] const std::vector<Ran>& story() const { return story_; }
  void forget_story() { story_.clear(); }

 private:
  struct Task {
    Deed deed;
    std::uint32_t line = 0;
    bool last = false;  // of its line
    bool program = false;
  };
  std::string take(std::string_view text, bool program);
  std::string read(std::string_view text, std::uint32_t number);
  void read_on();
  [[nodiscard]] std::string outside(Place to) const;
  void start_deeds();
  void run_tick();
  void tick_home();
  void tick_probe();
  void finish(std::uint32_t line);
  void cut_to(Place count, bool rapid);
  void alarm(std::string why);
  void forget_program();
  void power_cut();
  void look_at_faults();
  [[nodiscard]] Place tip(Place count) const;  // blank's frame
  Frame frame_;
  std::mt19937 random_;
  Reader reader_;
  Drive drive_;
  Wood wood_;
  CutterShape cutter_;
  bool whole_ = true;  // the cutter is not broken
  State state_ = State::unhomed;
  State goes_back_to_ = State::idle;
  std::string why_;
  std::string refused_;  // a line of the program: told when those before it are done
  bool homed_ = false;
  Place error_;  // of the counts, since the last homing
  std::deque<Task> deeds_;
  std::deque<std::pair<std::uint32_t, std::string>> texts_;   // accepted, not done
  std::deque<std::pair<std::uint32_t, std::string>> unread_;  // accepted behind a stop: zero may be another after it
  bool stop_ahead_ = false;
  State after_wait_ = State::running;
  /// What a program goes on with after a hand's own lines in a wait.
  struct Aside {
    std::deque<Task> deeds;
    Reader reader;
  };
  std::optional<Aside> aside_;
  std::size_t pending_lines_ = 0;
  std::uint32_t boot_ = 1;
  std::string program_;
  std::uint32_t lines_ = 0, accepted_ = 0, done_ = 0;
  bool ended_ = false, finished_ = false, stopping_ = false;  // finished: by its own M2 or M30
  double dwell_ = 0;
  int turning_ = 0;
  double rpm_ = 0, spindle_share_ = 1;
  int tool_ = 0, wanted_ = 0;
  std::optional<Place> touched_;
  std::optional<Deed> probing_;
  Place cut_from_;
  double clock_ = 0;
  std::multimap<std::uint32_t, Fault> faults_;
  std::optional<std::mt19937> fault_random_;
  std::vector<std::string> hits_;
  std::vector<Ran> story_;
  std::vector<Drive::Ended> ended_pieces_;
};

}  // namespace standin

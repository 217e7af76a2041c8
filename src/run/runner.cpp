#include "run/runner.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>

#include <fcntl.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fmt/format.h>

#include "run/at_machine.hpp"

namespace wren {
namespace {

constexpr double told_every = 0.1;     // s between two looks at the machine where it does not tell by itself
constexpr double place_agrees = 0.01;  // mm between what was asked for and what the machine counts

}  // namespace

std::vector<std::string_view> lines_to_send(std::string_view text) {
  std::vector<std::string_view> out;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    std::string_view line = text.substr(0, end);
    if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
    out.push_back(line);
    text.remove_prefix(std::min(end + 1, text.size()));
  }
  return out;
}

Run facts_of(const ProgramAtHand& p, const std::string& instrument, const std::string& machine,
             const std::string& signed_by) {
  Run run;
  run.instrument = instrument;
  run.project = p.project;
  run.part = p.entry.part;
  run.piece = p.entry.piece;
  run.side = p.entry.side;
  run.program = p.entry.file;
  run.sha256 = p.entry.sha256;
  run.cutter = p.entry.cutters.empty() ? "" : p.entry.cutters.front().id;
  for (const std::string& cut : p.entry.cuts) run.cuts += (run.cuts.empty() ? "" : ", ") + cut;
  run.machine = machine;
  run.signed_by = signed_by;
  run.proved_for = p.proved_for;
  run.planned_seconds = std::isfinite(p.entry.seconds) ? p.entry.seconds : 0;
  return run;
}

double Runner::passed() const {
  return host_->tells_lines() ? std::max(0.0, host_->last().clock - clock_began_) : host_->now() - began_;
}

void Runner::note(const std::string& kind, std::uint32_t line, const std::string& words) {
  run_.events.push_back({passed(), kind, line, words});
  if (journal_) (void)journal_->write(run_.events.back());
}

void Runner::tell(const std::string& words, bool asks) {
  if (!watch_) return;
  RunView v;
  v.state = host_->last();
  v.lines = run_.lines;
  v.line = host_->tells_lines() ? run_.done : 0;
  v.seconds = passed();
  const double share = run_.lines > 0 ? static_cast<double>(run_.done) / run_.lines : 0;
  v.left = request_->planned_seconds > 0 ? std::max(0.0, request_->planned_seconds * (1 - share)) : 0;
  v.words = words;
  v.asks = asks;
  v.change_to = waits_ ? change_to_ : 0;
  v.wants_z = v.change_to != 0 && !lengths_in_table_ && !z_set_;
  v.told = hand_told_;
  v.told_bad = hand_bad_;
  watch_(v);
}

Expected<void> Runner::raise_zero(double by) {
  const MachineState before = host_->last();
  if (!before.zero)
    return fail(ProblemKind::unsupported, "this machine does not tell its zero: it cannot be raised from here", "",
                "Raise it at its panel, or watch the first run closely");
  const double z = before.zero->z + by;
  if (auto told = host_->line(zero_line({}, {}, z)); !told) return told;
  const auto now = host_->settle(10);
  if (!now) return tl::unexpected(now.error());
  if (!now->zero || std::abs(now->zero->z - z) > place_agrees)
    return fail(ProblemKind::input, "the machine has not taken the raised zero", "", "Set zero again, and look");
  return {};
}

void Runner::obey() {
  const std::uint32_t line = run_.done;
  const auto did = [&](const Expected<void>& answer, const char* kind, const std::string& words) {
    note(answer ? kind : "refused", line, answer ? words : answer.error().text());
    hand_bad_ = !answer;
    if (!answer) hand_told_ = answer.error().text();
    return answer.has_value();
  };
  if (controls_.stop_.exchange(false) && did(host_->stop(), "stopped", "by the watcher")) held_ = false;
  if (controls_.hold_.exchange(false) && did(host_->hold(), "held", "by the watcher")) held_ = true;
  do_by_hand();
  if (controls_.resume_.exchange(false) && may_go_on() && did(host_->resume(), "resumed", "by the watcher"))
    held_ = false;
  if (const double feed = controls_.feed_.exchange(0); feed > 0)
    if (did(host_->override_feed(feed), "feed", fmt::format("{:g}", feed))) {
      run_.feed_low = std::min(run_.feed_low, feed);
      run_.feed_high = std::max(run_.feed_high, feed);
    }
  if (const double speed = controls_.spindle_.exchange(0); speed > 0)
    (void)did(host_->override_spindle(speed), "spindle", fmt::format("{:g}", speed));
  std::vector<std::string> remarks;
  {
    const std::lock_guard guard(controls_.mutex_);
    remarks.swap(controls_.remarks_);
  }
  for (const std::string& words : remarks) note("note", line, words);
}

void Runner::do_by_hand() {
  std::vector<RunControls::Hand> hands;
  {
    const std::lock_guard guard(controls_.mutex_);
    hands.swap(controls_.hands_);
  }
  for (const RunControls::Hand& h : hands) {
    Expected<void> done = fail(ProblemKind::input, "the program waits for no hand", h.what, "Hold it first");
    if (waits_ && host_->last().word == "waiting") {
      done = h.deed(*host_);
      if (const auto seen = host_->look(); done && !seen) done = tl::unexpected(seen.error());
    }
    if (done && h.sets_z && host_->last().zero) {
      // An air pass stays one: the new zero is raised as the old one was.
      zero_z_ = host_->last().zero->z;
      if (raise_ > 0) done = raise_zero(raise_);
    }
    // z is that of what is in the spindle: whatever else a hand did there, it is to be set after it.
    z_set_ = done && h.sets_z;
    hand_bad_ = !done;
    hand_told_ = done ? h.what + ": done." : done.error().text();
    note(done ? "hand" : "refused", run_.done, done ? h.what : done.error().text());
  }
}

bool Runner::may_go_on() {
  if (!waits_ || change_to_ == 0) return true;
  std::string why;
  if (const auto& tool = host_->last().tool; host_->simulated() && tool && *tool != change_to_)
    why = worded("T{} is to be put in before it goes on", change_to_);
  else if (!lengths_in_table_ && !z_set_)
    why = fmt::format("z is to be set with T{} before it goes on", change_to_);
  if (why.empty()) return true;
  hand_told_ = why;
  hand_bad_ = true;
  note("refused", run_.done, why);
  return false;
}

int Runner::tool_waited_for() const {
  const MachineState& s = host_->last();
  if (s.wanted != 0) return s.wanted;
  if (lengths_in_table_) return 0;
  const auto named = [&](std::size_t line) {
    const std::string_view text = lines_[line];
    if (!text.starts_with('T') || text.find("M6") == std::string_view::npos) return 0;
    int tool = 0;
    std::from_chars(text.data() + 1, text.data() + text.size(), tool);
    return tool;
  };
  // M0 comes before the line that names the tool; nothing moves in between. With the first one everything began.
  int before = 0;
  for (std::size_t i = 0; i < run_.done && i < lines_.size(); ++i)
    if (const int tool = named(i); tool != 0) before = tool;
  for (std::size_t i = run_.done; i < lines_.size() && i < std::size_t{run_.done} + 3; ++i)
    if (const int tool = named(i); tool != 0) return before == 0 || tool == before ? 0 : tool;
  return 0;
}

Runner::Found Runner::reconnect() {
  note("lost", run_.done, "the connection is gone");
  tell("The connection is gone; trying again", false);
  if (!request_->again) return Found::nobody;
  const double until = host_->now() + request_->patience;
  while (host_->now() < until) {
    auto next = request_->again();
    if (next) {
      host_ = std::move(*next);
      const MachineState& s = host_->last();
      // The same power-on, the same program: the machine's own count says where to go on.
      if (host_->tells_lines() && s.boot == boot_ && s.program == run_.id && s.accepted && s.done) {
        note("found", *s.done, fmt::format("connected again: the machine has taken {} lines", *s.accepted));
        host_->go_on_from(*s.accepted);
        return Found::same;
      }
      note("lost", run_.done,
           s.boot == boot_ ? "connected again: the machine has another program"
                           : "connected again: its power was gone meanwhile");
      return Found::other;
    }
    if (controls_.stop_.exchange(false)) return Found::nobody;
    struct timespec breath {
      0, 100'000'000
    };
    nanosleep(&breath, nullptr);
  }
  return Found::nobody;
}

Expected<RunEnd> Runner::run(const RunRequest& request) {
  request_ = &request;
  run_ = request.facts;
  run_.id = request.id;
  run_.began = request.began;
  lines_ = lines_to_send(request.text);
  run_.lines = static_cast<std::uint32_t>(lines_.size());
  run_.air = request.raise > 0;
  if (run_.planned_seconds == 0) run_.planned_seconds = request.planned_seconds;
  began_ = host_->now();
  auto now = host_->look();
  if (!now) return tl::unexpected(now.error());
  boot_ = now->boot;
  clock_began_ = now->clock;
  const bool tells = host_->tells_lines();
  if (tells && (now->lost() || !now->idle()))
    return fail(ProblemKind::input,
                now->known ? fmt::format("the machine is {}", now->word) : "the machine does not know where it stands",
                "", "Home it, and look at it");
  auto journal = Journal::begin(request.journals, run_);
  if (!journal) return tl::unexpected(journal.error());
  journal_.emplace(std::move(*journal));
  const auto give_up = [&](const Problem& p) -> Expected<RunEnd> {
    note("refused", 0, p.text());
    (void)journal_->end("stopped", request.time_of_day ? request.time_of_day() : request.began, passed(), 0);
    return tl::unexpected(p);
  };
  zero_z_ = now->zero ? now->zero->z : 0;
  raise_ = request.raise;
  lengths_in_table_ = request.text.find("G43") != std::string::npos;
  if (request.raise > 0) {
    if (auto raised = raise_zero(request.raise); !raised) return give_up(raised.error());
    note("raised", 0, fmt::format("zero raised by {:.1f} mm for an air pass, from z {:.4f}", request.raise, zero_z_));
  }
  const auto take_back = [&]() -> bool {
    if (request.raise <= 0) return true;
    if (auto told = host_->line(zero_line({}, {}, zero_z_)); !told) return false;
    const auto there = host_->settle(10);
    return there && there->zero && std::abs(there->zero->z - zero_z_) <= place_agrees;
  };
  if (auto begun = host_->begin(run_.id, lines_.size()); !begun) {
    (void)take_back();
    return give_up(begun.error());
  }
  note("began", 0, worded("{} lines; {}", lines_.size(), run_.signed_by));

  RunEnd end;
  std::string outcome, words;
  double looked = -1e9;
  std::uint32_t told_done = 0;
  std::uint32_t accepted = 0;
  while (outcome.empty()) {
    obey();
    const Sent sent = host_->send(lines_, told_every / 2);
    accepted = std::max(accepted, sent.accepted);
    const auto lost = [&](const std::string& what) {
      const Found found = reconnect();
      if (found == Found::same) return false;
      outcome = found == Found::other ? "fault" : "unknown";
      words = found == Found::other && host_->last().boot != boot_
                  ? worded(
                        "{}, and meanwhile the machine's power was gone. Line {} was the last that it told as done: "
                        "home it, set zero again.",
                        what, run_.done)
                  : worded(
                        "{}. Line {} was the last that the machine told as done; what it does now nobody here knows: "
                        "look at it.",
                        what, run_.done);
      return true;
    };
    if (sent.gone) {
      if (!lost("The connection is lost")) continue;
      break;
    }
    if (host_->now() - looked >= told_every && (tells || host_->tells_place())) {
      const auto state = host_->look();
      looked = host_->now();
      if (!state) {
        if (!lost("The machine is silent")) continue;
        break;
      }
    }
    const MachineState& s = host_->last();
    if (!tells) {
      run_.done = accepted;  // taken, not done: that is all it tells
      if (!sent.refused.empty() || s.word == "alarm") {
        outcome = "fault";
        words = sent.refused.empty() ? "The machine has stopped: " + s.why : "The machine refuses line " + sent.refused;
      } else if (accepted >= lines_.size() && (!host_->tells_place() || s.word == "idle" || s.word.empty())) {
        outcome = "done";
        words = host_->tells_place() ? "Every line was taken, and the machine is idle."
                                     : "Every line was taken; whether it has finished only the machine shows.";
      }
      if (run_.done != told_done) (void)journal_->progress(passed(), told_done = run_.done);
      tell(worded("{} of {} lines taken", accepted, lines_.size()), false);
      continue;
    }
    if (s.boot != boot_) {
      outcome = "fault";
      words = worded("The machine's power was gone after line {}: home it, set zero again.", run_.done);
      break;
    }
    if (s.program == run_.id && s.done) run_.done = *s.done;
    if (run_.done != told_done) (void)journal_->progress(passed(), told_done = run_.done);
    if (s.word == "alarm" || s.word == "unhomed") {
      outcome = "fault";
      words = worded("The machine has stopped after line {}: {}.{}", run_.done, s.why,
                     s.known ? "" : " Where it stands it does not know: home it.");
      break;
    }
    if (s.word == "waiting" || (waits_ && s.word == "moving")) {
      // Told apart by their line: between two looks it may have gone on and stand at the next one.
      if (!waits_ || run_.done != wait_line_) {
        wait_line_ = run_.done;
        const int tool = tool_waited_for();
        // A change stops twice where the machine was not told of the cutter: for the hand, then at the tool's name.
        if (tool != change_to_) z_set_ = false;
        change_to_ = tool;
        waits_ = true;
        hand_told_.clear();
        hand_bad_ = false;
        note("cutter", run_.done, s.why);
      }
      tell(s.why, true);
      continue;
    }
    waits_ = false;
    if (s.word == "held" || s.word == "holding") {
      if (!held_) {
        note(held_by_itself, run_.done, s.why);
        held_ = true;
      }
      tell(s.why.empty() ? "Held" : s.why, s.word == "held");
      continue;
    }
    if (s.idle()) {
      if (run_.done >= lines_.size() && accepted >= lines_.size()) {
        outcome = "done";
        words = worded("Done: {} lines.", run_.done);
      } else if (s.why == "stopped") {
        outcome = "stopped";
        words = worded("Stopped after line {} of {}; the machine knows where it stands.", run_.done, lines_.size());
      } else if (!sent.refused.empty()) {
        outcome = "fault";
        words = "The machine refuses line " + sent.refused;
      }
      if (!outcome.empty()) break;
    }
    tell(worded("Line {} of {}", run_.done, lines_.size()), false);
  }
  end.state = host_->last();
  end.known = tells && end.state.known && outcome != "unknown";
  if (request.raise > 0 && !take_back()) {
    end.raised = true;
    words += fmt::format(" Zero still stands {:.1f} mm too high: set it again before anything is cut.", request.raise);
    note("raised", run_.done, "the raise could not be taken back");
  }
  run_.outcome = outcome;
  run_.real_seconds = passed();
  note(outcome, run_.done, words);
  run_.real_seconds = passed();
  run_.ended = request.time_of_day ? request.time_of_day() : request.began;
  (void)journal_->end(outcome, run_.ended, run_.real_seconds, run_.done);
  if (!journal_->whole()) words += " Its journal could not be written to its end: the disk is full, or gone.";
  end.run = run_;
  end.words = words;
  tell(words, false);
  return end;
}

Awake::Awake() {
  child_ = ::fork();
  if (child_ != 0) return;
  // The system lets go of it when this child ends, however that comes about.
  if (const int nowhere = ::open("/dev/null", O_RDWR | O_CLOEXEC); nowhere >= 0)
    for (const int fd : {0, 1, 2}) ::dup2(nowhere, fd);
  ::execlp("systemd-inhibit", "systemd-inhibit", "--what=sleep:idle", "--who=Upland Wren",
           "--why=a program runs on the machine", "sleep", "86400", static_cast<char*>(nullptr));
  ::_exit(127);
}

bool Awake::held() {
  int status = 0;
  if (child_ > 0 && ::waitpid(child_, &status, WNOHANG) == child_) child_ = -1;  // there is nobody to ask
  return child_ > 0;
}

Awake::~Awake() {
  if (child_ <= 0) return;
  ::kill(child_, SIGTERM);
  int status = 0;
  while (::waitpid(child_, &status, 0) < 0 && errno == EINTR) {
  }
}

}  // namespace wren

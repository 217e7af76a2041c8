// The host's side of the checked protocol (docs/machine-protocol.md).
#include <charconv>
#include <cmath>

#include <fmt/format.h>
#include <zlib.h>

#include "run/host.hpp"

namespace wren {
namespace {

constexpr std::size_t longest_answer = 1024;
constexpr double answer_within = 1.0;  // s; asked again then
constexpr int ask_times = 6;

std::string_view word(std::string_view& rest) {
  const std::size_t end = std::min(rest.find(' '), rest.size());
  const std::string_view out = rest.substr(0, end);
  rest.remove_prefix(std::min(end + 1, rest.size()));
  return out;
}

template <class T>
std::optional<T> number(std::string_view text) {
  T value{};
  const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (bad != std::errc() || end != text.data() + text.size()) return {};
  if constexpr (std::is_floating_point_v<T>)
    if (!std::isfinite(value)) return {};
  return value;
}

class Checked : public Host {
 public:
  using Host::Host;

  Expected<void> greet(const std::string& who) override {
    std::string name;
    for (const char c : who) name += c > ' ' && c < 127 ? c : '-';
    if (name.empty()) name = "wren";
    name.resize(std::min<std::size_t>(name.size(), 64));
    accepted_ = sent_ = 0;
    command_ = 0;
    greeted_.clear();
    if (!post("hello 1 " + name)) return gone();
    const double until = link_->now() + 3;
    while (greeted_.empty() && link_->now() < until)
      if (!take(until - link_->now())) {
        if (greeted_.empty()) return gone();
        break;
      }
    std::string_view rest = greeted_;
    const std::string_view kind = word(rest);
    if (kind == "busy")
      return fail(ProblemKind::held, worded("the machine is held by {}", rest), "",
                  "End the other program, or wait for it");
    if (kind != "welcome" || word(rest) != "1")
      return fail(ProblemKind::unsupported, "what answers does not speak the machine's protocol", "",
                  "Look at the address; a machine that takes a line for a line is set so in the shop's book");
    state_.boot = word(rest);
    const auto window = number<std::size_t>(word(rest));
    window_ = std::clamp<std::size_t>(window.value_or(32), 1, 4096);
    simulated_ = word(rest) == "stand-in";
    const auto x = number<double>(word(rest)), y = number<double>(word(rest)), z = number<double>(word(rest));
    if (x && y && z) travel_ = Vec3{*x, *y, *z};
    const auto there = look();
    if (!there) return tl::unexpected(there.error());
    return {};
  }

  Expected<MachineState> look() override {
    for (int times = 0; times < ask_times; ++times) {
      const double asked = link_->now();
      if (!post("st?")) return tl::unexpected(gone().error());
      const double until = asked + answer_within / 2;
      while (link_->now() < until) {
        if (!take(until - link_->now())) return tl::unexpected(gone().error());
        if (state_.seen >= asked) return state_;
      }
    }
    return fail(ProblemKind::file, "the machine is silent", "", "Look at it: what it does now nobody here knows");
  }

  Expected<void> line(const std::string& text) override { return told("line " + text); }
  Expected<void> home() override { return told("home"); }
  Expected<void> hold() override { return told("hold"); }
  Expected<void> resume() override { return told("resume"); }
  Expected<void> stop() override { return told("stop"); }
  Expected<void> unlock() override { return told("unlock"); }
  Expected<void> override_feed(double percent) override { return told(fmt::format("feed {:g}", percent)); }
  Expected<void> override_spindle(double percent) override { return told(fmt::format("spindle {:g}", percent)); }

  Expected<Vec3> touched() override {
    const auto answer = ask("touched");
    if (!answer) return tl::unexpected(answer.error());
    std::string_view rest = *answer;
    const auto x = number<double>(word(rest)), y = number<double>(word(rest)), z = number<double>(word(rest));
    if (!x || !y || !z)
      return fail(ProblemKind::format, worded("'{}' is no place", *answer), "", "Read it off the machine");
    return Vec3{*x, *y, *z};
  }

  Expected<void> begin(const std::string& name, std::size_t lines) override {
    accepted_ = sent_ = 0;
    refused_.clear();
    return told(fmt::format("job {} {}", name, lines));
  }

  Sent send(std::span<const std::string_view> lines, double seconds) override {
    // After a new greeting the machine's own count is where to go on.
    std::string out;
    // What it has refused it refuses again: nothing more is sent.
    while (refused_.empty() && sent_ < lines.size() && sent_ - accepted_ < window_ && out.size() < 32768) {
      ++sent_;
      out += sealed_line(fmt::format("L {} {}", sent_, lines[sent_ - 1]));
      last_sent_ = link_->now();
    }
    Sent answer;
    if (!out.empty() && !link_->send(out)) answer.gone = true;
    if (!answer.gone && !take(seconds)) answer.gone = true;
    // Nothing came of what is on its way: an answer or a line was lost. All of it goes again.
    if (sent_ > accepted_ && link_->now() - last_sent_ > answer_within && link_->now() - last_ack_ > answer_within) {
      sent_ = accepted_;
      last_sent_ = link_->now();
    }
    if (sent_ > lines.size()) sent_ = lines.size();
    answer.accepted = static_cast<std::uint32_t>(accepted_);
    answer.refused = refused_;
    return answer;
  }

  void go_on_from(std::uint32_t accepted) override { accepted_ = sent_ = accepted; }

  bool tells_place() const override { return true; }
  bool tells_lines() const override { return true; }
  bool simulated() const override { return simulated_; }

  Expected<std::string> ask(const std::string& command) override {
    // Numbered, so that a command which is sent twice is done once.
    const std::uint32_t k = ++command_;
    const std::string text = fmt::format("do {} {}", k, command);
    for (int times = 0; times < ask_times; ++times) {
      if (!post(text)) return tl::unexpected(gone().error());
      const double until = link_->now() + answer_within;
      while (link_->now() < until) {
        const bool there = take(until - link_->now());
        if (answered_ == k) {
          std::string_view rest = answer_;
          const bool did = word(rest) == "did";
          (void)word(rest);
          if (did) return std::string(rest);
          return fail(ProblemKind::input, worded("the machine refuses it: {}", rest), command, "");
        }
        if (!there) return tl::unexpected(gone().error());
      }
    }
    return fail(ProblemKind::file, "the machine does not answer", command,
                "Look at it: what it does now nobody here knows");
  }

 private:
  Expected<void> told(const std::string& command) {
    const auto answer = ask(command);
    if (!answer) return tl::unexpected(answer.error());
    return {};
  }
  static Expected<void> gone() {
    return fail(ProblemKind::file, "the connection to the machine is gone", "",
                "Look at the machine, then connect again: its own state says where it stands");
  }
  bool post(const std::string& payload) { return link_->send(sealed_line(payload)); }

  bool pump(double seconds) override { return take(seconds); }
  bool take(double seconds) {
    const auto bytes = link_->receive(std::max(0.0, seconds));
    if (!bytes) return false;
    kept_ += *bytes;
    std::size_t from = 0;
    for (std::size_t end = kept_.find('\n'); end != std::string::npos; end = kept_.find('\n', from)) {
      // What is damaged on its way is as if it had not come: whoever waits for it asks again.
      if (const auto payload = unsealed_line(std::string_view(kept_).substr(from, end - from))) hear(*payload);
      from = end + 1;
    }
    kept_.erase(0, from);
    if (kept_.size() > longest_answer) return false;  // it does not end: whoever speaks so is no such machine
    return true;
  }

  void hear(std::string_view payload) {
    std::string_view rest = payload;
    const std::string_view kind = word(rest);
    if (kind == "st") {
      if (auto state = state_from(payload)) {
        state->seen = link_->now();
        state_ = std::move(*state);
      }
    } else if (kind == "ack") {
      const auto n = number<std::uint32_t>(rest);
      // It cannot have taken what was never sent.
      if (n && *n > accepted_ && *n <= most_sent()) {
        accepted_ = *n;
        sent_ = std::max(sent_, accepted_);
        last_ack_ = link_->now();
      }
    } else if (kind == "again") {
      const auto n = number<std::uint32_t>(word(rest));
      if (n && *n >= 1 && *n - 1 <= sent_ && *n - 1 >= accepted_) sent_ = *n - 1;
    } else if (kind == "bad") {
      if (refused_.empty()) refused_ = rest;
    } else if (kind == "did" || kind == "not") {
      std::string_view copy = rest;
      if (const auto k = number<std::uint32_t>(word(copy))) {
        answered_ = *k;
        answer_ = payload;
      }
    } else if (kind == "welcome" || kind == "busy" || kind == "no") {
      greeted_ = payload;
    }
  }
  [[nodiscard]] std::size_t most_sent() const { return std::max(sent_, accepted_); }

  std::string kept_, greeted_, refused_, answer_;
  std::size_t window_ = 32, accepted_ = 0, sent_ = 0;
  std::uint32_t command_ = 0, answered_ = 0;
  double last_sent_ = 0, last_ack_ = 0;
  bool simulated_ = false;
};

}  // namespace

std::unique_ptr<Host> checked_host(std::unique_ptr<Link> link) { return std::make_unique<Checked>(std::move(link)); }

std::string sealed_line(std::string_view payload) {
  const auto crc = crc32_z(0, reinterpret_cast<const Bytef*>(payload.data()), payload.size());
  return fmt::format("{} *{:08x}\n", payload, crc);
}

std::optional<std::string_view> unsealed_line(std::string_view line) {
  if (line.size() < 10 || line.substr(line.size() - 10, 2) != " *") return {};
  const std::string_view payload = line.substr(0, line.size() - 10);
  std::uint32_t said = 0;
  const std::string_view digits = line.substr(line.size() - 8);
  const auto [end, bad] = std::from_chars(digits.data(), digits.data() + digits.size(), said, 16);
  if (bad != std::errc() || end != digits.data() + digits.size()) return {};
  if (crc32_z(0, reinterpret_cast<const Bytef*>(payload.data()), payload.size()) != said) return {};
  return payload;
}

std::optional<MachineState> state_from(std::string_view payload) {
  std::string_view rest = payload;
  if (word(rest) != "st") return {};
  MachineState s;
  s.boot = word(rest);
  s.word = word(rest);
  const std::string_view known = word(rest);
  if (known != "known" && known != "lost") return {};
  s.known = known == "known";
  s.program = word(rest);
  if (s.program == "-") s.program.clear();
  s.accepted = number<std::uint32_t>(word(rest));
  s.done = number<std::uint32_t>(word(rest));
  double v[6];
  for (double& one : v) {
    const auto n = number<double>(word(rest));
    if (!n) return {};
    one = *n;
  }
  s.at = Vec3{v[0], v[1], v[2]};
  s.zero = Vec3{v[3], v[4], v[5]};
  s.speed = number<double>(word(rest));
  s.rpm = number<double>(word(rest));
  s.feed_percent = number<double>(word(rest));
  s.spindle_percent = number<double>(word(rest));
  s.tool = number<int>(word(rest));
  s.wanted = number<int>(word(rest)).value_or(0);
  s.clock = number<double>(word(rest)).value_or(0);
  s.hits = number<int>(word(rest)).value_or(0);
  s.why = rest == "-" ? std::string() : std::string(rest);
  if (!s.accepted || !s.done || !s.tool || s.boot.empty() || s.word.empty()) return {};
  if (!s.known) s.at.reset();  // a count that it does not vouch for is no place
  return s;
}

Expected<MachineState> Host::settle(double seconds) {
  if (!tells_place()) return look();
  const double until = now() + seconds;
  while (now() < until) {
    auto s = look();
    if (!s) return s;
    if (s->idle() || s->word == "alarm" || s->word == "unhomed" || s->word == "held" || s->word == "waiting") return s;
    // A breath between two questions.
    if (!pump(0.02)) return fail(ProblemKind::file, "the connection to the machine is gone", "", "Look at the machine");
  }
  return fail(ProblemKind::file, "the machine does not come to rest", "", "Look at it");
}

}  // namespace wren

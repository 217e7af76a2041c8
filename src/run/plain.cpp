// A machine that takes a line for a line. The words that mean done, error, stopped and where it stands are its
// profile's; what it does not tell is unknown here.
#include <charconv>

#include <fmt/format.h>

#include "run/host.hpp"

namespace wren {
namespace {

constexpr std::size_t longest_answer = 4096;
constexpr double answer_within = 5;  // s
constexpr double line_within = 600;  // s: a line of the program may take long before the next has room

class Plain : public Host {
 public:
  Plain(std::unique_ptr<Link> link, PlainTalk talk) : Host(std::move(link)), talk_(std::move(talk)) {}

  Expected<void> greet(const std::string&) override {
    kept_.clear();
    // What it said while nobody listened is no answer to anything.
    for (int k = 0; k < 3; ++k)
      if (auto old = link_->receive(0.05); !old) return tl::unexpected(gone());
    if (!talk_.ask_place.empty())
      if (const auto there = look(); !there) return tl::unexpected(there.error());
    return {};
  }

  Expected<MachineState> look() override {
    if (talk_.ask_place.empty()) {
      state_.known = false;
      state_.seen = link_->now();
      return state_;
    }
    if (!link_->send(talk_.ask_place + "\n")) return tl::unexpected(gone());
    const double until = link_->now() + answer_within;
    while (link_->now() < until) {
      const auto line = next(until - link_->now());
      if (!line) return tl::unexpected(gone());
      if (line->empty()) continue;
      if (line->starts_with(talk_.place)) {
        take_place(*line);
        return state_;
      }
      hear(*line);
    }
    return fail(ProblemKind::file, "the machine does not say where it stands", talk_.ask_place,
                "Look at the words of its profile: wren machine");
  }

  Expected<void> line(const std::string& text) override { return asked(text); }
  Expected<void> home() override { return asked("home"); }
  Expected<void> hold() override { return asked(talk_.hold); }
  Expected<void> resume() override { return asked(talk_.resume); }
  Expected<void> stop() override { return asked(talk_.stop); }
  Expected<void> unlock() override { return untold("taken out of an alarm"); }
  Expected<void> override_feed(double) override { return untold("given another feed"); }
  Expected<void> override_spindle(double) override { return untold("given another spindle speed"); }
  Expected<Vec3> touched() override {
    return fail(ProblemKind::unsupported, "this machine does not send what its probe met", "",
                "Read it off the machine and type it");
  }

  Expected<void> begin(const std::string&, std::size_t) override {
    accepted_ = sent_ = 0;
    refused_.clear();
    return {};
  }

  Sent send(std::span<const std::string_view> lines, double seconds) override {
    Sent answer;
    if (refused_.empty() && sent_ == accepted_ && sent_ < lines.size()) {
      std::string text(lines[sent_]);
      text += '\n';
      ++sent_;
      if (!link_->send(text)) answer.gone = true;
      sent_at_ = link_->now();
    }
    const double until = link_->now() + seconds;
    while (!answer.gone && sent_ > accepted_ && refused_.empty()) {
      const auto line = next(std::max(0.0, until - link_->now()));
      if (!line) answer.gone = true;
      if (!line || line->empty()) break;
      if (line->starts_with(talk_.done))
        ++accepted_;
      else if (line->starts_with(talk_.error) || (!talk_.stopped.empty() && line->starts_with(talk_.stopped)))
        refused_ = fmt::format("{} {}", sent_, *line);
      else
        hear(*line);
    }
    if (!answer.gone && sent_ > accepted_ && link_->now() - sent_at_ > line_within) answer.gone = true;
    answer.accepted = static_cast<std::uint32_t>(accepted_);
    answer.refused = refused_;
    return answer;
  }

  void go_on_from(std::uint32_t accepted) override { accepted_ = sent_ = accepted; }
  bool tells_place() const override { return !talk_.ask_place.empty(); }
  bool tells_lines() const override { return false; }

 protected:
  bool pump(double seconds) override {
    const auto line = next(seconds);
    if (line && !line->empty()) hear(*line);
    return line.has_value();
  }

 private:
  static Problem gone() {
    return {ProblemKind::file, "the connection to the machine is gone", "",
            "Look at the machine: where it stands nobody here knows"};
  }
  static Expected<void> untold(const char* what) {
    return fail(ProblemKind::unsupported, worded("this machine cannot be {} from here", what), "",
                "Do it at its panel");
  }
  Expected<void> asked(const std::string& text) {
    if (text.empty() || text.find_first_of("\r\n") != std::string::npos) return untold("told that");
    if (!link_->send(text + "\n")) return tl::unexpected(gone());
    const double until = link_->now() + answer_within;
    while (link_->now() < until) {
      const auto line = next(until - link_->now());
      if (!line) return tl::unexpected(gone());
      if (line->starts_with(talk_.done) && !line->empty()) return {};
      if (!line->empty() && !talk_.stopped.empty() && line->starts_with(talk_.stopped)) {
        hear(*line);
        if (text == talk_.stop) return {};
        return fail(ProblemKind::input, worded("the machine has stopped: {}", *line), text, "");
      }
      if (line->starts_with(talk_.error) && !line->empty())
        return fail(ProblemKind::input, worded("the machine refuses it: {}", *line), text, "");
      hear(*line);
    }
    return fail(ProblemKind::file, "the machine does not answer", text,
                "Look at the words of its profile: wren machine");
  }

  /// The next line, empty where none came in time; nothing: the link is gone, or what comes does not end.
  std::optional<std::string> next(double seconds) {
    for (;;) {
      if (const std::size_t end = kept_.find('\n'); end != std::string::npos) {
        std::string line = kept_.substr(0, end);
        kept_.erase(0, end + 1);
        if (!line.empty() && line.back() == '\r') line.pop_back();
        if (line.empty()) continue;
        return line;
      }
      if (kept_.size() > longest_answer) return std::nullopt;
      const auto bytes = link_->receive(seconds);
      if (!bytes) return std::nullopt;
      if (bytes->empty()) return std::string();
      kept_ += *bytes;
    }
  }

  void hear(const std::string& line) {
    if (!talk_.stopped.empty() && line.starts_with(talk_.stopped)) {
      state_.word = "alarm";
      state_.why = line;
    }
  }

  void take_place(const std::string& line) {
    std::optional<double> x, y, z;
    for (const auto& [letter, to] : {std::pair{'X', &x}, std::pair{'Y', &y}, std::pair{'Z', &z}}) {
      const std::size_t at = line.find(letter);
      double v = 0;
      if (at == std::string::npos) continue;
      const auto [end, bad] = std::from_chars(line.data() + at + 1, line.data() + line.size(), v);
      if (bad == std::errc()) *to = v;
    }
    state_.known = x && y && z;
    state_.at = state_.known ? std::optional(Vec3{*x, *y, *z}) : std::nullopt;
    const std::size_t space = line.find_last_of(' ');
    state_.word = space == std::string::npos ? std::string() : line.substr(space + 1);
    state_.seen = link_->now();
  }

  PlainTalk talk_;
  std::string kept_, refused_;
  std::size_t accepted_ = 0, sent_ = 0;
  double sent_at_ = 0;
};

}  // namespace

std::unique_ptr<Host> plain_host(std::unique_ptr<Link> link, PlainTalk talk) {
  return std::make_unique<Plain>(std::move(link), std::move(talk));
}

}  // namespace wren

#include "standin/router.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace standin {

const char* state_word(State state) {
  switch (state) {
    case State::unhomed: return "unhomed";
    case State::idle: return "idle";
    case State::homing: return "homing";
    case State::moving: return "moving";
    case State::running: return "running";
    case State::holding: return "holding";
    case State::held: return "held";
    case State::waiting: return "waiting";
    case State::alarm: return "alarm";
  }
  return "";
}

namespace {
constexpr const char* fault_words[fault_count] = {"line-lost",       "byte-changed",  "line-twice", "answer-late",
                                                  "connection-gone", "switch-stuck",  "power-cut",  "emergency-stop",
                                                  "limit-hit",       "cutter-broken", "probe-open"};
}  // namespace

const char* fault_word(Fault fault) { return fault_words[static_cast<int>(fault)]; }

std::optional<Fault> fault_from(std::string_view word) {
  for (int k = 0; k < fault_count; ++k)
    if (word == fault_words[k]) return static_cast<Fault>(k);
  return {};
}

Router::Router(const Frame& frame) : frame_(frame), random_(frame.seed), drive_(frame.limits, {0, 0, 0}) {
  boot_ = static_cast<std::uint32_t>(random_());
  // Nobody knows where it was left.
  drive_.put({frame.travel.x * 0.3, frame.travel.y * 0.2, -frame.travel.z * 0.4});
  reader_.stand_at(drive_.at());
  cut_from_ = drive_.at();
}

std::string Router::outside(Place to) const {
  constexpr double slack = 1e-6;
  const auto axis = [&](char name, double value, double low, double high) -> std::string {
    if (value >= low - slack && value <= high + slack) return {};
    return fmt::format("{} {:.3f} lies outside of {:g} to {:g}, where the machine can go", name, value, low, high);
  };
  std::string bad = axis('x', to.x, 0, frame_.travel.x);
  if (bad.empty()) bad = axis('y', to.y, 0, frame_.travel.y);
  if (bad.empty()) bad = axis('z', to.z, -frame_.travel.z, 0);
  return bad;
}

std::string Router::begin(const std::string& name, std::uint32_t lines) {
  if (!homed_) return "it is not homed: it does not know where it stands";
  if (state_ != State::idle) return fmt::format("it is {}", state_word(state_));
  if (lines == 0) return "a program without a line";
  program_ = name;
  lines_ = lines;
  accepted_ = done_ = 0;
  ended_ = finished_ = false;
  refused_.clear();
  why_.clear();
  texts_.clear();
  unread_.clear();
  stop_ahead_ = false;
  pending_lines_ = 0;
  reader_.reset();
  reader_.stand_at(drive_.at());
  turning_ = 0;
  state_ = State::running;
  if (fault_random_) {
    const auto fault = static_cast<Fault>((*fault_random_)() % fault_count);
    arm(fault, 1 + static_cast<std::uint32_t>((*fault_random_)() % lines));
  }
  return {};
}

std::string Router::accept(std::string_view text) {
  if (finished_ && accepted_ < lines_) {
    // What stands behind the end is no part of the program: it is taken, and nothing comes of it.
    done_ = ++accepted_;
    story_.push_back({program_, accepted_, std::string(text)});
    return {};
  }
  if (program_.empty() || ended_) return "no program has begun";
  if (state_ != State::running && state_ != State::holding && state_ != State::held && state_ != State::waiting &&
      !aside_)
    return fmt::format("it is {}", state_word(state_));
  if (!refused_.empty()) return refused_;
  if (accepted_ >= lines_) return fmt::format("the program was said to have {} lines", lines_);
  return take(text, true);
}

std::string Router::by_hand(std::string_view text) {
  if (state_ == State::waiting && !aside_) {
    aside_ = Aside{std::move(deeds_), reader_};
    deeds_.clear();
  }
  if (state_ == State::waiting) reader_.stand_at(drive_.at());
  const bool waits = state_ == State::waiting;
  const std::string bad = plain_line(text);
  if (waits && !deeds_.empty()) state_ = State::moving;
  return bad;
}

std::string Router::plain_line(std::string_view text) {
  if (!homed_) return "it is not homed: it does not know where it stands";
  if (state_ == State::running || state_ == State::homing || state_ == State::alarm)
    return fmt::format("it is {}", state_word(state_));
  if (state_ == State::idle) reader_.stand_at(drive_.at());
  const std::string bad = take(text, false);
  if (bad.empty() && !deeds_.empty() && state_ == State::idle) state_ = State::moving;
  return bad;
}

std::string Router::take(std::string_view text, bool program) {
  if (!program) return read(text, 0);
  if (!stop_ahead_) return read(text, accepted_ + 1);
  // A hand may set zero anew at the stop: what stands behind it is read when it is over.
  ++accepted_;
  texts_.emplace_back(accepted_, std::string(text));
  unread_.push_back(texts_.back());
  ++pending_lines_;
  return {};
}

void Router::read_on() {
  stop_ahead_ = false;
  while (!unread_.empty() && !stop_ahead_ && refused_.empty()) {
    const auto [number, text] = std::move(unread_.front());
    unread_.pop_front();
    (void)read(text, number);
  }
}

/// `number`: of a program's line; 0: by hand.
std::string Router::read(std::string_view text, std::uint32_t number) {
  const bool program = number != 0;
  const Reader before = reader_;
  Understood line = reader_.read(text);
  std::string bad = std::move(line.refused);
  for (const Deed& d : line.deeds) {
    if (!bad.empty()) break;
    if (d.kind == Deed::Kind::go || d.kind == Deed::Kind::probe) bad = outside(d.to);
    if (d.kind == Deed::Kind::spindle && d.rpm > frame_.spindle_high + 0.5)
      bad = fmt::format("the spindle turns at most {:g} a minute", frame_.spindle_high);
  }
  if (!bad.empty()) {
    reader_ = before;
    if (program) refused_ = fmt::format("line {}: {}", number, bad);
    return bad;
  }
  if (number > accepted_) {
    accepted_ = number;
    texts_.emplace_back(number, std::string(text));
    ++pending_lines_;
  }
  if (line.deeds.empty() && program) {
    // Nothing moves: it is done when what stands before it is, and nobody slows down for it.
    if (!deeds_.empty() && deeds_.back().program) {
      deeds_.back().line = number;
      return {};
    }
    Deed nothing;
    nothing.kind = Deed::Kind::dwell;
    line.deeds.push_back(nothing);
  }
  for (std::size_t i = 0; i < line.deeds.size(); ++i) {
    const Deed::Kind kind = line.deeds[i].kind;
    stop_ahead_ = stop_ahead_ || (program && (kind == Deed::Kind::cutter || kind == Deed::Kind::pause));
    deeds_.push_back({line.deeds[i], number, i + 1 == line.deeds.size(), program});
  }
  return {};
}

Place Router::tip(Place count) const {
  const Place real = count + error_;
  return {real.x - wood_.block().x, real.y - wood_.block().y, frame_.clear_under_nut + real.z - cutter_.stickout};
}

void Router::cut_to(Place count, bool rapid) {
  const Place from = tip(cut_from_), to = tip(count);
  cut_from_ = count;
  if (!whole_ || tool_ == 0 || !wood_.there() || from == to) return;
  const bool cuts = turning_ != 0;
  if (rapid || !cuts) {
    // Looked at every millimetre: what it meets is told once a piece.
    const Place way = to - from;
    const int steps = std::max(1, static_cast<int>(way.far()));
    for (int k = 0; k <= steps; ++k) {
      const Place p = from + way * (static_cast<double>(k) / steps);
      if (p.z < wood_.top(p.x, p.y) - 0.05 && p.x >= 0 && p.y >= 0 && p.x <= wood_.block().length &&
          p.y <= wood_.block().width) {
        if (hits_.size() < 100)
          hits_.push_back(fmt::format("{} at x {:.2f} y {:.2f} z {:.2f} over the bed, after line {}",
                                      cuts ? "a rapid through wood" : "a cutter that does not turn, in wood", p.x, p.y,
                                      p.z, done_));
        break;
      }
    }
  }
  if (cuts) wood_.sweep(from, to, cutter_);
}

void Router::finish(std::uint32_t line) {
  done_ = line;
  while (!texts_.empty() && texts_.front().first <= line) {
    story_.push_back({program_, texts_.front().first, std::move(texts_.front().second)});
    texts_.pop_front();
    --pending_lines_;
  }
  look_at_faults();
}

void Router::look_at_faults() {
  for (auto it = faults_.begin(); it != faults_.end() && it->first <= done_;) {
    const Fault fault = it->second;
    if (fault < Fault::power_cut || fault == Fault::probe_open) {
      ++it;
      continue;
    }
    faults_.erase(it);
    switch (fault) {
      case Fault::power_cut: power_cut(); return;
      case Fault::emergency_stop: emergency(); return;
      case Fault::limit_hit:
        drive_.drop();
        cut_to(drive_.at(), false);
        alarm("a limit switch was hit");
        homed_ = false;  // it ran into its end: counts and axes no longer agree
        return;
      case Fault::cutter_broken:
        whole_ = false;
        // A machine does not feel it; the spindle's load falls, and it holds.
        drive_.hold(true);
        goes_back_to_ = State::running;
        state_ = State::holding;
        why_ = "the spindle runs without load: look at the cutter";
        return;
      default: return;
    }
  }
}

void Router::start_deeds() {
  while (!deeds_.empty() && drive_.room() && dwell_ <= 0 && state_ != State::alarm) {
    const Task& t = deeds_.front();
    const Deed& d = t.deed;
    if (d.kind == Deed::Kind::go) {
      drive_.add(d.to, d.rapid, d.feed / 60, t.last && t.program ? t.line : 0);
      deeds_.pop_front();
      continue;
    }
    if (!drive_.idle()) return;
    const Task task = t;
    deeds_.pop_front();
    switch (task.deed.kind) {
      case Deed::Kind::dwell: dwell_ = task.deed.seconds; break;
      case Deed::Kind::spindle:
        turning_ = task.deed.turning;
        rpm_ = task.deed.rpm;
        break;
      case Deed::Kind::cutter:
        if (task.deed.tool != tool_) {
          wanted_ = task.deed.tool;
          after_wait_ = state_;
          state_ = State::waiting;
          why_ = fmt::format("tool {} is to be put in", wanted_);
        }
        break;
      case Deed::Kind::pause:
        after_wait_ = state_;
        state_ = State::waiting;
        why_ = "the program asks for a hand (M0)";
        break;
      case Deed::Kind::end:
        turning_ = 0;
        ended_ = true;
        break;
      case Deed::Kind::probe:
        probing_ = task.deed;
        touched_.reset();
        break;
      case Deed::Kind::set_zero:
      case Deed::Kind::go: break;
    }
    if (task.last && task.program) finish(task.line);
    // A fault may have come with that line: then all of it is forgotten.
    if (state_ == State::waiting || state_ == State::alarm || state_ == State::unhomed || probing_) return;
    // The cutter was in already: nothing to wait for.
    if (task.deed.kind == Deed::Kind::cutter && task.program) read_on();
    if (task.deed.kind == Deed::Kind::end && task.program) {
      // Whatever follows the end of a program is no part of it.
      deeds_.clear();
      unread_.clear();
      done_ = accepted_;
      while (!texts_.empty()) {
        story_.push_back({program_, texts_.front().first, std::move(texts_.front().second)});
        texts_.pop_front();
      }
      pending_lines_ = 0;
      finished_ = true;
      state_ = State::idle;
      return;
    }
  }
}

void Router::tick_probe() {
  const Place at = drive_.at();
  const Place to = probing_->to;
  const double left = (to - at).far();
  const double pace = std::min(left, probing_->feed / 60 * Drive::tick);
  double over = 0;  // how far the tip has gone into what it met: a probe answers at the touch
  const bool closed = [&] {
    if (const auto it =
            std::find_if(faults_.begin(), faults_.end(), [](const auto& f) { return f.second == Fault::probe_open; });
        it != faults_.end())
      return false;
    const Place t = tip(at);
    const bool on_blank =
        wood_.there() && t.x >= 0 && t.y >= 0 && t.x <= wood_.block().length && t.y <= wood_.block().width;
    over = (on_blank ? wood_.top(t.x, t.y) : 0) - t.z;
    return over >= 0;
  }();
  if (closed) {
    std::uniform_real_distribution<double> off(-frame_.probe_repeats, frame_.probe_repeats);
    touched_ = Place{at.x, at.y, at.z + over + off(random_)};
    probing_.reset();
  } else if (left < 1e-9) {
    std::erase_if(faults_, [](const auto& f) { return f.second == Fault::probe_open; });
    probing_.reset();
    alarm("the probe met nothing");
    return;
  } else {
    drive_.put(at + (to - at) * (pace / left));
    cut_from_ = drive_.at();
    return;
  }
  reader_.stand_at(drive_.at());
}

void Router::tick_home() {
  // z first, then x and y together, each to its switch.
  Place at = drive_.at();
  const double pace = 40 * Drive::tick;
  const auto near = [&](double& v, double to) {
    v += std::clamp(to - v, -pace, pace);
    return std::abs(to - v) < 1e-12;
  };
  const bool up = near(at.z, 0);
  bool there = up;
  if (up) {
    const bool x = near(at.x, 0), y = near(at.y, 0);
    there = x && y;
  }
  drive_.put(at);
  if (!there) return;
  for (auto it = faults_.begin(); it != faults_.end(); ++it)
    if (it->second == Fault::switch_stuck) {
      faults_.erase(it);
      alarm("a home switch does not answer");
      homed_ = false;
      return;
    }
  std::uniform_real_distribution<double> off(-frame_.switch_repeats, frame_.switch_repeats);
  error_ = {off(random_), off(random_), off(random_)};
  drive_.put({0, 0, 0});
  cut_from_ = drive_.at();
  reader_.stand_at(drive_.at());
  homed_ = true;
  state_ = State::idle;
}

void Router::run_tick() {
  if (state_ == State::homing) return tick_home();
  if (probing_ && state_ != State::held && state_ != State::holding) return tick_probe();
  if (dwell_ > 0 && state_ != State::held) {
    dwell_ -= Drive::tick;
    if (dwell_ > 0) return;
  }
  if (state_ == State::running || state_ == State::moving) start_deeds();
  if (state_ == State::held || state_ == State::waiting || state_ == State::alarm) return;
  ended_pieces_.clear();
  drive_.go_on(ended_pieces_);
  for (const Drive::Ended& e : ended_pieces_) {
    cut_to(e.to, e.rapid);
    if (e.mark != 0) finish(e.mark);
    if (state_ == State::alarm || state_ == State::unhomed) return;
  }
  if (state_ == State::holding && drive_.stands()) {
    cut_to(drive_.at(), drive_.rapid());
    state_ = State::held;
    if (stopping_) {
      stopping_ = false;
      forget_program();
      state_ = State::idle;
      turning_ = 0;
      why_ = "stopped";
    }
    return;
  }
  if (drive_.idle() && deeds_.empty() && dwell_ <= 0 && !probing_) {
    if (state_ == State::moving) {
      state_ = aside_ ? State::waiting : State::idle;
    } else if (state_ == State::running && !refused_.empty()) {
      why_ = refused_;
      turning_ = 0;
      forget_program();
      alarm(why_);
    }
  }
}

double Router::advance(double seconds) {
  double lived = 0;
  while (lived < seconds) {
    const bool busy =
        state_ == State::homing || state_ == State::moving || state_ == State::holding || probing_ ||
        (state_ == State::running && (!deeds_.empty() || !drive_.idle() || dwell_ > 0 || !refused_.empty()));
    if (!busy) break;
    run_tick();
    lived += Drive::tick;
  }
  clock_ += lived;
  return lived;
}

void Router::alarm(std::string why) {
  state_ = State::alarm;
  why_ = std::move(why);
  turning_ = 0;
  forget_program();
}

void Router::forget_program() {
  finished_ = false;
  drive_.drop();
  drive_.hold(false);
  deeds_.clear();
  texts_.clear();
  unread_.clear();
  stop_ahead_ = false;
  aside_.reset();
  pending_lines_ = 0;
  dwell_ = 0;
  probing_.reset();
  refused_.clear();
  wanted_ = 0;
  ended_ = true;
  cut_from_ = drive_.at();
  reader_.reset();
  reader_.stand_at(drive_.at());
}

void Router::power_cut() {
  cut_to(drive_.at(), drive_.rapid());
  forget_program();
  turning_ = 0;
  program_.clear();
  accepted_ = done_ = lines_ = 0;
  tool_ = 0;
  homed_ = false;
  touched_.reset();
  spindle_share_ = 1;
  drive_.set_feed(1);
  state_ = State::unhomed;
  why_ = "the power was gone";
  boot_ = static_cast<std::uint32_t>(random_());
}

std::string Router::home() {
  if (state_ != State::idle && state_ != State::unhomed) return fmt::format("it is {}", state_word(state_));
  state_ = State::homing;
  homed_ = false;
  turning_ = 0;
  return {};
}

std::string Router::jog(Place by, double feed) {
  if (state_ != State::idle) return homed_ ? fmt::format("it is {}", state_word(state_)) : "it is not homed";
  if (!(feed > 0)) return "a feed of nothing";
  const Place to = drive_.at() + by;
  if (std::string bad = outside(to); !bad.empty()) return bad;
  drive_.add(to, false, feed / 60, 0);
  reader_.stand_at(to);
  state_ = State::moving;
  return {};
}

std::string Router::hold() {
  if (state_ == State::held || state_ == State::holding) return {};
  if (state_ != State::running && state_ != State::moving) return fmt::format("it is {}", state_word(state_));
  goes_back_to_ = state_;
  drive_.hold(true);
  state_ = State::holding;
  why_ = "held";
  return {};
}

std::string Router::resume() {
  if (state_ == State::waiting) {
    if (wanted_ != 0 && tool_ != wanted_) return fmt::format("tool {} is to be put in first", wanted_);
    wanted_ = 0;
    if (aside_) {
      // Zero stays as the hand has set it; all else is as the program had it.
      const Place zero = reader_.zero;
      auto lengths = std::move(reader_.length);
      reader_ = std::move(aside_->reader);
      reader_.zero = zero;
      reader_.length = std::move(lengths);
      deeds_ = std::move(aside_->deeds);
      aside_.reset();
    }
    reader_.stand_at(drive_.at());
    state_ = after_wait_;
    why_.clear();
    read_on();
    return {};
  } else if (state_ == State::held) {
    if (!whole_) return "the cutter is broken";
    drive_.hold(false);
  } else {
    return fmt::format("it is {}", state_word(state_));
  }
  state_ = goes_back_to_;
  why_.clear();
  return {};
}

std::string Router::stop() {
  if (state_ == State::waiting || state_ == State::held) {
    forget_program();
    state_ = State::idle;
    turning_ = 0;
    why_ = "stopped";
    return {};
  }
  if (state_ != State::running && state_ != State::moving && state_ != State::holding)
    return fmt::format("it is {}", state_word(state_));
  drive_.hold(true);
  stopping_ = true;
  state_ = State::holding;
  return {};
}

void Router::emergency() {
  const bool moved = drive_.speed() > 0 || state_ == State::homing;
  cut_to(drive_.at(), drive_.rapid());
  stopping_ = false;
  alarm("the emergency stop was pressed");
  if (moved) homed_ = false;
}

std::string Router::unlock() {
  if (state_ != State::alarm) return fmt::format("it is {}", state_word(state_));
  state_ = homed_ ? State::idle : State::unhomed;
  why_.clear();
  return {};
}

std::string Router::set_feed(double percent) {
  if (!(percent >= 10 && percent <= 200)) return "a feed of 10 to 200 % can be set";
  drive_.set_feed(percent / 100);
  return {};
}

std::string Router::set_spindle(double percent) {
  if (!(percent >= 50 && percent <= 150)) return "a spindle of 50 to 150 % can be set";
  spindle_share_ = percent / 100;
  return {};
}

std::string Router::put_cutter(int tool, const CutterShape& shape) {
  if (turning_ != 0 || (state_ != State::idle && state_ != State::waiting && state_ != State::unhomed))
    return fmt::format("a hand keeps away: it is {}", turning_ != 0 ? "turning" : state_word(state_));
  if (tool < 1 || tool > 99999 ||
      !(shape.radius >= 0.05 && shape.radius <= 50 && shape.stickout > 0 && shape.stickout < 300 && shape.corner >= 0 &&
        shape.corner <= shape.radius && shape.half_angle > 1 && shape.half_angle < 90))
    return "no such cutter";
  tool_ = tool;
  cutter_ = shape;
  whole_ = true;
  reader_.length[tool] = shape.stickout;
  cut_from_ = drive_.at();
  return {};
}

std::string Router::lay(const Wood::Block& block) {
  if (turning_ != 0 || (state_ != State::idle && state_ != State::unhomed)) return "a hand keeps away while it moves";
  if (!(block.length > 0 && block.width > 0 && block.thickness > 0 && block.length <= 20000 && block.width <= 20000 &&
        block.thickness <= 2000))
    return "no such block";
  wood_.lay(block);
  return {};
}

std::string Router::turn(bool about_x, double x, double y) {
  if (turning_ != 0 || (state_ != State::idle && state_ != State::unhomed)) return "a hand keeps away while it moves";
  if (!wood_.there()) return "there is nothing to turn over";
  wood_.turn(about_x, x, y);
  return {};
}

void Router::arm(Fault fault, std::uint32_t at) {
  faults_.emplace(at, fault);
  if (at == 0 && fault == Fault::power_cut) power_cut();
  if (at == 0 && fault == Fault::emergency_stop) emergency();
  if (at == 0 && (fault == Fault::power_cut || fault == Fault::emergency_stop))
    std::erase_if(faults_, [&](const auto& f) { return f.second == fault && f.first == 0; });
}

std::optional<Fault> Router::wire_fault(std::uint32_t n) {
  for (auto it = faults_.begin(); it != faults_.end(); ++it)
    if (it->second <= Fault::connection_gone && it->first <= n) {
      const Fault fault = it->second;
      faults_.erase(it);
      return fault;
    }
  return {};
}

}  // namespace standin

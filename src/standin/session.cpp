#include "standin/session.hpp"

#include <charconv>

#include <fmt/format.h>

#include "standin/crc.hpp"

namespace standin {
namespace {

constexpr std::string_view hex = "0123456789abcdef";

/// The next word, taken off `rest`.
std::string_view word(std::string_view& rest) {
  while (!rest.empty() && rest.front() == ' ') rest.remove_prefix(1);
  const std::size_t end = std::min(rest.find(' '), rest.size());
  const std::string_view out = rest.substr(0, end);
  rest.remove_prefix(end);
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

/// So many numbers, or none.
std::optional<std::vector<double>> numbers(std::string_view rest, std::size_t count) {
  std::vector<double> out;
  for (std::string_view w = word(rest); !w.empty(); w = word(rest)) {
    const auto v = number<double>(w);
    if (!v) return {};
    out.push_back(*v);
  }
  if (out.size() != count) return {};
  return out;
}

std::optional<CutterShape> shape_from(std::string_view kind, const std::vector<double>& n) {
  CutterShape c;
  if (kind == "flat")
    c.kind = CutterShape::Kind::flat;
  else if (kind == "ball")
    c.kind = CutterShape::Kind::ball;
  else if (kind == "nose")
    c.kind = CutterShape::Kind::nose;
  else if (kind == "point")
    c.kind = CutterShape::Kind::point;
  else if (kind == "hollow")
    c.kind = CutterShape::Kind::hollow;
  else
    return {};
  c.radius = n[0] / 2;
  c.corner = n[1];
  c.half_angle = n[2] / 2;
  c.length = n[3];
  c.stickout = n[4];
  return c;
}

constexpr std::size_t most_plain = 16;  // deeds ahead in the plain mode

/// Words that are not kept waiting behind lines of a program.
bool at_once(std::string_view text) {
  const std::string_view first = word(text);
  return first == "where" || first == "hold" || first == "go" || first == "halt";
}

}  // namespace

std::string sealed(std::string_view payload) {
  const std::uint32_t c = crc32(payload);
  std::string out(payload);
  out += " *";
  for (int k = 28; k >= 0; k -= 4) out += hex[(c >> static_cast<unsigned>(k)) & 15U];
  return out + "\n";
}

std::optional<std::string_view> unsealed(std::string_view line) {
  if (line.size() < 10 || line[line.size() - 10] != ' ' || line[line.size() - 9] != '*') return {};
  std::uint32_t said = 0;
  for (const char ch : line.substr(line.size() - 8)) {
    const std::size_t digit = hex.find(ch);
    if (digit == std::string_view::npos) return {};
    said = said << 4U | static_cast<std::uint32_t>(digit);
  }
  const std::string_view payload = line.substr(0, line.size() - 10);
  if (crc32(payload) != said) return {};
  return payload;
}

bool Session::take(std::string_view bytes, std::string& out) {
  kept_.append(bytes);
  while (!waiting_.empty() && router_.room()) {
    const std::string next = std::move(waiting_.front());
    waiting_.pop_front();
    if (!line(next, out) || gone_) return false;
  }
  std::size_t from = 0;
  for (;;) {
    const std::size_t end = kept_.find('\n', from);
    if (end == std::string::npos) break;
    if (end - from > longest) return false;
    std::string_view text(kept_.data() + from, end - from);
    if (mode_ == Mode::plain && router_.waiting_deeds() > most_plain && !at_once(text)) break;
    if (!text.empty() && text.back() == '\r') text.remove_suffix(1);
    from = end + 1;
    // Lines of the program wait for room, in their order; questions and commands pass them by.
    if (mode_ == Mode::checked && text.starts_with("L ") && (!waiting_.empty() || !router_.room())) {
      if (waiting_.size() >= 2 * window) return false;  // more than may be in flight
      waiting_.emplace_back(text);
      continue;
    }
    if (!line(text, out) || gone_) return false;
  }
  kept_.erase(0, from);
  if (kept_.size() > most_kept) return false;
  return kept_.find('\n') != std::string::npos || kept_.size() <= longest;
}

bool Session::line(std::string_view text, std::string& out) {
  if (mode_ == Mode::plain) {
    plain(text, out);
    return true;
  }
  return checked(text, out);
}

std::string Session::status() const {
  const Place at = router_.at(), zero = router_.zero();
  std::string who = router_.program().empty() ? "-" : router_.program();
  return sealed(fmt::format(
      "st {:08x} {} {} {} {} {} {:.4f} {:.4f} {:.4f} {:.4f} {:.4f} {:.4f} {:.1f} {:.0f} {:.0f} {:.0f} {} {} {:.3f} {} "
      "{}",
      router_.boot(), state_word(router_.state()), router_.known() ? "known" : "lost", who, router_.accepted(),
      router_.done(), at.x, at.y, at.z, zero.x, zero.y, zero.z, router_.speed() * 60, router_.rpm(),
      router_.feed_share() * 100, router_.spindle_share() * 100, router_.tool(), router_.wanted(), router_.clock(),
      router_.hits().size(), router_.why().empty() ? "-" : router_.why()));
}

void Session::again(std::string& out, const char* why) {
  if (asked_again_) return;  // one asking for each gap: what is in flight behind it is not asked for line by line
  asked_again_ = true;
  out += sealed(fmt::format("again {} {}", router_.accepted() + 1, why));
}

bool Session::checked(std::string_view text, std::string& out) {
  const auto payload = unsealed(text);
  if (!payload) {
    if (!greeted_) return false;  // whoever speaks like that has the wrong machine
    again(out, "damaged");
    return true;
  }
  std::string_view rest = *payload;
  const std::string_view first = word(rest);
  if (first == "hello") {
    const auto version = number<int>(word(rest));
    const std::string_view name = word(rest);
    looks_ = word(rest) == "look";
    if (!version || *version != 1 || name.empty() || name.size() > 64) {
      out += sealed("no version 1 is spoken here");
      return false;
    }
    who_ = name;
    if (!busy_by_.empty() && !looks_) {
      out += sealed("busy " + busy_by_);
      return false;
    }
    greeted_ = true;
    last_command_ = 0;
    asked_again_ = false;
    const Frame& f = router_.frame();
    out += sealed(fmt::format("welcome 1 {:08x} {} stand-in {:g} {:g} {:g} {:g}", router_.boot(), window, f.travel.x,
                              f.travel.y, f.travel.z, f.clear_under_nut));
    return true;
  }
  if (!greeted_) {
    out += sealed("no hello first");
    return false;
  }
  if (first == "st?") {
    out += status();
    return true;
  }
  if (first == "L") {
    if (looks_) return false;
    program_line(rest, out);
    return true;
  }
  if (first == "do") {
    const auto k = number<std::uint32_t>(word(rest));
    if (!k || *k < last_command_ || *k > last_command_ + 1) {
      out += sealed("no commands are numbered from 1, one by one");
      return true;
    }
    // Said twice, it is done once.
    if (*k == last_command_ + 1) {
      last_command_ = *k;
      std::string_view verb = rest;
      const std::string_view what = word(verb);
      const bool only_looks = what == "measure" || what == "hits" || what == "touched";
      last_answer_ = looks_ && !only_looks ? "not this connection only looks" : command(rest);
    }
    const std::size_t space = last_answer_.find(' ');
    out += sealed(fmt::format("{} {}{}", last_answer_.substr(0, space), *k,
                              space == std::string::npos ? "" : last_answer_.substr(space)));
    return true;
  }
  out += sealed(fmt::format("no '{}' is known", first.substr(0, 20)));
  return true;
}

void Session::program_line(std::string_view rest, std::string& out) {
  const auto n = number<std::uint32_t>(word(rest));
  if (!rest.empty()) rest.remove_prefix(1);
  if (!n || *n == 0) {
    again(out, "unnumbered");
    return;
  }
  bool twice = false;
  if (const auto fault = router_.wire_fault(*n)) {
    if (*fault == Fault::line_lost) return;
    if (*fault == Fault::byte_changed) {
      again(out, "damaged");
      return;
    }
    if (*fault == Fault::answer_late) late_ = true;
    if (*fault == Fault::connection_gone) {
      gone_ = true;
      return;
    }
    twice = *fault == Fault::line_twice;
  }
  for (int times = twice ? 2 : 1; times > 0; --times) {
    if (*n <= router_.accepted()) {
      out += sealed(fmt::format("ack {}", router_.accepted()));
      continue;
    }
    if (*n != router_.accepted() + 1) {
      again(out, "gap");
      return;
    }
    asked_again_ = false;
    const std::string bad = router_.accept(rest);
    out += sealed(bad.empty() ? fmt::format("ack {}", *n) : fmt::format("bad {} {}", *n, bad));
  }
}

std::string Session::command(std::string_view text) {
  std::string_view rest = text;
  const std::string_view verb = word(rest);
  const auto told = [](const std::string& bad) { return bad.empty() ? std::string("did") : "not " + bad; };
  if (verb == "job") {
    const std::string_view name = word(rest);
    const auto lines = number<std::uint32_t>(word(rest));
    if (name.empty() || name.size() > 80 || !lines) return "not it is said so: job NAME LINES";
    asked_again_ = false;
    waiting_.clear();
    return told(router_.begin(std::string(name), *lines));
  }
  if (verb == "home") return told(router_.home());
  if (verb == "hold") return told(router_.hold());
  if (verb == "resume") return told(router_.resume());
  if (verb == "stop") return told(router_.stop());
  if (verb == "unlock") return told(router_.unlock());
  if (verb == "jog") {
    const auto n = numbers(rest, 4);
    return n ? told(router_.jog({(*n)[0], (*n)[1], (*n)[2]}, (*n)[3])) : "not it is said so: jog X Y Z FEED";
  }
  if (verb == "feed" || verb == "spindle") {
    const auto n = numbers(rest, 1);
    if (!n) return "not it is said with a percentage";
    return told(verb == "feed" ? router_.set_feed((*n)[0]) : router_.set_spindle((*n)[0]));
  }
  if (verb == "line") {
    if (!rest.empty()) rest.remove_prefix(1);
    return told(router_.by_hand(rest));
  }
  if (verb == "touched") {
    const auto t = router_.touched();
    return t ? fmt::format("did {:.4f} {:.4f} {:.4f}", t->x, t->y, t->z) : "not nothing was touched yet";
  }
  if (verb == "cutter") {
    const auto tool = number<int>(word(rest));
    const std::string_view kind = word(rest);
    const auto n = numbers(rest, 5);
    const auto shape = n ? shape_from(kind, *n) : std::nullopt;
    if (!tool || !shape) return "not it is said so: cutter TOOL KIND DIAMETER CORNER ANGLE LENGTH STICKOUT";
    return told(router_.put_cutter(*tool, *shape));
  }
  if (verb == "lay") {
    const auto n = numbers(rest, 5);
    return n ? told(router_.lay({(*n)[0], (*n)[1], (*n)[2], (*n)[3], (*n)[4]}))
             : "not it is said so: lay ALONG-X ALONG-Y THICKNESS X Y";
  }
  if (verb == "turn") {
    const std::string_view axis = word(rest);
    const auto n = numbers(rest, 2);
    return n && (axis == "x" || axis == "y") ? told(router_.turn(axis == "x", (*n)[0], (*n)[1]))
                                             : "not it is said so: turn x|y X Y";
  }
  if (verb == "fault") {
    const auto fault = fault_from(word(rest));
    const auto n = numbers(rest, 1);
    if (!fault || !n || (*n)[0] < 0 || (*n)[0] > 4e9) return "not it is said so: fault KIND LINE";
    router_.arm(*fault, static_cast<std::uint32_t>((*n)[0]));
    return "did";
  }
  if (verb == "emergency") {
    router_.emergency();
    return "did";
  }
  if (verb == "hits") {
    std::string all = fmt::format("did {}", router_.hits().size());
    if (!router_.hits().empty()) all += " " + router_.hits().back();
    return all;
  }
  if (verb == "measure") {
    const std::string_view what = word(rest);
    const Wood& wood = router_.wood();
    if (!wood.there()) return "not no wood lies there";
    const Place zero = router_.zero();
    const auto place = [&](double x, double y) {
      return Place{x + zero.x - wood.block().x, y + zero.y - wood.block().y, 0};
    };
    if (what == "height" || what == "thickness") {
      const auto n = numbers(rest, 2);
      if (!n) return "not it is said so: measure height X Y";
      const Place p = place((*n)[0], (*n)[1]);
      const double top = wood.top(p.x, p.y), low = wood.bottom(p.x, p.y);
      return fmt::format("did {:.4f}", what == "height" ? top : std::max(0.0, top - low));
    }
    if (what == "groove") {
      const auto n = numbers(rest, 3);
      if (!n) return "not it is said so: measure groove X Y ANGLE";
      const Place p = place((*n)[0], (*n)[1]);
      const auto g = wood.groove(p.x, p.y, (*n)[2]);
      return g.found ? fmt::format("did {:.3f} {:.4f}", g.width, g.depth) : "not there is no groove";
    }
    return "not it is measure height, thickness or groove";
  }
  return fmt::format("not nobody here knows '{}'", verb.substr(0, 20));
}

void Session::plain(std::string_view text, std::string& out) {
  std::string_view rest = text;
  const std::string_view first = word(rest);
  const auto answer = [&](const std::string& bad) { out += bad.empty() ? "done\n" : "error " + bad + "\n"; };
  if (first == "where") {
    const Place p = router_.at();
    out += router_.known() ? fmt::format("at X{:.4f} Y{:.4f} Z{:.4f} {}\n", p.x, p.y, p.z, state_word(router_.state()))
                           : fmt::format("at unknown {}\n", state_word(router_.state()));
  } else if (first == "home") {
    answer(router_.home());
  } else if (first == "hold") {
    answer(router_.hold());
  } else if (first == "go") {
    answer(router_.resume());
  } else if (first == "halt") {
    const std::string bad = router_.stop();
    out += bad.empty() ? "stopped\n" : "error " + bad + "\n";
  } else if (router_.state() == State::alarm || router_.state() == State::unhomed) {
    out += fmt::format("stopped {}\n", router_.why().empty() ? state_word(router_.state()) : router_.why());
  } else {
    answer(router_.plain_line(text));
  }
}

}  // namespace standin

#include "core/program/writer.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <numbers>

#include <fmt/format.h>
#include <zlib.h>

#include "core/program/digits.hpp"
#include "core/program/plain_words.hpp"
#include "core/report/names.hpp"

namespace wren {
namespace {

constexpr double largest_arc = 10'000;  // mm: wider ones are more than a controller's numbers may hold (IEEE 754)

/// Digits of 0 … 999, with leading zeros after a point (".042") and without them before it.
struct DigitTable {
  struct Short {
    char text[4];
  };
  std::array<std::array<char, 4>, 1000> fraction{};
  std::array<std::array<char, 4>, 1000> whole{};  // left-aligned; [3] is the length
  constexpr DigitTable() {
    for (int i = 0; i < 1000; ++i) {
      const auto k = static_cast<std::size_t>(i);
      const char a = static_cast<char>('0' + i / 100);
      const char b = static_cast<char>('0' + i / 10 % 10);
      const char c = static_cast<char>('0' + i % 10);
      fraction[k] = {'.', a, b, c};
      if (i >= 100)
        whole[k] = {a, b, c, 3};
      else if (i >= 10)
        whole[k] = {b, c, 0, 2};
      else
        whole[k] = {c, 0, 0, 1};
    }
  }
};
constexpr DigitTable digits;

/// A fixed buffer with room for many lines, emptied into the text when it is nearly full.
class Out {
 public:
  explicit Out(std::string& text) : text_(text) { at_ = buffer_.data(); }
  ~Out() { flush(); }
  Out(const Out&) = delete;
  Out& operator=(const Out&) = delete;

  void line_end() {
    *at_++ = '\n';
    if (at_ > buffer_.data() + buffer_.size() - 256) flush();
  }
  void put(char c) { *at_++ = c; }
  void put(const char* s) {
    while (*s != 0) *at_++ = *s++;
  }
  /// A word in whole thousandths: "X-12.345".
  void thousandths(char letter, std::int64_t value) {
    *at_++ = letter;
    auto v = static_cast<std::uint64_t>(value);
    if (value < 0) {
      *at_++ = '-';
      v = static_cast<std::uint64_t>(-value);
    }
    const auto whole = static_cast<std::uint32_t>(v / 1000);
    const auto rest = static_cast<std::uint32_t>(v % 1000);
    if (whole < 1000) {
      const auto& w = digits.whole[whole];
      std::memcpy(at_, w.data(), 4);
      at_ += w[3];
    } else {
      at_ = fmt::format_to(at_, "{}", whole);
    }
    std::memcpy(at_, digits.fraction[rest].data(), 4);
    at_ += 4;
  }
  /// A word in hundred-thousandths of an inch: "X0.48602".
  void hundred_thousandths(char letter, std::int64_t value) {
    at_ = fmt::format_to(at_, "{}{}{}.{:05}", letter, value < 0 ? "-" : "", std::abs(value) / 100000,
                         std::abs(value) % 100000);
  }
  void flush() {
    text_.append(buffer_.data(), static_cast<std::size_t>(at_ - buffer_.data()));
    at_ = buffer_.data();
  }

 private:
  std::string& text_;
  std::array<char, 1 << 16> buffer_;
  char* at_ = nullptr;
};

inline std::int64_t micrometres(double mm) { return static_cast<std::int64_t>(mm * 1000 + (mm < 0 ? -0.5 : 0.5)); }

struct Point {
  std::int64_t x = INT64_MIN;
  std::int64_t y = INT64_MIN;
  std::int64_t z = INT64_MIN;
};

class MoveWriter {
 public:
  MoveWriter(Out& out, const ProgramStyle& style) : out_(out), inch_(style.units == UnitSystem::inch) {}

  /// From the machine's top: over the place first, then down to it.
  void approach(Vec3 to) {
    const Point p = grid(to);
    forget();
    word_g(0);
    word('X', p.x);
    word('Y', p.y);
    out_.line_end();
    word('Z', p.z);
    out_.line_end();
    last_ = p;
    fresh_g_ = false;
  }
  /// Nothing said before holds any more.
  void forget() {
    last_ = {};
    mode_written_ = -1;
    feed_ = -1;
  }
  void line(int mode, Vec3 to, float feed) {
    const Point p = grid(to);
    if (mode == 0 && p.x == last_.x && p.y == last_.y && p.z == last_.z) return;
    word_g(mode);
    const bool moved = coordinates(p);
    if (!moved && mode == mode_written_) {  // a move of no length at this resolution says nothing
      if (!fresh_g_) return;
    }
    if (mode != 0) word_f(feed);
    out_.line_end();
    fresh_g_ = false;
  }
  void arc(int mode, Vec3 to, Vec2 centre, float feed, bool more_than_half) {
    const Point p = grid(to);
    const bool closes = p.x == last_.x && p.y == last_.y;
    // Ends so near to each other are a full turn to some controllers (the reader's agreement, and a little more).
    const double apart = std::hypot(static_cast<double>(p.x - last_.x), static_cast<double>(p.y - last_.y));
    if (!more_than_half && apart <= (inch_ ? 24 : 6)) {
      line(1, to, feed);
      return;
    }
    word_g(mode);
    const Point from = last_;
    if (closes) word('X', p.x);  // a full turn has to name its end
    coordinates(p);
    const Point c = grid({centre.x, centre.y, 0});
    word('I', c.x - from.x);
    word('J', c.y - from.y);
    word_f(feed);
    out_.line_end();
    fresh_g_ = false;
  }

 private:
  [[nodiscard]] Point grid(Vec3 p) const {
    if (!inch_) return {micrometres(p.x), micrometres(p.y), micrometres(p.z)};
    const auto h = [](double mm) { return static_cast<std::int64_t>(std::llround(mm / last_digit(UnitSystem::inch))); };
    return {h(p.x), h(p.y), h(p.z)};
  }
  void word(char letter, std::int64_t v) {
    if (inch_)
      out_.hundred_thousandths(letter, v);
    else
      out_.thousandths(letter, v);
  }
  void word_g(int mode) {
    if (mode == mode_written_) return;
    out_.put('G');
    out_.put(static_cast<char>('0' + mode));
    mode_written_ = mode;
    fresh_g_ = true;
  }
  bool coordinates(const Point& p) {
    bool moved = false;
    if (p.x != last_.x) {
      word('X', p.x);
      moved = true;
    }
    if (p.y != last_.y) {
      word('Y', p.y);
      moved = true;
    }
    if (p.z != last_.z) {
      word('Z', p.z);
      moved = true;
    }
    last_ = p;
    return moved;
  }
  void word_f(float feed) {
    if (feed == feed_) return;
    feed_ = feed;
    const double f = static_cast<double>(feed);
    word('F', inch_ ? std::llround(f / mm_per_inch * 1e5) : std::llround(f * 1000));
  }
  Out& out_;
  bool inch_;
  bool fresh_g_ = false;
  int mode_written_ = -1;
  float feed_ = -1;
  Point last_;
};

/// How far an arc turns: positive against the clock.
double turn_of(Vec3 from, const Move& m) {
  const bool ccw = m.kind == MoveKind::arc_ccw;
  const double a0 = std::atan2(from.y - m.centre.y, from.x - m.centre.x);
  double sweep = std::atan2(m.to.y - m.centre.y, m.to.x - m.centre.x) - a0;
  if (ccw && sweep <= 1e-12) sweep += 2 * std::numbers::pi;
  if (!ccw && sweep >= -1e-12) sweep -= 2 * std::numbers::pi;
  return sweep;
}

/// An arc as chords of at most `chord` mm of sagitta.
void write_chords(MoveWriter& writer, Vec3 from, const Move& m, double chord) {
  const double r = distance(m.centre, flat(from));
  const double a0 = std::atan2(from.y - m.centre.y, from.x - m.centre.x);
  const double sweep = turn_of(from, m);
  const double step = 2 * std::acos(std::max(0.0, 1 - chord / std::max(r, chord)));
  const int n = std::max(1, static_cast<int>(std::ceil(std::abs(sweep) / std::max(1e-3, step))));
  for (int k = 1; k <= n; ++k) {
    const double t = static_cast<double>(k) / n;
    const double a = a0 + sweep * t;
    writer.line(1,
                k == n
                    ? m.to
                    : Vec3{m.centre.x + r * std::cos(a), m.centre.y + r * std::sin(a), from.z + (m.to.z - from.z) * t},
                m.feed);
  }
}

/// The moves of a path; before move k of a stop `at_stop(k, text, place)` is called.
template <class AtStop>
void write_range(const Toolpath& path, const ProgramStyle& style, MoveWriter& writer, const AtStop& at_stop) {
  Vec3 from = path.start;
  writer.approach(path.start);
  std::size_t next_stop = 0;
  for (std::size_t i = 0; i < path.moves.size(); ++i) {
    const Move& m = path.moves[i];
    while (next_stop < path.stops.size() && path.stops[next_stop].before_move == i) {
      if (i > 0) at_stop(path.stops[next_stop].text, from);
      ++next_stop;
    }
    switch (m.kind) {
      case MoveKind::rapid: writer.line(0, m.to, 0); break;
      case MoveKind::plunge:
      case MoveKind::feed: writer.line(1, m.to, m.feed); break;
      case MoveKind::arc_cw:
      case MoveKind::arc_ccw:
        if (style.arcs && distance(m.centre, flat(m.to)) <= largest_arc)
          writer.arc(m.kind == MoveKind::arc_ccw ? 3 : 2, m.to, m.centre, m.feed,
                     std::abs(turn_of(from, m)) > std::numbers::pi);
        else
          write_chords(writer, from, m, style.chord);
    }
    from = m.to;
  }
}

std::string said(std::string_view what, std::string_view value) {
  return fmt::format("{}: {}", what, comment_safe(value));
}

/// How corners are taken, in words that the controller knows.
std::string path_mode_words(const Controller& knows, UnitSystem units) {
  if (knows.exact_path) return " G61";
  if (knows.blend_tolerance) return units == UnitSystem::inch ? " G64 P0.0004" : " G64 P0.01";
  return "";
}

}  // namespace

void write_moves(std::string& text, const Toolpath& path, const ProgramStyle& style) {
  Out out(text);
  MoveWriter writer(out, style);
  write_range(path, style, writer, [](const std::string&, Vec3) {});
}

std::vector<std::string> header_words(const ProgramHeader& header) {
  std::vector<std::string> out{said("part", header.part), said("blank", header.blank), said("zero", header.zero)};
  if (!header.probe.empty()) out.push_back(said("probe z on", header.probe));
  return out;
}

std::string cutter_words(const Cutter& c) {
  return said("cutter", fmt::format("T{} {}, {} {} mm, cutting length {} mm, stickout {} mm", c.number, c.id,
                                    cutter_kind_name(c.kind), format_mm(c.effective_diameter()),
                                    format_mm(c.cutting_length), format_mm(c.stickout)));
}

std::string change_words(const Cutter& c) {
  return fmt::format("change to {}, stickout {} mm, probe z", comment_safe(c.id), format_mm(c.stickout));
}

std::string write_program(const std::vector<const Toolpath*>& paths, const ProgramHeader& header, const Rack& rack,
                          const ProgramStyle& wanted, const Machine& machine) {
  std::string text;
  ProgramStyle style = wanted;
  style.arcs = wanted.arcs && machine.controller.arcs;
  const auto say = [&](std::string_view comment) { text += fmt::format("({})\n", comment); };
  const auto length = [&](double mm) {
    return style.units == UnitSystem::inch ? fmt::format("{:.4f}", mm / mm_per_inch) : fmt::format("{:.3f}", mm);
  };
  const bool homes = machine.controller.machine_moves;
  text += "(upland wren program 2)\n";
  if (!header.notice.empty()) text += fmt::format("({})\n", comment_safe(header.notice));
  const std::vector<std::string> words = header_words(header);
  say(words.front());
  say(said("project", header.project));
  for (std::size_t i = 1; i < words.size(); ++i) say(words[i]);
  say(said("date", header.date));
  text += "(prove it, then run it as an air pass before the first cut: the run sheet says how)\n";
  for (const Toolpath* path : paths) {
    const Cutter* c = find_cutter(rack, path->cutter);
    std::string cuts;
    for (const auto& id : path->cuts) cuts += (cuts.empty() ? "" : ", ") + id;
    if (c != nullptr) say(comment_safe(cutter_words(*c) + ", for " + cuts));
  }
  // Every modal group that matters, once, so that nothing hangs on what ran before.
  text += fmt::format("{} G17 G90 G91.1 G94 G54 G40 G49 G80{}\n", style.units == UnitSystem::inch ? "G20" : "G21",
                      path_mode_words(machine.controller, style.units));
  const auto retract = [&] {
    if (homes) text += "G53 G0 Z0\n";
  };
  const auto park = [&] {
    text += "M5\n";
    if (homes) text += fmt::format("G53 G0 X{} Y{}\n", length(machine.park.x), length(machine.park.y));
  };
  const auto spin = [&](const Toolpath& path) {
    text += fmt::format("S{} M3\n", std::lround(path.rpm));
    text += fmt::format("G4 P{} ({})\n", machine.controller.dwell == DwellUnit::seconds ? 3 : 3000, spin_words);
  };
  // Where the machine stands is not known, nor where a hand has left it after a stop.
  const auto find_top = [&] {
    if (homes)
      retract();
    else
      text += fmt::format("M0 ({})\n", home_words);
  };
  find_top();
  bool first = true;
  for (const Toolpath* path : paths) {
    const Cutter* c = find_cutter(rack, path->cutter);
    const bool by_hand = machine.change == CutterChange::by_hand;
    if (!first) {
      retract();
      park();
      if (by_hand)
        text += fmt::format("M0 ({})\n", c != nullptr ? change_words(*c) : "change to " + comment_safe(path->cutter));
    }
    const bool stop_first = path->stops.size() == 1 && path->stops[0].before_move == 0;
    if (stop_first && first) park();
    if (stop_first) text += fmt::format("M0 ({})\n", comment_safe(path->stops[0].text));
    text += fmt::format("T{} M6\n", c != nullptr ? c->number : 0);
    if (!by_hand && machine.controller.tool_lengths) text += fmt::format("G43 H{}\n", c != nullptr ? c->number : 0);
    if (homes || !first || stop_first) find_top();
    spin(*path);
    {
      Out out(text);
      MoveWriter writer(out, style);
      write_range(*path, style, writer, [&](const std::string& what, Vec3 place) {
        out.flush();
        retract();
        park();
        text += fmt::format("M0 ({})\n", comment_safe(what));
        find_top();
        spin(*path);
        writer.approach(place);
      });
    }
    first = false;
  }
  retract();
  park();
  text += "M30\n";
  const auto lines = static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n')) + 1;
  const auto crc = crc32_z(0, reinterpret_cast<const Bytef*>(text.data()), text.size());
  text += fmt::format("(end: {} lines, crc32 {:08x})\n", lines, crc);
  return text;
}

}  // namespace wren

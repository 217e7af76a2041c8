#include "standin/words.hpp"

#include <algorithm>
#include <charconv>
#include <numbers>
#include <optional>

#include <fmt/format.h>

namespace standin {

/// Words of one line, by letter; G and M words in tenths.
struct Reader::Line {
  std::vector<int> g, m;
  std::map<char, double> word;
  [[nodiscard]] bool has(char letter) const { return word.contains(letter); }
  [[nodiscard]] double of(char letter, double otherwise) const {
    const auto it = word.find(letter);
    return it == word.end() ? otherwise : it->second;
  }
  [[nodiscard]] bool has_g(int tenths) const {
    for (const int one : g)
      if (one == tenths) return true;
    return false;
  }
  [[nodiscard]] bool moves() const { return has('X') || has('Y') || has('Z'); }
};

void Reader::reset() {
  const Place kept = zero;
  const auto lengths = length;
  const Place at = at_;
  *this = Reader{};
  zero = kept;
  length = lengths;
  at_ = at;
}

namespace {

constexpr std::size_t longest_line = 256;  // NISTIR 6556, 3.3.1
constexpr double chord = 0.0005;           // mm between an arc and what stands in for it

std::optional<double> number_at(std::string_view text, std::size_t& i) {
  if (i < text.size() && text[i] == '+') ++i;
  double value = 0;
  const auto [end, bad] = std::from_chars(text.data() + i, text.data() + text.size(), value, std::chars_format::fixed);
  if (bad != std::errc() || !std::isfinite(value) || std::abs(value) > 1e7) return {};
  i = static_cast<std::size_t>(end - text.data());
  return value;
}

}  // namespace

Understood Reader::read(std::string_view text) {
  Understood out;
  if (text.size() > longest_line) {
    out.refused = fmt::format("a line of {} characters; {} are read", text.size(), longest_line);
    return out;
  }
  Line line;
  std::string plain;
  bool comment = false;
  for (const char c : text) {
    if (c == ';' && !comment) break;
    if (c == '(') comment = true;
    if (!comment && c != ' ' && c != '\t' && c != '\r') plain += c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c;
    if (c == ')') {
      if (!comment) {
        out.refused = "a closing bracket without its comment";
        return out;
      }
      comment = false;
    }
  }
  if (comment) {
    out.refused = "a comment that does not end";
    return out;
  }
  if (plain == "%") return out;
  for (std::size_t i = 0; i < plain.size();) {
    const char letter = plain[i++];
    constexpr std::string_view known = "FGHIJKLMNPQRSTXYZ";
    if (known.find(letter) == std::string_view::npos) {
      out.refused = fmt::format("'{}' is no word", letter);
      return out;
    }
    const auto value = number_at(plain, i);
    if (!value) {
      out.refused = fmt::format("{} has no number", letter);
      return out;
    }
    if (letter == 'N') continue;
    if (letter == 'G' || letter == 'M') {
      const double tenths = *value * 10;
      if (tenths < 0 || std::abs(tenths - std::round(tenths)) > 1e-6) {
        out.refused = fmt::format("{}{} is not known", letter, *value);
        return out;
      }
      (letter == 'G' ? line.g : line.m).push_back(static_cast<int>(std::round(tenths)));
      continue;
    }
    if (!line.word.emplace(letter, *value).second) {
      out.refused = fmt::format("{} stands twice", letter);
      return out;
    }
  }
  Reader before = *this;
  out.refused = take(line, out.deeds);
  if (!out.refused.empty()) {
    *this = std::move(before);
    out.deeds.clear();
  }
  return out;
}

void Reader::go(Place to, bool rapid, std::vector<Deed>& out) {
  Deed d;
  d.to = to;
  d.rapid = rapid;
  d.feed = feed_;
  at_ = to;
  out.push_back(d);
}

std::string Reader::take(const Line& line, std::vector<Deed>& out) {
  int motion = -1;
  bool machine_frame = false, probe = false, set_zero = false;
  double dwell = -1;
  const bool inch_before = inch_;
  for (const int g : line.g) {
    const auto moves = [&](int mode) {
      if (motion >= 0 && motion != mode) return false;
      motion = mode;
      return true;
    };
    switch (g) {
      case 0:
      case 10:
      case 20:
      case 30:
      case 730:
      case 800:
      case 810:
      case 820:
      case 830:
        if (!moves(g / 10)) return "two ways of moving in one line";
        break;
      case 382: probe = true; break;
      case 40: dwell = line.of('P', -1); break;
      case 100: set_zero = true; break;
      case 170:
      case 180:
      case 190: plane_ = g / 10; break;
      case 200: inch_ = true; break;
      case 210: inch_ = false; break;
      case 400:
      case 540:
      case 610:
      case 640:
      case 911:
      case 940: break;
      case 430: {
        const int h = static_cast<int>(line.of('H', tool_));
        const auto it = length.find(h);
        if (it == length.end()) return fmt::format("the tool table has no length of H{}", h);
        length_in_use_ = it->second;
        break;
      }
      case 490: length_in_use_ = 0; break;
      case 530: machine_frame = true; break;
      case 900: relative_ = false; break;
      case 910: relative_ = true; break;
      case 980: back_to_r_ = false; break;
      case 990: back_to_r_ = true; break;
      default: return fmt::format("G{:g} is not known", g / 10.0);
    }
  }
  // A word that nothing in its line uses is an error.
  const int mode = motion >= 0 ? motion : motion_;
  const bool moving = !line.has_g(40) && !machine_frame && !probe && !set_zero;
  const bool arcs = moving && (mode == 2 || mode == 3), drills = moving && (mode == 73 || mode > 80);
  const std::pair<const char*, bool> users[] = {
      {"IJK", arcs},
      {"R", arcs || drills},
      {"L", drills || set_zero},
      {"P", line.has_g(40) || line.has_g(640) || set_zero || arcs || (drills && mode == 82)},
      {"Q", line.has_g(640) || (drills && (mode == 73 || mode == 83))},
      {"H", line.has_g(430)}};
  for (const auto& [letters, used] : users)
    for (const char* c = letters; *c != '\0' && !used; ++c)
      if (line.has(*c)) return fmt::format("nothing uses {}", *c);
  // Nor does it choose between words that contradict each other.
  for (const auto& group : {std::vector{0, 10, 20, 300}, {30, 40, 50}, {60}, {70, 90}, {80, 90}})
    if (std::count_if(line.m.begin(), line.m.end(),
                      [&](int m) { return std::find(group.begin(), group.end(), m) != group.end(); }) > 1)
      return "two M words of one group";
  if (line.has_g(40) && !(dwell >= 0 && dwell <= 600)) return "G4 wants P, 0 to 600 s";
  const double unit = inch_ ? 25.4 : 1;
  if (inch_ != inch_before) feed_ = 0;  // it is said again in the other units
  if (line.has('F')) {
    if (inch_ != inch_before) return "F in the line that changes the units";
    const double f = line.of('F', 0) * unit;
    if (!(f > 0)) return "a feed of nothing";
    feed_ = f;
  }
  if (line.has('S')) {
    if (line.of('S', 0) < 0) return "a spindle speed below nothing";
    rpm_ = line.of('S', 0);
    if (turning_ != 0) {
      Deed d;
      d.kind = Deed::Kind::spindle;
      d.turning = turning_;
      d.rpm = rpm_;
      out.push_back(d);
    }
  }
  if (line.has('T')) {
    const double t = line.of('T', 0);
    if (t < 0 || t > 99999 || t != std::floor(t)) return "a tool has a whole number";
    tool_ = static_cast<int>(t);
  }
  int after = -1;  // M0 and the ends come last of all (NISTIR 6556, table 7)
  for (const int m : line.m) {
    Deed d;
    switch (m) {
      case 0:
      case 10:
      case 20:
      case 300: after = m / 10; continue;
      case 30:
      case 40:
      case 50:
        turning_ = m == 30 ? 1 : m == 40 ? -1 : 0;
        d.kind = Deed::Kind::spindle;
        d.turning = turning_;
        d.rpm = turning_ == 0 ? 0 : rpm_;
        break;
      case 60:
        d.kind = Deed::Kind::cutter;
        d.tool = tool_;
        break;
      case 70:
      case 80:
      case 90: continue;
      default: return fmt::format("M{:g} is not known", m / 10.0);
    }
    out.push_back(d);
  }
  if (line.has_g(40)) {
    Deed d;
    d.kind = Deed::Kind::dwell;
    d.seconds = dwell;
    out.push_back(d);
  }
  const auto target = [&]() -> Place {
    Place to = at_;
    const Place from = machine_frame ? Place{} : offset();
    const auto axis = [&](char letter, double& value, double origin) {
      if (!line.has(letter)) return;
      const double w = line.of(letter, 0) * unit;
      value = relative_ && !machine_frame ? value + w : origin + w;
    };
    axis('X', to.x, from.x);
    axis('Y', to.y, from.y);
    axis('Z', to.z, from.z);
    return to;
  };
  std::string refused;
  if (set_zero) {
    if (line.of('L', 0) != 2 || line.of('P', 0) != 1) return "G10 is known as G10 L2 P1";
    if (line.has('X')) zero.x = line.of('X', 0) * unit;
    if (line.has('Y')) zero.y = line.of('Y', 0) * unit;
    if (line.has('Z')) zero.z = line.of('Z', 0) * unit;
    Deed d;
    d.kind = Deed::Kind::set_zero;
    d.to = zero;
    out.push_back(d);
  } else if (probe) {
    if (!line.moves()) return "G38.2 goes nowhere";
    if (!(feed_ > 0)) return "G38.2 without a feed";
    Deed d;
    d.kind = Deed::Kind::probe;
    d.to = target();
    d.feed = feed_;
    out.push_back(d);
    motion_ = 80;
  } else {
    if (motion >= 0) motion_ = motion;
    if (machine_frame && motion_ > 1) return "G53 goes with G0 and G1";
    if (line.moves() || (motion_ >= 2 && motion_ <= 3 && (line.has('I') || line.has('J')))) {
      if (motion_ == 80) return "a place, and no way of moving there (G80)";
      if (motion_ != 0 && !(feed_ > 0)) return "a cut without a feed";
      if (motion_ <= 1)
        go(target(), motion_ == 0, out);
      else if (motion_ <= 3)
        arc(line, target(), out, refused);
      else
        drill(line, out, refused);
    }
  }
  if (!refused.empty()) return refused;
  if (after >= 0) {
    Deed d;
    d.kind = after <= 1 ? Deed::Kind::pause : Deed::Kind::end;
    if (after > 1) {
      turning_ = 0;
      motion_ = 80;
    }
    out.push_back(d);
  }
  return {};
}

void Reader::arc(const Line& line, Place to, std::vector<Deed>& out, std::string& refused) {
  // Two axes of the plane and the one along it; seen from the end of the third, G3 goes from the first to the second.
  const auto split = [&](Place p) -> std::array<double, 3> {
    if (plane_ == 17) return {p.x, p.y, p.z};
    if (plane_ == 18) return {p.z, p.x, p.y};
    return {p.y, p.z, p.x};
  };
  const auto join = [&](std::array<double, 3> a) -> Place {
    if (plane_ == 17) return {a[0], a[1], a[2]};
    if (plane_ == 18) return {a[1], a[2], a[0]};
    return {a[2], a[0], a[1]};
  };
  const auto a = split(at_), b = split(to);
  const double unit = inch_ ? 25.4 : 1;
  double cu = 0, cv = 0;
  if (line.has('R')) {
    const double r = line.of('R', 0) * unit;
    const double du = b[0] - a[0], dv = b[1] - a[1], d = std::hypot(du, dv);
    if (d == 0 || d > 2 * std::abs(r) + 0.002) {
      refused = "an arc whose radius does not reach its end";
      return;
    }
    const double h = std::sqrt(std::fmax(0.0, r * r - d * d / 4));
    const double side = (motion_ == 3) == (r > 0) ? 1 : -1;
    cu = a[0] + du / 2 - side * h * dv / d;
    cv = a[1] + dv / 2 + side * h * du / d;
  } else {
    const char first = plane_ == 17 ? 'I' : plane_ == 18 ? 'K' : 'J';
    const char second = plane_ == 17 ? 'J' : plane_ == 18 ? 'I' : 'K';
    if (!line.has(first) && !line.has(second)) {
      refused = "an arc without a middle";
      return;
    }
    cu = a[0] + line.of(first, 0) * unit;
    cv = a[1] + line.of(second, 0) * unit;
  }
  const double ra = std::hypot(a[0] - cu, a[1] - cv), rb = std::hypot(b[0] - cu, b[1] - cv);
  if (ra < 1e-6 || std::abs(ra - rb) > 0.01) {
    refused = fmt::format("an arc from {:.4f} to {:.4f} mm about its middle", ra, rb);
    return;
  }
  const double from = std::atan2(a[1] - cv, a[0] - cu);
  double turn = std::atan2(b[1] - cv, b[0] - cu) - from;
  constexpr double full = 2 * std::numbers::pi;
  if (motion_ == 3)
    while (turn <= 1e-9) turn += full;
  else
    while (turn >= -1e-9) turn -= full;
  const double step = 2 * std::acos(std::fmax(0.0, 1 - chord / std::fmax(ra, 2 * chord)));
  const int pieces = std::max(1, static_cast<int>(std::ceil(std::abs(turn) / step)));
  for (int k = 1; k < pieces; ++k) {
    const double t = static_cast<double>(k) / pieces;
    const double r = ra + (rb - ra) * t;
    go(join({cu + r * std::cos(from + turn * t), cv + r * std::sin(from + turn * t), a[2] + (b[2] - a[2]) * t}), false,
       out);
  }
  go(to, false, out);
}

void Reader::drill(const Line& line, std::vector<Deed>& out, std::string& refused) {
  const double unit = inch_ ? 25.4 : 1;
  if (relative_ || plane_ != 17) {
    refused = "drilling goes with G90 and G17";
    return;
  }
  const Place origin = offset();
  if (line.has('R')) sticky_r_ = line.of('R', 0) * unit;
  if (line.has('Z')) sticky_z_ = line.of('Z', 0) * unit;
  if (line.has('Q')) sticky_q_ = line.of('Q', 0) * unit;
  if (line.has('P')) sticky_p_ = line.of('P', 0);
  const double r = origin.z + sticky_r_, bottom = origin.z + sticky_z_;
  if (bottom > r || ((motion_ == 83 || motion_ == 73) && !(sticky_q_ > 0.01))) {
    refused = "a hole that ends above its beginning, or pecks of nothing";
    return;
  }
  const double high = std::fmax(at_.z, r);
  const double x = line.has('X') ? origin.x + line.of('X', 0) * unit : at_.x;
  const double y = line.has('Y') ? origin.y + line.of('Y', 0) * unit : at_.y;
  if (at_.z < r) go({at_.x, at_.y, r}, true, out);
  go({x, y, at_.z}, true, out);
  go({x, y, r}, true, out);
  if (motion_ == 83 || motion_ == 73) {
    for (double z = r - sticky_q_; z > bottom + 1e-9; z -= sticky_q_) {
      go({x, y, z}, false, out);
      // G83 clears the hole and comes back to a hair over where it was; G73 only breaks the chip.
      if (motion_ == 83) go({x, y, r}, true, out);
      go({x, y, z + 0.25}, true, out);
    }
  }
  go({x, y, bottom}, false, out);
  if (motion_ == 82) {
    Deed d;
    d.kind = Deed::Kind::dwell;
    d.seconds = sticky_p_;
    out.push_back(d);
  }
  go({x, y, back_to_r_ ? r : high}, true, out);
}

}  // namespace standin

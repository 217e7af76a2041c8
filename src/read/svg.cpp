#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <numbers>

#include <fmt/format.h>
#include <pugixml.hpp>

#include "read/drawing.hpp"

namespace wren {
namespace {

constexpr double join_within = 0.02;  // mm
constexpr double pi = std::numbers::pi;

struct Affine {
  double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;
  [[nodiscard]] Vec2 operator()(Vec2 p) const { return {a * p.x + c * p.y + e, b * p.x + d * p.y + f}; }
  [[nodiscard]] Affine then_inner(const Affine& m) const {
    return {a * m.a + c * m.b, b * m.a + d * m.b,     a * m.c + c * m.d,
            b * m.c + d * m.d, a * m.e + c * m.f + e, b * m.e + d * m.f + f};
  }
};

/// Numbers of an SVG attribute, whatever separates them.
class Numbers {
 public:
  explicit Numbers(std::string_view text) : text_(text) {}
  [[nodiscard]] char command() {
    skip();
    return at_ < text_.size() && std::isalpha(static_cast<unsigned char>(text_[at_])) != 0 ? text_[at_++] : '\0';
  }
  [[nodiscard]] bool more() {
    skip();
    return at_ < text_.size() && (std::isdigit(static_cast<unsigned char>(text_[at_])) != 0 || text_[at_] == '-' ||
                                  text_[at_] == '+' || text_[at_] == '.');
  }
  [[nodiscard]] bool ended() {
    skip();
    return at_ >= text_.size();
  }
  double next() {
    skip();
    if (at_ < text_.size() && text_[at_] == '+') ++at_;
    const char* begin = text_.data() + at_;
    double v = 0;
    const auto [end, error] = std::from_chars(begin, text_.data() + text_.size(), v);
    if (error == std::errc::invalid_argument || !std::isfinite(v)) {
      bad_ = true;
      at_ = text_.size();
      return 0;
    }
    if (error == std::errc::result_out_of_range) v = 1e300;  // said to be no length, further on
    at_ += static_cast<std::size_t>(end - begin);
    return v;
  }
  bool flag() {  // arc flags may stand without a separator
    skip();
    if (at_ < text_.size() && (text_[at_] == '0' || text_[at_] == '1')) return text_[at_++] == '1';
    bad_ = true;
    return false;
  }
  [[nodiscard]] bool bad() const { return bad_; }

 private:
  void skip() {
    while (at_ < text_.size() && (std::isspace(static_cast<unsigned char>(text_[at_])) != 0 || text_[at_] == ','))
      ++at_;
  }
  std::string_view text_;
  std::size_t at_ = 0;
  bool bad_ = false;
};

Affine transform_of(std::string_view text) {
  Affine out;
  std::size_t at = 0;
  while (true) {
    const auto open = text.find('(', at);
    if (open == std::string_view::npos) return out;
    const auto close = text.find(')', open);
    if (close == std::string_view::npos) return out;
    std::string_view name = text.substr(at, open - at);
    while (!name.empty() && std::isalpha(static_cast<unsigned char>(name.front())) == 0) name.remove_prefix(1);
    Numbers in(text.substr(open + 1, close - open - 1));
    std::vector<double> v;
    while (in.more() && v.size() < 6) v.push_back(in.next());
    v.resize(6, 0);
    Affine m;
    if (name.rfind("matrix", 0) == 0)
      m = {v[0], v[1], v[2], v[3], v[4], v[5]};
    else if (name.rfind("translate", 0) == 0)
      m = {1, 0, 0, 1, v[0], v[1]};
    else if (name.rfind("scale", 0) == 0)
      m = {v[0], 0, 0, v[1] == 0 ? v[0] : v[1], 0, 0};
    else if (name.rfind("rotate", 0) == 0) {
      const double c = std::cos(v[0] * pi / 180);
      const double s = std::sin(v[0] * pi / 180);
      m = {c, s, -s, c, v[1] - c * v[1] + s * v[2], v[2] - s * v[1] - c * v[2]};
    } else if (name.rfind("skewX", 0) == 0)
      m = {1, 0, std::tan(v[0] * pi / 180), 1, 0, 0};
    else if (name.rfind("skewY", 0) == 0)
      m = {1, std::tan(v[0] * pi / 180), 0, 1, 0, 0};
    out = out.then_inner(m);
    at = close + 1;
  }
}

int chords(double wanted, int least, int most) {
  return wanted < least ? least : wanted < most ? static_cast<int>(wanted) : most;  // what is no number: the most
}

/// Points of a path's data; one polygon for each of its pieces. `fine` is the length of a chord in user units.
/// Points already made of the drawing count with them.
bool path_points(std::string_view data, double fine, std::vector<std::pair<Polygon, bool>>& out, std::size_t before) {
  Numbers in(data);
  Vec2 at;
  Vec2 start;
  Vec2 handle;
  char last = '\0';
  Polygon now;
  const auto close = [&](bool closed) {
    if (now.size() > 1) out.emplace_back(now, closed);
    now.clear();
  };
  const auto curve = [&](const auto& f, double length) {
    const int n = chords(length / fine, 8, 400);
    for (int k = 1; k <= n; ++k) now.push_back(f(static_cast<double>(k) / n));
  };
  char command = '\0';
  std::size_t made = before;
  while (!in.ended() && !in.bad()) {
    made += now.empty() ? 1 : 0;
    if (made + now.size() > most_drawing_points + 1000) break;  // its reader says that it is too much
    if (const char c = in.command())
      command = c;
    else if (command == 'M')
      command = 'L';
    else if (command == 'm')
      command = 'l';
    else if (command == '\0' || command == 'Z' || command == 'z')
      return false;
    const bool rel = std::islower(static_cast<unsigned char>(command)) != 0;
    const auto point = [&] {
      const double x = in.next();
      const double y = in.next();
      return rel ? at + Vec2{x, y} : Vec2{x, y};
    };
    const char upper = static_cast<char>(std::toupper(static_cast<unsigned char>(command)));
    switch (upper) {
      case 'M':
        close(false);
        at = start = point();
        now = {at};
        break;
      case 'L':
        at = point();
        now.push_back(at);
        break;
      case 'H':
        at.x = in.next() + (rel ? at.x : 0);
        now.push_back(at);
        break;
      case 'V':
        at.y = in.next() + (rel ? at.y : 0);
        now.push_back(at);
        break;
      case 'C':
      case 'S': {
        const Vec2 a = at;
        const Vec2 b = upper == 'C' ? point() : (last == 'C' || last == 'S' ? at * 2 - handle : at);
        const Vec2 c = point();
        const Vec2 d = point();
        curve(
            [&](double t) {
              const double s = 1 - t;
              return a * (s * s * s) + b * (3 * s * s * t) + c * (3 * s * t * t) + d * (t * t * t);
            },
            distance(a, b) + distance(b, c) + distance(c, d));
        handle = c;
        at = d;
        break;
      }
      case 'Q':
      case 'T': {
        const Vec2 a = at;
        const Vec2 b = upper == 'Q' ? point() : (last == 'Q' || last == 'T' ? at * 2 - handle : at);
        const Vec2 c = point();
        curve(
            [&](double t) {
              const double s = 1 - t;
              return a * (s * s) + b * (2 * s * t) + c * (t * t);
            },
            distance(a, b) + distance(b, c));
        handle = b;
        at = c;
        break;
      }
      case 'A': {
        // SVG 1.1, appendix F.6: from end points to centre.
        double rx = std::abs(in.next());
        double ry = std::abs(in.next());
        const double phi = in.next() * pi / 180;
        const bool large = in.flag();
        const bool sweep = in.flag();
        const Vec2 a = at;
        const Vec2 b = point();
        at = b;
        if (rx == 0 || ry == 0 || a == b) {
          now.push_back(b);
          break;
        }
        const double c = std::cos(phi);
        const double s = std::sin(phi);
        const Vec2 h = (a - b) * 0.5;
        const Vec2 p{c * h.x + s * h.y, -s * h.x + c * h.y};
        if (const double l = p.x * p.x / (rx * rx) + p.y * p.y / (ry * ry); l > 1) {
          rx *= std::sqrt(l);
          ry *= std::sqrt(l);
        }
        const double under = rx * rx * p.y * p.y + ry * ry * p.x * p.x;
        double k = std::sqrt(std::max(0.0, (rx * rx * ry * ry - under) / under));
        if (large == sweep) k = -k;
        const Vec2 q{k * rx * p.y / ry, -k * ry * p.x / rx};
        const Vec2 m = (a + b) * 0.5;
        const Vec2 centre{c * q.x - s * q.y + m.x, s * q.x + c * q.y + m.y};
        const double t0 = std::atan2((p.y - q.y) / ry, (p.x - q.x) / rx);
        double turn = std::atan2((-p.y - q.y) / ry, (-p.x - q.x) / rx) - t0;
        if (sweep && turn < 0) turn += 2 * pi;
        if (!sweep && turn > 0) turn -= 2 * pi;
        curve(
            [&](double t) {
              const double w = t0 + turn * t;
              return centre +
                     Vec2{c * rx * std::cos(w) - s * ry * std::sin(w), s * rx * std::cos(w) + c * ry * std::sin(w)};
            },
            std::abs(turn) * std::max(rx, ry));
        break;
      }
      case 'Z':
        at = start;
        close(true);
        now = {at};
        break;
      default: return false;
    }
    last = upper;
  }
  close(false);
  return !in.bad();
}

/// A number with its unit, in mm; 0 where it is none.
double svg_length(std::string_view text) {
  Numbers in(text);
  const double v = in.next();
  if (in.bad()) return 0;
  while (!text.empty() && std::isalpha(static_cast<unsigned char>(text.back())) == 0) text.remove_suffix(1);
  std::string_view unit = text;
  const auto from = unit.find_last_not_of("abcdefghijklmnopqrstuvwxyz");
  if (from != std::string_view::npos) unit.remove_prefix(from + 1);
  if (unit == "mm") return v;
  if (unit == "cm") return v * 10;
  if (unit == "in") return v * 25.4;
  if (unit == "pt") return v * 25.4 / 72;
  if (unit == "pc") return v * 25.4 / 6;
  return v * 25.4 / 96;
}

class SvgReader {
 public:
  std::vector<DrawnPath> paths;
  std::string trouble;
  std::map<std::string, std::size_t> left;

  void read(const pugi::xml_node& root) {
    Affine to_mm;
    double scale = 25.4 / 96;
    Numbers box(root.attribute("viewBox").value());
    if (box.more()) {
      const double x = box.next();
      const double y = box.next();
      const double w = box.next();
      const double h = box.next();
      const char* width = root.attribute("width").value();
      if (*width != '\0' && std::string_view(width).find('%') == std::string_view::npos && w > 0)
        scale = svg_length(width) / w;
      to_mm = {scale, 0, 0, -scale, -x * scale, (y + h) * scale};  // y turned up
    } else {
      to_mm = {scale, 0, 0, -scale, 0, 0};
    }
    if (!(scale > 1e-9 && scale < 1e9)) {
      trouble = "its width and viewBox give no scale";
      return;
    }
    mm_per_unit_ = scale;
    fine_ = 0.05 / scale;
    collect(root);
    walk(root, to_mm, 0);
    if (count_ > most_drawing_points) trouble = fmt::format("the drawing has more than {} points", most_drawing_points);
  }

 private:
  void walk(const pugi::xml_node& node, const Affine& outer, int depth, int uses = 0) {
    // Elements are counted as points are: a few that use one another can stand for any number.
    if (++count_ > most_drawing_points || !trouble.empty()) return;
    if (depth > 250) {
      trouble = "groups are nested more than 250 deep";
      return;
    }
    const Affine here = outer.then_inner(transform_of(node.attribute("transform").value()));
    const std::string name = node.name();
    const auto number = [&](const char* key) {
      const std::string_view text = node.attribute(key).value();
      if (text.empty()) return 0.0;
      // A length with a unit is in that unit; user units otherwise.
      const bool unit = std::isalpha(static_cast<unsigned char>(text.back())) != 0 && !text.ends_with("px");
      return unit ? svg_length(text) / mm_per_unit_ : Numbers(text).next();
    };
    std::vector<std::pair<Polygon, bool>> made;
    if (name == "path") {
      if (!path_points(node.attribute("d").value(), fine_, made, count_)) trouble = "a path's data is not understood";
    } else if (name == "polygon" || name == "polyline") {
      Numbers in(node.attribute("points").value());
      Polygon p;
      while (in.more() && p.size() < most_drawing_points) {
        const double x = in.next();
        p.push_back({x, in.next()});
      }
      made.emplace_back(p, name == "polygon");
    } else if (name == "rect") {
      const double x = number("x");
      const double y = number("y");
      const double w = number("width");
      const double h = number("height");
      // Rounded corners (SVG 1.1, 9.2): one radius given is both, none is more than half its side.
      double rx = number("rx");
      double ry = node.attribute("ry") ? number("ry") : rx;
      if (!node.attribute("rx")) rx = ry;
      rx = std::clamp(rx, 0.0, std::max(0.0, w / 2));
      ry = std::clamp(ry, 0.0, std::max(0.0, h / 2));
      Polygon p;
      if (rx > 0 && ry > 0) {
        const int n = chords(pi / 2 * std::max(rx, ry) / fine_, 6, 400);
        const Vec2 centres[4] = {
            {x + w - rx, y + ry}, {x + w - rx, y + h - ry}, {x + rx, y + h - ry}, {x + rx, y + ry}};
        for (int corner = 0; corner < 4; ++corner)
          for (int k = 0; k <= n; ++k) {
            const double t = pi / 2 * (corner - 1 + static_cast<double>(k) / n);
            p.push_back(centres[corner] + Vec2{rx * std::cos(t), ry * std::sin(t)});
          }
      } else {
        p = {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
      }
      made.emplace_back(std::move(p), true);
    } else if (name == "circle" || name == "ellipse") {
      const double rx = name == "circle" ? number("r") : number("rx");
      const double ry = name == "circle" ? number("r") : number("ry");
      Polygon p;
      const int n = chords(2 * pi * std::max(rx, ry) / fine_, 24, 2000);
      for (int k = 0; k < n; ++k)
        p.push_back({number("cx") + rx * std::cos(2 * pi * k / n), number("cy") + ry * std::sin(2 * pi * k / n)});
      made.emplace_back(p, true);
    } else if (name == "line") {
      made.emplace_back(Polygon{{number("x1"), number("y1")}, {number("x2"), number("y2")}}, false);
    }
    if (name == "text" || name == "image" || name == "foreignObject") ++left[name == "image" ? "picture" : "text"];
    if (name == "use") {
      const char* const href =
          node.attribute("href") ? node.attribute("href").value() : node.attribute("xlink:href").value();
      const auto it = *href == '#' ? by_id_.find(href + 1) : by_id_.end();
      if (uses > 20) {
        trouble = "elements use one another more than 20 deep, or one uses itself";
      } else if (it != by_id_.end()) {
        const Affine moved = here.then_inner({1, 0, 0, 1, number("x"), number("y")});
        if (std::string_view(it->second.name()) == "symbol")
          for (const pugi::xml_node& child : it->second.children()) walk(child, moved, depth + 1, uses + 1);
        else
          walk(it->second, moved, depth + 1, uses + 1);
      } else {
        ++left["use of something that is not there"];
      }
    }
    for (auto& [points, closed] : made) {
      for (Vec2& p : points) p = here(p);
      count_ += points.size();
      if (points.size() > 1 && count_ <= most_drawing_points)
        paths.push_back({node.attribute("id").value(), 0, closed, std::move(points)});
    }
    if (name == "defs" || name == "clipPath" || name == "mask" || name == "symbol" || name == "pattern") return;
    for (const pugi::xml_node& child : node.children()) walk(child, here, depth + 1, uses);
  }
  /// Ids of all elements, without recursion: nesting is bounded where they are walked.
  void collect(pugi::xml_node root) {
    pugi::xml_node at = root;
    while (at) {
      if (const char* id = at.attribute("id").value(); *id != '\0') by_id_.emplace(id, at);
      if (at.first_child()) {
        at = at.first_child();
        continue;
      }
      while (at && at != root && !at.next_sibling()) at = at.parent();
      at = at && at != root ? at.next_sibling() : pugi::xml_node();
    }
  }
  std::map<std::string, pugi::xml_node, std::less<>> by_id_;
  double mm_per_unit_ = 1;
  double fine_ = 0.2;
  std::size_t count_ = 0;
};

Problem unusable(const std::string& path, std::string what, std::string todo) {
  return {ProblemKind::format, std::move(what), path, std::move(todo)};
}

}  // namespace

Expected<ReadDrawing> svg_paths(std::string_view text, const std::string& path) {
  pugi::xml_document doc;
  if (const auto result = doc.load_buffer(text.data(), text.size()); !result)
    return tl::unexpected(unusable(
        path, fmt::format("this is not a whole SVG drawing ({} at byte {})", result.description(), result.offset),
        "Save it again"));
  const pugi::xml_node root = doc.child("svg");
  if (!root) return tl::unexpected(unusable(path, "this is not an SVG drawing", "Save it as plain SVG"));
  const std::string_view width = root.attribute("width").value();
  const bool unit_known =
      !width.empty() && std::isalpha(static_cast<unsigned char>(width.back())) != 0 && !width.ends_with("px");
  SvgReader reader;
  reader.read(root);
  if (!reader.trouble.empty()) return tl::unexpected(unusable(path, reader.trouble, "Save it as plain SVG"));
  if (reader.paths.empty())
    return tl::unexpected(unusable(path, "the drawing has no paths", "Turn texts and pictures into paths"));
  for (const DrawnPath& p : reader.paths)
    for (const Vec2 q : p.points)
      if (!(std::abs(q.x) <= 1e5) || !(std::abs(q.y) <= 1e5))
        return tl::unexpected(unusable(path, "a point of the drawing is no length within 100 m", "Check its units"));
  return ReadDrawing{join_ends(std::move(reader.paths), join_within), unit_known, std::move(reader.left)};
}

}  // namespace wren

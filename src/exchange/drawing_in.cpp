#include "exchange/drawing_in.hpp"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <map>
#include <numbers>
#include <sstream>

#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>
#include <fmt/format.h>
#include <pugixml.hpp>

#include "core/document/files.hpp"
#include "core/units/length.hpp"

namespace wren {
namespace {

constexpr std::size_t most_bytes = 64u << 20;
constexpr std::size_t most_points = 200'000;
constexpr double join_within = 0.02;  // mm
constexpr double chord = 0.005;       // mm
constexpr double pi = std::numbers::pi;

std::string ending(const std::string& path) {
  std::string out = std::filesystem::path(path).extension().string();
  std::transform(out.begin(), out.end(), out.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return out;
}

void add_arc(Polygon& to, Vec2 centre, double r, double from, double sweep) {
  const double step = r > chord ? 2 * std::acos(std::max(-1.0, 1 - chord / r)) : pi / 4;
  const int n = std::clamp(static_cast<int>(std::ceil(std::abs(sweep) / step)), 1, 2000);
  for (int k = 0; k <= n; ++k)
    to.push_back(centre + Vec2{std::cos(from + sweep * k / n), std::sin(from + sweep * k / n)} * r);
}

class DxfReader : public DL_CreationAdapter {
 public:
  std::vector<DrawnPath> paths;
  double unit = 1;
  bool unit_known = false;
  std::size_t points = 0;
  bool too_deep = false;

  void setVariableInt(const std::string& key, int value, int) override {
    // $INSUNITS: 1 inch, 4 mm, 5 cm, 6 m (DXF reference, header variables).
    if (key == "$INSUNITS") unit_known = value == 1 || value == 2 || value == 4 || value == 5 || value == 6;
    if (key == "$INSUNITS") unit = value == 1 ? 25.4 : value == 2 ? 304.8 : value == 5 ? 10 : value == 6 ? 1000 : 1;
  }
  void addLine(const DL_LineData& d) override { add({{d.x1, d.y1}, {d.x2, d.y2}}, d.z1, false); }
  void addArc(const DL_ArcData& d) override {
    double sweep = (d.angle2 - d.angle1) * pi / 180;
    if (sweep <= 0) sweep += 2 * pi;
    Polygon p;
    add_arc(p, {d.cx, d.cy}, d.radius, d.angle1 * pi / 180, sweep);
    add(std::move(p), d.cz, false);
  }
  void addCircle(const DL_CircleData& d) override {
    Polygon p;
    add_arc(p, {d.cx, d.cy}, d.radius, 0, 2 * pi);
    p.pop_back();
    add(std::move(p), d.cz, true);
  }
  // Blocks: collected by name, put in where they are inserted once everything is read; blocks within blocks too.
  void addBlock(const DL_BlockData& d) override {
    finish();
    block_ = &blocks_[d.name];
    block_->base = {d.bpx, d.bpy};
  }
  void endBlock() override {
    finish();
    block_ = nullptr;
  }
  void addInsert(const DL_InsertData& d) override {
    Insert i{d.name,
             attributes.getLayer(),
             {d.ipx, d.ipy},
             {d.sx, d.sy},
             d.angle * pi / 180,
             std::clamp(d.cols, 1, 200),
             std::clamp(d.rows, 1, 200),
             {d.colSp, d.rowSp}};
    (block_ != nullptr ? block_->inserts : inserts_).push_back(std::move(i));
  }
  void put_in_blocks() {
    for (const Insert& i : inserts_) put(i, {}, 0);
  }
  void addPolyline(const DL_PolylineData& d) override {
    finish();
    open_ = true;
    closed_ = (d.flags & 1) != 0;
    elevation_ = d.elevation;
    layer_ = attributes.getLayer();
  }
  void addVertex(const DL_VertexData& d) override {
    if (!open_ || corners_.size() > most_points) return;
    if (corners_.empty() && elevation_ == 0) elevation_ = d.z;
    corners_.push_back({{d.x, d.y}, d.bulge});
  }
  void endEntity() override {
    if (spline_open_)
      finish_spline();
    else
      finish();
  }
  void endSequence() override { finish(); }
  void addSpline(const DL_SplineData& d) override {
    spline_open_ = true;
    degree_ = static_cast<int>(d.degree);
    closed_ = (d.flags & 1) != 0;
    knots_.clear();
    control_.clear();
    layer_ = attributes.getLayer();
  }
  void addControlPoint(const DL_ControlPointData& d) override {
    if (control_.size() < most_points) control_.push_back({d.x, d.y});
  }
  void addKnot(const DL_KnotData& d) override {
    if (knots_.size() < most_points) knots_.push_back(d.k);
  }
  void finish() {
    if (!open_) return;
    open_ = false;
    Contour contour;
    for (const Vertex& v : corners_)
      if (contour.empty() || distance(contour.back().at, v.at) > 1e-9) contour.push_back(v);
    corners_.clear();
    if (contour.size() < 2) return;
    if (!closed_) {
      contour.back().bulge = 0;
      Polygon p = flatten(contour, chord / unit);
      add(std::move(p), elevation_, false, &layer_);
    } else {
      add(flatten(contour, chord / unit), elevation_, true, &layer_);
    }
  }

 private:
  void finish_spline() {
    spline_open_ = false;
    const auto n = static_cast<int>(control_.size());
    if (n < degree_ + 1 || static_cast<int>(knots_.size()) < n + degree_ + 1 || degree_ < 1 || degree_ > 9) return;
    Polygon p;
    const int samples = std::clamp(n * 24, 32, 4000);
    const double t0 = knots_[static_cast<std::size_t>(degree_)];
    const double t1 = knots_[static_cast<std::size_t>(n)];
    for (int k = 0; k <= samples; ++k) p.push_back(de_boor(t0 + (t1 - t0) * k / samples, n));
    if (closed_ || distance(p.front(), p.back()) < 1e-6) {
      p.pop_back();
      closed_ = true;
    }
    add(std::move(p), 0, closed_, &layer_);
  }
  [[nodiscard]] Vec2 de_boor(double t, int n) const {
    int k = degree_;
    while (k + 1 < n && knots_[static_cast<std::size_t>(k + 1)] <= t) ++k;
    std::vector<Vec2> d;
    for (int j = 0; j <= degree_; ++j) d.push_back(control_[static_cast<std::size_t>(k - degree_ + j)]);
    for (int r = 1; r <= degree_; ++r)
      for (int j = degree_; j >= r; --j) {
        const double a = knots_[static_cast<std::size_t>(k - degree_ + j)];
        const double b = knots_[static_cast<std::size_t>(k + 1 + j - r)];
        const double s = b > a ? (t - a) / (b - a) : 0;
        d[static_cast<std::size_t>(j)] = lerp(d[static_cast<std::size_t>(j - 1)], d[static_cast<std::size_t>(j)], s);
      }
    return d[static_cast<std::size_t>(degree_)];
  }
  void add(Polygon p, double z, bool closed, const std::string* layer = nullptr) {
    points += p.size();
    if (points > most_points) return;
    (block_ != nullptr ? block_->paths : paths)
        .push_back({layer != nullptr ? *layer : attributes.getLayer(), z, closed, std::move(p)});
  }

  struct Place {  // p → turn·(scale∘p) + shift
    double a = 1, b = 0, c = 0, d = 1;
    Vec2 shift;
    [[nodiscard]] Vec2 operator()(Vec2 p) const { return {a * p.x + c * p.y + shift.x, b * p.x + d * p.y + shift.y}; }
  };
  struct Insert {
    std::string name, layer;
    Vec2 at, scale;
    double angle;
    int columns, rows;
    Vec2 apart;
  };
  struct Block {
    Vec2 base;
    std::vector<DrawnPath> paths;
    std::vector<Insert> inserts;
  };
  void put(const Insert& i, const Place& outer, int depth) {
    constexpr int most_depth = 12;
    if (depth > most_depth) {
      too_deep = true;
      return;
    }
    const auto it = blocks_.find(i.name);
    if (it == blocks_.end()) return;
    const double cs = std::cos(i.angle);
    const double sn = std::sin(i.angle);
    for (int col = 0; col < i.columns; ++col)
      for (int row = 0; row < i.rows; ++row) {
        if (points > most_points) return;
        const Vec2 grid{col * i.apart.x, row * i.apart.y};
        const Vec2 at = i.at + Vec2{cs * grid.x - sn * grid.y, sn * grid.x + cs * grid.y};
        Place inner{cs * i.scale.x, sn * i.scale.x, -sn * i.scale.y, cs * i.scale.y, {}};
        const Vec2 base = inner(it->second.base);
        inner.shift = at - base;
        const Place whole{outer.a * inner.a + outer.c * inner.b, outer.b * inner.a + outer.d * inner.b,
                          outer.a * inner.c + outer.c * inner.d, outer.b * inner.c + outer.d * inner.d,
                          outer(inner.shift)};
        for (const DrawnPath& p : it->second.paths) {
          points += p.points.size();
          if (points > most_points) return;
          DrawnPath copy = p;
          if (copy.layer == "0") copy.layer = i.layer;  // layer 0 takes the insert's
          for (Vec2& q : copy.points) q = whole(q);
          paths.push_back(std::move(copy));
        }
        for (const Insert& more : it->second.inserts) put(more, whole, depth + 1);
      }
  }
  std::map<std::string, Block> blocks_;
  std::vector<Insert> inserts_;
  Block* block_ = nullptr;
  bool open_ = false;
  bool closed_ = false;
  bool spline_open_ = false;
  int degree_ = 3;
  double elevation_ = 0;
  std::string layer_;
  Contour corners_;
  std::vector<Vec2> control_;
  std::vector<double> knots_;
};

// ---- SVG

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
    const char* begin = text_.data() + at_;
    const std::string piece(begin, std::min<std::size_t>(40, text_.size() - at_));
    char* end = nullptr;
    const double v = std::strtod(piece.c_str(), &end);
    if (end == piece.c_str()) {
      bad_ = true;
      at_ = text_.size();
      return 0;
    }
    at_ += static_cast<std::size_t>(end - piece.c_str());
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

/// Points of a path's data; one polygon for each of its pieces. `fine` is the length of a chord in user units.
bool path_points(std::string_view data, double fine, std::vector<std::pair<Polygon, bool>>& out) {
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
    const int n = std::clamp(static_cast<int>(length / fine), 8, 400);
    for (int k = 1; k <= n; ++k) now.push_back(f(static_cast<double>(k) / n));
  };
  char command = '\0';
  std::size_t guard = 0;
  while (!in.ended() && !in.bad() && ++guard < most_points) {
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

double svg_length(const char* text) {
  char* end = nullptr;
  const double v = std::strtod(text, &end);
  const std::string unit(end);
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
    fine_ = 0.05 / scale;
    walk(root, to_mm, 0);
  }

 private:
  void walk(const pugi::xml_node& node, const Affine& outer, int depth) {
    if (depth > 60 || count_ > most_points) return;
    const Affine here = outer.then_inner(transform_of(node.attribute("transform").value()));
    const std::string name = node.name();
    const auto number = [&](const char* key) { return std::strtod(node.attribute(key).value(), nullptr); };
    std::vector<std::pair<Polygon, bool>> made;
    if (name == "path") {
      if (!path_points(node.attribute("d").value(), fine_, made)) trouble = "a path's data is not understood";
    } else if (name == "polygon" || name == "polyline") {
      Numbers in(node.attribute("points").value());
      Polygon p;
      while (in.more() && p.size() < most_points) {
        const double x = in.next();
        p.push_back({x, in.next()});
      }
      made.emplace_back(p, name == "polygon");
    } else if (name == "rect") {
      const double x = number("x");
      const double y = number("y");
      const double w = number("width");
      const double h = number("height");
      made.emplace_back(Polygon{{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}}, true);
    } else if (name == "circle" || name == "ellipse") {
      const double rx = name == "circle" ? number("r") : number("rx");
      const double ry = name == "circle" ? number("r") : number("ry");
      Polygon p;
      const int n = std::clamp(static_cast<int>(2 * pi * std::max(rx, ry) / fine_), 24, 2000);
      for (int k = 0; k < n; ++k)
        p.push_back({number("cx") + rx * std::cos(2 * pi * k / n), number("cy") + ry * std::sin(2 * pi * k / n)});
      made.emplace_back(p, true);
    } else if (name == "line") {
      made.emplace_back(Polygon{{number("x1"), number("y1")}, {number("x2"), number("y2")}}, false);
    }
    for (auto& [points, closed] : made) {
      for (Vec2& p : points) p = here(p);
      count_ += points.size();
      if (points.size() > 1 && count_ <= most_points)
        paths.push_back({node.attribute("id").value(), 0, closed, std::move(points)});
    }
    if (name == "defs" || name == "clipPath" || name == "mask" || name == "symbol" || name == "pattern") return;
    for (const pugi::xml_node& child : node.children()) walk(child, here, depth + 1);
  }
  double fine_ = 0.2;
  std::size_t count_ = 0;
};

/// A cell of a table: a plain number as programs write them (1.2e-05 too), or a length as a maker does.
Expected<double> cell_value(const std::string& cell, UnitSystem system) {
  char* end = nullptr;
  const double v = std::strtod(cell.c_str(), &end);
  while (*end == ' ' || *end == '\t') ++end;
  if (end != cell.c_str() && *end == '\0' && std::isfinite(v) && std::abs(v) < 1e5)
    return system == UnitSystem::inch ? v * mm_per_inch : v;
  return parse_length(cell, system);
}

Problem unusable(const std::string& path, std::string what, std::string todo) {
  return {ProblemKind::format, std::move(what), path, std::move(todo)};
}

}  // namespace

Expected<std::vector<DrawnPath>> read_dxf(const std::string& path, bool* unit_known) {
  auto text = read_file(path, most_bytes);
  if (!text) return tl::unexpected(text.error());
  // A quick look before the library reads it: group codes and values in pairs, and an end.
  if (text->find("SECTION") == std::string::npos)
    return tl::unexpected(unusable(path, "this is not a DXF drawing in text form", "Save it as DXF (ASCII)"));
  if (text->find("EOF", text->size() > 200 ? text->size() - 200 : 0) == std::string::npos)
    return tl::unexpected(unusable(path, "the drawing ends in the middle: it was cut short", "Fetch or save it again"));
  DxfReader reader;
  DL_Dxf dxf;
  std::stringstream stream(*text);
  if (!dxf.in(stream, &reader))
    return tl::unexpected(unusable(path, "the drawing cannot be read", "Save it again as DXF (ASCII, R12 or 2000)"));
  reader.finish();
  reader.put_in_blocks();
  if (reader.too_deep)
    return tl::unexpected(
        unusable(path, "blocks are nested more than 12 deep, or one holds itself", "Explode the blocks"));
  if (reader.points > most_points)
    return tl::unexpected(unusable(path, fmt::format("the drawing has more than {} points", most_points),
                                   "Leave out what is not needed"));
  if (unit_known != nullptr) *unit_known = reader.unit_known;
  for (DrawnPath& p : reader.paths) {
    p.elevation *= reader.unit;
    for (Vec2& q : p.points) {
      q = q * reader.unit;
      if (!std::isfinite(q.x) || !std::isfinite(q.y) || std::abs(q.x) > 1e5 || std::abs(q.y) > 1e5)
        return tl::unexpected(
            unusable(path, "a point of the drawing is no length within 100 m", "Check the drawing's units"));
    }
  }
  auto out = join_ends(std::move(reader.paths), join_within);
  if (out.empty())
    return tl::unexpected(unusable(path, "the drawing has no lines, arcs, polylines or splines",
                                   "Explode blocks and texts, or export the outline alone"));
  return out;
}

Expected<std::vector<DrawnPath>> read_svg(const std::string& path, bool* unit_known) {
  auto text = read_file(path, most_bytes);
  if (!text) return tl::unexpected(text.error());
  return svg_paths(*text, path, unit_known);
}

Expected<std::vector<DrawnPath>> svg_paths(std::string_view text, const std::string& path, bool* unit_known) {
  pugi::xml_document doc;
  if (const auto result = doc.load_buffer(text.data(), text.size()); !result)
    return tl::unexpected(unusable(
        path, fmt::format("this is not a whole SVG drawing ({} at byte {})", result.description(), result.offset),
        "Save it again"));
  const pugi::xml_node root = doc.child("svg");
  if (!root) return tl::unexpected(unusable(path, "this is not an SVG drawing", "Save it as plain SVG"));
  if (unit_known != nullptr) {
    const std::string_view width = root.attribute("width").value();
    *unit_known =
        !width.empty() && std::isalpha(static_cast<unsigned char>(width.back())) != 0 && !width.ends_with("px");
  }
  SvgReader reader;
  reader.read(root);
  if (!reader.trouble.empty()) return tl::unexpected(unusable(path, reader.trouble, "Save it as plain SVG"));
  if (reader.paths.empty())
    return tl::unexpected(unusable(path, "the drawing has no paths", "Turn texts and pictures into paths"));
  return join_ends(std::move(reader.paths), join_within);
}

Expected<std::vector<BackSection>> sections_from_csv(std::string_view text, const std::string& name) {
  std::vector<BackSection> out;
  std::istringstream in{std::string(text)};
  std::string line;
  std::size_t number = 0;
  std::size_t points = 0;
  UnitSystem system = UnitSystem::millimetre;
  while (std::getline(in, line)) {
    ++number;
    if (!line.empty() && line.back() == '\r') line.pop_back();
    if (line.empty() || line.front() == '#') continue;
    std::vector<std::string> cells;
    std::string cell;
    const char separator = line.find(';') != std::string::npos    ? ';'
                           : line.find('\t') != std::string::npos ? '\t'
                                                                  : ',';
    std::istringstream row(line);
    while (std::getline(row, cell, separator)) cells.push_back(cell);
    const auto where = fmt::format("{}, line {}", name, number);
    const auto first = cells.empty() ? tl::unexpected(Problem{}) : cell_value(cells[0], system);
    if (!first && out.empty() && number <= 3) {  // a header; it may say inches
      if (line.find("in") != std::string::npos && line.find("mm") == std::string::npos &&
          (line.find("_in") != std::string::npos || line.find("inch") != std::string::npos))
        system = UnitSystem::inch;
      continue;
    }
    if (cells.size() < 3)
      return fail(ProblemKind::format, fmt::format("{} columns where x, y and depth are expected", cells.size()), where,
                  "Give three columns: place along the neck, across it, depth");
    double v[3];
    for (std::size_t k = 0; k < 3; ++k) {
      const auto value = cell_value(cells[k], system);
      if (!value) return fail(ProblemKind::format, value.error().what, where, "Correct the cell");
      v[k] = *value;
    }
    if (++points > most_points)
      return fail(ProblemKind::range, fmt::format("more than {} points", most_points), where, "Measure fewer");
    if (out.empty() || std::abs(out.back().x - v[0]) > 1e-6) out.push_back({v[0], {}});
    out.back().points.push_back({v[1], v[2]});
  }
  if (out.empty())
    return fail(ProblemKind::format, "the table has no sections", name,
                "Give three columns: place along the neck, across it, depth");
  if (auto bad = check_sections(out, nullptr); !bad.empty()) return tl::unexpected(bad.front());
  return out;
}

Expected<std::vector<BackSection>> sections_from_dxf(const std::string& path) {
  const auto paths = read_dxf(path);
  if (!paths) return tl::unexpected(paths.error());
  std::vector<BackSection> out;
  for (const DrawnPath& p : *paths) {
    if (p.points.size() < 3) continue;
    BackSection s;
    const auto digit = p.layer.find_first_of("0123456789-");
    if (digit != std::string::npos && p.layer != "0")
      s.x = std::strtod(p.layer.c_str() + digit, nullptr);
    else
      s.x = p.elevation;
    s.points = p.points;
    // Drawn with the back downwards or upwards: depth is positive either way.
    double sum = 0;
    for (const Vec2 q : s.points) sum += q.y;
    if (sum < 0)
      for (Vec2& q : s.points) q.y = -q.y;
    out.push_back(std::move(s));
  }
  std::sort(out.begin(), out.end(), [](const BackSection& a, const BackSection& b) { return a.x < b.x; });
  if (out.empty())
    return tl::unexpected(unusable(path, "the drawing has no sections",
                                   "Draw each as an open polyline on a layer named by its place, as X120"));
  if (auto bad = check_sections(out, nullptr); !bad.empty()) return tl::unexpected(bad.front());
  return out;
}

Expected<std::vector<BackSection>> read_sections(const std::string& path) {
  if (ending(path) == ".dxf") return sections_from_dxf(path);
  auto text = read_file(path, most_bytes);
  if (!text) return tl::unexpected(text.error());
  return sections_from_csv(*text, std::filesystem::path(path).filename().string());
}

Expected<Polygon> read_head_outline(const std::string& path) {
  const auto paths = ending(path) == ".svg" ? read_svg(path) : read_dxf(path);
  if (!paths) return tl::unexpected(paths.error());
  const DrawnPath* best = nullptr;
  for (const DrawnPath& p : *paths)
    if (p.closed && p.points.size() >= 3 &&
        (best == nullptr || std::abs(signed_area(p.points)) > std::abs(signed_area(best->points))))
      best = &p;
  if (best == nullptr)
    return tl::unexpected(unusable(path, fmt::format("none of the {} paths is closed", paths->size()),
                                   "Close the outline: its ends must meet within 0.02 mm"));
  Polygon out = best->points;
  if (out.size() > 4000)
    return tl::unexpected(
        unusable(path, fmt::format("the outline has {} points", out.size()), "Simplify it to under 4000"));
  if (signed_area(out) < 0) std::reverse(out.begin(), out.end());
  if (!is_simple(out)) return tl::unexpected(unusable(path, "the outline crosses itself", "Correct the drawing"));
  return out;
}

}  // namespace wren

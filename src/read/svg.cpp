// SVG: the values of attributes (paths, transforms, lengths, points) are understood by svgpp; which elements count,
// what they use and how much work they may make is decided here.
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include <boost/array.hpp>
#include <fmt/format.h>
#include <pugixml.hpp>
#include <svgpp/parser/length.hpp>
#include <svgpp/parser/list_of_points.hpp>
#include <svgpp/parser/path_data.hpp>
#include <svgpp/parser/transform_list.hpp>
#include <svgpp/policy/length.hpp>
#include <svgpp/utility/arc_endpoint_to_center.hpp>

#include "read/drawing.hpp"

namespace wren {
namespace {

constexpr double join_within = 0.02;  // mm
constexpr double pi = std::numbers::pi;
namespace tag = svgpp::tag;

struct Affine {
  double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;
  [[nodiscard]] Vec2 operator()(Vec2 p) const { return {a * p.x + c * p.y + e, b * p.x + d * p.y + f}; }
  [[nodiscard]] Affine then_inner(const Affine& m) const {
    return {a * m.a + c * m.b, b * m.a + d * m.b,     a * m.c + c * m.d,
            b * m.c + d * m.d, a * m.e + c * m.f + e, b * m.e + d * m.f + f};
  }
};

int chords(double wanted, int least, int most) {
  return wanted < least ? least : wanted < most ? static_cast<int>(wanted) : most;  // what is no number: the most
}

/// The drawing has more in it than is read.
struct TooMuch {};

/// Takes one value of an attribute from the library's parsers.
struct Value {
  using length_factory_type = svgpp::factory::length::unitless<>;
  length_factory_type factory;  // user units, 96 to the inch; or what it was told
  double number = 0;
  Affine matrix;
  Polygon points;
  std::size_t most = most_drawing_points;

  [[nodiscard]] const length_factory_type& length_factory() const { return factory; }
  template <class Attribute>
  void set(Attribute, double v) {
    number = v;
  }
  template <class Range>
  void set(tag::attribute::points, const Range& range) {
    for (const auto& [x, y] : range) {
      if (points.size() > most) throw TooMuch();
      points.push_back({x, y});
    }
  }
  void transform_matrix(const boost::array<double, 6>& m) { matrix = {m[0], m[1], m[2], m[3], m[4], m[5]}; }
};

/// A text as a value; false where it is none. `Type` is the library's tag of what it is.
template <class Type, class Attribute>
bool parsed(std::string_view text, Attribute attribute, Value& value) {
  try {
    return svgpp::value_parser<Type, svgpp::length_policy<svgpp::policy::length::forward_to_method<Value>>>::parse(
        attribute, value, text, tag::source::attribute());
  } catch (const svgpp::exception_base&) {
    return false;
  }
}

/// Points of a path's data, one polygon for each of its pieces: the library's events, in absolute coordinates and
/// without shorthands. `fine` is the length of a chord in user units; points already made of the drawing count with
/// them.
class PathPoints {
 public:
  std::vector<std::pair<Polygon, bool>> out;

  PathPoints(double fine, std::size_t before) : fine_(fine), made_(before) {}

  using Absolute = tag::coordinate::absolute;
  void path_move_to(double x, double y, Absolute) {
    close(false);
    at_ = start_ = {x, y};
    add(at_);
  }
  void path_line_to(double x, double y, Absolute) {
    begin();
    add({x, y});
  }
  void path_cubic_bezier_to(double x1, double y1, double x2, double y2, double x, double y, Absolute) {
    begin();
    const Vec2 a = at_;
    const Vec2 b{x1, y1};
    const Vec2 c{x2, y2};
    const Vec2 d{x, y};
    curve(
        [&](double t) {
          const double s = 1 - t;
          return a * (s * s * s) + b * (3 * s * s * t) + c * (3 * s * t * t) + d * (t * t * t);
        },
        distance(a, b) + distance(b, c) + distance(c, d));
  }
  void path_quadratic_bezier_to(double x1, double y1, double x, double y, Absolute) {
    begin();
    const Vec2 a = at_;
    const Vec2 b{x1, y1};
    const Vec2 c{x, y};
    curve(
        [&](double t) {
          const double s = 1 - t;
          return a * (s * s) + b * (2 * s * t) + c * (t * t);
        },
        distance(a, b) + distance(b, c));
  }
  void path_elliptical_arc_to(double rx, double ry, double turned, bool large, bool sweep, double x, double y,
                              Absolute) {
    begin();
    const Vec2 a = at_;
    const Vec2 b{x, y};
    rx = std::abs(rx);
    ry = std::abs(ry);
    if (rx == 0 || ry == 0 || a == b) return add(b);
    const double phi = turned * pi / 180;
    Vec2 m;
    double t0 = 0;
    double t1 = 0;
    svgpp::arc_endpoint_to_center(a.x, a.y, b.x, b.y, rx, ry, phi, large, sweep, m.x, m.y, t0, t1);
    double turn = t1 - t0;
    if (sweep && turn < 0) turn += 2 * pi;
    if (!sweep && turn > 0) turn -= 2 * pi;
    const double c = std::cos(phi);
    const double s = std::sin(phi);
    curve(
        [&](double t) {
          const Vec2 p{rx * std::cos(t0 + turn * t), ry * std::sin(t0 + turn * t)};
          return t < 1 ? m + Vec2{c * p.x - s * p.y, s * p.x + c * p.y} : b;
        },
        std::abs(turn) * std::max(rx, ry));
  }
  void path_close_subpath() {
    close(true);
    at_ = start_;
  }
  void path_exit() { close(false); }

 private:
  void begin() {
    if (now_.empty()) add(at_);
  }
  void add(Vec2 p) {
    if (++made_ > most_drawing_points) throw TooMuch();
    at_ = p;
    now_.push_back(p);
  }
  void close(bool closed) {
    if (now_.size() > 1) out.emplace_back(std::move(now_), closed);
    now_.clear();
  }
  template <class Curve>
  void curve(const Curve& f, double length) {
    const int n = chords(length / fine_, 8, 400);
    for (int k = 1; k <= n; ++k) add(f(static_cast<double>(k) / n));
  }
  double fine_;
  std::size_t made_;
  Polygon now_;
  Vec2 at_, start_;
};

bool path_points(std::string_view data, PathPoints& to) {
  try {
    return svgpp::value_parser<tag::type::path_data>::parse(tag::attribute::d(), to, data, tag::source::attribute());
  } catch (const svgpp::exception_base&) {
    return false;
  }
}

class SvgReader {
 public:
  std::vector<DrawnPath> paths;
  std::string trouble;
  std::map<std::string, std::size_t> left;

  void read(const pugi::xml_node& root) {
    // The drawing's own size, in mm, over its own box, in user units; 96 units to the inch where it is not said.
    Value size;
    size.factory.set_absolute_units_coefficient(1, tag::length_units::mm());
    size.factory.set_user_units_coefficient(25.4 / 96);
    const auto side = [&](const char* key) {
      const std::string_view text = root.attribute(key).value();
      const bool said = !text.empty() && text.find('%') == std::string_view::npos &&
                        parsed<tag::type::length>(text, tag::attribute::width(), size);
      return said ? size.number : 0;
    };
    constexpr double px = 25.4 / 96;
    double width = side("width");
    double height = side("height");
    Affine fit{px, 0, 0, px, 0, 0};
    if (const auto box = view_box(root)) {
      if (width <= 0 && height <= 0) width = box->size().x * px;
      if (width <= 0) width = box->size().x * height / box->size().y;
      if (height <= 0) height = box->size().y * width / box->size().x;
      fit = fitted_into(*box, width, height, root.attribute("preserveAspectRatio").value());
      lengths_.factory.set_viewport_size(box->size().x, box->size().y);
    }
    if (!trouble.empty()) return;
    const Affine to_mm = Affine{1, 0, 0, -1, 0, height}.then_inner(fit);  // y turned up
    const double scale = std::sqrt(std::abs(fit.a * fit.d));
    if (!(scale > 1e-9 && scale < 1e9)) {
      trouble = "its width and viewBox give no scale";
      return;
    }
    lengths_.factory.set_absolute_units_coefficient(1 / scale, tag::length_units::mm());
    fine_ = 0.05 / scale;
    collect(root);
    const std::string too_much = fmt::format("the drawing has more than {} points", most_drawing_points);
    try {
      walk(root, to_mm, 0);
      if (count_ > most_drawing_points) trouble = too_much;
    } catch (const TooMuch&) {
      trouble = too_much;
    }
  }

 private:
  /// The box of a viewBox; nothing where there is none, trouble where it is no four numbers.
  std::optional<Box2> view_box(const pugi::xml_node& node) {
    const std::string_view text = node.attribute("viewBox").value();
    if (text.empty()) return {};
    Value box;
    if (!parsed<tag::attribute::points>(text, tag::attribute::points(), box) || box.points.size() != 2 ||
        !(box.points[1].x > 0 && box.points[1].y > 0)) {
      trouble = "a viewBox is no four numbers with a size";
      return {};
    }
    return Box2{box.points[0], box.points[0] + box.points[1]};
  }
  /// A box laid into a width and height (SVG 1.1, 7.8): whole and in the middle, unless preserveAspectRatio says else.
  static Affine fitted_into(const Box2& box, double width, double height, std::string_view how) {
    const auto says = [&](const char* word) { return how.find(word) != std::string_view::npos; };
    double x = width / box.size().x;
    double y = height / box.size().y;
    if (!says("none")) x = y = says("slice") ? std::max(x, y) : std::min(x, y);
    const double left = width - box.size().x * x;
    const double over = height - box.size().y * y;
    const double right = says("none") || says("xMin") ? 0 : says("xMax") ? left : left / 2;
    const double down = says("none") || says("YMin") ? 0 : says("YMax") ? over : over / 2;
    return {x, 0, 0, y, right - box.low.x * x, down - box.low.y * y};
  }
  /// Whatever its prefix: "svg:rect" is a rect.
  static std::string local_name(const char* name) {
    const std::string_view whole = name;
    return std::string(whole.substr(whole.rfind(':') + 1));
  }
  static bool shown(const pugi::xml_node& node) {
    const std::string_view style = node.attribute("style").value();
    const auto styled = [&](std::string_view key, std::string_view value) {
      const auto at = style.find(key);
      const auto v = at == std::string_view::npos ? at : style.find_first_not_of(" :", at + key.size());
      return v != std::string_view::npos && style.substr(v).starts_with(value);
    };
    return std::string_view(node.attribute("display").value()) != "none" &&
           std::string_view(node.attribute("visibility").value()) != "hidden" && !styled("display", "none") &&
           !styled("visibility", "hidden");
  }
  void walk(const pugi::xml_node& node, const Affine& outer, int depth, int uses = 0) {
    // Elements are counted as points are: a few that use one another can stand for any number.
    if (++count_ > most_drawing_points || !trouble.empty()) return;
    if (depth > 250) {
      trouble = "groups are nested more than 250 deep";
      return;
    }
    Value turned;
    if (const std::string_view text = node.attribute("transform").value();
        !text.empty() && !parsed<tag::type::transform_list>(text, tag::attribute::transform(), turned)) {
      trouble = "a transform is not understood";
      return;
    }
    Affine here = outer.then_inner(turned.matrix);
    const std::string name = local_name(node.name());
    if (!shown(node)) {
      ++left["hidden piece"];
      return;
    }
    // A length with a unit is in that unit, a percentage of the viewBox; user units otherwise.
    const auto length = [&](const char* key, auto attribute) {
      const std::string_view text = node.attribute(key).value();
      if (!text.empty() && !parsed<tag::type::length>(text, attribute, lengths_))
        trouble = "a length is not understood";
      return text.empty() ? 0.0 : lengths_.number;
    };
    const auto across = [&](const char* key) { return length(key, tag::attribute::x()); };
    const auto down = [&](const char* key) { return length(key, tag::attribute::y()); };
    std::vector<std::pair<Polygon, bool>> made;
    if (name == "path") {
      PathPoints points(fine_, count_);
      if (!path_points(node.attribute("d").value(), points)) trouble = "a path's data is not understood";
      made = std::move(points.out);
    } else if (name == "polygon" || name == "polyline") {
      Value line;
      if (const std::string_view text = node.attribute("points").value();
          !text.empty() && !parsed<tag::attribute::points>(text, tag::attribute::points(), line))
        trouble = "a polygon's points are not understood";
      made.emplace_back(std::move(line.points), name == "polygon");
    } else if (name == "rect") {
      const double x = across("x");
      const double y = down("y");
      const double w = across("width");
      const double h = down("height");
      // Rounded corners (SVG 1.1, 9.2): one radius given is both, none is more than half its side.
      double rx = across("rx");
      double ry = node.attribute("ry") ? down("ry") : rx;
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
      const double rx = name == "circle" ? length("r", tag::attribute::r()) : across("rx");
      const double ry = name == "circle" ? length("r", tag::attribute::r()) : down("ry");
      Polygon p;
      const int n = chords(2 * pi * std::max(rx, ry) / fine_, 24, 2000);
      for (int k = 0; k < n; ++k)
        p.push_back({across("cx") + rx * std::cos(2 * pi * k / n), down("cy") + ry * std::sin(2 * pi * k / n)});
      made.emplace_back(p, true);
    } else if (name == "line") {
      made.emplace_back(Polygon{{across("x1"), down("y1")}, {across("x2"), down("y2")}}, false);
    }
    // A drawing in the drawing, or a symbol, has a window and a box of its own.
    const auto window = [&](const pugi::xml_node& of, double width, double height) {
      if (const auto box = view_box(of); box && width > 0 && height > 0)
        here = here.then_inner(fitted_into(*box, width, height, of.attribute("preserveAspectRatio").value()));
    };
    if (name == "svg" && depth > 0) {
      here = here.then_inner({1, 0, 0, 1, across("x"), down("y")});
      window(node, across("width"), down("height"));
    }
    if (name == "text" || name == "image" || name == "foreignObject") ++left[name == "image" ? "picture" : "text"];
    if (name == "use") {
      const char* const href =
          node.attribute("href") ? node.attribute("href").value() : node.attribute("xlink:href").value();
      const auto it = *href == '#' ? by_id_.find(href + 1) : by_id_.end();
      if (std::string_view(href).starts_with("#glyph")) {
        ++left["letter"];  // as converters of pages write text
      } else if (uses > 20) {
        trouble = "elements use one another more than 20 deep, or one uses itself";
      } else if (it != by_id_.end()) {
        here = here.then_inner({1, 0, 0, 1, across("x"), down("y")});
        if (local_name(it->second.name()) == "symbol") {
          window(it->second, across("width"), down("height"));
          for (const pugi::xml_node& child : it->second.children()) walk(child, here, depth + 1, uses + 1);
        } else {
          walk(it->second, here, depth + 1, uses + 1);
        }
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
  Value lengths_;
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
  const pugi::xml_node root = doc.document_element();
  const std::string_view whole = root.name();
  if (whole.substr(whole.rfind(':') + 1) != "svg")
    return tl::unexpected(unusable(path, "this is not an SVG drawing", "Save it as plain SVG"));
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

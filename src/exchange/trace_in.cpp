#include "exchange/trace_in.hpp"

#include <algorithm>
#include <cctype>

#include <fmt/format.h>

#include "core/instrument/body_shape.hpp"
#include "core/parts/body/numbers.hpp"
#include "core/parts/fretboard/numbers.hpp"
#include "core/parts/neck/part.hpp"
#include "core/plan/recover.hpp"
#include "core/units/length.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/plan_in.hpp"

namespace wren {
namespace {

constexpr double widest_line = 1.6;  // mm: what is wider is a dark shape and no line
constexpr int page_dpi = 150;
constexpr std::size_t most_head_points = 4000;
constexpr std::size_t section_points = 2000;

tl::unexpected<Problem> cannot(std::string what, std::string todo) {
  return fail(ProblemKind::input, std::move(what), "the curve", std::move(todo));
}

/// Every so-many-th point, so that no more than `most` are left; the first and last stay.
Polygon thinned(const Polygon& p, std::size_t most) {
  if (p.size() <= most) return p;
  Polygon out;
  for (std::size_t k = 0; k < most; ++k) out.push_back(p[k * (p.size() - 1) / (most - 1)]);
  return out;
}

Path fair_path(const Polygon& points, double within) {
  RecoverOptions options;
  options.within = within;
  return recover(points, true, options).path;
}

/// The half of a closed trace that is away from the strings: a gauge's line is drawn round, or closed along its edge.
Polygon lower_run(Polygon points, bool closed) {
  if (!closed) return points;
  const auto side = [&](bool right) {
    return static_cast<std::size_t>(
        std::max_element(points.begin(), points.end(), [&](Vec2 a, Vec2 b) { return right ? a.x < b.x : a.x > b.x; }) -
        points.begin());
  };
  const std::size_t from = side(false);
  const std::size_t to = side(true);
  Polygon one, other;
  for (std::size_t i = from;; i = (i + 1) % points.size()) {
    one.push_back(points[i]);
    if (i == to) break;
  }
  for (std::size_t i = to;; i = (i + 1) % points.size()) {
    other.push_back(points[i]);
    if (i == from) break;
  }
  const auto deepest = [](const Polygon& run) {
    double y = 1e300;
    for (const Vec2 q : run) y = std::min(y, q.y);
    return y;
  };
  return deepest(one) < deepest(other) ? one : other;
}

/// A traced run without what its pixels step back by: a section goes from one edge to the other. What turns back
/// further stays, and is refused as it is.
Polygon without_pixels_steps(const Polygon& run) {
  constexpr double pixels = 0.3;  // mm
  if (run.empty()) return run;
  const double way = run.back().x > run.front().x ? 1 : -1;
  Polygon out{run.front()};
  for (const Vec2 q : run)
    if (const double on = (q.x - out.back().x) * way; on > 1e-4 || on < -pixels) out.push_back(q);
  return out;
}

/// The project with the curve in its place; what follows from it is not looked at.
Expected<Project> put_curve(const Project& project, const Polygon& given, bool closed, const TakeAs& as) {
  Polygon points;
  for (const Vec2 q : given) {
    if (!std::isfinite(q.x) || !std::isfinite(q.y) || length(q) > 5000)
      return cannot("the curve reaches to places no instrument has", "Scale the picture, or choose another curve");
    if (points.empty() || distance(points.back(), q) > 1e-4) points.push_back(q);
  }
  if (closed && points.size() > 1 && distance(points.front(), points.back()) <= 1e-4) points.pop_back();
  const bool open_will_do = as.as == TakenAs::section || as.as == TakenAs::heel_arc;
  if (points.size() < 3 || (!open_will_do && points.size() < 4))
    return cannot(fmt::format("the curve has {} points", points.size()), "Choose a longer one");
  if (!closed && !open_will_do) return cannot("the curve is open", "Close it, or choose one that is");
  if (closed && first_crossing(points))
    return cannot("the curve crosses itself", "Draw it again where it does, or choose another");
  if (closed && signed_area(points) < 0) std::reverse(points.begin(), points.end());
  Project out = project;
  Body& body = body_of(out).body;
  switch (as.as) {
    case TakenAs::body_outline:
      body.outline.form = BodyForm::drawn;
      body.outline.drawn = fair_path(points, as.within);
      if (auto bad = check_outline(body.outline.drawn); !bad.empty()) return tl::unexpected(bad.front());
      break;
    case TakenAs::cavity:
    case TakenAs::back_cavity:
      if (body.drawn.size() >= most_drawn_cavities)
        return cannot(fmt::format("there are {} drawn cavities already", body.drawn.size()), "Take one out first");
      body.drawn.push_back({as.name.empty() ? "Traced" : as.name, fair_path(points, as.within),
                            as.as == TakenAs::back_cavity, as.depth});
      break;
    case TakenAs::plate:
      body.plate.drawn = fair_path(points, as.within);
      if (body.plate.thickness <= 0) body.plate.thickness = 2.5;
      break;
    case TakenAs::head: {
      HeadNumbers& head = neck_of(out).neck.head;
      head.drawn = thinned(points, most_head_points);
      head.shape = HeadShape::drawn;
      break;
    }
    case TakenAs::mark: {
      Marks& marks = board_of(out).instrument.marks;
      const Vec2 middle = bounds(points).middle();
      marks.outline.clear();
      for (const Vec2 q : thinned(points, 400)) marks.outline.push_back(q - middle);
      marks.shape = MarkShape::outline;
      break;
    }
    case TakenAs::heel_arc: {
      const auto circle = fit_circle(points);
      if (!circle || circle->radius < 4 || circle->radius > 400)
        return cannot(
            circle ? fmt::format("the curve is an arc of {} mm, and a heel's is 4 to 400", format_mm(circle->radius, 1))
                   : "the curve is straight: it has no radius",
            "Choose the hollow between shaft and heel");
      double off = 0;
      // Its edges too: the corners of a box lie on a circle.
      for (std::size_t k = 0; k < points.size(); ++k)
        for (const Vec2 q : {points[k], k + 1 < points.size() ? lerp(points[k], points[k + 1], 0.5) : points[k]})
          off = std::max(off, std::abs(distance(q, circle->centre) - circle->radius));
      constexpr double furthest = 0.6;  // mm: a hand's line, and the easing at both ends
      if (off > furthest)
        return cannot(fmt::format("the curve leaves every arc by {} mm", format_mm(off, 1)),
                      "Choose the hollow between shaft and heel alone");
      neck_of(out).neck.heel.transition = Transition::arc;
      neck_of(out).neck.heel.radius = std::round(circle->radius * 100) / 100;
      break;
    }
    case TakenAs::section: {
      BackSection section;
      section.x = as.station;
      for (const Vec2 q : thinned(without_pixels_steps(lower_run(points, closed)), section_points))
        section.points.push_back({q.x, -q.y});
      auto& all = neck_of(out).neck.back.sections;
      std::erase_if(all, [&](const BackSection& s) { return std::abs(s.x - section.x) < 0.05; });
      all.push_back(std::move(section));
      std::sort(all.begin(), all.end(), [](const BackSection& a, const BackSection& b) { return a.x < b.x; });
      break;
    }
    case TakenAs::pickup: {
      PickupNumbers& pickup = body.pickups[as.name == "neck" ? 0 : as.name == "middle" ? 1 : 2];
      // Its size across and along the strings; its corners as round as what the rounding leaves of its box.
      const Vec2 size = bounds(points).size();
      if (std::min(size.x, size.y) < 3 || std::max(size.x, size.y) > 250)
        return cannot(fmt::format("a pickup of {} by {} mm is none", format_mm(size.x, 1), format_mm(size.y, 1)),
                      "Scale the picture, or choose another curve");
      const double missing = size.x * size.y - std::abs(signed_area(points));
      pickup.name = pickup.name == "none" ? "twin-coil" : pickup.name;
      pickup.length = std::round(std::max(size.x, size.y) * 100) / 100;
      pickup.width = std::round(std::min(size.x, size.y) * 100) / 100;
      // Four corners of radius r leave out (4 − π)·r² of their box.
      pickup.corner =
          std::round(std::min(pickup.width / 2, std::sqrt(std::max(0.0, missing) / 0.8584073464)) * 100) / 100;
      pickup.ear_length = 0;
      break;
    }
  }
  return out;
}

/// Whether board and neck follow from it.
std::optional<Problem> does_not_follow(const Project& p) {
  const auto board = make_fretboard(board_of(p).instrument);
  if (!board) return board.error();
  const auto neck = make_neck(*board, neck_of(p).neck);
  if (!neck) return neck.error();
  return {};
}

}  // namespace

Expected<GreyPicture> read_grey(const std::string& path, int page, Progress* progress) {
  const bool pdf = path.size() > 4 && (path.ends_with(".pdf") || path.ends_with(".PDF"));
  const auto ppm = pdf ? page_picture(path, page, page_dpi, progress) : read_picture(path, progress);
  if (!ppm) return tl::unexpected(ppm.error());
  return grey_from_ppm(*ppm, path);
}

std::vector<Polygon> shapes_in(const GreyPicture& grey, const PlacedPicture& placed) {
  const auto shapes = drawn_shapes(dark_rings(grey, level_of(grey)), widest_line / placed.mm_per_pixel);
  std::vector<Polygon> out;
  for (const Polygon& shape : shapes) {
    Polygon world;
    for (const Vec2 q : shape) world.push_back(placed.to_world(q));
    if (signed_area(world) < 0) std::reverse(world.begin(), world.end());
    out.push_back(std::move(world));
  }
  std::sort(out.begin(), out.end(), [](const Polygon& a, const Polygon& b) { return signed_area(a) > signed_area(b); });
  return out;
}

const std::vector<TakeWay>& take_ways() {
  constexpr const char* board = FretboardNumbers::part;
  constexpr const char* neck = NeckNumbers::part;
  constexpr const char* body = BodyNumbers::part;
  static const std::vector<TakeWay> all{
      {"body-outline", TakenAs::body_outline, body, "plan", "The body's outline"},
      {"cavity", TakenAs::cavity, body, "plan", "A cavity in the face"},
      {"cavity-back", TakenAs::back_cavity, body, "plan", "A cavity in the back"},
      {"plate", TakenAs::plate, body, "plan", "The scratch plate"},
      {"pickup-neck", TakenAs::pickup, body, "plan", "The neck pickup's shape"},
      {"pickup-middle", TakenAs::pickup, body, "plan", "The middle pickup's shape"},
      {"pickup-bridge", TakenAs::pickup, body, "plan", "The bridge pickup's shape"},
      {"head", TakenAs::head, neck, "plan", "The head's outline"},
      {"section", TakenAs::section, neck, "plan side section", "A section of the neck"},
      {"heel-arc", TakenAs::heel_arc, neck, "side", "The arc from shaft to heel"},
      {"mark", TakenAs::mark, board, "plan", "The marks' shape"}};
  return all;
}

bool TakeWay::found_in(const std::string& of_part, const std::string& view) const {
  return of_part == part && std::string(views).find(view) != std::string::npos;
}

Expected<TakeAs> take_as(const std::string& text) {
  std::string all;
  for (const TakeWay& way : take_ways()) {
    all += (all.empty() ? "" : ", ") + std::string(way.id);
    if (text != way.id) continue;
    TakeAs out;
    out.as = way.as;
    out.part = way.part;
    if (way.as == TakenAs::pickup) out.name = text.substr(text.find('-') + 1);  // which of them
    return out;
  }
  return fail(ProblemKind::input, worded("'{}' is nothing that a curve can become", text), "", "Choose one of " + all);
}

Expected<Project> with_curve(const Project& project, const Polygon& points, bool closed, const TakeAs& as) {
  auto out = put_curve(project, points, closed, as);
  if (!out) return out;
  if (auto bad = does_not_follow(*out)) return tl::unexpected(std::move(*bad));
  return out;
}

bool is_raster(const std::string& path) {
  const std::size_t dot = path.rfind('.');
  std::string ending = dot == std::string::npos ? std::string() : path.substr(dot + 1);
  for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return ending == "png" || ending == "jpg" || ending == "jpeg";
}

Expected<Drawn> curves_in(const std::string& path, int page, double mm_per_point, Progress* progress) {
  Drawn out;
  if (is_raster(path) || mm_per_point > 0) {
    if (!(mm_per_point > 0 && mm_per_point < 1000))
      return fail(ProblemKind::input, "nobody knows how large this picture is", path,
                  "Say what one of its points measures: 25.4 mm over its dots per inch");
    const auto grey = read_grey(path, page, progress);
    if (!grey) return tl::unexpected(grey.error());
    PlacedPicture placed;
    placed.mm_per_pixel = mm_per_point;
    for (Polygon& shape : shapes_in(*grey, placed)) out.curves.push_back({std::move(shape), true});
  } else {
    const auto plan = read_plan(path, page, {}, progress);
    if (!plan) return tl::unexpected(plan.error());
    out.unit_known = plan->unit_known;
    for (const CleanedPath& one : plan->cleaned.paths) out.curves.push_back({one.points, one.closed});
  }
  if (out.curves.empty())
    return fail(ProblemKind::input, "nothing is drawn there", path, "Choose another page or drawing");
  return out;
}

Expected<std::vector<double>> places_from(const std::string& text, std::size_t count, UnitSystem units) {
  const auto wrong = [](std::string what) {
    return fail(ProblemKind::input, std::move(what), "places along the neck",
                "Write them one after another, 25, 30, 35 mm, or the first and the step, 25 by 5");
  };
  const auto length_of = [&](const std::string& one) { return parse_length(one, units); };
  std::vector<double> out;
  if (const std::size_t by = text.find(" by "); by != std::string::npos) {
    const auto first = length_of(text.substr(0, by));
    const auto step = length_of(text.substr(by + 4));
    if (!first || !step) return wrong(fmt::format("'{}' is no first place and a step", text));
    for (std::size_t i = 0; i < count; ++i) out.push_back(*first + static_cast<double>(i) * *step);
  } else {
    // A unit at the end of the list is that of all its numbers that have none.
    const std::size_t unit_at = text.find_last_of("0123456789.");
    const std::string unit = unit_at == std::string::npos ? std::string() : text.substr(unit_at + 1);
    std::string one;
    for (const char c : text + ",") {
      if (c != ',' && c != ';') {
        one += c;
        continue;
      }
      if (one.find_first_not_of(' ') == std::string::npos) return wrong("between two commas stands nothing");
      const bool bare = one.find_first_not_of("0123456789.-+/ ") == std::string::npos;
      const auto at = length_of(bare ? one + unit : one);
      if (!at) return tl::unexpected(at.error());
      out.push_back(*at);
      one.clear();
    }
    if (out.size() != count) return wrong(worded("curves: {}, places: {}", count, out.size()));
  }
  for (std::size_t i = 0; i < out.size(); ++i)
    for (std::size_t k = 0; k < i; ++k)
      if (std::abs(out[i] - out[k]) < 0.05) return wrong(fmt::format("two curves at {} mm", format_mm(out[i], 2)));
  return out;
}

std::vector<std::size_t> reading_order(const std::vector<DrawnCurve>& curves) {
  std::vector<Box2> boxes;
  std::vector<std::size_t> order;
  for (const DrawnCurve& c : curves) {
    order.push_back(boxes.size());
    boxes.push_back(bounds(c.points));
  }
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return boxes[a].high.y > boxes[b].high.y; });
  // A row holds what stands beside its first, higher or lower by less than three quarters of that one's height.
  for (auto row = order.begin(); row != order.end();) {
    const double foot = boxes[*row].low.y + 0.25 * boxes[*row].size().y;
    const auto end = std::find_if(row, order.end(), [&](std::size_t i) { return boxes[i].high.y < foot; });
    std::sort(row, end, [&](std::size_t a, std::size_t b) { return boxes[a].low.x < boxes[b].low.x; });
    row = end;
  }
  return order;
}

Expected<Project> with_sections(const Project& project, std::vector<DrawnCurve> curves,
                                const std::vector<double>& places) {
  if (curves.empty() || curves.size() != places.size())
    return cannot(worded("{} curves and {} places", curves.size(), places.size()), "Name a place for each");
  const auto order = reading_order(curves);
  Project out = project;
  for (std::size_t i = 0; i < order.size(); ++i) {
    DrawnCurve& curve = curves[order[i]];
    const Box2 box = bounds(curve.points);
    for (Vec2& q : curve.points) q = q - Vec2{box.middle().x, box.high.y};
    TakeAs as;
    as.as = TakenAs::section;
    as.part = NeckNumbers::part;
    as.station = places[i];
    auto next = put_curve(out, curve.points, curve.closed, as);
    if (!next) {
      Problem bad = next.error();
      bad.where = fmt::format("the section at {} mm", format_mm(places[i], 2));
      return tl::unexpected(std::move(bad));
    }
    out = std::move(*next);
  }
  if (auto bad = does_not_follow(out)) return tl::unexpected(std::move(*bad));
  return out;
}

}  // namespace wren

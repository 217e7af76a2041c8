#include "core/plan/region.hpp"

#include <algorithm>

#include <polyclipping/clipper.hpp>

namespace wren {
namespace {

constexpr double clip_scale = 1e4;  // whole numbers of 0.0001 mm for the clipping library

ClipperLib::Path to_clip(const Polygon& polygon) {
  ClipperLib::Path path;
  path.reserve(polygon.size());
  for (const Vec2 p : polygon) path.emplace_back(std::llround(p.x * clip_scale), std::llround(p.y * clip_scale));
  return path;
}

std::vector<Polygon> from_clip(const ClipperLib::Paths& paths) {
  std::vector<Polygon> out;
  for (const auto& path : paths) {
    Polygon polygon;
    polygon.reserve(path.size());
    for (const auto& p : path)
      polygon.push_back({static_cast<double>(p.X) / clip_scale, static_cast<double>(p.Y) / clip_scale});
    out.push_back(std::move(polygon));
  }
  return out;
}

}  // namespace

namespace {

/// The library sometimes leaves a needle where an edge turns by almost nothing: a point that is nearer to what was
/// moved than it was moved by, with the way turning back on itself there. Points like that are taken out.
void without_needles(Polygon& ring, const std::vector<Polygon>& of, double moved) {
  constexpr double off = 0.02;         // mm nearer than it should be
  constexpr double turns_back = -0.9;  // cosine
  for (std::size_t i = 0; i < ring.size() && ring.size() > 3;) {
    const std::size_t n = ring.size();
    const Vec2 before = ring[(i + n - 1) % n];
    const Vec2 after = ring[(i + 1) % n];
    const Vec2 in = ring[i] - before;
    const Vec2 out = after - ring[i];
    const bool needle =
        dot(in, out) < turns_back * length(in) * length(out) &&
        std::any_of(of.begin(), of.end(), [&](const Polygon& p) { return distance_to(p, ring[i]) < moved - off; });
    if (!needle) {
      ++i;
      continue;
    }
    ring.erase(ring.begin() + static_cast<std::ptrdiff_t>(i));
    i = i > 0 ? i - 1 : 0;  // the one before it may have been its other side
  }
}

}  // namespace

std::vector<Polygon> offset(const std::vector<Polygon>& polygons, double distance) {
  ClipperLib::ClipperOffset offsetter;
  offsetter.ArcTolerance = 0.002 * clip_scale;
  for (const Polygon& polygon : polygons)
    offsetter.AddPath(to_clip(polygon), ClipperLib::jtRound, ClipperLib::etClosedPolygon);
  ClipperLib::Paths grown;
  offsetter.Execute(grown, distance * clip_scale);
  std::vector<Polygon> out = from_clip(grown);
  for (Polygon& ring : out) without_needles(ring, polygons, std::abs(distance));
  return out;
}

std::vector<Polygon> united(const std::vector<Polygon>& polygons) {
  ClipperLib::Clipper clipper;
  for (const Polygon& polygon : polygons) {
    ClipperLib::Path path = to_clip(polygon);
    if (!ClipperLib::Orientation(path)) ClipperLib::ReversePath(path);
    clipper.AddPath(path, ClipperLib::ptSubject, true);
  }
  ClipperLib::Paths all;
  clipper.Execute(ClipperLib::ctUnion, all, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  return from_clip(all);
}

namespace {

ClipperLib::Paths to_clip(const Region& region) {
  ClipperLib::Paths out;
  for (const Polygon& p : region) out.push_back(to_clip(p));
  return out;
}

Region clipped(const Region& a, const Region& b, ClipperLib::ClipType type) {
  ClipperLib::Clipper clipper;
  clipper.AddPaths(to_clip(a), ClipperLib::ptSubject, true);
  clipper.AddPaths(to_clip(b), ClipperLib::ptClip, true);
  ClipperLib::Paths out;
  clipper.Execute(type, out, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  return from_clip(out);
}

}  // namespace

Region intersected(const Region& a, const Region& b) { return clipped(a, b, ClipperLib::ctIntersection); }
Region subtracted(const Region& a, const Region& b) { return clipped(a, b, ClipperLib::ctDifference); }
Region joined(const Region& a, const Region& b) { return clipped(a, b, ClipperLib::ctUnion); }

std::vector<Polygon> lines_outside(const std::vector<Polygon>& lines, const Region& region) {
  ClipperLib::Clipper clipper;
  for (const Polygon& line : lines) clipper.AddPath(to_clip(line), ClipperLib::ptSubject, false);
  clipper.AddPaths(to_clip(region), ClipperLib::ptClip, true);
  ClipperLib::PolyTree tree;
  clipper.Execute(ClipperLib::ctDifference, tree, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
  ClipperLib::Paths open;
  ClipperLib::OpenPathsFromPolyTree(tree, open);
  return from_clip(open);
}

double area(const Region& region) {
  double sum = 0;
  for (const Polygon& p : region) sum += signed_area(p);
  return sum;
}

bool contains(const Region& region, Vec2 p) {
  bool inside = false;
  for (const Polygon& polygon : region)
    if (contains(polygon, p)) inside = !inside;
  return inside;
}

std::vector<Region> parts_of(const Region& region) {
  std::vector<Region> out;
  for (const Polygon& p : region)
    if (signed_area(p) > 0) out.push_back({p});
  for (const Polygon& p : region) {
    if (signed_area(p) > 0 || p.empty()) continue;
    Region* home = nullptr;
    for (Region& r : out)
      if (contains(r.front(), p.front()) && (home == nullptr || signed_area(r.front()) < signed_area(home->front())))
        home = &r;
    if (home != nullptr) home->push_back(p);
  }
  return out;
}

Polygon buffer_of(const std::vector<Vec2>& line, double radius) {
  ClipperLib::ClipperOffset offsetter;
  offsetter.ArcTolerance = 0.002 * clip_scale;
  ClipperLib::Path path;
  for (const Vec2 p : line) path.push_back(to_clip(Polygon{p}).front());
  if (path.size() == 1) path.emplace_back(path.front().X + 1, path.front().Y);  // a circle: a line of 0.0001 mm
  offsetter.AddPath(path, ClipperLib::jtRound, ClipperLib::etOpenRound);
  ClipperLib::Paths grown;
  offsetter.Execute(grown, radius * clip_scale);
  const auto all = from_clip(grown);
  const Polygon* widest = nullptr;
  for (const Polygon& p : all)
    if (widest == nullptr || std::abs(signed_area(p)) > std::abs(signed_area(*widest))) widest = &p;
  return widest != nullptr ? *widest : Polygon{};
}

Polygon rounded_rectangle(Vec2 middle, Vec2 along, double length_, double width, double corner) {
  const Vec2 u = unit(along);
  const Vec2 v = left_of(u);
  const double r = std::clamp(corner, 0.0, std::min(length_, width) / 2 - 1e-6);
  Contour c;
  const double l = length_ / 2;
  const double w = width / 2;
  const auto at = [&](double a, double b) { return middle + u * a + v * b; };
  constexpr double quarter = 0.41421356237309503;  // tan(90°/4)
  if (r < 1e-6) return {at(-l, -w), at(l, -w), at(l, w), at(-l, w)};
  c = {{at(-l + r, -w), 0}, {at(l - r, -w), quarter}, {at(l, -w + r), 0}, {at(l, w - r), quarter},
       {at(l - r, w), 0},   {at(-l + r, w), quarter}, {at(-l, w - r), 0}, {at(-l, -w + r), quarter}};
  return flatten(c, 0.002);
}

Polygon hull_of(Polygon points) {
  std::sort(points.begin(), points.end(), [](Vec2 a, Vec2 b) { return a.x < b.x || (a.x == b.x && a.y < b.y); });
  points.erase(std::unique(points.begin(), points.end(), [](Vec2 a, Vec2 b) { return a.x == b.x && a.y == b.y; }),
               points.end());
  if (points.size() < 3) return {};
  Polygon hull;
  const auto walk = [&](auto from, auto to) {
    const std::size_t start = hull.size();
    for (auto it = from; it != to; ++it) {
      while (hull.size() >= start + 2 && cross(hull.back() - hull[hull.size() - 2], *it - hull.back()) <= 0)
        hull.pop_back();
      hull.push_back(*it);
    }
    hull.pop_back();  // the other half begins with it
  };
  walk(points.begin(), points.end());
  walk(points.rbegin(), points.rend());
  return hull.size() < 3 ? Polygon{} : hull;
}

Polygon circle_polygon(Vec2 middle, double radius) {
  return flatten(Contour{{middle + Vec2{radius, 0}, 1}, {middle - Vec2{radius, 0}, 1}}, std::min(0.002, radius * 0.02));
}

const Polygon* widest(const Region& region) {
  const Polygon* best = nullptr;
  for (const Polygon& p : region)
    if (best == nullptr || std::abs(signed_area(p)) > std::abs(signed_area(*best))) best = &p;
  return best;
}

Nearness::Nearness(const Region& region, double reach) : reach_(reach) {
  Box2 box;
  for (const Polygon& p : region)
    for (std::size_t i = 0; i < p.size(); ++i) {
      edges_.push_back({p[i], p[(i + 1) % p.size()]});
      box.add(p[i]);
    }
  if (edges_.empty()) return;
  low_ = box.low - Vec2{reach, reach};
  const Vec2 size = box.size() + Vec2{2 * reach, 2 * reach};
  // Cells as wide as a handful of edges, so that a finely chopped outline costs no more to be near than a plain one.
  double length = 0;
  for (const Segment2& e : edges_) length += distance(e.a, e.b);
  const double extent = std::max(size.x, size.y);
  const double few = 6 * length / static_cast<double>(edges_.size());
  cell_ = std::max(extent / 600 > 2 ? extent / 600 : std::min(few, 2.0), extent / 1200);
  columns_ = static_cast<int>(size.x / cell_) + 2;
  rows_ = static_cast<int>(size.y / cell_) + 2;
  const auto cells = static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_);
  std::vector<std::pair<std::uint32_t, std::uint32_t>> pairs;  // cell, edge
  for (std::size_t i = 0; i < edges_.size(); ++i) {
    const Segment2& e = edges_[i];
    const int i0 = static_cast<int>((std::min(e.a.x, e.b.x) - low_.x) / cell_);
    const int i1 = static_cast<int>((std::max(e.a.x, e.b.x) - low_.x) / cell_);
    const int j0 = static_cast<int>((std::min(e.a.y, e.b.y) - low_.y) / cell_);
    const int j1 = static_cast<int>((std::max(e.a.y, e.b.y) - low_.y) / cell_);
    for (int j = j0; j <= j1; ++j)
      for (int k = i0; k <= i1; ++k) {
        const Vec2 middle{low_.x + (k + 0.5) * cell_, low_.y + (j + 0.5) * cell_};
        if (wren::distance_to(middle, e) <= cell_ * 0.7072)
          pairs.emplace_back(static_cast<std::uint32_t>(j * columns_ + k), static_cast<std::uint32_t>(i));
      }
  }
  std::sort(pairs.begin(), pairs.end());
  first_.assign(cells + 1, 0);
  for (const auto& [cell, edge] : pairs) {
    ++first_[cell + 1];
    list_.push_back(edge);
  }
  for (std::size_t c = 0; c < cells; ++c) first_[c + 1] += first_[c];
  // Two sweeps: distance in cells (the larger of both directions) to the next cell that holds an edge.
  empty_.assign(cells, 60000);
  const auto at = [&](int i, int j) -> std::uint16_t& { return empty_[cell_at(i, j)]; };
  for (std::size_t c = 0; c < cells; ++c)
    if (first_[c + 1] > first_[c]) empty_[c] = 0;
  const auto relax = [&](int i, int j, int a, int b) {
    if (a >= 0 && b >= 0 && a < columns_ && b < rows_)
      at(i, j) = std::min<std::uint16_t>(at(i, j), static_cast<std::uint16_t>(at(a, b) + 1));
  };
  for (int j = 0; j < rows_; ++j)
    for (int i = 0; i < columns_; ++i) {
      relax(i, j, i - 1, j);
      relax(i, j, i - 1, j - 1);
      relax(i, j, i, j - 1);
      relax(i, j, i + 1, j - 1);
    }
  for (int j = rows_ - 1; j >= 0; --j)
    for (int i = columns_ - 1; i >= 0; --i) {
      relax(i, j, i + 1, j);
      relax(i, j, i + 1, j + 1);
      relax(i, j, i, j + 1);
      relax(i, j, i - 1, j + 1);
    }
}

double Nearness::distance_within(Vec2 p) const {
  const int ci = static_cast<int>(std::floor((p.x - low_.x) / cell_));
  const int cj = static_cast<int>(std::floor((p.y - low_.y) / cell_));
  if (ci < 0 || cj < 0 || ci >= columns_ || cj >= rows_) return reach_;
  double best = reach_;
  // Squares of cells about the place, from the first that holds an edge outwards, until nothing nearer can come.
  for (int k = empty_[cell_at(ci, cj)]; (k - 1) * cell_ < best; ++k) {
    bool inside = false;
    const auto look = [&](int i, int j) {
      if (i < 0 || j < 0 || i >= columns_ || j >= rows_) return;
      inside = true;
      const std::size_t c = cell_at(i, j);
      for (std::uint32_t e = first_[c]; e < first_[c + 1]; ++e)
        best = std::min(best, wren::distance_to(p, edges_[list_[e]]));
    };
    if (k == 0) {
      look(ci, cj);
      continue;
    }
    for (int i = ci - k; i <= ci + k; ++i) {
      look(i, cj - k);
      look(i, cj + k);
    }
    for (int j = cj - k + 1; j < cj + k; ++j) {
      look(ci - k, j);
      look(ci + k, j);
    }
    if (!inside) break;
  }
  return best;
}

}  // namespace wren

#include "core/skin/mesh.hpp"

#include <algorithm>
#include <map>

#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_face_base_with_info_2.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>

namespace wren {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using VertexBase = CGAL::Triangulation_vertex_base_with_info_2<std::uint32_t, Kernel>;
using FaceBase = CGAL::Triangulation_face_base_with_info_2<int, Kernel, CGAL::Constrained_triangulation_face_base_2<Kernel>>;
using Structure = CGAL::Triangulation_data_structure_2<VertexBase, FaceBase>;
using Triangulation = CGAL::Constrained_Delaunay_triangulation_2<Kernel, Structure, CGAL::Exact_predicates_tag>;
using Point = Kernel::Point_2;

Vec2 plan_of(const Triangulation::Vertex_handle& v) { return {v->point().x(), v->point().y()}; }

class Mesher {
 public:
  Mesher(const MeshPlan& plan, Mesh& mesh) : plan_(plan), mesh_(mesh) {}

  void run() {
    const auto ring = [&](const Polygon& polygon) {
      std::vector<Point> points;
      for (const Vec2 p : polygon) points.emplace_back(p.x, p.y);
      cdt_.insert_constraint(points.begin(), points.end(), true);
    };
    // Constraints in bulk before the inner points.
    ring(plan_.outline);
    for (const Polygon& h : plan_.holes) ring(h);
    for (const Polygon& p : plan_.pockets) ring(p);
    std::vector<Point> inner;
    for (const Vec2 p : plan_.inside) inner.emplace_back(p.x, p.y);
    cdt_.insert(inner.begin(), inner.end());
    for (auto f = cdt_.finite_faces_begin(); f != cdt_.finite_faces_end(); ++f) {
      f->info() = inside(middle(f)) ? 1 : 0;
      if (f->info() == 0) continue;
      const Vec2 from = middle(f);
      for (int k = 0; k < 3; ++k)
        for (const auto* skin : {&plan_.top, &plan_.bottom}) {
          std::vector<float>& all = heights_[&*f->vertex(k)];
          const float z = height(*skin, f->vertex(k), from);
          const auto at = std::lower_bound(all.begin(), all.end(), z);
          if (at == all.end() || *at != z) all.insert(at, z);
        }
    }
    for (auto f = cdt_.finite_faces_begin(); f != cdt_.finite_faces_end(); ++f) {
      if (f->info() == 0) continue;
      const Vec2 from = middle(f);
      std::uint32_t up[3];
      std::uint32_t down[3];
      for (int k = 0; k < 3; ++k) {
        up[k] = point(f->vertex(k), plan_.top, from);
        down[k] = point(f->vertex(k), plan_.bottom, from);
      }
      add(up[0], up[1], up[2], MeshFace::top);
      add(down[2], down[1], down[0], MeshFace::bottom);
      for (int k = 0; k < 3; ++k) walls(f, k, from);
    }
  }

 private:
  template <class Face>
  [[nodiscard]] static Vec2 middle(const Face& f) {
    Vec2 sum;
    for (int k = 0; k < 3; ++k) sum = sum + plan_of(f->vertex(k));
    return sum * (1.0 / 3);
  }
  [[nodiscard]] bool inside(Vec2 p) const {
    if (!contains(plan_.outline, p)) return false;
    return std::none_of(plan_.holes.begin(), plan_.holes.end(), [&](const Polygon& h) { return contains(h, p); });
  }
  /// One mesh point for each height at a place, so that walls and skins share their corners.
  std::uint32_t point(Triangulation::Vertex_handle v, const std::function<double(Vec2, Vec2)>& skin, Vec2 from) { return at_height(v, static_cast<float>(skin(plan_of(v), from))); }
  std::uint32_t at_height(Triangulation::Vertex_handle v, float z) {
    const auto key = std::pair(&*v, z);
    const auto [it, fresh] = made_.try_emplace(key, static_cast<std::uint32_t>(mesh_.points.size()));
    if (fresh) mesh_.points.push_back({static_cast<float>(v->point().x()), static_cast<float>(v->point().y()), z});
    return it->second;
  }
  void add(std::uint32_t a, std::uint32_t b, std::uint32_t c, MeshFace face) {
    if (a == b || b == c || c == a) return;
    mesh_.triangles.push_back({a, b, c});
    mesh_.faces.push_back(face);
  }

  /// The walls on the edge opposite to vertex k of a face that is inside.
  void walls(Triangulation::Finite_faces_iterator f, int k, Vec2 from) {
    const auto other = f->neighbor(k);
    const auto a = f->vertex(Triangulation::ccw(k));
    const auto b = f->vertex(Triangulation::cw(k));
    const bool there = !cdt_.is_infinite(other) && other->info() == 1;
    if (!there) {
      // From the bottom to the top, seen from outside: a → b runs counter-clockwise round the inside.
      wall(a, b, height(plan_.bottom, a, from), height(plan_.top, a, from), height(plan_.bottom, b, from), height(plan_.top, b, from));
      return;
    }
    // Not only on constraints: where two of them cross, the crossing is rounded and a sliver may fall on either side.
    const Vec2 across = middle(other);
    // Where this side stands higher than the other its wall shows; each step is built once, from its higher side.
    const float ta = height(plan_.top, a, from);
    const float tb = height(plan_.top, b, from);
    const float oa = height(plan_.top, a, across);
    const float ob = height(plan_.top, b, across);
    if (ta + tb > oa + ob) wall(a, b, oa, ta, ob, tb);
    const float ba = height(plan_.bottom, a, from);
    const float bb = height(plan_.bottom, b, from);
    const float qa = height(plan_.bottom, a, across);
    const float qb = height(plan_.bottom, b, across);
    if (ba + bb < qa + qb) wall(a, b, ba, qa, bb, qb);
  }
  [[nodiscard]] static float height(const std::function<double(Vec2, Vec2)>& skin, Triangulation::Vertex_handle v, Vec2 from) { return static_cast<float>(skin(plan_of(v), from)); }
  /// Heights at a corner between two of them, ends included: where three steps meet a wall has corners in between.
  [[nodiscard]] std::vector<std::uint32_t> chain(Triangulation::Vertex_handle v, float low, float high) {
    std::vector<std::uint32_t> out;
    for (const float z : heights_[&*v])
      if (z >= low && z <= high) out.push_back(at_height(v, z));
    return out;
  }
  void wall(Triangulation::Vertex_handle a, Triangulation::Vertex_handle b, float low_a, float high_a, float low_b, float high_b) {
    const auto left = chain(a, std::min(low_a, high_a), std::max(low_a, high_a));
    const auto right = chain(b, std::min(low_b, high_b), std::max(low_b, high_b));
    if (left.empty() || right.empty()) return;
    std::size_t i = 0;
    std::size_t j = 0;
    while (i + 1 < left.size() || j + 1 < right.size()) {
      if (j + 1 < right.size()) {
        add(left[i], right[j], right[j + 1], MeshFace::wall);
        ++j;
      } else {
        add(left[i], right[j], left[i + 1], MeshFace::wall);
        ++i;
      }
    }
  }

  const MeshPlan& plan_;
  Mesh& mesh_;
  Triangulation cdt_;
  std::map<std::pair<const void*, float>, std::uint32_t> made_;
  std::map<const void*, std::vector<float>> heights_;   // ascending
};

}  // namespace

Mesh mesh_piece(const MeshPlan& plan) {
  Mesh mesh;
  Mesher(plan, mesh).run();
  return mesh;
}

double volume(const Mesh& mesh) {
  double six = 0;
  for (const auto& t : mesh.triangles) {
    const auto& a = mesh.points[t[0]];
    const auto& b = mesh.points[t[1]];
    const auto& c = mesh.points[t[2]];
    const auto d = [](float v) { return static_cast<double>(v); };
    six += d(a[0]) * (d(b[1]) * d(c[2]) - d(b[2]) * d(c[1])) - d(a[1]) * (d(b[0]) * d(c[2]) - d(b[2]) * d(c[0])) + d(a[2]) * (d(b[0]) * d(c[1]) - d(b[1]) * d(c[0]));
  }
  return six / 6;
}

bool is_closed(const Mesh& mesh) {
  std::map<std::pair<std::uint32_t, std::uint32_t>, int> edges;
  for (const auto& t : mesh.triangles)
    for (std::size_t k = 0; k < 3; ++k) ++edges[{t[k], t[(k + 1) % 3]}];
  return std::all_of(edges.begin(), edges.end(), [&](const auto& e) {
    const auto back = edges.find({e.first.second, e.first.first});
    return back != edges.end() && back->second == e.second;
  });
}

}  // namespace wren

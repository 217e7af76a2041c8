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
using FaceBase =
    CGAL::Triangulation_face_base_with_info_2<int, Kernel, CGAL::Constrained_triangulation_face_base_2<Kernel>>;
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
    for (const Polygon& p : plan_.steps) ring(p);
    std::vector<Point> inner;
    for (const Vec2 p : plan_.inside) inner.emplace_back(p.x, p.y);
    cdt_.insert(inner.begin(), inner.end());
    std::uint32_t number = 0;
    for (auto v = cdt_.finite_vertices_begin(); v != cdt_.finite_vertices_end(); ++v) v->info() = number++;
    corners_.resize(number);
    for (auto f = cdt_.all_faces_begin(); f != cdt_.all_faces_end(); ++f)
      f->info() = cdt_.is_infinite(f) ? -1 : plan_.region(middle(f));
    // Every height at every corner first: a wall has corners wherever other steps meet it.
    for (auto f = cdt_.finite_faces_begin(); f != cdt_.finite_faces_end(); ++f) {
      if (f->info() < 0) continue;
      for (int k = 0; k < 3; ++k) {
        const auto& v = f->vertex(k);
        for (const bool up : {true, false}) {
          const float z = height(up, v, f->info());
          auto& all = corners_[v->info()];
          const auto at =
              std::lower_bound(all.begin(), all.end(), z, [](const Corner& c, float value) { return c.z < value; });
          if (at != all.end() && at->z == z) continue;
          all.insert(at, {z, static_cast<std::uint32_t>(mesh_.points.size())});
          mesh_.points.push_back({static_cast<float>(v->point().x()), static_cast<float>(v->point().y()), z});
        }
      }
    }
    for (auto f = cdt_.finite_faces_begin(); f != cdt_.finite_faces_end(); ++f) {
      if (f->info() < 0) continue;
      std::uint32_t up[3];
      std::uint32_t down[3];
      for (int k = 0; k < 3; ++k) {
        up[k] = point(f->vertex(k), height(true, f->vertex(k), f->info()));
        down[k] = point(f->vertex(k), height(false, f->vertex(k), f->info()));
      }
      add(up[0], up[1], up[2], MeshFace::top);
      add(down[2], down[1], down[0], MeshFace::bottom);
      for (int k = 0; k < 3; ++k) walls(f, k);
    }
  }

 private:
  struct Corner {
    float z;
    std::uint32_t point;
  };
  template <class Face>
  [[nodiscard]] static Vec2 middle(const Face& f) {
    Vec2 sum;
    for (int k = 0; k < 3; ++k) sum = sum + plan_of(f->vertex(k));
    return sum * (1.0 / 3);
  }
  [[nodiscard]] float height(bool up, const Triangulation::Vertex_handle& v, int region) const {
    return static_cast<float>((up ? plan_.top : plan_.bottom)(plan_of(v), region));
  }
  [[nodiscard]] std::uint32_t point(const Triangulation::Vertex_handle& v, float z) const {
    const auto& all = corners_[v->info()];
    return std::lower_bound(all.begin(), all.end(), z, [](const Corner& c, float value) { return c.z < value; })->point;
  }
  void add(std::uint32_t a, std::uint32_t b, std::uint32_t c, MeshFace face) {
    if (a == b || b == c || c == a) return;
    mesh_.triangles.push_back({a, b, c});
    mesh_.faces.push_back(face);
  }

  /// The walls on the edge opposite to vertex k of a face that holds wood. Each step is built once, from its higher
  /// side.
  void walls(Triangulation::Finite_faces_iterator f, int k) {
    const auto other = f->neighbor(k);
    if (other->info() == f->info()) return;
    const auto a = f->vertex(Triangulation::ccw(k));
    const auto b = f->vertex(Triangulation::cw(k));
    const float ta = height(true, a, f->info());
    const float tb = height(true, b, f->info());
    const float ba = height(false, a, f->info());
    const float bb = height(false, b, f->info());
    if (other->info() < 0) return wall(a, b, ba, ta, bb, tb);
    const float oa = height(true, a, other->info());
    const float ob = height(true, b, other->info());
    if (ta + tb > oa + ob) wall(a, b, oa, ta, ob, tb);
    const float qa = height(false, a, other->info());
    const float qb = height(false, b, other->info());
    if (ba + bb < qa + qb) wall(a, b, ba, qa, bb, qb);
  }
  void wall(const Triangulation::Vertex_handle& a, const Triangulation::Vertex_handle& b, float low_a, float high_a,
            float low_b, float high_b) {
    const auto chain = [&](const Triangulation::Vertex_handle& v, float low, float high) {
      std::vector<std::uint32_t> out;
      for (const Corner& c : corners_[v->info()])
        if (c.z >= std::min(low, high) && c.z <= std::max(low, high)) out.push_back(c.point);
      return out;
    };
    const auto left = chain(a, low_a, high_a);
    const auto right = chain(b, low_b, high_b);
    if (left.empty() || right.empty()) return;
    for (std::size_t j = 0; j + 1 < right.size(); ++j) add(left.front(), right[j], right[j + 1], MeshFace::wall);
    for (std::size_t i = 0; i + 1 < left.size(); ++i) add(left[i], right.back(), left[i + 1], MeshFace::wall);
  }

  const MeshPlan& plan_;
  Mesh& mesh_;
  Triangulation cdt_;
  std::vector<std::vector<Corner>> corners_;  // by vertex, ascending in z
};

}  // namespace

Polygon divided(const Polygon& polygon, double longest) {
  Polygon out;
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vec2 b = polygon[(i + 1) % polygon.size()];
    const int parts = std::max(1, static_cast<int>(distance(polygon[i], b) / longest));
    for (int k = 0; k < parts; ++k) out.push_back(lerp(polygon[i], b, static_cast<double>(k) / parts));
  }
  return out;
}

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
    six += d(a[0]) * (d(b[1]) * d(c[2]) - d(b[2]) * d(c[1])) - d(a[1]) * (d(b[0]) * d(c[2]) - d(b[2]) * d(c[0])) +
           d(a[2]) * (d(b[0]) * d(c[1]) - d(b[1]) * d(c[0]));
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

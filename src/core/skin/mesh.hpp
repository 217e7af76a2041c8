// Meshes of two-skin pieces: one constrained triangulation of the plan carries both skins, so that the mesh is closed
// by construction; walls stand where heights differ. Instrument frame, mm.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <vector>

#include "core/plan/contour.hpp"

namespace wren {

struct MeshPlan {
  Polygon outline;             // counter-clockwise
  std::vector<Polygon> steps;  // boundaries of holes and of steps in either skin; they may cross each other
  std::vector<Vec2> inside;    // further points, where the skins bend
  /// Which steps a place lies in, as the caller numbers them; negative: no wood. Asked once for each triangle's middle,
  /// so that on a step's boundary the two sides differ.
  std::function<int(Vec2 middle)> region;
  std::function<double(Vec2 at, int region)> top, bottom;
};

enum class MeshFace : std::uint8_t { top, bottom, wall };

struct Mesh {
  std::vector<std::array<float, 3>> points;
  std::vector<std::array<std::uint32_t, 3>> triangles;  // counter-clockwise seen from outside
  std::vector<MeshFace> faces;                          // one for each triangle
};

/// Edges no longer than `longest`: no triangle then spans a bent skin from one end to the other.
[[nodiscard]] Polygon divided(const Polygon& polygon, double longest);

/// Triangulated by the computational geometry library (constrained Delaunay).
[[nodiscard]] Mesh mesh_piece(const MeshPlan& plan);

/// Enclosed volume by the divergence theorem, mm³.
[[nodiscard]] double volume(const Mesh& mesh);
/// True where every edge is shared by exactly two triangles that run along it in opposite directions.
[[nodiscard]] bool is_closed(const Mesh& mesh);

}  // namespace wren

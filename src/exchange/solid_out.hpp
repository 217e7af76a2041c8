// A piece written out: STL (binary), sections as DXF, section tables. Everything else about solids (STEP) is written by
// its own program.
#pragma once

#include <string>

#include "core/instrument/neck_shape.hpp"
#include "core/skin/mesh.hpp"

namespace wren {

/// Binary STL, little-endian, mm; normals from the triangles.
[[nodiscard]] std::string stl_bytes(const Mesh& mesh, const std::string& title);

/// Sections of the neck across x as DXF (R12-level entities: POLYLINE), one layer for each ("X120"), y across, back
/// downwards. mm ($INSUNITS 4).
[[nodiscard]] std::string sections_dxf(const NeckShape& neck, const std::vector<double>& places);
/// The same as CSV: x, y, depth.
[[nodiscard]] std::string sections_csv(const NeckShape& neck, const std::vector<double>& places);
/// The neck's outline, centre line, nut line, posts and holes in plan as DXF.
[[nodiscard]] std::string plan_dxf(const NeckShape& neck);

/// Where sections are usually wanted: frets 1, 3, 5, 7, 9, 12, the heel's start and every 10 mm through the changes.
[[nodiscard]] std::vector<double> usual_places(const NeckShape& neck);

}  // namespace wren

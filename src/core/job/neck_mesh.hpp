// The neck as a mesh, for pictures and for STL: channels and holes with true walls.
#pragma once

#include "core/instrument/neck_shape.hpp"
#include "core/skin/mesh.hpp"

namespace wren {

/// `pace` is the distance between sections along the neck in mm; across, points follow the section's own bend.
[[nodiscard]] Mesh neck_mesh(const NeckShape& neck, double pace);

}  // namespace wren

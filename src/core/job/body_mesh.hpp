// The finished body as a mesh, for the picture and for export. Body frame, mm.
#pragma once

#include "core/instrument/body_shape.hpp"
#include "core/skin/mesh.hpp"

namespace wren {

/// Chambers and channels under a glued top are inside and do not show. `pace`: distance between points where the skins
/// bend.
[[nodiscard]] Mesh body_mesh(const BodyShape& body, double pace);

}  // namespace wren

// The body written out in plan: outline, cavities, covers and holes as DXF and SVG; and the router templates they
// become, with the offset that a bearing or a guide bush asks for. Body frame, mm.
#pragma once

#include <optional>
#include <string>

#include "core/instrument/body_shape.hpp"

namespace wren {

/// How a hand router follows a template. A bearing of another diameter than its cutter, or a bush about it, stands off
/// by half the difference: an outside template is smaller by that, an inside one larger (common practice).
struct RouterOffset {
  double cutter = 12.7;
  double follower = 12.7;  // diameter of bearing or bush
  [[nodiscard]] double off() const { return (follower - cutter) / 2; }
};

/// Why no template can be made for such a router; nothing where one can.
[[nodiscard]] std::optional<Problem> check_router(const RouterOffset& offset);

struct Template {
  std::string id, title;
  Contour contour;            // at the template's edge
  bool inside = false;        // the router runs inside it
  std::vector<Vec2> centres;  // drill marks that belong to it
};

/// Outline, neck pocket, pickups, control cavity, ledge, cover: each by itself. One that an offset leaves nothing of is
/// left out.
[[nodiscard]] std::vector<Template> router_templates(const BodyShape& body, const RouterOffset& offset);

[[nodiscard]] std::string body_dxf(const BodyShape& body, const RouterOffset& offset);
/// In true millimetres: width and height in mm, one user unit each.
[[nodiscard]] std::string body_svg(const BodyShape& body, const RouterOffset& offset);

}  // namespace wren

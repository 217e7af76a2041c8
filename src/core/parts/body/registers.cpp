#include "core/parts/body/registers.hpp"

#include <algorithm>

#include "core/cutting/choose.hpp"
#include "core/parts/body/ears.hpp"

namespace wren {

Polygon oversize_outline(const BodyWork& w, const BodyDesign& d) {
  Region all = offset({d.shape.corners}, w.top_oversize);
  if (w.top_register == TopRegister::ears)
    for (const Ear& e : d.ears)
      if (e.meets) all = joined(all, {ear_strip(e, 0)});
  return *widest(all);
}

const Cutter* tick_cutter(const Rack& rack) {
  const Cutter* best = nullptr;
  for (const Cutter& c : rack)
    if (c.kind == CutterKind::flat && c.effective_diameter() >= 1 &&
        (best == nullptr || c.effective_diameter() < best->effective_diameter()))
      best = &c;
  return best;
}

std::vector<RegisterMark> register_marks(const BodyWork& w, const BodyDesign& d, std::size_t k) {
  constexpr double into = 6;  // mm that a register hole goes into the layer under the top
  constexpr double tick_deep = 0.3;
  std::vector<RegisterMark> out;
  const BodyShape& s = d.shape;
  if (w.top_oversize <= 0 || s.layers.size() < 2 || k > 1) return out;
  const LayerPlace& l = s.layers[k];
  const double top = l.top + (k == 0 ? w.face_off : 0);
  if (w.top_register == TopRegister::ears) {
    // Pin holes go through the ears, which are part of the oversize top.
    if (k == 0 && w.alignment.school == School::pins)
      for (const Vec2 pin : {d.pins.first, d.pins.second})
        out.push_back({pin, pin, w.alignment.pin_diameter / 2, -1e6, 0, 0});
    return out;
  }
  if (w.top_register == TopRegister::holes) {
    const Cutter* drill = drill_in_use(d.rack, w.register_hole);
    if (drill == nullptr) return out;
    for (const HiddenPlace& p : hidden_places(s, w.register_hole / 2, into + 1))
      out.push_back({p.at, p.at, drill->radius(), k == 0 ? -1e6 : l.top - into, drill->profile(1.0),
                     k == 0 ? l.bottom - 0.3 : l.top - into});
    return out;
  }
  const Cutter* c = tick_cutter(d.rack);
  if (c == nullptr) return out;
  // Where the two lines leave the body: from just outside its outline, over the top's margin, and on over the layer's
  // waste.
  const Box2 box = bounds(s.corners);
  const double scale_x = s.setup.bridge_middle.x;
  const double clear = c->radius() + 0.3;
  const auto tick = [&](Vec2 edge, Vec2 along) {
    const double length = k == 0 ? w.top_oversize - clear - c->radius() : w.top_oversize + 12;
    const double from = k == 0 ? clear : w.top_oversize + 2;
    if (length - (k == 0 ? 0 : from) > 0.2)
      out.push_back({edge + along * from, edge + along * (k == 0 ? from + length : length), c->radius(),
                     top - tick_deep, 0, top - tick_deep});
  };
  const auto crossing = [&](Vec2 from, Vec2 along) {
    double best = -1;
    for (std::size_t i = 0; i < s.corners.size(); ++i) {
      const Vec2 a = s.corners[i] - from;
      const Vec2 b = s.corners[(i + 1) % s.corners.size()] - from;
      const double ca = cross(along, a);
      const double cb = cross(along, b);
      if ((ca > 0) == (cb > 0)) continue;
      best = std::max(best, dot(along, lerp(a, b, ca / (ca - cb))));
    }
    return from + along * best;
  };
  const Vec2 middle{scale_x, box.middle().y};
  for (const Vec2 along : {Vec2{1, 0}, Vec2{-1, 0}, Vec2{0, 1}, Vec2{0, -1}})
    tick(crossing(along.x != 0 ? Vec2{scale_x, 0} : middle, along), along);
  return out;
}

}  // namespace wren

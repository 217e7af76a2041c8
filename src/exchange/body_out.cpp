#include "exchange/body_out.hpp"

#include <algorithm>

#include "core/plan/recover.hpp"
#include "core/report/names.hpp"
#include "exchange/dxf_writer.hpp"

namespace wren {
namespace {

Contour arcs_of(const Polygon& ring) {
  RecoverOptions options;
  options.within = 0.004;
  options.edges_too = true;
  return to_contour(recover(ring, true, options).path, 0.003);
}

/// "pickup-neck" to "pickup_neck": what the layers were always called.
std::string layer_of(const Template& t) {
  std::string out = t.id;
  std::replace(out.begin(), out.end(), '-', '_');
  return out;
}

}  // namespace

std::optional<Problem> check_router(const RouterOffset& o) {
  // Hand routers' cutters and guide bushes: common practice.
  const auto fits = [](double d) { return d >= 1 && d <= 80; };
  if (fits(o.cutter) && fits(o.follower)) return {};
  return Problem{
      ProblemKind::range,
      worded("a router's cutter of {} mm with a bearing or bush of {} mm is not possible", o.cutter, o.follower),
      fits(o.cutter) ? "--follower" : "--router", "Give diameters from 1 to 80 mm"};
}

std::vector<Template> router_templates(const BodyShape& s, const RouterOffset& o) {
  std::vector<Template> out;
  const auto add = [&](std::string id, std::string title, const Polygon& ring, bool inside) {
    const double off = inside ? o.off() : -o.off();
    if (std::abs(off) < 1e-9) {
      out.push_back({std::move(id), std::move(title), arcs_of(ring), inside, {}});
      return;
    }
    const Region moved_ring = offset({ring}, off);
    if (const Polygon* w = widest(moved_ring))
      out.push_back({std::move(id), std::move(title), arcs_of(*w), inside, {}});
  };
  if (std::abs(o.off()) < 1e-9)
    out.push_back({"outline", "Body outline", s.outline, false, {}});
  else
    add("outline", "Body outline", s.corners, false);
  if (out.empty()) return out;  // an offset that leaves nothing
  for (const BodyHole& h : s.holes) out.front().centres.push_back(h.at);
  for (const Cavity& c : s.cavities) {
    if (c.id.rfind("thin", 0) == 0 || c.id.rfind("wire", 0) == 0 || c.region.empty()) continue;
    add(c.id, c.title, *widest(c.region), true);
  }
  for (const Cover& c : s.covers) add(c.id, c.title, c.outline, false);
  return out;
}

std::string body_dxf(const BodyShape& s, const RouterOffset& o) {
  Dxf dxf;
  for (const Template& t : router_templates(s, o)) dxf.contour(layer_of(t), t.contour);
  const Box2 box = bounds(s.corners);
  dxf.line("CENTRE", {box.low.x - 20, 0}, {box.high.x + 20, 0});
  const Vec2 u = s.setup.bridge_across * 60.0;
  dxf.line("SCALE", s.setup.bridge_middle - u, s.setup.bridge_middle + u);
  for (const BodyHole& h : s.holes) dxf.circle(h.from_back ? "HOLES_BACK" : "HOLES_FACE", h.at, h.diameter / 2);
  return dxf.done();
}

std::string body_svg(const BodyShape& s, const RouterOffset& o) {
  Box2 box = bounds(s.corners);
  box.add(box.low - Vec2{12, 12});
  box.add(box.high + Vec2{12, 12});
  const Vec2 size = box.size();
  std::string out = fmt::format(
      "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:.4f}mm\" height=\"{1:.4f}mm\" viewBox=\"0 0 {0:.4f} "
      "{1:.4f}\" fill=\"none\" stroke=\"black\" stroke-width=\"0.2\">\n",
      size.x, size.y);
  const auto at = [&](Vec2 p) { return Vec2{p.x - box.low.x, box.high.y - p.y}; };  // y downwards
  for (const Template& t : router_templates(s, o)) {
    std::string d;
    for (std::size_t i = 0; i < t.contour.size(); ++i) {
      const Vec2 a = at(t.contour[i].at);
      const Vec2 b = at(t.contour[(i + 1) % t.contour.size()].at);
      if (i == 0) d += fmt::format("M{:.4f} {:.4f}", a.x, a.y);
      if (t.contour[i].bulge == 0)
        d += fmt::format("L{:.4f} {:.4f}", b.x, b.y);
      else {
        const Arc arc = arc_of(t.contour[i].at, t.contour[(i + 1) % t.contour.size()].at, t.contour[i].bulge);
        d += fmt::format("A{0:.4f} {0:.4f} 0 {1} {2} {3:.4f} {4:.4f}", std::abs(arc.radius),
                         std::abs(arc.sweep) > 3.14159265 ? 1 : 0, arc.sweep > 0 ? 0 : 1, b.x, b.y);
      }
    }
    out += fmt::format("<path id=\"{}\" d=\"{}Z\"/>\n", xml_safe(t.id), d);
  }
  for (const BodyHole& h : s.holes) {
    const Vec2 c = at(h.at);
    out += fmt::format("<circle id=\"{}\" cx=\"{:.4f}\" cy=\"{:.4f}\" r=\"{:.4f}\"/>\n", xml_safe(h.id), c.x, c.y,
                       h.diameter / 2);
  }
  return out + "</svg>\n";
}

}  // namespace wren

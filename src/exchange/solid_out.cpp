#include "exchange/solid_out.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numbers>

#include <fmt/format.h>

#include "exchange/dxf_writer.hpp"

namespace wren {
namespace {

std::vector<Vec2> section(const NeckShape& n, double x) {
  std::vector<Vec2> out;
  const auto edges = crossings(n.corners, {x, 0}, {0, 1});
  if (edges.size() < 2) return out;
  const double low = edges.front();
  const double high = edges.back();
  for (int k = 0; k <= 120; ++k) {
    const double y = (low + high) / 2 - (high - low) / 2 * std::cos(std::numbers::pi * k / 120);
    out.push_back({y, n.depth({x, std::clamp(y, low + 1e-6, high - 1e-6)})});
  }
  return out;
}

}  // namespace

std::string stl_bytes(const Mesh& mesh, const std::string& title) {
  std::string out(80, ' ');
  // Readers take what begins with "solid" for the text format, whatever a project is called.
  const std::string head = ("mm: " + title).substr(0, 79);
  std::memcpy(out.data(), head.data(), head.size());
  const auto put = [&](const void* p, std::size_t n) { out.append(static_cast<const char*>(p), n); };
  const auto count = static_cast<std::uint32_t>(mesh.triangles.size());
  put(&count, 4);
  for (const auto& t : mesh.triangles) {
    const auto& a = mesh.points[t[0]];
    const auto& b = mesh.points[t[1]];
    const auto& c = mesh.points[t[2]];
    const float u[3]{b[0] - a[0], b[1] - a[1], b[2] - a[2]};
    const float v[3]{c[0] - a[0], c[1] - a[1], c[2] - a[2]};
    float n[3]{u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]};
    const float l = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
    for (float& q : n) q = l > 0 ? q / l : 0;
    put(n, 12);
    for (const auto* p : {&a, &b, &c}) put(p->data(), 12);
    const std::uint16_t none = 0;
    put(&none, 2);
  }
  return out;
}

std::vector<double> usual_places(const NeckShape& n) {
  std::vector<double> out;
  for (const int fret : {1, 3, 5, 7, 9, 12, 15})
    if (fret <= n.board->given.frets.count && n.fret_x(fret) < n.heel_x - n.heel_blend) out.push_back(n.fret_x(fret));
  for (double x = n.nut_middle.x - n.head_blend_end; x <= n.nut_middle.x - n.head_blend_start; x += 10)
    out.push_back(x);
  for (double x = n.heel_x - n.heel_blend; x <= n.heel_x; x += 10) out.push_back(x);
  out.push_back(n.end_x - 1);
  std::sort(out.begin(), out.end());
  return out;
}

std::string sections_dxf(const NeckShape& n, const std::vector<double>& places) {
  Dxf dxf;
  for (const double x : places) {
    std::vector<Vec2> points;
    for (const Vec2 p : section(n, x)) points.push_back({p.x, -p.y});
    if (points.size() > 2) dxf.polyline(fmt::format("X{:.1f}", x), points, false);
  }
  return dxf.done();
}

std::string sections_csv(const NeckShape& n, const std::vector<double>& places) {
  std::string out = "x_mm,y_mm,depth_mm\n";
  for (const double x : places)
    for (const Vec2 p : section(n, x)) out += fmt::format("{:.3f},{:.4f},{:.4f}\n", x, p.x, p.y);
  return out;
}

std::string plan_dxf(const NeckShape& n) {
  Dxf dxf;
  std::vector<Vec2> points;
  std::vector<double> bulges;
  for (const Vertex& v : n.outline) {
    points.push_back(v.at);
    bulges.push_back(v.bulge);
  }
  dxf.polyline("OUTLINE", points, true, bulges);
  dxf.line("CENTRE", {n.tip_x - 10, 0}, {n.end_x + 10, 0});
  dxf.line("NUT", n.board->nut_line.bass_edge, n.board->nut_line.treble_edge);
  for (const Hole& h : n.holes) dxf.circle(h.depth > 0 ? "PILOTS" : "HOLES", h.at, h.diameter / 2);
  for (const Channel& c : n.channels) {
    const Vec2 u = c.a == c.b ? Vec2{1, 0} : unit(c.b - c.a);
    const Vec2 s = left_of(u) * (c.width / 2);
    dxf.polyline("CHANNELS", {c.a - s, c.b - s, c.b + s, c.a + s}, true, {0, 1, 0, 1});
  }
  return dxf.done();
}

}  // namespace wren

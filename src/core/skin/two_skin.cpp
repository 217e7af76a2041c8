#include "core/skin/two_skin.hpp"

#include <algorithm>
#include <array>

namespace wren {

MassProperties mass_properties(const TwoSkin& piece, double strip) {
  // Three-point Gauss-Legendre rule, Abramowitz & Stegun table 25.4 (from memory; exact for polynomials to degree 5).
  static constexpr std::array<double, 3> node{-0.7745966692414834, 0.0, 0.7745966692414834};
  static constexpr std::array<double, 3> weight{5.0 / 9, 8.0 / 9, 5.0 / 9};
  const Polygon polygon = flatten(piece.outline, 1e-4);
  const Box2 box = bounds(polygon);
  std::vector<double> cuts{box.low.x, box.high.x};
  for (const Vec2 p : polygon) cuts.push_back(p.x);
  std::sort(cuts.begin(), cuts.end());
  double volume = 0;
  double mx = 0;
  double my = 0;
  for (std::size_t i = 0; i + 1 < cuts.size(); ++i) {
    const double wide = cuts[i + 1] - cuts[i];
    if (wide < 1e-9) continue;
    const int pieces = std::max(1, static_cast<int>(std::ceil(wide / strip)));
    for (int k = 0; k < pieces; ++k) {
      const double half = wide / pieces / 2;
      const double middle = cuts[i] + (2 * k + 1) * half;
      for (std::size_t a = 0; a < 3; ++a) {
        const double x = middle + half * node[a];
        const std::vector<double> edges = crossings(polygon, {x, 0}, {0, 1});
        for (std::size_t e = 0; e + 1 < edges.size(); e += 2) {
          const int across = std::max(1, static_cast<int>(std::ceil((edges[e + 1] - edges[e]) / strip)));
          const double hy = (edges[e + 1] - edges[e]) / across / 2;
          for (int j = 0; j < across; ++j)
            for (std::size_t b = 0; b < 3; ++b) {
              const double y = edges[e] + (2 * j + 1) * hy + hy * node[b];
              const double dv = weight[a] * weight[b] * half * hy * (piece.top({x, y}) - piece.bottom({x, y}));
              volume += dv;
              mx += dv * x;
              my += dv * y;
            }
        }
      }
    }
  }
  return {volume, volume != 0 ? Vec2{mx / volume, my / volume} : Vec2{}};
}

TwoSkin turned_about_length(const TwoSkin& piece) {
  TwoSkin out;
  // Mirroring turns the outline's sense; reading it backwards turns it again. A bulge belongs to the edge that starts
  // at its vertex, so in the reversed order it comes from the vertex before.
  const std::size_t n = piece.outline.size();
  for (std::size_t i = n; i-- > 0;) {
    const Vertex& v = piece.outline[i];
    out.outline.push_back({{v.at.x, -v.at.y}, piece.outline[(i + n - 1) % n].bulge});
  }
  out.top = [low = piece.bottom](Vec2 p) { return -low({p.x, -p.y}); };
  out.bottom = [high = piece.top](Vec2 p) { return -high({p.x, -p.y}); };
  return out;
}

}  // namespace wren

// The few entities of DXF that sections, plans and templates need.
#pragma once

#include <string>
#include <vector>

#include <fmt/format.h>

#include "core/plan/contour.hpp"
#include "core/report/names.hpp"

namespace wren {

/// Layers are named by `dxf_safe`. R12, the plainest dialect there is. mm ($INSUNITS 4).
class Dxf {
 public:
  Dxf() {
    text_ = "0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1009\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n";
  }
  void polyline(const std::string& name, const std::vector<Vec2>& points, bool closed,
                const std::vector<double>& bulges = {}) {
    const std::string layer = dxf_safe(name);
    text_ += fmt::format("0\nPOLYLINE\n8\n{}\n66\n1\n70\n{}\n10\n0\n20\n0\n30\n0\n", layer, closed ? 1 : 0);
    for (std::size_t i = 0; i < points.size(); ++i) {
      text_ += fmt::format("0\nVERTEX\n8\n{}\n10\n{:.6f}\n20\n{:.6f}\n30\n0\n", layer, points[i].x, points[i].y);
      if (i < bulges.size() && bulges[i] != 0) text_ += fmt::format("42\n{:.9f}\n", bulges[i]);
    }
    text_ += fmt::format("0\nSEQEND\n8\n{}\n", layer);
  }
  void circle(const std::string& name, Vec2 at, double r) {
    const std::string layer = dxf_safe(name);
    text_ += fmt::format("0\nCIRCLE\n8\n{}\n10\n{:.6f}\n20\n{:.6f}\n30\n0\n40\n{:.6f}\n", layer, at.x, at.y, r);
  }
  void line(const std::string& name, Vec2 a, Vec2 b) {
    const std::string layer = dxf_safe(name);
    text_ += fmt::format("0\nLINE\n8\n{}\n10\n{:.6f}\n20\n{:.6f}\n30\n0\n11\n{:.6f}\n21\n{:.6f}\n31\n0\n", layer, a.x,
                         a.y, b.x, b.y);
  }
  void contour(const std::string& name, const Contour& contour) {
    std::vector<Vec2> points;
    std::vector<double> bulges;
    for (const Vertex& v : contour) {
      points.push_back(v.at);
      bulges.push_back(v.bulge);
    }
    polyline(name, points, true, bulges);
  }
  [[nodiscard]] std::string done() { return text_ + "0\nENDSEC\n0\nEOF\n"; }

 private:
  std::string text_;
};

}  // namespace wren

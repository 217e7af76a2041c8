// CutterTip: where the machine has its cutter now, as every picture draws it.
#pragma once

#include <optional>

#include <QPainter>

#include "core/plan/geometry.hpp"

namespace wren::app {

/// `at`: of the tip, mm, in the frame of whatever picture shows it; `over_zero`: its height over the work's zero, mm.
struct CutterTip {
  Vec3 at;
  double over_zero = 0;
  friend bool operator==(const CutterTip& a, const CutterTip& b) {
    return a.at.x == b.at.x && a.at.y == b.at.y && a.at.z == b.at.z && a.over_zero == b.over_zero;
  }
};

/// A ring with four strokes at the tip's place on the screen, and its height beside it in letters of so many points.
void draw_cutter_tip(QPainter& painter, QPointF at, double over_zero, double points = 10);

}  // namespace wren::app

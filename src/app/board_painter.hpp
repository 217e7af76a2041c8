// Draws the board in plan, for the window's pictures and for paper alike. World: instrument frame in mm; `to_screen`
// maps it to the painter's units with y upwards in the picture (treble side up on a right-handed instrument).
#pragma once

#include <QPainter>

#include "app/theme.hpp"
#include "core/parts/fretboard/part.hpp"

namespace wren::app {

struct BoardInk {
  bool strings = true;
  bool numbers = true;
  bool for_paper = false;  // black on white, no fills
  double text_points = 8;
};

[[nodiscard]] QPolygonF mapped(const Polygon& polygon, const QTransform& to_screen);
[[nodiscard]] inline QPointF mapped(Vec2 p, const QTransform& t) { return t.map(QPointF(p.x, p.y)); }

void paint_board(QPainter& painter, const BoardDesign& design, const QTransform& to_screen, const BoardInk& ink);

/// The blank on the waste board with ticks, clamps and tabs; world: work frame in mm.
void paint_bed(QPainter& painter, const BoardDesign& design, const std::vector<double>& tabs,
               const QTransform& to_screen, const BoardInk& ink);

/// A measure between two points, moved sideways by `off` painter units, with its text in the middle.
void paint_measure(QPainter& painter, QPointF a, QPointF b, double off, const QString& text, const QColor& colour,
                   bool held = false);

/// Fits a world box into a rectangle, y up.
[[nodiscard]] QTransform fitted(Vec2 low, Vec2 high, const QRectF& into);

}  // namespace wren::app

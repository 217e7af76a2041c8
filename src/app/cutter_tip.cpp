#include "app/cutter_tip.hpp"

#include <QCoreApplication>
#include <QFontMetrics>

#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {

void draw_cutter_tip(QPainter& g, QPointF at, double over_zero, double points) {
  g.setPen(QPen(colours().heather, 2.5));
  g.setBrush(Qt::NoBrush);
  g.drawEllipse(at, 11, 11);
  for (const QPointF way : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
    g.drawLine(at + way * 5, at + way * 20);
  g.setFont(figure_font(points));
  g.setPen(colours().ink);
  const QString words = QCoreApplication::translate("CutterTip", "z %1").arg(decimal(over_zero, 2));
  // Beside it where there is room: near the right edge on its left.
  const int wide = QFontMetrics(g.font()).horizontalAdvance(words);
  const bool left = at.x() + 16 + wide > g.viewport().width();
  g.drawText(at + QPointF(left ? -16 - wide : 16, -14), words);
}

}  // namespace wren::app

#include "app/cutter_tip.hpp"

#include <QCoreApplication>

#include "app/theme.hpp"

namespace wren::app {

void draw_cutter_tip(QPainter& g, QPointF at, double over_zero, double points) {
  g.setPen(QPen(colours().heather, 2.5));
  g.setBrush(Qt::NoBrush);
  g.drawEllipse(at, 11, 11);
  for (const QPointF way : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
    g.drawLine(at + way * 5, at + way * 20);
  g.setFont(figure_font(points));
  g.setPen(colours().ink);
  g.drawText(at + QPointF(16, -14), QCoreApplication::translate("CutterTip", "z %1").arg(over_zero, 0, 'f', 2));
}

}  // namespace wren::app

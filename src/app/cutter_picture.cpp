#include "app/cutter_picture.hpp"

#include <QPainterPath>

#include "app/theme.hpp"

namespace wren::app {

void paint_cutter(QPainter& g, const Cutter& c, QPointF tip, double scale, bool ghost) {
  const Palette& p = colours();
  const auto at = [&](double across, double up) { return QPointF(tip.x() + across * scale, tip.y() - up * scale); };
  const double r = c.radius();
  const double flutes = std::min(c.cutting_length, c.stickout);
  // The cutting end: its profile mirrored about the axis.
  QPainterPath end;
  constexpr int pieces = 24;
  for (int k = -pieces; k <= pieces; ++k) {
    const double rho = r * std::abs(k) / pieces;
    const QPointF q = at(r * k / pieces, std::min(flutes, c.profile(std::min(rho, r))));
    k == -pieces ? end.moveTo(q) : end.lineTo(q);
  }
  end.lineTo(at(r, flutes));
  end.lineTo(at(-r, flutes));
  end.closeSubpath();
  const double shank = c.shank() / 2;
  QPainterPath above;
  above.addRect(QRectF(at(-shank, c.stickout), at(shank, flutes)));
  QPainterPath nut;
  const double n = c.nut_diameter / 2, high = c.nut_diameter * 0.55;
  nut.moveTo(at(-n * 0.8, c.stickout));
  nut.lineTo(at(n * 0.8, c.stickout));
  nut.lineTo(at(n, c.stickout + high * 0.25));
  nut.lineTo(at(n, c.stickout + high));
  nut.lineTo(at(-n, c.stickout + high));
  nut.lineTo(at(-n, c.stickout + high * 0.25));
  nut.closeSubpath();
  g.setPen(QPen(p.ink, 1.2, ghost ? Qt::DashLine : Qt::SolidLine));
  g.setBrush(ghost ? QBrush(Qt::NoBrush) : QBrush(p.hair));
  g.drawPath(nut);
  g.setBrush(ghost ? QBrush(Qt::NoBrush) : QBrush(p.paper));
  g.drawPath(above);
  g.setBrush(ghost ? QBrush(Qt::NoBrush) : QBrush(p.wood));
  g.drawPath(end);
  if (ghost || c.kind == CutterKind::facing) return;
  // Flutes as slanting lines within the cutting end, leaning the way the chips go.
  g.save();
  g.setClipPath(end);
  g.setPen(QPen(p.wood_edge, 1));
  const double lean = c.spiral == Spiral::straight ? 0 : c.spiral == Spiral::down ? -1 : 1;
  const double step = std::max(1.2, r * 1.3);
  for (double up = -2 * r; up < flutes + 2 * r; up += step) {
    const double way = c.spiral == Spiral::compression && up < flutes / 3 ? 1
                       : c.spiral == Spiral::compression                  ? -1
                                                                          : lean;
    g.drawLine(at(-r, up), at(r, up + way * 1.4 * r));
  }
  g.restore();
}

}  // namespace wren::app

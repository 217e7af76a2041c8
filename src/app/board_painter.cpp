#include "app/board_painter.hpp"

#include <QPainterPath>

#include <cmath>

namespace wren::app {

QPolygonF mapped(const Polygon& polygon, const QTransform& t) {
  QPolygonF out;
  out.reserve(static_cast<qsizetype>(polygon.size()));
  for (const Vec2 p : polygon) out << mapped(p, t);
  return out;
}

QTransform fitted(Vec2 low, Vec2 high, const QRectF& into) {
  const double k =
      std::min(into.width() / std::max(1e-6, high.x - low.x), into.height() / std::max(1e-6, high.y - low.y));
  QTransform t;
  t.translate(into.center().x(), into.center().y());
  t.scale(k, -k);
  t.translate(-(low.x + high.x) / 2, -(low.y + high.y) / 2);
  return t;
}

void paint_measure(QPainter& g, QPointF a, QPointF b, double off, const QString& text, const QColor& colour,
                   bool held) {
  const QPointF d = b - a;
  const double l = std::hypot(d.x(), d.y());
  if (l < 1) return;
  const QPointF n(-d.y() / l * off, d.x() / l * off);
  g.save();
  QPen pen(colour, held ? 2 : 1);
  g.setPen(pen);
  g.drawLine(a, a + n * 1.15);
  g.drawLine(b, b + n * 1.15);
  g.drawLine(a + n, b + n);
  const QPointF u = d / l;
  for (const auto& [at, way] : {std::pair{a + n, 1.0}, std::pair{b + n, -1.0}}) {
    const QPointF back = at + u * (way * 7);
    const QPointF s(-u.y() * 2.5, u.x() * 2.5);
    g.setBrush(colour);
    g.drawPolygon(QPolygonF{at, back + s, back - s});
  }
  const QFontMetricsF fm(g.font());
  const QRectF box = fm.boundingRect(text).adjusted(-3, -1, 3, 1);
  QPointF middle = (a + b) / 2 + n;
  if (box.width() + 16 > l && std::abs(u.x()) > 0.5) middle += QPointF(-n.x(), -n.y()) * 0 + n / std::abs(off) * 11;
  QRectF place(QPointF(0, 0), box.size());
  place.moveCenter(middle);
  g.setPen(Qt::NoPen);
  g.setBrush(colours().ground);
  if (g.device()->devType() == QInternal::Widget)
    g.drawRect(place);
  else
    g.fillRect(place, Qt::white);
  g.setPen(colour);
  g.drawText(place, Qt::AlignCenter, text);
  g.restore();
}

void paint_board(QPainter& g, const BoardDesign& d, const QTransform& t, const BoardInk& ink) {
  const Palette& p = colours();
  const Fretboard& b = d.board;
  const double scale = std::hypot(t.m11(), t.m12());
  const QColor line = ink.for_paper ? QColor(Qt::black) : p.wood_edge;
  g.save();
  g.setRenderHint(QPainter::Antialiasing);
  g.setPen(QPen(line, ink.for_paper ? 0.6 : 1.4));
  if (ink.for_paper) {
    g.setBrush(Qt::NoBrush);
  } else {
    // The crown as light falling across the board.
    QLinearGradient light(mapped({0, b.nut_line.bass_edge.y}, t), mapped({0, b.nut_line.treble_edge.y}, t));
    light.setColorAt(0, p.wood.darker(112));
    light.setColorAt(0.5, p.wood.lighter(107));
    light.setColorAt(1, p.wood.darker(112));
    g.setBrush(light);
  }
  g.drawPolygon(mapped(b.corners, t));
  for (const Mark& mark : b.marks) {
    g.setPen(QPen(line, ink.for_paper ? 0.5 : 1));
    g.setBrush(ink.for_paper ? QBrush(Qt::NoBrush) : QBrush(p.pearl));
    if (mark.radius > 0) {
      const QPointF c = mapped(mark.centre, t);
      g.drawEllipse(c, mark.radius * scale, mark.radius * scale);
    } else {
      g.drawPolygon(mapped(mark.outline, t));
    }
  }
  for (const EdgeTick& tick : b.ticks) {
    QPen pen(ink.for_paper ? line : p.pearl, std::max(1.0, tick.width * scale));
    pen.setCapStyle(Qt::RoundCap);
    g.setPen(pen);
    g.drawLine(mapped(tick.inner, t), mapped(tick.edge, t));
  }
  for (const FretLine& f : b.frets) {
    QPen pen(ink.for_paper ? QColor(Qt::black) : p.slot,
             std::max(ink.for_paper ? 0.5 : 1.2, b.given.slot.width * scale));
    pen.setCapStyle(Qt::FlatCap);
    g.setPen(pen);
    g.drawLine(mapped(f.slot_bass, t), mapped(f.slot_treble, t));
  }
  if (ink.strings) {
    for (const StringLine& s : b.strings) {
      QPen pen(ink.for_paper ? QColor(0x60, 0x60, 0x60) : p.faint, std::max(0.7, s.gauge * scale * 0.5));
      pen.setStyle(Qt::SolidLine);
      QColor c = pen.color();
      c.setAlpha(170);
      pen.setColor(c);
      g.setPen(pen);
      g.drawLine(mapped(s.nut, t), mapped(s.saddle, t));
      g.setBrush(pen.color());
      g.drawEllipse(mapped(s.saddle, t), 2, 2);
    }
    QPen centre(ink.for_paper ? QColor(Qt::black) : p.heather, 1, Qt::DashDotLine);
    g.setPen(centre);
    const double end = (b.strings.front().saddle.x + b.strings.back().saddle.x) / 2;
    g.drawLine(mapped({-12, 0}, t), mapped({end + 12, 0}, t));
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.faint, 1, Qt::DashLine));
    g.drawLine(mapped(b.strings.front().saddle, t), mapped(b.strings.back().saddle, t));
  }
  if (ink.numbers) {
    g.setFont(text_font(ink.text_points));
    g.setPen(ink.for_paper ? QColor(Qt::black) : p.faint);
    double last = -1e9;
    for (const FretLine& f : b.frets) {
      const Vec2 low = f.bass_edge.y < f.treble_edge.y ? f.bass_edge : f.treble_edge;
      const QPointF at = mapped(low, t);
      if (at.x() - last < 13) continue;
      last = at.x();
      g.drawText(QRectF(at.x() - 12, at.y() + 3, 24, 14), Qt::AlignHCenter | Qt::AlignTop, QString::number(f.number));
    }
  }
  g.restore();
}

void paint_bed(QPainter& g, const BoardDesign& d, const std::vector<double>& tabs, const QTransform& t,
               const BoardInk& ink) {
  const Palette& p = colours();
  const Setup& s = d.setup;
  const QColor line = ink.for_paper ? QColor(Qt::black) : p.ink;
  const auto rect = [&](Vec2 low, Vec2 high) { return QRectF(mapped(low, t), mapped(high, t)).normalized(); };
  g.save();
  g.setRenderHint(QPainter::Antialiasing);
  // Waste board: the work area in the work frame, with its engraved crossed lines.
  const Vec2 home{-s.zero_in_machine.x, -s.zero_in_machine.y};
  const Vec2 far = home + Vec2{s.machine.travel.x, s.machine.travel.y};
  g.setPen(QPen(ink.for_paper ? QColor(Qt::gray) : p.hair, 1));
  g.setBrush(ink.for_paper ? QBrush(Qt::NoBrush) : QBrush(p.paper));
  g.drawRect(rect(home, far));
  const Vec2 middle = (home + far) * 0.5;
  g.setPen(QPen(ink.for_paper ? QColor(Qt::gray) : p.heather, 1, Qt::DashLine));
  g.drawLine(mapped({home.x, middle.y}, t), mapped({far.x, middle.y}, t));
  g.drawLine(mapped({middle.x, home.y}, t), mapped({middle.x, far.y}, t));
  const Vec2 corner{s.blank_corner.x, s.blank_corner.y};
  QColor wood = p.wood;
  wood.setAlpha(110);
  g.setPen(QPen(line, ink.for_paper ? 0.8 : 1.4));
  g.setBrush(ink.for_paper ? QBrush(Qt::NoBrush) : QBrush(wood));
  g.drawRect(rect(corner, corner + s.blank_size));
  // The board in it: the same drawing through the set-up's transform.
  QTransform work;
  const Transform& w = s.to_work;
  if (w.quarter)
    work = QTransform(0, 1, -1, 0, w.shift.x, w.shift.y);
  else
    work = QTransform(1, 0, 0, 1, w.shift.x, w.shift.y);
  BoardInk inner = ink;
  inner.strings = false;
  inner.numbers = false;
  paint_board(g, d, work * t, inner);
  g.setPen(QPen(line, ink.for_paper ? 0.9 : 1.6));
  for (const Vec2 tick : {Vec2{0.5, 0}, Vec2{0.5, 1}, Vec2{0, 0.5}, Vec2{1, 0.5}}) {
    const Vec2 at{corner.x + tick.x * s.blank_size.x, corner.y + tick.y * s.blank_size.y};
    const Vec2 out{(tick.x - 0.5) * 2, (tick.y - 0.5) * 2};
    g.drawLine(mapped(at - out * 4, t), mapped(at + out * 6, t));
  }
  for (const auto& box : s.clamp_boxes()) {
    QColor c = ink.for_paper ? QColor(Qt::black) : p.rowan;
    g.setPen(QPen(c, 1.3));
    QColor wash = c;
    wash.setAlpha(ink.for_paper ? 0 : 38);
    g.setBrush(QBrush(wash));
    const QRectF r = rect({box.low.x, box.low.y}, {box.high.x, box.high.y});
    g.drawRect(r);
    g.setBrush(QBrush(c, Qt::BDiagPattern));
    g.drawRect(r);
  }
  if (!tabs.empty()) {
    const Contour& outline = d.board.outline;
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.lichen, ink.for_paper ? 2.5 : 5, Qt::SolidLine, Qt::RoundCap));
    for (const double at : tabs) {
      const Vec2 a = w.apply(place_along(outline, at - 3).at);
      const Vec2 b = w.apply(place_along(outline, at + 3).at);
      g.drawLine(mapped(a, t), mapped(b, t));
    }
  }
  // Work zero: a ring with a quarter filled, so that it is no other mark.
  const QPointF zero = mapped({0, 0}, t);
  g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.heather, 1.6));
  g.setBrush(ink.for_paper ? QColor(Qt::white) : p.paper);
  g.drawEllipse(zero, 6, 6);
  g.setBrush(ink.for_paper ? QColor(Qt::black) : p.heather);
  g.drawPie(QRectF(zero.x() - 6, zero.y() - 6, 12, 12), 0, 90 * 16);
  g.restore();
}

}  // namespace wren::app

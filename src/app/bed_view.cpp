#include "app/bed_view.hpp"

namespace wren::app {

void BedView::set_side(const std::string& side) {
  if (side == side_) return;
  side_ = side;
  fit();
}

const Side* BedView::side() const {
  const auto planned = bench().shown(bench().part());
  if (!planned) return nullptr;
  const Side* first = nullptr;
  for (const Piece& piece : planned->made.pieces)
    for (const Side& s : piece.sides) {
      if (s.id == side_) return &s;
      if (first == nullptr) first = &s;
    }
  return first;
}

std::pair<Vec2, Vec2> BedView::extent() const {
  const Side* s = side();
  if (s == nullptr) return {{0, 0}, {700, 1000}};
  const Vec2 c{s->setup.blank_corner.x, s->setup.blank_corner.y};
  const Vec2 room = s->setup.blank_size * 0.06 + Vec2{20, 20};
  return {c - room, c + s->setup.blank_size + room};
}

void BedView::draw(QPainter& g) {
  const Side* one = side();
  const Palette& p = colours();
  if (one == nullptr) {
    g.setFont(text_font(10));
    g.setPen(p.faint);
    g.drawText(rect(), Qt::AlignCenter,
               bench().problem(bench().part()) != nullptr
                   ? tr("Nothing follows from these numbers yet: look at the remarks.")
                   : tr("The pieces are being planned …"));
    return;
  }
  if (const std::string now = bench().part() + "/" + one->id; now != fitted_) {
    fitted_ = now;
    fit();
  }
  const Setup& s = one->setup;
  const QTransform& t = to_screen();
  const PaintSide paint = side_painter(bench().part());
  const auto planned = bench().shown(bench().part());
  g.save();
  g.setClipRect(QRectF(0, 0, width() - 216, height()));
  paint(g, bench().followed(), *planned, *one, t, false);
  g.setFont(figure_font(9));
  const Vec2 c{s.blank_corner.x, s.blank_corner.y};
  const Vec2 far = c + s.blank_size;
  double aside = 20;  // beyond whatever clamps stand there
  for (const auto& box : s.clamp_boxes())
    aside = std::max(aside, mapped({c.x, 0}, t).x() - mapped({box.low.x, 0}, t).x() + 22);
  paint_measure(g, mapped({c.x, far.y}, t), mapped({c.x + s.blank_size.x / 2, far.y}, t), -22,
                length(s.blank_size.x / 2), p.ink);
  paint_measure(g, mapped({c.x + s.blank_size.x / 2, far.y}, t), mapped(far, t), -22, length(s.blank_size.x / 2),
                p.ink);
  paint_measure(g, mapped(c, t), mapped({c.x, c.y + s.blank_size.y / 2}, t), -aside, length(s.blank_size.y / 2), p.ink);
  g.setFont(text_font(8.5));
  for (const auto& box : s.clamp_boxes()) {
    g.setPen(p.rowan);
    g.drawText(QRectF(QPointF(std::min(mapped({box.low.x, 0}, t).x() - 6, width() - 380.0),
                              mapped({0, std::min(box.low.y, c.y)}, t).y() + 10),
                      QSizeF(150, 16)),
               tr("%1, %2 high").arg(QString::fromStdString(box.name), length(box.high.z - box.low.z)));
  }
  g.restore();
  g.setFont(text_font(10, QFont::DemiBold));
  g.setPen(p.ink);
  const char* const turns[] = {QT_TR_NOOP("%1"), QT_TR_NOOP("%1, turned over about its length"),
                               QT_TR_NOOP("%1, turned over about its width")};
  g.drawText(QRectF(14, 8, width() - 240, 18),
             tr(turns[static_cast<int>(s.turn)]).arg(QString::fromStdString(one->title)));
  // The whole bed, small, at the right: where the blank lies on it.
  const QRectF room(width() - 204, 52, 180, height() - 150);
  const Vec2 home{-s.zero_in_machine.x, -s.zero_in_machine.y};
  const QTransform small = fitted(home, home + Vec2{s.machine.travel.x, s.machine.travel.y}, room);
  g.fillRect(QRectF(width() - 216, 0, 216, height()), p.ground);
  g.setPen(QPen(p.hair, 1));
  g.drawLine(width() - 216, 12, width() - 216, height() - 12);
  g.setPen(QPen(p.faint, 1));
  g.setBrush(Qt::NoBrush);
  g.drawRect(
      QRectF(mapped(home, small), mapped(home + Vec2{s.machine.travel.x, s.machine.travel.y}, small)).normalized());
  paint(g, bench().followed(), *planned, *one, small, false);
  g.setPen(QPen(p.heather, 1.4));
  const QPointF a = mapped(home, small);
  g.drawLine(a, mapped(home + Vec2{s.machine.travel.x / 2, s.machine.travel.y / 2}, small));
  g.setBrush(p.heather);
  g.drawEllipse(a, 3, 3);
  g.setFont(text_font(8.5));
  g.setPen(p.ink);
  g.drawText(QRectF(width() - 206, 16, 190, 32), Qt::TextWordWrap,
             tr("%1 × %2, home at the dot").arg(length(s.machine.travel.x), length(s.machine.travel.y)));
  QString ways;
  for (const Jog& jog : s.jogs)
    ways += tr("%1:\nx %2   y %3\n").arg(QString::fromStdString(jog.what), length(jog.x), length(jog.y));
  g.drawText(QRectF(width() - 206, height() - 92, 192, 92), Qt::TextWordWrap, ways);
}

}  // namespace wren::app

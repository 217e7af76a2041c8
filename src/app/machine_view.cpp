#include "app/machine_view.hpp"
#include "app/words.hpp"

#include <QMouseEvent>
#include <QPainter>

#include "app/theme.hpp"

namespace wren::app {

MachineView::MachineView(Workbench& bench, Shop& shop, QWidget* parent) : QWidget(parent), bench_(bench), shop_(shop) {
  setAccessibleName(tr("Machine"));
  setMouseTracking(true);
  for (const auto signal : {&Workbench::changed, &Workbench::planned_now})
    connect(&bench_, signal, this, qOverload<>(&QWidget::update));
  connect(&shop_, &Shop::changed, this, qOverload<>(&QWidget::update));
}

QRect MachineView::place_of(const std::string& key) const {
  for (const Number& n : numbers_)
    if (n.key == key) return n.box.toRect();
  return {};
}

void MachineView::number(QPainter& g, const std::string& key, QPointF at, const QString& words, Qt::Alignment align) {
  const QFontMetricsF m(g.font());
  const double wide = m.horizontalAdvance(words) + 8, tall = m.height() + 2;
  const double x = align & Qt::AlignHCenter ? at.x() - wide / 2 : align & Qt::AlignRight ? at.x() - wide : at.x();
  const QRectF box(x, at.y() - tall / 2, wide, tall);
  g.setPen(Qt::NoPen);
  g.setBrush(colours().paper);
  g.drawRoundedRect(box, 3, 3);
  g.setPen(colours().ink);
  g.drawText(box, Qt::AlignCenter, words);
  g.setPen(QPen(colours().heather, 1, Qt::DotLine));
  g.drawLine(box.bottomLeft() + QPointF(4, -1), box.bottomRight() + QPointF(-4, -1));
  numbers_.push_back({key, box});
}

void MachineView::paintEvent(QPaintEvent*) {
  QPainter g(this);
  g.setRenderHint(QPainter::Antialiasing);
  g.fillRect(rect(), colours().ground);
  numbers_.clear();
  g.setFont(text_font(9));
  const double foot = 5.2 * QFontMetricsF(g.font()).height();
  const QRectF room = QRectF(rect()).adjusted(14, 12, -14, -foot - 8);
  const double split = room.width() * 0.52;
  draw_plan(g, QRectF(room.left(), room.top(), split, room.height()));
  draw_side(g, QRectF(room.left() + split, room.top(), room.width() - split, room.height()));
  draw_words(g, QRectF(14, height() - foot, width() - 28, foot - 4));
}

void MachineView::draw_plan(QPainter& g, const QRectF& room) {
  const Machine& m = bench_.project().machine;
  const Palette& p = colours();
  const double edge = 36;
  // The longer travel lies along the wider side of the room.
  constexpr double beside = 84;  // the words beside it
  const double scale = std::min((room.width() - 2 * beside) / m.travel.x, (room.height() - 2 * edge) / m.travel.y);
  const double w = m.travel.x * scale, h = m.travel.y * scale;
  const QPointF home(room.center().x() - w / 2, room.center().y() + h / 2);
  const auto at = [&](double x, double y) { return QPointF(home.x() + x * scale, home.y() - y * scale); };
  g.setPen(QPen(p.ink, 1.5));
  g.setBrush(p.paper);
  g.drawRect(QRectF(at(0, m.travel.y), at(m.travel.x, 0)));
  // The blank of the part in work, where its first side lies.
  if (const auto planned = bench_.shown(bench_.part()); planned && !planned->made.pieces.empty()) {
    const Setup& s = planned->made.pieces.front().sides.front().setup;
    const Vec2 low{s.zero_in_machine.x + s.blank_corner.x, s.zero_in_machine.y + s.blank_corner.y};
    g.setPen(QPen(p.wood_edge, 1));
    g.setBrush(p.wood);
    const QRectF blank(at(low.x, low.y + s.blank_size.y), at(low.x + s.blank_size.x, low.y));
    g.drawRect(blank);
    g.setPen(p.ink);
    if (blank.width() > 60)
      g.drawText(blank, Qt::AlignCenter | Qt::TextWordWrap,
                 tr("blank, %1").arg(in_words(bench_.kind().title()).toLower()));
  }
  // Home as a corner with its two ways, parking as a hand's place.
  g.setPen(QPen(p.heather, 2));
  g.drawLine(at(0, 0), at(0, 0) + QPointF(26, 0));
  g.drawLine(at(0, 0), at(0, 0) + QPointF(0, -26));
  g.setBrush(p.heather);
  g.drawEllipse(at(0, 0), 4, 4);
  g.setPen(p.faint);
  g.drawText(QRectF(home.x() - 70, home.y() - 16, 60, 20), Qt::AlignRight | Qt::AlignVCenter, tr("home"));
  const QPointF park = at(m.park.x, m.park.y);
  g.setPen(QPen(p.ink, 1, Qt::DashLine));
  g.setBrush(Qt::NoBrush);
  g.drawEllipse(park, 9, 9);
  g.setPen(QPen(p.faint, 1));
  const auto span = [&](QPointF a, QPointF b) { g.drawLine(a, b); };
  span(at(0, m.travel.y) + QPointF(0, -16), at(m.travel.x, m.travel.y) + QPointF(0, -16));
  span(at(0, 0) + QPointF(-12, -22), at(0, m.travel.y) + QPointF(-12, 0));
  const auto mm = [](double v) { return QString::number(v, 'g', 6); };
  number(g, "machine.travel_x", at(m.travel.x / 2, m.travel.y) + QPointF(0, -18), tr("x %1").arg(mm(m.travel.x)),
         Qt::AlignHCenter);
  number(g, "machine.travel_y", at(0, m.travel.y / 2) + QPointF(-44, 0), tr("y %1").arg(mm(m.travel.y)),
         Qt::AlignHCenter);
  number(g, "machine.park_x", park + QPointF(0, 20), tr("parks at %1, %2").arg(mm(m.park.x), mm(m.park.y)),
         Qt::AlignHCenter);
  number(g, "machine.max_feed_x", at(m.travel.x / 2, 0) + QPointF(0, 16),
         tr("feeds to %1 and %2, z %3 mm/min").arg(mm(m.max_feed.x), mm(m.max_feed.y), mm(m.max_feed.z)),
         Qt::AlignHCenter);
}

void MachineView::draw_side(QPainter& g, const QRectF& room) {
  const Machine& m = bench_.project().machine;
  const Palette& p = colours();
  const auto mm = [](double v) { return QString::number(v, 'g', 6); };
  const double above = m.nose_above + 60;
  const double high = m.clear_under_nut + above;
  const double wide = std::max({m.nose_diameter, m.shoe_diameter, 40.0}) + 130;
  const double scale = std::min((room.height() - 40) / high, room.width() / (wide + 60));
  const double bed = room.center().y() + (high * scale) / 2;
  const double x = room.center().x();
  const auto at = [&](double across, double up) { return QPointF(x + across * scale, bed - up * scale); };
  g.setPen(QPen(p.ink, 2));
  g.drawLine(QPointF(room.left() + 20, bed), QPointF(room.right() - 4, bed));
  g.setPen(p.faint);
  g.drawText(QRectF(room.left() + 20, bed + 3, 200, 18), Qt::AlignLeft, tr("waste board"));
  const double nut = m.clear_under_nut;
  const auto block = [&](double across, double low, double up, const QColor& fill, Qt::PenStyle line = Qt::SolidLine) {
    g.setPen(QPen(p.ink, 1.2, line));
    g.setBrush(line == Qt::SolidLine ? QBrush(fill) : QBrush(Qt::NoBrush));
    g.drawRect(QRectF(at(-across / 2, up), at(across / 2, low)));
  };
  // As low as z goes: a ghost of the nut.
  block(20, nut - m.travel.z, nut - m.travel.z + 11, p.hair, Qt::DotLine);
  block(m.nose_diameter, nut + m.nose_above, nut + above, p.paper);
  block(20, nut, nut + m.nose_above, p.hair);
  if (m.shoe_diameter > 0) block(m.shoe_diameter, nut + m.shoe_above, nut + m.shoe_above + 12, p.heather_soft);
  if (const auto planned = bench_.shown(bench_.part()); planned && !planned->made.pieces.empty()) {
    const Setup& s = planned->made.pieces.front().sides.front().setup;
    g.setPen(QPen(p.wood_edge, 1));
    g.setBrush(p.wood);
    g.drawRect(QRectF(at(-55, s.blank.thickness), at(-8, 0)));
  }
  g.setPen(QPen(p.faint, 1));
  const double left = -wide / 2 + 6;
  g.drawLine(at(left, 0), at(left, nut));
  g.drawLine(at(left - 4, nut), at(-10, nut));
  g.drawLine(at(left + 26, nut), at(left + 26, nut - m.travel.z));
  number(g, "machine.clear_under_nut", at(left, nut / 2), tr("%1 under the nut").arg(mm(m.clear_under_nut)),
         Qt::AlignHCenter);
  number(g, "machine.travel_z", at(left + 26, nut - m.travel.z * 0.86), tr("z %1").arg(mm(m.travel.z)),
         Qt::AlignHCenter);
  number(g, "machine.nose_diameter", at(0, nut + above - 14), tr("nose ⌀ %1").arg(mm(m.nose_diameter)),
         Qt::AlignHCenter);
  number(g, "machine.nose_above", at(14, nut + m.nose_above / 2), tr("%1 up to the nose").arg(mm(m.nose_above)),
         Qt::AlignLeft);
  number(
      g, "machine.shoe_diameter", at(14, nut - 14),
      m.shoe_diameter > 0 ? tr("dust shoe ⌀ %1, %2 up").arg(mm(m.shoe_diameter), mm(m.shoe_above)) : tr("no dust shoe"),
      Qt::AlignLeft);
  number(g, "machine.spindle_low", at(0, nut + above + 0) + QPointF(0, -14),
         tr("%1 to %2 a minute, %3 W").arg(mm(m.spindle_low), mm(m.spindle_high), mm(m.spindle_power)),
         Qt::AlignHCenter);
}

void MachineView::draw_words(QPainter& g, const QRectF& room) {
  const Machine& m = bench_.project().machine;
  g.setPen(colours().ink);
  QStringList knows;
  if (m.controller.machine_moves) knows << QStringLiteral("G53");
  if (m.controller.tool_lengths) knows << QStringLiteral("G43");
  if (m.controller.exact_path) knows << QStringLiteral("G61");
  if (m.controller.blend_tolerance) knows << QStringLiteral("G64 P");
  if (m.controller.arcs) knows << QStringLiteral("G2, G3");
  if (m.controller.cycles) knows << QStringLiteral("G73, G81\u2013G83");
  if (m.controller.air) knows << QStringLiteral("M7, M8");
  QString words = tr("%1. Its controller knows %2 and counts waits in %7; cutters are changed %3. Off by hand at most: "
                     "z %4, x and y %5, a "
                     "blank's thickness "
                     "%6 mm. Numbers here are this project's; press one to change it.")
                      .arg(QString::fromStdString(m.name),
                           knows.isEmpty() ? tr("the plain words only") : knows.join(QStringLiteral(", ")),
                           m.change == CutterChange::by_hand ? tr("by hand") : tr("by a magazine"))
                      .arg(m.probe_error)
                      .arg(m.zero_error)
                      .arg(m.thickness_error)
                      .arg(m.controller.dwell == DwellUnit::seconds ? tr("seconds") : tr("milliseconds"));
  for (const auto& e : shop_.machines())
    if (e.thing.machine.name == m.name)
      words +=
          e.thing.machine == m ? tr(" The shop's book has the same.") : tr(" The shop's book has other numbers of it.");
  g.drawText(room, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words);
}

void MachineView::mousePressEvent(QMouseEvent* event) {
  for (const Number& n : numbers_)
    if (n.box.contains(event->position())) return Q_EMIT number_chosen(QString::fromStdString(n.key));
}

void MachineView::mouseMoveEvent(QMouseEvent* event) {
  bool over = false;
  for (const Number& n : numbers_) over = over || n.box.contains(event->position());
  setCursor(over ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

}  // namespace wren::app

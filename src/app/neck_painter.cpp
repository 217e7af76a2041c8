#include "app/neck_painter.hpp"

#include "app/body_painter.hpp"

#include <QPainterPath>

#include <algorithm>

#include "core/instrument/headstock.hpp"
#include "core/plan/region.hpp"

namespace wren::app {
namespace {

QPainterPath channel_path(const Channel& c, const QTransform& t) {
  QPainterPath path;
  const double k = std::hypot(t.m11(), t.m12());
  const QPointF a = mapped(c.a, t);
  const QPointF b = mapped(c.b, t);
  QPainterPath line(a);
  line.lineTo(b == a ? a + QPointF(0.01, 0) : b);
  QPainterPathStroker stroker;
  stroker.setWidth(std::max(1.0, c.width * k));
  stroker.setCapStyle(Qt::RoundCap);
  return stroker.createStroke(line);
}

}  // namespace

void paint_neck(QPainter& g, const NeckDesign& d, const QTransform& t, const BoardInk& ink) {
  const Palette& p = colours();
  const NeckShape& n = d.shape;
  const double k = std::hypot(t.m11(), t.m12());
  const QColor line = ink.for_paper ? QColor(Qt::black) : p.wood_edge;
  g.save();
  g.setRenderHint(QPainter::Antialiasing);
  g.setPen(QPen(line, ink.for_paper ? 0.7 : 1.4));
  if (ink.for_paper) {
    g.setBrush(Qt::NoBrush);
  } else {
    QLinearGradient light(mapped({0, -28}, t), mapped({0, 28}, t));
    light.setColorAt(0, p.wood.darker(110));
    light.setColorAt(0.5, p.wood.lighter(108));
    light.setColorAt(1, p.wood.darker(110));
    g.setBrush(light);
  }
  g.drawPolygon(mapped(n.corners, t));
  if (!ink.for_paper && !d.bands.empty()) {
    QPainterPath inside;
    inside.addPolygon(mapped(n.corners, t));
    g.save();
    g.setClipPath(inside);
    for (const StripBand& band : d.bands) paint_band(g, band, mapped(band.plan, t));
    g.restore();
    g.setBrush(Qt::NoBrush);
    g.setPen(QPen(p.wood_edge, 1.4));
    g.drawPolygon(mapped(n.corners, t));
  }
  // Joints of a blank of strips run along it.
  if (!d.joints.empty()) {
    QPainterPath inside;
    inside.addPolygon(mapped(n.corners, t));
    g.save();
    g.setClipPath(inside);
    g.setPen(QPen(ink.for_paper ? QColor(0x60, 0x60, 0x60) : p.wood_edge, 1));
    for (const Joint& j : d.joints) g.drawLine(mapped(j.at - j.along * 2000, t), mapped(j.at + j.along * 2000, t));
    g.restore();
  }
  // The board's edge lies on it; frets as faint lines, so that places are found.
  g.setPen(QPen(ink.for_paper ? QColor(0x90, 0x90, 0x90) : p.hair.darker(115), 0.8));
  for (const FretLine& f : n.board->frets) g.drawLine(mapped(f.bass_edge, t), mapped(f.treble_edge, t));
  g.setPen(QPen(line, 1.2));
  g.drawLine(mapped(n.board->nut_line.bass_edge, t), mapped(n.board->nut_line.treble_edge, t));
  for (const Channel& c : n.channels) {
    QPen pen(ink.for_paper ? QColor(Qt::black) : p.slot, ink.for_paper ? 0.5 : 1.1,
             c.from_back ? Qt::DashLine : Qt::SolidLine);
    g.setPen(pen);
    QColor fill = p.slot;
    fill.setAlpha(ink.for_paper ? 0 : c.id.rfind("bar", 0) == 0 ? 150 : 70);
    g.setBrush(fill);
    g.drawPath(channel_path(c, t));
  }
  for (const Tuner& tuner : n.tuners) {
    g.setPen(QPen(ink.for_paper ? QColor(0x70, 0x70, 0x70) : p.faint, 0.9, Qt::DashLine));
    g.setBrush(Qt::NoBrush);
    g.drawPolygon(mapped(tuner.body, t));
    g.setPen(QPen(ink.for_paper ? QColor(0x50, 0x50, 0x50) : p.faint, 1));
    g.drawEllipse(mapped(tuner.at, t), n.given.tuner.post / 2 * k, n.given.tuner.post / 2 * k);
  }
  for (const Hole& h : n.holes) {
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.slot, 1.1));
    g.setBrush(ink.for_paper || !h.through() ? QBrush(Qt::NoBrush) : QBrush(p.ground));
    g.drawEllipse(mapped(h.at, t), std::max(1.2, h.diameter / 2 * k), std::max(1.2, h.diameter / 2 * k));
  }
  if (ink.strings) {
    for (const Tuner& tuner : n.tuners) {
      const StringLine& s = n.board->strings[static_cast<std::size_t>(tuner.string - 1)];
      QColor c = ink.for_paper ? QColor(0x60, 0x60, 0x60) : p.ink;
      c.setAlpha(150);
      g.setPen(QPen(c, std::max(0.8, s.gauge * k * 0.5)));
      g.drawLine(mapped(post_contact(n, tuner), t),
                 mapped(lerp(s.nut, s.saddle, std::min(1.0, (n.end_x + 30) / std::max(1.0, s.saddle.x))), t));
    }
    if (n.given.head.string_bar) {
      const Vec2 m = n.nut_middle + n.head_way * n.given.head.string_bar_at;
      const Vec2 u = left_of(n.head_way) * (n.board->nut_line.width() / 2);
      g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.ink, 3, Qt::SolidLine, Qt::RoundCap));
      g.drawLine(mapped(m - u, t), mapped(m + u, t));
    }
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.heather, 1, Qt::DashDotLine));
    g.drawLine(mapped({n.tip_x - 12, 0}, t), mapped({n.end_x + 12, 0}, t));
  }
  g.restore();
}

void paint_neck_bed(QPainter& g, const NeckDesign& d, const AlignmentNumbers& alignment, const std::vector<Vec2>& tabs,
                    const Setup& s, const QTransform& t, const BoardInk& ink) {
  const Palette& p = colours();
  const QColor line = ink.for_paper ? QColor(Qt::black) : p.ink;
  const auto rect = [&](Vec2 low, Vec2 high) { return QRectF(mapped(low, t), mapped(high, t)).normalized(); };
  const auto work = [&](Vec2 instrument) { return s.to_work.apply(turned(s.turn, instrument)); };
  const auto all = [&](const Polygon& polygon) {
    QPolygonF out;
    for (const Vec2 q : polygon) out << mapped(work(q), t);
    return out;
  };
  g.save();
  g.setRenderHint(QPainter::Antialiasing);
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
  // Trough and neck: the trough's outer edge by long dashes.
  g.setPen(QPen(ink.for_paper ? QColor(Qt::gray) : p.faint, 0.9, Qt::DashLine));
  g.setBrush(Qt::NoBrush);
  for (const Polygon& o : offset({d.cut_outline}, d.trough)) g.drawPolygon(all(o));
  g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.wood_edge, ink.for_paper ? 0.8 : 1.5));
  if (!ink.for_paper) g.setBrush(p.wood);
  g.drawPolygon(all(d.cut_outline));
  // What this side shows: channels from the front, or holes from the back.
  const bool back = s.turn != Turn::none;
  const double k = std::hypot(t.m11(), t.m12());
  g.setBrush(Qt::NoBrush);
  for (const Channel& c : d.shape.channels) {
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.slot, 1, c.from_back == back ? Qt::SolidLine : Qt::DotLine));
    const Vec2 u = c.a == c.b ? Vec2{1, 0} : unit(c.b - c.a);
    const Vec2 v = left_of(u) * (c.width / 2);
    g.drawPolygon(all({c.a - v - u * (c.width / 2), c.b - v + u * (c.width / 2), c.b + v + u * (c.width / 2),
                       c.a + v - u * (c.width / 2)}));
  }
  for (const Hole& h : d.shape.holes)
    if (back || h.through()) {
      g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.slot, 1));
      g.drawEllipse(mapped(work(h.at), t), std::max(1.0, h.diameter / 2 * k), std::max(1.0, h.diameter / 2 * k));
    }
  if (alignment.school == School::pins) {
    for (const BedHole& h : s.bed_holes) {
      g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.faint, 1, Qt::DotLine));
      g.setBrush(Qt::NoBrush);
      g.drawEllipse(mapped(h.at, t), std::max(3.0, h.radius * k), std::max(3.0, h.radius * k));
    }
    int number = 0;
    for (const Vec2 pin : {d.pins.first, d.pins.second}) {
      const QPointF at = mapped(work(pin), t);
      g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.heather, 1.8));
      g.setBrush(ink.for_paper ? QBrush(Qt::white) : QBrush(p.paper));
      const double r = std::max(4.0, alignment.pin_diameter / 2 * k);
      g.drawEllipse(at, r, r);
      g.drawLine(at - QPointF(r, 0), at + QPointF(r, 0));
      g.drawLine(at - QPointF(0, r), at + QPointF(0, r));
      QFont font = text_font(8.5, QFont::DemiBold);
      if (ink.for_paper) font.setPixelSize(9);  // a printer's points are another size than the drawing's
      g.setFont(font);
      g.drawText(QRectF(at.x() - 20, at.y() - r - 16, 40, 14), Qt::AlignCenter, QString::number(++number));
    }
  } else if (alignment.school == School::ticks) {
    g.setPen(QPen(line, ink.for_paper ? 0.9 : 1.6));
    for (const Vec2 tick : {Vec2{0.5, 0}, Vec2{0.5, 1}, Vec2{0, 0.5}, Vec2{1, 0.5}}) {
      const Vec2 at{corner.x + tick.x * s.blank_size.x, corner.y + tick.y * s.blank_size.y};
      const Vec2 out{(tick.x - 0.5) * 2, (tick.y - 0.5) * 2};
      g.drawLine(mapped(at - out * 4, t), mapped(at + out * 6, t));
    }
  } else {
    g.setPen(QPen(line, 5, Qt::SolidLine, Qt::FlatCap));
    g.drawLine(mapped(corner + Vec2{-3, -6}, t), mapped(corner + Vec2{-3, s.blank_size.y * 0.7}, t));
    g.drawLine(mapped(corner + Vec2{-6, -3}, t), mapped(corner + Vec2{s.blank_size.x * 0.7, -3}, t));
  }
  for (const auto& box : s.clamp_boxes()) {
    const QColor c = ink.for_paper ? QColor(Qt::black) : p.rowan;
    g.setPen(QPen(c, 1.3));
    g.setBrush(QBrush(c, Qt::BDiagPattern));
    g.drawRect(rect({box.low.x, box.low.y}, {box.high.x, box.high.y}));
  }
  if (back) {
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.lichen, ink.for_paper ? 2.5 : 6, Qt::SolidLine, Qt::RoundCap));
    for (const Vec2 tab : tabs) g.drawPoint(mapped(work(tab), t));
  }
  // Which way it was turned: a bent arrow across the axis.
  if (back) {
    const bool length_axis = s.turn == Turn::about_length;
    const Vec2 end = work(length_axis ? Vec2{d.shape.end_x + 8, 0} : Vec2{(d.shape.tip_x + d.shape.end_x) / 2, 0});
    const QPointF at = mapped(end, t);
    const bool upright = (s.blank.lie == Lie::along_x) == length_axis;
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.heather, 1.6));
    g.setBrush(Qt::NoBrush);
    const QRectF arc = upright ? QRectF(at.x() - 7, at.y() - 18, 14, 36) : QRectF(at.x() - 18, at.y() - 7, 36, 14);
    g.drawArc(arc, upright ? -80 * 16 : 10 * 16, 240 * 16);
    const QPointF tip = upright ? QPointF(at.x() + 2, at.y() + 17) : QPointF(at.x() + 17, at.y() - 2);
    g.setBrush(ink.for_paper ? QColor(Qt::black) : p.heather);
    g.drawPolygon(QPolygonF{tip + QPointF(-4, -4), tip + QPointF(5, 0), tip + QPointF(-4, 4)});
  }
  const QPointF zero = mapped({0, 0}, t);
  g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.heather, 1.6));
  g.setBrush(ink.for_paper ? QColor(Qt::white) : p.paper);
  g.drawEllipse(zero, 6, 6);
  g.setBrush(ink.for_paper ? QColor(Qt::black) : p.heather);
  g.drawPie(QRectF(zero.x() - 6, zero.y() - 6, 12, 12), 0, 90 * 16);
  g.restore();
}

void paint_section(QPainter& g, const NeckDesign& d, double x, const QTransform& t, const BoardInk& ink) {
  const Palette& p = colours();
  const NeckShape& n = d.shape;
  const auto edges = crossings(n.corners, {x, 0}, {0, 1});
  if (edges.size() < 2) return;
  const double low = edges.front();
  const double high = edges.back();
  // Places across: closer together towards the edges, and on both sides of every wall.
  std::vector<double> places;
  constexpr int count = 160;
  for (int i = 0; i <= count; ++i) places.push_back((low + high) / 2 - (high - low) / 2 * std::cos(M_PI * i / count));
  const auto wall = [&](double y) {
    for (const double side : {-1e-4, 1e-4}) places.push_back(y + side);
  };
  for (const Channel& c : n.channels) {
    const double along = std::clamp(x, std::min(c.a.x, c.b.x), std::max(c.a.x, c.b.x));
    const double beyond = std::abs(x - along);
    if (c.id == "nut" || beyond > c.width / 2) continue;
    const double middle = c.a.y + (c.b.y - c.a.y) * (along - c.a.x) / std::max(1e-9, c.b.x - c.a.x);
    const double half = std::sqrt(c.width * c.width / 4 - beyond * beyond);
    wall(middle - half);
    wall(middle + half);
  }
  for (const Hole& h : n.holes)
    if (const double beyond = std::abs(x - h.at.x); beyond < h.diameter / 2) {
      const double half = std::sqrt(h.diameter * h.diameter / 4 - beyond * beyond);
      wall(h.at.y - half);
      wall(h.at.y + half);
    }
  std::sort(places.begin(), places.end());
  QPolygonF neck;
  const auto skin = [&](double y, bool back) {
    const Vec2 at{x, std::clamp(y, low + 1e-6, high - 1e-6)};
    const double below = -std::max(n.finished_depth(at), -100.0);
    return mapped({y, back ? std::min(below, n.front(at))
                           : std::clamp(n.finished_front(at), std::min(below, n.front(at)), n.front(at))},
                  t);
  };
  for (const double y : places) neck << skin(y, true);
  for (auto it = places.rbegin(); it != places.rend(); ++it) neck << skin(*it, false);
  g.save();
  g.setRenderHint(QPainter::Antialiasing);
  g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.wood_edge, ink.for_paper ? 0.6 : 1.5));
  g.setBrush(ink.for_paper ? QBrush(Qt::NoBrush) : QBrush(p.wood));
  g.drawPolygon(neck);
  if (n.given.build == NeckBuild::separate_board && contains(n.board->corners, {x, 0})) {
    QPolygonF board;
    for (int i = 0; i <= 60; ++i) {
      const double y = low + (high - low) * i / 60;
      board << mapped({y, n.board->crown_height({x, y})}, t);
    }
    board << mapped({high, 0}, t) << mapped({low, 0}, t);
    g.setPen(QPen(ink.for_paper ? QColor(Qt::gray) : p.faint, 1.1, Qt::DashLine));
    g.setBrush(Qt::NoBrush);
    g.drawPolygon(board);
  }
  for (const Channel& c : n.channels) {
    if (c.id.rfind("bar", 0) != 0 || x < c.a.x || x > c.b.x) continue;
    const double y = c.a.y + (c.b.y - c.a.y) * (x - c.a.x) / std::max(1e-9, c.b.x - c.a.x);
    g.setPen(QPen(ink.for_paper ? QColor(Qt::black) : p.slot, 1));
    g.setBrush(ink.for_paper ? QBrush(Qt::Dense5Pattern) : QBrush(p.slot));
    const double floor = c.floor({x, y});
    g.drawRect(QRectF(mapped({y - c.width / 2, floor + n.given.rod.bar_depth}, t), mapped({y + c.width / 2, floor}, t))
                   .normalized());
  }
  g.restore();
}

}  // namespace wren::app

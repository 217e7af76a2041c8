#include "app/bed_view.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include <QGuiApplication>
#include <QKeyEvent>

#include "app/words.hpp"

namespace wren::app {
namespace {

/// The part's outline dragged over its blank; its joints and edges stay.
class SlidePart : public Gesture {
 public:
  SlidePart(BedView& view, QPointF at) : view_(view), from_(view.world(at)) {}
  void move(FlatView&, QPointF at) override {
    by_ = view_.world(at) - from_;
    view_.show_slide(by_);
  }
  void release(FlatView&) override {
    view_.show_slide({});
    if (length(by_) > 0.05) view_.take_slide(by_);
  }
  void cancel(FlatView&) override { view_.show_slide({}); }

 private:
  BedView& view_;
  Vec2 from_;
  Vec2 by_;
};

/// The same, turned about the blank's middle over the strips that it is glued of.
class TurnPart : public Gesture {
 public:
  TurnPart(BedView& view, QPointF at) : view_(view), from_(view.seen_at(view.world(at))) {}
  void move(FlatView&, QPointF at) override {
    by_ = std::remainder(view_.seen_at(view_.world(at)) - from_, 2 * std::numbers::pi);
    view_.show_turn(by_);
  }
  void release(FlatView&) override {
    view_.show_turn({});
    view_.take_turn(by_);
  }
  void cancel(FlatView&) override { view_.show_turn({}); }

 private:
  BedView& view_;
  double from_;
  double by_ = 0;
};

}  // namespace

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

Polygon BedView::sliding() const {
  const Side* s = side();
  const auto over = slide_over(bench().part(), bench().followed());
  Polygon out;
  if (s == nullptr || !over) return out;
  for (const Vec2 q : over->outline) out.push_back(s->setup.to_work.apply(turned(s->setup.turn, q)));
  return out;
}

std::vector<std::pair<std::string, double>> BedView::slid(Vec2 by) const {
  std::vector<std::pair<std::string, double>> out;
  const Side* s = side();
  const auto over = slide_over(bench().part(), bench().followed());
  if (s == nullptr || !over) return out;
  const auto back = [s](Vec2 work) { return turned(s->setup.turn, s->setup.to_work.back(work)); };
  const Vec2 way = back(by) - back({0, 0});
  for (const auto& [key, more] : {std::pair{over->along, way.x}, {over->across, way.y * over->treble}}) {
    const std::optional<Field> field = key.empty() ? std::nullopt : bench().parts().book().find(bench().project(), key);
    if (!field) continue;
    const double now = std::get<double>(field->get(bench().project()));
    const double then = std::clamp(std::round((now + more) * 10) / 10, field->low, field->high);
    if (std::abs(then - now) > 1e-9) out.emplace_back(key, then);
  }
  return out;
}

void BedView::show_slide(std::optional<Vec2> by) {
  slide_ = by;
  update();
}

void BedView::take_slide(Vec2 by) {
  std::vector<std::pair<std::string, std::string>> edits;
  for (const auto& [key, value] : slid(by)) edits.emplace_back(key, format_mm(value, 1));
  if (edits.empty()) return;
  if (const auto bad = bench().edit(edits, "slide over the blank", {}, true))
    Q_EMIT bench().said(in_words(*bad, bench().units()), true);
}

Vec2 BedView::blank_middle() const {
  const Setup& s = side()->setup;
  return Vec2{s.blank_corner.x, s.blank_corner.y} + s.blank_size * 0.5;
}

double BedView::seen_at(Vec2 work) const {
  const Vec2 way = work - blank_middle();
  return std::atan2(way.y, way.x);
}

std::optional<std::pair<std::string, double>> BedView::turned_by(double by) const {
  const Side* s = side();
  const auto over = slide_over(bench().part(), bench().followed());
  if (s == nullptr || !over || over->turn.empty()) return {};
  const auto field = bench().parts().book().find(bench().project(), over->turn);
  if (!field) return {};
  const double now = std::get<double>(field->get(bench().project()));
  const double more = by * (180 / std::numbers::pi) * (s->setup.turn == Turn::none ? 1 : -1) * over->treble;
  return std::pair{over->turn, std::clamp(std::round((now + more) * 10) / 10, field->low, field->high)};
}

void BedView::show_turn(std::optional<double> by) {
  turn_ = by;
  update();
}

void BedView::take_turn(double by) {
  const auto edit = turned_by(by);
  if (!edit) return;
  if (const auto bad = bench().edit({{edit->first, format_mm(edit->second, 1)}}, "turn over the blank", {}, true))
    Q_EMIT bench().said(in_words(*bad, bench().units()), true);
}

std::unique_ptr<Gesture> BedView::gesture_at(QPointF at) {
  const Polygon part = sliding();
  if (part.empty() || !contains(part, world(at))) return nullptr;
  if (QGuiApplication::keyboardModifiers().testFlag(Qt::ShiftModifier) && turned_by(0))
    return std::make_unique<TurnPart>(*this, at);
  return std::make_unique<SlidePart>(*this, at);
}

void BedView::hover(QPointF at) {
  const Polygon part = sliding();
  const bool over = !part.empty() && contains(part, world(at));
  setCursor(over ? Qt::OpenHandCursor : Qt::ArrowCursor);
  setToolTip(!over ? QString()
             : turned_by(0)
                 ? tr("Drag: slide over the blank; with Shift: turn over its strips. Alt with an arrow: by 1 "
                      "mm; Alt with page up or down: by half a degree.")
                 : tr("Drag: slide over the blank. Alt with an arrow: by 1 mm."));
}

void BedView::keyPressEvent(QKeyEvent* event) {
  const bool slides = (event->modifiers() & Qt::AltModifier) != 0 && !sliding().empty();
  switch (slides ? event->key() : 0) {
    case Qt::Key_Left: take_slide({-1, 0}); return;
    case Qt::Key_Right: take_slide({1, 0}); return;
    case Qt::Key_Up: take_slide({0, 1}); return;
    case Qt::Key_Down: take_slide({0, -1}); return;
    case Qt::Key_PageUp: take_turn(std::numbers::pi / 360); return;
    case Qt::Key_PageDown: take_turn(-std::numbers::pi / 360); return;
    default: FlatView::keyPressEvent(event);
  }
}

/// What finds this side's wood may miss what was cut before: a ring where it shows most, on the part's edge.
void BedView::paint_miss(QPainter& g, const Setup& s, const QTransform& t) {
  const Polygon part = sliding();
  if (s.found_by.kind == RegisterKind::first || part.empty()) return;
  const Vec2 middle = Vec2{s.blank_corner.x, s.blank_corner.y} + s.blank_size * 0.5;
  const Vec2 at = *std::max_element(part.begin(), part.end(),
                                    [&](Vec2 a, Vec2 b) { return distance(a, middle) < distance(b, middle); });
  const double worst = s.found_by.worst_at(at - middle);
  if (worst < 0.005) return;
  g.setPen(QPen(colours().gorse.darker(115), 1.6));
  g.setBrush(Qt::NoBrush);
  const QPointF where = mapped(at, t);
  g.drawEllipse(where, 7, 7);
  g.setFont(text_font(8.5));
  g.setPen(colours().ink);
  const bool left = where.x() < width() / 2.0;
  const QRectF room(where + QPointF(left ? 12 : -212, -9), QSizeF(200, 18));
  QColor paper = colours().paper;
  paper.setAlpha(200);
  g.fillRect(room, paper);
  g.drawText(room, Qt::AlignCenter,
             tr("may miss by %1, at worst %2").arg(length(likely_register * worst), length(worst)));
}

void BedView::draw(QPainter& g) {
  const Side* one = side();
  const Palette& p = colours();
  if (one == nullptr) {
    g.setFont(text_font(10));
    g.setPen(p.faint);
    g.drawText(rect().adjusted(30, 30, -30, -30), Qt::AlignCenter | Qt::TextWordWrap,
               bench().problem(bench().part()) != nullptr ? bench().words(*bench().problem(bench().part()))
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
  if (far_) return paint(g, bench().followed(), *planned, *one, t, false);
  g.save();
  g.setClipRect(QRectF(0, 0, width() - 216, height()));
  paint(g, bench().followed(), *planned, *one, t, false);
  g.setFont(figure_font(9));
  paint_miss(g, s, t);
  if (slide_ || turn_) {
    QPolygonF ghost;
    const Vec2 middle = blank_middle();
    const Vec2 way{std::cos(turn_.value_or(0)), std::sin(turn_.value_or(0))};
    for (const Vec2 q : sliding()) {
      const Vec2 o = q - middle;
      ghost << mapped(middle + way * o.x + left_of(way) * o.y + slide_.value_or(Vec2{}), t);
    }
    g.setPen(QPen(p.heather, 1.6, Qt::DashLine));
    g.setBrush(Qt::NoBrush);
    g.drawPolygon(ghost);
    QString words;
    for (const auto& [key, value] : slid(slide_.value_or(Vec2{})))
      words += (words.isEmpty() ? "" : "   ") +
               (key.ends_with("along") ? tr("along %1") : tr("across %1")).arg(length(value));
    if (turn_)
      if (const auto to = turned_by(*turn_)) words = tr("turned %1°").arg(decimal(to->second, 1));
    g.setPen(p.ink);
    g.drawText(QRectF(ghost.boundingRect().topLeft() - QPointF(0, 20), QSizeF(280, 16)), words);
  }
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
  g.drawText(QRectF(14, 8, width() - 240, 60), Qt::TextWordWrap,
             tr(turns[static_cast<int>(s.turn)]).arg(in_words(one->title)));
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
  for (const Jog& jog : s.jogs) ways += tr("%1:\nx %2   y %3\n").arg(in_words(jog.what), length(jog.x), length(jog.y));
  g.drawText(QRectF(width() - 206, height() - 92, 192, 92), Qt::TextWordWrap, ways);
}

}  // namespace wren::app

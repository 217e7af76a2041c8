#include "app/views.hpp"

#include "app/designs.hpp"

#include <QKeyEvent>
#include <QPainterPath>

#include "core/cutting/outline.hpp"
#include "core/instrument/fretboard_remarks.hpp"

namespace wren::app {
namespace {

/// Dragging the board's end changes the overhang; one step however far it goes.
class DragEnd : public Gesture {
 public:
  void move(FlatView& view, QPointF at) override {
    const auto d = board_design(view.bench());
    if (!d) return;
    const double overhang = std::clamp(std::round((view.world(at).x - d->board.last_fret_x) * 4) / 4, 0.0, 100.0);
    view.bench().drag({{"board.overhang", format_mm(overhang)}}, "Drag the board's end", "drag-end");
  }
  void release(FlatView& view) override { view.bench().settle(); }
  void cancel(FlatView& view) override { view.bench().give_up(); }
};

class DragTab : public Gesture {
 public:
  DragTab(std::vector<double> places, std::size_t which) : places_(std::move(places)), which_(which) {}
  void move(FlatView& view, QPointF at) override {
    const auto d = board_design(view.bench());
    if (!d) return;
    places_[which_] = nearest_along(d->board.outline, view.world(at));
    std::string text;
    for (const double s : places_) text += (text.empty() ? "" : " ") + format_mm(s, 1);
    view.bench().drag({{"board.tab_places", text}}, "Move a tab", "drag-tab");
  }
  void release(FlatView& view) override { view.bench().settle(); }
  void cancel(FlatView& view) override { view.bench().give_up(); }

 private:
  std::vector<double> places_;
  std::size_t which_;
};

}  // namespace

std::pair<Vec2, Vec2> PlanView::extent() const {
  const auto d = board_design(bench());
  if (!d) return {{0, -50}, {500, 50}};
  const Box2 box = bounds(d->board.corners);
  return {box.low, box.high};
}

QPointF PlanView::end_handle() const {
  const auto d = board_design(bench());
  return mapped({d->board.last_fret_x + d->board.given.board.overhang, 0}, to_screen());
}

int PlanView::tab_at(QPointF at) const {
  const auto d = board_design(bench());
  const auto tabs = tabs_of(bench().shown(BoardDesign::part).get(), "top").along;
  if (!d) return -1;
  for (std::size_t i = 0; i < tabs.size(); ++i)
    if (QLineF(mapped(place_along(d->board.outline, tabs[i]).at, to_screen()), at).length() < 10)
      return static_cast<int>(i);
  return -1;
}

std::unique_ptr<Gesture> PlanView::gesture_at(QPointF at) {
  if (const int tab = tab_at(at); tab >= 0)
    return std::make_unique<DragTab>(tabs_of(bench().shown(BoardDesign::part).get(), "top").along,
                                     static_cast<std::size_t>(tab));
  if (QLineF(end_handle(), at).length() < 12) return std::make_unique<DragEnd>();
  return {};
}

void PlanView::hover(QPointF at) {
  mouse_ = at;
  const bool on_end = QLineF(end_handle(), at).length() < 12;
  setCursor(on_end ? Qt::SizeHorCursor : tab_at(at) >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
  update();
}

void PlanView::draw(QPainter& g) {
  const auto d = board_design(bench());
  const auto tabs = tabs_of(bench().shown(BoardDesign::part).get(), "top").along;
  const QTransform& t = to_screen();
  const Palette& p = colours();
  paint_board(g, *d, t, {});
  const Fretboard& b = d->board;
  g.setFont(figure_font(9));
  // Measures: widths at both ends, the whole length, the overhang (which can be dragged).
  const auto high = [&](const FretLine& f) { return f.bass_edge.y > f.treble_edge.y ? f.bass_edge : f.treble_edge; };
  const auto low = [&](const FretLine& f) { return f.bass_edge.y > f.treble_edge.y ? f.treble_edge : f.bass_edge; };
  const Box2 box = bounds(b.corners);
  paint_measure(g, mapped(low(b.nut_line), t), mapped(high(b.nut_line), t), -22, length(b.nut_line.width()), p.ink);
  paint_measure(g, mapped({box.low.x, box.high.y}, t), mapped({box.high.x, box.high.y}, t), -44, length(box.size().x),
                p.ink);
  const FretLine* twelve = nullptr;
  for (const FretLine& f : b.frets)
    if (f.number == 12) twelve = &f;
  if (twelve != nullptr)
    paint_measure(g, mapped({0, box.high.y}, t), mapped({twelve->middle().x, box.high.y}, t), -22,
                  tr("to fret 12: %1").arg(length(twelve->middle().x)), p.faint);
  const bool held = QLineF(end_handle(), mouse_).length() < 12;
  const Vec2 last = b.frets.back().middle();
  paint_measure(g, mapped({last.x, box.low.y}, t), mapped({last.x + b.given.board.overhang, box.low.y}, t), 34,
                length(b.given.board.overhang), p.heather, held);
  const QPointF handle = end_handle();
  g.setPen(QPen(p.heather, 1.6));
  g.setBrush(held ? p.heather : p.paper);
  g.drawPolygon(
      QPolygonF{handle + QPointF(-5, 0), handle + QPointF(0, -8), handle + QPointF(5, 0), handle + QPointF(0, 8)});
  if (!tabs.empty()) {
    g.setPen(QPen(p.lichen, 5, Qt::SolidLine, Qt::RoundCap));
    for (const double s : tabs) {
      const Place place = place_along(b.outline, s);
      const Vec2 out = left_of(place.along) * -2.2;
      g.drawLine(mapped(place.at + out - place.along * 3, t), mapped(place.at + out + place.along * 3, t));
    }
  }
  for (const Remark& r : bench().remarks()) {
    if (!r.at || r.weight == Weight::worth_knowing) continue;
    const QPointF at = mapped({r.at->first, r.at->second}, t);
    g.setPen(QPen(weight_colour(r.weight), 2));
    g.setBrush(Qt::NoBrush);
    g.drawEllipse(at, 11, 11);
    g.drawLine(at + QPointF(8, -8), at + QPointF(16, -16));
  }
  // What is under the mouse, in figures.
  const Vec2 w = world(mouse_);
  if (mouse_.x() >= 0 && contains(b.corners, w)) {
    const FretLine* near = nullptr;
    for (const FretLine& f : b.frets)
      if (near == nullptr ||
          distance_to(w, {f.bass_edge, f.treble_edge}) < distance_to(w, {near->bass_edge, near->treble_edge}))
        near = &f;
    g.setFont(figure_font(9));
    g.setPen(p.ink);
    QString text = tr("x %1   y %2   board %3 thick").arg(length(w.x), length(w.y), length(b.crown_height(w)));
    if (near != nullptr)
      text += tr("   fret %1: slot %2 deep, %3 wide board")
                  .arg(near->number)
                  .arg(length(b.slot_depth(near->middle())), length(near->width()));
    say_below(g, text);
  } else {
    g.setFont(text_font(8.5));
    g.setPen(p.faint);
    say_below(g, tr("Drag the diamond to move the end, a green bar to move a tab. Wheel: nearer. Double click: all."));
  }
}

SideView::SideView(Workbench& bench, QWidget* parent) : FlatView(bench, parent) {}

void SideView::set_stretch(double stretch) {
  stretch_ = std::clamp(stretch, 1.0, 40.0);
  fit();
}

std::pair<Vec2, Vec2> SideView::extent() const {
  const auto d = board_design(bench());
  if (!d) return {{0, 0}, {500, 50}};
  const Box2 box = bounds(d->board.corners);
  return {{box.low.x, 0}, {box.high.x, board_of(bench().project()).blank.thickness * stretch_}};
}

void SideView::keyPressEvent(QKeyEvent* event) {
  if (const int way = stretch_key(*event)) return set_stretch(stretch_ * (way > 0 ? 1.25 : 0.8));
  FlatView::keyPressEvent(event);
}

void SideView::set_knife(double x) {
  knife_ = x;
  update();
}

void SideView::hover(QPointF at) {
  if (at.y() < height() - 176) set_knife(world(at).x);  // below is the section: the knife stays
}

void SideView::draw(QPainter& g) {
  const auto d = board_design(bench());
  const Palette& p = colours();
  const Fretboard& b = d->board;
  const QTransform t = QTransform::fromScale(1, stretch_) * to_screen();
  const Box2 box = bounds(b.corners);
  // Blank as a ghost, the board's middle as a profile, its edge as a second line.
  const double blank = board_of(bench().project()).blank.thickness;
  g.setPen(QPen(p.faint, 1, Qt::DashLine));
  g.setBrush(Qt::NoBrush);
  g.drawRect(QRectF(mapped({box.low.x, blank}, t), mapped({box.high.x, 0}, t)));
  QPolygonF profile;
  const int n = 300;
  for (int i = 0; i <= n; ++i) {
    const double x = box.low.x + (box.high.x - box.low.x) * i / n;
    profile << mapped({x, b.crown_height({x, 0})}, t);
  }
  profile << mapped({box.high.x, 0}, t) << mapped({box.low.x, 0}, t);
  g.setPen(QPen(p.wood_edge, 1.4));
  g.setBrush(p.wood);
  g.drawPolygon(profile);
  QPainterPath edge;
  bool begun = false;
  for (int i = 1; i < n; ++i) {
    const double x = box.low.x + (box.high.x - box.low.x) * i / n;
    const auto span = crossing(b.corners, {x, 0}, {0, 1});
    if (!span) continue;
    const QPointF at = mapped({x, b.crown_height({x, span->high})}, t);
    if (begun)
      edge.lineTo(at);
    else
      edge.moveTo(at);
    begun = true;
  }
  g.setPen(QPen(p.wood_edge, 1.2, Qt::DashDotLine));
  g.setBrush(Qt::NoBrush);
  g.drawPath(edge);
  for (const FretLine& f : b.frets) {
    const Vec2 m = f.middle();
    const double half = std::max(b.given.slot.width / 2, 0.8 / std::hypot(t.m11(), t.m12()));
    g.fillRect(QRectF(mapped({m.x - half, b.crown_height(m)}, t), mapped({m.x + half, b.slot_floor(m)}, t)), p.slot);
  }
  g.setFont(figure_font(9));
  paint_measure(g, mapped({box.low.x, 0}, t), mapped({box.low.x, b.given.board.thickness}, t), -18,
                length(b.given.board.thickness), p.ink);
  paint_measure(g, mapped({box.high.x, 0}, t), mapped({box.high.x, blank}, t), 40, tr("blank %1").arg(length(blank)),
                p.faint);
  knife_ = std::clamp(knife_, box.low.x + 0.01, box.high.x - 0.01);
  g.setPen(QPen(p.heather, 1.4));
  g.drawLine(mapped({knife_, -0.6}, t), mapped({knife_, blank + 0.6}, t));
  g.setFont(text_font(8.5));
  g.setPen(p.faint);
  say_above(
      g, tr("Along the centre line, heights × %1 ([ and ] change it). Dash-dot: the board's edge. Dashed: the blank.")
             .arg(stretch_, 0, 'f', 0));
  draw_section(g, *d);
}

void SideView::onto(const Fretboard& b) const {
  const Box2 box = bounds(b.corners);
  knife_ = std::clamp(knife_, box.low.x + 0.5, box.high.x - 0.5);
}

std::optional<QTransform> SideView::section_to_screen(const Fretboard& b) const {
  onto(b);
  const auto span = crossing(b.corners, {knife_, 0}, {0, 1});
  if (!span) return {};
  const QRectF room(44, height() - 150, width() - 88, 96);
  const double stretch = 4;
  const double k =
      std::min(room.width() * 0.7 / (span->high - span->low), room.height() / (b.given.board.thickness * stretch));
  QTransform t;
  t.translate(room.center().x(), room.bottom());
  t.scale(k, -k * stretch);
  t.translate(-(span->low + span->high) / 2, 0);
  return t;
}

std::vector<PictureGround> SideView::picture_grounds() const {
  std::vector<PictureGround> out{{BoardDesign::part, "side", 0, QTransform::fromScale(1, stretch_) * to_screen(),
                                  QRectF(0, 0, width(), height() - 176)}};
  if (const auto d = board_design(bench()))
    if (const auto across = section_to_screen(d->board))
      out.push_back({BoardDesign::part, "section", knife_, *across, QRectF(0, height() - 176, width(), 176)});
  return out;
}

void SideView::draw_section(QPainter& g, const BoardDesign& d) {
  const Palette& p = colours();
  const Fretboard& b = d.board;
  onto(b);
  const auto span = crossing(b.corners, {knife_, 0}, {0, 1});
  if (!span) return;
  const QTransform t = *section_to_screen(b);
  QPolygonF top;
  const FretLine* near = &b.frets.front();
  for (const FretLine& f : b.frets)
    if (std::abs(f.middle().x - knife_) < std::abs(near->middle().x - knife_)) near = &f;
  QPolygonF floor;
  for (int i = 0; i <= 80; ++i) {
    const double y = span->low + (span->high - span->low) * i / 80;
    top << mapped({y, b.crown_height({knife_, y})}, t);
    floor << mapped({y, b.slot_floor({knife_, y})}, t);
  }
  QPolygonF body = top;
  body << mapped({span->high, 0}, t) << mapped({span->low, 0}, t);
  g.setPen(QPen(p.wood_edge, 1.4));
  g.setBrush(p.wood);
  g.drawPolygon(body);
  g.setPen(QPen(p.slot, 1.2, Qt::DashLine));
  g.drawPolyline(floor);
  g.setFont(figure_font(9));
  g.setPen(p.ink);
  const double r = b.crown_radius(knife_);
  say_centred(g, 0,
              tr("across at x %1, near fret %2:  %3 wide,  %4,  edge %5 thick,  slot %6 deep at the edge")
                  .arg(length(knife_))
                  .arg(near->number)
                  .arg(length(span->high - span->low), r > 0 ? tr("radius %1").arg(length(r)) : tr("flat"),
                       length(b.crown_height({knife_, span->high})), length(b.slot_depth({knife_, span->high}))));
}

}  // namespace wren::app

#include "app/neck_views.hpp"

#include "app/designs.hpp"
#include "app/words.hpp"

#include <QKeyEvent>
#include <QPainterPath>

#include "core/instrument/headstock.hpp"

namespace wren::app {
namespace {

/// Dragging one number of the ledger: `value` turns the place under the mouse into it. One step however far it goes.
class DragNumber : public Gesture {
 public:
  DragNumber(std::string key, QString name, std::function<double(const NeckDesign&, QPointF)> value)
      : key_(std::move(key)), name_(std::move(name)), value_(std::move(value)) {}
  void move(FlatView& view, QPointF at) override {
    const auto neck = neck_design(view.bench());
    if (!neck) return;
    view.bench().drag({{key_, format_mm(std::round(value_(*neck, at) * 10) / 10, 1)}}, name_.toStdString(),
                      "drag-" + key_);
  }
  void release(FlatView& view) override { view.bench().settle(); }
  void cancel(FlatView& view) override { view.bench().give_up(); }

 private:
  std::string key_;
  QString name_;
  std::function<double(const NeckDesign&, QPointF)> value_;
};

void diamond(QPainter& g, QPointF at, bool held) {
  const Palette& p = colours();
  g.setPen(QPen(p.heather, 1.6));
  g.setBrush(held ? p.heather : p.paper);
  g.drawPolygon(QPolygonF{at + QPointF(-6, 0), at + QPointF(0, -6), at + QPointF(6, 0), at + QPointF(0, 6)});
}

}  // namespace

void NeckPicture::hint(QPainter& g, const QString& text) {
  g.setFont(text_font(8.5));
  g.setPen(colours().faint);
  say_below(g, text);
}

// ---- plan

std::pair<Vec2, Vec2> NeckPlanView::extent() const {
  const auto d = neck_design(bench());
  if (!d) return {{-120, -50}, {470, 50}};
  const Box2 box = bounds(d->shape.corners);
  return {box.low, box.high};
}

std::vector<NeckPlanView::Handle> NeckPlanView::handles() const {
  const auto d = neck_design(bench());
  if (!d) return {};
  const NeckShape& n = d->shape;
  std::vector<Handle> out;
  const Tuner* first = nullptr;
  for (const Tuner& t : n.tuners)
    if (first == nullptr || t.behind_nut < first->behind_nut) first = &t;
  if (first != nullptr) out.push_back({mapped(first->at, to_screen()), "head.first_post", tr("first post")});
  out.push_back({mapped({n.heel_x, 0}, to_screen()), "neck.heel_start", tr("heel")});
  if (n.given.rod.kind != RodKind::none)
    out.push_back({mapped({n.rod_end, 0}, to_screen()), "rod.length", tr("rod's end")});
  return out;
}

std::unique_ptr<Gesture> NeckPlanView::gesture_at(QPointF at) {
  for (const Handle& h : handles()) {
    if (QLineF(h.at, at).length() > 11) continue;
    const std::string key = h.key;
    return std::make_unique<DragNumber>(
        key, tr("Drag the %1").arg(h.name), [this, key](const NeckDesign& d, QPointF to) {
          const double x = world(to).x;
          if (key == "head.first_post") return std::clamp(d.shape.nut_middle.x - x, 12.0, 120.0);
          if (key == "neck.heel_start") return std::clamp(d.shape.end_x - x, 10.0, 200.0);
          return std::clamp(x - d.shape.rod_start, 50.0, d.shape.end_x - 3 - d.shape.rod_start);
        });
  }
  return {};
}

void NeckPlanView::hover(QPointF at) {
  mouse_ = at;
  bool on = false;
  for (const Handle& h : handles()) on = on || QLineF(h.at, at).length() < 11;
  setCursor(on ? Qt::SizeHorCursor : Qt::ArrowCursor);
  update();
}

void NeckPlanView::draw_neck(QPainter& g, const NeckDesign& d) {
  const NeckShape& n = d.shape;
  const QTransform& t = to_screen();
  const Palette& p = colours();
  paint_neck(g, d, t, {});
  const Box2 box = bounds(n.corners);
  g.setFont(figure_font(9));
  paint_measure(g, mapped({box.low.x, box.high.y}, t), mapped({box.high.x, box.high.y}, t), -40, length(box.size().x),
                p.ink);
  const NeckShape::Taper nut = n.taper(0);
  const NeckShape::Taper heel = n.taper(n.end_x);
  paint_measure(g, mapped({0, nut.middle - nut.half}, t), mapped({0, nut.middle + nut.half}, t), -18,
                length(2 * nut.half), p.ink);
  // Clear of the tab at the heel's end, however long its words are.
  const QString width = length(2 * heel.half);
  const double aside = std::max(28.0, QFontMetricsF(g.font()).horizontalAdvance(width) / 2 + 10);
  paint_measure(g, mapped({n.end_x, heel.middle - heel.half}, t), mapped({n.end_x, heel.middle + heel.half}, t), aside,
                width, p.ink);
  paint_measure(g, mapped({n.heel_x, box.low.y}, t), mapped({n.end_x, box.low.y}, t), 44,
                tr("heel %1").arg(length(n.end_x - n.heel_x)), p.heather);
  if (n.given.rod.kind != RodKind::none)
    paint_measure(g, mapped({n.rod_start, box.low.y}, t), mapped({n.rod_end, box.low.y}, t), 26,
                  tr("rod %1").arg(length(n.given.rod.length)), p.heather);
  paint_measure(g, mapped({n.nut_middle.x, box.high.y}, t), mapped({box.low.x, box.high.y}, t), 20,
                tr("head %1").arg(length(n.nut_middle.x - box.low.x)), p.faint);
  {
    g.setPen(QPen(p.lichen, 7, Qt::SolidLine, Qt::RoundCap));
    for (const Vec2 tab : tabs_of(bench().shown(NeckDesign::part).get(), "back").at)
      g.drawPoint(mapped(turned(d.back.turn, tab), t));
  }
  for (const Handle& h : handles()) diamond(g, h.at, QLineF(h.at, mouse_).length() < 11);
  for (const Remark& r : bench().remarks()) {
    if (!r.at || r.weight == Weight::worth_knowing) continue;
    const QPointF at = mapped({r.at->first, r.at->second}, t);
    g.setPen(QPen(weight_colour(r.weight), 2));
    g.setBrush(Qt::NoBrush);
    g.drawEllipse(at, 11, 11);
    g.drawLine(at + QPointF(8, -8), at + QPointF(16, -16));
  }
  const Vec2 w = world(mouse_);
  if (mouse_.x() >= 0 && contains(n.corners, w)) {
    g.setFont(figure_font(9));
    g.setPen(p.ink);
    QString text = tr("x %1   y %2   neck %3 thick here, back %4 under the board")
                       .arg(length(w.x), length(w.y), length(n.front(w) + n.depth(w)), length(n.depth(w)));
    for (const Tuner& tuner : n.tuners)
      if (distance(tuner.at, w) < 8)
        text = tr("tuner %1: %2 behind the nut, string over the nut at %3°")
                   .arg(tuner.string)
                   .arg(length(tuner.behind_nut))
                   .arg(decimal(tuner.angle * 57.29578, 1));
    say_below(g, text);
  } else {
    hint(g, tr("Drag a diamond: first post, rod's end, heel. Strings run straight to their posts; dashed: the tuners' "
               "bodies on the back. Green: tabs."));
  }
}

// ---- side

void NeckSideView::set_knife(double x) {
  knife_ = x;
  follow_ = false;
  update();
}

std::pair<Vec2, Vec2> NeckSideView::extent() const {
  const auto d = neck_design(bench());
  if (!d) return {{-120, -60}, {470, 20}};
  double deepest = 0;
  for (const Vec2 q : d->shape.corners) deepest = std::max(deepest, d->shape.depth(q));
  return {{d->shape.tip_x, -std::max(deepest, d->shape.given.heel.thickness) * stretch_},
          {d->shape.end_x, d->shape.board->given.board.thickness * stretch_}};
}

QPointF NeckSideView::thickness_handle(bool second) const {
  const auto d = neck_design(bench());
  if (!d) return {};
  const double x = d->shape.fret_x(second ? d->shape.given.back.fret_b : d->shape.given.back.fret_a);
  return mapped({x, -d->shape.depth({x, 0})}, stretched());
}

std::unique_ptr<Gesture> NeckSideView::gesture_at(QPointF at) {
  const auto d = neck_design(bench());
  if (!d || d->shape.given.back.sections.size() > 1) return {};
  for (const bool second : {false, true})
    if (QLineF(thickness_handle(second), at).length() < 11)
      return std::make_unique<DragNumber>(
          second ? "neck.thickness_b" : "neck.thickness_a", tr("Drag the thickness"),
          [this](const NeckDesign& now, QPointF to) {
            const double depth = -stretched().inverted().map(to).y();
            return std::clamp(depth + (now.shape.given.back.with_board ? now.shape.board->given.board.thickness : 0),
                              12.0, 45.0);
          });
  return {};
}

void NeckSideView::hover(QPointF at) {
  if (at.y() < height() - 190) {
    knife_ = world(at).x;
    follow_ = true;
  }
  const bool on = QLineF(thickness_handle(false), at).length() < 11 || QLineF(thickness_handle(true), at).length() < 11;
  setCursor(on ? Qt::SizeVerCursor : Qt::ArrowCursor);
  update();
}

void NeckSideView::keyPressEvent(QKeyEvent* event) {
  if (const int way = stretch_key(*event)) {
    stretch_ = std::clamp(stretch_ * (way > 0 ? 1.25 : 0.8), 1.0, 12.0);
    fit();
    return;
  }
  if (event->key() == Qt::Key_Less || event->key() == Qt::Key_Comma) return set_knife(knife_ - 2);
  if (event->key() == Qt::Key_Greater || event->key() == Qt::Key_Period) return set_knife(knife_ + 2);
  FlatView::keyPressEvent(event);
}

std::optional<QTransform> NeckSideView::section_to_screen() const {
  const auto d = neck_design(bench());
  if (!d) return {};
  const NeckShape& n = d->shape;
  const auto edges = crossings(n.corners, {knife_, 0}, {0, 1});
  if (edges.size() < 2) return {};
  const QRectF room(60, height() - 182, width() - 120, 132);
  const double high = n.behind_nut({knife_, 0}) < 0 ? n.board->given.board.thickness : 0;
  double deep = 0;
  for (int i = 1; i < 20; ++i)
    deep = std::max(deep, n.depth({knife_, edges.front() + (edges.back() - edges.front()) * i / 20}));
  return fitted({edges.front(), -deep}, {edges.back(), high}, room);
}

std::vector<PictureGround> NeckSideView::picture_grounds() const {
  std::vector<PictureGround> out{{NeckDesign::part, "side", 0, stretched(), QRectF(0, 0, width(), height() - 190)}};
  if (const auto across = section_to_screen())
    out.push_back({NeckDesign::part, "section", knife_, *across, QRectF(0, height() - 190, width(), 190)});
  return out;
}

void NeckSideView::draw_neck(QPainter& g, const NeckDesign& d) {
  const NeckShape& n = d.shape;
  const Palette& p = colours();
  const QTransform t = stretched();
  const int count = 500;
  QPolygonF body;
  QPolygonF slot;
  for (int i = 0; i <= count; ++i) {
    const double x = n.tip_x + 0.3 + (n.end_x - n.tip_x - 0.6) * i / count;
    body << mapped({x, n.front({x, 0})}, t);
  }
  for (int i = count; i >= 0; --i) {
    const double x = n.tip_x + 0.3 + (n.end_x - n.tip_x - 0.6) * i / count;
    body << mapped({x, -n.depth({x, 0})}, t);
  }
  g.setPen(QPen(p.wood_edge, 1.5));
  g.setBrush(p.wood);
  g.drawPolygon(body);
  if (n.given.build == NeckBuild::separate_board) {
    const Box2 b = bounds(n.board->corners);
    g.setPen(QPen(p.faint, 1.1, Qt::DashLine));
    g.setBrush(Qt::NoBrush);
    g.drawRect(QRectF(mapped({b.low.x, n.board->given.board.thickness}, t), mapped({b.high.x, 0}, t)));
    if (n.given.accent > 0) {
      g.setPen(QPen(p.heather, 1.4));
      g.drawLine(mapped({b.low.x, n.given.accent}, t), mapped({b.high.x, n.given.accent}, t));
    }
  }
  for (const Channel& c : n.channels) {
    if (std::abs(c.a.y) > 1 && c.id != "nut") continue;
    if (c.id == "nut") continue;
    QPolygonF trough;
    const double x0 = c.a.x - c.width / 2;
    const double x1 = c.b.x + c.width / 2;
    for (int i = 0; i <= 60; ++i) {
      const double x = x0 + (x1 - x0) * i / 60;
      trough << mapped({x, c.floor({x, 0})}, t);
    }
    const double open0 = c.from_back ? -n.depth({x1, 0}) : n.front({x1, 0});
    const double open1 = c.from_back ? -n.depth({x0, 0}) : n.front({x0, 0});
    trough << mapped({x1, open0}, t) << mapped({x0, open1}, t);
    QColor fill = p.slot;
    fill.setAlpha(95);
    g.setPen(QPen(p.slot, 1, c.from_back ? Qt::DashLine : Qt::SolidLine));
    g.setBrush(fill);
    g.drawPolygon(trough);
  }
  // Strings over nut and posts.
  for (const Tuner& tuner : n.tuners) {
    const StringLine& s = n.board->strings[static_cast<std::size_t>(tuner.string - 1)];
    const double top = n.board->given.board.thickness + n.board->given.frets.crown_height + 0.5;
    QColor c = p.ink;
    c.setAlpha(110);
    g.setPen(QPen(c, 0.9));
    g.drawLine(mapped({s.nut.x, top}, t), mapped({post_contact(n, tuner).x, tuner.winding_z}, t));
    g.drawLine(mapped({s.nut.x, top}, t), mapped({std::min(n.end_x + 20, s.saddle.x), top + 1}, t));
  }
  g.setFont(figure_font(9));
  for (const bool second : {false, true}) {
    const int fret = second ? n.given.back.fret_b : n.given.back.fret_a;
    const double x = n.fret_x(fret);
    const double up = n.given.back.with_board ? n.board->given.board.thickness : 0;
    paint_measure(g, mapped({x, -n.depth({x, 0})}, t), mapped({x, up}, t), 0.001,
                  tr("fret %1: %2").arg(fret).arg(length(n.depth({x, 0}) + up)), p.heather);
    if (n.given.back.sections.size() < 2) diamond(g, thickness_handle(second), false);
  }
  const double heel_mid = (n.heel_x + n.end_x) / 2;
  paint_measure(g, mapped({heel_mid, -n.depth({heel_mid, 0})}, t),
                mapped({heel_mid, n.board->given.board.thickness}, t), 0.001,
                tr("heel %1").arg(length(n.whole_thickness(heel_mid))), p.ink);
  for (const BackSection& s : n.given.back.sections) {
    g.setPen(QPen(p.lichen, 1.2, Qt::DotLine));
    g.drawLine(mapped({s.x, 2}, t), mapped({s.x, -n.depth({s.x, 0}) - 2}, t));
  }
  knife_ = std::clamp(knife_, n.tip_x + 0.5, n.end_x - 0.5);
  g.setPen(QPen(p.heather, 1.6));
  g.drawLine(mapped({knife_, n.board->given.board.thickness + 3}, t), mapped({knife_, -n.depth({knife_, 0}) - 3}, t));
  g.setFont(text_font(8.5));
  g.setPen(p.faint);
  say_above(g, tr("On the centre line, heights × %1 ([ and ] change it). The knife "
                  "follows the mouse (< and > move it). Dashed: the board.")
                   .arg(decimal(stretch_, 1)));
  // The section, in true proportion.
  const auto edges = crossings(n.corners, {knife_, 0}, {0, 1});
  if (edges.size() < 2) return;
  const QTransform across = *section_to_screen();
  paint_section(g, d, knife_, across, {});
  g.setFont(figure_font(9));
  double skin = 1e9;
  for (const Channel& c : n.channels)
    if (c.id != "nut" && knife_ >= c.a.x - c.width / 2 && knife_ <= c.b.x + c.width / 2 && std::abs(c.a.y) < 1) {
      const Vec2 at{knife_, 0};
      skin = std::min(skin, c.from_back ? n.front(at) - c.floor(at) : n.depth(at) + c.floor(at));
    }
  QString words = tr("x %1, near fret %2:  %3 wide,  %4 thick in all")
                      .arg(length(knife_))
                      .arg(n.nearest_fret(knife_))
                      .arg(length(edges.back() - edges.front()), length(n.whole_thickness(knife_)));
  if (skin < 1e8) words += tr(",  %1 of wood over the rod").arg(length(skin));
  const SectionDeparture* near = nullptr;
  for (const SectionDeparture& s : n.departures)
    if (std::abs(s.x - knife_) < 6 && (near == nullptr || std::abs(s.x - knife_) < std::abs(near->x - knife_)))
      near = &s;
  if (near != nullptr) words += tr(",  leaves the measured section by %1").arg(length(near->worst));
  g.setPen(skin < practice::skin_least ? p.rowan : p.ink);
  say_centred(g, 0, words);
  if (near != nullptr)
    for (const BackSection& s : n.given.back.sections)
      if (s.x == near->x) {
        g.setPen(QPen(p.lichen, 1.2));
        g.setBrush(Qt::NoBrush);
        for (const Vec2 q : s.points) g.drawEllipse(mapped({q.x, -q.y}, across), 1.8, 1.8);
      }
}

// ---- surface

SurfaceView::SurfaceView(Workbench& bench, QWidget* parent) : NeckPicture(bench, parent) {
  connect(&bench, &Workbench::changed, this, [this] {
    stale_ = true;
    update();
  });
}

std::pair<Vec2, Vec2> SurfaceView::extent() const {
  const auto d = neck_design(bench());
  if (!d) return {{0, -60}, {470, 60}};
  return {{0, -70}, {d->shape.end_x, 70}};
}

void SurfaceView::hover(QPointF at) {
  mouse_ = at;
  update();
}

void SurfaceView::paint_map(const NeckDesign& d) {
  stale_ = false;
  const NeckShape& n = d.shape;
  const int wide = 460;
  const int tall = 90;
  map_ = QImage(wide, tall, QImage::Format_RGB32);
  std::vector<double> bend(static_cast<std::size_t>(wide * tall));
  std::vector<double> shaft;
  for (int i = 0; i < wide; ++i) {
    const double x = 1 + (n.end_x - 2) * i / (wide - 1);
    const NeckShape::Taper t = n.taper(x);
    for (int j = 0; j < tall; ++j) {
      const double s = 0.94 * (2.0 * j / (tall - 1) - 1);
      const double k = along_curvature(n, {x, t.middle - s * t.half});
      bend[static_cast<std::size_t>(j) * static_cast<std::size_t>(wide) + static_cast<std::size_t>(i)] = k;
      if (x > 10 && x < n.heel_x - n.heel_blend) shaft.push_back(std::abs(k));
    }
  }
  // The scale's end: what nearly all of the shaft stays under, so that one lump stands out.
  std::sort(shaft.begin(), shaft.end());
  scale_ = std::max(2e-4, shaft.empty() ? 1e-3 : shaft[shaft.size() * 98 / 100]);
  for (int j = 0; j < tall; ++j) {
    auto* line = reinterpret_cast<QRgb*>(map_.scanLine(j));
    for (int i = 0; i < wide; ++i)
      line[i] =
          quantity_colour(
              0.5 +
              0.5 *
                  std::clamp(
                      bend[static_cast<std::size_t>(j) * static_cast<std::size_t>(wide) + static_cast<std::size_t>(i)] /
                          scale_,
                      -1.0, 1.0))
              .rgb();
  }
}

void SurfaceView::draw_neck(QPainter& g, const NeckDesign& d) {
  const NeckShape& n = d.shape;
  const Palette& p = colours();
  const QTransform& t = to_screen();
  if (stale_) paint_map(d);
  // The back rolled out: x along, the share of the width across, stretched to be read.
  const double half = 26;
  const double lift = -34;  // of the map's middle
  g.setRenderHint(QPainter::SmoothPixmapTransform);
  const QRectF map(mapped({1, lift + half}, t), mapped({n.end_x - 1, lift - half}, t));
  g.drawImage(map, map_);
  g.setPen(QPen(p.wood_edge, 1));
  g.setBrush(Qt::NoBrush);
  g.drawRect(map);
  g.setFont(text_font(8.5));
  g.setPen(p.faint);
  double last_label = -1e9;
  for (const FretLine& f : n.board->frets) {
    const QPointF at = mapped({f.middle().x, lift - half}, t);
    if (at.x() - last_label < 22) continue;
    last_label = at.x();
    g.drawLine(at, at + QPointF(0, 4));
    g.drawText(QRectF(at.x() - 14, at.y() + 4, 28, 14), Qt::AlignCenter, QString::number(f.number));
  }
  // Combs: teeth as long as the curvature along the middle and half way to either edge.
  const double unit_tooth = 9 / scale_;
  int row = 0;
  for (const double s : {-0.6, 0.0, 0.6}) {
    const double base = 52 - row * 22;
    g.setPen(QPen(p.hair.darker(120), 1));
    g.drawLine(mapped({1, base}, t), mapped({n.end_x - 1, base}, t));
    QPolygonF tips;
    g.setPen(QPen(p.faint, 0.8));
    for (double x = 4; x < n.end_x - 3; x += 3) {
      const NeckShape::Taper taper = n.taper(x);
      const double k = std::clamp(along_curvature(n, {x, taper.middle - s * taper.half}) * unit_tooth, -16.0, 16.0);
      g.drawLine(mapped({x, base}, t), mapped({x, base + k}, t));
      tips << mapped({x, base + k}, t);
    }
    g.setPen(QPen(p.heather, 1.5));
    g.drawPolyline(tips);
    g.setPen(p.ink);
    g.setFont(text_font(8.5));
    const QString name = s == 0                                           ? tr("middle")
                         : (s < 0) == (n.board->nut_line.bass_edge.y < 0) ? tr("treble")
                                                                          : tr("bass");
    g.drawText(QRectF(2, mapped({0, base}, t).y() - 8, 50, 16), Qt::AlignRight | Qt::AlignVCenter, name);
    ++row;
  }
  for (const SectionDeparture& s : n.departures) {
    const QPointF a = mapped({s.x, lift + half}, t);
    g.setPen(QPen(p.lichen, 1.2, Qt::DotLine));
    g.drawLine(a, mapped({s.x, lift - half}, t));
    const NeckShape::Taper taper = n.taper(s.x);
    const double share = std::clamp((s.at.y - taper.middle) / taper.half, -1.0, 1.0);
    g.setPen(QPen(p.lichen, 2));
    g.drawEllipse(mapped({s.x, lift + share * half}, t), 3 + 20 * s.worst, 3 + 20 * s.worst);
  }
  if (std::abs(d.lump.height) > practice::lump_seen) {
    const NeckShape::Taper taper = n.taper(d.lump.at.x);
    const QPointF at = mapped({d.lump.at.x, lift + (d.lump.at.y - taper.middle) / taper.half * half}, t);
    g.setPen(QPen(p.rowan, 2));
    g.setBrush(Qt::NoBrush);
    g.drawEllipse(at, 15, 15);
    g.setFont(text_font(9, QFont::DemiBold));
    g.fillRect(QRectF(at.x() - 40, at.y() - 36, 80, 17), p.paper);
    g.setPen(p.rowan);
    g.drawText(QRectF(at.x() - 90, at.y() - 36, 180, 17), Qt::AlignCenter,
               tr("%1 %2").arg(d.lump.height > 0 ? tr("lump") : tr("hollow"), length(std::abs(d.lump.height))));
  }
  g.setFont(text_font(8.5));
  g.setPen(p.faint);
  say_above(g, tr("Bend along the neck, the back rolled out flat. Even colour and even "
                  "teeth: fair. A sudden change: a lump that a hand feels."));
  // Depth grows away from the strings: where it bulges, it bends the other way than its graph does.
  const QRectF bar(width() - 300, height() - 26, 150, 9);
  for (int i = 0; i < 150; ++i)
    g.fillRect(QRectF(bar.left() + i, bar.top(), 1.5, bar.height()), quantity_colour(i / 149.0));
  g.setFont(figure_font(8.5));
  g.setPen(p.ink);
  g.drawText(QRectF(bar.left() - 118, bar.top() - 4, 112, 17), Qt::AlignRight | Qt::AlignVCenter,
             tr("round, R %1").arg(length(1 / scale_)));
  g.drawText(QRectF(bar.right() + 6, bar.top() - 4, 140, 17), Qt::AlignLeft | Qt::AlignVCenter,
             tr("hollow, R %1").arg(length(1 / scale_)));
  const Vec2 w = world(mouse_);
  if (mouse_.x() >= 0 && map.contains(mouse_)) {
    const NeckShape::Taper taper = n.taper(w.x);
    const Vec2 at{w.x, taper.middle + (w.y - lift) / half * taper.half};
    const double k = along_curvature(n, at);
    g.setPen(p.ink);
    g.drawText(QRectF(14, height() - 24, width() * 0.5, 18), Qt::AlignLeft | Qt::AlignVCenter,
               tr("x %1   y %2   %3")
                   .arg(length(at.x), length(at.y),
                        std::abs(k) < 1e-6 ? tr("straight")
                        : k < 0            ? tr("round, radius %1 along").arg(length(-1 / k))
                                           : tr("hollow, radius %1 along").arg(length(1 / k))));
  }
}

}  // namespace wren::app

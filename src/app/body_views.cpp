#include "app/body_views.hpp"

#include "app/designs.hpp"
#include "app/words.hpp"

#include <QKeyEvent>
#include <QMouseEvent>

namespace wren::app {

// ---- from the side

std::pair<Vec2, Vec2> BodySideView::extent() const {
  const auto d = body_design(bench());
  if (!d) return {{300, -80}, {760, 60}};
  const Box2 box = bounds(d->shape.corners);
  return {{box.low.x - 60, (-d->shape.thickness - 4) * stretch_}, {box.high.x + 6, 34 * stretch_}};
}

void BodySideView::set_knife(double x) {
  knife_ = x;
  update();
}

void BodySideView::hover(QPointF at) {
  if (at.y() < height() - 142) set_knife(world(at).x);
}

void BodySideView::keyPressEvent(QKeyEvent* event) {
  if (const int way = stretch_key(*event)) {
    stretch_ = std::clamp(stretch_ * (way > 0 ? 1.25 : 0.8), 0.8, 8.0);
    fit();
    return;
  }
  if (event->key() == Qt::Key_Less || event->key() == Qt::Key_Comma) return set_knife(knife_ - 2);
  if (event->key() == Qt::Key_Greater || event->key() == Qt::Key_Period) return set_knife(knife_ + 2);
  FlatView::keyPressEvent(event);
}

std::optional<QTransform> BodySideView::section_to_screen(const BodyShape& s) const {
  // The knife stays on the body, wherever the mouse went.
  const Box2 box = bounds(s.corners);
  knife_ = std::clamp(knife_, box.low.x + 1, box.high.x - 1);
  const auto edges = crossings(s.corners, {knife_, 0}, {0, 1});
  if (edges.size() < 2) return {};
  const QRectF room(60, height() - 138, width() - 120, 78);
  return fitted({edges.front(), -s.thickness}, {edges.back(), 4}, room);
}

std::vector<PictureGround> BodySideView::picture_grounds() const {
  std::vector<PictureGround> out{{BodyDesign::part, "side", 0, QTransform::fromScale(1, stretch_) * to_screen(),
                                  QRectF(0, 0, width(), height() - 150)}};
  if (const auto d = body_design(bench()))
    if (const auto across = section_to_screen(d->shape))
      out.push_back({BodyDesign::part, "section", knife_, *across, QRectF(0, height() - 150, width(), 150)});
  return out;
}

void BodySideView::draw_body(QPainter& g, const BodyDesign& d) {
  const Palette& p = colours();
  const BodyShape& s = d.shape;
  const QTransform t = QTransform::fromScale(1, stretch_) * to_screen();
  const Box2 box = bounds(s.corners);
  // Wood on the centre line: between the outline's crossings, with what is cut into it from either side.
  const double low_x = std::max(box.low.x, s.edge_middle.x - 0.5);
  const auto outline = [&](bool top, double x) {
    const Vec2 q{x, 0.01};
    return top ? std::clamp(s.finished_top(q), -s.thickness, 10.0)
               : std::clamp(s.finished_bottom(q), -s.thickness, 0.0);
  };
  QPolygonF wood;
  const int count = 900;
  for (int i = 0; i <= count; ++i) {
    const double x = low_x + 0.6 + (box.high.x - low_x - 1.0) * i / count;
    wood << mapped({x, outline(true, x)}, t);
  }
  for (int i = count; i >= 0; --i) {
    const double x = low_x + 0.6 + (box.high.x - low_x - 1.0) * i / count;
    wood << mapped({x, std::min(outline(false, x), outline(true, x))}, t);
  }
  g.setPen(QPen(p.wood_edge, 1.5));
  g.setBrush(p.wood);
  g.drawPolygon(wood);
  // Glue lines, and what is hidden under the top.
  for (std::size_t k = 1; k < s.layers.size(); ++k) {
    g.setPen(QPen(p.wood_edge, 0.9, Qt::DotLine));
    g.drawLine(mapped({low_x, s.layers[k].top}, t), mapped({box.high.x, s.layers[k].top}, t));
  }
  g.setPen(QPen(p.hair.darker(120), 1, Qt::DashLine));
  g.drawLine(mapped({box.low.x - 50, 0}, t), mapped({box.high.x, 0}, t));
  // The neck in its pocket, tilted: underside, glue plane, board.
  const BodyFrame& f = s.setup.frame;
  const NeckShape& n = *s.neck;
  QPolygonF neck;
  QPolygonF board;
  const double from_x = box.low.x - 58;
  const auto there = [&](double x, double z) {
    const Vec3 b = f.to_body({x, 0, z});
    return mapped({b.x, b.z}, t);
  };
  for (double x = n.end_x - 0.2; x > from_x; x -= 3)
    neck << there(x, -std::max(n.depth({x, 0}), 0.0) *
                         (s.heel.under() / std::max(1e-6, n.given.heel.thickness - n.board->given.board.thickness)));
  neck << there(from_x, 0) << there(n.end_x - 0.2, 0);
  const Box2 board_box = bounds(n.board->corners);
  board << there(from_x, 0) << there(board_box.high.x, 0) << there(board_box.high.x, n.board->given.board.thickness)
        << there(from_x, n.board->given.board.thickness);
  QColor pale = p.paper;
  pale.setAlpha(190);
  g.setPen(QPen(p.faint, 1.3));
  g.setBrush(pale);
  g.drawPolygon(neck);
  g.drawPolygon(board);
  if (n.given.accent > 0) g.drawLine(there(from_x, n.given.accent), there(board_box.high.x, n.given.accent));
  const double fret_top = n.board->given.board.thickness + n.board->given.frets.crown_height;
  g.setPen(QPen(p.faint, 1.4));
  for (const FretLine& fret : n.board->frets)
    if (fret.middle().x > from_x)
      g.drawLine(there(fret.middle().x, n.board->given.board.thickness), there(fret.middle().x, fret_top));
  // Pickups at the range of their tops, saddles with theirs, strings.
  for (const auto& pickup : s.pickups) {
    const double face = s.top(pickup.middle);
    const QRectF cover(mapped({pickup.middle.x - pickup.size.width / 2, face + pickup.size.high}, t),
                       mapped({pickup.middle.x + pickup.size.width / 2, face + pickup.size.high - 17}, t));
    QColor fill = p.slot;
    fill.setAlpha(80);
    g.setPen(QPen(p.slot, 1.1));
    g.setBrush(fill);
    g.drawRect(cover.normalized());
    g.setPen(QPen(p.slot, 1, Qt::DotLine));
    g.drawLine(mapped({pickup.middle.x - pickup.size.width / 2, face + pickup.size.low}, t),
               mapped({pickup.middle.x + pickup.size.width / 2, face + pickup.size.low}, t));
  }
  const BridgeNumbers& br = s.given.bridge;
  const double bx = s.setup.bridge_middle.x;
  g.setPen(QPen(p.heather, 1.4));
  for (const double h : {br.low, br.high}) g.drawLine(mapped({bx - 10, h}, t), mapped({bx + 12, h}, t));
  g.drawLine(mapped({bx + 10, br.low}, t), mapped({bx + 10, br.high}, t));
  for (std::size_t i = 0; i < s.setup.strings.size(); ++i) {
    const auto& [nut, saddle] = s.setup.strings[i];
    QColor c = p.ink;
    c.setAlpha(i == 0 || i + 1 == s.setup.strings.size() ? 200 : 70);
    g.setPen(QPen(c, 1));
    const double at = (from_x - nut.x) / (saddle.x - nut.x);
    g.drawLine(mapped({from_x, nut.z + (saddle.z - nut.z) * at}, t), mapped({saddle.x, saddle.z}, t));
    g.drawLine(mapped({saddle.x, saddle.z}, t), mapped({bx + br.anchor_behind, br.anchor_height}, t));
    g.drawLine(mapped({saddle.x, saddle.z}, t), mapped({saddle.x, std::max(0.0, saddle.z - 6)}, t));
  }
  g.setFont(figure_font(9));
  const double end = s.heel.end_x;
  paint_measure(g, mapped({end - 8, 0}, t), mapped({end - 8, -s.setup.depth_end}, t), 0.001, length(s.setup.depth_end),
                p.heather);
  paint_measure(g, mapped({s.edge_middle.x + 5, 0}, t), mapped({s.edge_middle.x + 5, -s.setup.depth_edge}, t), 0.001,
                length(s.setup.depth_edge), p.ink);
  const SaddlePlace& first = s.setup.saddles.front();
  paint_measure(g, mapped({bx + 48, 0}, t), mapped({bx + 48, first.height}, t), 0.001,
                tr("saddle 1: %1").arg(length(first.height)), p.ink);
  paint_measure(g, mapped({box.high.x - 14, 0}, t), mapped({box.high.x - 14, -s.thickness}, t), 0.001,
                length(s.thickness), p.ink);
  g.setPen(p.ink);
  g.drawText(mapped({s.edge_middle.x - 52, -s.thickness * 0.55}, t),
             tr("tilt %1°").arg(decimal(s.setup.tilt * 180 / M_PI, 2)));
  // The knife and its section, in true proportion.
  const auto section = section_to_screen(s);
  g.setPen(QPen(p.heather, 1.6));
  g.drawLine(mapped({knife_, 26}, t), mapped({knife_, -s.thickness - 2}, t));
  const auto edges = crossings(s.corners, {knife_, 0}, {0, 1});
  if (edges.size() >= 2) {
    const QTransform across = *section;
    for (std::size_t e = 0; e + 1 < edges.size(); e += 2) {
      QPolygonF cut;
      const int parts = std::max(40, static_cast<int>((edges[e + 1] - edges[e]) * 3));
      const auto place = [&](int i) {
        return Vec2{knife_, edges[e] + 0.02 + (edges[e + 1] - edges[e] - 0.04) * i / parts};
      };
      for (int i = 0; i <= parts; ++i)
        cut << mapped({place(i).y, std::clamp(s.finished_top(place(i)), -s.thickness, 5.0)}, across);
      for (int i = parts; i >= 0; --i)
        cut << mapped({place(i).y, std::min(std::clamp(s.finished_bottom(place(i)), -s.thickness, 0.0),
                                            std::clamp(s.finished_top(place(i)), -s.thickness, 5.0))},
                      across);
      g.setPen(QPen(p.wood_edge, 1.3));
      g.setBrush(p.wood);
      g.drawPolygon(cut);
      for (const Cavity& c : s.cavities) {
        if (c.layer < 0) continue;
        const double roof = s.layers[static_cast<std::size_t>(c.layer)].top;
        std::optional<double> open;
        g.setPen(QPen(p.slot, 1, Qt::DotLine));
        QColor fill = p.ground;
        g.setBrush(fill);
        for (int i = 0; i <= parts; ++i) {
          const bool in = i < parts && c.holds(place(i));
          if (in && !open) open = place(i).y;
          if (!in && open) {
            g.drawRect(QRectF(mapped({*open, roof}, across), mapped({place(i).y, c.floor}, across)).normalized());
            open.reset();
          }
        }
      }
    }
  }
  g.setFont(text_font(8.5));
  g.setPen(p.faint);
  say_above(g, tr("On the centre line, heights × %1 ([ and ] change it). Dashed: the face. Bracket at the bridge: the "
                  "saddles' range. The knife follows the mouse (< and > move it).")
                   .arg(decimal(stretch_, 1)));
  g.setPen(std::min(s.setup.least_up, s.setup.least_down) < practice::saddle_travel_least - 1e-6 ? p.rowan : p.ink);
  say_centred(g, 0,
              tr("%1.  Saddles: %2 left upwards, %3 downwards.  Knife at %4 from the scale line.")
                  .arg(s.given.setup.school == SetupSchool::action ? tr("Set up for the action wanted")
                                                                   : tr("Set up for strings flat on the frets"),
                       length(s.setup.least_up), length(s.setup.least_down), length(knife_ - bx)));
}

}  // namespace wren::app

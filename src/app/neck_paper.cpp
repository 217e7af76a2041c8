#include "app/neck_paper.hpp"

#include "app/neck_painter.hpp"
#include "app/paper_page.hpp"
#include "exchange/solid_out.hpp"

namespace wren::app {
namespace {

QString q(const std::string& s) { return QString::fromStdString(s); }

}  // namespace

void print_neck_templates(QPagedPaintDevice& device, const Project& project, const NeckDesign& d,
                          const PaperChoice& choice) {
  set_paper(device, choice.paper, QPageLayout::Landscape);
  QPainter g(&device);
  const double per_mm = device.logicalDpiX() / 25.4;
  g.scale(per_mm, per_mm);
  const QSizeF size = paper_size(choice.paper).size(QPageSize::Millimeter).transposed();
  const NeckShape& n = d.shape;
  const Box2 box = bounds(n.corners);
  const double wide = size.width() - 42;  // of the drawing on a page, mm
  constexpr double overlap = 15;
  const auto words = [&](QPointF at, const QString& text) { small_words(g, at, text); };
  const ScaleBar scale(choice.units);
  const auto bar = [&](QPointF at) {
    scale.draw(g, at);
    words(at + QPointF(scale.length + 4, 0),
          QObject::tr("%1: if not, print at full size, never fitted to the page").arg(scale.words));
  };
  const int pages = std::max(1, static_cast<int>(std::ceil((box.size().x + 8 - overlap) / (wide - overlap))));
  const double y0 = 30;
  for (int k = 0; k < pages; ++k) {
    if (k > 0) device.newPage();
    const double from = box.low.x - 4 + k * (wide - overlap);
    const QRectF window(20, y0, wide, box.size().y + 16);
    words({20, 18}, QObject::tr("%1: neck, plan from above, sheet %2 of %3. Join at the dotted line.")
                        .arg(q(project.name))
                        .arg(k + 1)
                        .arg(pages));
    g.save();
    g.setClipRect(window);
    QTransform t;
    t.translate(window.left() - from, window.center().y());
    t.scale(1, -1);
    t.translate(0, -(box.low.y + box.high.y) / 2);
    QPolygonF outline;
    for (const Vec2 p : n.corners) outline << mapped(p, t);
    g.setPen(QPen(Qt::black, 0.25));
    g.setBrush(Qt::NoBrush);
    g.drawPolygon(outline);
    g.setPen(QPen(Qt::black, 0.18, Qt::DashDotLine));
    g.drawLine(mapped({box.low.x - 8, 0}, t), mapped({box.high.x + 8, 0}, t));
    g.setPen(QPen(Qt::black, 0.18));
    g.drawLine(mapped(n.board->nut_line.bass_edge, t), mapped(n.board->nut_line.treble_edge, t));
    for (const FretLine& f : n.board->frets)
      g.drawLine(mapped(f.bass_edge, t), mapped(lerp(f.bass_edge, f.treble_edge, 0.08), t));
    for (const Hole& h : n.holes) {
      const QPointF c = mapped(h.at, t);
      g.drawEllipse(c, h.diameter / 2, h.diameter / 2);
      g.drawLine(c - QPointF(2.5, 0), c + QPointF(2.5, 0));
      g.drawLine(c - QPointF(0, 2.5), c + QPointF(0, 2.5));
    }
    for (const Channel& c : n.channels) {
      const Vec2 u = c.a == c.b ? Vec2{1, 0} : unit(c.b - c.a);
      const Vec2 s = left_of(u) * (c.width / 2);
      g.drawLine(mapped(c.a - s, t), mapped(c.b - s, t));
      g.drawLine(mapped(c.a + s, t), mapped(c.b + s, t));
    }
    g.setPen(QPen(Qt::black, 0.2, Qt::DotLine));
    if (k > 0)
      g.drawLine(QPointF(window.left() + overlap, window.top()), QPointF(window.left() + overlap, window.bottom()));
    g.restore();
    draw_crop_marks(g, window);
    bar({20, window.bottom() + 18});
  }
  // Sections, as gauges to hold against the back.
  device.newPage();
  words({20, 18}, QObject::tr("%1: sections of the neck (without board), glue plane upwards").arg(q(project.name)));
  double x = 24;
  double y = 34;
  for (const double place : usual_places(n)) {
    const auto edges = crossings(n.corners, {place, 0}, {0, 1});
    if (edges.size() < 2) continue;
    const double w = edges.back() - edges.front();
    double deep = 0;
    QPolygonF section;
    for (int i = 0; i <= 100; ++i) {
      const double yy = (edges.front() + edges.back()) / 2 - w / 2 * std::cos(M_PI * i / 100);
      const double depth = n.depth({place, std::clamp(yy, edges.front() + 1e-6, edges.back() - 1e-6)});
      deep = std::max(deep, depth);
      section << QPointF(yy - edges.front(), depth);
    }
    if (x + w > size.width() - 17) {
      x = 24;
      y += 40;
    }
    if (y + deep > size.height() - 30) {
      bar({20, size.height() - 12});
      device.newPage();
      words({20, 18}, QObject::tr("%1: sections of the neck, continued").arg(q(project.name)));
      x = 24;
      y = 34;
    }
    g.setPen(QPen(Qt::black, 0.25));
    g.setBrush(Qt::NoBrush);
    g.drawPolygon(section.translated(x, y));
    words({x, y - 2},
          QObject::tr("x %1, fret %2").arg(length_words(place, choice.units, 1)).arg(n.nearest_fret(place)));
    x += w + 14;
  }
  bar({20, size.height() - 12});
  // The drilling strip for side dots.
  const Marks& marks = n.board->given.marks;
  if (n.given.side_dot > 0 && marks.side != SideMarks::ticks) {
    device.newPage();
    words({20, 18},
          QObject::tr("%1: drilling strip for the side dots; glue it to the board's edge, the arrow at the nut line")
              .arg(q(project.name)));
    const auto dots = side_dots(n);
    const double most = dots.empty() ? 0 : dots.back().second;
    const int strips = static_cast<int>(std::floor(most / (wide - overlap))) + 1;
    for (int k = 0; k < strips; ++k) {
      const double from = k * (wide - overlap) - 4;
      const QRectF window(20, 30 + k * 22.0, wide, 12);
      g.setPen(QPen(Qt::black, 0.2));
      g.setBrush(Qt::NoBrush);
      g.drawRect(window);
      g.drawLine(QPointF(window.left(), window.center().y()), QPointF(window.right(), window.center().y()));
      if (k == 0)
        g.drawPolygon(QPolygonF{QPointF(window.left() + 4, window.top()), QPointF(window.left() + 2, window.top() - 3),
                                QPointF(window.left() + 6, window.top() - 3)});
      bool higher = false;
      for (const auto& [fret, at] : dots) {
        higher = !higher;
        const double px = window.left() + at - from;
        if (px < window.left() || px > window.right()) continue;
        // Staggered on purpose: higher and lower in turn.
        const double lift = marks.side == SideMarks::staggered ? (higher ? -0.5 : 0.5) * marks.side_stagger : 0;
        g.drawEllipse(QPointF(px, window.center().y() + lift), n.given.side_dot / 2, n.given.side_dot / 2);
        g.drawLine(QPointF(px, window.top()), QPointF(px, window.bottom()));
        words({px + 1, window.bottom() - 1}, QString::number(fret));
      }
    }
    bar({20, size.height() - 12});
  }
}

}  // namespace wren::app

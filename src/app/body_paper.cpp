#include "app/body_paper.hpp"

#include "app/body_painter.hpp"
#include "app/paper_page.hpp"

namespace wren::app {
namespace {

QString q(const std::string& s) { return QString::fromStdString(s); }

}  // namespace

void print_body_templates(QPagedPaintDevice& device, const Project& project, const BodyDesign& d,
                          const PaperChoice& choice) {
  const RouterOffset& router = choice.router;
  const ScaleBar scale(choice.units);
  const auto length = [&](double mm) { return length_words(mm, choice.units); };
  set_paper(device, choice.paper, QPageLayout::Portrait);
  QPainter g(&device);
  const double per_mm = device.logicalDpiX() / 25.4;
  g.scale(per_mm, per_mm);
  const QSizeF size = paper_size(choice.paper).size(QPageSize::Millimeter);
  constexpr double overlap = 12;
  const QRectF window(14, 24, size.width() - 28, size.height() - 52);
  const auto words = [&](QPointF at, const QString& text) { small_words(g, at, text); };
  bool first = true;
  for (const Template& tpl : router_templates(d.shape, router)) {
    const Polygon ring = flatten(tpl.contour, 0.01);
    Box2 box = bounds(ring);
    const Vec2 low = box.low - Vec2{4, 4};
    const Vec2 extent = box.size() + Vec2{8, 8};
    const int across = std::max(1, static_cast<int>(std::ceil((extent.x - overlap) / (window.width() - overlap))));
    const int down = std::max(1, static_cast<int>(std::ceil((extent.y - overlap) / (window.height() - overlap))));
    int sheet = 0;
    for (int row = 0; row < down; ++row)
      for (int col = 0; col < across; ++col) {
        if (!first) device.newPage();
        first = false;
        ++sheet;
        words({14, 14}, QObject::tr("%1: %2, sheet %3 of %4 (row %5, column %6)")
                            .arg(q(project.name), q(tpl.title))
                            .arg(sheet)
                            .arg(across * down)
                            .arg(row + 1)
                            .arg(col + 1));
        words({14, 19},
              std::abs(router.off()) < 1e-9
                  ? QObject::tr("The edge itself: a bearing as wide as its cutter.")
                  : (tpl.inside == (router.off() > 0) ? QObject::tr("Larger by %1: cutter %2, bearing or bush %3.")
                                                      : QObject::tr("Smaller by %1: cutter %2, bearing or bush %3."))
                        .arg(length(std::abs(router.off())), length(router.cutter), length(router.follower)));
        const double x0 = low.x + col * (window.width() - overlap);
        const double y1 = low.y + extent.y - row * (window.height() - overlap);  // top of this window
        QTransform t(1, 0, 0, -1, window.left() - x0, window.top() + y1);
        g.save();
        g.setClipRect(window);
        g.setPen(QPen(Qt::black, 0.25));
        g.setBrush(Qt::NoBrush);
        g.drawPolygon(mapped(ring, t));
        g.setPen(QPen(Qt::black, 0.18, Qt::DashDotLine));
        g.drawLine(mapped({low.x - 20, 0}, t), mapped({low.x + extent.x + 20, 0}, t));
        const Vec2 u = d.shape.setup.bridge_across * 70.0;
        g.drawLine(mapped(d.shape.setup.bridge_middle - u, t), mapped(d.shape.setup.bridge_middle + u, t));
        g.setPen(QPen(Qt::black, 0.18));
        for (const Vec2 c : tpl.centres) {
          const QPointF at = mapped(c, t);
          g.drawLine(at - QPointF(2.5, 0), at + QPointF(2.5, 0));
          g.drawLine(at - QPointF(0, 2.5), at + QPointF(0, 2.5));
        }
        g.setPen(QPen(Qt::black, 0.2, Qt::DotLine));
        if (col > 0)
          g.drawLine(QPointF(window.left() + overlap, window.top()), QPointF(window.left() + overlap, window.bottom()));
        if (row > 0)
          g.drawLine(QPointF(window.left(), window.top() + overlap), QPointF(window.right(), window.top() + overlap));
        g.restore();
        draw_crop_marks(g, window);
        const QPointF bar(window.left(), window.bottom() + 14);
        scale.draw(g, bar);
        words(bar + QPointF(0, 5),
              QObject::tr("%1: if not, print at full size, never fitted to the page. Join at the dotted lines.")
                  .arg(scale.words));
      }
  }
}

}  // namespace wren::app

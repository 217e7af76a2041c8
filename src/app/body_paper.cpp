#include "app/body_paper.hpp"

#include <QBuffer>
#include <QPdfWriter>

#include "app/body_painter.hpp"
#include "app/paper_page.hpp"
#include "core/document/project_file.hpp"
#include "core/job/body_sheet.hpp"

namespace wren::app {
namespace {

QString q(const std::string& s) { return QString::fromStdString(s); }

/// A picture drawn with screen-sized pens, at a third of a millimetre a pixel, into a room on the page.
template <class Draw>
void picture(Page& page, Vec2 low, Vec2 high, double tall, const Draw& draw) {
  page.room(tall + 4);
  const QRectF room(page.left() + 4, page.y() + 2, page.width() - 8, tall - 4);
  QPainter& g = page.g();
  g.save();
  g.setClipRect(QRectF(page.left(), page.y(), page.width(), tall));
  g.translate(room.topLeft());
  g.scale(1.0 / 3, 1.0 / 3);
  const QTransform t = fitted(low, high, QRectF(0, 0, room.width() * 3, room.height() * 3));
  draw(g, t);
  g.restore();
  page.down(tall);
}

void bulleted(Page& page, const std::string& text) {
  page.room(6);
  page.box(QRectF(page.left(), page.y() + 0.7, 2.8, 2.8));
  page.text(q(text), 9, false, 5);
  page.down(0.6);
}

template <class Draw>
Expected<void> write_pdf(const std::string& path, const QString& title, QPageSize size, const Draw& draw) {
  QByteArray bytes;
  {
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setPageSize(size);
    writer.setResolution(600);
    writer.setTitle(title);
    writer.setCreator(QStringLiteral("Upland Wren"));
    writer.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout::Millimeter);
    draw(writer);
  }
  return write_file_atomically(path, std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
}

}  // namespace

void print_body_sheet(QPagedPaintDevice& device, const Project& project, const BodyDesign& d, const BodyCuts& cuts,
                      const std::string& date, UnitSystem units) {
  const BodySheet sheet = body_sheet(project, d, cuts, date, units);
  device.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout::Millimeter);
  Page page(device, q(sheet.title) + QStringLiteral("     ") + q(sheet.date));
  draw_sheet_head(page, sheet, 32);
  page.down(1);
  const Box2 box = bounds(d.shape.corners);
  BodyInk ink;
  ink.for_paper = true;
  picture(page, box.low - Vec2{24, 8}, box.high + Vec2{10, 8}, 92,
          [&](QPainter& g, const QTransform& t) { paint_body(g, d, t, ink); });
  page.text(QObject::tr("Solid: from the face. Dashed: from the back. Dotted: under the top. Arrows at the edge: "
                        "drilled by hand. Not to scale."),
            7.5);
  page.down(2);
  page.text(QObject::tr("Cautions"), 11, true);
  for (const auto& c : sheet.cautions) page.text(QStringLiteral("!  ") + q(c), 8.5);
  page.down(2);
  page.text(QObject::tr("Set-up"), 11, true);
  for (const auto& line : sheet.set_up) page.text(q(line), 9);
  for (const BodySheetSide& side : sheet.sides) {
    page.down(3);
    page.room(80);  // heading, picture and the first lines stay together
    page.text(q(side.title), 13, true);
    for (const Placement& s : cuts.sides)
      if (s.id == side.id)
        picture(page, Vec2{s.setup.blank_corner.x - 12, s.setup.blank_corner.y - 12},
                Vec2{s.setup.blank_corner.x + s.setup.blank_size.x + 12,
                     s.setup.blank_corner.y + s.setup.blank_size.y + 12},
                62, [&](QPainter& g, const QTransform& t) {
                  paint_body_bed(g, d, project.body_work.alignment, s.id, s.setup, t, true);
                });
    int number = 0;
    for (const auto& step : side.alignment) bulleted(page, std::to_string(++number) + "  " + step);
    page.down(1);
    for (const RunStep& step : side.steps) {
      page.room(24);
      page.line();
      page.box(QRectF(page.left(), page.y() + 0.8, 3.6, 3.6));
      page.text(q(step.time), 10, true, page.width() - 30, 30, false);
      page.text(q(step.title), 10, true, 6, page.width() - 40);
      page.text(q(step.file), 9, false, 6);
      page.text(q(step.cutter) + QStringLiteral(";  ") + q(step.speeds), 9, false, 6);
      for (const auto& c : step.caution) page.text(QStringLiteral("!  ") + q(c), 8.5, true, 6);
      for (const auto& b : step.before) page.text(QObject::tr("Before:  ") + q(b), 8.5, false, 6);
      for (const auto& c : step.check) page.text(QObject::tr("Check:  ") + q(c), 8.5, false, 6);
      page.down(1.2);
    }
    for (const auto& after : side.after) bulleted(page, after);
  }
  if (!sheet.by_hand.empty()) {
    page.down(2);
    page.text(QObject::tr("Drilled by hand"), 11, true);
    for (const auto& h : sheet.by_hand) bulleted(page, h);
  }
  page.line();
  page.down(2);
  page.room(14 + 7.0 * static_cast<double>(sheet.boxes.size()));
  page.text(QObject::tr("What came off the machine"), 11, true);
  page.down(1);
  for (const auto& label : sheet.boxes) {
    page.text(q(label), 9, false, 0, 60, false);
    page.box(QRectF(page.left() + 62, page.y() - 1, page.width() - 62, 6));
    page.down(7);
  }
  page.down(2);
  draw_scale_bar(page);
}

Expected<void> write_body_sheet_pdf(const std::string& path, const Project& project, const BodyDesign& design,
                                    const BodyCuts& cuts, const std::string& date, UnitSystem units) {
  return write_pdf(path, q(project.name + ": body, run sheet"), QPageSize(QPageSize::A4),
                   [&](QPdfWriter& writer) { print_body_sheet(writer, project, design, cuts, date, units); });
}

Expected<void> write_body_templates_pdf(const std::string& path, const Project& project, const BodyDesign& d,
                                        const TemplatePaper& paper) {
  return write_pdf(
      path, q(project.name + ": body, templates at full size"), QPageSize(paper.page), [&](QPdfWriter& writer) {
        QPainter g(&writer);
        const double per_mm = writer.logicalDpiX() / 25.4;
        g.scale(per_mm, per_mm);
        const QSizeF size = QPageSize(paper.page).size(QPageSize::Millimeter);
        constexpr double overlap = 12;
        const QRectF window(14, 24, size.width() - 28, size.height() - 52);
        QFont font(QStringLiteral("Inter"));
        font.setPixelSize(40);
        const auto words = [&](QPointF at, const QString& text) {
          g.save();
          g.translate(at);
          g.scale(0.08, 0.08);
          g.setFont(font);
          g.setPen(Qt::black);
          g.drawText(QPointF(0, 0), text);
          g.restore();
        };
        bool first = true;
        for (const Template& tpl : router_templates(d.shape, paper.router)) {
          const Polygon ring = flatten(tpl.contour, 0.01);
          Box2 box = bounds(ring);
          const Vec2 low = box.low - Vec2{4, 4};
          const Vec2 extent = box.size() + Vec2{8, 8};
          const int across =
              std::max(1, static_cast<int>(std::ceil((extent.x - overlap) / (window.width() - overlap))));
          const int down = std::max(1, static_cast<int>(std::ceil((extent.y - overlap) / (window.height() - overlap))));
          int sheet = 0;
          for (int row = 0; row < down; ++row)
            for (int col = 0; col < across; ++col) {
              if (!first) writer.newPage();
              first = false;
              ++sheet;
              words({14, 14}, QObject::tr("%1: %2, sheet %3 of %4 (row %5, column %6)")
                                  .arg(q(project.name), q(tpl.title))
                                  .arg(sheet)
                                  .arg(across * down)
                                  .arg(row + 1)
                                  .arg(col + 1));
              words({14, 19}, std::abs(paper.router.off()) < 1e-9
                                  ? QObject::tr("The edge itself: a bearing as wide as its cutter.")
                                  : QObject::tr("%1 by %2 mm: cutter %3, bearing or bush %4.")
                                        .arg(tpl.inside == (paper.router.off() > 0) ? QObject::tr("Larger")
                                                                                    : QObject::tr("Smaller"))
                                        .arg(std::abs(paper.router.off()), 0, 'f', 2)
                                        .arg(paper.router.cutter)
                                        .arg(paper.router.follower));
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
                g.drawLine(QPointF(window.left() + overlap, window.top()),
                           QPointF(window.left() + overlap, window.bottom()));
              if (row > 0)
                g.drawLine(QPointF(window.left(), window.top() + overlap),
                           QPointF(window.right(), window.top() + overlap));
              g.restore();
              draw_crop_marks(g, window);
              const QPointF bar(window.left(), window.bottom() + 14);
              g.setPen(QPen(Qt::black, 0.3));
              g.drawLine(bar, bar + QPointF(100, 0));
              for (int i = 0; i <= 10; ++i)
                g.drawLine(bar + QPointF(i * 10, -(i % 5 == 0 ? 1.5 : 0.8)), bar + QPointF(i * 10, 0));
              words(bar + QPointF(0, 5),
                    QObject::tr(
                        "100 mm: if not, print at full size, never fitted to the page. Join at the dotted lines."));
            }
        }
      });
}

}  // namespace wren::app

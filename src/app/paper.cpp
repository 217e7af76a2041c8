#include "app/paper.hpp"

#include <QBuffer>
#include <QPainter>
#include <QPdfWriter>

#include "app/board_painter.hpp"
#include "app/paper_page.hpp"
#include "core/document/project_file.hpp"

namespace wren::app {
namespace {

QString q(const std::string& s) { return QString::fromStdString(s); }

/// Blank and marks as they lie on the machine, with the distances to mark. The painter's units are mm, so type is set
/// in pixels of a mm.
void draw_bed(Page& page, const BoardDesign& d, const BoardCuts& cuts, UnitSystem units) {
  const Setup& s = d.setup;
  const bool tall = s.blank_size.y > s.blank_size.x;
  const double high = tall ? 120 : 62;
  page.room(high);
  const QRectF room(page.left() + 8, page.y() + 8, page.width() - 16, high - 18);
  double out = 0;
  for (const auto& box : s.clamp_boxes())
    out = std::max({out, s.blank_corner.x - box.low.x, box.high.x - s.blank_corner.x - s.blank_size.x});
  const QTransform t = fitted({s.blank_corner.x - out, s.blank_corner.y - 4},
                              {s.blank_corner.x + s.blank_size.x + out, s.blank_corner.y + s.blank_size.y + 4}, room);
  QPainter& g = page.g();
  g.save();
  g.setClipRect(QRectF(page.left(), page.y(), page.width(), high));
  // Widget-sized pens and arrows are drawn at a third of a millimetre a pixel.
  g.translate(room.topLeft());
  g.scale(1.0 / 3, 1.0 / 3);
  g.translate(-room.topLeft());
  const QTransform big = t * QTransform::fromTranslate(-room.left(), -room.top()) * QTransform::fromScale(3, 3) *
                         QTransform::fromTranslate(room.left(), room.top());
  BoardInk ink;
  ink.for_paper = true;
  paint_bed(g, d, &cuts, big, ink);
  QFont font(QStringLiteral("Inter"));
  font.setPixelSize(8);
  g.setFont(font);
  const auto len = [&](double v) { return q(format_length(v, units)); };
  const Vec2 c{s.blank_corner.x, s.blank_corner.y};
  const Vec2 far = c + s.blank_size;
  paint_measure(g, mapped({c.x, far.y}, big), mapped({c.x + s.blank_size.x / 2, far.y}, big), -12,
                len(s.blank_size.x / 2), Qt::black);
  paint_measure(g, mapped({c.x + s.blank_size.x / 2, far.y}, big), mapped(far, big), -12, len(s.blank_size.x / 2),
                Qt::black);
  paint_measure(g, mapped(c, big), mapped({c.x, c.y + s.blank_size.y / 2}, big),
                -12 - out * std::hypot(big.m11(), big.m12()), len(s.blank_size.y / 2), Qt::black);
  g.restore();
  page.down(high);
  page.text(QObject::tr("Ring with a dark quarter: work zero. Dashed: the crossed lines of the waste board. Hatched: "
                        "clamps. Heavy bars: tabs. Not to scale."),
            7.5);
  page.down(2);
}

}  // namespace

void print_run_sheet(QPagedPaintDevice& device, const Project& project, const BoardDesign& design,
                     const BoardCuts& cuts, const std::string& date, UnitSystem units) {
  const RunSheet sheet = run_sheet(project, design, cuts, date, units);
  device.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout::Millimeter);
  Page page(device, q(sheet.title) + QStringLiteral("     ") + q(sheet.date));
  draw_sheet_head(page, sheet, 28);
  draw_bed(page, design, cuts, units);
  page.text(QObject::tr("Alignment"), 11, true);
  for (std::size_t i = 0; i < sheet.alignment.size(); ++i) {
    page.room(5);
    page.box(QRectF(page.left(), page.y() + 0.7, 2.8, 2.8));
    page.text(QStringLiteral("%1  ").arg(i + 1) + q(sheet.alignment[i]), 9, false, 5);
    page.down(0.6);
  }
  page.down(2);
  page.text(QObject::tr("Cautions"), 11, true);
  for (const auto& c : sheet.cautions) page.text(QStringLiteral("!  ") + q(c), 8.5);
  page.down(3);
  page.text(QObject::tr("Programs, in this order"), 11, true);
  for (const RunStep& step : sheet.steps) {
    page.room(30);
    page.line();
    page.box(QRectF(page.left(), page.y() + 0.8, 3.6, 3.6));
    page.text(q(step.time), 10, true, page.width() - 30, 30, false);
    page.text(q(step.title), 10, true, 6, page.width() - 40);
    page.text(q(step.file), 9, false, 6);
    page.text(q(step.cutter) + QStringLiteral(";  ") + q(step.speeds), 9, false, 6);
    for (const auto& c : step.caution) page.text(QStringLiteral("!  ") + q(c), 8.5, true, 6);
    for (const auto& b : step.before) page.text(QObject::tr("Before:  ") + q(b), 8.5, false, 6);
    for (const auto& c : step.check) page.text(QObject::tr("Check:  ") + q(c), 8.5, false, 6);
    page.down(1.5);
  }
  page.line();
  page.down(2);
  page.room(22 + 7.0 * static_cast<double>(sheet.boxes.size()));
  page.text(QObject::tr("What came off the machine"), 11, true);
  page.down(1);
  for (const auto& label : sheet.boxes) {
    page.room(8);
    page.text(q(label), 9, false, 0, 60, false);
    page.box(QRectF(page.left() + 62, page.y() - 1, page.width() - 62, 6));
    page.down(7);
  }
  page.down(2);
  draw_scale_bar(page);
}

Expected<void> write_run_sheet_pdf(const std::string& path, const Project& project, const BoardDesign& design,
                                   const BoardCuts& cuts, const std::string& date, UnitSystem units) {
  QByteArray bytes;
  {
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setPageSize(QPageSize(QPageSize::A4));
    writer.setResolution(600);
    writer.setTitle(q(project.name + ": fretboard, run sheet"));
    writer.setCreator(QStringLiteral("Upland Wren"));
    print_run_sheet(writer, project, design, cuts, date, units);
  }
  return write_file_atomically(path, std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
}

}  // namespace wren::app

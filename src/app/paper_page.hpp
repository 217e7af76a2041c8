// A page on paper that is filled from the top down in true millimetres; shared by every sheet.
#pragma once

#include <QBuffer>
#include <QPagedPaintDevice>
#include <QPainter>
#include <QPdfWriter>

#include "app/board_painter.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/document/files.hpp"

namespace wren::app {

/// Lays lines of text and pictures down a page and turns the page when it is full. Units: mm on paper.
class Page {
 public:
  Page(QPagedPaintDevice& device, QString foot) : device_(device), foot_(std::move(foot)), painter_(&device) {
    const double per_mm = painter_.device()->logicalDpiX() / 25.4;
    painter_.scale(per_mm, per_mm);
    // The device's own margins are off; ours are drawn.
    size_ = device.pageLayout().fullRect(QPageLayout::Millimeter).size();
    foot_line();
  }
  [[nodiscard]] QPainter& g() { return painter_; }
  [[nodiscard]] double left() const { return 15; }
  [[nodiscard]] double width() const { return size_.width() - 30; }
  [[nodiscard]] double y() const { return y_; }
  void down(double mm) { y_ += mm; }
  void room(double mm) {
    if (y_ + mm <= size_.height() - 18) return;
    device_.newPage();
    ++page_;
    y_ = 15;
    foot_line();
  }
  /// Height used. `points` is the size of the type.
  double text(const QString& words, double points, bool strong = false, double indent = 0, double wide = 0,
              bool advance = true) {
    QFont font(QStringLiteral("Inter"));
    // The font has other shapes for signs beside figures, and a PDF does not know what those stand for: "-255" would
    // read "255" for whoever copies it.
    font.setStyleStrategy(QFont::PreferNoShaping);
    font.setPixelSize(100);
    if (strong) font.setWeight(QFont::DemiBold);
    const double size = points * 25.4 / 72;  // mm
    const double k = size / 100;
    const double w = wide > 0 ? wide : width() - indent;
    const QFontMetricsF fm(font);
    const QRectF box = fm.boundingRect(QRectF(0, 0, w / k, 1e6), Qt::TextWordWrap, words);
    if (advance) room(box.height() * k);
    painter_.save();
    painter_.translate(left() + indent, y_);
    painter_.scale(k, k);
    painter_.setFont(font);
    painter_.setPen(Qt::black);
    painter_.drawText(QRectF(0, 0, w / k, box.height() + 50), Qt::TextWordWrap, words);
    painter_.restore();
    const double used = box.height() * k;
    if (advance) y_ += used;
    return used;
  }
  void box(QRectF r) {
    painter_.setPen(QPen(Qt::black, 0.25));
    painter_.setBrush(Qt::NoBrush);
    painter_.drawRect(r);
  }
  void line() {
    painter_.setPen(QPen(Qt::black, 0.2));
    painter_.drawLine(QPointF(left(), y_), QPointF(left() + width(), y_));
    y_ += 1.5;
  }

 private:
  void foot_line() {
    const double keep = y_;
    y_ = size_.height() - 13;
    text(foot_ + QStringLiteral("     page %1").arg(page_), 7.5, false, 0, 0, false);
    y_ = keep;
  }
  TrueSize true_size_;
  QPagedPaintDevice& device_;
  QString foot_;
  QPainter painter_;
  QSizeF size_;
  double y_ = 15;
  int page_ = 1;
};

/// A line of small type (3.2 mm) on a sheet of templates, its baseline at a place in mm.
inline void small_words(QPainter& g, QPointF at, const QString& text) {
  QFont font(QStringLiteral("Inter"));
  font.setStyleStrategy(QFont::PreferNoShaping);  // signs stay what they are (see Page::text)
  font.setPixelSize(40);
  g.save();
  g.translate(at);
  g.scale(0.08, 0.08);
  g.setFont(font);
  g.setPen(Qt::black);
  g.drawText(QPointF(0, 0), text);
  g.restore();
}

/// Marks just outside a window's corners, to cut and join sheets by.
inline void draw_crop_marks(QPainter& g, QRectF r) {
  g.setPen(QPen(Qt::black, 0.2));
  for (const QPointF c : {r.topLeft(), r.topRight(), r.bottomLeft(), r.bottomRight()}) {
    const double sx = c.x() < r.center().x() ? -1 : 1;
    const double sy = c.y() < r.center().y() ? -1 : 1;
    g.drawLine(c + QPointF(sx * 1, 0), c + QPointF(sx * 5, 0));
    g.drawLine(c + QPointF(0, sy * 1), c + QPointF(0, sy * 5));
  }
}

/// The bar that tells whether the printer shrank the page: as long as a ruler in the reader's units shows at once.
struct ScaleBar {
  explicit ScaleBar(UnitSystem units)
      : length(units == UnitSystem::inch ? 4 * mm_per_inch : 100),
        parts(units == UnitSystem::inch ? 8 : 10),
        words(length_words(length, units)) {}
  double length;  // mm
  int parts;      // half inches, or centimetres
  QString words;  // its length
  void draw(QPainter& g, QPointF at) const {
    g.setPen(QPen(Qt::black, 0.3));
    g.drawLine(at, at + QPointF(length, 0));
    for (int i = 0; i <= parts; ++i) {
      const QPointF tick = at + QPointF(length * i / parts, 0);
      g.drawLine(tick - QPointF(0, 2 * i % parts == 0 ? 1.5 : 0.8), tick);
    }
  }
};

/// The bar under a sheet, with what it is for.
inline void draw_scale_bar(Page& page, UnitSystem units) {
  const ScaleBar bar(units);
  page.room(9);
  bar.draw(page.g(), {page.left(), page.y() + 2});
  page.down(3);
  page.text(QObject::tr("This bar is %1 long on paper: if it is not, print at full size, never fitted to the page.")
                .arg(bar.words),
            7.5);
}

/// Head of a run sheet: title, date, a rule, and its facts in two columns, the second `column` mm from the left.
template <class Sheet>
void draw_sheet_head(Page& page, const Sheet& sheet, double column) {
  page.text(in_words(sheet.title), 18, true);
  page.text(QObject::tr("Run sheet, %1").arg(QString::fromStdString(sheet.date)), 10);
  page.down(2);
  page.line();
  for (const auto& [label, value] : sheet.facts) {
    page.text(QString::fromStdString(label), 9, true, 0, column, false);
    page.text(QString::fromStdString(value), 9, false, column);
    page.down(0.6);
  }
}

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

inline void bulleted(Page& page, const std::string& text) {
  page.room(6);
  page.box(QRectF(page.left(), page.y() + 0.7, 2.8, 2.8));
  page.text(QString::fromStdString(text), 9, false, 5);
  page.down(0.6);
}

/// Papers by the names that the command line has for them.
struct PaperName {
  const char* name;
  const char* title;
  QPageSize::PageSizeId size;
};
constexpr PaperName paper_names[] = {
    {"a4", "A4", QPageSize::A4}, {"a3", "A3", QPageSize::A3}, {"letter", "Letter", QPageSize::Letter}};
[[nodiscard]] inline QPageSize paper_size(const QString& name) {
  for (const PaperName& p : paper_names)
    if (name == QLatin1String(p.name)) return QPageSize(p.size);
  return QPageSize(QPageSize::A4);
}

/// A device takes its pages whole, in one of the papers: our own margins are drawn.
inline void set_paper(QPagedPaintDevice& device, const QString& name, QPageLayout::Orientation orientation) {
  device.setPageSize(paper_size(name));
  device.setPageOrientation(orientation);
  device.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout::Millimeter);
}

template <class Draw>
Expected<void> write_pdf(const std::string& path, const QString& title, const Draw& draw) {
  QByteArray bytes;
  {
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setResolution(600);
    writer.setTitle(title);
    writer.setCreator(QStringLiteral("Upland Wren"));
    draw(writer);
  }
  return write_export(path, std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
}

}  // namespace wren::app

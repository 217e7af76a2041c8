#include "app/paper.hpp"

#include <fmt/format.h>

#include "app/paper_page.hpp"
#include "app/pictures.hpp"

namespace wren::app {
namespace {

QString q(const std::string& s) { return QString::fromStdString(s); }

void draw_side(Page& page, const Followed& followed, const Planned& planned, const Side& side, UnitSystem units) {
  const Setup& s = side.setup;
  const Vec2 c{s.blank_corner.x, s.blank_corner.y};
  // Clamps may stand beside the blank; the dimension at its side wants a fourteenth of the page's width.
  Vec2 room{std::max(12.0, s.blank_size.x / 13), 12};
  for (const auto& box : s.clamp_boxes())
    room = {std::max({room.x, c.x - box.low.x, box.high.x - c.x - s.blank_size.x}),
            std::max({room.y, c.y - box.low.y, box.high.y - c.y - s.blank_size.y})};
  const double tall = s.blank_size.y > s.blank_size.x ? 118 : s.blank_size.y > 0.35 * s.blank_size.x ? 66 : 46;
  const PaintSide paint = side_painter(planned.part);
  picture(page, c - room, c + s.blank_size + room, tall, [&](QPainter& g, const QTransform& t) {
    paint(g, followed, planned, side, t, true);
    QFont font(QStringLiteral("Inter"));
    font.setStyleStrategy(QFont::PreferNoShaping);  // signs stay what they are (see Page::text)
    font.setPixelSize(8);
    g.setFont(font);
    const auto len = [&](double v) { return length_words(v, units); };
    const Vec2 far = c + s.blank_size;
    paint_measure(g, mapped({c.x, far.y}, t), mapped({c.x + s.blank_size.x / 2, far.y}, t), -10,
                  len(s.blank_size.x / 2), Qt::black);
    paint_measure(g, mapped(c, t), mapped({c.x, c.y + s.blank_size.y / 2}, t), -10, len(s.blank_size.y / 2), Qt::black);
  });
  page.text(QObject::tr("Ring with a dark quarter: work zero. Dotted rings: holes in the waste board. Hatched: clamps. "
                        "Heavy marks: tabs. Not to scale."),
            7.5);
  page.down(1.5);
}

void draw_step(Page& page, const RunStep& step) {
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

void draw_boxes(Page& page, const std::vector<std::string>& boxes) {
  page.line();
  page.down(2);
  page.room(14 + 7.0 * static_cast<double>(boxes.size()));
  page.text(QObject::tr("What came off the machine"), 11, true);
  page.down(1);
  for (const auto& label : boxes) {
    page.room(8);
    page.text(q(label), 9, false, 0, 60, false);
    page.box(QRectF(page.left() + 62, page.y() - 1, page.width() - 62, 6));
    page.down(7);
  }
  page.down(2);
}

}  // namespace

void print_run_sheet(QPagedPaintDevice& device, const SheetOf& of, const QString& paper) {
  const auto& [kind, followed, cache, planned, date, units, proof] = of;
  const RunSheet sheet = run_sheet(kind, followed, cache, planned, date, audience(units), proof);
  set_paper(device, paper, QPageLayout::Portrait);
  Page page(device, q(sheet.title) + QStringLiteral("     ") + q(sheet.date));
  draw_sheet_head(page, sheet, 32);
  page.down(2);
  if (const auto whole = whole_picture(kind.id(), followed)) {
    picture(page, whole->low, whole->high, whole->tall, whole->draw);
    page.text(whole->words, 7.5);
    page.down(2);
  }
  const auto list = [&](const QString& title, const std::vector<std::string>& lines, const auto& draw) {
    if (lines.empty()) return;
    page.text(title, 11, true);
    for (const auto& line : lines) draw(line);
    page.down(2);
  };
  list(QObject::tr("Cautions"), sheet.cautions,
       [&](const std::string& c) { page.text(QStringLiteral("!  ") + q(c), 8.5); });
  list(QObject::tr("Set-up"), sheet.set_up, [&](const std::string& line) { page.text(q(line), 9); });
  list(QObject::tr("By hand"), sheet.by_hand, [&](const std::string& line) { bulleted(page, line); });
  for (const RunSide& side : sheet.sides) {
    page.down(2);
    page.room(80);  // heading, picture and the first lines stay together
    page.text(q(side.title), 13, true);
    for (const Piece& piece : planned.made.pieces)
      for (const Side& s : piece.sides)
        if (s.id == side.id) draw_side(page, followed, planned, s, units);
    int number = 0;
    for (const auto& step : side.alignment) bulleted(page, fmt::to_string(++number) + "  " + step);
    page.down(1);
    for (const RunStep& step : side.steps) draw_step(page, step);
    for (const auto& after : side.after) bulleted(page, after);
  }
  draw_boxes(page, sheet.boxes);
  draw_scale_bar(page, units);
}

Expected<void> write_run_sheet_pdf(const std::string& path, const SheetOf& of, const QString& paper) {
  return write_pdf(path, q(of.followed.project.name + ": " + of.kind.id() + ", run sheet"),
                   [&](QPdfWriter& writer) { print_run_sheet(writer, of, paper); });
}

}  // namespace wren::app

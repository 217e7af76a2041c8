#include "app/take_dialog.hpp"

#include <QComboBox>
#include <QCoreApplication>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/board_painter.hpp"
#include "app/theme.hpp"
#include "exchange/trace_in.hpp"

namespace wren::app {
namespace {

constexpr int thumb = 64;

/// The curve by itself, as large as its picture takes.
QIcon picture_of(const CleanedPath& path) {
  QPixmap map(thumb, thumb);
  map.fill(Qt::transparent);
  QPainter g(&map);
  g.setRenderHint(QPainter::Antialiasing);
  const Box2 box = bounds(path.points);
  const QTransform t = fitted(box.low, box.high, QRectF(4, 4, thumb - 8, thumb - 8));
  g.setPen(QPen(colours().ink, 1.4));
  const QPolygonF line = mapped(path.points, t);
  if (path.closed)
    g.drawPolygon(line);
  else
    g.drawPolyline(line);
  return {map};
}

}  // namespace

TakeDialog::TakeDialog(Workbench& bench, QWidget* parent) : QDialog(parent), bench_(bench) {
  setWindowTitle(tr("Curves of a drawing"));
  resize(560, 560);
  auto* column = new QVBoxLayout(this);
  curves_ = new QListWidget(this);
  curves_->setAccessibleName(tr("Curves of the drawing"));
  curves_->setIconSize(QSize(thumb, thumb));
  column->addWidget(curves_, 1);
  auto* form = new QFormLayout;
  as_ = new QComboBox(this);
  as_->setAccessibleName(tr("What the curve becomes"));
  for (const TakeWay& way : take_ways())
    // A whole body with what lies in it has a dialog of its own.
    if (way.as != TakenAs::body_outline)
      as_->addItem(QCoreApplication::translate("take", way.words), QString::fromLatin1(way.id));
  form->addRow(tr("Becomes"), as_);
  scale_ = new QLineEdit(QStringLiteral("1"), this);
  scale_->setAccessibleName(tr("Scaled by"));
  form->addRow(tr("Scaled by"), scale_);
  const auto field = [&](const QString& words, const QString& start, QLabel*& label) {
    auto* edit = new QLineEdit(start, this);
    edit->setAccessibleName(words);
    label = new QLabel(words, this);
    form->addRow(label, edit);
    return edit;
  };
  station_ = field(tr("Taken at, from the nut line"), QStringLiteral("60 mm"), station_words_);
  depth_ = field(tr("Depth"), QStringLiteral("10 mm"), depth_words_);
  column->addLayout(form);
  auto* frames =
      new QLabel(tr("It is taken as it lies: the neck's nut line at x = 0 and its head at negative x, a section "
                    "across and downwards, the body's curves in the body's own frame."),
                 this);
  frames->setWordWrap(true);
  column->addWidget(frames);
  words_ = new QLabel(this);
  words_->setWordWrap(true);
  column->addWidget(words_);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
  take_ = buttons->addButton(tr("&Take it"), QDialogButtonBox::ActionRole);
  column->addWidget(buttons);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  connect(take_, &QPushButton::clicked, this, &TakeDialog::take);
  connect(as_, &QComboBox::currentIndexChanged, this, &TakeDialog::show_fields);
  connect(curves_, &QListWidget::currentRowChanged, this, &TakeDialog::show_fields);
  show_fields();
}

void TakeDialog::load(const QString& path, int page) {
  say(tr("Reading %1…").arg(path), false);
  read_.start(
      [file = path.toStdString(), page](Progress& progress) {
        return std::make_shared<const Expected<PlanDrawing>>(read_plan(file, page, {}, &progress));
      },
      [this](const std::shared_ptr<const Expected<PlanDrawing>>& read) {
        drawing_.reset();
        if (*read)
          drawing_ = **read;
        else
          say(bench_.words(read->error()), true);
        show_drawing();
      });
}

void TakeDialog::show_drawing() {
  curves_->clear();
  if (!drawing_) return show_fields();
  constexpr std::size_t most = 400;  // more curves than this nobody goes through one by one
  for (const CleanedPath& path : drawing_->cleaned.paths) {
    if (static_cast<std::size_t>(curves_->count()) >= most) break;
    const Vec2 size = bounds(path.points).size();
    new QListWidgetItem(
        picture_of(path),
        tr("%1 × %2%3").arg(size.x, 0, 'f', 2).arg(size.y, 0, 'f', 2).arg(path.closed ? QString() : tr(", open")),
        curves_);
  }
  curves_->setCurrentRow(curves_->count() > 0 ? 0 : -1);
  say(drawing_->unit_known ? tr("%1 curves, the largest first.").arg(drawing_->cleaned.paths.size())
                           : tr("The drawing does not say its unit: scale it by a length you know."),
      false);
  show_fields();
}

void TakeDialog::show_fields() {
  const QString as = as_->currentData().toString();
  for (QWidget* w : {static_cast<QWidget*>(station_), static_cast<QWidget*>(station_words_)})
    w->setVisible(as == QStringLiteral("section"));
  for (QWidget* w : {static_cast<QWidget*>(depth_), static_cast<QWidget*>(depth_words_)})
    w->setVisible(as.startsWith(QStringLiteral("cavity")));
  take_->setEnabled(curves_->currentRow() >= 0);
}

Polygon TakeDialog::chosen() const {
  const int at = curves_->currentRow();
  if (!drawing_ || at < 0) return {};
  return drawing_->cleaned.paths[static_cast<std::size_t>(at)].points;
}

void TakeDialog::say(const QString& words, bool bad) {
  words_->setText(words);
  if (bad) Q_EMIT bench_.said(words, true);
}

void TakeDialog::take() {
  Polygon points = chosen();
  if (points.empty()) return;
  bool number = false;
  const double scale = scale_->text().toDouble(&number);
  if (!number || !(scale > 1e-4 && scale < 1e4))
    return say(tr("A scale is a number, 25.4 for a drawing in inches: not '%1'.").arg(scale_->text()), true);
  for (Vec2& q : points) q = q * scale;
  auto as = take_as(as_->currentData().toString().toStdString());
  if (!as) return say(bench_.words(as.error()), true);
  const auto length = [&](const QLineEdit* edit, double& to) -> std::optional<Problem> {
    if (!edit->isVisible()) return {};
    const auto mm = parse_length(edit->text().toStdString(), bench_.units());
    if (!mm) return mm.error();
    to = *mm;
    return {};
  };
  if (const auto bad = length(station_, as->station)) return say(bench_.words(*bad), true);
  if (const auto bad = length(depth_, as->depth)) return say(bench_.words(*bad), true);
  const bool closed = drawing_->cleaned.paths[static_cast<std::size_t>(curves_->currentRow())].closed;
  const auto next = with_curve(bench_.project(), points, closed, *as);
  if (!next) return say(bench_.words(next.error()), true);
  const auto bad = bench_.change_part(
      as->part, [&](Project& project) { project.parts = next->parts; }, "Take a curve from a drawing");
  say(bad ? bench_.words(*bad) : tr("Taken: %1").arg(as_->currentText()), bad.has_value());
}

}  // namespace wren::app

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
#include "app/words.hpp"
#include "core/units/length.hpp"

namespace wren::app {
namespace {

constexpr int thumb = 64;

/// The curve by itself, as large as its picture takes.
QIcon picture_of(const DrawnCurve& path) {
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
  curves_->setSelectionMode(QAbstractItemView::ExtendedSelection);
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
  dots_ = field(tr("Dots per inch"), QStringLiteral("150"), dots_words_);
  connect(dots_, &QLineEdit::editingFinished, this, [this] {
    if (!dots_->isModified() || path_.isEmpty()) return;
    dots_->setModified(false);
    load(path_, page_);
  });
  station_ = field(tr("Taken at, from the nut line"), QStringLiteral("60 mm"), station_words_);
  depth_ = field(tr("Depth"), QStringLiteral("10 mm"), depth_words_);
  column->addLayout(form);
  auto* frames = new QLabel(
      tr("It is taken as it lies: the neck's nut line at x = 0 and its head at negative x, a section "
         "across and downwards, the body's curves in the body's own frame. Several gauge traces on one sheet "
         "become sections together: choose them all and write their places, 25, 30, 35 mm or 25 by 5, as "
         "the sheet is read."),
      this);
  frames->setWordWrap(true);
  column->addWidget(frames);
  words_ = new QLabel(this);
  words_->setWordWrap(true);
  column->addWidget(words_);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
  auto* all = buttons->addButton(tr("Choose a&ll"), QDialogButtonBox::ActionRole);
  connect(all, &QPushButton::clicked, curves_, &QListWidget::selectAll);
  take_ = buttons->addButton(tr("&Take it"), QDialogButtonBox::ActionRole);
  column->addWidget(buttons);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  connect(take_, &QPushButton::clicked, this, &TakeDialog::take);
  connect(as_, &QComboBox::currentIndexChanged, this, &TakeDialog::show_fields);
  connect(curves_, &QListWidget::itemSelectionChanged, this, &TakeDialog::show_fields);
  show_fields();
}

void TakeDialog::load(const QString& path, int page) {
  path_ = path;
  page_ = page;
  double per_point = 0;
  if (is_raster(path.toStdString())) {
    const auto dots = parse_number(dots_->text().toStdString());
    if (!dots || !(*dots >= 10 && *dots <= 5000))
      return say(tr("Dots per inch are a number from 10 to 5000: not '%1'.").arg(dots_->text()), true);
    per_point = 25.4 / *dots;
  }
  say(tr("Reading %1…").arg(path), false);
  read_.start(
      [file = path.toStdString(), page, per_point](Progress& progress) {
        return std::make_shared<const Expected<Drawn>>(curves_in(file, page, per_point, &progress));
      },
      [this](const std::shared_ptr<const Expected<Drawn>>& read) {
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
  for (const DrawnCurve& path : drawing_->curves) {
    if (static_cast<std::size_t>(curves_->count()) >= most) break;
    const Vec2 size = bounds(path.points).size();
    new QListWidgetItem(
        picture_of(path),
        tr("%1 × %2%3").arg(decimal(size.x, 2), decimal(size.y, 2), path.closed ? QString() : tr(", open")), curves_);
  }
  curves_->setCurrentRow(curves_->count() > 0 ? 0 : -1);
  say(drawing_->unit_known ? tr("%1 curves, the largest first.").arg(drawing_->curves.size())
                           : tr("The drawing does not say its unit: scale it by a length you know."),
      false);
  show_fields();
}

void TakeDialog::show_fields() {
  const QString as = as_->currentData().toString();
  const bool raster = is_raster(path_.toStdString());
  for (QWidget* w : {static_cast<QWidget*>(dots_), static_cast<QWidget*>(dots_words_)}) w->setVisible(raster);
  const qsizetype many = curves_->selectedItems().size();
  station_words_->setText(many > 1 ? tr("Taken at %1 places").arg(many) : tr("Taken at, from the nut line"));
  for (QWidget* w : {static_cast<QWidget*>(station_), static_cast<QWidget*>(station_words_)})
    w->setVisible(as == QStringLiteral("section"));
  for (QWidget* w : {static_cast<QWidget*>(depth_), static_cast<QWidget*>(depth_words_)})
    w->setVisible(as.startsWith(QStringLiteral("cavity")));
  take_->setEnabled(many > 0);
  take_->setText(many > 1 ? tr("&Take them") : tr("&Take it"));
}

std::vector<DrawnCurve> TakeDialog::chosen() const {
  std::vector<DrawnCurve> out;
  if (!drawing_) return out;
  for (int row = 0; row < curves_->count(); ++row)
    if (curves_->item(row)->isSelected()) out.push_back(drawing_->curves[static_cast<std::size_t>(row)]);
  return out;
}

void TakeDialog::say(const QString& words, bool bad) {
  words_->setText(words);
  if (bad) Q_EMIT bench_.said(words, true);
}

void TakeDialog::take() {
  std::vector<DrawnCurve> curves = chosen();
  if (curves.empty()) return;
  const auto scale = parse_number(scale_->text().toStdString());
  if (!scale || !(*scale > 1e-4 && *scale < 1e4))
    return say(tr("A scale is a number, 25.4 for a drawing in inches: not '%1'.").arg(scale_->text()), true);
  for (DrawnCurve& c : curves)
    for (Vec2& q : c.points) q = q * *scale;
  auto as = take_as(as_->currentData().toString().toStdString());
  if (!as) return say(bench_.words(as.error()), true);
  const auto next = [&]() -> Expected<Project> {
    if (as->as == TakenAs::section) {
      const auto places = places_from(station_->text().toStdString(), curves.size(), bench_.units());
      if (!places) return tl::unexpected(places.error());
      if (curves.size() > 1) return with_sections(bench_.project(), curves, *places);
      as->station = places->front();
    } else if (curves.size() > 1) {
      return fail(ProblemKind::input, "only sections of the neck are taken several at a time", "", "Choose one curve");
    }
    if (depth_->isVisible()) {
      const auto mm = parse_length(depth_->text().toStdString(), bench_.units());
      if (!mm) return tl::unexpected(mm.error());
      as->depth = *mm;
    }
    return with_curve(bench_.project(), curves.front().points, curves.front().closed, *as);
  }();
  if (!next) return say(bench_.words(next.error()), true);
  const auto bad = bench_.change_part(
      as->part, [&](Project& project) { project.parts = next->parts; }, "Take a curve from a drawing");
  say(bad                 ? bench_.words(*bad)
      : curves.size() > 1 ? tr("Taken: %n sections of the neck", nullptr, static_cast<int>(curves.size()))
                          : tr("Taken: %1").arg(as_->currentText()),
      bad.has_value());
}

}  // namespace wren::app

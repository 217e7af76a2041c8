#include "app/new_dialog.hpp"

#include <QLabel>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/bench_view.hpp"
#include "app/designs.hpp"
#include "app/theme.hpp"

namespace wren::app {
namespace {

/// The instrument as the bench draws it, small.
QPixmap picture_of(const Parts& parts, const Followed& followed, QSize size) {
  QPixmap picture(size);
  picture.fill(colours().paper);
  Box2 box{{1e9, 1e9}, {-1e9, -1e9}};
  std::vector<OnBench> all;
  for (const PartKind& kind : parts.kinds()) {
    OnBench one = on_bench(kind.id(), followed);
    if (one.outline.empty()) continue;
    const Box2 b = bounds(one.outline);
    box = {{std::min(box.low.x, b.low.x), std::min(box.low.y, b.low.y)},
           {std::max(box.high.x, b.high.x), std::max(box.high.y, b.high.y)}};
    all.insert(all.begin(), std::move(one));
  }
  if (all.empty()) return picture;
  const QTransform t = fitted(box.low, box.high, QRectF(QPointF(6, 6), QSizeF(size.width() - 12, size.height() - 12)));
  QPainter g(&picture);
  g.setRenderHint(QPainter::Antialiasing);
  for (const OnBench& one : all) {
    QPainterPath path;
    path.addPolygon(mapped(one.outline, t));
    path.closeSubpath();
    paint_state(g, path, Standing::open, WoodState::cut);
  }
  for (const OnBench& one : all)
    if (one.plan) one.plan(g, t);
  return picture;
}

QString sentence_of(const Project& p) {
  const Instrument& in = board_of(p).instrument;
  const auto mm = [](double v) { return QString::fromStdString(format_mm(v, 1)); };
  const bool fanned = std::abs(in.strings.scale_bass - in.strings.scale_treble) > 1e-9;
  return NewDialog::tr("%1 strings, scale %2 mm, %3 frets, %4")
      .arg(in.strings.count)
      .arg(fanned ? NewDialog::tr("%1 to %2").arg(mm(in.strings.scale_bass), mm(in.strings.scale_treble))
                  : mm(in.strings.scale_bass))
      .arg(in.frets.count)
      .arg(in.strings.left_handed ? NewDialog::tr("left-handed") : NewDialog::tr("right-handed"));
}

}  // namespace

NewDialog::NewDialog(Workbench& bench, QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("A new instrument"));
  resize(760, 620);
  auto* column = new QVBoxLayout(this);
  auto* words = new QLabel(
      tr("Begin from numbers that fit together, and change them. Nothing of what was made is taken along."), this);
  words->setWordWrap(true);
  column->addWidget(words);
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Where it begins"));
  const QSize size(300, 104);
  list_->setIconSize(size);
  list_->setWordWrap(true);
  list_->setSpacing(4);
  for (const std::string& name : starting_points()) {
    const auto project = project_from(name);
    if (!project) continue;
    Cache cache;
    const Followed followed = follow(bench.parts(), *project, cache);
    QIcon picture(picture_of(bench.parts(), followed, size));
    picture.addPixmap(picture.pixmap(size), QIcon::Selected);  // the chosen one is not tinted
    const bool named = name != "plain";
    auto* item = new QListWidgetItem(picture,
                                     (named ? QString::fromStdString(project->name) : tr("A plain beginning")) +
                                         QLatin1Char('\n') + sentence_of(*project),
                                     list_);
    item->setData(Qt::UserRole, QString::fromStdString(name));
  }
  list_->setCurrentRow(0);
  connect(list_, &QListWidget::itemActivated, this, &QDialog::accept);
  column->addWidget(list_, 1);
  auto* begin = new QPushButton(tr("Begin from this one"), this);
  begin->setObjectName(QStringLiteral("main"));
  connect(begin, &QPushButton::clicked, this, &QDialog::accept);
  column->addWidget(begin, 0, Qt::AlignRight);
}

Project NewDialog::project() const {
  const QListWidgetItem* item = list_->currentItem();
  const auto project = project_from(item != nullptr ? item->data(Qt::UserRole).toString().toStdString() : "plain");
  return project ? *project : Project{};
}

}  // namespace wren::app

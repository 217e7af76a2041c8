#include "app/plan_dialog.hpp"

#include "app/designs.hpp"
#include "app/part_edits.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

#include "app/board_painter.hpp"
#include "app/theme.hpp"

namespace wren::app {

void PlanPicture::show_plan(const PlanDrawing* plan) {
  plan_ = plan;
  marks_.clear();
  update();
}

void PlanPicture::choose(int path) {
  chosen_ = path;
  update();
}

QTransform PlanPicture::to_screen() const {
  Box2 box;
  if (plan_ != nullptr)
    for (const CleanedPath& p : plan_->cleaned.paths)
      for (const Vec2 q : p.points) box.add(q);
  if (box.low.x > box.high.x) return {};
  return fitted(box.low, box.high, QRectF(rect()).adjusted(16, 16, -16, -16));
}

void PlanPicture::paintEvent(QPaintEvent*) {
  QPainter g(this);
  const Palette& p = colours();
  g.fillRect(rect(), p.paper);
  if (plan_ == nullptr) return;
  g.setRenderHint(QPainter::Antialiasing);
  const QTransform t = to_screen();
  for (std::size_t i = 0; i < plan_->cleaned.paths.size(); ++i) {
    const CleanedPath& path = plan_->cleaned.paths[i];
    const bool mine = static_cast<int>(i) == chosen_;
    g.setPen(QPen(mine          ? p.heather
                  : path.closed ? p.ink
                                : p.faint,
                  mine ? 2.6 : 1.1, path.closed ? Qt::SolidLine : Qt::DashLine));
    g.setBrush(Qt::NoBrush);
    QPolygonF line = mapped(path.points, t);
    if (path.closed)
      g.drawPolygon(line);
    else
      g.drawPolyline(line);
    if (mine) {
      g.setBrush(p.paper);
      for (const PathNode& n : path.shape.path) g.drawEllipse(mapped(n.at, t), 2.5, 2.5);
    }
  }
  g.setPen(QPen(p.rowan, 2));
  g.setBrush(Qt::NoBrush);
  for (const Vec2 q : plan_->cleaned.crossings) g.drawEllipse(mapped(q, t), 8, 8);
  for (const Vec2 q : plan_->cleaned.open_ends) {
    const QPointF c = mapped(q, t);
    g.drawLine(c - QPointF(5, 5), c + QPointF(5, 5));
    g.drawLine(c - QPointF(5, -5), c + QPointF(5, -5));
  }
  g.setPen(QPen(p.lichen, 1.8));
  for (const Vec2 q : marks_) {
    const QPointF c = mapped(q, t);
    g.drawLine(c - QPointF(8, 0), c + QPointF(8, 0));
    g.drawLine(c - QPointF(0, 8), c + QPointF(0, 8));
  }
  if (marks_.size() == 2) g.drawLine(mapped(marks_[0], t), mapped(marks_[1], t));
}

void PlanPicture::mousePressEvent(QMouseEvent* event) {
  if (plan_ == nullptr) return;
  const QTransform t = to_screen();
  const QPointF w = t.inverted().map(event->position());
  const Vec2 at{w.x(), w.y()};
  if (event->button() == Qt::RightButton || (event->modifiers() & Qt::ShiftModifier)) {
    if (marks_.size() == 2) marks_.clear();
    marks_.push_back(at);
    Q_EMIT marked();
    update();
    return;
  }
  const double k = std::hypot(t.m11(), t.m12());
  int best = -1;
  double least = 12 / std::max(1e-6, k);
  for (std::size_t i = 0; i < plan_->cleaned.paths.size(); ++i)
    if (plan_->cleaned.paths[i].closed)
      if (const double d = distance_to(plan_->cleaned.paths[i].points, at); d < least) {
        least = d;
        best = static_cast<int>(i);
      }
  if (best >= 0) Q_EMIT chosen(best);
}

PlanDialog::PlanDialog(Workbench& bench, QWidget* parent) : QDialog(parent), bench_(bench) {
  setWindowTitle(tr("Bring in a plan"));
  resize(980, 640);
  auto* all = new QHBoxLayout(this);
  picture_ = new PlanPicture(this);
  picture_->setAccessibleName(tr("Curves of the plan"));
  all->addWidget(picture_, 1);
  auto* column = new QVBoxLayout;
  report_ = new QLabel(this);
  report_->setWordWrap(true);
  column->addWidget(report_);
  pages_ = new QWidget(this);
  auto* pages = new QHBoxLayout(pages_);
  pages->setContentsMargins(0, 0, 0, 0);
  pages->addWidget(new QLabel(tr("Page"), pages_));
  page_ = new QSpinBox(pages_);
  page_->setAccessibleName(tr("Page of the PDF"));
  page_->setKeyboardTracking(false);
  pages->addWidget(page_);
  pages->addStretch(1);
  pages_->hide();
  column->addWidget(pages_);
  connect(page_, &QSpinBox::valueChanged, this, [this](int page) {
    if (!read_.busy()) load(file_, page);
  });
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Closed curves, the largest first"));
  column->addWidget(list_, 1);
  auto* form = new QFormLayout;
  use_ = new QComboBox(this);
  use_->addItems({tr("the body's outline"), tr("a cavity from the face"), tr("a cavity from the back")});
  use_->setAccessibleName(tr("Use the curve as"));
  form->addRow(tr("Use it as"), use_);
  known_ = new QLineEdit(this);
  known_->setPlaceholderText(tr("length you know, e.g. 405 mm"));
  known_->setAccessibleName(tr("Known length"));
  form->addRow(tr("Known length"), known_);
  tail_ = new QLineEdit(QString::fromStdString(format_mm(body_of(bench.project()).body.outline.tail)), this);
  tail_->setAccessibleName(tr("Tail behind the scale line"));
  form->addRow(tr("Tail behind scale line"), tail_);
  mirror_ = new QCheckBox(tr("drawn from behind"), this);
  form->addRow(QString(), mirror_);
  name_ = new QLineEdit(QStringLiteral("cavity"), this);
  name_->setAccessibleName(tr("Name of the cavity"));
  form->addRow(tr("Cavity's name"), name_);
  depth_ = new QLineEdit(QStringLiteral("10 mm"), this);
  depth_->setAccessibleName(tr("Depth of the cavity"));
  form->addRow(tr("Cavity's depth"), depth_);
  column->addLayout(form);
  auto* words =
      new QLabel(tr("The known length is that of the largest curve's longer side; or right-click two points in the "
                    "plan and give their distance. Crosses: open ends. Rings: where a curve crosses itself."),
                 this);
  words->setWordWrap(true);
  column->addWidget(words);
  trouble_ = new QLabel(this);
  trouble_->setWordWrap(true);
  column->addWidget(trouble_);
  take_ = new QPushButton(tr("Take this curve"), this);
  take_->setObjectName(QStringLiteral("main"));
  column->addWidget(take_, 0, Qt::AlignRight);
  all->addLayout(column);
  for (QLabel* l : {report_, trouble_, words}) l->setMaximumWidth(330);
  list_->setMaximumWidth(330);
  connect(take_, &QPushButton::clicked, this, [this] {
    if (take()) accept();
  });
  connect(list_, &QListWidget::currentRowChanged, this, [this](int) { refresh(); });
  connect(picture_, &PlanPicture::chosen, this, [this](int path) {
    for (int i = 0; i < list_->count(); ++i)
      if (list_->item(i)->data(Qt::UserRole).toInt() == path) list_->setCurrentRow(i);
  });
}

void PlanDialog::say(const QString& text, bool bad) {
  trouble_->setText(text);
  trouble_->setStyleSheet(QStringLiteral("color: %1").arg((bad ? colours().rowan : colours().ink).name()));
}

void PlanDialog::load(const QString& file, int page) {
  file_ = file;
  plan_.reset();
  problem_.reset();
  picture_->show_plan(nullptr);
  list_->clear();
  take_->setEnabled(false);
  page_->setEnabled(false);
  report_->setText(tr("Reading %1…").arg(QFileInfo(file).fileName()));
  say({}, false);
  read_.start([path = file.toStdString(), page](Progress& progress) { return read_plan(path, page, {}, &progress); },
              [this](Expected<PlanDrawing> plan) {
                if (plan) {
                  plan_ = std::move(*plan);
                  show_plan();
                } else {
                  problem_ = plan.error();
                  report_->setText(QString());
                  say(QString::fromStdString(problem_->text()), true);
                }
                page_->setEnabled(true);
                Q_EMIT loaded();
              });
}

void PlanDialog::show_plan() {
  const QSignalBlocker quiet(page_);
  page_->setRange(1, plan_->pages);
  pages_->setVisible(plan_->pages > 1);
  take_->setEnabled(true);
  const Cleaned& c = plan_->cleaned;
  QString text =
      tr("%1 segments: %2 doubles and %3 of no length dropped, %4 ends joined. Nothing moved by more than %5 mm.")
          .arg(c.segments_before)
          .arg(c.doubles)
          .arg(c.zero_length)
          .arg(c.joined)
          .arg(c.worst, 0, 'f', 3);
  if (!c.open_ends.empty()) text += tr(" %1 curves stayed open.").arg(c.open_ends.size() / 2);
  if (!c.crossings.empty()) text += tr(" %1 cross themselves.").arg(c.crossings.size());
  for (const std::string& n : plan_->notes) text += QStringLiteral(" ") + QString::fromStdString(n);
  report_->setText(text);
  list_->clear();
  for (std::size_t i = 0; i < c.paths.size(); ++i) {
    const CleanedPath& p = c.paths[i];
    if (!p.closed) continue;
    const Vec2 size = bounds(p.points).size();
    const QString what = p.shape.circle ? tr("circle, diameter %1").arg(2 * p.shape.circle->radius, 0, 'f', 2)
                                        : tr("%1 × %2; %3 lines, %4 arcs, %5 curves")
                                              .arg(size.x, 0, 'f', 1)
                                              .arg(size.y, 0, 'f', 1)
                                              .arg(p.shape.lines)
                                              .arg(p.shape.arcs)
                                              .arg(p.shape.curves);
    auto* item = new QListWidgetItem(
        (p.layer.empty() ? QString() : QString::fromStdString(p.layer) + QStringLiteral(": ")) + what, list_);
    item->setData(Qt::UserRole, static_cast<int>(i));
    if (list_->count() > 400) break;
  }
  picture_->show_plan(&*plan_);
  list_->setCurrentRow(0);
}

void PlanDialog::refresh() {
  const auto* item = list_->currentItem();
  if (item == nullptr) return;
  const int index = item->data(Qt::UserRole).toInt();
  picture_->choose(index);
  const CleanedPath& p = plan_->cleaned.paths[static_cast<std::size_t>(index)];
  if (p.crosses)
    say(tr("This curve crosses itself and cannot be used."), true);
  else
    say(tr("%1 nodes.").arg(p.shape.path.size()), false);
}

bool PlanDialog::take() {
  const auto* item = list_->currentItem();
  if (!plan_ || item == nullptr) {
    say(tr("Choose a closed curve first."), true);
    return false;
  }
  const CleanedPath& p = plan_->cleaned.paths[static_cast<std::size_t>(item->data(Qt::UserRole).toInt())];
  if (p.crosses) {
    say(tr("This curve crosses itself near the ring: mend the drawing first."), true);
    return false;
  }
  double scale = scale_;
  if (!known_->text().trimmed().isEmpty()) {
    const auto known = parse_length(known_->text().toStdString(), bench_.units());
    if (!known) {
      say(QString::fromStdString(known.error().text()), true);
      return false;
    }
    const auto marks = picture_->marks();
    const Vec2 size =
        bounds(plan_->cleaned.paths.front().points).size();  // of the largest curve: its cavities follow the same scale
    const auto found = marks.size() == 2 ? scale_from(marks[0], marks[1], *known)
                                         : scale_from({0, 0}, {std::max(size.x, size.y), 0}, *known);
    if (!found) {
      say(QString::fromStdString(found.error().text()), true);
      return false;
    }
    scale = *found;
  }
  const auto d = body_design(bench_);
  if (!d) {
    say(tr("No body follows from the present numbers; mend those first."), true);
    return false;
  }
  const auto tail = parse_length(tail_->text().toStdString(), bench_.units());
  if (!tail) {
    say(QString::fromStdString(tail.error().text()), true);
    return false;
  }
  // Cavities of the same plan follow the placing of its outline.
  PlanPlacement placement = usual_placement(plan_->cleaned.paths.front(), d->shape.setup.bridge_middle.x + *tail);
  placement.scale = scale;
  placement.mirror = mirror_->isChecked();
  Path path = placed(p.shape.path, placement);
  std::optional<Problem> problem;
  if (use_->currentIndex() == 0) {
    problem = set_outline(bench_, path, "Bring in an outline");
  } else {
    const auto depth = parse_length(depth_->text().toStdString(), bench_.units());
    if (!depth || *depth <= 0) {
      say(depth ? tr("A cavity has a depth.") : QString::fromStdString(depth.error().text()), true);
      return false;
    }
    auto cavities = body_of(bench_.project()).body.drawn;
    cavities.push_back({name_->text().toStdString(), path, use_->currentIndex() == 2, *depth});
    problem = set_cavities(bench_, std::move(cavities), "Bring in a cavity");
  }
  if (problem) {
    say(QString::fromStdString(problem->text()), true);
    return false;
  }
  scale_ = scale;
  return true;
}

}  // namespace wren::app

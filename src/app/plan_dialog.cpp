#include "app/plan_dialog.hpp"

#include "app/designs.hpp"
#include "app/part_edits.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/board_painter.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

constexpr int most_rows = 400;  // more curves than this nobody goes through one by one

QStringList use_names() {
  return {QObject::tr("nothing"),      QObject::tr("the outline"), QObject::tr("cavity, face"),
          QObject::tr("cavity, back"), QObject::tr("hole, face"),  QObject::tr("hole, back")};
}

bool from_back(Becomes as) { return as == Becomes::back_cavity || as == Becomes::back_hole; }

QString shape_words(const CleanedPath& p, UnitSystem units) {
  const Vec2 size = bounds(p.points).size();
  const QString what = p.shape.circle
                           ? QObject::tr("circle, diameter %1").arg(length_words(2 * p.shape.circle->radius, units, 2))
                           : QObject::tr("%1 × %2").arg(length_words(size.x, units, 1), length_words(size.y, units, 1));
  return (p.layer.empty() || p.layer == "0" ? QString() : QString::fromStdString(p.layer) + QStringLiteral(": ")) +
         what + (p.closed ? QString() : QObject::tr(", open")) +
         (p.crosses ? QObject::tr(", crosses itself") : QString());
}

QString depth_text(const CurveUse& use, UnitSystem units) {
  return use.as == Becomes::outline ? QString() : length_words(use.depth, units);
}

}  // namespace

void PlanPicture::show_plan(const PlanDrawing* plan) {
  plan_ = plan;
  uses_.clear();
  marks_.clear();
  update();
}

void PlanPicture::show_uses(const std::vector<CurveUse>& uses) {
  uses_ = uses;
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
    const Becomes as = i < uses_.size() ? uses_[i].as : Becomes::nothing;
    const bool mine = static_cast<int>(i) == chosen_;
    const QPolygonF line = mapped(path.points, t);
    // The outline is heavy, cavities are hatched, holes filled; what comes from the back is dashed, what becomes
    // nothing stays faint.
    const bool hole = as == Becomes::hole || as == Becomes::back_hole;
    const bool cavity = as == Becomes::cavity || as == Becomes::back_cavity;
    const QColor ink = mine ? p.heather : as == Becomes::nothing ? p.faint : p.ink;
    g.setPen(QPen(ink,
                  mine                     ? 2.6
                  : as == Becomes::outline ? 2.2
                                           : 1.1,
                  !path.closed || from_back(as) ? Qt::DashLine : Qt::SolidLine));
    QColor fill = ink;
    fill.setAlphaF(0.45F);
    g.setBrush(cavity ? QBrush(fill, from_back(as) ? Qt::FDiagPattern : Qt::BDiagPattern)
               : hole ? QBrush(fill)
                      : QBrush(Qt::NoBrush));
    if (path.closed)
      g.drawPolygon(line);
    else
      g.drawPolyline(line);
    if (mine) {
      g.setPen(QPen(p.heather, 1.5));
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
    if (const Polygon& p = plan_->cleaned.paths[i].points; p.size() > 1)
      if (const double d = distance_to(p, at); d < least) {
        least = d;
        best = static_cast<int>(i);
      }
  if (best >= 0) Q_EMIT chosen(best);
}

PlanDialog::PlanDialog(Workbench& bench, QWidget* parent) : QDialog(parent), bench_(bench) {
  setWindowTitle(tr("Bring in a plan"));
  resize(1180, 700);
  auto* all = new QHBoxLayout(this);
  picture_ = new PlanPicture(this);
  picture_->setAccessibleName(tr("Curves of the plan"));
  picture_->setMinimumWidth(420);
  all->addWidget(picture_, 1);
  auto* column = new QVBoxLayout;
  report_ = new QLabel(this);
  report_->setWordWrap(true);
  column->addWidget(report_);
  close_gaps_ = new QPushButton(this);
  close_gaps_->hide();
  column->addWidget(close_gaps_, 0, Qt::AlignLeft);
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
  table_ = new QTableWidget(0, 4, this);
  table_->setAccessibleName(tr("Curves, closed ones first and the largest first, with what each becomes"));
  table_->setHorizontalHeaderLabels({tr("Curve"), tr("Becomes"), tr("Name"), tr("Depth")});
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->setColumnWidth(1, 146);
  table_->setColumnWidth(2, 122);
  table_->setColumnWidth(3, 70);
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setMinimumWidth(560);
  column->addWidget(table_, 1);
  auto* form = new QFormLayout;
  known_ = new QLineEdit(this);
  known_->setPlaceholderText(tr("length you know, e.g. 405 mm"));
  known_->setAccessibleName(tr("Known length"));
  form->addRow(tr("Known length"), known_);
  tail_ = new QLineEdit(length_words(body_of(bench.project()).body.outline.tail, bench.units()), this);
  tail_->setAccessibleName(tr("Tail behind the scale line"));
  form->addRow(tr("Tail behind scale line"), tail_);
  auto* lie = new QHBoxLayout;
  turn_ = new QDoubleSpinBox(this);
  turn_->setRange(-360, 360);
  turn_->setDecimals(2);
  turn_->setSingleStep(90);
  turn_->setSuffix(tr("°"));
  turn_->setAccessibleName(tr("Turned further by"));
  lie->addWidget(turn_);
  mirror_ = new QCheckBox(tr("drawn from behind"), this);
  lie->addWidget(mirror_);
  lie->addStretch(1);
  form->addRow(tr("Turn by"), lie);
  instead_ = new QCheckBox(tr("instead of the cavities and holes drawn before"), this);
  instead_->setChecked(true);
  instead_->setVisible(!body_of(bench.project()).body.drawn.empty() || !body_of(bench.project()).body.holes.empty());
  form->addRow(QString(), instead_);
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
  take_ = new QPushButton(tr("Take these curves over"), this);
  take_->setObjectName(QStringLiteral("main"));
  // Enter in a field takes the field's number, and nothing over.
  take_->setAutoDefault(false);
  close_gaps_->setAutoDefault(false);
  column->addWidget(take_, 0, Qt::AlignRight);
  all->addLayout(column);
  for (QLabel* l : {report_, trouble_, words}) l->setMaximumWidth(560);
  connect(take_, &QPushButton::clicked, this, [this] {
    if (take()) accept();
  });
  connect(table_, &QTableWidget::currentCellChanged, this, [this] { refresh(); });
  connect(table_, &QTableWidget::cellChanged, this, [this](int row, int) { take_row(row); });
  connect(picture_, &PlanPicture::chosen, this, [this](int path) {
    if (path < table_->rowCount()) table_->setCurrentCell(path, 0);
  });
}

int PlanDialog::page() const { return page_->value(); }

void PlanDialog::say(const QString& text, bool bad) {
  trouble_->setText(text);
  trouble_->setStyleSheet(QStringLiteral("color: %1").arg((bad ? colours().rowan : colours().ink).name()));
}

void PlanDialog::load(const QString& file, int page, double join) {
  file_ = file;
  plan_.reset();
  problem_.reset();
  uses_.clear();
  picture_->show_plan(nullptr);
  table_->setRowCount(0);
  take_->setEnabled(false);
  page_->setEnabled(false);
  close_gaps_->hide();
  report_->setText(tr("Reading %1…").arg(QFileInfo(file).fileName()));
  say({}, false);
  CleaningOptions options;
  options.join = join;
  read_.start([path = file.toStdString(), page,
               options](Progress& progress) { return read_plan(path, page, options, &progress); },
              [this](Expected<PlanDrawing> plan) {
                if (plan) {
                  plan_ = std::move(*plan);
                  show_plan();
                } else {
                  problem_ = plan.error();
                  report_->setText(QString());
                  say(in_words(*problem_), true);
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
      tr("%1 segments: %2 doubles and %3 of no length dropped, %4 ends joined. Nothing moved by more than %5.")
          .arg(c.segments_before)
          .arg(c.doubles)
          .arg(c.zero_length)
          .arg(c.joined)
          .arg(length_words(c.worst, bench_.units()));
  if (!c.open_ends.empty()) text += tr(" %1 curves stayed open.").arg(c.open_ends.size() / 2);
  if (!c.crossings.empty()) text += tr(" %1 cross themselves.").arg(c.crossings.size());
  for (const std::string& n : plan_->notes) text += QStringLiteral(" ") + QString::fromStdString(n);
  if (c.paths.size() > most_rows) text += tr(" Only the first %1 curves are listed.").arg(most_rows);
  report_->setText(text);
  if (!c.gaps.empty()) {
    const double widest = c.gaps.back().size();
    close_gaps_->setText(c.gaps.size() == 1 ? tr("Close the gap of %1").arg(length_words(widest, bench_.units(), 2))
                                            : tr("Close %1 gaps of %2 to %3")
                                                  .arg(c.gaps.size())
                                                  .arg(length_words(c.gaps.front().size(), bench_.units(), 2),
                                                       length_words(widest, bench_.units(), 2)));
    close_gaps_->show();
    close_gaps_->disconnect(this);
    connect(close_gaps_, &QPushButton::clicked, this,
            [this, widest] { load(file_, page_->value(), widest * 1.001 + 1e-6); });
  }
  uses_ = usual_uses(c);
  const QSignalBlocker filling(table_);
  table_->setRowCount(static_cast<int>(std::min<std::size_t>(c.paths.size(), most_rows)));
  for (int i = 0; i < table_->rowCount(); ++i) fill_row(i);
  for (std::size_t i = most_rows; i < uses_.size(); ++i) uses_[i].as = Becomes::nothing;
  picture_->show_plan(&*plan_);
  picture_->show_uses(uses_);
  table_->setCurrentCell(0, 0);
  refresh();
}

void PlanDialog::fill_row(int row) {
  const auto i = static_cast<std::size_t>(row);
  const CleanedPath& p = plan_->cleaned.paths[i];
  auto* shape = new QTableWidgetItem(shape_words(p, bench_.units()));
  shape->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
  shape->setToolTip(shape->text());
  table_->setItem(row, 0, shape);
  table_->setItem(row, 2, new QTableWidgetItem(QString::fromStdString(uses_[i].name)));
  table_->setItem(row, 3, new QTableWidgetItem(depth_text(uses_[i], bench_.units())));
  auto* as = new QComboBox(table_);
  as->addItems(use_names());
  as->setCurrentIndex(static_cast<int>(uses_[i].as));
  as->setEnabled(p.closed && !p.crosses);
  as->setAccessibleName(tr("Curve %1 becomes").arg(row + 1));
  connect(as, &QComboBox::currentIndexChanged, this, [this, row](int) { take_row(row); });
  table_->setCellWidget(row, 1, as);
}

void PlanDialog::take_row(int row) {
  if (!plan_ || row < 0 || static_cast<std::size_t>(row) >= uses_.size()) return;
  const auto* as = qobject_cast<QComboBox*>(table_->cellWidget(row, 1));
  if (as == nullptr || table_->item(row, 2) == nullptr || table_->item(row, 3) == nullptr) return;
  CurveUse& use = uses_[static_cast<std::size_t>(row)];
  use.as = static_cast<Becomes>(as->currentIndex());
  use.name = table_->item(row, 2)->text().trimmed().toStdString();
  const QString typed = table_->item(row, 3)->text().trimmed();
  const auto depth = use.as == Becomes::outline || use.as == Becomes::nothing
                         ? Expected<double>(use.depth)  // nothing is cut to it
                         : parse_length(typed.isEmpty() ? "10 mm" : typed.toStdString(), bench_.units());
  use.depth = depth ? *depth : -1;  // refused when it is taken over
  say(depth ? QString() : QString::fromStdString(depth.error().text()), true);
  // One curve is the outline.
  if (use.as == Becomes::outline)
    for (int other = 0; other < table_->rowCount(); ++other)
      if (auto* box = qobject_cast<QComboBox*>(table_->cellWidget(other, 1));
          other != row && uses_[static_cast<std::size_t>(other)].as == Becomes::outline && box != nullptr)
        box->setCurrentIndex(static_cast<int>(Becomes::nothing));
  picture_->show_uses(uses_);
}

void PlanDialog::use(int path, CurveUse as) {
  if (!plan_ || path < 0 || path >= table_->rowCount()) return;
  table_->item(path, 2)->setText(QString::fromStdString(as.name));
  table_->item(path, 3)->setText(depth_text(as, bench_.units()));
  qobject_cast<QComboBox*>(table_->cellWidget(path, 1))->setCurrentIndex(static_cast<int>(as.as));
  take_row(path);
}

void PlanDialog::refresh() {
  const int row = table_->currentRow();
  if (!plan_ || row < 0 || static_cast<std::size_t>(row) >= plan_->cleaned.paths.size()) return;
  picture_->choose(row);
  const CleanedPath& p = plan_->cleaned.paths[static_cast<std::size_t>(row)];
  if (p.crosses)
    say(tr("This curve crosses itself at the ring and cannot be used: mend the drawing there."), true);
  else if (!p.closed)
    say(tr("This curve is open and cannot be used."), true);
  else
    say(tr("%1 nodes: %2 lines, %3 arcs, %4 curves.")
            .arg(p.shape.path.size())
            .arg(p.shape.lines)
            .arg(p.shape.arcs)
            .arg(p.shape.curves),
        false);
}

Expected<PlanPlacement> PlanDialog::placement() const {
  const auto& paths = plan_->cleaned.paths;
  // Cavities and holes follow the placing of the outline; where there is none, of the largest curve.
  std::size_t lead = 0;
  for (std::size_t i = 0; i < uses_.size(); ++i)
    if (uses_[i].as == Becomes::outline) lead = i;
  double scale = 1;
  if (!known_->text().trimmed().isEmpty()) {
    const auto known = parse_length(known_->text().toStdString(), bench_.units());
    if (!known) return tl::unexpected(known.error());
    const auto& marks = picture_->marks();
    const Vec2 size = bounds(paths.front().points).size();
    const auto found = marks.size() == 2 ? scale_from(marks[0], marks[1], *known)
                                         : scale_from({0, 0}, {std::max(size.x, size.y), 0}, *known);
    if (!found) return tl::unexpected(found.error());
    scale = *found;
  }
  const auto d = body_design(bench_);
  if (!d) return fail(ProblemKind::input, "no body follows from the present numbers", "body", "Mend those first");
  const auto tail = parse_length(tail_->text().toStdString(), bench_.units());
  if (!tail) return tl::unexpected(tail.error());
  PlanPlacement out = usual_placement(paths[lead], d->shape.setup.bridge_middle.x + *tail);
  out.scale = scale;
  out.mirror = mirror_->isChecked();
  out.turn_deg += turn_->value();
  return out;
}

bool PlanDialog::take() {
  if (!plan_) {
    say(tr("Nothing is read yet."), true);
    return false;
  }
  const auto lies = placement();
  const auto body = lies ? with_curves(body_of(bench_.project()).body, plan_->cleaned, uses_, *lies,
                                       instead_->isVisible() && instead_->isChecked())
                         : Expected<Body>(tl::unexpected(lies.error()));
  const auto problem = body ? set_drawn(bench_, *body, "Bring in a plan") : std::optional(body.error());
  if (problem) say(in_words(*problem), true);
  return !problem;
}

}  // namespace wren::app

#include "app/cutter_dialog.hpp"

#include <cmath>

#include <fmt/format.h>

#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/cutter_picture.hpp"
#include "app/fields.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/record/cutter_fields.hpp"

namespace wren::app {

CutterDrawing::CutterDrawing(QWidget* parent) : QWidget(parent) {
  setMinimumSize(300, 420);
  setMouseTracking(true);
  setAccessibleName(tr("The cutter, drawn"));
  setToolTip(tr("Drag the tip for what sticks out, the shoulder for the flutes, the edge for the diameter"));
}

void CutterDrawing::show_cutter(const Cutter& cutter) {
  cutter_ = cutter;
  update();
}

double CutterDrawing::scale() const {
  if (held_ != Handle::none) return held_scale_;  // the drawing stands still under the hand
  const double tall = cutter_.stickout + cutter_.nut_diameter * 0.55 + 4;
  const double wide = std::max(cutter_.nut_diameter, cutter_.effective_diameter()) + 26;
  return std::clamp(std::min((height() - 40) / tall, width() / wide), 0.5, 14.0);
}

QPointF CutterDrawing::tip() const {
  return {width() / 2.0, 16 + (cutter_.stickout + cutter_.nut_diameter * 0.55) * scale()};
}

QPointF CutterDrawing::place_of(Handle handle) const {
  const double s = scale();
  switch (handle) {
    case Handle::tip: return tip();
    case Handle::shoulder:
      return tip() - QPointF(cutter_.radius() * s, std::min(cutter_.cutting_length, cutter_.stickout) * s);
    case Handle::edge:
      return tip() + QPointF(cutter_.radius() * s, -std::min(cutter_.cutting_length, cutter_.stickout) * s / 2);
    case Handle::none: break;
  }
  return {};
}

void CutterDrawing::paintEvent(QPaintEvent*) {
  QPainter g(this);
  g.setRenderHint(QPainter::Antialiasing);
  const Palette& p = colours();
  g.fillRect(rect(), p.paper);
  paint_cutter(g, cutter_, tip(), scale());
  g.setFont(figure_font(9));
  const auto mark = [&](Handle h, const QString& text, Qt::Alignment side) {
    const QPointF at = place_of(h);
    g.setPen(QPen(p.heather, 1.5));
    g.setBrush(p.paper);
    g.drawEllipse(at, 6, 6);
    g.setPen(p.ink);
    const QRectF box =
        side == Qt::AlignLeft ? QRectF(at.x() + 12, at.y() - 10, 160, 20) : QRectF(at.x() - 172, at.y() - 10, 160, 20);
    g.drawText(box, static_cast<int>(side) | Qt::AlignVCenter, text);
  };
  mark(Handle::edge, tr("⌀ %1").arg(cutter_.effective_diameter(), 0, 'g', 5), Qt::AlignLeft);
  mark(Handle::shoulder, tr("cuts %1").arg(cutter_.cutting_length, 0, 'g', 4), Qt::AlignRight);
  mark(Handle::tip, tr("sticks out %1").arg(cutter_.stickout, 0, 'g', 4), Qt::AlignLeft);
}

void CutterDrawing::mousePressEvent(QMouseEvent* event) {
  for (const Handle h : {Handle::edge, Handle::shoulder, Handle::tip})
    if (QLineF(event->position(), place_of(h)).length() < 14) {
      held_scale_ = scale();
      held_ = h;
      return;
    }
}

void CutterDrawing::mouseMoveEvent(QMouseEvent* event) {
  if (held_ == Handle::none) {
    bool over = false;
    for (const Handle h : {Handle::edge, Handle::shoulder, Handle::tip})
      over = over || QLineF(event->position(), place_of(h)).length() < 14;
    setCursor(over ? Qt::SizeAllCursor : Qt::ArrowCursor);
    return;
  }
  const double s = scale();
  const double nut = 16 + cutter_.nut_diameter * 0.55 * s;
  const auto tenth = [](double v) { return std::round(v * 10) / 10; };
  if (held_ == Handle::tip)
    Q_EMIT dragged(QStringLiteral("stickout"), tenth((event->position().y() - nut) / s));
  else if (held_ == Handle::shoulder)
    Q_EMIT dragged(QStringLiteral("cutting_length"), tenth((tip().y() - event->position().y()) / s));
  else
    Q_EMIT dragged(QStringLiteral("diameter"), tenth(2 * std::abs(event->position().x() - tip().x()) / s));
}

void CutterDrawing::mouseReleaseEvent(QMouseEvent*) {
  held_ = Handle::none;
  update();
}

CutterDialog::CutterDialog(Workbench& bench, Shop& shop, Cutter cutter, bool as_new, QWidget* parent)
    : QDialog(parent), bench_(bench), shop_(shop), cutter_(std::move(cutter)), as_new_(as_new) {
  setWindowTitle(as_new ? tr("A new cutter") : tr("Cutter %1").arg(QString::fromStdString(cutter_.id)));
  resize(860, 620);
  auto* all = new QVBoxLayout(this);
  auto* middle = new QHBoxLayout;
  drawing_ = new CutterDrawing(this);
  middle->addWidget(drawing_, 1);
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  auto* inside = new QWidget(scroll);
  auto* form = new QFormLayout(inside);
  name_ = new QLineEdit(QString::fromStdString(cutter_.id), inside);
  name_->setReadOnly(!as_new);
  name_->setAccessibleName(tr("Name"));
  name_->setPlaceholderText(tr("flat-6: letters, digits, hyphens"));
  form->addRow(tr("Name"), name_);
  Project one;
  one.rack = {cutter_};
  for (const Field& f : cutter_fields()) {
    const QString text = QString::fromStdString(field_text(f, f.get(one), bench_.units()));
    QWidget* editor = nullptr;
    if (f.kind == FieldKind::choice || f.kind == FieldKind::flag) {
      auto* box = new ChoiceField(inside);
      const std::vector<std::string> words =
          f.kind == FieldKind::flag ? std::vector<std::string>{"true", "false"} : f.choices;
      for (const std::string& w : words)
        box->addItem(f.kind == FieldKind::flag ? (w == "true" ? tr("yes") : tr("no"))
                                               : QString::fromStdString(w).replace(QLatin1Char('_'), QLatin1Char(' ')),
                     QString::fromStdString(w));
      box->setCurrentIndex(std::max(0, box->findData(text == QLatin1String("yes")  ? QStringLiteral("true")
                                                     : text == QLatin1String("no") ? QStringLiteral("false")
                                                                                   : text)));
      connect(box, &QComboBox::currentIndexChanged, this, &CutterDialog::typed);
      editor = box;
    } else {
      auto* edit = new QLineEdit(f.optional && text == QLatin1String("none") ? QString() : text, inside);
      if (f.optional) edit->setPlaceholderText(tr("not given"));
      connect(edit, &QLineEdit::textChanged, this, &CutterDialog::typed);
      editor = edit;
    }
    editor->setAccessibleName(in_words(f.label));
    editor->setToolTip(QString::fromStdString(f.reason));
    form->addRow(in_words(f.label), editor);
    fields_[f.key] = editor;
  }
  note_ = new QLineEdit(inside);
  note_->setAccessibleName(tr("Note"));
  note_->setPlaceholderText(tr("with the micrometer, after the crown"));
  form->addRow(tr("Note"), note_);
  scroll->setWidget(inside);
  middle->addWidget(scroll, 1);
  all->addLayout(middle, 1);
  trouble_ = new QLabel(this);
  trouble_->setWordWrap(true);
  trouble_->setMinimumHeight(2 * fontMetrics().height());
  all->addWidget(trouble_);
  auto* row = new QHBoxLayout;
  row->addStretch(1);
  auto* leave = new QPushButton(tr("Leave it"), this);
  keep_ = new QPushButton(as_new ? tr("Put it into the rack") : tr("Keep it so from now on"), this);
  keep_->setObjectName(QStringLiteral("main"));
  keep_->setDefault(true);
  row->addWidget(leave);
  row->addWidget(keep_);
  all->addLayout(row);
  connect(leave, &QPushButton::clicked, this, &QDialog::reject);
  connect(keep_, &QPushButton::clicked, this, &CutterDialog::keep);
  connect(name_, &QLineEdit::textChanged, this, &CutterDialog::typed);
  connect(drawing_, &CutterDrawing::dragged, this, [this](const QString& key, double mm) {
    const auto it = fields_.find(key.toStdString());
    if (it == fields_.end() || !(mm > 0)) return;
    // What was measured no longer holds for another diameter.
    if (key == QLatin1String("diameter"))
      if (auto* measured = qobject_cast<QLineEdit*>(fields_["measured"])) measured->clear();
    if (auto* edit = qobject_cast<QLineEdit*>(it->second)) edit->setText(length_words(mm, bench_.units(), 2));
  });
  drawing_->show_cutter(cutter_);
  typed();
}

void CutterDialog::typed() {
  if (filling_) return;
  std::vector<std::pair<std::string, std::string>> edits;
  for (const auto& [key, editor] : fields_) {
    if (const auto* box = qobject_cast<QComboBox*>(editor))
      edits.emplace_back(key, box->currentData().toString().toStdString());
    else if (const auto* edit = qobject_cast<QLineEdit*>(editor))
      edits.emplace_back(key, edit->text().trimmed().isEmpty() ? "none" : edit->text().trimmed().toStdString());
  }
  Cutter base = cutter_;
  base.id = as_new_ ? name_->text().trimmed().toStdString() : cutter_.id;
  auto made = with_numbers(base, edits, bench_.units());
  std::optional<Problem> bad;
  if (!made)
    bad = made.error();
  else
    for (const auto& e : shop_.cutters()) {
      if (e.thing.id == made->id && as_new_)
        bad = Problem{ProblemKind::range, "there is a cutter '" + made->id + "' already", "", "Choose another name"};
      if (!e.retired && e.thing.id != made->id && e.thing.number == made->number)
        bad = Problem{ProblemKind::range, "T" + fmt::to_string(made->number) + " is " + e.thing.id + " already", "",
                      "Give it another number"};
    }
  if (made) {
    drawing_->show_cutter(*made);
    cutter_ = *made;
  }
  if (!bad && as_new_ && cutter_.id.empty()) bad = Problem{ProblemKind::input, "it has no name yet", "", "Give it one"};
  trouble_->setStyleSheet(QStringLiteral("color: %1").arg((bad ? colours().rowan : colours().faint).name()));
  trouble_->setText(bad ? bench_.words(*bad)
                        : tr("Nothing is written over: the book keeps what it was before, and since when it is so."));
  keep_->setEnabled(!bad);
}

void CutterDialog::keep() {
  const std::string note = note_->text().trimmed().toStdString();
  const auto bad = shop_.change([&](ShopBook& book) -> Expected<void> {
    return as_new_ ? book.add(cutter_, Shop::told(), note) : book.change(cutter_, Shop::told(), note);
  });
  if (bad) {
    trouble_->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
    trouble_->setText(bench_.words(*bad));
    return;
  }
  accept();
}

}  // namespace wren::app

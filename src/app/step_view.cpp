#include "app/step_view.hpp"

#include <QDialog>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/fields.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

/// Long names may break after a hyphen; what is heard stays whole.
void say_far(QLabel* label, const QString& text) {
  QString broken = text;
  broken.replace(QLatin1Char('-'), QString::fromUtf8("-\u200b"));
  label->setText(broken);
  label->setAccessibleName(text);
}

QString lines_of_words(const QString& head, const std::vector<std::string>& words) {
  if (words.empty()) return {};
  QString out = QStringLiteral("<p><b>%1</b><br>").arg(head);
  QStringList all;
  for (const std::string& w : words) all << QString::fromStdString(w).toHtmlEscaped();
  return out + all.join(QStringLiteral("<br>")) + QStringLiteral("</p>");
}

QString clock_text(qint64 seconds) {
  return seconds < 3600 ? QStringLiteral("%1:%2")
                              .arg(seconds / 60, 2, 10, QLatin1Char('0'))
                              .arg(seconds % 60, 2, 10, QLatin1Char('0'))
                        : QStringLiteral("%1:%2:%3")
                              .arg(seconds / 3600)
                              .arg(seconds / 60 % 60, 2, 10, QLatin1Char('0'))
                              .arg(seconds % 60, 2, 10, QLatin1Char('0'));
}

}  // namespace

StepView::StepView(Workbench& bench, QWidget* parent) : QWidget(parent), bench_(bench) {
  setObjectName(QStringLiteral("step"));
  setAccessibleName(tr("The step at the machine"));
  setFocusPolicy(Qt::StrongFocus);
  setAttribute(Qt::WA_StyledBackground);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 10, 14, 10);
  column->setSpacing(6);
  const auto far = [&](Qt::Alignment align) {
    auto* label = new QLabel(this);
    label->setObjectName(QStringLiteral("far"));
    label->setWordWrap(true);
    label->setAlignment(align | Qt::AlignVCenter);
    return label;
  };
  auto* top = new QHBoxLayout;
  state_ = far(Qt::AlignLeft);
  clock_ = far(Qt::AlignRight);
  clock_->setWordWrap(false);
  top->addWidget(state_, 1);
  top->addWidget(clock_);
  column->addLayout(top);
  file_ = far(Qt::AlignLeft);
  column->addWidget(file_);
  cutter_ = far(Qt::AlignLeft);
  column->addWidget(cutter_);
  auto* middle = new QHBoxLayout;
  bed_ = new BedView(bench, this);
  bed_->setAccessibleName(tr("This set-up on the machine"));
  bed_->setMinimumSize(160, 120);
  bed_->set_far(true);
  auto* scroll = new QScrollArea(this);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll->setAccessibleName(tr("What to do"));
  scroll->viewport()->setAccessibleName(tr("What to do"));
  words_ = new QLabel(scroll);
  words_->setWordWrap(true);
  words_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
  words_->setTextFormat(Qt::RichText);
  scroll->setWidget(words_);
  middle->addWidget(scroll, 3);
  middle->addWidget(bed_, 2);
  column->addLayout(middle, 1);
  row_ = new QGridLayout;
  row_->setSpacing(8);
  const auto button = [&](const QString& text, auto slot) {
    auto* b = new QPushButton(text, this);
    b->setMinimumSize(touch_pixels(), touch_pixels());
    connect(b, &QPushButton::clicked, this, slot);
    buttons_.push_back(b);
    return b;
  };
  before_ = button(QStringLiteral("‹"), [this] { go(-1); });
  before_->setAccessibleName(tr("Step before"));
  start_ = button(tr("Start clock"), [this] {
    const bool mine = running_.isValid() && clocked_ == line();
    if (mine) {
      running_.invalidate();
    } else {
      clocked_ = line();
      running_.start();
    }
    tick();
  });
  cut_ = button(tr("Cut"), [this] { cut(); });
  button(tr("Measure…"), [this] { measure(); });
  button(tr("Not right…"), [this] { not_right(); });
  after_ = button(QStringLiteral("›"), [this] { go(1); });
  after_->setAccessibleName(tr("Step after"));
  button(tr("To the desk"), [this] { Q_EMIT leave(); });
  column->addLayout(row_);
  second_.setInterval(1000);
  connect(&second_, &QTimer::timeout, this, &StepView::tick);
  second_.start();
  for (const auto signal : {&Workbench::changed, &Workbench::planned_now, &Workbench::proved})
    connect(&bench_, signal, this, [this] {
      if (isVisible()) refresh();
    });
}

void StepView::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  // As many rows of buttons as the width asks for: none is made smaller.
  int widest = 0;
  int all = 0;
  for (const QPushButton* b : buttons_) {
    widest = std::max(widest, b->sizeHint().width());
    all += b->sizeHint().width() + row_->horizontalSpacing();
  }
  const int room = width() - 28;
  const int columns = all <= room ? static_cast<int>(buttons_.size()) : std::max(2, room / (widest + 8));
  for (QPushButton* b : buttons_) row_->removeWidget(b);
  for (std::size_t i = 0; i < buttons_.size(); ++i)
    row_->addWidget(buttons_[i], static_cast<int>(i) / columns, static_cast<int>(i) % columns);
  bed_->setVisible(width() > 900);
}

void StepView::show_line(const std::string& line) {
  wanted_ = line;
  refresh();
}

std::string StepView::line() const {
  return at_ < steps_.size() && !steps_[at_].lines.empty() ? steps_[at_].lines.front() : std::string();
}

void StepView::refresh() {
  const auto planned = bench_.planned(bench_.part());
  steps_.clear();
  if (planned)
    steps_ = hand_steps(bench_.kind(), bench_.followed(), bench_.cache(), *planned, bench_.sheet(), Workbench::today(),
                        bench_.units(), bench_.proof(bench_.part()).get());
  const auto has = [&](const HandStep& s) {
    return std::find(s.lines.begin(), s.lines.end(), wanted_) != s.lines.end();
  };
  auto it = std::find_if(steps_.begin(), steps_.end(), has);
  if (it == steps_.end()) it = std::find_if(steps_.begin(), steps_.end(), [](const HandStep& s) { return !s.cut; });
  if (it == steps_.end() && !steps_.empty()) it = steps_.end() - 1;
  at_ = static_cast<std::size_t>(it - steps_.begin());
  show_step();
}

void StepView::go(int by) {
  const auto to = static_cast<long>(at_) + by;
  if (to < 0 || to >= static_cast<long>(steps_.size())) return;
  at_ = static_cast<std::size_t>(to);
  wanted_ = line();
  show_step();
  Q_EMIT line_shown(QString::fromStdString(wanted_));
}

void StepView::show_step() {
  const Palette& p = colours();
  const bool there = at_ < steps_.size();
  for (QPushButton* b : {start_, cut_}) b->setEnabled(there);
  before_->setEnabled(there && at_ > 0);
  after_->setEnabled(there && at_ + 1 < steps_.size());
  const auto ground = [&](const QColor& c) {
    state_->setStyleSheet(QStringLiteral("QLabel { background: %1; color: %2; padding: 0 12px; border-radius: 6px; }")
                              .arg(c.name(), p.paper.name()));
  };
  if (!there) {
    const auto why = bench_.not_ready();
    say_far(state_, tr("WAIT"));
    ground(p.gorse);
    say_far(file_, QString());
    say_far(cutter_, QString());
    words_->setText(why ? bench_.words(*why).toHtmlEscaped() : tr("This part has no steps at the machine."));
    tick();
    return;
  }
  const HandStep& s = steps_[at_];
  const auto stops = bench_.stops_writing();
  // The word stands beside a file's name: it holds only where that file lies in the folder, made from these numbers.
  bool proved = false;
  bool written = false;
  QString folder;
  for (const BuildLine& l : bench_.sheet()) {
    if (l.id == bench_.part() + ".rehearsal") proved = l.state >= LineState::proved;
    if (l.id != bench_.part() + ".programs") continue;
    written = l.state == LineState::written && !l.older;
    folder = QString::fromStdString(l.note.empty() ? l.hint : l.note);
  }
  if (s.cut) {
    say_far(state_, tr("CUT"));
    ground(p.lichen);
  } else if (stops) {
    say_far(state_, tr("STOP"));
    ground(p.rowan);
  } else if (!proved) {
    say_far(state_, tr("NOT PROVED"));
    ground(p.rowan);
  } else if (!written) {
    say_far(state_, tr("NOT WRITTEN"));
    ground(p.gorse);
  } else {
    say_far(state_, tr("PROVED"));
    ground(p.lichen);
  }
  say_far(file_, QString::fromStdString(s.file).section(QLatin1Char('/'), -1).toUpper());
  say_far(cutter_, (s.tool > 0 ? tr("T%1 %2").arg(s.tool).arg(QString::fromStdString(s.cutter))
                               : QString::fromStdString(s.cutter))
                       .toUpper());
  QString text =
      QStringLiteral("<p><b>%1</b><br>%2, step %3 of %4</p>")
          .arg(QString::fromStdString(s.title).toHtmlEscaped(), QString::fromStdString(s.placement).toHtmlEscaped())
          .arg(at_ + 1)
          .arg(steps_.size());
  if (stops)
    text += QStringLiteral("<p style='color:%1'>%2</p>").arg(p.rowan.name(), bench_.words(*stops).toHtmlEscaped());
  text +=
      tr("<p>Stick out %1, collet %2<br>%3</p>")
          .arg(QString::fromStdString(s.stickout), QString::fromStdString(s.collet), QString::fromStdString(s.speeds));
  text += lines_of_words(tr("Caution"), s.caution);
  text += lines_of_words(tr("Lay the wood, find zero"), s.place);
  text += lines_of_words(tr("Before"), s.before);
  text += lines_of_words(tr("Check after it"), s.check);
  text += lines_of_words(tr("Before the wood is moved"), s.after);
  words_->setText(text);
  cut_->setText(s.cut ? tr("Not cut") : tr("Cut"));
  cut_->setAccessibleDescription(s.cut ? tr("It was not cut after all") : tr("This program has been run"));
  bed_->set_side(s.side);
  tick();
}

void StepView::tick() {
  const bool there = at_ < steps_.size();
  const bool mine = running_.isValid() && clocked_ == line();
  const QString whole = there ? work_time(steps_[at_].seconds) : QString();
  say_far(clock_, mine ? tr("%1 of %2").arg(clock_text(running_.elapsed() / 1000), whole) : whole);
  start_->setText(mine ? tr("Stop clock") : tr("Start clock"));
}

void StepView::cut() {
  if (at_ >= steps_.size()) return;
  const bool was = steps_[at_].cut;
  const auto lines = steps_[at_].lines;
  for (const std::string& l : lines) {
    bool cut = false;
    for (const BuildLine& b : bench_.sheet())
      if (b.id == l) cut = b.state == LineState::cut && !b.older;
    if (cut == was) bench_.mark_cut(l);
  }
  running_.invalidate();
  refresh();
}

void StepView::measure() {
  // Whatever the part's lines let be measured, each beside what was designed.
  std::vector<LedgerLine> asked;
  const auto ledger = bench_.ledger_lines();
  for (const BuildLine& l : bench_.sheet()) {
    if (part_of_line(l.id) != bench_.part()) continue;
    for (const LedgerLine& n : lines_of(l, ledger))
      if (n.editable && (n.key.starts_with("measured.") || n.key.ends_with(".measured_width")) &&
          std::none_of(asked.begin(), asked.end(), [&](const LedgerLine& a) { return a.key == n.key; }))
        asked.push_back(n);
  }
  QDialog dialog(this);
  dialog.setObjectName(QStringLiteral("step"));
  dialog.setWindowTitle(tr("Measure"));
  auto* column = new QVBoxLayout(&dialog);
  auto* trouble = new QLabel(&dialog);
  trouble->setWordWrap(true);
  auto* form = new QFormLayout;
  std::vector<std::pair<LedgerLine, QLineEdit*>> fields;
  for (const LedgerLine& n : asked) {
    auto* edit = new QLineEdit(&dialog);
    const bool known = !std::holds_alternative<std::monostate>(n.value);
    if (known) edit->setText(shown_value(n, bench_.units()));
    edit->setAccessibleName(QString::fromStdString(n.label));
    QString designed;
    for (const LedgerLine& d : ledger)
      if ("measured." + d.key == n.key) designed = tr(" (designed %1)").arg(shown_value(d, bench_.units()));
    edit->setPlaceholderText(tr("not measured"));
    form->addRow(QString::fromStdString(n.label) + designed, edit);
    fields.emplace_back(n, edit);
  }
  if (asked.empty()) form->addRow(new QLabel(tr("Nothing of this part stands in for a designed number."), &dialog));
  column->addLayout(form);
  column->addWidget(trouble);
  auto* keep = new QPushButton(tr("Keep what was measured"), &dialog);
  keep->setObjectName(QStringLiteral("main"));
  connect(keep, &QPushButton::clicked, &dialog, [&] {
    std::vector<std::pair<std::string, std::string>> edits;
    for (const auto& [n, edit] : fields)
      if (edit->isModified())
        edits.emplace_back(n.key, edit->text().trimmed().isEmpty() ? "none" : edit->text().toStdString());
    if (!edits.empty())
      if (const auto bad = bench_.edit(edits, tr("Enter what was measured").toStdString())) {
        trouble->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
        trouble->setText(bench_.words(*bad));
        return;
      }
    dialog.accept();
  });
  column->addWidget(keep, 0, Qt::AlignRight);
  dialog.exec();
  refresh();
}

void StepView::not_right() {
  if (at_ >= steps_.size()) return;
  const HandStep step = steps_[at_];
  QDialog dialog(this);
  dialog.setObjectName(QStringLiteral("step"));
  dialog.setWindowTitle(tr("Not right"));
  dialog.resize(700, 560);
  auto* column = new QVBoxLayout(&dialog);
  auto* head = new QLabel(tr("What is not right with %1?").arg(QString::fromStdString(step.title)), &dialog);
  head->setWordWrap(true);
  column->addWidget(head);
  auto* note = new QPlainTextEdit(&dialog);
  note->setAccessibleName(tr("Note"));
  note->setPlaceholderText(tr("0.3 too deep at the treble side"));
  column->addWidget(note, 1);
  auto* which = new QLabel(tr("A number to change at the desk:"), &dialog);
  column->addWidget(which);
  auto* list = new QListWidget(&dialog);
  list->setAccessibleName(tr("Numbers of this step"));
  const auto ledger = bench_.ledger_lines();
  for (const BuildLine& l : bench_.sheet())
    if (std::find(step.lines.begin(), step.lines.end(), l.id) != step.lines.end())
      for (const LedgerLine& n : lines_of(l, ledger))
        if (n.editable) {
          auto* item = new QListWidgetItem(
              tr("%1: %2").arg(QString::fromStdString(n.label), shown_value(n, bench_.units())), list);
          item->setData(Qt::UserRole, QString::fromStdString(n.key));
        }
  column->addWidget(list, 2);
  auto* row = new QHBoxLayout;
  auto* keep = new QPushButton(tr("Keep the note"), &dialog);
  keep->setObjectName(QStringLiteral("main"));
  auto* go = new QPushButton(tr("Keep it and go to the number"), &dialog);
  go->setEnabled(false);
  connect(list, &QListWidget::currentItemChanged, go, [go](QListWidgetItem* item) { go->setEnabled(item != nullptr); });
  row->addWidget(keep);
  row->addWidget(go);
  column->addLayout(row);
  QString key;
  const auto take = [&] {
    if (const QString words = note->toPlainText().trimmed(); !words.isEmpty()) {
      std::string notes = bench_.project().notes;
      if (!notes.empty()) notes += "; ";
      notes += Workbench::today() + ", " + bench_.kind().title() + ", " + step.placement + ", " + step.title + ": " +
               words.toStdString();
      std::replace(notes.begin(), notes.end(), '\n', ' ');
      if (const auto bad = bench_.edit({{"project.notes", notes}}, tr("Note at the machine").toStdString())) {
        head->setText(bench_.words(*bad));
        return false;
      }
    }
    return true;
  };
  connect(keep, &QPushButton::clicked, &dialog, [&] {
    if (take()) dialog.accept();
  });
  connect(go, &QPushButton::clicked, &dialog, [&] {
    if (!take()) return;
    key = list->currentItem()->data(Qt::UserRole).toString();
    dialog.accept();
  });
  dialog.exec();
  if (!key.isEmpty()) Q_EMIT key_wanted(key);
}

void StepView::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Right:
    case Qt::Key_PageDown: return go(1);
    case Qt::Key_Left:
    case Qt::Key_PageUp: return go(-1);
    case Qt::Key_Escape: Q_EMIT leave(); return;
    default: QWidget::keyPressEvent(event);
  }
}

}  // namespace wren::app

#include "app/step_view.hpp"

#include <algorithm>

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/connect_dialog.hpp"
#include "app/cutter_change_dialog.hpp"
#include "app/measure_dialog.hpp"
#include "app/not_right_dialog.hpp"
#include "app/preflight_dialog.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/job/program_folder.hpp"

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

StepView::StepView(Workbench& bench, Shop& shop, MachineDesk& desk, QWidget* parent)
    : QWidget(parent), bench_(bench), shop_(shop), desk_(desk) {
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
  told_ = new QLabel(this);
  told_->setWordWrap(true);
  told_->setAccessibleName(tr("What the machine tells"));
  column->addWidget(told_);
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
  machine_ = button(tr("Machine…"), [this] { machine(); });
  run_ = button(tr("Run…"), [this] { run(); });
  hold_ = button(tr("Hold"), [this] {
    const std::string& word = desk_.state().word;
    if (desk_.view().change_to != 0 && running_program_) {
      CutterChangeDialog(bench_, desk_, *running_program_, this).exec();
      return;
    }
    if (word == "held" || word == "waiting")
      desk_.controls().resume();
    else
      desk_.controls().hold();
  });
  stop_ = button(tr("Stop"), [this] { desk_.controls().stop(); });
  const auto feed = [this](double by) {
    feed_ = std::clamp(feed_ + by, 10.0, 200.0);
    desk_.controls().feed(feed_);
  };
  slower_ = button(tr("Slower"), [feed] { feed(-10); });
  faster_ = button(tr("Faster"), [feed] { feed(10); });
  button(tr("To the desk"), [this] { Q_EMIT leave(); });
  connect(&desk_, &MachineDesk::changed, this, &StepView::machine_told);
  connect(&desk_, &MachineDesk::said, this, [this](const QString& words, bool bad) {
    told_->setStyleSheet(QStringLiteral("color: %1").arg((bad ? colours().rowan : colours().ink).name()));
    told_->setText(words);
  });
  connect(&desk_, &MachineDesk::ended, this, [this] {
    feed_ = 100;
    refresh();
  });
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
  lay_buttons();
}

void StepView::lay_buttons() {
  // As many rows of buttons as the width asks for: none is made smaller.
  int widest = 0;
  int all = 0;
  std::vector<QPushButton*> shown;
  for (QPushButton* b : buttons_)
    if (!b->isHidden()) shown.push_back(b);
  for (const QPushButton* b : shown) {
    widest = std::max(widest, b->sizeHint().width());
    all += b->sizeHint().width() + row_->horizontalSpacing();
  }
  const int room = width() - 28;
  const int most = all <= room ? static_cast<int>(shown.size()) : std::max(2, room / (widest + 8));
  // Rows of one length, as far as that goes.
  const int rows = (static_cast<int>(shown.size()) + most - 1) / most;
  const int columns = (static_cast<int>(shown.size()) + rows - 1) / std::max(1, rows);
  for (QPushButton* b : buttons_) row_->removeWidget(b);
  for (std::size_t i = 0; i < shown.size(); ++i)
    row_->addWidget(shown[i], static_cast<int>(i) / columns, static_cast<int>(i) % columns);
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
                        audience(bench_.units()), bench_.proof(bench_.part()).get());
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
    folder = in_words(l.note.empty() ? l.hint : l.note, bench_.units());
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
  QString text = tr("<p><b>%1</b><br>%2, step %3 of %4</p>")
                     .arg(in_words(s.title).toHtmlEscaped(), QString::fromStdString(s.placement).toHtmlEscaped())
                     .arg(at_ + 1)
                     .arg(steps_.size());
  if (stops)
    text += QStringLiteral("<p style='color:%1'>%2</p>").arg(p.rowan.name(), bench_.words(*stops).toHtmlEscaped());
  text +=
      tr("<p>Stick out %1, collet %2<br>%3</p>")
          .arg(QString::fromStdString(s.stickout), QString::fromStdString(s.collet), QString::fromStdString(s.speeds));
  // What runs of this cutter at these cuts have really taken corrects the plan.
  const std::string cut = s.lines.empty() ? std::string() : s.lines.front().substr(s.lines.front().rfind('.') + 1);
  if (const auto pace = pace_of(shop_.paces(), s.cutter, cut))
    text += tr("<p>Planned %1; by %n run(s) it takes %2</p>", nullptr, pace->runs)
                .arg(work_time(s.seconds), work_time(s.seconds * pace->ratio()));
  text += lines_of_words(tr("Caution"), s.caution);
  text += lines_of_words(tr("Lay the wood, find zero"), s.place);
  text += lines_of_words(tr("Before"), s.before);
  text += lines_of_words(tr("Check after it"), s.check);
  text += lines_of_words(tr("Before the wood is moved"), s.after);
  words_->setText(text);
  cut_->setText(s.cut ? tr("Not cut") : tr("Cut"));
  cut_->setAccessibleDescription(s.cut ? tr("It was not cut after all") : tr("This program has been run"));
  bed_->set_side(s.side);
  machine_told();
  tick();
}

void StepView::machine_told() {
  const bool connected = desk_.connected(), running = desk_.running();
  const bool there = at_ < steps_.size();
  std::vector<bool> were;
  for (const QPushButton* b : buttons_) were.push_back(b->isHidden());
  // What a run does not need is out of the way of a hand that wants to stop it.
  for (QPushButton* b : {before_, after_, cut_, machine_}) b->setHidden(running);
  start_->setHidden(connected);
  run_->setHidden(!connected || running);
  for (QPushButton* b : {hold_, stop_}) b->setHidden(!running);
  for (QPushButton* b : {slower_, faster_}) b->setHidden(!running || !desk_.tells_lines());
  run_->setEnabled(there && !desk_.busy());
  machine_->setText(connected ? tr("Machine ✓") : tr("Machine…"));
  const MachineState& s = desk_.state();
  hold_->setText(running && desk_.view().change_to != 0    ? tr("Cutter…")
                 : s.word == "held" || s.word == "waiting" ? tr("Go on")
                                                           : tr("Hold"));
  for (std::size_t i = 0; i < buttons_.size(); ++i)
    if (were[i] != buttons_[i]->isHidden()) {
      lay_buttons();
      break;
    }
  QString place;
  bool placed = false;
  if (connected)
    if (const auto tip = s.in_work()) {
      place = tr("; x %1 y %2 z %3").arg(decimal(tip->x, 2), decimal(tip->y, 2), decimal(tip->z, 2));
      bed_->set_tip(CutterTip{*tip, tip->z});
      placed = true;
    }
  if (!placed) bed_->set_tip(std::nullopt);
  if (!running) {
    if (connected && !desk_.busy() && s.word != "idle" && !s.word.empty()) {
      told_->setStyleSheet({});
      told_->setText(tr("The machine is %1%2.")
                         .arg(QString::fromStdString(s.word),
                              s.why.empty() ? QString() : QStringLiteral(": ") + QString::fromStdString(s.why)));
    }
    return;
  }
  const RunView& v = desk_.view();
  const Palette& p = colours();
  const bool stands = s.word == "held" || s.word == "waiting" || s.word == "holding";
  say_far(state_, s.word == "waiting" ? tr("YOUR HAND") : stands ? tr("HELD") : tr("RUNNING"));
  state_->setStyleSheet(QStringLiteral("QLabel { background: %1; color: %2; padding: 0 12px; border-radius: 6px; }")
                            .arg((stands ? p.gorse : p.lichen).name(), p.paper.name()));
  say_far(clock_, v.left > 0 ? tr("%1, %2 left").arg(clock_text(static_cast<qint64>(v.seconds)), work_time(v.left))
                             : clock_text(static_cast<qint64>(v.seconds)));
  QString words = QString::fromStdString(v.words);
  if (v.change_to != 0 && running_program_)
    for (const ManifestEntry::Tool& t : running_program_->cutters)
      if (t.number == v.change_to) {
        const QString name = tr("T%1 %2").arg(t.number).arg(QString::fromStdString(t.id));
        say_far(cutter_, name.toUpper());
        words = tr("%1 goes in now, z anew with it").arg(name);
      }
  words += place;
  if (v.told_bad) words += QStringLiteral("; ") + QString::fromStdString(v.told);
  if (s.feed_percent) words += tr("; feed %1 %").arg(*s.feed_percent, 0, 'f', 0);
  if (desk_.may_sleep()) words += tr("; nothing here keeps this computer awake meanwhile: see to it");
  words += tr(". What stops it at once is the machine's own stop, within your hand's reach.");
  told_->setStyleSheet({});
  told_->setText(words);
}

void StepView::machine() {
  if (desk_.connected()) {
    desk_.leave();
    told_->setText(tr("The machine is let go."));
    return;
  }
  ConnectDialog dialog(shop_, this);
  if (dialog.exec() != QDialog::Accepted) return;
  const ShopMachine machine = dialog.machine();
  desk_.connect_to(machine.address, machine.baud, machine.talk);
}

void StepView::run() {
  if (at_ >= steps_.size() || !desk_.connected() || desk_.running()) return;
  const auto refuse = [this](const QString& words) {
    told_->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
    told_->setText(words);
  };
  const std::string& folder = bench_.project().record.folder;
  if (folder.empty()) return refuse(tr("The programs were not written yet: write them at the desk first."));
  if (!shop_.there())
    return refuse(tr("Runs are kept in the shop's book, and there is none yet: begin one at the rack."));
  auto program =
      program_at_hand(folder_with_manifest(folder, bench_.part()) / std::filesystem::path(steps_[at_].file).filename());
  if (!program) return refuse(bench_.words(program.error()));
  const auto sets = bench_.written_sets().find(bench_.part());
  if (sets != bench_.written_sets().end() &&
      sets->second.fingerprint != bench_.followed().fingerprints.at(bench_.part()))
    return refuse(tr("The programs in the folder are of other numbers than those of now: write them again."));
  PreflightDialog dialog(bench_, shop_, desk_, std::move(*program), this);
  dialog.setObjectName(QStringLiteral("step"));
  if (dialog.exec() != QDialog::Accepted || !dialog.request()) return;
  feed_ = 100;
  running_program_ = dialog.program().entry;
  desk_.run(*dialog.request());
}

void StepView::tick() {
  if (desk_.running()) return;
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
  MeasureDialog(bench_, desk_, at_ < steps_.size() ? &steps_[at_] : nullptr, this).exec();
  refresh();
}

void StepView::not_right() {
  if (at_ >= steps_.size()) return;
  if (desk_.running()) desk_.controls().remark(tr("something was seen to be not right").toStdString());
  NotRightDialog dialog(bench_, desk_, steps_[at_], this);
  dialog.exec();
  if (!dialog.key().isEmpty()) Q_EMIT key_wanted(dialog.key());
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

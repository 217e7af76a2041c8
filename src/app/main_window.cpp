#include "app/main_window.hpp"

#include <QApplication>
#include <QClipboard>
#include <QDateTime>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QSettings>
#include <QStatusBar>
#include <QTimer>

#include "app/paper.hpp"
#include "app/solid_view.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/report/names.hpp"

namespace wren::app {

namespace {

/// What the window holds never keeps it wide: in a small one panels become pages.
class Room : public QStackedWidget {
 public:
  using QStackedWidget::QStackedWidget;
  [[nodiscard]] QSize minimumSizeHint() const override { return {480, 320}; }
};

}  // namespace

MainWindow::MainWindow(Workbench& bench, QWidget* parent) : QMainWindow(parent), bench_(bench) {
  setAcceptDrops(true);
  setWindowIcon(QIcon(QStringLiteral(":/icons/upland-wren.svg")));
  QSettings settings;
  set_text_size(settings.value(QStringLiteral("window/text"), least_text_size).toDouble());
  shop_ = new Shop(bench, shop_file(), this);
  desk_ = new MachineDesk(this);
  sheet_ = new BuildSheetView(bench, this);
  ledger_ = new LedgerView(bench, this);
  remarks_ = new RemarksView(bench, this);
  beside_ = new QSplitter(Qt::Horizontal, this);
  over_ = new QSplitter(Qt::Vertical, this);
  under_ = new QSplitter(Qt::Horizontal, this);
  under_->addWidget(ledger_);
  under_->addWidget(remarks_);
  picture_side_ = make_picture();
  over_->addWidget(picture_side_);
  over_->addWidget(under_);
  beside_->addWidget(sheet_);
  beside_->addWidget(over_);
  for (QSplitter* s : {beside_, over_, under_}) s->setChildrenCollapsible(false);
  beside_->setStretchFactor(1, 1);
  over_->setStretchFactor(0, 3);
  over_->setStretchFactor(1, 2);
  beside_->setSizes({260, 1020});
  root_ = new Room(this);
  auto* panels = new QWidget(root_);
  auto* column = new QVBoxLayout(panels);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(make_pages());
  column->addWidget(beside_, 1);
  root_->addWidget(panels);
  step_ = new StepView(bench, *shop_, *desk_, root_);
  root_->addWidget(step_);
  setCentralWidget(root_);
  make_menus();
  menuBar()->setCornerWidget(make_head(), Qt::TopRightCorner);

  said_ = new QLabel(this);
  said_->setContentsMargins(10, 0, 0, 0);
  progress_ = new QProgressBar(this);
  progress_->setFixedWidth(180);
  progress_->hide();
  statusBar()->addWidget(said_, 1);
  statusBar()->addPermanentWidget(progress_);
  statusBar()->setSizeGripEnabled(false);

  connect(desk_, &MachineDesk::ended, this, &MainWindow::run_ended);
  connect(desk_, &MachineDesk::changed, this, &MainWindow::show_tip);
  QTimer::singleShot(0, this, &MainWindow::take_lost_runs);
  connect(sheet_, &BuildSheetView::line_chosen, this, &MainWindow::line_chosen);
  connect(remarks_, &RemarksView::go_to, this, &MainWindow::go_to);
  connect(ledger_, &LedgerView::formula_asked, this, &MainWindow::show_formulas);
  connect(step_, &StepView::leave, this, [this] { show_step(false); });
  connect(step_, &StepView::key_wanted, this, [this](const QString& key) {
    show_step(false);
    go_to_number(line_for_key(bench_.sheet(), key.toStdString()), key.toStdString());
  });
  connect(whole_, &BenchView::number_chosen, this, [this](const QString& key) {
    go_to_number(line_for_key(bench_.sheet(), key.toStdString()), key.toStdString());
  });
  connect(whole_, &BenchView::section_chosen, this, [this](const QString& section) {
    // Its next line, else its first.
    std::string first;
    for (const BuildLine& l : bench_.sheet()) {
      if (l.section != section.toStdString() || l.state == LineState::heading) continue;
      if (first.empty()) first = l.id;
      if (l.next) first = l.id;
    }
    if (!first.empty()) choose_line(first);
    if (paged_) turn_to(Page::sheet);
  });
  connect(&bench_, &Workbench::changed, this, &MainWindow::refresh);
  connect(&bench_, &Workbench::said, this, &MainWindow::say);
  connect(&bench_, &Workbench::progress, this, [this](double share, const QString& phase) {
    progress_->setVisible(share < 1);
    progress_->setValue(static_cast<int>(share * 100));
    progress_->setFormat(phase);
  });
  connect(&bench_, &Workbench::proved, progress_, &QProgressBar::hide);
  connect(&bench_, &Workbench::written, progress_, &QProgressBar::hide);
  connect(&bench_, &Workbench::opened, this, [this] { show_view(View::bench); });
  resize(1280, 800);
  // The work begins with the first number of the first part.
  const auto sheet = bench_.sheet();
  const auto first = std::find_if(sheet.begin(), sheet.end(), [this](const BuildLine& l) {
    return l.state != LineState::heading && part_of_line(l.id) == bench_.parts().kinds().front().id();
  });
  if (first != sheet.end()) line_chosen(QString::fromStdString(first->id));
  if (settings.contains(QStringLiteral("window/geometry"))) {
    restoreGeometry(settings.value(QStringLiteral("window/geometry")).toByteArray());
    beside_->restoreState(settings.value(QStringLiteral("window/beside")).toByteArray());
  }
  choose_theme(settings.value(QStringLiteral("window/theme"), QStringLiteral("desktop")).toString());
  if (settings.value(QStringLiteral("window/inch"), false).toBool()) bench_.set_units(UnitSystem::inch);
  show_view(View::bench);
  refresh();
}

QWidget* MainWindow::make_head() {
  auto* head = new QWidget(this);
  auto* row = new QHBoxLayout(head);
  row->setContentsMargins(0, 3, 8, 3);
  name_ = new QLabel(head);
  name_->setObjectName(QStringLiteral("title"));
  row->addWidget(name_);
  row->addSpacing(14);
  units_ = new QPushButton(head);
  units_->setAccessibleName(tr("Units: millimetres or inches"));
  units_->setToolTip(tr("Show lengths in the other system (Ctrl+U). Any field takes both."));
  connect(units_, &QPushButton::clicked, this,
          [this] { bench_.set_units(bench_.units() == UnitSystem::inch ? UnitSystem::millimetre : UnitSystem::inch); });
  row->addWidget(units_);
  return head;
}

QWidget* MainWindow::make_picture() {
  auto* all = new QWidget(this);
  auto* column = new QVBoxLayout(all);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(8, 2, 8, 0);
  row->setSpacing(2);
  view_buttons_ = new QButtonGroup(this);
  const QString names[] = {tr("Plan"),    tr("Side"),  tr("Solid"), tr("Bed"),     tr("Rehearsal"),
                           tr("Surface"), tr("Bench"), tr("Rack"),  tr("Machine"), tr("Run log")};
  for (const int i : {6, 0, 1, 2, 3, 4, 5}) {
    auto* button = new QPushButton(names[i], all);
    button->setObjectName(QStringLiteral("view"));
    button->setCheckable(true);
    button->setToolTip(i == 6 ? tr("Ctrl+B") : tr("Ctrl+%1").arg(i + 1));
    button->setAccessibleName(tr("Picture: %1").arg(names[i]));
    view_buttons_->addButton(button, i);
    row->addWidget(button);
  }
  row->addStretch(1);
  column->addLayout(row);
  pictures_ = new QStackedWidget(all);
  whole_ = new BenchView(bench_, this);
  whole_->setAccessibleName(tr("Bench"));
  pictures_->addWidget(whole_);
  bed_ = new BedView(bench_, this);
  rehearsal_ = new RehearsalView(bench_, this);
  connect(rehearsal_, &RehearsalView::prove_asked, this, [this] {
    if (taken()) bench_.prove_all();
  });
  bed_->setAccessibleName(tr("Bed of the machine"));
  rehearsal_->setAccessibleName(tr("Rehearsal"));
  rack_ = new RackView(bench_, *shop_, this);
  machine_ = new MachineView(bench_, *shop_, this);
  runs_ = new RunsView(bench_, *shop_, this);
  connect(machine_, &MachineView::number_chosen, this, [this](const QString& key) {
    go_to_number(line_for_key(bench_.sheet(), key.toStdString()), key.toStdString());
  });
  for (QWidget* w : {static_cast<QWidget*>(bed_), static_cast<QWidget*>(rehearsal_), static_cast<QWidget*>(rack_),
                     static_cast<QWidget*>(machine_), static_cast<QWidget*>(runs_)})
    pictures_->addWidget(w);
  for (const PartKind& kind : bench_.parts().kinds()) {
    own_[kind.id()] = make_pictures(kind.id(), bench_, this);
    for (const auto& [view, widget] : own_[kind.id()].views) {
      if (widget->accessibleName().isEmpty())
        widget->setAccessibleName(tr("%1: %2").arg(in_words(kind.title()), names[static_cast<int>(view)].toLower()));
      pictures_->addWidget(widget);
    }
  }
  column->addWidget(pictures_, 1);
  connect(view_buttons_, &QButtonGroup::idClicked, this, [this](int id) { show_view(static_cast<View>(id)); });
  return all;
}

QWidget* MainWindow::own_view(const std::string& part, View view) const {
  const auto& views = own_.at(part).views;
  const auto it = views.find(view);
  return it != views.end() ? it->second : nullptr;
}

QWidget* MainWindow::solid() {
  if (solid_ != nullptr) return solid_;
  // Made when it is first wanted: a window with a solid in it is composed by OpenGL from then on, which makes its first
  // picture half as slow again. The toolkit makes the native window anew for that, so the keyboard is asked back.
  if (isVisible()) QTimer::singleShot(0, this, [this] { activateWindow(); });
  if (opengl_works()) {
    solid_ = new SolidView(bench_, this);
  } else {
    auto* none = new QLabel(tr("There is no OpenGL 3.3 on this display, so the solid picture cannot be "
                               "drawn.\nEverything else works without it."),
                            this);
    none->setAlignment(Qt::AlignCenter);
    none->setWordWrap(true);
    solid_ = none;
  }
  solid_->setAccessibleName(tr("Solid"));
  pictures_->addWidget(solid_);
  return solid_;
}

QWidget* MainWindow::picture_of(View view) {
  if (view == View::bench) return whole_;
  if (view == View::rack) return rack_;
  if (view == View::machine) return machine_;
  if (view == View::runs) return runs_;
  if (QWidget* own = own_view(bench_.part(), view)) return own;
  return view == View::solid ? solid() : view == View::rehearsal ? rehearsal_ : static_cast<QWidget*>(bed_);
}

void MainWindow::show_view(View view) {
  if (view == View::surface && own_view(bench_.part(), view) == nullptr) view = View::plan;
  view_ = view;
  pictures_->setCurrentWidget(picture_of(view));
  // The shop's pictures have their lines on the sheet, and no button.
  if (QAbstractButton* button = view_buttons_->button(static_cast<int>(view))) {
    button->setChecked(true);
  } else if (QAbstractButton* was = view_buttons_->checkedButton()) {
    view_buttons_->setExclusive(false);
    was->setChecked(false);
    view_buttons_->setExclusive(true);
  }
  lay_out();
}

void MainWindow::run_ended(const RunEnd& end) {
  if (const auto bad = shop_->change([&](ShopBook& book) { return book.write(end.run); }))
    return say(bench_.words(*bad), true);  // its journal stays, and is taken over at the next start
  std::error_code ignored;
  std::filesystem::remove(journal_folder(shop_->file()) / (end.run.id + ".journal"), ignored);
  if (end.run.outcome != "done" || end.run.air) return;
  for (const BuildLine& l : bench_.sheet()) {
    if (l.side != end.run.side || part_of_line(l.id) != end.run.part) continue;
    const std::string cut = l.id.substr(l.id.rfind('.') + 1);
    const std::string listed = ", " + end.run.cuts + ", ";
    if (listed.find(", " + cut + ", ") != std::string::npos && (l.state != LineState::cut || l.older))
      bench_.mark_cut(l.id);
  }
}

void MainWindow::show_tip() {
  const auto tip = desk_->connected() ? desk_->state().in_work() : std::nullopt;
  const Side* side = bed_->side();
  const bool of_this = side != nullptr && desk_->works_on(bench_.part(), side->id);
  bed_->set_tip(tip && of_this ? std::optional(CutterTip{*tip, tip->z}) : std::nullopt);
  // The pictures' own frame is that of the part, which this side may show turned over.
  std::optional<CutterTip> here;
  if (tip && of_this) {
    const Vec2 at = turned(side->setup.turn, side->setup.to_work.back({tip->x, tip->y}));
    here = CutterTip{{at.x, at.y, turned_z(side->setup.turn, tip->z - side->setup.to_work.shift.z)}, tip->z};
  }
  for (const auto& [part, pictures] : own_)
    for (const Look look : {Look::plan, Look::side})
      if (const auto it = pictures.views.find(look); it != pictures.views.end())
        if (auto* picture = qobject_cast<FlatView*>(it->second))
          picture->set_tip(part == bench_.part() ? here : std::nullopt);
  if (auto* solid = qobject_cast<SolidView*>(solid_)) solid->set_tip(here);
}

void MainWindow::take_lost_runs() {
  if (!shop_->there()) return;
  std::vector<Run> lost;
  if (const auto bad = shop_->change([&](ShopBook& book) -> Expected<void> {
        auto all = take_journals(journal_folder(shop_->file()), book);
        if (!all) return tl::unexpected(all.error());
        lost = std::move(*all);
        return {};
      }))
    return say(bench_.words(*bad), true);
  for (const Run& r : lost)
    say(tr("A run of %1 was begun on %2, and nobody saw its end: line %3 was the last that the machine told.")
            .arg(QString::fromStdString(r.program), QString::fromStdString(r.began))
            .arg(r.done),
        true);
}

void MainWindow::choose_line(const std::string& id) {
  const bool same = line_ == id && sheet_->chosen() == id;
  sheet_->choose(id);
  if (same) line_chosen(QString::fromStdString(id));
}

void MainWindow::go_to_number(const std::string& line, const std::string& key) {
  if (!line.empty()) choose_line(line);
  if (key.empty()) return;
  if (view_ == View::bench) show_view(View::plan);  // on the bench no numbers are listed
  if (paged_) turn_to(Page::numbers);
  activateWindow();  // a dialog may have had the keyboard
  ledger_->focus_key(key);
}

void MainWindow::line_chosen(const QString& id) {
  line_ = id.toStdString();
  BuildLine chosen;
  for (const BuildLine& l : bench_.sheet())
    if (l.id == line_) chosen = l;
  bench_.set_part(part_of_line(line_));
  // Views that this part has not are not offered; a part without a plan of its own is seen on the bed.
  for (const View view : {View::plan, View::side, View::surface})
    view_buttons_->button(static_cast<int>(view))->setVisible(own_view(bench_.part(), view) != nullptr);
  ledger_->show_line(line_);
  remarks_->show_line(line_);
  if (root_->currentWidget() == step_ && step_->line() != line_) step_->show_line(line_);
  mark_cut_->setEnabled(!chosen.side.empty() || chosen.by_hand);
  for (const auto& [part, pictures] : own_)
    if (pictures.line_chosen) pictures.line_chosen(line_);
  if (!chosen.side.empty()) {
    bed_->set_side(chosen.side);
    rehearsal_->set_side(chosen.side);
  }
  // A body stands beside its numbers, a board or a neck over them; what was chosen for a part is kept for it.
  const QString part = QString::fromStdString(bench_.part());
  const bool tall = own_.at(bench_.part()).tall;
  arrangement_ =
      QSettings().value(QStringLiteral("arrangement/") + part, tall).toBool() ? Arrangement::tall : Arrangement::wide;
  show_view(chosen.look);  // everything turns to the chosen line, the picture too
}

void MainWindow::go_to(const Remark& remark) {
  const std::string line = line_for_key(bench_.sheet(), remark.place);
  if (!line.empty()) choose_line(line);
  const PartPictures& own = own_.at(bench_.part());
  if (remark.at && own.look_at) {
    const bool side = view_ == View::side || view_ == View::surface;
    if (view_ != View::plan && !side) show_view(View::plan);
    own.look_at(remark.at->first, remark.at->second);
  }
  ledger_->focus_key(remark.place);
}

void MainWindow::refresh() {
  const QString name = QString::fromStdString(bench_.project().name);
  name_->setText(name + (bench_.history().modified() ? tr("  (unsaved)") : QString()));
  name_->setVisible(!paged_);  // a small window has the name in its frame
  // The menu bar measures its corner only when it is set: a longer name would be cut off.
  if (QWidget* head = menuBar()->cornerWidget(Qt::TopRightCorner)) {
    head->adjustSize();
    menuBar()->setCornerWidget(head, Qt::TopRightCorner);
  }
  setWindowTitle(tr("%1%2, Upland Wren").arg(name, bench_.history().modified() ? QStringLiteral("*") : QString()));
  units_->setText(bench_.units() == UnitSystem::inch ? tr("inches") : tr("millimetres"));
  undo_->setEnabled(bench_.history().can_undo());
  redo_->setEnabled(bench_.history().can_redo());
  undo_->setText(tr("&Undo %1").arg(in_words(bench_.history().undo_name(), bench_.units())));
  redo_->setText(tr("&Redo %1").arg(in_words(bench_.history().redo_name(), bench_.units())));
}

void MainWindow::say(const QString& text, bool bad) {
  said_->setText(text);
  said_->setStyleSheet(QStringLiteral("color: %1").arg((bad ? colours().rowan : colours().ink).name()));
  if (bad) progress_->hide();
}

namespace {

/// "14:32", or with its date where that is not today.
QString time_of(const std::filesystem::path& file) {
  const QDateTime when = QFileInfo(QString::fromStdString(file.string())).lastModified();
  return when.toString(when.date() == QDate::currentDate() ? QStringLiteral("HH:mm")
                                                           : QStringLiteral("yyyy-MM-dd HH:mm"));
}

}  // namespace

bool MainWindow::wants_unsaved(const LostWork& lost) {
  if (!ask_) return false;
  const bool named = !lost.file.empty();
  QMessageBox ask(QMessageBox::Question, tr("Unsaved work"),
                  named ? tr("%1 was being worked on when the program ended, and was not saved.")
                              .arg(QString::fromStdString(lost.file.filename().string()))
                        : tr("%1 was being worked on when the program ended, and never had a file.")
                              .arg(QString::fromStdString(lost.project.name)),
                  QMessageBox::NoButton, this);
  auto* take = ask.addButton(tr("Restore work of %1").arg(time_of(lost.autosave)), QMessageBox::AcceptRole);
  auto* keep = ask.addButton(named ? tr("Keep the file of %1").arg(time_of(lost.file)) : tr("Put that work aside"),
                             QMessageBox::RejectRole);
  ask.setDefaultButton(take);
  ask.setEscapeButton(keep);
  ask.exec();
  if (ask.clickedButton() == take) return true;
  put_aside(lost);
  return false;
}

bool MainWindow::open_file(const QString& path) {
  const std::string file = path.toStdString();
  if (const auto problem = bench_.open(file)) {
    // Its unsaved work may be whole where the file itself is not.
    const auto lost = lost_work(bench_.parts().book(), file);
    if (lost && wants_unsaved(*lost)) {
      if (const auto bad = bench_.restore(*lost, true)) {
        QMessageBox::warning(this, tr("The unsaved work was not restored"), bench_.words(*bad));
        return false;
      }
      remember_recent(path);
      say(tr("Restored. The file itself cannot be read (%1); saving keeps it beside as .bak")
              .arg(in_words(problem->what)),
          true);
      return true;
    }
    QMessageBox::warning(this, tr("The project cannot be opened"), bench_.words(*problem));
    return false;
  }
  remember_recent(path);
  if (const auto& held = bench_.held_by()) {
    say(tr("Opened to look at: %1. Saving asks for another name").arg(in_words(held->what)), true);
    return true;
  }
  if (const auto lost = lost_work(bench_.parts().book(), file); lost && wants_unsaved(*lost)) {
    bench_.restore(*lost, false);
    say(tr("Restored; undo goes back to the file"), false);
    return true;
  }
  say(tr("Opened %1").arg(path), false);
  return true;
}

void MainWindow::offer_unnamed_work(const std::filesystem::path& home) {
  for (const LostWork& lost : lost_work_in(bench_.parts().book(), home))
    if (wants_unsaved(lost)) {
      bench_.restore(lost, false);
      return;  // another one is asked for when the program starts again
    }
}

bool MainWindow::save(bool as) {
  // What is being typed is saved with the rest; a refused number keeps its message, and the last good one is saved.
  const bool taken = ledger_->commit_typing();
  QString path = QString::fromStdString(bench_.path().string());
  if (as || path.isEmpty() || bench_.held_by())
    path = QFileDialog::getSaveFileName(
        this, tr("Save project"),
        path.isEmpty() ? QString::fromStdString(file_safe(bench_.project().name)) + QStringLiteral(".wren") : path,
        tr("Projects (*.wren)"));
  return !path.isEmpty() && save_to(path, taken);
}

bool MainWindow::save_to(const QString& path, bool taken) {
  auto problem = bench_.save(path.toStdString());
  if (problem && problem->kind == ProblemKind::changed) {
    QMessageBox ask(QMessageBox::Warning, tr("The file was changed"),
                    tr("%1 was changed by another program since it was opened here.").arg(QFileInfo(path).fileName()),
                    QMessageBox::Cancel, this);
    constexpr qsizetype most_lines = 6;
    QStringList lines;
    for (const Difference& d : bench_.differs_on_disk())
      lines << tr("%1: here %2, in the file %3")
                   .arg(in_words(d.label), QString::fromStdString(d.here), QString::fromStdString(d.there));
    if (lines.isEmpty()) lines << tr("The file cannot be read any more.");
    if (lines.size() > most_lines) ask.setDetailedText(lines.join(QLatin1Char('\n')));
    const qsizetype more = lines.size() - most_lines;
    lines = lines.mid(0, most_lines);
    if (more > 0) lines << tr("and %1 more").arg(more);
    ask.setInformativeText(
        tr("%1\n\nSaving over it keeps that one beside as .bak.").arg(lines.join(QLatin1Char('\n'))));
    auto* over = ask.addButton(tr("Save over it"), QMessageBox::DestructiveRole);
    auto* other = ask.addButton(tr("Save under another name…"), QMessageBox::AcceptRole);
    ask.exec();
    if (ask.clickedButton() == other) return save(true);
    if (ask.clickedButton() != over) return false;
    problem = bench_.save(path.toStdString(), Document::Over::theirs);
  }
  if (problem) {
    QMessageBox::warning(this, tr("The project was not saved"), bench_.words(*problem));
    return false;
  }
  remember_recent(path);
  if (taken)
    say(tr("Saved %1").arg(path), false);
  else
    say(tr("Saved %1, with the last good number: the one being typed was refused").arg(path), true);
  return true;
}

bool MainWindow::taken() {
  if (ledger_->commit_typing()) {
    bench_.settle();
    return true;
  }
  say(tr("A number is refused: mend it or give it up (Esc) first"), true);
  return false;
}

bool MainWindow::may_leave() {
  if (!ledger_->commit_typing()) say(tr("A number is refused and will not be saved"), true);
  bench_.settle();
  if (ask_ && desk_->running()) {
    QMessageBox run(
        QMessageBox::Warning, tr("A program runs on the machine"),
        tr("Closing the window asks the machine to brake and stand. What stops it at once is its own stop."),
        QMessageBox::NoButton, this);
    QPushButton* stay = run.addButton(tr("Stay with it"), QMessageBox::RejectRole);
    run.addButton(tr("Stop it and close"), QMessageBox::DestructiveRole);
    run.exec();
    if (run.clickedButton() == stay) return false;
  }
  if (!ask_ || !bench_.history().modified()) return true;
  QMessageBox ask(QMessageBox::Question, tr("Unsaved changes"),
                  tr("Save the changes to %1?").arg(QString::fromStdString(bench_.project().name)),
                  QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  switch (ask.exec()) {
    case QMessageBox::Save: return save(false);
    case QMessageBox::Discard: bench_.let_go(); return true;
    default: return false;
  }
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (!may_leave()) {
    event->ignore();
    return;
  }
  QSettings settings;
  settings.setValue(QStringLiteral("window/geometry"), saveGeometry());
  settings.setValue(QStringLiteral("window/beside"), beside_->saveState());
  settings.setValue(QStringLiteral("window/text"), text_size());
  settings.setValue(QStringLiteral("window/inch"), bench_.units() == UnitSystem::inch);
  event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls() && event->mimeData()->urls().first().toLocalFile().endsWith(QStringLiteral(".wren")))
    event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  if (may_leave()) open_file(event->mimeData()->urls().first().toLocalFile());
}

void MainWindow::write_programs_into(const QString& folder) { bench_.write_programs(folder.toStdString()); }

void MainWindow::write_programs() {
  if (const auto why = bench_.stops_writing()) {
    QMessageBox::warning(this, tr("No programs yet"), bench_.words(*why));
    return;
  }
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder for the programs"),
                                                           QString::fromStdString(bench_.project().record.folder));
  if (!folder.isEmpty()) write_programs_into(folder);
}

bool MainWindow::write_sheet_to(const QString& pdf, const QString& paper) {
  if (const auto why = bench_.not_ready()) {
    say(bench_.words(*why), true);
    return false;
  }
  const auto written =
      write_run_sheet_pdf(pdf.toStdString(),
                          {bench_.kind(), bench_.followed(), bench_.cache(), *bench_.planned(bench_.part()),
                           Workbench::today(), bench_.units(), bench_.proof(bench_.part()).get()},
                          paper);
  if (!written) {
    say(bench_.words(written.error()), true);
    return false;
  }
  bench_.note(bench_.part() + ".sheet");
  say(tr("Run sheet written: %1").arg(pdf), false);
  return true;
}

void MainWindow::copy_picture() {
  QGuiApplication::clipboard()->setPixmap(pictures_->currentWidget()->grab());
  say(tr("The picture is on the clipboard"), false);
}

void MainWindow::remember_recent(const QString& path) {
  QSettings settings;
  QStringList recent = settings.value(QStringLiteral("recent")).toStringList();
  const QString whole = QFileInfo(path).absoluteFilePath();
  recent.removeAll(whole);
  recent.prepend(whole);
  while (recent.size() > 10) recent.removeLast();
  settings.setValue(QStringLiteral("recent"), recent);
}

}  // namespace wren::app

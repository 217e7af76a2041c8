#include "app/main_window.hpp"

#include <QApplication>
#include <QClipboard>
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

#include "app/paper.hpp"
#include "app/solid_view.hpp"
#include "app/theme.hpp"
#include "core/document/project_file.hpp"

namespace wren::app {

MainWindow::MainWindow(Workbench& bench, QWidget* parent) : QMainWindow(parent), bench_(bench) {
  setAcceptDrops(true);
  setWindowIcon(QIcon(QStringLiteral(":/icons/upland-wren.svg")));
  sheet_ = new BuildSheetView(bench, this);
  ledger_ = new LedgerView(bench, this);
  remarks_ = new RemarksView(bench, this);
  beside_ = new QSplitter(Qt::Horizontal, this);
  over_ = new QSplitter(Qt::Vertical, this);
  under_ = new QSplitter(Qt::Horizontal, this);
  under_->addWidget(ledger_);
  under_->addWidget(remarks_);
  over_->addWidget(make_picture());
  over_->addWidget(under_);
  beside_->addWidget(sheet_);
  beside_->addWidget(over_);
  for (QSplitter* s : {beside_, over_, under_}) s->setChildrenCollapsible(false);
  beside_->setStretchFactor(1, 1);
  over_->setStretchFactor(0, 3);
  over_->setStretchFactor(1, 2);
  beside_->setSizes({232, 1048});
  over_->setSizes({410, 320});
  under_->setSizes({600, 448});
  setCentralWidget(beside_);
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

  connect(sheet_, &BuildSheetView::line_chosen, this, &MainWindow::line_chosen);
  connect(remarks_, &RemarksView::go_to, this, &MainWindow::go_to);
  connect(&bench_, &Workbench::changed, this, &MainWindow::refresh);
  connect(&bench_, &Workbench::said, this, &MainWindow::say);
  connect(&bench_, &Workbench::progress, this, [this](double share, const QString& phase) {
    progress_->setVisible(share < 1);
    progress_->setValue(static_cast<int>(share * 100));
    progress_->setFormat(phase);
  });
  connect(&bench_, &Workbench::proved, progress_, &QProgressBar::hide);
  connect(&bench_, &Workbench::written, progress_, &QProgressBar::hide);
  QSettings settings;
  resize(1280, 800);
  line_chosen(QString::fromStdString(line_));
  if (settings.contains(QStringLiteral("window/geometry"))) {
    restoreGeometry(settings.value(QStringLiteral("window/geometry")).toByteArray());
    beside_->restoreState(settings.value(QStringLiteral("window/beside")).toByteArray());
    over_->restoreState(settings.value(QStringLiteral("window/over")).toByteArray());
    under_->restoreState(settings.value(QStringLiteral("window/under")).toByteArray());
  }
  apply_theme(settings.value(QStringLiteral("window/dark"), false).toBool());
  if (settings.value(QStringLiteral("window/inch"), false).toBool()) bench_.set_units(UnitSystem::inch);
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
  const QString names[] = {tr("Plan"), tr("Side"), tr("Solid"), tr("Bed"), tr("Rehearsal"), tr("Surface")};
  for (int i = 0; i < 6; ++i) {
    auto* button = new QPushButton(names[i], all);
    button->setObjectName(QStringLiteral("view"));
    button->setCheckable(true);
    button->setChecked(i == 0);
    button->setToolTip(tr("Ctrl+%1").arg(i + 1));
    button->setAccessibleName(tr("Picture: %1").arg(names[i]));
    view_buttons_->addButton(button, i);
    row->addWidget(button);
  }
  row->addStretch(1);
  column->addLayout(row);
  pictures_ = new QStackedWidget(all);
  bed_ = new BedView(bench_, this);
  rehearsal_ = new RehearsalView(bench_, this);
  connect(rehearsal_, &RehearsalView::prove_asked, this, [this] {
    if (taken()) bench_.prove_all();
  });
  if (opengl_works()) {
    solid_ = new SolidView(bench_, this);
  } else {
    auto* none = new QLabel(tr("There is no OpenGL 3.3 on this display, so the solid picture cannot be "
                               "drawn.\nEverything else works without it."),
                            this);
    none->setAlignment(Qt::AlignCenter);
    solid_ = none;
  }
  bed_->setAccessibleName(tr("Bed of the machine"));
  for (QWidget* w : {static_cast<QWidget*>(bed_), solid_, static_cast<QWidget*>(rehearsal_)}) pictures_->addWidget(w);
  for (const PartKind& kind : bench_.parts().kinds()) {
    own_[kind.id()] = make_pictures(kind.id(), bench_, this);
    for (const auto& [view, widget] : own_[kind.id()].views) pictures_->addWidget(widget);
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

QWidget* MainWindow::picture_of(View view) const {
  if (QWidget* own = own_view(bench_.part(), view)) return own;
  return view == View::solid ? solid_ : view == View::rehearsal ? rehearsal_ : static_cast<QWidget*>(bed_);
}

void MainWindow::show_view(View view) {
  if (view == View::surface && own_view(bench_.part(), view) == nullptr) view = View::plan;
  view_ = view;
  pictures_->setCurrentWidget(picture_of(view));
  view_buttons_->button(static_cast<int>(view))->setChecked(true);
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
  mark_cut_->setEnabled(!chosen.side.empty());
  for (const auto& [part, pictures] : own_)
    if (pictures.line_chosen) pictures.line_chosen(line_);
  if (!chosen.side.empty()) {
    bed_->set_side(chosen.side);
    rehearsal_->set_side(chosen.side);
  }
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
  // The menu bar measures its corner only when it is set: a longer name would be cut off.
  if (QWidget* head = menuBar()->cornerWidget(Qt::TopRightCorner)) {
    head->adjustSize();
    menuBar()->setCornerWidget(head, Qt::TopRightCorner);
  }
  setWindowTitle(tr("%1%2, Upland Wren").arg(name, bench_.history().modified() ? QStringLiteral("*") : QString()));
  units_->setText(bench_.units() == UnitSystem::inch ? tr("inches") : tr("millimetres"));
  undo_->setEnabled(bench_.history().can_undo());
  redo_->setEnabled(bench_.history().can_redo());
  undo_->setText(tr("&Undo %1").arg(QString::fromStdString(bench_.history().undo_name())));
  redo_->setText(tr("&Redo %1").arg(QString::fromStdString(bench_.history().redo_name())));
}

void MainWindow::say(const QString& text, bool bad) {
  said_->setText(text);
  said_->setStyleSheet(QStringLiteral("color: %1").arg((bad ? colours().rowan : colours().ink).name()));
  if (bad) progress_->hide();
}

void MainWindow::apply_theme(bool dark) {
  set_theme(dark ? Theme::dark : Theme::light);
  qApp->setStyleSheet(style_sheet());
  dark_->setChecked(dark);
  Q_EMIT bench_.changed();
  Q_EMIT bench_.planned_now();
}

bool MainWindow::open_file(const QString& path) {
  if (const auto problem = bench_.open(path.toStdString())) {
    QMessageBox::warning(this, tr("The project cannot be opened"), QString::fromStdString(problem->text()));
    return false;
  }
  remember_recent(path);
  if (const auto kept = recoverable(bench_.parts().book(), path.toStdString())) {
    QMessageBox ask(QMessageBox::Question, tr("Unsaved work"),
                    tr("There is unsaved work of an earlier run beside this project. Take it over? You can undo it."),
                    QMessageBox::NoButton, this);
    auto* take = ask.addButton(tr("Take it over"), QMessageBox::AcceptRole);
    ask.addButton(tr("Leave it"), QMessageBox::RejectRole);
    ask.exec();
    if (ask.clickedButton() == take) bench_.recover(*kept);
  }
  say(tr("Opened %1").arg(path), false);
  return true;
}

bool MainWindow::save(bool as) {
  // What is being typed is saved with the rest; a refused number keeps its message, and the last good one is saved.
  const bool taken = ledger_->commit_typing();
  QString path = QString::fromStdString(bench_.path().string());
  if (as || path.isEmpty())
    path = QFileDialog::getSaveFileName(
        this, tr("Save project"),
        path.isEmpty() ? QString::fromStdString(bench_.project().name).toLower() + QStringLiteral(".wren") : path,
        tr("Projects (*.wren)"));
  if (path.isEmpty()) return false;
  if (const auto problem = bench_.save(path.toStdString())) {
    QMessageBox::warning(this, tr("The project was not saved"), QString::fromStdString(problem->text()));
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
  if (ledger_->commit_typing()) return true;
  say(tr("A number is refused: mend it or give it up (Esc) first"), true);
  return false;
}

bool MainWindow::may_leave() {
  if (!ledger_->commit_typing()) say(tr("A number is refused and will not be saved"), true);
  if (!ask_ || !bench_.history().modified()) return true;
  QMessageBox ask(QMessageBox::Question, tr("Unsaved changes"),
                  tr("Save the changes to %1?").arg(QString::fromStdString(bench_.project().name)),
                  QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  switch (ask.exec()) {
    case QMessageBox::Save: return save(false);
    case QMessageBox::Discard: return true;
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
  settings.setValue(QStringLiteral("window/over"), over_->saveState());
  settings.setValue(QStringLiteral("window/under"), under_->saveState());
  settings.setValue(QStringLiteral("window/dark"), theme() == Theme::dark);
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
  std::vector<Remark> stops;
  for (const Remark& r : bench_.remarks())
    if (r.weight == Weight::stop) stops.push_back(r);
  if (!bench_.planned(bench_.part())) return say(tr("The cuts are still being planned; try again in a moment"), true);
  if (!stops.empty()) {
    QMessageBox::warning(this, tr("No programs yet"),
                         tr("Something stops the work:\n\n%1").arg(QString::fromStdString(stops.front().sentence)));
    return;
  }
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Folder for the programs"));
  if (!folder.isEmpty()) write_programs_into(folder);
}

bool MainWindow::write_sheet_to(const QString& pdf) {
  const auto planned = bench_.planned(bench_.part());
  if (!planned) return false;
  const auto written =
      write_run_sheet_pdf(pdf.toStdString(), bench_.kind(), bench_.followed(), bench_.cache(), *planned,
                          Workbench::today(), bench_.units(), bench_.proof(bench_.part()).get());
  if (!written) {
    say(QString::fromStdString(written.error().text()), true);
    return false;
  }
  bench_.note_written(bench_.part(), "sheet", QFileInfo(pdf).absoluteFilePath().toStdString());
  Q_EMIT bench_.changed();
  say(tr("Run sheet written: %1").arg(pdf), false);
  return true;
}

void MainWindow::write_sheet() {
  if (!taken()) return;
  const QString pdf = QFileDialog::getSaveFileName(
      this, tr("Run sheet"), QString::fromStdString(file_safe(bench_.project().name) + "-" + bench_.part() + ".pdf"),
      tr("PDF (*.pdf)"));
  if (!pdf.isEmpty()) write_sheet_to(pdf);
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

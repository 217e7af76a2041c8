// The menus of the main window: every job has a place here and a key, and all keys are listed in one place.
#include <QApplication>
#include <QDialog>
#include <QFileDialog>
#include <QMenuBar>
#include <QMessageBox>
#include <QPrintDialog>
#include <QPrinter>
#include <QSettings>
#include <QTextBrowser>

#include "app/crown_dialog.hpp"
#include "app/main_window.hpp"
#include "app/paper.hpp"
#include "app/theme.hpp"
#include "core/document/project_file.hpp"
#include "exchange/fret_table.hpp"

namespace wren::app {

void MainWindow::make_menus() {
  const auto add = [this](QMenu* menu, const QString& text, const QKeySequence& keys, auto run) {
    QAction* action = menu->addAction(text);
    action->setShortcut(keys);
    connect(action, &QAction::triggered, this, run);
    return action;
  };
  QMenu* file = menuBar()->addMenu(tr("&File"));
  QMenu* fresh = file->addMenu(tr("&New from"));
  for (const std::string& name : starting_points())
    add(fresh, QString::fromStdString(name), {}, [this, name] { if (may_leave()) bench_.replace(*project_from(name), {}); });
  add(file, tr("&Open…"), QKeySequence::Open, [this] {
    if (!may_leave()) return;
    const QString path = QFileDialog::getOpenFileName(this, tr("Open project"), {}, tr("Projects (*.wren)"));
    if (!path.isEmpty()) open_file(path);
  });
  recent_ = file->addMenu(tr("Open &recent"));
  connect(recent_, &QMenu::aboutToShow, this, &MainWindow::fill_recent);
  file->addSeparator();
  add(file, tr("&Save"), QKeySequence::Save, [this] { save(false); });
  add(file, tr("Save &as…"), QKeySequence(QStringLiteral("Ctrl+Shift+S")), [this] { save(true); });
  file->addSeparator();
  add(file, tr("&Quit"), QKeySequence(QStringLiteral("Ctrl+Q")), [this] { close(); });

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  undo_ = add(edit, tr("&Undo"), QKeySequence::Undo, [this] { bench_.undo(); });
  redo_ = add(edit, tr("&Redo"), QKeySequence(QStringLiteral("Ctrl+Shift+Z")), [this] { bench_.redo(); });
  edit->addSeparator();
  add(edit, tr("&Copy picture"), QKeySequence(QStringLiteral("Ctrl+Shift+C")), [this] { copy_picture(); });

  QMenu* look = menuBar()->addMenu(tr("&View"));
  const QString names[] = {tr("&Plan"), tr("&Side"), tr("S&olid"), tr("&Bed"), tr("&Rehearsal")};
  for (int i = 0; i < 5; ++i) add(look, names[i], QKeySequence(QStringLiteral("Ctrl+%1").arg(i + 1)), [this, i] { show_view(static_cast<View>(i)); });
  look->addSeparator();
  add(look, tr("Show &all"), QKeySequence(QStringLiteral("Ctrl+0")), [this] { if (auto* flat = qobject_cast<FlatView*>(pictures_->currentWidget())) flat->fit(); });
  add(look, tr("&Millimetres or inches"), QKeySequence(QStringLiteral("Ctrl+U")), [this] { units_->click(); });
  dark_ = add(look, tr("&Dark"), QKeySequence(QStringLiteral("Ctrl+D")), [this] { apply_theme(theme() == Theme::light); });
  dark_->setCheckable(true);

  QMenu* work = menuBar()->addMenu(tr("&Work"));
  add(work, tr("&Rehearse and prove"), QKeySequence(QStringLiteral("Ctrl+R")), [this] {
    choose_line("rehearsal");
    bench_.prove_all();
  });
  add(work, tr("S&top"), QKeySequence(QStringLiteral("Ctrl+.")), [this] {
    if (bench_.proving()) bench_.cancel_proof();
    bench_.cancel_writing();
  });
  add(work, tr("&Write programs…"), QKeySequence(QStringLiteral("Ctrl+E")), [this] { write_programs(); });
  work->addSeparator();
  add(work, tr("Run sheet as P&DF…"), QKeySequence(QStringLiteral("Ctrl+Shift+P")), [this] { write_sheet(); });
  add(work, tr("&Print run sheet…"), QKeySequence::Print, [this] { print_sheet(); });
  add(work, tr("&Fret list as CSV…"), QKeySequence(QStringLiteral("Ctrl+Shift+F")), [this] {
    if (!bench_.design()) return;
    const QString path = QFileDialog::getSaveFileName(this, tr("Fret list"), QStringLiteral("frets.csv"), tr("CSV (*.csv)"));
    if (path.isEmpty()) return;
    const auto written = write_file_atomically(path.toStdString(), fret_table_csv(bench_.design()->board));
    say(written ? tr("Fret list written: %1").arg(path) : QString::fromStdString(written.error().text()), !written);
  });
  work->addSeparator();
  add(work, tr("Compare cutters for the &crown…"), QKeySequence(QStringLiteral("Ctrl+K")), [this] {
    CrownDialog dialog(bench_, this);
    dialog.exec();
  });
  mark_cut_ = add(work, tr("&Mark this cut as done"), QKeySequence(QStringLiteral("Ctrl+M")), [this] { if (line_.rfind("cut.", 0) == 0) bench_.mark_cut(line_.substr(4)); });
  mark_cut_->setEnabled(false);

  QMenu* help = menuBar()->addMenu(tr("&Help"));
  add(help, tr("&Keys"), QKeySequence::HelpContents, [this] { show_shortcuts(); });
  add(help, tr("&About"), {}, [this] {
    QMessageBox::about(this, tr("Upland Wren"), tr("Upland Wren %1\n\nFretboards from their numbers to proved programs.\nGPL-3.0-or-later. The program plans; you decide.").arg(QApplication::applicationVersion()));
  });
}

void MainWindow::fill_recent() {
  recent_->clear();
  for (const QString& path : QSettings().value(QStringLiteral("recent")).toStringList()) {
    QAction* action = recent_->addAction(path);
    connect(action, &QAction::triggered, this, [this, path] { if (may_leave()) open_file(path); });
  }
  if (recent_->isEmpty()) recent_->addAction(tr("Nothing opened yet"))->setEnabled(false);
}

void MainWindow::print_sheet() {
  if (!bench_.design() || !bench_.cuts()) return;
  QPrinter printer(QPrinter::HighResolution);
  printer.setPageSize(QPageSize(QPageSize::A4));
  QPrintDialog dialog(&printer, this);
  if (dialog.exec() != QDialog::Accepted) return;
  printer.setFullPage(true);
  print_run_sheet(printer, bench_.project(), *bench_.design(), *bench_.cuts(), Workbench::today(), bench_.units());
  say(tr("Sent to the printer"), false);
}

void MainWindow::show_shortcuts() {
  QDialog dialog(this);
  dialog.setWindowTitle(tr("Keys"));
  dialog.resize(520, 560);
  auto* column = new QVBoxLayout(&dialog);
  auto* text = new QTextBrowser(&dialog);
  QString html = QStringLiteral("<table cellpadding='3'>");
  for (QMenu* menu : menuBar()->findChildren<QMenu*>(QString(), Qt::FindDirectChildrenOnly))
    for (QAction* action : menu->actions())
      if (!action->shortcut().isEmpty()) html += QStringLiteral("<tr><td>%1</td><td><code>%2</code></td></tr>").arg(action->text().remove(QLatin1Char('&')), action->shortcut().toString(QKeySequence::NativeText));
  html += tr("<tr><td>Picture: nearer, further, all</td><td><code>+ − 0</code></td></tr><tr><td>Picture: move or turn</td><td><code>arrow keys</code></td></tr>"
             "<tr><td>Side: stretch heights</td><td><code>[ ]</code></td></tr><tr><td>Leave a drag</td><td><code>Esc</code></td></tr></table>");
  text->setHtml(html);
  column->addWidget(text);
  dialog.exec();
}

}  // namespace wren::app

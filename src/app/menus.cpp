// The menus of the main window: every job has a place here and a key, and all keys are listed in one place.
#include <algorithm>

#include <QApplication>
#include <QDesktopServices>
#include <QDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenuBar>
#include <QMessageBox>
#include <QProcess>
#include <QScreen>
#include <QSettings>
#include <QTemporaryDir>
#include <QTextBrowser>
#include <QUrl>

#include "app/compare_dialog.hpp"
#include "app/find_box.hpp"
#include "app/hardware_dialog.hpp"
#include "app/main_window.hpp"
#include "app/take_dialog.hpp"
#include "app/materials_dialog.hpp"
#include "app/new_dialog.hpp"
#include "app/paper.hpp"
#include "app/paper_dialog.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/report/names.hpp"
#include "exchange/exports.hpp"

namespace wren::app {

void MainWindow::make_menus() {
  QMenu* file = menuBar()->addMenu(tr("&File"));
  add(file, tr("&New…"), QKeySequence::New, [this] {
    if (!may_leave()) return;
    NewDialog dialog(bench_, this);
    if (dialog.exec() == QDialog::Accepted) bench_.replace(dialog.project());
  });
  add(file, tr("New from &this one: its numbers, nothing of what was made"), {}, [this] {
    if (!taken() || !may_leave()) return;
    Project next = without_facts(bench_.project());
    next.name += " (another)";
    bench_.replace(std::move(next));
  });
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
  add(file, tr("Bring in a &plan (DXF, SVG, PDF)…"), QKeySequence(QStringLiteral("Ctrl+I")), [this] { import_plan(); });
  exports_ = file->addMenu(tr("E&xport the part"));
  connect(exports_, &QMenu::aboutToShow, this, &MainWindow::fill_exports);
  fill_exports();
  add(file, tr("Run sheet on paper (&print)…"), QKeySequence::Print, [this] { sheet_on_paper(); });
  add(file, tr("Show the &folder of the programs"), {}, [this] { show_folder(); });
  file->addSeparator();
  add(file, tr("&Quit"), QKeySequence(QStringLiteral("Ctrl+Q")), [this] { close(); });

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  undo_ = add(edit, tr("&Undo"), QKeySequence::Undo, [this] { bench_.undo(); });
  redo_ = add(edit, tr("&Redo"), QKeySequence(QStringLiteral("Ctrl+Shift+Z")), [this] { bench_.redo(); });
  edit->addSeparator();
  add(edit, tr("&Copy picture"), QKeySequence(QStringLiteral("Ctrl+Shift+C")), [this] { copy_picture(); });

  edit->addSeparator();
  add(edit, tr("&Find a line or a number…"), QKeySequence::Find, [this] { find(); });

  make_views_menu();
  QMenu* work = menuBar()->addMenu(tr("&Work"));
  add(work, tr("Next &step"), QKeySequence(QStringLiteral("N")), [this] {
    show_step(false);
    if (!sheet_->go_next()) say(tr("Everything is made and measured"), false);
  });
  add(work, tr("&Rehearse and prove"), QKeySequence(QStringLiteral("Ctrl+R")), [this] {
    if (!taken()) return;
    choose_line(bench_.part() + ".rehearsal");
    bench_.prove_all();
  });
  add(work, tr("S&top"), QKeySequence(QStringLiteral("Ctrl+.")), [this] {
    if (bench_.proving()) bench_.cancel_proof();
    bench_.cancel_writing();
  });
  add(work, tr("&Write programs…"), QKeySequence(QStringLiteral("Ctrl+E")), [this] {
    if (taken()) write_programs();
  });
  work->addSeparator();
  mark_cut_ =
      add(work, tr("&Mark this as done"), QKeySequence(QStringLiteral("Ctrl+M")), [this] { bench_.mark_cut(line_); });
  mark_cut_->setEnabled(false);
  add(work, tr("What another wa&y costs…"), QKeySequence(QStringLiteral("Ctrl+Y")), [this] {
    if (taken()) CompareDialog(bench_, this).exec();
  });
  add(work, tr("Spoiled: &new blank…"), {}, [this] {
    if (taken()) spoiled();
  });
  work->addSeparator();
  add(work, tr("The shop's rac&k"), QKeySequence(QStringLiteral("Ctrl+Shift+K")), [this] { choose_line("rack"); });
  add(work, tr("The machin&e"), {}, [this] { choose_line("machine"); });
  add(work, tr("R&un log"), QKeySequence(QStringLiteral("Ctrl+Shift+J")), [this] { choose_line("runs"); });
  add(work, tr("Mater&ials…"), QKeySequence(QStringLiteral("Ctrl+Shift+M")), [this] {
    if (taken()) MaterialsDialog(bench_, *shop_, this).exec();
  });
  add(work, tr("My h&ardware…"), {}, [this] {
    if (taken()) HardwareDialog(bench_, this).exec();
  });

  make_part_menus();

  QMenu* help = menuBar()->addMenu(tr("&Help"));
  add(help, tr("&Formulas and their sources"), {}, [this] { show_formulas({}); });
  add(help, tr("&Keys"), QKeySequence::HelpContents, [this] { show_shortcuts(); });
  add(help, tr("&About"), {}, [this] {
    QMessageBox::about(this, tr("Upland Wren"),
                       tr("Upland Wren %1\n\nFretboards, necks and bodies from their numbers to proved "
                          "programs.\nGPL-3.0-or-later. The program plans; you decide.")
                           .arg(QApplication::applicationVersion()));
  });
}

void MainWindow::make_views_menu() {
  QMenu* look = menuBar()->addMenu(tr("&View"));
  add(look, tr("B&ench: the whole instrument"), QKeySequence(QStringLiteral("Ctrl+B")),
      [this] { show_view(View::bench); });
  const QString names[] = {tr("&Plan"), tr("&Side"), tr("S&olid"), tr("&Bed"), tr("&Rehearsal"), tr("S&urface")};
  for (int i = 0; i < 6; ++i)
    add(look, names[i], QKeySequence(QStringLiteral("Ctrl+%1").arg(i + 1)),
        [this, i] { show_view(static_cast<View>(i)); });
  look->addSeparator();
  add(look, tr("Lay a p&icture under the drawing…"), {}, [this] {
    if (taken()) lay_picture();
  });
  add(look, tr("Take a cur&ve from a drawing…"), {}, [this] {
    if (!taken()) return;
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Drawing"), {}, tr("Drawings (*.dxf *.svg *.pdf *.png *.jpg *.jpeg)"));
    if (path.isEmpty()) return;
    TakeDialog dialog(bench_, this);
    dialog.load(path);
    dialog.exec();
  });
  add(look, tr("Show &all"), QKeySequence(QStringLiteral("Ctrl+0")), [this] {
    QWidget* now = view_ == View::bench ? whole_->picture() : pictures_->currentWidget();
    if (auto* flat = qobject_cast<FlatView*>(now)) flat->fit();
  });
  step_action_ =
      add(look, tr("Step at the &machine"), QKeySequence(QStringLiteral("F8")), [this](bool on) { show_step(on); });
  step_action_->setCheckable(true);
  add(look, tr("Step in a &window of its own"), QKeySequence(QStringLiteral("Shift+F8")), [this] { step_window(); });
  alone_action_ =
      add(look, tr("Picture a&lone"), QKeySequence(QStringLiteral("F9")), [this](bool on) { show_alone(on); });
  alone_action_->setCheckable(true);
  tall_action_ = add(look, tr("Numbers &beside the picture"), QKeySequence(QStringLiteral("F10")),
                     [this](bool on) { arrange(on ? Arrangement::tall : Arrangement::wide); });
  tall_action_->setCheckable(true);
  look->addSeparator();
  add(look, tr("&Millimetres or inches"), QKeySequence(QStringLiteral("Ctrl+U")), [this] { units_->click(); });
  add(look, tr("Text lar&ger"), QKeySequence::ZoomIn, [this] { set_text_size_of_window(text_size() + 1); });
  add(look, tr("Text smalle&r"), QKeySequence::ZoomOut, [this] { set_text_size_of_window(text_size() - 1); });
  QMenu* theme_menu = look->addMenu(tr("&Theme"));
  themes_ = new QActionGroup(this);
  for (const auto& [which, title] : {std::pair{"desktop", tr("As the &desktop")}, std::pair{"light", tr("&Light")},
                                     std::pair{"dark", tr("Dar&k")}}) {
    QAction* action = theme_menu->addAction(title);
    action->setCheckable(true);
    action->setData(QString::fromLatin1(which));
    themes_->addAction(action);
    connect(action, &QAction::triggered, this, [this, action] { choose_theme(action->data().toString()); });
  }
  add(look, tr("&Dark or light"), QKeySequence(QStringLiteral("Ctrl+D")),
      [this] { choose_theme(theme() == Theme::light ? QStringLiteral("dark") : QStringLiteral("light")); });
}

void MainWindow::step_window() {
  if (own_step_ == nullptr) {
    own_step_ = new StepView(bench_, *shop_, *desk_, this);
    own_step_->setWindowFlag(Qt::Window);
    own_step_->setWindowTitle(tr("Step at the machine, Upland Wren"));
    connect(own_step_, &StepView::leave, own_step_, &QWidget::hide);
    connect(own_step_, &StepView::key_wanted, step_, &StepView::key_wanted);
  }
  // On a second screen where there is one, filling it.
  const auto screens = QGuiApplication::screens();
  if (screens.size() > 1)
    for (QScreen* other : screens)
      if (other != screen()) {
        own_step_->setGeometry(other->availableGeometry());
        break;
      }
  own_step_->show();
  own_step_->show_line(line_);
  own_step_->raise();
}

void MainWindow::find() {
  if (!taken()) return;
  show_step(false);
  FindBox box(bench_, this);
  connect(&box, &FindBox::found, this,
          [this](const QString& line, const QString& key) { go_to_number(line.toStdString(), key.toStdString()); });
  box.exec();
}

void MainWindow::show_folder() {
  const QString folder = QString::fromStdString(bench_.project().record.folder);
  if (folder.isEmpty()) return say(tr("No programs were written yet: Work, Write programs"), true);
  if (!QFileInfo(folder).isDir()) return say(tr("The folder is gone: %1").arg(folder), true);
  if (!QDesktopServices::openUrl(QUrl::fromLocalFile(folder))) say(tr("The programs are in %1").arg(folder), false);
}

void MainWindow::show_formulas(const QString& about) {
  QDialog dialog(this);
  dialog.setWindowTitle(tr("Formulas and their sources"));
  dialog.resize(980, 640);
  auto* column = new QVBoxLayout(&dialog);
  auto* words = new QLineEdit(&dialog);
  words->setAccessibleName(tr("Words to find in the formulas"));
  words->setPlaceholderText(tr("Find: break angle, pocket, scallop …"));
  auto* text = new QTextBrowser(&dialog);
  text->setAccessibleName(tr("Formulas"));
  QFile file(QStringLiteral(":/formulas.md"));
  if (file.open(QIODevice::ReadOnly)) text->setMarkdown(QString::fromUtf8(file.readAll()));
  const auto look = [text](const QString& what) {
    // The whole of it, else its longest words one after another.
    QStringList tries{what};
    QStringList parts = what.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    std::sort(parts.begin(), parts.end(), [](const QString& a, const QString& b) { return a.size() > b.size(); });
    for (const QString& one : tries + parts) {
      text->moveCursor(QTextCursor::Start);
      if (!one.isEmpty() && text->find(one)) return;
    }
  };
  connect(words, &QLineEdit::textChanged, text, look);
  column->addWidget(words);
  column->addWidget(text, 1);
  words->setText(about);
  dialog.exec();
}

void MainWindow::spoiled() {
  const auto planned = bench_.shown(bench_.part());
  if (!planned || planned->made.pieces.empty()) return say(tr("No piece of this part is planned yet."), true);
  QStringList titles;
  for (const Piece& p : planned->made.pieces) titles << in_words(p.title);
  bool well = false;
  const QString title = QInputDialog::getItem(
      this, tr("Spoiled: new blank"),
      tr("Which piece begins again from a new blank?\n\nWhat was cut and measured of it counts no more, nor of what is "
         "made from it; the record keeps all of it. This is not undone."),
      titles, 0, false, &well);
  if (!well) return;
  const auto& piece = planned->made.pieces[static_cast<std::size_t>(titles.indexOf(title))];
  const auto done = bench_.begin_anew(*planned, piece.id);
  if (!done) return say(bench_.words(done.error()), true);
  QStringList again;
  for (const std::string& what : done->again) again << QString::fromStdString(what);
  for (const std::string& key : done->measures) {
    const auto field = bench_.parts().book().find(bench_.project(), "measured." + key);
    again << tr("measure again: %1").arg(field ? in_words(field->label) : QString::fromStdString(key));
  }
  again << tr("measure the new blank, and enter its size");
  QMessageBox::information(this, tr("Spoiled: new blank"), tr("To be made again:\n\n%1").arg(again.join('\n')));
}

void MainWindow::fill_recent() {
  recent_->clear();
  for (const QString& path : QSettings().value(QStringLiteral("recent")).toStringList()) {
    QAction* action = recent_->addAction(path);
    connect(action, &QAction::triggered, this, [this, path] {
      if (may_leave()) open_file(path);
    });
  }
  if (recent_->isEmpty()) recent_->addAction(tr("Nothing opened yet"))->setEnabled(false);
}

void MainWindow::sheet_on_paper() {
  if (!taken()) return;
  if (const auto why = bench_.not_ready()) return say(bench_.words(*why), true);
  const std::string part = bench_.part();
  // What is shown is what goes on paper, whatever is typed meanwhile: nothing is, the dialog has the window.
  const auto planned = bench_.planned(part);
  const auto proof = bench_.proof(part);
  Printed sheet{tr("Run sheet on paper"),
                QString::fromStdString(file_safe(bench_.project().name) + "-" + part + ".pdf"),
                false,
                [&](QPagedPaintDevice& device, const PaperChoice& choice) {
                  print_run_sheet(device,
                                  {bench_.kind(), bench_.followed(), bench_.cache(), *planned, Workbench::today(),
                                   bench_.units(), proof.get()},
                                  choice.paper);
                },
                [&](const QString& path, const PaperChoice& choice) { return write_sheet_to(path, choice.paper); },
                [&] {
                  bench_.note(part + ".sheet");
                  say(tr("Sent to the printer"), false);
                }};
  PaperDialog(std::move(sheet), bench_.units(), this).exec();
}

void MainWindow::templates_on_paper() {
  const std::string part = bench_.part();
  if (const Problem* why = bench_.problem(part)) return say(bench_.words(*why), true);
  const Templates templates = templates_of(part);
  Printed sheets{
      tr("Templates on paper, at full size"),
      QString::fromStdString(file_safe(bench_.project().name) + "-" + part + ".pdf"),
      templates.routed,
      [&](QPagedPaintDevice& device, const PaperChoice& choice) { templates.print(device, bench_.followed(), choice); },
      [&](const QString& path, const PaperChoice& choice) {
        const auto written = write_templates_pdf(path.toStdString(), part, bench_.followed(), choice);
        say(written ? tr("Exported: %1").arg(path) : bench_.words(written.error()), !written);
        return written.has_value();
      },
      [&] { say(tr("Sent to the printer"), false); }};
  PaperDialog(std::move(sheets), bench_.units(), this).exec();
}

void MainWindow::fill_exports() {
  exports_->clear();
  for (const ExportFormat& format : export_formats()) {
    if (format.title.empty() || (!format.part.empty() && format.part != bench_.part())) continue;
    if (format.part.empty() && bench_.kind().mesh == nullptr) continue;
    QAction* action = exports_->addAction(tr(format.title.c_str()) + QStringLiteral("…"));
    connect(action, &QAction::triggered, this, [this, &format] {
      if (!taken()) return;
      if (format.ending == ".pdf" && templates_of(bench_.part()).print != nullptr) return templates_on_paper();
      const QString path = QFileDialog::getSaveFileName(
          this, tr("Export the part"),
          QString::fromStdString(file_safe(bench_.project().name) + "-" + bench_.part() + format.ending));
      if (!path.isEmpty()) export_to(path, bench_.part(), QString::fromStdString(format.what));
    });
  }
}

bool MainWindow::export_to(const QString& path, const std::string& part, const QString& what) {
  const std::string file = path.toStdString();
  const std::string ending = std::filesystem::path(file).extension().string();
  Expected<void> written = may_export_to(file);
  if (!written) {
  } else if (const Problem* why = bench_.problem(part))
    written = tl::unexpected(*why);
  else if (const ExportFormat* format = find_export(part, ending, what.toStdString()); format == nullptr)
    written = fail(ProblemKind::unsupported, "the part is not written in that format", file,
                   "Choose one of " + export_endings(part));
  else if (format->write != nullptr) {
    const auto bytes =
        format->write(*bench_.parts().find(part), bench_.followed(), bench_.cache(), {what.toStdString(), {}});
    written = bytes ? write_export(file, *bytes) : Expected<void>(tl::unexpected(bytes.error()));
  } else if (ending == ".pdf" && templates_of(part).print != nullptr) {
    written = write_templates_pdf(file, part, bench_.followed(), {});
  } else {
    // Solids are written by a program of their own, which carries the solid-modelling library.
    QTemporaryDir folder;
    const QString project = folder.filePath(QStringLiteral("part.wren"));
    written = save_project(bench_.parts().book(), project.toStdString(), bench_.project());
    QProcess process;
    if (written) {
      process.start(QApplication::applicationDirPath() + QStringLiteral("/") + QString::fromStdString(format->program),
                    {project, path});
      if (!process.waitForFinished(120000) || process.exitCode() != 0)
        written = fail(ProblemKind::file, process.readAllStandardError().trimmed().toStdString(), file,
                       "Check the folder, and that " + format->program + " stands beside the program");
    }
  }
  say(written ? tr("Exported: %1").arg(path) : bench_.words(written.error()), !written);
  return written.has_value();
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
      if (!action->shortcut().isEmpty())
        html +=
            QStringLiteral("<tr><td>%1</td><td><code>%2</code></td></tr>")
                .arg(action->text().remove(QLatin1Char('&')), action->shortcut().toString(QKeySequence::NativeText));
  html +=
      tr("<tr><td>Picture: nearer, further, all</td><td><code>+ − 0</code></td></tr><tr><td>Picture: move or "
         "turn</td><td><code>arrow keys</code></td></tr>"
         "<tr><td>Outline: next node, type its place, take it out</td><td><code>Tab, Enter, Del</code></td></tr>"
         "<tr><td>Side: stretch heights</td><td><code>[ ] or Page Down, Page Up</code></td></tr><tr><td>Neck's side: "
         "move the "
         "knife</td><td><code>&lt; &gt;</code></td></tr><tr><td>Solid: from the "
         "back</td><td><code>B</code></td></tr><tr><td>Leave a drag</td><td><code>Esc</code></td></tr></table>");
  text->setHtml(html);
  column->addWidget(text);
  dialog.exec();
}

}  // namespace wren::app

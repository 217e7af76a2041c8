// The menus of the main window: every job has a place here and a key, and all keys are listed in one place.
#include <QApplication>
#include <QDialog>
#include <QFileDialog>
#include <QMenuBar>
#include <QMessageBox>
#include <QPlainTextEdit>
#include <QPrintDialog>
#include <QPrinter>
#include <QProcess>
#include <QSettings>
#include <QTemporaryDir>
#include <QTextBrowser>

#include "app/body_paper.hpp"
#include "app/crown_dialog.hpp"
#include "app/main_window.hpp"
#include "app/neck_paper.hpp"
#include "app/plan_dialog.hpp"
#include "app/paper.hpp"
#include "app/theme.hpp"
#include "core/document/project_file.hpp"
#include "core/job/body_mesh.hpp"
#include "core/job/neck_mesh.hpp"
#include "exchange/fret_table.hpp"
#include "exchange/body_out.hpp"
#include "exchange/solid_out.hpp"

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
    add(fresh, QString::fromStdString(name), {}, [this, name] {
      if (may_leave()) bench_.replace(*project_from(name), {});
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
  add(file, tr("&Quit"), QKeySequence(QStringLiteral("Ctrl+Q")), [this] { close(); });

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  undo_ = add(edit, tr("&Undo"), QKeySequence::Undo, [this] { bench_.undo(); });
  redo_ = add(edit, tr("&Redo"), QKeySequence(QStringLiteral("Ctrl+Shift+Z")), [this] { bench_.redo(); });
  edit->addSeparator();
  add(edit, tr("&Copy picture"), QKeySequence(QStringLiteral("Ctrl+Shift+C")), [this] { copy_picture(); });

  QMenu* look = menuBar()->addMenu(tr("&View"));
  const QString names[] = {tr("&Plan"), tr("&Side"), tr("S&olid"), tr("&Bed"), tr("&Rehearsal"), tr("S&urface")};
  for (int i = 0; i < 6; ++i)
    add(look, names[i], QKeySequence(QStringLiteral("Ctrl+%1").arg(i + 1)),
        [this, i] { show_view(static_cast<View>(i)); });
  look->addSeparator();
  add(look, tr("Show &all"), QKeySequence(QStringLiteral("Ctrl+0")), [this] {
    if (auto* flat = qobject_cast<FlatView*>(pictures_->currentWidget())) flat->fit();
  });
  add(look, tr("&Millimetres or inches"), QKeySequence(QStringLiteral("Ctrl+U")), [this] { units_->click(); });
  dark_ =
      add(look, tr("&Dark"), QKeySequence(QStringLiteral("Ctrl+D")), [this] { apply_theme(theme() == Theme::light); });
  dark_->setCheckable(true);

  QMenu* work = menuBar()->addMenu(tr("&Work"));
  add(work, tr("&Rehearse and prove"), QKeySequence(QStringLiteral("Ctrl+R")), [this] {
    choose_line(bench_.part() == Part::body   ? "body.rehearsal"
                : bench_.part() == Part::neck ? "neck.rehearsal"
                                              : "rehearsal");
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
    const QString path =
        QFileDialog::getSaveFileName(this, tr("Fret list"), QStringLiteral("frets.csv"), tr("CSV (*.csv)"));
    if (path.isEmpty()) return;
    const auto written = write_file_atomically(path.toStdString(), fret_table_csv(bench_.design()->board));
    say(written ? tr("Fret list written: %1").arg(path) : QString::fromStdString(written.error().text()), !written);
  });
  work->addSeparator();
  add(work, tr("Compare cutters for the &crown…"), QKeySequence(QStringLiteral("Ctrl+K")), [this] {
    CrownDialog dialog(bench_, this);
    dialog.exec();
  });
  mark_cut_ = add(work, tr("&Mark this cut as done"), QKeySequence(QStringLiteral("Ctrl+M")), [this] {
    if (line_.rfind("cut.", 0) == 0 || line_.rfind("neckcut.", 0) == 0 || line_.rfind("bodycut.", 0) == 0)
      bench_.mark_cut(line_);
  });
  mark_cut_->setEnabled(false);

  QMenu* part = menuBar()->addMenu(tr("&Neck"));
  add(part, tr("Load measured &sections…"), QKeySequence(QStringLiteral("Ctrl+L")), [this] { load_drawing(true); });
  add(part, tr("T&ype in measured sections…"), QKeySequence(QStringLiteral("Ctrl+Alt+L")), [this] { type_sections(); });
  add(part, tr("Forget measured sections"), {}, [this] { bench_.forget_sections(); });
  add(part, tr("Load the &head's outline…"), QKeySequence(QStringLiteral("Ctrl+Shift+L")),
      [this] { load_drawing(false); });
  part->addSeparator();
  add(part, tr("Export as S&TL…"), QKeySequence(QStringLiteral("Ctrl+Alt+T")),
      [this] { export_part(QStringLiteral("stl")); });
  add(part, tr("Export as ST&EP…"), QKeySequence(QStringLiteral("Ctrl+Alt+E")),
      [this] { export_part(QStringLiteral("step")); });
  add(part, tr("Export &plan as DXF…"), {}, [this] { export_part(QStringLiteral("plan")); });
  add(part, tr("Export s&ections as DXF…"), {}, [this] { export_part(QStringLiteral("sections")); });
  add(part, tr("&Templates at full size as PDF…"), QKeySequence(QStringLiteral("Ctrl+Alt+P")),
      [this] { export_part(QStringLiteral("templates")); });

  QMenu* body = menuBar()->addMenu(tr("&Body"));
  add(body, tr("Bring in a &plan (DXF, SVG, PDF)…"), QKeySequence(QStringLiteral("Ctrl+I")), [this] { import_plan(); });
  add(body, tr("Take out drawn &cavities"), {}, [this] {
    if (const auto problem = bench_.set_cavities({}, "Take out drawn cavities"))
      say(QString::fromStdString(problem->text()), true);
  });
  add(body, tr("Load sections of the &face…"), {}, [this] { load_carve(); });
  body->addSeparator();
  add(body, tr("Templates for a hand &router…"), QKeySequence(QStringLiteral("Ctrl+Alt+R")),
      [this] { export_body(QStringLiteral("templates")); });
  add(body, tr("Export &outline and cavities as DXF…"), {}, [this] { export_body(QStringLiteral("dxf")); });
  add(body, tr("Export outline and cavities as S&VG…"), {}, [this] { export_body(QStringLiteral("svg")); });
  add(body, tr("Export as S&TL…"), {}, [this] { export_body(QStringLiteral("stl")); });

  QMenu* help = menuBar()->addMenu(tr("&Help"));
  add(help, tr("&Keys"), QKeySequence::HelpContents, [this] { show_shortcuts(); });
  add(help, tr("&About"), {}, [this] {
    QMessageBox::about(this, tr("Upland Wren"),
                       tr("Upland Wren %1\n\nFretboards, necks and bodies from their numbers to proved "
                          "programs.\nGPL-3.0-or-later. The program plans; you decide.")
                           .arg(QApplication::applicationVersion()));
  });
}

void MainWindow::load_drawing(bool sections) {
  const QString path =
      QFileDialog::getOpenFileName(this, sections ? tr("Measured sections") : tr("Outline of the head"), {},
                                   sections ? tr("Sections (*.csv *.dxf)") : tr("Drawings (*.dxf *.svg)"));
  if (path.isEmpty()) return;
  const auto problem = sections ? bench_.load_sections(path.toStdString()) : bench_.load_head(path.toStdString());
  if (problem)
    QMessageBox::warning(this, tr("Nothing was loaded"), QString::fromStdString(problem->text()));
  else
    say(tr("Loaded %1").arg(path), false);
}

void MainWindow::import_plan() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Plan"), {}, tr("Plans (*.dxf *.svg *.pdf)"));
  if (path.isEmpty()) return;
  bench_.set_part(Part::body);
  choose_line("body.outline");
  PlanDialog dialog(bench_, this);
  if (const auto problem = dialog.load(path)) {
    if (problem->kind != ProblemKind::unsupported || !path.endsWith(QStringLiteral(".pdf"), Qt::CaseInsensitive)) {
      QMessageBox::warning(this, tr("Nothing was brought in"), QString::fromStdString(problem->text()));
      return;
    }
    // A scanned page: it can lie under the outline.
    QMessageBox ask(
        QMessageBox::Question, tr("A scanned picture"),
        QString::fromStdString(problem->text()) +
            tr("\n\nShow it as a backdrop? Its width is taken as printed; set the outline's numbers over it."),
        QMessageBox::NoButton, this);
    auto* show_it = ask.addButton(tr("Show it"), QMessageBox::AcceptRole);
    ask.addButton(tr("Leave it"), QMessageBox::RejectRole);
    ask.exec();
    if (ask.clickedButton() != show_it) return;
    const auto png = page_picture(path.toStdString(), 1, 100);
    if (!png) return say(QString::fromStdString(png.error().text()), true);
    const QImage picture = QImage::fromData(QByteArray(png->data(), static_cast<qsizetype>(png->size())), "PNG");
    const auto d = bench_.body();
    const Vec2 middle = d ? bounds(d->shape.corners).middle() : Vec2{550, 0};
    const double mm = 25.4 / 100;
    body_plan_->set_backdrop(picture, middle - Vec2{picture.width() * mm / 2, picture.height() * mm / 2}, mm);
    return;
  }
  dialog.exec();
}

void MainWindow::load_carve() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Sections of the face"), {}, tr("Sections (*.csv *.dxf)"));
  if (path.isEmpty()) return;
  if (const auto problem = bench_.load_carve_lines(path.toStdString()))
    QMessageBox::warning(this, tr("Nothing was loaded"), QString::fromStdString(problem->text()));
  else
    say(tr("Loaded %1").arg(path), false);
}

void MainWindow::export_body(const QString& what) {
  const QString ending = what == QStringLiteral("templates") ? QStringLiteral("pdf") : what;
  const QString path = QFileDialog::getSaveFileName(
      this, tr("Export the body"),
      QString::fromStdString(file_safe(bench_.project().name)) + QStringLiteral("-body.") + ending);
  if (!path.isEmpty()) export_body_to(path, what);
}

bool MainWindow::export_body_to(const QString& path, const QString& what) {
  if (!bench_.body()) {
    say(tr("No body follows from these numbers"), true);
    return false;
  }
  const BodyShape& body = bench_.body()->shape;
  const std::string file = path.toStdString();
  Expected<void> written;
  if (what == QStringLiteral("stl"))
    written = write_file_atomically(file, stl_bytes(body_mesh(body, 3), bench_.project().name + " body, mm"));
  else if (what == QStringLiteral("dxf"))
    written = write_file_atomically(file, body_dxf(body, {}));
  else if (what == QStringLiteral("svg"))
    written = write_file_atomically(file, body_svg(body, {}));
  else
    written = write_body_templates_pdf(file, bench_.project(), *bench_.body(), {});
  say(written ? tr("Exported: %1").arg(path) : QString::fromStdString(written.error().text()), !written);
  return written.has_value();
}

void MainWindow::type_sections() {
  QDialog dialog(this);
  dialog.setWindowTitle(tr("Measured sections"));
  dialog.resize(560, 520);
  auto* column = new QVBoxLayout(&dialog);
  auto* words = new QLabel(
      tr("One point a line: place along the neck from the nut line, across it from the middle, depth under the glue "
         "plane; separated by commas. Any unit: 25.4, 1 in, 5/8 in. Sections one after another, edge to edge."),
      &dialog);
  words->setWordWrap(true);
  auto* text = new QPlainTextEdit(&dialog);
  text->setAccessibleName(tr("Points of the sections"));
  text->setFont(figure_font(10));
  QString now;
  for (const BackSection& s : bench_.project().neck.back.sections)
    for (const Vec2 q : s.points)
      now += QStringLiteral("%1, %2, %3\n")
                 .arg(QString::fromStdString(format_mm(s.x)), QString::fromStdString(format_mm(q.x)),
                      QString::fromStdString(format_mm(q.y)));
  text->setPlainText(now);
  text->setPlaceholderText(tr("40, -22, 0\n40, -12, 10.5\n40, 0, 14.2\n40, 12, 10.5\n40, 22, 0\n240, -26, 0\n…"));
  auto* trouble = new QLabel(&dialog);
  trouble->setWordWrap(true);
  trouble->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
  auto* take = new QPushButton(tr("Lay the back through them"), &dialog);
  take->setObjectName(QStringLiteral("main"));
  connect(take, &QPushButton::clicked, &dialog, [this, text, trouble, &dialog] {
    if (const auto problem = bench_.type_sections(text->toPlainText().toStdString()))
      trouble->setText(QString::fromStdString(problem->text()));
    else
      dialog.accept();
  });
  column->addWidget(words);
  column->addWidget(text, 1);
  column->addWidget(trouble);
  column->addWidget(take, 0, Qt::AlignRight);
  dialog.exec();
}

void MainWindow::export_part(const QString& what) {
  const QString ending = what == QStringLiteral("stl")         ? QStringLiteral(".stl")
                         : what == QStringLiteral("step")      ? QStringLiteral(".step")
                         : what == QStringLiteral("templates") ? QStringLiteral(".pdf")
                                                               : QStringLiteral(".dxf");
  const QString path = QFileDialog::getSaveFileName(
      this, tr("Export the neck"),
      QString::fromStdString(file_safe(bench_.project().name)) + QStringLiteral("-neck-") + what + ending);
  if (!path.isEmpty()) export_neck_to(path, what);
}

bool MainWindow::export_neck_to(const QString& path, const QString& what) {
  if (!bench_.neck()) {
    say(tr("No neck follows from these numbers"), true);
    return false;
  }
  const NeckShape& neck = bench_.neck()->shape;
  const std::string file = path.toStdString();
  Expected<void> written;
  if (what == QStringLiteral("stl"))
    written = write_file_atomically(file, stl_bytes(neck_mesh(neck, 1.5), bench_.project().name + " neck, mm"));
  else if (what == QStringLiteral("plan"))
    written = write_file_atomically(file, plan_dxf(neck));
  else if (what == QStringLiteral("sections"))
    written = write_file_atomically(file, sections_dxf(neck, usual_places(neck)));
  else if (what == QStringLiteral("templates"))
    written = write_neck_templates_pdf(file, bench_.project(), *bench_.neck());
  else if (what == QStringLiteral("step")) {
    // Solids are written by a program of their own, which carries the solid-modelling library.
    QTemporaryDir folder;
    const QString project = folder.filePath(QStringLiteral("neck.wren"));
    written = save_project(project.toStdString(), bench_.project());
    if (written) {
      QProcess process;
      process.start(QApplication::applicationDirPath() + QStringLiteral("/wren-step"), {project, path});
      if (!process.waitForFinished(120000) || process.exitCode() != 0)
        written = fail(ProblemKind::file, process.readAllStandardError().trimmed().toStdString(), file,
                       "Check the folder, and that wren-step stands beside the program");
    }
  }
  say(written ? tr("Exported: %1").arg(path) : QString::fromStdString(written.error().text()), !written);
  return written.has_value();
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

void MainWindow::print_sheet() {
  if (!bench_.part_planned()) return;
  QPrinter printer(QPrinter::HighResolution);
  printer.setPageSize(QPageSize(QPageSize::A4));
  QPrintDialog dialog(&printer, this);
  if (dialog.exec() != QDialog::Accepted) return;
  printer.setFullPage(true);
  if (bench_.part() == Part::body)
    print_body_sheet(printer, bench_.project(), *bench_.body(), *bench_.body_cuts(), Workbench::today(),
                     bench_.units());
  else if (bench_.part() == Part::neck)
    print_neck_sheet(printer, bench_.project(), *bench_.neck(), *bench_.neck_cuts(), Workbench::today(),
                     bench_.units());
  else
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
      if (!action->shortcut().isEmpty())
        html +=
            QStringLiteral("<tr><td>%1</td><td><code>%2</code></td></tr>")
                .arg(action->text().remove(QLatin1Char('&')), action->shortcut().toString(QKeySequence::NativeText));
  html +=
      tr("<tr><td>Picture: nearer, further, all</td><td><code>+ − 0</code></td></tr><tr><td>Picture: move or "
         "turn</td><td><code>arrow keys</code></td></tr>"
         "<tr><td>Side: stretch heights</td><td><code>[ ]</code></td></tr><tr><td>Neck's side: move the "
         "knife</td><td><code>&lt; &gt;</code></td></tr><tr><td>Solid: from the "
         "back</td><td><code>B</code></td></tr><tr><td>Leave a drag</td><td><code>Esc</code></td></tr></table>");
  text->setHtml(html);
  column->addWidget(text);
  dialog.exec();
}

}  // namespace wren::app

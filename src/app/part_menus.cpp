// Menu entries that belong to single parts: what they take in from drawings and measures, and their own lists.
#include <QDialog>
#include <QFileDialog>
#include <QInputDialog>
#include <QMenuBar>
#include <QMessageBox>
#include <QPlainTextEdit>

#include "app/body_views.hpp"
#include "app/crown_dialog.hpp"
#include "app/designs.hpp"
#include "app/flat_view.hpp"
#include "app/main_window.hpp"
#include "app/part_edits.hpp"
#include "app/plan_dialog.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/fret_table.hpp"
#include "exchange/plan_in.hpp"

namespace wren::app {

void MainWindow::make_part_menus() {
  QMenu* board = menuBar()->addMenu(tr("F&retboard"));
  add(board, tr("&Fret list as CSV…"), QKeySequence(QStringLiteral("Ctrl+Shift+F")), [this] {
    if (!board_design(bench_)) return;
    const QString path =
        QFileDialog::getSaveFileName(this, tr("Fret list"), QStringLiteral("frets.csv"), tr("CSV (*.csv)"));
    if (path.isEmpty()) return;
    const auto written = write_export(path.toStdString(), fret_table_csv(board_design(bench_)->board));
    say(written ? tr("Fret list written: %1").arg(path) : bench_.words(written.error()), !written);
  });
  add(board, tr("Compare cutters for the &crown…"), QKeySequence(QStringLiteral("Ctrl+K")), [this] {
    CrownDialog dialog(bench_, this);
    dialog.exec();
  });

  QMenu* neck = menuBar()->addMenu(tr("&Neck"));
  add(neck, tr("Load measured &sections…"), QKeySequence(QStringLiteral("Ctrl+L")), [this] { load_drawing(true); });
  add(neck, tr("T&ype in measured sections…"), QKeySequence(QStringLiteral("Ctrl+Alt+L")), [this] { type_sections(); });
  add(neck, tr("Forget measured sections"), {}, [this] { forget_sections(bench_); });
  add(neck, tr("Load the &head's outline…"), QKeySequence(QStringLiteral("Ctrl+Shift+L")),
      [this] { load_drawing(false); });
  QMenu* body = menuBar()->addMenu(tr("&Body"));
  add(body, tr("Remove drawn &cavities and holes"), {}, [this] {
    Body without = body_of(bench_.project()).body;
    without.drawn.clear();
    without.holes.clear();
    if (const auto problem = set_drawn(bench_, without, "Remove drawn cavities and holes"))
      say(bench_.words(*problem), true);
  });
  add(body, tr("Load sections of the &face…"), {}, [this] { load_carve(); });
}

void MainWindow::load_drawing(bool sections) {
  const QString path =
      QFileDialog::getOpenFileName(this, sections ? tr("Measured sections") : tr("Outline of the head"), {},
                                   sections ? tr("Sections (*.csv *.dxf)") : tr("Drawings (*.dxf *.svg)"));
  if (path.isEmpty()) return;
  const auto problem = sections ? load_sections(bench_, path.toStdString()) : load_head(bench_, path.toStdString());
  if (problem)
    QMessageBox::warning(this, tr("Nothing was loaded"), bench_.words(*problem));
  else
    say(tr("Loaded %1").arg(path), false);
}

void MainWindow::import_plan() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Plan"), {}, tr("Plans (*.dxf *.svg *.pdf)"));
  if (path.isEmpty()) return;
  choose_line("body.outline");
  PlanDialog dialog(bench_, this);
  dialog.load(path);
  // What is no plan at all is told in the dialog; a scanned page can be used otherwise, so that one makes way.
  connect(&dialog, &PlanDialog::loaded, &dialog, [&dialog] {
    if (dialog.problem() && dialog.problem()->kind == ProblemKind::unsupported) dialog.reject();
  });
  dialog.exec();
  const std::optional<Problem> problem = dialog.problem();
  if (problem && problem->kind == ProblemKind::unsupported &&
      path.endsWith(QStringLiteral(".pdf"), Qt::CaseInsensitive)) {
    // A scanned page: it can lie under the outline.
    QMessageBox ask(QMessageBox::Question, tr("A scanned picture"),
                    bench_.words(*problem) + tr("\n\nShow it under the outline?"), QMessageBox::NoButton, this);
    auto* show_it = ask.addButton(tr("Show it"), QMessageBox::AcceptRole);
    ask.addButton(tr("Do not show it"), QMessageBox::RejectRole);
    ask.exec();
    if (ask.clickedButton() == show_it) lay_picture_of(path, dialog.page());
  }
}

void MainWindow::lay_picture() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Picture to lay under the drawing"), {},
                                                    tr("Pictures (*.png *.jpg *.jpeg *.pdf)"));
  if (!path.isEmpty()) lay_picture_of(path, 1);
}

void MainWindow::lay_picture_of(const QString& path, int page) {
  // Under the drawing that is shown; where none of it takes a picture, under the part's plan.
  auto* view = qobject_cast<FlatView*>(pictures_->currentWidget());
  if (view == nullptr || view->picture_grounds().empty()) {
    show_view(View::plan);
    view = qobject_cast<FlatView*>(pictures_->currentWidget());
  }
  const auto grounds = view != nullptr ? view->picture_grounds() : std::vector<PictureGround>{};
  if (grounds.empty())
    return say(tr("Behind this picture nothing can lie: choose the plan, the side or a section."), true);
  if (bench_.path().empty())
    return say(tr("A picture is kept beside its project: save the project first, then lay it."), true);
  PictureGround ground = grounds.front();
  if (grounds.size() > 1) {
    QStringList names;
    for (const PictureGround& g : grounds)
      names << (g.view == "section" ? tr("under the section at %1").arg(length_words(g.station, bench_.units(), 1))
                : g.view == "side"  ? tr("under the side view")
                                    : tr("under the plan"));
    bool yes = false;
    const QString chosen =
        QInputDialog::getItem(this, tr("Where it lies"), tr("The picture lies"), names, 0, false, &yes);
    if (!yes) return;
    ground = grounds[static_cast<std::size_t>(names.indexOf(chosen))];
  }
  const QRectF shown =
      ground.to_screen.inverted().mapRect(ground.where.isEmpty() ? QRectF(view->rect()) : ground.where);
  view->backdrop().lay(path.toStdString(), ground, 0.8 * std::min(shown.width(), 1.4 * shown.height()), page);
}

void MainWindow::load_carve() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Sections of the face"), {}, tr("Sections (*.csv *.dxf)"));
  if (path.isEmpty()) return;
  if (const auto problem = load_carve_lines(bench_, path.toStdString()))
    QMessageBox::warning(this, tr("Nothing was loaded"), bench_.words(*problem));
  else
    say(tr("Loaded %1").arg(path), false);
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
  for (const BackSection& s : neck_of(bench_.project()).neck.back.sections)
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
    if (const auto problem = type_sections_into(bench_, text->toPlainText().toStdString()))
      trouble->setText(bench_.words(*problem));
    else
      dialog.accept();
  });
  column->addWidget(words);
  column->addWidget(text, 1);
  column->addWidget(trouble);
  column->addWidget(take, 0, Qt::AlignRight);
  dialog.exec();
}

}  // namespace wren::app

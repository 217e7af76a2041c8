// The window through the story of its stuff: a wood of one's own, a neck of strips, a body sawn out with ears, a blank
// that was spoiled.
#include <QApplication>
#include <QComboBox>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMenuBar>
#include <QMessageBox>
#include <QPushButton>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QtTest/QtTest>

#include "app/designs.hpp"
#include "app/main_window.hpp"
#include "app/materials_dialog.hpp"

using namespace wren;
using namespace wren::app;

class StuffStory : public QObject {
  Q_OBJECT

  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  QTemporaryDir folder_;

  [[nodiscard]] QString file(const char* name) const { return folder_.filePath(QString::fromUtf8(name)); }

  template <class W>
  [[nodiscard]] W* named(QWidget* in, const char* name) const {
    for (W* w : in->findChildren<W*>())
      if (w->accessibleName() == QString::fromUtf8(name) || w->placeholderText() == QString::fromUtf8(name)) return w;
    return nullptr;
  }
  [[nodiscard]] static QPushButton* button(QWidget* in, const char* text) {
    for (auto* b : in->findChildren<QPushButton*>())
      if (b->text() == QString::fromUtf8(text)) return b;
    return nullptr;
  }
  static int row_of(const QTableWidget* table, const QString& name) {
    for (int row = 0; row < table->rowCount(); ++row)
      if (table->item(row, 0)->data(Qt::UserRole).toString() == name) return row;
    return -1;
  }
  [[nodiscard]] QAction* action(const char* text) const {
    for (QAction* a : window_->findChildren<QAction*>())
      if (a->text() == QString::fromUtf8(text)) return a;
    return nullptr;
  }

 private Q_SLOTS:
  void init() {
    const std::string project = file("reedling.wren").toStdString();
    QVERIFY(save_project(project, *project_from("reedling")).has_value());
    bench_ = std::make_unique<Workbench>(*project_from("plain"));
    window_ = std::make_unique<MainWindow>(*bench_);
    window_->set_ask_before_closing(false);
    QVERIFY(window_->open_file(QString::fromStdString(project)));
    window_->resize(1280, 800);
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    QApplication::setActiveWindow(window_.get());
  }
  void cleanup() {
    window_.reset();
    bench_.reset();
  }

  void a_wood_of_ones_own_is_made_like_another_weighed_and_used() {
    MaterialsDialog dialog(*bench_);
    dialog.show();
    QVERIFY(QTest::qWaitForWindowExposed(&dialog));
    auto* table = dialog.findChild<QTableWidget*>();
    QVERIFY(table->rowCount() >= 40);
    // Found by a part of its name, chosen, a new one named by keys alone.
    auto* find = named<QLineEdit>(&dialog, "Find a material");
    auto* name = named<QLineEdit>(&dialog, "Name of a new material");
    QVERIFY(find != nullptr && name != nullptr);
    QTest::keyClicks(find, QStringLiteral("oak-wh"));
    QCOMPARE(table->rowCount(), 1);
    table->setCurrentCell(0, 0);
    QTest::keyClicks(name, QStringLiteral("bog oak"));
    QTest::keyClick(name, Qt::Key_Return);
    QVERIFY(dialog.isVisible());  // Return adds, and does not end it
    QVERIFY(bench_->project().materials.empty());
    bool told = false;
    for (const auto* label : dialog.findChildren<QLabel*>())
      told = told || label->text().contains(QStringLiteral("one word"), Qt::CaseInsensitive);
    QVERIFY(told);
    name->clear();
    QTest::keyClicks(name, QStringLiteral("bog-oak"));
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(bench_->project().materials.size(), std::size_t(1));
    const int row = row_of(table, QStringLiteral("bog-oak"));
    QCOMPARE(row, 0);  // its own stand first
    // Weighed: typed into its cell; nonsense is told and changes nothing.
    table->item(row, 2)->setText(QStringLiteral("heavy"));
    QCoreApplication::processEvents();
    QCOMPARE(bench_->project().materials[0].density, 760.0);
    table->item(row_of(table, QStringLiteral("bog-oak")), 2)->setText(QStringLiteral("910"));
    QCoreApplication::processEvents();
    QCOMPARE(bench_->project().materials[0].density, 910.0);
    // The table's own are not changed.
    QVERIFY((table->item(row_of(table, QStringLiteral("ash")), 2)->flags() & Qt::ItemIsEditable) == 0);
    // Used, it is not taken out; unused, it is.
    QVERIFY(!bench_->edit("board.blank.wood", "bog-oak"));
    table->setCurrentCell(row_of(table, QStringLiteral("bog-oak")), 0);
    QTest::mouseClick(button(&dialog, "Take the chosen one out"), Qt::LeftButton);
    QCOMPARE(bench_->project().materials.size(), std::size_t(1));
    bench_->undo();
    QTest::mouseClick(button(&dialog, "Take the chosen one out"), Qt::LeftButton);
    QVERIFY(bench_->project().materials.empty());
    bench_->undo();
    QCOMPARE(bench_->project().materials.size(), std::size_t(1));
  }

  void the_ledger_offers_ones_own_woods() {
    QVERIFY(!bench_->change_materials({*material_like({}, "bog-oak", "oak-white")}, "Add"));
    window_->choose_line("neck.blank");
    bool offered = false;
    for (const auto* box : window_->findChildren<QComboBox*>())
      offered = offered || box->findText(QStringLiteral("bog-oak")) >= 0;
    if (!offered) {
      window_->choose_line("board.blank");
      for (const auto* box : window_->findChildren<QComboBox*>())
        offered = offered || box->findText(QStringLiteral("bog-oak")) >= 0;
    }
    QVERIFY(offered);
  }

  void strips_and_ears_are_drawn_and_undone_in_one_step_each() {
    QVERIFY(!bench_->edit("neck.strips", "maple 44; walnut 4; maple 20; walnut 4; maple 44"));
    QCOMPARE(neck_design(*bench_)->joints.size(), std::size_t(4));
    QVERIFY(bench_->edit("neck.strips", "maple 44").has_value());
    QCOMPARE(neck_design(*bench_)->joints.size(), std::size_t(4));
    bench_->undo();
    QVERIFY(neck_design(*bench_)->joints.empty());
    QVERIFY(!bench_->edit("body.outline_school", "guide"));
    QCOMPARE(body_design(*bench_)->ears.size(), std::size_t(2));
    // Seen: the picture with ears is another than without.
    window_->choose_line("body.setup");
    window_->show_view(View::bed);
    QTest::qWait(50);
    const QImage with = window_->grab().toImage();
    bench_->undo();
    QTest::qWait(50);
    QVERIFY(with != window_->grab().toImage());
  }

  void a_spoiled_blank_is_begun_anew_from_the_menu() {
    bench_->set_part("fretboard");
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 60000);
    const std::string cut = "fretboard.cut.top." + bench_->planned("fretboard")->cuts.sides.front().cuts.front().id;
    bench_->mark_cut(cut);
    const auto is_cut = [&] {
      return happened(bench_->project().record, cut, bench_->followed().fingerprints.at("fretboard")).fact != nullptr;
    };
    QVERIFY(is_cut());
    QAction* spoiled = action("Spoiled: &new blank…");
    QVERIFY(spoiled != nullptr);
    // Two boxes come after each other: which piece, and what must be made again.
    QStringList said;
    QTimer answer;
    connect(&answer, &QTimer::timeout, this, [&] {
      if (auto* ask = qobject_cast<QInputDialog*>(QApplication::activeModalWidget())) {
        said << ask->labelText();
        ask->accept();
      } else if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget())) {
        said << box->text();
        box->accept();
      }
    });
    answer.start(50);
    spoiled->trigger();
    answer.stop();
    QCOMPARE(said.size(), 2);
    QVERIFY(said[0].contains(QStringLiteral("record keeps all of it")));
    QVERIFY(said[1].contains(QStringLiteral("measure the new blank")));
    QVERIFY(!is_cut());
    // It is no step: undo does not bring it back.
    bench_->undo();
    QVERIFY(!is_cut());
    bench_->mark_cut(cut);
    QVERIFY(is_cut());
  }

  void new_from_this_keeps_numbers_and_leaves_what_was_made() {
    QVERIFY(!bench_->edit("frets.count", "20"));
    bench_->note("fretboard.sheet");
    QVERIFY(!bench_->project().record.facts.empty());
    QAction* another = action("&this one: its numbers, nothing of what was made");
    QVERIFY(another != nullptr);
    another->trigger();
    QVERIFY(bench_->project().record.facts.empty());
    QCOMPARE(std::get<long>(bench_->parts().book().find(bench_->project(), "frets.count")->get(bench_->project())),
             20L);
    QVERIFY(bench_->path().empty());  // saving asks for a name: the first one's file stays
  }
};

int run_stuff_story(int argc, char** argv) {
  StuffStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "stuff_story_test.moc"

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

#include <numbers>

#include "app/bed_view.hpp"
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
  /// A number's field on its line of the build sheet, by its key.
  template <class W>
  [[nodiscard]] W* field(const char* line, const char* key) {
    window_->choose_line(line);
    QCoreApplication::processEvents();
    return window_->findChild<W*>(QString::fromUtf8(key));
  }
  /// Typed over what stands there, and left with Return.
  void type(const char* line, const char* key, const char* text) {
    auto* edit = field<QLineEdit>(line, key);
    QVERIFY2(edit != nullptr, key);
    edit->setFocus();
    edit->selectAll();
    QTest::keyClicks(edit, QString::fromUtf8(text));
    QTest::keyClick(edit, Qt::Key_Return);
    bench_->catch_up();
    QCoreApplication::processEvents();
  }
  void tick(const char* line, const char* key) {
    auto* box = field<QAbstractButton>(line, key);
    QVERIFY2(box != nullptr, key);
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Space);
    QCoreApplication::processEvents();
  }
  void pick(const char* line, const char* key, const char* choice) {
    // Every choice is an edit, after which the fields may be new ones.
    for (int presses = 0; presses < 20; ++presses) {
      auto* box = field<QComboBox>(line, key);
      QVERIFY2(box != nullptr, key);
      const int wanted = box->findData(QString::fromUtf8(choice));
      QVERIFY2(wanted >= 0, choice);
      if (box->currentIndex() == wanted) return;
      box->setFocus();
      QTest::keyClick(box, box->currentIndex() < wanted ? Qt::Key_Down : Qt::Key_Up);
      bench_->catch_up();
      QCoreApplication::processEvents();
    }
    QFAIL(choice);
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
    MaterialsDialog dialog(*bench_, window_->shop());
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

  void pine_and_plywood_worked_from_both_faces_ears_and_skim_from_new_to_proved() {
    bench_->replace(*project_from("plain"));
    type("body.layers", "body.layers", "top plywood-birch 6.5; core pine 27; back plywood-birch 9");
    type("body.layers", "body.strips_2", "pine 120; pine 120; pine 120");
    type("body.controls", "control.face_left", "6.5");
    tick("body.controls", "control.by_layer");
    pick("body.layers", "wire.jack_kind", "plate");
    type("neck.strength", "neck.strips", "maple 40; walnut 6; maple 24; walnut 6; maple 40");
    QCOMPARE(neck_design(*bench_)->joints.size(), std::size_t(4));
    QVERIFY(body_of(bench_->project()).body.controls.by_layer);
    bench_->set_part("body");
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("body") != nullptr, 20000);
    // The outline's own line has the schools; a step of the sawn body comes with the choice.
    pick("body.cut.back.outline", "body.outline_school", "guide");
    QTRY_VERIFY_WITH_TIMEOUT(
        bench_->planned("body") != nullptr && bench_->planned("body")->cuts.side("skim") != nullptr, 20000);
    QStringList sides;
    for (const Placement& s : bench_->planned("body")->cuts.sides) sides << QString::fromStdString(s.id);
    QCOMPARE(sides,
             QStringList({"layer-1", "layer-1-under", "layer-2", "layer-3", "layer-3-under", "front", "back", "skim"}));
    for (const Remark& r : bench_->remarks()) QVERIFY2(r.weight != Weight::stop, r.sentence.str().c_str());
    // Proved by the window itself, right after edits by keys: what the proof brings is shown in a ledger whose fields
    // have just been made anew.
    bench_->prove_all();
    QTRY_VERIFY_WITH_TIMEOUT(bench_->proof("body") != nullptr, 240000);
    QCOMPARE(bench_->proof("body")->verdict(), Verdict::proved);
  }

  void a_body_is_slid_over_its_blank_by_mouse_and_keys() {
    bench_->set_part("body");
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("body") != nullptr, 60000);
    window_->choose_line("body.blank");
    window_->show_view(View::bed);
    QTest::qWait(50);
    auto* bed = window_->findChild<BedView*>();
    QVERIFY(bed != nullptr && bed->side() != nullptr);
    const auto over = [&] {
      return Vec2{body_of(bench_->project()).work.over_along, body_of(bench_->project()).work.over_across};
    };
    const std::size_t steps = bench_->history().steps();
    const auto at = [&](Vec2 work) { return bed->to_screen().map(QPointF(work.x, work.y)).toPoint(); };
    const Setup& s = bed->side()->setup;
    const Vec2 middle = s.to_work.apply(turned(s.turn, bounds(body_design(*bench_)->shape.corners).middle()));
    // Dragged by 12 along and −5 across; the blank stays where it is.
    const Vec2 corner{s.blank_corner.x, s.blank_corner.y};
    QTest::mousePress(bed, Qt::LeftButton, {}, at(middle));
    QTest::mouseMove(bed, at(middle + Vec2{6, -2}));
    QTest::mouseMove(bed, at(middle + Vec2{12, -5}));
    QVERIFY(over() == Vec2{});  // nothing is taken while it is dragged
    QTest::mouseRelease(bed, Qt::LeftButton, {}, at(middle + Vec2{12, -5}));
    const double pixel = 1 / std::hypot(bed->to_screen().m11(), bed->to_screen().m12());
    QVERIFY(std::abs(over().x - 12) < pixel + 0.1);
    QVERIFY(std::abs(std::abs(over().y) - 5) < pixel + 0.1);
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("body") != nullptr, 60000);
    QVERIFY((Vec2{bed->side()->setup.blank_corner.x, bed->side()->setup.blank_corner.y} == corner));
    bench_->undo();  // one step
    QVERIFY(over() == Vec2{});
    QCOMPARE(bench_->history().steps(), steps + 1);
    // By keys, a millimetre at a time; Escape gives a drag up.
    bed->setFocus();
    QTest::keyClick(bed, Qt::Key_Right, Qt::AltModifier);
    QTest::keyClick(bed, Qt::Key_Right, Qt::AltModifier);
    QCOMPARE(over().x, 2.0);
    QTest::mousePress(bed, Qt::LeftButton, {}, at(middle));
    QTest::mouseMove(bed, at(middle + Vec2{30, 30}));
    QTest::keyClick(bed, Qt::Key_Escape);
    QTest::mouseRelease(bed, Qt::LeftButton, {}, at(middle + Vec2{30, 30}));
    QCOMPARE(over().x, 2.0);
  }

  void a_body_is_turned_over_its_strips_by_mouse_and_keys() {
    bench_->set_part("body");
    QVERIFY(!bench_->edit({{"body.strips_1", "ash 250; ash 250"}}, "strips"));
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("body") != nullptr, 60000);
    window_->choose_line("body.blank");
    window_->show_view(View::bed);
    QTest::qWait(50);
    BedView* bed = nullptr;
    for (BedView* one : window_->findChildren<BedView*>())
      if (one->isVisible()) bed = one;
    QVERIFY(bed != nullptr);
    const auto turn = [&] { return body_of(bench_->project()).work.over_turn; };
    const auto at = [&](Vec2 work) { return bed->to_screen().map(QPointF(work.x, work.y)).toPoint(); };
    const Setup& s = bed->side()->setup;
    const Vec2 middle = Vec2{s.blank_corner.x, s.blank_corner.y} + s.blank_size * 0.5;
    // From 90 along the blank to where that lies after 6°.
    const Vec2 from = middle + Vec2{90, 4};
    const double angle = std::atan2(4.0, 90.0) + 6 * std::numbers::pi / 180;
    const Vec2 to = middle + Vec2{std::cos(angle), std::sin(angle)} * length(from - middle);
    const double was = turn();
    QTest::mousePress(bed, Qt::LeftButton, Qt::ShiftModifier, at(from));
    QTest::mouseMove(bed, at(lerp(from, to, 0.5)));
    QTest::mouseMove(bed, at(to));
    QCOMPARE(turn(), was);
    QTest::mouseRelease(bed, Qt::LeftButton, Qt::ShiftModifier, at(to));
    QVERIFY2(std::abs(std::abs(turn() - was) - 6) < 0.8, qPrintable(QString::number(turn())));
    const Vec2 along = body_design(*bench_)->joints[0][0].along;
    QVERIFY(std::abs(along.y) > 0.08);
    bench_->undo();
    QCOMPARE(turn(), was);
    bed->setFocus();
    QTest::keyClick(bed, Qt::Key_PageUp, Qt::AltModifier);
    QTest::keyClick(bed, Qt::Key_PageUp, Qt::AltModifier);
    QTest::keyClick(bed, Qt::Key_PageDown, Qt::AltModifier);
    QCOMPARE(std::abs(turn() - was), 0.5);
    bench_->undo();
    bench_->undo();
    bench_->undo();
    // One piece has nothing to be turned over.
    QVERIFY(!bench_->edit({{"body.strips_1", "none"}, {"body.strips_2", "none"}}, "one piece"));
    bed->setFocus();
    QTest::keyClick(bed, Qt::Key_PageUp, Qt::AltModifier);
    QCOMPARE(turn(), was);
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
    QAction* another = action("New from &this one: its numbers, nothing of what was made");
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

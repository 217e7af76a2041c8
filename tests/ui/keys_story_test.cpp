// Keys, wheel and typed numbers: nothing typed is lost, nothing is changed by passing over it.
#include <QApplication>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QTemporaryDir>
#include <QWheelEvent>
#include <QtTest/QtTest>

#include "app/body_views.hpp"
#include "app/designs.hpp"
#include "app/main_window.hpp"
#include "app/part_edits.hpp"
#include "app/views.hpp"
#include "app/words.hpp"

using namespace wren;
using namespace wren::app;

class KeysStory : public QObject {
  Q_OBJECT

  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  QTemporaryDir folder_;

  template <class T>
  T* find(const char* name) {
    for (T* w : window_->findChildren<T*>(QString::fromLatin1(name)))
      if (w->isVisible()) return w;
    return nullptr;
  }
  QLineEdit* field(const char* key) {
    auto* f = find<QLineEdit>(key);
    if (f == nullptr) qFatal("no field %s", key);
    return f;
  }
  void choose(const char* line) {
    window_->choose_line(line);
    QTest::qWait(1);
  }
  /// Puts the keyboard into a field and selects what stands there.
  QLineEdit* into(const char* key) {
    QTest::mouseClick(field(key), Qt::LeftButton);
    QTest::keyClick(field(key), Qt::Key_A, Qt::ControlModifier);
    return field(key);
  }
  /// A key of the window, from wherever the keyboard is.
  void press(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::ControlModifier) {
    QWidget* to = QApplication::focusWidget();
    QTest::keyClick(to != nullptr ? to : window_.get(), key, modifiers);
  }
  [[nodiscard]] double spread() const {
    bench_->catch_up();
    return board_of(bench_->project()).instrument.strings.nut_spread;
  }
  [[nodiscard]] double spread_now() const { return board_of(bench_->project()).instrument.strings.nut_spread; }
  [[nodiscard]] std::string file() const { return folder_.filePath(QStringLiteral("reedling.wren")).toStdString(); }
  [[nodiscard]] double saved_spread() const {
    return board_of(*load_project(all_parts().book(), file())).instrument.strings.nut_spread;
  }
  [[nodiscard]] bool trouble() const {
    const auto* label = window_->findChild<QLabel*>(QStringLiteral("trouble"));
    return label != nullptr && label->isVisible();
  }

 private Q_SLOTS:
  void init() {
    QFile::remove(QString::fromStdString(file()));
    QVERIFY(save_project(file(), *project_from("reedling")).has_value());
    bench_ = std::make_unique<Workbench>(*project_from("plain"));
    window_ = std::make_unique<MainWindow>(*bench_);
    window_->set_ask_before_closing(false);
    QVERIFY(window_->open_file(QString::fromStdString(file())));
    window_->resize(1280, 800);
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    QApplication::setActiveWindow(window_.get());
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 10000);
    choose("fretboard.strings");
  }
  void cleanup() {
    window_.reset();
    bench_.reset();
  }

  void undo_works_while_a_field_has_the_keyboard() {
    const double before = spread();
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("36"));
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    QCOMPARE(spread(), 36.0);
    QVERIFY(field("strings.nut_spread")->hasFocus());
    press(Qt::Key_Z);
    QCOMPARE(spread(), before);
    press(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    QCOMPARE(spread(), 36.0);
  }

  void undo_takes_back_the_typing_first() {
    const double before = spread();
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("36"));
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("39"));
    press(Qt::Key_Z);
    QCOMPARE(spread(), 36.0);  // the step before stays
    QVERIFY(!field("strings.nut_spread")->text().contains(QStringLiteral("39")));
    press(Qt::Key_Z);
    press(Qt::Key_Z);
    QCOMPARE(spread(), before);
  }

  void the_unit_key_switches_units_and_wipes_nothing() {
    into("strings.nut_spread");
    const QString before = field("strings.nut_spread")->text();
    press(Qt::Key_U);
    QCOMPARE(bench_->units(), UnitSystem::inch);
    QVERIFY(!field("strings.nut_spread")->text().isEmpty());
    press(Qt::Key_U);
    QCOMPARE(bench_->units(), UnitSystem::millimetre);
    QCOMPARE(field("strings.nut_spread")->text(), before);
  }

  void saving_takes_what_is_being_typed() {
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("36"));
    press(Qt::Key_S);
    QCOMPARE(spread(), 36.0);
    QCOMPARE(saved_spread(), 36.0);
  }

  void another_line_takes_what_is_being_typed() {
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("36"));
    choose("fretboard.frets");
    QCOMPARE(spread(), 36.0);
  }

  void a_refused_number_stands_until_it_is_mended_or_given_up() {
    const double before = spread();
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("hello"));
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    QCOMPARE(spread(), before);
    QVERIFY(trouble());
    // Elsewhere and back again.
    choose("fretboard.frets");
    QVERIFY(trouble());
    choose("fretboard.strings");
    QCOMPARE(field("strings.nut_spread")->text(), QStringLiteral("hello"));
    QVERIFY(field("strings.nut_spread")->property("bad").toBool());
    // Another number changes: the refused one stays.
    into("strings.scale");
    QTest::keyClicks(field("strings.scale"), QStringLiteral("630"));
    QTest::keyClick(field("strings.scale"), Qt::Key_Return);
    bench_->catch_up();
    QCOMPARE(board_of(bench_->project()).instrument.strings.scale_bass, 630.0);
    QCOMPARE(field("strings.nut_spread")->text(), QStringLiteral("hello"));
    // Saving keeps the last good one; proving refuses.
    press(Qt::Key_S);
    QCOMPARE(saved_spread(), before);
    press(Qt::Key_R);
    QVERIFY(!bench_->proving());
    // Given up by Esc.
    into("strings.nut_spread");
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Escape);
    QVERIFY(!trouble());
    QVERIFY(field("strings.nut_spread")->text() != QStringLiteral("hello"));
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 10000);
    press(Qt::Key_R);
    QVERIFY(bench_->proving());
    bench_->cancel_proof();
    // Mended by another number.
    choose("fretboard.strings");
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("-5"));
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    QVERIFY(trouble());
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("35"));
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    QVERIFY(!trouble());
    QCOMPARE(spread(), 35.0);
  }

  void a_column_of_numbers_is_typed_with_tab_alone() {
    // 27 in brings a remark and rebuilds the ledger; the keyboard goes on to the next field all the same.
    into("strings.scale");
    QTest::keyClicks(QApplication::focusWidget(), QStringLiteral("27in"));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    auto* next = qobject_cast<QLineEdit*>(QApplication::focusWidget());
    QVERIFY(next != nullptr);
    QVERIFY(next->objectName() != QStringLiteral("strings.scale"));
    const QString second = next->objectName();
    const QString shown = next->text();
    QVERIFY(next->hasSelectedText());  // typing takes its place
    QTest::keyClick(next, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(QApplication::focusWidget(), shown);
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    QVERIFY(QApplication::focusWidget() != nullptr);
    QVERIFY(QApplication::focusWidget()->objectName() != second);
    bench_->catch_up();
    QCOMPARE(board_of(bench_->project()).instrument.strings.scale_bass != 635.0, true);
    QVERIFY(!trouble());
  }

  /// What is typed goes to the project when everything that follows from it is there, and not before; the board's own
  /// picture has it earlier, and the field all the while.
  void what_follows_a_typed_number_is_made_beside_the_window() {
    const double before = spread();
    QStringList came;
    connect(bench_.get(), &Workbench::came_ahead, this, [&](const std::string& part) {
      if (spread_now() == before) came << QString::fromStdString(part);
    });
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("36"));
    QElapsedTimer held;
    held.start();
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    const qint64 ms = held.elapsed();
    QCOMPARE(spread_now(), before);
    QVERIFY(bench_->awaits("strings.nut_spread"));
    QVERIFY(!bench_->awaits("strings.scale"));
    QCOMPARE(field("strings.nut_spread")->text(), QStringLiteral("36"));
    // Something else makes the ledger fill its rows meanwhile: what was typed stands.
    Q_EMIT bench_->planned_now();
    QCOMPARE(field("strings.nut_spread")->text(), QStringLiteral("36"));
    QTRY_COMPARE_WITH_TIMEOUT(spread_now(), 36.0, 10000);
    QVERIFY(!bench_->awaits("strings.nut_spread"));
    QCOMPARE(field("strings.nut_spread")->text(), QStringLiteral("36 mm"));
    QVERIFY(!came.isEmpty());
    QCOMPARE(came.front(), QStringLiteral("fretboard"));
    QCOMPARE(board_design(*bench_)->board.given.strings.nut_spread, 36.0);
    QVERIFY2(ms < 500, qPrintable(QStringLiteral("the window stood for %1 ms").arg(ms)));
    // The same number again is no step; the field says it as it says every number.
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("36.0"));
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    QTRY_COMPARE_WITH_TIMEOUT(field("strings.nut_spread")->text(), QStringLiteral("36 mm"), 10000);
    bench_->undo();
    QCOMPARE(spread_now(), before);
  }

  /// Where undo leads back to is still known: nothing is made anew, and what was taken back is not kept as if it stood.
  void undo_and_redo_take_what_followed_then() {
    const double before = spread();
    const auto neck = neck_design(*bench_);
    const auto body = body_design(*bench_);
    const auto remarks = bench_->remarks().size();
    QVERIFY(!bench_->type("strings.nut_spread", "36"));
    QCOMPARE(spread(), 36.0);
    const auto other = neck_design(*bench_);
    QVERIFY(other != neck);
    QElapsedTimer held;
    held.start();
    bench_->undo();
    qInfo("undo held the window for %lld ms", static_cast<long long>(held.elapsed()));
    QCOMPARE(spread_now(), before);
    QVERIFY(neck_design(*bench_) == neck);
    QVERIFY(body_design(*bench_) == body);
    QCOMPARE(bench_->remarks().size(), remarks);
    QVERIFY(bench_->planned("fretboard") == nullptr);  // cuts were those of the other numbers
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 10000);
    QCOMPARE(bench_->planned("fretboard")->fingerprint, bench_->followed().fingerprints.at("fretboard"));
    bench_->redo();
    QVERIFY(neck_design(*bench_) == other);
    // A record that has changed meanwhile is part of the numbers: nothing older stands in for it.
    bench_->undo();
    QVERIFY(!bench_->edit("measured.neck.heel_width", "55.1"));
    bench_->redo();
    bench_->undo();
    QCOMPARE(bench_->followed().project.record.measured.size(), bench_->project().record.measured.size());
  }

  void several_numbers_of_a_repair_are_one_step_made_beside_the_window() {
    const double before = spread_now();
    const long frets = board_of(bench_->project()).instrument.frets.count;
    // In millimetres, whatever the window shows; the project has them when what follows is there.
    bench_->set_units(UnitSystem::inch);
    QVERIFY(!bench_->type({{"strings.nut_spread", "36"}, {"frets.count", "21"}}, "Two at once", true));
    QVERIFY(bench_->awaits("strings.nut_spread") && bench_->awaits("frets.count"));
    QVERIFY(!bench_->awaits("board.overhang"));
    QCOMPARE(spread_now(), before);
    bench_->catch_up();
    bench_->set_units(UnitSystem::millimetre);
    QVERIFY(!bench_->awaits("strings.nut_spread"));
    QCOMPARE(spread_now(), 36.0);
    QCOMPARE(long(board_of(bench_->project()).instrument.frets.count), 21L);
    QCOMPARE(bench_->followed().project.parts, bench_->project().parts);
    QCOMPARE(in_words(bench_->history().undo_name()), QStringLiteral("Two at once"));
    // One that cannot be holds back the other, and nothing is on its way.
    QVERIFY(bench_->type({{"strings.nut_spread", "37"}, {"frets.count", "4000"}}, "Not these", true).has_value());
    QVERIFY(!bench_->awaits("strings.nut_spread"));
    QCOMPARE(spread_now(), 36.0);
    // What the shop answers is no number of the project: asked for at once.
    int asked = 0;
    const auto heard = connect(bench_.get(), &Workbench::shop_asked, bench_.get(), [&asked] { ++asked; });
    QVERIFY(!bench_->type({{"shop.none", "x"}}, "Keep it", true));
    disconnect(heard);
    QCOMPARE(asked, 1);
    bench_->undo();
    QCOMPARE(spread_now(), before);
    QCOMPARE(long(board_of(bench_->project()).instrument.frets.count), frets);
  }

  void numbers_typed_faster_than_they_are_followed_are_a_step_each() {
    const double before = spread();
    for (const char* wide : {"36", "36.5", "37"}) QVERIFY(!bench_->type("strings.nut_spread", wide));
    QVERIFY(!bench_->type("board.overhang", "12"));
    QVERIFY(bench_->type("board.overhang", "a dozen").has_value());  // refused at once, and the others stand
    QVERIFY(bench_->awaits("board.overhang"));
    // A button's edit stands on all of them.
    QVERIFY(!bench_->edit("frets.count", "21"));
    QVERIFY(!bench_->awaits("board.overhang"));
    QCOMPARE(spread_now(), 37.0);
    QCOMPARE(board_of(bench_->project()).instrument.board.overhang, 12.0);
    QCOMPARE(bench_->followed().project.parts, bench_->project().parts);
    bench_->undo();
    bench_->undo();
    QCOMPARE(spread_now(), 37.0);
    bench_->undo();
    QCOMPARE(spread_now(), 36.5);
    bench_->undo();
    bench_->undo();
    QCOMPARE(spread_now(), before);
    // Typed, and the mouse takes hold of another number before the first is there: two steps, in their order.
    QVERIFY(!bench_->type("strings.nut_spread", "36"));
    QVERIFY(!bench_->drag({{"board.overhang", "14"}}, "Drag it", "hold"));
    QCOMPARE(spread_now(), 36.0);
    QVERIFY(!bench_->awaits(""));  // what is dragged is typed nowhere: every field follows it
    bench_->give_up();
    QCOMPARE(spread_now(), 36.0);
    QCOMPARE(bench_->history().undo_name().str(), std::string("Change Spread at the nut"));
    // Typed, and Esc pressed in a picture: no gesture is under way, the number is taken.
    QVERIFY(!bench_->type("strings.nut_spread", "37"));
    bench_->give_up();
    QCOMPARE(spread_now(), 37.0);
    // A window that goes while a number is on its way waits for it no longer than it takes.
    QVERIFY(!bench_->type("strings.nut_spread", "38"));
  }

  /// The word belongs to the numbers that were proved, whatever is on its way when it comes.
  void a_proof_that_comes_while_a_number_is_on_its_way_is_not_said_of_that_number() {
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 10000);
    bench_->prove_all();
    QVERIFY(bench_->proving());
    bool came = false;
    connect(bench_.get(), &Workbench::proved, this, [&] { came = true; });
    // The loop stands while the proof is made, so that both results come in together.
    QThread::sleep(3);
    QVERIFY(!bench_->drag({{"strings.nut_spread", "36"}}, "Drag it", "hold"));
    QTRY_VERIFY_WITH_TIMEOUT(came || !bench_->proving(), 20000);
    bench_->settle();
    QCOMPARE(spread_now(), 36.0);
    QVERIFY(bench_->proof("fretboard") == nullptr);
    QVERIFY(!happened(bench_->project().record, "fretboard.proof", bench_->followed().fingerprints.at("fretboard"))
                 .current);
  }

  void the_wheel_changes_no_value() {
    choose("fretboard.marks");
    QComboBox* list = nullptr;
    for (QComboBox* c : window_->findChildren<QComboBox*>())
      if (c->isVisible() && c->objectName() == QStringLiteral("marks.shape")) list = c;
    QVERIFY(list != nullptr);
    const QString before = list->currentText();
    for (const bool focused : {false, true}) {
      if (focused) list->setFocus();
      for (const int turn : {-120, -120, 120}) {
        const QPointF at = QRectF(list->rect()).center();
        QWheelEvent wheel(at, list->mapToGlobal(at), {}, {0, turn}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                          false);
        QApplication::sendEvent(list, &wheel);
        QCOMPARE(list->currentText(), before);
      }
    }
  }

  void a_drag_given_up_takes_nothing_else_back() {
    // An edit, then a press in the picture that does not move, then Esc.
    into("strings.nut_spread");
    QTest::keyClicks(field("strings.nut_spread"), QStringLiteral("36"));
    QTest::keyClick(field("strings.nut_spread"), Qt::Key_Return);
    bench_->give_up();
    QCOMPARE(spread(), 36.0);
    const std::size_t steps = static_cast<std::size_t>(bench_->history().can_undo());
    // A gesture that has moved is taken back whole, and is not to be redone.
    QVERIFY(!bench_->edit({{"strings.nut_spread", "37"}}, "drag", "drag").has_value());
    QVERIFY(!bench_->edit({{"strings.nut_spread", "38"}}, "drag", "drag").has_value());
    QCOMPARE(spread(), 38.0);
    bench_->give_up();
    QCOMPARE(spread(), 36.0);
    QVERIFY(!bench_->history().can_redo());
    QCOMPARE(static_cast<std::size_t>(bench_->history().can_undo()), steps);
    // One that leads back to where it began is no step.
    QVERIFY(!bench_->edit({{"strings.nut_spread", "37"}}, "drag", "again").has_value());
    QVERIFY(!bench_->edit({{"strings.nut_spread", "36"}}, "drag", "again").has_value());
    bench_->settle();
    bench_->undo();
    QVERIFY(spread() != 36.0);  // the typed step, not an empty one
  }

  void nodes_are_reached_typed_and_taken_out_by_keys() {
    choose("body.outline");
    auto* plan = static_cast<BodyPlanView*>(window_->own_view("body", View::plan));
    plan->set_editing(true);
    plan->setFocus();
    const auto nodes = [&] { return body_of(bench_->project()).body.outline.drawn.size(); };
    const std::size_t all = plan->path().size();
    QVERIFY(all > 6);
    QCOMPARE(plan->chosen(), -1);
    for (int k = 0; k < 3; ++k) press(Qt::Key_Tab, Qt::NoModifier);
    QCOMPARE(plan->chosen(), 2);
    QVERIFY(plan->hasFocus());
    press(Qt::Key_Tab, Qt::ShiftModifier);
    QCOMPARE(plan->chosen(), 1);
    // Typed: Enter goes into its fields.
    press(Qt::Key_Return, Qt::NoModifier);
    auto* x = qobject_cast<QLineEdit*>(QApplication::focusWidget());
    QVERIFY(x != nullptr && plan->isAncestorOf(x));
    const double wanted = std::round(plan->path()[1].at.x) + 1.25;
    QTest::keyClicks(x, QString::number(wanted));
    QTest::keyClick(x, Qt::Key_Return);
    QCOMPARE(body_of(bench_->project()).body.outline.drawn[1].at.x, wanted);
    QVERIFY(x->hasFocus());
    // The panel's buttons are reached too, and pressed by the space bar.
    for (int k = 0; k < 8 && qobject_cast<QPushButton*>(QApplication::focusWidget()) == nullptr; ++k)
      press(Qt::Key_Tab, Qt::NoModifier);
    QVERIFY(qobject_cast<QPushButton*>(QApplication::focusWidget()) != nullptr);
    plan->setFocus();
    press(Qt::Key_Delete, Qt::NoModifier);
    QCOMPARE(nodes(), all - 1);
    // Past the last node the keyboard goes on; it is not caught.
    for (std::size_t k = 0; k <= all && plan->hasFocus(); ++k) press(Qt::Key_Tab, Qt::NoModifier);
    QVERIFY(!plan->hasFocus());
    QCOMPARE(plan->chosen(), -1);
    plan->set_editing(false);
  }

  void remarks_keep_the_keyboard_and_their_place() {
    QVERIFY(!bench_->edit({{"strings.scale", "25 1/2 in"}, {"frets.count", "24"}}, "longer"));
    QVERIFY(!bench_->edit("strings.scale_treble", "620"));
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 10000);
    QTest::qWait(10);
    QPushButton* show = nullptr;
    for (QPushButton* b : window_->findChildren<QPushButton*>(QStringLiteral("repair")))
      if (b->isVisible() && b->accessibleName().startsWith(QStringLiteral("Show"))) show = b;
    QVERIFY(show != nullptr);
    QVERIFY(show->focusPolicy() & Qt::TabFocus);
    show->setFocus(Qt::TabFocusReason);
    auto* list = window_->findChild<RemarksView*>()->findChild<QScrollArea*>();
    list->ensureWidgetVisible(show);
    const int scrolled = list->verticalScrollBar()->value();
    const QString name = show->accessibleName();
    QVERIFY(!bench_->edit("project.notes", "something else"));
    QTest::qWait(10);
    auto* now = qobject_cast<QPushButton*>(QApplication::focusWidget());
    QVERIFY(now != nullptr);
    QVERIFY(now != show);
    QCOMPARE(now->accessibleName(), name);
    QCOMPARE(list->verticalScrollBar()->value(), scrolled);
    // Every repair can be pressed from the keyboard; the mended remark goes, the keyboard stays in the list.
    QPushButton* repair = nullptr;
    for (QPushButton* b : window_->findChildren<QPushButton*>(QStringLiteral("repair")))
      if (b->isVisible() && b->property("kind").toString() == QStringLiteral("board.overhang_short")) repair = b;
    QVERIFY(repair != nullptr);
    repair->setFocus(Qt::TabFocusReason);
    press(Qt::Key_Space, Qt::NoModifier);
    bench_->catch_up();
    QTest::qWait(10);
    const auto remarks = bench_->remarks();
    QVERIFY(
        std::none_of(remarks.begin(), remarks.end(), [](const Remark& r) { return r.kind == "board.overhang_short"; }));
    QVERIFY(QApplication::focusWidget() != nullptr && list->isAncestorOf(QApplication::focusWidget()));
  }

  void heights_are_stretched_without_the_bracket_keys() {
    choose("fretboard.crown");
    window_->show_view(View::side);
    auto* side = window_->findChild<SideView*>();
    QVERIFY(side != nullptr && side->isVisible());
    side->setFocus();
    const double before = side->stretch();
    press(Qt::Key_PageUp, Qt::NoModifier);
    QVERIFY(side->stretch() > before);
    press(Qt::Key_PageDown, Qt::NoModifier);
    QVERIFY(std::abs(side->stretch() - before) < 1e-9);
  }
};

int run_keys_story(int argc, char** argv) {
  KeysStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "keys_story_test.moc"

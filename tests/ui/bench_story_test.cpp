// The bench and its views: what is next, a number dragged across parts and repaired by its remark, the step beside the
// machine with a measure, search, arrangements, small windows, theme and text size. Geometry and text of what is shown.
#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPainterPath>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScreen>
#include <QSettings>
#include <QSplitter>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTimer>
#include <QElapsedTimer>
#include <QThread>
#include <QtTest/QtTest>

#include "app/bench_view.hpp"
#include "app/designs.hpp"
#include "app/find_box.hpp"
#include "app/main_window.hpp"
#include "app/new_dialog.hpp"
#include "app/theme.hpp"

using namespace wren;
using namespace wren::app;

namespace {

/// Relative luminance and contrast: WCAG 2.1, definitions of the same names.
double luminance(const QColor& c) {
  const auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
  return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
  const double x = luminance(a);
  const double y = luminance(b);
  return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

}  // namespace

class BenchStory : public QObject {
  Q_OBJECT

  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  QTemporaryDir folder_;

  template <class W>
  W* named(const QString& name, QWidget* in = nullptr) {
    for (W* w : (in != nullptr ? in : window_.get())->findChildren<W*>())
      if (w->isVisible() && w->accessibleName() == name) return w;
    return nullptr;
  }
  QPushButton* button(const QString& text, QWidget* in = nullptr) {
    for (auto* b : (in != nullptr ? in : window_.get())->findChildren<QPushButton*>())
      if (b->isVisible() && b->text() == text) return b;
    return nullptr;
  }
  BenchPicture& picture() { return *window_->bench_view()->picture(); }
  /// Does something in the dialog that the next press opens.
  template <class Do>
  void in_dialog(Do what) {
    QTimer::singleShot(200, window_.get(), [what] {
      auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
      QVERIFY(dialog != nullptr);
      what(*dialog);
    });
  }
  double spread() { return board_of(bench_->project()).instrument.strings.bridge_spread; }

 private Q_SLOTS:
  void init() {
    QSettings().clear();
    bench_ = std::make_unique<Workbench>(*project_from("reedling"));
    window_ = std::make_unique<MainWindow>(*bench_);
    window_->set_ask_before_closing(false);
    const QString file = folder_.filePath(QStringLiteral("bench.wren"));
    QVERIFY(save_project(file.toStdString(), *project_from("reedling")).has_value());
    std::filesystem::remove(beside(file.toStdString(), "autosave"));
    QVERIFY(window_->open_file(file));
    window_->resize(1280, 800);
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    QApplication::setActiveWindow(window_.get());
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 20000);
  }
  void cleanup() {
    window_.reset();
    bench_.reset();
    set_text_size(least_text_size);
    set_theme(Theme::light);
  }

  void the_bench_opens_first_and_says_what_is_next() {
    QCOMPARE(window_->view(), View::bench);
    QVERIFY(window_->bench_view()->isVisible());
    bool said = false;
    for (const QLabel* l : window_->bench_view()->findChildren<QLabel*>())
      said = said || (l->isVisible() && l->accessibleName().startsWith(QStringLiteral("Next: Fretboard, Test slot")));
    QVERIFY(said);
    // What is at this place: every part is found in the drawing, with both of its states.
    for (const char* part : {"fretboard", "neck", "body"}) {
      const QPointF at = picture().place_of(part);
      QVERIFY2(!at.isNull(), part);
      const QString words = picture().what_is_at(at);
      QVERIFY2(words.startsWith(QString::fromStdString(bench_->parts().find(part)->title())), qPrintable(words));
      QVERIFY2(words.contains(QStringLiteral("not cut")), qPrintable(words));
    }
    QVERIFY(picture().what_is_at({2, 2}).isEmpty());
    // Cards say the same, and pressing the neck's opens its steps.
    auto* neck = [&]() -> QPushButton* {
      for (auto* card : window_->findChildren<BenchCard*>())
        if (card->accessibleName().startsWith(QStringLiteral("Neck, "))) return card;
      return nullptr;
    }();
    QVERIFY(neck != nullptr);
    QTest::mouseClick(neck, Qt::LeftButton);
    QCOMPARE(bench_->part(), std::string("neck"));
    QVERIFY(window_->line().starts_with("neck."));
    // N goes to the next step, from wherever one is.
    QTest::keyClick(window_.get(), Qt::Key_N);
    QCOMPARE(window_->line(), std::string("fretboard.test_slot"));
    QTest::keyClick(window_.get(), Qt::Key_B, Qt::ControlModifier);
    QCOMPARE(window_->view(), View::bench);
    // A press on a part in the drawing does the same as on its card.
    QTest::mouseClick(&picture(), Qt::LeftButton, {}, picture().place_of("body").toPoint());
    QCOMPARE(bench_->part(), std::string("body"));
    QVERIFY(window_->view() != View::bench);
  }

  void the_spread_at_the_bridge_is_dragged_remarked_upon_and_taken_back_by_name() {
    const QPoint from = picture().handle_of("strings.bridge_spread").toPoint();
    QVERIFY(picture().what_is_at(from).contains(QStringLiteral("Spread at the bridge: 52")));
    const std::size_t steps = bench_->history().steps();
    const double pixels = std::hypot(picture().to_screen().m11(), picture().to_screen().m12());
    // Away from the centre line is wider.
    const double up = picture().handle_of("strings.scale").y() > from.y() ? -1 : 1;
    QTest::mousePress(&picture(), Qt::LeftButton, {}, from);
    for (int k = 1; k <= 6; ++k) {
      QTest::mouseMove(&picture(), from + QPoint(0, static_cast<int>(up * k * 2 * pixels)));
      QCoreApplication::processEvents();
    }
    QTRY_VERIFY2_WITH_TIMEOUT(spread() - 52 > 15, qPrintable(QString::number(spread())), 20000);
    // What follows is drawn with it: the handle is where the string is.
    const StringLine& treble = board_design(*bench_)->board.strings.back();
    const QPointF handle = picture().handle_of("strings.bridge_spread");
    QVERIFY(std::abs(handle.y() - picture().to_screen().map(QPointF(treble.saddle.x, treble.saddle.y)).y()) < 2);
    // Escape takes all of it back.
    QTest::keyClick(&picture(), Qt::Key_Escape);
    QTest::mouseRelease(&picture(), Qt::LeftButton, {}, from);
    QCOMPARE(spread(), 52.0);
    QCOMPARE(bench_->history().steps(), steps);
    // Dragged again and let go: one step. The pickups' poles no longer stand under their strings, which a remark says.
    const QPoint again = picture().handle_of("strings.bridge_spread").toPoint();
    QTest::mousePress(&picture(), Qt::LeftButton, {}, again);
    for (int k = 1; k <= 3; ++k)
      QTest::mouseMove(&picture(), again + QPoint(0, static_cast<int>(up * k * 1.5 * pixels)));
    QTest::mouseRelease(&picture(), Qt::LeftButton, {}, again);
    const double wide = spread();
    QVERIFY(wide - 52 > 5);
    QCOMPARE(bench_->history().steps(), steps + 1);
    window_->choose_line("body.pickups");
    const auto remarks = bench_->remarks();
    const auto poles =
        std::find_if(remarks.begin(), remarks.end(), [](const Remark& r) { return r.place.ends_with(".poles"); });
    QVERIFY(poles != remarks.end());
    // The way out: undo by its name.
    QVERIFY(bench_->history().undo_name().str().starts_with("Drag: Spread at the bridge"));
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(spread(), 52.0);
  }

  void a_drag_never_waits_and_its_newest_place_wins() {
    const auto at = [&](double mm) {
      return bench_->drag({{"strings.bridge_spread", format_mm(mm)}}, "Drag it", "one gesture");
    };
    int changes = 0;
    connect(bench_.get(), &Workbench::changed, this, [&] { ++changes; });
    const std::size_t steps = bench_->history().steps();
    // Faster than any design is made: none of these waits, and numbers and designs change together or not at all.
    QElapsedTimer clock;
    clock.start();
    for (int k = 1; k <= 40; ++k) QVERIFY(!at(52 + 0.1 * k));
    QVERIFY2(clock.elapsed() < 400, qPrintable(QString::number(clock.elapsed())));
    QCOMPARE(spread(), 52.0);
    QCOMPARE(changes, 0);
    QTRY_COMPARE_WITH_TIMEOUT(spread(), 56.0, 20000);
    QVERIFY2(changes <= 3, qPrintable(QString::number(changes)));  // the first and the last, not forty
    QVERIFY(bench_->followed().project.parts == bench_->project().parts);
    QCOMPARE(bench_->history().steps(), steps + 1);
    // Let go in the middle of it: what was asked for last is there at once, and its cuts are planned.
    for (int k = 1; k <= 5; ++k) QVERIFY(!at(56 + k));
    bench_->settle();
    QCOMPARE(spread(), 61.0);
    QCOMPARE(board_design(*bench_)->board.given.strings.bridge_spread, 61.0);
    QCOMPARE(bench_->history().steps(), steps + 1);
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 20000);
    // Given up in the middle of it: all of the gesture is gone, also what comes in afterwards.
    QVERIFY(!at(70));
    bench_->give_up();
    QTest::qWait(300);
    QCOMPARE(spread(), 61.0);
    QVERIFY(at(9000).has_value());  // what cannot be is refused at once
    QCOMPARE(spread(), 61.0);
    // Another edit in the middle of it comes after it, and neither is lost.
    QVERIFY(!at(58));
    QVERIFY(!bench_->edit("board.overhang", "11"));
    QCOMPARE(spread(), 58.0);
    QCOMPARE(board_of(bench_->project()).instrument.board.overhang, 11.0);
    bench_->undo();
    QCOMPARE(spread(), 58.0);
    bench_->undo();
    QCOMPARE(spread(), 61.0);
    // One under way when the window goes is neither taken nor waited for longer than it lasts.
    QVERIFY(!at(59));
  }

  void numbers_on_the_bench_keep_clear_of_each_other() {
    for (const UnitSystem units : {UnitSystem::inch, UnitSystem::millimetre})
      for (const QSize size : {QSize(1280, 800), QSize(1024, 640), QSize(1900, 1000)}) {
        bench_->set_units(units);
        window_->resize(size);
        QTest::qWait(20);
        picture().grab();
        const auto& said = picture().numbers_said();
        QVERIFY(said.size() >= 8);
        for (std::size_t i = 0; i < said.size(); ++i)
          for (std::size_t j = i + 1; j < said.size(); ++j)
            QVERIFY2(!said[i].intersects(said[j]),
                     qPrintable(QStringLiteral("%1 and %2 at %3").arg(i).arg(j).arg(size.width())));
      }
    window_->resize(1280, 800);
    QTest::qWait(20);
  }

  void a_drag_keeps_thirty_frames_a_second() {
    const QPoint from = picture().handle_of("strings.bridge_spread").toPoint();
    QTest::mousePress(&picture(), Qt::LeftButton, {}, from);
    std::vector<qint64> frames;
    int changes = 0;
    connect(bench_.get(), &Workbench::changed, this, [&] { ++changes; });
    QElapsedTimer whole;
    whole.start();
    for (int k = 0; whole.elapsed() < 3000; ++k) {
      QElapsedTimer one;
      one.start();
      QTest::mouseMove(&picture(), from + QPoint(0, k % 40 - 20));
      QCoreApplication::processEvents();
      frames.push_back(one.elapsed());
      QThread::msleep(8);
    }
    QTest::mouseRelease(&picture(), Qt::LeftButton, {}, from);
    std::sort(frames.begin(), frames.end());
    const qint64 median = frames[frames.size() / 2];
    qInfo("%zu frames, median %lld ms, worst %lld ms, %d times followed", frames.size(), static_cast<long long>(median),
          static_cast<long long>(frames.back()), changes);
    QVERIFY2(median <= 33, qPrintable(QString::number(median)));
  }

  void string_height_is_dragged_from_the_side_and_the_pocket_follows() {
    const double before = body_design(*bench_)->shape.setup.saddles.front().height;
    const QPoint from = picture().handle_of("body.action_bass").toPoint();
    QVERIFY(!from.isNull());
    QTest::mousePress(&picture(), Qt::LeftButton, {}, from);
    QTest::mouseMove(&picture(), from - QPoint(0, 2));
    QTest::mouseMove(&picture(), from - QPoint(0, 4));
    QTest::mouseRelease(&picture(), Qt::LeftButton, {}, from - QPoint(0, 4));
    QVERIFY(body_of(bench_->project()).body.setup.action_bass > 2.5);
    QVERIFY(body_design(*bench_)->shape.setup.saddles.front().height != before);
  }

  void a_left_handed_fanned_eight_string_stands_on_the_bench_too() {
    bench_->replace(*project_from("sedge"));
    QVERIFY(!bench_->edit(
        {{"strings.count", "8"}, {"strings.gauges", "1.8 1.4 1.1 0.9 0.7 0.5 0.4 0.3"}, {"strings.left_handed", "yes"}},
        "eight"));
    window_->show_view(View::bench);
    QCoreApplication::processEvents();
    QVERIFY(!picture().place_of("fretboard").isNull());
    QVERIFY(
        picture().what_is_at(picture().handle_of("strings.scale_bass")).contains(QStringLiteral("Scale, bass: 710")));
    const QPoint from = picture().handle_of("strings.bridge_spread").toPoint();
    const double was = spread();
    // Outwards is wider on the left hand too.
    const QPointF middle =
        (picture().handle_of("strings.scale_bass") + picture().handle_of("strings.scale_treble")) / 2;
    const int way = from.y() < middle.y() ? -1 : 1;
    QTest::mousePress(&picture(), Qt::LeftButton, {}, from);
    QTest::mouseMove(&picture(), from + QPoint(0, 3 * way));
    QTest::mouseMove(&picture(), from + QPoint(0, 6 * way));
    QTest::mouseRelease(&picture(), Qt::LeftButton, {}, from + QPoint(0, 6 * way));
    QVERIFY2(spread() > was, qPrintable(QString::number(spread())));
    // Numbers that no board follows from: the bench has nothing of it, and draws on.
    QVERIFY(!bench_->edit("crown.radius_nut", "40"));
    QVERIFY(bench_->problem("fretboard") != nullptr);
    QVERIFY(picture().place_of("fretboard").isNull());
    QVERIFY(!window_->bench_view()->grab().isNull());
    bench_->undo();
    QVERIFY(!picture().place_of("fretboard").isNull());
  }

  void sections_fold_and_the_part_in_work_is_open() {
    auto* tree = window_->findChild<BuildSheetView*>()->tree();
    const auto head = [&](const QString& begins) -> QTreeWidgetItem* {
      for (int i = 0; i < tree->topLevelItemCount(); ++i)
        if (tree->topLevelItem(i)->text(0) == begins) return tree->topLevelItem(i);
      return nullptr;
    };
    window_->choose_line("neck.heel");
    QVERIFY(head(QStringLiteral("Neck"))->isExpanded());
    QVERIFY(!head(QStringLiteral("Body"))->isExpanded());
    // By keys: up to the next head, out, and in again.
    tree->setFocus();
    tree->setCurrentItem(head(QStringLiteral("Body")));
    QCOMPARE(window_->line(), std::string("neck.heel"));  // a head is no line
    QTest::keyClick(tree, Qt::Key_Right);
    QVERIFY(head(QStringLiteral("Body"))->isExpanded());
    // Opened by hand, it stays open while work goes on elsewhere.
    window_->choose_line("fretboard.crown");
    QVERIFY(head(QStringLiteral("Body"))->isExpanded());
    QVERIFY(!head(QStringLiteral("Neck"))->isExpanded());
    tree->setCurrentItem(head(QStringLiteral("Body")));
    QTest::keyClick(tree, Qt::Key_Left);
    QVERIFY(!head(QStringLiteral("Body"))->isExpanded());
    // Open questions alone: the slot, and the pocket that waits.
    auto* show = named<QComboBox>(QStringLiteral("Lines shown"));
    show->setCurrentIndex(1);
    QStringList shown;
    for (int i = 0; i < tree->topLevelItemCount(); ++i)
      for (int k = 0; k < tree->topLevelItem(i)->childCount(); ++k) shown << tree->topLevelItem(i)->child(k)->text(0);
    QVERIFY2(shown.contains(QStringLiteral("Test slot on scrap")), qPrintable(shown.join(QLatin1Char('|'))));
    QVERIFY(shown.contains(QStringLiteral("Set-up and neck pocket")));
    QVERIFY(!shown.contains(QStringLiteral("Crown")));
    // A line that is not among them is shown when it is gone to.
    window_->choose_line("fretboard.crown");
    QCOMPARE(show->currentIndex(), 0);
    // Every head says what is done, and every row that can be heard has words.
    for (int i = 0; i < tree->topLevelItemCount(); ++i) {
      QVERIFY(!tree->topLevelItem(i)->data(0, Qt::AccessibleTextRole).toString().isEmpty());
      // No name is longer than its row: names wrap, none is cut.
      const QRect r = tree->visualItemRect(tree->topLevelItem(i));
      QVERIFY(r.height() >= QFontMetrics(text_font(10)).height() + QFontMetrics(text_font(8.5)).height());
    }
  }

  void the_step_view_goes_through_a_set_up_with_cuts_measures_and_notes() {
    window_->choose_line("fretboard.cut.top.slots");
    QTest::keyClick(window_.get(), Qt::Key_F8);
    QVERIFY(window_->at_step());
    StepView* step = window_->step_view();
    QVERIFY(step->isVisible());
    QCOMPARE(step->line(), std::string("fretboard.cut.top.slots"));
    // Letters for two metres: capitals of 10 mm by the screen's own measure.
    const double mm = step->screen()->physicalDotsPerInchY() / 25.4;
    int far = 0;
    for (const QLabel* l : step->findChildren<QLabel*>(QStringLiteral("far"))) {
      if (!l->isVisible() || l->text().isEmpty()) continue;
      ++far;
      QVERIFY2(QFontMetricsF(l->font()).capHeight() >= 10 * mm - 1, qPrintable(l->text()));
      QCOMPARE(l->accessibleName().toUpper().isEmpty(), false);
    }
    QVERIFY(far >= 4);  // state, clock, file, cutter
    for (const QPushButton* b : step->findChildren<QPushButton*>())
      if (b->isVisible()) {
        QVERIFY2(b->height() >= 15 * mm - 1 && b->width() >= 15 * mm - 1, qPrintable(b->text()));
        QVERIFY(b->font().pointSizeF() >= 23.5);
      }
    QVERIFY(named<QLabel>(QStringLiteral("NOT PROVED"), step) != nullptr);
    QVERIFY(named<QLabel>(QStringLiteral("T1 SLOT-0.58"), step) != nullptr);
    // The clock runs, and goes on while another step is looked at.
    QTest::mouseClick(button(QStringLiteral("Start clock"), step), Qt::LeftButton);
    QVERIFY(button(QStringLiteral("Stop clock"), step) != nullptr);
    QTest::keyClick(step, Qt::Key_Right);
    QVERIFY(step->line() != "fretboard.cut.top.slots");
    QVERIFY(button(QStringLiteral("Start clock"), step) != nullptr);
    QTest::keyClick(step, Qt::Key_Left);
    QVERIFY(button(QStringLiteral("Stop clock"), step) != nullptr);
    // Cut: it stays cut at the desk; and is taken back as a slip of the hand.
    const auto is_cut = [&] {
      for (const BuildLine& l : bench_->sheet())
        if (l.id == "fretboard.cut.top.slots") return l.state == LineState::cut;
      return false;
    };
    QTest::mouseClick(button(QStringLiteral("Cut"), step), Qt::LeftButton);
    QVERIFY(is_cut());
    QVERIFY(named<QLabel>(QStringLiteral("CUT"), step) != nullptr);
    QTest::mouseClick(button(QStringLiteral("Not cut"), step), Qt::LeftButton);
    QVERIFY(!is_cut());
    // A measure, refused and then kept.
    in_dialog([](QDialog& d) {
      QLineEdit* width = nullptr;
      for (auto* e : d.findChildren<QLineEdit*>())
        if (e->accessibleName().contains(QStringLiteral("slot"), Qt::CaseInsensitive)) width = e;
      QVERIFY(width != nullptr);
      QTest::keyClicks(width, QStringLiteral("wide"));
      QTest::mouseClick(d.findChild<QPushButton*>(QStringLiteral("main")), Qt::LeftButton);
      QVERIFY(d.isVisible());
      width->clear();
      QTest::keyClicks(width, QStringLiteral("0.56"));
      QTest::mouseClick(d.findChild<QPushButton*>(QStringLiteral("main")), Qt::LeftButton);
    });
    QTest::mouseClick(button(QStringLiteral("Measure…"), step), Qt::LeftButton);
    bench_->catch_up();
    for (const BuildLine& l : bench_->sheet())
      if (l.id == "fretboard.test_slot") QCOMPARE(l.state, LineState::measured);
    // Not right: a note that is kept, and the number to change it by.
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 20000);
    QCoreApplication::processEvents();
    in_dialog([](QDialog& d) {
      auto* note = d.findChild<QPlainTextEdit*>();
      QTest::keyClicks(note, QStringLiteral("too deep by 0.1"));
      auto* list = d.findChild<QListWidget*>();
      QVERIFY(list->count() > 0);
      list->setCurrentRow(0);
      for (auto* b : d.findChildren<QPushButton*>())
        if (b->text() == QStringLiteral("Keep it and go to the number")) QTest::mouseClick(b, Qt::LeftButton);
    });
    QTest::mouseClick(button(QStringLiteral("Not right…"), step), Qt::LeftButton);
    QVERIFY(bench_->project().notes.find("too deep by 0.1") != std::string::npos);
    QVERIFY(bench_->project().notes.find("Fretboard") != std::string::npos);
    QVERIFY(!window_->at_step());
    QApplication::setActiveWindow(window_.get());
    auto* at = window_->focusWidget();
    QVERIFY(at != nullptr && window_->ledger()->isAncestorOf(at));
    // Leaving one for the other loses no place.
    QTest::keyClick(window_.get(), Qt::Key_F8);
    QTest::keyClick(step, Qt::Key_Right);
    const std::string there = step->line();
    QTest::keyClick(step, Qt::Key_Escape);
    QCOMPARE(window_->line(), there);
  }

  void proved_stands_beside_a_file_only_where_that_file_was_written_from_these_numbers() {
    window_->choose_line("fretboard.cut.top.slots");
    window_->show_step(true);
    StepView* step = window_->step_view();
    QVERIFY(named<QLabel>(QStringLiteral("NOT PROVED"), step) != nullptr);
    bench_->prove_all();
    QTRY_VERIFY_WITH_TIMEOUT(bench_->proof("fretboard") != nullptr, 60000);
    QTRY_VERIFY(named<QLabel>(QStringLiteral("NOT WRITTEN"), step) != nullptr);
    QVERIFY(named<QLabel>(QStringLiteral("PROVED"), step) == nullptr);
    window_->write_programs_into(folder_.filePath(QStringLiteral("step-programs")));
    QTRY_VERIFY_WITH_TIMEOUT(named<QLabel>(QStringLiteral("PROVED"), step) != nullptr, 60000);
    // Another number: what lies in the folder is older, and the word goes at once.
    QVERIFY(!bench_->edit("board.overhang", "10"));
    QVERIFY(named<QLabel>(QStringLiteral("PROVED"), step) == nullptr);
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 60000);
    QVERIFY(named<QLabel>(QStringLiteral("NOT PROVED"), step) != nullptr);
    // Proved anew, the folder still holds the older set.
    bench_->prove_all();
    QTRY_VERIFY_WITH_TIMEOUT(bench_->proof("fretboard") != nullptr, 60000);
    QTRY_VERIFY(named<QLabel>(QStringLiteral("NOT WRITTEN"), step) != nullptr);
  }

  void a_line_or_a_number_is_found_by_words_and_gone_to() {
    in_dialog([](QDialog& d) {
      auto* words = d.findChild<QLineEdit*>();
      QTest::keyClicks(words, QStringLiteral("nothing like this"));
      QTest::keyClick(words, Qt::Key_Return);
      QVERIFY(d.isVisible());  // nothing was found: nowhere to go
      words->clear();
      QTest::keyClicks(words, QStringLiteral("pocket depth"));
      QTest::keyClick(words, Qt::Key_Return);
    });
    QTest::keyClick(window_.get(), Qt::Key_F, Qt::ControlModifier);
    QCOMPARE(window_->line(), std::string("body.pocket"));
    QApplication::setActiveWindow(window_.get());
    auto* field = qobject_cast<QLineEdit*>(window_->focusWidget());
    QVERIFY(field != nullptr);
    QCOMPARE(field->objectName(), QStringLiteral("body.pocket_depth"));
    QVERIFY(field->accessibleDescription().contains(QStringLiteral("given")));
  }

  void numbers_stand_beside_a_body_and_under_a_board_and_the_choice_is_kept() {
    const auto beside_picture = [&] {
      const QPoint numbers = window_->ledger()->mapTo(window_.get(), QPoint(0, 0));
      const QPoint side = window_->own_view("body", View::plan)->mapTo(window_.get(), QPoint(0, 0));
      return numbers.x() > side.x() + 300;
    };
    window_->choose_line("body.outline");
    QCOMPARE(window_->arrangement(), MainWindow::Arrangement::tall);
    QCoreApplication::processEvents();
    QVERIFY(beside_picture());
    window_->choose_line("neck.heel");
    QCOMPARE(window_->arrangement(), MainWindow::Arrangement::wide);
    window_->choose_line("body.outline");
    QTest::keyClick(window_.get(), Qt::Key_F10);
    QCOMPARE(window_->arrangement(), MainWindow::Arrangement::wide);
    window_->choose_line("neck.heel");
    window_->choose_line("body.controls");
    QCOMPARE(window_->arrangement(), MainWindow::Arrangement::wide);
    // The picture alone, on one key, and back.
    QTest::keyClick(window_.get(), Qt::Key_F9);
    QCoreApplication::processEvents();
    QVERIFY(!window_->ledger()->isVisible());
    QVERIFY(!window_->findChild<BuildSheetView*>()->isVisible());
    QVERIFY(window_->own_view("body", View::plan)->width() > window_->width() - 10);
    QTest::keyClick(window_.get(), Qt::Key_F9);
    QVERIFY(window_->ledger()->isVisible());
  }

  void on_a_small_screen_panels_are_pages_and_everything_is_reached() {
    window_->choose_line("fretboard.strings");
    window_->resize(853, 533);
    QCoreApplication::processEvents();
    QVERIFY(window_->width() <= 860);  // nothing holds it wider
    QVERIFY(window_->height() <= 540);
    QVERIFY(window_->paged());
    const std::pair<const char*, QWidget*> pages[] = {{"Page: Numbers", window_->ledger()},
                                                      {"Page: Remarks", window_->findChild<RemarksView*>()},
                                                      {"Page: Build sheet", window_->findChild<BuildSheetView*>()}};
    for (const auto& [name, panel] : pages) {
      auto* turn = named<QPushButton>(QString::fromLatin1(name));
      QVERIFY2(turn != nullptr, name);
      QTest::mouseClick(turn, Qt::LeftButton);
      QCoreApplication::processEvents();
      QVERIFY2(panel->isVisible(), name);
      QVERIFY(panel->width() > 800);
      for (const auto& [other, hidden] : pages)
        if (hidden != panel) QVERIFY2(!hidden->isVisible(), other);
    }
    // A number gone to is on its page; the bench fits.
    window_->go_to_number("body.pocket", "body.pocket_depth");
    QVERIFY(window_->ledger()->isVisible());
    window_->show_view(View::bench);
    window_->turn_to(MainWindow::Page::picture);
    QCoreApplication::processEvents();
    QVERIFY(picture().height() > 220);
    QVERIFY(window_->width() <= 860);
    window_->resize(1024, 640);
    QCoreApplication::processEvents();
    QVERIFY(!window_->paged());
    QVERIFY(window_->width() <= 1030 && window_->height() <= 645);
  }

  void text_size_and_theme_are_settings_of_their_own() {
    window_->choose_line("fretboard.strings");
    auto* name = [&] { return window_->ledger()->findChild<QLineEdit*>(QStringLiteral("strings.scale")); }();
    QVERIFY(name != nullptr);
    const double before = name->font().pointSizeF();
    for (int k = 0; k < 4; ++k) window_->set_text_size_of_window(text_size() + 1);
    QCoreApplication::processEvents();
    auto* after = window_->ledger()->findChild<QLineEdit*>(QStringLiteral("strings.scale"));
    QVERIFY(after->font().pointSizeF() > before + 3);
    window_->set_text_size_of_window(99);
    QCOMPARE(text_size(), most_text_size);
    QVERIFY(window_->paged());  // so large a text needs pages
    window_->set_text_size_of_window(1);
    QCOMPARE(text_size(), least_text_size);
    QTest::keyClick(window_.get(), Qt::Key_D, Qt::ControlModifier);
    QCOMPARE(theme(), Theme::dark);
    QCOMPARE(QSettings().value(QStringLiteral("window/theme")).toString(), QStringLiteral("dark"));
    QTest::keyClick(window_.get(), Qt::Key_D, Qt::ControlModifier);
    QCOMPARE(theme(), Theme::light);
  }

  void every_text_stands_out_from_its_ground_in_both_themes() {
    for (const Theme which : {Theme::light, Theme::dark}) {
      set_theme(which);
      const Palette& p = colours();
      for (const QColor& text : {p.ink, p.faint, p.heather, p.lichen, p.gorse, p.rowan})
        for (const QColor& ground : {p.ground, p.paper, p.heather_soft})
          QVERIFY2(contrast(text, ground) >= 4.5, qPrintable(text.name() + QStringLiteral(" on ") + ground.name()));
      for (const QColor& state : {p.lichen, p.rowan, p.gorse, p.heather}) QVERIFY(contrast(p.paper, state) >= 4.5);
    }
  }

  void no_state_of_a_part_looks_like_another_without_colour() {
    // All pairs of the two axes, drawn and turned to grey: no two pictures are the same.
    std::vector<std::pair<QString, QImage>> seen;
    for (int standing = 0; standing <= static_cast<int>(Standing::refused); ++standing)
      for (int wood = 0; wood <= static_cast<int>(WoodState::measured); ++wood) {
        QImage image(96, 48, QImage::Format_RGB32);
        image.fill(colours().ground);
        QPainter g(&image);
        QPainterPath shape;
        shape.addRect(8, 8, 80, 32);
        paint_state(g, shape, static_cast<Standing>(standing), static_cast<WoodState>(wood));
        g.end();
        image = image.convertToFormat(QImage::Format_Grayscale8);
        const QString name = QString::fromUtf8(standing_name(static_cast<Standing>(standing))) + QLatin1Char('/') +
                             QString::fromUtf8(wood_state_name(static_cast<WoodState>(wood)));
        for (const auto& [other, before] : seen) {
          int differ = 0;
          for (int y = 0; y < image.height(); ++y)
            for (int x = 0; x < image.width(); ++x)
              if (std::abs(qGray(image.pixel(x, y)) - qGray(before.pixel(x, y))) > 18) ++differ;
          QVERIFY2(differ > 25, qPrintable(name + QStringLiteral(" looks like ") + other));
        }
        seen.emplace_back(name, image);
      }
  }

  void a_number_tells_what_it_was_before_and_goes_back() {
    window_->choose_line("fretboard.strings");
    QVERIFY(!bench_->edit("strings.scale", "640"));
    bench_->settle();
    QVERIFY(!bench_->edit("strings.scale", "645"));
    const auto before = bench_->history_of("strings.scale");
    QCOMPARE(before.size(), std::size_t(2));
    QCOMPARE(before[0].text, QStringLiteral("640"));
    QCOMPARE(before[1].text, QStringLiteral("635"));
    QTRY_VERIFY(bench_->planned("fretboard") != nullptr);
    QTest::qWait(50);
    QLineEdit* field = nullptr;
    for (auto* one : window_->ledger()->findChildren<QLineEdit*>(QStringLiteral("strings.scale")))
      if (one->isVisible()) field = one;
    QVERIFY(field != nullptr);
    QTimer::singleShot(200, window_.get(), [] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      QVERIFY(menu != nullptr);
      for (QAction* a : menu->actions())
        if (a->text().startsWith(QStringLiteral("Back to 635"))) a->trigger();
      menu->close();
    });
    Q_EMIT field->customContextMenuRequested({});
    QTRY_COMPARE_WITH_TIMEOUT(board_of(bench_->project()).instrument.strings.scale_bass, 635.0, 3000);
  }

  void a_new_instrument_is_chosen_by_its_picture() {
    in_dialog([](QDialog& d) {
      auto* list = d.findChild<QListWidget*>();
      QCOMPARE(list->count(), static_cast<int>(starting_points().size()));
      for (int i = 0; i < list->count(); ++i) {
        QVERIFY(!list->item(i)->icon().isNull());
        QVERIFY(list->item(i)->text().contains(QStringLiteral("strings, scale")));
        if (list->item(i)->text().contains(QStringLiteral("710 to 660"))) list->setCurrentRow(i);
      }
      QTest::mouseClick(d.findChild<QPushButton*>(QStringLiteral("main")), Qt::LeftButton);
    });
    QTest::keyClick(window_.get(), Qt::Key_N, Qt::ControlModifier);
    QCOMPARE(board_of(bench_->project()).instrument.strings.scale_bass, 710.0);
    QCOMPARE(window_->view(), View::bench);
  }

  void another_way_is_compared_before_it_is_taken() {
    window_->choose_line("fretboard.slots");
    QString said;
    in_dialog([&said, this](QDialog& d) {
      auto* which = named<QComboBox>(QStringLiteral("Number or choice"), &d);
      QVERIFY(which != nullptr);
      which->setCurrentIndex(which->findData(QStringLiteral("slot.ends")));
      auto* would = named<QComboBox>(QStringLiteral("Would be"), &d);
      QCOMPARE(would->currentData().toString(), QStringLiteral("blind"));  // the first that it is not now
      QPushButton* take = button(QStringLiteral("Take the other way"), &d);
      QVERIFY(!take->isEnabled());
      QTest::mouseClick(button(QStringLiteral("Compare"), &d), Qt::LeftButton);
      auto* table = d.findChild<QTableWidget*>();
      QTRY_VERIFY_WITH_TIMEOUT(take->isEnabled(), 60000);
      QVERIFY(table->rowCount() >= 6);
      QCOMPARE(table->item(0, 0)->text(), QStringLiteral("Time at the machine"));
      QVERIFY(!table->item(0, 1)->text().isEmpty());
      for (const auto* l : d.findChildren<QLabel*>())
        if (l->text().startsWith(QStringLiteral("It "))) said = l->text();
      // A number that cannot be: said, and nothing to take.
      which->setCurrentIndex(which->findData(QStringLiteral("board.thickness")));
      QVERIFY(!take->isEnabled());
      auto* value = named<QLineEdit>(QStringLiteral("Would be, as a number"), &d);
      value->setText(QStringLiteral("thick"));
      QTest::mouseClick(button(QStringLiteral("Compare"), &d), Qt::LeftButton);
      QVERIFY(!take->isEnabled());
      value->setText(QStringLiteral("6"));
      QTest::mouseClick(button(QStringLiteral("Compare"), &d), Qt::LeftButton);
      QTRY_VERIFY_WITH_TIMEOUT(take->isEnabled(), 60000);
      QTest::mouseClick(take, Qt::LeftButton);
    });
    QTest::keyClick(window_.get(), Qt::Key_Y, Qt::ControlModifier);
    QVERIFY2(!said.isEmpty(), "the outcome is not said");
    bench_->catch_up();
    QCOMPARE(board_of(bench_->project()).instrument.board.thickness, 6.0);
  }

  void no_key_of_the_file_reaches_a_message() {
    window_->choose_line("fretboard.strings");
    const auto refused = bench_->edit("strings.count", "40");
    QVERIFY(refused.has_value());
    const QString words = bench_->words(*refused);
    QVERIFY2(words.startsWith(QStringLiteral("Strings: 40 is outside 3 to 12")), qPrintable(words));
    QVERIFY2(!words.contains(QStringLiteral("strings.")), qPrintable(words));
    const auto typed = bench_->edit("strings.scale", "12 apples");
    QVERIFY(typed.has_value());
    QVERIFY2(!bench_->words(*typed).contains(QStringLiteral("strings.")), qPrintable(bench_->words(*typed)));
  }
};

int run_bench_story(int argc, char** argv) {
  BenchStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "bench_story_test.moc"

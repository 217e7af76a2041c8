// The window driven by mouse and keys, through the story of a maker's first board. Runs under Xvfb.
#include <fmt/format.h>
#include <QApplication>
#include <QComboBox>
#include <QCheckBox>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QLineEdit>
#include <QListWidget>
#include <QMenuBar>
#include <QPushButton>
#include <QSlider>
#include <QTemporaryDir>
#include <QtTest/QtTest>

#include "app/crown_dialog.hpp"
#include "app/main_window.hpp"
#include "app/body_views.hpp"
#include "app/designs.hpp"
#include "app/neck_views.hpp"
#include "app/part_edits.hpp"
#include "app/views.hpp"
#include "app/solid_view.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "support/mouse.hpp"

using namespace wren;
using namespace wren::app;

class Story : public QObject {
  Q_OBJECT

  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  QTemporaryDir folder_;

  template <class T>
  T* find(const QString& name) {
    for (T* w : window_->findChildren<T*>(name))
      if (w->isVisible()) return w;
    return nullptr;
  }
  void choose(const char* line) {
    window_->choose_line(line);
    QTest::qWait(1);
  }
  void pick(const QString& key, const QString& choice) {
    auto* box = find<QComboBox>(key);
    QVERIFY2(box != nullptr && box->findData(choice) >= 0, qPrintable(key + QLatin1Char(' ') + choice));
    box->setCurrentIndex(box->findData(choice));
    bench_->catch_up();
  }
  /// Types into a ledger field as a person does: click, select all, type, Enter.
  void type(const QString& key, const QString& text) {
    auto* field = find<QLineEdit>(key);
    QVERIFY2(field != nullptr, qPrintable(key));
    QTest::mouseClick(field, Qt::LeftButton);
    QTest::keyClick(field, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
    bench_->catch_up();
  }
  void settled() { QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("fretboard") != nullptr, 10000); }
  [[nodiscard]] LineState state_of(const std::string& id) const {
    for (const BuildLine& l : bench_->sheet())
      if (l.id == id) return l.state;
    return LineState::heading;
  }
  [[nodiscard]] bool remarked(const std::string& kind) const {
    const auto remarks = bench_->remarks();
    return std::any_of(remarks.begin(), remarks.end(), [&](const Remark& r) { return r.kind == kind; });
  }

 private Q_SLOTS:
  void init() {
    QFile::remove(folder_.filePath(QStringLiteral("reedling.wren")));
    const std::string file = folder_.filePath(QStringLiteral("reedling.wren")).toStdString();
    std::filesystem::remove(beside(file, "autosave"));  // of the test before
    QVERIFY(save_project(file, *project_from("reedling")).has_value());
    bench_ = std::make_unique<Workbench>(*project_from("plain"));
    window_ = std::make_unique<MainWindow>(*bench_);
    window_->set_ask_before_closing(false);
    QVERIFY(window_->open_file(QString::fromStdString(file)));
    window_->resize(1280, 800);
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    QApplication::setActiveWindow(window_.get());  // there is no window manager under Xvfb to do it
    settled();
  }
  void cleanup() {
    window_.reset();
    bench_.reset();
  }

  void numbers_change_and_everything_follows() {
    choose("fretboard.strings");
    type(QStringLiteral("strings.scale"), QStringLiteral("25 1/2 in"));
    QCOMPARE(board_of(bench_->project()).instrument.strings.scale_bass, 647.7);
    QCOMPARE(board_of(bench_->project()).instrument.strings.scale_treble, 647.7);
    choose("fretboard.frets");
    type(QStringLiteral("frets.count"), QStringLiteral("22 + 2"));
    QCOMPARE(board_of(bench_->project()).instrument.frets.count, 24);
    QCOMPARE(board_design(*bench_)->board.frets.size(), std::size_t(24));
    choose("fretboard.strings");
    type(QStringLiteral("strings.scale_treble"), QStringLiteral("620"));
    QVERIFY(remarked("board.overhang_short"));
    // The offered repair, by the mouse.
    QPushButton* repair = nullptr;
    for (QPushButton* b : window_->findChildren<QPushButton*>(QStringLiteral("repair")))
      if (b->property("kind").toString() == QStringLiteral("board.overhang_short")) repair = b;
    QVERIFY(repair != nullptr);
    QTest::mouseClick(repair, Qt::LeftButton);
    bench_->catch_up();
    QVERIFY(!remarked("board.overhang_short"));
    settled();
    // Everything can be taken back, by name.
    QCOMPARE(QString::fromStdString(bench_->history().undo_name().str()).left(8), QStringLiteral("Lengthen"));
    for (int k = 0; k < 10 && bench_->history().can_undo(); ++k)
      QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(board_of(bench_->project()).instrument.frets.count, 22);
    QVERIFY(!bench_->history().modified());
  }

  void bad_numbers_are_refused_in_words() {
    choose("fretboard.strings");
    type(QStringLiteral("strings.nut_spread"), QStringLiteral("12 apples"));
    QCOMPARE(board_of(bench_->project()).instrument.strings.nut_spread, 35.0);
    auto* trouble = find<QLabel>(QStringLiteral("trouble"));
    QVERIFY(trouble != nullptr && trouble->text().contains(QStringLiteral("apples")));
    // Numbers that fit no board: said in the picture and among the remarks, and nothing is lost.
    choose("fretboard.crown");
    type(QStringLiteral("crown.radius_nut"), QStringLiteral("40"));
    QVERIFY(bench_->problem("fretboard") != nullptr);
    QVERIFY(remarked("fretboard.impossible"));
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(bench_->problem("fretboard") == nullptr);
  }

  void the_slot_cutter_and_the_test_slot() {
    choose("fretboard.cut.top.slots");
    auto* cutter = find<QComboBox>(QStringLiteral("slot.cutter"));
    QVERIFY(cutter != nullptr);
    cutter->setFocus();
    cutter->setCurrentText(QStringLiteral("slot-0.79"));
    bench_->catch_up();
    QVERIFY(remarked("slot.cutter_wide"));
    cutter->setCurrentText(QStringLiteral("slot-0.58"));
    bench_->catch_up();
    QVERIFY(remarked("slot.too_wide"));
    QVERIFY(!remarked("slot.cutter_wide"));
    bool says_test = false;
    for (QLabel* l : window_->findChildren<QLabel*>(QStringLiteral("remark:slot.too_wide")))
      says_test = says_test || l->text().contains(QStringLiteral("test slot"));
    QVERIFY(says_test);
    settled();
    const auto before = bench_->planned("fretboard")->cuts.side("top")->cuts.front().strands.front().steps.size();
    type(QStringLiteral("slot.measured_width"), QStringLiteral("0.55"));
    QVERIFY(!remarked("slot.too_wide"));
    settled();
    QVERIFY(bench_->planned("fretboard")->cuts.side("top")->cuts.front().strands.front().steps.size() >
            before);  // passes side by side now
    QCOMPARE(find_cutter(board_design(*bench_)->rack, "slot-0.58")->effective_diameter(), 0.55);
  }

  void rehearse_drag_the_clock_write_and_find_again() {
    choose("fretboard.rehearsal");
    QCOMPARE(window_->view(), View::rehearsal);
    QTRY_VERIFY_WITH_TIMEOUT(window_->rehearsal()->ready(), 20000);
    auto* clock = find<QSlider>(QStringLiteral("clock"));
    auto* now = find<QLabel>(QStringLiteral("now"));
    QVERIFY(clock != nullptr && now != nullptr);
    const QString at_end = now->text();
    QTest::mousePress(clock, Qt::LeftButton, {}, {clock->width() - 8, clock->height() / 2});
    QTest::mouseMove(clock, {clock->width() / 2, clock->height() / 2});
    QTest::mouseRelease(clock, Qt::LeftButton, {}, {clock->width() / 2, clock->height() / 2});
    clock->setValue(5000);
    QVERIFY(now->text() != at_end);
    QVERIFY(now->text().contains(QStringLiteral("slot-0.58")));
    QTest::keyClick(window_.get(), Qt::Key_R, Qt::ControlModifier);
    QVERIFY(bench_->proving());
    QTRY_VERIFY_WITH_TIMEOUT(bench_->proof("fretboard") != nullptr, 60000);
    QVERIFY(bench_->proof("fretboard")->passed());
    auto* result = find<QLabel>(QStringLiteral("result"));
    QVERIFY(result->text().contains(QStringLiteral("proved")));
    // Programs and sheet, and both again tomorrow.
    const QString programs = folder_.filePath(QStringLiteral("programs"));
    window_->write_programs_into(programs);
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(programs + QStringLiteral("/fretboard/manifest.json")), 20000);
    QTRY_COMPARE_WITH_TIMEOUT(state_of("fretboard.programs"), LineState::written, 5000);
    QVERIFY(window_->write_sheet_to(folder_.filePath(QStringLiteral("sheet.pdf"))));
    QTRY_VERIFY(!bench_->history().modified());
    const auto tomorrow = load_project(bench_->path());
    QVERIFY(tomorrow.has_value());
    const std::string print = fingerprint(all_parts(), *all_parts().find("fretboard"), *tomorrow);
    for (const char* what : {"fretboard.sheet", "fretboard.proof"})
      QVERIFY(happened(tomorrow->record, what, print).current);
    QCOMPARE(tomorrow->record.folder, programs.toStdString());
    // A file of the set that is changed, or goes, shows at once; so does an edit, and its taking back.
    const auto set = bench_->written_sets().at("fretboard");
    const QString one = QString::fromStdString(
        (set.folder / programs_of(bench_->project(), *bench_->planned("fretboard"), "")[0].file.file).string());
    QVERIFY(QFile::exists(one));
    const QByteArray good = [&] {
      QFile f(one);
      return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
    }();
    const auto write = [&](const QByteArray& bytes) {
      QFile f(one);
      QVERIFY(f.open(QIODevice::WriteOnly));
      f.write(bytes);
    };
    write(good + "G0 Z-5\n");
    QTRY_VERIFY_WITH_TIMEOUT(state_of("fretboard.programs") != LineState::written, 5000);
    write(good);
    QTRY_COMPARE_WITH_TIMEOUT(state_of("fretboard.programs"), LineState::written, 5000);
    QVERIFY(!bench_->edit("board.overhang", "8"));
    QVERIFY(state_of("fretboard.programs") != LineState::written);
    bench_->undo();
    QCOMPARE(state_of("fretboard.programs"), LineState::written);
    QVERIFY(QFile::remove(one));
    QTRY_VERIFY_WITH_TIMEOUT(state_of("fretboard.programs") != LineState::written, 5000);
  }

  void a_cut_is_marked_and_stays_cut() {
    settled();
    QVERIFY(state_of("fretboard.cut.top.slots") != LineState::cut);
    choose("fretboard.cut.top.slots");
    QTest::keyClick(window_.get(), Qt::Key_M, Qt::ControlModifier);
    QCOMPARE(state_of("fretboard.cut.top.slots"), LineState::cut);
    // No edit, no undo, no new name and no measure makes the wood whole again.
    QVERIFY(!bench_->edit("board.overhang", "7"));
    settled();
    QCOMPARE(state_of("fretboard.cut.top.slots"), LineState::cut);
    bench_->undo();
    settled();
    QCOMPARE(state_of("fretboard.cut.top.slots"), LineState::cut);
    QVERIFY(!bench_->edit("project.name", "Another"));
    QVERIFY(!bench_->edit("measured.neck.thickness_at_a", "21.2"));
    QCOMPARE(state_of("fretboard.cut.top.slots"), LineState::cut);
    while (bench_->history().can_undo()) bench_->undo();
    QCOMPARE(bench_->project().record.measured.size(), std::size_t(1));
    // Said once more of the same numbers it was a slip of the hand.
    settled();
    QTest::keyClick(window_.get(), Qt::Key_M, Qt::ControlModifier);
    QVERIFY(state_of("fretboard.cut.top.slots") != LineState::cut);
  }

  void what_stops_the_work_stops_the_writing_wherever_it_is_asked() {
    // As a dialog would, that was open before the stop appeared.
    QVERIFY(!bench_->edit("machine.travel_x", "300"));
    settled();
    QVERIFY(bench_->stops_writing().has_value());
    const QString folder = folder_.filePath(QStringLiteral("stopped"));
    bench_->write_programs(folder.toStdString());
    QTest::qWait(300);
    QVERIFY(!QFile::exists(folder));
    bench_->undo();
    settled();
    QVERIFY(!bench_->stops_writing().has_value());
  }

  void a_rehearsal_can_be_stopped() {
    bench_->prove_all();
    QVERIFY(bench_->proving());
    QTest::keyClick(window_.get(), Qt::Key_Period, Qt::ControlModifier);
    QVERIFY(!bench_->proving());
    QTest::qWait(300);
    QVERIFY(bench_->proof("fretboard") == nullptr);
  }

  void every_picture_shows_in_both_themes_and_units() {
    for (const bool dark : {false, true}) {
      window_->apply_theme(dark);
      for (const View view : {View::plan, View::side, View::solid, View::bed, View::rehearsal}) {
        window_->show_view(view);
        QTest::qWait(20);
        const QImage picture = window_->grab().toImage();
        QVERIFY(picture.width() >= 1280);
        QSet<QRgb> seen;
        for (int y = 90; y < 440; y += 7)
          for (int x = 260; x < 1260; x += 7) seen.insert(picture.pixel(x, y));
        QVERIFY2(seen.size() > 3, "an empty picture");
      }
      QTest::keyClick(window_.get(), Qt::Key_U, Qt::ControlModifier);
      QCOMPARE(bench_->units(), dark ? UnitSystem::millimetre : UnitSystem::inch);
    }
    choose("fretboard.strings");
    QTest::keyClick(window_.get(), Qt::Key_U, Qt::ControlModifier);
    QCOMPARE(find<QLineEdit>(QStringLiteral("strings.scale"))->text(), QStringLiteral("25 in"));
    window_->apply_theme(false);
  }

  void the_end_and_a_tab_are_dragged_in_the_picture_as_one_step_each() {
    window_->show_view(View::plan);
    QTest::qWait(30);
    auto* plan = window_->findChild<PlanView*>();
    const auto at = [&](Vec2 p) { return mapped(p, plan->to_screen()).toPoint(); };
    const double x = board_design(*bench_)->board.last_fret_x + 9;
    QTest::mousePress(plan, Qt::LeftButton, {}, at({x, 0}));
    for (int k = 1; k <= 5; ++k) QTest::mouseMove(plan, at({x + k, 0}));
    QTest::mouseRelease(plan, Qt::LeftButton, {}, at({x + 5, 0}));
    QVERIFY(std::abs(board_of(bench_->project()).instrument.board.overhang - 14) < 1.0);
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(board_of(bench_->project()).instrument.board.overhang, 9.0);
    settled();
    const double s = tabs_of(bench_->planned("fretboard").get(), "top").along[0];
    const Vec2 tab = place_along(board_design(*bench_)->board.outline, s).at;
    QTest::mousePress(plan, Qt::LeftButton, {}, at(tab));
    QTest::mouseMove(plan, at(tab + Vec2{25, 0}));
    QTest::mouseRelease(plan, Qt::LeftButton, {}, at(tab + Vec2{25, 0}));
    QCOMPARE(board_of(bench_->project()).work.tab_places.size(), std::size_t(4));
    QVERIFY(std::abs(board_of(bench_->project()).work.tab_places[0] - s) > 15);
  }

  void a_worked_out_number_is_pinned_by_typing_into_it() {
    choose("fretboard.cut.top.crown");
    settled();
    QTest::qWait(10);
    type(QStringLiteral("crown.stepover_used"), QStringLiteral("2"));
    QCOMPARE(board_of(bench_->project()).work.crown_stepover, 2.0);
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(board_of(bench_->project()).work.crown_stepover, 0.0);
  }

  void the_crown_table_offers_a_choice() {
    CrownDialog dialog(*bench_, window_.get());
    dialog.show();
    auto* table = dialog.findChild<QTableWidget*>();
    QTRY_VERIFY_WITH_TIMEOUT(table->rowCount() > 8, 20000);
    for (int row = 0; row < table->rowCount(); ++row)
      if (table->item(row, 0)->text() == QStringLiteral("ball-6.35") &&
          table->item(row, 1)->text() == QStringLiteral("along"))
        table->selectRow(row);
    QTest::mouseClick(dialog.findChild<QPushButton*>(QStringLiteral("main")), Qt::LeftButton);
    bench_->catch_up();
    QCOMPARE(board_of(bench_->project()).work.crown_cutter, std::string("ball-6.35"));
  }

  void unsaved_work_is_kept_beside_the_file() {
    choose("fretboard.frets");
    type(QStringLiteral("frets.count"), QStringLiteral("23"));
    const auto autosave = beside(bench_->path(), "autosave");
    QTRY_VERIFY_WITH_TIMEOUT(std::filesystem::exists(autosave), 5000);
    const auto kept = lost_work(all_parts().book(), bench_->path());
    QVERIFY(kept.has_value());
    QCOMPARE(board_of(kept->project).instrument.frets.count, 23);
    // One edit every half second does not keep it from being written.
    for (int k = 0; k < 6; ++k) {
      QVERIFY(!bench_->edit("board.overhang", fmt::to_string(10 + k)));
      QTest::qWait(500);
    }
    QVERIFY(board_of(lost_work(all_parts().book(), bench_->path())->project).instrument.board.overhang > 10);
    QTest::keyClick(window_.get(), Qt::Key_S, Qt::ControlModifier);
    QVERIFY(!std::filesystem::exists(autosave));
    QVERIFY(!bench_->history().modified());
  }

  void saving_while_unsaved_work_is_being_written_leaves_none_behind() {
    const auto autosave = beside(bench_->path(), "autosave");
    // Written a second and a half after the edit, beside the window: about then it is saved, and for good.
    for (const int after : {1494, 1503, 1512, 1530}) {
      QVERIFY(!bench_->edit("board.overhang", fmt::to_string(after / 100.0)));
      QTest::qWait(after);
      QVERIFY(!bench_->save(bench_->path()));
      QVERIFY(!std::filesystem::exists(autosave));
      QTest::qWait(120);
      QVERIFY2(!std::filesystem::exists(autosave), qPrintable(QString::number(after)));
    }
    QVERIFY(!bench_->history().modified());
    QVERIFY(!std::filesystem::exists(beside(bench_->path(), "autosave").string() + ".bak"));
  }

  void every_control_has_a_name_for_those_who_do_not_see_it() {
    for (const char* line : {"fretboard.strings", "fretboard.frets", "fretboard.shape", "fretboard.crown",
                             "fretboard.slots", "fretboard.marks", "fretboard.blank", "fretboard.setup",
                             "fretboard.test_slot", "machine", "rack", "fretboard.cut.top.outline", "neck.back",
                             "neck.rod", "neck.tuners", "neck.blank", "neck.setup", "neck.measure"}) {
      choose(line);
      for (QWidget* w : window_->findChildren<QWidget*>()) {
        if (!w->isVisible() || w->focusPolicy() == Qt::NoFocus) continue;
        if (qobject_cast<QLineEdit*>(w) == nullptr && qobject_cast<QComboBox*>(w) == nullptr &&
            qobject_cast<QCheckBox*>(w) == nullptr && qobject_cast<QSlider*>(w) == nullptr &&
            qobject_cast<QListWidget*>(w) == nullptr)
          continue;
        QVERIFY2(!w->accessibleName().isEmpty(), qPrintable(w->objectName()));
      }
    }
  }

  void the_neck_from_its_numbers_to_both_sides_programs() {
    bench_->replace(*project_from("reedling"));
    QVERIFY(!bench_->save(folder_.filePath(QStringLiteral("neck.wren")).toStdString()).has_value());
    choose("neck.back");
    QCOMPARE(bench_->part(), std::string("neck"));
    QCOMPARE(window_->view(), View::surface);
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("neck") != nullptr, 60000);
    // Thickness and shape typed in: the picture follows, one step each.
    type(QStringLiteral("neck.thickness_a"), QStringLiteral("16"));
    QCOMPARE(neck_of(bench_->project()).neck.back.thickness_a, 16.0);
    // The rod now comes too near: told, with several ways out; one of them is taken.
    QList<QPushButton*> ways;
    for (QPushButton* b : window_->findChildren<QPushButton*>(QStringLiteral("repair")))
      if (b->isVisibleTo(window_.get()) && b->property("kind").toString().startsWith(QStringLiteral("neck.")))
        ways << b;
    QVERIFY(ways.size() >= 2);
    const double skin = neck_design(*bench_)->skin.least;
    QTest::mouseClick(ways.first(), Qt::LeftButton);
    bench_->catch_up();
    QVERIFY(neck_design(*bench_)->skin.least > skin);
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(neck_of(bench_->project()).neck.back.thickness_a, 21.0);
    // The head: a split that puts tuners on top of each other stops the work.
    choose("neck.tuners");
    type(QStringLiteral("head.tuners_bass"), QStringLiteral("3"));
    QVERIFY(stops_work(bench_->remarks()));
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(!stops_work(bench_->remarks()));
    // Alignment, and its pictures of both sides.
    choose("neck.setup");
    QCOMPARE(window_->view(), View::bed);
    pick(QStringLiteral("neck.alignment"), QStringLiteral("ticks"));
    QVERIFY(neck_design(*bench_)->misfit.at({300, 0}) > 0.3);
    pick(QStringLiteral("neck.alignment"), QStringLiteral("pins"));
    type(QStringLiteral("neck.pin_offset"), QStringLiteral("9"));
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("neck") != nullptr, 60000);
    // Both sides as one piece of wood; then the programs and the sheet.
    choose("neck.rehearsal");
    QTRY_VERIFY_WITH_TIMEOUT(window_->rehearsal()->ready(), 120000);
    QTest::keyClick(window_.get(), Qt::Key_R, Qt::ControlModifier);
    QVERIFY(bench_->proving());
    QTRY_VERIFY_WITH_TIMEOUT(bench_->proof("neck") != nullptr, 180000);
    QVERIFY(bench_->proof("neck")->passed());
    const QString programs = folder_.filePath(QStringLiteral("neck-programs"));
    window_->write_programs_into(programs);
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(programs + QStringLiteral("/neck/manifest.json")), 30000);
    QVERIFY(QDir(programs + QStringLiteral("/neck")).entryList({QStringLiteral("*.ngc")}).size() >= 10);
    QVERIFY(window_->write_sheet_to(folder_.filePath(QStringLiteral("neck.pdf"))));
    for (const char* what : {"a.stl", "plan.dxf", "sections.dxf", "a.csv", "templates.pdf"}) {
      const QString file = folder_.filePath(QStringLiteral("neck-%1").arg(QLatin1String(what)));
      const QString name = QLatin1String(what);
      const QString content = name.endsWith(QStringLiteral(".dxf")) ? name.chopped(4) : QString();
      QVERIFY2(window_->export_to(file, "neck", content), what);
      QVERIFY(QFileInfo(file).size() > 2000);
    }
    // Measured after sanding: what waits for it follows.
    choose("neck.measure");
    for (const char* key : {"neck.heel_width", "neck.heel_length_made", "neck.heel_in_all"})
      type(QStringLiteral("measured.") + QLatin1String(key), QStringLiteral("55.41"));
    QCOMPARE(bench_->project().record.measured.size(), std::size_t(3));
    QVERIFY(!bench_->project().record.measured.front().date.empty());
    for (const BuildLine& l : bench_->sheet())
      if (l.id == "body.pocket") QVERIFY(!l.waits);
  }

  void the_neck_s_pictures_show_and_are_dragged_in() {
    choose("neck.head");
    for (const View view : {View::plan, View::side, View::solid, View::surface, View::bed}) {
      window_->show_view(view);
      QTest::qWait(30);
      const QImage picture = window_->grab().toImage();
      QSet<QRgb> seen;
      for (int y = 90; y < 440; y += 7)
        for (int x = 260; x < 1260; x += 7) seen.insert(picture.pixel(x, y));
      QVERIFY2(seen.size() > 4, "an empty picture");
    }
    // The heel is dragged longer in the plan, as one step.
    window_->show_view(View::plan);
    QTest::qWait(30);
    auto* plan = window_->findChild<NeckPlanView*>();
    const auto at = [&](Vec2 p) { return mapped(p, plan->to_screen()).toPoint(); };
    const double before = neck_of(bench_->project()).neck.heel.start;
    const double x = neck_design(*bench_)->shape.heel_x;
    QTest::mousePress(plan, Qt::LeftButton, {}, at({x, 0}));
    for (int k = 1; k <= 4; ++k) QTest::mouseMove(plan, at({x - 3.0 * k, 0}));
    QTest::mouseRelease(plan, Qt::LeftButton, {}, at({x - 12, 0}));
    QVERIFY(std::abs(neck_of(bench_->project()).neck.heel.start - before - 12) < 2);
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QCOMPARE(neck_of(bench_->project()).neck.heel.start, before);
    // The knife follows the mouse in the side view.
    window_->show_view(View::side);
    QTest::qWait(30);
    auto* side = static_cast<NeckSideView*>(window_->own_view("neck", View::side));
    QTRY_VERIFY(side->height() > 300);  // laid out
    hover(side, QPoint(side->width() / 2, 60));
    const double knife = side->knife();
    hover(side, QPoint(side->width() / 2 + 100, 60));
    QVERIFY(side->knife() > knife + 10);
  }

  void measured_sections_are_loaded_and_faired_and_let_go() {
    choose("neck.back");
    const QString csv = folder_.filePath(QStringLiteral("sections.csv"));
    QString text = QStringLiteral("x,y,depth\n");
    for (int x = 30; x <= 350; x += 20)
      for (int k = 0; k <= 24; ++k) {
        const NeckShape& n = neck_design(*bench_)->shape;
        const auto t = n.taper(x);
        const double y = t.middle - t.half * 0.99 * std::cos(M_PI * k / 24);
        text += QStringLiteral("%1,%2,%3\n")
                    .arg(x)
                    .arg(y)
                    .arg(n.depth({static_cast<double>(x), y}) + (x == 190 ? 0.7 * std::sin(M_PI * k / 24) : 0));
      }
    QFile file(csv);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(text.toUtf8());
    file.close();
    QVERIFY(!load_sections(*bench_, csv.toStdString()).has_value());
    QVERIFY(!neck_design(*bench_)->shape.measured.empty());
    type(QStringLiteral("neck.fair_within"), QStringLiteral("0"));
    const double lump = std::abs(neck_design(*bench_)->lump.height);
    QVERIFY(lump > 0.25);
    type(QStringLiteral("neck.fair_within"), QStringLiteral("0.5"));
    QVERIFY(std::abs(neck_design(*bench_)->lump.height) < 0.6 * lump);
    const QString broken = folder_.filePath(QStringLiteral("broken.csv"));
    QFile bad(broken);
    QVERIFY(bad.open(QIODevice::WriteOnly));
    bad.write("x,y,depth\n10,0\n");
    bad.close();
    const auto problem = load_sections(*bench_, broken.toStdString());
    QVERIFY(problem.has_value());
    QVERIFY(!neck_design(*bench_)->shape.measured.empty());
    // Typed in, point by point, in inches and millimetres.
    QVERIFY(!type_sections_into(*bench_,
                                "40, -21, 0\n40, 0, 9/16 in\n40, 21, 0\n240, -24, 0\n240, -10, 14\n240, 0, 15.5\n240, "
                                "10, 14\n240, 24, 0\n")
                 .has_value());
    QCOMPARE(neck_of(bench_->project()).neck.back.sections.size(), std::size_t(2));
    QVERIFY(type_sections_into(*bench_, "40, 0\n").has_value());
    forget_sections(*bench_);
    QVERIFY(neck_design(*bench_)->shape.measured.empty());
  }

  void an_impossible_neck_says_why_and_takes_nothing_with_it() {
    choose("neck.rod");
    type(QStringLiteral("rod.length"), QStringLiteral("900"));
    QVERIFY(neck_design(*bench_) == nullptr);
    QVERIFY(bench_->problem("neck") != nullptr);
    QVERIFY(board_design(*bench_) != nullptr);
    QVERIFY(!bench_->remarks().empty());
    window_->show_view(View::plan);
    window_->repaint();
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(neck_design(*bench_) != nullptr);
  }

  void an_edit_shows_within_the_blink_of_an_eye() {
    // Reported, not asserted to the millisecond: the benchmark measures it. Here only that it is no freeze.
    choose("fretboard.strings");
    window_->show_view(View::plan);
    QTest::qWait(30);
    const double wide = board_of(bench_->project()).instrument.strings.nut_spread;
    QElapsedTimer timer;
    timer.start();
    QVERIFY(!bench_->type("strings.nut_spread", "36"));
    const qint64 held = timer.elapsed();
    while (board_design(*bench_)->board.given.strings.nut_spread != 36 && timer.elapsed() < 5000)
      QCoreApplication::processEvents(QEventLoop::AllEvents, 2);
    window_->repaint();
    const qint64 picture = timer.elapsed();
    QTRY_VERIFY_WITH_TIMEOUT(board_of(bench_->project()).instrument.strings.nut_spread == 36, 5000);
    qInfo("window held %lld ms, edit to picture %lld ms, to all that follows %lld ms", static_cast<long long>(held),
          static_cast<long long>(picture), static_cast<long long>(timer.elapsed()));
    QVERIFY(held < 500);
    QVERIFY(timer.elapsed() < 5000);
    bench_->undo();
    QCOMPARE(board_of(bench_->project()).instrument.strings.nut_spread, wide);
  }
};

int run_bench_story(int argc, char** argv);
int run_body_story(int argc, char** argv);
int run_schools_story(int argc, char** argv);
int run_stuff_story(int argc, char** argv);
int run_shop_story(int argc, char** argv);
int run_keys_story(int argc, char** argv);
int run_requests_story(int argc, char** argv);
int run_language_story(int argc, char** argv);

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("upland-wren-test"));
  QApplication::setOrganizationName(QStringLiteral("upland-wren-test"));
  QApplication::setStyle(QStringLiteral("Fusion"));
  load_fonts();
  translate_window(application);
  Story story;
  const int first = QTest::qExec(&story, argc, argv);
  return first + run_keys_story(argc, argv) + run_body_story(argc, argv) + run_stuff_story(argc, argv) +
         run_bench_story(argc, argv) + run_schools_story(argc, argv) + run_shop_story(argc, argv) +
         run_requests_story(argc, argv) + run_language_story(argc, argv);
}

#include "story_test.moc"

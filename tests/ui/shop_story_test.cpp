// The shop and a machine in the window, by mouse and keys: a cutter drawn into the rack, measured and used; the coupon
// run on the simulated machine from the step view, the connection lost, begun again, the slot measured in its wood, the
// number back in the project, the run log read.
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QProcess>
#include <QPushButton>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTextBrowser>
#include <QTimer>
#include <QtTest/QtTest>

#include <fstream>
#include <utility>

#include "app/cutter_change_dialog.hpp"
#include "app/cutter_dialog.hpp"
#include "app/main_window.hpp"
#include "app/materials_dialog.hpp"
#include "app/preflight_dialog.hpp"
#include "core/job/program_folder.hpp"

using namespace wren;
using namespace wren::app;

class ShopStory : public QObject {
  Q_OBJECT

  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  std::unique_ptr<QTemporaryDir> folder_;
  QProcess machine_;
  QString address_;

  [[nodiscard]] QString file(const char* name) const { return folder_->filePath(QString::fromUtf8(name)); }
  template <class W>
  static W* named(QWidget* in, const QString& name) {
    for (W* w : in->findChildren<W*>())
      if (w->isVisible() && w->accessibleName() == name) return w;
    return nullptr;
  }
  static QPushButton* button(QWidget* in, const QString& text) {
    for (auto* b : in->findChildren<QPushButton*>())
      if (b->isVisible() && b->text() == text) return b;
    return nullptr;
  }
  static void press(QWidget* in, const QString& text) {
    QPushButton* b = nullptr;
    QTRY_VERIFY2_WITH_TIMEOUT((b = button(in, text)) != nullptr && b->isEnabled(), qPrintable(text), 15000);
    QTest::mouseClick(b, Qt::LeftButton);
  }
  /// The dialog that opens next is worked on by `deed`, which has to close it.
  template <class Deed>
  static void in_dialog(Deed deed) {
    QTimer::singleShot(200, [deed] {
      auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
      QVERIFY(dialog != nullptr);
      deed(dialog);
      if (dialog->isVisible()) {
        dialog->reject();
        QFAIL("the dialog was left open");
      }
    });
  }
  static void type(QLineEdit* edit, const QString& text) {
    QVERIFY(edit != nullptr);
    edit->setFocus();
    edit->selectAll();
    QTest::keyClick(edit, Qt::Key_Delete);
    QTest::keyClicks(edit, text);
  }
  [[nodiscard]] BuildLine line(const std::string& id) const {
    for (const BuildLine& l : bench_->sheet())
      if (l.id == id) return l;
    return {};
  }
  void start_machine(const QStringList& options) {
    machine_.start(QCoreApplication::applicationDirPath() + QStringLiteral("/wren-machine"),
                   QStringList{QStringLiteral("--port"), QStringLiteral("0")} + options);
    QVERIFY(machine_.waitForStarted());
    QTRY_VERIFY_WITH_TIMEOUT(machine_.canReadLine(), 5000);
    address_ = QString::fromUtf8(machine_.readLine())
                   .section(QStringLiteral("listens on "), 1)
                   .section(QLatin1Char(' '), 0, 0)
                   .trimmed();
    QVERIFY(address_.startsWith(QStringLiteral("127.0.0.1:")));
  }
  /// Planned, proved and written at the desk; the step view then, at its first step.
  void write_part(const char* part) {
    window_->choose_line(std::string(part) + ".programs");
    bench_->set_part(part);
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned(part) != nullptr, 60000);
    bench_->prove_all();
    QTRY_VERIFY_WITH_TIMEOUT(bench_->proof(part) != nullptr, 300000);
    QVERIFY(bench_->proof(part)->passed());
    window_->write_programs_into(file("out"));
    QTRY_VERIFY_WITH_TIMEOUT(bench_->written_sets().contains(part), 20000);
    std::string first;
    for (const BuildLine& l : bench_->sheet())
      if (l.id.starts_with(std::string(part) + ".cut.") && first.empty()) first = l.id;
    window_->choose_line(first);
    window_->show_step(true);
  }
  void connect_machine() {
    in_dialog([this](QDialog* dialog) {
      auto* which = named<QComboBox>(dialog, QStringLiteral("Address"));
      QVERIFY(which != nullptr);
      which->lineEdit()->selectAll();
      QTest::keyClicks(which->lineEdit(), address_);
      QTest::mouseClick(button(dialog, QStringLiteral("Connect")), Qt::LeftButton);
    });
    press(window_->step_view(), QStringLiteral("Machine…"));
    QTRY_VERIFY_WITH_TIMEOUT(window_->desk().connected(), 10000);
    QTRY_VERIFY(window_->desk().state().word == "unhomed");
  }
  /// Every step of the part one after another, as the view walks through them; the wood is laid for the first and
  /// turned over where another side begins.
  void run_all_steps() {
    StepView* step = window_->step_view();
    const auto steps = step->steps();
    QVERIFY(!steps.empty());
    std::string side;
    for (std::size_t i = 0; i < steps.size(); ++i) {
      QCOMPARE(step->line(), steps[i].lines.front());
      run_step(false, false, side != steps[i].side);
      side = steps[i].side;
      const auto runs = window_->shop().runs();
      QCOMPARE(runs.size(), i + 1);
      QVERIFY2(runs.front().outcome == "done", steps[i].file.c_str());
      QTRY_VERIFY(line(steps[i].lines.front()).state == LineState::cut);
      if (i + 1 < steps.size()) press(step, QString::fromUtf8("›"));
    }
    for (const Run& r : window_->shop().runs())
      for (const RunEvent& e : r.events)  // a hand may have pressed "Go on" once more than was needed
        QVERIFY2(e.kind != "refused" || e.words.find("resume") != std::string::npos, e.words.c_str());
  }
  /// What the wood says at a place of the part, through the dialog; taken for a number whose name holds `into`.
  double measured_in_wood(const QString& what, Vec2 place, double runs_at, const QString& into) {
    double answer = -1;
    in_dialog([&, what, place, runs_at, into](QDialog* dialog) {
      auto* kind = named<QComboBox>(dialog, QStringLiteral("What is measured in the simulated wood"));
      QVERIFY(kind != nullptr);
      kind->setCurrentIndex(kind->findData(what));
      type(named<QLineEdit>(dialog, QStringLiteral("Simulated wood, x")), QString::number(place.x, 'f', 4));
      type(named<QLineEdit>(dialog, QStringLiteral("Simulated wood, y")), QString::number(place.y, 'f', 4));
      if (auto* angle = named<QLineEdit>(dialog, QStringLiteral("Simulated wood, along °")); angle->isEnabled())
        type(angle, QString::number(runs_at));
      QTest::mouseClick(button(dialog, QStringLiteral("Ask the simulated wood")), Qt::LeftButton);
      auto* said = named<QLabel>(dialog, QStringLiteral("What the wood measures"));
      QTRY_VERIFY2_WITH_TIMEOUT(
          said->text().contains(QStringLiteral("mm")) || said->text().contains(QStringLiteral("wide")),
          qPrintable(QStringLiteral("%1: '%2', %3 %4")
                         .arg(what, said->text())
                         .arg(window_->desk().connected())
                         .arg(window_->desk().busy())),
          20000);
      bool number = false;
      answer = said->text().section(QLatin1Char(' '), 0, 0).toDouble(&number);
      QVERIFY2(number, qPrintable(said->text()));
      auto* takes = named<QComboBox>(dialog, QStringLiteral("The number it is taken for"));
      QVERIFY(takes != nullptr);
      int at = -1;
      for (int k = 0; k < takes->count(); ++k)
        if (takes->itemText(k).contains(into, Qt::CaseInsensitive) && at < 0) at = k;
      QVERIFY2(at >= 0, qPrintable(into));
      takes->setCurrentIndex(at);
      QTest::mouseClick(button(dialog, QStringLiteral("Take it for")), Qt::LeftButton);
      QTest::mouseClick(button(dialog, QStringLiteral("Keep what was measured")), Qt::LeftButton);
    });
    press(window_->step_view(), QStringLiteral("Measure…"));
    return answer;
  }

  /// The step's program, past its preflight: what can be done is done, everything asked is ticked.
  void run_step(bool air, bool again = false, bool lay = true) {
    StepView* step = window_->step_view();
    in_dialog([this, air, again, lay](QDialog* dialog) {
      auto* preflight = qobject_cast<PreflightDialog*>(dialog);
      QVERIFY(preflight != nullptr);
      QPushButton* start = button(dialog, QStringLiteral("Run it"));
      if (start == nullptr) start = button(dialog, QStringLiteral("Run it through air"));
      QVERIFY(start != nullptr);
      QVERIFY(!start->isEnabled());  // nothing is ticked yet
      const auto deed = [&](const char* text) {
        // Rows are made anew when something is new: looked for a while.
        QPushButton* b = nullptr;
        for (int k = 0; k < 20 && b == nullptr; ++k) {
          b = button(dialog, QString::fromUtf8(text));
          if (b == nullptr) QTest::qWait(40);
        }
        if (b == nullptr) return;
        QTRY_VERIFY((b = button(dialog, QString::fromUtf8(text))) != nullptr && b->isEnabled());
        QTest::mouseClick(b, Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!window_->desk().busy(), 15000);
        QCoreApplication::processEvents();
      };
      deed("Home it");
      if (lay) deed(button(dialog, QStringLiteral("Turn it over")) != nullptr ? "Turn it over" : "Lay a fresh blank");
      deed("Put it in");
      deed("Set it by the sheet");
      deed("Probe z there");
      for (auto* box : dialog->findChildren<QCheckBox*>()) {
        if (box->accessibleName().startsWith(QStringLiteral("First through air")) && box->isChecked() != air)
          box->click();
        if (box->accessibleName().startsWith(QStringLiteral("Begin again")) && box->isVisible() &&
            box->isChecked() != again)
          box->click();
      }
      QCoreApplication::processEvents();
      QTRY_VERIFY(!window_->desk().busy());
      for (auto* box : dialog->findChildren<QCheckBox*>())
        if (!box->objectName().isEmpty() && box->isVisible() && !box->isChecked()) {
          box->setFocus();
          QTest::keyClick(box, Qt::Key_Space);
        }
      start = button(dialog, air     ? QStringLiteral("Run it through air")
                             : again ? QStringLiteral("Begin again there")
                                     : QStringLiteral("Run it"));
      QVERIFY(start != nullptr);
      QTRY_VERIFY_WITH_TIMEOUT(start->isEnabled(), 10000);
      QTest::mouseClick(start, Qt::LeftButton);
      QTRY_VERIFY_WITH_TIMEOUT(!dialog->isVisible(), 20000);
    });
    press(step, QStringLiteral("Run…"));
    // Where the program asks for a hand (pins to be set), the hand has done it.
    QElapsedTimer waited;
    waited.start();
    while (window_->desk().running() && waited.elapsed() < 60000) {
      if (QPushButton* go = button(step, QStringLiteral("Go on"))) QTest::mouseClick(go, Qt::LeftButton);
      QTest::qWait(20);
    }
    QVERIFY(!window_->desk().running());
    QCoreApplication::processEvents();
  }

 private Q_SLOTS:
  void init() {
    folder_ = std::make_unique<QTemporaryDir>();
    const std::string project = file("reedling.wren").toStdString();
    QVERIFY(save_project(project, *project_from("reedling")).has_value());
    bench_ = std::make_unique<Workbench>(*project_from("plain"));
    window_ = std::make_unique<MainWindow>(*bench_);
    window_->shop().set_file(file("shop.sqlite").toStdString());
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
    machine_.terminate();
    machine_.waitForFinished(5000);
  }

  void a_cutter_is_drawn_into_the_rack_measured_used_and_retired() {
    window_->choose_line("rack");
    RackView* rack = window_->rack_view();
    QVERIFY(rack->isVisible());
    press(rack, QStringLiteral("Begin with this project's cutters and machine"));
    QCOMPARE(window_->shop().cutters().size(), bench_->project().rack.size());
    const auto remarks = bench_->remarks();
    QVERIFY(std::none_of(remarks.begin(), remarks.end(), [](const Remark& r) { return r.kind == "rack.differs"; }));
    // Chosen with the mouse, walked along with the arrows.
    RackDrawing* drawing = rack->drawing();
    QTest::mouseClick(drawing, Qt::LeftButton, Qt::NoModifier, drawing->place_of("flat-1.5").center());
    QCOMPARE(drawing->chosen(), std::string("flat-1.5"));
    QTest::keyClick(drawing, Qt::Key_Right);
    QCOMPARE(drawing->chosen(), std::string("flat-3.175"));

    // A new one like it, drawn: its edge, its shoulder and its tip are dragged.
    in_dialog([](QDialog* d) {
      auto* dialog = qobject_cast<CutterDialog*>(d);
      QVERIFY(dialog != nullptr);
      QPushButton* keep = button(d, QStringLiteral("Put it into the rack"));
      QVERIFY(!keep->isEnabled());  // it has no name yet
      type(named<QLineEdit>(d, QStringLiteral("Name")), QStringLiteral("flat-6"));
      QVERIFY(keep->isEnabled());
      CutterDrawing* drawn = dialog->drawing();
      const auto drag = [&](CutterDrawing::Handle handle, QPointF by) {
        const QPoint from = drawn->place_of(handle).toPoint();
        QTest::mousePress(drawn, Qt::LeftButton, Qt::NoModifier, from);
        QTest::mouseMove(drawn, from + (by / 2).toPoint());
        QTest::mouseMove(drawn, from + by.toPoint());
        QTest::mouseRelease(drawn, Qt::LeftButton, Qt::NoModifier, from + by.toPoint());
      };
      const double was = dialog->cutter().diameter;
      drag(CutterDrawing::Handle::edge, {20, 0});
      QVERIFY(dialog->cutter().diameter > was + 1);
      // Flutes longer than the cutter: said at once, and not to be kept.
      type(named<QLineEdit>(d, QStringLiteral("Cutting length")), QStringLiteral("90"));
      QVERIFY(!keep->isEnabled());
      type(named<QLineEdit>(d, QStringLiteral("Cutting length")), QStringLiteral("20"));
      type(named<QLineEdit>(d, QStringLiteral("Nominal diameter")), QStringLiteral("6"));
      type(named<QLineEdit>(d, QStringLiteral("Overall")), QStringLiteral("50"));
      drag(CutterDrawing::Handle::tip, {0, 30});
      QVERIFY(dialog->cutter().stickout > 20);
      type(named<QLineEdit>(d, QStringLiteral("Stickout")), QStringLiteral("26"));
      // A number that another cutter has.
      type(named<QLineEdit>(d, QStringLiteral("T number")), QStringLiteral("1"));
      QVERIFY(!keep->isEnabled());
      type(named<QLineEdit>(d, QStringLiteral("T number")), QStringLiteral("20"));
      QTest::mouseClick(keep, Qt::LeftButton);
    });
    press(rack, QStringLiteral("Add one like it…"));
    QCOMPARE(drawing->chosen(), std::string("flat-6"));

    // Measured, with a note; the book keeps both facts.
    in_dialog([](QDialog* d) {
      type(named<QLineEdit>(d, QStringLiteral("Measured diameter")), QStringLiteral("5.98"));
      type(named<QLineEdit>(d, QStringLiteral("Note")), QStringLiteral("micrometer"));
      QTest::mouseClick(button(d, QStringLiteral("Keep it so from now on")), Qt::LeftButton);
    });
    press(rack, QStringLiteral("Measure or change…"));
    const auto history = window_->shop().history_of("flat-6");
    QCOMPARE(history.size(), std::size_t{2});
    QCOMPARE(history.back().what, std::string("measured"));
    QCOMPARE(history.back().thing.measured.value_or(0), 5.98);

    // Into the project, used there: the cuts that change are those that name it; one undo takes each step back.
    press(rack, QStringLiteral("Take it into this project"));
    QVERIFY(find_cutter(bench_->project().rack, "flat-6") != nullptr);
    const std::string before = bench_->followed().fingerprints.at("neck");
    const std::string board = bench_->followed().fingerprints.at("fretboard");
    QVERIFY(!bench_->edit("neck.hole_cutter", "flat-6"));
    QVERIFY(bench_->followed().fingerprints.at("neck") != before);
    QCOMPARE(bench_->followed().fingerprints.at("fretboard"), board);
    window_->choose_line("rack");
    drawing->choose("flat-6");
    QVERIFY(rack->findChild<QLabel*>() != nullptr);
    bool told = false;
    for (auto* label : rack->findChildren<QLabel*>())
      told = told || label->text().contains(QStringLiteral("Hole cutter"));
    QVERIFY(told);
    bench_->undo();
    bench_->undo();
    QVERIFY(find_cutter(bench_->project().rack, "flat-6") == nullptr);

    // What differs is a remark with both ways out.
    QVERIFY(!bench_->edit("rack.flat-6.35.stickout", "33"));
    const auto remark_of = [&]() -> std::optional<Remark> {
      for (const Remark& r : bench_->remarks())
        if (r.kind == "rack.differs" && r.sentence.find("flat-6.35 ") != std::string::npos) return r;
      return {};
    };
    auto remark = remark_of();
    QVERIFY(remark);
    QVERIFY(remark->sentence.find("stickout 33 here, 30 in the shop") != std::string::npos);
    QVERIFY(!bench_->edit(remark->others.front().edits, remark->others.front().label));
    QVERIFY(!remark_of());
    QCOMPARE(window_->shop().history_of("flat-6.35").back().thing.stickout, 33.0);
    QVERIFY(!bench_->edit("rack.flat-6.35.stickout", "31"));
    remark = remark_of();
    QVERIFY(remark);
    QVERIFY(!bench_->edit(remark->repair->edits, remark->repair->label));
    QCOMPARE(find_cutter(bench_->project().rack, "flat-6.35")->stickout, 33.0);

    // Retired, it hangs there as a ghost; the project that names it is told.
    drawing->choose("flat-6.35");
    press(rack, QStringLiteral("Retire it"));
    remark = remark_of();
    QVERIFY(remark && remark->sentence.find("retired") != std::string::npos);
    press(rack, QStringLiteral("Bring it back"));
    QVERIFY(!remark_of());
  }

  void the_machines_numbers_stand_on_its_picture_and_lead_to_their_fields() {
    window_->choose_line("machine");
    MachineView* view = window_->machine_view();
    QVERIFY(view->isVisible());
    view->repaint();
    for (const char* key : {"machine.travel_x", "machine.travel_y", "machine.travel_z", "machine.clear_under_nut",
                            "machine.nose_diameter", "machine.park_x", "machine.spindle_low", "machine.max_feed_x"}) {
      const QRect box = view->place_of(key);
      QVERIFY2(!box.isEmpty(), key);
      QVERIFY2(view->rect().contains(box), key);
    }
    QTest::mouseClick(view, Qt::LeftButton, Qt::NoModifier, view->place_of("machine.travel_z").center());
    QCoreApplication::processEvents();
    auto* edit = qobject_cast<QLineEdit*>(QApplication::focusWidget());
    QVERIFY(edit != nullptr);
    QCOMPARE(edit->objectName(), QStringLiteral("machine.travel_z"));
  }

  void a_machine_that_differs_from_the_shops_is_a_remark_with_both_ways_out() {
    QVERIFY(!window_->shop().begin(ShopBook::Begin::empty, true));
    const auto remark = [&]() -> std::optional<Remark> {
      for (const Remark& r : bench_->remarks())
        if (r.kind == "machine.differs") return r;
      return {};
    };
    QVERIFY(!remark());
    QVERIFY(!bench_->edit("machine.travel_z", "95"));
    auto told = remark();
    QVERIFY(told);
    QVERIFY(!bench_->edit(told->repair->edits, told->repair->label));
    QCOMPARE(bench_->project().machine.travel.z, 100.0);
    QVERIFY(!remark());
    QVERIFY(!bench_->edit("machine.travel_z", "95"));
    told = remark();
    QVERIFY(told);
    QVERIFY(!bench_->edit(told->others.front().edits, told->others.front().label));
    QCOMPARE(window_->shop().machines().front().thing.machine.travel.z, 95.0);
    QVERIFY(!remark());
  }

  void a_book_that_cannot_be_read_is_said_where_the_rack_would_be() {
    std::ofstream(file("shop.sqlite").toStdString())
        << "this is no database at all, but a letter that is longer than a hundred bytes, "
           "so that it cannot be taken for an empty one.";
    window_->shop().set_file(file("shop.sqlite").toStdString());
    window_->choose_line("rack");
    bool told = false;
    for (auto* label : window_->rack_view()->findChildren<QLabel*>())
      told = told || label->text().contains(QStringLiteral("damaged"));
    QVERIFY(told);
    QVERIFY(button(window_->rack_view(), QStringLiteral("Begin with the demo shop's (invented)")) == nullptr);
  }

  void the_coupon_on_the_simulated_machine() {
    QVERIFY(!window_->shop().begin(ShopBook::Begin::demo_shop, false));
    write_part("coupon");
    StepView* step = window_->step_view();
    const std::string slot = step->line();

    // Connected by its address; the program's first run is through air.
    start_machine(
        {QStringLiteral("--speed"), QStringLiteral("0"), QStringLiteral("--fault"), QStringLiteral("power-cut@30")});
    connect_machine();

    // On the way the machine's power goes: the connection with it. The log has what is known, and the cut is not said
    // to be made.
    run_step(false);
    auto runs = window_->shop().runs();
    QCOMPARE(runs.size(), std::size_t{1});
    QCOMPARE(runs[0].outcome, std::string("fault"));
    QVERIFY(line(slot).state != LineState::cut);
    QTRY_VERIFY_WITH_TIMEOUT(!window_->desk().busy(), 20000);
    QTRY_VERIFY_WITH_TIMEOUT(window_->desk().connected() && window_->desk().state().word == "unhomed", 10000);

    // Begun again there: homed, zero and z anew, the way in proved.
    run_step(false, true, false);
    runs = window_->shop().runs();
    QCOMPARE(runs.size(), std::size_t{2});
    QCOMPARE(runs[0].outcome, std::string("done"));
    QVERIFY(runs[0].from > 1);
    QTRY_VERIFY(line(slot).state == LineState::cut);
    QVERIFY(!runs[0].signed_by.empty());

    // Measured in the wood that lies there, and kept: the number flows back.
    in_dialog([this](QDialog* dialog) {
      QPushButton* ask = nullptr;
      for (auto* b : dialog->findChildren<QPushButton*>())
        if (b->text() == QStringLiteral("Ask the simulated wood")) ask = b;
      QVERIFY(ask != nullptr);
      QTest::mouseClick(ask, Qt::LeftButton);
      auto* said = named<QLabel>(dialog, QStringLiteral("What the wood measures"));
      QVERIFY(said != nullptr);
      QTRY_VERIFY_WITH_TIMEOUT(said->text().contains(QStringLiteral("wide")), 5000);
      const double width = said->text().section(QLatin1Char(' '), 0, 0).toDouble();
      QVERIFY2(std::abs(width - 0.58) < 0.03, qPrintable(said->text()));
      QLineEdit* field = nullptr;
      for (auto* edit : dialog->findChildren<QLineEdit*>())
        if (field == nullptr && edit->accessibleName().contains(QStringLiteral("slot"), Qt::CaseInsensitive))
          field = edit;
      QVERIFY(field != nullptr);
      type(field, QStringLiteral("0.59"));
      QTest::mouseClick(button(dialog, QStringLiteral("Keep what was measured")), Qt::LeftButton);
    });
    press(step, QStringLiteral("Measure…"));
    bench_->catch_up();
    bool measured = false;
    for (const Measured& m : bench_->project().record.measured) measured = measured || std::abs(m.value - 0.59) < 1e-9;
    QVERIFY(measured);

    // The log tells both, with what happened; a note is kept.
    window_->show_step(false);
    window_->choose_line("runs");
    RunsView* log = window_->runs_view();
    QVERIFY(log->isVisible());
    QCOMPARE(log->table()->rowCount(), 2);
    log->table()->setCurrentCell(1, 0);
    auto* story = named<QTextBrowser>(log, QStringLiteral("What happened"));
    QVERIFY(story != nullptr);
    QVERIFY(story->toPlainText().contains(QStringLiteral("power")));
    type(named<QLineEdit>(log, QStringLiteral("A note about this run")), QStringLiteral("the fuse"));
    press(log, QStringLiteral("Keep the note"));
    QVERIFY(window_->shop().runs()[1].events.back().words.find("the fuse") != std::string::npos);
  }

  void the_board_from_stock_to_its_measured_slot() {
    QVERIFY(!window_->shop().begin(ShopBook::Begin::demo_shop, false));
    write_part("fretboard");
    start_machine({QStringLiteral("--speed"), QStringLiteral("0")});
    connect_machine();
    run_all_steps();
    const Side& side = bench_->planned("fretboard")->made.pieces.front().sides.front();
    const Vec2 twelfth = side.setup.to_work.apply({317.5, 8});
    const double width = measured_in_wood(QStringLiteral("groove"), twelfth, side.setup.to_work.quarter ? 0 : 90,
                                          QStringLiteral("slot"));
    QVERIFY2(std::abs(width - 0.58) < 0.03, qPrintable(QString::number(width)));
    bench_->catch_up();
    const auto lines = bench_->ledger_lines();
    QVERIFY(std::any_of(lines.begin(), lines.end(), [&](const LedgerLine& l) {
      const double* value = std::get_if<double>(&l.value);
      return l.editable && l.key.find("measured") != std::string::npos && value != nullptr &&
             std::abs(*value - width) < 0.006;
    }));
  }

  /// Both sides, turned over in between: some five minutes, so only where they are asked for.
  void the_neck_from_stock_to_its_measured_thickness() {
    if (!qEnvironmentVariableIsSet("WREN_HEAVY")) QSKIP("WREN_HEAVY is not set");
    QVERIFY(!window_->shop().begin(ShopBook::Begin::demo_shop, false));
    write_part("neck");
    start_machine({QStringLiteral("--speed"), QStringLiteral("0")});
    connect_machine();
    run_all_steps();
    // Against the solid that the design exports, beside the rod's channel.
    const Mesh mesh = bench_->kind().mesh(bench_->followed().input(bench_->cache()), mesh_for_picture);
    const Vec2 at{200, 10};
    double low = 1e9, high = -1e9;
    for (const auto& t : mesh.triangles) {
      const auto &a = mesh.points[t[0]], &b = mesh.points[t[1]], &c = mesh.points[t[2]];
      const double area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
      if (std::abs(area) < 1e-9) continue;
      const double v = ((at.x - a[0]) * (c[1] - a[1]) - (at.y - a[1]) * (c[0] - a[0])) / area;
      const double w = ((b[0] - a[0]) * (at.y - a[1]) - (b[1] - a[1]) * (at.x - a[0])) / area;
      if (v < 0 || w < 0 || v + w > 1) continue;
      const double z = a[2] + v * (b[2] - a[2]) + w * (c[2] - a[2]);
      low = std::min(low, z);
      high = std::max(high, z);
    }
    QVERIFY(high > low);
    const std::string last = window_->step_view()->steps().back().side;
    const auto planned = bench_->planned("neck");
    for (const Piece& piece : planned->made.pieces)
      for (const Side& side : piece.sides)
        if (side.id == last) {
          const double span =
              measured_in_wood(QStringLiteral("thickness"), side.setup.to_work.apply(turned(side.setup.turn, at)), 0,
                               QStringLiteral("thick"));
          QVERIFY2(std::abs(span - (high - low)) < 0.1, qPrintable(QString::number(span - (high - low))));
        }
  }

  void another_cutter_in_the_middle_of_a_program() {
    QVERIFY(!window_->shop().begin(ShopBook::Begin::demo_shop, false));
    QVERIFY(!bench_->edit("programs.files", "one"));
    write_part("coupon");
    start_machine({QStringLiteral("--speed"), QStringLiteral("0")});
    connect_machine();
    StepView* step = window_->step_view();
    // The machine waits at each change; nothing goes on before the cutter is in, ticked, and z is its own.
    int changes = 0;
    bool at_work = false;
    QTimer watch;
    connect(&watch, &QTimer::timeout, this, [&] {
      auto* dialog = qobject_cast<CutterChangeDialog*>(QApplication::activeModalWidget());
      if (dialog == nullptr) {
        QPushButton* change = button(step, QStringLiteral("Cutter…"));
        if (change != nullptr && QApplication::activeModalWidget() == nullptr)
          QTimer::singleShot(0, change, [change] { QTest::mouseClick(change, Qt::LeftButton); });
        return;
      }
      if (std::exchange(at_work, true)) return;
      // Just gone on from there: the machine has not told yet that it runs.
      if (!window_->desk().view().wants_z) {
        dialog->reject();
        at_work = false;
        return;
      }
      QPushButton* go = button(dialog, QStringLiteral("Go on"));
      QVERIFY(!go->isEnabled());
      auto* in = dialog->findChild<QCheckBox*>();
      QVERIFY(in->accessibleName().contains(QStringLiteral("in the spindle")));
      in->setFocus();
      QTest::keyClick(in, Qt::Key_Space);
      QVERIFY(in->isChecked());
      QVERIFY(!go->isEnabled());  // z is still the last cutter's
      QTest::mouseClick(button(dialog, QStringLiteral("Put it in")), Qt::LeftButton);
      QTRY_VERIFY_WITH_TIMEOUT(window_->desk().state().tool == window_->desk().view().change_to, 10000);
      QTest::mouseClick(button(dialog, QStringLiteral("Probe z")), Qt::LeftButton);
      auto* told = named<QLabel>(dialog, QStringLiteral("What came of it"));
      QTRY_VERIFY2_WITH_TIMEOUT(go->isEnabled(), qPrintable(told->text()), 20000);
      QTest::mouseClick(go, Qt::LeftButton);
      ++changes;
      at_work = false;
    });
    watch.start(50);
    run_step(false);
    const auto runs = window_->shop().runs();
    QCOMPARE(runs.size(), std::size_t{1});
    QCOMPARE(runs[0].outcome, std::string("done"));
    QVERIFY(changes >= 1);
    QVERIFY(std::count_if(runs[0].events.begin(), runs[0].events.end(),
                          [](const RunEvent& e) { return e.kind == "hand"; }) >= 2);
  }

  void what_runs_took_corrects_the_minutes_of_the_sheet() {
    QVERIFY(!window_->shop().begin(ShopBook::Begin::demo_shop, false));
    window_->choose_line("coupon.blank");
    bench_->set_part("coupon");
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("coupon") != nullptr, 20000);
    const auto cut = [&] {
      for (const BuildLine& l : bench_->sheet())
        if (l.id.starts_with("coupon.cut.")) return l;
      return BuildLine{};
    };
    const BuildLine planned = cut();
    QVERIFY(planned.seconds > 0);
    QCOMPARE(planned.paced_by, 0);
    Run run;
    run.id = "by-test";
    run.began = run.ended = "2026-11-26 10:00:00";
    run.program = "a.ngc";
    run.cutter = planned.cutter;
    run.cuts = planned.id.substr(planned.id.rfind('.') + 1);
    run.outcome = "done";
    run.planned_seconds = 100;
    run.real_seconds = 150;
    QVERIFY(!window_->shop().change([&](ShopBook& book) { return book.write(run); }));
    QCOMPARE(cut().paced_by, 1);
    QVERIFY(std::abs(cut().seconds / planned.seconds - 1.5) < 1e-9);
  }

  void a_material_is_kept_in_the_shop_and_taken_into_another_project() {
    QVERIFY(!window_->shop().begin(ShopBook::Begin::demo_shop, false));
    auto made = material_like({}, "old-cherry", "cherry");
    QVERIFY(made.has_value());
    made->density = 611;
    QVERIFY(!bench_->change_materials({*made}, "Add old-cherry"));
    const auto row_of = [](QTableWidget* table, const QString& words) {
      for (int r = 0; r < table->rowCount(); ++r)
        if (table->item(r, 0)->text() == words) return r;
      return -1;
    };
    {
      MaterialsDialog dialog(*bench_, window_->shop());
      dialog.show();
      auto* table = named<QTableWidget>(&dialog, QStringLiteral("Materials"));
      table->setCurrentCell(row_of(table, QStringLiteral("old-cherry  (this project's)")), 0);
      press(&dialog, QStringLiteral("Keep it in the shop's book"));
    }
    QVERIFY(!bench_->change_materials({}, "Another project"));
    MaterialsDialog dialog(*bench_, window_->shop());
    dialog.show();
    auto* table = named<QTableWidget>(&dialog, QStringLiteral("Materials"));
    const int row = row_of(table, QStringLiteral("old-cherry  (the shop's)"));
    QVERIFY(row >= 0);
    table->setCurrentCell(row, 0);
    press(&dialog, QStringLiteral("Take the shop's into this project"));
    QCOMPARE(bench_->project().materials.size(), std::size_t{1});
    QCOMPARE(bench_->project().materials.front().density, 611.0);
    // Where there is no book nothing is pretended.
    window_->shop().set_file(file("none.sqlite").toStdString());
    MaterialsDialog none(*bench_, window_->shop());
    none.show();
    auto* alone = named<QTableWidget>(&none, QStringLiteral("Materials"));
    alone->setCurrentCell(0, 0);
    QVERIFY(!button(&none, QStringLiteral("Keep it in the shop's book"))->isEnabled());
  }
};

int run_shop_story(int argc, char** argv) {
  ShopStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "shop_story_test.moc"

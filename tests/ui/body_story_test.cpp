// The window driven by mouse and keys, through the story of a body: a plan brought in, the outline pulled, a switch
// that does not fit, programs.
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QFile>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QToolButton>
#include <QtTest/QtTest>

#include <cmath>
#include <fstream>

#include "app/main_window.hpp"
#include "app/body_views.hpp"
#include "app/designs.hpp"
#include "app/neck_views.hpp"
#include "app/paper_dialog.hpp"
#include "app/part_edits.hpp"
#include "app/views.hpp"
#include "app/plan_dialog.hpp"
#include "app/words.hpp"
#include "exchange/dxf_writer.hpp"

using namespace wren;
using namespace wren::app;

class BodyStory : public QObject {
  Q_OBJECT

  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  QTemporaryDir folder_;

  [[nodiscard]] bool remarked(const std::string& kind) const {
    const auto remarks = bench_->remarks();
    return std::any_of(remarks.begin(), remarks.end(), [&](const Remark& r) { return r.kind == kind; });
  }
  [[nodiscard]] QString file(const char* name) const { return folder_.filePath(QString::fromUtf8(name)); }

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
    QVERIFY(body_design(*bench_) != nullptr);
  }
  void cleanup() {
    window_.reset();
    bench_.reset();
  }

  void a_plan_of_short_segments_becomes_outline_and_circle() {
    // As another program wrote it: everything chopped, circles in 30 pieces, half size, upright.
    Dxf dxf;
    const Contour& outline = body_design(*bench_)->shape.outline;
    const double whole = perimeter(outline);
    std::vector<Vec2> chopped;
    for (int k = 0; k < 900; ++k) {
      const Vec2 p = place_along(outline, whole * k / 900).at;
      chopped.push_back({-p.y * 0.5, p.x * 0.5});
    }
    for (std::size_t k = 0; k < chopped.size(); ++k) dxf.line("BODY", chopped[k], chopped[(k + 1) % chopped.size()]);
    const Vec2 centre{-40 * 0.5, 560 * 0.5};
    std::vector<Vec2> circle;
    for (int k = 0; k < 30; ++k)
      circle.push_back(centre + Vec2{std::cos(k * M_PI / 15), std::sin(k * M_PI / 15)} * 6.0);
    for (std::size_t k = 0; k < 30; ++k) dxf.line("HOLES", circle[k], circle[(k + 1) % 30]);
    std::ofstream(file("plan.dxf").toStdString()) << dxf.done();

    const double length = bounds(body_design(*bench_)->shape.corners).size().x;
    const double area_before = signed_area(body_design(*bench_)->shape.corners);
    PlanDialog dialog(*bench_);
    dialog.load(file("plan.dxf"));
    QVERIFY(dialog.reading());  // on another thread: the window goes on
    QVERIFY(!dialog.take());
    QTRY_VERIFY_WITH_TIMEOUT(!dialog.reading(), 10000);
    QVERIFY2(!dialog.problem(), dialog.problem() ? dialog.problem()->text().c_str() : "");
    auto* table = dialog.findChild<QTableWidget*>();
    QCOMPARE(table->rowCount(), 2);
    QVERIFY(table->item(1, 0)->text().contains(QStringLiteral("circle, diameter 12 mm")));
    QCOMPARE(dialog.uses()[0].as, Becomes::outline);
    QCOMPARE(dialog.uses()[1].as, Becomes::hole);
    const auto edits = dialog.findChildren<QLineEdit*>();
    for (QLineEdit* e : edits)
      if (e->accessibleName() == QStringLiteral("Known length")) e->setText(QString::number(length, 'f', 4));
    // Its circle as a cavity from the back, at its own place and size; the outline with it, in one step.
    auto* as = qobject_cast<QComboBox*>(table->cellWidget(1, 1));
    as->setCurrentIndex(static_cast<int>(Becomes::back_cavity));
    table->item(1, 3)->setText(QStringLiteral("1/2 in"));
    QVERIFY(dialog.take());
    QCOMPARE(static_cast<int>(body_of(bench_->project()).body.outline.form), static_cast<int>(BodyForm::drawn));
    QVERIFY(std::abs(signed_area(body_design(*bench_)->shape.corners) - area_before) < 0.001 * area_before);
    QVERIFY(body_of(bench_->project()).body.outline.drawn.size() < 120);
    QCOMPARE(body_of(bench_->project()).body.drawn.size(), std::size_t(1));
    QCOMPARE(body_of(bench_->project()).body.drawn.front().depth, 12.7);
    const Path& round = body_of(bench_->project()).body.drawn.front().outline;
    QCOMPARE(round.size(), std::size_t(2));
    QVERIFY(std::abs(distance(round[0].at, round[1].at) / 2 - 12) < 0.01);
    QVERIFY(distance((round[0].at + round[1].at) * 0.5, {560, 40}) < 0.05);
    bench_->undo();
    // The same as a hole: one place, one diameter; and no depth that is none.
    as->setCurrentIndex(static_cast<int>(Becomes::hole));
    table->item(1, 3)->setText(QStringLiteral("deep"));
    QVERIFY(!dialog.take());
    table->item(1, 3)->setText(QStringLiteral("9"));
    QVERIFY(dialog.take());
    QCOMPARE(body_of(bench_->project()).body.holes.size(), std::size_t(1));
    QVERIFY(distance(body_of(bench_->project()).body.holes.front().at, {560, 40}) < 0.05);
    // Two outlines are one too many: the second takes it from the first.
    as->setCurrentIndex(static_cast<int>(Becomes::outline));
    QCOMPARE(dialog.uses()[0].as, Becomes::nothing);
    bench_->undo();
    QCOMPARE(static_cast<int>(body_of(bench_->project()).body.outline.form), static_cast<int>(BodyForm::two_horns));
  }

  void gaps_are_offered_and_closed() {
    std::ofstream(file("gap.dxf").toStdString())
        << "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0\n20\n0\n11\n300\n21\n0\n0\nLINE\n8\n0\n10\n300\n20\n0.3\n11\n"
           "300\n21\n200\n0\nLINE\n8\n0\n10\n300\n20\n200\n11\n0\n21\n0.2\n0\nENDSEC\n0\nEOF\n";
    PlanDialog dialog(*bench_);
    dialog.show();
    dialog.load(file("gap.dxf"));
    QTRY_VERIFY_WITH_TIMEOUT(!dialog.reading(), 10000);
    auto* table = dialog.findChild<QTableWidget*>();
    QCOMPARE(table->rowCount(), 2);
    QVERIFY(table->item(0, 0)->text().contains(QStringLiteral("open")));
    QPushButton* close = nullptr;
    for (QPushButton* b : dialog.findChildren<QPushButton*>())
      if (b->text().startsWith(QStringLiteral("Close"))) close = b;
    QVERIFY(close != nullptr && close->isVisible());
    QCOMPARE(close->text(), QStringLiteral("Close 2 gaps of %1 to %2")
                                .arg(length_words(0.2, bench_->units()), length_words(0.3, bench_->units())));
    QTest::mouseClick(close, Qt::LeftButton);
    QTRY_VERIFY_WITH_TIMEOUT(!dialog.reading(), 10000);
    QVERIFY(!table->item(0, 0)->text().contains(QStringLiteral("open")));
    QCOMPARE(dialog.uses()[0].as, Becomes::outline);
    QVERIFY(!close->isVisible());
  }

  void paper_is_chosen_and_seen_before_it_is_written() {
    const Body before = body_of(bench_->project()).body;
    std::vector<PaperChoice> drawn;
    Printed templates{QStringLiteral("Templates"),
                      QStringLiteral("t.pdf"),
                      true,
                      [&](QPagedPaintDevice& device, const PaperChoice& choice) {
                        drawn.push_back(choice);
                        templates_of("body").print(device, bench_->followed(), choice);
                      },
                      [&](const QString& path, const PaperChoice& choice) {
                        return write_templates_pdf(path.toStdString(), "body", bench_->followed(), choice).has_value();
                      },
                      {}};
    PaperDialog dialog(std::move(templates), UnitSystem::millimetre);
    dialog.show();
    QTRY_VERIFY(dialog.pages() > 2);
    auto* paper = dialog.findChild<QComboBox*>();
    paper->setCurrentIndex(paper->findData(QStringLiteral("a4")));
    const int small = dialog.pages();
    paper->setCurrentIndex(paper->findData(QStringLiteral("a3")));
    QTRY_VERIFY(dialog.pages() < small);
    QCOMPARE(drawn.back().paper, QStringLiteral("a3"));
    for (QLineEdit* e : dialog.findChildren<QLineEdit*>())
      if (e->accessibleName() == QStringLiteral("Bearing or bush")) {
        e->setText(QStringLiteral("1 in"));
        QTest::keyClick(e, Qt::Key_Return);
        QCOMPARE(dialog.choice().router.follower, 25.4);
        e->setText(QStringLiteral("-3"));
        QTest::keyClick(e, Qt::Key_Return);
        QCOMPARE(dialog.choice().router.follower, 25.4);  // refused, with its reason in the dialog
      }
    paper->setCurrentIndex(paper->findData(QStringLiteral("a4")));
    QVERIFY(before == body_of(bench_->project()).body);
  }

  void a_plan_that_is_no_plan_changes_nothing() {
    const Project before = bench_->project();
    for (const char* bytes : {"", "not a drawing", "0\nSECTION\n2\nENTITIES\n0\nLINE\n"}) {
      std::ofstream(file("bad.dxf").toStdString()) << bytes;
      PlanDialog dialog(*bench_);
      dialog.load(file("bad.dxf"));
      QTRY_VERIFY_WITH_TIMEOUT(!dialog.reading(), 10000);
      const auto& problem = dialog.problem();
      QVERIFY(problem.has_value());
      QVERIFY(!problem->todo.empty());
      QVERIFY(!dialog.take());
    }
    QVERIFY(bench_->project() == before);
    // One that takes its time can be left at once: closing the dialog stops the reader.
    std::string slow = "<svg xmlns='http://www.w3.org/2000/svg' width='300mm' viewBox='0 0 300 400'>";
    for (int k = 0; k < 12'000; ++k) slow += "<path d='M0 0 c 500 0 500 500 0 500'/>";
    std::ofstream(file("slow.svg").toStdString()) << slow << "</svg>";
    QElapsedTimer clock;
    clock.start();
    {
      PlanDialog dialog(*bench_);
      dialog.load(file("slow.svg"));
    }
    QVERIFY(clock.elapsed() < 3000);
  }

  void nodes_are_pulled_typed_and_undone() {
    window_->choose_line("body.outline");
    auto* plan = static_cast<BodyPlanView*>(window_->own_view("body", View::plan));
    QVERIFY(plan->editing());
    const std::size_t nodes = plan->path().size();
    const Vec2 was = plan->path()[1].at;
    const QPoint from = mapped(was, plan->to_screen()).toPoint();
    QTest::mousePress(plan, Qt::LeftButton, Qt::NoModifier, from);
    for (int k = 1; k <= 10; ++k) {
      QMouseEvent move(QEvent::MouseMove, QPointF(from + QPoint(0, -k)),
                       plan->mapToGlobal(QPointF(from + QPoint(0, -k))), Qt::LeftButton, Qt::LeftButton,
                       Qt::NoModifier);
      QApplication::sendEvent(plan, &move);
    }
    QTest::mouseRelease(plan, Qt::LeftButton, Qt::NoModifier, from + QPoint(0, -10));
    QCOMPARE(bench_->history().undo_name().str(), std::string("Move a node"));
    QVERIFY(std::abs(plan->path()[1].at.y - was.y) > 4);
    QVERIFY(bounds(body_design(*bench_)->shape.corners).size().y > 333);
    bench_->undo();
    QVERIFY(distance(plan->path()[1].at, was) < 1e-9);
    QCOMPARE(bench_->history().can_undo(), false);
    // Typed: any unit.
    plan->choose(1);
    for (QLineEdit* e : plan->findChildren<QLineEdit*>())
      if (e->accessibleName() == QStringLiteral("Node: y")) {
        e->setFocus();
        QTest::keyClick(e, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(e, QStringLiteral("6 3/4 in"));
        QTest::keyClick(e, Qt::Key_Return);
      }
    QCOMPARE(body_of(bench_->project()).body.outline.drawn[1].at.y, 6.75 * 25.4);
    // A node more, and out again.
    const OnPath half = nearest_on(plan->path(), point_on(plan->path()[1], plan->path()[2], 0.5));
    QTest::mouseDClick(plan, Qt::LeftButton, Qt::NoModifier, mapped(half.at, plan->to_screen()).toPoint());
    QCOMPARE(plan->path().size(), nodes + 1);
    plan->setFocus();
    QTest::keyClick(plan, Qt::Key_Delete);
    QCOMPARE(plan->path().size(), nodes);
    // Snapping: a place near the centre line lies on it.
    QString to;
    const Vec2 near_it{body_design(*bench_)->shape.setup.bridge_middle.x + 0.8, 0.9};
    const Vec2 on = plan->snapped(near_it, &to);
    QCOMPARE(on.y, 0.0);
    QCOMPARE(on.x, body_design(*bench_)->shape.setup.bridge_middle.x);
    QVERIFY(to.contains(QStringLiteral("centre line")));
    // Mirrored: the bass side's image takes the treble side's place.
    for (QPushButton* b : plan->findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("Mirror bass")) QTest::mouseClick(b, Qt::LeftButton);
    QCOMPARE(bench_->history().undo_name().str(), std::string("Mirror the bass side"));
    const Polygon& corners = body_design(*bench_)->shape.corners;
    const Box2 box = bounds(corners);
    QVERIFY(std::abs(box.low.y + box.high.y) < 1e-6);
  }

  void a_switch_that_does_not_fit_is_repaired_by_a_click() {
    window_->choose_line("body.controls");
    QVERIFY(!bench_->edit("control.switch_needs", "39"));
    QVERIFY(remarked("body.switch_deep"));
    bool clicked = false;
    for (QPushButton* b : window_->findChildren<QPushButton*>())
      if (!clicked && b->isVisible() && b->text().contains(QStringLiteral("half its thickness"))) {
        QTest::mouseClick(b, Qt::LeftButton);
        clicked = true;
      }
    QVERIFY(clicked);
    bench_->catch_up();
    QVERIFY(!remarked("body.switch_deep"));
    bench_->undo();
    QVERIFY(remarked("body.switch_deep"));
  }

  void the_body_is_proved_and_written_with_sheet_and_templates() {
    window_->choose_line("body.rehearsal");
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("body") != nullptr, 60000);
    bench_->prove_all();
    QTRY_VERIFY_WITH_TIMEOUT(bench_->proof("body") != nullptr, 120000);
    QVERIFY(bench_->proof("body")->passed());
    QSignalSpy written(bench_.get(), &Workbench::written);
    window_->write_programs_into(file("out"));
    QTRY_VERIFY_WITH_TIMEOUT(written.count() == 1, 30000);
    QVERIFY(QFile::exists(file("out/body/manifest.json")));
    QVERIFY(window_->write_sheet_to(file("body.pdf")));
    QVERIFY(QFile(file("body.pdf")).size() > 20000);
    for (const char* what : {"a.pdf", "a.dxf", "a.svg", "a.stl"}) QVERIFY(window_->export_to(file(what), "body"));
    // An edit of the body leaves board and neck as they are, and stops nothing but what depends on it.
    const auto neck = neck_design(*bench_);
    QVERIFY(!bench_->edit("body.tail", "118"));
    QVERIFY(neck_design(*bench_) == neck);
    QVERIFY(bench_->proof("body") == nullptr);
    for (const View view : {View::plan, View::side, View::solid, View::bed, View::rehearsal}) {
      window_->show_view(view);
      QTest::qWait(30);
      QVERIFY(!window_->grab().isNull());
    }
  }
};

int run_body_story(int argc, char** argv) {
  BodyStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "body_story_test.moc"

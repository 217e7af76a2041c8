// The window through the story of another maker's way: frets before the glue-up, single bridge pieces, holes held back
// and drilled in a later set-up; and of pictures: a neck from a picture of another, a body's plan traced.
#include <fmt/format.h>
#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QFile>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTimer>
#include <QToolButton>
#include <QtTest/QtTest>

#include <fstream>

#include "app/body_views.hpp"
#include "app/designs.hpp"
#include "app/hardware_dialog.hpp"
#include "app/main_window.hpp"
#include "app/neck_views.hpp"
#include "app/take_dialog.hpp"
#include "app/words.hpp"
#include "core/document/picture_files.hpp"
#include "exchange/dxf_writer.hpp"
#include "support/mouse.hpp"

using namespace wren;
using namespace wren::app;

class SchoolsStory : public QObject {
  Q_OBJECT

  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  QTemporaryDir folder_;

  [[nodiscard]] QString file(const char* name) const { return folder_.filePath(QString::fromUtf8(name)); }
  template <class W>
  [[nodiscard]] W* field(const char* line, const char* key) {
    window_->choose_line(line);
    QCoreApplication::processEvents();
    return window_->findChild<W*>(QString::fromUtf8(key));
  }
  /// A choice taken by the keyboard; each press is an edit, and the ledger makes its rows anew.
  void choose(const char* line, const char* key, const char* choice) {
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
  [[nodiscard]] const BuildLine* line(const char* id) {
    static std::vector<BuildLine> sheet;
    sheet = bench_->sheet();
    for (const BuildLine& l : sheet)
      if (l.id == id) return &l;
    return nullptr;
  }
  [[nodiscard]] static QToolButton* button(QWidget* in, const char* text) {
    for (QToolButton* b : in->findChildren<QToolButton*>())
      if (b->text() == QString::fromUtf8(text)) return b;
    return nullptr;
  }
  static void click(FlatView* view, const QTransform& t, Vec2 at) {
    QTest::mouseClick(view, Qt::LeftButton, Qt::NoModifier, mapped(at, t).toPoint());
  }
  /// The next popup's entry of these words is taken.
  static void take_from_menu(const QString& words) {
    QTimer::singleShot(150, [words] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      QVERIFY(menu != nullptr);
      for (QAction* a : menu->actions())
        if (a->text() == words) {
          menu->setActiveAction(a);
          QTest::keyClick(menu, Qt::Key_Return);
          return;
        }
      menu->close();
      QFAIL(qPrintable(words));
    });
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
    QVERIFY(body_design(*bench_) != nullptr);
  }
  void cleanup() {
    window_.reset();
    bench_.reset();
    QDir(file("reedling.pictures")).removeRecursively();
  }

  void frets_before_the_glue_up_are_one_step_and_the_sheet_is_another_makers() {
    QVERIFY(line("caul.shape") == nullptr);
    choose("fretboard.frets", "frets.when", "board_loose");
    QVERIFY(board_of(bench_->project()).instrument.frets.when == FretsWhen::board_loose);
    QVERIFY(line("caul.shape") != nullptr);
    QVERIFY(line("neck.hand.board")->title.find("caul") != std::string::npos);
    // One step back, and all of it is as it was.
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QCoreApplication::processEvents();
    QVERIFY(line("caul.shape") == nullptr);
  }

  void a_hands_step_is_ticked_like_a_cut() {
    window_->choose_line("body.hand.neck-on");
    QVERIFY(!line("body.hand.neck-on")->held_up_by.empty());
    QTest::keyClick(window_.get(), Qt::Key_M, Qt::ControlModifier);
    QCoreApplication::processEvents();
    QVERIFY(line("body.hand.neck-on")->state == LineState::cut);
    QTest::keyClick(window_.get(), Qt::Key_M, Qt::ControlModifier);  // a slip of the hand
    QCoreApplication::processEvents();
    QVERIFY(line("body.hand.neck-on")->state != LineState::cut);
  }

  void single_pieces_and_holes_held_back() {
    choose("body.bridge", "bridge.name", "single-pieces");
    choose("body.bridge", "strings.spread_from", "pieces");
    type("body.bridge", "strings.piece_width", "10.6");
    QVERIFY(body_design(*bench_) != nullptr);
    QVERIFY(body_design(*bench_)->shape.bridge_pieces.size() == 6);
    const auto& strings = board_design(*bench_)->board.strings;
    QVERIFY(std::abs(strings.back().saddle.y - strings.front().saddle.y - 5 * 10.8) < 1e-6);
    choose("body.bridge", "bridge.holes", "held_back");
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("body") != nullptr, 60000);
    const auto planned = bench_->planned("body");
    const Placement* later = planned->cuts.side("bridge");
    QVERIFY(later != nullptr);
    QVERIFY(!later->facts.empty());
    for (const BuildLine& l : bench_->sheet())
      if (l.side == "bridge") QVERIFY(!l.held_up_by.empty());
  }

  void a_picture_is_scaled_turned_mirrored_moved_and_taken_off() {
    window_->choose_line("body.outline");
    auto* plan = static_cast<BodyPlanView*>(window_->own_view("body", View::plan));
    Backdrop& under = plan->backdrop();
    QVERIFY(!under.there());
    QImage image(400, 200, QImage::Format_RGB32);
    image.fill(Qt::white);
    QVERIFY(image.save(file("plan.png")));
    under.lay(file("plan.png").toStdString(), plan->picture_grounds().front(), 400);
    QTRY_VERIFY_WITH_TIMEOUT(under.there(), 20000);
    QTRY_VERIFY(under.isVisible());
    QCOMPARE(under.pixels(), QSize(400, 200));
    QVERIFY(std::abs(under.shown()->mm_per_pixel - 1) < 1e-9);
    // Its file stands beside the project under its hash.
    QVERIFY(QFile::exists(
        QString::fromStdString((pictures_folder(bench_->path()) / (under.shown()->hash + ".png")).string())));
    const Vec2 low = under.shown()->low;
    const QTransform t = plan->to_screen();
    QVERIFY(under.scale_to(100).has_value());  // no points yet
    QTest::mouseClick(button(&under, "Scale"), Qt::LeftButton);
    click(plan, t, low + Vec2{100, 100});
    click(plan, t, low + Vec2{300, 100});
    QLineEdit* known = under.findChild<QLineEdit*>(QString(), Qt::FindDirectChildrenOnly);
    QVERIFY(known != nullptr && known->isVisible());
    QTest::keyClicks(known, QStringLiteral("nothing"));
    QTest::keyClick(known, Qt::Key_Return);
    QVERIFY(std::abs(under.shown()->mm_per_pixel - 1) < 1e-9);
    known->selectAll();
    QTest::keyClicks(known, QStringLiteral("10 cm"));
    QTest::keyClick(known, Qt::Key_Return);
    QVERIFY(std::abs(under.shown()->mm_per_pixel - 0.5) < 0.01);
    QTest::mouseClick(button(&under, "Move"), Qt::LeftButton);
    const Vec2 was = under.shown()->low;
    const QPoint from = mapped(was + Vec2{60, 40}, plan->to_screen()).toPoint();
    QTest::mousePress(plan, Qt::LeftButton, Qt::NoModifier, from);
    QMouseEvent drag(QEvent::MouseMove, QPointF(from + QPoint(30, 0)), plan->mapToGlobal(QPointF(from + QPoint(30, 0))),
                     Qt::LeftButton, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(plan, &drag);
    QTest::mouseRelease(plan, Qt::LeftButton, Qt::NoModifier, from + QPoint(30, 0));
    QVERIFY(under.shown()->low.x > was.x + 5);
    QTest::mouseClick(button(&under, "Mirror"), Qt::LeftButton);
    QVERIFY(under.shown()->mirrored);
    // Each is one step: back to where it was laid.
    for (int k = 0; k < 3; ++k) bench_->undo();
    QVERIFY(!under.shown()->mirrored);
    QVERIFY(std::abs(under.shown()->mm_per_pixel - 1) < 1e-9);
    QTest::mouseClick(button(&under, "Take off"), Qt::LeftButton);
    QVERIFY(!under.there());
    QTRY_VERIFY(!under.isVisible());
  }

  void a_cavity_is_traced_from_a_picture_by_two_clicks() {
    window_->choose_line("body.outline");
    auto* plan = static_cast<BodyPlanView*>(window_->own_view("body", View::plan));
    Backdrop& under = plan->backdrop();
    // A box drawn with a thick pencil, 60 by 30 at four pixels a millimetre.
    QImage image(600, 400, QImage::Format_RGB32);
    image.fill(Qt::white);
    {
      QPainter g(&image);
      g.setRenderHint(QPainter::Antialiasing);
      g.setPen(QPen(Qt::black, 4));
      g.drawRoundedRect(QRectF(150, 120, 240, 120), 24, 24);
    }
    QVERIFY(image.save(file("box.png")));
    under.lay(file("box.png").toStdString(), plan->picture_grounds().front(), 150);
    QTRY_VERIFY_WITH_TIMEOUT(under.there(), 20000);
    const std::size_t before = body_of(bench_->project()).body.drawn.size();
    QTest::mouseClick(button(&under, "Trace"), Qt::LeftButton);
    take_from_menu(tr("A cavity in the face"));
    click(plan, plan->to_screen(), under.shown()->to_world({150, 400 - 180}));
    QTRY_COMPARE_WITH_TIMEOUT(body_of(bench_->project()).body.drawn.size(), before + 1, 5000);
    const Path& path = body_of(bench_->project()).body.drawn.back().outline;
    const Vec2 size = bounds(flatten(to_contour(path, 0.01), 0.01)).size();
    QVERIFY(std::abs(size.x - 60) < 0.1);
    QVERIFY(std::abs(size.y - 30) < 0.1);
    // Nothing is drawn at another place: said, and nothing taken.
    click(plan, plan->to_screen(), under.shown()->to_world({560, 20}));
    QCOMPARE(body_of(bench_->project()).body.drawn.size(), before + 1);
  }

  void a_neck_takes_its_sections_from_pictures_of_another() {
    // Our own neck's sections, drawn as a gauge's line on paper: what comes back must be the neck that they are of.
    window_->choose_line("neck.back");
    auto* side = static_cast<NeckSideView*>(window_->own_view("neck", View::side));
    window_->show_view(View::side);
    QCoreApplication::processEvents();
    const NeckShape other = neck_design(*bench_)->shape;
    const double per_mm = 150 / 25.4;
    int number = 0;
    for (const double x : {60.0, 150.0, 240.0, 320.0}) {
      QImage image(600, 300, QImage::Format_RGB32);
      image.fill(Qt::white);
      {
        QPainter g(&image);
        g.setRenderHint(QPainter::Antialiasing);
        g.setBrush(Qt::black);
        g.setPen(Qt::NoPen);
        const auto edges = crossings(other.corners, {x, 0}, {0, 1});
        QPolygonF shape;
        for (int k = 0; k <= 200; ++k) {
          const double y = edges.front() + (edges.back() - edges.front()) * k / 200;
          shape << QPointF(300 + y * per_mm, 60 + other.depth({x, y}) * per_mm);
        }
        g.drawPolygon(shape);
      }
      const QString name = file(qPrintable(QStringLiteral("gauge-%1.png").arg(++number)));
      QVERIFY(image.save(name));
      side->set_knife(x);
      QCoreApplication::processEvents();
      const auto grounds = side->picture_grounds();
      QCOMPARE(grounds.size(), std::size_t{2});
      side->backdrop().lay(name.toStdString(), grounds[1], 600 / per_mm);
      QTRY_VERIFY_WITH_TIMEOUT(side->backdrop().there() && side->backdrop().shown()->station == grounds[1].station,
                               20000);
      // Two known places: the middle of the glue plane, and 20 mm under it.
      PlacedPicture p = *side->backdrop().shown();
      const auto laid =
          laid_on(p, {300 - 0.5, 300 - 60 - 0.5}, {300 - 0.5, 300 - 60 - 0.5 - 20 * per_mm}, {0, 0}, {0, -20});
      QVERIFY(laid.has_value());
      std::vector<PlacedPicture> all = bench_->project().pictures;
      *std::find(all.begin(), all.end(), p) = *laid;
      QVERIFY(!bench_->change_pictures(all, "Lay it on two places").has_value());
      const Polygon shape = side->backdrop().shape_at({0, -other.depth({x, 0})});
      QVERIFY(shape.size() > 20);
      const auto bad = side->backdrop().take(shape, "section", x);
      QVERIFY2(!bad, bad ? bad->text().c_str() : "");
    }
    QCOMPARE(neck_of(bench_->project()).neck.back.sections.size(), std::size_t{4});
    const NeckShape& mine = neck_design(*bench_)->shape;
    double worst = 0;
    for (const double x : {60.0, 150.0, 240.0, 320.0})
      for (double y = -18; y <= 18; y += 3) worst = std::max(worst, std::abs(mine.depth({x, y}) - other.depth({x, y})));
    QVERIFY2(worst < 0.25, fmt::to_string(worst).c_str());
  }

  void a_picture_lies_behind_the_section_of_board_and_body() {
    QImage image(300, 100, QImage::Format_RGB32);
    image.fill(Qt::lightGray);
    QVERIFY(image.save(file("across.png")));
    for (const auto& [part, line] : {std::pair{"fretboard", "fretboard.board"}, std::pair{"body", "body.outline"}}) {
      window_->choose_line(line);
      auto* side = static_cast<FlatView*>(window_->own_view(part, View::side));
      window_->show_view(View::side);
      QCoreApplication::processEvents();
      hover(side, QPoint(2, 30));  // off the part: the section stays on it
      const auto grounds = side->picture_grounds();
      QCOMPARE(grounds.size(), std::size_t{2});
      QCOMPARE(grounds[1].view, std::string("section"));
      QString told;
      const auto said = connect(bench_.get(), &Workbench::said, this, [&](const QString& words) { told = words; });
      side->backdrop().lay(file("across.png").toStdString(), grounds[1], 60);
      // While it is read the mouse leads the section elsewhere: the picture is shown all the same, at its own place.
      hover(side, QPoint(side->width() / 2, 60));
      QVERIFY(std::abs(side->picture_grounds()[1].station - grounds[1].station) > 20);
      QTRY_VERIFY2_WITH_TIMEOUT(side->backdrop().there(), qPrintable(QString::fromUtf8(part) + told), 20000);
      disconnect(said);
      const PlacedPicture laid = *side->backdrop().shown();
      QCOMPARE(laid.part, std::string(part));
      QVERIFY(grounds[1].holds(laid));
      // It lies within the section's own place on the screen, not over the side above it.
      const Vec2 middle = laid.to_world({150, 50});
      QVERIFY(grounds[1].where.contains(grounds[1].to_screen.map(QPointF(middle.x, middle.y))));
      // A mouse over the section leaves the section where it is.
      const double station = side->picture_grounds()[1].station;
      hover(side, QPoint(120, side->height() - 60));
      QCOMPARE(side->picture_grounds()[1].station, station);
    }
  }

  void a_picture_that_is_gone_is_a_sentence_and_nothing_is_lost() {
    window_->choose_line("body.outline");
    auto* plan = static_cast<BodyPlanView*>(window_->own_view("body", View::plan));
    QImage image(300, 200, QImage::Format_RGB32);
    image.fill(Qt::lightGray);
    QVERIFY(image.save(file("old.png")));
    plan->backdrop().lay(file("old.png").toStdString(), plan->picture_grounds().front(), 300);
    QTRY_VERIFY_WITH_TIMEOUT(plan->backdrop().there(), 20000);
    QVERIFY(!bench_->save(bench_->path()));
    const Project before = bench_->project();
    QVERIFY(QDir(QString::fromStdString(pictures_folder(bench_->path()).string())).removeRecursively());
    // A new window: the drawing is there, the picture is not, and it says so.
    const QString project = QString::fromStdString(bench_->path().string());
    window_.reset();
    bench_ = std::make_unique<Workbench>(*project_from("plain"));
    window_ = std::make_unique<MainWindow>(*bench_);
    window_->set_ask_before_closing(false);
    QString told;
    connect(bench_.get(), &Workbench::said, this, [&](const QString& words, bool bad) {
      if (bad) told = words;
    });
    QVERIFY(window_->open_file(project));
    window_->show();
    window_->choose_line("body.outline");
    window_->show_view(View::plan);
    QTRY_VERIFY_WITH_TIMEOUT(told.contains(QStringLiteral("old.png")), 20000);
    QCOMPARE(bench_->project().pictures.size(), std::size_t{1});
    QVERIFY(bench_->project().parts == before.parts);
  }

  void a_curve_of_a_drawing_becomes_a_pickup_and_a_section() {
    Dxf dxf;
    const std::vector<Vec2> box{{0, 0}, {68, 0}, {68, 36}, {0, 36}};
    for (std::size_t k = 0; k < 4; ++k) dxf.line("PICKUP", box[k], box[(k + 1) % 4]);
    std::ofstream(file("pickup.dxf").toStdString()) << dxf.done();
    TakeDialog dialog(*bench_);
    dialog.show();
    QVERIFY(QTest::qWaitForWindowExposed(&dialog));
    auto* curves = dialog.findChild<QListWidget*>();
    auto* as = dialog.findChild<QComboBox*>();
    QPushButton* take = nullptr;
    for (QPushButton* b : dialog.findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("&Take it")) take = b;
    QVERIFY(take != nullptr && !take->isEnabled());
    dialog.load(file("pickup.dxf"));
    QTRY_COMPARE_WITH_TIMEOUT(curves->count(), 1, 20000);
    as->setCurrentIndex(as->findData(QStringLiteral("pickup-bridge")));
    QTest::mouseClick(take, Qt::LeftButton);
    QCOMPARE(body_of(bench_->project()).body.pickups[2].length, 68.0);
    QCOMPARE(body_of(bench_->project()).body.pickups[2].width, 36.0);
    // As a head it reaches nowhere near the nut: a sentence, and the neck is as it was.
    const HeadNumbers before = neck_of(bench_->project()).neck.head;
    as->setCurrentIndex(as->findData(QStringLiteral("heel-arc")));
    QTest::mouseClick(take, Qt::LeftButton);
    QVERIFY(neck_of(bench_->project()).neck.head == before);
    bench_->undo();
    QVERIFY(body_of(bench_->project()).body.pickups[2].length != 68.0);
    dialog.load(file("none.dxf"));
    QTRY_COMPARE_WITH_TIMEOUT(curves->count(), 0, 20000);
    QVERIFY(!take->isEnabled());
  }

  void a_scanned_sheet_of_traces_becomes_sections() {
    // Four half discs on a page of 100 dots an inch.
    QImage sheet(900, 300, QImage::Format_RGB32);
    sheet.fill(Qt::white);
    QPainter g(&sheet);
    g.setBrush(Qt::black);
    for (int k = 0; k < 4; ++k) g.drawPie(QRect(20 + 220 * k, 40, 172, 160 + 2 * k), 180 * 16, 180 * 16);
    g.end();
    QVERIFY(sheet.save(file("gauge.png")));
    TakeDialog dialog(*bench_);
    dialog.show();
    QVERIFY(QTest::qWaitForWindowExposed(&dialog));
    const auto edit = [&](const char* name) {
      for (QLineEdit* e : dialog.findChildren<QLineEdit*>())
        if (e->accessibleName() == QLatin1String(name)) return e;
      return static_cast<QLineEdit*>(nullptr);
    };
    const auto button = [&](const char* text) {
      for (QPushButton* b : dialog.findChildren<QPushButton*>())
        if (b->text() == QLatin1String(text)) return b;
      return static_cast<QPushButton*>(nullptr);
    };
    auto* curves = dialog.findChild<QListWidget*>();
    auto* as = dialog.findChild<QComboBox*>();
    dialog.load(file("gauge.png"));
    QTRY_COMPARE_WITH_TIMEOUT(curves->count(), 4, 20000);
    QVERIFY(edit("Dots per inch")->isVisible());
    edit("Dots per inch")->selectAll();
    QTest::keyClicks(edit("Dots per inch"), QStringLiteral("100"));
    QTest::keyClick(edit("Dots per inch"), Qt::Key_Return);
    QTRY_VERIFY_WITH_TIMEOUT(!dialog.reading() && curves->item(0)->text().startsWith(decimal(43.1, 1).left(3)), 20000);
    as->setCurrentIndex(as->findData(QStringLiteral("section")));
    QTest::mouseClick(button("Choose a&ll"), Qt::LeftButton);
    QVERIFY(button("&Take them") != nullptr);
    auto* places = edit("Taken at, from the nut line");
    places->setText(QStringLiteral("60, 100, 140"));  // one too few: said, and nothing taken
    QTest::mouseClick(button("&Take them"), Qt::LeftButton);
    QVERIFY(neck_of(bench_->project()).neck.back.sections.empty());
    places->setText(QStringLiteral("60 by 40"));
    QTest::mouseClick(button("&Take them"), Qt::LeftButton);
    QCOMPARE(neck_of(bench_->project()).neck.back.sections.size(), std::size_t{4});
    QCOMPARE(neck_of(bench_->project()).neck.back.sections.back().x, 180.0);
    bench_->undo();  // one step
    QVERIFY(neck_of(bench_->project()).neck.back.sections.empty());
    as->setCurrentIndex(as->findData(QStringLiteral("mark")));
    QTest::mouseClick(button("&Take them"), Qt::LeftButton);  // several marks are none
    QVERIFY(board_of(bench_->project()).instrument.marks.outline.empty());
  }

  void every_size_says_whether_it_was_measured() {
    const auto says = [&](const char* key) { return field<QLineEdit>("body.bridge", key)->accessibleDescription(); };
    QVERIFY2(says("bridge.low").startsWith(QStringLiteral("from the list")), qPrintable(says("bridge.low")));
    QVERIFY(says("bridge.compensation_bass").startsWith(QStringLiteral("given")));
    bench_->mark_cut("body.hand.bridge-measured");
    QVERIFY2(says("bridge.low").startsWith(QStringLiteral("measured")), qPrintable(says("bridge.low")));
    // Typed anew it is the list's again until somebody says that it was measured.
    auto* low = field<QLineEdit>("body.bridge", "bridge.low");
    low->selectAll();
    QTest::keyClicks(low, QStringLiteral("13.7"));
    QTest::keyClick(low, Qt::Key_Return);
    bench_->catch_up();
    QVERIFY2(says("bridge.low").startsWith(QStringLiteral("from the list")), qPrintable(says("bridge.low")));
    QVERIFY(says("bridge.high").startsWith(QStringLiteral("measured")));
  }

  void ones_own_pickup_is_kept_and_put_into_another_place() {
    QVERIFY(!bench_->edit({{"pickup.bridge.length", "67.31"}}, "Measure the pickup"));
    HardwareDialog dialog(*bench_, nullptr, file("shelf/hardware.json").toStdString());
    dialog.show();
    QVERIFY(QTest::qWaitForWindowExposed(&dialog));
    auto* where = dialog.findChild<QComboBox*>();
    auto* list = dialog.findChild<QListWidget*>();
    auto* name = dialog.findChild<QLineEdit*>();
    where->setCurrentIndex(where->findData(QStringLiteral("pickup.bridge")));
    QCOMPARE(list->count(), 0);
    QTest::keyClick(name, Qt::Key_Return);  // no name: said, and nothing kept
    QCOMPARE(list->count(), 0);
    QTest::keyClicks(name, QStringLiteral("the warm one"));
    QTest::keyClick(name, Qt::Key_Return);
    QVERIFY(dialog.isVisible());
    QCOMPARE(list->count(), 1);
    where->setCurrentIndex(where->findData(QStringLiteral("pickup.neck")));
    QCOMPARE(list->count(), 1);  // a pickup goes wherever one goes
    list->setCurrentRow(0);
    const double at = body_of(bench_->project()).body.pickups[0].from_bridge;
    for (QPushButton* b : dialog.findChildren<QPushButton*>())
      if (b->text() == QStringLiteral("&Use it here")) QTest::mouseClick(b, Qt::LeftButton);
    bench_->catch_up();
    QCOMPARE(body_of(bench_->project()).body.pickups[0].length, 67.31);
    QCOMPARE(body_of(bench_->project()).body.pickups[0].from_bridge, at);
    where->setCurrentIndex(where->findData(QStringLiteral("rod")));
    QCOMPARE(list->count(), 0);
  }

  void an_unsaved_project_keeps_no_picture_and_says_why() {
    bench_->replace(*project_from("plain"));
    window_->choose_line("body.outline");
    auto* plan = static_cast<BodyPlanView*>(window_->own_view("body", View::plan));
    QImage image(30, 20, QImage::Format_RGB32);
    image.fill(Qt::white);
    QVERIFY(image.save(file("small.png")));
    QString told;
    connect(bench_.get(), &Workbench::said, this, [&](const QString& words, bool bad) {
      if (bad) told = words;
    });
    plan->backdrop().lay(file("small.png").toStdString(), plan->picture_grounds().front(), 300);
    QTRY_VERIFY_WITH_TIMEOUT(told.contains(QStringLiteral("Save the project first")), 20000);
    QVERIFY(!plan->backdrop().there());
  }
};

int run_schools_story(int argc, char** argv) {
  SchoolsStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "schools_story_test.moc"

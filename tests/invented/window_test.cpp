// The window with an invented part in its table: chosen, edited, shown, proved and written like any other, though no
// view knows it.
#include <QLineEdit>
#include <QTemporaryDir>
#include <QtTest/QtTest>

#include "app/main_window.hpp"
#include "support/spacer.hpp"

using namespace wren;
using namespace wren::app;

class Invented : public QObject {
  Q_OBJECT

  Workbench bench_{*project_from("reedling")};
  MainWindow window_{bench_};

 private Q_SLOTS:
  void initTestCase() {
    window_.set_ask_before_closing(false);
    window_.resize(1280, 800);
    window_.show();
    QVERIFY(QTest::qWaitForWindowExposed(&window_));
    bench_.set_part("spacer");
    QTRY_VERIFY_WITH_TIMEOUT(bench_.planned("spacer") != nullptr, 20000);
  }

  void its_lines_stand_on_the_build_sheet_and_its_numbers_in_the_ledger() {
    window_.choose_line("spacer.cut.top.hole");
    QCOMPARE(bench_.part(), std::string("spacer"));
    QCOMPARE(window_.line(), std::string("spacer.cut.top.hole"));
    QLineEdit* field = nullptr;
    for (QLineEdit* one : window_.findChildren<QLineEdit*>(QStringLiteral("spacer.hole")))
      if (one->isVisible()) field = one;
    QVERIFY(field != nullptr);
    QTest::mouseClick(field, Qt::LeftButton);
    QTest::keyClick(field, Qt::Key_A, Qt::ControlModifier);
    QTest::keyClicks(field, QStringLiteral("12"));
    QTest::keyClick(field, Qt::Key_Return);
    bench_.catch_up();
    QCOMPARE(bench_.project().parts.of<SpacerNumbers>().hole, 12.0);
    QTRY_VERIFY_WITH_TIMEOUT(bench_.planned("spacer") != nullptr, 20000);
  }

  void every_view_has_a_picture_of_it() {
    for (const View view : {View::plan, View::side, View::solid, View::bed, View::rehearsal}) {
      window_.show_view(view);
      QTest::qWait(20);
      QVERIFY(!window_.grab().isNull());
    }
  }

  void it_is_proved_and_written() {
    window_.choose_line("spacer.rehearsal");
    bench_.prove_all();
    QTRY_VERIFY_WITH_TIMEOUT(bench_.proof("spacer") != nullptr, 60000);
    QVERIFY(bench_.proof("spacer")->passed());
    QTemporaryDir folder;
    bench_.write_programs(folder.path().toStdString());
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(folder.filePath(QStringLiteral("spacer/manifest.json"))), 20000);
    QCOMPARE(QDir(folder.path() + QStringLiteral("/spacer")).entryList({QStringLiteral("*.ngc")}).size(), 1);
  }

  void a_number_from_which_none_follows_is_said_and_undone() {
    window_.choose_line("spacer.cut.top.hole");
    window_.show_view(View::bed);
    const auto refused = bench_.edit("spacer.hole", "39");
    QVERIFY(refused || bench_.problem("spacer") != nullptr);
    if (!refused) bench_.undo();
    QVERIFY(bench_.problem("spacer") == nullptr);
  }
};

#include <QApplication>
int main(int argc, char** argv) {
  QApplication application(argc, argv);
  Invented test;
  return QTest::qExec(&test, argc, argv);
}
#include "window_test.moc"

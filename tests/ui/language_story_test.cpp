// The window in a language that nobody speaks: every sentence of the catalogue in other letters. What stands on the
// screen in plain ones was never asked for there, so that no translator could mend it.
#include <QAbstractButton>
#include <QAction>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QTextDocument>
#include <QTreeWidget>
#include <QtTest/QtTest>

#include <map>
#include <set>

#include "app/main_window.hpp"
#include "app/words.hpp"
#include "core/job/run_sheet.hpp"
#include "core/workshop/material.hpp"

using namespace wren;
using namespace wren::app;

class LanguageStory : public QObject {
  Q_OBJECT

  QTemporaryDir folder_;
  std::unique_ptr<Workbench> bench_;
  std::unique_ptr<MainWindow> window_;
  std::map<QString, QString> plain_;  // what was said in plain letters, and where

  /// Names that somebody gave, units and signs of the trade: the same in every language.
  [[nodiscard]] bool may_be_plain(const QString& word) const {
    static const std::set<QString> same{QStringLiteral("rpm"),  QStringLiteral("Ctrl"),   QStringLiteral("Shift"),
                                        QStringLiteral("wren"), QStringLiteral("Upland"), QStringLiteral("Wren"),
                                        QStringLiteral("cm³"),  QStringLiteral("min")};
    if (same.contains(word)) return true;
    const Project& p = bench_->project();
    const auto names = [&word](const std::string& name) {
      return QString::fromStdString(name).contains(word, Qt::CaseInsensitive);
    };
    return names(p.name) || names(p.machine.name) ||
           std::any_of(p.rack.begin(), p.rack.end(), [&](const Cutter& c) { return names(c.id); }) ||
           std::any_of(known_materials().begin(), known_materials().end(),
                       [&](const Material& m) { return names(m.name); });
  }

  void heard(const QString& text, const QString& where) {
    if (text.isEmpty()) return;
    QTextDocument page;
    if (Qt::mightBeRichText(text)) page.setHtml(text);
    QString said = page.isEmpty() ? text : page.toPlainText();
    // Known: what is put together as a text before it comes to a sheet.
    static const QRegularExpression known(QStringLiteral("Thinned at shaft|Thickness at fret|Glue-up: mask"));
    if (known.match(said).hasMatch()) return;
    // Names in quotes, woods of layers as they were written, and where files lie.
    static const QRegularExpression names(QStringLiteral("'\\w+'|\\b(top|body) \\w+ [\\d.]+(?=;|$)|/\\S+"));
    said.remove(names);
    static const QRegularExpression plain(
        QStringLiteral("(?<![\\pL\\d.\\-])[A-Za-z]{3,}(?![\\pL\\d\\-]|\\.[\\pL\\d])"));
    for (auto found = plain.globalMatch(said); found.hasNext();)
      if (!may_be_plain(found.next().captured())) {
        plain_.emplace(said, where);
        return;
      }
  }

  void nothing_plain() {
    QStringList told;
    for (const auto& [said, where] : plain_) told << where + QStringLiteral(": ") + said;
    plain_.clear();
    if (const QByteArray to = qgetenv("WREN_PLAIN"); !to.isEmpty()) {
      QFile log(QString::fromLocal8Bit(to));
      if (log.open(QFile::Append)) log.write(told.join(u'\n').toUtf8() + '\n');
    }
    QVERIFY2(told.isEmpty(), qPrintable(QStringList(told.mid(0, 20)).join(u'\n')));
  }

  void listen(const QString& where) {
    for (const QWidget* w : window_->findChildren<QWidget*>()) {
      if (!w->isVisibleTo(window_.get())) continue;
      heard(w->accessibleName(), where + QStringLiteral(", name"));
      heard(w->accessibleDescription(), where + QStringLiteral(", description"));
      heard(w->toolTip(), where + QStringLiteral(", tip"));
      if (const auto* label = qobject_cast<const QLabel*>(w)) heard(label->text(), where);
      if (const auto* button = qobject_cast<const QAbstractButton*>(w)) heard(button->text(), where);
      if (const auto* box = qobject_cast<const QComboBox*>(w))
        for (int k = 0; k < box->count(); ++k) heard(box->itemText(k), where + QStringLiteral(", choice"));
      if (const auto* edit = qobject_cast<const QLineEdit*>(w)) heard(edit->placeholderText(), where);
      if (const auto* tree = qobject_cast<const QTreeWidget*>(w))
        for (QTreeWidgetItemIterator it(const_cast<QTreeWidget*>(tree)); *it != nullptr; ++it)
          for (int c = 0; c < tree->columnCount(); ++c) heard((*it)->text(c), where + QStringLiteral(", tree"));
    }
    for (const QAction* action : window_->findChildren<QAction*>()) heard(action->text(), QStringLiteral("menus"));
  }

 private Q_SLOTS:
  void initTestCase() {
    QProcess made;
    made.start(QStringLiteral("python3"),
               {QStringLiteral(WREN_TESTS "/ui/pseudo_catalogue.py"), folder_.filePath(QStringLiteral("locale"))});
    QVERIFY(made.waitForFinished(120000));
    QVERIFY2(made.exitCode() == 0, made.readAllStandardError().constData());
    qputenv("LC_ALL", "C.UTF-8");
    qputenv("LANGUAGE", "xx");
    take_words_from(folder_.filePath(QStringLiteral("locale")).toStdString());
    QCOMPARE(in_words("Neck"), QStringLiteral("Ñéçķ"));
    bench_ = std::make_unique<Workbench>(*project_from("reedling"));
    window_ = std::make_unique<MainWindow>(*bench_);
    window_->resize(1280, 800);
    window_->show();
  }

  void cleanupTestCase() {
    window_.reset();
    bench_.reset();
    qunsetenv("LANGUAGE");
    qunsetenv("LC_ALL");
    take_words_from(folder_.path().toStdString());
  }

  void every_line_of_the_build_sheet_speaks_it() {
    for (const BuildLine& line : bench_->sheet()) {
      window_->choose_line(line.id);
      QTest::qWait(1);
      listen(QString::fromStdString(line.id));
    }
    nothing_plain();
  }

  void the_step_at_the_machine_speaks_it() {
    bench_->set_part("neck");
    QTRY_VERIFY_WITH_TIMEOUT(bench_->planned("neck") != nullptr, 60000);
    window_->show_step(true);
    QTest::qWait(1);
    listen(QStringLiteral("step"));
    window_->show_step(false);
    nothing_plain();
  }

  void every_run_sheet_speaks_it_and_has_its_readers_units() {
    for (const PartKind& kind : bench_->parts().kinds()) {
      const auto design = bench_->followed().designs.find(kind.id());
      if (!design || !design->present) continue;
      const auto planned = plan(kind, bench_->followed(), bench_->cache());
      QVERIFY2(planned.has_value(), kind.id().c_str());
      const RunSheet sheet =
          run_sheet(kind, bench_->followed(), bench_->cache(), *planned, "2026-11-27", audience(UnitSystem::inch));
      const auto said = [&](const std::string& text) {
        heard(QString::fromStdString(text), QString::fromStdString(kind.id()));
        QVERIFY2(text.find(" mm") == std::string::npos, text.c_str());
      };
      const auto all = [&](const std::vector<std::string>& texts) {
        for (const std::string& text : texts) said(text);
      };
      said(sheet.title);
      for (const auto& [label, value] : sheet.facts) {
        said(label);
        said(value);
      }
      for (const auto* texts : {&sheet.set_up, &sheet.by_hand, &sheet.cautions, &sheet.boxes}) all(*texts);
      for (const RunSide& side : sheet.sides) {
        said(side.title);
        all(side.alignment);
        all(side.after);
        for (const RunStep& step : side.steps) {
          for (const std::string& text : {step.title, step.cutter, step.time, step.speeds}) said(text);
          for (const auto* texts : {&step.before, &step.check, &step.caution}) all(*texts);
        }
      }
    }
    nothing_plain();
  }
};

int run_language_story(int argc, char** argv) {
  LanguageStory story;
  return QTest::qExec(&story, argc, argv);
}

#include "language_story_test.moc"

// upland-wren: the window. With --sheet it writes a run sheet and leaves; with --screenshot it shows itself once and
// saves the picture.
#include <future>
#include <iostream>

#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QStandardPaths>
#include <QTimer>

#include "app/main_window.hpp"
#include "app/paper.hpp"
#include "app/solid_view.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "exchange/body_out.hpp"
#include "core/parts/table.hpp"

namespace {

using namespace wren;

int complain(const Problem& problem) {
  std::cerr << "upland-wren: " << problem.text() << "\n";
  return 3;
}

struct Loaded {
  const PartKind* kind = nullptr;
  Followed followed;
  Cache cache;
};

/// A project with its designs; the Problem says why the part does not follow.
std::optional<Problem> load(const std::string& file, const std::string& part, Loaded& out) {
  out.kind = all_parts().find(part);
  if (out.kind == nullptr)
    return Problem{ProblemKind::unsupported, "there is no part called '" + part + "'", "--part",
                   "Choose " + all_parts().names()};
  auto project = load_project(file);
  if (!project) return project.error();
  out.followed = follow(all_parts(), std::move(*project), out.cache);
  if (const auto it = out.followed.problems.find(part); it != out.followed.problems.end()) return it->second;
  return {};
}

int write_sheet(const std::string& file, const std::string& pdf, const std::string& part,
                const app::PaperChoice& choice) {
  Loaded d;
  if (const auto bad = load(file, part, d)) return complain(*bad);
  const auto planned = plan(*d.kind, d.followed, d.cache);
  if (!planned) return complain(planned.error());
  const std::string today = app::Workbench::today();
  const auto proof = prove_part(*planned, programs_of(d.followed.project, *planned, today));
  if (!proof) return complain(proof.error());
  const auto written = app::write_run_sheet_pdf(
      pdf, {*d.kind, d.followed, d.cache, *planned, today, choice.units, &*proof}, choice.paper);
  if (!written) return complain(written.error());
  std::cout << pdf << "\n";
  return 0;
}

int write_templates(const std::string& file, const std::string& pdf, const std::string& part,
                    const app::PaperChoice& choice) {
  Loaded d;
  if (const auto bad = load(file, part, d)) return complain(*bad);
  if (const auto written = app::write_templates_pdf(pdf, part, d.followed, choice); !written)
    return complain(written.error());
  std::cout << pdf << "\n";
  return 0;
}

QStringList view_names() {
  return {QStringLiteral("plan"),      QStringLiteral("side"),    QStringLiteral("solid"), QStringLiteral("bed"),
          QStringLiteral("rehearsal"), QStringLiteral("surface"), QStringLiteral("bench"), QStringLiteral("rack"),
          QStringLiteral("machine"),   QStringLiteral("runs")};
}

/// What can be asked for on the command line.
struct Asked {
  const QCommandLineOption sheet{QStringLiteral("sheet"), QStringLiteral("Write the run sheet as PDF and leave"),
                                 QStringLiteral("PDF")};
  const QCommandLineOption shot{QStringLiteral("screenshot"), QStringLiteral("Save a picture of the window and leave"),
                                QStringLiteral("PNG")};
  const QCommandLineOption view{
      QStringLiteral("view"),
      QStringLiteral("Picture to show: plan, side, solid, bed, rehearsal, surface, bench, rack, machine, runs"),
      QStringLiteral("VIEW"), QStringLiteral("bench")};
  const QCommandLineOption line{QStringLiteral("line"), QStringLiteral("Line of the build sheet to choose"),
                                QStringLiteral("ID")};
  const QCommandLineOption moment{QStringLiteral("moment"), QStringLiteral("Share of the rehearsal's clock, 0 to 1"),
                                  QStringLiteral("SHARE"), QStringLiteral("1")};
  const QCommandLineOption dark{QStringLiteral("dark"), QStringLiteral("Start dark")};
  const QCommandLineOption prove{QStringLiteral("prove"), QStringLiteral("Rehearse and prove at once")};
  const QCommandLineOption knife{QStringLiteral("knife"),
                                 QStringLiteral("Place of the knife in the neck's side view, mm from the nut"),
                                 QStringLiteral("MM")};
  const QCommandLineOption part{
      QStringLiteral("part"),
      QStringLiteral("Part of the sheet or templates: %1").arg(QString::fromStdString(all_parts().names())),
      QStringLiteral("PART"), QString::fromStdString(all_parts().kinds().front().id())};
  const QCommandLineOption templates{QStringLiteral("templates"),
                                     QStringLiteral("Write the part's templates at full size as PDF and leave"),
                                     QStringLiteral("PDF")};
  const QCommandLineOption timing{QStringLiteral("timing"),
                                  QStringLiteral("Say how long the first picture took, and leave")};
  const QCommandLineOption paper{QStringLiteral("paper"), QStringLiteral("Paper of sheet or templates: a4, a3, letter"),
                                 QStringLiteral("PAPER"), QStringLiteral("a4")};
  const QCommandLineOption inch{QStringLiteral("inch"),
                                QStringLiteral("Sheet or templates for who measures in inches")};
  const QCommandLineOption router{QStringLiteral("router"), QStringLiteral("Cutter of the hand router, mm"),
                                  QStringLiteral("MM"), QStringLiteral("12.7")};
  const QCommandLineOption follower{QStringLiteral("follower"),
                                    QStringLiteral("Bearing or bush that follows the template, mm"),
                                    QStringLiteral("MM"), QStringLiteral("12.7")};
  const QCommandLineOption step{QStringLiteral("step"), QStringLiteral("Show the step at the machine")};
  const QCommandLineOption alone_picture{QStringLiteral("alone"), QStringLiteral("Show the picture alone")};
  const QCommandLineOption text{QStringLiteral("text"), QStringLiteral("Size of the text, 12 to 24 points"),
                                QStringLiteral("POINTS"), QStringLiteral("12")};
  const QCommandLineOption size{QStringLiteral("size"), QStringLiteral("Size of the window's picture, WIDTHxHEIGHT"),
                                QStringLiteral("SIZE"), QStringLiteral("1280x800")};
  QCommandLineParser parser;
  const QCommandLineOption help = parser.addHelpOption();
  const QCommandLineOption version = parser.addVersionOption();

  Asked() {
    parser.setApplicationDescription(
        QStringLiteral("Upland Wren: fretboards, necks and bodies from their numbers to proved programs"));
    parser.addPositionalArgument(QStringLiteral("FILE"), QStringLiteral("Project to open (.wren)"));
    parser.addOptions({sheet, shot, view, line, moment, dark, prove, knife, part, templates, timing, paper, inch,
                       router, follower, step, alone_picture, text, size});
  }
  /// A window is asked for, and of this file: before there is an application. Nothing where the line also has what Qt
  /// takes for itself, or is an error.
  [[nodiscard]] std::optional<QString> early_file(int argc, char** argv) {
    QStringList said;
    for (int i = 0; i < argc; ++i) said << QString::fromLocal8Bit(argv[i]);
    if (!parser.parse(said) || has(help) || has(version) || has(sheet) || has(templates)) return {};
    return file();
  }
  [[nodiscard]] QString file() const { return parser.positionalArguments().value(0); }
  [[nodiscard]] bool has(const QCommandLineOption& option) const { return parser.isSet(option); }
  [[nodiscard]] QString value(const QCommandLineOption& option) const { return parser.value(option); }
  [[nodiscard]] std::string text_of(const QCommandLineOption& option) const { return value(option).toStdString(); }
  [[nodiscard]] double number(const QCommandLineOption& option) const { return value(option).toDouble(); }
};

/// The file's own numbers, or the demo's, and what follows from them: opening the file finds that done. A file that
/// cannot be read is told of by the window.
app::Workbench::Start begin_with(const QString& file) {
  Project first = *project_from("reedling");
  if (!file.isEmpty())
    if (auto read = load_project(file.toStdString())) first = std::move(*read);
  return {all_parts(), std::move(first)};
}

/// Papers are written without a window; nothing where a window was asked for.
std::optional<int> write_paper(const Asked& asked) {
  const bool sheet = asked.has(asked.sheet);
  if (!sheet && !asked.has(asked.templates)) return {};
  if (asked.file().isEmpty())
    return complain(
        {ProblemKind::input, "no project was named", sheet ? "--sheet" : "--templates", "Name a .wren file"});
  const std::string file = asked.file().toStdString(), part = asked.text_of(asked.part);
  const app::PaperChoice choice{asked.value(asked.paper),
                                asked.has(asked.inch) ? UnitSystem::inch : UnitSystem::millimetre,
                                {asked.number(asked.router), asked.number(asked.follower)}};
  return sheet ? write_sheet(file, asked.text_of(asked.sheet), part, choice)
               : write_templates(file, asked.text_of(asked.templates), part, choice);
}

/// The window as the command line wants it.
void arrange(const Asked& asked, app::Workbench& bench, app::MainWindow& window) {
  const auto show_view = [&asked, &window] {
    if (asked.has(asked.view))
      window.show_view(static_cast<app::View>(std::max<qsizetype>(0, view_names().indexOf(asked.value(asked.view)))));
  };
  if (asked.has(asked.line)) {
    const std::string wanted = asked.text_of(asked.line);
    bench.set_part(part_of_line(wanted));
    window.choose_line(wanted);
    // Lines of cuts are there once they are planned.
    QObject::connect(&bench, &app::Workbench::planned_now, &window, [&window, wanted, show_view] {
      if (window.line() == wanted) return;
      window.choose_line(wanted);
      show_view();
    });
  }
  show_view();
  if (asked.has(asked.step)) window.show_step(true);
  if (asked.has(asked.alone_picture)) window.show_alone(true);
  if (asked.has(asked.knife)) window.look_at(asked.number(asked.knife), 0);
  if (asked.has(asked.moment)) window.rehearsal()->show_share(asked.number(asked.moment));
  if (asked.has(asked.prove))
    QObject::connect(&bench, &app::Workbench::planned_now, &bench, [&bench] {
      if (bench.planned(bench.part()) && !bench.proof(bench.part()) && !bench.proving()) bench.prove_all();
    });
}

/// All that the view shows is there.
bool settled(const Asked& asked, const app::Workbench& bench, app::MainWindow& window) {
  const auto all_planned = [&] {
    for (const PartKind& kind : bench.parts().kinds())
      if (const auto d = bench.followed().designs.find(kind.id()); d && d->present && !bench.planned(kind.id()))
        return false;
    return true;
  };
  const auto* solid = window.view() == app::View::solid ? window.findChild<app::SolidView*>() : nullptr;
  return (solid == nullptr || solid->up_to_date()) && bench.planned(bench.part()) &&
         (window.view() != app::View::bench || all_planned()) &&
         (!asked.has(asked.prove) || bench.proof(bench.part())) &&
         (window.view() != app::View::rehearsal || window.rehearsal()->ready());
}

/// Saves the window's picture as soon as it is settled, and ends.
void take_picture(const Asked& asked, const app::Workbench& bench, app::MainWindow& window) {
  auto* wait = new QTimer(&window);
  QObject::connect(wait, &QTimer::timeout, &window, [&, ticks = 0]() mutable {
    ++ticks;
    if ((!settled(asked, bench, window) && ticks < 200) || ticks < 6) return;
    const bool saved = window.grab().save(asked.value(asked.shot));
    std::cout << (saved ? "picture: " : "could not save ") << asked.text_of(asked.shot) << "\n";
    QApplication::exit(saved ? 0 : 3);
  });
  wait->start(100);
}

}  // namespace

int main(int argc, char** argv) {
  QElapsedTimer clock;
  clock.start();
  Asked asked;
  // Begun before there is an application: its designs are made while Qt looks for its screen and fonts.
  const std::optional<QString> early = asked.early_file(argc, argv);
  std::future<app::Workbench::Start> start;
  if (early) start = std::async(std::launch::async, begin_with, *early);

  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("upland-wren"));
  QApplication::setOrganizationName(QStringLiteral("upland-wren"));
  QApplication::setApplicationVersion(QStringLiteral(WREN_VERSION));
  QApplication::setStyle(QStringLiteral("Fusion"));
  app::load_fonts();
  QApplication::setFont(app::text_font(10));
  app::translate_window(application);
  asked.parser.process(application);
  if (const auto done = write_paper(asked)) return *done;

  // Pictures and timings are taken without a person: nobody is asked, and nothing is kept.
  const bool alone = asked.has(asked.shot) || asked.has(asked.timing);
  const std::filesystem::path home =
      alone ? std::string()
            : (QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/unsaved"))
                  .toStdString();
  app::Workbench bench(early && *early == asked.file() ? start.get() : begin_with(asked.file()), all_parts(), home);
  app::MainWindow window(bench);
  if (asked.has(asked.dark)) window.apply_theme(true);
  if (alone) window.set_ask_before_closing(false);
  if (asked.has(asked.text)) window.set_text_size_of_window(asked.number(asked.text));
  if (asked.has(asked.shot)) {
    const QStringList wanted = asked.value(asked.size).split(QLatin1Char('x'));
    window.resize(wanted.value(0).toInt(), wanted.value(1).toInt());
  }
  window.show();  // first: a question stands over its window
  if (!asked.file().isEmpty() && !window.open_file(asked.file()) && asked.has(asked.shot)) return 3;
  if (!alone) window.offer_unnamed_work(home);
  arrange(asked, bench, window);
  QTimer::singleShot(0, &window, [&] {
    window.repaint();
    if (asked.has(asked.timing)) {
      std::cout << "first picture after " << clock.elapsed() << " ms\n";
      return QApplication::quit();
    }
    app::look_for_opengl();  // what it takes is nobody's wait, once there is a picture
  });
  if (asked.has(asked.shot)) take_picture(asked, bench, window);
  return QApplication::exec();
}

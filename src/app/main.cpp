// upland-wren: the window. With --sheet it writes a run sheet and leaves; with --screenshot it shows itself once and
// saves the picture.
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

int write_sheet(const std::string& file, const std::string& pdf, const std::string& part, const QString& paper) {
  Loaded d;
  if (const auto bad = load(file, part, d)) return complain(*bad);
  const auto planned = plan(*d.kind, d.followed, d.cache);
  if (!planned) return complain(planned.error());
  const std::string today = app::Workbench::today();
  const auto proof = prove_part(*planned, programs_of(d.followed.project, *planned, today));
  if (!proof) return complain(proof.error());
  const auto written = app::write_run_sheet_pdf(
      pdf, {*d.kind, d.followed, d.cache, *planned, today, UnitSystem::millimetre, &*proof}, paper);
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

}  // namespace

int main(int argc, char** argv) {
  const QElapsedTimer clock = [] {
    QElapsedTimer t;
    t.start();
    return t;
  }();
  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("upland-wren"));
  QApplication::setOrganizationName(QStringLiteral("upland-wren"));
  QApplication::setApplicationVersion(QStringLiteral(WREN_VERSION));
  QApplication::setStyle(QStringLiteral("Fusion"));
  app::load_fonts();
  QApplication::setFont(app::text_font(10));

  QCommandLineParser parser;
  parser.setApplicationDescription(
      QStringLiteral("Upland Wren: fretboards, necks and bodies from their numbers to proved programs"));
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument(QStringLiteral("FILE"), QStringLiteral("Project to open (.wren)"));
  const QCommandLineOption sheet(QStringLiteral("sheet"), QStringLiteral("Write the run sheet as PDF and leave"),
                                 QStringLiteral("PDF"));
  const QCommandLineOption shot(QStringLiteral("screenshot"), QStringLiteral("Save a picture of the window and leave"),
                                QStringLiteral("PNG"));
  const QCommandLineOption view(
      QStringLiteral("view"),
      QStringLiteral("Picture to show: plan, side, solid, bed, rehearsal, surface, bench, rack, machine, runs"),
      QStringLiteral("VIEW"), QStringLiteral("bench"));
  const QCommandLineOption line(QStringLiteral("line"), QStringLiteral("Line of the build sheet to choose"),
                                QStringLiteral("ID"));
  const QCommandLineOption moment(QStringLiteral("moment"), QStringLiteral("Share of the rehearsal's clock, 0 to 1"),
                                  QStringLiteral("SHARE"), QStringLiteral("1"));
  const QCommandLineOption dark(QStringLiteral("dark"), QStringLiteral("Start dark"));
  const QCommandLineOption prove(QStringLiteral("prove"), QStringLiteral("Rehearse and prove at once"));
  const QCommandLineOption knife(QStringLiteral("knife"),
                                 QStringLiteral("Place of the knife in the neck's side view, mm from the nut"),
                                 QStringLiteral("MM"));
  const QCommandLineOption part(
      QStringLiteral("part"),
      QStringLiteral("Part of the sheet or templates: %1").arg(QString::fromStdString(all_parts().names())),
      QStringLiteral("PART"), QString::fromStdString(all_parts().kinds().front().id()));
  const QCommandLineOption templates(QStringLiteral("templates"),
                                     QStringLiteral("Write the part's templates at full size as PDF and leave"),
                                     QStringLiteral("PDF"));
  const QCommandLineOption timing(QStringLiteral("timing"),
                                  QStringLiteral("Say how long the first picture took, and leave"));
  const QCommandLineOption paper(QStringLiteral("paper"), QStringLiteral("Paper of sheet or templates: a4, a3, letter"),
                                 QStringLiteral("PAPER"), QStringLiteral("a4"));
  const QCommandLineOption router(QStringLiteral("router"), QStringLiteral("Cutter of the hand router, mm"),
                                  QStringLiteral("MM"), QStringLiteral("12.7"));
  const QCommandLineOption follower(QStringLiteral("follower"),
                                    QStringLiteral("Bearing or bush that follows the template, mm"),
                                    QStringLiteral("MM"), QStringLiteral("12.7"));
  const QCommandLineOption step(QStringLiteral("step"), QStringLiteral("Show the step at the machine"));
  const QCommandLineOption alone_picture(QStringLiteral("alone"), QStringLiteral("Show the picture alone"));
  const QCommandLineOption text(QStringLiteral("text"), QStringLiteral("Size of the text, 12 to 24 points"),
                                QStringLiteral("POINTS"), QStringLiteral("12"));
  const QCommandLineOption size(QStringLiteral("size"), QStringLiteral("Size of the window's picture, WIDTHxHEIGHT"),
                                QStringLiteral("SIZE"), QStringLiteral("1280x800"));
  parser.addOptions({step, alone_picture, text, size, paper, router, follower, sheet, part, templates, shot, view, line,
                     moment, knife, dark, prove, timing});
  parser.process(application);
  const QStringList files = parser.positionalArguments();
  if (parser.isSet(sheet)) {
    if (files.isEmpty()) return complain({ProblemKind::input, "no project was named", "--sheet", "Name a .wren file"});
    return write_sheet(files.first().toStdString(), parser.value(sheet).toStdString(), parser.value(part).toStdString(),
                       parser.value(paper));
  }
  if (parser.isSet(templates)) {
    if (files.isEmpty())
      return complain({ProblemKind::input, "no project was named", "--templates", "Name a .wren file"});
    return write_templates(files.first().toStdString(), parser.value(templates).toStdString(),
                           parser.value(part).toStdString(),
                           {parser.value(paper), {parser.value(router).toDouble(), parser.value(follower).toDouble()}});
  }

  // Pictures and timings are taken without a person: nobody is asked, and nothing is kept.
  const bool alone = parser.isSet(shot) || parser.isSet(timing);
  const std::filesystem::path home =
      alone ? std::string()
            : (QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/unsaved"))
                  .toStdString();
  app::look_for_opengl();
  // The file's own numbers are worked out once: opening it finds them done. A file that cannot be read is told of
  // below.
  Project first = *project_from("reedling");
  if (!files.isEmpty())
    if (auto read = load_project(files.first().toStdString())) first = std::move(*read);
  app::Workbench bench(std::move(first), all_parts(), home);
  app::MainWindow window(bench);
  if (parser.isSet(dark)) window.apply_theme(true);
  if (alone) window.set_ask_before_closing(false);
  if (parser.isSet(text)) window.set_text_size_of_window(parser.value(text).toDouble());
  if (parser.isSet(shot)) {
    const QStringList wanted = parser.value(size).split(QLatin1Char('x'));
    window.resize(wanted.value(0).toInt(), wanted.value(1).toInt());
  }
  window.show();  // first: a question stands over its window
  if (!files.isEmpty() && !window.open_file(files.first()) && parser.isSet(shot)) return 3;
  if (!alone) window.offer_unnamed_work(home);
  if (parser.isSet(line)) {
    const std::string wanted = parser.value(line).toStdString();
    bench.set_part(part_of_line(wanted));
    window.choose_line(wanted);
    // Lines of cuts are there once they are planned.
    QObject::connect(&bench, &app::Workbench::planned_now, &window, [&window, &parser, wanted, view] {
      if (window.line() == wanted) return;
      window.choose_line(wanted);
      if (parser.isSet(view))
        window.show_view(static_cast<app::View>(std::max<qsizetype>(0, view_names().indexOf(parser.value(view)))));
    });
  }
  const QStringList views = view_names();
  if (parser.isSet(view))
    window.show_view(static_cast<app::View>(std::max<qsizetype>(0, views.indexOf(parser.value(view)))));
  if (parser.isSet(step)) window.show_step(true);
  if (parser.isSet(alone_picture)) window.show_alone(true);
  if (parser.isSet(knife)) window.look_at(parser.value(knife).toDouble(), 0);
  if (parser.isSet(moment)) window.rehearsal()->show_share(parser.value(moment).toDouble());
  if (parser.isSet(prove))
    QObject::connect(&bench, &app::Workbench::planned_now, &bench, [&bench] {
      if (bench.planned(bench.part()) && !bench.proof(bench.part()) && !bench.proving()) bench.prove_all();
    });
  if (parser.isSet(timing))
    QTimer::singleShot(0, &window, [&] {
      window.repaint();
      std::cout << "first picture after " << clock.elapsed() << " ms\n";
      QApplication::quit();
    });
  if (parser.isSet(shot)) {
    auto* wait = new QTimer(&window);
    QObject::connect(wait, &QTimer::timeout, &window, [&, ticks = 0]() mutable {
      ++ticks;
      const auto all_planned = [&] {
        for (const PartKind& kind : bench.parts().kinds())
          if (const auto d = bench.followed().designs.find(kind.id()); d && d->present && !bench.planned(kind.id()))
            return false;
        return true;
      };
      const auto* solid = window.view() == app::View::solid ? window.findChild<app::SolidView*>() : nullptr;
      const bool settled = (solid == nullptr || solid->up_to_date()) && bench.planned(bench.part()) &&
                           (window.view() != app::View::bench || all_planned()) &&
                           (!parser.isSet(prove) || bench.proof(bench.part())) &&
                           (window.view() != app::View::rehearsal || window.rehearsal()->ready());
      if ((!settled && ticks < 200) || ticks < 6) return;
      const bool saved = window.grab().save(parser.value(shot));
      std::cout << (saved ? "picture: " : "could not save ") << parser.value(shot).toStdString() << "\n";
      QApplication::exit(saved ? 0 : 3);
    });
    wait->start(100);
  }
  return QApplication::exec();
}

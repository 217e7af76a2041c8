#include "app/words.hpp"

#include <clocale>
#include <filesystem>
#include <optional>

#include <QCoreApplication>
#include <QLibraryInfo>
#include <QLocale>
#include <QTranslator>

#include "core/words/catalogue.hpp"

namespace wren::app {
namespace {

std::optional<Catalogue>& taken() {
  static std::optional<Catalogue> catalogue;
  return catalogue;
}

const Catalogue& catalogue() {
  if (!taken())
    take_words_from(std::filesystem::path(QCoreApplication::applicationDirPath().toStdString()) / "../share/locale");
  return *taken();
}

/// What the window says of itself, tr(), out of the same catalogue. "%n run(s)" is "%n run" and "%n runs" there.
class WindowWords : public QTranslator {
 public:
  using QTranslator::QTranslator;
  [[nodiscard]] bool isEmpty() const override { return false; }
  [[nodiscard]] QString translate(const char* /*context*/, const char* source, const char* /*which*/,
                                  int count) const override {
    if (source == nullptr || *source == '\0') return {};
    const QString said = QString::fromUtf8(source);
    if (count < 0) {
      const std::string told = catalogue().text(source);
      return told == source ? QString() : QString::fromStdString(told);
    }
    QString one = said, many = said;
    one.remove(QStringLiteral("(s)"));
    many.replace(QStringLiteral("(s)"), QStringLiteral("s"));
    return QString::fromStdString(
        catalogue().text(one.toStdString(), many.toStdString(), static_cast<unsigned long>(count)));
  }
};

char desktop_point() { return QLocale::system().decimalPoint() == QStringLiteral(",") ? ',' : '.'; }

}  // namespace

void take_words_from(const std::filesystem::path& folder) {
  std::setlocale(LC_MESSAGES, "");
  taken().emplace(folder);
}

void translate_window(QCoreApplication& application) {
  (void)catalogue();  // found here, before any other thread asks for words
  // Buttons of Qt's own dialogs, where its translations are on this machine; ours are asked first.
  auto* of_qt = new QTranslator(&application);
  if (of_qt->load(QLocale(), QStringLiteral("qtbase"), QStringLiteral("_"),
                  QLibraryInfo::path(QLibraryInfo::TranslationsPath)))
    QCoreApplication::installTranslator(of_qt);
  QCoreApplication::installTranslator(new WindowWords(&application));
}

Audience audience(UnitSystem units) { return {units, desktop_point(), &catalogue()}; }

QString in_words(const Words& words, UnitSystem units) { return QString::fromStdString(words.in(audience(units))); }

QString in_words(const Problem& problem, UnitSystem units) {
  return QString::fromStdString(problem.text(audience(units)));
}

QString length_words(double mm, UnitSystem units, int decimals) {
  return QString::fromStdString(Mm{mm, decimals}.in(audience(units)));
}

QString decimal(double value, int places) {
  return QString::fromStdString(with_point(QString::number(value, 'f', places).toStdString(), desktop_point()));
}

}  // namespace wren::app

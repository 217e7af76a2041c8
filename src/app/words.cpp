#include "app/words.hpp"

#include <clocale>
#include <filesystem>

#include <QCoreApplication>
#include <QLocale>

#include "core/words/catalogue.hpp"

namespace wren::app {
namespace {

/// Translations lie beside the programs: share/locale of the place they are installed in.
const Catalogue& catalogue() {
  static const Catalogue made = [] {
    std::setlocale(LC_MESSAGES, "");
    return Catalogue(std::filesystem::path(QCoreApplication::applicationDirPath().toStdString()) / "../share/locale");
  }();
  return made;
}

}  // namespace

Audience audience(UnitSystem units) {
  const QString point = QLocale::system().decimalPoint();
  return {units, point == QStringLiteral(",") ? ',' : '.', &catalogue()};
}

QString in_words(const Words& words, UnitSystem units) { return QString::fromStdString(words.in(audience(units))); }

QString in_words(const Problem& problem, UnitSystem units) {
  return QString::fromStdString(problem.text(audience(units)));
}

}  // namespace wren::app

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

char desktop_point() { return QLocale::system().decimalPoint() == QStringLiteral(",") ? ',' : '.'; }

}  // namespace

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

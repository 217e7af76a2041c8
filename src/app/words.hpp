// Words of the window that stand in more than one place.
#pragma once

#include <cmath>
#include <filesystem>

#include <QString>

#include "core/job/ledger.hpp"
#include "core/job/number_words.hpp"
#include "core/report/duration.hpp"
#include "core/report/problem.hpp"
#include "core/words/words.hpp"

class QCoreApplication;

namespace wren::app {

/// The window's own words (tr) come out of the catalogue of the core's sentences, so that a translation is one file.
void translate_window(QCoreApplication& application);
/// Where the catalogue lies: LANGUAGE/LC_MESSAGES/upland-wren.mo. Beside the programs, ../share/locale, where nothing
/// else was said.
void take_words_from(const std::filesystem::path& folder);

/// For whom the window puts the core's sentences into words: the desktop's language and decimal sign, these units.
[[nodiscard]] Audience audience(UnitSystem units);
[[nodiscard]] QString in_words(const Words& words, UnitSystem units = UnitSystem::millimetre);
[[nodiscard]] QString in_words(const Problem& problem, UnitSystem units = UnitSystem::millimetre);

/// A length with its unit, with at most so many places where millimetres are read: "41.275 mm", "1 5/8 in".
[[nodiscard]] QString length_words(double mm, UnitSystem units, int decimals = 3);
/// A number with so many places and the desktop's decimal sign.
[[nodiscard]] QString decimal(double value, int places);

/// "40 s", "12 min", "3 h 03 min".
[[nodiscard]] inline QString work_time(double seconds) { return QString::fromStdString(duration_text(seconds)); }

/// A ledger's value as a screen shows it: times in hours and minutes, choices in words.
[[nodiscard]] inline QString shown_value(const LedgerLine& line, UnitSystem units) {
  if (const double* seconds = std::get_if<double>(&line.value); seconds != nullptr && line.unit == "s")
    return work_time(*seconds);
  if (const auto* id = std::get_if<std::string>(&line.value); id != nullptr && line.kind == FieldKind::choice)
    return in_words(choice_words(line.key, *id));
  return QString::fromStdString(ledger_text(line, audience(units)));
}

/// The same rounded to what is told apart at a glance.
[[nodiscard]] inline QString rounded_value(const LedgerLine& line, UnitSystem units) {
  const double* v = std::get_if<double>(&line.value);
  if (v == nullptr || line.unit == "mm" || line.unit == "s") return shown_value(line, units);
  const int digits = std::abs(*v) >= 100 ? 0 : 1;
  return decimal(*v, digits) + (line.unit == "°" ? QString() : QStringLiteral(" ")) + QString::fromStdString(line.unit);
}

}  // namespace wren::app

#include "app/theme.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <QFontDatabase>

namespace wren::app {
namespace {

Theme current = Theme::light;

const Palette light{QColor(0xf3, 0xed, 0xe2), QColor(0xfc, 0xf9, 0xf3), QColor(0x2e, 0x26, 0x20),
                    QColor(0x7a, 0x6c, 0x5f), QColor(0xd8, 0xcd, 0xbd), QColor(0x7c, 0x4d, 0x82),
                    QColor(0xec, 0xe0, 0xee), QColor(0x5f, 0x78, 0x45), QColor(0xb8, 0x80, 0x0c),
                    QColor(0xb0, 0x37, 0x28), QColor(0xd9, 0xb8, 0x94), QColor(0x5c, 0x45, 0x33),
                    QColor(0x3b, 0x2c, 0x22), QColor(0xf8, 0xf4, 0xec)};
const Palette dark{QColor(0x1e, 0x1a, 0x18), QColor(0x28, 0x23, 0x20), QColor(0xee, 0xe6, 0xda),
                   QColor(0xa8, 0x9b, 0x8d), QColor(0x48, 0x3f, 0x38), QColor(0xc9, 0x9f, 0xcf),
                   QColor(0x43, 0x35, 0x46), QColor(0xa6, 0xbb, 0x82), QColor(0xe6, 0xb8, 0x4c),
                   QColor(0xe8, 0x7c, 0x6a), QColor(0xa8, 0x85, 0x63), QColor(0xe3, 0xcd, 0xb4),
                   QColor(0x1d, 0x15, 0x10), QColor(0xea, 0xe2, 0xd4)};

}  // namespace

void set_theme(Theme theme) { current = theme; }
Theme theme() { return current; }
const Palette& colours() { return current == Theme::light ? light : dark; }

QColor weight_colour(Weight weight) {
  switch (weight) {
    case Weight::stop: return colours().rowan;
    case Weight::think_again: return colours().gorse;
    case Weight::worth_knowing: return colours().lichen;
    case Weight::caution: return colours().heather;
  }
  return colours().ink;
}

void load_fonts() {
  for (const char* name : {"Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf", "JetBrainsMono-Regular.ttf"})
    QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/") + QLatin1String(name));
}

QFont text_font(double points, int weight) {
  QFont font(QStringLiteral("Inter"));
  font.setPointSizeF(points);
  font.setWeight(static_cast<QFont::Weight>(weight));
  return font;
}

QFont figure_font(double points) {
  QFont font(QStringLiteral("JetBrains Mono"));
  font.setPointSizeF(points);
  return font;
}

QColor quantity_colour(double share) {
  // Stops of even lightness steps from dark peat to pale straw, blue before yellow, so that no step hangs on red or
  // green.
  struct Stop {
    double r, g, b;
  };
  static constexpr std::array<Stop, 6> stops{{{0x22, 0x1f, 0x38},
                                              {0x3c, 0x3f, 0x6e},
                                              {0x5f, 0x66, 0x83},
                                              {0x92, 0x8c, 0x82},
                                              {0xc9, 0xb7, 0x70},
                                              {0xf6, 0xe8, 0xb0}}};
  const double x = std::clamp(share, 0.0, 1.0) * (stops.size() - 1);
  const auto i = std::min<std::size_t>(static_cast<std::size_t>(x), stops.size() - 2);
  const double t = x - static_cast<double>(i);
  const auto mix = [&](double a, double b) { return static_cast<int>(std::lround(a + (b - a) * t)); };
  return {mix(stops[i].r, stops[i + 1].r), mix(stops[i].g, stops[i + 1].g), mix(stops[i].b, stops[i + 1].b)};
}

QString style_sheet() {
  const Palette& p = colours();
  QString css = QStringLiteral(R"(
    QWidget { background: @ground; color: @ink; font-family: Inter; font-size: 10pt; }
    QMainWindow::separator, QSplitter::handle { background: @hair; }
    QSplitter::handle:horizontal { width: 1px; } QSplitter::handle:vertical { height: 1px; }
    QMenuBar { background: @ground; padding: 2px 6px; } QMenuBar::item { padding: 4px 9px; background: transparent; }
    QMenuBar::item:selected, QMenu::item:selected { background: @soft; color: @ink; }
    QMenu { background: @paper; border: 1px solid @hair; padding: 4px; } QMenu::item { padding: 5px 24px 5px 12px; } QMenu::separator { height: 1px; background: @hair; margin: 4px; }
    QMenu::item:disabled { color: @faint; }
    QFrame#sheet, QFrame#sheet QWidget { background: @paper; } QFrame#sheet { border: 1px solid @hair; }
    QFrame#sheet QScrollBar, QScrollBar { background: transparent; width: 9px; height: 9px; margin: 0; }
    QScrollBar::handle { background: @hair; border-radius: 4px; min-height: 24px; min-width: 24px; } QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; } QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QLabel#title { font-size: 11pt; font-weight: 600; } QLabel#quiet { color: @faint; font-size: 8.5pt; }
    QLineEdit, QComboBox { background: @ground; border: 1px solid @hair; border-radius: 3px; padding: 2px 6px; font-family: "JetBrains Mono"; font-size: 10pt; min-height: 19px; selection-background-color: @heather; selection-color: @paper; }
    QLineEdit:focus, QComboBox:focus { border: 1px solid @heather; } QLineEdit[bad="true"] { border: 2px solid @rowan; }
    QLineEdit:read-only { border: 1px solid transparent; background: transparent; }
    QComboBox::drop-down { border: none; width: 18px; } QComboBox::down-arrow { image: url(:/icons/down-@mode.svg); width: 9px; height: 9px; }
    QComboBox QAbstractItemView { background: @paper; border: 1px solid @hair; selection-background-color: @soft; selection-color: @ink; }
    QPushButton { background: @paper; border: 1px solid @hair; border-radius: 4px; padding: 4px 12px; } QPushButton:hover { border-color: @heather; } QPushButton:focus { border: 1px solid @heather; }
    QPushButton:disabled { color: @faint; } QPushButton#main { background: @heather; color: @paper; border-color: @heather; font-weight: 600; } QPushButton#main:disabled { background: @hair; border-color: @hair; color: @faint; }
    QPushButton#repair { padding: 2px 9px; font-size: 9pt; color: @heather; } QPushButton#view { border: none; border-bottom: 2px solid transparent; border-radius: 0; background: transparent; padding: 5px 11px; }
    QPushButton#view:checked { border-bottom: 2px solid @heather; font-weight: 600; } QPushButton#view:focus { color: @heather; }
    QToolTip { background: @paper; color: @ink; border: 1px solid @hair; padding: 4px; }
    QProgressBar { background: @paper; border: 1px solid @hair; border-radius: 3px; height: 12px; text-align: center; font-size: 8pt; } QProgressBar::chunk { background: @heather; }
    QSlider::groove:horizontal { height: 4px; background: @hair; border-radius: 2px; } QSlider::sub-page:horizontal { background: @heather; border-radius: 2px; }
    QSlider::handle:horizontal { width: 14px; height: 14px; margin: -6px 0; border-radius: 8px; background: @heather; border: 2px solid @paper; }
    QListWidget, QTableWidget, QTextBrowser { background: @paper; border: none; outline: none; } QTableWidget { gridline-color: @hair; } QHeaderView::section { background: @ground; border: none; border-bottom: 1px solid @hair; padding: 5px; font-weight: 600; }
    QTableWidget::item:selected, QListWidget::item:selected { background: @soft; color: @ink; }
    QStatusBar { background: @ground; border-top: 1px solid @hair; color: @faint; }
    QCheckBox::indicator { width: 15px; height: 15px; border: 1px solid @faint; border-radius: 3px; background: @ground; } QCheckBox::indicator:checked { background: @heather; border-color: @heather; } QCheckBox:focus { color: @heather; }
  )");
  const std::pair<const char*, QColor> names[] = {
      {"@ground", p.ground}, {"@paper", p.paper},     {"@ink", p.ink},           {"@faint", p.faint},
      {"@hair", p.hair},     {"@heather", p.heather}, {"@soft", p.heather_soft}, {"@rowan", p.rowan}};
  for (const auto& [name, colour] : names) css.replace(QLatin1String(name), colour.name());
  css.replace(QStringLiteral("@mode"), current == Theme::light ? QStringLiteral("light") : QStringLiteral("dark"));
  return css;
}

}  // namespace wren::app

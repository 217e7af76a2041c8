#include "app/theme.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include <QFontDatabase>
#include <QGuiApplication>
#include <QScreen>

namespace wren::app {
namespace {

Theme current = Theme::light;

// Every text colour stands at 4.5 : 1 or better on ground, paper and wash (tests/ui measures it).
const Palette light{QColor(0xf3, 0xed, 0xe2), QColor(0xfc, 0xf9, 0xf3), QColor(0x2e, 0x26, 0x20),
                    QColor(0x6a, 0x5d, 0x51), QColor(0xd8, 0xcd, 0xbd), QColor(0x72, 0x44, 0x7a),
                    QColor(0xec, 0xe0, 0xee), QColor(0x4f, 0x66, 0x38), QColor(0x80, 0x59, 0x00),
                    QColor(0xa8, 0x32, 0x24), QColor(0xd9, 0xb8, 0x94), QColor(0x5c, 0x45, 0x33),
                    QColor(0x3b, 0x2c, 0x22), QColor(0xf8, 0xf4, 0xec)};
const Palette dark{QColor(0x1e, 0x1a, 0x18), QColor(0x28, 0x23, 0x20), QColor(0xee, 0xe6, 0xda),
                   QColor(0xb3, 0xa6, 0x97), QColor(0x48, 0x3f, 0x38), QColor(0xcf, 0xa8, 0xd5),
                   QColor(0x43, 0x35, 0x46), QColor(0xa6, 0xbb, 0x82), QColor(0xe6, 0xb8, 0x4c),
                   QColor(0xf0, 0x8a, 0x78), QColor(0xa8, 0x85, 0x63), QColor(0xe3, 0xcd, 0xb4),
                   QColor(0x1d, 0x15, 0x10), QColor(0xea, 0xe2, 0xd4)};
double size_of_text = 12;
int on_paper = 0;

}  // namespace

void set_theme(Theme theme) { current = theme; }
Theme theme() { return current; }
const Palette& colours() { return current == Theme::light ? light : dark; }

void set_text_size(double points) { size_of_text = std::clamp(points, least_text_size, most_text_size); }
double text_size() { return size_of_text; }
TrueSize::TrueSize() { ++on_paper; }
TrueSize::~TrueSize() { --on_paper; }

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

namespace {

/// Sizes in the sources are those beside running text of 10.
double grown(double points) {
  if (on_paper > 0) return points;
  return points * std::min(size_of_text / 10, most_in_pictures);
}

}  // namespace

QFont text_font(double points, int weight) {
  QFont font(QStringLiteral("Inter"));
  font.setPointSizeF(grown(points));
  font.setWeight(static_cast<QFont::Weight>(weight));
  return font;
}

QFont figure_font(double points) {
  QFont font(QStringLiteral("JetBrains Mono"));
  font.setPointSizeF(grown(points));
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

namespace {

/// Pixels to a millimetre of the screen's own measure; a screen that tells nonsense counts as one of 96 to the inch.
double pixels_per_mm() {
  const QScreen* screen = QGuiApplication::primaryScreen();
  const double told = screen != nullptr ? screen->physicalDotsPerInchY() / 25.4 : 0;
  return told > 2 && told < 12 ? told : 96 / 25.4;
}

}  // namespace

double far_points() {
  // Inter's capitals are 0.727 of its size; points are logical, the screen's millimetres are not.
  constexpr double capitals = 0.727;
  const QScreen* screen = QGuiApplication::primaryScreen();
  const double logical = screen != nullptr ? screen->logicalDotsPerInchY() : 96;
  return 10.2 * pixels_per_mm() / capitals * 72 / logical;
}

double step_points() { return std::max(24.0, 2 * size_of_text); }

int touch_pixels() { return static_cast<int>(std::ceil(15 * pixels_per_mm())); }

QString style_sheet() {
  const Palette& p = colours();
  QString css = QStringLiteral(R"(
    QWidget { background: @ground; color: @ink; font-family: Inter; font-size: @1.0pt; }
    QMainWindow::separator, QSplitter::handle { background: @hair; }
    QSplitter::handle:horizontal { width: 1px; } QSplitter::handle:vertical { height: 1px; }
    QMenuBar { background: @ground; padding: 1px 4px; } QMenuBar::item { padding: 4px 8px; background: transparent; }
    QMenuBar::item:selected, QMenu::item:selected { background: @soft; color: @ink; }
    QMenu { background: @paper; border: 1px solid @hair; padding: 4px; } QMenu::item { padding: 5px 24px 5px 12px; } QMenu::separator { height: 1px; background: @hair; margin: 4px; }
    QMenu::item:disabled { color: @faint; }
    QFrame#sheet, QFrame#sheet QWidget { background: @paper; } QFrame#sheet { border: 1px solid @hair; }
    QFrame#sheet QScrollBar, QScrollBar { background: transparent; width: 9px; height: 9px; margin: 0; }
    QScrollBar::handle { background: @hair; border-radius: 4px; min-height: 24px; min-width: 24px; } QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; } QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QLabel#title { font-size: @1.1pt; font-weight: 600; } QLabel#quiet { color: @faint; font-size: @0.88pt; } QLabel#group { color: @heather; font-weight: 600; font-size: @0.94pt; }
    QLineEdit, QComboBox { background: @ground; border: 1px solid @hair; border-radius: 3px; padding: 2px 6px; font-family: "JetBrains Mono"; font-size: @1.0pt; min-height: 19px; selection-background-color: @heather; selection-color: @paper; }
    QComboBox { font-family: Inter; } QLineEdit:focus, QComboBox:focus { border: 1px solid @heather; } QLineEdit[bad="true"] { border: 2px solid @rowan; }
    QFrame#sheet QLineEdit:focus:!read-only { font-size: @1.35pt; padding: 0px 6px; }
    QLineEdit:read-only { border: 1px solid transparent; background: transparent; }
    QComboBox::drop-down { border: none; width: 18px; } QComboBox::down-arrow { image: url(:/icons/down-@mode.svg); width: 9px; height: 9px; }
    QComboBox QAbstractItemView { background: @paper; border: 1px solid @hair; selection-background-color: @soft; selection-color: @ink; }
    QPushButton { background: @paper; border: 1px solid @hair; border-radius: 4px; padding: 4px 12px; } QPushButton:hover { border-color: @heather; } QPushButton:focus { border: 1px solid @heather; }
    QPushButton:disabled { color: @faint; } QPushButton#main, QFrame#sheet QPushButton#main, QWidget#step QPushButton#main { background: @heather; color: @paper; border-color: @heather; font-weight: 600; } QPushButton#main:focus, QFrame#sheet QPushButton#main:focus { border: 2px solid @ink; } QPushButton#main:disabled, QFrame#sheet QPushButton#main:disabled, QWidget#step QPushButton#main:disabled { background: @hair; border-color: @hair; color: @faint; }
    QPushButton#repair { padding: 2px 9px; font-size: @0.92pt; color: @heather; } QPushButton#view { border: none; border-bottom: 2px solid transparent; border-radius: 0; background: transparent; padding: 4px 9px; }
    QPushButton#view:checked { border-bottom: 2px solid @heather; font-weight: 600; } QPushButton#view:focus { color: @heather; }
    QToolTip { background: @paper; color: @ink; border: 1px solid @hair; padding: 4px; }
    QProgressBar { background: @paper; border: 1px solid @hair; border-radius: 3px; height: 14px; text-align: center; font-size: @0.8pt; } QProgressBar::chunk { background: @soft; }
    QSlider::groove:horizontal { height: 4px; background: @hair; border-radius: 2px; } QSlider::sub-page:horizontal { background: @heather; border-radius: 2px; }
    QSlider::handle:horizontal { width: 14px; height: 14px; margin: -6px 0; border-radius: 8px; background: @heather; border: 2px solid @paper; }
    QListWidget, QTreeWidget, QTableWidget, QTextBrowser { background: @paper; border: none; outline: none; } QTableWidget { gridline-color: @hair; } QHeaderView::section { background: @ground; border: none; border-bottom: 1px solid @hair; padding: 5px; font-weight: 600; }
    QTableWidget::item:selected, QListWidget::item:selected { background: @soft; color: @ink; }
    QStatusBar { background: @ground; border-top: 1px solid @hair; color: @faint; }
    QCheckBox::indicator { width: 15px; height: 15px; border: 1px solid @faint; border-radius: 3px; background: @ground; } QCheckBox::indicator:checked { background: @heather; border-color: @heather; } QCheckBox:focus { color: @heather; }
    QWidget#step, QWidget#step QWidget { background: @paper; } QWidget#step QLabel { font-size: @step24pt; } QWidget#step QLabel#far { font-size: @far39pt; font-weight: 600; } QWidget#step QLineEdit, QWidget#step QComboBox, QWidget#step QCheckBox { font-size: @step24pt; } QWidget#step QCheckBox::indicator { width: 30px; height: 30px; } QWidget#step QPushButton { font-size: @step24pt; min-height: @touch; padding: 4px 22px; }
  )");
  const std::pair<const char*, QColor> names[] = {
      {"@ground", p.ground}, {"@paper", p.paper},     {"@ink", p.ink},           {"@faint", p.faint},
      {"@hair", p.hair},     {"@heather", p.heather}, {"@soft", p.heather_soft}, {"@rowan", p.rowan}};
  for (const auto& [name, colour] : names) css.replace(QLatin1String(name), colour.name());
  css.replace(QStringLiteral("@mode"), current == Theme::light ? QStringLiteral("light") : QStringLiteral("dark"));
  css.replace(QStringLiteral("@step24"), QString::number(step_points(), 'f', 1));
  css.replace(QStringLiteral("@far39"), QString::number(far_points(), 'f', 1));
  css.replace(QStringLiteral("@touch"), QStringLiteral("%1px").arg(touch_pixels()));
  for (const double share : {0.8, 0.88, 0.92, 0.94, 1.0, 1.1, 1.35})
    css.replace(QStringLiteral("@%1pt").arg(share == 1.0 ? QStringLiteral("1.0") : QString::number(share)),
                QStringLiteral("%1pt").arg(size_of_text * share, 0, 'f', 1));
  return css;
}

}  // namespace wren::app

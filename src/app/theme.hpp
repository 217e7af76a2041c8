// Colours, fonts and the style sheet: a daylight shop on a moor. Kinds are told by shape and line style as well as by
// colour.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

#include "core/report/remark.hpp"

namespace wren::app {

struct Palette {
  QColor ground, paper, ink, faint, hair;  // window, sheets, text, quiet text, hairlines
  QColor heather, heather_soft;            // the one accent, and its wash
  QColor lichen, gorse, rowan;             // well, think again, stop
  QColor wood, wood_edge, slot, pearl;     // in pictures
};

enum class Theme { light, dark };
void set_theme(Theme theme);
[[nodiscard]] Theme theme();
[[nodiscard]] const Palette& colours();
[[nodiscard]] QColor weight_colour(Weight weight);

/// Points of the running text. Everything else is in proportion; texts in pictures grow to half as much again as the
/// sources say, where their places allow no more.
inline constexpr double least_text_size = 12;
inline constexpr double most_text_size = 24;
inline constexpr double most_in_pictures = 1.5;
void set_text_size(double points);
[[nodiscard]] double text_size();
/// While there is one, texts are as large as the sources say: on paper.
class TrueSize {
 public:
  TrueSize();
  ~TrueSize();
  TrueSize(const TrueSize&) = delete;
  TrueSize& operator=(const TrueSize&) = delete;
};

/// What is read from across the room: capitals of 10 mm by the screen's own measure, in points.
[[nodiscard]] double far_points();
/// What is read beside the machine.
[[nodiscard]] double step_points();
/// 15 mm: what a dusty hand hits.
[[nodiscard]] int touch_pixels();

/// Loads the fonts that ship with the program; call once after QApplication is made.
void load_fonts();
[[nodiscard]] QFont text_font(double points, int weight = QFont::Normal);
[[nodiscard]] QFont figure_font(double points);  // tabular digits

[[nodiscard]] QString style_sheet();

/// Depth, leave, load: 0 to 1 on a scale even to the eye and readable to the colour-blind (dark peat to pale straw).
[[nodiscard]] QColor quantity_colour(double share);

}  // namespace wren::app

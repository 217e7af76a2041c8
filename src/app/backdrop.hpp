// A picture under a plan, to draw over: a scanned plan, a photograph. Scaled by two points whose distance is known,
// moved, taken off. It is the window's, not the project's: nothing of it is saved.
#pragma once

#include <QFrame>
#include <QImage>

#include "app/flat_view.hpp"

class QLabel;
class QLineEdit;
class QToolButton;

namespace wren::app {

/// The panel at the picture's foot; the view draws the backdrop itself and asks for its gestures. World: the view's.
class Backdrop : public QFrame {
  Q_OBJECT
 public:
  explicit Backdrop(FlatView& view);
  /// `low`: its lower-left corner.
  void lay(QImage picture, Vec2 low, double mm_per_pixel);
  void take_off();
  [[nodiscard]] bool there() const { return !picture_.isNull(); }
  [[nodiscard]] Vec2 low() const { return low_; }
  [[nodiscard]] double mm_per_pixel() const { return scale_; }
  void draw(QPainter& g, const QTransform& to_screen) const;
  /// What a press begins while it is moved or scaled; null where the picture's own gestures go on.
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at);

  // what the gestures do
  void move_to(Vec2 low);
  void mark(Vec2 at);
  /// Scales it so that its two marks are `known` mm apart, about the first; refused without two marks.
  [[nodiscard]] std::optional<Problem> scale_to(double known);

 private:
  void show_state();
  FlatView& view_;
  QImage picture_;
  Vec2 low_;
  double scale_ = 1;
  std::vector<Vec2> marks_;
  QToolButton* scaling_;
  QToolButton* moving_;
  QLabel* words_;
  QLineEdit* known_;
};

}  // namespace wren::app

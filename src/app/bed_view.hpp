// BedView: one side's blank on the machine's bed, for any part; and the plan of a part that has no plan view of its
// own.
#pragma once

#include "app/flat_view.hpp"
#include "app/pictures.hpp"

namespace wren::app {

class BedView : public FlatView {
  Q_OBJECT
 public:
  using FlatView::FlatView;
  /// The side of the part in work; one it has not shows its first.
  void set_side(const std::string& side);
  /// The side shown; null while nothing is planned.
  [[nodiscard]] const Side* side() const;
  /// The part's outline slid over its blank: shown by as much (work frame), and taken.
  void show_slide(std::optional<Vec2> by);
  void take_slide(Vec2 by);
  /// The same turned about the blank's middle over its strips, in radians of the work frame.
  void show_turn(std::optional<double> by);
  void take_turn(double by);
  /// The angle in which the blank's middle sees a place of the work frame.
  [[nodiscard]] double seen_at(Vec2 work) const;
  /// Seen from beside the machine: the drawing alone, without figures that could not be read from there.
  void set_far(bool far) { far_ = far; }

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw(QPainter& painter) override;
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at) override;
  void hover(QPointF at) override;
  void keyPressEvent(QKeyEvent*) override;
  [[nodiscard]] QMarginsF margins() const override {
    return far_ ? QMarginsF{16, 16, 16, 16} : QMarginsF{60, 60, 230, 60};
  }

 private:
  [[nodiscard]] double tip_points() const override { return far_ ? 20 : 10; }
  void paint_miss(QPainter& g, const Setup& setup, const QTransform& to_screen);
  /// The part's outline on this side, in its work frame; empty where it cannot be slid.
  [[nodiscard]] Polygon sliding() const;
  /// A way over the blank as edits of the part's keys, rounded to a tenth.
  [[nodiscard]] std::vector<std::pair<std::string, double>> slid(Vec2 by) const;
  bool far_ = false;
  /// The key of the turn with its value when the outline is turned by as much; nothing where it cannot be.
  [[nodiscard]] std::optional<std::pair<std::string, double>> turned_by(double by) const;
  [[nodiscard]] Vec2 blank_middle() const;
  std::optional<Vec2> slide_;
  std::optional<double> turn_;
  std::string side_;
  std::string fitted_;  // part and side the picture was last fitted to
};

}  // namespace wren::app

// The board's flat pictures: plan, side view.
#pragma once

#include "app/flat_view.hpp"

namespace wren::app {

/// The board from above, to scale, with strings and measures. The end and the tabs can be dragged.
class PlanView : public FlatView {
  Q_OBJECT
 public:
  using FlatView::FlatView;
  [[nodiscard]] std::vector<PictureGround> picture_grounds() const override {
    return {{BoardDesign::part, "plan", 0, to_screen(), {}}};
  }

 protected:
  [[nodiscard]] std::string part() const override { return BoardDesign::part; }
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw(QPainter& painter) override;
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at) override;
  void hover(QPointF at) override;
  [[nodiscard]] QMarginsF margins() const override { return {44, 70, 44, 64}; }

 private:
  [[nodiscard]] QPointF end_handle() const;
  [[nodiscard]] int tab_at(QPointF at) const;
  QPointF mouse_{-1, -1};
};

/// The board from the side, heights stretched, and a section across it under the mouse.
class SideView : public FlatView {
  Q_OBJECT
 public:
  SideView(Workbench& bench, QWidget* parent = nullptr);
  void set_stretch(double stretch);
  [[nodiscard]] double stretch() const { return stretch_; }
  void set_knife(double x) override;
  [[nodiscard]] std::vector<PictureGround> picture_grounds() const override;

 protected:
  [[nodiscard]] std::string part() const override { return BoardDesign::part; }
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw(QPainter& painter) override;
  void hover(QPointF at) override;
  void keyPressEvent(QKeyEvent*) override;
  [[nodiscard]] Vec2 seen(Vec3 place) const override { return {place.x, place.z * stretch_}; }
  [[nodiscard]] QMarginsF margins() const override { return {44, 56, 84, 176}; }

 private:
  void draw_section(QPainter& g, const BoardDesign& d);
  /// How the section across comes to the screen, heights four times; nothing where there is no board.
  [[nodiscard]] std::optional<QTransform> section_to_screen(const Fretboard& board) const;
  double stretch_ = 8;
  /// The section stays on the board, wherever the mouse went.
  void onto(const Fretboard& board) const;
  mutable double knife_ = 318;
};
}  // namespace wren::app

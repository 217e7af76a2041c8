// The neck's flat pictures: plan, side with the knife, surface (curvature).
#pragma once

#include "app/flat_view.hpp"
#include "app/neck_painter.hpp"

namespace wren::app {

/// Common to the neck's pictures.
class NeckPicture : public FlatView {
  Q_OBJECT
 public:
  using FlatView::FlatView;

 protected:
  [[nodiscard]] std::string part() const final { return NeckDesign::part; }
  void draw(QPainter& painter) final { draw_neck(painter, *bench().shape<NeckDesign>()); }
  virtual void draw_neck(QPainter& painter, const NeckDesign& neck) = 0;
  void hint(QPainter& painter, const QString& text);
};

/// From above, with strings running straight to their posts. First post, heel and rod end can be dragged.
class NeckPlanView : public NeckPicture {
  Q_OBJECT
 public:
  using NeckPicture::NeckPicture;
  [[nodiscard]] std::vector<PictureGround> picture_grounds() const override {
    return {{NeckDesign::part, "plan", 0, to_screen(), {}}};
  }

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw_neck(QPainter& painter, const NeckDesign& neck) override;
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at) override;
  void hover(QPointF at) override;
  [[nodiscard]] QMarginsF margins() const override { return {40, 64, 80, 66}; }

 private:
  struct Handle {
    QPointF at;
    std::string key;
    QString name;
  };
  [[nodiscard]] std::vector<Handle> handles() const;
  QPointF mouse_{-1, -1};
};

/// From the side, heights stretched, with a knife to slide along and the section it cuts. Thicknesses can be dragged.
class NeckSideView : public NeckPicture {
  Q_OBJECT
 public:
  using NeckPicture::NeckPicture;
  /// Moves the knife; x from the nut line in mm.
  void set_knife(double x) override;
  [[nodiscard]] double knife() const { return knife_; }
  [[nodiscard]] std::vector<PictureGround> picture_grounds() const override;

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw_neck(QPainter& painter, const NeckDesign& neck) override;
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at) override;
  void hover(QPointF at) override;
  void keyPressEvent(QKeyEvent*) override;
  [[nodiscard]] Vec2 seen(Vec3 place) const override { return {place.x, place.z * stretch_}; }
  [[nodiscard]] QMarginsF margins() const override { return {48, 44, 48, 190}; }

 private:
  [[nodiscard]] QPointF thickness_handle(bool second) const;
  /// How the section under the side view comes to the screen; nothing where the knife is off the neck.
  [[nodiscard]] std::optional<QTransform> section_to_screen() const;
  [[nodiscard]] QTransform stretched() const { return QTransform::fromScale(1, stretch_) * to_screen(); }
  double stretch_ = 2.5;
  double knife_ = 60;
  bool follow_ = true;
};

/// The back laid flat: curvature along the neck by colour, combs over three lines, measured sections with what the
/// surface leaves of each.
class SurfaceView : public NeckPicture {
  Q_OBJECT
 public:
  explicit SurfaceView(Workbench& bench, QWidget* parent = nullptr);

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw_neck(QPainter& painter, const NeckDesign& neck) override;
  void hover(QPointF at) override;
  [[nodiscard]] QMarginsF margins() const override { return {56, 40, 40, 62}; }

 private:
  void paint_map(const NeckDesign& neck);
  QImage map_;
  double scale_ = 1;  // 1/mm that is the end of the colours
  bool stale_ = true;
  QPointF mouse_{-1, -1};
};

}  // namespace wren::app

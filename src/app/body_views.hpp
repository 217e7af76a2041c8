// The body's flat pictures: plan with the outline's nodes to pull, set-up from the side.
#pragma once

#include <QFrame>
#include <QLabel>
#include <QLineEdit>

#include "app/body_painter.hpp"
#include "app/flat_view.hpp"

namespace wren::app {

/// Common to the body's pictures.
class BodyPicture : public FlatView {
  Q_OBJECT
 public:
  using FlatView::FlatView;

 protected:
  [[nodiscard]] std::string part() const final { return BodyDesign::part; }
  void draw(QPainter& painter) final { draw_body(painter, *bench().shape<BodyDesign>()); }
  virtual void draw_body(QPainter& painter, const BodyDesign& body) = 0;
};

/// From above. While the outline is the chosen line its nodes and handles can be pulled, with everything snapping to
/// centre line, scale line, strings and the edge that the neck enters by; at other lines hardware is dragged along its
/// own lines.
class BodyPlanView : public BodyPicture {
  Q_OBJECT
 public:
  explicit BodyPlanView(Workbench& bench, QWidget* parent = nullptr);
  void set_editing(bool editing);
  [[nodiscard]] bool editing() const { return editing_; }
  /// The path as it is being pulled; the bench's own between gestures.
  [[nodiscard]] const Path& path() const { return path_; }
  [[nodiscard]] int chosen() const { return chosen_; }
  void choose(int node);
  void take(Path path) {
    path_ = std::move(path);
    update();
  }
  /// Hands the pulled path to the bench as one step.
  void commit(const QString& name);
  [[nodiscard]] Vec2 snapped(Vec2 p, QString* to = nullptr) const;
  /// A picture under the outline, body frame.
  [[nodiscard]] std::vector<PictureGround> picture_grounds() const override {
    return {{BodyDesign::part, "plan", 0, to_screen(), {}}};
  }

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw_body(QPainter& painter, const BodyDesign& body) override;
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at) override;
  void hover(QPointF at) override;
  void keyPressEvent(QKeyEvent*) override;
  /// Tab goes through the nodes while the outline is edited, and on from the last one.
  bool focusNextPrevChild(bool next) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  [[nodiscard]] QMarginsF margins() const override {
    return {30, 34, editing_ && panel_ != nullptr ? panel_->sizeHint().width() + 24.0 : 30.0, 66};
  }

 private:
  struct Grip {
    QPointF at;
    std::string key;
    QString name;
  };
  void follow();
  void make_panel();
  void fill_panel();
  void place_panel();
  [[nodiscard]] std::vector<Grip> grips() const;
  [[nodiscard]] int node_at(QPointF at) const;
  bool editing_ = false;
  bool comb_ = false;
  Path path_;
  int chosen_ = -1;
  QPointF mouse_{-1, -1};
  QFrame* panel_ = nullptr;
  QLineEdit* fields_[6] = {};
  QLabel* which_ = nullptr;
};

/// The set-up on the centre line, heights stretched: face, pocket, neck, strings, saddles with their range, and a
/// section under the knife.
class BodySideView : public BodyPicture {
  Q_OBJECT
 public:
  using BodyPicture::BodyPicture;
  void set_knife(double x) override;
  [[nodiscard]] std::vector<PictureGround> picture_grounds() const override;

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw_body(QPainter& painter, const BodyDesign& body) override;
  void hover(QPointF at) override;
  void keyPressEvent(QKeyEvent*) override;
  [[nodiscard]] Vec2 seen(Vec3 place) const override { return {place.x, place.z * stretch_}; }
  [[nodiscard]] QMarginsF margins() const override { return {48, 54, 48, 150}; }

 private:
  /// How the section under the knife comes to the screen; nothing where the knife is off the body.
  [[nodiscard]] std::optional<QTransform> section_to_screen(const BodyShape& body) const;
  double stretch_ = 2.2;
  mutable double knife_ = 560;
};
}  // namespace wren::app

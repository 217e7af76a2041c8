// FlatView: a picture that can be moved and magnified, with gestures as objects. The base of the plan, the side view
// and the bed.
#pragma once

#include <memory>
#include <optional>

#include <QWidget>

#include "app/backdrop.hpp"
#include "app/board_painter.hpp"
#include "app/cutter_tip.hpp"
#include "app/workbench.hpp"

namespace wren::app {

class FlatView;

/// One way of using the mouse in a picture: begins at a press, ends at the release or is cancelled by Escape.
class Gesture {
 public:
  virtual ~Gesture() = default;
  virtual void move(FlatView& view, QPointF at) = 0;
  virtual void release(FlatView&) {}
  virtual void cancel(FlatView&) {}
};

/// Heights are stretched (+1) or eased (−1) by ']' and '[', and by Page Up and Page Down, since some keyboards have the
/// brackets behind AltGr; 0: neither.
[[nodiscard]] int stretch_key(const QKeyEvent& event);

class FlatView : public QWidget {
  Q_OBJECT
 public:
  explicit FlatView(Workbench& bench, QWidget* parent = nullptr);

  [[nodiscard]] Workbench& bench() const { return bench_; }
  [[nodiscard]] const QTransform& to_screen() const { return to_screen_; }
  [[nodiscard]] Vec2 world(QPointF screen) const;
  void pan(QPointF by);
  void zoom(double factor, QPointF about);
  void fit();
  void look_at(Vec2 place);
  /// Drawings of this view that a picture can lie behind, as they are shown now.
  [[nodiscard]] virtual std::vector<PictureGround> picture_grounds() const { return {}; }
  /// Shows the section across at this station, where the view has one.
  virtual void set_knife(double) {}
  [[nodiscard]] Backdrop& backdrop() const { return *backdrop_; }
  /// Where the machine has its cutter now, in the frame of the part (on the bed: of the work); nothing: it does not
  /// tell, or not of what is shown here.
  void set_tip(std::optional<CutterTip> tip);
  [[nodiscard]] const std::optional<CutterTip>& tip() const { return tip_; }
  /// A sentence over the next picture that is drawn.
  void say_above_later(const QString& words) { later_ = words; }

 protected:
  /// The part that is shown; where none follows from the numbers the picture says why and takes no gesture.
  [[nodiscard]] virtual std::string part() const { return bench_.part(); }
  /// World box that the whole picture covers.
  [[nodiscard]] virtual std::pair<Vec2, Vec2> extent() const = 0;
  virtual void draw(QPainter& painter) = 0;
  [[nodiscard]] bool there() const { return bench_.followed().designs.find(part()) != nullptr; }
  /// The gesture that a press here begins; panning where there is none.
  [[nodiscard]] virtual std::unique_ptr<Gesture> gesture_at(QPointF) { return {}; }
  virtual void hover(QPointF) {}
  [[nodiscard]] virtual QMarginsF margins() const { return {36, 44, 36, 40}; }

  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

  /// What the picture covers is new: fitted again unless it was moved by hand.
  void refit() {
    if (fitted_) fit();
  }
  [[nodiscard]] QString length(double mm) const;
  /// What the picture says of itself along its upper or lower edge, on as many lines as it takes; `up` is kept free.
  void say_above(QPainter& painter, const QString& words) const;
  void say_below(QPainter& painter, const QString& words, int up = 0, Qt::Alignment align = Qt::AlignLeft) const;
  void say_centred(QPainter& painter, int up, const QString& words) const {
    say_below(painter, words, up, Qt::AlignHCenter);
  }

 protected:
  /// Points of what is written beside the tip.
  [[nodiscard]] virtual double tip_points() const { return 10; }
  /// A place of that frame in the picture's own world: seen from above, unless a picture looks from elsewhere.
  [[nodiscard]] virtual Vec2 seen(Vec3 place) const { return {place.x, place.y}; }

 private:
  Workbench& bench_;
  std::optional<CutterTip> tip_;
  QTransform to_screen_;
  std::unique_ptr<Gesture> gesture_;
  Backdrop* backdrop_;
  QString later_;
  bool fitted_ = true;
};

}  // namespace wren::app

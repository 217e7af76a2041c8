// Pictures behind a drawing, to draw over and to trace: a scanned plan, a photograph, a gauge's line. The project says
// where they lie; their files stand beside it. Scaled by two points whose distance is known, turned, mirrored, moved,
// faded, traced, taken off.
#pragma once

#include <map>

#include <QFrame>
#include <QImage>
#include <QTransform>

#include "app/task.hpp"
#include "app/workbench.hpp"

class QDoubleSpinBox;
class QLabel;
class QLineEdit;
class QSlider;
class QToolButton;

namespace wren::app {

class FlatView;
class Gesture;

/// Where in a view pictures can lie: behind which drawing of the part, and how its world comes to the screen.
struct PictureGround {
  std::string part;
  std::string view;    // "plan", "side", "section"
  double station = 0;  // of a section
  QTransform to_screen;
  QRectF where{};  // on the screen; empty: all of it
  [[nodiscard]] bool holds(const PlacedPicture& p) const {
    return p.part == part && p.view == view && (view != "section" || std::abs(p.station - station) < 2.5);
  }
};

/// The panel at the picture's foot; the view draws the pictures and asks for their gestures.
class Backdrop : public QFrame {
  Q_OBJECT
 public:
  explicit Backdrop(FlatView& view);

  /// Keeps a picture beside the project and lays it in the middle of what the view shows, `wide` mm wide. It is read
  /// meanwhile; said when it lies there, or why it does not.
  void lay(const std::string& file, const PictureGround& ground, double wide, int page = 1);
  /// Whether a picture lies here whose pixels are there.
  [[nodiscard]] bool there() const { return shown() != nullptr; }
  [[nodiscard]] const PlacedPicture* shown() const;
  [[nodiscard]] QSize pixels() const;
  void draw(QPainter& g, const PictureGround& ground);
  /// What a press begins while it is moved, scaled or traced; null where the picture's own gestures go on.
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at);
  void place();
  void set_tracing(bool on);
  void set_scaling(bool on);
  void set_moving(bool on);

  // what the gestures and fields do
  [[nodiscard]] Vec2 world(QPointF at) const;
  void move_by(Vec2 by, const std::string& mark);
  void mark(Vec2 world);
  /// Scales it so that its two marks are `known` mm apart, about the first; refused without two marks.
  [[nodiscard]] std::optional<Problem> scale_to(double known);
  /// The shape that is drawn nearest to a place; empty where none is near.
  [[nodiscard]] Polygon shape_at(Vec2 world);
  /// Asks what it becomes, and takes it over.
  void take_shape_at(Vec2 world, QPoint on_screen);
  [[nodiscard]] std::optional<Problem> take(const Polygon& shape, const std::string& as, double station);

 private:
  void show_state();
  void change(const std::function<void(PlacedPicture&)>& how, const QString& name, const std::string& mark = {});
  void read_missing();
  void laid(PlacedPicture p, const std::string& pixels, const PictureGround& ground, double wide);
  [[nodiscard]] const PictureGround* ground_of(const PlacedPicture& p) const;
  /// What is read of a picture's file.
  struct Read {
    QImage image;
    std::optional<Problem> problem;
  };
  FlatView& view_;
  std::vector<PictureGround> grounds_;  // as they were drawn last
  std::map<std::string, Read> read_;    // by hash and page
  Task<Expected<std::string>> reading_{this};
  Task<Expected<std::pair<std::string, std::string>>> laying_{this};  // hash and pixels
  std::string under_way_;
  std::vector<Vec2> marks_;  // pixels
  std::vector<Polygon> shapes_;
  std::string shapes_of_;
  QToolButton* scaling_;
  QToolButton* moving_;
  QToolButton* tracing_;
  QDoubleSpinBox* turn_;
  QToolButton* mirror_;
  QSlider* fade_;
  QToolButton* off_;
  QLabel* words_;
  QLineEdit* known_;
  QLabel* name_;
};

}  // namespace wren::app

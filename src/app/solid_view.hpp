// SolidView: the part that is worked on as a lit solid (OpenGL 3.3). Where there is no OpenGL it says so and everything
// else goes on.
#pragma once

#include <QOpenGLBuffer>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <QOpenGLWidget>

#include "app/cutter_tip.hpp"
#include "app/theme.hpp"
#include "app/workbench.hpp"

namespace wren::app {

/// True where a 3.3 core context can be made on this display.
[[nodiscard]] bool opengl_works();
/// Begins to ask, beside whatever the window's thread does: the answer takes a tenth of a second.
void look_for_opengl();

/// Triangles of the board for the picture: positions (mm, instrument frame), normals, colours; three vertices a
/// triangle.
struct SolidMesh {
  std::vector<float> vertices;  // x y z nx ny nz r g b
  QVector3D low, high;          // its extent, mm
  [[nodiscard]] int count() const { return static_cast<int>(vertices.size() / 9); }
};
/// A part's mesh in its faces' tints, bent skins lit smoothly.
[[nodiscard]] SolidMesh tinted(const Mesh& mesh, const Palette& palette);

class SolidView : public QOpenGLWidget, protected QOpenGLFunctions_3_3_Core {
  Q_OBJECT
 public:
  explicit SolidView(Workbench& bench, QWidget* parent = nullptr);
  ~SolidView() override;
  /// Where the machine has its cutter now, frame of the part.
  void set_tip(std::optional<CutterTip> tip);
  /// True where what is shown is the solid of now.
  [[nodiscard]] bool up_to_date() const { return !stale_ && !making_.busy(); }
  /// Triangles shown now.
  [[nodiscard]] int triangles() const { return count_ / 3; }

 protected:
  void initializeGL() override;
  void paintGL() override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  /// Has the solid of now made beside the window; what was there is shown until it comes.
  void ask_for_solid();
  void upload();
  Workbench& bench_;
  Task<std::shared_ptr<const SolidMesh>> making_{this};
  std::shared_ptr<const SolidMesh> made_;  // came in, and is not on the card yet
  std::string part_;                       // whose solid is shown
  QOpenGLShaderProgram program_;
  QOpenGLBuffer buffer_{QOpenGLBuffer::VertexBuffer};
  QOpenGLVertexArrayObject array_;
  int count_ = 0;
  bool stale_ = true;
  std::optional<CutterTip> tip_;
  QPointF last_;
  double turn_ = -9;
  double tilt_ = 42;
  double distance_ = 1.0;
  QVector3D low_, high_;  // of what is shown, mm
};

}  // namespace wren::app

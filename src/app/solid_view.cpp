#include "app/solid_view.hpp"

#include <future>

#include <QCoreApplication>
#include <QKeyEvent>
#include <QMatrix4x4>
#include <QMouseEvent>
#include <QOffscreenSurface>
#include <QPainter>

#include "app/theme.hpp"

namespace wren::app {
namespace {

struct Tint {
  float r, g, b;
};
Tint tint(const QColor& c) {
  return {static_cast<float>(c.redF()), static_cast<float>(c.greenF()), static_cast<float>(c.blueF())};
}

}  // namespace

SolidMesh tinted(const Mesh& mesh, const Palette& p) {
  SolidMesh out;
  const Tint tints[] = {tint(p.wood.lighter(104)), tint(p.wood), tint(p.wood.darker(112))};
  const auto point = [&](std::uint32_t i) {
    const auto& q = mesh.points[i];
    return QVector3D(q[0], q[1], q[2]);
  };
  // Normals summed at each point, skins apart from walls: where faces nearly agree they are lit as one bent surface.
  std::vector<QVector3D> flat_of(mesh.triangles.size());
  std::vector<std::array<QVector3D, 3>> sums(mesh.points.size());
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    const auto& t = mesh.triangles[i];
    const QVector3D n = QVector3D::crossProduct(point(t[1]) - point(t[0]), point(t[2]) - point(t[0]));
    flat_of[i] = n.normalized();
    for (const std::uint32_t k : t) sums[k][static_cast<std::size_t>(mesh.faces[i])] += n;
  }
  out.vertices.reserve(mesh.triangles.size() * 27);
  if (!mesh.triangles.empty()) out.low = out.high = point(mesh.triangles.front()[0]);
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    const auto face = static_cast<std::size_t>(mesh.faces[i]);
    for (const std::uint32_t k : mesh.triangles[i]) {
      const QVector3D smooth = sums[k][face].normalized();
      const QVector3D n = QVector3D::dotProduct(smooth, flat_of[i]) > 0.75F ? smooth : flat_of[i];
      const QVector3D at = point(k);
      for (int axis = 0; axis < 3; ++axis) {
        out.low[axis] = std::min(out.low[axis], at[axis]);
        out.high[axis] = std::max(out.high[axis], at[axis]);
      }
      for (const float f : {at.x(), at.y(), at.z(), n.x(), n.y(), n.z(), tints[face].r, tints[face].g, tints[face].b})
        out.vertices.push_back(f);
    }
  }
  return out;
}

namespace {

std::shared_future<bool> opengl_answer;

}  // namespace

void look_for_opengl() {
  if (opengl_answer.valid()) return;
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  auto* surface = new QOffscreenSurface;  // of the window's thread, as it must be
  surface->setFormat(format);
  surface->create();
  opengl_answer = std::async(std::launch::async, [surface, format] {
                    QOpenGLContext context;
                    context.setFormat(format);
                    const bool works = context.create() && surface->isValid() && context.makeCurrent(surface) &&
                                       context.format().version() >= qMakePair(3, 3);
                    if (works) context.doneCurrent();
                    surface->deleteLater();
                    return works;
                  }).share();
  // It works with what the application owns: that waits for it.
  QObject::connect(qApp, &QCoreApplication::aboutToQuit, qApp, [] { opengl_answer.wait(); });
}

bool opengl_works() {
  look_for_opengl();
  return opengl_answer.get();
}

SolidView::SolidView(Workbench& bench, QWidget* parent) : QOpenGLWidget(parent), bench_(bench) {
  QSurfaceFormat f;
  f.setVersion(3, 3);
  f.setProfile(QSurfaceFormat::CoreProfile);
  f.setDepthBufferSize(24);
  f.setSamples(4);
  setFormat(f);
  setFocusPolicy(Qt::StrongFocus);
  connect(&bench, &Workbench::changed, this, [this] {
    stale_ = true;
    update();
  });
}

SolidView::~SolidView() {
  makeCurrent();
  buffer_.destroy();
  array_.destroy();
  doneCurrent();
}

void SolidView::initializeGL() {
  initializeOpenGLFunctions();
  program_.addShaderFromSourceCode(QOpenGLShader::Vertex, R"(#version 330 core
    layout(location = 0) in vec3 place; layout(location = 1) in vec3 normal; layout(location = 2) in vec3 colour;
    uniform mat4 view; uniform mat3 turn; out vec3 n; out vec3 c;
    void main() { gl_Position = view * vec4(place, 1); n = turn * normal; c = colour; })");
  program_.addShaderFromSourceCode(QOpenGLShader::Fragment, R"(#version 330 core
    in vec3 n; in vec3 c; out vec4 light;
    void main() { vec3 m = normalize(n); float key = max(dot(m, normalize(vec3(-0.35, 0.75, 0.55))), 0.0); float sky = 0.5 + 0.5 * m.y; float front = max(m.z, 0.0);
      float fill = max(dot(m, normalize(vec3(0.45, -0.75, 0.4))), 0.0);
      light = vec4(c * (0.27 + 0.50 * key + 0.15 * sky + 0.28 * front + 0.26 * fill), 1); })");
  program_.link();
  array_.create();
  buffer_.create();
  stale_ = true;
}

void SolidView::ask_for_solid() {
  stale_ = false;
  made_.reset();
  if (part_ != bench_.part()) count_ = 0;  // another part's solid is worse than none
  part_ = bench_.part();
  const auto design = bench_.followed().designs.find(part_);
  const auto make = bench_.kind().mesh;
  if (!design || !design->present || make == nullptr) {
    making_.cancel();
    count_ = 0;
    return;
  }
  making_.start(
      [followed = bench_.followed_now(), cache = bench_.cache_now(), make, palette = colours()](Progress&) {
        return std::make_shared<const SolidMesh>(tinted(make(followed->input(*cache), mesh_for_picture), palette));
      },
      [this](std::shared_ptr<const SolidMesh> made) {
        made_ = std::move(made);
        update();
      });
}

void SolidView::upload() {
  const SolidMesh& mesh = *made_;
  count_ = mesh.count();
  low_ = mesh.low;
  high_ = mesh.high;
  array_.bind();
  buffer_.bind();
  buffer_.allocate(mesh.vertices.data(), static_cast<int>(mesh.vertices.size() * sizeof(float)));
  for (GLuint i = 0; i < 3; ++i) {
    glEnableVertexAttribArray(i);
    glVertexAttribPointer(i, 3, GL_FLOAT, GL_FALSE, 9 * sizeof(float),
                          reinterpret_cast<const void*>(static_cast<std::uintptr_t>(i * 3 * sizeof(float))));
  }
  array_.release();
  made_.reset();
}

void SolidView::paintGL() {
  const QColor back = colours().ground;
  glClearColor(static_cast<float>(back.redF()), static_cast<float>(back.greenF()), static_cast<float>(back.blueF()), 1);
  glEnable(GL_DEPTH_TEST);
  glEnable(GL_MULTISAMPLE);
  glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
  if (stale_) ask_for_solid();
  if (made_ != nullptr) upload();
  std::optional<QPointF> tip;
  if (count_ > 0) {
    // A long thing fills the width; a wide one must fit the height as well.
    const auto size = std::max(high_.x() - low_.x(), 2.0F * (high_.y() - low_.y()));
    QMatrix4x4 view;
    const float aspect = static_cast<float>(width()) / static_cast<float>(std::max(1, height()));
    // A long lens: little perspective, so that straight edges look straight. The board fills the width.
    const float far = 0.66F * size / (0.1763F * std::clamp(aspect, 0.5F, 3.2F)) * static_cast<float>(distance_);
    view.perspective(20, aspect, far / 40, far * 4);
    view.translate(0, 0, -far);
    QMatrix4x4 turn;
    turn.rotate(static_cast<float>(tilt_ - 90), 1, 0, 0);
    turn.rotate(static_cast<float>(turn_), 0, 0, 1);
    view *= turn;
    view.translate((low_ + high_) * -0.5F);
    program_.bind();
    program_.setUniformValue("view", view);
    program_.setUniformValue("turn", turn.normalMatrix());
    array_.bind();
    glDrawArrays(GL_TRIANGLES, 0, count_);
    array_.release();
    program_.release();
    if (tip_) {
      // Seen through the solid: where it is matters more than what hides it.
      const QVector3D p = view.map(
          QVector3D(static_cast<float>(tip_->at.x), static_cast<float>(tip_->at.y), static_cast<float>(tip_->at.z)));
      tip = QPointF((double{p.x()} + 1) * width() / 2, (1 - double{p.y()}) * height() / 2);
    }
  }
  QPainter g(this);
  if (tip) {
    g.setRenderHint(QPainter::Antialiasing);
    draw_cutter_tip(g, *tip, tip_->over_zero);
  }
  g.setFont(text_font(8.5));
  g.setPen(colours().faint);
  const Problem* why = bench_.problem(bench_.part());
  g.drawText(QRectF(14, height() - 64, width() - 28, 58), Qt::AlignLeft | Qt::AlignBottom | Qt::TextWordWrap,
             count_ > 0       ? tr("Drag to turn, wheel for distance, arrow keys too. B: from the back.")
             : why != nullptr ? bench_.words(*why)
             : making_.busy() ? tr("The solid is being made…")
                              : tr("This part has no solid of its own."));
}

void SolidView::set_tip(std::optional<CutterTip> tip) {
  if (tip == tip_) return;
  tip_ = tip;
  update();
}

void SolidView::mousePressEvent(QMouseEvent* event) { last_ = event->position(); }

void SolidView::mouseMoveEvent(QMouseEvent* event) {
  const QPointF by = event->position() - last_;
  last_ = event->position();
  turn_ += by.x() * 0.4;
  tilt_ = std::clamp(tilt_ + by.y() * 0.4, -180.0, 180.0);
  update();
}

void SolidView::wheelEvent(QWheelEvent* event) {
  distance_ = std::clamp(distance_ * std::pow(0.999, event->angleDelta().y()), 0.1, 4.0);
  update();
}

void SolidView::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Left: turn_ -= 5; break;
    case Qt::Key_Right: turn_ += 5; break;
    case Qt::Key_Up: tilt_ = std::min(180.0, tilt_ + 5); break;
    case Qt::Key_Down: tilt_ = std::max(-180.0, tilt_ - 5); break;
    case Qt::Key_B: tilt_ = tilt_ > 0 ? -42 : 42; break;
    case Qt::Key_Plus: distance_ = std::max(0.1, distance_ * 0.85); break;
    case Qt::Key_Minus: distance_ = std::min(4.0, distance_ / 0.85); break;
    default: QOpenGLWidget::keyPressEvent(event); return;
  }
  update();
}

}  // namespace wren::app

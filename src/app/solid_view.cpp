#include "app/solid_view.hpp"

#include <QKeyEvent>
#include <QMatrix4x4>
#include <QMouseEvent>
#include <QOffscreenSurface>
#include <QPainter>

#include "app/theme.hpp"
#include "core/job/body_mesh.hpp"
#include "core/job/neck_mesh.hpp"

namespace wren::app {
namespace {

struct Tint {
  float r, g, b;
};
Tint tint(const QColor& c) {
  return {static_cast<float>(c.redF()), static_cast<float>(c.greenF()), static_cast<float>(c.blueF())};
}

class MeshMaker {
 public:
  explicit MeshMaker(SolidMesh& mesh) : mesh_(mesh) {}
  void triangle(QVector3D a, QVector3D b, QVector3D c, Tint t) {
    const QVector3D n = QVector3D::crossProduct(b - a, c - a).normalized();
    for (const QVector3D& p : {a, b, c})
      for (const float v : {p.x(), p.y(), p.z(), n.x(), n.y(), n.z(), t.r, t.g, t.b}) mesh_.vertices.push_back(v);
  }
  void quad(QVector3D a, QVector3D b, QVector3D c, QVector3D d, Tint t) {
    triangle(a, b, c, t);
    triangle(a, c, d, t);
  }

 private:
  SolidMesh& mesh_;
};

QVector3D up(Vec2 p, double z) { return {static_cast<float>(p.x), static_cast<float>(p.y), static_cast<float>(z)}; }

}  // namespace

SolidMesh board_mesh(const Fretboard& b) {
  SolidMesh mesh;
  MeshMaker maker(mesh);
  const Palette& p = colours();
  const Tint wood = tint(p.wood);
  const Tint side = tint(p.wood.darker(118));
  const Tint slot = tint(p.slot);
  // Strips across the board between straight sections, cut exactly at the outline.
  const Box2 box = bounds(b.corners);
  const int along = 240;
  const int across = 24;
  const auto section = [&](double x) {
    const double inner = std::clamp(x, box.low.x + 1e-4, box.high.x - 1e-4);
    const auto s = crossing(b.corners, {inner, 0}, {0, 1});
    return s ? *s : Span{0, 0};
  };
  for (int i = 0; i < along; ++i) {
    const double x0 = box.low.x + box.size().x * i / along;
    const double x1 = box.low.x + box.size().x * (i + 1) / along;
    const Span s0 = section(x0);
    const Span s1 = section(x1);
    for (int j = 0; j < across; ++j) {
      const auto at = [&](double x, const Span& s, int k) {
        const Vec2 q{x, s.low + (s.high - s.low) * k / across};
        return up(q, b.crown_height(q));
      };
      maker.quad(at(x0, s0, j), at(x1, s1, j), at(x1, s1, j + 1), at(x0, s0, j + 1), wood);
    }
  }
  for (std::size_t i = 0; i < b.corners.size(); ++i) {
    const Vec2 q = b.corners[i];
    const Vec2 r = b.corners[(i + 1) % b.corners.size()];
    const int pieces = std::max(1, static_cast<int>(distance(q, r) / 4));
    for (int k = 0; k < pieces; ++k) {
      const Vec2 u = lerp(q, r, static_cast<double>(k) / pieces);
      const Vec2 v = lerp(q, r, static_cast<double>(k + 1) / pieces);
      maker.quad(up(u, 0), up(v, 0), up(v, b.crown_height(v)), up(u, b.crown_height(u)), side);
    }
  }
  constexpr double lift = 0.05;  // mm above the crown, so that slots and marks are seen on it
  for (const FretLine& f : b.frets) {
    const Vec2 n = left_of(f.along()) * std::max(0.35, b.given.slot.width / 2);
    for (int k = 0; k < 16; ++k) {
      const Vec2 u = lerp(f.slot_bass, f.slot_treble, k / 16.0);
      const Vec2 v = lerp(f.slot_bass, f.slot_treble, (k + 1) / 16.0);
      const auto on = [&](Vec2 q) { return up(q, b.crown_height(q) + lift); };
      maker.quad(on(u - n), on(u + n), on(v + n), on(v - n), slot);
    }
    // Open ends, as a row of dark notches along the edges.
    if (b.given.slot.ends == SlotEnds::through)
      for (const auto& [end, out] : {std::pair{f.slot_bass, -1.0}, std::pair{f.slot_treble, 1.0}}) {
        const Vec2 e = end + f.along() * (out * 0.06);
        maker.quad(up(e - n, b.slot_floor(end)), up(e + n, b.slot_floor(end)), up(e + n, b.crown_height(end) + lift),
                   up(e - n, b.crown_height(end) + lift), slot);
      }
  }
  for (const Mark& m : b.marks)
    for (std::size_t i = 0; i < m.outline.size(); ++i) {
      const Vec2 q = m.outline[i];
      const Vec2 r = m.outline[(i + 1) % m.outline.size()];
      maker.triangle(up(m.centre, b.crown_height(m.centre) + lift), up(q, b.crown_height(q) + lift),
                     up(r, b.crown_height(r) + lift), tint(p.pearl));
    }
  return mesh;
}

SolidMesh neck_solid(const NeckShape& n) {
  SolidMesh out;
  const Mesh mesh = neck_mesh(n, 3.0);
  const Palette& p = colours();
  const Tint wood = tint(p.wood);
  const Tint side = tint(p.wood.darker(112));
  const Tint front = tint(p.wood.lighter(104));
  out.vertices.reserve(mesh.triangles.size() * 27);
  const auto back_normal = [&](const std::array<float, 3>& at) {
    constexpr double h = 0.25;
    const Vec2 q{static_cast<double>(at[0]), static_cast<double>(at[1])};
    const double dx = (n.depth({q.x + h, q.y}) - n.depth({q.x - h, q.y})) / (2 * h);
    const double dy = (n.depth({q.x, q.y + h}) - n.depth({q.x, q.y - h})) / (2 * h);
    return QVector3D(static_cast<float>(-dx), static_cast<float>(-dy), -1).normalized();
  };
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    QVector3D v[3];
    for (int k = 0; k < 3; ++k) {
      const auto& q = mesh.points[mesh.triangles[i][static_cast<std::size_t>(k)]];
      v[k] = {q[0], q[1], q[2]};
    }
    const QVector3D flat_normal = QVector3D::crossProduct(v[1] - v[0], v[2] - v[0]).normalized();
    const Tint t = mesh.faces[i] == MeshFace::top ? front : mesh.faces[i] == MeshFace::wall ? side : wood;
    for (int k = 0; k < 3; ++k) {
      QVector3D normal = flat_normal;
      if (mesh.faces[i] == MeshFace::bottom) {
        const QVector3D smooth = back_normal(mesh.points[mesh.triangles[i][static_cast<std::size_t>(k)]]);
        if (QVector3D::dotProduct(smooth, flat_normal) > 0.6F) normal = smooth;
      }
      for (const float f : {v[k].x(), v[k].y(), v[k].z(), normal.x(), normal.y(), normal.z(), t.r, t.g, t.b})
        out.vertices.push_back(f);
    }
  }
  return out;
}

SolidMesh body_solid(const BodyShape& body) {
  SolidMesh out;
  const Mesh mesh = body_mesh(body, 6.0);
  const Palette& p = colours();
  const Tint face = tint(p.wood.lighter(104));
  const Tint back = tint(p.wood);
  const Tint side = tint(p.wood.darker(112));
  out.vertices.reserve(mesh.triangles.size() * 27);
  for (std::size_t i = 0; i < mesh.triangles.size(); ++i) {
    QVector3D v[3];
    for (int k = 0; k < 3; ++k) {
      const auto& q = mesh.points[mesh.triangles[i][static_cast<std::size_t>(k)]];
      v[k] = {q[0], q[1], q[2]};
    }
    const QVector3D normal = QVector3D::crossProduct(v[1] - v[0], v[2] - v[0]).normalized();
    // Bent skins are lit by their own slope, so that facets do not show.
    const auto smooth = [&](const QVector3D& at) {
      if (mesh.faces[i] == MeshFace::wall) return normal;
      constexpr double h = 0.15;
      const bool top = mesh.faces[i] == MeshFace::top;
      const Vec2 q{static_cast<double>(at.x()), static_cast<double>(at.y())};
      const auto z = [&](Vec2 d) { return top ? body.top(q + d) : body.bottom(q + d); };
      if (std::abs(z({}) - static_cast<double>(at.z())) > 0.05) return normal;  // a floor
      QVector3D n(static_cast<float>(-(z({h, 0}) - z({-h, 0})) / (2 * h)),
                  static_cast<float>(-(z({0, h}) - z({0, -h})) / (2 * h)), 1);
      n = (top ? n : -n).normalized();
      return QVector3D::dotProduct(n, normal) > 0.4F ? n : normal;
    };
    const Tint t = mesh.faces[i] == MeshFace::top ? face : mesh.faces[i] == MeshFace::wall ? side : back;
    for (int k = 0; k < 3; ++k) {
      const QVector3D n = smooth(v[k]);
      for (const float f : {v[k].x(), v[k].y(), v[k].z(), n.x(), n.y(), n.z(), t.r, t.g, t.b})
        out.vertices.push_back(f);
    }
  }
  return out;
}

bool opengl_works() {
  static const bool works = [] {
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    QOpenGLContext context;
    context.setFormat(format);
    QOffscreenSurface surface;
    surface.setFormat(format);
    surface.create();
    return context.create() && surface.isValid() && context.makeCurrent(&surface) &&
           context.format().version() >= qMakePair(3, 3);
  }();
  return works;
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

void SolidView::upload() {
  stale_ = false;
  count_ = 0;
  const auto d = bench_.design();
  const auto neck = bench_.neck();
  const auto body = bench_.body();
  const Part part = bench_.part();
  if (part == Part::body ? !body : part == Part::neck ? !neck : !d) return;
  const SolidMesh mesh = part == Part::body   ? body_solid(body->shape)
                         : part == Part::neck ? neck_solid(neck->shape)
                                              : board_mesh(d->board);
  count_ = mesh.count();
  low_ = {1e9F, 1e9F, 1e9F};
  high_ = -low_;
  for (std::size_t i = 0; i < mesh.vertices.size(); i += 9)
    for (int k = 0; k < 3; ++k) {
      low_[k] = std::min(low_[k], mesh.vertices[i + static_cast<std::size_t>(k)]);
      high_[k] = std::max(high_[k], mesh.vertices[i + static_cast<std::size_t>(k)]);
    }
  array_.bind();
  buffer_.bind();
  buffer_.allocate(mesh.vertices.data(), static_cast<int>(mesh.vertices.size() * sizeof(float)));
  for (GLuint i = 0; i < 3; ++i) {
    glEnableVertexAttribArray(i);
    glVertexAttribPointer(i, 3, GL_FLOAT, GL_FALSE, 9 * sizeof(float),
                          reinterpret_cast<const void*>(static_cast<std::uintptr_t>(i * 3 * sizeof(float))));
  }
  array_.release();
}

void SolidView::paintGL() {
  const QColor back = colours().ground;
  glClearColor(static_cast<float>(back.redF()), static_cast<float>(back.greenF()), static_cast<float>(back.blueF()), 1);
  glEnable(GL_DEPTH_TEST);
  glEnable(GL_MULTISAMPLE);
  glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
  if (stale_) upload();
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
  }
  QPainter g(this);
  g.setFont(text_font(8.5));
  g.setPen(colours().faint);
  g.drawText(QRectF(14, height() - 24, width() - 28, 18), Qt::AlignLeft,
             count_ > 0 ? tr("Drag to turn, wheel for distance, arrow keys too. B: from the back.")
                        : tr("Nothing follows from these numbers."));
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

#include "app/flat_view.hpp"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QWheelEvent>

#include "app/words.hpp"

namespace wren::app {
namespace {

class Pan : public Gesture {
 public:
  explicit Pan(QPointF at) : last_(at) {}
  void move(FlatView& view, QPointF at) override {
    view.pan(at - last_);
    last_ = at;
  }

 private:
  QPointF last_;
};

}  // namespace

FlatView::FlatView(Workbench& bench, QWidget* parent) : QWidget(parent), bench_(bench) {
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(200, 120);
  backdrop_ = new Backdrop(*this);
  connect(&bench, &Workbench::changed, this, [this] {
    if (fitted_) fit();
    update();
  });
  connect(&bench, &Workbench::planned_now, this, [this] { update(); });
  connect(&bench, &Workbench::came_ahead, this, [this](const std::string& part) {
    if (part != this->part()) return;
    if (fitted_) fit();
    update();
  });
}

Vec2 FlatView::world(QPointF screen) const {
  const QPointF p = to_screen_.inverted().map(screen);
  return {p.x(), p.y()};
}

void FlatView::pan(QPointF by) {
  to_screen_ = to_screen_ * QTransform::fromTranslate(by.x(), by.y());
  fitted_ = false;
  update();
}

void FlatView::zoom(double factor, QPointF about) {
  const double now = std::hypot(to_screen_.m11(), to_screen_.m12());
  if (now * factor > 2000 || now * factor < 0.02) return;
  to_screen_ = to_screen_ * QTransform::fromTranslate(-about.x(), -about.y()) * QTransform::fromScale(factor, factor) *
               QTransform::fromTranslate(about.x(), about.y());
  fitted_ = false;
  update();
}

void FlatView::fit() {
  const auto [low, high] = extent();
  to_screen_ = fitted(low, high, QRectF(rect()).marginsRemoved(margins()));
  fitted_ = true;
  update();
}

void FlatView::look_at(Vec2 place) {
  const QPointF at = mapped(place, to_screen_);
  pan(QRectF(rect()).center() - at);
  if (std::hypot(to_screen_.m11(), to_screen_.m12()) < 4)
    zoom(4 / std::hypot(to_screen_.m11(), to_screen_.m12()), QRectF(rect()).center());
}

void FlatView::paintEvent(QPaintEvent*) {
  QPainter g(this);
  g.fillRect(rect(), colours().ground);
  g.setRenderHint(QPainter::Antialiasing);
  if (!there()) {
    g.setFont(text_font(11));
    g.setPen(colours().rowan);
    const PartKind& kind = *bench_.parts().find(part());
    // What it is made from comes first: there the cause lies.
    const Problem* problem = nullptr;
    for (const std::string& id : bench_.parts().made_from(kind))
      if (problem == nullptr) problem = bench_.problem(id);
    g.drawText(rect().adjusted(40, 40, -40, -40), Qt::AlignCenter | Qt::TextWordWrap,
               tr("No %1 follows from these numbers.\n\n%2\n\nCorrect the number, or undo.")
                   .arg(in_words(kind.title()).toLower(), problem != nullptr ? in_words(*problem) : QString()));
    return;
  }
  // Pictures lie under the drawing, which then is like tracing paper.
  for (const PictureGround& ground : picture_grounds()) backdrop_->draw(g, ground);
  if (backdrop_->there()) g.setOpacity(0.55);
  draw(g);
  g.setOpacity(1);
  if (tip_) draw_cutter_tip(g, mapped(seen(tip_->at), to_screen_), tip_->over_zero, tip_points());
  if (later_.isEmpty()) return;
  g.setFont(text_font(9));
  g.setPen(colours().rowan);
  say_centred(g, 20, later_);
  later_.clear();
}

void FlatView::set_tip(std::optional<CutterTip> tip) {
  if (tip == tip_) return;
  tip_ = tip;
  update();
}

void FlatView::resizeEvent(QResizeEvent*) {
  backdrop_->place();
  if (fitted_) fit();
}

void FlatView::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton && event->button() != Qt::MiddleButton) return;
  setFocus();
  gesture_ = event->button() == Qt::LeftButton && there() ? backdrop_->gesture_at(event->position()) : nullptr;
  if (!gesture_ && event->button() == Qt::LeftButton && there()) gesture_ = gesture_at(event->position());
  if (!gesture_) gesture_ = std::make_unique<Pan>(event->position());
}

void FlatView::mouseMoveEvent(QMouseEvent* event) {
  if (gesture_)
    gesture_->move(*this, event->position());
  else if (there())
    hover(event->position());
}

void FlatView::mouseReleaseEvent(QMouseEvent*) {
  if (!gesture_) return;
  gesture_->release(*this);
  gesture_.reset();
}

void FlatView::mouseDoubleClickEvent(QMouseEvent*) { fit(); }

void FlatView::wheelEvent(QWheelEvent* event) { zoom(std::pow(1.0015, event->angleDelta().y()), event->position()); }

int stretch_key(const QKeyEvent& event) {
  switch (event.key()) {
    case Qt::Key_BracketRight:
    case Qt::Key_PageUp: return 1;
    case Qt::Key_BracketLeft:
    case Qt::Key_PageDown: return -1;
    default: return 0;
  }
}

void FlatView::keyPressEvent(QKeyEvent* event) {
  const QPointF centre = QRectF(rect()).center();
  switch (event->key()) {
    case Qt::Key_Plus: zoom(1.25, centre); return;
    case Qt::Key_Minus: zoom(0.8, centre); return;
    case Qt::Key_0: fit(); return;
    case Qt::Key_Left: pan({40, 0}); return;
    case Qt::Key_Right: pan({-40, 0}); return;
    case Qt::Key_Up: pan({0, 40}); return;
    case Qt::Key_Down: pan({0, -40}); return;
    case Qt::Key_Escape:
      if (gesture_) {
        gesture_->cancel(*this);
        gesture_.reset();
        return;
      }
      break;
    default: break;
  }
  QWidget::keyPressEvent(event);
}

void FlatView::say_above(QPainter& g, const QString& words) const {
  g.drawText(QRectF(14, 8, width() - 28, height() / 3.0), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words);
}

void FlatView::say_below(QPainter& g, const QString& words, int up, Qt::Alignment align) const {
  const double tall = height() / 3.0;
  g.drawText(QRectF(14, height() - 6 - up - tall, width() - 28, tall),
             static_cast<int>(align | Qt::AlignBottom) | Qt::TextWordWrap, words);
}

QString FlatView::length(double mm) const {
  const Audience reader = audience(bench_.units());
  const std::string text = reader.units == UnitSystem::inch ? format_inch(mm) + "″" : format_mm(mm, 2);
  return QString::fromStdString(with_point(text, reader.point));
}

}  // namespace wren::app

#include "app/backdrop.hpp"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

#include "app/board_painter.hpp"
#include "app/fields.hpp"
#include "app/theme.hpp"
#include "exchange/plan_in.hpp"

namespace wren::app {
namespace {

class MoveBackdrop : public Gesture {
 public:
  MoveBackdrop(Backdrop& backdrop, const FlatView& view, QPointF at)
      : backdrop_(backdrop), from_(view.world(at)), low_(backdrop.low()) {}
  void move(FlatView& view, QPointF at) override { backdrop_.move_to(low_ + view.world(at) - from_); }
  void cancel(FlatView&) override { backdrop_.move_to(low_); }

 private:
  Backdrop& backdrop_;
  Vec2 from_, low_;
};

/// A click that marks where it is let go, so that it can be pulled to its place first.
class MarkBackdrop : public Gesture {
 public:
  MarkBackdrop(Backdrop& backdrop, const FlatView& view, QPointF at) : backdrop_(backdrop), at_(view.world(at)) {}
  void move(FlatView& view, QPointF at) override { at_ = view.world(at); }
  void release(FlatView&) override { backdrop_.mark(at_); }

 private:
  Backdrop& backdrop_;
  Vec2 at_;
};

}  // namespace

Backdrop::Backdrop(FlatView& view) : QFrame(&view), view_(view) {
  setObjectName(QStringLiteral("panel"));
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(10, 5, 10, 5);
  row->addWidget(new QLabel(tr("Picture under the plan"), this));
  const auto tool = [&](const QString& text, bool stays) {
    auto* button = new QToolButton(this);
    button->setText(text);
    button->setCheckable(stays);
    row->addWidget(button);
    return button;
  };
  scaling_ = tool(tr("Scale by two points"), true);
  moving_ = tool(tr("Move"), true);
  auto* off = tool(tr("Take off"), false);
  words_ = new QLabel(this);
  row->addWidget(words_);
  known_ = new TypedField(this);
  known_->setAccessibleName(tr("Distance of the two points"));
  known_->setPlaceholderText(tr("e.g. 405 mm"));
  known_->setFixedWidth(110);
  row->addWidget(known_);
  connect(scaling_, &QToolButton::toggled, this, [this](bool on) {
    if (on) moving_->setChecked(false);
    marks_.clear();
    show_state();
  });
  connect(moving_, &QToolButton::toggled, this, [this](bool on) {
    if (on) scaling_->setChecked(false);
    show_state();
  });
  connect(off, &QToolButton::clicked, this, &Backdrop::take_off);
  connect(known_, &QLineEdit::returnPressed, this, [this] {
    const auto known = parse_length(known_->text().toStdString(), view_.bench().units());
    const auto problem = known ? scale_to(*known) : std::optional(known.error());
    if (problem) Q_EMIT view_.bench().said(QString::fromStdString(problem->text()), true);
  });
  hide();
}

void Backdrop::lay(QImage picture, Vec2 low, double mm_per_pixel) {
  picture_ = std::move(picture);
  low_ = low;
  scale_ = mm_per_pixel;
  marks_.clear();
  setVisible(there());
  show_state();
}

void Backdrop::take_off() {
  scaling_->setChecked(false);
  moving_->setChecked(false);
  lay({}, {}, 1);
}

void Backdrop::show_state() {
  const bool both = marks_.size() == 2;
  words_->setVisible(scaling_->isChecked() || moving_->isChecked());
  words_->setText(moving_->isChecked() ? tr("Drag it to its place.")
                  : both               ? tr("They are apart by")
                  : marks_.empty()     ? tr("Click the first of two points you know the distance of.")
                                       : tr("Click the second."));
  known_->setVisible(scaling_->isChecked() && both);
  if (known_->isVisible()) known_->setFocus();
  adjustSize();
  move(10, view_.height() - height() - 30);
  view_.update();
}

void Backdrop::draw(QPainter& g, const QTransform& t) const {
  if (!there()) return;
  const QRectF under(mapped({low_.x, low_.y + picture_.height() * scale_}, t),
                     mapped({low_.x + picture_.width() * scale_, low_.y}, t));
  g.save();
  g.setRenderHint(QPainter::SmoothPixmapTransform);
  g.drawImage(under, picture_);
  g.setPen(QPen(colours().heather, 2));
  for (const Vec2 m : marks_) {
    const QPointF at = mapped(m, t);
    g.drawLine(at - QPointF(9, 0), at + QPointF(9, 0));
    g.drawLine(at - QPointF(0, 9), at + QPointF(0, 9));
  }
  if (marks_.size() == 2) g.drawLine(mapped(marks_[0], t), mapped(marks_[1], t));
  g.restore();
}

std::unique_ptr<Gesture> Backdrop::gesture_at(QPointF at) {
  if (there() && moving_->isChecked()) return std::make_unique<MoveBackdrop>(*this, view_, at);
  if (there() && scaling_->isChecked()) return std::make_unique<MarkBackdrop>(*this, view_, at);
  return {};
}

void Backdrop::move_to(Vec2 low) {
  low_ = low;
  view_.update();
}

void Backdrop::mark(Vec2 at) {
  if (marks_.size() == 2) marks_.clear();
  marks_.push_back(at);
  show_state();
}

std::optional<Problem> Backdrop::scale_to(double known) {
  if (marks_.size() != 2)
    return Problem{ProblemKind::input, "no two points are marked", "the picture's scale", "Click two points first"};
  const auto factor = scale_from(marks_[0], marks_[1], known);
  if (!factor) return factor.error();
  low_ = marks_[0] + (low_ - marks_[0]) * *factor;
  scale_ *= *factor;
  scaling_->setChecked(false);
  Q_EMIT view_.bench().said(tr("The picture is %1 mm wide now").arg(picture_.width() * scale_, 0, 'f', 1), false);
  return {};
}

}  // namespace wren::app

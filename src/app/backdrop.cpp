#include "app/backdrop.hpp"

#include <fmt/format.h>

#include <QCoreApplication>
#include <QDoubleSpinBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QSlider>
#include <QToolButton>

#include "app/board_painter.hpp"
#include "app/fields.hpp"
#include "app/flat_view.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/document/picture_files.hpp"
#include "exchange/drawing_in.hpp"
#include "exchange/plan_in.hpp"
#include "exchange/trace_in.hpp"

namespace wren::app {
namespace {

constexpr int page_dpi = 150;

class MovePicture : public Gesture {
 public:
  MovePicture(Backdrop& backdrop, QPointF at) : backdrop_(backdrop), last_(backdrop.world(at)) {}
  void move(FlatView&, QPointF at) override {
    const Vec2 now = backdrop_.world(at);
    backdrop_.move_by(now - last_, "picture");
    last_ = now;
  }
  void release(FlatView& view) override { view.bench().settle(); }
  void cancel(FlatView& view) override { view.bench().give_up(); }

 private:
  Backdrop& backdrop_;
  Vec2 last_;
};

/// A click that says where it is let go, so that it can be pulled to its place first.
class ClickPicture : public Gesture {
 public:
  ClickPicture(Backdrop& backdrop, QPointF at, bool trace) : backdrop_(backdrop), at_(at), trace_(trace) {}
  void move(FlatView&, QPointF at) override { at_ = at; }
  void release(FlatView& view) override {
    if (trace_)
      backdrop_.take_shape_at(backdrop_.world(at_), view.mapToGlobal(at_.toPoint()));
    else
      backdrop_.mark(backdrop_.world(at_));
  }

 private:
  Backdrop& backdrop_;
  QPointF at_;
  bool trace_;
};

bool is_page(const std::string& file) {
  return QFileInfo(QString::fromStdString(file)).suffix().compare(QStringLiteral("pdf"), Qt::CaseInsensitive) == 0;
}

std::string read_key(const PlacedPicture& p) { return p.hash + "/" + fmt::to_string(p.page); }

/// From the picture's pixels (rows from the top) to the world: its own count has y up from the lowest row's middle.
QTransform image_to_world(const PlacedPicture& p, int height) {
  const Vec2 o = p.to_world({-0.5, height - 0.5});
  const Vec2 x = p.to_world({0.5, height - 0.5}) - o;
  const Vec2 y = p.to_world({-0.5, height - 1.5}) - o;
  return {x.x, x.y, y.x, y.y, o.x, o.y};
}

}  // namespace

Backdrop::Backdrop(FlatView& view) : QFrame(&view), view_(view) {
  setObjectName(QStringLiteral("panel"));
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(10, 5, 10, 5);
  name_ = new QLabel(tr("Picture"), this);
  row->addWidget(name_);
  const auto tool = [&](const QString& text, bool stays, const QString& tip) {
    auto* button = new QToolButton(this);
    button->setText(text);
    button->setCheckable(stays);
    button->setToolTip(tip);
    row->addWidget(button);
    return button;
  };
  scaling_ = tool(tr("Scale"), true, tr("By two points whose distance you know"));
  moving_ = tool(tr("Move"), true, tr("Drag it to its place"));
  tracing_ = tool(tr("Trace"), true, tr("Click a line or a dark shape: it becomes part of the instrument"));
  turn_ = new QDoubleSpinBox(this);
  turn_->setRange(-180, 180);
  turn_->setDecimals(2);
  turn_->setSuffix(QStringLiteral("°"));
  turn_->setAccessibleName(tr("Picture turned by"));
  row->addWidget(turn_);
  mirror_ = tool(tr("Mirror"), true, tr("Left and right"));
  fade_ = new QSlider(Qt::Horizontal, this);
  fade_->setRange(0, 95);
  fade_->setFixedWidth(70);
  fade_->setAccessibleName(tr("Picture faded"));
  fade_->setToolTip(tr("Fade"));
  row->addWidget(fade_);
  off_ = tool(tr("Take off"), false, tr("Its file stays beside the project"));
  words_ = new QLabel(this);
  row->addWidget(words_);
  known_ = new TypedField(this);
  known_->setAccessibleName(tr("Distance of the two points"));
  known_->setPlaceholderText(tr("e.g. 405 mm"));
  known_->setFixedWidth(110);
  row->addWidget(known_);
  const auto only = [this](QToolButton* one) {
    connect(one, &QToolButton::toggled, this, [this, one](bool on) {
      if (on)
        for (QToolButton* other : {scaling_, moving_, tracing_})
          if (other != one) other->setChecked(false);
      marks_.clear();
      show_state();
    });
  };
  for (QToolButton* one : {scaling_, moving_, tracing_}) only(one);
  const auto middle = [this] { return world(QRectF(view_.rect()).center()); };
  connect(turn_, &QDoubleSpinBox::valueChanged, this, [this, middle](double deg) {
    const PlacedPicture* p = shown();
    if (p != nullptr && std::abs(p->angle_deg - deg) > 1e-6)
      change([&](PlacedPicture& q) { q = turned_about(q, middle(), deg - q.angle_deg); }, tr("Turn the picture"),
             "turn");
  });
  connect(mirror_, &QToolButton::clicked, this, [this, middle] {
    change([&](PlacedPicture& q) { q = mirrored_about(q, middle()); }, tr("Mirror the picture"));
  });
  connect(fade_, &QSlider::valueChanged, this, [this](int share) {
    const PlacedPicture* p = shown();
    if (p != nullptr && std::abs(p->fade * 100 - share) > 0.5)
      change([&](PlacedPicture& q) { q.fade = share / 100.0; }, tr("Fade the picture"), "fade");
  });
  connect(off_, &QToolButton::clicked, this, [this] {
    const PlacedPicture* p = shown();
    if (p == nullptr) return;
    std::vector<PlacedPicture> all = view_.bench().project().pictures;
    std::erase(all, *p);
    for (QToolButton* one : {scaling_, moving_, tracing_}) one->setChecked(false);
    if (const auto bad = view_.bench().change_pictures(std::move(all), "Take the picture off"))
      Q_EMIT view_.bench().said(view_.bench().words(*bad), true);
  });
  connect(known_, &QLineEdit::returnPressed, this, [this] {
    const auto known = parse_length(known_->text().toStdString(), view_.bench().units());
    const auto problem = known ? scale_to(*known) : std::optional(known.error());
    if (problem) Q_EMIT view_.bench().said(view_.bench().words(*problem), true);
  });
  connect(&view_.bench(), &Workbench::changed, this, &Backdrop::show_state);
  hide();
}

void Backdrop::lay(const std::string& file, const PictureGround& ground, double wide, int page) {
  Workbench& bench = view_.bench();
  PlacedPicture p;
  p.name = QFileInfo(QString::fromStdString(file)).fileName().toStdString();
  p.page = page;
  p.part = ground.part;
  p.view = ground.view;
  p.station = ground.station;
  Q_EMIT bench.said(tr("Reading %1…").arg(QString::fromStdString(p.name)), false);
  laying_.start(
      [project = bench.path(), file, page](Progress& progress) -> Expected<std::pair<std::string, std::string>> {
        const auto hash = keep_picture(project, file);
        if (!hash) return tl::unexpected(hash.error());
        auto pixels = is_page(file) ? page_picture(file, page, page_dpi, &progress) : read_picture(file, &progress);
        if (!pixels) return tl::unexpected(pixels.error());
        return std::pair{*hash, std::move(*pixels)};
      },
      [this, p, ground, wide](const Expected<std::pair<std::string, std::string>>& read) mutable {
        if (!read) return Q_EMIT view_.bench().said(view_.bench().words(read.error()), true);
        p.hash = read->first;
        laid(std::move(p), read->second, ground, wide);
      });
}

void Backdrop::laid(PlacedPicture p, const std::string& pixels, const PictureGround& ground, double wide) {
  Workbench& bench = view_.bench();
  const QImage image = QImage::fromData(QByteArray(pixels.data(), static_cast<qsizetype>(pixels.size())), "PPM");
  if (image.isNull()) return Q_EMIT bench.said(tr("%1 is no picture").arg(QString::fromStdString(p.name)), true);
  // A page is as wide as printed; of a picture nobody knows, and two clicks make it what it is.
  p.mm_per_pixel = is_page(p.name) ? 25.4 / page_dpi : wide / std::max(1, image.width());
  const QPointF on = ground.where.isEmpty() ? QRectF(view_.rect()).center() : ground.where.center();
  const QPointF at = ground.to_screen.inverted().map(on);
  p.low = {at.x() - image.width() * p.mm_per_pixel / 2, at.y() - image.height() * p.mm_per_pixel / 2};
  read_[read_key(p)] = {image, {}};
  std::vector<PlacedPicture> all = bench.project().pictures;
  std::erase_if(all, [&](const PlacedPicture& o) { return ground.holds(o); });
  if (all.size() >= most_pictures)
    return Q_EMIT bench.said(tr("There are %1 pictures already: take some off first").arg(all.size()), true);
  all.push_back(std::move(p));
  if (const auto bad = bench.change_pictures(std::move(all), "Lay a picture under the drawing"))
    return Q_EMIT bench.said(bench.words(*bad), true);
  // The mouse may have led the section elsewhere while the picture was read.
  if (ground.view == "section") view_.set_knife(ground.station);
  Q_EMIT bench.said(tr("The picture lies under the drawing: scale it by two points"), false);
}

const PlacedPicture* Backdrop::shown() const {
  const PlacedPicture* found = nullptr;
  for (const PlacedPicture& p : view_.bench().project().pictures) {
    const auto it = read_.find(read_key(p));
    if (ground_of(p) != nullptr && it != read_.end() && !it->second.image.isNull()) found = &p;
  }
  return found;
}

QSize Backdrop::pixels() const {
  const PlacedPicture* p = shown();
  return p != nullptr ? read_.at(read_key(*p)).image.size() : QSize();
}

const PictureGround* Backdrop::ground_of(const PlacedPicture& p) const {
  for (const PictureGround& g : grounds_)
    if (g.holds(p)) return &g;
  return nullptr;
}

void Backdrop::read_missing() {
  if (!under_way_.empty()) return;
  Workbench& bench = view_.bench();
  for (const PlacedPicture& p : bench.project().pictures) {
    const std::string key = read_key(p);
    if (ground_of(p) == nullptr || read_.contains(key)) continue;
    under_way_ = key;
    reading_.start(
        [project = bench.path(), p](Progress& progress) -> Expected<std::string> {
          const auto file = kept_picture(project, p);
          if (!file) return tl::unexpected(file.error());
          return file->extension() == ".pdf" ? page_picture(file->string(), p.page, page_dpi, &progress)
                                             : read_picture(file->string(), &progress);
        },
        [this, key](const Expected<std::string>& ppm) {
          under_way_.clear();
          Read& read = read_[key];
          if (ppm)
            read.image = QImage::fromData(QByteArray(ppm->data(), static_cast<qsizetype>(ppm->size())), "PPM");
          else
            read.problem = ppm.error();
          if (read.problem) Q_EMIT view_.bench().said(view_.bench().words(*read.problem), true);
          show_state();
          view_.update();
        });
    return;
  }
}

void Backdrop::draw(QPainter& g, const PictureGround& ground) {
  const auto same = [&](const PictureGround& o) { return o.part == ground.part && o.view == ground.view; };
  std::erase_if(grounds_, same);
  grounds_.push_back(ground);
  read_missing();
  for (const PlacedPicture& p : view_.bench().project().pictures) {
    if (!ground.holds(p)) continue;
    const auto it = read_.find(read_key(p));
    if (it == read_.end()) continue;
    const Read& read = it->second;
    if (read.image.isNull()) {
      g.setPen(colours().rowan);
      g.setFont(text_font(9));
      if (read.problem) view_.say_above_later(in_words(*read.problem));
      continue;
    }
    g.save();
    if (!ground.where.isEmpty()) g.setClipRect(ground.where);
    g.setRenderHint(QPainter::SmoothPixmapTransform);
    g.setOpacity(1 - p.fade);
    g.setTransform(image_to_world(p, read.image.height()) * ground.to_screen);
    g.drawImage(QPointF(0, 0), read.image);
    g.restore();
    g.save();
    g.setPen(QPen(colours().heather, 2));
    for (const Vec2 m : marks_) {
      const QPointF at = mapped(p.to_world(m), ground.to_screen);
      g.drawLine(at - QPointF(9, 0), at + QPointF(9, 0));
      g.drawLine(at - QPointF(0, 9), at + QPointF(0, 9));
    }
    if (marks_.size() == 2)
      g.drawLine(mapped(p.to_world(marks_[0]), ground.to_screen), mapped(p.to_world(marks_[1]), ground.to_screen));
    g.restore();
  }
  // The panel follows what lies here, but not while it is being painted.
  if (isVisible() != there()) QMetaObject::invokeMethod(this, &Backdrop::show_state, Qt::QueuedConnection);
}

void Backdrop::place() {
  adjustSize();
  // Over what the view says of itself at its foot; a section stands there itself, so that its panel goes to the head.
  const PlacedPicture* p = shown();
  move(10, p != nullptr && p->view == "section" ? 36 : view_.height() - height() - 52);
}

void Backdrop::set_tracing(bool on) { tracing_->setChecked(on); }
void Backdrop::set_scaling(bool on) { scaling_->setChecked(on); }
void Backdrop::set_moving(bool on) { moving_->setChecked(on); }

void Backdrop::show_state() {
  const PlacedPicture* p = shown();
  setVisible(p != nullptr);
  if (p != nullptr) {
    const QSignalBlocker turn(turn_), fade(fade_);
    turn_->setValue(p->angle_deg);
    mirror_->setChecked(p->mirrored);
    fade_->setValue(static_cast<int>(std::lround(p->fade * 100)));
    name_->setText(QFontMetrics(name_->font()).elidedText(QString::fromStdString(p->name), Qt::ElideMiddle, 110));
    name_->setToolTip(QString::fromStdString(p->name));
  }
  const bool both = marks_.size() == 2;
  words_->setVisible(scaling_->isChecked() || moving_->isChecked() || tracing_->isChecked());
  words_->setText(moving_->isChecked()    ? tr("Drag it to its place.")
                  : tracing_->isChecked() ? tr("Click a line or a dark shape.")
                  : both                  ? tr("They are apart by")
                  : marks_.empty()        ? tr("Click the first of two points you know the distance of.")
                                          : tr("Click the second."));
  known_->setVisible(scaling_->isChecked() && both);
  if (known_->isVisible()) known_->setFocus();
  place();
  view_.update();
}

void Backdrop::change(const std::function<void(PlacedPicture&)>& how, const QString& name, const std::string& mark) {
  const PlacedPicture* p = shown();
  if (p == nullptr) return;
  std::vector<PlacedPicture> all = view_.bench().project().pictures;
  how(*std::find(all.begin(), all.end(), *p));
  if (const auto bad = view_.bench().change_pictures(std::move(all), name.toStdString(), mark))
    Q_EMIT view_.bench().said(view_.bench().words(*bad), true);
}

std::unique_ptr<Gesture> Backdrop::gesture_at(QPointF at) {
  const PlacedPicture* p = shown();
  if (p == nullptr) return {};
  const PictureGround* ground = ground_of(*p);
  if (!ground->where.isEmpty() && !ground->where.contains(at)) return {};
  if (moving_->isChecked()) return std::make_unique<MovePicture>(*this, at);
  if (scaling_->isChecked() || tracing_->isChecked())
    return std::make_unique<ClickPicture>(*this, at, tracing_->isChecked());
  return {};
}

Vec2 Backdrop::world(QPointF at) const {
  const PlacedPicture* p = shown();
  const PictureGround* ground = p != nullptr ? ground_of(*p) : nullptr;
  const QPointF w = (ground != nullptr ? ground->to_screen : view_.to_screen()).inverted().map(at);
  return {w.x(), w.y()};
}

void Backdrop::move_by(Vec2 by, const std::string& mark) {
  change([&](PlacedPicture& q) { q.low = q.low + by; }, tr("Move the picture"), mark);
}

void Backdrop::mark(Vec2 at) {
  const PlacedPicture* p = shown();
  if (p == nullptr) return;
  if (marks_.size() == 2) marks_.clear();
  marks_.push_back(p->to_pixel(at));
  show_state();
}

std::optional<Problem> Backdrop::scale_to(double known) {
  const PlacedPicture* p = shown();
  if (p == nullptr || marks_.size() != 2)
    return Problem{ProblemKind::input, "no two points are marked", "the picture's scale", "Click two points first"};
  const auto now = scaled(*p, marks_[0], marks_[1], known);
  if (!now) return now.error();
  change([&](PlacedPicture& q) { q = *now; }, tr("Scale the picture"));
  scaling_->setChecked(false);
  Q_EMIT view_.bench().said(tr("The picture is %1 wide now")
                                .arg(length_words(pixels().width() * now->mm_per_pixel, view_.bench().units(), 1)),
                            false);
  return {};
}

Polygon Backdrop::shape_at(Vec2 at) {
  const PlacedPicture* p = shown();
  if (p == nullptr) return {};
  const QImage& image = read_.at(read_key(*p)).image;
  if (shapes_of_ != read_key(*p)) {
    // As they lie in the picture, so that moving it costs nothing.
    const QImage grey = image.convertToFormat(QImage::Format_Grayscale8);
    GreyPicture g{grey.width(), grey.height(), {}};
    g.grey.reserve(static_cast<std::size_t>(grey.width()) * static_cast<std::size_t>(grey.height()));
    for (int y = 0; y < grey.height(); ++y)
      g.grey.insert(g.grey.end(), grey.constScanLine(y), grey.constScanLine(y) + grey.width());
    PlacedPicture flat;
    flat.mm_per_pixel = 1;
    shapes_.clear();
    PlacedPicture as_large = *p;
    as_large.low = {};
    as_large.angle_deg = 0;
    as_large.mirrored = false;
    for (Polygon& shape : shapes_in(g, as_large)) {
      for (Vec2& q : shape) q = q * (1 / p->mm_per_pixel);
      shapes_.push_back(std::move(shape));
    }
    shapes_of_ = read_key(*p);
  }
  const Vec2 pixel = p->to_pixel(at);
  const double reach = 4 / p->mm_per_pixel;  // 4 mm
  const Polygon* best = nullptr;
  double least = reach;
  for (const Polygon& shape : shapes_)
    for (std::size_t i = 0; i < shape.size(); ++i)
      if (const double far = distance_to(pixel, {shape[i], shape[(i + 1) % shape.size()]}); far < least) {
        least = far;
        best = &shape;
      }
  // Inside a dark shape, or a closed line: the smallest that holds the place.
  if (best == nullptr)
    for (const Polygon& shape : shapes_)
      if (contains(shape, pixel) && (best == nullptr || signed_area(shape) < signed_area(*best))) best = &shape;
  Polygon out;
  if (best != nullptr)
    for (const Vec2 q : *best) out.push_back(p->to_world(q));
  return out;
}

std::optional<Problem> Backdrop::take(const Polygon& shape, const std::string& as, double station) {
  Workbench& bench = view_.bench();
  auto how = take_as(as);
  if (!how) return how.error();
  how->station = station;
  const auto next = with_curve(bench.project(), shape, true, *how);
  if (!next) return next.error();
  return bench.change_part(
      how->part, [&](Project& project) { project.parts = next->parts; }, "Trace the picture");
}

void Backdrop::take_shape_at(Vec2 at, QPoint on_screen) {
  const Polygon shape = shape_at(at);
  const PlacedPicture* p = shown();
  if (p == nullptr) return;
  if (shape.empty()) {
    Q_EMIT view_.bench().said(tr("Nothing is drawn there: click nearer to a line."), true);
    return;
  }
  QMenu menu(this);
  for (const TakeWay& way : take_ways())
    if (way.found_in(p->part, p->view))
      menu.addAction(QCoreApplication::translate("take", way.words))->setData(QString::fromLatin1(way.id));
  const QAction* chosen = menu.exec(on_screen);
  if (chosen == nullptr) return;
  const std::string as = chosen->data().toString().toStdString();
  double station = p->station;
  if (as == "section") {
    bool yes = false;
    station =
        QInputDialog::getDouble(this, tr("Section of the neck"), tr("Where it was taken, from the nut line (mm):"),
                                p->station, -100, 1200, 2, &yes);
    if (!yes) return;
  }
  if (const auto bad = take(shape, as, station))
    Q_EMIT view_.bench().said(view_.bench().words(*bad), true);
  else
    Q_EMIT view_.bench().said(tr("Taken from the picture: %1").arg(chosen->text()), false);
}

}  // namespace wren::app

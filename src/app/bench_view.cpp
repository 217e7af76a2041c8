#include "app/bench_view.hpp"

#include <QHBoxLayout>
#include <QHelpEvent>
#include <QPainterPath>
#include <QToolTip>
#include <QVBoxLayout>

#include "app/words.hpp"

namespace wren::app {
namespace {

/// Dragging a number that is drawn; one step however far it goes.
class DragNumberHere : public Gesture {
 public:
  DragNumberHere(BenchNumber number, QPointF at, const QTransform& screen_to_world)
      : number_(std::move(number)), from_(screen_to_world.map(at)), into_(screen_to_world) {}
  void move(FlatView& view, QPointF at) override {
    const QPointF by = into_.map(at) - from_;
    const double along = dot(Vec2{by.x(), by.y()}, number_.way) * number_.per;
    const double step = number_.value < 10 ? 0.05 : 0.1;
    const double value = std::round((number_.value + along) / step) * step;
    view.bench().drag({{number_.key, format_mm(value)}}, worded("Drag: {}", number_.name.toStdString()),
                      "bench-" + number_.key);
  }
  void release(FlatView& view) override { view.bench().settle(); }
  void cancel(FlatView& view) override { view.bench().give_up(); }

 private:
  BenchNumber number_;
  QPointF from_;
  QTransform into_;
};

QPainterPath path_of(const Polygon& polygon, const QTransform& t) {
  QPainterPath path;
  path.addPolygon(mapped(polygon, t));
  path.closeSubpath();
  return path;
}

QString state_words(const SectionState& s) {
  return QObject::tr("%1, %2").arg(in_words(standing_name(s.standing)), in_words(wood_state_name(s.wood)));
}

constexpr double handle_reach = 12;

}  // namespace

void paint_state(QPainter& g, const QPainterPath& shape, Standing standing, WoodState wood) {
  const Palette& p = colours();
  g.save();
  QColor ground = p.wood;
  if (wood == WoodState::none || wood == WoodState::spoiled) ground = p.paper;
  if (wood == WoodState::begun) ground.setAlpha(110);
  g.setPen(Qt::NoPen);
  g.setBrush(p.paper);
  g.drawPath(shape);
  g.setBrush(ground);
  g.drawPath(shape);
  const auto hatch = [&](QColor colour, Qt::BrushStyle style) {
    colour.setAlpha(150);
    g.setBrush(QBrush(colour, style));
    g.drawPath(shape);
  };
  switch (standing) {
    case Standing::open: break;
    case Standing::waits: hatch(p.gorse, Qt::Dense7Pattern); break;
    case Standing::ready: hatch(p.faint, Qt::HorPattern); break;
    case Standing::older: hatch(p.gorse, Qt::VerPattern); break;
    case Standing::proved: hatch(p.lichen, Qt::FDiagPattern); break;
    case Standing::refused: hatch(p.rowan, Qt::DiagCrossPattern); break;
  }
  QPen edge(p.wood_edge, 1.4);
  if (wood == WoodState::none) edge.setStyle(Qt::DashLine);
  if (wood == WoodState::begun) edge.setStyle(Qt::DashDotLine);
  if (wood == WoodState::spoiled) edge = QPen(p.rowan, 1.6, Qt::DotLine);
  if (wood == WoodState::cut || wood == WoodState::measured) edge.setWidthF(2.4);
  g.setPen(edge);
  g.setBrush(Qt::NoBrush);
  g.drawPath(shape);
  if (wood == WoodState::measured) {
    g.setPen(QPen(p.paper, 0.8));
    g.drawPath(shape);
  }
  g.restore();
}

BenchPicture::BenchPicture(Workbench& bench, QWidget* parent) : FlatView(bench, parent) {
  setAccessibleName(tr("The whole instrument, plan above and side below"));
  for (const auto signal : {&Workbench::changed, &Workbench::planned_now, &Workbench::proved})
    connect(&bench, signal, this, [this] {
      look();
      refit();
      update();
    });
  look();
}

std::string BenchPicture::part() const {
  for (const PartKind& kind : bench().parts().kinds())
    if (bench().followed().designs.find(kind.id())) return kind.id();
  return bench().part();
}

void BenchPicture::showEvent(QShowEvent* event) {
  if (stale_) look();
  FlatView::showEvent(event);
  refit();
}

void BenchPicture::look() {
  stale_ = !isVisible();
  if (stale_) return;
  parts_.clear();
  const Overview seen = bench().overview();
  Box2 plan{{1e9, 1e9}, {-1e9, -1e9}};
  Box2 side = plan;
  const auto grow = [](Box2& box, const Polygon& by) {
    for (const Vec2 q : by) {
      box.low = {std::min(box.low.x, q.x), std::min(box.low.y, q.y)};
      box.high = {std::max(box.high.x, q.x), std::max(box.high.y, q.y)};
    }
  };
  for (const PartKind& kind : bench().parts().kinds()) {
    Placed placed{kind.id(), in_words(kind.title()), on_bench(kind.id(), bench().followed()), {}};
    if (placed.on.outline.empty()) continue;
    for (const SectionState& s : seen.sections)
      if (s.id == kind.id()) placed.state = s;
    grow(plan, placed.on.outline);
    grow(side, placed.on.profile);
    // What is made later lies under what is made first.
    parts_.insert(parts_.begin(), std::move(placed));
  }
  if (parts_.empty()) return;
  const double gap = (plan.high.y - plan.low.y) * 0.12 + 12;
  side_y_ = plan.low.y - gap - (side.high.y + 6) * stretch_;
  low_ = {std::min(plan.low.x, side.low.x), side_y_ + side.low.y * stretch_};
  high_ = {std::max(plan.high.x, side.high.x), plan.high.y};
}

std::pair<Vec2, Vec2> BenchPicture::extent() const { return {low_, high_}; }

QMarginsF BenchPicture::margins() const { return {26, 34, 26, 26}; }

QTransform BenchPicture::side_to_screen() const { return QTransform(1, 0, 0, stretch_, 0, side_y_) * to_screen(); }

QPointF BenchPicture::screen_of(const BenchNumber& n, Vec2 at) const {
  return mapped(at, n.side ? side_to_screen() : to_screen());
}

const BenchNumber* BenchPicture::number_at(QPointF at) const {
  const BenchNumber* best = nullptr;
  double nearest = handle_reach;
  for (const Placed& p : parts_)
    for (const BenchNumber& n : p.on.numbers)
      if (const double far = QLineF(screen_of(n, n.at), at).length(); far < nearest) {
        nearest = far;
        best = &n;
      }
  return best;
}

const BenchPicture::Placed* BenchPicture::part_at(QPointF at) const {
  for (auto p = parts_.rbegin(); p != parts_.rend(); ++p)
    if (path_of(p->on.outline, to_screen()).contains(at) || path_of(p->on.profile, side_to_screen()).contains(at))
      return &*p;
  return nullptr;
}

QPointF BenchPicture::handle_of(const std::string& key) const {
  for (const Placed& p : parts_)
    for (const BenchNumber& n : p.on.numbers)
      if (n.key == key) return screen_of(n, n.at);
  return {};
}

QPointF BenchPicture::place_of(const std::string& part) const {
  for (const Placed& p : parts_)
    if (p.part == part)
      for (int i = 1; i < 40; ++i)
        for (int j = 1; j < 20; ++j) {
          const Box2 box = bounds(p.on.outline);
          const QPointF at =
              mapped({box.low.x + box.size().x * i / 40, box.low.y + box.size().y * j / 20}, to_screen());
          if (part_at(at) == &p && number_at(at) == nullptr) return at;
        }
  return {};
}

QString BenchPicture::what_is_at(QPointF at) const {
  if (const BenchNumber* n = number_at(at))
    return n->way == Vec2{} ? tr("%1: %2").arg(n->name, length(n->value))
                            : tr("%1: %2. Drag it to change it.").arg(n->name, length(n->value));
  if (const Placed* p = part_at(at)) return tr("%1: %2").arg(p->title, state_words(p->state));
  return {};
}

void BenchPicture::draw(QPainter& g) {
  const Palette& p = colours();
  const QTransform& t = to_screen();
  const QTransform side = side_to_screen();
  for (const Placed& placed : parts_) {
    paint_state(g, path_of(placed.on.outline, t), placed.state.standing, placed.state.wood);
    paint_state(g, path_of(placed.on.profile, side), placed.state.standing, placed.state.wood);
  }
  for (const Placed& placed : parts_) {
    if (placed.on.plan) placed.on.plan(g, t);
    if (placed.on.side) placed.on.side(g, side);
  }
  // Names and states, clear of the drawing: above it in turn, joined to their part by a hairline.
  g.setFont(text_font(8.5));
  const QFontMetricsF fm(g.font());
  const double shares[] = {0.62, 0.1, 0.42};
  std::size_t k = parts_.size();
  for (const Placed& placed : parts_) {
    --k;
    const Box2 box = bounds(placed.on.outline);
    const double x = box.low.x + box.size().x * shares[k % 3];
    const QString words = tr("%1: %2").arg(placed.title, state_words(placed.state));
    const QPointF top = mapped({x, box.high.y}, t);
    const double y = k % 3 == 1   ? mapped({x, box.low.y}, t).y() + 20
                     : k % 3 == 2 ? top.y() - 14
                                  : mapped({x, box.high.y}, t).y() - 26;
    QRectF place(0, 0, fm.horizontalAdvance(words) + 10, fm.height() + 2);
    place.moveCenter({top.x(), y});
    place.moveLeft(std::clamp(place.left(), 4.0, std::max(4.0, width() - place.width() - 4)));
    place.moveTop(std::max(2.0, place.top()));
    const double inside = k % 3 == 1 ? mapped({x, box.low.y}, t).y() - 4 : top.y() + 5;
    g.setPen(QPen(p.faint, 0.8));
    g.drawLine(QPointF(top.x(), place.center().y()), QPointF(top.x(), inside));
    QColor ground = p.ground;
    g.setPen(Qt::NoPen);
    g.setBrush(ground);
    g.drawRect(place);
    g.setPen(p.ink);
    g.drawText(place, Qt::AlignCenter, words);
  }
  // Numbers across parts.
  g.setFont(figure_font(8.5));
  const BenchNumber* held = number_at(mouse_);
  said_.clear();
  for (const Placed& placed : parts_)
    for (const BenchNumber& n : placed.on.numbers) {
      const QPointF a = screen_of(n, n.from);
      const QPointF b = screen_of(n, n.at);
      const bool free = !(n.way == Vec2{});
      const bool on = held != nullptr && held->key == n.key;
      g.setPen(QPen(free ? p.heather : p.faint, on ? 2 : 1));
      g.drawLine(a, b);
      if (free) {
        g.setBrush(on ? p.heather : p.paper);
        g.drawPolygon(QPolygonF{b + QPointF(-5, 0), b + QPointF(0, -7), b + QPointF(5, 0), b + QPointF(0, 7)});
      } else {
        g.setBrush(p.faint);
        g.drawEllipse(b, 2.5, 2.5);
      }
      const QString words = length(n.value);
      const QRectF box = QFontMetricsF(g.font()).boundingRect(words).adjusted(-3, -1, 3, 1);
      QRectF place(QPointF(0, 0), box.size());
      const bool flat = std::abs(b.x() - a.x()) > std::abs(b.y() - a.y());
      const bool up = b.y() <= a.y();
      place.moveCenter(flat ? b + QPointF(11 + box.width() / 2, 0)
                            : b + QPointF(0, (up ? -1 : 1) * (11 + box.height() / 2)));
      // Two that stand side by side keep clear of each other.
      const auto met = [&] {
        return std::any_of(said_.begin(), said_.end(), [&](const QRectF& other) { return other.intersects(place); });
      };
      const QRectF wanted = place;
      const double wide = box.width() + 2, high = (up || flat ? -1 : 1) * (box.height() + 2);
      for (const QPointF by : {QPointF(wide / 2, 0), {-wide / 2, 0}, {wide, 0}, {-wide, 0}, {0, high}, {0, 2 * high}})
        if (met()) place = wanted.translated(by);
      said_.push_back(place);
      g.setPen(Qt::NoPen);
      QColor ground = p.ground;
      ground.setAlpha(225);
      g.setBrush(ground);
      g.drawRect(place);
      g.setPen(free ? p.heather : p.ink);
      g.drawText(place, Qt::AlignCenter, words);
    }
  g.setFont(text_font(8.5));
  g.setPen(p.faint);
  QString says = mouse_.x() >= 0 ? what_is_at(mouse_) : QString();
  if (says.isEmpty())
    says = tr("Drag a diamond to change a number, press a part for its steps. Heights × %1 in the side.")
               .arg(stretch_, 0, 'g', 2);
  say_below(g, says);
}

std::unique_ptr<Gesture> BenchPicture::gesture_at(QPointF at) {
  if (const BenchNumber* n = number_at(at); n != nullptr && !(n->way == Vec2{}))
    return std::make_unique<DragNumberHere>(*n, at, (n->side ? side_to_screen() : to_screen()).inverted());
  if (const Placed* p = part_at(at)) {
    Q_EMIT part_clicked(QString::fromStdString(p->part));
  }
  return {};
}

void BenchPicture::hover(QPointF at) {
  mouse_ = at;
  const BenchNumber* n = number_at(at);
  setCursor(n != nullptr && !(n->way == Vec2{}) ? Qt::SizeAllCursor
            : part_at(at) != nullptr            ? Qt::PointingHandCursor
                                                : Qt::ArrowCursor);
  update();
}

bool BenchPicture::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    QToolTip::showText(help->globalPos(), what_is_at(help->pos()), this);
    return true;
  }
  return FlatView::event(event);
}

// ---- cards

BenchCard::BenchCard(QWidget* parent) : QPushButton(parent) {
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

QStringList BenchCard::lines() const {
  QStringList out;
  if (state_.made) {
    out << in_words(standing_name(state_.standing)) << in_words(wood_state_name(state_.wood));
  } else {
    out << (state_.standing == Standing::open    ? tr("open question")
            : state_.standing == Standing::waits ? tr("waits")
            : state_.done < state_.of            ? tr("not done yet")
                                                 : tr("settled"))
        << QString();
  }
  QString work;
  if (state_.of > 0) work = tr("%1 of %2 done").arg(state_.done).arg(state_.of);
  if (state_.seconds_left > 0)
    work += (work.isEmpty() ? QString() : QStringLiteral(" · ")) + tr("%1 left").arg(work_time(state_.seconds_left));
  out << work;
  out << (state_.stops == 0   ? QString()
          : state_.stops == 1 ? tr("1 stops the work")
                              : tr("%1 stop the work").arg(state_.stops));
  return out;
}

void BenchCard::show_state(const SectionState& state) {
  state_ = state;
  QStringList words = lines();
  words.removeAll(QString());
  words.prepend(in_words(state.title));
  setAccessibleName(words.join(QStringLiteral(", ")));
  setToolTip(tr("Open its steps"));
  setAccessibleDescription(toolTip());
  updateGeometry();
  update();
}

QSize BenchCard::sizeHint() const {
  const int line = QFontMetrics(text_font(8.5)).lineSpacing();
  return {150, QFontMetrics(text_font(10, QFont::DemiBold)).lineSpacing() + line * 5 + 8};
}

void BenchCard::paintEvent(QPaintEvent*) {
  const Palette& p = colours();
  QPainter g(this);
  g.setRenderHint(QPainter::Antialiasing);
  const QRectF r = QRectF(rect()).adjusted(1, 1, -1, -1);
  g.setPen(QPen(hasFocus() || underMouse() ? p.heather : p.hair, hasFocus() ? 2 : 1));
  g.setBrush(p.paper);
  g.drawRoundedRect(r, 4, 4);
  // The swatch is the pattern that the part has in the drawing.
  QPainterPath swatch;
  swatch.addRect(QRectF(r.left() + 6, r.top() + 6, 16, r.height() - 12));
  if (state_.made) paint_state(g, swatch, state_.standing, state_.wood);
  const double left = state_.made ? 30 : 10;
  double y = r.top() + 5;
  g.setFont(text_font(10, QFont::DemiBold));
  g.setPen(p.ink);
  const double head = QFontMetricsF(g.font()).lineSpacing();
  g.drawText(QRectF(r.left() + left, y, r.width() - left - 6, head), Qt::AlignLeft | Qt::AlignVCenter,
             in_words(state_.title));
  if (state_.has_next) {
    g.setPen(Qt::NoPen);
    g.setBrush(p.heather);
    g.drawEllipse(QPointF(r.right() - 12, y + head / 2), 4, 4);
  }
  y += head;
  g.setFont(text_font(8.5));
  const QFontMetricsF fm(g.font());
  const QStringList words = lines();
  for (qsizetype i = 0; i < words.size(); ++i) {
    if (words[i].isEmpty()) continue;
    g.setPen(i == 3 ? p.rowan : p.faint);
    const QRectF room(r.left() + left, y, r.width() - left - 6, r.bottom() - y);
    const QRectF used = fm.boundingRect(room, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words[i]);
    g.drawText(room, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words[i]);
    y += used.height();
  }
}

// ---- what waits for what

namespace {

/// Lines under the cards from what is waited for to what waits, with the fact.
class WaitLines : public QWidget {
 public:
  struct Line {
    const QWidget* from;
    const QWidget* to;
    QString words;
  };
  explicit WaitLines(QWidget* parent) : QWidget(parent) {}
  void show_lines(std::vector<Line> lines) {
    lines_ = std::move(lines);
    QStringList all;
    for (const Line& l : lines_) all << l.words;
    setAccessibleName(all.isEmpty() ? QObject::tr("Nothing waits") : all.join(QStringLiteral(" ")));
    setFixedHeight(static_cast<int>(lines_.size()) * row());
    setVisible(!lines_.empty() && property("room").toBool());
    update();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    const Palette& p = colours();
    QPainter g(this);
    g.setRenderHint(QPainter::Antialiasing);
    g.setFont(text_font(8.5));
    double y = 0;
    for (const Line& l : lines_) {
      const auto x_of = [&](const QWidget* w) { return mapFromGlobal(w->mapToGlobal(w->rect().center())).x(); };
      const double from = x_of(l.from);
      const double to = x_of(l.to);
      const double level = y + 11;
      g.setPen(QPen(p.gorse, 1.6));
      g.setBrush(Qt::NoBrush);
      g.drawPolyline(QPolygonF{{from, y}, {from, level}, {to, level}, {to, y + 2}});
      g.setBrush(p.gorse);
      g.drawPolygon(QPolygonF{{to, y}, {to - 4, y + 7}, {to + 4, y + 7}});
      g.setPen(p.ink);
      g.drawText(QRectF(6, level + 2, width() - 12, row() - 13), Qt::AlignRight | Qt::AlignVCenter, l.words);
      y += row();
    }
  }

 private:
  [[nodiscard]] static int row() { return QFontMetrics(text_font(8.5)).lineSpacing() + 16; }
  std::vector<Line> lines_;
};

}  // namespace

BenchView::BenchView(Workbench& bench, QWidget* parent) : QWidget(parent), bench_(bench) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(8, 2, 8, 6);
  column->setSpacing(4);
  next_ = new QLabel(this);
  next_->setWordWrap(true);
  column->addWidget(next_);
  picture_ = new BenchPicture(bench, this);
  column->addWidget(picture_, 1);
  facts_ = new QLabel(this);
  facts_->setWordWrap(true);
  facts_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  connect(facts_, &QLabel::linkActivated, this, &BenchView::number_chosen);
  column->addWidget(facts_);
  cards_ = new QWidget(this);
  auto* row = new QHBoxLayout(cards_);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  column->addWidget(cards_);
  waits_ = new WaitLines(this);
  column->addWidget(waits_);
  connect(picture_, &BenchPicture::part_clicked, this, &BenchView::section_chosen);
  for (const auto signal : {&Workbench::changed, &Workbench::planned_now, &Workbench::proved})
    connect(&bench_, signal, this, &BenchView::refresh);
  refresh();
}

void BenchView::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  // Where there is little room the drawing has it: the build sheet's heads say what the cards do.
  const bool room = height() > 34 * QFontMetrics(text_font(10)).lineSpacing() * 0.8;
  for (QWidget* w : {static_cast<QWidget*>(facts_), cards_, waits_}) w->setProperty("room", room);
  facts_->setVisible(room && !facts_->text().isEmpty());
  cards_->setVisible(room);
  waits_->setVisible(room && waits_->height() > 0);
}

void BenchView::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  if (stale_) refresh();
}

void BenchView::refresh() {
  stale_ = !isVisible();
  if (stale_) return;
  const Overview seen = bench_.overview();
  if (seen.next) {
    const QString why = in_words(seen.next->why, bench_.units());
    next_->setText(tr("<b>Next: %1, %2.</b> %3")
                       .arg(in_words(seen.next->section).toHtmlEscaped(),
                            in_words(seen.next->line.title).toHtmlEscaped(),
                            (why.isEmpty() ? tr("It waits for nothing.") : why).toHtmlEscaped()));
  } else {
    next_->setText(tr("<b>Everything is made and measured.</b>"));
  }
  QString plain = next_->text();
  next_->setAccessibleName(plain.remove(QStringLiteral("<b>")).remove(QStringLiteral("</b>")));
  for (const SectionState& s : seen.sections) {
    if (s.id == section::shop) continue;
    BenchCard*& card = by_section_[s.id];
    if (card == nullptr) {
      card = new BenchCard(cards_);
      static_cast<QHBoxLayout*>(cards_->layout())->addWidget(card, s.made ? 3 : 2);
      connect(card, &QPushButton::clicked, this,
              [this, id = s.id] { Q_EMIT section_chosen(QString::fromStdString(id)); });
    }
    card->show_state(s);
  }
  for (auto it = by_section_.begin(); it != by_section_.end();) {
    const bool there = std::any_of(seen.sections.begin(), seen.sections.end(),
                                   [&](const SectionState& s) { return s.id == it->first; });
    if (there) {
      ++it;
      continue;
    }
    it->second->deleteLater();
    it = by_section_.erase(it);
  }
  const auto section_of = [&](const std::string& id) -> BenchCard* {
    for (const BuildLine& l : bench_.sheet())
      if (l.id == id)
        if (const auto it = by_section_.find(l.section); it != by_section_.end()) return it->second;
    return nullptr;
  };
  std::vector<WaitLines::Line> lines;
  for (const Wait& w : seen.waits) {
    BenchCard* const from = section_of(w.on);
    BenchCard* const to = section_of(w.line);
    QString title;
    for (const BuildLine& l : bench_.sheet())
      if (l.id == w.line) title = in_words(l.title);
    if (from != nullptr && to != nullptr)
      lines.push_back({from, to, tr("%1. %2").arg(title, in_words(w.fact, bench_.units()))});
  }
  static_cast<WaitLines*>(waits_)->show_lines(std::move(lines));
  // What hangs on several numbers, with its reason: a link goes to the number.
  QStringList facts;
  QStringList spoken;
  const auto ledger = bench_.ledger_lines();
  for (const PartKind& kind : bench_.parts().kinds())
    for (const std::string& key : on_bench(kind.id(), bench_.followed()).facts)
      for (const LedgerLine& l : ledger)
        if (l.key == key) {
          const bool bare = l.label.find(" ") == std::string::npos;
          const QString name =
              bare ? tr("%1's %2").arg(in_words(kind.title()), in_words(l.label).toLower()) : in_words(l.label);
          const QString words = tr("%1 %2").arg(name, rounded_value(l, bench_.units()));
          spoken << words;
          facts << QStringLiteral("<a style='color:%1' href='%2' title='%4'>%3</a>")
                       .arg(colours().heather.name(), QString::fromStdString(key), words.toHtmlEscaped(),
                            in_words(l.reason, bench_.units()).toHtmlEscaped());
        }
  facts_->setText(facts.join(QStringLiteral("  ·  ")));
  facts_->setAccessibleName(tr("What hangs on several numbers: %1").arg(spoken.join(QStringLiteral(", "))));
  facts_->setVisible(!facts.isEmpty() && facts_->property("room").toBool());
}

}  // namespace wren::app

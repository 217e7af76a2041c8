// The body's plan and the pulling of its outline.
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPushButton>

#include "app/designs.hpp"
#include "app/part_edits.hpp"
#include "core/plan/recover.hpp"

#include "app/body_views.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

constexpr double near_px = 9;

double pixels(QPointF a, QPointF b) { return std::hypot(a.x() - b.x(), a.y() - b.y()); }

/// Pulls a node (handle 0) or one of its handles (1: out, 2: in); the bench hears of it once, at the end.
class PullNode : public Gesture {
 public:
  PullNode(int node, int handle) : node_(static_cast<std::size_t>(node)), handle_(handle) {}
  void move(FlatView& view, QPointF at) override {
    auto& plan = static_cast<BodyPlanView&>(view);
    if (node_ >= plan.path().size()) return;
    moved_ = true;
    if (handle_ == 0)
      plan.take(with_node_at(plan.path(), node_, plan.snapped(plan.world(at))));
    else
      plan.take(with_handle(plan.path(), node_, handle_ == 1, plan.world(at)));
  }
  void release(FlatView& view) override {
    if (moved_)
      static_cast<BodyPlanView&>(view).commit(handle_ == 0 ? QObject::tr("Move a node") : QObject::tr("Pull a handle"));
  }
  void cancel(FlatView& view) override {
    auto& plan = static_cast<BodyPlanView&>(view);
    if (const auto d = body_design(plan.bench())) plan.take(d->shape.path);
  }

 private:
  std::size_t node_;
  int handle_;
  bool moved_ = false;
};

/// Drags one number of the ledger along its own line.
class DragHardware : public Gesture {
 public:
  DragHardware(std::string key, std::function<double(const BodyDesign&, Vec2)> value)
      : key_(std::move(key)), value_(std::move(value)) {}
  void move(FlatView& view, QPointF at) override {
    const auto d = body_design(view.bench());
    if (!d) return;
    const auto field = view.bench().parts().book().find(view.bench().project(), key_);
    view.bench().drag({{key_, format_mm(std::round(value_(*d, view.world(at)) * 2) / 2, 1)}},
                      worded("Drag: {}", field->label), "drag-" + key_);
  }
  void release(FlatView& view) override { view.bench().settle(); }
  void cancel(FlatView& view) override { view.bench().give_up(); }

 private:
  std::string key_;
  std::function<double(const BodyDesign&, Vec2)> value_;
};

}  // namespace

BodyPlanView::BodyPlanView(Workbench& bench, QWidget* parent) : BodyPicture(bench, parent) {
  make_panel();
  connect(&bench, &Workbench::changed, this, &BodyPlanView::follow);
  follow();
}

void BodyPlanView::follow() {
  if (const auto d = body_design(bench())) path_ = d->shape.path;
  if (chosen_ >= static_cast<int>(path_.size())) chosen_ = -1;
  fill_panel();
  update();
}

void BodyPlanView::set_editing(bool editing) {
  if (editing_ == editing) return;
  editing_ = editing;
  panel_->setVisible(editing);
  fit();
  fill_panel();
}

void BodyPlanView::choose(int node) {
  chosen_ = node;
  fill_panel();
  update();
}

void BodyPlanView::commit(const QString& name) {
  const auto problem = set_outline(bench(), path_, name.toStdString());
  if (!problem) return;
  // Refused: the outline goes back, and the window says why.
  if (const auto d = body_design(bench())) path_ = d->shape.path;
  Q_EMIT bench().said(in_words(*problem, bench().units()), true);
  update();
}

Vec2 BodyPlanView::snapped(Vec2 p, QString* to) const {
  const auto d = body_design(bench());
  if (!d) return p;
  const double k = std::hypot(to_screen().m11(), to_screen().m12());
  const double reach = 6 / std::max(0.05, k);  // six pixels
  const auto say = [&](const char* what) {
    if (to != nullptr) *to += (to->isEmpty() ? QString() : QStringLiteral(", ")) + QString::fromUtf8(what);
  };
  const BodySetup& st = d->shape.setup;
  const auto n = static_cast<int>(st.strings.size());
  if (std::abs(p.y) < reach) {
    p.y = 0;
    say("centre line");
  } else {
    for (int i = 1; i <= n; ++i) {
      const Vec2 a = st.string_at(i, 0);
      const Vec2 b = st.string_at(i, 1);
      const double y = a.y + (b.y - a.y) * (p.x - a.x) / (b.x - a.x);
      if (std::abs(p.y - y) < reach && p.x < a.x + 20) {
        p.y = y;
        say("string");
        break;
      }
    }
  }
  if (std::abs(p.x - st.bridge_middle.x) < reach) {
    p.x = st.bridge_middle.x;
    say("scale line");
  } else if (std::abs(p.x - d->shape.edge_middle.x) < reach) {
    p.x = d->shape.edge_middle.x;
    say("neck's edge");
  }
  return p;
}

std::pair<Vec2, Vec2> BodyPlanView::extent() const {
  const auto d = body_design(bench());
  if (!d) return {{330, -180}, {760, 180}};
  const Box2 box = bounds(d->shape.corners);
  return {box.low - Vec2{20, 4}, box.high + Vec2{8, 4}};
}

int BodyPlanView::node_at(QPointF at) const {
  int best = -1;
  double least = near_px;
  for (std::size_t i = 0; i < path_.size(); ++i)
    if (const double d = pixels(at, mapped(path_[i].at, to_screen())); d < least) {
      least = d;
      best = static_cast<int>(i);
    }
  return best;
}

std::vector<BodyPlanView::Grip> BodyPlanView::grips() const {
  std::vector<Grip> out;
  const auto d = body_design(bench());
  if (!d || editing_) return out;
  for (const auto& p : d->shape.pickups)
    out.push_back({mapped(p.middle, to_screen()), "pickup." + p.which + ".from_bridge",
                   tr("%1 pickup").arg(QString::fromStdString(p.which))});
  if (!d->shape.controls.empty())
    out.push_back({mapped(d->shape.controls.front(), to_screen()), "control.first", tr("first shaft")});
  for (const EdgeJob& j : d->shape.edge_jobs)
    if (j.id == "jack") out.push_back({mapped(j.at, to_screen()), "wire.jack_behind", tr("jack")});
  return out;
}

std::unique_ptr<Gesture> BodyPlanView::gesture_at(QPointF at) {
  const auto d = body_design(bench());
  if (!d) return {};
  if (editing_) {
    if (chosen_ >= 0) {
      const auto i = static_cast<std::size_t>(chosen_);
      const PathNode& n = path_[i];
      const PathNode& before = path_[(i + path_.size() - 1) % path_.size()];
      if (n.edge == EdgeKind::curve && pixels(at, mapped(n.at + n.out, to_screen())) < near_px)
        return std::make_unique<PullNode>(chosen_, 1);
      if (before.edge == EdgeKind::curve && pixels(at, mapped(n.at + n.in, to_screen())) < near_px)
        return std::make_unique<PullNode>(chosen_, 2);
    }
    const int node = node_at(at);
    if (node >= 0) {
      choose(node);
      return std::make_unique<PullNode>(node, 0);
    }
    return {};
  }
  for (const Grip& grip : grips()) {
    if (pixels(at, grip.at) > near_px) continue;
    const Vec2 m = d->shape.setup.bridge_middle;
    const double side = d->shape.treble;
    if (grip.key == "control.first")
      return std::make_unique<DragHardware>("control.first_aside",
                                            [side](const BodyDesign&, Vec2 p) { return p.y * side; });
    const bool jack = grip.key == "wire.jack_behind";
    return std::make_unique<DragHardware>(
        grip.key, [m, jack](const BodyDesign&, Vec2 p) { return jack ? p.x - m.x : m.x - p.x; });
  }
  return {};
}

void BodyPlanView::hover(QPointF at) {
  mouse_ = at;
  update();
}

void BodyPlanView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (!editing_ || node_at(event->position()) >= 0) return FlatView::mouseDoubleClickEvent(event);
  const OnPath near = nearest_on(path_, world(event->position()));
  if (pixels(event->position(), mapped(near.at, to_screen())) > 14) return FlatView::mouseDoubleClickEvent(event);
  take(with_node(path_, near.edge, near.t));
  chosen_ = static_cast<int>(near.edge) + 1;
  commit(tr("Put in a node"));
}

void BodyPlanView::keyPressEvent(QKeyEvent* event) {
  if (editing_ && chosen_ >= 0) {
    const auto i = static_cast<std::size_t>(chosen_);
    if (event->key() == Qt::Key_Delete && path_.size() > 4) {
      take(without_node(path_, i));
      choose(-1);
      return commit(tr("Take out a node"));
    }
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
      fields_[0]->setFocus(Qt::TabFocusReason);  // to type its place
      return fields_[0]->selectAll();
    }
    const double step = event->modifiers() & Qt::ShiftModifier ? 5 : 0.5;
    Vec2 by;
    if (event->key() == Qt::Key_Left) by = {-step, 0};
    if (event->key() == Qt::Key_Right) by = {step, 0};
    if (event->key() == Qt::Key_Up) by = {0, step};
    if (event->key() == Qt::Key_Down) by = {0, -step};
    if (!(by == Vec2{})) {
      take(with_node_at(path_, i, path_[i].at + by));
      return commit(tr("Move a node"));
    }
  }
  FlatView::keyPressEvent(event);
}

bool BodyPlanView::focusNextPrevChild(bool next) {
  const int to = chosen_ < 0 && !next ? static_cast<int>(path_.size()) - 1 : chosen_ + (next ? 1 : -1);
  // Asked for the panel's fields too, which are this picture's children: those go on to one another.
  if (!hasFocus()) return FlatView::focusNextPrevChild(next);
  if (!editing_ || to < 0 || to >= static_cast<int>(path_.size())) {
    if (editing_) choose(-1);
    return FlatView::focusNextPrevChild(next);
  }
  choose(to);
  return true;
}

void BodyPlanView::resizeEvent(QResizeEvent* event) {
  FlatView::resizeEvent(event);
  place_panel();
}

void BodyPlanView::place_panel() {
  panel_->adjustSize();
  panel_->move(width() - panel_->width() - 10, 10);
}

void BodyPlanView::make_panel() {
  panel_ = new QFrame(this);
  panel_->setObjectName(QStringLiteral("card"));
  panel_->setAutoFillBackground(true);
  panel_->setFrameShape(QFrame::StyledPanel);
  auto* grid = new QGridLayout(panel_);
  grid->setContentsMargins(10, 8, 10, 8);
  grid->setVerticalSpacing(2);
  which_ = new QLabel(panel_);
  which_->setWordWrap(true);
  grid->addWidget(which_, 0, 0, 1, 2);
  const QString labels[] = {tr("x"), tr("y"), tr("out x"), tr("out y"), tr("in x"), tr("in y")};
  for (int k = 0; k < 6; ++k) {
    grid->addWidget(new QLabel(labels[k], panel_), 1 + k, 0);
    fields_[k] = new QLineEdit(panel_);
    fields_[k]->setFixedWidth(104);
    fields_[k]->setFont(figure_font(9));
    fields_[k]->setAccessibleName(tr("Node: %1").arg(labels[k]));
    grid->addWidget(fields_[k], 1 + k, 1);
    connect(fields_[k], &QLineEdit::editingFinished, this, [this, k] {
      if (chosen_ < 0 || !fields_[k]->isModified()) return;
      fields_[k]->setModified(false);
      const auto value = parse_length(fields_[k]->text().toStdString(), bench().units());
      if (!value) {
        Q_EMIT bench().said(bench().words(value.error()), true);
        return fill_panel();
      }
      const auto i = static_cast<std::size_t>(chosen_);
      PathNode n = path_[i];
      if (k == 0) n.at.x = *value;
      if (k == 1) n.at.y = *value;
      Vec2 out = n.at + n.out;
      Vec2 in = n.at + n.in;
      if (k == 2) out.x = n.at.x + *value;
      if (k == 3) out.y = n.at.y + *value;
      if (k == 4) in.x = n.at.x + *value;
      if (k == 5) in.y = n.at.y + *value;
      if (k < 2)
        take(with_node_at(path_, i, n.at));
      else
        take(with_handle(path_, i, k < 4, k < 4 ? out : in));
      commit(tr("Type a node's place"));
    });
  }
  struct Button {
    QString text;
    std::function<void()> run;
  };
  const auto node = [this](auto change, const QString& name) {
    return [this, change, name] {
      if (chosen_ < 0) return;
      take(change(path_, static_cast<std::size_t>(chosen_)));
      commit(name);
    };
  };
  const Button buttons[] = {
      {tr("Smooth"), node([](const Path& p, std::size_t i) { return with_kind(p, i, true); }, tr("Smooth node"))},
      {tr("Corner"), node([](const Path& p, std::size_t i) { return with_kind(p, i, false); }, tr("Corner node"))},
      {tr("Next edge: straight"),
       node([](const Path& p, std::size_t i) { return with_edge(p, i, EdgeKind::line); }, tr("Straight edge"))},
      {tr("Next edge: arc"),
       node([](const Path& p, std::size_t i) { return with_edge(p, i, EdgeKind::arc); }, tr("Arc"))},
      {tr("Next edge: curve"),
       node([](const Path& p, std::size_t i) { return with_edge(p, i, EdgeKind::curve); }, tr("Curve"))},
      {tr("Remove node"),
       [this] {
         QKeyEvent key(QEvent::KeyPress, Qt::Key_Delete, Qt::NoModifier);
         keyPressEvent(&key);
       }},
      {tr("Mirror bass"),
       [this] {
         const auto d = body_design(bench());
         if (auto even = symmetric_from(path_, d && d->shape.treble > 0 ? -1 : 1)) {
           take(*even);
           commit(tr("Mirror the bass side"));
         } else
           Q_EMIT bench().said(bench().words(even.error()), true);
       }},
      {tr("Mirror treble"),
       [this] {
         const auto d = body_design(bench());
         if (auto even = symmetric_from(path_, d && d->shape.treble > 0 ? 1 : -1)) {
           take(*even);
           commit(tr("Mirror the treble side"));
         } else
           Q_EMIT bench().said(bench().words(even.error()), true);
       }},
      {tr("Show curvature"),
       [this] {
         comb_ = !comb_;
         update();
       }},
      {tr("Grow outline 1 mm"),
       [this] {
         Contour grown;
         if (auto exact = offset_outside(to_contour(path_, 0.004), 1)) grown = *exact;
         if (grown.empty()) {
           Q_EMIT bench().said(tr("The outline cannot be offset there: an inward corner is in the way"), true);
           return;
         }
         take(recover(flatten(grown, 0.01), true).path);
         commit(tr("Offset the outline"));
       }},
  };
  int k = 0;
  for (const Button& b : buttons) {
    auto* button = new QPushButton(b.text, panel_);
    button->setFocusPolicy(Qt::TabFocus);  // a click leaves the keyboard with the picture
    connect(button, &QPushButton::clicked, this, b.run);
    // One below the other: the panel stands beside the outline and must not cover it.
    grid->addWidget(button, 8 + k, 0, 1, 2);
    ++k;
  }
  panel_->hide();
}

void BodyPlanView::fill_panel() {
  const bool some = chosen_ >= 0 && chosen_ < static_cast<int>(path_.size());
  which_->setText(some ? tr("Node %1 of %2, %3")
                             .arg(chosen_ + 1)
                             .arg(path_.size())
                             .arg(path_[static_cast<std::size_t>(chosen_)].smooth ? tr("smooth") : tr("corner"))
                       : tr("Choose a node; double-click the line to put one in."));
  for (int k = 0; k < 6; ++k) {
    fields_[k]->setEnabled(some);
    if (!some) {
      fields_[k]->clear();
      continue;
    }
    const PathNode& n = path_[static_cast<std::size_t>(chosen_)];
    const double v[] = {n.at.x, n.at.y, n.out.x, n.out.y, n.in.x, n.in.y};
    fields_[k]->setText(length_words(v[k], bench().units()));
    fields_[k]->setModified(false);
  }
  place_panel();
}

void BodyPlanView::draw_body(QPainter& g, const BodyDesign& d) {
  const Palette& p = colours();
  const QTransform& t = to_screen();
  BodyInk ink;
  ink.grain = !editing_;
  paint_body(g, d, t, ink);
  g.setOpacity(1);
  g.setRenderHint(QPainter::Antialiasing);
  if (comb_ && editing_) {
    QPolygonF tips;
    g.setPen(QPen(p.heather, 0.8));
    const auto teeth = comb(path_, 4);
    double most = 1e-6;
    for (const Tooth& tooth : teeth) most = std::max(most, std::min(std::abs(tooth.curvature), 0.05));
    for (const Tooth& tooth : teeth) {
      const Vec2 tip = tooth.at + tooth.outward * (std::clamp(tooth.curvature, -0.05, 0.05) / most * 22);
      g.drawLine(mapped(tooth.at, t), mapped(tip, t));
      tips << mapped(tip, t);
    }
    g.setPen(QPen(p.heather, 1.4));
    g.drawPolyline(tips);
  }
  if (editing_) {
    // The path as it is pulled, and its nodes: round for smooth, square for corners.
    QPolygonF line;
    for (std::size_t i = 0; i < path_.size(); ++i) {
      const PathNode& b = path_[(i + 1) % path_.size()];
      const int n = path_[i].edge == EdgeKind::line ? 1 : 28;
      for (int k = 0; k < n; ++k) line << mapped(point_on(path_[i], b, static_cast<double>(k) / n), t);
    }
    g.setPen(QPen(p.heather, 2));
    g.setBrush(Qt::NoBrush);
    g.drawPolygon(line);
    for (std::size_t i = 0; i < path_.size(); ++i) {
      const QPointF at = mapped(path_[i].at, t);
      const bool held = static_cast<int>(i) == chosen_;
      if (held) {
        const PathNode& before = path_[(i + path_.size() - 1) % path_.size()];
        g.setPen(QPen(p.ink, 1));
        if (path_[i].edge == EdgeKind::curve) g.drawLine(at, mapped(path_[i].at + path_[i].out, t));
        if (before.edge == EdgeKind::curve) g.drawLine(at, mapped(path_[i].at + path_[i].in, t));
        g.setBrush(p.paper);
        if (path_[i].edge == EdgeKind::curve) g.drawEllipse(mapped(path_[i].at + path_[i].out, t), 4, 4);
        if (before.edge == EdgeKind::curve) g.drawEllipse(mapped(path_[i].at + path_[i].in, t), 4, 4);
      }
      g.setPen(QPen(p.heather, 1.8));
      g.setBrush(held ? p.heather : p.paper);
      if (path_[i].smooth)
        g.drawEllipse(at, 5, 5);
      else
        g.drawRect(QRectF(at.x() - 4.5, at.y() - 4.5, 9, 9));
    }
  } else {
    for (const Grip& grip : grips()) {
      const bool held = pixels(mouse_, grip.at) < near_px;
      g.setPen(QPen(p.heather, 1.6));
      g.setBrush(held ? p.heather : p.paper);
      g.drawPolygon(QPolygonF{grip.at + QPointF(-6, 0), grip.at + QPointF(0, -6), grip.at + QPointF(6, 0),
                              grip.at + QPointF(0, 6)});
      if (held) {
        g.setFont(text_font(8.5));
        g.drawText(grip.at + QPointF(10, -6), grip.name);
      }
    }
    g.setFont(figure_font(9));
    const Box2 box = bounds(d.shape.corners);
    paint_measure(g, mapped({box.low.x, box.low.y}, t), mapped({box.high.x, box.low.y}, t), 14, length(box.size().x),
                  p.ink);
    paint_measure(g, mapped({box.high.x, box.low.y}, t), mapped({box.high.x, box.high.y}, t), 14, length(box.size().y),
                  p.ink);
    // Where it balances, and the line that hangs straight down from the strap.
    const Vec2 c = d.balance.whole_centre;
    const QPointF at = mapped(c, t);
    g.setPen(QPen(p.ink, 1.4));
    g.setBrush(p.paper);
    g.drawEllipse(at, 7, 7);
    g.setBrush(p.ink);
    g.drawPie(QRectF(at.x() - 7, at.y() - 7, 14, 14), 0, 90 * 16);
    g.drawPie(QRectF(at.x() - 7, at.y() - 7, 14, 14), 180 * 16, 90 * 16);
  }
  g.setFont(text_font(8.5));
  g.setPen(p.faint);
  QString hint = editing_
                     ? tr("Pull nodes and handles; they snap to lines and strings. Double-click: new node. Tab: next. "
                          "Enter: type. Del: out. Arrows: 0.5 mm.")
                     : tr("Solid: from the face. Dashed: from the back. Dotted: under the top. Strokes at the "
                          "edge: against the grain. Quartered ring: balance.");
  if (editing_ && mouse_.x() >= 0) {
    QString to;
    (void)snapped(world(mouse_), &to);
    if (!to.isEmpty()) hint = tr("on the %1").arg(to);
  }
  say_below(g, hint);
}

}  // namespace wren::app

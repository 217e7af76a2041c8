#include "app/rack_view.hpp"

#include <algorithm>

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>

#include "app/cutter_dialog.hpp"
#include "app/cutter_picture.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

constexpr double narrowest = 88;  // pixels: room for a name

}  // namespace

RackDrawing::RackDrawing(Shop& shop, QWidget* parent) : QWidget(parent), shop_(shop) {
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("The rack"));
}

void RackDrawing::lay() {
  places_.clear();
  const auto& all = shop_.cutters();
  double tallest = 40;
  for (const auto& e : all) tallest = std::max(tallest, e.thing.stickout + e.thing.nut_diameter * 0.55);
  const double text = 4.2 * fontMetrics().height();
  scale_ = std::clamp((height() - text - 24) / tallest, 1.0, 8.0);
  double x = 10;
  const double least = narrowest * text_size() / least_text_size;
  for (const auto& e : all) {
    const double width =
        std::max({least, e.thing.nut_diameter * scale_ + 12, e.thing.effective_diameter() * scale_ + 12});
    places_.push_back({e.thing.id, x, width});
    x += width + 6;
  }
  setMinimumWidth(static_cast<int>(x + 10));
  update();
}

void RackDrawing::refresh() {
  const auto& all = shop_.cutters();
  if (std::none_of(all.begin(), all.end(), [&](const auto& e) { return e.thing.id == chosen_; }))
    chosen_ = all.empty() ? std::string() : all.front().thing.id;
  lay();
}

void RackDrawing::choose(const std::string& id) {
  if (id.empty()) return;
  chosen_ = id;
  update();
  Q_EMIT chosen_now();
}

QSize RackDrawing::sizeHint() const { return {minimumWidth(), 320}; }

QRect RackDrawing::place_of(const std::string& id) const {
  for (const Place& p : places_)
    if (p.id == id) return {static_cast<int>(p.left), 0, static_cast<int>(p.width), height()};
  return {};
}

std::string RackDrawing::at(QPointF q) const {
  for (const Place& p : places_)
    if (q.x() >= p.left && q.x() < p.left + p.width) return p.id;
  return {};
}

void RackDrawing::paintEvent(QPaintEvent*) {
  QPainter g(this);
  g.setRenderHint(QPainter::Antialiasing);
  const Palette& p = colours();
  g.fillRect(rect(), p.ground);
  const auto& all = shop_.cutters();
  const double text = 4.2 * fontMetrics().height();
  // All hang from one rail: how far each sticks out is seen at a glance.
  const double rail = 16;
  double tallest = 0;
  for (const auto& e : all) tallest = std::max(tallest, e.thing.nut_diameter * 0.55);
  for (std::size_t i = 0; i < places_.size() && i < all.size(); ++i) {
    const Place& place = places_[i];
    const auto& e = all[i];
    const bool chosen = e.thing.id == chosen_;
    const QRectF box(place.left, 4, place.width, height() - 8);
    if (chosen) {
      g.setPen(QPen(p.heather, 2));
      g.setBrush(p.heather_soft);
      g.drawRoundedRect(box, 6, 6);
    }
    const double nut = rail + tallest * scale_;
    paint_cutter(g, e.thing, {place.left + place.width / 2, nut + e.thing.stickout * scale_}, scale_, e.retired);
    g.setFont(text_font(9, chosen ? QFont::DemiBold : QFont::Normal));
    g.setPen(e.retired ? p.faint : p.ink);
    QString name = QString::fromStdString(e.thing.id);
    name.replace(QLatin1Char('-'), QString::fromUtf8("-\u200b"));
    const QString size =
        e.thing.measured ? tr("%1 measured").arg(*e.thing.measured) : tr("%1 mm").arg(e.thing.diameter);
    g.drawText(box.adjusted(4, height() - 8 - text, -4, -2), Qt::AlignHCenter | Qt::AlignTop | Qt::TextWordWrap,
               tr("T%1  %2\n%3").arg(e.thing.number).arg(e.retired ? name + tr(" (retired)") : name, size));
  }
  g.setPen(QPen(p.ink, 2));
  g.drawLine(QPointF(4, rail), QPointF(width() - 4, rail));
}

void RackDrawing::mousePressEvent(QMouseEvent* event) {
  setFocus();
  choose(at(event->position()));
}

void RackDrawing::mouseDoubleClickEvent(QMouseEvent* event) {
  if (!at(event->position()).empty()) Q_EMIT opened();
}

void RackDrawing::keyPressEvent(QKeyEvent* event) {
  const auto& all = shop_.cutters();
  const auto it = std::find_if(all.begin(), all.end(), [&](const auto& e) { return e.thing.id == chosen_; });
  if (event->key() == Qt::Key_Right && it != all.end() && it + 1 != all.end()) return choose((it + 1)->thing.id);
  if (event->key() == Qt::Key_Left && it != all.end() && it != all.begin()) return choose((it - 1)->thing.id);
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return Q_EMIT opened();
  QWidget::keyPressEvent(event);
}

RackView::RackView(Workbench& bench, Shop& shop, QWidget* parent) : QWidget(parent), bench_(bench), shop_(shop) {
  setAccessibleName(tr("Rack"));
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  pages_ = new QStackedWidget(this);
  all->addWidget(pages_);
  auto* empty = new QWidget(pages_);
  auto* column = new QVBoxLayout(empty);
  column->setContentsMargins(60, 40, 60, 40);
  nothing_ = new QLabel(empty);
  nothing_->setWordWrap(true);
  column->addStretch(1);
  column->addWidget(nothing_);
  const auto way = [&](const QString& text, ShopBook::Begin how, bool own) {
    auto* b = new QPushButton(text, empty);
    connect(b, &QPushButton::clicked, this, [this, how, own] { begin(how, own); });
    column->addWidget(b, 0, Qt::AlignLeft);
  };
  way(tr("Begin with this project's cutters and machine"), ShopBook::Begin::empty, true);
  way(tr("Begin with a small rack, to be checked against your own"), ShopBook::Begin::general_rack, false);
  way(tr("Begin with the demo shop's (invented)"), ShopBook::Begin::demo_shop, false);
  column->addStretch(2);
  pages_->addWidget(empty);
  auto* full = new QWidget(pages_);
  column = new QVBoxLayout(full);
  column->setContentsMargins(8, 4, 8, 6);
  scroll_ = new QScrollArea(full);
  scroll_->setWidgetResizable(true);
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setAccessibleName(tr("The shop's cutters"));
  scroll_->viewport()->setAccessibleName(tr("The shop's cutters"));
  drawing_ = new RackDrawing(shop, scroll_);
  scroll_->setWidget(drawing_);
  column->addWidget(scroll_, 1);
  words_ = new QLabel(full);
  words_->setWordWrap(true);
  words_->setTextFormat(Qt::RichText);
  words_->setMinimumHeight(3 * fontMetrics().height());
  column->addWidget(words_);
  auto* row = new QHBoxLayout;
  const auto button = [&](const QString& text, auto slot) {
    auto* b = new QPushButton(text, full);
    connect(b, &QPushButton::clicked, this, slot);
    row->addWidget(b);
    return b;
  };
  change_ = button(tr("Measure or change…"), [this] { open(false); });
  add_ = button(tr("Add one like it…"), [this] { open(true); });
  retire_ = button(tr("Retire it"), [this] {
    const std::string id = drawing_->chosen();
    const auto& cutters = shop_.cutters();
    const auto it = std::find_if(cutters.begin(), cutters.end(), [&](const auto& e) { return e.thing.id == id; });
    if (it == cutters.end()) return;
    const bool retire = !it->retired;
    say(shop_.change([&](ShopBook& book) { return book.retire(id, retire, Shop::told()); }));
  });
  take_ = button(tr("Take it into this project"), [this] { say(shop_.take_into_project(drawing_->chosen())); });
  keep_ = button(tr("Make the shop's as here"), [this] { say(shop_.keep_in_shop(drawing_->chosen())); });
  row->addStretch(1);
  column->addLayout(row);
  pages_->addWidget(full);
  connect(drawing_, &RackDrawing::chosen_now, this, &RackView::tell);
  connect(drawing_, &RackDrawing::opened, this, [this] { open(false); });
  connect(&shop_, &Shop::changed, this, &RackView::refresh);
  connect(&bench_, &Workbench::changed, this, &RackView::tell);
  refresh();
}

void RackView::begin(ShopBook::Begin how, bool own) { say(shop_.begin(how, own)); }

void RackView::say(const std::optional<Problem>& problem) {
  if (problem) Q_EMIT bench_.said(bench_.words(*problem), true);
}

void RackView::refresh() {
  if (!shop_.there()) {
    const auto& why = shop_.trouble();
    const bool missing = !why || why->what == "there is no shop's book yet";
    nothing_->setText(
        missing ? tr("The shop has no book yet. It keeps what belongs to the shop and not to one instrument: cutters "
                     "with all that was measured of them, machines, and every run. It is one file, %1.")
                      .arg(QString::fromStdString(shop_.file().string()))
                : bench_.words(*why));
    for (QPushButton* b : pages_->widget(0)->findChildren<QPushButton*>()) b->setVisible(missing);
    pages_->setCurrentIndex(0);
    return;
  }
  pages_->setCurrentIndex(1);
  drawing_->refresh();
  tell();
}

void RackView::tell() {
  if (pages_->currentIndex() != 1) return;
  const std::string id = drawing_->chosen();
  const auto& all = shop_.cutters();
  const auto it = std::find_if(all.begin(), all.end(), [&](const auto& e) { return e.thing.id == id; });
  for (QPushButton* b : {change_, add_, retire_, take_, keep_}) b->setEnabled(it != all.end());
  if (it == all.end()) {
    words_->setText(tr("No cutter yet: add one."));
    add_->setEnabled(true);
    return;
  }
  scroll_->ensureVisible(drawing_->place_of(id).center().x(), 10, drawing_->place_of(id).width() / 2 + 8, 0);
  const Cutter& c = it->thing;
  retire_->setText(it->retired ? tr("Bring it back") : tr("Retire it"));
  const auto seconds = shop_.seconds_cut();
  QStringList used;
  bench_.parts().book().each([&](const Field& f) {
    if (f.offers != Offers::cutters) return;
    const FieldValue v = f.get(bench_.project());
    if (const auto* text = std::get_if<std::string>(&v); text != nullptr && *text == id) used << in_words(f.label);
  });
  const Cutter* mine = find_cutter(bench_.project().rack, id);
  const bool same = mine != nullptr && *mine == c;
  take_->setEnabled(!same && !it->retired);
  keep_->setEnabled(mine != nullptr && !same);
  const auto history = shop_.history_of(id);
  QString text = tr("<b>T%1 %2</b>, %3 flutes, cuts %4, sticks out %5, nut %6, collet %7%8. ")
                     .arg(c.number)
                     .arg(QString::fromStdString(id))
                     .arg(c.flutes)
                     .arg(c.cutting_length)
                     .arg(c.stickout)
                     .arg(c.nut_diameter)
                     .arg(c.collet_in_use())
                     .arg(c.lengths_measured ? tr("; lengths measured") : tr("; lengths as on the packet"));
  const auto cut = seconds.find(id);
  text += tr("Has cut %1. ").arg(work_time(cut == seconds.end() ? 0 : cut->second));
  text += used.isEmpty() ? tr("This project uses it nowhere by name. ")
                         : tr("Here for: %1. ").arg(used.join(QStringLiteral(", ")));
  text += mine == nullptr ? tr("It is not in this project. ")
          : same          ? QString()
                          : tr("<b>This project's copy differs.</b> ");
  if (!history.empty()) {
    const auto& last = history.back();
    QString what = QString::fromStdString(last.what);
    what[0] = what[0].toUpper();
    text += tr("%1 on %2 by %3%4")
                .arg(what, QString::fromStdString(last.told.at.substr(0, 10)), QString::fromStdString(last.told.who),
                     history.size() > 1 ? tr(", %1 facts before").arg(history.size() - 1) : QString());
    text += last.note.empty()
                ? QStringLiteral(".")
                : QStringLiteral(": ") + QString::fromStdString(last.note).toHtmlEscaped() + QStringLiteral(".");
  }
  words_->setText(text);
}

void RackView::open(bool as_new) {
  const std::string id = drawing_->chosen();
  const auto& all = shop_.cutters();
  const auto it = std::find_if(all.begin(), all.end(), [&](const auto& e) { return e.thing.id == id; });
  Cutter cutter;
  if (it != all.end()) cutter = it->thing;
  if (as_new) {
    cutter.measured.reset();
    cutter.lengths_measured = false;
    cutter.number = 0;
    for (const auto& e : all) cutter.number = std::max(cutter.number, e.thing.number);
    ++cutter.number;
    cutter.id.clear();
  }
  CutterDialog dialog(bench_, shop_, cutter, as_new, this);
  if (dialog.exec() == QDialog::Accepted) drawing_->choose(dialog.cutter().id);
}

}  // namespace wren::app

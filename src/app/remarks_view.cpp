#include <QApplication>
#include <QHBoxLayout>
#include <QPainter>
#include <QPushButton>
#include <QScrollBar>

#include "app/panels.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

/// The weight of a remark as a shape: octagon, triangle, ring, diamond.
class WeightSign : public QWidget {
 public:
  WeightSign(Weight weight, QWidget* parent) : QWidget(parent), weight_(weight) { setFixedSize(22, 22); }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter g(this);
    g.setRenderHint(QPainter::Antialiasing);
    const QColor c = weight_colour(weight_);
    const QPointF m(11, 11);
    g.setPen(QPen(c, 1.8));
    g.setBrush(Qt::NoBrush);
    switch (weight_) {
      case Weight::stop: {
        QPolygonF eight;
        for (int i = 0; i < 8; ++i)
          eight << m + QPointF(std::cos((i + 0.5) * M_PI / 4), std::sin((i + 0.5) * M_PI / 4)) * 9;
        g.setBrush(c);
        g.drawPolygon(eight);
        g.setPen(QPen(colours().paper, 2));
        g.drawLine(m - QPointF(4, 0), m + QPointF(4, 0));
        break;
      }
      case Weight::think_again:
        g.drawPolygon(QPolygonF{m + QPointF(0, -8), m + QPointF(9, 7), m + QPointF(-9, 7)});
        g.drawLine(m + QPointF(0, -2), m + QPointF(0, 3));
        break;
      case Weight::worth_knowing:
        g.drawEllipse(m, 7, 7);
        g.drawLine(m + QPointF(0, -1), m + QPointF(0, 4));
        g.drawPoint(m + QPointF(0, -4));
        break;
      case Weight::caution:
        g.drawPolygon(QPolygonF{m + QPointF(0, -9), m + QPointF(9, 0), m + QPointF(0, 9), m + QPointF(-9, 0)});
        break;
    }
  }

 private:
  Weight weight_;
};

}  // namespace

RemarksView::RemarksView(Workbench& bench, QWidget* parent) : QFrame(parent), bench_(bench) {
  setObjectName(QStringLiteral("sheet"));
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(12, 8, 4, 6);
  all->setSpacing(4);
  heading_ = new QLabel(this);
  heading_->setObjectName(QStringLiteral("title"));
  all->addWidget(heading_);
  scroll_ = new QScrollArea(this);
  for (QWidget* w : {static_cast<QWidget*>(scroll_), scroll_->viewport()}) w->setAccessibleName(tr("Remarks"));
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  all->addWidget(scroll_, 1);
  connect(&bench_, &Workbench::changed, this, &RemarksView::refresh);
  connect(&bench_, &Workbench::planned_now, this, &RemarksView::refresh);
  refresh();
}

void RemarksView::show_line(const std::string& id) {
  if (line_ != id) {
    all_ = false;
    known_.clear();
    for (const Remark& r : bench_.remarks()) known_.insert(r.kind + "|" + r.place);
  }
  line_ = id;
  refresh();
}

void RemarksView::showEvent(QShowEvent* event) {
  QFrame::showEvent(event);
  if (stale_) refresh();
}

void RemarksView::refresh() {
  stale_ = !isVisible();
  if (stale_) return;
  auto remarks = bench_.remarks();
  const auto count = [&](Weight w) {
    return static_cast<int>(
        std::count_if(remarks.begin(), remarks.end(), [&](const Remark& r) { return r.weight == w; }));
  };
  QStringList heads;
  if (const int n = count(Weight::stop); n > 0)
    heads << (n == 1 ? tr("1 stops the work") : tr("%1 stop the work").arg(n));
  if (const int n = count(Weight::think_again); n > 0) heads << tr("%1 to reconsider").arg(n);
  heading_->setText(heads.isEmpty() ? tr("Remarks") : tr("Remarks: %1").arg(heads.join(QStringLiteral(", "))));
  // First those of the chosen line; what stops the work, and what the last edits brought, is never folded away.
  const auto sheet = bench_.sheet();
  const auto line = std::find_if(sheet.begin(), sheet.end(), [&](const BuildLine& l) { return l.id == line_; });
  const auto own = [&](const Remark& r) { return line != sheet.end() && belongs(*line, r.place); };
  std::stable_partition(remarks.begin(), remarks.end(), own);
  const auto others = std::stable_partition(remarks.begin(), remarks.end(), [&](const Remark& r) {
    return own(r) || r.weight == Weight::stop || !known_.contains(r.kind + "|" + r.place);
  });
  const auto folded = static_cast<int>(remarks.end() - others);
  const bool foldable = folded > 1;
  if (foldable && !all_) remarks.erase(others, remarks.end());
  // Where the keyboard is, and how far the list is scrolled, is found again in the new one.
  const QWidget* const holder = QApplication::focusWidget();
  const QString held =
      holder != nullptr && scroll_->isAncestorOf(holder) ? holder->property("way").toString() : QString();
  const int scrolled = scroll_->verticalScrollBar()->value();
  auto* inside = new QWidget;
  auto* list = new QVBoxLayout(inside);
  list->setContentsMargins(0, 2, 8, 2);
  list->setSpacing(9);
  if (remarks.empty() && !foldable) {
    auto* empty = new QLabel(
        tr("Nothing to remark. What is given fits together, and every cut can be made with the cutters at hand."),
        inside);
    empty->setWordWrap(true);
    empty->setObjectName(QStringLiteral("quiet"));
    list->addWidget(empty);
  }
  for (const Remark& remark : remarks) {
    auto* row = new QHBoxLayout;
    row->setSpacing(9);
    row->addWidget(new WeightSign(remark.weight, inside), 0, Qt::AlignTop);
    auto* words = new QVBoxLayout;
    words->setSpacing(2);
    auto* sentence = new QLabel(in_words(remark.sentence, bench_.units()), inside);
    sentence->setWordWrap(true);
    sentence->setObjectName(QString::fromStdString("remark:" + remark.kind));
    sentence->setAccessibleName(
        QStringLiteral("%1: %2").arg(in_words(weight_name(remark.weight)), in_words(remark.sentence, bench_.units())));
    words->addWidget(sentence);
    std::vector<Repair> ways = remark.others;
    if (remark.repair) ways.insert(ways.begin(), *remark.repair);
    const auto button = [&](const Repair& repair) {
      auto* press = new WrapButton(in_words(repair.label, bench_.units()), inside);
      QSizePolicy wraps(QSizePolicy::Preferred, QSizePolicy::Minimum);
      wraps.setHeightForWidth(true);
      press->setSizePolicy(wraps);
      press->setObjectName(QStringLiteral("repair"));
      press->setProperty("kind", QString::fromStdString(remark.kind));
      press->setProperty("way", QString::fromStdString(remark.kind + remark.place + repair.label));
      connect(press, &QPushButton::clicked, this, [this, repair] { bench_.type(repair.edits, repair.label, true); });
      return press;
    };
    // More than one way out, or a long one: one below the other, each with what it costs.
    constexpr std::size_t short_label = 34;
    const bool stacked = ways.size() > 1 || (ways.size() == 1 && ways.front().label.str().size() > short_label);
    if (stacked)
      for (const Repair& way : ways) words->addWidget(button(way));
    auto* actions = new QHBoxLayout;
    actions->setSpacing(6);
    if (ways.size() == 1 && !stacked) actions->addWidget(button(ways.front()));
    auto* go = new QPushButton(tr("Show"), inside);
    go->setObjectName(QStringLiteral("repair"));
    go->setProperty("way", QString::fromStdString(remark.kind + remark.place));
    go->setAccessibleName(tr("Show the place of: %1").arg(in_words(remark.sentence, bench_.units())));
    connect(go, &QPushButton::clicked, this, [this, remark] { Q_EMIT go_to(remark); });
    actions->addWidget(go);
    auto* source = new QLabel(in_words(remark.source, bench_.units()), inside);
    source->setObjectName(QStringLiteral("quiet"));
    source->setWordWrap(true);
    actions->addStretch(1);
    if (!remark.source.empty()) words->addWidget(source);
    words->addLayout(actions);
    row->addLayout(words, 1);
    list->addLayout(row);
  }
  if (foldable) {
    auto* fold = new QPushButton(
        all_ ? tr("Hide the %1 of other lines").arg(folded) : tr("%1 more of other lines").arg(folded), inside);
    fold->setObjectName(QStringLiteral("fold"));
    fold->setProperty("way", QStringLiteral("fold"));
    connect(fold, &QPushButton::clicked, this, [this] {
      all_ = !all_;
      refresh();
    });
    list->addWidget(fold, 0, Qt::AlignLeft);
  }
  list->addStretch(1);
  // The old rows may hold the very button that was just pressed: they go when its event is over.
  if (QWidget* old = scroll_->takeWidget()) old->deleteLater();
  scroll_->setWidget(inside);
  inside->show();
  inside->layout()->activate();
  inside->adjustSize();
  scroll_->verticalScrollBar()->setValue(scrolled);
  // New buttons come last in the round of Tab unless they are told where they stand.
  QWidget* before = scroll_;
  for (QPushButton* b : inside->findChildren<QPushButton*>()) {
    setTabOrder(before, b);
    before = b;
  }
  if (held.isEmpty()) return;
  // The remark may be mended and gone: the keyboard then stays with the list.
  QPushButton* next = nullptr;
  for (QPushButton* b : inside->findChildren<QPushButton*>()) {
    if (next == nullptr) next = b;
    if (b->property("way").toString() != held) continue;
    next = b;
    break;
  }
  if (next != nullptr)
    next->setFocus(Qt::OtherFocusReason);
  else
    scroll_->setFocus(Qt::OtherFocusReason);
}

}  // namespace wren::app

#include <QApplication>
#include <QPainter>
#include <QStyledItemDelegate>

#include "app/panels.hpp"
#include "app/theme.hpp"
#include "core/job/run_sheet.hpp"

namespace wren::app {
namespace {

constexpr int role_state = Qt::UserRole + 1;
constexpr int role_side = Qt::UserRole + 2;
constexpr int role_next = Qt::UserRole + 3;
constexpr int role_id = Qt::UserRole + 4;
constexpr int role_older = Qt::UserRole + 5;

/// A shape for each state, so that none hangs on colour alone; hollow where it was cut from older numbers.
void draw_state(QPainter& g, QPointF c, LineState state, bool older) {
  const Palette& p = colours();
  g.setBrush(Qt::NoBrush);
  switch (state) {
    case LineState::heading: return;
    case LineState::question:
      g.setPen(QPen(p.gorse, 1.8));
      g.drawPolygon(QPolygonF{c + QPointF(0, -6.5), c + QPointF(6.5, 5), c + QPointF(-6.5, 5)});
      g.drawLine(c + QPointF(0, -2.5), c + QPointF(0, 1.5));
      return;
    case LineState::ready:
      g.setPen(QPen(p.faint, 1.5));
      g.drawEllipse(c, 4.5, 4.5);
      return;
    case LineState::written:
      g.setPen(QPen(p.lichen, 1.5));
      g.drawRect(QRectF(c.x() - 4.5, c.y() - 5.5, 9, 11));
      for (const double y : {-2.5, 0.0, 2.5}) g.drawLine(c + QPointF(-2.5, y), c + QPointF(2.5, y));
      return;
    case LineState::proved:
      g.setPen(QPen(p.lichen, 2));
      g.drawPolyline(QPolygonF{c + QPointF(-5, 0), c + QPointF(-1.5, 4), c + QPointF(5.5, -5)});
      return;
    case LineState::cut:
      g.setPen(older ? QPen(p.gorse, 1.6) : QPen(Qt::NoPen));
      if (!older) g.setBrush(p.lichen);
      g.drawEllipse(c, 5.5, 5.5);
      g.setPen(QPen(older ? p.gorse : p.paper, 1.8));
      g.drawPolyline(QPolygonF{c + QPointF(-2.6, 0), c + QPointF(-0.8, 2.2), c + QPointF(2.8, -2.4)});
      return;
    case LineState::measured:
      g.setPen(QPen(p.lichen, 1.6));
      g.drawLine(c + QPointF(-5.5, -5), c + QPointF(-5.5, 5));
      g.drawLine(c + QPointF(5.5, -5), c + QPointF(5.5, 5));
      g.drawLine(c + QPointF(-5.5, 0), c + QPointF(5.5, 0));
      return;
  }
}

class LineDelegate : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const override {
    return {200, index.data(role_state).toInt() == 0 ? 26 : 27};
  }
  void paint(QPainter* g, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Palette& p = colours();
    const QRect r = option.rect;
    g->save();
    g->setRenderHint(QPainter::Antialiasing);
    const auto state = static_cast<LineState>(index.data(role_state).toInt());
    if (state == LineState::heading) {
      g->setFont(text_font(8.5, QFont::DemiBold));
      g->setPen(p.faint);
      g->drawText(r.adjusted(12, 6, -8, 0), Qt::AlignLeft | Qt::AlignVCenter, index.data().toString());
      g->restore();
      return;
    }
    const bool chosen = (option.state & QStyle::State_Selected) != 0;
    if (chosen) {
      g->fillRect(r, p.heather_soft);
      g->fillRect(QRect(r.left(), r.top(), 3, r.height()), p.heather);
    }
    draw_state(*g, QPointF(r.left() + 20, r.center().y() + 0.5), state, index.data(role_older).toBool());
    g->setFont(text_font(10, chosen ? QFont::DemiBold : QFont::Normal));
    g->setPen(p.ink);
    const QString side = index.data(role_side).toString();
    const int side_width = side.isEmpty() ? 0 : QFontMetrics(text_font(8.5)).horizontalAdvance(side) + 8;
    g->drawText(
        r.adjusted(36, 0, -10 - side_width, 0), Qt::AlignLeft | Qt::AlignVCenter,
        QFontMetrics(g->font()).elidedText(index.data().toString(), Qt::ElideRight, r.width() - 46 - side_width));
    g->setFont(text_font(8.5));
    g->setPen(p.faint);
    g->drawText(r.adjusted(0, 0, -10, 0), Qt::AlignRight | Qt::AlignVCenter, side);
    if (index.data(role_next).toBool()) {
      const QString word = QObject::tr("next");
      const int w = QFontMetrics(text_font(8, QFont::DemiBold)).horizontalAdvance(word) + 12;
      const QRectF tag(r.right() - w - 8 - side_width, r.center().y() - 8, w, 17);
      g->setPen(Qt::NoPen);
      g->setBrush(p.heather);
      g->drawRoundedRect(tag, 8, 8);
      g->setFont(text_font(8, QFont::DemiBold));
      g->setPen(p.paper);
      g->drawText(tag, Qt::AlignCenter, word);
    }
    if ((option.state & QStyle::State_HasFocus) != 0) {
      g->setPen(QPen(p.heather, 1, Qt::DotLine));
      g->setBrush(Qt::NoBrush);
      g->drawRect(r.adjusted(4, 1, -2, -2));
    }
    g->restore();
  }
};

}  // namespace

BuildSheetView::BuildSheetView(Workbench& bench, QWidget* parent) : QFrame(parent), bench_(bench) {
  setObjectName(QStringLiteral("sheet"));
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 8, 0, 4);
  all->setSpacing(4);
  heading_ = new QLabel(tr("Build sheet"), this);
  heading_->setObjectName(QStringLiteral("title"));
  heading_->setContentsMargins(12, 0, 8, 0);
  all->addWidget(heading_);
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Build sheet"));
  list_->setItemDelegate(new LineDelegate(list_));
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  all->addWidget(list_, 1);
  connect(list_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
    if (item == nullptr || item->data(role_id).toString().isEmpty()) return;
    chosen_ = item->data(role_id).toString().toStdString();
    Q_EMIT line_chosen(item->data(role_id).toString());
  });
  connect(&bench_, &Workbench::changed, this, &BuildSheetView::refresh);
  connect(&bench_, &Workbench::planned_now, this, &BuildSheetView::refresh);
  refresh();
}

void BuildSheetView::refresh() {
  const auto sheet = bench_.sheet();
  const QSignalBlocker quiet(list_);
  const bool same = list_->count() == static_cast<int>(sheet.size());
  if (!same) list_->clear();
  for (std::size_t i = 0; i < sheet.size(); ++i) {
    const BuildLine& line = sheet[i];
    auto* item = same ? list_->item(static_cast<int>(i)) : new QListWidgetItem(list_);
    item->setText(QString::fromStdString(line.title));
    item->setData(role_state, static_cast<int>(line.state));
    item->setData(role_side, line.older         ? tr("older numbers")
                             : line.seconds > 0 ? QString::fromStdString(path_seconds_text(line.seconds))
                                                : QString());
    item->setData(role_older, line.older);
    item->setData(role_next, line.next);
    item->setData(role_id, QString::fromStdString(line.id));
    if (line.state == LineState::heading) {
      item->setFlags(Qt::NoItemFlags);
    } else {
      QString words =
          tr("%1, %2").arg(QString::fromStdString(line.title), QString::fromUtf8(line_state_name(line.state)));
      if (!line.cutter.empty()) words += tr(", cutter %1").arg(QString::fromStdString(line.cutter));
      if (line.next) words += tr(", next");
      if (!line.note.empty()) words += QStringLiteral("\n") + QString::fromStdString(line.note);
      item->setToolTip(words);
      item->setData(Qt::AccessibleTextRole, words);
    }
    if (line.id == chosen_) list_->setCurrentItem(item);
  }
}

void BuildSheetView::choose(const std::string& id) {
  for (int i = 0; i < list_->count(); ++i)
    if (list_->item(i)->data(role_id).toString().toStdString() == id) {
      list_->setCurrentRow(i);
      list_->scrollToItem(list_->item(i));
      return;
    }
}

}  // namespace wren::app

#include <QApplication>
#include <fmt/format.h>

#include <QHBoxLayout>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QStyleOptionButton>

#include "app/panels.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

constexpr int role_state = Qt::UserRole + 1;
constexpr int role_side = Qt::UserRole + 2;
constexpr int role_next = Qt::UserRole + 3;
constexpr int role_id = Qt::UserRole + 4;
constexpr int role_older = Qt::UserRole + 5;
constexpr int role_section = Qt::UserRole + 6;  // set: a section's head, with what its second line says

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
  QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const auto* view = qobject_cast<const QTreeView*>(option.widget);
    const int width = view != nullptr ? view->viewport()->width() : 280;
    const Laid laid = lay(QRect(0, 0, width, 1), index, false);
    return {width, laid.height};
  }
  void paint(QPainter* g, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Palette& p = colours();
    const auto* view = qobject_cast<const QTreeView*>(option.widget);
    QRect r = option.rect;
    r.setLeft(0);  // the tree's own indent is not used
    const bool chosen = (option.state & QStyle::State_Selected) != 0;
    const Laid laid = lay(r, index, chosen);
    g->save();
    g->setRenderHint(QPainter::Antialiasing);
    const bool section = index.data(role_section).isValid();
    if (section) {
      g->fillRect(r, p.ground);
      g->setPen(QPen(p.hair, 1));
      g->drawLine(r.topLeft(), r.topRight());
    }
    if (chosen) {
      g->fillRect(r, p.heather_soft);
      g->fillRect(QRect(r.left(), r.top(), 3, r.height()), p.heather);
    }
    if (section) {
      // Folded: points right; open: points down.
      const QPointF c(r.left() + 15, r.top() + 17);
      const bool open = view != nullptr && view->isExpanded(index);
      g->setPen(QPen(p.ink, 1.6, Qt::SolidLine, Qt::RoundCap));
      g->setBrush(Qt::NoBrush);
      g->drawPolyline(open ? QPolygonF{c + QPointF(-4.5, -2.5), c + QPointF(0, 3), c + QPointF(4.5, -2.5)}
                           : QPolygonF{c + QPointF(-2.5, -4.5), c + QPointF(3, 0), c + QPointF(-2.5, 4.5)});
    } else if (!laid.group) {
      draw_state(*g, QPointF(r.left() + 18, r.top() + 15), static_cast<LineState>(index.data(role_state).toInt()),
                 index.data(role_older).toBool());
    }
    g->setFont(laid.font);
    g->setPen(laid.group ? p.faint : p.ink);
    g->drawText(laid.title, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, index.data().toString());
    g->setFont(text_font(8.5));
    g->setPen(section && index.data(role_older).toBool() ? p.rowan : p.faint);
    if (section)
      g->drawText(laid.under, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, index.data(role_section).toString());
    else if (!laid.group)
      g->drawText(laid.under, Qt::AlignRight | Qt::AlignTop, index.data(role_side).toString());
    if (index.data(role_next).toBool()) {
      g->setPen(Qt::NoPen);
      g->setBrush(p.heather);
      g->drawEllipse(QPointF(r.left() + (section ? 15 : 6.5), r.top() + (section ? 32 : 15)), 3, 3);
    }
    if ((option.state & QStyle::State_HasFocus) != 0) {
      g->setPen(QPen(p.heather, 1, Qt::DotLine));
      g->setBrush(Qt::NoBrush);
      g->drawRect(r.adjusted(4, 1, -2, -2));
    }
    g->restore();
  }

 private:
  struct Laid {
    QRect title, under;
    QFont font;
    bool group = false;
    int height = 0;
  };
  /// Where the words of a row stand; names take as many lines as they need.
  static Laid lay(const QRect& r, const QModelIndex& index, bool chosen) {
    Laid out;
    const QString second = index.data(role_section).toString();
    const bool section = index.data(role_section).isValid();
    out.group = !section && static_cast<LineState>(index.data(role_state).toInt()) == LineState::heading;
    out.font = out.group ? text_font(8.5, QFont::DemiBold)
                         : text_font(10, section || chosen ? QFont::DemiBold : QFont::Normal);
    const QString side = section ? QString() : index.data(role_side).toString();
    const QFontMetrics small(text_font(8.5));
    const int right = side.isEmpty() ? 0 : small.boundingRect(QRect(0, 0, 400, 400), 0, side).width() + 10;
    const int left = out.group ? 12 : 34;
    const int width = std::max(60, r.width() - left - 10 - right);
    const QRect words =
        QFontMetrics(out.font).boundingRect(QRect(0, 0, width, 2000), Qt::TextWordWrap, index.data().toString());
    const int top = out.group ? 8 : 6;
    out.title = QRect(r.left() + left, r.top() + top, width, words.height());
    if (section) {
      const int tall = small.boundingRect(QRect(0, 0, width, 2000), Qt::TextWordWrap, second).height();
      out.under = QRect(r.left() + left, out.title.bottom() + 1, width, tall);
      out.height = top + words.height() + tall + 9;
    } else {
      const int tall = side.isEmpty() ? 0 : small.boundingRect(QRect(0, 0, 400, 400), 0, side).height();
      out.under = QRect(r.right() - right, r.top() + top + 1, right - 6, tall);
      out.height = std::max(words.height(), tall) + top + (out.group ? 2 : 5);
    }
    return out;
  }
};

QString head_words(const SectionState& s) {
  QStringList out;
  if (s.of > 0) out << BuildSheetView::tr("%1 of %2 done").arg(s.done).arg(s.of);
  if (s.seconds_left > 0) out << BuildSheetView::tr("%1 left").arg(work_time(s.seconds_left));
  if (s.stops > 0)
    out << (s.stops == 1 ? BuildSheetView::tr("1 stops the work")
                         : BuildSheetView::tr("%1 stop the work").arg(s.stops));
  if (s.standing == Standing::waits) out << BuildSheetView::tr("waits");
  if (s.older > 0) out << BuildSheetView::tr("%1 of older numbers").arg(s.older);
  return out.isEmpty() ? BuildSheetView::tr("nothing open") : out.join(QStringLiteral(" · "));
}

}  // namespace

int WrapButton::heightForWidth(int width) const {
  const QRect words =
      fontMetrics().boundingRect(QRect(0, 0, std::max(40, width - 24), 2000), Qt::TextWordWrap | Qt::AlignLeft, text());
  return words.height() + 14;
}

void WrapButton::resizeEvent(QResizeEvent* event) {
  QPushButton::resizeEvent(event);
  if (const int tall = heightForWidth(width()); minimumHeight() != tall) setMinimumHeight(tall);
}

void WrapButton::paintEvent(QPaintEvent*) {
  QPainter g(this);
  QStyleOptionButton option;
  initStyleOption(&option);
  option.text.clear();
  style()->drawControl(QStyle::CE_PushButton, &option, &g, this);
  const Palette& p = colours();
  g.setPen(objectName() == QStringLiteral("main")     ? p.paper
           : objectName() == QStringLiteral("repair") ? p.heather
                                                      : p.ink);
  g.setFont(font());
  g.drawText(rect().adjusted(12, 4, -12, -4), Qt::TextWordWrap | Qt::AlignLeft | Qt::AlignVCenter, text());
}

BuildSheetView::BuildSheetView(Workbench& bench, QWidget* parent) : QFrame(parent), bench_(bench) {
  setObjectName(QStringLiteral("sheet"));
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 8, 0, 4);
  all->setSpacing(6);
  auto* above = new QVBoxLayout;
  above->setContentsMargins(8, 0, 8, 0);
  above->setSpacing(6);
  next_ = new WrapButton(this);
  next_->setObjectName(QStringLiteral("main"));
  connect(next_, &QPushButton::clicked, this, [this] { go_next(); });
  above->addWidget(next_);
  show_ = new QComboBox(this);
  show_->setAccessibleName(tr("Lines shown"));
  show_->addItems({tr("All lines"), tr("Open questions"), tr("Today: what can be done now")});
  connect(show_, &QComboBox::currentIndexChanged, this, [this] { refresh(); });
  above->addWidget(show_);
  all->addLayout(above);
  tree_ = new QTreeWidget(this);
  tree_->setAccessibleName(tr("Build sheet"));
  tree_->setAccessibleDescription(tr("Right and left fold a section out and in; N goes to the next step."));
  tree_->setHeaderHidden(true);
  tree_->setIndentation(0);
  tree_->setRootIsDecorated(false);
  tree_->setExpandsOnDoubleClick(false);
  tree_->setItemDelegate(new LineDelegate(tree_));
  tree_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  tree_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  all->addWidget(tree_, 1);
  connect(tree_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
    if (filling_ || item == nullptr || item->data(0, role_section).isValid()) return;
    const QString id = item->data(0, role_id).toString();
    if (id.isEmpty()) return;
    chosen_ = id.toStdString();
    Q_EMIT line_chosen(id);
  });
  connect(tree_, &QTreeWidget::itemClicked, this, [](QTreeWidgetItem* item) {
    if (item->data(0, role_section).isValid()) item->setExpanded(!item->isExpanded());
  });
  const auto by_hand = [this](QTreeWidgetItem* item, bool open) {
    if (filling_) return;
    const std::string id = item->data(0, role_id).toString().toStdString();
    if (open)
      opened_.insert(id);
    else
      opened_.erase(id);
  };
  connect(tree_, &QTreeWidget::itemExpanded, this, [by_hand](QTreeWidgetItem* item) { by_hand(item, true); });
  connect(tree_, &QTreeWidget::itemCollapsed, this, [by_hand](QTreeWidgetItem* item) { by_hand(item, false); });
  connect(&bench_, &Workbench::changed, this, &BuildSheetView::refresh);
  connect(&bench_, &Workbench::planned_now, this, &BuildSheetView::refresh);
  refresh();
}

void BuildSheetView::set_show(Show what) { show_->setCurrentIndex(static_cast<int>(what)); }

bool BuildSheetView::shows(const BuildLine& line) const {
  switch (static_cast<Show>(show_->currentIndex())) {
    case Show::all: return true;
    case Show::open: return line.state == LineState::question;
    case Show::today:
      return line.next || (!line.waits &&
                           (line.state == LineState::question ||
                            (!line.side.empty() && line.state >= LineState::written && line.state != LineState::cut)));
  }
  return true;
}

void BuildSheetView::fill_line(QTreeWidgetItem* item, const BuildLine& line) const {
  item->setText(0, in_words(line.title));
  item->setData(0, role_state, static_cast<int>(line.state));
  QStringList side;
  if (line.older) side << tr("older numbers");
  if (line.seconds > 0 && !line.older) side << work_time(line.seconds);
  if (!line.cutter.empty()) side << QString::fromStdString(line.cutter);
  item->setData(0, role_side, side.join(QLatin1Char('\n')));
  item->setData(0, role_older, line.older);
  item->setData(0, role_next, line.next);
  item->setData(0, role_id, QString::fromStdString(line.id));
  if (line.state == LineState::heading) {
    item->setFlags(Qt::NoItemFlags);
    return;
  }
  QString words = tr("%1, %2").arg(in_words(line.title), in_words(line_state_name(line.state)));
  if (line.seconds > 0) words += QStringLiteral(", ") + work_time(line.seconds);
  if (line.paced_by > 0) words += tr(" (as %n run(s) of it really took)", nullptr, line.paced_by);
  if (!line.cutter.empty()) words += tr(", cutter %1").arg(QString::fromStdString(line.cutter));
  if (line.next) words += tr(", next");
  if (!line.note.empty()) words += QStringLiteral("\n") + in_words(line.note, bench_.units());
  item->setToolTip(0, words);
  item->setData(0, Qt::AccessibleTextRole, words);
}

void BuildSheetView::refresh() {
  filling_ = true;
  refresh_rows();
  filling_ = false;
}

void BuildSheetView::refresh_rows() {
  const auto sheet = bench_.sheet();
  const Overview seen = bench_.overview();
  next_line_ = seen.next ? seen.next->line.id : std::string();
  const QString next = seen.next ? in_words(seen.next->line.title) : QString();
  const QString where = seen.next ? in_words(seen.next->section) : QString();
  next_->setText(seen.next ? tr("Next: %1, %2").arg(where, next) : tr("Everything is made and measured"));
  next_->setAccessibleName(next_->text());
  next_->setAccessibleDescription(seen.next ? in_words(seen.next->why, bench_.units()) : QString());
  next_->setToolTip(next_->accessibleDescription());
  next_->setEnabled(seen.next.has_value());
  next_->setMinimumHeight(next_->heightForWidth(next_->width()));
  std::vector<std::string> shape{fmt::to_string(show_->currentIndex())};
  const auto is_head = [&](const BuildLine& l) {
    return std::any_of(seen.sections.begin(), seen.sections.end(), [&](const SectionState& s) {
      return s.id == l.section && l.state == LineState::heading && l.title == s.title;
    });
  };
  const bool filtered = show_->currentIndex() != 0;
  std::vector<const BuildLine*> lines;
  for (const BuildLine& l : sheet) {
    if (is_head(l) || (filtered && (l.state == LineState::heading || !shows(l)))) continue;
    lines.push_back(&l);
    shape.push_back(l.section + "/" + l.id + "/" + (l.state == LineState::heading ? l.title : ""));
  }
  std::string own;
  for (const BuildLine& l : sheet)
    if (l.id == chosen_) own = l.section;
  const bool same = shape == shape_;
  if (!same) {
    tree_->clear();
    shape_ = shape;
  }
  int top = 0;
  std::size_t k = 0;
  for (const SectionState& s : seen.sections) {
    const auto first = k;
    while (k < lines.size() && lines[k]->section == s.id) ++k;
    if (filtered && k == first) continue;
    auto* head = same ? tree_->topLevelItem(top) : new QTreeWidgetItem(tree_);
    ++top;
    head->setText(0, in_words(s.title));
    head->setData(0, role_section, head_words(s));
    head->setData(0, role_older, s.stops > 0);
    head->setData(0, role_next, s.has_next);
    head->setData(0, role_id, QString::fromStdString(s.id));
    head->setData(0, Qt::AccessibleTextRole,
                  tr("%1, %2, %3").arg(in_words(s.title), head_words(s), in_words(standing_name(s.standing))));
    head->setToolTip(0, head->data(0, Qt::AccessibleTextRole).toString());
    for (std::size_t i = first; i < k; ++i) {
      auto* item = same ? head->child(static_cast<int>(i - first)) : new QTreeWidgetItem(head);
      fill_line(item, *lines[i]);
      if (lines[i]->id == chosen_ && !lines[i]->id.empty() && tree_->currentItem() != item) tree_->setCurrentItem(item);
    }
    // The part in work is open, and what was folded out by hand; a sheet that shows a few lines shows them.
    const bool open = filtered || s.id == own || opened_.contains(s.id);
    if (!same || open) head->setExpanded(open);
  }
}

bool BuildSheetView::go_next() {
  if (next_line_.empty()) return false;
  show_->setCurrentIndex(0);
  choose(next_line_);
  return true;
}

void BuildSheetView::choose(const std::string& id) {
  const auto find = [&]() -> QTreeWidgetItem* {
    for (int s = 0; s < tree_->topLevelItemCount(); ++s)
      for (int i = 0; i < tree_->topLevelItem(s)->childCount(); ++i)
        if (tree_->topLevelItem(s)->child(i)->data(0, role_id).toString().toStdString() == id)
          return tree_->topLevelItem(s)->child(i);
    return nullptr;
  };
  QTreeWidgetItem* item = find();
  if (item == nullptr && show_->currentIndex() != 0) {
    show_->setCurrentIndex(0);
    item = find();
  }
  if (item == nullptr) return;
  filling_ = true;
  for (int s = 0; s < tree_->topLevelItemCount(); ++s) {
    QTreeWidgetItem* head = tree_->topLevelItem(s);
    head->setExpanded(head == item->parent() || opened_.contains(head->data(0, role_id).toString().toStdString()));
  }
  filling_ = false;
  const bool was = chosen_ == id && tree_->currentItem() == item;
  tree_->setCurrentItem(item);
  tree_->scrollToItem(item);
  if (was) Q_EMIT line_chosen(QString::fromStdString(id));
}

void BuildSheetView::resizeEvent(QResizeEvent* event) {
  QFrame::resizeEvent(event);
  tree_->doItemsLayout();  // names wrap anew
}

void BuildSheetView::changeEvent(QEvent* event) {
  QFrame::changeEvent(event);
  if (event->type() == QEvent::StyleChange || event->type() == QEvent::FontChange) {
    next_->setMinimumHeight(next_->heightForWidth(next_->width()));
    tree_->doItemsLayout();
  }
}

}  // namespace wren::app

#include <set>

#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollBar>
#include <QStyle>
#include <QTimer>

#include "app/fields.hpp"
#include "app/panels.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

QString origin_word(Origin origin) {
  switch (origin) {
    case Origin::given: return LedgerView::tr("given");
    case Origin::derived: return LedgerView::tr("worked out");
    case Origin::measured: return LedgerView::tr("measured");
    case Origin::listed: return LedgerView::tr("from the list, not measured");
  }
  return {};
}

/// A sign beside the word, so that an origin is told without reading and without colour.
QString origin_sign(Origin origin) {
  switch (origin) {
    case Origin::given: return QStringLiteral("•");
    case Origin::derived: return QStringLiteral("=");
    case Origin::measured: return QStringLiteral("↔");
    case Origin::listed: return QStringLiteral("?");
  }
  return {};
}

QColor origin_colour(Origin origin) {
  const Palette& p = colours();
  switch (origin) {
    case Origin::measured: return p.lichen;
    case Origin::derived: return p.heather;
    case Origin::listed: return p.gorse;  // nobody has measured it yet
    default: return p.faint;
  }
}

/// A label that takes as many lines as its words need.
QLabel* wrapping(QWidget* parent) {
  auto* label = new QLabel(parent);
  label->setWordWrap(true);
  label->setMinimumWidth(40);
  QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Minimum);
  policy.setHeightForWidth(true);
  label->setSizePolicy(policy);
  return label;
}

}  // namespace

LedgerView::LedgerView(Workbench& bench, QWidget* parent) : QFrame(parent), bench_(bench) {
  setObjectName(QStringLiteral("sheet"));
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(12, 8, 4, 6);
  all->setSpacing(4);
  heading_ = new QLabel(this);
  heading_->setObjectName(QStringLiteral("title"));
  note_ = new QLabel(this);
  note_->setObjectName(QStringLiteral("quiet"));
  note_->setWordWrap(true);
  all->addWidget(heading_);
  all->addWidget(note_);
  scroll_ = new QScrollArea(this);
  for (QWidget* w : {static_cast<QWidget*>(scroll_), scroll_->viewport()}) w->setAccessibleName(tr("Numbers"));
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setWidgetResizable(true);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  scroll_->setFocusPolicy(Qt::NoFocus);
  all->addWidget(scroll_, 1);
  trouble_ = new QLabel(this);
  trouble_->setObjectName(QStringLiteral("trouble"));
  trouble_->setWordWrap(true);
  trouble_->hide();
  all->addWidget(trouble_);
  connect(&bench_, &Workbench::changed, this, &LedgerView::refresh);
  connect(&bench_, &Workbench::planned_now, this, &LedgerView::refresh);
  connect(&bench_, &Workbench::opened, this, [this] {
    refused_.clear();
    refresh();
  });
  refresh();
}

void LedgerView::show_line(const std::string& id) {
  commit_typing();
  line_ = id;
  refresh();
  scroll_->ensureVisible(0, 0);
}

void LedgerView::refresh() {
  again_ = true;
  if (refreshing_ || !isVisible()) return;
  refreshing_ = true;
  for (int turn = 0; turn < 4 && again_; ++turn) {
    again_ = false;
    refresh_rows();
  }
  refreshing_ = false;
}

void LedgerView::showEvent(QShowEvent* event) {
  QFrame::showEvent(event);
  if (again_) refresh();
}

void LedgerView::refresh_rows() {
  BuildLine chosen;
  for (const BuildLine& l : bench_.sheet())
    if (l.id == line_) chosen = l;
  heading_->setText(chosen.title.empty() ? tr("Ledger") : in_words(chosen.title));
  QString note = chosen.state == LineState::question || chosen.state == LineState::cut || chosen.older ||
                         !chosen.held_up_by.empty() || chosen.note.find("/") != std::string::npos
                     ? in_words(chosen.note, bench_.units())
                     : QString();
  if (chosen.waits || (note.isEmpty() && chosen.look == Look::side)) note = in_words(chosen.note, bench_.units());
  if (note.isEmpty()) note = in_words(chosen.hint, bench_.units());
  note_->setText(note);
  note_->setVisible(!note.isEmpty());
  const auto all = bench_.ledger_lines();
  std::vector<LedgerLine> lines = lines_of(chosen, all);
  std::vector<std::string> keys;
  for (const auto& l : lines) keys.push_back(l.key);
  filling_ = true;
  if (keys != keys_) {
    // While cuts are planned their numbers are missing for a moment: the field being typed in must not go with them.
    if (!bench_.planned(bench_.part()) && bench_.problem(bench_.part()) == nullptr && !keys_.empty() &&
        std::includes(keys_.begin(), keys_.end(), keys.begin(), keys.end())) {
      for (const auto& l : lines) fill(rows_[l.key], l);
      filling_ = false;
      return;
    }
    keys_ = keys;
    rebuild(lines);
  }
  for (const auto& l : lines) fill(rows_[l.key], l);
  filling_ = false;
  show_trouble();
}

QWidget* LedgerView::make_editor(const LedgerLine& line) {
  const std::string key = line.key;
  if (line.editable && line.kind == FieldKind::flag) {
    auto* box = new QCheckBox(scroll_);
    connect(box, &QCheckBox::toggled, this, [this, key](bool on) {
      if (!filling_) commit(key, key, on ? QStringLiteral("yes") : QStringLiteral("no"));
    });
    return box;
  }
  if (line.editable && (line.kind == FieldKind::choice || line.offers != Offers::nothing)) {
    auto* box = new ChoiceField(scroll_);
    const auto field = bench_.parts().book().find(bench_.project(), key);
    if (line.offers == Offers::cutters) {
      for (const Cutter& c : bench_.project().rack) box->addItem(QString::fromStdString(c.id));
    } else if (line.offers == Offers::woods) {
      std::set<std::string> names;
      for (const Materials* list : {&bench_.project().materials, &known_materials()})
        for (const Material& m : *list) names.insert(m.name);
      for (const std::string& name : names) box->addItem(QString::fromStdString(name));
    } else if (field) {
      for (const auto& choice : field->choices)
        box->addItem(in_words(choice_words(key, choice)), QString::fromStdString(choice));
    }
    for (int i = 0; i < box->count(); ++i)
      if (!box->itemData(i).isValid()) box->setItemData(i, box->itemText(i));
    box->setFocusPolicy(Qt::StrongFocus);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    connect(box, &QComboBox::currentIndexChanged, this, [this, box, key] {
      if (!filling_) commit(key, key, box->currentData().toString());
    });
    return box;
  }
  auto* edit = new TypedField(scroll_);
  edit->setReadOnly(!line.editable && line.pin.empty());
  if (edit->isReadOnly()) edit->setFocusPolicy(Qt::ClickFocus);
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, key] {
    const auto it = rows_.find(key);
    if (filling_ || it == rows_.end() || edit->isReadOnly()) return;
    const std::string& target = it->second.pin.empty() ? key : it->second.pin;
    if (edit->text() == it->second.shown && !bench_.awaits(target)) return;
    commit(key, target, edit->text());
  });
  connect(edit, &TypedField::given_up, this, [this, key] { give_up(key); });
  return edit;
}

int LedgerView::wanted_columns() const {
  constexpr double column = 262;  // for text of 12
  return scroll_->viewport()->width() >= 2 * column * text_size() / least_text_size ? 2 : 1;
}

void LedgerView::resizeEvent(QResizeEvent* event) {
  QFrame::resizeEvent(event);
  if (columns_ != 0 && wanted_columns() != columns_) QTimer::singleShot(0, this, &LedgerView::rebuild_all);
}

QWidget* LedgerView::make_cell(const LedgerLine& line, bool bare, QWidget* parent) {
  auto* cell = new QWidget(parent);
  auto* grid = new QGridLayout(cell);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(1);
  grid->setColumnStretch(0, 4);
  grid->setColumnStretch(1, 5);
  Row row;
  row.label = wrapping(cell);
  row.label->setText(in_words(line.label));
  row.editor = make_editor(line);
  row.editor->setFixedHeight(static_cast<int>(text_size() * 1.35 * logicalDpiY() / 72 * 1.3) + 6);
  row.editor->setObjectName(QString::fromStdString(line.key));
  const QString name = in_words(line.label);
  row.editor->setAccessibleName(bare ? tr("%1: %2").arg(in_words(number_group(line.key)), name) : name);
  row.label->setBuddy(row.editor);
  row.reason = wrapping(cell);
  row.reason->setObjectName(QStringLiteral("quiet"));
  row.reason->setTextFormat(Qt::RichText);
  row.pin = line.pin;
  row.editor->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(row.editor, &QWidget::customContextMenuRequested, this,
          [this, line, editor = row.editor] { show_history(line, editor); });
  grid->addWidget(row.label, 0, 0, Qt::AlignVCenter);
  grid->addWidget(row.editor, 0, 1, Qt::AlignVCenter);
  grid->addWidget(row.reason, 1, 0, 1, 2);
  rows_[line.key] = row;
  return cell;
}

void LedgerView::rebuild(const std::vector<LedgerLine>& lines) {
  // The keyboard stays in its field, with what is typed and selected there.
  std::string focused;
  QString typed;
  bool modified = false;
  bool all_selected = false;
  for (const auto& [key, row] : rows_)
    if (row.editor != nullptr && row.editor->hasFocus()) {
      focused = key;
      row.editor->blockSignals(true);  // it is not left: its successor goes on
      if (auto* edit = qobject_cast<QLineEdit*>(row.editor)) {
        typed = edit->text();
        modified = edit->isModified();
        all_selected = edit->hasSelectedText();
      }
    }
  const int scrolled = scroll_->verticalScrollBar()->value();
  rows_.clear();
  auto* inside = new QWidget;
  auto* grid = new QGridLayout(inside);
  grid->setContentsMargins(0, 2, 10, 2);
  grid->setHorizontalSpacing(26);
  grid->setVerticalSpacing(7);
  columns_ = wanted_columns();
  for (int c = 0; c < columns_; ++c) grid->setColumnStretch(c, 1);
  std::map<std::string, int> same_label;
  std::set<std::string> groups;
  for (const LedgerLine& line : lines) {
    ++same_label[line.label];
    groups.insert(number_group(line.key));
  }
  int r = 0;
  int c = 0;
  Words group;
  for (const LedgerLine& line : lines) {
    if (const Words here = number_group(line.key); !(here == group) && groups.size() > 1) {
      if (c > 0) ++r;
      auto* head = new QLabel(in_words(here), inside);
      head->setObjectName(QStringLiteral("group"));
      grid->addWidget(head, r++, 0, 1, columns_);
      c = 0;
      group = here;
    }
    // A label that stands twice, or says nothing alone, is named with its head.
    const bool bare = groups.size() > 1 && (same_label[line.label] > 1 || line.label.find(" ") == std::string::npos);
    grid->addWidget(make_cell(line, bare, inside), r, c, Qt::AlignTop);
    if (++c == columns_) {
      c = 0;
      ++r;
    }
  }
  grid->setRowStretch(r + 1, 1);
  // The old rows may hold the very button that was just pressed: they go when its event is over.
  if (QWidget* old = scroll_->takeWidget()) old->deleteLater();
  scroll_->setWidget(inside);
  if (const auto it = rows_.find(focused); it != rows_.end()) {
    it->second.editor->setFocus();
    if (auto* edit = qobject_cast<QLineEdit*>(it->second.editor)) {
      if (modified) {
        edit->setText(typed);
        edit->setModified(true);
      } else {
        fill(it->second,
             *std::find_if(lines.begin(), lines.end(), [&](const LedgerLine& l) { return l.key == focused; }));
        if (all_selected) edit->selectAll();
      }
    }
    scroll_->verticalScrollBar()->setValue(scrolled);
  }
}

void LedgerView::fill(Row& row, const LedgerLine& line) {
  if (row.editor == nullptr) return;
  if (bench_.awaits(line.key) || bench_.awaits(line.pin)) {
    // What was typed stands until what follows from it is there.
  } else if (auto* box = qobject_cast<QCheckBox*>(row.editor)) {
    box->setChecked(std::get_if<bool>(&line.value) != nullptr && std::get<bool>(line.value));
  } else if (auto* choice = qobject_cast<QComboBox*>(row.editor)) {
    const QString id = QString::fromStdString(ledger_text(line, {bench_.units()}));
    if (choice->findData(id) < 0) choice->addItem(shown_value(line, bench_.units()), id);
    choice->setCurrentIndex(choice->findData(id));
  } else if (auto* edit = qobject_cast<QLineEdit*>(row.editor)) {
    const QString text = shown_value(line, bench_.units());
    const auto refused = refused_.find(line.key);
    const bool bad = refused != refused_.end();
    // A field being typed in keeps what is typed until it is finished; a refused number stays until it is mended.
    if (!(edit->hasFocus() && edit->isModified())) {
      const QString shown = bad ? refused->second.text : text;
      if (edit->text() != shown) {
        edit->setText(shown);
        edit->setCursorPosition(0);
      }
    }
    if (edit->property("bad").toBool() != bad) {
      edit->setProperty("bad", bad);
      edit->style()->polish(edit);
    }
    row.shown = text;
  }
  QStringList says;
  if (!line.reason.empty()) says << in_words(line.reason, bench_.units());
  // Designed and measured side by side: which of the two is in use, and since when.
  if (const Measured* m = measured_in_use(bench_.project().record.measured, line.key))
    says << tr("designed %1, measured %2 on %3: the measure is used")
                .arg(shown_value(line, bench_.units()), length_words(m->value, bench_.units()),
                     QString::fromStdString(m->date));
  if (!line.pin.empty()) says << tr("type a number to pin it");
  const QString reason = says.join(QStringLiteral("; "));
  row.reason->setText(QStringLiteral("<span style='color:%1'>%2 %3</span>%4")
                          .arg(origin_colour(line.origin).name(), origin_sign(line.origin), origin_word(line.origin),
                               reason.isEmpty() ? QString() : QStringLiteral("; ") + reason.toHtmlEscaped()));
  row.editor->setAccessibleDescription(tr("%1. %2").arg(origin_word(line.origin), reason));
}

void LedgerView::show_history(const LedgerLine& line, QWidget* at) {
  auto* menu = new QMenu(this);  // the field may be made anew while it is open
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->setAccessibleName(tr("Of %1").arg(in_words(line.label)));
  menu->addAction(tr("Copy the number"), this,
                  [line, this] { QGuiApplication::clipboard()->setText(shown_value(line, bench_.units())); });
  menu->addAction(tr("Where the formula comes from…"), this,
                  [this, line] { Q_EMIT formula_asked(QString::fromStdString(line.label)); });
  menu->addSeparator();
  const auto before = bench_.history_of(line.key);
  if (before.empty()) menu->addAction(tr("It was never changed since the project was opened"))->setEnabled(false);
  for (std::size_t i = 0; i < before.size() && i < 12; ++i) {
    const QString text = before[i].text;
    QAction* back = menu->addAction(tr("Back to %1  (before: %2)").arg(text, before[i].step));
    back->setEnabled(line.editable);
    connect(back, &QAction::triggered, this, [this, key = line.key, text] { commit(key, key, text); });
  }
  menu->popup(at->mapToGlobal(QPoint(0, at->height())));
}

bool LedgerView::commit_typing() {
  auto* edit = qobject_cast<QLineEdit*>(QApplication::focusWidget());
  if (edit != nullptr && isAncestorOf(edit) && edit->isModified()) Q_EMIT edit->editingFinished();
  return refused_.empty();
}

void LedgerView::commit(const std::string& key, const std::string& target, const QString& text) {
  const auto problem = bench_.type(target, text.toStdString());
  if (problem)
    refused_[key] = {text, bench_.words(*problem)};
  else
    refused_.erase(key);
  if (const auto it = rows_.find(key); it != rows_.end())
    if (auto* edit = qobject_cast<QLineEdit*>(it->second.editor)) edit->setModified(false);
  refresh();
}

void LedgerView::give_up(const std::string& key) {
  refused_.erase(key);
  if (const auto it = rows_.find(key); it != rows_.end())
    if (auto* edit = qobject_cast<QLineEdit*>(it->second.editor)) edit->setModified(false);
  refresh();
}

void LedgerView::show_trouble() {
  trouble_->setVisible(!refused_.empty());
  if (refused_.empty()) return;
  trouble_->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
  trouble_->setText(refused_.begin()->second.why);
}

bool LedgerView::focus_key(const std::string& key) {
  const auto it = rows_.find(key);
  if (it == rows_.end()) return false;
  it->second.editor->setFocus();
  scroll_->ensureWidgetVisible(it->second.editor);
  if (auto* edit = qobject_cast<QLineEdit*>(it->second.editor)) edit->selectAll();
  return true;
}

}  // namespace wren::app

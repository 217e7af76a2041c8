#include <set>

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollBar>
#include <QStyle>

#include "app/fields.hpp"
#include "app/panels.hpp"
#include "app/theme.hpp"

namespace wren::app {
namespace {

QString origin_word(Origin origin) {
  switch (origin) {
    case Origin::given: return LedgerView::tr("given");
    case Origin::derived: return LedgerView::tr("worked out");
    case Origin::measured: return LedgerView::tr("measured");
  }
  return {};
}

/// A label that gives way: cut short with an ellipsis, whole in its tip.
class QuietLabel : public QLabel {
 public:
  using QLabel::QLabel;
  void set_words(const QString& words) {
    words_ = words;
    setToolTip(words);
    cut();
  }

 protected:
  void resizeEvent(QResizeEvent* event) override {
    QLabel::resizeEvent(event);
    cut();
  }
  [[nodiscard]] QSize minimumSizeHint() const override { return {20, QLabel::minimumSizeHint().height()}; }

 private:
  void cut() { setText(fontMetrics().elidedText(words_, Qt::ElideRight, width())); }
  QString words_;
};

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
  BuildLine chosen;
  for (const BuildLine& l : bench_.sheet())
    if (l.id == line_) chosen = l;
  heading_->setText(chosen.title.empty() ? tr("Ledger") : QString::fromStdString(chosen.title));
  QString note = chosen.state == LineState::question || chosen.state == LineState::cut || chosen.older ||
                         chosen.note.find('/') != std::string::npos
                     ? QString::fromStdString(chosen.note)
                     : QString();
  if (chosen.waits || (note.isEmpty() && chosen.look == Look::side)) note = QString::fromStdString(chosen.note);
  if (note.isEmpty()) note = QString::fromStdString(chosen.hint);
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
      for (const auto& choice : field->choices) box->addItem(QString::fromStdString(choice));
    }
    box->setFocusPolicy(Qt::StrongFocus);
    connect(box, &QComboBox::currentTextChanged, this, [this, key](const QString& text) {
      if (!filling_) commit(key, key, text);
    });
    return box;
  }
  auto* edit = new TypedField(scroll_);
  edit->setReadOnly(!line.editable && line.pin.empty());
  if (edit->isReadOnly()) edit->setFocusPolicy(Qt::ClickFocus);
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, key] {
    const auto it = rows_.find(key);
    if (filling_ || it == rows_.end() || edit->isReadOnly() || edit->text() == it->second.shown) return;
    commit(key, it->second.pin.empty() ? key : it->second.pin, edit->text());
  });
  connect(edit, &TypedField::given_up, this, [this, key] { give_up(key); });
  return edit;
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
  grid->setContentsMargins(0, 2, 8, 2);
  grid->setHorizontalSpacing(7);
  grid->setVerticalSpacing(3);
  grid->setColumnStretch(3, 1);
  int r = 0;
  for (const LedgerLine& line : lines) {
    Row row;
    auto* label = new QuietLabel(inside);
    label->setFixedWidth(158);
    label->set_words(QString::fromStdString(line.label));
    row.editor = make_editor(line);
    row.editor->setFixedWidth(124);
    row.editor->setObjectName(QString::fromStdString(line.key));
    row.editor->setAccessibleName(QString::fromStdString(line.label));
    row.editor->setAccessibleDescription(QString::fromStdString(line.reason));
    label->setBuddy(row.editor);
    row.origin = new QLabel(inside);
    row.origin->setObjectName(QStringLiteral("quiet"));
    row.origin->setFixedWidth(64);
    row.reason = new QuietLabel(inside);
    row.reason->setObjectName(QStringLiteral("quiet"));
    row.pin = line.pin;
    grid->addWidget(label, r, 0);
    grid->addWidget(row.editor, r, 1);
    grid->addWidget(row.origin, r, 2);
    grid->addWidget(row.reason, r, 3);
    rows_[line.key] = row;
    ++r;
  }
  grid->setRowStretch(r, 1);
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
  const Palette& p = colours();
  if (auto* box = qobject_cast<QCheckBox*>(row.editor)) {
    box->setChecked(std::get_if<bool>(&line.value) != nullptr && std::get<bool>(line.value));
  } else if (auto* choice = qobject_cast<QComboBox*>(row.editor)) {
    const QString text = QString::fromStdString(ledger_text(line, bench_.units()));
    if (choice->findText(text) < 0) choice->addItem(text);
    choice->setCurrentText(text);
  } else if (auto* edit = qobject_cast<QLineEdit*>(row.editor)) {
    const QString text = QString::fromStdString(ledger_text(line, bench_.units()));
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
  QString word = origin_word(line.origin);
  if (!line.pin.empty()) word += QStringLiteral(" *");
  row.origin->setText(word);
  row.origin->setStyleSheet(QStringLiteral("color: %1")
                                .arg((line.origin == Origin::measured  ? p.lichen
                                      : line.origin == Origin::derived ? p.heather
                                                                       : p.faint)
                                         .name()));
  row.origin->setToolTip(line.pin.empty() ? QString() : tr("Type a number here to pin it; undo lets go of it."));
  static_cast<QuietLabel*>(row.reason)->set_words(QString::fromStdString(line.reason));
}

bool LedgerView::commit_typing() {
  auto* edit = qobject_cast<QLineEdit*>(QApplication::focusWidget());
  if (edit != nullptr && isAncestorOf(edit) && edit->isModified()) Q_EMIT edit->editingFinished();
  return refused_.empty();
}

void LedgerView::commit(const std::string& key, const std::string& target, const QString& text) {
  const auto problem = bench_.edit(target, text.toStdString());
  if (problem)
    refused_[key] = {text, QString::fromStdString(problem->text())};
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

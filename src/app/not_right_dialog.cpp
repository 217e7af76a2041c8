#include "app/not_right_dialog.hpp"

#include <algorithm>

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/words.hpp"

namespace wren::app {

NotRightDialog::NotRightDialog(Workbench& bench, MachineDesk& desk, HandStep step, QWidget* parent)
    : QDialog(parent), bench_(bench), desk_(desk), step_(std::move(step)) {
  setObjectName(QStringLiteral("step"));
  setWindowTitle(tr("Not right"));
  resize(700, 560);
  auto* column = new QVBoxLayout(this);
  head_ = new QLabel(tr("What is not right with %1?").arg(in_words(step_.title)), this);
  head_->setWordWrap(true);
  column->addWidget(head_);
  note_ = new QPlainTextEdit(this);
  note_->setAccessibleName(tr("Note"));
  note_->setPlaceholderText(tr("0.3 too deep at the treble side"));
  column->addWidget(note_, 1);
  column->addWidget(new QLabel(tr("A number to change at the desk:"), this));
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Numbers of this step"));
  const auto ledger = bench_.ledger_lines();
  for (const BuildLine& l : bench_.sheet())
    if (std::find(step_.lines.begin(), step_.lines.end(), l.id) != step_.lines.end())
      for (const LedgerLine& n : lines_of(l, ledger))
        if (n.editable) {
          auto* item = new QListWidgetItem(tr("%1: %2").arg(in_words(n.label), shown_value(n, bench_.units())), list_);
          item->setData(Qt::UserRole, QString::fromStdString(n.key));
        }
  column->addWidget(list_, 2);
  auto* row = new QHBoxLayout;
  auto* keep = new QPushButton(tr("Keep the note"), this);
  keep->setObjectName(QStringLiteral("main"));
  auto* go = new QPushButton(tr("Keep it and go to the number"), this);
  go->setEnabled(false);
  connect(list_, &QListWidget::currentItemChanged, go,
          [go](QListWidgetItem* item) { go->setEnabled(item != nullptr); });
  row->addWidget(keep);
  row->addWidget(go);
  column->addLayout(row);
  connect(keep, &QPushButton::clicked, this, [this] {
    if (keep_note()) accept();
  });
  connect(go, &QPushButton::clicked, this, [this] {
    if (!keep_note()) return;
    key_ = list_->currentItem()->data(Qt::UserRole).toString();
    accept();
  });
}

bool NotRightDialog::keep_note() {
  const QString words = note_->toPlainText().trimmed();
  if (words.isEmpty()) return true;
  if (desk_.running()) desk_.controls().remark(words.toStdString());
  std::string notes = bench_.project().notes;
  if (!notes.empty()) notes += "; ";
  notes += Workbench::today() + ", " + bench_.kind().title() + ", " + step_.placement + ", " + step_.title + ": " +
           words.toStdString();
  std::replace(notes.begin(), notes.end(), '\n', ' ');
  const auto bad = bench_.edit({{"project.notes", notes}}, "Note at the machine");
  if (bad) head_->setText(bench_.words(*bad));
  return !bad;
}

}  // namespace wren::app

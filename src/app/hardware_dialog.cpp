#include "app/hardware_dialog.hpp"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "core/document/hardware_shelf.hpp"

namespace wren::app {

HardwareDialog::HardwareDialog(Workbench& bench, QWidget* parent, std::filesystem::path shelf)
    : QDialog(parent), bench_(bench), shelf_(shelf.empty() ? hardware_file() : std::move(shelf)) {
  setWindowTitle(tr("My hardware"));
  resize(520, 440);
  auto* column = new QVBoxLayout(this);
  auto* about = new QLabel(tr("Sizes that you measured once, for the next instrument. Where a piece stands stays the "
                              "instrument's own."),
                           this);
  about->setWordWrap(true);
  column->addWidget(about);
  auto* form = new QFormLayout;
  where_ = new QComboBox(this);
  where_->setAccessibleName(tr("Piece of hardware"));
  for (const auto& [id, words] :
       {std::pair{"bridge", tr("Bridge")}, std::pair{"pickup.neck", tr("Neck pickup")},
        std::pair{"pickup.middle", tr("Middle pickup")}, std::pair{"pickup.bridge", tr("Bridge pickup")},
        std::pair{"tuner", tr("Tuners")}, std::pair{"rod", tr("Truss rod")}})
    where_->addItem(words, QString::fromLatin1(id));
  form->addRow(tr("Piece"), where_);
  column->addLayout(form);
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Kept pieces of this kind"));
  column->addWidget(list_, 1);
  auto* row = new QHBoxLayout;
  use_ = new QPushButton(tr("&Use it here"), this);
  forget_ = new QPushButton(tr("&Forget it"), this);
  row->addWidget(use_);
  row->addWidget(forget_);
  row->addStretch();
  column->addLayout(row);
  auto* keep_row = new QHBoxLayout;
  name_ = new QLineEdit(this);
  name_->setAccessibleName(tr("Name for what this instrument has"));
  name_->setPlaceholderText(tr("A name for what this instrument has"));
  auto* keep_it = new QPushButton(tr("&Keep"), this);
  keep_row->addWidget(name_, 1);
  keep_row->addWidget(keep_it);
  column->addLayout(keep_row);
  words_ = new QLabel(this);
  words_->setWordWrap(true);
  column->addWidget(words_);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
  column->addWidget(buttons);
  for (QPushButton* b : findChildren<QPushButton*>()) b->setAutoDefault(false);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  connect(where_, &QComboBox::currentIndexChanged, this, &HardwareDialog::refresh);
  connect(list_, &QListWidget::currentRowChanged, this, [this](int at) {
    use_->setEnabled(at >= 0);
    forget_->setEnabled(at >= 0);
  });
  connect(list_, &QListWidget::itemActivated, this, &HardwareDialog::use);
  connect(use_, &QPushButton::clicked, this, &HardwareDialog::use);
  connect(forget_, &QPushButton::clicked, this, &HardwareDialog::forget);
  connect(keep_it, &QPushButton::clicked, this, &HardwareDialog::keep);
  connect(name_, &QLineEdit::returnPressed, this, &HardwareDialog::keep);
  refresh();
}

std::string HardwareDialog::where() const { return where_->currentData().toString().toStdString(); }

void HardwareDialog::say(const QString& words, bool bad) {
  words_->setText(words);
  Q_EMIT bench_.said(words, bad);
}

void HardwareDialog::refresh() {
  list_->clear();
  use_->setEnabled(false);
  forget_->setEnabled(false);
  const auto all = read_hardware(shelf_);
  if (!all) return say(bench_.words(all.error()), true);
  const auto kind = hardware_kind(where());
  for (const HardwarePiece& p : *all)
    if (kind && p.kind == *kind) {
      auto* item = new QListWidgetItem(
          tr("%1 (kept %2)").arg(QString::fromStdString(p.name), QString::fromStdString(p.date)), list_);
      item->setData(Qt::UserRole, QString::fromStdString(p.name));
    }
}

void HardwareDialog::keep() {
  auto piece = hardware_of(bench_.parts().book(), bench_.project(), where(), name_->text().trimmed().toStdString(),
                           Workbench::today());
  if (!piece) return say(bench_.words(piece.error()), true);
  auto all = read_hardware(shelf_);
  if (!all) return say(bench_.words(all.error()), true);
  shelve(*all, std::move(*piece));
  if (const auto written = write_hardware(shelf_, *all); !written) return say(bench_.words(written.error()), true);
  const QString name = name_->text().trimmed();
  name_->clear();
  refresh();
  say(tr("Kept: %1").arg(name), false);
}

void HardwareDialog::use() {
  if (list_->currentItem() == nullptr) return;
  const std::string name = list_->currentItem()->data(Qt::UserRole).toString().toStdString();
  const auto all = read_hardware(shelf_);
  if (!all) return say(bench_.words(all.error()), true);
  const auto kind = hardware_kind(where());
  for (const HardwarePiece& p : *all) {
    if (!kind || p.kind != *kind || p.name != name) continue;
    const auto edits = edits_for(bench_.parts().book(), bench_.project(), p, where());
    const auto bad = edits ? bench_.type(*edits, worded("Use '{}'", name), true) : std::optional(edits.error());
    return say(
        bad ? bench_.words(*bad) : tr("Its sizes are this instrument's now: %1").arg(QString::fromStdString(name)),
        bad.has_value());
  }
}

void HardwareDialog::forget() {
  if (list_->currentItem() == nullptr) return;
  const std::string name = list_->currentItem()->data(Qt::UserRole).toString().toStdString();
  auto all = read_hardware(shelf_);
  if (!all) return say(bench_.words(all.error()), true);
  const auto kind = hardware_kind(where());
  std::erase_if(*all, [&](const HardwarePiece& p) { return kind && p.kind == *kind && p.name == name; });
  if (const auto written = write_hardware(shelf_, *all); !written) return say(bench_.words(written.error()), true);
  refresh();
  say(tr("Forgotten: %1").arg(QString::fromStdString(name)), false);
}

}  // namespace wren::app

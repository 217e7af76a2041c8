#include "app/measure_dialog.hpp"

#include <algorithm>

#include <fmt/format.h>

#include <QHBoxLayout>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/job/program_folder.hpp"
#include "core/units/length.hpp"

namespace wren::app {

MeasureDialog::MeasureDialog(Workbench& bench, MachineDesk& desk, const HandStep* step, QWidget* parent)
    : QDialog(parent), bench_(bench), desk_(desk) {
  setObjectName(QStringLiteral("step"));
  setWindowTitle(tr("Measure"));
  // Whatever the part's lines let be measured, each beside what was designed.
  const auto ledger = bench_.ledger_lines();
  std::vector<LedgerLine> asked;
  for (const BuildLine& l : bench_.sheet()) {
    if (part_of_line(l.id) != bench_.part()) continue;
    for (const LedgerLine& n : lines_of(l, ledger))
      if (n.editable && (n.key.starts_with("measured.") || n.key.ends_with(".measured_width")) &&
          std::none_of(asked.begin(), asked.end(), [&](const LedgerLine& a) { return a.key == n.key; }))
        asked.push_back(n);
  }
  auto* column = new QVBoxLayout(this);
  auto* form = new QFormLayout;
  for (const LedgerLine& n : asked) {
    auto* edit = new QLineEdit(this);
    const bool known = !std::holds_alternative<std::monostate>(n.value);
    if (known) edit->setText(shown_value(n, bench_.units()));
    edit->setAccessibleName(in_words(n.label));
    QString designed;
    for (const LedgerLine& d : ledger)
      if ("measured." + d.key == n.key) designed = tr(" (designed %1)").arg(shown_value(d, bench_.units()));
    edit->setPlaceholderText(tr("not measured"));
    form->addRow(in_words(n.label) + designed, edit);
    asked_.push_back({n, edit});
  }
  if (asked.empty()) form->addRow(new QLabel(tr("Nothing of this part stands in for a designed number."), this));
  column->addLayout(form);
  if (step != nullptr && desk_.connected() && desk_.simulated() && !desk_.running()) add_wood(column, *step);
  trouble_ = new QLabel(this);
  trouble_->setWordWrap(true);
  column->addWidget(trouble_);
  auto* keep = new QPushButton(tr("Keep what was measured"), this);
  keep->setObjectName(QStringLiteral("main"));
  connect(keep, &QPushButton::clicked, this, &MeasureDialog::keep);
  column->addWidget(keep, 0, Qt::AlignRight);
}

void MeasureDialog::add_wood(QVBoxLayout* column, const HandStep& step) {
  const auto program = program_at_hand(folder_with_manifest(bench_.project().record.folder, bench_.part()) /
                                       std::filesystem::path(step.file).filename());
  if (!program) return;
  // To begin with: across the middle of what this step cuts.
  const ManifestEntry& e = program->entry;
  auto* head = new QLabel(tr("The simulated wood, where the step's zero has it:"), this);
  head->setWordWrap(true);
  column->addWidget(head);
  auto* row = new QHBoxLayout;
  what_ = new QComboBox(this);
  what_->setAccessibleName(tr("What is measured in the simulated wood"));
  what_->addItem(tr("Groove"), QStringLiteral("groove"));
  what_->addItem(tr("Thickness"), QStringLiteral("thickness"));
  what_->addItem(tr("Height"), QStringLiteral("height"));
  row->addWidget(what_);
  const auto number = [&](const QString& name, double value) {
    row->addWidget(new QLabel(name, this));
    auto* edit = new QLineEdit(decimal(value, 2), this);
    edit->setAccessibleName(tr("Simulated wood, %1").arg(name));
    edit->setMinimumWidth(130);  // four figures and two places in the step view's letters
    row->addWidget(edit);
    return edit;
  };
  x_ = number(tr("x"), (e.low.x + e.high.x) / 2);
  y_ = number(tr("y"), (e.low.y + e.high.y) / 2);
  angle_ = number(tr("along °"), e.high.y - e.low.y > e.high.x - e.low.x ? 90 : 0);
  connect(what_, &QComboBox::currentIndexChanged, this, [this](int index) { angle_->setEnabled(index == 0); });
  column->addLayout(row);
  auto* ask = new QPushButton(tr("Ask the simulated wood"), this);
  ask->setAutoDefault(false);
  connect(ask, &QPushButton::clicked, this, &MeasureDialog::ask_wood);
  column->addWidget(ask);
  said_ = new QLabel(this);
  said_->setWordWrap(true);
  said_->setAccessibleName(tr("What the wood measures"));
  column->addWidget(said_);
  if (asked_.empty()) return;
  auto* taking = new QHBoxLayout;
  take_ = new QPushButton(tr("Take it for"), this);
  take_->setAutoDefault(false);
  take_->setEnabled(false);
  takes_ = new QComboBox(this);
  takes_->setAccessibleName(tr("The number it is taken for"));
  for (const Asked& a : asked_) takes_->addItem(in_words(a.line.label));
  connect(take_, &QPushButton::clicked, this, [this] {
    QLineEdit* field = asked_[static_cast<std::size_t>(takes_->currentIndex())].field;
    field->setText(length_words(answer_, bench_.units()));
    field->setModified(true);
  });
  taking->addWidget(take_);
  taking->addWidget(takes_, 1);
  column->addLayout(taking);
}

void MeasureDialog::ask_wood() {
  const auto x = parse_length(x_->text().toStdString()), y = parse_length(y_->text().toStdString()),
             angle = parse_number(angle_->text().toStdString());
  for (const auto* read : {&x, &y, &angle})
    if (!*read) return said_->setText(bench_.words(read->error()));
  const QString what = what_->currentData().toString();
  std::string question = fmt::format("measure {} {:.4f} {:.4f}", what.toStdString(), *x, *y);
  if (what == QLatin1String("groove")) question += fmt::format(" {:.4f}", *angle);
  said_->setText(tr("Asking…"));
  desk_.ask([question](Host& h) { return h.ask(question); },
            [dialog = QPointer<MeasureDialog>(this)](const Expected<std::string>& answer) {
              if (!dialog) return;
              if (dialog->take_ != nullptr) dialog->take_->setEnabled(false);
              if (!answer) return dialog->said_->setText(dialog->bench_.words(answer.error()));
              const QStringList numbers = QString::fromStdString(*answer).split(QLatin1Char(' '));
              dialog->answer_ = numbers.value(0).toDouble();
              dialog->said_->setText(numbers.size() > 1 ? tr("%1 wide, %2 deep").arg(numbers[0], numbers[1])
                                                        : tr("%1 mm").arg(numbers.value(0)));
              if (dialog->take_ != nullptr) dialog->take_->setEnabled(true);
            });
}

void MeasureDialog::keep() {
  std::vector<std::pair<std::string, std::string>> edits;
  for (const auto& [n, edit] : asked_)
    if (edit->isModified())
      edits.emplace_back(n.key, edit->text().trimmed().isEmpty() ? "none" : edit->text().toStdString());
  if (!edits.empty())
    if (const auto bad = bench_.type(edits, "Enter what was measured")) {
      trouble_->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
      trouble_->setText(bench_.words(*bad));
      return;
    }
  accept();
}

}  // namespace wren::app

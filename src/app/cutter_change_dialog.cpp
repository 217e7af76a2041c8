#include "app/cutter_change_dialog.hpp"

#include <algorithm>

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "app/theme.hpp"

namespace wren::app {

CutterChangeDialog::CutterChangeDialog(Workbench& bench, MachineDesk& desk, const ManifestEntry& program,
                                       QWidget* parent)
    : QDialog(parent), bench_(bench), desk_(desk), program_(program) {
  const int wanted = desk_.view().change_to;
  line_ = desk_.view().line;
  tool_.number = wanted;
  for (const ManifestEntry::Tool& t : program_.cutters)
    if (t.number == wanted) tool_ = t;
  setObjectName(QStringLiteral("step"));
  setWindowTitle(tr("Another cutter"));
  resize(960, 620);
  auto* column = new QVBoxLayout(this);
  const auto say = [&](const QString& text) {
    auto* words = new QLabel(text, this);
    words->setWordWrap(true);
    column->addWidget(words);
    return words;
  };
  say(tr("<b>%1 waits for T%2 %3.</b>")
          .arg(QString::fromStdString(program_.file).toHtmlEscaped())
          .arg(wanted)
          .arg(QString::fromStdString(tool_.id).toHtmlEscaped()));
  say(
      tr("The spindle stands and z is at its top. Keep the machine's own stop pressed, or its spindle locked, while "
         "your hands are at the collet."));
  auto* line = new QHBoxLayout;
  in_ = new QCheckBox(this);
  const QString question = QString::fromStdString(cutter_question(tool_, tr("in the spindle, tight").toStdString()));
  in_->setAccessibleName(question);
  auto* words = new QLabel(question, this);
  words->setWordWrap(true);
  line->addWidget(in_);
  line->addWidget(words, 1);
  connect(in_, &QCheckBox::toggled, this, &CutterChangeDialog::refresh);
  column->addLayout(line);
  auto* row = new QHBoxLayout;
  const auto button = [&](const QString& text, auto slot) {
    auto* b = new QPushButton(text, this);
    b->setAutoDefault(false);
    connect(b, &QPushButton::clicked, this, slot);
    row->addWidget(b);
    return b;
  };
  if (desk_.simulated())
    button(tr("Put it in"), [this] {
      desk_.controls().hand(
          tr("A hand puts the cutter in").toStdString(), [t = tool_](Host& h) { return put_cutter(h, t); }, false);
    });
  button(tr("Probe z"), [this] { set_z([e = program_](Host& h) { return probe_z(h, e); }); });
  typed_ = new QLineEdit(this);
  typed_->setAccessibleName(tr("The machine's z where it was probed"));
  typed_->setPlaceholderText(tr("or z as its panel shows it"));
  row->addWidget(typed_, 1);
  button(tr("Set z"), [this] {
    const auto z = parse_length(typed_->text().toStdString(), bench_.units());
    if (!z) return told_->setText(bench_.words(z.error()));
    set_z([e = program_, z = *z](Host& h) { return type_z(h, e, z); });
  });
  column->addLayout(row);
  told_ = say({});
  told_->setAccessibleName(tr("What came of it"));
  column->addStretch(1);
  auto* last = new QHBoxLayout;
  auto* leave = new QPushButton(tr("Wait"), this);
  leave->setAutoDefault(false);
  go_on_ = new QPushButton(tr("Go on"), this);
  go_on_->setObjectName(QStringLiteral("main"));
  connect(leave, &QPushButton::clicked, this, &QDialog::reject);
  connect(go_on_, &QPushButton::clicked, this, &CutterChangeDialog::go_on);
  last->addStretch(1);
  last->addWidget(leave);
  last->addWidget(go_on_);
  column->addLayout(last);
  connect(&desk_, &MachineDesk::changed, this, &CutterChangeDialog::refresh);
  refresh();
}

void CutterChangeDialog::set_z(std::function<Expected<double>(Host&)> how) {
  desk_.controls().hand(
      tr("z anew with T%1").arg(tool_.number).toStdString(),
      [how = std::move(how)](Host& h) -> Expected<void> {
        auto z = how(h);
        if (!z) return tl::unexpected(z.error());
        return {};
      },
      true);
}

void CutterChangeDialog::refresh() {
  const RunView& v = desk_.view();
  if (!desk_.running() || v.change_to != tool_.number || v.line != line_) return reject();
  if (!v.told.empty()) {
    told_->setStyleSheet(QStringLiteral("color: %1").arg((v.told_bad ? colours().rowan : colours().ink).name()));
    told_->setText(QString::fromStdString(v.told));
  }
  go_on_->setEnabled(in_->isChecked() && !v.wants_z);
  go_on_->setToolTip(v.wants_z ? tr("z is to be set with this cutter first") : QString());
}

void CutterChangeDialog::go_on() {
  desk_.controls().remark(tr("T%1 is in, as asked; z anew").arg(tool_.number).toStdString());
  desk_.controls().resume();
  accept();
}

}  // namespace wren::app

#include "app/connect_dialog.hpp"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace wren::app {

ConnectDialog::ConnectDialog(Shop& shop, QWidget* parent) : QDialog(parent), shop_(shop) {
  setObjectName(QStringLiteral("step"));
  setWindowTitle(tr("Connect to a machine"));
  auto* column = new QVBoxLayout(this);
  const auto say = [&](const QString& text) {
    auto* words = new QLabel(text, this);
    words->setWordWrap(true);
    column->addWidget(words);
  };
  say(
      tr("The shop's machines by their address. A machine that is fed by stick or panel needs none: tick its steps "
         "with Cut as before."));
  which_ = new QComboBox(this);
  which_->setEditable(true);
  which_->setAccessibleName(tr("Address"));
  for (const auto& m : shop_.machines())
    if (!m.retired && !m.thing.address.empty()) which_->addItem(QString::fromStdString(m.thing.address));
  if (which_->count() == 0) which_->addItem(QStringLiteral("127.0.0.1:7311"));
  column->addWidget(which_);
  say(
      tr("HOST:PORT, or a serial device such as /dev/ttyUSB0. wren-machine, which ships with this program, simulates "
         "one at 127.0.0.1:7311."));
  auto* connect_now = new QPushButton(tr("Connect"), this);
  connect_now->setObjectName(QStringLiteral("main"));
  connect(connect_now, &QPushButton::clicked, this, &QDialog::accept);
  column->addWidget(connect_now, 0, Qt::AlignRight);
}

ShopMachine ConnectDialog::machine() const {
  const std::string address = which_->currentText().trimmed().toStdString();
  for (const auto& m : shop_.machines())
    if (m.thing.address == address) return m.thing;
  ShopMachine typed;
  typed.address = address;
  return typed;
}

}  // namespace wren::app

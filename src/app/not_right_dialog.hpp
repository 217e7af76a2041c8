// What is seen to be wrong at the machine, one click from the record: a note, and the number that is to change.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QListWidget>
#include <QPlainTextEdit>

#include "app/machine_desk.hpp"
#include "core/job/hand_step.hpp"

namespace wren::app {

class NotRightDialog : public QDialog {
  Q_OBJECT
 public:
  NotRightDialog(Workbench& bench, MachineDesk& desk, HandStep step, QWidget* parent = nullptr);
  /// The number to go to at the desk; empty: none was chosen.
  [[nodiscard]] const QString& key() const { return key_; }

 private:
  [[nodiscard]] bool keep_note();
  Workbench& bench_;
  MachineDesk& desk_;
  HandStep step_;
  QLabel* head_;
  QPlainTextEdit* note_;
  QListWidget* list_;
  QString key_;
};

}  // namespace wren::app

// What is measured at the machine, beside what was designed; a simulated machine's wood can be asked for it.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>

#include "app/machine_desk.hpp"
#include "core/job/hand_step.hpp"

namespace wren::app {

class MeasureDialog : public QDialog {
  Q_OBJECT
 public:
  /// `step`: the one at the machine, nullptr where there is none.
  MeasureDialog(Workbench& bench, MachineDesk& desk, const HandStep* step, QWidget* parent = nullptr);

 private:
  struct Asked {
    LedgerLine line;
    QLineEdit* field;
  };
  void add_wood(QVBoxLayout* column, const HandStep& step);
  void ask_wood();
  void keep();
  Workbench& bench_;
  MachineDesk& desk_;
  std::vector<Asked> asked_;
  QLabel* trouble_;
  // Of a simulated machine's wood.
  QComboBox* what_ = nullptr;
  QLineEdit* x_ = nullptr;
  QLineEdit* y_ = nullptr;
  QLineEdit* angle_ = nullptr;
  QLabel* said_ = nullptr;
  QComboBox* takes_ = nullptr;  // the number that the answer is taken for
  QPushButton* take_ = nullptr;
  double answer_ = 0;
};

}  // namespace wren::app

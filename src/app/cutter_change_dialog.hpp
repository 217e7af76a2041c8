// A program waits for another cutter: what a hand does and looks at, z anew with it, before it goes on.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/machine_desk.hpp"
#include "app/workbench.hpp"

namespace wren::app {

class CutterChangeDialog : public QDialog {
  Q_OBJECT
 public:
  /// `program`: of the run that waits. Closes by itself where the run no longer waits.
  CutterChangeDialog(Workbench& bench, MachineDesk& desk, const ManifestEntry& program, QWidget* parent = nullptr);

 private:
  void refresh();
  void set_z(std::function<Expected<double>(Host&)> how);
  void go_on();
  Workbench& bench_;
  MachineDesk& desk_;
  ManifestEntry program_;
  ManifestEntry::Tool tool_;
  std::uint32_t line_ = 0;  // of the program, where it waits
  QCheckBox* in_;
  QLineEdit* typed_;
  QLabel* told_;
  QPushButton* go_on_;
};

}  // namespace wren::app

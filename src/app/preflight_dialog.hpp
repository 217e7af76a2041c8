// Before a program is run: what the program sees itself, with what can be done about it, and what only a person knows,
// ticked one by one, with a name under it.
#pragma once

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/machine_desk.hpp"
#include "run/restart.hpp"

namespace wren::app {

class PreflightDialog : public QDialog {
  Q_OBJECT
 public:
  PreflightDialog(Workbench& bench, Shop& shop, MachineDesk& desk, ProgramAtHand program, QWidget* parent = nullptr);
  /// What was asked for; nothing where it was left.
  [[nodiscard]] const std::optional<RunRequest>& request() const { return request_; }
  [[nodiscard]] const ProgramAtHand& program() const { return program_; }

 private:
  void refresh();
  void ask_again();
  void type_z_row(const ManifestEntry& entry);
  void start();
  void begin(std::string text, std::uint32_t from);
  [[nodiscard]] std::optional<double> raise() const;
  Workbench& bench_;
  Shop& shop_;
  MachineDesk& desk_;
  ProgramAtHand program_;
  std::optional<Run> last_;  // of this program, where it was not run to its end
  std::optional<RunRequest> request_;
  QVBoxLayout* checks_;
  QVBoxLayout* questions_;
  QCheckBox* air_;
  QCheckBox* restart_;
  QLabel* air_words_;
  QLabel* restart_words_;
  QLineEdit* name_;
  QLabel* trouble_;
  QPushButton* start_;
  std::vector<QCheckBox*> boxes_;
  bool z_anew_ = false, zero_anew_ = false;
  QString shown_;
  Task<Expected<std::vector<Finding>>> prove_{this};
};

}  // namespace wren::app

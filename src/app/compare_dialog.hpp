// CompareDialog: what another way would cost in set-ups, cutters, minutes and reach, before it is chosen.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include "app/workbench.hpp"
#include "core/job/compare.hpp"

namespace wren::app {

class CompareDialog : public QDialog {
  Q_OBJECT
 public:
  explicit CompareDialog(Workbench& bench, QWidget* parent = nullptr);

 private:
  struct Outcome {
    std::optional<Problem> problem;
    WayCost cost[2];
    std::vector<CutDifference> cuts;
  };
  void number_chosen();
  void compare();
  void show_outcome(const Outcome& outcome);
  [[nodiscard]] QString wanted() const;
  Workbench& bench_;
  QComboBox* which_;
  QComboBox* choice_;
  QLineEdit* value_;
  QLabel* says_;
  QTableWidget* table_;
  QPushButton* take_;
  Task<std::shared_ptr<const Outcome>> work_{this};
};

}  // namespace wren::app

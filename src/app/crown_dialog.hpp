// The crown's table: cutter × direction × stepover → minutes and true left-over, to choose from.
#pragma once

#include "core/parts/fretboard/part.hpp"

#include <QDialog>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>

#include "app/workbench.hpp"

namespace wren::app {

class CrownDialog : public QDialog {
  Q_OBJECT
 public:
  explicit CrownDialog(Workbench& bench, QWidget* parent = nullptr);

 private:
  void fill(std::vector<CrownChoice> table);
  void take();
  Workbench& bench_;
  QTableWidget* table_;
  QProgressBar* progress_;
  QPushButton* take_;
  std::vector<CrownChoice> choices_;
  Task<std::vector<CrownChoice>> task_{this};
};

}  // namespace wren::app

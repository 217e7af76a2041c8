// The run log: what was run on the machine, how it went, what was said of it; and how long cuts really take.
#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QTextBrowser>

#include "app/shop.hpp"

namespace wren::app {

class RunsView : public QWidget {
  Q_OBJECT
 public:
  RunsView(Workbench& bench, Shop& shop, QWidget* parent = nullptr);
  [[nodiscard]] QTableWidget* table() { return table_; }
  void refresh();

 protected:
  void showEvent(QShowEvent*) override { refresh(); }

 private:
  void choose();
  Workbench& bench_;
  Shop& shop_;
  std::vector<Run> runs_;
  QTableWidget* table_;
  QTextBrowser* story_;
  QLabel* pace_;
  QLineEdit* note_;
  QPushButton* keep_;
};

}  // namespace wren::app

// Materials: the table that ships with the program and the project's own entries, which are made like others and
// changed here.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include "app/workbench.hpp"

namespace wren::app {

class MaterialsDialog : public QDialog {
  Q_OBJECT
 public:
  explicit MaterialsDialog(Workbench& bench, QWidget* parent = nullptr);

 private:
  void fill();
  void choose();
  void add();
  void take_out();
  void edited(QTableWidgetItem* item);
  [[nodiscard]] std::string chosen() const;
  [[nodiscard]] bool own(const std::string& name) const;
  void say(const QString& text, bool bad);

  Workbench& bench_;
  QLineEdit* filter_ = nullptr;
  QTableWidget* table_ = nullptr;
  QLabel* source_ = nullptr;
  QLineEdit* name_ = nullptr;
  QPushButton* add_ = nullptr;
  QPushButton* out_ = nullptr;
  bool filling_ = false;
};

}  // namespace wren::app

// Materials: the table that ships with the program, the project's own entries, which are made like others and changed
// here, and those of the shop's book.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include "app/shop.hpp"

namespace wren::app {

class MaterialsDialog : public QDialog {
  Q_OBJECT
 public:
  MaterialsDialog(Workbench& bench, Shop& shop, QWidget* parent = nullptr);

 private:
  void fill();
  void choose();
  void add();
  void take_out();
  void share();
  [[nodiscard]] std::optional<Material> of_shop(const std::string& name) const;
  void edited(QTableWidgetItem* item);
  [[nodiscard]] std::string chosen() const;
  [[nodiscard]] bool own(const std::string& name) const;
  void say(const QString& text, bool bad);

  Workbench& bench_;
  Shop& shop_;
  QLineEdit* filter_ = nullptr;
  QTableWidget* table_ = nullptr;
  QLabel* source_ = nullptr;
  QLineEdit* name_ = nullptr;
  QPushButton* add_ = nullptr;
  QPushButton* out_ = nullptr;
  QPushButton* share_ = nullptr;  // with the shop's book, either way
  bool filling_ = false;
};

}  // namespace wren::app

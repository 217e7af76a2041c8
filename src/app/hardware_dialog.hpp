// The maker's own hardware: keep what this instrument has under a name, put what is kept into it.
#pragma once

#include <QDialog>

#include "app/workbench.hpp"

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace wren::app {

class HardwareDialog : public QDialog {
  Q_OBJECT
 public:
  /// `shelf`: the list; the user's own where left out.
  explicit HardwareDialog(Workbench& bench, QWidget* parent = nullptr, std::filesystem::path shelf = {});

 private:
  void refresh();
  void say(const QString& words, bool bad);
  [[nodiscard]] std::string where() const;
  void keep();
  void use();
  void forget();
  Workbench& bench_;
  std::filesystem::path shelf_;
  QComboBox* where_;
  QListWidget* list_;
  QLineEdit* name_;
  QPushButton* use_;
  QPushButton* forget_;
  QLabel* words_;
};

}  // namespace wren::app

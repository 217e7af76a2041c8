// NewDialog: where an instrument begins, each with a picture and a sentence.
#pragma once

#include <QDialog>
#include <QListWidget>

#include "app/workbench.hpp"

namespace wren::app {

class NewDialog : public QDialog {
  Q_OBJECT
 public:
  explicit NewDialog(Workbench& bench, QWidget* parent = nullptr);
  /// The one that was chosen.
  [[nodiscard]] Project project() const;

 private:
  QListWidget* list_;
};

}  // namespace wren::app

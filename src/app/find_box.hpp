// FindBox: any line or number of the job by its words or its key.
#pragma once

#include <QDialog>
#include <QLineEdit>
#include <QListWidget>

#include "app/workbench.hpp"

namespace wren::app {

class FindBox : public QDialog {
  Q_OBJECT
 public:
  explicit FindBox(Workbench& bench, QWidget* parent = nullptr);

 Q_SIGNALS:
  /// `key` is empty where a line is meant.
  void found(const QString& line, const QString& key);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void look();
  void take();
  Workbench& bench_;
  QLineEdit* words_;
  QListWidget* list_;
};

}  // namespace wren::app

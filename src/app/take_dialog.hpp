// Curves of a drawing (DXF, SVG, a page of a PDF, a scanned PNG or JPEG) become part of the instrument: head, heel's
// arc, section, pickup, scratch plate, cavity, mark, as it lies in the drawing, scaled; or many gauge traces on one
// sheet, as sections at their places along the neck.
#pragma once

#include <QDialog>

#include "app/task.hpp"
#include "app/workbench.hpp"
#include "exchange/trace_in.hpp"

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace wren::app {

class TakeDialog : public QDialog {
  Q_OBJECT
 public:
  explicit TakeDialog(Workbench& bench, QWidget* parent = nullptr);
  /// Reads a drawing meanwhile; its curves are listed when it has been read, or why it cannot.
  void load(const QString& path, int page = 1);
  [[nodiscard]] bool reading() const { return read_.busy(); }

 private:
  void show_drawing();
  void show_fields();
  void take();
  void say(const QString& words, bool bad);
  [[nodiscard]] std::vector<DrawnCurve> chosen() const;
  Workbench& bench_;
  Task<std::shared_ptr<const Expected<Drawn>>> read_{this};
  std::optional<Drawn> drawing_;
  QString path_;
  int page_ = 1;
  QListWidget* curves_;
  QComboBox* as_;
  QLineEdit* scale_;
  QLineEdit* dots_;
  QLabel* dots_words_;
  QLineEdit* station_;
  QLabel* station_words_;
  QLineEdit* depth_;
  QLabel* depth_words_;
  QPushButton* take_;
  QLabel* words_;
};

}  // namespace wren::app

// Bringing in a plan: its curves cleaned and shown, one of them chosen, scaled by a known length and laid on the body's
// centre line.
#pragma once

#include <QDialog>

#include "app/workbench.hpp"
#include "exchange/plan_in.hpp"

class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QCheckBox;
class QPushButton;
class QSpinBox;

namespace wren::app {

/// The drawing with its curves; two clicks measure a distance, curves are chosen by a click near them.
class PlanPicture : public QWidget {
  Q_OBJECT
 public:
  using QWidget::QWidget;
  void show_plan(const PlanDrawing* plan);
  void choose(int path);
  [[nodiscard]] std::vector<Vec2> marks() const { return marks_; }

 Q_SIGNALS:
  void chosen(int path);
  void marked();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;

 private:
  [[nodiscard]] QTransform to_screen() const;
  const PlanDrawing* plan_ = nullptr;
  int chosen_ = -1;
  std::vector<Vec2> marks_;
};

class PlanDialog : public QDialog {
  Q_OBJECT
 public:
  explicit PlanDialog(Workbench& bench, QWidget* parent = nullptr);
  /// Reads the file on a worker thread; the window goes on, and closing the dialog stops it. What came of it is told by
  /// `loaded`.
  void load(const QString& file, int page = 1);
  [[nodiscard]] bool reading() const { return read_.busy(); }
  /// Why nothing could be made of the file last read.
  [[nodiscard]] const std::optional<Problem>& problem() const { return problem_; }
  /// Takes the chosen curve over; true when it was taken.
  bool take();

 Q_SIGNALS:
  void loaded();

 private:
  void say(const QString& text, bool bad);
  void show_plan();
  void refresh();
  Workbench& bench_;
  std::optional<PlanDrawing> plan_;
  std::optional<Problem> problem_;
  Task<Expected<PlanDrawing>> read_{this};
  QString file_;
  QSpinBox* page_;
  QWidget* pages_;
  QPushButton* take_;
  PlanPicture* picture_;
  QListWidget* list_;
  QLabel* report_;
  QLabel* trouble_;
  QLineEdit* known_;
  QLineEdit* tail_;
  QLineEdit* name_;
  QLineEdit* depth_;
  QCheckBox* mirror_;
  QComboBox* use_;
  double scale_ = 1;
};

}  // namespace wren::app

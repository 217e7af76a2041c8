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
  /// Reads the file; the Problem where nothing can be made of it.
  std::optional<Problem> load(const QString& file, int page = 1);
  /// Takes the chosen curve over; true when it was taken.
  bool take();

 private:
  void say(const QString& text, bool bad);
  void refresh();
  Workbench& bench_;
  std::optional<PlanDrawing> plan_;
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

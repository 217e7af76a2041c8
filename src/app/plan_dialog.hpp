// Bringing in a plan: its curves cleaned and shown, each with what it becomes of the body; scaled by a known length,
// turned or mirrored, and laid on the body's centre line in one step.
#pragma once

#include <QDialog>

#include "app/workbench.hpp"
#include "exchange/plan_in.hpp"

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QLineEdit;
class QTableWidget;
class QCheckBox;
class QPushButton;
class QSpinBox;

namespace wren::app {

/// The drawing with its curves, each drawn as what it becomes; two right clicks measure a distance, curves are chosen
/// by a click near them.
class PlanPicture : public QWidget {
  Q_OBJECT
 public:
  using QWidget::QWidget;
  void show_plan(const PlanDrawing* plan);
  void show_uses(const std::vector<CurveUse>& uses);
  void choose(int path);
  [[nodiscard]] const std::vector<Vec2>& marks() const { return marks_; }
  [[nodiscard]] QTransform to_screen() const;

 Q_SIGNALS:
  void chosen(int path);
  void marked();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;

 private:
  const PlanDrawing* plan_ = nullptr;
  std::vector<CurveUse> uses_;
  int chosen_ = -1;
  std::vector<Vec2> marks_;
};

class PlanDialog : public QDialog {
  Q_OBJECT
 public:
  explicit PlanDialog(Workbench& bench, QWidget* parent = nullptr);
  /// Reads the file on a worker thread; the window goes on, and closing the dialog stops it. What came of it is told by
  /// `loaded`. Ends within `join` mm (of the drawing) are one place.
  void load(const QString& file, int page = 1, double join = CleaningOptions{}.join);
  [[nodiscard]] int page() const;
  [[nodiscard]] bool reading() const { return read_.busy(); }
  /// Why nothing could be made of the file last read.
  [[nodiscard]] const std::optional<Problem>& problem() const { return problem_; }
  [[nodiscard]] const std::vector<CurveUse>& uses() const { return uses_; }
  /// What a curve becomes, as its row says it.
  void use(int path, CurveUse as);
  /// Takes the curves over as their rows say; true when they were taken.
  bool take();

 Q_SIGNALS:
  void loaded();

 private:
  void say(const QString& text, bool bad);
  void show_plan();
  void fill_row(int path);
  void take_row(int row);
  void refresh();
  [[nodiscard]] Expected<PlanPlacement> placement() const;
  Workbench& bench_;
  std::optional<PlanDrawing> plan_;
  std::optional<Problem> problem_;
  std::vector<CurveUse> uses_;  // of each path
  Task<Expected<PlanDrawing>> read_{this};
  QString file_;
  QSpinBox* page_;
  QWidget* pages_;
  QPushButton* close_gaps_;
  QPushButton* take_;
  PlanPicture* picture_;
  QTableWidget* table_;
  QLabel* report_;
  QLabel* trouble_;
  QLineEdit* known_;
  QLineEdit* tail_;
  QDoubleSpinBox* turn_;
  QCheckBox* mirror_;
  QCheckBox* instead_;
};

}  // namespace wren::app

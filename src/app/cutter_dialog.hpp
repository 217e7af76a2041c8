// One cutter, drawn with its numbers: either can be changed, by the drawing's handles or by the fields, and both are
// checked as they are changed.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/shop.hpp"

namespace wren::app {

/// The drawing with three handles: the tip (stickout), the shoulder (flutes), the edge (diameter).
class CutterDrawing : public QWidget {
  Q_OBJECT
 public:
  explicit CutterDrawing(QWidget* parent = nullptr);
  void show_cutter(const Cutter& cutter);
  enum class Handle { none, tip, shoulder, edge };
  [[nodiscard]] QPointF place_of(Handle handle) const;

 Q_SIGNALS:
  /// Dragged: a number's key and what it is now, mm.
  void dragged(const QString& key, double mm);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;

 private:
  [[nodiscard]] double scale() const;
  [[nodiscard]] QPointF tip() const;
  Cutter cutter_;
  Handle held_ = Handle::none;
  double held_scale_ = 1;
};

class CutterDialog : public QDialog {
  Q_OBJECT
 public:
  CutterDialog(Workbench& bench, Shop& shop, Cutter cutter, bool as_new, QWidget* parent = nullptr);
  [[nodiscard]] const Cutter& cutter() const { return cutter_; }
  [[nodiscard]] CutterDrawing* drawing() { return drawing_; }

 private:
  void typed();
  void keep();
  Workbench& bench_;
  Shop& shop_;
  Cutter cutter_;
  bool as_new_;
  bool filling_ = false;
  CutterDrawing* drawing_;
  QLineEdit* name_;
  QLineEdit* note_;
  QLabel* trouble_;
  QPushButton* keep_;
  std::map<std::string, QWidget*> fields_;
};

}  // namespace wren::app

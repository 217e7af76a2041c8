// The machine drawn as its envelope, from above and from the side, with the blank in it: every number of it stands
// where it belongs, and leads to its field.
#pragma once

#include <QWidget>

#include "app/shop.hpp"

namespace wren::app {

class MachineView : public QWidget {
  Q_OBJECT
 public:
  MachineView(Workbench& bench, Shop& shop, QWidget* parent = nullptr);
  /// Where a number is drawn; for tests.
  [[nodiscard]] QRect place_of(const std::string& key) const;

 Q_SIGNALS:
  void number_chosen(const QString& key);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;

 private:
  struct Number {
    std::string key;
    QRectF box;
  };
  void number(QPainter& g, const std::string& key, QPointF at, const QString& words, Qt::Alignment align);
  void draw_plan(QPainter& g, const QRectF& room);
  void draw_side(QPainter& g, const QRectF& room);
  void draw_words(QPainter& g, const QRectF& room);
  Workbench& bench_;
  Shop& shop_;
  std::vector<Number> numbers_;
};

}  // namespace wren::app

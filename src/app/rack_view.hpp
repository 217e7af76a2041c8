// The rack: the shop's cutters side by side, to one scale, with what sticks out of the nut; under them what is chosen
// is and does. A list of fields is what a cutter opens into.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>

#include "app/shop.hpp"

namespace wren::app {

/// The cutters themselves; arrows walk along them.
class RackDrawing : public QWidget {
  Q_OBJECT
 public:
  RackDrawing(Shop& shop, QWidget* parent = nullptr);
  void refresh();
  void choose(const std::string& id);
  [[nodiscard]] const std::string& chosen() const { return chosen_; }
  [[nodiscard]] QSize sizeHint() const override;
  /// Where a cutter is drawn, for tests and for scrolling to it.
  [[nodiscard]] QRect place_of(const std::string& id) const;

 Q_SIGNALS:
  void chosen_now();
  void opened();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void resizeEvent(QResizeEvent*) override { lay(); }

 private:
  void lay();
  [[nodiscard]] std::string at(QPointF place) const;
  Shop& shop_;
  std::string chosen_;
  struct Place {
    std::string id;
    double left = 0, width = 0;
  };
  std::vector<Place> places_;
  double scale_ = 4;
};

class RackView : public QWidget {
  Q_OBJECT
 public:
  RackView(Workbench& bench, Shop& shop, QWidget* parent = nullptr);
  [[nodiscard]] RackDrawing* drawing() { return drawing_; }

 private:
  void refresh();
  void tell();
  void open(bool as_new);
  void begin(ShopBook::Begin how, bool own);
  void say(const std::optional<Problem>& problem);
  Workbench& bench_;
  Shop& shop_;
  QStackedWidget* pages_;
  QLabel* nothing_;
  QLabel* words_;
  QScrollArea* scroll_;
  RackDrawing* drawing_;
  QPushButton* change_;
  QPushButton* add_;
  QPushButton* retire_;
  QPushButton* take_;
  QPushButton* keep_;
};

}  // namespace wren::app

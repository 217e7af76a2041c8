// RehearsalView: the wood as the programs leave it, at any moment of the clock; time for each cut and the largest
// error.
#pragma once

#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>
#include <QTimer>

#include "app/flat_view.hpp"

namespace wren::app {

/// What is rehearsed: programs on one placement, and what an earlier placement left of the same piece of wood.
struct Rehearsed {
  std::shared_ptr<Rehearsal> rehearsal;
  Setup setup;
  double deepest = 0;                 // for the scale of colours
  std::optional<TileGrid> underside;  // work frame; nothing where no side came before
};

/// The wood, coloured by depth, with the cutter on it. World: work frame.
class WoodView : public FlatView {
  Q_OBJECT
 public:
  using FlatView::FlatView;
  void show_wood(std::shared_ptr<const Rehearsed> what);
  void refresh();

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw(QPainter& painter) override;
  [[nodiscard]] QMarginsF margins() const override { return {24, 16, 24, 40}; }

 private:
  std::shared_ptr<const Rehearsed> what_;
  QImage image_;
};

class RehearsalView : public QWidget {
  Q_OBJECT
 public:
  RehearsalView(Workbench& bench, QWidget* parent = nullptr);
  /// The side of the part in work that is shown; one it has not shows its last.
  void set_side(const std::string& side);
  /// Moves the clock to a share of the whole time; builds the rehearsal first where there is none.
  void show_share(double share);
  [[nodiscard]] bool ready() const { return what_ != nullptr; }

 Q_SIGNALS:
  void prove_asked();

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void build();
  void moved(int value);
  void tell();
  void tell_result();
  Workbench& bench_;
  WoodView* wood_;
  QSlider* clock_;
  QLabel* now_;
  QLabel* result_;
  QLabel* errors_;
  QPushButton* play_;
  QPushButton* prove_;
  QPushButton* stop_;
  QProgressBar* progress_;
  QTimer timer_;
  std::string side_;
  std::shared_ptr<const Planned> of_;  // what the wood shown was planned as
  std::shared_ptr<const Rehearsed> what_;
  bool stale_ = true;
  double wanted_share_ = 1.0;
  Task<std::shared_ptr<const Rehearsed>> build_{this};
};

}  // namespace wren::app

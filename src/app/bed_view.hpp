// BedView: one side's blank on the machine's bed, for any part; and the plan of a part that has no plan view of its
// own.
#pragma once

#include "app/flat_view.hpp"
#include "app/pictures.hpp"

namespace wren::app {

class BedView : public FlatView {
  Q_OBJECT
 public:
  using FlatView::FlatView;
  /// The side of the part in work; one it has not shows its first.
  void set_side(const std::string& side);
  /// The side shown; null while nothing is planned.
  [[nodiscard]] const Side* side() const;

 protected:
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw(QPainter& painter) override;
  [[nodiscard]] QMarginsF margins() const override { return {60, 60, 230, 60}; }

 private:
  std::string side_;
  std::string fitted_;  // part and side the picture was last fitted to
};

}  // namespace wren::app

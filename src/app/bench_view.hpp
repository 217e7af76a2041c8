// The bench: the whole instrument to scale, plan above and side below, every part shaded by how far it is, and what
// waits for what. It answers whether the parts make one instrument before anything else is asked.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "app/bench_pictures.hpp"
#include "app/flat_view.hpp"

namespace wren::app {

/// A pattern for what numbers and programs are worth, a ground and an edge for what was made in wood: neither hides the
/// other, and neither hangs on colour.
void paint_state(QPainter& painter, const QPainterPath& shape, Standing standing, WoodState wood);

/// The drawing itself. Numbers that makers check across parts can be dragged in it.
class BenchPicture : public FlatView {
  Q_OBJECT
 public:
  explicit BenchPicture(Workbench& bench, QWidget* parent = nullptr);
  /// What is at this place, in words: a number with its value, a part with its state; empty for nothing.
  [[nodiscard]] QString what_is_at(QPointF at) const;
  /// Where a number's handle is shown; null point where it is not.
  [[nodiscard]] QPointF handle_of(const std::string& key) const;
  /// A place on the part that nothing else covers.
  [[nodiscard]] QPointF place_of(const std::string& part) const;
  /// Where the numbers stand, as they were drawn last.
  [[nodiscard]] const std::vector<QRectF>& numbers_said() const { return said_; }

 Q_SIGNALS:
  void part_clicked(const QString& part);

 protected:
  [[nodiscard]] std::string part() const override;
  [[nodiscard]] std::pair<Vec2, Vec2> extent() const override;
  void draw(QPainter& painter) override;
  [[nodiscard]] std::unique_ptr<Gesture> gesture_at(QPointF at) override;
  void hover(QPointF at) override;
  [[nodiscard]] QMarginsF margins() const override;
  bool event(QEvent* event) override;
  void showEvent(QShowEvent*) override;

 private:
  struct Placed {
    std::string part;
    QString title;
    OnBench on;
    SectionState state;
  };
  void look();
  [[nodiscard]] QTransform side_to_screen() const;
  [[nodiscard]] const BenchNumber* number_at(QPointF at) const;
  [[nodiscard]] const Placed* part_at(QPointF at) const;
  [[nodiscard]] QPointF screen_of(const BenchNumber& n, Vec2 at) const;
  std::vector<Placed> parts_;  // what lies deepest first
  Vec2 low_{0, -100}, high_{700, 100};
  double side_y_ = -200;  // world y of the side's z = 0
  double stretch_ = 2;    // of the side's heights
  QPointF mouse_{-1, -1};
  std::vector<QRectF> said_;
  bool stale_ = true;  // it is hidden, and something is new
};

/// One section's state as a card that can be pressed.
class BenchCard : public QPushButton {
  Q_OBJECT
 public:
  explicit BenchCard(QWidget* parent = nullptr);
  void show_state(const SectionState& state);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {96, sizeHint().height()}; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  [[nodiscard]] QStringList lines() const;
  SectionState state_;
};

class BenchView : public QWidget {
  Q_OBJECT
 public:
  explicit BenchView(Workbench& bench, QWidget* parent = nullptr);
  [[nodiscard]] BenchPicture* picture() { return picture_; }

 Q_SIGNALS:
  void section_chosen(const QString& section);
  void number_chosen(const QString& key);

 protected:
  void resizeEvent(QResizeEvent*) override;
  void showEvent(QShowEvent*) override;

 private:
  void refresh();
  Workbench& bench_;
  bool stale_ = true;
  QLabel* next_;
  BenchPicture* picture_;
  QLabel* facts_;
  QWidget* cards_;
  std::map<std::string, BenchCard*> by_section_;
  QWidget* waits_;
};

}  // namespace wren::app

// The step view: one step at a time, as it is read beside the machine and across the room. State, clock, file and
// cutter in capitals of 10 mm by the screen's own measure; the rest from 24 points; buttons for a dusty hand.
#pragma once

#include <QElapsedTimer>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QTimer>
#include <QWidget>

#include "app/bed_view.hpp"
#include "app/machine_desk.hpp"
#include "core/job/hand_step.hpp"

namespace wren::app {

class StepView : public QWidget {
  Q_OBJECT
 public:
  StepView(Workbench& bench, Shop& shop, MachineDesk& desk, QWidget* parent = nullptr);
  /// The step that makes this line of the build sheet; the first one not cut where it makes none.
  void show_line(const std::string& line);
  /// The line of the step shown; empty where nothing is planned.
  [[nodiscard]] std::string line() const;
  [[nodiscard]] const std::vector<HandStep>& steps() const { return steps_; }

 Q_SIGNALS:
  void line_shown(const QString& line);
  void leave();
  void key_wanted(const QString& key);  // a number is to be changed at the desk

 protected:
  void keyPressEvent(QKeyEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void refresh();
  void show_step();
  void go(int by);
  void cut();
  void measure();
  void not_right();
  void tick();
  void machine();
  void run();
  void machine_told();
  void lay_buttons();
  Workbench& bench_;
  Shop& shop_;
  MachineDesk& desk_;
  std::vector<HandStep> steps_;
  std::size_t at_ = 0;
  std::string wanted_;
  QLabel* state_;
  QLabel* clock_;
  QLabel* file_;
  QLabel* cutter_;
  QLabel* words_;
  BedView* bed_;
  QPushButton* start_;
  QPushButton* cut_;
  QPushButton* before_;
  QPushButton* after_;
  QLabel* told_;  // what the machine tells
  QPushButton* machine_;
  QPushButton* run_;
  QPushButton* hold_;
  QPushButton* stop_;
  QPushButton* slower_;
  QPushButton* faster_;
  double feed_ = 100;
  std::optional<ManifestEntry> running_program_;
  std::vector<QPushButton*> buttons_;
  QGridLayout* row_;
  QElapsedTimer running_;
  std::string clocked_;  // the line whose clock runs
  QTimer second_;
};

}  // namespace wren::app

// MainWindow: assembles the build sheet, the picture, the ledger and the remarks, and the menus over them. No trade in
// here.
#pragma once

#include <QActionGroup>
#include <QButtonGroup>
#include <QLabel>
#include <QMainWindow>
#include <QProgressBar>
#include <QPushButton>
#include <QSplitter>
#include <QStackedWidget>

#include "app/body_views.hpp"
#include "app/neck_views.hpp"
#include "app/panels.hpp"
#include "app/rehearsal_view.hpp"
#include "app/views.hpp"

namespace wren::app {

enum class View { plan, side, solid, bed, rehearsal, surface };

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(Workbench& bench, QWidget* parent = nullptr);

  void show_view(View view);
  [[nodiscard]] View view() const { return view_; }
  void choose_line(const std::string& id) { sheet_->choose(id); }
  [[nodiscard]] const std::string& line() const { return line_; }
  /// Of the part that is worked on.
  [[nodiscard]] RehearsalView* rehearsal() {
    return bench_.part() == Part::body ? body_rehearsal_ : bench_.part() == Part::neck ? neck_rehearsal_ : rehearsal_;
  }
  [[nodiscard]] BodyPlanView* body_plan() { return body_plan_; }
  [[nodiscard]] BodySideView* body_side() { return body_side_; }
  [[nodiscard]] NeckSideView* neck_side() { return neck_side_; }
  [[nodiscard]] LedgerView* ledger() { return ledger_; }
  /// Opens a file, offering unsaved work of an earlier run; tells what is wrong with it.
  bool open_file(const QString& path);
  void apply_theme(bool dark);
  /// Without questions, for tests and for --screenshot.
  void write_programs_into(const QString& folder);
  bool write_sheet_to(const QString& pdf);
  /// STL, STEP, DXF, CSV or template PDF of the neck, by the file's ending; `what` tells plan from sections.
  bool export_neck_to(const QString& path, const QString& what);
  bool export_body_to(const QString& path, const QString& what);
  void set_ask_before_closing(bool ask) { ask_ = ask; }

 protected:
  void closeEvent(QCloseEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  void make_menus();
  QWidget* make_head();
  QWidget* make_picture();
  void refresh();
  void line_chosen(const QString& id);
  void go_to(const Remark& remark);
  bool save(bool as);
  bool may_leave();
  void remember_recent(const QString& path);
  void fill_recent();
  void say(const QString& text, bool bad);
  void write_programs();
  void write_sheet();
  void print_sheet();
  void show_shortcuts();
  void copy_picture();
  void export_part(const QString& what);
  void load_drawing(bool sections);
  void import_plan();
  void load_carve();
  void export_body(const QString& what);
  void type_sections();
  [[nodiscard]] QWidget* picture_of(View view) const;

  Workbench& bench_;
  BuildSheetView* sheet_;
  LedgerView* ledger_;
  RemarksView* remarks_;
  QStackedWidget* pictures_;
  PlanView* plan_;
  SideView* side_;
  QWidget* solid_ = nullptr;
  BedView* bed_;
  RehearsalView* rehearsal_;
  NeckPlanView* neck_plan_;
  NeckSideView* neck_side_;
  SurfaceView* surface_;
  NeckBedView* neck_bed_;
  RehearsalView* neck_rehearsal_;
  BodyPlanView* body_plan_;
  BodySideView* body_side_;
  BodyBedView* body_bed_;
  RehearsalView* body_rehearsal_;
  QButtonGroup* view_buttons_;
  QLabel* name_;
  QPushButton* units_;
  QLabel* said_;
  QProgressBar* progress_;
  QAction* undo_ = nullptr;
  QAction* redo_ = nullptr;
  QAction* mark_cut_ = nullptr;
  QAction* dark_ = nullptr;
  QMenu* recent_ = nullptr;
  QSplitter* beside_ = nullptr;
  QSplitter* over_ = nullptr;
  QSplitter* under_ = nullptr;
  View view_ = View::plan;
  std::string line_ = "strings";
  bool ask_ = true;
};

}  // namespace wren::app

// MainWindow: assembles the build sheet, the picture, the ledger and the remarks, and the menus over them. No trade in
// here.
#pragma once

#include <QActionGroup>
#include <QButtonGroup>
#include <QDBusVariant>
#include <QLabel>
#include <QMainWindow>
#include <QMenu>
#include <QProgressBar>
#include <QPushButton>
#include <QSplitter>
#include <QStackedWidget>

#include "app/bed_view.hpp"
#include "app/bench_view.hpp"
#include "app/machine_view.hpp"
#include "app/panels.hpp"
#include "app/pictures.hpp"
#include "app/rack_view.hpp"
#include "app/rehearsal_view.hpp"
#include "app/runs_view.hpp"
#include "app/step_view.hpp"

namespace wren::app {

using View = Look;

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(Workbench& bench, QWidget* parent = nullptr);

  void show_view(View view);
  [[nodiscard]] View view() const { return view_; }
  /// Everything turns to a line of the build sheet.
  void choose_line(const std::string& id);
  /// A number's field, with the line it stands in.
  void go_to_number(const std::string& line, const std::string& key);
  [[nodiscard]] const std::string& line() const { return line_; }
  [[nodiscard]] RehearsalView* rehearsal() { return rehearsal_; }
  /// Turns the part's own pictures to a place (mm, instrument frame).
  void look_at(double x, double y) {
    for (const auto& [part, pictures] : own_)
      if (pictures.look_at) pictures.look_at(x, y);
  }
  /// The part's own view of a kind; nullptr where it has none.
  [[nodiscard]] QWidget* own_view(const std::string& part, View view) const;
  [[nodiscard]] LedgerView* ledger() { return ledger_; }
  [[nodiscard]] BenchView* bench_view() { return whole_; }
  [[nodiscard]] StepView* step_view() { return step_; }
  [[nodiscard]] Shop& shop() { return *shop_; }
  [[nodiscard]] MachineDesk& desk() { return *desk_; }
  [[nodiscard]] RackView* rack_view() { return rack_; }
  [[nodiscard]] MachineView* machine_view() { return machine_; }
  [[nodiscard]] RunsView* runs_view() { return runs_; }
  /// The step beside the machine in place of the desk; and back, at the same step.
  void show_step(bool on);
  [[nodiscard]] bool at_step() const;
  /// The picture alone.
  void show_alone(bool on);
  /// Where numbers and remarks stand: under the picture (wide) or beside it (tall). Chosen by the part, and kept for
  /// it.
  enum class Arrangement { wide, tall };
  void arrange(Arrangement how);
  [[nodiscard]] Arrangement arrangement() const { return arrangement_; }
  /// On a small screen panels are pages that are turned.
  enum class Page { sheet, picture, numbers, remarks };
  [[nodiscard]] bool paged() const { return paged_; }
  void turn_to(Page page);
  void set_text_size_of_window(double points);
  /// Opens a file, offering unsaved work of an earlier run; tells what is wrong with it.
  bool open_file(const QString& path);
  /// Unsaved work that never had a file, of a window that did not end well: asked for once.
  void offer_unnamed_work(const std::filesystem::path& home);
  void apply_theme(bool dark);
  /// "light", "dark", or "desktop": as the desktop is.
  void choose_theme(const QString& which);
  /// Without questions, for tests and for --screenshot.
  void write_programs_into(const QString& folder);
  bool write_sheet_to(const QString& pdf, const QString& paper = QStringLiteral("a4"));
  /// Any format the part is written in, by the file's ending; `what` tells contents of the same ending apart.
  bool export_to(const QString& path, const std::string& part, const QString& what = {});
  void set_ask_before_closing(bool ask) { ask_ = ask; }

 private Q_SLOTS:
  void desktop_changed(const QString& group, const QString& key, const QDBusVariant& value);

 protected:
  void closeEvent(QCloseEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  template <class Run>
  QAction* add(QMenu* menu, const QString& text, const QKeySequence& keys, Run run) {
    QAction* action = menu->addAction(text);
    action->setShortcut(keys);
    connect(action, &QAction::triggered, this, run);
    return action;
  }
  void make_menus();
  QWidget* make_head();
  QWidget* make_picture();
  QWidget* make_pages();
  /// Shows and hides panels by view, arrangement and the room there is.
  void lay_out();
  void find();
  void show_formulas(const QString& about);
  void make_views_menu();
  void step_window();
  void restyle();
  void show_folder();
  void refresh();
  void line_chosen(const QString& id);
  void go_to(const Remark& remark);
  bool save(bool as);
  bool save_to(const QString& path, bool taken);
  /// Asks which of the two is wanted, with the times of both; true: the unsaved work.
  bool wants_unsaved(const LostWork& lost);
  bool may_leave();
  /// What is being typed is taken over; false where a number is refused, which is said.
  bool taken();
  void remember_recent(const QString& path);
  void fill_recent();
  void say(const QString& text, bool bad);
  void write_programs();
  void sheet_on_paper();
  void spoiled();
  void templates_on_paper();
  void show_shortcuts();
  void copy_picture();
  void make_part_menus();
  void fill_exports();
  void load_drawing(bool sections);
  void import_plan();
  void lay_picture();
  void lay_picture_of(const QString& path, int page);
  void load_carve();
  void type_sections();
  [[nodiscard]] QWidget* picture_of(View view);
  QWidget* solid();  // made at the first call

  /// A run goes into the shop's book, and what it cut into the project's record.
  void run_ended(const RunEnd& end);
  void take_lost_runs();
  /// Where the machine's cutter is, on the bed and in the plan of the part in work.
  void show_tip();

  Workbench& bench_;
  Shop* shop_ = nullptr;
  MachineDesk* desk_ = nullptr;
  RackView* rack_ = nullptr;
  MachineView* machine_ = nullptr;
  RunsView* runs_ = nullptr;
  QStackedWidget* root_ = nullptr;  // the desk, or the step
  StepView* step_ = nullptr;
  StepView* own_step_ = nullptr;  // in a window of its own
  BenchView* whole_ = nullptr;
  QWidget* picture_side_ = nullptr;  // buttons and picture
  QWidget* page_bar_ = nullptr;
  QButtonGroup* page_buttons_ = nullptr;
  Page page_ = Page::picture;
  bool paged_ = false;
  bool alone_ = false;
  bool follows_desktop_ = false;
  Arrangement arrangement_ = Arrangement::wide;
  BuildSheetView* sheet_;
  LedgerView* ledger_;
  RemarksView* remarks_;
  QStackedWidget* pictures_;
  QWidget* solid_ = nullptr;
  BedView* bed_;
  RehearsalView* rehearsal_;
  std::map<std::string, PartPictures> own_;  // pictures that parts bring
  QButtonGroup* view_buttons_;
  QLabel* name_;
  QPushButton* units_;
  QLabel* said_;
  QProgressBar* progress_;
  QAction* undo_ = nullptr;
  QAction* redo_ = nullptr;
  QAction* mark_cut_ = nullptr;
  QActionGroup* themes_ = nullptr;
  QAction* step_action_ = nullptr;
  QAction* alone_action_ = nullptr;
  QAction* tall_action_ = nullptr;
  QMenu* recent_ = nullptr;
  QMenu* exports_ = nullptr;
  QSplitter* beside_ = nullptr;
  QSplitter* over_ = nullptr;
  QSplitter* under_ = nullptr;
  View view_ = View::bench;
  std::string line_;
  bool ask_ = true;
};

}  // namespace wren::app

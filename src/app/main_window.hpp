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

#include "app/bed_view.hpp"
#include "app/panels.hpp"
#include "app/pictures.hpp"
#include "app/rehearsal_view.hpp"

namespace wren::app {

using View = Look;

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(Workbench& bench, QWidget* parent = nullptr);

  void show_view(View view);
  [[nodiscard]] View view() const { return view_; }
  void choose_line(const std::string& id) { sheet_->choose(id); }
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
  /// Opens a file, offering unsaved work of an earlier run; tells what is wrong with it.
  bool open_file(const QString& path);
  /// Unsaved work that never had a file, of a window that did not end well: asked for once.
  void offer_unnamed_work(const std::filesystem::path& home);
  void apply_theme(bool dark);
  /// Without questions, for tests and for --screenshot.
  void write_programs_into(const QString& folder);
  bool write_sheet_to(const QString& pdf, const QString& paper = QStringLiteral("a4"));
  /// Any format the part is written in, by the file's ending; `what` tells contents of the same ending apart.
  bool export_to(const QString& path, const std::string& part, const QString& what = {});
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
  [[nodiscard]] QWidget* picture_of(View view) const;

  Workbench& bench_;
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
  QAction* dark_ = nullptr;
  QMenu* recent_ = nullptr;
  QMenu* exports_ = nullptr;
  QSplitter* beside_ = nullptr;
  QSplitter* over_ = nullptr;
  QSplitter* under_ = nullptr;
  View view_ = View::plan;
  std::string line_ = "fretboard.strings";
  bool ask_ = true;
  Task<Expected<std::string>> picture_read_{this};
};

}  // namespace wren::app

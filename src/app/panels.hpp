// The three sheets of paper around the picture: build sheet, ledger, remarks. They show what the workbench says and
// send edits.
#pragma once

#include <map>
#include <set>

#include <QComboBox>
#include <QFrame>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/workbench.hpp"

namespace wren::app {

/// A button whose words wrap instead of being cut.
class WrapButton : public QPushButton {
 public:
  using QPushButton::QPushButton;
  [[nodiscard]] bool hasHeightForWidth() const override { return true; }
  [[nodiscard]] int heightForWidth(int width) const override;
  [[nodiscard]] QSize sizeHint() const override { return {120, heightForWidth(std::max(120, width()))}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {60, 28}; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
};

/// The spine of the window: sections that fold, every line with its state as a shape, its time and its cutter; the next
/// step above them, where it never scrolls away.
class BuildSheetView : public QFrame {
  Q_OBJECT
 public:
  explicit BuildSheetView(Workbench& bench, QWidget* parent = nullptr);
  void choose(const std::string& id);
  [[nodiscard]] std::string chosen() const { return chosen_; }
  /// Chooses the next step; false where everything is done.
  bool go_next();
  enum class Show { all, open, today };
  void set_show(Show what);
  [[nodiscard]] QTreeWidget* tree() { return tree_; }

 Q_SIGNALS:
  void line_chosen(const QString& id);

 protected:
  void resizeEvent(QResizeEvent*) override;
  void changeEvent(QEvent*) override;

 private:
  void refresh();
  void refresh_rows();
  void fill_line(QTreeWidgetItem* item, const BuildLine& line) const;
  [[nodiscard]] bool shows(const BuildLine& line) const;
  Workbench& bench_;
  WrapButton* next_;
  QComboBox* show_;
  QTreeWidget* tree_;
  std::string chosen_;
  std::string next_line_;
  std::vector<std::string> shape_;  // of the tree as it stands: ids in order
  std::set<std::string> opened_;    // sections that were folded out by hand
  bool filling_ = false;
};

/// The numbers of the chosen line, each with its origin and reason.
class LedgerView : public QFrame {
  Q_OBJECT
 public:
  explicit LedgerView(Workbench& bench, QWidget* parent = nullptr);
  void show_line(const std::string& id);
  /// Puts the keyboard into the field of a key; false where it is not shown.
  bool focus_key(const std::string& key);
  /// Takes over what is being typed, as if its field were left; false where a number stands refused.
  bool commit_typing();
  /// Sizes and colours have changed.
  void rebuild_all() {
    keys_.clear();
    refresh();
  }

 Q_SIGNALS:
  void formula_asked(const QString& label);

 protected:
  void resizeEvent(QResizeEvent*) override;
  void showEvent(QShowEvent*) override;

 private:
  struct Row {
    QWidget* editor = nullptr;
    QLabel* label = nullptr;
    QLabel* reason = nullptr;
    QString shown;  // text as last set, to tell typing from refreshing
    std::string pin;
  };
  /// Shows what the bench holds now. Asked again while it runs (moving the keyboard can finish a field, and that edits
  /// the project), it goes on from what is new when the rows stand, never inside a half-made list of them.
  void refresh();
  void refresh_rows();
  void rebuild(const std::vector<LedgerLine>& lines);
  void fill(Row& row, const LedgerLine& line);
  QWidget* make_editor(const LedgerLine& line);
  /// A number with its field, and under them where it comes from and why; `bare`: its label needs its head.
  QWidget* make_cell(const LedgerLine& line, bool bare, QWidget* parent);
  [[nodiscard]] int wanted_columns() const;
  /// `key` of the row; the number goes to `target`.
  void commit(const std::string& key, const std::string& target, const QString& text);
  void give_up(const std::string& key);
  void show_trouble();
  void show_history(const LedgerLine& line, QWidget* at);

  Workbench& bench_;
  QLabel* heading_;
  QLabel* note_;
  QScrollArea* scroll_;
  QLabel* trouble_;
  std::string line_;
  std::vector<std::string> keys_;
  std::map<std::string, Row> rows_;
  struct Refused {
    QString text;
    QString why;
  };
  std::map<std::string, Refused> refused_;  // by row key: they stand until they are mended or given up
  int columns_ = 0;
  bool filling_ = false;
  bool refreshing_ = false;
  bool again_ = false;  // also: what is hidden is made when it is shown
};

/// What stops the work, what to think about again, what is worth knowing; with repairs to take and places to go to.
class RemarksView : public QFrame {
  Q_OBJECT
 public:
  explicit RemarksView(Workbench& bench, QWidget* parent = nullptr);
  /// Remarks of this line come first; those of others fold under a count.
  void show_line(const std::string& id);

 Q_SIGNALS:
  void go_to(const Remark& remark);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void refresh();
  Workbench& bench_;
  QLabel* heading_;
  QScrollArea* scroll_;
  std::string line_;
  bool stale_ = true;            // it is hidden, and something is new
  std::set<std::string> known_;  // kind and place of those there were when the line was chosen
  bool all_ = false;             // those of other lines are folded out
};

}  // namespace wren::app

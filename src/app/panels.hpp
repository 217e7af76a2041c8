// The three sheets of paper around the picture: build sheet, ledger, remarks. They show what the workbench says and
// send edits.
#pragma once

#include <map>

#include <QFrame>
#include <QLabel>
#include <QListWidget>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/workbench.hpp"

namespace wren::app {

/// The spine of the window: every line with its state as a shape, its time and its cutter.
class BuildSheetView : public QFrame {
  Q_OBJECT
 public:
  explicit BuildSheetView(Workbench& bench, QWidget* parent = nullptr);
  void choose(const std::string& id);
  [[nodiscard]] std::string chosen() const { return chosen_; }

 Q_SIGNALS:
  void line_chosen(const QString& id);

 private:
  void refresh();
  Workbench& bench_;
  QListWidget* list_;
  QLabel* heading_;
  std::string chosen_ = "fretboard.strings";
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

 private:
  struct Row {
    QWidget* editor = nullptr;
    QLabel* origin = nullptr;
    QLabel* reason = nullptr;
    QString shown;  // text as last set, to tell typing from refreshing
    std::string pin;
  };
  void refresh();
  void rebuild(const std::vector<LedgerLine>& lines);
  void fill(Row& row, const LedgerLine& line);
  QWidget* make_editor(const LedgerLine& line);
  /// `key` of the row; the number goes to `target`.
  void commit(const std::string& key, const std::string& target, const QString& text);
  void give_up(const std::string& key);
  void show_trouble();

  Workbench& bench_;
  QLabel* heading_;
  QLabel* note_;
  QScrollArea* scroll_;
  QLabel* trouble_;
  std::string line_ = "fretboard.strings";
  std::vector<std::string> keys_;
  std::map<std::string, Row> rows_;
  struct Refused {
    QString text;
    QString why;
  };
  std::map<std::string, Refused> refused_;  // by row key: they stand until they are mended or given up
  bool filling_ = false;
};

/// What stops the work, what to think about again, what is worth knowing; with repairs to take and places to go to.
class RemarksView : public QFrame {
  Q_OBJECT
 public:
  explicit RemarksView(Workbench& bench, QWidget* parent = nullptr);

 Q_SIGNALS:
  void go_to(const Remark& remark);

 private:
  void refresh();
  Workbench& bench_;
  QLabel* heading_;
  QScrollArea* scroll_;
};

}  // namespace wren::app

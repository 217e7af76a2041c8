// What goes on paper, seen before it goes: which paper, for templates the hand router that follows them; then a PDF or
// a printer.
#pragma once

#include <QDialog>

#include "app/pictures.hpp"

class QComboBox;
class QLabel;
class QLineEdit;
class QPrinter;
class QPrintPreviewWidget;

namespace wren::app {

/// One thing that is put on paper.
struct Printed {
  QString title;
  QString file;         // proposed for the PDF
  bool routed = false;  // templates: their size follows the hand router
  std::function<void(QPagedPaintDevice&, const PaperChoice&)> draw;
  std::function<bool(const QString& path, const PaperChoice&)> write;  // as PDF; tells what is wrong itself
  std::function<void()> sent;                                          // it went to a printer
};

class PaperDialog : public QDialog {
  Q_OBJECT
 public:
  PaperDialog(Printed what, UnitSystem units, QWidget* parent = nullptr);
  ~PaperDialog() override;
  [[nodiscard]] const PaperChoice& choice() const { return choice_; }
  /// Pages of the preview.
  [[nodiscard]] int pages() const;

 private:
  void take_choice();
  void save();
  void print();
  Printed what_;
  UnitSystem units_;
  PaperChoice choice_;
  std::unique_ptr<QPrinter> printer_;
  QPrintPreviewWidget* preview_;
  QComboBox* paper_;
  QLineEdit* cutter_ = nullptr;
  QLineEdit* follower_ = nullptr;
  QLabel* words_;
  QLabel* trouble_;
};

}  // namespace wren::app

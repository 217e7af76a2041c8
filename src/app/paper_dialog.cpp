#include "app/paper_dialog.hpp"

#include <QComboBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPrintDialog>
#include <QPrintPreviewWidget>
#include <QPrinter>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

#include "app/paper_page.hpp"
#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {

PaperDialog::PaperDialog(Printed what, UnitSystem units, QWidget* parent)
    : QDialog(parent), what_(std::move(what)), units_(units), printer_(std::make_unique<QPrinter>()) {
  setWindowTitle(what_.title);
  resize(1040, 700);
  printer_->setResolution(300);
  choice_.units = units_;
  choice_.paper = QSettings().value(QStringLiteral("paper"), choice_.paper).toString();
  set_paper(*printer_, choice_.paper, QPageLayout::Portrait);
  auto* row = new QHBoxLayout(this);
  preview_ = new QPrintPreviewWidget(printer_.get(), this);
  preview_->setAccessibleName(tr("Pages as they will be printed"));
  row->addWidget(preview_, 1);
  auto* column = new QVBoxLayout;
  auto* form = new QFormLayout;
  paper_ = new QComboBox(this);
  for (const PaperName& p : paper_names) paper_->addItem(QLatin1String(p.title), QLatin1String(p.name));
  paper_->setCurrentIndex(std::max(0, paper_->findData(choice_.paper)));
  paper_->setAccessibleName(tr("Paper"));
  form->addRow(tr("Paper"), paper_);
  if (what_.routed) {
    const auto field = [&](const QString& label, double value) {
      auto* edit = new QLineEdit(length_words(value, units_), this);
      edit->setAccessibleName(label);
      form->addRow(label, edit);
      connect(edit, &QLineEdit::editingFinished, this, &PaperDialog::take_choice);
      return edit;
    };
    cutter_ = field(tr("Router's cutter"), choice_.router.cutter);
    follower_ = field(tr("Bearing or bush"), choice_.router.follower);
  }
  column->addLayout(form);
  words_ = new QLabel(this);
  trouble_ = new QLabel(this);
  for (QLabel* l : {words_, trouble_}) {
    l->setWordWrap(true);
    l->setFixedWidth(230);
    column->addWidget(l);
  }
  trouble_->setStyleSheet(QStringLiteral("color: %1").arg(colours().rowan.name()));
  column->addStretch(1);
  auto* pdf = new QPushButton(tr("Save as PDF…"), this);
  auto* out = new QPushButton(tr("Print…"), this);
  auto* leave = new QPushButton(tr("Leave"), this);
  pdf->setObjectName(QStringLiteral("main"));
  for (QPushButton* b : {pdf, out, leave}) {
    b->setAutoDefault(false);  // Enter in a field takes the field's number, and writes nothing
    column->addWidget(b);
  }
  row->addLayout(column);
  connect(pdf, &QPushButton::clicked, this, &PaperDialog::save);
  connect(out, &QPushButton::clicked, this, &PaperDialog::print);
  connect(leave, &QPushButton::clicked, this, &QDialog::reject);
  connect(paper_, &QComboBox::currentIndexChanged, this, &PaperDialog::take_choice);
  connect(preview_, &QPrintPreviewWidget::paintRequested, this,
          [this](QPrinter* printer) { what_.draw(*printer, choice_); });
  connect(preview_, &QPrintPreviewWidget::previewChanged, this, [this] {
    const int pages = preview_->pageCount();
    words_->setText(
        (pages == 1 ? tr("One page.") : tr("%1 pages.").arg(pages)) + QLatin1Char(' ') +
        tr("Print at full size, never fitted to the page: the bar on it is %1 long.").arg(ScaleBar(units_).words));
  });
}

PaperDialog::~PaperDialog() = default;

int PaperDialog::pages() const { return preview_->pageCount(); }

void PaperDialog::take_choice() {
  PaperChoice next = choice_;
  next.paper = paper_->currentData().toString();
  trouble_->clear();
  const auto length = [&](QLineEdit* edit, double& to) {
    if (edit == nullptr) return true;
    const auto read = parse_length(edit->text().toStdString(), units_);
    if (read)
      to = *read;
    else
      trouble_->setText(QString::fromStdString(read.error().text()));
    return read.has_value();
  };
  if (!length(cutter_, next.router.cutter) || !length(follower_, next.router.follower)) return;
  if (const auto bad = check_router(next.router)) {
    trouble_->setText(in_words(*bad));
    return;
  }
  choice_ = next;
  QSettings().setValue(QStringLiteral("paper"), choice_.paper);
  preview_->updatePreview();
}

void PaperDialog::save() {
  take_choice();
  if (!trouble_->text().isEmpty()) return;
  const QString path = QFileDialog::getSaveFileName(this, what_.title, what_.file, tr("PDF (*.pdf)"));
  if (!path.isEmpty() && what_.write(path, choice_)) accept();
}

void PaperDialog::print() {
  take_choice();
  if (!trouble_->text().isEmpty()) return;
  QPrinter printer(QPrinter::HighResolution);
  printer.setPageLayout(printer_->pageLayout());
  QPrintDialog dialog(&printer, this);
  if (dialog.exec() != QDialog::Accepted) return;
  printer.setFullPage(true);
  what_.draw(printer, choice_);
  if (what_.sent) what_.sent();
  accept();
}

}  // namespace wren::app

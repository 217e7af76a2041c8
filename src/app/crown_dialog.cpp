#include "app/crown_dialog.hpp"

#include "app/designs.hpp"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {

CrownDialog::CrownDialog(Workbench& bench, QWidget* parent) : QDialog(parent), bench_(bench) {
  setWindowTitle(tr("Cutters for the crown"));
  resize(900, 480);
  auto* all = new QVBoxLayout(this);
  auto* words =
      new QLabel(tr("Each cutter with rows along or across the board, at the stepover that leaves the chosen scallop "
                    "of %1. The height left is that of the cutter's own shape on this crown.")
                     .arg(length_words(board_of(bench.project()).work.crown_scallop, bench.units())),
                 this);
  words->setWordWrap(true);
  all->addWidget(words);
  table_ = new QTableWidget(0, 6, this);
  table_->setHorizontalHeaderLabels(
      {tr("Cutter"), tr("Rows run"), tr("Stepover"), tr("Minutes"), tr("Left standing"), tr("It asks for")});
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setAccessibleName(tr("Cutters for the crown"));
  all->addWidget(table_, 1);
  auto* row = new QHBoxLayout;
  progress_ = new QProgressBar(this);
  row->addWidget(progress_, 1);
  auto* leave = new QPushButton(tr("Leave as it is"), this);
  take_ = new QPushButton(tr("Take this one"), this);
  take_->setObjectName(QStringLiteral("main"));
  take_->setEnabled(false);
  row->addWidget(leave);
  row->addWidget(take_);
  all->addLayout(row);
  connect(leave, &QPushButton::clicked, this, &QDialog::reject);
  connect(take_, &QPushButton::clicked, this, &CrownDialog::take);
  connect(table_, &QTableWidget::doubleClicked, this, &CrownDialog::take);
  connect(table_, &QTableWidget::itemSelectionChanged, this, [this] { take_->setEnabled(table_->currentRow() >= 0); });
  if (const auto d = board_design(bench_))
    task_.start([p = bench_.project(), d, cache = std::make_shared<Cache>()](
                    Progress& progress) { return crown_table(p, *d, *cache, &progress); },
                [this](std::vector<CrownChoice> t) { fill(std::move(t)); },
                [this](double share, const QString&) { progress_->setValue(static_cast<int>(share * 100)); });
}

void CrownDialog::fill(std::vector<CrownChoice> table) {
  progress_->hide();
  choices_ = std::move(table);
  table_->setRowCount(static_cast<int>(choices_.size()));
  for (std::size_t i = 0; i < choices_.size(); ++i) {
    const CrownChoice& c = choices_[i];
    const bool inch = bench_.units() == UnitSystem::inch;
    const auto fine = [&](double mm, int places) {
      return inch ? decimal(mm / mm_per_inch, places + 2) + tr(" in") : decimal(mm, places) + tr(" mm");
    };
    const QString cells[] = {QString::fromStdString(c.cutter),
                             c.direction == Direction::along ? tr("along") : tr("across"),
                             fine(c.stepover, 2),
                             decimal(c.minutes, 1),
                             fine(c.left_over, 3),
                             QString::fromStdString(c.cost)};
    const bool in_use = c.cutter == board_of(bench_.project()).work.crown_cutter &&
                        c.direction == board_of(bench_.project()).work.crown_direction;
    for (int k = 0; k < 6; ++k) {
      auto* item = new QTableWidgetItem(cells[k]);
      item->setFont(k >= 2 && k <= 4 ? figure_font(9.5) : text_font(10, in_use ? QFont::DemiBold : QFont::Normal));
      if (!c.reaches) item->setForeground(colours().faint);
      table_->setItem(static_cast<int>(i), k, item);
    }
    if (in_use) table_->selectRow(static_cast<int>(i));
  }
  table_->resizeColumnsToContents();
}

void CrownDialog::take() {
  const int row = table_->currentRow();
  if (row < 0) return;
  const CrownChoice& c = choices_[static_cast<std::size_t>(row)];
  bench_.type({{"crown.cutter", c.cutter},
               {"crown.direction", c.direction == Direction::along ? "along" : "across"},
               {"crown.stepover", "0"}},
              "Choose the crown's cutter", true);
  accept();
}

}  // namespace wren::app

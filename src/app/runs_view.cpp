#include "app/runs_view.hpp"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {

RunsView::RunsView(Workbench& bench, Shop& shop, QWidget* parent) : QWidget(parent), bench_(bench), shop_(shop) {
  setAccessibleName(tr("Run log"));
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(10, 6, 10, 8);
  table_ = new QTableWidget(0, 7, this);
  table_->setHorizontalHeaderLabels(
      {tr("Begun"), tr("Program"), tr("How it went"), tr("Lines"), tr("Planned"), tr("Really"), tr("Signed by")});
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setWordWrap(true);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setTabKeyNavigation(false);
  table_->setAccessibleName(tr("Runs"));
  all->addWidget(table_, 3);
  story_ = new QTextBrowser(this);
  story_->setAccessibleName(tr("What happened"));
  all->addWidget(story_, 2);
  auto* row = new QHBoxLayout;
  note_ = new QLineEdit(this);
  note_->setPlaceholderText(tr("Something to say about this run"));
  note_->setAccessibleName(tr("A note about this run"));
  keep_ = new QPushButton(tr("Keep the note"), this);
  row->addWidget(note_, 1);
  row->addWidget(keep_);
  all->addLayout(row);
  pace_ = new QLabel(this);
  pace_->setWordWrap(true);
  all->addWidget(pace_);
  connect(table_, &QTableWidget::itemSelectionChanged, this, &RunsView::choose);
  const auto keep = [this] {
    const int at = table_->currentRow();
    const std::string words = note_->text().trimmed().toStdString();
    if (at < 0 || at >= static_cast<int>(runs_.size()) || words.empty()) return;
    const std::string id = runs_[static_cast<std::size_t>(at)].id;
    if (const auto bad = shop_.change([&](ShopBook& book) { return book.note(id, Shop::told(), words); }))
      return Q_EMIT bench_.said(bench_.words(*bad), true);
    note_->clear();
  };
  connect(keep_, &QPushButton::clicked, this, keep);
  connect(note_, &QLineEdit::returnPressed, this, keep);
  connect(&shop_, &Shop::changed, this, [this] {
    if (isVisible()) refresh();
  });
}

void RunsView::refresh() {
  const int was = table_->currentRow();
  const std::string chosen =
      was >= 0 && was < static_cast<int>(runs_.size()) ? runs_[static_cast<std::size_t>(was)].id : "";
  runs_ = shop_.runs();
  table_->setRowCount(static_cast<int>(runs_.size()));
  for (std::size_t i = 0; i < runs_.size(); ++i) {
    const Run& r = runs_[i];
    const QString how = r.outcome == "done"      ? tr("to its end")
                        : r.outcome == "stopped" ? tr("stopped")
                        : r.outcome == "fault"   ? tr("a fault")
                                                 : tr("end not known");
    const QString words[] = {QString::fromStdString(r.began.substr(0, 16)),
                             QString::fromStdString(r.program) + (r.air        ? tr(" (air)")
                                                                  : r.from > 1 ? tr(" (from line %1)").arg(r.from)
                                                                               : QString()),
                             how,
                             tr("%1 of %2").arg(r.done).arg(r.lines),
                             work_time(r.planned_seconds),
                             work_time(r.real_seconds),
                             QString::fromStdString(r.signed_by)};
    for (int c = 0; c < 7; ++c) {
      auto* item = new QTableWidgetItem(words[c]);
      if (c == 2)
        item->setForeground(r.outcome == "done"      ? colours().lichen
                            : r.outcome == "stopped" ? colours().gorse
                                                     : colours().rowan);
      table_->setItem(static_cast<int>(i), c, item);
    }
    if (r.id == chosen) table_->setCurrentCell(static_cast<int>(i), 0);
  }
  table_->resizeColumnsToContents();
  if (table_->currentRow() < 0 && !runs_.empty()) table_->setCurrentCell(0, 0);
  choose();
  QStringList paces;
  for (const Pace& p : shop_.paces())
    paces << tr("%1 at %2: %3 times as planned, by %n run(s)", nullptr, p.runs)
                 .arg(QString::fromStdString(p.cutter), QString::fromStdString(p.cuts))
                 .arg(decimal(p.ratio(), 2));
  pace_->setText(paces.isEmpty() ? tr("No program was run to its end yet: planned minutes stand as they are.")
                                 : tr("Really took ") + paces.mid(0, 4).join(QStringLiteral("; ")) +
                                       (paces.size() > 4 ? tr("; and %1 more").arg(paces.size() - 4) : QString()) +
                                       QStringLiteral("."));
}

void RunsView::choose() {
  const int at = table_->currentRow();
  const bool there = at >= 0 && at < static_cast<int>(runs_.size());
  note_->setEnabled(there);
  keep_->setEnabled(there);
  if (!there) {
    story_->setPlainText(
        shop_.there()
            ? tr("Nothing was run yet. A step at the machine (F8) runs its program when a machine is connected, "
                 "or is ticked when the machine is fed by hand.")
            : tr("The shop has no book yet: begin one at its rack."));
    return;
  }
  const Run& r = runs_[static_cast<std::size_t>(at)];
  QString html = QStringLiteral("<p>%1, %2; %3</p><table cellpadding='2'>")
                     .arg(QString::fromStdString(r.cuts), QString::fromStdString(r.cutter),
                          QString::fromStdString(r.proved_for).toHtmlEscaped());
  for (const RunEvent& e : r.events)
    html += QStringLiteral("<tr><td>%1</td><td>%2</td><td>%3</td><td>%4</td></tr>")
                .arg(work_time(e.seconds), e.line > 0 ? tr("line %1").arg(e.line) : QString(),
                     QString::fromStdString(e.kind), QString::fromStdString(e.words).toHtmlEscaped());
  story_->setHtml(html + QStringLiteral("</table>"));
}

}  // namespace wren::app

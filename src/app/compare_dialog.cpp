#include "app/compare_dialog.hpp"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/theme.hpp"
#include "app/words.hpp"
#include "core/document/edits.hpp"

namespace wren::app {

CompareDialog::CompareDialog(Workbench& bench, QWidget* parent) : QDialog(parent), bench_(bench) {
  setWindowTitle(tr("What another way costs"));
  resize(820, 560);
  auto* column = new QVBoxLayout(this);
  auto* words = new QLabel(tr("Choose a number or a choice of the %1 and what it would be instead. Nothing is changed "
                              "until you take it.")
                               .arg(in_words(bench.kind().title()).toLower()),
                           this);
  words->setWordWrap(true);
  column->addWidget(words);
  auto* form = new QFormLayout;
  which_ = new QComboBox(this);
  which_->setAccessibleName(tr("Number or choice"));
  which_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  // Choices and flags first: they are what is weighed.
  for (const bool choices : {true, false})
    for (const LedgerLine& l : bench.ledger_lines()) {
      const PartTable* part = bench.parts().book().part_of_key(l.key);
      if (!l.editable || part == nullptr || part->id != bench.part()) continue;
      if ((l.kind == FieldKind::choice || l.kind == FieldKind::flag) != choices) continue;
      which_->addItem(
          tr("%1: %2 (now %3)").arg(in_words(number_group(l.key)), in_words(l.label), shown_value(l, bench.units())),
          QString::fromStdString(l.key));
    }
  form->addRow(tr("Instead of"), which_);
  auto* values = new QHBoxLayout;
  choice_ = new QComboBox(this);
  choice_->setAccessibleName(tr("Would be"));
  value_ = new QLineEdit(this);
  value_->setAccessibleName(tr("Would be, as a number"));
  values->addWidget(choice_, 1);
  values->addWidget(value_, 1);
  form->addRow(tr("it would be"), values);
  column->addLayout(form);
  auto* row = new QHBoxLayout;
  auto* go = new QPushButton(tr("Compare"), this);
  go->setObjectName(QStringLiteral("main"));
  connect(go, &QPushButton::clicked, this, &CompareDialog::compare);
  take_ = new QPushButton(tr("Take the other way"), this);
  take_->setEnabled(false);
  connect(take_, &QPushButton::clicked, this, [this] {
    if (const auto bad = bench_.type(which_->currentData().toString().toStdString(), wanted().toStdString())) {
      says_->setText(bench_.words(*bad));
      return;
    }
    accept();
  });
  row->addWidget(go);
  row->addWidget(take_);
  row->addStretch(1);
  column->addLayout(row);
  says_ = new QLabel(this);
  says_->setWordWrap(true);
  column->addWidget(says_);
  table_ = new QTableWidget(0, 3, this);
  table_->setAccessibleName(tr("Now and the other way"));
  table_->setHorizontalHeaderLabels({tr("What"), tr("Now"), tr("The other way")});
  table_->verticalHeader()->hide();
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setWordWrap(true);
  column->addWidget(table_, 1);
  connect(which_, &QComboBox::currentIndexChanged, this, &CompareDialog::number_chosen);
  number_chosen();
}

void CompareDialog::number_chosen() {
  take_->setEnabled(false);
  const std::string key = which_->currentData().toString().toStdString();
  const auto field = bench_.parts().book().find(bench_.project(), key);
  choice_->clear();
  if (!field) return;
  if (field->kind == FieldKind::flag)
    for (const auto& [words, id] : {std::pair{tr("yes"), "yes"}, std::pair{tr("no"), "no"}})
      choice_->addItem(words, QString::fromLatin1(id));
  for (const std::string& id : field->choices)
    choice_->addItem(in_words(choice_words(key, id)), QString::fromStdString(id));
  const bool picked = choice_->count() > 0;
  choice_->setVisible(picked);
  value_->setVisible(!picked);
  // The first that is not what it is now.
  const QString now = QString::fromStdString(field_text(*field, field->get(bench_.project()), bench_.units()));
  for (int i = 0; i < choice_->count(); ++i)
    if (choice_->itemData(i).toString() != now) {
      choice_->setCurrentIndex(i);
      break;
    }
  value_->setText(now);
}

QString CompareDialog::wanted() const {
  return choice_->count() > 0 ? choice_->currentData().toString() : value_->text();
}

void CompareDialog::compare() {
  take_->setEnabled(false);
  table_->setRowCount(0);
  const std::string key = which_->currentData().toString().toStdString();
  auto other = with_edits(bench_.parts().book(), bench_.project(), {{key, wanted().toStdString()}}, bench_.units());
  if (!other) {
    says_->setText(bench_.words(other.error()));
    return;
  }
  says_->setText(tr("Both ways are planned …"));
  work_.start(
      [&parts = bench_.parts(), part = bench_.part(), now = bench_.project(),
       then = std::move(*other)](Progress& progress) {
        auto out = std::make_shared<Outcome>();
        std::vector<Planned> plans;
        const PartKind& kind = *parts.find(part);
        for (const Project* p : {&now, &then}) {
          Cache cache;
          const Followed f = follow(parts, *p, cache);
          if (const auto it = f.problems.find(part); it != f.problems.end()) {
            out->problem = it->second;
            return std::shared_ptr<const Outcome>(out);
          }
          auto planned = plan(kind, f, cache, &progress);
          if (!planned) {
            out->problem = planned.error();
            return std::shared_ptr<const Outcome>(out);
          }
          out->cost[plans.size()] = cost_of(*planned, remarks_of(kind, f, &*planned));
          plans.push_back(std::move(*planned));
        }
        out->cuts = differences(plans[0], plans[1]);
        return std::shared_ptr<const Outcome>(out);
      },
      [this](std::shared_ptr<const Outcome> outcome) { show_outcome(*outcome); });
}

void CompareDialog::show_outcome(const Outcome& o) {
  if (o.problem) {
    says_->setText(tr("The other way leads nowhere: %1").arg(bench_.words(*o.problem)));
    return;
  }
  const auto line = [&](const QString& what, const QString& now, const QString& then) {
    const int row = table_->rowCount();
    table_->insertRow(row);
    const QString cells[] = {what, now, then};
    for (int c = 0; c < 3; ++c) table_->setItem(row, c, new QTableWidgetItem(cells[c]));
    if (now != then) {
      QFont strong = table_->font();
      strong.setBold(true);
      for (int c = 1; c < 3; ++c) table_->item(row, c)->setFont(strong);
    }
  };
  const auto length = [&](double mm) { return length_words(mm, bench_.units(), 2); };
  const auto both = [&](const QString& what, const auto& as) { line(what, as(o.cost[0]), as(o.cost[1])); };
  both(tr("Time at the machine"), [](const WayCost& c) { return work_time(c.seconds); });
  both(tr("Set-ups"), [](const WayCost& c) { return QString::number(c.set_ups); });
  both(tr("Programs"), [](const WayCost& c) { return QString::number(c.programs); });
  both(tr("Cutters put in"), [](const WayCost& c) { return QString::number(c.changes); });
  both(tr("Deepest cut"),
       [&](const WayCost& c) { return tr("%1, %2").arg(length(c.deepest), QString::fromStdString(c.deepest_cut)); });
  both(tr("Remarks that stop the work"), [](const WayCost& c) { return QString::number(c.stops); });
  for (const CutDifference& d : o.cuts) {
    const auto cell = [&](int i) {
      return d.seconds[i] > 0 ? tr("%1, %2 deep").arg(work_time(d.seconds[i]), length(d.depth[i])) : tr("not there");
    };
    line(tr("%1: %2").arg(in_words(d.set_up), in_words(d.cut)), cell(0), cell(1));
  }
  table_->resizeColumnsToContents();
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  const double by = o.cost[1].seconds - o.cost[0].seconds;
  QString says = std::abs(by) < 1 ? tr("It takes as long as now.")
                 : by < 0         ? tr("It saves %1.").arg(work_time(-by))
                                  : tr("It takes %1 longer.").arg(work_time(by));
  if (o.cost[1].stops > o.cost[0].stops) says += tr(" But then something stops the work.");
  says_->setText(says);
  take_->setEnabled(true);
}

}  // namespace wren::app

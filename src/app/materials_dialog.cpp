#include "app/materials_dialog.hpp"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/theme.hpp"
#include "app/words.hpp"

namespace wren::app {
namespace {

/// Columns by the figure they show: its field's last word.
struct Column {
  const char* field;
  const char* title;
};
constexpr Column columns[] = {{"", QT_TRANSLATE_NOOP("MaterialsDialog", "Material")},
                              {"kind", QT_TRANSLATE_NOOP("MaterialsDialog", "Kind")},
                              {"density", QT_TRANSLATE_NOOP("MaterialsDialog", "kg/m³")},
                              {"hardness", QT_TRANSLATE_NOOP("MaterialsDialog", "Hardness")},
                              {"modulus", QT_TRANSLATE_NOOP("MaterialsDialog", "Stiff, GPa")},
                              {"cutting_force", QT_TRANSLATE_NOOP("MaterialsDialog", "Cuts, N/mm²")},
                              {"shrink_radial", QT_TRANSLATE_NOOP("MaterialsDialog", "Radial %")},
                              {"shrink_tangential", QT_TRANSLATE_NOOP("MaterialsDialog", "Tang. %")},
                              {"grain", QT_TRANSLATE_NOOP("MaterialsDialog", "Grain")},
                              {"melts", QT_TRANSLATE_NOOP("MaterialsDialog", "Melts")},
                              {"dust", QT_TRANSLATE_NOOP("MaterialsDialog", "Dust")}};
constexpr int column_count = static_cast<int>(std::size(columns));

}  // namespace

MaterialsDialog::MaterialsDialog(Workbench& bench, Shop& shop, QWidget* parent)
    : QDialog(parent), bench_(bench), shop_(shop) {
  setWindowTitle(tr("Materials"));
  resize(1000, 620);
  auto* all = new QVBoxLayout(this);
  auto* words =
      new QLabel(tr("Woods and sheets as the table has them, and those of this project, which stand first and "
                    "are changed here. A new one begins like another: choose that one, give a name, add it."),
                 this);
  words->setWordWrap(true);
  all->addWidget(words);
  filter_ = new QLineEdit(this);
  filter_->setPlaceholderText(tr("Find: a name, a kind, a source"));
  filter_->setAccessibleName(tr("Find a material"));
  filter_->setClearButtonEnabled(true);
  all->addWidget(filter_);
  table_ = new QTableWidget(0, column_count, this);
  QStringList titles;
  for (const Column& c : columns) titles << tr(c.title);
  table_->setHorizontalHeaderLabels(titles);
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setTabKeyNavigation(false);
  table_->setAccessibleName(tr("Materials"));
  all->addWidget(table_, 1);
  source_ = new QLabel(this);
  source_->setWordWrap(true);
  source_->setMinimumHeight(2 * fontMetrics().height());
  all->addWidget(source_);
  auto* row = new QHBoxLayout;
  name_ = new QLineEdit(this);
  name_->setPlaceholderText(tr("name of a new one, one word"));
  name_->setAccessibleName(tr("Name of a new material"));
  add_ = new QPushButton(tr("Add it like the chosen one"), this);
  out_ = new QPushButton(tr("Take the chosen one out"), this);
  share_ = new QPushButton(tr("Keep it in the shop's book"), this);
  auto* done = new QPushButton(tr("Done"), this);
  for (QPushButton* b : {add_, out_, share_, done}) b->setAutoDefault(false);
  row->addWidget(name_, 1);
  row->addWidget(add_);
  row->addWidget(out_);
  row->addWidget(share_);
  row->addStretch();
  row->addWidget(done);
  all->addLayout(row);
  connect(filter_, &QLineEdit::textChanged, this, &MaterialsDialog::fill);
  connect(table_, &QTableWidget::itemSelectionChanged, this, &MaterialsDialog::choose);
  connect(table_, &QTableWidget::itemChanged, this, &MaterialsDialog::edited);
  connect(name_, &QLineEdit::returnPressed, this, &MaterialsDialog::add);
  connect(add_, &QPushButton::clicked, this, &MaterialsDialog::add);
  connect(out_, &QPushButton::clicked, this, &MaterialsDialog::take_out);
  connect(share_, &QPushButton::clicked, this, &MaterialsDialog::share);
  connect(done, &QPushButton::clicked, this, &QDialog::accept);
  fill();
}

bool MaterialsDialog::own(const std::string& name) const {
  const Materials& all = bench_.project().materials;
  return std::any_of(all.begin(), all.end(), [&](const Material& m) { return m.name == name; });
}

std::string MaterialsDialog::chosen() const {
  const int row = table_->currentRow();
  return row >= 0 && table_->item(row, 0) != nullptr ? table_->item(row, 0)->data(Qt::UserRole).toString().toStdString()
                                                     : std::string();
}

void MaterialsDialog::fill() {
  const std::string was = chosen();
  filling_ = true;
  table_->setRowCount(0);
  const QString find = filter_->text().trimmed();
  const auto row_of = [&](const Material& m, bool mine, const QString& whose = {}) {
    const QString words[column_count] = {
        QString::fromStdString(m.name),
        in_words(kind_word(m.kind)),
        QString::number(m.density),
        in_words(hardness_word(m.hardness)),
        QString::number(m.modulus),
        QString::number(m.cutting_force),
        m.shrink_radial > 0 ? QString::number(m.shrink_radial) : QStringLiteral("–"),
        m.shrink_tangential > 0 ? QString::number(m.shrink_tangential) : QStringLiteral("–"),
        in_words(grain_word(m.grain)),
        m.melts ? tr("yes") : tr("no"),
        in_words(dust_word(m.dust))};
    const bool found = find.isEmpty() || words[0].contains(find, Qt::CaseInsensitive) ||
                       words[1].contains(find, Qt::CaseInsensitive) ||
                       QString::fromStdString(m.source).contains(find, Qt::CaseInsensitive);
    if (!found) return;
    const int row = table_->rowCount();
    table_->insertRow(row);
    for (int c = 0; c < column_count; ++c) {
      auto* item = new QTableWidgetItem(c == 0 ? words[c] + whose : words[c]);
      item->setData(Qt::UserRole, words[0]);
      item->setFlags(Qt::ItemIsSelectable | Qt::ItemIsEnabled | (mine && c > 0 ? Qt::ItemIsEditable : Qt::NoItemFlags));
      table_->setItem(row, c, item);
    }
    if (m.name == was) table_->setCurrentCell(row, 0);
  };
  for (const Material& m : bench_.project().materials) row_of(m, true, tr("  (this project's)"));
  for (const auto& e : shop_.materials())
    if (!e.retired && !own(e.thing.name)) row_of(e.thing, false, tr("  (the shop's)"));
  for (const Material& m : known_materials())
    if (!own(m.name) && !of_shop(m.name)) row_of(m, false);
  table_->resizeColumnsToContents();
  constexpr int room = 14;  // pixels between columns
  for (int c = 0; c < column_count; ++c) table_->setColumnWidth(c, table_->columnWidth(c) + room);
  filling_ = false;
  choose();
}

void MaterialsDialog::choose() {
  if (filling_) return;
  const std::string name = chosen();
  const auto shops = own(name) ? std::nullopt : of_shop(name);
  const auto m = shops ? Expected<Material>(*shops) : find_material(bench_.project().materials, name);
  add_->setEnabled(m.has_value());
  out_->setEnabled(own(name));
  share_->setEnabled(shop_.there() && (own(name) || shops));
  share_->setText(shops ? tr("Take the shop's into this project") : tr("Keep it in the shop's book"));
  if (!m) return say(tr("Choose the one that a new material is like."), false);
  const char* dust = dust_words(m->dust);
  say(tr("%1: %2%3")
          .arg(QString::fromStdString(name), QString::fromStdString(m->source),
               dust != nullptr ? QStringLiteral(". ") + QString::fromUtf8(dust) : QString()),
      false);
}

void MaterialsDialog::say(const QString& text, bool bad) {
  source_->setText(text);
  source_->setProperty("bad", bad);
  source_->setStyleSheet(bad ? QStringLiteral("color: %1").arg(colours().rowan.name()) : QString());
}

void MaterialsDialog::add() {
  const QString name = name_->text().trimmed();
  const std::string like = chosen();
  if (like.empty()) return say(tr("Choose the one that it is like."), true);
  if (name.isEmpty()) {
    name_->setFocus();
    return say(tr("Give the new one a name."), true);
  }
  Materials known = bench_.project().materials;
  if (const auto shops = own(like) ? std::nullopt : of_shop(like)) known.push_back(*shops);
  auto made = material_like(known, name.toStdString(), like);
  if (!made) return say(QString::fromStdString(made.error().text()), true);
  Materials all = bench_.project().materials;
  all.push_back(std::move(*made));
  if (const auto bad = bench_.change_materials(std::move(all), worded("Add {}", name.toStdString())))
    return say(in_words(*bad), true);
  name_->clear();
  filter_->clear();
  fill();
  for (int row = 0; row < table_->rowCount(); ++row)
    if (table_->item(row, 0)->data(Qt::UserRole).toString() == name) table_->setCurrentCell(row, 2);
  table_->setFocus();
}

void MaterialsDialog::take_out() {
  const std::string name = chosen();
  Materials all = bench_.project().materials;
  std::erase_if(all, [&](const Material& m) { return m.name == name; });
  const auto named = materials_named(bench_.parts().book(), bench_.project());
  if (!find_material(all, name) && std::find(named.begin(), named.end(), name) != named.end())
    return say(tr("Something is made of '%1': make it of another first.").arg(QString::fromStdString(name)), true);
  if (const auto bad = bench_.change_materials(std::move(all), worded("Remove {}", name)))
    return say(in_words(*bad), true);
  fill();
}

std::optional<Material> MaterialsDialog::of_shop(const std::string& name) const {
  for (const auto& e : shop_.materials())
    if (!e.retired && e.thing.name == name) return e.thing;
  return {};
}

void MaterialsDialog::share() {
  const std::string name = chosen();
  std::optional<Problem> bad;
  if (own(name)) {
    const auto material = find_material(bench_.project().materials, name);
    if (!material) return;
    bad = shop_.change([&](ShopBook& book) { return book.put(*material, Shop::told()); });
    if (!bad) say(tr("'%1' is the shop's as well.").arg(QString::fromStdString(name)), false);
  } else if (const auto material = of_shop(name)) {
    Materials all = bench_.project().materials;
    bad = take_material(all, *material);
    if (!bad) bad = bench_.change_materials(std::move(all), worded("Take {} from the shop", name));
    if (!bad) fill();
  }
  if (bad) say(in_words(*bad), true);
}

void MaterialsDialog::edited(QTableWidgetItem* item) {
  if (filling_ || item->column() == 0) return;
  const std::string name = item->data(Qt::UserRole).toString().toStdString();
  const std::string key = "material." + name + "." + columns[item->column()].field;
  const QString text = item->text();
  const auto bad = bench_.edit(key, text == QStringLiteral("–") ? "0" : text.toStdString());
  // The table is made anew only when the view is done with its editor.
  QMetaObject::invokeMethod(
      this,
      [this, bad] {
        fill();
        if (bad) say(in_words(*bad), true);
      },
      Qt::QueuedConnection);
}

}  // namespace wren::app

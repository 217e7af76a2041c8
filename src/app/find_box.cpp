#include "app/find_box.hpp"

#include <QKeyEvent>
#include <QLabel>
#include <QVBoxLayout>

#include "app/words.hpp"

namespace wren::app {
namespace {

constexpr int role_line = Qt::UserRole + 1;
constexpr int role_key = Qt::UserRole + 2;

}  // namespace

FindBox::FindBox(Workbench& bench, QWidget* parent) : QDialog(parent), bench_(bench) {
  setWindowTitle(tr("Find a line or a number"));
  resize(620, 460);
  auto* column = new QVBoxLayout(this);
  words_ = new QLineEdit(this);
  words_->setAccessibleName(tr("Words to find"));
  words_->setPlaceholderText(tr("pocket depth, saddle, tuner, T3 …"));
  list_ = new QListWidget(this);
  list_->setAccessibleName(tr("Found"));
  list_->setWordWrap(true);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  column->addWidget(words_);
  column->addWidget(list_, 1);
  auto* hint = new QLabel(tr("Enter goes there. Up and down choose."), this);
  hint->setObjectName(QStringLiteral("quiet"));
  column->addWidget(hint);
  words_->installEventFilter(this);
  connect(words_, &QLineEdit::textChanged, this, &FindBox::look);
  connect(words_, &QLineEdit::returnPressed, this, &FindBox::take);
  connect(list_, &QListWidget::itemActivated, this, &FindBox::take);
  look();
}

void FindBox::look() {
  list_->clear();
  const auto found =
      find_in_job(bench_.sheet(), bench_.ledger_lines(), words_->text().toStdString(), audience(bench_.units()));
  for (const FoundPlace& f : found) {
    const QString title = in_words(f.title);
    const QString place = QString::fromStdString(f.place);
    auto* item =
        new QListWidgetItem(f.key.empty() ? tr("%1\n    %2").arg(title, place)
                                          : tr("%1: %2\n    %3").arg(title, QString::fromStdString(f.value), place),
                            list_);
    item->setData(role_line, QString::fromStdString(f.line));
    item->setData(role_key, QString::fromStdString(f.key));
  }
  if (found.empty() && !words_->text().trimmed().isEmpty()) {
    auto* none = new QListWidgetItem(tr("Nothing is called that. Try one word of it."), list_);
    none->setFlags(Qt::NoItemFlags);
  }
  list_->setCurrentRow(0);
}

void FindBox::take() {
  const QListWidgetItem* item = list_->currentItem();
  if (item == nullptr || item->data(role_line).toString().isEmpty()) return;
  const QString line = item->data(role_line).toString();
  const QString key = item->data(role_key).toString();
  accept();
  Q_EMIT found(line, key);
}

bool FindBox::eventFilter(QObject* watched, QEvent* event) {
  if (watched == words_ && event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Down || key == Qt::Key_Up) {
      const int row = list_->currentRow() + (key == Qt::Key_Down ? 1 : -1);
      if (row >= 0 && row < list_->count()) list_->setCurrentRow(row);
      return true;
    }
  }
  return QDialog::eventFilter(watched, event);
}

}  // namespace wren::app

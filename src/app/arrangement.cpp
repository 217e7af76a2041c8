// How the window's panels stand: wide or tall, as pages on a small screen, the picture alone, the step in their place;
// and the look that all of it has: theme and text size.
#include <QApplication>
#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusPendingCallWatcher>
#include <QDBusPendingReply>
#include <QMenuBar>
#include <QResizeEvent>
#include <QSettings>
#include <QStatusBar>

#include "app/main_window.hpp"
#include "app/theme.hpp"

namespace wren::app {
namespace {

// Under these a window cannot hold all panels at once, for running text of 12 points.
constexpr double least_width = 960;
constexpr double least_height = 560;

}  // namespace

QWidget* MainWindow::make_pages() {
  page_bar_ = new QWidget(this);
  auto* row = new QHBoxLayout(page_bar_);
  row->setContentsMargins(8, 2, 8, 2);
  row->setSpacing(2);
  page_buttons_ = new QButtonGroup(this);
  const QString names[] = {tr("Build sheet"), tr("Picture"), tr("Numbers"), tr("Remarks")};
  for (int i = 0; i < 4; ++i) {
    auto* button = new QPushButton(names[i], page_bar_);
    button->setObjectName(QStringLiteral("view"));
    button->setCheckable(true);
    button->setAccessibleName(tr("Page: %1").arg(names[i]));
    page_buttons_->addButton(button, i);
    row->addWidget(button);
  }
  row->addStretch(1);
  connect(page_buttons_, &QButtonGroup::idClicked, this, [this](int id) { turn_to(static_cast<Page>(id)); });
  page_bar_->hide();
  return page_bar_;
}

void MainWindow::turn_to(Page page) {
  page_ = page;
  lay_out();
}

void MainWindow::arrange(Arrangement how) {
  arrangement_ = how;
  QSettings().setValue(QStringLiteral("arrangement/") + QString::fromStdString(bench_.part()),
                       how == Arrangement::tall);
  lay_out();
}

void MainWindow::lay_out() {
  if (under_ == nullptr || page_bar_ == nullptr || root_ == nullptr) return;  // while the window is being made
  const bool small =
      width() < least_width * text_size() / least_text_size || height() < least_height * text_size() / least_text_size;
  if (small != paged_) {
    paged_ = small;
    name_->setVisible(!paged_);
  }
  page_bar_->setVisible(paged_ && !alone_);
  page_buttons_->button(static_cast<int>(page_))->setChecked(true);
  const bool tall = arrangement_ == Arrangement::tall;
  if (tall_action_ != nullptr) tall_action_->setChecked(tall);
  const Qt::Orientation outer = tall ? Qt::Horizontal : Qt::Vertical;
  if (const bool turned = over_->orientation() != outer; turned || over_->property("sized").isNull()) {
    over_->setOrientation(outer);
    under_->setOrientation(tall ? Qt::Vertical : Qt::Horizontal);
    over_->setSizes(tall ? QList<int>{640, 380} : QList<int>{500, 236});
    under_->setSizes(tall ? QList<int>{430, 300} : QList<int>{640, 380});
    over_->setProperty("sized", true);
  }
  const bool whole = view_ == View::bench || view_ == View::runs;
  const auto shows = [&](Page page) { return paged_ && !alone_ ? page_ == page : page == Page::picture || !alone_; };
  // What has the keyboard keeps it while its panel stays.
  sheet_->setVisible(shows(Page::sheet));
  picture_side_->setVisible(shows(Page::picture));
  const bool numbers = shows(Page::numbers) && (paged_ || !whole);
  const bool remarks = shows(Page::remarks) && (paged_ || !whole);
  ledger_->setVisible(numbers);
  remarks_->setVisible(remarks);
  under_->setVisible(numbers || remarks);
  over_->setVisible(shows(Page::picture) || numbers || remarks);
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  lay_out();
}

void MainWindow::show_alone(bool on) {
  alone_ = on;
  if (alone_action_ != nullptr) alone_action_->setChecked(on);
  if (on && at_step()) show_step(false);
  lay_out();
  if (on) pictures_->currentWidget()->setFocus();
}

bool MainWindow::at_step() const { return root_->currentWidget() == step_; }

void MainWindow::show_step(bool on) {
  if (step_action_ != nullptr) step_action_->setChecked(on);
  if (on == at_step()) return;
  if (on) {
    step_->show_line(line_);
    root_->setCurrentWidget(step_);
    step_->setFocus();
    return;
  }
  // The desk stands at the step that was left.
  const std::string line = step_->line();
  root_->setCurrentIndex(0);
  if (!line.empty() && line != line_ && part_of_line(line) == bench_.part()) choose_line(line);
  menuBar()->setFocus();
  sheet_->tree()->setFocus();
}

void MainWindow::set_text_size_of_window(double points) {
  set_text_size(points);
  QSettings().setValue(QStringLiteral("window/text"), text_size());
  restyle();
  lay_out();
}

void MainWindow::restyle() {
  QApplication::setFont(text_font(10));
  qApp->setStyleSheet(style_sheet());
  if (themes_ != nullptr)
    for (QAction* a : themes_->actions())
      a->setChecked(a->data().toString() ==
                    QSettings().value(QStringLiteral("window/theme"), QStringLiteral("desktop")));
  if (!isVisible()) return;  // everything is made when it is first shown
  ledger_->rebuild_all();
  Q_EMIT bench_.changed();
  Q_EMIT bench_.planned_now();
}

void MainWindow::apply_theme(bool dark) {
  set_theme(dark ? Theme::dark : Theme::light);
  restyle();
}

void MainWindow::choose_theme(const QString& which) {
  QSettings().setValue(QStringLiteral("window/theme"), which);
  if (which != QStringLiteral("desktop")) return apply_theme(which == QStringLiteral("dark"));
  apply_theme(false);
  // The desktop says so through its settings portal (org.freedesktop.portal.Settings: color-scheme 1 is dark); where
  // there is none it stays light.
  auto bus = QDBusConnection::sessionBus();
  if (!bus.isConnected()) return;
  const QString portal = QStringLiteral("org.freedesktop.portal.Desktop");
  const QString path = QStringLiteral("/org/freedesktop/portal/desktop");
  const QString settings = QStringLiteral("org.freedesktop.portal.Settings");
  QDBusMessage ask = QDBusMessage::createMethodCall(portal, path, settings, QStringLiteral("Read"));
  ask << QStringLiteral("org.freedesktop.appearance") << QStringLiteral("color-scheme");
  auto* waiting = new QDBusPendingCallWatcher(bus.asyncCall(ask, 2000), this);
  connect(waiting, &QDBusPendingCallWatcher::finished, this, [this](QDBusPendingCallWatcher* done) {
    done->deleteLater();
    const QDBusPendingReply<QDBusVariant> reply = *done;
    if (reply.isError()) return;
    QVariant value = reply.value().variant();
    if (value.canConvert<QDBusVariant>()) value = value.value<QDBusVariant>().variant();
    if (value.toUInt() == 1 &&
        QSettings().value(QStringLiteral("window/theme"), QStringLiteral("desktop")) == QStringLiteral("desktop"))
      apply_theme(true);
  });
  if (!follows_desktop_)
    follows_desktop_ = bus.connect(portal, path, settings, QStringLiteral("SettingChanged"), this,
                                   SLOT(desktop_changed(QString, QString, QDBusVariant)));
}

void MainWindow::desktop_changed(const QString& group, const QString& key, const QDBusVariant& value) {
  if (group != QStringLiteral("org.freedesktop.appearance") || key != QStringLiteral("color-scheme")) return;
  if (QSettings().value(QStringLiteral("window/theme"), QStringLiteral("desktop")) != QStringLiteral("desktop")) return;
  apply_theme(value.variant().toUInt() == 1);
}

}  // namespace wren::app

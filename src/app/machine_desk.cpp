#include "app/machine_desk.hpp"

#include <QDateTime>

#include "app/words.hpp"

namespace wren::app {
MachineDesk::MachineDesk(QObject* parent) : QObject(parent) {
  pool_.setMaxThreadCount(1);
  poll_.setInterval(250);
  connect(&poll_, &QTimer::timeout, this, &MachineDesk::poll);
}

MachineDesk::~MachineDesk() {
  controls_->stop();
  pool_.waitForDone();
}

void MachineDesk::post(std::function<void()> work, bool silent) {
  ++(silent ? looking_ : waiting_);
  pool_.start([this, silent, work = std::move(work)] {
    work();
    --(silent ? looking_ : waiting_);
    QMetaObject::invokeMethod(
        this, [this] { Q_EMIT changed(); }, Qt::QueuedConnection);
  });
}

void MachineDesk::take(const Host& host) {
  // On the worker: a copy goes over.
  QMetaObject::invokeMethod(
      this,
      [this, state = host.last(), travel = host.travel(), simulated = host.simulated(), lines = host.tells_lines()] {
        if (!connected_) return;
        state_ = state;
        travel_ = travel;
        simulated_ = simulated;
        tells_lines_ = lines;
        Q_EMIT changed();
      },
      Qt::QueuedConnection);
}

void MachineDesk::connect_to(const std::string& address, long baud, const PlainTalk& talk) {
  if (running_) return;
  address_ = address;
  open_ = [address, baud, talk]() -> Expected<std::unique_ptr<Host>> {
    auto link = open_link(address, baud);
    if (!link) return tl::unexpected(link.error());
    auto host = address.starts_with('/') ? plain_host(std::move(*link), talk) : checked_host(std::move(*link));
    if (auto greeted = host->greet("the window"); !greeted) return tl::unexpected(greeted.error());
    return host;
  };
  Q_EMIT said(tr("Connecting to %1…").arg(QString::fromStdString(address)), false);
  post([this, open = open_] {
    host_.reset();
    auto host = open();
    if (!host) {
      QMetaObject::invokeMethod(
          this, [this, bad = host.error()] { Q_EMIT said(in_words(bad), true); }, Qt::QueuedConnection);
      return;
    }
    host_ = std::move(*host);
    QMetaObject::invokeMethod(
        this,
        [this] {
          connected_ = true;
          poll_.start();
          Q_EMIT said(tr("Connected to %1.").arg(QString::fromStdString(address_)), false);
        },
        Qt::QueuedConnection);
    take(*host_);
  });
}

void MachineDesk::leave() {
  if (running_) return;
  connected_ = false;
  poll_.stop();
  state_ = {};
  post([this] { host_.reset(); });
  Q_EMIT changed();
}

void MachineDesk::poll() {
  if (busy() || looking_ > 0 || !connected_) return;
  const auto look = [this] {
    if (!host_) return;
    if (const auto state = host_->look(); !state) {
      host_.reset();
      QMetaObject::invokeMethod(
          this,
          [this, bad = state.error()] {
            connected_ = false;
            poll_.stop();
            state_ = {};
            Q_EMIT said(in_words(bad), true);
          },
          Qt::QueuedConnection);
      return;
    }
    take(*host_);
  };
  post(look, true);
}

void MachineDesk::deed(const QString& what, std::function<Expected<void>(Host&)> deed) {
  if (!connected_ || running_) return;
  Q_EMIT said(what + QStringLiteral("…"), false);
  post([this, what, deed = std::move(deed)] {
    if (!host_) return;
    const auto done = deed(*host_);
    if (const auto state = host_->look(); !state) (void)state;
    take(*host_);
    QMetaObject::invokeMethod(
        this,
        [this, what, done] {
          Q_EMIT said(done ? tr("%1: done.").arg(what) : in_words(done.error()), !done.has_value());
        },
        Qt::QueuedConnection);
  });
  Q_EMIT changed();
}

void MachineDesk::ask(std::function<Expected<std::string>(Host&)> question,
                      std::function<void(Expected<std::string>)> answer) {
  if (!connected_ || running_)
    return answer(fail(ProblemKind::input, running_ ? "the machine is at work" : "the machine is not connected", "",
                       running_ ? "Ask when it is done" : "Connect again"));
  post([this, question = std::move(question), answer = std::move(answer)] {
    Expected<std::string> said = fail(ProblemKind::file, "the machine is gone", "", "Connect again");
    if (host_) said = question(*host_);
    QMetaObject::invokeMethod(
        this, [answer, said = std::move(said)] { answer(said); }, Qt::QueuedConnection);
  });
}

void MachineDesk::run(RunRequest request) {
  if (!connected_ || running_) return;
  running_ = true;
  may_sleep_ = false;
  view_ = {};
  run_of_ = request.facts;
  controls_ = std::make_shared<RunControls>();
  request.again = open_;
  request.time_of_day = [] {
    return QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd HH:mm:ss")).toStdString();
  };
  post([this, request = std::move(request), controls = controls_] {
    Expected<RunEnd> end = fail(ProblemKind::file, "the machine is gone", "", "Connect again");
    double told = -1;
    if (host_) {
      Awake awake;
      bool looked = false;
      Runner runner(host_, *controls, [&](const RunView& v) {
        // Twenty times a second is what an eye takes in.
        const double now = host_->now();
        if (now - told < 0.05 && !v.asks) return;
        told = now;
        // Whether anything holds off sleep is known a moment after it was asked for.
        const bool asleep = !looked && v.seconds > 1 && !awake.held();
        looked = looked || v.seconds > 1;
        QMetaObject::invokeMethod(
            this,
            [this, v, asleep] {
              may_sleep_ = may_sleep_ || asleep;
              view_ = v;
              state_ = v.state;
              Q_EMIT changed();
            },
            Qt::QueuedConnection);
      });
      end = runner.run(request);
      take(*host_);
    }
    QMetaObject::invokeMethod(
        this,
        [this, end = std::move(end)] {
          running_ = false;
          if (end) {
            if (end->run.outcome == "unknown") {
              connected_ = false;
              poll_.stop();
            }
            Q_EMIT said(QString::fromStdString(end->words), end->run.outcome != "done");
            Q_EMIT ended(*end);
          } else {
            Q_EMIT said(in_words(end.error()), true);
          }
          Q_EMIT changed();
        },
        Qt::QueuedConnection);
  });
  Q_EMIT changed();
}

}  // namespace wren::app

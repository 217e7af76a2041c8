// Task: one kind of heavy work beside the window, newest request only (request_line.hpp has the rule between kinds).
// Starting another stops the one under way and drops its result; results arrive on the owner's thread through its event
// loop, never while the window is in the middle of something. The owner may die first: the worker is then stopped and
// waited for.
#pragma once

#include <atomic>
#include <functional>
#include <memory>
#include <optional>

#include <QObject>

#include "app/request_line.hpp"
#include "core/report/progress.hpp"

namespace wren::app {

template <class Result>
class Task {
 public:
  using Work = std::function<Result(Progress&)>;
  using Done = std::function<void(Result)>;
  using Report = std::function<void(double, QString)>;

  explicit Task(QObject* owner, Urgency urgency = Urgency::asked) : owner_(owner), line_(urgency) {}
  ~Task() { stop(); }
  Task(const Task&) = delete;
  Task& operator=(const Task&) = delete;

  void start(Work work, Done done, Report report = {}) {
    stop();
    const std::uint64_t serial = ++*serial_;
    auto latest = serial_;
    auto last_told = std::make_shared<std::atomic<int>>(-1);
    auto progress = std::make_shared<Progress>(
        [owner = owner_, report, latest, serial, last_told](double share, std::string_view phase) {
          if (!report) return;
          const int percent = static_cast<int>(share * 100);
          if (last_told->exchange(percent) == percent) return;  // a hundred messages are enough
          QMetaObject::invokeMethod(
              owner,
              [report, share, text = QString::fromUtf8(phase.data(), static_cast<qsizetype>(phase.size())), latest,
               serial] {
                if (*latest == serial) report(share, text);
              },
              Qt::QueuedConnection);
        });
    progress_ = progress;
    busy_ = true;
    done_ = std::move(done);
    ready_ = std::make_shared<std::optional<Result>>();
    line_.put([this, owner = owner_, work = std::move(work), ready = ready_, progress, latest, serial] {
      if (*latest != serial) return;
      ready->emplace(work(*progress));
      QMetaObject::invokeMethod(
          owner,
          [this, ready, latest, serial] {
            if (*latest != serial) return;
            busy_ = false;
            const Done take = done_;  // it may start the next one
            take(std::move(**ready));
          },
          Qt::QueuedConnection);
    });
  }
  void stop() {
    if (auto p = progress_.lock()) p->stop();
  }
  /// Stops, and drops the result too.
  void cancel() {
    stop();
    ++*serial_;
    busy_ = false;
  }
  /// Waits for what is under way, and takes its result now.
  void finish() {
    line_.finish();
    if (!busy_) return;
    ++*serial_;  // the message that brings it is too late
    busy_ = false;
    const auto ready = ready_;
    const Done take = done_;  // it may start the next one
    if (*ready) take(std::move(**ready));
  }
  [[nodiscard]] bool busy() const { return busy_; }

 private:
  QObject* owner_;
  std::weak_ptr<Progress> progress_;
  Done done_;
  std::shared_ptr<std::optional<Result>> ready_;
  std::shared_ptr<std::atomic<std::uint64_t>> serial_ = std::make_shared<std::atomic<std::uint64_t>>(0);
  bool busy_ = false;
  RequestLine line_;  // goes first: what is under way still uses the others
};

}  // namespace wren::app

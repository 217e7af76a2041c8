#include "app/request_line.hpp"

#include <algorithm>
#include <condition_variable>
#include <mutex>
#include <utility>

#include <QThread>
#include <QThreadPool>

namespace wren::app {
namespace {

/// As many works side by side as there are cores; what is in hand has a thread of its own beside them.
class Queue {
 public:
  Queue() {
    in_hand_.setMaxThreadCount(1);
    others_.setMaxThreadCount(std::max(2, QThread::idealThreadCount()));
  }
  void put(std::function<void()> work, Urgency urgency) {
    if (urgency == Urgency::in_hand)
      in_hand_.start(std::move(work));
    else
      others_.start(std::move(work), urgency == Urgency::asked ? 1 : 0);
  }

 private:
  QThreadPool in_hand_, others_;
};

Queue& queue() {
  static Queue one;
  return one;
}

}  // namespace

struct RequestLine::State {
  const Urgency urgency;
  std::mutex mutex;
  std::condition_variable ended;
  std::function<void()> waiting{};
  bool queued = false;  // the queue has been asked to come to this line
  bool working = false;

  /// Works until nothing waits. Precondition: locked, nothing of this line is under way.
  void work(std::unique_lock<std::mutex>& lock) {
    while (waiting) {
      const std::function<void()> one = std::exchange(waiting, {});
      working = true;
      lock.unlock();
      one();
      lock.lock();
      working = false;
    }
    ended.notify_all();
  }
};

RequestLine::RequestLine(Urgency urgency) : state_(new State{urgency, {}, {}}) {}

RequestLine::~RequestLine() {
  std::unique_lock lock(state_->mutex);
  state_->waiting = {};
  state_->ended.wait(lock, [this] { return !state_->working; });
}

void RequestLine::put(std::function<void()> work) {
  const std::lock_guard lock(state_->mutex);
  state_->waiting = std::move(work);
  if (std::exchange(state_->queued, true)) return;
  queue().put(
      [state = state_] {
        std::unique_lock now(state->mutex);
        // Somebody who could not wait for it may be at it himself.
        state->ended.wait(now, [&] { return !state->working; });
        state->work(now);
        state->queued = false;
      },
      state_->urgency);
}

void RequestLine::finish() {
  std::unique_lock lock(state_->mutex);
  state_->ended.wait(lock, [this] { return !state_->working; });
  state_->work(lock);
}

}  // namespace wren::app

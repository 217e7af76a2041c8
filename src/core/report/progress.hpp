// Progress: what a long call takes to report how far it is and to be stopped. Thread safe; polled at least every few
// milliseconds by every call that takes one. After a stop no half result leaves the call.
#pragma once

#include <atomic>
#include <functional>
#include <string_view>
#include <utility>

namespace wren {

class Progress {
 public:
  using Listener = std::function<void(double done, std::string_view phase)>;  // done: 0 to 1
  Progress() = default;
  explicit Progress(Listener listener) : listener_(std::move(listener)) {}

  /// Reports and asks in one: false means the caller should return ProblemKind::stopped.
  bool go_on(double done, std::string_view phase) {
    if (listener_) listener_(done, phase);
    return !stopped();
  }
  void stop() { stop_.store(true, std::memory_order_relaxed); }
  [[nodiscard]] bool stopped() const { return stop_.load(std::memory_order_relaxed); }

 private:
  Listener listener_;
  std::atomic<bool> stop_{false};
};

}  // namespace wren

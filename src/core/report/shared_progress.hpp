// One progress for several calls that run side by side: each reports its own share, all are told to stop together.
#pragma once

#include <memory>
#include <mutex>
#include <numeric>
#include <vector>

#include "core/report/progress.hpp"

namespace wren {

class SharedProgress {
 public:
  /// The calls are `part` of what `to` tells of; `to` may be nullptr.
  SharedProgress(Progress* to, std::size_t calls, double part) : to_(to), shares_(calls, 0.0), part_(part) {
    for (std::size_t k = 0; k < calls; ++k)
      calls_.push_back(std::make_unique<Progress>([this, k](double share, std::string_view phase) {
        if (!go_on(k, share, phase)) calls_[k]->stop();
      }));
  }
  SharedProgress(const SharedProgress&) = delete;
  SharedProgress& operator=(const SharedProgress&) = delete;
  /// What call k reports to and is stopped by.
  [[nodiscard]] Progress* of(std::size_t k) { return calls_[k].get(); }

 private:
  bool go_on(std::size_t k, double share, std::string_view phase) {
    if (to_ == nullptr) return true;
    const std::lock_guard lock(mutex_);
    shares_[k] = share;
    const double all = std::accumulate(shares_.begin(), shares_.end(), 0.0) / static_cast<double>(shares_.size());
    return to_->go_on(part_ * all, phase);
  }
  Progress* to_;
  std::vector<double> shares_;
  double part_;
  std::mutex mutex_;
  std::vector<std::unique_ptr<Progress>> calls_;
};

}  // namespace wren

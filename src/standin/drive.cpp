#include "standin/drive.hpp"

#include <algorithm>
#include <limits>

namespace standin {

void Drive::add(Place to, bool rapid, double feed, std::uint32_t mark) {
  Piece p;
  p.from = end();
  p.to = to;
  p.length = (to - p.from).far();
  p.rapid = rapid;
  p.mark = mark;
  if (p.length > 0) {
    p.along = (to - p.from) * (1 / p.length);
    p.most = rapid ? std::numeric_limits<double>::max() : feed;
    p.gain = std::numeric_limits<double>::max();
    const auto along = p.along.axes(), speed = (rapid ? limits_.rapid : limits_.speed).axes(),
               gain = limits_.acceleration.axes();
    for (std::size_t k = 0; k < 3; ++k)
      if (std::abs(along[k]) > 1e-12) {
        p.most = std::min(p.most, speed[k] / std::abs(along[k]));
        p.gain = std::min(p.gain, gain[k] / std::abs(along[k]));
      }
  }
  p.corner = queue_.empty() ? 0 : corner(queue_.back(), p);
  queue_.push_back(p);
  look_back();
}

double Drive::corner(const Piece& a, const Piece& b) const {
  if (a.length == 0 || b.length == 0) return 0;
  double most = std::min(a.most, b.most);
  const auto u = a.along.axes(), v = b.along.axes();
  for (std::size_t k = 0; k < 3; ++k)
    if (const double change = std::abs(v[k] - u[k]); change > 1e-9) most = std::min(most, limits_.jump / change);
  return most;
}

void Drive::look_back() {
  double next = 0;  // the last piece ends standing
  for (auto it = queue_.rbegin(); it != queue_.rend(); ++it) {
    const double entry = std::min(it->corner, std::sqrt(next * next + 2 * it->gain * (it->length - it->done)));
    if (it != queue_.rbegin() && it->entry == entry) break;  // nothing before it changes
    it->entry = entry;
    next = entry;
  }
}

void Drive::drop() {
  queue_.clear();
  speed_ = 0;
}

void Drive::go_on(std::vector<Ended>& ended) {
  double time = tick;
  while (!queue_.empty() && time > 0) {
    Piece& p = queue_.front();
    const double left = p.length - p.done;
    const double most = p.rapid ? p.most : p.most * feed_share_;
    const double next = queue_.size() > 1 ? queue_[1].entry : 0;
    double pace = 0;
    const double was = speed_;
    if (p.length > 0) {
      // Not faster than lets the end of this piece be passed as slowly as it has to be: v² ≤ next² + 2·a·(left − way of
      // this tick), the way (was + v)/2 · t; solved for v.
      const double half = p.gain * time / 2;
      const double brake =
          -half + std::sqrt(std::max(0.0, half * half + next * next + 2 * p.gain * left - 2 * half * was));
      const double want = held_ ? 0 : std::min(most, std::max(0.0, brake));
      speed_ = want > was ? std::min(want, was + p.gain * time) : std::max(want, was - p.gain * time);
      // At least what brings a piece to its end that is braked to a stand there.
      pace = std::max((was + speed_) / 2 * time, held_ ? 0 : std::min(most, p.gain * tick / 2) * time);
    }
    if (held_ && speed_ <= 0) {
      speed_ = 0;
      p.done = std::min(p.length, p.done + pace);
      at_ = p.from + p.along * p.done;
      return;
    }
    if (pace < left) {
      p.done += pace;
      at_ = p.from + p.along * p.done;
      return;
    }
    if (pace > 0) {
      const double used = time * left / pace;
      speed_ = was + (speed_ - was) * left / pace;
      time -= used;
    }
    at_ = p.to;
    ended.push_back({p.to, p.mark, p.rapid});
    queue_.pop_front();
    if (queue_.empty()) speed_ = 0;
  }
  if (queue_.empty()) speed_ = 0;
}

}  // namespace standin

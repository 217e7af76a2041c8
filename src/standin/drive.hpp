// The axes: straight pieces are run one after another, each axis within its own speed and acceleration, with a look
// ahead over what is queued. Time goes on in ticks of one millisecond; a hold brakes along the path, an override
// changes the speed on the way. mm, s.
#pragma once

#include <cstdint>
#include <deque>
#include <vector>

#include "standin/place.hpp"

namespace standin {

struct Limits {
  Place speed{3000 / 60.0, 3000 / 60.0, 1500 / 60.0};  // mm/s at a feed
  Place rapid{5000 / 60.0, 5000 / 60.0, 5000 / 60.0};  // mm/s
  Place acceleration{500, 500, 500};                   // mm/s²
  double jump = 2;                                     // mm/s that an axis may jump by at a corner
};

class Drive {
 public:
  explicit Drive(Limits limits, Place at) : limits_(limits), at_(at) {}

  static constexpr double tick = 0.001;
  static constexpr std::size_t most_queued = 512;

  /// A straight piece; `feed` mm/s along it. `mark` comes back when it has been run. Precondition: room().
  void add(Place to, bool rapid, double feed, std::uint32_t mark);
  [[nodiscard]] bool room() const { return queue_.size() < most_queued; }
  [[nodiscard]] bool idle() const { return queue_.empty(); }
  /// Goes on by one tick; the pieces that ended in it are added to `ended`, in order.
  struct Ended {
    Place to;
    std::uint32_t mark = 0;
    bool rapid = false;
  };
  void go_on(std::vector<Ended>& ended);
  void hold(bool on) { held_ = on; }
  [[nodiscard]] bool stands() const { return speed_ == 0; }
  /// Stands at once; what was queued is forgotten. The axes know where they stand.
  void drop();
  void set_feed(double share) { feed_share_ = share; }
  [[nodiscard]] double feed_share() const { return feed_share_; }
  [[nodiscard]] Place at() const { return at_; }
  [[nodiscard]] Place end() const { return queue_.empty() ? at_ : queue_.back().to; }
  [[nodiscard]] double speed() const { return speed_; }
  [[nodiscard]] bool rapid() const { return !queue_.empty() && queue_.front().rapid; }
  void put(Place at) {
    drop();
    at_ = at;
  }
  [[nodiscard]] const Limits& limits() const { return limits_; }

 private:
  struct Piece {
    Place from, to, along;
    double length = 0, done = 0;
    double most = 0;    // mm/s
    double gain = 0;    // mm/s²
    double entry = 0;   // fastest that its beginning may be passed so that all after it can still be braked for
    double corner = 0;  // fastest that the corner at its beginning allows
    bool rapid = false;
    std::uint32_t mark = 0;
  };
  [[nodiscard]] double corner(const Piece& a, const Piece& b) const;
  void look_back();
  Limits limits_;
  Place at_;
  std::deque<Piece> queue_;
  double speed_ = 0;
  double feed_share_ = 1;
  bool held_ = false;
};

}  // namespace standin

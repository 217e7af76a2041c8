// What a machine tells of itself, as the host of its protocol reads it. What it does not tell is not there. mm, mm/min.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "core/plan/geometry.hpp"

namespace wren {

struct MachineState {
  std::string boot;    // changes whenever its power was gone
  std::string word;    // "idle", "running", "held", "waiting", "alarm", "unhomed", …; empty: it does not tell
  bool known = false;  // it knows where it stands
  std::string program;
  std::optional<std::uint32_t> accepted, done;  // lines of the program
  std::optional<Vec3> at;                       // its own counts, machine frame
  std::optional<Vec3> zero;                     // of G54, machine frame
  std::optional<double> speed, rpm, feed_percent, spindle_percent;
  std::optional<int> tool;  // 0: nobody has told it
  int wanted = 0;           // tool that it waits for
  double clock = 0;         // its own seconds of work
  int hits = 0;             // what went wrong in the wood (stand-in)
  std::string why;
  double seen = 0;  // on the link's clock
  [[nodiscard]] bool idle() const { return word == "idle"; }
  /// It has stopped by itself, or nobody knows where it stands.
  [[nodiscard]] bool lost() const { return word == "alarm" || word == "unhomed" || !known; }
  [[nodiscard]] std::optional<Vec3> in_work() const {
    if (!at || !zero) return {};
    return Vec3{at->x - zero->x, at->y - zero->y, at->z - zero->z};
  }
};

}  // namespace wren

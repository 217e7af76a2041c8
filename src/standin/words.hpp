// The stand-in's own reader of program text: one line at a time, with the state that lines leave behind. After NISTIR
// 6556 (The NIST RS274NGC Interpreter, Version 3). It knows G0–G4, G10 L2 P1, G17–G21, G38.2, G40, G43, G49, G53, G54,
// G61, G64, G80–G83, G73, G90, G91, G91.1, G94, G98, G99 and M0–M6, M8, M9, M30; what else comes it refuses with a
// sentence, and changes nothing.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "standin/place.hpp"

namespace standin {

/// One thing that the machine is to do. Places are of its own counts (machine frame).
struct Deed {
  enum class Kind { go, dwell, spindle, cutter, pause, end, probe, set_zero };
  Kind kind = Kind::go;
  Place to;
  bool rapid = false;
  double feed = 0;     // mm/min
  double seconds = 0;  // dwell
  int turning = 0;     // spindle: 1 clockwise, −1 the other way, 0 stands
  double rpm = 0;
  int tool = 0;
};

/// What a line of program text came to: deeds in order, or a sentence why it is refused.
struct Understood {
  std::vector<Deed> deeds;
  std::string refused;
};

class Reader {
 public:
  /// Where the program thinks the machine is once all deeds so far are done; after homing, jogging, a probe, a stop the
  /// machine tells it anew.
  void stand_at(Place machine) { at_ = machine; }
  /// Modal state as it is when the power comes on; the work zero is kept by the machine.
  void reset();
  [[nodiscard]] Understood read(std::string_view line);

  Place zero;                    // of G54, machine frame
  std::map<int, double> length;  // of tools, for G43
  [[nodiscard]] Place offset() const { return zero + Place{0, 0, length_in_use_}; }
  [[nodiscard]] double feed() const { return feed_; }

 private:
  struct Line;
  [[nodiscard]] std::string take(const Line& line, std::vector<Deed>& out);
  void arc(const Line& line, Place to, std::vector<Deed>& out, std::string& refused);
  void drill(const Line& line, std::vector<Deed>& out, std::string& refused);
  void go(Place to, bool rapid, std::vector<Deed>& out);
  Place at_;
  int motion_ = 80;  // 0–3, 73, 80–83
  int plane_ = 17;
  bool inch_ = false;
  bool relative_ = false;
  bool back_to_r_ = false;  // G99
  double feed_ = 0;
  double rpm_ = 0;
  int turning_ = 0;
  int tool_ = 0;
  double length_in_use_ = 0;
  double sticky_r_ = 0, sticky_q_ = 0, sticky_z_ = 0, sticky_p_ = 0;
};

}  // namespace standin

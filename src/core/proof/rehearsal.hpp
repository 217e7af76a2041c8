// Rehearsal: programs read back from their text and cut into virtual wood, move by move, with a clock. Sees program
// text, stock, machine and cutters; knows nothing of how the paths were made. Frame: work; mm, seconds.
#pragma once

#include <deque>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/timing/time_estimate.hpp"
#include "core/program/reader.hpp"
#include "core/program/shared_text.hpp"
#include "core/proof/finding.hpp"
#include "core/proof/removal.hpp"
#include "core/report/progress.hpp"
#include "core/workshop/setup.hpp"

namespace wren {

struct ProgramText {
  std::string name;  // file name, for messages
  SharedText text;
  std::string cutter;   // rack identity for T words that no cutter of the rack answers to; empty: none
  bool sealed = false;  // it is one of ours, so it has to carry our last line
};

/// One straight piece of what the machine does, after arcs are flattened (0.002 mm) and collinear moves merged (0.001
/// mm).
struct Motion {
  Vec3 a;
  Vec3 b;
  double begin = 0;  // s on the clock of the whole job, spindle start and cutter changes not counted
  double end = 0;
  float feed = 0;  // mm/min; 0: rapid
  float rpm = 0;
  std::uint32_t line = 0;
  std::uint16_t program = 0;
  std::int16_t cutter = -1;  // index into Score::cutters, −1: no known cutter
  bool rapid = false;
  bool spindle = false;
};

/// Motions in running order, by value. Kept small: where one begins the one before ended, but at a program's start, and
/// what else is said of it is kept once for all that share it.
class Motions {
 public:
  using value_type = Motion;
  /// Its times are set later.
  void push_back(const Motion& motion);
  void set_end(std::size_t i, double seconds) { kept_[i].end = seconds; }
  [[nodiscard]] std::size_t size() const { return kept_.size(); }
  [[nodiscard]] bool empty() const { return kept_.empty(); }
  [[nodiscard]] Motion operator[](std::size_t i) const;
  [[nodiscard]] RowIterator<Motions> begin() const { return {*this, 0}; }
  [[nodiscard]] RowIterator<Motions> end() const { return {*this, size()}; }

 private:
  struct Kept {
    Vec3 b;
    double end;
    std::uint32_t line;
    std::uint32_t said;  // index
  };
  std::deque<Kept> kept_;
  std::vector<Motion> said_;                          // feed, speed, program, cutter
  std::vector<std::pair<std::size_t, Vec3>> starts_;  // those that do not begin where the one before ended
};

struct ProgramFacts {
  std::string name;
  std::size_t lines = 0;
  std::size_t moves = 0;
  double seconds = 0;
  bool sealed = false;
  Vec3 low{1e300, 1e300, 1e300};
  Vec3 high{-1e300, -1e300, -1e300};
  std::vector<std::string> cutters;
  std::vector<int> unknown_tools;
  std::vector<Finding> findings;  // what the text alone shows
};

/// A moment at which a hand acts: a program's start, a stop (M0), a change of cutter.
struct HandStop {
  std::size_t before = 0;  // index of the motion that follows
  std::uint16_t program = 0;
  std::uint32_t line = 0;
  bool probes = false;  // z is found anew
};

/// Everything the programs do, on one clock.
struct Score {
  Motions motions;
  std::vector<Cutter> cutters;
  std::vector<ProgramFacts> programs;
  std::vector<HandStop> stops;  // in running order
  double seconds = 0;
};

/// Reads the programs; the first that cannot be read is the Problem.
[[nodiscard]] Expected<Score> read_score(const std::vector<ProgramText>& programs, const Rack& rack,
                                         const Setup& setup);

/// The wood before any cut: the blank's plan, grown to whole cells, top at work z = 0 or as the set-up tells.
[[nodiscard]] TileGrid fresh_stock(const Setup& setup, double cell);

/// The wood at any moment of the clock. Going forward continues; going back starts from the nearest earlier keyframe.
class Rehearsal {
 public:
  Rehearsal(Score score, const Setup& setup, double cell);

  [[nodiscard]] const Score& score() const { return score_; }
  [[nodiscard]] const TileGrid& stock() const { return stock_; }
  [[nodiscard]] double now() const { return now_; }
  /// Brings the wood to `seconds`. False when it was stopped: the wood is then that of an earlier moment.
  bool seek(double seconds, Progress* progress = nullptr);
  /// The piece under way at the present moment, and where the tip is in it; nothing where there is none.
  [[nodiscard]] std::optional<Motion> piece() const;
  [[nodiscard]] Vec3 tip() const;

 private:
  struct Keyframe {
    double seconds;
    std::size_t next;
    TileGrid stock;
  };
  void cut(const Motion& piece, double from, double to);
  Score score_;
  std::vector<Remover> removers_;
  TileGrid stock_;
  double now_ = 0;
  std::size_t next_ = 0;  // first piece not wholly done
  std::vector<Keyframe> keyframes_;
  double key_step_;
};

}  // namespace wren

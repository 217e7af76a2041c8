// Reader of RS-274 programs, written independently of the writer: it shares no code with it. After NISTIR 6556 (The
// NIST RS274NGC Interpreter, Version 3): modal groups, order of execution, arcs in three planes, canned drilling
// cycles. What it does not know it refuses, with the line number. Frame: the work frame of G54, mm whatever the
// program's units.
//
// Known: G0–G4, G17–G21, G40, G49, G43 (with H), G53 (where the machine's place is given), G54–G59 (others than G54
// where their offset is given), G61, G64, G73, G80–G83, G90, G91, G90.1, G91.1, G94, G98, G99; M0–M9, M30; F S T N H P
// Q R L I J K X Y Z, each where a word of its line uses it; comments ( ) and ;, % as a file's first and last line.
#pragma once

#include <array>
#include <cstdint>
#include <deque>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/plan/geometry.hpp"
#include "core/program/indexed.hpp"
#include "core/report/problem.hpp"

namespace wren {

enum class ReadKind : std::uint8_t { rapid, line, arc };
enum class Plane : std::uint8_t { xy, zx, yz };

struct ReadMove {
  Vec3 to;
  Vec3 centre;             // arcs
  float feed = 0;          // mm/min
  float rpm = 0;           // as said before it
  std::uint32_t line = 0;  // in the text, from 1
  ReadKind kind = ReadKind::rapid;
  Plane plane = Plane::xy;
  bool clockwise = false;  // seen from the plane's positive third axis
  bool spindle = false;    // turning
  bool backwards = false;  // M4
  bool waited = false;     // the spindle has had its time to come up since it was started (G4)
  /// Axes given in machine coordinates: 1 x, 2 y, 4 z; tip_changed: nothing moves, another cutter's tip is there.
  std::uint8_t machine = 0;
  std::uint8_t known = 7;  // axes whose place is known after this move, whatever was before the program
  std::uint16_t tool = 0;  // index into ReadProgram::tools
};

/// Moves in the order of the text, by value. Kept small, since a program may have ten million: most differ from the one
/// before by place and line alone, what else was said is kept once for all that share it.
class ReadMoves {
 public:
  using value_type = ReadMove;
  void push_back(const ReadMove& move);
  [[nodiscard]] std::size_t size() const { return kept_.size(); }
  [[nodiscard]] bool empty() const { return kept_.empty(); }
  [[nodiscard]] ReadMove operator[](std::size_t i) const;
  [[nodiscard]] ReadMove front() const { return (*this)[0]; }
  [[nodiscard]] ReadMove back() const { return (*this)[size() - 1]; }
  [[nodiscard]] RowIterator<ReadMoves> begin() const { return {*this, 0}; }
  [[nodiscard]] RowIterator<ReadMoves> end() const { return {*this, size()}; }

 private:
  struct Kept {
    Vec3 to;
    std::uint32_t line;
    std::uint32_t said;  // index
  };
  struct Less {
    bool operator()(const ReadMove& a, const ReadMove& b) const;
  };
  std::deque<Kept> kept_;
  std::vector<ReadMove> said_;  // without place, centre and line
  std::map<ReadMove, std::uint32_t, Less> number_;
  std::vector<std::pair<std::size_t, Vec3>> centres_;  // of arcs, by the move's number
};

constexpr std::uint8_t tip_changed = 8;

/// Modal groups as NISTIR 6556 numbers them, as bits; those that a program states before its first motion do not hang
/// on what ran before. 16: how centres of arcs are given; 9: canned cycles ended (G80).
constexpr std::uint32_t modal_group(int number) { return 1U << number; }

/// How corners are taken, the strictest first. What is not said hangs on what ran before.
enum class PathMode : std::uint8_t { exact, blended_within, unsaid, blended };

struct ToolUse {
  int number = 0;
  int length_offset = 0;   // H of the G43 in force at its first move over the work, 0: none
  std::uint32_t line = 0;  // of its M6
  bool spindle_at_change = false;
  bool paused = false;  // M0 between the last motion before the change and the first after it
  std::size_t first_move = 0;
  std::uint32_t length_line = 0;  // of a G43 or G49 between its moves that changed the offset; 0: there is none
};

struct ReadProgram {
  Vec3 start;
  ReadMoves moves;
  std::vector<ToolUse> tools;         // in order of use; [0] is whatever is in the spindle at the start
  std::vector<std::string> comments;  // those before the first move, at most 100
  struct Pause {
    std::size_t before_move = 0;
    std::uint32_t line = 0;
    bool spindle = false;   // still turning
    bool optional = false;  // M1: a switch decides whether it stops
    std::string says = {};  // comments since the last motion, "; " between them; of very many the last
  };
  std::vector<Pause> pauses;  // M0 and M1
  struct Wait {
    Vec3 at;
    double seconds = 0;
    std::uint32_t line = 0;
  };
  std::vector<Wait> waits;                // G4 and G82 of more than a second with the spindle turning
  Wait strewn;                            // what waits come to at most between two ways up to z = 0; the last of them
  PathMode path_mode = PathMode::unsaid;  // the loosest in force while it moved over the work
  double path_tolerance = 0;              // mm, the widest P or Q of a G64 in force then
  bool exact_said = false;                // G61, anywhere
  std::uint32_t cycle_line = 0;           // of the first drilling cycle, 0: there is none
  std::uint32_t air_line = 0;             // of the first M7 or M8
  std::uint32_t stated = 0;               // modal groups stated before the first motion (10: the first cycle)
  bool ends = false;                      // M2 or M30
  bool turning_at_end = false;
  std::size_t lines = 0;
  bool sealed = false;  // carries our last line with count and checksum, and both were right
};

struct ReadOptions {
  Vec3 start{0, 0, 50};                                // where the machine is thought to stand before the first move
  std::array<std::optional<Vec3>, 6> offsets{Vec3{}};  // G54 … G59, relative to the work zero of G54
  std::size_t most_moves = 60'000'000;
  std::size_t most_cycle_moves = 2'000'000;  // that drilling cycles may be expanded to
  double dwell_unit = 1;                     // s that one P of G4 and G82 means
  /// Where the machine frame's origin lies in the work frame with a tool's tip (by T number); empty: G53 is refused.
  std::function<Vec3(int tool)> machine_origin;
};

[[nodiscard]] Expected<ReadProgram> read_program(std::string_view text, const std::string& name = "program",
                                                 const ReadOptions& options = {});

/// The arc's points from `from` (exclusive) to its end (inclusive), chords within `tolerance` mm.
void flatten_arc(Vec3 from, const ReadMove& arc, double tolerance, std::vector<Vec3>& out);

}  // namespace wren

// Reader of RS-274 programs, written independently of the writer: it shares no code with it. After NISTIR 6556 (The
// NIST RS274NGC Interpreter, Version 3): modal groups, order of execution, arcs in three planes, canned drilling
// cycles. What it does not know it refuses, with the line number. Frame: the work frame of G54, mm whatever the
// program's units.
//
// Known: G0–G4, G17–G21, G40, G49, G43 (with H), G54–G59 (others than G54 where their offset is given), G61, G64, G73,
// G80–G83, G90, G91, G90.1, G91.1, G94, G98, G99; M0–M9, M30; F S T N H P Q R L I J K X Y Z; comments ( ) and ;, %.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/plan/geometry.hpp"
#include "core/report/problem.hpp"

namespace wren {

enum class ReadKind : std::uint8_t { rapid, line, arc };
enum class Plane : std::uint8_t { xy, zx, yz };

struct ReadMove {
  Vec3 to;
  Vec3 centre;             // arcs
  float feed = 0;          // mm/min
  std::uint32_t line = 0;  // in the text, from 1
  ReadKind kind = ReadKind::rapid;
  Plane plane = Plane::xy;
  bool clockwise = false;  // seen from the plane's positive third axis
  bool spindle = false;    // turning
  std::uint16_t tool = 0;  // index into ReadProgram::tools
};

struct ToolUse {
  int number = 0;
  std::size_t first_move = 0;
  double rpm = 0;
};

struct ReadProgram {
  Vec3 start;
  std::vector<ReadMove> moves;
  std::vector<ToolUse> tools;         // in order of use; [0] is whatever is in the spindle at the start
  std::vector<std::string> comments;  // those before the first move, at most 100
  std::vector<std::size_t> pauses;    // move index before which M0 or M1 stands
  std::size_t lines = 0;
  bool sealed = false;  // carries our last line with count and checksum, and both were right
};

struct ReadOptions {
  Vec3 start{0, 0, 50};                                // where the machine is thought to stand before the first move
  std::array<std::optional<Vec3>, 6> offsets{Vec3{}};  // G54 … G59, relative to the work zero of G54
  std::size_t most_moves = 60'000'000;
};

[[nodiscard]] Expected<ReadProgram> read_program(std::string_view text, const std::string& name = "program",
                                                 const ReadOptions& options = {});

/// The arc's points from `from` (exclusive) to its end (inclusive), chords within `tolerance` mm.
void flatten_arc(Vec3 from, const ReadMove& arc, double tolerance, std::vector<Vec3>& out);

}  // namespace wren

// Programs that work on foreign files in a process of their own: with limits on processor time, wall-clock time, memory
// and output, never through a shell. A hostile file can only break that process.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/report/problem.hpp"
#include "core/report/progress.hpp"

namespace wren {

struct WalledLimits {
  int seconds = 30;                   // of the processor, and by the clock
  std::size_t memory = 2ULL << 30;    // bytes of address space
  std::size_t output = 200ULL << 20;  // bytes
};

struct WalledResult {
  std::string text;  // standard output
  std::string said;  // standard error, its beginning
  int code = -1;     // exit code; 127: not there; 128: ended by a limit
};

/// Runs a program with `input` given to it. Refused where it cannot be started, writes more than it may, or was
/// stopped.
[[nodiscard]] Expected<WalledResult> run_walled(const std::vector<std::string>& words, std::string_view input = {},
                                                const WalledLimits& limits = {}, Progress* progress = nullptr);

/// A program that stands beside this one.
[[nodiscard]] std::string program_beside(const std::string& name);

}  // namespace wren

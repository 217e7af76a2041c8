// Beginning again after a stop: only at a line that the manifest lists, only where the machine knows where it stands
// and nothing says that z, zero, cutter or holding were lost, and only with its way in proved against the wood as it
// stands.
#pragma once

#include "core/job/programs.hpp"
#include "run/preflight.hpp"
#include "run/runner.hpp"

namespace wren {

/// What a person has said since the stop.
struct RestartAnswers {
  bool same_wood = false;    // it lies where it lay, and is held
  bool same_cutter = false;  // it is whole and has not slipped
  bool z_anew = false;       // z was probed again
  bool zero_anew = false;    // and zero in x and y found again
};

struct Restart {
  std::uint32_t line = 0;  // of the program
  std::uint32_t done = 0;  // as the machine told
  std::string text;        // what is sent: beginning, way in, the rest
};

/// Refused with why, and what to do first. `last`: how the run ended; `now`: the machine's state.
[[nodiscard]] Expected<Restart> restart_of(const ProgramAtHand& program, const Run& last, const MachineState& now,
                                           const RestartAnswers& answers);

/// What is wrong with a way in, cut into the wood as it stands: all that the side's programs before it and its own
/// lines up to `done` have left. Empty: it is proved. Refused where it cannot be looked at.
[[nodiscard]] Expected<std::vector<Finding>> prove_restart(const Planned& planned,
                                                           const std::vector<PlacedProgram>& programs,
                                                           const std::string& file, const Restart& restart,
                                                           Progress* progress = nullptr);

}  // namespace wren

// Golden results: what an instrument's numbers lead to, as samples small enough to keep: the skin after cutting at 200
// places of every side, read back from program text alone, with lengths and middles of the paths; holes, outlines,
// derived numbers, remarks and minutes. Heights in whole micrometres, other lengths in 0.1 µm.
#pragma once

#include <string>
#include <vector>

#include <nlohmann/json.hpp>

#include "core/proof/rehearsal.hpp"

namespace wren::golden {

using Json = nlohmann::ordered_json;

constexpr int places = 200;

/// Heights of the wood at `places` places of the blank after the programs, work frame, µm; exact at each place: no
/// grid.
[[nodiscard]] Json skin_after(const std::vector<ProgramText>& programs, const Rack& rack, const Setup& setup);

/// Where the two differ by more than the tolerance, one sentence each; empty when they agree. `path` says where.
[[nodiscard]] std::vector<std::string> differences(const Json& kept, const Json& now);

}  // namespace wren::golden

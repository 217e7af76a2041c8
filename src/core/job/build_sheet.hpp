// The build sheet: the whole job from numbers to finished parts as one ordered list, each line with its state, its time
// and its cutter, and the one to do next. The order is the checklist.
#pragma once

#include "core/job/program_folder.hpp"

namespace wren {

/// Lines of every part in running order, then the shop's. `planned` holds what is planned, in any order; `written` what
/// lies in the programs' folder.
[[nodiscard]] std::vector<BuildLine> build_sheet(const Parts& parts, const Followed& followed, Cache& cache,
                                                 const std::vector<const Planned*>& planned,
                                                 const WrittenSets& written = {});

/// The id of the part a line of the build sheet belongs to: up to its first dot.
[[nodiscard]] std::string part_of_line(const std::string& id);

/// Whether a number stands in a line of the build sheet; many stand in more than one.
[[nodiscard]] bool belongs(const BuildLine& line, const std::string& key);

/// The ledger lines that belong to a line of the build sheet, in its order.
[[nodiscard]] std::vector<LedgerLine> lines_of(const BuildLine& line, const std::vector<LedgerLine>& ledger);

/// The build sheet line that a ledger key belongs to; empty where none.
[[nodiscard]] std::string line_for_key(const std::vector<BuildLine>& sheet, const std::string& key);

}  // namespace wren

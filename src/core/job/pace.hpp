// What runs of a cutter at a kind of cut have really taken, against what was planned: it corrects the minutes that are
// told of the next plan. Programs, proofs and manifests keep the planned ones.
#pragma once

#include "core/job/build_line.hpp"
#include "core/record/shop_book.hpp"

namespace wren {

/// All runs to their end of this cutter at this cut ("rod", "outline"), whatever else their programs cut as well;
/// nothing where there was none, or where they say nothing (no planned or no real time).
[[nodiscard]] std::optional<Pace> pace_of(const std::vector<Pace>& paces, const std::string& cutter,
                                          const std::string& cut);
/// Seconds of the lines that are cuts, by those runs; each line says how many they were.
void by_pace(std::vector<BuildLine>& lines, const std::vector<Pace>& paces);

}  // namespace wren

// What programs say to the hand that runs them, held against the project (rules M4, M7, M9): a header that tells
// another zero, a stop that asks for another cutter or that stands behind the cut it is for does as much harm as a
// wrong move.
#pragma once

#include <vector>

#include "core/job/cut_places.hpp"
#include "core/job/follow.hpp"
#include "core/program/reader.hpp"

namespace wren {

/// A program read for what it says and where it cuts, wherever the machine stands. Refused as by read_program().
[[nodiscard]] Expected<ReadProgram> read_for_words(const std::string& text, const std::string& file);

/// `cuts`: those that the program makes, as the manifest or the plan says; `side`: its placement, with z probed where
/// it is to be. Adds to `out`: `header_words` where the header leaves out or contradicts part and side, blank, zero,
/// where z is probed or a cutter; `change_words` where a stop does not ask for the cutter that comes; `stop_missing`
/// where no stop with the planned words stands before a cut that waits for a hand.
void hold_hand_words(const std::string& file, const std::vector<std::string>& cuts, const ReadProgram& read,
                     const Side& side, const Planned& planned, std::vector<Finding>& out);

/// The program's cuts in the order in which it makes them, whatever order they were told in: by the cutters that come
/// in, and where one makes several by the places that it comes to. Behind those of a cutter's turn stand other cuts of
/// the side at whose places it works as well: they may be there again, or not be the program's at all.
[[nodiscard]] std::vector<std::string> cuts_as_run(const std::vector<std::string>& cuts, const ReadProgram& read,
                                                   const Placement& placement, const CutPlaces& places,
                                                   const Rack& rack);

/// The cuts that a header of ours names: "(cutter: T5 …, for rod, rod-pocket)". Empty for others' programs.
[[nodiscard]] std::vector<std::string> told_cuts(const ReadProgram& read);

struct PlacedProgram;

/// Programs that somebody lists in the order in which they run, without a manifest: held against the project's order as
/// those of a folder are (`order`). Of a program without cuts nothing is known.
void hold_running_order(const std::vector<PlacedProgram>& listed, const Planned& planned, std::vector<Finding>& out);

}  // namespace wren

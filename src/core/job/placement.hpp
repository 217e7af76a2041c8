// Placement: one set-up on the machine with everything that is cut in it, for any part; and what all parts do alike
// with placements: make cuts with their feeds, link them into paths, write programs and manifest.
#pragma once

#include "core/job/board_cuts.hpp"
#include "core/program/manifest.hpp"

namespace wren {

/// Strands of its cuts stand in the set-up's side frame.
struct Placement {
  std::string id;  // "waste-board", "front", "back", "layer-2", "cover", …
  std::string title;
  Setup setup;
  std::vector<Cut> cuts;
  std::vector<Toolpath> paths;
  std::vector<CutFacts> facts;
  std::vector<double> path_seconds;
  double seconds = 0;
};

/// A cut with its feeds and their reason; strands come later.
[[nodiscard]] Cut begin_cut(std::string id, std::string title, const Cutter& cutter, const Feeds& feeds);
/// Appended where it has strands; its deepest tip is worked out.
void keep_cut(Placement& placement, Cut cut);
/// Paths, their times, and facts of every cut.
void link_placement(Placement& placement, const Rack& rack, const Machine& machine, double safe_above);

struct PlacedProgram {
  std::string side;  // of its placement
  ProgramFile file;
};
/// Program texts of all placements in running order, named after the part ("neck", "body"). `free_zero`: placements
/// whose zero is the corner or middle of their own blank whatever the school.
[[nodiscard]] std::vector<PlacedProgram> placed_programs(const Project& project, const Rack& rack,
                                                         const std::string& part, School school,
                                                         const std::vector<Placement>& placements,
                                                         const std::string& date);
[[nodiscard]] std::string placed_manifest(const Project& project, const Rack& rack, const std::string& part,
                                          School school, const std::vector<Placement>& placements,
                                          const std::vector<PlacedProgram>& programs, const std::string& date);
[[nodiscard]] std::vector<ProgramFile> files_of(const std::vector<PlacedProgram>& programs);
[[nodiscard]] std::vector<ProgramText> texts_of(const std::vector<PlacedProgram>& programs, const std::string& side);

}  // namespace wren

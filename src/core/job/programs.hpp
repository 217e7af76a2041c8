// Programs of a part: their texts, their manifest, and how a folder of them reads back for the proof.
#pragma once

#include <filesystem>

#include "core/job/follow.hpp"
#include "core/program/manifest.hpp"
#include "core/program/writer.hpp"

namespace wren {

struct PlacedProgram {
  std::string piece;  // of its placement
  std::string side;
  ProgramFile file;
  std::string cutter{};  // rack identity for T words that no cutter of the rack answers to
  bool sealed = true;    // one of ours: it has to carry its last line with count and checksum
};

/// What the programs of one placement tell a hand; without project, date and notice.
[[nodiscard]] ProgramHeader header_of(const std::string& part, const Side& side);

/// Program texts of all sides in running order, named after project and part. `date` is passed in ("2026-11-24");
/// `notice` heads every one of them.
[[nodiscard]] std::vector<PlacedProgram> programs_of(const Project& project, const Planned& planned,
                                                     const std::string& date, const std::string& notice = {});
[[nodiscard]] std::string manifest_of(const Project& project, const Planned& planned,
                                      const std::vector<PlacedProgram>& programs, const std::string& date);

/// A folder as it lies there, for the proof: its programs in the manifest's order, and what the manifest itself shows
/// to be wrong (rules P2, P5): files damaged or missing, an order that its precedences do not allow, cutters, frame or
/// blank that are not the project's — the project rules.
struct FolderSet {
  std::vector<PlacedProgram> programs;
  std::vector<Finding> findings;
  std::map<std::string, Setup::Probe> probes;  // by side: where the manifest has z probed
};
/// Sides are proved with z probed where the folder's manifest says.
void take_probes(const FolderSet& set, Planned& planned);
/// `folder` is the part's own, or the one above it.
[[nodiscard]] Expected<FolderSet> read_folder(const std::filesystem::path& folder, const Planned& planned);

[[nodiscard]] std::vector<ProgramText> texts_of(const std::vector<PlacedProgram>& programs, const std::string& side);

}  // namespace wren

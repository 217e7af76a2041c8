// The folder that programs are written into: below it one subfolder for each part, with the part's programs, its
// manifest and its certificate. A set is written whole beside the old one and exchanged with it in one call; a stop, a
// full disk or a kill at any moment leaves the old set. The manifest is the record of what was written.
#pragma once

#include "core/document/lock.hpp"
#include "core/job/programs.hpp"

namespace wren {

/// The subfolder of a part's own set.
[[nodiscard]] std::filesystem::path set_folder(const std::filesystem::path& folder, const std::string& part);
/// Where a part's manifest stands: in its subfolder, or in the folder itself, when that is what was named.
[[nodiscard]] std::filesystem::path folder_with_manifest(const std::filesystem::path& folder, const std::string& part);

struct WrittenFolder {
  std::filesystem::path folder;      // of the set
  std::vector<std::string> old;      // files of the set before, now in its subfolder `old`
  std::vector<std::string> carried;  // what lay there that no manifest lists: it still does
};

/// Writes a part's set. What the old manifest lists goes to the subfolder `old`; what it does not list is carried over.
/// Refused, with the old set as it was: where a foreign manifest.json stands there, something can be neither kept nor
/// carried, another program is writing (after five seconds), it was stopped, or the system says no.
[[nodiscard]] Expected<WrittenFolder> write_folder(const std::filesystem::path& folder, const std::string& part,
                                                   const std::vector<PlacedProgram>& programs,
                                                   const std::string& manifest, const std::string& certificate,
                                                   const Holder& holder, Progress* progress = nullptr);

/// What a part's subfolder says of itself.
struct WrittenSet {
  std::filesystem::path folder;
  std::string project;
  std::string date;
  std::string fingerprint;  // of the numbers it was made from
  bool proved = false;      // as its certificate says, of these very files
  std::size_t programs = 0;
  std::vector<std::string> faults;  // sentences: a file is gone, or is not what was written
};
/// By part; parts of which nothing was written are not in it.
using WrittenSets = std::map<std::string, WrittenSet>;
/// Reads every file: not for the thread of a window.
[[nodiscard]] WrittenSets read_written(const std::filesystem::path& folder, const std::vector<std::string>& parts);

}  // namespace wren

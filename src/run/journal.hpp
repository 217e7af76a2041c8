// The journal of a run: written while it runs, so that its story survives this program's own death. One record a line,
// each with its checksum; what was begun and not ended is found at the next start and goes into the shop's book as what
// it is. Replayed, it gives the same run.
#pragma once

#include <filesystem>
#include <vector>

#include "core/document/files.hpp"
#include "core/record/shop_book.hpp"

namespace wren {

class Journal {
 public:
  /// Begins a file of its own in `folder`, named after the run's id. Refused: no room, no rights, a name that is taken.
  [[nodiscard]] static Expected<Journal> begin(const std::filesystem::path& folder, const Run& run);
  /// On disk before it returns. False: it cannot be written any more; the run goes on, and its end says so.
  bool write(const RunEvent& event);
  /// How far the machine is: on disk within the second.
  bool progress(double seconds, std::uint32_t done);
  bool end(const std::string& outcome, const std::string& at, double seconds, std::uint32_t done);
  [[nodiscard]] const std::filesystem::path& file() const { return file_; }
  [[nodiscard]] bool whole() const { return whole_; }

 private:
  Journal(OpenFile out, std::filesystem::path file) : out_(std::move(out)), file_(std::move(file)) {}
  bool put(const std::string& record, bool to_disk);
  OpenFile out_;
  std::filesystem::path file_;
  double synced_ = -1e9;
  bool whole_ = true;
};

/// The run that a journal tells of. Records after the first damaged one do not count. One that was not ended has the
/// outcome "unknown" and says how far the machine had told it was. Refused where it does not even say what was run.
[[nodiscard]] Expected<Run> replay(const std::filesystem::path& file);

/// Journals in a folder that no living program is writing: their runs are written into the book, and the files go.
/// Returns those runs whose end nobody had told.
[[nodiscard]] Expected<std::vector<Run>> take_journals(const std::filesystem::path& folder, ShopBook& book);

/// Beside the shop's book.
[[nodiscard]] std::filesystem::path journal_folder(const std::filesystem::path& book);

}  // namespace wren

// Files on disk, read with a limit and written so that nothing is ever half done. Only plain files are read and
// written: devices, pipes and folders are refused.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "core/report/problem.hpp"

namespace wren {

[[nodiscard]] Expected<std::string> read_file(const std::filesystem::path& path, std::size_t most_bytes);

/// Writes beside, syncs, reads back, compares, renames: the old file stays whole until the new one is. A link stays a
/// link, a file keeps its mode and, where the system lets it, its owner; `notes` gets a sentence where it does not.
/// Refused with what the system says (read-only folder, full disk); the file beside is then removed. Files beside that
/// a killed program left in the folder are cleared away.
[[nodiscard]] Expected<void> write_file_atomically(const std::filesystem::path& path, std::string_view bytes,
                                                   std::vector<std::string>* notes = nullptr);

/// The same for what goes out in another format than a project's (a sheet, a drawing): a project that stands there is
/// not written over.
[[nodiscard]] Expected<void> write_export(const std::filesystem::path& path, std::string_view bytes);
/// Why `path` must not be written over by an export; nothing where it may.
[[nodiscard]] Expected<void> may_export_to(const std::filesystem::path& path);

/// A hidden file that belongs to `path` and stands beside it: ".NAME.SUFFIX", shortened with a mark of its own where
/// the system takes no name of that length. Links are followed: both names of a file share it.
[[nodiscard]] std::filesystem::path beside(const std::filesystem::path& path, const std::string& suffix);

/// What a path leads to once its links are followed; the path itself where it leads nowhere.
[[nodiscard]] std::filesystem::path behind_links(const std::filesystem::path& path);

/// A name nobody can guess, "0123456789abcdef".
[[nodiscard]] std::string random_name();

/// An open file or folder, closed at the end; holding it locked tells others that its maker is alive.
class OpenFile {
 public:
  explicit OpenFile(int fd = -1) : fd_(fd) {}
  OpenFile(OpenFile&& other) noexcept : fd_(other.fd_) { other.fd_ = -1; }
  OpenFile& operator=(OpenFile&& other) noexcept;
  ~OpenFile() { close(); }
  /// What the system says to closing it.
  bool close();
  [[nodiscard]] int fd() const { return fd_; }
  explicit operator bool() const { return fd_ >= 0; }
  /// Locked for this process alone; false where another has it. Let go when it is closed, or its process dies.
  [[nodiscard]] bool lock() const;

 private:
  int fd_;
};

/// Brings a folder's entries to disk; a file system that cannot do that has done all it can.
void sync_folder(const std::filesystem::path& folder);

/// Clears away what killed programs left in a folder: files and folders named as ours are while they are written, older
/// than a minute, whose maker no longer holds them.
void clear_leftovers(const std::filesystem::path& folder);
/// "x" to ".wren-RANDOM.part": the name of something that is being written.
[[nodiscard]] std::string name_while_written();

}  // namespace wren

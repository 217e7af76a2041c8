// FileLock: one writer at a time for a file. Readers never wait. The lock is a file beside it that says who holds it
// and since when; the system lets go of it when its holder dies, so that a lock left behind is taken over.
#pragma once

#include <chrono>
#include <optional>

#include "core/document/files.hpp"

namespace wren {

/// Who takes a lock: what others are told. "the window" or "wren set"; `since` is the time of day, passed in.
struct Holder {
  std::string who;
  std::string since;
};

class FileLock {
 public:
  /// Waits for another holder for at most `patience`. Refused (ProblemKind::held) with who holds it and since when, or
  /// (ProblemKind::file) where no lock can be made.
  [[nodiscard]] static Expected<FileLock> take(const std::filesystem::path& path, const Holder& holder,
                                               std::chrono::milliseconds patience);
  FileLock(FileLock&&) noexcept = default;
  FileLock& operator=(FileLock&& other) noexcept;
  ~FileLock() { release(); }
  void release();

 private:
  FileLock(OpenFile file, std::filesystem::path lock) : file_(std::move(file)), lock_(std::move(lock)) {}
  OpenFile file_;
  std::filesystem::path lock_;
};

/// How long writers wait for one another.
constexpr std::chrono::milliseconds writers_wait{5000};

}  // namespace wren

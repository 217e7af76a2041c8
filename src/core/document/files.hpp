// Files on disk, read with a limit and written so that nothing is ever half done.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "core/report/problem.hpp"

namespace wren {

[[nodiscard]] Expected<std::string> read_file(const std::filesystem::path& path, std::size_t most_bytes);

/// Writes beside, syncs, reads back, compares, renames: the old file stays whole until the new one is. Refused with
/// what the system says (read-only folder, full disk); the file beside is then removed.
[[nodiscard]] Expected<void> write_file_atomically(const std::filesystem::path& path, std::string_view bytes);

}  // namespace wren

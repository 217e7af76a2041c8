#include "core/document/files.hpp"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <unistd.h>

#include <fmt/format.h>

namespace wren {
namespace {

std::string system_says() { return std::strerror(errno); }

}  // namespace

Expected<std::string> read_file(const std::filesystem::path& path, std::size_t most) {
  std::error_code error;
  if (std::filesystem::is_directory(path, error))
    return fail(ProblemKind::file, "this is a folder, not a file", path.string(), "Name a file");
  std::ifstream in(path, std::ios::binary);
  if (!in)
    return fail(ProblemKind::file, "the file cannot be opened: " + system_says(), path.string(),
                "Check its name and your rights");
  std::string text;
  char buffer[1 << 16];
  while (in.read(buffer, sizeof buffer) || in.gcount() > 0) {
    text.append(buffer, static_cast<std::size_t>(in.gcount()));
    if (text.size() > most)
      return fail(ProblemKind::range, fmt::format("the file has more than {} bytes", most), path.string(),
                  "Check that this is the right file");
  }
  if (in.bad())
    return fail(ProblemKind::file, "the file cannot be read to its end: " + system_says(), path.string(),
                "Check the disk");
  return text;
}

Expected<void> write_file_atomically(const std::filesystem::path& path, std::string_view bytes) {
  const std::filesystem::path beside =
      path.parent_path() / fmt::format(".{}.{}.part", path.filename().string(), ::getpid());
  const auto refused = [&](const char* what, int fd) -> Expected<void> {
    const std::string why = system_says();
    if (fd >= 0) ::close(fd);
    ::unlink(beside.c_str());
    return fail(ProblemKind::file, fmt::format("{}: {}", what, why), path.string(),
                "Nothing was changed; choose another folder or make room, then try again");
  };
  const int fd = ::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (fd < 0) return refused("the file cannot be made", -1);
  std::size_t done = 0;
  while (done < bytes.size()) {
    const ssize_t n = ::write(fd, bytes.data() + done, bytes.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return refused("the file cannot be written", fd);
    done += static_cast<std::size_t>(n);
  }
  if (::fsync(fd) != 0) return refused("the file cannot be brought to disk", fd);
  if (::close(fd) != 0) return refused("the file cannot be closed", -1);
  if (const auto back = read_file(beside, bytes.size() + 1); !back || *back != bytes) {
    errno = EIO;
    return refused("what was written does not read back as it was", -1);
  }
  if (::rename(beside.c_str(), path.c_str()) != 0) return refused("the file cannot be put in its place", -1);
  // The folder's own entry too; a file system that cannot do that has done all it can.
  const std::filesystem::path folder = path.parent_path().empty() ? "." : path.parent_path();
  if (const int dir = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC); dir >= 0) {
    ::fsync(dir);
    ::close(dir);
  }
  return {};
}

}  // namespace wren

#include "core/document/lock.hpp"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>

#include <fmt/format.h>

namespace wren {
namespace {

std::string host() {
  char name[256] = {};
  return ::gethostname(name, sizeof name - 1) == 0 ? name : "this machine";
}

/// "the window since 14:32 (process 4711 on bench)"; what the file does not say is left out.
std::string told_by(int fd) {
  char text[600] = {};
  const ssize_t n = ::pread(fd, text, sizeof text - 1, 0);
  if (n <= 0) return "another program";
  std::string line(text, static_cast<std::size_t>(n));
  line = line.substr(0, line.find('\n'));
  for (char& c : line)
    if (static_cast<unsigned char>(c) < 32) c = ' ';
  return line.empty() ? "another program" : line;
}

/// False where the file that was locked is no longer the one that stands there: its holder has let go of it.
bool still_stands(int fd, const std::filesystem::path& path) {
  struct stat own {};
  struct stat there {};
  return ::fstat(fd, &own) == 0 && ::lstat(path.c_str(), &there) == 0 && own.st_ino == there.st_ino &&
         own.st_dev == there.st_dev;
}

}  // namespace

FileLock& FileLock::operator=(FileLock&& other) noexcept {
  if (this != &other) {
    release();
    file_ = std::move(other.file_);
    lock_ = std::move(other.lock_);
  }
  return *this;
}

void FileLock::release() {
  if (!file_) return;
  ::unlink(lock_.c_str());  // while it is held: nobody else's is taken away
  file_.close();
}

Expected<FileLock> FileLock::take(const std::filesystem::path& path, const Holder& holder,
                                  std::chrono::milliseconds patience) {
  const std::filesystem::path lock = beside(path, "lock");
  const auto until = std::chrono::steady_clock::now() + patience;
  for (;;) {
    OpenFile file{::open(lock.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC, 0666)};
    if (!file)
      return fail(ProblemKind::file, worded("no lock can be made beside the file: {}", std::strerror(errno)),
                  path.string(), "Check the folder and your rights");
    if (file.lock()) {
      if (!still_stands(file.fd(), lock)) continue;
      const std::string text =
          fmt::format("{} since {} (process {} on {})\n", holder.who, holder.since, ::getpid(), host());
      if (::ftruncate(file.fd(), 0) != 0 ||
          ::pwrite(file.fd(), text.data(), text.size(), 0) != static_cast<ssize_t>(text.size())) {
        // Held all the same; only its words are missing.
      }
      return FileLock(std::move(file), lock);
    }
    if (errno != EWOULDBLOCK && errno != EINTR)
      return fail(ProblemKind::file, worded("the file cannot be locked: {}", std::strerror(errno)), path.string(),
                  "Check the file system");
    if (std::chrono::steady_clock::now() >= until)
      return fail(ProblemKind::held, worded("the file is in use by {}", told_by(file.fd())), path.string(),
                  "Close it there, or save under another name");
    std::this_thread::sleep_for(std::chrono::milliseconds(25));
  }
}

}  // namespace wren

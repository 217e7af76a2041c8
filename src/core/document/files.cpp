#include "core/document/files.hpp"

#include <array>
#include <cerrno>
#include <climits>
#include <cstring>
#include <fcntl.h>
#include <functional>
#include <sys/file.h>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>

#include <fmt/format.h>

namespace wren {
namespace {

constexpr const char* unchanged = "Nothing was changed; choose another folder or make room, then try again";
constexpr std::string_view while_written_begins = ".wren-";
constexpr std::string_view while_written_ends = ".part";

std::string system_says() { return std::strerror(errno); }

std::filesystem::path folder_of(const std::filesystem::path& path) {
  return path.parent_path().empty() ? std::filesystem::path(".") : path.parent_path();
}

const char* kind_of(mode_t mode) {
  return S_ISDIR(mode)                    ? "a folder"
         : S_ISFIFO(mode)                 ? "a pipe"
         : S_ISSOCK(mode)                 ? "a socket"
         : S_ISCHR(mode) || S_ISBLK(mode) ? "a device"
                                          : "no plain file";
}

Expected<std::string> read_all(int fd, std::size_t most, const std::filesystem::path& path) {
  std::string text;
  std::array<char, 1 << 16> buffer;
  off_t at = 0;
  for (;;) {
    const ssize_t n = ::pread(fd, buffer.data(), buffer.size(), at);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0)
      return fail(ProblemKind::file, "the file cannot be read to its end: " + system_says(), path.string(),
                  "Check the disk");
    if (n == 0) return text;
    at += n;
    text.append(buffer.data(), static_cast<std::size_t>(n));
    if (text.size() > most)
      return fail(ProblemKind::range, worded("the file has more than {} bytes", most), path.string(),
                  "Check that this is the right file");
  }
}

bool write_all(int fd, std::string_view bytes) {
  std::size_t done = 0;
  while (done < bytes.size()) {
    const ssize_t n = ::write(fd, bytes.data() + done, bytes.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return false;
    done += static_cast<std::size_t>(n);
  }
  return true;
}

}  // namespace

OpenFile& OpenFile::operator=(OpenFile&& other) noexcept {
  if (this != &other) {
    close();
    fd_ = other.fd_;
    other.fd_ = -1;
  }
  return *this;
}

bool OpenFile::close() {
  const int fd = fd_;
  fd_ = -1;
  return fd < 0 || ::close(fd) == 0;
}

bool OpenFile::lock() const { return ::flock(fd_, LOCK_EX | LOCK_NB) == 0; }

std::string random_name() {
  std::array<unsigned char, 8> bytes{};
  std::size_t done = 0;
  while (done < bytes.size()) {
    const ssize_t n = ::getrandom(bytes.data() + done, bytes.size() - done, 0);
    if (n > 0) done += static_cast<std::size_t>(n);
  }
  std::string out;
  for (const unsigned char b : bytes) out += fmt::format("{:02x}", b);
  return out;
}

std::string name_while_written() {
  return std::string(while_written_begins) + random_name() + std::string(while_written_ends);
}

std::filesystem::path behind_links(const std::filesystem::path& path) {
  std::error_code error;
  std::filesystem::path out = path;
  for (int hops = 0; hops < 40 && std::filesystem::is_symlink(out, error); ++hops) {
    const std::filesystem::path next = std::filesystem::read_symlink(out, error);
    if (error) return path;
    out = next.is_absolute() ? next : folder_of(out) / next;
  }
  return std::filesystem::is_symlink(out, error) ? path : out;
}

std::filesystem::path beside(const std::filesystem::path& path, const std::string& suffix) {
  const std::filesystem::path whole = behind_links(path);
  std::string name = whole.filename().string();
  if (name.size() + suffix.size() + 2 > NAME_MAX)
    name = name.substr(0, 180) + fmt::format("-{:016x}", std::hash<std::string>{}(name));
  return whole.parent_path() / fmt::format(".{}.{}", name, suffix);
}

void sync_folder(const std::filesystem::path& folder) {
  if (const OpenFile dir{::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)}) ::fsync(dir.fd());
}

void clear_leftovers(const std::filesystem::path& folder) {
  std::error_code error;
  std::vector<std::filesystem::path> found;
  for (auto it = std::filesystem::directory_iterator(folder, error); !error && it != std::filesystem::end(it);
       it.increment(error)) {
    const std::string name = it->path().filename().string();
    if (name.starts_with(while_written_begins) && name.ends_with(while_written_ends)) found.push_back(it->path());
  }
  for (const auto& path : found) {
    const OpenFile left{::open(path.c_str(), O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC)};
    struct stat now {};
    if (!left || ::fstat(left.fd(), &now) != 0 || now.st_mtime + 60 > ::time(nullptr) || !left.lock()) continue;
    std::filesystem::remove_all(path, error);
  }
}

Expected<std::string> read_file(const std::filesystem::path& path, std::size_t most) {
  const OpenFile file{::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC)};
  if (!file)
    return fail(ProblemKind::file, "the file cannot be opened: " + system_says(), path.string(),
                "Check its name and your rights");
  struct stat now {};
  if (::fstat(file.fd(), &now) == 0 && !S_ISREG(now.st_mode))
    return fail(ProblemKind::file, worded("this is {}, not a file", kind_of(now.st_mode)), path.string(),
                "Name a file");
  return read_all(file.fd(), most, path);
}

Expected<void> write_file_atomically(const std::filesystem::path& named, std::string_view bytes,
                                     std::vector<std::string>* notes) {
  const std::filesystem::path path = behind_links(named);
  struct stat before {};
  const bool stands = ::lstat(path.c_str(), &before) == 0;
  if (stands && !S_ISREG(before.st_mode))
    return fail(ProblemKind::file, worded("this is {}, not a file", kind_of(before.st_mode)), named.string(),
                "Nothing was changed; name a file");
  clear_leftovers(folder_of(path));
  const std::string temporary = name_while_written();
  const std::filesystem::path part = folder_of(path) / temporary;
  OpenFile file;
  const auto refused = [&](const char* what, bool made = true) -> Expected<void> {
    const std::string why = system_says();
    file.close();
    if (made) ::unlink(part.c_str());
    return fail(ProblemKind::file, worded("{}: {}", what, why), named.string(), unchanged);
  };
  file = OpenFile{::open(part.c_str(), O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666)};
  if (!file) return refused("the file cannot be made", false);
  static_cast<void>(file.lock());  // says that its maker lives; a file system without locks keeps it for a minute
  if (stands) {
    struct stat own {};
    if (::fstat(file.fd(), &own) != 0) return refused("the file cannot be looked at");
    // The owner first: giving a file away takes some bits of its mode with it.
    if ((own.st_uid != before.st_uid || own.st_gid != before.st_gid) &&
        ::fchown(file.fd(), before.st_uid, before.st_gid) != 0 &&
        (own.st_uid != before.st_uid || ::fchown(file.fd(), static_cast<uid_t>(-1), before.st_gid) != 0) &&
        notes != nullptr)
      notes->push_back(
          worded("{} could not keep its owner: it belongs to whoever wrote it now.", path.filename().string()));
    if (::fchmod(file.fd(), before.st_mode & 07777) != 0 && notes != nullptr)
      notes->push_back(worded("{} could not keep its mode.", path.filename().string()));
  }
  if (!write_all(file.fd(), bytes)) return refused("the file cannot be written");
  if (::fsync(file.fd()) != 0) return refused("the file cannot be brought to disk");
  if (const auto back = read_all(file.fd(), bytes.size() + 1, path); !back || *back != bytes) {
    errno = EIO;
    return refused("what was written does not read back as it was");
  }
  if (::rename(part.c_str(), path.c_str()) != 0) return refused("the file cannot be put in its place");
  file.close();
  sync_folder(folder_of(path));
  return {};
}

Expected<void> may_export_to(const std::filesystem::path& path) {
  const auto refused = [&] {
    return fail(ProblemKind::file, "a project stands there, and this would write over it", path.string(),
                "Nothing was changed; choose another name");
  };
  if (path.extension() == ".wren") return refused();
  const OpenFile file{::open(path.c_str(), O_RDONLY | O_NONBLOCK | O_CLOEXEC)};
  std::array<char, 200> head{};
  const ssize_t n = file ? ::pread(file.fd(), head.data(), head.size(), 0) : 0;
  if (n > 0 && std::string_view(head.data(), static_cast<std::size_t>(n)).find("\"upland-wren-project\"") !=
                   std::string_view::npos)
    return refused();
  return {};
}

Expected<void> write_export(const std::filesystem::path& path, std::string_view bytes) {
  if (auto may = may_export_to(path); !may) return may;
  return write_file_atomically(path, bytes);
}

}  // namespace wren

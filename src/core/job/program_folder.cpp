#include "core/job/program_folder.hpp"

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <set>
#include <sys/stat.h>
#include <unistd.h>

#include <fmt/format.h>

#include "core/job/certificate.hpp"

namespace wren {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest_file = 512U << 20;
constexpr std::size_t largest_manifest = 64U << 20;
constexpr const char* unchanged = "Nothing was changed; make room, or choose another folder";

tl::unexpected<Problem> refused(const std::string& what, const fs::path& where, const std::string& why,
                                const char* todo = unchanged) {
  return fail(ProblemKind::file, what + ": " + why, where.string(), todo);
}

/// A folder that is being written, locked so that others see its maker alive; gone again unless it is taken.
class NewFolder {
 public:
  explicit NewFolder(const fs::path& in) : path_(in / name_while_written()) {
    if (::mkdir(path_.c_str(), 0777) != 0) return;
    lock_ = OpenFile{::open(path_.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)};
    if (lock_) static_cast<void>(lock_.lock());
  }
  NewFolder(const NewFolder&) = delete;
  NewFolder& operator=(const NewFolder&) = delete;
  ~NewFolder() {
    if (!lock_) return;
    std::error_code ignored;
    fs::remove_all(path_, ignored);
  }
  [[nodiscard]] bool made() const { return static_cast<bool>(lock_); }
  [[nodiscard]] const fs::path& path() const { return path_; }

 private:
  fs::path path_;
  OpenFile lock_;
};

/// The same file under a second name where the file system knows that, else a copy; folders with all that is in them.
bool carry(const fs::path& from, const fs::path& to, std::error_code& error) {
  const fs::file_status status = fs::symlink_status(from, error);
  if (error) return false;
  if (fs::is_directory(status)) {
    if (!fs::create_directory(to, error) && error) return false;
    for (auto it = fs::directory_iterator(from, error); !error && it != fs::end(it); it.increment(error))
      if (!carry(it->path(), to / it->path().filename(), error)) return false;
    return !error;
  }
  if (fs::is_symlink(status)) {
    fs::copy_symlink(from, to, error);
    return !error;
  }
  if (!fs::is_regular_file(status)) {
    error = std::make_error_code(std::errc::not_supported);
    return false;
  }
  if (::link(from.c_str(), to.c_str()) == 0) return true;
  return fs::copy_file(from, to, error);
}

/// Names of a part's programs (of all parts': "") that a manifest of ours lists; nothing where there is no manifest.
/// Refused where one stands there that is not ours.
Expected<std::vector<std::string>> listed(const fs::path& folder, const std::string& part) {
  const fs::path file = folder / "manifest.json";
  std::error_code error;
  std::vector<std::string> out;
  if (!fs::exists(fs::symlink_status(file, error))) return out;
  const auto text = read_file(file, largest_manifest);
  if (!text) return tl::unexpected(text.error());
  const auto entries = read_manifest(*text, file.string());
  if (!entries)
    return fail(ProblemKind::format, "a manifest.json stands there that is none of this program's, or is damaged",
                file.string(), "Nothing was changed; move it away, or choose another folder");
  for (const ManifestEntry& e : *entries)
    if ((part.empty() || e.part == part) && plain_name(e.file)) out.push_back(e.file);
  return out;
}

/// One call where the system knows it; else the nearest there is: the old set is put aside first, and comes back where
/// the new one cannot take its place.
bool exchange(const fs::path& fresh, const fs::path& place, const fs::path& in) {
  if (::renameat2(AT_FDCWD, fresh.c_str(), AT_FDCWD, place.c_str(), RENAME_EXCHANGE) == 0) return true;
  if (errno != ENOSYS && errno != EINVAL) return false;
  const fs::path aside = in / name_while_written();
  if (::rename(place.c_str(), aside.c_str()) != 0) return false;
  if (::rename(fresh.c_str(), place.c_str()) != 0) {
    const int why = errno;
    if (::rename(aside.c_str(), place.c_str()) != 0) errno = why;
    return false;
  }
  return ::rename(aside.c_str(), fresh.c_str()) == 0;
}

struct Keeping {
  const fs::path& fresh;
  WrittenFolder& out;
  std::optional<Problem> to_old(const fs::path& from) {
    std::error_code error;
    fs::create_directory(fresh / "old", error);
    const fs::path to = fresh / "old" / from.filename();
    fs::remove(to, error);
    if (!carry(from, to, error)) return refused("an older program cannot be kept", from, error.message()).value();
    out.old.push_back(from.filename().string());
    return {};
  }
};

/// Everything the old set's folder holds finds its place in the new one.
std::optional<Problem> keep_old(const fs::path& place, const std::set<std::string>& listed_there, Keeping keeping) {
  std::error_code error;
  const fs::path earlier = place / "old";
  if (fs::is_directory(fs::symlink_status(earlier, error)))
    if (!carry(earlier, keeping.fresh / "old", error))
      return refused("what lies in 'old' cannot be kept", earlier, error.message()).value();
  for (auto it = fs::directory_iterator(place, error); !error && it != fs::end(it); it.increment(error)) {
    const std::string name = it->path().filename().string();
    if (name == "old" && fs::is_directory(it->symlink_status())) continue;
    const bool ours = listed_there.contains(name);
    // A foreign file of a new program's name makes room for it as an old program does.
    if (ours || fs::exists(fs::symlink_status(keeping.fresh / name))) {
      if (auto bad = keeping.to_old(it->path())) return bad;
      continue;
    }
    std::error_code why;
    if (!carry(it->path(), keeping.fresh / name, why))
      return refused("what lies in the folder cannot be carried over", it->path(), why.message(),
                     "Nothing was changed; move it away, or choose another folder")
          .value();
    keeping.out.carried.push_back(name);
  }
  if (error) return refused("the folder cannot be read", place, error.message()).value();
  return {};
}

}  // namespace

fs::path set_folder(const fs::path& folder, const std::string& part) { return folder / part; }

fs::path folder_with_manifest(const fs::path& folder, const std::string& part) {
  std::error_code error;
  return fs::exists(set_folder(folder, part) / "manifest.json", error) ? set_folder(folder, part) : folder;
}

Expected<WrittenFolder> write_folder(const fs::path& folder, const std::string& part,
                                     const std::vector<PlacedProgram>& programs, const std::string& manifest,
                                     const std::string& certificate, const Holder& holder, Progress* progress) {
  std::error_code error;
  fs::create_directories(folder, error);
  if (error) return refused("the folder cannot be made", folder, error.message(), "Choose another folder");
  const fs::path place = behind_links(set_folder(folder, part));
  const fs::path in = place.parent_path();
  auto lock = FileLock::take(place, holder, writers_wait);
  if (!lock) return tl::unexpected(lock.error());
  clear_leftovers(in);
  const bool stands = fs::exists(fs::symlink_status(place, error));
  if (stands && !fs::is_directory(place, error))
    return fail(ProblemKind::file, "a file stands where the part's folder would", place.string(),
                "Nothing was changed; move it away, or choose another folder");
  auto names = listed(place, part);
  if (!names) return tl::unexpected(names.error());
  WrittenFolder out{place, {}, {}};
  NewFolder fresh(in);
  if (!fresh.made()) return refused("the set's folder cannot be made", in, std::strerror(errno));
  double done = 0;
  const auto write = [&](const std::string& name, const std::string& text) -> Expected<void> {
    if (progress != nullptr && !progress->go_on(done++ / static_cast<double>(programs.size() + 3), name))
      return fail(ProblemKind::stopped, "writing was stopped", folder.string(), "The programs before are as they were");
    return write_file_atomically(fresh.path() / name, text);
  };
  for (const PlacedProgram& p : programs)
    if (auto written = write(p.file.file, p.file.text); !written) return tl::unexpected(written.error());
  if (!certificate.empty())
    if (auto written = write("proof.json", certificate); !written) return tl::unexpected(written.error());
  if (auto written = write("manifest.json", manifest); !written) return tl::unexpected(written.error());

  std::set<std::string> ours(names->begin(), names->end());
  if (!ours.empty() || stands) ours.insert({"manifest.json", "proof.json"});
  const Keeping keeping{fresh.path(), out};
  if (stands)
    if (auto bad = keep_old(place, ours, keeping)) return tl::unexpected(*bad);
  // A set from before parts had folders of their own lies in the folder itself.
  std::vector<std::string> flat;
  if (auto there = listed(folder, part); there && place != folder) {
    flat = std::move(*there);
    // Its manifest and certificate go with the last part that they speak of.
    if (const auto all = listed(folder, ""); !flat.empty() && all && all->size() == flat.size())
      flat.insert(flat.end(), {"manifest.json", "proof.json"});
  }
  for (const std::string& name : flat)
    if (fs::exists(folder / name, error))
      if (auto bad = Keeping(keeping).to_old(folder / name)) return tl::unexpected(*bad);

  sync_folder(fresh.path());
  if (progress != nullptr && !progress->go_on(1, "exchanging"))
    return fail(ProblemKind::stopped, "writing was stopped", folder.string(), "The programs before are as they were");
  if (stands ? !exchange(fresh.path(), place, in) : ::rename(fresh.path().c_str(), place.c_str()) != 0)
    return refused("the new set cannot take the old one's place", place, std::strerror(errno));
  sync_folder(in);
  for (const std::string& name : flat) fs::remove(folder / name, error);
  std::sort(out.old.begin(), out.old.end());
  std::sort(out.carried.begin(), out.carried.end());
  return out;
}

WrittenSets read_written(const fs::path& folder, const std::vector<std::string>& parts) {
  WrittenSets out;
  if (folder.empty()) return out;
  for (const std::string& part : parts) {
    const fs::path place = set_folder(folder, part);
    const auto text = read_file(place / "manifest.json", largest_manifest);
    if (!text) continue;
    const auto entries = read_manifest(*text, (place / "manifest.json").string());
    if (!entries) continue;
    WrittenSet set{place, {}, {}, {}, false, 0, {}};
    const ManifestTitle title = manifest_title(*text);
    set.project = title.project;
    set.date = title.date;
    set.fingerprint = title.fingerprint;
    for (const ManifestEntry& e : *entries) {
      ++set.programs;
      const auto program = plain_name(e.file) ? read_file(place / e.file, largest_file)
                                              : fail(ProblemKind::format, "outside its folder", e.file);
      if (!program)
        set.faults.push_back(worded("{} is gone.", e.file));
      else if (sha256_hex(*program) != e.sha256)
        set.faults.push_back(worded("{} is not what was written.", e.file));
    }
    if (const auto check = check_folder(place)) set.proved = check->passed();
    out.emplace(part, std::move(set));
  }
  return out;
}

}  // namespace wren

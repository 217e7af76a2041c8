#include "core/document/document.hpp"

#include "core/document/picture_files.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "core/program/manifest.hpp"

namespace wren {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t most_bytes = 64U << 20;
constexpr const char* unnamed_begins = "unnamed-";

/// Of the bytes that stand in a file; empty where there is none.
std::string hash_of(const fs::path& path) {
  const auto bytes = read_file(path, most_bytes);
  return bytes ? sha256_hex(*bytes) : std::string();
}

bool same_file(const fs::path& a, const fs::path& b) {
  return !a.empty() && !b.empty() && fs::absolute(behind_links(a)) == fs::absolute(behind_links(b));
}

}  // namespace

Document::Document(const FieldBook& book, Project start, fs::path home)
    : book_(book), history_(std::move(start)), home_(std::move(home)) {}

void Document::let_go() {
  discard_autosave();
  lock_.reset();
  held_.reset();
  path_.clear();
  disk_.clear();
}

Expected<void> Document::open(const fs::path& path, const Holder& holder, std::chrono::milliseconds patience,
                              std::vector<std::string>* notes) {
  const fs::path whole = fs::absolute(path);
  std::optional<FileLock> lock;
  std::optional<Problem> held;
  if (lock_ && same_file(whole, path_)) {
    lock = std::move(lock_);
    lock_.reset();
  } else if (auto taken = FileLock::take(whole, holder, patience)) {
    lock = std::move(*taken);
  } else {
    // Reading asks nobody; a folder that takes no lock takes no file either, which saving will say.
    held = taken.error();
  }
  const auto give_back = [&] {
    if (same_file(whole, path_)) lock_ = std::move(lock);
  };
  const auto bytes = read_file(whole, largest_project);
  if (!bytes) {
    give_back();
    return tl::unexpected(bytes.error());
  }
  auto project = project_from_json(book_, *bytes, whole.filename().string(), notes);
  if (!project) {
    give_back();
    return tl::unexpected(project.error());
  }
  // What the file's own unsaved work is stays: it is asked for next.
  if (same_file(whole, path_)) autosave_.clear();
  let_go();
  lock_ = std::move(lock);
  held_ = std::move(held);
  path_ = whole;
  disk_ = sha256_hex(*bytes);
  history_ = History(std::move(*project));
  autosaved_ = history_.revision();
  return {};
}

void Document::replace(Project project) {
  let_go();
  history_ = History(std::move(project));
  autosaved_ = history_.revision();
}

void Document::restore(const LostWork& lost) {
  history_.change(lost.project, "Restore unsaved work");
  if (lost.file.empty())
    put_aside(lost);
  else
    autosave_ = lost.autosave;
}

Expected<void> Document::restore_over(const LostWork& lost, const Holder& holder) {
  auto lock = FileLock::take(lost.file, holder, {});
  if (!lock) return tl::unexpected(lock.error());
  let_go();
  lock_ = std::move(*lock);
  path_ = lost.file;
  disk_ = hash_of(path_);
  history_ = History(Project());
  history_.change(lost.project, "Restore unsaved work");
  autosave_ = lost.autosave;
  return {};
}

Expected<void> Document::save(const fs::path& path, const Holder& holder, Over over, std::vector<std::string>* notes) {
  const fs::path whole = fs::absolute(path);
  const bool own = same_file(whole, path_);
  std::optional<FileLock> lock;
  if (!own || !lock_) {
    auto taken = FileLock::take(whole, holder, own ? std::chrono::milliseconds{} : writers_wait);
    if (!taken && taken.error().kind == ProblemKind::held) return tl::unexpected(taken.error());
    if (taken) lock = std::move(*taken);
  }
  // The name is the maker's choice; what stands under the document's own name must be what it was read from.
  if (const std::string there = hash_of(whole); own && !there.empty() && there != disk_) {
    if (over == Over::ask)
      return fail(ProblemKind::changed, "the file was changed by another program since it was opened", whole.string(),
                  "Look at what differs; save over it, or under another name");
    if (const auto theirs = read_file(whole, most_bytes))
      if (auto kept = write_file_atomically(behind_links(whole).string() + ".bak", *theirs); !kept) return kept;
  }
  if (auto saved = save_project(book_, whole, project(), notes); !saved) return saved;
  // Pictures behind drawings stand beside the file: under another name they come along.
  std::vector<std::string> gone;
  carry_pictures(path_, whole, project().pictures, notes != nullptr ? *notes : gone);
  discard_autosave();
  if (lock) lock_ = std::move(*lock);
  held_.reset();
  path_ = whole;
  disk_ = hash_of(whole);
  history_.mark_saved();
  return {};
}

std::optional<Project> Document::on_disk() const {
  auto there = load_project(book_, path_);
  return there ? std::optional(std::move(*there)) : std::nullopt;
}

fs::path Document::autosave_place() {
  if (!path_.empty() && lock_) return beside(path_, "autosave");
  if (!autosave_.empty() && autosave_lock_) return autosave_;
  std::error_code error;
  if (home_.empty()) return {};
  fs::create_directories(home_, error);
  // Nobody else can come upon this name; the lock says that its document is alive.
  const fs::path place = home_ / (unnamed_begins + random_name() + ".autosave");
  auto lock = FileLock::take(place, {"a window", "now"}, {});
  if (!lock) return {};
  autosave_lock_ = std::move(*lock);
  return place;
}

std::optional<Document::Unkept> Document::unkept() {
  if (!history_.modified() || autosaved_ == history_.revision()) return {};
  const fs::path place = autosave_place();
  if (place.empty()) return {};
  return Unkept{project(), place, history_.revision(), place != autosave_};
}

Expected<void> Document::keep(const FieldBook& book, const Unkept& work) {
  // Unsaved work of an earlier run that nobody was asked about yet is not written over.
  std::error_code error;
  if (work.others && fs::exists(work.place, error)) fs::rename(work.place, work.place.string() + ".bak", error);
  if (auto kept = save_project(book, work.place, work.project); !kept) return tl::unexpected(kept.error());
  return {};
}

void Document::kept(const Unkept& work) {
  autosave_ = work.place;
  autosaved_ = work.revision;
}

Expected<void> Document::autosave() {
  const auto work = unkept();
  if (!work) return {};
  if (auto done = keep(book_, *work); !done) return done;
  kept(*work);
  return {};
}

void Document::discard_autosave() {
  std::error_code ignored;
  if (!autosave_.empty()) fs::remove(autosave_, ignored);
  autosave_.clear();
  autosave_lock_.reset();
  autosaved_ = 0;
}

std::optional<LostWork> lost_work(const FieldBook& book, const fs::path& file) {
  const fs::path whole = fs::absolute(file);
  const fs::path autosave = beside(whole, "autosave");
  std::error_code error;
  if (!fs::exists(autosave, error)) return {};
  auto kept = load_project(book, autosave);
  if (!kept) return {};
  if (const auto saved = load_project(book, whole); saved && *saved == *kept) return {};
  return LostWork{std::move(*kept), autosave, whole};
}

std::vector<LostWork> lost_work_in(const FieldBook& book, const fs::path& home) {
  // First the names: locks come and go in the folder while they are looked at.
  std::vector<fs::path> found;
  std::error_code error;
  for (auto it = fs::directory_iterator(home, error); !error && it != fs::end(it); it.increment(error)) {
    const std::string name = it->path().filename().string();
    if (name.starts_with(unnamed_begins) && name.ends_with(".autosave")) found.push_back(it->path());
  }
  std::sort(found.begin(), found.end());
  std::vector<LostWork> out;
  for (const fs::path& one : found) {
    if (!FileLock::take(one, {"a window", "now"}, {})) continue;  // its window is alive
    if (auto kept = load_project(book, one)) out.push_back({std::move(*kept), one, {}});
  }
  return out;
}

void put_aside(const LostWork& lost) {
  std::error_code ignored;
  fs::rename(lost.autosave, lost.autosave.string() + ".bak", ignored);
}

}  // namespace wren

// Document: an open project without a widget: its file, the lock on it, its history, and the unsaved work kept between
// saves. A window and a command work on a file through this one class, so that neither can lose what the other wrote.
#pragma once

#include "core/document/history.hpp"
#include "core/document/lock.hpp"
#include "core/document/project_file.hpp"

namespace wren {

/// Unsaved work of a program that did not end well.
struct LostWork {
  Project project;
  std::filesystem::path autosave;
  std::filesystem::path file;  // it belongs to; empty: it never had one
};

class Document {
 public:
  /// A project without a file. `home` is where unsaved work without a file of its own is kept; empty: nowhere.
  Document(const FieldBook& book, Project start, std::filesystem::path home = {});

  [[nodiscard]] const Project& project() const { return history_.now(); }
  [[nodiscard]] const History& history() const { return history_; }
  [[nodiscard]] History& history() { return history_; }
  /// Absolute; empty where the project has no file yet.
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  /// Who has the file in use, where this document only looks at it.
  [[nodiscard]] const std::optional<Problem>& held_by() const { return held_; }

  /// Opens a file, to write where nobody else has it in use within `patience`, else to look at (see held_by).
  /// Refused, with the document as it was, where it cannot be read.
  [[nodiscard]] Expected<void> open(const std::filesystem::path& path, const Holder& holder,
                                    std::chrono::milliseconds patience, std::vector<std::string>* notes = nullptr);
  /// A new project, without a file; what was unsaved of the old one is let go.
  void replace(Project project);
  /// Unsaved work as the first edit of what is open; or, where its file is damaged, in its place: saving then keeps the
  /// damaged file beside as ".bak".
  void restore(const LostWork& lost);
  [[nodiscard]] Expected<void> restore_over(const LostWork& lost, const Holder& holder);

  enum class Over { ask, theirs };
  /// Refused where another has the file in use (ProblemKind::held), where it is no longer what was read or saved
  /// (ProblemKind::changed; `Over::theirs` keeps that one beside as ".bak" and goes on), or where it cannot be written.
  [[nodiscard]] Expected<void> save(const std::filesystem::path& path, const Holder& holder, Over over = Over::ask,
                                    std::vector<std::string>* notes = nullptr);
  /// What stands in the file now; nothing where it cannot be read.
  [[nodiscard]] std::optional<Project> on_disk() const;

  /// Keeps unsaved work, where there is any that is not kept yet.
  [[nodiscard]] Expected<void> autosave();
  /// The same in three steps, of which the middle one may be done on another thread: what is to be kept, if anything;
  /// its writing; and that it is written. Between them this document is neither saved, opened, replaced nor let go.
  struct Unkept {
    Project project;
    std::filesystem::path place;
    std::uint64_t revision = 0;
    bool others = false;  // what stands there is unsaved work that nobody was asked about yet
  };
  [[nodiscard]] std::optional<Unkept> unkept();
  [[nodiscard]] static Expected<void> keep(const FieldBook& book, const Unkept& work);
  void kept(const Unkept& work);
  /// Lets unsaved work go: it was saved, or is not wanted.
  void discard_autosave();

 private:
  [[nodiscard]] std::filesystem::path autosave_place();
  void let_go();

  const FieldBook& book_;
  History history_;
  std::filesystem::path home_;
  std::filesystem::path path_;
  std::optional<FileLock> lock_;
  std::optional<Problem> held_;
  std::string disk_;                       // hash of what was last read from the file or written to it
  std::filesystem::path autosave_;         // that stands now
  std::optional<FileLock> autosave_lock_;  // of one without a file: says that this document is alive
  std::uint64_t autosaved_ = 0;
};

/// Unsaved work that belongs to a file, whether or not the file itself can be read. Nothing where it is the same as the
/// file. Precondition: nobody is at work on the file.
[[nodiscard]] std::optional<LostWork> lost_work(const FieldBook& book, const std::filesystem::path& file);
/// Unsaved work that has no file, of programs that are gone.
[[nodiscard]] std::vector<LostWork> lost_work_in(const FieldBook& book, const std::filesystem::path& home);
/// It is not asked for again, and still lies there under another name.
void put_aside(const LostWork& lost);

}  // namespace wren

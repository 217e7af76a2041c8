// Workbench: the open project and everything that follows from it, kept up to date, part by part in one way. The window
// shows it and sends edits; no other copy of the truth exists. Designs and remarks follow at once; cuts, programs and
// proofs follow from worker threads.
#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <optional>

#include <QObject>
#include <QTimer>

#include "app/task.hpp"
#include "core/document/history.hpp"
#include "core/job/build_sheet.hpp"
#include "core/job/prove.hpp"
#include "core/parts/table.hpp"

namespace wren::app {

class Workbench : public QObject {
  Q_OBJECT
 public:
  explicit Workbench(Project project, const Parts& parts = all_parts(), QObject* parent = nullptr);
  ~Workbench() override;

  [[nodiscard]] const Parts& parts() const { return parts_; }
  [[nodiscard]] const Project& project() const { return history_.now(); }
  [[nodiscard]] const History& history() const { return history_; }
  /// Designs of the present numbers, and why some do not follow.
  [[nodiscard]] const Followed& followed() const { return *followed_; }
  [[nodiscard]] Cache& cache() const { return *cache_; }
  /// The shape of the part that T::part names; null when none follows from the numbers (then problem(part) says why).
  template <class T>
  [[nodiscard]] std::shared_ptr<const T> shape() const {
    return followed_->designs.find(T::part) ? followed_->designs.shared<T>() : nullptr;
  }
  [[nodiscard]] const Problem* problem(const std::string& part) const;
  /// Pieces and cuts of the present numbers; null while they are planned.
  [[nodiscard]] std::shared_ptr<const Planned> planned(const std::string& part) const { return state(part).planned; }
  /// The same, or the last there were.
  [[nodiscard]] std::shared_ptr<const Planned> shown(const std::string& part) const;
  [[nodiscard]] std::shared_ptr<const PartProof> proof(const std::string& part) const { return state(part).proof; }
  /// The part that is being worked on: remarks, rehearsal, programs and sheets are its own.
  [[nodiscard]] const std::string& part() const { return part_; }
  [[nodiscard]] const PartKind& kind() const { return *parts_.find(part_); }
  void set_part(const std::string& part);

  [[nodiscard]] UnitSystem units() const { return units_; }
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] std::vector<Remark> remarks() const;
  [[nodiscard]] std::vector<BuildLine> sheet() const { return build_sheet(parts_, *followed_, *cache_, all_shown()); }
  [[nodiscard]] std::vector<LedgerLine> ledger_lines() const {
    return ledger(parts_, *followed_, *cache_, all_shown());
  }
  [[nodiscard]] bool proving() const { return prove_.busy(); }

  /// One edit by ledger key and field text; the Problem when it is refused. `mark` joins edits of one gesture into one
  /// step.
  std::optional<Problem> edit(const std::string& key, const std::string& text, const std::string& mark = {});
  std::optional<Problem> edit(const std::vector<std::pair<std::string, std::string>>& edits, const std::string& name,
                              const std::string& mark = {}, bool mm = false);
  /// A change of what has no field (a drawn outline, measured sections). Refused, and nothing is taken, where the
  /// part's design would not follow from it.
  std::optional<Problem> change_part(const std::string& part, const std::function<void(Project&)>& change,
                                     const std::string& name, const std::string& mark = {});
  void settle() { history_.settle(); }
  /// Takes back what the gesture under way has changed; nothing where it has changed nothing yet.
  void give_up();
  void undo();
  void redo();
  void set_units(UnitSystem units);
  /// `kind` of record: the id of the cut's line.
  void mark_cut(const std::string& kind);

  std::optional<Problem> open(const std::filesystem::path& path);
  std::optional<Problem> save(const std::filesystem::path& path);
  void replace(Project project, std::filesystem::path path);
  void recover(Project project);

  void prove_all();
  void cancel_proof();
  void write_programs(const std::filesystem::path& folder);
  void cancel_writing() { write_.cancel(); }
  /// `what`: "programs", "proof", "sheet" of a part.
  void note_written(const std::string& part, const std::string& what, const std::string& path);
  [[nodiscard]] static std::string today();

 Q_SIGNALS:
  void changed();      // project, designs, remarks
  void planned_now();  // cuts are there
  void proved();       // a proof came in, or was cancelled
  void progress(double share, QString phase);
  void said(QString text, bool bad);
  void written(QString folder);
  void opened();

 private:
  struct State {
    std::shared_ptr<const Planned> planned, last;
    std::shared_ptr<const PartProof> proof;
    std::unique_ptr<Task<std::shared_ptr<const Expected<Planned>>>> plan;
  };
  [[nodiscard]] const State& state(const std::string& part) const { return states_.at(part); }
  [[nodiscard]] std::vector<const Planned*> all_shown() const;
  void follow_numbers();
  void plan_part(const std::string& part);
  void change(Project next, const std::string& name, const std::string& mark);
  void autosave();

  const Parts& parts_;
  std::shared_ptr<Cache> cache_ = std::make_shared<Cache>();
  History history_;
  std::filesystem::path path_;
  UnitSystem units_ = UnitSystem::millimetre;
  std::shared_ptr<const Followed> followed_;
  std::map<std::string, State> states_;
  std::string part_;
  Task<Expected<PartProof>> prove_{this};
  Task<Expected<void>> write_{this};
  QTimer autosave_timer_;
};

}  // namespace wren::app

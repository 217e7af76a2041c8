// Workbench: the open project and everything that follows from it, kept up to date, part by part in one way. The window
// shows it and sends edits; no other copy of the truth exists. Designs and remarks follow at once; cuts, programs and
// proofs follow from worker threads.
#pragma once

#include <deque>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>

#include <QFileSystemWatcher>
#include <QObject>
#include <QTimer>

#include "app/task.hpp"
#include "core/document/document.hpp"
#include "core/job/overview.hpp"
#include "core/job/pace.hpp"
#include "core/job/prove.hpp"
#include "core/parts/table.hpp"

namespace wren::app {

class Workbench : public QObject {
  Q_OBJECT
 public:
  /// What it begins with: a project, and what follows from its numbers where that was made before there was a window.
  struct Start {
    Start(Project p) : project(std::move(p)) {}  // NOLINT: a project is a start
    Start(const Parts& parts, Project p) : project(std::move(p)) {
      followed = std::make_shared<const Followed>(follow(parts, project, *cache));
    }
    Project project;
    std::shared_ptr<Cache> cache = std::make_shared<Cache>();
    std::shared_ptr<const Followed> followed;
  };
  /// `home`: where unsaved work without a file of its own is kept; empty: nowhere.
  explicit Workbench(Start start, const Parts& parts = all_parts(), std::filesystem::path home = {},
                     QObject* parent = nullptr);
  ~Workbench() override;

  [[nodiscard]] const Parts& parts() const { return parts_; }
  [[nodiscard]] const Project& project() const { return document_.project(); }
  [[nodiscard]] const History& history() const { return document_.history(); }
  /// Who else has the file in use: it is only looked at, and saving asks for another name.
  [[nodiscard]] const std::optional<Problem>& held_by() const { return document_.held_by(); }
  /// Designs of the present numbers, and why some do not follow.
  [[nodiscard]] const Followed& followed() const { return *followed_; }
  /// The same, to be kept while it is worked from beside the window.
  [[nodiscard]] std::shared_ptr<const Followed> followed_now() const { return followed_; }
  [[nodiscard]] Cache& cache() const { return *cache_; }
  [[nodiscard]] std::shared_ptr<Cache> cache_now() const { return cache_; }
  /// The shape of the part that T::part names; null when none follows from the numbers (then problem(part) says why).
  template <class T>
  [[nodiscard]] std::shared_ptr<const T> shape() const {
    return followed_->designs.find(T::part) ? followed_->designs.shared<T>() : nullptr;
  }
  /// The same, of a number that was typed or is dragged, as soon as it is there: before everything else that follows
  /// from it, and before project() has the number. For a part's own picture.
  template <class T>
  [[nodiscard]] std::shared_ptr<const T> newest() const {
    return ahead_.find(T::part) ? ahead_.shared<T>() : shape<T>();
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
  [[nodiscard]] const std::filesystem::path& path() const { return document_.path(); }
  [[nodiscard]] std::vector<Remark> remarks() const;
  /// Worked out once for what is known now, however many views ask.
  [[nodiscard]] std::vector<BuildLine> sheet() const;
  [[nodiscard]] std::vector<LedgerLine> ledger_lines() const;
  [[nodiscard]] Overview overview() const;
  /// What a number was before, the newest first: its text in the units shown and the step that changed it.
  struct Before {
    QString text;
    QString step;
  };
  [[nodiscard]] std::vector<Before> history_of(const std::string& key) const;
  /// A problem for a reader of the window: no key of the file format in it, the number's name in its place.
  [[nodiscard]] QString words(const Problem& problem) const;
  [[nodiscard]] bool proving() const { return prove_.busy(); }

  /// One edit by ledger key and field text; the Problem when it is refused. `mark` joins edits of one gesture into one
  /// step.
  std::optional<Problem> edit(const std::string& key, const std::string& text, const std::string& mark = {});
  std::optional<Problem> edit(const std::vector<std::pair<std::string, std::string>>& edits, const Words& name,
                              const std::string& mark = {}, bool mm = false);
  /// A number typed by hand, as `edit`; but what follows from it is made beside the window. It is refused at once, or
  /// there with what follows a moment later; whatever asks for the project's numbers as a whole (saving, another edit
  /// by a button, a rehearsal, settle()) waits for it. Numbers typed one after another are a step each.
  std::optional<Problem> type(const std::string& key, const std::string& text);
  /// The same of several numbers in one step: a repair, what was measured, a piece of hardware. `mm`: the texts are in
  /// millimetres, whatever units are shown.
  std::optional<Problem> type(const std::vector<std::pair<std::string, std::string>>& edits, const Words& name,
                              bool mm = false);
  /// True while what follows from this typed number is still being made.
  [[nodiscard]] bool awaits(const std::string& key) const;
  /// A change of what has no field (a drawn outline, measured sections). Refused, and nothing is taken, where the
  /// part's design would not follow from it.
  std::optional<Problem> change_part(const std::string& part, const std::function<void(Project&)>& change,
                                     const Words& name, const std::string& mark = {});
  std::optional<Problem> change_materials(Materials materials, const Words& name);
  std::optional<Problem> change_pictures(std::vector<PlacedPicture> pictures, const Words& name,
                                         const std::string& mark = {});
  std::optional<Problem> change_rack(Rack rack, const Words& name);
  std::optional<Problem> change_machine(Machine machine, const Words& name);
  /// Remarks about what stands beside the project (the shop's rack), added to its own.
  void set_more_remarks(std::vector<Remark> remarks);
  /// What runs have really taken: corrects the minutes that the sheet tells.
  void set_paces(std::vector<Pace> paces);
  /// An edit of a gesture under way, in millimetres, joined with the others of its mark. Its designs are made beside
  /// the window; while they are, only the newest waits, and what is older than it is never made. The numbers and what
  /// follows from them change together, when it is there; settle() takes the newest at once. Refused at once where a
  /// number cannot be.
  std::optional<Problem> drag(const std::vector<std::pair<std::string, std::string>>& edits, const Words& name,
                              const std::string& mark);
  /// What was typed or dragged and is still being made is there when this returns.
  void catch_up();
  /// The gesture is over: what it, or the hand, asked for last is there when this returns.
  void settle();
  /// Takes back what the gesture under way has changed; nothing where it has changed nothing yet.
  void give_up();
  void undo();
  void redo();
  void set_units(UnitSystem units);
  /// `kind` of record: the id of the cut's line.
  void mark_cut(const std::string& kind);
  /// The piece begins again from a new blank; what must be made again, or the Problem.
  [[nodiscard]] Expected<NewBlank> begin_anew(const Planned& planned, const std::string& piece);

  std::optional<Problem> open(const std::filesystem::path& path);
  /// Held by another, changed on disk (`over` then decides), or not to be written: the Problem.
  std::optional<Problem> save(const std::filesystem::path& path, Document::Over over = Document::Over::ask);
  void replace(Project project);
  /// What another program has made of the file since it was opened, number by number.
  [[nodiscard]] std::vector<Difference> differs_on_disk() const;
  /// Unsaved work of a program that did not end well; where `in_its_place`, the file itself cannot be opened.
  std::optional<Problem> restore(const LostWork& lost, bool in_its_place);
  /// Unsaved changes are not wanted.
  void let_go() {
    keep_.finish();
    document_.discard_autosave();
  }

  /// Why the part has no programs, rehearsal or sheet now; nothing where it has.
  [[nodiscard]] std::optional<Problem> not_ready() const;
  /// The same, or what stops the work: no program is written then.
  [[nodiscard]] std::optional<Problem> stops_writing() const;
  void prove_all();
  void cancel_proof();
  void write_programs(const std::filesystem::path& folder);
  void cancel_writing() { write_.cancel(); }
  /// "PART.proof", "PART.sheet": happened with the numbers as they are. Never undone; a saved project stays saved.
  void note(const std::string& what);
  /// Where the programs lie; what they are is read from there.
  void set_folder(const std::string& folder);
  [[nodiscard]] const WrittenSets& written_sets() const { return written_; }
  [[nodiscard]] static std::string today();

 Q_SIGNALS:
  void changed();                            // project, designs, remarks
  void planned_now();                        // cuts are there
  void came_ahead(const std::string& part);  // newest() has another design of this part
  void proved();                             // a proof came in, or was cancelled
  void progress(double share, QString phase);
  void said(QString text, bool bad);
  void written(QString folder);
  void opened();
  /// A repair that is no edit of the project: "shop.keep", a cutter.
  void shop_asked(QString what, QString which);

 private:
  struct State {
    std::shared_ptr<const Planned> planned, last;
    std::shared_ptr<const PartProof> proof;
    std::optional<Problem> failed;  // why planning gave nothing
    std::unique_ptr<Task<std::shared_ptr<const Expected<Planned>>>> plan;
  };
  [[nodiscard]] const State& state(const std::string& part) const { return states_.at(part); }
  [[nodiscard]] std::vector<const Planned*> all_shown() const;
  void follow_numbers();
  /// What followed from these numbers lately; nothing where that is not known any more.
  [[nodiscard]] std::shared_ptr<const Followed> known(const Project& project) const;
  void take_followed(std::shared_ptr<const Followed> followed, bool plan);
  void follow_asked();
  /// Plans what nobody has asked for yet, one part after another, while nothing else is to be done.
  void plan_rest();
  void plan_part(const std::string& part);
  /// `followed`: what follows from it, where that is known already.
  void change(Project next, const Words& name, const std::string& mark, std::shared_ptr<const Followed> followed = {});
  void autosave_soon();
  void autosave();
  void take_record(Record record);
  void look_at_folder();
  [[nodiscard]] static Holder holder();

  const Parts& parts_;
  std::shared_ptr<Cache> cache_;
  Document document_;
  UnitSystem units_ = UnitSystem::millimetre;
  std::shared_ptr<const Followed> followed_;
  std::deque<std::shared_ptr<const Followed>> lately_;  // the newest first: undo and redo mostly lead back to these
  struct Worked {
    std::optional<std::vector<BuildLine>> sheet;
    std::optional<std::vector<LedgerLine>> ledger;
    std::optional<Overview> overview;
  };
  mutable Worked worked_;  // forgotten with every signal that something is new
  struct Asked {
    Project next;
    Words name;
    std::string mark;
    std::vector<std::string> typed;  // the keys of typed numbers; none: dragged
  };
  [[nodiscard]] const Project& newest_numbers() const;
  void ask(Asked asked);
  /// True where they changed something.
  bool take_steps(std::vector<Asked> steps);
  std::vector<Asked> asked_;      // steps in their order, not begun yet: of a gesture only the newest
  std::vector<Asked> under_way_;  // steps whose designs are being made, of the last of them
  std::uint64_t asked_serial_ = 0;
  Designs ahead_;           // designs of what is under way
  bool unplanned_ = false;  // a gesture has changed numbers whose cuts nobody plans until it is over
  Task<std::shared_ptr<const Followed>> follow_{this, Urgency::in_hand};
  std::map<std::string, State> states_;
  std::string part_;
  std::vector<Pace> paces_;
  std::vector<Remark> more_remarks_;
  Task<Expected<void>> keep_{
      this, Urgency::ahead};  // of unsaved work; finished before the document is saved, opened or let go
  Task<Expected<PartProof>> prove_{this};
  Task<Expected<WrittenFolder>> write_{this};
  WrittenSets written_;
  Task<std::shared_ptr<const WrittenSets>> look_{this, Urgency::ahead};
  QFileSystemWatcher watcher_;
  QTimer look_timer_;
  QTimer autosave_timer_;
  QTimer rest_timer_;
};

}  // namespace wren::app

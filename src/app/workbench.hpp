// Workbench: the open project and everything that follows from it, kept up to date. The window shows it and sends
// edits; no other copy of the truth exists. Design and remarks follow at once; cuts, programs and proof follow from
// worker threads.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>

#include <QObject>
#include <QTimer>

#include "app/task.hpp"
#include "core/document/history.hpp"
#include "core/job/board_programs.hpp"
#include "core/job/build_sheet.hpp"
#include "core/job/body_cuts.hpp"
#include "core/job/neck_cuts.hpp"
#include "exchange/plan_in.hpp"

namespace wren::app {

class Workbench : public QObject {
  Q_OBJECT
 public:
  explicit Workbench(Project project, QObject* parent = nullptr);
  ~Workbench() override;

  [[nodiscard]] const Project& project() const { return history_.now(); }
  [[nodiscard]] const History& history() const { return history_; }
  /// Of the present numbers; null when no board follows from them (then problem() says why).
  [[nodiscard]] std::shared_ptr<const BoardDesign> design() const { return design_; }
  [[nodiscard]] const std::optional<Problem>& problem() const { return problem_; }
  /// Of the present numbers; null while they are planned.
  [[nodiscard]] std::shared_ptr<const BoardCuts> cuts() const { return cuts_; }
  [[nodiscard]] std::shared_ptr<const ProofResult> proof() const { return proof_; }
  [[nodiscard]] UnitSystem units() const { return units_; }
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }
  [[nodiscard]] std::vector<Remark> remarks() const;
  /// The part that is being worked on: remarks, rehearsal, programs and sheets are its own.
  [[nodiscard]] Part part() const { return part_; }
  void set_part(Part part);
  /// The neck of the present numbers; null when none follows from them (then neck_problem() says why).
  [[nodiscard]] std::shared_ptr<const NeckDesign> neck() const { return neck_; }
  [[nodiscard]] const std::optional<Problem>& neck_problem() const { return neck_problem_; }
  /// Null while they are planned; they are planned only while the neck is worked on.
  [[nodiscard]] std::shared_ptr<const NeckCuts> neck_cuts() const { return neck_cuts_; }
  [[nodiscard]] std::shared_ptr<const PieceResult> neck_proof() const { return neck_proof_; }
  /// The body of the present numbers; null when none follows from them (then body_problem() says why).
  [[nodiscard]] std::shared_ptr<const BodyDesign> body() const { return body_; }
  [[nodiscard]] const std::optional<Problem>& body_problem() const { return body_problem_; }
  /// Null while they are planned; they are planned only while the body is worked on.
  [[nodiscard]] std::shared_ptr<const BodyCuts> body_cuts() const { return body_cuts_; }
  [[nodiscard]] std::shared_ptr<const BodyProof> body_proof() const { return body_proof_; }
  [[nodiscard]] std::vector<BuildLine> sheet() const {
    return build_sheet(project(), design_.get(), cuts_.get(), neck_.get(), shown_neck_cuts(), body_.get(),
                       shown_body_cuts());
  }
  [[nodiscard]] std::vector<LedgerLine> ledger_lines() const {
    return ledger(project(), design_.get(), cuts_.get(), neck_.get(), shown_neck_cuts(), body_.get(),
                  shown_body_cuts());
  }
  [[nodiscard]] bool proving() const { return prove_.busy() || neck_prove_.busy() || body_prove_.busy(); }
  /// Design and cuts of the part that is worked on are there, or its proof.
  [[nodiscard]] bool part_planned() const {
    return part_ == Part::body ? body_ && body_cuts_ : part_ == Part::neck ? neck_ && neck_cuts_ : design_ && cuts_;
  }
  [[nodiscard]] bool part_proved() const {
    return part_ == Part::body   ? body_proof_ != nullptr
           : part_ == Part::neck ? neck_proof_ != nullptr
                                 : proof_ != nullptr;
  }

  /// One edit by ledger key and field text; the Problem when it is refused. `mark` joins edits of one gesture into one
  /// step.
  std::optional<Problem> edit(const std::string& key, const std::string& text, const std::string& mark = {});
  std::optional<Problem> edit(const std::vector<std::pair<std::string, std::string>>& edits, const std::string& name,
                              const std::string& mark = {}, bool mm = false);
  void settle() { history_.settle(); }
  void undo();
  void redo();
  void set_units(UnitSystem units);
  /// `kind` of record: "cut:ID" for the board, "neckcut.SIDE.ID" for the neck.
  void mark_cut(const std::string& kind);
  std::optional<Problem> load_sections(const std::string& path);
  /// Sections typed in: lines of x, y, depth.
  std::optional<Problem> type_sections(const std::string& text);
  std::optional<Problem> load_head(const std::string& path);
  void forget_sections();
  /// The body's outline as drawn; refused where no body follows from it. `mark` joins the steps of one gesture.
  std::optional<Problem> set_outline(const Path& path, const std::string& name, const std::string& mark = {});
  std::optional<Problem> set_cavities(std::vector<DrawnCavity> cavities, const std::string& name);
  std::optional<Problem> load_carve_lines(const std::string& path);

  std::optional<Problem> open(const std::filesystem::path& path);
  std::optional<Problem> save(const std::filesystem::path& path);
  void replace(Project project, std::filesystem::path path);
  void recover(Project project);

  void prove_all();
  void cancel_proof();
  void write_programs(const std::filesystem::path& folder);
  void cancel_writing() { write_.cancel(); }
  void note_written(const std::string& kind, const std::string& path);
  [[nodiscard]] static std::string today();

 Q_SIGNALS:
  void changed();  // project, design, remarks
  void planned();  // cuts are there
  void proved();   // a proof came in, or was cancelled (proof() null)
  void progress(double share, QString phase);
  void said(QString text, bool bad);
  void written(QString folder);
  void opened();

 private:
  void follow();
  std::optional<Problem> take_sections(std::vector<BackSection> sections, const std::string& name);
  void follow_neck();
  void follow_body();
  void plan_the_neck();
  void plan_the_body();
  void prove_board();
  void prove_neck();
  void prove_the_body();
  std::optional<Problem> take_body(Project next, const std::string& name, const std::string& mark);
  [[nodiscard]] const NeckCuts* shown_neck_cuts() const {
    return neck_cuts_ ? neck_cuts_.get() : last_neck_cuts_.get();
  }
  [[nodiscard]] const BodyCuts* shown_body_cuts() const {
    return body_cuts_ ? body_cuts_.get() : last_body_cuts_.get();
  }
  void change(Project next, const std::string& name, const std::string& mark);
  void autosave();
  History history_;
  std::filesystem::path path_;
  UnitSystem units_ = UnitSystem::millimetre;
  std::shared_ptr<const BoardDesign> design_;
  std::shared_ptr<const BoardCuts> cuts_;
  std::shared_ptr<const ProofResult> proof_;
  std::optional<Problem> problem_;
  Task<std::shared_ptr<const BoardCuts>> plan_{this};
  Task<Expected<ProofResult>> prove_{this};
  Task<Expected<void>> write_{this};
  Part part_ = Part::fretboard;
  std::shared_ptr<const NeckDesign> neck_;
  std::shared_ptr<const NeckCuts> neck_cuts_, last_neck_cuts_;
  std::shared_ptr<const PieceResult> neck_proof_;
  std::optional<Problem> neck_problem_;
  Task<std::shared_ptr<const NeckCuts>> neck_plan_{this};
  Task<Expected<PieceResult>> neck_prove_{this};
  std::shared_ptr<const BodyDesign> body_;
  std::shared_ptr<const BodyCuts> body_cuts_, last_body_cuts_;
  std::shared_ptr<const BodyProof> body_proof_;
  std::optional<Problem> body_problem_;
  Task<std::shared_ptr<const BodyCuts>> body_plan_{this};
  Task<Expected<BodyProof>> body_prove_{this};
  std::optional<Project> before_body_;  // the numbers that board and neck were last worked out from
  QTimer autosave_timer_;
};

}  // namespace wren::app

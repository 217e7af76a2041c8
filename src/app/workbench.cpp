#include "app/workbench.hpp"

#include <QDate>

#include "core/document/field.hpp"
#include "core/document/project_file.hpp"

namespace wren::app {

Workbench::Workbench(Project project, QObject* parent) : QObject(parent), history_(std::move(project)) {
  autosave_timer_.setSingleShot(true);
  autosave_timer_.setInterval(1500);
  connect(&autosave_timer_, &QTimer::timeout, this, &Workbench::autosave);
  follow();
}

Workbench::~Workbench() = default;

std::string Workbench::today() { return QDate::currentDate().toString(Qt::ISODate).toStdString(); }

std::vector<Remark> Workbench::remarks() const {
  std::vector<Remark> out;
  if (problem_) out.push_back({"board.impossible", Weight::stop, problem_->what + ". " + problem_->todo + ".", 0, 0, "", "geometry", problem_->where, {}, {}});
  if (design_) {
    const BoardCuts none;
    for (Remark& r : all_remarks(*design_, cuts_ ? *cuts_ : none)) out.push_back(std::move(r));
  }
  if (proof_)
    for (const Finding& f : proof_->findings) {
      std::optional<std::pair<double, double>> at;
      if (design_) {
        const Vec2 q = design_->setup.to_work.back({f.at.x, f.at.y});
        at = {q.x, q.y};
      }
      out.push_back({"proof." + f.kind, f.weight, f.text, f.number, f.limit, "mm", f.program.empty() ? "the rehearsal" : f.program + (f.line > 0 ? ", line " + std::to_string(f.line) : ""), "rehearsal", at, {}});
    }
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

void Workbench::follow() {
  auto design = design_board(project());
  cuts_.reset();
  proof_.reset();
  prove_.cancel();
  if (design) {
    problem_.reset();
    design_ = std::make_shared<const BoardDesign>(std::move(*design));
    plan_.start([p = project(), d = design_](Progress&) { return std::make_shared<const BoardCuts>(plan_cuts(p, *d)); },
                [this](std::shared_ptr<const BoardCuts> cuts) {
                  cuts_ = std::move(cuts);
                  Q_EMIT planned();
                });
  } else {
    problem_ = design.error();
    design_.reset();
    plan_.cancel();
  }
  Q_EMIT changed();
}

std::optional<Problem> Workbench::edit(const std::string& key, const std::string& text, const std::string& mark) {
  const Field* field = find_field(project(), key);
  return edit({{key, text}}, field != nullptr ? "Change " + field->label : "Change " + key, mark);
}

std::optional<Problem> Workbench::edit(const std::vector<std::pair<std::string, std::string>>& edits, const std::string& name, const std::string& mark, bool mm) {
  auto next = with_edits(project(), edits, mm ? UnitSystem::millimetre : units_);
  if (!next) return next.error();
  if (history_.change(std::move(*next), name, mark)) {
    autosave_timer_.start();
    follow();
  }
  return {};
}

void Workbench::undo() {
  const QString name = QString::fromStdString(history_.undo_name());
  if (!history_.undo()) return;
  autosave_timer_.start();
  follow();
  Q_EMIT said(tr("Undone: %1").arg(name), false);
}

void Workbench::redo() {
  if (!history_.redo()) return;
  autosave_timer_.start();
  follow();
  Q_EMIT said(tr("Done again: %1").arg(QString::fromStdString(history_.undo_name())), false);
}

void Workbench::set_units(UnitSystem units) {
  units_ = units;
  Q_EMIT changed();
}

void Workbench::mark_cut(const std::string& cut_id) {
  Project p = project();
  bool current = false;
  if (remembered(p, "cut:" + cut_id, &current) != nullptr && current) std::erase_if(p.written, [&](const WrittenRecord& w) { return w.kind == "cut:" + cut_id; });
  else remember(p, "cut:" + cut_id, today(), cut_id);
  if (history_.change(std::move(p), "Mark as cut")) {
    autosave_timer_.start();
    Q_EMIT changed();
  }
}

void Workbench::replace(Project project, std::filesystem::path path) {
  history_ = History(std::move(project));
  path_ = std::move(path);
  follow();
  Q_EMIT opened();
}

void Workbench::recover(Project project) {
  history_.change(std::move(project), "Recover unsaved work");
  follow();
}

std::optional<Problem> Workbench::open(const std::filesystem::path& path) {
  auto project = load_project(path);
  if (!project) return project.error();
  replace(std::move(*project), std::filesystem::absolute(path));
  return {};
}

std::optional<Problem> Workbench::save(const std::filesystem::path& path) {
  if (auto saved = save_project(path, project()); !saved) return saved.error();
  std::error_code ignored;
  std::filesystem::remove(autosave_path(path), ignored);
  if (!path_.empty()) std::filesystem::remove(autosave_path(path_), ignored);
  autosave_timer_.stop();
  path_ = std::filesystem::absolute(path);
  history_.mark_saved();
  Q_EMIT changed();
  return {};
}

void Workbench::autosave() {
  if (path_.empty() || !history_.modified()) return;
  if (auto saved = save_project(autosave_path(path_), project()); !saved) Q_EMIT said(QString::fromStdString("Autosave: " + saved.error().text()), true);
}

void Workbench::prove_all() {
  if (!design_ || !cuts_) return;
  Q_EMIT progress(0, tr("rehearsing"));
  prove_.start([p = project(), d = design_, c = cuts_](Progress& progress) { return prove(proof_request(p, *d, program_texts(board_programs(p, *d, *c, "")), 0.1), &progress); },
               [this](Expected<ProofResult> result) {
                 if (!result) {
                   proof_.reset();
                   Q_EMIT said(QString::fromStdString(result.error().text()), result.error().kind != ProblemKind::stopped);
                 } else {
                   proof_ = std::make_shared<const ProofResult>(std::move(*result));
                   if (proof_->passed()) note_written("proof", "rehearsal");
                   Q_EMIT said(proof_->passed() ? tr("Proved: the programs make this board") : tr("Not proved: look at the remarks"), !proof_->passed());
                 }
                 Q_EMIT proved();
                 Q_EMIT changed();
               },
               [this](double share, const QString& phase) { Q_EMIT progress(share, phase); });
}

void Workbench::cancel_proof() {
  prove_.cancel();
  Q_EMIT said(tr("The rehearsal was stopped"), false);
  Q_EMIT proved();
}

void Workbench::write_programs(const std::filesystem::path& folder) {
  if (!design_ || !cuts_) return;
  const std::string date = today();
  write_.start([p = project(), d = design_, c = cuts_, folder, date](Progress& progress) -> Expected<void> {
                 if (!progress.go_on(0, "writing programs")) return fail(ProblemKind::stopped, "writing was stopped");
                 const auto files = board_programs(p, *d, *c, date);
                 return write_folder(folder, files, board_manifest(p, *d, files, date), &progress);
               },
               [this, folder](Expected<void> result) {
                 if (!result) {
                   Q_EMIT said(QString::fromStdString(result.error().text()), true);
                 } else {
                   note_written("programs", std::filesystem::absolute(folder).lexically_normal().string());
                   Q_EMIT said(tr("Programs written into %1").arg(QString::fromStdString(folder.string())), false);
                   Q_EMIT written(QString::fromStdString(folder.string()));
                 }
                 Q_EMIT changed();
               },
               [this](double share, const QString& phase) { Q_EMIT progress(share, phase); });
}

void Workbench::note_written(const std::string& kind, const std::string& path) {
  const bool clean = !history_.modified() && !path_.empty();
  Project p = project();
  remember(p, kind, today(), path);
  history_.amend(std::move(p));
  // A saved project stays saved: what was written must be found again tomorrow without another thought.
  if (clean) {
    if (const auto problem = save(path_)) Q_EMIT said(QString::fromStdString(problem->text()), true);
  } else {
    autosave_timer_.start();
  }
}

}  // namespace wren::app

#include "app/workbench.hpp"

#include "core/job/certificate.hpp"

#include <algorithm>

#include <QDate>

namespace wren::app {

Workbench::Workbench(Project project, const Parts& parts, QObject* parent)
    : QObject(parent), parts_(parts), history_(std::move(project)), part_(parts.kinds().front().id()) {
  autosave_timer_.setSingleShot(true);
  autosave_timer_.setInterval(1500);
  connect(&autosave_timer_, &QTimer::timeout, this, &Workbench::autosave);
  for (const PartKind& kind : parts_.kinds())
    states_[kind.id()].plan = std::make_unique<Task<std::shared_ptr<const Expected<Planned>>>>(this);
  follow_numbers();
}

Workbench::~Workbench() = default;

std::string Workbench::today() { return QDate::currentDate().toString(Qt::ISODate).toStdString(); }

const Problem* Workbench::problem(const std::string& part) const {
  const auto it = followed_->problems.find(part);
  return it != followed_->problems.end() ? &it->second : nullptr;
}

std::shared_ptr<const Planned> Workbench::shown(const std::string& part) const {
  return state(part).planned ? state(part).planned : state(part).last;
}

std::vector<const Planned*> Workbench::all_shown() const {
  std::vector<const Planned*> out;
  for (const PartKind& kind : parts_.kinds()) out.push_back(shown(kind.id()).get());
  return out;
}

std::vector<Remark> Workbench::remarks() const {
  std::vector<Remark> out = remarks_of(kind(), *followed_, planned(part_).get());
  if (const auto p = proof(part_))
    for (Remark& r : p->remarks(part_)) out.push_back(std::move(r));
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

void Workbench::set_part(const std::string& part) {
  if (part_ == part || parts_.find(part) == nullptr) return;
  part_ = part;
  if (!planned(part)) plan_part(part);
  Q_EMIT changed();
}

void Workbench::follow_numbers() {
  followed_ = std::make_shared<const Followed>(follow(parts_, project(), *cache_, followed_.get()));
  // What was proved and planned holds as long as the numbers are those it was made from.
  for (const std::string& part : followed_->changed) {
    State& s = states_.at(part);
    if (s.planned) s.last = s.planned;
    s.planned.reset();
    s.proof.reset();
    s.plan->cancel();
    if (part == part_) prove_.cancel();
  }
  // The first part's cuts are always at hand; the others' are planned while they are worked on.
  for (const std::string& part : {parts_.kinds().front().id(), part_})
    if (!planned(part) && !state(part).plan->busy()) plan_part(part);
  Q_EMIT changed();
}

void Workbench::plan_part(const std::string& part) {
  if (!followed_->designs.find(part)) return;
  states_.at(part).plan->start(
      [f = followed_, cache = cache_, kind = parts_.find(part)](Progress& progress) {
        return std::make_shared<const Expected<Planned>>(plan(*kind, *f, *cache, &progress));
      },
      [this, part](std::shared_ptr<const Expected<Planned>> made) {
        if (!*made) return;
        states_.at(part).planned = std::shared_ptr<const Planned>(made, &**made);
        Q_EMIT planned_now();
      });
}

std::optional<Problem> Workbench::change_part(const std::string& part, const std::function<void(Project&)>& what,
                                              const std::string& name, const std::string& mark) {
  Project next = project();
  what(next);
  // Tried before it is taken: what no part follows from leaves everything as it was.
  const Followed tried = follow(parts_, next, *cache_, followed_.get());
  if (const auto it = tried.problems.find(part); it != tried.problems.end() && problem(part) == nullptr)
    return it->second;
  change(std::move(next), name, mark);
  return {};
}

std::optional<Problem> Workbench::edit(const std::string& key, const std::string& text, const std::string& mark) {
  const auto field = parts_.book().find(project(), key);
  return edit({{key, text}}, field ? "Change " + field->label : "Change " + key, mark);
}

std::optional<Problem> Workbench::edit(const std::vector<std::pair<std::string, std::string>>& edits,
                                       const std::string& name, const std::string& mark, bool mm) {
  auto next = with_edits(parts_.book(), project(), edits, mm ? UnitSystem::millimetre : units_);
  if (!next) return next.error();
  change(std::move(*next), name, mark);
  return {};
}

void Workbench::change(Project next, const std::string& name, const std::string& mark) {
  // The core has no clock: a measure just entered gets its date here.
  for (Measured& m : next.measured)
    if (m.date.empty()) m.date = today();
  if (!history_.change(std::move(next), name, mark)) return;
  autosave_timer_.start();
  follow_numbers();
}

void Workbench::give_up() {
  if (!history_.give_up()) return;
  autosave_timer_.start();
  follow_numbers();
}

void Workbench::undo() {
  const QString name = QString::fromStdString(history_.undo_name());
  if (!history_.undo()) return;
  autosave_timer_.start();
  follow_numbers();
  Q_EMIT said(tr("Undone: %1").arg(name), false);
}

void Workbench::redo() {
  if (!history_.redo()) return;
  autosave_timer_.start();
  follow_numbers();
  Q_EMIT said(tr("Done again: %1").arg(QString::fromStdString(history_.undo_name())), false);
}

void Workbench::set_units(UnitSystem units) {
  units_ = units;
  Q_EMIT changed();
}

void Workbench::mark_cut(const std::string& kind) {
  Project p = project();
  const PartKind* part = parts_.find(part_of_line(kind));
  if (part == nullptr) return;
  if (remembered(p, kind, fingerprint(parts_, *part, p)).current)
    std::erase_if(p.written, [&](const WrittenRecord& w) { return w.kind == kind; });
  else
    remember(parts_, p, kind, today(), kind);
  change(std::move(p), "Mark as cut", {});
}

void Workbench::replace(Project project, std::filesystem::path path) {
  history_ = History(std::move(project));
  path_ = std::move(path);
  follow_numbers();
  Q_EMIT opened();
}

void Workbench::recover(Project project) {
  history_.change(std::move(project), "Recover unsaved work");
  follow_numbers();
}

std::optional<Problem> Workbench::open(const std::filesystem::path& path) {
  auto project = load_project(parts_.book(), path);
  if (!project) return project.error();
  replace(std::move(*project), std::filesystem::absolute(path));
  return {};
}

std::optional<Problem> Workbench::save(const std::filesystem::path& path) {
  if (auto saved = save_project(parts_.book(), path, project()); !saved) return saved.error();
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
  if (auto saved = save_project(parts_.book(), autosave_path(path_), project()); !saved)
    Q_EMIT said(QString::fromStdString("Autosave: " + saved.error().text()), true);
}

void Workbench::prove_all() {
  const auto what = planned(part_);
  if (!what) return;
  Q_EMIT progress(0, tr("rehearsing"));
  prove_.start(
      [p = project(), what](Progress& progress) { return prove_part(*what, programs_of(p, *what, ""), 0, &progress); },
      [this, part = part_](Expected<PartProof> result) {
        State& s = states_.at(part);
        s.proof.reset();
        if (!result) {
          Q_EMIT said(QString::fromStdString(result.error().text()), result.error().kind != ProblemKind::stopped);
        } else {
          s.proof = std::make_shared<const PartProof>(std::move(*result));
          if (s.proof->passed()) note_written(part, "proof", "rehearsal");
          const QString title = QString::fromStdString(parts_.find(part)->title()).toLower();
          QStringList assumed;
          for (const std::string& c : s.proof->assumed) assumed << QString::fromStdString(c);
          const QString lengths =
              assumed.isEmpty() ? QString() : tr(", for assumed lengths of %1").arg(assumed.join(QStringLiteral(", ")));
          Q_EMIT said(s.proof->passed()
                          ? tr("Proved: the programs make this %1%2").arg(title, lengths)
                          : tr("%1: look at the remarks").arg(QString::fromLatin1(verdict_words(s.proof->verdict()))),
                      !s.proof->passed());
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
  const auto what = planned(part_);
  if (!what) return;
  write_.start(
      [p = project(), what, folder, date = today()](Progress& progress) -> Expected<void> {
        if (!progress.go_on(0, "proving, then writing")) return fail(ProblemKind::stopped, "writing was stopped");
        const auto programs = programs_of(p, *what, date);
        const auto proof = prove_part(*what, programs, 0, &progress);
        if (!proof) return tl::unexpected(proof.error());
        if (!proof->passed()) {
          const auto remarks = proof->remarks(what->part);
          return fail(ProblemKind::input,
                      std::string("nothing was written: ") + verdict_words(proof->verdict()) +
                          (remarks.empty() ? "" : ". " + remarks.front().sentence),
                      what->part, "Rehearse it and look at the findings");
        }
        return write_folder(folder, what->part, programs, manifest_of(p, *what, programs, date),
                            certificate_of(p, *what, programs, *proof, date), &progress);
      },
      [this, folder, part = part_](Expected<void> result) {
        if (!result) {
          Q_EMIT said(QString::fromStdString(result.error().text()), true);
        } else {
          note_written(part, "programs", std::filesystem::absolute(folder).lexically_normal().string());
          Q_EMIT said(tr("Programs written into %1").arg(QString::fromStdString(folder.string())), false);
          Q_EMIT written(QString::fromStdString(folder.string()));
        }
        Q_EMIT changed();
      },
      [this](double share, const QString& phase) { Q_EMIT progress(share, phase); });
}

void Workbench::note_written(const std::string& part, const std::string& what, const std::string& path) {
  const bool clean = !history_.modified() && !path_.empty();
  Project p = project();
  remember(parts_, p, part + "." + what, today(), path);
  history_.amend(std::move(p));
  followed_ = std::make_shared<const Followed>(follow(parts_, project(), *cache_, followed_.get()));
  // A saved project stays saved: what was written must be found again tomorrow without another thought.
  if (clean) {
    if (const auto problem = save(path_)) Q_EMIT said(QString::fromStdString(problem->text()), true);
  } else {
    autosave_timer_.start();
  }
}

}  // namespace wren::app

#include "app/workbench.hpp"

#include <QDate>

#include "core/document/field.hpp"
#include "core/document/project_file.hpp"
#include "exchange/drawing_in.hpp"

namespace wren::app {

Workbench::Workbench(Project project, QObject* parent) : QObject(parent), history_(std::move(project)) {
  autosave_timer_.setSingleShot(true);
  autosave_timer_.setInterval(1500);
  connect(&autosave_timer_, &QTimer::timeout, this, &Workbench::autosave);
  follow();
}

Workbench::~Workbench() = default;

std::string Workbench::today() { return QDate::currentDate().toString(Qt::ISODate).toStdString(); }

namespace {

/// What no part follows from, as a remark that stops the work.
Remark impossible(const char* kind, const Problem& problem) {
  return {kind, Weight::stop, problem.what + ". " + problem.todo + ".", 0, 0, "", "geometry", problem.where, {}, {},
          {}};
}

Remark found(const Finding& f, const Setup& setup, const char* place) {
  const Vec2 q = turned(setup.turn, setup.to_work.back({f.at.x, f.at.y}));
  return {"proof." + f.kind,
          f.weight,
          f.text,
          f.number,
          f.limit,
          "mm",
          f.program.empty() ? "the rehearsal" : f.program + (f.line > 0 ? ", line " + std::to_string(f.line) : ""),
          place,
          std::pair{q.x, q.y},
          {},
          {}};
}

}  // namespace

std::vector<Remark> Workbench::remarks() const {
  std::vector<Remark> out;
  if (problem_) out.push_back(impossible("board.impossible", *problem_));
  if (part_ == Part::fretboard) {
    if (design_) {
      const BoardCuts none;
      for (Remark& r : all_remarks(*design_, cuts_ ? *cuts_ : none)) out.push_back(std::move(r));
    }
    if (proof_ && design_)
      for (const Finding& f : proof_->findings) out.push_back(found(f, design_->setup, "rehearsal"));
  } else if (part_ == Part::body) {
    if (neck_problem_) out.push_back(impossible("neck.impossible", *neck_problem_));
    if (body_problem_) out.push_back(impossible("body.impossible", *body_problem_));
    if (body_) {
      const BodyCuts none;
      for (Remark& r : all_remarks(*body_, body_cuts_ ? *body_cuts_ : none)) out.push_back(std::move(r));
    }
    if (body_proof_ && body_)
      for (const auto& [piece, result] : body_proof_->pieces) {
        for (std::size_t k = 0; k < result.sides.size(); ++k)
          for (const Finding& f : result.sides[k].findings)
            out.push_back(found(f, piece.request.sides[k].setup, "bodycuts.seconds"));
        for (const Finding& f : result.findings)
          out.push_back(found(f, piece.request.sides.back().setup, "bodycuts.seconds"));
      }
  } else {
    if (neck_problem_) out.push_back(impossible("neck.impossible", *neck_problem_));
    if (neck_) {
      const NeckCuts none;
      for (Remark& r : all_remarks(*neck_, neck_cuts_ ? *neck_cuts_ : none)) out.push_back(std::move(r));
    }
    if (neck_proof_ && neck_) {
      for (std::size_t k = 0; k < neck_proof_->sides.size(); ++k)
        for (const Finding& f : neck_proof_->sides[k].findings)
          out.push_back(found(f, k == 0 ? neck_->front : neck_->back, "neckcuts.seconds"));
      for (const Finding& f : neck_proof_->findings) out.push_back(found(f, neck_->back, "neckcuts.seconds"));
    }
  }
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

void Workbench::set_part(Part part) {
  if (part_ == part) return;
  part_ = part;
  if (part_ == Part::neck && neck_ && !neck_cuts_) plan_the_neck();
  if (part_ == Part::body && body_ && !body_cuts_) plan_the_body();
  Q_EMIT changed();
}

void Workbench::follow() {
  // What board and neck depend on: an edit of the body leaves them as they are.
  Project before = project();
  before.body = {};
  before.body_work = usual_body_work();
  before.written.clear();
  before.notes.clear();
  std::erase_if(before.measured, [](const Measured& m) { return m.key.rfind("body", 0) == 0; });
  if (before_body_ && *before_body_ == before) {
    follow_body();
    Q_EMIT changed();
    return;
  }
  before_body_ = std::move(before);
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
  follow_neck();
  follow_body();
  Q_EMIT changed();
}

void Workbench::follow_body() {
  if (body_cuts_) last_body_cuts_ = body_cuts_;
  body_cuts_.reset();
  body_proof_.reset();
  body_prove_.cancel();
  body_plan_.cancel();
  body_problem_.reset();
  if (!neck_ || !design_) {
    body_.reset();
    return;
  }
  auto body = design_body(project(), *neck_, design_->weight_g);
  if (!body) {
    body_.reset();
    body_problem_ = body.error();
    return;
  }
  body_ = std::make_shared<const BodyDesign>(std::move(*body));
  if (part_ == Part::body) plan_the_body();
}

void Workbench::plan_the_body() {
  body_plan_.start([p = project(), d = body_](
                       Progress& progress) { return std::make_shared<const BodyCuts>(plan_body(p, *d, &progress)); },
                   [this](std::shared_ptr<const BodyCuts> cuts) {
                     body_cuts_ = std::move(cuts);
                     Q_EMIT planned();
                   });
}

std::optional<Problem> Workbench::take_body(Project next, const std::string& name, const std::string& mark) {
  // Tried before it is taken: a drawing that no body follows from leaves everything as it was.
  if (neck_)
    if (auto made = design_body(next, *neck_, design_ ? design_->weight_g : 0); !made) return made.error();
  change(std::move(next), name, mark);
  return {};
}

std::optional<Problem> Workbench::set_outline(const Path& path, const std::string& name, const std::string& mark) {
  if (auto bad = check_outline(path); !bad.empty()) return bad.front();
  Project next = project();
  next.body.outline.drawn = path;
  next.body.outline.form = BodyForm::drawn;
  return take_body(std::move(next), name, mark);
}

std::optional<Problem> Workbench::set_cavities(std::vector<DrawnCavity> cavities, const std::string& name) {
  if (cavities.size() > most_drawn_cavities)
    return Problem{ProblemKind::range, "more drawn cavities than are possible", "body.cavities", "Take some out"};
  Project next = project();
  next.body.drawn = std::move(cavities);
  return take_body(std::move(next), name, {});
}

std::optional<Problem> Workbench::load_carve_lines(const std::string& path) {
  auto sections = read_sections(path);
  if (!sections) return sections.error();
  Project next = project();
  next.body.comfort.lines.clear();
  for (const BackSection& s : *sections) next.body.comfort.lines.push_back({s.x, s.points});
  next.body.comfort.carve = CarveKind::drawn;
  return take_body(std::move(next), "Load sections of the face", {});
}

void Workbench::follow_neck() {
  if (neck_cuts_) last_neck_cuts_ = neck_cuts_;
  neck_cuts_.reset();
  neck_proof_.reset();
  neck_prove_.cancel();
  neck_plan_.cancel();
  neck_problem_.reset();
  if (!design_) {
    neck_.reset();
    return;
  }
  auto neck = design_neck(project(), design_->board);
  if (!neck) {
    neck_.reset();
    neck_problem_ = neck.error();
    return;
  }
  neck_ = std::make_shared<const NeckDesign>(std::move(*neck));
  if (part_ == Part::neck) plan_the_neck();
}

void Workbench::plan_the_neck() {
  neck_plan_.start([p = project(), d = neck_](
                       Progress& progress) { return std::make_shared<const NeckCuts>(plan_neck(p, *d, &progress)); },
                   [this](std::shared_ptr<const NeckCuts> cuts) {
                     neck_cuts_ = std::move(cuts);
                     Q_EMIT planned();
                   });
}

std::optional<Problem> Workbench::edit(const std::string& key, const std::string& text, const std::string& mark) {
  const Field* field = find_field(project(), key);
  return edit({{key, text}}, field != nullptr ? "Change " + field->label : "Change " + key, mark);
}

std::optional<Problem> Workbench::edit(const std::vector<std::pair<std::string, std::string>>& edits,
                                       const std::string& name, const std::string& mark, bool mm) {
  auto next = with_edits(project(), edits, mm ? UnitSystem::millimetre : units_);
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
  follow();
}

std::optional<Problem> Workbench::take_sections(std::vector<BackSection> sections, const std::string& name) {
  Project next = project();
  next.neck.back.sections = std::move(sections);
  if (design_)
    if (auto made = make_neck(design_->board, next.neck); !made) return made.error();
  change(std::move(next), name, {});
  return {};
}

std::optional<Problem> Workbench::load_sections(const std::string& path) {
  auto sections = read_sections(path);
  if (!sections) return sections.error();
  return take_sections(std::move(*sections), "Load measured sections");
}

std::optional<Problem> Workbench::type_sections(const std::string& text) {
  auto sections = sections_from_csv(text, "sections");
  if (!sections) return sections.error();
  return take_sections(std::move(*sections), "Type in measured sections");
}

void Workbench::forget_sections() {
  Project next = project();
  next.neck.back.sections.clear();
  change(std::move(next), "Forget measured sections", {});
}

std::optional<Problem> Workbench::load_head(const std::string& path) {
  auto outline = read_head_outline(path);
  if (!outline) return outline.error();
  Project next = project();
  next.neck.head.drawn = std::move(*outline);
  next.neck.head.shape = HeadShape::drawn;
  if (design_)
    if (auto made = make_neck(design_->board, next.neck); !made) return made.error();
  change(std::move(next), "Load the head's outline", {});
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

void Workbench::mark_cut(const std::string& kind) {
  Project p = project();
  bool current = false;
  if (remembered(p, kind, &current) != nullptr && current)
    std::erase_if(p.written, [&](const WrittenRecord& w) { return w.kind == kind; });
  else
    remember(p, kind, today(), kind);
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
  if (auto saved = save_project(autosave_path(path_), project()); !saved)
    Q_EMIT said(QString::fromStdString("Autosave: " + saved.error().text()), true);
}

void Workbench::prove_the_body() {
  if (!body_ || !body_cuts_) return;
  Q_EMIT progress(0, tr("rehearsing every layer and side"));
  body_prove_.start(
      [p = project(), d = body_, c = body_cuts_](Progress& progress) {
        return prove_body(wren::body_proof(p, *d, *c, body_programs(p, *d, *c, ""), 0.2), &progress);
      },
      [this](Expected<BodyProof> result) {
        if (!result) {
          body_proof_.reset();
          Q_EMIT said(QString::fromStdString(result.error().text()), result.error().kind != ProblemKind::stopped);
        } else {
          body_proof_ = std::make_shared<const BodyProof>(std::move(*result));
          if (body_proof_->passed()) note_written("body-proof", "rehearsal");
          Q_EMIT said(body_proof_->passed() ? tr("Proved: every layer and side, and the cover")
                                            : tr("Not proved: look at the remarks"),
                      !body_proof_->passed());
        }
        Q_EMIT proved();
        Q_EMIT changed();
      },
      [this](double share, const QString& phase) { Q_EMIT progress(share, phase); });
}

void Workbench::prove_all() {
  if (part_ == Part::body)
    prove_the_body();
  else if (part_ == Part::neck)
    prove_neck();
  else
    prove_board();
}

void Workbench::prove_neck() {
  if (!neck_ || !neck_cuts_) return;
  Q_EMIT progress(0, tr("rehearsing both sides"));
  neck_prove_.start(
      [p = project(), d = neck_, c = neck_cuts_](Progress& progress) {
        return prove_piece(wren::neck_proof(p, *d, *c, neck_programs(p, *d, *c, ""), 0.1), &progress);
      },
      [this](Expected<PieceResult> result) {
        if (!result) {
          neck_proof_.reset();
          Q_EMIT said(QString::fromStdString(result.error().text()), result.error().kind != ProblemKind::stopped);
        } else {
          neck_proof_ = std::make_shared<const PieceResult>(std::move(*result));
          if (neck_proof_->passed()) note_written("neck-proof", "rehearsal");
          Q_EMIT said(neck_proof_->passed() ? tr("Proved: both sides' programs make this neck from one piece of wood")
                                            : tr("Not proved: look at the remarks"),
                      !neck_proof_->passed());
        }
        Q_EMIT proved();
        Q_EMIT changed();
      },
      [this](double share, const QString& phase) { Q_EMIT progress(share, phase); });
}

void Workbench::prove_board() {
  if (!design_ || !cuts_) return;
  Q_EMIT progress(0, tr("rehearsing"));
  prove_.start(
      [p = project(), d = design_, c = cuts_](Progress& progress) {
        return prove(proof_request(p, *d, program_texts(board_programs(p, *d, *c, "")), 0.1), &progress);
      },
      [this](Expected<ProofResult> result) {
        if (!result) {
          proof_.reset();
          Q_EMIT said(QString::fromStdString(result.error().text()), result.error().kind != ProblemKind::stopped);
        } else {
          proof_ = std::make_shared<const ProofResult>(std::move(*result));
          if (proof_->passed()) note_written("proof", "rehearsal");
          Q_EMIT said(
              proof_->passed() ? tr("Proved: the programs make this board") : tr("Not proved: look at the remarks"),
              !proof_->passed());
        }
        Q_EMIT proved();
        Q_EMIT changed();
      },
      [this](double share, const QString& phase) { Q_EMIT progress(share, phase); });
}

void Workbench::cancel_proof() {
  prove_.cancel();
  neck_prove_.cancel();
  body_prove_.cancel();
  Q_EMIT said(tr("The rehearsal was stopped"), false);
  Q_EMIT proved();
}

void Workbench::write_programs(const std::filesystem::path& folder) {
  if (!part_planned()) return;
  const std::string date = today();
  const Part part = part_;
  write_.start(
      [p = project(), d = design_, c = cuts_, nd = neck_, nc = neck_cuts_, bd = body_, bc = body_cuts_, part, folder,
       date](Progress& progress) -> Expected<void> {
        if (!progress.go_on(0, "writing programs")) return fail(ProblemKind::stopped, "writing was stopped");
        if (part == Part::body) {
          const auto programs = body_programs(p, *bd, *bc, date);
          return write_folder(folder, files_of(programs), body_manifest(p, *bd, *bc, programs, date), &progress);
        }
        if (part == Part::neck) {
          const auto programs = neck_programs(p, *nd, *nc, date);
          return write_folder(folder, files_of(programs), neck_manifest(p, *nd, *nc, programs, date), &progress);
        }
        const auto files = board_programs(p, *d, *c, date);
        return write_folder(folder, files, board_manifest(p, *d, files, date), &progress);
      },
      [this, folder, part](Expected<void> result) {
        if (!result) {
          Q_EMIT said(QString::fromStdString(result.error().text()), true);
        } else {
          note_written(part == Part::body   ? "body-programs"
                       : part == Part::neck ? "neck-programs"
                                            : "programs",
                       std::filesystem::absolute(folder).lexically_normal().string());
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

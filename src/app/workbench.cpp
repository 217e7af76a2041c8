#include "app/workbench.hpp"

#include "app/words.hpp"
#include "core/job/certificate.hpp"

#include <algorithm>
#include <utility>

#include <QDateTime>
#include <QFileInfo>

namespace wren::app {
namespace {

/// The core has no clock: a measure just entered gets its date here.
void date_measures(Project& project) {
  for (Measured& m : project.record.measured)
    if (m.date.empty()) m.date = Workbench::today();
}

}  // namespace

Workbench::Workbench(Start start, const Parts& parts, std::filesystem::path home, QObject* parent)
    : QObject(parent),
      parts_(parts),
      cache_(std::move(start.cache)),
      document_(parts.book(), std::move(start.project), std::move(home)),
      part_(parts.kinds().front().id()) {
  // Connected first: whoever listens sees what is new.
  for (const auto signal : {&Workbench::changed, &Workbench::planned_now, &Workbench::proved, &Workbench::opened})
    connect(this, signal, this, [this] { worked_ = {}; });
  rest_timer_.setSingleShot(true);
  rest_timer_.setInterval(700);
  connect(&rest_timer_, &QTimer::timeout, this, &Workbench::plan_rest);
  for (const auto signal : {&Workbench::changed, &Workbench::planned_now})
    connect(this, signal, &rest_timer_, qOverload<>(&QTimer::start));
  autosave_timer_.setSingleShot(true);
  autosave_timer_.setInterval(1500);
  connect(&autosave_timer_, &QTimer::timeout, this, &Workbench::autosave);
  look_timer_.setSingleShot(true);
  look_timer_.setInterval(150);
  connect(&look_timer_, &QTimer::timeout, this, &Workbench::look_at_folder);
  for (const auto signal : {&QFileSystemWatcher::fileChanged, &QFileSystemWatcher::directoryChanged})
    connect(&watcher_, signal, &look_timer_, qOverload<>(&QTimer::start));
  for (const PartKind& kind : parts_.kinds())
    states_[kind.id()].plan = std::make_unique<Task<std::shared_ptr<const Expected<Planned>>>>(this, Urgency::ahead);
  if (start.followed != nullptr)
    take_followed(std::move(start.followed), true);
  else
    follow_numbers();
  look_at_folder();
}

Workbench::~Workbench() = default;

Holder Workbench::holder() {
  return {"the window", QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd HH:mm")).toStdString()};
}

std::string Workbench::today() {
  // SOURCE_DATE_EPOCH (reproducible-builds.org) makes the same input give the same paper.
  bool fixed = false;
  const qint64 at = qEnvironmentVariable("SOURCE_DATE_EPOCH").toLongLong(&fixed);
  const QDate day = fixed ? QDateTime::fromSecsSinceEpoch(at).date() : QDate::currentDate();
  return day.toString(Qt::ISODate).toStdString();
}

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

std::vector<BuildLine> Workbench::sheet() const {
  if (!worked_.sheet) {
    worked_.sheet = build_sheet(parts_, *followed_, *cache_, all_shown(), written_);
    by_pace(*worked_.sheet, paces_);
  }
  return *worked_.sheet;
}

std::vector<LedgerLine> Workbench::ledger_lines() const {
  if (!worked_.ledger) worked_.ledger = ledger(parts_, *followed_, *cache_, all_shown());
  return *worked_.ledger;
}

Overview Workbench::overview() const {
  if (worked_.overview) return *worked_.overview;
  std::set<std::string> refused;
  for (const auto& [part, s] : states_)
    if (s.proof && !s.proof->faultless()) refused.insert(part);
  worked_.overview = overview_of(parts_, *followed_, all_shown(), sheet(), refused);
  return *worked_.overview;
}

QString Workbench::words(const Problem& problem) const {
  Problem said = problem;
  const std::string key = said.where.substr(0, said.where.find_first_of(",: "));
  if (const auto field = parts_.book().find(project(), key)) {
    const std::string rest = said.where.substr(key.size());
    const bool named = said.what.str().starts_with(field->label.str());
    said.where = named ? std::string() : field->label.in(audience(units_)) + rest;
  }
  QString text = in_words(said, units_);
  if (!text.isEmpty()) text[0] = text[0].toUpper();
  return text;
}

std::vector<Workbench::Before> Workbench::history_of(const std::string& key) const {
  std::vector<Before> out;
  const auto text_at = [&](std::size_t step) {
    const Project& p = history().project_at(step);
    const auto field = parts_.book().find(p, key);
    return field ? QString::fromStdString(field_text(*field, field->get(p), units_)) : QString();
  };
  for (std::size_t step = history().present(); step > 0; --step)
    if (const QString before = text_at(step - 1); before != text_at(step))
      out.push_back({before, in_words(history().name_at(step), units())});
  return out;
}

std::vector<Remark> Workbench::remarks() const {
  std::vector<Remark> out = remarks_of(kind(), *followed_, planned(part_).get());
  if (const auto p = proof(part_))
    for (Remark& r : p->remarks(part_)) out.push_back(std::move(r));
  out.insert(out.end(), more_remarks_.begin(), more_remarks_.end());
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

void Workbench::set_part(const std::string& part) {
  if (part_ == part || parts_.find(part) == nullptr) return;
  part_ = part;
  if (!planned(part)) plan_part(part);
  Q_EMIT changed();
}

std::shared_ptr<const Followed> Workbench::known(const Project& project) const {
  const auto it = std::find_if(lately_.begin(), lately_.end(),
                               [&](const std::shared_ptr<const Followed>& f) { return f->project == project; });
  if (it == lately_.end()) return nullptr;
  Followed again = **it;
  again.changed.clear();
  for (const PartKind& kind : parts_.kinds())
    if (followed_->designs.find(kind.id()) != again.designs.find(kind.id()) ||
        followed_->fingerprints.at(kind.id()) != again.fingerprints.at(kind.id()))
      again.changed.push_back(kind.id());
  return std::make_shared<const Followed>(std::move(again));
}

void Workbench::follow_numbers() {
  auto followed = followed_ != nullptr ? known(project()) : nullptr;
  if (followed == nullptr)
    followed = std::make_shared<const Followed>(follow(parts_, project(), *cache_, followed_.get()));
  take_followed(std::move(followed), true);
}

void Workbench::take_followed(std::shared_ptr<const Followed> followed, bool plan) {
  followed_ = std::move(followed);
  constexpr std::size_t most_kept = 12;
  std::erase_if(lately_, [this](const std::shared_ptr<const Followed>& f) { return f->project == followed_->project; });
  lately_.push_front(followed_);
  if (lately_.size() > most_kept) lately_.pop_back();
  unplanned_ = !plan;
  // What was proved and planned holds as long as the numbers are those it was made from.
  for (const std::string& part : followed_->changed) {
    State& s = states_.at(part);
    if (s.planned) s.last = s.planned;
    s.planned.reset();
    s.failed.reset();
    s.proof.reset();
    s.plan->cancel();
    if (part == part_) prove_.cancel();
  }
  // The first part's cuts are always at hand; the others' are planned while they are worked on.
  if (plan)
    for (const std::string& part : {parts_.kinds().front().id(), part_})
      if (!planned(part) && !state(part).plan->busy()) plan_part(part);
  Q_EMIT changed();
}

const Project& Workbench::newest_numbers() const {
  return !asked_.empty() ? asked_.back().next : !under_way_.empty() ? under_way_.back().next : project();
}

void Workbench::ask(Asked asked) {
  const bool joins = !asked_.empty() && !asked.mark.empty() && asked_.back().mark == asked.mark;
  if (joins)
    asked_.back() = std::move(asked);
  else
    asked_.push_back(std::move(asked));
  if (under_way_.empty()) follow_asked();
}

std::optional<Problem> Workbench::drag(const std::vector<std::pair<std::string, std::string>>& edits, const Words& name,
                                       const std::string& mark) {
  // A gesture that begins while a typed number is on its way stands on that number.
  if (const auto& last = !asked_.empty() ? asked_ : under_way_; !last.empty() && last.back().mark != mark) catch_up();
  auto next = with_edits(parts_.book(), newest_numbers(), edits, UnitSystem::millimetre);
  if (!next) return next.error();
  ask({std::move(*next), name, mark, {}});
  return {};
}

std::optional<Problem> Workbench::type(const std::string& key, const std::string& text) {
  const auto field = parts_.book().find(newest_numbers(), key);
  return type({{key, text}}, worded("Change {}", field ? field->label : Words(key)));
}

std::optional<Problem> Workbench::type(const std::vector<std::pair<std::string, std::string>>& edits, const Words& name,
                                       bool mm) {
  if (edits.size() == 1 && edits.front().first.starts_with("shop.")) return edit(edits, name);
  if (const auto& last = !asked_.empty() ? asked_ : under_way_; !last.empty() && last.back().typed.empty()) catch_up();
  auto next = with_edits(parts_.book(), newest_numbers(), edits, mm ? UnitSystem::millimetre : units_);
  if (!next) return next.error();
  date_measures(*next);
  std::vector<std::string> keys;
  for (const auto& [key, text] : edits) keys.push_back(key);
  ask({std::move(*next), name, {}, std::move(keys)});
  return {};
}

bool Workbench::awaits(const std::string& key) const {
  const auto of_key = [&](const Asked& a) {
    return !key.empty() && std::find(a.typed.begin(), a.typed.end(), key) != a.typed.end();
  };
  return std::any_of(asked_.begin(), asked_.end(), of_key) || std::any_of(under_way_.begin(), under_way_.end(), of_key);
}

void Workbench::follow_asked() {
  ahead_ = {};
  under_way_ = std::exchange(asked_, {});
  if (under_way_.empty()) return;
  const auto tell = [this, serial = ++asked_serial_](const std::string& part,
                                                     const std::shared_ptr<const Design>& made) {
    QMetaObject::invokeMethod(
        this,
        [this, serial, part, made] {
          if (serial != asked_serial_ || under_way_.empty()) return;
          ahead_.set(part, made);
          Q_EMIT came_ahead(part);
        },
        Qt::QueuedConnection);
  };
  follow_.start(
      [&parts = parts_, next = under_way_.back().next, before = followed_, cache = cache_, tell](Progress&) {
        return std::make_shared<const Followed>(follow(parts, next, *cache, before.get(), tell));
      },
      [this](const std::shared_ptr<const Followed>& followed) {
        const bool typed = !under_way_.back().typed.empty();
        if (take_steps(std::exchange(under_way_, {})))
          take_followed(followed, typed);
        else if (typed)
          Q_EMIT changed();  // the field shows the number as it was again
        follow_asked();
      });
}

bool Workbench::take_steps(std::vector<Asked> steps) {
  bool changed = false;
  for (Asked& step : steps)
    changed = document_.history().change(std::move(step.next), std::move(step.name), step.mark) || changed;
  if (changed) autosave_soon();
  return changed;
}

void Workbench::catch_up() {
  if (asked_.empty() && !under_way_.empty()) {
    follow_.finish();
  } else if (!asked_.empty()) {
    // Nobody needs the designs of the steps before the last.
    std::vector<Asked> steps = std::exchange(under_way_, {});
    for (Asked& a : std::exchange(asked_, {})) steps.push_back(std::move(a));
    follow_.cancel();
    ahead_ = {};
    if (take_steps(std::move(steps))) follow_numbers();
  }
  if (unplanned_) take_followed(followed_, true);
}

void Workbench::settle() {
  catch_up();
  document_.history().settle();
}

void Workbench::plan_rest() {
  for (const auto& [part, s] : states_)
    if (s.plan->busy()) return rest_timer_.start();
  for (const PartKind& kind : parts_.kinds()) {
    const State& s = state(kind.id());
    const auto design = followed_->designs.find(kind.id());
    if (!design || !design->present || s.planned || s.failed) continue;
    return plan_part(kind.id());
  }
}

void Workbench::plan_part(const std::string& part) {
  if (!followed_->designs.find(part)) return;
  states_.at(part).plan->start(
      [f = followed_, cache = cache_, kind = parts_.find(part)](Progress& progress) {
        return std::make_shared<const Expected<Planned>>(plan(*kind, *f, *cache, &progress));
      },
      [this, part](std::shared_ptr<const Expected<Planned>> made) {
        states_.at(part).failed = *made ? std::optional<Problem>() : made->error();
        if (!*made) return;
        states_.at(part).planned = std::shared_ptr<const Planned>(made, &**made);
        Q_EMIT planned_now();
      });
}

std::optional<Problem> Workbench::change_part(const std::string& part, const std::function<void(Project&)>& what,
                                              const Words& name, const std::string& mark) {
  catch_up();
  Project next = project();
  what(next);
  if (auto bad = would_not_come_back(parts_.book(), next, &project())) return bad;
  // Tried before it is taken: what no part follows from leaves everything as it was.
  auto tried = std::make_shared<const Followed>(follow(parts_, next, *cache_, followed_.get()));
  if (const auto it = tried->problems.find(part); it != tried->problems.end() && problem(part) == nullptr)
    return it->second;
  change(std::move(next), name, mark, std::move(tried));
  return {};
}

std::optional<Problem> Workbench::change_materials(Materials materials, const Words& name) {
  catch_up();
  Project next = project();
  next.materials = std::move(materials);
  if (auto bad = would_not_come_back(parts_.book(), next, &project())) return bad;
  change(std::move(next), name, {});
  return {};
}

std::optional<Problem> Workbench::change_rack(Rack rack, const Words& name) {
  catch_up();
  Project next = project();
  next.rack = std::move(rack);
  if (auto bad = would_not_come_back(parts_.book(), next, &project())) return bad;
  change(std::move(next), name, {});
  return {};
}

std::optional<Problem> Workbench::change_machine(Machine machine, const Words& name) {
  catch_up();
  Project next = project();
  next.machine = std::move(machine);
  if (auto bad = would_not_come_back(parts_.book(), next, &project())) return bad;
  change(std::move(next), name, {});
  return {};
}

void Workbench::set_more_remarks(std::vector<Remark> remarks) { more_remarks_ = std::move(remarks); }

void Workbench::set_paces(std::vector<Pace> paces) {
  paces_ = std::move(paces);
  worked_.sheet.reset();
  worked_.overview.reset();
}

std::optional<Problem> Workbench::change_pictures(std::vector<PlacedPicture> pictures, const Words& name,
                                                  const std::string& mark) {
  catch_up();
  Project next = project();
  next.pictures = std::move(pictures);
  if (auto bad = would_not_come_back(parts_.book(), next, &project())) return bad;
  change(std::move(next), name, mark);
  return {};
}

Expected<NewBlank> Workbench::begin_anew(const Planned& planned, const std::string& piece) {
  catch_up();
  Project next = project();
  auto done = wren::begin_anew(parts_, next, planned, piece, today());
  if (done) take_record(std::move(next.record));
  return done;
}

std::optional<Problem> Workbench::edit(const std::string& key, const std::string& text, const std::string& mark) {
  const auto field = parts_.book().find(project(), key);
  return edit({{key, text}}, worded("Change {}", field ? field->label : Words(key)), mark);
}

std::optional<Problem> Workbench::edit(const std::vector<std::pair<std::string, std::string>>& edits, const Words& name,
                                       const std::string& mark, bool mm) {
  if (edits.size() == 1 && edits.front().first.starts_with("shop.")) {
    Q_EMIT shop_asked(QString::fromStdString(edits.front().first), QString::fromStdString(edits.front().second));
    return {};
  }
  catch_up();
  auto next = with_edits(parts_.book(), project(), edits, mm ? UnitSystem::millimetre : units_);
  if (!next) return next.error();
  change(std::move(*next), name, mark);
  return {};
}

void Workbench::change(Project next, const Words& name, const std::string& mark,
                       std::shared_ptr<const Followed> followed) {
  date_measures(next);
  if (!document_.history().change(std::move(next), name, mark)) return;
  autosave_soon();
  if (followed != nullptr && followed->project == project())
    take_followed(std::move(followed), true);
  else
    follow_numbers();
}

void Workbench::autosave_soon() {
  // Not started anew by every edit: one a second would starve it.
  if (!autosave_timer_.isActive()) autosave_timer_.start();
}

void Workbench::give_up() {
  if (const auto& last = !asked_.empty() ? asked_ : under_way_; !last.empty() && !last.back().typed.empty()) catch_up();
  asked_.clear();
  under_way_.clear();
  ahead_ = {};
  follow_.cancel();
  if (!document_.history().give_up()) return;
  autosave_soon();
  follow_numbers();
}

void Workbench::undo() {
  catch_up();
  const QString name = in_words(history().undo_name(), units());
  if (!document_.history().undo()) return;
  autosave_soon();
  follow_numbers();
  Q_EMIT said(tr("Undone: %1").arg(name), false);
}

void Workbench::redo() {
  catch_up();
  if (!document_.history().redo()) return;
  autosave_soon();
  follow_numbers();
  Q_EMIT said(tr("Done again: %1").arg(in_words(history().undo_name(), units())), false);
}

void Workbench::set_units(UnitSystem units) {
  units_ = units;
  Q_EMIT changed();
}

void Workbench::mark_cut(const std::string& line) {
  catch_up();
  const PartKind* part = parts_.find(part_of_line(line));
  if (part == nullptr) return;
  // Said a second time of the same numbers it is taken back: a slip of the hand. Older cuts stay what they were.
  const std::string& print = followed_->fingerprints.at(part->id());
  Project p = project();
  if (happened(p.record, line, print).current) {
    take_fact_back(p.record, line, print);
    Q_EMIT said(tr("Not cut after all"), false);
  } else {
    note_fact(parts_, p, line, today());
  }
  take_record(std::move(p.record));
}

void Workbench::take_record(Record record) {
  catch_up();
  const bool clean = !history().modified() && !path().empty() && !held_by();
  document_.history().set_record(std::move(record));
  followed_ = std::make_shared<const Followed>(follow(parts_, project(), *cache_, followed_.get()));
  // A saved project stays saved: what happened must be found again tomorrow without another thought.
  if (clean) {
    if (const auto problem = save(path())) Q_EMIT said(words(*problem), true);
  } else {
    autosave_soon();
    Q_EMIT changed();
  }
}

void Workbench::note(const std::string& what) {
  catch_up();
  Project p = project();
  note_fact(parts_, p, what, today());
  take_record(std::move(p.record));
}

void Workbench::set_folder(const std::string& folder) {
  catch_up();
  Record record = project().record;
  record.folder = folder;
  if (!(record == project().record)) take_record(std::move(record));
  look_at_folder();
}

void Workbench::look_at_folder() {
  const std::filesystem::path folder = project().record.folder;
  std::vector<std::string> parts;
  for (const PartKind& kind : parts_.kinds()) parts.push_back(kind.id());
  look_.start([folder, parts](Progress&) { return std::make_shared<const WrittenSets>(read_written(folder, parts)); },
              [this, folder](std::shared_ptr<const WrittenSets> found) {
                written_ = *found;
                // Every file is watched, and every folder, so that a file that goes or comes is seen too.
                QStringList watch;
                const auto add = [&](const std::filesystem::path& p) {
                  const QString path = QString::fromStdString(p.string());
                  if (!p.empty() && QFileInfo::exists(path)) watch << path;
                };
                add(folder);
                std::error_code error;
                for (const auto& [part, set] : written_) {
                  add(set.folder);
                  for (auto it = std::filesystem::directory_iterator(set.folder, error);
                       !error && it != std::filesystem::end(it); it.increment(error))
                    if (it->is_regular_file(error)) add(it->path());
                }
                if (const QStringList before = watcher_.files() + watcher_.directories(); !before.isEmpty())
                  watcher_.removePaths(before);
                if (!watch.isEmpty()) watcher_.addPaths(watch);
                Q_EMIT changed();
              });
}

void Workbench::replace(Project project) {
  catch_up();
  keep_.finish();
  document_.replace(std::move(project));
  follow_numbers();
  look_at_folder();
  Q_EMIT opened();
}

std::optional<Problem> Workbench::open(const std::filesystem::path& path) {
  catch_up();
  keep_.finish();
  if (auto opened = document_.open(path, holder(), {}); !opened) return opened.error();
  autosave_timer_.stop();
  follow_numbers();
  look_at_folder();
  Q_EMIT this->opened();
  return {};
}

std::optional<Problem> Workbench::restore(const LostWork& lost, bool in_its_place) {
  catch_up();
  keep_.finish();
  if (in_its_place) {
    if (auto done = document_.restore_over(lost, holder()); !done) return done.error();
  } else {
    document_.restore(lost);
  }
  follow_numbers();
  look_at_folder();
  if (in_its_place) Q_EMIT opened();
  return {};
}

std::optional<Problem> Workbench::save(const std::filesystem::path& path, Document::Over over) {
  catch_up();
  keep_.finish();
  std::vector<std::string> notes;
  if (project().record.id.empty()) {
    Project named = project();
    give_id(named, random_name() + random_name());
    document_.history().set_record(std::move(named.record));
  }
  if (auto saved = document_.save(path, holder(), over, &notes); !saved) return saved.error();
  autosave_timer_.stop();
  for (const std::string& note : notes) Q_EMIT said(QString::fromStdString(note), true);
  Q_EMIT changed();
  return {};
}

std::vector<Difference> Workbench::differs_on_disk() const {
  const auto theirs = document_.on_disk();
  return theirs ? differences(parts_.book(), project(), *theirs) : std::vector<Difference>{};
}

void Workbench::autosave() {
  if (keep_.busy()) return autosave_soon();
  auto work = document_.unkept();
  if (!work) return;
  const auto shared = std::make_shared<const Document::Unkept>(std::move(*work));
  keep_.start([&book = parts_.book(), shared](Progress&) { return Document::keep(book, *shared); },
              [this, shared](Expected<void> done) {
                if (done)
                  document_.kept(*shared);
                else
                  Q_EMIT said(tr("Autosave: %1").arg(in_words(done.error(), units_)), true);
              });
}

std::optional<Problem> Workbench::not_ready() const {
  const std::string name = kind().title();
  if (const Problem* why = problem(part_))
    return Problem{why->kind, "no " + part_ + " follows from the numbers: " + why->what, why->where, why->todo};
  const auto what = planned(part_);
  if (!what && state(part_).failed) return state(part_).failed;
  if (!what) return Problem{ProblemKind::input, "its cuts are still being planned", name, "Try again in a moment"};
  if (what->made.pieces.empty())
    return Problem{ProblemKind::input, "these numbers ask for no such part, so nothing is cut of it", name,
                   "Choose another part, or change the numbers"};
  return {};
}

std::optional<Problem> Workbench::stops_writing() const {
  if (auto why = not_ready()) return why;
  for (const Remark& r : remarks())
    if (r.weight == Weight::stop)
      return Problem{ProblemKind::input, "something stops the work: " + r.sentence, kind().title(),
                     "Mend it before programs are written"};
  return {};
}

namespace {

/// "NOT PROVED: 2 faults, the worst: …": what a maker wants to know at once.
QString refused_words(const PartProof& proof, const std::string& part, UnitSystem units) {
  const auto remarks = proof.remarks(part);
  const QString verdict = QString::fromLatin1(verdict_words(proof.verdict()));
  if (remarks.empty()) return verdict;
  const QString worst = in_words(remarks.front().sentence, units);
  return remarks.size() == 1
             ? Workbench::tr("%1: %2").arg(verdict, worst)
             : Workbench::tr("%1: %3 faults, first of all: %2").arg(verdict, worst, QString::number(remarks.size()));
}

}  // namespace

void Workbench::prove_all() {
  catch_up();
  if (const auto why = not_ready()) {
    Q_EMIT said(words(*why), true);
    return;
  }
  const auto what = planned(part_);
  Q_EMIT progress(0, tr("rehearsing"));
  prove_.start(
      [p = project(), what](Progress& progress) { return prove_part(*what, programs_of(p, *what, ""), 0, &progress); },
      [this, part = part_, what](Expected<PartProof> result) {
        // A number that is on its way, by hand or by mouse: what was proved was proved of the numbers before it.
        catch_up();
        if (planned(part) != what) return Q_EMIT proved();
        State& s = states_.at(part);
        s.proof.reset();
        if (!result) {
          Q_EMIT said(words(result.error()), result.error().kind != ProblemKind::stopped);
        } else {
          s.proof = std::make_shared<const PartProof>(std::move(*result));
          if (s.proof->passed()) note(part + ".proof");
          const QString title = in_words(parts_.find(part)->title()).toLower();
          QStringList assumed;
          for (const std::string& c : s.proof->assumed) assumed << QString::fromStdString(c);
          const QString lengths =
              assumed.isEmpty() ? QString() : tr(", for assumed lengths of %1").arg(assumed.join(QStringLiteral(", ")));
          Q_EMIT said(s.proof->passed() ? tr("Proved: the programs make this %1%2").arg(title, lengths)
                                        : refused_words(*s.proof, part, units_),
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
  catch_up();
  // Held here and not in the dialog before: a stop that appears while that is open stops the writing.
  if (const auto why = stops_writing()) {
    Q_EMIT said(words(*why), true);
    return;
  }
  const auto what = planned(part_);
  write_.start(
      [p = project(), what, folder, date = today(), held = holder()](Progress& progress) -> Expected<WrittenFolder> {
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
                            certificate_of(p, *what, programs, *proof, date), held, &progress);
      },
      [this, folder](Expected<WrittenFolder> result) {
        if (!result) {
          Q_EMIT said(words(result.error()), true);
        } else {
          set_folder(std::filesystem::absolute(folder).lexically_normal().string());
          QString text = tr("Programs written into %1").arg(QString::fromStdString(result->folder.string()));
          if (!result->old.empty()) text += tr("; the set before is in its folder 'old'");
          if (!result->carried.empty())
            text += tr("; still there, and listed by no manifest: %1").arg(QString::fromStdString(result->carried[0]));
          Q_EMIT said(text, false);
          Q_EMIT written(QString::fromStdString(folder.string()));
        }
        Q_EMIT changed();
      },
      [this](double share, const QString& phase) { Q_EMIT progress(share, phase); });
}

}  // namespace wren::app

#include "core/job/follow.hpp"

#include <algorithm>
#include <map>

#include <fmt/format.h>

#include "core/document/project_file.hpp"
#include "core/job/probe_place.hpp"
#include "core/program/manifest.hpp"
#include "core/program/digits.hpp"
#include "core/units/plain_number.hpp"

namespace wren {
namespace {

bool followed_by(const PartKind& kind, const std::string& measured_key) {
  return std::any_of(kind.measures.begin(), kind.measures.end(), [&](const std::string& m) {
    return m == measured_key || (m.ends_with('.') && measured_key.starts_with(m));
  });
}

/// Where the facts begin that are of the blank at hand: after the last one that says it was spoiled.
std::size_t since_new_blank(const Record& record, const std::string& what) {
  const std::size_t cut = what.find(".cut.");
  if (cut == std::string::npos) return 0;
  const std::size_t side = cut + std::string(".cut.").size();
  const std::string spoiled =
      what.substr(0, cut) + ".spoiled." + what.substr(side, std::min(what.find('.', side), what.size()) - side);
  for (std::size_t i = record.facts.size(); i-- > 0;)
    if (record.facts[i].what == spoiled) return i + 1;
  return 0;
}

/// Whether anything was cut on this side of the blank at hand.
bool any_cut(const Record& record, const std::string& part, const std::string& side) {
  const std::string begins = part + ".cut." + side + ".";
  for (std::size_t i = since_new_blank(record, begins); i < record.facts.size(); ++i)
    if (record.facts[i].what.starts_with(begins)) return true;
  return false;
}

bool glued_up(const Record& record, const Planned& planned, const std::string& piece) {
  return std::any_of(planned.made.pieces.begin(), planned.made.pieces.end(), [&](const Piece& p) {
    return p.id == piece && !p.after.empty() && std::any_of(p.sides.begin(), p.sides.end(), [&](const Side& s) {
             return any_cut(record, planned.part, s.id);
           });
  });
}

bool of_another_piece(const std::vector<Piece>& pieces, const std::string& key) {
  return std::any_of(pieces.begin(), pieces.end(), [&](const Piece& p) {
    return std::find(p.measured.begin(), p.measured.end(), key) != p.measured.end();
  });
}

/// The measured values that a part's numbers follow: its own and those of all it is made from.
std::map<std::string, double> measures_for(const Parts& parts, const PartKind& kind, const Project& p) {
  std::map<std::string, double> out;
  for (const std::string& id : parts.made_from(kind))
    for (const Measured& m : p.record.measured)
      if (m.in_use && followed_by(*parts.find(id), m.key)) out[m.key] = m.value;
  return out;
}

/// What is wrong and what to do, in one; both keep what stands in their gaps.
Words sentence_of(const Problem& p) {
  auto insets = p.what.insets();
  insets.insert(insets.end(), p.todo.insets().begin(), p.todo.insets().end());
  return {p.what.id() + ". " + p.todo.id() + ".", std::move(insets)};
}

}  // namespace

Parts::Parts(std::vector<PartKind> kinds)
    : kinds_(std::move(kinds)), book_([this] {
        std::vector<PartTable> tables;
        for (const PartKind& k : kinds_) tables.push_back(k.table);
        return FieldBook(std::move(tables));
      }()) {}

const PartKind* Parts::find(const std::string& id) const {
  const auto it = std::find_if(kinds_.begin(), kinds_.end(), [&](const PartKind& k) { return k.id() == id; });
  return it != kinds_.end() ? &*it : nullptr;
}

std::string Parts::names() const {
  std::string out;
  for (std::size_t i = 0; i < kinds_.size(); ++i)
    out += (i == 0 ? "" : i + 1 == kinds_.size() ? " or " : ", ") + kinds_[i].id();
  return out;
}

std::vector<std::string> Parts::made_from(const PartKind& kind) const {
  std::vector<std::string> out;
  for (const std::string& need : kind.needs)
    if (const PartKind* other = find(need))
      for (const std::string& id : made_from(*other))
        if (std::find(out.begin(), out.end(), id) == out.end()) out.push_back(id);
  out.push_back(kind.id());
  return out;
}

bool same_numbers(const Parts& parts, const PartKind& kind, const Project& a, const Project& b) {
  if (!(a.machine == b.machine && a.rack == b.rack && a.programs == b.programs)) return false;
  const auto made_from = parts.made_from(kind);
  for (const std::string& id : made_from)
    if (!a.parts.same(b.parts, id)) return false;
  if (!(own_materials_of(parts.book(), a, made_from) == own_materials_of(parts.book(), b, made_from))) return false;
  return measures_for(parts, kind, a) == measures_for(parts, kind, b);
}

Followed follow(const Parts& parts, Project project, Cache& cache, const Followed* before, const DesignMade& made) {
  Followed out{std::move(project), {}, {}, {}, {}};
  const auto make = [&](const auto& self, const PartKind& kind) -> void {
    const std::string& id = kind.id();
    if (out.designs.find(id) || out.problems.contains(id)) return;
    // Of every part, also of one that no design follows of: facts are held against it.
    const bool same = before != nullptr && same_numbers(parts, kind, before->project, out.project);
    const auto known = same ? before->fingerprints.find(id) : std::map<std::string, std::string>::const_iterator{};
    out.fingerprints[id] =
        same && known != before->fingerprints.end() ? known->second : fingerprint(parts, kind, out.project);
    for (const std::string& need : kind.needs) {
      const PartKind* other = parts.find(need);
      if (other == nullptr) continue;
      self(self, *other);
      if (const auto it = out.problems.find(need); it != out.problems.end()) {
        out.problems.emplace(id, it->second);
        if (before == nullptr || before->designs.find(id)) out.changed.push_back(id);
        return;
      }
    }
    if (same) {
      if (auto kept = before->designs.find(id)) return out.designs.set(id, std::move(kept));
      if (const auto it = before->problems.find(id); it != before->problems.end()) {
        out.problems.insert(*it);
        return;
      }
    }
    out.changed.push_back(id);
    auto design = kind.design(out.input(cache));
    if (!design) {
      out.problems.emplace(id, design.error());
      return;
    }
    const auto kept = std::make_shared<const Design>(std::move(*design));
    out.designs.set(id, kept);
    if (made) made(id, kept);
  };
  for (const PartKind& kind : parts.kinds()) make(make, kind);
  return out;
}

std::string fingerprint(const Parts& parts, const PartKind& kind, const Project& project) {
  std::string text = numbers_text(parts.book(), project, parts.made_from(kind));
  for (const auto& [key, value] : measures_for(parts, kind, project)) text += fmt::format("\n{} {}", key, value);
  return sha256_hex(text).substr(0, 16);
}

Expected<Planned> plan(const PartKind& kind, const Followed& followed, Cache& cache, Progress* progress) {
  if (const auto it = followed.problems.find(kind.id()); it != followed.problems.end())
    return tl::unexpected(it->second);
  const auto design = followed.designs.find(kind.id());
  if (!design)
    return fail(ProblemKind::input, "there is no such part in this project", kind.id(), "Choose another part");
  Planned out{kind.id(), followed.fingerprints.at(kind.id()), {}, {}, design->rack};
  if (progress != nullptr && !progress->go_on(0, "from numbers to pieces"))
    return fail(ProblemKind::stopped, "planning was stopped", "", "Start it again when you like");
  if (design->present) out.made = kind.pieces(followed.input(cache));
  const Project& p = followed.project;
  auto cuts = make_cuts(out.made.pieces,
                        {p.machine, out.rack, p.programs.safe, kind.id(), last_digit(p.programs.units)}, progress);
  if (!cuts) return tl::unexpected(cuts.error());
  out.cuts = std::move(*cuts);
  choose_probe_places(out.made.pieces, out.cuts, out.rack, kind.id());
  return out;
}

std::vector<Remark> remarks_of(const PartKind& kind, const Followed& followed, const Planned* planned) {
  std::vector<Remark> out;
  if (const auto it = followed.problems.find(kind.id()); it != followed.problems.end()) {
    const Problem& p = it->second;
    out.push_back({kind.id() + ".impossible", Weight::stop, sentence_of(p), 0, 0, "", "geometry", p.where, {}, {}, {}});
  }
  const auto take = [&](const std::vector<Remark>& more) { out.insert(out.end(), more.begin(), more.end()); };
  if (const auto design = followed.designs.find(kind.id())) take(design->remarks);
  if (planned != nullptr) {
    take(planned->made.remarks);
    take(planned->cuts.remarks);
  }
  std::stable_sort(out.begin(), out.end(), [](const Remark& a, const Remark& b) { return a.weight < b.weight; });
  return out;
}

std::vector<LedgerLine> ledger(const Parts& parts, const Followed& followed, Cache& cache,
                               const std::vector<const Planned*>& planned) {
  std::vector<LedgerLine> out = given_numbers(parts.book(), followed.project);
  const auto take = [&](std::vector<LedgerLine> more) { std::move(more.begin(), more.end(), std::back_inserter(out)); };
  for (const PartKind& kind : parts.kinds()) {
    const auto design = followed.designs.find(kind.id());
    if (design && design->present && kind.numbers != nullptr) take(kind.numbers(followed.input(cache)));
  }
  for (const Planned* plan : planned) {
    if (plan == nullptr) continue;
    take(plan->made.numbers);
    Numbers n;
    for (const Placement& side : plan->cuts.sides)
      for (const CutFacts& f : side.facts) {
        const std::string base = fmt::format("cuts.{}.{}.{}.", plan->part, side.id, f.id);
        n.number(base + "seconds", worded("{}, time", Words(f.title)), std::round(f.seconds), "s",
                 worded("{:.1f} min, with acceleration and look-ahead", f.seconds / 60));
        n.number(base + "feed", worded("{}, feed", Words(f.title)), f.feed, "mm/min", f.feed_reason);
        n.number(base + "rpm", worded("{}, spindle", Words(f.title)), f.rpm, "1/min",
                 "the cutter's diameter and the spindle");
        n.length(base + "deepest", worded("{}, deepest", Words(f.title)), f.deepest,
                 "lowest tip, from the blank's top");
        n.number(base + "path", worded("{}, path", Words(f.title)), std::round(f.length / 10) / 100, "m",
                 "cutting, without links");
      }
    n.number("cuts." + plan->part + ".seconds", "All cuts", std::round(plan->cuts.seconds), "s",
             worded("{:.1f} min, without changes of cutter", plan->cuts.seconds / 60));
    take(n.take());
  }
  return out;
}

void note_fact(const Parts& parts, Project& project, const std::string& what, const std::string& date) {
  const PartKind* part = parts.find(what.substr(0, what.find('.')));
  if (part == nullptr) return;
  Record& record = project.record;
  const std::string print = fingerprint(parts, *part, project);
  take_fact_back(record, what, print);
  record.facts.push_back({what, date, print});
  if (record.facts.size() > most_facts) record.facts.erase(record.facts.begin());
  auto& numbers = record.numbers[print];
  if (numbers.empty())
    for (const std::string& id : parts.made_from(*part))
      for (const Field& f : parts.find(id)->table.fields)
        if (!f.alias) numbers[f.key] = field_text(f, f.get(project));
  // Numbers that no fact stands on are not kept; of too many, those of the oldest facts go.
  const auto stands_on = [&](const std::string& p) {
    return std::any_of(record.facts.begin(), record.facts.end(), [&](const Fact& f) { return f.fingerprint == p; });
  };
  std::erase_if(record.numbers, [&](const auto& one) { return !stands_on(one.first); });
  for (const Fact& f : record.facts) {
    if (record.numbers.size() <= most_numbers_kept) break;
    if (f.fingerprint != print) record.numbers.erase(f.fingerprint);
  }
}

Happened happened(const Record& record, const std::string& what, const std::string& fingerprint) {
  for (std::size_t i = record.facts.size(); i-- > since_new_blank(record, what);)
    if (record.facts[i].what == what) return {&record.facts[i], record.facts[i].fingerprint == fingerprint};
  return {};
}

void take_fact_back(Record& record, const std::string& what, const std::string& fingerprint) {
  const auto from = record.facts.begin() + static_cast<std::ptrdiff_t>(since_new_blank(record, what));
  record.facts.erase(std::remove_if(from, record.facts.end(),
                                    [&](const Fact& f) { return f.what == what && f.fingerprint == fingerprint; }),
                     record.facts.end());
}

Expected<NewBlank> begin_anew(const Parts& parts, Project& project, const Planned& planned, const std::string& piece,
                              const std::string& date) {
  const PartKind* kind = parts.find(planned.part);
  const auto& pieces = planned.made.pieces;
  const auto of = [&](const std::string& id) {
    return std::find_if(pieces.begin(), pieces.end(), [&](const Piece& p) { return p.id == id; });
  };
  if (kind == nullptr || of(piece) == pieces.end()) {
    std::string all;
    for (const Piece& p : pieces) all += (all.empty() ? "" : ", ") + p.id;
    return fail(ProblemKind::input, worded("'{}' is no piece of this part", piece), planned.part,
                all.empty() ? "It has none" : "Name one of " + all);
  }
  // What it is glued of is gone with it, and so is what was made from it.
  std::vector<std::string> gone{piece};
  for (std::size_t i = 0; i < gone.size(); ++i)
    for (const Piece& p : pieces) {
      const bool before = of(gone[i]) != pieces.end() && std::find(of(gone[i])->after.begin(), of(gone[i])->after.end(),
                                                                   p.id) != of(gone[i])->after.end();
      const bool after = std::find(p.after.begin(), p.after.end(), gone[i]) != p.after.end();
      const bool was_cut = std::any_of(p.sides.begin(), p.sides.end(),
                                       [&](const Side& s) { return any_cut(project.record, planned.part, s.id); });
      // Layers that lie loose beside a spoiled one stay; once they were glued and cut together they do not.
      const bool glued = before && glued_up(project.record, planned, gone[i]);
      if ((glued || (after && was_cut)) && std::find(gone.begin(), gone.end(), p.id) == gone.end())
        gone.push_back(p.id);
    }
  NewBlank out;
  Record& record = project.record;
  for (const std::string& id : gone) {
    const Piece& p = *of(id);
    bool cut = false;
    for (const Side& s : p.sides) {
      if (!any_cut(record, planned.part, s.id)) continue;
      cut = true;
      note_fact(parts, project, planned.part + ".spoiled." + s.id, date);
    }
    for (Measured& m : record.measured) {
      if (!m.in_use) continue;
      const PartTable* owner = parts.book().part_of_key("measured." + m.key);
      const bool here =
          owner != nullptr && owner->id == planned.part &&
          (p.measured.empty() ? !of_another_piece(pieces, m.key)
                              : std::find(p.measured.begin(), p.measured.end(), m.key) != p.measured.end());
      if (!here) continue;
      m.in_use = false;
      out.measures.push_back(m.key);
    }
    if (id == piece && !cut && out.measures.empty())
      return fail(ProblemKind::input, worded("nothing was cut or measured of '{}' yet", p.title), planned.part,
                  "It needs no new blank: cut it");
    if (cut || id == piece) out.again.push_back(p.title);
  }
  // Other parts that were cut after what was measured here.
  for (const PartKind& other : parts.kinds()) {
    if (other.id() == planned.part) continue;
    const bool follows = std::any_of(out.measures.begin(), out.measures.end(),
                                     [&](const std::string& key) { return followed_by(other, key); });
    const bool cut = std::any_of(record.facts.begin(), record.facts.end(), [&](const Fact& f) {
      return f.what.starts_with(other.id() + ".cut.") && happened(record, f.what, f.fingerprint).fact != nullptr;
    });
    if (follows && cut)
      out.again.push_back(other.title() +
                          ": it follows what was measured of this piece; measure the new one and compare");
  }
  return out;
}

Words changed_since(const Parts& parts, const PartKind& kind, const Project& project, const std::string& fingerprint,
                    std::size_t most) {
  const auto then = project.record.numbers.find(fingerprint);
  if (then == project.record.numbers.end()) return {};
  Words out;
  std::size_t more = 0;
  for (const std::string& id : parts.made_from(kind))
    for (const Field& f : parts.find(id)->table.fields) {
      const auto was = then->second.find(f.key);
      if (f.alias || was == then->second.end()) continue;
      const std::string is = field_text(f, f.get(project));
      if (was->second == is) continue;
      if (most == 0) {
        ++more;
        continue;
      }
      --most;
      const auto told = [&](const std::string& text) {
        if (f.kind == FieldKind::length && plain_number(text)) return worded("{}", as_mm(text));
        return Words(text + (f.unit.empty() || f.unit == "mm" ? "" : " " + f.unit));
      };
      out = out + (out.empty() ? "" : ", ") + worded("{} {} (now {})", f.label, told(was->second), told(is));
    }
  if (more > 0) out = out + worded(", and {} more", more);
  return out.empty() ? "drawings, machine or cutters" : out;
}

std::vector<std::string> general_cautions(const Materials& materials) {
  std::vector<std::string> out{
      "Eye and ear protection on; hands, sleeves and hair away while the cutter turns.",
      "Extraction on: fine wood dust harms lungs; wear a mask when you sweep or sand.",
      "Never leave the machine alone while it cuts; know where its stop is.",
      "The first run of a new program is an air pass: raised, or without the blank, as its step says.",
      "Machine guarding, electrics and dust follow the rules where you are; the program plans, you decide."};
  std::map<std::string, std::string> whose;  // caution → the materials it is about
  for (const Material& m : materials)
    if (const char* words = dust_words(m.dust); words != nullptr && whose[words].find(m.name) == std::string::npos)
      whose[words] += (whose[words].empty() ? "" : ", ") + m.name;
  for (const auto& [words, names] : whose) out.push_back(fmt::format("{}: {}", names, words));
  for (const Material& m : materials)
    if (m.melts) {
      out.push_back(
          worded("{} melts where a cutter rubs: never let it dwell, stop when chips turn to strings.", m.name));
      break;
    }
  out.push_back("Spindle stopped and unable to start before you touch cutter or collet.");
  out.push_back("Probe z after every change of cutter.");
  return out;
}

}  // namespace wren

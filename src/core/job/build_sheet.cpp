#include "core/job/build_sheet.hpp"

#include <algorithm>

namespace wren {
namespace {

bool key_matches(const std::string& wanted, const std::string& key) {
  return wanted == key || (wanted.back() == '.' && key.starts_with(wanted));
}

/// What a part's folder says, in the words of its line, and whether it is what the numbers ask for.
std::pair<bool, std::string> told_by(const WrittenSet& set, const Project& p, const std::string& print) {
  std::string note = set.folder.string();
  if (!set.faults.empty()) return {false, note + ": " + set.faults.front() + " Write them again before you cut."};
  if (set.fingerprint != print)
    return {false, note + (set.project == p.name ? " (older numbers)" : " (of another project: " + set.project + ")")};
  return {true, note + (set.proved ? "" : " (not proved)")};
}

/// Lines that every part has: its cuts, its rehearsal, its programs, its run sheet.
void cuts_and_papers(const Parts& parts, const PartKind& kind, const Followed& followed, const Planned* planned,
                     const WrittenSets& written, std::vector<BuildLine>& out) {
  const std::string& id = kind.id();
  const Project& p = followed.project;
  const std::string& print = followed.fingerprints.at(id);
  const auto set = written.find(id);
  const auto [current, told] = set != written.end() ? told_by(set->second, p, print) : std::pair{false, std::string()};
  const bool proved =
      happened(p.record, id + ".proof", print).current || (set != written.end() && current && set->second.proved);
  const LineState made = current ? LineState::written : proved ? LineState::proved : LineState::ready;
  if (planned != nullptr)
    for (const Piece& piece : planned->made.pieces)
      for (const Side& side : piece.sides) {
        const Placement* placement = planned->cuts.side(side.id);
        if (placement == nullptr || placement->facts.empty()) continue;
        out.push_back(heading(worded("{}, {}", Words(kind.title()), Words(side.title))));
        for (const CutFacts& f : placement->facts) {
          BuildLine l{id + ".cut." + side.id + "." + f.id, f.title, made, {}, Look::rehearsal};
          for (const Operation& op : side.operations)
            if (is_cut_of(op, f.id)) l.keys = op.keys;
          l.keys.push_back("cuts." + id + "." + side.id + "." + f.id + ".");
          l.seconds = f.seconds;
          l.cutter = f.cutter;
          l.side = side.id;
          l.after = piece.waits_for;
          l.hint = "When it is cut, say so in the Work menu: the sheet then shows what is next.";
          // Wood that was cut stays cut, whatever the numbers say today.
          if (const auto cut = happened(p.record, l.id, print); cut.fact != nullptr) {
            l.state = LineState::cut;
            l.note = worded("Cut on {}", cut.fact->date);
            l.older = !cut.current;
            if (l.older) {
              const Words then = changed_since(parts, kind, p, cut.fact->fingerprint);
              l.note = worded("Cut on {}, from older numbers{}", cut.fact->date, then.empty() ? then : ": " + then);
            }
          }
          out.push_back(std::move(l));
        }
      }
  out.push_back(heading(worded("{}, checks and papers", Words(kind.title()))));
  out.push_back({id + ".rehearsal",
                 "Rehearsal",
                 proved ? LineState::proved : LineState::ready,
                 {"cuts." + id + ".seconds"},
                 Look::rehearsal});
  BuildLine programs{id + ".programs",
                     "Programs",
                     current ? LineState::written : LineState::ready,
                     {"programs.units", "programs.arcs", "programs.files", "programs.safe"},
                     Look::rehearsal};
  programs.note = told;
  programs.older = !told.empty() && !current;
  programs.hint = "No programs were written from these numbers yet.";
  out.push_back(std::move(programs));
  BuildLine sheet{id + ".sheet",
                  "Run sheet",
                  happened(p.record, id + ".sheet", print).current ? LineState::written : LineState::ready,
                  {},
                  Look::bed};
  sheet.hint = "The run sheet has no numbers of its own. Print it, or write it as PDF, from the Work menu.";
  out.push_back(std::move(sheet));
}

/// Puts lines into a section of the sheet.
void add(std::vector<BuildLine> lines, const std::string& section, std::vector<BuildLine>& to) {
  for (BuildLine& l : lines) {
    l.section = section;
    to.push_back(std::move(l));
  }
}

bool done(const BuildLine& l) { return (l.state == LineState::cut || l.state == LineState::measured) && !l.older; }

/// Hand work that was said to be done, and whether the numbers are still those.
void note_hand_work(const Parts& parts, const Followed& followed, std::vector<BuildLine>& lines) {
  for (BuildLine& l : lines) {
    if (!l.by_hand) continue;
    const PartKind* kind = parts.find(part_of_line(l.id));
    const auto print = followed.fingerprints.find(part_of_line(l.id));
    const auto made =
        happened(followed.project.record, l.id, print != followed.fingerprints.end() ? print->second : std::string());
    if (made.fact == nullptr || kind == nullptr) continue;
    l.state = l.id.ends_with("-measured") ? LineState::measured : LineState::cut;
    l.note = worded("Done on {}", made.fact->date);
    l.older = !made.current;
    // A step that speaks of certain numbers is older only where one of those has changed.
    const auto numbers = followed.project.record.numbers.find(made.fact->fingerprint);
    if (l.older && !l.keys.empty() && numbers != followed.project.record.numbers.end())
      l.older = std::any_of(numbers->second.begin(), numbers->second.end(), [&](const auto& then) {
        const auto field = belongs(l, then.first) ? parts.book().find(followed.project, then.first) : std::nullopt;
        return field && field_text(*field, field->get(followed.project)) != then.second;
      });
    if (!l.older) continue;
    const Words then = changed_since(parts, *kind, followed.project, made.fact->fingerprint);
    l.note = worded("Done on {}, from older numbers{}", made.fact->date, then.empty() ? then : ": " + then);
  }
}

/// The first line that has to be done before this one and is not. A name that ends in a dot stands for all that begin
/// with it; what is not on the sheet holds nothing up.
void note_precedence(std::vector<BuildLine>& sheet) {
  for (BuildLine& l : sheet)
    for (const std::string& before : l.after) {
      const auto open = std::find_if(sheet.begin(), sheet.end(), [&](const BuildLine& o) {
        return !o.id.empty() && key_matches(before, o.id) && !done(o) && (!o.side.empty() || o.by_hand);
      });
      if (open == sheet.end() || done(l)) continue;
      l.held_up_by = open->id;
      if (l.note.empty()) l.note = worded("After: {}", open->title);
      break;
    }
}

/// Lines of putting together in the order in which they can be done; else as the parts brought them.
std::vector<BuildLine> in_running_order(std::vector<BuildLine> lines) {
  std::vector<BuildLine> out;
  while (!lines.empty()) {
    const auto free = std::find_if(lines.begin(), lines.end(), [&](const BuildLine& l) {
      return std::none_of(l.after.begin(), l.after.end(), [&](const std::string& before) {
        return std::any_of(lines.begin(), lines.end(), [&](const BuildLine& o) { return key_matches(before, o.id); });
      });
    });
    const auto next = free != lines.end() ? free : lines.begin();
    out.push_back(std::move(*next));
    lines.erase(next);
  }
  return out;
}

/// What to do next: the first open question, then part by part what is not proved, written, cut or measured yet.
void mark_next(const Parts& parts, const std::vector<const Planned*>& planned, std::vector<BuildLine>& sheet) {
  const auto mark = [&](const auto& is) {
    const auto it = std::find_if(sheet.begin(), sheet.end(), is);
    if (it != sheet.end()) it->next = true;
    return it != sheet.end();
  };
  if (mark([](const BuildLine& l) { return l.state == LineState::question && !l.waits; })) return;
  for (const PartKind& kind : parts.kinds()) {
    const std::string& id = kind.id();
    const auto todo = [&](const char* what, LineState done) {
      return mark([&](const BuildLine& l) { return l.id == id + "." + what && l.state < done; });
    };
    if (todo("rehearsal", LineState::proved) || todo("programs", LineState::written) ||
        todo("sheet", LineState::written) || mark([&](const BuildLine& l) {
          return l.id.starts_with(id + ".cut.") && l.state != LineState::cut && l.held_up_by.empty();
        }) ||
        todo("measure", LineState::measured))
      return;
    // A part whose cuts are not planned is not done with.
    if (std::any_of(sheet.begin(), sheet.end(), [&](const BuildLine& l) { return l.id == id + ".rehearsal"; }) &&
        std::none_of(planned.begin(), planned.end(), [&](const Planned* p) { return p != nullptr && p->part == id; }))
      if (mark([&](const BuildLine& l) { return l.id == id + ".sheet"; })) return;
  }
  mark([](const BuildLine& l) {
    return l.by_hand && l.section == section::assembly && l.state != LineState::cut && l.held_up_by.empty();
  });
}

}  // namespace

bool belongs(const BuildLine& line, const std::string& key) {
  return std::any_of(line.keys.begin(), line.keys.end(), [&](const std::string& k) { return key_matches(k, key); });
}

const char* line_state_name(LineState state) {
  const char* const names[] = {"", "open question", "ready", "written", "proved", "cut", "measured"};
  return names[static_cast<int>(state)];
}

std::vector<BuildLine> build_sheet(const Parts& parts, const Followed& followed, Cache& cache,
                                   const std::vector<const Planned*>& planned, const WrittenSets& written) {
  const Project& p = followed.project;
  std::vector<Remark> remarks;
  std::vector<BuildLine> instrument;
  std::vector<BuildLine> of_parts;
  std::vector<BuildLine> small;
  std::vector<BuildLine> assembly;
  for (const PartKind& kind : parts.kinds()) {
    const auto design = followed.designs.find(kind.id());
    const auto at = std::find_if(planned.begin(), planned.end(),
                                 [&](const Planned* one) { return one != nullptr && one->part == kind.id(); });
    const Planned* plan = at != planned.end() ? *at : nullptr;
    for (Remark& r : remarks_of(kind, followed, plan)) remarks.push_back(std::move(r));
    if (design && !design->present) continue;
    const PartInput input = followed.input(cache);
    PartLines lines = kind.lines(design ? &input : nullptr, p);
    add(std::move(lines.instrument), section::instrument, instrument);
    add(std::move(lines.assembly), section::assembly, assembly);
    std::vector<BuildLine> own = std::move(lines.before);
    if (design) {
      cuts_and_papers(parts, kind, followed, plan, written, own);
      std::move(lines.after.begin(), lines.after.end(), std::back_inserter(own));
    }
    add(std::move(own), kind.small ? section::small_parts : kind.id(), kind.small ? small : of_parts);
  }
  std::vector<BuildLine> out;
  const auto headed = [&](const char* title, const char* id, std::vector<BuildLine> lines) {
    if (lines.empty()) return;
    out.push_back(heading(title));
    out.back().section = id;
    std::move(lines.begin(), lines.end(), std::back_inserter(out));
  };
  headed("Instrument", section::instrument, std::move(instrument));
  std::move(of_parts.begin(), of_parts.end(), std::back_inserter(out));
  std::move(small.begin(), small.end(), std::back_inserter(out));
  headed("Assembly", section::assembly, in_running_order(std::move(assembly)));
  std::vector<BuildLine> shop;
  add({{"machine", "Machine", LineState::ready, {"machine."}, Look::machine},
       {"rack", "Cutter rack", LineState::ready, {"rack."}, Look::rack},
       {"materials", "Materials", LineState::ready, {"material."}, Look::bed},
       {"runs", "Run log", LineState::ready, {}, Look::runs}},
      section::shop, shop);
  headed("Shop", section::shop, std::move(shop));
  note_hand_work(parts, followed, out);
  note_precedence(out);
  for (const Remark& r : remarks) {
    if (r.weight != Weight::stop && r.weight != Weight::think_again) continue;
    const auto l = std::find_if(out.begin(), out.end(), [&](const BuildLine& line) {
      return line.state == LineState::ready && belongs(line, r.place);
    });
    if (l == out.end()) continue;
    l->state = LineState::question;
    l->note = r.sentence;
  }
  mark_next(parts, planned, out);
  return out;
}

std::string part_of_line(const std::string& id) { return id.substr(0, id.find('.')); }

std::vector<LedgerLine> lines_of(const BuildLine& line, const std::vector<LedgerLine>& ledger) {
  std::vector<LedgerLine> out;
  const auto has = [&](const std::string& key) {
    return std::any_of(out.begin(), out.end(), [&](const LedgerLine& l) { return l.key == key; });
  };
  for (const std::string& key : line.keys)
    for (const LedgerLine& l : ledger)
      if (key_matches(key, l.key) && !has(l.key)) out.push_back(l);
  return out;
}

std::string line_for_key(const std::vector<BuildLine>& sheet, const std::string& key) {
  for (const BuildLine& l : sheet)
    if (belongs(l, key)) return l.id;
  return {};
}

}  // namespace wren

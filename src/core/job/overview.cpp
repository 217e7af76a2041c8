#include "core/job/overview.hpp"

#include <algorithm>
#include <cctype>

namespace wren {
namespace {

bool is_cut(const BuildLine& line) { return !line.side.empty(); }
bool ends_with(const BuildLine& line, const char* what) { return line.id.ends_with(what); }
bool is_measure(const BuildLine& line) { return ends_with(line, ".measure") || line.state == LineState::measured; }
bool is_step(const BuildLine& line) {
  return is_cut(line) || line.by_hand || is_measure(line) || ends_with(line, ".rehearsal") ||
         ends_with(line, ".programs") || ends_with(line, ".sheet");
}

bool is_done(const BuildLine& line) {
  if (line.older) return false;
  if (line.by_hand) return line.state >= LineState::cut;
  if (is_cut(line)) return line.state == LineState::cut;
  if (is_measure(line)) return line.state == LineState::measured;
  return line.state >= LineState::written;
}

/// Parts that are made in a section: those whose programs stand there.
std::vector<const PartKind*> made_in(const Parts& parts, const std::string& id, const std::vector<BuildLine>& sheet) {
  std::vector<const PartKind*> out;
  for (const PartKind& kind : parts.kinds())
    if (std::any_of(sheet.begin(), sheet.end(),
                    [&](const BuildLine& l) { return l.section == id && l.id == kind.id() + ".programs"; }))
      out.push_back(&kind);
  return out;
}

Standing standing_of(const SectionState& s, const std::vector<const BuildLine*>& lines,
                     const std::vector<const PartKind*>& kinds, const Followed& followed,
                     const std::set<std::string>& refused) {
  const auto any = [&](const auto& is) {
    return std::any_of(lines.begin(), lines.end(), [&](const BuildLine* l) { return is(*l); });
  };
  if (s.stops > 0 || any([](const BuildLine& l) { return l.state == LineState::question && !l.waits; }))
    return Standing::open;
  if (any([](const BuildLine& l) { return l.waits; })) return Standing::waits;
  if (std::any_of(kinds.begin(), kinds.end(), [&](const PartKind* k) { return refused.contains(k->id()); }))
    return Standing::refused;
  const auto rehearsed = [](const BuildLine& l) { return ends_with(l, ".rehearsal"); };
  if (!any(rehearsed)) return Standing::ready;
  if (!any([&](const BuildLine& l) { return rehearsed(l) && l.state < LineState::proved; })) return Standing::proved;
  const auto once = [&](const PartKind* k) {
    return happened(followed.project.record, k->id() + ".proof", {}).fact != nullptr;
  };
  return std::any_of(kinds.begin(), kinds.end(), once) ? Standing::older : Standing::ready;
}

WoodState wood_of(const SectionState& s, const std::vector<const BuildLine*>& lines,
                  const std::vector<const PartKind*>& kinds, const Record& record) {
  std::size_t measures = 0;
  std::size_t measured = 0;
  for (const BuildLine* l : lines)
    if (ends_with(*l, ".measure")) {
      ++measures;
      if (l->state == LineState::measured) ++measured;
    }
  if (s.cuts > 0 && s.cuts_done == s.cuts)
    return measures > 0 && measured == measures ? WoodState::measured : WoodState::cut;
  if (s.cuts_done > 0) return WoodState::begun;
  for (const PartKind* k : kinds)
    for (const Fact& f : record.facts)
      if (f.what.starts_with(k->id() + ".spoiled.")) return WoodState::spoiled;
  return WoodState::none;
}

std::string lower(std::string text) {
  for (char& c : text) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return text;
}

std::vector<std::string> words_of(const std::string& text) {
  std::vector<std::string> out;
  std::string word;
  for (const char c : lower(text) + ' ') {
    if (std::isspace(static_cast<unsigned char>(c)) == 0) {
      word += c;
    } else if (!word.empty()) {
      out.push_back(word);
      word.clear();
    }
  }
  return out;
}

}  // namespace

const char* standing_name(Standing standing) {
  const char* const names[] = {
      "open question", "waits", "ready, not proved", "proved for older numbers", "proved", "refused by the proof"};
  return names[static_cast<int>(standing)];
}

const char* wood_state_name(WoodState state) {
  const char* const names[] = {"not cut", "spoiled, new blank", "begun", "cut", "cut and measured"};
  return names[static_cast<int>(state)];
}

Overview overview_of(const Parts& parts, const Followed& followed, const std::vector<const Planned*>& planned,
                     const std::vector<BuildLine>& sheet, const std::set<std::string>& refused) {
  Overview out;
  std::map<std::string, std::vector<const BuildLine*>> lines;
  for (const BuildLine& l : sheet) {
    if (!lines.contains(l.section)) {
      SectionState s;
      s.id = l.section;
      s.title = l.section == section::small_parts ? "Small parts" : l.title;
      out.sections.push_back(std::move(s));
    }
    lines[l.section].push_back(&l);
    if (l.waits) out.waits.push_back({l.id, l.waits_on, l.note});
  }
  // What another section holds up; within one the order of its lines says it.
  for (const BuildLine& l : sheet) {
    if (l.held_up_by.empty()) continue;
    const auto on = std::find_if(sheet.begin(), sheet.end(), [&](const BuildLine& o) { return o.id == l.held_up_by; });
    if (on != sheet.end() && on->section != l.section &&
        std::none_of(out.waits.begin(), out.waits.end(), [&](const Wait& w) {
          return w.on == on->id ||
                 part_of_line(w.line) + part_of_line(w.on) == part_of_line(l.id) + part_of_line(on->id);
        }))
      out.waits.push_back({l.id, l.held_up_by, l.note});
  }
  for (SectionState& s : out.sections) {
    const auto& own = lines[s.id];
    for (const BuildLine* l : own) {
      s.has_next = s.has_next || l->next;
      if (l->state == LineState::heading) continue;
      if (l->older) ++s.older;
      if (is_cut(*l)) {
        ++s.cuts;
        if (l->state == LineState::cut) ++s.cuts_done;
        if (l->state != LineState::cut) s.seconds_left += l->seconds;
      }
      if (!is_step(*l) && l->state != LineState::question) continue;
      ++s.of;
      if (is_done(*l)) ++s.done;
    }
    const auto kinds = made_in(parts, s.id, sheet);
    // A remark belongs to the section that shows the number it speaks of; one of no number, to its part's own.
    for (const PartKind& kind : parts.kinds()) {
      const auto plan = std::find_if(planned.begin(), planned.end(),
                                     [&](const Planned* one) { return one != nullptr && one->part == kind.id(); });
      for (const Remark& r : remarks_of(kind, followed, plan != planned.end() ? *plan : nullptr)) {
        if (r.weight != Weight::stop) continue;
        const std::string at = line_for_key(sheet, r.place);
        const auto line = std::find_if(sheet.begin(), sheet.end(), [&](const BuildLine& l) { return l.id == at; });
        const std::string where = !at.empty() && line != sheet.end() ? line->section
                                  : kind.small                       ? section::small_parts
                                                                     : kind.id();
        if (where == s.id) ++s.stops;
      }
    }
    s.made = !kinds.empty();
    s.standing = standing_of(s, own, kinds, followed, refused);
    s.wood = wood_of(s, own, kinds, followed.project.record);
  }
  const auto next = std::find_if(sheet.begin(), sheet.end(), [](const BuildLine& l) { return l.next; });
  if (next == sheet.end()) return out;
  out.next = NextStep{*next, {}, !next->note.empty() ? next->note : next->hint};
  for (const SectionState& s : out.sections)
    if (s.id == next->section) out.next->section = s.title;
  return out;
}

std::vector<FoundPlace> find_in_job(const std::vector<BuildLine>& sheet, const std::vector<LedgerLine>& ledger,
                                    const std::string& text, const Audience& audience, std::size_t most) {
  const auto words = words_of(text);
  if (words.empty()) return {};
  std::string whole;
  for (const std::string& w : words) whole += (whole.empty() ? "" : " ") + w;
  std::map<std::string, Words> titles;  // of sections
  for (const BuildLine& l : sheet) titles.try_emplace(l.section, l.title);
  std::vector<std::pair<int, FoundPlace>> found;
  const auto look = [&](const std::string& in, const std::string& title, FoundPlace finding) {
    const std::string all = lower(in);
    if (!std::all_of(words.begin(), words.end(),
                     [&](const std::string& w) { return all.find(w) != std::string::npos; }))
      return;
    const std::string name = lower(title);
    const int rank = name == whole                                   ? 0
                     : name.starts_with(words.front())               ? 1
                     : name.find(words.front()) != std::string::npos ? 2
                                                                     : 3;
    found.emplace_back(rank, std::move(finding));
  };
  for (const BuildLine& l : sheet) {
    if (l.state == LineState::heading) continue;
    const Words& place = titles[l.section];
    look(l.title.in(audience) + " " + place.in(audience) + " " + l.id, l.title.in(audience),
         {l.id, {}, l.title, place, {}});
  }
  for (const LedgerLine& n : ledger) {
    const std::string at = line_for_key(sheet, n.key);
    const auto line = std::find_if(sheet.begin(), sheet.end(), [&](const BuildLine& l) { return l.id == at; });
    if (line == sheet.end()) continue;
    const Words place = worded("{}, {}", titles[line->section], line->title);
    look(n.label.in(audience) + " " + place.in(audience) + " " + n.key, n.label.in(audience),
         {line->id, n.key, n.label, place, ledger_text(n, audience)});
  }
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  std::vector<FoundPlace> out;
  for (auto& [rank, f] : found)
    if (out.size() < most) out.push_back(std::move(f));
  return out;
}

}  // namespace wren
